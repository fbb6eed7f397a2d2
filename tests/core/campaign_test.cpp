// Campaigns: what they find in small machines with one planted mistake, and that they find nothing where there is none;
// that a run which is forked comes out as one that is run from its beginning.
#include <span>

#include "core/campaign_setup.hpp"

using namespace vyard;
using base::Nanoseconds;
using campaign::RunRow;
using campaign::Setup;
using test::PlantText;
using test::setup_of;

namespace {

constexpr const char* kTags =
    "VAR_GLOBAL\n"
    "  start_pb AT %IX0.0 : BOOL; stop_pb AT %IX0.1 : BOOL; estop_ok AT %IX0.2 : BOOL; reset_pb AT %IX0.3 : BOOL;\n"
    "  see AT %IX0.4 : BOOL; out_end AT %IX0.5 : BOOL; in_end AT %IX0.6 : BOOL;\n"
    "  run AT %QX0.0 : BOOL; go_out AT %QX0.1 : BOOL; go_in AT %QX0.2 : BOOL; alarm AT %QX0.3 : BOOL;\n"
    "END_VAR\n";

/// A belt that runs after a start, and a slide that goes out and in while it does; an alarm when the slide is late.
std::string text_of_logic(
    const std::string& running = "running := (running OR (start_pb AND NOT alarm)) AND stop_pb AND estop_ok;") {
    return std::string(kTags) + "PROGRAM p VAR running, out : BOOL; late : TON; END_VAR\n" + running +
           "\n"
           "IF in_end THEN out := TRUE; ELSIF out_end THEN out := FALSE; END_IF;\n"
           "run := running; go_out := running AND out; go_in := running AND NOT out;\n"
           "late(IN := running AND NOT in_end AND NOT out_end, PT := T#2500ms);\n"
           "IF late.Q THEN alarm := TRUE; running := FALSE; ELSIF reset_pb THEN alarm := FALSE; END_IF;\n"
           "END_PROGRAM\n";
}

PlantText plant_text(const char* valve) {
    PlantText p;
    p.brick().add("belt.b", {{"at", "[0 m, 0 m]"}, {"length", "3 m"}, {"speed", "0.3 m/s"}});
    p.add("outfeed.away", {{"after", "b"}}).add("photoeye.eye", {{"on", "b"}, {"at", "2 m"}});
    p.add("cylinder.slide", {{"stroke", "200 mm"}, {"valve", valve}, {"extend_time", "2 s"}, {"retract_time", "2 s"}});
    p.add("endswitch.s_out", {{"on", "slide"}, {"at", "200 mm"}})
        .add("endswitch.s_in", {{"on", "slide"}, {"at", "0 mm"}});
    p.add("button.start", {}).add("button.stop", {{"contact", "normally closed"}}).add("button.reset", {});
    p.add("estop.e", {}).add("lamp.alarm_lamp", {});
    return p;
}

session::SessionModelPtr machine(const char* valve, const std::string& text) {
    return test::make_model(text, plant_text(valve),
                            {{"start_pb", "start", ""},
                             {"stop_pb", "stop", ""},
                             {"estop_ok", "e", ""},
                             {"reset_pb", "reset", ""},
                             {"see", "eye", ""},
                             {"out_end", "s_out", ""},
                             {"in_end", "s_in", ""},
                             {"run", "b.run", ""},
                             {"go_out", "slide.extend", ""},
                             {"go_in", "slide.retract", ""},
                             {"alarm", "alarm_lamp", ""}});
}

std::vector<base::SourcePtr> procedures(const std::string& extra = {}) {
    return {base::make_source(
        "p.proc", "rule \"One way\": never go_out and go_in\n" + extra +
                      "procedure \"Works\"\nstep \"It starts\"\n    press start for 100 ms\n    expect run "
                      "within 50 ms\n    place brick on b at 0.5 m\nstep \"A brick goes through\"\n    wait "
                      "until see within 8 s\n    wait until not see within 3 s\n    expect away.counted = 1 "
                      "within 6 s\n    expect not alarm\n")};
}

std::vector<std::string> keys_of(const std::vector<RunRow>& rows) {
    std::vector<std::string> out;
    for (const campaign::Finding& f : campaign::findings_of(rows)) out.push_back(f.key);
    std::sort(out.begin(), out.end());
    return out;
}

std::vector<std::string> stops_found(const session::SessionModelPtr& model) {
    const Setup setup = setup_of(model, procedures());
    const auto stops = campaign::make_stops(setup);
    CHECK(stops->remarks().empty());
    CHECK(stops->jobs() % 3 == 0);  // stop, e-stop, power
    CHECK(stops->jobs() > 30);
    return keys_of(campaign::carry_out(*stops, setup).rows);
}

}  // namespace

