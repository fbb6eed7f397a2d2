// The motion blocks of the library drive the axis device.
#include "core/support.hpp"

using namespace vyard;
using doctest::Approx;
using test::PlantText;

namespace {

constexpr const char* kLogic =
    "VAR_GLOBAL x : AXIS_REF; go, home, far, back, jog, hold, halt, clear : BOOL; END_VAR\n"
    "PROGRAM main VAR power : MC_Power; homing : MC_Home; to_far : MC_MoveAbsolute; shorter : MC_MoveRelative;\n"
    "run : MC_MoveVelocity; halting : MC_Halt; stopping : MC_Stop; resetting : MC_Reset; status : MC_ReadStatus;\n"
    "where : MC_ReadActualPosition; END_VAR\n"
    "power(Axis := x, Enable := go);\n"
    "homing(Axis := x, Execute := home);\n"
    "to_far(Axis := x, Execute := far, Position := 0.5, Velocity := 0.25);\n"
    "shorter(Axis := x, Execute := back, Distance := -0.1);\n"
    "run(Axis := x, Execute := jog, Velocity := -0.2);\n"
    "halting(Axis := x, Execute := halt);\n"
    "stopping(Axis := x, Execute := hold);\n"
    "resetting(Axis := x, Execute := clear);\n"
    "status(Axis := x, Enable := TRUE);\n"
    "where(Axis := x, Enable := TRUE);\n"
    "END_PROGRAM\n";

struct Rig {
    Rig() {
        PlantText p;
        p.add("axis.x",
              {{"travel", "1 m"}, {"speed", "0.5 m/s"}, {"acceleration", "2 m/s2"}, {"homing_speed", "0.1 m/s"}});
        std::vector<std::array<std::string, 3>> joins;
        for (const char* name : {"enable", "home", "move", "target", "velocity", "forward", "reverse", "stop", "reset",
                                 "ready", "homed", "busy", "in_position", "fault", "position", "speed"})
            joins.push_back({std::string("x.") + name, std::string("x.") + name, ""});
        session = std::make_unique<session::Session>(test::make_model(kLogic, p, joins));
    }
    double get(const std::string& name) {
        const auto signal = session::find_signal(session->model(), name);
        REQUIRE_MESSAGE(signal.has_value(), name);
        return session::read(*session, *signal);
    }
    void set(const std::string& name, bool value) { test::force(*session, name, value ? "TRUE" : "FALSE"); }
    double until(const std::string& name, double limit_s) {
        const auto begin = session->now();
        while (base::to_seconds(session->now() - begin) < limit_s) {
            session->step();
            if (get(name) != 0) return base::to_seconds(session->now() - begin);
        }
        return -1;
    }
    void run(double seconds) {
        for (int n = 0; n < static_cast<int>(seconds / 0.005); ++n) session->step();
    }
    std::unique_ptr<session::Session> session;
};

}  // namespace

TEST_CASE("power, home, absolute and relative moves") {
    Rig r;
    r.set("far", true);
    r.run(0.05);
    CHECK(r.get("main.to_far.Error") == 1);  // no power yet
    r.set("far", false);
    r.set("go", true);
    CHECK(r.until("main.power.Status", 1) > 0);
    CHECK(r.get("main.status.Standstill") == 1);
    r.set("home", true);
    r.run(0.1);
    CHECK(r.get("main.status.Homing") == 1);
    CHECK(r.until("main.homing.Done", 5) > 0.8);
    CHECK(r.get("main.where.Valid") == 1);
    r.set("far", true);
    const double took = r.until("main.to_far.Done", 5);
    CHECK(took == Approx(0.5 / 0.25 + 0.25 / 2.0).epsilon(0.05));
    CHECK(r.get("main.where.Position") == Approx(0.5).epsilon(0.002));
    r.set("back", true);
    CHECK(r.until("main.shorter.Done", 5) > 0);
    CHECK(r.get("x.position") == Approx(0.4).epsilon(0.003));
    CHECK(r.get("main.shorter.Error") == 0);
}

TEST_CASE("a new order takes the axis over; halt, stop, fault and reset") {
    Rig r;
    r.set("go", true);
    r.run(0.1);
    r.set("home", true);
    REQUIRE(r.until("main.homing.Done", 5) > 0);
    r.set("far", true);
    r.run(1.0);
    CHECK(r.get("main.status.DiscreteMotion") == 1);
    r.set("halt", true);
    CHECK(r.until("main.halting.Done", 2) > 0);
    CHECK(r.get("main.to_far.CommandAborted") == 1);
    const double at = r.get("x.position");
    CHECK(at > 0.1);
    CHECK(at < 0.45);
    r.set("jog", true);
    CHECK(r.until("main.run.InVelocity", 2) > 0);
    CHECK(r.get("main.status.ContinuousMotion") == 1);
    r.set("hold", true);
    CHECK(r.until("main.stopping.Done", 2) > 0);
    CHECK(r.get("main.run.CommandAborted") == 1);
    // A fault, and its reset.
    r.set("hold", false);
    r.run(0.05);
    const auto& plant = *r.session->model().plant;
    const int x = plant.find_device("x");
    const auto* jam = base::at(plant.devices, x).kind->find_fault("jammed");
    r.session->set_fault(x, *jam, 1);
    r.set("far", false);
    r.run(0.05);
    r.set("far", true);
    CHECK(r.until("main.to_far.Error", 3) > 0);
    CHECK(r.get("main.status.ErrorStop") == 1);
    r.session->set_fault(x, *jam, 0);
    r.set("clear", true);
    CHECK(r.until("main.resetting.Done", 1) > 0);
    CHECK(r.until("main.status.Standstill", 1) > 0);
}
