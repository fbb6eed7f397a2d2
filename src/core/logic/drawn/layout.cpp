#include "core/logic/drawn/layout.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <numeric>
#include <set>

#include "core/base/base.hpp"

namespace vyard::logic {

namespace {

/// A stretch of a row that is taken; stretches may meet in one place, where their line is the same.
struct Stretch {
    long from = 0, to = 0;
};

class Placing {
  public:
    Placing(const Network& network, DrawnForm form) : network_(network), form_(form) {
        const auto nets = network.nets.size();
        out_.trunk_of.assign(nets, -1);
        out_.back_of.assign(nets, -1);
        out_.to_rail.assign(nets, false);
        out_.return_row.assign(nets, -1);
        for (Block& b : blocks_of(network)) out_.blocks.push_back({std::move(b), 0, -1, 0});
        ends_.resize(nets);
        for (int i = 0; i < size(); ++i) {
            const std::vector<Port>& ports = block(i).block.ports;
            for (int p = 0; p < static_cast<int>(ports.size()); ++p) {
                const Port& port = base::at(ports, p);
                if (port.net < 0) continue;
                Ends& ends = base::at(ends_, port.net);
                (port.output ? ends.from : ends.to).push_back({i, p});
            }
        }
        for (std::size_t n = 0; n < nets; ++n)
            out_.to_rail[n] = form == DrawnForm::Ladder && network.nets[n].to.empty();
    }

    NetworkLayout run() {
        find_layers();
        find_trunks();
        for (int i = 0; i < size(); ++i) place(i);
        lead_back();
        finish_trunks();
        return std::move(out_);
    }

  private:
    struct End {
        int block = 0, port = 0;
    };
    struct Ends {
        std::vector<End> from, to;
    };

    int size() const { return static_cast<int>(out_.blocks.size()); }
    PlacedBlock& block(int i) { return base::at(out_.blocks, i); }
    const PlacedBlock& block(int i) const { return base::at(out_.blocks, i); }
    const Port& port(const End& e) const { return base::at(block(e.block).block.ports, e.port); }
    const DrawnElement& element(int i) const { return base::at(network_.elements, block(i).block.element); }
    bool power(int net) const { return base::at(network_.nets, net).power; }

    // --- layers ---

    /// Boxes with a stated order come in it.
    std::pair<int, int> rank(int i) const {
        const int order = element(i).order;
        return {order > 0 ? order : 1 << 20, i};
    }

    int open_inputs(int i) const {
        int out = 0;
        for (const Port& p : block(i).block.ports) out += waits(i, p) ? 1 : 0;
        return out;
    }
    bool waits(int i, const Port& p) const {
        return !p.output && p.net >= 0 && !power(p.net) && !backs_.contains({i, p.pin}) &&
               !base::at(ends_, p.net).from.empty();
    }

    void find_layers() {
        std::vector<int> open(out_.blocks.size()), open_net(ends_.size());
        std::vector<int> net_layer(ends_.size(), 0);
        std::vector<int> ready;
        done_.assign(out_.blocks.size(), false);
        for (int i = 0; i < size(); ++i) base::at(open, i) = open_inputs(i);
        for (std::size_t n = 0; n < ends_.size(); ++n) open_net[n] = static_cast<int>(ends_[n].from.size());
        for (int i = 0; i < size(); ++i) {
            if (base::at(open, i) == 0) ready.push_back(i);
        }
        int left = size();
        while (left > 0) {
            if (ready.empty()) ready.push_back(break_loop(open));
            const int i = ready.back();
            ready.pop_back();
            if (base::at(done_, i)) continue;
            base::at(done_, i) = true;
            --left;
            for (const Port& p : block(i).block.ports) {
                if (waits(i, p)) block(i).layer = std::max(block(i).layer, base::at(net_layer, p.net));
            }
            for (const Port& p : block(i).block.ports) {
                if (!p.output || p.net < 0) continue;
                int& layer = base::at(net_layer, p.net);
                layer = std::max(layer, block(i).layer + 1);
                if (--base::at(open_net, p.net) > 0) continue;
                for (const End& to : base::at(ends_, p.net).to) {
                    if (waits(to.block, port(to)) && --base::at(open, to.block) == 0) ready.push_back(to.block);
                }
            }
        }
        move_right();
    }

