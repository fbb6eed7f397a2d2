// Files: program units, declarations, statements.
#include "core/logic/parser.hpp"

#include <fmt/format.h>

#include <optional>
#include <set>

#include "core/logic/token_cursor.hpp"

namespace vyard::logic {

namespace {

using base::Code;

const std::vector<std::string>& statement_words() {
    static const std::vector<std::string> words = {
        "IF",        "CASE",   "FOR",        "WHILE",    "REPEAT",      "EXIT",
        "RETURN",    "END_IF", "ELSIF",      "ELSE",     "END_CASE",    "END_FOR",
        "END_WHILE", "UNTIL",  "END_REPEAT", "CONTINUE", "END_PROGRAM", "END_FUNCTION_BLOCK"};
    return words;
}

class FileParser final : public ExpressionParser {
  public:
    using ExpressionParser::ExpressionParser;

    SyntaxFile file() {
        SyntaxFile out;
        out.source = source_;
        while (current().kind != TokenKind::End) {
            if (accept_word("program")) {
                unit(out, UnitKind::Program, "end_program");
            } else if (accept_word("function_block")) {
                unit(out, UnitKind::FunctionBlock, "end_function_block");
            } else if (is_word("var_global")) {
                declarations(out.globals);
            } else {
                unknown_at_top();
            }
        }
        return out;
    }

  private:
    // --- declarations ---
    void unknown_at_top() {
        if (current().kind == TokenKind::Identifier) {
            const std::string word = base::fold(current().text);
            static const std::set<std::string> known_elsewhere = {"function",  "type",          "class",   "interface",
                                                                  "namespace", "configuration", "resource"};
            if (known_elsewhere.contains(word)) {
                error(Code::NotSupported, current().span,
                      fmt::format("{} is not supported by this version", current().text),
                      "supported: PROGRAM, FUNCTION_BLOCK, VAR_GLOBAL");
                const std::string end = "end_" + word;
                while (!at_end() && !is_word(end)) ++at_;
                skip();
                return;
            }
            error_here(fmt::format("expected a program unit, found {}", found_text()),
                       base::name_hint(current().text, {"PROGRAM", "FUNCTION_BLOCK", "VAR_GLOBAL"}));
        } else {
            error_here(fmt::format("expected a program unit, found {}", found_text()),
                       "known: PROGRAM, FUNCTION_BLOCK, VAR_GLOBAL");
        }
        skip();
        while (!at_end() && !is_word("program") && !is_word("function_block") && !is_word("var_global")) ++at_;
    }

    void unit(SyntaxFile& out, UnitKind kind, std::string_view end_word) {
        ProgramUnit unit;
        unit.kind = kind;
        unit.source = source_;
        unit.span = current().span;
        if (const auto name = identifier("a name")) unit.name = *name;
        while (current().kind == TokenKind::Identifier && base::fold(current().text).starts_with("var")) {
            if (!section_of(base::fold(current().text))) {
                const std::string word = base::fold(current().text);
                if (word != "var_temp" && word != "var_in_out" && word != "var_access" && word != "var_config") break;
                error(Code::NotSupported, current().span,
                      fmt::format("{} is not supported by this version", current().text),
                      "supported: VAR, VAR_INPUT, VAR_OUTPUT, VAR_EXTERNAL, VAR_GLOBAL");
                while (!at_end() && !is_word("end_var")) ++at_;
                skip();
                continue;
            }
            declarations(unit.declarations);
        }
        unit.body = statements();
        if (!accept_word(end_word)) {
            error_here(
                fmt::format("expected {} for '{}', found {}",
                            kind == UnitKind::Program ? "END_PROGRAM" : "END_FUNCTION_BLOCK", unit.name, found_text()),
                base::name_hint(current().text, statement_words()));
            while (!at_end() && !is_word(end_word) && !is_word("program") && !is_word("function_block")) ++at_;
            accept_word(end_word);
        }
        out.units.push_back(std::move(unit));
    }

