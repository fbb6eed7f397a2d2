// Two traces side by side.
#include <random>

#include "core/trace/trace.hpp"
#include "files/trace_csv.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

TEST_CASE("a run compared with itself is the same, and a change of logic is found where it acts") {
    Folder f;
    f.copy_example();
    CHECK(f.run("run glaze --procedure 1_normal_cycle --out one --chunks one.chunks").exit == 0);
    const Result same = f.run("compare one/trace.csv one/trace.csv");
    CHECK(same.exit == 0);
    CHECK(same.out.starts_with("0 of "));
    // The two forms of one run hold the same.
    const Result forms = f.run("compare one/trace.csv one.chunks");
    CHECK_MESSAGE(forms.exit == 0, forms.out);
    CHECK(f.run("run glaze --procedure 1_normal_cycle --use logic/40_dip.st=glaze/variants/early_infeed.st --out two")
              .exit <= 1);
    const Result r = f.run("compare one/trace.csv two/trace.csv --watch infeed_run,lift_top,dip_step --figure d.svg");
    CHECK(r.exit == 1);
    CHECK(contains(r.out, "signal      first at  A"));
    CHECK(contains(r.out, "infeed_run  11.060 s  FALSE  TRUE   4      15.12 s\n"));
    CHECK(contains(r.out, "wrote d.svg\n"));
    CHECK(f.read("d.svg").starts_with("<?xml"));
}

TEST_CASE("tolerances, brief differences, alignment, and signals of one trace alone") {
    Folder f;
    f.write("a.csv",
            "time_s,go,level,name,n\n0,FALSE,1.0,idle,1\n1,TRUE,1.5,run,1\n2,TRUE,2.0,run,2\n3,FALSE,2.0,idle,2\n");
    f.write("b.csv",
            "time_s,go,level,name,m\n0,FALSE,1.04,idle,1\n1.01,TRUE,1.5,run,1\n2,TRUE,2.3,run,2\n3,FALSE,2.0,idle,2\n");
    const Result plain = f.run("compare a.csv b.csv");
    CHECK(plain.exit == 1);
    CHECK(plain.out ==
          "signal  first at  A     B      times  in all\n"
          "level   0.000 s   1     1.04   2      2.01 s\n"
          "go      1.000 s   TRUE  FALSE  1      0.01 s\n"
          "name    1.000 s   run   idle   1      0.01 s\n"
          "only in A: n\nonly in B: m\n3 of 3 signals differ, from 0.000 s to 3.000 s\n");
    CHECK(contains(f.run("compare a.csv b.csv --brief 10ms").out, "1 of 3 signals differ"));
    CHECK(contains(f.run("compare a.csv b.csv --brief 10ms --tolerance 0.05").out, "level   2.000 s"));
    CHECK(f.run("compare a.csv b.csv --watch go,name,level --brief 10ms --tolerance level=0.3001").exit == 0);
    CHECK(contains(f.run("compare a.csv b.csv --watch go --align go").out, "go      2.990 s   TRUE  FALSE"));
    CHECK(contains(f.run("compare a.csv b.csv --align go").out, "B moved by -0.01 s"));
    CHECK(contains(f.run("compare a.csv b.csv --json --watch go").out, "\"first_s\": 1.0"));
}

TEST_CASE("what cannot be compared is said") {
    Folder f;
    f.write("a.csv", "time_s,go\n0,FALSE\n1,TRUE\n");
    f.write("late.csv", "time_s,go\n5,FALSE\n6,FALSE\n");
    f.write("bad.csv", "time_s,go,go\n0,TRUE,TRUE\n1,TRUE\n0.5,TRUE,FALSE\nx,TRUE,TRUE\n");
    f.write("text.csv", "hello\n");
    CHECK(contains(f.run("compare a.csv").err, "error: name two traces"));
    CHECK(contains(f.run("compare a.csv lost.csv").err, "lost.csv"));
    CHECK(contains(f.run("compare a.csv text.csv").err, "text.csv:1:1: error: this is not a trace"));
    const std::string bad = f.run("compare a.csv bad.csv").err;
    CHECK(contains(bad, "bad.csv:1:11: error: 'go' stands twice"));
    CHECK(contains(bad, "bad.csv:3:7: error: this row has 2 cells, the first one 3"));
    CHECK(contains(bad, "bad.csv:5:1: error: expected a time in seconds"));
    CHECK(contains(f.run("compare a.csv late.csv").err, "error: the two traces have no time in common"));
    CHECK(contains(f.run("compare a.csv late.csv --align go").err, "error: 'go' never comes in late.csv"));
    CHECK(contains(f.run("compare a.csv a.csv --align og").err, "hint: did you mean 'go'?"));
    CHECK(contains(f.run("compare a.csv a.csv --tolerance level=x").err, "error: 'level=x' is not a valid tolerance"));
    CHECK(f.run("compare a.csv a.csv --figure x.txt").exit == 2);
}

