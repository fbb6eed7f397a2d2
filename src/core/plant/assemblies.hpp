// Assemblies are written out before anything else: what follows knows devices only.
#pragma once

#include "core/plant/definition.hpp"

namespace vyard::plant {

constexpr int kMostNestedAssemblies = 8;
constexpr std::size_t kMostDevices = 20000;

/// Replaces each device whose kind is an assembly by the assembly's devices, named NAME.DEVICE.
void write_out_assemblies(PlantDefinition& definition, base::Diagnostics& diagnostics);

}  // namespace vyard::plant
