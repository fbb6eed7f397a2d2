// What leaves a controller and reaches a wire, over the product of all that meets there: how a tag is joined, forces on
// it or a part of it, the rack, stops and faults and restarts, safe values, defects of the wire. The oracle below is
// docs/what-leaves.md as code: it knows nothing of images, masks or joins.
#include <cstring>

#include "core/support.hpp"

using namespace vyard;
using base::Nanoseconds;

namespace {

constexpr std::int64_t kStep = 5'000'000, kScan = 10'000'000;
constexpr int kSteps = 60, kForceAt = 10, kFaultModuleAt = 14, kOffAt = 20, kOnAt = 31, kHealAt = 37, kUnforceAt = 44;

enum class Joined { Bool, Inverted, BitOfWord, Swapped, Scaled };
enum class Forced { None, Whole, Part };
enum class Rack { None, Plain, Slow, Lost, Fuse };
enum class Off { Never, Stopped, Faulted, StoppedForGood, Unpowered, UnpoweredForGood };
enum class Wire { Whole, Stuck, Late, Offset };

constexpr const char* kLogic =
    "VAR_GLOBAL b AT %QX0.0 : BOOL; i AT %QX0.1 : BOOL; w AT %QW2 : WORD; s AT %QW4 : INT; a AT %QW6 : INT;\n"
    "  n : INT; fail : BOOL; zero : INT; END_VAR\n"
    "PROGRAM main\n"
    "n := n + 1;\n"
    "b := n MOD 3 = 0; i := n MOD 3 = 0;\n"
    "IF n MOD 3 = 0 THEN w := 16#0108; ELSE w := 16#0400; END_IF;\n"
    "s := n * 3; a := n * 40;\n"
    "IF fail THEN zero := 1 / zero; END_IF;\n"
    "END_PROGRAM\n";

/// What the logic gives in scan number n, as the 16 bits of the tag (a BOOL in bit 0).
int logic_bits(Joined joined, int n) {
    if (n == 0) return 0;
    switch (joined) {
        case Joined::Bool:
        case Joined::Inverted: return n % 3 == 0 ? 1 : 0;
        case Joined::BitOfWord: return n % 3 == 0 ? 0x0108 : 0x0400;
        case Joined::Swapped: return n * 3;
        case Joined::Scaled: return n * 40;
    }
    return 0;
}

struct Case {
    Joined joined;
    Forced forced;
    Rack rack;
    Off off;
    Wire wire;
    bool safe;
};

struct Names {
    const char *tag, *part, *point;
    int whole_value;            ///< Of a force on the tag.
    int part_mask, part_value;  ///< Of a force on the part, within the tag's bits.
    const char *whole_text, *part_text, *safe_text;
    int safe_bits;
};

Names names_of(Joined joined) {
    switch (joined) {
        case Joined::Bool: return {"b", "%QB0", "l.on", 1, 1, 1, "TRUE", "16#01", "TRUE", 1};
        case Joined::Inverted: return {"i", "%QB0", "l.on", 1, 1, 0, "TRUE", "2#1101", "TRUE", 1};
        case Joined::BitOfWord: return {"w", "w.%X3", "l.on", 0xFFFF, 8, 8, "16#FFFF", "TRUE", "#8", 8};
        case Joined::Swapped: return {"s", "s.%B0", "d.value", 1000, 0xFF, 0x7F, "1000", "16#7F", "#513", 513};
        case Joined::Scaled: return {"a", "a.%B1", "v.opening", 3000, 0xFF00, 0x0700, "3000", "16#07", "#2000", 2000};
    }
    return {};
}

session::SessionModelPtr model_of(const Case& c) {
    test::PlantText plant;
    plant.add("lamp.l", {}).add("display.d", {}).add("valve.v", {{"control", "proportional"}});
    const char* scaling = c.joined == Joined::Inverted  ? "invert"
                          : c.joined == Joined::Swapped ? "swap bytes"
                          : c.joined == Joined::Scaled  ? "0 %..100 % -> 0..4095"
                                                        : "";
    const Names names = names_of(c.joined);
    const std::string tag = c.joined == Joined::BitOfWord ? "w.%X3" : names.tag;
    session::Definition definition = test::make_definition(kLogic, plant, {{tag, names.point, scaling}});
    definition.step = Nanoseconds(kStep);
    if (c.safe) definition.controllers[0].safe = {test::safe(names.tag, names.safe_text)};
    if (c.rack != Rack::None) {
        const auto module = [&](const char* name, wiring::ModuleKind kind, int channels, std::uint32_t byte) {
            wiring::Module m;
            m.name = name;
            m.kind = kind;
            m.channels = channels;
            m.area = logic::Area::Output;
            m.first_byte = byte;
            m.range = {true, 0.0, 20.0, 0.0, 4095.0, 12};
            if (c.rack == Rack::Slow) m.delay = m.update = Nanoseconds(15'000'000);
            definition.controllers[0].rack.push_back(m);
        };
        module("D0", wiring::ModuleKind::DigitalOutput, 16, 0);
        module("D2", wiring::ModuleKind::DigitalOutput, 16, 2);
        module("A6", wiring::ModuleKind::AnalogOutput, 1, 6);
    }
    if (c.safe && c.joined != Joined::Inverted && c.joined != Joined::Bool)
        definition.controllers[0].safe[0].value = test::PlantText::value(names.safe_text, {});
    if (c.safe && (c.joined == Joined::Inverted || c.joined == Joined::Bool)) {
        definition.controllers[0].safe[0].value = {};
        definition.controllers[0].safe[0].value.form = plant::DefinitionValue::Form::Flag;
        definition.controllers[0].safe[0].value.flag = true;
    }
    return test::build(definition);
}

/// docs/what-leaves.md, a step at a time.
struct Oracle {
    Case c;
    int scans = 0;  ///< Of the program since it was started.
    bool running = true, on = false, failing = false, forced = false, broken = false, powered = true;
    int bits = 0;  ///< What the logic worked out.
    // The channel of the module.
    bool known = false;
    double coming = 0, shown = 0;
    std::int64_t since = 0, next = 0;
    double put = 0;

