// vyard campaign, as a user drives it: findings, the accept list, parts and their merging, procedures that show
// findings.
#include <nlohmann/json.hpp>

#include "program/support.hpp"

using namespace vyard::test;
using nlohmann::json;

namespace {

/// The small yard, with a slide whose valve goes on as it was last sent, and an e-stop.
void write_yard_with_slide(Folder& f, const char* valve = "double solenoid") {
    write_small_yard(f);
    f.write("plant.toml",
            f.read("plant.toml") +
                "[button.reset]\n[estop.estop]\n[lamp.alarm]\n[cylinder.slide]\nstroke = \"200 mm\"\nvalve = \"" +
                valve + "\"\nextend_time = \"2 s\"\n[outfeed.away]\nafter = \"a\"\n");
    f.write("map.csv", f.read("map.csv") + "estop_ok,estop,,\nout,slide.extend,,\nin,slide.retract,,\nalarm,alarm,,\n");
    f.replace(
        "line.st", "END_VAR",
        "    estop_ok AT %IX0.3 : BOOL;\n    out AT %QX0.1 : BOOL;\n    in AT %QX0.2 : BOOL;\n    alarm AT %QX0.3 : "
        "BOOL;\nEND_VAR");
    f.replace("line.st", "stop_pb AND NOT see_tile;",
              "stop_pb AND estop_ok AND NOT see_tile;\n    out := run;\n    in := FALSE;");
}

}  // namespace

TEST_CASE(
    "campaign stops: a finding fails, is kept as a procedure, accepted with a reason, and gone once it is mended") {
    Folder f;
    write_yard_with_slide(f);
    const Result first = f.run("campaign stops --keep found --out results");
    CHECK(first.exit == 1);
    CHECK(contains(first.out, "finding  press estop: slide still moves\n"));
    CHECK(contains(first.out, "shown by found/found_press_estop_slide_still_moves.proc"));
    for (const char* name : {"stops.sqlite", "stops.json", "stops.csv", "stops.html", "junit.xml"})
        CHECK_MESSAGE(f.has(std::string("results/") + name), name);
    const std::string kept = "found/found_press_estop_slide_still_moves.proc";
    CHECK(contains(f.read(kept), "    press estop\n"));
    CHECK(contains(f.read(kept), "    expect not slide.moving\n"));

    // The procedure fails in the yard as it is, and passes once the valve stands still without power.
    f.write("kept.proc", f.read(kept));
    CHECK(f.run("prove . kept").exit == 1);
    f.replace("plant.toml", "double solenoid", "centre closed");
    CHECK(f.run("prove . kept").exit == 0);
    f.replace("plant.toml", "centre closed", "double solenoid");
    fs::remove(f / "kept.proc");

    // Known before, it does not count; accepted, it stands in the yard with reason and date.
    const Result known = f.run("campaign stops --against results/stops.sqlite");
    CHECK(known.exit == 0);
    CHECK(contains(known.out, " known before\n"));
    const Result wrong = f.run("campaign stops --accept 'press estop: slid*'");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "has no reason"));
    CHECK(f.run("campaign stops --accept 'press nothing: *=x'").exit == 2);
    CHECK_FALSE(f.has("accept.csv"));
    const Result accepted = f.run("campaign stops --accept '*: slide still moves=a slow slide, no one can reach it'");
    CHECK(accepted.exit == 0);
    CHECK(contains(f.read("accept.csv"),
                   "campaign,finding,reason,date\nstops,*: slide still moves,\"a slow slide, no one "
                   "can reach it\",20"));
    CHECK(f.run("campaign stops").exit == 0);
    f.replace("plant.toml", "double solenoid", "centre closed");
    const Result mended = f.run("campaign stops");
    CHECK(mended.exit == 0);
    CHECK(contains(mended.out, "remark   accepted, and not found any more: *: slide still moves\n"));
    f.write("accept.csv", "campaign,finding,reason\nstops,x,\n");
    CHECK(f.run("campaign stops").exit == 2);
    CHECK(contains(f.run("campaign stops").err, "accept.csv:2:1: error: what is accepted needs"));
}

