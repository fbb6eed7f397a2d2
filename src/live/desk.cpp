#include "live/desk.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::live {

using procedure::Action;
using procedure::Order;

std::string without_breaks(std::string text) {
    while (text.ends_with('\n')) text.pop_back();
    return text;
}

std::pair<std::string, std::string> first_word(const std::string& line) {
    constexpr const char* kBlanks = " \t\r";
    const std::size_t begin = line.find_first_not_of(kBlanks);
    if (begin == std::string::npos) return {};
    const std::size_t end = std::min(line.find_first_of(kBlanks, begin), line.size());
    const std::size_t rest = line.find_first_not_of(kBlanks, end);
    const std::size_t last = line.find_last_not_of(kBlanks);
    return {base::fold(line.substr(begin, end - begin)),
            rest == std::string::npos ? std::string() : line.substr(rest, last - rest + 1)};
}

Desk::Desk(session::Session session, std::vector<Watched> watches, std::vector<session::Expectation> expectations,
           YardVersion version)
    : session_(std::move(session)), version_(std::move(version)), table_(std::move(expectations)) {
    arm_rules();
    for (Watched& w : watches) watch(std::move(w));
}

std::vector<Reply> Desk::take_replies() {
    return std::exchange(replies_, {});
}

void Desk::wrong(std::string message, const std::string& hint) {
    ++wrong_lines_;
    std::string text = fmt::format("error: {}", message);
    if (!hint.empty()) text = fmt::format("{}\n    hint: {}", text, hint);
    replies_.push_back({std::nullopt, std::move(text), Reply::Kind::Wrong, asker_});
}

void Desk::step(logic::ScanWatch* watch) {
    session_.step(watch);
    show_changes();
    show_stops();
    show_links();
    show_odd_outputs();
    show_mishaps();
    look_at_rules();
    look_at_table();
    // An order may be given while another ends, so they are asked by number.
    for (std::size_t i = 0; i < pending_.size();) {
        if (go_on(pending_[i])) {
            ++i;
        } else {
            pending_.erase(pending_.begin() + static_cast<std::ptrdiff_t>(i));
        }
    }
}

bool Desk::waits(Asker asker) const {
    return std::any_of(pending_.begin(), pending_.end(), [&](const Pending& p) { return p.asker == asker; });
}

std::vector<std::string> Desk::waiting_for() const {
    std::vector<std::string> out;
    for (const Pending& p : pending_) {
        const Order* order = p.run.order();
        out.push_back(p.whole ? fmt::format("procedure {}: {}", p.run.procedure().name, order ? order->text : "")
                              : (order ? order->text : std::string()));
    }
    return out;
}

// --- orders ---

void Desk::obey(const std::string& line, int number, Asker asker) {
    answer_to(asker);
    acted_ = false;
    const auto [word, rest] = first_word(line);
    if (word.empty()) return;
    if (word == "status") {
        status();
    } else if (word == "rules") {
        if (base::fold(rest) == "again") arm_rules();
        show_rules();
    } else if (word == "watch") {
        WatchRequest request = read_watch(session_, rest);
        for (Watched& w : request.watched) watch(std::move(w));
        if (!request.problem.empty()) wrong(request.problem, request.hint);
    } else if (word == "unwatch") {
        unwatch(rest);
    } else if (word == "show") {
        show_names(rest);
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
        replies_.push_back({std::nullopt, without_breaks(diagnostics.render()), Reply::Kind::Wrong, asker_});
    }
    if (book == nullptr) return;
    ++acts_;
    Pending pending{procedure::Run(book, 0, session_), asker_, false, 0};
    if (pending.run.order()->waits()) say(pending.run.order()->text);
    const int wrong_before = wrong_lines_;
    if (go_on(pending)) pending_.push_back(std::move(pending));
    acted_ = wrong_lines_ == wrong_before;
}

void Desk::follow_procedure(const std::shared_ptr<const procedure::Book>& book, std::size_t number, Asker asker) {
    answer_to(asker);
    ++acts_;
    Pending pending{procedure::Run(book, number, session_), asker, true, 0};
    say(fmt::format("procedure {}", pending.run.procedure().name));
    if (go_on(pending)) pending_.push_back(std::move(pending));
}

/// Lets an order that was given do what is due now. False when it is done.
bool Desk::go_on(Pending& pending) {
    if (pending.whole) return go_on_procedure(pending);
    if (pending.run.advance(session_)) return true;
    answer_to(pending.asker);
    const Order o = pending.run.procedure().steps[0].orders[0];
    const procedure::StepVerdict verdict = pending.run.verdict(session_).steps[0];
    if (!o.waits()) {
        if (verdict.failure) ++wrong_lines_;
        replies_.push_back({session_.now(),
                            verdict.failure ? fmt::format("{}: {}", o.text, verdict.failure->found) : o.text,
                            verdict.failure ? Reply::Kind::Wrong : Reply::Kind::Answer, asker_});
        if (o.action != Action::Note) {
            for (const std::string& note : verdict.notes) say(note);
        }
        return false;
    }
    if (o.action == Action::Wait) return false;
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
    replies_.push_back(
        {session_.now(), std::move(text), verdict.failure ? Reply::Kind::Event : Reply::Kind::Answer, pending.asker});
    return false;
}

