// A finding as a procedure file that shows it: it fails as long as the machine does what was found, and passes once it
// is put right.
#pragma once

#include <string>

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

/// The yard's procedures and rules, and behind them the procedure "watch", which only waits; `sources` may be none.
std::shared_ptr<const procedure::Book> with_watch(const session::SessionModel& model,
                                                  std::vector<base::SourcePtr> sources, base::Diagnostics& diagnostics);

/// Runs the job again and tells it up to the first sight of that key; `found` says whether it came.
Story story_of(const Campaign& campaign, std::size_t job, const std::string& key);

/// The procedure: orders at the times they were given at, then what must not be. Between the lines it waits.
std::string procedure_text(const Story& story, const std::string& name, const std::string& remark);

/// Whether the procedure of a story fails as it should: in its last step, by its own rule, or by what the yard's rules
/// and controllers say. `sources`: the yard's procedure files, for their rules.
bool shows(const session::SessionModelPtr& model, const std::vector<base::SourcePtr>& sources, const Story& story);

/// The story without those of the procedure's orders that are not needed for it, by leaving out one after the other for
/// as long as it shows. Cost: up to `most` runs.
Story shrunk(const session::SessionModelPtr& model, const std::vector<base::SourcePtr>& sources, const Story& story,
             int most);

}  // namespace vyard::campaign
