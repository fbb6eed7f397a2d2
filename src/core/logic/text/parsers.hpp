// The parsers, each built on the one before: expressions, declarations, statements. Internal to this room; the units
// of a file are read in parser.cpp.
#pragma once

#include "core/logic/text/token_cursor.hpp"

namespace vyard::logic {

/// Expressions and names.
class ExpressionParser : public TokenCursor {
  public:
    using TokenCursor::TokenCursor;

    ExpressionPtr expression() {
        const std::size_t first = at_;
        return reaching(first, binary(0));
    }
    /// From here on a number may carry a unit: 200 mm, 40 %, 0.25 m/s.
    void accept_units() { units_ = true; }

  protected:
    // --- expressions, by the precedence of IEC 61131-3 table 71 ---
    struct Level {
        std::array<std::pair<std::string_view, Operator>, 4> operators;
        int count;
    };
    static constexpr int kAdditive = 5;
    static constexpr std::array<Level, 8> kLevels = {{
        {{{{"or", Operator::Or}}}, 1},
        {{{{"xor", Operator::Xor}}}, 1},
        {{{{"and", Operator::And}, {"&", Operator::And}}}, 2},
        {{{{"=", Operator::Equal}, {"<>", Operator::NotEqual}}}, 2},
        {{{{"<", Operator::Less},
           {"<=", Operator::LessEqual},
           {">", Operator::Greater},
           {">=", Operator::GreaterEqual}}},
         4},
        {{{{"+", Operator::Add}, {"-", Operator::Subtract}}}, 2},
        {{{{"*", Operator::Multiply}, {"/", Operator::Divide}, {"mod", Operator::Modulo}}}, 3},
        {{{{"**", Operator::Power}}}, 1},
    }};

    static constexpr int kMaxChain = 1000;  ///< Operands of one expression without parentheses.

    ExpressionPtr binary(int level);
    ExpressionPtr unary();
    ExpressionPtr primary();
    std::optional<std::string> identifier(const char* what);
    /// Names joined by dots.
    std::optional<std::string> dotted(const char* what);
    /// The arguments of a call whose '(' comes next.
    ExpressionPtr call(ExpressionPtr callee);

  private:
    std::optional<Operator> operator_at(int level) const;
    void unit(Expression& literal);
    ExpressionPtr text();
    ExpressionPtr name();
    ExpressionPtr postfix(ExpressionPtr node);
    ExpressionPtr part(ExpressionPtr node);
    bool argument(Expression& call);

    bool units_ = false;
};

/// Variables and types.
class DeclarationParser : public ExpressionParser {
  public:
    using ExpressionParser::ExpressionParser;

  protected:
    static std::optional<Section> section_of(const std::string& folded);
    /// From VAR... to END_VAR.
    void declarations(std::vector<Declaration>& out, const std::string& space = {});
    TypeSpecPtr type_spec();
    /// What stands behind := of a declaration: an expression, [a, b] or (x := 1).
    ExpressionPtr initializer();
    void type_declarations(SyntaxFile& out, const NameContext& context);
    /// TRUE after reading an access specifier.
    bool access(Access& out);

  private:
    void declaration(std::vector<Declaration>& out, const Declaration& pattern);
    bool location(Declaration& d);
    TypeSpecPtr type_form();
    ExpressionPtr initial_form();
    TypeSpecPtr array_spec();
    TypeSpecPtr structure_spec();
    void enumeration(TypeSpec& spec);
    void describe(std::vector<Declaration>& out, std::size_t first);
    static void leave_untyped(std::vector<Declaration>& out, std::size_t first);
    void skip_declaration();
    bool starts_if() const;
    bool end_of_declaration();
};

/// Statements and charts.
class StatementParser : public DeclarationParser {
  public:
    using DeclarationParser::DeclarationParser;

  protected:
    StatementList statements();
    bool at_chart() const;
    Chart chart();
    static const std::vector<std::string>& statement_words();

  private:
    bool at_case_label() const;
    void statement(StatementList& list);
    void drawing(StatementList& list, Statement s);
    void assignment_or_call(StatementList& list, Statement s);
    void if_statement(StatementList& list, Statement s);
    void case_statement(StatementList& list, Statement s);
    void for_statement(StatementList& list, Statement s);
    void while_statement(StatementList& list, Statement s);
    void repeat_statement(StatementList& list, Statement s);
    StatementList nested();
    void loop_body(Statement& s);
    void close(std::string_view end_word, Span opened, const char* what);
    void chart_step(Chart& chart, bool initial);
    bool step_action(ChartStep& step);
    void chart_transition(Chart& chart);
    void chart_action(Chart& chart);
    std::vector<std::pair<std::string, Span>> step_names();

    int case_depth_ = 0;
};

}  // namespace vyard::logic
