// Controllers over the fieldbus: the built program against a stand-in of its own, a command-line client, a client
// library, and against what is no client at all.
#include "link/client.hpp"
#include "link/server.hpp"
#include "program/bus_support.hpp"

#include <arpa/inet.h>
#include <fcntl.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <sys/stat.h>

#include <array>
#include <random>

using namespace vyard;
using namespace vyard::test;
using controller::RegisterArea;
using link::Cell;
using logic::Elementary;

namespace {

int raw_socket(int port) {
    const int s = ::socket(AF_INET, SOCK_STREAM, 0);
    sockaddr_in to{};
    to.sin_family = AF_INET;
    to.sin_port = htons(static_cast<std::uint16_t>(port));
    to.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    if (::connect(s, reinterpret_cast<const sockaddr*>(&to), sizeof to) != 0) {
        ::close(s);
        return -1;
    }
    return s;
}

/// Coils 0..2, a discrete, an input register and a REAL, a DINT and two lone registers.
std::vector<Cell> some_cells() {
    return {{{RegisterArea::Coil, 0}, Elementary::Bool, true},
            {{RegisterArea::Coil, 1}, Elementary::Bool, false},
            {{RegisterArea::Coil, 2}, Elementary::Bool, true},
            {{RegisterArea::Discrete, 4}, Elementary::Bool, false},
            {{RegisterArea::Input, 2}, Elementary::Int, false},
            {{RegisterArea::Holding, 0}, Elementary::Int, true},
            {{RegisterArea::Holding, 2, 2}, Elementary::Dint, true},
            {{RegisterArea::Holding, 4, 2}, Elementary::Real, false},
            {{RegisterArea::Holding, 6, 1, 3}, Elementary::Bool, true}};
}

}  // namespace

TEST_CASE("a yard is proved over the bus in lock step, in both roles, and its runs are those of the logic here") {
    Folder f;
    copy_mixer(f);
    REQUIRE(f.run("run mixer --here --procedure 3 --for 4s --out here").exit == 0);
    const std::string expected = f.read("here/trace.csv");
    CHECK(expected.size() > 1000);
    for (const std::string& at : {std::string("server@127.0.0.1:0"), fmt::format("client@127.0.0.1:{}", some_port())}) {
        const std::string line = "--stand-in --link " + at;
        const Result proof = f.run("prove mixer " + line);
        CHECK_MESSAGE(proof.exit == 0, proof.out << proof.err);
        CHECK(contains(proof.out, "3 of 3 procedures passed"));
        CHECK(contains(proof.out, "the link to 'mixer' was lost at 1.340 s for 0.020 s"));
        CHECK(f.run("run mixer --procedure 3 --for 4s --out bus --link-record came.csv " + line).exit == 0);
        CHECK(f.read("bus/trace.csv") == expected);
        // Done again from what came, without anybody elsewhere.
        const Result again = f.run("run mixer --procedure 3 --for 4s --out again --link-replay came.csv");
        CHECK_MESSAGE(again.exit == 0, again.err);
        CHECK(f.read("again/trace.csv") == expected);
        CHECK(f.run("compare again/trace.csv here/trace.csv").exit == 0);
    }
    // What each exchange took, by the wall clock.
    REQUIRE(f.run("run mixer --for 200ms --stand-in --link server@127.0.0.1:0 --link-times times.csv").exit == 0);
    const std::string times = f.read("times.csv");
    CHECK(times.starts_with("time_s,controller,late_ms,took_ms,came\n0,mixer,,"));
    CHECK(std::count(times.begin(), times.end(), '\n') == 12);
    CHECK(contains(times, "\n0.2,mixer,,"));
    const std::string tags = f.read("mixer/tags.st");
    const std::string onto_input = "--stand-in --link server@127.0.0.1:0 --link-times mixer/tags.st";
    CHECK(f.run("serve mixer --for 1s " + onto_input).exit == 2);
    CHECK(f.read("mixer/tags.st") == tags);
    // Procedure by procedure, too.
    const Result proof = f.run("prove mixer --stand-in --link server@127.0.0.1:0 --link-record proof.csv");
    const Result replayed = f.run("prove mixer --link-replay proof.csv");
    CHECK(replayed.exit == 0);
    CHECK(contains(proof.out, replayed.out));
    f.replace("came.csv", "arm_run", "arm_rum");
    const Result wrong = f.run("run mixer --link-replay came.csv");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "no tag is named 'arm_rum'"));
}

