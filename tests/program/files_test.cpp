// Readers and writers on their own: whole texts compared.
#include <set>

#include "files/text_file.hpp"
#include "files/trace_files.hpp"
#include "files/yard_file.hpp"
#include "program/support.hpp"
#include "program/trace_support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

namespace {

trace::Trace small_trace() {
    trace::Trace t;
    t.begin({channel("run", 0, logic::Elementary::Bool), channel("main.t.ET", 0, logic::Elementary::Time),
             channel("count", 0, logic::Elementary::Int), channel("a.speed", -1, logic::Elementary::Lreal),
             channel("big", 0, logic::Elementary::Ulint), channel("name", 0, logic::Elementary::String)},
            {});
    const auto at = [&](int ms, std::uint32_t c, double value) {
        t.change(Nanoseconds(ms * 1'000'000), c, logic::value_of(t.channels()[c].signal.type, value));
    };
    at(0, 0, 0);
    at(0, 1, 0);
    at(0, 2, -1);
    at(0, 3, 0.25);
    t.change({}, 4, {logic::Elementary::Ulint, 18446744073709551615U, {}});
    t.change({}, 5, {logic::Elementary::String, 0, ""});
    at(10, 0, 1);
    at(20, 1, 20e6);
    at(20, 2, 3);
    t.change(Nanoseconds(20'000'000), 4, {logic::Elementary::Ulint, 9007199254740993U, {}});
    t.change(Nanoseconds(20'000'000), 5, {logic::Elementary::String, 0, "a b,\"c\""});
    t.end(Nanoseconds(30'000'000));
    return t;
}

std::string vcd_text(const trace::Trace& trace) {
    std::string out;
    files::VcdSink sink([&](std::string_view text) { out += text; });
    files::replay(trace, sink);
    return out;
}
std::string csv_text(const trace::Trace& trace) {
    std::string out;
    files::CsvSink sink([&](std::string_view text) { out += text; });
    files::replay(trace, sink);
    return out;
}

}  // namespace

TEST_CASE("a VCD, to the byte") {
    CHECK(vcd_text(small_trace()) ==
          "$version Vivid Yard $end\n$timescale 1 us $end\n"
          "$scope module logic $end\n$var wire 1 ! run $end\n$var wire 16 # count $end\n$var wire 64 % big $end\n$var "
          "string 1 & name $end\n"
          "$scope module main $end\n$scope module t $end\n$var wire 64 \" ET $end\n$upscope $end\n$upscope "
          "$end\n$upscope $end\n"
          "$scope module plant $end\n$scope module a $end\n$var real 64 $ speed $end\n$upscope $end\n$upscope $end\n"
          "$enddefinitions $end\n"
          "#0\n$dumpvars\n0!\nb0 \"\nb1111111111111111 #\nr0.25 $\n"
          "b1111111111111111111111111111111111111111111111111111111111111111 %\ns &\n$end\n"
          "#10000\n1!\n"
          "#20000\nb1001100010010110100000000 \"\nb11 #\n"
          "b100000000000000000000000000000000000000000000000000001 %\nsa\\040b,\"c\" &\n"
          "#30000\n");
}

TEST_CASE("a CSV, to the byte") {
    CHECK(csv_text(small_trace()) ==
          "time_s,run,main.t.ET,count,a.speed,big,name\n0,FALSE,0,-1,0.25,18446744073709551615,\n"
          "0.01,TRUE,0,-1,0.25,18446744073709551615,\n0.02,TRUE,0.02,3,0.25,9007199254740993,\"a b,\"\"c\"\"\"\n"
          // How long nothing more changed.
          "0.03,TRUE,0.02,3,0.25,9007199254740993,\"a b,\"\"c\"\"\"\n");
}

TEST_CASE("an empty trace is a valid file of both kinds") {
    trace::Trace t;
    CHECK(contains(vcd_text(t), "$enddefinitions $end\n"));
    CHECK(csv_text(t) == "time_s\n");
}

TEST_CASE("more channels than one letter can name have codes of their own") {
    std::vector<trace::Channel> channels;
    for (int i = 0; i < 300; ++i) {
        trace::Channel c;
        c.name = fmt::format("v{}", i);
        c.signal.controller = 0;
        channels.push_back(c);
    }
    trace::Trace t;
    t.begin(channels, {});
    const std::string vcd = vcd_text(t);
    std::set<std::string> codes;
    std::istringstream lines(vcd);
    std::string line;
    while (std::getline(lines, line)) {
        if (!line.starts_with("$var wire 1 ")) continue;
        codes.insert(line.substr(12, line.find(' ', 12) - 12));
    }
    CHECK(codes.size() == 300);
}

