// Source texts and places in them. A Place keeps its text alive, so a run-time fault can still show the line.
#pragma once

#include <memory>
#include <string>
#include <string_view>

namespace vyard::base {

/// One text file as it was read. Immutable; shared by everything compiled from it.
struct SourceText {
    std::string path;  ///< As the user would type it, for messages.
    std::string text;

    /// Line `number` (1-based) without its end; empty beyond the last.
    std::string_view line(int number) const;
};

using SourcePtr = std::shared_ptr<const SourceText>;

inline SourcePtr make_source(std::string path, std::string text) {
    return std::make_shared<const SourceText>(SourceText{std::move(path), std::move(text)});
}

/// A place in a source: 1-based line and column (in bytes), and how many columns to mark. line 0: the whole file.
struct Place {
    SourcePtr source;
    int line = 0;
    int column = 0;
    int length = 1;

    bool known() const { return source != nullptr; }
    /// "logic/main.st:12:5", or "logic/main.st" when only the file is known, or "" when nothing is.
    std::string text() const;
};

}  // namespace vyard::base
