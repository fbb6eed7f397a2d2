// For pairs of some hundred generated types: an assignment, an argument and a comparison are refused, or mean what the
// standard says (IEC 61131-3, 6.4 and figure 12). The rules are written here once more, without the checker's tables.
#include <random>
#include <set>

#include "core/support.hpp"

using namespace vyard;

namespace {

struct Type {
    enum class Kind { Elementary, Text, Enumeration, Subrange, Array, Structure } kind = Kind::Elementary;
    std::string name;     ///< As a declaration writes it.
    std::string base;     ///< Elementary name; of a subrange its base, of a text STRING or WSTRING.
    int identity = 0;     ///< Of enumerations and structures.
    std::string bounds;   ///< Of arrays.
    int element = -1;     ///< Of arrays: another type.
    std::string initial;  ///< A value that every such type holds: 5, TRUE, 'abc' ...
};

struct Elementary {
    const char* name;
    char family;  ///< s, u: integers; r: reals; b: bit strings; t: durations; d: moments, each with its long form
    int rank;
    const char* value;
};
constexpr Elementary kElementary[] = {{"BOOL", 'B', 0, "TRUE"},
                                      {"SINT", 's', 1, "5"},
                                      {"INT", 's', 2, "5"},
                                      {"DINT", 's', 4, "5"},
                                      {"LINT", 's', 8, "5"},
                                      {"USINT", 'u', 1, "5"},
                                      {"UINT", 'u', 2, "5"},
                                      {"UDINT", 'u', 4, "5"},
                                      {"ULINT", 'u', 8, "5"},
                                      {"REAL", 'r', 4, "5.0"},
                                      {"LREAL", 'r', 8, "5.0"},
                                      {"BYTE", 'b', 1, "5"},
                                      {"WORD", 'b', 2, "5"},
                                      {"DWORD", 'b', 4, "5"},
                                      {"LWORD", 'b', 8, "5"},
                                      {"TIME", 't', 1, "T#5ms"},
                                      {"LTIME", 't', 2, "LTIME#5ms"},
                                      {"DATE", 'd', 1, "D#2026-01-05"},
                                      {"LDATE", 'd', 2, "LDATE#2026-01-05"},
                                      {"TOD", 'e', 1, "TOD#05:00:00"},
                                      {"LTOD", 'e', 2, "LTOD#05:00:00"},
                                      {"DT", 'f', 1, "DT#2026-01-05-00:00:00"},
                                      {"LDT", 'f', 2, "LDT#2026-01-05-00:00:00"},
                                      {"CHAR", 'c', 1, "'5'"}};

const Elementary& elementary(const std::string& name) {
    for (const Elementary& e : kElementary) {
        if (name == e.name) return e;
    }
    REQUIRE_MESSAGE(false, name);
    return kElementary[0];
}

/// No value is lost on the way (figure 12).
bool widens(const std::string& from, const std::string& to) {
    const Elementary& a = elementary(from);
    const Elementary& b = elementary(to);
    if (from == to) return true;
    if (a.family == b.family) return a.family != 'B' && a.rank < b.rank;
    if (a.family == 'u' && b.family == 's') return a.rank < b.rank;
    const bool whole = a.family == 's' || a.family == 'u';
    return whole && b.family == 'r' && a.rank < b.rank;
}

class Types {
  public:
    std::vector<Type> all;
    std::string declarations = "TYPE\n";

