// The rack: ranges and counts, steps, filters, delays, rates, faults of modules and their diagnostics.
#include <fmt/format.h>

#include "core/procedure/checkout.hpp"
#include "core/support.hpp"

using namespace vyard;
using doctest::Approx;
using test::PlantText;
using wiring::Module;
using wiring::ModuleKind;

namespace {

constexpr std::int64_t kMs = 1'000'000;

Module module(const char* name, ModuleKind kind, int channels, std::uint32_t first_byte) {
    Module m;
    m.name = name;
    m.kind = kind;
    m.channels = channels;
    m.area = kind == ModuleKind::DigitalOutput || kind == ModuleKind::AnalogOutput ? logic::Area::Output
                                                                                   : logic::Area::Input;
    m.first_byte = first_byte;
    return m;
}

constexpr const char* kLogic =
    "VAR_GLOBAL pb AT %IX0.0 : BOOL; pb_nc AT %IX0.1 : BOOL; lamp AT %QX0.0 : BOOL; level AT %IW4 : INT; opening AT "
    "%QW4 "
    ": INT; diag AT %IW20 : WORD; scans : INT; END_VAR\n"
    "PROGRAM main scans := scans + 1; lamp := pb; opening := 5000; IF diag <> 0 AND level > 0 AND pb_nc THEN RETURN; "
    "END_IF; END_PROGRAM";

PlantText plant_text(const std::string& signal) {
    PlantText p;
    p.add("button.a", {})
        .add("button.b", {{"contact", "normally closed"}})
        .add("lamp.l", {})
        .add("tank.t",
             {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}, {"level", "0.5 m"}})
        .add("level_transmitter.lt", {{"tank", "t"}, {"signal", signal}})
        .add("valve.v", {{"control", "proportional"}});
    return p;
}

struct Made {
    session::SessionModelPtr model;
    std::string problems;
};

Made make(const std::vector<Module>& rack, const std::string& level_scaling = "0 m..1 m -> 4 mA..20 mA",
          const std::string& valve_scaling = "0 %..100 % -> 0..20000", const std::string& signal = "as the card") {
    session::Definition definition = test::make_definition(kLogic, plant_text(signal),
                                                           {{"pb", "a.contact", ""},
                                                            {"pb_nc", "b.contact", ""},
                                                            {"lamp", "l.on", ""},
                                                            {"level", "lt.level", level_scaling},
                                                            {"opening", "v.opening", valve_scaling}});
    definition.step = base::Nanoseconds(1 * kMs);
    definition.controllers[0].rack = rack;
    base::Diagnostics diagnostics;
    const session::Built built = session::build(definition, diagnostics);
    std::string problems;
    for (const std::string& line : test::lines_of(diagnostics, true)) {
        if (line.find("joined to no") == std::string::npos && line.find("never used") == std::string::npos)
            problems += line + "\n";
    }
    return {built.model, problems};
}

std::vector<Module> usual() {
    std::vector<Module> rack = {
        module("DI", ModuleKind::DigitalInput, 16, 0), module("DO", ModuleKind::DigitalOutput, 16, 0),
        module("AI", ModuleKind::AnalogInput, 4, 4), module("AO", ModuleKind::AnalogOutput, 4, 4)};
    rack[0].diagnostics = logic::Address{logic::Area::Input, 20, -1, 2};
    return rack;
}

double read(const session::Session& s, const char* name) {
    const auto signal = session::find_signal(s.model(), name);
    REQUIRE(signal.has_value());
    return session::read(s, *signal);
}
void run(session::Session& s, int ms) {
    for (const auto end = s.now() + base::Nanoseconds(ms * kMs); s.now() < end;) s.step();
}
void hand(session::Session& s, const char* device, const char* verb) {
    const int d = s.model().plant->find_device(device);
    s.use_control(d, *base::at(s.model().plant->devices, d).kind->find_control(verb), 0);
}

}  // namespace

