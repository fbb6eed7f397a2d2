// The terminal behind a screen (ncurses): keys in, a surface out. One at a time; it sets the terminal back when it
// ends.
#pragma once

#include <memory>
#include <optional>
#include <string>

#include "live/screen/surface.hpp"

namespace vyard::live {

/// What was pressed.
struct Key {
    enum class Kind {
        Letter,
        Enter,
        Tab,
        BackTab,
        Escape,
        Backspace,
        Delete,
        Left,
        Right,
        Up,
        Down,
        Home,
        End,
        PageUp,
        PageDown,
        Function,  ///< `number`: of F1, F2 ...
        Control,   ///< `letter`: with Ctrl.
        Mouse,     ///< `x`, `y`.
        WheelUp,
        WheelDown,
        Resize
    } kind = Kind::Letter;
    char32_t letter = 0;
    int number = 0, x = 0, y = 0;
};

class Terminal {
  public:
    /// Null when there is none that can show a screen; `why` says so.
    static std::unique_ptr<Terminal> open(bool ascii, std::string& why);
    ~Terminal();
    Terminal(const Terminal&) = delete;
    Terminal& operator=(const Terminal&) = delete;

    int width() const;
    int height() const;
    bool ascii() const;
    /// The next key that is there; never waits.
    std::optional<Key> key();
    /// Only what changed goes to the terminal. The cursor stands at `x`, `y` afterwards; x < 0 hides it.
    void paint(const Surface& surface, int x, int y);
    /// All of it, as something else wrote there.
    void anew();

  private:
    Terminal();
    struct Inside;
    std::unique_ptr<Inside> inside_;
};

}  // namespace vyard::live
