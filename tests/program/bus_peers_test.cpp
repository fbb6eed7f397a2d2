// Two controllers of one yard, each executed elsewhere, that exchange data over the bus by themselves in place of rows
// of the map: on one machine in lock step, and on three hosts (network namespaces) by the clock.
#include "program/bus_support.hpp"

#include <random>

using namespace vyard;
using namespace vyard::test;

namespace {

/// A feeder that is ready while its switch is on, and a packer that counts and packs while the feeder is.
void two_controllers(Folder& f, const std::string& feeder_at, const std::string& packer_at, bool locked) {
    f.write("pair/plant.toml", R"([selector.mode]
positions = ["off", "on"]

[button.pack]

[lamp.ready]

[lamp.packs]
)");
    f.write("pair/map.csv",
            "tag,point,scaling,note\n"
            "feeder.switch_on,mode,,\nfeeder.ready_lamp,ready,,\n"
            "packer.pack_pb,pack,,\npacker.packs,packs,,\n"
            "packer.feeder_ready,feeder.ready,,\npacker.feeder_count,feeder.made,,\n"
            "packer.feeder_rests,feeder.ready,invert,\n");
    f.write("pair/feeder_tags.st", R"(VAR_GLOBAL
    switch_on  AT %IX0.0 : BOOL;
    ready_lamp AT %QX0.0 : BOOL;
    ready      AT %MX0.0 : BOOL;
    made       AT %MW2 : INT;
END_VAR
)");
    f.write("pair/feeder.st", R"(PROGRAM feeder
VAR_EXTERNAL made : INT; switch_on, ready_lamp, ready : BOOL; END_VAR
    ready := switch_on;
    ready_lamp := ready;
    IF ready THEN made := made + 1; END_IF;
END_PROGRAM
)");
    f.write("pair/packer_tags.st", R"(VAR_GLOBAL
    pack_pb      AT %IX0.0 : BOOL;
    feeder_ready AT %IX0.1 : BOOL;
    feeder_rests AT %IX0.2 : BOOL;
    feeder_count AT %ID4 : DINT;
    packs        AT %QX0.0 : BOOL;
    rests        AT %MX0.1 : BOOL;
    seen         AT %MD4 : DINT;
END_VAR
)");
    f.write("pair/packer.st", R"(PROGRAM packer
VAR_EXTERNAL pack_pb, feeder_ready, feeder_rests, packs, rests : BOOL; feeder_count, seen : DINT; END_VAR
    packs := feeder_ready AND pack_pb;
    rests := feeder_rests;
    seen := feeder_count;
END_PROGRAM
)");
    const auto controller = [&](const std::string& name, const std::string& role, const std::string& at,
                                const std::string& more) {
        return fmt::format(
            "\n[controller.{0}]\nlogic = [\"{0}_tags.st\"]\nscan = \"20 ms\"\n\n[controller.{0}.link]\nrole = \"{1}\"\n"
            "at = \"{2}\"\nlocked = {3}\nfresh = \"2 s\"\nstand_in = [\"{0}.st\"]\n{4}",
            name, role, at, locked, more);
    };
    f.write("pair/yard.toml",
            "[yard]\nname = \"Pair\"\nplant = \"plant.toml\"\nmap = \"map.csv\"\ntime_step = \"10 ms\"\n" +
                controller("feeder", "client", feeder_at, "from = [\"10.77.0.0/24\", \"127.0.0.1\"]\n") +
                controller("packer", "server", packer_at,
                           "asks = [\"feeder\"]\nfrom = [\"10.77.0.0/24\", \"127.0.0.1\"]\n"));
    f.write("pair/on.proc", R"(procedure "packs while the feeder is ready"
step "off"
  turn mode to off
  press pack
  expect packer.packs = FALSE and packer.rests within 2 s
step "on"
  turn mode to on
  expect packer.packs and not packer.rests within 2 s
  expect packer.seen > 3 within 2 s
step "off again"
  turn mode to off
  expect packer.packs = FALSE within 2 s
)");
    f.write("pair/cable.proc", R"(procedure "the feeder is gone"
step "runs"
  turn mode to on
  press pack
  expect packer.packs within 3 s
step "gone"
  expect packer.packs = FALSE within 20 s
step "back"
  expect packer.packs within 20 s
)");
    f.replace("pair/yard.toml", "time_step", "procedures = [\"on.proc\", \"cable.proc\"]\ntime_step");
}

}  // namespace

namespace {

/// A trace without the columns whose name begins so, as what two controllers exchange by themselves is not seen here,
/// and without the rows in which nothing else changed.
std::string without(const std::string& csv, const std::string& prefix) {
    std::string out, before;
    std::vector<bool> left_out;
    std::istringstream lines(csv);
    for (std::string line; std::getline(lines, line);) {
        const bool header = left_out.empty();
        std::istringstream cells(line);
        std::size_t column = 0;
        std::string kept;
        for (std::string cell; std::getline(cells, cell, ',');) {
            if (header) left_out.push_back(cell.starts_with(prefix));
            if (!left_out.at(column++)) kept += (kept.empty() ? "" : ",") + cell;
        }
        const std::string values = kept.substr(std::min(kept.find(','), kept.size()));
        if (values != before) out += kept + "\n";
        before = values;
    }
    return out;
}

}  // namespace

