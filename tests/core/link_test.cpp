// Controllers behind a line: registers, which tag has which, what a link does while it is whole, late or lost; and that
// one which is executed elsewhere behaves as the same one executed here.
#include <doctest/doctest.h>

#include <random>

#include "core/procedure/procedure.hpp"
#include "core/support.hpp"

using namespace vyard;
using controller::LinkRole;
using controller::RegisterArea;
using controller::RegisterPlace;
using logic::Elementary;
using test::PlantText;

namespace {

/// Bytes of a value, the highest first, as the registers of a plain place carry them.
std::vector<std::uint16_t> plain_words(std::uint64_t bits, int words) {
    std::vector<std::uint16_t> out;
    for (int w = words - 1; w >= 0; --w) out.push_back(static_cast<std::uint16_t>(bits >> (16 * w)));
    return out;
}

}  // namespace

TEST_CASE("registers: every type in every order, there and back, against its bytes") {
    const struct {
        Elementary type;
        std::uint64_t bits;
        int words;
    } kValues[] = {{Elementary::Int, 0xFFFE, 1},
                   {Elementary::Word, 0x1234, 1},
                   {Elementary::Usint, 0x7F, 1},
                   {Elementary::Dint, 0x89ABCDEF, 2},
                   {Elementary::Real, 0x40490FDB, 2},
                   {Elementary::Udint, 0x00000001, 2},
                   {Elementary::Lreal, 0x400921FB54442D18, 4},
                   {Elementary::Lword, 0x0123456789ABCDEF, 4}};
    for (const auto& v : kValues) {
        CHECK(controller::registers_of(v.type, 0) == v.words);
        for (const bool low_first : {false, true}) {
            for (const bool swapped : {false, true}) {
                const RegisterPlace place{RegisterArea::Holding, 3, v.words, -1, low_first, swapped};
                auto expected = plain_words(v.bits, v.words);
                if (low_first) std::reverse(expected.begin(), expected.end());
                for (std::uint16_t& w : expected) {
                    if (swapped) w = static_cast<std::uint16_t>((w << 8) | (w >> 8));
                }
                controller::RegisterImage image;
                image.hold(place);
                image.put(place, {v.type, v.bits, {}});
                const auto& words = image.words(RegisterArea::Holding);
                CHECK(std::vector<std::uint16_t>(words.begin() + 3, words.end()) == expected);
                CHECK(image.get(place, v.type) == logic::Value{v.type, v.bits, {}});
            }
        }
    }
    // A signed byte fills its register with its sign; a time goes in milliseconds.
    std::array<std::uint16_t, 2> out{};
    controller::to_registers({Elementary::Sint, 0xFE, {}}, {}, std::span(out).first(1));
    CHECK(out[0] == 0xFFFE);
    CHECK(controller::from_registers(Elementary::Sint, {}, std::span(out).first(1)).bits == 0xFE);
    controller::to_registers({Elementary::Time, 70'000'000'000, {}}, {}, out);
    CHECK(out == std::array<std::uint16_t, 2>{1, 4464});
    CHECK(controller::from_registers(Elementary::Time, {}, out).bits == 70'000'000'000);
    controller::to_registers({Elementary::Time, static_cast<std::uint64_t>(-2'000'000), {}}, {}, out);
    CHECK(out == std::array<std::uint16_t, 2>{0xFFFF, 0xFFFE});
    CHECK(controller::from_registers(Elementary::Time, {}, out).bits == static_cast<std::uint64_t>(-2'000'000));
    controller::to_registers({Elementary::Time, std::uint64_t{1} << 62, {}}, {}, out);
    CHECK(out == std::array<std::uint16_t, 2>{0x7FFF, 0xFFFF});  // the end of what 32 bits hold
    // Texts.
    std::array<std::uint16_t, 4> text{};
    controller::to_registers({Elementary::String, 0, "AbC"}, {}, text);
    CHECK(text == std::array<std::uint16_t, 4>{0x4162, 0x4300, 0, 0});
    CHECK(controller::from_registers(Elementary::String, {}, text).text == "AbC");
    controller::to_registers({Elementary::Wstring, 0, "xö"}, {}, text);
    CHECK(text == std::array<std::uint16_t, 4>{'x', 0xF6, 0, 0});
    CHECK(controller::from_registers(Elementary::Wstring, {}, text).text == "xö");
    CHECK(controller::registers_of(Elementary::String, 5) == 3);
    CHECK(controller::registers_of(Elementary::Date, 0) == 0);
}

TEST_CASE("registers are written as people write them") {
    std::string why;
    for (const char* text : {"coil 12", "discrete 0", "input 65535", "holding 7", "holding 7.3",
                             "holding 8 low word first", "input 8 swap bytes", "holding 8 low word first swap bytes"}) {
        const auto place = wiring::parse_register(text, why);
        REQUIRE_MESSAGE(place.has_value(), text);
        CHECK(wiring::register_text(*place) == text);
    }
    for (const char* text : {"", "coil", "coil x", "coil -1", "coil 65536", "coil 1.2", "holding 7.16", "holding 7 low",
                             "holding 7 swap", "register 7", "holding 7 8", "coil 1 swap bytes"})
        CHECK_MESSAGE(!wiring::parse_register(text, why).has_value(), text);
}

namespace {

const char* const kTags =
    "VAR_GLOBAL a AT %IX0.0 : BOOL; b AT %IX0.1 : BOOL; knob AT %IW2 : INT; m AT %QX0.0 : BOOL; l AT %QX0.1 : BOOL; "
    "count "
    "AT %QW2 : INT; s AT %MW0 : INT; big AT %MD4 : DINT; word : STRING[9]; END_VAR\n";
const char* const kProgram =
    "PROGRAM p VAR_EXTERNAL a, b, m, l : BOOL; knob, count, s : INT; big : DINT; word : STRING[9]; "
    "END_VAR VAR t : TON; e : R_TRIG; "
    "END_VAR\n"
    "e(CLK := a); IF e.Q THEN count := count + 1; END_IF; m := (a OR m) AND NOT b; t(IN := m, PT := T#80ms); l := t.Q; "
    "IF knob > 100 THEN s := s + 1; END_IF; big := big + 7; IF m THEN word := 'runs'; ELSE word := 'stands'; END_IF; "
    "END_PROGRAM\n";

session::Definition definition(const std::string& text, LinkRole role, bool here) {
    PlantText p;
    p.add("motor.m", {})
        .add("lamp.l", {})
        .add("button.a", {})
        .add("button.b", {})
        .add("potentiometer.k", {})
        .add("display.c", {});
    session::Definition out = test::make_definition(text, p,
                                                    {{"a", "a", ""},
                                                     {"b", "b", ""},
                                                     {"knob", "k", "0 %..100 % -> 0..1000"},
                                                     {"m", "m.run", ""},
                                                     {"l", "l", ""},
                                                     {"count", "c", ""}});
    plant::DefinitionValue on;
    on.form = plant::DefinitionValue::Form::Flag;
    on.flag = true;
    out.controllers[0].safe.push_back({"l", {}, on});
    controller::LinkModel& line = out.controllers[0].link.emplace().model;
    line.role = role;
    line.fresh = base::Nanoseconds(50'000'000);
    line.here = here;
    return out;
}

std::string registers(const session::SessionModel& model) {
    std::string out;
    for (const controller::RegisterEntry& e : model.controllers[0].link->registers)
        out +=
            fmt::format("{}={}{} ", model.controllers[0].program->variables[static_cast<std::size_t>(e.variable)].path,
                        wiring::register_text(e.place), e.to_controller ? " in" : "");
    return out;
}

std::vector<std::string> losses_of(const session::Session& s) {
    std::vector<std::string> out;
    for (const session::LinkLossNote& loss : session::link_losses(s)) out.push_back(loss.text);
    return out;
}

/// Executes the logic as somebody else would: with a memory of its own, of which only what is on the link is seen.
class Elsewhere final : public controller::Partner {
  public:
    explicit Elsewhere(const controller::ControllerModel& model) : model_(model), state_(controller::power_up(model)) {}
    bool exchange(int, base::Nanoseconds now, std::span<const std::byte> memory,
                  std::span<std::byte> outputs) override {
        if (now.count() == 0) {
            state_ = controller::power_up(model_);
            scans_ = 0;
        }
        const auto move = [&](bool in, const std::byte* from, std::byte* to) {
            for (const controller::RegisterEntry& e : model_.link->registers) {
                if (e.to_controller != in) continue;
                const logic::Variable& v = model_.program->variables[static_cast<std::size_t>(e.variable)];
                logic::write_value(to, logic::read_value(from, v.type, v.offset, v.bit), v.offset, v.bit);
            }
        };
        move(true, memory.data(), state_.memory.data());
        controller::solve(model_, state_, scans_++ * model_.scan);
        move(false, controller::leaving(state_), outputs.data());
        return true;
    }

  private:
    const controller::ControllerModel& model_;
    controller::ControllerState state_;
    std::int64_t scans_ = 0;
};

}  // namespace

TEST_CASE("a register map by the rule, in each role") {
    CHECK(
        registers(*test::build(definition(kTags, LinkRole::Server, false))) ==
        "m=coil 0 l=coil 1 a=discrete 0 in b=discrete 1 in knob=input 1 in count=holding 1 s=holding 16384 big=holding "
        "16386 ");
    CHECK(registers(*test::build(definition(kTags, LinkRole::Client, false))) ==
          "m=coil 0 l=coil 1 a=coil 4096 in b=coil 4097 in count=holding 1 knob=holding 4097 in s=holding 16384 "
          "big=holding 16386 ");
    const auto screen = test::build(definition(std::string(kTags) + kProgram, LinkRole::Screen, false));
    CHECK(
        registers(*screen) ==
        "m=coil 0 l=coil 1 a=discrete 0 in b=discrete 1 in knob=input 1 in count=holding 1 s=holding 16384 big=holding "
        "16386 ");
    CHECK(!screen->controllers[0].linked());
    const auto gaps = wiring::register_gaps(screen->controllers[0].link->registers);
    REQUIRE(gaps.size() == 2);
    CHECK(gaps[1].first == 16385);
    CHECK(gaps[1].last == 16385);
}

TEST_CASE("a register map by the column of the map, and what cannot be") {
    const auto said = [](const std::vector<std::pair<std::string, std::string>>& columns, LinkRole role,
                         const std::string& tags = kTags) {
        session::Definition d = definition(tags, role, false);
        for (const auto& [tag, text] : columns) {
            bool found = false;
            for (wiring::MapRow& row : *d.map) {
                if (row.tag == tag) row.registers = text;
                found = found || row.tag == tag;
            }
            if (!found) {
                wiring::MapRow row;
                row.tag = tag;
                row.registers = text;
                d.map->push_back(row);
            }
        }
        base::Diagnostics diagnostics;
        const session::Built built = session::build(d, diagnostics);
        std::string out;
        for (const base::Diagnostic& one : diagnostics.list()) {
            const std::string code = base::code_name(one.code);
            if (one.severity == base::Severity::Error || code == "register-odd")
                out += fmt::format("{}: {}\n", code, one.message);
        }
        return out.empty() ? registers(*built.model) : out;
    };
    const LinkRole server = LinkRole::Server;
    const std::string columns = said({{"count", "holding 40 swap bytes"},
                                      {"m", "holding 7.3"},
                                      {"l", "holding 7.4"},
                                      {"big", "holding 50 low word first"}},
                                     server);
    for (const char* part :
         {"count=holding 40 swap bytes", "m=holding 7.3", "l=holding 7.4", "big=holding 50 low word first"})
        CHECK_MESSAGE(columns.find(part) != std::string::npos, columns);
    CHECK(said({{"m", "discrete 9"}}, server) ==
          "register-clash: 'm' is written over the link, and discrete 9 can only be read\n");
    CHECK(said({{"a", "discrete 9"}}, LinkRole::Client) ==
          "register-clash: 'a' is written over the link, and discrete 9 can only be read\n");
    CHECK(said({{"m", "holding 9"}}, server) == "register-clash: 'm' is BOOL, and holding 9 is a register\n");
    CHECK(said({{"count", "coil 9"}}, server) == "register-clash: 'count' is INT, and coil 9 is a single bit\n");
    CHECK(said({{"count", "holding 9.1"}}, server) == "register-clash: 'count' is INT, and takes more than a bit\n");
    CHECK(said({{"big", "holding 65535"}}, server) ==
          "register-clash: 'big' takes 2 registers, and the last has the number 65535\n");
    CHECK(said({{"big", "holding 51"}}, server) == "register-odd: 'big' takes 2 registers from 51 on, an odd number\n");
    CHECK(said({{"count", "holding 16387"}}, server) == "register-clash: 'count' and 'big' share holding 16387\n");
    CHECK(said({{"m", "holding 7.3"}, {"l", "holding 7.3"}}, server) ==
          "register-clash: 'l' and 'm' share holding 7\n");
    CHECK(said({{"m", "holding 7.3"}, {"count", "holding 7"}}, server) ==
          "register-clash: 'm' and 'count' share holding 7\n");
    CHECK(said({{"m", "coil"}}, server) == "wrong-value: 'coil' is no register\n");
    CHECK(said({{"gone", "coil 3"}}, server) == "unknown-tag: no tag is named 'gone'\n");
    std::string unlocated = kTags;
    unlocated.replace(unlocated.find("count AT %QW2"), 13, "count");
    CHECK(said({}, server, unlocated) == "register-clash: 'count' is joined, and no register of the link carries it\n");
    CHECK(said({{"count", "holding 3"}}, server, unlocated).find("count=holding 3") != std::string::npos);
}

TEST_CASE("what a person does to a link, forces and power, of a controller elsewhere and of the same one here") {
    // A text has no address, and comes by a register of the map.
    const auto yard = [](const std::string& text, bool in_here) {
        session::Definition d = definition(text, LinkRole::Server, in_here);
        wiring::MapRow row;
        row.tag = "word";
        row.registers = "holding 30 swap bytes";
        d.map->push_back(row);
        return test::build(d);
    };
    const auto remote = yard(kTags, false);
    const auto there = yard(std::string(kTags) + kProgram, false);
    const auto here = yard(std::string(kTags) + kProgram, true);
    static const char* const kOrders[] = {"press a",
                                          "release a",
                                          "press b for 30 ms",
                                          "set k to 0 %",
                                          "set k to 50 %",
                                          "fault link lost",
                                          "fault link stuck",
                                          "fault link delay 30 ms",
                                          "fault link delay 100 ms",
                                          "fault link drop 40 %",
                                          "heal link",
                                          "heal all",
                                          "force m = TRUE",
                                          "force l = FALSE",
                                          "force count = 9",
                                          "force a = TRUE",
                                          "unforce all",
                                          "forces off",
                                          "forces on",
                                          "fault m.run stuck off",
                                          "fault a open_wire"};
    std::mt19937 random(11);
    int lost = 0, differs = 0;
    for (int run = 0; run < 120; ++run) {
        Elsewhere partner(there->controllers[0]);
        session::Session one(remote, nullptr, &partner), other(here);
        std::string story;
        for (int step = 0; step < 400 && differs == 0; ++step) {
            if (random() % 12 == 0) {
                const std::string order = kOrders[random() % std::size(kOrders)];
                story += fmt::format("{} {}\n", step, order);
                for (session::Session* s : {&one, &other}) {
                    base::Diagnostics diagnostics;
                    const auto book = procedure::read_order(s->model(), base::make_source("o", order), diagnostics);
                    REQUIRE_MESSAGE(book != nullptr, order);
                    procedure::Run doing(book, 0, *s);
                    doing.advance(*s);
                }
            }
            one.step();
            other.step();
            bool same = one.controller(0).link.up == other.controller(0).link.up;
            for (const char* name :
                 {"m", "l", "count", "s", "big", "a", "plant.m.run", "plant.l.on", "plant.c.value"}) {
                const auto signal = session::find_signal(*remote, name), twin = session::find_signal(*here, name);
                REQUIRE_MESSAGE(signal.has_value(), name);
                REQUIRE_MESSAGE(twin.has_value(), name);
                same = same && session::value(one, *signal) == session::value(other, *twin);
            }
            same = same && session::value_text(one, *session::find_signal(*remote, "word")) ==
                               session::value_text(other, *session::find_signal(*here, "word"));
            if (!same) ++differs;
            CHECK_MESSAGE(same, story << "at step " << step);
        }
        const auto losses = losses_of(one);
        CHECK(losses == losses_of(other));
        lost += static_cast<int>(losses.size());
    }
    CHECK(lost > 20);
}

TEST_CASE("a link is fresh for so long, and is lost by itself or meant to be") {
    const auto remote = test::build(definition(kTags, LinkRole::Server, false));
    const auto there = test::build(definition(std::string(kTags) + kProgram, LinkRole::Server, false));
    Elsewhere partner(there->controllers[0]);
    session::Session s(remote, nullptr, &partner);
    const auto lamp = *session::find_signal(*remote, "l");
    CHECK(s.controller(0).link.up);
    CHECK(session::value_text(s, lamp) == "FALSE");
    s.set_partner(nullptr);  // nobody answers any more
    while (s.now() < base::Nanoseconds(50'000'000)) s.step();
    CHECK(s.controller(0).link.up);
    while (s.now() < base::Nanoseconds(60'000'000)) s.step();
    CHECK(!s.controller(0).link.up);
    CHECK(session::value_text(s, lamp) == "TRUE");  // its safe value
    CHECK(session::link_lost_by_itself(s));
    s.set_partner(&partner);
    while (s.now() < base::Nanoseconds(100'000'000)) s.step();
    CHECK(losses_of(s) == std::vector<std::string>{"the link to 'line' was lost at 0.060 s for 0.010 s"});
    // A copy has no partner, and one that is assigned to keeps its own.
    session::Session copy = s;
    CHECK(copy.partner() == nullptr);
    s = copy;
    CHECK(s.partner() == &partner);
    // Nothing ever came.
    const session::Session alone(remote);
    CHECK(session::link_lost_by_itself(alone));
    CHECK(losses_of(alone) == std::vector<std::string>{"nothing ever came from 'line', which is executed elsewhere"});
    // What does not come over the link cannot be asked for.
    const auto inner = test::build(definition(std::string(kTags) + kProgram, LinkRole::Server, false));
    CHECK(session::search(*inner, "p.t.ET").problem ==
          "'p.t.ET' stays in 'line', which is executed elsewhere: no register of its link carries it");
}
