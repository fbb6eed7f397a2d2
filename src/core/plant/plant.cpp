#include "core/plant/plant.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>

#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

bool same_name(std::string_view a, std::string_view b) {
    return a.size() == b.size() && base::fold(a) == base::fold(b);
}

template <class List, class Name>
int find_named(const List& list, std::string_view wanted, Name name) {
    for (std::size_t i = 0; i < list.size(); ++i) {
        if (same_name(name(list[i]), wanted)) return static_cast<int>(i);
    }
    return kNone;
}

bool faulty(const PlantState& state) {
    return !state.faulted_points.empty() || !state.device_faults.empty();
}

void do_all(const std::vector<StepCall>& calls, Step& view) {
    // What no call moves is looked up once.
    const DeviceModel* const devices = view.model.devices.data();
    const std::byte* const parameters = view.model.parameters.data();
    std::byte* const states = view.state.devices.data();
    for (const StepCall& call : calls) {
        view.index = call.device;
        view.device = devices + call.device;
        call.act(parameters + call.model_offset, states + call.state_offset, view);
    }
}

/// The lists of neighbours, when they may be out of date.
void look_around(const PlantModel& model, PlantState& state) {
    remove_gone(state);
    state.near.refresh(model, state);
}

}  // namespace

int PlantModel::find_device(std::string_view name) const {
    return find_named(devices, name, [](const DeviceModel& d) -> const std::string& { return d.name; });
}
int PlantModel::find_point(std::string_view name) const {
    return find_named(points, name, [](const PointModel& p) -> const std::string& { return p.name; });
}
int PlantModel::find_item_type(std::string_view name) const {
    return find_named(item_types, name, [](const ItemType& i) -> const std::string& { return i.name; });
}

const Kind* PlantModel::find_kind(std::string_view name) const {
    for (const auto& kind : own_kinds) {
        if (kind->name == name) return kind.get();
    }
    return plant::find_kind(name);
}

int PlantModel::only_point(int device) const {
    int found = kNone;
    for (const int p : base::at(devices, device).points) {
        if (p == kNone) continue;
        if (found != kNone) return kNone;
        found = p;
    }
    return found;
}

std::vector<std::string> PlantModel::device_names() const {
    std::vector<std::string> names;
    for (const DeviceModel& d : devices) names.push_back(d.name);
    return names;
}
std::vector<std::string> PlantModel::point_names() const {
    std::vector<std::string> names;
    for (const PointModel& p : points) names.push_back(p.name);
    return names;
}

const ControlSpec* Kind::find_control(std::string_view verb) const {
    const int i = find_named(controls, verb, [](const ControlSpec& c) -> const std::string& { return c.verb; });
    return i == kNone ? nullptr : &base::at(controls, i);
}
const FaultSpec* Kind::find_fault(std::string_view wanted) const {
    const int i = find_named(faults, wanted, [](const FaultSpec& f) -> const std::string& { return f.name; });
    return i == kNone ? nullptr : &base::at(faults, i);
}

std::optional<ElectricalRange> electrical_range(WireSignal signal) {
    switch (signal) {
        case WireSignal::AsTheCard: break;
        case WireSignal::Current4To20: return ElectricalRange{true, 4.0, 20.0};
        case WireSignal::Current0To20: return ElectricalRange{true, 0.0, 20.0};
        case WireSignal::Voltage0To10: return ElectricalRange{false, 0.0, 10.0};
    }
    return std::nullopt;
}

std::optional<Contact> Kind::usual_contact(int point) const {
    const PointSpec& spec = base::at(points, point);
    if (!spec.contact) return std::nullopt;
    std::vector<std::byte> usual(model_size);
    make_model(usual.data());
    return spec.contact(usual.data());
}

void step(const PlantModel& model, PlantState& state) {
    ++state.step_number;
    if (!state.near.known()) look_around(model, state);
    if (faulty(state)) advance_faults(model, state, model.step_s);
    Step view{model, state, model.step_s};
    do_all(model.actuating, view);
    advance_transport(model, state, model.step_s);
    sense(model, state);
    if (!model.ranged.empty()) watch_ranges(model, state);
}

void sense(const PlantModel& model, PlantState& state) {
    if (!state.near.known()) look_around(model, state);
    Step view{model, state, model.step_s};
    do_all(model.sensing, view);
    if (!state.faulted_points.empty()) fault_inputs(model, state);
}

