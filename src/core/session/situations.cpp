#include "core/session/situations.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/session/roles.hpp"

namespace vyard::session {

using wiring::Join;

namespace {

constexpr std::size_t kMostTried = 250;  ///< Ways to leave rest.
constexpr std::size_t kMostAway = 3;     ///< Devices away from rest at once.

}  // namespace

struct Situations::Search {
    std::vector<Ways> devices;
    Away away;
    int scans = 0;
    const Seen& seen;
    std::size_t tried = 0;
};

Situations::Situations(const SessionModelPtr& model)
    : model_(*model),
      program_(*model->controllers[0].program),
      influence_(program_),
      rest_(Session(model).controller(0)) {}

bool Situations::at_rest(const Join& input) const {
    return logic::read_bits(rest_.memory.data(), input.type, input.offset, input.bit) != 0;
}

bool Situations::on(const controller::ControllerState& state, const Join& output) {
    return (logic::read_bits(controller::leaving(state), output.type, output.offset, output.bit) != 0) !=
           output.scaling.invert;
}

/// None, or one of its contacts: a selector has one place, what moves is at one end.
Situations::Ways Situations::ways_of(std::vector<const Join*> inputs) const {
    Ways out{std::move(inputs), {}};
    std::vector<bool> rest;
    for (const Join* in : out.inputs) rest.push_back(at_rest(*in));
    for (std::size_t one = 0; one <= out.inputs.size(); ++one) {
        std::vector<bool> values;
        for (std::size_t i = 0; i < out.inputs.size(); ++i)
            values.push_back((i == one) != base::at(out.inputs, i)->scaling.invert);
        if (values != rest) out.values.push_back(std::move(values));
    }
    return out;
}

std::vector<Situations::Ways> Situations::devices_with_a_say(const std::vector<const Join*>& outputs) const {
    std::map<int, std::vector<const Join*>> by_device;
    for (const Join& in : model_.wiring.inputs) {
        const int device = base::at(model_.plant->points, in.point).device;
        const bool stops = guard_of(model_, in) != Guard::None || role_of_button(model_, device) == ButtonRole::Stop;
        if (in.type != logic::Elementary::Bool || stops) continue;
        const bool says = std::any_of(outputs.begin(), outputs.end(),
                                      [&](const Join* out) { return influence_.has_a_say(tag(in), tag(*out)); });
        if (says) by_device[device].push_back(&in);
    }
    std::vector<Ways> out;
    for (auto& [device, inputs] : by_device) out.push_back(ways_of(std::move(inputs)));
    return out;
}

std::optional<Situations::Away> Situations::find(const std::vector<const Join*>& outputs, const Away& always, int scans,
                                                 const Seen& seen) {
    Search now{devices_with_a_say(outputs), always, scans, seen};
    // Few devices first: the plainest way is the one to tell.
    for (std::size_t most = 0; most <= kMostAway && now.tried < kMostTried; ++most) {
        if (search(now, 0, most)) return now.away;
    }
    return std::nullopt;
}

/// Just `left` more devices away from rest, of those from `first` on.
bool Situations::search(Search& now, std::size_t first, std::size_t left) const {
    if (left == 0) return ++now.tried <= kMostTried && seen_in(now);
    for (std::size_t d = first; d + left <= now.devices.size() && now.tried < kMostTried; ++d) {
        const Ways& ways = now.devices[d];
        for (const std::vector<bool>& values : ways.values) {
            const std::size_t before = now.away.size();
            for (std::size_t i = 0; i < values.size(); ++i) now.away.emplace_back(ways.inputs[i], values[i]);
            if (search(now, d + 1, left - 1)) return true;
            now.away.resize(before);
        }
    }
    return false;
}

bool Situations::seen_in(const Search& now) const {
    const controller::ControllerModel& model = model_.controllers[0];
    controller::ControllerState state = rest_;
    for (const auto& [in, value] : now.away) {
        controller::Force force{tag(*in), {in->variable, in->type, in->offset, in->bit}, {}};
        force.value = {logic::Elementary::Bool, value ? 1U : 0U, {}};
        controller::enter_force(model, state, std::move(force));
    }
    for (int scan = 1; scan <= now.scans && state.running; ++scan) {
        controller::solve(model, state, scan * model.scan);
        if (now.seen(scan, state)) return true;
    }
    return false;
}

std::string Situations::text(const Away& away) const {
    std::string out;
    for (const auto& [in, value] : away) {
        if (at_rest(*in) == value) continue;
        out += fmt::format("{}'{}' {}", out.empty() ? "" : ", ", tag(*in), value ? "TRUE" : "FALSE");
    }
    return out;
}

}  // namespace vyard::session
