#include "report/verdicts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <pugixml.hpp>
#include <sstream>

namespace vyard::report {

using base::clock_text;
using base::time_text;
using base::to_seconds;
using procedure::Failure;
using procedure::ProcedureVerdict;
using procedure::RuleVerdict;
using procedure::StepVerdict;
using procedure::Verdict;

namespace {

std::string marked(Verdict verdict, bool colour) {
    static constexpr const char* kColours[] = {"\033[32m", "\033[31m", "\033[33m"};
    const std::string text = fmt::format("{:<11}", procedure::verdict_text(verdict));
    return colour ? kColours[static_cast<int>(verdict)] + text + "\033[0m" : text;
}

std::string values_text(const std::vector<std::pair<std::string, std::string>>& values, const std::string& indent) {
    std::string out;
    for (const auto& [name, value] : values) out += fmt::format("{}{} = {}\n", indent, name, value);
    return out;
}

std::string failure_text(const Failure& f, const std::string& indent) {
    std::string out = fmt::format("{}{}\n", indent, f.place.text());
    out += fmt::format("{}    {}\n", indent, f.place.source->line(f.place.line));
    out +=
        fmt::format("{}expected  {}\n{}but       {}, at {}\n", indent, f.expected, indent, f.found, clock_text(f.time));
    return out + values_text(f.values, indent + "          ");
}

std::string broken_text(const RuleVerdict& r, const std::string& indent) {
    std::string out = fmt::format("{}{}\n{}rule      {}\n", indent, r.place.text(), indent, r.condition);
    out += fmt::format("{}broken    first at {}, for {} in all, {} time{}\n", indent, clock_text(r.first_broken),
                       time_text(r.broken_for), r.times_broken, r.times_broken == 1 ? "" : "s");
    return out + values_text(r.values, indent + "          ");
}

}  // namespace

bool all_passed(const std::vector<ProcedureVerdict>& verdicts) {
    return std::all_of(verdicts.begin(), verdicts.end(),
                       [](const ProcedureVerdict& v) { return v.verdict == Verdict::Passed; });
}

std::string verdicts_text(const std::vector<ProcedureVerdict>& verdicts, bool colour) {
    std::string out;
    int passed = 0;
    for (const ProcedureVerdict& p : verdicts) {
        if (p.verdict == Verdict::Passed) ++passed;
        out += fmt::format("{} {}  ({})\n", marked(p.verdict, colour), p.name, clock_text(p.duration));
        for (const StepVerdict& s : p.steps) {
            out += fmt::format("    {} step  {}", marked(s.verdict, colour), s.name);
            out += s.verdict == Verdict::NotReached
                       ? "\n"
                       : fmt::format("  ({} to {})\n", clock_text(s.begin), clock_text(s.end));
            for (const std::string& note : s.notes) out += fmt::format("                      {}\n", note);
            if (s.failure) out += failure_text(*s.failure, "                ");
        }
        for (const RuleVerdict& r : p.rules) {
            out += fmt::format("    {} rule  {}", marked(r.verdict, colour), r.name);
            out += r.times_triggered > 0
                       ? fmt::format("  (asked {} time{})\n", r.times_triggered, r.times_triggered == 1 ? "" : "s")
                       : "\n";
            if (r.verdict == Verdict::Failed) out += broken_text(r, "                ");
        }
        for (const std::string& remark : p.remarks) out += fmt::format("    remark      {}\n", remark);
    }
    out += fmt::format("{} of {} procedures passed\n", passed, verdicts.size());
    return out;
}

std::string junit_xml(const std::string& yard, const std::vector<ProcedureVerdict>& verdicts) {
    pugi::xml_document document;
    pugi::xml_node suites = document.append_child("testsuites");
    suites.append_attribute("name") = yard.c_str();
    for (const ProcedureVerdict& p : verdicts) {
        pugi::xml_node suite = suites.append_child("testsuite");
        int failures = 0, skipped = 0;
        const auto add = [&](const std::string& name, Verdict verdict, double seconds, const std::string& message,
                             const std::string& details) {
            pugi::xml_node test = suite.append_child("testcase");
            test.append_attribute("classname") = p.name.c_str();
            test.append_attribute("name") = name.c_str();
            test.append_attribute("time") = fmt::format("{:.3f}", seconds).c_str();
            if (verdict == Verdict::Failed) {
                ++failures;
                pugi::xml_node failure = test.append_child("failure");
                failure.append_attribute("message") = message.c_str();
                failure.text() = details.c_str();
            } else if (verdict == Verdict::NotReached) {
                ++skipped;
                test.append_child("skipped");
            }
        };
        for (const StepVerdict& s : p.steps) {
            const std::string message =
                s.failure ? fmt::format("expected {}, but {}", s.failure->expected, s.failure->found) : "";
            add("step: " + s.name, s.verdict, to_seconds(s.end - s.begin), message,
                s.failure ? failure_text(*s.failure, "") : "");
        }
        for (const RuleVerdict& r : p.rules) {
            add("rule: " + r.name, r.verdict, 0.0, fmt::format("first broken at {}", clock_text(r.first_broken)),
                r.verdict == Verdict::Failed ? broken_text(r, "") : "");
        }
        if (p.verdict == Verdict::Failed &&
            failures == 0) {  // the controller stopped by itself in a procedure that looked at nothing else
            add("controller", Verdict::Failed, 0.0, p.remarks.empty() ? "stopped" : p.remarks.back(),
                p.remarks.empty() ? "" : p.remarks.back());
        }
        suite.prepend_attribute("time") = fmt::format("{:.3f}", to_seconds(p.duration)).c_str();
        suite.prepend_attribute("skipped") = skipped;
        suite.prepend_attribute("failures") = failures;
        suite.prepend_attribute("tests") = static_cast<int>(p.steps.size() + p.rules.size());
        suite.prepend_attribute("name") = p.name.c_str();
    }
    std::ostringstream out;
    document.save(out, "  ");
    return out.str();
}

std::string verdicts_json(const std::string& yard, const std::vector<ProcedureVerdict>& verdicts) {
    using nlohmann::ordered_json;
    const auto values = [](const std::vector<std::pair<std::string, std::string>>& list) {
        ordered_json out = ordered_json::object();
        for (const auto& [name, value] : list) out[name] = value;
        return out;
    };
    ordered_json procedures = ordered_json::array();
    for (const ProcedureVerdict& p : verdicts) {
        ordered_json entry = {{"name", p.name},
                              {"verdict", procedure::verdict_text(p.verdict)},
                              {"duration_s", to_seconds(p.duration)},
                              {"steps", ordered_json::array()},
                              {"rules", ordered_json::array()},
                              {"remarks", p.remarks}};
        for (const StepVerdict& s : p.steps) {
            ordered_json step = {{"name", s.name},
                                 {"verdict", procedure::verdict_text(s.verdict)},
                                 {"begin_s", to_seconds(s.begin)},
                                 {"end_s", to_seconds(s.end)}};
            if (s.failure) {
                step["failure"] = {{"place", s.failure->place.text()},
                                   {"expected", s.failure->expected},
                                   {"found", s.failure->found},
                                   {"time_s", to_seconds(s.failure->time)},
                                   {"values", values(s.failure->values)}};
            }
            entry["steps"].push_back(step);
        }
        for (const RuleVerdict& r : p.rules) {
            ordered_json rule = {{"name", r.name},
                                 {"verdict", procedure::verdict_text(r.verdict)},
                                 {"asked", r.times_triggered},
                                 {"broken", r.times_broken}};
            if (r.times_broken > 0) {
                rule["first_broken_s"] = to_seconds(r.first_broken);
                rule["broken_for_s"] = to_seconds(r.broken_for);
                rule["values"] = values(r.values);
            }
            entry["rules"].push_back(rule);
        }
        procedures.push_back(entry);
    }
    return ordered_json{{"yard", yard}, {"passed", all_passed(verdicts)}, {"procedures", procedures}}.dump(2) + "\n";
}

}  // namespace vyard::report
