#include "core/logic/analysis/ranges.hpp"

#include <algorithm>
#include <cmath>

#include "core/logic/analysis/ledgers.hpp"
#include "core/logic/infix_text.hpp"
#include "core/logic/library/standard_functions.hpp"

namespace vyard::logic {

namespace {

using E = Elementary;
using Number = Interval::Number;

constexpr int kMostRounds = 200;  ///< Beyond, the program is not followed.
constexpr int kMostInlined = 6;   ///< Functions within functions that are followed with their arguments.
constexpr int kTurns = 6;         ///< Of a loop: each end of a number moves once, and what depends on it then.
constexpr Number kMillisecond = 1e6L;

class RangeReader {
  public:
    RangeReader(const CheckedLogic& logic, const OutsideFacts& facts, RangeListener& listener)
        : logic_(logic), listener_(listener), ledgers_(logic, facts) {}

    bool run() {
        const std::size_t count = logic_.blocks.size();
        called_.assign(count, false);
        for (std::size_t b = 0; b < count; ++b) {
            const Layout& block = logic_.blocks[b];
            const bool by_itself = block.kind == LayoutKind::Program || block.kind == LayoutKind::Method;
            called_[b] = by_itself || ledgers_.written().shared.contains(static_cast<int>(b));
        }
        for (int round = 0; round < kMostRounds; ++round) {
            ledgers_.begin_round();
            all_bodies();
            if (ledgers_.changed() || ledgers_.leaves_to_others()) continue;
            hearing_ = true;
            all_bodies();
            return true;
        }
        return false;
    }

  private:
    // --- bodies ---
    void all_bodies() {
        for (std::size_t b = 0; b < logic_.blocks.size(); ++b) {
            const Layout& block = logic_.blocks[b];
            if (block.unit == nullptr || !called_[b]) continue;
            unit_ = static_cast<int>(b);
            Known now = ledgers_.entry(unit_);
            exits_ = {{}, true};
            body(block.unit->body, now);
            join(exits_, now);
            if (!exits_.dead) ledgers_.carry_over(unit_, exits_);
        }
    }
    void body(const StatementList& list, Known& now) {
        for (const Statement& s : list) {
            if (now.dead && s.kind != StatementKind::Label && s.kind != StatementKind::Drawn) continue;
            statement(s, now);
        }
    }

    void statement(const Statement& s, Known& now) {
        switch (s.kind) {
            case StatementKind::Assign:
            case StatementKind::Attempt: return assign(s, now);
            case StatementKind::AssignReference: return;
            case StatementKind::Call: value(*s.value, now); return;
            case StatementKind::If: return if_statement(s, now);
            case StatementKind::Case: return case_statement(s, now);
            case StatementKind::For:
            case StatementKind::While:
            case StatementKind::Repeat: return loop(s, now);
            case StatementKind::Return: join(exits_, now); [[fallthrough]];
            case StatementKind::Exit:
            case StatementKind::Continue:
            case StatementKind::Jump: now.dead = true; return;
            case StatementKind::Label: now = {}; return;
            case StatementKind::Drawn:
                for (const Branch& b : s.branches) body(b.body, now);
                return;
        }
    }

    void assign(const Statement& s, Known& now) {
        const Interval v = value(*s.value, now);
        value_of_parts(*s.target, now);
        const bool sometimes = s.value->kind == ExpressionKind::Call && has_enable(*s.value);
        set(*s.target, v, sometimes, now);
    }
    static bool has_enable(const Expression& call) {
        return std::any_of(call.arguments.begin(), call.arguments.end(),
                           [](const Argument& a) { return a.field == kEnable; });
    }
    /// Indices of a place that is written.
    void value_of_parts(const Expression& target, Known& now) {
        if (target.kind == ExpressionKind::Index) indices(target, now);
        if (target.kind != ExpressionKind::Name && !target.operands.empty()) value_of_parts(*target.operands[0], now);
    }

    void set(const Expression& target, const Interval& v, bool sometimes, Known& now) {
        if (!followed(target.type)) return;
        const auto field = field_of(target);
        if (!field) return;
        Interval kept = ledgers_.stored(v, target.type);
        if (sometimes) kept = hull(kept, ledgers_.value_of(*field, target.type, now));
        ledgers_.note(*field, kept);
        now.values.erase(*field);
        if (ledgers_.follows(*field) && target.kind == ExpressionKind::Name) now.values[*field] = std::move(kept);
    }

