#include "files/text_file.hpp"

#include <fmt/format.h>
#include <glob.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace vyard::files {

namespace {
constexpr std::uintmax_t kLargest = 64U << 20;
}

std::optional<std::string> read_text(const std::string& path, std::string& why, bool* refused) {
    const auto cannot = [&](int failure) {
        why = std::strerror(failure);
        if (refused != nullptr) *refused = failure != ENOENT && failure != ENOTDIR;
        return std::nullopt;
    };
    if (refused != nullptr) *refused = false;
    struct stat found {};
    if (::stat(path.c_str(), &found) != 0) return cannot(errno);
    if (!S_ISREG(found.st_mode)) {
        why = S_ISDIR(found.st_mode) ? "it is a folder" : "it is not a file with an end, but a pipe or a device";
        return std::nullopt;
    }
    std::ifstream in(path, std::ios::binary);
    if (!in) return cannot(errno);
    // Some files (those of /proc) tell no size beforehand, so what is read is counted.
    std::string text;
    std::array<char, 65536> piece{};
    while (in.read(piece.data(), piece.size()) || in.gcount() > 0) {
        text.append(piece.data(), static_cast<std::size_t>(in.gcount()));
        if (text.size() > kLargest) {
            why = "it is larger than 64 MiB";
            return std::nullopt;
        }
    }
    if (in.bad()) return cannot(errno);
    return text;
}

namespace {

/// Where a link points to, through links of links; the path itself when it is none.
std::string followed(std::string path) {
    for (int hops = 0; hops < 40; ++hops) {
        std::error_code failure;
        if (!std::filesystem::is_symlink(path, failure) || failure) break;
        const std::filesystem::path to = std::filesystem::read_symlink(path, failure);
        if (failure) break;
        path = (to.is_absolute() ? to : std::filesystem::path(path).parent_path() / to).string();
    }
    return path;
}

/// The reason why the file there is not to be replaced; "" when it may be, or is not there.
std::string why_not_replaced(const std::string& path) {
    std::error_code failure;
    const auto status = std::filesystem::status(path, failure);
    if (!std::filesystem::exists(status)) return {};
    if (std::filesystem::is_directory(status)) return "it is a folder";
    if (!std::filesystem::is_regular_file(status)) return "it is not a file, but a pipe or a device";
    using P = std::filesystem::perms;
    const bool writable = (status.permissions() & (P::owner_write | P::group_write | P::others_write)) != P::none;
    return writable && ::access(path.c_str(), W_OK) == 0 ? "" : "it is write-protected";
}

}  // namespace

std::string why_not_writable(const std::string& path) {
    const std::string target = followed(path);
    if (std::string why = why_not_replaced(target); !why.empty()) return why;
    // The nearest folder above that is there must take files.
    std::filesystem::path folder = std::filesystem::path(target).parent_path();
    std::error_code ignored;
    while (!folder.empty() && !std::filesystem::exists(folder, ignored)) {
        const std::filesystem::path above = folder.parent_path();
        if (above == folder) break;
        folder = above;
    }
    if (folder.empty()) folder = ".";
    if (!std::filesystem::is_directory(folder, ignored)) return fmt::format("{} is not a folder", folder.string());
    if (::access(folder.c_str(), W_OK | X_OK) != 0) return fmt::format("{}: {}", folder.string(), std::strerror(errno));
    return {};
}

