// Instruction lists as statements: what they become, what is wrong with them, and random ones beside an interpreter.
#include <map>
#include <random>

#include "core/support.hpp"

using namespace vyard;

namespace {

struct Read {
    std::string statements, declarations, mistakes;
};

Read read(const std::string& list, const std::string& around = "") {
    base::Diagnostics diagnostics;
    const logic::ListReading reading =
        logic::read_instruction_list(base::make_source("t", list), around + list, diagnostics);
    Read out;
    for (const logic::ListStatement& s : reading.statements) out.statements += s.text + "\n";
    for (const std::string& d : reading.declarations) out.declarations += d + "; ";
    out.mistakes = test::joined(test::lines_of(diagnostics));
    return out;
}

}  // namespace

TEST_CASE("a list becomes the statements that a person would write") {
    struct Row {
        const char *list, *statements;
    };
    for (const Row& row : std::vector<Row>{
             {"LD a\nST x", "x := a;\n"},
             {"LDN a\nAND b\nANDN c\nST x", "x := NOT a AND b AND NOT c;\n"},
             {"LD a\nOR b\nAND c\nST x", "x := (a OR b) AND c;\n"},
             {"LD a\nAND( b\nOR c\n)\nST x", "x := a AND (b OR c);\n"},
             {"LD a\nAND(\nLD b\nOR c\n)\nSTN x", "x := NOT (a AND (b OR c));\n"},
             {"LD a\nORN( b\nAND c )\nST x", "x := a OR NOT (b AND c);\n"},
             {"LD a\nAND b\nS x", "IF a AND b THEN x := TRUE; END_IF;\n"},
             {"LD a\nST x\nST y", "x := a;\ny := x;\n"},
             {"LD n\nADD 1\nMUL 2\nGT 10\nST x", "x := ((n + 1) * 2) > 10;\n"},
             {"LD n\nSUB 1\nSUB 2\nST n", "n := (n - 1) - 2;\n"},
             {"LD a\nAND b\nS x\nR y",
              "list_value := a AND b;\nIF list_value THEN x := TRUE; END_IF;\nIF list_value THEN y := FALSE; "
              "END_IF;\n"},
             {"LD a\nNOT\nST x (* done *)", "x := NOT a;  (* done *)\n"},
             {"CAL t1(IN := a,\n PT := T#1s)\nLD t1.Q\nST x", "t1(IN := a, PT := T#1s);\nx := t1.Q;\n"},
             {"LD a\nCALC t1(IN := b)", "IF a THEN t1(IN := b); END_IF;\n"},
             {"LD 5\nPV c1\nLD a\nCU c1", "c1(PV := 5);\nc1(CU := a);\n"},
             {"LD r\nSIN\nST r", "r := SIN(r);\n"},
             {"LD 0\nLIMIT r, 10\nST r", "r := LIMIT(0, r, 10);\n"},
             {"LIMIT(\nMN := 0,\nIN := r,\nMX := 10\n)\nST r", "r := LIMIT(MN := 0, IN := r, MX := 10);\n"},
             {"LD a\nRETC\nLD b\nST x", "IF a THEN RETURN; END_IF;\nx := b;\n"},
             {"LD h[2]\nAND s.f\nST %QX0.1", "%QX0.1 := h[2] AND s.f;\n"},
         }) {
        CAPTURE(std::string(row.list));
        const Read got = read(row.list);
        CHECK(got.mistakes == "");
        CHECK(got.statements == row.statements);
    }
}

TEST_CASE("jumps of a list go through a loop of its parts, and new names avoid those in use") {
    const Read got = read("LD a\nJMPC last\nLD b\nST x\nlast: LD c\nST y", "list_place");
    CHECK(got.mistakes == "");
    CHECK(got.declarations == "list_place_2 : INT; ");
    CHECK(
        got.statements ==
        "list_place_2 := 0;\nREPEAT\n    CASE list_place_2 OF\n    0:\n        list_place_2 := 1;\n        IF a THEN "
        "list_place_2 := 2; END_IF;\n    1:\n        x := b;\n        list_place_2 := 2;\n    2:\n        y := c;\n   "
        "     list_place_2 := 3;\n    END_CASE;\nUNTIL list_place_2 = 3\nEND_REPEAT;\n");
}

TEST_CASE("mistakes in a list are told at their places") {
    struct Row {
        const char *list, *mistakes;
    };
    for (const Row& row : std::vector<Row>{
             {"AND a\nST x", "1:1 nothing was loaded before this AND [begin with LD]\n"},
             {"LD\nST x", "1:1 LD needs an operand\n"},
             {"LD a\nAND( b\nST x", "2:1 this bracket is never closed\n"},
             {"LD a\n)\nST x", "2:1 this bracket closes nothing\n"},
             {"LD a\nJMPC lost\nlast: LD b\nST x", "2:6 no label 'lost' in this list [did you mean 'last'?]\n"},
             {"LD a\n+ b",
              "2:1 expected an operator of a list, found '+' [known: LD, ST, S, R, AND, OR, XOR, NOT, ADD, "
              "SUB, MUL, DIV, MOD, GT, GE, EQ ...]\n"},
             {"l: LD a\nST x\nl: LD b\nJMP l", "3:4 the label 'l' stands twice\n"},
             {"LD a\nAND b\nCAL t1\nST x",
              "3:1 the current result is used behind this call, which may change what it was "
              "computed from [store it in a variable before the call, and load it again]\n"},
         }) {
        CAPTURE(std::string(row.list));
        CHECK(read(row.list).mistakes == row.mistakes);
    }
}

