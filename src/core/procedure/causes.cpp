#include "core/procedure/causes.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <set>

#include "core/logic/logic.hpp"

namespace vyard::procedure {

namespace {

using session::Signal;

/// How long before a change an order may stand that brought it about: a press takes a plant step, a filter and a scan.
constexpr base::Nanoseconds kPrompt{500'000'000};

/// The names in a part of a condition, as the language writes it: "NOT jam", "start_edge.Q (CLK: start_pb)".
std::vector<std::string> names_in(const std::string& part) {
    std::vector<std::string> out;
    std::string name;
    bool literal = false;
    const auto close = [&] {
        if (!name.empty() && std::isdigit(static_cast<unsigned char>(name.front())) == 0) out.push_back(name);
        name.clear();
    };
    for (const char c : part) {
        const bool within = std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_' || c == '[' || c == ']';
        literal = literal ? within : c == '#';  // T#400ms, Colour#Red
        if (literal)
            name.clear();
        else if (within || (c == '.' && !name.empty()))
            name += c;
        else
            close();
    }
    close();
    return out;
}

/// Whether an order names a device: "press panel.stop for 200 ms".
bool names_device(const std::string& order, const std::string& device) {
    const std::string text = base::fold(order), name = base::fold(device);
    const auto letter = [](char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; };
    for (std::size_t at = text.find(name); at != std::string::npos; at = text.find(name, at + 1)) {
        const bool begins = at == 0 || (!letter(text[at - 1]) && text[at - 1] != '.');
        const std::size_t end = at + name.size();
        if (begins && (end == text.size() || !letter(text[end]))) return true;
    }
    return false;
}

/// Null when the trace does not hold it.
const trace::Moment* last_change(const trace::Trace& trace, const Signal& signal) {
    for (std::uint32_t c = 0; c < trace.channels().size(); ++c) {
        if (!(trace.channels()[c].signal == signal)) continue;
        const auto& moments = trace.of(c);
        return moments.empty() ? nullptr : &moments.back();
    }
    return nullptr;
}

class CauseFinder {
  public:
    CauseFinder(const session::Session& session, const trace::Trace& trace, const std::vector<Deed>& deeds)
        : session_(session), model_(session.model()), trace_(trace), deeds_(deeds) {}

    Cause of(const std::string& name, const Signal& signal) {
        Cause out{fmt::format("{} is {}{}", name, session::explained_text(session_, signal), since(signal)), {}};
        const auto key = std::tuple(signal.controller, signal.spot.offset, signal.spot.bit, signal.reading.source,
                                    signal.reading.device, signal.reading.index);
        if (!seen_.insert(key).second) {
            out.text += ", see above";
            return out;
        }
        if (signal.of_plant())
            plant(signal, out);
        else
            tag(signal, out);
        return out;
    }

  private:
    std::string since(const Signal& signal) const {
        const trace::Moment* moment = last_change(trace_, signal);
        if (moment == nullptr) return {};
        const base::Nanoseconds begin = trace_.begin_time();
        if (moment->time > begin) return fmt::format(" since {}", base::clock_text(moment->time));
        return begin.count() == 0 ? " from the start" : fmt::format(" since before {}", base::clock_text(begin));
    }

    // --- the plant ---
    void plant(const Signal& signal, Cause& out) {
        if (signal.reading.device == plant::kNone) return;
        const plant::DeviceModel& device = model_.plant->device(signal.reading.device);
        for (const std::string& fault : session::faults_text(session_)) {
            if (concerns(fault, device, signal)) out.because.push_back({"fault: " + fault, {}});
        }
        for (const std::string& hand : session::hands_text(session_)) {
            if (concerns(hand, device, signal)) out.because.push_back({hand, {}});
        }
        if (const Deed* deed = order_behind(signal, device.name))
            out.because.push_back({fmt::format("{}{} at {}", trace_.channels().empty() ? "last order: " : "",
                                               deed->text, base::clock_text(deed->time)),
                                   {}});
        if (signal.reading.source == plant::Reading::Source::Point && driven(signal, out)) return;
        if (!out.because.empty()) return;
        actuals_of(signal, out);
        if (signal.reading.source == plant::Reading::Source::Actual) outputs_of(device, out);
    }

