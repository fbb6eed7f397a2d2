// Calls: function blocks, functions, methods; their arguments bound to fields.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "core/logic/check/expression_checker.hpp"
#include "core/logic/library/standard_functions.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

namespace {

constexpr TypeRef kVoid{E::Void, -1};

const char* section_word(bool output) {
    return output ? "output" : "input";
}

}  // namespace

TypeRef ExpressionChecker::call(ExpressionPtr& e, bool statement) {
    Expression& callee = *e->operands[0];
    if (logic_ == nullptr) return call_standard(e);
    if (callee.kind == ExpressionKind::Super) return call_super(e, statement);
    if (callee.kind == ExpressionKind::Member) return call_member(e, statement);
    if (callee.kind == ExpressionKind::Name) {
        const auto symbol = scope_.symbols()->find(callee.name, scope_.context());
        // A variable may have the name of a function: what cannot be called is not meant.
        const E type = scope_.peek(callee.name).elementary;
        const bool plain = (is_scalar(type) || is_text(type)) &&
                           (find_function(callee.name) != nullptr || find_conversion(callee.name));
        if (!scope_.knows(callee.name) || plain || (symbol && symbol->kind == SymbolKind::Unit && !statement)) {
            if (const int method = own_method(callee.name); method >= 0) {
                auto self = std::make_unique<Expression>();
                self->kind = ExpressionKind::This;
                self->span = callee.span;
                const std::string name = callee.name;
                e->operands[0] = std::move(self);
                return call_method(
                    e, logic_->block(scope_.unit()).owner >= 0 ? logic_->block(scope_.unit()).owner : scope_.unit(),
                    name, false);
            }
            if (symbol && symbol->kind == SymbolKind::Unit &&
                logic_->block(symbol->number).kind == LayoutKind::Function)
                return call_function(e, symbol->number);
            if (find_conversion(callee.name) || find_function(callee.name)) return call_standard(e);
            if (symbol && symbol->kind == SymbolKind::Unit) return unknown_call(*e);
            if (!statement) return call_standard(e);
        }
    }
    return call_block(*e, statement);
}

int ExpressionChecker::own_method(const std::string& name) const {
    if (scope_.unit() < 0) return -1;
    const Layout& unit = logic_->block(scope_.unit());
    return logic_->find_method(unit.owner >= 0 ? unit.owner : scope_.unit(), base::fold(name));
}

TypeRef ExpressionChecker::unknown_call(const Expression& e) {
    const auto symbol = scope_.symbols()->find(e.name, scope_.context());
    const LayoutKind kind = logic_->block(symbol->number).kind;
    const bool block = kind == LayoutKind::FunctionBlock || kind == LayoutKind::StandardBlock;
    error(
        Code::WrongCall, e.span,
        fmt::format("'{}' is a {}", e.name,
                    block                         ? "function block type"
                    : kind == LayoutKind::Program ? "program"
                                                  : "type"),
        block ? fmt::format("declare an instance, such as {}_1 : {};, and call that", base::fold(e.name), e.name) : "");
    return kNothing;
}

