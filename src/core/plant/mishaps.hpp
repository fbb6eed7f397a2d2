// Mishaps: what happens in a plant and no machine should do, whatever the rules say. A kind declares them beside its
// faults and says in each step whether they go on; here they are counted, with the first time and its cause. A mishap
// that the yard allows is kept as any other, and does not count.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::plant {

struct Item;
struct Kind;
struct PlantModel;
struct PlantState;

constexpr int kMostMishaps = 32;  ///< That one kind may have.

/// One mishap of one device, from its first time on. What goes on counts once.
struct Mishap {
    std::int32_t device = 0;
    std::int32_t number = 0;      ///< In the kind's list.
    std::int32_t cause = -1;      ///< The device that brought it about, the first time; kNone for none that is known.
    std::uint32_t item = 0;       ///< The id of the item it happened to, the first time; 0 for none.
    std::int32_t item_type = -1;  ///< Number in PlantModel::item_types.
    std::uint32_t first_step = 0, last_step = 0;  ///< Steps of the plant in which it began.
    std::uint32_t ended_steps = 0;                ///< How long it went on, those that have ended.
    std::uint32_t times = 0;
    bool goes_on = false;
};

/// A mishap that the yard allows.
struct AllowedMishap {
    std::int32_t device = 0, number = 0;
    std::string reason;
};

/// An item on its way down: what it fell off, and what pushed it.
struct Fall {
    std::uint32_t item = 0;
    std::int32_t from = -1, cause = -1;
};

/// It begins or ends. Cost: mishaps so far; called when something changes.
void change_mishap(const PlantModel& model, PlantState& state, int device, int number, bool on, int cause = -1,
                   const Item* item = nullptr);
/// It happens, and lasts no time.
void count_mishap(const PlantModel& model, PlantState& state, int device, int number, int cause = -1,
                  const Item* item = nullptr);

/// The values of points that are beyond what their devices take or measure. Cost: points that have a range.
void watch_ranges(const PlantModel& model, PlantState& state);

/// kNone when the kind has none of that name.
int find_mishap(const Kind& kind, std::string_view name);
/// Null when it counts.
const AllowedMishap* allowance(const PlantModel& model, int device, int number);
/// Whether it has happened since the start; null when not.
const Mishap* mishap_of(const PlantState& state, int device, int number);

/// "infeed.item_fell".
std::string mishap_name(const PlantModel& model, const Mishap& mishap);
/// "tile 4 fell off it, pushed by 'reject'": what it is, what it happened to, and what brought it about.
std::string mishap_text(const PlantModel& model, const Mishap& mishap);
/// Seconds that it went on in all, as of the last step.
double mishap_seconds(const PlantModel& model, const PlantState& state, const Mishap& mishap);

/// Mishaps that several kinds have, added to each by what it declares: it carries items, pushes them, turns, takes
/// set values, measures within a range.
void add_shared_mishaps(Kind& kind);

}  // namespace vyard::plant
