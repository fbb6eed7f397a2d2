// How a device kind declares itself, once.
//
// A kind is a struct K in one file of kinds/ with
//   struct Model { ... };   // parameters, filled at building, never written after; trivially copyable
//   struct State { ... };   // what a run changes; trivially copyable
//   static void declare(Declaration<K>& kind);
//   static std::string check(const Model&);                    // optional: what is wrong with parameters together
//   static std::string doubt(const Model&, const PlantModel&); // optional: what is hardly meant, once all is built
//   static void place(Placing& at, Model&, State&);           // optional: surfaces, solids, first values
//   static void actuate(const Model&, State&, Step&);          // optional: outputs reach the device
//   static void sense(const Model&, State&, Step&);            // optional: the device fills its inputs
//   static std::uint32_t held(const State&);                   // optional: the id of the item in its grip
//   static void draw(Drawing&);                                // optional: how it looks in the plan, see drawing.hpp
//   static void draw_on_other(Drawing&);                       // optional: its mark on another device in the plan
//   static Face face(const Model&, const State&);              // optional: what its tile shows
#pragma once

#include <functional>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

#include "core/plant/step.hpp"

namespace vyard::plant {

template <class K>
class Declaration {
  public:
    using Model = typename K::Model;
    using State = typename K::State;
    static_assert(std::is_trivially_copyable_v<Model> && std::is_trivially_copyable_v<State>);

    explicit Declaration(Kind& kind) : kind_(kind) {}

    Declaration& names(const char* name, const char* family, Placement placement, const char* summary) {
        kind_.name = name;
        kind_.family = family;
        kind_.placement = placement;
        kind_.carries = placement == Placement::Surface;
        kind_.summary = summary;
        return *this;
    }

    Declaration& carries() {
        kind_.carries = true;
        return *this;
    }
    /// Of a surface that items only pass into.
    Declaration& carries_nothing() {
        kind_.carries = false;
        return *this;
    }
    Declaration& drawn(Layer layer) {
        kind_.layer = layer;
        return *this;
    }
    Declaration& tile(Tile tile) {
        kind_.tile = tile;
        return *this;
    }
    Declaration& from_corner() {
        kind_.from_corner = true;
        return *this;
    }
    /// Of a mounted one: without `on`, `at` is its place in the plan.
    Declaration& stands_free() {
        kind_.stands_free = true;
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
    /// It has a plate that pushes items.
    Declaration& pushes() {
        kind_.pushes = true;
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

    /// Says of the last point, an input, that it is a contact, and how it is wired.
    Declaration& wired(Contact Model::*field) {
        kind_.points.back().contact = [field](const std::byte* m) { return as<Model>(m).*field; };
        return *this;
    }
    Declaration& wired(Contact always) {
        kind_.points.back().contact = [always](const std::byte*) { return always; };
        return *this;
    }

    /// Adds the parameter "signal" of a transmitter, and gives it to the last point.
    Declaration& electrical(WireSignal Model::*field) {
        choice("signal", field, {"as the card", "4..20 mA", "0..20 mA", "0..10 V"}, "as the card",
               "what it sends over its wire; a module set to something else reads wrong values");
        kind_.points.back().wire_signal = [field](const std::byte* m) { return as<Model>(m).*field; };
        return *this;
    }

    /// Gives the last point the range of its signal.
    Declaration& spans(std::pair<double, double> (*range)(const Model&)) {
        kind_.points.back().range = [range](const std::byte* m) { return range(as<Model>(m)); };
        return *this;
    }

    /// Says of the last point, an output, what the device takes of it; it cuts off what is beyond.
    Declaration& takes(std::pair<double, double> (*range)(const Model&)) {
        kind_.points.back().takes = [range](const std::byte* m) { return range(as<Model>(m)); };
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

    /// The actual "moving", which all have that can move, or move something.
    Declaration& moves(const char* help, bool State::*field) {
        kind_.moving = static_cast<int>(kind_.actuals.size());
        return actual("moving", PointType::Boolean, base::Dimension::Plain, help, field);
    }
    Declaration& moves(const char* help,
                       double (*read)(const Model&, const State&, const PlantModel&, const PlantState&, int)) {
        kind_.moving = static_cast<int>(kind_.actuals.size());
        return actual("moving", PointType::Boolean, base::Dimension::Plain, help, read);
    }
    Declaration& moves_by_drive() {
        return moves("it turns",
                     [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                         return std::abs(drive_ratio_of(plant, state, device)) > 1e-9 ? 1.0 : 0.0;
                     });
    }
    Declaration& moves_by_surface() {
        return moves("its surface moves",
                     [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                         return surface_moves(plant, state, device) ? 1.0 : 0.0;
                     });
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
    Declaration& fault_amount(const char* name, base::Dimension dimension, double default_amount, double low,
                              double high, const char* help, double State::*field) {
        FaultSpec f;
        f.name = name;
        f.takes_amount = true;
        f.dimension = dimension;
        f.default_amount = default_amount;
        f.low = low;
        f.high = high;
        f.help = help;
        f.set = [field](std::byte* s, double v) { as<State>(s).*field = v; };
        f.read = [field](const std::byte* s) { return as<State>(s).*field; };
        kind_.faults.push_back(std::move(f));
        return *this;
    }

    /// In the order of the numbers K uses in Step::mishap. `help` says what happens, as of "it".
    Declaration& mishap(const char* name, const char* help) {
        kind_.mishaps.push_back({name, help});
        return *this;
    }
    /// Two of its points, by their numbers, that must never be TRUE at once.
    Declaration& opposite(int one, int other) {
        kind_.opposites.emplace_back(one, other);
        return *this;
    }

  private:
    ParameterSpec& parameter(const char* name, ParameterType type, const char* default_text, const char* help,
                             std::function<void(std::byte*, const ParameterValue&)> store) {
        ParameterSpec p;
        p.name = std::string(name);
        p.type = type;
        p.default_text = std::string(default_text);
        p.required = p.default_text.empty();
        p.help = help;
        p.store = std::move(store);
        kind_.parameters.push_back(std::move(p));
        return kind_.parameters.back();
    }
    Declaration& point(const char* name, PointDirection direction, PointType type, base::Dimension dimension,
                       const char* help) {
        kind_.points.push_back({name, direction, type, dimension, help, {}, {}, {}, {}, {}});
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
    add_shared_mishaps(kind);
    if constexpr (requires(Drawing & d) { K::draw(d); }) {
        kind.draw = [](Drawing& d) { K::draw(d); };
    }
    if constexpr (requires(Drawing & d) { K::draw_on_other(d); }) {
        kind.draw_on_other = [](Drawing& d) { K::draw_on_other(d); };
    }
    if constexpr (requires(const Model& m, const State& s) { K::face(m, s); }) {
        kind.face = [](const std::byte* m, const std::byte* s) { return K::face(as<Model>(m), as<State>(s)); };
    }
    if constexpr (requires(const State& s) { K::held(s); }) {
        kind.held = [](const std::byte* s) { return K::held(as<State>(s)); };
    }
    if constexpr (requires(const Model& m) { K::check(m); }) {
        kind.check = [](const std::byte* m) { return K::check(as<Model>(m)); };
    }
    if constexpr (requires(const Model& m, const PlantModel& p) { K::doubt(m, p); }) {
        kind.doubt = [](const std::byte* m, const PlantModel& plant) { return K::doubt(as<Model>(m), plant); };
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

}  // namespace vyard::plant