namespace {

/// Lists as rows of operator and operand, and what they do, by the standard's words alone.
struct Step {
    std::string label, operation, operand;
};

class ListMaker {
  public:
    explicit ListMaker(unsigned seed) : random_(seed) {}

    std::vector<Step> run() {
        const int parts = 2 + pick(5);
        for (int part = 0; part < parts; ++part) {
            const std::size_t first = out_.size();
            load(part);
            chain(2);
            for (int stores = 1 + pick(3); stores > 0; --stores) {
                static const char* const kStores[] = {"ST", "STN", "S", "R"};
                add(kStores[pick(4)], outputs());
                if (pick(4) == 0) chain(0);
            }
            if (pick(3) == 0) {
                static const char* const kJumps[] = {"JMPC", "JMPCN", "JMP", "RETC", "RETCN"};
                const int jump = pick(5);
                add(kJumps[jump], jump < 3 ? fmt::format("l{}", part + 1 + pick(parts - part)) : "");
            }
            out_[first].label = fmt::format("l{}", part);
        }
        out_.push_back({fmt::format("l{}", parts), "LD", "a"});
        out_.push_back({"", "ST", "w"});
        return std::move(out_);
    }

  private:
    int pick(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
    std::string inputs() { return std::string(1, "abcdexyzw"[pick(9)]); }
    std::string outputs() { return std::string(1, "xyzw"[pick(4)]); }
    void add(const std::string& operation, const std::string& operand) { out_.push_back({"", operation, operand}); }
    void load(int part) {
        if (part > 0 && pick(4) == 0) {
            add("CAL", "sr1");
            out_.push_back({"", "LD", "sr1.Q1"});
        } else {
            add(pick(3) == 0 ? "LDN" : "LD", inputs());
        }
    }
    void chain(int depth) {
        static const char* const kJoins[] = {"AND", "ANDN", "OR", "ORN", "XOR", "XORN"};
        for (int n = pick(4); n > 0; --n) {
            const char* join = kJoins[pick(6)];
            if (depth > 0 && pick(4) == 0) {
                add(fmt::format("{}(", join), inputs());
                chain(depth - 1);
                add(")", "");
            } else if (pick(8) == 0) {
                add("NOT", "");
            } else {
                add(join, inputs());
            }
        }
    }

    std::mt19937 random_;
    std::vector<Step> out_;
};

void interpret(const std::vector<Step>& steps, std::map<std::string, bool>& values) {
    bool result = false;
    std::vector<std::pair<bool, std::string>> open;
    const auto join = [](bool left, const std::string& operation, bool right) {
        const bool negated = operation.back() == 'N';
        right = right != negated;
        return operation[0] == 'A' ? left && right : operation[0] == 'O' ? left || right : left != right;
    };
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const auto& [label, operation, operand] = steps[i];
        if (operation == "LD") result = values[operand];
        if (operation == "LDN") result = !values[operand];
        if (operation == "ST") values[operand] = result;
        if (operation == "STN") values[operand] = !result;
        if (operation == "S" && result) values[operand] = true;
        if (operation == "R" && result) values[operand] = false;
        if (operation == "NOT") result = !result;
        if (operation == "CAL") values["sr1.Q1"] = values["d"] || (values["sr1.Q1"] && !values["e"]);
        if (operation.ends_with('(')) {
            open.emplace_back(result, operation.substr(0, operation.size() - 1));
            result = values[operand];
        } else if (operation == ")") {
            result = join(open.back().first, open.back().second, result);
            open.pop_back();
        } else if (operation.starts_with("AND") || operation.starts_with("OR") || operation.starts_with("XOR")) {
            result = join(result, operation, values[operand]);
        }
        const bool goes = operation == "JMP" || ((operation == "JMPC" || operation == "RETC") && result) ||
                          ((operation == "JMPCN" || operation == "RETCN") && !result);
        if (!goes) continue;
        if (operation.starts_with("RET")) return;
        for (std::size_t k = 0; k < steps.size(); ++k) {
            if (steps[k].label == operand) i = k - 1;
        }
    }
}

}  // namespace

TEST_CASE("random lists do what an interpreter of lists does") {
    for (unsigned seed = 0; seed < 1000; ++seed) {
        const std::vector<Step> steps = ListMaker(seed).run();
        std::string list;
        for (const Step& s : steps) {
            const std::string operand = s.operation == "CAL" ? "sr1(S1 := d, R := e)" : s.operand;
            list += fmt::format("{}{}{} {}\n", s.label, s.label.empty() ? "" : ": ", s.operation, operand);
        }
        const Read got = read(list);
        CAPTURE(list);
        CAPTURE(got.statements);
        REQUIRE(got.mistakes == "");
        test::Scanner scanner(
            fmt::format("PROGRAM p VAR a, b, c, d, e, x, y, z, w : BOOL; sr1 : SR; END_VAR VAR_TEMP {} "
                        "END_VAR\n{}END_PROGRAM\n",
                        got.declarations, got.statements));
        std::map<std::string, bool> values;
        std::mt19937 random(seed);
        for (int scan = 0; scan < 8; ++scan) {
            for (const char* name : {"a", "b", "c", "d", "e"}) {
                values[name] = random() % 2 == 1;
                scanner.set(fmt::format("p.{}", name), values[name] ? 1.0 : 0.0);
            }
            scanner.scan();
            interpret(steps, values);
            for (const char* name : {"x", "y", "z", "w"}) {
                CAPTURE(scan);
                REQUIRE((scanner.get(fmt::format("p.{}", name)) != 0.0) == values[name]);
            }
        }
    }
}
