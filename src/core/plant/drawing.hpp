// How a kind shows its devices in the plan: shapes in metres, on whatever a front draws with. A kind's draw() stands in
// its own file; it says what is there and how it is, and a front decides what that looks like.
#pragma once

#include <string>
#include <vector>

#include "core/plant/kind.hpp"

namespace vyard::plant {

/// What a colour means.
enum class Tone : std::uint8_t {
    None,
    Paper,   ///< Empty, at rest.
    Mist,    ///< A body.
    Faint,   ///< Of little weight.
    Ink,     ///< Outlines.
    Runs,    ///< Moves, is driven.
    Active,  ///< Seen, on.
    Out,     ///< Raised, out, in the way.
    Light,   ///< Lit.
    Water,
    Sky,
    Bulk,
    Travel,  ///< Where something can go.
};
struct Fill {
    Tone tone = Tone::Paper;
    double strength = 1.0;  ///< 0 to 1.
    int colour = kNone;     ///< One of the plant's, in place of the tone.
};
struct Line {
    Tone tone = Tone::Ink;
    double width = 1.0;  ///< In points.
    bool dashed = false;
    double strength = 1.0;
};
/// Small shapes of one size whatever the scale.
enum class Mark : std::uint8_t { Dot, Square, Diamond, Arrow, Cross };
enum class Side : std::uint8_t { Above, Below, Left, Right };

/// One device while it is drawn.
class Drawing {
  public:
    Drawing(const PlantModel& model, const PlantState& state) : model(model), state(state) {}
    virtual ~Drawing() = default;
    Drawing(const Drawing&) = delete;
    Drawing& operator=(const Drawing&) = delete;

    const PlantModel& model;
    const PlantState& state;
    const DeviceModel* device = nullptr;
    int index = 0;

    /// Where it is now: lifts and turntables move.
    Pose pose() const;
    /// What it covers now.
    OrientedBox area() const;
    /// The device's own model and state.
    template <class M>
    const M& model_as() const {
        return as<M>(model_bytes());
    }
    template <class S>
    const S& state_as() const {
        return as<S>(state_bytes());
    }
    /// One of its kind's actuals; 0 when it has none of that name.
    double actual(std::string_view name) const;
    const std::string& name() const { return device->name; }

    virtual void box(const OrientedBox& area, Fill fill, Line line) = 0;
    virtual void disc(Vector2 centre, double radius_m, Fill fill, Line line) = 0;
    virtual void line(Vector2 from, Vector2 to, Line line) = 0;
    virtual void path(const std::vector<Vector2>& points, Line line) = 0;
    virtual void polygon(const std::vector<Vector2>& points, Fill fill) = 0;
    virtual void mark(Mark mark, Vector2 at, double size, Fill fill, Line line) = 0;
    /// A number in the middle of its area, large.
    virtual void number(double value) = 0;
    /// How full it is, as a bar at its side, or as its whole area.
    virtual void level_bar(double share) = 0;
    virtual void level_area(double share, Fill fill) = 0;
    /// A tick on the level bar of another device, at a share of its height, with its name.
    virtual void level_mark(int on_device, double share, bool on) = 0;
    /// Beside a place, so many points `away` from it, where the other labels leave room. A faulty device's says so.
    virtual void label(Vector2 at, std::string text, Side side, double away) = 0;
    void label(Vector2 at, std::string text, Side side) { label(at, std::move(text), side, 0.0); }
    /// Nothing is written over these shapes.
    virtual void keep_clear(Vector2 from, Vector2 to, double width) = 0;

    /// Of a surface: under its middle, or to its right when it leads up or down.
    void surface_label(std::string text);
    /// Surfaces of rollers one behind the other, each as it runs.
    void rollers();
    /// The direction that a surface carries in.
    void chevrons(Line line);

  private:
    const std::byte* model_bytes() const;
    const std::byte* state_bytes() const;
};

}  // namespace vyard::plant
