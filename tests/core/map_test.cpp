// The map beyond single joins: bits of words, orders of bytes, jumpers, several controllers; names and proposals; free
// addresses; the checkout.
#include <map>

#include "core/procedure/checkout.hpp"
#include "core/procedure/held_off.hpp"
#include "core/session/tag_list.hpp"
#include "core/support.hpp"
#include "core/wiring/name_words.hpp"
#include "core/wiring/proposal.hpp"

using namespace vyard;
using doctest::Approx;
using test::PlantText;

namespace {

wiring::MapRow row(const std::string& tag, const std::string& point, const std::string& scaling = "",
                   const std::string& delay = "", const std::string& when = "") {
    return {tag, {}, point, {}, scaling, {}, "", delay, {}, when, {}};
}

struct Made {
    session::SessionModelPtr model;
    std::string problems;
};

/// Controllers "a", "b" ... from their texts; scans of 10 ms.
Made make(const std::vector<std::string>& logic, const PlantText& plant, const std::vector<wiring::MapRow>& rows) {
    session::Definition definition;
    definition.plant = plant.definition;
    definition.map = rows;
    for (std::size_t i = 0; i < logic.size(); ++i) {
        session::ControllerDefinition c;
        c.name = std::string(1, static_cast<char>('a' + i));
        c.logic = {base::make_source(c.name + ".st", logic[i])};
        definition.controllers.push_back(std::move(c));
    }
    base::Diagnostics diagnostics;
    const session::Built built = session::build(definition, diagnostics);
    return {built.model, test::joined(test::lines_of(diagnostics))};
}

double read(const session::Session& s, const std::string& name) {
    const auto signal = session::find_signal(s.model(), name);
    REQUIRE_MESSAGE(signal.has_value(), name);
    return session::read(s, *signal);
}
void run(session::Session& s, int ms) {
    for (const auto end = s.now() + base::Nanoseconds(ms * 1'000'000LL); s.now() < end;) s.step();
}

PlantText lamps_and_buttons() {
    PlantText p;
    for (const char* name : {"one", "two", "three"}) {
        p.add(fmt::format("button.pb_{}", name), {});
        p.add(fmt::format("lamp.lt_{}", name), {});
    }
    return p;
}

}  // namespace

TEST_CASE("several points packed in a word, both ways") {
    const Made m = make({"VAR_GLOBAL inputs AT %IW0 : WORD; outputs AT %QW0 : WORD; END_VAR\n"
                         "PROGRAM main outputs := SHL(inputs, 8); END_PROGRAM"},
                        lamps_and_buttons(),
                        {row("inputs.%X0", "pb_one.contact"), row("inputs.%X5", "pb_two.contact", "invert"),
                         row("outputs.%X8", "lt_one.on"), row("outputs.%X13", "lt_two.on")});
    CHECK(m.problems == "");
    session::Session s(m.model);
    run(s, 20);
    CHECK(read(s, "inputs") == 32);
    CHECK(read(s, "lt_two.on") == 1);
    CHECK(read(s, "lt_one.on") == 0);
    const int button = m.model->plant->find_device("pb_one");
    s.use_control(button, *base::at(m.model->plant->devices, button).kind->find_control("press"), 0);
    run(s, 30);
    CHECK(read(s, "inputs") == 33);
    CHECK(read(s, "lt_one.on") == 1);
}

TEST_CASE("bytes and words in another order come out as the device has them") {
    PlantText p;
    p.add("number_setter.n", {{"low", "#0"}, {"high", "#100000000"}, {"initial", "#16909060"}});  // 16#01020304
    for (const auto& [swap, value] : {std::pair("swap bytes", 0x02010403U), std::pair("swap words", 0x03040102U),
                                      std::pair("swap words swap bytes", 0x04030201U)}) {
        CAPTURE(swap);
        const Made m = make({"VAR_GLOBAL v : UDINT; END_VAR PROGRAM main IF v = 0 THEN RETURN; END_IF; END_PROGRAM"}, p,
                            {row("v", "n.value", std::string("0..100000000 -> 0..100000000 ") + swap)});
        CHECK(m.problems == "");
        session::Session s(m.model);
        run(s, 20);
        CHECK(read(s, "v") == value);
    }
}

