#include <fmt/chrono.h>
#include <fmt/format.h>

#include <chrono>
#include <ctime>
#include <filesystem>
#include <set>
#include <sstream>
#include <thread>

#include "cli/command.hpp"
#include "cli/interrupt.hpp"
#include "cli/progress.hpp"
#include "cli/version.hpp"
#include "core/campaign/campaign.hpp"
#include "figures/matrix_figure.hpp"
#include "figures/sweep_figure.hpp"
#include "files/accept_list.hpp"
#include "files/campaign_store.hpp"
#include "files/text_file.hpp"
#include "report/campaign_report.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

constexpr int kTries = 150;  ///< Runs that shrinking one finding may take.

/// What a campaign came to and where it came from.
struct Done {
    files::StoredCampaign stored;
    report::CampaignReport report;
    std::string accept_path;
    std::vector<files::Accepted> accepted;
};

/// FNV-1a of all texts of a yard: parts of a campaign are of one yard only where it is the same.
std::string hash_of(const files::Yard& yard) {
    std::uint64_t hash = 14695981039346656037ULL;
    for (const auto* list : {&yard.frame, &yard.logic, &yard.procedures}) {
        for (const base::SourcePtr& source : *list) {
            for (const char c : source->text) hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
        }
    }
    return fmt::format("{:016x}", hash);
}

/// "2/4"; false after a report.
bool read_shard(const CommandLine& line, campaign::Setup& setup) {
    if (!line.has("shard")) return true;
    const std::string text = line.text("shard");
    unsigned part = 0, of = 0;
    char more = 0;
    if (std::sscanf(text.c_str(), "%u/%u%c", &part, &of, &more) != 2 || part < 1 || part > of || of > 100'000) {
        wrong_call(fmt::format("--shard: '{}' is not a part of all, such as 2/4", text));
        return false;
    }
    setup.shard = part;
    setup.shards = of;
    return true;
}

/// A whole number of an option; false after a report.
template <class Number>
bool read_count(const CommandLine& line, const char* name, double low, double high, Number& out) {
    const auto value = line.quantity(name, base::Dimension::Plain, static_cast<double>(out), low, high);
    if (!value) return false;
    if (*value != std::floor(*value)) {
        wrong_call(fmt::format("--{}: {} is not a whole number", name, line.text(name)));
        return false;
    }
    out = static_cast<Number>(*value);
    return true;
}

