#include "core/logic/conditions.hpp"

#include <algorithm>

#include "core/logic/check/expression_checker.hpp"
#include "core/logic/code/expression_writer.hpp"
#include "core/logic/text/parser.hpp"

namespace vyard::logic {

struct ConditionCompiler::Work {
    explicit Work(Resolver r) : resolver(std::move(r)) {}
    Resolver resolver;
    Bases bases;  // all zero: bindings are absolute
    CodeWriter writer{0};
    std::vector<Gathered> gathered;
    std::vector<Condition> conditions;
};

namespace {

constexpr int kMostText = 254;  ///< Characters of a text that a condition looks at.

class ConditionScope final : public Scope {
  public:
    ConditionScope(const Resolver& resolver, CodeWriter& writer, std::vector<Gathered>& gathered, Condition& condition,
                   const base::SourcePtr& source)
        : resolver_(resolver), writer_(writer), gathered_(gathered), condition_(condition), source_(source) {}

    bool knows(const std::string&) const override { return true; }
    bool dotted_names() const override { return true; }

    std::optional<Found> find(const std::string& name, Span span, Use) override {
        const auto resolved = resolver_(name, place_in(source_, span));
        if (!resolved) return std::nullopt;
        auto known = std::find_if(gathered_.begin(), gathered_.end(),
                                  [&](const Gathered& g) { return g.source == resolved->source; });
        if (known == gathered_.end()) {
            const std::uint32_t at =
                is_text(resolved->type) ? writer_.keep_text(resolved->type, kMostText) : writer_.keep(8);
            gathered_.push_back({name, resolved->type, at, resolved->source});
            known = gathered_.end() - 1;
        }
        const int index = static_cast<int>(known - gathered_.begin());
        if (std::find(condition_.names.begin(), condition_.names.end(), index) == condition_.names.end())
            condition_.names.push_back(index);
        const int index_of_type = is_text(resolved->type) ? kMostText : -1;
        return Found{{Space::Globals, known->offset, -1, false},
                     {resolved->type, index_of_type},
                     false,
                     "a condition only looks",
                     nullptr,
                     resolved->dimension};
    }

    std::optional<Binding> edge_memory() override {
        const std::uint32_t at = writer_.keep(1);
        condition_.edges.push_back(at);
        return Binding{Space::Globals, at, -1, false};
    }

  private:
    const Resolver& resolver_;
    CodeWriter& writer_;
    std::vector<Gathered>& gathered_;
    Condition& condition_;
    const base::SourcePtr& source_;
};

}  // namespace

ConditionCompiler::ConditionCompiler(Resolver resolver) : work_(std::make_unique<Work>(std::move(resolver))) {}
ConditionCompiler::~ConditionCompiler() = default;

std::optional<int> ConditionCompiler::compile(const base::SourcePtr& source, const std::vector<Token>& tokens,
                                              std::size_t& at, base::Diagnostics& diagnostics) {
    const std::size_t first = at;
    ExpressionPtr e = parse_expression(source, tokens, at, diagnostics, true);
    if (!e) return std::nullopt;
    Condition condition;
    const Token& begin = tokens[first];
    const Token& last = tokens[at > first ? at - 1 : first];
    const auto start = static_cast<std::size_t>(begin.text.data() - source->text.data());
    const auto end = static_cast<std::size_t>(last.text.data() - source->text.data()) + last.text.size();
    condition.text = source->text.substr(start, end - start);
    const bool one_line = begin.span.line == last.span.line;
    condition.place = place_in(
        source, {begin.span.line, begin.span.column, one_line ? static_cast<int>(end - start) : begin.span.length});
    ConditionScope scope(work_->resolver, work_->writer, work_->gathered, condition, source);
    if (!ExpressionChecker(source, scope, diagnostics).check(e, Elementary::Bool, "a condition")) return std::nullopt;
    ExpressionWriter writer(work_->writer, work_->bases);
    condition.entry = work_->writer.here();
    condition.result = work_->writer.keep(1);
    work_->writer.release_temporaries();
    writer.into(*e, condition.result);
    work_->writer.emit(Op::End, 0, 0, 0, e->span);
    work_->conditions.push_back(std::move(condition));
    return static_cast<int>(work_->conditions.size()) - 1;
}

std::optional<int> ConditionCompiler::condition(const base::SourcePtr& source, const std::vector<Token>& tokens,
                                                std::size_t& at, base::Diagnostics& diagnostics) {
    const std::size_t first = at;
    const auto number = compile(source, tokens, at, diagnostics);
    if (number && base::at(work_->conditions, *number).edges.empty()) compile_parts(*number, source, tokens, first, at);
    return number;
}

/// AND binds closer than OR and XOR, so there are parts only where neither stands outside of parentheses.
void ConditionCompiler::compile_parts(int whole, const base::SourcePtr& source, const std::vector<Token>& tokens,
                                      std::size_t first, std::size_t last) {
    std::vector<std::size_t> begins = {first};
    int open = 0;
    for (std::size_t i = first; i < last; ++i) {
        const Token& t = tokens[i];
        const std::string word = base::fold(t.text);
        if (t.kind == TokenKind::Symbol && (t.text == "(" || t.text == "[")) ++open;
        if (t.kind == TokenKind::Symbol && (t.text == ")" || t.text == "]")) --open;
        if (open > 0) continue;
        if (t.kind == TokenKind::Identifier && (word == "or" || word == "xor")) return;
        if ((t.kind == TokenKind::Identifier && word == "and") || (t.kind == TokenKind::Symbol && t.text == "&"))
            begins.push_back(i + 1);
    }
    if (begins.size() < 2) return;
    base::Diagnostics ignored;
    std::vector<int> parts;
    for (std::size_t i = 0; i < begins.size(); ++i) {
        const std::size_t end = i + 1 < begins.size() ? begins[i + 1] - 1 : last;
        std::vector<Token> part(tokens.begin() + static_cast<std::ptrdiff_t>(begins[i]),
                                tokens.begin() + static_cast<std::ptrdiff_t>(end));
        part.push_back(tokens.back());
        std::size_t at = 0;
        if (const auto number = compile(source, part, at, ignored)) parts.push_back(*number);
    }
    if (parts.size() == begins.size()) base::at(work_->conditions, whole).parts = std::move(parts);
}

ConditionSet ConditionCompiler::finish() {
    ConditionSet set;
    set.code = std::move(work_->writer.code);
    set.tables = std::move(work_->writer.tables);
    work_->writer.fill(set.initial_memory);
    set.gathered = std::move(work_->gathered);
    set.conditions = std::move(work_->conditions);
    return set;
}

}  // namespace vyard::logic
