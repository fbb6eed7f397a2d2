#include "core/procedure/order_line.hpp"

namespace vyard::procedure {

namespace {

/// Whether some kind of device has a hand control of that name.
bool is_control(const plant::PlantModel& plant, const std::string& verb) {
    const auto& kinds = plant::all_kinds();
    const auto has = [&](const plant::Kind& k) { return k.find_control(verb) != nullptr; };
    return std::any_of(kinds.begin(), kinds.end(), has) ||
           std::any_of(plant.own_kinds.begin(), plant.own_kinds.end(), [&](const auto& k) { return has(*k); });
}

}  // namespace

OrderReader::OrderReader(const session::SessionModel& model, logic::ConditionCompiler& conditions,
                         base::Diagnostics& diagnostics)
    : model_(model), conditions_(conditions), diagnostics_(diagnostics) {}

const std::vector<std::string>& OrderReader::verbs() {
    static const std::vector<std::string> all = [] {
        std::vector<std::string> out;
        for (const plant::Kind& kind : plant::all_kinds()) {
            for (const plant::ControlSpec& c : kind.controls) {
                if (std::find(out.begin(), out.end(), c.verb) == out.end()) out.push_back(c.verb);
            }
        }
        for (const char* verb :
             {"force", "unforce", "forces", "write", "fault", "heal", "drive", "undrive", "take", "place", "shift",
              "swap", "stop", "start", "power", "wait", "expect", "measure", "note"})
            out.emplace_back(verb);
        return out;
    }();
    return all;
}

std::optional<Order> OrderReader::read(const base::SourcePtr& source, const std::vector<Token>& tokens) {
    Line line{source, tokens};
    const base::Place begin = line.place();
    if (line.current().kind != TokenKind::Identifier) {
        diagnostics_.error(Code::UnknownVerb, begin, fmt::format("expected a verb, found {}", line.found()));
        return std::nullopt;
    }
    const std::string verb = base::fold(line.current().text);
    ++line.at;
    auto order = dispatch(line, verb);
    if (!order) return std::nullopt;
    if (!at_end(source, tokens, line.at)) return std::nullopt;
    order->place = begin;
    const Token& last = tokens[tokens.size() - 2];
    order->place.length =
        last.span.line == begin.line ? last.span.column + last.span.length - begin.column : begin.length;
    const auto start = static_cast<std::size_t>(tokens.front().text.data() - source->text.data());
    const auto end = static_cast<std::size_t>(last.text.data() - source->text.data()) + last.text.size();
    order->text = source->text.substr(start, end - start);
    return order;
}

std::optional<Order> OrderReader::dispatch(Line& line, const std::string& verb) {
    Order order;
    bool ok = false;
    const bool turns_item = verb == "turn" && line.is_word("item") && base::fold(line.tokens[line.at + 1].text) == "on";
    if (verb == "shift" || verb == "swap" || turns_item) {
        ok = handle(line, order, verb);
    } else if (is_control(*model_.plant, verb)) {
        ok = control(line, order, verb);
    } else if (verb == "force") {
        ok = force(line, order);
    } else if (verb == "unforce") {
        ok = unforce(line, order);
    } else if (verb == "write") {
        ok = write(line, order);
    } else if (verb == "measure") {
        ok = measure(line, order);
    } else if (verb == "forces") {
        const bool on = line.accept("on");
        ok = on || line.accept("off");
        order.action = on ? Action::ForcesOn : Action::ForcesOff;
        if (!ok)
            diagnostics_.error(Code::Syntax, line.place(),
                               fmt::format("expected 'forces on' or 'forces off', found {}", line.found()));
    } else if (verb == "fault") {
        ok = fault(line, order);
    } else if (verb == "heal") {
        ok = heal(line, order);
    } else if (verb == "drive") {
        ok = drive(line, order);
    } else if (verb == "undrive") {
        ok = undrive(line, order);
    } else if (verb == "take") {
        ok = take(line, order);
    } else if (verb == "place") {
        ok = place(line, order);
    } else if (verb == "stop" || verb == "start") {
        order.action = verb == "stop" ? Action::Stop : Action::Start;
        ok = stop_or_start(line, order);
    } else if (verb == "power") {
        ok = power(line, order);
    } else if (verb == "wait") {
        ok = wait(line, order);
    } else if (verb == "expect") {
        ok = expect(line, order);
    } else if (verb == "note") {
        ok = line.current().kind == TokenKind::Text;
        if (ok) {
            ++line.at;
        } else {
            diagnostics_.error(Code::Syntax, line.place(),
                               fmt::format("expected a string in quotes, found {}", line.found()));
        }
    } else {
        base::Place place = line.place();
        place.column = line.tokens[0].span.column;
        place.length = line.tokens[0].span.length;
        diagnostics_.error(Code::UnknownVerb, place, fmt::format("no verb is named '{}'", line.tokens[0].text),
                           base::name_hint(verb, verbs()));
    }
    if (!ok) return std::nullopt;
    return order;
}

bool OrderReader::at_end(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t at) {
    const Token& t = tokens[at];
    if (t.kind == TokenKind::End) return true;
    if (t.kind != TokenKind::Bad)
        diagnostics_.error(Code::Syntax, logic::place_in(source, t.span),
                           fmt::format("expected the end of the line, found '{}'", t.text));
    return false;
}

int OrderReader::condition(const base::SourcePtr& source, const std::vector<Token>& line, std::size_t& at) {
    return conditions_.condition(source, line, at, diagnostics_).value_or(-1);
}

std::optional<base::Nanoseconds> OrderReader::time(const base::SourcePtr& source, const std::vector<Token>& tokens,
                                                   std::size_t& at) {
    Line line{source, tokens, at};
    std::optional<base::Nanoseconds> out;
    if (line.current().kind == TokenKind::Time) {
        out = base::Nanoseconds(static_cast<std::int64_t>(line.current().integer));
        ++line.at;
    } else if (const auto seconds = quantity(line, Dimension::Time)) {
        out = base::from_seconds(*seconds);
    }
    if (out && (out->count() < 0 || *out > base::Nanoseconds(std::chrono::hours(1000)))) {
        diagnostics_.error(Code::OutOfRange, logic::place_in(source, tokens[at].span), "a time is 0 s to 1000 h");
        out.reset();
    }
    at = line.at;
    return out;
}

std::optional<double> OrderReader::quantity(Line& line, Dimension dimension) {
    const std::size_t first = line.at;
    const base::Place where = line.place();
    line.accept_symbol("-");
    const bool number = line.current().kind == TokenKind::Integer || line.current().kind == TokenKind::Real;
    if (number) {
        ++line.at;
        if (dimension != Dimension::Plain) {
            if (line.current().kind == TokenKind::DirectAddress && line.current().text == "%") {
                ++line.at;
            } else if (line.current().kind == TokenKind::Identifier) {
                ++line.at;
                if (line.accept_symbol("/") && line.current().kind == TokenKind::Identifier) ++line.at;
            }
        }
    }
    const Token& last = line.tokens[line.at > first ? line.at - 1 : first];
    const auto start = static_cast<std::size_t>(line.tokens[first].text.data() - line.source->text.data());
    const auto end = static_cast<std::size_t>(last.text.data() - line.source->text.data()) + last.text.size();
    const std::string text = line.source->text.substr(start, end - start);
    const auto reading = base::read_quantity(text, dimension);
    if (number && reading.fault == base::QuantityFault::None) return reading.si_value;
    diagnostics_.error(
        number ? Code::WrongUnit : Code::Syntax, where,
        number ? base::quantity_message(text, reading, dimension)
               : fmt::format("expected {}{}{}, found {}", base::with_article(base::dimension_name(dimension)),
                             dimension == Dimension::Plain ? "" : " such as 1 ", base::display_unit(dimension),
                             line.found()));
    return std::nullopt;
}

std::optional<int> OrderReader::device(Line& line, const char* what) {
    base::Place where;
    const std::string name = line.name(where);
    if (name.empty()) {
        diagnostics_.error(Code::Syntax, where, fmt::format("expected {}, found {}", what, line.found()));
        return std::nullopt;
    }
    const int found = model_.plant->find_device(name);
    if (found != plant::kNone) return found;
    diagnostics_.error(Code::UnknownDevice, where, fmt::format("no device is named '{}'", name),
                       base::name_hint(name, model_.plant->device_names()));
    return std::nullopt;
}

bool OrderReader::unknown_control(int device, const std::string& verb, const base::Place& place) {
    const plant::DeviceModel& d = base::at(model_.plant->devices, device);
    std::vector<std::string> known;
    for (const plant::ControlSpec& c : d.kind->controls) known.push_back(c.verb);
    diagnostics_.error(Code::UnknownControl, place,
                       fmt::format("{} cannot be told to '{}'", base::with_article(d.kind->name), verb),
                       known.empty() ? "it has no hand control" : base::name_hint("", known));
    return false;
}

bool OrderReader::control(Line& line, Order& order, const std::string& verb) {
    const base::Place where = line.place();
    const auto found = device(line, "a device with a hand control");
    if (!found) return false;
    const plant::DeviceModel& d = base::at(model_.plant->devices, *found);
    order.device = *found;
    order.control = d.kind->find_control(verb);
    if (order.control == nullptr) return unknown_control(*found, verb, where);
    order.action = Action::Control;
    if (order.control->takes_value) {
        if (!line.accept("to")) {
            diagnostics_.error(Code::Syntax, line.place(),
                               fmt::format("expected 'to' and a value, found {}", line.found()));
            return false;
        }
        if (!order.control->takes_position) {
            const base::Place value_place = line.place();
            const auto value = quantity(line, order.control->dimension);
            if (!value) return false;
            if (*value < order.control->low || *value > order.control->high) {
                const Dimension dimension = order.control->dimension;
                diagnostics_.error(
                    Code::OutOfRange, value_place,
                    fmt::format("{} is out of range; accepted: {}", base::quantity_text(*value, dimension),
                                base::range_text(order.control->low, order.control->high, dimension)));
                return false;
            }
            order.value = *value;
            return true;
        }
        std::string position(line.current().text);
        if (line.current().kind == TokenKind::Text) position = position.substr(1, position.size() - 2);
        const auto at = std::find(d.positions.begin(), d.positions.end(), position);
        if (at == d.positions.end()) {
            diagnostics_.error(Code::WrongValue, line.place(),
                               fmt::format("'{}' is not a position of '{}'", position, d.name),
                               base::name_hint(position, d.positions));
            return false;
        }
        ++line.at;
        order.value = static_cast<double>(at - d.positions.begin());
        return true;
    }
    if (verb == "press" && line.accept("for")) {
        order.opposite = d.kind->find_control("release");
        if (!duration(line, order.time) || order.opposite == nullptr) return false;
        order.action = Action::HoldControl;
    }
    return true;
}

/// The place of a name that can be forced or written.
bool OrderReader::find_target(Line& line, Order& order) {
    base::Place where;
    order.tag = line.name(where);
    if (order.tag.empty()) {
        diagnostics_.error(Code::Syntax, where, fmt::format("expected a tag, found {}", line.found()));
        return false;
    }
    const bool in_logic = base::fold(order.tag).starts_with("logic.");
    const auto found = wiring::find_spots(model_.controllers, in_logic ? order.tag.substr(6) : order.tag);
    if (found.empty()) {
        std::vector<std::string> known;
        for (const auto& controller : model_.controllers) {
            for (const logic::Variable& variable : controller.program->variables) known.push_back(variable.path);
        }
        diagnostics_.error(Code::UnknownTag, where, fmt::format("no tag is named '{}'", order.tag),
                           base::name_hint(order.tag, known));
        return false;
    }
    if (found.size() > 1) {
        std::string ways;
        for (const auto& f : found)
            ways += (ways.empty() ? "" : " or ") + wiring::spot_name(model_.controllers, f.controller, f.spot);
        diagnostics_.error(Code::UnknownTag, where,
                           fmt::format("'{}' may mean {} different tags", order.tag, found.size()), "write " + ways);
        return false;
    }
    order.controller = found[0].controller;
    order.spot = found[0].spot;
    order.tag = wiring::spot_name(model_.controllers, order.controller, order.spot);
    const logic::Program& program = *base::at(model_.controllers, order.controller).program;
    if (order.spot.variable >= 0 && base::at(program.variables, order.spot.variable).constant) {
        diagnostics_.error(Code::NotAssignable, where,
                           fmt::format("'{}' is declared CONSTANT: the logic was compiled with its value", order.tag));
        return false;
    }
    return true;
}

bool OrderReader::tag_and_value(Line& line, Order& order, const char* verb) {
    if (!find_target(line, order)) return false;
    if (!line.accept_symbol("=") && !line.accept("to") && !line.accept_symbol(":=")) {
        diagnostics_.error(Code::Syntax, line.place(), fmt::format("expected '=' and a value, found {}", line.found()),
                           fmt::format("{} {} = ...", verb, order.tag));
        return false;
    }
    const base::Place value_place = line.place();
    const std::size_t first = line.at;
    while (!line.done()) ++line.at;
    const std::string text = line.text(first, line.at);
    const logic::Program& program = *base::at(model_.controllers, order.controller).program;
    const logic::Variable* v = order.spot.variable >= 0 ? &base::at(program.variables, order.spot.variable) : nullptr;
    const bool whole = v != nullptr && v->type == order.spot.type;
    auto parsed = logic::parse_value(text, order.spot.type, whole ? v->names.get() : nullptr);
    const char* type = whole && v->names != nullptr ? v->type_text.c_str() : logic::type_name(order.spot.type);
    if (!parsed.value) {
        diagnostics_.error(Code::TypeMismatch, value_place,
                           fmt::format("'{}' is {}; expected {}, found {}", order.tag, type, parsed.expected,
                                       text.empty() ? "the end of the line" : fmt::format("'{}'", text)));
        return false;
    }
    const std::uint32_t room = controller::size_of(program, order.spot);
    if (logic::is_text(order.spot.type) &&
        logic::text_size(order.spot.type, static_cast<int>(parsed.value->text.size())) > room) {
        diagnostics_.error(Code::OutOfRange, value_place,
                           fmt::format("this string is longer than '{}' can hold", order.tag));
        return false;
    }
    order.tag_value = std::move(*parsed.value);
    return true;
}

bool OrderReader::force(Line& line, Order& order) {
    order.action = Action::Force;
    return tag_and_value(line, order, "force");
}

bool OrderReader::write(Line& line, Order& order) {
    order.action = Action::Write;
    return tag_and_value(line, order, "write");
}

bool OrderReader::unforce(Line& line, Order& order) {
    if (line.accept("all")) {
        order.action = Action::UnforceAll;
        return true;
    }
    order.action = Action::Unforce;
    return find_target(line, order);
}

bool OrderReader::stop_or_start(Line& line, Order& order) {
    order.controller = 0;
    const auto manner = [&] {
        if (order.action == Action::Start && line.accept("warm")) order.action = Action::StartWarm;
        return true;
    };
    const bool alone = model_.controllers.size() == 1;
    if (alone && (line.done() || base::fold(line.current().text) == "warm")) return manner();
    base::Place where;
    const std::string name = line.name(where);
    std::vector<std::string> known;
    for (std::size_t c = 0; c < model_.controllers.size(); ++c) {
        known.push_back(model_.controllers[c].name);
        if (base::fold(known.back()) == base::fold(name)) {
            order.controller = static_cast<int>(c);
            return manner();
        }
    }
    diagnostics_.error(Code::UnknownName, where, fmt::format("no controller is named '{}'", name),
                       base::name_hint(name, known));
    return false;
}

bool OrderReader::power(Line& line, Order& order) {
    const bool on = line.accept("on");
    if (!on && !line.accept("off")) {
        diagnostics_.error(Code::Syntax, line.place(),
                           fmt::format("expected 'power off' or 'power on', found {}", line.found()));
        return false;
    }
    order.action = on ? Action::PowerOn : Action::PowerOff;
    return stop_or_start(line, order);
}

/// A time, or so many scans, which last as long as the longest of all controllers.
bool OrderReader::duration(Line& line, base::Nanoseconds& out) {
    const bool scans = line.current().kind == TokenKind::Integer &&
                       line.tokens[line.at + 1].kind == TokenKind::Identifier &&
                       base::fold(line.tokens[line.at + 1].text).starts_with("scan");
    if (!scans) {
        const auto duration = time(line.source, line.tokens, line.at);
        if (duration) out = *duration;
        return duration.has_value();
    }
    const base::Place where = line.place();
    const std::uint64_t count = line.current().integer;
    base::Nanoseconds longest = model_.step;
    for (const auto& c : model_.controllers) longest = std::max(longest, c.scan);
    line.at += 2;
    out = longest * static_cast<std::int64_t>(std::min<std::uint64_t>(count, 1'000'000));
    if (count >= 1 && count <= 1'000'000) return true;
    diagnostics_.error(Code::OutOfRange, where, "a number of scans is 1 to 1000000");
    return false;
}

bool OrderReader::limits(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t& at, bool hold,
                         Limits& out) {
    Line line{source, tokens, at};
    bool before_given = false;
    for (bool more = true; more;) {
        const base::Place where = line.place();
        base::Nanoseconds value{};
        const auto twice = [&](bool given, const char* word) {
            if (given) diagnostics_.error(Code::Syntax, where, fmt::format("'{}' stands here twice", word));
            return given;
        };
        if (line.accept("within")) {
            if (twice(out.within.has_value(), "within") || !duration(line, value)) return false;
            out.within = value;
        } else if (hold && line.accept("for")) {
            if (twice(out.hold.has_value(), "for") || !duration(line, value)) return false;
            out.hold = value;
        } else if (line.accept("not")) {
            if (twice(before_given, "not before")) return false;
            before_given = true;
            if (!line.accept("before")) {
                diagnostics_.error(Code::Syntax, line.place(),
                                   fmt::format("expected 'not before' and a time, found {}", line.found()));
                return false;
            }
            if (!duration(line, out.not_before)) return false;
        } else {
            more = false;
        }
    }
    at = line.at;
    if (!out.within || out.not_before <= *out.within) return true;
    diagnostics_.error(Code::OutOfRange, logic::place_in(source, tokens[at - 1].span),
                       fmt::format("not before {} cannot be within {}", base::time_text(out.not_before),
                                   base::time_text(*out.within)));
    return false;
}

bool OrderReader::wait(Line& line, Order& order) {
    if (!line.accept("until")) {
        order.action = Action::Wait;
        return duration(line, order.time);
    }
    order.action = Action::WaitUntil;
    order.condition = condition(line.source, line.tokens, line.at);
    if (order.condition < 0) return false;
    Limits found;
    if (!limits(line.source, line.tokens, line.at, false, found)) return false;
    order.within = found.within.value_or(kDefaultPatience);
    order.not_before = found.not_before;
    return true;
}

bool OrderReader::expect(Line& line, Order& order) {
    Limits found;
    const bool stopped = line.is_word("stopped") && line.tokens[line.at + 1].kind != TokenKind::Symbol;
    if (stopped) {
        ++line.at;
        order.action = Action::ExpectStopped;
        order.controller = 0;
        const bool named = !line.done() && !line.is_word("within");
        if ((named || model_.controllers.size() != 1) && !stop_or_start(line, order)) return false;
        if (!limits(line.source, line.tokens, line.at, false, found)) return false;
        order.within = found.within;
        return true;
    }
    order.action = Action::Expect;
    order.condition = condition(line.source, line.tokens, line.at);
    if (order.condition < 0 || !limits(line.source, line.tokens, line.at, true, found)) return false;
    order.within = found.within;
    order.hold = found.hold;
    order.not_before = found.not_before;
    if (order.not_before.count() > 0 && !order.within) {
        diagnostics_.error(Code::Syntax, logic::place_in(line.source, line.tokens[line.at - 1].span),
                           "'not before' goes with 'within'", "expect A within 9 s not before 7 s");
        return false;
    }
    return true;
}

bool OrderReader::measure(Line& line, Order& order) {
    order.action = Action::Measure;
    if (line.current().kind == TokenKind::Text) {
        order.name = line.current().text.substr(1, line.current().text.size() - 2);
        ++line.at;
    }
    const auto next = [&](const char* word) {
        if (line.accept(word)) return true;
        diagnostics_.error(Code::Syntax, line.place(),
                           fmt::format("expected '{}' and a condition, found {}", word, line.found()),
                           "measure \"name\" from rises(a) to falls(b) within 5 s");
        return false;
    };
    if (!next("from") || (order.condition = condition(line.source, line.tokens, line.at)) < 0) return false;
    if (!next("to") || (order.until = condition(line.source, line.tokens, line.at)) < 0) return false;
    Limits found;
    if (!limits(line.source, line.tokens, line.at, false, found)) return false;
    order.within = found.within;
    order.not_before = found.not_before;
    return true;
}

namespace {

/// Why there is none to take or handle.
std::string no_item(const session::Session& session, const Order& o) {
    const plant::PlantModel& plant = *session.model().plant;
    if (o.device == plant::kNone) return "nothing lies on the floor";
    const plant::DeviceModel& d = plant.device(o.device);
    if (d.surface == plant::kNone) return fmt::format("'{}' holds no item", d.name);
    const int any = plant::find_item(plant, session.plant(), o.device, o.along_m, false);
    if (any == plant::kNone) return fmt::format("there is no item on '{}'", d.name);
    return fmt::format("there is no item within its length of {:g} m; the nearest is {}", *o.along_m,
                       plant::item_text(plant, session.plant(), any, o.device));
}

}  // namespace

std::string perform(session::Session& session, const Order& o, std::string& said) {
    const plant::PlantModel& plant = *session.model().plant;
    const auto device_name = [&] { return base::at(plant.devices, o.device).name; };
    switch (o.action) {
        case Action::Control: session.use_control(o.device, *o.control, o.value); break;
        case Action::HoldControl: session.hold_control(o.device, *o.control, *o.opposite, o.time); break;
        case Action::Force: session.enter_force(o.controller, {o.tag, o.spot, o.tag_value}); break;
        case Action::Write:
            if (!session.controller(o.controller).running) return "the controller is stopped; nothing is written";
            session.write(o.controller, o.spot, o.tag_value);
            break;
        case Action::Unforce:
            if (!session.remove_force(o.controller, o.spot)) return "it was not forced";
            break;
        case Action::UnforceAll: session.remove_all_forces(); break;
        case Action::ForcesOn: session.switch_forces(true); break;
        case Action::ForcesOff: session.switch_forces(false); break;
        case Action::FaultDevice: session.set_fault(o.device, *o.fault, o.value, o.timing); break;
        case Action::FaultPoint: session.set_point_fault(o.point, o.defect, o.value, o.timing); break;
        case Action::HealDevice: session.heal_device(o.device); break;
        case Action::HealPoint: session.heal_point(o.point); break;
        case Action::HealAll: session.heal_all(); break;
        case Action::FaultModule: {
            wiring::ModuleState fault = base::at(session.rack().modules, o.module);
            const auto bit = 1U << static_cast<unsigned>(o.value);
            if (o.module_fault == Order::ModuleFault::Lost) fault.lost = true;
            if (o.module_fault == Order::ModuleFault::Channel) fault.broken |= bit;
            if (o.module_fault == Order::ModuleFault::Fuse) fault.blown |= bit;
            session.set_module_fault(o.module, fault);
            break;
        }
        case Action::FaultLink: {
            controller::LinkFault fault = session.controller(o.controller).link.fault;
            using Trouble = Order::LinkTrouble;
            if (o.link_trouble == Trouble::Lost) fault.lost = true;
            if (o.link_trouble == Trouble::Stuck) fault.stuck = true;
            if (o.link_trouble == Trouble::Delay) fault.delay = o.time;
            if (o.link_trouble == Trouble::Drop) fault.drop_percent = o.value;
            session.set_link_fault(o.controller, fault);
            break;
        }
        case Action::HealLink: session.set_link_fault(o.controller, {}); break;
        case Action::HealModule: session.set_module_fault(o.module, {}); break;
        case Action::ByHand: session.set_point_fault(o.point, plant::Defect::ByHand, o.value, {}); break;
        case Action::LetGo:
            if (!session.let_go_point(o.point)) return "it is not worked by hand";
            break;
        case Action::LetGoAll:
            for (const auto& [point, value] : plant::hands_on_points(session.plant())) session.let_go_point(point);
            break;
        case Action::Take: {
            const int item = plant::find_item(plant, session.plant(), o.device, o.along_m);
            if (item == plant::kNone) return no_item(session, o);
            said = "took " + plant::item_text(plant, session.plant(), item, o.device);
            session.take_item(o.device, o.along_m);
            break;
        }
        case Action::Place:
            if (!session.place_item(o.item, o.device, o.along_m.value_or(0.0), o.colour))
                return fmt::format("there is no room on '{}' at {:g} m", device_name(), o.along_m.value_or(0.0));
            break;
        case Action::Shift:
        case Action::TurnItem:
        case Action::Swap: {
            const int item = plant::find_item(plant, session.plant(), o.device, o.along_m);
            if (item == plant::kNone) return no_item(session, o);
            const std::string before = plant::item_text(plant, session.plant(), item, o.device);
            const bool done = o.action == Action::Shift ? session.shift_item(o.device, o.along_m, {o.value, o.left_m})
                              : o.action == Action::TurnItem ? session.turn_item(o.device, o.along_m, o.value)
                                                             : session.swap_item(o.device, o.along_m, o.item);
            if (!done) return fmt::format("there is no room for {}", before);
            said = fmt::format("{} {}",
                               o.action == Action::Shift      ? "shifted"
                               : o.action == Action::TurnItem ? "turned"
                                                              : "swapped",
                               before);
            break;
        }
        case Action::Stop: session.stop(o.controller); break;
        case Action::Start:
        case Action::StartWarm:
            if (!session.controller(o.controller).powered) return "the controller has no power";
            if (o.action == Action::Start) session.start(o.controller);
            if (o.action == Action::StartWarm) session.start_warm(o.controller);
            break;
        case Action::PowerOff: session.power_off(o.controller); break;
        case Action::PowerOn:
            if (session.controller(o.controller).powered) return "the controller has power";
            session.power_on(o.controller);
            break;
        case Action::Note:
        case Action::Wait:
        case Action::WaitUntil:
        case Action::Expect:
        case Action::ExpectStopped:
        case Action::Measure: break;
    }
    return {};
}

std::vector<std::vector<Token>> split_lines(const std::vector<Token>& tokens) {
    std::vector<std::vector<Token>> lines;
    int open = 0;
    int last_line = 0;
    for (const Token& t : tokens) {
        if (t.kind == TokenKind::End) break;
        if (lines.empty() || (t.span.line != last_line && open <= 0)) {
            lines.emplace_back();
            open = 0;
        }
        if (t.kind == TokenKind::Symbol && t.text == "(") ++open;
        if (t.kind == TokenKind::Symbol && t.text == ")") --open;
        last_line = t.span.line;
        lines.back().push_back(t);
    }
    for (auto& line : lines) {
        Token end = line.back();
        end.kind = TokenKind::End;
        end.span = {end.span.line, end.span.column + end.span.length, 1};
        end.text = end.text.substr(end.text.size());
        line.push_back(end);
    }
    return lines;
}

logic::Resolver signal_resolver(const session::SessionModel& model, std::vector<session::Signal>& signals,
                                base::Diagnostics& diagnostics) {
    return [&model, &signals, &diagnostics, known = std::vector<std::string>()](
               const std::string& name, const base::Place& place) mutable -> std::optional<logic::Resolved> {
        const session::Search found = session::search(model, name);
        if (!found.signal) {
            diagnostics.error(Code::UnknownName, place, found.problem, found.hint);
            return std::nullopt;
        }
        const session::Signal& signal = *found.signal;
        const Dimension dimension = signal.of_plant() ? signal.reading.dimension : Dimension::Plain;
        const std::string key = base::fold(name);
        for (std::size_t i = 0; i < known.size(); ++i) {
            if (known[i] == key) return logic::Resolved{signal.type, static_cast<int>(i), dimension};
        }
        known.push_back(key);
        signals.push_back(signal);
        return logic::Resolved{signal.type, static_cast<int>(signals.size()) - 1, dimension};
    };
}

}  // namespace vyard::procedure
