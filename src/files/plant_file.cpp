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
    PlantReader(const base::SourcePtr& source, base::Diagnostics& diagnostics, FileReader read = {})
        : source_(source), diagnostics_(diagnostics), read_(std::move(read)) {}

    plant::PlantDefinition run(const toml::table& root) {
        for (const auto& [key, value] : root) {
            const std::string name(key.str());
            const toml::table* table = value.as_table();
            if (name == "assembly" && value.is_array_of_tables()) {
                for (const toml::node& one : *value.as_array()) assembly(*one.as_table(), place_of(source_, key));
            } else if (table == nullptr) {
                diagnostics_.error(Code::UnknownKey, place_of(source_, key),
                                   fmt::format("'{}' stands outside any device", name),
                                   "devices are tables: [belt.infeed]");
            } else if (name == "assembly") {
                diagnostics_.error(Code::WrongValue, place_of(source_, key), "an assembly has double brackets",
                                   "[[assembly]] with name = \"station\"");
            } else if (name == "plant") {
                general(*table);
            } else if (name == "kind") {
                for (const auto& [kind, own] : *table) own_kind(std::string(kind.str()), place_of(source_, kind), own);
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

    /// [[assembly]] name, parameters, and tables of devices as in the plant.
    void assembly(const toml::table& table, const base::Place& place) {
        plant::AssemblyDefinition a;
        base::Place name_place = place;
        a.name = text_at(source_, table, "name", name_place, diagnostics_).value_or("");
        a.place = name_place;
        if (a.name.empty()) {
            diagnostics_.error(Code::MissingKey, place, "an assembly needs 'name'", "name = \"station\"");
            return;
        }
        PlantReader inner(source_, diagnostics_, read_);
        for (const auto& [key, value] : table) {
            const std::string word(key.str());
            if (word == "name") continue;
            const toml::table* kind = value.as_table();
            if (kind == nullptr) {
                diagnostics_.error(Code::UnknownKey, place_of(source_, key),
                                   fmt::format("an assembly has no '{}'", word),
                                   "name, parameters, and tables of devices: [assembly.belt.feed]");
            } else if (word == "parameters") {
                for (const auto& [parameter, standard] : *kind)
                    a.parameters.push_back({std::string(parameter.str()), place_of(source_, parameter),
                                            definition_value(source_, standard)});
            } else {
                inner.devices(word, place_of(source_, key), *kind, "");
            }
        }
        a.devices = std::move(inner.out_.devices);
        const auto by_line = [](const plant::DeviceDefinition& x, const plant::DeviceDefinition& y) {
            return x.place.line < y.place.line;
        };
        std::stable_sort(a.devices.begin(), a.devices.end(), by_line);
        out_.assemblies.push_back(std::move(a));
    }

    /// [kind.NAME] block, logic, and which inputs are set by what.
    void own_kind(const std::string& name, const base::Place& place, const toml::node& node) {
        const toml::table* table = node.as_table();
        if (table == nullptr) {
            diagnostics_.error(Code::WrongValue, place, "a kind is a table: [kind.oven] with block and logic");
            return;
        }
        check_keys(source_, *table, {"block", "logic", "summary", "controls", "parameters", "faults", "mishaps"},
                   fmt::format("[kind.{}]", name), diagnostics_);
        plant::OwnKindDefinition k;
        k.name = name;
        k.place = k.block_place = place;
        base::Place ignored;
        k.block = text_at(source_, *table, "block", k.block_place, diagnostics_).value_or(name);
        k.summary = text_at(source_, *table, "summary", ignored, diagnostics_).value_or("");
        base::Place logic_place = place;
        if (const auto path = text_at(source_, *table, "logic", logic_place, diagnostics_)) {
            if (const base::SourcePtr logic = read_ ? read_(*path, logic_place) : nullptr) k.logic.push_back(logic);
        } else {
            diagnostics_.error(Code::MissingKey, place, fmt::format("kind '{}' needs 'logic'", name),
                               "logic = \"devices/oven.st\"");
        }
        names(*table, "controls", k.controls);
        names(*table, "parameters", k.parameters);
        names(*table, "faults", k.faults);
        names(*table, "mishaps", k.mishaps);
        if (!k.logic.empty()) out_.own_kinds.push_back(std::move(k));
    }

    void names(const toml::table& table, const char* key, std::vector<plant::DefinitionValue>& to) {
        if (const toml::node* node = table.get(key)) {
            const plant::DefinitionValue value = definition_value(source_, *node);
            if (value.form != plant::DefinitionValue::Form::List)
                diagnostics_.error(Code::WrongValue, value.place, fmt::format("'{}' is a list of names", key));
            to = value.list;
        }
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
        plant::DeviceDefinition d{kind, kind_place, name, place, {}, {}};
        d.kind_place = place;  // the kind stands in front of the name, on the same line
        d.kind_place.column = std::max(1, place.column - static_cast<int>(kind.size()) - 1);
        d.kind_place.length = static_cast<int>(kind.size());
        const std::string_view line = source_->line(place.line);
        if (!line.substr(static_cast<std::size_t>(d.kind_place.column - 1)).starts_with(kind)) d.kind_place = place;
        for (const auto& [key, value] : table)
            d.keys.push_back({std::string(key.str()), place_of(source_, key), value_or_file(value)});
        std::stable_sort(d.keys.begin(), d.keys.end(), [](const auto& a, const auto& b) {
            return std::pair(a.place.line, a.place.column) < std::pair(b.place.line, b.place.column);
        });
        (kind == "item" ? out_.items : out_.devices).push_back(std::move(d));
    }

    /// { file = "order.txt" } stands for the list of that file's lines.
    plant::DefinitionValue value_or_file(const toml::node& node) {
        plant::DefinitionValue value = definition_value(source_, node);
        const toml::table* table = node.as_table();
        if (table == nullptr) return value;
        check_keys(source_, *table, {"file"}, "a list in a file", diagnostics_);
        base::Place place = value.place;
        const auto path = text_at(source_, *table, "file", place, diagnostics_);
        if (!path || !read_) return value;
        value.form = plant::DefinitionValue::Form::List;
        value.place = place;
        if (const base::SourcePtr file = read_(*path, place)) value.list = lines_of(file);
        return value;
    }

    /// Lines as texts, without those that are empty or start with #.
    static std::vector<plant::DefinitionValue> lines_of(const base::SourcePtr& file) {
        std::vector<plant::DefinitionValue> out;
        const auto lines = std::count(file->text.begin(), file->text.end(), '\n') + 1;
        for (int number = 1; number <= lines; ++number) {
            std::string_view line = file->line(number);
            const std::size_t begin = line.find_first_not_of(" \t\r");
            if (begin == std::string_view::npos || line[begin] == '#') continue;
            line = line.substr(begin, line.find_last_not_of(" \t\r") - begin + 1);
            plant::DefinitionValue value;
            value.form = plant::DefinitionValue::Form::Text;
            value.text = line;
            value.place = {file, number, static_cast<int>(begin) + 1, static_cast<int>(line.size())};
            out.push_back(std::move(value));
        }
        return out;
    }

    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
    FileReader read_;
    plant::PlantDefinition out_;
};

}  // namespace

plant::PlantDefinition read_plant(const base::SourcePtr& source, base::Diagnostics& diagnostics,
                                  const FileReader& read) {
    const auto root = parse_toml(source, diagnostics);
    if (!root) return {};
    return PlantReader(source, diagnostics, read).run(*root);
}

}  // namespace vyard::files
