// What is said to have been exercised, against what was counted beside: every branch that a program tells of itself.
#include <random>

#include "core/support.hpp"

using namespace vyard;

namespace {

std::shared_ptr<const logic::Program> compiled(const std::string& text, bool coverage) {
    base::Diagnostics diagnostics;
    auto out = logic::check_program({base::make_source("t.st", text)}, diagnostics, coverage).program;
    REQUIRE_MESSAGE(!diagnostics.has_errors(), diagnostics.render());
    return out;
}

/// Runs a program with and without marks over the same inputs; what it exercised, with a check that it did the same.
class Covered {
  public:
    explicit Covered(const std::string& text)
        : plain_(model(compiled(text, false))),
          marked_(model(compiled(text, true))),
          coverage_(*marked_.program),
          one_(controller::power_up(plain_)),
          other_(controller::power_up(marked_)) {
        coverage_.look(other_.memory);
    }
    void set(const std::string& name, double value) {
        for (auto [m, s] : {std::pair(&plain_, &one_), std::pair(&marked_, &other_)}) {
            const logic::Variable* v = m->program->find(name);
            REQUIRE(v != nullptr);
            logic::write_number(s->memory.data(), v->type, v->offset, v->bit, value);
        }
    }
    void scan() {
        controller::solve(plain_, one_, now_);
        controller::solve(marked_, other_, now_);
        now_ += base::Nanoseconds(10'000'000);
        coverage_.look(other_.memory);
        for (std::size_t i = 0; i < plain_.program->variables.size(); ++i) {
            const logic::Variable& a = plain_.program->variables[i];
            const logic::Variable& b = marked_.program->variables[i];
            REQUIRE(a.path == b.path);
            if (a.type == logic::Elementary::Reference) continue;
            REQUIRE(get(one_, a) == get(other_, b));
        }
    }
    double get(const std::string& name) const { return get(one_, *plain_.program->find(name)); }

    /// "3 IF", of marks that ran or did not.
    std::vector<std::string> marks(bool ran) const {
        std::vector<std::string> out;
        for (const logic::CoverMark& m : marked_.program->marks) {
            if (coverage_.ran(m) == ran) out.push_back(fmt::format("{} {}", m.span.line, m.what));
        }
        return out;
    }
    const logic::Coverage& coverage() const { return coverage_; }
    const logic::Program& program() const { return *marked_.program; }

  private:
    static controller::ControllerModel model(std::shared_ptr<const logic::Program> program) {
        controller::ControllerModel out;
        out.name = "test";
        out.program = std::move(program);
        return out;
    }
    static double get(const controller::ControllerState& s, const logic::Variable& v) {
        return logic::read_number(s.memory.data(), v.type, v.offset, v.bit);
    }

    controller::ControllerModel plain_, marked_;
    logic::Coverage coverage_;
    controller::ControllerState one_, other_;
    base::Nanoseconds now_{};
};

}  // namespace

TEST_CASE("each kind of branch has a mark, which tells whether it was taken") {
    Covered c(R"(FUNCTION_BLOCK b
VAR_INPUT i : BOOL; END_VAR
VAR x : BOOL; END_VAR
IF i THEN x := TRUE; END_IF;
END_FUNCTION_BLOCK
PROGRAM p
VAR f : b; go, idle, q : BOOL; n, k : INT; END_VAR
f(i := go);
IF idle THEN n := 99; ELSIF go THEN n := 1; ELSE n := n + 1; END_IF;
CASE n MOD 4 OF
    0: k := 0;
    1, 2: k := 1;
    7..9: k := 5;
ELSE k := 2;
END_CASE;
FOR k := 1 TO 0 DO n := n + 1; END_FOR;
WHILE k < 3 DO k := k + 1; END_WHILE;
IF NOT go THEN RETURN; END_IF;
q := TRUE;
END_PROGRAM
)");
    CHECK(c.marks(true).empty());
    c.scan();
    CHECK(c.marks(true) == std::vector<std::string>{"6 body", "9 ELSE", "12 CASE 1, 2", "17 loop", "18 IF", "1 body"});
    CHECK(c.marks(false) == std::vector<std::string>{"9 IF", "9 ELSIF", "11 CASE 0", "13 CASE 7..9", "10 ELSE",
                                                     "16 loop", "19 behind a jump", "4 IF"});
    c.set("p.go", 1);
    c.scan();
    CHECK(c.marks(false) == std::vector<std::string>{"9 IF", "11 CASE 0", "13 CASE 7..9", "10 ELSE", "16 loop"});
}

