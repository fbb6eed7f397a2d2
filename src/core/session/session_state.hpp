// One run: controllers, wiring, plant and clock, and what an operator can do to them. A Session is a value: a copy is
// a full snapshot, and two copies that get the same orders stay equal to the byte.
#pragma once

#include <concepts>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/base/base.hpp"
#include "core/controller/controller.hpp"
#include "core/plant/plant.hpp"
#include "core/wiring/wiring.hpp"

namespace vyard::session {

/// Everything that was loaded; immutable. build() makes it, a change of logic makes another.
class SessionModel {
  public:
    std::string name;
    base::Nanoseconds step{5'000'000};  ///< Of the plant; divides every scan.
    std::shared_ptr<const plant::PlantModel> plant;
    std::vector<controller::ControllerModel> controllers;
    wiring::Wiring wiring;

  private:
    SessionModel() = default;
    SessionModel(const SessionModel&) = default;
    friend class Builder;
    friend class Session;
};

using SessionModelPtr = std::shared_ptr<const SessionModel>;

class Session {
  public:
    /// Power-up: sensors look, inputs are sampled, every controller does its first scan at time 0.
    /// A `watch` bounds this first scan as it does those of step().
    explicit Session(SessionModelPtr model, logic::ScanWatch* watch = nullptr, controller::Partner* partner = nullptr);

    /// One plant step, then the scans that are due. A `watch` may stop a controller whose scan takes too long; its
    /// verdict is of the wall clock, so only live running gives one.
    void step(logic::ScanWatch* watch = nullptr);

    base::Nanoseconds now() const { return now_; }
    /// Whether a controller scanned in the last step (or at power-up).
    bool scanned() const { return scanned_; }
    const SessionModel& model() const { return *model_; }
    const SessionModelPtr& model_ptr() const { return model_; }
    const plant::PlantState& plant() const { return plant_; }
    const controller::ControllerState& controller(int c) const { return base::at(controllers_, c); }
    /// Who executes its remote controllers. Whoever assigns to a session keeps its partner, a copy has none: what is
    /// elsewhere cannot be in two runs.
    controller::Partner* partner() const { return partner_.is; }
    void set_partner(controller::Partner* partner) { partner_.is = partner; }

    /// What does not count where two states are compared.
    struct LeftOut {
        bool wire_defects = false;  ///< As long as they make no wire differ.
        bool step_times = false;    ///< How long steps of charts have been active, where the logic does not ask.
        bool over = false;          ///< For how long timers have been over.
    };
    /// Whether nothing that decides what comes differs, but for the clock: from two such states, at instants that are a
    /// multiple of all tasks' intervals apart, the same follows; where `over` is left out, as long as the timers stay
    /// over that are. What changes by itself keeps from it: such defects, and links that drop by chance. What a table
    /// of stimuli has yet to write does not.
    bool goes_on_as(const Session& other, const LeftOut& left_out) const;

    /// The same instant with other code in one controller, laid out in memory as before; to ask how a scan goes.
    Session with_code(int controller, std::shared_ptr<const logic::Program> program) const;

