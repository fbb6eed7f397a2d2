#include "core/plant/transport.hpp"

#include <limits>

#include "core/plant/kind.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

std::size_t index(int number) {
    return static_cast<std::size_t>(number);
}

class Transport {
  public:
    Transport(const PlantModel& model, PlantState& state, double dt_s) : model_(model), state_(state), dt_s_(dt_s) {}

    void run() {
        const std::size_t before = state_.items.size();
        remove_gone(state_);
        if (!state_.near.known() || state_.items.size() != before || state_.near.listed() != before)
            state_.near.refresh(model_, state_);
        VYARD_CHECK(state_.items.size() <= kMaxItems);  // place_item() keeps to it
        state_.scratch.wanted.resize(state_.solids.size());
        pushing_ = std::any_of(state_.solids.begin(), state_.solids.end(),
                               [](const SolidState& s) { return s.wanted_m != 0.0; });
        if (pushing_) {
            went_.assign(state_.items.size(), {});
            pushed_by_.assign(state_.items.size(), kNone);
        }
        for (std::size_t s = 0; s < state_.solids.size(); ++s) push(s);
        for (std::size_t s = 0; s < state_.surfaces.size(); ++s) {
            if (state_.surfaces[s].turn_rad != 0.0) turn(s);
        }
        settle_all();
        move_all();
        state_.near.step_done();
    }

  private:
    bool blocks(std::size_t solid, const Item& item) const {
        return state_.solids[solid].present && same_height(model_, item, model_.solids[solid]);
    }
    OrientedBox solid_area(std::size_t solid) const { return model_.solids[solid].now(state_.solids[solid]); }

    // --- solids push ---
    void push(std::size_t s) {
        SolidState& solid = state_.solids[s];
        state_.scratch.wanted[s] = solid.wanted_m;
        const int device = model_.solids[s].device;
        const int squeezed = model_.device(device).kind->item_squeezed;
        if (solid.wanted_m == 0.0) {
            if (squeezed != kNone) change_mishap(model_, state_, device, squeezed, false);
            return;
        }
        const double sign = solid.wanted_m > 0.0 ? 1.0 : -1.0;
        const Vector2 way = model_.solids[s].push * sign;
        double allowed = std::abs(solid.wanted_m);
        if (solid.present) {
            const double wanted = allowed;
            int stopped_by = kNone;
            allowed = push_limit_of_solid(s, way, allowed, stopped_by);
            if (squeezed != kNone) {
                const bool stops = allowed < wanted - kTouch_m && stopped_by != kNone;
                change_mishap(model_, state_, device, squeezed, stops, kNone,
                              stops ? &state_.items[index(stopped_by)] : nullptr);
            }
            pushed_ = way * allowed;
            pusher_ = device;
            push_items(s, way, allowed);
        }
        solid.offset_m += sign * allowed;
        solid.wanted_m = 0.0;
    }

    /// `stopped_by`: the item that does not give way.
    double push_limit_of_solid(std::size_t s, Vector2 way, double wanted, int& stopped_by) {
        const OrientedBox body = solid_area(s);
        double allowed = wanted;
        for (const int i : state_.near.zone(model_.solids[s].zone)) {
            const Item& item = state_.items[index(i)];
            if (!same_height(model_, item, model_.solids[s])) continue;
            const double free = free_way(body, model_.footprint(item), way);
            if (free >= allowed) continue;
            const double most = free + push_limit(index(i), way, allowed - free, 0);
            if (most >= allowed) continue;
            allowed = most;
            stopped_by = i;
        }
        return allowed;
    }

