// The transport said again as plainly as it can be: every pair is looked at in every step, no list is kept. Slow, and
// the measure of the fast one: both must come to the same bytes.
#pragma once

#include "core/plant/plant.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::test {

class PlainTransport {
  public:
    PlainTransport(const plant::PlantModel& model, plant::PlantState& state) : model_(model), state_(state) {}

    void step() {
        ++state_.step_number;
        plant::remove_gone(state_);
        pushed_.assign(items().size(), {});
        for (std::size_t s = 0; s < state_.solids.size(); ++s) push(s);
        done_.assign(items().size(), false);
        rose_.assign(items().size(), 0.0);
        for (std::size_t i = 0; i < items().size(); ++i) settle(i);
        done_.assign(items().size(), false);
        went_.assign(items().size(), {});
        going_ = gone_ = done_;
        chain_.assign(items().size(), 0);
        for (std::size_t i = 0; i < items().size(); ++i) move(i, static_cast<int>(i));
    }

  private:
    using Item = plant::Item;
    using Vector2 = plant::Vector2;

    std::vector<Item>& items() { return state_.items; }
    Item& item(int i) { return base::at(state_.items, i); }
    int count() { return static_cast<int>(items().size()); }
    plant::OrientedBox solid(std::size_t s) { return model_.solids[s].now(state_.solids[s]); }
    bool level(const Item& i, std::size_t s) { return plant::same_height(model_, i, model_.solids[s]); }
    double top(const Item& i) { return model_.top_m(i); }

    double way_before_solids(const Item& i, Vector2 way, double most) {
        for (std::size_t s = 0; s < state_.solids.size(); ++s) {
            if (state_.solids[s].present && level(i, s))
                most = std::min(most, plant::free_way(model_.footprint(i), solid(s), way));
        }
        return most;
    }

    void push(std::size_t s) {
        plant::SolidState& state = state_.solids[s];
        if (state.wanted_m == 0.0) return;
        const double sign = state.wanted_m > 0.0 ? 1.0 : -1.0;
        const Vector2 way = model_.solids[s].push * sign;
        double allowed = std::abs(state.wanted_m);
        if (state.present) {
            for (int i = 0; i < count(); ++i) {
                if (!level(item(i), s)) continue;
                const double free = plant::free_way(solid(s), model_.footprint(item(i)), way);
                if (free < allowed) allowed = std::min(allowed, free + limit(i, way, allowed - free));
            }
            plate_ = way * allowed;
            const plant::OrientedBox body = solid(s);
            for (int i = 0; i < count(); ++i) {
                if (!level(item(i), s)) continue;
                const double free = plant::free_way(body, model_.footprint(item(i)), way);
                if (free < allowed) shift(i, way, allowed - free);
            }
        }
        state.offset_m += sign * allowed;
        state.wanted_m = 0.0;
    }

    double limit(int i, Vector2 way, double wanted) {
        if (state_.held(item(i))) return 0.0;
        double allowed = way_before_solids(item(i), way, wanted);
        for (int j = 0; j < count(); ++j) {
            if (j == i || !plant::same_height(model_, item(i), item(j))) continue;
            const double free = plant::free_way(model_.footprint(item(i)), model_.footprint(item(j)), way);
            if (free < allowed) allowed = std::min(allowed, free + limit(j, way, allowed - free));
        }
        return allowed;
    }

    void shift(int i, Vector2 way, double by) {
        const plant::OrientedBox body = model_.footprint(item(i));
        for (int j = 0; j < count(); ++j) {
            if (j == i || !plant::same_height(model_, item(i), item(j))) continue;
            const double free = plant::free_way(body, model_.footprint(item(j)), way);
            if (free < by) shift(j, way, by - free);
        }
        item(i).x_m += way.x_m * by;
        item(i).y_m += way.y_m * by;
        base::at(pushed_, i) = plate_;
        if (item(i).support != plant::kNone && base::at(model_.surfaces, item(i).support).sliding)
            item(i).speed_m_s = std::max(item(i).speed_m_s, pushed_along(i, item(i).support));
        for (int j = 0; j < count(); ++j) {
            if (item(j).below != i) continue;
            double room = way_before_solids(item(j), way, by);
            for (int k = 0; k < count(); ++k) {
                if (k != j && plant::same_height(model_, item(j), item(k)))
                    room = std::min(room, plant::free_way(model_.footprint(item(j)), model_.footprint(item(k)), way));
            }
            if (room > 0.0) shift(j, way, room);
        }
    }

    double pushed_along(int i, int s) {
        return plant::dot(base::at(pushed_, i), base::at(state_.surfaces, s).pose.heading.ahead()) / model_.step_s;
    }

    bool over(const Item& i, int s) {
        return base::at(model_.surfaces, s).contains(base::at(state_.surfaces, s), i.x_m, i.y_m);
    }
    double height(const Item& i, int s) {
        return plant::surface_height(base::at(model_.surfaces, s), base::at(state_.surfaces, s), i.x_m, i.y_m);
    }

