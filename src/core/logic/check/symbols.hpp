// Names that are seen everywhere: types, program units, globals, by namespace.
#pragma once

#include "core/logic/check/model.hpp"

namespace vyard::logic {

enum class SymbolKind : std::uint8_t { Type, Unit, Global };

struct Symbol {
    SymbolKind kind = SymbolKind::Type;
    int number = -1;  ///< Type: of the declaration; Unit: of the block; Global: of the field.
};

class Symbols {
  public:
    /// False when the name is taken; `taken` is then what it names.
    bool add(const std::string& qualified, Symbol symbol, Symbol* taken = nullptr);
    /// A dotted name as seen from `context`: its own namespace first, those around it, then what is USEd.
    std::optional<Symbol> find(const std::string& dotted, const NameContext& context) const;
    /// Whether a namespace of this name is seen.
    bool is_namespace(const std::string& dotted, const NameContext& context) const;
    void add_namespace(const std::string& qualified);

  private:
    template <class F>
    bool each_candidate(const std::string& dotted, const NameContext& context, F&& try_name) const;

    std::unordered_map<std::string, Symbol> symbols_;  ///< Folded qualified name.
    std::unordered_map<std::string, bool> namespaces_;
};

inline std::string qualified(const std::string& space, const std::string& name) {
    return space.empty() ? name : space + "." + name;
}

}  // namespace vyard::logic
