// A vector that is empty nearly all the time.
#pragma once

#include <vector>

namespace vyard::base {

/// Copying an empty one over an empty one costs a comparison; states of a run hold several, and are copied often.
template <class T>
class Rare : public std::vector<T> {
  public:
    using std::vector<T>::vector;
    Rare(const Rare&) = default;
    Rare(Rare&&) noexcept = default;
    Rare& operator=(const Rare& other) {
        if (!this->empty() || !other.empty()) std::vector<T>::operator=(other);
        return *this;
    }
    Rare& operator=(Rare&&) noexcept = default;
    ~Rare() = default;
};

}  // namespace vyard::base