bool Desk::go_on_procedure(Pending& pending) {
    auto [step, order] = pending.run.position();
    const bool more = pending.run.advance(session_);
    answer_to(pending.asker);
    const auto& steps = pending.run.procedure().steps;
    for (const auto end = pending.run.position(); step < steps.size() && std::pair(step, order) != end;) {
        if (order >= steps[step].orders.size()) {
            ++step;
            order = 0;
            continue;
        }
        const Order& o = steps[step].orders[order++];
        if (o.waits() || o.action == Action::Note) continue;
        procedure_acts_.push_back(o.text);
        ++acts_;
    }
    if (pending.run.steps_begun() != pending.steps_said) {
        pending.steps_said = pending.run.steps_begun();
        if (const procedure::StepVerdict* step = pending.run.step(); more && step != nullptr)
            say(fmt::format("step \"{}\"", step->name));
    }
    if (more) return true;
    const procedure::ProcedureVerdict verdict = pending.run.verdict(session_);
    for (const procedure::StepVerdict& step : verdict.steps) {
        for (const std::string& note : step.notes) say(note);
        if (!step.failure) continue;
        ++failed_expectations_;
        std::string text = fmt::format("failed: step \"{}\", {}: expected {}; {}", step.name,
                                       step.failure->place.text(), step.failure->expected, step.failure->found);
        for (const auto& [name, value] : step.failure->values) text = fmt::format("{}; {} = {}", text, name, value);
        event(std::move(text));
    }
    say(fmt::format("procedure {}: {}", verdict.name, procedure::verdict_text(verdict.verdict)));
    return false;
}

// --- the program or the yard changes ---

void Desk::follow_names(int controller, controller::ChangeReport& report) {
    const auto gone_of = [&](procedure::Run& run) {
        const std::vector<std::string> gone = run.follow(controller, *report.rebinding);
        report.unjoined.insert(report.unjoined.end(), gone.begin(), gone.end());
    };
    for (Pending& p : pending_) gone_of(p.run);
    if (rules_) gone_of(*rules_);
    std::erase_if(watched_, [&](Watched& w) {
        if (!w.channel) return false;  // a condition is read anew
        const auto now = session::rebound(w.channel->signal, controller, *report.rebinding);
        if (now) w.channel->signal = *now;
        if (!now) report.unjoined.push_back(w.name);
        return !now;
    });
}

controller::ChangeReport Desk::change_logic(int controller, const std::shared_ptr<const logic::Program>& program) {
    controller::ChangeReport report = session_.change_logic(controller, program);
    ++acts_;
    follow_names(controller, report);
    std::vector<Watched> watched = std::exchange(watched_, {});
    for (Watched& w : watched) {
        if (!w.condition) {
            watched_.push_back(std::move(w));
            continue;
        }
        WatchRequest again = read_watch(session_, w.name);
        if (again.watched.size() == 1) {
            w.condition = again.watched[0].condition;
            watched_.push_back(std::move(w));
        } else {
            report.unjoined.push_back(w.name);
        }
    }
    return report;
}

session::Session::Moved Desk::move_to(const YardVersion& version) {
    ++acts_;
    session::Session::Moved moved = session_.move_to(version.model);
    for (const std::string& text : waiting_for()) moved.lost.push_back(fmt::format("the order '{}'", text));
    pending_.clear();
    if (!table_.empty()) moved.lost.emplace_back("what the table of stimuli expects");
    table_ = procedure::TableCheck({});
    take_version(version);
    std::vector<Watched> watched = std::exchange(watched_, {});
    for (Watched& w : watched) {
        WatchRequest again = read_watch(session_, w.name);
        if (again.watched.size() != 1) {
            moved.lost.push_back(fmt::format("the watched '{}'", w.name));
            continue;
        }
        again.watched[0].manner = w.manner;
        watched_.push_back(std::move(again.watched[0]));
    }
    links_.clear();
    stops_.clear();
    for (std::size_t c = 0; c < session_.model().controllers.size(); ++c)
        stops_.push_back(session_.controller(static_cast<int>(c)).stops);
    odd_outputs_ = 0;
    return moved;
}

