// The areas %I, %Q and %M byte by byte: which bits are taken, by whom, and which are free.
#pragma once

#include <string>

#include "core/logic/logic.hpp"

namespace vyard::report {

/// A line a byte that is taken: "%IB0  ....#### start_pb .0, stop_pb .1 ...", bit 7 first; ! where tags overlap.
std::string address_page(const logic::Program& program);

}  // namespace vyard::report
