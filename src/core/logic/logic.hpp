// The room of the language: source text -> checked program -> code, and the machine that executes it.
//
//   tokens (lexer) -> tree (parser) -> checked tree, layout (checker) -> instructions (generator) -> machine
//
// compile() runs the whole line. Each stage has a text form for tests and people.
#pragma once

#include <memory>
#include <vector>

#include "core/logic/address_map.hpp"
#include "core/logic/analysis/foreseen.hpp"
#include "core/logic/analysis/influence.hpp"
#include "core/logic/check/checker.hpp"
#include "core/logic/code/generator.hpp"
#include "core/logic/conditions.hpp"
#include "core/logic/coverage.hpp"
#include "core/logic/declared.hpp"
#include "core/logic/drawn/drawing_writer.hpp"
#include "core/logic/drawn/grid.hpp"
#include "core/logic/drawn/layout.hpp"
#include "core/logic/library/reference.hpp"
#include "core/logic/library/standard_blocks.hpp"
#include "core/logic/library/standard_functions.hpp"
#include "core/logic/machine/machine.hpp"
#include "core/logic/program.hpp"
#include "core/logic/seen.hpp"
#include "core/logic/seen_cells.hpp"
#include "core/logic/seen_unit.hpp"
#include "core/logic/text/instruction_list.hpp"
#include "core/logic/text/parser.hpp"
#include "core/logic/text_values.hpp"
#include "core/logic/unit_coverage.hpp"
#include "core/logic/why.hpp"

namespace vyard::logic {

/// The program of one controller from all its files; null after errors, which are all in `diagnostics`.
std::shared_ptr<const Program> compile(const std::vector<base::SourcePtr>& sources, base::Diagnostics& diagnostics);

/// The same, but after errors its variables are handed out without code, for checking the files that name its tags.
/// Not fit to run then. `coverage`: with marks (see Coverage).
struct CheckedProgram {
    std::shared_ptr<const Program> program;
    std::vector<std::string> left_out;  ///< Names of variables that are declared, but wrongly.
};
CheckedProgram check_program(const std::vector<base::SourcePtr>& sources, base::Diagnostics& diagnostics,
                             bool coverage = false);

}  // namespace vyard::logic