TEST_CASE("random nests of branches: a mark is set exactly when the branch counted itself") {
    for (unsigned seed = 0; seed < 200; ++seed) {
        std::mt19937 random(seed);
        const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
        int branches = 0;
        const std::function<std::string(int)> body = [&](int depth) {
            std::string out = fmt::format("took[{}] := TRUE;\n", branches++);
            for (int n = pick(3); n > 0 && depth < 4; --n) {
                const std::string inner = body(depth + 1);
                const int kind = pick(4);
                const int number = pick(4);
                if (kind == 0) out += fmt::format("IF i = {} THEN\n{}END_IF;\n", number, inner);
                if (kind == 1)
                    out += fmt::format("IF i > {} THEN\n{}ELSE\n{}END_IF;\n", number, inner, body(depth + 1));
                if (kind == 2)
                    out += fmt::format("CASE i OF\n{}: {}{}..{}: {}ELSE\n{}END_CASE;\n", number, inner, number + 1,
                                       number + 2, body(depth + 1), body(depth + 1));
                if (kind == 3) out += fmt::format("FOR k{} := i TO {} DO\n{}END_FOR;\n", depth, number, inner);
            }
            return out;
        };
        const std::string text = body(0);
        CAPTURE(seed);
        CAPTURE(text);
        Covered c(
            fmt::format("PROGRAM p\nVAR i, k0, k1, k2, k3 : INT; took : ARRAY[0..{}] OF BOOL; END_VAR\n{}END_PROGRAM\n",
                        branches, text));
        for (int scan = 0; scan < 4; ++scan) {
            c.set("p.i", pick(6));
            c.scan();
            // The first statement under a mark is the one that counts.
            for (const logic::CoverMark& m : c.program().marks) {
                const auto number = &m - c.program().marks.data();
                const auto first = std::find_if(c.program().lines.begin(), c.program().lines.end(),
                                                [&](const logic::CoverLine& l) { return l.mark == number; });
                REQUIRE(first != c.program().lines.end());
                const std::string line(c.program().sources[0]->line(first->line));
                const std::size_t open = line.find("took["), close = line.find(']', open);
                REQUIRE(open != std::string::npos);
                CAPTURE(line);
                REQUIRE(c.coverage().ran(m) == (c.get("p." + line.substr(open, close - open + 1)) != 0.0));
            }
        }
    }
}

TEST_CASE("of a chart transitions and actions are followed, and nothing that it is made of") {
    Covered c(R"(PROGRAM p
VAR go, back, x : BOOL; n : INT; END_VAR
INITIAL_STEP idle: END_STEP
STEP work: count(N); x(N); END_STEP
STEP rest: END_STEP
TRANSITION FROM idle TO work := go; END_TRANSITION
TRANSITION FROM work TO idle := back; END_TRANSITION
TRANSITION FROM work TO rest := n > 99; END_TRANSITION
ACTION count:
    n := n + 1;
END_ACTION
END_PROGRAM
)");
    const auto said = [&] {
        std::string out;
        for (const logic::Coverage::Transition& t : c.coverage().transitions("p"))
            out += fmt::format("{} {} {}\n", t.place.line, t.name, t.fired ? "fired" : "never");
        return out;
    };
    c.scan();
    CHECK(said() == "6 from idle to work never\n7 from work to idle never\n8 from work to rest never\n");
    CHECK(c.marks(true) == std::vector<std::string>{"1 body"});
    CHECK(c.marks(false) == std::vector<std::string>{"4 action count"});
    c.set("p.go", 1);
    c.scan();
    c.scan();
    CHECK(said() == "6 from idle to work fired\n7 from work to idle never\n8 from work to rest never\n");
    CHECK(c.marks(false).empty());
    REQUIRE(c.program().lines.size() == 1);
    CHECK(c.program().lines[0].line == 10);
}

TEST_CASE(
    "contacts are followed: closed ones the other way round, of all instances together; what is computed is not") {
    Covered c(R"(FUNCTION_BLOCK b
VAR_INPUT i : BOOL; END_VAR
VAR_OUTPUT x : BOOL; END_VAR
LADDER
rung: i -> x
END_LADDER
END_FUNCTION_BLOCK
PROGRAM p
VAR f, g : b; a, d, x, y : BOOL; n : INT; h : ARRAY[0..3] OF BOOL; END_VAR
f(i := a);
g(i := NOT a);
LADDER
rung: a AND NOT d AND n > 2 AND h[n] -> x
rung: P(a) -> (S) y, >>DONE
rung: a -> y
DONE:
END_LADDER
END_PROGRAM
)");
    c.scan();
    const auto said = [&](const std::string& unit) {
        std::string out;
        for (const logic::Coverage::Contact& k : c.coverage().contacts(unit))
            out += fmt::format("{} {}{}{}{}\n", k.network, k.name, k.closed ? " closed" : "", k.open ? " open" : "",
                               k.known ? "" : " ?");
        return out;
    };
    CHECK(said("b") == "1 i closed open\n");
    CHECK(said("p") == "1 a open\n1 d closed\n1 n > 2 ?\n1 h[n] ?\n2 a open\n3 a open\n");
    c.set("p.a", 1);
    c.scan();
    CHECK(said("p") == "1 a closed open\n1 d closed\n1 n > 2 ?\n1 h[n] ?\n2 a closed open\n3 a closed open\n");
    CHECK(c.coverage().moved(*c.program().find("p.a")));
    CHECK(!c.coverage().moved(*c.program().find("p.d")));
    CHECK(!c.coverage().moved(*c.program().find("p.n")));
    c.set("p.n", 1);
    c.scan();
    CHECK(c.coverage().moved(*c.program().find("p.n")));
}
