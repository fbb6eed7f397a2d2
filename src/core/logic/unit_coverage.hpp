// What of one unit or of the tags was exercised: counts, and the places that were not.
#pragma once

#include <string>
#include <vector>

#include "core/logic/coverage.hpp"

namespace vyard::logic {

struct CoverShare {
    int done = 0, all = 0;
    void count(bool good) {
        done += good ? 1 : 0;
        ++all;
    }
};

/// A place that was never exercised, and what never happened there: "the contact a was never open".
struct CoverGap {
    base::Place place;
    std::string what;
    std::string brief;  ///< Beside a symbol: "never open".
};

struct UnitCoverage {
    std::string name;
    CoverShare lines, branches, networks, transitions, contacts;
    int not_followed = 0;  ///< Contacts.
    bool ran = false;
    std::vector<CoverGap> gaps;
};

struct TagCoverage {
    CoverShare moved;
    std::vector<std::string> still;  ///< "name (always FALSE)"
};

/// Of all units that have marks, all instances of a block together; in the order of the program.
std::vector<UnitCoverage> unit_coverages(const Program& program, const Coverage& coverage);
TagCoverage tag_coverage(const Program& program, const Coverage& coverage);

}  // namespace vyard::logic
