// The checkout has to be able to fail: what people state of a wire against the device, the map and what moves.
#include "core/procedure/checkout.hpp"
#include "core/support.hpp"

using namespace vyard;
using plant::Contact;
using procedure::CheckoutVerdict;
using test::PlantText;

namespace {

struct Row {
    std::string tag, point, scaling, note;
};

std::vector<procedure::CheckoutLine> lines_of(const std::string& logic, const PlantText& plant,
                                              const std::vector<Row>& rows) {
    session::Definition definition = test::make_definition(logic, plant, {});
    definition.map.emplace();
    for (const Row& r : rows)
        definition.map->push_back({r.tag, {}, r.point, {}, r.scaling, {}, r.note, {}, {}, {}, {}});
    base::Diagnostics diagnostics;
    const session::Built built = session::build(definition, diagnostics);
    REQUIRE_MESSAGE(built.model != nullptr, diagnostics.render());
    return procedure::check_out(built.model);
}

std::string failed(const std::vector<procedure::CheckoutLine>& lines) {
    std::string out;
    for (const procedure::CheckoutLine& l : lines) {
        if (l.verdict == CheckoutVerdict::Failed) out += (out.empty() ? "" : " ") + l.tag;
    }
    return out;
}

}  // namespace

TEST_CASE("what people state of a contact, a range, and an inversion") {
    const auto contact = [](const char* name, const char* description, const char* note, bool guards = false) {
        return wiring::stated_contact({name, description, note}, guards);
    };
    CHECK(contact("stop_pb", "stop, normally closed", "") == Contact::NormallyClosed);
    CHECK(contact("stop_pb", "stop (NC)", "") == Contact::NormallyClosed);
    CHECK(contact("stop_pb", "", "n.c.: TRUE at rest") == Contact::NormallyClosed);
    CHECK(contact("start_pb", "start, NO contact", "") == Contact::NormallyOpen);
    CHECK(contact("start_pb", "no brick before it", "") == std::nullopt);
    CHECK(contact("stop_nc", "", "") == Contact::NormallyClosed);
    CHECK(contact("stop_pb", "normally open", "normally closed since spring") == Contact::NormallyClosed);
    CHECK(contact("stop_pb", "normally open or normally closed", "") == std::nullopt);
    CHECK(contact("estop_ok", "", "", true) == Contact::NormallyClosed);
    CHECK(contact("level_ok", "", "", false) == std::nullopt);

    const auto range = [](const char* text, base::Dimension d) { return wiring::stated_range({"", text, ""}, d); };
    using Pair = std::pair<double, double>;
    CHECK(range("4000 to 20000 is 0 to 0.6 m", base::Dimension::Length) == Pair(0.0, 0.6));
    CHECK(range("0 mm..600 mm (4..20 mA)", base::Dimension::Length) == Pair(0.0, 600 * 1e-3));
    CHECK(range("-1..10 bar.", base::Dimension::Pressure) == Pair(-1e5, 1e6));
    CHECK(range("0..5 l/s, high resolution", base::Dimension::Flow)->second == doctest::Approx(5e-3));
    CHECK(range("0 to 5 minutes", base::Dimension::Length) == std::nullopt);
    CHECK(range("4000..20000", base::Dimension::Length) == std::nullopt);
    CHECK(range("0..1 m, later 0..2 m", base::Dimension::Length) == std::nullopt);

    CHECK(wiring::opposite_words("lift_down", "lift.retract_up").has_value());
    CHECK_FALSE(wiring::opposite_words("lift_down", "lift.extend").has_value());
    CHECK_FALSE(wiring::opposite_words("up_down", "lift.down").has_value());
    CHECK(wiring::opposite_words("gate_opn", "gate.close").has_value());
}

// The contact of the device x the inversion of the map x what is stated, against the sentence: the wire is TRUE at rest
// when the contact is closed and not inverted, or open and inverted; what is stated has to be so, and an inversion that
// nothing is stated of has to be meant.
TEST_CASE("checkout: contacts x inversions x what is stated") {
    for (const char* wired : {"normally open", "normally closed"}) {
        for (const bool inverted : {false, true}) {
            for (const char* note : {"", "normally open", "normally closed", "inverted on purpose"}) {
                PlantText p;
                p.add("button.b", {{"contact", wired}});
                const auto lines = lines_of(
                    "VAR_GLOBAL b_pb : BOOL; lamp : BOOL; END_VAR PROGRAM main lamp := b_pb; "
                    "END_PROGRAM",
                    p, {{"b_pb", "b.contact", inverted ? "invert" : "", note}});
                const bool at_rest = (std::string(wired) == "normally closed") != inverted;
                const std::string said = note;
                const bool right = said.starts_with("normally") ? at_rest == (said == "normally closed")
                                                                : !inverted || said.starts_with("inverted");
                CAPTURE(wired);
                CAPTURE(inverted);
                CAPTURE(said);
                CHECK((failed(lines).empty()) == right);
                CHECK(lines[0].moved == (at_rest ? "press: FALSE" : "press: TRUE"));
            }
        }
    }
}

