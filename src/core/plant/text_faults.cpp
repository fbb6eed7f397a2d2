#include "core/plant/text_faults.hpp"

#include "core/plant/state.hpp"

namespace vyard::plant {

namespace {

/// One character comes wrong, the one at `share` of the length; of several bytes all of it.
WireText garbled(const WireText& text, double share) {
    const std::string_view from = text.view();
    if (from.empty()) return text;
    const auto goes_on = [&](std::size_t i) { return i < from.size() && (from[i] & 0xC0) == 0x80; };
    auto begin = std::min(static_cast<std::size_t>(share * static_cast<double>(from.size())), from.size() - 1);
    while (begin > 0 && goes_on(begin)) --begin;
    std::size_t end = begin + 1;
    while (goes_on(end)) ++end;
    std::string out(from.substr(0, begin));
    out.push_back(from[begin] == '?' ? '#' : '?');
    out.append(from.substr(end));
    WireText wrong;
    wrong.set(out);
    return wrong;
}

WireText shown(PointFault& f, const WireText& raw, double dt_s) {
    switch (f.defect) {
        case Defect::Stuck: return f.text;
        case Defect::OpenWire: return {};
        case Defect::Noise: return garbled(raw, f.phase);
        case Defect::Delay: {
            const WireText late = f.late[f.oldest];
            if (dt_s == 0.0) return late;
            f.late[f.oldest] = raw;
            f.oldest = (f.oldest + 1) % f.late.size();
            return late;
        }
        default: return raw;  // no order puts the others on a text
    }
}

}  // namespace

void start_text_fault(PointFault& fault, const TextWire& wire, int steps_late) {
    fault.text = wire.shown;
    if (fault.defect == Defect::Delay) fault.late.assign(static_cast<std::size_t>(steps_late), wire.put);
}

void show_text(PlantState& state, FaultedPoint& point, double dt_s) {
    TextWire& wire = base::at(state.texts, point.text);
    const bool fresh = !(wire.put == point.last_text);
    point.last_text = wire.put;
    WireText text = wire.put;
    for (PointFault& f : point.faults) {
        if (fresh) {
            f.clock.last = false;
            f.phase = f.defect == Defect::Noise ? state.random.share() : 0.0;
        }
        advance_clock(f.clock, wire.put.length > 0, dt_s, state);
        if (f.clock.active)
            text = shown(f, text, dt_s);
        else
            f.text = text;
    }
    if (text == wire.shown) return;
    wire.shown = text;
    base::at(state.wires, point.point) += 1.0;
}

}  // namespace vyard::plant
