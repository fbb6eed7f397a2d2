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
    for (const int p : devices[static_cast<std::size_t>(device)].points) {
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
    return i == kNone ? nullptr : &controls[static_cast<std::size_t>(i)];
}
const FaultSpec* Kind::find_fault(std::string_view wanted) const {
    const int i = find_named(faults, wanted, [](const FaultSpec& f) -> const std::string& { return f.name; });
    return i == kNone ? nullptr : &faults[static_cast<std::size_t>(i)];
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

std::optional<Reading> find_reading(const PlantModel& model, std::string_view name) {
    if (same_name(name, "plant.items"))
        return Reading{Reading::Source::ItemCount, kNone, 0, PointType::Number, base::Dimension::Plain};
    if (same_name(name, "plant.items_on_floor"))
        return Reading{Reading::Source::FloorCount, kNone, 0, PointType::Number, base::Dimension::Plain};
    int point = model.find_point(name);
    if (point == kNone) {
        const int device = model.find_device(name);
        if (device != kNone) point = model.only_point(device);
    }
    if (point != kNone) {
        const PointModel& p = model.points[static_cast<std::size_t>(point)];
        return Reading{Reading::Source::Point, p.device, point, p.type, p.dimension};
    }
    const std::size_t dot = name.rfind('.');
    if (dot == std::string_view::npos) return std::nullopt;
    const int device = model.find_device(name.substr(0, dot));
    if (device == kNone) return std::nullopt;
    const auto& gauges = model.devices[static_cast<std::size_t>(device)].kind->gauges;
    const int gauge =
        find_named(gauges, name.substr(dot + 1), [](const GaugeSpec& g) -> const std::string& { return g.name; });
    if (gauge == kNone) return std::nullopt;
    const GaugeSpec& g = gauges[static_cast<std::size_t>(gauge)];
    return Reading{Reading::Source::Gauge, device, gauge, g.type, g.dimension};
}

double read(const PlantModel& model, const PlantState& state, const Reading& r) {
    switch (r.source) {
        case Reading::Source::Point: return state.points[static_cast<std::size_t>(r.index)];
        case Reading::Source::ItemCount: return static_cast<double>(state.items.size());
        case Reading::Source::FloorCount:
            return static_cast<double>(
                std::count_if(state.items.begin(), state.items.end(), [](const Item& i) { return i.on_floor; }));
        case Reading::Source::Gauge: break;
    }
    const DeviceModel& d = model.devices[static_cast<std::size_t>(r.device)];
    return d.kind->gauges[static_cast<std::size_t>(r.index)].read(
        model.parameters.data() + d.model_offset, state.devices.data() + d.state_offset, model, state, r.device);
}

std::string_view read_text(const PlantModel& model, const PlantState& state, const Reading& r) {
    VYARD_CHECK(r.type == PointType::Text && r.source == Reading::Source::Point);
    return state.texts[static_cast<std::size_t>(model.points[static_cast<std::size_t>(r.index)].text)].view();
}

std::vector<std::string> reading_names(const PlantModel& model) {
    std::vector<std::string> names = model.point_names();
    for (const DeviceModel& d : model.devices) {
        for (const GaugeSpec& g : d.kind->gauges) names.push_back(d.name + "." + g.name);
    }
    names.emplace_back("plant.items");
    names.emplace_back("plant.items_on_floor");
    return names;
}

void use_control(const PlantModel& model, PlantState& state, int device, const ControlSpec& control, double value) {
    const DeviceModel& d = model.devices[static_cast<std::size_t>(device)];
    control.act(model.parameters.data() + d.model_offset, state.devices.data() + d.state_offset, value);
}

}  // namespace vyard::plant
