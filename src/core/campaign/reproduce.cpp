#include "core/campaign/reproduce.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::campaign {

using base::Nanoseconds;

std::shared_ptr<const procedure::Book> with_watch(const session::SessionModel& model,
                                                  std::vector<base::SourcePtr> sources,
                                                  base::Diagnostics& diagnostics) {
    sources.push_back(base::make_source("watch", "procedure \"watch\"\nstep \"waits\"\n    wait 1 s\n"));
    return procedure::read_book(model, sources, diagnostics);
}

Story story_of(const Campaign& campaign, std::size_t job, const std::string& key) {
    Story story;
    story.key = key;
    campaign.run(job, &story);
    return story;
}

namespace {

/// "12345 ms", or in microseconds or nanoseconds where that is not whole.
std::string wait_text(Nanoseconds time) {
    const std::int64_t ns = time.count();
    if (ns % 1'000'000 == 0) return fmt::format("wait {} ms", ns / 1'000'000);
    if (ns % 1'000 == 0) return fmt::format("wait {} us", ns / 1'000);
    return fmt::format("wait {} ns", ns);
}

/// A text within quotes.
std::string quoted(std::string text) {
    std::replace(text.begin(), text.end(), '"', '\'');
    return "\"" + text + "\"";
}

}  // namespace

std::string procedure_text(const Story& story, const std::string& name, const std::string& remark) {
    std::string out;
    if (!remark.empty()) out.append("// ").append(remark).append("\n");
    out.append("procedure ").append(quoted(name)).append("\n");
    if (!story.rule.empty()) out.append("rule \"It does not happen\": ").append(story.rule).append("\n");
    out.append("step \"As it was found\"\n");
    Nanoseconds now{};
    for (const Story::Line& line : story.lines) {
        if (line.time > now) out.append("    ").append(wait_text(line.time - now)).append("\n");
        now = std::max(now, line.time);
        out.append("    ").append(line.order).append("\n");
    }
    if (story.end > now) out.append("    ").append(wait_text(story.end - now)).append("\n");
    if (story.lines.empty() && story.end <= now) out.append("    wait 1 scan\n");
    if (!story.rule.empty()) out.append("    wait 1 scan\n");  // rules are looked at after scans
    if (!story.check.empty()) out.append("step \"What has to be so\"\n    ").append(story.check).append("\n");
    return out;
}

namespace {

bool shows_so(const procedure::ProcedureVerdict& verdict, const Story& story) {
    using procedure::Verdict;
    const auto broken = [&](bool own) {
        return std::any_of(verdict.rules.begin(), verdict.rules.end(), [&](const procedure::RuleVerdict& r) {
            const bool meant = own || story.key.find(fmt::format("rule '{}'", r.name)) != std::string::npos;
            return r.own == own && r.times_broken > 0 && meant;
        });
    };
    if (!story.rule.empty()) return broken(true);
    if (story.check.empty()) return broken(false) || !verdict.stops.empty();
    return !verdict.steps.empty() && verdict.steps.back().verdict == Verdict::Failed;
}

}  // namespace

bool shows(const session::SessionModelPtr& model, const std::vector<base::SourcePtr>& sources, const Story& story) {
    std::vector<base::SourcePtr> all = sources;
    all.push_back(base::make_source("found", procedure_text(story, "found", "")));
    base::Diagnostics diagnostics;
    const auto book = procedure::read_book(*model, all, diagnostics);
    if (book == nullptr) return false;
    session::Session session(model);
    procedure::Run run(book, book->procedures.size() - 1, session);
    while (run.advance(session)) session.step();
    return shows_so(run.verdict(session), story);
}

Story shrunk(const session::SessionModelPtr& model, const std::vector<base::SourcePtr>& sources, const Story& story,
             int most) {
    Story best = story;
    if (!shows(model, sources, best)) return best;
    for (bool again = true; again && most > 0;) {
        again = false;
        for (std::size_t i = best.lines.size(); i-- > 0 && most > 0;) {
            if (best.lines[i].ours) continue;  // what was done is part of what was found
            --most;
            Story without = best;
            without.lines.erase(without.lines.begin() + static_cast<std::ptrdiff_t>(i));
            if (!shows(model, sources, without)) continue;
            best = std::move(without);
            again = true;
        }
    }
    return best;
}

}  // namespace vyard::campaign
