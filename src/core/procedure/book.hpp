// Procedures and rules as read: the immutable model that proofs run from.
#pragma once

#include <memory>
#include <string>
#include <vector>

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
    int trigger = -1;  ///< Whenever: what starts the demand.
    int condition = -1;
    base::Nanoseconds within{};
};

struct ProcedureModel {
    std::string name;
    base::Place place;
    std::vector<StepModel> steps;
    std::vector<RuleModel> rules;  ///< Its own and those of the yard.
};

struct Book {
    std::vector<ProcedureModel> procedures;
    logic::ConditionSet conditions;
    std::vector<session::Signal> signals;  ///< What the gathered names of `conditions` mean, by Gathered::source.
};

/// Reads all files of a yard. Rules that stand before any procedure of a file hold in every procedure of the yard.
/// Null after errors. With `names_known` FALSE the model is one that could only be built in part: mistakes that may be
/// an echo of those (a name that is missing, a type that does not meet) are then kept back.
std::shared_ptr<const Book> read_book(const session::SessionModel& model, const std::vector<base::SourcePtr>& sources,
                                      base::Diagnostics& diagnostics, bool names_known = true);

}  // namespace vyard::procedure
