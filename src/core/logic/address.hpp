// Direct addresses: %IX0.1, %QW4, %MD8 ... (IEC 61131-3, 6.5.5). The number counts bytes in every size, so that
// %IW2 holds the bits of %IB2 and %IB3; one byte memory per area, little-endian.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>

#include "core/base/base.hpp"

namespace vyard::logic {

enum class Area : std::uint8_t { None, Input, Output, Memory };

constexpr std::uint32_t kAreaLimit = 65536;  ///< Bytes an area may have.

struct Address {
    Area area = Area::None;
    std::uint32_t byte = 0;
    int bit = -1;  ///< 0..7 for X, else -1.
    int size = 1;  ///< Bytes: 1 for X and B, 2, 4, 8.

    std::uint32_t first_bit() const { return byte * 8 + (bit >= 0 ? static_cast<std::uint32_t>(bit) : 0U); }
    std::uint32_t bits() const { return bit >= 0 ? 1U : static_cast<std::uint32_t>(size) * 8U; }
    std::uint32_t end_bit() const { return first_bit() + bits(); }
    std::string text() const;
};

/// How the bits of one address lie to those of another: one may look at a part of the other, which is often meant; to
/// share some bits and not others hardly is.
enum class Overlap : std::uint8_t { None, Same, Within, Holds, Straddles };
Overlap overlap(const Address& a, const Address& b);
/// The same of bits [first, end) of one memory.
Overlap overlap(std::pair<std::uint32_t, std::uint32_t> a, std::pair<std::uint32_t, std::uint32_t> b);
/// What is said of two names that share bits so: nothing of parts; a remark on two names of one place in memory, a
/// warning on two names of one input or output, and on what straddles.
std::optional<base::Severity> overlap_severity(Overlap how, Area area);

/// Null when the text is no complete address; `why` then says what was expected.
std::optional<Address> parse_address(std::string_view text, std::string& why);

}  // namespace vyard::logic
