// A program or an instance of a block as a person reads it, with what it shows at one moment: drawings with their
// power, charts with their active steps, lines of text with the values of the names in them.
#pragma once

#include "core/logic/seen.hpp"

namespace vyard::logic {

/// A name in a line of text whose value is known.
struct SeenName {
    int column = 0;  ///< From 0, in bytes.
    std::string name;
    std::string value;
    Live state = Live::Unknown;  ///< Of a BOOL.
    std::string before;          ///< Its value at the time that it is compared with, if that was another.
};

/// "line_run = TRUE, n = 3 (was 2)"
std::string names_text(const std::vector<SeenName>& names);

struct SeenLine {
    int number = 0;
    std::string text;
    std::vector<SeenName> names;
};

struct SeenStep {
    const ChartStep* step = nullptr;
    bool active = false;
    std::string elapsed;   ///< Since it became active, or while it last was.
    bool changed = false;  ///< It was not so at the time that it is compared with.
};

struct SeenTransition {
    const ChartTransition* transition = nullptr;
    std::string condition;  ///< As written.
    std::vector<SeenName> names;
};

struct SeenChart {
    std::vector<SeenStep> steps;
    std::vector<SeenTransition> transitions;
};

/// A piece of a unit: a drawing, or lines of text between drawings.
struct SeenPart {
    std::optional<SeenDrawing> drawing;
    std::vector<SeenLine> lines;
};

struct SeenUnit {
    std::string path;
    const ProgramUnit* unit = nullptr;
    std::optional<SeenChart> chart;
    std::vector<SeenPart> parts;  ///< In the order of the source; of a chart its actions alone.
};

/// The unit at a path; null when there is none. Cost: the unit's source, and its drawings.
std::optional<SeenUnit> seen_unit(const Program& program, const std::vector<std::byte>& memory, std::int64_t now_ns,
                                  const std::string& path);

/// Marks in `now` what was not so in `before`: the same unit at another time.
void mark_changes(SeenUnit& now, const SeenUnit& before);

/// Paths of all units that have a body.
std::vector<std::string> unit_paths(const Program& program);

}  // namespace vyard::logic
