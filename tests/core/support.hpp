// What the core tests share: sources and plants made in memory, runs of small programs.
#pragma once

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <array>

#include <string>
#include <vector>

#include "core/procedure/procedure.hpp"
#include "core/session/build.hpp"
#include "core/session/signals.hpp"
#include "core/trace/trace.hpp"

namespace vyard::test {

/// "line:col message [hint]" of each diagnostic, in order of place.
inline std::vector<std::string> lines_of(base::Diagnostics& diagnostics, bool warnings = false) {
    diagnostics.sort();
    std::vector<std::string> out;
    for (const base::Diagnostic& d : diagnostics.list()) {
        if (d.severity == base::Severity::Warning && !warnings) continue;
        std::string text = fmt::format("{}:{} {}", d.place.line, d.place.column, d.message);
        if (!d.hint.empty()) text += fmt::format(" [{}]", d.hint);
        out.push_back(std::move(text));
    }
    return out;
}

inline std::string joined(const std::vector<std::string>& lines) {
    std::string out;
    for (const std::string& line : lines) out += line + "\n";
    return out;
}

/// A compiled program with its memory, scanned by hand.
class Scanner {
  public:
    explicit Scanner(const std::string& text) {
        base::Diagnostics diagnostics;
        model_.name = "test";
        model_.program = logic::compile({base::make_source("test.st", text)}, diagnostics);
        const std::string problems = diagnostics.has_errors() ? diagnostics.render() : "";
        REQUIRE_MESSAGE(model_.program != nullptr, problems);
        state = controller::power_up(model_);
    }
    void scan(base::Nanoseconds step = base::Nanoseconds(10'000'000)) {
        controller::solve(model_, state, now);
        now += step;
    }
    double get(const std::string& path) const {
        const logic::Variable& v = variable(path);
        return logic::read_number(state.memory.data(), v.type, v.offset, v.bit);
    }
    void set(const std::string& path, double value) {
        const logic::Variable& v = variable(path);
        logic::write_number(state.memory.data(), v.type, v.offset, v.bit, value);
    }
    const logic::Variable& variable(const std::string& path) const {
        const logic::Variable* v = model_.program->find(path);
        REQUIRE_MESSAGE(v != nullptr, path);
        return *v;
    }
    controller::ControllerModel& model() { return model_; }

    controller::ControllerState state;
    base::Nanoseconds now{};

  private:
    controller::ControllerModel model_;
};

/// A plant written as rows: {"belt.a", {{"length", "1 m"}, {"at", "[0 m, 0 m]"}}}. `#5` is a bare number.
struct PlantText {
    using Keys = std::vector<std::pair<std::string, std::string>>;

    plant::PlantDefinition definition;
    int line = 0;

    static plant::DefinitionValue value(const std::string& text, const base::Place& place) {
        using Form = plant::DefinitionValue::Form;
        plant::DefinitionValue out;
        out.place = place;
        if (text.starts_with("[")) {
            out.form = Form::List;
            std::string part;
            for (const char c : text.substr(1)) {
                if (c != ',' && c != ']') {
                    if (!(c == ' ' && part.empty())) part += c;
                    continue;
                }
                out.list.push_back(value(part, place));
                part.clear();
            }
        } else if (text.starts_with("#")) {
            out.form = Form::Number;
            out.number = std::stod(text.substr(1));
        } else {
            out.form = Form::Text;
            out.text = text;
        }
        return out;
    }

