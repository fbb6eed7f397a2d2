// The run of a procedure over a session, as a value: copied in mid-step, both go on alike. The one interpreter of
// orders, for proofs, unattended runs and a person at the prompt.
//
//   Run run(book, 0, session);
//   while (run.advance(session)) session.step();
//   ProcedureVerdict verdict = run.verdict(session);
#pragma once

#include <concepts>
#include <functional>

#include "core/procedure/book.hpp"
#include "core/procedure/verdict.hpp"

namespace vyard::procedure {

class Run {
  public:
    Run(std::shared_ptr<const Book> book, std::size_t procedure, const session::Session& session);

    /// Watches the rules, then carries out what is due now. FALSE when the procedure has come to its end; while TRUE,
    /// step the session and ask again. Cost: the rules' conditions and that of the order that waits, after each scan.
    bool advance(session::Session& session);

    /// Watches the rules alone, without carrying out orders: after its end, or in place of advance().
    void watch(const session::Session& session);

    /// Whether it stands where another run of the same procedure does, but for what it has noted so far.
    bool goes_on_as(const Run& other) const;
    /// Whether no rule is waited for, and the order that waits (if any) waits for a condition alone, without a time
    /// that it has to hold: where nothing changes any more, it will not come.
    bool waits_in_vain() const;

    /// The program of a controller changed: conditions and rules follow their names. Those that are gone; their
    /// conditions cannot be judged.
    std::vector<std::string> follow(int controller, const controller::Rebinding& rebinding);

    /// How many steps have begun, and the one that runs.
    std::size_t steps_begun() const { return out_.steps.empty() ? 0 : step_ + (opened_ ? 1 : 0); }
    bool failed() const { return step_ < out_.steps.size() && out_.steps[step_].failure.has_value(); }
    const ProcedureModel& procedure() const { return base::at(book_->procedures, procedure_); }
    /// The order that waits or failed; null at the end.
    const Order* order() const;
    const Evaluator& evaluator() const { return evaluator_; }
    /// How far it is: the number of the step, and of the order in it, that comes next.
    std::pair<std::size_t, std::size_t> position() const { return {step_, order_}; }
    /// The orders that were carried out, and the controllers that stopped by themselves, so far.
    const std::vector<Deed>& deeds() const { return out_.deeds; }
    const std::vector<StopVerdict>& stops() const { return out_.stops; }
    /// The rules as they stand now.
    const std::vector<RuleVerdict>& rules() const { return out_.rules; }
    /// The step that has begun last; null before the first.
    const StepVerdict* step() const {
        return out_.steps.empty() ? nullptr : &out_.steps[std::min(step_, out_.steps.size() - 1)];
    }

    /// What it came to, with the session as it is at the end.
    ProcedureVerdict verdict(const session::Session& session) const;

  private:
    enum class Progress : std::uint8_t { Done, Waiting, Failed };
    /// One rule while it is watched.
    struct Watch {
        bool broken = false;
        bool unknown = false;
        bool triggered = false;                        ///< The trigger has held for its time, in the last scan.
        bool pending = false;                          ///< Triggered, not yet answered.
        std::optional<base::Nanoseconds> holds_since;  ///< Of the trigger.
        base::Nanoseconds triggered_at{};

        bool operator==(const Watch&) const = default;
    };
    /// The order that takes time.
    struct Waiting {
        base::Nanoseconds begin{};
        std::optional<base::Nanoseconds> true_since;
        base::Nanoseconds longest{};  ///< That the condition has held, when it has gone again.
        bool measuring = false;       ///< Measure: `from` has come.
        bool looked = false;

        bool operator==(const Waiting&) const = default;
    };

    bool looking(const session::Session& session) const;
    void note_stops(const session::Session& session);
    void watch_rules(const session::Session& session);
    bool broken_now(const RuleModel& rule, Watch& watch, RuleVerdict& verdict, const session::Session& session);
    bool answer(int condition, const session::Session& session, Watch& watch, RuleVerdict& verdict);
    void end_rule(std::size_t number, RuleVerdict& verdict) const;

    Progress carry_out(const Order& order, session::Session& session, StepVerdict& verdict);
    Progress wait_for(const Order& order, const session::Session& session);
    Progress came(const Order& order, const session::Session& session);
    Progress did_not_come(const Order& order, base::Nanoseconds waited, const session::Session& session);
    Progress measure(const Order& order, const session::Session& session, StepVerdict& verdict);
    Progress expect_stopped(const Order& order, const session::Session& session);
    Progress fail(std::string expected, std::string found);
    std::string wanted(const Order& order) const;
    std::string not_holding(int condition, const session::Session& session);

    std::shared_ptr<const Book> book_;
    std::size_t procedure_;
    Evaluator evaluator_;
    std::vector<Watch> watches_;
    std::vector<std::uint32_t> stops_seen_;  ///< Per controller.
    ProcedureVerdict out_;
    std::optional<Waiting> waiting_;
    std::optional<Failure> failure_;  ///< Of the order just carried out.
    base::Nanoseconds begin_{}, last_watched_{};
    std::size_t step_ = 0, order_ = 0;
    bool started_ = false, opened_ = false, ended_ = false;
};

static_assert(std::copyable<Run>);

/// Called at the start and after every step of the plant.
using Observer = std::function<void(const session::Session&)>;

/// Runs it all. Runs are deterministic, so one that fails is simply run once more for Failure's explanations. `ended`
/// is asked before every step of the plant; when it says so, the run ends there, and the verdict has a remark of it.
ProcedureVerdict run_procedure(const std::shared_ptr<const Book>& book, std::size_t procedure,
                               session::Session& session, const Observer& observer,
                               const std::function<bool()>& ended = {});

}  // namespace vyard::procedure
