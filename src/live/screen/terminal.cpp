#include "live/screen/terminal.hpp"

#define NCURSES_WIDECHAR 1
#define NCURSES_NOMACROS 1
#include <curses.h>
#include <langinfo.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <clocale>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <map>

namespace vyard::live {

namespace {

constexpr int kInks = static_cast<int>(Ink::Item) + 1;
constexpr int kFirstItemPair = 32;

/// By ink: colours of 16 and 256, and what stands for them without.
struct Look {
    int basic, rich;     ///< Foreground; -1: the terminal's own.
    int background;      ///< -1: the terminal's own.
    attr_t with, alone;  ///< Attributes beside colours, and without.
};

Look look_of(Ink ink) {
    switch (ink) {
        case Ink::Plain: return {-1, -1, -1, A_NORMAL, A_NORMAL};
        case Ink::Dim: return {-1, 245, -1, A_DIM, A_NORMAL};
        case Ink::Title: return {-1, -1, -1, A_BOLD, A_BOLD};
        case Ink::True: return {COLOR_GREEN, 36, -1, A_BOLD, A_BOLD};
        case Ink::Active: return {COLOR_YELLOW, 172, -1, A_BOLD, A_BOLD};
        case Ink::Alert: return {COLOR_RED, 203, -1, A_BOLD, A_BOLD | A_UNDERLINE};
        case Ink::Water: return {COLOR_CYAN, 75, -1, A_NORMAL, A_NORMAL};
        case Ink::Light: return {COLOR_YELLOW, 178, -1, A_BOLD, A_BOLD};
        case Ink::Forced: return {COLOR_BLACK, 16, COLOR_YELLOW, A_NORMAL, A_REVERSE};
        case Ink::Changed: return {COLOR_MAGENTA, 133, -1, A_BOLD, A_BOLD};
        case Ink::Chosen: return {-1, -1, -1, A_REVERSE, A_REVERSE};
        case Ink::Bar: return {COLOR_WHITE, 252, COLOR_BLUE, A_NORMAL, A_REVERSE};
        case Ink::Item: return {-1, -1, -1, A_NORMAL, A_NORMAL};
    }
    return {-1, -1, -1, A_NORMAL, A_NORMAL};
}

/// Nearest of the cube of 6 x 6 x 6 of 256 colours, or of the first 8.
int nearest_colour(unsigned rgb, bool rich) {
    const int r = static_cast<int>(rgb >> 16U & 0xFFU), g = static_cast<int>(rgb >> 8U & 0xFFU),
              b = static_cast<int>(rgb & 0xFFU);
    if (!rich) return (r > 110 ? 1 : 0) | (g > 110 ? 2 : 0) | (b > 110 ? 4 : 0);
    const auto step = [](int v) { return v < 48 ? 0 : v < 115 ? 1 : std::min((v - 35) / 40, 5); };
    return 16 + 36 * step(r) + 6 * step(g) + step(b);
}

}  // namespace

struct Terminal::Inside {
    SCREEN* screen = nullptr;
    bool ascii = false, colours = false, rich = false;
    std::map<unsigned, short> items;  ///< Pairs by colour.
    std::vector<Cell> painted;
    int width = 0, height = 0;

