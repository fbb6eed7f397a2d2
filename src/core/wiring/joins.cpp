#include "core/wiring/joins.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

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

/// An analog input shows a quarter of its range more on both sides: 0 mA, a broken wire, is a quarter of 4-20 mA under
/// it, and there is no reason for less above.
constexpr double kBeyondRange = 0.25;

}  // namespace

double within_converter(const Scaling& s, double value) {
    const double span = s.tag_high - s.tag_low;
    return std::clamp(value, s.tag_low - kBeyondRange * span, s.tag_high + kBeyondRange * span);
}

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

namespace {

void put_bit(std::byte* memory, const Join& j, bool on) {
    std::byte& at = memory[j.offset];
    const auto mask = static_cast<std::byte>(j.bit < 0 ? 1U : 1U << static_cast<unsigned>(j.bit));
    const std::byte others = j.bit < 0 ? std::byte{0} : at & ~mask;
    at = on ? others | mask : others;
}
bool bit_at(const std::byte* memory, const Join& j) {
    const std::byte byte = memory[j.offset];
    return (j.bit < 0 ? byte : byte & static_cast<std::byte>(1U << static_cast<unsigned>(j.bit))) != std::byte{0};
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
        if (j.one_bit()) {
            put_bit(state.memory.data(), j, (plant.shown(j.point) != 0.0) != j.scaling.invert);
            continue;
        }
        if (j.text != plant::kNone) {
            logic::assign_text(state.memory.data() + j.offset, j.type, base::at(plant.texts, j.text).shown.view());
            continue;
        }
        double value = plant.shown(j.point);
        if (j.scaling.linear) value = within_converter(j.scaling, j.scaling.offset + j.scaling.gain * value);
        if (j.channel >= 0) {
            const Channel& channel = base::at(wiring.channels, j.channel);
            value = through_input(base::at(wiring.modules, channel.module), channel, value, now, rack,
                                  static_cast<std::size_t>(j.channel));
        }
        if (j.scaling.invert) value = value != 0.0 ? 0.0 : 1.0;
        logic::write_number(state.memory.data(), j.type, j.offset, j.bit, value);
        if (!j.order.plain()) reorder(state.memory.data() + j.offset, logic::type_size(j.type), j.order);
    }
}

std::uint64_t reordered(const ByteOrder& order, logic::Elementary type, std::array<std::byte, 8> bytes) {
    reorder(bytes.data(), logic::type_size(type), order);
    return logic::read_bits(bytes.data(), type, 0, -1);
}

double tag_value(const Join& j, const std::byte* memory) {
    if (j.order.plain()) return logic::read_number(memory, j.type, j.offset, j.bit);
    std::array<std::byte, 8> bytes{};
    const auto size = static_cast<std::size_t>(logic::type_size(j.type));
    std::copy_n(memory + j.offset, size, bytes.begin());
    reorder(bytes.data(), static_cast<int>(size), j.order);
    return logic::read_number(bytes.data(), j.type, 0, -1);
}

controller::OutputLayout lay_out_outputs(const Wiring& wiring, int controller, const ControllerModel& model) {
    controller::OutputLayout out;
    const logic::Program& program = *model.program;
    if (program.outputs.size > 0) out.add(program.outputs.begin, program.outputs.size, -1);
    for (const Join& j : wiring.outputs) {
        if (j.controller == controller)
            out.add(j.offset, controller::size_of(program, {j.variable, j.type, j.offset, j.bit}), j.bit);
    }
    for (const auto& [variable, value] : model.safe_values) {
        const logic::Variable& v = base::at(program.variables, variable);
        out.add(v.offset, controller::size_of(program, {variable, v.type, v.offset, v.bit}), v.bit);
        logic::write_value(out.safe.data(), value, v.offset, v.bit);
    }
    // What comes from elsewhere is treated as what leaves: it is not there while the line is lost.
    for (const controller::RegisterEntry& e :
         model.linked() ? model.link->registers : decltype(model.link->registers)()) {
        const logic::Variable& v = base::at(program.variables, e.variable);
        if (!e.to_controller)
            out.add(v.offset, controller::size_of(program, {e.variable, v.type, v.offset, v.bit}), v.bit);
    }
    // Whatever leaves in part is read whole: the variable, or a number at an address.
    std::size_t end = out.mask.size() + sizeof(std::uint64_t) - 1;
    for (std::size_t n = 0; n < program.variables.size(); ++n) {
        const logic::Variable& v = program.variables[n];
        const std::uint32_t size = controller::size_of(program, {static_cast<int>(n), v.type, v.offset, v.bit});
        if (out.leaves(v.offset, size, v.bit)) end = std::max<std::size_t>(end, v.offset + size);
    }
    end = out.mask.empty() ? 0 : std::min(end, program.initial_memory.size());
    out.mask.resize(end);
    out.safe.resize(end);
    return out;
}

