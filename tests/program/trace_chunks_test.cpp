// A trace in chunks: written, read, written, compared; cut at every byte; any window of it.
#include "files/trace_chunks.hpp"
#include "files/text_file.hpp"
#include "program/support.hpp"
#include "program/trace_support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

namespace {

trace::Trace sample() {
    std::vector<trace::Channel> channels = {
        channel("run", 0, logic::Elementary::Bool), channel("big", 0, logic::Elementary::Ulint),
        channel("text", 0, logic::Elementary::String), channel("a.speed", -1, logic::Elementary::Lreal)};
    channels[1].names = std::make_shared<logic::ValueNames>(logic::ValueNames{{1, "one"}, {-1, "minus"}});
    trace::Trace t;
    t.begin(channels, {});
    for (int i = 0; i < 100; ++i) {
        const Nanoseconds at(i * 5'000'000LL);
        if (i % 10 == 0) t.change(at, 0, {logic::Elementary::Bool, static_cast<std::uint64_t>(i / 10 % 2), {}});
        if (i % 3 == 0)
            t.change(at, 1, {logic::Elementary::Ulint, ~std::uint64_t{0} - static_cast<std::uint64_t>(i), {}});
        if (i % 25 == 0) t.change(at, 2, {logic::Elementary::String, 0, fmt::format("text {}", i)});
        t.change(at, 3, logic::value_of(logic::Elementary::Lreal, 0.1 * i));
    }
    t.end(Nanoseconds(500'000'000));
    return t;
}

std::string chunks_of(const trace::Trace& trace, std::size_t a_chunk) {
    std::string out;
    files::ChunkSink sink([&](std::string_view text) { out += text; }, a_chunk);
    files::replay(trace, sink);
    return out;
}

files::ChunksRead read(Folder& f, const std::string& bytes, int from_ms = 0, int to_ms = 1000) {
    f.write("t.chunks", bytes);
    return files::read_chunks((f / "t.chunks").string(), Nanoseconds(from_ms * 1'000'000LL),
                              Nanoseconds(to_ms * 1'000'000LL));
}

}  // namespace

TEST_CASE("a trace in chunks: written, read and written again it is the same, whatever the size of chunks") {
    Folder f;
    const trace::Trace trace = sample();
    for (const std::size_t size : {1U, 7U, 50U, 100'000U}) {
        const auto back = read(f, chunks_of(trace, size));
        REQUIRE_MESSAGE(back.trace.has_value(), back.why);
        CHECK(*back.trace == trace);
        CHECK(back.trace->channels()[1].names->at(1).second == "minus");
        CHECK(chunks_of(*back.trace, size) == chunks_of(trace, size));
    }
}

TEST_CASE("a trace in chunks: any window has the values of the whole") {
    Folder f;
    const trace::Trace trace = sample();
    const std::string bytes = chunks_of(trace, 20);
    for (const auto& [from, to] : {std::pair(0, 100), {3, 4}, {100, 300}, {122, 123}, {490, 900}, {300, 300}}) {
        const auto part = read(f, bytes, from, to);
        REQUIRE_MESSAGE(part.trace.has_value(), part.why);
        for (std::uint32_t c = 0; c < 4; ++c) {
            for (int ms = from; ms <= std::min(to, 500); ++ms) {
                const Nanoseconds at(ms * 1'000'000LL);
                CHECK(part.trace->value_at(c, at) == trace.value_at(c, at));
            }
        }
    }
}

TEST_CASE("a trace in chunks that is cut at any byte is refused with its place") {
    Folder f;
    const std::string bytes = chunks_of(sample(), 60);
    for (std::size_t length = 0; length < bytes.size(); ++length) {
        const auto cut = read(f, bytes.substr(0, length));
        CHECK_FALSE(cut.trace.has_value());
        CHECK(cut.why.size() > 10);
    }
    // Bytes that are wrong never crash it.
    for (std::size_t at = 0; at < bytes.size(); at += 3) {
        std::string wrong = bytes;
        wrong[at] = static_cast<char>(~static_cast<unsigned char>(wrong[at]));
        read(f, wrong);
    }
    CHECK(read(f, "time,tag\n").why == "it is not a trace in chunks");
}

TEST_CASE("run writes a trace in chunks, draw shows a part of it") {
    Folder f;
    write_small_yard(f);
    CHECK(f.run("run --do \"press start for 100 ms\" --for 5s --chunks long.chunks").exit == 0);
    CHECK(f.run("draw timing --trace long.chunks --watch run,start_pb,a.run --from 0s --to 1s --out t.svg").exit == 0);
    CHECK(f.read("t.svg").size() > 1000);
    const Result wrong = f.run("draw timing --trace long.chunks --watch rum --out t.svg");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "the trace has no 'rum'\n    hint: did you mean 'run'?"));
    CHECK(f.run("draw plan --trace long.chunks --out p.svg").exit == 2);
    CHECK(contains(f.run("draw timing --trace nothing --watch run --out t.svg").err,
                   "cannot read nothing: No such file"));
}
