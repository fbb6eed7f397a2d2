#include "core/trace/recorder.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <span>

namespace vyard::trace {

using base::Nanoseconds;
using logic::Value;

void Trace::begin(const std::vector<Channel>& of, Nanoseconds time) {
    channels_ = of;
    moments_.assign(of.size(), {});
    begin_ = end_ = time;
}

void Trace::change(Nanoseconds time, std::uint32_t channel, const Value& value) {
    std::uint64_t bits = value.bits;
    if (logic::is_text(value.type)) {
        bits = texts_.size();
        texts_.push_back(value.text);
    }
    moments_[channel].push_back({time, bits});
    end_ = std::max(end_, time);
}

std::size_t Trace::change_count() const {
    std::size_t count = 0;
    for (const auto& list : moments_) count += list.size();
    return count;
}

std::optional<std::uint32_t> Trace::find(std::string_view name) const {
    const std::string wanted = base::fold(name);
    for (std::uint32_t c = 0; c < channels_.size(); ++c) {
        if (base::fold(channels_[c].name) == wanted) return c;
    }
    return std::nullopt;
}

Value Trace::value(std::uint32_t channel, const Moment& moment) const {
    const logic::Elementary type = channels_[channel].signal.type;
    if (logic::is_text(type)) return {type, 0, texts_[moment.bits]};
    return {type, moment.bits, {}};
}

Value Trace::value_at(std::uint32_t channel, Nanoseconds time) const {
    const std::vector<Moment>& list = moments_[channel];
    if (list.empty()) return {channels_[channel].signal.type, 0, {}};
    auto after =
        std::upper_bound(list.begin(), list.end(), time, [](Nanoseconds t, const Moment& m) { return t < m.time; });
    if (after != list.begin()) --after;
    return value(channel, *after);
}

std::optional<Nanoseconds> Trace::edge(Edge wanted, Nanoseconds start) const {
    const std::vector<Moment>& list = moments_[wanted.channel];
    const auto first = std::lower_bound(list.begin(), list.end(), start,
                                        [](const Moment& m, Nanoseconds time) { return m.time < time; });
    for (auto i = static_cast<std::size_t>(std::max<std::ptrdiff_t>(first - list.begin(), 1)); i < list.size(); ++i) {
        const bool was = logic::number_of(value(wanted.channel, list[i - 1])) != 0.0;
        const bool is = logic::number_of(value(wanted.channel, list[i])) != 0.0;
        if (is != was && is == wanted.rising) return list[i].time;
    }
    return std::nullopt;
}

std::string cell_text(const Channel& channel, const Value& value) {
    if (logic::is_text(value.type)) return value.text;
    if (!logic::is_duration(value.type)) return logic::value_text(value, channel.names.get());
    const std::int64_t ns = logic::signed_of(value);
    const std::uint64_t size = ns < 0 ? 0U - static_cast<std::uint64_t>(ns) : static_cast<std::uint64_t>(ns);
    std::string out = fmt::format("{}{}.{:09}", ns < 0 ? "-" : "", size / 1'000'000'000, size % 1'000'000'000);
    out.resize(out.find_last_not_of('0') + 1);
    if (out.back() == '.') out.pop_back();
    return out;
}

Channel make_channel(const session::SessionModel& model, std::string name, const session::Signal& signal) {
    Channel out{std::move(name), signal, nullptr, nullptr};
    if (signal.of_plant() || signal.spot.variable < 0) return out;
    const auto& program = *base::at(model.controllers, signal.controller).program;
    const logic::Variable& v = base::at(program.variables, signal.spot.variable);
    if (session::names_of(model, signal) != nullptr) out.names = v.names;
    if (v.type == signal.type) out.case_names = v.case_names;
    return out;
}

std::vector<Channel> usual_channels(const session::SessionModel& model, const std::vector<Channel>& extra) {
    std::vector<Channel> out;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& variables = model.controllers[c].program->variables;
        const std::string prefix = model.controllers.size() > 1 ? model.controllers[c].name + "." : std::string();
        for (std::size_t v = 0; v < variables.size(); ++v) {
            const bool kept = variables[v].is_tag && !variables[v].constant &&
                              (logic::is_scalar(variables[v].type) || logic::is_text(variables[v].type));
            if (!kept) continue;
            const auto signal = session::signal_of_variable(model, static_cast<int>(c), static_cast<int>(v));
            if (!session::stays_elsewhere(model, signal))
                out.push_back(make_channel(model, prefix + variables[v].path, signal));
        }
    }
    for (const plant::PointModel& p : model.plant->points) {
        session::Signal signal;
        signal.reading = *plant::find_reading(*model.plant, p.name);
        signal.type = session::type_of_point(p.type);
        out.push_back({p.name, signal, nullptr});
    }
    if (!model.plant->devices.empty())
        out.push_back(make_channel(model, "plant.mishaps", *session::find_signal(model, "plant.mishaps")));
    for (const Channel& e : extra) {
        const bool known = std::any_of(out.begin(), out.end(), [&](const Channel& c) {
            return base::fold(c.name) == base::fold(e.name) && c.signal == e.signal;
        });
        if (!known) out.push_back(e);
    }
    return out;
}

namespace {

constexpr std::size_t kWord = 8;

const std::byte* bytes_of(const std::vector<double>& wires) {
    return std::as_bytes(std::span(wires)).data();
}

}  // namespace

Recorder::Block::Block(const std::byte* now, std::size_t size)
    : last_(now, now + size), channels_((size + kWord - 1) / kWord) {}