TEST_CASE("without its controller a proof fails and says so; what runs all by itself asks for --here") {
    Folder f;
    copy_mixer(f);
    const Result proof = f.run("prove mixer 1_a_batch --wait 200ms --link server@127.0.0.1:0");
    CHECK(proof.exit == 1);
    CHECK(contains(proof.err, "waiting for 'mixer', server at 127.0.0.1:"));
    CHECK(
        contains(proof.err, "nothing came from 'mixer' within 0.2 s: nobody is connected; the run begins without it"));
    CHECK(contains(proof.out, "nothing ever came from 'mixer', which is executed elsewhere"));
    CHECK(f.run("check mixer --strict").exit == 0);
    CHECK_MESSAGE(f.run("check mixer --strict --here").exit == 0, f.run("check mixer --here").err);
    f.replace("mixer/stand_in/mixer.st", "safe := estop_ok", "safe := estop_okay");
    CHECK(f.run("check mixer").exit == 0);
    CHECK(contains(f.run("check mixer --here").err, "no variable is named 'estop_okay'"));
    CHECK(f.run("stand-in mixer --for 1s").exit == 2);
    f.replace("mixer/stand_in/mixer.st", "estop_okay", "estop_ok");
    const Result draw = f.run("campaign smoke mixer");
    CHECK(draw.exit == 2);
    CHECK(contains(draw.err, "'mixer' is executed elsewhere, and this command runs all by itself"));
    CHECK(contains(draw.err, "--here executes the logic of its stand-in here"));
    CHECK(f.run("campaign smoke mixer --here").exit == 0);
    CHECK(contains(f.run("run mixer --here --stand-in").err, "--here"));
    CHECK(contains(f.run("run mixer --do 'expect mixer.knead.ET < T#1s' --link 127.0.0.1:0").err, "no tag"));
    CHECK(contains(f.run("run mixer --do 'fault link late'").err, "a link has no fault 'late'"));
    CHECK(contains(f.run("run mixer --link 127.0.0.1:x").err, "'127.0.0.1:x' is no address"));
    CHECK(contains(f.run("run mixer --link boss@127.0.0.1:1").err, "'boss' is no role of a link"));
}

TEST_CASE("a failed step of a controller elsewhere is explained by what came over its link") {
    Folder f;
    copy_mixer(f);
    f.write("mixer/procedures/9_wrong.proc",
            "procedure \"Wrong\"\nstep \"Runs\"\n  press panel.start for 200 ms\n  wait until arm_run within 1 s\n"
            "step \"Alarm\"\n  expect fault_lamp within 800 ms\n");
    const Result bus = f.run("prove mixer 9_wrong --stand-in --link server@127.0.0.1:0");
    const Result here = f.run("prove mixer 9_wrong --here");
    CHECK(bus.exit == 1);
    CHECK(here.exit == 1);
    CHECK_MESSAGE(contains(bus.out, "fault_lamp is FALSE"), bus.out);
    CHECK(contains(bus.out, "so it came over the link from mixer, which is executed elsewhere"));
    // What changed meanwhile is what changed here.
    const std::size_t at = here.out.find("arm_runs: FALSE, TRUE at ");
    REQUIRE_MESSAGE(at != std::string::npos, here.out);
    const std::string line = here.out.substr(at, here.out.find('\n', at) - at);
    CHECK_MESSAGE(contains(bus.out, line), bus.out << "\n" << line);
    // With the link pulled that is the cause.
    f.replace("mixer/procedures/9_wrong.proc", "step \"Alarm\"\n", "step \"Alarm\"\n  fault link lost\n");
    const Result lost = f.run("prove mixer 9_wrong --stand-in --link server@127.0.0.1:0");
    CHECK_MESSAGE(contains(lost.out, "the link to mixer is lost, so its safe value counts"), lost.out);
    CHECK(contains(lost.out, "fault: link mixer lost"));
}