TEST_CASE("campaign: JSON, CSV and JUnit say what the text says; any number of jobs, the same bytes") {
    Folder f;
    write_yard_with_slide(f);
    const Result text = f.run("campaign faults --out one --jobs 1");
    const Result again = f.run("campaign faults --out two --jobs 3");
    CHECK(text.exit == 1);
    for (const char* name : {"faults.json", "faults.csv", "faults.html", "junit.xml", "matrix.svg"})
        CHECK_MESSAGE(f.read(std::string("one/") + name) == f.read(std::string("two/") + name), name);
    const json j = json::parse(f.run("campaign faults --json").out);
    CHECK(j == json::parse(f.read("one/faults.json")));
    CHECK(j["campaign"] == "faults");
    CHECK(j["yard"] == "Small");
    CHECK(j["runs"] == j["jobs"]);
    std::size_t outcomes = 0, counting = 0;
    for (const auto& [name, count] : j["outcomes"].items()) outcomes += count.get<std::size_t>();
    CHECK(outcomes == j["runs"]);
    for (const json& finding : j["findings"]) {
        counting += finding["counts"].get<bool>() ? 1U : 0U;
        CHECK(contains(text.out, "finding  " + finding["finding"].get<std::string>() + "\n"));
    }
    CHECK(contains(text.out, fmt::format("faults: {} runs, {} findings\n", j["runs"].get<int>(), counting)));
    CHECK(j["faults"]["fault see.signal stuck on"]["Go"] == "silent");
    CHECK(contains(f.read("one/junit.xml"), fmt::format("failures=\"{}\"", counting)));
    CHECK(lines_of(f.read("one/faults.csv")).size() == j["runs"].get<std::size_t>() + 1);
    CHECK(contains(f.read("one/matrix.svg"), ">see.signal stuck on<"));
}

TEST_CASE("campaign: parts of it, merged, are the whole; what does not belong together is refused") {
    Folder f;
    write_yard_with_slide(f);
    CHECK(f.run("campaign stops --out whole").exit == 1);
    for (const char* part : {"1/3", "2/3", "3/3"})
        f.run(fmt::format("campaign stops --shard {} --out part{}", part, part[0]));
    const Result merged = f.run("campaign merge part1/stops.sqlite part2/stops.sqlite part3/stops.sqlite --out all");
    CHECK(merged.exit == 1);
    for (const char* name : {"stops.json", "stops.csv", "stops.html", "junit.xml"})
        CHECK_MESSAGE(f.read(std::string("all/") + name) == f.read(std::string("whole/") + name), name);
    CHECK(contains(f.run("campaign merge part1/stops.sqlite part3/stops.sqlite").out, "remark   parts are missing: "));
    CHECK(contains(f.run("campaign merge part1/stops.sqlite part1/stops.sqlite").err, "stands in two of them"));
    CHECK(f.run("campaign merge part1/stops.sqlite none.sqlite").exit == 2);
    // All runs that were asked for are there; of another number they are not parts of the same.
    for (const char* part : {"1/2", "2/2"})
        f.run(fmt::format("campaign stops --limit 10 --shard {} --out some{}", part, part[0]));
    const Result some = f.run("campaign merge some1/stops.sqlite some2/stops.sqlite");
    CHECK_FALSE(contains(some.out, "parts are missing"));
    CHECK(contains(f.run("campaign merge some1/stops.sqlite").out, "parts are missing: 5 of 10 runs are here"));
    f.write("text.sqlite", "no database");
    CHECK(contains(f.run("campaign merge text.sqlite").err, "cannot read text.sqlite: file is not a database"));
    f.replace("plant.toml", "speed = \"0.5 m/s\"", "speed = \"0.4 m/s\"");
    f.run("campaign stops --shard 1/3 --out other");
    CHECK(contains(f.run("campaign merge other/stops.sqlite part2/stops.sqlite").err,
                   "they are not parts of one campaign"));
}

