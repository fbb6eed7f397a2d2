#include "core/logic/code/statement_writer.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/logic/check/constants.hpp"
#include "core/logic/infix_text.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

/// Whether what follows a statement may be left out because of it.
bool may_leave(const Statement& s) {
    switch (s.kind) {
        case StatementKind::Exit:
        case StatementKind::Continue:
        case StatementKind::Return:
        case StatementKind::Jump: return true;
        default: break;
    }
    return std::any_of(s.branches.begin(), s.branches.end(),
                       [](const Branch& b) { return std::any_of(b.body.begin(), b.body.end(), may_leave); });
}

std::string labels_text(const Branch& b) {
    if (b.labels.empty()) return "ELSE";
    std::string out = "CASE ";
    for (const CaseLabel& label : b.labels) {
        if (&label != &b.labels.front()) out += ", ";
        out += infix_text(*label.low);
        if (label.high) out += ".." + infix_text(*label.high);
    }
    return out;
}

}  // namespace

void StatementWriter::unit(const StatementList& list, const std::string& name, Span span) {
    unit_ = name;
    branch(list, "body", span);
    for (const std::uint32_t jump : returns_) writer_.land(jump, writer_.here());
}

std::uint32_t StatementWriter::reserve_marks(std::uint32_t bytes) {
    if (cover_->used + bytes > CoverList::kTogether) {
        cover_->begin = writer_.keep(CoverList::kTogether);
        cover_->used = 0;
    }
    const std::uint32_t byte = cover_->begin + cover_->used;
    cover_->used += bytes;
    return byte;
}

void StatementWriter::add_mark(const std::string& what, Span span, std::uint32_t byte) {
    cover_->marks.push_back({unit_, network_ > 0 && what == "IF" ? "power" : what, writer_.source, span, byte});
    current_ = static_cast<int>(cover_->marks.size()) - 1;
}

void StatementWriter::mark(const std::string& what, Span span) {
    if (cover_ == nullptr) return;
    const std::uint32_t byte = reserve_marks(1);
    writer_.emit(Op::Move8, byte, writer_.constant_integer(E::Usint, 1), 0, span);
    add_mark(what, span, byte);
}

void StatementWriter::marked_branch(const StatementList& list, const std::string& what, Span span, std::uint32_t byte) {
    const int around = current_;
    add_mark(what, span, byte);
    body(list);
    current_ = around;
}

/// A list of statements that may or may not be executed.
void StatementWriter::branch(const StatementList& list, const std::string& what, Span span) {
    const int around = current_;
    mark(what, span);
    body(list);
    current_ = around;
}

void StatementWriter::note_line(const Statement& s) {
    const bool real = s.kind != StatementKind::Drawn && s.kind != StatementKind::Label && !s.generated;
    if (cover_ != nullptr && real) cover_->lines.push_back({unit_, writer_.source, s.span.line, network_, current_});
}

void StatementWriter::body(const StatementList& list) {
    for (const Statement& s : list) {
        writer_.release_temporaries();
        const int around = network_;
        if (s.network > 0) network_ = s.network;
        note_line(s);
        statement(s);
        network_ = around;
        const bool more = &s != &list.back();
        if (cover_ != nullptr && more && s.kind != StatementKind::Drawn && may_leave(s))
            mark("behind a jump", (&s + 1)->span);
    }
}

