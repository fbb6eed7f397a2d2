// From the rows of a map to joins, jumpers and channels: every row checked against both its sides.
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>
#include <optional>
#include <set>
#include <tuple>
#include <unordered_map>

#include "core/wiring/shared_bits.hpp"

namespace vyard::wiring {

using base::Code;
using controller::ControllerModel;
using logic::Elementary;
using logic::Variable;
using plant::PointDirection;
using plant::PointModel;
using plant::PointType;

namespace {

const char* point_type_text(PointType type) {
    switch (type) {
        case PointType::Boolean: return "BOOL";
        case PointType::Number: return "a whole number";
        case PointType::Analog: return "analog";
        case PointType::Text: break;
    }
    return "a string";
}

class WiringBuilder {
  public:
    WiringBuilder(const std::vector<ControllerModel>& controllers, const plant::PlantModel& plant,
                  base::Diagnostics& diagnostics, const std::vector<std::string>& left_out,
                  const std::vector<Module>& rack)
        : controllers_(controllers), plant_(plant), diagnostics_(diagnostics), left_out_(left_out) {
        for (std::size_t p = 0; p < plant.points.size(); ++p)
            points_by_name_.try_emplace(base::fold(plant.points[p].name), static_cast<int>(p));
        wiring.modules = rack;
        check_rack(wiring.modules, controllers, diagnostics);
    }

    void row(const MapRow& row) {
        if (row.point.empty()) return lone_tag(row);
        const auto [tag, bit_of_word] = split_bit(row.tag);
        bool clear = true;
        const auto [c, v] = tag_of(tag, row.tag_place, clear);
        const int point = find_point(row.point);
        const int from = point == plant::kNone ? tag_of(row.point, row.point_place, clear).first : -1;
        if (!clear) return;
        if (from >= 0) return jumper(row, c, v);
        if (c < 0 && !controllers_.empty() && !is_left_out(row.tag)) {
            diagnostics_.error(Code::UnknownTag, row.tag_place, fmt::format("no tag is named '{}'", row.tag),
                               base::name_hint(row.tag, tag_names()));
        }
        if (point == plant::kNone && !is_left_out(row.point)) {
            diagnostics_.error(Code::UnknownPoint, row.point_place, fmt::format("no point is named '{}'", row.point),
                               base::name_hint(row.point, plant_.point_names()));
        }
        if (c < 0 || point == plant::kNone) return;
        for (const auto& [text, place] :
             {std::pair(&row.delay, &row.delay_place), std::pair(&row.when, &row.when_place)}) {
            if (!text->empty())
                diagnostics_.error(
                    Code::WrongValue, *place,
                    fmt::format("'{}' is a point; only jumpers between tags have delay and when", row.point));
        }
        const PointModel& p = base::at(plant_.points, point);
        if (joined_twice(row, {c, v, bit_of_word}, point, p.direction == PointDirection::Input)) return;
        std::optional<Variable> bit;
        if (bit_of_word >= 0 && !pick_bit(row, bit_of_word, bit.emplace(variable_at(c, v)))) return;
        const Variable& variable = bit ? *bit : variable_at(c, v);
        ByteOrder order;
        std::string plain = without_order(row.scaling, order);
        std::optional<MapRow> without;
        if (plain != row.scaling) without.emplace(row).scaling = std::move(plain);
        const MapRow& scaled = without ? *without : row;
        const auto [module, channel] = channel_of(row, c, variable, bit_of_word);
        if (module == kWrongChannel || (module >= 0 && !takes_signal(row, p, base::at(wiring.modules, module)))) return;
        const auto scaling = module >= 0 && base::at(wiring.modules, module).analog()
                                 ? analog_scaling(scaled, variable, p, base::at(wiring.modules, module))
                                 : read_scaling(scaled, variable, p);
        if (!direction_fits(row, variable, p) || !scaling || !types_meet(row, variable, p, *scaling)) return;
        if (!order.plain() && !order_fits(row, variable, order)) return;
        Join join;
        join.controller = c;
        join.variable = v;
        join.point = point;
        join.type = variable.type;
        join.offset = variable.offset;
        join.bit = variable.bit;
        join.text = p.text;
        if (p.direction == PointDirection::Output) limit(join, *scaling, p);
        join.safe_given = controller::safe_value(base::at(controllers_, c), v) != nullptr;
        join.order = order;
        join.scaling = *scaling;
        join.scaling_text = row.scaling;
        join.note = row.note;
        if (module >= 0) {
            join.channel = static_cast<int>(wiring.channels.size());
            wiring.channels.push_back({module, channel, point});
            const Module& m = base::at(wiring.modules, module);
            wiring.outputs_take_time =
                wiring.outputs_take_time || (m.area == logic::Area::Output && (m.delay + m.update).count() > 0);
        }
        note_bits(row, c, variable, p.direction == PointDirection::Input);
        (p.direction == PointDirection::Input ? wiring.inputs : wiring.outputs).push_back(std::move(join));
    }

