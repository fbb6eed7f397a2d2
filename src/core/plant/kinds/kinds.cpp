#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

const std::vector<Kind>& all_kinds() {
    static const std::vector<Kind> kinds = {
#define VYARD_KIND(name) name##_kind(),
        VYARD_KINDS(VYARD_KIND)
#undef VYARD_KIND
    };
    return kinds;
}

const Kind* find_kind(std::string_view name) {
    for (const Kind& kind : all_kinds()) {
        if (kind.name == name) return &kind;
    }
    return nullptr;
}

}  // namespace vyard::plant
