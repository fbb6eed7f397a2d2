#include "core/session/guarding.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/session/roles.hpp"
#include "core/session/situations.hpp"

namespace vyard::session {

namespace {

using base::Code;

/// An input that tells where a device is or whether it runs; not what lies on it, nor that something failed.
bool tells_motion(const SessionModel& model, const wiring::Join& join) {
    const plant::PointModel& point = base::at(model.plant->points, join.point);
    const std::string& spec = base::at(model.plant->device(point.device).kind->points, point.spec).name;
    static const char* const kOthers[] = {"waiting", "held", "fault", "failed", "low_limit", "high_limit"};
    return point.type == plant::PointType::Boolean && !spec.ends_with("_contact") &&
           std::none_of(std::begin(kOthers), std::end(kOthers), [&](const char* other) { return spec == other; });
}

class Guards {
  public:
    Guards(const SessionModelPtr& model, base::Diagnostics& diagnostics)
        : model_(*model),
          diagnostics_(diagnostics),
          program_(*model->controllers[0].program),
          situations_(model),
          influence_(situations_.influence()) {}

    void run() {
        for (const wiring::Join& out : model_.wiring.outputs) {
            if (!moves_something(model_, out)) continue;
            for (const wiring::Join& in : model_.wiring.inputs) {
                if (applies(in, out)) unguarded(in, out);
            }
        }
        for (const wiring::Join& in : model_.wiring.inputs) {
            if (stops(in)) contact(in);
        }
        supervision();
    }

  private:
    const std::string& tag(const wiring::Join& j) const { return base::at(program_.variables, j.variable).path; }
    int device(const wiring::Join& j) const { return base::at(model_.plant->points, j.point).device; }
    std::string kind(const wiring::Join& j) const { return base::with_article(device_of(model_, j).kind->name); }

    /// Whether what an input guards is what an output moves.
    bool applies(const wiring::Join& in, const wiring::Join& out) const {
        const Guard guard = guard_of(model_, in);
        return guard == Guard::All || (guard == Guard::Own && device(in) == device(out));
    }
    bool stops(const wiring::Join& in) const {
        return guard_of(model_, in) != Guard::None || role_of_button(model_, device(in)) == ButtonRole::Stop;
    }

    void unguarded(const wiring::Join& in, const wiring::Join& out) {
        if (influence_.has_a_say(tag(in), tag(out))) return;
        diagnostics_.warning(Code::Unguarded, influence_.declared(tag(out)),
                             fmt::format("'{}' moves '{}', and '{}' ({}) has no say in it", tag(out),
                                         device_of(model_, out).name, tag(in), kind(in)),
                             fmt::format("let it be ANDed with '{}', or with what depends on it", tag(in)));
    }

    /// What a contact reads while all is well, against what the logic takes it for.
    void contact(const wiring::Join& in) {
        const auto wired = base::at(model_.plant->points, in.point).contact;
        if (!wired) return;
        const bool closed = *wired == plant::Contact::NormallyClosed, reads = closed != in.scaling.invert;
        if (!closed) {
            diagnostics_.warning(Code::UnsafeContact, influence_.declared(tag(in)),
                                 fmt::format("'{}' comes from a normally open contact of {}: with a broken wire it "
                                             "reads as if all were well",
                                             tag(in), kind(in)),
                                 "wire what stops a machine normally closed");
        }
        logic::Pull pull;
        std::vector<const wiring::Join*> moved;
        for (const wiring::Join& out : model_.wiring.outputs) {
            const bool own = guard_of(model_, in) == Guard::Own && device(in) != device(out);
            if (own || !moves_something(model_, out)) continue;
            const logic::Pull p = influence_.pull(tag(in), tag(out));
            if (p.any()) moved.push_back(&out);
            pull = {pull.up || p.up, pull.down || p.down};
        }
        if (moved.empty()) return;
        const bool wrong = pull.up == pull.down ? comes_only_stopped(in, moved) : pull.up != reads;
        if (!wrong) return;
        diagnostics_.warning(
            Code::WrongSense, influence_.declared(tag(in)),
            fmt::format(
                "'{}' reads {} while all is well ({}, {}{}), and the logic takes that for a stop: '{}' stays off",
                tag(in), reads ? "TRUE" : "FALSE", kind(in), closed ? "normally closed" : "normally open",
                in.scaling.invert ? ", inverted by the map" : "", tag(*moved[0])),
            reads ? fmt::format("use '{}' as it is, without NOT", tag(in))
                  : fmt::format("use NOT {}, or wire it normally closed", tag(in)));
    }

    /// Where it cannot be told from the text, through numbers, what is executed tells: nothing that moves comes on and
    /// stays on while the contact reads as all is well, and something does while it reads the other way round.
    bool comes_only_stopped(const wiring::Join& in, std::vector<const wiring::Join*>& moved) {
        constexpr int kScans = 7, kStays = 4;
        const bool rest = situations_.at_rest(in);
        const auto first_on = [&](bool reads) -> const wiring::Join* {
            std::vector<int> scans_on(moved.size());
            const wiring::Join* found = nullptr;
            situations_.find(moved, {{&in, reads}}, kScans, [&](int scan, const controller::ControllerState& state) {
                for (std::size_t i = 0; i < moved.size(); ++i) {
                    if (scan == 1) scans_on[i] = 0;
                    scans_on[i] = Situations::on(state, *moved[i]) ? scans_on[i] + 1 : 0;
                    if (scan == kScans && scans_on[i] >= kStays) found = moved[i];
                }
                return found != nullptr;
            });
            return found;
        };
        if (first_on(rest) != nullptr) return false;
        const wiring::Join* const out = first_on(!rest);
        if (out != nullptr) moved = {out};
        return out != nullptr;
    }

    /// Of a device that moves and says what it does: whether a timer depends on any of that.
    void supervision() {
        std::map<int, const wiring::Join*> moved;
        for (const wiring::Join& out : model_.wiring.outputs) {
            if (moves_something(model_, out)) moved.emplace(device(out), &out);
        }
        std::map<int, std::vector<const wiring::Join*>> says;
        for (const wiring::Join& in : model_.wiring.inputs) {
            if (moved.contains(device(in)) && tells_motion(model_, in)) says[device(in)].push_back(&in);
        }
        for (const auto& [number, inputs] : says) {
            const bool timed = std::any_of(inputs.begin(), inputs.end(),
                                           [&](const wiring::Join* in) { return influence_.is_timed(tag(*in)); });
            if (timed) continue;
            std::string names;
            for (const wiring::Join* in : inputs) names += fmt::format("{}'{}'", names.empty() ? "" : ", ", tag(*in));
            diagnostics_.warning(
                Code::Unsupervised, influence_.declared(tag(*inputs[0])),
                fmt::format("'{}' moves '{}', and no timer depends on {}: nothing notices when it does "
                            "not do as it is told",
                            tag(*moved.at(number)), model_.plant->device(number).name, names),
                "time how long it takes, and raise an alarm when it takes longer");
        }
    }

    const SessionModel& model_;
    base::Diagnostics& diagnostics_;
    const logic::Program& program_;
    Situations situations_;
    const logic::Influence& influence_;
};

}  // namespace

void warn_unguarded(const SessionModelPtr& model, base::Diagnostics& diagnostics) {
    const bool alone = model->controllers.size() == 1 && !model->controllers[0].remote();
    if (alone && model->wiring.jumpers.empty()) Guards(model, diagnostics).run();
}

}  // namespace vyard::session
