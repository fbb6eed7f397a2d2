#include "core/procedure/checkout.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace vyard::procedure {

namespace {

using plant::PointType;
using wiring::Join;

constexpr double kSteps[] = {0.0, 0.25, 0.5, 0.75, 1.0};

class Checkout {
  public:
    Checkout(session::SessionModelPtr model, FarEnd* far)
        : model_(std::move(model)),
          far_(far),
          rest_(settled(model_)),
          trials_(rest_),
          swapped_(wiring::likely_swapped(model_->controllers, *model_->plant, model_->wiring)) {}

    CheckoutLine untried(const Join& join, bool input) {
        join_ = &join;
        const plant::PointModel& p = point();
        const plant::DeviceModel& d = model_->plant->device(p.device);
        CheckoutLine line;
        line.tag = view().tag_name();
        line.address = view().tag().address.area == logic::Area::None ? "" : view().tag().address.text();
        line.point = p.name;
        line.device = d.name;
        line.kind = d.kind->name;
        line.scaling = join.scaling_text;
        line.input = input;
        return line;
    }

    void try_out(const Join& join, CheckoutLine& line) {
        join_ = &join;
        if (point().type == PointType::Text) {
            line.remark = "a string: try it by hand";
            return;
        }
        if (remote() && far_ == nullptr) {
            line.remark = "its controller is executed elsewhere, and is not connected";
            return;
        }
        for (const double value : values(line.input)) {
            line.probes.push_back(line.input ? from_plant(value) : from_tag(value));
            if (!unknown_.empty()) {
                line.probes.clear();
                line.remark = std::exchange(unknown_, {});
                return;
            }
        }
        Doubts doubts;
        const bool all = std::all_of(line.probes.begin(), line.probes.end(), [](const Probe& r) { return r.met; });
        if (!all) doubts.against.push_back(likely_cause(line));
        doubt_range(view(), line.input, doubts);
        doubt_contact(view(), line.input, doubts);
        doubt_names(view(), doubts);
        doubt_pairs(doubts);
        if (line.input)
            line.moved = by_hand();
        else
            move(line, doubts);
        line.verdict = doubts.against.empty() ? CheckoutVerdict::Passed : CheckoutVerdict::Failed;
        doubts.against.insert(doubts.against.end(), doubts.notes.begin(), doubts.notes.end());
        line.remark = fmt::format("{}", fmt::join(doubts.against, "; "));
    }

  private:
    static session::Session settled(const session::SessionModelPtr& model) {
        session::Session session(model);
        session::settle(session);
        return session;
    }

    bool remote() const { return base::at(model_->controllers, join_->controller).remote(); }
    JoinView view() const { return {*model_, *join_}; }
    const plant::PointModel& point() const { return base::at(model_->plant->points, join_->point); }

    /// What to put on the end that is moved, in its own unit.
    std::vector<double> values(bool input) const {
        if (point().type == PointType::Boolean) return {0.0, 1.0, 0.0};
        double low = 0.0, high = 100.0;
        const wiring::Scaling& s = join_->scaling;
        if (input && point().low != point().high) {
            low = point().low;
            high = point().high;
        } else if (s.linear) {
            low = input ? s.point_low : s.tag_low;
            high = input ? s.point_high : s.tag_high;
        } else if (!input && point().takes_low < point().takes_high) {
            low = point().takes_low;
            high = point().takes_high;
        }
        std::vector<double> out;
        for (const double share : kSteps) {
            const double value = low + share * (high - low);
            const bool whole = point().type == PointType::Number || (!input && !logic::is_real(join_->type));
            out.push_back(whole ? std::nearbyint(value) : value);
        }
        return out;
    }

    /// What the map promises at the other end: a line through the ends of both ranges, or the value itself.
    double promised(double value, bool input) const {
        const wiring::Scaling& s = join_->scaling;
        if (point().type == PointType::Boolean) return s.invert ? 1.0 - value : value;
        if (!s.linear) return value;
        const bool falling = s.gain < 0.0;
        const double at_low = falling ? s.tag_high : s.tag_low, at_high = falling ? s.tag_low : s.tag_high;
        if (input) {
            const double share = (value - s.point_low) / (s.point_high - s.point_low);
            const double out = at_low + share * (at_high - at_low);
            return logic::is_real(join_->type) ? out : std::nearbyint(out);
        }
        return s.point_low + (value - at_low) / (at_high - at_low) * (s.point_high - s.point_low);
    }

    void scan(session::Session& session) const {
        const base::Nanoseconds scan = base::at(model_->controllers, join_->controller).scan;
        base::Nanoseconds end = session.now() + 2 * scan;
        if (const wiring::Module* m = module()) end += m->filter + m->delay + m->update;
        while (session.now() < end) session.step();
    }

