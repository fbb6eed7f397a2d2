#include "core/logic/analysis/foreseen.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/logic/analysis/walks.hpp"
#include "core/logic/infix_text.hpp"
#include "core/logic/value.hpp"

namespace vyard::logic {

namespace {

using base::Code;
using E = Elementary;
using Number = Interval::Number;

/// What the listeners share: where an expression stands, and how numbers of a type are written.
class Reporter : public RangeListener {
  public:
    Reporter(const CheckedLogic& logic, base::Diagnostics& diagnostics) : logic_(logic), diagnostics_(diagnostics) {}

  protected:
    bool ours(int unit) const { return unit >= 0 && !logic_.block(unit).unit->source->path.starts_with("library/"); }
    void warn(Code code, int unit, Span span, std::string message, std::string hint = {}) {
        const base::Place place = place_in(logic_.block(unit).unit->source, span);
        // A product that becomes too large was said to be computed in too small a type, perhaps.
        const auto same = [&](const base::Diagnostic& d) {
            const bool one = d.code == code || (code == Code::Overflow && d.code == Code::ComputedNarrow);
            return one && d.place.source == place.source && d.place.line == place.line &&
                   d.place.column == place.column;
        };
        if (std::any_of(diagnostics_.list().begin(), diagnostics_.list().end(), same)) return;
        diagnostics_.warning(code, place, std::move(message), std::move(hint));
    }

    std::string text_of(Number n, const TypeRef& type) const {
        if (logic_.is_enumeration(type)) {
            for (const EnumConstant& c : logic_.type(type).values) {
                if (static_cast<Number>(c.value) == n) return c.name;
            }
        }
        if (is_duration(type.elementary)) return base::time_text(base::Nanoseconds(static_cast<std::int64_t>(n)));
        if (is_real(type.elementary)) return fmt::format("{:g}", static_cast<double>(n));
        return fmt::format("{:.0f}", n);
    }
    std::string text_of(const Interval& i, const TypeRef& type) const {
        const bool all = i.values.size() > 2 && static_cast<Number>(i.values.size() - 1) == i.high - i.low &&
                         !logic_.is_enumeration(type);
        if (i.values.empty() || all) return text_of(i.low, type) + " to " + text_of(i.high, type);
        std::string out;
        for (std::size_t n = 0; n < i.values.size(); ++n) {
            if (n > 0) out += n + 1 == i.values.size() ? " or " : ", ";
            out += text_of(i.values[n], type);
        }
        return out;
    }

    const CheckedLogic& logic_;
    base::Diagnostics& diagnostics_;
};

/// Numbers as the yard states them.
class Arithmetic : public Reporter {
  public:
    using Reporter::Reporter;

    void result(const Expression& e, int unit, const Interval& exact) override {
        const E type = e.type.elementary;
        const Interval all = all_of(type);
        if (!ours(unit) || !is_integer(type)) return;
        const bool above = exact.high > all.high && exact.high_told;
        // That a difference of counts without sign is never negative is known to people only.
        const bool difference = is_unsigned_integer(type) && e.kind == ExpressionKind::Binary && exact.high >= 0;
        const bool below = exact.low < all.low && exact.low_told && !difference;
        if (!above && !below) return;
        const std::string wide = type == E::Dint || type == E::Udint || type == E::Lint ? "LINT" : "DINT";
        const bool converts = e.kind == ExpressionKind::Convert;
        warn(Code::Overflow, unit, e.span,
             fmt::format("this may become {}, and {} holds {} to {}", text_of(above ? exact.high : exact.low, e.type),
                         type_name(type), text_of(all.low, e.type), text_of(all.high, e.type)),
             converts ? "let the result be of a larger type, or keep it within with LIMIT"
                      : fmt::format("compute it as {}: {}_TO_{}(...)", wide, type_name(type), wide));
    }

    void divisor(const Expression& division, int unit, const Interval& by) override {
        if (!ours(unit) || by.low > 0 || by.high < 0 || !by.low_told || !by.high_told) return;
        const Expression& divisor = written(*division.operands[1]);
        const bool among = by.values.empty() || std::binary_search(by.values.begin(), by.values.end(), Number{0});
        if (!among || divisor.kind == ExpressionKind::Literal) return;
        warn(Code::DividesByZero, unit, division.span,
             fmt::format("'{}' may be 0 here: {}", infix_text(divisor), text_of(by, divisor.type)),
             "a controller stops at a division by 0: divide only where it is not");
    }

