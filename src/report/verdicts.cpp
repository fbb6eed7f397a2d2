#include "report/verdicts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
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
    static constexpr const char* kColours[] = {"\033[32m", "\033[31m", "\033[33m", "\033[33m", "\033[33m", "\033[31m"};
    const std::string text = fmt::format("{:<16}", procedure::verdict_text(verdict));
    return colour ? kColours[static_cast<int>(verdict)] + text + "\033[0m" : text;
}

/// Control characters of names and values are written out; the colours alone are ours to send.
std::string shown_with_colours(const std::string& text, bool colour) {
    std::string out = base::shown(text);
    if (!colour) return out;
    for (const char* code : {"[32m", "[31m", "[33m", "[0m"}) {
        const std::string written = std::string("\\x1B") + code;
        for (std::size_t at = out.find(written); at != std::string::npos; at = out.find(written, at + 1))
            out.replace(at, written.size(), std::string("\033") + code);
    }
    return out;
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
    out += values_text(f.values, indent + "          ");
    const auto list = [&](const char* title, const std::vector<std::string>& lines) {
        for (std::size_t i = 0; i < lines.size(); ++i)
            out += fmt::format("{}{:<10}{}\n", indent, i == 0 ? title : "", lines[i]);
    };
    list("kept off", f.kept_off);
    list("causes", f.causes);
    list("changed", f.changes);
    list("devices", f.devices);
    return out;
}

std::string broken_text(const RuleVerdict& r, const std::string& indent) {
    std::string out = fmt::format("{}{}\n{}rule      {}\n", indent, r.place.text(), indent, r.condition);
    if (r.times_broken > 0)
        out += fmt::format("{}broken    first at {}, for {} in all, {} time{}\n", indent, clock_text(r.first_broken),
                           time_text(r.broken_for), r.times_broken, r.times_broken == 1 ? "" : "s");
    if (!r.reason.empty()) out += fmt::format("{}because   {}\n", indent, r.reason);
    return out + values_text(r.values, indent + "          ");
}

}  // namespace

bool all_passed(const std::vector<ProcedureVerdict>& verdicts) {
    return std::all_of(verdicts.begin(), verdicts.end(),
                       [](const ProcedureVerdict& v) { return v.verdict == Verdict::Passed; });
}

namespace {

/// "2 of 3 procedures passed; 1 rule open at the end, 2 rules not tested"
std::string summary(const std::vector<ProcedureVerdict>& verdicts) {
    std::size_t passed = 0, open = 0, untested = 0, mishaps = 0;
    for (const ProcedureVerdict& p : verdicts) {
        for (const session::MishapNote& m : p.mishaps) mishaps += m.allowed.empty() ? 1U : 0U;
        passed += p.verdict == Verdict::Passed ? 1U : 0U;
        for (const RuleVerdict& r : p.rules) open += r.verdict == Verdict::OpenAtEnd ? 1U : 0U;
    }
    // A rule of the yard is untested when no procedure triggered it.
    std::map<std::string, bool> tested;
    for (const ProcedureVerdict& p : verdicts) {
        for (const RuleVerdict& r : p.rules) {
            bool& any = tested[r.place.text()];
            any = any || r.verdict != Verdict::NotTested;
        }
    }
    for (const auto& [rule, any] : tested) untested += any ? 0U : 1U;
    std::string out =
        fmt::format("{} of {} procedure{} passed", passed, verdicts.size(), verdicts.size() == 1 ? "" : "s");
    if (open > 0) out += fmt::format("; {} rule{} open at the end", open, open == 1 ? "" : "s");
    if (untested > 0) out += fmt::format("; {} rule{} never tested", untested, untested == 1 ? "" : "s");
    if (mishaps > 0) out += fmt::format("; {} mishap{}", mishaps, mishaps == 1 ? "" : "s");
    return out + "\n";
}

std::string rule_line(const RuleVerdict& r, bool colour) {
    std::vector<std::string> remarks;
    if (r.own) remarks.emplace_back("of this procedure");
    if (r.times_triggered > 0)
        remarks.push_back(r.times_triggered == 1 ? "triggered once"
                                                 : fmt::format("triggered {} times", r.times_triggered));
    return fmt::format("    {} rule  {}{}\n", marked(r.verdict, colour), r.name,
                       remarks.empty() ? "" : fmt::format("  ({})", fmt::join(remarks, ", ")));
}

}  // namespace

std::string verdicts_text(const std::vector<ProcedureVerdict>& verdicts, bool colour) {
    std::string out;
    const std::string under(27, ' ');
    for (const ProcedureVerdict& p : verdicts) {
        out += fmt::format("{} {}  ({})\n", marked(p.verdict, colour), p.name, clock_text(p.duration));
        for (const StepVerdict& s : p.steps) {
            out += fmt::format("    {} step  {}", marked(s.verdict, colour), s.name);
            out += s.verdict == Verdict::NotReached
                       ? "\n"
                       : fmt::format("  ({} to {})\n", clock_text(s.begin), clock_text(s.end));
            for (const std::string& note : s.notes) out += fmt::format("{}{}\n", under, note);
            if (s.failure) out += failure_text(*s.failure, std::string(21, ' '));
        }
        for (const RuleVerdict& r : p.rules) {
            out += rule_line(r, colour);
            if (r.verdict == Verdict::Failed || r.verdict == Verdict::CannotBeJudged)
                out += broken_text(r, std::string(21, ' '));
        }
        for (const procedure::StopVerdict& s : p.stops)
            out += fmt::format("    {} {}\n", marked(s.meant ? Verdict::Passed : Verdict::Failed, colour),
                               s.meant ? s.text + " (expected)" : s.text);
        for (const session::MishapNote& m : p.mishaps)
            out += fmt::format("    {:<16} {}\n", "mishap", session::mishap_line(m));
        for (const std::string& remark : p.remarks) out += fmt::format("    {:<16} {}\n", "remark", remark);
    }
    return shown_with_colours(out, colour) + summary(verdicts);
}

