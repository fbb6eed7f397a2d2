#include "files/campaign_store.hpp"

#include <fmt/format.h>
#include <sqlite3.h>
#include <unistd.h>

#include <algorithm>
#include <filesystem>
#include <memory>
#include <set>

#include "files/text_file.hpp"

namespace vyard::files {

namespace {

struct Closer {
    void operator()(sqlite3* db) const { sqlite3_close(db); }
    void operator()(sqlite3_stmt* s) const { sqlite3_finalize(s); }
};
using Database = std::unique_ptr<sqlite3, Closer>;
using Statement = std::unique_ptr<sqlite3_stmt, Closer>;

/// Thrown here, told at the edge of the file.
struct Failed {
    std::string why;
};

Database open(const std::string& path, int flags) {
    sqlite3* raw = nullptr;
    const int result = sqlite3_open_v2(path.c_str(), &raw, flags, nullptr);
    Database db(raw);
    if (result != SQLITE_OK) throw Failed{raw == nullptr ? "out of memory" : sqlite3_errmsg(raw)};
    return db;
}

void execute(sqlite3* db, const char* sql) {
    if (sqlite3_exec(db, sql, nullptr, nullptr, nullptr) != SQLITE_OK) throw Failed{sqlite3_errmsg(db)};
}

Statement prepare(sqlite3* db, const char* sql) {
    sqlite3_stmt* raw = nullptr;
    if (sqlite3_prepare_v2(db, sql, -1, &raw, nullptr) != SQLITE_OK) throw Failed{sqlite3_errmsg(db)};
    return Statement(raw);
}

void bind(sqlite3_stmt* s, int at, const std::string& text) {
    sqlite3_bind_text(s, at, text.data(), static_cast<int>(text.size()), SQLITE_TRANSIENT);
}
void bind(sqlite3_stmt* s, int at, double number) {
    sqlite3_bind_double(s, at, number);
}
void bind(sqlite3_stmt* s, int at, std::int64_t number) {
    sqlite3_bind_int64(s, at, number);
}

template <class... Values>
void insert(sqlite3* db, sqlite3_stmt* s, const Values&... values) {
    int at = 0;
    (bind(s, ++at, values), ...);
    if (sqlite3_step(s) != SQLITE_DONE) throw Failed{sqlite3_errmsg(db)};
    sqlite3_reset(s);
    sqlite3_clear_bindings(s);
}

std::string text_of(sqlite3_stmt* s, int column) {
    const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(s, column));
    return text == nullptr ? std::string()
                           : std::string(text, static_cast<std::size_t>(sqlite3_column_bytes(s, column)));
}

/// Whether there was another row.
bool next(sqlite3* db, sqlite3_stmt* s) {
    const int result = sqlite3_step(s);
    if (result != SQLITE_ROW && result != SQLITE_DONE) throw Failed{sqlite3_errmsg(db)};
    return result == SQLITE_ROW;
}

void fill(sqlite3* db, const StoredCampaign& c) {
    execute(
        db,
        "PRAGMA journal_mode = OFF; BEGIN;"
        "CREATE TABLE campaign(key TEXT PRIMARY KEY, value TEXT NOT NULL);"
        "CREATE TABLE run(number INTEGER PRIMARY KEY, disturbance TEXT NOT NULL, procedure TEXT NOT NULL, at_s REAL "
        "NOT NULL, outcome TEXT NOT NULL, detail TEXT NOT NULL, reaction_s REAL);"
        "CREATE TABLE sight(run INTEGER NOT NULL REFERENCES run(number), key TEXT NOT NULL, text TEXT NOT NULL, at_s "
        "REAL NOT NULL);"
        "CREATE TABLE remark(text TEXT NOT NULL);");
    const Statement about = prepare(db, "INSERT INTO campaign VALUES(?, ?)");
    for (const auto& [key, value] : c.about) insert(db, about.get(), key, value);
    const Statement run = prepare(db, "INSERT INTO run VALUES(?, ?, ?, ?, ?, ?, ?)");
    const Statement sight = prepare(db, "INSERT INTO sight VALUES(?, ?, ?, ?)");
    for (const campaign::RunRow& r : c.rows) {
        const auto number = static_cast<std::int64_t>(r.number);
        const double at_s = base::to_seconds(r.at);
        if (r.reaction)
            insert(db, run.get(), number, r.disturbance, r.procedure, at_s, r.outcome, r.detail,
                   base::to_seconds(*r.reaction));
        else
            insert(db, run.get(), number, r.disturbance, r.procedure, at_s, r.outcome, r.detail);
        for (const campaign::Sight& s : r.sights)
            insert(db, sight.get(), number, s.key, s.text, base::to_seconds(s.time));
    }
    const Statement remark = prepare(db, "INSERT INTO remark VALUES(?)");
    for (const std::string& text : c.remarks) insert(db, remark.get(), text);
    execute(db, "COMMIT;");
}

}  // namespace

