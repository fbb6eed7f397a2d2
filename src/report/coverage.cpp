#include "report/coverage.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "report/table.hpp"

namespace vyard::report {

namespace {

std::string share_text(const logic::CoverShare& s) {
    return s.all == 0 ? "" : fmt::format("{} of {}", s.done, s.all);
}

nlohmann::ordered_json gap_json(const logic::CoverGap& gap) {
    const auto [line, column] = gap.place.source->in_file(gap.place.line, gap.place.column);
    return {{"file", gap.place.source->path}, {"line", line}, {"column", column}, {"what", gap.what}};
}

nlohmann::ordered_json share_json(const logic::CoverShare& s) {
    return {{"done", s.done}, {"all", s.all}};
}

}  // namespace

std::string coverage_text(const session::SessionModel& model, const Coverages& coverages) {
    Table table;
    table.columns = {"unit",         "lines run",         "branches taken",
                     "networks run", "transitions fired", "contacts open and closed"};
    std::string gaps, tags;
    int not_followed = 0;
    const bool several = model.controllers.size() > 1;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerModel& controller = model.controllers[c];
        for (const logic::UnitCoverage& u : logic::unit_coverages(*controller.program, coverages[c])) {
            table.rows.push_back({several ? controller.name + "." + u.name : u.name, share_text(u.lines),
                                  share_text(u.branches), share_text(u.networks), share_text(u.transitions),
                                  share_text(u.contacts)});
            not_followed += u.not_followed;
            for (const logic::CoverGap& g : u.gaps)
                fmt::format_to(std::back_inserter(gaps), "  {}: {}\n", g.place.text(), g.what);
        }
        const logic::TagCoverage t = logic::tag_coverage(*controller.program, coverages[c]);
        fmt::format_to(std::back_inserter(tags), "tags of {} that moved: {}\n", controller.name,
                       t.moved.all == 0 ? "none of 0" : share_text(t.moved));
        if (!t.still.empty()) fmt::format_to(std::back_inserter(tags), "  still: {}\n", fmt::join(t.still, ", "));
    }
    if (not_followed > 0)
        fmt::format_to(std::back_inserter(tags), "contacts that compare or have an index are not followed: {}\n",
                       not_followed);
    return fmt::format("{}{}{}{}", table_text(table), gaps.empty() ? "" : "never exercised:\n", gaps, tags);
}

std::string proof_text(const campaign::ProofCoverage& proof) {
    std::string out;
    for (const campaign::ProofClass& c : proof.classes()) {
        out.append(fmt::format("{}: {} of {}", c.name, c.done, c.all));
        for (std::size_t i = 0; i < c.missing.size() && i < 8; ++i)
            out.append(i == 0 ? "; not " : ", ").append(base::shown(c.missing[i]));
        if (c.missing.size() > 8) out.append(fmt::format(" and {} more", c.missing.size() - 8));
        out.append("\n");
    }
    const std::vector<std::string> proposals = proof.proposals();
    if (!proposals.empty()) out.append("what procedures would add most:\n");
    for (const std::string& p : proposals) out.append("  ").append(base::shown(p)).append("\n");
    return out;
}

std::string coverage_json(const session::SessionModel& model, const Coverages& coverages,
                          const campaign::ProofCoverage& proof) {
    auto units = nlohmann::ordered_json::array(), tags = nlohmann::ordered_json::array();
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerModel& controller = model.controllers[c];
        for (const logic::UnitCoverage& u : logic::unit_coverages(*controller.program, coverages[c])) {
            auto gaps = nlohmann::ordered_json::array();
            for (const logic::CoverGap& g : u.gaps) gaps.push_back(gap_json(g));
            units.push_back({{"controller", controller.name},
                             {"unit", u.name},
                             {"lines", share_json(u.lines)},
                             {"branches", share_json(u.branches)},
                             {"networks", share_json(u.networks)},
                             {"transitions", share_json(u.transitions)},
                             {"contacts", share_json(u.contacts)},
                             {"contacts_not_followed", u.not_followed},
                             {"never_exercised", std::move(gaps)}});
        }
        const logic::TagCoverage t = logic::tag_coverage(*controller.program, coverages[c]);
        tags.push_back({{"controller", controller.name}, {"moved", share_json(t.moved)}, {"still", t.still}});
    }
    auto classes = nlohmann::ordered_json::array();
    for (const campaign::ProofClass& c : proof.classes())
        classes.push_back({{"class", c.name}, {"done", c.done}, {"all", c.all}, {"missing", c.missing}});
    const nlohmann::ordered_json json = {{"units", std::move(units)},
                                         {"tags", std::move(tags)},
                                         {"proof", std::move(classes)},
                                         {"would_add_most", proof.proposals()}};
    return json.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

std::string coverage_lcov(const session::SessionModel& model, const Coverages& coverages) {
    std::map<std::string, std::map<int, bool>> lines;
    std::map<std::string, std::vector<std::pair<int, bool>>> branches;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const logic::Program& program = *model.controllers[c].program;
        std::set<int> in_text;  // marks that statements in text stand under
        for (const logic::CoverLine& l : program.lines) {
            if (l.network > 0) continue;
            const logic::CoverMark& mark = base::at(program.marks, l.mark);
            const base::SourceText& source = *base::at(program.sources, l.source);
            bool& ran = lines[source.path][source.in_file(l.line, 1).first];
            ran = ran || coverages[c].ran(mark);
            in_text.insert(l.mark);
        }
        for (const int number : in_text) {
            const logic::CoverMark& mark = base::at(program.marks, number);
            if (mark.what == "body") continue;
            const base::SourceText& source = *base::at(program.sources, mark.source);
            branches[source.path].emplace_back(source.in_file(mark.span.line, 1).first, coverages[c].ran(mark));
        }
    }
    std::string out;
    const auto to = std::back_inserter(out);
    for (const auto& [path, of_file] : lines) {
        fmt::format_to(to, "TN:\nSF:{}\n", path);
        int taken = 0, number = 0, hit = 0;
        for (const auto& [line, ran] : branches[path]) {
            fmt::format_to(to, "BRDA:{},0,{},{}\n", line, number++, ran ? "1" : "0");
            taken += ran ? 1 : 0;
        }
        fmt::format_to(to, "BRF:{}\nBRH:{}\n", number, taken);
        for (const auto& [line, ran] : of_file) {
            fmt::format_to(to, "DA:{},{}\n", line, ran ? 1 : 0);
            hit += ran ? 1 : 0;
        }
        fmt::format_to(to, "LF:{}\nLH:{}\nend_of_record\n", of_file.size(), hit);
    }
    return out;
}

}  // namespace vyard::report
