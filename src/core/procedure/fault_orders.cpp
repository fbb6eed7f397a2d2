// Orders that put defects on points and devices, and heal them.
#include <cmath>

#include "core/procedure/order_line.hpp"

namespace vyard::procedure {

bool OrderReader::names_link(const Line& line) const {
    return line.is_word("link") && model_.plant->find_device("link") == plant::kNone;
}

/// link, and a controller's name where several are executed elsewhere.
bool OrderReader::link_of(Line& line, Order& order) {
    ++line.at;  // link
    std::vector<std::string> remote;
    for (std::size_t c = 0; c < model_.controllers.size(); ++c) {
        const controller::ControllerModel& model = model_.controllers[c];
        if (!model.linked()) continue;
        remote.push_back(model.name);
        if (order.controller < 0 && line.is_word(base::fold(model.name).c_str())) {
            order.controller = static_cast<int>(c);
            ++line.at;
        }
    }
    if (order.controller >= 0) return true;
    if (remote.size() == 1) {
        for (std::size_t c = 0; c < model_.controllers.size(); ++c) {
            if (model_.controllers[c].linked()) order.controller = static_cast<int>(c);
        }
        return true;
    }
    diagnostics_.error(Code::UnknownFault, line.place(),
                       remote.empty()
                           ? std::string("no controller of this yard has a link to the plant")
                           : fmt::format("expected the controller whose link is meant, found {}", line.found()),
                       remote.empty() ? "" : base::name_hint("", remote));
    return false;
}

bool OrderReader::fault_of_link(Line& line, Order& order) {
    if (!link_of(line, order)) return false;
    order.action = Action::FaultLink;
    using Trouble = Order::LinkTrouble;
    if (line.accept("lost") || line.accept("stuck")) {
        const bool lost = base::fold(line.tokens[line.at - 1].text) == "lost";
        order.link_trouble = lost ? Trouble::Lost : Trouble::Stuck;
        return true;
    }
    if (line.accept("delay")) {
        order.link_trouble = Trouble::Delay;
        return duration(line, order.time);
    }
    if (line.accept("drop")) {
        order.link_trouble = Trouble::Drop;
        const base::Place amount_place = line.place();
        const auto share = quantity(line, Dimension::Percent);
        if (!share) return false;
        order.value = *share;
        if (*share >= 0.0 && *share <= 100.0) return true;
        diagnostics_.error(Code::OutOfRange, amount_place, "a link drops 0 % to 100 % of its exchanges");
        return false;
    }
    diagnostics_.error(Code::UnknownFault, line.place(), fmt::format("a link has no fault {}", line.found()),
                       "lost, stuck, delay 200 ms, drop 5 %");
    return false;
}

bool OrderReader::fault(Line& line, Order& order) {
    if (names_link(line)) return fault_of_link(line, order);
    base::Place where;
    const std::string name = line.name(where);
    if (const auto module = module_named(name, where)) return fault_of_module(line, order, *module, name);
    int point = model_.plant->find_point(name);
    int device = model_.plant->find_device(name);
    if (point == plant::kNone && device == plant::kNone) {
        std::vector<std::string> known = model_.plant->device_names();
        for (std::string& p : model_.plant->point_names()) known.push_back(std::move(p));
        diagnostics_.error(Code::UnknownDevice, where, fmt::format("no device or point is named '{}'", name),
                           base::name_hint(name, known));
        return false;
    }
    const std::string word = base::fold(line.current().text);
    if (const plant::DefectSpec* defect = line.done() ? nullptr : plant::find_defect(word)) {
        ++line.at;
        if (point == plant::kNone) point = model_.plant->only_point(device);
        if (point != plant::kNone) return defect_of_point(line, order, point, *defect) && timing(line, order);
        std::vector<std::string> known;
        for (const plant::PointModel& p : model_.plant->points) {
            if (p.device == device) known.push_back(p.name);
        }
        diagnostics_.error(Code::UnknownFault, where, fmt::format("'{}' has several points; name one", name),
                           base::name_hint("", known));
        return false;
    }
    if (device == plant::kNone) {
        std::vector<std::string> known;
        for (const plant::DefectSpec& d : plant::defects()) known.emplace_back(d.name);
        const std::string hint = base::name_hint(word, known);
        diagnostics_.error(Code::UnknownFault, line.place(), fmt::format("a point has no fault {}", line.found()),
                           hint);
        return false;
    }
    const plant::Kind& kind = *base::at(model_.plant->devices, device).kind;
    const std::string fault_name(line.current().text);
    order.fault = line.done() ? nullptr : kind.find_fault(fault_name);
    if (order.fault == nullptr) {
        std::vector<std::string> known;
        for (const plant::DefectSpec& d : plant::defects()) known.emplace_back(d.name);
        for (const plant::FaultSpec& f : kind.faults) known.push_back(f.name);
        diagnostics_.error(Code::UnknownFault, line.place(),
                           fmt::format("{} has no fault {}", base::with_article(kind.name), line.found()),
                           base::name_hint(fault_name, known));
        return false;
    }
    ++line.at;
    order.action = Action::FaultDevice;
    order.device = device;
    order.value = order.fault->default_amount;
    if (order.fault->takes_amount && line.is_number()) {
        const base::Place amount_place = line.place();
        const auto amount = quantity(line, order.fault->dimension);
        if (!amount) return false;
        order.value = *amount;
        if (*amount < order.fault->low || *amount > order.fault->high) {
            diagnostics_.error(
                Code::OutOfRange, amount_place,
                fmt::format("the fault {} takes {}", order.fault->name,
                            base::range_text(order.fault->low, order.fault->high, order.fault->dimension)));
            return false;
        }
    }
    return timing(line, order);
}

bool OrderReader::defect_of_point(Line& line, Order& order, int point, const plant::DefectSpec& defect) {
    const plant::PointModel& p = base::at(model_.plant->points, point);
    const bool text = p.type == plant::PointType::Text;
    if (defect.defect == plant::Defect::Stuck && !text) return stuck(line, order, point);
    order.action = Action::FaultPoint;
    order.point = point;
    order.defect = defect.defect;
    order.value = defect.default_amount;
    const bool boolean = p.type == plant::PointType::Boolean;
    if ((boolean && !defect.of_boolean) || (!boolean && defect.defect == plant::Defect::Chatter) ||
        (text && defect.of_text == nullptr)) {
        const base::Place where = logic::place_in(line.source, line.tokens[line.at - 1].span);
        diagnostics_.error(Code::UnknownFault, where,
                           fmt::format("'{}' is {}; it cannot have {}", p.name,
                                       boolean ? "BOOL"
                                       : text  ? "a string"
                                               : "a number",
                                       defect.name),
                           text ? "a string can have stuck, open_wire, delay or noise" : "");
        return false;
    }
    if (text && defect.defect == plant::Defect::Stuck && line.current().text == "at" &&
        line.tokens[line.at + 1].kind == logic::TokenKind::Text) {
        diagnostics_.error(Code::WrongValue, line.place(),
                           fmt::format("'{}' is a string; it is stuck at what it shows, and takes no value", p.name),
                           fmt::format("fault {} stuck", p.name));
        return false;
    }
    if (!defect.takes_amount || !line.is_number() || (text && !defect.of_time)) return true;
    const Dimension dimension = defect.of_time                         ? Dimension::Time
                                : defect.defect == plant::Defect::Gain ? Dimension::Plain
                                                                       : p.dimension;
    const base::Place where = line.place();
    const auto amount = quantity(line, dimension);
    if (!amount) return false;
    order.value = *amount;
    if (!defect.of_time || (*amount > 0.0 && *amount <= 60.0)) return true;
    diagnostics_.error(Code::OutOfRange, where, fmt::format("{} takes more than 0 s and at most 60 s", defect.name));
    return false;
}

/// `every 7th`, `for 2 s`, `at random every 30 s for 1 s`.
bool OrderReader::timing(Line& line, Order& order) {
    const auto seconds = [&](double& to) {
        const base::Place where = line.place();
        const auto t = time(line.source, line.tokens, line.at);
        if (!t) return false;
        to = base::to_seconds(*t);
        if (to <= 0.0) diagnostics_.error(Code::OutOfRange, where, "a fault lasts for more than 0 s");
        return to > 0.0;
    };
    if (line.accept("at")) {
        if (!line.accept("random") || !line.accept("every")) {
            diagnostics_.error(Code::Syntax, line.place(),
                               fmt::format("expected 'at random every T for T', found {}", line.found()));
            return false;
        }
        if (!seconds(order.timing.mean_s)) return false;
        if (!line.accept("for")) {
            diagnostics_.error(Code::Syntax, line.place(),
                               fmt::format("expected 'for' and how long it lasts, found {}", line.found()));
            return false;
        }
        return seconds(order.timing.length_s);
    }
    if (line.accept("every")) {
        const base::Place where = line.place();
        const auto count = quantity(line, Dimension::Plain);
        if (!count) return false;
        for (const char* ending : {"th", "st", "nd", "rd"}) line.accept(ending);
        if (order.action != Action::FaultPoint || *count < 1.0 || *count > 1e6 || *count != std::floor(*count)) {
            diagnostics_.error(Code::WrongValue, where,
                               order.action != Action::FaultPoint
                                   ? "'every' counts the signals of a point; this is a fault of a device"
                                   : "'every' takes a whole number, 1 to 1000000");
            return false;
        }
        order.timing.every = static_cast<int>(*count);
        return true;
    }
    return !line.accept("for") || seconds(order.timing.length_s);
}

bool OrderReader::stuck(Line& line, Order& order, int point) {
    const plant::PointModel& p = base::at(model_.plant->points, point);
    order.action = Action::FaultPoint;
    order.point = point;
    order.defect = plant::Defect::Stuck;
    if (p.type == plant::PointType::Boolean) {
        const bool on = line.accept("on");
        if (on || line.accept("off")) {
            order.value = on ? 1.0 : 0.0;
            return true;
        }
        diagnostics_.error(Code::UnknownFault, line.place(),
                           fmt::format("'{}' is BOOL; expected 'on' or 'off', found {}", p.name, line.found()));
        return false;
    }
    if (!line.accept("at")) {
        diagnostics_.error(Code::UnknownFault, line.place(),
                           fmt::format("'{}' is a number; expected 'at' and a value, found {}", p.name, line.found()));
        return false;
    }
    const auto value = quantity(line, p.dimension);
    if (value) order.value = *value;
    return value.has_value();
}

/// "rack.NAME"; null when it is none, reported when it starts so and is unknown.
std::optional<int> OrderReader::module_named(const std::string& name, const base::Place& where) {
    if (!base::fold(name).starts_with("rack.") || model_.wiring.modules.empty()) return std::nullopt;
    std::vector<std::string> known;
    for (std::size_t m = 0; m < model_.wiring.modules.size(); ++m) {
        const wiring::Module& module = model_.wiring.modules[m];
        for (const std::string& one : {module.name, module.full_name()}) {
            known.push_back("rack." + one);
            if (base::fold(known.back()) == base::fold(name)) return static_cast<int>(m);
        }
    }
    diagnostics_.error(Code::UnknownDevice, where, fmt::format("the rack has no module '{}'", name),
                       base::name_hint(name, known));
    return -1;
}

/// `lost`, `channel N`, `fuse N`, counted from 0.
bool OrderReader::fault_of_module(Line& line, Order& order, int number, const std::string& name) {
    if (number < 0) return false;
    order.action = Action::FaultModule;
    order.module = number;
    const wiring::Module& module = base::at(model_.wiring.modules, number);
    if (line.accept("lost")) return true;
    const bool fuse = line.is_word("fuse");
    if (!fuse && !line.is_word("channel")) {
        diagnostics_.error(Code::UnknownFault, line.place(), fmt::format("a module has no fault {}", line.found()),
                           "lost, channel N, fuse N");
        return false;
    }
    if (module.partner >= 0 && base::fold(name) == base::fold("rack." + module.name)) {
        diagnostics_.error(
            Code::UnknownFault, line.place(),
            fmt::format("module '{0}' has inputs and outputs: rack.{0}.inputs or rack.{0}.outputs", module.name));
        return false;
    }
    ++line.at;
    order.module_fault = fuse ? Order::ModuleFault::Fuse : Order::ModuleFault::Channel;
    const base::Place where = line.place();
    const auto value = quantity(line, Dimension::Plain);
    if (!value) return false;
    const int last = fuse ? (module.channels - 1) / 8 : module.channels - 1;
    order.value = *value;
    if (*value >= 0 && *value <= last && *value == std::floor(*value)) return true;
    diagnostics_.error(Code::OutOfRange, where,
                       fmt::format("module '{}' has {} 0 to {}", module.name, fuse ? "fuses" : "channels", last));
    return false;
}

bool OrderReader::heal(Line& line, Order& order) {
    if (line.accept("all")) {
        order.action = Action::HealAll;
        return true;
    }
    if (names_link(line)) {
        order.action = Action::HealLink;
        return link_of(line, order);
    }
    base::Place where;
    const std::string name = line.name(where);
    if (const auto module = module_named(name, where)) {
        order.action = Action::HealModule;
        order.module = *module;
        return *module >= 0;
    }
    order.device = model_.plant->find_device(name);
    order.action = Action::HealDevice;
    if (order.device != plant::kNone) return true;
    order.point = model_.plant->find_point(name);
    order.action = Action::HealPoint;
    if (order.point != plant::kNone) return true;
    diagnostics_.error(Code::UnknownDevice, where, fmt::format("no device or point is named '{}'", name),
                       base::name_hint(name, model_.plant->device_names()));
    return false;
}

/// An output of the plant that is not text.
std::optional<int> OrderReader::output_point(Line& line) {
    base::Place where;
    const std::string name = line.name(where);
    int point = model_.plant->find_point(name);
    if (const int device = model_.plant->find_device(name); point == plant::kNone && device != plant::kNone)
        point = model_.plant->only_point(device);
    const plant::PointModel* p = point == plant::kNone ? nullptr : &base::at(model_.plant->points, point);
    if (p != nullptr && p->direction == plant::PointDirection::Output && p->type != plant::PointType::Text)
        return point;
    std::vector<std::string> known;
    for (const plant::PointModel& other : model_.plant->points) {
        if (other.direction == plant::PointDirection::Output && other.type != plant::PointType::Text)
            known.push_back(other.name);
    }
    diagnostics_.error(
        p == nullptr ? Code::UnknownPoint : Code::WrongDirection, where,
        p == nullptr ? fmt::format("no point is named '{}'", name)
                     : fmt::format("'{}' is nothing that a device is told by wire", p->name),
        p == nullptr ? base::name_hint(name, known) : "only what devices are told can be driven by hand");
    return std::nullopt;
}

/// `drive POINT = TRUE|FALSE|on|off|VALUE`.
bool OrderReader::drive(Line& line, Order& order) {
    const auto point = output_point(line);
    if (!point) return false;
    order.action = Action::ByHand;
    order.point = *point;
    const plant::PointModel& p = base::at(model_.plant->points, *point);
    line.accept_symbol("=");
    const base::Place where = line.place();
    if (p.type == plant::PointType::Boolean) {
        const bool on = line.accept("true") || line.accept("on");
        if (on || line.accept("false") || line.accept("off")) {
            order.value = on ? 1.0 : 0.0;
            return true;
        }
        diagnostics_.error(Code::WrongValue, where,
                           fmt::format("'{}' is BOOL; expected TRUE or FALSE, found {}", p.name, line.found()));
        return false;
    }
    const auto value = quantity(line, p.dimension);
    if (!value) return false;
    order.value = *value;
    if (p.takes_low == p.takes_high || (*value >= p.takes_low - 1e-9 && *value <= p.takes_high + 1e-9)) return true;
    diagnostics_.error(Code::OutOfRange, where,
                       fmt::format("'{}' takes {}", p.name, base::range_text(p.takes_low, p.takes_high, p.dimension)));
    return false;
}

bool OrderReader::undrive(Line& line, Order& order) {
    order.action = Action::LetGoAll;
    if (line.accept("all")) return true;
    const auto point = output_point(line);
    order.action = Action::LetGo;
    if (point) order.point = *point;
    return point.has_value();
}

}  // namespace vyard::procedure
