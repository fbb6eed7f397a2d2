#include "core/controller/remembering.hpp"

#include <algorithm>

namespace vyard::controller {

bool Remembering::exchange(int controller, base::Nanoseconds now, std::span<const std::byte> memory,
                           std::span<std::byte> outputs) {
    std::vector<Kept>& all = kept_[controller];
    if (again_) {
        const auto at =
            std::lower_bound(all.begin(), all.end(), now, [](const Kept& k, base::Nanoseconds t) { return k.now < t; });
        if (at == all.end() || at->now != now) return false;
        for (const Change& c : at->changes) outputs[c.offset] = c.value;
        return at->came;
    }
    before_.assign(outputs.begin(), outputs.end());
    Kept kept{now, partner_.exchange(controller, now, memory, outputs), {}};
    for (std::size_t i = 0; i < outputs.size(); ++i) {
        if (outputs[i] != before_[i]) kept.changes.push_back({static_cast<std::uint32_t>(i), outputs[i]});
    }
    const bool came = kept.came;
    all.push_back(std::move(kept));
    return came;
}

}  // namespace vyard::controller
