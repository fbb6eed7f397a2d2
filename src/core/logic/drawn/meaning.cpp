// What a drawing means, apart from where its parts stand.
#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/base/base.hpp"
#include "core/logic/drawn/blocks.hpp"
#include "core/logic/drawn/drawing_writer.hpp"

namespace vyard::logic {

namespace {

class Meaning {
  public:
    explicit Meaning(Network network) : network_(std::move(network)), lines_(network_.nets.size()) {
        for (int i = 0; i < static_cast<int>(network_.elements.size()); ++i) {
            if (takes_turn(element(i))) turns_.emplace(i, static_cast<int>(turns_.size()));
        }
    }

    std::string text() {
        std::string out =
            fmt::format("network {} '{}' {}\n", network_.elements.size(), network_.title, network_.label.text);
        for (const auto& [number, turn] : turns_) {
            const DrawnElement& e = element(number);
            out +=
                fmt::format("{}: {} {} {} {} {}", turn, static_cast<int>(e.kind), static_cast<int>(e.coil),
                            e.kind == ElementKind::Coil ? in_one_word(e.name.text) : e.name.text, e.type.text, e.order);
            for (const bool output : {false, true}) {
                for (const DrawnPin& p : e.pins) {
                    if (p.output == output && e.kind == ElementKind::Box) out += pin(p);
                    if (!p.output && !output && e.kind != ElementKind::Box) out += pin(p);
                }
            }
            out += "\n";
        }
        std::sort(said_.begin(), said_.end());
        for (const std::string& said : said_) out += "  " + said + "\n";
        return out;
    }

  private:
    const DrawnElement& element(int i) const { return base::at(network_.elements, i); }

    std::string pin(const DrawnPin& p) {
        return fmt::format(" [{}{} {}{} {}]", p.output ? "out " : "", p.name.text, p.negated ? "not " : "",
                           static_cast<int>(p.edge),
                           p.net < 0  ? "none"
                           : p.output ? "led"
                                      : line(p.net));
    }

    /// A line by a name made from what leads to it, which is said once.
    std::string line(int net) {
        std::string& name = base::at(lines_, net);
        if (!name.empty()) return name;
        const DrawnNet& n = base::at(network_.nets, net);
        std::vector<std::string> from;
        for (const NetEnd& end : n.from) from.push_back(source(end));
        std::sort(from.begin(), from.end());
        const std::string said = fmt::format("{} <- {} for {}", n.power ? "power" : "line", fmt::join(from, " or "),
                                             n.power ? 0 : n.to.size());
        name = fmt::format("{:016x}", std::hash<std::string>{}(said));
        said_.push_back(name + " " + said);
        return name;
    }

    std::string source(const NetEnd& end) {
        const DrawnElement& e = element(end.element);
        if (const auto turn = turns_.find(end.element); turn != turns_.end())
            return fmt::format("{}.{}", turn->second, base::at(e.pins, end.pin).name.text);
        if (e.kind != ElementKind::Contact) return fmt::format("{} '{}'", static_cast<int>(e.kind), e.name.text);
        return fmt::format("{} '{}' {} '{}' of {}", static_cast<int>(e.contact), in_one_word(e.name.text), e.comparison,
                           in_one_word(e.second.text), line(e.pins[0].net));
    }

    Network network_;  ///< In the order of its turns.
    std::map<int, int> turns_;
    std::vector<std::string> lines_;
    std::vector<std::string> said_;
};

}  // namespace

std::string network_meaning(const Network& network) {
    return Meaning(in_order(network, order_of_turns(network))).text();
}

std::string drawing_meaning(const Drawing& drawing) {
    std::string out;
    for (const Network& n : drawing.networks) out += network_meaning(n);
    for (const DrawnText& label : drawing.labels_behind) out += "label " + label.text + "\n";
    return out;
}

}  // namespace vyard::logic
