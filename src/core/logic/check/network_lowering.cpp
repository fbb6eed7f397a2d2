#include "core/logic/check/network_lowering.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/logic/text/parser.hpp"
#include "core/logic/text/tree_makers.hpp"

namespace vyard::logic {

using base::Code;
using tree::is_true;

namespace {

/// The first name of a place, folded: "h" of h[i].x; "" when it has none.
std::string base_name(const Expression& e) {
    if (e.kind == ExpressionKind::Name || e.kind == ExpressionKind::Direct) return base::fold(e.name);
    if (!is_place(e.kind) || e.operands.empty()) return {};
    return base_name(*e.operands[0]);
}

Operator comparison_of(const std::string& text) {
    return text == "="    ? Operator::Equal
           : text == "<>" ? Operator::NotEqual
           : text == "<"  ? Operator::Less
           : text == "<=" ? Operator::LessEqual
           : text == ">"  ? Operator::Greater
                          : Operator::GreaterEqual;
}

}  // namespace

StatementList NetworkLowering::run() {
    note_written();
    for (int i = 0; i < static_cast<int>(network_.elements.size()); ++i) {
        BoxState& state = base::at(boxes_, i);
        if (element(i).kind != ElementKind::Box || check_box(i)) continue;
        state.bad = true;
        state.progress = Progress::Done;
        state.kept = variable("result$", "", element(i).span);
    }
    std::vector<int> order;
    order.reserve(network_.elements.size());
    for (int i = 0; i < static_cast<int>(network_.elements.size()); ++i) order.push_back(i);
    // Boxes with a stated order keep it among themselves.
    std::vector<int> stated;
    for (const int i : order) {
        if (element(i).order > 0) stated.push_back(i);
    }
    std::stable_sort(stated.begin(), stated.end(), [&](int a, int b) { return element(a).order < element(b).order; });
    std::size_t next = 0;
    for (int& i : order) {
        if (element(i).order > 0) i = stated[next++];
    }
    for (const int i : order) take(i);
    for (Statement& s : jumps_) out_.push_back(std::move(s));
    return std::move(out_);
}

void NetworkLowering::probe(int number, int pin, ExpressionPtr value, bool bare) {
    if (probed_.insert({number, pin}).second) probes_.push_back({0, number, pin, std::move(value), bare});
}

// --- texts ---

ExpressionPtr NetworkLowering::parse(const DrawnText& text) {
    const base::SourcePtr& source = place_.unit.source;
    const std::vector<Token> tokens =
        tokenize_piece(source, text.offset, text.text.size(), text.span.line, text.span.column, place_.diagnostics);
    std::size_t at = 0;
    ExpressionPtr out = parse_expression(source, tokens, at, place_.diagnostics);
    if (out && tokens[at].kind != TokenKind::End)
        error(tokens[at].span, Code::Syntax, fmt::format("'{}' is not a name, value or expression", text.text),
              "two names need two blanks between them");
    return out ? std::move(out) : tree::truth(false, text.span);
}

ExpressionPtr NetworkLowering::parse_place(const DrawnText& text, const char* what) {
    ExpressionPtr out = parse(text);
    if (!is_place(out->kind) && out->kind != ExpressionKind::Literal)
        error(text.span, Code::NotAssignable, fmt::format("'{}' is not a variable; {}", text.text, what));
    return out;
}

std::string NetworkLowering::variable(const std::string& what, const std::string& type, Span span, ExpressionPtr like) {
    const std::string name_of = base::fold(what);
    Declaration d =
        tree::variable(fmt::format("{}${}{}", place_.unit.name, what, ++place_.variables[name_of]), type, span);
    d.generated = true;
    d.access = Access::Protected;
    d.like = std::move(like);
    if (type.empty()) d.type = nullptr;
    std::string name = d.name;
    place_.unit.declarations.push_back(std::move(d));
    return name;
}

/// TRUE in the scan in which `clock` rises, or falls.
ExpressionPtr NetworkLowering::edge(ExpressionPtr clock, bool rising, Span span, const std::string& of) {
    if (place_.unit.kind == UnitKind::Function || place_.unit.kind == UnitKind::Method)
        error(span, Code::Syntax, "an edge needs memory, and this unit has none between its calls",
              "draw it in a PROGRAM or a FUNCTION_BLOCK");
    const std::string trigger = variable("edge$" + of + "$", rising ? "R_TRIG" : "F_TRIG", span);
    std::vector<Argument> arguments;
    arguments.push_back(tree::argument("CLK", std::move(clock)));
    out_.push_back(tree::call(tree::name(trigger, span), std::move(arguments), span));
    return tree::member(trigger, "Q", span);
}

void NetworkLowering::assign(ExpressionPtr target, ExpressionPtr value, bool coil) {
    Statement s = tree::assignment(std::move(target), std::move(value));
    s.coil = coil;
    out_.push_back(std::move(s));
}

/// The names that this network writes: what reads them must not be put off.
void NetworkLowering::note_written() {
    for (const DrawnElement& e : network_.elements) {
        const bool writes =
            e.kind == ElementKind::Coil || e.kind == ElementKind::Target || (e.kind == ElementKind::Box && is_block(e));
        const std::size_t end = e.name.text.find_first_of(".[^ ");
        if (writes && !e.name.text.starts_with('%')) written_.insert(base::fold(e.name.text.substr(0, end)));
        if (writes && e.name.text.starts_with('%')) written_.insert("%");
        if (e.kind != ElementKind::Box) continue;
        // What stands at an input may be a VAR_IN_OUT.
        for (const DrawnPin& p : e.pins) {
            if (p.net < 0 || p.output || p.name.empty()) continue;
            for (const NetEnd& from : net(p.net).from) {
                const DrawnText& text = element(from.element).name;
                if (element(from.element).kind == ElementKind::Source && is_block(e))
                    written_.insert(base::fold(text.text.substr(0, text.text.find_first_of(".[^ "))));
            }
        }
    }
}

bool NetworkLowering::written(const Expression& e) const {
    if (is_place(e.kind)) {
        const std::string name = base_name(e);
        if (name.empty() || name.starts_with('%') || written_.contains(name)) return true;
    }
    return std::any_of(e.operands.begin(), e.operands.end(),
                       [&](const ExpressionPtr& operand) { return operand && written(*operand); });
}

/// Whether it has the same value wherever it is read in this network, at no cost.
bool NetworkLowering::stable(const Expression& e) const {
    switch (e.kind) {
        case ExpressionKind::Literal:
        case ExpressionKind::Text:
        case ExpressionKind::TypedName:
        case ExpressionKind::Null: return true;
        default: return is_place(e.kind) && !written(e);
    }
}

// --- lines ---

/// How often the value of a net is asked for.
int NetworkLowering::uses(int number) const {
    int count = 0;
    for (const NetEnd& to : net(number).to) {
        ++count;
        const DrawnElement& e = element(to.element);
        if (e.kind == ElementKind::Coil && e.pins.size() > 1 && e.pins[1].net >= 0 && e.pins[1].net != number)
            count += static_cast<int>(net(e.pins[1].net).to.size());
        if (e.kind != ElementKind::Leave) continue;
        --count;
        for (const DrawnElement& enter : network_.elements) {
            if (enter.kind == ElementKind::Enter && base::fold(enter.name.text) == base::fold(e.name.text))
                count += enter.pins[0].net == number ? 0 : static_cast<int>(net(enter.pins[0].net).to.size());
        }
    }
    return count;
}

ExpressionPtr NetworkLowering::net_value(int number, Span span, bool keep) {
    NetState& state = base::at(nets_, number);
    if (!state.kept.empty()) {
        ExpressionPtr kept = tree::name(state.kept, span);
        kept->line = true;
        return kept;
    }
    // What a box of a later order gave in the last scan is for the one that takes it so, not for the others of this
    // line.
    const std::vector<NetEnd>& ends = net(number).from;
    if (ends.size() == 1 && looks_back(ends[0].element)) return output_value(ends[0], span);
    if (state.busy) {
        if (!loop_reported_)
            error(span, Code::Syntax, "this line leads back to itself",
                  form_ == DrawnForm::Ladder ? "power flows from left to right; use a variable to go round"
                                             : "take it through a variable, or state the order of its boxes");
        loop_reported_ = true;
        return tree::truth(false, span);
    }
    state.busy = true;
    const DrawnNet& n = net(number);
    ExpressionPtr value = compute_net(n, span);
    state.busy = false;
    const bool output = n.from.size() == 1 && element(n.from[0].element).kind == ElementKind::Box &&
                        is_block(element(n.from[0].element)) && value->kind == ExpressionKind::Member;
    // An edge is looked for once, so what comes of it is kept.
    const bool pulse =
        value->kind == ExpressionKind::Member && base_name(*value).find(kEdgeDetector) != std::string::npos;
    if (!keep || uses(number) < 2 || output || (stable(*value) && !pulse)) return value;
    const bool flow =
        n.from.size() > 1 || std::any_of(n.from.begin(), n.from.end(), [&](const NetEnd& e) {
            return element(e.element).kind == ElementKind::Contact || element(e.element).kind == ElementKind::Coil;
        });
    const Span at = n.span;
    state.kept = flow ? variable("line", "BOOL", at) : variable("line", "", at, clone(*value));
    assign(tree::name(state.kept, at), std::move(value));
    return tree::name(state.kept, span);
}

ExpressionPtr NetworkLowering::compute_net(const DrawnNet& n, Span span) {
    if (n.power) return tree::truth(true, span);
    ExpressionPtr out;
    for (const NetEnd& from : n.from) {
        ExpressionPtr value = source_value(from, span);
        if (n.from.size() > 1 && element(from.element).kind == ElementKind::Box) value->power = Power::Joined;
        if (out && is_true(*out)) continue;
        out = is_true(*value) ? std::move(value) : tree::join(Operator::Or, std::move(out), std::move(value));
    }
    return out ? std::move(out) : tree::truth(false, span);
}

ExpressionPtr NetworkLowering::source_value(const NetEnd& from, Span span) {
    const DrawnElement& e = element(from.element);
    switch (e.kind) {
        case ElementKind::Source: {
            ExpressionPtr value = parse(e.name);
            probe(from.element, from.pin, clone(*value));
            return value;
        }
        case ElementKind::Contact: {
            ExpressionPtr left = net_value(e.pins[0].net, e.span);
            ExpressionPtr own = contact(from.element);
            probe(from.element, 0, clone(*own));
            if (e.contact == ContactKind::Compare) {
                probe(from.element, kFirstOperand, clone(*own->operands[0]));
                probe(from.element, kSecondOperand, clone(*own->operands[1]));
            }
            return is_true(*left) ? std::move(own) : tree::join(Operator::And, std::move(left), std::move(own));
        }
        case ElementKind::Coil: return net_value(e.pins[0].net, e.span);
        case ElementKind::Enter:
            if (const auto line = line_named(e)) return net_value(*line, e.span);
            return tree::truth(false, span);
        case ElementKind::Box: return output_value(from, span);
        default: return tree::truth(false, span);
    }
}

std::optional<int> NetworkLowering::line_named(const DrawnElement& enter) {
    std::vector<std::string> known;
    for (const DrawnElement& e : network_.elements) {
        if (e.kind != ElementKind::Leave) continue;
        if (base::fold(e.name.text) == base::fold(enter.name.text)) return e.pins[0].net;
        known.push_back(e.name.text);
    }
    error(enter.span, Code::UnknownName, fmt::format("no line leaves as '{}' in this network", enter.name.text),
          base::name_hint(enter.name.text, known));
    return std::nullopt;
}

ExpressionPtr NetworkLowering::contact(int number) {
    const DrawnElement& e = element(number);
    ExpressionPtr value = parse(e.name);
    if (e.contact == ContactKind::Compare) {
        ExpressionPtr out = tree::join(comparison_of(e.comparison), std::move(value), parse(e.second));
        out->span = e.span;
        return out;
    }
    value->power = Power::Contact;
    switch (e.contact) {
        case ContactKind::Closed: return tree::negation(std::move(value));
        case ContactKind::Rising: return edge(std::move(value), true, e.name.span, e.name.text);
        case ContactKind::Falling: return edge(std::move(value), false, e.name.span, e.name.text);
        default: return value;
    }
}

// --- what takes values ---

void NetworkLowering::take(int number) {
    const DrawnElement& e = element(number);
    switch (e.kind) {
        case ElementKind::Coil: return coil(e);
        case ElementKind::Target: return target(number);
        case ElementKind::Jump:
        case ElementKind::Return: return jump(e);
        case ElementKind::Box:
            if (base::at(boxes_, number).progress == Progress::Open && (!inlined(number) || reads_written(number)))
                emit_box(number);
            return;
        case ElementKind::Leave: {
            const auto same = [&](const DrawnElement& x) {
                return x.kind == ElementKind::Enter && base::fold(x.name.text) == base::fold(e.name.text);
            };
            if (std::none_of(network_.elements.begin(), network_.elements.end(), same))
                error(e.span, Code::UnknownName,
                      fmt::format("the line '{}' comes back nowhere in this network", e.name.text),
                      fmt::format("it goes on at >{}>---", e.name.text));
            const auto twice =
                std::find_if(network_.elements.begin(), network_.elements.end(), [&](const DrawnElement& x) {
                    return x.kind == ElementKind::Leave && base::fold(x.name.text) == base::fold(e.name.text);
                });
            if (&*twice != &e) error(e.span, Code::DuplicateName, fmt::format("two lines leave as '{}'", e.name.text));
            return;
        }
        default: return;
    }
}

/// The first of two coils on a line, a plain one: the other can read the line from its variable, which spares a copy.
bool NetworkLowering::keeps_line(const DrawnElement& e) const {
    const int number = e.pins[0].net;
    if (e.coil != CoilKind::Plain || e.name.text.find_first_of(".[^%( ") != std::string::npos) return false;
    const DrawnNet& n = net(number);
    if (n.power || n.to.size() != 2 || uses(number) != 2 || !base::at(nets_, number).kept.empty()) return false;
    const bool once = written_.count(base::fold(e.name.text)) == 1 && !written_.contains("%");
    return once && std::all_of(n.to.begin(), n.to.end(), [&](const NetEnd& end) {
               const DrawnElement& other = element(end.element);
               return &other == &e || (other.kind == ElementKind::Coil && &other > &e);
           });
}

void NetworkLowering::coil(const DrawnElement& e) {
    const bool keeps = keeps_line(e);
    ExpressionPtr value = net_value(e.pins[0].net, e.span, !keeps);
    if (keeps) base::at(nets_, e.pins[0].net).kept = e.name.text;
    ExpressionPtr variable = parse_place(e.name, "a coil writes one");
    probe(static_cast<int>(&e - network_.elements.data()), 0, clone(*variable));
    switch (e.coil) {
        case CoilKind::Plain: return assign(std::move(variable), std::move(value), true);
        case CoilKind::Negated: return assign(std::move(variable), tree::negation(std::move(value)), true);
        case CoilKind::Rising:
        case CoilKind::Falling: {
            ExpressionPtr pulse = edge(std::move(value), e.coil == CoilKind::Rising, e.span, "coil$" + e.name.text);
            return assign(std::move(variable), std::move(pulse), true);
        }
        case CoilKind::Set:
        case CoilKind::Reset: break;
    }
    Statement set = tree::assignment(std::move(variable), tree::truth(e.coil == CoilKind::Set, e.span));
    set.coil = true;
    if (is_true(*value)) {
        out_.push_back(std::move(set));
        return;
    }
    StatementList body;
    body.push_back(std::move(set));
    out_.push_back(tree::when(std::move(value), std::move(body)));
}

/// Taken when all the rest of the network has had its turn, on the power that there was in its own turn.
void NetworkLowering::jump(const DrawnElement& e) {
    ExpressionPtr value = net_value(e.pins[0].net, e.span);
    Statement s;
    s.kind = e.kind == ElementKind::Jump ? StatementKind::Jump : StatementKind::Return;
    s.span = e.span;
    s.name = e.name.text;
    if (e.kind == ElementKind::Return) s.name.clear();
    if (is_true(*value)) {
        jumps_.push_back(std::move(s));
        return;
    }
    if (&e != &network_.elements.back() && !stable(*value) && value->name.find('$') == std::string::npos) {
        const std::string kept = variable("line", "BOOL", e.span);
        assign(tree::name(kept, e.span), std::move(value));
        value = tree::name(kept, e.span);
    }
    StatementList body;
    body.push_back(std::move(s));
    jumps_.push_back(tree::when(std::move(value), std::move(body)));
}

void NetworkLowering::target(int number) {
    if (taken_.contains(number)) return;
    const DrawnElement& e = element(number);
    ExpressionPtr value = net_value(e.pins[0].net, e.span);
    probe(number, 0, parse_place(e.name, "an output writes one"));
    if (!taken_.insert(number).second) return;  // its box has written it
    assign(parse_place(e.name, "an output writes one"), std::move(value));
}

}  // namespace vyard::logic
