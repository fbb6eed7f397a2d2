// What a device kind declares about itself, once: parameters, points, hand controls, actuals, faults. File reading,
// range checks, help, the map, faults and drawings all follow from this.
//
// A kind is a struct K in one file of kinds/ with
//   struct Model { ... };   // parameters, filled at building, never written after; trivially copyable
//   struct State { ... };   // what a run changes; trivially copyable
//   static void declare(Declaration<K>& kind);
//   static std::string check(const Model&);                    // optional: what is wrong with parameters together
//   static void place(Placing& at, Model&, State&);           // optional: surfaces, solids, first values
//   static void actuate(const Model&, State&, Step&);          // optional: outputs reach the device
//   static void sense(const Model&, State&, Step&);            // optional: the device fills its inputs
#pragma once

#include <cstring>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <type_traits>
#include <variant>
#include <vector>

#include "core/plant/model.hpp"

namespace vyard::plant {

// --- declared lists ---

enum class ParameterType : std::uint8_t { Quantity, Whole, Choice, Device, Colour, Names, Items, Numbers };

/// Lists in models, which are flat: of items, where they stand in PlantModel::item_lists.
struct ItemList {
    int begin = 0, count = 0;
    int number(const PlantModel& model, int i) const {
        return model.item_lists[static_cast<std::size_t>(begin) + static_cast<std::size_t>(i)];
    }
};

/// A parameter's value after reading, in SI.
using ParameterValue = std::variant<double, int, std::vector<std::string>, ItemList, NumberList>;

struct ParameterSpec {
    std::string name;
    ParameterType type = ParameterType::Quantity;
    base::Dimension dimension = base::Dimension::Plain;
    std::string default_text;  ///< As it would stand in the file; "" with `required` false: simply absent.
    bool required = false;
    double low = 0.0, high = 0.0;      ///< SI; range of quantities and whole numbers.
    std::vector<std::string> choices;  ///< Choice: the names. Device: the kinds that serve.
    std::string help;
    std::function<void(std::byte* model, const ParameterValue&)> store;
};

struct PointSpec {
    std::string name;
    PointDirection direction = PointDirection::Input;
    PointType type = PointType::Boolean;
    base::Dimension dimension = base::Dimension::Plain;
    std::string help;
    std::function<bool(const std::byte* model)> present;                     ///< Empty: always.
    std::function<std::pair<double, double>(const std::byte* model)> range;  ///< Of an analog signal; empty: none.
};

struct ControlSpec {
    std::string verb;  ///< "press", "release", "turn", "set", "pull", "reset"
    bool takes_value = false;
    base::Dimension dimension = base::Dimension::Plain;
    double low = 0.0, high = 0.0;
    bool takes_position = false;  ///< The value is one of DeviceModel::positions.
    std::string help;
    std::function<void(const std::byte* model, std::byte* state, double value)> act;
};

struct Step;

struct ActualSpec {
    std::string name;
    PointType type = PointType::Analog;
    base::Dimension dimension = base::Dimension::Plain;
    std::string help;
    std::function<double(const std::byte* model, const std::byte* state, const PlantModel&, const PlantState&,
                         int device)>
        read;
};

struct FaultSpec {
    std::string name;
    bool takes_amount = false;
    base::Dimension dimension = base::Dimension::Plain;
    double default_amount = 0.0;
    std::string help;
    std::function<void(std::byte* state, double amount)> set;  ///< 0 heals.
    std::function<double(const std::byte* state)> read;        ///< 0 when healthy.
};

/// How a device finds its place.
enum class Placement : std::uint8_t {
    Panel,    ///< Nowhere in the plan.
    Surface,  ///< `at` [x, y], or `after`/`beside` another surface.
    Mounted,  ///< `on` a surface, `at` a distance along it.
    Plan,     ///< `at` [x, y].
};

/// How a drawing shows the kind.
enum class Symbol : std::uint8_t {
    Belt,
    Infeed,
    Outfeed,
    Chute,
    Stopper,
    Pusher,
    Cylinder,
    Eye,
    Switch,
    Reader,
    Tank,
    Valve,
    Level,
    LevelSwitch,
    Motor,
    Button,
    EmergencyStop,
    Selector,
    Potentiometer,
    Lamp,
    Horn,
    Display,
    Rollers,
    Shelf,
    Turntable,
    Lift,
    Diverter,
    IndexTable,
    GateArm,
    Wall,
    Gantry,
    Curtain,
    Proximity,
    Scale,
    Distance,
    Encoder,
    Pump,
    Demand,
    Heater,
    Transmitter,
    Hopper,
    Air,
    Rotary,
    Drive,
    Axis,
    PullCord,
    Joystick,
    Door,
    StackLight,
    HourMeter,
    Own
};

// --- what a kind gets to work with ---

/// At building: registers what the device adds to the world.
struct Placing {
    PlantModel& model;
    DeviceModel& device;
    int index;

