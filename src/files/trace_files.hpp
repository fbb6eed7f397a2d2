// Traces as files, written as the run goes on: VCD (IEEE 1364-2005, clause 18: value change dump) for wave viewers, CSV
// for spreadsheets.
#pragma once

#include <functional>
#include <string>

#include "core/trace/trace.hpp"

namespace vyard::files {

/// Takes a file's text piece by piece.
using TextSink = std::function<void(std::string_view)>;

/// One variable a channel, in scopes "logic", "plant" and the parts of its name. Timescale 1 us; a text is a variable
/// of type string, its values written `sTEXT` with everything but printable ASCII, and blanks and backslashes, as \ooo
/// in octal. Deterministic.
class VcdSink final : public trace::Sink {
  public:
    explicit VcdSink(TextSink out) : out_(std::move(out)) {}
    void begin(const std::vector<trace::Channel>& channels, base::Nanoseconds time) override;
    void change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) override;
    void end(base::Nanoseconds time) override;

  private:
    void go_to(base::Nanoseconds time);

    TextSink out_;
    base::Nanoseconds begin_{}, at_{};
    bool dumping_ = false;
};

/// A header `time_s,NAME,...`, then one row for each instant at which anything changed; cells as trace::cell_text().
class CsvSink final : public trace::Sink {
  public:
    explicit CsvSink(TextSink out) : out_(std::move(out)) {}
    void begin(const std::vector<trace::Channel>& channels, base::Nanoseconds time) override;
    void change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) override;
    void end(base::Nanoseconds time) override;

  private:
    void row();

    TextSink out_;
    const std::vector<trace::Channel>* channels_ = nullptr;
    std::vector<std::string> cells_;
    base::Nanoseconds at_{};
    bool any_ = false;
};

/// time_s and a column a signal, then rows of a Watch.
std::string watch_header(const std::vector<std::string>& names);
std::string watch_row(base::Nanoseconds time, const std::vector<std::string>& cells);

/// A kept trace as a whole file's text; changes go to the sink in order of time, then channel.
void replay(const trace::Trace& trace, trace::Sink& sink);

}  // namespace vyard::files