    /// A block of a loop of lines, the first by its turn: what leads to it from behind is led back.
    int break_loop(std::vector<int>& open) {
        std::vector<int> waiting;
        for (int i = 0; i < size(); ++i) {
            if (!base::at(done_, i)) waiting.push_back(i);
        }
        std::sort(waiting.begin(), waiting.end(), [&](int a, int b) { return rank(a) < rank(b); });
        for (const int i : waiting) {
            const std::set<int> behind = reached(i);
            if (!behind.contains(i)) continue;
            for (const Port& p : block(i).block.ports) {
                if (!waits(i, p)) continue;
                const std::vector<End>& from = base::at(ends_, p.net).from;
                const bool loop = std::any_of(from.begin(), from.end(),
                                              [&](const End& e) { return e.block == i || behind.contains(e.block); });
                if (loop) led_back_.emplace_back(i, p.pin);
            }
            for (const auto& [b, pin] : led_back_) {
                if (backs_.insert({b, pin}).second) --base::at(open, b);
            }
            led_back_.clear();
            if (base::at(open, i) <= 0) return i;
            for (const int other : waiting) {
                if (base::at(open, other) <= 0) return other;
            }
            return break_loop(open);
        }
        return waiting.front();
    }

    /// The blocks that stand behind one, by lines that are not led back.
    std::set<int> reached(int start) const {
        std::set<int> out;
        std::vector<int> open{start};
        while (!open.empty()) {
            const int i = open.back();
            open.pop_back();
            for (const Port& p : block(i).block.ports) {
                if (!p.output || p.net < 0) continue;
                for (const End& to : base::at(ends_, p.net).to) {
                    if (!backs_.contains({to.block, port(to).pin}) && out.insert(to.block).second)
                        open.push_back(to.block);
                }
            }
        }
        return out;
    }

    bool at_rail(int i) const {
        const ElementKind kind = element(i).kind;
        return form_ == DrawnForm::Ladder &&
               (kind == ElementKind::Coil || kind == ElementKind::Jump || kind == ElementKind::Return);
    }

    /// Coils stand at the right rail, values right before what takes them.
    void move_right() {
        int layers = 0, chain = 0;
        std::map<int, int> behind;  // coils in a row behind a block
        for (int i = size() - 1; i >= 0; --i) {
            if (!at_rail(i)) layers = std::max(layers, block(i).layer + 1);
        }
        std::vector<int> rail;
        for (int i = 0; i < size(); ++i) {
            if (at_rail(i)) rail.push_back(i);
        }
        std::sort(rail.begin(), rail.end(), [&](int a, int b) { return block(a).layer > block(b).layer; });
        for (const int i : rail) {
            int most = 0;
            for (const Port& p : block(i).block.ports) {
                if (!p.output || p.net < 0) continue;
                for (const End& to : base::at(ends_, p.net).to) most = std::max(most, behind[to.block] + 1);
            }
            behind[i] = most;
            chain = std::max(chain, most + 1);
        }
        out_.coil_layer = layers;
        out_.layers = layers + chain;
        for (const int i : rail) block(i).layer = out_.layers - 1 - behind[i];
        for (int i = 0; i < size(); ++i) {
            if (element(i).kind != ElementKind::Source && element(i).kind != ElementKind::Enter) continue;
            int least = out_.layers;
            for (const End& to : base::at(ends_, block(i).block.ports[0].net).to) {
                if (!backs_.contains({to.block, port(to).pin})) least = std::min(least, block(to.block).layer);
            }
            if (least < out_.layers) block(i).layer = std::max(0, least - 1);
        }
    }

    // --- lines ---

