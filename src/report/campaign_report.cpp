#include "report/campaign_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <kainjow/mustache.hpp>
#include <nlohmann/json.hpp>
#include <pugixml.hpp>
#include <sstream>

namespace vyard::report {

namespace {

using base::clock_text;
using campaign::RunRow;

/// From the worst on.
constexpr const char* kOutcomes[] = {"dangerous", "silent", "shown", "masked", "as one alone", "not exercised"};

int rank(const std::string& outcome) {
    for (int i = 0; i < 6; ++i) {
        if (outcome == base::at(kOutcomes, i)) return i;
    }
    return 6;
}

std::string plural(std::size_t count, const char* noun) {
    return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s");
}

}  // namespace

FaultMatrix matrix_of(const std::vector<RunRow>& rows) {
    FaultMatrix out;
    std::map<std::string, std::size_t> fault_number, procedure_number;
    for (const RunRow& r : rows) {
        if (fault_number.try_emplace(r.disturbance, out.faults.size()).second) out.faults.push_back(r.disturbance);
        if (procedure_number.try_emplace(r.procedure, out.procedures.size()).second)
            out.procedures.push_back(r.procedure);
    }
    out.outcomes.assign(out.faults.size(), std::vector<std::string>(out.procedures.size()));
    std::vector<bool> told(out.faults.size(), false);
    for (const RunRow& r : rows) {
        std::string& cell = out.outcomes[fault_number[r.disturbance]][procedure_number[r.procedure]];
        if (cell.empty() || rank(r.outcome) < rank(cell)) cell = r.outcome;
        if (!r.reaction) continue;
        out.reactions.push_back(*r.reaction);
        told[fault_number[r.disturbance]] = true;
    }
    std::sort(out.reactions.begin(), out.reactions.end());
    std::size_t shown = 0, matter = 0;
    for (std::size_t f = 0; f < out.faults.size(); ++f) {
        const auto& line = out.outcomes[f];
        out.worst.push_back(*std::min_element(line.begin(), line.end(), [](const std::string& a, const std::string& b) {
            return (a.empty() ? 99 : rank(a)) < (b.empty() ? 99 : rank(b));
        }));
        ++out.counts[out.worst.back()];
        if (rank(out.worst.back()) > 2) continue;
        ++matter;
        shown += told[f] ? 1U : 0U;
    }
    if (matter > 0) out.coverage_percent = 100.0 * static_cast<double>(shown) / static_cast<double>(matter);
    return out;
}

namespace {

std::string coloured(const char* code, const std::string& text, bool colour) {
    return colour ? fmt::format("\x1b[{}m{}\x1b[0m", code, text) : text;
}

std::string when(const campaign::Finding& f) {
    std::string out;
    if (!f.procedure.empty()) out = fmt::format("in '{}' at {}", f.procedure, clock_text(f.at));
    if (f.times > 1) out.append(fmt::format("{}in {} runs", out.empty() ? "" : ", ", f.times));
    return out;
}

/// Of a hunt the rows are those that saw something.
std::size_t runs_done(const CampaignReport& report) {
    return report.kind == "hunt" ? report.jobs : report.rows.size();
}

/// "10 runs of 420, 2 findings, 6 accepted"
std::string counts_text(const CampaignReport& report) {
    std::size_t counting = 0, accepted = 0, known = 0;
    for (const JudgedFinding& f : report.findings) {
        counting += f.counts() ? 1U : 0U;
        accepted += f.accepted.empty() ? 0U : 1U;
        known += f.known && f.accepted.empty() ? 1U : 0U;
    }
    std::string out = plural(runs_done(report), "run");
    if (runs_done(report) < report.jobs) out.append(fmt::format(" of {}", report.jobs));
    out.append(fmt::format(", {}", plural(counting, "finding")));
    if (known > 0) out.append(fmt::format(", {} known before", known));
    if (accepted > 0) out.append(fmt::format(", {} accepted", accepted));
    return out;
}

std::string matrix_text(const FaultMatrix& m) {
    std::string out;
    for (const char* outcome : kOutcomes) {
        const auto found = m.counts.find(outcome);
        if (found != m.counts.end()) out.append(fmt::format("  {:<14}{}\n", outcome, plural(found->second, "fault")));
    }
    if (m.coverage_percent >= 0.0)
        out.append(
            fmt::format("  diagnostic coverage {:.0f} %: of the faults that matter, so many are shown by an alarm "
                        "in some procedure\n",
                        m.coverage_percent));
    if (!m.reactions.empty())
        out.append(fmt::format("  until the alarm: {} at least, {} in the middle, {} at most\n",
                               clock_text(m.reactions.front()), clock_text(m.reactions[m.reactions.size() / 2]),
                               clock_text(m.reactions.back())));
    return out;
}

}  // namespace

std::string campaign_text(const CampaignReport& report, bool colour) {
    std::string out;
    for (const JudgedFinding& f : report.findings) {
        if (!f.counts()) continue;
        out.append(coloured("1;31", "finding", colour)).append("  ").append(base::shown(f.finding.key)).append("\n");
        const std::string where = when(f.finding);
        out.append(fmt::format("         {}{}\n", base::shown(f.finding.text), where.empty() ? "" : "; " + where));
        if (!f.kept.empty()) out.append(fmt::format("         shown by {}\n", f.kept));
    }
    for (const std::string& r : report.remarks) out.append(fmt::format("remark   {}\n", base::shown(r)));
    std::map<std::string, std::size_t> outcomes;
    for (const RunRow& r : report.rows) ++outcomes[r.outcome];
    if (report.kind == "faults") out.append(matrix_text(matrix_of(report.rows)));
    if (report.kind == "sweep") {
        for (const auto& [outcome, count] : outcomes)
            out.append(fmt::format("  {:<16}{}\n", outcome, plural(count, "run")));
    }
    for (const std::string& text : report.summary) out.append(text).append("\n");
    return out + fmt::format("{}: {}\n", report.kind, counts_text(report));
}

Table runs_table(const std::vector<RunRow>& rows) {
    Table table;
    table.columns = {"run", "disturbance", "procedure", "at s", "outcome", "reaction s", "detail", "findings"};
    for (const RunRow& r : rows) {
        std::string findings;
        for (const campaign::Sight& s : r.sights) findings.append(findings.empty() ? "" : " | ").append(s.key);
        table.rows.push_back(
            {std::to_string(r.number), r.disturbance, r.procedure, fmt::format("{:.3f}", base::to_seconds(r.at)),
             r.outcome, r.reaction ? fmt::format("{:.3f}", base::to_seconds(*r.reaction)) : "", r.detail, findings});
    }
    return table;
}

Table findings_table(const std::vector<JudgedFinding>& findings) {
    Table table;
    table.columns = {"finding", "text", "runs", "first run", "procedure", "at s", "accepted", "known", "shown by"};
    for (const JudgedFinding& f : findings)
        table.rows.push_back({f.finding.key, f.finding.text, std::to_string(f.finding.times),
                              std::to_string(f.finding.first_run), f.finding.procedure,
                              fmt::format("{:.3f}", base::to_seconds(f.finding.at)), f.accepted,
                              f.known ? "TRUE" : "FALSE", f.kept});
    return table;
}

std::string campaign_json(const CampaignReport& report) {
    using nlohmann::ordered_json;
    ordered_json out = {{"campaign", report.kind}, {"yard", report.yard},       {"runs", runs_done(report)},
                        {"jobs", report.jobs},     {"remarks", report.remarks}, {"findings", ordered_json::array()}};
    for (const JudgedFinding& f : report.findings) {
        ordered_json entry = {{"finding", f.finding.key},
                              {"text", f.finding.text},
                              {"runs", f.finding.times},
                              {"first_run", f.finding.first_run},
                              {"disturbance", f.finding.disturbance},
                              {"procedure", f.finding.procedure},
                              {"at_s", base::to_seconds(f.finding.at)},
                              {"counts", f.counts()},
                              {"known", f.known}};
        if (!f.accepted.empty()) entry["accepted"] = f.accepted;
        if (!f.kept.empty()) entry["shown_by"] = f.kept;
        out["findings"].push_back(std::move(entry));
    }
    std::map<std::string, std::size_t> outcomes;
    for (const RunRow& r : report.rows) ++outcomes[r.outcome];
    out["outcomes"] = outcomes;
    if (!report.summary.empty()) out["summary"] = report.summary;
    if (report.kind == "faults") {
        const FaultMatrix m = matrix_of(report.rows);
        ordered_json matrix = ordered_json::object();
        for (std::size_t f = 0; f < m.faults.size(); ++f) {
            for (std::size_t p = 0; p < m.procedures.size(); ++p)
                matrix[m.faults[f]][m.procedures[p]] = m.outcomes[f][p];
        }
        out["faults"] = std::move(matrix);
        if (m.coverage_percent >= 0.0) out["diagnostic_coverage_percent"] = m.coverage_percent;
    }
    return out.dump(2, ' ', false, ordered_json::error_handler_t::replace) + "\n";
}

std::string campaign_junit(const CampaignReport& report) {
    pugi::xml_document document;
    pugi::xml_node suites = document.append_child("testsuites");
    suites.append_attribute("name") = base::shown(report.yard).c_str();
    pugi::xml_node suite = suites.append_child("testsuite");
    suite.append_attribute("name") = fmt::format("campaign {}", report.kind).c_str();
    int failures = 0, skipped = 0;
    for (const JudgedFinding& f : report.findings) {
        pugi::xml_node test = suite.append_child("testcase");
        test.append_attribute("classname") = report.kind.c_str();
        test.append_attribute("name") = base::shown(f.finding.key).c_str();
        if (f.counts()) {
            ++failures;
            pugi::xml_node failure = test.append_child("failure");
            failure.append_attribute("message") = base::shown(f.finding.text).c_str();
            failure.text() = when(f.finding).c_str();
        } else {
            ++skipped;
            test.append_child("skipped").append_attribute("message") =
                f.accepted.empty() ? "known before" : base::shown("accepted: " + f.accepted).c_str();
        }
    }
    if (report.findings.empty()) {
        pugi::xml_node test = suite.append_child("testcase");
        test.append_attribute("classname") = report.kind.c_str();
        test.append_attribute("name") = plural(runs_done(report), "run").c_str();
    }
    suite.append_attribute("tests") = static_cast<int>(std::max<std::size_t>(report.findings.size(), 1));
    suite.append_attribute("failures") = failures;
    suite.append_attribute("skipped") = skipped;
    std::ostringstream out;
    document.save(out, "  ");
    return out.str();
}

std::string campaign_html(const CampaignReport& report) {
    namespace mustache = kainjow::mustache;
    static constexpr const char* kFragment =
        R"(<section class="campaign"><h2>Campaign {{kind}}: {{yard}}</h2>
<p>{{summary}}</p>
{{#any}}<table><tr><th>Finding</th><th>What was seen</th><th>Where</th><th></th></tr>
{{#findings}}<tr><td>{{key}}</td><td>{{text}}</td><td>{{where}}</td><td>{{judged}}</td></tr>
{{/findings}}</table>{{/any}}
{{#faults}}<table><tr><th>Fault</th>{{#procedures}}<th>{{name}}</th>{{/procedures}}</tr>
{{#rows}}<tr><td>{{fault}}</td>{{#cells}}<td class="{{class}}">{{outcome}}</td>{{/cells}}</tr>
{{/rows}}</table>{{/faults}}
</section>
)";
    mustache::data page;
    page.set("kind", report.kind);
    page.set("yard", base::shown(report.yard));
    page.set("summary", counts_text(report));
    page.set("any", report.findings.empty() ? mustache::data::type::bool_false : mustache::data::type::bool_true);
    mustache::data findings{mustache::data::type::list};
    for (const JudgedFinding& f : report.findings) {
        mustache::data row;
        row.set("key", base::shown(f.finding.key));
        row.set("text", base::shown(f.finding.text));
        row.set("where", base::shown(when(f.finding)));
        row.set("judged", !f.accepted.empty() ? base::shown("accepted: " + f.accepted)
                          : f.known           ? "known before"
                                              : "new");
        findings.push_back(row);
    }
    page.set("findings", findings);
    if (report.kind == "faults") {
        const FaultMatrix m = matrix_of(report.rows);
        mustache::data faults, procedures{mustache::data::type::list}, rows{mustache::data::type::list};
        for (const std::string& p : m.procedures) procedures.push_back(mustache::data{"name", base::shown(p)});
        for (std::size_t f = 0; f < m.faults.size(); ++f) {
            mustache::data row, cells{mustache::data::type::list};
            for (const std::string& outcome : m.outcomes[f]) {
                mustache::data cell;
                std::string css = outcome;
                std::replace(css.begin(), css.end(), ' ', '-');
                cell.set("class", css);
                cell.set("outcome", outcome);
                cells.push_back(cell);
            }
            row.set("fault", base::shown(m.faults[f]));
            row.set("cells", cells);
            rows.push_back(row);
        }
        faults.set("procedures", procedures);
        faults.set("rows", rows);
        page.set("faults", faults);
    }
    mustache::mustache fragment{kFragment};
    return fragment.render(page);
}

}  // namespace vyard::report
