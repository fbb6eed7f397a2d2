#include "core/wiring/rack.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace vyard::wiring {

using base::Code;

const std::vector<std::string>& module_kind_names() {
    static const std::vector<std::string> names = {"digital input", "digital output", "analog input",
                                                   "analog output", "counter",        "temperature"};
    return names;
}

std::string Module::full_name() const {
    if (partner < 0) return name;
    return name + (area == logic::Area::Input ? ".inputs" : ".outputs");
}

logic::Address Module::address_of(int channel) const {
    const auto bit = first_bit() + static_cast<std::uint32_t>(channel * bits_of_channel());
    return {area, bit / 8, digital() ? static_cast<int>(bit % 8) : -1, digital() ? 1 : bits_of_channel() / 8};
}

double SignalRange::quantum() const {
    return (count_high - count_low) / (std::ldexp(1.0, bits) - 1.0);
}
double SignalRange::counts(double signal) const {
    return count_low + (signal - low) / (high - low) * (count_high - count_low);
}
double SignalRange::signal(double counts) const {
    return low + (counts - count_low) / (count_high - count_low) * (high - low);
}
double SignalRange::stepped(double counts) const {
    return count_low + std::nearbyint((counts - count_low) / quantum()) * quantum();
}

namespace {

std::string span_text(const Module& m) {
    const char letter = m.area == logic::Area::Input ? 'I' : 'Q';
    return fmt::format("%{}B{} to %{}B{}", letter, m.first_byte, letter, (m.end_bit() - 1) / 8);
}

}  // namespace

void check_rack(std::vector<Module>& modules, const std::vector<controller::ControllerModel>& controllers,
                base::Diagnostics& diagnostics) {
    for (std::size_t i = 0; i < modules.size(); ++i) {
        Module& m = modules[i];
        for (std::size_t j = 0; j < i; ++j) {
            Module& other = modules[j];
            if (other.controller != m.controller) continue;
            const bool one_name = base::fold(other.name) == base::fold(m.name);
            if (one_name && other.area != m.area && other.partner < 0 && m.partner < 0) {
                other.partner = static_cast<int>(i);
                m.partner = static_cast<int>(j);
            } else if (one_name)
                diagnostics.error(Code::DuplicateName, m.place,
                                  fmt::format("there is a module '{}' already, at {}", m.name, other.place.text()));
            if (other.area == m.area && other.first_bit() < m.end_bit() && m.first_bit() < other.end_bit())
                diagnostics.error(Code::AddressOverlap, m.place,
                                  fmt::format("module '{}' takes {}, module '{}' at {} takes {}", m.name, span_text(m),
                                              other.name, other.place.text(), span_text(other)));
        }
        if (m.name.find('.') != std::string::npos)
            diagnostics.error(
                Code::WrongValue, m.place,
                fmt::format("a module's name has no point, as '{}' has: one with inputs and outputs is two "
                            "tables of one name",
                            m.name));
        const logic::Program& program = *base::at(controllers, m.controller).program;
        if (m.diagnostics &&
            m.diagnostics->byte + static_cast<std::uint32_t>(m.diagnostics->size) > program.inputs.size)
            diagnostics.error(Code::UnknownTag, m.place,
                              fmt::format("no tag lies at {}, where module '{}' puts its diagnostics",
                                          m.diagnostics->text(), m.name));
    }
}

std::optional<std::pair<int, int>> channel_at(const std::vector<Module>& modules, int controller,
                                              const logic::Address& address, std::string& why) {
    const std::uint32_t first = address.byte * 8 + (address.bit >= 0 ? static_cast<std::uint32_t>(address.bit) : 0U);
    const int bits = address.bit >= 0 ? 1 : address.size * 8;
    for (std::size_t i = 0; i < modules.size(); ++i) {
        const Module& m = modules[i];
        if (m.controller != controller || m.area != address.area || first < m.first_bit() || first >= m.end_bit())
            continue;
        const auto width = static_cast<std::uint32_t>(m.bits_of_channel());
        const std::uint32_t within = first - m.first_bit();
        if (bits != m.bits_of_channel() || within % width != 0)
            why = fmt::format("module '{}' has channels of {} bit{} from {}", m.name, width, width == 1 ? "" : "s",
                              span_text(m));
        return std::pair(static_cast<int>(i), static_cast<int>(within / width));
    }
    return std::nullopt;
}

