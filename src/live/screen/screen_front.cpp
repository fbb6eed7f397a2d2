#include "live/screen/screen_front.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <sstream>

#include "files/text_file.hpp"

namespace vyard::live {

using base::Nanoseconds;

namespace {

constexpr const char* kTitles[kPanels] = {"Plant", "Watch", "Logic", "Operator", "Messages"};
/// A draw takes about so long; it is not begun when a step is due before that.
constexpr Nanoseconds kDrawTime{3'000'000};
/// What changes again within this time flows.
constexpr Nanoseconds kFlow{300'000'000};
constexpr int kKeysAtATime = 256;

std::string layout_path(const std::string& folder) {
    return files::join_path(folder, ".vyard/screen");
}
std::string history_path(const std::string& folder) {
    return files::join_path(folder, ".vyard/lines");
}

}  // namespace

const std::vector<std::string>& panel_names() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> out;
        for (const char* title : kTitles) out.push_back(base::fold(title));
        return out;
    }();
    return names;
}

Screen::Screen(Asker asker, std::string yard_folder, bool ascii)
    : asker_(asker), yard_folder_(std::move(yard_folder)), ascii_(ascii) {
    std::string why;
    if (const auto text = files::read_text(layout_path(yard_folder_), why)) layout_.read(*text);
    if (const auto text = files::read_text(history_path(yard_folder_), why)) {
        std::istringstream lines(*text);
        for (std::string line; std::getline(lines, line);) prompt_.remember(line);
    }
}

void Screen::remember() const {
    std::string lines, ignored;
    for (const std::string& line : prompt_.remembered()) lines.append(line).append("\n");
    // Only convenience: what cannot be written is not missed.
    (void)files::write_text(layout_path(yard_folder_), layout_.text(), ignored);
    (void)files::write_text(history_path(yard_folder_), lines, ignored);
}

// --- keys ---

void Screen::key(const Key& key, Sitting& sitting, int width, int height) {
    placed_ = place(layout_, width, height, chosen_.value_or(last_chosen_));
    if (chosen_ && !placed_.has(*chosen_)) chosen_.reset();
    using Kind = Key::Kind;
    if (key.kind == Kind::Resize) {
        anew_ = true;
        return;
    }
    if (help_) {
        help_ = false;
        if (key.kind != Kind::Function || key.number == 1) return;
    }
    switch (key.kind) {
        case Kind::Function: return function_key(key.number, sitting);
        case Kind::Mouse:
        case Kind::WheelUp:
        case Kind::WheelDown: return mouse(key, sitting);
        case Kind::Control:
            if (key.letter == U'l') {
                anew_ = true;
                return;
            }
            if (key.letter == U'c' || (key.letter == U'd' && prompt_.empty())) return obey("quit", sitting);
            if (!chosen_) control_key(key.letter);
            return;
        default: break;
    }
    if (chosen_) return panel_key(key, sitting);
    prompt_key(key, sitting);
}

void Screen::control_key(char32_t letter) {
    choices_.clear();
    switch (letter) {
        case U'a': return prompt_.home();
        case U'e': return prompt_.end();
        case U'b': return prompt_.left();
        case U'f': return prompt_.right();
        case U'd': return prompt_.erase();
        case U'u': return prompt_.erase_to_begin();
        case U'k': return prompt_.erase_to_end();
        case U'w': return prompt_.word_back();
        case U'p': return prompt_.older();
        case U'n': return prompt_.newer();
        case U'g': return prompt_.clear();
        default: return;
    }
}

void Screen::prompt_key(const Key& key, Sitting& sitting) {
    using Kind = Key::Kind;
    if (key.kind != Kind::Tab) choices_.clear();
    switch (key.kind) {
        case Kind::Letter:
            if (key.letter == U'?' && prompt_.empty()) {
                help_ = true;
            } else {
                prompt_.insert(key.letter);
            }
            return;
        case Kind::Enter: return obey(prompt_.take(), sitting);
        case Kind::Tab:
            if (prompt_.empty()) return next_panel(1);
            return complete_line(sitting);
        case Kind::BackTab: return next_panel(-1);
        case Kind::Escape: return prompt_.clear();
        case Kind::Backspace: return prompt_.backspace();
        case Kind::Delete: return prompt_.erase();
        case Kind::Left: return prompt_.left();
        case Kind::Right: return prompt_.right();
        case Kind::Home: return prompt_.home();
        case Kind::End: return prompt_.end();
        case Kind::Up: return prompt_.older();
        case Kind::Down: return prompt_.newer();
        case Kind::PageUp: return messages_.scroll(5);
        case Kind::PageDown: return messages_.scroll(-5);
        default: return;
    }
}

