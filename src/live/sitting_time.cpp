// Time in a sitting: pace, standing still, going back and forth in what was.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "live/sitting.hpp"
#include "live/wall_watch.hpp"

namespace vyard::live {

using base::Nanoseconds;

// --- steps ---

void Sitting::pace_from_here() {
    wall_begin_ = clock_.now();
    run_begin_ = desk_.now();
}

std::optional<Nanoseconds> Sitting::due() const {
    if (over_ || at_limit() || (paused_ && !busy())) return std::nullopt;
    // As fast as it can, time waits for somebody to ask for it, unless it is to go to a certain end.
    if (pace_ == 0.0) return busy() || options_.limit ? std::optional(Nanoseconds(0)) : std::nullopt;
    const Nanoseconds ahead = desk_.now() + desk_.session().model().step - run_begin_;
    return wall_begin_ + base::from_seconds(base::to_seconds(ahead) / pace_);
}

void Sitting::tick() {
    go_on_from_here();
    if (const auto at = due(); pace_ > 0.0 && at) {
        const Nanoseconds late = clock_.now() - *at;
        const Nanoseconds width = base::from_seconds(base::to_seconds(desk_.session().model().step) / pace_);
        lateness_.count(late, late > width);
    }
    if (options_.from_outside) {
        for (const std::string& order : options_.from_outside()) obey(order, 0, 0);
    }
    WallWatch watch(clock_);
    desk_.step(&watch);
    if (options_.after_step) options_.after_step(desk_.session());
    keep_replies();  // reactions come before what a procedure does next
    for (const std::string& act : desk_.take_acts()) record_.order(desk_.now(), act, 0);
    std::erase_if(waited_for_, [&](Asker asker) {
        if (desk_.waits(asker)) return false;
        record_.done(desk_.now(), asker);
        return true;
    });
    desk_.answer_to(counting_for_);
    if (scans_left_ > 0 && desk_.session().scanned() && --scans_left_ == 0) desk_.say("scanned");
    if (steps_left_ > 0 && --steps_left_ == 0) desk_.say("stepped");
    for (const std::string& line : recording_.look(desk_.session()))
        desk_.tell({desk_.now(), line, Reply::Kind::Event, 0});
    keep_moment();
}

// --- words ---

void Sitting::set_pace(const std::string& text) {
    if (base::fold(text) == "max") {
        pace_ = 0.0;
    } else {
        const auto reading = base::read_quantity(text, base::Dimension::Plain);
        if (reading.fault != base::QuantityFault::None || reading.si_value < 1e-3 || reading.si_value > 1e6)
            return wrong(fmt::format("'{}' is not a valid pace", text),
                         "pace 1 is real time, pace 0.1 slow motion, pace max");
        pace_ = reading.si_value;
    }
    pace_from_here();
    desk_.say(fmt::format("pace {}", pace_ > 0.0 ? fmt::format("{:g}", pace_) : "max"));
}

void Sitting::pause(const std::string&) {
    paused_ = true;
    desk_.say("time stands; go, scan, step, or an order that takes time");
}

void Sitting::go(const std::string&) {
    paused_ = false;
    pace_from_here();
    desk_.say("time goes on");
}

std::optional<int> Sitting::count_of(const std::string& text, const char* what) {
    const auto reading = base::read_quantity(text.empty() ? "1" : text, base::Dimension::Plain);
    const bool whole = reading.fault == base::QuantityFault::None && reading.si_value == std::floor(reading.si_value);
    if (whole && reading.si_value >= 1 && reading.si_value <= 1e6) return static_cast<int>(reading.si_value);
    wrong(fmt::format("'{}' is not a number of {}s", text, what), fmt::format("{} 10", what));
    return std::nullopt;
}

void Sitting::scan(const std::string& text) {
    const auto count = count_of(text, "scan");
    if (!count) return;
    paused_ = true;
    scans_left_ = *count;
    counting_for_ = asker_;
    pace_from_here();
}

void Sitting::steps(const std::string& text) {
    const auto count = count_of(text, "step");
    if (!count) return;
    paused_ = true;
    steps_left_ = *count;
    counting_for_ = asker_;
    pace_from_here();
}

// --- what was ---

void Sitting::keep_moment() {
    if (future_end_ > desk_.now()) return;  // it is kept already
    if (!history_.due(desk_.now()) && desk_.acts() == acts_kept_) return;
    acts_kept_ = desk_.acts();
    history_.keep(desk_.now(), desk_, desk_.bytes());
}

/// The journal is told by the revision that another record took its place.
void Sitting::take_record(Record record) {
    last_revision_ = std::max(last_revision_, record_.revision()) + 1;
    record_ = std::move(record);
    record_.replaces(last_revision_);
}

void Sitting::cut_future() {
    desk_.say(fmt::format("what came after {} is forgotten", base::clock_text(desk_.now())));
    history_.forget_after(desk_.now());
    record_.forget_after(desk_.now());
    std::erase_if(marks_, [&](const auto& mark) { return mark.second > desk_.now(); });
    for (auto& [name, kept] : snapshots_) kept.shared = std::min(kept.shared, desk_.now());
    future_end_ = Nanoseconds(0);
    say_all(recording_.moved(desk_.session()));
}

/// Time passes or an order acts: what was looked back from does not come any more.
void Sitting::go_on_from_here() {
    if (future_end_ > desk_.now()) cut_future();
}

std::optional<Nanoseconds> Sitting::time_of(const std::string& word, const std::string& text) {
    const auto reading = base::read_quantity(text, base::Dimension::Time);
    if (reading.fault == base::QuantityFault::None && reading.si_value >= 0.0)
        return base::from_seconds(reading.si_value);
    wrong(base::quantity_message(text, reading, base::Dimension::Time),
          word == "when" ? "when alarm_code <> 0 keep 10 s before, 5 s after" : fmt::format("{} 10 s", word));
    return std::nullopt;
}

void Sitting::rewind(const std::string& text) {
    if (first_word(text).first == "until") return rewind_until(text);
    const auto by = time_of("rewind", text);
    if (by) travel(std::max(desk_.now() - *by, Nanoseconds(0)));
}

void Sitting::forward(const std::string& text) {
    const auto by = time_of("forward", text);
    if (!by) return;
    if (future_end_ <= desk_.now()) return wrong("nothing was kept after this time", "go on with go, or with an order");
    travel(std::min(desk_.now() + *by, future_end_));
}

/// Shows another moment of what was; time stands there.
void Sitting::travel(Nanoseconds target) {
    if (desk_.session().partner() != nullptr)
        return wrong("a controller is executed elsewhere, and what is elsewhere cannot go back or forward",
                     "--here executes it here");
    const auto number = history_.before(target);
    if (!number)
        return wrong(fmt::format("{} is no longer kept", base::clock_text(target)),
                     fmt::format("the first moment kept is {}", base::clock_text(history_.at(0))));
    // The present is kept too, so that it can be come back to.
    if (future_end_ <= desk_.now()) {
        future_end_ = desk_.now();
        history_.keep(desk_.now(), desk_, desk_.bytes());
    }
    leave_desk();
    desk_ = history_.moment(*number);
    while (desk_.now() < target) desk_.step();
    arrived();
}

/// Before another moment takes the place of this one.
void Sitting::leave_desk() {
    desk_.give_up_orders();
    keep_replies();
}

/// What was said so far is said, whatever becomes of the desk.
void Sitting::keep_replies() {
    for (Reply& r : take_replies()) replies_.push_back(std::move(r));
}

void Sitting::arrived() {
    desk_.take_replies();
    desk_.take_acts();
    desk_.drop_orders();
    desk_.answer_to(asker_);
    count_from_here();
    acts_kept_ = desk_.acts();
    paused_ = true;
    scans_left_ = steps_left_ = 0;
    waited_for_.clear();
    desk_.say("here; time stands. forward, go, or an order");
    desk_.show_watched();
}

namespace {

std::optional<Nanoseconds> last_time(const std::shared_ptr<const procedure::Book>& book, Desk from, Nanoseconds end,
                                     Nanoseconds now) {
    std::optional<Nanoseconds> out;
    session::Session look = from.session();
    std::optional<procedure::Run> run;
    run.emplace(book, 0, look);
    while (true) {
        look = from.session();
        if (!run->advance(look)) {
            if (from.now() < now) out = from.now();
            run.emplace(book, 0, look);
            run->advance(look);  // an edge is told against this scan
        }
        if (from.now() >= end) return out;
        from.step();
    }
}

}  // namespace

/// To the last time before now that a condition came or held.
void Sitting::rewind_until(const std::string& text) {
    base::Diagnostics diagnostics;
    const auto book = procedure::read_order(desk_.session().model(),
                                            base::make_source("input", fmt::format("wait {}", text)), diagnostics);
    if (diagnostics.has_errors() || book == nullptr)
        return wrong(fmt::format("'{}' is not a valid condition to go back to", text),
                     "rewind until rises(alarm_lamp)");
    const Nanoseconds now = desk_.now();
    for (auto number = history_.before(now - Nanoseconds(1)); number;
         number = *number == 0 ? std::nullopt : std::optional(*number - 1)) {
        const Nanoseconds end = *number + 1 < history_.size() ? std::min(history_.at(*number + 1), now) : now;
        // Before a reload names may mean something else; there it cannot be told.
        if (history_.moment(*number).session().model_ptr() != desk_.session().model_ptr()) {
            return wrong(fmt::format("since the files were read anew at {} that was not so", base::clock_text(end)));
        }
        if (const auto found = last_time(book, history_.moment(*number), end, now)) return travel(*found);
    }
    wrong(fmt::format("since {} that was not so", base::clock_text(history_.at(0))));
}

void Sitting::snapshot(const std::string& name) {
    if (name.empty()) return wrong("a snapshot needs a name", "snapshot before_fault");
    snapshots_.insert_or_assign(base::fold(name), Snapshot{desk_, record_, desk_.now()});
    desk_.say(fmt::format("snapshot {}", name));
}

void Sitting::restore(const std::string& name) {
    if (desk_.session().partner() != nullptr)
        return wrong("a controller is executed elsewhere, and what is elsewhere cannot go back",
                     "--here executes it here");
    const auto found = snapshots_.find(base::fold(name));
    if (found == snapshots_.end()) {
        std::vector<std::string> known;
        for (const auto& [n, kept] : snapshots_) known.push_back(n);
        return wrong(fmt::format("no snapshot is named '{}'", name), base::name_hint(name, known));
    }
    Snapshot& kept = found->second;
    leave_desk();
    desk_ = kept.desk;
    take_record(kept.record);
    record_.forget_after(desk_.now());  // it may have been looked back from a later time
    // What is kept of another course of events is not this one's past.
    const Nanoseconds shared = kept.shared < desk_.now() ? Nanoseconds(-1) : desk_.now();
    history_.forget_after(shared);
    for (auto& [n, other] : snapshots_) {
        if (&other != &kept) other.shared = std::min(other.shared, shared);
    }
    kept.shared = desk_.now();
    future_end_ = Nanoseconds(0);
    history_.keep(desk_.now(), desk_, desk_.bytes());
    std::erase_if(marks_, [&](const auto& mark) { return mark.second > desk_.now(); });
    arrived();
    say_all(recording_.moved(desk_.session()));
}

}  // namespace vyard::live
