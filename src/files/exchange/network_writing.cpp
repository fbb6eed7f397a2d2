// Networks in the exchange format: elements in the order of their turns, each input with the connections to all that
// leads to it. Positions are those of our layout; they are for people, and decide nothing.
#include <fmt/format.h>

#include <algorithm>
#include <sstream>

#include "files/exchange/names.hpp"
#include "files/exchange/writing.hpp"

namespace vyard::files {

using logic::DrawnElement;
using logic::DrawnForm;
using logic::DrawnPin;
using logic::ElementKind;
using logic::Network;

namespace {

constexpr int kColumn = 160, kRow = 20;  ///< Of the layout, in the units of the format.

class DrawingXml {
  public:
    DrawingXml(pugi::xml_node body, const logic::Drawing& drawing, const Writing& writing)
        : drawing_(drawing),
          writing_(writing),
          root_(add(body, drawing.form == DrawnForm::Ladder ? "LD" : "FBD")),
          notes_(logic::notes_of(drawing)) {}

    void run() {
        const int count = static_cast<int>(drawing_.networks.size());
        for (int i = 0; i < count; ++i) network(i);
        notes(count, -1);
        for (const logic::DrawnText& label : drawing_.labels_behind) this->label(label.text);
    }

  private:
    pugi::xml_node element(const char* name, int id, int x, int y) {
        pugi::xml_node node = add(root_, name);
        set(node, "localId", fmt::format("{}", id));
        position(node, x, y);
        return node;
    }
    static void position(pugi::xml_node node, int x, int y) {
        pugi::xml_node p = add(node, "position");
        set(p, "x", fmt::format("{}", x));
        set(p, "y", fmt::format("{}", y));
    }

    // --- what stands around networks ---

    pugi::xml_node comment(const std::string& text) {
        pugi::xml_node node = element("comment", next_id_++, 0, top_);
        const auto lines = std::count(text.begin(), text.end(), '\n') + 1;
        set(node, "height", fmt::format("{}", lines * kRow));
        set(node, "width", "400");
        add_text(add(node, "content"), text);
        top_ += static_cast<int>(lines) * kRow;
        return node;
    }
    /// Those above a network, or beside an element of it. One that stands apart ends with a line break.
    void notes(int network, int element) {
        for (const bool titles : {false, true}) {
            for (const logic::DrawingNote& n : notes_) {
                if (n.network != network || n.element != element || n.title != titles) continue;
                mark(comment(element < 0 && !n.title ? fmt::format("{}\n", n.text) : n.text), element >= 0);
            }
        }
    }
    void label(const std::string& name) {
        set(element("label", next_id_++, 0, top_), "label", name);
        top_ += kRow;
    }
    /// The first thing of a network says that it is one.
    void mark(pugi::xml_node node, bool within) {
        if (!within || marked_) return;
        add_own(node, kOwnNetwork, "network", "");
        marked_ = true;
    }

    // --- a network ---

    void network(int number) {
        const Network& n = base::at(drawing_.networks, number);
        marked_ = false;
        // Titles stay right above, labels before them.
        for (const logic::DrawingNote& note : notes_) {
            if (note.network == number && note.element < 0 && !note.title) comment(fmt::format("{}\n", note.text));
        }
        if (!n.label.empty()) label(n.label.text);
        for (const logic::DrawingNote& note : notes_) {
            if (note.network == number && note.element < 0 && note.title) comment(note.text);
        }
        const logic::NetworkLayout layout = logic::lay_out(n, drawing_.form);
        place(n, layout);
        first_id_ = next_id_ + 1;
        next_id_ += static_cast<int>(n.elements.size()) + 1;
        rail_ = first_id_ - 1;
        const bool power =
            std::any_of(n.nets.begin(), n.nets.end(), [](const logic::DrawnNet& net) { return net.power; });
        if (power) {
            pugi::xml_node rail = element("leftPowerRail", rail_, 0, top_);
            set(add(rail, "connectionPointOut"), "formalParameter", "");
            mark(rail, true);
        }
        for (int i = 0; i < static_cast<int>(n.elements.size()); ++i) {
            notes(number, i);
            one(n, i);
        }
        if (power) right_rail(n, layout);
        top_ += (layout.rows + 1) * kRow;
    }

