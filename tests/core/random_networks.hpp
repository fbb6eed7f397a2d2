// Random networks that were never drawn, in both forms, and an evaluator that knows the networks alone: the product of
// splits, negations, blocks with memory, loops and turns.
#pragma once

#include <algorithm>
#include <functional>
#include <map>
#include <random>
#include <string>
#include <vector>

#include "core/support.hpp"

namespace vyard::test {

using logic::DrawnElement;
using logic::DrawnForm;
using logic::ElementKind;
using logic::Network;

inline const char* const kInputs[] = {"a", "b", "c", "d", "e"};
inline const char* const kOutputs[] = {"x", "y", "z", "w", "h[1]"};

class NetworkMaker {
  public:
    NetworkMaker(unsigned seed, DrawnForm form) : random_(seed), form_(form) {}

    Network run() {
        if (form_ == DrawnForm::Ladder) {
            ladder();
        } else {
            blocks();
        }
        shuffle();
        return std::move(network_);
    }

  private:
    int pick(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
    bool maybe(int one_in) { return pick(one_in) == 0; }
    std::string variable() { return maybe(3) ? kOutputs[pick(5)] : kInputs[pick(5)]; }

    int add(ElementKind kind, const std::string& name, const std::string& type = "") {
        DrawnElement e;
        e.kind = kind;
        e.name.text = name;
        e.type.text = type;
        network_.elements.push_back(std::move(e));
        return static_cast<int>(network_.elements.size()) - 1;
    }
    int net(bool power = false) {
        network_.nets.emplace_back();
        network_.nets.back().power = power;
        return static_cast<int>(network_.nets.size()) - 1;
    }
    void join(int element, bool output, int net, const std::string& name = "", bool negated = false) {
        logic::DrawnPin pin;
        pin.name.text = name;
        pin.output = output;
        pin.negated = negated;
        pin.net = net;
        base::at(network_.elements, element).pins.push_back(pin);
    }

    // --- boxes ---

    struct Kind {
        const char* type;
        const char* instance;
        std::vector<const char*> inputs;
        const char* output;
    };

    void blocks() {
        static const Kind kKinds[] = {{"AND", "", {"", ""}, ""},        {"OR", "", {"", "", ""}, ""},
                                      {"XOR", "", {"", ""}, ""},        {"SEL", "", {"G", "IN0", "IN1"}, ""},
                                      {"SR", "sr1", {"S1", "R"}, "Q1"}, {"RS", "rs1", {"S", "R1"}, "Q1"},
                                      {"AND", "", {"", "", "", ""}, ""}};
        const bool loops = maybe(3);
        const int count = 1 + pick(6);
        std::vector<int> outputs, boxes;
        for (int i = 0; i < count; ++i) outputs.push_back(net());
        std::map<std::string, int> instances;
        for (int i = 0; i < count; ++i) {
            const Kind& kind = kKinds[pick(7)];
            std::string instance = kind.instance;
            if (!instance.empty() && instances[instance]++ > 0) instance += "_2";
            if (instances[kind.instance] > 2) instance.clear();
            const bool bistable = *kind.output != '\0';
            const int box = bistable && instance.empty() ? add(ElementKind::Box, "", "OR")
                                                         : add(ElementKind::Box, instance, kind.type);
            const bool known = !(bistable && instance.empty());
            boxes.push_back(box);
            for (std::size_t k = 0; k < kind.inputs.size(); ++k) {
                const char* name = kind.inputs[k];
                // In a loop something has to say of which type its values are.
                const bool led = loops ? k != 1 && maybe(2) : i > 0 && maybe(2);
                const int from = led ? base::at(outputs, pick(loops ? count : i)) : source();
                join(box, false, from, known ? name : "", maybe(4));
            }
            join(box, true, base::at(outputs, i), known ? kind.output : "", maybe(6));
            if (loops) base::at(network_.elements, box).order = i + 1;
        }
        for (const int output : outputs) {
            int left = pick(3);
            if (!led(output)) left = std::max(left, 1);
            for (; left > 0; --left) join(add(ElementKind::Target, kOutputs[pick(5)]), false, output);
        }
    }

    bool led(int net) const {
        for (const DrawnElement& e : network_.elements) {
            for (const logic::DrawnPin& p : e.pins) {
                if (!p.output && p.net == net) return true;
            }
        }
        return false;
    }

    /// A variable, at a line of its own or at one that others use too.
    int source() {
        if (!sources_.empty() && maybe(3)) return base::at(sources_, pick(static_cast<int>(sources_.size())));
        const int to = net();
        join(add(ElementKind::Source, variable()), true, to);
        sources_.push_back(to);
        return to;
    }

    // --- rungs: any lines from earlier to later ones, not series and parallel alone ---

    void ladder() {
        const int power = net(true);
        std::vector<int> nets{power};
        bool box_used = false;
        for (int n = 1 + pick(5); n > 0; --n) {
            const int to = net();
            const bool has_box = !box_used && maybe(4);
            if (has_box) {
                box_used = true;
                const int box = add(ElementKind::Box, "sr1", "SR");
                join(box, false, base::at(nets, pick(static_cast<int>(nets.size()))), "S1", maybe(4));
                join(box, false, maybe(2) ? source() : base::at(nets, pick(static_cast<int>(nets.size()))), "R");
                join(box, true, to, "Q1", maybe(5));
            }
            for (int k = pick(3) + (has_box ? 0 : 1); k > 0; --k) {
                const int contact = add(ElementKind::Contact, variable());
                base::at(network_.elements, contact).contact =
                    maybe(2) ? logic::ContactKind::Closed : logic::ContactKind::Open;
                join(contact, false, base::at(nets, pick(static_cast<int>(nets.size()))));
                join(contact, true, to);
            }
            nets.push_back(to);
        }
        for (const int n : nets) {
            if (n == power) continue;
            int left = maybe(3) ? 1 + pick(2) : 0;
            if (!led(n)) left = std::max(left, 1);
            for (; left > 0; --left) coil(n);
        }
    }

    void coil(int net) {
        const int coil = add(ElementKind::Coil, kOutputs[pick(5)]);
        base::at(network_.elements, coil).coil = static_cast<logic::CoilKind>(pick(4));
        join(coil, false, net);
        join(coil, true, -1);
    }

    // --- in any order ---

    void shuffle() {
        std::vector<int> order;
        for (int i = 0; i < static_cast<int>(network_.elements.size()); ++i) order.push_back(i);
        std::shuffle(order.begin(), order.end(), random_);
        std::vector<DrawnElement> elements;
        for (const int i : order) elements.push_back(base::at(network_.elements, i));
        network_.elements = std::move(elements);
        for (int i = 0; i < static_cast<int>(network_.elements.size()); ++i) {
            const auto& pins = base::at(network_.elements, i).pins;
            for (int p = 0; p < static_cast<int>(pins.size()); ++p) {
                if (base::at(pins, p).net < 0) continue;
                logic::DrawnNet& n = base::at(network_.nets, base::at(pins, p).net);
                (base::at(pins, p).output ? n.from : n.to).push_back({i, p});
            }
        }
    }

    std::mt19937 random_;
    DrawnForm form_;
    Network network_;
    std::vector<int> sources_;
};

/// What docs/drawn-logic.md says of a network, computed from it alone.
class NetworkEvaluator {
  public:
    explicit NetworkEvaluator(const Network& network) : network_(network), outputs_(network.elements.size()) {}