    /// The highest top that an item overlaps and is not below.
    double overlapped(const Item& i) {
        double best = 0.0;
        for (const Item& other : items()) {
            if (&other != &i && top(other) <= i.z_m + plant::kStepUp_m &&
                plant::overlap(model_.footprint(i), model_.footprint(other), plant::kTouch_m))
                best = std::max(best, top(other));
        }
        for (std::size_t s = 0; s < state_.solids.size(); ++s) {
            const double solid_top = model_.solids[s].top_m;
            if (state_.solids[s].present && solid_top <= i.z_m + plant::kStepUp_m &&
                plant::overlap(model_.footprint(i), solid(s), plant::kTouch_m))
                best = std::max(best, solid_top);
        }
        return best;
    }

    double ceiling_of(std::size_t number) {
        const Item& i = items()[number];
        double ceiling = std::numeric_limits<double>::infinity();
        for (std::size_t j = 0; j < items().size(); ++j) {
            const Item& other = items()[j];
            if (other.below == static_cast<int>(number))
                ceiling = std::min(ceiling, ceiling_of(j) - model_.form_of(other).height_m);
            else if (j != number && other.z_m >= top(i) - plant::kCatch_m &&
                     plant::overlap(model_.footprint(i), model_.footprint(other), plant::kTouch_m))
                ceiling = std::min(ceiling, other.z_m);
        }
        for (std::size_t s = 0; s < state_.solids.size(); ++s) {
            const double bottom = model_.solids[s].bottom_m;
            if (state_.solids[s].present && bottom >= top(i) - plant::kCatch_m &&
                plant::overlap(model_.footprint(i), solid(s), plant::kTouch_m))
                ceiling = std::min(ceiling, bottom);
        }
        return ceiling;
    }

    void set_height(std::size_t number, double z) {
        Item& i = items()[number];
        if (z < i.z_m) z = std::max(z, std::min(overlapped(i), i.z_m));
        if (z > i.z_m) {
            const double ceiling = ceiling_of(number);
            z = std::max(i.z_m, std::min(z, ceiling - model_.form_of(i).height_m));
        }
        rose_[number] += z - i.z_m;
        i.z_m = z;
    }

    void settle(std::size_t number) {
        if (done_[number]) return;
        done_[number] = true;
        Item& i = items()[number];
        if (i.on_floor || (state_.held(i) && i.support == plant::kNone)) return;
        if (i.below != plant::kNone) {
            settle(static_cast<std::size_t>(i.below));
            const double top_before = top(item(i.below)) - base::at(rose_, i.below);
            if (model_.footprint(item(i.below)).contains({i.x_m, i.y_m}) &&
                std::abs(i.z_m - top_before) <= plant::kStepUp_m)
                return set_height(number, top(item(i.below)));
        } else if (i.support != plant::kNone && over(i, i.support)) {
            return set_height(number, height(i, i.support));
        }
        const int before = i.support;
        const bool was_carried = before != plant::kNone || i.below != plant::kNone;
        i.support = i.below = plant::kNone;
        int surface = plant::kNone, other = plant::kNone;
        for (int s = 0; s < static_cast<int>(model_.surfaces.size()); ++s) {
            if (over(i, s) && height(i, s) <= i.z_m + plant::kStepUp_m &&
                (surface == plant::kNone || height(i, s) > height(i, surface)))
                surface = s;
        }
        for (int j = 0; j < count(); ++j) {
            if (&item(j) == &i || top(item(j)) > i.z_m + plant::kStepUp_m) continue;
            if (model_.footprint(item(j)).contains({i.x_m, i.y_m}) &&
                (other == plant::kNone || top(item(j)) > top(item(other))))
                other = j;
        }
        const double surface_m = surface == plant::kNone ? 0.0 : height(i, surface);
        const bool on_item = other != plant::kNone && top(item(other)) > surface_m;
        const bool carried = on_item || surface != plant::kNone;
        const double rest_m = on_item ? top(item(other)) : surface_m;
        const auto rest = [&] {
            if (before == plant::kNone) i.speed_m_s = 0.0;
            if (before != plant::kNone && !base::at(model_.surfaces, before).sliding)
                i.speed_m_s = std::abs(base::at(state_.surfaces, before).speed_m_s);
            if (before != plant::kNone && !base::at(model_.surfaces, before).sliding && !on_item &&
                base::at(model_.surfaces, surface).sliding)
                i.speed_m_s = std::max(i.speed_m_s, pushed_along(static_cast<int>(number), surface));
            i.support = on_item ? plant::kNone : surface;
            i.below = on_item ? other : plant::kNone;
            set_height(number, rest_m);
        };
        if (carried && i.z_m - rest_m <= plant::kStepUp_m) return rest();
        if (was_carried) i.speed_m_s = 0.0;
        const double floor_m = std::max(rest_m, overlapped(i)), dt = model_.step_s;
        i.z_m -= i.speed_m_s * dt + 0.5 * plant::kGravity_m_s2 * dt * dt;
        i.speed_m_s += plant::kGravity_m_s2 * dt;
        if (i.z_m > floor_m) return;
        i.z_m = floor_m;
        i.speed_m_s = 0.0;
        if (floor_m == rest_m && carried)
            rest();
        else
            i.on_floor = floor_m == 0.0;
    }

