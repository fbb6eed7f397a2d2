#include <cmath>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <functional>
#include <random>
#include <sstream>

#include "core/support.hpp"

using namespace vyard;
using base::Nanoseconds;

// --- golden programs: folders of data, one runner ---

// --- the machine against a plain oracle: a tree walker in C++ types ---

namespace {

/// Evaluates an expression tree of one integer type with wrapping arithmetic.
template <class T>
T walk(const logic::Expression& e, const std::vector<T>& variables) {
    using logic::Operator;
    using U = std::make_unsigned_t<std::conditional_t<sizeof(T) < 4, std::int32_t, T>>;
    if (e.kind == logic::ExpressionKind::Literal)
        return static_cast<T>(e.negative ? -static_cast<std::int64_t>(e.integer)
                                         : static_cast<std::int64_t>(e.integer));
    if (e.kind == logic::ExpressionKind::Name) return base::at(variables, e.name[0] - 'a');
    const T left = walk(*e.operands[0], variables);
    if (e.op == Operator::Negate) return static_cast<T>(U{0} - static_cast<U>(left));
    const T right = walk(*e.operands[1], variables);
    switch (e.op) {
        case Operator::Add: return static_cast<T>(static_cast<U>(left) + static_cast<U>(right));
        case Operator::Subtract: return static_cast<T>(static_cast<U>(left) - static_cast<U>(right));
        case Operator::Multiply: return static_cast<T>(static_cast<U>(left) * static_cast<U>(right));
        default: FAIL("operator"); return 0;
    }
}

class RandomText {
  public:
    explicit RandomText(std::uint32_t seed) : random_(seed) {}
    std::uint32_t below(std::uint32_t n) { return static_cast<std::uint32_t>(random_() % n); }
    std::string arithmetic(int depth) {
        if (depth == 0 || below(4) == 0)
            return below(3) == 0 ? std::to_string(below(100)) : std::string(1, static_cast<char>('a' + below(4)));
        static constexpr const char* kOperators[] = {" + ", " - ", " * "};
        const std::string inner = arithmetic(depth - 1);
        if (below(6) == 0 && inner[0] > '9') return "-(" + inner + ")";
        return "(" + arithmetic(depth - 1) + kOperators[below(3)] + arithmetic(depth - 1) + ")";
    }
    /// A Boolean expression over four variables and its value as C++ sees it.
    std::pair<std::string, bool> boolean(int depth, const bool (&v)[4]) {
        if (depth == 0 || below(5) == 0) {
            const std::uint32_t i = below(4);
            return {std::string(1, static_cast<char>('a' + i)), v[i]};
        }
        if (below(4) == 0) {
            const auto [text, value] = boolean(depth - 1, v);
            return {"NOT " + (text.size() > 1 ? "(" + text + ")" : text), !value};
        }
        const auto [left, x] = boolean(depth - 1, v);
        const auto [right, y] = boolean(depth - 1, v);
        switch (below(3)) {
            case 0: return {"(" + left + " AND " + right + ")", x && y};
            case 1: return {"(" + left + " OR " + right + ")", x || y};
            default: return {"(" + left + " XOR " + right + ")", x != y};
        }
    }

  private:
    std::mt19937 random_;
};

template <class T>
void compare_arithmetic(const std::string& type, std::uint32_t seed) {
    RandomText random(seed);
    for (int round = 0; round < 150; ++round) {
        const std::string text = random.arithmetic(4);
        CAPTURE(text);
        CAPTURE(type);
        const std::string program =
            fmt::format("PROGRAM p VAR a, b, c, d, out : {}; END_VAR out := {}; END_PROGRAM", type, text);
        test::Scanner scanner(program);
        std::vector<T> values;
        for (const char* name : {"p.a", "p.b", "p.c", "p.d"}) {
            const auto value = static_cast<T>(random.below(0xFFFFFFFFU));
            values.push_back(value);
            std::memcpy(scanner.state.memory.data() + scanner.variable(name).offset, &value, sizeof value);
        }
        scanner.scan();
        base::Diagnostics diagnostics;
        const auto source = base::make_source("t", text);
        const auto tokens = logic::tokenize(source, diagnostics);
        std::size_t at = 0;
        const auto tree = logic::parse_expression(source, tokens, at, diagnostics);
        T out;
        std::memcpy(&out, scanner.state.memory.data() + scanner.variable("p.out").offset, sizeof out);
        CHECK(out == walk<T>(*tree, values));
    }
}

}  // namespace