TypeRef ExpressionChecker::call_member(ExpressionPtr& e, bool statement) {
    Expression& callee = *e->operands[0];
    const std::string dotted = dotted_name(callee);
    if (!dotted.empty() && !scope_.knows(dotted.substr(0, dotted.find('.')))) {
        const auto symbol = scope_.symbols()->find(dotted, scope_.context());
        if (symbol && symbol->kind == SymbolKind::Unit && logic_->block(symbol->number).kind == LayoutKind::Function)
            return call_function(e, symbol->number);
        if (!scope_.knows(dotted)) {
            const std::string head = dotted.substr(0, dotted.find('.'));
            if (scope_.symbols()->is_namespace(head, scope_.context())) {
                error(Code::UnknownName, e->span, fmt::format("no function is named '{}'", dotted));
                return kNothing;
            }
        }
    }
    ExpressionPtr& base = callee.operands[0];
    if (base->kind == ExpressionKind::Super) {
        const Layout& unit = logic_->block(std::max(scope_.unit(), 0));
        const int self = unit.owner >= 0 ? unit.owner : scope_.unit();
        const int parent = self >= 0 ? logic_->block(self).parent : -1;
        if (parent < 0) {
            error(Code::WrongCall, base->span, "SUPER is known only in a block that EXTENDS another");
            return kNothing;
        }
        base->kind = ExpressionKind::This;
        const std::string name = callee.name;
        ExpressionPtr instance = std::move(base);
        e->operands[0] = std::move(instance);
        return call_method(e, parent, name, true);
    }
    // a.b(): a method of a, or an instance b inside of a
    if (!dotted.empty() && scope_.knows(dotted)) return call_block(*e, statement);
    const auto found = place(base, Use::Read);
    if (!found) return kNothing;
    const bool has_methods = found->type.is(E::Block) || found->type.is(E::Interface);
    if (has_methods && logic_->find_method(found->type.index, base::fold(callee.name)) >= 0) {
        const std::string name = callee.name;
        ExpressionPtr instance = std::move(base);
        if (found->field != nullptr) found->field->read = found->field->written = true;
        e->operands[0] = std::move(instance);
        return call_method(e, found->type.index, name, false);
    }
    if (found->type.is(E::Interface)) {
        std::vector<std::string> known;
        for (const int m : logic_->block(found->type.index).methods) known.push_back(logic_->block(m).unit->name);
        error(Code::UnknownName, e->span, fmt::format("{} has no method '{}'", type_text(found->type), callee.name),
              base::name_hint(callee.name, known));
        return kNothing;
    }
    return call_block(*e, statement);
}

TypeRef ExpressionChecker::call_block(Expression& e, bool statement) {
    ExpressionPtr& instance = e.operands[0];
    const auto found = place(instance, Use::Write);
    if (!found) return kNothing;
    const std::string name = written_text(*instance);
    if (!found->type.is(E::Block)) {
        error(Code::WrongCall, e.span, fmt::format("'{}' is {}, not a function block", name, type_text(found->type)));
        return kNothing;
    }
    if (!statement) {
        error(Code::WrongCall, e.span, fmt::format("'{}' is a function block and gives no value", name),
              "call it as a statement of its own, and read its outputs behind it");
        return kNothing;
    }
    Layout& block = logic_->block(found->type.index);
    if (block.unit != nullptr && block.unit->is_class) {
        error(Code::WrongCall, e.span, fmt::format("'{}' is a class; call its methods", name));
        return kNothing;
    }
    e.call = CallKind::Block;
    e.detail = found->type.index;
    e.name = name;
    const std::string last = block.name.substr(block.name.rfind('.') + 1);
    if (!e.type_prefix.empty() && base::fold(e.type_prefix) != base::fold(block.name) &&
        base::fold(e.type_prefix) != base::fold(last)) {
        error(Code::TypeMismatch, e.span, fmt::format("'{}' is {}, the box says {}", name, block.name, e.type_prefix));
        return kNothing;
    }
    bind(block, e, block.name);
    return kVoid;
}

TypeRef ExpressionChecker::call_super(ExpressionPtr& e, bool statement) {
    const Layout* unit = scope_.unit() >= 0 ? &logic_->block(scope_.unit()) : nullptr;
    const int parent = unit != nullptr ? unit->parent : -1;
    if (parent < 0 || !statement || !e->arguments.empty()) {
        error(Code::WrongCall, e->span,
              parent < 0 ? "SUPER is known only in a block that EXTENDS another"
                         : "SUPER() stands as a statement of its own, without arguments");
        return kNothing;
    }
    e->call = CallKind::SuperBody;
    e->detail = parent;
    logic_->calls.push_back({scope_.unit(), parent, true, place_in(source_, e->span)});
    return kVoid;
}

TypeRef ExpressionChecker::call_function(ExpressionPtr& e, int function) {
    Layout& layout = logic_->block(function);
    e->call = CallKind::Function;
    e->detail = function;
    e->name = layout.name;
    if (!bind(layout, *e, layout.name)) return kNothing;
    return layout.result;
}

