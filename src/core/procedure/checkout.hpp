// The input and output checkout: every joined point is moved at one end of its wire and watched at the other, and what
// comes of it is held against what people state of the tag (wiring/stated.hpp), against the range and the contact of
// the device, and against what moves. Each try works on a copy of the session at rest, so that none disturbs another
// and the machine never runs.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/procedure/far_end.hpp"

namespace vyard::procedure {

/// One value put on one end.
struct Probe {
    std::string given;     ///< At the plant for an input, at the tag for an output.
    std::string expected;  ///< At the other end.
    std::string seen;      ///< What the tag holds, or the wire carries.
    bool met = false;
};

enum class CheckoutVerdict : std::uint8_t { NotTried, Passed, Failed };

struct CheckoutLine {
    std::string tag, address, point, device, kind, scaling;
    bool input = true;
    std::vector<Probe> probes;
    std::string moved;  ///< What moved: "lift.position 0.25 m, lift_bottom TRUE after 0.80 s"; of a button its press.
    CheckoutVerdict verdict = CheckoutVerdict::NotTried;
    std::string remark;  ///< Why it was not tried, why it failed, or what a person should look at.
};

/// Inputs first, then outputs, in the order of the map. A BOOL goes through FALSE, TRUE, FALSE; numbers through five
/// steps of the device's own range, or of what the tag spans. A line passes when every value arrives as promised, and
/// nothing that is stated of it, its device's range and contact, or what moves speaks against it. `wanted` says of a
/// line, by its names, whether it is tried; empty tries all. Lines of controllers that are executed elsewhere are tried
/// through `far`, without it not at all. Cost: probes x (a copy of the session and two scans), and
/// of outputs what Bench::moved() costs.
std::vector<CheckoutLine> check_out(const session::SessionModelPtr& model,
                                    const std::function<bool(const CheckoutLine&)>& wanted = {}, FarEnd* far = nullptr);

const char* verdict_word(CheckoutVerdict verdict);

}  // namespace vyard::procedure
