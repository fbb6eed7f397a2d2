#include "core/plant/transport.hpp"

#include <array>
#include <limits>

#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

/// A body seen along one axis: [low, high] on it, [side_low, side_high] across it.
struct Extent {
    double low, high, side_low, side_high;
};

Extent extent(const Rectangle& r, int axis) {
    return axis == 0 ? Extent{r.x0_m, r.x1_m, r.y0_m, r.y1_m} : Extent{r.y0_m, r.y1_m, r.x0_m, r.x1_m};
}

Rectangle moved(Rectangle r, int heading, double by) {
    const Vector2 d = direction(heading);
    return {r.x0_m + d.x_m * by, r.y0_m + d.y_m * by, r.x1_m + d.x_m * by, r.y1_m + d.y_m * by};
}

double& coordinate(Item& item, int axis) {
    return axis == 0 ? item.x_m : item.y_m;
}

class Transport {
  public:
    Transport(const PlantModel& model, PlantState& state, double dt_s) : model_(model), state_(state), dt_s_(dt_s) {}

    void run() {
        for (std::size_t s = 0; s < state_.solids.size(); ++s) push(s);
        for (Item& item : state_.items) settle(item);
        for (int axis = 0; axis < 2; ++axis) move_all(axis);
    }

  private:
    bool side_by_side(const Extent& a, const Extent& b) const {
        return a.side_low < b.side_high - kTouch_m && b.side_low < a.side_high - kTouch_m;
    }
    static bool same_height(const Item& a, const Item& b) {
        return a.z_m < b.z_m + b.height_m - kCatch_m && b.z_m < a.z_m + a.height_m - kCatch_m;
    }
    bool same_height(const Item& a, std::size_t solid) const {
        const SolidModel& s = model_.solids[solid];
        return a.z_m < s.top_m - kCatch_m && s.bottom_m < a.z_m + a.height_m - kCatch_m;
    }
    Rectangle solid_area(std::size_t solid) const {
        return moved(model_.solids[solid].area, model_.solids[solid].heading, state_.solids[solid].offset_m);
    }

    /// Free way of `body` towards `sign` along `axis` before `other`; infinite when it is not in the way.
    double gap(const Extent& body, const Extent& other, int sign) const {
        if (!side_by_side(body, other)) return std::numeric_limits<double>::infinity();
        const double way = sign > 0 ? other.low - body.high : body.low - other.high;
        // What lies behind, or overlaps from an earlier mishap, does not hold the body back.
        return way < -kCatch_m ? std::numeric_limits<double>::infinity() : std::max(way, 0.0);
    }

    // --- solids push ---
    void push(std::size_t s) {
        SolidState& solid = state_.solids[s];
        if (solid.wanted_m == 0.0) return;
        const int heading = solid.wanted_m > 0.0 ? model_.solids[s].heading : model_.solids[s].heading + 2;
        const double wanted = std::abs(solid.wanted_m);
        const double allowed = solid.present ? push_limit_of_solid(s, heading, wanted) : wanted;
        if (solid.present) push_items(s, heading, allowed);
        solid.offset_m += solid.wanted_m > 0.0 ? allowed : -allowed;
        solid.wanted_m = 0.0;
    }

    double push_limit_of_solid(std::size_t s, int heading, double way) {
        const int axis = heading & 1;
        const int sign = (heading & 3) < 2 ? 1 : -1;
        const Extent body = extent(solid_area(s), axis);
        double allowed = way;
        for (std::size_t i = 0; i < state_.items.size(); ++i) {
            if (!same_height(state_.items[i], s)) continue;
            const double free = gap(body, extent(footprint(state_.items[i]), axis), sign);
            if (free < allowed) allowed = std::min(allowed, free + push_limit(i, axis, sign, allowed - free, 0));
        }
        return allowed;
    }

