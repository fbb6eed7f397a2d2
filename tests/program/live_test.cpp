// The live run with lines in memory and a clock that only moves when it is slept on.
#include "live/live.hpp"

#include "files/yard_file.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

namespace {

class MemoryLines final : public live::LineSource {
  public:
    explicit MemoryLines(std::vector<std::string> lines) : lines_(lines.begin(), lines.end()) {}
    std::optional<std::string> next(bool) override {
        if (lines_.empty()) return std::nullopt;
        std::string line = lines_.front();
        lines_.pop_front();
        return line;
    }
    bool ended() const override { return lines_.empty(); }

  private:
    std::deque<std::string> lines_;
};

class FakeClock final : public live::Clock {
  public:
    Nanoseconds now() override { return now_ += cost_of_looking; }
    void sleep_until(Nanoseconds time) override {
        slept += time - now_;
        now_ = time;
    }
    Nanoseconds cost_of_looking{};
    Nanoseconds slept{};

  private:
    Nanoseconds now_{1'000'000'000};
};

struct Live {
    Folder folder;
    files::Yard yard;
    std::string printed;
    FakeClock clock;
    live::LiveOutcome outcome;
    Nanoseconds end{};

    Live() {
        write_small_yard(folder);
        base::Diagnostics diagnostics;
        yard = files::load_yard(folder.path().string(), diagnostics);
        REQUIRE(yard.model != nullptr);
    }
    void run(const std::vector<std::string>& lines, double pace, std::optional<Nanoseconds> limit = std::nullopt) {
        session::Session session(yard.model);
        MemoryLines source(lines);
        live::LiveOptions options;
        options.pace = pace;
        options.limit = limit;
        outcome = live::run_live(session, source, clock, options, [&](const std::string& text) { printed += text; });
        end = session.now();
    }
};

}  // namespace

TEST_CASE("paced time: a simulated second takes a second over the pace") {
    for (const double pace : {0.5, 1.0, 4.0}) {
        CAPTURE(pace);
        Live l;
        l.run({}, pace, Nanoseconds(1'000'000'000));
        CHECK(l.end == Nanoseconds(1'000'000'000));
        CHECK(base::to_seconds(l.clock.slept) == doctest::Approx(1.0 / pace).epsilon(1e-6));
        CHECK(l.outcome.late_steps == 0);
    }
}

TEST_CASE("steps that come late are counted, none is dropped") {
    Live l;
    l.clock.cost_of_looking = Nanoseconds(20'000'000);  // the machine is four times too slow
    l.run({}, 1.0, Nanoseconds(1'000'000'000));
    CHECK(l.end == Nanoseconds(1'000'000'000));
    CHECK(l.outcome.late_steps > 150);
    CHECK(l.clock.slept == Nanoseconds(0));
}

TEST_CASE("a scan that takes too long by the wall clock stops its controller") {
    Live l;
    l.folder.write(
        "line.st",
        "VAR_GLOBAL run AT %QX0.0 : BOOL; start_pb AT %IX0.0 : BOOL; stop_pb AT %IX0.1 : BOOL; see_tile AT "
        "%IX0.2 : BOOL; END_VAR\nPROGRAM main VAR i : DINT; END_VAR\n    run := TRUE;\n    IF start_pb THEN\n"
        "        FOR i := 1 TO 1000000 DO ; END_FOR;\n    END_IF;\nEND_PROGRAM\n");
    l.folder.write("yard.toml",
                   "[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n\n[controller.line]\nlogic = "
                   "[\"*.st\"]\nscan_limit = \"100 ms\"\n");
    base::Diagnostics diagnostics;
    l.yard = files::load_yard(l.folder.path().string(), diagnostics);
    REQUIRE(l.yard.model != nullptr);
    const std::vector<std::string> lines{"press start for 50 ms", "wait 100 ms", "show a.run"};
    SUBCASE("a slow machine") {
        l.clock.cost_of_looking = Nanoseconds(30'000'000);
        l.run(lines, 0.0);
        CHECK(contains(l.printed, "line.st:5:"));
        CHECK(contains(l.printed, "the scan passed its time limit\n"));
        CHECK(contains(l.printed, "a.run = FALSE\n"));
    }
    SUBCASE("a fast one does the same loop") {
        l.run(lines, 0.0);
        CHECK_FALSE(contains(l.printed, "time limit"));
        CHECK(contains(l.printed, "a.run = TRUE\n"));
    }
}

TEST_CASE("changing the pace counts from there") {
    Live l;
    l.run({"wait 1 s", "pace 10", "wait 1 s", "pace max", "wait 100 s"}, 1.0);
    CHECK(base::to_seconds(l.clock.slept) == doctest::Approx(1.1).epsilon(0.01));
    CHECK(l.end == Nanoseconds(102'000'000'000));
    CHECK(contains(l.printed, "    1.000 s  pace 10\n"));
}

TEST_CASE("pace never changes results, only when they come") {
    std::string printed[2];
    int n = 0;
    for (const double pace : {0.0, 3.0}) {
        Live l;
        l.run({"place tile on a at 0.5 m", "watch run, see", "press start for 100 ms",
               "wait until see_tile within 10 s", "wait 1 s"},
              pace);
        printed[n++] = l.printed;
    }
    CHECK(printed[0] == printed[1]);
    CHECK(contains(printed[0], "run = TRUE"));
}

TEST_CASE("watch, unwatch, show and status") {
    Live l;
    l.run({"watch run", "unwatch run", "watch stop_pb", "press start for 100 ms", "wait 200 ms",
           "press stop for 100 ms", "wait 200 ms", "unwatch all", "press stop for 100 ms", "wait 200 ms", "show run",
           "force run = TRUE", "fault see stuck on", "status"},
          0.0);
    CHECK_FALSE(contains(l.printed, " s  run = TRUE\n"));
    CHECK(contains(l.printed, "    0.210 s  stop_pb = FALSE\n"));
    CHECK(contains(l.printed, "    0.310 s  stop_pb = TRUE\n"));
    CHECK_FALSE(contains(l.printed, "    0.410 s  stop_pb"));
    CHECK(contains(l.printed, "run = FALSE\n"));
    CHECK(contains(l.printed, "run forced to TRUE\n"));
    CHECK(contains(l.printed, "fault see.signal stuck on\n"));
    CHECK(l.outcome.wrong_lines == 0);
}

TEST_CASE("wrong lines of every sort are counted and do not end the run") {
    Live l;
    l.run({"pres start", "watch nothing", "show a.sped", "pace fast", "pace -1", "expect", "take from a", "unforce run",
           "  ", "// fine", "help", "wait 1 s"},
          0.0);
    CHECK(l.outcome.wrong_lines == 8);
    CHECK(l.end == Nanoseconds(1'000'000'000));
    CHECK(contains(l.printed, "error: no tag, point or actual is named 'a.sped'\n    hint: did you mean 'a.speed'?\n"));
    CHECK(contains(l.printed, "take from a: there is no item on 'a'"));
    CHECK(contains(l.printed, "orders, as in procedures"));
}

TEST_CASE("expect for, expect within and wait until say how they ended") {
    Live l;
    l.run({"expect not run for 100 ms", "press start", "expect run within 1 s", "expect not run for 1 s",
           "wait until see_tile within 200 ms", "quit", "wait 100 s"},
          0.0);
    CHECK(contains(l.printed, "    0.100 s  held: expect not run for 100 ms\n"));
    CHECK(contains(l.printed, "    0.110 s  as expected: expect run within 1 s\n"));
    CHECK(contains(l.printed, "    0.110 s  failed: expect not run for 1 s; not run is FALSE; run = TRUE\n"));
    CHECK(contains(l.printed,
                   "    0.310 s  failed: wait until see_tile within 200 ms; see_tile stayed FALSE for 200 ms; see_tile "
                   "= FALSE\n"));
    CHECK(l.outcome.failed_expectations == 2);
    CHECK(l.end == Nanoseconds(310'000'000));
}

TEST_CASE("a controller that stops by itself is shown when it happens") {
    Live l;
    l.folder.replace("line.st", "PROGRAM main\n",
                     "PROGRAM main\nVAR zero, q : INT; END_VAR\nIF see_tile THEN q := 1 / zero; END_IF;\n");
    base::Diagnostics diagnostics;
    l.yard = files::load_yard(l.folder.path().string(), diagnostics);
    REQUIRE(l.yard.model != nullptr);
    l.run({"fault see stuck on", "wait 1 s"}, 0.0);
    CHECK(contains(l.printed, "    0.010 s  controller line stopped: "));
    CHECK(contains(l.printed, "line.st:9:25: division by zero\n"));
}
