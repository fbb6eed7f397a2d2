#include "core/session/opposing.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/session/roles.hpp"

namespace vyard::session {

namespace {

using wiring::Join;

constexpr std::size_t kMostTried = 250;  ///< Ways to leave rest, of one pair.
constexpr std::size_t kMostAway = 3;     ///< Devices away from rest at once.
constexpr int kScans = 4;                ///< Of each way: what one scan stores acts in the next.

/// How the contacts of one device can stand away from rest, as values of tags.
struct Ways {
    std::vector<const Join*> inputs;
    std::vector<std::vector<bool>> values;
};

bool tag_value(const controller::ControllerState& state, const Join& join) {
    return logic::read_bits(state.memory.data(), join.type, join.offset, join.bit) != 0;
}

/// None, or one of its contacts: a selector has one place, what moves is at one end.
Ways ways_of(std::vector<const Join*> inputs, const controller::ControllerState& rest) {
    Ways out{std::move(inputs), {}};
    std::vector<bool> at_rest;
    for (const Join* in : out.inputs) at_rest.push_back(tag_value(rest, *in));
    for (std::size_t one = 0; one <= out.inputs.size(); ++one) {
        std::vector<bool> values;
        for (std::size_t i = 0; i < out.inputs.size(); ++i)
            values.push_back((i == one) != base::at(out.inputs, i)->scaling.invert);
        if (values != at_rest) out.values.push_back(std::move(values));
    }
    return out;
}

class Opposing {
  public:
    Opposing(const SessionModelPtr& model, base::Diagnostics& diagnostics)
        : model_(*model),
          diagnostics_(diagnostics),
          program_(*model->controllers[0].program),
          influence_(program_),
          rest_(Session(model).controller(0)) {}

    void judge(const Join& one, const Join& other) {
        const std::vector<Ways> devices = devices_with_a_say(one, other);
        std::vector<std::pair<const Join*, bool>> away;
        tried_ = 0;
        // Few devices first: the plainest way is the one to tell.
        for (std::size_t most = 0; most <= kMostAway && tried_ < kMostTried; ++most) {
            if (!search(devices, 0, most, away, one, other)) continue;
            report(away, one, other);
            return;
        }
    }

  private:
    const logic::Variable& tag(const Join& j) const { return base::at(program_.variables, j.variable); }

    std::vector<Ways> devices_with_a_say(const Join& one, const Join& other) const {
        std::map<int, std::vector<const Join*>> by_device;
        for (const Join& in : model_.wiring.inputs) {
            const int device = base::at(model_.plant->points, in.point).device;
            const bool stops =
                guard_of(model_, in) != Guard::None || role_of_button(model_, device) == ButtonRole::Stop;
            if (in.type != logic::Elementary::Bool || stops) continue;
            const std::string& name = tag(in).path;
            if (influence_.has_a_say(name, tag(one).path) || influence_.has_a_say(name, tag(other).path))
                by_device[device].push_back(&in);
        }
        std::vector<Ways> out;
        for (auto& [device, inputs] : by_device) out.push_back(ways_of(std::move(inputs), rest_));
        return out;
    }

    /// Just `left` more devices away from rest, of those from `first` on.
    bool search(const std::vector<Ways>& devices, std::size_t first, std::size_t left,
                std::vector<std::pair<const Join*, bool>>& away, const Join& one, const Join& other) {
        if (left == 0) return ++tried_ <= kMostTried && both(away, one, other);
        for (std::size_t d = first; d + left <= devices.size() && tried_ < kMostTried; ++d) {
            const Ways& ways = devices[d];
            for (const std::vector<bool>& values : ways.values) {
                const std::size_t before = away.size();
                for (std::size_t i = 0; i < values.size(); ++i) away.emplace_back(ways.inputs[i], values[i]);
                if (search(devices, d + 1, left - 1, away, one, other)) return true;
                away.resize(before);
            }
        }
        return false;
    }

    bool both(const std::vector<std::pair<const Join*, bool>>& away, const Join& one, const Join& other) const {
        const controller::ControllerModel& model = model_.controllers[0];
        controller::ControllerState state = rest_;
        for (const auto& [in, value] : away) {
            controller::Force force{tag(*in).path, {in->variable, in->type, in->offset, in->bit}, {}};
            force.value = {logic::Elementary::Bool, value ? 1U : 0U, {}};
            controller::enter_force(model, state, std::move(force));
        }
        for (int scan = 1; scan <= kScans && state.running; ++scan) {
            controller::solve(model, state, scan * model.scan);
            if (on(state, one) && on(state, other)) return true;
        }
        return false;
    }
    static bool on(const controller::ControllerState& state, const Join& join) {
        return (logic::read_bits(controller::leaving(state), join.type, join.offset, join.bit) != 0) !=
               join.scaling.invert;
    }

    void report(const std::vector<std::pair<const Join*, bool>>& away, const Join& one, const Join& other) {
        std::string with;
        for (const auto& [in, value] : away) {
            if (tag_value(rest_, *in) == value) continue;
            with += fmt::format("{}'{}' {}", with.empty() ? "" : ", ", tag(*in).path, value ? "TRUE" : "FALSE");
        }
        diagnostics_.warning(
            base::Code::NotInterlocked, influence_.declared(tag(one).path),
            fmt::format("'{}' and '{}' of '{}' both come on{}{}: nothing interlocks them", tag(one).path,
                        tag(other).path, device_of(model_, one).name, with.empty() ? "" : " with ", with),
            fmt::format("let each of the two be ANDed with NOT of the other"));
    }

    const SessionModel& model_;
    base::Diagnostics& diagnostics_;
    const logic::Program& program_;
    const logic::Influence influence_;
    const controller::ControllerState rest_;
    std::size_t tried_ = 0;
};

/// The outputs that are joined to points which exclude one another.
std::vector<std::pair<const Join*, const Join*>> opposite_outputs(const SessionModel& model) {
    std::map<std::pair<int, int>, const Join*> outputs;  // device, number in the kind's points
    for (const Join& out : model.wiring.outputs) {
        const plant::PointModel& point = base::at(model.plant->points, out.point);
        if (out.type == logic::Elementary::Bool) outputs[{point.device, point.spec}] = &out;
    }
    std::vector<std::pair<const Join*, const Join*>> out;
    for (const auto& [key, join] : outputs) {
        for (const auto& [one, other] : device_of(model, *join).kind->opposites) {
            const auto found = outputs.find({key.first, other});
            if (one == key.second && found != outputs.end()) out.emplace_back(join, found->second);
        }
    }
    return out;
}

}  // namespace

void warn_not_interlocked(const SessionModelPtr& model, base::Diagnostics& diagnostics) {
    if (model->controllers.size() != 1 || model->controllers[0].remote() || !model->wiring.jumpers.empty()) return;
    const auto pairs = opposite_outputs(*model);
    if (pairs.empty()) return;
    Opposing opposing(model, diagnostics);
    for (const auto& [one, other] : pairs) opposing.judge(*one, *other);
}

}  // namespace vyard::session
