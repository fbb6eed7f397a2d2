// What the options of a campaign say: how it is set up, what a sweep varies, how a hunt goes.
#pragma once

#include "cli/command.hpp"
#include "core/campaign/campaign.hpp"

namespace vyard::cli {

/// Null after a report. `faults`: the campaign of that name, which takes fewer moments.
std::optional<campaign::Setup> read_setup(const CommandLine& line, const Loaded& loaded, bool faults);

/// What a sweep was of.
struct SweepOf {
    campaign::SweepPlan plan;
    std::vector<std::vector<std::size_t>> points;
    std::size_t procedures = 1;
};

/// --vary and --random; null after a report.
std::optional<SweepOf> read_sweep(const CommandLine& line, const Loaded& loaded, const campaign::Setup& setup);

/// --limit, --with-faults, --corpus; null after a report.
std::optional<campaign::HuntPlan> read_hunt(const CommandLine& line, const files::Yard& yard);
/// Where a yard keeps the sequences of its hunts, and their text.
std::string corpus_path(const files::Yard& yard);
std::string corpus_text(const std::vector<campaign::Sequence>& corpus);

/// FNV-1a of all texts of a yard: parts of a campaign are of one yard only where it is the same.
std::string hash_of(const files::Yard& yard);
/// All that a part of a campaign has in common with the others.
std::string options_text(const CommandLine& line, const campaign::Setup& setup);

}  // namespace vyard::cli
