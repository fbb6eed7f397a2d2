// Orders: what an operator says, in procedures and at the live prompt, as text and as checked values.
//
//   press panel.start for 200 ms      press panel.start for 1 scan  release panel.start
//   turn panel.mode to automatic      set panel.dwell to 40 %
//   force tag = TRUE                  force status.%X3 = TRUE       force %QB0 = 16#FF        unforce tag | all
//   forces off | on                   write tag = 7 (once)
//   fault dip_eye stuck off           fault lift jammed             fault glaze leaking 0.1 l/s  heal dip_eye | all
//   fault dip_eye open_wire           fault eye stuck off every 7th fault m trip at random every 30 s for 1 s
//   fault link lost    fault link press delay 200 ms | drop 5 % | stuck (of a controller that is executed elsewhere)
//   heal link          heal link press
//   drive valve_1.open = TRUE         undrive valve_1.open | all  (by the device's own hand override)
//   take from infeed at 1.2 m         take from arm      take from floor      place brick on infeed at 0.3 m colour
//   cobalt shift item on infeed at 1 m by 50 mm      turn item on infeed by 90 deg      swap item on infeed for tile
//   stop line          start line     start line warm (RETAIN variables keep their values)
//   power off line     power on line
//   wait 2 s           wait 3 scans   wait until COND within 60 s
//   expect COND        expect COND within 2 s        expect COND for 1 s
//   expect COND within 2 s for 500 ms (comes and stays)                expect COND within 9 s not before 7 s
//   expect stopped line within 1 s (it is meant to stop by itself)
//   measure "dip" from COND to COND within 5 s not before 1 s         note "text"
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::procedure {

enum class Action : std::uint8_t {
    Control,
    HoldControl,
    Force,
    Unforce,
    UnforceAll,
    ForcesOn,
    ForcesOff,
    FaultDevice,
    FaultPoint,
    HealDevice,
    HealPoint,
    HealAll,
    FaultModule,
    HealModule,
    FaultLink,
    HealLink,
    Take,
    Place,
    Shift,
    TurnItem,
    Swap,
    Stop,
    Start,
    StartWarm,
    PowerOff,
    PowerOn,
    ByHand,
    LetGo,
    LetGoAll,
    Write,
    Note,
    Wait,
    WaitUntil,
    Expect,
    ExpectStopped,
    Measure,
};

/// How long `wait until` waits when no `within` says otherwise.
constexpr base::Nanoseconds kDefaultPatience{60'000'000'000};

struct Order {
    Action action = Action::Note;
    base::Place place;
    std::string text;  ///< The line as written.
    int device = plant::kNone;
    int point = plant::kNone;
    const plant::ControlSpec* control = nullptr;
    const plant::ControlSpec* opposite = nullptr;
    const plant::FaultSpec* fault = nullptr;
    int controller = -1;
    std::string tag;         ///< Force, Write: as people know it.
    controller::Spot spot;   ///< Force, Unforce, Write.
    logic::Value tag_value;  ///< Force, Write.
    int item = 0;
    std::optional<int> colour;
    std::optional<double> along_m;
    double left_m = 0.0;
    plant::Defect defect = plant::Defect::Stuck;
    plant::FaultTiming timing;
    int module = -1;  ///< Of the rack.
    enum class ModuleFault : std::uint8_t { Lost, Channel, Fuse } module_fault = ModuleFault::Lost;
    enum class LinkTrouble : std::uint8_t { Lost, Stuck, Delay, Drop } link_trouble = LinkTrouble::Lost;
    double value = 0.0;
    base::Nanoseconds time{};  ///< Wait, HoldControl, FaultLink.
    int condition = -1;
    int until = -1;                           ///< Measure: where it ends.
    std::string name;                         ///< Measure.
    std::optional<base::Nanoseconds> within;  ///< WaitUntil, Expect, ExpectStopped, Measure.
    std::optional<base::Nanoseconds> hold;    ///< Expect: so long without a break.
    base::Nanoseconds not_before{};           ///< Expect, Measure.

    /// Whether it takes time, or looks.
    bool waits() const { return action >= Action::Wait; }
};

/// Does an order that takes no time. "" when done, else why it could not be. `said`: what it did, where that is more
/// than the order says.
std::string perform(session::Session& session, const Order& order, std::string& said);

/// Reads the order that stands at tokens[at...]; null after a report. The tokens end at the end of its line.
class OrderReader {
  public:
    OrderReader(const session::SessionModel& model, logic::ConditionCompiler& conditions,
                base::Diagnostics& diagnostics);

    std::optional<Order> read(const base::SourcePtr& source, const std::vector<logic::Token>& line);
    /// A condition at `at`; -1 after a report.
    int condition(const base::SourcePtr& source, const std::vector<logic::Token>& line, std::size_t& at);
    /// A time such as `200 ms` or T#200ms at `at`; null after a report.
    std::optional<base::Nanoseconds> time(const base::SourcePtr& source, const std::vector<logic::Token>& line,
                                          std::size_t& at);
    /// `within T`, `for T`, `not before T`, in any order, as far as the flags allow. False after a report.
    struct Limits {
        std::optional<base::Nanoseconds> within, hold;
        base::Nanoseconds not_before{};
    };
    bool limits(const base::SourcePtr& source, const std::vector<logic::Token>& line, std::size_t& at, bool hold,
                Limits& out);
    /// Reports when anything is left of the line.
    bool at_end(const base::SourcePtr& source, const std::vector<logic::Token>& line, std::size_t at);

    static const std::vector<std::string>& verbs();

  private:
    struct Line;
    std::optional<Order> dispatch(Line& line, const std::string& verb);
    bool control(Line& line, Order& order, const std::string& verb);
    bool force(Line& line, Order& order);
    bool unforce(Line& line, Order& order);
    bool write(Line& line, Order& order);
    bool tag_and_value(Line& line, Order& order, const char* verb);
    bool find_target(Line& line, Order& order);
    bool measure(Line& line, Order& order);
    bool duration(Line& line, base::Nanoseconds& out);
    std::optional<int> module_named(const std::string& name, const base::Place& where);
    /// Whether `fault link` or `heal link` stands here; no device is named so.
    bool names_link(const Line& line) const;
    bool link_of(Line& line, Order& order);
    bool fault_of_link(Line& line, Order& order);
    bool fault_of_module(Line& line, Order& order, int number, const std::string& name);
    bool fault(Line& line, Order& order);
    bool defect_of_point(Line& line, Order& order, int point, const plant::DefectSpec& defect);
    bool stuck(Line& line, Order& order, int point);
    bool timing(Line& line, Order& order);
    bool heal(Line& line, Order& order);
    bool drive(Line& line, Order& order);
    bool undrive(Line& line, Order& order);
    std::optional<int> output_point(Line& line);
    bool take(Line& line, Order& order);
    bool place(Line& line, Order& order);
    bool handle(Line& line, Order& order, const std::string& verb);
    bool item_type(Line& line, Order& order);
    bool stop_or_start(Line& line, Order& order);
    bool power(Line& line, Order& order);
    bool wait(Line& line, Order& order);
    bool expect(Line& line, Order& order);

    std::optional<int> device(Line& line, const char* what);
    std::optional<int> surface(Line& line);
    std::optional<double> quantity(Line& line, base::Dimension dimension);
    bool unknown_control(int device, const std::string& verb, const base::Place& place);

    const session::SessionModel& model_;
    logic::ConditionCompiler& conditions_;
    base::Diagnostics& diagnostics_;
};

/// Splits tokens into lines, each ended by an End token; a line with an open parenthesis goes on.
std::vector<std::vector<logic::Token>> split_lines(const std::vector<logic::Token>& tokens);

/// The resolver that finds condition names among the signals of a model, and the list it fills.
logic::Resolver signal_resolver(const session::SessionModel& model, std::vector<session::Signal>& signals,
                                base::Diagnostics& diagnostics);

}  // namespace vyard::procedure
