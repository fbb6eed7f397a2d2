#include "core/campaign/results.hpp"

#include <map>

namespace vyard::campaign {

std::vector<Finding> findings_of(const std::vector<RunRow>& rows) {
    std::vector<Finding> out;
    std::map<std::string, std::size_t> known;
    for (const RunRow& row : rows) {
        std::vector<std::string> here;
        for (const Sight& s : row.sights) {
            const auto [at, fresh] = known.try_emplace(s.key, out.size());
            if (fresh) out.push_back({s.key, s.text, row.number, row.disturbance, row.procedure, row.at, 0});
            // A run counts once, however often it saw it.
            if (std::find(here.begin(), here.end(), s.key) == here.end()) ++base::at(out, at->second).times;
            here.push_back(s.key);
        }
    }
    return out;
}

}  // namespace vyard::campaign
