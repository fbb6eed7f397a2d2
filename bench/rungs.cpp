#include "rungs.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdint>
#include <vector>

namespace vyard::bench {

namespace {

/// A small generator of our own: the same program on every machine.
class Random {
  public:
    int below(int n) {
        state_ = state_ * 6364136223846793005ULL + 1442695040888963407ULL;
        return static_cast<int>((state_ >> 33) % static_cast<std::uint64_t>(n));
    }

  private:
    std::uint64_t state_ = 20261123;
};

/// One text in both languages.
struct Both {
    std::string st, cpp;
};

class Maker {
  public:
    Maker(int count, std::string name) : count_(count), name_(std::move(name)) { inputs_ = std::max(8, count / 4); }

    Rungs make() {
        // In parts, as a person would write it, and as a compiler can take.
        std::string parts, calls;
        for (int r = 0; r < count_; ++r) {
            rung(r);
            if (r % kPart != kPart - 1 && r + 1 != count_) continue;
            parts += fmt::format("[[gnu::noinline]] void part_{}(State& s, [[maybe_unused]] long long now) {{\n{}}}\n",
                                 r, body_.cpp);
            calls += fmt::format("    part_{}(s, now);\n", r);
            body_.cpp.clear();
        }
        Rungs out;
        out.inputs = inputs_;
        out.structured_text = "PROGRAM main\nVAR\n" + declared_.st + "END_VAR\n" + body_.st + "END_PROGRAM\n";
        out.cpp =
            "#include <cstdint>\nnamespace {\n"
            "struct alignas(8) Timer { bool in, q, active; std::int64_t pt, et, start; };\n"
            "struct alignas(8) Counter { bool cu, cd, r, ld, q, qd, last_cu, last_cd; std::int16_t pv, cv; };\n"
            "struct alignas(4) Trigger { bool clk, q, memory; };\n"
            "inline void on_delay(Timer& t, bool in, std::int64_t pt, std::int64_t now) {\n"
            "    t.in = in; t.pt = pt;\n"
            "    if (!in) { t.active = false; t.q = false; t.et = 0; return; }\n"
            "    if (!t.active) { t.active = true; t.start = now; }\n"
            "    const std::int64_t e = now - t.start;\n"
            "    t.q = e >= pt; t.et = e < pt ? e : pt;\n}\n"
            "inline void count_up(Counter& c, bool cu, bool r, std::int16_t pv) {\n"
            "    c.cu = cu; c.r = r; c.pv = pv;\n"
            "    const bool edge = cu && !c.last_cu; c.last_cu = cu;\n"
            "    if (r) c.cv = 0; else if (edge && c.cv < 32767) ++c.cv;\n"
            "    c.q = c.cv >= pv;\n}\n"
            "inline void rising(Trigger& t, bool clk) { t.clk = clk; t.q = clk && !t.memory; t.memory = clk; }\n"
            "struct State {\n" +
            declared_.cpp + "};\n" + parts + "}\nextern \"C\" void " + name_ +
            "(void* memory, long long now) {\n    State& s = *static_cast<State*>(memory);\n" + calls + "}\n";
        for (int i = inputs_; i-- > 0;) {
            out.structured_text.insert(out.structured_text.find("VAR\n") + 4, fmt::format("    x{} : BOOL;\n", i));
        }
        std::string fields;
        for (int i = 0; i < inputs_; ++i) fields += fmt::format("    bool x{};\n", i);
        out.cpp.insert(out.cpp.find("struct State {\n") + 15, fields);
        return out;
    }

  private:
    static constexpr int kPart = 250;

    void declare(const std::string& name, const char* st, const char* cpp, const std::string& initial = {}) {
        declared_.st += fmt::format("    {} : {}{};\n", name, st, initial.empty() ? "" : " := " + initial);
        declared_.cpp += fmt::format("    {} {};\n", cpp, name);
    }
    void line(const std::string& st, const std::string& cpp) {
        body_.st += "    " + st + "\n";
        body_.cpp += "    " + cpp + "\n";
    }

    /// An input, or a coil of a rung nearby.
    Both contact() {
        std::string name;
        if (coils_.empty() || random_.below(3) > 0) {
            name = fmt::format("x{}", random_.below(inputs_));
        } else {
            const int reach = std::min<int>(40, static_cast<int>(coils_.size()));
            name = coils_[coils_.size() - 1 - static_cast<std::size_t>(random_.below(reach))];
        }
        if (random_.below(3) == 0) return {"NOT " + name, "!s." + name};
        return {name, "s." + name};
    }

    /// A series of contacts with one branch of two in it.
    Both series(int contacts) {
        Both out;
        const int branch = random_.below(contacts - 1);
        for (int i = 0; i < contacts; ++i) {
            Both part = contact();
            if (i == branch) {
                const Both other = contact();
                part = {fmt::format("({} OR {})", part.st, other.st), fmt::format("({} || {})", part.cpp, other.cpp)};
                ++i;
            }
            out = out.st.empty() ? part : Both{out.st + " AND " + part.st, out.cpp + " && " + part.cpp};
        }
        return out;
    }

