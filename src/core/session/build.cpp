#include "core/session/build.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/plant/plant.hpp"
#include "core/session/overriding.hpp"
#include "core/wiring/wiring.hpp"

namespace vyard::session {

using base::Code;
using base::Nanoseconds;
using controller::ControllerModel;
using plant::DefinitionValue;

class Builder {
  public:
    Builder(const Definition& definition, base::Diagnostics& diagnostics)
        : definition_(definition), diagnostics_(diagnostics), model_(new SessionModel) {}

    Built run() {
        Built built;
        model_->name = definition_.name;
        model_->step = definition_.step;
        const int before = diagnostics_.error_count();
        for (const ControllerDefinition& c : definition_.controllers) controller(c);
        plant();
        built.names_known = diagnostics_.error_count() == before;
        map();
        if (built.names_known) links();
        if (built.names_known) stimuli();
        for (std::size_t i = 0; i < definition_.overrides.size(); ++i) {
            if (!used_[i]) unknown_override(definition_.overrides[i]);
        }
        for (std::size_t c = 0; c < model_->controllers.size(); ++c)
            model_->controllers[c].outputs =
                wiring::lay_out_outputs(model_->wiring, static_cast<int>(c), model_->controllers[c]);
        if (built.names_known && model_->plant != nullptr) expectations(built);
        const bool logic_left_out = model_->controllers.empty() && !definition_.controllers.empty();
        if (model_->plant != nullptr && !logic_left_out) built.checked = model_;
        if (!diagnostics_.has_errors()) built.model = model_;
        return built;
    }

  private:
    // --- controllers ---
    void controller(const ControllerDefinition& d) {
        ControllerModel c;
        c.name = d.name;
        c.scan = d.scan.value_or(Nanoseconds(10'000'000));
        if (c.scan.count() % model_->step.count() != 0) {
            diagnostics_.error(Code::BadTiming, d.scan_place.known() ? d.scan_place : d.place,
                               fmt::format("the scan of {} is not a multiple of the plant's time step of {}",
                                           base::time_text(c.scan), base::time_text(model_->step)),
                               "choose a time_step that divides every scan");
        }
        c.watchdog = d.watchdog;
        if (d.link) c.link = d.link->model;
        if (d.max_instructions) c.max_instructions = *d.max_instructions;
        if (d.logic.empty()) return;
        used_.resize(definition_.overrides.size(), false);
        base::Diagnostics found;
        logic::CheckedProgram checked = logic::check_program(d.logic, found, definition_.coverage);
        const auto sources =
            with_constants(d.logic, *checked.program, d.name, definition_.overrides, used_, diagnostics_);
        if (sources != d.logic) {
            found = {};
            checked = logic::check_program(sources, found, definition_.coverage);
        }
        const bool remote = d.link && d.link->model.role != controller::LinkRole::Screen && !d.link->model.here;
        for (const base::Diagnostic& one : found.list()) {
            if (!remote || !says_unused(one.code)) diagnostics_.add(one);
        }
        c.program = initial_values(checked.program, d.name);
        const auto wanted = logic::scan_of_tasks(*c.program);
        if (wanted && !d.scan && wanted->count() % model_->step.count() == 0) c.scan = *wanted;
        tasks(c, d.place);
        left_out_.insert(left_out_.end(), checked.left_out.begin(), checked.left_out.end());
        for (const SafeDefinition& safe : d.safe) safe_value(safe, c);
        for (const SafeDefinition& s : d.screen) screen_tag(s, c);
        links_.push_back(d.link ? &*d.link : nullptr);
        writable_.emplace_back();
        for (const SafeDefinition& s : d.link ? d.link->write : std::vector<SafeDefinition>()) {
            const int v = tag_number(s, c);
            if (v < 0) continue;
            writable_.back().push_back(v);
            c.screen.push_back(v);  // somebody writes it
        }
        for (wiring::Module module : d.rack) {
            module.controller = static_cast<int>(model_->controllers.size());
            rack_.push_back(std::move(module));
        }
        model_->controllers.push_back(std::move(c));
    }

