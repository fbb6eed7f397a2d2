// Each kind of mistake a yard can hold, through the built program: the whole message, exit code 2, nothing run.
#include <map>
#include <set>

#include "core/base/base.hpp"
#include "files/map_file.hpp"
#include "files/plant_file.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;

namespace {

struct Mistake {
    const char* code;
    const char* file;
    const char* from;
    const char* to;
    const char* message;  ///< The first line, without the code.
};

const Mistake kMistakes[] = {
    {"file-missing", "yard.toml", "\"plant.toml\"", "\"plan.toml\"",
     "yard.toml:3:9: error: cannot read plan.toml: No such file or directory"},
    {"file-missing", "yard.toml", "[\"*.st\"]", "[\"logic/*.st\"]",
     "yard.toml:9:10: error: no file matches 'logic/*.st'"},
    {"syntax", "yard.toml", "name = \"Small\"", "name = Small", "yard.toml:2:"},
    {"syntax", "plant.toml", "[belt.a]", "[belt.a", "plant.toml:4:"},
    {"syntax", "map.csv", "run,a.run,,", "run,a.run,,,,", "map.csv:5:13: error: this row has 6 cells, the header 4"},
    {"syntax", "line.st", "run := (", "run = (", "line.st:8:9: error: expected ':=', found '='"},
    {"syntax", "go.proc", "step \"Runs", "stepp \"Runs", "go.proc:2:1: error: 'stepp' stands outside a step"},
    {"unknown-key", "yard.toml", "scan =", "scna =", "yard.toml:10:1: error: [controller.line] has no 'scna'"},
    {"unknown-key", "yard.toml", "[controller.line]", "[controler.line]",
     "yard.toml:8:2: error: yard.toml has no 'controler'"},
    {"unknown-key", "plant.toml", "speed =", "sped =", "plant.toml:7:1: error: a belt has no 'sped'"},
    {"unknown-key", "map.csv", "scaling", "scale", "map.csv:1:11: error: the map has no column 'scale'"},
    {"missing-key", "yard.toml", "logic = [\"*.st\"]\n", "", "yard.toml:8:13: error: controller 'line' needs 'logic'"},
    {"missing-key", "plant.toml", "length = \"3 m\"\n", "",
     "plant.toml:4:7: error: belt 'a' needs 'length': from start to end"},
    {"missing-key", "map.csv", "run,a.run,,", ",a.run,,", "map.csv:5:1: error: this row has no tag"},
    {"wrong-value", "plant.toml", "\"normally closed\"", "\"closed\"",
     "plant.toml:11:11: error: 'contact' takes one of: normally open, normally closed"},
    {"wrong-value", "yard.toml", "name = \"Small\"", "name = 5",
     "yard.toml:2:8: error: 'name' takes a string in quotes"},
    {"no-channel", "yard.toml", "scan = \"10 ms\"\n",
     "scan = \"10 ms\"\n[[controller.line.module]]\nname = \"AI\"\nkind = \"analog input\"\naddress = \"%IB0\"\n",
     "map.csv:2:1: error: 'start_pb' at %IX0.0 is not a channel: module 'AI' has channels of 16 bits from %IB0 to "
     "%IB7"},
    {"wrong-value", "yard.toml", "scan = \"10 ms\"\n",
     "scan = \"10 ms\"\n[[controller.line.module]]\nname = \"DI\"\nkind = \"digital inputs\"\naddress = \"%IB0\"\n",
     "yard.toml:13:8: error: 'kind' takes one of: digital input, digital output, analog input, analog output, counter, "
     "temperature"},
    {"bad-address", "yard.toml", "scan = \"10 ms\"\n",
     "scan = \"10 ms\"\n[[controller.line.module]]\nname = \"DI\"\nkind = \"digital input\"\naddress = \"%QB0\"\n",
     "yard.toml:14:11: error: '%QB0' is not a valid start of input channels"},
    {"wrong-unit", "plant.toml", "\"0.5 m/s\"", "\"0.5 m\"",
     "plant.toml:7:9: error: 'm' is not a unit of speed; accepted: mm/s, m/s, m/min"},
    {"wrong-unit", "plant.toml", "\"3 m\"", "3",
     "plant.toml:6:10: error: a length needs a unit, written as a string; accepted: mm, cm, m"},
    {"wrong-unit", "yard.toml", "\"5 ms\"", "5",
     "yard.toml:5:13: error: 'time_step' needs a unit, written as a string; accepted: us, ms, s, min, h"},
    {"out-of-range", "plant.toml", "\"2 m\"", "\"4 m\"",
     "plant.toml:15:6: error: 4 m is out of range; accepted: 0 to 3 m"},
    {"out-of-range", "yard.toml", "\"5 ms\"", "\"1 us\"",
     "yard.toml:5:13: error: 'time_step' is 1 us; accepted: 10 us to 10 s"},
    {"unknown-kind", "plant.toml", "[photoeye.see]", "[photeye.see]",
     "plant.toml:13:2: error: no device kind is named 'photeye'"},
    {"unknown-device", "plant.toml", "on = \"a\"", "on = \"b\"", "plant.toml:14:6: error: no device is named 'b'"},
    {"wrong-device", "plant.toml", "on = \"a\"", "on = \"start\"",
     "plant.toml:14:6: error: 'start' is a button; 'on' needs a belt, roller_bed, turntable, lift, chute, "
     "index_table, merge or shelf"},
    {"placement-loop", "plant.toml", "at = [\"0 m\", \"0 m\"]", "after = \"a\"",
     "plant.toml:4:7: error: 'a' is placed after itself, by way of others"},
    {"duplicate-name", "plant.toml", "[button.start]", "[button.a]",
     "plant.toml:9:9: error: 'a' is declared twice; first at plant.toml:4:7"},
    {"duplicate-name", "line.st", "stop_pb AT %IX0.1", "start_pb AT %IX0.1",
     "line.st:3:5: error: 'start_pb' is declared twice; first at line.st:2:5"},
    {"unknown-name", "line.st", "NOT see_tile", "NOT see_tiles",
     "line.st:8:50: error: no variable is named 'see_tiles'"},
    {"unknown-name", "go.proc", "until see_tile", "until se_tile",
     "go.proc:6:16: error: no tag, point or actual is named 'se_tile'"},
    {"unknown-type", "line.st", "%QX0.0 : BOOL", "%QX0.0 : BOL", "line.st:5:21: error: no type is named 'BOL'"},
    {"type-mismatch", "line.st", "AND NOT see_tile", "AND 5",
     "line.st:8:42: error: AND needs BOOL or bit strings on both sides, not BOOL and a whole number"},
    {"type-mismatch", "map.csv", "see_tile,see.signal,,", "see_tile,see.blocked,,", ""},
    {"wrong-call", "line.st", "AND NOT see_tile", "AND ABS(1, 2) = 1",
     "line.st:8:46: error: ABS takes 1 argument, not 2"},
    {"not-assignable", "line.st", "run := (", "5 + run := (", ""},
    {"not-assignable", "line.st", "    run := (run", "    %IX9.0 := (run",
     "line.st:8:5: error: '%IX9.0' cannot be written: it is an input of the controller"},
    {"literal-range", "line.st", "AND NOT see_tile", "AND BYTE#300 = BYTE#1",
     "line.st:8:46: error: this number does not fit BYTE"},
    {"bad-address", "line.st", "%QX0.0", "%QX0.8", "line.st:5:12: error: '%QX0.8' is not a valid address"},
    {"address-overlap", "line.st", "%IX0.1", "%IX0.0",
     "map.csv:3:1: error: 'stop_pb' and 'start_pb' share bits, and both are written from outside; first at "
     "map.csv:2:1"},
    {"not-utf8", "line.st", "PROGRAM main\n", "(* Str\xF6mung *) PROGRAM main\n",
     "line.st:7:7: error: this is not UTF-8: the byte F6"},
    {"not-supported", "line.st", "PROGRAM main\n", "VAR_GLOBAL p : POINTER TO INT; END_VAR PROGRAM main\n",
     "line.st:7:16: error: POINTER is not part of the standard"},
    {"unknown-tag", "map.csv", "run,a.run", "runn,a.run", "map.csv:5:1: error: no tag is named 'runn'"},
    {"unknown-point", "map.csv", "see.signal", "see.sig", "map.csv:4:10: error: no point is named 'see.sig'"},
    {"mapped-twice", "map.csv", "stop_pb,stop,,", "stop_pb,start,,",
     "map.csv:3:9: error: point 'start' is joined twice; first at map.csv:2:10"},
    {"wrong-direction", "map.csv", "run,a.run,,", "run,see,,", ""},
    {"wrong-direction", "map.csv", "see_tile,see.signal,,\nrun,a.run,,", "see_tile,a.run,,\nrun,see,,",
     "map.csv:4:10: error: 'a.run' is an output of the controller, but 'see_tile' lies at %IX0.2"},
    {"bad-scaling", "map.csv", "run,a.run,,", "run,a.run,x2,",
     "map.csv:5:11: error: a scaling 'x2' does not suit point 'a.run', which is BOOL"},
    {"bad-timing", "yard.toml", "\"10 ms\"", "\"12 ms\"",
     "yard.toml:10:8: error: the scan of 12 ms is not a multiple of the plant's time step of 5 ms"},
    {"unknown-verb", "go.proc", "press start", "prss start", "go.proc:4:5: error: no verb is named 'prss'"},
    {"unknown-control", "go.proc", "press start for 100 ms", "turn start",
     "go.proc:4:10: error: a button cannot be told to 'turn'"},
    {"unknown-fault", "go.proc", "press start for 100 ms", "fault a trips",
     "go.proc:4:13: error: a belt has no fault 'trips'"},
    {"unknown-item", "go.proc", "place tile", "place tiles", "go.proc:3:11: error: no item is named 'tiles'"},
    {"nothing-tested", "go.proc",
     "step \"Runs to the eye\"\n    place tile on a at 0.5 m\n    press start for 100 ms\n    expect run within 50 "
     "ms\n    wait until see_tile within 5 s\n    expect not run within 20 ms\n",
     "", "go.proc:1:1: error: procedure \"Go\" has no step"},
};

/// Codes that only warn, or that need a text too long for a row.
const std::set<std::string> kElsewhere = {
    "too-deep",         "unused-variable",  "never-written",   "never-read",        "written-twice",
    "real-equality",    "unjoined-tag",     "unjoined-point",  "conditional-timer", "constant-condition",
    "unreachable-case", "unreachable-step", "computed-narrow", "recursion",         "likely-swapped",
    "out-of-reach",     "file-unreadable",  "never-off",       "no-way-out",        "copies-over",
    "beyond-array",     "unguarded",        "overflow",        "divides-by-zero",   "never-true",
    "always-true",      "no-branch",        "below-scan",      "wire-unwatched",    "wrong-sense",
    "unsafe-contact",   "unsupervised",     "not-interlocked", "register-clash",    "register-odd",
    "short-of-array"};

}  // namespace

