#include "core/logic/address.hpp"

#include <fmt/format.h>

#include <charconv>

#include "core/base/base.hpp"

namespace vyard::logic {

namespace {

constexpr const char* kExpected = "expected an area, a size and a byte, such as %IX0.0, %QB4, %IW6, %MD8 or %ML16";

bool take_number(std::string_view& rest, std::uint32_t& value) {
    const auto [end, failure] = std::from_chars(rest.data(), rest.data() + rest.size(), value);
    if (failure != std::errc()) return false;
    rest.remove_prefix(static_cast<std::size_t>(end - rest.data()));
    return true;
}

}  // namespace

std::string Address::text() const {
    static constexpr char kAreas[] = {'?', 'I', 'Q', 'M'};
    if (bit >= 0) return fmt::format("%{}X{}.{}", kAreas[static_cast<int>(area)], byte, bit);
    const char letter = size == 1 ? 'B' : size == 2 ? 'W' : size == 4 ? 'D' : 'L';
    return fmt::format("%{}{}{}", kAreas[static_cast<int>(area)], letter, byte);
}

Overlap overlap(std::pair<std::uint32_t, std::uint32_t> a, std::pair<std::uint32_t, std::uint32_t> b) {
    if (a.second <= b.first || b.second <= a.first) return Overlap::None;
    const bool within = a.first >= b.first && a.second <= b.second;
    const bool holds = b.first >= a.first && b.second <= a.second;
    return within && holds ? Overlap::Same : within ? Overlap::Within : holds ? Overlap::Holds : Overlap::Straddles;
}

Overlap overlap(const Address& a, const Address& b) {
    if (a.area != b.area || a.area == Area::None) return Overlap::None;
    return overlap(std::pair(a.first_bit(), a.end_bit()), std::pair(b.first_bit(), b.end_bit()));
}

std::optional<base::Severity> overlap_severity(Overlap how, Area area) {
    if (how == Overlap::Straddles) return base::Severity::Warning;
    if (how == Overlap::Same) return area == Area::Memory ? base::Severity::Remark : base::Severity::Warning;
    return std::nullopt;
}

std::optional<Address> parse_address(std::string_view text, std::string& why) {
    why = kExpected;
    const std::string folded = base::fold(text);
    std::string_view rest = folded;
    if (rest.size() < 3 || rest[0] != '%') return std::nullopt;
    Address out;
    switch (rest[1]) {
        case 'i': out.area = Area::Input; break;
        case 'q': out.area = Area::Output; break;
        case 'm': out.area = Area::Memory; break;
        default: return std::nullopt;
    }
    rest.remove_prefix(2);
    char size = 'x';
    if (rest[0] >= 'a') {
        size = rest[0];
        rest.remove_prefix(1);
    }
    if (!take_number(rest, out.byte)) return std::nullopt;
    switch (size) {
        case 'x':
        case 'b': out.size = 1; break;
        case 'w': out.size = 2; break;
        case 'd': out.size = 4; break;
        case 'l': out.size = 8; break;
        default: return std::nullopt;
    }
    if (size == 'x') {
        std::uint32_t bit = 0;
        if (rest.empty() || rest[0] != '.') {
            why = "a bit address needs its bit, such as %IX0.3";
            return std::nullopt;
        }
        rest.remove_prefix(1);
        if (!take_number(rest, bit) || bit > 7) {
            why = "the bit of a byte is 0 to 7";
            return std::nullopt;
        }
        out.bit = static_cast<int>(bit);
    }
    if (!rest.empty()) return std::nullopt;
    if (out.byte + static_cast<std::uint32_t>(out.size) > kAreaLimit) {
        why = fmt::format("an area holds {} bytes", kAreaLimit);
        return std::nullopt;
    }
    return out;
}

}  // namespace vyard::logic
