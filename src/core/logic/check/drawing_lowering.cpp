#include "core/logic/check/drawing_lowering.hpp"

#include <fmt/format.h>

#include "core/logic/check/network_lowering.hpp"
#include "core/logic/drawn/network_reader.hpp"
#include "core/logic/library/standard_blocks.hpp"

namespace vyard::logic {

using base::Code;

namespace {

BoxTypes box_types(const std::vector<SyntaxFile>& files) {
    BoxTypes out;
    for (const StandardBlock& block : standard_blocks()) out.blocks.insert(base::fold(block.name));
    for (const SyntaxFile& file : files) {
        for (const ProgramUnit& unit : file.units) {
            if (unit.kind == UnitKind::FunctionBlock) out.blocks.insert(base::fold(unit.name));
            if (unit.kind == UnitKind::Function) out.functions.emplace(base::fold(unit.name), &unit);
        }
    }
    return out;
}

class UnitLowering {
  public:
    UnitLowering(ProgramUnit& unit, const BoxTypes& types, base::Diagnostics& diagnostics)
        : place_{unit, types, diagnostics} {}

    void run() {
        statements(place_.unit.body);
        for (ChartAction& a : place_.unit.chart.actions) statements(a.body);
        for (ChartTransition& t : place_.unit.chart.transitions) statements(t.body);
    }

  private:
    void statements(StatementList& list) {
        for (Statement& s : list) {
            for (Branch& b : s.branches) statements(b.body);
            if (s.kind == StatementKind::Drawn) drawing(s);
        }
    }

    void drawing(Statement& s) {
        Drawing& d = *s.drawing;
        read_drawing(d, place_.unit.source, place_.diagnostics);
        check_labels(d);
        Branch body;
        const auto label = [&](const DrawnText& text) {
            if (text.empty()) return;
            Statement here;
            here.kind = StatementKind::Label;
            here.span = text.span;
            here.name = text.text;
            body.body.push_back(std::move(here));
        };
        for (Network& n : d.networks) {
            label(n.label);
            n.number = ++networks_;
            NetworkLowering lowering(place_, d.form, n);
            for (Statement& made : lowering.run()) {
                made.network = n.number;
                body.body.push_back(std::move(made));
            }
            for (Probe& probe : lowering.probes()) {
                probe.network = static_cast<int>(&n - d.networks.data());
                s.probes.push_back(std::move(probe));
            }
        }
        for (const DrawnText& text : d.labels_behind) label(text);
        s.branches.push_back(std::move(body));
    }

    void check_labels(const Drawing& d) {
        std::vector<std::string> known;
        std::set<std::string> names;
        const auto declare = [&](const DrawnText& label) {
            if (label.empty()) return;
            known.push_back(label.text);
            if (!names.insert(base::fold(label.text)).second)
                place_.error(label.span, Code::DuplicateName, fmt::format("the label '{}' stands twice", label.text));
        };
        for (const Network& n : d.networks) declare(n.label);
        for (const DrawnText& label : d.labels_behind) declare(label);
        for (const Network& n : d.networks) {
            for (const DrawnElement& e : n.elements) {
                if (e.kind != ElementKind::Jump || names.contains(base::fold(e.name.text))) continue;
                place_.error(e.name.span, Code::UnknownName,
                             fmt::format("no network of this drawing has the label '{}'", e.name.text),
                             known.empty() ? "a label stands alone above its network: NAME:"
                                           : base::name_hint(e.name.text, known));
            }
        }
    }

    LoweringPlace place_;
    int networks_ = 0;
};

void lower_unit(ProgramUnit& unit, const BoxTypes& types, base::Diagnostics& diagnostics) {
    UnitLowering(unit, types, diagnostics).run();
    for (ProgramUnit& method : unit.methods) lower_unit(method, types, diagnostics);
}

}  // namespace

void lower_drawings(std::vector<SyntaxFile>& files, base::Diagnostics& diagnostics) {
    const BoxTypes types = box_types(files);
    for (SyntaxFile& file : files) {
        for (ProgramUnit& unit : file.units) lower_unit(unit, types, diagnostics);
    }
}

}  // namespace vyard::logic
