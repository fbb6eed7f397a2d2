// What a kind of device is: what it declared about itself (parameters, points, hand controls, actuals, faults), and how
// to call it. declaration.hpp says how a kind declares, step.hpp what it gets to work with. File reading, range checks,
// help, the map, faults and drawings all follow from this.
#pragma once

#include <cstddef>
#include <functional>
#include <memory>
#include <string>
#include <variant>
#include <vector>

#include "core/plant/model.hpp"

namespace vyard::plant {

struct Placing;
struct Step;

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
    std::function<std::pair<double, double>(const std::byte* model)> takes;  ///< Of an output: what is not cut off.
    std::function<Contact(const std::byte* model)> contact;                  ///< Of a wired contact; else empty.
    std::function<WireSignal(const std::byte* model)> wire_signal;           ///< Of a transmitter; else empty.
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
    double low = 0.0, high = 0.0;  ///< Of an amount, SI.
    std::string help;
    std::function<void(std::byte* state, double amount)> set;  ///< 0 heals.
    std::function<double(const std::byte* state)> read;        ///< 0 when healthy.
};

/// What can happen to a device, or by it, that no machine should do; see mishaps.hpp.
struct MishapSpec {
    std::string name;
    std::string help;
};

/// How a device finds its place.
enum class Placement : std::uint8_t {
    Panel,    ///< Nowhere in the plan.
    Surface,  ///< `at` [x, y], or `after`/`beside` another surface.
    Mounted,  ///< `on` a surface, `at` a distance along it.
    Plan,     ///< `at` [x, y].
};

/// What lies over what, when a plan is drawn. Pipes and items come behind Inset.
enum class Layer : std::uint8_t { Floor, Carrier, Inset, Actor, Sensor, Overhead };

/// How a device without a place in the plan is shown, in a tile; a Valve and a Pump also in their pipes.
enum class Tile : std::uint8_t { Box, Knob, Light, Signal, Motor, Valve, Pump };

class Drawing;
enum class Tone : std::uint8_t;

/// What a device without shapes of its own shows in its tile: a text, and its lamps, lit or dark.
struct Face {
    std::string text;
    std::vector<std::pair<Tone, bool>> lamps;
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
    Layer layer = Layer::Carrier;
    Tile tile = Tile::Box;
    bool stands_free = false;  ///< Of a mounted one: it may stand in the plan too.
    bool from_corner = false;  ///< Of one in the plan: its area begins at its place, instead of lying around it.
    void (*draw)(Drawing&) = nullptr;  ///< Shows a device in the plan; null for none that has a place there.
    /// What its tile shows; null for its first actual, or its first point.
    Face (*face)(const std::byte* model, const std::byte* state) = nullptr;
    /// What it shows on another device in the plan, such as its mark on a tank; null for nothing.
    void (*draw_on_other)(Drawing&) = nullptr;
    bool carries = false;  ///< Items can lie on it.
    /// What other devices can see of it: how far it is out, how fast it turns, its liquid, its pressure.
    bool extends = false, drives = false, holds_liquid = false, gives_air = false;
    bool pushes = false;  ///< It has a plate that pushes items.
    std::vector<ParameterSpec> parameters;
    std::vector<PointSpec> points;
    std::vector<ControlSpec> controls;
    std::vector<ActualSpec> actuals;
    std::vector<FaultSpec> faults;
    std::vector<MishapSpec> mishaps;
    std::vector<std::pair<int, int>> opposites;  ///< Points that must never be TRUE at once: both coils, both ways.
    int moving = kNone;  ///< Number of the actual that says whether it moves; kNone of what never does.
    /// Numbers of those that several kinds have; kNone in a kind that has them not.
    int item_fell = kNone, item_squeezed = kNone, cut_off = kNone, beyond_range = kNone;
    std::size_t model_size = 0, state_size = 0;
    void (*make_model)(std::byte*) = nullptr;
    void (*make_state)(std::byte*) = nullptr;
    std::uint32_t (*held)(const std::byte* state) =
        nullptr;  ///< The id of the item that it carries in the air; 0 for none.
    std::string (*check)(const std::byte* model) = nullptr;
    /// What of a device in its plant is hardly meant: that it can never see what it looks for; "" for nothing.
    std::string (*doubt)(const std::byte* model, const PlantModel&) = nullptr;
    void (*place)(Placing&, std::byte* model, std::byte* state) = nullptr;
    void (*actuate)(const std::byte* model, std::byte* state, Step&) = nullptr;
    void (*sense)(const std::byte* model, std::byte* state, Step&) = nullptr;
    std::shared_ptr<const OwnKind> own;  ///< Of a kind whose behaviour is a function block.
    std::vector<ParameterWire> parameter_wires;

    const ControlSpec* find_control(std::string_view verb) const;
    const FaultSpec* find_fault(std::string_view name) const;
    /// Of a point that is a wired contact: how it is wired where the file does not say.
    std::optional<Contact> usual_contact(int point) const;
};

/// The model or state of a device as its kind has it.
template <class T>
const T& as(const std::byte* bytes) {
    return *reinterpret_cast<const T*>(bytes);
}
template <class T>
T& as(std::byte* bytes) {
    return *reinterpret_cast<T*>(bytes);
}

/// Whether a device moves now, or moves something; FALSE of what never does.
bool moves(const PlantModel& model, const PlantState& state, int device);

/// All kinds, in the order of the reference page.
const std::vector<Kind>& all_kinds();
const Kind* find_kind(std::string_view name);

}  // namespace vyard::plant
