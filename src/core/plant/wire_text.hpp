// What wires carry: what was put on them (by a device or a controller), and what they show once their defects have
// acted. Whoever looks at a wire, a controller, an actuator or a condition, sees what it shows.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>

namespace vyard::plant {

/// Up to 80 bytes of UTF-8, as a STRING without a length of its own holds.
struct WireText {
    static constexpr std::size_t kMost = 80;
    std::array<char, kMost> characters{};
    std::uint8_t length = 0;

    std::string_view view() const { return {characters.data(), length}; }
    /// What does not fit is cut off. True when it is another text than before.
    bool set(std::string_view text) {
        text = text.substr(0, kMost);
        if (text == view()) return false;
        std::copy(text.begin(), text.end(), characters.begin());
        length = static_cast<std::uint8_t>(text.size());
        return true;
    }
    bool operator==(const WireText& other) const { return view() == other.view(); }
};

/// The texts of a wire of text.
struct TextWire {
    WireText put, shown;
    bool defective = false;  ///< Its defects, and nothing else, make what it shows.
};

}  // namespace vyard::plant
