// Conditions of procedures and rules: expressions over names that live anywhere (tags, points, actuals). The names a
// condition needs are gathered into a small memory of its own, then the machine computes it there; so conditions run
// as fast as logic, and looking never touches what is looked at.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/logic/program.hpp"

namespace vyard::logic {

/// A name used by conditions, and where its value goes before they are computed.
struct Gathered {
    std::string name;  ///< As first written.
    Elementary type = Elementary::Bool;
    std::uint32_t offset = 0;
    int source = -1;  ///< What the resolver gave: where the value comes from.
};

struct Condition {
    std::uint32_t entry = 0;
    std::uint32_t result = 0;          ///< One byte.
    std::vector<int> names;            ///< Indices of the set's gathered names, in order of appearance.
    std::vector<std::uint32_t> edges;  ///< Bytes that RISES and FALLS remember in.
    base::Place place;                 ///< The whole condition.
    std::string text;                  ///< As written.
    /// What stands between its outermost ANDs, as conditions of their own, so that it can be said which of them does
    /// not hold. Empty for a single one, and where edges are looked for, which only the whole can see.
    std::vector<int> parts;
};

/// What a name stands for.
struct Resolved {
    Elementary type;                             ///< A number or a text.
    int source;                                  ///< Handed back in Gathered; equal numbers are one value.
    std::optional<base::Dimension> dimension{};  ///< Of a quantity; Plain where no unit is known.
};
/// Finds a name or reports why not.
using Resolver = std::function<std::optional<Resolved>(const std::string& name, const base::Place& place)>;

/// All conditions of a procedure. Copyable model; its memory is the state that computing them changes.
struct ConditionSet {
    std::vector<Instruction> code;
    std::vector<std::uint64_t> tables;
    std::vector<Gathered> gathered;
    std::vector<Condition> conditions;
    std::vector<std::byte> initial_memory;
    CodeView view() const { return {code.data(), nullptr, 0, tables.data()}; }
};

class ConditionCompiler {
  public:
    explicit ConditionCompiler(Resolver resolver);
    ~ConditionCompiler();
    ConditionCompiler(const ConditionCompiler&) = delete;
    ConditionCompiler& operator=(const ConditionCompiler&) = delete;

    /// Compiles a BOOL expression from tokens[at...]; its number in the set, or null after a report.
    std::optional<int> condition(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t& at,
                                 base::Diagnostics& diagnostics);

    ConditionSet finish();

  private:
    std::optional<int> compile(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t& at,
                               base::Diagnostics& diagnostics);
    void compile_parts(int whole, const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t first,
                       std::size_t last);
    struct Work;
    std::unique_ptr<Work> work_;
};

}  // namespace vyard::logic
