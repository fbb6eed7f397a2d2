#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class EyeType : int { ThroughBeam = 0, Retro = 1, Diffuse = 2 };

// A through-beam or reflected beam is broken by what stands in it; a diffuse eye sees what comes within its range from
// its own side.
struct PhotoEye {
    enum class SwitchesOn : int { Item = 0, Light = 1, Dark = 2 };
    struct Model {
        double height_m = 0.03, range_m = 0.3, span_m = 0.4;
        EyeType type = EyeType::ThroughBeam;
        SwitchesOn switching = SwitchesOn::Item;
        Contact contact = Contact::NormallyOpen;
        double half_width_m = 0.2;
        int zone = kNone;
        OrientedBox beam;
    };
    struct State {
        bool blocked = false, misaligned = false, dirty = false;
    };
    enum Points { kSignal };

    static void declare(Declaration<PhotoEye>& kind) {
        kind.names("photoeye", "sensors", Placement::Mounted, "a light beam across a surface that sees items")
            .drawn(Layer::Sensor)
            .stands_free()
            .quantity("height", &Model::height_m, Dimension::Length, "30 mm", 0.0, 5.0,
                      "of the beam above the surface at rest; of one that stands freely, above the floor")
            .quantity("span", &Model::span_m, Dimension::Length, "400 mm", 0.02, 20.0,
                      "of the beam of one that stands freely, across its heading; else the width of its surface")
            .choice("type", &Model::type, {"through-beam", "retro-reflective", "diffuse"}, "through-beam",
                    "how it looks: from side to side, to a mirror and back, or at the item itself")
            .quantity("range", &Model::range_m, Dimension::Length, "300 mm", 0.01, 10.0,
                      "of a diffuse eye, from its side of the surface")
            .choice("switching", &Model::switching, {"item", "light", "dark"}, "item",
                    "the output is on when it sees an item, or when its receiver gets light, or none")
            .contact(&Model::contact, "normally open")
            .input("signal", "TRUE while an item is in the beam (normally open)")
            .wired(&Model::contact)
            .actual("blocked", PointType::Boolean, Dimension::Plain, "it sees an item, whatever the wire says",
                    &State::blocked)
            .fault("misaligned", "its light never comes back: a beam reads as broken, a diffuse eye sees nothing",
                   &State::misaligned)
            .fault("dirty", "a diffuse eye reaches half as far", &State::dirty);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.width_m = at.device.mounted_on == kNone ? model.span_m : at.mounted_device().width_m;
        model.half_width_m = at.device.width_m / 2.0;
        const Pose& pose = at.device.pose;
        model.beam = {pose.origin(), 0.0, model.half_width_m, pose.heading};
        model.zone = at.add_zone(model.beam);
    }

    /// The beam of a diffuse eye starts at its side and ends at its range.
    static OrientedBox diffuse(const Model& model, const State& state, const DeviceModel& device) {
        const double reach_m = std::min(state.dirty ? model.range_m / 2.0 : model.range_m, 2.0 * model.half_width_m);
        const double side = device.on_left ? 1.0 : -1.0;
        return {device.pose.at(0.0, side * (model.half_width_m - reach_m / 2.0)), 0.0, reach_m / 2.0,
                device.pose.heading};
    }

    static void sense(const Model& model, State& state, Step& step) {
        const Pose& pose = step.device->pose;
        const double beam_m = pose.z_m + model.height_m;
        const bool looks_at = model.type == EyeType::Diffuse;
        const OrientedBox beam = looks_at ? diffuse(model, state, *step.device) : model.beam;
        bool sees = false;
        step.each_near(model.zone, [&](const Item& item) {
            const bool near = std::abs(pose.along(item.x_m, item.y_m)) <= step.model.form_of(item).radius_m;
            const bool level = item.z_m <= beam_m && beam_m <= step.model.top_m(item);
            sees = sees || (near && level && overlap(step.model.footprint(item), beam, 0.0));
        });
        state.blocked = state.misaligned ? !looks_at : sees;
        const bool light = state.blocked == looks_at;
        const bool on = model.switching == SwitchesOn::Item    ? state.blocked
                        : model.switching == SwitchesOn::Light ? light
                                                               : !light;
        step.input(kSignal, contact_value(model.contact, on));
    }

    /// On its side, with its reach.
    static void draw_diffuse(Drawing& d, bool blocked) {
        const DeviceModel& v = *d.device;
        const double side = v.on_left ? 1.0 : -1.0;
        const OrientedBox beam = diffuse(d.model_as<Model>(), d.state_as<State>(), v);
        const Vector2 face = v.pose.at(0, side * (v.width_m / 2 + 0.05));
        const double reach_m = 2.0 * beam.half_width_m;
        d.line(face, v.pose.at(0, side * (v.width_m / 2 - reach_m)),
               {blocked ? Tone::Active : Tone::Faint, blocked ? 3.0 : 1.2, !blocked});
        d.keep_clear(face, face, 8);
        d.mark(Mark::Square, face, 5, {blocked ? Tone::Active : Tone::Paper}, {});
        d.label(face, d.name(), v.on_left ? Side::Above : Side::Below);
    }

    static void draw(Drawing& d) {
        const bool blocked = d.actual("blocked") != 0;
        const DeviceModel& v = *d.device;
        const Vector2 near = v.pose.at(0, v.width_m / 2 + 0.05), far = v.pose.at(0, -v.width_m / 2 - 0.05);
        if (d.model_as<Model>().type == EyeType::Diffuse) return draw_diffuse(d, blocked);
        d.line(near, far, {blocked ? Tone::Active : Tone::Faint, blocked ? 3.0 : 1.2, !blocked});
        for (const Vector2& end : {near, far}) {
            d.keep_clear(end, end, 8);
            d.mark(Mark::Dot, end, 4, {blocked ? Tone::Active : Tone::Paper}, {});
        }
        d.label(near, d.name(), Side::Above);
    }
};

}  // namespace

Kind photoeye_kind() {
    return make_kind<PhotoEye>();
}

}  // namespace vyard::plant
