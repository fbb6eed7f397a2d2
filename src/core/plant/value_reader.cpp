#include "core/plant/value_reader.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace vyard::plant {

using base::Code;
using base::Dimension;
using Form = DefinitionValue::Form;

const char* form_text(Form form) {
    static constexpr const char* kTexts[] = {"a string", "a bare number", "true or false", "a list", "a table or date"};
    return kTexts[static_cast<int>(form)];
}

void ValueReader::read_colours(const PlantDefinition& definition) {
    for (const DefinitionValue& v : definition.colours) {
        if (v.form != Form::Text) {
            error(Code::WrongValue, v.place, fmt::format("a colour is a string, not {}", form_text(v.form)));
        } else if (std::find(model_.colours.begin(), model_.colours.end(), v.text) != model_.colours.end()) {
            error(Code::DuplicateName, v.place, fmt::format("the colour '{}' is listed twice", v.text));
        } else if (model_.colours.size() >= kMostColours) {
            error(Code::WrongValue, v.place, fmt::format("a plant has up to {} colours", kMostColours));
            return;
        } else {
            model_.colours.push_back(v.text);
        }
    }
    if (model_.colours.empty()) model_.colours.emplace_back("plain");
}

void ValueReader::read_items(const PlantDefinition& definition) {
    for (const DeviceDefinition& d : definition.items) {
        if (model_.item_types.size() >= kMostItemTypes) {
            error(Code::WrongValue, d.place, fmt::format("a plant has up to {} types of items", kMostItemTypes));
            return;
        }
        ItemType item;
        item.name = d.name;
        bool size_given = false;
        for (const DefinitionKey& key : d.keys) {
            if (key.name == "size") {
                size_given = true;
                read_size(key.value, item);
            } else if (key.name == "mass") {
                item.mass_kg = quantity(key.value, Dimension::Mass, 0.0, 1e5).value_or(1.0);
            } else if (key.name == "colour") {
                item.colour = find_colour(key.value).value_or(0);
            } else if (key.name == "code") {
                item.code = static_cast<int>(quantity(key.value, Dimension::Plain, 0.0, 1e9).value_or(0.0));
            } else if (key.name == "label") {
                item.label = label(key.value);
            } else if (key.name == "material") {
                item.material = material(key.value);
            } else {
                error(Code::UnknownKey, key.place, fmt::format("an item has no '{}'", key.name),
                      base::name_hint(key.name, {"size", "mass", "colour", "code", "label", "material"}));
            }
        }
        if (!size_given)
            error(Code::MissingKey, d.place, fmt::format("item '{}' needs its size", d.name),
                  "size = [\"240 mm\", \"115 mm\", \"71 mm\"]  (length, width, height)");
        model_.item_types.push_back(item);
        const OrientedBox body{{}, item.length_m / 2.0, item.width_m / 2.0, {}};
        model_.item_forms.push_back({body.half_length_m, body.half_width_m, item.height_m, body.radius_m()});
    }
}

std::string ValueReader::label(const DefinitionValue& value) {
    if (value.form == Form::Text && value.text.size() <= WireText::kMost) return value.text;
    error(Code::WrongValue, value.place, fmt::format("'label' takes a string of up to {} bytes", WireText::kMost));
    return {};
}

Material ValueReader::material(const DefinitionValue& value) {
    if (value.form == Form::Text && value.text == "metal") return Material::Metal;
    if (value.form != Form::Text || value.text != "other")
        error(Code::WrongValue, value.place, "'material' takes one of: metal, other");
    return Material::Other;
}

void ValueReader::read_size(const DefinitionValue& value, ItemType& item) {
    if (value.form != Form::List || value.list.size() != 3) {
        error(Code::WrongValue, value.place, "a size is three lengths: length, width, height",
              "size = [\"240 mm\", \"115 mm\", \"71 mm\"]");
        return;
    }
    double* const parts[] = {&item.length_m, &item.width_m, &item.height_m};
    for (std::size_t i = 0; i < 3; ++i)
        *parts[i] = quantity(value.list[i], Dimension::Length, 1e-3, 10.0).value_or(0.1);
}

std::optional<int> ValueReader::find_colour(const DefinitionValue& value) {
    const auto found = std::find(model_.colours.begin(), model_.colours.end(), value.text);
    if (value.form == Form::Text && found != model_.colours.end())
        return static_cast<int>(found - model_.colours.begin());
    error(Code::WrongValue, value.place, fmt::format("'{}' is not a colour of this plant", value.text),
          base::name_hint(value.text, model_.colours));
    return std::nullopt;
}