TEST_CASE("integer arithmetic equals a tree walker's, for every type") {
    compare_arithmetic<std::int8_t>("SINT", 1);
    compare_arithmetic<std::int16_t>("INT", 2);
    compare_arithmetic<std::int32_t>("DINT", 3);
    compare_arithmetic<std::int64_t>("LINT", 4);
    compare_arithmetic<std::uint8_t>("USINT", 5);
    compare_arithmetic<std::uint16_t>("UINT", 6);
    compare_arithmetic<std::uint32_t>("UDINT", 7);
    compare_arithmetic<std::uint64_t>("ULINT", 8);
}

TEST_CASE("Boolean logic equals C++'s, with variables as bytes and as bits") {
    RandomText random(9);
    for (int round = 0; round < 300; ++round) {
        bool v[4];
        for (bool& b : v) b = random.below(2) == 1;
        const auto [text, value] = random.boolean(5, v);
        CAPTURE(text);
        test::Scanner scanner(
            "VAR_GLOBAL a AT %IX0.3 : BOOL; b AT %MX1.7 : BOOL; q AT %QX0.5 : BOOL; END_VAR PROGRAM p VAR c, d, out : "
            "BOOL; END_VAR out := " +
            text + "; q := out; END_PROGRAM");
        scanner.set("a", v[0]);
        scanner.set("b", v[1]);
        scanner.set("p.c", v[2]);
        scanner.set("p.d", v[3]);
        scanner.scan();
        CHECK(scanner.get("p.out") == (value ? 1.0 : 0.0));
        CHECK(scanner.get("q") == (value ? 1.0 : 0.0));
    }
}

TEST_CASE("comparisons of every type") {
    struct Row {
        const char* type;
        double low, high;
    };
    for (const Row& row :
         {Row{"SINT", -5, 7}, Row{"INT", -300, 300}, Row{"DINT", -70000, 70000}, Row{"LINT", -5e9, 5e9},
          Row{"USINT", 3, 200}, Row{"UINT", 3, 60000}, Row{"UDINT", 3, 4e9}, Row{"ULINT", 3, 5e9},
          Row{"REAL", -1.5, 2.5}, Row{"LREAL", -1e300, 1e300}, Row{"TIME", -5e9, 5e9}, Row{"WORD", 1, 65535}}) {
        CAPTURE(row.type);
        test::Scanner s(
            fmt::format("PROGRAM p VAR a, b : {}; lt, le, gt, ge, eq, ne : BOOL; END_VAR lt := a < b; le := a <= b; gt "
                        ":= a > b; ge := a >= b; eq := a = b; ne := a <> b; END_PROGRAM",
                        row.type));
        const auto expect = [&](double a, double b) {
            s.set("p.a", a);
            s.set("p.b", b);
            s.scan();
            CHECK(s.get("p.lt") == (a < b));
            CHECK(s.get("p.le") == (a <= b));
            CHECK(s.get("p.gt") == (a > b));
            CHECK(s.get("p.ge") == (a >= b));
            CHECK(s.get("p.eq") == (a == b));
            CHECK(s.get("p.ne") == (a != b));
        };
        expect(row.low, row.high);
        expect(row.high, row.low);
        expect(row.low, row.low);
    }
}