    PlantText& add(const std::string& kind_and_name, const Keys& keys) {
        static const base::SourcePtr source = base::make_source("plant.toml", "");
        const std::size_t dot = kind_and_name.find('.');
        plant::DeviceDefinition d;
        ++line;
        d.kind = kind_and_name.substr(0, dot);
        d.name = kind_and_name.substr(dot + 1);
        d.place = d.kind_place = {source, line, 1, 1};
        int column = 2;
        for (const auto& [key, text] : keys) {
            const base::Place place{source, line, column++, 1};
            d.keys.push_back({key, place, value(text, place)});
        }
        (d.kind == "item" ? definition.items : definition.devices).push_back(std::move(d));
        return *this;
    }
    PlantText& colours(const std::vector<std::string>& names) {
        for (const std::string& name : names) definition.colours.push_back(value(name, {}));
        return *this;
    }
    PlantText& brick() { return add("item.brick", {{"size", "[200 mm, 100 mm, 80 mm]"}}); }
};

/// A built plant and its state, stepped by hand.
class Bench {
  public:
    explicit Bench(const PlantText& text, double step_s = 0.005) {
        plant::PlantDefinition definition = text.definition;
        definition.step_s = step_s;
        base::Diagnostics diagnostics;
        model = plant::build_plant(definition, diagnostics);
        const std::string problems = diagnostics.render();
        REQUIRE_MESSAGE(model != nullptr, problems);
        state = model->initial;
        plant::sense(*model, state);
    }
    void step(int count = 1) {
        for (int i = 0; i < count; ++i) {
            plant::step(*model, state);
            time_s += model->step_s;
        }
    }
    void run(double seconds) {
        const int steps = static_cast<int>(seconds / model->step_s + 0.5);
        step(steps);
    }
    /// Steps until the reading holds; the time it took, or -1 after `limit_s`.
    double until(const std::string& name, double value, double limit_s) {
        const double begin = time_s;
        while (time_s - begin < limit_s) {
            step();
            if (read(name) == value) return time_s - begin;
        }
        return -1.0;
    }
    double read(const std::string& name) const {
        const auto reading = plant::find_reading(*model, name);
        REQUIRE_MESSAGE(reading.has_value(), name);
        return plant::read(*model, state, *reading);
    }
    void drive(const std::string& point, double value) {
        const int p = model->find_point(point);
        REQUIRE_MESSAGE(p != plant::kNone, point);
        state.put(p, value);
    }
    int device(const std::string& name) const {
        const int d = model->find_device(name);
        REQUIRE_MESSAGE(d != plant::kNone, name);
        return d;
    }
    void control(const std::string& name, const std::string& verb, double value = 0.0) {
        const int d = device(name);
        const auto* control = base::at(model->devices, d).kind->find_control(verb);
        REQUIRE(control != nullptr);
        plant::use_control(*model, state, d, *control, value);
    }
    void fault(const std::string& name, const std::string& fault_name, double amount = 1.0) {
        const int d = device(name);
        const auto* fault = base::at(model->devices, d).kind->find_fault(fault_name);
        REQUIRE(fault != nullptr);
        plant::set_fault(*model, state, d, *fault, amount);
    }
    bool put(const std::string& surface, double along_m, int type = 0) {
        return plant::place_item(*model, state, type, device(surface), along_m);
    }
    plant::Item& item(std::size_t i) {
        REQUIRE(i < state.items.size());
        state.near.forget();  // a test may move it
        return state.items[i];
    }

    std::shared_ptr<const plant::PlantModel> model;
    plant::PlantState state;
    double time_s = 0.0;
};

/// A session from logic, plant and joins, all in memory; what is special about it is set in the definition.
inline session::Definition make_definition(const std::string& logic_text, const PlantText& plant_text,
                                           const std::vector<std::array<std::string, 3>>& joins,
                                           base::Nanoseconds scan = base::Nanoseconds(10'000'000)) {
    session::Definition definition;
    definition.name = "test";
    definition.plant = plant_text.definition;
    session::ControllerDefinition c;
    c.name = "line";
    c.scan = scan;
    c.logic = {base::make_source("test.st", logic_text)};
    definition.controllers.push_back(std::move(c));
    definition.map.emplace();
    for (const auto& [tag, point, scaling] : joins) definition.map->push_back({tag, {}, point, {}, scaling, {}, ""});
    return definition;
}

inline session::SessionModelPtr build(const session::Definition& definition) {
    base::Diagnostics diagnostics;
    const session::Built built = session::build(definition, diagnostics);
    const std::string problems = diagnostics.has_errors() ? diagnostics.render() : "";
    REQUIRE_MESSAGE(built.model != nullptr, problems);
    return built.model;
}

inline session::SessionModelPtr make_model(const std::string& logic_text, const PlantText& plant_text,
                                           const std::vector<std::array<std::string, 3>>& joins,
                                           base::Nanoseconds scan = base::Nanoseconds(10'000'000)) {
    return build(make_definition(logic_text, plant_text, joins, scan));
}

/// A safe value of the yard, as its file would say it.
inline session::SafeDefinition safe(const std::string& tag, const std::string& text) {
    return {tag, {}, PlantText::value(text, {})};
}

/// A force as an order gives it: "lamp", "TRUE".
inline void force(session::Session& s, const std::string& name, const std::string& text) {
    const auto spots = wiring::find_spots(s.model().controllers, name);
    REQUIRE_MESSAGE(spots.size() == 1, name);
    const auto value = logic::parse_value(text, spots[0].spot.type);
    REQUIRE_MESSAGE(value.value.has_value(), text);
    s.enter_force(spots[0].controller, {name, spots[0].spot, *value.value});
}

}  // namespace vyard::test
