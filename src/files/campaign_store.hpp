// The results of a campaign in a database file (SQLite 3), with what it was of; several parts of one campaign, worked
// through by several machines, become one.
//
//   campaign(key, value)     kind, yard, version, jobs, shard, shards, options
//   run(number, disturbance, procedure, at_s, outcome, detail, reaction_s)
//   sight(run, key, text, at_s)
//   remark(text)
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/campaign/campaign.hpp"

namespace vyard::files {

struct StoredCampaign {
    std::map<std::string, std::string> about;  ///< "kind", "yard", "jobs", "shard", "shards", ...
    std::vector<campaign::RunRow> rows;        ///< By number.
    std::vector<std::string> remarks;
};

/// Writes it whole, in place of what was there, or not at all. "" or what went wrong.
std::string store_campaign(const std::string& path, const StoredCampaign& campaign);
/// Null when it cannot be read; `why` says so.
std::optional<StoredCampaign> read_campaign(const std::string& path, std::string& why);

/// Parts of one campaign as one; null when they are not of one, or one run stands in two; `why` says so.
std::optional<StoredCampaign> merged(const std::vector<StoredCampaign>& parts, std::string& why);

}  // namespace vyard::files
