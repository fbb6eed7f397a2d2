#include "core/procedure/last_write.hpp"

#include <algorithm>
#include <vector>

namespace vyard::procedure {

namespace {

class WriteFinder {
  public:
    WriteFinder(const session::Session& before, const session::Signal& signal)
        : signal_(signal),
          program_(std::make_shared<logic::Program>(*base::at(before.model().controllers, signal.controller).program)),
          before_(before.with_code(signal.controller, program_)) {}

    std::optional<base::Place> find() {
        const std::uint64_t old = value(before_), now = value(stepped());
        if (old == now) return std::nullopt;
        // What an input, a force or a stimulus gave stands there before the first instruction.
        std::vector<std::uint32_t> firsts;
        for (std::uint32_t i = 0; i < program_->code.size(); i += 1 + logic::operand_slots(program_->code[i]))
            firsts.push_back(i);
        std::vector<std::uint32_t> written;
        std::optional<std::uint64_t> last;
        for (std::size_t i = 0; i < firsts.size(); ++i) {
            const auto here = arriving({firsts[i]}).second;
            if (i > 0 && last && here && *last != now && *here == now) written.push_back(firsts[i - 1]);
            last = here;
        }
        if (written.empty()) return std::nullopt;
        // Of these, each time the first that is reached is let pass.
        while (written.size() > 1) {
            const auto first = arriving(written).first;
            if (!first || std::erase(written, *first) == 0) break;
        }
        return statement_at(program_->place_of(written.front()));
    }

  private:
    /// Where the variable's name stands, rather than a sign within what is assigned to it.
    base::Place statement_at(const base::Place& place) const {
        if (signal_.spot.variable < 0) return place;
        const logic::Variable& v = base::at(program_->variables, signal_.spot.variable);
        if (v.uses == nullptr) return place;
        for (const logic::UseSite& use : *v.uses) {
            if (use.write && use.place.source == place.source && use.place.line == place.line) return use.place;
        }
        return place;
    }
    std::uint64_t value(const session::Session& s) const {
        return logic::read_bits(s.controller(signal_.controller).memory.data(), signal_.type, signal_.spot.offset,
                                signal_.spot.bit);
    }
    session::Session stepped() const {
        session::Session s = before_;
        s.step();
        return s;
    }
    /// The first of these instructions that the scan comes to, and the value then.
    std::pair<std::optional<std::uint32_t>, std::optional<std::uint64_t>> arriving(
        const std::vector<std::uint32_t>& at) {
        std::vector<logic::Instruction> kept;
        for (const std::uint32_t i : at) {
            kept.push_back(program_->code[i]);
            program_->code[i] = logic::Instruction(logic::Op::Halt, 0, 0, 0);
        }
        const session::Session s = stepped();
        for (std::size_t i = 0; i < at.size(); ++i) program_->code[at[i]] = kept[i];
        const auto& fault = s.controller(signal_.controller).fault;
        if (fault.execution.outcome != logic::Outcome::Halted) return {};
        return {fault.execution.instruction, value(s)};
    }

    const session::Signal& signal_;
    const std::shared_ptr<logic::Program> program_;
    const session::Session before_;
};

}  // namespace

std::optional<base::Place> last_write(const session::Session& before, const session::Signal& signal) {
    if (signal.of_plant() || logic::is_text(signal.type) || !before.controller(signal.controller).running)
        return std::nullopt;
    return WriteFinder(before, signal).find();
}

}  // namespace vyard::procedure
