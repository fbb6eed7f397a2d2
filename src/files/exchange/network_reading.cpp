// Networks from the elements and connections of an exchange file, and their text.
#include <fmt/format.h>

#include <algorithm>

#include "files/exchange/body_reader.hpp"

namespace vyard::files {

using base::Code;

namespace {

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

}  // namespace

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
    sort_by_turns(out);
    return out;
}

/// What states no turn takes it behind the last block that leads to it.
void BodyReader::derive_turns() {
    const std::vector<int> stated = turns_;
    for (const Consumer& c : consumers_) {
        if (base::at(stated, c.end.element) > 0) continue;
        for (const Producer& p : c.from) {
            int& turn = base::at(turns_, c.end.element);
            if (p.element >= 0) turn = std::max(turn, base::at(stated, p.element));
        }
    }
}

/// Where all blocks state their turns these put networks in order, and the elements within them.
void BodyReader::sort_by_turns(std::vector<std::vector<int>>& networks) {
    bool any = false;
    for (int i = 0; i < static_cast<int>(elements_.size()); ++i) {
        if (base::at(elements_, i).kind != ElementKind::Box) continue;
        if (base::at(turns_, i) <= 0) return;
        any = true;
    }
    if (!any) return;
    derive_turns();
    const auto stated = [&](int i) { return base::at(turns_, i) > 0; };
    std::vector<std::pair<int, std::vector<int>>> keyed_networks;
    int last = 0;
    for (std::vector<int>& members : networks) {
        // What takes no turn stays before the one that follows it.
        std::vector<std::pair<int, int>> keyed;
        int key = 0;
        for (auto i = members.rbegin(); i != members.rend(); ++i) {
            if (stated(*i)) key = base::at(turns_, *i);
            keyed.emplace_back(key, *i);
        }
        std::reverse(keyed.begin(), keyed.end());
        std::stable_sort(keyed.begin(), keyed.end(), [&](const auto& a, const auto& b) {
            // A block before what is led to by it.
            const auto later = [&](int i) { return base::at(elements_, i).kind != ElementKind::Box && stated(i); };
            return std::pair(a.first, later(a.second)) < std::pair(b.first, later(b.second));
        });
        for (std::size_t i = 0; i < keyed.size(); ++i) members[i] = keyed[i].second;
        const auto first = std::find_if(members.begin(), members.end(), stated);
        if (first != members.end()) last = base::at(turns_, *first);  // one without any stays behind the one before it
        keyed_networks.emplace_back(last, std::move(members));
    }
    std::stable_sort(keyed_networks.begin(), keyed_networks.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t i = 0; i < networks.size(); ++i) networks[i] = std::move(keyed_networks[i].second);
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

namespace {

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
                      "look for a text that is not an expression, or a name with blanks");
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
