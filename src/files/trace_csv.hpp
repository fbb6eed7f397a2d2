// Traces read back from the CSV files that runs write, or that others wrote in that form.
#pragma once

#include <optional>

#include "core/trace/trace.hpp"

namespace vyard::files {

/// From `time_s,NAME,...` with a row an instant. Columns of TRUE and FALSE are BOOLs, columns of numbers numbers,
/// others texts; signals have no place in a session. Null after a report.
std::optional<trace::Trace> read_trace_csv(const base::SourcePtr& source, base::Diagnostics& diagnostics);

/// Either form of a trace that is kept in a file: CSV, or chunks.
std::optional<trace::Trace> read_trace(const std::string& path, base::Diagnostics& diagnostics);

}  // namespace vyard::files