TEST_CASE("a panel is read as a person would: start, stop, reset, e-stop, and what tells trouble") {
    const auto model = machine("centre closed", text_of_logic());
    const campaign::Panel panel = campaign::find_panel(*model);
    REQUIRE(panel.starts.size() == 1);
    CHECK(campaign::press_text(*model, panel.starts[0]) == "press start for 200 ms");
    CHECK(panel.stops.size() == 1);
    CHECK(panel.resets.size() == 1);
    CHECK(panel.estops.size() == 1);
    CHECK(campaign::find_alarms(*model).names == std::vector<std::string>{"alarm"});
    std::string problem;
    CHECK(campaign::alarms_named(*model, {"run", "alarm"}, problem).names.size() == 2);
    CHECK(problem.empty());
    campaign::alarms_named(*model, {"rum"}, problem);
    CHECK(problem == "no tag, point or actual is named 'rum': did you mean 'run'?");
}

TEST_CASE("stops: a machine that is right has no findings; each planted mistake is found, and nothing else") {
    CHECK(stops_found(machine("centre closed", text_of_logic())) == std::vector<std::string>{});
    // A valve with two coils goes on as it was last sent.
    CHECK(stops_found(machine("double solenoid", text_of_logic())) ==
          std::vector<std::string>{"power off line: slide still moves", "press e: slide still moves",
                                   "press stop: slide still moves"});
    // The e-stop does not take the seal away: what was on comes on again when it is pulled out.
    CHECK(
        stops_found(machine("centre closed",
                            text_of_logic("running := (running OR start_pb) AND stop_pb;") +
                                "PROGRAM q IF NOT estop_ok THEN run := FALSE; go_out := FALSE; go_in := FALSE; END_IF; "
                                "END_PROGRAM")) ==
        std::vector<std::string>{"press e: b comes on without a start", "press e: slide comes on without a start"});
    // After a stop it never starts again.
    CHECK(stops_found(machine(
              "centre closed",
              text_of_logic(
                  "IF NOT stop_pb THEN alarm := TRUE; END_IF; IF NOT estop_ok THEN alarm := FALSE; END_IF; running := "
                  "(running OR (start_pb AND NOT alarm AND NOT reset_pb)) AND stop_pb AND estop_ok AND NOT alarm;") +
                  "PROGRAM q VAR RETAIN gone : BOOL; END_VAR gone := gone OR NOT stop_pb; IF gone THEN run := FALSE; "
                  "go_out := FALSE; go_in := FALSE; END_IF; END_PROGRAM")) ==
          std::vector<std::string>{"press stop: it does not go on"});
}

TEST_CASE("stops: what the procedure alone does, and what the yard allows, is no finding") {
    // Its slide goes in both directions at once as the e-stop is hit: a mishap, and the rule of the yard.
    const std::string text =
        text_of_logic() + "PROGRAM q IF NOT estop_ok THEN go_out := TRUE; go_in := TRUE; END_IF; END_PROGRAM";
    CHECK(stops_found(machine("centre closed", text)) ==
          std::vector<std::string>{"press e: mishap slide.both_coils", "press e: rule 'One way' broken"});
    session::Definition d = test::make_definition(text, plant_text("centre closed"), {{"estop_ok", "e", ""}});
    d.plant->allowed.push_back({"slide.both_coils", "because", {}});
    CHECK(d.plant->allowed.size() == 1);
}

namespace {

/// What comes of a fault that is there from the very beginning, by running the procedure in one go.
std::string plainly(const Setup& setup, const std::vector<base::SourcePtr>& sources, const std::string& fault) {
    std::vector<base::SourcePtr> with = sources;
    std::string text = with[0]->text;
    text.insert(text.find("    press start"), "    " + fault + "\n");
    with[0] = base::make_source("p.proc", text);
    base::Diagnostics diagnostics;
    const auto book = procedure::read_book(*setup.model, with, diagnostics);
    const auto alone = procedure::read_book(*setup.model, sources, diagnostics);
    REQUIRE(book != nullptr);
    const session::Signal alarm = *session::find_signal(*setup.model, "alarm");
    session::Session session(setup.model), quiet(setup.model);
    procedure::Run run(book, 0, session), other(alone, 0, quiet);
    bool alarmed = false;
    Nanoseconds left = setup.patience;
    while (left.count() > 0) {
        if (!run.advance(session)) {
            if (!run.failed()) break;
            left -= setup.model->step;
        }
        session.step();
        run.watch(session);
        alarmed = alarmed || session::read(session, alarm) != 0.0;
    }
    while (other.advance(quiet)) quiet.step();
    const bool dangerous = session::mishaps_counted(session) > session::mishaps_counted(quiet) ||
                           std::any_of(run.rules().begin(), run.rules().end(),
                                       [](const procedure::RuleVerdict& r) { return r.times_broken > 0; });
    return dangerous ? "dangerous" : alarmed ? "shown" : run.failed() ? "silent" : "masked";
}

}  // namespace