std::optional<Reading> find_actual(const PlantModel& model, std::string_view device, std::string_view name) {
    const int d = model.find_device(device);
    if (d == kNone) return std::nullopt;
    const auto& actuals = base::at(model.devices, d).kind->actuals;
    const int number = find_named(actuals, name, [](const ActualSpec& a) -> const std::string& { return a.name; });
    if (number == kNone) return std::nullopt;
    const ActualSpec& a = base::at(actuals, number);
    return Reading{Reading::Source::Actual, d, number, a.type, a.dimension};
}

std::optional<Reading> find_reading(const PlantModel& model, std::string_view name) {
    constexpr std::string_view kRoom = "plant.";
    const bool prefixed = name.size() > kRoom.size() && same_name(name.substr(0, kRoom.size()), kRoom);
    if (prefixed) {
        const std::string_view rest = name.substr(kRoom.size());
        if (same_name(rest, "items"))
            return Reading{Reading::Source::ItemCount, kNone, 0, PointType::Number, base::Dimension::Plain};
        if (same_name(rest, "items_on_floor"))
            return Reading{Reading::Source::FloorCount, kNone, 0, PointType::Number, base::Dimension::Plain};
        if (same_name(rest, "mishap"))
            return Reading{Reading::Source::AnyMishap, kNone, 0, PointType::Boolean, base::Dimension::Plain};
        if (same_name(rest, "mishaps"))
            return Reading{Reading::Source::MishapCount, kNone, 0, PointType::Number, base::Dimension::Plain};
    }
    int point = model.find_point(name);
    if (point == kNone) {
        const int device = model.find_device(name);
        if (device != kNone) point = model.only_point(device);
    }
    if (point != kNone) {
        const PointModel& p = base::at(model.points, point);
        return Reading{Reading::Source::Point, p.device, point, p.type, p.dimension};
    }
    const std::size_t dot = name.rfind('.');
    if (dot != std::string_view::npos) {
        if (auto actual = find_actual(model, name.substr(0, dot), name.substr(dot + 1))) return actual;
        const int device = model.find_device(name.substr(0, dot));
        const int mishap = device == kNone ? kNone : find_mishap(*model.device(device).kind, name.substr(dot + 1));
        if (mishap != kNone)
            return Reading{Reading::Source::Mishap, device, mishap, PointType::Boolean, base::Dimension::Plain};
    }
    return prefixed ? find_reading(model, name.substr(kRoom.size())) : std::nullopt;
}

double read(const PlantModel& model, const PlantState& state, const Reading& r) {
    switch (r.source) {
        case Reading::Source::Point: return state.shown(r.index);
        case Reading::Source::ItemCount: return static_cast<double>(state.items.size());
        case Reading::Source::FloorCount:
            return static_cast<double>(
                std::count_if(state.items.begin(), state.items.end(), [](const Item& i) { return i.on_floor; }));
        case Reading::Source::Mishap: return mishap_of(state, r.device, r.index) != nullptr ? 1.0 : 0.0;
        case Reading::Source::AnyMishap: return state.mishaps_counted > 0 ? 1.0 : 0.0;
        case Reading::Source::MishapCount: return state.mishaps_counted;
        case Reading::Source::Actual: break;
    }
    const DeviceModel& d = base::at(model.devices, r.device);
    return base::at(d.kind->actuals, r.index)
        .read(model.parameters.data() + d.model_offset, state.devices.data() + d.state_offset, model, state, r.device);
}

std::string_view read_text(const PlantModel& model, const PlantState& state, const Reading& r) {
    VYARD_CHECK(r.type == PointType::Text && r.source == Reading::Source::Point);
    return base::at(state.texts, base::at(model.points, r.index).text).shown.view();
}

