// Quantities with units as they stand in files, turned into SI once, at reading: "250 mm/s" -> 0.25.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace vyard::base {

enum class Dimension {
    Plain,         ///< a bare number
    Length,        ///< m
    Speed,         ///< m/s
    Time,          ///< s
    Volume,        ///< m3
    Flow,          ///< m3/s
    Mass,          ///< kg
    Angle,         ///< rad
    Percent,       ///< 0..100, stored as 0..100
    Acceleration,  ///< m/s2
    Pressure,      ///< Pa, above the air's
    Temperature,   ///< degC
    Power,         ///< W
    AngularSpeed,  ///< rad/s
    Force,         ///< N
};

/// "length", "speed" ... for messages.
const char* dimension_name(Dimension dimension);
/// "mm, cm, m" ... the units a dimension accepts.
std::string accepted_units(Dimension dimension);
/// The unit values are shown in, as people say them: "m", "bar", "l/s", "%" ...; "" for plain numbers.
const char* display_unit(Dimension dimension);
/// A value in SI, in the unit it is shown in.
double displayed(double si_value, Dimension dimension);
/// "1.5 bar", "0.3 m/s", "12": a value in SI as it is shown, to six figures.
std::string quantity_text(double si_value, Dimension dimension);
/// "0 to 6 bar".
std::string range_text(double si_low, double si_high, Dimension dimension);

/// The dimension and SI factor of a unit as written; null when there is no such unit.
struct UnitReading {
    Dimension dimension = Dimension::Plain;
    double si_factor = 1.0;
};
std::optional<UnitReading> find_unit(std::string_view name);

enum class QuantityFault { None, NotANumber, NoUnit, WrongUnit };

struct QuantityReading {
    double si_value = 0.0;
    QuantityFault fault = QuantityFault::None;
    std::string unit;  ///< As written.
};

/// Reads a number and a unit. `Plain` accepts a number alone.
QuantityReading read_quantity(std::string_view text, Dimension dimension);

/// One sentence for a faulty reading: what is wrong, what was expected.
std::string quantity_message(std::string_view text, const QuantityReading& reading, Dimension dimension);

}  // namespace vyard::base
