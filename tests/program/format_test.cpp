// Drawings formatted by the built program: what is written, what is kept, what is refused.
#include "program/support.hpp"

using namespace vyard::test;

namespace {

const char* const kRagged = R"(VAR_GLOBAL
    start_pb AT %IX0.0 : BOOL;
    stop_pb AT %IX0.1 : BOOL;
    run AT %QX0.0 : BOOL;
    seen AT %QX0.1 : BOOL;
    count AT %QW2 : INT;
END_VAR
PROGRAM panel
VAR
    c : CTU;
END_VAR
    LADDER
    // Stop is wired normally closed.
|  start_pb      stop_pb     run        // seals itself in
+--| |--+--------| |-------( )
|    run|
+--| |--+


    (* A count of starts,
         over two lines. *)
    rung: start_pb AND NOT (run OR stop_pb) -> (S) seen
    |                                              |
    END_LADDER
FBD
            c
         +----+
run---+  |CTU |
      +->|CU  |      // counts
      9 -|PV  |
         |  CV|--count
         +----+
// the last word
END_FBD
END_PROGRAM
)";

const char* const kFormatted = R"(    LADDER
    // Stop is wired normally closed.
    | start_pb   stop_pb         run  |
    +----| |---+---| |-----------( )--+  // seals itself in
    |    run   |                      |
    +----| |---+                      |

    (* A count of starts,
         over two lines. *)
    | start_pb   run   stop_pb  seen  |
    +----| |-----|/|-----|/|-----(S)--+
    END_LADDER
FBD
            c
        +-------+
        |  CTU  |
  run --|>CU  CV|-- count  // counts
    9 --|PV     |
        +-------+

// the last word
END_FBD
END_PROGRAM
)";

}  // namespace

TEST_CASE("format writes drawings in their layout, keeps what they do and what is said of them") {
    Folder f;
    f.write("panel.st", kRagged);
    f.write("table.csv", "time,tag,value\n0,stop_pb,TRUE\n0.02,start_pb,TRUE\n0.04,start_pb,FALSE\n");
    const std::string run = "run panel.st --scan 10ms --stimulus table.csv --for 100ms --out ";
    CHECK(f.run(run + "before").exit == 0);
    CHECK(f.run("format panel.st --check").out == "panel.st is not formatted\n");
    CHECK(f.run("format panel.st --check").exit == 1);
    CHECK(f.read("panel.st") == kRagged);

    const Result written = f.run("format panel.st");
    CHECK(written.exit == 0);
    CHECK(written.out == "wrote panel.st\n");
    const std::string text = f.read("panel.st");
    CHECK(contains(text, kFormatted));
    CHECK(f.run("format panel.st").out == "panel.st is formatted\n");
    CHECK(f.run("format panel.st --check").exit == 0);
    CHECK(f.read("panel.st") == text);
    CHECK(f.run(run + "after").exit == 0);
    CHECK(f.read("after/trace.csv") == f.read("before/trace.csv"));
}

TEST_CASE("format changes nothing where a drawing has mistakes, and says all of them") {
    Folder f;
    f.write("a.st",
            "PROGRAM a\nVAR x, y : BOOL; END_VAR\nLADDER\n| x       y |\n+-| |--  ( )-+\nEND_LADDER\nEND_PROGRAM\n");
    const std::string before = f.read("a.st");
    const Result bad = f.run("format a.st");
    CHECK(bad.exit == 2);
    CHECK(contains(bad.err, "a.st:5:"));
    CHECK(f.read("a.st") == before);
    CHECK(f.run("format none.st").exit == 2);

    struct Row {
        const char* rung;
        const char* said;
    };
    static const Row kRows[] = {
        {"x -> ", "expected the variable of a coil"},
        {"x AND -> y", "expected a contact"},
        {"(x OR y -> y", "expected ')'"},
        {"x y", "expected AND, OR or '->'"},
        {"NOT P(x) -> y", "a contact cannot show NOT of an edge"},
        {"NOT (x AND 3 < 4) -> y", "a contact cannot show NOT of '<'"},
        {"1 < 2 < 3 -> y", "a contact compares two values"},
        {"1 < -> y", "a value is missing beside this comparison"},
        {"x -> (Q) y", "expected a coil's mark"},
        {"x -> y, >>", "this jump names no label"},
        {"P() -> y", "an edge needs a variable: P(x)"},
    };
    for (const Row& row : kRows) {
        f.write("r.st", std::string("PROGRAM r\nVAR x, y : BOOL; END_VAR\nLADDER\nrung: ") + row.rung +
                            "\nEND_LADDER\nEND_PROGRAM\n");
        const std::string rung = row.rung;
        CAPTURE(rung);
        for (const char* command : {"check r.st", "format r.st"}) {
            const Result said = f.run(command);
            CHECK(said.exit == 2);
            CHECK(contains(said.err, "r.st:4:"));
            CHECK(contains(said.err, row.said));
        }
    }
}

TEST_CASE("format of a yard goes through its logic files, also when other files have mistakes; line ends are kept") {
    Folder f;
    f.copy_example();
    CHECK(f.run("format glaze --check").out == "all files are formatted\n");
    f.replace("glaze/logic/70_panel.st", "END_LADDER", "\nrung: line_run AND NOT stop_pb -> silence\nEND_LADDER");
    f.replace("glaze/map.csv", "\n", "\nnonsense,,,\n");
    CHECK(f.run("format glaze --check").exit == 1);
    CHECK(f.run("format glaze").out == "wrote glaze/logic/70_panel.st\n");
    CHECK(contains(f.read("glaze/logic/70_panel.st"), "| line_run  stop_pb "));
    CHECK(f.run("format glaze").out == "all files are formatted\n");
    f.replace("glaze/logic/70_panel.st", "END_LADDER", "\nrung: line_run ->\nEND_LADDER");
    const Result bad = f.run("format glaze");
    CHECK(bad.exit == 2);
    CHECK(contains(bad.err, "expected the variable of a coil"));

    f.write("a.st", "PROGRAM a\r\nVAR x, y : BOOL; END_VAR\r\nLADDER\r\nrung: x -> y\r\nEND_LADDER\r\nEND_PROGRAM\r\n");
    CHECK(f.run("format a.st").out == "wrote a.st\n");
    CHECK(contains(f.read("a.st"), "LADDER\r\n|   x      y   |\r\n+--| |----( )--+\r\nEND_LADDER\r\n"));
}