    /// The node of a variable, or of a variable of a block's instance.
    std::optional<Node> field_of(const Expression& e) const {
        if (e.kind == ExpressionKind::Name && !e.binding.indirect) return node_of(logic_, e, unit_);
        if (e.kind != ExpressionKind::Member || e.operands.empty() || !e.operands[0]->type.is(E::Block))
            return std::nullopt;
        const int block = e.operands[0]->type.index;
        const Field* f = logic_.block(block).find(e.name);
        if (logic_.block(block).unit == nullptr || f == nullptr || f->binding.indirect) return std::nullopt;
        return node_at(logic_, f->binding, block);
    }

    void if_statement(const Statement& s, Known& now) {
        Known out{{}, true};
        for (const Branch& b : s.branches) {
            Known inside = now;
            if (b.condition) {
                look(*b.condition, now, now);
                inside = now;
                assume(*b.condition, true, inside);
            }
            if (!inside.dead) body(b.body, inside);
            join(out, inside);
            if (!b.condition) {
                now = std::move(out);
                return;
            }
            assume(*b.condition, false, now);
            if (now.dead) break;
        }
        join(out, now);
        now = std::move(out);
    }

    void case_statement(const Statement& s, Known& now) {
        const Interval v = value(*s.value, now);
        const Expression& selector = written(*s.value);
        const auto node = field_of(selector);
        if (hearing_ && inlined_ == 0 && node && ledgers_.follows(*node) && ledgers_.written().named.contains(*node))
            listener_.selector(s, unit_, v, ledgers_.written().named.at(*node));
        Known out{{}, true}, rest = now;
        bool otherwise = false;
        for (const Branch& b : s.branches) {
            if (b.labels.empty()) {
                otherwise = true;
                if (!rest.dead) body(b.body, rest);
                join(out, rest);
                continue;
            }
            Known inside{{}, true};
            for (const CaseLabel& label : b.labels) {
                Interval to = value(*label.low, now);
                if (label.high) to = hull(to, value(*label.high, now));
                if (label.high) to.values.clear();
                const auto part = clipped(v, to);
                if (!part) continue;
                Known one = now;
                if (node && may_be_kept(*node)) one.values[*node] = *part;
                join(inside, one);
                if (!label.high && !rest.dead && node && may_be_kept(*node)) exclude(*node, selector.type, to, rest);
            }
            if (!inside.dead) body(b.body, inside);
            join(out, inside);
        }
        if (!otherwise) join(out, rest);
        now = std::move(out);
    }
    void exclude(const Node& node, const TypeRef& type, const Interval& one, Known& rest) const {
        const auto left = where_it_holds(Operator::NotEqual, ledgers_.value_of(node, type, rest), one, true);
        if (left) {
            rest.values[node] = *left;
        } else {
            rest.dead = true;
        }
    }

    /// What a loop writes may be anything that is ever written to it, within the loop and behind it.
    void loop(const Statement& s, Known& now) {
        std::optional<Node> counter;
        Interval range;
        bool never_begins = false;
        if (s.kind == StatementKind::For) {
            const Interval from = value(*s.value, now), to = value(*s.limit, now);
            const Interval step = s.step ? value(*s.step, now) : exactly(1);
            range = hull(from, to);
            range.values.clear();
            if (!from.one() || !to.one() || ledgers_.written().loops.at(&s).leaves)
                range.low_told = range.high_told = false;
            counter = field_of(*s.target);
            const bool up = step.low > 0, down = step.high < 0;
            never_begins = (up && from.low > to.high) || (down && from.high < to.low);
            if (up) range.high = std::max(to.high, from.low);
            if (down) range.low = std::min(to.low, from.high);
            Interval behind = range;
            if (up) behind.high += step.high;
            if (down) behind.low += step.low;
            if (counter) ledgers_.note(*counter, ledgers_.stored(behind, s.target->type));
        }
        const Written::Loop& written = ledgers_.written().loops.at(&s);
        if (written.calls) forget_shared(now);
        if (s.kind == StatementKind::For || !keep_head(s, written, now)) forget(written.nodes, now);
        Known inside = now, after = now;
        if (s.kind == StatementKind::Repeat) forget(written.nodes, after);
        if (s.kind == StatementKind::While) {
            look(*s.value, inside, inside);
            assume(*s.value, true, inside);
            if (!written.leaves) assume(*s.value, false, after);
        }
        inside.dead = inside.dead || never_begins;
        if (counter && ledgers_.follows(*counter)) inside.values[*counter] = ledgers_.stored(range, s.target->type);
        if (!inside.dead) body(s.branches[0].body, inside);
        if (s.kind == StatementKind::Repeat && !inside.dead) look(*s.value, inside, inside);
        if (after.dead) after = now;  // an EXIT may leave it
        after.dead = false;
        if (counter) after.values.erase(*counter);
        now = std::move(after);
    }

