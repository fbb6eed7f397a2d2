// Files: program units, types, namespaces, configurations.
#include "core/logic/text/parser.hpp"

#include <algorithm>

#include "core/logic/text/parsers.hpp"

namespace vyard::logic {

namespace {

using base::Code;

class FileParser final : public StatementParser {
  public:
    using StatementParser::StatementParser;

    SyntaxFile file() {
        out_.source = source_;
        NameContext top;
        while (current().kind != TokenKind::End) advancing([&] { element(top, false); });
        return std::move(out_);
    }

  private:
    static const std::vector<std::string>& top_words() {
        static const std::vector<std::string> words = {"PROGRAM",    "FUNCTION_BLOCK", "FUNCTION", "TYPE",
                                                       "VAR_GLOBAL", "INTERFACE",      "CLASS",    "NAMESPACE",
                                                       "USING",      "CONFIGURATION"};
        return words;
    }
    bool at_top_word() const {
        return std::any_of(top_words().begin(), top_words().end(),
                           [&](const std::string& word) { return is_word(base::fold(word)); });
    }

    void element(NameContext& context, bool in_namespace) {
        if (accept_word("program")) {
            out_.units.push_back(unit(UnitKind::Program, "end_program", context));
        } else if (accept_word("function_block")) {
            out_.units.push_back(unit(UnitKind::FunctionBlock, "end_function_block", context));
        } else if (accept_word("class")) {
            out_.units.push_back(unit(UnitKind::FunctionBlock, "end_class", context));
        } else if (accept_word("function")) {
            out_.units.push_back(unit(UnitKind::Function, "end_function", context));
        } else if (accept_word("interface")) {
            out_.units.push_back(unit(UnitKind::Interface, "end_interface", context));
        } else if (is_word("var_global")) {
            declarations(out_.globals, context.space);
        } else if (accept_word("type")) {
            type_declarations(out_, context);
        } else if (accept_word("namespace")) {
            const std::size_t first = at_ - 1;
            name_space(context);
            accept(";");
            if (!in_namespace) out_.spaces.push_back(from(first));
        } else if (accept_word("using")) {
            const std::size_t first = at_ - 1;
            do {
                if (const auto name = dotted("a namespace")) context.using_.push_back(*name);
            } while (accept(","));
            expect(";");
            if (!in_namespace) out_.spaces.push_back(from(first));
        } else if (accept_word("configuration")) {
            configuration(context);
        } else if (!accept(";")) {
            unknown(in_namespace);
        }
    }

    void unknown(bool in_namespace) {
        if (in_namespace && is_statement_end()) return;
        const bool word = current().kind == TokenKind::Identifier;
        error_here(fmt::format("expected a program unit, found {}", found_text()),
                   word ? base::name_hint(current().text, top_words())
                        : "known: PROGRAM, FUNCTION_BLOCK, FUNCTION, TYPE, VAR_GLOBAL ...");
        skip();
        while (!at_end() && !at_top_word() && !(in_namespace && is_word("end_namespace"))) ++at_;
    }

    void name_space(const NameContext& outer) {
        accept_word("internal");
        const Span span = previous().span;
        const auto name = dotted("a namespace's name");
        NameContext inner = outer;
        if (name) inner.space = outer.space.empty() ? *name : outer.space + "." + *name;
        accept(";");
        const DepthGuard guard(depth_);
        if (too_deep(span)) at_ = tokens_.size() - 1;
        while (!at_end() && !is_word("end_namespace")) advancing([&] { element(inner, true); });
        expect_word("end_namespace");
    }

