// Where the blocks of a network stand in its canonical drawing, whatever its drawing was before: worked out from what
// is joined to what and from the turns in which things are computed, which it keeps.
//
// Blocks stand in layers from left to right, each behind all that leads to it; between two layers is a channel, in
// which the upright part of each line has a place of its own. Rows are given out block by block: in line with what is
// joined to it where that is free, else further down. A row's places are taken by one line or block at a time, so lines
// of different nets never touch; where they cross, they only cross.
#pragma once

#include <vector>

#include "core/logic/drawn/blocks.hpp"

namespace vyard::logic {

/// The upright part of a line.
struct Trunk {
    int net = -1;
    int channel = 0;        ///< Behind this layer; -1 before the first.
    int place = 0;          ///< In its channel, from left to right.
    bool back = false;      ///< Leads a loop of lines back to the left; `return_row` joins it to the net's other trunk.
    std::vector<int> rows;  ///< At which a line meets it, in order, each once.
    int column = 0;
};

struct PlacedBlock {
    Block block;
    int layer = 0;
    int row = -1;  ///< Of its anchor.
    int column = 0;
};

struct NetworkLayout {
    Network network;         ///< Its elements in the order in which they are found when it is read.
    std::vector<int> order;  ///< By element of it: its number in the network that was given.
    std::vector<PlacedBlock> blocks;
    std::vector<Trunk> trunks;
    std::vector<int> trunk_of, back_of;  ///< By net; -1 for none.
    std::vector<bool> to_rail;           ///< By net: it ends at the right rail.
    std::vector<int> return_row;         ///< By net; -1 for none.
    int layers = 0;
    int coil_layer = 0;  ///< The first of those that stand at the right rail; `layers` for none.
    int rows = 0;
};

/// Rows and layers, not yet columns. A layout whose elements are then read in another order is laid out again in that
/// one, until it stands still: what is written is what would be written again. Cost: blocks x rows in the worst case.
NetworkLayout lay_out(const Network& network, DrawnForm form);

}  // namespace vyard::logic
