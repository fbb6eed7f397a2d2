#include "files/rack_file.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <tuple>

namespace vyard::files {

using base::Code;
using wiring::Module;
using wiring::ModuleKind;
using Form = plant::DefinitionValue::Form;

namespace {

struct NamedRange {
    const char* name;
    bool current;
    double low, high;
};
constexpr std::array<NamedRange, 4> kRanges = {
    {{"4..20 mA", true, 4, 20}, {"0..20 mA", true, 0, 20}, {"0..10 V", false, 0, 10}, {"-10..10 V", false, -10, 10}}};

class ModuleReader {
  public:
    ModuleReader(const base::SourcePtr& source, const toml::table& table, base::Diagnostics& diagnostics)
        : source_(source), table_(table), diagnostics_(diagnostics), place_(place_of(source, table.source())) {}

    std::optional<Module> run(int controller) {
        const int before = diagnostics_.error_count();
        check_keys(source_, table_,
                   {"name", "kind", "channels", "address", "filter", "delay", "update", "range", "counts", "bits",
                    "diagnostics", "under", "over"},
                   "a module", diagnostics_);
        Module m;
        m.controller = controller;
        m.place = place_;
        m.name = text("name").value_or("");
        if (m.name.empty()) missing("name", "name = \"DI1\"");
        kind(m);
        channels(m);
        address(m);
        m.filter = time("filter", m.kind == ModuleKind::DigitalInput, "digital inputs");
        m.delay = time("delay", m.kind == ModuleKind::DigitalOutput, "digital outputs");
        m.update = time("update", !m.digital(), "modules of numbers");
        if (m.analog()) range(m);
        diagnostics(m);
        return diagnostics_.error_count() > before ? std::nullopt : std::optional(m);
    }

  private:
    std::optional<std::string> text(const char* key) {
        base::Place place;
        return text_at(source_, table_, key, place, diagnostics_);
    }
    base::Place place(const char* key) const {
        const toml::node* node = table_.get(key);
        return node == nullptr ? place_ : definition_value(source_, *node).place;
    }
    void missing(const char* key, const char* hint) {
        if (!table_.contains(key))
            diagnostics_.error(Code::MissingKey, place_, fmt::format("a module needs '{}'", key), hint);
    }

    void kind(Module& m) {
        const auto& names = wiring::module_kind_names();
        const std::string name = text("kind").value_or("");
        const auto found = std::find(names.begin(), names.end(), name);
        if (found != names.end()) {
            m.kind = static_cast<ModuleKind>(found - names.begin());
            return;
        }
        missing("kind", "kind = \"digital input\"");
        if (!name.empty())
            diagnostics_.error(Code::WrongValue, place("kind"),
                               fmt::format("'kind' takes one of: {}", fmt::join(names, ", ")),
                               base::name_hint(name, names));
    }

    void channels(Module& m) {
        const double most = m.digital() ? 32 : 16;
        m.channels = m.digital() ? 16 : 4;
        const toml::node* node = table_.get("channels");
        if (node == nullptr) return;
        const auto value = definition_value(source_, *node);
        if (value.form != Form::Number || value.number < 1 || value.number > most ||
            value.number != std::floor(value.number))
            diagnostics_.error(Code::OutOfRange, value.place,
                               fmt::format("'channels' is a whole number, 1 to {}", most));
        else
            m.channels = static_cast<int>(value.number);
    }

    void address(Module& m) {
        const auto name = text("address");
        missing("address", "address = \"%IB0\"");
        if (!name) return;
        std::string why;
        const auto address = logic::parse_address(*name, why);
        const bool output = m.kind == ModuleKind::DigitalOutput || m.kind == ModuleKind::AnalogOutput;
        const logic::Area wanted = output ? logic::Area::Output : logic::Area::Input;
        if (!address || address->bit > 0 || address->area != wanted) {
            diagnostics_.error(
                Code::BadAddress, place("address"),
                fmt::format("'{}' is not a valid start of {} channels", *name, output ? "output" : "input"),
                output ? "a byte of outputs, such as %QB0" : "a byte of inputs, such as %IB0");
            return;
        }
        m.area = address->area;
        m.first_byte = address->byte;
    }

    base::Nanoseconds time(const char* key, bool suits, const char* who) {
        const auto written = text(key);
        if (!written) return {};
        const auto reading = base::read_quantity(*written, base::Dimension::Time);
        if (reading.fault != base::QuantityFault::None) {
            diagnostics_.error(Code::WrongUnit, place(key),
                               base::quantity_message(*written, reading, base::Dimension::Time));
        } else if (!suits || reading.si_value < 0.0 || reading.si_value > 10.0) {
            diagnostics_.error(
                Code::WrongValue, place(key),
                suits ? fmt::format("'{}' is 0 s to 10 s", key) : fmt::format("'{}' is for {}", key, who));
        } else {
            return base::from_seconds(reading.si_value);
        }
        return {};
    }

