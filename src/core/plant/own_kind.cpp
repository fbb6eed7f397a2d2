#include "core/plant/own_kind.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

namespace vyard::plant {

using base::Code;
using base::Dimension;
using logic::Elementary;

namespace {

constexpr std::int64_t kBudget = 1'000'000;  ///< Instructions a device may do in loops and calls, each step.
constexpr std::size_t kHead = 8;             ///< Before the memory of the block: whether it has stopped, has begun.

std::byte* memory(std::byte* state) {
    return state + kHead;
}
const std::byte* memory(const std::byte* state) {
    return state + kHead;
}
bool stopped(const std::byte* state) {
    return state[0] != std::byte{0};
}

/// Until its first step what it shows is a look ahead, which stands in its model behind the parameters: the block has
/// not run at power-up, and its outputs are known all the same.
std::size_t look_ahead_at(const Kind& kind) {
    return kind.model_size - kind.own->program->initial_memory.size();
}
const std::byte* looked_at(const Kind& kind, const std::byte* model, const std::byte* state) {
    const bool begun = state[1] != std::byte{0};
    return begun ? memory(state) : model + look_ahead_at(kind);
}

void run(const OwnKind& own, std::byte* state, std::int64_t now_ns) {
    const auto done =
        logic::execute(own.program->view(), own.program->tasks.front().entry, memory(state), now_ns, kBudget);
    if (done.outcome != logic::Outcome::Done) state[0] = std::byte{1};
}

/// What the parameters of a file set: numbers in the order of the kind's list.
double parameter(const std::byte* model, std::size_t number) {
    double value = 0.0;
    std::memcpy(&value, model + number * sizeof value, sizeof value);
    return value;
}

class Maker {
  public:
    Maker(const OwnKindDefinition& definition, base::Diagnostics& diagnostics)
        : definition_(definition), diagnostics_(diagnostics) {}

    std::shared_ptr<const Kind> make() {
        auto own = std::make_shared<OwnKind>();
        std::vector<base::SourcePtr> sources = definition_.logic;
        sources.push_back(base::make_source(
            "device", fmt::format("PROGRAM device VAR own : {}; END_VAR own(); END_PROGRAM", definition_.block)));
        const int before = diagnostics_.error_count();
        base::Diagnostics found;
        own->program = logic::compile(sources, found);
        for (const base::Diagnostic& d : found.list()) {
            if (d.severity != base::Severity::Error) continue;
            const bool ours = d.place.source == sources.back();
            diagnostics_.error(d.code, ours ? definition_.block_place : d.place, d.message, d.hint);
        }
        if (own->program == nullptr || diagnostics_.error_count() > before) return nullptr;
        kind_ = std::make_shared<Kind>();
        kind_->name = definition_.name;
        kind_->family = "own";
        kind_->summary =
            definition_.summary.empty() ? fmt::format("behaves as {}", definition_.block) : definition_.summary;
        own_ = own.get();
        for (const logic::Variable& v : own->program->variables) {
            constexpr std::string_view kPath = "device.own.";
            if (v.path.starts_with(kPath)) add(v.path.substr(kPath.size()), v);
        }
        check_lists();
        check_names();
        kind_->state_size = kHead + own->program->initial_memory.size();
        kind_->model_size = 8 * kind_->parameters.size() + own->program->initial_memory.size();
        kind_->make_model = [](std::byte*) {};
        kind_->make_state = [](std::byte*) {};
        kind_->actuate = [](const std::byte*, std::byte* state, Step& step) {
            const OwnKind& o = *step.device->kind->own;
            for (const OwnKind::Wire& w : o.from_controller) {
                if (logic::is_text(w.type)) {
                    logic::assign_text(memory(state) + w.offset, w.type, step.text_output(w.point));
                } else {
                    logic::write_number(memory(state), w.type, w.offset, w.bit, step.output(w.point));
                }
            }
            const auto now = static_cast<std::int64_t>(std::llround(step.state.step_number * step.dt_s * 1e9));
            state[1] = std::byte{1};
            if (!stopped(state)) run(o, state, now);
            for (std::size_t m = 0; m < o.mishaps.size(); ++m) {
                const OwnKind::Wire& w = o.mishaps[m];
                step.mishap(static_cast<int>(m), logic::read_number(memory(state), w.type, w.offset, w.bit) != 0.0);
            }
        };
        kind_->sense = [](const std::byte* model, std::byte* state, Step& step) {
            const std::byte* shown = looked_at(*step.device->kind, model, state);
            for (const OwnKind::Wire& w : step.device->kind->own->to_controller) {
                if (logic::is_text(w.type)) {
                    step.text_input(w.point, logic::read_text(shown + w.offset, w.type));
                } else {
                    const double value = logic::read_number(shown, w.type, w.offset, w.bit);
                    step.input(w.point, std::isfinite(value) ? value : 0.0);  // a wire carries no other
                }
            }
        };
        kind_->actuals.push_back({"stopped", PointType::Boolean, Dimension::Plain, "its block met a run-time fault",
                                  [](const std::byte*, const std::byte* s, const PlantModel&, const PlantState&, int) {
                                      return stopped(s) ? 1.0 : 0.0;
                                  }});
        const auto moving = std::find_if(kind_->actuals.begin(), kind_->actuals.end(), [](const ActualSpec& a) {
            return a.type == PointType::Boolean && (a.name == "moving" || a.name == "actual_moving");
        });
        if (moving != kind_->actuals.end()) kind_->moving = static_cast<int>(moving - kind_->actuals.begin());
        kind_->own = std::move(own);
        if (kind_->points.size() > kMaxPoints) {
            diagnostics_.error(Code::OutOfRange, definition_.place,
                               fmt::format("'{}' has {} points, a device has at most {}", definition_.name,
                                           kind_->points.size(), kMaxPoints));
            return nullptr;
        }
        return diagnostics_.error_count() > before ? nullptr : kind_;
    }

