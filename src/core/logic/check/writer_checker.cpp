#include "core/logic/check/writer_checker.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

namespace vyard::logic {

using base::Code;

namespace {

/// Programs, and what is called from them whichever way they go.
std::set<int> units_of_every_scan(const CheckedLogic& logic) {
    std::multimap<int, int> calls(logic.sure_calls.begin(), logic.sure_calls.end());
    std::set<int> out;
    std::vector<int> left;
    for (const ProgramInstance& p : logic.programs) {
        if (out.insert(p.block).second) left.push_back(p.block);
    }
    while (!left.empty()) {
        const auto [first, last] = calls.equal_range(left.back());
        left.pop_back();
        for (auto it = first; it != last; ++it) {
            if (out.insert(it->second).second) left.push_back(it->second);
        }
    }
    return out;
}

/// The same for all that writes the same bits.
std::tuple<Area, std::uint32_t, const Field*> key_of(const WriterNote& n) {
    if (n.address) return {n.address->area, n.address->first_bit(), nullptr};
    return {Area::None, 0, n.field};
}

}  // namespace

void check_writers(const CheckedLogic& logic, base::Diagnostics& diagnostics) {
    const std::set<int> every_scan = units_of_every_scan(logic);
    std::map<std::tuple<Area, std::uint32_t, const Field*>, std::vector<const WriterNote*>> before;
    for (const WriterNote& n : logic.writers) {
        auto& others = before[key_of(n)];
        const auto lost = std::find_if(others.begin(), others.end(), [&](const WriterNote* o) {
            if (o->unit == n.unit) return !o->literal && !n.literal;
            return every_scan.contains(o->unit) && every_scan.contains(n.unit);
        });
        if (lost != others.end()) {
            const WriterNote& first = **lost;
            const bool renamed = base::fold(first.name) != base::fold(n.name);
            diagnostics.warning(Code::WrittenTwice, n.place,
                                fmt::format("'{}' is {} in two places of every scan; first at {}{}", n.name,
                                            n.call ? "called" : "written", first.place.text(),
                                            renamed ? fmt::format(" as '{}'", first.name) : ""),
                                n.call                 ? ""
                                : first.unit == n.unit ? "the last one wins; join them with OR"
                                                       : "the last one wins; write it in one place");
        }
        if (others.size() < 64) others.push_back(&n);
    }
}

}  // namespace vyard::logic
