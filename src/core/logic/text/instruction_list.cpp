#include "core/logic/text/instruction_list.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>
#include <optional>

namespace vyard::logic {

namespace {

using base::Code;

/// How an operator joins the current result with its operand.
struct ListOperator {
    std::string_view name;
    const char* sign;
    bool negatable = false;
    bool chains = false;  ///< a op b op c needs no brackets.
};
constexpr auto kListOperators = std::to_array<ListOperator>({
    {"and", "AND", true, true},
    {"&", "AND", true, true},
    {"or", "OR", true, true},
    {"xor", "XOR", true, true},
    {"add", "+", false, true},
    {"sub", "-", false, false},
    {"mul", "*", false, true},
    {"div", "/", false, false},
    {"mod", "MOD", false, false},
    {"gt", ">", false, false},
    {"ge", ">=", false, false},
    {"eq", "=", false, false},
    {"ne", "<>", false, false},
    {"le", "<=", false, false},
    {"lt", "<", false, false},
});
/// Inputs of the standard's blocks, which call the block when they are written (table 70).
constexpr std::array<std::string_view, 8> kInputs = {"s1", "r1", "clk", "cu", "cd", "pv", "in", "pt"};

const ListOperator* find_operator(std::string_view name) {
    const auto found = std::find_if(kListOperators.begin(), kListOperators.end(),
                                    [&](const ListOperator& o) { return o.name == name; });
    return found == kListOperators.end() ? nullptr : &*found;
}

enum class Task { Load, Store, Set, Reset, Join, Invert, Close, Jump, Call, Return, Input, Function };

struct ListInstruction {
    Task task = Task::Load;
    const ListOperator* join = nullptr;
    bool negated = false, conditional = false, opens = false;
    bool argument_list = false;  ///< Call, Function: the operand is what stands in the brackets.
    std::string name;            ///< Function, Input: as written.
    std::string operand;
    std::string label;
    Span span, operand_span;
    bool used = true;  ///< Store and its like: the current result is used behind it.
};

/// The current result.
struct Result {
    std::string text;  ///< "" before the first LD.
    std::string sign;  ///< Of the operator outermost in it; "" for one piece, "NOT" for a negation.

    bool empty() const { return text.empty(); }
    /// Computed anew each time it is written.
    bool computed() const { return !sign.empty() || text.find('(') != std::string::npos; }
    std::string piece() const { return sign.empty() ? text : fmt::format("({})", text); }
};

Result negation(const Result& r) {
    if (r.sign == "NOT") return {r.text.substr(4), ""};
    return {fmt::format("NOT {}", r.piece()), "NOT"};
}

class ListReader {
  public:
    ListReader(const base::SourcePtr& list, base::Diagnostics& diagnostics)
        : list_(list), diagnostics_(diagnostics), tokens_(tokenize(list, diagnostics)) {}

    std::vector<ListInstruction> read() {
        while (tokens_[at_].kind != TokenKind::End) instruction();
        if (!label_.empty()) {
            ListInstruction last;  // a jump to the end
            last.task = Task::Jump;
            last.label = label_;
            last.span = tokens_[at_].span;
            out_.push_back(std::move(last));
        }
        return std::move(out_);
    }

  private:
    const Token& token(std::size_t at) const { return tokens_[std::min(at, tokens_.size() - 1)]; }
    bool symbol(std::size_t at, std::string_view s) const {
        return token(at).kind == TokenKind::Symbol && token(at).text == s;
    }
    void error(Span span, std::string message, std::string hint = {}) {
        diagnostics_.error(Code::Syntax, place_in(list_, span), std::move(message), std::move(hint));
    }

