#include "core/procedure/run.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/procedure/explain.hpp"

namespace vyard::procedure {

using base::Nanoseconds;
using base::time_text;

const char* verdict_text(Verdict verdict) {
    static constexpr const char* kTexts[] = {"passed",     "failed",          "not reached",
                                             "not tested", "open at the end", "cannot be judged"};
    return kTexts[static_cast<int>(verdict)];
}

namespace {

std::string limits_text(Nanoseconds within, Nanoseconds not_before) {
    std::string out = within.count() > 0 ? " within " + time_text(within) : "";
    if (not_before.count() > 0) out += " not before " + time_text(not_before);
    return out;
}

std::string rule_text(const RuleModel& r, const Evaluator& conditions) {
    const std::string& condition = conditions.model(r.condition).text;
    if (r.form != RuleForm::Whenever)
        return fmt::format("{} {}", r.form == RuleForm::Never ? "never" : "always", condition);
    const std::string held = r.trigger_for.count() > 0 ? " for " + time_text(r.trigger_for) : "";
    return fmt::format("whenever {}{} then {}{}", conditions.model(r.trigger).text, held, condition,
                       limits_text(r.within, r.not_before));
}

}  // namespace

Run::Run(std::shared_ptr<const Book> book, std::size_t procedure, const session::Session& session)
    : book_(std::move(book)), procedure_(procedure), evaluator_(book_->conditions), begin_(session.now()) {
    const ProcedureModel& model = this->procedure();
    out_.name = model.name;
    out_.place = model.place;
    watches_.resize(model.rules.size());
    for (const RuleModel& r : model.rules) {
        RuleVerdict v;
        v.name = r.name;
        v.place = r.place;
        v.own = r.own;
        v.condition = rule_text(r, evaluator_);
        out_.rules.push_back(std::move(v));
    }
    for (const StepModel& s : model.steps) {
        StepVerdict v;
        v.name = s.name;
        v.place = s.place;
        v.begin = v.end = session.now();
        out_.steps.push_back(std::move(v));
    }
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c)
        stops_seen_.push_back(session.controller(static_cast<int>(c)).stops);
    last_watched_ = session.now();
}

const Order* Run::order() const {
    const auto& steps = procedure().steps;
    if (step_ >= steps.size() || order_ >= steps[step_].orders.size()) return nullptr;
    return &steps[step_].orders[order_];
}

/// Conditions are looked at whenever a controller has scanned.
bool Run::looking(const session::Session& session) const {
    return session.scanned() || session.model().controllers.empty();
}

void Run::watch(const session::Session& session) {
    note_stops(session);
    if (!started_ || looking(session)) watch_rules(session);
    started_ = true;
}

bool Run::goes_on_as(const Run& other) const {
    return procedure_ == other.procedure_ && step_ == other.step_ && order_ == other.order_ &&
           opened_ == other.opened_ && ended_ == other.ended_ && waiting_ == other.waiting_ &&
           watches_ == other.watches_ && stops_seen_ == other.stops_seen_ &&
           evaluator_.memory() == other.evaluator_.memory();
}

bool Run::waits_in_vain() const {
    const bool open = std::any_of(watches_.begin(), watches_.end(), [](const Watch& w) {
        return w.pending || (w.holds_since.has_value() && !w.triggered);
    });
    if (open) return false;
    if (ended_) return true;
    const Order* o = order();
    return o != nullptr && waiting_ && !o->hold && (o->action == Action::WaitUntil || o->action == Action::Expect);
}