    static std::optional<Section> section_of(const std::string& folded) {
        if (folded == "var") return Section::Local;
        if (folded == "var_input") return Section::Input;
        if (folded == "var_output") return Section::Output;
        if (folded == "var_global") return Section::Global;
        if (folded == "var_external") return Section::External;
        return std::nullopt;
    }

    std::optional<std::string> identifier(const char* what) {
        if (current().kind == TokenKind::Identifier && !is_reserved(base::fold(current().text))) {
            return std::string(tokens_[at_++].text);
        }
        error_here(fmt::format("expected {}, found {}", what, found_text()),
                   current().kind == TokenKind::Identifier ? "this word is reserved" : "");
        return std::nullopt;
    }

    void declarations(std::vector<Declaration>& out) {
        const Section section = *section_of(base::fold(current().text));
        ++at_;
        bool constant = false;
        for (;;) {
            if (accept_word("constant")) {
                constant = true;
            } else if (is_word("retain") || is_word("non_retain")) {
                if (is_word("retain")) {
                    error(Code::NotSupported, current().span, "RETAIN is not supported by this version",
                          "leave it out: a run starts cold");
                }
                ++at_;
            } else {
                break;
            }
        }
        while (!at_end() && !is_word("end_var")) {
            if (is_statement_end() || is_word("var") || starts_if()) {
                error_here("expected END_VAR before this");
                return;
            }
            declaration(out, section, constant);
        }
        skip();
    }

    /// IF with a condition behind it, not a variable that somebody named "if".
    bool starts_if() const {
        const Token& next = tokens_[std::min(at_ + 1, tokens_.size() - 1)];
        return is_word("if") && !(next.kind == TokenKind::Symbol && (next.text == ":" || next.text == ","));
    }

    void declaration(std::vector<Declaration>& out, Section section, bool constant) {
        const std::size_t first = out.size();
        do {
            Declaration d;
            d.section = section;
            d.constant = constant;
            d.span = current().span;
            const auto name = identifier("a variable name");
            if (!name) {
                skip_declaration();
                return;
            }
            d.name = *name;
            if (accept_word("at")) {
                d.address_span = current().span;
                if (current().kind == TokenKind::DirectAddress) {
                    d.address = std::string(current().text);
                    ++at_;
                } else {
                    error_here(fmt::format("expected an address such as %IX0.0, found {}", found_text()));
                }
            }
            out.push_back(std::move(d));
        } while (accept(","));
        if (!expect(":")) {
            skip_declaration();
            return;
        }
        const Span type_span = current().span;
        std::string type;
        if (current().kind == TokenKind::Identifier) {
            type = std::string(current().text);
            ++at_;
        } else {
            error_here(fmt::format("expected a type, found {}", found_text()));
            skip_declaration();
            return;
        }
        for (std::size_t i = first; i < out.size(); ++i) {
            out[i].type_name = type;
            out[i].type_span = type_span;
        }
        if (accept(":=")) {
            const std::size_t start = at_;
            for (std::size_t i = first; i < out.size(); ++i) {
                at_ = start;
                out[i].initial = expression();
            }
        } else if (is_symbol("=")) {
            error_here("expected ':=' before an initial value, found '='", "an assignment is written ':='");
            skip_declaration();
            return;
        }
        if (!is_symbol(";")) {
            const bool next_line = current().span.line > previous().span.line;
            error(Code::Syntax, next_line ? behind_previous() : current().span,
                  fmt::format("expected ';' at the end of the declaration{}",
                              next_line ? "" : ", found " + found_text()));
            if (!next_line) skip_declaration();
            return;
        }
        ++at_;
        describe(out, first);
    }