    Types() {
        for (const Elementary& e : kElementary)
            all.push_back({Type::Kind::Elementary, e.name, e.name, 0, "", -1, e.value});
        for (const char* text : {"STRING", "STRING[7]", "STRING[20]", "WSTRING", "WSTRING[9]"}) {
            const bool wide = text[0] == 'W';
            all.push_back({Type::Kind::Text, text, wide ? "WSTRING" : "STRING", 0, "", -1, wide ? "\"abc\"" : "'abc'"});
        }
        for (int n = 0; n < 6; ++n) {
            declarations += fmt::format("  E{0} : (e{0}_a, e{0}_b := 5, e{0}_c);\n", n);
            all.push_back({Type::Kind::Enumeration, fmt::format("E{}", n), "INT", n, "", -1, fmt::format("e{}_b", n)});
        }
        for (const char* base : {"SINT", "INT", "DINT", "UINT"}) {
            for (const char* range : {"0..9", "5..100"}) {
                const std::string name = fmt::format("R{}", all.size());
                declarations += fmt::format("  {} : {}({});\n", name, base, range);
                all.push_back({Type::Kind::Subrange, name, base, 0, range, -1, "5"});
            }
        }
        std::mt19937 random(7);
        const auto below = [&](std::size_t n) { return static_cast<std::size_t>(random()) % n; };
        for (int n = 0; n < 40; ++n) {
            const std::size_t inner = below(all.size());
            const std::string& initial = all[inner].initial;
            declarations += fmt::format("  S{0} : STRUCT x{0} : {1}{2}{3}; y : INT; END_STRUCT;\n", n, all[inner].name,
                                        initial.empty() ? "" : " := ", initial);
            all.push_back({Type::Kind::Structure, fmt::format("S{}", n), "", n, "", -1, ""});
        }
        // Of other lengths, other bounds, other elements; some named, some in place; arrays of arrays.
        for (int n = 0; n < 160; ++n) {
            const std::size_t inner = below(all.size());
            if (all[inner].name.size() > 60) continue;
            static const char* kBounds[] = {"0..2", "1..3", "0..4", "0..1, 0..1", "0..3"};
            const std::string bounds = kBounds[below(5)];
            std::string name = fmt::format("ARRAY[{}] OF {}", bounds, all[inner].name);
            if (n % 3 == 0) {
                declarations += fmt::format("  A{} : {};\n", n, name);
                name = fmt::format("A{}", n);
            }
            all.push_back({Type::Kind::Array, name, "", 0, bounds, static_cast<int>(inner), ""});
        }
        declarations += "END_TYPE\n";
    }

    /// Whether elements or fields of these types are copied as they lie.
    bool same(const Type& a, const Type& b) const {
        if (a.kind != b.kind) return false;
        switch (a.kind) {
            case Type::Kind::Elementary:
            case Type::Kind::Text: return a.name == b.name || (a.name == "STRING[80]" && b.name == "STRING");
            case Type::Kind::Enumeration:
            case Type::Kind::Structure: return a.identity == b.identity;
            case Type::Kind::Subrange: return a.name == b.name;
            case Type::Kind::Array:
                return a.bounds == b.bounds &&
                       same(all[static_cast<std::size_t>(a.element)], all[static_cast<std::size_t>(b.element)]);
        }
        return false;
    }

    /// `to := from` is allowed.
    bool assigns(const Type& to, const Type& from) const {
        const bool scalar_from = !from.base.empty() && from.kind != Type::Kind::Text;
        const bool scalar_to = !to.base.empty() && to.kind != Type::Kind::Text;
        if (to.kind == Type::Kind::Array || to.kind == Type::Kind::Structure || from.kind == Type::Kind::Array ||
            from.kind == Type::Kind::Structure)
            return same(to, from);
        if (to.kind == Type::Kind::Enumeration)
            return from.kind == Type::Kind::Enumeration && from.identity == to.identity;
        if (to.kind == Type::Kind::Text)
            return from.kind == Type::Kind::Text ? from.base == to.base : from.name == "CHAR" && to.base == "STRING";
        if (from.kind == Type::Kind::Text || !scalar_from || !scalar_to) return false;
        return widens(from.base, to.base);
    }
};

/// Lines of the source that have an error.
std::set<int> wrong_lines(const std::string& text, std::string& rendered) {
    base::Diagnostics diagnostics;
    logic::compile({base::make_source("t.st", text)}, diagnostics);
    std::set<int> out;
    for (const base::Diagnostic& d : diagnostics.list()) {
        if (d.severity == base::Severity::Error) out.insert(d.place.line);
    }
    rendered = diagnostics.render();
    return out;
}

}  // namespace

