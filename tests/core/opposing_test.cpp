// Orders that exclude one another: what is said of the logic that gives them, against the plant that gets them.
#include <doctest/doctest.h>

#include <random>

#include "core/support.hpp"

using namespace vyard;
using test::PlantText;

namespace {

/// A motor with both ways, two buttons, a selector with two contacts and an e-stop.
session::SessionModelPtr yard(const std::string& body, const std::string& inverted = "") {
    PlantText p;
    p.add("motor.hoist", {{"starter", "reversing"}})
        .add("button.up_pb", {})
        .add("button.down_pb", {})
        .add("selector.mode", {{"positions", "[off, down, up]"}})
        .add("estop.e", {});
    return test::build(test::make_definition(
        "VAR_GLOBAL a AT %IX0.0 : BOOL; b AT %IX0.1 : BOOL; left AT %IX0.2 : BOOL; right AT %IX0.3 : BOOL; ok AT "
        "%IX0.4 : BOOL; up AT %QX0.0 : BOOL; down AT %QX0.1 : BOOL; END_VAR\nPROGRAM p VAR x, y : BOOL; r : R_TRIG; t "
        ": "
        "TON; s : SR; n : INT; END_VAR\n" +
            body + "\nEND_PROGRAM\n",
        p,
        {{"a", "up_pb", inverted},
         {"b", "down_pb", ""},
         {"left", "mode.contact_1", ""},
         {"right", "mode.contact_2", ""},
         {"ok", "e", ""},
         {"up", "hoist.forward", ""},
         {"down", "hoist.reverse", ""}}));
}

std::string said(const session::SessionModelPtr& model) {
    base::Diagnostics diagnostics;
    session::warn_not_interlocked(model, diagnostics);
    std::string out;
    for (const base::Diagnostic& d : diagnostics.list()) out += d.message + "\n";
    return out;
}

const char* const kBoth = "'up' and 'down' of 'hoist' both come on";

}  // namespace

TEST_CASE("not-interlocked: both ways of a motor, with the contacts that bring them") {
    const std::string found = said(yard("up := a AND ok; down := b AND ok;"));
    CHECK(found == fmt::format("{} with 'a' TRUE, 'b' TRUE: nothing interlocks them\n", kBoth));
    CHECK(said(yard("up := a AND NOT down; down := b AND NOT up;")) == "");
    // Only one of them waits for the other: both come in the scan in which both are pressed.
    CHECK(said(yard("up := a AND NOT down; down := b;")) != "");
    CHECK(said(yard("down := b; up := a AND NOT down;")) == "");
    // One place of a selector excludes the other.
    CHECK(said(yard("up := right; down := left;")) == "");
    CHECK(said(yard("up := right; down := b AND NOT left;")) ==
          fmt::format("{} with 'b' TRUE, 'right' TRUE: nothing interlocks them\n", kBoth));
    // What is held, counted in steps, edges, blocks.
    CHECK(said(yard("x := (a OR x) AND NOT b AND ok; y := (b OR y) AND NOT a AND ok; up := x; down := y;")) == "");
    CHECK(said(yard("x := (a OR x) AND ok; y := (b OR y) AND ok; up := x; down := y;")) != "");
    CHECK(said(yard("IF a THEN n := 1; ELSIF b THEN n := 2; ELSE n := 0; END_IF; up := n = 1; down := n = 2;")) == "");
    CHECK(said(yard("r(CLK := a); s(S1 := r.Q, R := NOT ok); up := s.Q1; down := b;")) != "");
    // Inverted on the way in; at rest.
    CHECK(said(yard("up := NOT a; down := b;", "invert")) != "");
    CHECK(said(yard("up := ok; down := ok;")) == fmt::format("{}: nothing interlocks them\n", kBoth));
    // What takes longer than it looks it says nothing of.
    CHECK(said(yard("t(IN := a, PT := T#1s); up := t.Q; down := b;")) == "");
}

TEST_CASE("not-interlocked: random logic, against a plant in which everything is pressed") {
    std::mt19937 random(7);
    const auto pick = [&](std::initializer_list<const char*> of) {
        return std::string(*(of.begin() + random() % of.size()));
    };
    int with = 0, without = 0;
    for (int round = 0; round < 150; ++round) {
        std::string body;
        const auto atom = [&] {
            return (random() % 3 == 0 ? "NOT " : "") + pick({"a", "b", "left", "right", "x", "y", "up", "down"});
        };
        for (const char* target : {"x", "up", "y", "down"}) {
            body += fmt::format("{} := {} {} {} {} {}; ", target, atom(), pick({"AND", "OR", "AND NOT"}), atom(),
                                pick({"AND", "AND NOT"}), atom());
        }
        const auto model = yard(body);
        // Everything that a person can hold at once, one after the other, each in a run of its own.
        bool both = false;
        for (int way = 0; way < 12 && !both; ++way) {
            session::Session now(model);
            const auto use = [&](const char* device, const char* verb) {
                const int d = model->plant->find_device(device);
                REQUIRE(d >= 0);
                const plant::ControlSpec* control = model->plant->device(d).kind->find_control(verb);
                REQUIRE(control != nullptr);
                now.use_control(d, *control, way / 4);
            };
            if ((way & 1) != 0) use("up_pb", "press");
            if ((way & 2) != 0) use("down_pb", "press");
            if (way / 4 != 0) use("mode", "turn");
            const auto motor = static_cast<int>(model->plant->find_device("hoist"));
            for (int step = 0; step < 8 && !both; ++step) {
                now.step();
                for (const plant::Mishap& m : now.plant().mishaps) {
                    both = both ||
                           (m.device == motor &&
                            base::at(model->plant->device(motor).kind->mishaps, m.number).name == "both_directions");
                }
            }
        }
        CHECK_MESSAGE((said(model) != "") == both, body);
        ++(both ? with : without);
    }
    CHECK(with > 20);
    CHECK(without > 20);
}
