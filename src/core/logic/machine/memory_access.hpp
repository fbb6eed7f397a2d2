// Loads and stores of the machine. Internal to this room.
#pragma once

#include <cstddef>
#include <cstring>

namespace vyard::logic {

template <class T>
T load(const std::byte* at) {
    T value;
    std::memcpy(&value, at, sizeof value);
    return value;
}

template <class T>
void store(std::byte* at, T value) {
    std::memcpy(at, &value, sizeof value);
}

inline bool flag(const std::byte* at) {
    return *at != std::byte{0};
}
inline void set_flag(std::byte* at, bool value) {
    *at = value ? std::byte{1} : std::byte{0};
}

}  // namespace vyard::logic
