// Source texts and places in them. A Place keeps its text alive, so a run-time fault can still show the line.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace vyard::base {

/// Where a line of a text that was made from a file stands in that file.
struct LineOrigin {
    int line = 1, column = 1;  ///< Of its first character, 1-based, in bytes.
    bool exact = false;        ///< What follows stands there too; else the whole line stands for that one place.
    std::vector<std::pair<int, int>> shifts;  ///< From this column of the line on, so much further right there.
};

/// One text file as it was read, or the text that was made from one. Immutable; shared by everything compiled from it.
struct SourceText {
    std::string path;  ///< As the user would type it, for messages.
    std::string text;
    std::vector<LineOrigin> origins{};  ///< One a line of a text that was made; empty when it is the file itself.

    /// Line `number` (1-based) without its end; empty beyond the last.
    std::string_view line(int number) const;
    /// Line and column, in the file, of a place in the text.
    std::pair<int, int> in_file(int line, int column) const;
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
    /// "logic/main.st:12:5", or "logic/main.st" when only the file is known, or "" when nothing is. In the file, where
    /// the text was made from one.
    std::string text() const;
};

}  // namespace vyard::base