void Desk::start_cold(int controller) {
    session_.start(controller);
    ++acts_;
}
void Desk::give_up_orders() {
    for (const Pending& p : pending_) {
        const Order* order = p.run.order();
        std::string text = p.whole ? fmt::format("procedure {}", p.run.procedure().name) : order ? order->text : "";
        replies_.push_back({session_.now(), fmt::format("given up: {}", text), Reply::Kind::Event, p.asker});
    }
    pending_.clear();
}

void Desk::reset(logic::ScanWatch* watch) {
    session_ = session::Session(session_.model_ptr(), watch, session_.partner());
    ++acts_;
    pending_.clear();
    arm_rules();
    stops_.clear();
    odd_outputs_ = 0;
    mishaps_said_.clear();
    mishaps_counted_ = 0;
    for (Watched& w : watched_) w.changed = {};
    show_watched();
}

// --- what happens ---

void Desk::take_version(const YardVersion& version) {
    version_ = version;
    arm_rules();
}

void Desk::arm_rules() {
    const auto& book = version_.book;
    rules_.reset();
    broken_said_.clear();
    if (book == nullptr || book->procedures.empty()) return;
    auto looking = std::make_shared<procedure::Book>();
    looking->conditions = book->conditions;
    procedure::ProcedureModel& only = looking->procedures.emplace_back();
    for (const procedure::RuleModel& r : book->procedures[0].rules) {
        if (!r.own) only.rules.push_back(r);
    }
    if (only.rules.empty()) return;
    Order forever;
    forever.action = Action::Wait;
    forever.time = base::Nanoseconds::max() / 4;
    only.steps.push_back({"", {}, {forever}});
    rules_.emplace(looking, 0, session_);
    broken_said_.resize(only.rules.size());
}

void Desk::look_at_rules() {
    if (!rules_) return;
    rules_->advance(session_);
    for (std::size_t r = 0; r < broken_said_.size(); ++r) {
        const procedure::RuleVerdict& rule = rules_->rules()[r];
        if (rule.times_broken <= broken_said_[r]) continue;
        const bool first = broken_said_[r] == 0;
        broken_said_[r] = rule.times_broken;
        if (!first) continue;  // said once, counted on; `rules again` arms it
        std::string text = fmt::format("rule broken: {} ({})", rule.name, rule.condition);
        for (const auto& [name, value] : rule.values) text = fmt::format("{}; {} = {}", text, name, value);
        event(std::move(text));
    }
}

int Desk::broken_rules() const {
    return static_cast<int>(std::count_if(broken_said_.begin(), broken_said_.end(), [](int n) { return n > 0; }));
}

void Desk::show_rules() {
    if (!rules_) return say("the yard has no rules that hold in every procedure");
    for (std::size_t r = 0; r < broken_said_.size(); ++r) {
        const procedure::RuleVerdict& rule = rules_->rules()[r];
        say(fmt::format("rule {}: {}", rule.name,
                        rule.times_broken > 0 ? fmt::format("broken {} times, first at {}", rule.times_broken,
                                                            base::clock_text(rule.first_broken))
                                              : std::string("kept so far")));
    }
}

void Desk::show_stops() {
    const auto& controllers = session_.model().controllers;
    stops_.resize(controllers.size());
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        const controller::ControllerState& state = session_.controller(static_cast<int>(c));
        if (state.stops == stops_[c]) continue;
        stops_[c] = state.stops;
        ++acts_;  // it may have been the wall clock, which does not come again
        event(fmt::format("controller {} stopped: {}", controllers[c].name,
                          controller::fault_text(controllers[c], state.fault)));
    }
}

/// A link that is lost, or there again.
void Desk::show_links() {
    const auto& controllers = session_.model().controllers;
    links_.resize(controllers.size(), true);
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        const bool up = session_.controller(static_cast<int>(c)).link.up;
        if (!controllers[c].linked() || up == links_[c]) continue;
        links_[c] = up;
        event(fmt::format("the link to {} is {}", controllers[c].name, up ? "there again" : "lost"));
    }
}

/// Numbers of the logic that no wire can carry, each wire's once.
void Desk::show_odd_outputs() {
    const std::size_t known = odd_outputs_;
    odd_outputs_ = session_.odd_outputs().size();
    if (odd_outputs_ == known) return;
    const std::vector<std::string> all = session::odd_outputs_text(session_);
    for (std::size_t i = known; i < all.size(); ++i) event(all[i]);
}

