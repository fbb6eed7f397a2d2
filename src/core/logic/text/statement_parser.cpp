// Statements of Structured Text.
#include "core/logic/text/parsers.hpp"

namespace vyard::logic {

using base::Code;

const std::vector<std::string>& StatementParser::statement_words() {
    static const std::vector<std::string> words = {
        "IF",        "CASE",   "FOR",        "WHILE",    "REPEAT",      "EXIT",
        "RETURN",    "END_IF", "ELSIF",      "ELSE",     "END_CASE",    "END_FOR",
        "END_WHILE", "UNTIL",  "END_REPEAT", "CONTINUE", "END_PROGRAM", "END_FUNCTION_BLOCK"};
    return words;
}

StatementList StatementParser::statements() {
    StatementList list;
    const DepthGuard guard(depth_);
    if (too_deep(current().span)) {
        while (!at_end() && !is_word("end_program") && !is_word("end_function_block") && !is_word("end_function") &&
               !is_word("end_method"))
            ++at_;
        return list;
    }
    while (!at_end() && !is_statement_end() && !at_case_label()) {
        const std::size_t before = at_;
        statement(list);
        if (at_ == before) skip();
    }
    return list;
}

/// Inside CASE: the next element starts with a constant, or a name, followed by ',' '..' or ':'.
bool StatementParser::at_case_label() const {
    if (case_depth_ == 0) return false;
    std::size_t i = at_;
    if (tokens_[i].kind == TokenKind::Symbol && (tokens_[i].text == "-" || tokens_[i].text == "+")) ++i;
    const Token& t = tokens_[i];
    const bool constant = t.kind == TokenKind::Integer || t.kind == TokenKind::Time;
    if (t.kind == TokenKind::TypedName) return true;
    if (t.kind == TokenKind::Identifier) {
        while (symbol_at(i + 1, ".") && i + 2 < tokens_.size()) i += 2;  // Colour.Red
    } else if (!constant) {
        return false;
    }
    const Token& next = tokens_[std::min(i + 1, tokens_.size() - 1)];
    return constant || (next.kind == TokenKind::Symbol && (next.text == ":" || next.text == "," || next.text == ".."));
}

void StatementParser::statement(StatementList& list) {
    if (accept(";")) return;
    Statement s;
    s.span = current().span;
    if (current().kind == TokenKind::Drawing) return drawing(list, std::move(s));
    if (accept_word("if")) return if_statement(list, std::move(s));
    if (accept_word("case")) return case_statement(list, std::move(s));
    if (accept_word("for")) return for_statement(list, std::move(s));
    if (accept_word("while")) return while_statement(list, std::move(s));
    if (accept_word("repeat")) return repeat_statement(list, std::move(s));
    if (is_word("exit") || is_word("return") || is_word("continue")) {
        s.kind = is_word("exit")     ? StatementKind::Exit
                 : is_word("return") ? StatementKind::Return
                                     : StatementKind::Continue;
        ++at_;
        expect_semicolon();
        list.push_back(std::move(s));
        return;
    }
    assignment_or_call(list, std::move(s));
}

/// What is drawn is read later, when all that the units declare is known.
void StatementParser::drawing(StatementList& list, Statement s) {
    s.kind = StatementKind::Drawn;
    s.drawing = std::make_shared<Drawing>(drawing_of(current(), *source_));
    skip();
    accept(";");
    list.push_back(std::move(s));
}

void StatementParser::assignment_or_call(StatementList& list, Statement s) {
    const bool name_first = current().kind == TokenKind::Identifier &&
                            (is_word("this") || is_word("super") || !is_reserved(base::fold(current().text)));
    if (!name_first && current().kind != TokenKind::DirectAddress) {
        error_here(fmt::format("expected a statement, found {}", found_text()));
        skip();
        synchronize();
        return;
    }
    ExpressionPtr left = primary();
    if (!left) return synchronize();
    if (left->kind == ExpressionKind::Call) {
        s.kind = StatementKind::Call;
        s.value = std::move(left);
        expect_semicolon();
        list.push_back(std::move(s));
        return;
    }
    if (is_word("ref") && symbol_at(at_ + 1, "=")) {
        at_ += 2;
        s.kind = StatementKind::AssignReference;
    } else if (accept("?=")) {
        s.kind = StatementKind::Attempt;
    } else if (is_symbol("=")) {
        error(Code::Syntax, current().span, "expected ':=', found '='", "an assignment is written ':='");
        ++at_;
    } else if (!accept(":=")) {
        const std::string dotted = dotted_name(*left);
        const std::string name = dotted.empty() ? written_text(*left) : dotted;
        const bool alone = is_symbol(";") || current().span.line > previous().span.line;
        error(Code::Syntax, alone ? s.span : current().span,
              alone ? fmt::format("'{}' alone is not a statement; expected ':=' or a call", name)
                    : fmt::format("expected ':=' or '(', found {}", found_text()),
              base::nearest_name(left->name, statement_words()).empty()
                  ? ""
                  : base::name_hint(left->name, statement_words()));
        return synchronize();
    }
    s.target = std::move(left);
    s.value = expression();
    if (!s.value) return synchronize();
    expect_semicolon();
    list.push_back(std::move(s));
}

void StatementParser::if_statement(StatementList& list, Statement s) {
    s.kind = StatementKind::If;
    do {
        Branch branch;
        branch.condition = expression();
        if (!accept_word("then")) {
            if (branch.condition) error_here(fmt::format("expected THEN, found {}", found_text()));
            if (is_symbol(":=")) {  // IF a := b THEN
                while (!at_end() && !is_word("then") && !is_symbol(";")) ++at_;
                accept_word("then");
            } else if (!branch.condition) {
                while (!at_end() && !is_word("then") && !is_symbol(";") && !is_statement_end()) ++at_;
                accept_word("then");
            }
        }
        branch.body = nested();
        s.branches.push_back(std::move(branch));
    } while (accept_word("elsif"));
    if (accept_word("else")) {
        Branch branch;
        branch.body = nested();
        s.branches.push_back(std::move(branch));
    }
    close("end_if", s.span, "IF");
    list.push_back(std::move(s));
}

/// A body inside IF or a loop: CASE labels of an outer CASE do not end it.
StatementList StatementParser::nested() {
    const int outer = case_depth_;
    case_depth_ = 0;
    StatementList body = statements();
    case_depth_ = outer;
    return body;
}

void StatementParser::close(std::string_view end_word, Span opened, const char* what) {
    if (accept_word(end_word)) {
        accept(";");
        return;
    }
    error_here(
        fmt::format("expected {} for the {} of line {}, found {}", upper(end_word), what, opened.line, found_text()));
}

void StatementParser::case_statement(StatementList& list, Statement s) {
    s.kind = StatementKind::Case;
    s.value = expression();
    expect_word("of");
    const int outer = case_depth_;
    while (!at_end() && !is_statement_end()) {
        Branch branch;
        case_depth_ = 0;
        do {
            CaseLabel label;
            label.low = binary(kAdditive);
            if (accept("..")) label.high = binary(kAdditive);
            if (!label.low) break;
            branch.labels.push_back(std::move(label));
        } while (accept(","));
        if (branch.labels.empty() || !expect(":")) {
            synchronize();
            if (branch.labels.empty()) continue;
        }
        case_depth_ = 1;
        branch.body = statements();
        s.branches.push_back(std::move(branch));
    }
    case_depth_ = outer;
    if (accept_word("else")) {
        Branch branch;
        branch.body = nested();
        s.branches.push_back(std::move(branch));
    }
    close("end_case", s.span, "CASE");
    if (s.value) list.push_back(std::move(s));
}

void StatementParser::loop_body(Statement& s) {
    Branch branch;
    branch.body = nested();
    s.branches.push_back(std::move(branch));
}

void StatementParser::for_statement(StatementList& list, Statement s) {
    s.kind = StatementKind::For;
    s.target = primary();
    expect(":=");
    s.value = expression();
    expect_word("to");
    s.limit = expression();
    if (accept_word("by")) s.step = expression();
    expect_word("do");
    loop_body(s);
    close("end_for", s.span, "FOR");
    if (s.target && s.value && s.limit) list.push_back(std::move(s));
}

void StatementParser::while_statement(StatementList& list, Statement s) {
    s.kind = StatementKind::While;
    s.value = expression();
    expect_word("do");
    loop_body(s);
    close("end_while", s.span, "WHILE");
    if (s.value) list.push_back(std::move(s));
}

void StatementParser::repeat_statement(StatementList& list, Statement s) {
    s.kind = StatementKind::Repeat;
    loop_body(s);
    expect_word("until");
    s.value = expression();
    close("end_repeat", s.span, "REPEAT");
    if (s.value) list.push_back(std::move(s));
}

}  // namespace vyard::logic