TEST_CASE("the register map is listed for people and programs, and what clashes is said at its place") {
    Folder f;
    copy_mixer(f);
    const Result list = f.run("map mixer --registers");
    CHECK(contains(list.out,
                   "holding   16386   16387   2          kneaded           REAL  REAL         high word first"));
    CHECK(contains(list.out, "between them free: coil 4 to 16543, holding 2 to 16383"));
    CHECK(contains(list.out, "the count of scans stands in input 60000, the answer to it in holding 60000"));
    CHECK(contains(f.run("map mixer --registers --csv").out,
                   "coil,0,1,,,arm_run,BOOL,bit,,from the controller,%QX0.0,arm.run,,rule"));
    CHECK(contains(f.run("map mixer --registers --link client@ --csv").out,
                   "holding,4097,4098,1,,time_raw,INT,INT,,to the controller"));
    // The same as a figure, which needs nobody elsewhere.
    REQUIRE(f.run("draw registers mixer --out r.svg").exit == 0);
    const std::string figure = f.read("r.svg");
    for (const char* text :
         {"kneaded REAL, high word first", "arm_run &gt; arm.run", "stop_pb &lt; panel.stop.contact", "2 to 16383 free",
          "16387", "mixer: connects to the plant, at 127.0.0.1:1502, unit 1", "count of scans", "the answer to it"})
        CHECK_MESSAGE(contains(figure, text), text);
    CHECK(contains(f.run("draw registers mixer --link client@ --out -").out, "time_raw INT &lt; panel.minutes.value"));
    CHECK(contains(f.run("draw plan mixer").err, "is executed elsewhere"));
    f.copy_example();
    CHECK(contains(f.run("draw registers glaze").err, "no controller of this yard has a link"));
    f.replace("mixer/map.csv", "tag,point,scaling,note", "tag,point,scaling,note,register");
    f.replace("mixer/map.csv", "batches,panel.batches,,",
              "batches,panel.batches,,,holding 10 swap bytes\nkneaded,,,,holding 11");
    const Result odd = f.run("check mixer");
    CHECK(contains(odd.err,
                   "map.csv:17:12: warning: 'kneaded' takes 2 registers from 11 on, an odd number [register-odd]"));
    f.replace("mixer/map.csv", "holding 11", "holding 10");
    CHECK(contains(f.run("check mixer").err, "'batches' and 'kneaded' share holding 10"));
    f.replace("mixer/yard.toml", "role     = \"server\"", "role = \"sever\"");
    f.replace("mixer/yard.toml", "127.0.0.1:1502", "127.0.0.1:99999");
    const Result wrong = f.run("check mixer");
    CHECK(contains(wrong.err, "'sever' is no role of a link"));
    CHECK(contains(wrong.err, "'127.0.0.1:99999' is no address"));
    CHECK(wrong.exit == 2);
}

