// The live run with lines in memory and a clock that only moves when it is waited on.
#include "live/loop.hpp"

#include <map>
#include <random>
#include <sstream>

#include "files/yard_file.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

namespace {

class MemoryFront final : public live::Front {
  public:
    MemoryFront(const std::vector<std::string>& lines, std::string& printed)
        : lines_(lines.begin(), lines.end()), printed_(printed) {}
    void wants(const live::Sitting&, std::vector<pollfd>&) const override {}
    void serve(live::Sitting& sitting) override {
        while (!lines_.empty() && !sitting.over() && !sitting.busy(1)) {
            const std::string line = lines_.front();
            lines_.pop_front();
            sitting.obey(line, ++number_, 1);
        }
    }
    void show(const live::Sitting&, const live::Reply& reply) override {
        printed_ += (reply.at ? fmt::format("{:>11}  {}", base::clock_text(*reply.at), reply.text) : reply.text) + "\n";
    }
    bool ended() const override { return lines_.empty(); }

  private:
    std::deque<std::string> lines_;
    std::string& printed_;
    int number_ = 0;
};

class FakeWorld final : public live::World {
  public:
    Nanoseconds now() override { return now_ += cost_of_looking; }
    void wait(std::vector<pollfd>&, std::optional<Nanoseconds> until) override {
        REQUIRE(until);  // nothing else would ever come
        if (*until <= now_) return;
        slept += *until - now_;
        now_ = *until;
    }
    Nanoseconds cost_of_looking{};
    Nanoseconds slept{};

  private:
    Nanoseconds now_{1'000'000'000};
};

/// What a run came to.
struct Outcome {
    int wrong_lines = 0, failed_expectations = 0;
    std::uint64_t late_steps = 0;
};

struct Live {
    Folder folder;
    files::Yard yard;
    std::string printed;
    FakeWorld clock;
    Outcome outcome;
    Nanoseconds end{};

