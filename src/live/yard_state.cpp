#include "live/yard_state.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "files/csv_table.hpp"
#include "files/text_file.hpp"
#include "files/trace_files.hpp"

namespace vyard::live {

using nlohmann::json;

namespace {

constexpr int kLockTries = 10;
constexpr unsigned kLockPause_us = 50'000;
constexpr const char* kRetainedHeader = "controller,variable,type,value\n";

json json_of(const std::vector<RetainedRow>& rows) {
    json out = json::array();
    for (const RetainedRow& r : rows) out.push_back({r.controller, r.value.path, r.value.type, r.value.value});
    return out;
}

/// Takes one line into what was left; false when it is none of ours, as of one cut off.
bool take_line(const std::string& line, LeftSession& left) {
    const json j = json::parse(line, nullptr, false);
    if (!j.is_object()) return false;
    try {
        if (j.contains("vyard_journal")) {
            if (j.at("vyard_journal").get<int>() != kJournalVersion) return false;
            left.fingerprint = j.at("fingerprint").get<std::string>();
            for (const json& r : j.at("retained"))
                left.retained.push_back(
                    {r.at(0).get<std::string>(),
                     {r.at(1).get<std::string>(), r.at(2).get<std::string>(), r.at(3).get<std::string>()}});
        }
        if (j.contains("order")) {
            const base::Nanoseconds at(j.at("at_ns").get<std::int64_t>());
            left.orders.push_back({Record::Entry::Kind::Order, at, at, j.at("order").get<std::string>(), 0});
        }
        if (j.contains("again_from_start")) left.orders.clear();
        if (j.contains("time_ns")) left.time = base::Nanoseconds(j.at("time_ns").get<std::int64_t>());
        if (j.contains("watches")) left.watches = j.at("watches").get<std::vector<std::string>>();
        if (j.contains("forces")) left.forces = j.at("forces").get<std::vector<std::string>>();
        if (j.contains("not_again")) left.not_again = j.at("not_again").get<std::string>();
    } catch (const json::exception&) {
        return false;
    }
    return true;
}

/// Forces as lines that enter them again.
std::vector<std::string> force_lines(const session::Session& session) {
    std::vector<std::string> out;
    const auto& controllers = session.model().controllers;
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        const controller::ControllerState& state = session.controller(static_cast<int>(c));
        for (const controller::Force& f : state.forces) {
            const bool several = controllers.size() > 1 && !f.name.starts_with(controllers[c].name + ".");
            out.push_back(fmt::format("force {}{} = {}", several ? controllers[c].name + "." : "", f.name,
                                      logic::value_text(f.value)));
        }
        if (!state.forces_on && !out.empty()) out.emplace_back("forces off");
    }
    return out;
}

}  // namespace

std::string fingerprint_of(const std::vector<std::string>& texts) {
    std::uint64_t hash = 0xcbf29ce484222325U;
    for (const std::string& text : texts) {
        for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3U;
        hash = (hash ^ 0x1FU) * 0x100000001b3U;
    }
    return fmt::format("{:016x}", hash);
}

// --- retained values ---

std::vector<RetainedRow> retained_rows(const session::Session& session) {
    std::vector<RetainedRow> out;
    const auto& controllers = session.model().controllers;
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        for (controller::RetainedValue& v :
             controller::retained_values(controllers[c], session.controller(static_cast<int>(c))))
            out.push_back({controllers[c].name, std::move(v)});
    }
    return out;
}

std::string retained_text(const std::vector<RetainedRow>& rows) {
    std::string out = kRetainedHeader;
    for (const RetainedRow& r : rows)
        out.append(fmt::format("{},{},{},{}\n", base::csv_cell(r.controller), base::csv_cell(r.value.path),
                               base::csv_cell(r.value.type), base::csv_cell(r.value.value)));
    return out;
}

std::vector<RetainedRow> read_retained(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::vector<RetainedRow> out;
    bool header = false;
    for (const files::CsvRow& row : files::read_csv(source, diagnostics)) {
        const bool four = row.cells.size() >= 4;  // what more a list has is not ours
        if (!header) {
            header = true;
            if (four && row.cells[0].text == "controller" && row.cells[3].text == "value") continue;
            diagnostics.error(base::Code::Syntax, {source, row.line, 1, 1}, "this is not a list of retained values",
                              "its first line is controller,variable,type,value");
            return {};
        }
        if (!four) {
            diagnostics.error(base::Code::Syntax, {source, row.line, row.end_column, 1},
                              fmt::format("a row has four cells at least, this one {}", row.cells.size()),
                              "controller,variable,type,value");
            continue;
        }
        out.push_back({row.cells[0].text, {row.cells[1].text, row.cells[2].text, row.cells[3].text}});
    }
    return out;
}

std::string retained_path(const std::string& yard_folder) {
    return files::join_path(yard_folder, ".vyard/retained.csv");
}

std::vector<std::string> put_retained(session::Session& session, const std::vector<RetainedRow>& rows) {
    std::vector<std::string> wrong;
    const auto& controllers = session.model().controllers;
    std::vector<bool> any(controllers.size());
    for (const RetainedRow& r : rows) {
        int number = -1;
        for (std::size_t c = 0; c < controllers.size(); ++c) {
            if (base::fold(controllers[c].name) == base::fold(r.controller)) number = static_cast<int>(c);
        }
        std::string problem = number < 0 ? fmt::format("there is no controller '{}'", r.controller)
                                         : session.put_retained(number, r.value);
        if (problem.empty()) any[static_cast<std::size_t>(number)] = true;
        if (!problem.empty()) wrong.push_back(std::move(problem));
    }
    for (std::size_t c = 0; c < any.size(); ++c) {
        if (any[c]) session.start_warm(static_cast<int>(c));
    }
    return wrong;
}