    static void forget(const std::set<Node>& nodes, Known& now) {
        for (const Node& n : nodes) now.values.erase(n);
    }
    /// What is known where a WHILE or REPEAT begins, however often it has gone round: ends that move go as far as
    /// anything that is ever written. FALSE where that cannot be followed.
    bool keep_head(const Statement& s, const Written::Loop& written, Known& head) {
        const StatementList& inner = s.branches[0].body;
        const bool hearing = std::exchange(hearing_, false);
        bool stable = false;
        for (int round = 0; round < kTurns && !stable && !written.leaves && !continues(inner); ++round) {
            Known end = head;
            if (s.kind == StatementKind::While) {
                look(*s.value, end, end);
                assume(*s.value, true, end);
            }
            if (!end.dead) body(inner, end);
            if (s.kind == StatementKind::Repeat && !end.dead) {
                look(*s.value, end, end);
                assume(*s.value, false, end);
            }
            stable = end.dead || !widened(written.nodes, end, head);
        }
        hearing_ = hearing;
        return stable;
    }
    bool widened(const std::set<Node>& nodes, const Known& end, Known& head) const {
        bool any = false;
        for (const Node& n : nodes) {
            const auto known = head.values.find(n);
            if (known == head.values.end()) continue;
            const auto left = end.values.find(n);
            const Interval all = ledgers_.value_of(n, {}, {});
            const Interval& v = left == end.values.end() ? all : left->second;
            Interval wide = hull(known->second, v);
            if (wide == known->second) continue;
            any = true;
            wide.values.clear();
            if (v.low < known->second.low) {
                wide.low = all.low;
                wide.low_told = all.low_told;
            }
            if (v.high > known->second.high) {
                wide.high = all.high;
                wide.high_told = all.high_told;
            }
            if (wide == known->second) {
                head.values.erase(known);
            } else {
                known->second = std::move(wide);
            }
        }
        return any;
    }
    static bool continues(const StatementList& list) {
        return std::any_of(list.begin(), list.end(), [](const Statement& s) {
            return s.kind == StatementKind::Continue ||
                   std::any_of(s.branches.begin(), s.branches.end(), [](const Branch& b) { return continues(b.body); });
        });
    }

    // --- conditions ---
    /// Hears all that a BOOL computes; `around` is what was known before the condition.
    void look(const Expression& e, Known& now, const Known& around) {
        if (e.kind == ExpressionKind::Binary && (e.op == Operator::And || e.op == Operator::Or) && e.type.is(E::Bool)) {
            look(*e.operands[0], now, around);
            Known second = now;
            assume(*e.operands[0], e.op == Operator::And, second);
            // Both sides are executed; behind what decides the first one the second has no say.
            if (second.dead) second = now;
            look(*e.operands[1], second, around);
            return;
        }
        if (e.kind == ExpressionKind::Unary && e.op == Operator::Not) return look(*e.operands[0], now, around);
        if (e.kind == ExpressionKind::Binary && is_comparison(e.op)) {
            const Interval a = value(*e.operands[0], now), b = value(*e.operands[1], now);
            if (!hearing_ || inlined_ > 0 || !comparable(e)) return;
            Known before = around;
            const Truth here = logic::compared(e.op, a, b);
            const Truth outer =
                logic::compared(e.op, quiet_value(*e.operands[0], before), quiet_value(*e.operands[1], before));
            listener_.comparison(e, unit_, outer, here, a, b);
            return;
        }
        value(e, now);
    }
    static bool comparable(const Expression& e) {
        return followed(e.operands[0]->type) && followed(e.operands[1]->type);
    }
    Interval quiet_value(const Expression& e, Known& now) {
        const bool heard = hearing_;
        hearing_ = false;
        Interval v = value(e, now);
        hearing_ = heard;
        return v;
    }

