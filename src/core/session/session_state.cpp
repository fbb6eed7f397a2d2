#include "core/session/session_state.hpp"

#include <algorithm>

namespace vyard::session {

using base::Nanoseconds;

Session::Session(SessionModelPtr model, logic::ScanWatch* watch, controller::Partner* partner)
    : model_(std::move(model)), plant_(model_->plant->initial) {
    partner_.is = partner;
    for (const controller::ControllerModel& c : model_->controllers) controllers_.push_back(controller::power_up(c));
    jumpers_.resize(model_->wiring.jumpers.size());
    rack_ = wiring::power_up(model_->wiring);
    plant::sense(*model_->plant, plant_);
    for (std::size_t c = 0; c < controllers_.size(); ++c) scan(static_cast<int>(c), watch);
    put_outputs();
    scanned_ = !controllers_.empty();
}

void Session::step(logic::ScanWatch* watch) {
    move_hands();
    plant::step(*model_->plant, plant_);
    now_ += model_->step;
    scanned_ = false;
    if (!rack_.channels.empty())
        wiring::advance_filters(model_->wiring.modules, model_->wiring.channels, plant_, now_, rack_);
    for (std::size_t c = 0; c < controllers_.size(); ++c) {
        if (now_.count() % model_->controllers[c].scan.count() != 0) continue;
        scan(static_cast<int>(c), watch);
        scanned_ = true;
    }
    // Where no controller has scanned and no module takes time, what the wires carry cannot have changed.
    put_outputs(scanned_ || model_->wiring.outputs_take_time);
}

namespace {

/// What follows the state, frames and scratch, is written anew by every scan.
std::vector<std::byte> told_from_now(const controller::ControllerModel& model, const controller::ControllerState& c,
                                     const logic::ClockTelling& telling) {
    const logic::Program& program = *model.program;
    return logic::told_from_now({c.memory.data(), program.data_end}, program.clocks, c.clock().count(), telling);
}

bool same(const controller::ControllerModel& model, const controller::ControllerState& a,
          const controller::ControllerState& b, const logic::ClockTelling& telling) {
    return a.forces.empty() && b.forces.empty() && a.writes.empty() && b.writes.empty() && a.running == b.running &&
           a.powered == b.powered && a.outputs_on == b.outputs_on && a.stops == b.stops &&
           a.next_stimulus == b.next_stimulus && a.link.up == b.link.up && a.link.fault == b.link.fault &&
           a.link.fault.drop_percent == 0.0 && a.link.held == b.link.held && a.link.coming.empty() &&
           b.link.coming.empty() && a.image == b.image &&
           told_from_now(model, a, telling) == told_from_now(model, b, telling);
}

/// Each at its own time: what is on its way arrives as much later, and the next conversion comes.
bool same(const wiring::RackState& a, Nanoseconds now_a, const wiring::RackState& b, Nanoseconds now_b) {
    const auto channel = [&](const wiring::ChannelState& x, const wiring::ChannelState& y) {
        // Of a channel without a delay or filter it is never set.
        const bool never = x.since.count() == 0 && y.since.count() == 0;
        const bool arrived = x.shown == x.coming || never || now_a - x.since == now_b - y.since;
        const Nanoseconds next_x = std::max(x.next - now_a, Nanoseconds(0));
        return x.shown == y.shown && x.coming == y.coming && x.known == y.known && x.out_of_range == y.out_of_range &&
               arrived && next_x == std::max(y.next - now_b, Nanoseconds(0));
    };
    return a.modules == b.modules &&
           std::equal(a.channels.begin(), a.channels.end(), b.channels.begin(), b.channels.end(), channel);
}

bool same(const std::vector<wiring::JumperState>& a, const std::vector<wiring::JumperState>& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                      [](const wiring::JumperState& x, const wiring::JumperState& y) {
                          return x.value == y.value && x.last == y.last && x.coming.empty() && y.coming.empty();
                      });
}

}  // namespace

