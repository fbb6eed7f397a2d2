// The modules between a controller's addresses and the wires of the plant: what their channels do to a signal on its
// way (filter, delay, rate, range, resolution), and what goes wrong with them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/controller/controller.hpp"
#include "core/plant/plant.hpp"

namespace vyard::wiring {

enum class ModuleKind : std::uint8_t { DigitalInput, DigitalOutput, AnalogInput, AnalogOutput, Counter, Temperature };

const std::vector<std::string>& module_kind_names();  ///< In the order of ModuleKind: "digital input" ...

/// The electrical range of an analog channel, in V or mA, and what its ends read as.
struct SignalRange {
    bool current = true;  ///< mA, else V.
    double low = 4.0, high = 20.0;
    double count_low = 0.0, count_high = 20000.0;
    int bits = 12;  ///< Steps between the counts: 2^bits - 1.
    /// Of 4..20 mA: a current below or above says that the wire or the transmitter is out of order. The defaults are
    /// the fault currents of NAMUR NE 43.
    double under = 3.6, over = 21.0;

    double quantum() const;
    /// Of a signal in V or mA; not yet rounded to a step.
    double counts(double signal) const;
    /// The signal of so many counts.
    double signal(double counts) const;
    /// Whether it is a current that a broken wire can be told by.
    bool watched() const { return current && low > 0.0; }
    /// To the nearest step.
    double stepped(double counts) const;
};

struct Module {
    int controller = 0;
    std::string name;
    ModuleKind kind = ModuleKind::DigitalInput;
    int channels = 16;
    logic::Area area = logic::Area::Input;
    std::uint32_t first_byte = 0;
    base::Nanoseconds filter{};  ///< Digital inputs: a change has to last so long.
    base::Nanoseconds delay{};   ///< Digital outputs: from the address to the terminal.
    base::Nanoseconds update{};  ///< Numbers: from one conversion to the next.
    SignalRange range;
    int partner = -1;  ///< The outputs of a module that has inputs too, and the other way round.
    std::optional<logic::Address> diagnostics;  ///< A word of inputs, a bit a channel that is out of order.
    base::Place place;

    bool digital() const { return kind == ModuleKind::DigitalInput || kind == ModuleKind::DigitalOutput; }
    bool analog() const { return kind == ModuleKind::AnalogInput || kind == ModuleKind::AnalogOutput; }
    int bits_of_channel() const { return digital() ? 1 : kind == ModuleKind::Counter ? 32 : 16; }
    /// "DI1"; of a module with both "DX1.inputs" or "DX1.outputs".
    std::string full_name() const;
    logic::Address address_of(int channel) const;
    std::uint32_t first_bit() const { return first_byte * 8; }
    std::uint32_t end_bit() const { return first_bit() + static_cast<std::uint32_t>(channels * bits_of_channel()); }
};

/// A joined channel.
struct Channel {
    int module = 0;
    int number = 0;  ///< From 0.
    int point = 0;
};

/// Of a digital input: what its filter lets through. Of a digital output: what is at its terminal, and what comes. Of a
/// number: the last conversion.
struct ChannelState {
    double shown = 0.0, coming = 0.0;
    base::Nanoseconds since{}, next{};
    bool known = false;
    bool out_of_range = false;  ///< Of a watched current: beyond its limits.
};
struct ModuleState {
    bool lost = false;         ///< No power, or no bus: nothing goes through.
    std::uint32_t broken = 0;  ///< Channels, a bit each.
    std::uint32_t blown = 0;   ///< Fuses of groups of eight channels, a bit each.

    bool operator==(const ModuleState&) const = default;

    bool passes(int channel) const {
        return !lost && ((broken >> channel) & 1U) == 0 && ((blown >> (channel / 8)) & 1U) == 0;
    }
};
struct RackState {
    std::vector<ChannelState> channels;
    std::vector<ModuleState> modules;
};

/// Modules of one controller that take the same addresses, or whose diagnostics lie nowhere, are reported. Two of one
/// name, one with inputs, one with outputs, are one module.
void check_rack(std::vector<Module>& modules, const std::vector<controller::ControllerModel>& controllers,
                base::Diagnostics& diagnostics);

/// The module and channel of an address; null when no module has it. `why` says what does not fit, if anything.
std::optional<std::pair<int, int>> channel_at(const std::vector<Module>& modules, int controller,
                                              const logic::Address& address, std::string& why);

/// After a step of the plant: filters see their inputs. Cost: channels.
void advance_filters(const std::vector<Module>& modules, const std::vector<Channel>& channels,
                     const plant::PlantState& plant, base::Nanoseconds now, RackState& rack);

/// What an input channel hands to its address: `wire` is the point's value as counts or 0 and 1.
double through_input(const Module& module, const Channel& channel, double wire, base::Nanoseconds now, RackState& rack,
                     std::size_t number);

/// What a digital output channel has at its terminal, asked in every step: `wanted` once it has been wanted for the
/// delay; nothing while the channel is out of order, and the delay again after that.
double through_digital_output(const Module& module, const Channel& channel, double wanted, base::Nanoseconds now,
                              RackState& rack, std::size_t number);
/// Whether an analog output channel converts now; what it then gives stays in ChannelState::shown.
bool converts(const Module& module, base::Nanoseconds now, ChannelState& state);

/// Writes the diagnostics words of a controller: a bit for each channel that passes nothing, and for each of 4..20 mA
/// whose current is beyond its limits. Cost: modules with one x joined channels.
void write_diagnostics(const std::vector<Module>& modules, const std::vector<Channel>& channels, int controller,
                       const logic::Program& program, const RackState& rack, controller::ControllerState& state);

}  // namespace vyard::wiring
