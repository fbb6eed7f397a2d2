// Drawn logic: what each drawing means, beside the same in statements; that what may be drawn in several ways is read
// alike; and what is said of mistakes.
#include <random>

#include "core/support.hpp"

using namespace vyard;

namespace {

std::string program(const std::string& body) {
    return "FUNCTION twice : INT VAR_INPUT n : INT; END_VAR VAR_OUTPUT odd : BOOL; END_VAR odd := n MOD 2 = 1; "
           "twice := 2 * n; END_FUNCTION FUNCTION_BLOCK bump VAR_INPUT go : BOOL; END_VAR VAR_IN_OUT n : INT; END_VAR "
           "VAR_OUTPUT big : BOOL; END_VAR IF go THEN n := n + 1; END_IF; big := n > 3; END_FUNCTION_BLOCK PROGRAM p "
           "VAR a, b, c, d, e, x, y, z, w : BOOL; i, j, k : INT; r : REAL; et : TIME; t1 : TON; t2 : TOF; ct : CTU; sr "
           ": SR; bp : bump; h : ARRAY[0..3] OF BOOL; tr : R_TRIG; tf : F_TRIG; l : BOOL; END_VAR\n" +
           body + "\nEND_PROGRAM\n";
}

/// Runs both over the same random inputs; what differs first, or "".
std::string difference(const std::string& drawn, const std::string& written, int scans = 300) {
    test::Scanner one(program(drawn)), other(program(written));
    std::mt19937 random(7);
    for (int n = 0; n < scans; ++n) {
        for (const char* name : {"p.a", "p.b", "p.c", "p.d", "p.e"}) {
            const double value = random() % 3 == 0 ? 1.0 : 0.0;
            one.set(name, value);
            other.set(name, value);
        }
        const double number = static_cast<double>(random() % 7);
        one.set("p.i", number);
        other.set("p.i", number);
        one.scan();
        other.scan();
        for (const char* name : {"p.x", "p.y", "p.z", "p.w", "p.i", "p.j", "p.k", "p.r", "p.et", "p.h[1]", "p.ct.CV"}) {
            if (one.get(name) != other.get(name))
                return fmt::format("scan {}: {} is {}, in statements {}", n, name, one.get(name), other.get(name));
        }
    }
    return "";
}

struct Twin {
    const char* what;
    const char* drawn;
    const char* written;
};

const Twin kTwins[] = {
    {"a contact and a coil", R"(LADDER
|  a       x  |
+--| |----( )-+
END_LADDER)",
     "x := a;"},
    {"closed contact, negated coil, right rail left out", R"(LADDER
|  a       x
+--|/|----(/)
END_LADDER)",
     "x := NOT NOT a;"},
    {"series, and a branch around it", R"(LADDER
|  a     b        c     x  |
+--| |---|/|--+---| |--( )-+
|  d          |            |
+--| |--------+            |
END_LADDER)",
     "x := ((a AND NOT b) OR d) AND c;"},
    {"a branch within a branch", R"(LADDER
|     a        b            x  |
+----| |--+---| |--+---+---( )-+
|         |   c    |   |       |
|         +---|/|--+   |       |
|     d                |       |
+----| |---------------+       |
END_LADDER)",
     "x := (a AND (b OR NOT c)) OR d;"},
    {"a rung that splits, with the coils in order", R"(LADDER
|  a            x  |
+--| |---+-----( )-+
|        | x   y   |
|        +-|/|-( )-+
END_LADDER)",
     "l := a; x := l; y := l AND NOT x;"},
    {"coils in a row", R"(LADDER
|  a     x    y   |
+--| |--( )--(/)--+
END_LADDER)",
     "x := a; y := NOT a;"},
    {"set and reset", R"(LADDER
|  a       x  |
+--| |----(S)-+
|             |
|  b       x  |
+--| |----(R)-+
END_LADDER)",
     "IF a THEN x := TRUE; END_IF; IF b THEN x := FALSE; END_IF;"},
    {"contacts and coils of edges", R"(LADDER
|  a     b     x  |
+--|P|---| |--( )-+

|  a     y  |
+--|N|--( )-+

|  c     z  |
+--| |--(P)-+

|  c     w  |
+--| |--(N)-+
END_LADDER)",
     "tr(CLK := a); x := tr.Q AND b; tf(CLK := a); y := tf.Q; z := c AND NOT h[0]; w := NOT c AND h[0]; h[0] := c;"},
    {"comparison contacts", R"(LADDER
|   i     i     x  |
+--|>=|--|<>|--( )-+
|   2     5        |
END_LADDER)",
     "x := i >= 2 AND i <> 5;"},
    {"elements, fields and addresses", R"(LADDER
|  h[1]   t1.Q   h[ 2 ]  |
+--|/|----|/|-----( )----+

|  %MX2.1   h[1]  |
+---|/|-----( )---+

|  h[2]   %MX2.1  |
+--| |-----( )----+

|  h[2]    x  |
+--| |----( )-+
END_LADDER)",
     "h[2] := NOT h[1] AND NOT t1.Q; h[1] := NOT %MX2.1; %MX2.1 := h[2]; x := h[2];"},
    {"a timer in a rung", R"(LADDER
|            t1                    |
|          +-------+               |
|  a       |  TON  |           x   |
+--| |-----|IN    Q|----------( )--+
|  T#30ms -|PT   ET|-- et          |
|          +-------+               |
END_LADDER)",
     "t1(IN := a, PT := T#30ms); x := t1.Q; et := t1.ET;"},
    {"negated pins and edges at pins", R"(LADDER
|             ct               |
|          +--------+          |
|  a       |  CTU   |      x   |
+--| |---->|CU     Q|o----( )--+
|  b       |        |          |
+--| |----o|R     CV|-- j      |
|       3 -|PV      |          |
|          +--------+          |
END_LADDER)",
     "tr(CLK := a); ct(CU := tr.Q, R := NOT b, PV := 3); x := NOT ct.Q; j := ct.CV;"},
    {"EN and ENO of a function: its output keeps its value", R"(LADDER
|           +----------+          |
|  a        |   ADD    |      x   |
+--| |------|EN     ENO|-----( )--+
|        i -|          |- j       |
|        1 -|          |          |
|           +----------+          |
END_LADDER)",
     "IF a THEN j := i + 1; END_IF; x := a;"},
    {"EN and ENO of a block: it stands still", R"(LADDER
|             ct               |
|          +--------+          |
|  a       |  CTU   |      x   |
+--| |-----|EN   ENO|-----( )--+
|        b-|CU    CV|-j        |
|        9-|PV      |          |
|          +--------+          |
END_LADDER)",
     "IF a THEN ct(CU := b, PV := 9); j := ct.CV; END_IF; x := a;"},
    {"functions in a row", R"(FBD
        +-----+     +-----+
i ------| ADD |     | MUL |
2 ------|     |-----|     |---- j
        +-----+ 3 --|     |
                    +-----+
END_FBD)",
     "j := (i + 2) * 3;"},
    {"a loop through a variable", R"(FBD
       +----+     +-----+
a -----| OR |     | AND |
x -----|    |-----|     |---- x
       +----+  b-o|     |
                  +-----+
END_FBD)",
     "x := (a OR x) AND NOT b;"},
    {"a loop of lines with a stated order takes the last scan's value", R"(FBD
          +----+     +-----+
a --------| OR |     | AND |
    +-----|    |-----|     |--+--- x
    |     +-1--+  b-o|     |  |
    |                +--2--+  |
    +-------------------------+
END_FBD)",
     "l := (a OR h[0]); h[0] := l AND NOT b; x := h[0];"},
    {"outputs on two variables, and lines that cross", R"(FBD
a ----+---------- x
      |
b ----|---+------ y
      |   |
      |   |  +-----+
      +---|--| XOR |
          +--|     |---- z
             +-----+
END_FBD)",
     "x := a; y := b; z := a XOR b;"},
    {"a bistable, and its output read", R"(FBD
        sr
     +------+
     |  SR  |
a ---|S1  Q1|---- x
b ---|R     |
     +------+
END_FBD)",
     "sr(S1 := a, R := b); x := sr.Q1;"},
    {"a function of one's own with a second output", R"(FBD
      +-----------+
      |   twice   |
i ----|n      odd |---- x
      |      twice|---- j
      +-----------+
END_FBD)",
     "j := twice(n := i, odd => x);"},
    {"a variable in and out", R"(FBD
         bp
     +--------+
     |  bump  |
a ---|go   big|---- x
k ---|n      n|---- j
     +--------+
END_FBD)",
     "bp(go := a, n := k); x := bp.big; j := k;"},
    {"signs for functions, expressions at lines", R"(FBD
               +---+
i + 1 ---------| + |
(j - 2) * 3 ---|   |---+    +----+
               +---+   +----| >= |---- x
                       10 --|    |
                            +----+

       +---+   +-----+
a -----| & |   | >=1 |
b -----|   |---|     |
       +---+   |     |---- y
          c --o|     |
               +-----+
END_FBD)",
     "x := (i + 1) + ((j - 2) * 3) >= 10; y := (a AND b) OR NOT c;"},
    {"a result for two, one of them negated", R"(FBD
          +-----+        +-----+
a --------| AND |--+-----| OR  |---- x
b -------o|     |  |  c -|     |
          +-----+  |     +-----+
                   |     +-----+
                   +----o| XOR |---- y
                      c -|     |
                         +-----+
END_FBD)",
     "l := a AND NOT b; x := l OR c; y := (NOT l) XOR c;"},
    {"EN of MOVE in two rungs: each writes only when it is meant", R"(LADDER
|         +--------+
|  a      |  MOVE  |
+--| |----|EN   ENO|
|      3 -|IN   OUT|- j
|         +--------+

|         +--------+
|  b      |  MOVE  |
+--| |----|EN   ENO|
|      4 -|IN   OUT|- j
|         +--------+
END_LADDER)",
     "IF a THEN j := 3; END_IF; IF b THEN j := 4; END_IF;"},
    {"a line that leaves and comes back by its name", R"(FBD
       +-----+
a -----| AND |
b -----|     |---->both>
       +-----+
                +----+
>both>----------| OR |
c --------------|    |---- x
                +----+
END_FBD)",
     "x := (a AND b) OR c;"},
    {"a block alone in a loop, with its order stated: it is given its own last output", R"(FBD
                  t1
               +--------+
               |  TON   |
     +--------o|IN     Q|--+---- x
     |  T#30ms-|PT    ET|  |
     |         +---1----+  |
     +---------------------+
END_FBD)",
     "t1(IN := NOT t1.Q, PT := T#30ms); x := t1.Q;"},
    {"jumps, forward and back, and RETURN", R"(LADDER
|  a
+--| |---->>SKIP

|  b       x  |
+--| |----( )-+

SKIP:
|  c       y  |
+--| |----( )-+

|  d
+--| |----<RETURN>

|  e       z  |
+--| |----( )-+
END_LADDER
w := a;)",
     "IF NOT a THEN x := b; END_IF; y := c; IF d THEN RETURN; END_IF; z := e; w := a;"},
    {"a coil is written before the jump beside it", R"(LADDER
|  a
+--| |--+-->>OVER
|       |    x
|       +---( )

|  b       y  |
+--| |----( )-+
OVER:
|          z
+---------(S)
END_LADDER)",
     "x := a; IF NOT a THEN y := b; END_IF; z := TRUE;"},
    {"a jump back, and a loop of three", R"(LADDER
|         +------+
|         | MOVE |
+---------|EN    |
|      0 -|IN OUT|- k
|         +------+
MORE:
|         +-------+
|         |  ADD  |
+---------|EN     |
|      k -|       |- k
|      2 -|       |
|         +-------+

|  k
+--|<|----->>MORE
|  6
END_LADDER)",
     "k := 0; REPEAT k := k + 2; UNTIL NOT (k < 6) END_REPEAT;"},
    {"drawings under a condition, and after statements", R"(IF a THEN
LADDER
|  b       x  |
+--| |----( )-+
END_LADDER
ELSE
    x := c;
END_IF;
FBD
x ---- y
END_FBD)",
     "IF a THEN x := b; ELSE x := c; END_IF; y := x;"},
    {"box-drawing characters", R"(LADDER
│  a     b        c     x  │
├──┤ ├───┤/├──┬───┤ ├──( )─┤
│  d          │            │
├──┤ ├────────┘            │
END_LADDER)",
     "x := ((a AND NOT b) OR d) AND c;"},
    {"a box of box-drawing characters", R"(LADDER
│            t1                │
│          ┌───────┐           │
│  a       │  TON  │       x   │
├──┤ ├─────┤IN    Q├──────( )──┤
│  T#30ms ─┤PT   ET├── et      │
│          └───────┘           │
END_LADDER)",
     "t1(IN := a, PT := T#30ms); x := t1.Q; et := t1.ET;"},
};

}  // namespace

TEST_CASE("drawings mean what the same statements do") {
    for (const Twin& t : kTwins) {
        const std::string what = t.what;
        CAPTURE(what);
        CHECK(difference(t.drawn, t.written) == "");
    }
}