std::optional<campaign::Setup> read_setup(const CommandLine& line, const Loaded& loaded, bool faults) {
    campaign::Setup setup;
    setup.model = loaded.yard.model;
    setup.work.threads = std::max(1U, std::thread::hardware_concurrency());
    if (faults) setup.moments = 3;
    const auto allowed = line.quantity("allowed", base::Dimension::Time, 1.0, 0.0, 3600.0);
    const auto patience = line.quantity("patience", base::Dimension::Time, 20.0, 0.0, 3600.0);
    const bool counts = read_count(line, "jobs", 1, 1024, setup.work.threads) &&
                        read_count(line, "limit", 1, 1e9, setup.limit) &&
                        read_count(line, "moments", 1, 10'000, setup.moments) && read_shard(line, setup);
    if (!allowed || !patience || !counts) return std::nullopt;
    setup.allowed = base::from_seconds(*allowed);
    setup.patience = base::from_seconds(*patience);
    setup.pairs = line.has("pairs");
    base::Diagnostics diagnostics;
    setup.book = campaign::with_watch(*loaded.yard.model, loaded.yard.procedures, diagnostics);
    VYARD_CHECK(setup.book != nullptr);  // they were read before
    for (const std::string& name : line.list("procedure")) {
        const auto found = find_procedures(loaded, name);
        if (found.empty()) return std::nullopt;
        setup.procedures.insert(setup.procedures.end(), found.begin(), found.end());
    }
    if (setup.procedures.empty()) {
        for (std::size_t i = 0; i + 1 < setup.book->procedures.size(); ++i) setup.procedures.push_back(i);
    }
    std::string problem;
    setup.alarms = line.has("alarms") ? campaign::alarms_named(*loaded.yard.model, line.names("alarms"), problem)
                                      : campaign::find_alarms(*loaded.yard.model);
    if (!problem.empty()) {
        wrong_call("--alarms: " + problem);
        return std::nullopt;
    }
    return setup;
}

/// All that a part of a campaign has in common with the others.
std::string options_text(const CommandLine& line, const campaign::Setup& setup) {
    std::string out =
        fmt::format("moments {} limit {} allowed {} patience {}{}", setup.moments, setup.limit,
                    base::clock_text(setup.allowed), base::clock_text(setup.patience), setup.pairs ? " pairs" : "");
    for (const char* name : {"use", "set", "procedure", "alarms", "vary"}) {
        for (const std::string& value : line.list(name)) out.append(fmt::format(" --{} {}", name, value));
    }
    for (const char* name : {"seed", "random"}) {
        if (line.has(name)) out.append(fmt::format(" --{} {}", name, line.text(name)));
    }
    return out;
}

bool matches(std::string_view pattern, std::string_view text) {
    const std::size_t star = pattern.find('*');
    if (star == std::string_view::npos) return pattern == text;
    if (!text.starts_with(pattern.substr(0, star))) return false;
    const std::string_view rest = pattern.substr(star + 1);
    for (std::size_t i = star; i <= text.size(); ++i) {
        if (matches(rest, text.substr(i))) return true;
    }
    return false;
}

/// The yard's accept list; null after a report.
std::optional<std::vector<files::Accepted>> read_accepted(const CommandLine& line, const std::string& path) {
    if (!files::is_there(path)) return std::vector<files::Accepted>();
    base::Diagnostics diagnostics;
    std::vector<files::Accepted> out;
    if (const auto source = files::read_source(path, {}, diagnostics))
        out = files::read_accept_list(source, diagnostics);
    show_diagnostics(line, diagnostics);
    if (diagnostics.has_errors()) return std::nullopt;
    return out;
}

/// --accept FINDING=REASON: rows for the accept list; null after a report.
std::optional<std::vector<files::Accepted>> newly_accepted(const CommandLine& line, const Done& done) {
    std::vector<files::Accepted> out;
    const std::string date = fmt::format("{:%Y-%m-%d}", fmt::localtime(std::time(nullptr)));
    for (const std::string& text : line.list("accept")) {
        const std::size_t equals = text.rfind('=');
        const std::string pattern = text.substr(0, equals);
        if (equals == std::string::npos || equals + 1 >= text.size()) {
            wrong_call(fmt::format("--accept: '{}' has no reason", text), "--accept 'press panel.stop: *=REASON'");
            return std::nullopt;
        }
        bool any = false;
        for (const report::JudgedFinding& f : done.report.findings) any = any || matches(pattern, f.finding.key);
        if (any) out.push_back({done.report.kind, pattern, text.substr(equals + 1), date, 0});
        if (!any) {
            std::vector<std::string> known;
            for (const report::JudgedFinding& f : done.report.findings) known.push_back(f.finding.key);
            wrong_call(fmt::format("--accept: nothing was found that is called '{}'", pattern),
                       base::name_hint(pattern, known));
            return std::nullopt;
        }
    }
    return out;
}

/// Findings of the rows, against the accept list and an earlier run. False after a report.
bool judge(const CommandLine& line, Done& done) {
    std::vector<std::string> before;
    if (line.has("against")) {
        std::string why;
        const auto earlier = files::read_campaign(line.text("against"), why);
        if (!earlier) {
            wrong_call(why);
            return false;
        }
        for (const campaign::Finding& f : campaign::findings_of(earlier->rows)) before.push_back(f.key);
    }
    for (campaign::Finding& f : campaign::findings_of(done.stored.rows)) {
        report::JudgedFinding judged;
        const auto accepted = std::find_if(done.accepted.begin(), done.accepted.end(), [&](const files::Accepted& a) {
            return a.campaign == done.report.kind && matches(a.finding, f.key);
        });
        if (accepted != done.accepted.end()) judged.accepted = accepted->reason;
        judged.known = std::find(before.begin(), before.end(), f.key) != before.end();
        judged.finding = std::move(f);
        done.report.findings.push_back(std::move(judged));
    }
    const auto fresh = newly_accepted(line, done);
    if (!fresh) return false;
    for (const files::Accepted& a : *fresh) {
        for (report::JudgedFinding& f : done.report.findings) {
            if (f.accepted.empty() && matches(a.finding, f.finding.key)) f.accepted = a.reason;
        }
    }
    if (fresh->empty()) return true;
    std::string text, why;
    if (files::is_there(done.accept_path)) text = files::read_text(done.accept_path, why).value_or("");
    return write_file(done.accept_path, files::with_accepted(text, *fresh));
}

/// What was accepted and is not found any more, where all was looked at.
void note_stale(Done& done, bool whole) {
    if (!whole) return;
    for (const files::Accepted& a : done.accepted) {
        const bool found =
            std::any_of(done.report.findings.begin(), done.report.findings.end(),
                        [&](const report::JudgedFinding& f) { return matches(a.finding, f.finding.key); });
        if (a.campaign == done.report.kind && !found)
            done.report.remarks.push_back(fmt::format("accepted, and not found any more: {}", a.finding));
    }
}

/// "found_press_panel_stop_drip_still_moves.proc"; `taken`: names that are.
std::string file_name(const std::string& key, std::set<std::string>& taken) {
    std::string slug;
    for (const char c : base::fold(key)) {
        const bool letter = (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9');
        if (letter)
            slug += c;
        else if (!slug.empty() && slug.back() != '_')
            slug += '_';
    }
    slug = "found_" + slug.substr(0, 80);
    std::string name = slug;
    for (int n = 2; !taken.insert(name).second; ++n) name = fmt::format("{}_{}", slug, n);
    return name + ".proc";
}

using Teller = std::function<campaign::Story(const campaign::Finding&)>;

/// A procedure file for each finding that counts. False after a report.
bool keep(const CommandLine& line, const Loaded& loaded, const Teller& story_of, Done& done) {
    std::set<std::string> taken;
    for (report::JudgedFinding& f : done.report.findings) {
        if (!f.counts()) continue;
        const campaign::Story story = story_of(f.finding);
        VYARD_CHECK(story.found);
        const campaign::Story least = campaign::shrunk(loaded.yard.model, loaded.yard.procedures, story, kTries);
        const std::string path = files::join_path(line.text("keep"), file_name(f.finding.key, taken));
        const std::string remark = fmt::format("vyard campaign {}, run {}: {}", done.report.kind, f.finding.first_run,
                                               base::shown(f.finding.text));
        if (!write_file(path, campaign::procedure_text(least, f.finding.key, remark))) return false;
        f.kept = path;
    }
    return true;
}

figures::MatrixFigure matrix_figure(const report::CampaignReport& report) {
    const report::FaultMatrix m = report::matrix_of(report.rows);
    figures::MatrixFigure out;
    out.title = fmt::format("{}: what comes of each fault", report.yard);
    out.subtitle = fmt::format("{} faults under {} procedures", m.faults.size(), m.procedures.size());
    if (m.coverage_percent >= 0.0)
        out.subtitle.append(fmt::format("; diagnostic coverage {:.0f} %", m.coverage_percent));
    for (const std::string& f : m.faults) out.rows.push_back(f.starts_with("fault ") ? f.substr(6) : f);
    out.columns = m.procedures;
    out.cells = m.outcomes;
    out.outcomes = {"dangerous", "silent", "shown", "masked", "as one alone", "not exercised"};
    if (!m.counts.contains("as one alone")) std::erase(out.outcomes, "as one alone");
    return out;
}

/// What a sweep was of.
struct SweepOf {
    campaign::SweepPlan plan;
    std::vector<std::vector<std::size_t>> points;
    std::size_t procedures = 1;
};

/// "eye.at: all pass from 0.29 m to 0.36 m; it is 0.31 m: 0.02 m less, 0.05 m more"
std::string margin_text(const campaign::Margin& m) {
    const auto shown = [&](double value) {
        return m.unit.empty() ? fmt::format("{:.6g}", value) : fmt::format("{:.6g} {}", value, m.unit);
    };
    if (!m.least) return fmt::format("{}: at no value do all procedures pass", m.name);
    std::string out =
        fmt::format("{}: all pass from {}{} to {}{}, the middle is {}", m.name, shown(*m.least),
                    m.open_below ? " (or less)" : "", shown(*m.most), m.open_above ? " (or more)" : "", shown(*m.best));
    if (!m.present) return out;
    if (*m.present < *m.least || *m.present > *m.most)
        return out + fmt::format("; it is {}, which is not among them", shown(*m.present));
    return out + fmt::format("; it is {}: it may be {} less, {} more", shown(*m.present), shown(*m.present - *m.least),
                             shown(*m.most - *m.present));
}

figures::SweepFigure sweep_figure(const Done& done, const SweepOf& sweep) {
    const campaign::Axis& x = sweep.plan.axes[0];
    figures::SweepFigure out;
    out.title = fmt::format("{}: sweep of {}", done.report.yard, x.name);
    out.x_name = x.unit.empty() ? x.name : fmt::format("{}, {}", x.name, x.unit);
    out.x = x.numbers;
    const bool two = sweep.plan.axes.size() > 1;
    if (two) {
        const campaign::Axis& y = sweep.plan.axes[1];
        out.title.append(" and ").append(y.name);
        out.y_name = y.unit.empty() ? y.name : fmt::format("{}, {}", y.name, y.unit);
        for (const double v : y.numbers) out.rows.push_back(fmt::format("{:.6g}", v));
    } else {
        out.notes = {margin_text(campaign::margin_of(x, sweep.points, sweep.procedures, done.report.rows))};
    }
    const auto worse = [](const std::string& a, const std::string& b) { return a.empty() || b != "passed" ? b : a; };
    if (two) out.cells.assign(out.rows.size(), std::vector<std::string>(x.values.size()));
    for (const campaign::RunRow& r : done.report.rows) {
        const std::vector<std::size_t>& point = sweep.points[r.number / sweep.procedures];
        std::size_t row = two ? point[1] : 0;
        if (!two) {
            const auto known = std::find(out.rows.begin(), out.rows.end(), r.procedure);
            row = static_cast<std::size_t>(known - out.rows.begin());
            if (known == out.rows.end()) {
                out.rows.push_back(r.procedure);
                out.cells.emplace_back(x.values.size());
            }
        }
        std::string& cell = out.cells[row][point[0]];
        cell = worse(cell, r.outcome);
        if (r.detail == "as it is" && !two) out.present = point[0];
    }
    return out;
}

std::vector<std::string> result_names(const std::string& kind) {
    std::vector<std::string> out;
    for (const char* ending : {".sqlite", ".json", ".csv", ".html"}) out.push_back(kind + ending);
    out.emplace_back("junit.xml");
    for (const char* ending : {".svg", ".png"}) {
        if (kind == "faults") out.push_back(std::string("matrix") + ending);
        if (kind == "sweep") out.push_back(std::string("sweep") + ending);
    }
    return out;
}

/// The files of --out. False after a report.
bool write_results(const CommandLine& line, const Done& done, const SweepOf* sweep = nullptr) {
    if (!line.has("out")) return true;
    const std::string folder = line.text("out"), kind = done.report.kind;
    const std::string base_path = files::join_path(folder, kind);
    const std::string why = files::store_campaign(base_path + ".sqlite", done.stored);
    if (!why.empty()) {
        fmt::print(stderr, "error: {}\n", why);
        return false;
    }
    announce(line, base_path + ".sqlite");
    bool well = write_result(line, base_path + ".json", report::campaign_json(done.report)) &&
                write_result(line, base_path + ".csv", report::table_csv(report::runs_table(done.report.rows))) &&
                write_result(line, base_path + ".html", report::campaign_html(done.report)) &&
                write_result(line, files::join_path(folder, "junit.xml"), report::campaign_junit(done.report));
    const auto draw = [&](const figures::Canvas& figure, const char* name) {
        for (const char* ending : {".svg", ".png"}) {
            const std::string path = files::join_path(folder, std::string(name) + ending);
            well = well && write_result(line, path, figure.render(path));
        }
    };
    if (kind == "faults") draw(*figures::draw_matrix(matrix_figure(done.report)), "matrix");
    if (sweep != nullptr && sweep->plan.axes.size() <= 2)
        draw(*figures::draw_sweep(sweep_figure(done, *sweep)), "sweep");
    return well;
}

int print_report(const CommandLine& line, const Done& done) {
    if (line.has("json"))
        fmt::print("{}", report::campaign_json(done.report));
    else if (line.has("csv"))
        fmt::print("{}", report::table_csv(report::runs_table(done.report.rows)));
    else
        fmt::print("{}", report::campaign_text(done.report, line.colours_output()));
    const bool counts = std::any_of(done.report.findings.begin(), done.report.findings.end(),
                                    [](const report::JudgedFinding& f) { return f.counts(); });
    return counts ? kFailed : kWell;
}

/// --vary and --random; null after a report. `yard`: where the yard lies, for loading it again.
std::optional<SweepOf> read_sweep(const CommandLine& line, const Loaded& loaded, const campaign::Setup& setup) {
    SweepOf out;
    out.procedures = setup.procedures.size();
    const auto is_device = [&](std::string_view name) {
        return loaded.yard.model->plant->find_device(name) != plant::kNone;
    };
    for (const std::string& text : line.list("vary")) {
        std::string problem;
        auto axis = campaign::read_axis(text, is_device, problem);
        if (!axis) {
            wrong_call("--vary: " + problem, "--vary dip_eye.at=\"0.40m..0.48m/10mm\"");
            return std::nullopt;
        }
        out.plan.axes.push_back(std::move(*axis));
    }
    if (out.plan.axes.empty()) {
        wrong_call("a sweep needs --vary", "--vary dip_eye.at=\"0.40m..0.48m/10mm\"");
        return std::nullopt;
    }
    const auto options = load_options(line);
    if (!options || !read_count(line, "random", 1, 1e6, out.plan.random)) return std::nullopt;
    out.plan.seed = options->seed.value_or(1);
    out.plan.load = [options = *options, folder = loaded.yard.folder.empty() ? std::string(".") : loaded.yard.folder](
                        const std::vector<std::pair<std::string, std::string>>& values) {
        files::LoadOptions varied = options;
        static const base::SourcePtr source = base::make_source("--vary", "");
        for (const auto& [name, value] : values) {
            if (base::fold(name) == "seed")
                varied.seed = std::strtoull(value.c_str(), nullptr, 10);
            else
                varied.overrides.push_back({name, value, {source, 1, 1, 1}});
        }
        base::Diagnostics diagnostics;
        const files::Yard yard = files::load_yard(folder, diagnostics, varied);
        campaign::Variant out;
        if (yard.model != nullptr && !diagnostics.has_errors())
            out.book = campaign::with_watch(*yard.model, yard.procedures, diagnostics);
        if (out.book != nullptr) out.model = yard.model;
        for (const base::Diagnostic& d : diagnostics.list()) {
            if (d.severity == base::Severity::Error && out.problem.empty()) out.problem = d.message;
        }
        return out;
    };
    out.points = campaign::points_of(out.plan);
    return out;
}

std::string corpus_path(const files::Yard& yard) {
    return files::join_path(yard.folder, ".vyard/hunt.txt");
}

std::string corpus_text(const std::vector<campaign::Sequence>& corpus) {
    std::string out;
    for (const campaign::Sequence& s : corpus) out.append(campaign::sequence_text(s)).append("\n");
    return out;
}

/// --limit, --with-faults, --corpus; null after a report.
std::optional<campaign::HuntPlan> read_hunt(const CommandLine& line, const files::Yard& yard) {
    campaign::HuntPlan out;
    if (!read_count(line, "limit", 1, 1e9, out.sequences)) return std::nullopt;
    const auto options = load_options(line);
    if (!options) return std::nullopt;
    out.seed = options->seed.value_or(1);
    out.faults = line.has("with-faults");
    std::string why;
    if (!line.has("corpus") || !files::is_there(corpus_path(yard))) return out;
    const auto text = files::read_text(corpus_path(yard), why);
    if (!text) {
        wrong_call(fmt::format("cannot read {}: {}", corpus_path(yard), why));
        return std::nullopt;
    }
    std::istringstream lines(*text);
    for (std::string one; std::getline(lines, one);) {
        if (auto sequence = campaign::read_sequence(one)) out.corpus.push_back(std::move(*sequence));
    }
    return out;
}

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
    if (done.report.rows.size() < done.report.jobs)
        done.report.remarks.push_back(
            fmt::format("parts are missing: {} of {} runs are here", done.report.rows.size(), done.report.jobs));
    done.accept_path = files::join_path(folder, "accept.csv");
    auto accepted = read_accepted(line, done.accept_path);
    if (!accepted) return kWrongCall;
    done.accepted = std::move(*accepted);
    if (!judge(line, done)) return kWrongCall;
    note_stale(done, done.report.rows.size() == done.report.jobs);
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
        "corpus", "hunt: go on from the sequences kept in the yard's .vyard/hunt.txt, and keep those that are new")(
        "alarms", texts("NAMES"),
        "the tags that tell people that something is wrong; default those that the "
        "logic writes and that are called so")(
        "vary", texts("NAME=LOW..HIGH/STEP"),
        "sweep: a key of a device, the initial value of a tag, or seed; may be repeated")(
        "random", text("NUMBER"), "sweep: so many points by chance, in place of all")(
        "keep", text("FOLDER"), "write a procedure there for each finding, that fails as long as it is so")(
        "accept", texts("FINDING=REASON"),
        "put it into the yard's accept.csv with today's date; * stands for anything; may be repeated")(
        "against", text("FILE.sqlite"), "what an earlier run found as well does not count")(
        "json", "everything as JSON on standard output")("csv", "a row for each run as CSV on standard output")(
        "out", text("FOLDER"), "write KIND.sqlite, .json, .csv, .html (a part of a page), junit.xml and figures there");
    line.one_of({"json", "csv"});
    line.apart({"keep"}, {"shard"});
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
    if (kind != "sweep" && (line.has("vary") || line.has("random")))
        return wrong_call("--vary and --random are for sweep");
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
        outcome = {hunted.rows, hunted.sequences, true};
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
    done.stored.about = {{"kind", kind},
                         {"yard", loaded->yard.name},
                         {"version", version_text()},
                         {"jobs", std::to_string(outcome.jobs)},
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
    if (line.has("keep") && !keep(line, *loaded, teller, done)) return kOurFault;
    progress.reset();
    if (kind != "hunt" && (line.has("corpus") || line.has("with-faults")))
        return wrong_call("--corpus and --with-faults are for hunt");
    if (sweep && sweep->plan.axes.size() == 1)
        done.report.summary = {
            margin_text(campaign::margin_of(sweep->plan.axes[0], sweep->points, sweep->procedures, done.report.rows))};
    if (!write_results(line, done, sweep ? &*sweep : nullptr)) return kOurFault;
    return interrupt.exit_code(print_report(line, done));
}

}  // namespace vyard::cli