    /// How far item `i` can be pushed, at most `wanted`, counting all it pushes in turn.
    double push_limit(std::size_t i, Vector2 way, double wanted, int depth) {
        const Item& item = state_.items[i];
        if (state_.held(item) || depth > kMostPushed) return 0.0;
        const OrientedBox body = model_.footprint(item);
        double allowed = wanted;
        for (const int s : state_.near.solids(i)) {
            if (blocks(index(s), item)) allowed = std::min(allowed, free_way(body, solid_area(index(s)), way));
        }
        for (const int j : state_.near.items(i)) {
            if (!same_height(model_, item, state_.items[index(j)])) continue;
            const double free = free_way(body, model_.footprint(state_.items[index(j)]), way);
            if (free < allowed)
                allowed = std::min(allowed, free + push_limit(index(j), way, allowed - free, depth + 1));
        }
        return allowed;
    }

    void push_items(std::size_t s, Vector2 way, double by) {
        const OrientedBox body = solid_area(s);
        for (const int i : state_.near.zone(model_.solids[s].zone)) {
            if (!same_height(model_, state_.items[index(i)], model_.solids[s])) continue;
            const double free = free_way(body, model_.footprint(state_.items[index(i)]), way);
            if (free < by) shift(index(i), way, by - free, 0);
        }
    }

    void shift(std::size_t i, Vector2 way, double by, int depth) {
        if (depth > kMostPushed) return;
        const OrientedBox body = model_.footprint(state_.items[i]);
        for (const int j : state_.near.items(i)) {
            if (!same_height(model_, state_.items[i], state_.items[index(j)])) continue;
            const double free = free_way(body, model_.footprint(state_.items[index(j)]), way);
            if (free < by) shift(index(j), way, by - free, depth + 1);
        }
        Item& item = state_.items[i];
        item.x_m += way.x_m * by;
        item.y_m += way.y_m * by;
        went_[i] = pushed_;
        pushed_by_[i] = pusher_;
        if (item.support != kNone && model_.surfaces[index(item.support)].sliding) take_on(i, item, item.support);
        state_.near.unsettle(i);
        for (const int j : state_.near.items(i)) {
            if (state_.items[index(j)].below == static_cast<int>(i)) ride(index(j), way, by, depth + 1);
        }
    }

    /// What lies on a pushed item goes along as far as there is room.
    void ride(std::size_t i, Vector2 way, double by, int depth) {
        Item& item = state_.items[i];
        const OrientedBox body = model_.footprint(item);
        for (const int s : state_.near.solids(i)) {
            if (blocks(index(s), item)) by = std::min(by, free_way(body, solid_area(index(s)), way));
        }
        for (const int j : state_.near.items(i)) {
            if (same_height(model_, item, state_.items[index(j)]))
                by = std::min(by, free_way(body, model_.footprint(state_.items[index(j)]), way));
        }
        if (by > 0.0) shift(i, way, by, depth);
    }

    // --- surfaces turn ---
    /// A turning surface takes what lies on it along, all or nothing: when something stands in the way it stalls.
    void turn(std::size_t s) {
        SurfaceState& surface = state_.surfaces[s];
        const Vector2 pivot = model_.surfaces[s].pivot;
        const Heading by = Heading::of(surface.turn_rad);
        surface.turn_rad = 0.0;
        turned_.clear();
        find_riders(static_cast<int>(s));
        for (const int rider : riders_) {
            Item& item = state_.items[index(rider)];
            turned_.push_back(item);
            if (state_.held(item)) return restore();
            rotate(item, pivot, by);
        }
        for (const Item& before : turned_) {
            const std::size_t i = number_of(before);
            if (stands_free(i, static_cast<int>(s))) continue;
            return restore();
        }
        const Vector2 origin = rotated(surface.pose.origin() - pivot, by) + pivot;
        surface.pose.x_m = origin.x_m;
        surface.pose.y_m = origin.y_m;
        surface.pose.heading = unit(surface.pose.heading.turned(by));
    }

    /// What lies on a turning surface, and what lies on that; ascending.
    void find_riders(int surface) {
        riders_.clear();
        for (const int i : state_.near.zone(model_.surfaces[index(surface)].zone)) {
            if (state_.items[index(i)].support == surface) riders_.push_back(i);
        }
        for (std::size_t k = 0; k < riders_.size(); ++k) {
            const int below = riders_[k];
            for (const int j : state_.near.items(index(below))) {
                if (state_.items[index(j)].below == below) riders_.push_back(j);
            }
        }
        std::sort(riders_.begin(), riders_.end());
    }

