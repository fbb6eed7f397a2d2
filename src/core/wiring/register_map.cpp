#include "core/wiring/register_map.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <tuple>

namespace vyard::wiring {

using base::Code;
using controller::LinkRole;
using controller::RegisterArea;
using controller::RegisterEntry;
using controller::RegisterPlace;
using logic::Area;
using logic::Elementary;

namespace {

constexpr std::uint32_t kWrittenInputs = 4096, kMemory = 16'384;

class RegisterMapper {
  public:
    RegisterMapper(const std::vector<controller::ControllerModel>& controllers, int c, const Wiring& wiring,
                   const std::vector<int>& writable, base::Diagnostics& diagnostics)
        : controllers_(controllers),
          model_(base::at(controllers, c)),
          program_(*model_.program),
          wiring_(wiring),
          c_(c),
          writable_(writable),
          diagnostics_(diagnostics),
          found_(program_.variables.size(), false) {}

    std::vector<RegisterEntry> run(const std::vector<MapRow>& rows) {
        for (const MapRow& row : rows) {
            if (!row.registers.empty()) by_column(row);
        }
        for (std::size_t v = 0; v < program_.variables.size(); ++v) {
            if (!base::at(found_, v)) by_rule(static_cast<int>(v));
        }
        std::sort(out_.begin(), out_.end(), [](const RegisterEntry& a, const RegisterEntry& b) {
            return std::tuple(a.place.area, a.place.first, a.place.bit) <
                   std::tuple(b.place.area, b.place.first, b.place.bit);
        });
        overlaps();
        for (const int v : writable_) {
            if (std::none_of(out_.begin(), out_.end(), [&](const RegisterEntry& e) { return e.variable == v; }))
                error(variable(v).place,
                      fmt::format("'{}' may be written, and no register of the link carries it", variable(v).path),
                      "give it one in the map's column 'register'");
        }
        return std::move(out_);
    }

  private:
    const logic::Variable& variable(int v) const { return base::at(program_.variables, v); }

    void by_column(const MapRow& row) {
        const auto found = find_spots(controllers_, row.tag);
        // An unknown tag is reported with the row; that of another controller is for its own link.
        if (found.size() != 1 || found[0].controller != c_) return;
        const Spot& spot = found[0].spot;
        if (spot.variable < 0 || variable(spot.variable).type != spot.type) {
            return error(row.registers_place,
                         fmt::format("'{}' is a part of a tag, and has no register of its own", row.tag),
                         "give the whole tag one");
        }
        std::string why;
        const auto place = parse_register(row.registers, why);
        if (!place)
            return diagnostics_.error(Code::WrongValue, row.registers_place,
                                      fmt::format("'{}' is no register", row.registers), why);
        RegisterEntry entry;
        entry.variable = spot.variable;
        entry.place = *place;
        entry.written = row.registers_place;
        if (base::at(found_, spot.variable))
            return error(row.registers_place, fmt::format("'{}' has two registers", row.tag), "");
        base::at(found_, spot.variable) = true;
        add(entry);
    }

    void by_rule(int v) {
        const logic::Variable& tag = variable(v);
        const bool joined = wiring_.of_tag(c_, v) != nullptr;
        const bool counts = tag.is_tag && !tag.constant && (tag.address.area != Area::None || joined);
        if (!counts) return;
        const int words = controller::registers_of(tag.type, tag.type == Elementary::Bool ? 0 : capacity(tag));
        const bool single = tag.address.bit < 0 && tag.address.size == 1 && tag.type != Elementary::Bool;
        if (tag.address.area == Area::None || single || logic::is_text(tag.type) || words == 0) {
            if (joined && model_.linked())
                error(tag.place, fmt::format("'{}' is joined, and no register of the link carries it", tag.path),
                      words == 0 ? fmt::format("{} does not go over a link", tag.type_text)
                                 : "give it one in the map's column 'register'");
            return;
        }
        RegisterEntry entry;
        entry.variable = v;
        entry.by_rule = true;
        const bool bit = tag.type == Elementary::Bool;
        const bool written = model_.link->role == LinkRole::Client;
        const Area area = tag.address.area;
        const std::uint32_t from = area == Area::Memory ? kMemory : area == Area::Input && written ? kWrittenInputs : 0;
        const bool reads = area == Area::Input && !written;
        entry.place.area = bit ? (reads ? RegisterArea::Discrete : RegisterArea::Coil)
                               : (reads ? RegisterArea::Input : RegisterArea::Holding);
        if (!bit && tag.address.byte % 2 != 0)
            return odd(tag.place, fmt::format("'{}' lies at {}, across two registers, and is not on the link", tag.path,
                                              tag.address.text()));
        entry.place.first = from + (bit ? tag.address.first_bit() : tag.address.byte / 2);
        add(entry);
    }