TEST_CASE("a screen reads what the tags are and writes what it may, by a command-line client and a library") {
    Folder f;
    write_small_yard(f);
    f.replace("line.st", "    run AT %QX0.0 : BOOL;\n",
              "    run AT %QX0.0 : BOOL;\n    speed AT %MW0 : INT;\n    far AT %MD4 : LREAL;\n");
    f.replace("line.st", "    run := ", "    IF speed > 5 THEN far := far + 1.0; END_IF;\n    run := ");
    f.write("yard.toml",
            f.read("yard.toml") +
                "\n[controller.line.link]\nrole = \"screen\"\nat = \"127.0.0.1:0\"\nwrite = [\"speed\"]\n");
    f.replace("line.st", "far AT %MD4", "far AT %ML8");
    Running serving(f, "serve");
    const std::string at = serving.wait_for("serving Small at 127.0.0.1:");
    const int port = std::stoi(at);
    const auto mbpoll = [&](const std::string& what) {
        const std::string out = (f / "mbpoll.out").string();
        const int status =
            std::system(fmt::format("mbpoll -m tcp -p {} -a 1 -0 -1 {} >'{}' 2>&1", port, what, out).c_str());
        return std::pair(status, slurp(out));
    };
    CHECK(contains(mbpoll("-t 1 -r 0 -c 3 127.0.0.1").second, "[1]: \t1"));  // the stop button, closed
    CHECK(contains(mbpoll("-t 4 -r 16384 -c 1 127.0.0.1").second, "[16384]: \t0"));
    CHECK(mbpoll("-t 4 -r 16384 127.0.0.1 7").first == 0);
    CHECK(contains(mbpoll("-t 0 -r 0 127.0.0.1 1").second, "Illegal data address"));  // run is not listed
    const Modbus m = connected(port);
    std::array<std::uint16_t, 8> words{};
    double far = 0.0;
    for (int i = 0; i < 100 && far < 3.0; ++i) {
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
        REQUIRE(modbus_read_registers(m.get(), 16'384, 8, words.data()) == 8);
        std::uint64_t bits = 0;
        for (int k = 4; k < 8; ++k) bits = (bits << 16U) | words[static_cast<std::size_t>(k)];
        far = std::bit_cast<double>(bits);
    }
    CHECK(words[0] == 7);
    CHECK(far >= 3.0);
    CHECK(serving.end() == 128 + SIGTERM);
    CHECK(contains(serving.said(), "1 exception"));
}

TEST_CASE("a server carries out all function codes and refuses what it must, value by value") {
    std::string problem;
    const auto tables = std::make_shared<link::Tables>(some_cells(), -1);
    link::Server server({"127.0.0.1", 0, {}, 8, 0}, {{1, tables}}, problem);
    REQUIRE(problem == "");
    std::vector<logic::Value> now(some_cells().size());
    now[1] = now[3] = {Elementary::Bool, 1, {}};
    now[4] = {Elementary::Int, 0xFFF6, {}};
    now[7] = {Elementary::Real, 0x40490FDB, {}};
    tables->publish({1, 3, 4, 7}, now, 0);
    const Modbus m = connected(server.port());
    std::array<std::uint8_t, 8> bits{};
    std::array<std::uint16_t, 8> words{};
    CHECK(modbus_read_bits(m.get(), 0, 3, bits.data()) == 3);  // 1
    CHECK(bits[1] == 1);
    CHECK(modbus_read_input_bits(m.get(), 4, 1, bits.data()) == 1);  // 2
    CHECK(bits[0] == 1);
    CHECK(modbus_read_registers(m.get(), 4, 2, words.data()) == 2);  // 3
    CHECK(words[0] == 0x4049);
    CHECK(modbus_read_input_registers(m.get(), 2, 1, words.data()) == 1);  // 4
    CHECK(words[0] == 0xFFF6);
    CHECK(modbus_write_bit(m.get(), 0, 1) == 1);                // 5
    CHECK(modbus_write_register(m.get(), 0, 41) == 1);          // 6
    CHECK(modbus_write_bits(m.get(), 2, 1, bits.data()) == 1);  // 15
    const std::array<std::uint16_t, 2> dint{0x0001, 0x0002};
    CHECK(modbus_write_registers(m.get(), 2, 2, dint.data()) == 2);                               // 16
    CHECK(modbus_mask_write_register(m.get(), 0, 0x00F0, 0x0005) == 1);                           // 22
    CHECK(modbus_write_and_read_registers(m.get(), 2, 2, dint.data(), 0, 4, words.data()) == 4);  // 23
    CHECK(words[0] == ((41 & 0x00F0) | (0x0005 & ~0x00F0)));
    CHECK(words[2] == 1);
    CHECK(modbus_write_register(m.get(), 6, 8) == 1);  // a bit of a register
    const auto values = tables->read({0, 2, 5, 6, 8});
    CHECK(values[0].bits == 1);
    CHECK(values[2].bits == 1);
    CHECK(values[5].bits == 0x25);
    CHECK(values[6].bits == 0x00010002);
    CHECK(values[8].bits == 1);
    CHECK(tables->take_requests() == 11);
    CHECK(tables->written());
    const auto written = tables->take_written();
    CHECK(written.size() == 5);
    CHECK(tables->take_written().empty());

    const auto refused = [&](int result, int code) { return result == -1 && errno == MODBUS_ENOBASE + code; };
    CHECK(refused(modbus_write_bit(m.get(), 1, 1), 2));  // may only be read
    CHECK(refused(modbus_write_register(m.get(), 4, 1), 2));
    CHECK(refused(modbus_write_register(m.get(), 2, 1), 2));                // half of a DINT
    CHECK(refused(modbus_write_register(m.get(), 1, 1), 2));                // belongs to no tag
    CHECK(refused(modbus_read_registers(m.get(), 0, 8, words.data()), 2));  // beyond the last
    CHECK(refused(modbus_read_bits(m.get(), 3, 1, bits.data()), 2));
    CHECK(modbus_read_registers(m.get(), 0, 7, words.data()) == 7);  // what lies between reads as 0
    CHECK(words[1] == 0);
    std::array<std::uint8_t, 32> reply{};
    const auto raw = [&](std::vector<std::uint8_t> request) {
        REQUIRE(modbus_send_raw_request(m.get(), request.data(), static_cast<int>(request.size())) > 0);
        const int length = modbus_receive_confirmation(m.get(), reply.data());
        return length >= 9 && (reply[7] & 0x80) != 0 ? static_cast<int>(reply[8]) : 0;
    };
    CHECK(raw({1, 7}) == 1);  // no function that is served
    CHECK(raw({1, 17}) == 1);
    CHECK(raw({1, 3, 0, 0, 0, 126}) == 3);  // more than a request may ask for
    CHECK(raw({1, 3, 0, 0, 0, 0}) == 3);
    CHECK(raw({1, 5, 0, 0, 0x12, 0x34}) == 3);
    CHECK(raw({2, 3, 0, 0, 0, 1}) == 11);   // another unit
    CHECK(raw({255, 3, 0, 0, 0, 1}) == 0);  // whoever is there
    CHECK(server.counts().exceptions == 12);
}

TEST_CASE("values of several registers are never torn, while they change as fast as they can") {
    std::string problem;
    std::vector<Cell> cells = {{{RegisterArea::Holding, 0, 4}, Elementary::Lword, true},
                               {{RegisterArea::Input, 0, 4}, Elementary::Lword, false}};
    const auto tables = std::make_shared<link::Tables>(cells, -1);
    link::Server server({"127.0.0.1", 0, {}, 8, 0}, {{1, tables}}, problem);
    REQUIRE(problem == "");
    std::atomic<bool> ends = false;
    std::thread writer([&] {
        for (std::uint64_t n = 0; !ends; ++n)
            tables->publish({1}, {{}, {Elementary::Lword, (n & 0xFFFF) * 0x0001000100010001, {}}}, 0);
    });
    std::thread other([&] {
        const Modbus m = connected(server.port());
        for (std::uint16_t n = 0; !ends; ++n) {
            const std::array<std::uint16_t, 4> words{n, n, n, n};
            if (modbus_write_registers(m.get(), 0, 4, words.data()) != 4) return;
        }
    });
    const Modbus m = connected(server.port());
    std::array<std::uint16_t, 4> words{};
    int torn = 0;
    for (int i = 0; i < 3000; ++i) {
        const bool in = i % 2 == 0;
        REQUIRE((in ? modbus_read_input_registers(m.get(), 0, 4, words.data())
                    : modbus_read_registers(m.get(), 0, 4, words.data())) == 4);
        torn += std::set<std::uint16_t>(words.begin(), words.end()).size() == 1 ? 0 : 1;
        const std::uint64_t whole = tables->read({0})[0].bits;
        torn += whole == (whole & 0xFFFF) * 0x0001000100010001 ? 0 : 1;
    }
    CHECK(torn == 0);
    ends = true;
    writer.join();
    other.join();
}

TEST_CASE("half frames, floods, silence, strangers and the killed do not hold up who behaves") {
    std::string problem;
    const auto tables = std::make_shared<link::Tables>(some_cells(), -1);
    link::Server server({"127.0.0.1", 0, {}, 6, 0}, {{1, tables}}, problem);
    REQUIRE(problem == "");
    const Modbus good = connected(server.port());
    std::array<std::uint16_t, 2> words{};
    const auto answers = [&] {
        const auto begin = std::chrono::steady_clock::now();
        const bool right = modbus_read_registers(good.get(), 4, 2, words.data()) == 2;
        return right && std::chrono::steady_clock::now() - begin < std::chrono::milliseconds(500);
    };
    // Connected and silent, half a header, half a frame, a length that is not so, one that reads nothing.
    const int silent = raw_socket(server.port()), half = raw_socket(server.port()), flood = raw_socket(server.port());
    REQUIRE(silent >= 0);
    REQUIRE(::send(half, "\0\1\0\0\0", 5, MSG_NOSIGNAL) == 5);
    const std::array<char, 12> request{0, 1, 0, 0, 0, 6, 1, 3, 0, 0, 0, 7};
    for (int i = 0; i < 20'000; ++i) {
        if (::send(flood, request.data(), request.size(), MSG_NOSIGNAL | MSG_DONTWAIT) < 0) break;
    }
    for (int i = 0; i < 20; ++i) CHECK(answers());
    // Random bytes, and frames of which some bytes are otherwise, from clients that are killed at any moment.
    std::mt19937 random(5);
    for (int round = 0; round < 300; ++round) {
        const int s = raw_socket(server.port());
        if (s < 0) continue;
        std::vector<char> bytes(request.begin(), request.end());
        if (round % 3 == 0) {
            bytes.resize(random() % 300);
            for (char& b : bytes) b = static_cast<char>(random());
        } else {
            for (int k = 0; k < 3; ++k) bytes[random() % bytes.size()] = static_cast<char>(random());
            bytes.resize(1 + random() % bytes.size());
        }
        static_cast<void>(::send(s, bytes.data(), bytes.size(), MSG_NOSIGNAL));
        const linger now{1, 0};  // a reset, as of a process that is killed
        if (round % 2 == 0) ::setsockopt(s, SOL_SOCKET, SO_LINGER, &now, sizeof now);
        ::close(s);
        if (round % 20 == 0) CHECK(answers());
    }
    // More than may connect at once are closed at once.
    std::vector<int> many;
    for (int i = 0; i < 12; ++i) many.push_back(raw_socket(server.port()));
    std::this_thread::sleep_for(std::chrono::milliseconds(300));
    CHECK(server.counts().refused > 0);
    CHECK(server.counts().clients <= 6);
    for (const int s : many) ::close(s);
    for (const int s : {silent, half, flood}) ::close(s);
    CHECK(answers());
    for (int i = 0; i < 100 && server.counts().clients > 1; ++i)
        std::this_thread::sleep_for(std::chrono::milliseconds(50));
    CHECK(server.counts().clients == 1);

    // Who is not on the list.
    link::Server closed({"127.0.0.1", 0, {"10.0.0.0/8"}, 6, 0}, {{1, tables}}, problem);
    const int stranger = raw_socket(closed.port());
    std::array<char, 4> nothing{};
    CHECK(::recv(stranger, nothing.data(), nothing.size(), 0) == 0);
    CHECK(closed.counts().refused == 1);
    ::close(stranger);
    // An address that is taken.
    link::Server second({"127.0.0.1", closed.port(), {}, 6, 0}, {{1, tables}}, problem);
    CHECK(contains(problem, "cannot listen at 127.0.0.1:"));
}

TEST_CASE("networks") {
    CHECK(link::within_network("10.0.0.0/8", "10.200.3.4"));
    CHECK(!link::within_network("10.0.0.0/8", "11.0.0.1"));
    CHECK(link::within_network("192.168.1.64/26", "192.168.1.127"));
    CHECK(!link::within_network("192.168.1.64/26", "192.168.1.128"));
    CHECK(link::within_network("127.0.0.1", "127.0.0.1"));
    CHECK(link::within_network("fd00::/8", "fd12::1"));
    CHECK(!link::within_network("fd00::/8", "10.0.0.1"));
    CHECK(!link::within_network("10.0.0.0/33", "10.0.0.0"));
    CHECK(!link::within_network("ten", "10.0.0.0"));
    CHECK(link::is_loopback("localhost"));
    CHECK(!link::is_loopback("0.0.0.0"));
}

TEST_CASE("the fewest requests: cells next to one another go together, within what one may carry") {
    std::vector<Cell> cells;
    for (std::uint32_t i = 0; i < 300; ++i)
        cells.push_back({{RegisterArea::Holding, 2 * i, 2}, Elementary::Dint, true});
    cells.push_back({{RegisterArea::Holding, 700}, Elementary::Int, true});
    for (std::uint32_t i = 0; i < 2500; ++i) cells.push_back({{RegisterArea::Coil, i}, Elementary::Bool, true});
    std::vector<int> all;
    for (int c = static_cast<int>(cells.size()); c-- > 0;) all.push_back(c);
    for (const bool write : {false, true}) {
        const auto blocks = link::blocks_of(cells, all, write);
        CHECK(blocks.size() == 2 + 5 + 1);
        std::size_t held = 0;
        for (const link::Block& b : blocks) {
            held += b.cells.size();
            CHECK(b.count <= (b.area == RegisterArea::Coil ? (write ? 1968U : 2000U) : (write ? 123U : 125U)));
            for (const int c : b.cells) {
                CHECK(cells[static_cast<std::size_t>(c)].place.first >= b.first);
                CHECK(cells[static_cast<std::size_t>(c)].place.end() <= b.first + b.count);
            }
        }
        CHECK(held == cells.size());
    }
}

TEST_CASE("a plant goes on while its controller is killed a hundred times and comes back, in real time") {
    Folder f;
    copy_mixer(f);
    f.replace("mixer/yard.toml", "locked   = true", "locked   = false");
    f.replace("mixer/yard.toml", "\"300 ms\"", "\"40 ms\"");
    const std::string link = fmt::format(" --link server@127.0.0.1:{}", some_port());
    Running plant(f, "serve mixer --wait 10s" + link);
    plant.wait_for("waiting for 'mixer'");
    std::mt19937 random(3);
    for (int life = 0; life < 100; ++life) {
        Running controller(f, "stand-in mixer" + link);
        std::this_thread::sleep_for(std::chrono::milliseconds(20 + random() % 60));
        controller.kill();
        REQUIRE(plant.lives());
    }
    {
        Running controller(f, "stand-in mixer" + link);
        std::this_thread::sleep_for(std::chrono::milliseconds(500));
    }
    std::this_thread::sleep_for(std::chrono::milliseconds(300));
    CHECK(plant.end() != 0);
    CHECK(contains(plant.said(), "the link to 'mixer' was lost at"));
    CHECK(contains(plant.said(), "and still is"));
}

TEST_CASE("runs of one scan each, one after the other, are told apart in lock step") {
    Folder f;
    copy_mixer(f);
    f.write("mixer/procedures/short.proc",
            "procedure \"One\"\nstep \"x\"\n    expect not arm_run\n\nprocedure \"Two\"\nstep \"x\"\n    expect not "
            "arm_run\n\nprocedure \"Three\"\nstep \"x\"\n    force start_pb = TRUE\n    wait 2 scans\n    expect "
            "arm_run\n    unforce all\n\nprocedure \"Four\"\nstep \"x\"\n    expect not arm_run\n");
    for (const std::string& at : {std::string("server@127.0.0.1:0"), fmt::format("client@127.0.0.1:{}", some_port())}) {
        const Result r = f.run("prove mixer -p One -p Two -p Three -p Four -p One --stand-in --link " + at);
        CHECK_MESSAGE(r.exit == 0, r.out << r.err);
        CHECK(contains(r.out, "7 scans, 7 answered"));
    }
    // The controller outlives a plant that ended after its first scan, too.
    const int port = some_port();
    Running controller(f, fmt::format("stand-in mixer --link client@127.0.0.1:{}", port));
    for (int run = 0; run < 3; ++run) {
        const Result r = f.run(fmt::format("prove mixer -p One --link client@127.0.0.1:{}", port));
        CHECK_MESSAGE(r.exit == 0, r.out << r.err);
        CHECK(contains(r.out, "1 scans, 1 answered"));
    }
}

TEST_CASE("a screen looks at a live session and writes to it; the link keeps the yard as it is") {
    Folder f;
    write_small_yard(f);
    f.replace("line.st", "    run AT %QX0.0 : BOOL;\n", "    run AT %QX0.0 : BOOL;\n    speed AT %MW0 : INT;\n");
    f.replace("line.st", "    run := ", "    run := speed > 99 OR ");
    f.write("yard.toml",
            f.read("yard.toml") +
                "\n[controller.line.link]\nrole = \"screen\"\nat = \"127.0.0.1:0\"\nwrite = [\"speed\"]\n");
    CHECK(!contains(f.run("check").err, "never-written"));
    REQUIRE(::mkfifo((f / "typed").c_str(), 0600) == 0);
    const int typed = ::open((f / "typed").c_str(), O_RDWR);  // nobody types anything, and nobody ends it
    Running live(f, "live --plain --watch speed,run <typed");
    const int port = std::stoi(live.wait_for("offered to screens at 127.0.0.1:"));
    const Modbus m = connected(port);
    std::array<std::uint16_t, 1> words{};
    REQUIRE(modbus_write_register(m.get(), 16'384, 123) == 1);
    std::array<std::uint8_t, 1> bits{};
    for (int i = 0; i < 100 && bits[0] == 0; ++i) {
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
        REQUIRE(modbus_read_bits(m.get(), 0, 1, bits.data()) == 1);
    }
    CHECK(bits[0] == 1);
    REQUIRE(modbus_read_registers(m.get(), 16'384, 1, words.data()) == 1);
    CHECK(words[0] == 123);
    ::close(typed);
}

TEST_CASE("what is said of links and means nothing is refused") {
    Folder f;
    write_small_yard(f);
    CHECK(contains(f.run("run --for 1s --link 127.0.0.1:1").err,
                   "--link 127.0.0.1:1: the yard says nothing of that link, so its role is wanted"));
    CHECK(
        contains(f.run("run --for 1s --link lin=screen@:1").err, "--link lin=screen@:1: no controller is named 'lin'"));
    CHECK(contains(f.run("run --for 1s --link lin=screen@:1").err, "did you mean 'line'?"));
    CHECK(contains(f.run("run --for 1s --here").err, "--here: no controller of this yard is executed elsewhere"));
    CHECK(contains(f.run("run line.st --for 1s --here").err, "a lone logic file has no link to anybody"));
    for (const char* line :
         {"run --for 1s --link 127.0.0.1:1", "prove --here", "run line.st --for 1s --link screen@:0"})
        CHECK_MESSAGE(f.run(line).exit == 2, line);
}

TEST_CASE("a link that is lost by itself is a failure in every form of the verdicts") {
    Folder f;
    copy_mixer(f);
    f.write("rest.proc", "procedure \"Rest\"\nstep \"x\"\n    wait 1 s\n    expect not arm_run\n");
    fs::copy(f / "rest.proc", f / "mixer/procedures/rest.proc");
    // What came for half a second, and then nothing.
    f.write("came.csv", "time_s,controller,tag,value\n0.000000000,mixer,,came\n0.500000000,mixer,,nothing\n");
    const Result r = f.run("prove mixer -p Rest --link-replay came.csv --out out");
    CHECK(r.exit == 1);
    const std::string lost = "the link to 'mixer' was lost at 0.800 s for 0.200 s, and still is";
    CHECK(contains(r.out, "failed           " + lost));
    CHECK(contains(f.read("out/junit.xml"), "<failure message=\"" + lost));
    CHECK(contains(f.read("out/junit.xml"), "failures=\"1\""));
    CHECK(contains(f.read("out/verdicts.json"), lost));
    CHECK(f.run("run mixer --for 1s --link-replay came.csv").exit == 1);
    CHECK(f.run("run mixer --for 600ms --link-replay came.csv").exit == 0);
}
