// CHECK(condition): our own bug, never the user's mistake. On in every build; stops the program at once with the
// place, because going on with a broken invariant would show an engineer a machine that does not exist.
#pragma once

#include <cstdio>
#include <cstdlib>

namespace vyard::base {

[[noreturn]] inline void check_failed(const char* condition, const char* file, int line) {
    std::fprintf(stderr, "vyard: internal error: %s does not hold at %s:%d\n", condition, file, line);
    std::abort();
}

}  // namespace vyard::base

#define VYARD_CHECK(condition) \
    ((condition) ? static_cast<void>(0) : ::vyard::base::check_failed(#condition, __FILE__, __LINE__))
