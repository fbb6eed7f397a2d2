// What a campaign came to: held against the accept list and an earlier run, told as procedures, written and printed.
#pragma once

#include <functional>

#include "cli/campaign_setup.hpp"
#include "files/accept_list.hpp"
#include "files/campaign_store.hpp"
#include "report/campaign_report.hpp"

namespace vyard::cli {

/// What a campaign came to and where it came from.
struct Done {
    files::StoredCampaign stored;
    report::CampaignReport report;
    std::string accept_path;
    std::vector<files::Accepted> accepted;
};

/// The yard's accept list; null after a report.
std::optional<std::vector<files::Accepted>> read_accepted(const CommandLine& line, const std::string& path);

/// Findings of the rows, against the accept list and an earlier run; what --accept names goes to the list. False after
/// a report.
bool judge(const CommandLine& line, Done& done);
/// What was accepted and is not found any more, where all was looked at.
void note_stale(Done& done, bool whole);

using Teller = std::function<campaign::Story(const campaign::Finding&)>;
/// A procedure file for each finding that counts. False after a report.
bool keep_stories(const CommandLine& line, const Loaded& loaded, const Teller& story_of, Done& done);

/// "eye.at: all pass from 0.29 m to 0.36 m; it is 0.31 m: 0.02 m less, 0.05 m more"
std::string margin_text(const campaign::Margin& m);

/// The files of --out.
std::vector<std::string> result_names(const std::string& kind);
/// Writes them; false after a report.
bool write_results(const CommandLine& line, const Done& done, const SweepOf* sweep = nullptr);
/// On standard output; returns the exit code.
int print_report(const CommandLine& line, const Done& done);

}  // namespace vyard::cli