TEST_CASE("each kind of mistake is reported at its place, and nothing is run") {
    for (const Mistake& m : kMistakes) {
        CAPTURE(m.file);
        CAPTURE(m.to);
        Folder f;
        write_small_yard(f);
        f.replace(m.file, m.from, m.to);
        const Result r = f.run("run --for 1s --out results");
        CHECK(r.exit == 2);
        CHECK(r.out == "");
        CHECK_FALSE(f.has("results"));
        INFO(r.err);
        if (*m.message != '\0') {
            CHECK_MESSAGE(contains(r.err, m.message), r.err);
            CHECK(contains(r.err, std::string("[") + m.code + "]"));
        }
    }
}

TEST_CASE("every code has a case that raises it") {
    std::set<std::string> raised = kElsewhere;
    for (const Mistake& m : kMistakes) raised.insert(m.code);
    for (int code = 0; code < base::code_count(); ++code)
        CHECK_MESSAGE(raised.contains(base::code_name(static_cast<base::Code>(code))),
                      base::code_name(static_cast<base::Code>(code)));
}

TEST_CASE("warnings do not stop a run") {
    Folder f;
    write_small_yard(f);
    f.replace("map.csv", "see_tile,see.signal,,\n", "");
    f.replace("line.st", "PROGRAM main\n",
              "PROGRAM main\nVAR spare : INT; ghost, copy : BOOL; END_VAR\ncopy := ghost;\n");
    const Result r = f.run("check");
    CHECK(r.exit == 0);
    CHECK(contains(r.err, "map.csv: warning: point 'see.signal' is joined to no tag [unjoined-point]"));
    CHECK(contains(r.err, "line.st:4:5: warning: 'see_tile' at %IX0.2 is joined to no point [unjoined-tag]"));
    CHECK(contains(r.err, "line.st:8:5: warning: 'spare' is never used [unused-variable]"));
    CHECK(contains(r.err, "'ghost' is read, but nothing ever writes it [never-written]"));
    CHECK(f.run("check --no-warnings").err == "");
    CHECK(f.run("run --for 1s").err == "");
}

