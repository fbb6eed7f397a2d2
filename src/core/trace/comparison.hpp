// Two traces side by side: which signals they share, and where those differ.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/trace/recorder.hpp"

namespace vyard::trace {

struct CompareOptions {
    base::Nanoseconds shift{};                ///< Added to the times of the second trace.
    double tolerance = 0.0;                   ///< Numbers that are no further apart are the same; durations in s.
    std::map<std::string, double> of_signal;  ///< The same for one signal, by its folded name.
    base::Nanoseconds brief{};                ///< Differences that last no longer do not count.
    std::vector<std::string> names;           ///< The signals to look at; all when empty.
};

/// Where a signal differs.
struct Difference {
    std::string name;
    base::Nanoseconds first{};  ///< By the clock of the first trace.
    std::string a, b;           ///< The values there, as cells of a table.
    base::Nanoseconds in_all{};
    int times = 0;
};

struct Comparison {
    std::vector<Difference> differences;      ///< By the time of the first one.
    std::vector<std::string> only_a, only_b;  ///< Signals of one trace alone.
    std::vector<std::string> unlike;          ///< Signals whose values are of kinds that cannot be compared.
    std::size_t compared = 0;
    base::Nanoseconds from{}, to{};  ///< What both have, by the clock of the first.
    bool same() const { return differences.empty() && only_a.empty() && only_b.empty() && unlike.empty(); }
};

/// Over the time that both have. Cost: the moments of both.
Comparison compare(const Trace& a, const Trace& b, const CompareOptions& options);

/// When a signal is seen to change for the first time: a BOOL's first rising edge, another's first new value.
std::optional<base::Nanoseconds> first_event(const Trace& trace, std::uint32_t channel);

}  // namespace vyard::trace