    void restore() {
        for (const Item& before : turned_) state_.items[number_of(before)] = before;
    }
    std::size_t number_of(const Item& item) const {
        const auto found = std::lower_bound(state_.items.begin(), state_.items.end(), item.id,
                                            [](const Item& i, std::uint32_t id) { return i.id < id; });
        return static_cast<std::size_t>(found - state_.items.begin());
    }
    /// The surface that carries an item, by way of the items it lies on.
    int carrier(std::size_t i) const {
        for (int depth = 0; state_.items[i].below != kNone && depth < kMostStacked; ++depth)
            i = index(state_.items[i].below);
        return state_.items[i].support;
    }
    static Vector2 rotated(Vector2 v, Heading by) {
        return {v.x_m * by.cos - v.y_m * by.sin, v.x_m * by.sin + v.y_m * by.cos};
    }
    static Heading unit(Heading h) {
        const double size = std::sqrt(h.cos * h.cos + h.sin * h.sin);
        return {h.cos / size, h.sin / size};
    }
    static void rotate(Item& item, Vector2 pivot, Heading by) {
        const Vector2 p = rotated(Vector2{item.x_m, item.y_m} - pivot, by) + pivot;
        item.x_m = p.x_m;
        item.y_m = p.y_m;
        item.heading = unit(item.heading.turned(by));
    }
    /// Whether a turned item overlaps nothing but what turned with it.
    bool stands_free(std::size_t i, int surface) const {
        const Item& item = state_.items[i];
        for (const int s : state_.near.solids(i)) {
            if (blocks(index(s), item) && overlap(model_.footprint(item), solid_area(index(s)), kTouch_m)) return false;
        }
        for (const int j : state_.near.items(i)) {
            const Item& other = state_.items[index(j)];
            if (carrier(index(j)) != surface && same_height(model_, item, other) &&
                overlap(model_.footprint(item), model_.footprint(other), kTouch_m))
                return false;
        }
        return true;
    }

    // --- what carries an item ---
    void settle_all() {
        done_.assign(state_.items.size(), 0);
        rose_.assign(state_.items.size(), 0.0);
        for (std::size_t i = 0; i < state_.items.size(); ++i) {
            const Item& item = state_.items[i];
            const bool stays = state_.near.inland(i) && item.z_m == state_.surfaces[index(item.support)].pose.z_m;
            if (!stays) settle(i);
        }
    }

    /// Raises or lowers an item; what it would meet on the way stops it.
    void set_height(std::size_t i, Item& item, double z_m) {
        if (z_m < item.z_m) z_m = std::max(z_m, std::min(highest_overlapped(i, item), item.z_m));
        if (z_m > item.z_m) z_m = std::max(item.z_m, std::min(z_m, ceiling(i, item) - model_.form_of(item).height_m));
        rose_[i] += z_m - item.z_m;
        item.z_m = z_m;
    }

    /// How high the top of an item can come: to what is above it, and what lies on it goes along.
    double ceiling(std::size_t i, const Item& item) const {
        double lowest_m = std::numeric_limits<double>::infinity();
        const double top_m = top_of(item) - kCatch_m;
        for (const int j : state_.near.items(i)) {
            const Item& other = state_.items[index(j)];
            if (other.below == static_cast<int>(i))
                lowest_m = std::min(lowest_m, ceiling(index(j), other) - model_.form_of(other).height_m);
            else if (other.z_m >= top_m && overlap(model_.footprint(item), model_.footprint(other), kTouch_m))
                lowest_m = std::min(lowest_m, other.z_m);
        }
        for (const int s : state_.near.solids(i)) {
            const double bottom_m = model_.solids[index(s)].bottom_m;
            if (state_.solids[index(s)].present && bottom_m >= top_m &&
                overlap(model_.footprint(item), solid_area(index(s)), kTouch_m))
                lowest_m = std::min(lowest_m, bottom_m);
        }
        return lowest_m;
    }

