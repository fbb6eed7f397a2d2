#include "core/wiring/asking.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::wiring {

using base::Code;
using controller::ControllerModel;

namespace {

const Asked* asked_for(const std::vector<ControllerModel>& controllers, const Jumper& j,
                       const std::vector<Asked>& asked) {
    if (j.from.controller < 0) return nullptr;
    const std::string name = base::fold(base::at(controllers, j.from.controller).name);
    const auto found =
        std::find_if(asked.begin(), asked.end(), [&](const Asked& a) { return base::fold(a.controller) == name; });
    return found == asked.end() ? nullptr : &*found;
}

bool can_be_asked(const std::vector<ControllerModel>& controllers, int c, const Asked& a,
                  base::Diagnostics& diagnostics) {
    std::vector<std::string> others;
    for (const ControllerModel& other : controllers) {
        if (&other == &base::at(controllers, c)) continue;
        others.push_back(other.name);
        if (base::fold(other.name) != base::fold(a.controller)) continue;
        if (other.linked() && other.link->role == controller::LinkRole::Client) return true;
        diagnostics.error(Code::WrongValue, a.place,
                          fmt::format("'{}' cannot be asked: nothing connects to it", a.controller),
                          "a controller with [controller." + other.name + ".link] role = \"client\" can be asked");
        return false;
    }
    diagnostics.error(Code::UnknownName, a.place, fmt::format("no other controller is named '{}'", a.controller),
                      base::name_hint(a.controller, others));
    return false;
}

}  // namespace

void mark_direct(const std::vector<ControllerModel>& controllers, int c, const std::vector<Asked>& asked,
                 Wiring& wiring, base::Diagnostics& diagnostics) {
    for (const Asked& a : asked) {
        if (!can_be_asked(controllers, c, a, diagnostics)) continue;
        bool any = false;
        for (Jumper& j : wiring.jumpers) {
            if (j.controller != c || asked_for(controllers, j, asked) != &a) continue;
            any = j.direct = true;
            if (j.delay.count() == 0 && !j.when) continue;
            const std::string& tag = base::at(base::at(controllers, c).program->variables, j.spot.variable).path;
            diagnostics.error(Code::WrongValue, a.place,
                              fmt::format("'{}' is asked for over the bus, and its row has a {}", tag,
                                          j.when ? "condition" : "delay"),
                              "leave 'delay' and 'when' of that row empty");
        }
        if (!any)
            diagnostics.error(Code::UnknownName, a.place, fmt::format("'{}' is asked for nothing", a.controller),
                              fmt::format("a row of the map from a tag of {} to one of {}: {}.TAG,{}.TAG", a.controller,
                                          base::at(controllers, c).name, base::at(controllers, c).name, a.controller));
    }
}

void resolve_direct(std::vector<ControllerModel>& controllers, int c, const std::vector<Asked>& asked, Wiring& wiring,
                    base::Diagnostics& diagnostics) {
    ControllerModel& own = base::at(controllers, c);
    for (const Jumper& j : wiring.jumpers) {
        if (j.controller != c || !j.direct) continue;
        const ControllerModel& other = base::at(controllers, j.from.controller);
        const auto& registers = other.link->registers;
        const auto entry = std::find_if(registers.begin(), registers.end(),
                                        [&](const auto& e) { return e.variable == j.from.spot.variable; });
        if (entry == registers.end()) {
            diagnostics.error(Code::RegisterClash, asked_for(controllers, j, asked)->place,
                              fmt::format("'{}' has no register of the link to {}, so nobody can ask for it",
                                          base::at(other.program->variables, j.from.spot.variable).path, other.name),
                              "give it one in the map's column 'register'");
            continue;
        }
        auto& asks = own.link->asks;
        auto ask = std::find_if(asks.begin(), asks.end(), [&](const auto& a) { return a.name == other.name; });
        if (ask == asks.end())
            ask = asks.insert(asks.end(), {other.name, other.link->host, other.link->port, other.link->unit, {}});
        ask->tags.push_back({j.spot, base::at(other.program->variables, j.from.spot.variable).path, entry->place,
                             j.from.spot.type, j.invert});
    }
    if (!own.remote()) return;
    for (const Jumper& j : wiring.jumpers) {
        if (j.controller != c || !j.direct) continue;
        std::erase_if(own.link->registers, [&](const auto& e) { return e.variable == j.spot.variable; });
    }
    std::erase_if(wiring.jumpers, [&](const Jumper& j) { return j.controller == c && j.direct; });
}

}  // namespace vyard::wiring
