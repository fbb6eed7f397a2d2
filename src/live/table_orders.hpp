// Files of rows as orders: a stimulus table from here, whose time 0 is the next scan; a list of tags.
#pragma once

#include <memory>

#include "core/procedure/procedure.hpp"
#include "files/list_file.hpp"

namespace vyard::live {

/// A book of one procedure; null after a report.
std::shared_ptr<const procedure::Book> table_orders(const session::SessionModel& model, const base::SourcePtr& source,
                                                    base::Diagnostics& diagnostics);

struct ListedTag {
    files::ListRow row;
    std::string written;  ///< Its value as an order has it; "" for none.
};
/// The rows of a list of tags whose names, displays and values are right for this yard; all that is wrong is reported,
/// with its place.
std::vector<ListedTag> checked_list(const session::SessionModel& model, const std::string& path,
                                    base::Diagnostics& diagnostics);

}  // namespace vyard::live
