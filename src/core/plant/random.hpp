// Numbers that look random and are the same in every run of one seed (SplitMix64, Steele et al. 2014). Part of the
// plant's state: a copy goes on with the same ones.
#pragma once

#include <cstdint>

namespace vyard::plant {

struct Random {
    std::uint64_t state = 1;

    std::uint64_t next() {
        std::uint64_t z = (state += 0x9e3779b97f4a7c15ULL);
        z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
        z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
        return z ^ (z >> 31);
    }
    /// At least 0, less than 1.
    double share() { return static_cast<double>(next() >> 11) * 0x1.0p-53; }
};

}  // namespace vyard::plant