    bool still_on(const Item& item, int surface) const {
        return model_.surfaces[index(surface)].contains(state_.surfaces[index(surface)], item.x_m, item.y_m);
    }
    double height_of(int surface, const Item& item) const {
        return surface_height(model_.surfaces[index(surface)], state_.surfaces[index(surface)], item.x_m, item.y_m);
    }

    void settle(std::size_t i) {
        if (done_[i] != 0) return;
        done_[i] = 1;
        Item& item = state_.items[i];
        if (item.on_floor || (state_.held(item) && item.support == kNone)) return;  // a gripper carries it
        if (item.below != kNone) {
            settle(index(item.below));  // what carries it goes first
            const double before_m = top_of(state_.items[index(item.below)]) - rose_[index(item.below)];
            if (lies_on(item, state_.items[index(item.below)], before_m))
                return set_height(i, item, top_of(state_.items[index(item.below)]));
        } else if (item.support != kNone && still_on(item, item.support)) {
            return set_height(i, item, height_of(item.support, item));
        }
        const int before = item.support;
        const bool was_carried = before != kNone || item.below != kNone;
        const int carried_by = carrier(i);
        item.support = item.below = kNone;
        const int surface = highest_surface(item, before);
        const int other = highest_item(i, item);
        const double surface_m = surface == kNone ? 0.0 : height_of(surface, item);
        const bool on_item = other != kNone && top_of(state_.items[index(other)]) > surface_m;
        const double rest_m = on_item ? top_of(state_.items[index(other)]) : surface_m;
        if ((on_item || surface != kNone) && item.z_m - rest_m <= kStepUp_m) {
            rest(i, before, on_item ? kNone : surface, on_item ? other : kNone, rest_m);
            return;
        }
        if (was_carried) {
            item.speed_m_s = 0.0;
            begins_to_fall(i, carried_by);
        }
        // Exact for constant acceleration over the step. It falls onto whatever it overlaps, at the edge too.
        const double floor_m = std::max(rest_m, highest_overlapped(i, item));
        item.z_m -= item.speed_m_s * dt_s_ + 0.5 * kGravity_m_s2 * dt_s_ * dt_s_;
        item.speed_m_s += kGravity_m_s2 * dt_s_;
        if (item.z_m > floor_m) return;
        item.z_m = floor_m;
        item.speed_m_s = 0.0;
        has_fallen(item, floor_m == 0.0 && surface == kNone);
        if (floor_m == rest_m && (on_item || surface != kNone))
            rest(i, before, on_item ? kNone : surface, on_item ? other : kNone, rest_m);
        else
            item.on_floor = floor_m == 0.0;
    }

    void begins_to_fall(std::size_t i, int surface) {
        if (surface == kNone) return;
        int from = model_.surfaces[index(surface)].device;
        if (model_.device(from).kind->item_fell == kNone && model_.device(from).mounted_on != kNone)
            from = model_.device(from).mounted_on;
        state_.falls.push_back({state_.items[i].id, from, pushing_ ? pushed_by_[i] : kNone});
    }
    /// On the floor it is a mishap of what it fell off.
    void has_fallen(const Item& item, bool to_the_floor) {
        const auto fall =
            std::find_if(state_.falls.begin(), state_.falls.end(), [&](const Fall& f) { return f.item == item.id; });
        if (fall == state_.falls.end()) return;
        const int mishap = model_.device(fall->from).kind->item_fell;
        if (to_the_floor && mishap != kNone) count_mishap(model_, state_, fall->from, mishap, fall->cause, &item);
        state_.falls.erase(fall);
    }

