// Coverage of logic through the built program.
#include <nlohmann/json.hpp>

#include "program/support.hpp"

using namespace vyard::test;

TEST_CASE("prove --coverage says what no procedure exercised, in the three forms, and nothing else changes") {
    Folder f;
    f.copy_example();
    const Result plain = f.run("prove glaze");
    const Result covered = f.run("prove glaze --coverage --out out");
    CHECK(covered.exit == 0);
    CHECK(covered.out.starts_with(plain.out));
    CHECK(contains(covered.out,
                   "unit           lines run  branches taken  networks run  transitions fired  contacts open and "
                   "closed\n"));
    CHECK(contains(covered.out, "modes          12 of 12   5 of 5\n"));
    CHECK(
        contains(covered.out, "panel_signals             2 of 2          9 of 9                           15 of 15\n"));
    CHECK(contains(covered.out, "dip_sequence   7 of 7     7 of 7                        11 of 12\n"));
    CHECK(contains(covered.out, "35_dip_sequence.st:36:12: the transition from opening to raising never fired\n"));
    CHECK(contains(covered.out, "  glaze/logic/50_reject.st:25:8: IF never taken\n"));
    CHECK(contains(covered.out, "tags of line that moved: 45 of 45\n"));

    const auto json = nlohmann::json::parse(f.read("out/coverage.json"));
    CHECK(json["units"][2]["unit"] == "reject");
    CHECK(json["units"][2]["branches"]["done"] == 3);
    CHECK(json["units"][2]["never_exercised"][0]["line"] == 25);
    CHECK(json["tags"][0]["moved"]["all"] == 45);
    const std::string lcov = f.read("out/coverage.lcov");
    CHECK(contains(lcov, "BRDA:20,0,2,1\nBRDA:25,0,3,0\nBRDA:27,0,4,0\n"));
    CHECK(contains(lcov, "\nDA:26,0\n"));
    CHECK(contains(lcov, "LF:18\nLH:15\nend_of_record\n"));
    CHECK(f.read("out/coverage.pdf").starts_with("%PDF"));
    CHECK(f.read("out/verdicts.txt") == plain.out);

    // One procedure alone exercises less; the marks change no verdict.
    const Result one = f.run("prove glaze 1_normal_cycle --coverage");
    CHECK(one.exit == 0);
    CHECK(contains(one.out, "the contact alarm_code") == false);
    CHECK(contains(one.out, "network 8: the contact silence was never open"));
    CHECK(contains(one.out, "  still: "));
    CHECK(contains(one.out, "glaze_low (always TRUE)"));

    // An example whose procedures leave nothing out.
    const Result all = f.run("prove " VYARD_SOURCE "/examples/book-press --coverage");
    CHECK(contains(all.out, "press  8 of 8          12 of 12      29 of 29\n"));
    CHECK(!contains(all.out, "never exercised"));
}

TEST_CASE("prove --coverage says what else was exercised, a number a class, and what would add most") {
    Folder f;
    write_small_yard(f);
    f.write("rules.proc", "rule \"Stop is prompt\": whenever not stop_pb then not run within 50 ms\n");
    const auto text = [&](const char* more) {
        f.write("more.proc", more);
        const Result r = f.run("prove --coverage --out out");
        CHECK_MESSAGE(r.exit == 0, (r.out + r.err));
        return r.out;
    };
    const std::string bare = text("");
    CHECK(contains(bare, "inputs that moved: 2 of 3; not stop.contact\n"));
    CHECK(contains(bare, "devices that moved: 1 of 1\n"));
    CHECK(contains(bare, "faults that were tried: 0 of "));
    CHECK(contains(bare, "rules that were triggered: 0 of 1; not 'Stop is prompt'\n"));
    CHECK(contains(bare, "restarts that were done: 0 of 3; not warm start, cold start, power cut and given back\n"));
    CHECK(contains(bare, "what procedures would add most:\n"));
    const std::string more = text(
        "procedure \"More\"\nstep \"Stop, faults, restarts\"\n    press stop for 100 ms\n    fault see stuck off\n    "
        "fault a "
        "jammed\n    fault see.signal stuck off\n    wait 200 ms\n    heal all\n    power off line\n    wait 100 ms\n  "
        "  power "
        "on line\n    stop line\n    start line warm\n    wait 100 ms\n");
    CHECK(contains(more, "inputs that moved: 3 of 3\n"));
    CHECK(contains(more, "faults that were tried: 2 of "));
    CHECK(contains(more, "rules that were triggered: 1 of 1\n"));
    CHECK(contains(more, "restarts that were done: 2 of 3; not cold start\n"));
    const auto json = nlohmann::json::parse(f.read("out/coverage.json"));
    CHECK(json["proof"][0]["class"] == "inputs that moved");
    CHECK(json["proof"][0]["done"] == 3);
    CHECK(json["would_add_most"].size() >= 1);
}
