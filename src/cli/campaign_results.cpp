#include "cli/campaign_results.hpp"

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <ctime>
#include <set>

#include "figures/matrix_figure.hpp"
#include "figures/sweep_figure.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace {

constexpr int kTries = 150;  ///< Runs that shrinking one finding may take.

}  // namespace

namespace {

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

}  // namespace

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

namespace {

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

}  // namespace

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

namespace {

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

}  // namespace

bool keep_stories(const CommandLine& line, const Loaded& loaded, const Teller& story_of, Done& done) {
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

namespace {

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

}  // namespace

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

namespace {

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

}  // namespace

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

bool write_results(const CommandLine& line, const Done& done, const SweepOf* sweep) {
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

}  // namespace vyard::cli
