// Values that replace what the files say: a build with an override is the build of files that were edited by hand.
#include "core/support.hpp"

using namespace vyard;

namespace {

struct Built {
    session::SessionModelPtr model;
    std::string problems;
};

Built build(const std::string& text, const std::string& scaling,
            const std::vector<std::pair<std::string, std::string>>& overrides) {
    test::PlantText p;
    p.add("tank.t", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}, {"level", "0.5 m"}})
        .add("level_transmitter.lt", {{"tank", "t"}});
    session::Definition definition = test::make_definition(text, p, {{"level", "lt.level", scaling}});
    for (const auto& [name, value] : overrides)
        definition.overrides.push_back({name, value, {base::make_source("--set", name), 1, 1}});
    base::Diagnostics diagnostics;
    Built out;
    out.model = session::build(definition, diagnostics).model;
    for (const base::Diagnostic& d : diagnostics.list()) {
        if (d.severity == base::Severity::Error) out.problems += d.message + "\n";
    }
    return out;
}

std::string logic_text(const std::string& global, const std::string& own, const std::string& block) {
    return "VAR_GLOBAL CONSTANT\n  most : INT := " + global +
           ";\nEND_VAR\nVAR_GLOBAL level AT %IW0 : INT; n, m : INT; t : TIME; END_VAR\n"
           "FUNCTION_BLOCK f VAR CONSTANT step : INT := " +
           block +
           "; END_VAR VAR_OUTPUT y : INT; END_VAR y := y + step; END_FUNCTION_BLOCK\n"
           "PROGRAM main VAR CONSTANT limit : TIME := " +
           own +
           "; END_VAR VAR a, b : f; END_VAR\na(); b(); t := limit; IF level > most THEN n := a.y; ELSE m := b.y; "
           "END_IF; END_PROGRAM\n";
}

bool alike(const session::SessionModel& a, const session::SessionModel& b) {
    const logic::Program &x = *a.controllers[0].program, &y = *b.controllers[0].program;
    const wiring::Scaling &s = a.wiring.inputs[0].scaling, &t = b.wiring.inputs[0].scaling;
    return logic::code_text(x) == logic::code_text(y) && x.initial_memory == y.initial_memory && s.gain == t.gain &&
           s.offset == t.offset && s.tag_low == t.tag_low && s.tag_high == t.tag_high && s.point_low == t.point_low &&
           s.point_high == t.point_high;
}

}  // namespace

TEST_CASE("overrides: constants of all places x ends of a scaling, as if the files had been edited") {
    const std::string kUsual = logic_text("100", "T#2s", "1"), kScaling = "0 m..2 m -> 0..20000";
    const Built usual = build(kUsual, kScaling, {});
    REQUIRE(usual.problems == "");
    using Overrides = std::vector<std::pair<std::string, std::string>>;
    const struct {
        Overrides overrides;
        std::string text;
    } kLogic[] = {
        {{}, kUsual},
        {{{"most", "-250"}}, logic_text("-250", "T#2s", "1")},
        {{{"MAIN.limit", "T#850ms"}}, logic_text("100", "T#850ms", "1")},
        {{{"main.a.step", "16#10"}}, logic_text("100", "T#2s", "16")},
        {{{"main.limit", "LTIME#3s"}, {"most", "7"}, {"main.b.step", "3"}}, logic_text("7", "T#3s", "3")},
    };
    const struct {
        Overrides overrides;
        std::string scaling;
    } kMaps[] = {
        {{}, kScaling},
        {{{"map.level.tag_high", "22000"}}, "0 m..2 m -> 0..22000"},
        {{{"map.level.point_low", "0.1 m"}, {"map.LEVEL.tag_low", "4000"}}, "0.1 m..2 m -> 4000..20000"},
        {{{"map.level.point_high", "150 cm"}}, "0 m..150 cm -> 0..20000"},
    };
    int different = 0;
    for (const auto& l : kLogic) {
        for (const auto& m : kMaps) {
            Overrides all = l.overrides;
            all.insert(all.end(), m.overrides.begin(), m.overrides.end());
            const Built overridden = build(kUsual, kScaling, all), edited = build(l.text, m.scaling, {});
            CAPTURE(l.text);
            CAPTURE(m.scaling);
            CHECK(overridden.problems == "");
            CHECK(edited.problems == "");
            if (!overridden.model || !edited.model) continue;
            CHECK(alike(*overridden.model, *edited.model));
            different += alike(*overridden.model, *usual.model) ? 0 : 1;
        }
    }
    CHECK(different == 5 * 4 - 1);
    // Said twice the later one counts, also by another instance of the block; what contradicts itself is refused.
    for (const Overrides& twice : {Overrides{{"most", "1"}, {"most", "250"}},
                                   Overrides{{"main.a.step", "5"}, {"main.b.step", "5"}, {"most", "250"}}}) {
        const Built built = build(kUsual, kScaling, twice);
        CHECK(built.problems == "");
        REQUIRE(built.model != nullptr);
        CHECK(
            alike(*built.model, *build(logic_text("250", "T#2s", twice.size() == 3 ? "5" : "1"), kScaling, {}).model));
    }
    CHECK(build(kUsual, kScaling, {{"main.a.step", "5"}, {"main.b.step", "6"}}).problems ==
          "'main.b.step' is the same CONSTANT as 'main.a.step', which is set to 5\n");
    const auto problem = [&](const char* name, const char* value) {
        return build(kUsual, kScaling, {{name, value}}).problems;
    };
    CHECK(problem("most", "many") == "'many' is not a valid value for most, which is INT\n");
    CHECK(problem("map.level.high", "3").starts_with("neither a device's key, nor an end of a scaling, nor a tag"));
    CHECK(problem("map.level.tag_high", "x") != "");
    CHECK(build("VAR_GLOBAL CONSTANT a, b : INT := 5; END_VAR VAR_GLOBAL level AT %IW0 : INT; n : INT; END_VAR PROGRAM "
                "p n := a + b + level; "
                "END_PROGRAM",
                kScaling, {{"a", "3"}})
              .problems == "'a' is a CONSTANT without a value of its own in the files\n");
}
