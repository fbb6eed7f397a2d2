#include "live/screen/panels.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "report/logic_text.hpp"

namespace vyard::live {

using base::Nanoseconds;

// --- strips ---

void Strips::sample(const Sitting& sitting, Nanoseconds now) {
    const bool due = now >= sampled_ + kEvery;
    if (due) sampled_ = now;
    for (const Watched& w : sitting.desk().watched()) {
        Strip& strip = strips_[w.name];
        if (!strip.last.empty() && strip.last != w.last) strip.changed = now;
        strip.last = w.last;
        if (!due) continue;
        strip.samples.push_back(w.number(sitting.desk().session()));
        if (strip.samples.size() > kLength) strip.samples.pop_front();
    }
}

bool Strips::fresh(const std::string& name, Nanoseconds now) const {
    const auto found = strips_.find(name);
    return found != strips_.end() && now < found->second.changed + kFresh;
}

std::u32string Strips::bars(const std::string& name, std::size_t width) const {
    const auto found = strips_.find(name);
    if (found == strips_.end() || found->second.samples.empty()) return {};
    const auto& samples = found->second.samples;
    const auto [least, most] = std::minmax_element(samples.begin(), samples.end());
    const double span = *most - *least;
    std::u32string out;
    for (std::size_t i = samples.size() > width ? samples.size() - width : 0; i < samples.size(); ++i) {
        const double share = span > 0.0 ? (samples[i] - *least) / span : (samples[i] != 0.0 ? 1.0 : 0.0);
        out += bar_of(share);
    }
    return out;
}

// --- the watch list ---

void WatchPanel::draw(Surface& s, const Area& area, const Sitting& sitting, const Strips& strips, Nanoseconds now,
                      bool chosen) {
    const auto& watched = sitting.desk().watched();
    if (watched.empty()) {
        s.text(area.x, area.y, "watch NAME, lift_*, CONDITION", Ink::Dim, area.width);
        s.text(area.x, area.y + 1, "list NAME: a list of the yard", Ink::Dim, area.width);
        return;
    }
    count_ = static_cast<int>(watched.size());
    at_ = std::clamp(at_, 0, count_ - 1);
    first_ = std::clamp(first_, std::max(0, at_ - area.height + 1), at_);
    int widest = 3;
    for (const Watched& w : watched) widest = std::max(widest, columns_of(w.name));
    widest = std::min(widest, area.width / 2);
    const int strip = area.width >= 44 ? 10 : area.width >= 34 ? 6 : 0;
    for (int row = 0; row < area.height && first_ + row < count_; ++row) {
        const Watched& w = base::at(watched, first_ + row);
        const int y = area.y + row;
        const bool forced = w.last.find("(forced") != std::string::npos;
        const bool fresh = strips.fresh(w.name, now);
        s.put(area.x, y, {forced ? U'F' : fresh ? U'*' : U' ', forced ? Ink::Forced : Ink::Changed, 0});
        s.text(area.x + 1, y, w.name, Ink::Plain, widest);
        const Ink ink = forced ? Ink::Forced : fresh ? Ink::Changed : w.last == "TRUE" ? Ink::True : Ink::Plain;
        const int at = area.x + 2 + widest, room = area.width - widest - 2 - (strip > 0 ? strip + 1 : 0);
        const std::string* value = sitting.list_value(w.name);
        const int took = s.text(at, y, w.last, ink, room);
        if (value != nullptr && took + 2 < room) s.text(at + took + 1, y, "w:" + *value, Ink::Dim, room - took - 1);
        if (chosen && first_ + row == at_) s.tint({area.x, y, widest + 1, 1}, Ink::Chosen);
        if (strip == 0) continue;
        int x = area.x + area.width - strip;
        for (const char32_t bar : strips.bars(w.name, static_cast<std::size_t>(strip)))
            s.put(x++, y, {bar, Ink::Dim, 0});
    }
}

bool WatchPanel::choose(int row) {
    if (row < 0 || first_ + row >= count_) return false;
    at_ = first_ + row;
    return true;
}

std::string WatchPanel::write(const Sitting& sitting, bool all) const {
    if (sitting.open_list().empty() || count_ == 0) return {};
    if (all) return fmt::format("list {} write", sitting.open_list());
    const auto& watched = sitting.desk().watched();
    if (at_ >= static_cast<int>(watched.size())) return {};
    return fmt::format("list {} write {}", sitting.open_list(), base::at(watched, at_).name);
}

// --- the operator's panel ---

namespace {

/// The hand control that a key uses: of a button press, of a selector turn, of a knob set.
const plant::ControlSpec* main_control(const plant::DeviceModel& d) {
    return d.kind->controls.empty() ? nullptr : d.kind->controls.data();
}

}  // namespace

void OperatorPanel::draw(Surface& s, const Area& area, const Sitting& sitting, const figures::Frame& frame,
                         bool chosen) {
    const plant::PlantModel& plant = *sitting.desk().session().model().plant;
    devices_.clear();
    // The panel itself first, then what else a hand can be put on.
    for (const bool panel : {true, false}) {
        for (std::size_t d = 0; d < plant.devices.size(); ++d) {
            const plant::Kind& kind = *plant.devices[d].kind;
            if ((kind.family == "panel") == panel && (panel || !kind.controls.empty()))
                devices_.push_back(static_cast<int>(d));
        }
    }
    if (devices_.empty()) {
        s.text(area.x, area.y, "nothing to put a hand on", Ink::Dim, area.width);
        return;
    }
    const int count = static_cast<int>(devices_.size());
    at_ = (at_ % count + count) % count;
    first_ = std::clamp(first_, std::max(0, at_ - area.height + 1), at_);
    int widest = 6;
    for (const int d : devices_) widest = std::max(widest, columns_of(plant.device(d).name));
    widest = std::min(widest, area.width - 12);
    for (int row = 0; row < area.height && first_ + row < count; ++row) {
        const int device = base::at(devices_, first_ + row);
        const plant::DeviceModel& d = plant.device(device);
        const figures::FrameDevice& now = base::at(frame.devices, device);
        const int y = area.y + row;
        const bool hand = main_control(d) != nullptr;
        const bool lit = d.kind->tile == plant::Tile::Light || d.kind->tile == plant::Tile::Signal;
        const char32_t mark = now.on ? (hand ? U'■' : U'●') : (hand ? U'□' : U'○');
        s.put(area.x, y, {mark, now.fault ? Ink::Alert : !now.on ? Ink::Dim : lit ? Ink::Light : Ink::Active, 0});
        s.text(area.x + 2, y, d.name, hand ? Ink::Plain : Ink::Dim, widest);
        std::string reading = now.reading;
        if (d.in_plan && reading.empty() && hand) reading = d.kind->name;
        s.text(area.x + 3 + widest, y, reading + (now.fault ? " FAULT" : ""),
               now.fault ? Ink::Alert
               : now.on  ? (lit ? Ink::Light : Ink::Active)
                         : Ink::Plain,
               area.width - widest - 3);
        if (chosen && first_ + row == at_) s.tint({area.x, y, area.width, 1}, Ink::Chosen);
    }
}

bool OperatorPanel::choose(int row) {
    if (first_ + row < 0 || first_ + row >= static_cast<int>(devices_.size())) return false;
    at_ = first_ + row;
    return true;
}

std::string OperatorPanel::act(const Sitting& sitting, int way) {
    if (devices_.empty()) return {};
    const session::Session& session = sitting.desk().session();
    const plant::PlantModel& plant = *session.model().plant;
    const int device = base::at(devices_, std::clamp(at_, 0, static_cast<int>(devices_.size()) - 1));
    const plant::DeviceModel& d = plant.device(device);
    const plant::ControlSpec* control = main_control(d);
    if (control == nullptr) return {};
    const auto read = [&](const char* name) {
        const auto reading = plant::find_actual(plant, d.name, name);
        return reading ? plant::read(plant, session.plant(), *reading) : 0.0;
    };
    if (control->takes_position) {
        const int count = static_cast<int>(d.positions.size());
        const int now = static_cast<int>(read(d.kind->actuals.empty() ? "" : d.kind->actuals[0].name.c_str()));
        const int next = ((now + (way < 0 ? -1 : 1)) % count + count) % count;
        return fmt::format("{} {} to {}", control->verb, d.name, base::at(d.positions, next));
    }
    if (control->takes_value) {
        if (d.kind->actuals.empty() || way == 0 || way == 2) return {};
        const double step = (control->high - control->low) / 20;
        const double value =
            std::clamp(read(d.kind->actuals[0].name.c_str()) + way * step, control->low, control->high);
        return fmt::format("{} {} to {}", control->verb, d.name, base::quantity_text(value, control->dimension));
    }
    const plant::ControlSpec* opposite = d.kind->controls.size() > 1 ? &d.kind->controls[1] : nullptr;
    const bool momentary = opposite != nullptr && opposite->verb == "release";
    // Its first actual says how it stands: what is done is undone.
    const bool done = opposite != nullptr && !d.kind->actuals.empty() && read(d.kind->actuals[0].name.c_str()) != 0.0;
    if (momentary && way != 2) return fmt::format("{} {} for 200 ms", control->verb, d.name);
    return fmt::format("{} {}", done ? opposite->verb : control->verb, d.name);
}

// --- logic ---

std::vector<std::string> LogicPanel::unit_names(const Sitting& sitting) {
    std::vector<std::string> out;
    for (const figures::LogicUnit& u : figures::logic_units(sitting.desk().session().model(), false))
        out.push_back(u.name);
    return out;
}

bool LogicPanel::choose(const std::string& name, const Sitting& sitting) {
    const auto all = figures::logic_units(sitting.desk().session().model(), false);
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (base::fold(all[i].name) != base::fold(name)) continue;
        unit_ = static_cast<int>(i);
        first_ = 0;
        return true;
    }
    return false;
}