    /// What an output can be asked for: what its device takes, and what its scaling reaches.
    static void limit(Join& join, const Scaling& scaling, const PointModel& p) {
        if (p.takes_low != p.takes_high) std::tie(join.low, join.high) = std::pair(p.takes_low, p.takes_high);
        if (!scaling.linear) return;
        join.low = std::max(join.low, scaling.point_low);
        join.high = std::min(join.high, scaling.point_high);
    }

    void check_shared() { check_shared_bits(bits_, diagnostics_); }

    /// What the map leaves out, as warnings: a wire nobody connected.
    void warn_unjoined(const base::Place& map_place) {
        for (std::size_t p = 0; p < plant_.points.size(); ++p) {
            if (joined_points_.contains(static_cast<int>(p))) continue;
            diagnostics_.warning(Code::UnjoinedPoint, map_place,
                                 fmt::format("point '{}' is joined to no tag", plant_.points[p].name));
        }
        joined_bits_ = runs_of(bits_);
        written_bits_ = written_bits(controllers_);
        for (std::size_t c = 0; c < controllers_.size(); ++c) {
            const auto& variables = controllers_[c].program->variables;
            for (std::size_t v = 0; v < variables.size(); ++v)
                warn_tag(static_cast<int>(c), static_cast<int>(v), variables[v]);
        }
    }

    Wiring wiring;

  private:
    void note_bits(const MapRow& row, int c, const Variable& v, bool input) {
        if (!logic::is_text(v.type)) bits_.push_back({c, bits_of(v), input, row.tag, row.tag_place, bits_.size()});
    }

    /// Controller and variable of a whole tag; -1 twice for none. A name that several tags have means none of them, is
    /// reported, and not `clear`.
    std::pair<int, int> tag_of(const std::string& name, const base::Place& place, bool& clear) {
        const auto found = find_spots(controllers_, name);
        if (found.size() > 1) {
            std::string ways;
            for (const TagSpot& f : found)
                ways += (ways.empty() ? "" : " or ") + spot_name(controllers_, f.controller, f.spot);
            diagnostics_.error(Code::UnknownTag, place,
                               fmt::format("'{}' may mean {} different tags", name, found.size()), "write " + ways);
            clear = false;
        }
        for (const TagSpot& t : found) {
            if (t.spot.variable < 0) continue;
            const Variable& v = variable_at(t.controller, t.spot.variable);
            if (v.offset == t.spot.offset && v.type == t.spot.type) return {t.controller, t.spot.variable};
        }
        return {-1, -1};
    }

    /// The name itself, or the device of a point, has mistakes of its own.
    bool is_left_out(const std::string& name) const {
        const std::string device = name.substr(0, name.rfind('.'));
        return std::any_of(left_out_.begin(), left_out_.end(), [&](const std::string& l) {
            return base::fold(l) == base::fold(name) || base::fold(l) == base::fold(device);
        });
    }

