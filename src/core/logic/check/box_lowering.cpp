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
    const bool always =
        enable == nullptr || (net(enable->net).power && !enable->negated && enable->edge == PinEdge::None);
    if (is_block(e) || e.order > 0 || !always) return false;
    int outputs = 0;
    for (const DrawnPin& p : e.pins) {
        if (!p.output || p.net < 0) continue;
        if (!has_result(p, e) || net(p.net).from.size() != 1 || uses(p.net) != 1) return false;
        ++outputs;
    }
    return outputs == 1;
}

/// Whether a function takes something that this network writes, so that it matters when it is computed.
bool NetworkLowering::reads_written(int number) {
    std::vector<int> open{number};
    std::set<int> asked;
    while (!open.empty()) {
        const DrawnElement& e = element(open.back());
        open.pop_back();
        if (e.kind == ElementKind::Source && written(*parse(e.name))) return true;
        if (e.kind == ElementKind::Contact && (written(*parse(e.name)) || !e.second.empty())) return true;
        for (const DrawnPin& p : e.pins) {
            if (p.output || p.net < 0 || !asked.insert(p.net).second) continue;
            for (const NetEnd& from : net(p.net).from) {
                if (element(from.element).kind != ElementKind::Box || inlined(from.element))
                    open.push_back(from.element);
            }
        }
    }
    return false;
}

const ProgramUnit* NetworkLowering::declared(const DrawnElement& e) const {
    const auto found = place_.types.functions.find(base::fold(e.type.text));
    return found == place_.types.functions.end() ? nullptr : found->second;
}

bool NetworkLowering::check_box(int number) {
    const DrawnElement& e = element(number);
    const std::string folded = base::fold(e.type.text);
    const bool block = place_.types.blocks.contains(folded);
    if (!is_block(e) && block) {
        error(e.type.span, Code::WrongCall, fmt::format("this box of {} has no instance", e.type.text),
              "the name of a variable of that type stands on the row above the box");
        return false;
    }
    const bool function = declared(e) != nullptr || find_function(function_of_sign(e.type.text)) != nullptr ||
                          find_conversion(e.type.text).has_value();
    if (is_block(e) && function && !block) {
        error(e.name.span, Code::WrongCall, fmt::format("{} is a function and has no instance", e.type.text),
              "leave out the name above the box");
        return false;
    }
    return check_pins(e);
}

/// What a call would not say: marks that mean nothing, and names of pins that no line leads to.
bool NetworkLowering::check_pins(const DrawnElement& e) {
    bool good = true;
    int results = 0;
    for (const DrawnPin& p : e.pins) {
        if (p.output && p.edge != PinEdge::None) {
            error(p.name.span, Code::Syntax, "an edge is looked for at an input, this is an output",
                  "lead the output to a contact |P|, or to a pin that is marked");
            good = false;
        }
        if (is_block(e)) continue;
        results += has_result(p, e) ? 1 : 0;
        if (has_result(p, e) && results > 1) {
            error(p.name.span, Code::WrongCall, fmt::format("{} has one result, and this is its second", e.type.text));
            good = false;
        }
        good = check_function_pin(e, p, declared(e)) && good;
    }
    return good;
}

