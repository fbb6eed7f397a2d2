#include "core/wiring/wiring.hpp"

#include <algorithm>
#include <array>

namespace vyard::wiring {

using controller::ControllerModel;

const Join* Wiring::of_tag(int controller, int variable) const {
    for (const auto* list : {&inputs, &outputs}) {
        for (const Join& j : *list) {
            if (j.controller == controller && j.variable == variable) return &j;
        }
    }
    return nullptr;
}

const Join* Wiring::of_point(int point) const {
    for (const auto* list : {&inputs, &outputs}) {
        for (const Join& j : *list) {
            if (j.point == point) return &j;
        }
    }
    return nullptr;
}

namespace {

/// An analog input shows a little more than its range on both sides, so that a broken wire (0 mA of 4-20 mA) is seen.
constexpr double kUnderRange = 0.25, kOverRange = 0.175;

double within_converter(const Scaling& s, double value) {
    const double span = s.tag_high - s.tag_low;
    return std::clamp(value, s.tag_low - kUnderRange * span, s.tag_high + kOverRange * span);
}

}  // namespace

namespace {

void reorder(std::byte* bytes, int size, const ByteOrder& order) {
    if (order.swap_bytes) {
        for (int i = 0; i + 1 < size; i += 2) std::swap(bytes[i], bytes[i + 1]);
    }
    if (order.swap_words) {
        for (int low = 0, high = size - 2; low < high; low += 2, high -= 2) {
            std::swap(bytes[low], bytes[high]);
            std::swap(bytes[low + 1], bytes[high + 1]);
        }
    }
}

}  // namespace

RackState power_up(const Wiring& wiring) {
    RackState rack;
    rack.channels.resize(wiring.channels.size());
    rack.modules.resize(wiring.modules.size());
    return rack;
}

void sample(const Wiring& wiring, int controller, const plant::PlantState& plant, base::Nanoseconds now,
            RackState& rack, controller::ControllerState& state) {
    for (const Join& j : wiring.inputs) {
        if (j.controller != controller) continue;
        if (j.text != plant::kNone) {
            logic::assign_text(state.memory.data() + j.offset, j.type,
                               plant.texts[static_cast<std::size_t>(j.text)].view());
            continue;
        }
        double value = plant.points[static_cast<std::size_t>(j.point)];
        if (j.scaling.linear) value = within_converter(j.scaling, j.scaling.offset + j.scaling.gain * value);
        if (j.channel >= 0) {
            const Channel& channel = wiring.channels[static_cast<std::size_t>(j.channel)];
            value = through_input(wiring.modules[static_cast<std::size_t>(channel.module)], channel, value, now, rack,
                                  static_cast<std::size_t>(j.channel));
        }
        if (j.scaling.invert) value = value != 0.0 ? 0.0 : 1.0;
        logic::write_number(state.memory.data(), j.type, j.offset, j.bit, value);
        if (!j.order.plain()) reorder(state.memory.data() + j.offset, logic::type_size(j.type), j.order);
    }
}

namespace {

/// A tag's value as its point sees it.
double to_point(const Scaling& s, double value) {
    if (s.linear) value = std::clamp((value - s.offset) / s.gain, s.point_low, s.point_high);
    return s.invert ? (value != 0.0 ? 0.0 : 1.0) : value;
}

}  // namespace

double tag_value(const Join& j, const controller::ControllerState& state) {
    if (j.order.plain()) return logic::read_number(state.memory.data(), j.type, j.offset, j.bit);
    std::array<std::byte, 8> bytes{};
    const auto size = static_cast<std::size_t>(logic::type_size(j.type));
    std::copy_n(state.memory.data() + j.offset, size, bytes.begin());
    reorder(bytes.data(), static_cast<int>(size), j.order);
    return logic::read_number(bytes.data(), j.type, 0, -1);
}

namespace {

/// Forces are of whole tags; a bit of a word is looked at by itself.
bool whole_tag(const ControllerModel& model, const Join& j) {
    return j.order.plain() && model.program->variables[static_cast<std::size_t>(j.variable)].bit == j.bit;
}

}  // namespace

void publish(const Wiring& wiring, int controller, const ControllerModel& model,
             const controller::ControllerState& state, base::Nanoseconds now, RackState& rack,
             plant::PlantState& plant) {
    for (const Join& j : wiring.outputs) {
        if (j.controller != controller) continue;
        double& point = plant.points[static_cast<std::size_t>(j.point)];
        if (j.text != plant::kNone) {
            // A controller that does not run says nothing.
            const std::string text =
                state.running ? logic::read_text(state.memory.data() + j.offset, j.type) : std::string();
            if (plant.texts[static_cast<std::size_t>(j.text)].set(text)) point += 1.0;
            continue;
        }
        if (state.running) {
            double value = state.forces_on && whole_tag(model, j) ? controller::published(model, state, j.variable)
                                                                  : tag_value(j, state);
            if (j.channel < 0) {
                point = to_point(j.scaling, value);
                continue;
            }
            const Channel& channel = wiring.channels[static_cast<std::size_t>(j.channel)];
            const Module& m = wiring.modules[static_cast<std::size_t>(channel.module)];
            if (m.digital() && j.scaling.invert) value = value != 0.0 ? 0.0 : 1.0;
            const bool passes = rack.modules[static_cast<std::size_t>(channel.module)].passes(channel.number);
            value = through_output(m, channel, value, point, now, rack, static_cast<std::size_t>(j.channel));
            point = m.digital() ? value : passes ? to_point(j.scaling, value) : 0.0;
        } else {
            // No current at the terminal: FALSE and 0 at the point itself, whatever the scaling makes of a 0.
            const auto safe = controller::safe_value(model, j.variable);
            point = safe ? to_point(j.scaling, *safe) : 0.0;
        }
    }
}

namespace {

double read_source(const Source& s, const plant::PlantState& plant, const std::vector<ControllerModel>& models,
                   const std::vector<controller::ControllerState>& states) {
    if (s.controller < 0) return plant.points[static_cast<std::size_t>(s.point)];
    const auto c = static_cast<std::size_t>(s.controller);
    // Who is stopped drives nothing.
    if (!states[c].running) return controller::safe_value(models[c], s.variable).value_or(0.0);
    return states[c].forces_on ? controller::published(models[c], states[c], s.variable)
                               : logic::read_number(states[c].memory.data(), s.type, s.offset, s.bit);
}

}  // namespace

void feed_jumpers(const Wiring& wiring, int controller, const plant::PlantState& plant,
                  const std::vector<ControllerModel>& models, const std::vector<controller::ControllerState>& states,
                  base::Nanoseconds now, std::vector<JumperState>& jumpers) {
    for (std::size_t i = 0; i < wiring.jumpers.size(); ++i) {
        const Jumper& j = wiring.jumpers[i];
        const bool concerned = j.from.controller == controller || (j.when && j.when->controller == controller);
        if (!concerned) continue;
        double value = read_source(j.from, plant, models, states);
        if (j.invert) value = value != 0.0 ? 0.0 : 1.0;
        if (j.when && (read_source(*j.when, plant, models, states) != 0.0) == j.when_not) value = 0.0;
        if (value == jumpers[i].last) continue;
        jumpers[i].last = value;
        jumpers[i].coming.emplace_back(now + j.delay, value);
    }
}

void sample_jumpers(const Wiring& wiring, int controller, base::Nanoseconds now, std::vector<JumperState>& jumpers,
                    controller::ControllerState& state) {
    for (std::size_t i = 0; i < wiring.jumpers.size(); ++i) {
        const Jumper& j = wiring.jumpers[i];
        if (j.controller != controller) continue;
        auto& coming = jumpers[i].coming;
        std::size_t come = 0;
        while (come < coming.size() && coming[come].first <= now) jumpers[i].value = coming[come++].second;
        coming.erase(coming.begin(), coming.begin() + static_cast<std::ptrdiff_t>(come));
        logic::write_number(state.memory.data(), j.type, j.offset, j.bit, jumpers[i].value);
    }
}

namespace {

/// The tag that lies at just that address.
std::pair<int, int> tag_at(const std::vector<ControllerModel>& controllers, std::string_view text) {
    std::string why;
    const auto address = logic::parse_address(text, why);
    for (std::size_t c = 0; address && c < controllers.size(); ++c) {
        const auto& variables = controllers[c].program->variables;
        for (std::size_t v = 0; v < variables.size(); ++v) {
            if (variables[v].address.area != logic::Area::None && variables[v].address.text() == address->text())
                return {static_cast<int>(c), static_cast<int>(v)};
        }
    }
    return {-1, -1};
}

}  // namespace

std::pair<int, int> find_tag(const std::vector<ControllerModel>& controllers, std::string_view name) {
    const auto index_in = [&](std::size_t c, std::string_view path) {
        const auto& by_path = controllers[c].program->by_path;
        const auto found = by_path.find(base::fold(path));
        return found == by_path.end() ? -1 : found->second;
    };
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        if (const int v = index_in(c, name); v >= 0) return {static_cast<int>(c), v};
    }
    if (name.starts_with('%')) return tag_at(controllers, name);
    const std::size_t dot = name.find('.');
    if (dot == std::string_view::npos) return {-1, -1};
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        if (base::fold(controllers[c].name) != base::fold(name.substr(0, dot))) continue;
        if (const int v = index_in(c, name.substr(dot + 1)); v >= 0) return {static_cast<int>(c), v};
    }
    return {-1, -1};
}

}  // namespace vyard::wiring