    std::size_t line_end(std::size_t at) const {
        std::size_t end = at;
        while (token(end).kind != TokenKind::End && token(end).span.line == token(at).span.line) ++end;
        return end;
    }
    /// Behind the bracket that closes the one at `at`, or the end.
    std::size_t behind(std::size_t at) const {
        int depth = 0;
        for (; token(at).kind != TokenKind::End; ++at) {
            if (symbol(at, "(")) ++depth;
            if (symbol(at, ")") && --depth == 0) return at + 1;
        }
        return at;
    }
    std::string slice(std::size_t first, std::size_t end) const {
        std::string out;
        for (std::size_t i = first; i < end; ++i) {
            const Token& t = token(i);
            const bool gap = i > first && (token(i - 1).span.line != t.span.line ||
                                           token(i - 1).text.data() + token(i - 1).text.size() != t.text.data());
            if (gap) out += ' ';
            out.append(t.text);
        }
        return out;
    }

    void instruction() {
        if (token(at_).kind == TokenKind::Identifier && symbol(at_ + 1, ":")) {
            if (!label_.empty()) error(token(at_).span, "a place of a list has one label");
            label_ = std::string(token(at_).text);
            at_ += 2;
            return;
        }
        if (symbol(at_, ";")) {
            ++at_;
            return;
        }
        ListInstruction i;
        i.span = token(at_).span;
        i.label = std::move(label_);
        label_.clear();
        const std::size_t end = line_end(at_);
        if (symbol(at_, ")")) {
            i.task = Task::Close;
            ++at_;
            out_.push_back(std::move(i));
            return;
        }
        if (token(at_).kind != TokenKind::Identifier && !symbol(at_, "&")) {
            error(i.span, fmt::format("expected an operator of a list, found '{}'", token(at_).text),
                  "known: LD, ST, S, R, AND, OR, XOR, NOT, ADD, SUB, MUL, DIV, MOD, GT, GE, EQ ...");
            at_ = end;
            return;
        }
        i.name = std::string(token(at_).text);
        operation(i);
        ++at_;
        operand(i, end);
    }

    void operation(ListInstruction& i) {
        std::string word = base::fold(i.name);
        const auto is = [&](std::string_view plain, bool conditional) {
            if (word == plain) return true;
            const bool negated = word == fmt::format("{}n", plain), when = word == fmt::format("{}c", plain);
            const bool unless = word == fmt::format("{}cn", plain);
            if (conditional ? !(when || unless) : !negated) return false;
            i.negated = negated || unless;
            i.conditional = conditional;
            return true;
        };
        const bool stored = symbol(at_ + 1, ".") || symbol(at_ + 1, ":=");
        if (stored) return;
        const ListOperator* join = find_operator(word);
        if (join == nullptr && word.ends_with('n')) {
            join = find_operator(word.substr(0, word.size() - 1));
            if (join != nullptr && !join->negatable) join = nullptr;
            i.negated = join != nullptr;
        }
        i.join = join;
        i.task = join != nullptr                                                    ? Task::Join
                 : is("ld", false)                                                  ? Task::Load
                 : is("st", false)                                                  ? Task::Store
                 : word == "s"                                                      ? Task::Set
                 : word == "r"                                                      ? Task::Reset
                 : word == "not"                                                    ? Task::Invert
                 : is("jmp", true)                                                  ? Task::Jump
                 : is("cal", true)                                                  ? Task::Call
                 : is("ret", true)                                                  ? Task::Return
                 : std::find(kInputs.begin(), kInputs.end(), word) != kInputs.end() ? Task::Input
                                                                                    : Task::Function;
    }

    void operand(ListInstruction& i, std::size_t end) {
        i.operand_span = token(at_).span;
        const bool bracket = symbol(at_, "(") && at_ < end;
        if (i.task == Task::Join && bracket) return deferred(i, end);
        const bool names_callee = i.task == Task::Call && at_ < end && symbol(at_ + 1, "(");
        if ((i.task == Task::Function && bracket) || names_callee) {
            const std::size_t open = names_callee ? at_ + 1 : at_;
            const std::size_t close = behind(open);
            if (!symbol(close - 1, ")")) error(token(open).span, "this bracket is never closed");
            i.argument_list = true;
            if (names_callee) i.name = std::string(token(at_).text);
            i.operand = slice(open + 1, std::max(close - 1, open + 1));
            at_ = close;
            out_.push_back(std::move(i));
            return;
        }
        // A bracket that closes one of an operator before may stand behind the operand.
        int depth = 0;
        std::size_t stop = at_;
        for (; stop < end; ++stop) {
            if (symbol(stop, "(") || symbol(stop, "[")) ++depth;
            if ((symbol(stop, ")") || symbol(stop, "]")) && --depth < 0) break;
            if (symbol(stop, ";") && depth == 0) break;
        }
        i.operand = slice(at_, stop);
        at_ = stop;
        if (i.task == Task::Call) i.name = i.operand;
        const bool none = i.task == Task::Invert || i.task == Task::Return;
        if (none != i.operand.empty() && i.task != Task::Function)
            error(i.span, none ? fmt::format("{} has no operand", i.name) : fmt::format("{} needs an operand", i.name));
        out_.push_back(std::move(i));
    }

