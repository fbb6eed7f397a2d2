// What a picture of the plant is drawn from, whatever draws it: the plan on a page, the schematic in a terminal. A
// Scene says what stands where and holds for a whole run; a Frame says how it is at one instant. Both are plain values
// in metres; a kind declares the shapes of its devices in its own file (Drawing).
#pragma once

#include <string>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::figures {

struct SceneDevice {
    std::string name, kind, family;
    plant::Layer layer = plant::Layer::Carrier;
    plant::Tile tile = plant::Tile::Box;
    bool in_plan = false;
    bool covers = false;                           ///< It takes up its area: labels keep off it.
    int from = plant::kNone, into = plant::kNone;  ///< Of a pipe: between which devices.
    bool placed = false;                           ///< In the plan by `place` alone: a pipe goes by way of it.
    plant::Vector2 at{};                           ///< Of one that is placed.

    bool pipe() const { return (!in_plan || placed) && (from != plant::kNone || into != plant::kNone); }
    /// Shown as a tile: it has no place in the plan and is no pipe in it.
    bool tiled() const { return !in_plan && !pipe(); }
};

struct Scene {
    std::string name;
    std::vector<SceneDevice> devices;  ///< By number.
    std::vector<std::string> colours;  ///< The plant's.
    plant::Rectangle bounds{0, 0, 1, 1};
};

/// A shape that a device is made of. Which fields count depends on its form.
struct Shape {
    enum class Form : std::uint8_t {
        Box,        ///< points: the corners.
        Disc,       ///< points: the centre; size: radius in metres.
        Line,       ///< points: both ends.
        Path,       ///< points.
        Polygon,    ///< points, filled.
        Mark,       ///< points: its place; size in points.
        Number,     ///< size: the value, in the middle of its device.
        LevelBar,   ///< size: share, 0 to 1.
        LevelArea,  ///< size: share, 0 to 1.
        LevelMark,  ///< size: share, 0 to 1; on_device; text.
        Label,      ///< points: its place; text, side, size: points away.
        KeepClear,  ///< points: both ends; size: width in points.
    };
    Form form = Form::Box;
    int device = 0;
    std::vector<plant::Vector2> points;
    double size = 0.0;
    plant::Fill fill;
    plant::Line line;
    plant::Mark mark = plant::Mark::Dot;
    plant::Side side = plant::Side::Above;
    std::string text;
    int on_device = 0;
};

struct FrameItem {
    plant::OrientedBox form;
    int colour = 0;
    bool held = false, on_floor = false;
    int stacked = 1;    ///< It and those below it.
    std::string label;  ///< What a reader would read off it.
};

struct FrameDevice {
    plant::OrientedBox area;  ///< Of one in the plan, now: lifts and turntables move.
    bool fault = false;
    bool on = false;                                  ///< Of a tile: pressed, lit, running. Of a pipe: it flows.
    std::vector<std::pair<plant::Tone, bool>> lamps;  ///< Of a tile: lit or dark.
    std::string reading;  ///< Of a tile or a pipe: what it shows, "1.20 bar", "open", "manual".
};

struct Frame {
    base::Nanoseconds at{};
    std::vector<FrameDevice> devices;  ///< By number.
    std::vector<Shape> below, above;   ///< What lies under and over pipes and items, from the floor up.
    std::vector<FrameItem> items;      ///< From the floor up.
    std::vector<std::string> faults, forces;
    std::vector<std::string> mishaps;  ///< That go on, or have just happened.
};

Scene scene_of(const session::SessionModel& model);
/// Cost: the devices' shapes, plus the items.
Frame frame_of(const session::Session& session);

}  // namespace vyard::figures
