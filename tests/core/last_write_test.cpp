// Which statement gave a variable its value, against a plain oracle: every assignment of a random program sets a number
// of its own, so that the value says which one it was.
#include "core/support.hpp"

using namespace vyard;

namespace {

/// A session of one controller without a plant to speak of.
session::SessionModelPtr model_of(const std::string& text) {
    test::PlantText p;
    p.add("lamp.l", {});
    return test::make_model(text, p, {});
}

}  // namespace

TEST_CASE("last_write: random programs with branches, loops, blocks and functions; the value says which line it was") {
    std::uint64_t state = 2463534242ULL;
    const auto next = [&](std::uint64_t below) {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        return state % below;
    };
    int compared = 0, exact = 0;
    for (int round = 0; round < 60; ++round) {
        std::string text =
            "VAR_GLOBAL x : INT; scan : INT; b : BOOL; END_VAR\n"
            "FUNCTION put : BOOL VAR_IN_OUT y : INT; END_VAR VAR_INPUT v : INT; END_VAR y := v; END_FUNCTION\n"
            "FUNCTION_BLOCK setter VAR_EXTERNAL x : INT; END_VAR VAR_INPUT v, least : INT; END_VAR\n"
            "IF v > least THEN x := v; END_IF; END_FUNCTION_BLOCK\n"
            "PROGRAM p VAR s : setter; i : INT; END_VAR\n"
            "scan := scan + 1;\n";
        // A line each: number n is set in line n, from 7 on; or in line 4 or 2 for what calls what sets it.
        const int kFirst = 7, lines = 4 + static_cast<int>(next(8));
        std::vector<int> expected(static_cast<std::size_t>(kFirst + lines));
        for (int n = kFirst; n < kFirst + lines; ++n) {
            const std::string when = fmt::format("scan MOD {} = {}", 1 + next(4), next(3));
            int& place = expected[static_cast<std::size_t>(n)];
            place = n;
            switch (next(6)) {
                case 0: text += fmt::format("x := {};\n", n); break;
                case 1: text += fmt::format("IF {} THEN x := {}; END_IF;\n", when, n); break;
                case 2:
                    text += fmt::format("FOR i := 0 TO 3 DO IF {} AND i = 2 THEN x := {}; END_IF; END_FOR;\n", when, n);
                    break;
                case 3: text += fmt::format("CASE scan MOD 3 OF 1: x := {}; ELSE b := NOT b; END_CASE;\n", n); break;
                case 4:
                    text += fmt::format("s(v := {}, least := {});\n", n, next(2) == 0 ? 0 : 100);
                    place = 4;
                    break;
                default: text += fmt::format("IF {} THEN b := put(y := x, v := {}); END_IF;\n", when, n); place = 2;
            }
        }
        text += "END_PROGRAM\n";
        session::Session s(model_of(text));
        const auto x = session::find_signal(s.model(), "x");
        REQUIRE(x.has_value());
        for (int step = 0; step < 24; ++step) {
            const session::Session before = s;
            s.step();
            const auto now = session::bits(s, *x), then = session::bits(before, *x);
            const auto place = procedure::last_write(before, *x);
            CAPTURE(text);
            CAPTURE(now);
            if (now == then) {
                CHECK_FALSE(place.has_value());
                continue;
            }
            REQUIRE(place.has_value());
            // Of a body that the scan executes several times it may be the call.
            const int called = static_cast<int>(now);
            CHECK((place->line == expected[static_cast<std::size_t>(now)] || place->line == called));
            exact += place->line == expected[static_cast<std::size_t>(now)] ? 1 : 0;
            ++compared;
        }
    }
    CHECK(compared > 200);
    CHECK(exact * 10 > compared * 9);
}

TEST_CASE("last_write: what the logic did not do has no statement") {
    test::PlantText p;
    p.add("button.a", {});
    session::Session s(test::make_model(
        "VAR_GLOBAL pb AT %IX0.0 : BOOL; n, m : INT; END_VAR\nPROGRAM p\nIF pb THEN n := n + 1; END_IF;\nEND_PROGRAM\n",
        p, {{"pb", "a", ""}}));
    const auto signal = [&](const char* name) { return *session::find_signal(s.model(), name); };
    const plant::DeviceModel& button = s.model().plant->devices[0];
    s.use_control(0, button.kind->controls[0], 1.0);
    std::optional<base::Place> of_input, of_count;
    for (int step = 0; step < 4; ++step) {
        const session::Session before = s;
        s.step();
        if (const auto place = procedure::last_write(before, signal("pb"))) of_input = place;
        if (const auto place = procedure::last_write(before, signal("n")); place && !of_count) of_count = place;
    }
    CHECK(session::bits(s, signal("pb")) == 1);
    CHECK_FALSE(of_input.has_value());
    REQUIRE(of_count.has_value());
    CHECK(of_count->line == 3);
    test::force(s, "m", "5");
    const session::Session before = s;
    for (int step = 0; step < 3; ++step) s.step();
    CHECK_FALSE(procedure::last_write(before, signal("m")).has_value());
}
