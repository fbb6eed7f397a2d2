// Properties that hold for all values: the machine's arithmetic and conversions against C++'s, texts there and back,
// constants folded when compiling against the same computed when running.
#include <rapidcheck.h>

#include <cmath>
#include <cstring>

#include "core/logic/text_values.hpp"
#include "core/support.hpp"

using namespace vyard;

namespace {

template <class T>
void put(test::Scanner& s, const char* name, T value) {
    std::memcpy(s.state.memory.data() + s.variable(name).offset, &value, sizeof value);
}
template <class T>
T take(const test::Scanner& s, const char* name) {
    T value;
    std::memcpy(&value, s.state.memory.data() + s.variable(name).offset, sizeof value);
    return value;
}

template <class T>
void arithmetic(const char* type) {
    CAPTURE(type);
    test::Scanner s(fmt::format(
        "PROGRAM p VAR a, b, sum, difference, product, quotient, rest, low, high : {}; less, equal : BOOL; END_VAR\n"
        "sum := a + b; difference := a - b; product := a * b; low := MIN(a, b); high := MAX(a, b); less := a < b; "
        "equal := a = b;\n"
        "IF b <> 0 THEN quotient := a / b; rest := a MOD b; END_IF; END_PROGRAM",
        type));
    using U = std::conditional_t<sizeof(T) == 8, std::uint64_t, std::uint32_t>;
    CHECK(rc::check(std::string("arithmetic of ") + type, [&](T a, T b) {
        put(s, "p.a", a);
        put(s, "p.b", b);
        s.scan();
        RC_ASSERT(take<T>(s, "p.sum") == static_cast<T>(static_cast<U>(a) + static_cast<U>(b)));
        RC_ASSERT(take<T>(s, "p.difference") == static_cast<T>(static_cast<U>(a) - static_cast<U>(b)));
        RC_ASSERT(take<T>(s, "p.product") == static_cast<T>(static_cast<U>(a) * static_cast<U>(b)));
        RC_ASSERT(take<T>(s, "p.low") == std::min(a, b));
        RC_ASSERT(take<T>(s, "p.high") == std::max(a, b));
        RC_ASSERT(take<bool>(s, "p.less") == (a < b));
        RC_ASSERT(take<bool>(s, "p.equal") == (a == b));
        if (b == T{0} || (std::is_signed_v<T> && b == static_cast<T>(-1))) return;
        RC_ASSERT(take<T>(s, "p.quotient") == static_cast<T>(a / b));
        RC_ASSERT(take<T>(s, "p.rest") == static_cast<T>(a % b));
    }));
}

template <class From, class To>
void conversion(const char* from, const char* to) {
    test::Scanner s(fmt::format("PROGRAM p VAR a : {0}; b : {1}; END_VAR b := {0}_TO_{1}(a); END_PROGRAM", from, to));
    CHECK(rc::check(fmt::format("{} to {}", from, to), [&](From a) {
        put(s, "p.a", a);
        s.scan();
        RC_ASSERT(take<To>(s, "p.b") == static_cast<To>(a));
    }));
}

}  // namespace

TEST_CASE("integer arithmetic is C++'s, wrapping, for all values") {
    arithmetic<std::int8_t>("SINT");
    arithmetic<std::int16_t>("INT");
    arithmetic<std::int32_t>("DINT");
    arithmetic<std::int64_t>("LINT");
    arithmetic<std::uint8_t>("USINT");
    arithmetic<std::uint16_t>("UINT");
    arithmetic<std::uint32_t>("UDINT");
    arithmetic<std::uint64_t>("ULINT");
}

TEST_CASE("conversions between integers are C++'s, for all values") {
    conversion<std::int64_t, std::int8_t>("LINT", "SINT");
    conversion<std::int64_t, std::uint16_t>("LINT", "UINT");
    conversion<std::int32_t, std::int16_t>("DINT", "INT");
    conversion<std::int16_t, std::uint64_t>("INT", "ULINT");
    conversion<std::uint32_t, float>("UDINT", "REAL");
    conversion<std::int64_t, double>("LINT", "LREAL");
    conversion<double, float>("LREAL", "REAL");
}

TEST_CASE("reals become integers rounded to even, and stop at the ends of the type") {
    test::Scanner s("PROGRAM p VAR a : LREAL; b : DINT; END_VAR b := LREAL_TO_DINT(a); END_PROGRAM");
    CHECK(rc::check("LREAL to DINT", [&](double a) {
        put(s, "p.a", a);
        s.scan();
        const double expected =
            std::isnan(a) ? 0.0 : std::min(std::max(std::nearbyint(a), -2147483648.0), 2147483647.0);
        RC_ASSERT(take<std::int32_t>(s, "p.b") == static_cast<std::int32_t>(expected));
    }));
}