TEST_CASE("conversions between all number types keep what fits, saturate reals, wrap integers") {
    const std::vector<std::string> types = {"SINT", "INT",   "DINT",  "LINT", "USINT",
                                            "UINT", "UDINT", "ULINT", "REAL", "LREAL"};
    for (const std::string& from : types) {
        for (const std::string& to : types) {
            if (from == to) continue;
            CAPTURE(from);
            CAPTURE(to);
            test::Scanner s(
                fmt::format("PROGRAM p VAR a : {0}; b : {1}; END_VAR b := {0}_TO_{1}(a); END_PROGRAM", from, to));
            s.set("p.a", 100);
            s.scan();
            CHECK(s.get("p.b") == 100);
            if (from == "LREAL" && to != "REAL") {
                s.set("p.a", 1e300);
                s.scan();
                const double top = s.get("p.b");
                s.set("p.a", std::nan(""));
                s.scan();
                CHECK(top > 100);
                CHECK(s.get("p.b") == 0);
                s.set("p.a", -1e300);
                s.scan();
                CHECK(s.get("p.b") <= 0);
            }
        }
    }
}

TEST_CASE("real functions are those of the C++ library") {
    test::Scanner s(
        "PROGRAM p VAR x, a, b, c, d, e, f, g, h : LREAL; END_VAR a := SQRT(x); b := LN(x); c := EXP(x); d := SIN(x); "
        "e := COS(x); f := ATAN(x); g := EXPT(x, 2.5); h := ABS(-x); END_PROGRAM");
    s.set("p.x", 1.75);
    s.scan();
    CHECK(s.get("p.a") == std::sqrt(1.75));
    CHECK(s.get("p.b") == std::log(1.75));
    CHECK(s.get("p.c") == std::exp(1.75));
    CHECK(s.get("p.d") == std::sin(1.75));
    CHECK(s.get("p.e") == std::cos(1.75));
    CHECK(s.get("p.f") == std::atan(1.75));
    CHECK(s.get("p.g") == std::pow(1.75, 2.5));
    CHECK(s.get("p.h") == 1.75);
}

TEST_CASE("an assignment may read what it writes") {
    test::Scanner s(
        "PROGRAM p VAR a : INT := 5; b : BOOL := TRUE; c : BOOL; t : INT := 3; END_VAR a := a * a - a; b := (b AND NOT "
        "c) OR (c AND b); t := SEL(TRUE, 1, t); END_PROGRAM");
    s.scan();
    CHECK(s.get("p.a") == 20);
    CHECK(s.get("p.b") == 1);
    CHECK(s.get("p.t") == 3);
}

// --- run-time faults ---

TEST_CASE("division by zero stops the controller at its place") {
    test::Scanner s(
        "PROGRAM p\nVAR a, b : INT; ok : INT; END_VAR\nok := ok + 1;\nIF ok > 2 THEN\n  a := 10 / "
        "b;\nEND_IF;\nEND_PROGRAM");
    s.scan();
    s.scan();
    CHECK(s.state.running);
    s.scan();
    CHECK_FALSE(s.state.running);
    CHECK(controller::fault_text(s.model(), s.state) == "test.st:5:11: division by zero");
    CHECK(s.state.fault.time == Nanoseconds(20'000'000));
    s.scan();
    CHECK(s.get("p.ok") == 3);
    CHECK(s.state.scans == 3);
}

TEST_CASE("MOD by zero faults too; a REAL division gives infinity as IEC 60559 says") {
    test::Scanner s("PROGRAM p VAR a, b : DINT; END_VAR a := 7 MOD b; END_PROGRAM");
    s.scan();
    CHECK_FALSE(s.state.running);
    test::Scanner r("PROGRAM p VAR a, b : REAL; END_VAR a := 7.0 / b; END_PROGRAM");
    r.scan();
    CHECK(r.state.running);
    CHECK(std::isinf(r.get("p.a")));
}

