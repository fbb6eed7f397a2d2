// Programs with the values they must show, as files: tests/golden/*.st. Lines of the form
//   // at 20 p.count := 3          written just before the scan at 20 ms
//   // at 20 p.count = 4           checked behind it; texts in quotes, TRUE and FALSE, times as the language shows them
//   // at 30 stops index is outside    the scan at 30 ms must stop the controller with a message that holds these words
// Scans come every 10 ms.
#pragma once

#include <cctype>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "core/support.hpp"

namespace vyard::test {

struct GoldenLine {
    int line = 0;
    std::int64_t at_ms = 0;
    std::string name, sign, value;
};

inline std::vector<GoldenLine> golden_lines(const std::string& text) {
    std::vector<GoldenLine> out;
    std::istringstream in(text);
    std::string line;
    for (int number = 1; std::getline(in, line); ++number) {
        std::istringstream words(line);
        std::string slashes, at;
        GoldenLine g;
        g.line = number;
        if (!(words >> slashes >> at >> g.at_ms >> g.name) || slashes != "//" || at != "at") continue;
        if (g.name != "stops") words >> g.sign;
        std::getline(words >> std::ws, g.value);
        REQUIRE((g.name == "stops" || g.sign == ":=" || g.sign == "="));
        out.push_back(g);
    }
    return out;
}

inline void check_value(const Scanner& scanner, const GoldenLine& g) {
    const logic::Variable& v = scanner.variable(g.name);
    const bool number = !g.value.empty() &&
                        (std::isdigit(static_cast<unsigned char>(g.value[0])) != 0 || g.value[0] == '-') &&
                        g.value.find_first_of("#:") == std::string::npos;
    if (number) {
        CHECK(scanner.get(g.name) == doctest::Approx(std::stod(g.value)).epsilon(1e-9));
    } else {
        CHECK(logic::variable_text(scanner.state.memory.data(), v) == g.value);
    }
}

/// A message without numbers of lines and columns.
inline std::string placeless(const std::string& message) {
    std::string out;
    for (const char c : message) {
        if (std::isdigit(static_cast<unsigned char>(c)) == 0) out += c;
    }
    return out;
}

/// Runs `program` and checks the lines of `text`, which may be the same.
inline void run_golden(const std::string& text, const std::string& program) {
    const std::vector<GoldenLine> lines = golden_lines(text);
    REQUIRE(lines.size() > 3);
    Scanner scanner(program);
    std::size_t next = 0;
    while (next < lines.size()) {
        const std::int64_t now = scanner.now.count() / 1'000'000;
        REQUIRE(lines[next].at_ms >= now);
        std::size_t end = next;
        for (; end < lines.size() && lines[end].at_ms == now; ++end) {
            if (lines[end].sign == ":=")
                scanner.set(lines[end].name, lines[end].value == "TRUE"    ? 1.0
                                             : lines[end].value == "FALSE" ? 0.0
                                                                           : std::stod(lines[end].value));
        }
        scanner.scan();
        for (; next < end; ++next) {
            const GoldenLine& g = lines[next];
            INFO("line ", g.line, " ", g.name);
            if (g.name == "stops") {
                CHECK_FALSE(scanner.state.running);
                const std::string fault = controller::fault_text(scanner.model(), scanner.state);
                INFO(fault);
                const bool same = program == text;  // places are those of the program
                CHECK((same ? fault : placeless(fault)).find(same ? g.value : placeless(g.value)) != std::string::npos);
                return;
            }
            const std::string fault = controller::fault_text(scanner.model(), scanner.state);
            REQUIRE_MESSAGE(scanner.state.running, fault);
            if (g.sign == "=") check_value(scanner, g);
        }
    }
}

}  // namespace vyard::test
