// Drawn logic: what each drawing means, beside the same in statements; that what may be drawn in several ways is read
// alike; and what is said of mistakes.
#include <map>
#include <random>

#include "core/support.hpp"

using namespace vyard;

namespace {

#ifdef __SANITIZE_ADDRESS__
constexpr unsigned kShare = 10;  // sanitizers look for other mistakes, and take their time
#else
constexpr unsigned kShare = 1;
#endif

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
    {"names without rails beside them, and a ragged right rail", R"(LADDER
   a     b       x
+--| |---| |----( )-+
|  c         y       |
+--|/|------( )-----+
END_LADDER)",
     "x := a AND b; y := NOT c;"},
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
    {"EN that is negated at the rail: never done", R"(LADDER
|         +------+            |
|         | MOVE |            |
+--------o|EN OUT|- j         |
|      7 -|IN    |            |
|         +------+            |
END_LADDER)",
     "IF FALSE THEN j := 7; END_IF;"},
    {"what EN decides on goes through a line by its name too", R"(FBD
        +--------+
        |  MOVE  |
a ------|EN   OUT|---->on>
3 ------|IN      |
        +--------+
>on>---- j
        +--------+
        |  MOVE  |
b ------|EN   OUT|---- j
4 ------|IN      |
        +--------+
END_FBD)",
     "IF a THEN j := 3; END_IF; IF b THEN j := 4; END_IF;"},
    {"a literal for two", R"(FBD
        +--------+
        |  MOVE  |
a ------|EN   OUT|-+-- j
3 ------|IN      | |
        +--------+ +-- k
END_FBD)",
     "IF a THEN j := 3; k := 3; END_IF;"},
    {"a contact beside a box on one line", R"(LADDER
|            t1                   |
|         +-------+               |
|  a      |  TON  |           x   |
+--| |----|IN    Q|------+---( )--+
| T#20ms -|PT     |      |        |
|         +-------+      |        |
|  b                     |        |
+--| |-------------------+        |
END_LADDER)",
     "t1(IN := a, PT := T#20ms); x := t1.Q OR b;"},
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

namespace {

/// A text with its drawings formatted; "" when there are mistakes.
std::string formatted(const std::string& text) {
    base::Diagnostics diagnostics;
    const auto out = logic::with_drawings_formatted(base::make_source("t", text), diagnostics);
    CHECK(diagnostics.render() == "");
    return out.value_or("");
}

std::string meaning(const std::string& text) {
    base::Diagnostics diagnostics;
    const base::SourcePtr source = base::make_source("t", text);
    std::string out;
    for (const logic::Drawing& d : logic::drawings_of(source, diagnostics)) out += logic::drawing_meaning(d);
    CHECK(diagnostics.render() == "");
    return out;
}

}  // namespace

TEST_CASE("drawings mean what the same statements do, and do so still when they are formatted") {
    for (const Twin& t : kTwins) {
        const std::string what = t.what;
        CAPTURE(what);
        CHECK(difference(t.drawn, t.written) == "");
        const std::string canonical = formatted(t.drawn);
        CAPTURE(canonical);
        CHECK(meaning(canonical) == meaning(t.drawn));
        CHECK(formatted(canonical) == canonical);
        CHECK(difference(canonical, t.written) == "");
    }
}