    void warn_tag(int c, int v, const Variable& variable) {
        const auto any_bit = tags_.lower_bound({c, v, -1});
        const bool located = variable.address.area != logic::Area::None;
        const auto [first, end] = bits_of(variable);
        const bool joined =
            (any_bit != tags_.end() && std::get<0>(any_bit->first) == c && std::get<1>(any_bit->first) == v) ||
            sources_.contains({c, v}) || (located && joined_bits_.touch(c, first, end));
        const auto& screen = base::at(controllers_, c).screen;
        const bool written = variable.written || (located && written_bits_.touch(c, first, end)) ||
                             std::find(screen.begin(), screen.end(), v) != screen.end();
        const bool wired = variable.address.area == logic::Area::Input || variable.address.area == logic::Area::Output;
        if (wired && !joined) {
            diagnostics_.warning(
                Code::UnjoinedTag, variable.place,
                fmt::format("'{}' at {} is joined to no point", variable.path, variable.address.text()));
        } else if (variable.is_tag && !joined && !wired && !variable.constant && variable.read && !written) {
            diagnostics_.warning(
                Code::NeverWritten, variable.place,
                fmt::format("'{}' is read, but neither the logic nor the map ever writes it", variable.path));
        } else if (variable.is_tag && !joined && !variable.read && !variable.written &&
                   !base::at(controllers_, c).remote()) {
            diagnostics_.warning(Code::UnusedVariable, variable.place,
                                 fmt::format("'{}' is never used", variable.path));
        }
    }

    int find_point(const std::string& name) const {
        const auto found = points_by_name_.find(base::fold(name));
        if (found != points_by_name_.end()) return found->second;
        const int device = plant_.find_device(name);
        return device == plant::kNone ? plant::kNone : plant_.only_point(device);
    }

    std::vector<std::string> tag_names() const {
        std::vector<std::string> names;
        for (const ControllerModel& c : controllers_) {
            for (const Variable& v : c.program->variables) {
                if (v.is_tag) names.push_back(v.path);
            }
        }
        return names;
    }

    // --- parts of words, and the order of bytes ---
    /// "status.%X3" is bit 3 of status; -1 without.
    static std::pair<std::string, int> split_bit(const std::string& tag) {
        const std::size_t at = tag.rfind(".%");
        if (at == std::string::npos || at + 3 >= tag.size() || (tag[at + 2] != 'X' && tag[at + 2] != 'x'))
            return {tag, -1};
        int bit = 0;
        const char* end = tag.data() + tag.size();
        const auto [rest, failure] = std::from_chars(tag.data() + at + 3, end, bit);
        return failure == std::errc() && rest == end && bit >= 0 ? std::pair(tag.substr(0, at), bit)
                                                                 : std::pair(tag, -1);
    }

    bool pick_bit(const MapRow& row, int bit, Variable& v) {
        const bool word = logic::is_bit_string(v.type) || logic::is_integer(v.type);
        if (!word || bit >= logic::type_size(v.type) * 8) {
            diagnostics_.error(Code::TypeMismatch, row.tag_place,
                               fmt::format("'{}' is {} and has no bit {}", v.path, logic::type_name(v.type), bit));
            return false;
        }
        v.type = Elementary::Bool;
        v.offset += static_cast<std::uint32_t>(bit) / 8;
        v.bit = bit % 8;
        return true;
    }

    /// Takes "swap bytes" and "swap words" off the end of a scaling.
    static std::string without_order(std::string_view text, ByteOrder& order) {
        for (bool found = true; found;) {
            found = false;
            text = base::trimmed(text);
            for (const auto& [words, flag] : {std::pair<std::string_view, bool*>("swap bytes", &order.swap_bytes),
                                              {"swap words", &order.swap_words}}) {
                if (!text.ends_with(words)) continue;
                *flag = found = true;
                text.remove_suffix(words.size());
            }
        }
        return std::string(text);
    }

    bool order_fits(const MapRow& row, const Variable& v, const ByteOrder& order) {
        const int size = logic::type_size(v.type);
        if (v.type != Elementary::Bool && size >= 2 && (!order.swap_words || size >= 4)) return true;
        diagnostics_.error(Code::BadScaling, row.scaling_place,
                           fmt::format("'{}' is {}, which has no {} to swap", v.path, logic::type_name(v.type),
                                       order.swap_words ? "words" : "bytes"));
        return false;
    }

    // --- channels ---
    static constexpr int kNoModule = -1, kWrongChannel = -2;

