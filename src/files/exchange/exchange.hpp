// Logic in the open XML of PLCopen TC6 (version 2.01, the forerunner of IEC 61131-10), to and from our text.
//
//   XML -> lines of our text, each with its place in the XML -> everything else (parser, checker, figures)
//   our text -> tree -> XML
//
// Connections decide what is drawn, not coordinates. docs/exchange.md says how each part is carried over.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::files {

/// Whether a path names an exchange file: one that ends in .xml.
bool is_exchange_file(const std::string& path);

/// The text of an exchange file, whose places are those of the file. Null after errors. What other makers added is left
/// out with a warning that names it.
base::SourcePtr read_exchange(const base::SourcePtr& xml, base::Diagnostics& diagnostics);

/// One project from the texts of a controller, which have no mistakes. Warnings say what others cannot read: it is
/// carried over as text.
std::string write_exchange(const std::string& name, const std::vector<base::SourcePtr>& sources,
                           base::Diagnostics& diagnostics);

}  // namespace vyard::files