bool Session::goes_on_as(const Session& other, const LeftOut& left_out) const {
    if (!plant::goes_on_as(plant_, other.plant_, left_out.wire_defects) ||
        !same(rack_, now_, other.rack_, other.now_) || !same(jumpers_, other.jumpers_) || !hands_.empty() ||
        !other.hands_.empty())
        return false;
    for (std::size_t c = 0; c < controllers_.size(); ++c) {
        const controller::ControllerModel& model = model_->controllers[c];
        const logic::ClockTelling telling{!left_out.step_times || model.program->step_times_read, !left_out.over};
        if (!same(model, controllers_[c], other.controllers_[c], telling)) return false;
    }
    return true;
}

Session Session::with_code(int controller, std::shared_ptr<const logic::Program> program) const {
    const std::shared_ptr<SessionModel> changed(new SessionModel(*model_));
    base::at(changed->controllers, controller).program = std::move(program);
    Session out = *this;
    out.model_ = changed;
    return out;
}

void Session::scan(int c, logic::ScanWatch* watch) {
    controller::ControllerState& state = state_of(c);
    if (state.powered) wiring::sample(model_->wiring, c, plant_, now_, rack_, state);
    if (state.powered && !rack_.modules.empty())
        wiring::write_diagnostics(model_->wiring.modules, model_->wiring.channels, c, *model_of(c).program, rack_,
                                  state);
    if (state.powered && !jumpers_.empty()) wiring::sample_jumpers(model_->wiring, c, now_, jumpers_, state);
    if (state.powered && model_of(c).linked()) {
        controller::exchange(model_of(c), c, state, now_, partner_.is, watch);
    } else if (state.powered) {
        controller::solve(model_of(c), state, now_, watch);
    } else {
        controller::stand_still(state, now_);
    }
    if (!jumpers_.empty())
        wiring::feed_jumpers(model_->wiring, c, plant_, model_->controllers, controllers_, now_, jumpers_);
}

void Session::put_outputs(bool anew) {
    if (anew) wiring::put_outputs(model_->wiring, controllers_, now_, rack_, plant_, odd_);
    if (!plant_.faulted_points.empty()) plant::fault_outputs(*model_->plant, plant_);
}

void Session::move_hands() {
    if (hands_.empty()) return;
    // In order of time, so that many presses of one instant, which come one after the other, cost no more than those
    // due.
    const auto due = std::find_if(hands_.begin(), hands_.end(), [&](const HandAct& h) { return h.due > now_; });
    for (auto h = hands_.begin(); h != due; ++h)
        plant::use_control(*model_->plant, plant_, h->device, *h->control, h->value);
    hands_.erase(hands_.begin(), due);
}

base::Nanoseconds Session::free_again(int device, const plant::ControlSpec& control) {
    const auto held = std::find_if(hands_.rbegin(), hands_.rend(),
                                   [&](const HandAct& h) { return h.device == device && h.ends == &control; });
    if (held == hands_.rend()) {
        std::erase_if(hands_,
                      [&](const HandAct& h) { return h.device == device; });  // the hand does something else now
        return now_;
    }
    base::Nanoseconds seen = model_->step;
    for (const controller::ControllerModel& c : model_->controllers) seen = std::max(seen, c.scan);
    HandAct released = *held;
    hands_.erase(std::next(held).base());
    released.due = std::max(now_, std::min(released.due, released.begin + seen));
    plan(released);
    return released.due + seen;
}

Nanoseconds Session::act(int device, const plant::ControlSpec& control, double value) {
    const Nanoseconds when = free_again(device, control);
    if (when == now_) {
        plant::use_control(*model_->plant, plant_, device, control, value);
    } else {
        plan({when, device, &control, nullptr, when, value});
    }
    return when;
}

void Session::plan(const HandAct& act) {
    const auto place = std::upper_bound(hands_.begin(), hands_.end(), act,
                                        [](const HandAct& a, const HandAct& b) { return a.due < b.due; });
    hands_.insert(place, act);
}

void Session::use_control(int device, const plant::ControlSpec& control, double value) {
    act(device, control, value);
}

void Session::hold_control(int device, const plant::ControlSpec& control, const plant::ControlSpec& opposite,
                           Nanoseconds hold) {
    const Nanoseconds when = act(device, control, 0.0);
    plan({when + hold, device, &opposite, &control, when, 0.0});
}