    /// The module that has the tag's address, and the number of its channel.
    std::pair<int, int> channel_of(const MapRow& row, int c, const Variable& v, int bit_of_word) {
        const bool racked = std::any_of(wiring.modules.begin(), wiring.modules.end(),
                                        [&](const Module& m) { return m.controller == c; });
        if (!racked || (v.address.area != logic::Area::Input && v.address.area != logic::Area::Output))
            return {kNoModule, 0};
        logic::Address address = v.address;
        if (bit_of_word >= 0) {
            address.byte += static_cast<std::uint32_t>(bit_of_word) / 8;
            address.bit = bit_of_word % 8;
            address.size = 1;
        }
        std::string why;
        const auto found = channel_at(wiring.modules, c, address, why);
        if (!found) {
            if (diagnostics_.has_errors()) return {kNoModule, 0};  // its module may have been left out for a mistake
            // Numbers that are no signals come over a bus.
            const int point = find_point(row.point);
            const PointType type = base::at(plant_.points, point).type;
            const bool plain = base::at(plant_.points, point).dimension == base::Dimension::Plain;
            if (type == PointType::Number || (type == PointType::Analog && (plain || logic::type_size(v.type) != 2)))
                return {kNoModule, 0};
            diagnostics_.error(Code::NoChannel, row.tag_place,
                               fmt::format("'{}' at {} lies in no module of the rack", row.tag, address.text()),
                               "give it an address of a module, or add the module to the rack");
            return {kWrongChannel, 0};
        }
        if (!why.empty()) {
            diagnostics_.error(Code::NoChannel, row.tag_place,
                               fmt::format("'{}' at {} is not a channel: {}", row.tag, address.text(), why));
            return {kWrongChannel, 0};
        }
        return *found;
    }

    /// Through an analog channel: without a scaling the point's own range is the module's; ends in mA or V become
    /// counts.
    std::optional<Scaling> analog_scaling(const MapRow& row, const Variable& v, const PointModel& p, const Module& m) {
        auto meant = meant_scaling(row, v, p, m);
        if (meant && meant->linear) meant = through_wire(row, *meant, p, m);
        return meant;
    }

    static std::string signal_text(bool current, double low, double high) {
        return fmt::format("{:g}..{:g} {}", low, high, current ? "mA" : "V");
    }

    /// A current or a voltage goes to a module that measures one.
    bool takes_signal(const MapRow& row, const PointModel& p, const Module& m) {
        const auto sent = plant::electrical_range(p.wire_signal);
        if (!sent || (m.kind == ModuleKind::AnalogInput && sent->current == m.range.current)) return true;
        diagnostics_.error(Code::BadScaling, row.point_place,
                           fmt::format("'{}' sends {}, module '{}' {}", p.name,
                                       signal_text(sent->current, sent->low, sent->high), m.name,
                                       m.kind == ModuleKind::AnalogInput
                                           ? "is set to " + signal_text(m.range.current, m.range.low, m.range.high)
                                           : "is of kind " + base::at(module_kind_names(), static_cast<int>(m.kind))));
        return false;
    }

    /// What a transmitter sends may be another current than its module is set to: then other values arrive.
    Scaling through_wire(const MapRow& row, Scaling s, const PointModel& p, const Module& m) {
        const auto sent = plant::electrical_range(p.wire_signal);
        const SignalRange& card = m.range;
        if (!sent || p.low == p.high || (sent->low == card.low && sent->high == card.high)) return s;
        diagnostics_.warning(Code::BadScaling, row.point_place,
                             fmt::format("'{}' sends {}, module '{}' is set to {}", p.name,
                                         signal_text(sent->current, sent->low, sent->high), m.name,
                                         signal_text(card.current, card.low, card.high)),
                             "set both to one signal; other values arrive");
        // The card takes its own low and high for the ends of the device's range.
        const auto counts = [&](double at) { return s.offset + s.gain * at; };
        const auto read = [&](double milliamperes) {
            return counts(p.low) +
                   (milliamperes - card.low) / (card.high - card.low) * (counts(p.high) - counts(p.low));
        };
        const double at_low = read(sent->low), at_high = read(sent->high);
        s.gain = (at_high - at_low) / (p.high - p.low);
        s.offset = at_low - s.gain * p.low;
        return s;
    }

