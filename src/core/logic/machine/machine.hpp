// Executes code over a memory block. No allocation, no look-up by name: one switch over fixed-size instructions. Cost
// per scan: linear in the instructions executed.
//
// Calls nest in the machine's own stack; the checker forbids recursion and bounds their depth.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <string>

#include "core/base/base.hpp"
#include "core/logic/machine/operations.hpp"

namespace vyard::logic {

enum class Outcome : std::uint8_t {
    Done,
    DivisionByZero,
    TooManyTurns,
    IndexOutOfRange,
    NullReference,
    OutOfSubrange,
    TooLong,
    Halted,  ///< By Op::Halt, which no program has.
};

struct Execution {
    static constexpr std::size_t kMaxCallers = 12;  ///< Of the call path; outer ones beyond that are left out.

    Outcome outcome = Outcome::Done;
    std::uint32_t instruction = 0;                     ///< Where it stopped, when not Done.
    std::array<std::uint32_t, kMaxCallers> callers{};  ///< The calls that led there, innermost first.
    std::uint32_t caller_count = 0;
    /// Of IndexOutOfRange and OutOfSubrange: the value (as far as 64 bits with a sign hold it) and what it may be.
    std::int64_t value = 0, low = 0, high = 0;
};

/// "division by zero", "the index 12 is outside its array, 0..9" ...
std::string outcome_text(const Execution& stopped);

/// What the machine runs; views into a program.
struct CodeView {
    const Instruction* code = nullptr;
    const std::uint32_t* dispatch = nullptr;  ///< Entry of method n of block b at [b * methods + n].
    std::uint32_t methods = 0;
    const std::uint64_t* tables = nullptr;  ///< Truth tables of six contacts.
};

/// What may end a scan besides its instructions. Live running hands in one that looks at a clock; unattended runs have
/// none, so that they are the same on every machine.
class ScanWatch {
  public:
    virtual ~ScanWatch() = default;
    /// A task begins, which may take `limit` of real time.
    virtual void begin(base::Nanoseconds limit) = 0;
    /// Asked about once in a millisecond of running, never by tasks shorter than that.
    virtual bool expired() = 0;
};

/// Runs from `entry` to End or the outermost Return. `now_ns` is the time that timers see; `budget` bounds the
/// instructions done in loops and calls; one that copies or searches many bytes counts as one more for every 8 of them
/// (a search for every 8 pairs that it may have to compare). `watch` may end it too. The code must come from this
/// library's generators: it is not checked again.
Execution execute(const CodeView& code, std::uint32_t entry, std::byte* memory, std::int64_t now_ns,
                  std::int64_t budget, ScanWatch* watch = nullptr);

}  // namespace vyard::logic