    /// Whether a line of what is wrong, or worked by hand, is of the device itself, of the point asked about, or, of an
    /// actual, of one of the outputs that move it.
    bool concerns(const std::string& text, const plant::DeviceModel& device, const Signal& signal) const {
        if (text.starts_with(device.name + " ")) return true;
        const bool is_point = signal.reading.source == plant::Reading::Source::Point;
        for (const int point : device.points) {
            if (point == plant::kNone) continue;
            const plant::PointModel& model = base::at(model_.plant->points, point);
            const bool counts =
                is_point ? point == signal.reading.index : model.direction == plant::PointDirection::Output;
            if (counts && text.starts_with(model.name + " ")) return true;
        }
        return false;
    }

    /// An output: the tag that is joined to it, and what the rack does on the way.
    bool driven(const Signal& signal, Cause& out) {
        for (const wiring::Join& j : model_.wiring.outputs) {
            if (j.point != signal.reading.index) continue;
            on_the_way(j, out);
            out.because.push_back(
                of(wiring::spot_name(model_.controllers, j.controller, {j.variable, j.type, j.offset, j.bit}),
                   tag_signal(j)));
            return true;
        }
        return false;
    }

    /// What a controller tells a device, behind how the device is.
    void outputs_of(const plant::DeviceModel& device, Cause& out) {
        for (const int point : device.points) {
            if (point == plant::kNone) continue;
            const plant::PointModel& model = base::at(model_.plant->points, point);
            if (model.direction != plant::PointDirection::Output) continue;
            if (const auto signal = session::find_signal(model_, "plant." + model.name))
                out.because.push_back(of(model.name, *signal));
        }
    }

    Signal tag_signal(const wiring::Join& j) const {
        Signal out;
        out.controller = j.controller;
        out.spot = {j.variable, j.type, j.offset, j.bit};
        out.leaves = base::at(model_.controllers, j.controller)
                         .outputs.leaves(j.offset,
                                         j.bit >= 0 ? 1U : static_cast<std::uint32_t>(logic::type_size(j.type)), j.bit);
        out.type = j.type;
        return out;
    }

    /// Defects of the module that a join goes through.
    void on_the_way(const wiring::Join& j, Cause& out) const {
        if (j.channel < 0) return;
        const wiring::Channel& channel = base::at(model_.wiring.channels, j.channel);
        const std::string module = "rack." + base::at(model_.wiring.modules, channel.module).name;
        for (const std::string& fault : session::faults_text(session_)) {
            if (names_device(fault, module)) out.because.push_back({"fault: " + fault, {}});
        }
    }

    /// The last order to the device, if what changed came promptly after it, or if it is the last at all.
    const Deed* order_behind(const Signal& signal, const std::string& device) const {
        const trace::Moment* moment = last_change(trace_, signal);
        const Deed* found = nullptr;
        for (const Deed& d : deeds_) {
            const bool before = moment == nullptr || d.time <= moment->time;
            if (before && names_device(d.text, device)) found = &d;
        }
        if (trace_.channels().empty()) return found;
        if (found == nullptr || moment == nullptr || moment->time <= trace_.begin_time()) return nullptr;
        return moment->time - found->time <= kPrompt + held_for(*found) ? found : nullptr;
    }

    /// "press panel.stop for 200 ms": it lets go so much later.
    static base::Nanoseconds held_for(const Deed& deed) {
        const std::size_t at = deed.text.rfind(" for ");
        if (at == std::string::npos) return {};
        const auto time = base::read_quantity(deed.text.substr(at + 5), base::Dimension::Time);
        return time.fault == base::QuantityFault::None ? base::from_seconds(time.si_value) : base::Nanoseconds{};
    }