namespace {

/// What is said of a drawing; its LADDER or FBD stands on line 2.
std::string said(const std::string& drawn) {
    base::Diagnostics diagnostics;
    logic::compile({base::make_source("t", program(drawn))}, diagnostics);
    return test::joined(test::lines_of(diagnostics));
}

struct Mistake {
    const char* drawn;
    const char* said;
};

const Mistake kMistakes[] = {
    {R"(LADDER
|  a     b    x  |
+--| |---| |-( )-+
|  c             |
+--| |---        |
END_LADDER)",
     "6:9 this line ends nowhere [lead it to a rail, a '+', a symbol or a value]\n"},
    {R"(LADDER
|        x  |
+--| |--( )-+

|  a        |
+--| |--(S)-+
END_LADDER)",
     "4:4 this contact has no name [the name stands on the row above, over the middle of the symbol]\n"
     "7:9 this coil has no name [the name stands on the row above, over the middle of the symbol]\n"},
    {R"(LADDER
|  a              x  |
+--| |--+--------( )-+
|       |            |
|  b    |  c         |
+--| |--|--| |--+    |
|       |       |    |
|       +-------+    |
|       |   y        |
|       +--( )-------+
END_LADDER)",
     "11:12 power would flow backwards from 'c' to 'y' [power flows from left to right only; draw what this line is "
     "for "
     "as a rung of its own]\n"},
    {R"(LADDER
|  a     x    b    y  |
+--| |--( )--| |--( )-+
END_LADDER)",
     "4:14 a contact stands behind the coil 'x' [coils end a rung; use the coil's name in a rung below]\n"},
    {R"(LADDER
|  a     b  |
+--| |--| |-+
END_LADDER)",
     "4:9 this rung drives nothing [a coil is missing between this contact and the right rail]\n"},
    {R"(LADDER
|  a     x      |
+--| |--( )---  |
|  b     y      |
+--| |--( )-----+
END_LADDER)",
     "4:14 this line ends nowhere [lead it to a rail, a '+', a symbol or a value]\n"},
    {R"(LADDER
|-------|

   a    x
---| |-( )-
END_LADDER)",
     "3:1 a line leads from rail to rail with nothing in it\n"
     "5:4 this rung has no left rail [a rung starts with '|' or '+' at its left]\n"},
    {R"(LADDER
|  a
+--| |--->>SKOP

SKIP:
|  aa    xx |
+--| |--( )-+
SKIP:
END_LADDER)",
     "4:12 no network of this drawing has the label 'SKOP' [did you mean 'SKIP'?]\n"
     "7:4 no variable is named 'aa' [did you mean 'a'?]\n"
     "7:10 no variable is named 'xx' [did you mean 'x'?]\n"
     "9:1 the label 'SKIP' stands twice\n"},
    {R"(LADDER
|  i     j  |
+--| |--( )-+

|  i     x  |
+--|>|--( )-+
|  T#2s     |
END_LADDER)",
     "3:4 a contact needs a BOOL, 'i' is INT [compare it: the operator stands in the contact, the values above and "
     "below "
     "it]\n3:10 a coil needs a BOOL, 'j' is INT\n"
     "7:4 INT and TIME do not meet in '>' [a time is written T#500ms, T#1.5s ...]\n"},
    {R"(FBD
       +----+
a -----| OR |--+---- x
b -----|    |  |
       +----+  |
       +-----+ |
c -----| AND |-+
d -----|     |
       +-----+
END_FBD)",
     "3:8 two outputs are joined here: 'AND' and 'OR' [join them with an OR box]\n"},
    {R"(FBD
        +----+     +-----+
a ------| OR |     | AND |
   +----|    |-----|     |--+--- x
   |    +----+  b--|     |  |
   |               +-----+  |
   +------------------------+
END_FBD)",
     "3:20 the box 'AND' is in a loop of lines, and nothing says which box goes first [take the loop through a "
     "variable, or write an order into the lower edges of its boxes: +--1--+]\n"},
    {R"(FBD
         t1
      +--------+
      |  TON   |
a ----|INN    Q|--- x
      |     ETT|--- et
      +--------+
END_FBD)",
     "6:8 TON has no input 'INN' [did you mean 'IN'?]\n7:13 TON 't1' has no input or output 'ETT' [did you mean "
     "'ET'?]\n"},
    {R"(FBD
         t1
      +-------+
      |  TON  |
a ----|IN    Q|--- x
      |      ET|--- et
      +-------+
END_FBD)",
     "7:15 the side of this box is not straight [its corners stand above one another, with '|' between them]\n"},
    {R"(FBD
      +------+
      | TON  |
a ----|IN   Q|---- x
      +------+
         t1
      +------+
      | TOF  |
b ----|IN   Q|---- y
      +------+
         t9
      +------+
      | AND  |
a ----|      |---- z
b ----|      |
      +------+
END_FBD)",
     "4:9 this box of TON has no instance [the name of a variable of that type stands on the row above the box]\n"
     "7:10 't1' is TON, the box says TOF\n"
     "12:10 AND is a function and has no instance [leave out the name above the box]\n"},
    {R"(FBD
a ---| |--- x
END_FBD)",
     "3:6 this contact has no name [the name stands on the row above, over the middle of the symbol]\n"
     "3:6 a contact stands in a LADDER, not in an FBD\n"},
    {R"(FBD
a +  ---- x
b ---- 5
c d ---- y
END_FBD)",
     "3:4 expected a value, found the end of the text\n4:8 only a variable can be assigned to\n"
     "5:3 'c d' is not a name, value or expression [two names need two blanks between them]\n"},
    {R"(FBD
         t1
      +--------+
      |  TON   |
a ----|IN    QQ|
      |PP    ET|
      +--------+
      +--------+
      |  ADD   |
i ----|IN1     |---- j
i ----|IN2     |
      |IN3     |
      +--------+
      +--------+
      | twice  |
i ----|n       |---- j
      |     odd|
      |    even|
      +--------+
END_FBD)",
     "6:14 TON 't1' has no input or output 'QQ' [did you mean 'Q'?]\n"
     "7:8 TON 't1' has no input or output 'PP' [did you mean 'PT'?]\n"
     "13:8 no line leads to 'IN3' of ADD\n19:12 twice has no output 'even' [known: odd]\n"},
    {R"(FBD
          t1
       +-------+
       |  TON  |
a -----|IN    Q|>--- x
       +-------+
       +-------+
       | MOVE  |
i -----|IN  OUT|---- j
       |       |---- k
       +-------+
END_FBD)",
     "6:15 an edge is looked for at an input, this is an output [lead the output to a contact |P|, or to a pin that is "
     "marked]\n11:16 MOVE has one result, and this is its second\n"},
    {R"(LADDER
|            t1                 |
|         +-------+             |
|  a      |  TON  |         x   |
+--| |----|IN   ET|----+---( )--+
|         +-------+    |        |
|  b                   |        |
+--| |-----------------+        |
END_LADDER)",
     "6:17 a line that others join needs a BOOL, 't1.ET' is TIME\n"},
    {R"(FBD
a ---->on>

>off>---- x
END_FBD)",
     "3:7 the line 'on' comes back nowhere in this network [it goes on at >on>---]\n"
     "5:1 no line leaves as 'off' in this network\n"},
};

}  // namespace