TEST_CASE("a jumper carries an output to an input with its delay, under its condition") {
    const Made m =
        make({"VAR_GLOBAL motor_run AT %QX0.0 : BOOL; running AT %IX0.0 : BOOL; stopped AT %IX0.1 : BOOL;\n"
              "test_trip : BOOL; speed : INT := 7; shown : DINT; n : INT; END_VAR\n"
              "PROGRAM main n := n + 1; motor_run := n > 10; test_trip := n > 60; IF running AND stopped AND "
              "shown > 0 THEN RETURN; END_IF; END_PROGRAM"},
             {},
             {row("running", "motor_run", "", "250 ms", "NOT test_trip"), row("stopped", "motor_run", "invert"),
              row("shown", "speed", "", "100 ms")});
    CHECK(m.problems == "");
    session::Session s(m.model);
    double on = -1, off = -1, shown = -1;
    for (int i = 0; i < 300; ++i) {
        run(s, 10);
        const double now = base::to_seconds(s.now());
        if (on < 0 && read(s, "running") != 0) on = now;
        if (on >= 0 && off < 0 && read(s, "running") == 0) off = now;
        if (shown < 0 && read(s, "shown") == 7) shown = now;
    }
    CHECK(on == Approx(0.10 + 0.25).epsilon(0.001));  // the eleventh scan is at 0.1 s
    CHECK(off == Approx(0.60 + 0.25).epsilon(0.001));
    CHECK(shown == Approx(0.10).epsilon(0.001));
    CHECK(read(s, "stopped") == 0);
    s.stop(0);
    run(s, 20);
    CHECK(session::value_text(s, *session::find_signal(*m.model, "logic.motor_run")) == "TRUE");  // its memory stays
}

TEST_CASE("controllers talk through the map, and one point goes to both") {
    const std::string first =
        "VAR_GLOBAL pressed : BOOL; ready AT %QX0.0 : BOOL; END_VAR PROGRAM main ready := pressed; END_PROGRAM";
    const std::string second =
        "VAR_GLOBAL pressed : BOOL; partner_ready AT %IX0.0 : BOOL; lamp : BOOL; END_VAR\n"
        "PROGRAM main lamp := partner_ready AND pressed; END_PROGRAM";
    const Made m = make({first, second}, lamps_and_buttons(),
                        {row("a.pressed", "pb_one.contact"), row("b.pressed", "pb_one.contact"),
                         row("b.partner_ready", "a.ready", "", "40 ms"), row("b.lamp", "lt_one.on")});
    CHECK(m.problems == "");
    session::Session s(m.model);
    const int button = m.model->plant->find_device("pb_one");
    s.use_control(button, *base::at(m.model->plant->devices, button).kind->find_control("press"), 0);
    run(s, 40);
    CHECK(read(s, "b.pressed") == 1);
    CHECK(read(s, "lt_one.on") == 0);
    run(s, 30);
    CHECK(read(s, "lt_one.on") == 1);
    session::Session copy = s;  // what is under way is part of the state
    s.stop(0);
    run(s, 100);
    run(copy, 100);
    CHECK(read(s, "lt_one.on") == 0);  // who is stopped drives nothing
    CHECK(read(copy, "lt_one.on") == 1);
}