TEST_CASE("random traces differ where a look at every millisecond says they do") {
    std::mt19937 random(5);
    for (int round = 0; round < 200; ++round) {
        trace::Trace traces[2];
        std::vector<int> at_ms[2];
        trace::Channel channel;
        channel.name = "x";
        channel.signal.type = logic::Elementary::Int;
        for (int t = 0; t < 2; ++t) {
            traces[t].begin({channel}, Nanoseconds(0));
            int value = static_cast<int>(random() % 3);
            for (int ms = 0; ms < 60; ++ms) {
                if (ms == 0 || random() % 6 == 0) {
                    value = static_cast<int>(random() % 3);
                    traces[t].change(Nanoseconds(ms * 1'000'000), 0,
                                     {logic::Elementary::Int, static_cast<std::uint64_t>(value), {}});
                }
                at_ms[t].push_back(value);
            }
            traces[t].end(Nanoseconds(59'000'000));
        }
        trace::CompareOptions options;
        options.tolerance = static_cast<double>(random() % 2);
        const trace::Comparison found = trace::compare(traces[0], traces[1], options);
        int first = -1, in_all = 0, times = 0;
        for (int ms = 0; ms < 60; ++ms) {
            const bool differs = std::abs(at_ms[0][static_cast<std::size_t>(ms)] -
                                          at_ms[1][static_cast<std::size_t>(ms)]) > options.tolerance;
            const bool before = ms > 0 && std::abs(at_ms[0][static_cast<std::size_t>(ms) - 1] -
                                                   at_ms[1][static_cast<std::size_t>(ms) - 1]) > options.tolerance;
            if (differs && first < 0) first = ms;
            if (differs && !before) ++times;
            if (differs && ms < 59) ++in_all;
        }
        CAPTURE(round);
        REQUIRE(found.differences.empty() == (first < 0));
        if (first < 0) continue;
        CHECK(found.differences[0].first == Nanoseconds(first * 1'000'000));
        CHECK(found.differences[0].times == times);
        CHECK(std::abs(base::to_seconds(found.differences[0].in_all) - in_all * 1e-3) < 1e-6);
    }
}

TEST_CASE("times from edge to edge: how often, least, mean, most, each, as JSON and as a histogram") {
    Folder f;
    f.write(
        "t.csv",
        "time_s,a,b,n\n0,FALSE,FALSE,1\n1,TRUE,FALSE,1\n1.5,TRUE,TRUE,1\n2,FALSE,FALSE,1\n3,TRUE,FALSE,1\n3.2,FALSE,"
        "FALSE,1\n3.4,TRUE,FALSE,1\n4,TRUE,TRUE,1\n5,FALSE,FALSE,2\n");
    const Result r = f.run("measure t.csv --from 'rises(a)' --to 'rises(b)' --each --figure h.svg");
    CHECK(r.exit == 0);
    // The a at 3.4 s comes while the one at 3 s is measured.
    CHECK(
        r.out ==
        "from     to       length\n1.000 s  1.500 s  0.5 s\n3.000 s  4.000 s  1 s\n2 times: minimum 0.5 s (from 1.000 "
        "s), "
        "mean 0.75 s, maximum 1 s (from 3.000 s), deviation 0.354 s\nwrote h.svg\n");
    CHECK(f.read("h.svg").starts_with("<?xml"));
    CHECK(contains(f.run("measure t.csv --from 'rises(a)' --to 'rises(a)'").out,
                   "2 times: minimum 0.4 s (from 3.000 s), "
                   "mean 1.2 s, maximum 2 s (from 1.000 s)"));
    CHECK(contains(f.run("measure t.csv --from 'rises(a)' --to 'falls(a)' --json").out, "\"count\": 3"));
    const Result never = f.run("measure t.csv --from 'falls(b)' --to 'rises(c)'");
    CHECK(never.exit == 2);
    CHECK(contains(never.err, "error: the trace has no 'c'"));
    CHECK(f.run("measure t.csv --from 'falls(b)' --to 'falls(b)'").exit == 0);
    f.write("one.csv", "time_s,a\n0,FALSE\n1,TRUE\n");
    const Result none = f.run("measure one.csv --from 'rises(a)' --to 'falls(a)'");
    CHECK(none.exit == 1);
    CHECK(none.out == "0 times\n");
    CHECK(contains(f.run("measure t.csv --from 'rises(n)' --to 'rises(a)'").err, "'n' is not a BOOL"));
    CHECK(contains(f.run("measure t.csv --from 'a' --to 'rises(a)'").err, "'a' is not a valid edge"));
    CHECK(f.run("measure t.csv").exit == 2);
}