TEST_CASE("faults: each stuck wire and broken device comes out as if it had been there from the beginning") {
    const auto sources = procedures();
    std::size_t compared = 0;
    std::set<std::string> outcomes;
    for (const char* valve : {"centre closed", "double solenoid"}) {
        Setup setup = setup_of(machine(valve, text_of_logic()), sources);
        setup.moments = 1;
        const auto faults = campaign::make_faults(setup);
        for (const RunRow& row : campaign::carry_out(*faults, setup).rows) {
            CAPTURE(row.disturbance);
            outcomes.insert(row.outcome);
            const bool stuck = row.disturbance.find(" stuck ") != std::string::npos;
            if (!stuck && row.at.count() != 0) continue;
            ++compared;
            const std::string plain = plainly(setup, sources, row.disturbance);
            // What is never different from what it is stuck at changes nothing.
            CHECK(plain == (row.outcome == "not exercised" ? "masked" : row.outcome));
        }
    }
    CHECK(compared > 60);
    CHECK(outcomes.size() >= 4);
}

TEST_CASE("faults: which alarm, after how long") {
    Setup setup = setup_of(machine("centre closed", text_of_logic()), procedures());
    setup.moments = 100;
    const auto faults = campaign::make_faults(setup);
    std::size_t shown = 0;
    for (const RunRow& row : campaign::carry_out(*faults, setup).rows) {
        if (row.disturbance != "fault slide jammed" || row.outcome != "shown") continue;
        ++shown;
        CHECK(row.detail == "alarm = TRUE");
        REQUIRE(row.reaction.has_value());
        // It has left an end at most 2 s before, so the 2.5 s end between half a second from now and then.
        CHECK(base::to_seconds(*row.reaction) > 0.49);
        CHECK(base::to_seconds(*row.reaction) < 4.6);
    }
    CHECK(shown > 2);
}

TEST_CASE("campaigns come out the same on any number of threads, in parts as in one, and again") {
    const auto rows_of = [](unsigned threads, std::uint32_t shard, std::uint32_t shards, bool stops) {
        Setup setup = setup_of(machine("double solenoid", text_of_logic()), procedures());
        setup.work.threads = threads;
        setup.shard = shard;
        setup.shards = shards;
        const auto campaign = stops ? campaign::make_stops(setup) : campaign::make_faults(setup);
        return campaign::carry_out(*campaign, setup).rows;
    };
    const auto text_of = [](std::vector<RunRow> rows) {
        std::sort(rows.begin(), rows.end(), [](const RunRow& a, const RunRow& b) { return a.number < b.number; });
        std::string out;
        for (const RunRow& r : rows) {
            out += fmt::format("{} {} {} {} {} {}\n", r.number, r.disturbance, r.at.count(), r.outcome, r.detail,
                               r.reaction.value_or(Nanoseconds(-1)).count());
            for (const campaign::Sight& s : r.sights) out += fmt::format("  {} {} {}\n", s.key, s.text, s.time.count());
        }
        return out;
    };
    for (const bool stops : {true, false}) {
        const std::string once = text_of(rows_of(1, 1, 1, stops));
        CHECK(once.size() > 1000);
        CHECK(text_of(rows_of(2, 1, 1, stops)) == once);
        CHECK(text_of(rows_of(5, 1, 1, stops)) == once);
        std::vector<RunRow> parts;
        for (std::uint32_t i = 1; i <= 3; ++i) {
            for (RunRow& r : rows_of(2, i, 3, stops)) parts.push_back(std::move(r));
        }
        CHECK(text_of(parts) == once);
    }
}