    ProgramUnit unit(UnitKind kind, std::string_view end_word, const NameContext& context) {
        ProgramUnit unit;
        const std::size_t begin = at_ - 1;
        unit.kind = kind;
        unit.is_class = end_word == "end_class";
        unit.source = source_;
        unit.context = context;
        for (;;) {
            if (accept_word("abstract")) {
                unit.is_abstract = true;
            } else if (accept_word("final")) {
                unit.is_final = true;
            } else if (is_word("override")) {
                ++at_;
                unit.is_override = true;
            } else if (!access(unit.access)) {
                break;
            }
        }
        unit.span = current().span;
        if (const auto name = identifier("a name")) unit.name = *name;
        if (kind == UnitKind::Function || kind == UnitKind::Method) result(unit);
        if (kind == UnitKind::FunctionBlock || kind == UnitKind::Interface) inheritance(unit);
        while (accept_word("using")) {
            do {
                if (const auto name = dotted("a namespace")) unit.context.using_.push_back(*name);
            } while (accept(","));
            expect(";");
        }
        variables_and_methods(unit);
        unit.body_written.begin = from(begin).end;
        if (at_chart()) {
            unit.chart = chart();
        } else if (kind != UnitKind::Interface && !unit.is_class) {
            unit.body = statements();
        }
        unit.body_written.end = offset_of(current());
        end_of_unit(unit, end_word);
        unit.written = from(begin);
        return unit;
    }

    void result(ProgramUnit& unit) {
        if (!accept(":")) return;
        if (accept_word("void")) return;
        unit.result = type_spec();
        accept(";");
    }

    void inheritance(ProgramUnit& unit) {
        const auto list = [&] {
            do {
                const Span span = current().span;
                if (const auto name = dotted("an interface")) unit.implements.emplace_back(*name, span);
            } while (accept(","));
        };
        if (accept_word("extends")) {
            if (unit.kind == UnitKind::Interface) return list();
            unit.extends_span = current().span;
            if (const auto name = dotted("a function block")) unit.extends = *name;
        }
        if (accept_word("implements")) list();
    }

    void variables_and_methods(ProgramUnit& unit) {
        while (current().kind == TokenKind::Identifier) {
            const std::string word = base::fold(current().text);
            if (section_of(word)) {
                declarations(unit.declarations, word == "var_global" ? unit.context.space : "");
            } else if (word == "method" && unit.kind != UnitKind::Function && unit.kind != UnitKind::Method) {
                ++at_;
                unit.methods.push_back(method(unit));
            } else if (word == "property") {
                error_here("PROPERTY is not part of the standard", "write two METHODs, one to get and one to set");
                while (!at_end() && !is_word("end_property")) ++at_;
                skip();
            } else if (word == "var_access" || word == "var_config") {
                error_here(fmt::format("{} stands in a CONFIGURATION", current().text));
                while (!at_end() && !is_word("end_var")) ++at_;
                skip();
            } else {
                return;
            }
        }
    }

    ProgramUnit method(const ProgramUnit& owner) { return unit(UnitKind::Method, "end_method", owner.context); }

    void end_of_unit(const ProgramUnit& unit, std::string_view end_word) {
        if (accept_word(end_word)) {
            accept(";");
            return;
        }
        error_here(fmt::format("expected {} for '{}', found {}", upper(end_word), unit.name, found_text()),
                   base::name_hint(current().text, statement_words()));
        while (!at_end() && !is_word(end_word) && !is_word("program") && !is_word("function_block") &&
               !is_word("function"))
            ++at_;
        accept_word(end_word);
    }

    // --- configurations (IEC 61131-3, 6.8) ---
    void configuration(const NameContext& context) {
        Configuration c;
        const std::size_t begin = at_ - 1;
        c.source = source_;
        c.span = current().span;
        if (const auto name = identifier("a name")) c.name = *name;
        Resource single;
        while (!at_end() && !is_word("end_configuration")) {
            if (accept_word("resource")) {
                Resource r;
                if (const auto name = identifier("a name")) r.name = *name;
                if (accept_word("on")) r.on = dotted("a resource type").value_or("");
                while (!at_end() && !is_word("end_resource") && !is_word("end_configuration"))
                    advancing([&] { resource_element(c, r, context); });
                expect_word("end_resource");
                accept(";");
                c.resources.push_back(std::move(r));
            } else {
                advancing([&] { resource_element(c, single, context); });
            }
        }
        expect_word("end_configuration");
        accept(";");
        c.written = from(begin);
        if (!single.programs.empty() || !single.tasks.empty()) c.resources.push_back(std::move(single));
        out_.configurations.push_back(std::move(c));
    }

