// A stimulus table as orders from here: its time 0 is the next scan.
#pragma once

#include <memory>

#include "core/procedure/procedure.hpp"

namespace vyard::live {

/// A book of one procedure; null after a report.
std::shared_ptr<const procedure::Book> table_orders(const session::SessionModel& model, const base::SourcePtr& source,
                                                    base::Diagnostics& diagnostics);

}  // namespace vyard::live