bool Run::advance(session::Session& session) {
    if (ended_) return false;
    watch(session);
    const auto& steps = procedure().steps;
    for (; step_ < steps.size(); ++step_, order_ = 0, opened_ = false) {
        StepVerdict& verdict = out_.steps[step_];
        if (!opened_) verdict.begin = session.now();
        opened_ = true;
        for (; order_ < steps[step_].orders.size(); ++order_, waiting_.reset()) {
            const Order& order = steps[step_].orders[order_];
            const Progress progress = carry_out(order, session, verdict);
            verdict.end = session.now();
            if (progress == Progress::Waiting) return true;
            if (progress == Progress::Done) continue;
            failure_->place = order.place;
            failure_->time = session.now();
            for (const int c : {order.condition, order.until}) {
                if (c < 0) continue;
                for (NamedValue& v : evaluator_.values(c, session)) failure_->values.push_back(std::move(v));
            }
            verdict.failure = std::move(failure_);
            verdict.verdict = Verdict::Failed;
            ended_ = true;
            return false;
        }
        verdict.verdict = Verdict::Passed;
    }
    ended_ = true;
    return false;
}

void Run::note_stops(const session::Session& session) {
    for (std::size_t c = 0; c < stops_seen_.size(); ++c) {
        const controller::ControllerState& state = session.controller(static_cast<int>(c));
        if (state.stops == stops_seen_[c]) continue;
        stops_seen_[c] = state.stops;
        const controller::ControllerModel& model = session.model().controllers[c];
        out_.stops.push_back({static_cast<int>(c), state.fault.time,
                              fmt::format("controller {} stopped at {}: {}", model.name,
                                          base::clock_text(state.fault.time), fault_text(model, state.fault)),
                              false});
    }
}

std::vector<std::string> Run::follow(int controller, const controller::Rebinding& rebinding) {
    std::vector<std::string> gone;
    auto book = std::make_shared<Book>(*book_);
    book->conditions = rebound(*book_->conditions, controller, rebinding, gone);
    evaluator_.follow(book->conditions);
    book_ = std::move(book);
    return gone;
}

// --- orders ---

Run::Progress Run::fail(std::string expected, std::string found) {
    Failure f;
    f.expected = std::move(expected);
    f.found = std::move(found);
    failure_ = std::move(f);
    return Progress::Failed;
}

std::string Run::wanted(const Order& o) const {
    std::string out = evaluator_.model(o.condition).text;
    if (o.within) out += " within " + time_text(*o.within);
    if (o.hold) out += " for " + time_text(*o.hold);
    if (o.not_before.count() > 0) out += " not before " + time_text(o.not_before);
    return out;
}

/// "lift_top" or "lift_top and dip_ok", whichever parts do not hold.
std::string Run::not_holding(int condition, const session::Session& session) {
    return fmt::format("{}", fmt::join(evaluator_.not_holding(condition, session), " and "));
}

Run::Progress Run::carry_out(const Order& o, session::Session& session, StepVerdict& verdict) {
    if (o.waits() && !waiting_) {
        waiting_ = Waiting{};
        waiting_->begin = session.now();
        if (o.condition >= 0) evaluator_.arm(o.condition);
        if (o.until >= 0) evaluator_.arm(o.until);
    }
    switch (o.action) {
        case Action::Note: verdict.notes.push_back(o.text); return Progress::Done;
        case Action::Wait: return session.now() - waiting_->begin >= o.time ? Progress::Done : Progress::Waiting;
        case Action::WaitUntil:
        case Action::Expect: return wait_for(o, session);
        case Action::Measure: return measure(o, session, verdict);
        case Action::ExpectStopped: return expect_stopped(o, session);
        default: break;
    }
    std::string said;
    const std::string problem = perform(session, o, said);
    if (!problem.empty()) return fail(o.text, problem);
    const bool fault = o.action == Action::FaultDevice || o.action == Action::FaultPoint ||
                       o.action == Action::FaultModule || o.action == Action::FaultLink;
    out_.deeds.push_back({session.now(), o.text, fault});
    if (!said.empty()) verdict.notes.push_back(std::move(said));
    if (o.action == Action::Force && !session.controller(o.controller).forces_on)
        verdict.notes.push_back(fmt::format("{}: forces are off, so it waits", o.text));
    return Progress::Done;
}