void advance_filters(const std::vector<Module>& modules, const std::vector<Channel>& channels,
                     const plant::PlantState& plant, base::Nanoseconds now, RackState& rack) {
    for (std::size_t i = 0; i < channels.size(); ++i) {
        const Module& m = base::at(modules, channels[i].module);
        if (m.kind != ModuleKind::DigitalInput || m.filter.count() == 0) continue;
        ChannelState& state = rack.channels[i];
        const double wire = plant.shown(channels[i].point);
        if (wire != state.coming) {
            state.coming = wire;
            state.since = now;
        }
        if (!state.known || now - state.since >= m.filter) state.shown = state.coming;
        state.known = true;
    }
}

double through_input(const Module& m, const Channel& channel, double wire, base::Nanoseconds now, RackState& rack,
                     std::size_t number) {
    const ModuleState& module = base::at(rack.modules, channel.module);
    // A current channel that is out of order reads as an open wire does, others as nothing.
    if (!module.passes(channel.number))
        return m.analog() && m.range.current && m.range.low > 0.0 ? m.range.counts(0.0) : 0.0;
    ChannelState& state = rack.channels[number];
    if (m.analog() && m.range.watched()) {
        const double current = m.range.signal(wire);
        state.out_of_range = current < m.range.under - 1e-9 || current > m.range.over + 1e-9;
    }
    if (m.digital()) return m.filter.count() > 0 && state.known ? state.shown : wire;
    if (state.known && now < state.next) return state.shown;
    state.shown = m.analog() ? m.range.stepped(wire) : wire;
    state.known = true;
    state.next = now + m.update;
    return state.shown;
}

double through_digital_output(const Module& m, const Channel& channel, double wanted, base::Nanoseconds now,
                              RackState& rack, std::size_t number) {
    ChannelState& state = rack.channels[number];
    if (!base::at(rack.modules, channel.module).passes(channel.number)) {
        state = {};
        return 0.0;
    }
    if (m.delay.count() == 0) return wanted;
    if (!state.known || wanted != state.coming) {
        state.coming = wanted;
        state.since = now;
        state.known = true;
    }
    if (now - state.since >= m.delay) state.shown = state.coming;
    return state.shown;
}

bool converts(const Module& m, base::Nanoseconds now, ChannelState& state) {
    if (state.known && now < state.next) return false;
    state.known = true;
    state.next = now + m.update;
    return true;
}

namespace {

/// A bit for each channel that passes nothing, or whose current is none.
std::uint32_t out_of_order(int module, int channels, const std::vector<Channel>& joined, const RackState& rack) {
    std::uint32_t out = 0;
    for (int c = 0; c < channels; ++c) out |= base::at(rack.modules, module).passes(c) ? 0U : 1U << c;
    for (std::size_t i = 0; i < joined.size(); ++i) {
        if (joined[i].module == module && rack.channels[i].out_of_range) out |= 1U << joined[i].number;
    }
    return out;
}

}  // namespace

void write_diagnostics(const std::vector<Module>& modules, const std::vector<Channel>& channels, int controller,
                       const logic::Program& program, const RackState& rack, controller::ControllerState& state) {
    for (std::size_t i = 0; i < modules.size(); ++i) {
        const Module& m = modules[i];
        if (m.controller != controller || !m.diagnostics) continue;
        const std::uint32_t bits = out_of_order(static_cast<int>(i), m.channels, channels, rack);
        std::memcpy(state.memory.data() + program.inputs.begin + m.diagnostics->byte, &bits,
                    static_cast<std::size_t>(std::min(m.diagnostics->size, 4)));
    }
}

}  // namespace vyard::wiring