TEST_CASE("mistakes of bits, orders and jumpers, each with both sides named") {
    const std::string logic =
        "VAR_GLOBAL w AT %IW0 : WORD; b AT %IX4.0 : BOOL; q AT %QX0.0 : BOOL; r : REAL; i : INT; l : DINT; END_VAR\n"
        "PROGRAM main q := b AND w.%X0 AND r > 0.0; l := i; END_PROGRAM";
    struct Row {
        wiring::MapRow row;
        const char* problems;
    };
    const Row rows[] = {
        {row("w.%X16", "pb_one.contact"), "0:0 'w' is WORD and has no bit 16\n"},
        {row("r.%X1", "pb_one.contact"), "0:0 'r' is REAL and has no bit 1\n"},
        {row("b", "pb_one.contact", "swap bytes"), "0:0 'b' is BOOL, which has no bytes to swap\n"},
        {row("b", "q", "", "5"), "0:0 a time needs a unit; accepted: us, ms, s, min, h\n"},
        {row("b", "q", "0..1 -> 0..2"),
         "0:0 a jumper between tags takes no scaling '0..1 -> 0..2' [BOOL tags take 'invert' or nothing; numbers go as "
         "they are]\n"},
        {row("i", "l"), "0:0 'i' is INT, 'l' is DINT: a value could be lost on the way\n"},
        {row("q", "b"), "0:0 a jumper goes to an input, but 'q' lies at %QX0.0\n"},
        {row("b", "q", "", "", "pb_oen"), "0:0 'pb_oen' is not a BOOL tag or point [did you mean 'pb_one'?]\n"},
        {row("b", "pb_one.contact", "", "1 s"),
         "0:0 'pb_one.contact' is a point; only jumpers between tags have delay and when\n"},
        {row("nobody", "q"), "0:0 no tag is named 'nobody' [known: w, b, q, r, i, l]\n"},
    };
    for (const Row& r : rows) {
        CAPTURE(r.row.tag + " " + r.row.point);
        CHECK(make({logic}, lamps_and_buttons(), {r.row}).problems == r.problems);
    }
    const Made twice = make({logic}, lamps_and_buttons(),
                            {row("w.%X1", "pb_one.contact"), row("w.%X1", "pb_two.contact"), row("%IX4.0", "pb_one")});
    CHECK(twice.problems.find("tag 'w.%X1' is joined twice") != std::string::npos);
    CHECK(twice.problems.find("point 'pb_one' is joined twice") != std::string::npos);
}

TEST_CASE("names are taken apart and abbreviations written out") {
    struct Row {
        const char* name;
        const char* words;
    };
    const Row rows[] = {{"B12_MtrRunFbk", "b 12 motor run running"},
                        {"startPB", "start button"},
                        {"panel.start.contact", "panel start contact"},
                        {"XV004opn", "xv 4 open"},
                        {"", ""},
                        {"__", ""}};
    for (const Row& r : rows) {
        std::string words;
        for (const std::string& w : wiring::words_of(r.name)) words += (words.empty() ? "" : " ") + w;
        CHECK(words == r.words);
    }
    CHECK(wiring::likeness("motor", "motor") == 1.0);
    CHECK(wiring::likeness("agit", "agitator") > 0.8);
    CHECK(wiring::likeness("clamp", "calmp") > 0.7);
    CHECK(wiring::likeness("12", "13") == 0.0);
    CHECK(wiring::likeness("dip", "lift") == 0.0);
}

TEST_CASE("proposals: by name, direction, type and number; two that are alike are unsure") {
    PlantText p;
    for (int n = 1; n <= 3; ++n) {
        p.add(fmt::format("motor.fan_{}", n), {});
        p.add(fmt::format("button.desk_{}.start", n), {});
    }
    const Made m = make({"VAR_GLOBAL\n"
                         "Fan1_Run AT %QX0.0 : BOOL; Fan2_Run AT %QX0.1 : BOOL; Fan3_Run AT %QX0.2 : BOOL;\n"
                         "Fan1_Fbk AT %IX0.0 : BOOL; Fan2_Fbk AT %IX0.1 : BOOL; Fan3_Fbk AT %IX0.2 : BOOL;\n"
                         "StartPB2 AT %IX1.0 : BOOL; zebra AT %IX2.0 : BOOL;\n"
                         "END_VAR PROGRAM main Fan1_Run := Fan1_Fbk AND Fan2_Fbk AND Fan3_Fbk AND StartPB2 AND zebra; "
                         "Fan2_Run := Fan1_Run; Fan3_Run := Fan1_Run; END_PROGRAM"},
                        p, {});
    std::string out;
    for (const wiring::Proposal& w : wiring::propose(m.model->controllers, *m.model->plant, m.model->wiring)) {
        const std::string& tag = base::at(m.model->controllers[0].program->variables, w.variable).path;
        out += tag + " " + base::at(m.model->plant->points, w.point).name + "\n";
        CHECK(tag != "zebra");
        CHECK(w.confidence > 0.2);
    }
    for (const char* pair :
         {"Fan1_Run fan_1.run\n", "Fan2_Run fan_2.run\n", "Fan3_Run fan_3.run\n", "Fan1_Fbk fan_1.running\n",
          "Fan2_Fbk fan_2.running\n", "Fan3_Fbk fan_3.running\n", "StartPB2 desk_2.start.contact\n"})
        CHECK_MESSAGE(out.find(pair) != std::string::npos, out);
}

