#include "core/base/quantity.hpp"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <numbers>

#include "core/base/at.hpp"
#include "core/base/diagnostics.hpp"

namespace vyard::base {

namespace {

struct Unit {
    const char* name;
    Dimension dimension;
    double si_factor;
};

constexpr auto kUnits = std::to_array<Unit>({
    {"mm", Dimension::Length, 1e-3},
    {"cm", Dimension::Length, 1e-2},
    {"m", Dimension::Length, 1.0},
    {"mm/s", Dimension::Speed, 1e-3},
    {"m/s", Dimension::Speed, 1.0},
    {"m/min", Dimension::Speed, 1.0 / 60.0},
    {"mm/s2", Dimension::Acceleration, 1e-3},
    {"m/s2", Dimension::Acceleration, 1.0},
    {"us", Dimension::Time, 1e-6},
    {"ms", Dimension::Time, 1e-3},
    {"s", Dimension::Time, 1.0},
    {"min", Dimension::Time, 60.0},
    {"h", Dimension::Time, 3600.0},
    {"ml", Dimension::Volume, 1e-6},
    {"l", Dimension::Volume, 1e-3},
    {"m3", Dimension::Volume, 1.0},
    {"ml/s", Dimension::Flow, 1e-6},
    {"l/s", Dimension::Flow, 1e-3},
    {"l/min", Dimension::Flow, 1e-3 / 60.0},
    {"m3/h", Dimension::Flow, 1.0 / 3600.0},
    {"g", Dimension::Mass, 1e-3},
    {"kg", Dimension::Mass, 1.0},
    {"t", Dimension::Mass, 1e3},
    {"deg", Dimension::Angle, std::numbers::pi / 180.0},
    {"rad", Dimension::Angle, 1.0},
    {"%", Dimension::Percent, 1.0},
    {"Pa", Dimension::Pressure, 1.0},
    {"kPa", Dimension::Pressure, 1e3},
    {"MPa", Dimension::Pressure, 1e6},
    {"mbar", Dimension::Pressure, 1e2},
    {"bar", Dimension::Pressure, 1e5},
    {"degC", Dimension::Temperature, 1.0},
    {"W", Dimension::Power, 1.0},
    {"kW", Dimension::Power, 1e3},
    {"deg/s", Dimension::AngularSpeed, std::numbers::pi / 180.0},
    {"rad/s", Dimension::AngularSpeed, 1.0},
    {"rpm", Dimension::AngularSpeed, std::numbers::pi / 30.0},
    {"N", Dimension::Force, 1.0},
    {"kN", Dimension::Force, 1e3},
});

struct DimensionText {
    const char* name;
    const char* unit;
};

constexpr auto kDimensions = std::to_array<DimensionText>({
    {"number", ""},
    {"length", "m"},
    {"speed", "m/s"},
    {"time", "s"},
    {"volume", "l"},
    {"flow", "l/s"},
    {"mass", "kg"},
    {"angle", "deg"},
    {"percentage", "%"},
    {"acceleration", "m/s2"},
    {"pressure", "bar"},
    {"temperature", "degC"},
    {"power", "W"},
    {"angular speed", "rad/s"},
    {"force", "N"},
});

}  // namespace

const char* dimension_name(Dimension dimension) {
    return base::at(kDimensions, dimension).name;
}
const char* display_unit(Dimension dimension) {
    return base::at(kDimensions, dimension).unit;
}

double displayed(double si_value, Dimension dimension) {
    const auto unit = find_unit(display_unit(dimension));
    return unit ? si_value / unit->si_factor : si_value;
}

std::string quantity_text(double si_value, Dimension dimension) {
    const char* unit = display_unit(dimension);
    return fmt::format("{:.6g}{}{}", displayed(si_value, dimension), *unit != '\0' ? " " : "", unit);
}

std::string range_text(double si_low, double si_high, Dimension dimension) {
    return fmt::format("{:.6g} to {}", displayed(si_low, dimension), quantity_text(si_high, dimension));
}

std::string accepted_units(Dimension dimension) {
    std::string out;
    for (const Unit& unit : kUnits) {
        if (unit.dimension != dimension) continue;
        if (!out.empty()) out += ", ";
        out += unit.name;
    }
    return out;
}

std::optional<UnitReading> find_unit(std::string_view name) {
    for (const Unit& unit : kUnits) {
        if (name == unit.name) return UnitReading{unit.dimension, unit.si_factor};
    }
    return std::nullopt;
}

QuantityReading read_quantity(std::string_view text, Dimension dimension) {
    text = trimmed(text);
    QuantityReading reading;
    double number = 0.0;
    const char* begin = text.data() + (text.starts_with('+') ? 1 : 0);
    const auto [end, failure] = std::from_chars(begin, text.data() + text.size(), number);
    if (failure != std::errc() || !(number > -1e15 && number < 1e15)) {
        reading.fault = QuantityFault::NotANumber;
        return reading;
    }
    reading.unit = trimmed(std::string_view(end, static_cast<std::size_t>(text.data() + text.size() - end)));
    if (dimension == Dimension::Plain) {
        reading.fault = reading.unit.empty() ? QuantityFault::None : QuantityFault::WrongUnit;
        reading.si_value = number;
        return reading;
    }
    if (reading.unit.empty()) {
        reading.fault = QuantityFault::NoUnit;
        return reading;
    }
    for (const Unit& unit : kUnits) {
        if (unit.dimension == dimension && reading.unit == unit.name) {
            reading.si_value = number * unit.si_factor;
            return reading;
        }
    }
    reading.fault = QuantityFault::WrongUnit;
    return reading;
}

std::string quantity_message(std::string_view text, const QuantityReading& reading, Dimension dimension) {
    const char* name = dimension_name(dimension);
    if (dimension == Dimension::Plain) return fmt::format("'{}' is not a plain number", text);
    switch (reading.fault) {
        case QuantityFault::NotANumber:
            return fmt::format("'{}' is not a valid {}; expected a number and a unit ({})", text, name,
                               accepted_units(dimension));
        case QuantityFault::NoUnit:
            return fmt::format("{} needs a unit; accepted: {}", with_article(name), accepted_units(dimension));
        default:
            return fmt::format("'{}' is not a unit of {}; accepted: {}", reading.unit, name, accepted_units(dimension));
    }
}

}  // namespace vyard::base
