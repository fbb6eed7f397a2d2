// Conditions on their own, names from a table; and texts that nobody would write, through the whole compiler.
#include <functional>
#include <map>
#include <random>

#include "core/support.hpp"

using namespace vyard;
using logic::Elementary;

namespace {

/// A set of conditions over named numbers.
class Conditions {
  public:
    explicit Conditions(const std::vector<std::string>& texts) {
        logic::ConditionCompiler compiler(
            [&](const std::string& name, const base::Place& place) -> std::optional<logic::Resolved> {
                static const std::map<std::string, std::pair<Elementary, int>> known = {{"a", {Elementary::Bool, 0}},
                                                                                        {"b", {Elementary::Bool, 1}},
                                                                                        {"n", {Elementary::Int, 2}},
                                                                                        {"x", {Elementary::Lreal, 3}},
                                                                                        {"t", {Elementary::Time, 4}}};
                const auto found = known.find(base::fold(name));
                if (found == known.end()) {
                    diagnostics.error(base::Code::UnknownName, place, "unknown " + name);
                    return std::nullopt;
                }
                return logic::Resolved{found->second.first, found->second.second};
            });
        for (const std::string& text : texts) {
            sources_.push_back(base::make_source("c", text));
            const auto tokens = logic::tokenize(sources_.back(), diagnostics);
            std::size_t at = 0;
            numbers.push_back(compiler.condition(sources_.back(), tokens, at, diagnostics));
        }
        set = compiler.finish();
        memory = set.initial_memory;
    }
    bool look(std::size_t i, const std::map<int, double>& values) {
        REQUIRE(numbers[i].has_value());
        const logic::Condition& c = base::at(set.conditions, *numbers[i]);
        for (const int n : c.names) {
            const logic::Gathered& g = base::at(set.gathered, n);
            logic::write_number(memory.data(), g.type, g.offset, -1, values.at(g.source));
        }
        logic::execute(set.view(), c.entry, memory.data(), 0, 0);
        return memory[c.result] != std::byte{0};
    }

    base::Diagnostics diagnostics;
    logic::ConditionSet set;
    std::vector<std::byte> memory;
    std::vector<std::optional<int>> numbers;

  private:
    std::vector<base::SourcePtr> sources_;
};

}  // namespace

TEST_CASE("conditions compute over gathered values") {
    Conditions c({"a and not b", "n > 5 or x < 0.5", "t >= T#2s", "n * 2 = 10", "a xor b"});
    REQUIRE_FALSE(c.diagnostics.has_errors());
    CHECK(c.look(0, {{0, 1}, {1, 0}}));
    CHECK_FALSE(c.look(0, {{0, 1}, {1, 1}}));
    CHECK(c.look(1, {{2, 6}, {3, 1.0}}));
    CHECK(c.look(1, {{2, 5}, {3, 0.4}}));
    CHECK_FALSE(c.look(1, {{2, 5}, {3, 0.6}}));
    CHECK(c.look(2, {{4, 2e9}}));
    CHECK_FALSE(c.look(2, {{4, 1.999e9}}));
    CHECK(c.look(3, {{2, 5}}));
    CHECK(c.look(4, {{0, 0}, {1, 1}}));
}

TEST_CASE("a name is gathered once however often it stands") {
    Conditions c({"a and A and n > 1 and n < 9", "a"});
    CHECK(c.set.gathered.size() == 2);
    CHECK(c.set.conditions[0].names.size() == 2);
    CHECK(c.set.conditions[0].text == "a and A and n > 1 and n < 9");
}

TEST_CASE("edges remember from look to look; the first look is none; each has its own memory") {
    Conditions c({"rises(a)", "falls(a) and rises(b)", "rises(n > 3)"});
    CHECK_FALSE(c.look(0, {{0, 1}}));
    CHECK_FALSE(c.look(0, {{0, 0}}));
    CHECK(c.look(0, {{0, 1}}));
    CHECK_FALSE(c.look(0, {{0, 1}}));
    CHECK_FALSE(c.look(1, {{0, 1}, {1, 0}}));
    CHECK(c.look(1, {{0, 0}, {1, 1}}));
    CHECK_FALSE(c.look(2, {{2, 3}}));
    CHECK(c.look(2, {{2, 4}}));
    CHECK(c.set.conditions[1].edges.size() == 2);
}

TEST_CASE("wrong conditions are reported and leave the others whole") {
    Conditions c({"a and", "n", "unknown_name", "a", "tm(IN := a)", "rises(n)"});
    CHECK(c.diagnostics.error_count() == 5);
    CHECK(c.numbers[3].has_value());
    CHECK(c.look(3, {{0, 1}}));
}