TEST_CASE("a level through a 12 bit channel of 4 to 20 mA: counts in steps, under range on an open wire") {
    auto rack = usual();
    rack[2].range.bits = 8;
    const Made m = make(rack);
    CHECK(m.problems == "");
    session::Session s(m.model);
    run(s, 20);
    const double step = 20000.0 / 255.0;
    CHECK(read(s, "level") == std::nearbyint(std::nearbyint(10000.0 / step) * step));
    CHECK(std::abs(read(s, "level") - 10000.0) <= step / 2 + 1);
    s.set_point_fault(m.model->plant->find_point("lt.level"), plant::Defect::OpenWire, 0);
    run(s, 20);
    CHECK(read(s, "level") == Approx(-5000).epsilon(0.01));  // 0 mA
    s.set_point_fault(m.model->plant->find_point("lt.level"), plant::Defect::Short, 0);
    run(s, 20);
    CHECK(read(s, "level") == Approx(20000 * 1.15).epsilon(0.01));  // 22.4 mA
}

TEST_CASE("without a scaling the transmitter's range is the channel's; another signal is refused") {
    CHECK(make(usual(), "").problems == "");
    const Made volts = make(usual(), "0 m..1 m -> 0 V..10 V");
    CHECK(volts.problems == "0:0 module 'AI' takes 4 to 20 mA, not V\n");
    const Made counts = make(usual(), "0 m..1 m -> 0..10000");
    CHECK(counts.problems == "");
    session::Session s(counts.model);
    run(s, 20);
    CHECK(read(s, "level") == Approx(5000).epsilon(0.001));
}

TEST_CASE("a filter holds back what is too short, and passes the rest late") {
    auto rack = usual();
    rack[0].filter = base::Nanoseconds(25 * kMs);
    const Made m = make(rack);
    session::Session s(m.model);
    run(s, 50);
    CHECK(read(s, "pb_nc") == 1);
    hand(s, "a", "press");
    run(s, 20);
    hand(s, "a", "release");
    run(s, 40);
    CHECK(read(s, "pb") == 0);
    hand(s, "a", "press");
    run(s, 20);
    CHECK(read(s, "pb") == 0);
    run(s, 20);
    CHECK(read(s, "pb") == 1);
}

TEST_CASE("a delayed output comes to its terminal after its time") {
    auto rack = usual();
    rack[1].delay = base::Nanoseconds(35 * kMs);
    const Made m = make(rack);
    session::Session s(m.model);
    run(s, 100);
    hand(s, "a", "press");
    int at = -1;
    for (int ms = 1; ms < 100 && at < 0; ++ms) {
        run(s, 1);
        if (read(s, "l.on") == 1) at = ms;
    }
    CHECK(at >= 10 + 35 - 1);
    CHECK(at <= 10 + 35 + 1);
}

TEST_CASE("an analog channel converts at its own rate") {
    auto rack = usual();
    rack[2].update = base::Nanoseconds(200 * kMs);
    const Made m = make(rack);
    session::Session s(m.model);
    run(s, 10);
    const double before = read(s, "level");
    s.set_point_fault(m.model->plant->find_point("lt.level"), plant::Defect::Stuck, 0.9);
    run(s, 150);
    CHECK(read(s, "level") == before);
    run(s, 60);
    CHECK(read(s, "level") == Approx(18000).epsilon(0.001));
}