void LogicPanel::scroll(int by) {
    follows_ = false;
    first_ = std::clamp(first_ + by, 0, std::max(0, lines_ - rows_));
}

std::string LogicPanel::title() const {
    return fmt::format("Logic: {}{}", name_, follows_ ? ", follows changes" : "");
}

void LogicPanel::draw(Surface& s, const Area& area, const Sitting& sitting, bool ascii) {
    const auto all = figures::logic_units(sitting.desk().session().model(), false);
    if (all.empty()) {
        s.text(area.x, area.y, "there is no logic with a body", Ink::Dim, area.width);
        return;
    }
    const int count = static_cast<int>(all.size());
    unit_ = (unit_ % count + count) % count;
    const figures::LogicUnit& unit = base::at(all, unit_);
    if (unit.name != name_) {
        before_.clear();
        first_ = 0;
    }
    name_ = unit.name;
    const auto seen = figures::seen_at(sitting.desk().session(), unit, nullptr);
    std::vector<std::string> lines;
    const std::string text = seen ? report::unit_text(*seen, {ascii, static_cast<std::size_t>(std::max(area.width, 0))})
                                  : std::string("it is not there");
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        lines.push_back(text.substr(at, end - at));
        at = end + 1;
    }
    lines_ = static_cast<int>(lines.size());
    rows_ = area.height;
    int changed = -1;
    for (int i = 0; i < lines_ && lines.size() == before_.size() && changed < 0; ++i) {
        if (base::at(lines, i) != base::at(before_, i)) changed = i;
    }
    if (follows_ && changed >= 0 && (changed < first_ || changed >= first_ + rows_)) first_ = changed - rows_ / 3;
    first_ = std::clamp(first_, 0, std::max(0, lines_ - rows_));
    before_ = lines;
    for (int row = 0; row < rows_ && first_ + row < lines_; ++row) {
        int x = area.x;
        for (const char32_t c : letters_of(base::at(lines, first_ + row))) {
            if (x >= area.x + area.width) break;
            const bool heavy = std::u32string_view(U"━┃┛┗┻┓┏┳┫┣╋█").find(c) != std::u32string_view::npos;
            const bool thin = c >= 0x2500 && c <= 0x257F && !heavy;
            s.put(x++, area.y + row, {c, heavy ? Ink::True : thin ? Ink::Dim : Ink::Plain, 0});
        }
    }
    if (lines_ > rows_) {
        const std::string where = fmt::format(" {}-{} of {} ", first_ + 1, std::min(first_ + rows_, lines_), lines_);
        s.text(area.x + area.width - static_cast<int>(where.size()) - 1, area.y + area.height, where, Ink::Dim);
    }
}

