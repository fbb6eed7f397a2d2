#include "live/screen/surface.hpp"

#include <algorithm>

namespace vyard::live {

void Surface::put(int x, int y, Cell cell) {
    if (x < 0 || y < 0 || x >= width_ || y >= height_ || !clip_.contains(x, y)) return;
    cells_[index(x, y)] = cell;
}

int Surface::text(int x, int y, std::string_view text, Ink ink, int room) {
    std::u32string letters = letters_of(text);
    const auto most = static_cast<std::size_t>(std::max(room, 0));
    if (letters.size() > most) {
        letters.resize(most);
        for (std::size_t i = most < 2 ? 0 : most - 2; i < most; ++i) letters[i] = U'.';
    }
    int column = x;
    for (const char32_t letter : letters) put(column++, y, {letter < U' ' ? U' ' : letter, ink, 0});
    return column - x;
}

void Surface::fill(const Area& area, Cell cell) {
    for (int y = area.y; y < area.y + area.height; ++y) {
        for (int x = area.x; x < area.x + area.width; ++x) put(x, y, cell);
    }
}

void Surface::tint(const Area& area, Ink ink) {
    for (int y = std::max(area.y, 0); y < std::min(area.y + area.height, height_); ++y) {
        for (int x = std::max(area.x, 0); x < std::min(area.x + area.width, width_); ++x) cells_[index(x, y)].ink = ink;
    }
}

Area Surface::frame(const Area& a, std::string_view title, bool chosen) {
    const Ink ink = chosen ? Ink::Title : Ink::Dim;
    const int right = a.x + a.width - 1, bottom = a.y + a.height - 1;
    for (int x = a.x + 1; x < right; ++x) {
        put(x, a.y, {U'─', ink, 0});
        put(x, bottom, {U'─', ink, 0});
    }
    for (int y = a.y + 1; y < bottom; ++y) {
        put(a.x, y, {U'│', ink, 0});
        put(right, y, {U'│', ink, 0});
    }
    put(a.x, a.y, {U'┌', ink, 0});
    put(right, a.y, {U'┐', ink, 0});
    put(a.x, bottom, {U'└', ink, 0});
    put(right, bottom, {U'┘', ink, 0});
    const int room = a.width - 6;
    if (room > 0) {
        put(a.x + 2, a.y, {U' ', ink, 0});
        const int took = text(a.x + 3, a.y, title, chosen ? Ink::Chosen : Ink::Title, room);
        put(a.x + 3 + took, a.y, {U' ', ink, 0});
    }
    return {a.x + 1, a.y + 1, std::max(a.width - 2, 0), std::max(a.height - 2, 0)};
}

std::string Surface::line(int y) const {
    std::string out;
    int last = width_;
    while (last > 0 && at(last - 1, y).letter == U' ') --last;
    for (int x = 0; x < last; ++x) out += utf8_of(at(x, y).letter);
    return out;
}

std::u32string letters_of(std::string_view text) {
    std::u32string out;
    for (std::size_t i = 0; i < text.size();) {
        const auto byte = static_cast<unsigned char>(text[i]);
        const std::size_t length = byte < 0x80 ? 1 : byte >= 0xF0 ? 4 : byte >= 0xE0 ? 3 : byte >= 0xC0 ? 2 : 0;
        char32_t letter = length == 1 ? byte : length == 0 ? 0 : byte & (0x7FU >> length);
        bool right = length > 0 && i + length <= text.size();
        for (std::size_t k = 1; right && k < length; ++k) {
            const auto next = static_cast<unsigned char>(text[i + k]);
            right = (next & 0xC0U) == 0x80U;
            letter = (letter << 6U) | (next & 0x3FU);
        }
        out += right ? letter : U'?';
        i += right ? length : 1;
    }
    return out;
}

std::string utf8_of(char32_t c) {
    std::string out;
    const auto add = [&](char32_t byte) { out += static_cast<char>(static_cast<unsigned char>(byte)); };
    if (c < 0x80) {
        add(c);
    } else if (c < 0x800) {
        add(0xC0U | (c >> 6U));
        add(0x80U | (c & 0x3FU));
    } else if (c < 0x10000) {
        add(0xE0U | (c >> 12U));
        add(0x80U | ((c >> 6U) & 0x3FU));
        add(0x80U | (c & 0x3FU));
    } else {
        add(0xF0U | (c >> 18U));
        add(0x80U | ((c >> 12U) & 0x3FU));
        add(0x80U | ((c >> 6U) & 0x3FU));
        add(0x80U | (c & 0x3FU));
    }
    return out;
}

char ascii_of(char32_t c) {
    if (c < 0x80) return static_cast<char>(c);
    static constexpr std::u32string_view kLetters = U"─│━┃░▒▓█■□●○◆◇▶◀▲▼·×…";
    static constexpr std::string_view kPlain = "-|=#.:%##o@o*+><^v.x.";
    static_assert(kLetters.size() == kPlain.size());
    if (const std::size_t at = kLetters.find(c); at != std::u32string_view::npos) return kPlain[at];
    if (c >= U'▁' && c <= U'▇') return "_..--==#"[c - U'▁'];
    if (c >= 0x2500 && c <= 0x257F) return '+';
    return '?';
}

char32_t bar_of(double share) {
    static constexpr std::u32string_view kBars = U"▁▂▃▄▅▆▇█";
    return share >= 0.999 ? kBars.back() : kBars[static_cast<std::size_t>(std::max(share, 0.0) * 7.0)];
}

int columns_of(std::string_view text) {
    return static_cast<int>(letters_of(text).size());
}

std::string cut(std::string_view text, int columns) {
    std::string out;
    for (const char32_t c : letters_of(text)) {
        if (columns-- <= 0) break;
        out += utf8_of(c);
    }
    return out;
}

}  // namespace vyard::live