    void range(Module& m) {
        const std::string name = text("range").value_or("4..20 mA");
        const auto found =
            std::find_if(kRanges.begin(), kRanges.end(), [&](const NamedRange& r) { return name == r.name; });
        if (found == kRanges.end()) {
            std::vector<std::string> names;
            for (const NamedRange& r : kRanges) names.emplace_back(r.name);
            diagnostics_.error(Code::WrongValue, place("range"),
                               fmt::format("'range' takes one of: {}", fmt::join(names, ", ")),
                               base::name_hint(name, names));
            return;
        }
        m.range.current = found->current;
        m.range.low = found->low;
        m.range.high = found->high;
        if (found->low < 0) m.range.count_low = -20000;
        counts(m);
        limits(m);
        if (const toml::node* bits = table_.get("bits")) {
            const auto value = definition_value(source_, *bits);
            if (value.form != Form::Number || value.number < 8 || value.number > 16 ||
                value.number != std::floor(value.number))
                diagnostics_.error(Code::OutOfRange, value.place, "'bits' is a whole number, 8 to 16");
            else
                m.range.bits = static_cast<int>(value.number);
        }
    }

    /// Where a current says that something is out of order.
    void limits(Module& m) {
        for (const auto& [key, to, least, most] :
             {std::tuple("under", &m.range.under, 0.0, 4.0), {"over", &m.range.over, 20.0, 24.0}}) {
            const auto written = text(key);
            if (!written) continue;
            double value = 0.0;
            std::string_view rest = *written;
            const auto [end, failure] = std::from_chars(rest.data(), rest.data() + rest.size(), value);
            rest.remove_prefix(static_cast<std::size_t>(end - rest.data()));
            if (!m.range.watched()) {
                diagnostics_.error(Code::WrongValue, place(key), fmt::format("'{}' is for modules of 4..20 mA", key));
            } else if (failure != std::errc() || rest != " mA" || value < least || value > most) {
                diagnostics_.error(Code::OutOfRange, place(key),
                                   fmt::format("'{}' is a current, {:g} mA to {:g} mA", key, least, most),
                                   fmt::format("{} = \"{:g} mA\"", key, *to));
            } else {
                *to = value;
            }
        }
    }

    void counts(Module& m) {
        const toml::node* node = table_.get("counts");
        if (node == nullptr) return;
        const auto value = definition_value(source_, *node);
        // What the address holds, with a sign or without; what would go beyond stays at its end.
        const auto fits = [](const plant::DefinitionValue& v) {
            return v.form == Form::Number && v.number == std::floor(v.number) && v.number >= -32'768 &&
                   v.number <= 65'535;
        };
        if (value.form != Form::List || value.list.size() != 2 || !fits(value.list[0]) || !fits(value.list[1]) ||
            value.list[0].number >= value.list[1].number ||
            (value.list[0].number < 0 && value.list[1].number > 32'767)) {
            diagnostics_.error(Code::WrongValue, value.place,
                               "'counts' is two whole numbers, the lower first, -32768 to 32767 or 0 to 65535",
                               "counts = [0, 20000]");
            return;
        }
        m.range.count_low = value.list[0].number;
        m.range.count_high = value.list[1].number;
    }

    void diagnostics(Module& m) {
        const auto name = text("diagnostics");
        if (!name) return;
        std::string why;
        const auto address = logic::parse_address(*name, why);
        const int bytes = m.channels > 16 ? 4 : m.channels > 8 ? 2 : 1;
        if (!address || address->area != logic::Area::Input || address->bit >= 0 || address->size < bytes) {
            diagnostics_.error(Code::BadAddress, place("diagnostics"),
                               fmt::format("'{}' does not hold a bit for each of {} channels", *name, m.channels),
                               fmt::format("an input of {} bytes, such as %I{}100", bytes,
                                           bytes == 1   ? 'B'
                                           : bytes == 2 ? 'W'
                                                        : 'D'));
            return;
        }
        m.diagnostics = *address;
    }

    const base::SourcePtr& source_;
    const toml::table& table_;
    base::Diagnostics& diagnostics_;
    base::Place place_;
};

}  // namespace

void read_modules(const base::SourcePtr& source, const toml::node& node, int controller,
                  std::vector<wiring::Module>& rack, base::Diagnostics& diagnostics) {
    if (!node.is_array_of_tables()) {
        diagnostics.error(Code::WrongValue, place_of(source, node.source()), "modules are tables in double brackets",
                          "[[controller.line.module]] with name, kind, channels, address");
        return;
    }
    for (const toml::node& one : *node.as_array()) {
        if (auto module = ModuleReader(source, *one.as_table(), diagnostics).run(controller))
            rack.push_back(std::move(*module));
    }
}

}  // namespace vyard::files
