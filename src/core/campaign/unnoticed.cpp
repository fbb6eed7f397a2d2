#include "core/campaign/unnoticed.hpp"

#include <algorithm>

namespace vyard::campaign {

namespace {

/// A piece of a controller's memory.
struct Piece {
    std::uint32_t offset = 0, size = 1;
    int bit = -1;
};

bool overlap(const Piece& a, const Piece& b) {
    const bool bytes = a.offset < b.offset + b.size && b.offset < a.offset + a.size;
    return bytes && (a.bit < 0 || b.bit < 0 || a.bit == b.bit);
}

Piece piece_of(const logic::Program& program, const controller::Spot& spot) {
    return {spot.offset, controller::size_of(program, spot), spot.bit};
}

/// Whether the logic reads any of it, by whatever name or address.
bool read_by_logic(const logic::Program& program, const Piece& piece) {
    if (program.variables.size() > logic::kMaxVariables) return true;  // not all are listed
    const bool by_name = std::any_of(program.variables.begin(), program.variables.end(), [&](const logic::Variable& v) {
        if (!v.read) return false;
        const auto size = controller::size_of(program, {-1, v.type, v.offset, v.bit});
        return overlap({v.offset, size, v.bit}, piece);
    });
    return by_name ||
           std::any_of(program.direct_addresses.begin(), program.direct_addresses.end(),
                       [&](const logic::DirectAddress& d) {
                           if (d.address.area != logic::Area::Input) return false;
                           const auto size = static_cast<std::uint32_t>(std::max(d.address.size, 1));
                           return overlap({program.inputs.begin + d.address.byte, size, d.address.bit}, piece);
                       });
}

/// Who asks for what, besides the logic: conditions, rules and alarms.
struct Asked {
    const session::SessionModel& model;
    std::vector<session::Signal> signals;

    bool point(int number) const {
        return std::any_of(signals.begin(), signals.end(), [&](const session::Signal& s) {
            return s.of_plant() && s.reading.source == plant::Reading::Source::Point && s.reading.index == number;
        });
    }
    bool device(int number) const {
        return std::any_of(signals.begin(), signals.end(), [&](const session::Signal& s) {
            return s.of_plant() && s.reading.source != plant::Reading::Source::Point && s.reading.device == number;
        });
    }
    bool memory(int controller, const Piece& piece) const {
        const logic::Program& program = *base::at(model.controllers, controller).program;
        return std::any_of(signals.begin(), signals.end(), [&](const session::Signal& s) {
            return s.controller == controller && overlap(piece_of(program, s.spot), piece);
        });
    }
};

/// What the conditions of a procedure and of its rules look at.
std::vector<session::Signal> looked_at(const procedure::Conditions& conditions,
                                       const procedure::ProcedureModel& procedure) {
    std::vector<session::Signal> out;
    const auto take = [&](int condition) {
        if (condition < 0) return;
        for (const int name : base::at(conditions.set.conditions, condition).names)
            out.push_back(base::at(conditions.signals, base::at(conditions.set.gathered, name).source));
    };
    for (const procedure::RuleModel& r : procedure.rules) {
        take(r.trigger);
        take(r.condition);
    }
    for (const procedure::StepModel& s : procedure.steps) {
        for (const procedure::Order& o : s.orders) {
            take(o.condition);
            take(o.until);
        }
    }
    return out;
}

/// It writes its own wires and its own state alone.
bool only_looks_or_shows(const plant::Kind& kind) {
    const bool felt = kind.carries || kind.extends || kind.drives || kind.holds_liquid || kind.gives_air || kind.pushes;
    return !felt && kind.mishaps.empty() && (kind.family == "sensors" || kind.family == "panel");
}

bool input_seen(const Asked& asked, const wiring::Join& j) {
    const controller::ControllerModel& c = base::at(asked.model.controllers, j.controller);
    if (j.channel >= 0 || c.link) return true;  // diagnostics of a rack, or whoever is at the far end
    const Piece piece = piece_of(*c.program, {j.variable, j.type, j.offset, j.bit});
    const auto from = [&](const wiring::Source& s) {
        return s.controller == j.controller && overlap(piece_of(*c.program, s.spot), piece);
    };
    const bool jumped = std::any_of(asked.model.wiring.jumpers.begin(), asked.model.wiring.jumpers.end(),
                                    [&](const wiring::Jumper& w) { return from(w.from) || (w.when && from(*w.when)); });
    return jumped || read_by_logic(*c.program, piece) || asked.memory(j.controller, piece);
}

}  // namespace

Unnoticed::Unnoticed(const Setup& setup, const procedure::ProcedureModel& procedure) {
    const session::SessionModel& model = *setup.model;
    const plant::PlantModel& plant = *model.plant;
    Asked asked{model, looked_at(*setup.book->conditions, procedure)};
    asked.signals.insert(asked.signals.end(), setup.alarms.signals.begin(), setup.alarms.signals.end());
    point_seen_.assign(plant.points.size(), false);
    device_seen_.assign(plant.devices.size(), false);
    const auto see = [&](int point) { base::at(point_seen_, point) = true; };

    for (std::size_t p = 0; p < plant.points.size(); ++p) {
        if (asked.point(static_cast<int>(p))) point_seen_[p] = true;
    }
    for (const plant::RangedPoint& r : plant.ranged) see(r.point);  // a mishap when it is beyond
    for (const wiring::Jumper& w : model.wiring.jumpers) {
        if (w.from.point != plant::kNone) see(w.from.point);
        if (w.when && w.when->point != plant::kNone) see(w.when->point);
    }
    for (const wiring::Join& j : model.wiring.inputs) {
        if (input_seen(asked, j)) see(j.point);
    }
    for (std::size_t d = 0; d < plant.devices.size(); ++d) {
        const plant::DeviceModel& device = plant.devices[d];
        const auto number = static_cast<int>(d);
        const bool carries = std::any_of(plant.devices.begin(), plant.devices.end(),
                                         [&](const plant::DeviceModel& o) { return o.mounted_on == number; });
        const bool wires = std::any_of(device.points.begin(), device.points.end(),
                                       [&](int p) { return p != plant::kNone && base::at(point_seen_, p); });
        device_seen_[d] = carries || wires || asked.device(number) || !only_looks_or_shows(*device.kind);
        if (!device_seen_[d]) continue;
        for (const int p : device.points) {
            if (p != plant::kNone && base::at(plant.points, p).direction == plant::PointDirection::Output) see(p);
        }
    }
}

}  // namespace vyard::campaign
