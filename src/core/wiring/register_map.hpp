// Which registers of its link each tag of a controller has: by a column of the map, or by a rule from its address.
//
// The rule. A bit at byte b, bit i has the number 8 b + i of its table of bits; a value of two, four or eight bytes at
// byte b the number b / 2 of its table of registers, the highest word first. Which table and from which number on:
//
//     area   server, screen                      client
//     %I     discrete 0, input 0                 coil 4096, holding 4096     (there the plant writes them)
//     %Q     coil 0, holding 0                   coil 0, holding 0
//     %M     coil 16384, holding 16384           coil 16384, holding 16384
//
// What takes a single byte has no register by the rule.
#pragma once

#include <string>
#include <vector>

#include "core/wiring/joins.hpp"

namespace vyard::wiring {

/// The places of all tags of controller `c`, which has a link; sorted by table and number. `rows` are those of the map:
/// what its column 'register' says goes before the rule. Reports what has no place and needs one, what overlaps, what
/// lies in a table that cannot be written from where it comes, odd alignment.
std::vector<controller::RegisterEntry> register_map(const std::vector<controller::ControllerModel>& controllers, int c,
                                                    const Wiring& wiring, const std::vector<MapRow>& rows,
                                                    const std::vector<int>& writable, base::Diagnostics& diagnostics);

/// "holding 7", "coil 12", "holding 7.3", "holding 8 low word first swap bytes"; null with what was expected in `why`.
std::optional<controller::RegisterPlace> parse_register(std::string_view text, std::string& why);
std::string register_text(const controller::RegisterPlace& place);

/// Numbers of a table that lie between others and belong to no tag.
struct RegisterGap {
    controller::RegisterArea area = controller::RegisterArea::Coil;
    std::uint32_t first = 0, last = 0;
};
std::vector<RegisterGap> register_gaps(const std::vector<controller::RegisterEntry>& entries);

}  // namespace vyard::wiring
