// Who could touch whom within the next steps: lists of neighbours that stay true until something has moved by half the
// distance that they look beyond a touch (Verlet's lists, Phys. Rev. 159, 1967). How far things have moved is looked at
// when they might have, by the plant's top speed. The lists are found on a uniform grid.
//
// The lists save time and change nothing: a plant steps to the same bytes with lists of any age. They are therefore no
// part of a copied state; a copy makes its own.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "core/base/base.hpp"
#include "core/plant/geometry.hpp"

namespace vyard::plant {

constexpr int kNone = -1;

struct PlantModel;
struct PlantState;

class Nearby {
  public:
    enum class Side : std::uint8_t { Mixed, Front, Behind, Beside };  ///< Of a neighbour, as seen from an item.

    Nearby() = default;
    Nearby(const Nearby&) {}
    Nearby& operator=(const Nearby&) {
        forget();
        return *this;
    }
    Nearby(Nearby&&) = default;
    Nearby& operator=(Nearby&&) = default;
    ~Nearby() = default;

    /// Items came, went, or were moved by hand.
    void forget() { age_ = kMostSteps; }
    /// Whether they hold for one more step.
    bool known() const { return age_ < kMostSteps && moved_m_ + step_m_ <= skin_m_ / 2.0; }
    void step_done() {
        moved_m_ += step_m_;
        ++age_;
    }
    /// The lists hold for the next step: they stay, where nothing has moved as far as it might have, or are made anew.
    /// Cost: items and zones; as renew() when they are made anew.
    void refresh(const PlantModel& model, const PlantState& state);
    /// Makes the lists. Cost: items x neighbours, plus zones.
    void renew(const PlantModel& model, const PlantState& state);

    /// Items that the lists know; those behind came later in the same step.
    std::size_t listed() const { return inland_.size(); }
    /// Numbers of items within reach, ascending.
    std::span<const int> items(std::size_t item) const { return slice(item_start_, item_list_, item); }
    std::span<const int> solids(std::size_t item) const { return slice(solid_start_, solid_list_, item); }
    std::span<const int> zone(int zone) const { return slice(zone_start_, zone_list_, static_cast<std::size_t>(zone)); }
    /// Whether the item stays on its surface, a level one that does not turn, as long as the lists hold.
    bool inland(std::size_t item) const { return inland_[item] != 0; }
    /// No item can have come into the zone yet.
    bool quiet(int zone) const { return base::at(zone_gap_m_, zone) >= moved_m_; }
    /// Inland, no solid within reach, and whatever is within reach is so too, on the same surface, and altogether in
    /// front of it, behind it or beside it. Only what is in front can hold it up.
    bool ordered(std::size_t item) const { return inland_[item] >= kOrdered; }
    /// Ordered, and what is in front is calm as well: they go with the surface as one, as long as the lists hold.
    bool calm(std::size_t item) const { return inland_[item] == kCalm; }
    /// Calls f(item) for those in front of an ordered one until it returns false; false then.
    template <class F>
    bool all_in_front(std::size_t item, F f) const {
        for (auto k = static_cast<std::size_t>(item_start_[item]); k < static_cast<std::size_t>(item_start_[item + 1]);
             ++k) {
            if (item_side_[k] == Side::Front && !f(static_cast<std::size_t>(item_list_[k]))) return false;
        }
        return true;
    }
    /// Something holds it: what is calm behind it is so no more.
    void rouse(std::size_t item);
    /// It was moved, or its support changed, by something else than its support.
    void unsettle(std::size_t item);
    /// A surface goes another way than it did when the lists were made.
    bool turned_round(std::size_t surface, Vector2 unit) const { return dot(unit, front_[surface]) < 1.0 - 1e-12; }
    void unsettle_all_on(const PlantState& state, int surface);

  private:
    static std::span<const int> slice(const std::vector<int>& start, const std::vector<int>& list, std::size_t i) {
        const auto from = static_cast<std::size_t>(start[i]), to = static_cast<std::size_t>(start[i + 1]);
        return {list.data() + from, to - from};
    }
    void reserve(const PlantModel& model, std::size_t items);
    void measure(const PlantState& state);
    void make_grid(const PlantState& state, double cell_m);
    /// Calls f(item) for the items of a block of cells, both ends included, cut at the grid's border.
    template <class F>
    void each_in_cells(int x0, int x1, int y0, int y1, F f) const;
    void find_items(const PlantModel& model, const PlantState& state, double skin_m);
    void find_zones(const PlantModel& model, const PlantState& state, double skin_m);
    void find_solids(const PlantModel& model);
    void find_inland(const PlantModel& model, const PlantState& state, double travel_m);
    void find_order(const PlantModel& model, const PlantState& state);
    void find_calm(const PlantState& state);
    void rouse_those_behind();
    int column(double x_m) const;
    int row(double y_m) const;

    static constexpr int kMostSteps = 250;  ///< Lists are made anew at least this often, however slow the plant is.
    static constexpr std::uint8_t kInland = 1, kOrdered = 2, kCalm = 3;

    bool few_ = false;
    int age_ = kMostSteps;  ///< In steps.
    double skin_m_ = 0.0, step_m_ = 0.0;
    double moved_m_ = 0.0;       ///< No item has moved further since the lists were made.
    std::vector<Vector2> from_;  ///< Where the items were when the lists were made.
    std::size_t reserved_ = 0;
    std::vector<int> item_start_, item_list_;
    std::vector<Side> item_side_;  ///< One for each of item_list_.
    std::vector<Vector2> front_;   ///< By surface: the unit vector of its way.
    std::vector<int> solid_start_, solid_list_;
    std::vector<int> zone_start_, zone_list_;
    std::vector<double> zone_gap_m_;  ///< To the nearest item, when the lists were made.
    std::vector<std::uint8_t> inland_;
    std::vector<int> roused_;  ///< Behind whom there may be others to rouse.
    // The grid, row by row.
    std::vector<int> cell_start_, cell_items_, cell_of_;
    double x0_m_ = 0.0, y0_m_ = 0.0, cell_m_ = 1.0;
    int columns_ = 0, rows_ = 0;
};

}  // namespace vyard::plant