namespace {

/// A tag's value as its point sees it.
double to_point(const Scaling& s, double value) {
    if (s.linear) value = std::clamp((value - s.offset) / s.gain, s.point_low, s.point_high);
    return s.invert ? (value != 0.0 ? 0.0 : 1.0) : value;
}

/// What leaves a controller at one join, in one step.
struct Leaving {
    bool current = true;  ///< A controller that is stopped gives none, unless the yard names a safe value.
    double value = 0.0;   ///< Of the tag.
};

/// Once a join and a reason.
void note_odd(std::vector<OddOutput>& odd, const OddOutput& note) {
    const bool known = std::any_of(
        odd.begin(), odd.end(), [&](const OddOutput& o) { return o.point == note.point && o.cut_off == note.cut_off; });
    if (!known) odd.push_back(note);
}

Leaving leaving_at(const Join& j, bool says, const std::byte* image, base::Nanoseconds now,
                   std::vector<OddOutput>& odd) {
    if (!says) return {false, 0.0};
    const double value = tag_value(j, image);
    if (std::isfinite(value)) return {true, value};
    note_odd(odd, {now, j.controller, j.variable, j.point, false});
    return {true, 0.0};
}

/// A set value that will be cut off, by more than rounding.
void look_at_limits(const Join& j, double tag_value, base::Nanoseconds now, std::vector<OddOutput>& odd) {
    const double asked = j.scaling.linear ? (tag_value - j.scaling.offset) / j.scaling.gain : tag_value;
    const double slack = std::isfinite(j.high - j.low) ? 1e-6 * (j.high - j.low) : 0.0;
    if (asked < j.low - slack || asked > j.high + slack)
        note_odd(odd, {now, j.controller, j.variable, j.point, true, asked, j.low, j.high});
}

/// The value at the terminal of a join, through its channel where it has one.
double at_terminal(const Wiring& wiring, const Join& j, const Leaving& leaving, base::Nanoseconds now,
                   RackState& rack) {
    if (j.channel < 0) return leaving.current ? to_point(j.scaling, leaving.value) : 0.0;
    const Channel& channel = base::at(wiring.channels, j.channel);
    const Module& m = base::at(wiring.modules, channel.module);
    const auto number = static_cast<std::size_t>(j.channel);
    if (m.digital()) {
        const double wanted = leaving.current ? to_point(j.scaling, leaving.value) : 0.0;
        return through_digital_output(m, channel, wanted, now, rack, number);
    }
    ChannelState& state = rack.channels[number];
    if (!base::at(rack.modules, channel.module).passes(channel.number)) {
        state = {};
        return 0.0;
    }
    if (!leaving.current) {
        state = {};  // the next value after this is converted at once
    } else if (converts(m, now, state)) {
        state.shown = to_point(j.scaling, m.analog() ? m.range.stepped(leaving.value) : leaving.value);
    }
    return state.shown;
}

}  // namespace

void put_outputs(const Wiring& wiring, const std::vector<controller::ControllerState>& states, base::Nanoseconds now,
                 RackState& rack, plant::PlantState& plant, std::vector<OddOutput>& odd) {
    const std::byte* image = nullptr;
    bool outputs_on = false, powered = false;
    int controller = -1;
    for (const Join& j : wiring.outputs) {
        if (j.controller != controller) {
            controller = j.controller;
            const controller::ControllerState& state = base::at(states, controller);
            image = controller::leaving(state);
            outputs_on = state.outputs_on;
            powered = state.powered;
        }
        const bool says = outputs_on || (powered && j.safe_given);  // one that does not run says nothing else
        if (j.one_bit()) {
            plant.put(j.point, says && bit_at(image, j) != j.scaling.invert ? 1.0 : 0.0);
            continue;
        }
        if (j.text != plant::kNone) {
            plant.put_text(j.point, j.text, says ? logic::read_text(image + j.offset, j.type) : std::string());
            continue;
        }
        const Leaving leaving = leaving_at(j, says, image, now, odd);
        if (leaving.current) look_at_limits(j, leaving.value, now, odd);
        plant.put(j.point, at_terminal(wiring, j, leaving, now, rack));
    }
}

