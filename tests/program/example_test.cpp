// The glaze line itself: its logic against the same logic in C++, its timing against arithmetic, and what its wrong
// variant would do on a bad day.
#include <random>

#include "../bench/native_line.hpp"
#include "core/session/signals.hpp"
#include "files/yard_file.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

namespace {

files::Yard glaze_line(const std::vector<files::Substitute>& substitutes = {}) {
    base::Diagnostics diagnostics;
    files::Yard yard = files::load_yard(VYARD_SOURCE "/examples/glaze-line", diagnostics, {substitutes, {}, {}});
    INFO(diagnostics.render());
    REQUIRE(yard.model != nullptr);
    CHECK(diagnostics.warning_count() == 0);
    return yard;
}

struct Line {
    explicit Line(const files::Yard& yard) : session(yard.model) {}
    double get(const char* name) const {
        const auto signal = session::find_signal(session.model(), name);
        REQUIRE_MESSAGE(signal.has_value(), name);
        return session::read(session, *signal);
    }
    void control(const char* device, const char* verb, double value = 0) {
        const auto& plant = *session.model().plant;
        const int d = plant.find_device(device);
        session.use_control(d, *base::at(plant.devices, d).kind->find_control(verb), value);
    }
    void start() {
        control("panel.mode", "turn", 1);
        run(0.05);
        control("panel.start", "press");
        run(0.05);
        control("panel.start", "release");
    }
    void run(double seconds) {
        const Nanoseconds end = session.now() + base::from_seconds(seconds);
        while (session.now() < end) session.step();
    }
    bool until(const char* name, double value, double limit_s) {
        const Nanoseconds end = session.now() + base::from_seconds(limit_s);
        while (session.now() < end && get(name) != value) session.step();
        return get(name) == value;
    }
    session::Session session;
};

}  // namespace