    double top_of(const Item& item) const { return model_.top_m(item); }
    /// `top_m` is where the top of the lower one was when the upper one came to its height.
    bool lies_on(const Item& item, const Item& below, double top_m) const {
        return !below.gone && model_.footprint(below).contains({item.x_m, item.y_m}) &&
               std::abs(item.z_m - top_m) <= kStepUp_m;
    }

    /// The highest surface under the middle of an item that it can rest on or fall to.
    int highest_surface(const Item& item, int before) const {
        int best = kNone;
        double best_m = 0.0;
        const auto look = [&](int s) {
            if (!still_on(item, s)) return;
            const double height_m = height_of(s, item);
            if (height_m > item.z_m + kStepUp_m || (best != kNone && height_m <= best_m)) return;
            best = s;
            best_m = height_m;
        };
        if (before != kNone) {
            for (const int s : model_.surfaces[index(before)].neighbours) look(s);
        } else {
            for (std::size_t s = 0; s < model_.surfaces.size(); ++s) look(static_cast<int>(s));
        }
        return best;
    }

    int highest_item(std::size_t i, const Item& item) const {
        int best = kNone;
        for (const int j : state_.near.items(i)) {
            const Item& other = state_.items[index(j)];
            if (top_of(other) > item.z_m + kStepUp_m || !model_.footprint(other).contains({item.x_m, item.y_m}))
                continue;
            if (best == kNone || top_of(other) > top_of(state_.items[index(best)])) best = j;
        }
        return best;
    }

    double highest_overlapped(std::size_t i, const Item& item) const {
        double best_m = 0.0;
        for (const int j : state_.near.items(i)) {
            const Item& other = state_.items[index(j)];
            if (top_of(other) <= item.z_m + kStepUp_m &&
                overlap(model_.footprint(item), model_.footprint(other), kTouch_m))
                best_m = std::max(best_m, top_of(other));
        }
        for (const int s : state_.near.solids(i)) {
            const double top_m = model_.solids[index(s)].top_m;
            if (state_.solids[index(s)].present && top_m <= item.z_m + kStepUp_m &&
                overlap(model_.footprint(item), solid_area(index(s)), kTouch_m))
                best_m = std::max(best_m, top_m);
        }
        return best_m;
    }

    void rest(std::size_t i, int before, int surface, int below, double height_m) {
        Item& item = state_.items[i];
        if (!state_.falls.empty()) has_fallen(item, false);
        const bool from_driven = before != kNone && !model_.surfaces[index(before)].sliding;
        if (from_driven) item.speed_m_s = std::abs(state_.surfaces[index(before)].speed_m_s);
        if (from_driven && surface != kNone && model_.surfaces[index(surface)].sliding) take_on(i, item, surface);
        if (before == kNone) item.speed_m_s = 0.0;
        item.support = surface;
        item.below = below;
        set_height(i, item, height_m);
    }

    /// On a chute a pushed item is as fast as it is pushed along it, at least.
    void take_on(std::size_t i, Item& item, int chute) const {
        if (!pushing_) return;
        const double pushed_m = dot(went_[i], state_.surfaces[index(chute)].pose.heading.ahead());
        item.speed_m_s = std::max(item.speed_m_s, pushed_m / dt_s_);
    }

    // --- items move ---
    void move_all() {
        strides_.clear();
        for (std::size_t s = 0; s < state_.surfaces.size(); ++s) {
            const Vector2 way = carried(state_.surfaces[s], dt_s_);
            strides_.push_back({way, unit_or_zero(way), length(way)});
            if (strides_.back().size_m > 0.0 && state_.near.turned_round(s, strides_.back().unit))
                state_.near.unsettle_all_on(state_, static_cast<int>(s));
        }
        const std::size_t n = state_.items.size();
        done_.assign(n, kWaiting);
        went_.resize(n);
        chain_.resize(n);
        for (std::size_t i = 0; i < n; ++i) {
            if (done_[i] != kWaiting) continue;
            if (!state_.near.calm(i)) {
                move_in_turn(i);
                continue;
            }
            go_all_the_way(i);
            done_[i] = kDone;
        }
    }

