#include "core/campaign/sweep.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace vyard::campaign {

using base::Nanoseconds;

namespace {

constexpr base::Dimension kLast = base::Dimension::Force;  ///< Of all that quantities can have.

/// Of a text with a unit, or Plain without one; null for none.
std::optional<base::Dimension> dimension_of(std::string_view text) {
    for (int d = 0; d <= static_cast<int>(kLast); ++d) {
        const auto dimension = static_cast<base::Dimension>(d);
        if (base::read_quantity(text, dimension).fault == base::QuantityFault::None) return dimension;
    }
    return std::nullopt;
}

std::string_view without_prefix(std::string_view text) {
    const bool time = text.size() > 2 && (text[0] == 'T' || text[0] == 't') && text[1] == '#';
    return time ? text.substr(2) : text;
}

/// T#12ms, exact to the nanosecond.
std::string time_literal(double seconds) {
    const auto ns = static_cast<std::int64_t>(std::llround(seconds * 1e9));
    if (ns % 1'000'000 == 0) return fmt::format("T#{}ms", ns / 1'000'000);
    return ns % 1000 == 0 ? fmt::format("T#{}us", ns / 1000) : fmt::format("T#{}ns", ns);
}

/// As a unit's reader takes it; whole numbers with all their digits.
std::string number_text(double value) {
    const bool whole = value == std::round(value) && std::abs(value) < 1e15;
    return whole ? fmt::format("{}", static_cast<std::int64_t>(value)) : fmt::format("{:.12g}", value);
}

/// The slash between the high end and the step: units may have one too ("0.1 m/s..0.5 m/s/0.1 m/s"), so it is the first
/// that has quantities on both sides, or else the first of all.
std::size_t slash_of_step(std::string_view text, std::size_t dots) {
    const std::size_t first = text.find('/', dots);
    for (std::size_t slash = first; slash != std::string_view::npos; slash = text.find('/', slash + 1)) {
        const std::string_view high = base::trimmed(text.substr(dots + 2, slash - dots - 2));
        const auto dimension = dimension_of(without_prefix(high));
        const std::string_view step = without_prefix(base::trimmed(text.substr(slash + 1)));
        if (dimension && base::read_quantity(step, *dimension).fault == base::QuantityFault::None) return slash;
    }
    return first;
}

}  // namespace

std::optional<Axis> read_axis(std::string_view text, const std::function<bool(std::string_view)>& is_device,
                              std::string& problem) {
    const std::size_t equal = text.find('='), dots = text.find("..");
    const std::size_t slash = dots == std::string_view::npos ? dots : slash_of_step(text, dots);
    const bool whole =
        equal != std::string_view::npos && slash != std::string_view::npos && equal < dots && dots < slash;
    if (!whole || equal == 0) {
        problem = fmt::format("'{}' is not a name with a range and a step", text);
        return std::nullopt;
    }
    Axis out;
    out.name = base::trimmed(text.substr(0, equal));
    const std::string_view parts[] = {base::trimmed(text.substr(equal + 1, dots - equal - 1)),
                                      base::trimmed(text.substr(dots + 2, slash - dots - 2)),
                                      base::trimmed(text.substr(slash + 1))};
    const auto dimension = dimension_of(without_prefix(parts[0]));
    double si[3] = {};
    for (int i = 0; i < 3; ++i) {
        const std::string_view part = without_prefix(base::at(parts, i));
        const auto reading = dimension ? std::optional(base::read_quantity(part, *dimension)) : std::nullopt;
        if (!reading || reading->fault != base::QuantityFault::None) {
            problem = fmt::format("'{}' of '{}' is not a quantity{}", base::at(parts, i), text,
                                  i == 0 ? "" : " of the same kind as its first");
            return std::nullopt;
        }
        base::at(si, i) = reading->si_value;
    }
    if (si[1] < si[0] || si[2] <= 0.0) {
        problem = fmt::format("'{}': a range goes up, by a step above nought", text);
        return std::nullopt;
    }
    const bool whole_ones = si[0] == std::round(si[0]) && si[2] == std::round(si[2]) && si[0] >= 0.0 && si[1] <= 1e15;
    if (base::fold(out.name) == "seed" && !(*dimension == base::Dimension::Plain && whole_ones)) {
        problem = fmt::format("'{}': a seed is a whole number, 0 to 1e15", text);
        return std::nullopt;
    }
    const double count = std::floor((si[1] - si[0]) / si[2] + 1e-9);
    if (count >= static_cast<double>(kMostPoints)) {
        problem = fmt::format("'{}' has more than {} values", text, kMostPoints);
        return std::nullopt;
    }
    const std::size_t dot = out.name.rfind('.');
    const bool device = dot != std::string::npos && is_device(std::string_view(out.name).substr(0, dot));
    const bool time = *dimension == base::Dimension::Time;
    out.unit = base::display_unit(*dimension);
    for (int k = 0; k <= static_cast<int>(count); ++k) {
        const double value = si[0] + k * si[2], shown = base::displayed(value, *dimension);
        out.numbers.push_back(std::round(shown * 1e9) / 1e9);
        if (time && !device)
            out.values.push_back(time_literal(value));
        else
            out.values.push_back(number_text(shown) + (out.unit.empty() ? "" : " " + out.unit));
    }
    return out;
}