    /// How far an item can go, and the solid that ends its way.
    std::pair<double, int> room(std::size_t number, Vector2 unit, double wanted, const Vector2* belt) {
        Item& i = items()[number];
        const plant::OrientedBox body = model_.footprint(i);
        std::pair<double, int> out{wanted, plant::kNone};
        for (std::size_t s = 0; s < state_.solids.size(); ++s) {
            if (!state_.solids[s].present || !level(i, s)) continue;
            const double free = plant::free_way(body, solid(s), unit);
            if (free < out.first) out = {free, static_cast<int>(s)};
        }
        for (int j = 0; j < count(); ++j) {
            if (&item(j) == &i || !plant::same_height(model_, i, item(j))) continue;
            if (plant::free_way(body, model_.footprint(item(j)), unit) >= out.first) continue;
            const auto other = static_cast<std::size_t>(j);
            const bool together = belt != nullptr && item(j).support == i.support;
            move(other, together ? chain_[number] : j);
            // On one belt, who goes all its way is not in the way, nor who waits behind.
            if (together && going_[other] && chain_[other] == chain_[number]) continue;
            if (together && gone_[other] && went_[other] == *belt) continue;
            const double free = plant::free_way(body, model_.footprint(item(j)), unit);
            if (free < out.first) out = {free, plant::kNone};
        }
        return out;
    }

    void move(std::size_t number, int chain) {
        if (done_[number]) return;
        done_[number] = going_[number] = true;
        chain_[number] = chain;
        go(number);
        going_[number] = false;
        gone_[number] = true;
    }

    void go(std::size_t number) {
        Item& i = items()[number];
        if (state_.held(i) || i.on_floor) return;
        Vector2 way, unit;
        double size = 0.0;
        const plant::SurfaceModel* surface = nullptr;
        if (i.below != plant::kNone) {
            move(static_cast<std::size_t>(i.below), i.below);
            way = base::at(went_, i.below);
            size = plant::length(way);
            unit = size > 0.0 ? way * (1.0 / size) : Vector2{};
        } else if (i.support != plant::kNone) {
            surface = &base::at(model_.surfaces, i.support);
            const plant::SurfaceState& now = base::at(state_.surfaces, i.support);
            if (surface->sliding) {
                const double dt = model_.step_s;
                size = std::max(i.speed_m_s * dt + 0.5 * surface->slide_m_s2 * dt * dt, 0.0);
                unit = now.pose.heading.ahead();
                way = unit * size;
            } else {
                way = plant::carried(now, model_.step_s);
                size = plant::length(way);
                unit = size > 0.0 ? way * (1.0 / size) : Vector2{};
            }
        }
        if (size == 0.0) return;
        auto [allowed, stopped_by] = room(number, unit, size, surface != nullptr && !surface->sliding ? &way : nullptr);
        going_[number] = false;
        went_[number] = allowed == size ? way : unit * allowed;
        i.x_m += went_[number].x_m;
        i.y_m += went_[number].y_m;
        if (stopped_by != plant::kNone) {
            // Led along the face that stopped it, against its friction.
            const Vector2 normal =
                plant::contact_normal(model_.footprint(i), solid(static_cast<std::size_t>(stopped_by)), unit);
            const Vector2 face{-normal.y_m, normal.x_m};
            const double cosine = plant::dot(unit, face);
            const double share = std::abs(cosine) - plant::kGuideFriction * std::abs(plant::dot(unit, normal));
            if (share > 0.0) {
                const Vector2 along = cosine > 0.0 ? face : face * -1.0;
                const double wanted = (size - allowed) * share;
                const double gone = room(number, along, wanted, nullptr).first;
                went_[number] = went_[number] + along * gone;
                i.x_m += (along * gone).x_m;
                i.y_m += (along * gone).y_m;
                if (gone >= wanted - plant::kTouch_m) allowed = size;
            }
        }
        if (surface != nullptr && surface->sliding)
            i.speed_m_s = allowed < size - plant::kTouch_m
                              ? 0.0
                              : std::max(0.0, i.speed_m_s + surface->slide_m_s2 * model_.step_s);
    }

    const plant::PlantModel& model_;
    plant::PlantState& state_;
    std::vector<bool> done_, going_, gone_;
    std::vector<int> chain_;
    std::vector<Vector2> went_, pushed_;  ///< Pushed: how far the plate went.
    Vector2 plate_;
    std::vector<double> rose_;
};

}  // namespace vyard::test
