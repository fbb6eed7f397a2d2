#include "core/logic/coverage.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cstring>
#include <map>

#include "core/logic/check/chart_lowering.hpp"
#include "core/logic/check/model.hpp"
#include "core/logic/inspector.hpp"

namespace vyard::logic {

namespace {

/// A BOOL of memory that a contact reads.
struct Spot {
    std::uint32_t byte = 0;
    int bit = 0;
    bool negated = false;
};

/// Where a contact's own value lies; null for what has to be computed.
std::optional<Spot> spot_of(const Expression& e, const Bases& bases) {
    if (e.kind == ExpressionKind::Unary && e.operands.size() == 1 && e.op == Operator::Not) {
        auto inner = spot_of(*e.operands[0], bases);
        if (inner) inner->negated = !inner->negated;
        return inner;
    }
    const bool bound = e.binding.space == Space::Globals || e.binding.space == Space::Instance ||
                       e.binding.space == Space::Inputs || e.binding.space == Space::Outputs ||
                       e.binding.space == Space::Markers;
    const bool plain =
        e.kind == ExpressionKind::Name || e.kind == ExpressionKind::Member || e.kind == ExpressionKind::Direct;
    if (!bound || !plain || e.binding.indirect || !e.type.is(Elementary::Bool)) return std::nullopt;
    return Spot{bases.of(e.binding.space) + e.binding.offset, std::max(e.binding.bit, 0), false};
}

}  // namespace

Coverage::Coverage(const Program& program) : program_(&program), words_(program.initial_memory.size() / 8 + 1) {
    looked_at_.push_back({0, (program.data_end + 7) / 8});
    for (const CoverMark& m : program.marks) {
        const std::size_t word = m.offset / 8;
        if (looked_at_.back().to == word) ++looked_at_.back().to;
        if (looked_at_.back().to <= word) looked_at_.push_back({word, word + 1});
    }
}

bool Coverage::bit_of(std::uint64_t word, std::uint32_t byte, int bit) {
    const unsigned place = std::endian::native == std::endian::little ? byte % 8 : 7 - byte % 8;
    return (word >> (place * 8 + static_cast<unsigned>(bit)) & 1U) != 0;
}

void Coverage::look(const std::vector<std::byte>& memory) {
    for (const Words& range : looked_at_) {
        const std::size_t to = std::min(range.to, memory.size() / 8);
        for (std::size_t i = range.from; i < to; ++i) {
            std::uint64_t word = 0;
            std::memcpy(&word, memory.data() + i * 8, 8);
            words_[i].ones |= word;
            words_[i].zeros |= ~word;
        }
    }
}

bool Coverage::moved(const Variable& v) const {
    if (v.bit >= 0) return ever_true(v) && ever_false(v);
    const auto size = static_cast<std::uint32_t>(std::max(type_size(v.type), 1));
    for (std::uint32_t i = v.offset; i < v.offset + size; ++i) {
        for (int bit = 0; bit < 8; ++bit) {
            if (one(i, bit) && zero(i, bit)) return true;
        }
    }
    return false;
}

std::vector<Coverage::Contact> Coverage::contacts(const std::string& unit) const {
    std::map<std::pair<int, int>, Contact> found;  // by network and element
    for (const UnitPlace& place : unit_places(*program_)) {
        if (base::fold(place.layout->unit->name) != base::fold(unit)) continue;
        each_drawing(place.layout->unit->body, [&](const Statement& s) {
            for (const Probe& p : s.probes) {
                const Network& n = base::at(s.drawing->networks, p.network);
                const DrawnElement& e = base::at(n.elements, p.element);
                if (e.kind != ElementKind::Contact || p.pin != 0) continue;
                Contact& c = found[{n.number, p.element}];
                c.name = e.contact == ContactKind::Compare ? e.name.text + " " + e.comparison + " " + e.second.text
                                                           : e.name.text;
                c.network = n.number;
                c.place = place_in(place.layout->unit->source, e.span);
                const auto spot = spot_of(*p.value, place.bases);
                if (!spot) continue;
                c.known = true;
                const bool high = one(spot->byte, spot->bit), low = zero(spot->byte, spot->bit);
                c.closed = c.closed || (spot->negated ? low : high);
                c.open = c.open || (spot->negated ? high : low);
            }
        });
    }
    std::vector<Contact> out;
    for (auto& [key, contact] : found) out.push_back(std::move(contact));
    return out;
}

std::vector<Coverage::Transition> Coverage::transitions(const std::string& unit) const {
    std::vector<Transition> out;
    const auto steps = [](const std::vector<std::pair<std::string, Span>>& list) {
        std::string text;
        for (const auto& [name, span] : list) text += (text.empty() ? name : ", " + name);
        return text;
    };
    for (const UnitPlace& place : unit_places(*program_)) {
        if (base::fold(place.layout->unit->name) != base::fold(unit)) continue;
        const std::vector<ChartTransition>& all = place.layout->unit->chart.transitions;
        out.resize(all.size());
        for (std::size_t i = 0; i < all.size(); ++i) {
            out[i].name = fmt::format("from {} to {}", steps(all[i].from), steps(all[i].to));
            out[i].place = place_in(place.layout->unit->source, all[i].span);
            for (const Field& f : place.layout->fields) {
                if (f.name != fired_name(i)) continue;
                out[i].fired = out[i].fired || one(place.bases.instance + f.binding.offset, std::max(f.binding.bit, 0));
            }
        }
    }
    return out;
}

}  // namespace vyard::logic
