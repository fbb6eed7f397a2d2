// A step of a running session allocates nothing: every allocation of this program is counted. The address sanitizer
// brings its own allocator and leaves no room for ours, so under it this file is empty.
#ifndef __SANITIZE_ADDRESS__

#include <cstdlib>
#include <new>

#include <atomic>

#include "core/support.hpp"

namespace {
std::atomic<std::size_t> allocations = 0;  // threads of campaigns count too

void* counted(std::size_t size) {
    ++allocations;
    if (void* at = std::malloc(size > 0 ? size : 1)) return at;
    throw std::bad_alloc();
}
}  // namespace

void* operator new(std::size_t size) {
    return counted(size);
}
void* operator new[](std::size_t size) {
    return counted(size);
}
void operator delete(void* at) noexcept {
    std::free(at);
}
void operator delete[](void* at) noexcept {
    std::free(at);
}
void operator delete(void* at, std::size_t) noexcept {
    std::free(at);
}
void operator delete[](void* at, std::size_t) noexcept {
    std::free(at);
}

using namespace vyard;
using test::PlantText;

namespace {

session::SessionModelPtr model() {
    PlantText p;
    p.brick().add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "50 m"}, {"speed", "0.5 m/s"}});
    p.add("stopper.s", {{"on", "a"}, {"at", "4 m"}})
        .add("photoeye.see", {{"on", "a"}, {"at", "3 m"}})
        .add("pusher.push", {{"on", "a"}, {"at", "2 m"}});
    p.add("tank.t", {{"at", "[0 m, 3 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}, {"level", "0.5 m"}});
    p.add("level_transmitter.lt", {{"tank", "t"}})
        .add("valve.v", {{"from", "t"}})
        .add("motor.m", {})
        .add("button.start", {});
    return test::make_model(
        "VAR_GLOBAL eye AT %IX0.0 : BOOL; level AT %IW2 : INT; run AT %QX0.0 : BOOL; up AT %QX0.1 : BOOL; out AT "
        "%QX0.2 : BOOL; END_VAR\n"
        "FUNCTION_BLOCK blink VAR_OUTPUT q : BOOL; END_VAR VAR t : TON; END_VAR t(IN := NOT t.Q, PT := T#150ms); IF "
        "t.Q THEN q := NOT q; END_IF; END_FUNCTION_BLOCK\n"
        "PROGRAM p VAR b : blink; i, sum : INT; c : CTU; END_VAR\n"
        "b(); run := TRUE; up := b.q; out := b.q; c(CU := eye, PV := 3);\n"
        "sum := 0; FOR i := 1 TO 20 DO sum := sum + i * level / 100; END_FOR;\nEND_PROGRAM",
        p,
        {{"eye", "see", ""},
         {"level", "lt.level", "0 m..1 m -> 0..1000"},
         {"run", "a.run", ""},
         {"up", "s.raise", ""},
         {"out", "push.extend", ""}});
}

}  // namespace

TEST_CASE("scans and steps allocate nothing") {
    session::Session s(model());
    for (const double at : {0.5, 1.0, 1.6, 2.5}) s.place_item(0, s.model().plant->find_device("a"), at, std::nullopt);
    for (int i = 0; i < 1000; ++i) s.step();  // the first of each mishap takes its row
    const std::size_t before = allocations;
    for (int i = 0; i < 2000; ++i) s.step();
    CHECK(allocations == before);
    CHECK(s.plant().items.size() == 4);
    CHECK(before > 100);  // the counter counts
}

TEST_CASE("a recorder that sees no change allocates nothing") {
    session::Session s(model());
    s.stop(0);
    for (int i = 0; i < 500; ++i) s.step();
    trace::Trace trace;
    trace::Recorder recorder(s, trace::usual_channels(s.model()), {&trace});
    s.step();
    recorder.observe(s);
    const std::size_t before = allocations;
    for (int i = 0; i < 100; ++i) {
        s.step();
        recorder.observe(s);
    }
    CHECK(allocations == before);
}

TEST_CASE("copying a session allocates a few blocks, whatever its history") {
    session::Session s(model());
    for (int i = 0; i < 1000; ++i) s.step();
    const std::size_t before = allocations;
    const session::Session copy = s;
    CHECK(allocations - before <= 12);
    CHECK(copy.now() == s.now());
}

#endif