    /// How far item `i` can be pushed, at most `way`, counting all it pushes in turn.
    double push_limit(std::size_t i, int axis, int sign, double way, int depth) {
        const Item& item = state_.items[i];
        if (item.held || depth > static_cast<int>(state_.items.size())) return 0.0;
        const Extent body = extent(footprint(item), axis);
        double allowed = way;
        for (std::size_t s = 0; s < state_.solids.size(); ++s) {
            if (state_.solids[s].present && same_height(item, s))
                allowed = std::min(allowed, gap(body, extent(solid_area(s), axis), sign));
        }
        for (std::size_t j = 0; j < state_.items.size(); ++j) {
            if (j == i || !same_height(item, state_.items[j])) continue;
            const double free = gap(body, extent(footprint(state_.items[j]), axis), sign);
            if (free < allowed)
                allowed = std::min(allowed, free + push_limit(j, axis, sign, allowed - free, depth + 1));
        }
        return allowed;
    }

    void push_items(std::size_t s, int heading, double way) {
        const int axis = heading & 1;
        const int sign = (heading & 3) < 2 ? 1 : -1;
        const Extent body = extent(solid_area(s), axis);
        for (std::size_t i = 0; i < state_.items.size(); ++i) {
            if (!same_height(state_.items[i], s)) continue;
            const double free = gap(body, extent(footprint(state_.items[i]), axis), sign);
            if (free < way) shift(i, axis, sign, way - free, 0);
        }
    }

    void shift(std::size_t i, int axis, int sign, double way, int depth) {
        if (depth > static_cast<int>(state_.items.size())) return;
        const Extent body = extent(footprint(state_.items[i]), axis);
        for (std::size_t j = 0; j < state_.items.size(); ++j) {
            if (j == i || !same_height(state_.items[i], state_.items[j])) continue;
            const double free = gap(body, extent(footprint(state_.items[j]), axis), sign);
            if (free < way) shift(j, axis, sign, way - free, depth + 1);
        }
        coordinate(state_.items[i], axis) += sign * way;
    }

    // --- what carries an item ---
    void settle(Item& item) {
        if (item.on_floor) return;
        if (item.support != kNone &&
            model_.surfaces[static_cast<std::size_t>(item.support)].area.contains(item.x_m, item.y_m)) {
            item.z_m = height_of(item.support, item);
            return;
        }
        const int before = item.support;
        item.support = kNone;
        double rest = 0.0;
        for (std::size_t s = 0; s < model_.surfaces.size(); ++s) {
            if (!model_.surfaces[s].area.contains(item.x_m, item.y_m)) continue;
            const double height = surface_height(model_.surfaces[s], state_.surfaces[s], item.x_m, item.y_m);
            if (height > item.z_m + kStepUp_m) continue;
            if (item.support == kNone || height > rest) {
                item.support = static_cast<int>(s);
                rest = height;
            }
        }
        const bool at_hand = item.support != kNone && item.z_m - rest <= kStepUp_m;
        if (at_hand) {
            land(item, before, rest);
        } else {
            fall(item, before, rest);
        }
    }

    double height_of(int surface, const Item& item) const {
        return surface_height(model_.surfaces[static_cast<std::size_t>(surface)],
                              state_.surfaces[static_cast<std::size_t>(surface)], item.x_m, item.y_m);
    }

    void land(Item& item, int before, double height) {
        if (before != kNone && !model_.surfaces[static_cast<std::size_t>(before)].sliding) {
            item.slide_m_s = std::abs(state_.surfaces[static_cast<std::size_t>(before)].speed_m_s);
        }
        if (before == kNone) item.slide_m_s = 0.0;
        item.z_m = height;
        item.fall_m_s = 0.0;
    }

    void fall(Item& item, int before, double rest) {
        const int below = item.support;
        item.support = kNone;
        double floor = below != kNone ? rest : 0.0;
        for (const Item& other : state_.items) {
            if (&other == &item || !footprint(item).overlaps(footprint(other), kTouch_m)) continue;
            const double top = other.z_m + other.height_m;
            if (top <= item.z_m + kStepUp_m) floor = std::max(floor, top);
        }
        // Exact for constant acceleration over the step.
        item.z_m -= item.fall_m_s * dt_s_ + 0.5 * kGravity_m_s2 * dt_s_ * dt_s_;
        item.fall_m_s += kGravity_m_s2 * dt_s_;
        if (item.z_m > floor) return;
        item.z_m = floor;
        item.fall_m_s = 0.0;
        item.support = below != kNone && floor == rest ? below : kNone;
        item.on_floor = item.support == kNone && floor == 0.0;
        if (item.support != kNone) land(item, before, rest);
    }