    std::optional<Scaling> meant_scaling(const MapRow& row, const Variable& v, const PointModel& p, const Module& m) {
        const std::string_view text = base::trimmed(row.scaling);
        const SignalRange& r = m.range;
        for (const double count : {r.count_low, r.count_high}) {
            if (logic::is_real(v.type) ||
                logic::literal_fits(v.type, static_cast<std::uint64_t>(std::abs(count)), count < 0))
                continue;
            diagnostics_.error(Code::BadScaling, row.tag_place,
                               fmt::format("module '{}' counts {:g} to {:g}, which does not fit {}, the type of '{}'",
                                           m.name, r.count_low, r.count_high, logic::type_name(v.type), v.path));
            return std::nullopt;
        }
        if (text.empty() && p.type == PointType::Analog && p.low != p.high)
            return between(p.low, p.high, r.count_low, r.count_high);
        const std::size_t arrow = text.find("->");
        const std::string_view right = arrow == std::string_view::npos ? std::string_view{} : text.substr(arrow + 2);
        const bool current = right.find("mA") != std::string_view::npos;
        if (!current && right.find('V') == std::string_view::npos) return read_scaling(row, v, p);
        if (current != r.current) {
            diagnostics_.error(Code::BadScaling, row.scaling_place,
                               fmt::format("module '{}' takes {:g} to {:g} {}, not {}", m.name, r.low, r.high,
                                           r.current ? "mA" : "V", current ? "mA" : "V"));
            return std::nullopt;
        }
        std::string plain(text.substr(0, arrow + 2));
        for (const char c : right) {
            if (c != 'm' && c != 'A' && c != 'V') plain += c;
        }
        MapRow stripped = row;
        stripped.scaling = plain;
        Variable real = v;
        real.type = Elementary::Lreal;  // of V and mA, not of the tag
        auto scaling = read_linear(stripped, base::trimmed(stripped.scaling), real, p);
        if (!scaling) return std::nullopt;
        const bool falling = scaling->gain < 0.0;
        const double low = r.counts(falling ? scaling->tag_high : scaling->tag_low);
        const double high = r.counts(falling ? scaling->tag_low : scaling->tag_high);
        return between(scaling->point_low, scaling->point_high, low, high);
    }

    static Scaling between(double point_low, double point_high, double tag_at_low, double tag_at_high) {
        Scaling s;
        s.linear = true;
        s.gain = (tag_at_high - tag_at_low) / (point_high - point_low);
        s.offset = tag_at_low - s.gain * point_low;
        std::tie(s.tag_low, s.tag_high) = std::minmax(tag_at_low, tag_at_high);
        std::tie(s.point_low, s.point_high) = std::minmax(point_low, point_high);
        return s;
    }

    // --- jumpers ---
    static controller::Spot spot_of(int v, const Variable& variable) {
        return {v, variable.type, variable.offset, variable.bit};
    }
    static Source source_of(int c, int v, const Variable& variable) { return {c, spot_of(v, variable), plant::kNone}; }

    /// A row that only says which register a tag has.
    void lone_tag(const MapRow& row) {
        bool clear = true;
        if (tag_of(row.tag, row.tag_place, clear).first < 0 && clear && !is_left_out(row.tag))
            diagnostics_.error(Code::UnknownTag, row.tag_place, fmt::format("no tag is named '{}'", row.tag),
                               base::name_hint(row.tag, tag_names()));
    }

    void jumper(const MapRow& row, int c, int v) {
        if (c < 0) {
            if (!is_left_out(row.tag))
                diagnostics_.error(Code::UnknownTag, row.tag_place, fmt::format("no tag is named '{}'", row.tag),
                                   base::name_hint(row.tag, tag_names()));
            return;
        }
        const auto [from_c, from_v] = find_tag(controllers_, row.point);
        const Variable& to = variable_at(c, v);
        const Variable& from = variable_at(from_c, from_v);
        if (!jumper_fits(row, to, from) || joined_twice(row, {c, v, -1}, plant::kNone, true)) return;
        Jumper j{c, spot_of(v, to), false, source_of(from_c, from_v, from), {}, {}, false, row.note};
        const std::string_view scaling = base::trimmed(row.scaling);
        j.invert = scaling == "invert";
        if (!scaling.empty() && !(j.invert && to.type == Elementary::Bool)) {
            diagnostics_.error(Code::BadScaling, row.scaling_place,
                               fmt::format("a jumper between tags takes no scaling '{}'", scaling),
                               "BOOL tags take 'invert' or nothing; numbers go as they are");
            return;
        }
        if (!row.delay.empty()) {
            const auto reading = base::read_quantity(row.delay, base::Dimension::Time);
            if (reading.fault != base::QuantityFault::None || reading.si_value < 0.0 || reading.si_value > 3600.0) {
                diagnostics_.error(Code::WrongUnit, row.delay_place,
                                   reading.fault != base::QuantityFault::None
                                       ? base::quantity_message(row.delay, reading, base::Dimension::Time)
                                       : "a delay is 0 s to 1 h");
                return;
            }
            j.delay = base::from_seconds(reading.si_value);
        }
        if (!row.when.empty() && !condition(row, j)) return;
        sources_.insert({from_c, from_v});
        note_bits(row, c, to, true);
        wiring.jumpers.push_back(std::move(j));
    }