TypeRef ExpressionChecker::call_method(ExpressionPtr& e, int block, const std::string& name, bool direct) {
    const int method = logic_->find_method(block, base::fold(name));
    if (method < 0) {
        error(Code::UnknownName, e->span, fmt::format("{} has no method '{}'", logic_->block(block).name, name));
        return kNothing;
    }
    if (e->operands[0]->kind == ExpressionKind::This && !place(e->operands[0], Use::Read)) return kNothing;
    Layout& layout = logic_->block(method);
    const bool inside = e->operands[0]->kind == ExpressionKind::This;
    if (!inside && (layout.unit->access == Access::Private || layout.unit->access == Access::Protected)) {
        error(Code::WrongCall, e->span,
              fmt::format("'{}' is {}: only the block itself calls it", layout.name,
                          layout.unit->access == Access::Private ? "PRIVATE" : "PROTECTED"));
        return kNothing;
    }
    if (direct && layout.unit->is_abstract) {
        error(Code::WrongCall, e->span, fmt::format("'{}' is ABSTRACT and has no body", layout.name));
        return kNothing;
    }
    e->call = CallKind::Method;
    e->detail = method;
    e->negative = direct;
    e->name = layout.name;
    if (!bind(layout, *e, layout.name)) return kNothing;
    return layout.result;
}

// --- arguments ---

bool ExpressionChecker::bind(Layout& callee, Expression& e, const std::string& shown) {
    if (callee.unit != nullptr)
        logic_->calls.push_back(
            {scope_.unit(), e.detail, e.call != CallKind::Method || e.negative, place_in(source_, e.span)});
    std::size_t position = 0;
    bool ok = true;
    const int before = diagnostics_.error_count();
    for (Argument& a : e.arguments) ok = bind_argument(callee, a, position, shown, true) && ok;
    for (std::size_t i = 0; i < e.arguments.size(); ++i) {
        for (std::size_t k = 0; k < i; ++k) {
            if (e.arguments[i].field == -1 || e.arguments[i].field != e.arguments[k].field) continue;
            error(Code::WrongCall, e.arguments[i].span,
                  fmt::format("argument '{}' is given twice", e.arguments[i].name));
            ok = false;
        }
    }
    if (ok && !complete(callee, e, shown)) return false;
    for (std::size_t f = 0; ok && f < callee.fields.size(); ++f) {
        const Field& field = callee.fields[f];
        const bool open_input = field.section == Section::InOut;
        bool given = !open_input;
        for (const Argument& a : e.arguments) given = given || a.field == static_cast<int>(f);
        if (given) continue;
        error(Code::WrongCall, e.span, fmt::format("VAR_IN_OUT '{}' of {} is not given", field.name, shown),
              fmt::format("write {}({} := variable)", e.name, field.name));
        ok = false;
    }
    return ok && diagnostics_.error_count() == before;
}

/// Arguments without names are all the inputs, in their order; with names some may be left out, and have their initial
/// value (IEC 61131-3, 6.6.1.4.2).
bool ExpressionChecker::complete(const Layout& callee, const Expression& e, const std::string& shown) {
    const auto unnamed = std::count_if(e.arguments.begin(), e.arguments.end(),
                                       [](const Argument& a) { return a.name.empty() && a.field >= 0; });
    if (unnamed == 0) return true;
    std::vector<std::string> missing;
    for (std::size_t f = 0; f < callee.fields.size(); ++f) {
        const Field& field = callee.fields[f];
        if (field.section != Section::Input && field.section != Section::InOut) continue;
        const bool given = std::any_of(e.arguments.begin(), e.arguments.end(),
                                       [&](const Argument& a) { return a.field == static_cast<int>(f); });
        if (!given) missing.push_back(field.name);
    }
    if (missing.empty()) return true;
    error(Code::WrongCall, e.span,
          fmt::format("a call without names gives all inputs of {}; '{}' {} missing", shown, fmt::join(missing, "', '"),
                      missing.size() == 1 ? "is" : "are"),
          "name the arguments to leave some at their initial values: NAME := value");
    return false;
}

