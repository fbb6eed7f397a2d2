// Boxes of a network: calls of function blocks, of functions, and what their outputs are.
#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "core/logic/check/network_lowering.hpp"
#include "core/logic/library/standard_functions.hpp"
#include "core/logic/text/tree_makers.hpp"

namespace vyard::logic {

using base::Code;

namespace {

/// Functions that may be drawn with a sign.
std::string function_name(const std::string& type) {
    static constexpr std::array<std::pair<std::string_view, std::string_view>, 18> kSigns = {{
        {"&", "AND"},
        {">=1", "OR"},
        {"=1", "XOR"},
        {"+", "ADD"},
        {"-", "SUB"},
        {"*", "MUL"},
        {"/", "DIV"},
        {"**", "EXPT"},
        {":=", "MOVE"},
        {"=", "EQ"},
        {"==", "EQ"},
        {"<>", "NE"},
        {"<", "LT"},
        {"<=", "LE"},
        {">", "GT"},
        {">=", "GE"},
        {"1", "NOT"},
        {"%", "MOD"},
    }};
    std::string plain;
    for (const char c : type) {
        if (c != ' ') plain += c;
    }
    for (const auto& [sign, name] : kSigns) {
        if (plain == sign) return std::string(name);
    }
    return plain;
}

bool named(const DrawnPin& p, std::string_view folded) {
    return base::fold(p.name.text) == folded;
}

}  // namespace

/// A function's result is its unnamed output, or one named OUT or as the function.
bool NetworkLowering::has_result(const DrawnPin& p, const DrawnElement& e) const {
    return p.output && (p.name.empty() || named(p, "out") || named(p, base::fold(e.type.text)));
}

const DrawnPin* NetworkLowering::enable_pin(const DrawnElement& e) const {
    const auto found = std::find_if(e.pins.begin(), e.pins.end(),
                                    [](const DrawnPin& p) { return !p.output && p.net >= 0 && named(p, "en"); });
    return found == e.pins.end() ? nullptr : &*found;
}

/// A function that is computed within the one expression that needs it.
bool NetworkLowering::inlined(int number) const {
    const DrawnElement& e = element(number);
    const DrawnPin* enable = enable_pin(e);
    if (is_block(e) || e.order > 0 || (enable != nullptr && !net(enable->net).power)) return false;
    int outputs = 0;
    for (const DrawnPin& p : e.pins) {
        if (!p.output || p.net < 0) continue;
        if (!has_result(p, e) || net(p.net).from.size() != 1 || uses(p.net) != 1) return false;
        ++outputs;
    }
    return outputs == 1;
}

bool NetworkLowering::check_box(const DrawnElement& e) {
    const std::string folded = base::fold(e.type.text);
    if (!is_block(e) && place_.types.blocks.contains(folded)) {
        error(e.type.span, Code::WrongCall, fmt::format("this box of {} has no instance", e.type.text),
              "the name of a variable of that type stands on the row above the box");
        return false;
    }
    const bool function = place_.types.functions.contains(folded) ||
                          find_function(function_name(e.type.text)) != nullptr ||
                          find_conversion(e.type.text).has_value();
    if (!is_block(e) || !function || place_.types.blocks.contains(folded)) return true;
    error(e.name.span, Code::WrongCall, fmt::format("{} is a function and has no instance", e.type.text),
          "leave out the name above the box");
    return false;
}

ExpressionPtr NetworkLowering::input(const DrawnElement& e, const DrawnPin& p) {
    const Span span = p.name.span;
    ExpressionPtr value = net_value(p.net, span);
    if (p.negated) value = tree::negation(std::move(value));
    return p.edge == PinEdge::None
               ? std::move(value)
               : edge(std::move(value), p.edge == PinEdge::Rising, span, e.name.text + "$" + p.name.text);
}

std::vector<Argument> NetworkLowering::inputs(int number) {
    const DrawnElement& e = element(number);
    std::vector<Argument> out;
    for (const DrawnPin& p : e.pins) {
        if (p.output || p.net < 0 || named(p, "en")) continue;
        Argument a = tree::argument(p.name.text, input(e, p));
        a.span = p.name.span;
        out.push_back(std::move(a));
    }
    return out;
}

ExpressionPtr NetworkLowering::function_call(int number, std::vector<Argument> arguments) {
    const DrawnElement& e = element(number);
    const std::string type = function_name(e.type.text);
    if (base::fold(type) == "not" && arguments.size() == 1) return tree::negation(std::move(arguments[0].value));
    ExpressionPtr callee;
    std::size_t begin = 0;
    for (std::size_t dot = type.find('.'); begin <= type.size(); dot = type.find('.', begin)) {
        const std::string part = type.substr(begin, dot == std::string::npos ? dot : dot - begin);
        callee = callee ? tree::member(std::move(callee), part, e.type.span) : tree::name(part, e.type.span);
        if (dot == std::string::npos) break;
        begin = dot + 1;
    }
    ExpressionPtr out = tree::call_expression(std::move(callee), std::move(arguments), e.type.span);
    out->name = type;
    return out;
}

void NetworkLowering::emit_box(int number) {
    boxes_[static_cast<std::size_t>(number)].progress = Progress::Busy;
    emitting_.push_back(number);
    if (is_block(element(number))) {
        emit_block(number);
    } else {
        emit_function(number);
    }
    emitting_.pop_back();
    boxes_[static_cast<std::size_t>(number)].progress = Progress::Done;
}

void NetworkLowering::emit_block(int number) {
    const DrawnElement& e = element(number);
    BoxState& state = boxes_[static_cast<std::size_t>(number)];
    const DrawnPin* enable = enable_pin(e);
    ExpressionPtr enabled = enable != nullptr ? input(e, *enable) : nullptr;
    if (enabled && tree::is_true(*enabled)) enabled = nullptr;
    std::vector<Argument> arguments = inputs(number);
    if (enabled) {
        if (!stable(*enabled)) {
            const std::string kept = variable("line", "BOOL", e.span);
            assign(tree::name(kept, enable->name.span), std::move(enabled));
            enabled = tree::name(kept, enable->name.span);
        }
        Argument en = tree::argument("EN", clone(*enabled));
        en.span = enable->name.span;
        arguments.insert(arguments.begin(), std::move(en));
        state.enabled = clone(*enabled);
    }
    Statement s = tree::call(parse_place(e.name, "it names the box's instance"), std::move(arguments), e.name.span);
    s.value->type_prefix = e.type.text;
    out_.push_back(std::move(s));
    for (std::size_t p = 0; p < e.pins.size(); ++p) {
        const DrawnPin& out = e.pins[p];
        if (out.output && out.net < 0 && !out.name.empty() && !named(out, "eno"))
            probe(number, static_cast<int>(p), tree::member(parse(e.name), out.name.text, out.name.span));
    }
    if (!enabled) return;
    // What the outputs lead to keeps its value while EN is FALSE.
    boxes_[static_cast<std::size_t>(number)].progress = Progress::Done;
    StatementList writes;
    for (std::size_t p = 0; p < e.pins.size(); ++p) {
        if (e.pins[p].output && e.pins[p].net >= 0 && !named(e.pins[p], "eno"))
            write_targets(number, static_cast<int>(p), writes);
    }
    if (!writes.empty()) out_.push_back(tree::when(std::move(enabled), std::move(writes)));
}

/// The outputs of the network that stand alone at this pin's line.
void NetworkLowering::write_targets(int number, int pin_number, StatementList& to) {
    const DrawnPin& p = base::at(element(number).pins, pin_number);
    if (net(p.net).from.size() != 1) return;
    for (const NetEnd& end : net(p.net).to) {
        const DrawnElement& e = element(end.element);
        if (e.kind != ElementKind::Target || !taken_.insert(end.element).second) continue;
        to.push_back(
            tree::assignment(parse_place(e.name, "an output writes one"), output_value({number, pin_number}, e.span)));
    }
}

void NetworkLowering::emit_function(int number) {
    const DrawnElement& e = element(number);
    BoxState& state = boxes_[static_cast<std::size_t>(number)];
    const DrawnPin* enable = enable_pin(e);
    ExpressionPtr enabled = enable != nullptr ? input(e, *enable) : nullptr;
    if (enabled && tree::is_true(*enabled)) enabled = nullptr;
    if (enabled && !stable(*enabled)) {
        const std::string kept = variable("line", "BOOL", e.span);
        assign(tree::name(kept, enable->name.span), std::move(enabled));
        enabled = tree::name(kept, enable->name.span);
    }
    if (enabled) state.enabled = clone(*enabled);
    std::vector<Argument> arguments = inputs(number);
    int result = -1;
    const auto declared = place_.types.functions.find(base::fold(e.type.text));
    for (std::size_t i = 0; i < e.pins.size(); ++i) {
        const DrawnPin& p = e.pins[i];
        if (!p.output || p.net < 0 || named(p, "eno")) continue;
        if (has_result(p, e)) {
            result = static_cast<int>(i);
            continue;
        }
        const ProgramUnit* unit = declared != place_.types.functions.end() ? declared->second : nullptr;
        const auto field = unit == nullptr ? nullptr : [&]() -> const Declaration* {
            for (const Declaration& d : unit->declarations) {
                if (d.section == Section::Output && base::fold(d.name) == base::fold(p.name.text)) return &d;
            }
            return nullptr;
        }();
        if (field == nullptr || !field->type) {
            error(p.name.span, Code::WrongCall, fmt::format("{} has no output '{}'", e.type.text, p.name.text));
            continue;
        }
        const std::string kept = variable("output$" + e.type.text + "$" + p.name.text + "$", "", p.name.span);
        place_.unit.declarations.back().type = field->type;
        state.outputs[static_cast<int>(i)] = kept;
        Argument a = tree::argument(p.name.text, tree::name(kept, p.name.span));
        a.span = p.name.span;
        a.output = true;
        arguments.push_back(std::move(a));
    }
    ExpressionPtr call = function_call(number, std::move(arguments));
    StatementList body;
    boxes_[static_cast<std::size_t>(number)].progress = Progress::Done;
    if (result < 0) {
        Statement s;
        s.kind = StatementKind::Call;
        s.span = e.type.span;
        s.value = std::move(call);
        if (s.value->kind == ExpressionKind::Call) body.push_back(std::move(s));
    } else {
        const DrawnPin& p = base::at(e.pins, result);
        const bool straight = enabled && state.kept.empty() && !p.negated && uses(p.net) == 1 &&
                              net(p.net).from.size() == 1 &&
                              element(net(p.net).to[0].element).kind == ElementKind::Target;
        if (straight) {
            const int target = net(p.net).to[0].element;
            taken_.insert(target);
            body.push_back(
                tree::assignment(parse_place(element(target).name, "an output writes one"), std::move(call)));
        } else {
            if (state.kept.empty()) state.kept = variable("result$" + e.type.text + "$", "", e.type.span, clone(*call));
            body.push_back(tree::assignment(tree::name(state.kept, e.type.span), std::move(call)));
            if (enabled) write_targets(number, result, body);
        }
    }
    if (enabled) {
        for (const auto& [pin_number, name] : state.outputs) write_targets(number, pin_number, body);
        if (!body.empty()) out_.push_back(tree::when(std::move(enabled), std::move(body)));
        return;
    }
    for (Statement& s : body) out_.push_back(std::move(s));
}

/// Whether the box that is being computed stands before this one by their stated orders.
bool NetworkLowering::looks_back(int number) const {
    if (emitting_.empty()) return false;
    const int here = element(emitting_.back()).order;
    return here > 0 && element(number).order > 0 && element(number).order >= here;
}

ExpressionPtr NetworkLowering::output_value(const NetEnd& from, Span span) {
    const DrawnElement& e = element(from.element);
    const DrawnPin& p = pin(from);
    BoxState& state = base::at(boxes_, from.element);
    ExpressionPtr out;
    if (state.progress != Progress::Done && looks_back(from.element)) {
        out = last_value(from, span);
    } else if (state.progress == Progress::Busy) {
        if (!loop_reported_)
            error(e.span, Code::Syntax,
                  fmt::format("the box '{}' is in a loop of lines, and nothing says which box goes first",
                              e.name.empty() ? e.type.text : e.name.text),
                  "take the loop through a variable, or write an order into the lower edges of its boxes: +--1--+");
        loop_reported_ = true;
        return tree::truth(false, span);
    } else if (state.progress == Progress::Open && inlined(from.element)) {
        state.progress = Progress::Busy;
        emitting_.push_back(from.element);
        out = function_call(from.element, inputs(from.element));
        emitting_.pop_back();
        state.progress = Progress::Done;
    } else {
        if (state.progress == Progress::Open) emit_box(from.element);
        out = last_value(from, span);
    }
    probe(from.element, from.pin, p.negated ? tree::negation(clone(*out)) : clone(*out));
    return p.negated ? tree::negation(std::move(out)) : std::move(out);
}

/// What an output holds: of a block its field, of a function the variable that keeps it.
ExpressionPtr NetworkLowering::last_value(const NetEnd& from, Span span) {
    const DrawnElement& e = element(from.element);
    const DrawnPin& p = pin(from);
    BoxState& state = base::at(boxes_, from.element);
    if (state.bad) return tree::name(state.kept, span);
    if (named(p, "eno")) return state.enabled ? clone(*state.enabled) : tree::truth(true, span);
    if (is_block(e)) {
        if (p.name.empty()) {
            error(p.name.span, Code::WrongCall, fmt::format("this output of {} has no name", e.type.text));
            return tree::truth(false, span);
        }
        // A VAR_IN_OUT stands at both sides: behind the box it is the variable in front of it.
        for (const DrawnPin& in : e.pins) {
            if (in.output || in.net < 0 || base::fold(in.name.text) != base::fold(p.name.text)) continue;
            return net_value(in.net, span);
        }
        return tree::member(parse_place(e.name, "it names the box's instance"), p.name.text, p.name.span);
    }
    if (const auto output = state.outputs.find(from.pin); output != state.outputs.end())
        return tree::name(output->second, span);
    if (state.kept.empty()) {
        ExpressionPtr like = loop_type(from.element);
        if (!like)
            error(e.span, Code::TypeMismatch,
                  fmt::format("the type of what {} gives into this loop is not known", e.type.text),
                  "take the loop through a variable");
        state.kept = variable("result$" + e.type.text + "$", "", e.type.span, std::move(like));
    }
    return tree::name(state.kept, span);
}

/// Something that has the type of a function's result, for a loop that is entered before the function was computed.
ExpressionPtr NetworkLowering::loop_type(int number) {
    const DrawnElement& e = element(number);
    const FunctionInfo* info = find_function(function_name(e.type.text));
    const bool comparison = info != nullptr && info->function == Function::Operate && info->op >= Operator::Equal &&
                            info->op <= Operator::GreaterEqual;
    if (comparison) return tree::truth(false, e.type.span);
    for (const DrawnPin& p : e.pins) {
        if (p.output || p.net < 0 || named(p, "en") || named(p, "g") || named(p, "k")) continue;
        for (const NetEnd& from : net(p.net).from) {
            if (element(from.element).kind == ElementKind::Source) return parse(element(from.element).name);
            if (element(from.element).kind == ElementKind::Contact) return tree::truth(false, e.type.span);
        }
    }
    return nullptr;
}

}  // namespace vyard::logic