    bool jumper_fits(const MapRow& row, const Variable& to, const Variable& from) {
        const bool bools = to.type == Elementary::Bool && from.type == Elementary::Bool;
        const bool exact =
            bools || (from.type != Elementary::Bool && to.type != Elementary::Bool &&
                      (from.type == to.type || logic::widens(from.type, to.type)) && logic::is_scalar(from.type));
        if (!exact)
            diagnostics_.error(Code::TypeMismatch, row.tag_place,
                               fmt::format("'{}' is {}, '{}' is {}: a value could be lost on the way", to.path,
                                           logic::type_name(to.type), from.path, logic::type_name(from.type)));
        const bool target = to.address.area != logic::Area::Output && !to.constant;
        if (!target)
            diagnostics_.error(Code::WrongDirection, row.tag_place,
                               fmt::format("a jumper goes to an input, but '{}' {}", to.path,
                                           to.constant ? "is a CONSTANT" : "lies at " + to.address.text()));
        return exact && target;
    }

    bool condition(const MapRow& row, Jumper& j) {
        std::string_view name = base::trimmed(row.when);
        if (base::fold(name.substr(0, 4)) == "not ") {
            j.when_not = true;
            name = base::trimmed(name.substr(4));
        }
        const std::string text(name);
        if (const auto [c, v] = find_tag(controllers_, text); c >= 0 && variable_at(c, v).type == Elementary::Bool) {
            j.when = source_of(c, v, variable_at(c, v));
            sources_.insert({c, v});
            return true;
        }
        const int point = find_point(text);
        if (point != plant::kNone && base::at(plant_.points, point).type == PointType::Boolean) {
            j.when = Source{-1, {}, point};
            return true;
        }
        std::vector<std::string> known = tag_names();
        for (std::string& p : plant_.point_names()) known.push_back(std::move(p));
        for (std::string& d : plant_.device_names()) known.push_back(std::move(d));
        diagnostics_.error(Code::UnknownName, row.when_place, fmt::format("'{}' is not a BOOL tag or point", text),
                           base::name_hint(text, known));
        return false;
    }

    const Variable& variable_at(int c, int v) const {
        return base::at(base::at(controllers_, c).program->variables, v);
    }

    using TagKey = std::tuple<int, int, int>;  ///< Controller, variable, bit of a word or -1.

    /// An input point may go to several controllers; everything else is joined once.
    bool joined_twice(const MapRow& row, TagKey key, int point, bool input) {
        const auto [tag, tag_fresh] = tags_.try_emplace(key, row.tag_place);
        if (!tag_fresh)
            diagnostics_.error(Code::MappedTwice, row.tag_place,
                               fmt::format("tag '{}' is joined twice; first at {}", row.tag, tag->second.text()));
        if (point == plant::kNone) return !tag_fresh;
        const auto [wire, point_fresh] =
            points_.try_emplace(std::pair(point, input ? std::get<0>(key) : 0), row.point_place);
        joined_points_.insert(point);
        if (!point_fresh)
            diagnostics_.error(Code::MappedTwice, row.point_place,
                               fmt::format("point '{}' is joined twice; first at {}", row.point, wire->second.text()));
        return !tag_fresh || !point_fresh;
    }

    bool direction_fits(const MapRow& row, const Variable& v, const PointModel& p) {
        const bool input = p.direction == PointDirection::Input;
        const logic::Area wrong = input ? logic::Area::Output : logic::Area::Input;
        if (v.address.area != wrong && !(input && v.constant)) return true;
        diagnostics_.error(
            Code::WrongDirection, row.point_place,
            fmt::format("'{}' is an {} of the controller, but '{}' lies at {}", p.name, input ? "input" : "output",
                        v.path, v.constant ? "a CONSTANT" : v.address.text()));
        return false;
    }