TEST_CASE(
    "proposals find what a person finds at a glance, and join nothing that has no address among those that have") {
    test::PlantText p;
    p.add("button.panel.stop", {{"contact", "normally closed"}})
        .add("button.panel.start", {})
        .add("button.back.stop", {{"contact", "normally closed"}})
        .add("estop.front.estop", {})
        .add("estop.back.estop", {})
        .add("selector.panel.mode", {{"positions", "[manual, automatic]"}})
        .add("motor.mixer", {})
        .add("motor.fan", {})
        .add("lamp.panel.running", {});
    const char* logic =
        "VAR_GLOBAL start_pb AT %IX0.0 : BOOL; stop_pb AT %IX0.1 : BOOL; stop_back_pb AT %IX0.2 : BOOL;\n"
        "  estop_front_ok AT %IX0.3 : BOOL; estop_back_ok AT %IX0.4 : BOOL; mode_auto AT %IX0.5 : BOOL;\n"
        "  mixer_running AT %IX0.6 : BOOL; fan_running AT %IX0.7 : BOOL; run_mixer AT %QX0.0 : BOOL;\n"
        "  run_fan AT %QX0.1 : BOOL; run_lamp AT %QX0.2 : BOOL; fan_run : BOOL; END_VAR\n"
        "PROGRAM main run_mixer := start_pb; run_fan := fan_run; fan_run := mode_auto; run_lamp := stop_pb; "
        "END_PROGRAM";
    base::Diagnostics diagnostics;
    const auto built = session::build(test::make_definition(logic, p, {}), diagnostics);
    REQUIRE(built.model != nullptr);
    const session::SessionModel& model = *built.model;
    std::map<std::string, std::string> found;
    for (const wiring::Proposal& proposal : wiring::propose(model.controllers, *model.plant, model.wiring)) {
        if (proposal.confidence < 0.5) continue;  // the default of the command
        found[model.controllers[0].program->variables[static_cast<std::size_t>(proposal.variable)].path] =
            model.plant->points[static_cast<std::size_t>(proposal.point)].name;
    }
    const std::map<std::string, std::string> wanted = {{"start_pb", "panel.start.contact"},
                                                       {"stop_back_pb", "back.stop.contact"},
                                                       {"stop_pb", "panel.stop.contact"},
                                                       {"estop_front_ok", "front.estop.contact"},
                                                       {"estop_back_ok", "back.estop.contact"},
                                                       {"mode_auto", "panel.mode.contact_1"},
                                                       {"mixer_running", "mixer.running"},
                                                       {"fan_running", "fan.running"},
                                                       {"run_mixer", "mixer.run"},
                                                       {"run_fan", "fan.run"},
                                                       {"run_lamp", "panel.running.on"}};
    for (const auto& [tag, point] : found) {
        CAPTURE(tag);
        CHECK(wanted.at(tag) == point);  // nothing wrong, whatever is left out
    }
    CHECK(found.size() >= 10);
}