    const wiring::Module* module() const {
        if (join_->channel < 0) return nullptr;
        const wiring::Channel& channel = base::at(model_->wiring.channels, join_->channel);
        return &base::at(model_->wiring.modules, channel.module);
    }
    /// What the steps of a converter may take away, at the end that is watched.
    double coarseness(bool input) const {
        const wiring::Module* m = module();
        if (m == nullptr || !m->analog()) return 0.0;
        const double counts = std::abs(m->range.quantum()) / 2.0 + 0.5;
        return input ? counts : counts / std::abs(join_->scaling.gain);
    }

    /// What somebody at the far end told.
    Probe probe(std::string given, std::string expected, Told told) {
        unknown_ = std::move(told.unknown);
        return {std::move(given), std::move(expected), std::move(told.seen), told.met};
    }

    Probe from_plant(double value) {
        if (remote()) {
            const std::string given = view().plant_text(value), expected = tag_text(promised(value, true));
            const auto right = [&](double seen) { return near(seen, promised(value, true), coarseness(true)); };
            return probe(given, expected, far_->input(view(), value, given, expected, right));
        }
        session::Session session = rest_;
        session.set_point_fault(join_->point, plant::Defect::Stuck, value);
        scan(session);
        const double expected = promised(value, true), seen = held(session);
        // Bytes that are meant to come swapped are compared as they were; the tag holds what it holds.
        const double meant = swaps() ? wiring::tag_value(*join_, memory(session)) : seen;
        return {view().plant_text(value), tag_text(logic::number_of(in_order(expected))), tag_text(seen),
                near(meant, expected, coarseness(true))};
    }

    const std::byte* memory(const session::Session& session) const {
        return session.controller(join_->controller).memory.data();
    }
    /// What the logic will read: bytes that come swapped are in the tag swapped.
    double held(const session::Session& session) const {
        Join as_it_lies = *join_;
        as_it_lies.order = {};
        return wiring::tag_value(as_it_lies, memory(session));
    }
    /// Its bytes are in another order, and people state that.
    bool swaps() const { return !join_->order.plain() && wiring::states_swapping(view().statement()); }

    std::string tag_text(double value) const { return logic::value_text(logic::value_of(join_->type, value)); }

    /// Of a number in the tag: with its bytes in the order of the join where that is meant, which people state.
    logic::Value in_order(double number) const {
        logic::Value value = logic::value_of(join_->type, number);
        if (!swaps()) return value;
        std::array<std::byte, 8> bytes{};
        logic::write_value(bytes.data(), value, 0, -1);
        value.bits = static_cast<decltype(value.bits)>(wiring::reordered(join_->order, join_->type, bytes));
        return value;
    }

    void force(session::Session& session, const logic::Value& value) const {
        session.enter_force(join_->controller,
                            {view().tag_name(), {join_->variable, join_->type, join_->offset, join_->bit}, value});
        session.switch_forces(true);
    }

    /// Forced where the join takes it from: the whole tag, a bit of it.
    Probe from_tag(double value) {
        if (remote()) {
            const std::string given = tag_text(value), expected = view().plant_text(promised(value, false));
            return probe(given, expected,
                         far_->output(
                             view(), given, [&](double tag) { return near(tag, value, 0.0); },
                             [&](double seen) { return near(seen, promised(value, false), coarseness(false)); }));
        }
        session::Session session = rest_;
        force(session, in_order(value));
        scan(session);
        const double seen = session.plant().shown(join_->point);
        const double expected = promised(value, false);
        return {tag_text(value), view().plant_text(expected), view().plant_text(seen),
                near(seen, expected, coarseness(false))};
    }

    /// Equal but for the rounding of REAL, and `coarse`.
    static bool near(double a, double b, double coarse) {
        return std::abs(a - b) <= coarse + 1e-6 * std::max({1.0, std::abs(a), std::abs(b)});
    }

    std::string likely_cause(const CheckoutLine& line) const {
        if (remote()) return far_cause(line);
        if (!base::at(model_->controllers, join_->controller).program->initial_memory.empty() &&
            !rest_.controller(join_->controller).running)
            return "the controller is stopped";
        if (line.input && view().tag().written) return "the logic writes this tag itself";
        if (!join_->order.plain() && !swaps())
            return "its bytes come in another order than the tag has them; if the logic puts them right, say 'swapped' "
                   "in the note";
        const bool turned = point().type == PointType::Boolean &&
                            std::all_of(line.probes.begin(), line.probes.end(), [](const Probe& p) { return !p.met; });
        if (turned) return "it reads the other way round at every step";
        return "another tag may lie on the same bits";
    }

    /// The wire ends in a register there.
    std::string far_cause(const CheckoutLine& line) const {
        const auto& link = *base::at(model_->controllers, join_->controller).link;
        const auto entry = std::find_if(link.registers.begin(), link.registers.end(),
                                        [&](const auto& r) { return r.variable == join_->variable; });
        const std::string place = entry == link.registers.end() ? "its register" : wiring::register_text(entry->place);
        return line.input
                   ? fmt::format("is {} what the controller reads for it, in that order of words and bytes?", place)
                   : fmt::format("is {} what the controller writes it to, in that order of words and bytes?", place);
    }