    void find_trunks() {
        std::map<int, int> used;  // places of a channel
        const auto add = [&](int net, int channel, bool back) {
            Trunk t;
            t.net = net;
            t.channel = channel;
            t.place = used[channel]++;
            t.back = back;
            out_.trunks.push_back(t);
            return static_cast<int>(out_.trunks.size()) - 1;
        };
        for (int i = 0; i < size(); ++i) {
            for (const Port& p : block(i).block.ports) {
                if (!p.output || p.net < 0 || base::at(out_.to_rail, p.net) || base::at(out_.trunk_of, p.net) >= 0)
                    continue;
                int channel = 0, first = out_.layers;
                for (const End& e : base::at(ends_, p.net).from) channel = std::max(channel, block(e.block).layer);
                for (const End& e : base::at(ends_, p.net).to) {
                    if (backs_.contains({e.block, port(e).pin})) first = std::min(first, block(e.block).layer);
                }
                base::at(out_.trunk_of, p.net) = add(p.net, channel, false);
                if (first < out_.layers) base::at(out_.back_of, p.net) = add(p.net, first - 1, true);
            }
        }
    }

    static constexpr long kLayer = 1L << 24;

    static long at_layer(int layer) { return (layer + 1L) * kLayer; }
    long at_trunk(int trunk) const {
        const Trunk& t = base::at(out_.trunks, trunk);
        return at_layer(t.channel) + 1 + t.place;
    }

    /// Where the line of a port leads: its trunk, or a rail.
    long end_of(int i, const Port& p) const {
        if (p.output && base::at(out_.to_rail, p.net)) return at_layer(out_.layers + 1);
        if (!p.output && power(p.net)) return 0;
        const bool back = backs_.contains({i, p.pin});
        return at_trunk(base::at(back ? out_.back_of : out_.trunk_of, p.net));
    }

    // --- rows ---

    std::vector<std::pair<int, Stretch>> taken_by(int i, int row) const {
        const PlacedBlock& b = block(i);
        std::vector<std::pair<int, Stretch>> out;
        const long layer = at_layer(b.layer);
        for (int r = row - b.block.above; r <= row + b.block.below; ++r) out.push_back({r, {layer, layer}});
        for (const Port& p : b.block.ports) {
            if (p.net < 0 && !(p.output && at_rail(i))) continue;
            const long end = p.net < 0 ? at_layer(out_.layers + 1) : end_of(i, p);
            out.push_back({row + p.row, {std::min(layer, end), std::max(layer, end)}});
        }
        return out;
    }

    bool free(int i, int row) const {
        if (row - block(i).block.above < 0) return false;
        const std::vector<std::pair<int, Stretch>> wanted = taken_by(i, row);
        return std::all_of(wanted.begin(), wanted.end(), [&](const auto& w) {
            if (w.first >= static_cast<int>(rows_.size())) return true;
            const std::vector<Stretch>& there = base::at(rows_, w.first);
            return std::none_of(there.begin(), there.end(), [&](const Stretch& s) {
                if (s.to < w.second.from || w.second.to < s.from) return false;
                const bool meet =
                    (s.to == w.second.from && s.to % kLayer != 0) || (w.second.to == s.from && s.from % kLayer != 0);
                return !meet;
            });
        });
    }

    bool in_turn(int i, int row) const {
        if (!takes_turn(element(i))) return true;
        return std::pair(row, block(i).layer) > last_turn_;
    }

    /// The rows in which a block stands in line with what is joined to it: the first of each end of a line.
    std::vector<int> rows_in_line(int i) const {
        std::vector<int> out;
        for (const bool output : {false, true}) {
            for (const Port& p : block(i).block.ports) {
                if (p.output != output || p.net < 0 || power(p.net)) continue;
                const Ends& ends = base::at(ends_, p.net);
                if (ends.from.empty() || ends.to.empty() || backs_.contains({i, p.pin})) continue;
                const End& mine = output ? ends.from[0] : ends.to[0];
                const End& other = output ? ends.to[0] : ends.from[0];
                if (mine.block != i || port(mine).pin != p.pin || block(other.block).row < 0) continue;
                out.push_back(block(other.block).row + port(other).row - p.row);
            }
        }
        return out;
    }

