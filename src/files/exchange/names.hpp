// Names that reader and writer of the exchange share.
#pragma once

#include <array>
#include <string>
#include <string_view>

namespace vyard::files {

constexpr std::string_view kExchangeSpace = "http://www.plcopen.org/xml/tc6_0201";
constexpr std::string_view kTextSpace = "http://www.w3.org/1999/xhtml";

/// What we add for ourselves, in <addData><data name="...">, as the format provides for. Others leave it out.
constexpr std::string_view kOwnText = "urn:vivid-yard:text";        ///< What the format has no words for, as our text.
constexpr std::string_view kOwnNetwork = "urn:vivid-yard:network";  ///< A network begins with this element.
constexpr std::string_view kOwnEdge = "urn:vivid-yard:edge";        ///< R_EDGE or F_EDGE of a variable.
constexpr std::string_view kOwnImplied = "urn:vivid-yard:implied";  ///< The text has no such CONFIGURATION.
constexpr std::string_view kOwnOn = "urn:vivid-yard:on";            ///< RESOURCE name ON this.
constexpr std::string_view kOwnCall = "urn:vivid-yard:call";        ///< The arguments of a program's instance.

/// Elements of the format that are named after an elementary type.
constexpr auto kElementaryTypes =
    std::to_array<std::string_view>({"BOOL", "BYTE", "WORD", "DWORD", "LWORD", "SINT", "INT", "DINT", "LINT", "USINT",
                                     "UINT", "UDINT", "ULINT", "REAL", "LREAL", "TIME", "DATE", "DT", "TOD"});

/// A comment in one piece: (* text *), or with // before each line where the text holds such marks.
std::string comment_text(const std::string& text);

}  // namespace vyard::files
