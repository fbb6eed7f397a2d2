#include "core/campaign/jobs.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::campaign {

std::size_t runs_of(std::size_t jobs, const Setup& setup) {
    return setup.limit == 0 ? jobs : std::min<std::size_t>(setup.limit, jobs);
}

namespace {

/// The jobs of this shard; of more than `limit` so many, evenly spread over all.
std::vector<std::size_t> chosen_jobs(std::size_t jobs, const Setup& setup) {
    std::vector<std::size_t> out;
    const std::size_t most = runs_of(jobs, setup);
    for (std::size_t i = 0; i < most; ++i) {
        const std::size_t job = most == jobs ? i : i * jobs / most;
        if (job % setup.shards == setup.shard - 1) out.push_back(job);
    }
    return out;
}

}  // namespace

Outcome carry_out(const Campaign& campaign, const Setup& setup) {
    const std::vector<std::size_t> order = chosen_jobs(campaign.jobs(), setup);
    std::vector<std::optional<RunRow>> rows(order.size());
    in_parallel(order.size(), setup.work, [&](std::size_t i) {
        rows[i] = campaign.run(order[i], nullptr);
        rows[i]->number = static_cast<std::uint32_t>(order[i]);
    });
    Outcome out;
    out.jobs = campaign.jobs();
    for (std::optional<RunRow>& row : rows) {
        if (row) out.rows.push_back(std::move(*row));
        out.whole = out.whole && row.has_value();
    }
    return out;
}

Branch watching(const Setup& setup, const session::Session& session) {
    return {session, procedure::Run(setup.book, setup.book->procedures.size() - 1, session)};
}

std::vector<Nominal> nominals_of(const Setup& setup, std::vector<std::string>& remarks) {
    const session::Session fresh(setup.model);
    std::vector<std::optional<Nominal>> found(setup.procedures.size());
    Work work = setup.work;
    work.progress = {};
    in_parallel(found.size(), work,
                [&](std::size_t i) { found[i] = look_at(setup.book, setup.procedures[i], fresh, setup.alarms); });
    std::vector<Nominal> out;
    for (std::optional<Nominal>& n : found) {
        if (!n) continue;
        if (n->passed())
            out.push_back(std::move(*n));
        else
            remarks.push_back(fmt::format(
                "procedure '{}' does not pass by itself, and is left out: vyard prove says why", n->verdict.name));
    }
    return out;
}

TroubleWatch::TroubleWatch(const std::set<std::pair<int, int>>& known, const Branch& at) : known_(known) {
    go_on_from(at);
}

void TroubleWatch::go_on_from(const Branch& at) {
    mishaps_ = at.session.plant().mishaps.size();
    stops_ = at.run.stops().size();
    broken_.clear();
    for (const procedure::RuleVerdict& r : at.run.rules()) broken_.push_back(r.times_broken);
}

bool TroubleWatch::look(const Branch& now, const std::string& prefix, RunRow& row, Story* story) {
    bool any = false;
    const auto tell_of = [&](const std::string& what, const std::string& text, const std::string& rule = {}) {
        const base::Nanoseconds time = now.session.now();
        see(row, story, now,
            {fmt::format("{}: {}", prefix, what), fmt::format("{} at {}", text, base::clock_text(time)), time}, {},
            rule);
        any = true;
    };
    const auto& mishaps = now.session.plant().mishaps;
    const plant::PlantModel& model = *now.session.model().plant;
    for (; mishaps_ < mishaps.size(); ++mishaps_) {
        const plant::Mishap& m = mishaps[mishaps_];
        if (known_.contains({m.device, m.number}) || plant::allowance(model, m.device, m.number) != nullptr) continue;
        if (!told_.emplace(m.device, m.number).second) continue;
        const std::string name = plant::mishap_name(model, m);
        tell_of("mishap " + name, fmt::format("mishap {}: {}", name, plant::mishap_text(model, m)),
                fmt::format("never {}", name));
    }
    const auto& rules = now.run.rules();
    for (std::size_t r = 0; r < rules.size(); ++r) {
        if (rules[r].times_broken == broken_[r]) continue;
        broken_[r] = rules[r].times_broken;
        tell_of(fmt::format("rule '{}' broken", rules[r].name), fmt::format("rule '{}' is broken", rules[r].name));
    }
    const auto& stops = now.run.stops();
    for (; stops_ < stops.size(); ++stops_) {
        const controller::ControllerModel& c = base::at(now.session.model().controllers, stops[stops_].controller);
        tell_of(fmt::format("controller {} stops by itself", c.name), stops[stops_].text);
    }
    return any;
}

void see(RunRow& row, Story* story, const Branch& now, Sight sight, const std::string& check, const std::string& rule) {
    if (story != nullptr && !story->found && story->key == sight.key) {
        story->found = true;
        story->end = now.session.now();
        story->check = check;
        story->rule = rule;
    }
    row.sights.push_back(std::move(sight));
}

void obey(Branch& now, const std::string& line, RunRow& row, Story* story) {
    for (const procedure::Order& o : read_lines(now.session.model(), {line})) {
        std::string said;
        const std::string problem = procedure::perform(now.session, o, said);
        if (!problem.empty()) row.detail = problem;
        if (story != nullptr) story->lines.push_back({now.session.now(), o.text, true});
    }
}

void tell(Story* story, const Branch& now) {
    if (story == nullptr) return;
    // Ours came first in their instant.
    for (const procedure::Deed& d : now.run.deeds()) story->lines.push_back({d.time, d.text, false});
    std::erase_if(story->lines, [&](const Story::Line& l) { return l.time > story->end; });
    std::stable_sort(story->lines.begin(), story->lines.end(),
                     [](const Story::Line& a, const Story::Line& b) { return a.time < b.time; });
}

}  // namespace vyard::campaign