TEST_CASE("pairs of types: assignments and arguments are refused, or mean what the standard says") {
    const Types types;
    CHECK(types.all.size() > 200);
    std::mt19937 random(11);
    int pairs = 0, allowed = 0;
    constexpr std::size_t kEach = 64;
    for (const Type& to : types.all) {
        std::vector<const Type*> from;
        for (std::size_t i = 0; i < kEach; ++i)
            from.push_back(
                i == 0 ? &to : &types.all[static_cast<std::size_t>(random()) % (i % 2 == 0 ? types.all.size() : 43)]);
        std::string text =
            types.declarations +
            fmt::format("FUNCTION f : BOOL VAR_INPUT x : {}; END_VAR f := TRUE; END_FUNCTION\n", to.name);
        text += "PROGRAM p VAR ok : BOOL;\n";
        const auto declare = [&](const std::string& name, const Type& type) {
            text += fmt::format("{} : {}{};\n", name, type.name, type.initial.empty() ? "" : " := " + type.initial);
        };
        for (std::size_t i = 0; i < kEach; ++i) {
            declare(fmt::format("a{}", i), to);
            declare(fmt::format("b{}", i), *from[i]);
        }
        text += "END_VAR\n";
        const int first = static_cast<int>(std::count(text.begin(), text.end(), '\n')) + 1;
        for (std::size_t i = 0; i < kEach; ++i) text += fmt::format("a{0} := b{0};\nok := f(b{0});\n", i);
        text += "END_PROGRAM\n";
        std::string rendered;
        const std::set<int> wrong = wrong_lines(text, rendered);
        for (std::size_t i = 0; i < kEach; ++i) {
            pairs += 2;
            const bool fine = types.assigns(to, *from[i]);
            allowed += fine ? 1 : 0;
            const int line = first + static_cast<int>(i) * 2;
            const std::string what = fmt::format("{} := {}", to.name, from[i]->name);
            CHECK_MESSAGE(wrong.contains(line) == !fine, (what + (fine ? " is refused" : " is allowed")));
            CHECK_MESSAGE(wrong.contains(line + 1) == !fine, (what + " as an argument"));
        }
        CHECK_MESSAGE((wrong.empty() || *wrong.begin() >= first), rendered);
        // What is allowed is done: the same program without the lines that are refused.
        std::string running = text.substr(0, text.rfind("END_VAR\n") + 8);
        for (std::size_t i = 0; i < kEach; ++i) {
            if (types.assigns(to, *from[i])) running += fmt::format("a{0} := b{0};\n", i);
        }
        test::Scanner s(running + "END_PROGRAM\n");
        s.scan();
        for (std::size_t i = 0; i < kEach; ++i) {
            if (!types.assigns(to, *from[i])) continue;
            const logic::Variable* a = s.model().program->find(fmt::format("p.a{}", i));
            const logic::Variable* b = s.model().program->find(fmt::format("p.b{}", i));
            if (a == nullptr || b == nullptr) continue;  // arrays and structures: their bytes are compared below
            const logic::Value x = logic::variable_value(s.state.memory.data(), *a);
            const logic::Value y = logic::variable_value(s.state.memory.data(), *b);
            const bool text_of_character = logic::is_character(y.type) && logic::is_text(x.type);
            CHECK(text_of_character        ? x.text == "5"
                  : logic::is_text(x.type) ? x.text == y.text
                                           : logic::number_of(x) == logic::number_of(y));
        }
    }
    CHECK(pairs >= 10'000);
    CHECK(allowed > 400);
}

TEST_CASE("pairs of types: comparisons are refused, or compare") {
    const Types types;
    std::mt19937 random(13);
    const auto scalar = [](const Type& t) { return t.kind != Type::Kind::Array && t.kind != Type::Kind::Structure; };
    const auto meet = [&](const Type& a, const Type& b) {
        if (!scalar(a) || !scalar(b)) return false;
        const auto textual = [](const Type& t) { return t.kind == Type::Kind::Text || t.name == "CHAR"; };
        const auto wide = [](const Type& t) { return t.base == "WSTRING"; };
        if (textual(a) || textual(b)) return textual(a) && textual(b) && wide(a) == wide(b);
        if (a.kind == Type::Kind::Enumeration && b.kind == Type::Kind::Enumeration) return a.identity == b.identity;
        if (widens(a.base, b.base) || widens(b.base, a.base)) return true;
        for (const char* common : {"INT", "DINT", "LINT", "REAL", "LREAL"}) {
            if (widens(a.base, common) && widens(b.base, common)) return true;
        }
        return false;
    };
    int pairs = 0;
    for (int program = 0; program < 100; ++program) {
        std::string text = types.declarations + "PROGRAM p VAR ok : BOOL;\n";
        std::vector<std::pair<const Type*, const Type*>> list;
        for (int i = 0; i < 60; ++i) {
            const Type* a = &types.all[static_cast<std::size_t>(random()) % types.all.size()];
            const Type* b = &types.all[static_cast<std::size_t>(random()) % (i % 2 == 0 ? types.all.size() : 40)];
            list.emplace_back(a, b);
            text += fmt::format("a{} : {}; b{} : {};\n", i, a->name, i, b->name);
        }
        text += "END_VAR\n";
        const int first = static_cast<int>(std::count(text.begin(), text.end(), '\n')) + 1;
        for (int i = 0; i < 60; ++i) text += fmt::format("ok := a{0} = b{0};\n", i);
        std::string rendered;
        const std::set<int> wrong = wrong_lines(text + "END_PROGRAM\n", rendered);
        for (int i = 0; i < 60; ++i) {
            ++pairs;
            const auto& [a, b] = list[static_cast<std::size_t>(i)];
            const std::string what = fmt::format("{} = {}", a->name, b->name);
            CHECK_MESSAGE(wrong.contains(first + i) == !meet(*a, *b), what);
        }
    }
    CHECK(pairs == 6000);
}