    /// How the device is: what is behind a signal that nobody touched.
    void actuals_of(const Signal& signal, Cause& out) {
        const plant::DeviceModel& device = model_.plant->device(signal.reading.device);
        for (std::size_t a = 0; a < device.kind->actuals.size(); ++a) {
            const auto reading = plant::find_actual(*model_.plant, device.name, device.kind->actuals[a].name);
            if (!reading || *reading == signal.reading) continue;
            const std::string name = fmt::format("plant.{}.{}", device.name, device.kind->actuals[a].name);
            const auto actual = session::find_signal(model_, name);
            if (actual)
                out.because.push_back({fmt::format("{}.{} is {}", device.name, device.kind->actuals[a].name,
                                                   session::value_text(session_, *actual)),
                                       {}});
            if (out.because.size() == 3) return;  // how it stands, not all that it counts
        }
    }

    // --- controllers ---
    void tag(const Signal& signal, Cause& out) {
        // A force lies over everything else; a controller that stands neither samples nor works anything out.
        if (forced(signal, out)) return;
        if (!session_.controller(signal.controller).running) {
            out.because.push_back(
                {fmt::format("controller {} is stopped", base::at(model_.controllers, signal.controller).name), {}});
            return;
        }
        if (joined(signal, out)) return;
        if (over_link(signal, out)) return;
        const logic::Program& program = *base::at(model_.controllers, signal.controller).program;
        const std::vector<std::byte>& memory = session_.controller(signal.controller).memory;
        const bool off = signal.type == logic::Elementary::Bool &&
                         logic::read_bits(memory.data(), signal.type, signal.spot.offset, signal.spot.bit) == 0;
        if (!off) return written(signal, program, out);
        logic::Why why(program, memory, session_.now().count());
        for (const logic::KeptOff& k : why.kept_off(signal.spot.offset, signal.spot.bit)) {
            Cause part{fmt::format("kept off by {}   ({}{})", fmt::join(k.missing, "; "),
                                   k.drawn ? k.unit + ", " : std::string(), k.place.text()),
                       {}};
            for (const std::string& missing : k.missing) {
                for (const std::string& name : names_in(missing)) add(name, k.unit, signal.controller, part);
            }
            out.because.push_back(std::move(part));
        }
        if (out.because.empty()) written(signal, program, out);
    }

    /// What its controller, elsewhere, has set; why it did cannot be seen from here.
    bool over_link(const Signal& signal, Cause& out) const {
        const controller::ControllerModel& c = base::at(model_.controllers, signal.controller);
        if (!c.remote()) return false;
        const bool up = session_.controller(signal.controller).link.up;
        out.because.push_back({up ? fmt::format("so it came over the link from {}, which is executed elsewhere", c.name)
                                  : fmt::format("the link to {} is lost, so its safe value counts", c.name),
                               {}});
        for (const std::string& fault : session::faults_text(session_)) {
            if (fault.starts_with("link " + c.name + " ")) out.because.push_back({"fault: " + fault, {}});
        }
        return true;
    }

    bool forced(const Signal& signal, Cause& out) const {
        const controller::Force* force = controller::acting_force(session_.controller(signal.controller), signal.spot);
        if (force == nullptr) return false;
        const std::string what = fmt::format("{} is forced", force->name);
        const Deed* order = nullptr;
        for (const Deed& d : deeds_) {
            if (base::fold(d.text).starts_with("force ") && names_device(d.text, force->name)) order = &d;
        }
        out.because.push_back(
            {order == nullptr ? what : fmt::format("{}: {} at {}", what, order->text, base::clock_text(order->time)),
             {}});
        return true;
    }

