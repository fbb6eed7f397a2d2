// Reports and figures from verdicts and traces made by hand.
#include "report/verdicts.hpp"

#include <nlohmann/json.hpp>
#include <pugixml.hpp>
#include <random>

#include "figures/kind_figures.hpp"
#include "figures/plan.hpp"
#include "figures/timing.hpp"
#include "files/plant_file.hpp"
#include "files/yard_file.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;
using procedure::Verdict;

namespace {

procedure::ProcedureVerdict failed_verdict() {
    const auto source = base::make_source("go.proc", "procedure \"Go <fast> & \"\nexpect a > 1\n");
    procedure::ProcedureVerdict v;
    v.name = "Go <fast> & far";
    v.verdict = Verdict::Failed;
    v.duration = Nanoseconds(1'500'000'000);
    procedure::StepVerdict step;
    step.name = "one";
    step.verdict = Verdict::Failed;
    step.end = Nanoseconds(1'500'000'000);
    step.notes = {"note \"look here\""};
    procedure::Failure failure;
    failure.place = {source, 2, 1, 12};
    failure.expected = "a > 1";
    failure.found = "a > 1 is FALSE";
    failure.values = {{"a", "0"}};
    failure.time = Nanoseconds(1'500'000'000);
    failure.kept_off = {"a: b is FALSE"};
    failure.changes = {"alarm: 0, 3 at 1.000 s", "c: FALSE, TRUE at 0.500 s"};
    failure.devices = {"lift.position stayed 0 m"};
    step.failure = failure;
    v.steps.push_back(step);
    procedure::StepVerdict rest;
    rest.name = "two";
    v.steps.push_back(rest);
    procedure::RuleVerdict rule;
    rule.name = "r";
    rule.place = {source, 1, 1, 1};
    rule.verdict = Verdict::Failed;
    rule.condition = "never b";
    rule.times_broken = 2;
    rule.first_broken = Nanoseconds(1'000'000'000);
    rule.broken_for = Nanoseconds(250'000'000);
    rule.values = {{"b", "TRUE"}};
    v.rules.push_back(rule);
    v.remarks = {"left at the end: x forced to 1"};
    return v;
}

}  // namespace

TEST_CASE("the text of a failed verdict") {
    CHECK(report::verdicts_text({failed_verdict()}, false) ==
          "failed           Go <fast> & far  (1.500 s)\n"
          "    failed           step  one  (0.000 s to 1.500 s)\n"
          "                           note \"look here\"\n"
          "                     go.proc:2:1\n"
          "                         expect a > 1\n"
          "                     expected  a > 1\n"
          "                     but       a > 1 is FALSE, at 1.500 s\n"
          "                               a = 0\n"
          "                     kept off  a: b is FALSE\n"
          "                     changed   alarm: 0, 3 at 1.000 s\n"
          "                               c: FALSE, TRUE at 0.500 s\n"
          "                     devices   lift.position stayed 0 m\n"
          "    not reached      step  two\n"
          "    failed           rule  r\n"
          "                     go.proc:1:1\n"
          "                     rule      never b\n"
          "                     broken    first at 1.000 s, for 250 ms in all, 2 times\n"
          "                               b = TRUE\n"
          "    remark           left at the end: x forced to 1\n"
          "0 of 1 procedure passed\n");
    CHECK(contains(report::verdicts_text({failed_verdict()}, true), "\033[31mfailed"));
}

TEST_CASE("JUnit: failures, skipped, and names that need escaping") {
    pugi::xml_document document;
    REQUIRE(document.load_string(report::junit_xml("Yard \"A\"", {failed_verdict()}).c_str()));
    const auto suite = document.child("testsuites").child("testsuite");
    CHECK(std::string(suite.attribute("name").value()) == "Go <fast> & far");
    CHECK(suite.attribute("tests").as_int() == 3);
    CHECK(suite.attribute("failures").as_int() == 2);
    CHECK(suite.attribute("skipped").as_int() == 1);
    CHECK(suite.attribute("time").as_double() == 1.5);
    const auto first = suite.child("testcase");
    CHECK(std::string(first.attribute("name").value()) == "step: one");
    CHECK(std::string(first.child("failure").attribute("message").value()) == "expected a > 1, but a > 1 is FALSE");
    CHECK(contains(first.child("failure").text().get(), "go.proc:2:1"));
}

TEST_CASE("a procedure that failed by its controller alone has a failing case") {
    procedure::ProcedureVerdict v;
    v.name = "p";
    v.verdict = Verdict::Failed;
    v.stops.push_back({0, Nanoseconds(1), "controller line stopped", false});
    pugi::xml_document document;
    REQUIRE(document.load_string(report::junit_xml("y", {v}).c_str()));
    CHECK(document.child("testsuites").child("testsuite").attribute("failures").as_int() == 1);
}

TEST_CASE("JSON has everything the text has") {
    const auto j = nlohmann::json::parse(report::verdicts_json("Yard", {failed_verdict()}));
    CHECK(j["yard"] == "Yard");
    CHECK(j["passed"] == false);
    const auto& p = j["procedures"][0];
    CHECK(p["steps"][0]["failure"]["place"] == "go.proc:2:1");
    CHECK(p["steps"][0]["failure"]["values"]["a"] == "0");
    CHECK(p["steps"][1]["verdict"] == "not reached");
    CHECK(p["rules"][0]["broken_for_s"] == 0.25);
    CHECK(p["rules"][0]["broken"] == 2);
    CHECK(p["remarks"][0] == "left at the end: x forced to 1");
}

TEST_CASE("figures of empty and odd runs are drawn all the same") {
    trace::Trace trace;
    trace::Channel constant;
    constant.name = "a name that is much too long for its place at the left edge of the chart";
    constant.signal.controller = 0;
    constant.signal.type = logic::Elementary::Int;
    trace::Channel text = constant;
    text.name = "a text";
    text.signal.type = logic::Elementary::String;
    trace.begin({constant, text}, {});
    trace.change({}, 0, logic::value_of(logic::Elementary::Int, 7));
    trace.change({}, 1, {logic::Elementary::String, 0, "IDLE"});
    trace.change(Nanoseconds(500'000'000), 1, {logic::Elementary::String, 0, "a text that is much too long for a box"});
    trace.end(Nanoseconds(1'000'000'000));
    const figures::TimingView view{"t", {0, 1}, Nanoseconds(0), Nanoseconds(1'000'000'000)};
    CHECK(figures::draw_timing(trace, view)->render("x.png").starts_with("\x89PNG"));
    CHECK(figures::draw_timing(trace, {"none", {}, Nanoseconds(0), Nanoseconds(1)})->render("x.svg").size() > 200);
    CHECK(figures::draw_timing(trace, view)->render("x.txt").empty());

    session::Definition definition;
    definition.name = "empty";
    definition.plant.emplace();
    CHECK(figures::draw_plan(session::Session(session::build_or_die(definition)))->render("x.svg").size() > 200);
}

TEST_CASE("every kind has an example that builds and a small figure in the reference") {
    for (const plant::Kind& kind : plant::all_kinds()) {
        CAPTURE(kind.name);
        const figures::KindExample* example = figures::find_kind_example(kind.name);
        REQUIRE(example != nullptr);
        CHECK(example->text.starts_with("[" + kind.name + "."));
        const auto figure = figures::draw_kind(*example);
        CHECK(figure->render("x.png").starts_with("\x89PNG"));
        CHECK_FALSE(figure->written().empty());
        CHECK(in_source("docs/kinds/" + kind.name + ".png").starts_with("\x89PNG"));
    }
    CHECK(figures::kind_examples().size() == plant::all_kinds().size());
}

namespace {

/// A plant of 40 devices somewhere in a hall, most of them with long names.
std::string crowded_plant(std::uint32_t seed) {
    std::mt19937 random(seed);
    const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    std::string out = "[item.brick]\nsize = [\"240 mm\", \"115 mm\", \"71 mm\"]\n";
    const char* mounted[] = {"photoeye", "stopper", "pusher", "infeed", "colour_reader", "distance_sensor"};
    for (int b = 0; b < 8; ++b) {
        out += fmt::format("[belt.conveyor_{}]\nat = [\"{} m\", \"{} m\"]\nlength = \"2 m\"\nspeed = \"0.3 m/s\"\n", b,
                           below(8), below(6));
        for (int m = 0; m < 4; ++m) {
            const std::string kind = mounted[below(6)];
            out += fmt::format("[{}.station_{}_{}]\non = \"conveyor_{}\"\nat = \"{} mm\"\n{}", kind, b, m, b,
                               below(2000), kind == "infeed" ? "item = \"brick\"\n" : "");
        }
    }
    return out;
}

bool overlap(const figures::Box& a, const figures::Box& b) {
    return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
}

}  // namespace

TEST_CASE("no text of a plan lies on another, at 40 devices and on the examples") {
    const auto check = [](const figures::Canvas& canvas) {
        const auto& texts = canvas.written();
        for (std::size_t a = 0; a < texts.size(); ++a) {
            for (std::size_t b = a + 1; b < texts.size(); ++b) {
                CAPTURE(texts[a].text);
                CAPTURE(texts[b].text);
                CHECK_FALSE(overlap(texts[a].box, texts[b].box));
            }
        }
        return texts.size();
    };
    for (std::uint32_t seed = 1; seed <= 10; ++seed) {
        CAPTURE(seed);
        base::Diagnostics diagnostics;
        const auto source = base::make_source("plant.toml", crowded_plant(seed));
        session::Definition definition;
        definition.name = "Crowded";
        definition.plant = files::read_plant(source, diagnostics);
        const std::string problems = diagnostics.render();
        REQUIRE_MESSAGE(!diagnostics.has_errors(), problems);
        session::Session s(session::build_or_die(definition));
        for (int i = 0; i < 400; ++i) s.step();
        CHECK(check(*figures::draw_plan(s)) >= 30);
    }
    for (const char* name :
         {"glaze-line", "seed-bags", "tile-stack", "dye-bath", "canal-lock", "herbarium", "book-press", "first-yard"}) {
        CAPTURE(name);
        base::Diagnostics diagnostics;
        const files::Yard yard = files::load_yard(std::string(VYARD_SOURCE "/examples/") + name, diagnostics);
        REQUIRE(yard.model != nullptr);
        session::Session s(yard.model);
        for (int i = 0; i < 1000; ++i) s.step();
        check(*figures::draw_plan(s));
    }
}

TEST_CASE("a plan shows that something moved") {
    Folder f;
    write_small_yard(f);
    base::Diagnostics diagnostics;
    const files::Yard yard = files::load_yard(f.path().string(), diagnostics);
    REQUIRE(yard.model != nullptr);
    session::Session s(yard.model);
    s.place_item(0, yard.model->plant->find_device("a"), 0.5, std::nullopt);
    const std::string before = figures::draw_plan(s)->render("x.svg");
    for (int i = 0; i < 10; ++i) s.step();
    CHECK(figures::draw_plan(s)->render("x.svg") != before);  // the time in the title
    s.set_point_fault(yard.model->plant->find_point("see.signal"), plant::Defect::Stuck, 1);
    CHECK(figures::draw_plan(s)->render("x.svg").size() >
          before.size());  // the fault is written at its device and below
}