Run::Progress Run::wait_for(const Order& o, const session::Session& session) {
    const Nanoseconds waited = session.now() - waiting_->begin;
    if (waiting_->looked && !looking(session)) {
        const bool over = o.within && !waiting_->true_since && waited >= *o.within;
        return over ? did_not_come(o, waited, session) : Progress::Waiting;
    }
    waiting_->looked = true;
    const Answer answer = evaluator_.evaluate(o.condition, session);
    if (answer.unknown()) return fail(wanted(o), fmt::format("it cannot be judged: {}", answer.why));
    const bool late = o.within && !waiting_->true_since && waited > *o.within;
    if (answer.yes() && !late) {
        if (!waiting_->true_since) waiting_->true_since = session.now();
        return came(o, session);
    }
    if (waiting_->true_since) waiting_->longest = std::max(waiting_->longest, session.now() - *waiting_->true_since);
    waiting_->true_since.reset();
    if (o.within) return waited < *o.within ? Progress::Waiting : did_not_come(o, waited, session);
    const std::string missing = not_holding(o.condition, session);
    return fail(wanted(o), waited.count() == 0 ? fmt::format("{} is FALSE", missing)
                                               : fmt::format("{} became FALSE after {}", missing, time_text(waited)));
}

Run::Progress Run::did_not_come(const Order& o, Nanoseconds waited, const session::Session& session) {
    const logic::Condition& condition = evaluator_.model(o.condition);
    std::string found = waiting_->longest.count() == 0
                            ? fmt::format("{} stayed FALSE for {}", condition.text, time_text(waited))
                            : fmt::format("{} was TRUE for {} at most", condition.text, time_text(waiting_->longest));
    // Each part may have been TRUE meanwhile; what is so now can be said.
    if (!condition.parts.empty()) found += fmt::format("; FALSE at the end: {}", not_holding(o.condition, session));
    return fail(wanted(o), std::move(found));
}

/// The condition holds now.
Run::Progress Run::came(const Order& o, const session::Session& session) {
    const Nanoseconds after = *waiting_->true_since - waiting_->begin;
    if (after < o.not_before) return fail(wanted(o), fmt::format("it came after {}, too early", time_text(after)));
    if (!o.hold || session.now() - *waiting_->true_since >= *o.hold) return Progress::Done;
    return Progress::Waiting;
}

Run::Progress Run::measure(const Order& o, const session::Session& session, StepVerdict& verdict) {
    if (waiting_->looked && !looking(session)) return Progress::Waiting;
    waiting_->looked = true;
    // Both are computed in every scan, because rises() and falls() in them must see every scan.
    const Answer from = evaluator_.evaluate(o.condition, session);
    const Answer to = evaluator_.evaluate(o.until, session);
    const auto text = [&](int condition) { return evaluator_.model(condition).text; };
    const auto span = [&] { return fmt::format("from {} to {}", text(o.condition), text(o.until)); };
    const auto failed = [&](std::string found) {
        const std::string limits = limits_text(o.within.value_or(Nanoseconds{}), o.not_before);
        return fail(fmt::format("{} {}{}", o.name.empty() ? "a time" : o.name, span(), limits), std::move(found));
    };
    if (from.unknown() || to.unknown())
        return failed(fmt::format("it cannot be judged: {}", from.unknown() ? from.why : to.why));
    if (!waiting_->measuring) {
        if (from.yes()) {
            waiting_->measuring = true;
            waiting_->true_since = session.now();
        } else if (session.now() - waiting_->begin >= kDefaultPatience) {
            return failed(fmt::format("{} did not come within {}", text(o.condition), time_text(kDefaultPatience)));
        }
        return Progress::Waiting;
    }
    const Nanoseconds took = session.now() - *waiting_->true_since;
    if (to.yes()) {
        verdict.notes.push_back(fmt::format("measured {}: {}", o.name.empty() ? span() : o.name, time_text(took)));
        if (took < o.not_before) return failed(fmt::format("it took {}, too short", time_text(took)));
        return o.within && took > *o.within ? failed(fmt::format("it took {}", time_text(took))) : Progress::Done;
    }
    if (took < o.within.value_or(kDefaultPatience)) return Progress::Waiting;
    return failed(fmt::format("{} did not come within {}", text(o.until), time_text(took)));
}