// The range of the device x that of the map x the stated one: right only when all three are one.
TEST_CASE("checkout: ranges of device, map and description") {
    for (const char* device : {"0.5 m", "2 m"}) {
        for (const char* map : {"0.5 m", "2 m"}) {
            for (const char* stated : {"", "0 to 0.5 m", "0..2 m", "4..20 mA"}) {
                PlantText p;
                p.add("tank.t", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}})
                    .add("level_transmitter.lt", {{"tank", "t"}, {"range", device}});
                const auto lines =
                    lines_of("VAR_GLOBAL raw : INT; lamp : BOOL; END_VAR PROGRAM main lamp := raw > 3; END_PROGRAM", p,
                             {{"raw", "lt.level", "0 m.." + std::string(map) + " -> 4000..20000", stated}});
                const bool says = std::string(stated).ends_with(" m");
                const bool right =
                    std::string(device) == map && (!says || std::string(stated).find(device) != std::string::npos);
                CAPTURE(device);
                CAPTURE(map);
                CAPTURE(stated);
                CHECK((failed(lines).empty()) == right);
            }
        }
    }
}

TEST_CASE("checkout: motors whose contactors or feedbacks are crossed, a reversed one, cut off set values, bytes") {
    PlantText p;
    p.add("motor.m1", {}).add("motor.m2", {}).add("motor.turner", {{"starter", "reversing"}});
    p.add("belt.b", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"speed", "0.5 m/s"}, {"control", "setpoint"}});
    const std::string logic =
        "VAR_GLOBAL m1_run, m2_run : BOOL; m1_fbk, m2_fbk : BOOL; turn_fwd, turn_rev : BOOL; speed : INT; seen : BOOL; "
        "END_VAR PROGRAM main seen := m1_fbk OR m2_fbk; m1_run := FALSE; m2_run := FALSE; turn_fwd := FALSE; "
        "turn_rev := FALSE; speed := 0; END_PROGRAM";
    const std::vector<Row> right = {{"m1_fbk", "m1.running", "", ""},
                                    {"m2_fbk", "m2.running", "", ""},
                                    {"m1_run", "m1.run", "", ""},
                                    {"m2_run", "m2.run", "", ""},
                                    {"turn_fwd", "turner.forward", "", ""},
                                    {"turn_rev", "turner.reverse", "", ""},
                                    {"speed", "b.setpoint", "0 m/s..0.5 m/s -> 0..500", ""}};
    const auto points = lines_of(logic, p, right);
    CHECK(failed(points) == "");
    const auto with = [&](std::size_t row, const Row& other) {
        std::vector<Row> rows = right;
        rows[row] = other;
        return rows;
    };
    const auto crossed = [&](std::size_t a, std::size_t b) {
        std::vector<Row> rows = right;
        std::swap(rows[a].point, rows[b].point);
        return failed(lines_of(logic, p, rows));
    };
    CHECK(crossed(2, 3) == "m1_run m2_run");
    CHECK(crossed(0, 1).find("m1_run m2_run") != std::string::npos);  // the output shows it, whichever is wrong
    const auto cut = lines_of(logic, p, with(6, {"speed", "b.setpoint", "0 m/s..1 m/s -> 0..1000", ""}));
    CHECK(failed(cut) == "speed");
    CHECK(cut.back().remark.find("the tag reaches 0 m/s..1 m/s, the device takes -0.5 m/s..0.5 m/s and cuts off") == 0);
    const Row swapped{"speed", "b.setpoint", "0 m/s..0.5 m/s -> 0..500 swap bytes", ""};
    CHECK(failed(lines_of(logic, p, with(6, swapped))) == "speed");
    CHECK(failed(lines_of(logic, p, with(6, {swapped.tag, swapped.point, swapped.scaling, "comes swapped"}))) == "");
}

// Bytes in the map x statement x a module with a coarse converter: swapped bytes pass only where they are stated, and
// the converter's steps never fail a line.
TEST_CASE("checkout: swapped bytes through a converter") {
    for (const bool swaps : {false, true}) {
        for (const char* note : {"", "swapped in the transmitter"}) {
            for (const int bits : {8, 16}) {
                PlantText p;
                p.add("tank.t", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}})
                    .add("level_transmitter.lt", {{"tank", "t"}});
                session::Definition definition = test::make_definition(
                    "VAR_GLOBAL raw AT %IW4 : INT; high : BOOL; END_VAR PROGRAM main high := raw > 3; END_PROGRAM", p,
                    {});
                definition.map.emplace();
                definition.map->push_back({"raw",
                                           {},
                                           "lt.level",
                                           {},
                                           swaps ? "0 m..1 m -> 0..20000 swap bytes" : "0 m..1 m -> 0..20000",
                                           {},
                                           note,
                                           {},
                                           {},
                                           {},
                                           {}});
                wiring::Module card;
                card.name = "AI";
                card.kind = wiring::ModuleKind::AnalogInput;
                card.channels = 2;
                card.first_byte = 4;
                card.range.bits = bits;
                definition.controllers[0].rack = {card};
                base::Diagnostics diagnostics;
                const session::Built built = session::build(definition, diagnostics);
                const std::string problems = diagnostics.render();
                REQUIRE_MESSAGE(built.model != nullptr, problems);
                CAPTURE(swaps);
                CAPTURE(note);
                CAPTURE(bits);
                CHECK(failed(procedure::check_out(built.model)).empty() == (!swaps || *note != '\0'));
            }
        }
    }
}
