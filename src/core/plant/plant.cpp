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
    for (const StepCall& call : calls) {
        view.index = call.device;
        view.device = &view.model.device(call.device);
        call.act(view.model.parameters.data() + call.model_offset, view.state.devices.data() + call.state_offset, view);
    }
}

/// The lists of neighbours, when they are out of date.
void look_around(const PlantModel& model, PlantState& state) {
    remove_gone(state);
    state.near.renew(model, state);
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

std::vector<std::string> reading_names(const PlantModel& model) {
    std::vector<std::string> names = model.point_names();
    for (const DeviceModel& d : model.devices) {
        for (const ActualSpec& g : d.kind->actuals) names.push_back(d.name + "." + g.name);
    }
    names.emplace_back("plant.items");
    names.emplace_back("plant.items_on_floor");
    return names;
}

void use_control(const PlantModel& model, PlantState& state, int device, const ControlSpec& control, double value) {
    const DeviceModel& d = base::at(model.devices, device);
    control.act(model.parameters.data() + d.model_offset, state.devices.data() + d.state_offset, value);
}

}  // namespace vyard::plant
