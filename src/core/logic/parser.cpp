#include "core/logic/parser.hpp"

#include <fmt/format.h>

#include <array>
#include <optional>
#include <set>

namespace vyard::logic {

namespace {

using base::Code;

const std::vector<std::string>& statement_words() {
    static const std::vector<std::string> words = {"IF",     "CASE",  "FOR",       "WHILE",      "REPEAT", "EXIT",  "RETURN",
                                                   "END_IF", "ELSIF", "ELSE",      "END_CASE",   "END_FOR", "END_WHILE",
                                                   "UNTIL",  "END_REPEAT", "CONTINUE", "END_PROGRAM", "END_FUNCTION_BLOCK"};
    return words;
}

bool is_reserved(const std::string& folded) {
    static const std::set<std::string> words = {
        "if",  "then",    "elsif",    "else",        "end_if",        "case",  "of",      "end_case",       "for",          "to",
        "by",  "do",      "end_for",  "while",       "end_while",     "repeat", "until",  "end_repeat",     "exit",         "return",
        "var", "end_var", "var_input", "var_output", "var_global",    "var_external",     "program",        "end_program",  "function_block",
        "end_function_block", "and", "or", "xor", "not", "mod", "true", "false", "continue", "constant", "retain", "at"};
    return words.contains(folded);
}

class Parser {
  public:
    Parser(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t at, base::Diagnostics& diagnostics)
        : source_(source), tokens_(tokens), at_(at), diagnostics_(diagnostics) {}

    std::size_t position() const { return at_; }

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

    ExpressionPtr expression() { return binary(0); }

  private:
    // --- tokens ---
    const Token& current() const { return tokens_[at_]; }
    const Token& previous() const { return tokens_[at_ > 0 ? at_ - 1 : 0]; }
    bool at_end() const { return current().kind == TokenKind::End; }
    void skip() {
        if (!at_end()) ++at_;
    }
    bool is_symbol(std::string_view s) const { return current().kind == TokenKind::Symbol && current().text == s; }
    bool is_word(std::string_view folded) const {
        return current().kind == TokenKind::Identifier && current().text.size() == folded.size() && base::fold(current().text) == folded;
    }
    bool accept(std::string_view s) {
        if (!is_symbol(s)) return false;
        ++at_;
        return true;
    }
    bool accept_word(std::string_view folded) {
        if (!is_word(folded)) return false;
        ++at_;
        return true;
    }

    std::string found_text() const {
        if (at_end()) return "the end of the text";
        return fmt::format("'{}'", current().text);
    }
    void error(Code code, Span span, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place_in(source_, span), std::move(message), std::move(hint));
    }
    void error_here(std::string message, std::string hint = {}) {
        if (current().kind == TokenKind::Bad) return;  // the lexer has said it
        error(Code::Syntax, current().span, std::move(message), std::move(hint));
    }
    /// The place right behind the last token: where a missing ';' belongs.
    Span behind_previous() const {
        const Span s = previous().span;
        return {s.line, s.column + s.length, 1};
    }

