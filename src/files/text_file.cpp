#include "files/text_file.hpp"

#include <fmt/format.h>
#include <glob.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <sstream>

namespace vyard::files {

namespace {
constexpr std::uintmax_t kLargest = 64U << 20;
}

std::optional<std::string> read_text(const std::string& path, std::string& why) {
    std::error_code failure;
    if (std::filesystem::is_directory(path, failure)) {
        why = "it is a folder";
        return std::nullopt;
    }
    if (std::filesystem::file_size(path, failure) > kLargest && !failure) {
        why = "it is larger than 64 MiB";
        return std::nullopt;
    }
    std::ifstream in(path, std::ios::binary);
    if (!in) {
        why = std::strerror(errno);
        return std::nullopt;
    }
    std::ostringstream text;
    text << in.rdbuf();
    return std::move(text).str();
}

bool write_text(const std::string& path, std::string_view text, std::string& why) {
    std::error_code failure;
    const std::filesystem::path target(path);
    if (target.has_parent_path()) std::filesystem::create_directories(target.parent_path(), failure);
    if (std::filesystem::is_directory(target)) {
        why = fmt::format("cannot write {}: it is a folder", path);
        return false;
    }
    const std::string temporary = fmt::format("{}.{}.tmp", path, getpid());
    {
        std::ofstream out(temporary, std::ios::binary | std::ios::trunc);
        out.write(text.data(), static_cast<std::streamsize>(text.size()));
        out.flush();
        if (!out) {
            why = fmt::format("cannot write {}: {}", path, std::strerror(errno));
            std::filesystem::remove(temporary, failure);
            return false;
        }
    }
    std::filesystem::rename(temporary, target, failure);
    if (failure) {
        why = fmt::format("cannot write {}: {}", path, failure.message());
        std::filesystem::remove(temporary, failure);
        return false;
    }
    return true;
}

base::SourcePtr read_source(const std::string& path, const base::Place& named_at, base::Diagnostics& diagnostics) {
    std::string why;
    auto text = read_text(path, why);
    if (!text) {
        diagnostics.error(base::Code::FileMissing, named_at, fmt::format("cannot read {}: {}", path, why));
        return nullptr;
    }
    return base::make_source(path, std::move(*text));
}

std::vector<std::string> expand(const std::string& folder, const std::string& pattern) {
    std::vector<std::string> out;
    glob_t found{};
    if (::glob(join_path(folder, pattern).c_str(), 0, nullptr, &found) == 0) {
        for (std::size_t i = 0; i < found.gl_pathc; ++i) out.emplace_back(found.gl_pathv[i]);
    }
    ::globfree(&found);
    return out;
}

std::string join_path(const std::string& folder, const std::string& name) {
    if (folder.empty() || folder == "." || name.starts_with('/')) return name;
    return folder.ends_with('/') ? folder + name : folder + "/" + name;
}

}  // namespace vyard::files