namespace {

/// The bits of a source for a tag of type `to`; of a point, a BOOL, whether it is TRUE.
std::uint64_t read_source(const Source& s, logic::Elementary to, const plant::PlantState& plant,
                          const std::vector<ControllerModel>& models,
                          const std::vector<controller::ControllerState>& states, bool direct = false) {
    if (s.controller < 0) return plant.shown(s.point) != 0.0 ? 1U : 0U;
    const controller::ControllerState& state = base::at(states, s.controller);
    const controller::OutputLayout& outputs = base::at(models, s.controller).outputs;
    const auto size = static_cast<std::uint32_t>(logic::type_size(s.spot.type));
    const bool output = outputs.leaves(s.spot.offset, s.spot.bit >= 0 ? 1 : size, s.spot.bit);
    // What controllers tell one another by themselves does not care for the link between one of them and the plant.
    const bool executes = direct && state.running && state.powered;
    if (!state.outputs_on && !executes && !output) return 0;
    const bool inside = !output || executes;
    const std::byte* memory = inside ? state.memory.data() : controller::leaving(state);
    const logic::Value value = logic::read_value(memory, s.spot.type, s.spot.offset, s.spot.bit);
    return logic::widened(value, to).value_or(logic::Value{}).bits;
}

}  // namespace

void feed_jumpers(const Wiring& wiring, int controller, const plant::PlantState& plant,
                  const std::vector<ControllerModel>& models, const std::vector<controller::ControllerState>& states,
                  base::Nanoseconds now, std::vector<JumperState>& jumpers) {
    for (std::size_t i = 0; i < wiring.jumpers.size(); ++i) {
        const Jumper& j = wiring.jumpers[i];
        const bool concerned = j.from.controller == controller || (j.when && j.when->controller == controller);
        if (!concerned) continue;
        std::uint64_t value = read_source(j.from, j.spot.type, plant, models, states, j.direct);
        if (j.invert) value = value != 0 ? 0 : 1;
        if (j.when && (read_source(*j.when, logic::Elementary::Bool, plant, models, states) != 0) == j.when_not)
            value = 0;
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
        logic::write_bits(state.memory.data(), j.spot.type, j.spot.offset, j.spot.bit, jumpers[i].value);
    }
}

void rebind(const controller::Rebinding& rebinding, int c, Wiring& wiring, std::vector<JumperState>& jumpers,
            controller::ChangeReport& report) {
    const auto follow = [&](int controller, controller::Spot& spot) {
        if (controller != c) return true;
        if (const auto now = rebinding.spot(spot)) {
            spot = *now;
            return true;
        }
        report.unjoined.push_back(base::at(rebinding.from().variables, spot.variable).path);
        return false;
    };
    for (std::vector<Join>* joins : {&wiring.inputs, &wiring.outputs}) {
        std::erase_if(*joins, [&](Join& j) {
            controller::Spot spot{j.variable, j.type, j.offset, j.bit};
            const bool stays = follow(j.controller, spot);
            j.variable = spot.variable;
            j.offset = spot.offset;
            j.bit = spot.bit;
            return !stays;
        });
    }
    std::vector<Jumper> kept;
    std::vector<JumperState> states;
    for (std::size_t i = 0; i < wiring.jumpers.size(); ++i) {
        Jumper j = wiring.jumpers[i];
        const bool whole = follow(j.controller, j.spot) && follow(j.from.controller, j.from.spot) &&
                           (!j.when || follow(j.when->controller, j.when->spot));
        if (!whole) continue;
        kept.push_back(std::move(j));
        states.push_back(std::move(jumpers[i]));
    }
    wiring.jumpers = std::move(kept);
    jumpers = std::move(states);
}

namespace {

/// "places[2].full" with spaces and capitals as they come, as Program::by_path has it.
std::string folded_path(std::string_view name) {
    std::string out = base::fold(name);
    std::erase(out, ' ');
    return out;
}

std::optional<controller::Spot> spot_of_variable(const logic::Program& program, std::string_view path) {
    const auto found = program.by_path.find(folded_path(path));
    if (found == program.by_path.end()) return std::nullopt;
    const logic::Variable& v = base::at(program.variables, found->second);
    return controller::Spot{found->second, v.type, v.offset, v.bit};
}

/// The tag that lies at just that address; else the address itself, if the program's area reaches so far.
std::optional<controller::Spot> spot_of_address(const logic::Program& program, std::string_view text) {
    std::string why;
    const auto address = logic::parse_address(text, why);
    if (!address) return std::nullopt;
    for (std::size_t v = 0; v < program.variables.size(); ++v) {
        const logic::Variable& variable = program.variables[v];
        if (variable.address.area != logic::Area::None && variable.address.text() == address->text())
            return controller::Spot{static_cast<int>(v), variable.type, variable.offset, variable.bit};
    }
    const logic::Range& area = address->area == logic::Area::Input    ? program.inputs
                               : address->area == logic::Area::Output ? program.outputs
                                                                      : program.markers;
    if (address->byte + static_cast<std::uint32_t>(address->size) > area.size) return std::nullopt;
    using logic::Elementary;
    const Elementary type = address->bit >= 0    ? Elementary::Bool
                            : address->size == 1 ? Elementary::Byte
                            : address->size == 2 ? Elementary::Word
                            : address->size == 4 ? Elementary::Dword
                                                 : Elementary::Lword;
    return controller::Spot{-1, type, area.begin + address->byte, address->bit};
}

/// "status.%X3", "status.%B1": a part of a bit string or a whole number.
std::optional<controller::Spot> spot_of_part(const logic::Program& program, std::string_view name) {
    const std::size_t at = name.rfind(".%");
    if (at == std::string_view::npos || at + 4 > name.size()) return std::nullopt;
    auto spot = spot_of_variable(program, name.substr(0, at));
    if (!spot || spot->bit >= 0 || !(logic::is_bit_string(spot->type) || logic::is_integer(spot->type)))
        return std::nullopt;
    using logic::Elementary;
    const char letter = static_cast<char>(name[at + 2] | 0x20);
    const Elementary part = letter == 'x'   ? Elementary::Bool
                            : letter == 'b' ? Elementary::Byte
                            : letter == 'w' ? Elementary::Word
                            : letter == 'd' ? Elementary::Dword
                                            : Elementary::None;
    std::uint32_t number = 0;
    const char* end = name.data() + name.size();
    const auto [rest, failure] = std::from_chars(name.data() + at + 3, end, number);
    if (part == Elementary::None || failure != std::errc() || rest != end || number > 63) return std::nullopt;
    const std::uint32_t width = part == Elementary::Bool ? 1 : static_cast<std::uint32_t>(logic::type_size(part)) * 8;
    if ((number + 1) * width > static_cast<std::uint32_t>(logic::type_size(spot->type)) * 8) return std::nullopt;
    spot->offset += number * width / 8;
    spot->bit = part == Elementary::Bool ? static_cast<int>(number % 8) : -1;
    spot->type = part;
    return spot;
}

}  // namespace