    void scan() {
        if (!running) return;
        bits = logic_bits(c.joined, ++scans);
        on = true;
        if (failing) running = on = failing = false;
    }
    /// The tag, as it leaves the controller.
    int leaving() const {
        const Names names = names_of(c.joined);
        if (!on) return c.safe && powered ? names.safe_bits : 0;
        if (!forced || c.forced == Forced::None) return bits;
        if (c.forced == Forced::Whole) return names.whole_value;
        return (bits & ~names.part_mask) | (names.part_value & names.part_mask);
    }
    bool current() const { return on || (c.safe && powered); }
    double terminal() const {
        const int tag = leaving();
        switch (c.joined) {
            case Joined::Bool: return tag;
            case Joined::Inverted: return 1 - tag;
            case Joined::BitOfWord: return (tag >> 3) & 1;
            case Joined::Swapped: {
                const int swapped = ((tag & 0xFF) << 8) | ((tag >> 8) & 0xFF);
                return swapped >= 0x8000 ? swapped - 0x10000 : swapped;
            }
            case Joined::Scaled: return std::min(tag, 4095) * 100.0 / 4095.0;
        }
        return 0;
    }
    void put_at(std::int64_t now) {
        const bool has_module = c.rack != Rack::None && c.joined != Joined::Swapped;  // whole numbers come over a bus
        const double wanted = current() ? terminal() : 0.0;
        if (!has_module) {
            put = wanted;
            return;
        }
        if (broken) {
            known = false;
            shown = put = 0;
            return;
        }
        if (c.joined == Joined::Scaled) {
            if (!current()) {
                known = false;
                shown = 0;
            } else if (!known || now >= next) {
                known = true;
                next = now + (c.rack == Rack::Slow ? 15'000'000 : 0);
                shown = wanted;
            }
            put = shown;
            return;
        }
        if (c.rack != Rack::Slow) {
            put = wanted;
            return;
        }
        if (!known) shown = 0;
        if (!known || wanted != coming) {
            coming = wanted;
            since = now;
            known = true;
        }
        if (now - since >= 15'000'000) shown = coming;
        put = shown;
    }
};

std::string name_of(const Case& c) {
    static constexpr const char* kJoined[] = {"bool", "inverted", "bit of a word", "swapped", "scaled"};
    static constexpr const char* kForced[] = {"no force", "forced", "a part forced"};
    static constexpr const char* kRack[] = {"no rack", "a rack", "a slow rack", "module lost", "fuse blown"};
    static constexpr const char* kOff[] = {
        "runs", "stopped", "faulted", "stopped for good", "without power for a while", "without power"};
    static constexpr const char* kWire[] = {"whole wire", "stuck", "late", "offset"};
    return fmt::format("{}, {}, {}, {}, {}{}", base::at(kJoined, c.joined), base::at(kForced, c.forced),
                       base::at(kRack, c.rack), base::at(kOff, c.off), base::at(kWire, c.wire),
                       c.safe ? ", a safe value" : "");
}

void force(session::Session& s, const Case& c) {
    const Names names = names_of(c.joined);
    if (c.forced == Forced::Whole) test::force(s, names.tag, names.whole_text);
    if (c.forced == Forced::Part) test::force(s, names.part, names.part_text);
}

struct Difference {
    std::string text;
};

/// Runs a case beside its oracle; "" when they say the same in every step.
std::string difference(const Case& c, const session::SessionModelPtr& model) {
    const Names names = names_of(c.joined);
    session::Session s(model);
    Oracle oracle{c};
    oracle.scan();
    oracle.put_at(0);
    const int point = model->plant->find_point(names.point);
    const bool number = c.joined == Joined::Swapped || c.joined == Joined::Scaled;
    const double stuck = number ? 7.0 : 1.0;
    if (c.wire == Wire::Stuck) s.set_point_fault(point, plant::Defect::Stuck, stuck);
    if (c.wire == Wire::Late) s.set_point_fault(point, plant::Defect::Delay, 0.015);
    if (c.wire == Wire::Offset) s.set_point_fault(point, plant::Defect::Offset, 5.0);
    const auto tag = *session::find_signal(*model, names.tag);
    const auto logic_tag = *session::find_signal(*model, std::string("logic.") + names.tag);
    const auto wire = *session::find_signal(*model, std::string("plant.") + names.point);
    std::vector<double> puts;
    for (int k = 0; k < kSteps; ++k) {
        const std::int64_t now = k * kStep;
        if (k > 0) {
            s.step();
            if (now % kScan == 0) oracle.scan();
            oracle.put_at(now);
        }
        double shown = oracle.put;
        if (c.wire == Wire::Stuck) shown = stuck;
        if (c.wire == Wire::Offset) shown += 5.0;
        if (c.wire == Wire::Late)
            shown = k < 3 ? (puts.empty() ? shown : puts[0]) : puts[static_cast<std::size_t>(k - 3)];
        if (c.wire != Wire::Whole && c.joined == Joined::Swapped) shown = std::nearbyint(shown);
        const auto bits16 = [&](const session::Signal& signal) {
            return static_cast<int>(session::bits(s, signal) & 0xFFFFU);
        };
        const double on_wire = session::read(s, wire);
        if (bits16(tag) != oracle.leaving() || bits16(logic_tag) != oracle.bits || std::abs(on_wire - shown) > 1e-9)
            return fmt::format(
                "{}: at step {} the tag is {}, expected {}; the logic's {}, expected {}; the wire {}, expected {}",
                name_of(c), k, bits16(tag), oracle.leaving(), bits16(logic_tag), oracle.bits, on_wire, shown);
        // What happens between this step and the next.
        if (k == kForceAt) {
            force(s, c);
            oracle.forced = true;
            oracle.put_at(now);
        }
        if (k == kFaultModuleAt && (c.rack == Rack::Lost || c.rack == Rack::Fuse)) {
            const int module = c.joined == Joined::BitOfWord ? 1 : c.joined == Joined::Scaled ? 2 : 0;
            wiring::ModuleState state;
            state.lost = c.rack == Rack::Lost;
            state.blown = c.rack == Rack::Fuse ? 1U : 0U;
            s.set_module_fault(module, state);
            oracle.broken = true;
            oracle.put_at(now);
        }
        if (k == kOffAt && (c.off == Off::Stopped || c.off == Off::StoppedForGood)) {
            s.stop(0);
            oracle.running = oracle.on = false;
            oracle.put_at(now);
        }
        if (k == kOffAt && (c.off == Off::Unpowered || c.off == Off::UnpoweredForGood)) {
            s.power_off(0);
            oracle.running = oracle.on = oracle.powered = false;
            oracle.bits = 0;
            oracle.put_at(now);
        }
        if (k == kOnAt && c.off == Off::Unpowered) {
            s.power_on(0);
            oracle.running = oracle.powered = true;
            oracle.scans = 0;
            oracle.put_at(now);
        }
        if (k == kOffAt && c.off == Off::Faulted) {
            const auto spot = wiring::find_spots(model->controllers, "fail")[0].spot;
            s.write(0, spot, logic::Value{logic::Elementary::Bool, 1, {}});
            oracle.failing = true;
        }
        if (k == kOnAt && (c.off == Off::Stopped || c.off == Off::Faulted)) {
            s.start(0);
            oracle.running = true;
            oracle.bits = oracle.scans = 0;
        }
        if (k == kHealAt && (c.rack == Rack::Lost || c.rack == Rack::Fuse)) {
            for (int m = 0; m < 3; ++m) s.set_module_fault(m, {});
            oracle.broken = false;
            oracle.put_at(now);
        }
        if (k == kUnforceAt) {
            s.remove_all_forces();
            oracle.forced = false;
            oracle.put_at(now);
        }
        puts.push_back(oracle.put);
    }
    return {};
}

}  // namespace