TEST_CASE("joined tags that share bits: inputs, outputs, jumpers x same, part, straddling, apart") {
    // The oracle: straddling is an error; so are two that are written from outside and share any bit.
    struct Place {
        const char* tag;
        int first, end;  ///< Bits of the area.
        const char* address;
        const char* type;
    };
    const Place places[] = {{"w0", 0, 16, "W0", "INT"},
                            {"w1", 8, 24, "W1", "INT"},
                            {"v0", 0, 16, "W0", "INT"},
                            {"d0", 0, 32, "D0", "DINT"},
                            {"far", 64, 80, "W8", "INT"}};
    enum class Way { Inputs, InputAndJumper, Outputs };
    for (const Way way : {Way::Inputs, Way::InputAndJumper, Way::Outputs}) {
        for (const Place& a : places) {
            for (const Place& b : places) {
                if (&a == &b) continue;
                const bool input = way != Way::Outputs;
                test::PlantText p;
                for (const char* name : {"one", "two"}) {
                    if (input)
                        p.add(std::string("number_setter.") + name, {{"numbers", "whole"}});
                    else
                        p.add(std::string("display.") + name, {});
                }
                const char area = input ? 'I' : 'Q';
                const std::string logic = fmt::format(
                    "VAR_GLOBAL {} AT %{}{} : {}; {} AT %{}{} : {}; source : INT; END_VAR PROGRAM main source := 1; "
                    "END_PROGRAM",
                    a.tag, area, a.address, a.type, b.tag, area, b.address, b.type);
                base::Diagnostics diagnostics;
                session::build(
                    test::make_definition(
                        logic, p, {{a.tag, "one", ""}, {b.tag, way == Way::InputAndJumper ? "source" : "two", ""}}),
                    diagnostics);
                const bool apart = a.end <= b.first || b.end <= a.first;
                const bool part = (a.first >= b.first && a.end <= b.end) || (b.first >= a.first && b.end <= a.end);
                const bool wrong = !apart && (input || !part);
                CAPTURE(logic);
                CHECK_MESSAGE((diagnostics.error_count() == 1) == wrong, diagnostics.render());
                if (wrong) CHECK(test::joined(test::lines_of(diagnostics)).find("' share ") != std::string::npos);
            }
        }
    }
}

TEST_CASE("free addresses: runs between tags, aligned, and what is proposed is free") {
    base::Diagnostics diagnostics;
    const auto program = logic::compile(
        {base::make_source(
            "t.st",
            "VAR_GLOBAL a AT %IX0.0 : BOOL; b AT %IX0.3 : BOOL; w AT %IW2 : WORD; d AT %ID8 : DWORD; o AT "
            "%IB9 : BYTE; n : BOOL; END_VAR PROGRAM main n := a AND b; END_PROGRAM")},
        diagnostics);
    REQUIRE(program != nullptr);
    const auto located = logic::located_tags(*program);
    REQUIRE(located.size() == 5);
    CHECK(logic::sharing_text(located, located[3]) == "holds o");
    CHECK(logic::sharing_text(located, located[4]) == "within d");
    CHECK_FALSE(located[4].taken_twice());  // a way of looking at a part
    CHECK(located[2].shared.empty());
    std::string runs;
    for (const logic::FreeRun& r : logic::free_runs(located, logic::Area::Input))
        runs += fmt::format("{}+{}{} ", r.first_bit, r.open ? 0 : r.bits, r.open ? "open" : "");
    CHECK(runs == "1+2 4+12 32+32 96+0open ");
    std::string bits, words;
    for (const auto& a : logic::next_free(located, logic::Area::Input, 0, 4)) bits += a.text() + " ";
    for (const auto& a : logic::next_free(located, logic::Area::Input, 2, 3)) words += a.text() + " ";
    CHECK(bits == "%IX0.1 %IX0.2 %IX0.4 %IX0.5 ");
    CHECK(words == "%IW4 %IW6 %IW12 ");
    CHECK(logic::next_free(located, logic::Area::Output, 8, 1)[0].text() == "%QL0");
}