    /// Who is in front goes first, and so on to the head of the row, which is as long as the plant has items: after
    /// kMostDeep of them the one that is reached goes on its own, and the row is gone through again from there. Nothing
    /// has been done to those that wait when that happens. Cost: a row's length, and once more for each such part.
    void move_in_turn(std::size_t first) {
        waiting_.assign(1, static_cast<int>(first));
        while (!waiting_.empty()) {
            const std::size_t i = index(waiting_.back());
            done_[i] = kWaiting;
            depth_ = 0;
            deepest_ = kNone;
            move(i, static_cast<int>(i));
            if (deepest_ == kNone) {
                waiting_.pop_back();
                continue;
            }
            for (const int g : going_) done_[index(g)] = kWaiting;
            going_.clear();
            waiting_.push_back(deepest_);
            // Those whose turn comes later are under way for whoever comes back to them in a circle.
            for (std::size_t w = 0; w + 1 < waiting_.size(); ++w) done_[index(waiting_[w])] = kGoing;
        }
    }

    void go_all_the_way(std::size_t i) {
        Item& item = state_.items[i];
        const Vector2 way = strides_[index(item.support)].way;
        went_[i] = way;
        item.x_m += way.x_m;
        item.y_m += way.y_m;
    }

    /// Where item `i` would go in this step.
    Stride wish(std::size_t i) {
        const Item& item = state_.items[i];
        if (state_.held(item) || item.on_floor) return {};
        if (item.below != kNone) {
            move(index(item.below));
            if (deepest_ != kNone) return {};
            const Vector2 way = went_[index(item.below)];
            return {way, unit_or_zero(way), length(way)};
        }
        if (item.support == kNone) return {};
        const SurfaceModel& surface = model_.surfaces[index(item.support)];
        if (!surface.sliding) return strides_[index(item.support)];
        const double way = std::max(item.speed_m_s * dt_s_ + 0.5 * surface.slide_m_s2 * dt_s_ * dt_s_, 0.0);
        const Vector2 unit = state_.surfaces[index(item.support)].pose.heading.ahead();
        return {unit * way, unit, way};
    }

    /// Whether the circles around two items are further apart than `way`: then neither meets the other on it.
    bool far(const Item& a, const Item& b, double way) const {
        const double reach = model_.form_of(a).radius_m + model_.form_of(b).radius_m + way + kTouch_m;
        const double dx = b.x_m - a.x_m, dy = b.y_m - a.y_m;
        return dx * dx + dy * dy > reach * reach;
    }

    void move(std::size_t i) { move(i, static_cast<int>(i)); }
    void move(std::size_t i, int chain) {
        if (done_[i] != kWaiting || deepest_ != kNone) return;
        if (depth_ >= kMostDeep) {
            if (led_ == 0) deepest_ = static_cast<int>(i);
            // Who is led along a guide has gone half its way and cannot begin anew; one that far ahead stands for it.
            if (led_ == 0 || depth_ >= 2 * kMostDeep) return;
        }
        done_[i] = kGoing;
        chain_[i] = chain;
        went_[i] = {};
        going_.push_back(static_cast<int>(i));
        ++depth_;
        go(i);
        --depth_;
        if (deepest_ != kNone) return;  // it goes later
        going_.pop_back();
        done_[i] = kDone;
    }

    void go(std::size_t i) {
        if (go_in_order(i) || deepest_ != kNone) return;
        const Stride stride = wish(i);
        if (stride.size_m == 0.0 || deepest_ != kNone) return;
        Item& item = state_.items[i];
        const Room room = room_ahead(i, stride.unit, stride.size_m, rides_belt(item));
        if (deepest_ != kNone) return;
        went_[i] = room.way_m == stride.size_m ? stride.way : stride.unit * room.way_m;
        item.x_m += went_[i].x_m;
        item.y_m += went_[i].y_m;
        done_[i] = kLed;
        const bool led = room.solid != kNone && go_along(i, stride, room);
        if (item.below == kNone) slide(item, led ? stride.size_m : room.way_m, stride.size_m);
    }

