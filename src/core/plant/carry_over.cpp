#include "core/plant/carry_over.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/plant/own_kind.hpp"
#include "core/plant/plant.hpp"

namespace vyard::plant {

namespace {

class CarryOver {
  public:
    CarryOver(const PlantModel& from, const PlantState& state, const PlantModel& to)
        : from_(from), state_(state), to_(to), now_(from.devices.size(), kNone) {
        out_.state = to.initial;
    }

    CarriedOver run() {
        pair_devices();
        out_.whole = items_can_stay();
        for (std::size_t d = 0; d < now_.size(); ++d) {
            if (now_[d] != kNone) device(static_cast<int>(d), now_[d]);
        }
        if (out_.whole) items();
        wires();
        faults();
        out_.state.random = state_.random;
        out_.state.next_item = std::max(state_.next_item, out_.state.next_item);
        out_.state.step_number = state_.step_number;
        out_.state.near.forget();
        return std::move(out_);
    }

  private:
    void pair_devices() {
        for (std::size_t d = 0; d < now_.size(); ++d) {
            const DeviceModel& old = from_.devices[d];
            const int found = to_.find_device(base::fold(old.name));
            const bool same = found != kNone && alike(old, to_.device(found));
            if (same) now_[d] = found;
            if (!same)
                out_.lost.push_back(fmt::format("device '{}' is {}", old.name, found == kNone ? "gone" : "another"));
        }
    }
    /// Their states mean the same.
    static bool alike(const DeviceModel& a, const DeviceModel& b) {
        return a.kind->name == b.kind->name && a.kind->state_size == b.kind->state_size &&
               a.surface_count == b.surface_count && a.positions == b.positions && same_block(*a.kind, *b.kind);
    }
    /// Of kinds whose state is the memory of a block: it lies there as it did.
    static bool same_block(const Kind& a, const Kind& b) {
        if (a.own == nullptr && b.own == nullptr) return true;
        if (a.own == nullptr || b.own == nullptr) return false;
        const auto& before = a.own->program->storage;
        const auto& after = b.own->program->storage;
        return std::equal(before.begin(), before.end(), after.begin(), after.end(), [](const auto& x, const auto& y) {
            return x.path == y.path && x.layout == y.layout && x.offset == y.offset && x.bit == y.bit;
        });
    }

    bool items_can_stay() {
        const auto place_lost = [&](const Item& i) { return i.support != kNone && surface_now(i.support) == kNone; };
        const bool types = from_.item_types.size() <= to_.item_types.size() && from_.colours == to_.colours &&
                           std::equal(from_.item_types.begin(), from_.item_types.end(), to_.item_types.begin(),
                                      [](const ItemType& a, const ItemType& b) { return a.name == b.name; });
        const bool out = types && std::none_of(state_.items.begin(), state_.items.end(), place_lost);
        if (!out && !state_.items.empty())
            out_.lost.push_back(fmt::format("{} item{}: what they lie on, or what they are, is not there any more",
                                            state_.items.size(), state_.items.size() == 1 ? "" : "s"));
        return out;
    }

    int surface_now(int surface) const {
        const int device = base::at(from_.surfaces, surface).device;
        const int now = base::at(now_, device);
        return now == kNone ? kNone : to_.device(now).surface + (surface - from_.device(device).surface);
    }

    void device(int before, int after) {
        const DeviceModel& old = from_.device(before);
        const DeviceModel& now = to_.device(after);
        PlantState& s = out_.state;
        if (old.liquid != kNone) base::at(s.liquids, now.liquid) = base::at(state_.liquids, old.liquid);
        if (old.air != kNone) base::at(s.pressure_pa, now.air) = base::at(state_.pressure_pa, old.air);
        if (old.drive != kNone) base::at(s.drive_ratio, now.drive) = base::at(state_.drive_ratio, old.drive);
        if (!out_.whole && old.kind->placement != Placement::Panel) return;
        std::copy_n(state_.devices.begin() + static_cast<std::ptrdiff_t>(old.state_offset), old.kind->state_size,
                    s.devices.begin() + static_cast<std::ptrdiff_t>(now.state_offset));
        if (now.kind->own != nullptr)
            set_own_parameters(*now.kind, to_.parameters.data() + now.model_offset,
                               s.devices.data() + now.state_offset);
        if (old.extension != kNone)
            base::at(s.extension_m, now.extension) = base::at(state_.extension_m, old.extension);
        for (int k = 0; k < old.surface_count; ++k) surface(old.surface + k, now.surface + k);
        solids(before, after);
    }

    void surface(int before, int after) {
        SurfaceState moved = base::at(state_.surfaces, before);
        const SurfaceState& rest = base::at(from_.initial.surfaces, before);
        const bool at_rest = moved.pose.x_m == rest.pose.x_m && moved.pose.y_m == rest.pose.y_m &&
                             moved.pose.z_m == rest.pose.z_m && moved.pose.heading.cos == rest.pose.heading.cos &&
                             moved.pose.heading.sin == rest.pose.heading.sin;
        if (at_rest) moved.pose = base::at(to_.initial.surfaces, after).pose;
        base::at(out_.state.surfaces, after) = moved;
    }

    void solids(int before, int after) {
        std::vector<std::size_t> there;
        for (std::size_t s = 0; s < to_.solids.size(); ++s) {
            if (to_.solids[s].device == after) there.push_back(s);
        }
        std::size_t n = 0;
        for (std::size_t s = 0; s < from_.solids.size(); ++s) {
            if (from_.solids[s].device != before) continue;
            if (n < there.size()) out_.state.solids[there[n]] = state_.solids[s];
            ++n;
        }
    }

    void items() {
        out_.state.items = state_.items;
        for (Item& i : out_.state.items) {
            if (i.support != kNone) i.support = surface_now(i.support);
        }
    }

    int point_now(int point) const { return to_.find_point(base::fold(base::at(from_.points, point).name)); }

    void wires() {
        for (std::size_t p = 0; p < from_.points.size(); ++p) {
            const PointModel& old = from_.points[p];
            const int now = base::at(now_, old.device) == kNone ? kNone : point_now(static_cast<int>(p));
            if (now == kNone || base::at(to_.points, now).type != old.type) continue;
            base::at(out_.state.wires, now) = state_.wires[p];
            const int text = base::at(to_.points, now).text;
            if (old.text != kNone && text != kNone) base::at(out_.state.texts, text) = base::at(state_.texts, old.text);
        }
    }

    void faults() {
        for (FaultedPoint f : state_.faulted_points) {
            const int now = point_now(f.point);
            if (now == kNone || base::at(to_.points, now).type != base::at(from_.points, f.point).type) {
                out_.lost.push_back(fmt::format("faults of '{}'", base::at(from_.points, f.point).name));
                continue;
            }
            f.point = now;
            if (f.text != kNone) f.text = base::at(to_.points, now).text;
            out_.state.faulted_points.push_back(std::move(f));
        }
        for (DeviceFault f : state_.device_faults) {
            const int now = base::at(now_, f.device);
            if (now == kNone) continue;
            f.device = now;
            out_.state.device_faults.push_back(f);
        }
    }

    const PlantModel& from_;
    const PlantState& state_;
    const PlantModel& to_;
    std::vector<int> now_;  ///< By device of `from_`; kNone for one that is gone.
    CarriedOver out_;
};

}  // namespace

CarriedOver carry_over(const PlantModel& from, const PlantState& state, const PlantModel& to) {
    return CarryOver(from, state, to).run();
}

}  // namespace vyard::plant
