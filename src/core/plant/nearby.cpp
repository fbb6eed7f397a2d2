#include "core/plant/nearby.hpp"

#include <algorithm>
#include <cmath>

#include "core/plant/model.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

constexpr std::size_t kSpareCells = 64;  ///< Cells a grid may have beyond four an item.
constexpr std::size_t kFewItems = 12;    ///< Up to so many each is held against each; a grid would cost more.

/// Whether the circles around two items are at least `skin_m` apart.
bool far(const PlantModel& model, const Item& a, const Item& b, double skin_m) {
    const double reach = model.form_of(a).radius_m + model.form_of(b).radius_m + skin_m;
    const double dx = b.x_m - a.x_m, dy = b.y_m - a.y_m;
    return dx * dx + dy * dy >= reach * reach;
}

}  // namespace

void Nearby::renew(const PlantModel& model, const PlantState& state) {
    step_m_ = model.top_speed_m_s * model.step_s * 1.01;
    const double skin_m = std::max(kSkin_m, 2.1 * step_m_);
    skin_m_ = skin_m;
    moved_m_ = 0.0;
    age_ = 0;
    reserve(model, state.items.size());
    from_.clear();
    for (const Item& item : state.items) from_.push_back({item.x_m, item.y_m});
    few_ = state.items.size() <= kFewItems;
    if (!few_) {
        double largest_m = 0.05;
        for (const Item& item : state.items) largest_m = std::max(largest_m, model.form_of(item).radius_m);
        make_grid(state, 2.0 * largest_m + skin_m);
    }
    find_inland(model, state, skin_m / 2.0);
    find_items(model, state, skin_m);
    find_zones(model, state, skin_m);
    find_solids(model);
    find_order(model, state);
    find_calm(state);
}

void Nearby::refresh(const PlantModel& model, const PlantState& state) {
    if (age_ < kMostSteps && from_.size() == state.items.size()) measure(state);
    if (!known() || from_.size() != state.items.size()) renew(model, state);
}

void Nearby::measure(const PlantState& state) {
    double most_m2 = 0.0;
    for (std::size_t i = 0; i < from_.size(); ++i) {
        const Vector2 way = Vector2{state.items[i].x_m, state.items[i].y_m} - from_[i];
        most_m2 = std::max(most_m2, dot(way, way));
    }
    moved_m_ = std::sqrt(most_m2);
}

/// Room ahead, so that lists that grow and shrink do not allocate.
void Nearby::reserve(const PlantModel& model, std::size_t items) {
    if (items < reserved_ && !zone_start_.empty()) return;
    reserved_ = 2 * items + 16;
    item_start_.reserve(reserved_ + 1);
    item_list_.reserve(8 * reserved_);
    item_side_.reserve(8 * reserved_);
    front_.reserve(model.surfaces.size());
    solid_start_.reserve(reserved_ + 1);
    solid_list_.reserve(2 * reserved_ + 4 * model.solids.size());
    zone_start_.reserve(model.zones.size() + 1);
    zone_list_.reserve(2 * reserved_ + 4 * model.zones.size());
    zone_gap_m_.reserve(model.zones.size());
    from_.reserve(reserved_);
    roused_.reserve(reserved_);
    inland_.reserve(reserved_);
    cell_items_.reserve(reserved_);
    cell_of_.reserve(reserved_);
    cell_start_.reserve(4 * reserved_ + kSpareCells + 1);
}

int Nearby::column(double x_m) const {
    return std::clamp(static_cast<int>((x_m - x0_m_) / cell_m_), 0, columns_ - 1);
}
int Nearby::row(double y_m) const {
    return std::clamp(static_cast<int>((y_m - y0_m_) / cell_m_), 0, rows_ - 1);
}

/// Cells no smaller than `cell_m`, so that what can touch lies in neighbouring ones; no more than the items warrant.
void Nearby::make_grid(const PlantState& state, double cell_m) {
    const std::size_t n = state.items.size();
    double x1_m = -1e9, y1_m = -1e9;
    x0_m_ = y0_m_ = 1e9;
    for (const Item& item : state.items) {
        x0_m_ = std::min(x0_m_, item.x_m);
        y0_m_ = std::min(y0_m_, item.y_m);
        x1_m = std::max(x1_m, item.x_m);
        y1_m = std::max(y1_m, item.y_m);
    }
    if (n == 0) x0_m_ = y0_m_ = x1_m = y1_m = 0.0;
    for (cell_m_ = cell_m;; cell_m_ *= 1.5) {
        const double columns = std::floor((x1_m - x0_m_) / cell_m_) + 1.0;
        const double rows = std::floor((y1_m - y0_m_) / cell_m_) + 1.0;
        if (columns * rows > 4.0 * static_cast<double>(n) + static_cast<double>(kSpareCells)) continue;
        columns_ = static_cast<int>(columns);
        rows_ = static_cast<int>(rows);
        break;
    }
    const auto cells = static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_);
    cell_start_.assign(cells + 1, 0);
    cell_items_.resize(n);
    cell_of_.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
        cell_of_[i] = row(state.items[i].y_m) * columns_ + column(state.items[i].x_m);
        ++cell_start_[static_cast<std::size_t>(cell_of_[i]) + 1];
    }
    for (std::size_t c = 0; c < cells; ++c) cell_start_[c + 1] += cell_start_[c];
    // Filled from behind, so that each cell's items are ascending and its start ends where it belongs.
    for (std::size_t i = 0; i < n; ++i)
        base::at(cell_items_, base::at(cell_start_, cell_of_[i])++) = static_cast<int>(i);
    for (std::size_t c = cells; c > 0; --c) cell_start_[c] = cell_start_[c - 1];
    cell_start_[0] = 0;
}

