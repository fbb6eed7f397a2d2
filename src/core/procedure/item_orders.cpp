// Orders for hands on items: take, place, shift, turn, swap.
#include <cmath>
#include <numbers>

#include "core/procedure/order_line.hpp"

namespace vyard::procedure {

std::optional<int> OrderReader::surface(Line& line) {
    const base::Place where = line.place();
    const auto found = device(line, "a belt or chute");
    if (!found || base::at(model_.plant->devices, *found).surface != plant::kNone) return found;
    diagnostics_.error(Code::WrongDevice, where,
                       fmt::format("'{}' carries no items", base::at(model_.plant->devices, *found).name),
                       "name a belt or chute");
    return std::nullopt;
}

bool OrderReader::take(Line& line, Order& order) {
    order.action = Action::Take;
    if (!line.accept("from")) {
        diagnostics_.error(Code::Syntax, line.place(),
                           fmt::format("expected 'from' and a belt or chute, found {}", line.found()),
                           "take from infeed at 1.2 m");
        return false;
    }
    if (line.is_word("floor") && model_.plant->find_device("floor") == plant::kNone) {
        ++line.at;
        order.device = plant::kNone;
        return true;
    }
    const base::Place where = line.place();
    const auto found = device(line, "a belt, a chute, a gantry or 'floor'");
    if (!found) return false;
    order.device = *found;
    const plant::DeviceModel& d = base::at(model_.plant->devices, *found);
    if (d.surface == plant::kNone && d.kind->held != nullptr) return true;
    if (d.surface == plant::kNone) {
        diagnostics_.error(Code::WrongDevice, where, fmt::format("'{}' carries no items", d.name),
                           "name a belt, a chute, a gantry or 'floor'");
        return false;
    }
    if (line.accept("at")) {
        order.along_m = quantity(line, Dimension::Length);
        return order.along_m.has_value();
    }
    return true;
}

bool OrderReader::item_type(Line& line, Order& order) {
    base::Place where;
    const std::string name = line.name(where);
    order.item = model_.plant->find_item_type(name);
    if (order.item != plant::kNone) return true;
    std::vector<std::string> known;
    for (const plant::ItemType& i : model_.plant->item_types) known.push_back(i.name);
    diagnostics_.error(Code::UnknownItem, where, fmt::format("no item is named '{}'", name),
                       base::name_hint(name, known));
    return false;
}

bool OrderReader::place(Line& line, Order& order) {
    order.action = Action::Place;
    if (!item_type(line, order)) return false;
    if (!line.accept("on")) {
        diagnostics_.error(Code::Syntax, line.place(),
                           fmt::format("expected 'on' and a belt or chute, found {}", line.found()),
                           "place brick on infeed at 0.3 m");
        return false;
    }
    const auto found = surface(line);
    if (!found) return false;
    order.device = *found;
    if (!line.accept("at")) {
        diagnostics_.error(Code::Syntax, line.place(),
                           fmt::format("expected 'at' and a distance along it, found {}", line.found()),
                           "place brick on infeed at 0.3 m");
        return false;
    }
    const base::Place along_place = line.place();
    order.along_m = quantity(line, Dimension::Length);
    if (!order.along_m) return false;
    const double length_m = base::at(model_.plant->devices, *found).length_m;
    if (*order.along_m < 0.0 || *order.along_m > length_m) {
        diagnostics_.error(Code::OutOfRange, along_place,
                           fmt::format("{:g} m is out of range; it is {:g} m long", *order.along_m, length_m));
        return false;
    }
    if (!line.accept("colour")) return true;
    const std::string colour(line.current().text);
    const auto& known = model_.plant->colours;
    const auto at = std::find(known.begin(), known.end(), colour);
    if (at == known.end()) {
        diagnostics_.error(Code::WrongValue, line.place(), fmt::format("'{}' is not a colour of this plant", colour),
                           base::name_hint(colour, known));
        return false;
    }
    ++line.at;
    order.colour = static_cast<int>(at - known.begin());
    return true;
}

/// `shift item on BELT at X by LENGTH [left LENGTH]`, `turn item on BELT at X by ANGLE`, `swap item on BELT at X for
/// ITEM`.
bool OrderReader::handle(Line& line, Order& order, const std::string& verb) {
    order.action = verb == "shift" ? Action::Shift : verb == "turn" ? Action::TurnItem : Action::Swap;
    const std::string example = verb == "shift"  ? "shift item on infeed at 1.2 m by 50 mm"
                                : verb == "turn" ? "turn item on infeed at 1.2 m by 90 deg"
                                                 : "swap item on infeed at 1.2 m for tile";
    const auto wanted = [&](const char* word) {
        if (line.accept(word)) return true;
        diagnostics_.error(Code::Syntax, line.place(), fmt::format("expected '{}', found {}", word, line.found()),
                           example);
        return false;
    };
    if (!wanted("item") || !wanted("on")) return false;
    const auto found = surface(line);
    if (!found) return false;
    order.device = *found;
    if (line.accept("at")) {
        order.along_m = quantity(line, Dimension::Length);
        if (!order.along_m) return false;
    }
    if (verb == "swap") return wanted("for") && item_type(line, order);
    if (!wanted("by")) return false;
    // No hand goes further in one grip; and what is far away cannot be reckoned with.
    const auto way = [&](double& to) {
        const base::Place where = line.place();
        const auto by = quantity(line, verb == "turn" ? Dimension::Angle : Dimension::Length);
        if (!by) return false;
        to = *by;
        const double most = verb == "turn" ? 4.0 * std::numbers::pi : 10.0;
        if (std::abs(to) <= most) return true;
        diagnostics_.error(
            Code::OutOfRange, where,
            verb == "turn" ? "an item is turned by 720 deg at most" : "an item is shifted by 10 m at most");
        return false;
    };
    if (!way(order.value)) return false;
    return verb == "turn" || !line.accept("left") || way(order.left_m);
}

}  // namespace vyard::procedure
