#include "core/logic/analysis/walks.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/logic/infix_text.hpp"

namespace vyard::logic {

using E = Elementary;
using Number = Interval::Number;

namespace {

constexpr std::uint64_t kLeast = 3, kMost = 10'000;  ///< Elements of an array that is looked at.

}  // namespace

Walks::Walks(const CheckedLogic& logic) : logic_(logic) {
    take(logic_.globals, -1);
    for (std::size_t b = 0; b < logic_.blocks.size(); ++b) {
        if (logic_.blocks[b].unit != nullptr) take(logic_.blocks[b], static_cast<int>(b));
    }
    for (std::size_t b = 0; b < logic_.blocks.size(); ++b) {
        if (logic_.blocks[b].unit == nullptr) continue;
        unit_ = static_cast<int>(b);
        look(logic_.blocks[b].unit->body);
    }
}

void Walks::take(const Layout& layout, int unit) {
    for (const Field& f : layout.fields) {
        const bool inside = f.section == Section::Local || f.section == Section::Global || f.section == Section::Temp;
        if (!f.type.is(E::Array) || !inside || f.access == Access::Public || f.address || f.binding.indirect ||
            f.inherited || f.declaration == nullptr)
            continue;
        const DerivedType& type = logic_.type(f.type);
        if (type.open || type.dimensions.size() != 1) continue;
        const Dimension& d = type.dimensions[0];
        if (d.count() < kLeast || d.count() > kMost) continue;
        Array a;
        a.field = &f;
        a.bounds = d;
        a.reached.assign(static_cast<std::size_t>(d.count()), false);
        arrays_.emplace(node_at(logic_, f.binding, unit), std::move(a));
    }
}

Walks::Array* Walks::array_of(const Expression& e, int unit) {
    if (!e.type.is(E::Array)) return nullptr;
    const auto node = node_of(logic_, e, unit);
    const auto found = node ? arrays_.find(*node) : arrays_.end();
    return found == arrays_.end() ? nullptr : &found->second;
}

void Walks::look(const StatementList& body) {
    for (const Statement& s : body) {
        for (const Expression* e : {s.target.get(), s.value.get(), s.limit.get(), s.step.get()}) {
            if (e != nullptr) look(*e);
        }
        for (const Branch& b : s.branches) {
            if (b.condition) look(*b.condition);
            look(b.body);
        }
    }
}

void Walks::look(const Expression& e) {
    if (Array* whole = array_of(e, unit_)) whole->whole = true;
    Array* const by_index = e.kind == ExpressionKind::Index ? array_of(*e.operands[0], unit_) : nullptr;
    // Wherever it stands: what is not executed, or only referred to, is not heard of.
    if (by_index != nullptr && written(*e.operands[1]).kind == ExpressionKind::Literal) {
        const Expression& at = written(*e.operands[1]);
        const auto n = static_cast<Number>(at.integer);
        reach(*by_index, at.negative ? -n : n, at.negative ? -n : n);
    }
    const bool indexed = by_index != nullptr;
    for (std::size_t i = indexed ? 1 : 0; i < e.operands.size(); ++i) look(*e.operands[i]);
    for (const Argument& a : e.arguments) {
        if (a.value) look(*a.value);
    }
}

void Walks::reach(Array& a, Number low, Number high) {
    const Number first = std::max(low, static_cast<Number>(a.bounds.low));
    const Number last = std::min(high, static_cast<Number>(a.bounds.high));
    for (Number n = first; n <= last; n += 1)
        a.reached[static_cast<std::size_t>(n - static_cast<Number>(a.bounds.low))] = true;
}

void Walks::index(const Expression& e, int unit, std::size_t dimension, const Interval& at) {
    Array* const a = dimension == 0 ? array_of(*e.operands[0], unit) : nullptr;
    if (a == nullptr) return;
    if (at.values.empty() && (!at.low_told || !at.high_told)) {
        a->whole = true;
        return;
    }
    if (at.values.empty()) {
        reach(*a, at.low, at.high);
    } else {
        for (const Number n : at.values) reach(*a, n, n);
    }
    const bool further = a->walk == nullptr || at.high - at.low > a->walk_at.high - a->walk_at.low;
    if (at.one() || !further) return;
    a->walk = &e;
    a->walk_unit = unit;
    a->walk_at = at;
}

void Walks::report(base::Diagnostics& diagnostics) const {
    for (const auto& [node, a] : arrays_) {
        if (a.whole || a.walk == nullptr) continue;
        if (std::count(a.reached.begin(), a.reached.end(), false) != 1) continue;
        const bool last = !a.reached.back();
        if (!last && (a.reached.front() || a.bounds.low == 0)) continue;
        const auto low = static_cast<Number>(a.bounds.low), high = static_cast<Number>(a.bounds.high);
        const bool beside = last ? a.walk_at.high == high - 1 : a.walk_at.low == low + 1;
        const base::SourcePtr& source = logic_.block(a.walk_unit).unit->source;
        if (!beside || source->path.starts_with("library/")) continue;
        const std::int64_t left_out = last ? a.bounds.high : a.bounds.low;
        diagnostics.warning(base::Code::ShortOfArray, place_in(source, a.walk->span),
                            fmt::format("'{}' is {:.0f} to {:.0f} here, and nothing reaches the {} element of '{}', {}",
                                        infix_text(written(*a.walk->operands[1])), a.walk_at.low, a.walk_at.high,
                                        last ? "last" : "first", a.field->name, left_out),
                            fmt::format("is the loop one short, or the array one too long? It goes from {} to {}",
                                        a.bounds.low, a.bounds.high));
    }
}

}  // namespace vyard::logic