/// Each time that one begins; those that the yard allows the first time alone.
void Desk::show_mishaps() {
    const auto& all = session_.plant().mishaps;
    if (all.size() == mishaps_said_.size() && session_.plant().mishaps_counted == mishaps_counted_) return;
    const std::vector<session::MishapNote> notes = session::mishaps_of(session_);
    mishaps_said_.resize(notes.size());
    mishaps_counted_ = session_.plant().mishaps_counted;
    for (std::size_t i = 0; i < notes.size(); ++i) {
        const bool again = notes[i].times > mishaps_said_[i] && notes[i].allowed.empty();
        if (mishaps_said_[i] == 0 || again)
            event(fmt::format("mishap: {}: {}{}", notes[i].name, notes[i].text,
                              notes[i].times > 1 ? fmt::format("; {} times now", notes[i].times) : ""));
        mishaps_said_[i] = notes[i].times;
    }
}

/// What the table expected and was not so, as it comes.
void Desk::look_at_table() {
    const std::size_t known = table_.misses().size();
    table_.observe(session_);
    for (std::size_t i = known; i < table_.misses().size(); ++i) {
        const procedure::Failure& miss = table_.misses()[i];
        event(fmt::format("not as expected: {}, but {}", miss.expected, miss.found));
        ++failed_expectations_;
    }
}

// --- looking ---

void Desk::unwatch(const std::string& rest) {
    if (base::fold(rest) == "all") return watched_.clear();
    // A condition is watched by all of its text.
    if (std::erase_if(watched_, [&](const Watched& w) { return base::fold(w.name) == base::fold(rest); }) > 0) return;
    for (const std::string& name : session::split_names(rest)) {
        std::vector<std::string> known;
        for (const Watched& w : watched_) known.push_back(w.name);
        if (std::erase_if(watched_, [&](const Watched& w) { return fits_pattern(name, w.name); }) == 0)
            wrong(fmt::format("'{}' is not watched", name), base::name_hint(name, known));
    }
}

void Desk::show_names(const std::string& rest) {
    for (const std::string& name : session::split_names(rest)) {
        const NamesFound found = find_names(session_.model(), name, kMostMatches);
        if (!found.problem.empty()) wrong(found.problem, found.hint);
        for (const auto& [n, signal] : found.signals)
            say(fmt::format("{} = {}", n, session::explained_text(session_, signal)));
    }
}

/// One that is watched already is so in the new manner.
void Desk::watch(Watched w) {
    say(fmt::format("{} = {}", w.name, w.last));
    const auto known = std::find_if(watched_.begin(), watched_.end(),
                                    [&](const Watched& o) { return base::fold(o.name) == base::fold(w.name); });
    if (known == watched_.end()) {
        watched_.push_back(std::move(w));
    } else {
        *known = std::move(w);
    }
}

void Desk::show_changes() {
    for (Watched& w : watched_) {
        if (!w.look(session_)) continue;
        replies_.push_back({session_.now(), fmt::format("{} = {}", w.name, w.last), Reply::Kind::Change, 0});
    }
}

void Desk::show_watched() {
    for (Watched& w : watched_) {
        w.last = w.text(session_);
        w.last_number = w.number(session_);
        say(fmt::format("{} = {}", w.name, w.last));
    }
}

void Desk::status() {
    for (std::size_t c = 0; c < session_.model().controllers.size(); ++c) {
        const auto& state = session_.controller(static_cast<int>(c));
        say(fmt::format("controller {} {}, {} scans, forces {}", session_.model().controllers[c].name,
                        !state.powered  ? "has no power"
                        : state.running ? "runs"
                                        : "is stopped",
                        state.scans, state.forces_on ? "on" : "off"));
        if (session_.model().controllers[c].linked())
            say(fmt::format("link to {}: {}, times lost so far: {}", session_.model().controllers[c].name,
                            state.link.up ? "there" : "lost", state.link.losses.size()));
    }
    for (const std::string& text : session::forces_text(session_)) say(text);
    for (const std::string& text : session::faults_text(session_)) say(fmt::format("fault {}", text));
    for (const std::string& text : session::hands_text(session_)) say(text);
    if (rules_) say(fmt::format("rules: {} of {} broken", broken_rules(), broken_said_.size()));
    say(fmt::format("items on the plant: {}", session_.plant().items.size()));
    for (const std::string& text : waiting_for()) say(fmt::format("waits: {}", text));
}

std::size_t Desk::bytes() const {
    const plant::PlantState& p = session_.plant();
    std::size_t out = sizeof(Desk) + p.devices.size() + p.wires.size() * sizeof(double) +
                      p.extension_m.size() * sizeof(double) + p.items.size() * sizeof(plant::Item);
    for (std::size_t c = 0; c < session_.model().controllers.size(); ++c)
        out += session_.controller(static_cast<int>(c)).memory.size();
    for (const Watched& w : watched_) out += sizeof(Watched) + w.last.size() + 2 * w.name.size();
    if (rules_) out += rules_->rules().size() * (sizeof(procedure::RuleVerdict) + 200);
    return 2 * out;  // what else is small, and what the allocator takes
}

}  // namespace vyard::live
