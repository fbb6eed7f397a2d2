#include "core/base/source.hpp"

#include <fmt/format.h>

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

std::string Place::text() const {
    if (!known()) return {};
    return line > 0 ? fmt::format("{}:{}:{}", source->path, line, column) : source->path;
}

}  // namespace vyard::base
