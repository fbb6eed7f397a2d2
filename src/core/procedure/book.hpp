// Procedures and rules as read: the immutable model that proofs run from.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/procedure/evaluator.hpp"
#include "core/procedure/orders.hpp"

namespace vyard::procedure {

struct StepModel {
    std::string name;
    base::Place place;
    std::vector<Order> orders;
};

enum class RuleForm : std::uint8_t { Never, Always, Whenever };

struct RuleModel {
    std::string name;
    base::Place place;
    RuleForm form = RuleForm::Never;
    int trigger = -1;                 ///< Whenever: what starts the demand ...
    base::Nanoseconds trigger_for{};  ///< ... once it has held for so long without a break.
    int condition = -1;
    base::Nanoseconds within{};      ///< Whenever: after the trigger.
    base::Nanoseconds not_before{};  ///< Whenever: after the trigger, too.
    bool own = false;                ///< It stands inside a procedure and holds in that one alone.
};

struct ProcedureModel {
    std::string name;
    base::Place place;
    std::vector<StepModel> steps;
    std::vector<RuleModel> rules;  ///< Those of the yard and its own.
};

struct Book {
    std::vector<ProcedureModel> procedures;
    std::shared_ptr<const Conditions> conditions;
};

/// Reads all files of a yard. Rules that stand before any procedure of a file, or under the heading `rules`, hold in
/// every procedure of the yard. `repeat` and `for` are unfolded here. Null after errors. With `names_known` FALSE the
/// model is one that could only be built in part: mistakes that may be an echo of those (a name that is missing, a type
/// that does not meet) are then kept back.
std::shared_ptr<const Book> read_book(const session::SessionModel& model, const std::vector<base::SourcePtr>& sources,
                                      base::Diagnostics& diagnostics, bool names_known = true);

/// Orders alone, one a line, as a book of one procedure with one step; null after errors.
std::shared_ptr<const Book> read_orders(const session::SessionModel& model, const base::SourcePtr& source,
                                        base::Diagnostics& diagnostics);

/// One order as a book of one procedure with one step; null after errors, and without any for an empty line.
std::shared_ptr<const Book> read_order(const session::SessionModel& model, const base::SourcePtr& source,
                                       base::Diagnostics& diagnostics);

}  // namespace vyard::procedure
