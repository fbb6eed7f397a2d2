#include "core/procedure/runner.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::procedure {

using base::Nanoseconds;

const char* verdict_text(Verdict verdict) {
    static constexpr const char* kTexts[] = {"passed", "failed", "not reached"};
    return kTexts[static_cast<int>(verdict)];
}

namespace {

/// One rule while it is watched.
struct Watch {
    const RuleModel* model;
    bool broken = false;
    bool triggered = false;  ///< Whenever: the trigger held in the last scan.
    bool pending = false;    ///< Whenever: triggered, not yet answered.
    Nanoseconds deadline{};
};

class Runner {
  public:
    Runner(const Book& book, const ProcedureModel& procedure, session::Session& session, const Observer& observer)
        : book_(book),
          procedure_(procedure),
          session_(session),
          observer_(observer),
          evaluator_(book.conditions, book.signals) {
        for (const RuleModel& r : procedure.rules) {
            watches_.push_back({&r});
            RuleVerdict v;
            v.name = r.name;
            v.place = r.place;
            v.verdict = r.form == RuleForm::Whenever ? Verdict::NotReached : Verdict::Passed;
            v.condition = condition_text(r);
            out_.rules.push_back(std::move(v));
        }
    }

    ProcedureVerdict run() {
        out_.name = procedure_.name;
        out_.place = procedure_.place;
        begin_ = last_watched_ = session_.now();
        observe();
        watch_rules();
        bool going = true;
        for (const StepModel& s : procedure_.steps) {
            StepVerdict& v = out_.steps.emplace_back();
            v.name = s.name;
            v.place = s.place;
            v.begin = v.end = session_.now();
            if (!going) continue;
            going = step(s, v);
            v.end = session_.now();
        }
        finish();
        return std::move(out_);
    }

  private:
    const logic::Condition& condition(int n) const { return book_.conditions.conditions[static_cast<std::size_t>(n)]; }

    std::string condition_text(const RuleModel& r) const {
        if (r.form != RuleForm::Whenever)
            return fmt::format("{} {}", r.form == RuleForm::Never ? "never" : "always", condition(r.condition).text);
        return fmt::format("whenever {} then {}{}", condition(r.trigger).text, condition(r.condition).text,
                           r.within.count() > 0 ? " within " + base::time_text(r.within) : "");
    }

    void observe() {
        if (observer_) observer_(session_);
    }

    void advance() {
        session_.step();
        observe();
        if (looking()) watch_rules();
    }
    /// Conditions are looked at whenever a controller has scanned.
    bool looking() const { return session_.scanned() || session_.model().controllers.empty(); }

    // --- steps ---
    bool step(const StepModel& s, StepVerdict& v) {
        for (const Order& order : s.orders) {
            auto failure = carry_out(order, v);
            if (!failure) continue;
            failure->place = order.place;
            failure->time = session_.now();
            if (order.condition >= 0) failure->values = evaluator_.values(order.condition, session_);
            v.failure = std::move(failure);
            v.verdict = Verdict::Failed;
            return false;
        }
        v.verdict = Verdict::Passed;
        return true;
    }

    std::optional<Failure> carry_out(const Order& o, StepVerdict& v) {
        switch (o.action) {
            case Action::Note: v.notes.push_back(o.text); return std::nullopt;
            case Action::Wait: advance_by(o.time); return std::nullopt;
            case Action::WaitUntil:
            case Action::ExpectWithin: return within(o);
            case Action::Expect: return now(o);
            case Action::ExpectFor: return throughout(o);
            default: break;
        }
        const std::string problem = perform(session_, o);
        if (problem.empty()) return std::nullopt;
        return Failure{{}, o.text, problem, {}, {}};
    }

    void advance_by(Nanoseconds duration) {
        const Nanoseconds end = session_.now() + duration;
        while (session_.now() < end) advance();
    }

    std::string text(const Order& o) const { return condition(o.condition).text; }

    std::optional<Failure> now(const Order& o) {
        evaluator_.arm(o.condition);
        if (evaluator_.evaluate(o.condition, session_)) return std::nullopt;
        return Failure{{}, text(o), "it is FALSE", {}, {}};
    }

    std::optional<Failure> within(const Order& o) {
        evaluator_.arm(o.condition);
        const Nanoseconds end = session_.now() + o.time;
        if (evaluator_.evaluate(o.condition, session_)) return std::nullopt;
        while (session_.now() < end) {
            advance();
            if (looking() && evaluator_.evaluate(o.condition, session_)) return std::nullopt;
        }
        return Failure{{},
                       fmt::format("{} within {}", text(o), base::time_text(o.time)),
                       fmt::format("it stayed FALSE for {}", base::time_text(o.time)),
                       {},
                       {}};
    }

