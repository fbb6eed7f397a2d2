#include "core/plant/faults.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/plant/kind.hpp"
#include "core/plant/text_faults.hpp"

namespace vyard::plant {

namespace {

/// What an analog signal shows with an open wire: no current or voltage; with a short: 22.4 mA, or a supply of 11.5 V.
/// One whose signal is not told goes as 4-20 mA does.
constexpr double kShort_mA = 22.4, kShort_V = 11.5;

double at_signal(const PointModel& point, double signal, const ElectricalRange& range) {
    return point.low + (signal - range.low) / (range.high - range.low) * (point.high - point.low);
}

}  // namespace

double shown_with_open_wire(const PointModel& point) {
    const ElectricalRange range = electrical_range(point.wire_signal).value_or(ElectricalRange{});
    return point.type == PointType::Boolean ? 0.0 : at_signal(point, 0.0, range);
}

void advance_clock(FaultClock& clock, bool signal, double dt_s, PlantState& state) {
    const FaultTiming& timing = clock.timing;
    if (timing.every > 0) {
        if (signal && !clock.last) clock.active = ++clock.count % timing.every == 0;
        if (!signal) clock.active = false;
        clock.last = signal;
    } else if (timing.length_s > 0.0) {
        clock.left_s -= dt_s;
        if (clock.active && clock.left_s <= 1e-9) {
            clock.active = false;
            clock.over = timing.mean_s <= 0.0;
        } else if (!clock.active && timing.mean_s > 0.0 && state.random.share() < dt_s / timing.mean_s) {
            clock.active = true;
            clock.left_s = timing.length_s;
        }
    }
}

namespace {

FaultClock start(const FaultTiming& timing) {
    FaultClock clock;
    clock.timing = timing;
    clock.left_s = timing.length_s;
    clock.active = timing.every == 0 && timing.mean_s <= 0.0;
    return clock;
}

double shown_with_short(const PointModel& point) {
    const ElectricalRange range = electrical_range(point.wire_signal).value_or(ElectricalRange{});
    return point.type == PointType::Boolean ? 1.0 : at_signal(point, range.current ? kShort_mA : kShort_V, range);
}

double shown(PointFault& f, const PointModel& point, double raw, double dt_s, PlantState& state) {
    switch (f.defect) {
        case Defect::Stuck: return f.amount;
        case Defect::OpenWire: return shown_with_open_wire(point);
        case Defect::Short: return shown_with_short(point);
        case Defect::Chatter:
            f.phase += dt_s;
            if (f.phase >= f.amount - 1e-9) {
                f.phase = 0.0;
                f.flipped = !f.flipped;
            }
            return f.flipped ? (raw != 0.0 ? 0.0 : 1.0) : raw;
        case Defect::Delay: {
            if (dt_s == 0.0) return f.history[f.oldest];
            const double late = f.history[f.oldest];
            f.history[f.oldest] = raw;
            f.oldest = (f.oldest + 1) % f.history.size();
            return late;
        }
        case Defect::Noise: return raw + f.amount * (2.0 * state.random.share() - 1.0);
        case Defect::Drift: f.phase += f.amount * dt_s; return raw + f.phase;
        case Defect::Offset: return raw + f.amount;
        case Defect::Gain: return raw * f.amount;
        case Defect::ByHand: return f.amount;
    }
    return raw;
}

/// Makes what a faulted wire shows from what was put on it.
void show(const PlantModel& model, PlantState& state, FaultedPoint& p, double dt_s) {
    if (p.text != kNone) return show_text(state, p, dt_s);
    const PointModel& point = base::at(model.points, p.point);
    double value = p.put;
    for (PointFault& f : p.faults) {
        advance_clock(f.clock, p.put != 0.0, dt_s, state);
        if (f.clock.active) value = shown(f, point, value, dt_s, state);
    }
    base::at(state.wires, p.point) = point.type == PointType::Number ? std::nearbyint(value) : value;
}

/// The wire is whole again.
void restore(PlantState& state, const FaultedPoint& p) {
    double& wire = base::at(state.wires, p.point);
    if (p.text == kNone) {
        wire = p.put;
        return;
    }
    TextWire& text = base::at(state.texts, p.text);
    text.defective = false;
    if (text.shown == text.put) return;
    text.shown = text.put;
    wire += 1.0;
}

PointDirection direction(const PlantModel& model, const FaultedPoint& p) {
    return base::at(model.points, p.point).direction;
}

std::string timing_text(const FaultTiming& t) {
    std::string out;
    if (t.every > 0) out += fmt::format(" every {}", t.every);
    if (t.mean_s > 0.0) out += fmt::format(" at random every {:g} s", t.mean_s);
    if (t.length_s > 0.0) out += fmt::format(" for {:g} s", t.length_s);
    return out;
}

std::string point_fault_text(const PointModel& p, const PointFault& f) {
    const DefectSpec& spec = base::at(defects(), f.defect);
    if (f.defect == Defect::Stuck && p.type == PointType::Text)
        return fmt::format("{} stuck, shows '{}'", p.name, f.text.view());
    if (f.defect == Defect::Stuck && p.type == PointType::Boolean)
        return fmt::format("{} stuck {}", p.name, f.amount != 0.0 ? "on" : "off");
    if (f.defect == Defect::Stuck) return fmt::format("{} stuck at {:g}", p.name, f.amount);
    const bool of_text = p.type == PointType::Text && !spec.of_time;
    if (!spec.takes_amount || of_text) return fmt::format("{} {}", p.name, spec.name);
    const char* unit = spec.of_time ? " s" : "";
    return fmt::format("{} {} {:g}{}", p.name, spec.name, f.amount, unit);
}

}  // namespace

const std::vector<DefectSpec>& defects() {
    static const std::vector<DefectSpec> all = {
        {Defect::Stuck, "stuck", true, false, true, 0.0, "shows one value: stuck on, stuck off, stuck at VALUE",
         "stays at the one it shows"},
        {Defect::OpenWire, "open_wire", false, false, true, 0.0,
         "FALSE; an analog one goes a quarter of its range under it, as 4-20 mA at 0 mA", "is empty"},
        {Defect::Short, "short", false, false, true, 0.0, "TRUE; an analog one goes 15 % over its range", nullptr},
        {Defect::Chatter, "chatter", true, true, true, 0.05, "flips each time the amount has passed", nullptr},
        {Defect::Delay, "delay", true, true, true, 0.2, "comes late by the amount", "comes late by the amount"},
        {Defect::Noise, "noise", true, false, false, 0.01, "wanders by up to the amount on both sides",
         "has one character wrong"},
        {Defect::Drift, "drift", true, false, false, 0.001, "goes off by the amount in a second", nullptr},
        {Defect::Offset, "offset", true, false, false, 0.1, "is off by the amount", nullptr},
        {Defect::Gain, "gain", true, false, false, 1.1, "is multiplied by the amount, a plain number", nullptr},
    };
    return all;
}

const DefectSpec* find_defect(std::string_view name) {
    for (const DefectSpec& d : defects()) {
        if (name == d.name) return &d;
    }
    return nullptr;
}

void advance_faults(const PlantModel& model, PlantState& state, double dt_s) {
    for (FaultedPoint& p : state.faulted_points) {
        if (direction(model, p) == PointDirection::Output) show(model, state, p, dt_s);
        std::erase_if(p.faults, [](const PointFault& f) { return f.clock.over; });
    }
    std::erase_if(state.faulted_points, [&](const FaultedPoint& p) {
        if (p.faults.empty()) restore(state, p);
        return p.faults.empty();
    });
    for (DeviceFault& f : state.device_faults) {
        const bool was = f.clock.active;
        advance_clock(f.clock, false, dt_s, state);
        if (f.clock.active == was) continue;
        const DeviceModel& d = base::at(model.devices, f.device);
        base::at(d.kind->faults, f.fault).set(state.devices.data() + d.state_offset, f.clock.active ? f.amount : 0.0);
    }
    std::erase_if(state.device_faults, [](const DeviceFault& f) { return f.clock.over; });
}

void fault_inputs(const PlantModel& model, PlantState& state) {
    for (FaultedPoint& p : state.faulted_points) {
        if (direction(model, p) == PointDirection::Input) show(model, state, p, model.step_s);
    }
}

void fault_outputs(const PlantModel& model, PlantState& state) {
    for (FaultedPoint& p : state.faulted_points) {
        if (direction(model, p) == PointDirection::Output) show(model, state, p, 0.0);
    }
}

void set_fault(const PlantModel& model, PlantState& state, int device, const FaultSpec& fault, double amount,
               const FaultTiming& timing) {
    const DeviceModel& d = base::at(model.devices, device);
    const auto number = static_cast<std::int32_t>(&fault - d.kind->faults.data());
    std::erase_if(state.device_faults, [&](const DeviceFault& f) { return f.device == device && f.fault == number; });
    const FaultClock clock = start(timing);
    fault.set(state.devices.data() + d.state_offset, clock.active ? amount : 0.0);
    if (timing.length_s > 0.0) state.device_faults.push_back({device, number, amount, clock});
}

void set_point_fault(const PlantModel& model, PlantState& state, int point, Defect defect, double amount,
                     const FaultTiming& timing) {
    if (state.defects_of(point) == nullptr) {
        const int text = base::at(model.points, point).text;
        state.faulted_points.push_back({point, text, state.shown(point), {}, {}});
        if (text != kNone) {
            TextWire& wire = base::at(state.texts, text);
            wire.defective = true;
            state.faulted_points.back().last_text = wire.put;
        }
    }
    FaultedPoint& p = *state.defects_of(point);
    std::erase_if(p.faults, [&](const PointFault& f) { return f.defect == defect; });
    PointFault f;
    f.defect = defect;
    f.amount = amount;
    f.clock = start(timing);
    f.clock.last = p.text != kNone ? base::at(state.texts, p.text).put.length > 0 : p.put != 0.0;  // no rise
    const double steps_late = std::max(1.0, std::nearbyint(amount / model.step_s));
    if (p.text != kNone)
        start_text_fault(f, base::at(state.texts, p.text), static_cast<int>(steps_late));
    else if (defect == Defect::Delay)
        f.history.assign(static_cast<std::size_t>(steps_late), p.put);
    // A hand on the device has the last word.
    const auto last = std::find_if(p.faults.begin(), p.faults.end(),
                                   [](const PointFault& other) { return other.defect == Defect::ByHand; });
    p.faults.insert(defect == Defect::ByHand ? p.faults.end() : last, std::move(f));
    show(model, state, p, 0.0);
}

namespace {

/// Takes off what `gone` says; a wire with nothing left is whole again.
template <class F>
bool take_off(const PlantModel& model, PlantState& state, int point, F gone) {
    FaultedPoint* p = state.defects_of(point);
    if (p == nullptr || std::erase_if(p->faults, gone) == 0) return false;
    if (!p->faults.empty()) {
        show(model, state, *p, 0.0);
        return true;
    }
    restore(state, *p);
    std::erase_if(state.faulted_points, [&](const FaultedPoint& other) { return other.point == point; });
    return true;
}

bool by_hand(const PointFault& f) {
    return f.defect == Defect::ByHand;
}

}  // namespace

void heal_point(const PlantModel& model, PlantState& state, int point) {
    take_off(model, state, point, [](const PointFault& f) { return !by_hand(f); });
}

bool let_go_point(const PlantModel& model, PlantState& state, int point) {
    return take_off(model, state, point, by_hand);
}

std::vector<std::pair<int, double>> hands_on_points(const PlantState& state) {
    std::vector<std::pair<int, double>> out;
    for (const FaultedPoint& p : state.faulted_points) {
        for (const PointFault& f : p.faults) {
            if (by_hand(f)) out.emplace_back(p.point, f.amount);
        }
    }
    return out;
}

void heal_device(const PlantModel& model, PlantState& state, int device) {
    const DeviceModel& d = base::at(model.devices, device);
    for (const FaultSpec& f : d.kind->faults) f.set(state.devices.data() + d.state_offset, 0.0);
    std::erase_if(state.device_faults, [&](const DeviceFault& f) { return f.device == device; });
    for (const int p : d.points) {
        if (p != kNone) heal_point(model, state, p);
    }
}

void heal_all(const PlantModel& model, PlantState& state) {
    for (std::size_t d = 0; d < model.devices.size(); ++d) heal_device(model, state, static_cast<int>(d));
}

std::vector<std::string> active_faults(const PlantModel& model, const PlantState& state) {
    std::vector<std::string> out;
    for (const FaultedPoint& p : state.faulted_points) {
        for (const PointFault& f : p.faults) {
            if (by_hand(f)) continue;
            out.push_back(point_fault_text(base::at(model.points, p.point), f) + timing_text(f.clock.timing));
        }
    }
    for (std::size_t d = 0; d < model.devices.size(); ++d) {
        const DeviceModel& device = model.devices[d];
        for (std::size_t n = 0; n < device.kind->faults.size(); ++n) {
            const FaultSpec& f = device.kind->faults[n];
            const auto timed = std::find_if(state.device_faults.begin(), state.device_faults.end(), [&](const auto& t) {
                return t.device == static_cast<int>(d) && t.fault == static_cast<int>(n);
            });
            const bool planned = timed != state.device_faults.end();
            const double amount = planned ? timed->amount : f.read(state.devices.data() + device.state_offset);
            if (amount == 0.0) continue;
            const std::string size =
                f.takes_amount ? fmt::format(" {}", base::quantity_text(amount, f.dimension)) : std::string();
            const std::string when = planned ? timing_text(timed->clock.timing) : std::string();
            out.push_back(fmt::format("{} {}{}{}", device.name, f.name, size, when));
        }
    }
    return out;
}

}  // namespace vyard::plant