TEST_CASE("values as people want to see them") {
    const auto model = test::make_model(
        "VAR_GLOBAL w : INT := -2; u : UINT := 16#4142; r : REAL := 1.5; t : DINT := 2500; b : BOOL; END_VAR\n"
        "PROGRAM main b := w > 0; END_PROGRAM",
        {}, {});
    const session::Session s(model);
    const auto rows = session::tag_rows(s);
    using session::Display;
    const auto shown = [&](const char* name, Display display) {
        const auto row = std::find_if(rows.begin(), rows.end(), [&](const auto& r) { return r.tag->path == name; });
        REQUIRE(row != rows.end());
        return session::displayed(s, *row, display);
    };
    CHECK(shown("w", Display::Plain) == "-2");
    CHECK(shown("w", Display::Decimal) == "65534");
    CHECK(shown("w", Display::Hex) == "16#FFFE");
    CHECK(shown("w", Display::Binary) == "2#1111_1111_1111_1110");
    CHECK(shown("u", Display::Text) == "'BA'");
    CHECK(shown("u", Display::Signed) == "16706");
    CHECK(shown("r", Display::Hex) == "16#3FC00000");
    CHECK(shown("r", Display::Decimal) == "1.5");
    CHECK(shown("t", Display::Time) == "T#2.5s");
    CHECK(shown("b", Display::Hex) == "FALSE");
}

TEST_CASE("uses of a tag: each place once, with who writes it") {
    test::Scanner s(
        "VAR_GLOBAL go : BOOL; list : ARRAY[1..3] OF INT; END_VAR\n"
        "PROGRAM main\nVAR edge : R_TRIG; END_VAR\n"
        "go := NOT go;\nlist[2] := list[1] + 1;\nedge(CLK := go);\nEND_PROGRAM");
    const auto uses = [&](const char* name) {
        std::string out;
        for (const logic::UseSite& u : *s.variable(name).uses)
            out += fmt::format("{}:{}{} ", u.place.line, u.place.column, u.write ? "w" : "r");
        return out;
    };
    CHECK(uses("go") == "4:1w 4:11r 6:13r ");
    CHECK(uses("list[2]") == "5:1w 5:12r ");
    CHECK((*s.variable("go").uses)[0].unit == "main");
}

TEST_CASE("the checkout passes what is wired well, and finds what is not") {
    PlantText p = lamps_and_buttons();
    p.add("tank.t", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}})
        .add("level_transmitter.level", {{"tank", "t"}})
        .add("valve.v", {{"into", "t"}, {"control", "proportional"}})
        .add("text_display.line", {});
    const std::string good =
        "VAR_GLOBAL one : BOOL; two : BOOL; raw : INT; opening : INT; lamp : BOOL; line : STRING; "
        "END_VAR PROGRAM main two := FALSE; lamp := one AND two; opening := raw; line := 'x'; "
        "END_PROGRAM";
    const Made m = make({good}, p,
                        {row("one", "pb_one.contact", "invert"), row("two", "pb_two.contact"),
                         row("raw", "level.level", "0 m..1 m -> 20000..4000"), row("lamp", "lt_one.on"),
                         row("opening", "v.opening", "0 %..100 % -> 0..1000"), row("line", "line.text")});
    CHECK(m.problems == "");
    const auto lines = procedure::check_out(m.model);
    REQUIRE(lines.size() == 6);
    const auto line = [&](const char* tag) {
        for (const auto& l : lines) {
            if (l.tag == tag) return l;
        }
        FAIL("no line");
        return lines[0];
    };
    CHECK(line("one").verdict == procedure::CheckoutVerdict::Failed);
    CHECK(line("one").remark.find("the map inverts it, and neither description nor note says so") == 0);
    CHECK(line("lamp").moved == "lt_one.lit TRUE");
    CHECK(line("opening").moved == "v.actual_opening 0 %, v.flow 0 l/s");
    CHECK(line("one").probes[1].given == "TRUE");
    CHECK(line("one").probes[1].seen == "FALSE");
    CHECK(line("two").verdict == procedure::CheckoutVerdict::Failed);
    CHECK(line("two").remark == "the logic writes this tag itself");
    CHECK(line("raw").verdict == procedure::CheckoutVerdict::Passed);
    REQUIRE(line("raw").probes.size() == 5);
    CHECK(line("raw").probes[1].given == "0.25 m");
    CHECK(line("raw").probes[1].seen == "16000");
    CHECK(line("opening").verdict == procedure::CheckoutVerdict::Passed);
    CHECK(line("opening").probes[3].seen == "75 %");
    CHECK(line("lamp").verdict == procedure::CheckoutVerdict::Passed);
    CHECK(line("line").verdict == procedure::CheckoutVerdict::NotTried);
    const auto one = [&](const procedure::CheckoutLine& line) { return line.tag == lines[0].tag; };
    int tried = 0;
    for (const auto& line : procedure::check_out(m.model, one)) tried += line.probes.empty() ? 0 : 1;
    CHECK(tried == 1);
}

