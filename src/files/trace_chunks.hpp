// A trace on disk in chunks, for long runs: written as the run goes on, and read back by time, so that neither side
// holds it whole. The format stands in docs/trace-chunks.md; version 1.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/trace/trace.hpp"
#include "files/trace_files.hpp"

namespace vyard::files {

/// Holds one chunk in memory: at most `changes_a_chunk` changes, by channel.
class ChunkSink final : public trace::Sink {
  public:
    explicit ChunkSink(TextSink out, std::size_t changes_a_chunk = 65'536)
        : out_(std::move(out)), most_(changes_a_chunk) {}
    void begin(const std::vector<trace::Channel>& channels, base::Nanoseconds time) override;
    void change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) override;
    void end(base::Nanoseconds time) override;

  private:
    void write_chunk();

    TextSink out_;
    std::size_t most_;
    std::vector<std::vector<std::pair<std::int64_t, logic::Value>>> changes_;  ///< By channel.
    std::vector<logic::Value> last_;                                           ///< At the beginning of the chunk.
    std::size_t count_ = 0;
    std::uint64_t total_ = 0;
    std::int64_t begin_ns_ = 0, at_ns_ = 0;
};

/// What was read, or why it could not be: "it ends within a chunk, at byte 1234".
struct ChunksRead {
    std::optional<trace::Trace> trace;
    std::string why;
};
/// The part of a file of chunks between two times; each channel's first moment is its value at `from`. Signals have
/// their types and no place in a session. Chunks before `from` and behind `to` are passed over.
ChunksRead read_chunks(const std::string& path, base::Nanoseconds from, base::Nanoseconds to);

}  // namespace vyard::files