template <class F>
void Nearby::each_in_cells(int x0, int x1, int y0, int y1, F f) const {
    const auto first = static_cast<std::size_t>(std::max(x0, 0));
    const auto last = static_cast<std::size_t>(std::min(x1, columns_ - 1));
    for (int y = std::max(y0, 0); y <= std::min(y1, rows_ - 1); ++y) {
        const std::size_t row_start = static_cast<std::size_t>(y) * static_cast<std::size_t>(columns_);
        for (int k = cell_start_[row_start + first]; k < cell_start_[row_start + last + 1]; ++k)
            f(base::at(cell_items_, k));
    }
}

void Nearby::find_items(const PlantModel& model, const PlantState& state, double skin_m) {
    item_start_.assign(1, 0);
    item_list_.clear();
    for (std::size_t i = 0; i < state.items.size(); ++i) {
        const Item& item = state.items[i];
        const auto look = [&](int j) {
            const auto n = static_cast<std::size_t>(j);
            const Item& other = state.items[n];
            if (n == i || far(model, item, other, skin_m)) return;
            // What stays on surfaces that do not turn does not turn, so that its box says more than its circle.
            const bool boxes = inland_[i] != 0 && inland_[n] != 0;
            if (boxes && gap_at_least(model.footprint(item), model.footprint(other)) >= skin_m) return;
            item_list_.push_back(j);
        };
        if (few_) {
            for (std::size_t j = 0; j < state.items.size(); ++j) look(static_cast<int>(j));
        } else {
            const int x = cell_of_[i] % columns_, y = cell_of_[i] / columns_;
            each_in_cells(x - 1, x + 1, y - 1, y + 1, look);
            std::sort(item_list_.begin() + item_start_.back(), item_list_.end());
        }
        item_start_.push_back(static_cast<int>(item_list_.size()));
    }
}

void Nearby::find_zones(const PlantModel& model, const PlantState& state, double skin_m) {
    zone_start_.assign(1, 0);
    zone_list_.clear();
    zone_gap_m_.clear();
    for (const ZoneModel& zone : model.zones) {
        double nearest_m = skin_m;
        const auto look = [&](int i) {
            const Item& item = base::at(state.items, i);
            const double gap_m = zone.area.distance_at_least({item.x_m, item.y_m}) - model.form_of(item).radius_m;
            if (gap_m >= skin_m) return;
            zone_list_.push_back(i);
            nearest_m = std::min(nearest_m, gap_m);
        };
        if (few_) {
            for (std::size_t i = 0; i < state.items.size(); ++i) look(static_cast<int>(i));
        } else {
            const Rectangle bounds = zone.area.bounds();
            const double reach_m = cell_m_ / 2.0 + skin_m;  // no item's radius is more than half a cell
            each_in_cells(column(bounds.x0_m - reach_m), column(bounds.x1_m + reach_m), row(bounds.y0_m - reach_m),
                          row(bounds.y1_m + reach_m), look);
            std::sort(zone_list_.begin() + zone_start_.back(), zone_list_.end());
        }
        zone_start_.push_back(static_cast<int>(zone_list_.size()));
        zone_gap_m_.push_back(nearest_m);
    }
}

/// The zones of solids, seen from the items.
void Nearby::find_solids(const PlantModel& model) {
    const std::size_t n = listed();
    solid_start_.assign(n + 1, 0);
    for (const SolidModel& solid : model.solids) {
        for (const int i : zone(solid.zone)) ++solid_start_[static_cast<std::size_t>(i) + 1];
    }
    for (std::size_t i = 0; i < n; ++i) solid_start_[i + 1] += solid_start_[i];
    solid_list_.resize(static_cast<std::size_t>(solid_start_[n]));
    for (std::size_t s = 0; s < model.solids.size(); ++s) {
        for (const int i : zone(model.solids[s].zone))
            base::at(solid_list_, base::at(solid_start_, i)++) = static_cast<int>(s);
    }
    for (std::size_t i = n; i > 0; --i) solid_start_[i] = solid_start_[i - 1];
    solid_start_[0] = 0;
}

