// The shapes that a canonical drawing is made of: each symbol with the texts that belong to it, as it stands around its
// anchor. What stands at the pins of a box and nowhere else is part of the box.
#pragma once

#include <string>
#include <vector>

#include "core/logic/text/drawing.hpp"

namespace vyard::logic {

/// Where a line meets a block, from its anchor.
struct Port {
    int net = -1;
    int pin = 0;  ///< Of the element.
    int row = 0;
    int column = 0;  ///< Of the line's last character.
    bool output = false;
    bool back = false;  ///< A loop of lines leads back to it.
};

/// An element that stands at a pin of a box.
struct Attached {
    int element = -1;
    int row = 0;
    bool output = false;
};

/// A text at a place, from the anchor.
struct BlockText {
    int row = 0, column = 0;
    std::string text;
};

struct Block {
    int element = -1;
    int above = 0, below = 0;  ///< Rows it takes above and below its anchor's.
    int left = 0, right = 0;   ///< Columns it takes left of its anchor, and from there on.
    std::vector<Port> ports;
    std::vector<BlockText> texts;
    std::vector<Attached> attached;
    int last_turn_row = 0;  ///< Of its last attached target; 0 for none.
};

/// Characters that a text takes.
int text_width(const std::string& text);

/// A name as it can stand at a contact or coil, in one piece: blanks within brackets and quotes do not divide it,
/// others do, and bring brackets around it.
std::string in_one_word(const std::string& text);

/// Whether an element takes a turn when its network is computed.
bool takes_turn(const DrawnElement& e);

/// Its elements in the order in which they are computed, whatever stands above what: what leads to a box comes before
/// it. Where boxes state their orders, as they stand.
std::vector<int> order_of_turns(const Network& network);
/// The same network with its elements in an order.
Network in_order(const Network& network, const std::vector<int>& order);

/// The blocks of a network, in the order of their elements.
std::vector<Block> blocks_of(const Network& network);

}  // namespace vyard::logic
