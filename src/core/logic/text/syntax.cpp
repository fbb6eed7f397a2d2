#include "core/logic/text/syntax.hpp"

#include <fmt/format.h>

namespace vyard::logic {

namespace {

constexpr const char* kOperators[] = {
    "OR", "XOR", "AND", "=", "<>", "<", "<=", ">", ">=", "+", "-", "*", "/", "MOD", "**", "-", "NOT"};

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
        static constexpr const char* kSections[] = {"VAR",      "VAR_INPUT",  "VAR_OUTPUT",  "VAR_IN_OUT",
                                                    "VAR_TEMP", "VAR_GLOBAL", "VAR_EXTERNAL"};
        line(depth, fmt::format("{}{}{} {} : {}{}{}", base::at(kSections, d.section), d.constant ? " CONSTANT" : "",
                                d.persistent ? " PERSISTENT"
                                : d.retain   ? " RETAIN"
                                             : "",
                                d.name,
                                d.type   ? type_text(*d.type)
                                : d.like ? "like " + expression_text(*d.like)
                                         : "?",
                                d.address.empty() ? "" : " AT " + d.address,
                                d.initial ? " := " + expression_text(*d.initial) : ""));
    }

    void unit(int depth, const ProgramUnit& u) {
        static constexpr const char* kKinds[] = {"PROGRAM", "FUNCTION_BLOCK", "FUNCTION", "METHOD", "INTERFACE"};
        std::string head = fmt::format("{} {}", base::at(kKinds, u.kind), u.name);
        if (u.result) head += " : " + type_text(*u.result);
        if (!u.extends.empty()) head += " EXTENDS " + u.extends;
        for (const auto& [name, span] : u.implements) head += " IMPLEMENTS " + name;
        line(depth, head);
        for (const Declaration& d : u.declarations) declaration(depth + 1, d);
        for (const ProgramUnit& method : u.methods) unit(depth + 1, method);
        chart(depth + 1, u.chart);
        body(depth + 1, u.body);
    }

    void chart(int depth, const Chart& c) {
        for (const ChartStep& s : c.steps) {
            std::string head = fmt::format("{} {}", s.initial ? "initial step" : "step", s.name);
            for (const StepAction& a : s.actions)
                head += fmt::format(" {}({}{})", a.name, qualifier_text(a.qualifier),
                                    a.time ? ", " + expression_text(*a.time) : "");
            line(depth, head);
        }
        for (const ChartTransition& t : c.transitions) {
            std::string head = "transition";
            for (const auto& [name, span] : t.from) head += " " + name;
            head += " ->";
            for (const auto& [name, span] : t.to) head += " " + name;
            line(depth, head + (t.condition ? " when " + expression_text(*t.condition) : ""));
        }
        for (const ChartAction& a : c.actions) {
            line(depth, "action " + a.name);
            body(depth + 1, a.body);
        }
    }

    void body(int depth, const StatementList& list) {
        for (const Statement& s : list) statement(depth, s);
    }

