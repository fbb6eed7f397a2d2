#include "core/logic/drawn/blocks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <set>

#include "core/base/base.hpp"

namespace vyard::logic {

int text_width(const std::string& text) {
    return static_cast<int>(std::count_if(text.begin(), text.end(),
                                          [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

namespace {

/// The order in which elements have their say: what leads to a box whose turn comes is computed before it.
class Turns {
  public:
    explicit Turns(const Network& network) : network_(network), said_(network.elements.size()) {}

    std::vector<int> run() {
        for (int i = 0; i < static_cast<int>(said_.size()); ++i) {
            if (!base::at(said_, i)) say(i);
        }
        return std::move(out_);
    }

  private:
    const DrawnElement& element(int i) const { return base::at(network_.elements, i); }

    void say(int i) {
        base::at(said_, i) = true;
        if (takes_turn(element(i))) {
            for (const DrawnPin& p : element(i).pins) {
                if (!p.output && p.net >= 0) lead(p.net);
            }
        }
        out_.push_back(i);
    }

    /// The boxes that lead to a net, through contacts and lines by their names.
    void lead(int net) {
        std::vector<int> open{net};
        std::set<int> seen{net};
        std::vector<int> boxes;
        while (!open.empty()) {
            const int n = open.back();
            open.pop_back();
            for (const NetEnd& from : base::at(network_.nets, n).from) {
                const DrawnElement& e = element(from.element);
                if (e.kind == ElementKind::Box) boxes.push_back(from.element);
                const int behind = e.kind == ElementKind::Contact ? e.pins[0].net
                                   : e.kind == ElementKind::Enter ? net_that_leaves(network_, e.name.text)
                                                                  : -1;
                if (behind >= 0 && seen.insert(behind).second) open.push_back(behind);
            }
        }
        std::sort(boxes.begin(), boxes.end());
        for (const int box : boxes) {
            if (!base::at(said_, box)) say(box);
        }
    }

    const Network& network_;
    std::vector<bool> said_;
    std::vector<int> out_;
};

}  // namespace

std::vector<int> order_of_turns(const Network& network) {
    const bool stated = std::any_of(network.elements.begin(), network.elements.end(),
                                    [](const DrawnElement& e) { return e.order > 0; });
    if (!stated) return Turns(network).run();
    std::vector<int> out(network.elements.size());
    std::iota(out.begin(), out.end(), 0);
    return out;
}

Network in_order(const Network& network, const std::vector<int>& order) {
    Network out = network;
    std::vector<int> place(order.size());
    for (int i = 0; i < static_cast<int>(order.size()); ++i) {
        base::at(out.elements, i) = base::at(network.elements, base::at(order, i));
        base::at(place, base::at(order, i)) = i;
    }
    for (DrawnNet& net : out.nets) {
        for (std::vector<NetEnd>* ends : {&net.from, &net.to}) {
            for (NetEnd& end : *ends) end.element = base::at(place, end.element);
            std::sort(ends->begin(), ends->end(), [](const NetEnd& a, const NetEnd& b) {
                return std::pair(a.element, a.pin) < std::pair(b.element, b.pin);
            });
        }
    }
    return out;
}

bool takes_turn(const DrawnElement& e) {
    switch (e.kind) {
        case ElementKind::Coil:
        case ElementKind::Box:
        case ElementKind::Target:
        case ElementKind::Jump:
        case ElementKind::Return: return true;
        default: return false;
    }
}

std::string in_one_word(const std::string& text) {
    int depth = 0;
    char quote = '\0';
    for (const char c : text) {
        if (quote != '\0') {
            if (c == quote) quote = '\0';
        } else if (c == '\'' || c == '"') {
            quote = c;
        } else if (c == '(' || c == '[') {
            ++depth;
        } else if (c == ')' || c == ']') {
            --depth;
        } else if (c == ' ' && depth == 0) {
            return "(" + text + ")";
        }
    }
    return text;
}

namespace {

constexpr int kLead = 2;  ///< Characters of line at each side of a symbol.

std::string mark_of(const DrawnElement& e) {
    if (e.kind == ElementKind::Coil) {
        static constexpr const char* kMarks[] = {" ", "/", "S", "R", "P", "N"};
        return fmt::format("({})", kMarks[static_cast<int>(e.coil)]);
    }
    static constexpr const char* kMarks[] = {" ", "/", "P", "N"};
    return fmt::format("|{}|", e.contact == ContactKind::Compare ? e.comparison : kMarks[static_cast<int>(e.contact)]);
}

class BlockMaker {
  public:
    explicit BlockMaker(const Network& network) : network_(network) {
        for (int i = 0; i < static_cast<int>(network.elements.size()); ++i) {
            if (takes_turn(network.elements[static_cast<std::size_t>(i)])) turns_.push_back(i);
        }
        taken_.resize(network.elements.size());
    }

    std::vector<Block> run() {
        std::vector<Block> out(network_.elements.size());
        // Boxes first: they take what stands at their pins.
        for (const bool boxes : {true, false}) {
            for (int i = 0; i < static_cast<int>(out.size()); ++i) {
                if ((element(i).kind == ElementKind::Box) != boxes || base::at(taken_, i)) continue;
                Block& block = base::at(out, i);
                block.element = i;
                make(block);
            }
        }
        std::erase_if(out, [&](const Block& b) { return b.element < 0; });
        return out;
    }

  private:
    const DrawnElement& element(int i) const { return base::at(network_.elements, i); }

    void make(Block& b) {
        const DrawnElement& e = element(b.element);
        switch (e.kind) {
            case ElementKind::Contact:
            case ElementKind::Coil: symbol(b, e); break;
            case ElementKind::Box: box(b, e); break;
            case ElementKind::Source: left_end(b, e, e.name.text, 1); break;
            case ElementKind::Enter: left_end(b, e, fmt::format(">{}>", e.name.text), 0); break;
            case ElementKind::Target: right_end(b, e, e.name.text, 1); break;
            case ElementKind::Leave: right_end(b, e, fmt::format(">{}>", e.name.text), 0); break;
            case ElementKind::Jump: right_end(b, e, fmt::format(">>{}", e.name.text), 0); break;
            case ElementKind::Return: right_end(b, e, "<RETURN>", 0); break;
        }
    }

    static void extend(Block& b, int from, int to) {
        b.left = std::max(b.left, -from);
        b.right = std::max(b.right, to);
    }

    static void centred(Block& b, int row, const std::string& text) {
        const int begin = -(text_width(text) / 2);
        b.texts.push_back({row, begin, text});
        extend(b, begin - 1, begin + text_width(text) + 1);
    }

    static void symbol(Block& b, const DrawnElement& e) {
        const std::string mark = mark_of(e);
        const int begin = -(text_width(mark) / 2), end = begin + text_width(mark);
        b.texts.push_back({0, begin, mark});
        extend(b, begin - kLead, end + kLead);
        b.above = 1;
        centred(b, -1, in_one_word(e.name.text));
        if (!e.second.empty()) {
            b.below = 1;
            centred(b, 1, in_one_word(e.second.text));
        }
        for (int i = 0; i < static_cast<int>(e.pins.size()); ++i) {
            const DrawnPin& p = base::at(e.pins, i);
            b.ports.push_back({p.net, i, 0, p.output ? end : begin - 1, p.output});
        }
    }

    static void left_end(Block& b, const DrawnElement& e, const std::string& text, int gap) {
        const int begin = -gap - text_width(text);
        b.texts.push_back({0, begin, text});
        b.ports.push_back({e.pins.at(0).net, 0, 0, 0, true});
        extend(b, begin - 2, kLead);
    }

    static void right_end(Block& b, const DrawnElement& e, const std::string& text, int gap) {
        b.texts.push_back({0, 1 + gap, text});
        b.ports.push_back({e.pins.at(0).net, 0, 0, 0, false});
        extend(b, -kLead, 1 + gap + text_width(text) + 2);
    }

    // --- boxes ---

    /// The one element at the other end of a pin's line, when nothing else is on it; -1 else.
    int alone_at(const DrawnPin& p, ElementKind kind) const {
        if (p.net < 0) return -1;
        const DrawnNet& net = base::at(network_.nets, p.net);
        if (net.from.size() != 1 || net.to.size() != 1 || net.power) return -1;
        const int other = p.output ? net.to[0].element : net.from[0].element;
        return element(other).kind == kind ? other : -1;
    }

    /// Targets stand at a box where nothing else has its turn between the box and them.
    std::vector<int> targets(int box, const std::vector<int>& pins) const {
        auto turn = std::lower_bound(turns_.begin(), turns_.end(), box);
        std::vector<int> out(pins.size(), -1);
        for (std::size_t i = 0; i < pins.size(); ++i) {
            const int other = alone_at(base::at(element(box).pins, pins[i]), ElementKind::Target);
            if (other < 0 || turn + 1 == turns_.end() || *(turn + 1) != other) continue;
            out[i] = other;
            ++turn;
        }
        return out;
    }

    /// Whether what stands in line with a pin has a text over and under its line.
    std::pair<bool, bool> texts_around(const DrawnPin& p) const {
        const DrawnNet& net = base::at(network_.nets, p.net);
        bool over = false, under = false;
        for (const NetEnd& end : p.output ? net.to : net.from) {
            const DrawnElement& e = element(end.element);
            over = over || e.kind == ElementKind::Contact || e.kind == ElementKind::Coil;
            under = under || !e.second.empty();
        }
        return {over, under};
    }

    static std::string pin_name(const DrawnPin& p) {
        const char* edge = p.output || p.edge == PinEdge::None ? "" : p.edge == PinEdge::Rising ? ">" : "<";
        return edge + p.name.text;
    }

    struct Side {
        std::vector<int> pins;
        std::vector<int> rows;   ///< From the row of the type on.
        std::vector<int> texts;  ///< Elements at them; -1 for none.
        int names = 0;           ///< Widest name.
        int height = 0;
    };

    Side side(int number, bool output) {
        const DrawnElement& e = element(number);
        Side out;
        for (int i = 0; i < static_cast<int>(e.pins.size()); ++i) {
            if (base::at(e.pins, i).output == output) out.pins.push_back(i);
        }
        if (output) {
            out.texts = targets(number, out.pins);
        } else {
            for (const int i : out.pins) out.texts.push_back(alone_at(base::at(e.pins, i), ElementKind::Source));
        }
        int row = 1;
        bool line_above = false, text_above = false;
        for (std::size_t i = 0; i < out.pins.size(); ++i) {
            const DrawnPin& p = base::at(e.pins, out.pins[i]);
            // What stands in line with a pin needs room for its name over the line.
            const bool line = p.net >= 0 && out.texts[i] < 0;
            const auto [over, under] = line ? texts_around(p) : std::pair(false, false);
            if (line && ((over && line_above) || text_above)) ++row;
            line_above = line;
            text_above = under;
            out.rows.push_back(row++);
            out.names = std::max(out.names, text_width(pin_name(p)));
            if (out.texts[i] >= 0) base::at(taken_, out.texts[i]) = true;
        }
        out.height = row;
        return out;
    }

    void box(Block& b, const DrawnElement& e) {
        const Side in = side(b.element, false), out = side(b.element, true);
        const int rows = std::max({in.height, out.height, 1});
        const int names = in.names + out.names + (in.names > 0 && out.names > 0 ? 2 : 1);
        const int order = e.order > 0 ? static_cast<int>(std::to_string(e.order).size()) + 2 : 0;
        int inner = std::max({text_width(e.type.text) + 2, names, order});
        inner += (inner - text_width(e.type.text)) % 2;  // the type stands in the middle
        const int begin = -((inner + 2) / 2), end = begin + inner + 2;
        frame(b, e, rows, begin, inner);
        pins(b, e, in, begin, end, false);
        pins(b, e, out, begin, end, true);
        b.below = rows + 1;
        if (!e.name.empty()) {
            b.above = 1;
            centred(b, -1, e.name.text);
        }
        extend(b, begin - kLead, end + kLead);
    }

    static void frame(Block& b, const DrawnElement& e, int rows, int begin, int inner) {
        const std::string line(static_cast<std::size_t>(inner), '-');
        b.texts.push_back({0, begin, "+" + line + "+"});
        for (int r = 1; r <= rows; ++r) {
            b.texts.push_back({r, begin, "|"});
            b.texts.push_back({r, begin + inner + 1, "|"});
        }
        const int pad = (inner - text_width(e.type.text)) / 2;
        b.texts.push_back({1, begin + 1 + pad, e.type.text});
        std::string lower = line;
        if (e.order > 0) {
            const std::string order = std::to_string(e.order);
            lower.replace((lower.size() - order.size()) / 2, order.size(), order);
        }
        b.texts.push_back({rows + 1, begin, "+" + lower + "+"});
    }

    void pins(Block& b, const DrawnElement& e, const Side& side, int begin, int end, bool output) {
        for (std::size_t i = 0; i < side.pins.size(); ++i) {
            const DrawnPin& p = base::at(e.pins, side.pins[i]);
            const int row = 1 + side.rows[i];
            const std::string name = pin_name(p);
            b.texts.push_back({row, output ? end - 1 - text_width(name) : begin + 1, name});
            if (p.net < 0) continue;
            const int way = output ? 1 : -1;
            int column = output ? end : begin - 1;
            if (p.negated || (output && p.edge != PinEdge::None)) {
                b.texts.push_back({row, column, p.negated ? "o" : p.edge == PinEdge::Rising ? ">" : "<"});
                column += way;
            }
            if (side.texts[i] < 0) {
                b.ports.push_back({p.net, side.pins[i], row, column, output});
                extend(b, column - kLead + 1, column + kLead);
                continue;
            }
            text_at(b, side.texts[i], row, column, output);
        }
    }

    /// "value --|": the line has two characters.
    void text_at(Block& b, int other, int row, int column, bool output) {
        const std::string& text = element(other).name.text;
        const int at = output ? column + 3 : column - 2 - text_width(text);
        b.texts.push_back({row, output ? column : column - 1, "--"});
        b.texts.push_back({row, at, text});
        b.attached.push_back({other, row, output});
        if (output) b.last_turn_row = row;
        extend(b, at - 2, at + text_width(text) + 2);
    }

    const Network& network_;
    std::vector<int> turns_;
    std::vector<bool> taken_;
};

}  // namespace

std::vector<Block> blocks_of(const Network& network) {
    return BlockMaker(network).run();
}

}  // namespace vyard::logic
