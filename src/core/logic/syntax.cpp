#include "core/logic/syntax.hpp"

#include <fmt/format.h>

namespace vyard::logic {

namespace {

constexpr const char* kOperators[] = {"OR", "XOR", "AND", "=", "<>", "<",   "<=", ">",
                                      ">=", "+",   "-",   "*", "/",  "MOD", "-",  "NOT"};

std::string arguments_text(const std::vector<Argument>& arguments) {
    std::string out;
    for (const Argument& a : arguments) {
        if (!a.name.empty()) out += fmt::format(" {} {}", a.name, a.output ? "=>" : ":=");
        out += ' ' + expression_text(*a.value);
    }
    return out;
}

class TreePrinter {
  public:
    std::string out;

    void line(int depth, const std::string& text) {
        out.append(static_cast<std::size_t>(depth) * 2, ' ');
        out += text + '\n';
    }

    void declaration(int depth, const Declaration& d) {
        static constexpr const char* kSections[] = {"VAR", "VAR_INPUT", "VAR_OUTPUT", "VAR_GLOBAL", "VAR_EXTERNAL"};
        line(depth, fmt::format("{}{} {} : {}{}{}", kSections[static_cast<std::size_t>(d.section)],
                                d.constant ? " CONSTANT" : "", d.name, d.type_name,
                                d.address.empty() ? "" : " AT " + d.address,
                                d.initial ? " := " + expression_text(*d.initial) : ""));
    }

    void body(int depth, const StatementList& list) {
        for (const Statement& s : list) statement(depth, s);
    }

    void statement(int depth, const Statement& s) {
        static constexpr const char* kNames[] = {"assign", "call",   "if",   "case",     "for",
                                                 "while",  "repeat", "exit", "continue", "return"};
        std::string text = kNames[static_cast<std::size_t>(s.kind)];
        for (const auto* part : {&s.target, &s.value, &s.limit, &s.step}) {
            if (*part) text += ' ' + expression_text(**part);
        }
        line(depth, text);
        for (const Branch& b : s.branches) {
            std::string head = "branch";
            if (b.condition) head += ' ' + expression_text(*b.condition);
            for (const CaseLabel& label : b.labels) {
                head += ' ' + expression_text(*label.low) + (label.high ? ".." + expression_text(*label.high) : "");
            }
            line(depth + 1, head);
            body(depth + 2, b.body);
        }
    }
};

}  // namespace

const char* operator_text(Operator op) {
    return kOperators[static_cast<std::size_t>(op)];
}

std::string expression_text(const Expression& e) {
    switch (e.kind) {
        case ExpressionKind::Literal:
            if (is_real(e.type.elementary)) return fmt::format("{}", e.real);
            return fmt::format("{}{}{}", e.type.is(Elementary::Time) ? "T#ns" : "", e.negative ? "-" : "", e.integer);
        case ExpressionKind::Name:
        case ExpressionKind::Direct: return e.name;
        case ExpressionKind::Unary: return fmt::format("({} {})", operator_text(e.op), expression_text(*e.operands[0]));
        case ExpressionKind::Binary:
            return fmt::format("({} {} {})", operator_text(e.op), expression_text(*e.operands[0]),
                               expression_text(*e.operands[1]));
        case ExpressionKind::Call: return fmt::format("({}{})", e.name, arguments_text(e.arguments));
        case ExpressionKind::Convert:
            return fmt::format("(to {} {})", type_name(e.type.elementary), expression_text(*e.operands[0]));
    }
    return {};
}

std::string tree_text(const SyntaxFile& file) {
    TreePrinter printer;
    for (const Declaration& d : file.globals) printer.declaration(0, d);
    for (const ProgramUnit& unit : file.units) {
        printer.line(0, fmt::format("{} {}", unit.kind == UnitKind::Program ? "PROGRAM" : "FUNCTION_BLOCK", unit.name));
        for (const Declaration& d : unit.declarations) printer.declaration(1, d);
        printer.body(1, unit.body);
    }
    return std::move(printer.out);
}

}  // namespace vyard::logic
