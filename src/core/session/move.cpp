// A run goes on in another model: the yard was read anew while it ran.
#include <fmt/format.h>

#include <algorithm>

#include "core/session/session_state.hpp"

namespace vyard::session {

namespace {

int named(const SessionModel& model, const std::string& controller) {
    const auto found = std::find_if(model.controllers.begin(), model.controllers.end(),
                                    [&](const auto& c) { return base::fold(c.name) == base::fold(controller); });
    return found == model.controllers.end() ? -1 : static_cast<int>(found - model.controllers.begin());
}

}  // namespace

Session::Moved Session::move_to(const SessionModelPtr& model) {
    Moved moved;
    const SessionModelPtr before = model_;
    plant::CarriedOver plant = plant::carry_over(*before->plant, plant_, *model->plant);
    plant_ = std::move(plant.state);
    moved.lost = std::move(plant.lost);
    moved.plant_kept = plant.whole;

    std::vector<controller::ControllerState> states;
    for (const controller::ControllerModel& c : model->controllers) {
        const int old = named(*before, c.name);
        if (old < 0) {
            states.push_back(controller::power_up(c));
            continue;
        }
        controller::ControllerState state = base::at(controllers_, old);
        const auto rebinding =
            std::make_shared<const controller::Rebinding>(base::at(before->controllers, old).program, c.program);
        controller::ChangeReport report = controller::change_program(*rebinding, state);
        report.rebinding = rebinding;
        // What a table wrote, it wrote; what is to come, comes at its time.
        state.next_stimulus = static_cast<std::size_t>(
            std::count_if(c.stimuli.begin(), c.stimuli.end(), [&](const auto& s) { return s.time < now_; }));
        states.push_back(std::move(state));
        moved.logic.emplace_back(old, std::move(report));
    }
    for (const controller::ControllerModel& c : before->controllers) {
        if (named(*model, c.name) < 0) moved.lost.push_back(fmt::format("controller '{}' is gone", c.name));
    }

    base::Rare<HandAct> hands;
    for (HandAct h : hands_) {
        const plant::DeviceModel& device = before->plant->device(h.device);
        h.device = model->plant->find_device(base::fold(device.name));
        if (h.device == plant::kNone) continue;
        const plant::Kind& kind = *model->plant->device(h.device).kind;
        const auto same = [&](const plant::ControlSpec* c) { return c == nullptr ? c : kind.find_control(c->verb); };
        const plant::ControlSpec* ends = same(h.ends);
        h.control = same(h.control);
        if (h.control == nullptr || (h.ends != nullptr && ends == nullptr)) continue;
        h.ends = ends;
        hands.push_back(h);
    }
    hands_ = std::move(hands);
    // Modules by place: one that stays in its slot keeps what is wrong with it.
    wiring::RackState rack = wiring::power_up(model->wiring);
    for (std::size_t m = 0; m < rack.modules.size() && m < rack_.modules.size(); ++m)
        rack.modules[m] = rack_.modules[m];
    if (before->wiring.channels.size() == model->wiring.channels.size()) rack.channels = rack_.channels;
    rack_ = std::move(rack);
    if (before->wiring.jumpers.size() != model->wiring.jumpers.size())
        jumpers_.assign(model->wiring.jumpers.size(), {});
    odd_.clear();
    controllers_ = std::move(states);
    model_ = model;
    for (std::size_t c = 0; c < controllers_.size(); ++c)
        controller::renew_image(model_->controllers[c], controllers_[c]);
    plant::sense(*model_->plant, plant_);
    put_outputs();
    return moved;
}

}  // namespace vyard::session
