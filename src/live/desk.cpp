#include "live/desk.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::live {

using procedure::Action;
using procedure::Order;

Desk::Desk(session::Session session, const std::vector<trace::Channel>& watches,
           std::vector<session::Expectation> expectations)
    : session_(std::move(session)), table_(std::move(expectations)) {
    for (const trace::Channel& c : watches) watch(c);
}

std::vector<Reply> Desk::take_replies() {
    return std::exchange(replies_, {});
}

void Desk::wrong(std::string message, const std::string& hint) {
    ++wrong_lines_;
    std::string text = fmt::format("error: {}", message);
    if (!hint.empty()) text = fmt::format("{}\n    hint: {}", text, hint);
    replies_.push_back({std::nullopt, std::move(text), false});
}

void Desk::step(logic::ScanWatch* watch) {
    session_.step(watch);
    show_changes();
    show_stops();
    show_odd_outputs();
    look_at_table();
    if (waiting_) go_on();
}

// --- orders ---

void Desk::obey(const std::string& line, int number) {
    const std::size_t begin = line.find_first_not_of(" \t\r");
    if (begin == std::string::npos) return;
    const std::size_t space = std::min(line.find_first_of(" \t\r", begin), line.size());
    const std::string word = base::fold(line.substr(begin, space - begin));
    const std::string rest = line.substr(space);
    if (word == "status") {
        status();
    } else if (word == "watch" || word == "show" || word == "unwatch") {
        names(word, rest);
    } else {
        order(line, number);
    }
}

void Desk::order(const std::string& line, int number) {
    base::Diagnostics diagnostics;
    // So that messages show the line's number.
    const std::string padding(static_cast<std::size_t>(number - 1), '\n');
    const auto book = procedure::read_order(session_.model(), base::make_source("input", padding + line), diagnostics);
    if (diagnostics.has_errors()) {
        ++wrong_lines_;
        std::string text = diagnostics.render();
        while (text.ends_with('\n')) text.pop_back();
        replies_.push_back({std::nullopt, std::move(text), false});
    }
    if (book == nullptr) return;
    ++acts_;
    waiting_.emplace(book, 0, session_);
    if (waiting_->order()->waits()) say(waiting_->order()->text);
    go_on();
}

/// Lets the order that was given last do what is due now.
void Desk::go_on() {
    if (waiting_->advance(session_)) return;
    const Order o = waiting_->procedure().steps[0].orders[0];
    const procedure::StepVerdict verdict = waiting_->verdict(session_).steps[0];
    waiting_.reset();
    if (!o.waits()) {
        say(verdict.failure ? fmt::format("{}: {}", o.text, verdict.failure->found) : o.text);
        if (verdict.failure) ++wrong_lines_;
        if (o.action != Action::Note) {
            for (const std::string& note : verdict.notes) say(note);
        }
        return;
    }
    if (o.action == Action::Wait) return;
    for (const std::string& note : verdict.notes) say(note);
    std::string text = fmt::format("{}: {}",
                                   verdict.failure                 ? "failed"
                                   : o.action == Action::WaitUntil ? "now TRUE"
                                   : o.hold                        ? "held"
                                                                   : "as expected",
                                   o.text);
    if (verdict.failure) {
        text = fmt::format("{}; {}", text, verdict.failure->found);
        for (const auto& [name, value] : verdict.failure->values) text = fmt::format("{}; {} = {}", text, name, value);
        ++failed_expectations_;
    }
    say(text);
}

controller::ChangeReport Desk::change_logic(int controller, const std::shared_ptr<const logic::Program>& program) {
    controller::ChangeReport report = session_.change_logic(controller, program);
    ++acts_;
    if (waiting_) {
        const std::vector<std::string> gone = waiting_->follow(controller, *report.rebinding);
        report.unjoined.insert(report.unjoined.end(), gone.begin(), gone.end());
    }
    std::erase_if(watched_, [&](Watched& w) {
        const auto now = session::rebound(w.channel.signal, controller, *report.rebinding);
        if (now) w.channel.signal = *now;
        if (!now) report.unjoined.push_back(w.channel.name);
        return !now;
    });
    return report;
}

