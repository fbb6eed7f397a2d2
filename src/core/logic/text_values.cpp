#include "core/logic/text_values.hpp"

#include <cstring>

namespace vyard::logic {

void write_text_head(std::byte* at, int capacity, int length) {
    const std::uint16_t head[2] = {static_cast<std::uint16_t>(capacity), static_cast<std::uint16_t>(length)};
    std::memcpy(at, head, sizeof head);
}

std::u16string wide_text(std::string_view bytes) {
    std::u16string out;
    for (std::size_t i = 0; i < bytes.size();) {
        const auto first = static_cast<unsigned char>(bytes[i]);
        const std::size_t more = first >= 0xF0 ? 3 : first >= 0xE0 ? 2 : first >= 0xC0 ? 1 : 0;
        std::uint32_t code = more == 0 ? first : first & (0x3FU >> more);
        bool good = i + more < bytes.size() || more == 0;
        for (std::size_t k = 1; good && k <= more; ++k) {
            const auto next = static_cast<unsigned char>(bytes[i + k]);
            good = (next & 0xC0U) == 0x80U;
            code = code << 6 | (next & 0x3FU);
        }
        if (!good) {
            out += static_cast<char16_t>(first);
            ++i;
            continue;
        }
        if (code >= 0x10000) {
            code -= 0x10000;
            out += static_cast<char16_t>(0xD800 | (code >> 10));
            code = 0xDC00 | (code & 0x3FF);
        }
        out += static_cast<char16_t>(code);
        i += more + 1;
    }
    return out;
}

std::string narrow_text(std::u16string_view units) {
    std::string out;
    for (std::size_t i = 0; i < units.size(); ++i) {
        std::uint32_t code = units[i];
        const bool pair =
            code >= 0xD800 && code < 0xDC00 && i + 1 < units.size() && units[i + 1] >= 0xDC00 && units[i + 1] < 0xE000;
        if (pair) code = 0x10000 + ((code & 0x3FFU) << 10) + (units[++i] & 0x3FFU);
        if (code < 0x80) {
            out += static_cast<char>(code);
            continue;
        }
        const int more = code < 0x800 ? 1 : code < 0x10000 ? 2 : 3;
        const std::uint32_t lead = more == 1 ? 0xC0 : more == 2 ? 0xE0 : 0xF0;
        out += static_cast<char>(lead | (code >> (6 * more)));
        for (int k = more - 1; k >= 0; --k) out += static_cast<char>(0x80U | ((code >> (6 * k)) & 0x3FU));
    }
    return out;
}

bool write_text(std::byte* at, Elementary type, int capacity, std::string_view bytes) {
    if (type == Elementary::Wstring) {
        const std::u16string units = wide_text(bytes);
        if (units.size() > static_cast<std::size_t>(capacity)) return false;
        write_text_head(at, capacity, static_cast<int>(units.size()));
        std::memcpy(at + kTextHead, units.data(), units.size() * 2);
        return true;
    }
    if (bytes.size() > static_cast<std::size_t>(capacity)) return false;
    write_text_head(at, capacity, static_cast<int>(bytes.size()));
    std::memcpy(at + kTextHead, bytes.data(), bytes.size());
    return true;
}

void assign_text(std::byte* at, Elementary type, std::string_view bytes) {
    std::uint16_t capacity = 0;
    std::memcpy(&capacity, at, sizeof capacity);
    if (type == Elementary::Wstring) {
        const std::u16string units = wide_text(bytes);
        const std::string cut = narrow_text(std::u16string_view(units).substr(0, capacity));
        write_text(at, type, capacity, cut);
    } else {
        write_text(at, type, capacity, bytes.substr(0, capacity));
    }
}

std::string read_text(const std::byte* at, Elementary type) {
    std::uint16_t length = 0;
    std::memcpy(&length, at + 2, sizeof length);
    if (type == Elementary::Wstring) {
        std::u16string units(length, u'\0');
        std::memcpy(units.data(), at + kTextHead, static_cast<std::size_t>(length) * 2);
        return narrow_text(units);
    }
    std::string out(length, '\0');
    std::memcpy(out.data(), at + kTextHead, length);
    return out;
}

std::uint64_t character_of(Elementary type, std::string_view bytes) {
    if (type == Elementary::Char) return bytes.empty() ? 0 : static_cast<unsigned char>(bytes[0]);
    const std::u16string units = wide_text(bytes);
    return units.empty() ? 0 : units[0];
}

}  // namespace vyard::logic