TEST_CASE("outputs: joins x forces x rack x stops x safe values x defects of the wire are as the page says") {
    int cases = 0;
    for (const Joined joined : {Joined::Bool, Joined::Inverted, Joined::BitOfWord, Joined::Swapped, Joined::Scaled}) {
        for (const Rack rack : {Rack::None, Rack::Plain, Rack::Slow, Rack::Lost, Rack::Fuse}) {
            for (const bool safe : {false, true}) {
                const Case base_case{joined, Forced::None, rack, Off::Never, Wire::Whole, safe};
                const auto model = model_of(base_case);
                for (const Forced forced : {Forced::None, Forced::Whole, Forced::Part}) {
                    for (const Off off : {Off::Never, Off::Stopped, Off::Faulted, Off::StoppedForGood, Off::Unpowered,
                                          Off::UnpoweredForGood}) {
                        for (const Wire wire : {Wire::Whole, Wire::Stuck, Wire::Late, Wire::Offset}) {
                            const bool number = joined == Joined::Swapped || joined == Joined::Scaled;
                            if (wire == Wire::Offset && !number) continue;
                            ++cases;
                            const std::string found = difference({joined, forced, rack, off, wire, safe}, model);
                            CHECK_MESSAGE(found.empty(), found);
                        }
                    }
                }
            }
        }
    }
    CHECK(cases > 2000);
}