    void place(const Network& n, const logic::NetworkLayout& layout) {
        places_.assign(n.elements.size(), {0, top_});
        for (const logic::PlacedBlock& b : layout.blocks) {
            const int x = 40 + b.layer * kColumn, y = top_ + b.row * kRow;
            base::at(places_, base::at(layout.order, b.block.element)) = {x, y};
            for (const logic::Attached& a : b.block.attached)
                base::at(places_, base::at(layout.order, a.element)) = {x + (a.output ? 100 : -60), y + a.row * kRow};
        }
    }

    void right_rail(const Network& n, const logic::NetworkLayout& layout) {
        pugi::xml_node rail = element("rightPowerRail", next_id_++, 40 + layout.layers * kColumn, top_);
        for (int i = 0; i < static_cast<int>(n.elements.size()); ++i) {
            if (base::at(n.elements, i).kind != ElementKind::Coil) continue;
            set(add(add(rail, "connectionPointIn"), "connection"), "refLocalId", fmt::format("{}", first_id_ + i));
        }
    }

    void connections(pugi::xml_node parent, const Network& n, const DrawnPin& pin) {
        pugi::xml_node point = add(parent, "connectionPointIn");
        if (pin.net < 0) return;
        const logic::DrawnNet& net = base::at(n.nets, pin.net);
        if (net.power) set(add(point, "connection"), "refLocalId", fmt::format("{}", rail_));
        for (const logic::NetEnd& from : net.from) {
            pugi::xml_node connection = add(point, "connection");
            set(connection, "refLocalId", fmt::format("{}", first_id_ + from.element));
            const DrawnElement& e = base::at(n.elements, from.element);
            if (e.kind == ElementKind::Box) set(connection, "formalParameter", pin_name(e, from.pin));
        }
    }

    void one(const Network& n, int number) {
        const DrawnElement& e = base::at(n.elements, number);
        switch (e.kind) {
            case ElementKind::Contact: return contact(n, e, number);
            case ElementKind::Coil: return coil(n, e, number);
            case ElementKind::Box: return box(n, e, number);
            case ElementKind::Source: {
                pugi::xml_node node = begin("inVariable", number);
                add(node, "connectionPointOut");
                add(node, "expression").text().set(e.name.text.c_str());
                return mark(node, true);
            }
            case ElementKind::Target: {
                pugi::xml_node node = begin("outVariable", number);
                connections(node, n, e.pins[0]);
                add(node, "expression").text().set(e.name.text.c_str());
                return mark(node, true);
            }
            case ElementKind::Enter: {
                pugi::xml_node node = begin("continuation", number);
                set(node, "name", e.name.text);
                add(node, "connectionPointOut");
                return mark(node, true);
            }
            case ElementKind::Jump:
            case ElementKind::Return:
            case ElementKind::Leave: {
                const bool jump = e.kind == ElementKind::Jump, leave = e.kind == ElementKind::Leave;
                pugi::xml_node node = begin(jump ? "jump" : leave ? "connector" : "return", number);
                if (jump || leave) set(node, jump ? "label" : "name", e.name.text);
                connections(node, n, e.pins[0]);
                return mark(node, true);
            }
        }
    }

    pugi::xml_node begin(const char* name, int number) {
        const auto [x, y] = base::at(places_, number);
        return element(name, first_id_ + number, x, y);
    }

    void contact(const Network& n, const DrawnElement& e, int number) {
        pugi::xml_node node = begin("contact", number);
        using logic::ContactKind;
        set(node, "negated", e.contact == ContactKind::Closed ? "true" : "false");
        if (e.contact == ContactKind::Rising) set(node, "edge", "rising");
        if (e.contact == ContactKind::Falling) set(node, "edge", "falling");
        connections(node, n, e.pins[0]);
        add(node, "connectionPointOut");
        const bool compares = e.contact == ContactKind::Compare;
        const std::string name =
            compares ? fmt::format("{} {} {}", e.name.text, e.comparison, e.second.text) : e.name.text;
        add(node, "variable").text().set(name.c_str());
        mark(node, true);
    }