TEST_CASE("a finding becomes a procedure that fails as long as it is so, with no order too many") {
    const auto sources = procedures();
    const auto wrong = machine("double solenoid", text_of_logic()), right = machine("centre closed", text_of_logic());
    Setup setup = setup_of(wrong, sources);
    std::size_t told = 0;
    for (const bool stops : {true, false}) {
        const auto campaign = stops ? campaign::make_stops(setup) : campaign::make_faults(setup);
        for (const campaign::Finding& f : campaign::findings_of(campaign::carry_out(*campaign, setup).rows)) {
            CAPTURE(f.key);
            const campaign::Story story = campaign::story_of(*campaign, f.first_run, f.key);
            REQUIRE(story.found);
            CHECK(campaign::shows(wrong, sources, story));
            const campaign::Story least = campaign::shrunk(wrong, sources, story, 200);
            CHECK(campaign::shows(wrong, sources, least));
            CHECK(least.lines.size() <= story.lines.size());
            for (std::size_t i = 0; i < least.lines.size(); ++i) {
                if (least.lines[i].ours) continue;  // what was done is part of what was found
                campaign::Story without = least;
                without.lines.erase(without.lines.begin() + static_cast<std::ptrdiff_t>(i));
                CHECK_FALSE(campaign::shows(wrong, sources, without));
            }
            ++told;
            if (f.key == "press e: slide still moves") {
                CHECK_FALSE(campaign::shows(right, sources, least));
                CHECK(campaign::procedure_text(least, f.key, "") ==
                      "procedure \"press e: slide still moves\"\nstep \"As it was found\"\n    press start for 100 "
                      "ms\n    wait 10 ms\n    press e\n    wait 1005 ms\nstep \"What has to be so\"\n    expect not "
                      "slide.moving\n");
            }
        }
    }
    CHECK(told > 10);
}

TEST_CASE("a forked run goes as the orders of its story do from the beginning, to the bit") {
    const auto sources = procedures();
    const auto model = machine("double solenoid", text_of_logic());
    Setup setup = setup_of(model, sources);
    const auto stops = campaign::make_stops(setup);
    const auto findings = campaign::findings_of(campaign::carry_out(*stops, setup).rows);
    REQUIRE(!findings.empty());
    for (const campaign::Finding& f : findings) {
        const campaign::Story story = campaign::story_of(*stops, f.first_run, f.key);
        std::vector<base::SourcePtr> all = sources;
        all.push_back(base::make_source("found", campaign::procedure_text(story, "found", "")));
        base::Diagnostics diagnostics;
        const auto book = procedure::read_book(*model, all, diagnostics);
        REQUIRE(book != nullptr);
        session::Session again(model);
        procedure::Run run(book, book->procedures.size() - 1, again);
        while (run.advance(again)) again.step();
        CHECK(again.now() == story.end);
        // The same, with the procedure's own orders as they were, up to the moment it was forked at.
        session::Session own(model);
        procedure::Run whole(setup.book, 0, own);
        while (own.now() < f.at && whole.advance(own)) own.step();
        for (const campaign::Story::Line& line : story.lines) {
            while (own.now() < line.time) own.step();
            if (!line.ours) continue;
            for (const procedure::Order& o : campaign::read_lines(*model, {line.order})) {
                std::string said;
                CHECK(procedure::perform(own, o, said).empty());
            }
        }
        while (own.now() < story.end) own.step();
        CHECK(own.plant().wires == again.plant().wires);
        CHECK(own.plant().devices == again.plant().devices);
        CHECK(own.controller(0).memory == again.controller(0).memory);
    }
}

TEST_CASE("smoke: a machine that is right works; one that moves by itself, or never, is found") {
    const auto found = [](const session::SessionModelPtr& model) {
        const Setup setup = setup_of(model, {});
        const auto smoke = campaign::make_smoke(setup);
        return keys_of(campaign::carry_out(*smoke, setup).rows);
    };
    CHECK(found(machine("centre closed", text_of_logic())) == std::vector<std::string>{});
    CHECK(found(machine("centre closed", text_of_logic("running := stop_pb AND estop_ok;"))) ==
          std::vector<std::string>{"smoke: b moves after stop", "smoke: b moves before anything is touched",
                                   "smoke: slide moves after stop", "smoke: slide moves before anything is touched"});
    CHECK(found(machine("centre closed", text_of_logic("running := FALSE;"))) ==
          std::vector<std::string>{"smoke: nothing moves after start"});
    CHECK(found(machine("centre closed", text_of_logic() + "PROGRAM q go_out := FALSE; END_PROGRAM")) ==
          std::vector<std::string>{"smoke: slide never moves"});
}