TEST_CASE("what is no network is kept by the formatter: comments wherever they stand, labels between rails") {
    CHECK(formatted(R"(  LADDER
// first
  (* over
       two rows *)


|  a       x  |
+--| |----( )-+  (* it goes
                    on here *)
|   |  // of bare rails
| DONE: |   // of a label
|  b       x  |     // of b
+--| |----(S)-+
// last
  END_LADDER)") == R"(  LADDER
  // first
  (* over
       two rows *)

  |   a      x   |
  +--| |----( )--+  // it goes

  // on here
  // of bare rails

  DONE:  // of a label
  |   b      x   |
  +--| |----(S)--+  // of b

  // last
  END_LADDER)");
}

TEST_CASE("mistakes in a drawing are said at their row and column, network by network") {
    for (const Mistake& m : kMistakes) {
        const std::string drawn = m.drawn;
        CAPTURE(drawn);
        CHECK(said(m.drawn) == m.said);
    }
}

namespace {

/// A rung as its structure: contacts in series and in parallel.
struct Piece {
    enum class Kind : std::uint8_t { Contact, Series, Parallel } kind = Kind::Contact;
    std::string name;
    char mark = ' ';
    bool last = false;  ///< Of a contact of an edge.
    std::vector<Piece> parts;
};

using Random = std::mt19937;

int pick(Random& random, int count) {
    return static_cast<int>(random() % static_cast<unsigned>(count));
}

/// Of all names and marks; or of inputs and levels alone.
Piece piece(Random& random, int depth, bool plain = false) {
    static constexpr const char* kNames[] = {"a", "b", "c", "d", "e", "x", "y", "z", "w", "h[1]", "t1.Q"};
    Piece out;
    const int kind = depth > 3 ? 0 : pick(random, 4);
    if (kind < 2) {
        out.name = kNames[pick(random, plain ? 5 : 11)];
        out.mark = " /PN"[plain || pick(random, 6) < 4 ? pick(random, 2) : pick(random, 4)];
        return out;
    }
    out.kind = kind == 2 ? Piece::Kind::Series : Piece::Kind::Parallel;
    for (int n = 2 + pick(random, 2); n > 0; --n) out.parts.push_back(piece(random, depth + 1, plain));
    return out;
}

/// Rows of equal width; lines come in and go out in the second row.
using Rows = std::vector<std::string>;

Rows drawn(const Piece& p, Random& random) {
    if (p.kind == Piece::Kind::Contact) {
        const std::size_t width = std::max<std::size_t>(p.name.size() + 2, 5);
        std::string name(width, ' '), symbol(width, '-');
        name.replace((width - p.name.size()) / 2, p.name.size(), p.name);
        symbol.replace((width - 3) / 2, 3, fmt::format("|{}|", p.mark));
        return {name, symbol};
    }
    std::vector<Rows> parts;
    for (const Piece& part : p.parts) parts.push_back(drawn(part, random));
    Rows out;
    if (p.kind == Piece::Kind::Series) {
        std::size_t height = 0, width = 0;
        for (const Rows& part : parts) height = std::max(height, part.size());
        for (const Rows& part : parts) {
            for (std::size_t r = 0; r < height; ++r) {
                if (out.size() <= r) out.emplace_back();
                out[r] += r < part.size() ? part[r] : std::string(part[0].size(), ' ');
            }
            width += part[0].size();
            const std::size_t gap = static_cast<std::size_t>(pick(random, 3));
            for (std::size_t r = 0; r < height; ++r) out[r] += std::string(gap, r == 1 ? '-' : ' ');
        }
        return out;
    }
    std::size_t width = 0;
    for (const Rows& part : parts) width = std::max(width, part[0].size());
    for (std::size_t i = 0; i < parts.size(); ++i) {
        for (std::size_t r = 0; r < parts[i].size(); ++r) {
            const bool line = r == 1;
            const bool between = (i > 0 && r == 0) || (i + 1 < parts.size() && r > 1);
            const char side = line ? '+' : between ? '|' : ' ';
            std::string row = parts[i][r] + std::string(width - parts[i][r].size(), line ? '-' : ' ');
            out.push_back(fmt::format("{}{}{}", side, row, side));
        }
        if (i + 1 < parts.size() && pick(random, 3) == 0) out.push_back(fmt::format("|{}|", std::string(width, ' ')));
    }
    return out;
}

struct Rung {
    Piece piece;
    std::vector<std::pair<std::string, char>> coils;
    std::vector<bool> last;  ///< By coil, of its edge.
};

std::string drawn(const Rung& rung, Random& random) {
    Rows body = drawn(rung.piece, random);
    const bool rail = pick(random, 2) == 0;
    const std::size_t height = std::max(body.size(), rung.coils.size() * 2);
    std::string out;
    for (std::size_t r = 0; r < height; ++r) {
        const bool line = r % 2 == 1 && r / 2 < rung.coils.size();
        std::string row = r < body.size() ? body[r] : std::string(body[0].size(), ' ');
        row += r == 1                               ? (rung.coils.size() > 1 ? "-+-" : "---")
               : line                               ? " +-"
               : r / 2 < rung.coils.size() && r > 1 ? " | "
                                                    : "   ";
        if (r / 2 < rung.coils.size()) {
            const auto& [name, mark] = rung.coils[r / 2];
            row += line ? fmt::format("-({})---", mark) : fmt::format(" {:<6}", name);
        } else {
            row += "       ";
        }
        out += fmt::format("{}{}{}\n", r == 1 ? "+-" : "| ", row, !rail ? "" : line ? "+" : "|");
    }
    return out;
}

/// The oracle: what IEC 61131-3 says of contacts and coils, told of the structure.
class Oracle {
  public:
    std::map<std::string, bool> values;

    void run(Rung& rung) {
        const bool power = flow(rung.piece, true);
        for (std::size_t i = 0; i < rung.coils.size(); ++i) {
            const auto& [name, mark] = rung.coils[i];
            bool& value = values[name];
            const bool before = rung.last[i];
            switch (mark) {
                case ' ': value = power; break;
                case '/': value = !power; break;
                case 'S': value = value || power; break;
                case 'R': value = value && !power; break;
                case 'P': value = power && !before; break;
                default: value = !power && before; break;
            }
            rung.last[i] = power;
        }
    }

  private:
    bool flow(Piece& p, bool power) {
        if (p.kind == Piece::Kind::Contact) return closed(p) && power;
        if (p.kind == Piece::Kind::Series) {
            for (Piece& part : p.parts) power = flow(part, power);
            return power;
        }
        bool out = false;
        for (Piece& part : p.parts) out = flow(part, power) || out;
        return out;
    }
    /// A contact of an edge looks in every scan, whether or not power reaches it.
    bool closed(Piece& p) {
        const bool now = values[p.name], before = p.last;
        p.last = now;
        return p.mark == ' ' ? now : p.mark == '/' ? !now : p.mark == 'P' ? now && !before : !now && before;
    }
};

}  // namespace

TEST_CASE("ten thousand random rungs do what their structure says") {
    // As an F_TRIG of the standard does, a falling edge is seen in the first scan when nothing is known of before.
    static constexpr const char* kCoils[] = {"x", "y", "z", "w", "h[1]"};
    for (unsigned seed = 0; seed < 2500 / kShare; ++seed) {
        Random random(seed);
        std::vector<Rung> rungs(4);
        std::string text = "LADDER\n";
        for (Rung& rung : rungs) {
            rung.piece = piece(random, 0);
            for (int n = 1 + pick(random, 3); n > 0; --n)
                rung.coils.emplace_back(kCoils[pick(random, 5)], " /SRPN"[pick(random, 6)]);
            rung.last.assign(rung.coils.size(), false);
            text += drawn(rung, random) + "\n";
        }
        CAPTURE(seed);
        CAPTURE(text);
        text += "END_LADDER";
        const std::string canonical = formatted(text);
        CAPTURE(canonical);
        REQUIRE(formatted(canonical) == canonical);
        REQUIRE(meaning(canonical) == meaning(text));
        test::Scanner scanner(program(seed % 2 == 0 ? text : canonical));
        Oracle oracle;
        for (int scan = 0; scan < 12; ++scan) {
            for (const char* name : {"a", "b", "c", "d", "e", "t1.Q"}) {
                oracle.values[name] = pick(random, 2) == 1;
                scanner.set(fmt::format("p.{}", name), oracle.values[name] ? 1.0 : 0.0);
            }
            scanner.scan();
            for (Rung& rung : rungs) oracle.run(rung);
            for (const char* name : kCoils) {
                CAPTURE(scan);
                CAPTURE(std::string(name));
                REQUIRE((scanner.get(fmt::format("p.{}", name)) != 0.0) == oracle.values[name]);
            }
        }
    }
}

TEST_CASE("a drawing that is too large is refused, and takes no memory") {
    CHECK(said("LADDER\n| " + std::string(5'000'000, '-') + "\nEND_LADDER") ==
          "3:1001 a row of a drawing has 1000 characters at most [blank lines divide networks]\n");
    std::string tall = "LADDER\n";
    for (int i = 0; i < 3000; ++i) tall += "| a    x |\n+-| |-( )+\n";
    CHECK(said(tall + "END_LADDER") == "3:1 a network has 2000 rows at most [blank lines divide networks]\n");
}

TEST_CASE("no drawing can crash the reader: every prefix and random cuts") {
    static constexpr char kBytes[] = "|+-() /<>=o0aPS[].'\"*\t\n\0\xE2\x94\x9C#:";
    Random random(3);
    unsigned readable = 0;
    for (const Twin& t : kTwins) {
        const std::string text = program(t.drawn);
        for (std::size_t n = text.find("END_VAR\n"); n < text.size(); n += 7 * kShare) said(text.substr(0, n));
        for (unsigned i = 0; i < 60 / kShare; ++i) {
            std::string mutated = t.drawn;
            for (int k = 1 + pick(random, 6); k > 0; --k) {
                const std::size_t at = static_cast<std::size_t>(pick(random, static_cast<int>(mutated.size())));
                const char byte = kBytes[pick(random, static_cast<int>(sizeof kBytes) - 1)];
                switch (pick(random, 3)) {
                    case 0: mutated[at] = byte; break;
                    case 1: mutated.insert(at, 1, byte); break;
                    default: mutated.erase(at, 1); break;
                }
            }
            said(mutated);
            // What can be read at all is written so that it is read as the same.
            base::Diagnostics diagnostics;
            const base::SourcePtr source = base::make_source("t", mutated);
            const auto canonical = logic::with_drawings_formatted(source, diagnostics);
            if (!canonical) continue;
            ++readable;
            CAPTURE(mutated);
            CAPTURE(*canonical);
            REQUIRE(formatted(*canonical) == *canonical);
            REQUIRE(meaning(*canonical) == meaning(mutated));
        }
    }
    CHECK(readable > 50 / kShare);
    CHECK(said(kTwins[0].drawn) == "");
}

TEST_CASE("a line that a contact and a box feed shows power from either") {
    test::Scanner scanner(program(R"(LADDER
|            t1                   |
|         +-------+               |
|  a      |  TON  |           x   |
+--| |----|IN    Q|------+---( )--+
| T#10ms -|PT     |      |        |
|         +-------+      |        |
|  b                     |        |
+--| |-------------------+        |
END_LADDER)"));
    for (int scan = 0; scan < 40; ++scan) {
        scanner.set("p.a", scan % 10 < 4 ? 1 : 0);
        scanner.set("p.b", scan % 3 == 0 ? 1 : 0);
        scanner.scan();
        const auto seen = logic::seen(*scanner.model().program, scanner.state.memory, scanner.now.count(), "P");
        const logic::SeenNetwork& network = seen->front().networks.front();
        for (const logic::DrawnElement& e : network.network->elements) {
            if (e.kind != logic::ElementKind::Coil) continue;
            CHECK((base::at(network.nets, e.pins[0].net) == logic::Live::On) == (scanner.get("p.x") != 0));
        }
    }
    CHECK_FALSE(logic::seen(*scanner.model().program, scanner.state.memory, 0, "q").has_value());
}

TEST_CASE("a look at a drawing leaves no trace: what is written there is not read there") {
    base::Diagnostics diagnostics;
    logic::compile({base::make_source("t",
                                      "FUNCTION_BLOCK f VAR_INPUT a : BOOL; END_VAR VAR x : BOOL; "
                                      "END_VAR\nLADDER\n| a    x |\n+-| |-( )+\nEND_LADDER\nEND_FUNCTION_BLOCK")},
                   diagnostics);
    CHECK(test::joined(test::lines_of(diagnostics, true)) == "1:50 'x' is written, but nothing ever reads it\n");
}

TEST_CASE("a drawn transition that nothing writes is a mistake") {
    base::Diagnostics diagnostics;
    logic::compile({base::make_source("t",
                                      "PROGRAM p VAR a : BOOL; END_VAR INITIAL_STEP s: END_STEP TRANSITION t FROM s TO "
                                      "s:\nFBD\nTRUE --- a\nEND_FBD\nEND_TRANSITION END_PROGRAM")},
                   diagnostics);
    CHECK(test::joined(test::lines_of(diagnostics)) ==
          "1:69 nothing of this drawing writes 't' [a coil or an output of the transition's name is its condition]\n");
}

TEST_CASE("what a rung shows is what it did: power at its coil, and at every contact") {
    for (unsigned seed = 0; seed < 300 / kShare; ++seed) {
        Random random(seed);
        Rung rung;
        rung.piece = piece(random, 0, true);
        rung.coils = {{"x", ' '}};
        rung.last = {false};
        const std::string text = drawn(rung, random);
        CAPTURE(text);
        test::Scanner scanner(program("LADDER\n" + text + "END_LADDER"));
        Oracle oracle;
        for (int scan = 0; scan < 6; ++scan) {
            for (const char* name : {"a", "b", "c", "d", "e"}) {
                oracle.values[name] = pick(random, 2) == 1;
                scanner.set(fmt::format("p.{}", name), oracle.values[name] ? 1.0 : 0.0);
            }
            scanner.scan();
            oracle.run(rung);
            const auto seen = logic::seen(*scanner.model().program, scanner.state.memory, scanner.now.count(), "p");
            REQUIRE((seen && seen->size() == 1 && seen->front().networks.size() == 1));
            const logic::SeenNetwork& network = seen->front().networks.front();
            for (std::size_t i = 0; i < network.network->elements.size(); ++i) {
                const logic::DrawnElement& e = network.network->elements[i];
                const bool value = oracle.values[e.name.text];
                const bool closed = e.contact == logic::ContactKind::Closed ? !value : value;
                REQUIRE((network.state(static_cast<int>(i)) == logic::Live::On) == closed);
                if (e.kind != logic::ElementKind::Coil) continue;
                REQUIRE(base::at(network.nets, e.pins[0].net) != logic::Live::Unknown);
                REQUIRE((base::at(network.nets, e.pins[0].net) == logic::Live::On) == oracle.values["x"]);
            }
        }
    }
    CHECK(logic::drawn_units(*test::Scanner("PROGRAM q VAR a : BOOL; END_VAR a := TRUE; END_PROGRAM").model().program)
              .empty());
}