void Screen::panel_key(const Key& key, Sitting& sitting) {
    using Kind = Key::Kind;
    const Panel panel = *chosen_;
    const bool hands = panel == Panel::Operator, logic = panel == Panel::Logic;
    const auto act = [&](int way) {
        const std::string line = operator_.act(sitting, way);
        if (!line.empty()) obey(line, sitting);
    };
    switch (key.kind) {
        case Kind::Escape:
            chosen_.reset();
            layout_.alone = false;
            return;
        case Kind::Tab: return next_panel(1);
        case Kind::BackTab: return next_panel(-1);
        case Kind::Up: return hands ? operator_.move(-1) : scroll(panel, -1);
        case Kind::Down: return hands ? operator_.move(1) : scroll(panel, 1);
        case Kind::PageUp: return scroll(panel, -8);
        case Kind::PageDown: return scroll(panel, 8);
        case Kind::Left: return hands ? act(-1) : logic ? logic_.unit_by(-1) : void();
        case Kind::Right: return hands ? act(1) : logic ? logic_.unit_by(1) : void();
        case Kind::Enter: return hands ? act(0) : void();
        case Kind::Letter: break;
        default: return;
    }
    switch (key.letter) {
        case U' ': return hands ? act(2) : void();
        case U'+': return size_by(0.05);
        case U'-': return size_by(-0.05);
        case U'z': layout_.alone = !layout_.alone; return;
        case U'w':
        case U'W':
            if (panel != Panel::Watch) break;
            if (const std::string line = watch_.write(sitting, key.letter == U'W'); !line.empty()) obey(line, sitting);
            return;
        case U'f': return logic ? logic_.follow(!logic_.follows()) : void();
        case U'?': help_ = true; return;
        default: break;
    }
    // Whoever types something else means the prompt.
    chosen_.reset();
    layout_.alone = false;
    prompt_.insert(key.letter);
}

void Screen::function_key(int number, Sitting& sitting) {
    switch (number) {
        case 1: help_ = true; return;
        case 2: return toggle(Panel::Plant);
        case 3: return toggle(Panel::Watch);
        case 4: return toggle(Panel::Logic);
        case 5: return toggle(Panel::Operator);
        case 6: return toggle(Panel::Messages);
        case 7: return obey(sitting.paused() ? "go" : "pause", sitting);
        case 8: return obey("scan", sitting);
        case 9: return obey("step", sitting);
        case 10: return obey("quit", sitting);
        default: return;
    }
}

/// Shows a panel and goes to it; when it is there already, hides it.
void Screen::toggle(Panel panel) {
    bool& shown = layout_.shown[static_cast<std::size_t>(panel)];
    if (shown && chosen_ == panel && !layout_.alone) {
        shown = false;
        chosen_.reset();
        return;
    }
    shown = true;
    chosen_ = last_chosen_ = panel;
    if (panel == Panel::Plant || panel == Panel::Logic) layout_.last_left = panel;
}

/// "watch", "watch off"
void Screen::show_panel(const std::string& text) {
    const auto [name, how] = first_word(text);
    const auto& names = panel_names();
    const auto found = std::find(names.begin(), names.end(), name);
    if (found == names.end() || (!how.empty() && base::fold(how) != "off"))
        return messages_.add({std::nullopt,
                              fmt::format("error: '{}' is not a panel to show, or to put off\n    hint: {}", text,
                                          found == names.end() ? base::name_hint(name, names) : "panel watch off"),
                              Reply::Kind::Wrong, asker_});
    const auto panel = static_cast<Panel>(found - names.begin());
    if (how.empty()) {
        chosen_.reset();
        return toggle(panel);
    }
    layout_.shown[static_cast<std::size_t>(panel)] = false;
}

void Screen::next_panel(int by) {
    // The prompt is one of them, before the first.
    const int now = chosen_ ? static_cast<int>(*chosen_) + 1 : 0;
    for (int k = 1; k <= kPanels + 1; ++k) {
        const int next = (((now + by * k) % (kPanels + 1)) + kPanels + 1) % (kPanels + 1);
        if (next == 0) {
            chosen_.reset();
            return;
        }
        const auto panel = static_cast<Panel>(next - 1);
        if (!layout_.alone && !placed_.has(panel)) continue;
        chosen_ = last_chosen_ = panel;
        return;
    }
}

