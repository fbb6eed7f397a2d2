#include "core/trace/trace.hpp"

#include <algorithm>
#include <bit>
#include <cstring>

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
    std::copy_if(changes.begin(), changes.end(), std::back_inserter(out),
                 [&](const Change& c) { return c.channel == channel; });
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
            if (!variables[v].is_tag || variables[v].constant || !logic::is_scalar(variables[v].type)) continue;
            session::Signal signal;
            signal.controller = static_cast<int>(c);
            signal.variable = static_cast<int>(v);
            signal.type = variables[v].type;
            out.push_back({variables[v].path, signal});
        }
    }
    for (const plant::PointModel& p : model.plant->points) {
        if (p.type == plant::PointType::Text) continue;  // a trace holds numbers; texts are for watches
        // A point whose name is also a tag's is still recorded: the name below is the full one, device and point.
        session::Signal signal;
        signal.reading = *plant::find_reading(*model.plant, p.name);
        signal.type = session::type_of_point(p.type);
        out.push_back({p.name, signal});
    }
    for (const Channel& e : extra) {
        const bool known = std::any_of(out.begin(), out.end(),
                                       [&](const Channel& c) { return base::fold(c.name) == base::fold(e.name); });
        if (!known) out.push_back(e);
    }
    return out;
}

Recorder::Recorder(const session::Session& session, std::vector<Channel> channels) {
    const session::SessionModel& model = session.model();
    trace_.channels = std::move(channels);
    trace_.begin = trace_.end = session.now();
    last_.resize(trace_.channels.size());
    last_points_ = session.plant().points;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& memory = session.controller(static_cast<int>(c)).memory;
        tagged_.push_back({{memory.begin(), memory.begin() + model.controllers[c].program->tags_end}, {}});
    }
    for (std::uint32_t n = 0; n < trace_.channels.size(); ++n) {
        const session::Signal& signal = trace_.channels[n].signal;
        if (!signal.of_plant()) {
            const auto c = static_cast<std::size_t>(signal.controller);
            const logic::Program& program = *model.controllers[c].program;
            const bool tag = program.variables[static_cast<std::size_t>(signal.variable)].offset < program.tags_end;
            (tag ? tagged_[c].channels : inner_).push_back(n);
        } else {
            (signal.reading.source == plant::Reading::Source::Point ? points_ : gauges_).push_back(n);
        }
        last_[n] = session::read(session, signal);
        trace_.changes.push_back({session.now(), n, last_[n]});
    }
}

void Recorder::note(std::uint32_t channel, const session::Session& session) {
    const double value = session::read(session, trace_.channels[channel].signal);
    // Compared as bits, so that a NaN is one change and not one every step.
    if (std::bit_cast<std::uint64_t>(value) == std::bit_cast<std::uint64_t>(last_[channel])) return;
    last_[channel] = value;
    trace_.changes.push_back({session.now(), channel, value});
}

void Recorder::observe(const session::Session& session) {
    if (session.scanned()) {
        for (std::size_t c = 0; c < tagged_.size(); ++c) {
            Tagged& t = tagged_[c];
            const std::byte* memory = session.controller(static_cast<int>(c)).memory.data();
            if (std::memcmp(memory, t.last.data(), t.last.size()) == 0) continue;
            std::copy_n(memory, t.last.size(), t.last.begin());
            for (const std::uint32_t n : t.channels) note(n, session);
        }
        for (const std::uint32_t n : inner_) note(n, session);
    }
    const std::vector<double>& points = session.plant().points;
    if (!points.empty() && std::memcmp(points.data(), last_points_.data(), points.size() * sizeof(double)) != 0) {
        last_points_ = points;
        for (const std::uint32_t n : points_) note(n, session);
    }
    for (const std::uint32_t n : gauges_) note(n, session);
}

Trace Recorder::finish(const session::Session& session) {
    trace_.end = session.now();
    return std::move(trace_);
}

}  // namespace vyard::trace