TEST_CASE("two controllers elsewhere ask one another; in lock step that is to the byte what the map's rows do") {
    Folder f;
    two_controllers(f, fmt::format("127.0.0.1:{}", some_port()), "127.0.0.1:0", true);
    REQUIRE_MESSAGE(f.run("check pair --strict").exit == 0, f.run("check pair").err);
    REQUIRE_MESSAGE(f.run("prove pair on.proc --here").exit == 0, f.run("prove pair on.proc --here").out);
    const Result proof = f.run("prove pair on.proc --stand-in");
    CHECK_MESSAGE(proof.exit == 0, proof.out << proof.err);
    const std::string what = " --procedure on --for 5s";
    const Result alone = f.run("run pair --here --out here" + what);
    CHECK_MESSAGE(alone.exit == 0, alone.err);
    CHECK(f.run("run pair --stand-in --out bus" + what).exit == 0);
    CHECK(f.read("here/trace.csv").size() > 500);
    CHECK(without(f.read("bus/trace.csv"), "packer.feeder_") == without(f.read("here/trace.csv"), "packer.feeder_"));
    // What goes between the two is not on the plant's link, and cannot be named here.
    const std::string registers = f.run("map pair --registers --csv").out;
    CHECK(contains(registers,
                   "\"packer asks feeder, unit 1\",coil,16384,16385,,,feeder_ready,BOOL,bit,,asked for by itself,"
                   "%IX0.1,feeder.ready,,map"));
    CHECK(contains(registers, "\"packer asks feeder, unit 1\",holding,16385,16386,1,,feeder_count,DINT,INT,,"));
    CHECK(contains(registers, "feeder_rests,BOOL,bit,,asked for by itself,%IX0.2,feeder.ready,invert,map"));
    CHECK(!contains(registers, "\"packer, server, unit 1\",discrete,1,"));
    CHECK(contains(f.run("run pair --stand-in --do 'expect packer.feeder_ready'").err, "packer.feeder_ready"));
}

TEST_CASE("what they ask of one another is the same here and over the bus, whatever is done to links, tags and power") {
    Folder f;
    two_controllers(f, fmt::format("127.0.0.1:{}", some_port()), "127.0.0.1:0", true);
    static const char* const kOrders[] = {"turn mode to on",
                                          "turn mode to off",
                                          "press pack",
                                          "release pack",
                                          "fault link feeder lost",
                                          "fault link packer lost",
                                          "fault link feeder stuck",
                                          "fault link packer delay 60 ms",
                                          "fault link feeder drop 50 %",
                                          "heal link feeder",
                                          "heal link packer",
                                          "force feeder.ready = TRUE",
                                          "force feeder.made = 7",
                                          "force packer.packs = TRUE",
                                          "unforce all",
                                          "fault mode.contact_1 stuck on",
                                          "heal all"};
    std::mt19937 random(7);
    for (int run = 0; run < 12; ++run) {
        std::string text = "procedure \"random\"\nstep \"all\"\n";
        for (int i = 0; i < 40; ++i)
            text +=
                fmt::format("  {}\n  wait {} ms\n", kOrders[random() % std::size(kOrders)], 10 * (1 + random() % 15));
        f.write("pair/on.proc", text);
        const std::string what = " --procedure random --for 4s";
        const Result here = f.run("run pair --here --out here" + what);
        const Result bus = f.run("run pair --stand-in --out bus" + what);
        CHECK_MESSAGE(here.exit == bus.exit, here.err << bus.err);
        const std::string expected = without(f.read("here/trace.csv"), "packer.feeder_");
        CHECK(expected.size() > 500);
        CHECK_MESSAGE(without(f.read("bus/trace.csv"), "packer.feeder_") == expected, text);
    }
}