TEST_CASE(
    "what can be foreseen of the logic is told by check, at its place and with its reason, and nothing is stopped") {
    Folder f;
    write_small_yard(f);
    f.replace(
        "line.st", "PROGRAM main\n",
        "PROGRAM main\nVAR n : INT; part : ARRAY[1..4] OF INT; late : BOOL; END_VAR\nn := n + 1; IF n > 4 THEN n := 0; "
        "END_IF;\npart[n] := 12000;\nlate := n = 7;\n");
    const Result r = f.run("check");
    CHECK(r.exit == 0);
    CHECK_MESSAGE(
        contains(r.err, "line.st:10:1: warning: 'n' is 0 to 4 here, and the array goes from 1 to 4 [beyond-array]"),
        r.err);
    CHECK_MESSAGE(contains(r.err, "line.st:11:11: warning: this is never TRUE: 'n' is 0 to 4 [never-true]"), r.err);
    f.replace("line.st", "late := n = 7;", "late := n = 7; // allow never-true: it is 7 on Sundays");
    CHECK_FALSE(contains(f.run("check").err, "never-true"));
    CHECK(f.run("run --for 1s").err == "");
}

TEST_CASE("mistakes in every file of a yard are shown together") {
    Folder f;
    write_small_yard(f);
    f.replace("yard.toml", "time_step = \"5 ms\"", "time_stepp = \"5 ms\"");
    f.replace("plant.toml", "\"0.5 m/s\"", "\"fast\"");
    f.replace("plant.toml", "contact =", "contakt =");
    f.replace("line.st", "start_pb) AND", "start) AND");
    f.replace("map.csv", "see.signal", "see.nothing");
    const Result r = f.run("check");
    CHECK(r.exit == 2);
    for (const char* part : {"yard.toml:5:1", "plant.toml:7:9", "plant.toml:11:1", "line.st:8:20", "map.csv:4:10"}) {
        CHECK(contains(r.err, part));
    }
    CHECK(contains(r.err, "5 errors"));
}

