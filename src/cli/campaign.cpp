#include <fmt/format.h>

#include "cli/campaign_results.hpp"
#include "cli/interrupt.hpp"
#include "cli/progress.hpp"
#include "cli/version.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

std::unique_ptr<const campaign::Campaign> make(const std::string& kind, const campaign::Setup& setup) {
    if (kind == "smoke") return campaign::make_smoke(setup);
    if (kind == "stops") return campaign::make_stops(setup);
    if (kind == "again") return campaign::make_again(setup);
    return campaign::make_faults(setup);
}

int merge(const CommandLine& line) {
    const bool yard_named = line.words().size() > 1 && names_yard(line.word(1)) && !line.word(1).ends_with(".sqlite");
    const std::string folder = yard_named ? line.word(1) : files::find_yard(".");
    std::vector<files::StoredCampaign> parts;
    for (std::size_t i = yard_named ? 2 : 1; i < line.words().size(); ++i) {
        std::string why;
        auto part = files::read_campaign(line.word(i), why);
        if (!part) return wrong_call(why);
        parts.push_back(std::move(*part));
    }
    if (parts.empty())
        return wrong_call("there is nothing to merge", "vyard campaign merge a/faults.sqlite b/faults.sqlite");
    std::string why;
    auto whole = files::merged(parts, why);
    if (!whole) return wrong_call(why);
    Done done;
    done.stored = std::move(*whole);
    done.report.kind = done.stored.about["kind"];
    done.report.yard = done.stored.about["yard"];
    done.report.rows = done.stored.rows;
    done.report.jobs = static_cast<std::size_t>(std::stoull(done.stored.about["jobs"]));
    done.report.remarks = done.stored.remarks;
    const auto runs = static_cast<std::size_t>(std::stoull(done.stored.about["runs"]));
    const bool hunts = done.report.kind == "hunt";  // which keep the runs alone that found something
    if (!hunts && done.report.rows.size() < runs)
        done.report.remarks.push_back(
            fmt::format("parts are missing: {} of {} runs are here", done.report.rows.size(), runs));
    if (const std::string shards = done.stored.about["shards"]; hunts && std::to_string(parts.size()) != shards)
        done.report.remarks.push_back(fmt::format("parts are missing: {} of {} are here", parts.size(), shards));
    done.accept_path = files::join_path(folder, "accept.csv");
    auto accepted = read_accepted(line, done.accept_path);
    if (!accepted) return kWrongCall;
    done.accepted = std::move(*accepted);
    if (!judge(line, done)) return kWrongCall;
    note_stale(done, !hunts && done.report.rows.size() == done.report.jobs);
    if (!write_results(line, done)) return kOurFault;
    return print_report(line, done);
}

}  // namespace