void StatementWriter::statement(const Statement& s) {
    switch (s.kind) {
        case StatementKind::Assign:
        case StatementKind::AssignReference: {
            const TypeRef& type = s.target->type;
            // An index in the target is worked out first, as it is written first.
            const Place to = expressions_.place(*s.target);
            return expressions_.store(to, type, *s.value);
        }
        case StatementKind::Attempt: {
            const TypeRef& type = s.target->type;
            const int wanted = type.is(E::Interface) ? type.index : logic_.type(type).element.index;
            return expressions_.attempt(expressions_.place(*s.target), *s.value, wanted);
        }
        case StatementKind::Call: return expressions_.call_statement(*s.value);
        case StatementKind::If: return if_statement(s);
        case StatementKind::Case: return case_statement(s);
        case StatementKind::For: return for_statement(s);
        case StatementKind::While: return while_statement(s);
        case StatementKind::Repeat: return repeat_statement(s);
        case StatementKind::Exit: loops_.back().exits.push_back(jump(s.span)); return;
        case StatementKind::Continue: loops_.back().continues.push_back(jump(s.span)); return;
        case StatementKind::Return: returns_.push_back(jump(s.span)); return;
        case StatementKind::Drawn: return drawing(s);
        case StatementKind::Label:
            labels_.back().places[base::fold(s.name)] = writer_.here();
            return mark("behind a label", s.span);
        case StatementKind::Jump: return jump_statement(s);
    }
}

/// A jump back counts as a turn of a loop.
void StatementWriter::jump_statement(const Statement& s) {
    const std::string label = base::fold(s.name);
    const auto behind = labels_.back().places.find(label);
    if (behind != labels_.back().places.end()) return loop_back(behind->second, s.span);
    labels_.back().jumps.emplace_back(label, jump(s.span));
}

/// Jumps lead to labels of the same drawing.
void StatementWriter::drawing(const Statement& s) {
    labels_.emplace_back();
    for (const Branch& b : s.branches) body(b.body);
    for (const auto& [label, instruction] : labels_.back().jumps)
        writer_.land(instruction, labels_.back().places.at(label));
    labels_.pop_back();
}

void StatementWriter::if_statement(const Statement& s) {
    // What does both in one go has no branch to mark.
    if (cover_ == nullptr && s.branches.size() == 1 && s.branches[0].condition) {
        const Branch& only = s.branches[0];
        if (expressions_.latch(*only.condition, only.body) || expressions_.move_if(*only.condition, only.body)) return;
    }
    std::vector<std::uint32_t> ends;
    const bool marked = cover_ != nullptr && !(s.generated && s.name.empty());
    std::uint32_t marks = 0;  // of the last condition: that it held, that it did not
    for (std::size_t i = 0; i < s.branches.size(); ++i) {
        const Branch& b = s.branches[i];
        writer_.release_temporaries();
        const bool last = i + 1 == s.branches.size();
        if (!b.condition) {
            const Span span = b.body.empty() ? s.span : b.body.front().span;
            marked ? marked_branch(b.body, "ELSE", span, marks + 1) : body(b.body);
            break;
        }
        const std::uint32_t skip = expressions_.jump_unless(*b.condition);
        if (marked) {
            marks = reserve_marks(2);
            writer_.mark_jump(skip, marks);
            const std::string what = s.generated ? fmt::format("action {}", s.name) : i == 0 ? "IF" : "ELSIF";
            marked_branch(b.body, what, b.condition->span, marks);
        } else {
            body(b.body);
        }
        if (!last) ends.push_back(jump(s.span));
        writer_.land(skip, writer_.here());
    }
    for (const std::uint32_t end : ends) writer_.land(end, writer_.here());
}

namespace {

constexpr std::int64_t kWidestTable = 256;  ///< Targets of one Select; sparse labels are compared one by one.

}  // namespace

