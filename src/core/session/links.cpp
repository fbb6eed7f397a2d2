#include "core/session/links.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::session {

bool any_elsewhere(const SessionModel& model) {
    return std::any_of(model.controllers.begin(), model.controllers.end(), [](const auto& c) { return c.remote(); });
}

std::vector<LinkLossNote> link_losses(const Session& session) {
    std::vector<LinkLossNote> out;
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const controller::ControllerModel& model = session.model().controllers[c];
        const int number = static_cast<int>(c);
        const controller::LinkState& link = session.controller(number).link;
        if (!model.linked()) continue;
        if (!link.was_up)
            out.push_back({number,
                           {},
                           fmt::format("nothing ever came from '{}', which is executed elsewhere", model.name),
                           false});
        for (const controller::LinkLoss& loss : link.losses)
            out.push_back(
                {number, loss.from,
                 fmt::format("the link to '{}' was lost at {} for {}{}", model.name, base::clock_text(loss.from),
                             base::clock_text((loss.over ? loss.until : session.now()) - loss.from),
                             loss.over ? "" : ", and still is"),
                 loss.meant});
    }
    return out;
}

bool link_lost_by_itself(const Session& session) {
    const auto losses = link_losses(session);
    return std::any_of(losses.begin(), losses.end(), [](const LinkLossNote& l) { return !l.meant; });
}

}  // namespace vyard::session
