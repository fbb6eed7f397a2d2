// What other rooms use of traces: the recorder with its sinks, and tables of chosen signals.
#pragma once

#include "core/trace/comparison.hpp"
#include "core/trace/coverage_watch.hpp"
#include "core/trace/recorder.hpp"
#include "core/trace/ring.hpp"
#include "core/trace/spans.hpp"
#include "core/trace/watch.hpp"