void Session::enter_force(int c, controller::Force force) {
    controller::enter_force(model_of(c), state_of(c), std::move(force));
    put_outputs();
}
bool Session::remove_force(int c, const controller::Spot& spot) {
    const bool found = controller::remove_force(model_of(c), state_of(c), spot);
    put_outputs();
    return found;
}
void Session::remove_all_forces() {
    for (std::size_t c = 0; c < controllers_.size(); ++c)
        controller::remove_all_forces(model_->controllers[c], controllers_[c]);
    put_outputs();
}
void Session::switch_forces(bool on) {
    for (std::size_t c = 0; c < controllers_.size(); ++c)
        controller::switch_forces(model_->controllers[c], controllers_[c], on);
    put_outputs();
}
void Session::write(int c, const controller::Spot& spot, logic::Value value) {
    state_of(c).writes.push_back({now_, spot, std::move(value)});
}

void Session::set_fault(int device, const plant::FaultSpec& fault, double amount, const plant::FaultTiming& timing) {
    plant::set_fault(*model_->plant, plant_, device, fault, amount, timing);
}
void Session::set_point_fault(int point, plant::Defect defect, double amount, const plant::FaultTiming& timing) {
    plant::set_point_fault(*model_->plant, plant_, point, defect, amount, timing);
}
void Session::heal_point(int point) {
    plant::heal_point(*model_->plant, plant_, point);
}
bool Session::let_go_point(int point) {
    return plant::let_go_point(*model_->plant, plant_, point);
}
void Session::heal_device(int device) {
    plant::heal_device(*model_->plant, plant_, device);
}
void Session::set_module_fault(int module, const wiring::ModuleState& fault) {
    base::at(rack_.modules, module) = fault;
    // What is lost or whole again is the module, with its inputs and its outputs.
    const int partner = base::at(model_->wiring.modules, module).partner;
    if (partner >= 0) {
        if (fault == wiring::ModuleState{}) base::at(rack_.modules, partner) = fault;
        base::at(rack_.modules, partner).lost = fault.lost;
    }
    put_outputs();
}
void Session::set_link_fault(int c, const controller::LinkFault& fault) {
    state_of(c).link.fault = fault;
}
void Session::heal_all() {
    for (controller::ControllerState& c : controllers_) c.link.fault = {};
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
    const plant::PointModel& p = base::at(model_->plant->points, point);
    VYARD_CHECK(p.text != plant::kNone);
    plant_.put_text(point, p.text, text);
}

void Session::stop(int c) {
    controller::stop(model_of(c), state_of(c));
    put_outputs();
}
void Session::start(int c) {
    controller::start(model_of(c), state_of(c));
    put_outputs();
}
void Session::start_warm(int c) {
    controller::start_warm(model_of(c), state_of(c));
    put_outputs();
}

void Session::power_off(int c) {
    controller::power_off(model_of(c), state_of(c));
    put_outputs();
}
void Session::power_on(int c) {
    controller::power_on(model_of(c), state_of(c));
    put_outputs();
}
std::string Session::put_retained(int c, const controller::RetainedValue& retained) {
    return controller::put_retained(model_of(c), state_of(c), retained);
}

controller::ChangeReport Session::change_logic(int c, const std::shared_ptr<const logic::Program>& program) {
    const std::shared_ptr<SessionModel> changed(new SessionModel(*model_));
    controller::ControllerModel& model = base::at(changed->controllers, c);
    const auto followed = std::make_shared<const controller::Rebinding>(model.program, program);
    const controller::Rebinding& rebinding = *followed;
    controller::ChangeReport report = controller::change_program(rebinding, state_of(c));
    controller::rebind_model(rebinding, model, state_of(c), report);
    model.program = program;
    wiring::rebind(rebinding, c, changed->wiring, jumpers_, report);
    model.outputs = wiring::lay_out_outputs(changed->wiring, c, model);
    model_ = changed;
    controller::renew_image(model_of(c), state_of(c));
    put_outputs();
    report.rebinding = followed;
    return report;
}

}  // namespace vyard::session