// --- what happens ---

void Desk::show_stops() {
    const auto& controllers = session_.model().controllers;
    stops_.resize(controllers.size());
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        const controller::ControllerState& state = session_.controller(static_cast<int>(c));
        if (state.stops == stops_[c]) continue;
        stops_[c] = state.stops;
        ++acts_;  // it may have been the wall clock, which does not come again
        say(fmt::format("controller {} stopped: {}", controllers[c].name,
                        controller::fault_text(controllers[c], state.fault)));
    }
}

/// Numbers of the logic that no wire can carry, each wire's once.
void Desk::show_odd_outputs() {
    const std::size_t known = odd_outputs_;
    odd_outputs_ = session_.odd_outputs().size();
    if (odd_outputs_ == known) return;
    const std::vector<std::string> all = session::odd_outputs_text(session_);
    for (std::size_t i = known; i < all.size(); ++i) say(all[i]);
}

/// What the table expected and was not so, as it comes.
void Desk::look_at_table() {
    const std::size_t known = table_.misses().size();
    table_.observe(session_);
    for (std::size_t i = known; i < table_.misses().size(); ++i) {
        const procedure::Failure& miss = table_.misses()[i];
        say(fmt::format("not as expected: {}, but {}", miss.expected, miss.found));
        ++failed_expectations_;
    }
}

// --- looking ---

void Desk::names(const std::string& verb, const std::string& rest) {
    for (const std::string& name : session::split_names(rest)) one_name(verb, name);
}

void Desk::one_name(const std::string& verb, const std::string& name) {
    if (verb == "unwatch") {
        std::erase_if(watched_, [&](const Watched& w) {
            return name == "all" || base::fold(w.channel.name) == base::fold(name);
        });
        return;
    }
    const session::Search found = session::search(session_.model(), name);
    if (!found.signal) return wrong(found.problem, found.hint);
    if (verb == "watch") {
        watch(trace::make_channel(session_.model(), name, *found.signal));
    } else {
        say(fmt::format("{} = {}", name, session::explained_text(session_, *found.signal)));
    }
}

void Desk::watch(const trace::Channel& channel) {
    watched_.push_back({channel, session::explained_text(session_, channel.signal)});
    say(fmt::format("{} = {}", channel.name, watched_.back().last));
}

void Desk::show_changes() {
    for (Watched& w : watched_) {
        std::string now = session::explained_text(session_, w.channel.signal);
        if (now == w.last) continue;
        w.last = std::move(now);
        replies_.push_back({session_.now(), fmt::format("{} = {}", w.channel.name, w.last), true});
    }
}

void Desk::show_watched() {
    for (const Watched& w : watched_) say(fmt::format("{} = {}", w.channel.name, w.last));
}

void Desk::status() {
    for (std::size_t c = 0; c < session_.model().controllers.size(); ++c) {
        const auto& state = session_.controller(static_cast<int>(c));
        say(fmt::format("controller {} {}, {} scans, forces {}", session_.model().controllers[c].name,
                        state.running ? "runs" : "is stopped", state.scans, state.forces_on ? "on" : "off"));
    }
    for (const std::string& text : session::forces_text(session_)) say(text);
    for (const std::string& text : session::faults_text(session_)) say(fmt::format("fault {}", text));
    say(fmt::format("items on the plant: {}", session_.plant().items.size()));
}

std::size_t Desk::bytes() const {
    const plant::PlantState& p = session_.plant();
    std::size_t out = sizeof(Desk) + p.devices.size() + p.wires.size() * sizeof(double) +
                      p.extension_m.size() * sizeof(double) + p.items.size() * sizeof(plant::Item);
    for (std::size_t c = 0; c < session_.model().controllers.size(); ++c)
        out += session_.controller(static_cast<int>(c)).memory.size();
    for (const Watched& w : watched_) out += sizeof(Watched) + w.last.size() + w.channel.name.size();
    return 2 * out;  // what else is small, and what the allocator takes
}

}  // namespace vyard::live
