#include "core/session/opposing.hpp"

#include <fmt/format.h>

#include <map>

#include "core/session/roles.hpp"
#include "core/session/situations.hpp"

namespace vyard::session {

namespace {

using wiring::Join;

constexpr int kScans = 4;  ///< Of each situation: what one scan stores acts in the next.

void judge(const SessionModel& model, Situations& situations, const Join& one, const Join& other,
           base::Diagnostics& diagnostics) {
    const auto away = situations.find({&one, &other}, {}, kScans, [&](int, const controller::ControllerState& state) {
        return Situations::on(state, one) && Situations::on(state, other);
    });
    if (!away) return;
    const std::string with = situations.text(*away);
    diagnostics.warning(
        base::Code::NotInterlocked, situations.influence().declared(situations.tag(one)),
        fmt::format("'{}' and '{}' of '{}' both come on{}{}: nothing interlocks them", situations.tag(one),
                    situations.tag(other), device_of(model, one).name, with.empty() ? "" : " with ", with),
        fmt::format("let each of the two be ANDed with NOT of the other"));
}

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
    Situations situations(model);
    for (const auto& [one, other] : pairs) judge(*model, situations, *one, *other, diagnostics);
}

}  // namespace vyard::session
