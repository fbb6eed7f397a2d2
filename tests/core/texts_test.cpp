// Texts between plant and logic: wires of text, readers of labels, and the axis that is told by lines of text.
#include "core/support.hpp"

using namespace vyard;
using doctest::Approx;
using test::Bench;
using test::PlantText;

namespace {

PlantText slide(const PlantText::Keys& more = {}) {
    PlantText::Keys keys = {{"travel", "1 m"}, {"speed", "0.5 m/s"}, {"acceleration", "2 m/s2"}, {"initial", "0.1 m"}};
    keys.insert(keys.end(), more.begin(), more.end());
    return PlantText().add("text_axis.slide", keys);
}

std::string text_of(const Bench& b, const std::string& point) {
    const auto reading = plant::find_reading(*b.model, point);
    REQUIRE(reading.has_value());
    return std::string(plant::read_text(*b.model, b.state, *reading));
}

void say(Bench& b, const std::string& line) {
    const int point = b.model->find_point("slide.command");
    b.state.put_text(point, base::at(b.model->points, point).text, line);
}

/// What the axis answers at once, and when it has done.
std::string ask(Bench& b, const std::string& line, double seconds = 0.1) {
    say(b, line);
    b.run(seconds);
    return text_of(b, "slide.answer");
}

}  // namespace

TEST_CASE("an axis by lines of text: each order, and what it answers") {
    Bench b(slide());
    CHECK(ask(b, "") == "");
    struct Row {
        const char* order;
        double seconds;
        const char* answer;
    };
    const Row rows[] = {
        {"1 GO 100 mm", 0.1, "1 ERROR 2 NOT ENABLED"},
        {"2 ENABLE", 0.1, "2 DONE 0.0 mm"},
        {"3 GO 100 mm", 0.1, "3 ERROR 3 NOT HOMED"},
        {"4 HOME", 0.1, "4 TAKEN"},
        {"4 HOME", 3.0, "4 DONE 0.0 mm"},
        {"5 go 400 mm", 0.1, "5 TAKEN"},
        {"5 go 400 mm", 3.0, "5 DONE 400.0 mm"},
        {"6 GO BY -150.5 mm", 3.0, "6 DONE 249.5 mm"},
        {"7 GO 1200 mm", 0.1, "7 ERROR 4 OUT OF TRAVEL"},
        {"8 SPEED 900 mm/s", 0.1, "8 ERROR 5 TOO FAST"},
        {"9 SPEED 100 mm/s", 0.1, "9 DONE 249.5 mm"},
        {"10 RUN 50 mm/s", 1.0, "10 TAKEN"},
        {"11 WHERE", 0.1, "11 DONE"},
        {"12 STOP", 0.5, "12 DONE"},
        {"13 RUN 100 mm/s", 9.0, "13 DONE 1000.0 mm"},
        {"14 JUMP", 0.1, "14 ERROR 1 NOT UNDERSTOOD"},
        {"15 GO 10", 0.1, "15 ERROR 1 NOT UNDERSTOOD"},
        {"16 GO ten mm", 0.1, "16 ERROR 1 NOT UNDERSTOOD"},
        {"17 GO 10 m", 0.1, "17 ERROR 1 NOT UNDERSTOOD"},
        {"GO 10 mm", 0.1, "0 ERROR 1 NOT UNDERSTOOD"},
        {"18 DISABLE", 0.1, "18 DONE 1000.0 mm"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.order);
        CHECK(ask(b, row.order, row.seconds).substr(0, std::string(row.answer).size()) == row.answer);
    }
}

TEST_CASE("the same line is one order; another number makes it a new one") {
    Bench b(slide());
    ask(b, "1 ENABLE");
    ask(b, "2 HOME", 3.0);
    CHECK(ask(b, "3 GO BY 100 mm", 3.0) == "3 DONE 100.0 mm");
    CHECK(ask(b, "3 GO BY 100 mm", 3.0) == "3 DONE 100.0 mm");
    CHECK(ask(b, "4 GO BY 100 mm", 3.0) == "4 DONE 200.0 mm");
}

TEST_CASE("a move by text takes the time of its trapezoid, and the answer its own time") {
    Bench b(slide({{"time_constant", "0 s"}, {"answer_time", "40 ms"}}));
    ask(b, "1 ENABLE");
    ask(b, "2 HOME", 4.0);
    say(b, "3 GO 500 mm");
    double at = -1, taken = -1;
    for (int i = 1; i < 1000 && at < 0; ++i) {
        b.step();
        if (taken < 0 && text_of(b, "slide.answer") == "3 TAKEN") taken = i * 0.005;
        if (text_of(b, "slide.answer") == "3 DONE 500.0 mm") at = i * 0.005;
    }
    CHECK(taken == Approx(0.04).epsilon(0.13));
    CHECK(at == Approx(0.5 / 0.5 + 0.5 / 2.0).epsilon(0.02));  // way / v + v / a
}

