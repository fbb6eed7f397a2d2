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
    explicit Checkout(session::SessionModelPtr model) : model_(std::move(model)), rest_(model_) {}

    CheckoutLine untried(const Join& join, bool input) {
        join_ = &join;
        const plant::PointModel& p = point();
        const plant::DeviceModel& d = model_->plant->device(p.device);
        return {name_of_tag(),
                tag().address.area == logic::Area::None ? "" : tag().address.text(),
                p.name,
                d.name,
                d.kind->name,
                join.scaling_text,
                input,
                {},
                {},
                {}};
    }

    void try_out(const Join& join, CheckoutLine& line) {
        join_ = &join;
        if (point().type == PointType::Text) {
            line.remark = "a text: try it by hand";
            return;
        }
        for (const double value : values(line.input))
            line.probes.push_back(line.input ? from_plant(value) : from_tag(value));
        const bool all = std::all_of(line.probes.begin(), line.probes.end(), [](const Probe& r) { return r.met; });
        line.verdict = all ? CheckoutVerdict::Passed : CheckoutVerdict::Failed;
        if (!all) line.remark = likely_cause(line);
    }

  private:
    const plant::PointModel& point() const { return base::at(model_->plant->points, join_->point); }
    const logic::Variable& tag() const {
        return base::at(base::at(model_->controllers, join_->controller).program->variables, join_->variable);
    }
    std::string name_of_tag() const {
        const std::string part =
            join_->bit >= 0 && tag().bit < 0
                ? fmt::format(".%X{}", (join_->offset - tag().offset) * 8 + static_cast<std::uint32_t>(join_->bit))
                : "";
        if (model_->controllers.size() == 1) return tag().path + part;
        return base::at(model_->controllers, join_->controller).name + "." + tag().path + part;
    }

    /// What to put on the end that is moved, in its own unit.
    std::vector<double> values(bool input) const {
        if (point().type == PointType::Boolean) return {0.0, 1.0, 0.0};
        double low = 0.0, high = 100.0;
        const wiring::Scaling& s = join_->scaling;
        if (s.linear) {
            low = input ? s.point_low : s.tag_low;
            high = input ? s.point_high : s.tag_high;
        } else if (point().low != point().high) {
            low = point().low;
            high = point().high;
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

    Probe from_plant(double value) {
        session::Session session = rest_;
        session.set_point_fault(join_->point, plant::Defect::Stuck, value);
        scan(session);
        const double seen = wiring::tag_value(*join_, session.controller(join_->controller).memory.data());
        const double expected = promised(value, true);
        return {plant_text(value), tag_text(expected), tag_text(seen), near(seen, expected, coarseness(true))};
    }

    std::string tag_text(double value) const { return logic::value_text(logic::value_of(join_->type, value)); }

    /// Forced where the join takes it from: the whole tag, a bit of it, its bytes in the order they are joined in.
    Probe from_tag(double value) {
        session::Session session = rest_;
        controller::Spot spot{join_->variable, join_->type, join_->offset, join_->bit};
        logic::Value given = logic::value_of(join_->type, value);
        if (!join_->order.plain()) {
            std::array<std::byte, 8> bytes{};
            logic::write_value(bytes.data(), given, 0, -1);
            given.bits = static_cast<std::uint64_t>(wiring::reordered(join_->order, join_->type, bytes));
        }
        session.enter_force(join_->controller, {name_of_tag(), spot, given});
        session.switch_forces(true);
        scan(session);
        const double seen = session.plant().shown(join_->point);
        const double expected = promised(value, false);
        return {tag_text(value), plant_text(expected), plant_text(seen), near(seen, expected, coarseness(false))};
    }

    /// Equal but for the rounding of REAL, and `coarse`.
    static bool near(double a, double b, double coarse) {
        return std::abs(a - b) <= coarse + 1e-6 * std::max({1.0, std::abs(a), std::abs(b)});
    }

    std::string plant_text(double value) const {
        if (point().type == PointType::Boolean) return value != 0.0 ? "TRUE" : "FALSE";
        const char* unit = base::display_unit(point().dimension);
        return fmt::format("{:.6g}{}{}", value, *unit == '\0' ? "" : " ", unit);
    }

    std::string likely_cause(const CheckoutLine& line) const {
        if (!base::at(model_->controllers, join_->controller).program->initial_memory.empty() &&
            !rest_.controller(join_->controller).running)
            return "the controller is stopped";
        if (line.input && tag().written) return "the logic writes this tag itself";
        const bool turned = point().type == PointType::Boolean &&
                            std::all_of(line.probes.begin(), line.probes.end(), [](const Probe& p) { return !p.met; });
        if (turned) return "it reads the other way round at every step";
        return "another tag may lie on the same bits";
    }

    session::SessionModelPtr model_;
    session::Session rest_;
    const Join* join_ = nullptr;
};

}  // namespace

std::vector<CheckoutLine> check_out(const session::SessionModelPtr& model,
                                    const std::function<bool(const CheckoutLine&)>& wanted) {
    Checkout checkout(model);
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
