// What can be foreseen of a program by the ranges of its numbers: sums that overflow, comparisons that nothing makes
// TRUE, divisions by nought, indices beyond arrays, steps that nothing leads to or that have no branch, timers shorter
// than a scan, broken wires that nothing notices.
#pragma once

#include <string>
#include <vector>

#include "core/logic/analysis/ranges.hpp"

namespace vyard::logic {

/// An analog input: numbers of its tag.
struct AnalogInput {
    Node node;
    std::string tag;
    base::Place place;                       ///< Of its declaration.
    Interval stated;                         ///< By its scaling.
    Interval possible;                       ///< With a wire that is broken or shorted, too.
    std::optional<Interval::Number> broken;  ///< With a broken wire; null where that looks like a true value.
};

struct ForeseenFacts {
    std::vector<AnalogInput> analogs;
    std::set<Node> written;    ///< Tags that others write: jumpers, screens, stimuli.
    base::Nanoseconds scan{};  ///< 0: not known.
};

/// Of a compiled program with its tree. Cost: follow_ranges, twice and once an analog input.
void warn_foreseen(const Program& program, const ForeseenFacts& facts, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