TEST_CASE("what keeps an output off, by the parts of its assignment that do not hold") {
    const Made m =
        make({"VAR_GLOBAL a : BOOL; b : BOOL := TRUE; level : INT; run : BOOL; lamp : BOOL; both : BOOL; on : BOOL; "
              "END_VAR\nPROGRAM main\nVAR own : BOOL; edge : R_TRIG; END_VAR\n"
              "edge(CLK := a);\nrun := b AND a AND (level > 3 OR own) AND NOT edge.Q;\n"
              "lamp := a OR b AND own;\nboth := own & b;\non := b;\nEND_PROGRAM"},
             {}, {});
    const session::Session s(m.model);
    std::string out;
    for (const procedure::HeldOff& h : procedure::held_off(s)) {
        out += fmt::format("{} {}:", h.tag, h.place.line);
        for (const std::string& part : h.missing) out += " [" + part + "]";
        out += "\n";
    }
    CHECK(out == "run 5: [a] [level > 3 OR own]\nlamp 6: [a OR own]\nboth 7: [own]\n");
}

TEST_CASE("a tag's name that several controllers have means none of them: the map has to say which") {
    const char* logic = "VAR_GLOBAL lamp AT %QX0.0 : BOOL; END_VAR PROGRAM main lamp := TRUE; END_PROGRAM";
    CHECK(make({logic, logic}, lamps_and_buttons(), {row("lamp", "lt_one.on")}).problems ==
          "0:0 'lamp' may mean 2 different tags [write a.lamp or b.lamp]\n");
    CHECK(make({logic, logic}, lamps_and_buttons(), {row("b.lamp", "lt_one.on")}).problems == "");
}

TEST_CASE("the last wire of a kind that a tag names is proposed, and two of them are not") {
    const auto proposed = [](const std::vector<std::string>& switches) {
        PlantText p;
        p.add("tank.mix", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}});
        for (const std::string& name : switches) p.add("level_switch." + name, {{"tank", "mix"}, {"at", "0.5 m"}});
        const Made m =
            make({"VAR_GLOBAL level_ok AT %IX0.0 : BOOL; lamp AT %QX0.0 : BOOL; END_VAR PROGRAM main lamp := "
                  "level_ok; END_PROGRAM"},
                 p, {});
        const auto found = wiring::propose(m.model->controllers, *m.model->plant, m.model->wiring);
        return found.empty() ? std::string() : base::at(m.model->plant->points, found[0].point).name;
    };
    CHECK(proposed({"full"}) == "full.signal");
    CHECK(proposed({"full", "low"}) == "");
    // Of an analog one a person has to say how it is scaled.
    PlantText p;
    p.add("tank.mix", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}})
        .add("level_transmitter.lt", {{"tank", "mix"}});
    const Made m = make({"VAR_GLOBAL transmitter AT %IW0 : INT; lamp AT %QX0.0 : BOOL; END_VAR PROGRAM main lamp := "
                         "transmitter > 3; END_PROGRAM"},
                        p, {});
    const auto found = wiring::propose(m.model->controllers, *m.model->plant, m.model->wiring);
    REQUIRE(found.size() == 1);
    CHECK(found[0].needs_scaling);
}