TEST_CASE("campaign: what is wrong with the call is said") {
    Folder f;
    write_yard_with_slide(f);
    const auto said = [&](const std::string& arguments) {
        const Result r = f.run("campaign " + arguments);
        CHECK_MESSAGE(r.exit == 2, arguments);
        return r.err;
    };
    CHECK(contains(said(""), "error: which campaign?"));
    CHECK(contains(said("stop"), "did you mean 'stops'?"));
    CHECK(contains(said("stops . more"), "unexpected argument 'more'"));
    CHECK(contains(said("stops --shard 4/3"), "--shard: '4/3' is not a part of all, such as 2/4"));
    CHECK(contains(said("stops --jobs 0"), "--jobs"));
    CHECK(contains(said("stops --moments 1.5"), "--moments: 1.5 is not a whole number"));
    CHECK(contains(said("faults --alarms alrm"), "did you mean 'alarm'?"));
    CHECK(contains(said("stops -p Gone"), "no procedure is named 'Gone'"));
    CHECK(contains(said("stops --against none.sqlite"), "cannot read none.sqlite"));
    CHECK(contains(said("stops --json --csv"), "exclude each other"));
    // What means nothing there is refused, not dropped.
    for (const char* misfit : {"stops --pairs", "smoke --moments 3", "smoke --shard 1/2",
                               "sweep --vary a.length=1m..2m/1m --alarms "
                               "alarm",
                               "faults --allowed 1s", "again --patience 3s", "smoke -p Go", "merge x.sqlite --jobs 2",
                               "merge x.sqlite --set a.length=1m", "sweep --vary a.length=1m..2m/1m --keep k"})
        CHECK_MESSAGE(contains(said(misfit), " is for "), misfit);
    fs::remove(f / "go.proc");
    CHECK(contains(said("faults"), "the yard has no procedures"));
    CHECK(f.run("campaign smoke").exit <= 1);
}

TEST_CASE("mishaps are said by prove, run, draw and live, ruled by a rule, allowed with a reason") {
    Folder f;
    write_yard_with_slide(f);
    f.replace("line.st", "in := FALSE", "in := start_pb");
    const Result prove = f.run("prove");
    CHECK(prove.exit == 0);
    CHECK(contains(prove.out, "    mishap           slide.both_coils at 0.0"));
    CHECK(contains(prove.out, ": both coils of its valve are on at once; for 0.1"));
    CHECK(contains(prove.out, "1 of 1 procedure passed; 1 mishap\n"));
    const json j = json::parse(f.run("prove --json").out);
    CHECK(j["procedures"][0]["mishaps"][0]["name"] == "slide.both_coils");
    CHECK(j["procedures"][0]["mishaps"][0]["times"] == 1);
    const std::string press = " --do 'press start for 100 ms' --do 'wait 1 s'";
    CHECK(contains(f.run("run" + press).out, "mishap: slide.both_coils at 0.0"));
    CHECK(f.run("run --out t" + press).exit == 0);
    CHECK(contains(f.read("t/trace.csv"), ",plant.mishaps\n"));
    CHECK(lines_of(f.read("t/trace.csv")).back().ends_with(",1"));
    CHECK(f.run("draw timing --watch run --out t.svg" + press).exit == 0);
    CHECK(contains(f.read("t.svg"), "mishap: slide.both_coils: both coils of its valve are on at once<"));
    CHECK(f.run("draw plan --out p.svg" + press).exit == 0);
    CHECK(contains(f.read("p.svg"), "mishap: slide.both_coils"));
    const Result live = f.run("live --plain --pace max", "press start for 100 ms\nwait 1 s\n");
    CHECK(contains(live.out, "mishap: slide.both_coils: both coils of its valve are on at once"));

    f.write("rules.proc", "rule \"Nothing happens\": never plant.mishap\n");
    const Result ruled = f.run("prove");
    CHECK(ruled.exit == 1);
    CHECK(contains(ruled.out, "rule  Nothing happens"));
    f.write("yard.toml",
            f.read("yard.toml") + "[[allow]]\nmishap = \"slide.both_coils\"\nreason = \"its valve takes it\"\n");
    const Result allowed = f.run("prove");
    CHECK(allowed.exit == 0);
    CHECK(contains(allowed.out, "(allowed: its valve takes it)\n"));
    CHECK_FALSE(contains(allowed.out, "1 mishap\n"));
    f.replace("yard.toml", "slide.both_coils", "slide.both_coil");
    CHECK(contains(f.run("check").err, "a cylinder 'slide' has no mishap 'both_coil'"));
    f.replace("yard.toml", "reason = \"its valve takes it\"", "reason = \"\"");
    CHECK(contains(f.run("check").err, "[[allow]] needs a 'reason'"));
}

