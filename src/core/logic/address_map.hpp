// Which tags take which bits of the areas %I, %Q and %M, and what is free.
#pragma once

#include <string>
#include <vector>

#include "core/logic/program.hpp"

namespace vyard::logic {

/// A located variable and its bits: [first_bit, first_bit + bits) of its area, 8 a byte.
struct Located {
    int variable = 0;
    Area area = Area::None;
    std::uint32_t first_bit = 0, bits = 1;
    bool overlaps = false;  ///< Another tag takes some of its bits.

    std::uint32_t end_bit() const { return first_bit + bits; }
};

/// All of them, by area and first bit.
std::vector<Located> located_tags(const Program& program);

/// One byte of an area: who has each bit, as numbers in the list of located tags; -1 is free.
struct AddressByte {
    std::uint32_t number = 0;
    std::array<int, 8> owners{-1, -1, -1, -1, -1, -1, -1, -1};
};

/// The bytes of an area up to its last taken one.
std::vector<AddressByte> bytes_of(const std::vector<Located>& located, Area area);

/// A run of free bits between taken ones, or behind the last (then `open`).
struct FreeRun {
    std::uint32_t first_bit = 0, bits = 0;
    bool open = false;
};
std::vector<FreeRun> free_runs(const std::vector<Located>& located, Area area);

/// The first `count` free addresses of an area for values of `bytes` (0: single bits; else aligned to their size).
/// Fewer when the area ends.
std::vector<Address> next_free(const std::vector<Located>& located, Area area, int bytes, int count);

}  // namespace vyard::logic
