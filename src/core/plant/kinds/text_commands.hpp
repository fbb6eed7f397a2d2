// The lines between a controller and an axis that takes text. A command is a whole number and a verb, in letters of
// either size, with a length in mm or a speed in mm/s where the verb takes one:
//     N ENABLE   N DISABLE   N HOME   N GO 350 mm   N GO BY -20 mm   N RUN -50 mm/s   N SPEED 200 mm/s
//     N STOP     N RESET     N WHERE
// The answer carries the number of its command: "N TAKEN" while it takes time, "N DONE 350.0 mm" with the position
// counted at the end, "N ERROR 3 NOT HOMED" when it cannot be done. docs/text-axis.md is the page for users.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace vyard::plant {

enum class TextVerb : std::uint8_t { Unknown, Enable, Disable, Home, Go, GoBy, Run, Speed, Stop, Reset, Where };

struct TextCommand {
    int number = 0;  ///< 0 to 999999; 0 when the line has none.
    TextVerb verb = TextVerb::Unknown;
    double value = 0.0;  ///< m or m/s.
};

enum class TextError : std::uint8_t { None, NotUnderstood, NotEnabled, NotHomed, OutOfTravel, TooFast, Fault };

TextCommand read_text_command(std::string_view line);
std::string taken_line(int number);
std::string done_line(int number, double position_m);
std::string error_line(int number, TextError error);

}  // namespace vyard::plant