namespace {

constexpr const char* kInputLogic =
    "VAR_GLOBAL b AT %IX0.0 : BOOL; i AT %IX0.1 : BOOL; w AT %IW2 : WORD; s AT %IW4 : INT; a AT %IW6 : INT;\n"
    "  seen_b, seen_i : BOOL; seen_w : WORD; seen_s, seen_a : INT; END_VAR\n"
    "PROGRAM main seen_b := b; seen_i := i; seen_w := w; seen_s := s; seen_a := a; END_PROGRAM\n";

struct InputNames {
    const char *tag, *seen, *part, *point;
    int whole_value, part_mask, part_value;
    const char *whole_text, *part_text;
};

InputNames input_names(Joined joined) {
    switch (joined) {
        case Joined::Bool: return {"b", "seen_b", "%IB0", "pb.contact", 1, 1, 1, "TRUE", "16#01"};
        case Joined::Inverted: return {"i", "seen_i", "%IB0", "pb.contact", 0, 1, 0, "FALSE", "16#00"};
        case Joined::BitOfWord: return {"w", "seen_w", "w.%X3", "pb.contact", 0x1234, 8, 8, "16#1234", "TRUE"};
        case Joined::Swapped: return {"s", "seen_s", "s.%B0", "n.value", 77, 0xFF, 0x11, "77", "16#11"};
        case Joined::Scaled: return {"a", "seen_a", "a.%B0", "pot.value", 1234, 0xFF, 0x22, "1234", "16#22"};
    }
    return {};
}

}  // namespace

