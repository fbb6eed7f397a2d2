#include "core/controller/state.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "core/controller/online_change.hpp"
#include "core/logic/logic.hpp"
#include "core/plant/plant.hpp"

namespace vyard::controller {

namespace {

std::byte bits_of(int bit) {
    return bit < 0 ? std::byte{0xFF} : static_cast<std::byte>(1U << static_cast<unsigned>(bit));
}

std::uint32_t scalar_size(const Spot& spot) {
    return spot.bit >= 0 ? 1U : static_cast<std::uint32_t>(logic::type_size(spot.type));
}

/// Writes those bits of a force that leave, or those that do not, into `memory`.
void lay(const OutputLayout& outputs, const Force& f, bool leaving_ones, std::byte* memory) {
    const Spot& s = f.spot;
    if (logic::is_text(s.type)) {
        if (outputs.leaves(s.offset, 1, -1) == leaving_ones) logic::write_value(memory, f.value, s.offset, -1);
        return;
    }
    for (std::uint32_t i = 0; i < scalar_size(s); ++i) {
        const std::uint32_t at = s.offset + i;
        const std::byte leaves = at < outputs.mask.size() ? outputs.mask[at] : std::byte{0};
        const std::byte mask = bits_of(s.bit) & (leaving_ones ? leaves : ~leaves);
        if (mask == std::byte{0}) continue;  // also what lies behind the end of an image
        const std::byte value = s.bit >= 0 ? (f.value.bits != 0 ? std::byte{0xFF} : std::byte{0})
                                           : static_cast<std::byte>(f.value.bits >> (8 * i));
        memory[at] = (memory[at] & ~mask) | (value & mask);
    }
}

void write_forces(const ControllerModel& model, ControllerState& state) {
    for (const Force& f : state.forces) lay(model.outputs, f, false, state.memory.data());
}

void write_stimuli(const ControllerModel& model, ControllerState& state, base::Nanoseconds now) {
    for (; state.next_stimulus < model.stimuli.size(); ++state.next_stimulus) {
        const Stimulus& s = model.stimuli[state.next_stimulus];
        if (s.time > now) break;
        logic::write_value(state.memory.data(), s.value, s.spot.offset, s.spot.bit);
    }
    for (const Stimulus& s : state.writes) logic::write_value(state.memory.data(), s.value, s.spot.offset, s.spot.bit);
    state.writes.clear();
}

bool forced(const ControllerState& state) {
    return state.powered && state.forces_on && !state.forces.empty();
}

}  // namespace

void OutputLayout::add(std::uint32_t offset, std::uint32_t size, int bit) {
    if (mask.size() < offset + size) mask.resize(offset + size);
    safe.resize(mask.size());
    for (std::uint32_t i = 0; i < size; ++i) mask[offset + i] |= bits_of(bit);
}

bool OutputLayout::leaves(std::uint32_t offset, std::uint32_t size, int bit) const {
    for (std::uint32_t i = offset; i < offset + size && i < mask.size(); ++i) {
        if ((mask[i] & bits_of(bit)) != std::byte{0}) return true;
    }
    return false;
}

ControllerState power_up(const ControllerModel& model) {
    ControllerState state;
    state.memory = model.program->initial_memory;
    renew_image(model, state);
    return state;
}

void renew_image(const ControllerModel& model, ControllerState& state) {
    ++state.touched;
    const OutputLayout& outputs = model.outputs;
    const auto outgoing = [&](const Force& f) {
        return outputs.leaves(f.spot.offset, logic::is_text(f.spot.type) ? 1 : scalar_size(f.spot), f.spot.bit);
    };
    const bool laid = forced(state) && std::any_of(state.forces.begin(), state.forces.end(), outgoing);
    const base::Rare<std::byte>& held = state.link.held;
    if (state.outputs_on && !laid && held.empty()) {
        state.image.clear();
        return;
    }
    state.image.assign(state.memory.begin(), state.memory.begin() + static_cast<std::ptrdiff_t>(outputs.mask.size()));
    if (!state.outputs_on) {
        for (std::size_t i = 0; i < state.image.size(); ++i) {
            const std::byte safe = state.powered ? outputs.safe[i] & outputs.mask[i] : std::byte{0};
            state.image[i] = (state.image[i] & ~outputs.mask[i]) | safe;
        }
        return;
    }
    for (std::size_t i = 0; i < held.size(); ++i)
        state.image[i] = (state.image[i] & ~outputs.mask[i]) | (held[i] & outputs.mask[i]);
    if (laid) {
        for (const Force& f : state.forces) lay(outputs, f, true, state.image.data());
    }
}

void stand_still(ControllerState& state, base::Nanoseconds now) {
    state.stood += now - state.last_due;
    state.last_due = now;
}

base::Nanoseconds watchdog_of(const ControllerModel& model, const logic::Task& task) {
    if (model.watchdog) return *model.watchdog;
    const base::Nanoseconds interval = task.interval.count() > 0 ? task.interval : model.scan;
    return std::max(10 * interval, base::Nanoseconds(100'000'000));
}

namespace {

/// The scan of one that is stopped: its forces alone.
bool stands(const ControllerModel& model, ControllerState& state, base::Nanoseconds now) {
    if (state.running) return false;
    stand_still(state, now);
    if (forced(state)) write_forces(model, state);
    renew_image(model, state);
    return true;
}

}  // namespace

void solve(const ControllerModel& model, ControllerState& state, base::Nanoseconds now, logic::ScanWatch* watch) {
    if (stands(model, state, now)) return;
    const bool overlaid = forced(state);
    state.last_due = now;
    write_stimuli(model, state, now);
    if (overlaid) write_forces(model, state);
    const logic::Program& program = *model.program;
    logic::Execution done;
    for (const logic::Task& task : program.tasks) {
        if (task.interval.count() > 0 && now.count() % task.interval.count() != 0) continue;
        if (watch != nullptr) watch->begin(watchdog_of(model, task));
        done = logic::execute(program.view(), task.entry, state.memory.data(), state.clock().count(),
                              model.max_instructions, watch);
        if (done.outcome != logic::Outcome::Done) break;
    }
    if (overlaid) write_forces(model, state);
    ++state.scans;
    state.outputs_on = true;
    if (done.outcome != logic::Outcome::Done) {
        state.running = state.outputs_on = false;
        state.fault = {done, now};
        ++state.stops;
    }
    if (overlaid || !state.running || !state.image.empty()) renew_image(model, state);
}

namespace {

std::vector<std::byte> outputs_of(const ControllerModel& model, const ControllerState& state) {
    return {state.memory.begin(), state.memory.begin() + static_cast<std::ptrdiff_t>(model.outputs.mask.size())};
}

/// What came: of one that is executed elsewhere to memory, where it leaves.
void take_outputs(const ControllerModel& model, std::vector<std::byte> outputs, ControllerState& state) {
    if (model.link->here) {
        state.link.held.assign(outputs.begin(), outputs.end());
        return;
    }
    const std::vector<std::byte>& mask = model.outputs.mask;
    for (std::size_t i = 0; i < mask.size(); ++i)
        state.memory[i] = (state.memory[i] & ~mask[i]) | (outputs[i] & mask[i]);
}

/// What the controller makes of this scan, wherever it is executed; false when nothing comes.
bool executed(const ControllerModel& model, int c, ControllerState& state, base::Nanoseconds now, Partner* partner,
              logic::ScanWatch* watch, std::vector<std::byte>& outputs) {
    if (!model.link->here) {
        outputs = outputs_of(model, state);
        return partner != nullptr && partner->exchange(c, now, state.memory, outputs);
    }
    solve(model, state, now, watch);
    outputs = outputs_of(model, state);
    return true;
}

/// Whether something came that is new now.
bool hear(const ControllerModel& model, int c, ControllerState& state, base::Nanoseconds now, Partner* partner,
          logic::ScanWatch* watch) {
    LinkState& link = state.link;
    plant::Random chance{model.link->seed + static_cast<std::uint64_t>(now.count())};
    const bool dropped = link.fault.drop_percent > 0.0 && chance.share() * 100.0 < link.fault.drop_percent;
    bool came = false;
    // What stands apart from memory goes on from what it was.
    if (model.link->here && link.held.empty() && (link.fault.stuck || link.fault.delay.count() > 0)) {
        const auto before = outputs_of(model, state);
        link.held.assign(before.begin(), before.end());
    }
    if (link.fault.lost || dropped) {
        if (model.link->here) stand_still(state, now);
    } else {
        std::vector<std::byte> outputs;
        came = executed(model, c, state, now, partner, watch, outputs);
        if (came && !link.fault.stuck && link.fault.delay.count() == 0 && link.coming.empty()) {
            link.held.clear();
            if (!model.link->here) take_outputs(model, std::move(outputs), state);
        } else if (came && !link.fault.stuck) {
            link.coming.push_back({now + link.fault.delay, std::move(outputs)});
            came = false;
        }
    }
    // What is under way arrives in its order.
    while (!link.coming.empty() && link.coming.front().due <= now) {
        take_outputs(model, std::move(link.coming.front().outputs), state);
        link.coming.erase(link.coming.begin());
        came = true;
    }
    return came;
}

}  // namespace

void exchange(const ControllerModel& model, int c, ControllerState& state, base::Nanoseconds now, Partner* partner,
              logic::ScanWatch* watch) {
    if (stands(model, state, now)) return;
    const bool overlaid = forced(state);
    if (!model.link->here) {
        state.last_due = now;
        write_stimuli(model, state, now);
        if (overlaid) write_forces(model, state);
    }
    LinkState& link = state.link;
    if (hear(model, c, state, now, partner, watch)) {
        link.last = now;
        ++link.came;
        if (!link.up && !link.losses.empty()) {
            link.losses.back().until = now;
            link.losses.back().over = true;
        }
        link.up = link.was_up = true;
    } else if (link.up && now - link.last > model.link->fresh) {
        link.up = false;
        link.losses.push_back({now, {}, false, link.fault != LinkFault{}});
    }
    if (overlaid) write_forces(model, state);
    if (!model.link->here) ++state.scans;
    const bool on = link.up && state.running;  // what is executed here may have stopped by itself
    const bool changed = state.outputs_on != on;
    state.outputs_on = on;
    if (changed || overlaid || !state.image.empty() || !link.held.empty()) renew_image(model, state);
}

void enter_force(const ControllerModel& model, ControllerState& state, Force force) {
    std::erase_if(state.forces, [&](const Force& f) { return f.spot == force.spot; });
    state.forces.push_back(std::move(force));
    if (!forced(state)) return;
    lay(model.outputs, state.forces.back(), false, state.memory.data());
    renew_image(model, state);
}

bool remove_force(const ControllerModel& model, ControllerState& state, const Spot& spot) {
    const bool found = std::erase_if(state.forces, [&](const Force& f) { return f.spot == spot; }) > 0;
    renew_image(model, state);
    return found;
}

void remove_all_forces(const ControllerModel& model, ControllerState& state) {
    state.forces.clear();
    renew_image(model, state);
}

void switch_forces(const ControllerModel& model, ControllerState& state, bool on) {
    state.forces_on = on;
    if (forced(state)) write_forces(model, state);
    renew_image(model, state);
}

const Force* acting_force(const ControllerState& state, const Spot& spot) {
    if (!state.forces_on || !state.powered) return nullptr;
    const auto first_bit = [](const Spot& s) { return s.offset * 8 + static_cast<std::uint32_t>(std::max(s.bit, 0)); };
    const auto end_bit = [&](const Spot& s) {
        const std::uint32_t bytes = logic::is_text(s.type) ? 1 : scalar_size(s);
        return s.bit >= 0 ? first_bit(s) + 1 : first_bit(s) + bytes * 8;
    };
    for (auto f = state.forces.rbegin(); f != state.forces.rend(); ++f) {
        if (first_bit(f->spot) < end_bit(spot) && first_bit(spot) < end_bit(f->spot)) return &*f;
    }
    return nullptr;
}

void stop(const ControllerModel& model, ControllerState& state) {
    state.running = state.outputs_on = false;
    renew_image(model, state);
}

namespace {

void start_with(std::vector<std::byte> memory, const ControllerModel& model, ControllerState& state) {
    state.memory = std::move(memory);
    state.running = true;
    state.outputs_on = false;  // also of one that was running
    state.fault = {};
    switch_forces(model, state, state.forces_on);
}

}  // namespace

void start(const ControllerModel& model, ControllerState& state) {
    start_with(cold_memory(model, state), model, state);
}

void start_warm(const ControllerModel& model, ControllerState& state) {
    start_with(warm_memory(model, state), model, state);
}

void power_off(const ControllerModel& model, ControllerState& state) {
    state.memory = warm_memory(model, state);
    state.writes.clear();
    state.running = state.outputs_on = state.powered = false;
    state.fault = {};
    renew_image(model, state);
}

void power_on(const ControllerModel& model, ControllerState& state) {
    state.powered = true;
    start_warm(model, state);
}

std::vector<RetainedValue> retained_values(const ControllerModel& model, const ControllerState& state) {
    std::vector<RetainedValue> out;
    for (const logic::Variable& v : model.program->variables) {
        if (!v.retain) continue;
        const logic::Value value = logic::read_value(state.memory.data(), v.type, v.offset, v.bit);
        out.push_back({v.path, v.type_text, logic::value_text(value, v.names.get())});
    }
    return out;
}

namespace {

/// A timer whose ET comes back goes on from there; what it keeps besides is not listed, and follows from it.
void resume_timer(const ControllerModel& model, ControllerState& state, const logic::Variable& v) {
    using T = logic::TimerLayout;
    if (!base::fold(v.path).ends_with(".et")) return;
    const std::string_view owner = std::string_view(v.path).substr(0, v.path.size() - 3);
    for (const logic::Storage& s : model.program->storage) {
        const bool timer = s.layout.starts_with("TON") || s.layout.starts_with("TOF") || s.layout.starts_with("TP");
        if (s.path != owner || s.size != T::size || !timer) continue;
        std::int64_t elapsed = 0;
        std::memcpy(&elapsed, state.memory.data() + s.offset + T::et, sizeof elapsed);
        const std::int64_t start = state.clock().count() - elapsed;
        std::memcpy(state.memory.data() + s.offset + T::start, &start, sizeof start);
        state.memory[s.offset + T::active] = elapsed > 0 ? std::byte{1} : std::byte{0};
    }
}

}  // namespace

std::string put_retained(const ControllerModel& model, ControllerState& state, const RetainedValue& retained) {
    const logic::Variable* v = model.program->find(retained.path);
    if (v == nullptr || !v->retain) return fmt::format("there is no RETAIN variable '{}'", retained.path);
    if (base::fold(v->type_text) != base::fold(retained.type))
        return fmt::format("'{}' is {} now, and was {}", retained.path, v->type_text, retained.type);
    const auto parsed = logic::parse_value(retained.value, v->type, v->names.get());
    if (!parsed.value)
        return fmt::format("'{}' is not a valid value of '{}', which is {}", retained.value, v->path, v->type_text);
    logic::write_value(state.memory.data(), *parsed.value, v->offset, v->bit);
    resume_timer(model, state, *v);
    return {};
}

const logic::Value* safe_value(const ControllerModel& model, int variable) {
    for (const auto& [safe, value] : model.safe_values) {
        if (safe == variable) return &value;
    }
    return nullptr;
}

std::uint32_t size_of(const logic::Program& program, const Spot& spot) {
    if (!logic::is_text(spot.type)) return scalar_size(spot);
    std::uint16_t capacity = 0;
    std::memcpy(&capacity, program.initial_memory.data() + spot.offset, sizeof capacity);
    return logic::text_size(spot.type, capacity);
}

std::string fault_text(const ControllerModel& model, const LogicFault& fault) {
    const logic::Execution& stopped = fault.execution;
    if (stopped.outcome == logic::Outcome::Done) return {};
    std::string out =
        fmt::format("{}: {}", model.program->place_of(stopped.instruction).text(), logic::outcome_text(stopped));
    for (std::uint32_t i = 0; i < stopped.caller_count; ++i)
        out += fmt::format(", called at {}", model.program->place_of(stopped.callers[i]).text());
    return out;
}

}  // namespace vyard::controller