TEST_CASE("a text axis that jams, loses its count or says nothing") {
    Bench b(slide());
    ask(b, "1 ENABLE");
    ask(b, "2 HOME", 3.0);
    say(b, "3 GO 800 mm");
    b.run(0.3);
    b.fault("slide", "jammed");
    b.run(0.5);
    CHECK(text_of(b, "slide.answer") == "3 ERROR 6 DRIVE FAULT");
    CHECK(ask(b, "4 GO 100 mm") == "4 ERROR 6 DRIVE FAULT");
    b.fault("slide", "jammed", 0);
    CHECK(ask(b, "5 RESET").starts_with("5 DONE"));
    CHECK(ask(b, "6 GO 100 mm", 3.0) == "6 DONE 100.0 mm");
    b.fault("slide", "unhomed");
    CHECK(ask(b, "7 GO 200 mm") == "7 ERROR 3 NOT HOMED");
    b.fault("slide", "silent");
    CHECK(ask(b, "8 WHERE") == "7 ERROR 3 NOT HOMED");
}

TEST_CASE("a reader that rides on an axis reads the label of what stands before it") {
    PlantText p = slide();
    p.add("item.fern", {{"size", "[100 mm, 100 mm, 40 mm]"}, {"label", "fern"}, {"code", "#3"}})
        .add("item.moss", {{"size", "[100 mm, 100 mm, 40 mm]"}, {"label", "moss"}})
        .add("shelf.board", {{"at", "[0 m, 0 m]"},
                             {"length", "1 m"},
                             {"items", "[fern, moss]"},
                             {"first", "0.2 m"},
                             {"pitch", "0.4 m"}})
        .add("code_reader.reader", {{"on", "board"}, {"at", "0.1 m"}, {"rides", "slide"}, {"gives", "both"}});
    Bench b(p);
    b.step();
    CHECK(b.read("board.items") == 2);
    const auto look = [&] {
        b.drive("reader.trigger", 0);
        b.step();
        b.drive("reader.trigger", 1);
        b.step();
        return text_of(b, "reader.text");
    };
    CHECK(look() == "fern");  // it starts at 0.1 m + 0.1 m
    CHECK(b.read("reader.code") == 3);
    ask(b, "1 ENABLE");
    ask(b, "2 HOME", 3.0);
    CHECK(look() == "");
    CHECK(b.read("reader.good") == 0);
    ask(b, "3 GO 500 mm", 4.0);
    CHECK(look() == "moss");
    CHECK(b.read("reader.good") == 1);
    CHECK(b.read("reader.along") == Approx(0.5));
}

TEST_CASE("texts go between tags and points, both ways, and conditions compare them") {
    PlantText p = slide();
    p.add("text_display.line", {});
    const auto model = test::make_model(
        "VAR_GLOBAL order : STRING; answer : STRING[20]; shown : WSTRING; END_VAR\n"
        "PROGRAM main order := '1 ENABLE'; IF answer = '1 DONE 0.0 mm' THEN shown := \"r\xC3\xA9"
        "ady\"; END_IF; END_PROGRAM",
        p, {{"order", "slide.command", ""}, {"answer", "slide.answer", ""}, {"shown", "line.text", ""}});
    session::Session s(model);
    for (int i = 0; i < 30; ++i) s.step();
    const auto value = [&](const char* name) { return session::value_text(s, *session::find_signal(*model, name)); };
    CHECK(value("slide.command") == "'1 ENABLE'");
    CHECK(value("answer") == "'1 DONE 0.0 mm'");
    CHECK(value("line.text") ==
          "'r\xC3\xA9"
          "ady'");
    s.stop(0);
    for (int i = 0; i < 4; ++i) s.step();
    CHECK(value("line.text") == "''");  // who is stopped says nothing

    base::Diagnostics diagnostics;
    const auto source =
        base::make_source("t.proc",
                          "procedure \"Texts\"\nstep \"It answers\"\n  wait until slide.answer = '1 DONE "
                          "0.0 mm' within 1 s\n  expect answer <> '' and LEN(order) = 8\n  expect "
                          "line.text = 'no'\n");
    const auto book = procedure::read_book(*model, {source}, diagnostics);
    const std::string problems = diagnostics.render();
    REQUIRE_MESSAGE(book != nullptr, problems);
    session::Session fresh(model);
    const auto verdict = procedure::run_procedure(book, 0, fresh, {});
    REQUIRE(verdict.steps[0].failure.has_value());
    CHECK(verdict.steps[0].failure->expected.find("line.text = 'no'") != std::string::npos);
    REQUIRE(verdict.steps[0].failure->values.size() == 1);
    CHECK(verdict.steps[0].failure->values[0].second ==
          "'r\xC3\xA9"
          "ady'");
}