    // --- the operator ---
    void use_control(int device, const plant::ControlSpec& control, double value);
    /// Uses `control` now and `opposite` after `hold`. Where an earlier hold of the same control still lasts, that one
    /// is let go first, for a scan at least, so that every press is seen.
    void hold_control(int device, const plant::ControlSpec& control, const plant::ControlSpec& opposite,
                      base::Nanoseconds hold);
    void enter_force(int controller, controller::Force force);
    bool remove_force(int controller, const controller::Spot& spot);
    void remove_all_forces();
    void switch_forces(bool on);
    /// Written once, before the next scan of a running controller.
    void write(int controller, const controller::Spot& spot, logic::Value value);
    void set_fault(int device, const plant::FaultSpec& fault, double amount, const plant::FaultTiming& timing = {});
    void set_point_fault(int point, plant::Defect defect, double amount, const plant::FaultTiming& timing = {});
    /// What is wrong with a module of the rack from now on; nothing heals it.
    void set_module_fault(int module, const wiring::ModuleState& fault);
    const wiring::RackState& rack() const { return rack_; }
    /// What is wrong with the line of a controller from now on.
    void set_link_fault(int controller, const controller::LinkFault& fault);
    void heal_point(int point);
    /// Ends a hand on an output (Defect::ByHand); false when there is none.
    bool let_go_point(int point);
    void heal_device(int device);
    void heal_all();
    bool place_item(int type, int device, double along_m, std::optional<int> colour);
    bool take_item(int device, std::optional<double> along_m);
    bool shift_item(int device, std::optional<double> along_m, plant::Vector2 by);
    bool turn_item(int device, std::optional<double> along_m, double radians);
    bool swap_item(int device, std::optional<double> along_m, int type);
    /// Puts a value on a wire that no tag is joined to, as with a test lead.
    void drive(int point, double value) { plant_.put(point, value); }
    void drive_text(int point, std::string_view text);
    /// Numbers that the logic gave and no wire can carry.
    const std::vector<wiring::OddOutput>& odd_outputs() const { return odd_; }
    void stop(int controller);
    /// Cold start: all variables but PERSISTENT ones at their initial values; forces stay.
    void start(int controller);
    /// Warm start: the same, but RETAIN variables keep their values.
    void start_warm(int controller);
    void power_off(int controller);
    void power_on(int controller);
    /// A RETAIN variable gets its value back; what is wrong with it, or "".
    std::string put_retained(int controller, const controller::RetainedValue& retained);
    /// Takes a newly compiled program between two scans. Joins and forces follow their tags by path; a tag that is
    /// gone, or of another type, leaves its point unjoined and is reported.
    controller::ChangeReport change_logic(int controller, const std::shared_ptr<const logic::Program>& program);
    /// The yard as it is read anew, plant and map included: this run goes on in it with all that still exists.
    struct Moved {
        std::vector<std::pair<int, controller::ChangeReport>> logic;  ///< By number in the model before.
        std::vector<std::string> lost;  ///< What is not kept, for people: devices, controllers, forces, items.
        bool plant_kept = true;         ///< Items and all devices go on as they were.
    };
    Moved move_to(const SessionModelPtr& model);

  private:
    /// What a hand will do. Controls stand in the immutable lists of kinds.
    struct HandAct {
        base::Nanoseconds due{};
        int device = 0;
        const plant::ControlSpec* control = nullptr;
        const plant::ControlSpec* ends = nullptr;  ///< The control that is held until then; null for a press to come.
        base::Nanoseconds begin{};                 ///< Since when it is held.
        double value = 0.0;                        ///< What the control is set to.
    };

    /// Who executes the remote controllers, of this very session.
    struct PartnerOf {
        controller::Partner* is = nullptr;
        PartnerOf() = default;
        PartnerOf(const PartnerOf&) {}
        PartnerOf(PartnerOf&& other) noexcept : is(other.is) {}
        PartnerOf& operator=(const PartnerOf&) { return *this; }
        PartnerOf& operator=(PartnerOf&& other) noexcept {
            if (is == nullptr) is = other.is;
            return *this;
        }
        ~PartnerOf() = default;
    };

    void move_hands();
    /// Uses a control now, or as soon as it is free; when that is.
    base::Nanoseconds act(int device, const plant::ControlSpec& control, double value);
    /// Keeps the order of time.
    void plan(const HandAct& act);
    /// When a control may be used again: now, or once an earlier hold of it has been let go and that was seen.
    base::Nanoseconds free_again(int device, const plant::ControlSpec& control);
    void scan(int c, logic::ScanWatch* watch);
    /// What left the controllers reaches the wires, and their defects act on it.
    void put_outputs(bool anew = true);
    const controller::ControllerModel& model_of(int c) const { return base::at(model_->controllers, c); }
    controller::ControllerState& state_of(int c) { return base::at(controllers_, c); }

    SessionModelPtr model_;
    plant::PlantState plant_;
    std::vector<controller::ControllerState> controllers_;
    wiring::RackState rack_;
    std::vector<wiring::JumperState> jumpers_;
    base::Rare<HandAct> hands_;
    base::Rare<wiring::OddOutput> odd_;
    PartnerOf partner_;
    base::Nanoseconds now_{};
    bool scanned_ = false;
};

static_assert(std::copyable<Session>);

}  // namespace vyard::session
