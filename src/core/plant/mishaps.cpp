#include "core/plant/mishaps.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/plant/kind.hpp"

namespace vyard::plant {

namespace {

Mishap& row_of(const PlantModel& model, PlantState& state, int device, int number, int cause, const Item* item) {
    const auto found = std::find_if(state.mishaps.begin(), state.mishaps.end(),
                                    [&](const Mishap& m) { return m.device == device && m.number == number; });
    Mishap& row = found != state.mishaps.end() ? *found : state.mishaps.emplace_back();
    if (row.times == 0) {
        row = {device,           number, cause, item == nullptr ? 0 : item->id, item == nullptr ? -1 : item->type,
               state.step_number};
    }
    row.last_step = state.step_number;
    ++row.times;
    if (allowance(model, device, number) == nullptr) ++state.mishaps_counted;
    return row;
}

/// A value outside of a range by more than rounding.
bool beyond(double value, double low, double high) {
    const double slack = 1e-6 * (high - low);
    return value < low - slack || value > high + slack;
}

/// What was put on an input's wire, its defects aside.
double put_on(PlantState& state, int point) {
    if (!state.faulted_points.empty()) {
        if (const FaultedPoint* faulted = state.defects_of(point)) return faulted->put;
    }
    return state.shown(point);
}

}  // namespace

void change_mishap(const PlantModel& model, PlantState& state, int device, int number, bool on, int cause,
                   const Item* item) {
    std::uint32_t& now = base::at(state.going_wrong, device);
    const std::uint32_t bit = 1U << static_cast<unsigned>(number);
    if (((now & bit) != 0) == on) return;
    now ^= bit;
    if (on) {
        row_of(model, state, device, number, cause, item).goes_on = true;
        return;
    }
    const auto row = std::find_if(state.mishaps.begin(), state.mishaps.end(),
                                  [&](const Mishap& m) { return m.device == device && m.number == number; });
    VYARD_CHECK(row != state.mishaps.end());
    row->ended_steps += state.step_number - row->last_step;
    row->goes_on = false;
}

void count_mishap(const PlantModel& model, PlantState& state, int device, int number, int cause, const Item* item) {
    row_of(model, state, device, number, cause, item);
}

void watch_ranges(const PlantModel& model, PlantState& state) {
    for (const RangedPoint& r : model.ranged) {
        const double value = r.input ? put_on(state, r.point) : state.shown(r.point);
        const bool now = beyond(value, r.low, r.high);
        std::uint8_t& was = base::at(state.beyond_range, r.number);
        if (now == (was != 0)) continue;
        was = now ? 1 : 0;
        // A device has one mishap for all its points of a direction.
        const bool any =
            now || std::any_of(model.ranged.begin(), model.ranged.end(), [&](const RangedPoint& o) {
                return o.device == r.device && o.input == r.input && base::at(state.beyond_range, o.number) != 0;
            });
        change_mishap(model, state, r.device, r.mishap, any);
    }
}

int find_mishap(const Kind& kind, std::string_view name) {
    const std::string wanted = base::fold(name);
    const auto found = std::find_if(kind.mishaps.begin(), kind.mishaps.end(),
                                    [&](const MishapSpec& m) { return base::fold(m.name) == wanted; });
    return found == kind.mishaps.end() ? kNone : static_cast<int>(found - kind.mishaps.begin());
}

const AllowedMishap* allowance(const PlantModel& model, int device, int number) {
    const auto found = std::find_if(model.allowed.begin(), model.allowed.end(),
                                    [&](const AllowedMishap& a) { return a.device == device && a.number == number; });
    return found == model.allowed.end() ? nullptr : &*found;
}

const Mishap* mishap_of(const PlantState& state, int device, int number) {
    const auto found = std::find_if(state.mishaps.begin(), state.mishaps.end(),
                                    [&](const Mishap& m) { return m.device == device && m.number == number; });
    return found == state.mishaps.end() ? nullptr : &*found;
}

std::string mishap_name(const PlantModel& model, const Mishap& mishap) {
    const DeviceModel& device = model.device(mishap.device);
    return fmt::format("{}.{}", device.name, base::at(device.kind->mishaps, mishap.number).name);
}

std::string mishap_text(const PlantModel& model, const Mishap& mishap) {
    const DeviceModel& device = model.device(mishap.device);
    std::string out = base::at(device.kind->mishaps, mishap.number).help;
    if (mishap.item != 0)
        out = fmt::format("{}: {} {}", out, base::at(model.item_types, mishap.item_type).name, mishap.item);
    if (mishap.cause != kNone) out = fmt::format("{}; by '{}'", out, model.device(mishap.cause).name);
    return out;
}

double mishap_seconds(const PlantModel& model, const PlantState& state, const Mishap& mishap) {
    const std::uint32_t now = mishap.goes_on ? state.step_number - mishap.last_step : 0;
    return (mishap.ended_steps + now) * model.step_s;
}

void add_shared_mishaps(Kind& kind) {
    const auto add = [&](int& number, const char* name, const char* help) {
        number = static_cast<int>(kind.mishaps.size());
        kind.mishaps.push_back({name, help});
    };
    if (kind.carries) add(kind.item_fell, "item_fell", "an item fell off it to the floor");
    if (kind.pushes) add(kind.item_squeezed, "item_squeezed", "it pushes an item that cannot give way");
    const bool takes =
        std::any_of(kind.points.begin(), kind.points.end(), [](const PointSpec& p) { return !!p.takes; });
    const bool spans = std::any_of(kind.points.begin(), kind.points.end(),
                                   [](const PointSpec& p) { return p.direction == PointDirection::Input && p.range; });
    if (takes) add(kind.cut_off, "cut_off", "a value from the controller is beyond what it takes, and is cut off");
    if (spans) add(kind.beyond_range, "beyond_range", "what it measures is beyond the range of its signal");
    VYARD_CHECK(kind.mishaps.size() <= static_cast<std::size_t>(kMostMishaps));
}

}  // namespace vyard::plant
