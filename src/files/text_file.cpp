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

WholeFile::WholeFile(std::string path) : path_(std::move(path)) {
    std::error_code failure;
    const std::filesystem::path target(path_);
    if (target.has_parent_path()) std::filesystem::create_directories(target.parent_path(), failure);
    if (std::filesystem::is_directory(target)) {
        failure_ = "it is a folder";
        return;
    }
    temporary_ = fmt::format("{}.{}.tmp", path_, getpid());
    out_ = std::make_unique<std::ofstream>(temporary_, std::ios::binary | std::ios::trunc);
    if (!*out_) failure_ = std::strerror(errno);
}

WholeFile::~WholeFile() {
    if (temporary_.empty()) return;
    out_.reset();
    std::error_code ignored;
    std::filesystem::remove(temporary_, ignored);
}

void WholeFile::write(std::string_view text) {
    if (!failure_.empty()) return;
    out_->write(text.data(), static_cast<std::streamsize>(text.size()));
    if (!*out_) failure_ = std::strerror(errno);
    size_ += text.size();
}

std::string WholeFile::flush() {
    if (failure_.empty()) {
        out_->flush();
        if (!*out_) failure_ = std::strerror(errno);
    }
    return failure_;
}

bool WholeFile::keep(std::string& why) {
    if (failure_.empty()) {
        out_->flush();
        if (!*out_) failure_ = std::strerror(errno);
        out_.reset();
    }
    if (failure_.empty()) {
        std::error_code failure;
        std::filesystem::rename(temporary_, path_, failure);
        if (failure) failure_ = failure.message();
    }
    if (!failure_.empty()) {
        why = fmt::format("cannot write {}: {}", path_, failure_);
        return false;
    }
    temporary_.clear();
    return true;
}

bool write_text(const std::string& path, std::string_view text, std::string& why) {
    WholeFile file(path);
    file.write(text);
    return file.keep(why);
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