    /// AND( ... ): what stands in the brackets is a list of its own.
    void deferred(ListInstruction& i, std::size_t end) {
        i.opens = true;
        ++at_;
        ListInstruction load;
        load.span = i.span;
        out_.push_back(std::move(i));
        // AND( a  is short for  AND(  LD a
        if (at_ >= end || symbol(at_, ")")) return;
        const std::string word = base::fold(token(at_).text);
        const bool operates = word == "ld" || word == "ldn";
        if (operates) return;
        load.task = Task::Load;
        operand(load, end);
    }

    const base::SourcePtr& list_;
    base::Diagnostics& diagnostics_;
    std::vector<Token> tokens_;
    std::size_t at_ = 0;
    std::string label_;
    std::vector<ListInstruction> out_;
};

class ListWriter {
  public:
    ListWriter(const base::SourcePtr& list, std::vector<ListInstruction> instructions, const std::string& unit_text,
               base::Diagnostics& diagnostics)
        : list_(list),
          diagnostics_(diagnostics),
          instructions_(std::move(instructions)),
          unit_text_(base::fold(unit_text)),
          comments_(comments_of(list)) {}

    ListReading run() {
        uses();
        blocks();
        for (std::size_t i = 0; i < instructions_.size(); ++i) {
            if (looped_ && begins_[i] >= 0) begin_block(i);
            one(instructions_[i]);
        }
        if (!open_.empty()) error(open_.back().span, "this bracket is never closed");
        if (looped_) {
            end_block();
            indent_ = 1;
            emit(0, "END_CASE;");
            indent_ = 0;
            emit(0, fmt::format("UNTIL {} = {}", place_, blocks_));
            emit(0, "END_REPEAT;");
        }
        while (next_comment_ < comments_.size()) emit(0, comment_text(next_comment_++));
        return std::move(out_);
    }

  private:
    struct Open {
        Result result;
        const ListOperator* join;
        bool negated;
        Span span;
    };

    void error(Span span, std::string message, std::string hint = {}) {
        diagnostics_.error(Code::Syntax, place_in(list_, span), std::move(message), std::move(hint));
    }

    /// Whether the current result behind an instruction is used, or loaded anew first.
    void uses() {
        for (std::size_t i = 0; i + 1 < instructions_.size(); ++i) {
            const ListInstruction& next = instructions_[i + 1];
            const bool plain = !next.conditional && (next.task == Task::Jump || next.task == Task::Return);
            instructions_[i].used = next.label.empty() && next.task != Task::Load && !plain;
        }
        if (!instructions_.empty()) instructions_.back().used = false;
    }

    // --- places that jumps go to ---

    void blocks() {
        begins_.assign(instructions_.size(), -1);
        const bool jumps = std::any_of(instructions_.begin(), instructions_.end(), [](const ListInstruction& i) {
            return i.task == Task::Jump && !i.operand.empty();
        });
        for (std::size_t i = 0; i < instructions_.size(); ++i) {
            const bool behind =
                i > 0 && instructions_[i - 1].task == Task::Jump && !instructions_[i - 1].operand.empty();
            if (i == 0 || behind || !instructions_[i].label.empty()) begins_[i] = blocks_++;
            const std::string label = base::fold(instructions_[i].label);
            if (label.empty()) continue;
            if (!labels_.emplace(label, begins_[i]).second)
                error(instructions_[i].span, fmt::format("the label '{}' stands twice", instructions_[i].label));
        }
        looped_ = jumps;
        if (!looped_) return;
        place_ = fresh("list_place", "INT");
        emit(0, fmt::format("{} := 0;", place_));
        emit(0, "REPEAT");
        indent_ = 1;
        emit(0, fmt::format("CASE {} OF", place_));
    }

