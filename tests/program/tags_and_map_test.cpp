// The commands that show and mend the wiring: tags, map, checkout.
#include <nlohmann/json.hpp>

#include "program/support.hpp"

using namespace vyard::test;
using nlohmann::json;

namespace {

/// Two digital and one analog module around the small yard, with a tank.
void write_racked_yard(Folder& f) {
    write_small_yard(f);
    f.replace("yard.toml", "scan = \"10 ms\"\n",
              "scan = \"10 ms\"\n[[controller.line.module]]\nname = \"DI1\"\nkind = \"digital input\"\nchannels = 8\n"
              "address = \"%IB0\"\nfilter = \"3 ms\"\n[[controller.line.module]]\nname = \"DO1\"\nkind = \"digital "
              "output\"\nchannels = 8\naddress = \"%QB0\"\n[[controller.line.module]]\nname = \"AI1\"\nkind = \"analog "
              "input\"\nchannels = 2\naddress = \"%IW4\"\nrange = \"4..20 mA\"\nbits = 12\n");
    f.write("plant.toml",
            f.read("plant.toml") +
                "[tank.t]\nat = [\"0 m\", \"3 m\"]\nlength = \"1 m\"\nwidth = \"1 m\"\ndepth = \"1 m\"\nlevel "
                "= \"0.5 m\"\n[level_transmitter.lt]\ntank = \"t\"\n");
    f.replace("line.st", "END_VAR",
              "    // allow wire-unwatched: not looked at here\n    level AT %IW4 : INT; (* of the tank *)\n    high : "
              "BOOL;\nEND_VAR");
    f.replace("line.st", "END_PROGRAM", "    high := level > 15000;\nEND_PROGRAM");
    f.write("map.csv", f.read("map.csv") + "level,lt.level,,\n");
}

}  // namespace

TEST_CASE("tags: sorted, filtered, as CSV and JSON, in other forms") {
    Folder f;
    write_small_yard(f);
    const Result sorted = f.run("tags --sort tag --csv");
    CHECK(sorted.out.starts_with(
        "controller,tag,type,address,shares,initial,kept,at rest,point,scaling,reads,writes,description\n"
        ",run,BOOL,%QX0.0,,FALSE,,FALSE,a.run,,1,1,\n,see_tile,BOOL,%IX0.2,,FALSE,,FALSE,see.signal"));
    const Result filtered = f.run("tags --filter address=IX --filter point=sto");
    CHECK(contains(filtered.out, "stop_pb"));
    CHECK_FALSE(contains(filtered.out, "start_pb"));
    const json j = json::parse(f.run("tags --json").out);
    CHECK(j.size() == 4);
    CHECK(j[1]["tag"] == "stop_pb");
    CHECK(j[1]["at_rest"] == true);
    CHECK(f.run("tags --sort adress").err == "error: there is no column 'adress'\n    hint: did you mean 'address'?\n");
    CHECK(f.run("tags --filter nonsense").exit == 2);
    CHECK(f.run("tags --filter typ=BOOL").err == "error: there is no column 'typ'\n    hint: did you mean 'type'?\n");
    CHECK(f.run("tags --as octal").exit == 2);
    REQUIRE(f.run("tags --csv --out list/tags.csv").exit == 0);
    CHECK(f.read("list/tags.csv").starts_with("controller,tag"));
}

TEST_CASE("tags: cross-reference of one tag, what reads TRUE at rest, addresses, what is free") {
    Folder f;
    write_small_yard(f);
    const Result cross = f.run("tags --cross RUN");
    CHECK(contains(cross.out, "run : BOOL at %QX0.0\n  declared  line.st:5:5\n  joined    a.run\n"));
    CHECK(contains(cross.out, "written   line.st:8:5 in main\n              run := (run OR start_pb)"));
    CHECK(contains(cross.out, "read      line.st:8:13 in main"));
    CHECK(f.run("tags --cross rum").err == "error: no tag is named 'rum'\n    hint: did you mean 'run'?\n");
    const Result rest = f.run("tags --at-rest");
    CHECK(contains(rest.out, "stop_pb   %IX0.1   TRUE     stop.contact   TRUE with the machine idle"));
    CHECK(contains(rest.out, "which conditions are not met\n  run  run OR start_pb   (line.st:8:5)\n"));
    CHECK(contains(f.run("tags --addresses").out, "  %IB0    .... .###  X0.0 start_pb, X0.1 stop_pb, X0.2 see_tile"));
    CHECK(f.run("tags --next \"2 bool inputs\"").out == "%IX0.3\n%IX0.4\n");
    CHECK(f.run("tags --next \"1 dword output\"").out == "%QD4\n");
    CHECK(f.run("tags --next \"two inputs\"").exit == 2);
    CHECK(contains(f.run("tags --free").out, "%I    %IX0.3     the end"));
}