TEST_CASE("the compiled logic does what the same logic in C++ does, scan by scan, whatever the inputs") {
    const files::Yard yard = glaze_line();
    const controller::ControllerModel& model = yard.model->controllers[0];
    controller::ControllerState state = controller::power_up(model);
    bench::NativeLine native;
    const auto set = [&](const char* tag, double value) {
        const logic::Variable* v = model.program->find(tag);
        REQUIRE(v != nullptr);
        logic::write_number(state.memory.data(), v->type, v->offset, v->bit, value);
    };
    const auto get = [&](const char* tag) {
        const logic::Variable* v = model.program->find(tag);
        REQUIRE(v != nullptr);
        return logic::read_number(state.memory.data(), v->type, v->offset, v->bit);
    };
    const std::pair<const char*, bool*> inputs[] = {{"start_pb", &native.start_pb},
                                                    {"stop_pb", &native.stop_pb},
                                                    {"reset_pb", &native.reset_pb},
                                                    {"estop_ok", &native.estop_ok},
                                                    {"mode_auto", &native.mode_auto},
                                                    {"gate_eye", &native.gate_eye},
                                                    {"dip_eye", &native.dip_eye},
                                                    {"push_eye", &native.push_eye},
                                                    {"exit_eye", &native.exit_eye},
                                                    {"clamp_open", &native.clamp_open},
                                                    {"clamp_grip", &native.clamp_grip},
                                                    {"lift_top", &native.lift_top},
                                                    {"lift_bottom", &native.lift_bottom},
                                                    {"reject_out", &native.reject_out},
                                                    {"glaze_low", &native.glaze_low},
                                                    {"glaze_not_high", &native.glaze_not_high},
                                                    {"agitator_running", &native.agitator_running},
                                                    {"agitator_healthy", &native.agitator_healthy}};
    const std::pair<const char*, const bool*> outputs[] = {
        {"infeed_run", &native.infeed_run},   {"dip_run", &native.dip_run},
        {"drip_run", &native.drip_run},       {"stop_raise", &native.stop_raise},
        {"clamp_close", &native.clamp_close}, {"lift_down", &native.lift_down},
        {"lift_up", &native.lift_up},         {"reject_push", &native.reject_push},
        {"fill_open", &native.fill_open},     {"agitator_run", &native.agitator_run},
        {"run_lamp", &native.run_lamp},       {"alarm_lamp", &native.alarm_lamp},
        {"ready_lamp", &native.ready_lamp},   {"horn", &native.horn},
        {"line_run", &native.line_run},       {"jog", &native.jog}};
    std::mt19937 random(17);
    int running = 0, steps_seen = 0;
    for (int scan = 0; scan < 60'000; ++scan) {
        for (const auto& [tag, value] : inputs) {
            // What keeps the machine from running is rare, so that it runs most of the time.
            const bool rare = tag == std::string("stop_pb") || tag == std::string("estop_ok") ||
                              tag == std::string("mode_auto") || tag == std::string("agitator_healthy") ||
                              tag == std::string("agitator_running") || tag == std::string("glaze_low");
            if (random() % 40 == 0) *value = rare ? random() % 30 != 0 : random() % 2 == 0;
            set(tag, *value);
        }
        if (random() % 50 == 0) native.level_raw = static_cast<std::int16_t>(14'000 + random() % 4000);
        if (random() % 50 == 0) native.colour_seen = static_cast<std::int16_t>(random() % 3);
        if (random() % 500 == 0) native.dwell_raw = static_cast<std::int16_t>(4000 + random() % 16'000);
        set("level_raw", native.level_raw);
        set("colour_seen", native.colour_seen);
        set("dwell_raw", native.dwell_raw);
        const Nanoseconds now(scan * 10'000'000LL);
        controller::solve(model, state, now);
        native.scan(now.count());
        for (const auto& [tag, value] : outputs) {
            INFO(tag, " in scan ", scan);
            REQUIRE(get(tag) == (*value ? 1.0 : 0.0));
        }
        INFO("scan ", scan);
        REQUIRE(get("dip_step") == native.dip_step);
        REQUIRE(get("alarm_code") == native.alarm_code);
        REQUIRE(get("rejected") == native.rejected);
        REQUIRE(get("level_m") == static_cast<double>(native.level_m));
        REQUIRE(get("dwell_time") == static_cast<double>(native.dwell_time));
        running += native.line_run ? 1 : 0;
        steps_seen |= 1 << (native.dip_step / 10);
    }
    CHECK(running > 10'000);
    CHECK(steps_seen == 0b11111110);  // every step of the sequence
}

TEST_CASE("the first brick comes when arithmetic says") {
    Line line(glaze_line());
    line.start();
    const double started = 0.06;  // the press is sampled, the belt starts in the step after
    REQUIRE(line.until("dip_eye", 1, 20));
    // From 0.2 m to the beam at 3.44 m, less half a brick, at 0.30 m/s.
    CHECK(base::to_seconds(line.session.now()) == doctest::Approx(started + (3.44 - 0.2 - 0.12) / 0.30).epsilon(0.003));
    REQUIRE(line.until("lift_bottom", 1, 5));
    const Nanoseconds down = line.session.now();
    REQUIRE(line.until("lift_bottom", 0, 5));
    // The knob at 25 % is 2 s; a scan to see it, one to act, one until the switch opens.
    CHECK(base::to_seconds(line.session.now() - down) == doctest::Approx(2.0).epsilon(0.02));
}

TEST_CASE("glaze in balance: what the bricks carry away is what is missing") {
    Line line(glaze_line());
    line.start();
    line.run(120);
    const double coated = line.get("glaze.coated");
    CHECK(coated >= 5);
    CHECK(line.get("glaze.volume") == doctest::Approx(0.46 * 0.9 * 0.7 - coated * 0.4e-3).epsilon(1e-9));
    CHECK(line.get("plant.items") ==
          line.get("brick_feed.fed") - line.get("kiln_car.counted") - line.get("second_pallet.counted"));
    CHECK(line.get("exit_count") >= line.get("kiln_car.counted"));
}

TEST_CASE("on a bad day the wrong variant drops a brick onto the lowered lift; the right logic does not") {
    const auto second_brick_height = [](const files::Yard& yard) {
        Line line(yard);
        line.start();
        REQUIRE(line.until("lift_bottom", 1, 30));
        const auto& plant = *yard.model->plant;
        REQUIRE(line.session.place_item(plant.find_item_type("brick"), plant.find_device("infeed"), 2.9, std::nullopt));
        const std::uint32_t id = line.session.plant().items.back().id;
        line.run(1.5);
        for (const plant::Item& item : line.session.plant().items) {
            if (item.id == id) return item.z_m;
        }
        return -1.0;
    };
    CHECK(second_brick_height(glaze_line()) == doctest::Approx(0.8));
    const std::string variant = VYARD_SOURCE "/examples/glaze-line/variants/early_infeed.st";
    CHECK(second_brick_height(glaze_line({{"logic/40_dip.st", variant}})) < 0.6);
}

TEST_CASE("every example yard loads without a warning, and its procedures pass") {
    for (const char* name :
         {"glaze-line", "seed-bags", "tile-stack", "dye-bath", "canal-lock", "herbarium", "book-press", "first-yard"}) {
        CAPTURE(name);
        Folder f;
        const std::string yard = std::string(VYARD_SOURCE "/examples/") + name;
        const auto check = f.run("check " + yard);
        CHECK(check.exit == 0);
        CHECK(check.err == "");
        const auto prove = f.run("prove " + yard);
        CHECK(prove.exit == 0);
        CHECK(contains(prove.out, "passed"));
    }
}

TEST_CASE("the same seed gives the same trace to the byte, another seed another one") {
    Folder f;
    const std::string yard = VYARD_SOURCE "/examples/seed-bags";
    const std::string orders =
        " --do \"press panel.start for 200 ms\" --do \"fault at_scale chatter 30 ms\" --do \"fault "
        "scale.weight noise 0.5 kg\" --do \"fault out slow 40 % at random every 5 s for 1 s\" --for 60s";
    REQUIRE(f.run("run " + yard + orders + " --out a").exit == 0);
    REQUIRE(f.run("run " + yard + orders + " --out b").exit == 0);
    CHECK(f.read("a/trace.csv") == f.read("b/trace.csv"));
    CHECK(f.read("a/trace.csv").size() > 10000);
    std::string other = in_source("examples/seed-bags/yard.toml");
    const std::size_t at = other.find("seed       = 7");
    REQUIRE(at != std::string::npos);
    other.replace(at, 14, "seed       = 8");
    for (const char* file : {"plant.toml", "map.csv", "logic/line.st", "procedures/line.proc"})
        f.write(std::string("y/") + file, in_source(std::string("examples/seed-bags/") + file));
    f.write("y/yard.toml", other);
    REQUIRE(f.run("run y" + orders + " --out c").exit == 0);
    CHECK(f.read("a/trace.csv") != f.read("c/trace.csv"));
}