    Live() {
        write_small_yard(folder);
        base::Diagnostics diagnostics;
        yard = files::load_yard(folder.path().string(), diagnostics);
        REQUIRE(yard.model != nullptr);
    }
    void run(const std::vector<std::string>& lines, double pace, std::optional<Nanoseconds> limit = std::nullopt) {
        live::SittingOptions options;
        options.pace = pace;
        options.limit = limit;
        options.folder = folder.path().string();
        run(lines, options);
    }
    void run(const std::vector<std::string>& lines, const live::SittingOptions& options) {
        live::Sitting sitting(session::Session(yard.model), clock, options);
        MemoryFront front(lines, printed);
        live::run(sitting, {&front}, clock);
        outcome = {sitting.wrong_lines(), sitting.failed_expectations(), sitting.lateness().overruns()};
        end = sitting.desk().now();
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
                   "[\"*.st\"]\nwatchdog = \"100 ms\"\n");
    base::Diagnostics diagnostics;
    l.yard = files::load_yard(l.folder.path().string(), diagnostics);
    REQUIRE(l.yard.model != nullptr);
    const std::vector<std::string> lines{"press start for 50 ms", "wait 100 ms", "show a.run"};
    SUBCASE("a slow machine") {
        l.clock.cost_of_looking = Nanoseconds(30'000'000);
        l.run(lines, 0.0);
        CHECK(contains(l.printed, "line.st:5:"));
        CHECK(contains(l.printed, "a task took longer than its watchdog\n"));
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

// --- going back, changing logic, keeping what was done ---

namespace {

/// What was said of a signal, in order: "0.110 TRUE".
std::vector<std::string> said_of(const std::string& printed, const std::string& name) {
    std::vector<std::string> out;
    std::istringstream lines(printed);
    for (std::string line; std::getline(lines, line);) {
        const std::size_t at = line.find(" s  " + name + " = ");
        if (at == std::string::npos) continue;
        const std::size_t first = line.find_first_not_of(' ');
        out.push_back(line.substr(first, at - first) + " " + line.substr(at + name.size() + 7));
    }
    return out;
}

}  // namespace

TEST_CASE("rewind goes back to any moment, forward shows the same again, and an order goes on from there") {
    Live l;
    l.run({"watch run", "press start for 100 ms", "wait 500 ms", "press stop for 100 ms", "wait 1 s", "show a.speed",
           "rewind 900 ms", "forward 500 ms", "forward 10 s", "rewind 1450 ms", "press stop for 100 ms", "wait 20 ms",
           "forward 1 s"},
          0.0);
    // The belt stops at 0.51 s. At 0.6 s it stands, at 1.1 and 1.5 s too; at 0.05 s it runs, until stop is pressed
    // anew.
    CHECK(said_of(l.printed, "run") == std::vector<std::string>{"0.000 FALSE", "0.010 TRUE", "0.510 FALSE",
                                                                "0.600 FALSE", "1.100 FALSE", "1.500 FALSE",
                                                                "0.050 TRUE", "0.060 FALSE"});
    CHECK(contains(l.printed, "    0.050 s  what came after 0.050 s is forgotten\n"));
    CHECK(contains(l.printed, "error: nothing was kept after this time\n"));
    CHECK(l.outcome.wrong_lines == 1);
    CHECK(l.end == Nanoseconds(70'000'000));
}

TEST_CASE("any moment gone back to is the same as it was, whatever the orders before it") {
    // Orders of every kind come now and then; each tenth of a second is noted, and then gone back to in any order.
    const std::vector<std::string> orders = {"press start for 100 ms",
                                             "place tile on a at 0.5 m",
                                             "fault see stuck on",
                                             "force run = TRUE",
                                             "heal all",
                                             "unforce all",
                                             "press stop for 50 ms",
                                             "write run = FALSE",
                                             "stop",
                                             "start warm",
                                             "take from a",
                                             "wait 30 ms"};
    std::vector<std::string> lines{"watch run, see_tile, a.speed, see, start_pb, stop_pb"};
    std::mt19937 random(7);
    for (int i = 0; i < 60; ++i) {
        lines.push_back(orders[random() % orders.size()]);
        lines.emplace_back("wait 100 ms");
        lines.emplace_back("show run, see_tile, a.speed, see, start_pb, stop_pb, belt");
    }
    Live there;
    there.run(lines, 0.0);
    // Each line by its time, without those of orders; what is shown last at a time is how it was then.
    const auto at_times = [](const std::string& printed) {
        std::map<std::string, std::map<std::string, std::string>> out;
        std::istringstream in(printed);
        for (std::string line; std::getline(in, line);) {
            const std::size_t s = line.find(" s  "), equals = line.find(" = ");
            if (s == std::string::npos || equals == std::string::npos || equals < s) continue;
            out[line.substr(0, s)][line.substr(s + 4, equals - s - 4)] = line.substr(equals);
        }
        return out;
    };
    const auto was = at_times(there.printed);
    const double end = base::to_seconds(there.end);
    std::vector<std::string> back = lines;
    for (int i = 0; i < 40; ++i) {
        // From the end, forth and back again.
        // Between two scans, as orders may come at any of them after what was shown there.
        const double by = 0.05 * static_cast<double>(1 + random() % 100) - 0.005;
        back.push_back(fmt::format("rewind {:.3f} s", std::min(by, end)));
        back.push_back("show run, see_tile, a.speed, see, start_pb, stop_pb");
        back.emplace_back("forward 100 s");
    }
    Live again;
    again.run(back, 0.0);
    CHECK(again.end == there.end);
    // Signals change at steps between: compare each with its last value at or before the time.
    const auto value_at = [&](const std::string& time, const std::string& name) {
        std::string out;
        for (const auto& [t, values] : was) {
            if (t > time) break;
            if (const auto found = values.find(name); found != values.end()) out = found->second;
        }
        return out;
    };
    int compared = 0;
    const std::string tail = again.printed.substr(there.printed.size());
    for (const auto& [time, values] : at_times(tail)) {
        for (const auto& [name, value] : values) {
            CAPTURE(time);
            CAPTURE(name);
            CHECK(value == value_at(time, name));
            ++compared;
        }
    }
    CHECK(compared > 100);
}

TEST_CASE("rewind until a condition, to the last time that it came or held") {
    Live l;
    l.run({"press start for 100 ms", "wait 500 ms", "press stop for 100 ms", "wait 500 ms", "press start for 100 ms",
           "wait 1 s", "rewind until rises(run)", "rewind until rises(run)", "rewind until rises(run)",
           "rewind until run and", "forward 300 ms"},
          0.0);
    CHECK(contains(l.printed, "    1.010 s  here; time stands"));
    CHECK(contains(l.printed, "    0.010 s  here; time stands"));
    CHECK(contains(l.printed, "error: since 0.000 s that was not so\n"));
    CHECK(contains(l.printed, "error: 'until run and' is not a valid condition to go back to\n"));
    CHECK(contains(l.printed, "    0.310 s  here; time stands"));
}

TEST_CASE("time can stand, go by scans and steps, and snapshots be gone back to by name") {
    Live l;
    l.run({"watch run", "press start", "snapshot ready", "scan 2", "step", "show run", "release start", "restore Ready",
           "show run", "restore nothing", "scan 1.5", "scan -1", "snapshot", "pause", "go"},
          0.0);
    CHECK(said_of(l.printed, "run") ==
          std::vector<std::string>{"0.000 FALSE", "0.010 TRUE", "0.025 TRUE", "0.000 FALSE", "0.000 FALSE"});
    CHECK(contains(l.printed, "    0.020 s  scanned\n"));
    CHECK(contains(l.printed, "    0.025 s  stepped\n"));
    CHECK(contains(l.printed, "error: no snapshot is named 'nothing'\n"));
    CHECK(contains(l.printed, "error: '1.5' is not a number of scans\n"));
    CHECK(l.outcome.wrong_lines == 4);
    CHECK(l.end == Nanoseconds(0));
}

TEST_CASE("a snapshot brings its own past: another course of events is not gone back to, nor kept") {
    Live l;
    std::string kept;
    const std::vector<std::string> lines{
        "watch run",      "press start for 100 ms", "wait 1500 ms", "snapshot running", "take from a",
        "rewind 1490 ms", "press stop for 2 s",     "wait 1300 ms", "restore running",  "rewind 200 ms",
        "forward 200 ms", "force run = FALSE",      "keep x"};
    live::SittingOptions options;
    options.pace = 0.0;
    options.write = [&](const std::string&, const std::string& text) {
        kept = text;
        return std::string();
    };
    l.run(lines, options);
    // Between 0.01 s and 1.3 s the belt stood, in the course that was given up.
    CHECK(said_of(l.printed, "run") ==
          std::vector<std::string>{"0.000 FALSE", "0.010 TRUE", "0.010 TRUE", "0.020 FALSE", "1.500 TRUE"});
    CHECK(contains(l.printed, "error: 1.300 s is no longer kept\n    hint: the first moment kept is 1.500 s\n"));
    CHECK(kept ==
          "procedure \"x\"\nstep \"As it was done\"\n    press start for 100 ms\n    // expect run = TRUE within 10 "
          "ms\n   "
          " wait 1500 ms\n    force run = FALSE\n");
}

TEST_CASE("logic is changed while it runs: values stay, mistakes change nothing, and it can be undone") {
    Folder f;
    write_small_yard(f);
    const std::string before = f.read("line.st");
    std::string counting = before;
    counting.replace(counting.find("PROGRAM main\n"), 13, "PROGRAM main\nVAR n : INT; END_VAR\n    n := n + 1;\n");
    f.write("line.st", counting);
    std::string by_ten = counting, wrong = counting;
    by_ten.replace(by_ten.find("n + 1"), 5, "n + 10");
    wrong.replace(wrong.find("n + 1"), 5, "m + 1");
    f.write("ten.new", by_ten);
    f.write("wrong.new", wrong);
    f.write("without.new", before);
    // A shell puts the new files in place when what comes before has been said.
    f.write("lines.sh",
            "after() { until grep -q \"$1\" out.txt; do sleep 0.02; done; cp $2 line.st; echo reload; }\n"
            "echo watch main.n; echo wait 50 ms; echo unwatch all; echo show main.n; echo watch main.n\n"
            "after 'main.n = 6$' ten.new; echo wait 50 ms; echo show main.n\n"
            "after 'main.n = 56$' wrong.new; echo wait 10 ms; echo show main.n\n"
            "after 'main.n = 66$' without.new; echo reload undo; echo wait 10 ms; echo show main.n\n");
    const std::string command =
        fmt::format("cd '{}' && : > out.txt && timeout 60 sh lines.sh | '{}' live . --pace max >> out.txt",
                    f.path().string(), VYARD_PROGRAM);
    CHECK(std::system(command.c_str()) != -1);
    const std::string out = f.read("out.txt");
    CHECK(contains(out, "    0.050 s  controller line: 5 kept, 0 new, 0 gone\n"));
    CHECK(contains(out, "error: the files were not taken, what ran goes on\n"));
    CHECK(contains(out, "no variable is named 'm'"));
    CHECK(contains(out, "error: the files were not taken: this would be lost: what is joined to main.n\n"));
    CHECK(contains(
        out, "    hint: reload anyway takes them all the same; a controller that loses something then starts cold\n"));
    // Undone is what was taken last: it counts by ones again, from where it is.
    CHECK(contains(out, "    0.120 s  main.n = 67\n"));
}

TEST_CASE("what was done is kept as a procedure that does the same again, to the trace") {
    Folder f;
    write_small_yard(f);
    const std::string orders =
        "place tile on a at 0.5 m\nwait 55 ms\npress start for 100 ms\nwait until see_tile within 10 s\nfault see "
        "stuck "
        "on\nwait 5 ms\nrewind 2 s\npress stop for 100 ms\nwait 300 ms\nforce run = TRUE\nwait 20 ms\nunforce "
        "all\nkeep "
        "again.proc\nkeep again.proc\n";
    const Result live = f.run("live . --pace max --watch run,see_tile", orders);
    CHECK(contains(live.out, "  kept again.proc\n"));
    CHECK(contains(live.out, "error: again.proc is there already; name another file\n"));
    const std::string kept = f.read("again.proc");
    CHECK(kept.starts_with(
        "procedure \"again\"\nstep \"As it was done\"\n    place tile on a at 0.5 m\n    wait 55 ms\n"));
    CHECK(contains(kept, "    // expect run = TRUE within 5 ms\n"));
    CHECK_FALSE(contains(kept, "fault see"));  // it was gone back before that
    const Result proved = f.run("prove . again");
    CHECK_MESSAGE(proved.exit == 0, proved.out);
    // The same changes at the same times.
    CHECK(f.run("run . --procedure again --watch run --on-change --out again").exit == 0);
    CHECK(f.read("again/watch.csv") == "time_s,run\n0,FALSE\n0.06,TRUE\n0.88,FALSE\n1.18,TRUE\n");
    const auto said = said_of(live.out, "run");
    for (const char* change : {"0.060 TRUE", "0.880 FALSE", "1.180 TRUE (forced; logic: FALSE)"})
        CHECK(std::find(said.begin(), said.end(), change) != said.end());
}
