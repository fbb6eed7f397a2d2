// The checkout as a commissioning engineer meets it: planted mistakes of wiring are found, and nothing else is.
#include <nlohmann/json.hpp>

#include "program/support.hpp"

using namespace vyard;
using nlohmann::json;
using test::contains;
using test::Folder;
using test::Result;

namespace {

struct Mistake {
    const char *file, *from, *to;
    const char* failed;  ///< Tags in the order of the list.
    const char* remark;  ///< Part of the first one's.
};

constexpr Mistake kMistakes[] = {
    {"map.csv", "lift_down,lift.extend,,\nlift_up,lift.retract,,", "lift_down,lift.retract,,\nlift_up,lift.extend,,",
     "lift_down lift_up", "asked for 'down', and 'lift_top' came ('top'): crossed?"},
    {"map.csv", "clamp_open,clamp_opened.signal,,\nclamp_grip,clamp_gripped.signal,,",
     "clamp_open,clamp_gripped.signal,,\nclamp_grip,clamp_opened.signal,,", "clamp_open clamp_grip", "by their names"},
    {"map.csv", "0 m..0.6 m -> 4000..20000", "0 m..1 m -> 4000..20000", "level_raw",
     "the map scales 0 m..1 m, the device's signal is 0 m..0.6 m"},
    {"plant.toml", "range = \"0.6 m\"", "range = \"0.8 m\"", "level_raw",
     "the map scales 0 m..0.6 m, the device's signal is 0 m..0.8 m"},
    {"map.csv", "0 m..0.6 m -> 4000..20000", "0 m..0.6 m -> 4000..20000 swap bytes", "level_raw",
     "its bytes come in another order"},
    {"map.csv", "panel.mode.contact_1,,", "panel.mode.contact_1,invert,", "mode_auto", "the map inverts it"},
    {"map.csv", "panel.mode.contact_1,,", "panel.mode.contact_1,invert,inverted in the card", "", ""},
    {"map.csv", "stop_pb,panel.stop.contact,,", "stop_pb,panel.stop.contact,invert,", "stop_pb",
     "it is stated to be normally closed; the device's contact is normally closed, and the map inverts it"},
    {"map.csv", "run_lamp,panel.running.on,,", "run_lamp,panel.running.on,invert,", "run_lamp", "the map inverts it"},
    {"plant.toml", "[button.panel.stop]", "[button.panel.stop]\nplace = [\"1 m\", \"2 m\"]", "", ""},
};

}  // namespace

TEST_CASE("checkout finds planted mistakes of wiring in the example, and nothing else") {
    Folder sound;
    sound.copy_example();
    const Result all = sound.run("checkout glaze");
    CHECK(all.exit == 0);
    CHECK(contains(all.out, "38 tried now; 38 passed, 0 failed, 0 not tried, of 38"));
    for (const Mistake& m : kMistakes) {
        Folder f;
        f.copy_example();
        f.replace(std::string("glaze/") + m.file, m.from, m.to);
        CAPTURE(std::string(m.to));
        const Result r = f.run("checkout glaze --json");
        std::string failed, remark;
        for (const json& line : json::parse(r.out)) {
            if (line["verdict"] != "failed") continue;
            if (failed.empty()) remark = line["remark"];
            failed += (failed.empty() ? "" : " ") + std::string(line["tag"]);
        }
        CHECK(failed == m.failed);
        CHECK_MESSAGE(contains(remark, m.remark), remark);
        CHECK(r.exit == (failed.empty() ? 0 : 1));
    }
}

TEST_CASE("checkout shows what moved, for a person to sign") {
    Folder f;
    f.copy_example();
    const Result r = f.run("checkout glaze --csv --only lift");
    CHECK(contains(r.out, "\"lift.position 0.4 m, lift_top FALSE after 0.01 s, lift_bottom TRUE after 1.20 s\""));
    CHECK(contains(r.out, "\"lift.position 0 m, lift_bottom FALSE after 0.01 s, lift_top TRUE after 1.40 s\""));
    REQUIRE(f.run("checkout glaze --only lift --keep").exit == 0);
    const Result kept = f.run("checkout glaze --only lift --continue --csv");
    CHECK(contains(kept.out, "lift_bottom TRUE after 1.20 s"));
}