TEST_CASE("inputs: joins x forces x rack x stops x defects of the wire are as the page says") {
    int cases = 0;
    for (const Joined joined : {Joined::Bool, Joined::Inverted, Joined::BitOfWord, Joined::Swapped, Joined::Scaled}) {
        for (const Rack rack : {Rack::None, Rack::Plain, Rack::Slow, Rack::Lost}) {
            const InputNames names = input_names(joined);
            test::PlantText plant;
            plant.add("button.pb", {}).add("potentiometer.pot", {}).add("number_setter.n", {{"high", "#30000"}});
            const char* scaling = joined == Joined::Inverted  ? "invert"
                                  : joined == Joined::Swapped ? "0..30000 -> 0..30000 swap bytes"
                                  : joined == Joined::Scaled  ? "0 %..100 % -> 0..4095"
                                                              : "";
            session::Definition definition = test::make_definition(
                kInputLogic, plant, {{joined == Joined::BitOfWord ? "w.%X3" : names.tag, names.point, scaling}});
            const auto module = [&](const char* name, wiring::ModuleKind kind, int channels, std::uint32_t byte) {
                wiring::Module m;
                m.name = name;
                m.kind = kind;
                m.channels = channels;
                m.first_byte = byte;
                m.range = {true, 0.0, 20.0, 0.0, 4095.0, 12};
                if (rack == Rack::Slow) m.filter = m.update = Nanoseconds(30'000'000);
                definition.controllers[0].rack.push_back(m);
            };
            if (rack != Rack::None) {
                module("D0", wiring::ModuleKind::DigitalInput, 16, 0);
                module("D2", wiring::ModuleKind::DigitalInput, 16, 2);
                module("A6", wiring::ModuleKind::AnalogInput, 1, 6);
            }
            const auto model = test::build(definition);
            for (const Forced forced : {Forced::None, Forced::Whole, Forced::Part}) {
                for (const bool stopped : {false, true}) {
                    for (const Wire wire : {Wire::Whole, Wire::Stuck}) {
                        ++cases;
                        session::Session s(model);
                        const int point = model->plant->find_point(names.point);
                        const bool number = joined == Joined::Swapped || joined == Joined::Scaled;
                        // The hand gives 1, 258 or 40 %; a stuck wire shows 0.
                        const auto hand = [&](const char* device, const char* verb, double value) {
                            const int d = model->plant->find_device(device);
                            s.use_control(d, *model->plant->device(d).kind->find_control(verb), value);
                        };
                        hand("pb", "press", 0);
                        hand("pot", "set", 40);
                        hand("n", "set", 258);
                        if (wire == Wire::Stuck) s.set_point_fault(point, plant::Defect::Stuck, 0);
                        if (stopped) s.stop(0);
                        const std::string force_name = forced == Forced::Whole ? names.tag : names.part;
                        if (forced != Forced::None)
                            test::force(s, force_name, forced == Forced::Whole ? names.whole_text : names.part_text);
                        if (rack == Rack::Lost) {
                            wiring::ModuleState lost;
                            lost.lost = true;
                            for (int m = 0; m < 3; ++m) s.set_module_fault(m, lost);
                        }
                        for (int k = 0; k < 20; ++k) s.step();
                        const double given = wire == Wire::Stuck         ? 0
                                             : joined == Joined::Swapped ? 258
                                             : joined == Joined::Scaled  ? 40
                                                                         : 1;
                        const bool through = rack != Rack::Lost || joined == Joined::Swapped;
                        int bits = 0;
                        switch (joined) {
                            case Joined::Bool: bits = through ? static_cast<int>(given) : 0; break;
                            case Joined::Inverted: bits = through ? 1 - static_cast<int>(given) : 1; break;
                            case Joined::BitOfWord: bits = through && given != 0 ? 8 : 0; break;
                            case Joined::Swapped: bits = given == 0 ? 0 : 0x0201; break;
                            case Joined::Scaled: bits = through ? static_cast<int>(given * 40.95) : 0; break;
                        }
                        if (forced == Forced::Whole) bits = names.whole_value;
                        if (forced == Forced::Part) bits = (bits & ~names.part_mask) | names.part_value;
                        const auto look = [&](const char* name) {
                            return static_cast<int>(session::bits(s, *session::find_signal(*model, name)) & 0xFFFFU);
                        };
                        CAPTURE(names.tag);
                        CAPTURE(static_cast<int>(rack));
                        CAPTURE(static_cast<int>(forced));
                        CAPTURE(stopped);
                        CAPTURE(number);
                        CHECK(look(names.tag) == bits);
                        CHECK(look(fmt::format("logic.{}", names.tag).c_str()) == bits);
                        if (!stopped) CHECK(look(names.seen) == bits);
                    }
                }
            }
        }
    }
    CHECK(cases == 240);
}

TEST_CASE("a number that is not finite never reaches the plant, and is remarked with tag and time") {
    test::PlantText plant;
    plant.add("valve.v", {{"control", "proportional"}});
    const auto model = test::make_model(
        "VAR_GLOBAL opening AT %QD0 : REAL; zero : REAL; n : INT; END_VAR PROGRAM main n := n + 1; opening := 50.0; IF "
        "n = 3 THEN opening := 1.0 / zero; END_IF; IF n = 4 THEN opening := SQRT(-1.0); END_IF; END_PROGRAM",
        plant, {{"opening", "v.opening", ""}});
    session::Session s(model);
    const auto wire = *session::find_signal(*model, "plant.v.opening");
    const auto actual = *session::find_signal(*model, "v.actual_opening");
    for (int k = 0; k < 200; ++k) {
        s.step();
        CHECK(std::isfinite(session::read(s, wire)));
        CHECK(std::isfinite(session::read(s, actual)));
    }
    CHECK(session::read(s, wire) == 50);
    const auto remarks = session::odd_outputs_text(s);
    if (s.controller(0).running) {
        REQUIRE(remarks.size() == 1);
        CHECK(remarks[0] == "line.opening gave a number that is not finite, first at 0.020 s; v.opening carried 0");
    }
}

