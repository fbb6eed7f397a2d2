#include "core/logic/unit_coverage.hpp"

#include <fmt/format.h>

#include <map>

namespace vyard::logic {

namespace {

class CoverageReader {
  public:
    CoverageReader(const Program& program, const Coverage& coverage) : program_(program), coverage_(coverage) {}

    std::vector<UnitCoverage> units() const {
        std::vector<UnitCoverage> out;
        for (const CoverMark& m : program_.marks) {
            if (m.what == "body") out.push_back(unit(m));
        }
        return out;
    }

    TagCoverage tags() const {
        TagCoverage out;
        for (const Variable& v : program_.variables) {
            if (!v.is_tag || v.constant) continue;
            const bool moved = coverage_.moved(v);
            out.moved.count(moved);
            if (moved) continue;
            const bool truth = v.type == Elementary::Bool;
            out.still.push_back(truth ? fmt::format("{} (always {})", v.path, coverage_.ever_true(v) ? "TRUE" : "FALSE")
                                      : v.path);
        }
        return out;
    }

  private:
    base::Place place(const CoverMark& m) const { return place_in(base::at(program_.sources, m.source), m.span); }

    UnitCoverage unit(const CoverMark& body) const {
        UnitCoverage out;
        out.name = body.unit;
        std::map<std::pair<int, int>, bool> lines;  // a line counts once, however many statements stand in it
        std::map<int, bool> networks;
        for (const CoverLine& l : program_.lines) {
            if (l.unit != body.unit) continue;
            const bool ran = coverage_.ran(base::at(program_.marks, l.mark));
            bool& known = l.network > 0 ? networks[l.network] : lines[{l.source, l.line}];
            known = known || ran;
        }
        for (const auto& [line, ran] : lines) out.lines.count(ran);
        for (const auto& [network, ran] : networks) out.networks.count(ran);
        out.ran = coverage_.ran(body);
        if (!out.ran) {
            out.gaps.push_back({place(body), fmt::format("{} never ran", body.unit), "never ran"});
        } else {
            branches(out);
        }
        transitions(out);
        contacts(out);
        return out;
    }

    void branches(UnitCoverage& out) const {
        for (const CoverMark& m : program_.marks) {
            if (m.unit != out.name || m.what == "body") continue;
            const bool ran = coverage_.ran(m);
            out.branches.count(ran);
            if (ran) continue;
            const std::string brief = m.what == "power"              ? "power never came here"
                                      : m.what.starts_with("action") ? "never ran"
                                                                     : "never taken";
            out.gaps.push_back({place(m), m.what == "power" ? brief : fmt::format("{} {}", m.what, brief), brief});
        }
    }

    void transitions(UnitCoverage& out) const {
        for (const Coverage::Transition& t : coverage_.transitions(out.name)) {
            out.transitions.count(t.fired);
            if (out.ran && !t.fired)
                out.gaps.push_back({t.place, fmt::format("the transition {} never fired", t.name), "never fired"});
        }
    }

    /// The places of a unit that never ran are said with it.
    void contacts(UnitCoverage& out) const {
        for (const Coverage::Contact& c : coverage_.contacts(out.name)) {
            out.not_followed += c.known ? 0 : 1;
            if (!c.known) continue;
            out.contacts.count(c.closed && c.open);
            if (!out.ran || (c.closed && c.open)) continue;
            const char* brief = c.closed ? "never open" : "never closed";
            out.gaps.push_back(
                {c.place, fmt::format("network {}: the contact {} was {}", c.network, c.name, brief), brief});
        }
    }

    const Program& program_;
    const Coverage& coverage_;
};

}  // namespace

std::vector<UnitCoverage> unit_coverages(const Program& program, const Coverage& coverage) {
    return CoverageReader(program, coverage).units();
}

TagCoverage tag_coverage(const Program& program, const Coverage& coverage) {
    return CoverageReader(program, coverage).tags();
}

}  // namespace vyard::logic