  private:
    static bool listed(const std::vector<DefinitionValue>& list, const std::string& name) {
        return std::any_of(list.begin(), list.end(),
                           [&](const DefinitionValue& v) { return base::fold(v.text) == base::fold(name); });
    }

    void add(const std::string& name, const logic::Variable& v) {
        const bool input = v.section == logic::Section::Input, output = v.section == logic::Section::Output;
        const PointType type = v.type == Elementary::Bool ? PointType::Boolean
                               : logic::is_text(v.type)   ? PointType::Text
                               : logic::is_real(v.type)   ? PointType::Analog
                                                          : PointType::Number;
        if (type != PointType::Text && !logic::is_scalar(v.type)) return;
        if (input) inputs_.push_back(name);
        if (output && type == PointType::Boolean) signs_.push_back(name);
        const std::string help =
            v.description.empty() ? fmt::format("{} of {}", name, definition_.block) : v.description;
        const OwnKind::Wire wire{static_cast<int>(kind_->points.size()), v.type, v.offset, v.bit};
        if (type == PointType::Text && refused_text(name, input)) return;
        if (input && listed(definition_.parameters, name)) {
            add_parameter(name, wire, help);
        } else if (input && listed(definition_.controls, name)) {
            add_control(name, wire, help);
        } else if (input && listed(definition_.faults, name)) {
            add_fault(name, wire, help);
        } else if (input) {
            kind_->points.push_back({name, PointDirection::Output, type, Dimension::Plain, help, {}, {}, {}, {}, {}});
            own_->from_controller.push_back(wire);
        } else if (output && type == PointType::Boolean && listed(definition_.mishaps, name)) {
            kind_->mishaps.push_back({base::fold(name), help});
            own_->mishaps.push_back(wire);
            return;
        } else if (output) {
            kind_->points.push_back({name, PointDirection::Input, type, Dimension::Plain, help, {}, {}, {}, {}, {}});
            own_->to_controller.push_back(wire);
        }
        if (input || type == PointType::Text || name.find('.') != std::string::npos) return;
        // What an output truly is, whatever its wire shows, has a name of its own.
        kind_->actuals.push_back(
            {output ? "actual_" + name : name, type, Dimension::Plain, help,
             [wire](const std::byte* m, const std::byte* s, const PlantModel& plant, const PlantState&, int device) {
                 return logic::read_number(looked_at(*plant.device(device).kind, m, s), wire.type, wire.offset,
                                           wire.bit);
             }});
    }

