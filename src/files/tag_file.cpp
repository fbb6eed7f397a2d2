#include "files/tag_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/logic/logic.hpp"
#include "files/csv_table.hpp"

namespace vyard::files {

using base::Code;

namespace {

class ListReader {
  public:
    ListReader(const base::SourcePtr& source, base::Diagnostics& diagnostics)
        : source_(source), diagnostics_(diagnostics) {}

    std::vector<ListedTag> run() {
        bool header_seen = false;
        for (const CsvRow& r : read_csv(source_, diagnostics_)) {
            line_ = r.line;
            if (header_seen) {
                row(r);
            } else if (!header(r)) {
                return {};
            }
            header_seen = true;
        }
        if (!header_seen)
            diagnostics_.error(Code::Syntax, {source_, 1, 1, 1}, "the list is empty; expected a header line",
                               "tag,address,type,description");
        return std::move(out_);
    }

  private:
    base::Place at(const Cell& c) const {
        return {source_, c.line, c.column, std::max(1, static_cast<int>(c.text.size()))};
    }

    bool header(const CsvRow& r) {
        for (std::size_t i = 0; i < r.cells.size(); ++i) {
            const std::string name = base::fold(r.cells[i].text);
            for (const char* known : {"tag", "address", "type", "description"}) {
                if (name == known || (name == "name" && std::string(known) == "tag")) columns_[known] = i;
            }
        }
        for (const char* needed : {"tag", "type"}) {
            if (columns_.contains(needed)) continue;
            diagnostics_.error(Code::MissingKey, {source_, line_, 1, 1},
                               fmt::format("the list needs a column '{}'", needed), "tag,address,type,description");
        }
        return columns_.contains("tag") && columns_.contains("type");
    }

    void row(const CsvRow& r) {
        const Cell none{"", r.end_column};
        const auto cell = [&](const char* column) {
            const auto found = columns_.find(column);
            return found == columns_.end() || found->second >= r.cells.size() ? none : r.cells[found->second];
        };
        const Cell name = cell("tag"), address = cell("address"), type = cell("type");
        ListedTag tag{name.text, address.text, type.text, cell("description").text, at(name), at(address), at(type)};
        if (judge(tag)) out_.push_back(std::move(tag));
    }

    bool judge(const ListedTag& tag) {
        const auto letter = [](char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; };
        const auto part = [&](char c) { return letter(c) || (c >= '0' && c <= '9'); };
        if (tag.name.empty() || !letter(tag.name[0]) || !std::all_of(tag.name.begin(), tag.name.end(), part)) {
            diagnostics_.error(Code::Syntax, tag.name_place, fmt::format("'{}' is not a valid name of a tag", tag.name),
                               "letters, digits and underscores, a letter first");
            return false;
        }
        if (tag.type.empty()) {
            diagnostics_.error(Code::MissingKey, tag.type_place, "this row has no type");
            return false;
        }
        std::string why;
        const auto address = logic::parse_address(tag.address, why);
        if (!tag.address.empty() && !address) {
            diagnostics_.error(Code::BadAddress, tag.address_place,
                               fmt::format("'{}' is not a valid address", tag.address), why);
            return false;
        }
        const auto type = logic::find_type(tag.type);
        if (!address || !type) return true;
        const int bits = *type == logic::Elementary::Bool ? 1 : logic::type_size(*type) * 8;
        const int room = address->bit >= 0 ? 1 : address->size * 8;
        if (bits == room) return true;
        diagnostics_.error(
            Code::BadAddress, tag.address_place,
            fmt::format("{} has {} bit{}, {} has {}", tag.address, room, room == 1 ? "" : "s", tag.type, bits));
        return false;
    }

    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
    std::map<std::string, std::size_t> columns_;
    std::vector<ListedTag> out_;
    int line_ = 0;
};

/// Who has which address, while a list is merged.
class Occupied {
  public:
    explicit Occupied(const logic::Program& program) {
        for (const logic::Located& l : logic::located_tags(program)) {
            if (l.variable < 0) continue;
            const logic::Variable& v = base::at(program.variables, l.variable);
            take(l.address, fmt::format("'{}' at {}", v.path, v.place.text()));
        }
    }
    /// What is to be said of another name at `address`; "" when nothing is.
    std::pair<base::Severity, std::string> judge(const logic::Address& address) const {
        std::pair<base::Severity, std::string> out{base::Severity::Remark, ""};
        for (std::uint32_t byte = address.byte; byte < address.byte + static_cast<std::uint32_t>(address.size);
             ++byte) {
            const auto [first, last] = by_byte_.equal_range({address.area, byte});
            for (auto it = first; it != last; ++it) {
                const auto& [other, who] = it->second;
                const auto severity = logic::overlap_severity(logic::overlap(address, other), address.area);
                if (!severity || (!out.second.empty() && *severity >= out.first)) continue;
                out = {*severity, fmt::format("{} and {} of {} share bits", address.text(), other.text(), who)};
            }
        }
        return out;
    }
    void take(const logic::Address& address, const std::string& who) {
        for (std::uint32_t byte = address.byte; byte < address.byte + static_cast<std::uint32_t>(address.size); ++byte)
            by_byte_.insert({{address.area, byte}, {address, who}});
    }