/// Labels that lie close together become one operation that goes straight to the right place.
bool StatementWriter::case_table(const Statement& s, std::uint32_t selector, E type) {
    std::int64_t low = INT64_MAX, high = INT64_MIN, labels = 0;
    for (const Branch& b : s.branches) {
        for (const CaseLabel& label : b.labels) {
            const std::int64_t from = literal_integer(*label.low);
            const std::int64_t to = label.high ? literal_integer(*label.high) : from;
            low = std::min(low, from);
            high = std::max(high, to);
            ++labels;
        }
    }
    if (labels < 3 || type == E::Ulint || type == E::Lword || high < low) return false;
    const auto width = static_cast<std::uint64_t>(high) - static_cast<std::uint64_t>(low);
    if (width >= static_cast<std::uint64_t>(kWidestTable)) return false;
    const auto count = static_cast<std::uint32_t>(width) + 1;
    const std::uint32_t at = writer_.emit(pick(Op::SelectI8, type), 0, selector, writer_.constant_integer(E::Lint, low),
                                          s.value->span, count);
    for (std::uint32_t i = 0; i < count; i += 4) writer_.operands(0);
    std::vector<std::uint32_t> targets(count, UINT32_MAX);
    std::vector<std::uint32_t> ends;
    std::uint32_t otherwise = UINT32_MAX;
    for (const Branch& b : s.branches) {
        if (b.labels.empty()) otherwise = writer_.here();
        for (const CaseLabel& label : b.labels) {
            const std::int64_t from = literal_integer(*label.low);
            const std::int64_t to = label.high ? literal_integer(*label.high) : from;
            for (std::int64_t v = from; v <= to; ++v) {
                std::uint32_t& target = base::at(targets, v - low);
                if (target == UINT32_MAX) target = writer_.here();  // the first label wins
            }
        }
        branch(b.body, labels_text(b), b.labels.empty() ? s.span : b.labels[0].low->span);
        if (&b != &s.branches.back()) ends.push_back(jump(s.span));
    }
    for (const std::uint32_t end : ends) writer_.land(end, writer_.here());
    if (otherwise == UINT32_MAX) otherwise = writer_.here();
    writer_.code[at].dst = otherwise;
    for (std::uint32_t i = 0; i < count; ++i) {
        Instruction& slot = writer_.code[at + 1 + i / 4];
        const std::uint32_t target = targets[i] == UINT32_MAX ? otherwise : targets[i];
        (i % 4 == 0 ? slot.head : i % 4 == 1 ? slot.dst : i % 4 == 2 ? slot.a : slot.b) = target;
    }
    return true;
}

void StatementWriter::case_statement(const Statement& s) {
    const E type = s.value->type.elementary;
    std::uint32_t selector = expressions_.value(*s.value);
    if (case_table(s, selector, type)) return;
    if (writer_.is_temporary(selector)) {
        const std::uint32_t kept = writer_.keep(8);  // bodies reuse the temporaries
        expressions_.move(type, kept, selector, s.value->span);
        selector = kept;
    }
    std::vector<std::uint32_t> ends;
    for (const Branch& b : s.branches) {
        if (b.labels.empty()) {
            branch(b.body, labels_text(b), s.span);
            continue;
        }
        std::vector<std::uint32_t> hits;
        for (const CaseLabel& label : b.labels) {
            writer_.release_temporaries();
            hits.push_back(case_test(label, selector, type));
        }
        const std::uint32_t miss = jump(s.span);
        for (const std::uint32_t hit : hits) writer_.land(hit, writer_.here());
        branch(b.body, labels_text(b), b.labels[0].low->span);
        ends.push_back(jump(s.span));
        writer_.land(miss, writer_.here());
    }
    for (const std::uint32_t end : ends) writer_.land(end, writer_.here());
}

std::uint32_t StatementWriter::case_test(const CaseLabel& label, std::uint32_t selector, E type) {
    const Span span = label.low->span;
    const std::uint32_t hit = writer_.temporary();
    if (!label.high) {
        writer_.emit(pick(Op::EqualI8, type), hit, selector, expressions_.value(*label.low), span);
    } else {
        const std::uint32_t below = writer_.temporary();
        writer_.emit(pick(Op::LessEqualI8, type), hit, expressions_.value(*label.low), selector, span);
        writer_.emit(pick(Op::LessEqualI8, type), below, selector, expressions_.value(*label.high), span);
        writer_.emit(Op::BoolAnd, hit, hit, below, span);
    }
    return writer_.emit(Op::JumpIf, 0, 0, hit, span);
}

// --- loops ---

/// A turn costs what stands in it.
void StatementWriter::loop_back(std::uint32_t top, Span span) {
    writer_.emit(Op::LoopBack, 0, top, writer_.here() - top + 1, span);
}

void StatementWriter::loop_body(const Statement& s) {
    loops_.emplace_back();
    branch(s.branches[0].body, "loop", s.span);
    writer_.release_temporaries();
    for (const std::uint32_t c : loops_.back().continues) writer_.land(c, writer_.here());
}