    void quotient(const Expression& division, int unit, const Interval& dividend, const Interval& exact) override {
        const bool nothing = exact.low == 0 && exact.high == 0 && !(dividend.low == 0 && dividend.high == 0);
        if (!ours(unit) || !nothing || !dividend.low_told || !dividend.high_told) return;
        warn(Code::ComputedNarrow, unit, division.span,
             fmt::format("this is always 0: {} divides without a fraction, and '{}' is {}",
                         type_name(division.type.elementary), infix_text(*division.operands[0]),
                         text_of(dividend, division.operands[0]->type)),
             "multiply before it divides, or compute it as REAL");
    }

    void index(const Expression& e, int unit, std::size_t dimension, const Interval& at) override {
        if (!ours(unit) || !e.operands[0]->type.is(E::Array)) return;
        const DerivedType& type = logic_.type(e.operands[0]->type);
        if (type.open || dimension >= type.dimensions.size()) return;
        const Dimension& d = type.dimensions[dimension];
        const Expression& index = written(*e.operands[dimension + 1]);
        const bool above = at.high > static_cast<Number>(d.high) && at.high_told;
        const bool below = at.low < static_cast<Number>(d.low) && at.low_told;
        if (index.kind == ExpressionKind::Literal || (!above && !below)) return;
        warn(Code::BeyondArray, unit, e.span,
             fmt::format("'{}' is {} here, and the array goes from {} to {}", infix_text(index),
                         text_of(at, index.type), d.low, d.high),
             "a controller stops at an index that is outside");
    }
};

/// Whatever may come, as long as nobody forces it.
class Decisions : public Reporter {
  public:
    Decisions(const CheckedLogic& logic, const ForeseenFacts& facts, base::Diagnostics& diagnostics)
        : Reporter(logic, diagnostics), facts_(facts), walks_(logic) {}

    /// Once all indices were heard.
    void report_walks() const { walks_.report(diagnostics_); }

    void index(const Expression& e, int unit, std::size_t dimension, const Interval& at) override {
        walks_.index(e, unit, dimension, at);
    }

    void comparison(const Expression& e, int unit, const Truth& around, const Truth& here, const Interval& left,
                    const Interval& right) override {
        if (!ours(unit) || !here.decided()) return;
        const Expression &a = written(*e.operands[0]), &b = written(*e.operands[1]);
        if (a.kind == ExpressionKind::Literal && b.kind == ExpressionKind::Literal) return;
        std::string why;
        for (const auto& [side, range] : {std::pair(&a, &left), std::pair(&b, &right)}) {
            if (side->kind == ExpressionKind::Literal) continue;
            why += fmt::format("{}'{}' is {}", why.empty() ? "" : ", and ", infix_text(*side),
                               text_of(*range, side->type));
        }
        if (around == here) {
            if (here.may_be_true) return;  // what looks twice does no harm
            warn(Code::NeverTrue, unit, e.span, fmt::format("this is never TRUE: {}", why));
            return;
        }
        warn(here.may_be_true ? Code::AlwaysTrue : Code::NeverTrue, unit, e.span,
             fmt::format("where this has a say it is {} TRUE: {} then", here.may_be_true ? "always" : "never", why),
             here.may_be_true ? "is another value meant, or AND in place of OR?"
                              : "is another value meant, or OR in place of AND?");
    }