// --- the folder ---

std::unique_ptr<YardState> YardState::open(const std::string& yard_folder, std::string& why) {
    std::unique_ptr<YardState> out(new YardState());
    out->yard_folder_ = yard_folder;
    out->folder_ = files::join_path(yard_folder.empty() ? "." : yard_folder, ".vyard");
    if (::mkdir(out->folder_.c_str(), 0700) != 0 && errno != EEXIST) {
        why = fmt::format("cannot make {}: {}", out->folder_, std::strerror(errno));
        return nullptr;
    }
    out->lock_ = ::open((out->folder_ + "/lock").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600);
    if (out->lock_ < 0) {
        why = fmt::format("cannot write {}/lock: {}", out->folder_, std::strerror(errno));
        return nullptr;
    }
    // One that was just killed may not be gone altogether.
    bool locked = ::flock(out->lock_, LOCK_EX | LOCK_NB) == 0;
    for (int k = 0; k < kLockTries && !locked; ++k) {
        ::usleep(kLockPause_us);
        locked = ::flock(out->lock_, LOCK_EX | LOCK_NB) == 0;
    }
    if (!locked) {
        char text[32] = {};
        const ssize_t got = ::pread(out->lock_, text, sizeof text - 1, 0);
        why = fmt::format("a live session has this yard already{}", got > 0 ? fmt::format(" (process {})", text) : "");
        return nullptr;
    }
    const std::string number = fmt::format("{}", ::getpid());
    if (::ftruncate(out->lock_, 0) != 0 || ::pwrite(out->lock_, number.data(), number.size(), 0) < 0)
        out->trouble_ = fmt::format("cannot write {}/lock: {}", out->folder_, std::strerror(errno));
    return out;
}

YardState::~YardState() {
    if (journal_ >= 0) ::close(journal_);
    if (lock_ >= 0) ::close(lock_);
}

std::optional<LeftSession> YardState::left() const {
    std::string why;
    const auto text = files::read_text(folder_ + "/journal", why);
    if (!text) return std::nullopt;
    LeftSession out;
    bool any = false;
    for (std::size_t at = 0; at < text->size();) {
        const std::size_t end = text->find('\n', at);
        if (end == std::string::npos) break;  // cut off while it was written
        if (!take_line(text->substr(at, end - at), out)) break;
        any = true;
        at = end + 1;
    }
    if (!any) return std::nullopt;
    return out;
}

void YardState::begin(const std::string& fingerprint, const std::vector<RetainedRow>& retained) {
    if (journal_ >= 0) ::close(journal_);
    watches_.clear();
    forces_.clear();
    entries_ = 0;
    time_ = base::Nanoseconds(-1);
    std::error_code ignored;
    std::filesystem::rename(folder_ + "/journal", folder_ + "/journal.before", ignored);
    journal_ = ::open((folder_ + "/journal").c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_APPEND | O_CLOEXEC, 0600);
    if (journal_ < 0) trouble_ = fmt::format("cannot write {}/journal: {}", folder_, std::strerror(errno));
    write(
        json{{"vyard_journal", kJournalVersion}, {"fingerprint", fingerprint}, {"retained", json_of(retained)}}.dump());
}

void YardState::write(const std::string& line) {
    if (journal_ < 0) return;
    const std::string whole = line + "\n";
    const ssize_t done = ::write(journal_, whole.data(), whole.size());
    if (done == static_cast<ssize_t>(whole.size())) return;
    trouble_ = fmt::format("cannot write {}/journal: {}; nothing more is kept there", folder_,
                           done < 0 ? std::strerror(errno) : "no room");
    ::close(journal_);
    journal_ = -1;
}

void YardState::keep(const Record& record, const session::Session& session, const std::vector<std::string>& watches) {
    if (record.revision() != revision_ || record.entries().size() < entries_) {
        write(json{{"again_from_start", true}}.dump());
        revision_ = record.revision();
        entries_ = 0;
    }
    for (; entries_ < record.entries().size(); ++entries_) {
        const Record::Entry& e = record.entries()[entries_];
        if (e.kind == Record::Entry::Kind::Order)
            write(
                json{{"order", e.text}, {"at_ns", e.at.count()}}.dump(-1, ' ', false, json::error_handler_t::replace));
    }
    if (watches != watches_) {
        watches_ = watches;
        write(json{{"watches", watches}}.dump(-1, ' ', false, json::error_handler_t::replace));
    }
    if (std::vector<std::string> forces = force_lines(session); forces != forces_) {
        forces_ = std::move(forces);
        write(json{{"forces", forces_}}.dump(-1, ' ', false, json::error_handler_t::replace));
    }
    if (session.now() != time_) {
        time_ = session.now();
        write(json{{"time_ns", time_.count()}}.dump());
    }
    if (std::vector<RetainedRow> rows = retained_rows(session); rows != retained_) {
        std::string why;
        if (files::write_text(retained_path(yard_folder_), retained_text(rows), why)) {
            retained_ = std::move(rows);
        } else {
            trouble_ = why;
        }
    }
}

void YardState::not_again(const std::string& why) {
    write(json{{"not_again", why}}.dump(-1, ' ', false, json::error_handler_t::replace));
}

void YardState::end() {
    if (journal_ >= 0) ::close(journal_);
    journal_ = -1;
    std::error_code ignored;
    std::filesystem::rename(folder_ + "/journal", folder_ + "/journal.ended", ignored);
}

std::string YardState::take_trouble() {
    if (trouble_said_ || trouble_.empty()) return {};
    trouble_said_ = true;
    return trouble_;
}

}  // namespace vyard::live