    void doubt_pairs(Doubts& doubts) const {
        for (const auto& [a, b] : swapped_) {
            if (a == join_ || b == join_)
                doubts.against.push_back(fmt::format("by their names '{}' and '{}' are crossed",
                                                     JoinView{*model_, *a}.tag_name(),
                                                     JoinView{*model_, *b}.tag_name()));
        }
    }

    /// What the tag reads when a hand works the device.
    std::string by_hand() const {
        const int device = point().device;
        for (const plant::ControlSpec& control : model_->plant->device(device).kind->controls) {
            session::Session session = rest_;
            scan(session);
            const double before = held(session);
            const auto& positions = model_->plant->device(device).positions;
            const std::size_t ways = control.takes_position ? positions.size() : 1;
            for (std::size_t way = 0; way < ways; ++way) {
                session.use_control(device, control, control.takes_position ? static_cast<double>(way) : control.high);
                scan(session);
                if (held(session) == before) continue;
                const std::string to = control.takes_position ? " " + positions[way]
                                       : control.takes_value  ? " to its end"
                                                              : "";
                return fmt::format("{}{}: {}", control.verb, to, tag_text(held(session)));
            }
        }
        return {};
    }

    /// What the device does with an output: from what it is at rest to the other end.
    void move(CheckoutLine& line, Doubts& doubts) {
        const double rest = rest_.plant().shown(join_->point);
        const std::vector<double> all = values(false);
        const bool boolean = point().type == PointType::Boolean;
        double to = boolean ? 1.0 : all.back();
        if (boolean && promised(to, false) == rest) to = 0.0;
        if (!boolean && std::abs(promised(to, false) - rest) < std::abs(promised(all.front(), false) - rest))
            to = all.front();
        const bool on = to != 0.0;
        const Movement movement =
            trials_.moved(join_->point, [&](session::Session& session) { force(session, in_order(to)); });
        line.moved = text_of(movement);
        const plant::Kind& kind = *model_->plant->device(point().device).kind;
        const bool shows = !kind.actuals.empty() ||
                           std::any_of(kind.points.begin(), kind.points.end(),
                                       [](const auto& p) { return p.direction == plant::PointDirection::Input; });
        if (!movement.any() && shows) doubts.notes.emplace_back("nothing moved");
        if (boolean) doubt_movement(view(), movement, on, doubts);
    }

    std::string text_of(const Movement& movement) const {
        constexpr std::size_t kMostNamed = 4;
        std::vector<std::string> parts = movement.actuals;
        for (const Change& c : movement.inputs) {
            const plant::PointModel& p = base::at(model_->plant->points, c.point);
            std::string name = p.name;
            for (const Join& j : model_->wiring.inputs) {
                if (j.point == c.point) name = JoinView{*model_, j}.tag_name();
            }
            const double after_s = static_cast<double>(c.after.count()) / 1e9;
            const bool boolean = p.type == PointType::Boolean;
            parts.push_back(boolean ? fmt::format("{} {} after {:.2f} s", name, c.to != 0.0 ? "TRUE" : "FALSE", after_s)
                                    : fmt::format("{} {}", p.name, point_text(*model_, c.point, c.to)));
        }
        if (parts.size() > kMostNamed) {
            const std::size_t more = parts.size() - kMostNamed;
            parts.resize(kMostNamed);
            parts.push_back(fmt::format("and {} more", more));
        }
        return fmt::format("{}", fmt::join(parts, ", "));
    }

    session::SessionModelPtr model_;
    FarEnd* far_;
    std::string unknown_;  ///< Why nobody could tell of the last value.
    session::Session rest_;
    Trials trials_;
    std::vector<std::pair<const Join*, const Join*>> swapped_;
    const Join* join_ = nullptr;
};

}  // namespace

std::vector<CheckoutLine> check_out(const session::SessionModelPtr& model,
                                    const std::function<bool(const CheckoutLine&)>& wanted, FarEnd* far) {
    Checkout checkout(model, far);
    std::vector<CheckoutLine> lines;
    for (const bool input : {true, false}) {
        for (const Join& join : input ? model->wiring.inputs : model->wiring.outputs) {
            CheckoutLine line = checkout.untried(join, input);
            if (!wanted || wanted(line)) checkout.try_out(join, line);
            lines.push_back(std::move(line));
        }
    }
    return lines;
}

const char* verdict_word(CheckoutVerdict verdict) {
    switch (verdict) {
        case CheckoutVerdict::Passed: return "passed";
        case CheckoutVerdict::Failed: return "failed";
        case CheckoutVerdict::NotTried: break;
    }
    return "not tried";
}

}  // namespace vyard::procedure