// --- messages ---

void MessagePanel::add(const Reply& reply) {
    const Ink ink = reply.kind == Reply::Kind::Wrong || reply.kind == Reply::Kind::Event ? Ink::Alert
                    : reply.kind == Reply::Kind::Change                                  ? Ink::Changed
                                                                                         : Ink::Plain;
    std::string text = reply.at ? fmt::format("{:>11}  {}", base::clock_text(*reply.at), reply.text) : reply.text;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        lines_.push_back({text.substr(at, end - at), ink});
        if (back_ > 0) ++back_;  // what is looked at stays where it is
        at = end + 1;
    }
    while (lines_.size() > kMost) lines_.pop_front();
}

void MessagePanel::draw(Surface& s, const Area& area) {
    // Long lines go on below, from the bottom up.
    std::vector<std::pair<std::string, Ink>> rows;
    const int wanted = area.height + back_;
    for (auto line = lines_.rbegin(); line != lines_.rend() && static_cast<int>(rows.size()) < wanted; ++line) {
        std::vector<std::string> parts;
        std::u32string rest = letters_of(line->text);
        const auto width = static_cast<std::size_t>(std::max(area.width, 1));
        while (parts.empty() || !rest.empty()) {
            const std::size_t room = parts.empty() ? width : width - std::min<std::size_t>(13, width / 2);
            std::string part = parts.empty() ? "" : std::string(width - room, ' ');
            for (const char32_t c : rest.substr(0, room)) part += utf8_of(c);
            rest.erase(0, room);
            parts.push_back(std::move(part));
        }
        for (auto p = parts.rbegin(); p != parts.rend(); ++p) rows.emplace_back(std::move(*p), line->ink);
    }
    back_ = std::clamp(back_, 0, std::max(0, static_cast<int>(rows.size()) - area.height));
    for (int row = 0; row < area.height; ++row) {
        const int from = back_ + area.height - 1 - row;
        if (from >= static_cast<int>(rows.size())) continue;
        s.text(area.x, area.y + row, base::at(rows, from).first, base::at(rows, from).second, area.width);
    }
}

