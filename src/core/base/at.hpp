// Dense numbers into lists: ids are small signed numbers, lists count in std::size_t.
#pragma once

#include <cstddef>

namespace vyard::base {

/// The element of a list at a number (or enumerator) that is known to lie in it.
template <class List, class Number>
constexpr decltype(auto) at(List& list, Number number) {
    return list[static_cast<std::size_t>(number)];
}

}  // namespace vyard::base
