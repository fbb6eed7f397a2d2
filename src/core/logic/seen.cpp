#include "core/logic/seen.hpp"

#include <algorithm>

#include "core/logic/check/model.hpp"
#include "core/logic/inspector.hpp"
#include "core/logic/value.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

/// A unit and where its instance lies.
struct Instance {
    const Layout* layout = nullptr;
    Bases bases;
};

/// Calls with the path and place of every program and every instance of a block within.
template <class Visit>
void each_unit(const Program& program, const Visit& visit) {
    const CheckedLogic& logic = *program.checked;
    const auto within = [&](const std::string& path, const Instance& place, int depth, auto&& again) -> void {
        if (place.layout->unit == nullptr || depth > 8) return;
        visit(path, place);
        for (const Field& f : place.layout->fields) {
            if (!f.type.is(E::Block) || f.binding.space != Space::Instance || f.section == Section::InOut) continue;
            Instance inner{&logic.block(f.type.index), place.bases};
            inner.bases.instance += f.binding.offset;
            again(path + "." + f.name, inner, depth + 1, again);
        }
    };
    for (const ProgramPlace& p : program.programs) {
        Instance place{&logic.block(p.block), bases_of(program)};
        place.bases.instance = p.offset;
        within(p.name, place, 0, within);
    }
}

template <class Visit>
void each_drawing(const StatementList& list, const Visit& visit) {
    for (const Statement& s : list) {
        if (s.kind == StatementKind::Drawn) visit(s);
        if (s.kind == StatementKind::Drawn) continue;
        for (const Branch& b : s.branches) each_drawing(b.body, visit);
    }
}

class Look {
  public:
    Look(const Program& program, std::vector<std::byte> memory, std::int64_t now_ns, const Instance& place)
        : program_(program), place_(place), inspector_(program, std::move(memory), now_ns) {}

    SeenDrawing drawing(const Statement& s) {
        SeenDrawing out;
        out.drawing = s.drawing.get();
        out.source = place_.layout->unit->source;
        for (const Network& n : s.drawing->networks) {
            SeenNetwork seen;
            seen.network = &n;
            seen.form = s.drawing->form;
            seen.nets.assign(n.nets.size(), Power::Unknown);
            seen.contacts.assign(n.elements.size(), Power::Unknown);
            out.networks.push_back(std::move(seen));
        }
        for (const Probe& p : s.probes) probe(p, base::at(out.networks, p.network));
        for (SeenNetwork& n : out.networks) flow(n);
        return out;
    }

  private:
    std::string text(const Expression& e, const Value& v) const {
        if (!program_.checked->is_enumeration(e.type)) return value_text(v);
        for (const EnumConstant& c : program_.checked->type(e.type).values) {
            if (c.value == signed_of(v)) return c.name;
        }
        return value_text(v);
    }

    void probe(const Probe& p, SeenNetwork& n) {
        const auto now = inspector_.value(*p.value, place_.bases);
        const DrawnElement& e = base::at(n.network->elements, p.element);
        if (!now) return;
        if (now->type == E::Bool) base::at(n.contacts, p.element) = now->bits != 0 ? Power::On : Power::Off;
        const bool literal = e.kind == ElementKind::Source && p.value->kind == ExpressionKind::Literal;
        if (!literal && (e.kind != ElementKind::Contact || e.contact == ContactKind::Compare))
            n.values[{p.element, p.pin}] = text(*p.value, *now);
        if (e.kind == ElementKind::Contact || e.kind == ElementKind::Coil || e.kind == ElementKind::Target) return;
        const int net = base::at(e.pins, p.pin).net;
        if (net >= 0 && now->type == E::Bool) base::at(n.nets, net) = now->bits != 0 ? Power::On : Power::Off;
    }

    /// Power through contacts and coils, from the left; each pass takes it one element further.
    void flow(SeenNetwork& n) const {
        const std::vector<DrawnElement>& elements = n.network->elements;
        for (std::size_t i = 0; i < n.nets.size(); ++i) {
            if (n.network->nets[i].power) n.nets[i] = Power::On;
        }
        for (bool changed = true; changed;) {
            changed = false;
            for (std::size_t i = 0; i < n.nets.size(); ++i) {
                const DrawnNet& net = n.network->nets[i];
                if (n.nets[i] != Power::Unknown || net.from.empty()) continue;
                bool on = false, known = true;
                for (const NetEnd& from : net.from) {
                    const DrawnElement& e = base::at(elements, from.element);
                    const Power given = through(n, e, from.element);
                    on = on || given == Power::On;
                    known = known && given != Power::Unknown;
                }
                if (!on && !known) continue;
                n.nets[i] = on ? Power::On : Power::Off;
                changed = true;
            }
        }
    }

    static Power through(const SeenNetwork& n, const DrawnElement& e, int number) {
        if (e.kind == ElementKind::Enter) {
            for (const DrawnElement& other : n.network->elements) {
                if (other.kind == ElementKind::Leave && base::fold(other.name.text) == base::fold(e.name.text))
                    return base::at(n.nets, other.pins[0].net);
            }
        }
        if (e.kind != ElementKind::Contact && e.kind != ElementKind::Coil) return Power::Unknown;
        const Power left = base::at(n.nets, e.pins[0].net);
        if (e.kind == ElementKind::Coil || left != Power::On) return left;
        return base::at(n.contacts, number);
    }

    const Program& program_;
    Instance place_;
    Inspector inspector_;
};

}  // namespace

std::optional<std::vector<SeenDrawing>> seen(const Program& program, const std::vector<std::byte>& memory,
                                             std::int64_t now_ns, const std::string& path) {
    std::optional<std::vector<SeenDrawing>> out;
    if (program.checked == nullptr) return out;
    each_unit(program, [&](const std::string& here, const Instance& place) {
        if (out || base::fold(here) != base::fold(path)) return;
        out.emplace();
        Look look(program, memory, now_ns, place);
        each_drawing(place.layout->unit->body, [&](const Statement& s) { out->push_back(look.drawing(s)); });
    });
    return out;
}

std::vector<std::string> drawn_units(const Program& program) {
    std::vector<std::string> out;
    if (program.checked == nullptr) return out;
    each_unit(program, [&](const std::string& path, const Instance& place) {
        bool drawn = false;
        each_drawing(place.layout->unit->body, [&](const Statement&) { drawn = true; });
        if (drawn) out.push_back(path);
    });
    return out;
}

}  // namespace vyard::logic
