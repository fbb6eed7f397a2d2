// One network becomes statements.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <unordered_map>

#include "core/logic/text/syntax.hpp"

namespace vyard::logic {

/// What the boxes of a drawing may stand for, by folded name.
struct BoxTypes {
    std::set<std::string> blocks;
    std::unordered_map<std::string, const ProgramUnit*> functions;  ///< Those that the files declare.
};

/// What the networks of one unit share.
struct LoweringPlace {
    ProgramUnit& unit;
    const BoxTypes& types;
    base::Diagnostics& diagnostics;
    std::map<std::string, int> variables{};  ///< Generated so far, by what they are for.

    void error(Span span, base::Code code, std::string message, std::string hint = {}) const {
        diagnostics.error(code, place_in(unit.source, span), std::move(message), std::move(hint));
    }
};

class NetworkLowering {
  public:
    NetworkLowering(LoweringPlace& place, DrawnForm form, const Network& network)
        : place_(place), form_(form), network_(network), boxes_(network.elements.size()), nets_(network.nets.size()) {}

    StatementList run();
    /// What the network shows, once it was run().
    std::vector<Probe> probes() { return std::move(probes_); }

  private:
    enum class Progress : std::uint8_t { Open, Busy, Done };
    struct BoxState {
        Progress progress = Progress::Open;
        bool bad = false;                    ///< Reported: it is not called, and what it gives has no type.
        std::string kept;                    ///< The variable that holds a function's result.
        ExpressionPtr enabled;               ///< What its ENO shows; null for TRUE.
        std::map<int, std::string> outputs;  ///< Variables of VAR_OUTPUTs of a function, by pin.
    };
    struct NetState {
        bool busy = false;
        std::string kept;
    };

    const DrawnElement& element(int number) const { return base::at(network_.elements, number); }
    const DrawnPin& pin(const NetEnd& end) const { return base::at(element(end.element).pins, end.pin); }
    const DrawnNet& net(int number) const { return base::at(network_.nets, number); }

    void probe(int element, int pin, ExpressionPtr value, bool bare = false);
    void error(Span span, base::Code code, std::string message, std::string hint = {}) const {
        place_.error(span, code, std::move(message), std::move(hint));
    }
    ExpressionPtr parse(const DrawnText& text);
    /// Something that can be written.
    ExpressionPtr parse_place(const DrawnText& text, const char* what);
    /// A variable of the unit that nobody wrote; names of those that keep something from scan to scan say what it is
    /// for, so that a change of logic elsewhere does not give it another's memory.
    std::string variable(const std::string& what, const std::string& type, Span span, ExpressionPtr like = nullptr);
    ExpressionPtr edge(ExpressionPtr clock, bool rising, Span span, const std::string& of);
    void assign(ExpressionPtr target, ExpressionPtr value, bool coil = false);
    void note_written();
    bool written(const Expression& e) const;
    bool stable(const Expression& e) const;

    int uses(int net) const;
    ExpressionPtr net_value(int net, Span span, bool keep = true);
    bool keeps_line(const DrawnElement& coil) const;
    ExpressionPtr compute_net(const DrawnNet& net, Span span);
    ExpressionPtr source_value(const NetEnd& from, Span span);
    ExpressionPtr contact(int number);
    std::optional<int> line_named(const DrawnElement& enter);

    void take(int number);
    void coil(const DrawnElement& e);
    void jump(const DrawnElement& e);
    void target(int number);

    // --- boxes ---
    bool is_block(const DrawnElement& e) const { return !e.name.empty(); }
    bool has_result(const DrawnPin& p, const DrawnElement& e) const;
    bool inlined(int number) const;
    bool reads_written(int number);
    const DrawnPin* enable_pin(const DrawnElement& e) const;
    bool check_box(int number);
    bool check_pins(const DrawnElement& e);
    bool check_function_pin(const DrawnElement& e, const DrawnPin& p, const ProgramUnit* unit);
    const ProgramUnit* declared(const DrawnElement& e) const;
    ExpressionPtr enabled(const DrawnElement& e);
    ExpressionPtr kept_enable(const DrawnElement& e, ExpressionPtr value);
    int function_outputs(int number, std::vector<Argument>& arguments);
    StatementList function_writes(int number, int result, ExpressionPtr call, bool enabled);
    std::vector<Argument> inputs(int number);
    ExpressionPtr input(const DrawnElement& e, const DrawnPin& p);
    ExpressionPtr function_call(int number, std::vector<Argument> arguments);
    void emit_box(int number);
    void emit_block(int number);
    void emit_function(int number);
    std::vector<NetEnd> takers(int net) const;
    ExpressionPtr result_type(const Expression& call, int net);
    void write_targets(int number, int pin_number, StatementList& to);
    ExpressionPtr output_value(const NetEnd& from, Span span);
    bool looks_back(int number) const;
    ExpressionPtr last_value(const NetEnd& from, Span span);
    ExpressionPtr loop_type(int number, std::set<int>& asked);
    ExpressionPtr type_of(const NetEnd& from, std::set<int>& asked);

    LoweringPlace& place_;
    DrawnForm form_;
    const Network& network_;
    std::vector<BoxState> boxes_;
    std::vector<NetState> nets_;
    std::set<int> taken_;                 ///< Targets already written.
    std::multiset<std::string> written_;  ///< Names, as often as something writes them.
    std::vector<int> emitting_;
    StatementList out_, jumps_;
    std::vector<Probe> probes_;
    std::set<std::pair<int, int>> probed_;
    bool loop_reported_ = false;
};

}  // namespace vyard::logic
