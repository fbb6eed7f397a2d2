#include "core/session/session.hpp"

#include <algorithm>

namespace vyard::session {

controller::ForceRole SessionModel::force_role(int c, int variable) const {
    for (const wiring::Join& j : wiring.inputs) {
        if (j.controller == c && j.variable == variable) return controller::ForceRole::Input;
    }
    for (const wiring::Join& j : wiring.outputs) {
        if (j.controller == c && j.variable == variable) return controller::ForceRole::Output;
    }
    for (const wiring::Jumper& j : wiring.jumpers) {
        if (j.controller == c && j.variable == variable) return controller::ForceRole::Input;
    }
    switch (
        controllers[static_cast<std::size_t>(c)].program->variables[static_cast<std::size_t>(variable)].address.area) {
        case logic::Area::Input: return controller::ForceRole::Input;
        case logic::Area::Output: return controller::ForceRole::Output;
        default: return controller::ForceRole::Other;
    }
}

Session::Session(SessionModelPtr model) : model_(std::move(model)), plant_(model_->plant->initial) {
    for (const controller::ControllerModel& c : model_->controllers) controllers_.push_back(controller::power_up(c));
    jumpers_.resize(model_->wiring.jumpers.size());
    rack_ = wiring::power_up(model_->wiring);
    plant::sense(*model_->plant, plant_);
    for (std::size_t c = 0; c < controllers_.size(); ++c) scan(static_cast<int>(c), nullptr);
    scanned_ = !controllers_.empty();
}

void Session::step(logic::ScanWatch* watch) {
    release_hands();
    plant::step(*model_->plant, plant_);
    now_ += model_->step;
    scanned_ = false;
    if (!rack_.channels.empty()) {
        wiring::advance_channels(model_->wiring.modules, model_->wiring.channels, plant_, now_, rack_);
        if (!plant_.faulted_points.empty()) plant::fault_outputs(*model_->plant, plant_);
    }
    for (std::size_t c = 0; c < controllers_.size(); ++c) {
        if (now_.count() % model_->controllers[c].scan.count() != 0) continue;
        scan(static_cast<int>(c), watch);
        scanned_ = true;
    }
}

void Session::scan(int c, logic::ScanWatch* watch) {
    const auto i = static_cast<std::size_t>(c);
    wiring::sample(model_->wiring, c, plant_, now_, rack_, controllers_[i]);
    if (!rack_.modules.empty())
        wiring::write_diagnosis(model_->wiring.modules, c, *model_->controllers[i].program, rack_, controllers_[i]);
    if (!jumpers_.empty()) wiring::sample_jumpers(model_->wiring, c, now_, jumpers_, controllers_[i]);
    controller::solve(model_->controllers[i], controllers_[i], now_, watch);
    wiring::publish(model_->wiring, c, model_->controllers[i], controllers_[i], now_, rack_, plant_);
    if (!plant_.faulted_points.empty()) plant::fault_outputs(*model_->plant, plant_);
    if (!jumpers_.empty())
        wiring::feed_jumpers(model_->wiring, c, plant_, model_->controllers, controllers_, now_, jumpers_);
}

void Session::release_hands() {
    for (const HandRelease& h : hands_) {
        if (h.due <= now_) plant::use_control(*model_->plant, plant_, h.device, *h.control, 0.0);
    }
    std::erase_if(hands_, [&](const HandRelease& h) { return h.due <= now_; });
}

void Session::use_control(int device, const plant::ControlSpec& control, double value) {
    std::erase_if(hands_,
                  [&](const HandRelease& h) { return h.device == device; });  // the hand does something else now
    plant::use_control(*model_->plant, plant_, device, control, value);
}

void Session::hold_control(int device, const plant::ControlSpec& control, const plant::ControlSpec& opposite,
                           base::Nanoseconds hold) {
    use_control(device, control, 0.0);
    hands_.push_back({now_ + hold, device, &opposite});
}

void Session::enter_force(int c, int variable, double value) {
    controller::enter_force(controllers_[static_cast<std::size_t>(c)],
                            {variable, model_->force_role(c, variable), value});
}
bool Session::remove_force(int c, int variable) {
    return controller::remove_force(controllers_[static_cast<std::size_t>(c)], variable);
}
void Session::remove_all_forces() {
    for (controller::ControllerState& c : controllers_) c.forces.clear();
}
void Session::switch_forces(bool on) {
    for (controller::ControllerState& c : controllers_) c.forces_on = on;
}

void Session::set_fault(int device, const plant::FaultSpec& fault, double amount, const plant::FaultTiming& timing) {
    plant::set_fault(*model_->plant, plant_, device, fault, amount, timing);
}
void Session::set_point_fault(int point, plant::Defect defect, double amount, const plant::FaultTiming& timing) {
    plant::set_point_fault(*model_->plant, plant_, point, defect, amount, timing);
}
void Session::heal_point(int point) {
    plant::heal_point(plant_, point);
}
void Session::heal_device(int device) {
    plant::heal_device(*model_->plant, plant_, device);
}
void Session::set_module_fault(int module, const wiring::ModuleState& fault) {
    rack_.modules[static_cast<std::size_t>(module)] = fault;
}
void Session::heal_all() {
    for (wiring::ModuleState& m : rack_.modules) m = {};
    plant::heal_all(*model_->plant, plant_);
}

bool Session::place_item(int type, int device, double along_m, std::optional<int> colour) {
    return plant::place_item(*model_->plant, plant_, type, device, along_m, colour);
}
bool Session::take_item(int device, std::optional<double> along_m) {
    return plant::take_item(*model_->plant, plant_, device, along_m);
}

bool Session::shift_item(int device, std::optional<double> along_m, plant::Vector2 by) {
    return plant::shift_item(*model_->plant, plant_, device, along_m, by);
}
bool Session::turn_item(int device, std::optional<double> along_m, double radians) {
    return plant::turn_item(*model_->plant, plant_, device, along_m, radians);
}
bool Session::swap_item(int device, std::optional<double> along_m, int type) {
    return plant::swap_item(*model_->plant, plant_, device, along_m, type);
}

void Session::drive_text(int point, std::string_view text) {
    const plant::PointModel& p = model_->plant->points[static_cast<std::size_t>(point)];
    VYARD_CHECK(p.text != plant::kNone);
    if (plant_.texts[static_cast<std::size_t>(p.text)].set(text)) plant_.points[static_cast<std::size_t>(point)] += 1.0;
}

void Session::stop(int c) {
    controllers_[static_cast<std::size_t>(c)].running = false;
}

void Session::start(int c) {
    controller::ControllerState& state = controllers_[static_cast<std::size_t>(c)];
    state.memory = model_->controllers[static_cast<std::size_t>(c)].program->initial_memory;
    state.running = true;
    state.fault = {};
}

void Session::start_warm(int c) {
    const auto i = static_cast<std::size_t>(c);
    controller::warm_start(model_->controllers[i], controllers_[i]);
}

/// Jumpers go on from and to the same tags of a changed program; those whose tags are gone are taken off.
void Session::follow_jumpers(int c, const logic::Program& from, const logic::Program& to, wiring::Wiring& wiring,
                             controller::ChangeReport& report) {
    const auto follow = [&](int controller, int& variable, std::uint32_t& offset, int& bit) {
        if (controller != c) return true;
        const auto now = controller::same_variable(from, variable, to);
        if (!now) {
            report.unjoined.push_back(from.variables[static_cast<std::size_t>(variable)].path);
            return false;
        }
        const logic::Variable& v = to.variables[static_cast<std::size_t>(*now)];
        variable = *now;
        offset = v.offset;
        bit = v.bit;
        return true;
    };
    std::vector<wiring::Jumper> kept;
    std::vector<wiring::JumperState> states;
    for (std::size_t i = 0; i < wiring.jumpers.size(); ++i) {
        wiring::Jumper j = wiring.jumpers[i];
        const bool whole = follow(j.controller, j.variable, j.offset, j.bit) &&
                           follow(j.from.controller, j.from.variable, j.from.offset, j.from.bit) &&
                           (!j.when || follow(j.when->controller, j.when->variable, j.when->offset, j.when->bit));
        if (!whole) continue;
        kept.push_back(std::move(j));
        states.push_back(std::move(jumpers_[i]));
    }
    wiring.jumpers = std::move(kept);
    jumpers_ = std::move(states);
}

controller::ChangeReport Session::change_logic(int c, const std::shared_ptr<const logic::Program>& program) {
    const auto i = static_cast<std::size_t>(c);
    auto changed = std::make_shared<SessionModel>(*model_);
    controller::ControllerModel& model = changed->controllers[i];
    const logic::Program& from = *model_->controllers[i].program;
    controller::ChangeReport report = controller::change_program(model_->controllers[i], *program, controllers_[i]);
    model.program = program;
    std::vector<std::pair<int, double>> safe;
    for (const auto& [variable, value] : model.safe_values) {
        if (const auto now = controller::same_variable(from, variable, *program)) safe.emplace_back(*now, value);
    }
    model.safe_values = std::move(safe);
    model.stimuli.clear();
    for (const controller::Stimulus& s : model_->controllers[i].stimuli) {
        if (const auto now = controller::same_variable(from, s.variable, *program)) {
            model.stimuli.push_back(s);
            model.stimuli.back().variable = *now;
        }
    }
    controllers_[i].next_stimulus = static_cast<std::size_t>(
        std::find_if(model.stimuli.begin(), model.stimuli.end(), [&](const auto& s) { return s.time > now_; }) -
        model.stimuli.begin());
    for (std::vector<wiring::Join>* joins : {&changed->wiring.inputs, &changed->wiring.outputs}) {
        std::vector<wiring::Join> kept;
        for (wiring::Join j : *joins) {
            if (j.controller != c) {
                kept.push_back(std::move(j));
                continue;
            }
            const auto now = controller::same_variable(from, j.variable, *program);
            if (!now) {
                report.unjoined.push_back(from.variables[static_cast<std::size_t>(j.variable)].path);
                continue;
            }
            const logic::Variable& v = program->variables[static_cast<std::size_t>(*now)];
            j.variable = *now;
            j.offset = v.offset;
            j.bit = v.bit;
            kept.push_back(std::move(j));
        }
        *joins = std::move(kept);
    }
    follow_jumpers(c, from, *program, changed->wiring, report);
    model_ = std::move(changed);
    return report;
}

}  // namespace vyard::session