TEST_CASE("texts are read whole or with a reason") {
    Folder f;
    std::string why;
    f.write("a", "one\ntwo");
    CHECK(files::read_text((f / "a").string(), why) == "one\ntwo");
    CHECK_FALSE(files::read_text((f / "b").string(), why).has_value());
    CHECK(why == "No such file or directory");
    CHECK_FALSE(files::read_text(f.path().string(), why).has_value());
    CHECK(why == "it is a folder");
}

TEST_CASE("a write replaces a file at once, makes folders, and leaves no traces when it fails") {
    Folder f;
    std::string why;
    CHECK(files::write_text((f / "deep/er/a").string(), "new", why));
    CHECK(f.read("deep/er/a") == "new");
    CHECK(files::write_text((f / "deep/er/a").string(), "newer", why));
    CHECK(f.read("deep/er/a") == "newer");
    CHECK_FALSE(files::write_text((f / "deep/er/a/b").string(), "x", why));
    CHECK(f.read("deep/er/a") == "newer");
    int entries = 0;
    for ([[maybe_unused]] const auto& e : fs::recursive_directory_iterator(f.path())) ++entries;
    CHECK(entries == 3);
}

TEST_CASE("patterns give files sorted by name") {
    Folder f;
    for (const char* name : {"l/b.st", "l/a.st", "l/c.txt"}) f.write(name, "");
    std::string why;
    const auto found = files::expand(f.path().string(), "l/*.st", why);
    REQUIRE(found.size() == 2);
    CHECK(found[0].ends_with("l/a.st"));
    CHECK(found[1].ends_with("l/b.st"));
    CHECK(files::expand(f.path().string(), "none*", why).empty());
}

TEST_CASE("yard.toml: defaults, several controllers, safe values, most instructions") {
    Folder f;
    write_small_yard(f);
    f.write("yard.toml",
            "[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n"
            "[controller.line]\nlogic = \"line.st\"\nmax_instructions = 50\n[controller.line.safe]\nrun = true\n"
            "[controller.other]\nlogic = [\"o*.st\"]\nscan = \"50 ms\"\n");
    f.write("other.st", "PROGRAM second VAR n : INT; END_VAR n := n + 1; END_PROGRAM");
    base::Diagnostics diagnostics;
    const files::Yard yard = files::load_yard(f.path().string(), diagnostics);
    INFO(diagnostics.render());
    REQUIRE(yard.model != nullptr);
    CHECK(yard.name == f.path().filename().string());
    CHECK(yard.model->step == Nanoseconds(5'000'000));
    REQUIRE(yard.model->controllers.size() == 2);
    CHECK(yard.model->controllers[0].max_instructions == 50);
    CHECK(yard.model->controllers[0].scan == Nanoseconds(10'000'000));
    CHECK(yard.model->controllers[1].scan == Nanoseconds(50'000'000));
    session::Session s(yard.model);
    s.stop(0);
    for (int i = 0; i < 10; ++i) s.step();
    CHECK(session::read(s, *session::find_signal(*yard.model, "a.run")) == 1);  // the safe value
    CHECK(session::read(s, *session::find_signal(*yard.model, "second.n")) == 2);
}

TEST_CASE("mistakes of yard.toml that the rows elsewhere do not cover") {
    struct Row {
        const char* text;
        const char* message;
    };
    const Row rows[] = {
        {"", "yard.toml needs a table [yard]"},
        {"[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n[controller]\nline = 5\n",
         "a controller is a table: [controller.line]"},
        {"[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n[controller.line]\n", "controller 'line' needs 'logic'"},
        {"[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n[controller.line]\nlogic = 5\n",
         "'logic' is a list of files"},
        {"[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n[controller.line]\nlogic = [5]\n",
         "'logic' is a list of files, written as strings"},
        {"[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n[controller.line]\nlogic = "
         "[\"line.st\"]\nmax_instructions = 0\n",
         "'max_instructions' is a number of instructions, 1 to 1e12"},
        {"[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n[controller.line]\nlogic = "
         "[\"line.st\"]\n[controller.line.safe]\nrum = true\n",
         "no tag is named 'rum'"},
        {"[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n[controller.line]\nlogic = "
         "[\"line.st\"]\n[controller.line.safe]\nrun = 5\n",
         "'run' is BOOL"},
        {"[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\nprocedures = [\"none.proc\"]\n[controller.line]\nlogic = "
         "[\"line.st\"]\n",
         "none.proc: No such file or directory"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.message);
        Folder f;
        write_small_yard(f);
        f.write("yard.toml", row.text);
        base::Diagnostics diagnostics;
        const files::Yard yard = files::load_yard(f.path().string(), diagnostics);
        CHECK(yard.model == nullptr);
        INFO(diagnostics.render());
        CHECK(contains(diagnostics.render(), row.message));
    }
}