    void resource_element(Configuration& c, Resource& r, const NameContext& context) {
        if (is_word("var_global")) {
            declarations(out_.globals, context.space);
        } else if (accept_word("task")) {
            task(r);
        } else if (accept_word("program")) {
            program_instance(r);
        } else if (is_word("var_config")) {
            ++at_;
            accept_word("retain");
            while (!at_end() && !is_word("end_var")) advancing([&] { config_declaration(c); });
            skip();
        } else if (is_word("var_access")) {
            diagnostics_.warning(Code::NotSupported, place_in(source_, current().span),
                                 "VAR_ACCESS is ignored: every variable can be seen from outside here");
            while (!at_end() && !is_word("end_var")) ++at_;
            skip();
        } else {
            error_here(fmt::format("expected TASK, PROGRAM, RESOURCE or a VAR section, found {}", found_text()));
            skip();
            synchronize();
        }
    }

    void task(Resource& r) {
        TaskDeclaration t;
        const std::size_t begin = at_;
        t.span = current().span;
        if (const auto name = identifier("a task's name")) t.name = *name;
        if (expect("(")) {
            do {
                const Span span = current().span;
                const std::string word = base::fold(current().text);
                ExpressionPtr* slot = word == "interval"   ? &t.interval
                                      : word == "priority" ? &t.priority
                                      : word == "single"   ? &t.single
                                                           : nullptr;
                if (slot == nullptr) {
                    error(Code::Syntax, span, fmt::format("a TASK has no '{}'", current().text),
                          base::name_hint(current().text, {"INTERVAL", "PRIORITY", "SINGLE"}));
                    return synchronize();
                }
                ++at_;
                if (!expect(":=")) return synchronize();
                *slot = expression();
                if (!*slot) return synchronize();
            } while (accept(","));
            expect(")");
        }
        expect_semicolon();
        t.written = from(begin);
        r.tasks.push_back(std::move(t));
    }

    void program_instance(Resource& r) {
        ProgramDeclaration p;
        const std::size_t begin = at_;
        accept_word("retain");
        accept_word("non_retain");
        p.span = current().span;
        const auto name = identifier("a program's name");
        if (!name) return synchronize();
        p.name = *name;
        if (accept_word("with")) {
            p.task_span = current().span;
            if (const auto task = identifier("a task's name")) p.task = *task;
        }
        if (!expect(":")) return synchronize();
        p.type_span = current().span;
        const auto type = dotted("a program type");
        if (!type) return synchronize();
        p.type = *type;
        if (is_symbol("(")) {
            auto callee = std::make_unique<Expression>();
            callee->kind = ExpressionKind::Name;
            callee->name = p.type;
            callee->span = p.type_span;
            p.call = call(std::move(callee));
            if (!p.call) return synchronize();
        }
        expect_semicolon();
        p.written = from(begin);
        r.programs.push_back(std::move(p));
    }

    void config_declaration(Configuration& c) {
        ConfigDeclaration d;
        const std::size_t begin = at_;
        d.span = current().span;
        const auto path = dotted("the path of a variable");
        if (!path) return synchronize();
        d.path = *path;
        d.span.length = previous().span.column + previous().span.length - d.span.column;
        if (accept_word("at")) {
            d.address_span = current().span;
            if (current().kind == TokenKind::DirectAddress) {
                d.address = std::string(current().text);
                ++at_;
            } else {
                error_here(fmt::format("expected an address such as %IX0.0, found {}", found_text()));
            }
        }
        if (!expect(":")) return synchronize();
        d.type = type_spec();
        if (!d.type) return synchronize();
        if (accept(":=")) d.initial = initializer();
        expect_semicolon();
        d.written = from(begin);
        c.config.push_back(std::move(d));
    }

    SyntaxFile out_;
};

}  // namespace

SyntaxFile parse_file(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    const std::vector<Token> tokens = tokenize(source, diagnostics);
    return FileParser(source, tokens, 0, diagnostics).file();
}

}  // namespace vyard::logic
