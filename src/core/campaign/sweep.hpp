// The campaign "sweep": the same procedures over and over, with keys of devices, initial values of tags or the seed
// otherwise each time: how far each may move before something fails.
#pragma once

#include <functional>

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

/// What is varied: "eye.at" over "0.3 m", "0.31 m" ...
struct Axis {
    std::string name;
    std::vector<std::string> values;  ///< As --set takes them.
    std::vector<double> numbers;      ///< For pictures, in `unit`.
    std::string unit;
};

/// Reads "eye.at=0.3m..0.5m/10mm", "limit=T#500ms..T#1s/T#10ms", "seed=1..20/1". `is_device`: whether a device has the
/// name before the last dot. What is wrong with it goes to `problem`.
std::optional<Axis> read_axis(std::string_view text, const std::function<bool(std::string_view)>& is_device,
                              std::string& problem);

/// A yard with some of its values otherwise.
struct Variant {
    session::SessionModelPtr model;
    std::shared_ptr<const procedure::Book> book;
    std::string problem;  ///< Why there is none.
};

struct SweepPlan {
    std::vector<Axis> axes;
    std::size_t random = 0;  ///< So many points of the grid, by chance; 0 for all.
    std::uint64_t seed = 1;  ///< Of that chance.
    /// Called by several threads at once. Overrides: name and value, as --set has them.
    std::function<Variant(const std::vector<std::pair<std::string, std::string>>&)> load;
};

constexpr std::size_t kMostPoints = 1'000'000;  ///< Of a grid.

/// Rows: disturbance "eye.at = 0.31 m, seed = 4", outcome passed, failed or "cannot be built"; detail "as it is" where
/// the values are those of the yard.
std::unique_ptr<const Campaign> make_sweep(const Setup& setup, const SweepPlan& plan);
/// Points of the grid, or those that chance chose: for each axis the number of its value.
std::vector<std::vector<std::size_t>> points_of(const SweepPlan& plan);

/// How far one value may move, the others being as in each row: of the rows of one axis.
struct Margin {
    std::string name, unit;
    std::optional<double> least, most;            ///< Of the longest stretch of values at which all passes.
    std::optional<double> best;                   ///< Its middle.
    bool open_below = false, open_above = false;  ///< It reaches to the first, or last, value that was tried.
    std::optional<double> present;                ///< As it is in the yard, where that is one of the values.
};
/// Of a sweep of one axis.
Margin margin_of(const Axis& axis, const std::vector<std::vector<std::size_t>>& points, std::size_t procedures,
                 const std::vector<RunRow>& rows);

}  // namespace vyard::campaign