// --- status and help ---

std::string modes_text(const session::Session& session) {
    std::string out;
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const auto& state = session.controller(static_cast<int>(c));
        out.append(out.empty() ? "" : ", ").append(session.model().controllers[c].name);
        out.append(!state.powered ? " NO POWER" : state.running ? " RUN" : " STOP");
    }
    return out;
}

void draw_status(Surface& s, int y, const Sitting& sitting) {
    const session::Session& session = sitting.desk().session();
    const Area line{0, y, s.width(), 1};
    s.fill(line, {U' ', Ink::Bar, 0});
    int x = 1;
    const auto piece = [&](const std::string& text, Ink ink) {
        if (x + columns_of(text) > s.width()) return;
        x += s.text(x, y, text, ink) + 2;
    };
    bool stopped = false;
    std::uint64_t scans = 0;
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const auto& state = session.controller(static_cast<int>(c));
        stopped = stopped || !state.running;
        scans = std::max(scans, state.scans);
    }
    piece(modes_text(session), stopped ? Ink::Alert : Ink::Bar);
    piece(base::clock_text(session.now()), Ink::Bar);
    const bool looks_back = sitting.future_end() > session.now();
    const std::string pace = sitting.pace() > 0.0 ? fmt::format("x{:g}", sitting.pace()) : std::string("max");
    piece(looks_back         ? "LOOKS BACK"
          : sitting.paused() ? "STANDS"
                             : pace,
          looks_back || sitting.paused() ? Ink::Changed : Ink::Bar);
    std::size_t forces = 0;
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c)
        forces += session.controller(static_cast<int>(c)).forces.size();
    const std::size_t faults = session::faults_text(session).size();
    piece(fmt::format("forces {}", forces), forces > 0 ? Ink::Forced : Ink::Bar);
    piece(fmt::format("faults {}", faults), faults > 0 ? Ink::Alert : Ink::Bar);
    const int broken = sitting.desk().broken_rules();
    piece(fmt::format("rules broken {}", broken), broken > 0 ? Ink::Alert : Ink::Bar);
    if (sitting.recording().on()) piece("REC", Ink::Alert);
    const Lateness& late = sitting.lateness();
    piece(fmt::format("late {}", late.overruns()), late.overruns() > 0 ? Ink::Alert : Ink::Bar);
    piece(fmt::format("scans {}", scans), Ink::Bar);
    piece(fmt::format("{}/{} us", late.within(0.5).count() / 1000, late.within(0.99).count() / 1000), Ink::Bar);
    if (sitting.desk().waits()) piece("waits: " + sitting.desk().waiting_for()[0], Ink::Changed);
}

void draw_help(Surface& s, const Area& area) {
    s.fill(area, {});
    const Area in = s.frame(area, "Keys", true);
    constexpr const char* kLines[] = {"Type an order and Enter; Tab completes, up and down bring back",
                                      "what was written. 'help' lists all orders, 'quit' ends.",
                                      "",
                                      "F1 or ?    these keys            F7   time stands, or goes on",
                                      "F2  plant      F3  watch list    F8   one scan",
                                      "F4  logic      F5  operator      F9   one step of the plant",
                                      "F6  messages                     F10  end",
                                      "     each shows a panel and goes to it, and hides it when there",
                                      "Tab        (prompt empty) to the next panel; Esc to the prompt",
                                      "+ -        in a panel: wider and narrower     z  alone, or all",
                                      "arrows, PgUp, PgDn   scroll, or choose on the operator's panel",
                                      "Enter      presses, turns, changes over       Space  holds",
                                      "left right turns a knob or a selector; another unit of logic",
                                      "f          logic: follows what changes        Ctrl-L  anew",
                                      "unit NAME, panel NAME [off]: orders of the screen",
                                      "w W        watch list: writes the open list's value, or all",
                                      "Mouse: click a panel or an operator's element; wheel scrolls.",
                                      "",
                                      "F forced (its value; logic: what it would be)   * just changed"};
    int row = 0;
    for (const char* line : kLines) {
        if (row >= in.height) break;
        s.text(in.x + 1, in.y + row++, line, Ink::Plain, in.width - 1);
    }
}

}  // namespace vyard::live
