#include "core/logic/check/statement_checker.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/logic/check/constants.hpp"
#include "core/logic/value.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

void StatementChecker::body(StatementList& list) {
    for (Statement& s : list) statement(s);
}

void StatementChecker::Called::add(const Called& other) {
    instances.insert(other.instances.begin(), other.instances.end());
    blocks.insert(other.blocks.begin(), other.blocks.end());
}

void StatementChecker::Called::keep_common(const Called& other) {
    std::erase_if(instances, [&](const Field* f) { return !other.instances.contains(f); });
    std::erase_if(blocks, [&](int b) { return !other.blocks.contains(b); });
}

void StatementChecker::EveryWay::add(const Called& branch, bool otherwise) {
    if (common) {
        common->keep_common(branch);
    } else {
        common = branch;
    }
    closed = closed || otherwise;
}

void StatementChecker::run(StatementList& list) {
    body(list);
    for (const int block : called_.blocks) logic_.sure_calls.emplace_back(scope_.unit(), block);
    warn_timers();
}

/// What is called there whichever way it goes.
StatementChecker::Called StatementChecker::nested(StatementList& list) {
    Called around = std::exchange(called_, {});
    ++conditions_;
    body(list);
    --conditions_;
    return std::exchange(called_, std::move(around));
}

/// The calls that were checked since `first`, at this level.
void StatementChecker::note_calls(std::size_t first) {
    for (std::size_t i = first; i < logic_.calls.size(); ++i) called_.blocks.insert(logic_.calls[i].to);
}

bool StatementChecker::check_condition(ExpressionPtr& condition) {
    const std::size_t calls = logic_.calls.size();
    const bool well = expressions_.check(condition, E::Bool, "the condition of IF");
    note_calls(calls);
    return well;
}

void StatementChecker::statement(Statement& s) {
    const std::size_t calls = logic_.calls.size();
    switch (s.kind) {
        case StatementKind::Assign: assign(s); return note_calls(calls);
        case StatementKind::AssignReference: assign_reference(s); return note_calls(calls);
        case StatementKind::Attempt: attempt(s); return note_calls(calls);
        case StatementKind::Call: call(s); return note_calls(calls);
        case StatementKind::If: return if_statement(s);
        case StatementKind::Case: return case_statement(s);
        case StatementKind::For: return for_statement(s);
        case StatementKind::While:
        case StatementKind::Repeat: expressions_.check(s.value, E::Bool, "the condition of the loop"); return loop(s);
        case StatementKind::Exit:
        case StatementKind::Continue:
            if (loops_ == 0) expressions_.error(Code::Syntax, s.span, "EXIT and CONTINUE stand only inside a loop");
            return;
        case StatementKind::Return:
        case StatementKind::Label:
        case StatementKind::Jump: return;
        case StatementKind::Drawn:
            for (Branch& b : s.branches) body(b.body);
            return probes(s);
    }
}

/// Most stand in statements too, where their mistakes were said; a pin without a line stands here alone.
void StatementChecker::probes(Statement& s) {
    const std::size_t calls = logic_.calls.size();
    base::Diagnostics unheard;
    QuietScope scope(checking_, scope_.unit(), scope_.context(), source_);
    ExpressionChecker quiet(source_, scope, unheard), heard(source_, scope, checking_.diagnostics);
    for (Probe& p : s.probes) (p.bare ? heard : quiet).check_any(p.value);
    logic_.calls.resize(calls);
}

void StatementChecker::loop(Statement& s) {
    ++loops_;
    nested(s.branches[0].body);
    --loops_;
}

/// For the finding of coils in two places: the later one wins in every scan, and the earlier one is lost.
void StatementChecker::note_writer(const Expression& target, const Found& found, bool call, bool literal) {
    if (conditions_ > 0 || (target.kind != ExpressionKind::Name && target.kind != ExpressionKind::Direct)) return;
    WriterNote note{found.field, {}, target.name, place_in(source_, target.span), scope_.unit(), literal, call};
    std::string ignored;
    if (found.field != nullptr) {
        note.address = found.field->address;
    } else if (note.address = parse_address(target.name, ignored); !note.address) {
        return;
    }
    logic_.writers.push_back(std::move(note));
}

/// Whole numbers are computed in their own type, whatever the result is for.
void StatementChecker::warn_narrow(const Expression& value, const TypeRef& target) {
    if (value.kind != ExpressionKind::Convert || value.detail != kConvertPlain) return;
    const Expression& inner = *value.operands[0];
    if (inner.kind != ExpressionKind::Binary || !is_integer(inner.type.elementary)) return;
    const bool quotient = inner.op == Operator::Divide && is_real(target.elementary);
    const bool product = inner.op == Operator::Multiply && is_number(target.elementary);
    if (!quotient && !product) return;
    const char* type = type_name(inner.type.elementary);
    const std::string wide = logic_.text_of(target);
    checking_.warning(source_, inner.span, Code::ComputedNarrow,
                      quotient
                          ? fmt::format("this divides as {} and loses its fraction before it becomes {}", type, wide)
                          : fmt::format("this multiplies as {} and may overflow before it becomes {}", type, wide),
                      fmt::format("convert first: {}_TO_{}(...)", type, type_name(target.elementary)));
}