std::string store_campaign(const std::string& path, const StoredCampaign& campaign) {
    const std::string temporary = fmt::format("{}.{}.tmp", path, getpid());
    std::error_code failure;
    const std::filesystem::path folder = std::filesystem::path(path).parent_path();
    if (!folder.empty()) std::filesystem::create_directories(folder, failure);
    std::string why;
    try {
        const Database db = open(temporary, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE);
        fill(db.get(), campaign);
    } catch (const Failed& failed) {
        why = failed.why;
    }
    if (why.empty()) {
        std::filesystem::rename(temporary, path, failure);
        if (failure) why = failure.message();
    }
    if (why.empty()) return {};
    std::filesystem::remove(temporary, failure);
    return fmt::format("cannot write {}: {}", path, why);
}

std::optional<StoredCampaign> read_campaign(const std::string& path, std::string& why) {
    try {
        StoredCampaign out;
        const Database db = open(path, SQLITE_OPEN_READONLY);
        const Statement about = prepare(db.get(), "SELECT key, value FROM campaign");
        while (next(db.get(), about.get())) out.about[text_of(about.get(), 0)] = text_of(about.get(), 1);
        for (const char* key : {"jobs", "runs"}) {
            const std::string& text = out.about[key];
            if (text.empty() || text.size() > 12 || text.find_first_not_of("0123456789") != std::string::npos)
                throw Failed{fmt::format("'{}' of the campaign is not a number", key)};
        }
        const Statement runs =
            prepare(db.get(),
                    "SELECT number, disturbance, procedure, at_s, outcome, detail, reaction_s FROM run "
                    "ORDER BY number");
        while (next(db.get(), runs.get())) {
            sqlite3_stmt* s = runs.get();
            campaign::RunRow row;
            row.number = static_cast<std::uint32_t>(sqlite3_column_int64(s, 0));
            row.disturbance = text_of(s, 1);
            row.procedure = text_of(s, 2);
            row.at = base::from_seconds(sqlite3_column_double(s, 3));
            row.outcome = text_of(s, 4);
            row.detail = text_of(s, 5);
            if (sqlite3_column_type(s, 6) != SQLITE_NULL)
                row.reaction = base::from_seconds(sqlite3_column_double(s, 6));
            out.rows.push_back(std::move(row));
        }
        const Statement sights = prepare(db.get(), "SELECT run, key, text, at_s FROM sight ORDER BY rowid");
        while (next(db.get(), sights.get())) {
            sqlite3_stmt* s = sights.get();
            const auto number = static_cast<std::uint32_t>(sqlite3_column_int64(s, 0));
            const auto row = std::lower_bound(out.rows.begin(), out.rows.end(), number,
                                              [](const campaign::RunRow& r, std::uint32_t n) { return r.number < n; });
            if (row == out.rows.end() || row->number != number) throw Failed{"a finding is of no run"};
            row->sights.push_back({text_of(s, 1), text_of(s, 2), base::from_seconds(sqlite3_column_double(s, 3))});
        }
        const Statement remarks = prepare(db.get(), "SELECT text FROM remark ORDER BY rowid");
        while (next(db.get(), remarks.get())) out.remarks.push_back(text_of(remarks.get(), 0));
        return out;
    } catch (const Failed& failed) {
        why = fmt::format("cannot read {}: {}", path, failed.why);
        return std::nullopt;
    }
}

std::optional<StoredCampaign> merged(const std::vector<StoredCampaign>& parts, std::string& why) {
    StoredCampaign out;
    const auto about = [](const StoredCampaign& c, const char* key) {
        const auto found = c.about.find(key);
        return found == c.about.end() ? std::string() : found->second;
    };
    for (const StoredCampaign& part : parts) {
        for (const char* key : {"kind", "yard", "jobs", "shards", "options", "yard_hash"}) {
            if (!out.about.empty() && about(out, key) != about(part, key)) {
                why = fmt::format("they are not parts of one campaign: '{}' is '{}' and '{}'", key, about(out, key),
                                  about(part, key));
                return std::nullopt;
            }
        }
        if (out.about.empty()) out.about = part.about;
        out.rows.insert(out.rows.end(), part.rows.begin(), part.rows.end());
        for (const std::string& r : part.remarks) {
            if (std::find(out.remarks.begin(), out.remarks.end(), r) == out.remarks.end()) out.remarks.push_back(r);
        }
    }
    std::sort(out.rows.begin(), out.rows.end(),
              [](const campaign::RunRow& a, const campaign::RunRow& b) { return a.number < b.number; });
    const auto twice =
        std::adjacent_find(out.rows.begin(), out.rows.end(),
                           [](const campaign::RunRow& a, const campaign::RunRow& b) { return a.number == b.number; });
    if (twice != out.rows.end()) {
        why = fmt::format("run {} stands in two of them", twice->number);
        return std::nullopt;
    }
    std::set<std::string> shards;
    for (const StoredCampaign& part : parts) {
        if (!shards.insert(about(part, "shard")).second) {
            why = fmt::format("part {} is there twice", about(part, "shard"));
            return std::nullopt;
        }
    }
    out.about["shard"] = "all";
    return out;
}

}  // namespace vyard::files
