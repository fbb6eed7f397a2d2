#include "files/plant_file.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "files/toml_source.hpp"

namespace vyard::files {

using base::Code;

namespace {

bool is_group(const toml::table& table) {
    return !table.empty() &&
           std::all_of(table.begin(), table.end(), [](const auto& entry) { return entry.second.is_table(); });
}

class PlantReader {
  public:
    PlantReader(const base::SourcePtr& source, base::Diagnostics& diagnostics)
        : source_(source), diagnostics_(diagnostics) {}

    plant::PlantDefinition run(const toml::table& root) {
        for (const auto& [key, value] : root) {
            const std::string name(key.str());
            const toml::table* table = value.as_table();
            if (table == nullptr) {
                diagnostics_.error(Code::UnknownKey, place_of(source_, key),
                                   fmt::format("'{}' stands outside any device", name),
                                   "devices are tables: [belt.infeed]");
            } else if (name == "plant") {
                general(*table);
            } else {
                devices(name, place_of(source_, key), *table, "");
            }
        }
        // toml++ sorts by name; people read their file from top to bottom, and so do steps and messages.
        const auto by_place = [](const plant::DeviceDefinition& a, const plant::DeviceDefinition& b) {
            return std::pair(a.place.line, a.place.column) < std::pair(b.place.line, b.place.column);
        };
        std::stable_sort(out_.devices.begin(), out_.devices.end(), by_place);
        std::stable_sort(out_.items.begin(), out_.items.end(), by_place);
        return std::move(out_);
    }

  private:
    void general(const toml::table& table) {
        check_keys(source_, table, {"colours"}, "[plant]", diagnostics_);
        const toml::node* colours = table.get("colours");
        if (colours == nullptr) return;
        const plant::DefinitionValue value = definition_value(source_, *colours);
        if (value.form != plant::DefinitionValue::Form::List) {
            diagnostics_.error(Code::WrongValue, value.place, "'colours' is a list of names",
                               "colours = [\"clay\", \"cobalt\"]");
            return;
        }
        out_.colours = value.list;
    }

    void devices(const std::string& kind, const base::Place& kind_place, const toml::table& table,
                 const std::string& prefix) {
        for (const auto& [key, value] : table) {
            const std::string name = prefix + std::string(key.str());
            const toml::table* inner = value.as_table();
            if (inner == nullptr) {
                diagnostics_.error(Code::WrongValue, place_of(source_, key),
                                   fmt::format("expected a device here, such as [{}.{}]", kind, name));
            } else if (is_group(*inner)) {
                devices(kind, kind_place, *inner, name + ".");
            } else {
                device(kind, kind_place, name, place_of(source_, key), *inner);
            }
        }
    }

    void device(const std::string& kind, const base::Place& kind_place, const std::string& name,
                const base::Place& place, const toml::table& table) {
        plant::DeviceDefinition d{kind, kind_place, name, place, {}};
        d.kind_place = place;  // the kind stands in front of the name, on the same line
        d.kind_place.column = std::max(1, place.column - static_cast<int>(kind.size()) - 1);
        d.kind_place.length = static_cast<int>(kind.size());
        const std::string_view line = source_->line(place.line);
        if (!line.substr(static_cast<std::size_t>(d.kind_place.column - 1)).starts_with(kind)) d.kind_place = place;
        for (const auto& [key, value] : table)
            d.keys.push_back({std::string(key.str()), place_of(source_, key), definition_value(source_, value)});
        std::stable_sort(d.keys.begin(), d.keys.end(), [](const auto& a, const auto& b) {
            return std::pair(a.place.line, a.place.column) < std::pair(b.place.line, b.place.column);
        });
        (kind == "item" ? out_.items : out_.devices).push_back(std::move(d));
    }

    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
    plant::PlantDefinition out_;
};

}  // namespace

plant::PlantDefinition read_plant(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    const auto root = parse_toml(source, diagnostics);
    if (!root) return {};
    return PlantReader(source, diagnostics).run(*root);
}

}  // namespace vyard::files
