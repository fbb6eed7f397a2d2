// The files of the yard read anew while it runs, and a session that was killed gone on with.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "live/sitting.hpp"

namespace vyard::live {

using base::Nanoseconds;

/// What a reload came to, on a copy.
struct Sitting::Taken {
    std::vector<std::string> lost;  ///< What would not be there any more, or lose its value.
    std::vector<int> cold;          ///< Controllers, by number in the new model, that lose something.
    std::vector<std::pair<int, std::shared_ptr<const controller::Rebinding>>> rebindings;  ///< Logic alone.
};

namespace {

constexpr const char* kAnyway =
    "reload anyway takes them all the same; a controller that loses something then starts cold";

/// Variables whose values cannot be kept, as they are of another kind now.
std::vector<std::string> changed_kind(const controller::ChangeReport& report) {
    std::vector<std::string> out;
    for (const std::string& name : report.fresh) {
        if (std::find(report.dropped.begin(), report.dropped.end(), name) != report.dropped.end())
            out.push_back(fmt::format("the value of {}, which is of another type", name));
    }
    return out;
}

void say_report(Desk& desk, const std::string& controller, const controller::ChangeReport& report) {
    desk.say(fmt::format("controller {}: {} kept, {} new, {} gone", controller, report.kept.size(), report.fresh.size(),
                         report.dropped.size()));
    for (const std::string& name : report.fresh) desk.say(fmt::format("new   {}", name));
    for (const std::string& name : report.dropped) desk.say(fmt::format("gone  {}", name));
}

}  // namespace

void Sitting::reload(const std::string& text) {
    const std::string how = base::fold(text);
    if (how == "by itself" || how == "on request") {
        reload_by_itself_ = how == "by itself";
        return desk_.say(reload_by_itself_ ? "files are read anew when they change" : "files are read anew on request");
    }
    if (!how.empty() && how != "anyway" && how != "undo")
        return wrong(fmt::format("'{}' is not a way to reload", text),
                     base::name_hint(text, {"anyway", "undo", "by itself", "on request"}));
    if (how == "undo") {
        if (before_.empty()) return wrong("nothing was reloaded that could be undone");
        const YardVersion last = std::move(before_.back());
        before_.pop_back();
        take(last, true, true);
        return;
    }
    if (!options_.reload) return wrong("there is nothing to read again");
    work([this, anyway = how == "anyway"]() -> Done {
        return [this, anyway, loaded = options_.reload()] {
            if (loaded.mistakes.empty()) {
                const std::string problem = take(loaded.version, anyway, false);
                if (!problem.empty()) wrong(problem, kAnyway);
                return;
            }
            wrong(fmt::format("the files were not taken, what ran goes on\n{}", without_breaks(loaded.mistakes)));
        };
    });
}

void Sitting::files_changed() {
    if (!reload_by_itself_ || !options_.reload) return;
    asker_ = 0;
    work([this]() -> Done {
        return [this, loaded = options_.reload()] {
            if (loaded.mistakes.empty() && loaded.version.fingerprint == desk_.version().fingerprint)
                return;  // only touched
            desk_.tell({desk_.now(), "files of the yard changed", Reply::Kind::Event, 0});
            // Nobody's line: what is wrong with it is an event.
            std::string problem =
                loaded.mistakes.empty()
                    ? take(loaded.version, false, false)
                    : fmt::format("the files were not taken, what ran goes on\n{}", without_breaks(loaded.mistakes));
            if (problem.empty()) return;
            if (loaded.mistakes.empty()) problem.append("\n    hint: ").append(kAnyway);
            desk_.tell({desk_.now(), std::move(problem), Reply::Kind::Event, 0});
        };
    });
}

void Sitting::change_logic_in(Desk& trial, const session::SessionModelPtr& model, Taken& taken) const {
    const auto& controllers = desk_.session().model().controllers;
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        const controller::ChangeReport report = trial.change_logic(static_cast<int>(c), model->controllers[c].program);
        std::vector<std::string> lost = changed_kind(report);
        for (const std::string& name : report.unjoined) lost.push_back(fmt::format("what is joined to {}", name));
        if (!lost.empty()) taken.cold.push_back(static_cast<int>(c));
        taken.lost.insert(taken.lost.end(), lost.begin(), lost.end());
        taken.rebindings.emplace_back(static_cast<int>(c), report.rebinding);
        say_report(trial, controllers[c].name, report);
    }
}