CommandLine campaign_line() {
    CommandLine line(
        "campaign KIND [YARD] [options]",
        "Many runs that look for what nobody wrote down. KIND is one of\n"
        "  smoke   what a plain operator does, without any procedure: start, wait, stop\n"
        "  stops   at many moments of each procedure the machine is stopped in every way: what moves then, or does "
        "not\n"
        "  faults  every wire and device fault under every procedure: shown, masked, silent or dangerous\n"
        "  sweep   the procedures with values of plant and logic otherwise: how far each may move (--vary)\n"
        "  hunt    a search for sequences of presses, modes, stops and items taken that break something\n"
        "  again   a second day, from wherever the machine was left, as it was or started cold: is it like the first?\n"
        "  merge   the parts of a campaign that several machines worked through: campaign merge [YARD] FILE...\n"
        "Exit code 1 when something was found that is not in the yard's accept list.",
        "vyard campaign smoke examples/glaze-line");
    line.add_yard_options();
    line.add_run_options();
    const auto text = [](const char* name) { return po::value<std::string>()->value_name(name); };
    const auto texts = [](const char* name) {
        return po::value<std::vector<std::string>>()->composing()->value_name(name);
    };
    line.options().add_options()("procedure,p", texts("NAME"), "look at this procedure alone; may be repeated")(
        "jobs", text("NUMBER"), "runs at once; default as many as there are cores")(
        "limit", text("NUMBER"), "at most so many runs, spread evenly over all")(
        "shard", text("I/N"), "work through part I of N alone; merge puts the parts together")(
        "moments", text("NUMBER"), "stops: of each procedure at most, default 20; faults: of each fault, default 3")(
        "allowed", text("TIME"), "smoke, stops: in which all that moves has to come to rest; default 1 s")(
        "patience", text("TIME"), "how long an alarm, or going on after a start, is waited for; default 20 s")(
        "pairs", "faults: two at once")("with-faults", "hunt: faults are among what happens")(
        "corpus",
        "hunt: try the sequences kept in the yard's .vyard/hunt.txt first, besides --limit, and keep those that are "
        "new")("alarms", texts("NAMES"),
               "the tags that tell people that something is wrong; default those that the "
               "logic writes and that are called so")("vary", texts("NAME=LOW..HIGH/STEP"),
                                                      "sweep: what --set takes (a key of a device, the initial value "
                                                      "of a tag, a CONSTANT, an end of a scaling), or seed; "
                                                      "may be repeated")(
        "random", text("NUMBER"), "sweep: so many points by chance, in place of all")(
        "keep", text("FOLDER"), "write a procedure there for each finding, that fails as long as it is so")(
        "accept", texts("FINDING=REASON"),
        "put it into the yard's accept.csv with today's date; * stands for anything; may be repeated")(
        "against", text("FILE.sqlite"), "what an earlier run found as well does not count")(
        "json", "everything as JSON on standard output")("csv", "a row for each run as CSV on standard output")(
        "out", text("FOLDER"), "write KIND.sqlite, .json, .csv, .html (a part of a page), junit.xml and figures there");
    line.one_of({"json", "csv"});
    line.apart({"keep", "corpus"}, {"shard"});
    using Names = CommandLine::Names;
    const Names all = {"smoke", "stops", "faults", "sweep", "hunt", "again"};
    line.only_for({"use", "outside", "strict", "scan", "set", "seed", "stimulus", "jobs"}, all);
    line.only_for({"procedure"}, {"stops", "faults", "sweep", "again"});
    line.only_for({"limit", "shard"}, {"stops", "faults", "sweep", "hunt", "again"});
    line.only_for({"keep"}, {"smoke", "stops", "faults", "hunt", "again"});
    line.only_for({"moments"}, {"stops", "faults", "again"});
    line.only_for({"allowed"}, {"smoke", "stops", "again"});
    line.only_for({"patience"}, {"stops", "faults", "hunt"});
    line.only_for({"alarms"}, {"smoke", "faults", "again"});
    line.only_for({"pairs"}, {"faults"});
    line.only_for({"with-faults", "corpus"}, {"hunt"});
    line.only_for({"vary", "random"}, {"sweep"});
    line.takes_words(10'000);
    return line;
}

int campaign_command(const CommandLine& line) {
    static const std::vector<std::string> kinds = {"smoke", "stops", "faults", "sweep", "hunt", "again", "merge"};
    const std::string kind = line.word(0);
    if (std::find(kinds.begin(), kinds.end(), kind) == kinds.end())
        return wrong_call(
            kind.empty() ? std::string("which campaign?") : fmt::format("no campaign is named '{}'", kind),
            kind.empty() ? fmt::format("{}", fmt::join(kinds, ", ")) : base::name_hint(kind, kinds));
    if (kind == "merge") return merge(line);
    if (line.words().size() > 2) return wrong_call(fmt::format("unexpected argument '{}'", line.word(2)));
    const auto loaded = load(line, false, 1);
    if (!loaded) return kWrongCall;
    if (kind != "smoke" && kind != "hunt" && loaded->book == nullptr)
        return wrong_call(fmt::format("the yard has no procedures, from which '{}' could start", kind),
                          "[yard] procedures = [\"procedures/*.proc\"]; campaign smoke needs none");
    auto setup = read_setup(line, *loaded, kind == "faults");
    if (!setup) return kWrongCall;
    std::optional<SweepOf> sweep;
    if (kind == "sweep" && !(sweep = read_sweep(line, *loaded, *setup))) return kWrongCall;
    Done done;
    done.accept_path = files::join_path(loaded->yard.folder, "accept.csv");
    auto accepted = read_accepted(line, done.accept_path);
    if (!accepted) return kWrongCall;
    done.accepted = std::move(*accepted);
    std::vector<std::string> results, read = loaded->yard.read_from;
    if (line.has("against")) read.push_back(line.text("against"));
    if (line.has("out")) {
        for (const std::string& name : result_names(kind)) results.push_back(files::join_path(line.text("out"), name));
    }
    if (const auto refused = refuse_outputs(read, results)) return *refused;

    const Interrupt interrupt;
    std::optional<Progress> progress(std::in_place, line, 1);
    setup->work.ended = [&] { return interrupt.come(); };
    setup->work.progress = [&](std::size_t done_now, std::size_t of) {
        progress->show(static_cast<double>(done_now) / static_cast<double>(of),
                       fmt::format("{} of {} runs", done_now, of));
    };
    std::unique_ptr<const campaign::Campaign> campaign;
    campaign::HuntOutcome hunted;
    campaign::Outcome outcome;
    if (kind == "hunt") {
        const auto plan = read_hunt(line, loaded->yard);
        if (!plan) return kWrongCall;
        hunted = campaign::hunt(*setup, *plan);
        outcome = {hunted.rows, setup->shards == 1 ? hunted.sequences : plan->sequences, true};
        done.stored.remarks = hunted.remarks;
        done.report.summary = {
            fmt::format("{} sequences, which met {} different states of the machine", hunted.sequences, hunted.states)};
        if (line.has("corpus") && !write_file(corpus_path(loaded->yard), corpus_text(hunted.corpus))) return kOurFault;
    } else {
        campaign = sweep ? campaign::make_sweep(*setup, sweep->plan) : make(kind, *setup);
        outcome = campaign::carry_out(*campaign, *setup);
        done.stored.remarks = campaign->remarks();
    }
    const Teller teller = [&](const campaign::Finding& f) {
        return campaign == nullptr ? campaign::story_of(*setup, hunted.of.at(f.key), f.key)
                                   : campaign::story_of(*campaign, f.first_run, f.key);
    };
    done.stored.rows = std::move(outcome.rows);
    done.stored.about = {
        {"kind", kind},
        {"yard", loaded->yard.name},
        {"version", version_text()},
        {"jobs", std::to_string(outcome.jobs)},
        {"runs", std::to_string(kind == "hunt" ? done.stored.rows.size() : campaign::runs_of(outcome.jobs, *setup))},
        {"shard", std::to_string(setup->shard)},
        {"shards", std::to_string(setup->shards)},
        {"options", options_text(line, *setup)},
        {"yard_hash", hash_of(loaded->yard)}};
    done.report.kind = kind;
    done.report.yard = loaded->yard.name;
    done.report.rows = done.stored.rows;
    done.report.jobs = outcome.jobs;
    done.report.remarks = done.stored.remarks;
    if (!judge(line, done)) return kWrongCall;
    note_stale(done,
               kind != "hunt" && outcome.whole && outcome.jobs == done.stored.rows.size() && !line.has("procedure"));
    if (line.has("keep") && !keep_stories(line, *loaded, teller, done)) return kOurFault;
    progress.reset();
    if (sweep && sweep->plan.axes.size() == 1)
        done.report.summary = {
            margin_text(campaign::margin_of(sweep->plan.axes[0], sweep->points, sweep->procedures, done.report.rows))};
    if (!write_results(line, done, sweep ? &*sweep : nullptr)) return kOurFault;
    return interrupt.exit_code(print_report(line, done));
}

}  // namespace vyard::cli
