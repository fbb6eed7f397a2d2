#include "core/plant/liquids.hpp"

namespace vyard::plant {

double tank_level_m(const PlantModel& model, const PlantState& state, int tank) {
    return base::at(model.vessels, tank).level_m(liquid_of(model, state, tank).volume_m3);
}

double highest_level_m(const PlantModel& model, int tank) {
    const Vessel& v = base::at(model.vessels, tank);
    return v.level_m(v.full_m3);
}

// The part of the table in which a value lies; above the last level the last part goes on.
int Vessel::part_of(const NumberList& list, double value) const {
    int i = 0;
    while (i + 1 < list.count && value > list.at(i)) ++i;
    return i;
}

double Vessel::level_m(double volume_m3) const {
    if (levels_m.count == 0) return volume_m3 / area_m2;
    const int i = part_of(volumes_m3, volume_m3);
    const double low_m = i == 0 ? 0.0 : levels_m.at(i - 1), low_m3 = i == 0 ? 0.0 : volumes_m3.at(i - 1);
    return low_m + (volume_m3 - low_m3) / surface_m2(volume_m3);
}

double Vessel::volume_m3(double level_m) const {
    if (levels_m.count == 0) return level_m * area_m2;
    const int i = part_of(levels_m, level_m);
    const double low_m = i == 0 ? 0.0 : levels_m.at(i - 1), low_m3 = i == 0 ? 0.0 : volumes_m3.at(i - 1);
    return low_m3 + (level_m - low_m) * (volumes_m3.at(i) - low_m3) / (levels_m.at(i) - low_m);
}

double Vessel::surface_m2(double volume_m3) const {
    if (levels_m.count == 0) return area_m2;
    const int i = part_of(volumes_m3, volume_m3);
    const double low_m = i == 0 ? 0.0 : levels_m.at(i - 1), low_m3 = i == 0 ? 0.0 : volumes_m3.at(i - 1);
    return (volumes_m3.at(i) - low_m3) / (levels_m.at(i) - low_m);
}

void add_liquid(Liquid& to, double volume_m3, double temperature_c, double concentration) {
    if (volume_m3 <= 0.0) return;
    const double share = volume_m3 / (to.volume_m3 + volume_m3);
    to.volume_m3 += volume_m3;
    to.temperature_c += (temperature_c - to.temperature_c) * share;
    to.concentration += (concentration - to.concentration) * share;
}

double move_liquid(Step& step, int from, int into, double volume_m3) {
    Liquid taken;
    taken.volume_m3 = volume_m3;
    if (from != kNone) {
        Liquid& source = step.liquid(from);
        taken = source;
        taken.volume_m3 = std::min(volume_m3, source.volume_m3);
        source.volume_m3 -= taken.volume_m3;
    }
    if (into != kNone) add_liquid(step.liquid(into), taken.volume_m3, taken.temperature_c, taken.concentration);
    return taken.volume_m3;
}

}  // namespace vyard::plant
