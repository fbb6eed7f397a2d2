// Traces as files: VCD (IEEE 1364-2005, clause 18: value change dump) for wave viewers, CSV for spreadsheets.
#pragma once

#include <string>

#include "core/trace/trace.hpp"
#include "core/trace/watch.hpp"

namespace vyard::files {

/// One variable a channel, in scopes by controller or "plant" and the parts of its name. Timescale 1 us. Deterministic.
std::string vcd_text(const trace::Trace& trace);

/// A header `time_s,NAME,...`, then one row for each instant at which anything changed; BOOL as 0 and 1, TIME in
/// seconds, analog points and gauges in SI.
std::string csv_text(const trace::Trace& trace);
/// time_s and a column a signal; texts that hold a comma or a quote stand in double quotes.
std::string watch_text(const trace::WatchTable& table);

}  // namespace vyard::files
