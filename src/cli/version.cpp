#include "cli/version.hpp"

#include <fmt/format.h>

#include <filesystem>

namespace vyard::cli {

std::string version_text() {
    constexpr std::string_view commit = VYARD_COMMIT;
    return commit.empty() ? VYARD_VERSION : fmt::format("{} (commit {})", VYARD_VERSION, commit);
}

std::string examples_folder() {
    std::error_code failure;
    const std::filesystem::path program = std::filesystem::read_symlink("/proc/self/exe", failure);
    const auto installed = program.parent_path().parent_path() / "share/vivid-yard/examples";
    return std::filesystem::is_directory(installed, failure) ? installed.string() : VYARD_EXAMPLES;
}

}  // namespace vyard::cli