TEST_CASE("mistakes of procedures show together with those of the plant, without echoes") {
    Folder f;
    write_small_yard(f);
    f.replace("go.proc", "press start", "pres start");
    f.replace("go.proc", "until see_tile", "until se_tile");
    f.replace("map.csv", "run,a.run", "run,a.rum");
    const Result all = f.run("check");
    for (const char* part : {"map.csv:5:5", "go.proc:4:5", "go.proc:6:16"}) CHECK(contains(all.err, part));
    CHECK(contains(all.err, "3 errors"));
    f.replace("plant.toml", "[photoeye.see]", "[photeye.see]");
    const Result fewer = f.run("check");
    for (const char* part : {"map.csv:5:5", "go.proc:4:5", "plant.toml:13:2"}) CHECK(contains(fewer.err, part));
    CHECK_FALSE(contains(fewer.err, "go.proc:6:16"));  // it may only echo the missing eye
}

TEST_CASE("a mistake is reported where it is made, not again where its name is used") {
    Folder f;
    write_small_yard(f);
    f.replace("plant.toml", "[photoeye.see]", "[photeye.see]");           // the map names its point
    f.replace("line.st", "run AT %QX0.0 : BOOL", "run AT %QX0.0 : BOL");  // the map names the tag, the body uses it
    const Result r = f.run("check");
    CHECK(r.exit == 2);
    CHECK(contains(r.err, "no device kind is named 'photeye'"));
    CHECK(contains(r.err, "no type is named 'BOL'"));
    CHECK_FALSE(contains(r.err, "map.csv"));
}

TEST_CASE("strange files neither crash nor hang: every prefix of each file, and noise") {
    for (const char* name : {"yard.toml", "plant.toml", "map.csv", "line.st", "go.proc"}) {
        CAPTURE(name);
        Folder f;
        write_small_yard(f);
        const std::string whole = f.read(name);
        for (std::size_t n = 0; n < whole.size(); n += 1 + whole.size() / 25) {
            f.write(name, whole.substr(0, n));
            const Result r = f.run("check");
            CHECK((r.exit == 0 || r.exit == 2));
        }
        std::string noise(4000, ' ');
        std::uint32_t seed = 3;
        for (char& c : noise) c = static_cast<char>((seed = seed * 1664525U + 1013904223U) >> 24);
        f.write(name, noise);
        CHECK(f.run("check").exit == 2);
    }
}

TEST_CASE("a map with Windows line ends, quotes and a byte order mark is read") {
    Folder f;
    write_small_yard(f);
    f.write("map.csv",
            "\xEF\xBB\xBFnote,tag,point\r\n\"a, "
            "b\",start_pb,start\r\n,stop_pb,\"stop\"\r\n\r\n,see_tile,see\r\n,run,a.run\r\n");
    const Result r = f.run("check");
    CHECK(r.err == "");
    CHECK(r.exit == 0);
}

TEST_CASE("groups of devices have dotted names; a broken group is explained") {
    const auto read = [](const std::string& text) {
        base::Diagnostics d;
        const auto definition = files::read_plant(base::make_source("plant.toml", text), d);
        std::string out;
        for (const auto& device : definition.devices) out += device.kind + ":" + device.name + " ";
        return out + d.render();
    };
    CHECK(
        read(
            "[button.panel.start]\n[button.panel.stop]\ncontact = \"normally closed\"\n[belt.b]\nlength = \"1 m\"\n") ==
        "button:panel.start button:panel.stop belt:b ");
    CHECK(contains(read("speed = 3\n"), "plant.toml:1:1: error: 'speed' stands outside any device"));
    CHECK(contains(read("[belt]\nspeed = 3\n"), "expected a device here, such as [belt.speed]"));
}