    void assume(const Expression& e, bool truth, Known& now) {
        if (now.dead) return;
        if (e.kind == ExpressionKind::Literal && e.type.is(E::Bool)) {
            now.dead = (e.integer != 0) != truth;
        } else if (e.kind == ExpressionKind::Unary && e.op == Operator::Not) {
            assume(*e.operands[0], !truth, now);
        } else if (e.kind == ExpressionKind::Binary && is_comparison(e.op) && comparable(e)) {
            assume_comparison(e, truth ? e.op : opposite(e.op), now);
        } else if (e.kind == ExpressionKind::Binary && e.type.is(E::Bool) &&
                   (e.op == Operator::And || e.op == Operator::Or)) {
            const bool both = (e.op == Operator::And) == truth;
            if (both) {
                assume(*e.operands[0], truth, now);
                assume(*e.operands[1], truth, now);
                return;
            }
            Known second = now;
            assume(*e.operands[0], truth, now);
            assume(*e.operands[1], truth, second);
            join(now, second);
        }
    }
    void assume_comparison(const Expression& e, Operator op, Known& now) {
        const Interval a = quiet_value(*e.operands[0], now), b = quiet_value(*e.operands[1], now);
        narrow(*e.operands[0], op, a, b, now);
        if (!now.dead) narrow(*e.operands[1], mirrored(op), b, a, now);
    }
    void narrow(const Expression& side, Operator op, const Interval& a, const Interval& b, Known& now) const {
        const Expression& place = written(side);
        const bool whole = !is_real(place.type.elementary) && !is_real(side.type.elementary);
        const auto part = where_it_holds(op, a, b, whole);
        if (!part) {
            now.dead = true;
            return;
        }
        if (place.kind != ExpressionKind::Name) return;
        const auto node = field_of(place);
        // Also of what others write: within a scan it stays as it was looked at.
        if (node && may_be_kept(*node)) now.values[*node] = *part;
    }
    bool may_be_kept(const Node& node) const { return !ledgers_.written().opaque.contains(node); }

    // --- expressions ---
    Interval value(const Expression& e, Known& now) {
        switch (e.kind) {
            case ExpressionKind::Literal: return literal(e);
            case ExpressionKind::Name: {
                const auto node = field_of(e);
                return node && followed(e.type) ? ledgers_.value_of(*node, e.type, now) : ledgers_.all_of_type(e.type);
            }
            case ExpressionKind::Member: return member(e, now);
            case ExpressionKind::Index: indices(e, now); return ledgers_.all_of_type(e.type);
            case ExpressionKind::Unary: return unary(e, now);
            case ExpressionKind::Binary: return binary(e, now);
            case ExpressionKind::Convert: return convert(e, now);
            case ExpressionKind::Call: return call(e, now);
            default: break;
        }
        for (const ExpressionPtr& o : e.operands) value(*o, now);
        return ledgers_.all_of_type(e.type);
    }

    static Interval literal(const Expression& e) {
        if (is_real(e.type.elementary)) return exactly(e.real);
        const auto magnitude = static_cast<Number>(e.integer);
        return exactly(e.negative ? -magnitude : magnitude);
    }

    Interval member(const Expression& e, Known& now) {
        if (!e.operands.empty()) value(*e.operands[0], now);
        if (const auto node = field_of(e))
            return followed(e.type) ? ledgers_.value_of(*node, e.type, now) : ledgers_.all_of_type(e.type);
        const bool elapsed = is_duration(e.type.elementary) && base::fold(e.name) == "et";
        if (elapsed && !e.operands.empty()) {
            // It counts from nought to PT.
            const auto timer = node_of(logic_, *e.operands[0], unit_);
            const auto preset = timer ? ledgers_.preset(*timer) : std::nullopt;
            if (preset && preset->high >= 0 && !ledgers_.written().opaque.contains(*timer))
                return {0, preset->high, true, preset->high_told, {}};
        }
        return ledgers_.all_of_type(e.type);
    }