std::string junit_xml(const std::string& yard, const std::vector<ProcedureVerdict>& verdicts) {
    pugi::xml_document document;
    pugi::xml_node suites = document.append_child("testsuites");
    suites.append_attribute("name") = base::shown(yard).c_str();
    for (const ProcedureVerdict& p : verdicts) {
        pugi::xml_node suite = suites.append_child("testsuite");
        int failures = 0, skipped = 0;
        const auto add = [&](const std::string& name, Verdict verdict, double seconds, const std::string& message,
                             const std::string& details) {
            pugi::xml_node test = suite.append_child("testcase");
            test.append_attribute("classname") = base::shown(p.name).c_str();
            test.append_attribute("name") = base::shown(name).c_str();
            test.append_attribute("time") = fmt::format("{:.3f}", seconds).c_str();
            // What makes the procedure fail is a failure here too.
            if (verdict == Verdict::Failed || verdict == Verdict::CannotBeJudged || verdict == Verdict::OpenAtEnd) {
                ++failures;
                pugi::xml_node failure = test.append_child("failure");
                failure.append_attribute("message") = base::shown(message).c_str();
                failure.text() = base::shown(details).c_str();
            } else if (verdict != Verdict::Passed) {
                ++skipped;
                test.append_child("skipped").append_attribute("message") = procedure::verdict_text(verdict);
            }
        };
        for (const StepVerdict& s : p.steps) {
            const std::string message =
                s.failure ? fmt::format("expected {}, but {}", s.failure->expected, s.failure->found) : "";
            add("step: " + s.name, s.verdict, to_seconds(s.end - s.begin), message,
                s.failure ? failure_text(*s.failure, "") : "");
        }
        for (const RuleVerdict& r : p.rules) {
            const bool told = r.verdict == Verdict::Failed || r.verdict == Verdict::CannotBeJudged;
            add("rule: " + r.name, r.verdict, 0.0,
                r.times_broken > 0                ? fmt::format("first broken at {}", clock_text(r.first_broken))
                : r.verdict == Verdict::OpenAtEnd ? std::string(procedure::verdict_text(r.verdict))
                                                  : r.reason,
                told ? broken_text(r, "") : "");
        }
        for (const procedure::StopVerdict& stop : p.stops)
            add("controller", stop.meant ? Verdict::Passed : Verdict::Failed, 0.0, stop.text, stop.text);
        std::string mishaps;
        for (const session::MishapNote& m : p.mishaps)
            mishaps += fmt::format("mishap: {}\n", base::shown(session::mishap_line(m)));
        if (!mishaps.empty()) suite.append_child("system-out").text() = mishaps.c_str();
        suite.prepend_attribute("time") = fmt::format("{:.3f}", to_seconds(p.duration)).c_str();
        suite.prepend_attribute("skipped") = skipped;
        suite.prepend_attribute("failures") = failures;
        suite.prepend_attribute("tests") = static_cast<int>(p.steps.size() + p.rules.size() + p.stops.size());
        suite.prepend_attribute("name") = base::shown(p.name).c_str();
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
                                 {"end_s", to_seconds(s.end)},
                                 {"notes", s.notes}};
            if (s.failure) {
                step["failure"] = {{"place", s.failure->place.text()},    {"expected", s.failure->expected},
                                   {"found", s.failure->found},           {"time_s", to_seconds(s.failure->time)},
                                   {"values", values(s.failure->values)}, {"kept_off", s.failure->kept_off},
                                   {"causes", s.failure->causes},         {"changed", s.failure->changes},
                                   {"devices", s.failure->devices}};
            }
            entry["steps"].push_back(step);
        }
        for (const RuleVerdict& r : p.rules) {
            ordered_json rule = {{"name", r.name},
                                 {"verdict", procedure::verdict_text(r.verdict)},
                                 {"of_this_procedure", r.own},
                                 {"triggered", r.times_triggered},
                                 {"broken", r.times_broken}};
            if (r.times_broken > 0) {
                rule["first_broken_s"] = to_seconds(r.first_broken);
                rule["broken_for_s"] = to_seconds(r.broken_for);
                rule["values"] = values(r.values);
            }
            if (!r.reason.empty()) rule["reason"] = r.reason;
            entry["rules"].push_back(rule);
        }
        entry["mishaps"] = ordered_json::array();
        for (const session::MishapNote& m : p.mishaps) {
            entry["mishaps"].push_back({{"name", m.name},
                                        {"text", m.text},
                                        {"first_s", to_seconds(m.first)},
                                        {"times", m.times},
                                        {"in_all_s", m.seconds}});
            if (!m.allowed.empty()) entry["mishaps"].back()["allowed"] = m.allowed;
        }
        entry["stops"] = ordered_json::array();
        for (const procedure::StopVerdict& stop : p.stops)
            entry["stops"].push_back(
                {{"time_s", to_seconds(stop.time)}, {"text", stop.text}, {"expected", stop.meant}});
        procedures.push_back(entry);
    }
    return ordered_json{{"yard", yard}, {"passed", all_passed(verdicts)}, {"procedures", procedures}}.dump(
               2, ' ', false, ordered_json::error_handler_t::replace) +
           "\n";
}

}  // namespace vyard::report