    /// Tasks run when their controller scans.
    void tasks(const ControllerModel& c, const base::Place& place) {
        for (const logic::Task& task : c.program->tasks) {
            if (task.interval.count() == 0 || task.interval.count() % c.scan.count() == 0) continue;
            diagnostics_.error(Code::BadTiming, place,
                               fmt::format("task '{}' wants to run every {}, which is not a multiple of the scan of {}",
                                           task.name, base::time_text(task.interval), base::time_text(c.scan)),
                               "choose a scan that divides every interval");
        }
    }

    /// What says that logic does not use a tag: of one that is executed elsewhere that is not known.
    static bool says_unused(Code code) {
        return code == Code::UnusedVariable || code == Code::NeverRead || code == Code::NeverWritten;
    }

    void links() {
        if (model_->plant == nullptr) return;
        const std::vector<wiring::MapRow> rows = definition_.map.value_or(std::vector<wiring::MapRow>());
        for (std::size_t c = 0; c < model_->controllers.size(); ++c) {
            if (links_[c] != nullptr)
                wiring::mark_direct(model_->controllers, static_cast<int>(c), links_[c]->asks, model_->wiring,
                                    diagnostics_);
        }
        for (std::size_t c = 0; c < model_->controllers.size(); ++c) {
            auto& link = model_->controllers[c].link;
            if (!link) continue;
            link->seed = definition_.plant->seed * 1'000'003 + c;
            link->registers = wiring::register_map(model_->controllers, static_cast<int>(c), model_->wiring, rows,
                                                   writable_[c], diagnostics_);
        }
        for (std::size_t c = 0; c < model_->controllers.size(); ++c) {
            if (links_[c] == nullptr) continue;
            wiring::resolve_direct(model_->controllers, static_cast<int>(c), links_[c]->asks, model_->wiring,
                                   diagnostics_);
            echoes(static_cast<int>(c), links_[c]->echo_place);
        }
    }

    /// Tags that repeat what came for inputs, by their names.
    void echoes(int c, const base::Place& place) {
        controller::LinkModel& link = *base::at(model_->controllers, c).link;
        if (link.echo.empty()) return;
        const logic::Program& program = *base::at(model_->controllers, c).program;
        std::string missing;
        for (const wiring::Join& j : model_->wiring.inputs) {
            if (j.controller != c) continue;
            const logic::Variable& input = base::at(program.variables, j.variable);
            std::string name = link.echo;
            name.replace(name.find('*'), 1, input.path);
            const logic::Variable* echo = program.find(name);
            if (echo == nullptr) {
                if (missing.empty()) missing = name;
                continue;
            }
            const int v = static_cast<int>(echo - program.variables.data());
            const bool comes = std::any_of(link.registers.begin(), link.registers.end(),
                                           [&](const auto& e) { return e.variable == v && !e.to_controller; });
            if (echo->type != input.type || !comes) {
                diagnostics_.error(Code::WrongValue, place, fmt::format("'{}' cannot repeat '{}'", name, input.path),
                                   comes ? "it is to have the same type"
                                         : "it is to come over the link: give it an address in %Q or %M");
            } else if (std::none_of(link.echoes.begin(), link.echoes.end(),
                                    [&](const auto& e) { return e.input == j.variable; })) {
                link.echoes.push_back({j.variable, v});
            }
        }
        if (link.echoes.empty() && !missing.empty())
            diagnostics_.error(Code::UnknownTag, place,
                               fmt::format("no tag repeats an input: none is named '{}'", missing),
                               "declare it in the tag table, with an address in %Q or %M");
    }

    void screen_tag(const SafeDefinition& d, ControllerModel& c) {
        if (const int v = tag_number(d, c); v >= 0) c.screen.push_back(v);
    }

    /// -1 after a report.
    int tag_number(const SafeDefinition& d, const ControllerModel& c) {
        if (const logic::Variable* v = c.program->find(d.tag); v != nullptr && v->is_tag)
            return static_cast<int>(v - c.program->variables.data());
        std::vector<std::string> known;
        for (const logic::Variable& v : c.program->variables) {
            if (v.is_tag) known.push_back(v.path);
        }
        diagnostics_.error(Code::UnknownTag, d.place, fmt::format("no tag is named '{}'", d.tag),
                           base::name_hint(d.tag, known));
        return -1;
    }