    void begin_block(std::size_t i) {
        if (begins_[i] > 0) end_block();
        if (!open_.empty()) error(instructions_[i].span, "a jump or a label stands within brackets");
        const Span span = instructions_[i].span;
        block_ = begins_[i];
        indent_ = 1;
        emit(span.line, fmt::format("{}:", block_));
        indent_ = 2;
        if (!instructions_[i].label.empty()) result_ = {};
    }
    void end_block() {
        if (!left_) emit(0, fmt::format("{} := {};", place_, block_ + 1));
        left_ = false;
    }

    // --- statements ---

    void emit(int line, const std::string& text) {
        std::string row(static_cast<std::size_t>(indent_) * 4, ' ');
        row.append(text);
        while (line > 0 && next_comment_ < comments_.size() && comment_line(next_comment_) <= line)
            row = fmt::format("{}  {}", row, comment_text(next_comment_++));
        out_.statements.push_back({std::move(row), line});
    }
    int comment_line(std::size_t i) const {
        const std::string_view before = std::string_view(list_->text).substr(0, comments_[i].begin);
        return 1 + static_cast<int>(std::count(before.begin(), before.end(), '\n'));
    }
    std::string comment_text(std::size_t i) const {
        std::string text(comments_[i].of(*list_));
        std::replace(text.begin(), text.end(), '\n', ' ');
        if (text.starts_with("//")) text = fmt::format("(*{} *)", text.substr(2));
        return text;
    }

    std::string fresh(const std::string& wanted, const char* type) {
        std::string name = wanted;
        for (int i = 2; unit_text_.find(name) != std::string::npos; ++i) name = fmt::format("{}_{}", wanted, i);
        unit_text_ += " " + name;
        out_.declarations.push_back(fmt::format("{} : {}", name, type));
        return name;
    }

    /// The current result as a condition that stands still while what hangs on it is done.
    std::string condition(const ListInstruction& i) {
        if (i.used && (result_.computed() || result_.text == i.operand)) {
            if (value_.empty()) value_ = fresh("list_value", "BOOL");
            emit(i.span.line, fmt::format("{} := {};", value_, result_.text));
            result_ = {value_, ""};
        }
        return i.negated ? negation(result_).text : result_.text;
    }

    bool loaded(const ListInstruction& i) {
        if (!result_.empty()) return true;
        error(i.span, fmt::format("nothing was loaded before this {}", i.name), "begin with LD");
        result_ = {"FALSE", ""};
        return false;
    }

    void when(const ListInstruction& i, const std::string& done) {
        if (!i.conditional) return emit(i.span.line, done);
        loaded(i);
        const std::string under = condition(i);
        emit(i.span.line, fmt::format("IF {} THEN {} END_IF;", under, done));
    }

    void join(const ListOperator& join, bool negated, const Result& left, Result right) {
        if (negated) right = negation(right);
        const bool chain = join.chains && left.sign == join.sign;
        const std::string& first = left.sign == "NOT" || chain ? left.text : left.piece();
        const std::string second = right.sign == "NOT" ? right.text : right.piece();
        result_ = {fmt::format("{} {} {}", first, join.sign, second), join.sign};
    }