TEST_CASE("a lost module, a broken channel, a blown fuse: what the logic reads, what the plant gets, the diagnostics") {
    const Made m = make(usual());
    session::Session s(m.model);
    hand(s, "a", "press");
    run(s, 30);
    CHECK(read(s, "l.on") == 1);
    CHECK(read(s, "diag") == 0);
    wiring::ModuleState broken;
    broken.broken = 1U << 1;
    s.set_module_fault(0, broken);
    run(s, 20);
    CHECK(read(s, "pb") == 1);
    CHECK(read(s, "pb_nc") == 0);
    CHECK(read(s, "diag") == 2);
    wiring::ModuleState lost;
    lost.lost = true;
    s.set_module_fault(0, lost);
    run(s, 20);
    CHECK(read(s, "pb") == 0);
    CHECK(read(s, "diag") == 65535);
    CHECK(session::faults_text(s) == std::vector<std::string>{"rack.DI lost"});
    s.heal_all();
    wiring::ModuleState blown;
    blown.blown = 1;
    s.set_module_fault(1, blown);
    s.set_module_fault(2, lost);
    s.set_module_fault(3, lost);
    run(s, 30);
    CHECK(read(s, "lamp") == 1);  // the logic wants it
    CHECK(read(s, "l.on") == 0);
    CHECK(read(s, "level") == -5000);
    CHECK(read(s, "v.opening") == Approx(0));
    CHECK(session::faults_text(s).size() == 3);
}

TEST_CASE("what the rack does not fit is said with both sides") {
    auto rack = usual();
    rack[2].first_byte = 5;
    CHECK(make(rack).problems ==
          "0:0 'level' at %IW4 lies in no module of the rack [give it an address of a module, or add the module to the "
          "rack]\n");
    rack[2].first_byte = 3;
    CHECK(make(rack).problems ==
          "0:0 'level' at %IW4 is not a channel: module 'AI' has channels of 16 bits from %IB3 to %IB10\n");
    rack[2].first_byte = 1;
    CHECK(make(rack).problems.find("module 'AI' takes %IB1 to %IB8, module 'DI' at  takes %IB0 to %IB1") !=
          std::string::npos);
    rack = usual();
    rack[2].name = "di";
    CHECK(make(rack).problems.find("there is a module 'di' already") != std::string::npos);
    rack = usual();
    rack[0].diagnostics->byte = 40;
    CHECK(make(rack).problems.find("no tag lies at %IW40, where module 'DI' puts its diagnostics") !=
          std::string::npos);
}

TEST_CASE("the checkout goes through filters, delays and steps of the rack") {
    auto rack = usual();
    rack[0].filter = base::Nanoseconds(25 * kMs);
    rack[1].delay = base::Nanoseconds(35 * kMs);
    rack[2].range.bits = 8;
    rack[2].update = base::Nanoseconds(100 * kMs);
    rack[3].range.bits = 8;
    const Made m = make(rack);
    for (const auto& line : procedure::check_out(m.model)) {
        CAPTURE(line.tag);
        CHECK(line.verdict == procedure::CheckoutVerdict::Passed);
    }
}

TEST_CASE("diagnostics see a broken wire of 4..20 mA, a short, and its limits") {
    const auto diagnosed = [](const char* range, double under, const std::string& fault) {
        auto rack = usual();
        rack[0].diagnostics.reset();
        rack[2].diagnostics = logic::Address{logic::Area::Input, 20, -1, 2};
        rack[2].range.low = std::string(range) == "4..20" ? 4.0 : 0.0;
        rack[2].range.under = under;
        const Made m = make(rack, "");
        session::Session s(m.model);
        base::Diagnostics diagnostics;
        const auto book = procedure::read_order(*m.model, base::make_source("t", fault), diagnostics);
        REQUIRE_MESSAGE(book != nullptr, diagnostics.render());
        procedure::Run run(book, 0, s);
        run.advance(s);
        for (int i = 0; i < 40; ++i) s.step();
        return session::read(s, *session::find_signal(*m.model, "diag"));
    };
    CHECK(diagnosed("4..20", 3.6, "wait 0 s") == 0);
    CHECK(diagnosed("4..20", 3.6, "fault lt.level open_wire") == 1);
    CHECK(diagnosed("4..20", 3.6, "fault lt.level short") == 1);
    CHECK(diagnosed("4..20", 3.6, "fault lt.level stuck at -0.02 m") == 0);  // 3.68 mA
    CHECK(diagnosed("4..20", 3.6, "fault lt.level stuck at -0.03 m") == 1);  // 3.52 mA
    CHECK(diagnosed("4..20", 3.0, "fault lt.level stuck at -0.03 m") == 0);
    CHECK(diagnosed("4..20", 3.6, "fault lt.level stuck at 1.06 m") == 0);  // 20.96 mA
    CHECK(diagnosed("4..20", 3.6, "fault lt.level stuck at 1.07 m") == 1);  // 21.12 mA
    CHECK(diagnosed("0..20", 3.6, "fault lt.level open_wire") == 0);        // nobody can tell it from nought
}

