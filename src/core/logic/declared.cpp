#include "core/logic/declared.hpp"

#include <algorithm>
#include <functional>

#include "core/logic/check/model.hpp"

namespace vyard::logic {

namespace {

using Visit = std::function<void(const Declaration&)>;

void each_declaration(const ProgramUnit& unit, const Visit& visit) {
    for (const Declaration& d : unit.declarations) visit(d);
    for (const ProgramUnit& method : unit.methods) each_declaration(method, visit);
}

}  // namespace

Extent initial_at(const Program& program, const base::Place& place) {
    if (program.checked == nullptr) return {};
    Extent out;
    std::vector<Extent> all;
    const Visit visit = [&](const Declaration& d) {
        if (d.initial == nullptr) return;
        all.push_back(d.initial->written);
        if (d.span.line == place.line && d.span.column == place.column) out = d.initial->written;
    };
    for (const SyntaxFile& file : program.checked->files) {
        if (file.source != place.source) continue;
        for (const Declaration& d : file.globals) visit(d);
        for (const ProgramUnit& unit : file.units) each_declaration(unit, visit);
    }
    const auto same = std::count_if(all.begin(), all.end(),
                                    [&](const Extent& e) { return e.begin == out.begin && e.end == out.end; });
    return same == 1 ? out : Extent{};
}

}  // namespace vyard::logic