Run::Progress Run::expect_stopped(const Order& o, const session::Session& session) {
    if (!session.controller(o.controller).running) {
        // It is this stop that is meant; one before it, after which it was started again, is not.
        const auto last = std::find_if(out_.stops.rbegin(), out_.stops.rend(),
                                       [&](const StopVerdict& s) { return s.controller == o.controller; });
        if (last != out_.stops.rend()) last->meant = true;
        return Progress::Done;
    }
    const Nanoseconds waited = session.now() - waiting_->begin;
    if (o.within && waited < *o.within) return Progress::Waiting;
    const std::string& name = base::at(session.model().controllers, o.controller).name;
    return fail(fmt::format("controller {} stopped{}", name, limits_text(o.within.value_or(Nanoseconds{}), {})),
                waited.count() > 0 ? fmt::format("it ran on for {}", time_text(waited)) : "it runs");
}

// --- rules ---

void Run::watch_rules(const session::Session& session) {
    const Nanoseconds since = session.now() - last_watched_;
    last_watched_ = session.now();
    const auto& rules = procedure().rules;
    for (std::size_t i = 0; i < rules.size(); ++i) {
        Watch& w = watches_[i];
        RuleVerdict& v = out_.rules[i];
        if (w.broken) v.broken_for += since;
        const bool broken = broken_now(rules[i], w, v, session);
        if (broken && !w.broken && v.times_broken++ == 0) {
            v.first_broken = session.now();
            v.values = evaluator_.values(rules[i].condition, session);
        }
        w.broken = broken;
    }
}

/// A condition of a rule; what cannot be computed is noted once, and counts as not holding.
bool Run::answer(int condition, const session::Session& session, Watch& w, RuleVerdict& v) {
    const Answer a = evaluator_.evaluate(condition, session);
    if (a.unknown() && !w.unknown) {
        w.unknown = true;
        v.reason =
            fmt::format("{} at {}: {}", a.why, base::clock_text(session.now()), evaluator_.model(condition).text);
        v.values = evaluator_.values(condition, session);
    }
    return a.yes();
}

bool Run::broken_now(const RuleModel& r, Watch& w, RuleVerdict& v, const session::Session& session) {
    if (r.form != RuleForm::Whenever) {
        const bool holds = answer(r.condition, session, w, v);
        return !w.unknown && holds == (r.form == RuleForm::Never);
    }
    // Both are computed in every scan, because rises() and falls() in them must see every scan.
    const bool trigger = answer(r.trigger, session, w, v);
    const bool answered = answer(r.condition, session, w, v);
    if (!trigger) w.holds_since.reset();
    if (trigger && !w.holds_since) w.holds_since = session.now();
    const bool triggered = trigger && session.now() - *w.holds_since >= r.trigger_for;
    if (triggered && !w.triggered) ++v.times_triggered;
    w.triggered = triggered;
    if (triggered && !w.pending) {
        w.pending = true;
        w.triggered_at = session.now();
    }
    if (!w.pending) return false;
    const Nanoseconds after = session.now() - w.triggered_at;
    if (answered) {
        w.pending = false;
        if (after >= r.not_before) return false;
        if (v.times_broken == 0) v.reason = fmt::format("it came after {}, too early", time_text(after));
        return true;
    }
    return after >= r.within;
}