std::vector<std::vector<std::size_t>> points_of(const SweepPlan& plan) {
    std::size_t all = 1;
    for (const Axis& a : plan.axes) all = std::min(kMostPoints, all * a.values.size());
    const auto point = [&](std::size_t number) {
        std::vector<std::size_t> out;
        for (const Axis& a : plan.axes) {
            out.push_back(number % a.values.size());
            number /= a.values.size();
        }
        return out;
    };
    std::vector<std::vector<std::size_t>> out;
    if (plan.random == 0) {
        for (std::size_t i = 0; i < all; ++i) out.push_back(point(i));
        return out;
    }
    plant::Random random{plan.seed};
    for (std::size_t i = 0; i < plan.random; ++i) {
        std::vector<std::size_t> chosen;
        for (const Axis& a : plan.axes) chosen.push_back(random.next() % a.values.size());
        out.push_back(std::move(chosen));
    }
    return out;
}

namespace {

class Sweep final : public Campaign {
  public:
    Sweep(const Setup& setup, const SweepPlan& plan) : setup_(setup), plan_(plan), points_(points_of(plan)) {}

    const char* kind() const override { return "sweep"; }
    std::size_t jobs() const override { return points_.size() * setup_.procedures.size(); }
    const std::vector<std::string>& remarks() const override { return remarks_; }

    RunRow run(std::size_t job, Story*) const override {
        const std::vector<std::size_t>& point = points_[job / setup_.procedures.size()];
        const std::size_t procedure = setup_.procedures[job % setup_.procedures.size()];
        std::vector<std::pair<std::string, std::string>> values;
        RunRow row;
        for (std::size_t a = 0; a < plan_.axes.size(); ++a) {
            const Axis& axis = plan_.axes[a];
            values.emplace_back(axis.name, axis.values[point[a]]);
            row.disturbance.append(a == 0 ? "" : ", ").append(axis.name).append(" = ").append(values.back().second);
        }
        row.procedure = base::at(setup_.book->procedures, static_cast<int>(procedure)).name;
        const Variant variant = plan_.load(values);
        if (variant.model == nullptr || variant.book == nullptr) {
            row.outcome = "cannot be built";
            row.detail = variant.problem;
            return row;
        }
        session::Session session(variant.model);
        procedure::Run run(variant.book, procedure, session);
        while (run.advance(session)) session.step();
        const procedure::ProcedureVerdict verdict = run.verdict(session);
        const bool passed = verdict.verdict == procedure::Verdict::Passed;
        row.outcome = passed ? "passed" : "failed";
        row.at = session.now();
        row.detail = passed ? (as_it_is(*variant.model) ? "as it is" : "") : why(verdict);
        return row;
    }