TEST_CASE("sweep: what a name with a range and a step means") {
    const auto is_device = [](std::string_view name) { return name == "eye"; };
    const auto values = [&](const char* text) {
        std::string problem;
        const auto axis = campaign::read_axis(text, is_device, problem);
        return axis ? test::joined(axis->values) : "! " + problem;
    };
    CHECK(values("eye.at=0.3m..0.32m/10mm") == "0.3 m\n0.31 m\n0.32 m\n");
    CHECK(values("eye.at = 300 mm .. 0.315 m / 1 cm") == "0.3 m\n0.31 m\n");
    CHECK(values("eye.delay=0ms..20ms/10ms") == "0 s\n0.01 s\n0.02 s\n");
    CHECK(values("limit=T#990ms..T#1s/T#5ms") == "T#990ms\nT#995ms\nT#1000ms\n");
    CHECK(values("limit=1s..1.0005s/250us") == "T#1000ms\nT#1000250us\nT#1000500us\n");
    CHECK(values("n=-1..1/1") == "-1\n0\n1\n");
    CHECK(values("x=0.1..0.3/0.1") == "0.1\n0.2\n0.3\n");
    CHECK(values("seed=7..7/1") == "7\n");
    CHECK(values("eye.v=0.1 m/s..0.5m/s/0.2 m/s") == "0.1 m/s\n0.3 m/s\n0.5 m/s\n");
    CHECK(values("eye.v=0.1m/s..30m/min/12 m/min") == "0.1 m/s\n0.3 m/s\n0.5 m/s\n");
    CHECK(values("n=1..3") == "! 'n=1..3' is not a name with a range and a step");
    CHECK(values("=1..3/1") == "! '=1..3/1' is not a name with a range and a step");
    CHECK(values("n=1..3/0") == "! 'n=1..3/0': a range goes up, by a step above nought");
    CHECK(values("n=3..1/1") == "! 'n=3..1/1': a range goes up, by a step above nought");
    CHECK(values("n=1..3m/1") == "! '3m' of 'n=1..3m/1' is not a quantity of the same kind as its first");
    CHECK(values("n=one..3/1") == "! 'one' of 'n=one..3/1' is not a quantity");
    CHECK(values("n=0..1e9/1").find("has more than 1000000 values") != std::string::npos);
}

TEST_CASE("sweep: margins come out where the closed form says, on a grid of two, and by chance") {
    // The alarm comes 2.5 s after the slide has left an end; it needs its extend_time to the other.
    campaign::SweepPlan plan;
    std::string problem;
    plan.axes.push_back(*campaign::read_axis(
        "slide.extend_time=1s..4s/100ms", [](auto) { return true; }, problem));
    plan.load = [](const std::vector<std::pair<std::string, std::string>>& values) {
        PlantText p = plant_text("centre closed");
        for (const auto& [name, value] : values) {
            for (plant::DefinitionKey& k : p.definition.devices[3].keys) {
                if (name == "slide." + k.name) k.value = PlantText::value(value, {});
            }
        }
        campaign::Variant out;
        out.model = test::make_model(text_of_logic(), p,
                                     {{"start_pb", "start", ""},
                                      {"stop_pb", "stop", ""},
                                      {"estop_ok", "e", ""},
                                      {"see", "eye", ""},
                                      {"out_end", "s_out", ""},
                                      {"in_end", "s_in", ""},
                                      {"run", "b.run", ""},
                                      {"go_out", "slide.extend", ""},
                                      {"go_in", "slide.retract", ""},
                                      {"alarm", "alarm_lamp", ""}});
        base::Diagnostics diagnostics;
        out.book = campaign::with_watch(*out.model, procedures(), diagnostics);
        return out;
    };
    Setup setup = setup_of(plan.load({}).model, procedures());
    const auto sweep = campaign::make_sweep(setup, plan);
    CHECK(sweep->jobs() == 31);
    const auto rows = campaign::carry_out(*sweep, setup).rows;
    const campaign::Margin m = campaign::margin_of(plan.axes[0], campaign::points_of(plan), 1, rows);
    REQUIRE(m.least.has_value());
    CHECK(*m.least == doctest::Approx(1.0));
    CHECK(m.open_below);
    CHECK_FALSE(m.open_above);
    // Between the first scan off one end and the first at the other: 2.5 s at most.
    CHECK(*m.most == doctest::Approx(2.5).epsilon(0.05));
    REQUIRE(m.present.has_value());
    CHECK(*m.present == doctest::Approx(2.0));

    plan.axes.push_back(*campaign::read_axis(
        "slide.retract_time=1s..3s/1s", [](auto) { return true; }, problem));
    std::set<std::vector<std::size_t>> grid;
    for (const auto& point : campaign::points_of(plan)) grid.insert(point);
    CHECK(grid.size() == 31 * 3);
    plan.random = 50;
    const auto some = campaign::points_of(plan);
    CHECK(some.size() == 50);
    for (const auto& point : some) CHECK(grid.contains(point));
    CHECK(campaign::points_of(plan) == some);
    plan.seed = 2;
    CHECK(campaign::points_of(plan) != some);
}