    void safe_value(const SafeDefinition& d, ControllerModel& c) {
        const logic::Variable* v = c.program->find(d.tag);
        if (v == nullptr || !v->is_tag) {
            std::vector<std::string> known;
            for (const logic::Variable& variable : c.program->variables) {
                if (variable.is_tag) known.push_back(variable.path);
            }
            diagnostics_.error(Code::UnknownTag, d.place, fmt::format("no tag is named '{}'", d.tag),
                               base::name_hint(d.tag, known));
            return;
        }
        std::string text = d.value.text;
        if (d.value.form == DefinitionValue::Form::Flag) text = d.value.flag ? "TRUE" : "FALSE";
        if (d.value.form == DefinitionValue::Form::Number) text = fmt::format("{}", d.value.number);
        const bool inexact = d.value.form == DefinitionValue::Form::Number && std::abs(d.value.number) >= 0x1p53;
        if (inexact && !logic::is_real(v->type)) {
            diagnostics_.error(Code::WrongValue, d.value.place,
                               fmt::format("a number as large as this is not exact for '{}'", d.tag),
                               "write it in quotes, such as \"9007199254740993\"");
            return;
        }
        const bool flag = d.value.form == DefinitionValue::Form::Flag;
        auto parsed = logic::parse_value(text, v->type, v->names.get(), {.bare_text = true});
        if (parsed.value && (v->type == logic::Elementary::Bool) == flag) {
            c.safe_values.emplace_back(static_cast<int>(v - c.program->variables.data()), std::move(*parsed.value));
            return;
        }
        diagnostics_.error(Code::WrongValue, d.value.place, fmt::format("'{}' is {}", d.tag, logic::type_name(v->type)),
                           v->type == logic::Elementary::Bool ? "write true or false"
                           : parsed.expected.empty()          ? "write a value of its type"
                                                              : "write " + parsed.expected);
    }

    // --- overrides ---
    std::shared_ptr<const logic::Program> initial_values(const std::shared_ptr<const logic::Program>& program,
                                                         const std::string& controller) {
        used_.resize(definition_.overrides.size(), false);
        std::shared_ptr<logic::Program> changed;
        for (std::size_t i = 0; i < definition_.overrides.size(); ++i) {
            const Override& o = definition_.overrides[i];
            auto spot = wiring::find_spot(*program, o.name);
            if (!spot && base::fold(o.name).starts_with(base::fold(controller) + "."))
                spot = wiring::find_spot(*program, o.name.substr(controller.size() + 1));
            if (!spot || spot->variable < 0) continue;
            const logic::Variable& v = base::at(program->variables, spot->variable);
            if (v.constant) continue;  // see with_constants
            used_[i] = true;
            auto parsed = logic::parse_value(o.value, spot->type, v.names.get(), {.bare_text = true});
            if (!parsed.value) {
                diagnostics_.error(
                    Code::WrongValue, o.place,
                    fmt::format("'{}' is not a valid value for {}, which is {}", o.value, o.name, v.type_text),
                    "write " + parsed.expected);
                continue;
            }
            if (changed == nullptr) changed = std::make_shared<logic::Program>(*program);
            logic::write_value(changed->initial_memory.data(), *parsed.value, spot->offset, spot->bit);
        }
        return changed != nullptr ? changed : program;
    }

    /// Keys of devices as the overrides have them.
    plant::PlantDefinition overridden() {
        plant::PlantDefinition out = *definition_.plant;
        used_.resize(definition_.overrides.size(), false);
        for (std::size_t i = 0; i < definition_.overrides.size(); ++i) {
            const Override& o = definition_.overrides[i];
            const std::size_t dot = o.name.rfind('.');
            if (used_[i] || dot == std::string::npos) continue;
            for (plant::DeviceDefinition& device : out.devices) {
                if (base::fold(device.name) != base::fold(o.name.substr(0, dot))) continue;
                used_[i] = true;
                const std::string key = o.name.substr(dot + 1);
                auto found = std::find_if(device.keys.begin(), device.keys.end(),
                                          [&](const plant::DefinitionKey& k) { return k.name == key; });
                if (found == device.keys.end()) found = device.keys.insert(found, {key, o.place, {}});
                found->value = value_of(o);
            }
        }
        return out;
    }

