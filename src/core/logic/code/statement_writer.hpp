// Code for the statements of one unit.
#pragma once

#include "core/logic/code/expression_writer.hpp"

namespace vyard::logic {

/// Where marks of coverage are listed. Their bytes stand together, so that a look at them is short.
struct CoverList {
    static constexpr std::uint32_t kTogether = 64;

    std::vector<CoverMark>& marks;
    std::vector<CoverLine>& lines;
    std::uint32_t begin = 0, used = kTogether;  ///< Of the bytes at `begin`.
};

class StatementWriter {
  public:
    /// `cover`: null for code without marks.
    StatementWriter(CodeWriter& writer, const Bases& bases, const CheckedLogic& logic, CallTable& calls,
                    CoverList* cover = nullptr)
        : writer_(writer), logic_(logic), expressions_(writer, bases, &logic, &calls), cover_(cover) {}

    /// A whole body; RETURN leads behind it.
    void unit(const StatementList& list, const std::string& name, Span span);

  private:
    void body(const StatementList& list);
    void branch(const StatementList& list, const std::string& what, Span span);
    /// The same behind a jump that writes the mark itself.
    void marked_branch(const StatementList& list, const std::string& what, Span span, std::uint32_t byte);
    void mark(const std::string& what, Span span);
    void add_mark(const std::string& what, Span span, std::uint32_t byte);
    /// Bytes of marks that stand next to one another.
    std::uint32_t reserve_marks(std::uint32_t bytes);
    void note_line(const Statement& s);
    void statement(const Statement& s);
    void drawing(const Statement& s);
    void jump_statement(const Statement& s);
    void if_statement(const Statement& s);
    void case_statement(const Statement& s);
    bool case_table(const Statement& s, std::uint32_t selector, Elementary type);
    std::uint32_t case_test(const CaseLabel& label, std::uint32_t selector, Elementary type);
    void for_statement(const Statement& s);
    void while_statement(const Statement& s);
    void repeat_statement(const Statement& s);
    void loop_body(const Statement& s);
    void end_loop();
    void loop_back(std::uint32_t top, Span span);
    std::uint32_t jump(Span span) { return writer_.emit(Op::Jump, 0, 0, 0, span); }

    struct Loop {
        std::vector<std::uint32_t> exits;
        std::vector<std::uint32_t> continues;
    };

    /// Of one drawing.
    struct Labels {
        std::map<std::string, std::uint32_t> places;
        std::vector<std::pair<std::string, std::uint32_t>> jumps;
    };

    CodeWriter& writer_;
    const CheckedLogic& logic_;
    ExpressionWriter expressions_;
    std::vector<Loop> loops_;
    std::vector<std::uint32_t> returns_;
    std::vector<Labels> labels_;
    CoverList* cover_;
    std::string unit_;
    int current_ = -1;  ///< The mark under which statements run.
    int network_ = 0;   ///< That the statement was drawn in, or what it stands in.
};

}  // namespace vyard::logic