TEST_CASE("a number written as text reads back as itself") {
    test::Scanner s(
        "PROGRAM p VAR a, a2 : LINT; x, x2 : LREAL; r, r2 : REAL; t, t2 : TIME; u, u2 : ULINT; END_VAR\n"
        "a2 := STRING_TO_LINT(LINT_TO_STRING(a)); x2 := STRING_TO_LREAL(LREAL_TO_STRING(x)); r2 := "
        "STRING_TO_REAL(REAL_TO_STRING(r));\n"
        "u2 := WSTRING_TO_ULINT(ULINT_TO_WSTRING(u)); END_PROGRAM");
    CHECK(rc::check("there and back", [&](std::int64_t a, double x, float r, std::uint64_t u) {
        put(s, "p.a", a);
        put(s, "p.x", x);
        put(s, "p.r", r);
        put(s, "p.u", u);
        s.scan();
        RC_ASSERT(take<std::int64_t>(s, "p.a2") == a);
        RC_ASSERT(take<double>(s, "p.x2") == x);
        RC_ASSERT(take<float>(s, "p.r2") == r);
        RC_ASSERT(take<std::uint64_t>(s, "p.u2") == u);
    }));
}

TEST_CASE("BCD there and back") {
    test::Scanner s(
        "PROGRAM p VAR a, b : UDINT; c : LWORD; END_VAR c := UDINT_TO_BCD_LWORD(a); b := LWORD_BCD_TO_UDINT(c); "
        "END_PROGRAM");
    CHECK(rc::check("BCD", [&](std::uint32_t a) {
        put(s, "p.a", a);
        s.scan();
        RC_ASSERT(take<std::uint32_t>(s, "p.b") == a);
        RC_ASSERT(fmt::format("{:x}", take<std::uint64_t>(s, "p.c")) == fmt::format("{}", a));
    }));
}

TEST_CASE("a constant expression is folded to what the machine computes") {
    CHECK(rc::check("folding", [&](std::int16_t a, std::int16_t b, std::uint8_t op) {
        static constexpr const char* kOperators[] = {"+", "-", "*", "/", "MOD"};
        const char* word = kOperators[op % 5];
        if (b == 0) return;
        test::Scanner s(
            fmt::format("VAR_GLOBAL CONSTANT ca : INT := {0}; cb : INT := {1}; folded : INT := ca {2} cb; END_VAR\n"
                        "PROGRAM p VAR a : INT := {0}; b : INT := {1}; run, seen : INT; END_VAR run := a {2} b; seen "
                        ":= folded; END_PROGRAM",
                        a, b, word));
        s.scan();
        RC_ASSERT(take<std::int16_t>(s, "p.run") == take<std::int16_t>(s, "p.seen"));
    }));
}

TEST_CASE("text functions are those of C++ strings") {
    test::Scanner s(
        "PROGRAM p VAR a, b, joined, left_part, mid_part, without, put_in : STRING[200]; n, k, len, found : INT; less, "
        "same : BOOL; END_VAR\n"
        "joined := CONCAT(a, b); left_part := LEFT(a, n); mid_part := MID(a, n, k); without := DELETE(a, n, k); put_in "
        ":= INSERT(a, b, k);\n"
        "len := LEN(a); found := FIND(a, b); less := a < b; same := a = b; END_PROGRAM");
    const auto text = [&](const char* name) {
        const std::string quoted = logic::variable_text(s.state.memory.data(), s.variable(name));
        return quoted.substr(1, quoted.size() - 2);
    };
    const auto letters =
        rc::gen::resize(30, rc::gen::container<std::string>(rc::gen::elementOf(std::string("abcXY 1$"))));
    CHECK(rc::check("texts", [&] {
        const std::string a = *letters, b = *letters;
        const int n = *rc::gen::inRange(0, 12), at = *rc::gen::inRange(1, 12);
        logic::write_text(s.state.memory.data() + s.variable("p.a").offset, logic::Elementary::String, 200, a);
        logic::write_text(s.state.memory.data() + s.variable("p.b").offset, logic::Elementary::String, 200, b);
        s.set("p.n", n);
        s.set("p.k", at);
        s.scan();
        const auto un = static_cast<std::size_t>(n), from = std::min(static_cast<std::size_t>(at) - 1, a.size());
        RC_ASSERT(text("p.joined") == a + b);
        RC_ASSERT(text("p.left_part") == a.substr(0, un));
        RC_ASSERT(text("p.mid_part") == a.substr(from, un));
        RC_ASSERT(text("p.without") == a.substr(0, from) + a.substr(std::min(from + un, a.size())));
        const std::size_t place = std::min(static_cast<std::size_t>(at), a.size());
        RC_ASSERT(text("p.put_in") == a.substr(0, place) + b + a.substr(place));
        RC_ASSERT(s.get("p.len") == static_cast<double>(a.size()));
        const std::size_t found = b.empty() ? std::string::npos : a.find(b);
        RC_ASSERT(s.get("p.found") == (found == std::string::npos ? 0.0 : static_cast<double>(found + 1)));
        RC_ASSERT((s.get("p.less") != 0) == (a < b));
        RC_ASSERT((s.get("p.same") != 0) == (a == b));
    }));
}