    /// A scaling that suits a point: over its range where it has one.
    static std::string example_of(const PointModel& p) {
        const bool spans = p.low != p.high;
        return fmt::format("{}..{} -> 4000..20000", base::quantity_text(spans ? p.low : 0.0, p.dimension),
                           base::quantity_text(spans ? p.high : 1.0, p.dimension));
    }

    bool types_meet(const MapRow& row, const Variable& v, const PointModel& p, const Scaling& scaling) {
        const bool tag_bool = v.type == Elementary::Bool;
        if (p.type == PointType::Text && logic::is_text(v.type)) return true;
        const bool number = logic::is_number(v.type) || logic::is_bit_string(v.type);
        if (p.type == PointType::Boolean
                ? tag_bool
                : p.type != PointType::Text && number &&
                      (p.type == PointType::Number || logic::is_real(v.type) || scaling.linear))
            return true;
        const bool needs_scaling = p.type == PointType::Analog && number;
        diagnostics_.error(Code::TypeMismatch, row.tag_place,
                           fmt::format("tag '{}' is {}, point '{}' is {}", v.path, logic::type_name(v.type), p.name,
                                       point_type_text(p.type)),
                           needs_scaling ? "give a scaling, such as " + example_of(p) : "");
        return false;
    }

    std::optional<Scaling> read_scaling(const MapRow& row, const Variable& v, const PointModel& p) {
        const std::string_view text = base::trimmed(row.scaling);
        Scaling scaling;
        if (text.empty()) return scaling;
        const bool invert = text == "invert";
        if (p.type == PointType::Text) {
            diagnostics_.error(
                Code::BadScaling, row.scaling_place,
                fmt::format("a scaling '{}' does not suit point '{}', which is {}", text, p.name, "a string"),
                "strings go as they are");
            return std::nullopt;
        }
        if (invert != (p.type == PointType::Boolean)) {
            diagnostics_.error(Code::BadScaling, row.scaling_place,
                               fmt::format("a scaling '{}' does not suit point '{}', which is {}", text, p.name,
                                           point_type_text(p.type)),
                               p.type == PointType::Boolean ? "BOOL points take 'invert' or nothing"
                                                            : "a scaling has the form 0 m..1 m -> 4000..20000");
            return std::nullopt;
        }
        if (invert) {
            scaling.invert = true;
            return scaling;
        }
        return read_linear(row, text, v, p);
    }

    std::optional<Scaling> read_linear(const MapRow& row, std::string_view text, const Variable& v,
                                       const PointModel& p) {
        const std::size_t arrow = text.find("->");
        double point_ends[2] = {0, 0}, tag_ends[2] = {0, 0};
        const bool ok = arrow != std::string_view::npos &&
                        read_range(row, text.substr(0, arrow), p.dimension, point_ends) &&
                        read_range(row, text.substr(arrow + 2), base::Dimension::Plain, tag_ends);
        if (arrow == std::string_view::npos) {
            diagnostics_.error(Code::BadScaling, row.scaling_place, fmt::format("'{}' is not a valid scaling", text),
                               "a scaling has the form 0 m..1 m -> 4000..20000");
        }
        if (!ok) return std::nullopt;
        if (point_ends[0] == point_ends[1] || tag_ends[0] == tag_ends[1]) {
            diagnostics_.error(Code::BadScaling, row.scaling_place, "a scaling needs two different ends on both sides");
            return std::nullopt;
        }
        for (const double end : tag_ends) {
            if (logic::is_real(v.type) ||
                (end == static_cast<double>(static_cast<std::int64_t>(end)) &&
                 logic::literal_fits(v.type, static_cast<std::uint64_t>(std::abs(end)), end < 0)))
                continue;
            diagnostics_.error(
                Code::BadScaling, row.scaling_place,
                fmt::format("{} does not fit {}, the type of '{}'", end, logic::type_name(v.type), v.path));
            return std::nullopt;
        }
        Scaling s;
        warn_of_range(row, p, point_ends);
        s.linear = true;
        s.gain = (tag_ends[1] - tag_ends[0]) / (point_ends[1] - point_ends[0]);
        s.offset = tag_ends[0] - s.gain * point_ends[0];
        std::tie(s.tag_low, s.tag_high) = std::minmax(tag_ends[0], tag_ends[1]);
        std::tie(s.point_low, s.point_high) = std::minmax(point_ends[0], point_ends[1]);
        return s;
    }