TEST_CASE("tags: a list is imported, what conflicts is said line by line, nothing is overwritten") {
    Folder f;
    write_small_yard(f);
    f.write("list.csv",
            "\xEF\xBB\xBFname;address;type;description\r\nrun;%QX0.0;BOOL;the same\r\nlamp;%QX0.1;BOOL;it runs\r\n"
            "count;%QW2;INT;pieces *) out\r\nmode;;INT;\r\n");
    const Result fresh = f.run("tags --import list.csv --out more.st");
    CHECK(fresh.exit == 0);
    CHECK(contains(fresh.out, "4 tags in the list: 1 there already, 3 new"));
    CHECK(f.read("more.st") ==
          "VAR_GLOBAL\n    lamp AT %QX0.1 : BOOL;  (* it runs *)\n    count AT %QW2 : INT;  (* pieces * ) out *)\n    "
          "mode : "
          "INT;\nEND_VAR\n");
    CHECK(f.run("check").exit == 0);
    CHECK(contains(f.run("tags --import list.csv --out again.st").out, ", 0 new"));
    f.write("wrong.csv",
            "tag,address,type\nrun,%QX0.1,BOOL\nstart_pb,%IX0.0,INT\nx,%IX0.1,BOOL\ny,%IW0,WORD\nx,,INT\n2z,,INT\nv,%"
            "IX9,BOOL\n"
            "w,%IW6,BOOL\n");
    const Result wrong = f.run("tags --import wrong.csv --out wrong.st");
    CHECK(wrong.exit == 2);
    CHECK_FALSE(f.has("wrong.st"));
    for (const char* message :
         {"wrong.csv:2:5: error: 'run' lies at %QX0.1 in the list, but at %QX0.0 at line.st:5:5",
          "wrong.csv:3:10: error: %IX0.0 has 1 bit, INT has 16",
          "wrong.csv:4:3: warning: %IX0.1 and %IX0.1 of 'stop_pb' at line.st:3:5 share bits",
          "wrong.csv:6:1: error: 'x' stands in the list twice; first at wrong.csv:4:1",
          "wrong.csv:7:1: error: '2z' is not a valid name of a tag",
          "wrong.csv:8:3: error: '%IX9' is not a valid address", "wrong.csv:9:3: error: %IW6 has 16 bits, BOOL has 1"})
        CHECK_MESSAGE(contains(wrong.err, message), wrong.err);
    f.write("new.csv", "tag,type\nq,BOOL\n");
    CHECK(contains(f.run("tags --import new.csv --out more.st").err,
                   "'more.st' is there already; nothing is overwritten"));
}

TEST_CASE("map: the joins, what is missing, proposals that are written only when told") {
    Folder f;
    write_small_yard(f);
    f.write("map.csv", "tag;point;note\r\nstart_pb;start;\r\n");
    const Result map = f.run("map");
    CHECK(contains(map.out, "start_pb  BOOL  %IX0.0   in         start.contact"));
    CHECK(contains(map.out, "1 join; 6 points and tags are joined to nothing"));
    const std::string before = f.read("map.csv");
    const Result proposed = f.run("map --propose");
    CHECK(contains(proposed.out, "stop.contact"));
    CHECK(contains(proposed.out, "nothing is written"));
    CHECK(f.read("map.csv") == before);
    const Result written = f.run("map --propose --at-least 10% --write");
    CHECK(contains(written.out, "3 rows added to"));
    CHECK(contains(f.read("map.csv"), "\r\nstop_pb;stop.contact;proposed: "));
    CHECK(f.run("check").err == "");
    CHECK(f.run("map --write").exit == 2);
    f.write("map.csv", "tag;point;scaling\nrun;a.run;0,5 m..1 m -> 0..1\n");
    CHECK(f.run("check").exit == 2);
}

TEST_CASE("check warns of two wires that look crossed, and not of those that are named otherwise") {
    Folder f;
    write_small_yard(f);
    f.write("map.csv", "tag,point\nstart_pb,stop\nstop_pb,start\nsee_tile,see.signal\nrun,a.run\n");
    const Result r = f.run("check");
    CHECK(r.exit == 0);
    CHECK(contains(
        r.err,
        "warning: 'start_pb' is joined to 'stop.contact' and 'stop_pb' to 'start.contact': by their names it is "
        "the other way round [likely-swapped]"));
    CHECK(contains(r.out, ": no errors, "));
    Folder well;
    write_small_yard(well);
    CHECK(well.run("check").err == "");
}

TEST_CASE("map: a decimal comma is refused with what to write") {
    Folder f;
    write_racked_yard(f);
    f.replace("map.csv", "level,lt.level,,", "level,lt.level,\"0,5 m..1 m -> 4 mA..20 mA\",");
    const Result r = f.run("check");
    CHECK(r.exit == 2);
    CHECK(contains(r.err, "hint: decimals are written with a point: 0.5 m"));
}