void Nearby::find_inland(const PlantModel& model, const PlantState& state, double travel_m) {
    inland_.assign(state.items.size(), 0);
    for (std::size_t i = 0; i < state.items.size(); ++i) {
        const Item& item = state.items[i];
        if (item.support == kNone || item.below != kNone) continue;
        const SurfaceModel& s = base::at(model.surfaces, item.support);
        if (s.disc || s.turns || s.sliding || s.drop_m != 0.0) continue;
        const Pose& pose = base::at(state.surfaces, item.support).pose;
        const double along = pose.along(item.x_m, item.y_m), left = pose.left(item.x_m, item.y_m);
        const bool inside =
            along > travel_m && along < s.length_m - travel_m && std::abs(left) < s.half_width_m - travel_m;
        if (inside) inland_[i] = kInland;
    }
}

namespace {

/// Where `other` lies as seen from `item`, for a way of unit vector `front`. What touches is in front, behind or
/// beside; of boxes that stand askew only what is clearly apart is.
Nearby::Side side_of(const OrientedBox& item, const OrientedBox& other, Vector2 front) {
    const auto straight = [&](const OrientedBox& box) {
        return std::abs(dot(box.heading.ahead(), front)) < 1e-9 || std::abs(dot(box.heading.left(), front)) < 1e-9;
    };
    const double slack_m = straight(item) && straight(other) ? kTouch_m / 2.0 : -kTouch_m;
    const Vector2 between = other.centre - item.centre, left{-front.y_m, front.x_m};
    const double along_m = dot(between, front);
    const double reach_m = item.half_extent(front) + other.half_extent(front) - slack_m;
    if (along_m >= reach_m) return Nearby::Side::Front;
    if (along_m <= -reach_m) return Nearby::Side::Behind;
    const double beside_m = item.half_extent(left) + other.half_extent(left) - slack_m;
    return std::abs(dot(between, left)) >= beside_m ? Nearby::Side::Beside : Nearby::Side::Mixed;
}

}  // namespace

/// Cost: items x neighbours.
void Nearby::find_order(const PlantModel& model, const PlantState& state) {
    front_.clear();
    for (const SurfaceState& s : state.surfaces) {
        const Vector2 front = unit_or_zero(carried(s, 1.0));
        front_.push_back(front == Vector2{} ? s.pose.heading.ahead() : front);
    }
    item_side_.assign(item_list_.size(), Side::Mixed);
    const auto plain = [&](std::size_t i) { return inland_[i] != 0 && solids(i).empty(); };
    for (std::size_t i = 0; i < state.items.size(); ++i) {
        if (!plain(i)) continue;
        const Item& item = state.items[i];
        const OrientedBox body = model.footprint(item);
        bool ordered = true;
        for (auto k = static_cast<std::size_t>(item_start_[i]); k < static_cast<std::size_t>(item_start_[i + 1]); ++k) {
            const auto j = static_cast<std::size_t>(item_list_[k]);
            const Item& other = state.items[j];
            if (plain(j) && other.support == item.support)
                item_side_[k] = side_of(body, model.footprint(other), base::at(front_, item.support));
            ordered = ordered && item_side_[k] != Side::Mixed;
        }
        if (ordered) roused_.push_back(static_cast<int>(i));
    }
    for (const int i : roused_) base::at(inland_, i) = kOrdered;
    roused_.clear();
}

/// Cost: items x neighbours.
void Nearby::find_calm(const PlantState& state) {
    for (std::uint8_t& i : inland_) i = i == kOrdered ? kCalm : i;
    for (std::size_t i = 0; i < state.items.size(); ++i) {
        const bool held_up = !calm(i) || state.held(state.items[i]);
        if (!held_up) continue;
        if (calm(i)) inland_[i] = kOrdered;
        roused_.push_back(static_cast<int>(i));
    }
    rouse_those_behind();
}

void Nearby::rouse(std::size_t item) {
    if (inland_[item] != kCalm) return;
    inland_[item] = kOrdered;
    roused_.push_back(static_cast<int>(item));
    rouse_those_behind();
}

void Nearby::rouse_those_behind() {
    while (!roused_.empty()) {
        const auto i = static_cast<std::size_t>(roused_.back());
        roused_.pop_back();
        for (auto k = static_cast<std::size_t>(item_start_[i]); k < static_cast<std::size_t>(item_start_[i + 1]); ++k) {
            std::uint8_t& other = base::at(inland_, item_list_[k]);
            if (other != kCalm || item_side_[k] == Side::Front || item_side_[k] == Side::Beside) continue;
            other = kOrdered;
            roused_.push_back(item_list_[k]);
        }
    }
}

void Nearby::unsettle(std::size_t item) {
    rouse(item);
    inland_[item] = 0;
    for (const int j : items(item)) {
        const auto other = static_cast<std::size_t>(j);
        rouse(other);
        inland_[other] = std::min(inland_[other], kInland);
    }
}

void Nearby::unsettle_all_on(const PlantState& state, int surface) {
    for (std::size_t i = 0; i < listed(); ++i) {
        if (state.items[i].support == surface) inland_[i] = std::min(inland_[i], kInland);
    }
}

}  // namespace vyard::plant
