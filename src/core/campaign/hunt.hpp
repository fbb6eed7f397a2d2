// The campaign "hunt": a search for sequences of what operators and plants do (presses at odd moments, double presses,
// other modes in mid-cycle, items taken away, on demand faults) that break a rule, a mishap or the liveness of the
// machine. Sequences that bring the machine into states that no other has brought it to are kept, and go on from there.
#pragma once

#include <map>

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

/// One thing that is done, so long after the one before.
struct Act {
    base::Nanoseconds wait{};
    std::string order;

    bool operator==(const Act&) const = default;
};
using Sequence = std::vector<Act>;

struct HuntPlan {
    std::uint64_t seed = 1;
    std::size_t sequences = 3000;  ///< That are tried, besides those of the corpus.
    bool faults = false;           ///< Faults of devices and wires are among what is done.
    std::vector<Sequence> corpus;  ///< Of earlier hunts, tried first; what is no order any more is left out.
};
// A part of a hunt (Setup::shard) is a hunt of its own, with its share of the sequences and a seed of its own: it does
// not know what the others met.

struct HuntOutcome {
    std::vector<RunRow> rows;            ///< Of the sequences that saw something, by number; of parts all differ.
    std::map<std::string, Sequence> of;  ///< The first sequence of each key.
    std::vector<Sequence> corpus;        ///< Those that came to new states.
    std::size_t sequences = 0;           ///< That were tried.
    std::size_t states = 0;              ///< Different ones that were met: outputs, states and steps of the logic.
    std::vector<std::string> remarks;
};

/// The same for a seed, a corpus and a yard, whatever the number of threads.
HuntOutcome hunt(const Setup& setup, const HuntPlan& plan);

/// A sequence from power-up on, told up to the first sight of a key.
Story story_of(const Setup& setup, const Sequence& sequence, const std::string& key);

/// "200000 us press panel.start for 200 ms; ..." and back; null for what is none.
std::string sequence_text(const Sequence& sequence);
std::optional<Sequence> read_sequence(std::string_view text);

}  // namespace vyard::campaign
