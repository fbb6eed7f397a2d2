#include "report/cross_reference.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::report {

namespace {

std::string use_text(const logic::UseSite& use, const std::string& as) {
    std::string_view text = use.place.source->line(use.place.line);
    text.remove_prefix(std::min(text.find_first_not_of(" \t"), text.size()));
    return fmt::format("  {}   {} in {}{}\n              {}\n", use.write ? "written" : "read   ", use.place.text(),
                       use.unit, as.empty() ? "" : " as " + as, text);
}

/// Where code uses an address that shares bits with this one.
std::string direct_uses(const logic::Program& program, const logic::Address& address) {
    std::string out;
    for (const logic::DirectAddress& d : program.direct_addresses) {
        if (logic::overlap(d.address, address) == logic::Overlap::None) continue;
        for (const logic::UseSite& use : d.uses) out += use_text(use, d.address.text());
    }
    return out;
}

std::string sharing_lines(const logic::Program& program, int variable, const logic::Address& address) {
    const auto located = logic::located_tags(program);
    for (const logic::Located& l : located) {
        const bool meant = variable >= 0 ? l.variable == variable
                                         : l.variable < 0 && logic::overlap(l.address, address) == logic::Overlap::Same;
        if (meant && !l.shared.empty()) return fmt::format("  shares    {}\n", logic::sharing_text(located, l));
    }
    return {};
}

std::string jumper_line(const session::SessionModel& model, const wiring::Jumper& j, bool to) {
    std::string out = to ? fmt::format("  jumper    from {}", session::source_text(model, j))
                         : fmt::format("  jumper    to {}", wiring::spot_name(model.controllers, j.controller, j.spot));
    if (j.invert) out += ", invert";
    if (j.delay.count() > 0) out.append(fmt::format(", {} later", base::time_text(j.delay)));
    if (j.when)
        out.append(fmt::format(", while {}{}", j.when_not ? "NOT " : "",
                               j.when->controller < 0
                                   ? base::at(model.plant->points, j.when->point).name
                                   : wiring::spot_name(model.controllers, j.when->controller, j.when->spot)));
    return out + "\n";
}

std::string tag_text(const session::Session& session, const session::TagRow& r) {
    const session::SessionModel& model = session.model();
    const logic::Variable& tag = *r.tag;
    const bool located = tag.address.area != logic::Area::None;
    const logic::Program& program = *base::at(model.controllers, r.controller).program;
    std::string out = fmt::format(
        "{}{} : {}{}\n", model.controllers.size() > 1 ? base::at(model.controllers, r.controller).name + "." : "",
        tag.path, tag.type_text, located ? " at " + tag.address.text() : "");
    out.append(fmt::format("  declared  {}{}\n", tag.place.text(),
                           tag.description.empty() ? "" : "  (" + tag.description + ")"));
    if (tag.retain) out.append(fmt::format("  kept      {}\n", session::keeping_text(tag)));
    for (const wiring::Join* j : r.joins)
        out.append(fmt::format("  joined    {}{}{}\n", session::join_text(model, *j),
                               j->scaling_text.empty() ? "" : ", ", j->scaling_text));
    for (const wiring::Jumper* j : r.fed_by) out += jumper_line(model, *j, true);
    for (const wiring::Jumper* j : r.feeds) out += jumper_line(model, *j, false);
    if (located) out += sharing_lines(program, r.variable, tag.address);
    out.append(fmt::format("  at rest   {}, initially {}\n", r.now, r.initial));
    std::string uses;
    for (const logic::UseSite& use : *tag.uses) uses += use_text(use, "");
    if (located) uses += direct_uses(program, tag.address);
    return out + (uses.empty() ? "  nowhere used in the logic\n" : uses);
}

/// An address that no tag has.
std::string address_text(const session::Session& session, const wiring::TagSpot& spot, const logic::Address& address) {
    const session::SessionModel& model = session.model();
    const logic::Program& program = *base::at(model.controllers, spot.controller).program;
    std::string out =
        fmt::format("{}\n  declared  nowhere\n", wiring::spot_name(model.controllers, spot.controller, spot.spot));
    std::string sharing = sharing_lines(program, -1, address);
    if (sharing.empty()) {  // not in the code either: what lies over it
        for (const logic::Located& l : logic::located_tags(program)) {
            if (l.variable >= 0 && logic::overlap(l.address, address) != logic::Overlap::None)
                sharing.append(fmt::format("  shares    bits of {} at {}\n", l.name, l.address.text()));
        }
    }
    const std::string uses = direct_uses(program, address);
    return out + sharing + (uses.empty() ? "  nowhere used in the logic by its address\n" : uses);
}

}  // namespace

std::string cross_reference(const session::Session& session, const std::string& name) {
    const session::SessionModel& model = session.model();
    const auto rows = session::tag_rows(session);
    std::string out;
    for (const wiring::TagSpot& found : wiring::find_spots(model.controllers, name)) {
        if (!out.empty()) out += "\n";
        const auto row = std::find_if(rows.begin(), rows.end(), [&](const session::TagRow& r) {
            return r.controller == found.controller && r.variable == found.spot.variable;
        });
        if (row != rows.end()) {
            out += tag_text(session, *row);
            continue;
        }
        std::string why;
        const std::size_t percent = name.find('%');
        const auto address =
            percent == std::string::npos ? std::nullopt : logic::parse_address(name.substr(percent), why);
        if (found.spot.variable < 0 && address) out += address_text(session, found, *address);
    }
    return out;
}

}  // namespace vyard::report