    /// A text can be a point, and nothing else of a device.
    bool refused_text(const std::string& name, bool input) {
        if (!input) return false;
        for (const auto* list : {&definition_.parameters, &definition_.controls, &definition_.faults}) {
            for (const DefinitionValue& value : *list) {
                if (base::fold(value.text) != base::fold(name)) continue;
                diagnostics_.error(Code::TypeMismatch, value.place,
                                   fmt::format("'{}' is a string; strings can only be points of a device", name));
                return true;
            }
        }
        return false;
    }

    void add_parameter(const std::string& name, const OwnKind::Wire& wire, const std::string& help) {
        ParameterSpec p;
        p.name = name;
        p.help = help;
        p.low = -1e15;
        p.high = 1e15;
        p.default_text = fmt::format(
            "{}", logic::read_number(own_->program->initial_memory.data(), wire.type, wire.offset, wire.bit));
        const std::size_t number = kind_->parameters.size();
        p.store = [number](std::byte* model, const ParameterValue& v) {
            const double value = std::get<double>(v);
            std::memcpy(model + number * sizeof value, &value, sizeof value);
        };
        kind_->parameters.push_back(std::move(p));
        kind_->parameter_wires.push_back({wire.offset, wire.bit, static_cast<int>(wire.type)});
    }

    void add_control(const std::string& name, const OwnKind::Wire& wire, const std::string& help) {
        ControlSpec c;
        c.verb = base::fold(name);
        c.takes_value = true;
        c.low = -1e15;
        c.high = 1e15;
        c.help = help;
        c.act = [wire](const std::byte*, std::byte* s, double v) {
            logic::write_number(memory(s), wire.type, wire.offset, wire.bit, v);
        };
        kind_->controls.push_back(std::move(c));
    }

    void add_fault(const std::string& name, const OwnKind::Wire& wire, const std::string& help) {
        FaultSpec f;
        f.name = base::fold(name);
        f.default_amount = 1.0;
        f.takes_amount = wire.type != Elementary::Bool;
        f.help = help;
        f.set = [wire](std::byte* s, double v) { logic::write_number(memory(s), wire.type, wire.offset, wire.bit, v); };
        f.read = [wire](const std::byte* s) { return logic::read_number(memory(s), wire.type, wire.offset, wire.bit); };
        kind_->faults.push_back(std::move(f));
    }

    void check_lists() {
        for (const auto* list : {&definition_.parameters, &definition_.controls, &definition_.faults}) {
            for (const DefinitionValue& v : *list) {
                const bool known = std::any_of(inputs_.begin(), inputs_.end(), [&](const std::string& name) {
                    return base::fold(name) == base::fold(v.text);
                });
                if (!known)
                    diagnostics_.error(Code::UnknownName, v.place,
                                       fmt::format("{} has no input '{}'", definition_.block, v.text),
                                       base::name_hint(v.text, inputs_));
            }
        }
        for (const DefinitionValue& v : definition_.mishaps) {
            const bool known = std::any_of(signs_.begin(), signs_.end(), [&](const std::string& name) {
                return base::fold(name) == base::fold(v.text);
            });
            if (!known)
                diagnostics_.error(Code::UnknownName, v.place,
                                   fmt::format("{} has no output '{}' of type BOOL", definition_.block, v.text),
                                   base::name_hint(v.text, signs_));
        }
        if (kind_->mishaps.size() > static_cast<std::size_t>(kMostMishaps))
            diagnostics_.error(Code::OutOfRange, definition_.place,
                               fmt::format("'{}' has {} mishaps, a device has at most {}", definition_.name,
                                           kind_->mishaps.size(), kMostMishaps));
    }