    /// The map and the device mean different ends of one signal.
    void warn_of_range(const MapRow& row, const PointModel& p, const double (&ends)[2]) {
        if (p.low == p.high) return;
        const auto [low, high] = std::minmax(ends[0], ends[1]);
        const double slack = 1e-6 * (p.high - p.low);
        if (std::abs(low - p.low) <= slack && std::abs(high - p.high) <= slack) return;
        diagnostics_.warning(
            Code::BadScaling, row.scaling_place,
            fmt::format("this scales {}, but the signal of '{}' goes from {}", base::range_text(low, high, p.dimension),
                        p.name, base::range_text(p.low, p.high, p.dimension)),
            "scale over the whole signal, or set the device's range");
    }

    /// Spreadsheets of many countries write 0,5.
    static std::string decimal_point(std::string_view text) {
        const std::size_t comma = text.find(',');
        const auto digit = [&](std::size_t i) { return i < text.size() && text[i] >= '0' && text[i] <= '9'; };
        if (comma == std::string_view::npos || comma == 0 || !digit(comma - 1) || !digit(comma + 1)) return {};
        std::string mended(text);
        mended[comma] = '.';
        return fmt::format("decimals are written with a point: {}", mended);
    }

    bool read_range(const MapRow& row, std::string_view text, base::Dimension dimension, double (&ends)[2]) {
        // "0 %..100 %", "0..100 %" and "0 to 100 %" are one range.
        std::size_t dots = text.find(".."), width = 2;
        if (dots == std::string_view::npos) {
            dots = text.find(" to ");
            width = 4;
        }
        if (dots == std::string_view::npos) {
            diagnostics_.error(Code::BadScaling, row.scaling_place,
                               fmt::format("'{}' is not a valid range", base::trimmed(text)),
                               "a scaling has the form 0 m..1 m -> 4000..20000");
            return false;
        }
        const std::string_view parts[] = {base::trimmed(text.substr(0, dots)),
                                          base::trimmed(text.substr(dots + width))};
        for (int i = 0; i < 2; ++i) {
            auto reading = base::read_quantity(parts[i], dimension);
            if (i == 0 && reading.fault == base::QuantityFault::NoUnit) {
                const std::size_t number_end = parts[1].find_last_of("0123456789.");
                if (number_end != std::string_view::npos)
                    reading = base::read_quantity(std::string(parts[0]) + std::string(parts[1].substr(number_end + 1)),
                                                  dimension);
            }
            if (reading.fault != base::QuantityFault::None) {
                diagnostics_.error(Code::BadScaling, row.scaling_place,
                                   base::quantity_message(parts[i], reading, dimension), decimal_point(parts[i]));
                return false;
            }
            ends[i] = reading.si_value;
        }
        return true;
    }

    const std::vector<ControllerModel>& controllers_;
    const plant::PlantModel& plant_;
    base::Diagnostics& diagnostics_;
    const std::vector<std::string>& left_out_;
    std::vector<JoinedBits> bits_;
    BitRuns joined_bits_, written_bits_;
    std::map<TagKey, base::Place> tags_;
    std::map<std::pair<int, int>, base::Place> points_;  ///< By point, and by controller for inputs.
    std::set<int> joined_points_;
    std::unordered_map<std::string, int> points_by_name_;  ///< Folded.
    std::set<std::pair<int, int>> sources_;                ///< Tags that jumpers come from.
};

}  // namespace

Wiring build_wiring(const std::vector<MapRow>& rows, const std::vector<ControllerModel>& controllers,
                    const plant::PlantModel& plant, const base::Place& map_place, base::Diagnostics& diagnostics,
                    const std::vector<std::string>& left_out, const std::vector<Module>& rack) {
    WiringBuilder builder(controllers, plant, diagnostics, left_out, rack);
    for (const MapRow& row : rows) builder.row(row);
    builder.check_shared();
    if (!diagnostics.has_errors()) builder.warn_unjoined(map_place);
    return std::move(builder.wiring);
}

}  // namespace vyard::wiring