    void place(int i) {
        int row = -1;
        for (const int candidate : rows_in_line(i)) {
            if (row < 0 && in_turn(i, candidate) && free(i, candidate)) row = candidate;
        }
        if (row < 0) {
            row = first_row_;
            if (takes_turn(element(i))) row = std::max(row, last_turn_.first);
            while (!in_turn(i, row) || !free(i, row)) ++row;
            first_row_ = row;
        }
        block(i).row = row;
        if (takes_turn(element(i))) {
            last_turn_ = {row, block(i).layer};
            if (block(i).block.last_turn_row > 0) last_turn_ = {row + block(i).block.last_turn_row, block(i).layer};
        }
        for (const auto& [r, stretch] : taken_by(i, row)) {
            if (r >= static_cast<int>(rows_.size())) rows_.resize(static_cast<std::size_t>(r) + 1);
            base::at(rows_, r).push_back(stretch);
        }
    }

    /// Loops of lines go back below all else.
    void lead_back() {
        out_.rows = static_cast<int>(rows_.size());
        for (const Trunk& t : out_.trunks) {
            if (t.back) base::at(out_.return_row, t.net) = out_.rows++;
        }
    }

    void finish_trunks() {
        for (int i = 0; i < size(); ++i) {
            for (Port& p : block(i).block.ports) {
                if (p.net < 0 || power(p.net) || base::at(out_.to_rail, p.net)) continue;
                p.back = backs_.contains({i, p.pin});
                const int trunk = base::at(p.back ? out_.back_of : out_.trunk_of, p.net);
                base::at(out_.trunks, trunk).rows.push_back(block(i).row + p.row);
            }
        }
        for (Trunk& t : out_.trunks) {
            if (base::at(out_.return_row, t.net) >= 0) t.rows.push_back(base::at(out_.return_row, t.net));
            std::sort(t.rows.begin(), t.rows.end());
            t.rows.erase(std::unique(t.rows.begin(), t.rows.end()), t.rows.end());
        }
    }

    const Network& network_;
    DrawnForm form_;
    NetworkLayout out_;
    std::vector<Ends> ends_;
    std::vector<bool> done_;
    std::set<std::pair<int, int>> backs_;  ///< Inputs that a loop leads back to: block, pin.
    std::vector<std::pair<int, int>> led_back_;
    std::vector<std::vector<Stretch>> rows_;
    std::pair<int, int> last_turn_{-1, -1};
    int first_row_ = 0;  ///< What stands in line with nothing yet stands no higher than what did so before it.
};

/// The order in which a reader finds the elements of a layout: by row, from left to right.
std::vector<int> order_as_read(const NetworkLayout& layout) {
    std::vector<std::array<int, 3>> keys(layout.network.elements.size());
    for (const PlacedBlock& b : layout.blocks) {
        base::at(keys, b.block.element) = {b.row, b.layer, 0};
        for (const Attached& a : b.block.attached)
            base::at(keys, a.element) = {b.row + a.row, b.layer, a.output ? 1 : -1};
    }
    std::vector<int> out(keys.size());
    std::iota(out.begin(), out.end(), 0);
    std::stable_sort(out.begin(), out.end(), [&](int a, int b) { return base::at(keys, a) < base::at(keys, b); });
    return out;
}

/// Rounds until a layout stands still; two or three do.
constexpr int kMostRounds = 20;

}  // namespace

NetworkLayout lay_out(const Network& network, DrawnForm form) {
    std::vector<int> order = order_of_turns(network);
    NetworkLayout out;
    for (int round = 0; round < kMostRounds; ++round) {
        Network ordered = in_order(network, order);
        out = Placing(ordered, form).run();
        out.network = std::move(ordered);
        out.order = order;
        const std::vector<int> read = order_as_read(out);
        if (std::is_sorted(read.begin(), read.end())) break;
        for (int& i : order) i = -1;
        for (std::size_t i = 0; i < read.size(); ++i) order[i] = base::at(out.order, read[i]);
    }
    return out;
}

}  // namespace vyard::logic