TEST_CASE("plant.toml: assemblies and kinds of one's own, through the program") {
    Folder f;
    f.write("yard.toml",
            "[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\nprocedures = [\"*.proc\"]\n\n"
            "[controller.line]\nlogic = \"line.st\"\n");
    f.write("plant.toml",
            "[item.tile]\nsize = [\"200 mm\", \"200 mm\", \"20 mm\"]\n\n"
            "[[assembly]]\nname = \"station\"\nparameters = {speed = \"0.5 m/s\"}\n\n"
            "[assembly.belt.feed]\nat = [\"0 m\", \"0 m\"]\nlength = \"2 m\"\nspeed = \"$speed\"\n\n"
            "[assembly.photoeye.end]\non = \"feed\"\nat = \"1.5 m\"\nheight = \"10 mm\"\n\n"
            "[station.left]\nat = [\"0 m\", \"0 m\"]\n\n[station.right]\nat = [\"5 m\", \"0 m\"]\nspeed = \"1 m/s\"\n\n"
            "[kind.oven]\nlogic = \"oven.st\"\nparameters = [\"gain\"]\ncontrols = [\"door\"]\nfaults = [\"cold\"]\n\n"
            "[oven.dryer]\ngain = 2\n");
    f.write("oven.st",
            "FUNCTION_BLOCK oven VAR_INPUT heat : BOOL; gain : INT; door : BOOL; cold : BOOL; END_VAR\n"
            "VAR_OUTPUT warm : BOOL; END_VAR VAR steps : DINT; END_VAR\n"
            "IF heat AND NOT door AND NOT cold THEN steps := steps + gain; END_IF; warm := steps >= 100;\n"
            "END_FUNCTION_BLOCK\n");
    f.write("map.csv",
            "tag,point\nrun_left,left.feed.run\nrun_right,right.feed.run\nat_left,left.end\nat_right,right.end\n"
            "heat,dryer.heat\nwarm,dryer.warm\n");
    f.write("line.st",
            "VAR_GLOBAL run_left, run_right, at_left, at_right, heat, warm : BOOL; END_VAR PROGRAM main "
            "run_left := NOT at_left; run_right := NOT at_right; heat := NOT warm; END_PROGRAM\n");
    f.write("go.proc",
            "procedure \"Both\"\nstep \"s\"\n  place tile on left.feed at 0.3 m\n  place tile on right.feed at 0.3 m\n"
            "  wait until at_right within 1500 ms\n  expect not at_left\n  wait until at_left within 1500 ms\n"
            "  expect warm\n  expect dryer.steps >= 100\n"
            "procedure \"Door and fault\"\nstep \"s\"\n  door dryer to 1\n  wait 2 s\n  expect not warm\n"
            "  door dryer to 0\n  fault dryer cold\n  wait 1 s\n  expect not warm\n  heal dryer\n  wait until warm "
            "within 1 s\n");
    const auto prove = f.run("prove .");
    CHECK(prove.exit == 0);
    CHECK(prove.err == "");
    CHECK(contains(prove.out, "2 of 2 procedures passed"));
    f.write("oven.st", "FUNCTION_BLOCK oven VAR_INPUT heat : BOOL; END_VAR hat := 1; END_FUNCTION_BLOCK\n");
    const auto wrong = f.run("check .");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "oven.st:1:52: error: no variable is named 'hat'"));
    f.write("plant.toml", "[assembly]\nname = \"station\"\n\n[kind]\noven = 3\n");
    const auto brackets = f.run("check .");
    CHECK(brackets.exit == 2);
    CHECK(contains(brackets.err, "plant.toml:1:2: error: an assembly has double brackets"));
    CHECK(contains(brackets.err, "plant.toml:5:1: error: a kind is a table"));
}
