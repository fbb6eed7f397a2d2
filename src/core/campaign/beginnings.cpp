#include "core/campaign/beginnings.hpp"

#include <algorithm>

namespace vyard::campaign {

Beginnings::Beginnings(const std::shared_ptr<const procedure::Book>& book, const Nominal& nominal,
                       const session::Session& fresh, std::size_t most) {
    std::vector<base::Nanoseconds> times;
    const base::Nanoseconds step = fresh.model().step;
    for (std::size_t i = 0; i < most; ++i)
        times.push_back(nominal.end * static_cast<std::int64_t>(i) / static_cast<std::int64_t>(most) / step * step);
    kept_ = branches_at(book, nominal.procedure, fresh, times);
}

Branch Beginnings::at(base::Nanoseconds time) const {
    const auto after = std::upper_bound(kept_.begin(), kept_.end(), time,
                                        [](base::Nanoseconds t, const Branch& b) { return t < b.session.now(); });
    Branch out = after == kept_.begin() ? kept_.front() : *std::prev(after);
    while (out.session.now() < time && out.run.advance(out.session)) out.session.step();
    return out;
}

const Branch* Beginnings::kept(base::Nanoseconds time) const {
    const auto at = std::lower_bound(kept_.begin(), kept_.end(), time,
                                     [](const Branch& b, base::Nanoseconds t) { return b.session.now() < t; });
    return at == kept_.end() || at->session.now() != time ? nullptr : &*at;
}

std::vector<Beginnings> beginnings_of(const Setup& setup, const std::vector<Nominal>& nominals,
                                      const session::Session& fresh, std::size_t most) {
    std::vector<std::optional<Beginnings>> found(nominals.size());
    Work work = setup.work;
    work.progress = {};
    in_parallel(found.size(), work, [&](std::size_t n) { found[n].emplace(setup.book, nominals[n], fresh, most); });
    std::vector<Beginnings> out;
    for (std::optional<Beginnings>& b : found) {
        if (b) out.push_back(std::move(*b));
    }
    return out;
}

}  // namespace vyard::campaign
