#include "core/logic/check/call_graph.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace vyard::logic {

using base::Code;

namespace {

class CallGraph {
  public:
    CallGraph(const CheckedLogic& logic, base::Diagnostics& diagnostics)
        : logic_(logic), diagnostics_(diagnostics), edges_(logic.blocks.size()), state_(logic.blocks.size()) {
        for (std::size_t i = 0; i < logic.blocks.size(); ++i) {
            const Layout& b = logic.blocks[i];
            if (b.kind == LayoutKind::Method) methods_[base::fold(b.unit->name)].push_back(static_cast<int>(i));
        }
        for (const CallEdge& e : logic.calls) {
            if (e.from < 0 || e.to < 0) continue;
            base::at(edges_, e.from).push_back({e.to, &e});
            const Layout& to = logic.block(e.to);
            if (to.kind != LayoutKind::Method || e.direct) continue;
            for (const int other : methods_[base::fold(to.unit->name)]) {
                if (other != e.to && logic.is_kind_of(logic.block(other).owner, to.owner))
                    base::at(edges_, e.from).push_back({other, &e});
            }
        }
    }

    void run() {
        for (std::size_t i = 0; i < edges_.size(); ++i) visit(static_cast<int>(i), 0);
    }

  private:
    struct Edge {
        int to;
        const CallEdge* call;
    };
    struct State {
        bool done = false, open = false;
        int depth = 0;  ///< Calls below.
    };

    int visit(int number, int above) {
        State& s = base::at(state_, number);
        if (s.done) return s.depth;
        s.open = true;
        for (const Edge& e : base::at(edges_, number)) {
            if (base::at(state_, e.to).open) {
                diagnostics_.error(Code::Recursion, e.call->place,
                                   number == e.to ? fmt::format("'{}' would call itself", logic_.block(number).name)
                                                  : fmt::format("'{}' would call itself by way of '{}'",
                                                                logic_.block(e.to).name, logic_.block(number).name),
                                   "the standard allows no recursion; write a loop");
                continue;
            }
            if (above > kMaxCallDepth) {
                if (!reported_)
                    diagnostics_.error(Code::TooDeep, e.call->place,
                                       fmt::format("calls are nested more than {} deep", kMaxCallDepth));
                reported_ = true;
                continue;
            }
            s.depth = std::max(s.depth, visit(e.to, above + 1) + 1);
        }
        s.open = false;
        s.done = true;
        if (above + s.depth > kMaxCallDepth && !reported_) {
            reported_ = true;
            diagnostics_.error(Code::TooDeep,
                               place_in(logic_.block(number).unit->source, logic_.block(number).unit->span),
                               fmt::format("calls are nested more than {} deep", kMaxCallDepth));
        }
        return s.depth;
    }

    const CheckedLogic& logic_;
    base::Diagnostics& diagnostics_;
    std::map<std::string, std::vector<int>> methods_;
    std::vector<std::vector<Edge>> edges_;
    std::vector<State> state_;
    bool reported_ = false;
};

}  // namespace

void check_call_graph(const CheckedLogic& logic, base::Diagnostics& diagnostics) {
    CallGraph(logic, diagnostics).run();
}

}  // namespace vyard::logic