// What a transmitter sends x what its card is set to, against Ohm's plain sense: the current of a level, read on the
// card's scale.
TEST_CASE("transmitters' signals x cards: the current that is sent, as the card reads it") {
    struct Signal {
        const char* name;
        bool current;
        double low, high;
    };
    constexpr Signal kSent[] = {
        {"4..20 mA", true, 4, 20}, {"0..20 mA", true, 0, 20}, {"0..10 V", false, 0, 10}, {"as the card", true, 0, 0}};
    constexpr Signal kCards[] = {{"", true, 4, 20}, {"", true, 0, 20}, {"", false, 0, 10}};
    for (const Signal& sent : kSent) {
        for (const Signal& card : kCards) {
            for (const double counts :
                 {0.0, 20000.0, 10000.0}) {  // without a scaling; over all counts; over half of them
                auto rack = usual();
                rack[2].range.current = card.current;
                rack[2].range.low = card.low;
                rack[2].range.high = card.high;
                rack[2].range.bits = 16;
                const double most = counts == 0.0 ? 20000.0 : counts;
                const Made m = make(rack, counts == 0.0 ? "" : fmt::format("0 m..1 m -> 0..{:g}", counts),
                                    "0 %..100 % -> 0..20000", sent.name);
                CAPTURE(sent.name);
                CAPTURE(card.low);
                CAPTURE(card.high);
                const bool follows = sent.high == 0, same = follows || (sent.low == card.low && sent.high == card.high);
                if (!follows && sent.current != card.current) {
                    CHECK(m.model == nullptr);
                    CHECK(m.problems.find("'lt.level' sends") != std::string::npos);
                    continue;
                }
                CHECK(m.problems.empty() == same);
                for (const char* fault : {"", "open_wire", "short"}) {
                    session::Session s(m.model);
                    const std::string defect = fault;
                    double signal =
                        (follows ? card.low : sent.low) + 0.5 * (follows ? card.high - card.low : sent.high - sent.low);
                    if (!defect.empty()) {
                        s.set_point_fault(m.model->plant->find_point("lt.level"), plant::find_defect(fault)->defect, 0);
                        // A wire whose signal is not told fails as 4..20 mA does: a quarter under its range, 15 % over.
                        const double low = follows ? card.low : sent.low, high = follows ? card.high : sent.high;
                        if (follows)
                            signal = defect == "short" ? high + 0.15 * (high - low) : low - 0.25 * (high - low);
                        else
                            signal = defect == "short" ? (sent.current ? 22.4 : 11.5) : 0.0;
                    }
                    run(s, 20);
                    // A converter ends a quarter under its range and a quarter over it.
                    const double share = std::clamp((signal - card.low) / (card.high - card.low), -0.25, 1.25);
                    CHECK(read(s, "level") == Approx(most * share).epsilon(0.001));
                }
            }
        }
    }
}