    /// At the device's pose, or `from_m` in front of it.
    int add_surface(double length_m, double width_m, double from_m = 0.0);
    SurfaceModel& surface(int number) { return base::at(model.surfaces, number); }
    /// `travel_m` is the farthest it goes along `push`.
    int add_solid(const OrientedBox& area, double bottom_m, double top_m, Vector2 push, double travel_m, bool present);
    /// Where each_near() looks: every item that reaches into it, and some that do not.
    int add_zone(const OrientedBox& area);
    int add_zone(Vector2 centre, double radius_m) { return add_zone({centre, radius_m, radius_m, {}}); }
    /// Nothing may be moved faster than the plant knows of.
    void moves_up_to(double speed_m_s) { model.top_speed_m_s = std::max(model.top_speed_m_s, speed_m_s); }
    /// The surface at the place of a mounted device.
    const SurfaceModel& mounted_surface() const;
    const DeviceModel& mounted_device() const { return base::at(model.devices, device.mounted_on); }
};

/// In a step: one device's view of the plant.
struct Step {
    const PlantModel& model;
    PlantState& state;
    double dt_s;
    const DeviceModel* device = nullptr;
    int index = 0;

    /// Value of an output point by its place in the declaration; 0 when this device lacks it.
    double output(int spec) const {
        const int point = base::at(device->points, spec);
        return point == kNone ? 0.0 : state.shown(point);
    }
    void input(int spec, double value) {
        const int point = base::at(device->points, spec);
        if (point != kNone) state.put(point, value);
    }
    std::string_view text_output(int spec) const {
        const int point = base::at(device->points, spec);
        return point == kNone ? std::string_view{} : base::at(state.texts, text_number(point)).shown.view();
    }
    void text_input(int spec, std::string_view text) {
        const int point = base::at(device->points, spec);
        if (point != kNone) state.put_text(point, text_number(point), text);
    }
    int text_number(int point) const { return base::at(model.points, point).text; }
    /// Calls f(item) for the items that may be in a zone, in order of arrival, those of this step last.
    template <class F>
    void each_near(int zone, F f) {
        if (!state.near.quiet(zone)) {
            for (const int i : state.near.zone(zone)) f(base::at(state.items, i));
        }
        for (std::size_t i = state.near.listed(); i < state.items.size(); ++i) f(state.items[i]);
    }
    Liquid& liquid(int of) { return base::at(state.liquids, model.device(of).liquid); }
    const Liquid& liquid(int of) const { return liquid_of(model, state, of); }
    SurfaceState& surface(int number) { return base::at(state.surfaces, number); }
    double& extension_m() { return base::at(state.extension_m, device->extension); }
    double& drive_ratio() { return base::at(state.drive_ratio, device->drive); }
    double& pressure_pa() { return base::at(state.pressure_pa, device->air); }
};

struct OwnKind;

/// Where a parameter of a kind of one's own goes in the memory of its block.
struct ParameterWire {
    std::uint32_t offset = 0;
    int bit = -1;
    int type = 0;  ///< A logic::Elementary.
};

/// The type-erased kind: what K declared, and how to call it.
struct Kind {
    std::string name;
    std::string family;  ///< "transport", "air", "liquid", "drives", "sensors", "panel"
    std::string summary;
    Placement placement = Placement::Panel;
    Symbol symbol = Symbol::Belt;
    bool carries = false;  ///< Items can lie on it.
    /// What other devices can see of it: how far it is out, how fast it turns, its liquid, its pressure.
    bool extends = false, drives = false, holds_liquid = false, gives_air = false;
    std::vector<ParameterSpec> parameters;
    std::vector<PointSpec> points;
    std::vector<ControlSpec> controls;
    std::vector<ActualSpec> actuals;
    std::vector<FaultSpec> faults;
    std::size_t model_size = 0, state_size = 0;
    void (*make_model)(std::byte*) = nullptr;
    void (*make_state)(std::byte*) = nullptr;
    std::string (*check)(const std::byte* model) = nullptr;
    void (*place)(Placing&, std::byte* model, std::byte* state) = nullptr;
    void (*actuate)(const std::byte* model, std::byte* state, Step&) = nullptr;
    void (*sense)(const std::byte* model, std::byte* state, Step&) = nullptr;
    std::shared_ptr<const OwnKind> own;  ///< Of a kind whose behaviour is a function block.
    std::vector<ParameterWire> parameter_wires;