TEST_CASE("campaign sweep: keys of devices, initial values and the seed, with the margin of one and a map of two") {
    Folder f;
    write_small_yard(f);
    const Result one = f.run("campaign sweep --vary see.at=1m..2.9m/100mm --out s");
    CHECK(one.exit == 0);
    // The tile starts at 0.5 m and is seen with its front edge, within 5 s at half a metre a second: until 3.1 m.
    CHECK(contains(one.out,
                   "see.at: all pass from 1 m (or less) to 2.9 m (or more), the middle is 1.95 m; it is 2 m: it may "
                   "be 1 m less, 0.9 m more\n"));
    CHECK(contains(f.read("s/sweep.svg"), ">see.at, m<"));
    const Result slow = f.run("campaign sweep --vary a.speed='0.1 m/s..0.5 m/s/0.1 m/s'");
    CHECK(contains(slow.out, "a.speed: all pass from 0.3 m/s to 0.5 m/s (or more)"));  // 1.4 m in 5 s
    const Result fast = f.run("campaign sweep --vary a.length=1m..3m/500mm --json");
    const json j = json::parse(fast.out);
    CHECK(j["runs"] == 5);
    CHECK(j["outcomes"]["cannot be built"] == 2);  // the eye at 2 m is not on it
    const Result map = f.run("campaign sweep --vary see.at=1m..2m/500mm --vary seed=1..2/1 --csv");
    CHECK(lines_of(map.out).size() == 1 + 3 * 2);
    CHECK(contains(map.out, ",\"see.at = 1.5 m, seed = 2\",Go,"));
    CHECK(lines_of(f.run("campaign sweep --vary see.at=1m..2m/10mm --random 7 --csv").out).size() == 1 + 7);
    CHECK(contains(f.run("campaign sweep").err, "a sweep needs --vary"));
    CHECK(contains(f.run("campaign stops --vary see.at=1m..2m/1m").err, "--vary is for sweep"));
    const Result none = f.run("campaign sweep --vary sea.at=1m..2m/1m --csv");
    CHECK(contains(none.out, "cannot be built"));
}