TEST_CASE(
    "forces: values as the language writes them, parts, elements, fields, texts, addresses; a CONSTANT is refused") {
    test::PlantText plant;
    const auto model = test::make_model(
        "TYPE Colour : (red, green := 7); Place : STRUCT full : BOOL; count : INT; END_STRUCT; END_TYPE\n"
        "VAR_GLOBAL CONSTANT k : INT := 3; END_VAR\n"
        "VAR_GLOBAL m AT %MW0 : WORD; q AT %QW0 : WORD; big : LINT; ubig : ULINT; day : DATE; span : LTIME; c : "
        "Colour; name : "
        "STRING[8]; h : ARRAY[0..3] OF INT; places : ARRAY[1..2] OF Place; END_VAR\n"
        "PROGRAM main q := 0; IF h[1] = 5 AND places[2].full THEN RETURN; END_IF; END_PROGRAM",
        plant, {});
    const char* fine[] = {"force m = 16#FF\nexpect m = 255",
                          "force m.%X3 = TRUE\nexpect m = 8",
                          "force m.%B1 = 2#11\nexpect m = 16#300",
                          "force %MB0 = 16#0F\nexpect m = 15",
                          "force %QX0.3 = TRUE\nexpect q = 8\nexpect logic.q = 0",
                          "force big = 9007199254740993\nexpect big = 9007199254740993\nexpect big <> 9007199254740992",
                          "force ubig = 18446744073709551615\nexpect ubig > 18446744073709551614",
                          "force day = D#2026-03-01\nexpect day = D#2026-03-01",
                          "force span = LTIME#1us\nexpect span = LTIME#1us",
                          "force span = 200 ms\nexpect span = LTIME#200ms",
                          "force name = 'abc'\nexpect name = 'abc'",
                          "force h[1] = 5\nexpect h[1] = 5 and h[2] = 0",
                          "force places[2].full = TRUE\nexpect places[2].full and not places[1].full",
                          "write m = 16#12\nexpect m = 0\nwait 1 scan\nexpect m = 16#12",
                          "forces off\nforce m = 3\nexpect m = 0\nforces on\nexpect m = 3",
                          "force m = 3\nforces off\nwait 20 ms\nunforce m\nexpect m = 3"};
    for (const char* orders : fine) {
        CAPTURE(orders);
        base::Diagnostics diagnostics;
        const auto book = procedure::read_book(
            *model, {base::make_source("p.proc", fmt::format("procedure \"p\"\nstep \"s\"\n{}\n", orders))},
            diagnostics);
        const std::string problems = diagnostics.render();
        REQUIRE_MESSAGE(book != nullptr, problems);
        session::Session s(model);
        const auto verdict = procedure::run_procedure(book, 0, s, {});
        const std::string found = verdict.steps[0].failure ? verdict.steps[0].failure->found : "";
        CHECK_MESSAGE(verdict.verdict == procedure::Verdict::Passed, found);
    }
    const auto wrong = [&](const char* order) {
        base::Diagnostics diagnostics;
        procedure::read_order(*model, base::make_source("input", order), diagnostics);
        return test::joined(test::lines_of(diagnostics));
    };
    CHECK(wrong("force k = 4") == "1:7 'k' is declared CONSTANT: the logic was compiled with its value\n");
    CHECK(wrong("force m = 70000") == "1:11 'm' is WORD; expected a whole number, 0 to 16#FFFF, found '70000'\n");
    CHECK(wrong("force c = blue") == "1:11 'c' is Colour; expected one of red, green, found 'blue'\n");
    CHECK(wrong("force name = 'far too long'") == "1:14 this string is longer than 'name' can hold\n");
    CHECK(wrong("force h[9] = 1").starts_with("1:7 no tag is named 'h[9]'"));
    CHECK(wrong("force m.%X16 = TRUE").starts_with("1:7 no tag is named 'm.%X16'"));
}
