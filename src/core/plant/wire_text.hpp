// What a wire of text carries.
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

}  // namespace vyard::plant