void Run::end_rule(std::size_t i, RuleVerdict& v) const {
    const RuleModel& r = procedure().rules[i];
    const Watch& w = watches_[i];
    if (v.times_broken > 0) {
        v.verdict = Verdict::Failed;
    } else if (w.unknown) {
        v.verdict = Verdict::CannotBeJudged;
    } else if (r.form != RuleForm::Whenever) {
        v.verdict = Verdict::Passed;
    } else if (w.pending) {
        v.verdict = Verdict::OpenAtEnd;
    } else {
        v.verdict = v.times_triggered > 0 ? Verdict::Passed : Verdict::NotTested;
    }
}

// --- the end ---

ProcedureVerdict Run::verdict(const session::Session& session) const {
    ProcedureVerdict out = out_;
    for (std::size_t i = 0; i < out.rules.size(); ++i) end_rule(i, out.rules[i]);
    out.duration = session.now() - begin_;
    const auto any_rule = [&](Verdict wanted) {
        return std::any_of(out.rules.begin(), out.rules.end(),
                           [&](const RuleVerdict& r) { return r.verdict == wanted; });
    };
    const bool steps_passed = std::all_of(out.steps.begin(), out.steps.end(),
                                          [](const StepVerdict& s) { return s.verdict == Verdict::Passed; });
    for (session::LinkLossNote& loss : session::link_losses(session)) {
        if (loss.meant) {
            out.remarks.push_back(std::move(loss.text));
        } else {
            out.stops.push_back({loss.controller, loss.time, std::move(loss.text), false});
        }
    }
    const bool stopped = std::any_of(out.stops.begin(), out.stops.end(), [](const StopVerdict& s) { return !s.meant; });
    const bool kept = steps_passed && !stopped && !any_rule(Verdict::Failed) && !any_rule(Verdict::CannotBeJudged);
    out.verdict = !kept ? Verdict::Failed : any_rule(Verdict::OpenAtEnd) ? Verdict::OpenAtEnd : Verdict::Passed;
    out.mishaps = session::mishaps_of(session);
    for (const std::string& force : session::forces_text(session))
        out.remarks.push_back(fmt::format("left at the end: {}", force));
    for (const std::string& fault : session::faults_text(session))
        out.remarks.push_back(fmt::format("left at the end: fault {}", fault));
    for (const std::string& hand : session::hands_text(session))
        out.remarks.push_back(fmt::format("left at the end: {}", hand));
    for (std::string& odd : session::odd_outputs_text(session)) out.remarks.push_back(std::move(odd));
    return out;
}

ProcedureVerdict run_procedure(const std::shared_ptr<const Book>& book, std::size_t procedure,
                               session::Session& session, const Observer& observer,
                               const std::function<bool()>& ended) {
    Run run(book, procedure, session);
    // A step that fails is run once more to explain it. What is elsewhere does not do it once more, but what came from
    // there since the step began can be told again.
    std::optional<std::pair<session::Session, Run>> beginning;
    controller::Partner* const partner = session.partner();
    std::optional<controller::Remembering> told;
    if (partner != nullptr) session.set_partner(&told.emplace(*partner));
    if (observer) observer(session);
    bool cut_off = false;
    while (!cut_off && run.advance(session)) {
        if (ended && ended()) {
            cut_off = true;
            continue;
        }
        if (!beginning || beginning->second.steps_begun() != run.steps_begun()) {
            beginning.emplace(session, run);
            if (told) told->forget();
        }
        session.step();
        if (observer) observer(session);
    }
    ProcedureVerdict out = run.verdict(session);
    if (cut_off) out.remarks.push_back(fmt::format("it was ended from outside at {}", base::clock_text(session.now())));
    session.set_partner(partner);
    controller::Partner* const again = told ? &*told : nullptr;
    if (told) told->tell_again();
    if (beginning && beginning->second.steps_begun() != run.steps_begun()) beginning.reset();  // in that very instant
    if (run.failed()) explain(beginning, session, run, again, out);
    return out;
}

}  // namespace vyard::procedure
