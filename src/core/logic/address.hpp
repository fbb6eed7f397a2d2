// Direct addresses: %IX0.1, %QW4, %MD8 ... (IEC 61131-3, 6.5.5). The number counts bytes in every size, so that
// %IW2 holds the bits of %IB2 and %IB3; one byte memory per area, little-endian.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace vyard::logic {

enum class Area : std::uint8_t { None, Input, Output, Memory };

constexpr std::uint32_t kAreaLimit = 65536;  ///< Bytes an area may have.

struct Address {
    Area area = Area::None;
    std::uint32_t byte = 0;
    int bit = -1;  ///< 0..7 for X, else -1.
    int size = 1;  ///< Bytes: 1 for X and B, 2, 4, 8.

    std::string text() const;
};

/// Null when the text is no complete address; `why` then says what was expected.
std::optional<Address> parse_address(std::string_view text, std::string& why);

}  // namespace vyard::logic
