#include "core/procedure/explain.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/procedure/causes.hpp"
#include "core/procedure/held_off.hpp"
#include "core/trace/trace.hpp"

namespace vyard::procedure {

namespace {

constexpr std::size_t kMostCauses = 16, kMostChanges = 12, kMostTimes = 3, kMostOfDevice = 6;

/// What people look for first: alarms, then states, then what is on or off, then numbers.
int rank_of(const trace::Channel& c) {
    const std::string name = base::fold(c.name);
    const auto has = [&](std::initializer_list<const char*> words) {
        return std::any_of(words.begin(), words.end(),
                           [&](const char* w) { return name.find(w) != std::string::npos; });
    };
    if (has({"alarm", "fault", "error"})) return 0;
    if (c.names != nullptr || has({"state", "step", "mode", "phase"})) return 1;
    return c.signal.type == logic::Elementary::Bool ? 2 : 3;
}

class Explainer {
  public:
    Explainer(const trace::Trace& trace, const session::SessionModel& model) : trace_(trace), model_(model) {}

    std::vector<std::string> changes() const {
        std::vector<std::uint32_t> changed;
        for (std::uint32_t c = 0; c < trace_.channels().size(); ++c) {
            if (!trace_.channels()[c].signal.of_plant() && trace_.of(c).size() > 1) changed.push_back(c);
        }
        std::stable_sort(changed.begin(), changed.end(), [&](std::uint32_t a, std::uint32_t b) {
            return rank_of(trace_.channels()[a]) < rank_of(trace_.channels()[b]);
        });
        std::vector<std::string> out;
        for (std::size_t i = 0; i < changed.size() && i < kMostChanges; ++i) out.push_back(line(changed[i]));
        if (changed.size() > kMostChanges)
            out.push_back(fmt::format("and {} more tags changed", changed.size() - kMostChanges));
        return out;
    }

    std::vector<std::string> of_device(int device) const {
        std::vector<std::string> out;
        std::vector<std::string> still;
        for (std::uint32_t c = 0; c < trace_.channels().size(); ++c) {
            const session::Signal& s = trace_.channels()[c].signal;
            if (!s.of_plant() || s.reading.device != device) continue;
            if (trace_.of(c).size() > 1) {
                out.push_back(line(c));
            } else {
                still.push_back(fmt::format("{} stayed {}", trace_.channels()[c].name, text(c, 0)));
            }
        }
        out.insert(out.end(), still.begin(), still.end());
        if (out.size() > kMostOfDevice) out.resize(kMostOfDevice);
        return out;
    }

  private:
    std::string text(std::uint32_t c, std::size_t i) const {
        return session::value_text(model_, trace_.channels()[c].signal, trace_.value(c, trace_.of(c)[i]));
    }

    /// "alarm_code: 0, 3 at 5.230 s, 0 at 6.100 s"; of what changes often its ends.
    std::string line(std::uint32_t c) const {
        const auto& moments = trace_.of(c);
        std::string out = fmt::format("{}: {}", trace_.channels()[c].name, text(c, 0));
        if (moments.size() - 1 > kMostTimes)
            return out + fmt::format(", {} changes, {} at {}", moments.size() - 1, text(c, moments.size() - 1),
                                     base::clock_text(moments.back().time));
        for (std::size_t i = 1; i < moments.size(); ++i)
            out += fmt::format(", {} at {}", text(c, i), base::clock_text(moments[i].time));
        return out;
    }

    const trace::Trace& trace_;
    const session::SessionModel& model_;
};

/// The devices that a condition is about: those it names, and those joined to the tags it names.
std::vector<int> devices_of(const session::SessionModel& model, const std::vector<NamedValue>& values) {
    std::set<int> out;
    for (const auto& [name, value] : values) {
        const auto signal = session::find_signal(model, name);
        if (!signal) continue;
        if (signal->of_plant() && signal->reading.device != plant::kNone) out.insert(signal->reading.device);
        if (signal->of_plant()) continue;
        for (const auto* list : {&model.wiring.inputs, &model.wiring.outputs}) {
            for (const wiring::Join& j : *list) {
                if (j.controller == signal->controller && j.variable == signal->spot.variable)
                    out.insert(base::at(model.plant->points, j.point).device);
            }
        }
    }
    return {out.begin(), out.end()};
}

/// All that changes, and the actuals of the devices.
std::vector<trace::Channel> channels_of(const session::SessionModel& model, const std::vector<int>& devices) {
    std::vector<trace::Channel> extra;
    for (const int d : devices) {
        const plant::DeviceModel& device = model.plant->device(d);
        for (const plant::ActualSpec& a : device.kind->actuals) {
            session::Signal signal;
            signal.reading = *plant::find_actual(*model.plant, device.name, a.name);
            signal.type = session::type_of_point(a.type);
            extra.push_back({device.name + "." + a.name, signal, nullptr});
        }
    }
    return trace::usual_channels(model, extra);
}

/// What is behind the tags that a condition names: what holds them as they are, further in what is behind that.
std::vector<std::string> causes_behind(const session::Session& end, const trace::Trace& trace,
                                       const std::vector<Deed>& deeds, const std::vector<NamedValue>& values) {
    std::vector<std::pair<std::string, session::Signal>> signals;
    for (const auto& [name, value] : values) {
        const auto signal = session::find_signal(end.model(), name);
        if (signal && !signal->of_plant()) signals.emplace_back(name, *signal);
    }
    std::vector<std::string> out;
    for (const Cause& cause : causes_of(end, trace, deeds, signals)) {
        const std::vector<std::string> lines = lines_of(cause);
        if (lines.size() > 1) out.insert(out.end(), lines.begin(), lines.end());
    }
    if (out.size() <= kMostCauses) return out;
    const std::size_t more = out.size() - kMostCauses;
    out.resize(kMostCauses);
    out.push_back(fmt::format("and {} more lines: see vyard why", more));
    return out;
}

}  // namespace

void explain(const std::optional<std::pair<session::Session, Run>>& beginning, const session::Session& end,
             const Run& failed, controller::Partner* told, ProcedureVerdict& out) {
    const auto step =
        std::find_if(out.steps.begin(), out.steps.end(), [](const StepVerdict& s) { return s.failure.has_value(); });
    if (step == out.steps.end()) return;
    Failure& failure = *step->failure;
    for (const HeldOff& h : held_off(end)) {
        const bool named = std::any_of(failure.values.begin(), failure.values.end(),
                                       [&](const NamedValue& v) { return base::fold(v.first) == base::fold(h.tag); });
        if (named)
            failure.kept_off.push_back(fmt::format("{}: {} ({})", h.tag, fmt::join(h.missing, "; "), where_text(h)));
    }
    const Order* order = failed.order();
    if (!beginning || order == nullptr || order->condition < 0) return;
    const std::vector<int> devices = devices_of(end.model(), failure.values);
    auto [session, run] = *beginning;
    session.set_partner(told);
    trace::Trace trace;
    trace::Recorder recorder(session, channels_of(end.model(), devices), {&trace});
    while (session.now() < end.now() && run.advance(session)) {
        session.step();
        recorder.observe(session);
    }
    recorder.finish(session);
    const Explainer explainer(trace, end.model());
    failure.causes = causes_behind(end, trace, failed.deeds(), failure.values);
    failure.changes = explainer.changes();
    for (const int d : devices) {
        for (std::string& line : explainer.of_device(d)) failure.devices.push_back(std::move(line));
    }
}

}  // namespace vyard::procedure