namespace {

bool same(const Item& a, const Item& b) {
    return a.id == b.id && a.support == b.support && a.below == b.below && a.x_m == b.x_m && a.y_m == b.y_m &&
           a.z_m == b.z_m && a.heading.cos == b.heading.cos && a.heading.sin == b.heading.sin &&
           a.speed_m_s == b.speed_m_s && a.soaked_steps == b.soaked_steps && a.type == b.type && a.colour == b.colour &&
           a.on_floor == b.on_floor && a.gone == b.gone;
}

bool same(const SurfaceState& a, const SurfaceState& b) {
    return a.pose.x_m == b.pose.x_m && a.pose.y_m == b.pose.y_m && a.pose.z_m == b.pose.z_m &&
           a.pose.heading.cos == b.pose.heading.cos && a.pose.heading.sin == b.pose.heading.sin &&
           a.speed_m_s == b.speed_m_s && a.across_m_s == b.across_m_s && a.turn_rad == b.turn_rad;
}

bool same(const SolidState& a, const SolidState& b) {
    return a.present == b.present && a.offset_m == b.offset_m && a.wanted_m == b.wanted_m;
}

bool same(const Liquid& a, const Liquid& b) {
    return a.volume_m3 == b.volume_m3 && a.temperature_c == b.temperature_c && a.concentration == b.concentration;
}

bool same(const TextWire& a, const TextWire& b) {
    return a.put == b.put && a.shown == b.shown && a.defective == b.defective;
}

template <class T>
bool all_same(const std::vector<T>& a, const std::vector<T>& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const T& x, const T& y) { return same(x, y); });
}

bool changes_by_itself(const PointFault& f) {
    using enum Defect;
    const bool steady = f.defect == Stuck || f.defect == OpenWire || f.defect == Short || f.defect == Offset ||
                        f.defect == Gain || f.defect == ByHand;
    return !steady || f.clock.timing.every > 0 || f.clock.timing.length_s > 0.0;
}

bool changes_by_itself(const PlantState& state) {
    return !state.device_faults.empty() ||
           std::any_of(state.faulted_points.begin(), state.faulted_points.end(), [](const FaultedPoint& p) {
               return std::any_of(p.faults.begin(), p.faults.end(),
                                  [](const PointFault& f) { return changes_by_itself(f); });
           });
}

/// The same defects on the same wires, and the same put on them.
bool same_defects(const PlantState& a, const PlantState& b) {
    const auto alike = [](const PointFault& x, const PointFault& y) {
        return x.defect == y.defect && x.amount == y.amount && x.text == y.text;
    };
    return std::equal(a.faulted_points.begin(), a.faulted_points.end(), b.faulted_points.begin(),
                      b.faulted_points.end(), [&](const FaultedPoint& x, const FaultedPoint& y) {
                          return x.point == y.point && x.put == y.put &&
                                 std::equal(x.faults.begin(), x.faults.end(), y.faults.begin(), y.faults.end(), alike);
                      });
}

}  // namespace

bool goes_on_as(const PlantState& a, const PlantState& b, bool but_for_wires) {
    return !changes_by_itself(a) && !changes_by_itself(b) && (but_for_wires || same_defects(a, b)) &&
           a.devices == b.devices && a.wires == b.wires && all_same(a.texts, b.texts) && all_same(a.items, b.items) &&
           all_same(a.surfaces, b.surfaces) && all_same(a.solids, b.solids) && a.extension_m == b.extension_m &&
           a.drive_ratio == b.drive_ratio && all_same(a.liquids, b.liquids) && a.pressure_pa == b.pressure_pa &&
           a.going_wrong == b.going_wrong && a.beyond_range == b.beyond_range && a.falls.empty() && b.falls.empty() &&
           a.mishaps.size() == b.mishaps.size() && a.mishaps_counted == b.mishaps_counted &&
           a.random.state == b.random.state && a.next_item == b.next_item && a.leaving == b.leaving;
}

bool moves(const PlantModel& model, const PlantState& state, int device) {
    const DeviceModel& d = model.device(device);
    if (d.kind->moving == kNone) return false;
    return base::at(d.kind->actuals, d.kind->moving)
               .read(model.parameters.data() + d.model_offset, state.devices.data() + d.state_offset, model, state,
                     device) != 0.0;
}

std::vector<std::string> reading_names(const PlantModel& model) {
    std::vector<std::string> names = model.point_names();
    for (const DeviceModel& d : model.devices) {
        for (const ActualSpec& g : d.kind->actuals) names.push_back(d.name + "." + g.name);
        for (const MishapSpec& m : d.kind->mishaps) names.push_back(d.name + "." + m.name);
    }
    names.emplace_back("plant.items");
    names.emplace_back("plant.items_on_floor");
    names.emplace_back("plant.mishap");
    names.emplace_back("plant.mishaps");
    return names;
}

void use_control(const PlantModel& model, PlantState& state, int device, const ControlSpec& control, double value) {
    const DeviceModel& d = base::at(model.devices, device);
    control.act(model.parameters.data() + d.model_offset, state.devices.data() + d.state_offset, value);
}

}  // namespace vyard::plant
