// The user's mistakes: collected while checking goes on, shown all at once.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/base/diagnostic_codes.hpp"
#include "core/base/source.hpp"

namespace vyard::base {

enum class Severity { Error, Warning, Remark };
const char* severity_name(Severity severity);

struct Diagnostic {
    Severity severity;
    Code code;
    Place place;
    std::string message;  ///< What is wrong and what was expected; no final stop.
    std::string hint;     ///< A likely mend, or empty.
};

/// A growing list of diagnostics. Beyond kMaxErrors errors the rest is counted, not kept.
class Diagnostics {
  public:
    static constexpr int kMaxErrors = 200;

    void error(Code code, Place place, std::string message, std::string hint = {});
    void warning(Code code, Place place, std::string message, std::string hint = {});
    /// Worth knowing, and often meant.
    void remark(Code code, Place place, std::string message, std::string hint = {});
    /// One of another list.
    void add(Diagnostic diagnostic);

    bool has_errors() const { return error_count_ > 0; }
    int error_count() const { return error_count_; }
    int warning_count() const { return warning_count_; }
    int remark_count() const { return remark_count_; }
    const std::vector<Diagnostic>& list() const { return list_; }

    /// Orders by file, line and column; reading order of the files is kept.
    void sort();

    /// `file:line:col: error: message [code]`, the line (of a long one what is around the place), a caret, and the
    /// hint. Control characters are shown, not sent: "\x1b".
    static std::string render(const Diagnostic& diagnostic);
    std::string render() const;

  private:
    std::vector<Diagnostic> list_;
    int error_count_ = 0;
    int warning_count_ = 0;
    int remark_count_ = 0;
};

/// The text with its control characters written out ("\x1b", "\x07"), tabs and line feeds as they are, and bytes that
/// are no UTF-8 as "\xE4": safe to send to a terminal.
std::string shown(std::string_view text);

/// The first byte that is no UTF-8 (RFC 3629), or npos.
std::size_t first_not_utf8(std::string_view text);

/// The name of `known` nearest to `wrong` (case folded, optimal string alignment distance), or "" when none is near
/// enough to be a likely slip (more than a third of the letters differ).
std::string nearest_name(std::string_view wrong, const std::vector<std::string>& known);

/// "a belt", "an angle".
std::string with_article(std::string_view word);

/// "did you mean 'x'?" when a near name exists; else "known: a, b, c" (at most 12); else "".
std::string name_hint(std::string_view wrong, const std::vector<std::string>& known);

/// Case folding of ASCII letters; identifiers of the logic are not case sensitive (IEC 61131-3, 6.1.2).
std::string fold(std::string_view text);
/// Without blanks and tabs at either end.
std::string_view trimmed(std::string_view text);

}  // namespace vyard::base