    /// A name as the unit has it: one of its own first.
    void add(const std::string& name, const std::string& unit, int controller, Cause& out) {
        const std::size_t end = unit.rfind(" of ");
        const std::string path = end == std::string::npos ? unit : unit.substr(end + 4);
        const std::string prefix =
            model_.controllers.size() > 1 ? base::at(model_.controllers, controller).name + "." : std::string();
        for (const std::string& tried : {fmt::format("{}{}.{}", prefix, path, name), prefix + name}) {
            const auto signal = session::find_signal(model_, tried);
            if (!signal || signal->of_plant()) continue;
            out.because.push_back(of(name, *signal));
            return;
        }
    }

    /// An input of the map, or the far end of a jumper.
    bool joined(const Signal& signal, Cause& out) {
        for (const wiring::Join& j : model_.wiring.inputs) {
            const bool whole = j.offset == signal.spot.offset && (j.bit == signal.spot.bit || signal.spot.bit < 0);
            if (j.controller != signal.controller || !whole) continue;
            const std::string name = base::at(model_.plant->points, j.point).name;
            const auto point = session::find_signal(model_, "plant." + name);
            if (!point) continue;
            on_the_way(j, out);
            Cause cause = of(name, *point);
            if (!j.scaling_text.empty()) cause.text += fmt::format(" (map: {})", j.scaling_text);
            out.because.push_back(std::move(cause));
            return true;
        }
        for (const wiring::Jumper& j : model_.wiring.jumpers) {
            if (j.controller != signal.controller || !(j.spot == signal.spot)) continue;
            if (j.from.controller < 0) {
                const std::string name = base::at(model_.plant->points, j.from.point).name;
                if (const auto point = session::find_signal(model_, "plant." + name))
                    out.because.push_back(of(name, *point));
            } else if (j.from.spot.variable >= 0) {
                const logic::Variable& v =
                    base::at(base::at(model_.controllers, j.from.controller).program->variables, j.from.spot.variable);
                out.because.push_back(
                    of(v.path, session::signal_of_variable(model_, j.from.controller, j.from.spot.variable)));
            }
            return true;
        }
        return false;
    }

    void written(const Signal& signal, const logic::Program& program, Cause& out) const {
        if (signal.spot.variable < 0) return;
        const logic::Variable& v = base::at(program.variables, signal.spot.variable);
        if (v.uses == nullptr) return;
        for (const logic::UseSite& use : *v.uses) {
            if (use.write) out.because.push_back({fmt::format("written in {}   ({})", use.unit, use.place.text()), {}});
        }
    }

    const session::Session& session_;
    const session::SessionModel& model_;
    const trace::Trace& trace_;
    const std::vector<Deed>& deeds_;
    std::set<std::tuple<int, std::uint32_t, int, plant::Reading::Source, int, int>> seen_;
};

void add_lines(const Cause& cause, std::size_t depth, std::vector<std::string>& out) {
    out.push_back(std::string(depth * 2, ' ') + cause.text);
    for (const Cause& c : cause.because) add_lines(c, depth + 1, out);
}

}  // namespace

Cause cause_of(const session::Session& session, const trace::Trace& trace, const std::vector<Deed>& deeds,
               const std::string& name, const Signal& signal) {
    return CauseFinder(session, trace, deeds).of(name, signal);
}

std::vector<Cause> causes_of(const session::Session& session, const trace::Trace& trace, const std::vector<Deed>& deeds,
                             const std::vector<std::pair<std::string, Signal>>& signals) {
    CauseFinder finder(session, trace, deeds);
    std::vector<Cause> out;
    for (const auto& [name, signal] : signals) out.push_back(finder.of(name, signal));
    return out;
}

std::optional<base::Nanoseconds> changed_at(const trace::Trace& trace, const Signal& signal) {
    const trace::Moment* moment = last_change(trace, signal);
    if (moment == nullptr || moment->time <= trace.begin_time()) return std::nullopt;
    return moment->time;
}

std::vector<std::string> lines_of(const Cause& cause) {
    std::vector<std::string> out;
    add_lines(cause, 0, out);
    return out;
}

}  // namespace vyard::procedure