    std::map<std::string, bool> values;

    void scan() {
        nets_.assign(network_.nets.size(), -1);
        done_.assign(network_.elements.size(), false);
        std::vector<int> turns;
        for (int i = 0; i < static_cast<int>(network_.elements.size()); ++i) turns.push_back(i);
        // Boxes with stated orders have, among themselves, the turns of these.
        std::vector<int> stated;
        for (const int i : turns) {
            if (element(i).order > 0) stated.push_back(i);
        }
        std::sort(stated.begin(), stated.end(), [&](int a, int b) { return element(a).order < element(b).order; });
        std::size_t next = 0;
        for (int& i : turns) {
            if (element(i).order > 0) i = stated[next++];
        }
        for (const int i : turns) take(i);
    }

  private:
    const DrawnElement& element(int i) const { return base::at(network_.elements, i); }

    void take(int i) {
        const DrawnElement& e = element(i);
        if (e.kind == ElementKind::Box) return box(i);
        if (e.kind == ElementKind::Target) values[e.name.text] = line(e.pins[0].net, 0);
        if (e.kind != ElementKind::Coil) return;
        const bool power = line(e.pins[0].net, 0);
        bool& value = values[e.name.text];
        switch (e.coil) {
            case logic::CoilKind::Plain: value = power; break;
            case logic::CoilKind::Negated: value = !power; break;
            case logic::CoilKind::Set: value = value || power; break;
            default: value = value && !power; break;
        }
    }

