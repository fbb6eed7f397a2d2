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

struct Share {
    int done = 0, all = 0;
    void count(bool good) {
        done += good ? 1 : 0;
        ++all;
    }
    std::string text() const { return all == 0 ? "" : fmt::format("{} of {}", done, all); }
};

struct Gap {
    base::Place place;
    std::string what;
};

struct UnitCoverage {
    std::string controller, name;
    Share lines, branches, networks, transitions, contacts;
    int not_followed = 0;  ///< Contacts.
    std::vector<Gap> gaps;
};

struct TagCoverage {
    std::string controller;
    Share moved;
    std::vector<std::string> still;  ///< "name (always FALSE)"
};

class Reader {
  public:
    Reader(const controller::ControllerModel& controller, const logic::Coverage& coverage)
        : controller_(controller), program_(*controller.program), coverage_(coverage) {}

    std::vector<UnitCoverage> units() const {
        std::vector<UnitCoverage> out;
        for (const logic::CoverMark& m : program_.marks) {
            if (m.what == "body") out.push_back(unit(m));
        }
        return out;
    }

    TagCoverage tags() const {
        TagCoverage out;
        out.controller = controller_.name;
        for (const logic::Variable& v : program_.variables) {
            if (!v.is_tag || v.constant) continue;
            const bool moved = coverage_.moved(v);
            out.moved.count(moved);
            if (moved) continue;
            const bool truth = v.type == logic::Elementary::Bool;
            out.still.push_back(truth ? fmt::format("{} (always {})", v.path, coverage_.ever_true(v) ? "TRUE" : "FALSE")
                                      : v.path);
        }
        return out;
    }

  private:
    base::Place place(const logic::CoverMark& m) const {
        return logic::place_in(base::at(program_.sources, m.source), m.span);
    }

    UnitCoverage unit(const logic::CoverMark& body) const {
        UnitCoverage out;
        out.controller = controller_.name;
        out.name = body.unit;
        std::map<std::pair<int, int>, bool> lines;  // a line counts once, however many statements stand in it
        std::map<int, bool> networks;
        for (const logic::CoverLine& l : program_.lines) {
            if (l.unit != body.unit) continue;
            const bool ran = coverage_.ran(base::at(program_.marks, l.mark));
            bool& known = l.network > 0 ? networks[l.network] : lines[{l.source, l.line}];
            known = known || ran;
        }
        for (const auto& [line, ran] : lines) out.lines.count(ran);
        for (const auto& [network, ran] : networks) out.networks.count(ran);
        if (!coverage_.ran(body)) {
            out.gaps.push_back({place(body), fmt::format("{} never ran", body.unit)});
        } else {
            branches(out);
        }
        transitions(out, coverage_.ran(body));
        contacts(out, coverage_.ran(body));
        return out;
    }

    void branches(UnitCoverage& out) const {
        for (const logic::CoverMark& m : program_.marks) {
            if (m.unit != out.name || m.what == "body") continue;
            const bool ran = coverage_.ran(m);
            out.branches.count(ran);
            if (!ran)
                out.gaps.push_back({place(m), m.what == "power"
                                                  ? "power never came here"
                                                  : fmt::format("{} never {}", m.what,
                                                                m.what.starts_with("action") ? "ran" : "taken")});
        }
    }

    void transitions(UnitCoverage& out, bool ran) const {
        for (const logic::Coverage::Transition& t : coverage_.transitions(out.name)) {
            out.transitions.count(t.fired);
            if (ran && !t.fired) out.gaps.push_back({t.place, fmt::format("the transition {} never fired", t.name)});
        }
    }

    /// The places of a unit that never ran are said with it.
    void contacts(UnitCoverage& out, bool ran) const {
        for (const logic::Coverage::Contact& c : coverage_.contacts(out.name)) {
            out.not_followed += c.known ? 0 : 1;
            if (!c.known) continue;
            out.contacts.count(c.closed && c.open);
            if (!ran || (c.closed && c.open)) continue;
            out.gaps.push_back({c.place, fmt::format("network {}: the contact {} was never {}", c.network, c.name,
                                                     c.closed ? "open" : "closed")});
        }
    }

    const controller::ControllerModel& controller_;
    const logic::Program& program_;
    const logic::Coverage& coverage_;
};

std::vector<Reader> readers(const session::SessionModel& model, const Coverages& coverages) {
    std::vector<Reader> out;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) out.emplace_back(model.controllers[c], coverages[c]);
    return out;
}

std::string where(const base::Place& p) {
    return p.text();
}

nlohmann::ordered_json gap_json(const Gap& gap) {
    const auto [line, column] = gap.place.source->in_file(gap.place.line, gap.place.column);
    return {{"file", gap.place.source->path}, {"line", line}, {"column", column}, {"what", gap.what}};
}

nlohmann::ordered_json share_json(const Share& s) {
    return {{"done", s.done}, {"all", s.all}};
}

}  // namespace

std::string coverage_text(const session::SessionModel& model, const Coverages& coverages) {
    Table table;
    table.columns = {"unit",         "lines run",         "branches taken",
                     "networks run", "transitions fired", "contacts open and closed"};
    std::string gaps, tags;
    int not_followed = 0;
    for (const Reader& reader : readers(model, coverages)) {
        for (const UnitCoverage& u : reader.units()) {
            const bool several = model.controllers.size() > 1;
            table.rows.push_back({several ? u.controller + "." + u.name : u.name, u.lines.text(), u.branches.text(),
                                  u.networks.text(), u.transitions.text(), u.contacts.text()});
            not_followed += u.not_followed;
            for (const Gap& g : u.gaps) fmt::format_to(std::back_inserter(gaps), "  {}: {}\n", where(g.place), g.what);
        }
        const TagCoverage t = reader.tags();
        fmt::format_to(std::back_inserter(tags), "tags of {} that moved: {}\n", t.controller,
                       t.moved.all == 0 ? "none of 0" : t.moved.text());
        if (!t.still.empty()) fmt::format_to(std::back_inserter(tags), "  still: {}\n", fmt::join(t.still, ", "));
    }
    if (not_followed > 0)
        fmt::format_to(std::back_inserter(tags), "contacts that compare or have an index are not followed: {}\n",
                       not_followed);
    return fmt::format("{}{}{}{}", table_text(table), gaps.empty() ? "" : "never exercised:\n", gaps, tags);
}

std::string coverage_json(const session::SessionModel& model, const Coverages& coverages) {
    auto units = nlohmann::ordered_json::array(), tags = nlohmann::ordered_json::array();
    for (const Reader& reader : readers(model, coverages)) {
        for (const UnitCoverage& u : reader.units()) {
            auto gaps = nlohmann::ordered_json::array();
            for (const Gap& g : u.gaps) gaps.push_back(gap_json(g));
            units.push_back({{"controller", u.controller},
                             {"unit", u.name},
                             {"lines", share_json(u.lines)},
                             {"branches", share_json(u.branches)},
                             {"networks", share_json(u.networks)},
                             {"transitions", share_json(u.transitions)},
                             {"contacts", share_json(u.contacts)},
                             {"contacts_not_followed", u.not_followed},
                             {"never_exercised", std::move(gaps)}});
        }
        const TagCoverage t = reader.tags();
        tags.push_back({{"controller", t.controller}, {"moved", share_json(t.moved)}, {"still", t.still}});
    }
    const nlohmann::ordered_json json = {{"units", std::move(units)}, {"tags", std::move(tags)}};
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
