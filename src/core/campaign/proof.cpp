#include "core/campaign/proof.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

namespace {

/// One name for a fault, however its order was written: "lift jammed", "dip_eye.signal stuck 0".
std::string fault_key(const session::SessionModel& model, const procedure::Order& o) {
    if (o.action == procedure::Action::FaultDevice)
        return fmt::format("{} {}", model.plant->device(o.device).name, o.fault->name);
    const plant::PointModel& point = base::at(model.plant->points, o.point);
    for (const plant::DefectSpec& d : plant::defects()) {
        if (d.defect != o.defect) continue;
        const bool boolean = point.type == plant::PointType::Boolean && o.defect == plant::Defect::Stuck;
        return boolean ? fmt::format("{} {} {}", point.name, d.name, o.value != 0.0 ? "on" : "off")
                       : fmt::format("{} {}", point.name, d.name);
    }
    return {};
}

std::string fault_key(const session::SessionModel& model, const std::string& order) {
    base::Diagnostics diagnostics;
    const auto book = procedure::read_order(model, base::make_source("proof", order), diagnostics);
    if (book == nullptr || book->procedures.empty()) return {};
    const auto& orders = book->procedures[0].steps[0].orders;
    const bool known = !orders.empty() && (orders[0].action == procedure::Action::FaultDevice ||
                                           orders[0].action == procedure::Action::FaultPoint);
    return known ? fault_key(model, orders[0]) : std::string();
}

std::string some_of(const std::vector<std::string>& names) {
    const std::size_t most = std::min<std::size_t>(names.size(), 6);
    std::string out =
        fmt::format("{}", fmt::join(names.begin(), names.begin() + static_cast<std::ptrdiff_t>(most), ", "));
    if (names.size() > most) out.append(fmt::format(" and {} more", names.size() - most));
    return out;
}

}  // namespace

ProofCoverage::ProofCoverage(const session::SessionModel& model, Alarms alarms)
    : model_(model), alarms_(std::move(alarms)) {
    input_moved_.assign(model.wiring.inputs.size(), false);
    device_moved_.assign(model.plant->devices.size(), false);
    alarm_raised_.assign(alarms_.names.size(), false);
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& variables = model.controllers[c].program->variables;
        for (std::size_t v = 0; v < variables.size(); ++v) {
            const logic::Variable& tag = variables[v];
            const auto& names = tag.names != nullptr ? tag.names : tag.case_names;
            if (names == nullptr || tag.constant) continue;
            const session::Signal signal = session::signal_of_variable(model, static_cast<int>(c), static_cast<int>(v));
            for (const auto& [value, name] : *names)
                states_.push_back({fmt::format("{} = {}", tag.path, name), signal, static_cast<std::uint64_t>(value)});
        }
    }
    state_entered_.assign(states_.size(), false);
}

void ProofCoverage::observe(const session::Session& session) {
    const auto& wires = session.plant().wires;
    for (std::size_t i = 0; !fresh_ && i < input_moved_.size(); ++i) {
        const auto point = static_cast<std::size_t>(model_.wiring.inputs[i].point);
        if (wires[point] != last_[point]) input_moved_[i] = true;
    }
    last_ = wires;
    fresh_ = false;
    for (std::size_t d = 0; d < device_moved_.size(); ++d) {
        if (!device_moved_[d]) device_moved_[d] = plant::moves(*model_.plant, session.plant(), static_cast<int>(d));
    }
    if (!session.scanned()) return;
    for (std::size_t a = 0; a < alarm_raised_.size(); ++a) {
        if (!alarm_raised_[a]) alarm_raised_[a] = session::bits(session, alarms_.signals[a]) != alarms_.quiet[a];
    }
    for (std::size_t s = 0; s < states_.size(); ++s) {
        if (!state_entered_[s]) state_entered_[s] = session::bits(session, states_[s].signal) == states_[s].bits;
    }
}

void ProofCoverage::end(const procedure::ProcedureVerdict& verdict) {
    fresh_ = true;
    for (const procedure::RuleVerdict& r : verdict.rules) {
        bool& triggered = rules_[r.name];
        triggered = triggered || r.verdict != procedure::Verdict::NotTested;
    }
    for (const procedure::Deed& d : verdict.deeds) {
        if (d.fault) {
            if (std::string key = fault_key(model_, d.text); !key.empty()) faults_.insert(std::move(key));
        }
        if (d.text.starts_with("power on")) restarts_.insert("power cut and given back");
        if (d.text.starts_with("start ")) restarts_.insert(d.text.ends_with(" warm") ? "warm start" : "cold start");
    }
}

std::vector<ProofClass> ProofCoverage::classes() const {
    std::vector<ProofClass> out;
    const auto add = [&](const char* name, const char* to_do, auto each) {
        ProofClass c{name, to_do, 0, 0, {}};
        each([&](const std::string& what, bool done) {
            ++c.all;
            c.done += done ? 1U : 0U;
            if (!done) c.missing.push_back(what);
        });
        if (c.all > 0) out.push_back(std::move(c));
    };
    add("inputs that moved", "move the inputs", [&](auto take) {
        for (std::size_t i = 0; i < input_moved_.size(); ++i)
            take(base::at(model_.plant->points, model_.wiring.inputs[i].point).name, input_moved_[i]);
    });
    add("devices that moved", "move", [&](auto take) {
        for (std::size_t d = 0; d < device_moved_.size(); ++d) {
            const plant::DeviceModel& device = model_.plant->devices[d];
            if (device.kind->moving != plant::kNone) take(device.name, device_moved_[d]);
        }
    });
    add("faults that were tried", "try the faults", [&](auto take) {
        for (const std::string& order : fault_orders(model_)) {
            const std::string key = fault_key(model_, order);
            take(order.substr(6), faults_.contains(key));
        }
    });
    add("rules that were triggered", "trigger the rules", [&](auto take) {
        for (const auto& [name, triggered] : rules_) take(fmt::format("'{}'", name), triggered);
    });
    add("alarms that came", "raise", [&](auto take) {
        for (std::size_t a = 0; a < alarm_raised_.size(); ++a) take(alarms_.names[a], alarm_raised_[a]);
    });
    add("states that were entered", "enter the states", [&](auto take) {
        for (std::size_t s = 0; s < states_.size(); ++s) take(states_[s].name, state_entered_[s]);
    });
    add("restarts that were done", "do", [&](auto take) {
        if (model_.controllers.empty()) return;
        for (const char* restart : {"warm start", "cold start", "power cut and given back"})
            take(restart, restarts_.contains(restart));
    });
    return out;
}

std::vector<std::string> ProofCoverage::proposals() const {
    std::vector<ProofClass> all = classes();
    std::stable_sort(all.begin(), all.end(), [](const ProofClass& a, const ProofClass& b) {
        const auto share = [](const ProofClass& c) {
            return static_cast<double>(c.missing.size()) / static_cast<double>(c.all);
        };
        return share(a) > share(b);
    });
    std::vector<std::string> out;
    for (const ProofClass& c : all) {
        if (c.missing.empty() || out.size() == 3) continue;
        out.push_back(fmt::format("{} {}", c.to_do, some_of(c.missing)));
    }
    return out;
}

}  // namespace vyard::campaign