    const ControlSpec* find_control(std::string_view verb) const;
    const FaultSpec* find_fault(std::string_view name) const;
};

// --- how a kind declares ---

template <class T>
const T& as(const std::byte* bytes) {
    return *reinterpret_cast<const T*>(bytes);
}
template <class T>
T& as(std::byte* bytes) {
    return *reinterpret_cast<T*>(bytes);
}

/// A wired contact: what a normally open or normally closed contact shows.
enum class Contact : int { NormallyOpen = 0, NormallyClosed = 1 };
inline double contact_value(Contact contact, bool actuated) {
    return actuated == (contact == Contact::NormallyOpen) ? 1.0 : 0.0;
}

template <class K>
class Declaration {
  public:
    using Model = typename K::Model;
    using State = typename K::State;
    static_assert(std::is_trivially_copyable_v<Model> && std::is_trivially_copyable_v<State>);

    explicit Declaration(Kind& kind) : kind_(kind) {}

    Declaration& names(const char* name, const char* family, Symbol symbol, Placement placement, const char* summary) {
        kind_.name = name;
        kind_.family = family;
        kind_.symbol = symbol;
        kind_.placement = placement;
        kind_.carries = placement == Placement::Surface && symbol != Symbol::Outfeed;
        kind_.summary = summary;
        return *this;
    }

    Declaration& carries() {
        kind_.carries = true;
        return *this;
    }
    Declaration& extends() {
        kind_.extends = true;
        return *this;
    }
    Declaration& drives() {
        kind_.drives = true;
        return *this;
    }
    Declaration& holds_liquid() {
        kind_.holds_liquid = true;
        return *this;
    }
    Declaration& gives_air() {
        kind_.gives_air = true;
        return *this;
    }

    // Parameters. `default_text` "" makes the parameter required.
    Declaration& quantity(const char* name, double Model::*field, base::Dimension dimension, const char* default_text,
                          double low, double high, const char* help) {
        ParameterSpec& p =
            parameter(name, ParameterType::Quantity, default_text, help,
                      [field](std::byte* m, const ParameterValue& v) { as<Model>(m).*field = std::get<double>(v); });
        p.dimension = dimension;
        p.low = low;
        p.high = high;
        return *this;
    }
    Declaration& whole(const char* name, int Model::*field, const char* default_text, int low, int high,
                       const char* help) {
        ParameterSpec& p =
            parameter(name, ParameterType::Whole, default_text, help,
                      [field](std::byte* m, const ParameterValue& v) { as<Model>(m).*field = std::get<int>(v); });
        p.low = low;
        p.high = high;
        return *this;
    }
    template <class Enum>
    Declaration& choice(const char* name, Enum Model::*field, const std::vector<std::string>& choices,
                        const char* default_text, const char* help) {
        parameter(name, ParameterType::Choice, default_text, help, [field](std::byte* m, const ParameterValue& v) {
            as<Model>(m).*field = static_cast<Enum>(std::get<int>(v));
        }).choices = choices;
        return *this;
    }
    Declaration& contact(Contact Model::*field, const char* default_text) {
        return choice("contact", field, {"normally open", "normally closed"}, default_text,
                      "how the contact is wired: a normally closed one reads TRUE at rest");
    }
    /// Another device, of one of `kinds`; kNone when absent and not required.
    Declaration& device(const char* name, int Model::*field, std::vector<std::string> kinds, bool required,
                        const char* help) {
        ParameterSpec& p =
            parameter(name, ParameterType::Device, "", help,
                      [field](std::byte* m, const ParameterValue& v) { as<Model>(m).*field = std::get<int>(v); });
        p.choices = std::move(kinds);
        p.required = required;
        return *this;
    }
    /// An item, or a list of them.
    Declaration& items(const char* name, ItemList Model::*field, const char* help) {
        parameter(name, ParameterType::Items, "", help,
                  [field](std::byte* m, const ParameterValue& v) { as<Model>(m).*field = std::get<ItemList>(v); });
        return *this;
    }
    /// A list of numbers, with units unless plain; empty when absent.
    Declaration& numbers(const char* name, NumberList Model::*field, base::Dimension dimension, const char* help) {
        ParameterSpec& p = parameter(
            name, ParameterType::Numbers, "", help,
            [field](std::byte* m, const ParameterValue& v) { as<Model>(m).*field = std::get<NumberList>(v); });
        p.required = false;
        p.dimension = dimension;
        return *this;
    }
    /// Makes the last parameter one that may be absent.
    Declaration& optional() {
        kind_.parameters.back().required = false;
        return *this;
    }
    /// One of the plant's colours; kNone when absent.
    Declaration& colour(const char* name, int Model::*field, const char* help) {
        ParameterSpec& p =
            parameter(name, ParameterType::Colour, "", help,
                      [field](std::byte* m, const ParameterValue& v) { as<Model>(m).*field = std::get<int>(v); });
        p.required = false;
        return *this;
    }
    /// The list of positions of a selector, 2 to 8; its length goes to `count`.
    Declaration& positions(const char* name, int Model::*count, const char* help) {
        parameter(name, ParameterType::Names, "", help, [count](std::byte* m, const ParameterValue& v) {
            as<Model>(m).*count = static_cast<int>(std::get<std::vector<std::string>>(v).size());
        });
        return *this;
    }