bool NetworkLowering::check_function_pin(const DrawnElement& e, const DrawnPin& p, const ProgramUnit* unit) {
    if (p.name.empty() || named(p, p.output ? "eno" : "en") || has_result(p, e)) return true;
    if (p.net >= 0 && !p.output) return true;  // the call says it
    const FunctionInfo* standard = find_function(function_of_sign(e.type.text));
    if (unit == nullptr && standard == nullptr && !p.output) return true;  // the call says it
    std::vector<std::string> known;
    if (unit != nullptr) {
        for (const Declaration& d : unit->declarations) {
            const bool input = d.section == Section::Input || d.section == Section::InOut;
            const bool output = d.section == Section::Output || d.section == Section::InOut;
            if (p.output ? !output : !input) continue;
            if (base::fold(d.name) == base::fold(p.name.text)) return true;
            known.push_back(d.name);
        }
    } else if (!p.output) {
        error(p.name.span, Code::WrongCall, fmt::format("no line leads to '{}' of {}", p.name.text, e.type.text));
        return false;
    }
    error(p.name.span, Code::WrongCall,
          fmt::format("{} has no {} '{}'{}", e.type.text, p.output ? "output" : "input", p.name.text,
                      unit == nullptr && standard == nullptr ? " that is known here" : ""),
          base::name_hint(p.name.text, known));
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
    const std::string type = function_of_sign(e.type.text);
    if (base::fold(type) == "not" && arguments.size() == 1) return tree::negation(std::move(arguments[0].value));
    ExpressionPtr callee = type.find('.') == std::string::npos ? tree::name(type, e.type.span) : parse(e.type);
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

/// The value at EN; null when the box is always done.
ExpressionPtr NetworkLowering::enabled(const DrawnElement& e) {
    const DrawnPin* pin = enable_pin(e);
    ExpressionPtr value = pin != nullptr ? input(e, *pin) : nullptr;
    return value && tree::is_true(*value) ? nullptr : std::move(value);
}

/// It is asked for several times, so that it is kept where it might change meanwhile.
ExpressionPtr NetworkLowering::kept_enable(const DrawnElement& e, ExpressionPtr value) {
    if (!value || stable(*value)) return value;
    const Span span = enable_pin(e)->name.span;
    const std::string kept = variable("line", "BOOL", e.span);
    assign(tree::name(kept, span), std::move(value));
    return tree::name(kept, span);
}

void NetworkLowering::emit_block(int number) {
    const DrawnElement& e = element(number);
    BoxState& state = base::at(boxes_, number);
    ExpressionPtr enable = kept_enable(e, enabled(e));
    std::vector<Argument> arguments = inputs(number);
    if (enable) {
        Argument en = tree::argument("EN", clone(*enable));
        en.span = enable_pin(e)->name.span;
        arguments.insert(arguments.begin(), std::move(en));
        state.enabled = clone(*enable);
    }
    Statement s = tree::call(parse_place(e.name, "it names the box's instance"), std::move(arguments), e.name.span);
    s.value->type_prefix = e.type.text;
    out_.push_back(std::move(s));
    state.progress = Progress::Done;
    StatementList writes;
    for (int p = 0; p < static_cast<int>(e.pins.size()); ++p) {
        const DrawnPin& at = base::at(e.pins, p);
        if (named(at, at.output ? "eno" : "en")) continue;
        if (at.net < 0)
            probe(number, p, tree::member(clone(*out_.back().value->operands[0]), at.name.text, at.name.span), true);
        // What the outputs lead to keeps its value while EN is FALSE.
        if (at.net >= 0 && at.output && enable) write_targets(number, p, writes);
    }
    if (!writes.empty()) out_.push_back(tree::when(std::move(enable), std::move(writes)));
}

/// All that takes the value of a line that one pin alone feeds, also where it goes on by its name.
std::vector<NetEnd> NetworkLowering::takers(int number) const {
    std::vector<NetEnd> out;
    if (net(number).from.size() != 1) return out;
    out = net(number).to;
    for (std::size_t i = 0; i < out.size() && i < network_.elements.size(); ++i) {
        const DrawnElement& leave = element(out[i].element);
        if (leave.kind != ElementKind::Leave) continue;
        for (const DrawnElement& enter : network_.elements) {
            if (enter.kind != ElementKind::Enter || base::fold(enter.name.text) != base::fold(leave.name.text))
                continue;
            const DrawnNet& more = net(enter.pins[0].net);
            if (more.from.size() == 1) out.insert(out.end(), more.to.begin(), more.to.end());
        }
    }
    return out;
}

/// Writes the outputs of the network that stand at this pin's line.
void NetworkLowering::write_targets(int number, int pin_number, StatementList& to) {
    for (const NetEnd& end : takers(base::at(element(number).pins, pin_number).net)) {
        const DrawnElement& e = element(end.element);
        if (e.kind != ElementKind::Target || !taken_.insert(end.element).second) continue;
        to.push_back(
            tree::assignment(parse_place(e.name, "an output writes one"), output_value({number, pin_number}, e.span)));
    }
}

/// What has the type of a function's result: the call, or of literals alone the variable that it is for.
ExpressionPtr NetworkLowering::result_type(const Expression& call, int net_number) {
    const bool literals = std::all_of(call.arguments.begin(), call.arguments.end(),
                                      [](const Argument& a) { return a.value->kind == ExpressionKind::Literal; });
    for (const NetEnd& end : literals ? takers(net_number) : std::vector<NetEnd>()) {
        if (element(end.element).kind == ElementKind::Target) return parse(element(end.element).name);
    }
    return clone(call);
}

/// Adds the further outputs of a function to its arguments, each with a variable; the pin of its result, -1 for none.
int NetworkLowering::function_outputs(int number, std::vector<Argument>& arguments) {
    const DrawnElement& e = element(number);
    int result = -1;
    for (int i = 0; i < static_cast<int>(e.pins.size()); ++i) {
        const DrawnPin& p = base::at(e.pins, i);
        if (!p.output || p.net < 0 || named(p, "eno")) continue;
        if (has_result(p, e)) {
            result = i;
            continue;
        }
        const std::string kept = variable("output$" + e.type.text + "$" + p.name.text + "$", "", p.name.span);
        for (const Declaration& d : declared(e)->declarations) {
            if (base::fold(d.name) == base::fold(p.name.text)) place_.unit.declarations.back().type = d.type;
        }
        base::at(boxes_, number).outputs[i] = kept;
        Argument a = tree::argument(p.name.text, tree::name(kept, p.name.span));
        a.span = p.name.span;
        a.output = true;
        arguments.push_back(std::move(a));
    }
    return result;
}

/// The call, and what its outputs lead to while EN decides on both.
StatementList NetworkLowering::function_writes(int number, int result, ExpressionPtr call, bool enabled) {
    const DrawnElement& e = element(number);
    BoxState& state = base::at(boxes_, number);
    StatementList out;
    if (result < 0) {
        Statement s;
        s.kind = StatementKind::Call;
        s.span = e.type.span;
        s.value = std::move(call);
        if (s.value->kind == ExpressionKind::Call) out.push_back(std::move(s));  // a NOT for nobody is nothing
        return out;
    }
    const DrawnPin& p = base::at(e.pins, result);
    const bool straight = enabled && state.kept.empty() && !p.negated && uses(p.net) == 1 &&
                          net(p.net).from.size() == 1 && element(net(p.net).to[0].element).kind == ElementKind::Target;
    if (straight) {
        const int target = net(p.net).to[0].element;
        taken_.insert(target);
        out.push_back(tree::assignment(parse_place(element(target).name, "an output writes one"), std::move(call)));
        return out;
    }
    if (state.kept.empty())
        state.kept = variable("result$" + e.type.text + "$", "", e.type.span, result_type(*call, p.net));
    out.push_back(tree::assignment(tree::name(state.kept, e.type.span), std::move(call)));
    if (enabled) write_targets(number, result, out);
    return out;
}

void NetworkLowering::emit_function(int number) {
    const DrawnElement& e = element(number);
    BoxState& state = base::at(boxes_, number);
    ExpressionPtr enable = kept_enable(e, enabled(e));
    if (enable) state.enabled = clone(*enable);
    std::vector<Argument> arguments = inputs(number);
    const int result = function_outputs(number, arguments);
    ExpressionPtr call = function_call(number, std::move(arguments));
    state.progress = Progress::Done;
    StatementList body = function_writes(number, result, std::move(call), enable != nullptr);
    if (!enable) {
        for (Statement& s : body) out_.push_back(std::move(s));
        return;
    }
    for (const auto& [pin_number, name] : state.outputs) write_targets(number, pin_number, body);
    if (!body.empty()) out_.push_back(tree::when(std::move(enable), std::move(body)));
}

/// Whether the box that is being computed stands before this one by their stated orders.
bool NetworkLowering::looks_back(int number) const {
    if (emitting_.empty()) return false;
    const int here = element(emitting_.back()).order;
    const bool done = base::at(boxes_, number).progress == Progress::Done;
    return !done && here > 0 && element(number).order > 0 && element(number).order >= here;
}

ExpressionPtr NetworkLowering::output_value(const NetEnd& from, Span span) {
    const DrawnElement& e = element(from.element);
    const DrawnPin& p = pin(from);
    BoxState& state = base::at(boxes_, from.element);
    ExpressionPtr out;
    if (looks_back(from.element)) {
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
        std::set<int> asked{from.element};
        ExpressionPtr like = loop_type(from.element, asked);
        if (!like)
            error(e.span, Code::TypeMismatch,
                  fmt::format("the type of what {} gives into this loop is not known", e.type.text),
                  "take the loop through a variable");
        state.kept = variable("result$" + e.type.text + "$", "", e.type.span, std::move(like));
    }
    return tree::name(state.kept, span);
}

/// Something that has the type of a function's result, for a loop that is entered before the function was computed.
ExpressionPtr NetworkLowering::loop_type(int number, std::set<int>& asked) {
    const DrawnElement& e = element(number);
    const FunctionInfo* info = find_function(function_of_sign(e.type.text));
    const bool comparison = info != nullptr && info->function == Function::Operate && info->op >= Operator::Equal &&
                            info->op <= Operator::GreaterEqual;
    if (comparison) return tree::truth(false, e.type.span);
    for (const DrawnPin& p : e.pins) {
        if (p.output || p.net < 0 || named(p, "en") || named(p, "g") || named(p, "k")) continue;
        for (const NetEnd& from : net(p.net).from) {
            if (ExpressionPtr like = type_of(from, asked)) return like;
        }
    }
    return nullptr;
}

/// Something that has the type of what stands at the end of a line; null when that is not known without computing it.
ExpressionPtr NetworkLowering::type_of(const NetEnd& from, std::set<int>& asked) {
    const DrawnElement& e = element(from.element);
    if (e.kind == ElementKind::Source) return parse(e.name);
    if (e.kind == ElementKind::Contact) return tree::truth(false, e.span);
    if (e.kind != ElementKind::Box || !asked.insert(from.element).second) return nullptr;
    if (named(pin(from), "eno")) return tree::truth(false, e.span);
    if (!is_block(e)) return loop_type(from.element, asked);
    return tree::member(parse_place(e.name, "it names the box's instance"), pin(from).name.text, e.span);
}

}  // namespace vyard::logic