TEST_CASE("campaign hunt and again: findings with the shortest orders, a corpus in the yard, the same for a seed") {
    Folder f;
    write_yard_with_slide(f);
    f.replace("line.st", "END_PROGRAM",
              "    IF start_pb AND NOT stop_pb THEN in := TRUE; out := TRUE; END_IF;\nEND_PROGRAM");
    const Result hunt = f.run("campaign hunt --limit 400 --keep found --corpus");
    CHECK(hunt.exit == 1);
    CHECK(contains(hunt.out, "finding  hunt: mishap slide.both_coils\n"));
    CHECK(contains(hunt.out, "400 sequences, which met "));
    CHECK(f.run("campaign hunt --limit 50 --out counted").exit <= 1);
    CHECK(json::parse(f.read("counted/hunt.json"))["runs"] == 50);
    CHECK(contains(f.read("counted/hunt.html"), "<p>50 runs, "));
    CHECK(f.has(".vyard/hunt.txt"));
    const std::string kept = f.read("found/found_hunt_mishap_slide_both_coils.proc");
    CHECK(contains(kept, "rule \"It does not happen\": never slide.both_coils\n"));
    CHECK(contains(kept, "    press start"));
    CHECK(contains(kept, "    press stop"));
    CHECK(lines_of(kept).size() <= 10);
    f.write("kept.proc", kept);
    CHECK(f.run("prove . kept").exit == 1);
    fs::remove(f / "kept.proc");
    CHECK(f.run("campaign hunt --limit 200 --seed 3 --csv --jobs 1").out ==
          f.run("campaign hunt --limit 200 --seed 3 --csv --jobs 4").out);
    // Parts of a hunt are hunts of their own; together they have tried what was asked for, each run with its own
    // number.
    std::string whole = "campaign merge", numbers;
    for (int part = 1; part <= 3; ++part) {
        const Result one = f.run(fmt::format("campaign hunt --limit 200 --shard {0}/3 --out h{0}", part));
        CHECK(contains(one.out, part == 3 ? "66 sequences, which met " : "67 sequences, which met "));
        CHECK(f.read(fmt::format("h{}/hunt.csv", part)) != numbers);
        numbers = f.read(fmt::format("h{}/hunt.csv", part));
        whole += fmt::format(" h{}/hunt.sqlite", part);
        if (part == 2) CHECK(contains(f.run(whole).out, "parts are missing: 2 of 3 are here"));
    }
    const Result together = f.run(whole + " --out all");
    CHECK(together.exit == 1);
    CHECK(contains(together.out, "finding  hunt: mishap slide.both_coils\n"));
    CHECK(!contains(together.out, "parts are missing"));
    CHECK(lines_of(f.read("all/hunt.csv")).size() == lines_of(f.read("h1/hunt.csv")).size() +
                                                         lines_of(f.read("h2/hunt.csv")).size() +
                                                         lines_of(f.read("h3/hunt.csv")).size() - 2);

    CHECK(f.run("campaign hunt --limit 10 --corpus").exit <= 1);
    CHECK(contains(f.run("campaign stops --corpus").err, "--corpus is for hunt"));
    // A corpus that breaks things, some of it several times: each is a run of its own in the results.
    CHECK(f.run("campaign hunt --limit 10 --corpus --out h").exit <= 1);
    const std::string corpus = f.read(".vyard/hunt.txt");
    f.write(".vyard/hunt.txt", corpus + "press start\n");
    const Result wrong = f.run("campaign hunt --limit 10 --corpus");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err,
                   fmt::format("hunt.txt:{}: not a sequence of a hunt: 'press start'", lines_of(corpus).size() + 1)));
    CHECK(f.read(".vyard/hunt.txt") == corpus + "press start\n");
    CHECK(contains(f.run("campaign again").out, "\nagain: "));
}

TEST_CASE("the shipped yards come through their campaigns; what is accepted there is still found, and has a reason") {
    for (const char* yard :
         {"first-yard", "seed-bags", "herbarium", "tile-stack", "book-press", "canal-lock", "dye-bath", "glaze-line"}) {
        Folder f;
        const fs::path there = fs::path(VYARD_SOURCE) / "examples" / yard;
        for (const char* kind : {"smoke", "stops", "again"}) {
            const Result r = f.run(fmt::format("campaign {} {}", kind, there.string()));
            CHECK_MESSAGE(r.exit == 0, fmt::format("{} {}\n{}{}", kind, yard, r.out, r.err));
            CHECK_MESSAGE(!contains(r.out, "not found any more"), fmt::format("{} {}\n{}", kind, yard, r.out));
        }
        if (std::string(yard) != "first-yard" && std::string(yard) != "seed-bags") continue;  // the others take seconds
        const Result r = f.run(fmt::format("campaign faults {}", there.string()));
        CHECK_MESSAGE(r.exit == 0, r.out);
    }
}