namespace {

/// Ten mistakes that only a certain sequence shows, laid into the small machine behind its own logic.
struct Deep {
    const char* name;
    const char* code;
    const char* found;  ///< Part of the key.
};
constexpr Deep kDeep[] = {
    {"a start while stop is held is remembered, and drives both ways",
     "VAR m : BOOL; END_VAR m := (m OR (start_pb AND NOT stop_pb)) AND NOT reset_pb; IF m AND stop_pb THEN go_out := "
     "TRUE; "
     "go_in := TRUE; END_IF;",
     "both_coils"},
    {"a double press of start within half a second",
     "VAR e : R_TRIG; t : TP; END_VAR e(CLK := start_pb); IF e.Q AND t.Q THEN go_out := TRUE; go_in := TRUE; END_IF; "
     "t(IN "
     ":= e.Q, PT := T#500ms);",
     "both_coils"},
    {"an e-stop just after a start leaves it dead",
     "VAR t : TOF; dead : BOOL; END_VAR t(IN := start_pb, PT := T#100ms); dead := dead OR (t.Q AND NOT estop_ok); IF "
     "dead "
     "THEN run := FALSE; go_out := FALSE; go_in := FALSE; END_IF;",
     "does not go on"},
    {"reset held while stop is let go",
     "VAR e : R_TRIG; m : BOOL; END_VAR e(CLK := stop_pb); m := m OR (e.Q AND reset_pb); IF m THEN run := FALSE; "
     "go_out := "
     "FALSE; go_in := FALSE; END_IF;",
     "does not go on"},
    {"the fourth start without a reset divides by nought",
     "VAR e : R_TRIG; n, q : INT; END_VAR e(CLK := start_pb); IF reset_pb THEN n := 0; ELSIF e.Q THEN n := n + 1; q := "
     "10 / "
     "(n - 4); END_IF;",
     "stops by itself"},
    {"the fifth stop writes beyond its list",
     "VAR e : F_TRIG; n : INT; list : ARRAY [0..4] OF INT; END_VAR e(CLK := stop_pb); IF e.Q THEN n := n + 1; list[n] "
     ":= n; "
     "END_IF;",
     "stops by itself"},
    {"power that goes while the slide is out is not forgotten",
     "VAR RETAIN out : BOOL; END_VAR VAR first : BOOL := TRUE; dead : BOOL; END_VAR IF first AND out THEN dead := "
     "TRUE; "
     "END_IF; first := FALSE; out := go_out; IF dead THEN run := FALSE; go_out := FALSE; go_in := FALSE; END_IF;",
     "does not go on"},
    {"an e-stop that is let go while start is held",
     "VAR e : R_TRIG; m : BOOL; END_VAR e(CLK := estop_ok); m := (m OR (e.Q AND start_pb)) AND estop_ok AND stop_pb; "
     "IF m "
     "THEN go_out := TRUE; go_in := TRUE; END_IF;",
     "both_coils"},
    {"a stop in the scan in which the slide arrives",
     "VAR e : R_TRIG; t : TP; m : BOOL; END_VAR e(CLK := out_end); t(IN := e.Q, PT := T#60ms); m := m OR (t.Q AND NOT "
     "stop_pb); IF m THEN run := FALSE; go_out := FALSE; go_in := FALSE; END_IF;",
     "does not go on"},
    {"start, stop, start within a second",
     "VAR n : INT; s, p : R_TRIG; t : TP; END_VAR s(CLK := start_pb); p(CLK := NOT stop_pb); t(IN := s.Q AND n = 0, PT "
     ":= "
     "T#1s); IF NOT t.Q THEN n := 0; ELSIF s.Q AND n = 0 THEN n := 1; ELSIF p.Q AND n = 1 THEN n := 2; ELSIF s.Q AND n "
     "= 2 "
     "THEN n := 3; END_IF; IF n = 3 THEN go_out := TRUE; go_in := TRUE; END_IF;",
     "both_coils"},
};

}  // namespace