void StatementChecker::assign(Statement& s) {
    const auto found = expressions_.target(s.target);
    if (!found) {
        expressions_.infer(s.value);
        return;
    }
    if (s.coil && !found->type.is(E::Bool) && !found->type.is(E::None)) {
        expressions_.error(
            Code::TypeMismatch, s.target->span,
            fmt::format("a coil needs a BOOL, '{}' is {}", written_text(*s.target), logic_.text_of(found->type)));
        expressions_.infer(s.value);
        return;
    }
    if (found->type.is(E::Bool)) note_writer(*s.target, *found, false, s.value->kind == ExpressionKind::Literal);
    if (found->type.is(E::Array) && logic_.type(found->type).open) {
        expressions_.error(Code::NotAssignable, s.target->span,
                           "an array of unknown bounds is assigned element by element");
        return;
    }
    const std::string named = s.value->kind == ExpressionKind::Name ? s.value->name : std::string();
    if (!expressions_.check(s.value, found->type, fmt::format("'{}'", written_text(*s.target)))) return;
    warn_narrow(*s.value, found->type);
    if (!named.empty() && found->field != nullptr && s.target->kind == ExpressionKind::Name)
        note_name(*found->field, named);
}

/// A whole number that is set to a CONSTANT is shown by its name too.
void StatementChecker::note_name(Field& target, const std::string& name) {
    const Field* constant = scope_.look(name);
    if (constant == nullptr || !constant->constant || !constant->initial_known || constant->initial.empty()) return;
    if (!is_integer(target.type.elementary) || !is_integer(constant->type.elementary)) return;
    const Value value = read_value(constant->initial.data(), constant->type.elementary, 0, -1);
    target.case_names.emplace(signed_of(value), constant->name);
}

void StatementChecker::assign_reference(Statement& s) {
    const auto found = expressions_.target(s.target);
    if (!found) return;
    if (!found->type.is(E::Reference)) {
        expressions_.error(
            Code::TypeMismatch, s.target->span,
            fmt::format("REF= sets a reference, '{}' is {}", written_text(*s.target), logic_.text_of(found->type)));
        return;
    }
    if (s.value->kind == ExpressionKind::Null) {
        expressions_.check(s.value, found->type, "the reference");
        return;
    }
    // a REF= b is a := REF(b)
    auto call = std::make_unique<Expression>();
    call->kind = ExpressionKind::Call;
    call->span = s.value->span;
    auto name = std::make_unique<Expression>();
    name->kind = ExpressionKind::Name;
    name->name = "REF";
    name->span = s.value->span;
    call->operands.push_back(std::move(name));
    Argument a;
    a.span = s.value->span;
    a.value = std::move(s.value);
    call->arguments.push_back(std::move(a));
    s.value = std::move(call);
    expressions_.check(s.value, found->type, fmt::format("'{}'", written_text(*s.target)));
}

/// a ?= b: the reference when the instance is of the wanted kind, else NULL (IEC 61131-3, 6.6.6.6.2).
void StatementChecker::attempt(Statement& s) {
    const auto found = expressions_.target(s.target);
    const TypeRef from = expressions_.infer(s.value);
    if (!found || from.is(E::None)) return;
    const auto carries = [&](const TypeRef& t) {
        return t.is(E::Interface) || (t.is(E::Reference) && logic_.type(t).element.is(E::Block));
    };
    if (!carries(found->type) || !carries(from)) {
        expressions_.error(Code::TypeMismatch, s.span, "'?=' is for interfaces and references to function blocks");
        return;
    }
    const int wanted = found->type.is(E::Interface) ? found->type.index : logic_.type(found->type).element.index;
    const int source = from.is(E::Interface) ? from.index : logic_.type(from).element.index;
    for (const int b : {wanted, source}) {
        if (logic_.block(b).kind == LayoutKind::FunctionBlock && !logic_.block(b).tagged) {
            expressions_.error(
                Code::TypeMismatch, s.span,
                fmt::format("'{}' has no methods and nothing extends it; assign with ':='", logic_.block(b).name));
            return;
        }
    }
}

/// Remembers what is called, and of timers that they are called here.
void StatementChecker::note_instance(const Expression& e) {
    if (e.call != CallKind::Block || e.operands[0]->kind != ExpressionKind::Name) return;
    const Field* field = scope_.look(e.operands[0]->name);
    if (field == nullptr) return;
    called_.instances.insert(field);
    const Layout& block = logic_.block(e.detail);
    if (conditions_ > 0 && logic_.holds_timer(e.detail))
        timer_calls_.push_back({field, e.span, e.name, block.name, block.standard.has_value()});
}

/// Timers that some way through the body leaves out: they stand still then.
void StatementChecker::warn_timers() {
    std::set<const Field*> said;  // once each, at the first place
    for (const TimerCall& t : timer_calls_) {
        if (called_.instances.contains(t.field) || !said.insert(t.field).second) continue;
        checking_.warning(
            source_, t.span, Code::ConditionalTimer,
            t.timer ? fmt::format("the timer '{}' is called only under a condition and stands still otherwise", t.name)
                    : fmt::format("'{}' is called only under a condition, and the timers in {} stand still otherwise",
                                  t.name, t.block),
            t.timer ? "call it in every scan, with the condition in IN"
                    : "call it in every scan, with the condition in one of its inputs");
    }
}