    void one(const ListInstruction& i) {
        switch (i.task) {
            case Task::Load:
                result_ = {i.operand, ""};
                if (i.negated) result_ = negation(result_);
                break;
            case Task::Join: {
                loaded(i);
                if (i.opens) {
                    open_.push_back({result_, i.join, i.negated, i.span});
                    result_ = {};
                } else {
                    join(*i.join, i.negated, result_, {i.operand, ""});
                }
                break;
            }
            case Task::Close: close(i); break;
            case Task::Invert:
                loaded(i);
                result_ = negation(result_);
                break;
            case Task::Store: {
                loaded(i);
                emit(i.span.line,
                     fmt::format("{} := {};", i.operand, i.negated ? negation(result_).text : result_.text));
                const Result kept{i.operand, ""};
                result_ = i.negated ? negation(kept) : kept;
                break;
            }
            case Task::Set:
            case Task::Reset: {
                loaded(i);
                const std::string under = condition(i);
                emit(i.span.line, fmt::format("IF {} THEN {} := {}; END_IF;", under, i.operand,
                                              i.task == Task::Set ? "TRUE" : "FALSE"));
                break;
            }
            case Task::Jump: jump(i); break;
            case Task::Return: when(i, "RETURN;"); break;
            case Task::Call: {
                when(i, fmt::format("{}({});", i.name, i.argument_list ? i.operand : ""));
                kept_over_call(i);
                break;
            }
            case Task::Input: {
                loaded(i);
                emit(i.span.line, fmt::format("{}({} := {});", i.operand, i.name, result_.text));
                kept_over_call(i);
                break;
            }
            case Task::Function: function(i); break;
        }
    }

    /// A block may change what the current result was computed from.
    void kept_over_call(const ListInstruction& i) {
        if (i.used && !i.conditional && result_.computed()) {
            error(i.span, "the current result is used behind this call, which may change what it was computed from",
                  "store it in a variable before the call, and load it again");
        }
    }

    void close(const ListInstruction& i) {
        if (open_.empty()) return error(i.span, "this bracket closes nothing");
        loaded(i);
        const Open open = std::move(open_.back());
        open_.pop_back();
        join(*open.join, open.negated, open.result, result_);
    }

    void jump(const ListInstruction& i) {
        if (i.operand.empty()) return;  // the end
        const auto found = labels_.find(base::fold(i.operand));
        if (found == labels_.end()) {
            std::vector<std::string> known;
            for (const auto& [label, block] : labels_) known.push_back(label);
            diagnostics_.error(Code::UnknownName, place_in(list_, i.operand_span),
                               fmt::format("no label '{}' in this list", i.operand), base::name_hint(i.operand, known));
            return;
        }
        if (i.conditional) {
            loaded(i);
            const std::string under = condition(i);
            emit(i.span.line, fmt::format("{} := {};", place_, block_ + 1));
            emit(i.span.line, fmt::format("IF {} THEN {} := {}; END_IF;", under, place_, found->second));
        } else {
            emit(i.span.line, fmt::format("{} := {};", place_, found->second));
        }
        left_ = true;
    }

    /// NAME b, c: the current result is the first argument. NAME(IN := a, ...): as written.
    void function(const ListInstruction& i) {
        if (i.argument_list) {
            result_ = {fmt::format("{}({})", i.name, i.operand), ""};
            return;
        }
        loaded(i);
        result_ = {fmt::format("{}({}{}{})", i.name, result_.text, i.operand.empty() ? "" : ", ", i.operand), ""};
    }

    const base::SourcePtr& list_;
    base::Diagnostics& diagnostics_;
    std::vector<ListInstruction> instructions_;
    std::string unit_text_;
    std::vector<Extent> comments_;
    std::size_t next_comment_ = 0;
    std::vector<int> begins_;  ///< By instruction: the block that begins there, or -1.
    std::map<std::string, int> labels_;
    int blocks_ = 0, block_ = 0, indent_ = 0;
    bool looped_ = false;  ///< The blocks stand in a loop, for jumps.
    bool left_ = false;    ///< The block has said where it goes on.
    std::string place_, value_;
    Result result_;
    std::vector<Open> open_;
    ListReading out_;
};

}  // namespace

ListReading read_instruction_list(const base::SourcePtr& list, const std::string& unit_text,
                                  base::Diagnostics& diagnostics) {
    const int before = diagnostics.error_count();
    std::vector<ListInstruction> instructions = ListReader(list, diagnostics).read();
    if (diagnostics.error_count() > before) return {};
    return ListWriter(list, std::move(instructions), unit_text, diagnostics).run();
}

}  // namespace vyard::logic
