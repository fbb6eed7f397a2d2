// Whole files in, whole files out. A write goes to a temporary file beside the target and is renamed over it, so that
// a reader sees the old file or the new one, never half of one.
#pragma once

#include <fstream>
#include <memory>
#include <optional>
#include <string>

#include "core/base/base.hpp"

namespace vyard::files {

/// Null when it cannot be read; `why` says so. Only regular files up to 64 MiB are: a pipe or a device has no end.
/// `refused`, where given: the system does not hand out what is there (no permission, a loop of links, a broken disk).
std::optional<std::string> read_text(const std::string& path, std::string& why, bool* refused = nullptr);

/// Creates missing folders. False when it cannot be written; `why` says so.
[[nodiscard]] bool write_text(const std::string& path, std::string_view text, std::string& why);

/// "" when a file can be written at `path` as far as can be told: its folder is there, or can be made, and takes files;
/// no folder and no write-protected file has its name. Makes nothing.
std::string why_not_writable(const std::string& path);

/// A file that is written piece by piece to a temporary one beside it, and stands there whole after keep(), or not at
/// all. A file that was there keeps its mode; a link stays a link, and what it points to is replaced; what is
/// write-protected is left alone. Failures are remembered; keep() tells.
class WholeFile {
  public:
    explicit WholeFile(std::string path);
    ~WholeFile();
    WholeFile(const WholeFile&) = delete;
    WholeFile& operator=(const WholeFile&) = delete;

    void write(std::string_view text);
    /// False when it cannot be written; `why` says so.
    [[nodiscard]] bool keep(std::string& why);
    const std::string& path() const { return path_; }
    /// What was written so far stands in the temporary file; "" or why it does not.
    std::string flush();
    std::uintmax_t size() const { return size_; }

  private:
    std::string path_, target_, temporary_, failure_;  ///< `target_`: where a link points to.
    std::unique_ptr<std::ofstream> out_;
    std::uintmax_t size_ = 0;  ///< Bytes so far.
};

/// Reads a source, or reports a file-missing or file-unreadable error at `named_at`. What is not UTF-8 is reported
/// where it stands, and null too; a byte order mark is taken off.
base::SourcePtr read_source(const std::string& path, const base::Place& named_at, base::Diagnostics& diagnostics);

/// Files matching a pattern such as logic/*.st, sorted by name; relative to `folder`, whose own name is no pattern.
/// When a folder on the way cannot be read, `why` says which and why.
std::vector<std::string> expand(const std::string& folder, const std::string& pattern, std::string& why);

/// Whether there is a folder; nothing is thrown where that cannot be told.
bool is_folder(const std::string& path);
/// Whether there is anything, be it only a link that leads nowhere one can go.
bool is_there(const std::string& path);

/// Whether a path lies in one of the folders, links followed; TRUE where they lead nowhere one can go.
bool lies_within(const std::string& path, const std::vector<std::string>& folders);

/// `folder`/`name`, or `name` alone when it is absolute.
std::string join_path(const std::string& folder, const std::string& name);

}  // namespace vyard::files
