#include "core/logic/check/symbols.hpp"

#include "core/base/base.hpp"

namespace vyard::logic {

bool Symbols::add(const std::string& name, Symbol symbol, Symbol* taken) {
    const auto [found, fresh] = symbols_.emplace(base::fold(name), symbol);
    if (!fresh && taken != nullptr) *taken = found->second;
    return fresh;
}

void Symbols::add_namespace(const std::string& name) {
    std::string folded = base::fold(name);
    while (!folded.empty()) {
        namespaces_[folded] = true;
        const std::size_t dot = folded.rfind('.');
        folded.resize(dot == std::string::npos ? 0 : dot);
    }
}

template <class F>
bool Symbols::each_candidate(const std::string& dotted, const NameContext& context, F&& try_name) const {
    const std::string name = base::fold(dotted);
    std::string space = base::fold(context.space);
    for (;;) {
        if (try_name(space.empty() ? name : space + "." + name)) return true;
        if (space.empty()) break;
        const std::size_t dot = space.rfind('.');
        space.resize(dot == std::string::npos ? 0 : dot);
    }
    for (const std::string& used : context.using_) {
        if (try_name(base::fold(used) + "." + name)) return true;
    }
    return false;
}

std::optional<Symbol> Symbols::find(const std::string& dotted, const NameContext& context) const {
    std::optional<Symbol> out;
    each_candidate(dotted, context, [&](const std::string& name) {
        const auto found = symbols_.find(name);
        if (found == symbols_.end()) return false;
        out = found->second;
        return true;
    });
    return out;
}

bool Symbols::is_namespace(const std::string& dotted, const NameContext& context) const {
    return each_candidate(dotted, context, [&](const std::string& name) { return namespaces_.contains(name); });
}

}  // namespace vyard::logic
