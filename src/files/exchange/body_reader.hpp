// Bodies of an exchange file that are drawn: elements by their ids, nets by the connections between them. Elements are
// read in network_elements.cpp, nets and networks made of them in network_reading.cpp. Internal to the exchange.
#pragma once

#include <fmt/format.h>

#include <map>
#include <set>

#include "core/logic/logic.hpp"
#include "files/exchange/reading.hpp"

namespace vyard::files {

using logic::DrawnElement;
using logic::DrawnForm;
using logic::DrawnNet;
using logic::DrawnPin;
using logic::ElementKind;
using logic::NetEnd;
using logic::Network;

/// An output that others name: the id of its element, and its pin.
struct Producer {
    int element = -1;  ///< kRail: the left rail.
    int pin = 0;

    bool operator==(const Producer&) const = default;
    bool operator<(const Producer& other) const {
        return std::pair(element, pin) < std::pair(other.element, other.pin);
    }
};
constexpr int kRail = -2;

struct Consumer {
    NetEnd end;
    std::vector<Producer> from;
    pugi::xml_node node;
};

/// A comment, and before which element it stands in the file.
struct Remark {
    pugi::xml_node node;
    std::string text;
    int before = 0;
    bool within = false;  ///< Its network has begun.
};
struct Label {
    pugi::xml_node node;
    std::string name;
    int before = 0;
};

/// Elements of a body, and who leads to whom.
class BodyReader {
  public:
    BodyReader(Reading& reading, DrawnForm form) : reading_(reading), form_(form) {}

    /// All elements of `body`, or those of `only`.
    void read(pugi::xml_node body, const std::set<const void*>* only = nullptr) {
        for (const pugi::xml_node node : reading_.elements(body)) {
            if (only == nullptr || only->contains(node.internal_object())) element(node);
        }
        for (Pending& p : pending_) connect(p);
        pending_.clear();
    }
    /// Once all is read, and before networks().
    void finish() { leave_out_loose_ends(); }

    /// A coil or an output that writes `name`, led to by `node`'s connectionPointIn.
    void add_target(pugi::xml_node node, const std::string& name) {
        const bool ladder = form_ == DrawnForm::Ladder;
        const int number = add(node, ladder ? ElementKind::Coil : ElementKind::Target, name);
        input(node, number, 0, reading_.child(node, "connectionPointIn"));
        connect(pending_.back());
        pending_.clear();
    }

    struct Drawn {
        logic::Drawing drawing;
        std::vector<logic::DrawingNote> notes;
        std::vector<std::vector<pugi::xml_node>> nodes;  ///< By network and element.
    };
    Drawn networks();

  private:
    struct Pending {
        pugi::xml_node node;
        NetEnd end;
        pugi::xml_node point;
    };

    int add(pugi::xml_node node, ElementKind kind, std::string name) {
        DrawnElement e;
        e.kind = kind;
        e.name.text = std::move(name);
        const bool both = kind == ElementKind::Contact || kind == ElementKind::Coil;
        const bool gives = kind == ElementKind::Source || kind == ElementKind::Enter;
        for (const bool output : {false, true}) {
            if (kind == ElementKind::Box || (!both && output != gives)) continue;
            DrawnPin pin;
            pin.output = output;
            e.pins.push_back(std::move(pin));
        }
        elements_.push_back(std::move(e));
        nodes_.push_back(node);
        turns_.push_back(node.attribute("executionOrderId").as_int(0));
        return static_cast<int>(elements_.size()) - 1;
    }

    void known_as(pugi::xml_node node, const std::string& pin, Producer producer) {
        const std::string id = node.attribute("localId").value();
        ids_.insert(id);
        if (!producers_.emplace(std::pair(id, base::fold(pin)), producer).second && pin.empty())
            reading_.error(node, base::Code::DuplicateName,
                           fmt::format("two elements have the localId '{}'", id.substr(0, 40)));
    }

    void input(pugi::xml_node node, int element, int pin, pugi::xml_node point) {
        pending_.push_back({node, {element, pin}, point});
    }

    // --- elements ---

    void element(pugi::xml_node node);
    void contact_or_coil(pugi::xml_node node, bool contact);
    void comparison(DrawnElement& e);
    void variable(pugi::xml_node node, bool in, bool out);
    void line_end(pugi::xml_node node, ElementKind kind, const char* attribute);
    void box(pugi::xml_node node);
    void box_pins(pugi::xml_node node, int number, const char* list, bool output);
    bool unnamed(const DrawnElement& e, const std::string& name, bool output) const;
    void remark(pugi::xml_node node);

    // --- nets ---

    void connect(const Pending& p);
    void leave_out_loose_ends();
    void components();
    int component(int i) {
        while (base::at(group_, i) != i) {
            base::at(group_, i) = base::at(group_, base::at(group_, i));
            i = base::at(group_, i);
        }
        return i;
    }
    void unite(int a, int b) { base::at(group_, component(a)) = component(b); }
    void unite_overlapping();
    std::vector<std::vector<int>> grouped();
    void derive_turns();
    void sort_by_turns(std::vector<std::vector<int>>& networks);
    Network network(const std::vector<int>& members, std::vector<pugi::xml_node>& nodes);

    Reading& reading_;
    DrawnForm form_;
    std::vector<DrawnElement> elements_;
    std::vector<pugi::xml_node> nodes_;
    std::vector<int> turns_;  ///< executionOrderId; 0 for none.
    std::set<int> begins_;    ///< Elements that our own mark says a network begins with.
    std::vector<Pending> pending_;
    std::vector<Consumer> consumers_;
    std::vector<std::vector<int>> consumers_of_;  ///< By element.
    std::vector<bool> left_out_;                  ///< By element.
    std::map<std::pair<std::string, std::string>, Producer> producers_;
    std::set<std::string> ids_;
    std::vector<Remark> remarks_;
    std::vector<Label> labels_;
    std::vector<int> group_;
    bool next_begins_ = false;
};

}  // namespace vyard::files