    void statement(int depth, const Statement& s) {
        static constexpr const char* kNames[] = {"assign",   "refer",  "attempt", "call",   "if",
                                                 "case",     "for",    "while",   "repeat", "exit",
                                                 "continue", "return", "drawn",   "label",  "jump"};
        std::string text = base::at(kNames, s.kind);
        if (!s.name.empty()) text += ' ' + s.name;
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
    return base::at(kOperators, op);
}

const char* qualifier_text(Qualifier qualifier) {
    static constexpr const char* kTexts[] = {"N", "R", "S", "L", "D", "P", "P0", "P1", "SD", "DS", "SL"};
    return base::at(kTexts, qualifier);
}

bool is_place(ExpressionKind kind) {
    switch (kind) {
        case ExpressionKind::Name:
        case ExpressionKind::Direct:
        case ExpressionKind::Member:
        case ExpressionKind::Index:
        case ExpressionKind::Dereference:
        case ExpressionKind::Partial:
        case ExpressionKind::This: return true;
        default: return false;
    }
}

std::string dotted_name(const Expression& e) {
    if (e.kind == ExpressionKind::Name) return e.name;
    if (e.kind != ExpressionKind::Member) return {};
    std::string head = dotted_name(*e.operands[0]);
    return head.empty() ? head : head + "." + e.name;
}

ExpressionPtr clone(const Expression& e) {
    auto out = std::make_unique<Expression>();
    out->kind = e.kind;
    out->op = e.op;
    out->negative = e.negative;
    out->power = e.power;
    out->line = e.line;
    out->call = e.call;
    out->span = e.span;
    out->written = e.written;
    out->name = e.name;
    out->type_prefix = e.type_prefix;
    out->integer = e.integer;
    out->real = e.real;
    out->unit = e.unit;
    out->type = e.type;
    out->binding = e.binding;
    out->detail = e.detail;
    for (const ExpressionPtr& operand : e.operands) out->operands.push_back(operand ? clone(*operand) : nullptr);
    for (const Argument& a : e.arguments) {
        out->arguments.push_back({a.name, a.span, a.output, a.negated, a.value ? clone(*a.value) : nullptr, a.field});
    }
    return out;
}

std::string written_text(const Expression& e) {
    switch (e.kind) {
        case ExpressionKind::Member:
        case ExpressionKind::Partial: return written_text(*e.operands[0]) + "." + e.name;
        case ExpressionKind::Dereference: return written_text(*e.operands[0]) + "^";
        case ExpressionKind::Index: {
            std::string out = written_text(*e.operands[0]) + "[";
            for (std::size_t i = 1; i < e.operands.size(); ++i)
                out += (i > 1 ? ", " : "") + written_text(*e.operands[i]);
            return out + "]";
        }
        case ExpressionKind::Call: return written_text(*e.operands[0]) + "(...)";
        default: return expression_text(e);
    }
}

std::string expression_text(const Expression& e) {
    const auto operand = [&](std::size_t i) { return expression_text(*e.operands[i]); };
    switch (e.kind) {
        case ExpressionKind::Literal:
            if (is_real(e.type.elementary)) return fmt::format("{}", e.real);
            return fmt::format("{}{}{}",
                               e.type.is(Elementary::Time) ? "T#ns"
                               : is_moment(e.type.elementary) || is_duration(e.type.elementary)
                                   ? std::string(type_name(e.type.elementary)) + "#ns"
                                   : "",
                               e.negative ? "-" : "", e.integer);
        case ExpressionKind::Text: return "'" + e.name + "'";
        case ExpressionKind::TypedName: return e.type_prefix + "#" + e.name;
        case ExpressionKind::Name:
        case ExpressionKind::Direct: return e.name;
        case ExpressionKind::Member: {
            const std::string dotted = dotted_name(e);
            return dotted.empty() ? fmt::format("(. {} {})", operand(0), e.name) : dotted;
        }
        case ExpressionKind::Index: {
            std::string out = "(at";
            for (std::size_t i = 0; i < e.operands.size(); ++i) out += " " + operand(i);
            return out + ")";
        }
        case ExpressionKind::Dereference: return fmt::format("(^ {})", operand(0));
        case ExpressionKind::Partial: return fmt::format("(part {} {})", operand(0), e.name);
        case ExpressionKind::Unary: return fmt::format("({} {})", operator_text(e.op), operand(0));
        case ExpressionKind::Binary: return fmt::format("({} {} {})", operator_text(e.op), operand(0), operand(1));
        case ExpressionKind::Call: return fmt::format("({}{})", operand(0), arguments_text(e.arguments));
        case ExpressionKind::Convert: return fmt::format("(to {} {})", type_name(e.type.elementary), operand(0));
        case ExpressionKind::Null: return "NULL";
        case ExpressionKind::This: return "THIS";
        case ExpressionKind::Super: return "SUPER";
        case ExpressionKind::Fields: return fmt::format("(fields{})", arguments_text(e.arguments));
        case ExpressionKind::Repeat: return fmt::format("(times {} {})", operand(0), e.operands[1] ? operand(1) : "");
        case ExpressionKind::List: {
            std::string out = "(list";
            for (std::size_t i = 0; i < e.operands.size(); ++i) out += " " + operand(i);
            return out + ")";
        }
    }
    return {};
}

std::string type_text(const TypeSpec& spec) {
    switch (spec.kind) {
        case TypeSpecKind::Named: return spec.name;
        case TypeSpecKind::Text:
            return spec.length ? fmt::format("{}[{}]", spec.name, expression_text(*spec.length)) : spec.name;
        case TypeSpecKind::Reference: return "REF_TO " + type_text(*spec.element);
        case TypeSpecKind::Subrange:
            return fmt::format("{}({}..{})", spec.name, expression_text(*spec.ranges[0].first),
                               expression_text(*spec.ranges[0].second));
        case TypeSpecKind::Array: {
            std::string out = "ARRAY[";
            for (const auto& [low, high] : spec.ranges) {
                if (out.back() != '[') out += ", ";
                out += low ? expression_text(*low) + ".." + expression_text(*high) : "*";
            }
            return out + "] OF " + type_text(*spec.element);
        }
        case TypeSpecKind::Enumeration: {
            std::string out = spec.name + "(";
            for (const EnumValue& v : spec.values) out += (out.back() == '(' ? "" : ", ") + v.name;
            return out + ")";
        }
        case TypeSpecKind::Structure: {
            std::string out = "STRUCT";
            for (const Declaration& d : spec.fields) out += " " + d.name + " : " + type_text(*d.type) + ";";
            return out;
        }
    }
    return {};
}

std::string tree_text(const SyntaxFile& file) {
    TreePrinter printer;
    for (const TypeDeclaration& t : file.types)
        printer.line(0, fmt::format("TYPE {} : {}", t.name, type_text(*t.spec)));
    for (const Declaration& d : file.globals) printer.declaration(0, d);
    for (const ProgramUnit& unit : file.units) printer.unit(0, unit);
    return std::move(printer.out);
}

void each_drawing(const StatementList& body, const std::function<void(const Statement&)>& visit) {
    for (const Statement& s : body) {
        if (s.kind == StatementKind::Drawn) {
            visit(s);
            continue;  // its branches are what it was lowered to
        }
        for (const Branch& b : s.branches) each_drawing(b.body, visit);
    }
}

}  // namespace vyard::logic
