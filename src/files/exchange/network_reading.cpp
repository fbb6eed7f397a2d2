// What is drawn in an exchange file, as networks of ours: elements by their ids, nets by the connections between them.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>
#include <set>

#include "core/logic/logic.hpp"
#include "files/exchange/names.hpp"
#include "files/exchange/reading.hpp"

namespace vyard::files {

using base::Code;
using logic::DrawnElement;
using logic::DrawnForm;
using logic::DrawnNet;
using logic::DrawnPin;
using logic::ElementKind;
using logic::NetEnd;
using logic::Network;

namespace {

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

logic::PinEdge edge_of(pugi::xml_node node) {
    const std::string_view edge = node.attribute("edge").value();
    return edge == "rising"    ? logic::PinEdge::Rising
           : edge == "falling" ? logic::PinEdge::Falling
                               : logic::PinEdge::None;
}
bool is_true(pugi::xml_node node, const char* attribute) {
    const std::string_view value = node.attribute(attribute).value();
    return value == "true" || value == "1";
}

/// A title has no blank lines.
void add_title(std::string& title, const std::string& text) {
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        const std::size_t first = std::min(text.find_first_not_of(" \t", at), end);
        const std::size_t last = text.find_last_not_of(" \t", end == 0 ? 0 : end - 1);
        if (first < end)
            title = fmt::format("{}{}{}", title, title.empty() ? "" : "\n", text.substr(first, last - first + 1));
        at = end + 1;
    }
}

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
            reading_.error(node, Code::DuplicateName,
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

void BodyReader::element(pugi::xml_node node) {
    const std::string_view kind = local_name(node);
    const std::size_t before = elements_.size();
    if (kind == "vendorElement") return;  // left out with a warning; what hangs on it is a mistake
    reading_.read(node);
    if (reading_.own(node, kOwnNetwork)) next_begins_ = true;
    if (kind == "leftPowerRail") {
        // Each of its connection points is the rail.
        known_as(node, "", {kRail, 0});
        for (const pugi::xml_node point : reading_.children(node, "connectionPointOut"))
            producers_.emplace(std::pair(std::string(node.attribute("localId").value()),
                                         base::fold(point.attribute("formalParameter").value())),
                               Producer{kRail, 0});
    } else if (kind == "rightPowerRail") {
        for (const pugi::xml_node point : reading_.children(node, "connectionPointIn"))
            reading_.children(point, "connection");
    } else if (kind == "contact" || kind == "coil") {
        contact_or_coil(node, kind == "contact");
    } else if (kind == "inVariable") {
        variable(node, true, false);
    } else if (kind == "outVariable") {
        variable(node, false, true);
    } else if (kind == "inOutVariable") {
        variable(node, true, true);
    } else if (kind == "jump") {
        line_end(node, ElementKind::Jump, "label");
    } else if (kind == "return") {
        line_end(node, ElementKind::Return, nullptr);
    } else if (kind == "connector") {
        line_end(node, ElementKind::Leave, "name");
    } else if (kind == "continuation") {
        line_end(node, ElementKind::Enter, "name");
    } else if (kind == "block") {
        box(node);
    } else if (kind == "label") {
        labels_.push_back({node, reading_.name(node, "label"), static_cast<int>(elements_.size())});
    } else if (kind == "comment") {
        remark(node);
    } else {
        reading_.error(
            node, Code::NotSupported,
            fmt::format("<{}> is not read in a {}", kind.substr(0, 60), form_ == DrawnForm::Ladder ? "LADDER" : "FBD"));
    }
    if (next_begins_ && elements_.size() > before) {
        begins_.insert(static_cast<int>(before));
        next_begins_ = false;
    }
}

void BodyReader::remark(pugi::xml_node node) {
    const pugi::xml_node content = reading_.child(node, "content");
    for (const pugi::xml_node c : reading_.elements(content)) reading_.read(c);
    std::string text = reading_.xml().text(content);
    const PlacedLines lines = reading_.xml().lines(content);
    if (lines.size() > 1 && lines.back().text.empty()) text += "\n";
    if (!text.empty()) remarks_.push_back({node, text, static_cast<int>(elements_.size()), next_begins_});
}

void BodyReader::contact_or_coil(pugi::xml_node node, bool contact) {
    const std::string name =
        reading_.expression(node, reading_.xml().text(reading_.child(node, "variable")), "the variable");
    if (form_ == DrawnForm::Blocks)
        reading_.error(node, Code::Syntax, fmt::format("a <{}> stands in an <LD>, not in an <FBD>", local_name(node)));
    const int number = add(node, contact ? ElementKind::Contact : ElementKind::Coil, name);
    DrawnElement& e = elements_.back();
    const bool negated = is_true(node, "negated");
    const logic::PinEdge edge = edge_of(node);
    const std::string_view storage = node.attribute("storage").value();
    const int told =
        (negated ? 1 : 0) + (edge != logic::PinEdge::None ? 1 : 0) + (storage == "set" || storage == "reset" ? 1 : 0);
    if (told > 1)
        reading_.error(node, Code::NotSupported,
                       fmt::format("a {} is negated, or looks for an edge, or latches; this one does several",
                                   contact ? "contact" : "coil"),
                       "draw it as two");
    if (contact) {
        e.contact = edge == logic::PinEdge::Rising    ? logic::ContactKind::Rising
                    : edge == logic::PinEdge::Falling ? logic::ContactKind::Falling
                    : negated                         ? logic::ContactKind::Closed
                                                      : logic::ContactKind::Open;
        comparison(e);
    } else {
        e.coil = storage == "set"                  ? logic::CoilKind::Set
                 : storage == "reset"              ? logic::CoilKind::Reset
                 : edge == logic::PinEdge::Rising  ? logic::CoilKind::Rising
                 : edge == logic::PinEdge::Falling ? logic::CoilKind::Falling
                 : negated                         ? logic::CoilKind::Negated
                                                   : logic::CoilKind::Plain;
    }
    input(node, number, 0, reading_.child(node, "connectionPointIn"));
    reading_.child(node, "connectionPointOut");
    known_as(node, "", {number, 1});
}

/// A contact on `a > b` compares.
void BodyReader::comparison(DrawnElement& e) {
    if (e.contact != logic::ContactKind::Open) return;
    base::Diagnostics ignored;
    const base::SourcePtr piece = base::make_source("", e.name.text);
    int depth = 0;
    for (const logic::Token& t : logic::tokenize(piece, ignored)) {
        if (t.kind != logic::TokenKind::Symbol) continue;
        if (t.text == "(" || t.text == "[") ++depth;
        if (t.text == ")" || t.text == "]") --depth;
        const bool compares =
            t.text == "=" || t.text == "<>" || t.text == "<" || t.text == "<=" || t.text == ">" || t.text == ">=";
        if (!compares || depth > 0) continue;
        const auto at = static_cast<std::size_t>(t.text.data() - piece->text.data());
        const auto trimmed = [](std::string_view s) {
            while (s.starts_with(' ')) s.remove_prefix(1);
            while (s.ends_with(' ')) s.remove_suffix(1);
            return std::string(s);
        };
        e.contact = logic::ContactKind::Compare;
        e.comparison = std::string(t.text);
        e.name.text = trimmed(std::string_view(piece->text).substr(0, at));
        e.second.text = trimmed(std::string_view(piece->text).substr(at + t.text.size()));
        return;
    }
}

void BodyReader::variable(pugi::xml_node node, bool in, bool out) {
    std::string text =
        reading_.expression(node, reading_.xml().text(reading_.child(node, "expression")), "the expression");
    const bool negated_in = is_true(node, in && out ? "negatedIn" : "negated");
    if (in) {
        const bool negated = in && out ? is_true(node, "negatedOut") : negated_in;
        const int number = add(node, ElementKind::Source, negated ? fmt::format("NOT ({})", text) : text);
        known_as(node, "", {number, 0});
        reading_.child(node, "connectionPointOut");
    }
    if (out) {
        if (negated_in)
            reading_.error(node, Code::NotSupported, "an output variable with a negation of its own is not read",
                           "negate the pin that leads to it");
        const int number = add(node, ElementKind::Target, text);
        input(node, number, 0, reading_.child(node, "connectionPointIn"));
    }
}

void BodyReader::line_end(pugi::xml_node node, ElementKind kind, const char* attribute) {
    const int number = add(node, kind, attribute == nullptr ? "<RETURN>" : reading_.name(node, attribute));
    if (kind == ElementKind::Enter) {
        known_as(node, "", {number, 0});
        reading_.child(node, "connectionPointOut");
    } else {
        input(node, number, 0, reading_.child(node, "connectionPointIn"));
    }
}

void BodyReader::box(pugi::xml_node node) {
    const char* attribute = node.attribute("instanceName") ? "instanceName" : nullptr;
    std::string instance;
    if (attribute != nullptr && *node.attribute(attribute).value() != '\0')
        instance = reading_.expression(node, node.attribute(attribute).value(), "the instance");
    const std::string type = reading_.dotted(node, "typeName");
    const int number = add(node, ElementKind::Box, instance);
    base::at(elements_, number).type.text = type;
    base::at(elements_, number).order = turns_.back();
    box_pins(node, number, "inputVariables", false);
    box_pins(node, number, "inOutVariables", false);
    box_pins(node, number, "outputVariables", true);
    box_pins(node, number, "inOutVariables", true);
}

/// Whether our drawings leave a pin without its name: a function's result, and what is only counted.
bool BodyReader::unnamed(const DrawnElement& e, const std::string& name, bool output) const {
    if (!e.name.empty()) return false;
    const std::string folded = base::fold(name);
    if (output) return folded.empty() || folded == "out" || folded == base::fold(e.type.text);
    if (folded.empty()) return true;
    const auto inputs = std::count_if(e.pins.begin(), e.pins.end(),
                                      [](const DrawnPin& p) { return !p.output && base::fold(p.name.text) != "en"; });
    const logic::FunctionInfo* function = logic::find_function(e.type.text);
    const std::string_view formal = function != nullptr ? function->formal : "IN";
    const bool counted = formal == "IN1" || formal.starts_with("IN1 IN2");
    if (function == nullptr && !logic::find_conversion(e.type.text)) return false;
    return counted ? folded == fmt::format("in{}", inputs + 1) : formal == "IN" && folded == "in";
}

void BodyReader::box_pins(pugi::xml_node node, int number, const char* list, bool output) {
    const bool both = std::string_view(list) == "inOutVariables";
    for (const pugi::xml_node v : reading_.children(reading_.child(node, list), "variable")) {
        const std::string name = v.attribute("formalParameter").value();
        const pugi::xml_node point = reading_.child(v, output ? "connectionPointOut" : "connectionPointIn");
        DrawnElement& e = base::at(elements_, number);
        DrawnPin pin;
        pin.output = output;
        pin.negated = is_true(v, "negated");
        pin.edge = edge_of(v);
        const bool counted = unnamed(e, name, output);
        if (!counted && !name.empty()) pin.name.text = reading_.name(v, "formalParameter");
        const bool open = !output && children(point, "connection").empty();
        if (open && counted) continue;
        const int p = static_cast<int>(e.pins.size());
        e.pins.push_back(std::move(pin));
        if (output) {
            known_as(node, name, {number, p});
            // The one output of a function need not be named; nor need a block's first.
            producers_.emplace(std::pair(std::string(node.attribute("localId").value()), ""), Producer{number, p});
        } else if (!open) {
            input(v, number, p, point);
        }
        if (both && output && !point) e.pins.pop_back();
    }
}

// --- nets ---

void BodyReader::connect(const Pending& p) {
    Consumer c{p.end, {}, p.node};
    for (const pugi::xml_node connection : reading_.children(p.point, "connection")) {
        const std::string id = connection.attribute("refLocalId").value();
        const std::string pin = connection.attribute("formalParameter").value();
        auto found = producers_.find(std::pair(id, base::fold(pin)));
        // What has one output is named without it, whatever stands there.
        if (found == producers_.end()) {
            const auto first = producers_.find(std::pair(id, std::string()));
            const bool box = first != producers_.end() && first->second.element >= 0 &&
                             base::at(elements_, first->second.element).kind == ElementKind::Box;
            if (!box) found = first;
        }
        if (found != producers_.end()) {
            c.from.push_back(found->second);
        } else if (ids_.contains(id)) {
            reading_.error(connection, Code::UnknownName,
                           fmt::format("the element '{}' has no output '{}'", id.substr(0, 40), pin.substr(0, 60)));
        } else {
            reading_.error(connection, Code::UnknownName,
                           fmt::format("no element with an output has the localId '{}'", id.substr(0, 40)));
        }
    }
    std::sort(c.from.begin(), c.from.end());
    c.from.erase(std::unique(c.from.begin(), c.from.end()), c.from.end());
    const bool power = !c.from.empty() && c.from.front().element == kRail;
    if (power) c.from.resize(1);  // what joins the rail changes nothing
    if (form_ == DrawnForm::Blocks && c.from.size() > 1)
        reading_.error(p.node, Code::Syntax, "several outputs lead to this input; which one counts is not said",
                       "join them with an OR");
    if (!c.from.empty()) consumers_.push_back(std::move(c));
}

/// What leads nowhere has no effect and is left out; what nothing leads to cannot act.
void BodyReader::leave_out_loose_ends() {
    std::vector<int> leads(elements_.size());
    std::vector<std::vector<int>> sources(elements_.size());
    for (const Consumer& c : consumers_) {
        for (const Producer& p : c.from) {
            if (p.element < 0) continue;
            ++base::at(leads, p.element);
            base::at(sources, c.end.element).push_back(p.element);
        }
    }
    const auto loose = [&](int i) {
        const ElementKind kind = base::at(elements_, i).kind;
        const bool passes = kind == ElementKind::Contact || kind == ElementKind::Source || kind == ElementKind::Enter;
        return passes && base::at(leads, i) == 0;
    };
    std::vector<int> open;
    for (int i = 0; i < static_cast<int>(elements_.size()); ++i) {
        if (loose(i)) open.push_back(i);
    }
    left_out_.assign(elements_.size(), false);
    while (!open.empty()) {
        const int i = open.back();
        open.pop_back();
        base::at(left_out_, i) = true;
        reading_.warning(base::at(nodes_, i), Code::NotSupported,
                         fmt::format("this <{}> leads nowhere and is left out", local_name(base::at(nodes_, i))));
        for (const int source : base::at(sources, i)) {
            if (--base::at(leads, source) == 0 && loose(source)) open.push_back(source);
        }
    }
    std::erase_if(consumers_, [&](const Consumer& c) { return base::at(left_out_, c.end.element); });
    std::vector<bool> fed(elements_.size());
    for (const Consumer& c : consumers_) fed[static_cast<std::size_t>(c.end.element)] = true;
    for (int i = 0; i < static_cast<int>(elements_.size()); ++i) {
        const ElementKind kind = base::at(elements_, i).kind;
        const bool needs = kind != ElementKind::Box && kind != ElementKind::Source && kind != ElementKind::Enter;
        if (needs && !base::at(left_out_, i) && !fed[static_cast<std::size_t>(i)])
            reading_.error(base::at(nodes_, i), Code::Syntax,
                           fmt::format("no connection leads to this <{}>", local_name(base::at(nodes_, i))));
    }
}

void BodyReader::components() {
    group_.resize(elements_.size());
    for (int i = 0; i < static_cast<int>(group_.size()); ++i) base::at(group_, i) = i;
    for (const Consumer& c : consumers_) {
        for (const Producer& p : c.from) {
            if (p.element >= 0) unite(p.element, c.end.element);
        }
    }
    // A line that goes on by its name.
    std::map<std::string, int> names;
    for (int i = 0; i < static_cast<int>(elements_.size()); ++i) {
        const DrawnElement& e = base::at(elements_, i);
        if (e.kind != ElementKind::Leave && e.kind != ElementKind::Enter) continue;
        const auto [found, fresh] = names.emplace(base::fold(e.name.text), i);
        if (!fresh) unite(i, found->second);
    }
}

/// Networks whose turns are mixed are one: their order is stated among all of them.
void BodyReader::unite_overlapping() {
    struct Reach {
        int low = 0, high = 0, member = 0;
    };
    std::map<int, Reach> reaches;
    for (int i = 0; i < static_cast<int>(elements_.size()); ++i) {
        const int turn = base::at(turns_, i);
        if (turn <= 0) continue;
        const auto [found, fresh] = reaches.emplace(component(i), Reach{turn, turn, i});
        if (fresh) continue;
        found->second.low = std::min(found->second.low, turn);
        found->second.high = std::max(found->second.high, turn);
    }
    std::vector<Reach> sorted;
    sorted.reserve(reaches.size());
    for (const auto& [root, reach] : reaches) sorted.push_back(reach);
    std::sort(sorted.begin(), sorted.end(), [](const Reach& a, const Reach& b) { return a.low < b.low; });
    for (std::size_t i = 1; i < sorted.size(); ++i) {
        if (sorted[i].low >= sorted[i - 1].high) continue;
        unite(sorted[i].member, sorted[i - 1].member);
        sorted[i].high = std::max(sorted[i].high, sorted[i - 1].high);
    }
}

/// The elements of each network, in their order.
std::vector<std::vector<int>> BodyReader::grouped() {
    std::vector<std::vector<int>> out;
    const int count = static_cast<int>(elements_.size());
    if (!begins_.empty()) {
        for (int i = 0; i < count; ++i) {
            if (out.empty() || begins_.contains(i)) out.emplace_back();
            if (!base::at(left_out_, i)) out.back().push_back(i);
        }
        std::erase_if(out, [](const std::vector<int>& members) { return members.empty(); });
        return out;
    }
    unite_overlapping();
    std::map<int, std::size_t> places;
    for (int i = 0; i < count; ++i) {
        if (base::at(left_out_, i)) continue;
        const auto [found, fresh] = places.emplace(component(i), out.size());
        if (fresh) out.emplace_back();
        out[found->second].push_back(i);
    }
    // Stated turns put networks in order, and elements within them, where all that take one state it.
    const auto takes_turn = [&](int i) {
        const ElementKind kind = base::at(elements_, i).kind;
        return kind != ElementKind::Source && kind != ElementKind::Enter && kind != ElementKind::Contact;
    };
    bool all = true;
    for (int i = 0; i < count; ++i) all = all && (!takes_turn(i) || base::at(turns_, i) > 0);
    if (!all) return out;
    const auto first_turn = [&](const std::vector<int>& members) {
        int first = 0;
        for (const int i : members) {
            const int turn = base::at(turns_, i);
            if (turn > 0 && (first == 0 || turn < first)) first = turn;
        }
        return first;
    };
    for (std::vector<int>& members : out) {
        // What takes no turn stays before the one that follows it.
        std::vector<std::pair<int, int>> keyed;
        int key = 0;
        for (auto i = members.rbegin(); i != members.rend(); ++i) {
            if (base::at(turns_, *i) > 0) key = base::at(turns_, *i);
            keyed.emplace_back(key, *i);
        }
        std::reverse(keyed.begin(), keyed.end());
        std::stable_sort(keyed.begin(), keyed.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        for (std::size_t i = 0; i < keyed.size(); ++i) members[i] = keyed[i].second;
    }
    std::stable_sort(out.begin(), out.end(),
                     [&](const auto& a, const auto& b) { return first_turn(a) < first_turn(b); });
    return out;
}

/// Nets from what leads to what. A connection leads one way, while a line joins all that it touches: where an output
/// leads to inputs that others lead to as well, a contact that is always closed stands between.
Network BodyReader::network(const std::vector<int>& members, std::vector<pugi::xml_node>& nodes) {
    Network out;
    std::map<int, int> place;
    for (const int i : members) {
        place.emplace(i, static_cast<int>(out.elements.size()));
        out.elements.push_back(base::at(elements_, i));
        nodes.push_back(base::at(nodes_, i));
    }
    std::map<std::vector<Producer>, int> nets;
    const auto net_of = [&](const std::vector<Producer>& from) {
        const auto [found, fresh] = nets.emplace(from, static_cast<int>(out.nets.size()));
        if (fresh) {
            out.nets.emplace_back();
            out.nets.back().power = from.front().element == kRail;
        }
        return found->second;
    };
    const auto join = [&](int net, NetEnd end, bool output) {
        DrawnNet& n = base::at(out.nets, net);
        (output ? n.from : n.to).push_back(end);
        base::at(base::at(out.elements, end.element).pins, end.pin).net = net;
    };
    for (const int i : members) {
        for (const int c : base::at(consumers_of_, i)) {
            const Consumer& consumer = base::at(consumers_, c);
            join(net_of(consumer.from), {place.at(i), consumer.end.pin}, false);
        }
    }
    std::map<Producer, std::vector<int>> leads;
    for (const auto& [from, net] : nets) {
        for (const Producer& p : from) {
            if (p.element >= 0) leads[p].push_back(net);
        }
    }
    for (const auto& [producer, to] : leads) {
        const NetEnd end{place.at(producer.element), producer.pin};
        if (to.size() == 1) {
            join(to[0], end, true);
            continue;
        }
        const int home = net_of({producer});
        join(home, end, true);
        for (const int net : to) {
            if (net == home) continue;
            DrawnElement closed;
            closed.kind = ElementKind::Contact;
            closed.name.text = "TRUE";
            closed.pins.resize(2);
            closed.pins[1].output = true;
            out.elements.push_back(std::move(closed));
            nodes.push_back(base::at(nodes_, producer.element));
            const int number = static_cast<int>(out.elements.size()) - 1;
            join(home, {number, 0}, false);
            join(net, {number, 1}, true);
        }
    }
    return out;
}

BodyReader::Drawn BodyReader::networks() {
    components();
    consumers_of_.resize(elements_.size());
    for (std::size_t c = 0; c < consumers_.size(); ++c)
        base::at(consumers_of_, consumers_[c].end.element).push_back(static_cast<int>(c));
    Drawn out;
    out.drawing.form = form_;
    const std::vector<std::vector<int>> groups = grouped();
    std::map<int, std::pair<int, int>> where;  // network and place in it, by element
    for (const std::vector<int>& members : groups) {
        for (std::size_t i = 0; i < members.size(); ++i)
            where.emplace(members[i], std::pair(static_cast<int>(out.nodes.size()), static_cast<int>(i)));
        out.nodes.emplace_back();
        out.drawing.networks.push_back(network(members, out.nodes.back()));
    }
    const int count = static_cast<int>(groups.size());
    for (const Label& l : labels_) {
        const auto found = where.lower_bound(l.before);
        if (found == where.end()) {
            logic::DrawnText text;
            text.text = l.name;
            out.drawing.labels_behind.push_back(std::move(text));
            continue;
        }
        Network& n = base::at(out.drawing.networks, found->second.first);
        if (!n.label.empty()) reading_.error(l.node, Code::Syntax, "a network has one label");
        n.label.text = l.name;
    }
    for (std::size_t i = 0; i < remarks_.size(); ++i) {
        const Remark& r = remarks_[i];
        const auto found = where.lower_bound(r.before);
        const bool apart = r.text.ends_with('\n');
        std::string text = r.text.substr(0, r.text.find_last_not_of('\n') + 1);
        if (found == where.end()) {
            out.notes.push_back({count, -1, false, std::move(text)});
        } else if (found->second.second == 0 && !r.within) {
            if (!apart) add_title(base::at(out.drawing.networks, found->second.first).title, text);
            out.notes.push_back({found->second.first, -1, !apart, std::move(text)});
        } else {
            std::replace(text.begin(), text.end(), '\n', ' ');
            out.notes.push_back({found->second.first, found->second.second, false, std::move(text)});
        }
    }
    return out;
}

// --- text ---

/// Nothing is handed on that would be read as something else than was meant: a text at a pin may swallow what is beside
/// it. What is wrong in the drawing itself is told when it is read.
void check_meaning(Reading& reading, const BodyReader::Drawn& drawn, const TextMaker& text) {
    base::Diagnostics mistakes;
    const std::vector<logic::Drawing> read = logic::drawings_of(text.source(""), mistakes);
    if (mistakes.has_errors() || drawn.drawing.networks.empty()) return;
    for (std::size_t i = 0; i < drawn.drawing.networks.size(); ++i) {
        const bool there = !read.empty() && i < read[0].networks.size();
        if (there && network_meaning(read[0].networks[i]) == network_meaning(drawn.drawing.networks[i])) continue;
        reading.error(drawn.nodes[i].front(), Code::NotSupported, "what stands in this network cannot be drawn",
                      "look for a text that is no expression, or a name with blanks");
    }
}

void write(Reading& reading, pugi::xml_node body, const BodyReader::Drawn& drawn, TextMaker& made) {
    const bool ladder = drawn.drawing.form == DrawnForm::Ladder;
    const base::LineOrigin origin = reading.origin(body);
    TextMaker out;
    out.line(ladder ? "LADDER" : "FBD", origin);
    for (const logic::WrittenRow& row : logic::write_drawing(drawn.drawing, drawn.notes)) {
        const bool known = row.network >= 0 && row.element >= 0;
        out.line(row.text, known ? reading.origin(base::at(base::at(drawn.nodes, row.network), row.element)) : origin);
    }
    out.line(ladder ? "END_LADDER" : "END_FBD", origin);
    check_meaning(reading, drawn, out);
    made.append(out);
}

}  // namespace

void read_drawn_body(Reading& reading, pugi::xml_node body, TextMaker& out) {
    const int before = reading.diagnostics().error_count();
    BodyReader reader(reading, local_name(body) == "LD" ? DrawnForm::Ladder : DrawnForm::Blocks);
    reader.read(body);
    if (reading.diagnostics().error_count() == before) reader.finish();
    if (reading.diagnostics().error_count() == before) write(reading, body, reader.networks(), out);
}

void read_drawn_condition(Reading& reading, pugi::xml_node body, pugi::xml_node condition, const std::string& name,
                          TextMaker& out) {
    // Only what leads to the condition: the chart's own elements stand in the same body.
    std::map<std::string, pugi::xml_node> by_id;
    for (const pugi::xml_node node : reading.elements(body)) by_id.emplace(node.attribute("localId").value(), node);
    std::set<const void*> needed;
    bool rail = false;
    std::vector<pugi::xml_node> open{condition};
    while (!open.empty()) {
        const pugi::xml_node node = open.back();
        open.pop_back();
        for (const pugi::xml_node c : node.children()) {
            if (c.type() == pugi::node_element) open.push_back(c);
        }
        if (local_name(node) != "connection") continue;
        const auto found = by_id.find(node.attribute("refLocalId").value());
        if (found == by_id.end() || !needed.insert(found->second.internal_object()).second) continue;
        rail = rail || local_name(found->second) == "leftPowerRail";
        open.push_back(found->second);
    }
    const int before = reading.diagnostics().error_count();
    BodyReader reader(reading, rail ? DrawnForm::Ladder : DrawnForm::Blocks);
    reader.read(body, &needed);
    reader.add_target(condition, name);
    if (reading.diagnostics().error_count() == before) reader.finish();
    if (reading.diagnostics().error_count() == before) write(reading, body, reader.networks(), out);
}

}  // namespace vyard::files