    std::optional<Failure> throughout(const Order& o) {
        evaluator_.arm(o.condition);
        const Nanoseconds start = session_.now();
        bool holds = evaluator_.evaluate(o.condition, session_);
        while (holds && session_.now() < start + o.time) {
            advance();
            if (looking()) holds = evaluator_.evaluate(o.condition, session_);
        }
        if (holds) return std::nullopt;
        return Failure{{},
                       fmt::format("{} for {}", text(o), base::time_text(o.time)),
                       fmt::format("it became FALSE after {}", base::time_text(session_.now() - start)),
                       {},
                       {}};
    }

    // --- rules ---
    void watch_rules() {
        const Nanoseconds since = session_.now() - last_watched_;
        last_watched_ = session_.now();
        for (std::size_t i = 0; i < watches_.size(); ++i) {
            if (watches_[i].broken) out_.rules[i].broken_for += since;
            note(i, broken_now(watches_[i], out_.rules[i]));
        }
    }

    bool broken_now(Watch& w, RuleVerdict& v) {
        const RuleModel& r = *w.model;
        if (r.form == RuleForm::Never) return evaluator_.evaluate(r.condition, session_);
        if (r.form == RuleForm::Always) return !evaluator_.evaluate(r.condition, session_);
        // Both are computed in every scan, because rises() and falls() in them must see every scan.
        const bool triggered = evaluator_.evaluate(r.trigger, session_);
        const bool answered = evaluator_.evaluate(r.condition, session_);
        if (triggered && !w.triggered) ++v.times_triggered;
        w.triggered = triggered;
        if (triggered && !w.pending) {
            w.pending = true;
            w.deadline = session_.now() + r.within;
        }
        if (answered) w.pending = false;
        return w.pending && session_.now() >= w.deadline;
    }

    void note(std::size_t i, bool broken) {
        Watch& w = watches_[i];
        RuleVerdict& v = out_.rules[i];
        if (broken && !w.broken) {
            if (v.times_broken++ == 0) {
                v.first_broken = session_.now();
                v.values = evaluator_.values(w.model->condition, session_);
            }
        }
        w.broken = broken;
    }

    // --- the end ---
    void finish() {
        for (std::size_t i = 0; i < out_.rules.size(); ++i) {
            RuleVerdict& v = out_.rules[i];
            if (v.times_broken > 0) {
                v.verdict = Verdict::Failed;
            } else if (v.times_triggered > 0) {
                v.verdict = Verdict::Passed;
            }
        }
        out_.duration = session_.now() - begin_;
        const bool steps_passed = std::all_of(out_.steps.begin(), out_.steps.end(),
                                              [](const StepVerdict& s) { return s.verdict == Verdict::Passed; });
        const bool rule_broken = std::any_of(out_.rules.begin(), out_.rules.end(),
                                             [](const RuleVerdict& r) { return r.verdict == Verdict::Failed; });
        out_.verdict = steps_passed && !rule_broken ? Verdict::Passed : Verdict::Failed;
        for (const std::string& force : session::forces_text(session_))
            out_.remarks.push_back(fmt::format("left at the end: {}", force));
        for (const std::string& fault : session::faults_text(session_))
            out_.remarks.push_back(fmt::format("left at the end: fault {}", fault));
        for (std::size_t c = 0; c < session_.model().controllers.size(); ++c) {
            const auto& model = session_.model().controllers[c];
            const std::string fault = controller::fault_text(model, session_.controller(static_cast<int>(c)));
            if (fault.empty()) continue;
            out_.remarks.push_back(fmt::format("controller {} stopped at {}: {}", model.name,
                                               base::clock_text(session_.controller(static_cast<int>(c)).fault.time),
                                               fault));
            out_.verdict = Verdict::Failed;
        }
    }

    const Book& book_;
    const ProcedureModel& procedure_;
    session::Session& session_;
    const Observer& observer_;
    Evaluator evaluator_;
    std::vector<Watch> watches_;
    ProcedureVerdict out_;
    Nanoseconds begin_{}, last_watched_{};
};

}  // namespace

ProcedureVerdict run_procedure(const Book& book, const ProcedureModel& procedure, session::Session& session,
                               const Observer& observer) {
    return Runner(book, procedure, session, observer).run();
}

}  // namespace vyard::procedure