    int capacity(const logic::Variable& tag) const {
        if (!logic::is_text(tag.type)) return 0;
        const std::byte* at = program_.initial_memory.data() + tag.offset;
        return static_cast<int>(at[0]) | (static_cast<int>(at[1]) << 8);
    }

    bool comes_in(int v) const {
        if (const Join* join = wiring_.of_tag(c_, v))
            return std::any_of(wiring_.inputs.begin(), wiring_.inputs.end(), [&](const Join& j) { return &j == join; });
        return variable(v).address.area == Area::Input;
    }

    void add(RegisterEntry entry) {
        const logic::Variable& tag = variable(entry.variable);
        const base::Place& place = entry.by_rule ? tag.place : entry.written;
        const bool bit = tag.type == Elementary::Bool;
        const int words = controller::registers_of(tag.type, capacity(tag));
        if (words == 0)
            return error(place, fmt::format("'{}' is {}, which does not go over a link", tag.path, tag.type_text), "");
        if (controller::is_bits(entry.place.area) != bit && !(bit && entry.place.bit >= 0))
            return error(place,
                         fmt::format("'{}' is {}, and {} is {}", tag.path, tag.type_text, register_text(entry.place),
                                     bit ? "a register" : "a single bit"),
                         bit ? "a BOOL is a coil, a discrete or a bit of a register: holding 7.0"
                             : "give it input or holding registers");
        if (!bit && entry.place.bit >= 0)
            return error(place, fmt::format("'{}' is {}, and takes more than a bit", tag.path, tag.type_text), "");
        entry.place.count = bit ? 1 : words;
        if (entry.place.end() > controller::kRegisters)
            return error(
                place, fmt::format("'{}' takes {} registers, and the last has the number 65535", tag.path, words), "");
        entry.to_controller = comes_in(entry.variable);
        entry.writable = std::find(writable_.begin(), writable_.end(), entry.variable) != writable_.end();
        // Who writes it: the controller of a server, the plant of a client, whoever is let of a screen.
        const LinkRole role = model_.link->role;
        const bool from_outside = role == LinkRole::Screen   ? entry.writable
                                  : role == LinkRole::Server ? !entry.to_controller
                                                             : entry.to_controller;
        if (from_outside && !controller::may_be_written(entry.place.area))
            return error(place,
                         fmt::format("'{}' is written over the link, and {} can only be read", tag.path,
                                     register_text(entry.place)),
                         bit ? "give it a coil" : "give it holding registers");
        if (words % 2 == 0 && words <= 4 && !logic::is_text(tag.type) && entry.place.first % 2 != 0)
            odd(place,
                fmt::format("'{}' takes {} registers from {} on, an odd number", tag.path, words, entry.place.first));
        out_.push_back(std::move(entry));
    }

    void overlaps() {
        const controller::LinkModel& link = *model_.link;
        for (std::size_t i = 0; i < out_.size(); ++i) {
            const RegisterEntry& a = out_[i];
            if (link.locked && model_.linked() && !controller::is_bits(a.place.area) &&
                a.place.first <= static_cast<std::uint32_t>(link.handshake) &&
                static_cast<std::uint32_t>(link.handshake) < a.place.end())
                error(place_of(a),
                      fmt::format("'{}' lies on register {}, the link's handshake", variable(a.variable).path,
                                  link.handshake),
                      "give the link another 'handshake'");
            // Sorted by where they begin; what is long may reach over several.
            for (std::size_t k = i + 1; k < out_.size(); ++k) {
                const RegisterEntry& b = out_[k];
                if (b.place.area != a.place.area || b.place.first >= a.place.end()) break;
                if (a.place.bit >= 0 && b.place.bit >= 0 && a.place.bit != b.place.bit) continue;
                error(place_of(b),
                      fmt::format("'{}' and '{}' share {} {}", variable(b.variable).path, variable(a.variable).path,
                                  controller::area_name(b.place.area), b.place.first),
                      "every tag has registers of its own");
            }
        }
    }
    const base::Place& place_of(const RegisterEntry& e) const {
        return e.by_rule ? variable(e.variable).place : e.written;
    }