    static DefinitionValue value_of(const Override& o) {
        DefinitionValue value;
        value.place = o.place;
        value.form = DefinitionValue::Form::Text;
        value.text = o.value;
        const auto number = base::read_quantity(o.value, base::Dimension::Plain);
        if (number.fault == base::QuantityFault::None) {
            value.form = DefinitionValue::Form::Number;
            value.number = number.si_value;
        } else if (o.value == "true" || o.value == "false") {
            value.form = DefinitionValue::Form::Flag;
            value.flag = o.value == "true";
        }
        return value;
    }

    void unknown_override(const Override& o) {
        std::vector<std::string> known;
        if (definition_.plant) {
            for (const plant::DeviceDefinition& device : definition_.plant->devices) {
                for (const plant::DefinitionKey& key : device.keys) known.push_back(device.name + "." + key.name);
            }
        }
        if (definition_.map) {
            for (const wiring::MapRow& row : *definition_.map) {
                if (row.scaling.find("->") == std::string::npos) continue;
                for (const char* end : {"point_low", "point_high", "tag_low", "tag_high"})
                    known.push_back(fmt::format("map.{}.{}", row.tag, end));
            }
        }
        for (const ControllerModel& c : model_->controllers) {
            for (const logic::Variable& v : c.program->variables) known.push_back(v.path);
        }
        diagnostics_.error(
            Code::UnknownName, o.place,
            fmt::format("neither a device's key, nor an end of a scaling, nor a tag is named '{}'", o.name),
            base::name_hint(o.name, known));
    }

    // --- plant, map, stimuli ---
    void plant() {
        if (!definition_.plant) return;
        plant::PlantDefinition definition = overridden();
        definition.step_s = base::to_seconds(model_->step);
        plant::CheckedPlant checked = plant::check_plant(definition, diagnostics_);
        model_->plant = checked.model;
        left_out_.insert(left_out_.end(), checked.left_out.begin(), checked.left_out.end());
    }

    void map() {
        // Mistakes of the plant's file come first; without logic the points are still checked.
        if (!definition_.map || model_->plant == nullptr) return;
        used_.resize(definition_.overrides.size(), false);
        const auto rows = with_scalings(*definition_.map, definition_.overrides, used_, diagnostics_);
        model_->wiring = wiring::build_wiring(rows, model_->controllers, *model_->plant, definition_.map_place,
                                              diagnostics_, left_out_, rack_);
        if (!diagnostics_.has_errors())
            wiring::warn_swapped(model_->controllers, *model_->plant, model_->wiring, definition_.map_place,
                                 diagnostics_);
    }

    void stimuli() {
        for (const StimulusDefinition& s : definition_.stimuli) {
            if (!s.value.empty() || s.expect.empty()) stimulus(s);
        }
        for (ControllerModel& c : model_->controllers) {
            std::stable_sort(c.stimuli.begin(), c.stimuli.end(),
                             [](const auto& a, const auto& b) { return a.time < b.time; });
        }
    }

    /// Expectations are read once the outputs are laid out, as a tag of one is what leaves.
    void expectations(Built& built) {
        for (const StimulusDefinition& s : definition_.stimuli) {
            if (!s.expect.empty()) expectation(s, built);
        }
        std::stable_sort(built.expectations.begin(), built.expectations.end(),
                         [](const auto& a, const auto& b) { return a.time < b.time; });
    }