    // --- items move ---
    void move_all(int axis) {
        const std::size_t n = state_.items.size();
        VYARD_CHECK(n <= kMaxItems);  // add_item() keeps to it
        std::fill_n(done_.begin(), n, std::uint8_t{0});
        for (std::size_t i = 0; i < n; ++i) move(i, axis, 0);
    }

    double wish(Item& item, int axis) const {
        if (item.held || item.support == kNone) return 0.0;
        const auto s = static_cast<std::size_t>(item.support);
        const SurfaceModel& surface = model_.surfaces[s];
        const Vector2 d = direction(surface.pose.heading);
        const double along = axis == 0 ? d.x_m : d.y_m;
        if (along == 0.0) return 0.0;
        if (!surface.sliding) return along * state_.surfaces[s].speed_m_s * dt_s_;
        const double way = item.slide_m_s * dt_s_ + 0.5 * surface.slide_m_s2 * dt_s_ * dt_s_;
        return along * std::max(way, 0.0);
    }

    void move(std::size_t i, int axis, int depth) {
        if (done_[i] != 0) return;
        done_[i] = 1;
        Item& item = state_.items[i];
        const double wanted = wish(item, axis);
        if (wanted == 0.0) return;
        const int sign = wanted > 0.0 ? 1 : -1;
        double allowed = std::abs(wanted);
        const Extent body = extent(footprint(item), axis);
        for (std::size_t s = 0; s < state_.solids.size(); ++s) {
            if (state_.solids[s].present && same_height(item, s))
                allowed = std::min(allowed, gap(body, extent(solid_area(s), axis), sign));
        }
        for (std::size_t j = 0; j < state_.items.size(); ++j) {
            if (j == i || !same_height(item, state_.items[j])) continue;
            if (gap(body, extent(footprint(state_.items[j]), axis), sign) >= allowed) continue;
            move(j, axis, depth + 1);  // who is in front goes first
            allowed = std::min(allowed, gap(body, extent(footprint(state_.items[j]), axis), sign));
        }
        coordinate(item, axis) += sign * allowed;
        slide(item, allowed, std::abs(wanted));
    }

    /// What slides keeps its speed, unless something stopped it.
    void slide(Item& item, double went, double wanted) const {
        const SurfaceModel& surface = model_.surfaces[static_cast<std::size_t>(item.support)];
        if (!surface.sliding) return;
        item.slide_m_s = went < wanted - kTouch_m ? 0.0 : std::max(0.0, item.slide_m_s + surface.slide_m_s2 * dt_s_);
    }

    const PlantModel& model_;
    PlantState& state_;
    double dt_s_;
    std::array<std::uint8_t, kMaxItems> done_;  // only the first items.size() are used
};

}  // namespace

void advance_transport(const PlantModel& model, PlantState& state, double dt_s) {
    Transport(model, state, dt_s).run();
}

double surface_height(const SurfaceModel& surface, const SurfaceState& state, double x_m, double y_m) {
    if (surface.drop_m == 0.0) return state.z_m;
    const double share = std::clamp(surface.pose.along(x_m, y_m) / surface.length_m, 0.0, 1.0);
    return state.z_m - surface.drop_m * share;
}

bool space_is_free(const PlantModel& model, const PlantState& state, const Item& item) {
    const auto apart = [&](double bottom, double top) {
        return item.z_m >= top - kCatch_m || bottom >= item.z_m + item.height_m - kCatch_m;
    };
    for (const Item& other : state.items) {
        if (!apart(other.z_m, other.z_m + other.height_m) && footprint(item).overlaps(footprint(other), kTouch_m))
            return false;
    }
    for (std::size_t s = 0; s < model.solids.size(); ++s) {
        const SolidModel& solid = model.solids[s];
        if (!state.solids[s].present || apart(solid.bottom_m, solid.top_m)) continue;
        if (footprint(item).overlaps(moved(solid.area, solid.heading, state.solids[s].offset_m), kTouch_m))
            return false;
    }
    return true;
}

}  // namespace vyard::plant