    void indices(const Expression& e, Known& now) {
        value(*e.operands[0], now);
        for (std::size_t i = 1; i < e.operands.size(); ++i) {
            const Interval v = value(*e.operands[i], now);
            if (hearing_ && inlined_ == 0) listener_.index(e, unit_, i - 1, v);
        }
    }

    Interval unary(const Expression& e, Known& now) {
        const Interval v = value(*e.operands[0], now);
        if (e.op != Operator::Negate || !followed(e.type)) return ledgers_.all_of_type(e.type);
        const auto exact = computed(Operator::Subtract, exactly(0), v, !is_real(e.type.elementary));
        return exact ? heard(e, *exact) : ledgers_.all_of_type(e.type);
    }

    Interval binary(const Expression& e, Known& now) {
        if (e.type.is(E::Bool)) {
            look(e.op == Operator::Xor ? *e.operands[0] : e, now, now);
            if (e.op == Operator::Xor) look(*e.operands[1], now, now);
            return ledgers_.all_of_type(e.type);
        }
        const Interval a = value(*e.operands[0], now), b = value(*e.operands[1], now);
        const E type = e.type.elementary;
        const bool numbers = followed(e.operands[0]->type) && followed(e.operands[1]->type) && followed(e.type);
        if (!numbers) return ledgers_.all_of_type(e.type);
        if (is_bit_string(type)) return bits(e, a, b);
        const bool whole = !is_real(type) && !is_real(e.operands[1]->type.elementary);
        if (hearing_ && inlined_ == 0 && whole && (e.op == Operator::Divide || e.op == Operator::Modulo))
            listener_.divisor(e, unit_, b);
        const auto exact = computed(e.op, a, b, whole);
        if (!exact) return ledgers_.all_of_type(e.type);
        if (hearing_ && inlined_ == 0 && whole && e.op == Operator::Divide && is_integer(type))
            listener_.quotient(e, unit_, a, *exact);
        return heard(e, *exact);
    }
    /// A mask keeps what is no larger than it.
    Interval bits(const Expression& e, const Interval& a, const Interval& b) const {
        if (e.op != Operator::And || a.low < 0 || b.low < 0) return ledgers_.all_of_type(e.type);
        return between(0, std::min(a.high, b.high), false);
    }

    Interval heard(const Expression& e, const Interval& exact) {
        const bool whole = is_integer(e.type.elementary);
        if (hearing_ && inlined_ == 0 && whole) listener_.result(e, unit_, exact);
        return ledgers_.stored(exact, e.type);
    }

    Interval convert(const Expression& e, Known& now) {
        const Interval v = value(*e.operands[0], now);
        const TypeRef& from = e.operands[0]->type;
        if (from.is(E::Bool)) return between(0, 1, true);
        if (!followed(from) || !followed(e.type)) return ledgers_.all_of_type(e.type);
        const E to = e.type.elementary;
        Interval out = v;
        switch (e.detail) {
            case kConvertPlain:
            case kConvertRange: return ledgers_.stored(v, e.type);
            case kConvertTruncate: return heard(e, rounded(v, [](Number n) { return std::trunc(n); }));
            case kConvertNamed: break;
            default: return ledgers_.all_of_type(e.type);
        }
        if (is_duration(from.elementary) && !is_duration(to)) out = scaled(v, 1 / kMillisecond);
        if (!is_duration(from.elementary) && is_duration(to)) return ledgers_.stored(scaled(v, kMillisecond), e.type);
        if (is_bit_string(from.elementary) != is_bit_string(to) && !within(out, all_of(to)))
            return ledgers_.all_of_type(e.type);
        if (is_integer(to) && !is_integer(from.elementary))
            out = rounded(out, [](Number n) { return std::floor(n + 0.5L); });
        return heard(e, out);
    }
    template <class F>
    static Interval rounded(Interval v, F f) {
        v.low = f(v.low);
        v.high = f(v.high);
        for (Number& n : v.values) n = f(n);
        v.values.erase(std::unique(v.values.begin(), v.values.end()), v.values.end());
        return v;
    }
    static Interval scaled(Interval v, Number by) {
        v.low *= by;
        v.high *= by;
        for (Number& n : v.values) n *= by;
        return v;
    }