    void coil(const Network& n, const DrawnElement& e, int number) {
        pugi::xml_node node = begin("coil", number);
        using logic::CoilKind;
        set(node, "negated", e.coil == CoilKind::Negated ? "true" : "false");
        if (e.coil == CoilKind::Set || e.coil == CoilKind::Reset)
            set(node, "storage", e.coil == CoilKind::Set ? "set" : "reset");
        if (e.coil == CoilKind::Rising || e.coil == CoilKind::Falling)
            set(node, "edge", e.coil == CoilKind::Rising ? "rising" : "falling");
        connections(node, n, e.pins[0]);
        add(node, "connectionPointOut");
        add(node, "variable").text().set(e.name.text.c_str());
        mark(node, true);
    }

    // --- boxes ---

    /// The name of a pin, also where the drawing has none: a function's inputs by their declaration.
    std::string pin_name(const DrawnElement& e, int number) const {
        const DrawnPin& pin = base::at(e.pins, number);
        if (!pin.name.empty()) return pin.name.text;
        if (pin.output) return "OUT";
        int at = 0;
        for (int i = 0; i < number; ++i) {
            const DrawnPin& p = base::at(e.pins, i);
            if (!p.output && base::fold(p.name.text) != "en") ++at;
        }
        const auto unit = writing_.units.find(base::fold(e.type.text));
        if (unit != writing_.units.end()) {
            int seen = 0;
            for (const logic::Declaration& d : unit->second->declarations) {
                const bool input = d.section == logic::Section::Input || d.section == logic::Section::InOut;
                if (input && seen++ == at) return d.name;
            }
        }
        const logic::FunctionInfo* function = logic::find_function(logic::function_of_sign(e.type.text));
        std::istringstream words(function == nullptr ? "IN" : function->formal);
        std::string word, last;
        for (int i = 0; words >> word; ++i) {
            if (i == at) return word;
            last = word;
        }
        return last == "IN1" || last == "IN" ? fmt::format("IN{}", at + 1) : fmt::format("{}_{}", last, at + 1);
    }

    bool in_out(const DrawnElement& e, const std::string& pin) const {
        const auto unit = writing_.units.find(base::fold(e.type.text));
        if (unit == writing_.units.end()) return false;
        const auto& all = unit->second->declarations;
        return std::any_of(all.begin(), all.end(), [&](const logic::Declaration& d) {
            return d.section == logic::Section::InOut && base::fold(d.name) == base::fold(pin);
        });
    }

    void box(const Network& n, const DrawnElement& e, int number) {
        pugi::xml_node node = begin("block", number);
        set(node, "typeName", logic::function_of_sign(e.type.text));
        if (!e.name.empty()) set(node, "instanceName", e.name.text);
        if (e.order > 0) set(node, "executionOrderId", fmt::format("{}", e.order));
        pugi::xml_node inputs = add(node, "inputVariables"), both = add(node, "inOutVariables"),
                       outputs = add(node, "outputVariables");
        std::map<std::string, pugi::xml_node> in_outs;
        for (int p = 0; p < static_cast<int>(e.pins.size()); ++p) {
            const DrawnPin& pin = base::at(e.pins, p);
            const std::string name = pin_name(e, p);
            const bool shared = in_out(e, name);
            pugi::xml_node variable = shared ? in_outs[base::fold(name)] : pugi::xml_node();
            if (!variable) {
                variable = add(shared ? both : pin.output ? outputs : inputs, "variable");
                set(variable, "formalParameter", name);
                if (shared) in_outs[base::fold(name)] = variable;
            }
            if (pin.negated) set(variable, "negated", "true");
            if (pin.edge != logic::PinEdge::None)
                set(variable, "edge", pin.edge == logic::PinEdge::Rising ? "rising" : "falling");
            if (pin.output) {
                add(variable, "connectionPointOut");
            } else {
                connections(variable, n, pin);
            }
        }
        mark(node, true);
    }

    const logic::Drawing& drawing_;
    const Writing& writing_;
    pugi::xml_node root_;
    std::vector<logic::DrawingNote> notes_;
    std::vector<std::pair<int, int>> places_;
    int next_id_ = 1, first_id_ = 1, rail_ = 0, top_ = 20;
    bool marked_ = false;
};

}  // namespace

void add_drawing(pugi::xml_node body, const logic::Drawing& drawing, const Writing& writing) {
    DrawingXml(body, drawing, writing).run();
}

}  // namespace vyard::files
