// The full screen: panels over a prompt. Keys are orders in another form; all of them go through the sitting, so that
// what is done by key or mouse is recorded and can be done again.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <utility>

#include "live/loop.hpp"
#include "live/screen/completion.hpp"
#include "live/screen/layout.hpp"
#include "live/screen/panels.hpp"
#include "live/screen/prompt.hpp"
#include "live/screen/schematic.hpp"
#include "live/screen/terminal_thread.hpp"

namespace vyard::live {

/// At most so often the screen is drawn; a key shows its effect at once.
constexpr base::Nanoseconds kFrameTime{50'000'000};

/// All that stands on a screen, without a terminal: keys in, a surface out.
class Screen {
  public:
    Screen(Asker asker, std::string yard_folder, bool ascii);

    void key(const Key& key, Sitting& sitting, int width, int height);
    void add(const Reply& reply) { messages_.add(reply); }
    /// Draws everything as it is now.
    Surface draw(const Sitting& sitting, int width, int height, base::Nanoseconds now);
    /// Where the cursor stands; x < 0: nowhere.
    int cursor_x() const { return cursor_x_; }
    int cursor_y() const { return cursor_y_; }
    /// All of the terminal is to be written anew.
    bool take_anew() { return std::exchange(anew_, false); }
    /// Layout and lines written, for the next time.
    void remember() const;

  private:
    void prompt_key(const Key& key, Sitting& sitting);
    void panel_key(const Key& key, Sitting& sitting);
    void function_key(int number, Sitting& sitting);
    void control_key(char32_t letter);
    void mouse(const Key& key, Sitting& sitting);
    void toggle(Panel panel);
    void show_panel(const std::string& text);
    void next_panel(int by);
    void size_by(double by);
    void scroll(Panel panel, int by);
    void obey(const std::string& line, Sitting& sitting);
    void complete_line(const Sitting& sitting);
    void draw_panel(Surface& s, Panel panel, const Sitting& sitting, base::Nanoseconds now);
    void draw_prompt(Surface& s, int y, const Sitting& sitting);

    Asker asker_;
    std::string yard_folder_;
    bool ascii_;
    int number_ = 0;
    Prompt prompt_;
    Layout layout_;
    Placed placed_;
    std::optional<Panel> chosen_;  ///< Null: the prompt has the keys.
    Panel last_chosen_ = Panel::Plant;
    bool help_ = false, anew_ = false;
    std::vector<std::string> choices_;  ///< Of the last completion, while they are shown.
    Strips strips_;
    WatchPanel watch_;
    OperatorPanel operator_;
    LogicPanel logic_;
    MessagePanel messages_;
    figures::Scene scene_;
    session::SessionModelPtr scene_of_;
    figures::Frame frame_;
    int cursor_x_ = 0, cursor_y_ = 0;
};

/// What the order `panel` takes.
const std::vector<std::string>& panel_names();

class ScreenFront final : public Front {
  public:
    /// Null when the terminal cannot show a screen.
    static std::unique_ptr<ScreenFront> open(Asker asker, const std::string& yard_folder, bool ascii, std::string& why);
    ~ScreenFront() override;

    void wants(const Sitting&, std::vector<pollfd>& out) const override {
        out.push_back({terminal_->descriptor(), POLLIN, 0});
    }
    void serve(Sitting& sitting) override;
    bool more(const Sitting&) const override { return more_; }
    void show(const Sitting&, const Reply& reply) override;
    std::optional<base::Nanoseconds> draws_at() const override { return drawn_ + kFrameTime; }
    void draw(Sitting& sitting, base::Nanoseconds now, std::optional<base::Nanoseconds> until) override;
    bool ended() const override { return false; }

  private:
    ScreenFront(Asker asker, const std::string& yard_folder, std::unique_ptr<TerminalThread> terminal);

    std::unique_ptr<TerminalThread> terminal_;
    Screen screen_;
    std::map<std::string, base::Nanoseconds> changed_;  ///< When each watched name was last said to.
    base::Nanoseconds drawn_{};
    bool more_ = false;   ///< Keys are there still.
    bool wanted_ = true;  ///< A key was pressed or something was said: at once.
};

}  // namespace vyard::live
