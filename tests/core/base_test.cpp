#include "core/support.hpp"

using namespace vyard;
using base::Dimension;

TEST_CASE("quantities become SI once, at reading") {
    struct Row {
        const char* text;
        Dimension dimension;
        double si;
    };
    const Row rows[] = {
        {"250 mm/s", Dimension::Speed, 0.25},
        {"18 m/min", Dimension::Speed, 0.3},
        {"1.5 s", Dimension::Time, 1.5},
        {"250ms", Dimension::Time, 0.25},
        {"2 min", Dimension::Time, 120.0},
        {"-3 mm", Dimension::Length, -0.003},
        {"+4 cm", Dimension::Length, 0.04},
        {"30 l/min", Dimension::Flow, 0.0005},
        {"3.6 m3/h", Dimension::Flow, 0.001},
        {"12 l", Dimension::Volume, 0.012},
        {"500 g", Dimension::Mass, 0.5},
        {"40 %", Dimension::Percent, 40.0},
        {"180 deg", Dimension::Angle, 3.141592653589793},
        {"7", Dimension::Plain, 7.0},
        {"1e-3 m", Dimension::Length, 0.001},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        const auto reading = base::read_quantity(row.text, row.dimension);
        CHECK(reading.fault == base::QuantityFault::None);
        CHECK(reading.si_value == doctest::Approx(row.si).epsilon(1e-12));
    }
}

TEST_CASE("a faulty quantity says what is wrong and what is accepted") {
    struct Row {
        const char* text;
        Dimension dimension;
        const char* message;
    };
    const Row rows[] = {
        {"5", Dimension::Length, "a length needs a unit; accepted: mm, cm, m"},
        {"5 bar", Dimension::Length, "'bar' is not a unit of length; accepted: mm, cm, m"},
        {"fast", Dimension::Speed, "'fast' is not a valid speed; expected a number and a unit (mm/s, m/s, m/min)"},
        {"", Dimension::Time, "'' is not a valid time; expected a number and a unit (us, ms, s, min, h)"},
        {"1e999 s", Dimension::Time, "'1e999 s' is not a valid time; expected a number and a unit (us, ms, s, min, h)"},
        {"3 m", Dimension::Plain, "'3 m' is not a plain number"},
        {"nan m", Dimension::Length, "'nan m' is not a valid length; expected a number and a unit (mm, cm, m)"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        const auto reading = base::read_quantity(row.text, row.dimension);
        CHECK(reading.fault != base::QuantityFault::None);
        CHECK(base::quantity_message(row.text, reading, row.dimension) == row.message);
    }
}

TEST_CASE("the nearest name is found, and no far one") {
    const std::vector<std::string> known = {"start_pb", "stop_pb", "infeed_run", "lift_down"};
    CHECK(base::nearest_name("strat_pb", known) == "start_pb");
    CHECK(base::nearest_name("START_PB", known) == "start_pb");
    CHECK(base::nearest_name("infed_run", known) == "infeed_run");
    CHECK(base::nearest_name("wxyz", known) == "");
    CHECK(base::name_hint("lift_dwon", known) == "did you mean 'lift_down'?");
    CHECK(base::name_hint("q", known) == "known: start_pb, stop_pb, infeed_run, lift_down");
    CHECK(base::name_hint("q", {}) == "");
}

TEST_CASE("a diagnostic shows the line and a caret, tabs kept") {
    const auto source = base::make_source("a.st", "first\n\tx := yy;\n");
    base::Diagnostics diagnostics;
    diagnostics.error(base::Code::UnknownName, {source, 2, 7, 2}, "no variable is named 'yy'", "did you mean 'y'?");
    CHECK(diagnostics.render() ==
          "a.st:2:7: error: no variable is named 'yy' [unknown-name]\n"
          "    \tx := yy;\n"
          "    \t     ^~\n"
          "    hint: did you mean 'y'?\n");
}

TEST_CASE("diagnostics of a file are shown in its order, files in order of first mention") {
    const auto a = base::make_source("a", "1\n2\n3"), b = base::make_source("b", "1");
    base::Diagnostics d;
    d.error(base::Code::Syntax, {a, 3, 1, 1}, "third");
    d.error(base::Code::Syntax, {b, 1, 1, 1}, "other");
    d.error(base::Code::Syntax, {a, 1, 1, 1}, "first");
    d.sort();
    CHECK(d.list()[0].message == "first");
    CHECK(d.list()[1].message == "third");
    CHECK(d.list()[2].message == "other");
}

TEST_CASE("errors beyond the limit are counted, not kept") {
    base::Diagnostics d;
    for (int i = 0; i < 500; ++i) d.error(base::Code::Syntax, {}, "x");
    CHECK(d.error_count() == 500);
    CHECK(d.list().size() == 200);
    CHECK(d.render().find("... and 300 more errors") != std::string::npos);
}

TEST_CASE("times read at a glance") {
    using base::Nanoseconds;
    CHECK(base::time_text(Nanoseconds(850'000'000)) == "850 ms");
    CHECK(base::time_text(Nanoseconds(1'250'000'000)) == "1.25 s");
    CHECK(base::time_text(Nanoseconds(0)) == "0 s");
    CHECK(base::time_text(Nanoseconds(15'000)) == "15 us");
    CHECK(base::time_text(Nanoseconds(18'400'000'000)) == "18.4 s");
    CHECK(base::clock_text(Nanoseconds(12'345'000'000)) == "12.345 s");
    CHECK(base::from_seconds(0.1 + 0.2) == Nanoseconds(300'000'000));
}