    void error(const base::Place& place, std::string message, std::string hint) {
        diagnostics_.error(Code::RegisterClash, place, std::move(message), std::move(hint));
    }
    void odd(const base::Place& place, std::string message) {
        diagnostics_.warning(Code::RegisterOdd, place, std::move(message),
                             "values of two and four registers begin at even numbers");
    }

    using Spot = controller::Spot;
    const std::vector<controller::ControllerModel>& controllers_;
    const controller::ControllerModel& model_;
    const logic::Program& program_;
    const Wiring& wiring_;
    int c_;
    const std::vector<int>& writable_;
    base::Diagnostics& diagnostics_;
    std::vector<bool> found_;
    std::vector<RegisterEntry> out_;
};

/// Takes the next word off `text`.
std::string_view word_of(std::string_view& text) {
    text = base::trimmed(text);
    const std::size_t end = std::min(text.find(' '), text.size());
    const std::string_view out = text.substr(0, end);
    text.remove_prefix(end);
    return out;
}

bool number_of(std::string_view text, std::uint32_t most, std::uint32_t& out) {
    const auto [end, failure] = std::from_chars(text.data(), text.data() + text.size(), out);
    return failure == std::errc{} && end == text.data() + text.size() && out <= most;
}

}  // namespace

std::vector<RegisterEntry> register_map(const std::vector<controller::ControllerModel>& controllers, int c,
                                        const Wiring& wiring, const std::vector<MapRow>& rows,
                                        const std::vector<int>& writable, base::Diagnostics& diagnostics) {
    return RegisterMapper(controllers, c, wiring, writable, diagnostics).run(rows);
}

std::optional<RegisterPlace> parse_register(std::string_view text, std::string& why) {
    why =
        "a table and a number from 0 on: coil 12, discrete 3, input 40, holding 7, holding 7.3, holding 8 low word "
        "first, holding 8 swap bytes";
    RegisterPlace out;
    const std::string area = base::fold(word_of(text));
    bool known = false;
    for (int a = 0; a < controller::kAreas; ++a) {
        if (area != controller::area_name(static_cast<RegisterArea>(a))) continue;
        out.area = static_cast<RegisterArea>(a);
        known = true;
    }
    std::string_view number = word_of(text);
    const std::size_t dot = number.find('.');
    std::uint32_t bit = 0;
    if (!known || !number_of(number.substr(0, dot), controller::kRegisters - 1, out.first)) return std::nullopt;
    if (dot != std::string_view::npos) {
        if (controller::is_bits(out.area) || !number_of(number.substr(dot + 1), 15, bit)) return std::nullopt;
        out.bit = static_cast<int>(bit);
    }
    while (!base::trimmed(text).empty()) {
        const std::string first = base::fold(word_of(text)), second = base::fold(word_of(text));
        if (first == "swap" && second == "bytes" && !controller::is_bits(out.area)) {
            out.swap_bytes = true;
        } else if (first == "low" && second == "word" && base::fold(word_of(text)) == "first" &&
                   !controller::is_bits(out.area)) {
            out.low_word_first = true;
        } else {
            return std::nullopt;
        }
    }
    return out;
}

std::string register_text(const RegisterPlace& place) {
    std::string out = fmt::format("{} {}", controller::area_name(place.area), place.first);
    if (place.bit >= 0) out += fmt::format(".{}", place.bit);
    if (place.low_word_first) out += " low word first";
    if (place.swap_bytes) out += " swap bytes";
    return out;
}

std::vector<RegisterGap> register_gaps(const std::vector<RegisterEntry>& entries) {
    std::vector<RegisterGap> out;
    std::uint32_t end = 0;
    for (std::size_t i = 0; i < entries.size(); ++i) {
        const RegisterPlace& p = entries[i].place;
        const bool first = i == 0 || entries[i - 1].place.area != p.area;
        if (!first && p.first > end) out.push_back({p.area, end, p.first - 1});
        end = first ? p.end() : std::max(end, p.end());
    }
    return out;
}

}  // namespace vyard::wiring