void Screen::size_by(double by) {
    const auto change = [&](double& share, double amount) { share = std::clamp(share + amount, 0.15, 0.85); };
    switch (*chosen_) {
        case Panel::Plant:
        case Panel::Logic: return change(layout_.left, by);
        case Panel::Watch: return change(layout_.upper_right, by);
        case Panel::Operator: return change(layout_.upper_right, -by);
        case Panel::Messages: return change(layout_.messages, by);
    }
}

void Screen::scroll(Panel panel, int by) {
    if (panel == Panel::Watch) watch_.move(by);
    if (panel == Panel::Logic) logic_.scroll(by);
    if (panel == Panel::Messages) messages_.scroll(-by);
    if (panel == Panel::Operator) operator_.move(by);
}

void Screen::mouse(const Key& key, Sitting& sitting) {
    for (int p = 0; p < kPanels; ++p) {
        const auto panel = static_cast<Panel>(p);
        if (!placed_.has(panel) || !placed_.of(panel).contains(key.x, key.y)) continue;
        if (key.kind != Key::Kind::Mouse) return scroll(panel, key.kind == Key::Kind::WheelUp ? -3 : 3);
        chosen_ = last_chosen_ = panel;
        const int row = key.y - placed_.of(panel).y - 1;
        if (panel == Panel::Watch) watch_.choose(row);
        if (panel != Panel::Operator || row < 0 || !operator_.choose(row)) return;
        const std::string line = operator_.act(sitting, 0);
        if (!line.empty()) obey(line, sitting);
        return;
    }
    if (key.kind == Key::Kind::Mouse) chosen_.reset();
}

void Screen::obey(const std::string& line, Sitting& sitting) {
    choices_.clear();
    const auto [word, rest] = first_word(line);
    if (word.empty()) return;
    if (word == "panel") return show_panel(rest);  // of the screen alone, as the next
    if (word == "unit") {
        if (!logic_.choose(rest, sitting)) {
            messages_.add({std::nullopt,
                           fmt::format("error: no unit is named '{}'\n    hint: {}", rest,
                                       base::name_hint(rest, LogicPanel::unit_names(sitting))),
                           Reply::Kind::Wrong, asker_});
        } else if (!placed_.has(Panel::Logic)) {
            toggle(Panel::Logic);
        }
        return;
    }
    sitting.obey(line, ++number_, asker_);
}

void Screen::complete_line(const Sitting& sitting) {
    const Completion found = complete(sitting, prompt_.before_cursor());
    choices_.clear();
    if (found.choices.empty()) return;
    const bool one = found.choices.size() == 1;
    if (one || found.common.size() > found.replaced)
        prompt_.complete(found.replaced, one ? found.choices[0] + " " : found.common);
    if (!one) choices_ = found.choices;
}

// --- drawing ---

Surface Screen::draw(const Sitting& sitting, int width, int height, Nanoseconds now) {
    Surface s(std::max(width, 1), std::max(height, 1));
    strips_.sample(sitting, now);
    placed_ = place(layout_, s.width(), s.height(), chosen_.value_or(last_chosen_));
    const session::Session& session = sitting.desk().session();
    if (scene_of_ != session.model_ptr()) {
        scene_of_ = session.model_ptr();
        scene_ = figures::scene_of(session.model());
    }
    frame_ = figures::frame_of(session);
    for (int p = 0; p < kPanels; ++p) {
        if (placed_.has(static_cast<Panel>(p))) draw_panel(s, static_cast<Panel>(p), sitting, now);
    }
    if (placed_.too_small && s.height() > 2) s.text(0, 0, "too small for panels", Ink::Alert, s.width());
    draw_prompt(s, placed_.prompt_y, sitting);
    if (s.height() > 1) draw_status(s, placed_.status_y, sitting);
    if (help_) {
        const int w = std::min(s.width(), 70), h = std::min(s.height() - 1, 20);
        draw_help(s, {(s.width() - w) / 2, std::max((s.height() - h) / 2, 0), w, h});
    }
    return s;
}

void Screen::draw_panel(Surface& s, Panel panel, const Sitting& sitting, Nanoseconds now) {
    const bool chosen = chosen_ == panel;
    std::string title = kTitles[static_cast<std::size_t>(panel)];
    if (panel == Panel::Plant) title = scene_.name;
    if (panel == Panel::Logic && !logic_.unit_name().empty()) title = logic_.title();
    const Area in = s.frame(placed_.of(panel), title, chosen);
    s.clip({placed_.of(panel).x, placed_.of(panel).y, placed_.of(panel).width, placed_.of(panel).height});
    switch (panel) {
        case Panel::Plant: draw_schematic(s, in, scene_, frame_); break;
        case Panel::Watch: watch_.draw(s, in, sitting, strips_, now, chosen); break;
        case Panel::Logic: logic_.draw(s, in, sitting, ascii_); break;
        case Panel::Operator: operator_.draw(s, in, sitting, frame_, chosen); break;
        case Panel::Messages: messages_.draw(s, in); break;
    }
    s.unclip();
}

