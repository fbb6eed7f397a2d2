// Declarations of variables and types.
#include "core/logic/text/parsers.hpp"

namespace vyard::logic {

using base::Code;

std::optional<Section> DeclarationParser::section_of(const std::string& folded) {
    if (folded == "var") return Section::Local;
    if (folded == "var_input") return Section::Input;
    if (folded == "var_output") return Section::Output;
    if (folded == "var_in_out") return Section::InOut;
    if (folded == "var_temp") return Section::Temp;
    if (folded == "var_global") return Section::Global;
    if (folded == "var_external") return Section::External;
    return std::nullopt;
}

bool DeclarationParser::access(Access& out) {
    static constexpr std::pair<std::string_view, Access> kWords[] = {{"public", Access::Public},
                                                                     {"protected", Access::Protected},
                                                                     {"private", Access::Private},
                                                                     {"internal", Access::Internal}};
    for (const auto& [word, value] : kWords) {
        if (!is_word(word) || symbol_at(at_ + 1, ":") || symbol_at(at_ + 1, ",")) continue;
        out = value;
        ++at_;
        return true;
    }
    return false;
}

void DeclarationParser::declarations(std::vector<Declaration>& out, const std::string& space) {
    Declaration pattern;
    pattern.section = *section_of(base::fold(current().text));
    pattern.space = space;
    ++at_;
    for (;;) {
        if (accept_word("constant")) {
            pattern.constant = true;
        } else if (accept_word("retain")) {
            pattern.retain = true;
        } else if (is_word("persistent") && !symbol_at(at_ + 1, ":") && !symbol_at(at_ + 1, ",")) {
            ++at_;  // no word of the standard's: a variable may be named so
            pattern.retain = pattern.persistent = true;
        } else if (!accept_word("non_retain") && !access(pattern.access)) {
            break;
        }
    }
    while (!at_end() && !is_word("end_var")) {
        if (is_statement_end() || is_word("var") || starts_if()) {
            error_here("expected END_VAR before this");
            return;
        }
        advancing([&] { declaration(out, pattern); });
    }
    skip();
}

/// IF with a condition behind it, not a variable that somebody named "if".
bool DeclarationParser::starts_if() const {
    return is_word("if") && !symbol_at(at_ + 1, ":") && !symbol_at(at_ + 1, ",");
}

bool DeclarationParser::location(Declaration& d) {
    if (!accept_word("at")) return true;
    d.address_span = current().span;
    if (current().kind == TokenKind::DirectAddress) {
        d.address = std::string(current().text);
        ++at_;
        return true;
    }
    error_here(fmt::format("expected an address such as %IX0.0, found {}", found_text()));
    return false;
}

void DeclarationParser::declaration(std::vector<Declaration>& out, const Declaration& pattern) {
    const std::size_t first = out.size(), begin = at_;
    do {
        Declaration& d = out.emplace_back();
        d.section = pattern.section;
        d.space = pattern.space;
        d.constant = pattern.constant;
        d.retain = pattern.retain;
        d.persistent = pattern.persistent;
        d.access = pattern.access;
        d.span = current().span;
        const auto name = identifier("a variable name");
        if (!name) {
            out.pop_back();
            leave_untyped(out, first);
            skip_declaration();
            return;
        }
        d.name = *name;
        location(d);
    } while (accept(","));
    TypeSpecPtr type;
    if (expect(":")) type = type_spec();
    if (!type) {
        leave_untyped(out, first);
        skip_declaration();
        return;
    }
    const Edge edge = accept_word("r_edge") ? Edge::Rising : accept_word("f_edge") ? Edge::Falling : Edge::None;
    for (std::size_t i = first; i < out.size(); ++i) {
        out[i].type = type;
        out[i].edge = edge;
    }
    const bool refers = is_word("ref") && symbol_at(at_ + 1, "=");
    if (refers) at_ += 2;
    if (refers || accept(":=")) {
        const std::size_t start = at_;
        for (std::size_t i = first; i < out.size(); ++i) {
            at_ = start;
            out[i].initial = initializer();
        }
    } else if (is_symbol("=")) {
        error_here("expected ':=' before an initial value, found '='", "an assignment is written ':='");
        skip_declaration();
        return;
    }
    const bool ended = end_of_declaration();
    for (std::size_t i = first; i < out.size(); ++i) out[i].written = from(begin);
    if (ended) describe(out, first);
}

/// A name whose type cannot be read is still a name: what uses it is not to blame.
void DeclarationParser::leave_untyped(std::vector<Declaration>& out, std::size_t first) {
    for (std::size_t i = first; i < out.size(); ++i) {
        out[i].type = std::make_shared<TypeSpec>();
        out[i].type->resolved = true;
    }
}

bool DeclarationParser::end_of_declaration() {
    if (accept(";")) return true;
    const bool next_line = current().span.line > previous().span.line;
    error(Code::Syntax, next_line ? behind_previous() : current().span,
          fmt::format("expected ';' at the end of the declaration{}", next_line ? "" : ", found " + found_text()));
    if (!next_line) skip_declaration();
    return false;
}

ExpressionPtr DeclarationParser::initializer() {
    const std::size_t first = at_;
    return reaching(first, initial_form());
}

ExpressionPtr DeclarationParser::initial_form() {
    const DepthGuard guard(depth_);
    if (too_deep(current().span)) return nullptr;
    auto node = std::make_unique<Expression>();
    node->span = current().span;
    if (is_symbol("(") && at_ + 1 < tokens_.size() && tokens_[at_ + 1].kind == TokenKind::Identifier &&
        symbol_at(at_ + 2, ":=")) {
        node->kind = ExpressionKind::Fields;
        ++at_;
        do {
            Argument a;
            a.span = current().span;
            const auto name = identifier("a field's name");
            if (!name || !expect(":=")) return nullptr;
            a.name = *name;
            a.value = initializer();
            if (!a.value) return nullptr;
            node->arguments.push_back(std::move(a));
        } while (accept(","));
        return expect(")") ? std::move(node) : nullptr;
    }
    if (!accept("[")) return expression();
    node->kind = ExpressionKind::List;
    if (accept("]")) return node;
    do {
        ExpressionPtr element;
        if (current().kind == TokenKind::Integer && symbol_at(at_ + 1, "(")) {
            element = std::make_unique<Expression>();
            element->kind = ExpressionKind::Repeat;
            element->span = current().span;
            auto count = std::make_unique<Expression>();
            count->span = current().span;
            count->integer = current().integer;
            count->type.elementary = Elementary::AnyInt;
            element->operands.push_back(std::move(count));
            at_ += 2;
            ExpressionPtr value;
            if (!is_symbol(")") && !(value = initializer())) return nullptr;
            element->operands.push_back(std::move(value));
            while (accept(",")) {
                ExpressionPtr more = initializer();
                if (!more) return nullptr;
                element->operands.push_back(std::move(more));
            }
            if (!expect(")")) return nullptr;
        } else {
            element = initializer();
        }
        if (!element) return nullptr;
        node->operands.push_back(std::move(element));
    } while (accept(","));
    return expect("]") ? std::move(node) : nullptr;
}

TypeSpecPtr DeclarationParser::type_spec() {
    const std::size_t first = at_;
    return reaching(first, type_form());
}

TypeSpecPtr DeclarationParser::type_form() {
    const DepthGuard guard(depth_);
    if (too_deep(current().span)) return nullptr;
    if (is_word("array")) return array_spec();
    if (is_word("struct")) return structure_spec();
    auto spec = std::make_shared<TypeSpec>();
    spec->span = current().span;
    if (accept_word("ref_to")) {
        spec->kind = TypeSpecKind::Reference;
        spec->element = type_spec();
        return spec->element ? spec : nullptr;
    }
    if (is_word("pointer")) {
        error(Code::NotSupported, current().span, "POINTER is not part of the standard",
              "write REF_TO, and ^ to follow it");
        return nullptr;
    }
    if (is_symbol("(")) {
        spec->kind = TypeSpecKind::Enumeration;
        enumeration(*spec);
        return spec;
    }
    if (current().kind != TokenKind::Identifier || is_reserved(base::fold(current().text))) {
        error_here(fmt::format("expected a type, found {}", found_text()));
        return nullptr;
    }
    const auto name = dotted("a type");
    if (!name) return nullptr;
    spec->name = *name;
    spec->span.length = previous().span.column + previous().span.length - spec->span.column;
    const std::string folded = base::fold(*name);
    if (folded == "string" || folded == "wstring") {
        spec->kind = TypeSpecKind::Text;
        const bool square = is_symbol("[");
        if (square || is_symbol("(")) {
            ++at_;
            spec->length = expression();
            if (!spec->length || !expect(square ? "]" : ")")) return nullptr;
        }
        return spec;
    }
    if (!is_symbol("(")) return spec;
    // INT (0..10) is a subrange, INT (a, b) an enumeration of INTs.
    if (at_ + 2 < tokens_.size() && tokens_[at_ + 1].kind == TokenKind::Identifier &&
        (symbol_at(at_ + 2, ",") || symbol_at(at_ + 2, ")") || symbol_at(at_ + 2, ":="))) {
        spec->kind = TypeSpecKind::Enumeration;
        enumeration(*spec);
        return spec;
    }
    ++at_;
    spec->kind = TypeSpecKind::Subrange;
    ExpressionPtr low = expression();
    if (!low || !expect("..")) return nullptr;
    ExpressionPtr high = expression();
    if (!high || !expect(")")) return nullptr;
    spec->ranges.emplace_back(std::move(low), std::move(high));
    return spec;
}

void DeclarationParser::enumeration(TypeSpec& spec) {
    ++at_;  // '('
    do {
        EnumValue value;
        value.span = current().span;
        const auto name = identifier("a name");
        if (!name) break;
        value.name = *name;
        if (accept(":=")) value.value = expression();
        spec.values.push_back(std::move(value));
    } while (accept(","));
    expect(")");
    // TYPE Colour : (red, green) USINT;  and  (red, green) : USINT are both met in the field.
    if (spec.name.empty() && current().kind == TokenKind::Identifier && find_type(current().text)) {
        spec.name = std::string(current().text);
        ++at_;
    }
}

TypeSpecPtr DeclarationParser::array_spec() {
    auto spec = std::make_shared<TypeSpec>();
    spec->kind = TypeSpecKind::Array;
    spec->span = current().span;
    ++at_;
    if (!expect("[")) return nullptr;
    do {
        if (accept("*")) {
            spec->ranges.emplace_back(nullptr, nullptr);
            continue;
        }
        const auto bound = [&] {
            const std::size_t first = at_;
            return reaching(first, binary(kAdditive));
        };
        ExpressionPtr low = bound();
        if (!low || !expect("..")) return nullptr;
        ExpressionPtr high = bound();
        if (!high) return nullptr;
        spec->ranges.emplace_back(std::move(low), std::move(high));
    } while (accept(","));
    if (!expect("]") || !expect_word("of")) return nullptr;
    spec->element = type_spec();
    return spec->element ? spec : nullptr;
}

TypeSpecPtr DeclarationParser::structure_spec() {
    auto spec = std::make_shared<TypeSpec>();
    spec->kind = TypeSpecKind::Structure;
    spec->span = current().span;
    ++at_;
    accept_word("overlap");
    Declaration pattern;
    pattern.access = Access::Public;
    while (!at_end() && !is_word("end_struct")) {
        if (is_word("end_type") || is_word("end_var") || is_statement_end()) {
            error_here("expected END_STRUCT before this");
            return spec;
        }
        advancing([&] { declaration(spec->fields, pattern); });
    }
    skip();
    return spec;
}

void DeclarationParser::type_declarations(SyntaxFile& out, const NameContext& context) {
    while (!at_end() && !is_word("end_type")) {
        if (is_statement_end()) {
            error_here("expected END_TYPE before this");
            return;
        }
        TypeDeclaration type;
        const std::size_t begin = at_;
        type.span = current().span;
        type.source = source_;
        type.context = context;
        const auto name = identifier("a type's name");
        if (!name || !expect(":")) {
            while (!at_end() && !is_word("end_type") && !accept(";")) ++at_;
            continue;
        }
        type.name = *name;
        type.spec = type_spec();
        if (!type.spec) {
            while (!at_end() && !is_word("end_type") && !accept(";")) ++at_;
            continue;
        }
        if (accept(":=")) type.initial = initializer();
        out.types.push_back(std::move(type));
        if (!accept(";")) {
            const bool structure = out.types.back().spec->kind == TypeSpecKind::Structure;
            if (!structure) end_of_declaration();
        }
        out.types.back().written = from(begin);
    }
    skip();
}

/// The comment that follows on the same line describes the variable.
void DeclarationParser::describe(std::vector<Declaration>& out, std::size_t first) {
    const Token& end = previous();
    const std::string_view text = source_->text;
    const auto behind = static_cast<std::size_t>(end.text.data() + end.text.size() - text.data());
    std::string_view rest = text.substr(behind, text.find('\n', behind) - behind);
    if (rest.ends_with('\r')) rest.remove_suffix(1);
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

void DeclarationParser::skip_declaration() {
    while (!at_end() && !is_word("end_var") && !is_word("end_struct") && !is_word("end_type") && !is_statement_end()) {
        if (accept(";")) return;
        ++at_;
    }
}

}  // namespace vyard::logic