    void rung(int r) {
        switch (r % 20) {
            case 3:
            case 13: return timer(r);
            case 7: return random_.below(2) == 0 ? counter(r) : trigger(r);
            case 9:
            case 17: return numbers(r);
            case 19: return choice(r);
            default: return boolean(r);
        }
    }

    void boolean(int r) {
        const std::string coil = fmt::format("q{}", r);
        declare(coil, "BOOL", "bool");
        const Both logic = series(3 + random_.below(6));
        const int kind = random_.below(4);
        if (kind < 2) {
            line(fmt::format("{} := {};", coil, logic.st), fmt::format("s.{} = {};", coil, logic.cpp));
        } else {
            const bool set = kind == 2;
            line(fmt::format("IF {} THEN {} := {}; END_IF;", logic.st, coil, set ? "TRUE" : "FALSE"),
                 fmt::format("if ({}) s.{} = {};", logic.cpp, coil, set ? "true" : "false"));
        }
        coils_.push_back(coil);
    }

    void timer(int r) {
        const std::string t = fmt::format("t{}", r);
        declare(t, "TON", "Timer");
        const Both logic = series(2 + random_.below(2));
        const int ms = 20 * (1 + random_.below(20));
        line(fmt::format("{}(IN := {}, PT := T#{}ms);", t, logic.st, ms),
             fmt::format("on_delay(s.{}, {}, {}000000LL, now);", t, logic.cpp, ms));
        const std::string coil = fmt::format("q{}", r);
        declare(coil, "BOOL", "bool");
        line(fmt::format("{} := {}.Q;", coil, t), fmt::format("s.{} = s.{}.q;", coil, t));
        coils_.push_back(coil);
    }

    void counter(int r) {
        const std::string c = fmt::format("c{}", r);
        declare(c, "CTU", "Counter");
        const Both up = contact(), reset = series(3);
        line(fmt::format("{}(CU := {}, R := {}, PV := {});", c, up.st, reset.st, 5 + r % 50),
             fmt::format("count_up(s.{}, {}, {}, {});", c, up.cpp, reset.cpp, 5 + r % 50));
    }

    void trigger(int r) {
        const std::string t = fmt::format("e{}", r);
        declare(t, "R_TRIG", "Trigger");
        const Both clock = series(2);
        const std::string n = fmt::format("n{}", r);
        declare(n, "INT", "std::int16_t");
        line(fmt::format("{}(CLK := {});", t, clock.st), fmt::format("rising(s.{}, {});", t, clock.cpp));
        line(fmt::format("IF {0}.Q THEN {1} := {1} + 1; END_IF;", t, n),
             fmt::format("if (s.{0}.q) s.{1} = static_cast<std::int16_t>(s.{1} + 1);", t, n));
    }

    void numbers(int r) {
        const std::string raw = fmt::format("w{}", r), value = fmt::format("f{}", r), coil = fmt::format("q{}", r);
        declare(raw, "INT", "std::int16_t");
        declare(value, "REAL", "float");
        declare(coil, "BOOL", "bool");
        const int step = 1 + random_.below(97), limit = 1000 * (1 + random_.below(20));
        line(fmt::format("{0} := {0} + {1};", raw, step),
             fmt::format("s.{0} = static_cast<std::int16_t>(s.{0} + {1});", raw, step));
        line(fmt::format("{} := INT_TO_REAL({}) * 0.00361 + {}.5;", value, raw, r % 9),
             fmt::format("s.{} = static_cast<float>(s.{}) * 0.00361f + {}.5f;", value, raw, r % 9));
        line(fmt::format("{} := {} > {} OR {} < -20.0;", coil, raw, limit, value),
             fmt::format("s.{} = s.{} > {} || s.{} < -20.0f;", coil, raw, limit, value));
        coils_.push_back(coil);
    }

    void choice(int r) {
        const std::string state = fmt::format("z{}", r), coil = fmt::format("q{}", r);
        declare(state, "INT", "std::int16_t");
        declare(coil, "BOOL", "bool");
        body_.st += fmt::format("    CASE {} OF\n", state);
        body_.cpp += fmt::format("    switch (s.{}) {{\n", state);
        for (int k = 0; k < 4; ++k) {
            const Both go = contact();
            body_.st += fmt::format("        {}: IF {} THEN {} := {}; END_IF;\n           {} := {};\n", k, go.st, state,
                                    (k + 1) % 4, coil, k == 2 ? "TRUE" : "FALSE");
            body_.cpp += fmt::format("        case {}: if ({}) s.{} = {}; s.{} = {}; break;\n", k, go.cpp, state,
                                     (k + 1) % 4, coil, k == 2 ? "true" : "false");
        }
        body_.st += "    END_CASE;\n";
        body_.cpp += "    }\n";
        coils_.push_back(coil);
    }

    int count_;
    std::string name_;
    int inputs_ = 0;
    Random random_;
    Both declared_, body_;
    std::vector<std::string> coils_;
};

}  // namespace

Rungs make_rungs(int count, const std::string& function_name) {
    return Maker(count, function_name).make();
}

}  // namespace vyard::bench
