// Which tags take which bits of the areas %I, %Q and %M, and what is free.
#pragma once

#include <string>
#include <vector>

#include "core/logic/program.hpp"

namespace vyard::logic {

/// Another one that takes some of its bits.
struct Sharing {
    int other = 0;  ///< In the list of located tags.
    Overlap how = Overlap::None;
};

/// A located variable, or a direct address of the code at whose bits no variable is, and its bits:
/// [first_bit, first_bit + bits) of its area, 8 a byte.
struct Located {
    int variable = -1;  ///< -1: a direct address.
    Address address;
    std::string name;  ///< Of the variable; "" of a direct address.
    Area area = Area::None;
    std::uint32_t first_bit = 0, bits = 1;
    std::vector<Sharing> shared;  ///< At most kMaxShared are listed.

    std::uint32_t end_bit() const { return first_bit + bits; }
    /// Whether its bits are taken twice in a way that is hardly meant: by a second name, or partly by another.
    bool taken_twice() const;
};
constexpr std::size_t kMaxShared = 64;

/// All of them, by area, first bit and size. Cost: tags x those that reach over one place.
std::vector<Located> located_tags(const Program& program);
/// What else has bits of the located tag `number`, in words: "within word", "holds run, fault"; "" for nothing.
std::string sharing_text(const std::vector<Located>& located, const Located& tag);

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