  private:
    std::multimap<std::pair<logic::Area, std::uint32_t>, std::pair<logic::Address, std::string>> by_byte_;
};

}  // namespace

std::vector<ListedTag> read_tag_list(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    return ListReader(source, diagnostics).run();
}

std::vector<ListedTag> new_tags(const std::vector<ListedTag>& listed, const logic::Program& program,
                                base::Diagnostics& diagnostics) {
    std::vector<ListedTag> out;
    Occupied occupied(program);
    std::map<std::string, base::Place> seen;
    for (const ListedTag& tag : listed) {
        const auto [first, fresh] = seen.try_emplace(base::fold(tag.name), tag.name_place);
        if (!fresh) {
            diagnostics.error(
                Code::DuplicateName, tag.name_place,
                fmt::format("'{}' stands in the list twice; first at {}", tag.name, first->second.text()));
            continue;
        }
        std::string why;
        const auto address = logic::parse_address(tag.address, why);
        if (const logic::Variable* v = program.find(tag.name)) {
            const std::string there = v->address.area == logic::Area::None ? "" : v->address.text();
            const std::string wanted = address ? address->text() : "";
            if (base::fold(v->type_text) != base::fold(tag.type))
                diagnostics.error(Code::TypeMismatch, tag.type_place,
                                  fmt::format("'{}' is {} in the list, but {} at {}", tag.name, tag.type, v->type_text,
                                              v->place.text()));
            if (there != wanted)
                diagnostics.error(Code::BadAddress, tag.address_place,
                                  fmt::format("'{}' lies {} in the list, but {} at {}", tag.name,
                                              wanted.empty() ? "nowhere" : "at " + wanted,
                                              there.empty() ? "nowhere" : "at " + there, v->place.text()));
            continue;
        }
        if (address) {
            if (auto [severity, message] = occupied.judge(*address); !message.empty())
                diagnostics.add({severity, Code::AddressOverlap, tag.address_place, std::move(message), ""});
            occupied.take(*address, fmt::format("'{}' at {}", tag.name, tag.name_place.text()));
        }
        out.push_back(tag);
    }
    return out;
}

std::string declarations_of(const std::vector<ListedTag>& tags) {
    std::string out = "VAR_GLOBAL\n";
    for (const ListedTag& t : tags) {
        std::string note = t.description;
        for (std::size_t end = note.find("*)"); end != std::string::npos; end = note.find("*)"))
            note.replace(end, 2, "* )");
        out += fmt::format("    {}{}{} : {};{}\n", t.name, t.address.empty() ? "" : " AT ", t.address, t.type,
                           note.empty() ? "" : fmt::format("  (* {} *)", note));
    }
    return out + "END_VAR\n";
}

}  // namespace vyard::files