    // Points, in the order of the numbers K uses in Step::input and Step::output.
    Declaration& input(const char* name, const char* help) {
        return point(name, PointDirection::Input, PointType::Boolean, base::Dimension::Plain, help);
    }
    Declaration& output(const char* name, const char* help) {
        return point(name, PointDirection::Output, PointType::Boolean, base::Dimension::Plain, help);
    }
    Declaration& number_input(const char* name, const char* help) {
        return point(name, PointDirection::Input, PointType::Number, base::Dimension::Plain, help);
    }
    Declaration& number_output(const char* name, const char* help) {
        return point(name, PointDirection::Output, PointType::Number, base::Dimension::Plain, help);
    }
    Declaration& text_input(const char* name, const char* help) {
        return point(name, PointDirection::Input, PointType::Text, base::Dimension::Plain, help);
    }
    Declaration& text_output(const char* name, const char* help) {
        return point(name, PointDirection::Output, PointType::Text, base::Dimension::Plain, help);
    }
    Declaration& analog_input(const char* name, base::Dimension dimension, const char* help) {
        return point(name, PointDirection::Input, PointType::Analog, dimension, help);
    }
    Declaration& analog_output(const char* name, base::Dimension dimension, const char* help) {
        return point(name, PointDirection::Output, PointType::Analog, dimension, help);
    }
    /// Makes the last point exist only where `present` holds.
    Declaration& only_if(bool (*present)(const Model&)) {
        kind_.points.back().present = [present](const std::byte* m) { return present(as<Model>(m)); };
        return *this;
    }

    /// Gives the last point the range of its signal.
    Declaration& spans(std::pair<double, double> (*range)(const Model&)) {
        kind_.points.back().range = [range](const std::byte* m) { return range(as<Model>(m)); };
        return *this;
    }

    Declaration& control(const char* verb, const char* help, void (*act)(const Model&, State&)) {
        ControlSpec c;
        c.verb = verb;
        c.help = help;
        c.act = [act](const std::byte* m, std::byte* s, double) { act(as<Model>(m), as<State>(s)); };
        kind_.controls.push_back(std::move(c));
        return *this;
    }
    Declaration& control_value(const char* verb, base::Dimension dimension, double low, double high, const char* help,
                               double State::*field) {
        ControlSpec c;
        c.verb = verb;
        c.takes_value = true;
        c.dimension = dimension;
        c.low = low;
        c.high = high;
        c.help = help;
        c.act = [field](const std::byte*, std::byte* s, double v) { as<State>(s).*field = v; };
        kind_.controls.push_back(std::move(c));
        return *this;
    }
    Declaration& control_position(const char* verb, const char* help, int State::*field) {
        ControlSpec c;
        c.verb = verb;
        c.takes_value = c.takes_position = true;
        c.help = help;
        c.act = [field](const std::byte*, std::byte* s, double v) { as<State>(s).*field = static_cast<int>(v); };
        kind_.controls.push_back(std::move(c));
        return *this;
    }

