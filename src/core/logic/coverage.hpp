// What of a program was exercised. Bodies and branches write a mark of their own when they begin, in a program that was
// compiled for it; what values variables and contacts had is looked at after scans. Both are bits of memory that were
// ever 1 or ever 0, so a look costs two passes over the memory, and a program compiled without marks costs nothing.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

#include "core/logic/program.hpp"

namespace vyard::logic {

class Coverage {
  public:
    explicit Coverage(const Program& program);

    /// The memory of a controller of this program, after a scan.
    void look(const std::vector<std::byte>& memory);

    /// Whether a body or branch of Program::marks began.
    bool ran(const CoverMark& mark) const { return one(mark.offset, 0); }
    bool ever_true(const Variable& v) const { return one(v.offset, v.bit < 0 ? 0 : v.bit); }
    bool ever_false(const Variable& v) const { return zero(v.offset, v.bit < 0 ? 0 : v.bit); }
    /// Whether any of its bits was seen both ways.
    bool moved(const Variable& v) const;

    struct Contact {
        std::string name;
        int network = 0;
        base::Place place;
        bool closed = false, open = false;  ///< Power could pass, could not.
        bool known = false;                 ///< Comparisons and elements with an index are not followed.
    };
    /// The contacts of a unit's drawings, of all its instances together.
    std::vector<Contact> contacts(const std::string& unit) const;

    struct Transition {
        std::string name;  ///< "from A to B"
        base::Place place;
        bool fired = false;
    };
    /// The transitions of a unit's chart, of all its instances together.
    std::vector<Transition> transitions(const std::string& unit) const;

  private:
    /// Bits that were ever 1 and ever 0, of 8 bytes of memory.
    struct Word {
        std::uint64_t ones = 0, zeros = 0;
    };
    /// Words of memory from one to before another.
    struct Words {
        std::size_t from = 0, to = 0;
    };

    static bool bit_of(std::uint64_t word, std::uint32_t byte, int bit);
    bool one(std::uint32_t byte, int bit) const { return bit_of(words_[byte / 8].ones, byte, bit); }
    bool zero(std::uint32_t byte, int bit) const { return bit_of(words_[byte / 8].zeros, byte, bit); }

    const Program* program_;
    std::vector<Word> words_;
    std::vector<Words> looked_at_;  ///< Variables, and marks; the rest is scratch and constants.
};

}  // namespace vyard::logic