TEST_CASE("what cannot be asked for is said at its place") {
    Folder f;
    two_controllers(f, "127.0.0.1:1602", "127.0.0.1:1603", true);
    const auto says = [&](const std::string& file, const std::string& from, const std::string& to) {
        const std::string before = f.read(file);
        f.replace(file, from, to);
        const Result out = f.run("check pair");
        f.write(file, before);
        CHECK(out.exit == 2);
        return out.err;
    };
    CHECK(contains(says("pair/yard.toml", "asks = [\"feeder\"]", "asks = [\"feder\"]"),
                   "no other controller is named 'feder'"));
    CHECK(contains(says("pair/yard.toml", "role = \"client\"", "role = \"server\""),
                   "'feeder' cannot be asked: nothing connects to it"));
    CHECK(contains(says("pair/yard.toml", "asks = [\"feeder\"]", "asks = [\"packer\"]"),
                   "no other controller is named 'packer'"));
    const std::string rows = f.read("pair/map.csv");
    f.replace("pair/map.csv", "tag,point,scaling,note\n", "tag,point,scaling,note,delay\n");
    CHECK(contains(says("pair/map.csv", "packer.feeder_count,feeder.made,,", "packer.feeder_count,feeder.made,,,40 ms"),
                   "'feeder_count' is asked for over the bus, and its row has a delay"));
    f.write("pair/map.csv", rows);
    CHECK(contains(says("pair/feeder_tags.st", "made       AT %MW2 : INT", "made : INT"),
                   "'made' has no register of the link to feeder, so nobody can ask for it"));
    f.write("pair/map.csv",
            "tag,point,scaling,note\nfeeder.switch_on,mode,,\nfeeder.ready_lamp,ready,,\n"
            "packer.pack_pb,pack,,\npacker.packs,packs,,\n");
    CHECK(contains(f.run("check pair").err, "'feeder' is asked for nothing"));
}

namespace {

/// Hosts of our own: a bridge, and a namespace for each at 10.77.0.N.
class Hosts {
  public:
    explicit Hosts(const std::vector<std::string>& names) {
        prefix_ = fmt::format("vy{}", ::getpid() % 10'000);
        there_ = sh("ip link add {0}br type bridge && ip addr add 10.77.0.1/24 dev {0}br && ip link set {0}br up");
        for (const std::string& name : names) {
            const int number = static_cast<int>(names_.size()) + 2;
            names_.push_back(name);
            there_ =
                there_ &&
                sh(fmt::format("ip netns add {{0}}{0} && ip link add {{0}}{1} type veth peer name e0 netns {{0}}{0} && "
                               "ip link set {{0}}{1} master {{0}}br up && "
                               "ip -n {{0}}{0} addr add 10.77.0.{1}/24 dev e0 && ip -n {{0}}{0} link set e0 up && "
                               "ip -n {{0}}{0} link set lo up",
                               name, number));
        }
    }
    ~Hosts() {
        for (const std::string& name : names_) sh("ip netns del {0}" + name);
        sh("ip link del {0}br");
    }
    Hosts(const Hosts&) = delete;
    Hosts& operator=(const Hosts&) = delete;

    bool there() const { return there_; }
    std::string at(const std::string& name) const { return fmt::format("ip netns exec {}{}", prefix_, name); }
    /// Pulls a host's cable, or puts it in again.
    void cable(int number, bool in) { sh(fmt::format("ip link set {{0}}{} {}", number, in ? "up" : "down")); }

  private:
    bool sh(const std::string& command) const {
        return std::system(("(" + fmt::format(fmt::runtime(command), prefix_) + ") > /dev/null 2>&1").c_str()) == 0;
    }
    std::string prefix_;
    std::vector<std::string> names_;
    bool there_ = false;
};

}  // namespace

TEST_CASE("a plant and two controllers on three hosts, which exchange data by the clock and lose a cable") {
    const Hosts hosts({"plant", "feeder", "packer"});
    if (!hosts.there()) {
        MESSAGE("no network namespaces can be made here, so nothing was tried on several hosts");
        return;
    }
    Folder f;
    two_controllers(f, "10.77.0.3:1502", "10.77.0.2:1502", false);
    Running feeder(f, "stand-in pair feeder", "feeder.out", hosts.at("feeder"));
    Running packer(f, "stand-in pair packer", "packer.out", hosts.at("packer"));
    const fs::path out = f / "proof.out";
    const auto vyard = [&](const std::string& arguments) {
        return std::system(fmt::format("cd '{}' && {} '{}' {} > '{}' 2>&1", f.path().string(), hosts.at("plant"),
                                       VYARD_PROGRAM, arguments, out.string())
                               .c_str());
    };
    CHECK_MESSAGE(vyard("prove pair on.proc") == 0, slurp(out) << feeder.said() << packer.said());
    CHECK(contains(slurp(out), "where other machines can reach it; 10.77.0.0/24, 127.0.0.1 may connect"));
    // The feeder's cable is pulled: the packer finds out by itself, the plant by its own link, and both come back.
    std::thread puller([&] {
        std::this_thread::sleep_for(std::chrono::seconds(4));
        const_cast<Hosts&>(hosts).cable(3, false);
        std::this_thread::sleep_for(std::chrono::seconds(6));
        const_cast<Hosts&>(hosts).cable(3, true);
    });
    vyard("prove pair cable.proc");
    puller.join();
    const std::string said = slurp(out);
    CHECK_MESSAGE(contains(said, "the link to 'feeder' was lost"), said);
    CHECK_MESSAGE(!contains(said, "the link to 'packer' was lost"), said);
    for (const char* step : {"runs", "gone", "back"}) CHECK_MESSAGE(contains(said, step), said);
    packer.end();
    CHECK(contains(packer.said(), "asked others"));
}
