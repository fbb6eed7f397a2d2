// Campaigns for people (text, HTML), for build servers (JUnit XML) and for programs (tables, JSON).
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/campaign/campaign.hpp"
#include "report/table.hpp"

namespace vyard::report {

/// A finding, and what is known of it.
struct JudgedFinding {
    campaign::Finding finding;
    std::string accepted;  ///< The reason; "" when it is not.
    bool known = false;    ///< It stood in the run that this one is compared with.
    std::string kept;      ///< The procedure file that shows it; "" for none.

    /// It makes the exit code 1.
    bool counts() const { return accepted.empty() && !known; }
};

struct CampaignReport {
    std::string kind, yard;
    std::vector<campaign::RunRow> rows;
    std::size_t jobs = 0;
    std::vector<JudgedFinding> findings;
    std::vector<std::string> remarks;
    std::vector<std::string> summary;  ///< Lines of its own, such as the margins of a sweep.
};

/// Faults by procedures: the worst that came of each.
struct FaultMatrix {
    std::vector<std::string> faults, procedures;
    std::vector<std::vector<std::string>> outcomes;  ///< [fault][procedure]
    std::vector<std::string> worst;                  ///< [fault]
    std::map<std::string, std::size_t> counts;       ///< Of faults, by their worst outcome.
    /// Faults that are shown, of those that are shown, silent or dangerous without an alarm, in per cent; -1 for none.
    double coverage_percent = -1.0;
    std::vector<base::Nanoseconds> reactions;  ///< Of every run that showed one, rising.
};
FaultMatrix matrix_of(const std::vector<campaign::RunRow>& rows);

std::string campaign_text(const CampaignReport& report, bool colour);
Table runs_table(const std::vector<campaign::RunRow>& rows);
Table findings_table(const std::vector<JudgedFinding>& findings);
std::string campaign_json(const CampaignReport& report);
std::string campaign_junit(const CampaignReport& report);
/// A part of a page, without head: findings, and of faults the matrix.
std::string campaign_html(const CampaignReport& report);

}  // namespace vyard::report