    // --- calls ---
    Interval call(const Expression& e, Known& now) {
        std::vector<Interval> given;
        for (const Argument& a : e.arguments) {
            if (a.value && !a.output) {
                given.push_back(value(*a.value, now));
            } else {
                given.push_back(between(0, 1, false));
                if (a.value) value_of_parts(*a.value, now);
            }
        }
        Interval out = ledgers_.all_of_type(e.type);
        if (e.call == CallKind::Standard) {
            out = function(e, given);
        } else if (e.detail >= 0 && e.call != CallKind::Unknown) {
            out = unit_call(e, given, now);
        }
        return out;
    }

    Interval unit_call(const Expression& e, const std::vector<Interval>& given, Known& now) {
        const Layout& callee = logic_.block(e.detail);
        called_.at(static_cast<std::size_t>(e.detail)) = true;
        for (std::size_t i = 0; i < given.size(); ++i) {
            const Argument& a = e.arguments[i];
            if (!a.value || a.output || a.field < 0) continue;
            const Field& f = base::at(callee.fields, a.field);
            if (callee.standard) preset_of(e, f, *a.value, given[i]);
            if (callee.unit == nullptr || f.binding.indirect || !followed(f.type)) continue;
            ledgers_.note(node_at(logic_, f.binding, e.detail), ledgers_.stored(given[i], f.type));
        }
        Interval out = ledgers_.all_of_type(e.type);
        if (callee.kind == LayoutKind::Function) out = result_of(e, given);
        // What it, and what it calls, may have written.
        if (callee.unit != nullptr) forget_shared(now);
        for (const Argument& a : e.arguments) {
            if (!a.output || !a.value || a.field < 0) continue;
            const Field& f = base::at(callee.fields, a.field);
            Interval v = ledgers_.all_of_type(a.value->type);
            if (callee.unit != nullptr && !f.binding.indirect && followed(f.type))
                v = ledgers_.value_of(node_at(logic_, f.binding, e.detail), f.type, {});
            set(*a.value, v, true, now);
        }
        return out;
    }
    /// What others may have written in between.
    void forget_shared(Known& now) const {
        std::erase_if(now.values, [&](const auto& entry) {
            return entry.first.space != Space::Frame && ledgers_.written().only_writer(entry.first) != unit_;
        });
    }
    void preset_of(const Expression& e, const Field& f, const Expression& value, const Interval& v) {
        if (f.name != "PT") return;
        if (hearing_ && inlined_ == 0) listener_.preset(value, unit_, v);
        if (e.operands.empty()) return;
        if (const auto timer = node_of(logic_, *e.operands[0], unit_)) ledgers_.note_preset(*timer, v);
    }
    /// A function, with the arguments of this call.
    Interval result_of(const Expression& e, const std::vector<Interval>& given) {
        const Layout& callee = logic_.block(e.detail);
        const Interval anything = ledgers_.all_of_type(e.type);
        if (callee.unit == nullptr || callee.result_field < 0 || !followed(e.type)) return anything;
        const Node result = node_at(logic_, base::at(callee.fields, callee.result_field).binding, e.detail);
        if (inlined_ >= kMostInlined) return ledgers_.value_of(result, e.type, {});
        Known now = ledgers_.frame(e.detail);
        for (std::size_t i = 0; i < given.size(); ++i) {
            const Argument& a = e.arguments[i];
            if (!a.value || a.output || a.field < 0) continue;
            const Field& f = base::at(callee.fields, a.field);
            if (followed(f.type) && !f.binding.indirect)
                now.values[node_at(logic_, f.binding, e.detail)] = ledgers_.stored(given[i], f.type);
        }
        const int unit = std::exchange(unit_, e.detail);
        Known exits = std::exchange(exits_, Known{{}, true});
        ++inlined_;
        body(callee.unit->body, now);
        --inlined_;
        join(exits_, now);
        const Interval out = exits_.dead ? anything : ledgers_.value_of(result, e.type, exits_);
        exits_ = std::move(exits);
        unit_ = unit;
        return out;
    }