    bool expect(std::string_view symbol) {
        if (accept(symbol)) return true;
        error_here(fmt::format("expected '{}', found {}", symbol, found_text()));
        return false;
    }
    bool expect_word(std::string_view folded) {
        if (accept_word(folded)) return true;
        std::string upper(folded);
        for (char& c : upper) c = static_cast<char>(c >= 'a' && c <= 'z' ? c - 'a' + 'A' : c);
        error_here(fmt::format("expected {}, found {}", upper, found_text()));
        return false;
    }
    void expect_semicolon() {
        if (accept(";")) {
            while (accept(";")) {}
            return;
        }
        const bool starts_statement = current().kind == TokenKind::Identifier && current().span.line > previous().span.line;
        if (starts_statement || at_end() || is_statement_end()) {
            error(Code::Syntax, behind_previous(), "expected ';' at the end of the statement");
            return;
        }
        error_here(fmt::format("expected ';', found {}", found_text()), is_symbol("=") ? "an assignment is written ':='" : "");
        synchronize();
    }
    bool is_statement_end() const {
        static constexpr std::array<std::string_view, 12> kEnds = {"end_if",  "elsif",     "else",        "end_case",           "end_for", "end_while",
                                                                  "until",   "end_repeat", "end_program", "end_function_block", "program", "function_block"};
        if (current().kind != TokenKind::Identifier) return false;
        const std::string word = base::fold(current().text);
        for (const auto end : kEnds) {
            if (word == end) return true;
        }
        return false;
    }
    /// Skips to behind the next ';', or to a word that starts or ends a statement on a later line.
    void synchronize() {
        const int line = current().span.line;
        while (!at_end()) {
            if (accept(";")) return;
            if (is_statement_end()) return;
            if (current().span.line > line && (is_word("if") || is_word("case") || is_word("for") || is_word("while") || is_word("repeat"))) return;
            ++at_;
        }
    }

    struct DepthGuard {
        int& depth;
        explicit DepthGuard(int& d) : depth(d) { ++depth; }
        ~DepthGuard() { --depth; }
        DepthGuard(const DepthGuard&) = delete;
        DepthGuard& operator=(const DepthGuard&) = delete;
    };
    bool too_deep(Span span) {
        if (depth_ < kMaxDepth) return false;
        if (!depth_reported_) error(Code::TooDeep, span, fmt::format("nested more than {} deep", kMaxDepth), "split it into several statements");
        depth_reported_ = true;
        return true;
    }

