#include "figures/item_colours.hpp"

#include <array>

#include "core/base/base.hpp"

namespace vyard::figures {

Colour item_colour(const std::vector<std::string>& names, int number) {
    struct Named {
        const char* name;
        Colour colour;
    };
    static const std::array<Named, 12> kNamed = {{{"clay", {0.76, 0.45, 0.30}},
                                                  {"cobalt", {0.07, 0.28, 0.67}},
                                                  {"red", {0.80, 0.20, 0.18}},
                                                  {"green", palette::kGreen},
                                                  {"blue", palette::kBlue},
                                                  {"yellow", palette::kYellow},
                                                  {"white", {0.98, 0.98, 0.98}},
                                                  {"black", {0.15, 0.15, 0.15}},
                                                  {"grey", {0.6, 0.6, 0.6}},
                                                  {"orange", palette::kOrange},
                                                  {"brown", {0.45, 0.30, 0.18}},
                                                  {"plain", {0.80, 0.74, 0.62}}}};
    static constexpr std::array<Colour, 5> kOthers = {palette::kPurple, palette::kSky, palette::kOrange,
                                                      palette::kGreen, palette::kVermilion};
    const std::string& name = base::at(names, number);
    for (const Named& n : kNamed) {
        if (name == n.name) return n.colour;
    }
    return kOthers[static_cast<std::size_t>(number) % kOthers.size()];
}

}  // namespace vyard::figures