    Interval function(const Expression& e, const std::vector<Interval>& given) {
        const Interval anything = ledgers_.all_of_type(e.type);
        std::vector<Interval> in;
        for (std::size_t i = 0; i < given.size(); ++i) {
            if (e.arguments[i].field != kEnable && e.arguments[i].field != kEnableOut) in.push_back(given[i]);
        }
        if (!followed(e.type) || in.empty()) return anything;
        for (const Argument& a : e.arguments) {
            if (a.value && !followed(a.value->type) && !a.value->type.is(E::Bool)) return anything;
        }
        switch (static_cast<Function>(e.detail)) {
            case Function::Absolute: {
                Interval out = in[0];
                if (out.low >= 0) return out;
                const Interval other = {-out.high, -out.low, out.high_told, out.low_told, {}};
                out = hull(out, other);
                out.values.clear();
                out.low = out.low > 0 ? out.low : 0;
                out.low_told = true;
                return heard(e, out);
            }
            case Function::Minimum:
            case Function::Maximum: {
                const bool least = static_cast<Function>(e.detail) == Function::Minimum;
                Interval out = in[0];
                for (const Interval& next : in) out = smaller_or_larger(out, next, least);
                return ledgers_.stored(out, e.type);
            }
            case Function::Limit:
                return ledgers_.stored(smaller_or_larger(smaller_or_larger(in[1], in[0], false), in[2], true), e.type);
            case Function::Select: return in.size() == 3 ? ledgers_.stored(hull(in[1], in[2]), e.type) : anything;
            case Function::Multiplex: {
                Interval out = in[1];
                for (std::size_t i = 2; i < in.size(); ++i) out = hull(out, in[i]);
                return ledgers_.stored(out, e.type);
            }
            case Function::Move: return ledgers_.stored(in[0], e.type);
            case Function::SquareRoot:
                if (in[0].low < 0) return anything;
                return {std::sqrt(in[0].low) * (1 - 1e-6L),
                        std::sqrt(in[0].high) * (1 + 1e-6L),
                        in[0].low_told,
                        in[0].high_told,
                        {}};
            case Function::Sine:
            case Function::Cosine: return between(-1, 1, true);
            default: return anything;
        }
    }
    static Interval smaller_or_larger(const Interval& a, const Interval& b, bool least) {
        const auto pick = [&](Number x, bool x_told, Number y, bool y_told) {
            if (x == y) return std::pair(x, x_told || y_told);
            return (x < y) == least ? std::pair(x, x_told) : std::pair(y, y_told);
        };
        Interval out;
        std::tie(out.low, out.low_told) = pick(a.low, a.low_told, b.low, b.low_told);
        std::tie(out.high, out.high_told) = pick(a.high, a.high_told, b.high, b.high_told);
        if (out.one()) out.values = {out.low};
        return out;
    }

    const CheckedLogic& logic_;
    RangeListener& listener_;
    Ledgers ledgers_;
    std::vector<bool> called_;
    Known exits_;  ///< What is left at each RETURN and at the end.
    int unit_ = -1;
    int inlined_ = 0;
    bool hearing_ = false;
};

}  // namespace

std::optional<Node> node_of(const Program& program, const Variable& v) {
    const auto within_area = [&](const Range& area) {
        return v.offset >= area.begin && v.offset - area.begin < area.size;
    };
    for (const auto& [area, space] : {std::pair(&program.inputs, Space::Inputs),
                                      {&program.outputs, Space::Outputs},
                                      {&program.markers, Space::Markers}}) {
        if (within_area(*area)) return Node{-1, space, v.offset - area->begin, v.bit};
    }
    if (v.offset < program.globals_begin || v.offset >= program.tags_end) return std::nullopt;
    return Node{-1, Space::Globals, v.offset - program.globals_begin, v.bit};
}

bool follow_ranges(const CheckedLogic& logic, const OutsideFacts& facts, RangeListener& listener) {
    return RangeReader(logic, facts, listener).run();
}

}  // namespace vyard::logic