TEST_CASE("word soup neither crashes the compiler nor the machine") {
    static const char* kWords[] = {"IF",
                                   "THEN",
                                   "END_IF",
                                   "ELSE",
                                   "CASE",
                                   "OF",
                                   "END_CASE",
                                   "FOR",
                                   "TO",
                                   "BY",
                                   "DO",
                                   "END_FOR",
                                   "WHILE",
                                   "END_WHILE",
                                   "REPEAT",
                                   "UNTIL",
                                   "END_REPEAT",
                                   "a",
                                   "b",
                                   "c",
                                   "t",
                                   "t.Q",
                                   "t(IN := a)",
                                   ":=",
                                   "=",
                                   "+",
                                   "-",
                                   "*",
                                   "/",
                                   "MOD",
                                   "(",
                                   ")",
                                   ";",
                                   ";",
                                   ";",
                                   ",",
                                   ":",
                                   "..",
                                   "1",
                                   "0",
                                   "3.5",
                                   "T#1s",
                                   "TRUE",
                                   "NOT",
                                   "AND",
                                   "OR",
                                   "%IX0.0",
                                   "%QW4",
                                   "MAX(a, b)",
                                   "SEL(c, a, b)",
                                   "EXIT;",
                                   "RETURN;",
                                   "END_PROGRAM",
                                   "PROGRAM q",
                                   "VAR",
                                   "END_VAR",
                                   "x : INT;",
                                   "'s'",
                                   "16#FF",
                                   "INT#-3",
                                   "(* c *)",
                                   "[",
                                   "^"};
    std::mt19937 random(11);
    int compiled = 0;
    for (int round = 0; round < 3000; ++round) {
        std::string text = "PROGRAM p VAR a, b : INT; c : BOOL; t : TON; END_VAR\n";
        const int words = 1 + static_cast<int>(random() % 30);
        for (int w = 0; w < words; ++w) {
            text += kWords[random() % std::size(kWords)];
            text += ' ';
        }
        text += "\nEND_PROGRAM";
        base::Diagnostics diagnostics;
        const auto program = logic::compile({base::make_source("soup", text)}, diagnostics);
        CHECK((program == nullptr) == diagnostics.has_errors());
        diagnostics.render();
        if (program == nullptr) continue;
        ++compiled;
        std::vector<std::byte> memory = program->initial_memory;
        for (const logic::Task& task : program->tasks)
            logic::execute(program->view(), task.entry, memory.data(), 0, 1000);
    }
    CHECK(compiled > 5);
}

TEST_CASE("random statements that fit together run to their end under a budget") {
    std::mt19937 random(5);
    const auto pick = [&](std::initializer_list<const char*> from) {
        return std::string(*(from.begin() + random() % from.size()));
    };
    const std::function<std::string(int)> statement = [&](int depth) -> std::string {
        switch (depth == 0 ? random() % 2 : random() % 6) {
            case 0:
                return pick({"a", "b"}) +
                       " := " + pick({"a + 1;", "b * 2 - a;", "MAX(a, b);", "LIMIT(-9, a, 9);", "SEL(c, a, b);"});
            case 1: return "c := " + pick({"a > b;", "NOT c;", "c XOR (a = b);", "t.Q;"});
            case 2:
                return "IF " + pick({"c", "a < 3", "NOT t.Q"}) + " THEN " + statement(depth - 1) + " ELSE " +
                       statement(depth - 1) + " END_IF;";
            case 3:
                return "CASE a OF 0: " + statement(depth - 1) + " 1, 3..7: " + statement(depth - 1) + " ELSE " +
                       statement(depth - 1) + " END_CASE;";
            case 4:
                return fmt::format("FOR i{} := ", depth) + pick({"1 TO 5", "5 TO 1 BY -2", "0 TO 0"}) + " DO " +
                       statement(depth - 1) + " END_FOR;";
            default: return "t(IN := c, PT := T#20ms); " + statement(depth - 1);
        }
    };
    for (int round = 0; round < 300; ++round) {
        std::string text = "PROGRAM p VAR a, b, i1, i2, i3 : INT; c : BOOL; t : TON; END_VAR\n";
        for (int s = 0; s < 5; ++s) text += statement(3) + "\n";
        CAPTURE(text);
        test::Scanner scanner(text + "END_PROGRAM");
        for (int scan = 0; scan < 10; ++scan) scanner.scan();
        CHECK(scanner.state.running);
        CHECK(scanner.state.scans == 10);
    }
}
