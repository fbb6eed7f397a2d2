#include "core/base/source.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::base {

std::string_view SourceText::line(int number) const {
    std::string_view rest = text;
    for (int at = 1; at < number; ++at) {
        const std::size_t end = rest.find('\n');
        if (end == std::string_view::npos) return {};
        rest.remove_prefix(end + 1);
    }
    std::string_view found = rest.substr(0, rest.find('\n'));
    if (!found.empty() && found.back() == '\r') found.remove_suffix(1);
    return found;
}

std::pair<int, int> SourceText::in_file(int line, int column) const {
    if (origins.empty() || line < 1) return {line, column};
    const LineOrigin& origin = origins[std::min(static_cast<std::size_t>(line), origins.size()) - 1];
    if (!origin.exact) return {origin.line, origin.column};
    int there = origin.column + column - 1;
    for (const auto& [from, shift] : origin.shifts) {
        if (column >= from) there = origin.column + column - 1 + shift;
    }
    return {origin.line, there};
}

std::string Place::text() const {
    if (!known()) return {};
    const auto [file_line, file_column] = source->in_file(line, column);
    return line > 0 ? fmt::format("{}:{}:{}", source->path, file_line, file_column) : source->path;
}

}  // namespace vyard::base