void Recorder::Block::add(std::uint32_t channel, std::size_t offset, std::size_t size) {
    VYARD_CHECK(offset + size <= last_.size());
    for (std::size_t word = offset / kWord; word * kWord < offset + size; ++word) channels_[word].push_back(channel);
}

template <class Each>
void Recorder::Block::look(const std::byte* now, const Each& each) {
    if (last_.empty() || std::memcmp(now, last_.data(), last_.size()) == 0) return;
    for (std::size_t word = 0; word < channels_.size(); ++word) {
        const std::size_t at = word * kWord;
        const std::size_t size = std::min(kWord, last_.size() - at);
        if (std::memcmp(now + at, last_.data() + at, size) == 0) continue;
        std::copy_n(now + at, size, last_.begin() + static_cast<std::ptrdiff_t>(at));
        for (const std::uint32_t n : channels_[word]) each(n);
    }
}

Recorder::Recorder(const session::Session& session, std::vector<Channel> channels, std::vector<Sink*> sinks)
    : channels_(std::move(channels)), sinks_(std::move(sinks)), gone_(channels_.size(), false) {
    sort_channels(session);
    for (Sink* sink : sinks_) sink->begin(channels_, session.now());
    for (std::uint32_t n = 0; n < channels_.size(); ++n) {
        const Value now = session::value(session, channels_[n].signal);
        last_.push_back(session::bits(session, channels_[n].signal));
        last_texts_.push_back(now.text);
        for (Sink* sink : sinks_) sink->change(session.now(), n, now);
    }
    changes_ = channels_.size();
}

void Recorder::sort_channels(const session::Session& session) {
    const session::SessionModel& model = session.model();
    seen_.assign(model.controllers.size(), ~std::uint64_t{0});
    tagged_.clear();
    leaving_.clear();
    wires_.clear();
    actuals_.clear();
    inner_.clear();
    const std::vector<double>& wires = session.plant().wires;
    wires_.emplace_back(bytes_of(wires), wires.size() * sizeof(double));
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerState& state = session.controller(static_cast<int>(c));
        tagged_.emplace_back(state.memory.data(), model.controllers[c].program->tags_end);
        leaving_.emplace_back(controller::leaving(state), model.controllers[c].outputs.mask.size());
    }
    for (std::uint32_t n = 0; n < channels_.size(); ++n) {
        if (!gone_[n]) sort_channel(n, model);
    }
}

void Recorder::sort_channel(std::uint32_t channel, const session::SessionModel& model) {
    const session::Signal& signal = channels_[channel].signal;
    if (signal.of_plant()) {
        if (signal.reading.source == plant::Reading::Source::Point) {
            wires_[0].add(channel, static_cast<std::size_t>(signal.reading.index) * sizeof(double), sizeof(double));
        } else {
            actuals_.push_back(channel);
        }
        return;
    }
    const logic::Program& program = *base::at(model.controllers, signal.controller).program;
    const std::uint32_t offset = signal.spot.offset;
    if (!signal.leaves && offset >= program.tags_end) {
        inner_.push_back(channel);
        return;
    }
    base::at(signal.leaves ? leaving_ : tagged_, signal.controller)
        .add(channel, offset, controller::size_of(program, signal.spot));
}

void Recorder::note(std::uint32_t channel, const session::Session& session) {
    const session::Signal& signal = channels_[channel].signal;
    const std::uint64_t bits = session::bits(session, signal);
    const bool text_of_tag = logic::is_text(signal.type) && !signal.of_plant();
    if (bits == last_[channel] && !text_of_tag) return;
    Value now = session::value(session, signal);
    if (text_of_tag && now.text == last_texts_[channel]) return;
    last_[channel] = bits;
    ++changes_;
    for (Sink* sink : sinks_) sink->change(session.now(), channel, now);
    if (text_of_tag) last_texts_[channel] = std::move(now.text);
}

void Recorder::observe(const session::Session& session) {
    const auto each = [&](std::uint32_t channel) { note(channel, session); };
    bool touched = session.scanned();
    for (std::size_t c = 0; c < tagged_.size(); ++c) {
        // Memory changes in scans, and when a person forces, stops or starts.
        const controller::ControllerState& state = session.controller(static_cast<int>(c));
        const std::uint64_t seen = state.scans << 32 | state.touched;
        if (seen == seen_[c] && !session.scanned()) continue;
        touched = touched || seen != seen_[c];
        seen_[c] = seen;
        leaving_[c].look(controller::leaving(state), each);
        tagged_[c].look(state.memory.data(), each);
    }
    if (touched) {
        for (const std::uint32_t n : inner_) note(n, session);
    }
    wires_[0].look(bytes_of(session.plant().wires), each);
    for (const std::uint32_t n : actuals_) note(n, session);
}

void Recorder::finish(const session::Session& session) {
    for (Sink* sink : sinks_) sink->end(session.now());
}

void Recorder::follow(int controller, const controller::Rebinding& rebinding, const session::Session& session) {
    for (std::uint32_t n = 0; n < channels_.size(); ++n) {
        if (gone_[n] || channels_[n].signal.controller != controller) continue;
        if (const auto now = session::rebound(channels_[n].signal, controller, rebinding)) {
            channels_[n].signal = *now;
        } else {
            gone_[n] = true;
        }
    }
    sort_channels(session);
    for (std::uint32_t n = 0; n < channels_.size(); ++n) {
        if (!gone_[n]) note(n, session);
    }
}

}  // namespace vyard::trace