void Screen::draw_prompt(Surface& s, int y, const Sitting&) {
    if (!choices_.empty()) {  // above the prompt, as many as there is room for
        std::string line;
        std::size_t shown = 0;
        for (const std::string& c : choices_) {
            if (columns_of(line) + columns_of(c) + 14 > 3 * s.width()) break;
            line.append(line.empty() ? "" : "  ").append(c);
            ++shown;
        }
        if (shown < choices_.size()) line.append(fmt::format("  +{} more", choices_.size() - shown));
        const std::u32string letters = letters_of(line);
        const int rows = std::max(1, (static_cast<int>(letters.size()) + s.width() - 1) / s.width());
        for (int r = 0; r < rows && y - rows + r >= 0; ++r) {
            s.fill({0, y - rows + r, s.width(), 1}, {U' ', Ink::Bar, 0});
            int x = 0;
            const auto from = static_cast<std::size_t>(r) * static_cast<std::size_t>(s.width());
            for (const char32_t c : letters.substr(from, static_cast<std::size_t>(s.width())))
                s.put(x++, y - rows + r, {c, Ink::Bar, 0});
        }
    }
    s.fill({0, y, s.width(), 1}, {});
    s.text(0, y, "> ", chosen_ ? Ink::Dim : Ink::Title);
    const int room = std::max(s.width() - 4, 1);
    const int cursor = static_cast<int>(prompt_.cursor());
    const int first = std::max(0, cursor - room + 1);  // a long line is shown where it is written
    int x = 2;
    for (std::size_t i = static_cast<std::size_t>(first); i < prompt_.line().size() && x < s.width() - 1; ++i)
        s.put(x++, y, {prompt_.line()[i], Ink::Plain, 0});
    if (prompt_.empty())
        s.text(3, y, chosen_ ? "Esc: back to the prompt   ? keys" : "an order, or Tab to the panels   ? keys", Ink::Dim,
               s.width() - 4);
    cursor_x_ = chosen_ ? -1 : 2 + cursor - first;
    cursor_y_ = y;
}

// --- the front ---

std::unique_ptr<ScreenFront> ScreenFront::open(Asker asker, const std::string& yard_folder, bool ascii,
                                               std::string& why) {
    auto terminal = TerminalThread::open(ascii, why);
    if (terminal == nullptr) return nullptr;
    return std::unique_ptr<ScreenFront>(new ScreenFront(asker, yard_folder, std::move(terminal)));
}

ScreenFront::ScreenFront(Asker asker, const std::string& yard_folder, std::unique_ptr<TerminalThread> terminal)
    : terminal_(std::move(terminal)), screen_(asker, yard_folder, terminal_->ascii()) {}

ScreenFront::~ScreenFront() {
    screen_.remember();
}

void ScreenFront::serve(Sitting& sitting) {
    if (terminal_->gone()) return sitting.end("the terminal is gone");
    more_ = false;
    for (int k = 0; k < kKeysAtATime && !sitting.over(); ++k) {
        const auto key = terminal_->key();
        if (!key) return;
        screen_.key(*key, sitting, terminal_->width(), terminal_->height());
        wanted_ = true;
    }
    more_ = true;
}

/// What flows is seen in the watch list; as messages it would push out all others.
void ScreenFront::show(const Sitting&, const Reply& reply) {
    if (reply.kind == Reply::Kind::Change && reply.at) {
        const auto [at, first] = changed_.try_emplace(reply.text.substr(0, reply.text.find(" = ")), *reply.at);
        const bool flows = !first && *reply.at >= at->second && *reply.at < at->second + kFlow;
        at->second = *reply.at;
        if (flows) return;
    }
    screen_.add(reply);
}

void ScreenFront::draw(Sitting& sitting, Nanoseconds now, std::optional<Nanoseconds> until) {
    if (sitting.over()) return;
    if (!wanted_ && now < drawn_ + kFrameTime) return;
    // Between two steps there is time enough, once the step that is due has been made.
    if (!wanted_ && until && *until < now + kDrawTime && now < drawn_ + 2 * kFrameTime) return;
    wanted_ = false;
    drawn_ = now;
    Surface surface = screen_.draw(sitting, terminal_->width(), terminal_->height(), now);
    const bool anew = screen_.take_anew();
    terminal_->show(std::move(surface), screen_.cursor_x(), screen_.cursor_y(), anew);
}

}  // namespace vyard::live