bool ExpressionChecker::bind_argument(Layout& callee, Argument& a, std::size_t& position, const std::string& shown,
                                      bool enable) {
    const auto section = [&](std::size_t i) { return callee.fields[i].section; };
    if (a.name.empty()) {
        while (position < callee.fields.size() && section(position) != Section::Input &&
               section(position) != Section::InOut)
            ++position;
        if (position == callee.fields.size()) {
            error(Code::WrongCall, a.value->span, fmt::format("{} has no more inputs", shown));
            infer(a.value);
            return false;
        }
        a.field = static_cast<int>(position++);
    } else {
        const auto found = callee.by_name.find(base::fold(a.name));
        const auto fits = [&](Section s) {
            return a.output ? s == Section::Output : s == Section::Input || s == Section::InOut;
        };
        if (found == callee.by_name.end() || !fits(section(static_cast<std::size_t>(found->second)))) {
            const std::string folded = base::fold(a.name);
            if (enable && folded == "en" && !a.output) {
                a.field = kEnable;
                return check(a.value, E::Bool, "EN");
            }
            if (enable && folded == "eno" && a.output) {
                a.field = kEnableOut;
                const auto to = target(a.value);
                if (to && !to->type.is(E::Bool)) error(Code::TypeMismatch, a.value->span, "ENO is BOOL");
                return to.has_value();
            }
            std::vector<std::string> known;
            for (const Field& f : callee.fields) {
                if (fits(f.section)) known.push_back(f.name);
            }
            error(Code::WrongCall, a.span, fmt::format("{} has no {} '{}'", shown, section_word(a.output), a.name),
                  base::name_hint(a.name, known));
            infer(a.value);
            return false;
        }
        a.field = found->second;
    }
    Field& field = base::at(callee.fields, a.field);
    field.read = field.written = true;
    if (field.type.is(E::None)) return false;
    if (a.output) return bind_output(field, a);
    if (field.section == Section::InOut) return bind_in_out(field, a);
    return check(a.value, field.type, fmt::format("input {} of {}", field.name, shown));
}

bool ExpressionChecker::bind_in_out(const Field& field, Argument& a) {
    if (!is_place(a.value->kind)) {
        infer(a.value);
        error(Code::WrongCall, a.value->span, fmt::format("VAR_IN_OUT '{}' needs a variable", field.name));
        return false;
    }
    const auto found = place(a.value, Use::Write);
    if (!found) return false;
    if (found->field != nullptr) found->field->read = true;
    if (!found->writable && !found->type.is(E::Block)) {
        error(Code::NotAssignable, a.value->span,
              fmt::format("'{}' cannot be written: {}", written_text(*a.value), found->why_not_writable));
        return false;
    }
    bool fits = logic_->same(found->type, field.type) && (!derived(found->type) || found->type == field.type);
    if (field.type.is(E::Array) && found->type.is(E::Array) && logic_->type(field.type).open) {
        const DerivedType& open = logic_->type(field.type);
        const DerivedType& given = logic_->type(found->type);
        fits = logic_->same(open.element, given.element) && open.dimensions.size() == given.dimensions.size() &&
               !given.open;
    }
    if (field.type.is(E::Block) && found->type.is(E::Block))
        fits = logic_->is_kind_of(found->type.index, field.type.index);
    if (fits) return true;
    error(Code::TypeMismatch, a.value->span,
          fmt::format("VAR_IN_OUT {} is {}, but '{}' is {}", field.name, type_text(field.type), written_text(*a.value),
                      type_text(found->type)));
    return false;
}

bool ExpressionChecker::bind_output(const Field& field, Argument& a) {
    const auto found = target(a.value);
    if (!found) return false;
    const bool fits = logic_->same(found->type, field.type) || found->type.elementary == field.type.elementary ||
                      (is_scalar(field.type.elementary) && widens(field.type.elementary, found->type.elementary) &&
                       !enumeration(found->type));
    if (!fits) {
        error(Code::TypeMismatch, a.value->span,
              fmt::format("output {} is {}, but '{}' is {}", field.name, type_text(field.type), written_text(*a.value),
                          type_text(found->type)));
    }
    if (a.negated && !field.type.is(E::Bool))
        error(Code::TypeMismatch, a.span,
              fmt::format("NOT needs a BOOL output, {} is {}", field.name, type_text(field.type)));
    return fits;
}

}  // namespace vyard::logic