    /// An ordered item goes all the way when those in front of it do. False when that is not so.
    bool go_in_order(std::size_t i) {
        const Item& item = state_.items[i];
        if (!state_.near.ordered(i) || state_.held(item)) return false;
        const Stride& stride = strides_[index(item.support)];
        if (stride.size_m == 0.0) return true;
        const OrientedBox body = model_.footprint(item);
        const bool free = state_.near.all_in_front(i, [&](std::size_t j) {
            const Item& other = state_.items[j];
            if (!same_height(model_, item, other) ||
                free_way(body, model_.footprint(other), stride.unit) >= stride.size_m)
                return true;
            move(j, chain_[i]);
            return deepest_ == kNone && goes_along(i, j);
        });
        if (free) go_all_the_way(i);
        return free;
    }

    /// How far an item can go, and the solid that ends its way; kNone when an item does, or nothing.
    struct Room {
        double way_m = 0.0;
        int solid = kNone;
    };
    Room room_ahead(std::size_t i, Vector2 unit, double wanted_m, bool with_belt) {
        const Item& item = state_.items[i];
        const OrientedBox body = model_.footprint(item);
        Room room{wanted_m, kNone};
        for (const int s : state_.near.solids(i)) {
            if (!blocks(index(s), item)) continue;
            const double free = free_way(body, solid_area(index(s)), unit);
            if (free < room.way_m) room = {free, s};
        }
        for (const int j : state_.near.items(i)) {
            const Item& other = state_.items[index(j)];
            const bool together = with_belt && other.support == item.support;
            if ((together && goes_along(i, index(j))) || far(item, other, room.way_m) ||
                !same_height(model_, item, other) || free_way(body, model_.footprint(other), unit) >= room.way_m)
                continue;
            move(index(j), together ? chain_[i] : j);  // who is in front goes first
            if (deepest_ != kNone) return {};
            if (together && goes_along(i, index(j))) continue;
            const double free = free_way(body, model_.footprint(other), unit);
            if (free < room.way_m) room = {free, kNone};
        }
        return room;
    }

    bool rides_belt(const Item& item) const {
        return item.support != kNone && !model_.surfaces[index(item.support)].sliding;
    }
    /// Of two on one belt: `j` has gone all the belt's way, or waits behind `i` for it to go; it is not in the way.
    bool goes_along(std::size_t i, std::size_t j) const {
        if (done_[j] == kGoing) return chain_[j] == chain_[i];
        return done_[j] == kDone && went_[j] == strides_[index(state_.items[i].support)].way;
    }

    // An item at a slanted face is led along it. The belt goes on under it and drags it the way that belt and item
    // part; along the face that pull meets the face's friction, so it goes at v (cos a - mu sin a), a the angle between
    // its way and the face (Coulomb, both frictions in balance). Where that is not more than nought the face holds it.
    bool go_along(std::size_t i, const Stride& stride, const Room& room) {
        Item& item = state_.items[i];
        const Vector2 normal = contact_normal(model_.footprint(item), solid_area(index(room.solid)), stride.unit);
        const Vector2 face{-normal.y_m, normal.x_m};
        const double cosine = dot(stride.unit, face);
        const double share = std::abs(cosine) - kGuideFriction * std::abs(dot(stride.unit, normal));
        if (share <= 0.0) return false;
        const Vector2 unit = cosine > 0.0 ? face : face * -1.0;
        const double wanted_m = (stride.size_m - room.way_m) * share;
        ++led_;
        const double way_m = room_ahead(i, unit, wanted_m, false).way_m;
        --led_;
        const Vector2 way = unit * way_m;
        went_[i] = went_[i] + way;
        item.x_m += way.x_m;
        item.y_m += way.y_m;
        return way_m >= wanted_m - kTouch_m;
    }