TEST_CASE("an endless loop is ended") {
    for (const char* loop :
         {"WHILE TRUE DO ; END_WHILE;", "REPEAT ; UNTIL FALSE END_REPEAT;", "FOR i := 1 TO 10 BY 0 DO ; END_FOR;"}) {
        CAPTURE(loop);
        test::Scanner s(std::string("PROGRAM p VAR i : INT; END_VAR\n") + loop + "\nEND_PROGRAM");
        s.scan();
        CHECK_FALSE(s.state.running);
        CHECK(controller::fault_text(s.model(), s.state) ==
              "test.st:2:1: a task did more than max_instructions: a loop does not end");
    }
}

// --- text forms ---

TEST_CASE("code has a text form with places") {
    base::Diagnostics diagnostics;
    const auto program = logic::compile(
        {base::make_source("t.st", "PROGRAM p VAR a, b : BOOL; END_VAR\na := a AND NOT b;\nEND_PROGRAM")}, diagnostics);
    REQUIRE(program != nullptr);
    CHECK(logic::code_text(*program) ==
          "    0  BoolAndNot         dst=8      a=8      b=9      ; t.st:2:8\n    1  End                dst=0      a=0 "
          "     b=0      ; t.st\n");
}

TEST_CASE("every operation has a name and an effect") {
    for (int op = 0; op < static_cast<int>(logic::Op::Count); ++op) {
        CHECK(std::string(logic::operation_name(static_cast<logic::Op>(op))).size() > 1);
        CHECK(std::string(logic::operation_effect(static_cast<logic::Op>(op))).size() > 5);
    }
}

TEST_CASE("variables are found by path, tags are told apart") {
    test::Scanner s(
        "VAR_GLOBAL g : INT; END_VAR PROGRAM main VAR t : TON; in AT %IX2.5 : BOOL; x : INT; END_VAR t(IN := in, PT := "
        "T#1s); g := x; END_PROGRAM");
    CHECK(s.variable("MAIN.T.et").type == logic::Elementary::Time);
    CHECK(s.variable("g").is_tag);
    CHECK(s.variable("main.in").is_tag);
    CHECK(s.variable("main.in").address.text() == "%IX2.5");
    CHECK_FALSE(s.variable("main.x").is_tag);
    CHECK_FALSE(s.variable("main.t.Q").is_tag);
}

TEST_CASE("values as the language writes them") {
    using logic::Elementary;
    CHECK(logic::value_text(logic::value_of(Elementary::Bool, 1)) == "TRUE");
    CHECK(logic::value_text(logic::value_of(Elementary::Int, -42)) == "-42");
    CHECK(logic::value_text(logic::value_of(Elementary::Real, 0.1F)) == "0.1");
    CHECK(logic::value_text(logic::value_of(Elementary::Time, 850e6)) == "T#850ms");
    CHECK(logic::value_text(logic::value_of(Elementary::Lreal, 2.5)) == "2.5");
}

TEST_CASE("writing a number rounds, saturates and sets single bits") {
    std::vector<std::byte> memory(16);
    logic::write_number(memory.data(), logic::Elementary::Int, 2, -1, 1e9);
    CHECK(logic::read_number(memory.data(), logic::Elementary::Int, 2, -1) == 32767);
    logic::write_number(memory.data(), logic::Elementary::Usint, 4, -1, -3);
    CHECK(logic::read_number(memory.data(), logic::Elementary::Usint, 4, -1) == 0);
    logic::write_number(memory.data(), logic::Elementary::Int, 2, -1, 2.5);
    CHECK(logic::read_number(memory.data(), logic::Elementary::Int, 2, -1) == 2);
    logic::write_number(memory.data(), logic::Elementary::Int, 2, -1, std::nan(""));
    CHECK(logic::read_number(memory.data(), logic::Elementary::Int, 2, -1) == 0);
    logic::write_number(memory.data(), logic::Elementary::Bool, 8, 3, 1);
    CHECK(std::to_integer<int>(memory[8]) == 8);
    logic::write_number(memory.data(), logic::Elementary::Bool, 8, 3, 0);
    CHECK(std::to_integer<int>(memory[8]) == 0);
}
