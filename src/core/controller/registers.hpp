// Values of tags as registers of 16 bits and single bits, as the Modbus application protocol (V1.1b3, 4.3) has them.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "core/base/base.hpp"
#include "core/logic/logic.hpp"

namespace vyard::controller {

/// The four tables of the protocol. Coils and holding registers can be written from outside, the others only read.
enum class RegisterArea : std::uint8_t { Coil, Discrete, Input, Holding };

constexpr int kAreas = 4;
constexpr std::uint32_t kRegisters = 65'536;  ///< Of each table.

/// "coil", "discrete", "input", "holding".
const char* area_name(RegisterArea area);
constexpr bool is_bits(RegisterArea area) {
    return area == RegisterArea::Coil || area == RegisterArea::Discrete;
}
constexpr bool may_be_written(RegisterArea area) {
    return area == RegisterArea::Coil || area == RegisterArea::Holding;
}

/// Where a value stands: so many registers from the first on, or one bit. Numbers count from 0, as they are sent.
struct RegisterPlace {
    RegisterArea area = RegisterArea::Holding;
    std::uint32_t first = 0;
    int count = 1;
    int bit = -1;                 ///< Of a register: 0 the lowest; -1 for all of it.
    bool low_word_first = false;  ///< Of more than one register; usual is the highest first.
    bool swap_bytes = false;      ///< Within each register.

    bool operator==(const RegisterPlace&) const = default;
    std::uint32_t end() const { return first + static_cast<std::uint32_t>(count); }
};

/// How many registers a value takes: TIME two, as milliseconds; a text one for two characters, of a WSTRING for one.
/// 0 for what does not go over a link: dates and times of day. `capacity` counts for texts alone.
int registers_of(logic::Elementary type, int capacity);
/// "DINT of ms" and the like: what others have to take the registers for.
std::string on_the_link(logic::Elementary type);

/// A value in its own registers, in the order of the place. TIME beyond what 32 bits of milliseconds hold (24 days)
/// reads as the end of their range; a character that 16 bits do not hold, or that is no UTF-8, as a question mark.
void to_registers(const logic::Value& value, const RegisterPlace& place, std::span<std::uint16_t> out);
logic::Value from_registers(logic::Elementary type, const RegisterPlace& place, std::span<const std::uint16_t> in);

/// All four tables at one instant.
class RegisterImage {
  public:
    /// As long as the last place that is used of each table.
    void hold(const RegisterPlace& place);

    void put(const RegisterPlace& place, const logic::Value& value);
    logic::Value get(const RegisterPlace& place, logic::Elementary type) const;

    std::vector<std::uint8_t>& bits(RegisterArea area) { return area == RegisterArea::Coil ? coils_ : discretes_; }
    std::vector<std::uint16_t>& words(RegisterArea area) { return area == RegisterArea::Input ? inputs_ : holdings_; }
    const std::vector<std::uint8_t>& bits(RegisterArea area) const {
        return area == RegisterArea::Coil ? coils_ : discretes_;
    }
    const std::vector<std::uint16_t>& words(RegisterArea area) const {
        return area == RegisterArea::Input ? inputs_ : holdings_;
    }
    std::size_t size(RegisterArea area) const { return is_bits(area) ? bits(area).size() : words(area).size(); }

    bool operator==(const RegisterImage&) const = default;

  private:
    std::vector<std::uint8_t> coils_, discretes_;  ///< 0 or 1.
    std::vector<std::uint16_t> inputs_, holdings_;
};

}  // namespace vyard::controller
