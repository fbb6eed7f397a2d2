// Instruction lists (IEC 61131-3, edition 3, 7.2), which older programs are exchanged in, as statements of Structured
// Text that do the same. The list's current result becomes an expression; where a jump goes, the statements stand in a
// CASE that a loop goes through.
#pragma once

#include <string>
#include <vector>

#include "core/logic/text/token.hpp"

namespace vyard::logic {

struct ListStatement {
    std::string text;  ///< A line, indented by four blanks a level.
    int line = 0;      ///< Of the list, that it comes from.
};

/// What a list becomes.
struct ListReading {
    std::vector<ListStatement> statements;
    std::vector<std::string> declarations;  ///< "name : TYPE" of variables for one call that it needs.
};

/// `unit_text`: all that is written around the list; names that stand in it are not used for new variables. Mistakes
/// are reported at their places in `list`, whose lines and columns are its own.
ListReading read_instruction_list(const base::SourcePtr& list, const std::string& unit_text,
                                  base::Diagnostics& diagnostics);

}  // namespace vyard::logic