// Names of a module with inputs and outputs x its faults x what is healed, against the sentence: lost and healed is the
// whole, a channel or a fuse is out of one half.
TEST_CASE("a module with inputs and outputs: lost and healed as one, channels and fuses of each") {
    auto rack = usual();
    rack[0].name = "X1";
    rack[1].name = "x1";
    const Made m = make(rack);
    CHECK(m.problems == "");
    const auto passes = [&](const std::string& orders) {
        base::Diagnostics diagnostics;
        const auto book = procedure::read_book(
            *m.model,
            {base::make_source("t.proc",
                               "procedure \"Mixed\"\nstep \"one\"\n  press a\n  wait 20 ms\n  expect l.lit "
                               "and pb\n" +
                                   orders)},
            diagnostics);
        const std::string problems = diagnostics.render();
        REQUIRE_MESSAGE(book != nullptr, problems);
        session::Session s(m.model);
        return procedure::run_procedure(book, 0, s, {}).verdict == procedure::Verdict::Passed;
    };
    // The lamp goes on while the input reads TRUE; both are channel 0 of their half.
    for (const char* broken : {"X1", "x1.inputs", "X1.outputs"}) {
        for (const char* fault : {"lost", "channel 0", "fuse 0"}) {
            const std::string name = broken, defect = fault;
            if (name == "X1" && defect != "lost") continue;
            const bool in = defect == "lost" || name == "x1.inputs", out = defect == "lost" || name == "X1.outputs";
            for (const char* healed : {"X1", "X1.inputs", "X1.outputs"}) {
                CAPTURE(name);
                CAPTURE(defect);
                CAPTURE(healed);
                const std::string expected =
                    fmt::format("  expect {} pb and {} l.lit\n", in ? "not" : "", in || out ? "not" : "");
                CHECK(passes(
                    fmt::format("  fault rack.{} {}\n  wait 20 ms\n{}  heal rack.{}\n  wait 20 ms\n  expect pb and "
                                "l.lit\n",
                                name, defect, expected, healed)));
            }
        }
    }
    base::Diagnostics diagnostics;
    CHECK(procedure::read_order(*m.model, base::make_source("t", "fault rack.X1 channel 1"), diagnostics) == nullptr);
    CHECK(diagnostics.render().find("module 'X1' has inputs and outputs: rack.X1.inputs or rack.X1.outputs") !=
          std::string::npos);
    rack[2].name = "X1";
    CHECK(make(rack).problems.find("there is a module 'X1' already") != std::string::npos);
    rack[2].name = "X1.inputs";
    CHECK(make(rack).problems.find("a module's name has no point, as 'X1.inputs' has") != std::string::npos);
}

TEST_CASE("orders put faults on modules and heal them") {
    const Made m = make(usual());
    base::Diagnostics diagnostics;
    const auto source = base::make_source(
        "t.proc",
        "procedure \"Modules\"\nstep \"one\"\n  fault rack.DI lost\n  wait 20 ms\n  expect diag = 16#FFFF and not "
        "pb_nc\n"
        "  heal rack.DI\n  wait 20 ms\n  expect diag = 0 and pb_nc\n  fault rack.DI channel 1\n  wait 20 ms\n"
        "  expect diag = 2\n  heal all\n  wait 20 ms\n  expect diag = 0\n");
    const auto book = procedure::read_book(*m.model, {source}, diagnostics);
    const std::string problems = diagnostics.render();
    REQUIRE_MESSAGE(book != nullptr, problems);
    session::Session s(m.model);
    CHECK(procedure::run_procedure(book, 0, s, {}).verdict == procedure::Verdict::Passed);

    base::Diagnostics wrong;
    const auto bad =
        base::make_source("t.proc",
                          "procedure \"x\"\nstep \"y\"\n  fault rack.DX lost\n  fault rack.DI channel 16\n  "
                          "fault rack.DI asleep\n  fault rack.DO fuse 2\n");
    procedure::read_book(*m.model, {bad}, wrong);
    CHECK(test::joined(test::lines_of(wrong)) ==
          "3:9 the rack has no module 'rack.DX' [did you mean 'rack.DI'?]\n"
          "4:25 module 'DI' has channels 0 to 15\n"
          "5:17 a module has no fault 'asleep' [lost, channel N, fuse N]\n"
          "6:22 module 'DO' has fuses 0 to 1\n");
}