    void expectation(const StimulusDefinition& s, Built& built) {
        const Search found = search(*model_, s.tag);
        if (!found.signal) {
            diagnostics_.error(Code::UnknownName, s.tag_place, found.problem, found.hint);
            return;
        }
        const Signal& signal = *found.signal;
        std::string text = s.expect;
        const std::size_t mark = text.find("+-");
        const bool real = logic::is_real(signal.type);
        const auto number = [&](std::string_view part) -> std::optional<double> {
            const bool quantity = signal.of_plant() && signal.reading.dimension != base::Dimension::Plain;
            auto reading = base::read_quantity(part, base::Dimension::Plain);
            if (quantity && reading.fault != base::QuantityFault::None)
                reading = base::read_quantity(part, signal.reading.dimension);
            return reading.fault == base::QuantityFault::None ? std::optional(reading.si_value) : std::nullopt;
        };
        Expectation out{s.time, signal, s.tag, s.expect, {}, 0.0, s.expect_place};
        if (real) {
            const auto value = number(std::string_view(text).substr(0, mark));
            const auto tolerance =
                mark == std::string::npos ? std::optional(0.0) : number(std::string_view(text).substr(mark + 2));
            if (value && tolerance && *tolerance >= 0.0) {
                out.value = logic::value_of(signal.type, *value);
                out.tolerance = mark == std::string::npos ? 1e-6 * std::max(1.0, std::abs(*value)) : *tolerance;
                built.expectations.push_back(std::move(out));
                return;
            }
        } else if (auto parsed = logic::parse_value(text, signal.type, names_of(*model_, signal),
                                                    {.bare_seconds = true, .bare_text = true, .bits_for_bool = true});
                   parsed.value) {
            out.value = std::move(*parsed.value);
            built.expectations.push_back(std::move(out));
            return;
        }
        diagnostics_.error(
            Code::WrongValue, s.expect_place,
            fmt::format("'{}' cannot be expected of {}, which is {}", s.expect, s.tag, logic::type_name(signal.type)),
            real ? "write a number, such as 3.5 or 3.5 +- 0.1" : "");
    }

    void stimulus(const StimulusDefinition& s) {
        const auto found = wiring::find_spots(model_->controllers, s.tag);
        if (found.size() != 1) return unknown_tag(s, found);
        ControllerModel& c = base::at(model_->controllers, found[0].controller);
        const controller::Spot& spot = found[0].spot;
        const logic::Variable* v = spot.variable >= 0 ? &base::at(c.program->variables, spot.variable) : nullptr;
        if (v != nullptr && v->constant) {
            diagnostics_.error(Code::NotAssignable, s.tag_place, fmt::format("'{}' is declared CONSTANT", s.tag));
            return;
        }
        const bool whole = v != nullptr && v->type == spot.type;
        auto parsed = logic::parse_value(s.value, spot.type, whole ? v->names.get() : nullptr,
                                         {.bare_seconds = true, .bare_text = true, .bits_for_bool = true});
        if (parsed.value) {
            c.stimuli.push_back({s.time, spot, std::move(*parsed.value)});
            return;
        }
        diagnostics_.error(
            Code::WrongValue, s.value_place,
            fmt::format("'{}' is not a valid value for {}, which is {}", s.value, s.tag,
                        whole ? v->type_text : logic::type_name(spot.type)),
            s.value.find(',') != std::string::npos ? "write a decimal point" : "write " + parsed.expected);
    }

    void unknown_tag(const StimulusDefinition& s, const std::vector<wiring::TagSpot>& found) {
        if (found.size() > 1) {
            std::string ways;
            for (const auto& f : found)
                ways += (ways.empty() ? "" : " or ") + wiring::spot_name(model_->controllers, f.controller, f.spot);
            diagnostics_.error(Code::UnknownTag, s.tag_place,
                               fmt::format("'{}' may mean {} different tags", s.tag, found.size()), "write " + ways);
            return;
        }
        std::vector<std::string> known;
        for (const ControllerModel& c : model_->controllers) {
            for (const logic::Variable& v : c.program->variables) known.push_back(v.path);
        }
        diagnostics_.error(Code::UnknownTag, s.tag_place, fmt::format("no variable is named '{}'", s.tag),
                           base::name_hint(s.tag, known));
    }

    const Definition& definition_;
    base::Diagnostics& diagnostics_;
    std::shared_ptr<SessionModel> model_;
    std::vector<bool> used_;  ///< Overrides.
    std::vector<wiring::Module> rack_;
    std::vector<const LinkDefinition*> links_;  ///< By controller; null for none.
    std::vector<std::vector<int>> writable_;    ///< By controller: variables that may be written over its link.
    std::vector<std::string> left_out_;  // names whose own mistakes were reported; the map is not blamed for them
};

Built build(const Definition& definition, base::Diagnostics& diagnostics) {
    return Builder(definition, diagnostics).run();
}

SessionModelPtr build_or_die(const Definition& definition) {
    base::Diagnostics diagnostics;
    const Built built = build(definition, diagnostics);
    VYARD_CHECK(built.model != nullptr);
    return built.model;
}

}  // namespace vyard::session