    short item_pair(unsigned rgb) {
        const auto found = items.find(rgb);
        if (found != items.end()) return found->second;
        const auto pair = static_cast<short>(kFirstItemPair + static_cast<int>(items.size()));
        if (pair >= COLOR_PAIRS) return 0;
        init_pair(pair, static_cast<short>(nearest_colour(rgb, rich)), -1);
        items[rgb] = pair;
        return pair;
    }
};

Terminal::Terminal() : inside_(std::make_unique<Inside>()) {}

std::unique_ptr<Terminal> Terminal::open(bool ascii, std::string& why) {
    std::setlocale(LC_CTYPE, "");
    std::unique_ptr<Terminal> out(new Terminal());
    Inside& in = *out->inside_;
    in.screen = ::newterm(nullptr, stdout, stdin);
    if (in.screen == nullptr) {
        const char* term = std::getenv("TERM");
        why = std::string("the terminal '") + (term == nullptr ? "" : term) + "' cannot show a screen";
        return nullptr;
    }
    in.ascii = ascii || std::strcmp(::nl_langinfo(CODESET), "UTF-8") != 0;
    ::raw();  // Ctrl-C and Ctrl-S are keys: nothing typed stops the screen or ends it unasked
    ::noecho();
    ::nonl();
    ::set_escdelay(25);
    ::keypad(stdscr, TRUE);
    ::nodelay(stdscr, TRUE);
    ::mousemask(BUTTON1_PRESSED | BUTTON1_CLICKED | BUTTON4_PRESSED | BUTTON5_PRESSED, nullptr);
    ::mouseinterval(0);
    const char* without = std::getenv("NO_COLOR");
    in.colours = !ascii && (without == nullptr || *without == '\0') && ::has_colors();
    if (in.colours) {
        ::start_color();
        ::use_default_colors();
        in.rich = COLORS >= 256;
        for (int i = 0; i < kInks; ++i) {
            const Look look = look_of(static_cast<Ink>(i));
            init_pair(static_cast<short>(i + 1), static_cast<short>(in.rich ? look.rich : look.basic),
                      static_cast<short>(look.background));
        }
    }
    return out;
}

Terminal::~Terminal() {
    if (inside_->screen == nullptr) return;
    ::endwin();
    ::delscreen(inside_->screen);
}

int Terminal::width() const {
    return COLS;
}
int Terminal::height() const {
    return LINES;
}
bool Terminal::ascii() const {
    return inside_->ascii;
}

std::optional<Key> Terminal::key() {
    wint_t got = 0;
    const int kind = ::get_wch(&got);
    if (kind == ERR) return std::nullopt;
    using Kind = Key::Kind;
    const auto key = [](Kind k) { return Key{k, 0, 0, 0, 0}; };
    if (kind == KEY_CODE_YES) {
        if (got >= KEY_F(1) && got <= KEY_F(12)) return Key{Kind::Function, 0, static_cast<int>(got) - KEY_F(0), 0, 0};
        switch (got) {
            case KEY_LEFT: return key(Kind::Left);
            case KEY_RIGHT: return key(Kind::Right);
            case KEY_UP: return key(Kind::Up);
            case KEY_DOWN: return key(Kind::Down);
            case KEY_HOME: return key(Kind::Home);
            case KEY_END: return key(Kind::End);
            case KEY_PPAGE: return key(Kind::PageUp);
            case KEY_NPAGE: return key(Kind::PageDown);
            case KEY_BACKSPACE: return key(Kind::Backspace);
            case KEY_DC: return key(Kind::Delete);
            case KEY_BTAB: return key(Kind::BackTab);
            case KEY_ENTER: return key(Kind::Enter);
            case KEY_RESIZE: return key(Kind::Resize);
            case KEY_MOUSE: {
                MEVENT event{};
                if (::getmouse(&event) != OK) return key(Kind::Resize);
                const Kind k = (event.bstate & BUTTON4_PRESSED) != 0   ? Kind::WheelUp
                               : (event.bstate & BUTTON5_PRESSED) != 0 ? Kind::WheelDown
                                                                       : Kind::Mouse;
                return Key{k, 0, 0, event.x, event.y};
            }
            default: return key(Kind::Resize);  // none of ours; drawing anew does no harm
        }
    }
    switch (got) {
        case '\r':
        case '\n': return key(Kind::Enter);
        case '\t': return key(Kind::Tab);
        case 27: return key(Kind::Escape);
        case 127:
        case 8: return key(Kind::Backspace);
        default: break;
    }
    if (got < 32) return Key{Kind::Control, static_cast<char32_t>(got + 'a' - 1), 0, 0, 0};
    return Key{Kind::Letter, static_cast<char32_t>(got), 0, 0, 0};
}

void Terminal::anew() {
    inside_->painted.clear();
    ::clearok(curscr, TRUE);
}

void Terminal::paint(const Surface& s, int x, int y) {
    Inside& in = *inside_;
    if (in.width != s.width() || in.height != s.height() || in.painted.empty()) {
        in.width = s.width();
        in.height = s.height();
        in.painted.assign(static_cast<std::size_t>(in.width) * static_cast<std::size_t>(in.height),
                          Cell{0, Ink::Plain, 0});
        ::erase();
    }
    for (int row = 0; row < s.height(); ++row) {
        for (int column = 0; column < s.width(); ++column) {
            const Cell& c = s.at(column, row);
            Cell& was = in.painted[static_cast<std::size_t>(row) * static_cast<std::size_t>(in.width) +
                                   static_cast<std::size_t>(column)];
            if (c == was) continue;
            was = c;
            // A name in a file may hold anything; what steers a terminal does not reach it.
            const bool steers = c.letter < U' ' || (c.letter >= 0x7F && c.letter < 0xA0);
            const char32_t letter = steers ? U'?' : c.letter;
            const Look look = look_of(c.ink);
            const short pair = !in.colours          ? static_cast<short>(0)
                               : c.ink == Ink::Item ? in.item_pair(c.rgb)
                                                    : static_cast<short>(static_cast<int>(c.ink) + 1);
            const std::array<wchar_t, 2> text{
                static_cast<wchar_t>(in.ascii ? static_cast<char32_t>(static_cast<unsigned char>(ascii_of(letter)))
                                              : letter),
                0};
            cchar_t cell{};
            ::setcchar(&cell, text.data(), in.colours ? look.with : look.alone, pair, nullptr);
            ::mvadd_wch(row, column, &cell);
        }
    }
    ::curs_set(x < 0 ? 0 : 1);
    if (x >= 0) ::move(y, x);
    ::refresh();
}

}  // namespace vyard::live
