// The panels of the screen: each draws on a surface what a sitting shows, and knows what its keys mean.
#pragma once

#include <deque>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "figures/logic_figure.hpp"
#include "figures/scene.hpp"
#include "live/screen/surface.hpp"
#include "live/sitting.hpp"

namespace vyard::live {

/// How watched values went of late, and when each changed, by the wall clock.
class Strips {
  public:
    static constexpr std::size_t kLength = 24;
    static constexpr base::Nanoseconds kEvery{100'000'000};
    static constexpr base::Nanoseconds kFresh{1'500'000'000};  ///< So long a change is shown as one.

    void sample(const Sitting& sitting, base::Nanoseconds now);
    bool fresh(const std::string& name, base::Nanoseconds now) const;
    /// The last `width` samples as bars from the least to the most seen.
    std::u32string bars(const std::string& name, std::size_t width) const;

  private:
    struct Strip {
        std::deque<double> samples;
        std::string last;
        base::Nanoseconds changed{-1'000'000'000'000};
    };
    std::map<std::string, Strip> strips_;
    base::Nanoseconds sampled_{};
};

class WatchPanel {
  public:
    void draw(Surface& s, const Area& area, const Sitting& sitting, const Strips& strips, base::Nanoseconds now,
              bool chosen);
    void move(int by) { at_ += by; }
    bool choose(int row);
    /// The order that writes the value of the open list to the chosen row, or all of its values; "" for none.
    std::string write(const Sitting& sitting, bool all) const;

  private:
    int first_ = 0, at_ = 0, count_ = 0;
};

/// What a person can put a hand on: buttons, selectors, knobs; and lamps and displays to see.
class OperatorPanel {
  public:
    void draw(Surface& s, const Area& area, const Sitting& sitting, const figures::Frame& frame, bool chosen);
    void move(int by) { at_ += by; }
    bool choose(int row);
    /// The order that Enter (or a click) gives for the chosen one; "" for none. `way`: -1 and 1 for left and right,
    /// 0 for Enter, 2 to hold it or let it go.
    std::string act(const Sitting& sitting, int way);

  private:
    std::vector<int> devices_;  ///< By row, as drawn last.
    int at_ = 0, first_ = 0;
};

class LogicPanel {
  public:
    void draw(Surface& s, const Area& area, const Sitting& sitting, bool ascii);
    std::string title() const;
    void unit_by(int by) { unit_ += by; }
    bool choose(const std::string& name, const Sitting& sitting);
    void scroll(int by);
    void follow(bool on) { follows_ = on; }
    bool follows() const { return follows_; }
    const std::string& unit_name() const { return name_; }
    static std::vector<std::string> unit_names(const Sitting& sitting);

  private:
    int unit_ = 0, first_ = 0, lines_ = 0, rows_ = 0;
    bool follows_ = true;
    std::string name_;
    std::vector<std::string> before_;  ///< Lines as drawn last.
    std::vector<base::Nanoseconds> changed_;
};

/// Everything that was said, the last at the bottom.
class MessagePanel {
  public:
    static constexpr std::size_t kMost = 1000;
    void add(const Reply& reply);
    void draw(Surface& s, const Area& area);
    void scroll(int by) { back_ = back_ + by < 0 ? 0 : back_ + by; }

  private:
    struct Line {
        std::string text;
        Ink ink;
    };
    std::deque<Line> lines_;
    int back_ = 0;
};

/// Controllers' modes, time, pace, scans, forces, faults, rules: always there.
void draw_status(Surface& s, int y, const Sitting& sitting);
/// All keys, over everything.
void draw_help(Surface& s, const Area& area);

/// Which controllers, by name, run: "line RUN".
std::string modes_text(const session::Session& session);

}  // namespace vyard::live