    Declaration& actual(const char* name, PointType type, base::Dimension dimension, const char* help,
                        double (*read)(const Model&, const State&, const PlantModel&, const PlantState&, int)) {
        kind_.actuals.push_back(
            {name, type, dimension, help,
             [read](const std::byte* m, const std::byte* s, const PlantModel& pm, const PlantState& ps, int device) {
                 return read(as<Model>(m), as<State>(s), pm, ps, device);
             }});
        return *this;
    }
    /// An actual that is a field of the state.
    template <class V>
    Declaration& actual(const char* name, PointType type, base::Dimension dimension, const char* help,
                        V State::*field) {
        kind_.actuals.push_back({name, type, dimension, help,
                                 [field](const std::byte*, const std::byte* s, const PlantModel&, const PlantState&,
                                         int) { return static_cast<double>(as<State>(s).*field); }});
        return *this;
    }

    Declaration& fault(const char* name, const char* help, bool State::*field) {
        FaultSpec f;
        f.name = name;
        f.default_amount = 1.0;
        f.help = help;
        f.set = [field](std::byte* s, double v) { as<State>(s).*field = v != 0.0; };
        f.read = [field](const std::byte* s) { return as<State>(s).*field ? 1.0 : 0.0; };
        kind_.faults.push_back(std::move(f));
        return *this;
    }
    Declaration& fault_amount(const char* name, base::Dimension dimension, double default_amount, const char* help,
                              double State::*field) {
        FaultSpec f;
        f.name = name;
        f.takes_amount = true;
        f.dimension = dimension;
        f.default_amount = default_amount;
        f.help = help;
        f.set = [field](std::byte* s, double v) { as<State>(s).*field = v; };
        f.read = [field](const std::byte* s) { return as<State>(s).*field; };
        kind_.faults.push_back(std::move(f));
        return *this;
    }

  private:
    ParameterSpec& parameter(const char* name, ParameterType type, const char* default_text, const char* help,
                             std::function<void(std::byte*, const ParameterValue&)> store) {
        ParameterSpec p;
        p.name = name;
        p.type = type;
        p.default_text = default_text;
        p.required = p.default_text.empty();
        p.help = help;
        p.store = std::move(store);
        kind_.parameters.push_back(std::move(p));
        return kind_.parameters.back();
    }
    Declaration& point(const char* name, PointDirection direction, PointType type, base::Dimension dimension,
                       const char* help) {
        kind_.points.push_back({name, direction, type, dimension, help, {}, {}});
        return *this;
    }

    Kind& kind_;
};

template <class K>
Kind make_kind() {
    using Model = typename K::Model;
    using State = typename K::State;
    Kind kind;
    kind.model_size = sizeof(Model);
    kind.state_size = sizeof(State);
    kind.make_model = [](std::byte* at) { new (at) Model(); };
    kind.make_state = [](std::byte* at) { new (at) State(); };
    Declaration<K> declaration(kind);
    K::declare(declaration);
    if constexpr (requires(const Model& m) { K::check(m); }) {
        kind.check = [](const std::byte* m) { return K::check(as<Model>(m)); };
    }
    if constexpr (requires(Placing & p, Model & m, State & s) { K::place(p, m, s); }) {
        kind.place = [](Placing& p, std::byte* m, std::byte* s) { K::place(p, as<Model>(m), as<State>(s)); };
    }
    if constexpr (requires(const Model& m, State& s, Step& step) { K::actuate(m, s, step); }) {
        kind.actuate = [](const std::byte* m, std::byte* s, Step& step) {
            K::actuate(as<Model>(m), as<State>(s), step);
        };
    }
    if constexpr (requires(const Model& m, State& s, Step& step) { K::sense(m, s, step); }) {
        kind.sense = [](const std::byte* m, std::byte* s, Step& step) { K::sense(as<Model>(m), as<State>(s), step); };
    }
    return kind;
}

/// All kinds, in the order of the reference page.
const std::vector<Kind>& all_kinds();
const Kind* find_kind(std::string_view name);

}  // namespace vyard::plant
