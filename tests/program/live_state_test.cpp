// What a live session keeps beside its yard: a session that is cut off at any moment is gone on with as if it had not
// been; retained values survive power and process; lists, tables, recordings, marks.
#include <random>
#include <set>

#include "core/plant/own_kind.hpp"
#include "files/trace_csv.hpp"
#include "files/yard_file.hpp"
#include "live/loop.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

namespace {

class CountingWorld final : public live::World {
  public:
    Nanoseconds now() override { return now_; }
    void wait(std::vector<pollfd>&, std::optional<Nanoseconds> until) override {
        now_ = std::max(now_ + Nanoseconds(1), until.value_or(now_));
    }
    void pass(Nanoseconds time) { now_ += time; }

  private:
    Nanoseconds now_{1'000'000'000};
};

void write_retaining_yard(Folder& f) {
    write_small_yard(f);
    f.write(
        "line.st",
        "VAR_GLOBAL\n    start_pb AT %IX0.0 : BOOL;\n    stop_pb AT %IX0.1 : BOOL;\n    see_tile AT %IX0.2 : BOOL;\n"
        "    run AT %QX0.0 : BOOL;\n    word : WORD := 16#00FF;\n    level : LREAL;\nEND_VAR\n"
        "VAR_GLOBAL RETAIN\n    starts : INT;\n    name : STRING := 'none';\nEND_VAR\n"
        "PROGRAM main\nVAR edge : R_TRIG; n : DINT; END_VAR\n"
        "    run := (run OR start_pb) AND stop_pb AND NOT see_tile;\n    edge(CLK := start_pb);\n"
        "    IF edge.Q THEN starts := starts + 1; END_IF;\n    n := n + 1;\nEND_PROGRAM\n");
}

files::Yard load(const Folder& f) {
    base::Diagnostics diagnostics;
    files::Yard yard = files::load_yard(f.path().string(), diagnostics);
    REQUIRE_MESSAGE(yard.model != nullptr, diagnostics.render());
    return yard;
}

/// Everything that can be looked at, as text.
std::string all_of(const session::Session& s) {
    std::string out;
    for (const std::string& name : session::signal_names(s.model())) {
        if (const auto signal = session::find_signal(s.model(), name))
            out.append(fmt::format("{} = {}\n", name, session::explained_text(s, *signal)));
    }
    for (const std::string& text : session::forces_text(s)) out.append(text).append("\n");
    for (const std::string& text : session::faults_text(s)) out.append(text).append("\n");
    for (const plant::Item& i : s.plant().items) out.append(fmt::format("item {} {} {}\n", i.id, i.x_m, i.z_m));
    return out;
}

}  // namespace

TEST_CASE(
    "a session that is cut off anywhere is gone on with to the same state: orders x times, against one that was not") {
    const std::vector<std::string> orders = {"press start for 100 ms",
                                             "place tile on a at 0.5 m",
                                             "fault see stuck on",
                                             "fault a.run delay 30 ms",
                                             "force run = TRUE",
                                             "force word = 7",
                                             "unforce all",
                                             "forces off",
                                             "forces on",
                                             "heal all",
                                             "press stop for 50 ms",
                                             "write word = 9",
                                             "stop",
                                             "start warm",
                                             "power off line",
                                             "power on line",
                                             "take from a",
                                             "watch run",
                                             "rewind 300 ms",
                                             "go",
                                             "snapshot here",
                                             "restore here",
                                             "expect run within 20 ms",
                                             "wait 70 ms",
                                             "procedure Go",
                                             "pause",
                                             "everything reset"};
    std::mt19937 random(21);
    int replayed = 0;
    for (int round = 0; round < 60; ++round) {
        Folder f;
        write_retaining_yard(f);
        const files::Yard yard = load(f);
        base::Diagnostics diagnostics;
        const auto book = procedure::read_book(*yard.model, yard.procedures, diagnostics);
        CountingWorld world;
        std::string why;
        auto state = live::YardState::open(f.path().string(), why);
        REQUIRE_MESSAGE(state != nullptr, why);
        live::SittingOptions options;
        options.folder = f.path().string();
        options.version = {yard.model, book, "same", "same"};
        options.state = state.get();
        live::Sitting sitting(session::Session(yard.model), world, options);
        sitting.begin();
        std::vector<std::string> given;
        for (int k = 0; k < 25; ++k) {
            given.push_back(
                fmt::format("{} {}", base::clock_text(sitting.desk().now()), orders[random() % orders.size()]));
            sitting.obey(given.back().substr(given.back().find(" s ") + 3), k + 1, 1);
            for (auto steps = random() % 60U; steps > 0 && sitting.due(); --steps) {
                world.pass(Nanoseconds(5'000'000));
                sitting.tick();
            }
            sitting.take_replies();
        }
        sitting.keep();
        // Cut off: the lock goes with the process, everything else stays.
        const std::string was = all_of(sitting.desk().session());
        const Nanoseconds at = sitting.desk().now();
        const std::size_t watched = sitting.desk().watched().size();
        state.reset();
        auto again = live::YardState::open(f.path().string(), why);
        REQUIRE_MESSAGE(again != nullptr, why);
        const auto left = again->left();
        REQUIRE(left);
        CHECK(left->time == at);
        options.state = again.get();
        session::Session session(yard.model);
        live::put_retained(session, left->retained);
        live::Sitting next(session, world, options);
        next.begin();
        next.go_on(*left);
        if (!left->not_again.empty()) continue;
        ++replayed;
        CAPTURE(round);
        CHECK(next.desk().now() == at);
        CHECK(next.desk().watched().size() == watched);
        const std::string is = all_of(next.desk().session());
        if (is == was) continue;
        std::string told;
        for (const std::string& order : given) told.append(order).append("\n");
        FAIL_CHECK(told, "now\n", is, "was\n", was);
    }
    CHECK(replayed >= 50);
}

TEST_CASE("a journal that is cut at any byte is read up to its last whole line, or there is none") {
    Folder f;
    write_retaining_yard(f);
    std::string why;
    std::string whole;
    {
        const files::Yard yard = load(f);
        auto state = live::YardState::open(f.path().string(), why);
        REQUIRE(state != nullptr);
        state->begin("print", {});
        live::Record record;
        session::Session session(yard.model);
        record.order(Nanoseconds(10'000'000), "press start for 100 ms", 1);
        state->keep(record, session, {"watch run"});
        session.step();
        record.order(Nanoseconds(20'000'000), "force name = 'a \"quoted\" é'", 1);
        state->keep(record, session, {"watch run", "watch word hex"});
        whole = f.read(".vyard/journal");
    }
    for (std::size_t cut = 0; cut <= whole.size(); ++cut) {
        f.write(".vyard/journal", whole.substr(0, cut));
        auto state = live::YardState::open(f.path().string(), why);
        REQUIRE(state != nullptr);
        const auto left = state->left();
        const auto lines = std::count(whole.begin(), whole.begin() + static_cast<std::ptrdiff_t>(cut), '\n');
        CHECK(left.has_value() == (lines > 0));
        if (left) CHECK(left->orders.size() <= 2);
        if (cut == whole.size()) {
            REQUIRE(left->orders.size() == 2);
            CHECK(left->orders[1].text == "force name = 'a \"quoted\" é'");
            CHECK(left->watches == std::vector<std::string>{"watch run", "watch word hex"});
            CHECK(left->fingerprint == "print");
        }
    }
    for (const char* odd : {"", "\n", "{}\n", "null\n", "{\"vyard_journal\":99}\n", "{\"order\":5}\n", "\xff\xfe\n"}) {
        f.write(".vyard/journal", odd);
        auto state = live::YardState::open(f.path().string(), why);
        CHECK(state->left().has_value() == (std::string(odd) == "{}\n"));
    }
}

TEST_CASE("retained values survive power and process, are listed, exported and put back") {
    Folder f;
    write_retaining_yard(f);
    const std::string press = "press start for 50 ms\nwait 100 ms\n";
    const Result first = f.run("live . --state on --pace max",
                               press + press + "write name = 'red, \"so\"'\nwait 20 ms\npower off line\nwait 50 ms\n" +
                                   "show starts, name, word\npower on line\nwait 50 ms\nshow starts, main.n\n");
    CHECK(contains(first.out, "starts = 2\n"));
    CHECK(contains(first.out, "name = 'red, \"so\"'\n"));
    CHECK(f.read(".vyard/retained.csv") ==
          "controller,variable,type,value\nline,starts,INT,2\nline,name,STRING,\"'red, \"\"so\"\"'\"\n");
    const Result listed = f.run("tags . --retained");
    CHECK(contains(listed.out, "starts    INT     2"));
    const Result second = f.run("live . --state on --pace max", "show starts, name\n" + press + "show starts\n");
    CHECK(contains(second.out, "    0.000 s  starts = 2\n"));
    CHECK(contains(second.out, "starts = 3\n"));
    // Runs and proofs always begin anew.
    CHECK(contains(f.run("live . --pace max", "show starts\n").out, "starts = 0\n"));
    CHECK(f.run("prove .").exit == 0);
    CHECK(f.run("tags . --retained --csv --out kept.csv").exit == 0);
    f.write(".vyard/retained.csv", "controller,variable,type,value\nline,starts,INT,99\n");
    CHECK(f.run("tags . --put-retained kept.csv").exit == 0);
    CHECK(contains(f.run("live . --state on --pace max", "show starts\n").out, "starts = 3\n"));
    // What does not fit is named, and nothing is put.
    f.write(
        "odd.csv",
        "controller,variable,type,value\nline,starts,DINT,1\nother,starts,INT,1\nline,gone,INT,1\nline,starts,INT,x\n");
    const std::string before = f.read(".vyard/retained.csv");
    const Result odd = f.run("tags . --put-retained odd.csv");
    CHECK(odd.exit == 2);
    CHECK(odd.err ==
          "error: 'starts' is INT now, and was DINT\nerror: there is no controller 'other'\nerror: there is no RETAIN "
          "variable 'gone'\nerror: 'x' is not a valid value of 'starts', which is INT\n");
    CHECK(f.read(".vyard/retained.csv") == before);
    f.write("odd.csv", "a,b\n1,2\n");
    CHECK(contains(f.run("tags . --put-retained odd.csv").err,
                   "odd.csv:1:1: error: this is not a list of retained values"));
}

TEST_CASE("lists are watched and written, all or one; what is wrong in one is shown with its place") {
    Folder f;
    write_retaining_yard(f);
    f.write("lists/hand.csv",
            "tag,display,value,note\nword,hex,16#1234,pattern\nlevel,,0.5,\nstarts,,7,count\nrun,,,\n");
    f.write("lists/odd.csv", "tag,dsplay\nword,hex\n");
    const Result r = f.run("live . --pace max",
                           "lists\nlist hand\nlist hand write\nwait 20 ms\nwrite word = 1\nwait 20 ms\nlist hand write "
                           "word\nwait 20 ms\nlist hand write run\nlist hnd\nlist odd\nlist\n");
    CHECK(contains(r.out, "lists: hand, odd\n"));
    CHECK(contains(r.out, "    0.000 s  word = 16#00FF\n"));
    CHECK(contains(r.out, "    0.010 s  word = 16#1234\n"));
    CHECK(contains(r.out, "    0.010 s  starts = 7\n"));
    CHECK(contains(r.out, "    0.030 s  word = 16#0001\n"));
    CHECK(contains(r.out, "    0.050 s  word = 16#1234\n"));
    CHECK(contains(r.out, "error: list hand has no value for 'run'\n"));
    CHECK(contains(r.out, "error: no list is named 'hnd'\n    hint: did you mean 'hand'?\n"));
    CHECK(contains(r.out, "lists/odd.csv:1:5: error: a list of tags has no column 'dsplay'"));
    // Values as a table has them: a text without quotes, 1 for TRUE.
    f.write("lists/loose.csv", "tag,value\nname,it is\nsee_tile,1\n");
    CHECK(contains(f.run("live . --pace max", "list loose write\nwait 20 ms\nshow name\n").out, "name = 'it is'\n"));
    // All that is wrong at once, with its place, and nothing of it is watched or written.
    f.write("lists/odd.csv", "tag,display,value\nwrod,hexx,1\nword,hex,16#GG\na.speed,,1\nlevel,,0.5\n");
    for (const char* line : {"list odd\n", "list odd write\n"}) {
        const std::string out = f.run("live . --pace max", line + std::string("wait 20 ms\nshow level\n")).out;
        CHECK(contains(out, "lists/odd.csv:2:1: error: no tag, point or actual is named 'wrod'"));
        CHECK(contains(out, "lists/odd.csv:2:6: error: 'hexx' is not a form of values"));
        CHECK(contains(out, "lists/odd.csv:3:10: error: '16#GG' is not a valid value of WORD"));
        CHECK(contains(out, "lists/odd.csv:4:10: error: 'a.speed' is the plant's, and not written"));
        CHECK_FALSE(contains(out, "word ="));
        CHECK(contains(out, "level = 0\n"));
    }
}

TEST_CASE("watch: patterns, displays, dead bands, rates, conditions") {
    Folder f;
    write_retaining_yard(f);
    const auto said = [&](const std::string& lines) { return f.run("live . --pace max", lines).out; };
    CHECK(contains(said("watch *_pb\n"), "start_pb = FALSE\n    0.000 s  stop_pb = TRUE\n"));
    CHECK(contains(said("watch s?e_*\n"), "see_tile = FALSE\n"));
    CHECK(contains(said("watch nothing*\n"), "error: no name fits 'nothing*'\n"));
    for (const auto& [display, shown] : std::vector<std::pair<std::string, std::string>>{
             {"hex", "16#00FF"}, {"binary", "2#0000_0000_1111_1111"}, {"decimal", "255"}})
        CHECK(contains(said("watch word " + display + "\n"), "word = " + shown + "\n"));
    CHECK(contains(said("watch run hex\n"), "error: 'run' is BOOL, which has no hex form\n"));
    CHECK(contains(said("watch level binary\n"), "error: 'level' is LREAL, which has no binary form\n"));
    const std::string ramp = said("watch main.n band 3\nwait 100 ms\n");
    CHECK(contains(ramp, "main.n = 5\n"));
    CHECK(contains(ramp, "main.n = 9\n"));
    CHECK_FALSE(contains(ramp, "main.n = 6\n"));
    const std::string slow = said("watch main.n every 40 ms\nwait 100 ms\n");
    CHECK(contains(slow, "    0.040 s  main.n = 5\n"));
    CHECK(contains(slow, "    0.080 s  main.n = 9\n"));
    CHECK_FALSE(contains(slow, "    0.050 s  main.n"));
    CHECK(contains(said("watch a.speed band 5 kg\n"), "error: "));
    const std::string condition = said("watch main.n > 5 and not run\nwait 100 ms\n");
    CHECK(contains(condition, "    0.000 s  main.n > 5 and not run = FALSE\n"));
    CHECK(contains(condition, "    0.050 s  main.n > 5 and not run = TRUE\n"));
    CHECK(contains(said("watch main.n > and\n"), "error: "));
    CHECK(contains(said("watch\n"), "error: watch needs a name"));
    const std::string edges = said("watch rises(run)\npress start for 100 ms\nwait 50 ms\n");
    CHECK(contains(edges, "    0.000 s  rises(run) = FALSE\n"));
    CHECK(contains(edges, "    0.010 s  rises(run) = TRUE\n    0.020 s  rises(run) = FALSE\n"));
    const std::string off =
        said("watch *_pb, run\nunwatch st*\npress start for 50 ms\nwait 20 ms\nunwatch rum\nunwatch all\n");
    CHECK_FALSE(contains(off, "start_pb = TRUE"));
    CHECK(contains(off, "run = TRUE\n"));
    CHECK(contains(off, "error: 'rum' is not watched\n    hint: did you mean 'run'?\n"));
    // Once more watched is watched in the new manner; unwatched is not said any more.
    const std::string again =
        said("watch word\nwatch word hex\nwrite word = 3\nwait 20 ms\nunwatch word\nwrite word = 4\nwait 20 ms\n");
    CHECK(contains(again, "    0.010 s  word = 16#0003\n"));
    CHECK_FALSE(contains(again, " s  word = 3\n"));
    CHECK_FALSE(contains(again, "16#0004"));
}

TEST_CASE("a tag named like a display is a tag; more names than can be shown are not cut off in silence") {
    Folder f;
    write_retaining_yard(f);
    f.replace("line.st", "    word : WORD := 16#00FF;\n",
              "    word : WORD := 16#00FF;\n    time : INT := 5;\n    many : ARRAY[1..300] OF INT;\n");
    const Result r =
        f.run("live . --pace max --watch \"word hex\"",
              "watch word, time\nwatch word time\nwatch word text\nshow many*\nwatch many*\nshow many[1*\n");
    CHECK(contains(r.out, "word = 16#00FF\n"));
    CHECK(contains(r.out, "word = 255\n"));
    CHECK(contains(r.out, "time = 5\n"));
    CHECK(contains(r.out, "word = '..'\n"));
    CHECK(contains(r.out, "error: 300 names fit 'many*', more than 200\n    hint: write more of the name\n"));
    CHECK_FALSE(contains(r.out, "many[7] = 0"));
    CHECK(contains(r.out, "many[100] = 0\n"));
    CHECK(f.run("live . --pace max --watch rum").err ==
          "error: no tag, point or actual is named 'rum'\n    hint: did you mean 'run'?\n");
}

TEST_CASE("options that have nothing to act on are refused") {
    Folder f;
    write_retaining_yard(f);
    CHECK(f.run("live . --go-on").err == "error: --go-on is for a session that keeps a state\n    hint: --state on\n");
    CHECK(f.run("live . --fresh").exit == 2);
    CHECK(contains(f.run("live . --ascii").err, "error: --ascii is for the screen"));
    CHECK(f.run("live . --state maybe").exit == 2);
    CHECK(contains(f.run("live . --state on --go-on --pace max").err, "warning: no session was cut off"));
}

TEST_CASE("a table of stimuli decides what happens too: another one, and a session is not gone on with by its orders") {
    Folder f;
    write_retaining_yard(f);
    f.write("a.csv", "time,tag,value\n0.02,word,1\n");
    f.write("b.csv", "time,tag,value\n0.02,word,2\n");
    f.write("kill.sh",
            "(echo 'wait 100 ms'; echo 'force run = TRUE'; sleep 0.6; kill -9 $(cat .vyard/lock); sleep 0.2) | '" +
                std::string(VYARD_PROGRAM) + "' live . --state on --pace max --stimulus a.csv >/dev/null 2>&1\ntrue\n");
    REQUIRE(std::system(fmt::format("cd '{}' && sh kill.sh 2>/dev/null", f.path().string()).c_str()) == 0);
    f.write("journal", f.read(".vyard/journal"));
    const Result same = f.run("live . --state on --pace max --stimulus a.csv --go-on", "show word, run\n");
    CHECK(contains(same.out, "gone on with at 0.100 s, by 1 orders done again"));
    CHECK(contains(same.out, "word = 1\n"));
    f.write(".vyard/journal", f.read("journal"));
    const Result other = f.run("live . --state on --pace max --stimulus b.csv --go-on", "wait 20 ms\nshow word, run\n");
    const std::string told = other.out + other.err;
    CHECK_MESSAGE(
        contains(told, "it begins anew, with the forces and what was watched: the files of the yard changed since"),
        told);
    CHECK(contains(other.out, "run = TRUE (forced; logic: FALSE)\n"));
}

TEST_CASE("procedures and tables from here, marks, run and restart, everything reset") {
    Folder f;
    write_retaining_yard(f);
    f.write("stim.csv",
            "time,tag,value,expect\n0,word,16#0001,\n0.1,word,,16#0001\n0.2,level,2.5,2.5 +- 0.1\n0.3,name,abc,abc\n");
    f.write("odd.csv", "time,tag,value\n0,wrd,1\n0.1,word,x\n");
    const Result r = f.run("live . --pace max",
                           "wait 300 ms\nprocedure go\nmark a\ntable stim.csv\nmark b\nmeasure a to b\nmeasure b to "
                           "nothing\nshow word, level, name\n"
                           "table odd.csv\nprocedure nothing\nstop\nrestart\nrestart cold\nwait 20 ms\nshow "
                           "word\nstop\nrun\nwait 20 ms\nshow "
                           "run\nforce run = TRUE\nfault see stuck on\neverything reset\nstatus\neverything\n");
    CHECK(contains(r.out, "    0.300 s  procedure Go\n    0.300 s  step \"Runs to the eye\"\n"));
    CHECK(contains(r.out, "  procedure Go: passed\n"));
    CHECK(contains(r.out, "  procedure stim.csv: passed\n"));
    CHECK(contains(r.out, "from a to b: 0.31 s\n"));
    CHECK(contains(r.out, "level = 2.5\n"));
    CHECK(contains(r.out, "name = 'abc'\n"));
    CHECK(contains(r.out, "odd.csv:2:3: error: no tag, point or actual is named 'wrd'"));
    CHECK(contains(r.out, "odd.csv:3:10: error: 'x' is not a valid value of WORD"));
    CHECK(contains(r.out, "error: no procedure is named 'nothing'\n    hint: known: Go\n"));
    CHECK(contains(r.out, "error: restart is cold or warm, not ''\n"));
    CHECK(contains(r.out, "word = 255\n"));
    CHECK(contains(r.out, "    0.000 s  everything is as at power-up"));
    CHECK(contains(r.out, "    0.000 s  items on the plant: 0\n"));
    const std::string tail = r.out.substr(r.out.find("everything is as at power-up"));
    CHECK_FALSE(contains(tail, "forced"));
    CHECK_FALSE(contains(tail, "stuck"));
    // A table fails where what it expects is not so.
    f.write("fails.csv", "time,tag,value,expect\n0.05,word,,7\n");
    const Result failed = f.run("live . --pace max", "table fails.csv\n");
    CHECK(failed.exit == 1);
    CHECK(contains(failed.out, "expected word = 7"));
}

TEST_CASE("a procedure that is followed from here is kept as its orders, and does the same again") {
    Folder f;
    write_retaining_yard(f);
    const Result live =
        f.run("live . --pace max --watch run", "wait 250 ms\nprocedure Go\nwait 40 ms\nkeep again.proc\n");
    CHECK(contains(live.out, "kept again.proc\n"));
    CHECK(contains(f.read("again.proc"), "    wait 250 ms\n"));
    CHECK(contains(f.read("again.proc"), "    place tile on a at 0.5 m\n"));
    CHECK(f.run("run . --procedure again --watch run --on-change --out again").exit == 0);
    CHECK(f.read("again/watch.csv") == "time_s,run\n0,FALSE\n0.26,TRUE\n3.07,FALSE\n");
    CHECK(contains(live.out, "    0.260 s  run = TRUE\n"));
    CHECK(contains(live.out, "    3.070 s  run = FALSE\n"));
}

TEST_CASE("recordings: chosen signals, sizes said, a file of its own after going back; caught when a condition comes") {
    Folder f;
    write_retaining_yard(f);
    const Result r =
        f.run("live . --pace max",
              "record on r*, a.speed\nrecord on\npress start for 100 ms\nwait 1 s\nrewind 500 ms\npress stop "
              "for 50 ms\nwait 200 ms\nrecord off\nrecord off\nrecord maybe\nrecord on nothing\n");
    CHECK(contains(r.out, "records 2 signals to "));
    CHECK(contains(r.out, "error: it is recorded already\n"));
    CHECK(contains(r.out, "error: nothing is recorded\n"));
    CHECK(contains(r.out, "error: record is on or off, not 'maybe'\n"));
    CHECK(f.read("traces/live-1/trace.csv") == "time_s,run,a.speed\n0,FALSE,0\n0.01,TRUE,0\n0.015,TRUE,0.5\n");
    CHECK(f.read("traces/live-2/trace.csv") ==
          "time_s,run,a.speed\n0.5,TRUE,0.5\n0.51,FALSE,0.5\n0.515,FALSE,0\n0.7,FALSE,0\n");
    CHECK(contains(f.read("traces/live-1/trace.vcd"), "$timescale"));
    const Result caught =
        f.run("live . --pace max",
              "when run keep 200 ms before, 100 ms after\nstatus\nwait 1 s\npress start for 100 ms\nwait 2 "
              "s\nwhen run and\nwhen run keep\nwhen run keep 1 s before, 2 parsecs after\nwhen none\npress "
              "stop for 50 ms\nwait 100 ms\npress start for 50 ms\nwait 1 s\n");
    CHECK(contains(caught.out, "kept when it comes: run\n"));
    CHECK(contains(caught.out, "    1.010 s  caught: run\n"));
    CHECK(contains(caught.out, "    1.110 s  wrote "));
    const std::string csv = f.read("traces/caught-1/trace.csv");
    CHECK(contains(csv, "\n0.81,"));
    CHECK(contains(csv, "\n1.01,"));
    CHECK_FALSE(f.has("traces/caught-2"));
    CHECK(std::count(caught.out.begin(), caught.out.end(), '\n') > 5);
    CHECK(contains(caught.out, "error: name what is to be kept\n"));
    // What has come is written as far as it goes, when the run ends or leaves its course before the time is over.
    for (const char* end : {"quit", "rewind 100 ms\ngo\npress stop for 50 ms\nwait 10 ms", "reload"}) {
        Folder g;
        write_retaining_yard(g);
        CAPTURE(end);
        g.run(
            "live . --pace max",
            fmt::format("when run keep 50 ms before, 10 s after\nwait 200 ms\npress start for 50 ms\nwait 150 ms\n{}\n",
                        end));
        const std::string part = g.read("traces/caught-1/trace.csv");
        CHECK(contains(part, "\n0.16,"));
        CHECK(contains(part, "\n0.21,"));
    }
}

TEST_CASE("files of the yard: reload takes map and plant too, keeps what still exists, and can be undone") {
    Folder f;
    write_retaining_yard(f);
    const auto scripted = [&](const std::string& change, const std::string& after) {
        write_retaining_yard(f);
        f.write("lines.sh",
                fmt::format("echo 'press start for 50 ms'\necho 'wait 100 ms'\necho 'place tile on a at 0.2 "
                            "m'\necho 'wait 20 ms'\nsleep 0.4\n{}\necho reload\n{}\nsleep 0.2\n",
                            change, after));
        const std::string command = fmt::format("cd '{}' && sh lines.sh | '{}' live . --pace max > out.txt 2>&1",
                                                f.path().string(), VYARD_PROGRAM);
        CHECK(std::system(command.c_str()) != -1);
        return f.read("out.txt");
    };
    const std::string speed =
        scripted("sed -i 's/0.5 m.s/0.25 m\\/s/' plant.toml",
                 "echo 'show a.speed, starts'; echo 'wait 20 ms'; echo 'show a.speed'; echo 'reload "
                 "undo'; echo 'wait 20 ms'; echo 'show a.speed'");
    CHECK(contains(speed, "the plant goes on as it is\n"));
    CHECK(contains(speed, "starts = 1\n"));
    CHECK(contains(speed, "    0.140 s  a.speed = 0.25 m/s\n"));
    CHECK(contains(speed, "    0.160 s  a.speed = 0.5 m/s\n"));
    const std::string more =
        scripted("printf '\\n[lamp.shine]\\n' >> plant.toml", "echo 'wait 20 ms'; echo 'show shine.lit, starts'");
    CHECK_MESSAGE(contains(more, "shine.lit = FALSE\n"), more);
    const std::string gone = scripted(
        "sed -i 's/belt.a/belt.b/; s/on = \"a\"/on = \"b\"/' plant.toml; sed -i 's/a.run/b.run/' map.csv; sed -i 's/on "
        "a at/on b at/' go.proc",
        "echo 'show starts'; echo 'reload anyway'; echo 'show starts'");
    CHECK_MESSAGE(contains(gone, "error: the files were not taken: this would be lost: device 'a' is gone"), gone);
    CHECK(contains(gone, "1 item: what they lie on"));
    CHECK(contains(gone, "lost: device 'a' is gone\n"));
    // What was before a change is what it was: its plant, its logic, its procedures; and from there it can be read
    // anew.
    const std::string back = scripted(
        "printf '\\n[lamp.shine]\\n' >> plant.toml; sed -i 's/n := n + 1/n := n + 100/' line.st",
        "echo 'wait 100 ms'; echo 'show main.n'; echo 'rewind 150 ms'; echo 'show shine.lit, main.n'; echo 'procedure "
        "Go'; echo 'show main.n'; echo reload; echo 'show shine.lit'; echo 'wait 10 ms'; echo 'show main.n'");
    CHECK_MESSAGE(contains(back, "    0.220 s  main.n = 1013\n"), back);
    CHECK_MESSAGE(contains(back, "    0.070 s  main.n = 8\n"), back);
    CHECK_MESSAGE(contains(back, "error: no tag, point or actual is named 'shine.lit'"), back);
    CHECK_MESSAGE(contains(back, "  procedure Go: "), back);
    CHECK_MESSAGE(contains(back, "  shine.lit = FALSE\n"), back);
    const std::string wrong = scripted("echo oops >> map.csv", "echo 'show starts'");
    CHECK(contains(wrong, "error: the files were not taken, what ran goes on\n"));
    CHECK(contains(wrong, "map.csv:6:"));
    CHECK(contains(wrong, "starts = 1\n"));
}

TEST_CASE("a disk that takes nothing more: it is said once, and the run goes on to its end") {
    Folder f;
    write_retaining_yard(f);
    std::string lines = "record on\npress start for 100 ms\n";
    for (int k = 0; k < 100; ++k) lines.append(fmt::format("write word = {}\nwait 600 ms\n", k));
    f.write("lines.txt", lines + "show run\n");
    // Files may have 1 KiB: the journal and the traces come to their end there.
    const std::string command = fmt::format(
        "cd '{}' && (trap '' XFSZ; ulimit -f 2; '{}' live . --state on --pace 40 < lines.txt 2>&1) | cat > "
        "out.txt; true",
        f.path().string(), VYARD_PROGRAM);
    CHECK(std::system(command.c_str()) == 0);
    const std::string out = f.read("out.txt");
    CHECK(contains(out, "run = TRUE\n"));
    CHECK(contains(out, "ended at 60."));
    const std::string said = "/journal: File too large; nothing more is kept there\n";
    CHECK(contains(out, said));
    CHECK_FALSE(contains(out.substr(out.find(said) + said.size()), said));
    CHECK_FALSE(f.has("traces/live-1/trace.csv"));
}

TEST_CASE("lines without end do not hold up the plant; many lines at once are all obeyed") {
    Folder f;
    write_retaining_yard(f);
    const std::string command = fmt::format(
        "cd '{0}' && yes 'show main.n' | timeout 20 '{1}' live . --pace 1 --for 2s > out.txt 2>&1; test "
        "${{PIPESTATUS:-0}} = 0; "
        "tail -1 out.txt > end.txt; grep -o 'main.n = .*' out.txt | sort -u | wc -l > values.txt",
        f.path().string(), VYARD_PROGRAM);
    CHECK(std::system(command.c_str()) == 0);
    CHECK(contains(f.read("end.txt"), "ended at 2.000 s"));
    CHECK(std::stoi(f.read("values.txt")) > 150);  // of 201 scans
    std::string many;
    for (int k = 0; k < 5000; ++k) many += "watch run\n";
    const Result r = f.run("live . --pace 1", many + "wait 20 ms\nshow main.n\n");
    CHECK(std::count(r.out.begin(), r.out.end(), '\n') >= 5002);
    CHECK(contains(r.out, "main.n = "));
}

TEST_CASE("every word of live is one that no control of a plant may have, and no control of ours has") {
    const auto& reserved = plant::order_words();
    std::vector<std::string> controls;
    for (const plant::Kind& kind : plant::all_kinds()) {
        for (const plant::ControlSpec& c : kind.controls) controls.push_back(c.verb);
    }
    const auto has = [](const std::vector<std::string>& list, const std::string& word) {
        return std::find(list.begin(), list.end(), word) != list.end();
    };
    std::vector<std::string> words = live::Sitting::words();
    words.insert(words.end(), {"unit", "panel"});
    for (const std::string& word : words) {
        CAPTURE(word);
        CHECK(has(reserved, word) != has(controls, word));
    }
}

TEST_CASE("orders that a rewind gives up are answered as given up, to who gave them") {
    Folder f;
    write_retaining_yard(f);
    const files::Yard yard = load(f);
    CountingWorld world;
    live::SittingOptions options;
    options.folder = f.path().string();
    live::Sitting sitting(session::Session(yard.model), world, options);
    sitting.begin();
    sitting.obey("expect run within 10 s", 1, 5);
    for (int k = 0; k < 40; ++k) sitting.tick();
    sitting.take_replies();
    CHECK(sitting.busy(5));
    sitting.obey("rewind 100 ms", 1, 6);
    CHECK_FALSE(sitting.busy(5));
    bool told = false;
    for (const live::Reply& r : sitting.take_replies())
        told = told ||
               (r.asker == 5 && r.kind == live::Reply::Kind::Event && r.text == "given up: expect run within 10 s");
    CHECK(told);
}

TEST_CASE(
    "files that change by themselves: what is refused is no line of anybody's; stops said before are not said again") {
    Folder f;
    write_retaining_yard(f);
    f.replace("line.st", "    n := n + 1;\n",
              "    n := n + 1;\n    IF word = 0 THEN n := n / TO_DINT(word); END_IF;\n");
    f.write("lines.sh",
            "echo 'write word = 0'\necho 'wait 50 ms'\nsleep 0.5\necho start\nsed -i 's/0.5 m.s/0.25 m\\/s/' "
            "plant.toml\nsleep 0.6\necho 'wait 50 "
            "ms'\nsed -i 's/starts : INT/starts : DINT/' line.st\nsleep 0.6\necho quit\n");
    const std::string command =
        fmt::format("cd '{}' && sh lines.sh | '{}' live . --state on --pace max > out.txt 2>&1; echo $? > exit.txt",
                    f.path().string(), VYARD_PROGRAM);
    CHECK(std::system(command.c_str()) != -1);
    const std::string out = f.read("out.txt");
    CHECK(contains(out, "the plant goes on as it is\n"));
    CHECK(contains(out, "the files were not taken: this would be lost: the value of starts"));
    CHECK_FALSE(contains(out, "orders rejected"));
    CHECK(f.read("exit.txt") == "0\n");
    const std::size_t first = out.find("controller line stopped");
    REQUIRE(first != std::string::npos);
    CHECK(out.find("controller line stopped", first + 1) == std::string::npos);
}

TEST_CASE(
    "what is recorded is what happened: orders x going back x files read anew, against the kept procedure run alone") {
    const std::vector<std::string> orders = {"press start for 100 ms",
                                             "place tile on a at 0.5 m",
                                             "fault see stuck on",
                                             "fault a.run delay 30 ms",
                                             "force run = TRUE",
                                             "force word = 7",
                                             "unforce all",
                                             "heal all",
                                             "press stop for 50 ms",
                                             "write word = 9",
                                             "power off line",
                                             "power on line",
                                             "take from a",
                                             "rewind 200 ms",
                                             "go",
                                             "snapshot here",
                                             "restore here",
                                             "reload",
                                             "pause"};
    std::mt19937 random(33);
    int compared = 0;
    for (int round = 0; round < 60; ++round) {
        Folder f;
        write_retaining_yard(f);
        const files::Yard yard = load(f);
        CountingWorld world;
        std::string kept;
        live::SittingOptions options;
        options.folder = f.path().string();
        options.version = {yard.model, nullptr, "same", "same"};
        // The same files, built once more: another model that says the same.
        options.reload = [&] { return live::Reloaded{"", {load(f).model, nullptr, "same", "same"}}; };
        options.write = [&](const std::string&, const std::string& text) {
            kept = text;
            return std::string();
        };
        live::Sitting sitting(session::Session(yard.model), world, options);
        sitting.begin();
        sitting.obey("record on", 1, 1);
        // At the instant of an order a trace may have what was before it or after it.
        std::set<Nanoseconds> instants = {Nanoseconds(0)};
        for (int k = 0; k < 25; ++k) {
            sitting.obey(orders[random() % orders.size()], k + 2, 1);
            instants.insert(sitting.desk().now());
            while (sitting.works()) sitting.take_work();
            for (auto steps = random() % 60U; steps > 0 && sitting.due(); --steps) {
                world.pass(Nanoseconds(5'000'000));
                sitting.tick();
            }
            sitting.take_replies();
        }
        sitting.obey("go", 98, 1);
        sitting.tick();
        sitting.obey("record off", 99, 1);
        sitting.obey("keep x", 100, 1);
        const Nanoseconds end = sitting.desk().now();
        int last = 0;
        while (f.has(fmt::format("traces/live-{}/trace.csv", last + 1))) ++last;
        REQUIRE(last > 0);
        base::Diagnostics diagnostics;
        const auto recorded = files::read_trace_csv(
            base::make_source("t.csv", f.read(fmt::format("traces/live-{}/trace.csv", last))), diagnostics);
        const auto book = procedure::read_book(*yard.model, {base::make_source("x.proc", kept)}, diagnostics);
        REQUIRE_MESSAGE(recorded, diagnostics.render());
        REQUIRE_MESSAGE(book != nullptr, diagnostics.render());
        session::Session alone(yard.model);
        const auto channels = trace::usual_channels(*yard.model);
        trace::Trace all;
        trace::Recorder recorder(alone, channels, {&all});
        procedure::Run run(book, 0, alone);
        bool more = run.advance(alone);
        while (alone.now() < end) {
            alone.step();
            recorder.observe(alone);
            if (more) more = run.advance(alone);
        }
        CAPTURE(round);
        CAPTURE(kept);
        for (std::uint32_t c = 0; c < channels.size(); ++c) {
            const auto there = recorded->find(channels[c].name);
            REQUIRE(there);
            for (Nanoseconds t = recorded->begin_time() + Nanoseconds(5'000'000); t <= end;
                 t += Nanoseconds(5'000'000)) {
                if (instants.count(t) > 0) continue;
                const std::string was = trace::cell_text(recorded->channels()[*there], recorded->value_at(*there, t));
                const std::string is = trace::cell_text(channels[c], all.value_at(c, t));
                if (was == is) {
                    ++compared;
                    continue;
                }
                FAIL_CHECK(channels[c].name, " at ", base::to_seconds(t), ": recorded ", was, ", alone ", is);
                break;
            }
        }
    }
    CHECK(compared > 50'000);
}
