#include "core/plant/assemblies.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::plant {

using base::Code;

namespace {

class Writer {
  public:
    Writer(PlantDefinition& definition, base::Diagnostics& diagnostics)
        : definition_(definition), diagnostics_(diagnostics) {}

    void run() {
        std::vector<DeviceDefinition> devices = std::move(definition_.devices);
        definition_.devices.clear();
        for (DeviceDefinition& d : devices) put(std::move(d), 0);
    }

  private:
    const AssemblyDefinition* find(const std::string& name) const {
        for (const AssemblyDefinition& a : definition_.assemblies) {
            if (a.name == name) return &a;
        }
        return nullptr;
    }

    void put(DeviceDefinition device, int depth) {
        const AssemblyDefinition* assembly = find(device.kind);
        if (assembly == nullptr) {
            definition_.devices.push_back(std::move(device));
            return;
        }
        if (depth >= kMostNestedAssemblies || definition_.devices.size() >= kMostDevices) {
            diagnostics_.error(Code::PlacementLoop, device.place,
                               fmt::format("assembly '{}' is nested too deep or holds itself", assembly->name));
            return;
        }
        check_keys(*assembly, device);
        DeviceDefinition::Origin origin;
        for (const DefinitionKey& key : device.keys) {
            if (key.name == "at") origin.at = key.value;
            if (key.name == "heading") origin.heading = key.value;
        }
        for (const DeviceDefinition& inner : assembly->devices) {
            DeviceDefinition out = inner;
            out.name = device.name + "." + inner.name;
            out.origins = device.origins;
            out.origins.push_back(origin);
            for (DefinitionKey& key : out.keys) fill_in(*assembly, device, key.value);
            put(std::move(out), depth + 1);
        }
    }

    void check_keys(const AssemblyDefinition& assembly, const DeviceDefinition& device) {
        std::vector<std::string> known{"at", "heading"};
        for (const DefinitionKey& p : assembly.parameters) known.push_back(p.name);
        for (const DefinitionKey& key : device.keys) {
            if (std::find(known.begin(), known.end(), key.name) != known.end()) continue;
            diagnostics_.error(Code::UnknownKey, key.place,
                               fmt::format("assembly '{}' has no parameter '{}'", assembly.name, key.name),
                               base::name_hint(key.name, known));
        }
    }

    /// Parameters, and names of the assembly's own devices.
    void fill_in(const AssemblyDefinition& assembly, const DeviceDefinition& device, DefinitionValue& value) {
        for (DefinitionValue& v : value.list) fill_in(assembly, device, v);
        if (value.form != DefinitionValue::Form::Text) return;
        if (value.text.starts_with("$")) {
            const std::string name = value.text.substr(1);
            const auto named = [&](const DefinitionKey& k) { return k.name == name; };
            const auto given = std::find_if(device.keys.begin(), device.keys.end(), named);
            const auto declared = std::find_if(assembly.parameters.begin(), assembly.parameters.end(), named);
            if (declared == assembly.parameters.end()) {
                std::vector<std::string> known;
                for (const DefinitionKey& p : assembly.parameters) known.push_back(p.name);
                diagnostics_.error(Code::UnknownName, value.place,
                                   fmt::format("assembly '{}' has no parameter '{}'", assembly.name, name),
                                   base::name_hint(name, known));
                return;
            }
            value = given != device.keys.end() ? given->value : declared->value;
            return;
        }
        const bool own = std::any_of(assembly.devices.begin(), assembly.devices.end(),
                                     [&](const DeviceDefinition& d) { return d.name == value.text; });
        if (own) value.text = device.name + "." + value.text;
    }

    PlantDefinition& definition_;
    base::Diagnostics& diagnostics_;
};

}  // namespace

void write_out_assemblies(PlantDefinition& definition, base::Diagnostics& diagnostics) {
    if (!definition.assemblies.empty()) Writer(definition, diagnostics).run();
}

}  // namespace vyard::plant
