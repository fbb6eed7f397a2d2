// The input and output checkout: every joined point is moved at one end of its wire and watched at the other. Each try
// works on a copy of the session at rest, so that none disturbs another and the machine never runs.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::procedure {

/// One value put on one end.
struct Probe {
    std::string given;     ///< At the plant for an input, at the tag for an output.
    std::string expected;  ///< At the other end.
    std::string seen;
    bool met = false;
};

enum class CheckoutVerdict : std::uint8_t { NotTried, Passed, Failed };

struct CheckoutLine {
    std::string tag, address, point, device, kind, scaling;
    bool input = true;
    std::vector<Probe> probes;
    CheckoutVerdict verdict = CheckoutVerdict::NotTried;
    std::string remark;  ///< Why it was not tried, or what may be the matter.
};

/// Inputs first, then outputs, in the order of the map. A BOOL goes through FALSE, TRUE, FALSE; numbers through five
/// steps of their range. `wanted` says of a line, by its names, whether it is tried; empty tries all. Cost: probes x (a
/// copy of the session and two scans).
std::vector<CheckoutLine> check_out(const session::SessionModelPtr& model,
                                    const std::function<bool(const CheckoutLine&)>& wanted = {});

const char* verdict_word(CheckoutVerdict verdict);

}  // namespace vyard::procedure