    /// `order`: of the box that asks, if it states one.
    bool line(int net, int order) {
        const logic::DrawnNet& n = base::at(network_.nets, net);
        if (n.power) return true;
        for (const logic::NetEnd& from : n.from) {
            // A box after the one that asks: its value of the last scan, and the line is not computed yet.
            if (order > 0 && element(from.element).order >= order && !base::at(done_, from.element)) return shown(from);
        }
        int& known = base::at(nets_, net);
        if (known >= 0) return known != 0;
        bool out = false;
        for (const logic::NetEnd& from : n.from) out = given(from) || out;
        known = out ? 1 : 0;
        return out;
    }

    bool given(const logic::NetEnd& from) {
        const DrawnElement& e = element(from.element);
        if (e.kind == ElementKind::Source) return values[e.name.text];
        if (e.kind == ElementKind::Box) {
            box(from.element);
            return shown(from);
        }
        const bool power = line(e.pins[0].net, 0);
        return power && values[e.name.text] == (e.contact == logic::ContactKind::Open);
    }

    /// The circle at an output negates what the box gives, in this scan or the last.
    bool shown(const logic::NetEnd& from) const {
        return base::at(outputs_, from.element) != base::at(element(from.element).pins, from.pin).negated;
    }

    void box(int i) {
        if (base::at(done_, i)) return;
        const DrawnElement& e = element(i);
        std::vector<bool> in;
        for (const logic::DrawnPin& p : e.pins) {
            if (!p.output) in.push_back(line(p.net, e.order) != p.negated);
        }
        base::at(done_, i) = true;
        bool out = false;
        if (e.type.text == "AND") out = std::all_of(in.begin(), in.end(), [](bool b) { return b; });
        if (e.type.text == "OR") out = std::any_of(in.begin(), in.end(), [](bool b) { return b; });
        if (e.type.text == "XOR") out = in[0] != in[1];
        if (e.type.text == "SEL") out = in[0] ? in[2] : in[1];
        if (e.type.text == "SR") out = memory_[e.name.text] = in[0] || (memory_[e.name.text] && !in[1]);
        if (e.type.text == "RS") out = memory_[e.name.text] = !in[1] && (in[0] || memory_[e.name.text]);
        base::at(outputs_, i) = out;
    }

    const Network& network_;
    std::vector<int> nets_;
    std::vector<bool> done_, outputs_;
    std::map<std::string, bool> memory_;
};

/// A program of one network.
inline std::string program(const Network& network, DrawnForm form) {
    std::string out =
        "PROGRAM p VAR a, b, c, d, e, x, y, z, w : BOOL; h : ARRAY[0..3] OF BOOL; sr1, sr1_2 : SR; rs1, rs1_2 : RS; "
        "END_VAR\n";
    const char* word = form == DrawnForm::Ladder ? "LADDER" : "FBD";
    out += fmt::format("{}\n", word);
    for (const std::string& row : logic::write_network(network, form).rows) out += row + "\n";
    return out + fmt::format("END_{}\nEND_PROGRAM\n", word);
}

}  // namespace vyard::test