std::optional<controller::Spot> find_spot(const logic::Program& program, std::string_view name) {
    if (name.starts_with('%')) return spot_of_address(program, name);
    if (const auto spot = spot_of_variable(program, name)) return spot;
    return spot_of_part(program, name);
}

std::vector<TagSpot> find_spots(const std::vector<ControllerModel>& controllers, std::string_view name) {
    std::vector<TagSpot> out;
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        const logic::Program& program = *controllers[c].program;
        if (const auto spot = find_spot(program, name)) out.push_back({static_cast<int>(c), *spot});
        const std::string& controller = controllers[c].name;
        const bool dotted = name.size() > controller.size() + 1 && name[controller.size()] == '.';
        const bool named = dotted && base::fold(name.substr(0, controller.size())) == base::fold(controller);
        if (!named) continue;
        if (const auto spot = find_spot(program, name.substr(controller.size() + 1)))
            out.push_back({static_cast<int>(c), *spot});
    }
    return out;
}

std::pair<int, int> find_tag(const std::vector<ControllerModel>& controllers, std::string_view name) {
    for (const TagSpot& t : find_spots(controllers, name)) {
        if (t.spot.variable < 0) continue;
        const logic::Variable& v = base::at(base::at(controllers, t.controller).program->variables, t.spot.variable);
        if (v.offset == t.spot.offset && v.type == t.spot.type) return {t.controller, t.spot.variable};
    }
    return {-1, -1};
}

std::string spot_name(const std::vector<ControllerModel>& controllers, int c, const controller::Spot& spot) {
    const ControllerModel& model = base::at(controllers, c);
    const logic::Program& program = *model.program;
    const std::string prefix = controllers.size() > 1 ? model.name + "." : std::string();
    if (spot.variable < 0) {
        for (const auto& [area, letter] :
             {std::pair(program.inputs, 'I'), std::pair(program.outputs, 'Q'), std::pair(program.markers, 'M')}) {
            if (spot.offset < area.begin || spot.offset >= area.begin + area.size) continue;
            const std::uint32_t byte = spot.offset - area.begin;
            if (spot.bit >= 0) return fmt::format("{}%{}X{}.{}", prefix, letter, byte, spot.bit);
            const int size = logic::type_size(spot.type);
            const char width = size == 1 ? 'B' : size == 2 ? 'W' : size == 4 ? 'D' : 'L';
            return fmt::format("{}%{}{}{}", prefix, letter, width, byte);
        }
        return prefix + "?";
    }
    const logic::Variable& v = base::at(program.variables, spot.variable);
    if (v.type == spot.type && v.offset == spot.offset) return prefix + v.path;
    const std::uint32_t within = (spot.offset - v.offset) * 8 + static_cast<std::uint32_t>(std::max(spot.bit, 0));
    if (spot.bit >= 0) return fmt::format("{}{}.%X{}", prefix, v.path, within);
    const auto width = static_cast<std::uint32_t>(logic::type_size(spot.type)) * 8;
    return fmt::format("{}{}.%{}{}", prefix, v.path, width == 8 ? 'B' : width == 16 ? 'W' : 'D', within / width);
}

}  // namespace vyard::wiring