  private:
    /// Whether the values are those of the yard: the same models come of them.
    bool as_it_is(const session::SessionModel& variant) const {
        const session::SessionModel& own = *setup_.model;
        if (variant.plant->parameters != own.plant->parameters ||
            variant.plant->initial.random.state != own.plant->initial.random.state)
            return false;
        for (std::size_t c = 0; c < own.controllers.size(); ++c) {
            const logic::Program &a = *own.controllers[c].program, &b = *variant.controllers[c].program;
            if (a.code != b.code || a.initial_memory != b.initial_memory) return false;
        }
        for (const auto list : {&wiring::Wiring::inputs, &wiring::Wiring::outputs}) {
            const auto &a = own.wiring.*list, &b = variant.wiring.*list;
            const bool same = std::equal(a.begin(), a.end(), b.begin(), b.end(),
                                         [](const auto& x, const auto& y) { return x.scaling == y.scaling; });
            if (!same) return false;
        }
        for (std::size_t s = 0; s < own.plant->surfaces.size(); ++s) {
            const plant::Pose &a = own.plant->surfaces[s].pose, &b = variant.plant->surfaces[s].pose;
            if (a.x_m != b.x_m || a.y_m != b.y_m || a.z_m != b.z_m) return false;
        }
        for (std::size_t d = 0; d < own.plant->devices.size(); ++d) {
            const plant::Pose &a = own.plant->devices[d].pose, &b = variant.plant->devices[d].pose;
            if (a.x_m != b.x_m || a.y_m != b.y_m || a.z_m != b.z_m) return false;
        }
        return true;
    }

    static std::string why(const procedure::ProcedureVerdict& verdict) {
        for (const procedure::StepVerdict& s : verdict.steps) {
            if (s.failure)
                return fmt::format("'{}': expected {}, but {}", s.name, s.failure->expected, s.failure->found);
        }
        for (const procedure::RuleVerdict& r : verdict.rules) {
            if (r.times_broken > 0)
                return fmt::format("rule '{}' is broken at {}", r.name, base::clock_text(r.first_broken));
        }
        return verdict.stops.empty() ? std::string(procedure::verdict_text(verdict.verdict)) : verdict.stops[0].text;
    }

    Setup setup_;
    SweepPlan plan_;
    std::vector<std::vector<std::size_t>> points_;
    std::vector<std::string> remarks_;
};

}  // namespace

std::unique_ptr<const Campaign> make_sweep(const Setup& setup, const SweepPlan& plan) {
    return std::make_unique<Sweep>(setup, plan);
}

Margin margin_of(const Axis& axis, const std::vector<std::vector<std::size_t>>& points, std::size_t procedures,
                 const std::vector<RunRow>& rows) {
    Margin out{axis.name, axis.unit, {}, {}, {}, {}, false, false};
    std::vector<bool> tried(axis.values.size(), false), passed(axis.values.size(), true);
    for (const RunRow& r : rows) {
        const std::size_t value = base::at(points, static_cast<int>(r.number / procedures))[0];
        tried[value] = true;
        passed[value] = passed[value] && r.outcome == "passed";
        if (r.detail == "as it is") out.present = axis.numbers[value];
    }
    std::size_t best_begin = 0, best_length = 0;
    for (std::size_t begin = 0; begin < passed.size();) {
        std::size_t end = begin;
        while (end < passed.size() && tried[end] && passed[end]) ++end;
        if (end - begin > best_length) {
            best_begin = begin;
            best_length = end - begin;
        }
        begin = end + 1;
    }
    if (best_length == 0) return out;
    out.least = axis.numbers[best_begin];
    out.most = axis.numbers[best_begin + best_length - 1];
    out.open_below = best_begin == 0;
    out.open_above = best_begin + best_length == axis.numbers.size();
    out.best = (*out.least + *out.most) / 2.0;
    return out;
}

}  // namespace vyard::campaign
