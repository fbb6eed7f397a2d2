#include "report/checkout_page.hpp"

#include <fmt/format.h>

#include <kainjow/mustache.hpp>

namespace vyard::report {

namespace {

using procedure::CheckoutVerdict;

/// The texts of all probes, one after another.
std::string each(const procedure::CheckoutLine& line, std::string procedure::Probe::*part) {
    std::string out;
    for (const procedure::Probe& p : line.probes) out += (out.empty() ? "" : " | ") + p.*part;
    return out;
}

constexpr const char* kPage = R"(<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>Checkout of {{yard}}</title>
<style>
body { font-family: "DejaVu Sans", sans-serif; margin: 1.5rem; color: #1f2430; font-size: 13px; }
h1 { font-size: 20px; margin: 0 0 .3rem 0; }
p { margin: .2rem 0 1rem 0; color: #5b6270; }
table { border-collapse: collapse; width: 100%; }
th, td { text-align: left; padding: 3px 6px; white-space: nowrap; border-bottom: 1px solid #d8dce4; vertical-align: top; }
th { border-bottom: 2px solid #1f2430; }
td.moved { white-space: normal; font-size: 11px; min-width: 11rem; }
tr.remark td { white-space: normal; font-size: 12px; padding-top: 0; }
tr:has(+ tr.remark) td { border-bottom: none; }
td.seen { min-width: 5rem !important; }
td.values { white-space: normal; min-width: 9.8rem; font-family: "DejaVu Sans Mono", monospace; font-size: 11px; }
.passed { color: #00785a; font-weight: bold; }
.failed { color: #b63c00; font-weight: bold; }
.not { color: #5b6270; }
tr.failed-row { background: #fdf0e8; }
.sign { margin-top: 2.5rem; display: flex; gap: 3rem; }
.sign div { border-top: 1px solid #1f2430; width: 16rem; padding-top: 4px; color: #5b6270; }
@media print { body { margin: 0; } }
</style></head><body>
<h1>Input and output checkout: {{yard}}</h1>
<p>{{passed}} passed, {{failed}} failed, {{open}} not tried, of {{all}} joined points</p>
<table><tr><th></th><th>Point</th><th>Tag</th><th>Address</th><th>Given</th><th>Expected</th><th>Seen</th><th>What moved</th><th>Verdict</th><th>Date</th><th>By</th></tr>
{{#lines}}<tr{{#bad}} class="failed-row"{{/bad}}><td>{{direction}}</td><td>{{point}}</td><td>{{tag}}</td><td>{{address}}</td><td class="values">{{given}}</td><td class="values">{{expected}}</td><td class="values seen">{{seen}}</td><td class="moved">{{moved}}</td><td class="{{class}}">{{verdict}}</td><td>{{date}}</td><td>{{by}}</td></tr>
{{#remark}}<tr class="remark{{#bad}} failed-row{{/bad}}"><td></td><td colspan="10">{{remark}}</td></tr>{{/remark}}
{{/lines}}</table>
<div class="sign"><div>Checked by</div><div>Date</div><div>Accepted by</div><div>Date</div></div>
</body></html>
)";

}  // namespace

Table checkout_table(const std::vector<SignedLine>& lines) {
    Table table;
    table.columns = {"direction", "point", "tag",     "address", "scaling", "given", "expected",
                     "seen",      "moved", "verdict", "date",    "by",      "remark"};
    for (const SignedLine& s : lines) {
        const procedure::CheckoutLine& l = s.line;
        table.rows.push_back({l.input ? "in" : "out", l.point, l.tag, l.address, l.scaling,
                              each(l, &procedure::Probe::given), each(l, &procedure::Probe::expected),
                              each(l, &procedure::Probe::seen), l.moved, procedure::verdict_word(l.verdict), s.date,
                              s.by, l.remark});
    }
    return table;
}

std::string checkout_page(const std::string& yard, const std::vector<SignedLine>& lines) {
    namespace mustache = kainjow::mustache;
    mustache::data rows{mustache::data::type::list};
    int passed = 0, failed = 0;
    const Table table = checkout_table(lines);
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const CheckoutVerdict verdict = lines[i].line.verdict;
        passed += verdict == CheckoutVerdict::Passed ? 1 : 0;
        failed += verdict == CheckoutVerdict::Failed ? 1 : 0;
        mustache::data row;
        for (std::size_t c = 0; c < table.columns.size(); ++c) {
            if (table.columns[c] != "remark" || !table.rows[i][c].empty())
                row.set(table.columns[c], base::shown(table.rows[i][c]));
        }
        // A signed page says what was seen; where that is what was expected, in two words, so that the rest has room.
        if (verdict != CheckoutVerdict::NotTried &&
            base::at(table.rows[i], table.column("seen")) == base::at(table.rows[i], table.column("expected")))
            row.set("seen", "as expected");
        row.set("class", verdict == CheckoutVerdict::Passed   ? "passed"
                         : verdict == CheckoutVerdict::Failed ? "failed"
                                                              : "not");
        row.set("bad", verdict == CheckoutVerdict::Failed ? mustache::data::type::bool_true
                                                          : mustache::data::type::bool_false);
        rows.push_back(row);
    }
    const int all = static_cast<int>(lines.size());
    mustache::data page;
    page.set("yard", base::shown(yard));
    page.set("passed", std::to_string(passed));
    page.set("failed", std::to_string(failed));
    page.set("open", std::to_string(all - passed - failed));
    page.set("all", std::to_string(all));
    page.set("lines", rows);
    return mustache::mustache(kPage).render(page);
}

}  // namespace vyard::report