WholeFile::WholeFile(std::string path) : path_(std::move(path)), target_(followed(path_)) {
    std::error_code failure;
    const std::filesystem::path target(target_);
    if (target.has_parent_path()) std::filesystem::create_directories(target.parent_path(), failure);
    failure_ = why_not_replaced(target_);
    if (!failure_.empty()) return;
    temporary_ = fmt::format("{}.{}.tmp", target_, getpid());
    out_ = std::make_unique<std::ofstream>(temporary_, std::ios::binary | std::ios::trunc);
    if (!*out_) {
        failure_ = std::strerror(errno);
        return;
    }
    const auto status = std::filesystem::status(target_, failure);
    if (std::filesystem::exists(status)) std::filesystem::permissions(temporary_, status.permissions(), failure);
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
        std::filesystem::rename(temporary_, target_, failure);
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

namespace {

/// Reports the first place of `text` that is no UTF-8; true when there is one.
bool report_not_utf8(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    const std::string_view text = source->text;
    if (text.starts_with("\xFF\xFE") || text.starts_with("\xFE\xFF")) {
        diagnostics.error(base::Code::NotUtf8, {source, 0, 0, 1}, fmt::format("{} is UTF-16", source->path),
                          "save it as UTF-8");
        return true;
    }
    const std::size_t wrong = base::first_not_utf8(text);
    if (wrong == std::string_view::npos) return false;
    const auto line =
        static_cast<int>(std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(wrong), '\n'));
    const std::size_t start = wrong == 0 ? 0 : text.rfind('\n', wrong - 1) + 1;
    diagnostics.error(base::Code::NotUtf8, {source, line + 1, static_cast<int>(wrong - start) + 1, 1},
                      fmt::format("this is not UTF-8: the byte {:02X}", static_cast<unsigned char>(text[wrong])),
                      "save the file as UTF-8");
    return true;
}

}  // namespace

base::SourcePtr read_source(const std::string& path, const base::Place& named_at, base::Diagnostics& diagnostics) {
    std::string why;
    bool refused = false;
    auto text = read_text(path, why, &refused);
    if (!text) {
        diagnostics.error(refused ? base::Code::FileUnreadable : base::Code::FileMissing, named_at,
                          fmt::format("cannot read {}: {}", path, why));
        return nullptr;
    }
    if (text->starts_with("\xEF\xBB\xBF")) text->erase(0, 3);
    base::SourcePtr source = base::make_source(path, std::move(*text));
    return report_not_utf8(source, diagnostics) ? nullptr : source;
}

namespace {

/// The characters of a pattern that have a meaning there, as themselves.
std::string without_meaning(const std::string& text) {
    std::string out;
    for (const char c : text) {
        if (std::string_view("*?[]\\").find(c) != std::string_view::npos) out += '\\';
        out += c;
    }
    return out;
}

}  // namespace

std::vector<std::string> expand(const std::string& folder, const std::string& pattern, std::string& why) {
    std::vector<std::string> out;
    glob_t found{};
    const std::string whole = join_path(without_meaning(folder), pattern);
    if (::glob(whole.c_str(), 0, nullptr, &found) == 0) {
        for (std::size_t i = 0; i < found.gl_pathc; ++i) out.emplace_back(found.gl_pathv[i]);
    }
    ::globfree(&found);
    why.clear();
    if (!out.empty()) return out;
    const std::string around = std::filesystem::path(join_path(folder, pattern)).parent_path().string();
    std::error_code failure;
    if (!around.empty() && std::filesystem::is_directory(around, failure)) {
        const std::filesystem::directory_iterator ignored(around, failure);
        if (failure) why = fmt::format("cannot read {}: {}", around, failure.message());
    }
    return out;
}

bool is_folder(const std::string& path) {
    std::error_code failure;
    return std::filesystem::is_directory(path, failure);
}

bool is_there(const std::string& path) {
    std::error_code failure;
    return std::filesystem::exists(path, failure) || failure;
}

bool lies_within(const std::string& path, const std::vector<std::string>& folders) {
    std::error_code failure;
    const auto real = [&](const std::string& named) {
        return std::filesystem::weakly_canonical(std::filesystem::absolute(named.empty() ? "." : named), failure);
    };
    const auto place = real(path);
    if (failure) return true;  // nothing can be read there, and whoever reads says why
    return std::any_of(folders.begin(), folders.end(), [&](const std::string& folder) {
        const auto relative = place.lexically_relative(real(folder));
        return !failure && !relative.empty() && *relative.begin() != "..";
    });
}

std::string join_path(const std::string& folder, const std::string& name) {
    if (folder.empty() || folder == "." || name.starts_with('/')) return name;
    return folder.ends_with('/') ? folder + name : folder + "/" + name;
}

}  // namespace vyard::files