void StatementWriter::end_loop() {
    for (const std::uint32_t e : loops_.back().exits) writer_.land(e, writer_.here());
    loops_.pop_back();
}

void StatementWriter::while_statement(const Statement& s) {
    const std::uint32_t top = writer_.here();
    const std::uint32_t leave = expressions_.jump_unless(*s.value);
    loop_body(s);
    loop_back(top, s.span);
    writer_.land(leave, writer_.here());
    end_loop();
}

void StatementWriter::repeat_statement(const Statement& s) {
    const std::uint32_t top = writer_.here();
    loop_body(s);
    const std::uint32_t condition = expressions_.value(*s.value);
    const std::uint32_t leave = writer_.emit(Op::JumpIf, 0, 0, condition, s.span);
    loop_back(top, s.span);
    writer_.land(leave, writer_.here());
    end_loop();
}

/// Limit and step are taken once, at the start. A counter that would pass the end of its type leaves the loop.
void StatementWriter::for_statement(const Statement& s) {
    const TypeRef target_type{s.target->type.elementary, -1};
    const E type = target_type.elementary;
    const Place variable = expressions_.place(*s.target);
    const bool direct = !variable.indirect;
    const std::uint32_t counter = direct ? variable.at : writer_.keep(8);
    const std::uint32_t limit = writer_.keep(8), step = writer_.keep(8), test = writer_.keep(8), next = writer_.keep(8);
    std::uint32_t kept_address = 0;
    if (!direct) {
        kept_address = writer_.keep(8);
        writer_.emit(Op::Move32, kept_address, variable.at, 0, s.span);
    }
    const Place kept{kept_address, true, variable.displacement, -1};
    const auto publish = [&] {
        if (!direct)
            writer_.emit(pick_size(Op::StoreIndirect8, type_size(type)), kept.at, counter, kept.displacement, s.span);
    };
    expressions_.into(*s.limit, limit);
    if (s.step) {
        expressions_.into(*s.step, step);
    } else {
        expressions_.move(type, step, writer_.constant_integer(type, 1), s.span);
    }
    expressions_.into(*s.value, counter);
    publish();
    const std::uint32_t zero = writer_.constant_integer(type, 0);
    const std::uint32_t top = writer_.here();
    const auto compare_by_direction = [&](Op family, std::uint32_t low, std::uint32_t high) {
        const bool known = !s.step || s.step->kind == ExpressionKind::Literal;
        const bool down = known && s.step && s.step->negative;
        if (known) {
            writer_.emit(pick(family, type), test, down ? high : low, down ? low : high, s.span);
            return;
        }
        writer_.emit(pick(Op::LessI8, type), test, step, zero, s.span);
        const std::uint32_t downwards = writer_.emit(Op::JumpIf, 0, 0, test, s.span);
        writer_.emit(pick(family, type), test, low, high, s.span);
        const std::uint32_t join = jump(s.span);
        writer_.land(downwards, writer_.here());
        writer_.emit(pick(family, type), test, high, low, s.span);
        writer_.land(join, writer_.here());
    };
    compare_by_direction(Op::LessEqualI8, counter, limit);
    const std::uint32_t leave = writer_.emit(Op::JumpUnless, 0, 0, test, s.span);
    loop_body(s);
    if (!direct)
        writer_.emit(pick_size(Op::LoadIndirect8, type_size(type)), counter, kept.at, kept.displacement, s.span);
    writer_.emit(pick(Op::AddI8, type), next, counter, step, s.span);
    compare_by_direction(Op::LessEqualI8, counter, next);
    const std::uint32_t wrapped = writer_.emit(Op::JumpUnless, 0, 0, test, s.span);
    expressions_.move(type, counter, next, s.span);
    publish();
    loop_back(top, s.span);
    writer_.land(leave, writer_.here());
    writer_.land(wrapped, writer_.here());
    end_loop();
}

}  // namespace vyard::logic
