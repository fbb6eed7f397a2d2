#include "core/logic/check/checker.hpp"
#include "core/logic/analysis/doubts.hpp"

#include <fmt/format.h>

#include <map>

#include "core/logic/check/address_checker.hpp"
#include "core/logic/check/call_graph.hpp"
#include "core/logic/check/chart_lowering.hpp"
#include "core/logic/check/declaration_checker.hpp"
#include "core/logic/check/drawing_lowering.hpp"
#include "core/logic/check/statement_checker.hpp"
#include "core/logic/check/writer_checker.hpp"
#include "core/logic/text/tree_makers.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

namespace {

/// VAR_INPUT x : BOOL R_EDGE: the body sees TRUE for one call after the input rises.
void add_edge_detectors(ProgramUnit& unit) {
    std::vector<Declaration> detectors;
    StatementList first;
    for (const Declaration& d : unit.declarations) {
        if (d.edge == Edge::None || unit.kind != UnitKind::FunctionBlock) continue;
        const char* type = d.edge == Edge::Rising ? "R_TRIG" : "F_TRIG";
        Declaration detector = tree::variable(d.name + kEdgeDetector, type, d.span);
        detector.access = Access::Protected;
        detector.generated = true;
        std::vector<Argument> arguments;
        arguments.push_back(tree::argument("CLK", tree::name(d.name + kSignalItself, d.span)));
        Statement call = tree::call(tree::name(detector.name, d.span), std::move(arguments), d.span);
        first.push_back(std::move(call));
        detectors.push_back(std::move(detector));
    }
    for (Declaration& d : detectors) unit.declarations.push_back(std::move(d));
    for (Statement& s : unit.body) first.push_back(std::move(s));
    unit.body = std::move(first);
}

void warn_unused(const Layout& layout, base::Diagnostics& diagnostics) {
    const bool own = layout.kind == LayoutKind::Program || layout.kind == LayoutKind::FunctionBlock ||
                     layout.kind == LayoutKind::Function || layout.kind == LayoutKind::Method;
    if (!own || (layout.unit != nullptr && layout.unit->source->path.starts_with("library/"))) return;
    for (const Field& f : layout.fields) {
        if (f.declaration == nullptr || f.inherited || f.address || f.incomplete_address ||
            f.section == Section::Global || f.declaration->generated || f.type.is(E::None))
            continue;
        const bool interface =
            f.section == Section::Input || f.section == Section::Output || f.section == Section::InOut;
        const auto warn = [&](Code code, std::string message) {
            diagnostics.warning(code, place_in(f.source, f.declaration->span), std::move(message));
        };
        const bool plain = (f.section == Section::Local || f.section == Section::Temp) && !f.constant;
        if (!f.read && !f.written && !interface) {
            warn(Code::UnusedVariable, fmt::format("'{}' is never used", f.name));
        } else if (f.read && !f.written && plain && !f.declaration->initial && !f.type.is(E::Block)) {
            warn(Code::NeverWritten, fmt::format("'{}' is read, but nothing ever writes it", f.name));
        } else if (!f.read && f.written && plain && layout.kind != LayoutKind::Program) {
            warn(Code::NeverRead, fmt::format("'{}' is written, but nothing ever reads it", f.name));
        }
    }
}

}  // namespace

CheckedLogic check_logic(std::vector<SyntaxFile> files, base::Diagnostics& diagnostics) {
    CheckedLogic logic;
    logic.files = std::move(files);
    lower_drawings(logic.files, diagnostics);
    for (SyntaxFile& file : logic.files) {
        for (ProgramUnit& unit : file.units) {
            lower_chart(unit, diagnostics);
            add_edge_detectors(unit);
        }
    }
    Symbols symbols;
    Checking checking{logic, symbols, diagnostics, {}};
    DeclarationChecker declarations(checking);
    declarations.run();
    for (std::size_t i = 0; i < logic.blocks.size(); ++i) {
        const Layout& block = logic.blocks[i];
        if (block.unit == nullptr) continue;
        for (const Field& f : block.fields) {
            if (f.section == Section::External && !f.inherited && !f.type.is(E::None))
                UnitScope(checking, static_cast<int>(i), block.unit->context, f.source).check_external(f);
        }
        // A body that the parser could not tell apart is checked as far as it goes.
        StatementChecker(checking, static_cast<int>(i)).run(block.unit->body);
    }
    check_writers(logic, diagnostics);
    check_call_graph(logic, diagnostics);
    check_addresses(logic, diagnostics);
    if (!diagnostics.has_errors()) {
        for (const Layout& block : logic.blocks) warn_unused(block, diagnostics);
        warn_doubts(logic, diagnostics);
    }
    checking.settle = nullptr;
    return logic;
}

}  // namespace vyard::logic