TEST_CASE("a text meets no number, takes no scaling and no force") {
    PlantText p = slide();
    p.add("lamp.l", {});
    const auto mistakes = [&](const char* tag, const char* point, const char* scaling) {
        base::Diagnostics diagnostics;
        const auto plant = plant::build_plant(p.definition, diagnostics);
        controller::ControllerModel c;
        c.program =
            logic::compile({base::make_source("t.st",
                                              "VAR_GLOBAL t : STRING; n : INT; on : BOOL; END_VAR PROGRAM main n "
                                              ":= LEN(t); on := n > 1; END_PROGRAM")},
                           diagnostics);
        wiring::build_wiring({{tag, {}, point, {}, scaling, {}, ""}}, {c}, *plant, {}, diagnostics);
        return test::joined(test::lines_of(diagnostics));
    };
    CHECK(mistakes("n", "slide.answer", "") == "0:0 tag 'n' is INT, point 'slide.answer' is a string\n");
    CHECK(mistakes("t", "l.on", "") == "0:0 tag 't' is STRING, point 'l.on' is BOOL\n");
    CHECK(mistakes("t", "slide.answer", "invert") ==
          "0:0 a scaling 'invert' does not suit point 'slide.answer', which is a string [strings go as they are]\n");
}

TEST_CASE("the wire of a text can be stuck, open, late or disturbed") {
    Bench b(slide(), 0.01);
    const int answer = b.model->find_point("slide.answer");
    const auto shows = [&] { return text_of(b, "slide.answer"); };
    const auto fault = [&](plant::Defect defect, double amount, const plant::FaultTiming& timing = {}) {
        plant::set_point_fault(*b.model, b.state, answer, defect, amount, timing);
    };
    REQUIRE(ask(b, "1 GO 100 mm") == "1 ERROR 2 NOT ENABLED");

    fault(plant::Defect::Stuck, 0.0);
    CHECK(ask(b, "2 GO 100 mm") == "1 ERROR 2 NOT ENABLED");
    CHECK(plant::active_faults(*b.model, b.state)[0] == "slide.answer stuck, shows '1 ERROR 2 NOT ENABLED'");
    plant::heal_point(*b.model, b.state, answer);
    CHECK(shows() == "2 ERROR 2 NOT ENABLED");  // what it has said meanwhile

    const double changes = b.read("slide.answer");
    fault(plant::Defect::OpenWire, 0.0);
    b.step(5);
    CHECK(shows().empty());
    CHECK(b.read("slide.answer") == changes + 1);
    plant::heal_point(*b.model, b.state, answer);
    CHECK(shows() == "2 ERROR 2 NOT ENABLED");

    fault(plant::Defect::Delay, 0.1);
    say(b, "3 GO 100 mm");
    b.step(10);
    CHECK(shows() == "2 ERROR 2 NOT ENABLED");
    b.step(2);
    CHECK(shows() == "3 ERROR 2 NOT ENABLED");
    plant::heal_point(*b.model, b.state, answer);

    fault(plant::Defect::Noise, 0.0);
    const std::string wrong = ask(b, "4 GO 100 mm"), meant = "4 ERROR 2 NOT ENABLED";
    REQUIRE(wrong.size() == meant.size());
    int different = 0;
    for (std::size_t i = 0; i < wrong.size(); ++i) different += wrong[i] != meant[i] ? 1 : 0;
    CHECK(different == 1);
    b.step(20);
    CHECK(shows() == wrong);  // the same text stays as it came
    plant::heal_point(*b.model, b.state, answer);

    fault(plant::Defect::OpenWire, 0.0, {.every = 2});
    std::string seen;
    for (int n = 5; n < 11; ++n) seen += ask(b, fmt::format("{} GO 100 mm", n)).empty() ? '-' : 'x';
    CHECK(seen == "x-x-x-");
}

TEST_CASE("an order on an open wire does not reach the axis") {
    Bench b(slide(), 0.01);
    const int order = b.model->find_point("slide.command");
    plant::set_point_fault(*b.model, b.state, order, plant::Defect::OpenWire, 0.0);
    say(b, "1 ENABLE");
    plant::fault_outputs(*b.model, b.state);  // as after a scan
    b.run(0.1);
    CHECK(text_of(b, "slide.answer").empty());
    plant::heal_point(*b.model, b.state, order);
    b.run(0.1);
    CHECK(text_of(b, "slide.answer") == "1 DONE 0.0 mm");
}