    // --- declarations ---
    void unknown_at_top() {
        if (current().kind == TokenKind::Identifier) {
            const std::string word = base::fold(current().text);
            static const std::set<std::string> known_elsewhere = {"function", "type", "class", "interface", "namespace", "configuration", "resource"};
            if (known_elsewhere.contains(word)) {
                error(Code::NotSupported, current().span, fmt::format("{} is not supported by this version", current().text),
                      "supported: PROGRAM, FUNCTION_BLOCK, VAR_GLOBAL");
                const std::string end = "end_" + word;
                while (!at_end() && !is_word(end)) ++at_;
                skip();
                return;
            }
            error_here(fmt::format("expected a program unit, found {}", found_text()),
                       base::name_hint(current().text, {"PROGRAM", "FUNCTION_BLOCK", "VAR_GLOBAL"}));
        } else {
            error_here(fmt::format("expected a program unit, found {}", found_text()), "known: PROGRAM, FUNCTION_BLOCK, VAR_GLOBAL");
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
                error(Code::NotSupported, current().span, fmt::format("{} is not supported by this version", current().text),
                      "supported: VAR, VAR_INPUT, VAR_OUTPUT, VAR_EXTERNAL, VAR_GLOBAL");
                while (!at_end() && !is_word("end_var")) ++at_;
                skip();
                continue;
            }
            declarations(unit.declarations);
        }
        unit.body = statements();
        if (!accept_word(end_word)) {
            error_here(fmt::format("expected {} for '{}', found {}", kind == UnitKind::Program ? "END_PROGRAM" : "END_FUNCTION_BLOCK", unit.name, found_text()),
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
                    error(Code::NotSupported, current().span, "RETAIN is not supported by this version", "leave it out: a run starts cold");
                }
                ++at_;
            } else {
                break;
            }
        }
        while (!at_end() && !is_word("end_var")) {
            if (is_statement_end() || is_word("var") || is_word("if")) {
                error_here("expected END_VAR before this");
                return;
            }
            declaration(out, section, constant);
        }
        skip();
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
                  fmt::format("expected ';' at the end of the declaration{}", next_line ? "" : ", found " + found_text()));
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
        if (const std::size_t open = rest.find_first_not_of(" \t"); open != std::string_view::npos) rest.remove_prefix(open);
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
        return constant || (next.kind == TokenKind::Symbol && (next.text == ":" || next.text == "," || next.text == ".."));
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
            s.kind = is_word("exit") ? StatementKind::Exit : is_word("return") ? StatementKind::Return : StatementKind::Continue;
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
                  base::nearest_name(left->name, statement_words()).empty() ? "" : base::name_hint(left->name, statement_words()));
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
        list.push_back(std::move(s));
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

    // --- expressions, by the precedence of IEC 61131-3 table 71 ---
    struct Level {
        std::array<std::pair<std::string_view, Operator>, 4> operators;
        int count;
    };
    static constexpr int kAdditive = 5;
    static constexpr std::array<Level, 7> kLevels = {{
        {{{{"or", Operator::Or}}}, 1},
        {{{{"xor", Operator::Xor}}}, 1},
        {{{{"and", Operator::And}, {"&", Operator::And}}}, 2},
        {{{{"=", Operator::Equal}, {"<>", Operator::NotEqual}}}, 2},
        {{{{"<", Operator::Less}, {"<=", Operator::LessEqual}, {">", Operator::Greater}, {">=", Operator::GreaterEqual}}}, 4},
        {{{{"+", Operator::Add}, {"-", Operator::Subtract}}}, 2},
        {{{{"*", Operator::Multiply}, {"/", Operator::Divide}, {"mod", Operator::Modulo}}}, 3},
    }};

    std::optional<Operator> operator_at(int level) {
        const Token& t = current();
        if (t.kind != TokenKind::Symbol && t.kind != TokenKind::Identifier) return std::nullopt;
        const Level& l = kLevels[static_cast<std::size_t>(level)];
        for (int i = 0; i < l.count; ++i) {
            const auto& [text, op] = l.operators[static_cast<std::size_t>(i)];
            if (t.kind == TokenKind::Symbol ? t.text == text : is_word(text)) return op;
        }
        return std::nullopt;
    }

    ExpressionPtr binary(int level) {
        if (level == static_cast<int>(kLevels.size())) return unary();
        const DepthGuard guard(depth_);
        if (too_deep(current().span)) return nullptr;
        --depth_;  // one level of nesting is counted in primary(), not once per precedence level
        ExpressionPtr left = binary(level + 1);
        int chain = 0;
        while (left) {
            const auto op = operator_at(level);
            if (!op) break;
            auto node = std::make_unique<Expression>();
            node->kind = ExpressionKind::Binary;
            node->op = *op;
            node->span = current().span;
            ++at_;
            ExpressionPtr right = binary(level + 1);
            if (!right || ++chain > kMaxChain) {
                if (right) error(Code::TooDeep, node->span, fmt::format("more than {} operands in one expression", kMaxChain), "split it into several statements");
                left = nullptr;
                break;
            }
            node->operands.push_back(std::move(left));
            node->operands.push_back(std::move(right));
            left = std::move(node);
        }
        ++depth_;
        return left;
    }

    ExpressionPtr unary() {
        const Span span = current().span;
        if (is_symbol("-") || is_symbol("+") || is_word("not")) {
            const DepthGuard guard(depth_);
            if (too_deep(span)) return nullptr;
            const bool negate = is_symbol("-");
            const bool plus = is_symbol("+");
            ++at_;
            ExpressionPtr operand = unary();
            if (!operand || plus) return operand;
            if (negate && operand->kind == ExpressionKind::Literal && !operand->type.is(Elementary::Bool)) {
                operand->negative = !operand->negative;
                operand->real = -operand->real;
                operand->span = {span.line, span.column, operand->span.column + operand->span.length - span.column};
                return operand;
            }
            auto node = std::make_unique<Expression>();
            node->kind = ExpressionKind::Unary;
            node->op = negate ? Operator::Negate : Operator::Not;
            node->span = span;
            node->operands.push_back(std::move(operand));
            return node;
        }
        return primary();
    }

    ExpressionPtr primary() {
        const DepthGuard guard(depth_);
        if (too_deep(current().span)) return nullptr;
        const Token& t = current();
        auto node = std::make_unique<Expression>();
        node->span = t.span;
        switch (t.kind) {
            case TokenKind::Integer:
            case TokenKind::Real:
            case TokenKind::Time:
                literal(*node, t);
                ++at_;
                return node;
            case TokenKind::DirectAddress:
                node->kind = ExpressionKind::Direct;
                node->name = std::string(t.text);
                ++at_;
                return node;
            case TokenKind::Text:
                error(Code::NotSupported, t.span, "texts are not supported by this version");
                ++at_;
                return nullptr;
            case TokenKind::Symbol:
                if (accept("(")) {
                    ExpressionPtr inner = expression();
                    if (inner && !expect(")")) return nullptr;
                    return inner;
                }
                break;
            case TokenKind::Identifier:
                if (is_word("true") || is_word("false")) {
                    node->type.elementary = Elementary::Bool;
                    node->integer = is_word("true") ? 1 : 0;
                    ++at_;
                    return node;
                }
                if (!is_reserved(base::fold(t.text))) return name_or_call(std::move(node));
                break;
            default:
                break;
        }
        error_here(fmt::format("expected a value, found {}", found_text()));
        return nullptr;
    }

    static void literal(Expression& node, const Token& t) {
        node.integer = t.integer;
        node.real = t.real;
        node.negative = t.negative;
        if (t.type != Elementary::None) {
            node.type.elementary = t.type;
        } else {
            node.type.elementary = t.kind == TokenKind::Real ? Elementary::AnyReal : Elementary::AnyInt;
        }
    }

    ExpressionPtr name_or_call(ExpressionPtr node) {
        node->kind = ExpressionKind::Name;
        node->name = std::string(current().text);
        ++at_;
        while (is_symbol(".")) {
            ++at_;
            const Token& part = current();
            if (part.kind != TokenKind::Identifier) {
                error_here(fmt::format("expected a name after '.', found {}", found_text()));
                return nullptr;
            }
            node->name += '.';
            node->name += part.text;
            ++at_;
        }
        node->span.length = previous().span.column + previous().span.length - node->span.column;
        if (is_symbol("[") || is_symbol("^")) {
            error(Code::NotSupported, current().span, is_symbol("[") ? "arrays are not supported by this version" : "references are not supported by this version");
            return nullptr;
        }
        if (!accept("(")) return node;
        node->kind = ExpressionKind::Call;
        if (accept(")")) return node;
        do {
            if (!argument(*node)) return nullptr;
        } while (accept(","));
        if (!expect(")")) return nullptr;
        return node;
    }

    bool argument(Expression& call) {
        Argument a;
        a.span = current().span;
        const bool named = current().kind == TokenKind::Identifier && at_ + 1 < tokens_.size() && tokens_[at_ + 1].kind == TokenKind::Symbol &&
                           (tokens_[at_ + 1].text == ":=" || tokens_[at_ + 1].text == "=>");
        if (named) {
            a.name = std::string(current().text);
            a.output = tokens_[at_ + 1].text == "=>";
            at_ += 2;
        }
        a.value = expression();
        if (!a.value) return false;
        call.arguments.push_back(std::move(a));
        return true;
    }

    static constexpr int kMaxChain = 1000;

    const base::SourcePtr& source_;
    const std::vector<Token>& tokens_;
    std::size_t at_;
    base::Diagnostics& diagnostics_;
    int depth_ = 0;
    int case_depth_ = 0;
    bool depth_reported_ = false;
};

}  // namespace

SyntaxFile parse_file(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    const std::vector<Token> tokens = tokenize(source, diagnostics);
    return Parser(source, tokens, 0, diagnostics).file();
}

ExpressionPtr parse_expression(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t& at,
                               base::Diagnostics& diagnostics) {
    Parser parser(source, tokens, at, diagnostics);
    ExpressionPtr out = parser.expression();
    at = parser.position();
    return out;
}

}  // namespace vyard::logic
