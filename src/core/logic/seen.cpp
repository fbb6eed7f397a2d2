#include "core/logic/seen.hpp"

#include <algorithm>

#include "core/logic/check/model.hpp"
#include "core/logic/inspector.hpp"
#include "core/logic/value.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

class Look {
  public:
    Look(const Program& program, std::vector<std::byte> memory, std::int64_t now_ns, const UnitPlace& place)
        : program_(program), place_(place), inspector_(program, std::move(memory), now_ns) {}

    SeenDrawing drawing(const Statement& s) {
        SeenDrawing out;
        out.drawing = s.drawing.get();
        out.source = place_.layout->unit->source;
        for (const Network& n : s.drawing->networks) {
            SeenNetwork seen;
            seen.network = &n;
            seen.form = s.drawing->form;
            seen.nets.assign(n.nets.size(), Live::Unknown);
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
        if (now->type == E::Bool && (e.kind != ElementKind::Contact || p.pin == 0))
            n.states[{p.element, p.pin}] = now->bits != 0 ? Live::On : Live::Off;
        const bool literal = p.value->kind == ExpressionKind::Literal || p.value->kind == ExpressionKind::Text;
        const bool operand = e.kind == ElementKind::Contact && p.pin >= kFirstOperand;
        if (!literal && (e.kind != ElementKind::Contact || operand))
            n.values[{p.element, p.pin}] = text(*p.value, *now);
    }

    /// Power from the left; each pass takes it one element further.
    void flow(SeenNetwork& n) const {
        for (bool changed = true; changed;) {
            changed = false;
            for (std::size_t i = 0; i < n.nets.size(); ++i) {
                if (n.nets[i] != Live::Unknown) continue;
                n.nets[i] = carried(n, n.network->nets[i]);
                changed = changed || n.nets[i] != Live::Unknown;
            }
        }
    }

    /// What a line gets from all that lead to it.
    static Live carried(const SeenNetwork& n, const DrawnNet& net) {
        if (net.power) return Live::On;
        bool known = !net.from.empty();
        for (const NetEnd& from : net.from) {
            const Live given = through(n, from);
            if (given == Live::On) return Live::On;
            known = known && given != Live::Unknown;
        }
        return known ? Live::Off : Live::Unknown;
    }

    static Live through(const SeenNetwork& n, const NetEnd& from) {
        const DrawnElement& e = base::at(n.network->elements, from.element);
        const auto left = [&] { return base::at(n.nets, e.pins[0].net); };
        switch (e.kind) {
            case ElementKind::Coil: return left();
            case ElementKind::Contact: return left() == Live::On ? n.state(from.element) : left();
            case ElementKind::Enter: {
                const int net = net_that_leaves(*n.network, e.name.text);
                return net < 0 ? Live::Unknown : base::at(n.nets, net);
            }
            default: return n.state(from.element, from.pin);
        }
    }

    const Program& program_;
    UnitPlace place_;
    Inspector inspector_;
};

}  // namespace

std::optional<std::vector<SeenDrawing>> seen(const Program& program, const std::vector<std::byte>& memory,
                                             std::int64_t now_ns, const std::string& path) {
    for (const UnitPlace& place : unit_places(program)) {
        if (base::fold(place.path) != base::fold(path)) continue;
        std::vector<SeenDrawing> out;
        Look look(program, memory, now_ns, place);
        each_drawing(place.layout->unit->body, [&](const Statement& s) { out.push_back(look.drawing(s)); });
        return out;
    }
    return std::nullopt;
}

std::vector<std::string> drawn_units(const Program& program) {
    std::vector<std::string> out;
    for (const UnitPlace& place : unit_places(program)) {
        bool drawn = false;
        each_drawing(place.layout->unit->body, [&](const Statement&) { drawn = true; });
        if (drawn) out.push_back(place.path);
    }
    return out;
}

}  // namespace vyard::logic