    void selector(const Statement& s, int unit, const Interval& v, const std::set<Number>& named) override {
        if (!ours(unit) || s.generated || v.values.empty()) return;
        const Expression& selector = written(*s.value);
        std::vector<Number> left = v.values;
        bool otherwise = false;
        for (const Branch& b : s.branches) {
            otherwise = otherwise || b.labels.empty();
            for (const CaseLabel& label : b.labels) {
                const Number low = number_of(*label.low), high = label.high ? number_of(*label.high) : low;
                const auto before = left.size();
                std::erase_if(left, [&](Number n) { return n >= low && n <= high; });
                if (left.size() != before) continue;
                const bool met =
                    std::any_of(v.values.begin(), v.values.end(), [&](Number n) { return n >= low && n <= high; });
                if (met) continue;
                warn(Code::UnreachableCase, unit, label.low->span,
                     fmt::format(
                         "'{}' is never {}: it is {}", infix_text(selector),
                         label.high ? text_of(between(low, high, true), selector.type) : text_of(low, selector.type),
                         text_of(v, selector.type)));
            }
        }
        if (otherwise) return;
        std::erase_if(left, [&](Number n) { return named.contains(n); });
        if (left.empty()) return;
        Interval rest = exactly(left[0]);
        for (const Number n : left) rest = hull(rest, exactly(n));
        warn(Code::NoBranch, unit, s.value->span,
             fmt::format("'{}' may be {}, for which nothing here has a branch", infix_text(selector),
                         text_of(rest, selector.type)),
             "write a branch for it, or an ELSE");
    }

    void preset(const Expression& value, int unit, const Interval& v) override {
        const auto scan = static_cast<Number>(facts_.scan.count());
        if (!ours(unit) || v.high <= 0 || v.high >= scan || !v.high_told) return;
        warn(Code::BelowScan, unit, value.span,
             fmt::format("{} is less than a scan of {}", text_of(v.high, value.type), base::time_text(facts_.scan)),
             "a timer is looked at once a scan: it lasts a scan at the least");
    }

  private:
    static Number number_of(const Expression& literal) {
        const auto n = static_cast<Number>(literal.integer);
        return literal.negative ? -n : n;
    }

    const ForeseenFacts& facts_;
    Walks walks_;
};

/// What every comparison of the program may give.
class Comparisons : public RangeListener {
  public:
    void comparison(const Expression& e, int, const Truth&, const Truth& here, const Interval&,
                    const Interval&) override {
        auto [it, fresh] = truths.try_emplace(&e, here);
        if (fresh) return;
        it->second.may_be_true = it->second.may_be_true || here.may_be_true;
        it->second.may_be_false = it->second.may_be_false || here.may_be_false;
    }
    std::map<const Expression*, Truth> truths;
};

OutsideFacts outside(const ForeseenFacts& facts, Interval AnalogInput::*range) {
    OutsideFacts out;
    for (const AnalogInput& a : facts.analogs) out.inputs[a.node] = a.*range;
    out.written = facts.written;
    return out;
}

/// A broken wire is noticed where some comparison tells it from every true value.
void look_at_wires(const CheckedLogic& logic, const ForeseenFacts& facts, base::Diagnostics& diagnostics) {
    const OutsideFacts stated = outside(facts, &AnalogInput::stated);
    Comparisons usual;
    if (!follow_ranges(logic, stated, usual)) return;
    for (const AnalogInput& a : facts.analogs) {
        if (!a.broken) continue;
        OutsideFacts broken = stated;
        broken.inputs[a.node] = exactly(*a.broken);
        Comparisons then;
        if (!follow_ranges(logic, broken, then)) continue;
        const bool noticed = std::any_of(then.truths.begin(), then.truths.end(), [&](const auto& entry) {
            const auto before = usual.truths.find(entry.first);
            const Truth& t = entry.second;
            return before != usual.truths.end() && t.decided() &&
                   !(t.may_be_true ? before->second.may_be_true : before->second.may_be_false);
        });
        if (noticed) continue;
        diagnostics.warning(Code::WireUnwatched, a.place,
                            fmt::format("with a broken wire '{}' reads {:g}, and nothing in the logic tells that from "
                                        "a true value",
                                        a.tag, static_cast<double>(*a.broken)),
                            fmt::format("compare it with less than {:g}", static_cast<double>(a.stated.low)));
    }
}

}  // namespace

void warn_foreseen(const Program& program, const ForeseenFacts& facts, base::Diagnostics& diagnostics) {
    if (program.checked == nullptr) return;
    const CheckedLogic& logic = *program.checked;
    Arithmetic arithmetic(logic, diagnostics);
    follow_ranges(logic, outside(facts, &AnalogInput::stated), arithmetic);
    Decisions decisions(logic, facts, diagnostics);
    if (follow_ranges(logic, outside(facts, &AnalogInput::possible), decisions)) decisions.report_walks();
    look_at_wires(logic, facts, diagnostics);
}

}  // namespace vyard::logic