    /// No name means two things, and no control is named as an order is, or orders could not be told apart.
    void check_names() {
        for (const DefinitionValue& v : definition_.controls) {
            const auto& words = order_words();
            if (std::find(words.begin(), words.end(), base::fold(v.text)) != words.end())
                diagnostics_.error(
                    Code::DuplicateName, v.place,
                    fmt::format("'{}' is a word of orders and procedures; name the control otherwise", v.text));
        }
        for (const DefinitionValue& v : definition_.parameters) {
            if (base::fold(v.text) == "place")
                diagnostics_.error(Code::DuplicateName, v.place,
                                   "'place' says where a device is drawn; name the parameter otherwise");
        }
        std::vector<std::string> names = {"stopped"};
        for (const PointSpec& p : kind_->points) names.push_back(base::fold(p.name));
        for (const ActualSpec& a : kind_->actuals) names.push_back(base::fold(a.name));
        for (const FaultSpec& f : kind_->faults) names.push_back(f.name);
        for (const MishapSpec& m : kind_->mishaps) names.push_back(m.name);
        std::sort(names.begin(), names.end());
        const auto twice = std::adjacent_find(names.begin(), names.end());
        if (twice != names.end())
            diagnostics_.error(Code::DuplicateName, definition_.place,
                               fmt::format("kind '{}' has two things named '{}'", definition_.name, *twice));
    }

    const OwnKindDefinition& definition_;
    base::Diagnostics& diagnostics_;
    std::shared_ptr<Kind> kind_;
    OwnKind* own_ = nullptr;
    std::vector<std::string> inputs_, signs_;  ///< Its inputs, and its outputs that are TRUE or FALSE.
};

}  // namespace

const std::vector<std::string>& order_words() {
    static const std::vector<std::string> all = {
        "all",       "always", "at",     "before", "drive",    "undrive",  "end",     "everything", "exit",
        "expect",    "fault",  "for",    "force",  "forces",   "forward",  "from",    "go",         "heal",
        "help",      "in",     "item",   "keep",   "list",     "lists",    "mark",    "measure",    "never",
        "not",       "note",   "on",     "pace",   "panel",    "pause",    "picture", "place",      "power",
        "procedure", "quit",   "record", "reload", "repeat",   "restart",  "restore", "rewind",     "rule",
        "rules",     "run",    "scan",   "shift",  "show",     "snapshot", "start",   "status",     "step",
        "stop",      "swap",   "table",  "take",   "then",     "to",       "unforce", "unit",       "until",
        "unwatch",   "wait",   "watch",  "when",   "whenever", "why",      "within",  "write"};
    return all;
}

std::shared_ptr<const Kind> make_own_kind(const OwnKindDefinition& definition, base::Diagnostics& diagnostics) {
    return Maker(definition, diagnostics).make();
}

void set_own_parameters(const Kind& kind, const std::byte* model, std::byte* state) {
    for (std::size_t p = 0; p < kind.parameter_wires.size(); ++p) {
        const ParameterWire& w = kind.parameter_wires[p];
        logic::write_number(memory(state), static_cast<Elementary>(w.type), w.offset, w.bit, parameter(model, p));
    }
}

void start_own_device(const Kind& kind, std::byte* model, std::byte* state) {
    const std::vector<std::byte>& start = kind.own->program->initial_memory;
    std::fill_n(state, kHead, std::byte{0});
    std::copy(start.begin(), start.end(), memory(state));
    set_own_parameters(kind, model, state);
    std::vector<std::byte> ahead(state, state + kHead + start.size());
    run(*kind.own, ahead.data(), 0);
    const std::byte* shown = stopped(ahead.data()) ? memory(state) : memory(ahead.data());
    std::copy_n(shown, start.size(), model + look_ahead_at(kind));
}

}  // namespace vyard::plant
