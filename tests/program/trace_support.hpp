// Traces made by hand.
#pragma once

#include "core/trace/trace.hpp"

namespace vyard::test {

/// Of a tag, or of the plant with controller -1.
inline trace::Channel channel(const char* name, int controller, logic::Elementary type) {
    trace::Channel c;
    c.name = name;
    c.signal.controller = controller;
    c.signal.type = type;
    return c;
}

}  // namespace vyard::test
