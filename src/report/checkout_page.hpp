// The checkout as a list to sign: a table for terminal and CSV, and a page.
#pragma once

#include <string>
#include <vector>

#include "core/procedure/procedure.hpp"
#include "report/table.hpp"

namespace vyard::report {

/// A line of the list as it is kept from one day to the next.
struct SignedLine {
    procedure::CheckoutLine line;
    std::string date;  ///< When it was tried, "2026-11-23"; "" when never.
    std::string by;    ///< Who tried it.
};

/// Columns: direction, point, tag, address, scaling, given, expected, seen, verdict, date, by, remark.
Table checkout_table(const std::vector<SignedLine>& lines);

std::string checkout_page(const std::string& yard, const std::vector<SignedLine>& lines);

}  // namespace vyard::report