    /// The comment that follows on the same line describes the variable.
    void describe(std::vector<Declaration>& out, std::size_t first) {
        const Token& end = previous();
        const std::string_view line = source_->line(end.span.line);
        const auto behind = static_cast<std::size_t>(end.span.column);
        if (behind > line.size()) return;
        std::string_view rest = line.substr(behind);
        std::string_view close;
        if (const std::size_t open = rest.find_first_not_of(" \t"); open != std::string_view::npos)
            rest.remove_prefix(open);
        if (rest.starts_with("//")) {
            rest.remove_prefix(2);
        } else if (rest.starts_with("(*")) {
            rest.remove_prefix(2);
            close = "*)";
        } else {
            return;
        }
        if (!close.empty()) rest = rest.substr(0, rest.find(close));
        while (!rest.empty() && rest.front() == ' ') rest.remove_prefix(1);
        while (!rest.empty() && rest.back() == ' ') rest.remove_suffix(1);
        for (std::size_t i = first; i < out.size(); ++i) out[i].description = rest;
    }

    void skip_declaration() {
        while (!at_end() && !is_word("end_var") && !is_statement_end()) {
            if (accept(";")) return;
            ++at_;
        }
    }

    // --- statements ---
    StatementList statements() {
        StatementList list;
        const DepthGuard guard(depth_);
        if (too_deep(current().span)) {
            while (!at_end() && !is_word("end_program") && !is_word("end_function_block")) ++at_;
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
    bool at_case_label() const {
        if (case_depth_ == 0) return false;
        std::size_t i = at_;
        if (tokens_[i].kind == TokenKind::Symbol && (tokens_[i].text == "-" || tokens_[i].text == "+")) ++i;
        const Token& t = tokens_[i];
        const bool constant = t.kind == TokenKind::Integer || t.kind == TokenKind::Time;
        if (!constant && (t.kind != TokenKind::Identifier || i + 1 >= tokens_.size())) return false;
        const Token& next = tokens_[std::min(i + 1, tokens_.size() - 1)];
        return constant ||
               (next.kind == TokenKind::Symbol && (next.text == ":" || next.text == "," || next.text == ".."));
    }

    void statement(StatementList& list) {
        if (accept(";")) return;
        Statement s;
        s.span = current().span;
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

    void assignment_or_call(StatementList& list, Statement s) {
        const bool name_first = current().kind == TokenKind::Identifier && !is_reserved(base::fold(current().text));
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
        if (is_symbol("=")) {
            error(Code::Syntax, current().span, "expected ':=', found '='", "an assignment is written ':='");
            ++at_;
        } else if (!accept(":=")) {
            const bool alone = is_symbol(";") || current().span.line > previous().span.line;
            error(Code::Syntax, alone ? s.span : current().span,
                  alone ? fmt::format("'{}' alone is no statement; expected ':=' or a call", left->name)
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

    void if_statement(StatementList& list, Statement s) {
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
    StatementList nested() {
        const int outer = case_depth_;
        case_depth_ = 0;
        StatementList body = statements();
        case_depth_ = outer;
        return body;
    }

    void close(std::string_view end_word, Span opened, const char* what) {
        if (accept_word(end_word)) {
            accept(";");
            return;
        }
        std::string upper(end_word);
        for (char& c : upper) c = static_cast<char>(c >= 'a' && c <= 'z' ? c - 'a' + 'A' : c);
        error_here(fmt::format("expected {} for the {} of line {}, found {}", upper, what, opened.line, found_text()));
    }

    void case_statement(StatementList& list, Statement s) {
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

    void loop_body(Statement& s) {
        Branch branch;
        branch.body = nested();
        s.branches.push_back(std::move(branch));
    }

    void for_statement(StatementList& list, Statement s) {
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

    void while_statement(StatementList& list, Statement s) {
        s.kind = StatementKind::While;
        s.value = expression();
        expect_word("do");
        loop_body(s);
        close("end_while", s.span, "WHILE");
        if (s.value) list.push_back(std::move(s));
    }

    void repeat_statement(StatementList& list, Statement s) {
        s.kind = StatementKind::Repeat;
        loop_body(s);
        expect_word("until");
        s.value = expression();
        close("end_repeat", s.span, "REPEAT");
        if (s.value) list.push_back(std::move(s));
    }

    int case_depth_ = 0;
};

}  // namespace

SyntaxFile parse_file(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    const std::vector<Token> tokens = tokenize(source, diagnostics);
    return FileParser(source, tokens, 0, diagnostics).file();
}

}  // namespace vyard::logic
