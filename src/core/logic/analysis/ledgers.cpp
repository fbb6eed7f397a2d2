#include "core/logic/analysis/ledgers.hpp"

#include "core/logic/value.hpp"

namespace vyard::logic {

using E = Elementary;
using Number = Interval::Number;

namespace {

constexpr int kPatience = 6;  ///< Changes of an interval before its ends jump to the next number compared with.

Number number_at(const Bytes& bytes, E type) {
    const Value v = read_value(bytes.data(), type, 0, -1);
    if (is_real(type)) return number_of(v);
    if (is_signed_integer(type) || is_duration(type)) return static_cast<Number>(signed_of(v));
    return static_cast<Number>(v.bits);
}

}  // namespace

bool followed(const TypeRef& t) {
    const E e = t.elementary;
    return is_number(e) || is_bit_string(e) || is_duration(e);
}

void join(Known& into, const Known& other) {
    if (other.dead) return;
    if (into.dead) {
        into = other;
        return;
    }
    for (auto it = into.values.begin(); it != into.values.end();) {
        const auto found = other.values.find(it->first);
        if (found == other.values.end()) {
            it = into.values.erase(it);
            continue;
        }
        if (!(it->second == found->second)) it->second = hull(it->second, found->second);
        ++it;
    }
}

Ledgers::Ledgers(const CheckedLogic& logic, const OutsideFacts& facts)
    : logic_(logic), facts_(facts), written_(find_written(logic)) {
    find_keeping(logic_.globals, false);
    for (const Layout& block : logic_.blocks) find_keeping(block, false);
    fields(logic_.globals, -1);
    for (std::size_t b = 0; b < logic_.blocks.size(); ++b) {
        if (logic_.blocks[b].unit != nullptr) fields(logic_.blocks[b], static_cast<int>(b));
    }
}

/// Blocks of which some instance is RETAIN or PERSISTENT, by itself or within another one.
void Ledgers::find_keeping(const Layout& layout, bool all) {
    for (const Field& f : layout.fields) {
        TypeRef type = f.type;
        while (type.is(E::Array)) type = logic_.type(type).element;
        if (!type.is(E::Block) || (!all && !f.retain && !f.persistent)) continue;
        if (keeping_.insert(type.index).second) find_keeping(logic_.block(type.index), true);
    }
}

void Ledgers::fields(const Layout& layout, int unit) {
    for (const Field& f : layout.fields) {
        if (f.binding.space == Space::None || f.binding.indirect || !followed(f.type) || f.inherited) continue;
        const Node node = node_at(logic_, f.binding, unit);
        const Interval all = all_of_type(f.type);
        const auto input = facts_.inputs.find(node);
        if (input != facts_.inputs.end()) {
            seen_[node] = {clipped(input->second, all).value_or(all), all, 0};
            continue;
        }
        const bool ours = written_.by.contains(node) || f.constant;
        if (!ours || facts_.written.contains(node) || written_.opaque.contains(node) || node.space == Space::Inputs ||
            !f.initial_known || f.initial.empty())
            continue;
        const Interval initial = exactly(number_at(f.initial, f.type.elementary));
        if (node.space == Space::Frame) frames_[unit].emplace_back(node, initial);
        seen_[node] = {initial, all, 0};
        if (const auto named = written_.named.find(node); named != written_.named.end())
            named->second.insert(initial.low);
        // What outlasts a scan that a fault ends half-way is found as it was left there: with anything ever written.
        const bool outlasts = f.retain || f.persistent || (unit >= 0 && keeping_.contains(unit));
        if (const int writer = written_.only_writer(node); writer >= 0 && !outlasts)
            entry_[writer].emplace(node, Ledger{initial, all, 0});
    }
}

bool Ledgers::leaves_to_others() {
    return std::erase_if(seen_, [&](const auto& entry) {
               const auto& [node, ledger] = entry;
               if (node.unit >= 0 || !ledger.seen.one() || !written_.by.contains(node)) return false;
               written_.opaque.insert(node);
               for (auto& [unit, nodes] : entry_) nodes.erase(node);
               return true;
           }) > 0;
}

Interval Ledgers::all_of_type(const TypeRef& t) const {
    Interval all = all_of(t.elementary);
    if (logic_.is_enumeration(t)) {
        all = {};
        const DerivedType& type = logic_.type(t);
        for (std::size_t i = 0; i < type.values.size(); ++i) {
            const Interval one = exactly(static_cast<Number>(type.values[i].value));
            all = i == 0 ? one : hull(all, one);
        }
        if (type.values.empty()) all = all_of(t.elementary);
    } else if (logic_.is_subrange(t)) {
        const DerivedType& type = logic_.type(t);
        all = between(static_cast<Number>(type.low), static_cast<Number>(type.high), true);
    }
    return all;
}

Known Ledgers::frame(int unit) const {
    Known out;
    const auto frame = frames_.find(unit);
    if (frame == frames_.end()) return out;
    for (const auto& [node, initial] : frame->second) {
        // Arguments are what callers hand over; the rest begins anew.
        const auto by = written_.by.find(node);
        const bool argument = by != written_.by.end() && by->second != std::set<int>{unit};
        out.values[node] = argument ? seen_.at(node).seen : initial;
    }
    return out;
}
Known Ledgers::entry(int unit) const {
    Known out = frame(unit);
    const auto own = entry_.find(unit);
    if (own == entry_.end()) return out;
    for (const auto& [node, ledger] : own->second) out.values[node] = ledger.seen;
    return out;
}

void Ledgers::carry_over(int unit, const Known& exits) {
    for (auto& [node, ledger] : entry_[unit]) {
        const auto left = exits.values.find(node);
        grow(ledger, left != exits.values.end() ? left->second : seen_.at(node).seen, node);
    }
}

/// What was seen with `v` in it; widened when that goes on and on.
void Ledgers::grow(Ledger& ledger, const Interval& v, const Node& node) {
    Interval joined = hull(ledger.seen, v);
    if (joined == ledger.seen) return;
    if (joined.values.empty() && ++ledger.changes > kPatience) {
        const auto found = written_.compared_with.find(node);
        static const std::set<Number> kNone;
        const std::set<Number>& stops = found != written_.compared_with.end() ? found->second : kNone;
        if (joined.low < ledger.seen.low) {
            const auto above = stops.upper_bound(joined.low);
            const bool any = above != stops.begin();
            joined.low = any ? *std::prev(above) : ledger.possible.low;
            joined.low_told = any;
        }
        if (joined.high > ledger.seen.high) {
            const auto at = stops.lower_bound(joined.high);
            const bool any = at != stops.end();
            joined.high = any ? *at : ledger.possible.high;
            joined.high_told = any;
        }
    }
    joined = clipped(joined, ledger.possible).value_or(ledger.possible);
    if (joined == ledger.seen) return;
    ledger.seen = std::move(joined);
    changed_ = true;
}

void Ledgers::note(const Node& node, const Interval& v) {
    const auto found = seen_.find(node);
    if (found != seen_.end()) grow(found->second, v, node);
}

Interval Ledgers::value_of(const Node& node, const TypeRef& type, const Known& now) const {
    const auto here = now.values.find(node);
    if (here != now.values.end()) return here->second;
    const auto ledger = seen_.find(node);
    return ledger != seen_.end() ? ledger->second.seen : all_of_type(type);
}

Interval Ledgers::stored(const Interval& v, const TypeRef& type) const {
    const Interval all = all_of_type(type);
    return within(v, all) ? v : all;
}

void Ledgers::note_preset(const Node& timer, const Interval& v) {
    auto [it, fresh] = presets_.try_emplace(timer, Ledger{v, all_of(E::Time), 0});
    if (!fresh) grow(it->second, v, timer);
    changed_ = changed_ || fresh;
}

std::optional<Interval> Ledgers::preset(const Node& timer) const {
    const auto found = presets_.find(timer);
    return found == presets_.end() ? std::nullopt : std::optional(found->second.seen);
}

}  // namespace vyard::logic