TEST_CASE("hunt: a machine that is right has no findings, each of ten deep mistakes is found and told") {
    const auto sources = procedures();
    const auto found = [&](const std::string& code, std::size_t sequences) {
        const auto model =
            machine("centre closed", text_of_logic() + (code.empty() ? "" : "PROGRAM q\n" + code + "\nEND_PROGRAM"));
        Setup setup = setup_of(model, sources);
        setup.work.threads = 2;
        setup.patience = std::chrono::seconds(5);
        campaign::HuntPlan plan;
        plan.sequences = sequences;
        const campaign::HuntOutcome outcome = campaign::hunt(setup, plan);
        CHECK(outcome.sequences == sequences);
        std::vector<std::string> keys;
        for (const auto& [key, sequence] : outcome.of) {
            keys.push_back(key);
            const campaign::Story story = campaign::story_of(setup, sequence, key);
            CHECK(story.found);
            CHECK(campaign::shows(model, sources, story));
            const campaign::Story least = campaign::shrunk(model, sources, story, 100);
            CHECK(campaign::shows(model, sources, least));
            CHECK(least.lines.size() <= story.lines.size());
        }
        return test::joined(keys);
    };
    CHECK(found("", 600).empty());
#ifdef __SANITIZE_ADDRESS__
    constexpr std::size_t kTried = 2;  // the sanitizers look at the same code ten times as slowly
#else
    constexpr std::size_t kTried = std::size(kDeep);
#endif
    for (const Deep& d : std::span(kDeep).first(kTried)) {
        CAPTURE(std::string(d.name));
        std::string keys;
        for (const std::size_t sequences : {300, 1200, 5000}) {
            keys = found(d.code, sequences);
            if (keys.find(d.found) != std::string::npos) break;
        }
        CHECK_MESSAGE(keys.find(d.found) != std::string::npos, keys);
    }
}

TEST_CASE("hunt: the same for a seed on any number of threads; a corpus goes on where it was left") {
    const auto model = machine("double solenoid", text_of_logic());
    const auto run = [&](unsigned threads, std::uint64_t seed, const std::vector<campaign::Sequence>& corpus) {
        Setup setup = setup_of(model, procedures());
        setup.work.threads = threads;
        setup.patience = std::chrono::seconds(5);
        campaign::HuntPlan plan;
        plan.sequences = 200;
        plan.seed = seed;
        plan.corpus = corpus;
        plan.faults = true;
        return campaign::hunt(setup, plan);
    };
    const campaign::HuntOutcome one = run(1, 1, {}), two = run(3, 1, {}), other = run(2, 2, {});
    CHECK(one.corpus == two.corpus);
    CHECK(one.states == two.states);
    REQUIRE(one.rows.size() == two.rows.size());
    for (std::size_t i = 0; i < one.rows.size(); ++i) CHECK(one.rows[i].disturbance == two.rows[i].disturbance);
    CHECK(one.corpus != other.corpus);
    CHECK(run(2, 1, one.corpus).states >= one.states);
    for (const campaign::Sequence& s : one.corpus) {
        const auto again = campaign::read_sequence(campaign::sequence_text(s));
        REQUIRE(again.has_value());
        CHECK(*again == s);
    }
    // Another logic: what was kept breaks something now. Each is a run of its own, and stays kept.
    const auto broken =
        machine("double solenoid",
                text_of_logic() + "PROGRAM q IF run THEN go_out := TRUE; go_in := TRUE; END_IF; END_PROGRAM\n");
    Setup setup = setup_of(broken, procedures());
    setup.patience = std::chrono::seconds(5);
    campaign::HuntPlan plan;
    plan.sequences = 20;
    plan.faults = true;
    plan.corpus = one.corpus;
    plan.corpus.push_back({{std::chrono::milliseconds(10), "press gone"}});
    const campaign::HuntOutcome after = campaign::hunt(setup, plan);
    CHECK(after.sequences == plan.corpus.size() + 20);
    std::set<std::uint32_t> numbers;
    std::size_t broken_again = 0;
    for (const RunRow& r : after.rows) {
        CHECK(numbers.insert(r.number).second);
        if (r.number == 0 || r.number > one.corpus.size()) continue;
        ++broken_again;
        const campaign::Sequence& s = one.corpus[r.number - 1];
        CHECK(std::find(after.corpus.begin(), after.corpus.end(), s) != after.corpus.end());
    }
    CHECK(broken_again > 1);
    CHECK(after.remarks ==
          std::vector<std::string>{"corpus: 'press gone' is nothing that is done here, and is left out"});
    CHECK_FALSE(campaign::read_sequence("press start").has_value());
    CHECK_FALSE(campaign::read_sequence("x us press start").has_value());
}

