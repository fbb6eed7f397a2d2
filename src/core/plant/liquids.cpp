#include "core/plant/liquids.hpp"

namespace vyard::plant {

double tank_level_m(const PlantModel& model, const PlantState& state, int tank) {
    const auto t = static_cast<std::size_t>(tank);
    return state.liquids[t].volume_m3 / model.cross_section_m2[t];
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