    /// What slides keeps its speed, unless something stopped it.
    void slide(Item& item, double went, double wanted) const {
        const SurfaceModel& surface = model_.surfaces[index(item.support)];
        if (!surface.sliding) return;
        item.speed_m_s = went < wanted - kTouch_m ? 0.0 : std::max(0.0, item.speed_m_s + surface.slide_m_s2 * dt_s_);
    }

    /// How far an item is with its step. It is led by a guide, if at all, when it has gone with its belt.
    enum Progress : std::uint8_t { kWaiting, kGoing, kLed, kDone };
    static constexpr int kMostPushed = 200;  ///< Items one plate moves in a row; more do not give.
    static constexpr int kMostStacked = 100;
    static constexpr int kMostDeep = 400;  ///< Items that ask each other to go first; bounds the stack.

    const PlantModel& model_;
    PlantState& state_;
    double dt_s_;
    std::vector<Stride>& strides_ = state_.scratch.strides;
    std::vector<std::uint8_t>& done_ = state_.scratch.done;
    std::vector<Vector2>& went_ = state_.scratch.went;
    std::vector<int>& chain_ = state_.scratch.chain;
    std::vector<Item>& turned_ = state_.scratch.turned;
    std::vector<int>& riders_ = state_.scratch.riders;
    std::vector<int>& waiting_ = state_.scratch.waiting;
    std::vector<int>& going_ = state_.scratch.going;
    bool pushing_ = false;  ///< In this step something pushes; until items move, went_ is how far that went.
    Vector2 pushed_;        ///< How far the solid goes that pushes now.
    int pusher_ = kNone;    ///< Its device.
    std::vector<int>& pushed_by_ = state_.scratch.pushed_by;
    int depth_ = 0, deepest_ = kNone, led_ = 0;
    std::vector<double>& rose_ = state_.scratch.rose;  ///< By item, in this step.
};

}  // namespace

void advance_transport(const PlantModel& model, PlantState& state, double dt_s) {
    Transport(model, state, dt_s).run();
}

double surface_height(const SurfaceModel& surface, const SurfaceState& state, double x_m, double y_m) {
    if (surface.drop_m == 0.0) return state.pose.z_m;
    const double share = std::clamp(state.pose.along(x_m, y_m) / surface.length_m, 0.0, 1.0);
    return state.pose.z_m - surface.drop_m * share;
}

const Item* item_across_edge(const PlantModel& model, const PlantState& state, int surface) {
    const SurfaceModel& own = model.surfaces[index(surface)];
    const auto reaches = [&](const Item& item, int other) {
        const SurfaceState& there = state.surfaces[index(other)];
        return std::abs(item.z_m - there.pose.z_m) <= kStepUp_m &&
               overlap(model.footprint(item), model.surfaces[index(other)].area(there.pose), kStepUp_m);
    };
    for (const Item& item : state.items) {
        if (item.gone || item.support == kNone || state.held(item)) continue;
        const bool across = item.support == surface
                                ? std::any_of(own.neighbours.begin(), own.neighbours.end(),
                                              [&](int n) { return n != surface && reaches(item, n); })
                                : reaches(item, surface);
        if (across) return &item;
    }
    return nullptr;
}

void remove_gone(PlantState& state) {
    if (!state.leaving) return;
    state.leaving = false;
    const auto gone = [](const Item& i) { return i.gone; };
    std::vector<int> number(state.items.size(), kNone);
    int kept = 0;
    for (std::size_t i = 0; i < state.items.size(); ++i) {
        if (!state.items[i].gone) number[i] = kept++;
    }
    std::erase_if(state.falls, [&](const Fall& f) {
        return std::any_of(state.items.begin(), state.items.end(),
                           [&](const Item& i) { return i.gone && i.id == f.item; });
    });
    std::erase_if(state.items, gone);
    for (Item& item : state.items) {
        if (item.below != kNone) item.below = number[index(item.below)];
    }
    state.near.forget();
}

}  // namespace vyard::plant
