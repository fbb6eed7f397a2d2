#include "core/controller/link.hpp"

#include <array>

namespace vyard::controller {

const char* role_name(LinkRole role) {
    static constexpr std::array<const char*, 3> kNames = {"server", "client", "screen"};
    return base::at(kNames, static_cast<int>(role));
}

}  // namespace vyard::controller