void StatementChecker::call(Statement& s) {
    if (s.value->kind != ExpressionKind::Call) {
        expressions_.error(Code::Syntax, s.span, "expected a call");
        return;
    }
    const TypeRef type = expressions_.call(s.value, true);
    if (s.value->kind != ExpressionKind::Call) return;  // ADD(a, b); as a statement: harmless
    s.value->type = type;
    note_instance(*s.value);
    if (s.value->call != CallKind::Block || conditions_ > 0) return;
    const Expression& instance = *s.value->operands[0];
    if (instance.kind != ExpressionKind::Name) return;
    if (const auto found = scope_.find(instance.name, instance.span, Use::Write))
        note_writer(instance, *found, true, false);
    for (const Argument& a : s.value->arguments) {
        if (!a.output || !a.value || a.value->kind != ExpressionKind::Name || !a.value->type.is(E::Bool)) continue;
        if (const auto found = scope_.find(a.value->name, a.value->span, Use::Write))
            note_writer(*a.value, *found, false, false);
    }
}

void StatementChecker::if_statement(Statement& s) {
    EveryWay ways;
    for (Branch& b : s.branches) {
        if (b.condition && check_condition(b.condition)) {
            const Span span = b.condition->span;
            if (fold(*b.condition)) {
                checking_.warning(
                    source_, span, Code::ConstantCondition,
                    fmt::format("this condition is always {}", b.condition->integer != 0 ? "TRUE" : "FALSE"));
            }
        }
        ways.add(nested(b.body), !b.condition);
    }
    called_.add(ways.sure());
}

void StatementChecker::case_label(ExpressionPtr& label, const TypeRef& type) {
    if (!expressions_.check(label, type, "the CASE")) return;
    if (!fold(*label)) expressions_.error(Code::WrongValue, label->span, "a CASE label is a number or a CONSTANT");
}

void StatementChecker::case_statement(Statement& s) {
    Field* selector = nullptr;
    if (s.value->kind == ExpressionKind::Name && scope_.look(s.value->name) != nullptr) {
        if (const auto found = scope_.find(s.value->name, s.value->span, Use::Read)) selector = found->field;
    }
    TypeRef type = expressions_.check_any(s.value);
    const E elementary = type.elementary;
    if (!type.is(E::None) && !is_integer(elementary) && !is_bit_string(elementary)) {
        expressions_.error(Code::TypeMismatch, s.value->span,
                           fmt::format("CASE needs a whole number, not {}", logic_.text_of(type)));
        type = {};
    }
    // A subrange is checked where it is written; labels compare with its base.
    if (logic_.is_subrange(type)) type.index = -1;
    std::vector<std::pair<std::int64_t, std::int64_t>> taken;
    EveryWay ways;
    for (Branch& b : s.branches) {
        bool reachable = b.labels.empty();
        for (CaseLabel& label : b.labels) {
            const int before = checking_.diagnostics.error_count();
            const std::string named = label.low->kind == ExpressionKind::Name ? label.low->name : std::string();
            for (ExpressionPtr* part : {&label.low, &label.high}) {
                if (*part && !type.is(E::None)) case_label(*part, type);
            }
            if (type.is(E::None) || checking_.diagnostics.error_count() > before) {
                reachable = true;
                continue;
            }
            const std::int64_t low = literal_integer(*label.low);
            const std::int64_t high = label.high ? literal_integer(*label.high) : low;
            const bool covered = low > high || std::any_of(taken.begin(), taken.end(), [&](const auto& t) {
                                     return t.first <= low && high <= t.second;
                                 });
            if (covered)
                checking_.warning(source_, label.low->span, Code::UnreachableCase,
                                  low > high ? "this range holds no value"
                                             : "this label is never reached: one above takes its values");
            if (selector != nullptr && !named.empty() && low == high) selector->case_names.emplace(low, named);
            reachable = reachable || !covered;
            taken.emplace_back(low, high);
        }
        ways.add(nested(b.body), b.labels.empty());
    }
    called_.add(ways.sure());
}

void StatementChecker::for_statement(Statement& s) {
    const auto found = expressions_.target(s.target);
    if (found && !is_integer(found->type.elementary)) {
        expressions_.error(Code::TypeMismatch, s.target->span,
                           fmt::format("FOR counts with a whole number, '{}' is {}", written_text(*s.target),
                                       logic_.text_of(found->type)));
    } else if (found) {
        if (found->field != nullptr) found->field->read = true;
        const TypeRef type{found->type.elementary, -1};
        expressions_.check(s.value, type, "the start of FOR");
        expressions_.check(s.limit, type, "the end of FOR");
        if (s.step && expressions_.check(s.step, type, "the step of FOR")) fold(*s.step);
    }
    loop(s);
}

}  // namespace vyard::logic
