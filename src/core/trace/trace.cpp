#include "core/trace/trace.hpp"

#include <algorithm>
#include <bit>

namespace vyard::trace {

std::optional<std::uint32_t> Trace::find(std::string_view name) const {
    const std::string wanted = base::fold(name);
    for (std::uint32_t c = 0; c < channels.size(); ++c) {
        if (base::fold(channels[c].name) == wanted) return c;
    }
    return std::nullopt;
}

std::vector<Change> Trace::of(std::uint32_t channel) const {
    std::vector<Change> out;
    std::copy_if(changes.begin(), changes.end(), std::back_inserter(out), [&](const Change& c) { return c.channel == channel; });
    return out;
}

double Trace::value_at(std::uint32_t channel, base::Nanoseconds time) const {
    double value = 0.0;
    for (const Change& c : changes) {
        if (c.time > time) break;
        if (c.channel == channel) value = c.value;
    }
    return value;
}

std::optional<base::Nanoseconds> Trace::edge(Edge wanted, base::Nanoseconds start) const {
    bool known = false, last = false;
    for (const Change& c : changes) {
        if (c.channel != wanted.channel) continue;
        const bool value = c.value != 0.0;
        if (known && value != last && value == wanted.rising && c.time >= start) return c.time;
        known = true;
        last = value;
    }
    return std::nullopt;
}

std::vector<Channel> usual_channels(const session::SessionModel& model, const std::vector<Channel>& extra) {
    std::vector<Channel> out;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& variables = model.controllers[c].program->variables;
        for (std::size_t v = 0; v < variables.size(); ++v) {
            if (!variables[v].is_tag || variables[v].constant) continue;
            session::Signal signal;
            signal.controller = static_cast<int>(c);
            signal.variable = static_cast<int>(v);
            signal.type = variables[v].type;
            out.push_back({variables[v].path, signal});
        }
    }
    for (const plant::PointModel& p : model.plant->points) {
        // A point whose name is also a tag's is still recorded: the name below is the full one, device and point.
        session::Signal signal;
        signal.reading = *plant::find_reading(*model.plant, p.name);
        signal.type = p.type == plant::PointType::Boolean ? logic::Elementary::Bool : p.type == plant::PointType::Number ? logic::Elementary::Dint : logic::Elementary::Lreal;
        out.push_back({p.name, signal});
    }
    for (const Channel& e : extra) {
        const bool known = std::any_of(out.begin(), out.end(), [&](const Channel& c) { return base::fold(c.name) == base::fold(e.name); });
        if (!known) out.push_back(e);
    }
    return out;
}

Recorder::Recorder(const session::Session& session, std::vector<Channel> channels) {
    trace_.channels = std::move(channels);
    trace_.begin = trace_.end = session.now();
    last_.resize(trace_.channels.size());
    for (std::uint32_t c = 0; c < trace_.channels.size(); ++c) {
        (trace_.channels[c].signal.of_plant() ? stepped_ : scanned_).push_back(c);
        last_[c] = session::read(session, trace_.channels[c].signal);
        trace_.changes.push_back({session.now(), c, last_[c]});
    }
}

void Recorder::note(std::size_t channel, double value, base::Nanoseconds now) {
    // Compared as bits, so that a NaN is one change and not one every step.
    if (std::bit_cast<std::uint64_t>(value) == std::bit_cast<std::uint64_t>(last_[channel])) return;
    last_[channel] = value;
    trace_.changes.push_back({now, static_cast<std::uint32_t>(channel), value});
}

void Recorder::observe(const session::Session& session) {
    const base::Nanoseconds now = session.now();
    if (session.scanned()) {
        for (const std::uint32_t c : scanned_) note(c, session::read(session, trace_.channels[c].signal), now);
    }
    for (const std::uint32_t c : stepped_) note(c, session::read(session, trace_.channels[c].signal), now);
}

Trace Recorder::finish(const session::Session& session) {
    trace_.end = session.now();
    return std::move(trace_);
}

}  // namespace vyard::trace
