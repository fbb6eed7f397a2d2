// The checkout of a controller that is executed elsewhere: what it reads is told by its echoes or by a person, what it
// sets comes over the link.
#include "program/bus_support.hpp"

#include <fcntl.h>
#include <sys/stat.h>

#include <atomic>
#include <sstream>

using namespace vyard;
using namespace vyard::test;

namespace {

/// The row of a tag in checkout.csv.
std::string row_of(const std::string& csv, const std::string& tag) {
    std::istringstream lines(csv);
    for (std::string line; std::getline(lines, line);) {
        if (line.starts_with(tag + ",") || contains(line, "," + tag + ",")) return line;
    }
    return "";
}

}  // namespace

TEST_CASE("inputs that the controller repeats are checked without a person, through the stand-in") {
    Folder f;
    copy_mixer(f);
    for (const std::string& at : {std::string("server@127.0.0.1:0"), fmt::format("client@127.0.0.1:{}", some_port())}) {
        const Result all = f.run("checkout mixer --stand-in --csv --link " + at + "");
        CHECK_MESSAGE(all.exit == 0, all.out << all.err);
        for (const char* tag : {"start_pb", "stop_pb", "lid_shut", "bowl_back", "time_raw"})
            CHECK_MESSAGE(contains(row_of(all.out, tag), "passed"), row_of(all.out, tag));
        CHECK(contains(row_of(all.out, "time_raw"), "13824"));
        CHECK(contains(row_of(all.out, "arm_run"), "not tried"));
        CHECK(contains(row_of(all.out, "arm_run"), "nobody was there to set its tag"));
    }
    // Executed here nobody is asked, and all are tried.
    const Result here = f.run("checkout mixer --here --csv");
    CHECK(contains(row_of(here.out, "arm_run"), "passed"));
}

TEST_CASE("a controller that reads the wrong register, or the other way round, fails the line of that input") {
    Folder f;
    copy_mixer(f);
    f.replace("mixer/stand_in/mixer.st", "seen_start_pb := start_pb;", "seen_start_pb := reset_pb;");
    f.replace("mixer/stand_in/mixer.st", "seen_lid_shut := lid_shut;", "seen_lid_shut := NOT lid_shut;");
    f.replace("mixer/stand_in/mixer.st", "seen_time_raw := time_raw;", "seen_time_raw := time_raw / 2;");
    const Result all = f.run("checkout mixer --stand-in --csv --link server@127.0.0.1:0");
    CHECK(all.exit == 1);
    for (const char* tag : {"start_pb", "lid_shut", "time_raw"})
        CHECK_MESSAGE(contains(row_of(all.out, tag), "failed"), row_of(all.out, tag));
    CHECK(contains(row_of(all.out, "stop_pb"), "passed"));
    CHECK(contains(row_of(all.out, "start_pb"), "is discrete 0 what the controller reads for it"));
}

TEST_CASE("a mistake in a link is said once, and what builds on the link is not blamed for it") {
    Folder f;
    copy_mixer(f);
    for (const auto& [wrong, message] :
         {std::pair("echo = \"seen_\"", "'seen_' does not say where the input's name goes"),
          {"echo = \"sean_*\"", "none is named 'sean_start_pb'"},
          {"ecko = \"seen_*\"", "[controller.mixer.link] has no 'ecko'"},
          {"fresh = \"soon\"", "fresh"}}) {
        const std::string before = f.read("mixer/yard.toml");
        f.replace("mixer/yard.toml", "echo     = \"seen_*\"", wrong);
        if (std::string(wrong).starts_with("fresh")) f.replace("mixer/yard.toml", "fresh    = \"300 ms\"", "");
        const Result out = f.run("check mixer");
        f.write("mixer/yard.toml", before);
        CHECK(out.exit == 2);
        CHECK_MESSAGE(contains(out.err, message), out.err);
        CHECK_MESSAGE(contains(out.err, "1 error"), out.err);
        CHECK(!contains(out.err, "3_the_link.proc"));
    }
}

TEST_CASE("without echoes a person says what tags read, and sets those of outputs") {
    Folder f;
    copy_mixer(f);
    f.replace("mixer/yard.toml", "echo     = \"seen_*\"", "");
    // Inputs by answers: as expected twice, a number, a wrong one, a word that is none, a skip.
    const Result inputs = f.run("checkout mixer --stand-in --csv --only _pb --link server@127.0.0.1:0",
                                "y\n\nFALSE\nperhaps\nn\ny\ny\ns\n");
    CHECK_MESSAGE(contains(row_of(inputs.out, "start_pb"), "passed"), inputs.out << inputs.err);
    CHECK(contains(row_of(inputs.out, "stop_pb"), "failed"));
    CHECK(contains(row_of(inputs.out, "reset_pb"), "left out by hand"));
    CHECK(contains(inputs.err, "panel.start.contact is FALSE. Does start_pb read FALSE there?"));
    CHECK(contains(inputs.err, "'perhaps' is no answer"));
    CHECK(inputs.exit == 1);
}

TEST_CASE("what a controller sets comes over the link and moves what it should; a wrong register does not") {
    Folder f;
    copy_mixer(f);
    const int port = some_port();
    // The person at the controller is this test: it does what it is told, over a client of its own.
    f.replace("mixer/yard.toml", "locked   = true", "locked   = false");
    f.replace("mixer/yard.toml", "300 ms", "1500 ms");  // whatever else this machine does
    const auto check_out = [&](const std::string& tag, const std::string& only, int coil) {
        Running it(f, fmt::format("checkout mixer --csv --only {} --link server@127.0.0.1:{} < pipe", only, port),
                   "checkout.out");
        const int answers = ::open((f / "pipe").c_str(), O_WRONLY);  // waits until the program reads it
        std::atomic<int> value = 0;
        std::atomic<bool> ends = false;
        std::thread controller([&] {
            const Modbus client = connected(port);
            while (!ends) {
                modbus_write_bit(client.get(), coil, value);
                std::this_thread::sleep_for(std::chrono::milliseconds(20));
            }
        });
        it.wait_for_text(fmt::format("Set {} to TRUE there", tag));
        value = 1;
        for (int i = 0; i < 300 && it.lives() && !contains(it.said(), "Set " + tag + " to FALSE there"); ++i) {
            if (i == 150) CHECK(::write(answers, "\n", 1) == 1);  // it is set, and still does not come
            std::this_thread::sleep_for(std::chrono::milliseconds(20));
        }
        value = 0;
        for (int i = 0; i < 500 && it.lives(); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(20));
        ends = true;
        controller.join();
        ::close(answers);
        CHECK_MESSAGE(!it.lives(), it.said());
        return row_of(it.said(), tag);
    };
    REQUIRE(::mkfifo((f / "pipe").c_str(), 0600) == 0);
    const std::string right = check_out("bowl_tip", "bowl.extend", 1);
    CHECK_MESSAGE(contains(right, "passed"), right);
    CHECK(contains(right, "bowl"));
    const std::string wrong = check_out("kneads_lamp", "kneads_lamp", 3);  // the lamp's is coil 2
    CHECK_MESSAGE(contains(wrong, "failed"), wrong);
    CHECK(contains(wrong, "the tag did not come"));
    CHECK(contains(wrong, "is coil 2 what the controller writes it to"));
}