TEST_CASE("again: a second day is like the first, unless the machine forgets, or remembers, what it should not") {
    const auto found = [](const std::string& more) {
        const auto model = machine("centre closed", text_of_logic() + more);
        const Setup setup = setup_of(model, procedures());
        const auto again = campaign::make_again(setup);
        const auto rows = campaign::carry_out(*again, setup).rows;
        CHECK(rows.size() > 20);
        const auto findings = campaign::findings_of(rows);
        for (const campaign::Finding& f : findings) {
            const campaign::Story story = campaign::story_of(*again, f.first_run, f.key);
            CHECK_MESSAGE(story.found, f.key);
        }
        return keys_of(rows);
    };
    CHECK(found("") == std::vector<std::string>{});
    // It starts once.
    CHECK(found("PROGRAM q VAR RETAIN used : BOOL; END_VAR used := used OR NOT stop_pb; IF used THEN run := FALSE; "
                "go_out := "
                "FALSE; go_in := FALSE; END_IF; END_PROGRAM\n") ==
          std::vector<std::string>{"again: alarm = TRUE", "again: nothing moves after start"});
    // After power was cut it alarms; on the first day it does not.
    CHECK(
        found(
            "PROGRAM q VAR RETAIN ran : BOOL; END_VAR VAR begun, late_now : BOOL; END_VAR IF NOT begun AND ran THEN "
            "late_now := "
            "TRUE; END_IF; IF late_now THEN alarm := TRUE; END_IF; begun := TRUE; ran := ran OR run; END_PROGRAM\n") ==
        std::vector<std::string>{"again: alarm = TRUE", "again: nothing moves after start"});
}

TEST_CASE("again: a second day that delivers less is found, and told by a procedure that fails as long as it is so") {
    PlantText p;
    p.brick().add("belt.b", {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.5 m/s"}});
    p.add("infeed.feed", {{"on", "b"}, {"at", "0.2 m"}, {"item", "brick"}, {"interval", "2 s"}})
        .add("outfeed.away", {{"after", "b"}});
    p.add("button.start", {}).add("button.stop", {{"contact", "normally closed"}});
    const auto model_of = [&](const char* second_day) {
        return test::make_model(
            fmt::format(
                "VAR_GLOBAL start_pb AT %IX0.0 : BOOL; stop_pb AT %IX0.1 : BOOL; run AT %QX0.0 : BOOL; END_VAR\n"
                "PROGRAM p VAR RETAIN days : INT; END_VAR VAR on : BOOL; r : R_TRIG; t : TON; END_VAR\n"
                "on := (on OR start_pb) AND stop_pb; r(CLK := on); IF r.Q THEN days := days + 1; END_IF;\n"
                "t(IN := on AND NOT t.Q, PT := T#5s); run := on AND ({}); END_PROGRAM\n",
                second_day),
            p, {{"start_pb", "start", ""}, {"stop_pb", "stop", ""}, {"run", "b.run", ""}});
    };
    const std::vector<base::SourcePtr> sources = {
        base::make_source("p.proc", "procedure \"Waits\"\nstep \"So\"\n    wait 1 s\n")};
    const auto same = model_of("TRUE");
    const Setup right = setup_of(same, sources);
    CHECK(keys_of(campaign::carry_out(*campaign::make_again(right), right).rows) == std::vector<std::string>{});
    const auto model = model_of("days < 2 OR t.ET < T#500ms");
    const Setup setup = setup_of(model, sources);
    const auto again = campaign::make_again(setup);
    const auto rows = campaign::carry_out(*again, setup).rows;
    CHECK(keys_of(rows) == std::vector<std::string>{"again: away gets less"});
    for (const campaign::Finding& f : campaign::findings_of(rows)) {
        const campaign::Story story = campaign::story_of(*again, f.first_run, f.key);
        CHECK(story.found);
        CHECK(campaign::shows(model, sources, story));
        CHECK_FALSE(campaign::shows(same, sources, story));
    }
}

TEST_CASE("sweep: seeds keep all their digits, and are whole numbers") {
    std::string problem;
    const auto none = [](std::string_view) { return false; };
    const auto axis = campaign::read_axis("seed=12345678901..12345678903/1", none, problem);
    REQUIRE(axis.has_value());
    CHECK(axis->values == std::vector<std::string>{"12345678901", "12345678902", "12345678903"});
    CHECK_FALSE(campaign::read_axis("seed=1..2/0.5", none, problem).has_value());
    CHECK(problem == "'seed=1..2/0.5': a seed is a whole number, 0 to 1e15");
    CHECK_FALSE(campaign::read_axis("seed=1s..2s/1s", none, problem).has_value());
    CHECK(campaign::read_axis("gain=1..2/0.5", none, problem).has_value());
}