TEST_CASE("the wiring list has every channel, joined or spare") {
    Folder f;
    write_racked_yard(f);
    CHECK(f.run("check").err == "");
    const json j = json::parse(f.run("map --wires --json").out);
    REQUIRE(j.size() == 18);
    CHECK(j[2]["channel"] == 2);
    CHECK(j[2]["address"] == "%IX0.2");
    CHECK(j[2]["point"] == "see.signal");
    CHECK(j[2]["device"] == "photoeye");
    CHECK(j[3]["point"] == "spare");
    CHECK(j[16]["address"] == "%IW4");
    CHECK(j[16]["description"] == "of the tank");
    Folder bare;
    write_small_yard(bare);
    CHECK(contains(bare.run("map --wires").err, "this yard has no rack"));
    const Result run = f.run("run --for 100ms --do \"fault rack.AI1 lost\" --out results");
    CHECK(run.exit == 0);
    CHECK(contains(run.out, "fault: rack.AI1 lost"));
}

TEST_CASE("checkout: all at once, in parts over days, as a page to sign, and what fails") {
    Folder f;
    write_racked_yard(f);
    const Result all = f.run("checkout");
    CHECK(all.exit == 0);
    CHECK(contains(all.out, "5 tried now; 5 passed, 0 failed, 0 not tried, of 5"));
    CHECK(contains(all.out, "0 m | 0.25 m | 0.5 m | 0.75 m | 1 m"));
    CHECK_FALSE(f.has("checkout.csv"));
    const Result part = f.run("checkout --only _pb --keep --by A-shift");
    CHECK(contains(part.out, "2 tried now; 2 passed, 0 failed, 3 not tried, of 5; kept in"));
    CHECK_FALSE(contains(part.out, "not tried  "));  // only what was asked for is listed
    const Result none = f.run("checkout --only start_pump");
    CHECK(none.exit == 2);
    CHECK(contains(none.err, "no joined point or tag has 'start_pump' in its name"));
    CHECK(contains(f.read("checkout.csv"), "in,start.contact,start_pb,%IX0.0,,FALSE | TRUE | FALSE"));
    CHECK(contains(f.read("checkout.csv"), ",A-shift,"));
    const Result rest = f.run("checkout --continue --by B-shift");
    CHECK(contains(rest.out, "3 tried now; 5 passed, 0 failed, 0 not tried, of 5"));
    CHECK(contains(f.read("checkout.csv"), ",A-shift,"));
    // A changed join has to be tried again.
    f.replace("map.csv", "stop_pb,stop,,", "stop_pb,stop,invert,");
    const Result changed = f.run("checkout --continue");
    CHECK(changed.exit == 1);
    CHECK(contains(changed.out, "1 tried now; 4 passed, 1 failed"));
    f.replace("map.csv", "stop_pb,stop,invert,", "stop_pb,stop,invert,inverted by the safety relay");
    CHECK(contains(f.run("checkout --continue").out, "1 tried now; 5 passed"));
    REQUIRE(f.run("checkout --out signed").exit == 0);
    CHECK(contains(f.read("signed/checkout.html"), "<td>start_pb</td>"));
    CHECK(contains(f.read("signed/checkout.html"), "5 passed, 0 failed, 0 not tried, of 5 joined points"));
    CHECK(f.read("signed/checkout.csv").starts_with("direction,point,tag,address"));
    // Logic that writes its own input hides the wire.
    f.replace("line.st", "END_PROGRAM", "    high := FALSE;\nEND_PROGRAM");
    f.write("map.csv", f.read("map.csv") + "high,lamp,,\n");
    f.write("plant.toml", f.read("plant.toml") + "[lamp.lamp]\n");
    CHECK(f.run("checkout --only lamp").exit == 0);
    f.write("checkout.csv", "direction,point,tag\nin,,\n");
    const Result broken = f.run("checkout --keep");
    CHECK(broken.exit == 2);
    CHECK(contains(broken.err, "checkout.csv:2:1: error: this row of the checkout has no point or no tag"));
    CHECK(f.read("checkout.csv") == "direction,point,tag\nin,,\n");
}

TEST_CASE("figures of addresses and of the rack") {
    Folder f;
    write_racked_yard(f);
    REQUIRE(f.run("draw addresses --out a.svg").exit == 0);
    REQUIRE(f.run("draw rack --out r.png").exit == 0);
    CHECK(f.read("a.svg").size() > 3000);
    CHECK(f.read("r.png").starts_with("\x89PNG"));
    const std::string before = f.read("a.svg");
    f.replace("line.st", "high : BOOL", "high AT %IX4.0 : BOOL");
    f.replace("line.st", "high := level > 15000;", "");
    REQUIRE(f.run("draw addresses --out a.svg").exit == 0);
    CHECK(f.read("a.svg") != before);
    Folder bare;
    write_small_yard(bare);
    CHECK(bare.run("draw rack").exit == 2);
    CHECK_FALSE(bare.has("rack.svg"));
}
