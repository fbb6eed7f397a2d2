#include "core/logic/check/address_checker.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>
#include <tuple>

namespace vyard::logic {

using base::Code;

namespace {

constexpr std::size_t kNamed = 8;  ///< Of what shares bits with one place, in a message.

/// A name at an address, or a direct address in code.
struct Claim {
    Address address;
    std::string name;  ///< "" of a direct address.
    base::Place place;
    bool write = false;  ///< Of a direct address.
    std::size_t order = 0;
};

std::vector<Claim> claims_of(const CheckedLogic& logic) {
    std::vector<Claim> out;
    const auto add = [&](const Layout& layout) {
        for (const Field& f : layout.fields) {
            if (!f.address || f.inherited || f.declaration == nullptr) continue;
            const Declaration& d = *f.declaration;
            const Span span = d.address.empty() || d.address.ends_with("*") ? d.span : d.address_span;
            out.push_back({*f.address, f.name, place_in(f.source, span), false, out.size()});
        }
    };
    add(logic.globals);
    for (const Layout& block : logic.blocks) add(block);
    for (const ProgramInstance& p : logic.programs) {
        for (const ConfiguredLink& l : p.links)
            out.push_back({l.address, p.name + "." + l.path, place_in(p.source, l.span), false, out.size()});
    }
    // Of a direct address the first place stands for all; one that writes for those that read.
    std::map<std::tuple<Area, std::uint32_t, std::uint32_t>, std::size_t> known;
    for (const DirectUse& use : logic.direct_uses) {
        const auto key = std::tuple(use.address.area, use.address.first_bit(), use.address.bits());
        const auto [at, fresh] = known.try_emplace(key, out.size());
        if (fresh) {
            out.push_back({use.address, "", use.site.place, use.site.write, out.size()});
        } else if (use.site.write && !out[at->second].write) {
            out[at->second].write = true;
            out[at->second].place = use.site.place;
        }
    }
    return out;
}

std::string list_of(const std::vector<const Claim*>& claims) {
    std::vector<std::string> parts;
    for (const Claim* c : claims) {
        if (parts.size() == kNamed) {
            parts.push_back(fmt::format("and {} more", claims.size() - kNamed));
            break;
        }
        parts.push_back(c->name.empty() ? fmt::format("{} at {}", c->address.text(), c->place.text())
                                        : fmt::format("{} of '{}' at {}", c->address.text(), c->name, c->place.text()));
    }
    return fmt::format("{}", fmt::join(parts, ", "));
}

/// What is said of one claim, against those that were claimed before it.
class Judge {
  public:
    explicit Judge(base::Diagnostics& diagnostics) : diagnostics_(diagnostics) {}

    void name(const Claim& c, const std::vector<const Claim*>& same, const std::vector<const Claim*>& straddled) {
        if (!same.empty()) {
            std::string message = fmt::format("{} has another name already: {}", c.address.text(), list_of(same));
            diagnostics_.add({*overlap_severity(Overlap::Same, c.address.area), Code::AddressOverlap, c.place,
                              std::move(message), ""});
        }
        if (!straddled.empty()) straddle(c, straddled);
    }

    void direct(const Claim& c, const std::vector<const Claim*>& shared, const std::vector<const Claim*>& straddled) {
        if (!straddled.empty()) straddle(c, straddled);
        if (c.write && !shared.empty())
            diagnostics_.remark(Code::AddressOverlap, c.place,
                                fmt::format("what is written to {} is in {} too", c.address.text(), list_of(shared)));
    }

  private:
    void straddle(const Claim& c, const std::vector<const Claim*>& others) {
        diagnostics_.warning(
            Code::AddressOverlap, c.place,
            fmt::format("{} shares some of its bits, and not all, with {}", c.address.text(), list_of(others)));
    }

    base::Diagnostics& diagnostics_;
};

}  // namespace

void check_addresses(const CheckedLogic& logic, base::Diagnostics& diagnostics) {
    const std::vector<Claim> claims = claims_of(logic);
    // Claims of the same bits go together, so that many names of one address cost no more than their number.
    std::map<std::tuple<Area, std::uint32_t, std::uint32_t>, std::vector<const Claim*>> groups;
    for (const Claim& c : claims) groups[{c.address.area, c.address.first_bit(), c.address.bits()}].push_back(&c);
    std::map<std::size_t, std::tuple<std::vector<const Claim*>, std::vector<const Claim*>>>
        found;  // by order: shared, straddled
    std::vector<const std::vector<const Claim*>*> open;
    for (const auto& [key, group] : groups) {
        const Address& here = group.front()->address;
        for (std::size_t i = 1; i < group.size(); ++i) {
            auto& [shared, straddled] = found[group[i]->order];
            shared.push_back(group.front());  // one stands for the rest
        }
        std::erase_if(open, [&](const auto* other) { return overlap(other->front()->address, here) == Overlap::None; });
        for (const auto* other : open) {
            const Claim* a = other->front();
            const Claim* b = group.front();
            const Claim* later = a->order > b->order ? a : b;
            const Claim* earlier = later == a ? b : a;
            const bool straddles = overlap(a->address, b->address) == Overlap::Straddles;
            if (!straddles && !later->name.empty()) continue;  // a part of a larger one
            auto& [shared, straddled] = found[later->order];
            (straddles ? straddled : shared).push_back(earlier);
        }
        open.push_back(&group);
    }
    Judge judge(diagnostics);
    for (const auto& [order, lists] : found) {
        const Claim& c = claims[order];
        const auto& [shared, straddled] = lists;
        if (c.name.empty()) {
            std::vector<const Claim*> named;
            for (const Claim* s : shared) {
                if (!s->name.empty()) named.push_back(s);
            }
            judge.direct(c, named, straddled);
        } else {
            judge.name(c, shared, straddled);
        }
    }
}

}  // namespace vyard::logic