std::optional<double> ValueReader::quantity(const DefinitionValue& value, Dimension dimension, double low,
                                            double high) {
    if (value.form == Form::Number && dimension != Dimension::Plain) {
        error(Code::WrongUnit, value.place,
              fmt::format("{} needs a unit, written as a string; accepted: {}",
                          base::with_article(base::dimension_name(dimension)), base::accepted_units(dimension)),
              fmt::format("such as \"{} {}\"", value.number, base::display_unit(dimension)));
        return std::nullopt;
    }
    double si = value.number;
    if (value.form == Form::Text) {
        const auto reading = base::read_quantity(value.text, dimension);
        if (reading.fault != base::QuantityFault::None) {
            error(reading.fault == base::QuantityFault::NotANumber ? Code::WrongValue : Code::WrongUnit, value.place,
                  base::quantity_message(value.text, reading, dimension));
            return std::nullopt;
        }
        si = reading.si_value;
    } else if (value.form != Form::Number) {
        error(Code::WrongValue, value.place,
              fmt::format("expected {}, found {}", base::with_article(base::dimension_name(dimension)),
                          form_text(value.form)));
        return std::nullopt;
    }
    if (!(si >= low && si <= high)) {
        error(Code::OutOfRange, value.place,
              fmt::format("{} is out of range; accepted: {}", base::quantity_text(si, dimension),
                          base::range_text(low, high, dimension)));
        return std::nullopt;
    }
    return si;
}

std::optional<ParameterValue> ValueReader::item_list(const DefinitionValue& value) {
    ItemList out{static_cast<int>(model_.item_lists.size()), 0};
    const std::vector<DefinitionValue> single{value};
    for (const DefinitionValue& v : value.form == Form::List ? value.list : single) {
        const int found = v.form == Form::Text ? model_.find_item_type(v.text) : kNone;
        if (found == kNone) {
            std::vector<std::string> known;
            for (const ItemType& i : model_.item_types) known.push_back(i.name);
            error(Code::UnknownItem, v.place, fmt::format("no item is named '{}'", v.text),
                  base::name_hint(v.text, known));
            return std::nullopt;
        }
        model_.item_lists.push_back(static_cast<std::int16_t>(found));
        ++out.count;
    }
    constexpr int kMost = 100'000;
    if (out.count > 0 && out.count <= kMost) return out;
    error(Code::OutOfRange, value.place, fmt::format("a list has 1 to {} items", kMost));
    return std::nullopt;
}

std::optional<ParameterValue> ValueReader::number_list(const ParameterSpec& p, const DefinitionValue& value) {
    NumberList out;
    if (value.form != Form::List || value.list.size() > NumberList::kMost) {
        error(Code::WrongValue, value.place,
              fmt::format("'{}' is a list of up to {} {}", p.name, NumberList::kMost,
                          p.dimension == Dimension::Plain ? "numbers" : "quantities with units"));
        return std::nullopt;
    }
    for (const DefinitionValue& v : value.list) {
        const auto number = quantity(v, p.dimension, 0.0, 1e6);
        if (!number) return std::nullopt;
        base::at(out.values, out.count++) = *number;
    }
    return out;
}

std::optional<ParameterValue> ValueReader::names(const ParameterSpec& p, const DefinitionValue& value,
                                                 DeviceModel& device) {
    std::vector<std::string> list;
    for (const DefinitionValue& v : value.list) {
        if (v.form == Form::Text) list.push_back(v.text);
    }
    if (value.form != Form::List || list.size() != value.list.size() || list.size() < 2 || list.size() > 8) {
        error(Code::WrongValue, value.place, fmt::format("'{}' is a list of two to eight names", p.name));
        return std::nullopt;
    }
    device.positions = list;
    return list;
}

std::optional<Vector2> ValueReader::coordinates(const DefinitionValue& value) {
    if (value.form != Form::List || value.list.size() != 2) {
        error(Code::WrongValue, value.place, "a place in the plan is two lengths", "at = [\"0 m\", \"1.5 m\"]");
        return std::nullopt;
    }
    const auto x = quantity(value.list[0], Dimension::Length, -1000.0, 1000.0);
    const auto y = quantity(value.list[1], Dimension::Length, -1000.0, 1000.0);
    if (!x || !y) return std::nullopt;
    return Vector2{*x, *y};
}

namespace {

/// "belt, chute or lift"
std::string alternatives(const std::vector<std::string>& names) {
    std::string out;
    for (std::size_t i = 0; i < names.size(); ++i)
        out += (i == 0 ? "" : i + 1 == names.size() ? " or " : ", ") + names[i];
    return out;
}

bool serves(const DeviceModel& d, const std::vector<std::string>& kinds) {
    return kinds.empty() || std::find(kinds.begin(), kinds.end(), d.kind->name) != kinds.end();
}

}  // namespace

std::optional<int> ValueReader::device_named(const DefinitionValue& value, const std::vector<std::string>& kinds,
                                             const std::string& key) {
    if (value.form != Form::Text) {
        error(Code::WrongValue, value.place, fmt::format("'{}' names a device, written as a string", key));
        return std::nullopt;
    }
    const int found = model_.find_device(value.text);
    if (found == kNone) {
        std::vector<std::string> known;
        for (const DeviceModel& d : model_.devices) {
            if (serves(d, kinds)) known.push_back(d.name);
        }
        error(Code::UnknownDevice, value.place, fmt::format("no device is named '{}'", value.text),
              base::name_hint(value.text, known));
        return std::nullopt;
    }
    if (!serves(base::at(model_.devices, found), kinds)) {
        error(Code::WrongDevice, value.place,
              fmt::format("'{}' is a {}; '{}' needs a {}", value.text, base::at(model_.devices, found).kind->name, key,
                          alternatives(kinds)));
        return std::nullopt;
    }
    return found;
}

}  // namespace vyard::plant