void Sitting::move_in(Desk& trial, const YardVersion& loaded, Taken& taken) const {
    const auto& before = desk_.session().model().controllers;
    const session::Session::Moved moved = trial.move_to(loaded);
    for (const auto& [number, report] : moved.logic) {
        const std::string& name = base::at(before, number).name;
        std::vector<std::string> lost = changed_kind(report);
        for (const std::string& n : report.unjoined) lost.push_back(fmt::format("what is joined to {}", n));
        for (std::size_t c = 0; c < loaded.model->controllers.size() && !lost.empty(); ++c) {
            if (loaded.model->controllers[c].name == name) taken.cold.push_back(static_cast<int>(c));
        }
        taken.lost.insert(taken.lost.end(), lost.begin(), lost.end());
        say_report(trial, name, report);
    }
    taken.lost.insert(taken.lost.end(), moved.lost.begin(), moved.lost.end());
    trial.say(moved.plant_kept ? "the plant goes on as it is"
                               : "of the plant, hands, liquids, air and drives go on; the rest starts anew");
}

/// Tried on a copy first: what would be lost is not lost unasked.
std::string Sitting::take(const YardVersion& loaded, bool anyway, bool undo) {
    if (desk_.session().partner() != nullptr || options_.after_step)
        return "others are linked to the tags of this yard as they are, so it is not read anew: end the session and "
               "start it again";
    const auto names = [](const session::SessionModel& model) {
        std::vector<std::string> out;
        for (const auto& c : model.controllers) out.push_back(c.name);
        return out;
    };
    const session::SessionModelPtr before = desk_.session().model_ptr();
    const bool logic_alone =
        loaded.frame_fingerprint == desk_.version().frame_fingerprint && names(*before) == names(*loaded.model);
    keep_replies();
    Desk trial = desk_;
    Taken taken;
    if (logic_alone) {
        change_logic_in(trial, loaded.model, taken);
    } else {
        move_in(trial, loaded, taken);
    }
    if (!taken.lost.empty() && !anyway)
        return fmt::format("the files were not taken: this would be lost: {}", fmt::join(taken.lost, "; "));
    go_on_from_here();
    keep_replies();
    if (!undo) {
        YardVersion now = desk_.version();
        now.model = before;
        before_.push_back(std::move(now));
        if (before_.size() > kMostUndo) before_.erase(before_.begin());
    }
    desk_ = std::move(trial);
    desk_.take_version(loaded);
    for (const std::string& name : taken.lost) desk_.say(fmt::format("lost: {}", name));
    for (const int c : taken.cold) {
        if (undo) continue;
        desk_.start_cold(c);
        desk_.say(fmt::format("controller {} starts cold",
                              desk_.session().model().controllers[static_cast<std::size_t>(c)].name));
    }
    if (logic_alone) {
        for (const auto& [c, rebinding] : taken.rebindings) say_all(recording_.follow(c, *rebinding, desk_.session()));
    } else {
        say_all(recording_.yard_changed(desk_.session()));
    }
    record_.remark(desk_.now(), "here the files of the yard were read anew");
    if (options_.state != nullptr) options_.state->not_again("the files of the yard were read anew while it ran");
    keep_moment();
    return {};
}

// --- going on with a session that was killed ---

void Sitting::go_on(const LeftSession& left) {
    asker_ = 0;
    desk_.answer_to(0);
    std::string not_again = left.not_again;
    if (not_again.empty() && left.fingerprint != desk_.version().fingerprint)
        not_again = "the files of the yard changed since";
    if (not_again.empty()) {
        int done = 0;
        for (const Record::Entry& e : left.orders) {
            if (e.at > left.time) break;  // it had been gone back before that
            const std::string verb = first_word(e.text).first;
            if (verb == "wait") continue;                                   // the times of the others say so
            if (verb == "expect" || verb == "measure" || verb == "note") {  // they only look
                record_.remark(e.at, e.text);
                continue;
            }
            while (desk_.now() < e.at) desk_.step();
            desk_.obey(e.text, 1, 0);
            record_.order(e.at, e.text, 0);
            keep_moment();
            ++done;
        }
        while (desk_.now() < left.time) {
            desk_.step();
            keep_moment();
        }
        desk_.take_acts();
        desk_.take_replies();
        desk_.tell({desk_.now(),
                    fmt::format("gone on with at {}, by {} orders done again", base::clock_text(left.time), done),
                    Reply::Kind::Event, 0});
    } else {
        desk_.tell({desk_.now(), fmt::format("it begins anew, with the forces and what was watched: {}", not_again),
                    Reply::Kind::Event, 0});
        for (const std::string& force : left.forces) order(force);
    }
    for (const std::string& line : left.watches) desk_.obey(line, 1, 0);
    count_from_here();
    pace_from_here();
    acts_kept_ = desk_.acts();
    keep_moment();
}

}  // namespace vyard::live
