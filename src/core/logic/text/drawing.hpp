// Logic that is drawn: what a reader found in a LADDER or FBD drawing, before names and types are known. Elements stand
// in nets: all the lines that are joined.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/logic/text/token.hpp"

namespace vyard::logic {

enum class DrawnForm : std::uint8_t { Ladder, Blocks };

/// Text of the drawing, such as a name above a contact or what stands at the end of a line.
struct DrawnText {
    std::string text;
    Span span;
    std::size_t offset = 0;  ///< In the source.

    bool empty() const { return text.empty(); }
};

enum class ElementKind : std::uint8_t {
    Contact,
    Coil,
    Box,
    Source,  ///< What stands at the left end of a line.
    Target,  ///< What stands at the right end of a line.
    Jump,
    Return,
    Leave,  ///< --->name>: the line goes on where >name>--- stands.
    Enter,
};

enum class ContactKind : std::uint8_t { Open, Closed, Rising, Falling, Compare };
enum class CoilKind : std::uint8_t { Plain, Negated, Set, Reset, Rising, Falling };
enum class PinEdge : std::uint8_t { None, Rising, Falling };

/// Where the operands of a comparing contact are looked at, in place of a pin.
constexpr int kFirstOperand = 2, kSecondOperand = 3;

/// Where an element meets a line. A contact has two, left and right; a coil too.
struct DrawnPin {
    DrawnText name;  ///< Of a box; "" where the drawing names none.
    bool output = false;
    bool negated = false;
    PinEdge edge = PinEdge::None;
    int net = -1;    ///< -1: no line.
    int column = 0;  ///< Of the line's end, counted in characters of the row.
};

struct DrawnElement {
    ElementKind kind = ElementKind::Contact;
    Span span;
    int row = 0, column = 0;  ///< In characters, from the first row of the drawing; of a box its corner.
    int height = 1, width = 1;
    ContactKind contact = ContactKind::Open;
    std::string comparison;  ///< Compare: "<", ">=" ...
    CoilKind coil = CoilKind::Plain;
    DrawnText
        name;  ///< The variable; the instance of a box; what stands at the end of a line; a label's or line's name.
    DrawnText second;  ///< Compare: what stands below.
    DrawnText type;    ///< Box.
    int order = 0;     ///< Box: as stated on its lower edge; 0 for none.
    std::vector<DrawnPin> pins;
};

struct NetEnd {
    int element = -1;
    int pin = 0;
};

struct DrawnNet {
    std::vector<NetEnd> from, to;
    bool power = false;  ///< It is the left rail.
    Span span;           ///< Its first cell.
};

/// A character of a line. Where lines cross, the one across and the upright one are two nets.
struct DrawnCell {
    int row = 0, column = 0;
    int across = -1, upright = -1;  ///< Nets; -1 for none.
    std::uint8_t sides = 0;         ///< To which its line goes on, as LineLinks.
};

/// A network: a rung, or boxes that belong together.
struct Network {
    std::string title;  ///< The comment right above it.
    DrawnText label;
    int number = 0;  ///< From 1, in its program unit.
    Span span;       ///< Its first row.
    std::vector<DrawnElement> elements;
    std::vector<DrawnNet> nets;
    int first_row = 0, last_row = 0;  ///< From the first row of the drawing, one behind the last.
    std::vector<DrawnCell> cells;     ///< In order of rows and columns; none of a rung that is written in one line.
};

/// The net that a line leads to which leaves as `name`; -1 for none.
int net_that_leaves(const Network& network, const std::string& name);

/// A drawing: as text when it comes from the parser, with networks once it was read.
struct Drawing {
    DrawnForm form = DrawnForm::Ladder;
    Span span;                ///< The word LADDER or FBD.
    std::size_t offset = 0;   ///< Of its first row in the source.
    std::string_view text{};  ///< Its rows; valid as long as the source.
    std::vector<Network> networks;
    std::vector<DrawnText> labels_behind;  ///< A label below the last network.
};

/// From its token, not read yet.
Drawing drawing_of(const Token& token, const base::SourceText& source);

}  // namespace vyard::logic
