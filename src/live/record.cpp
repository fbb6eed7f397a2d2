#include "live/record.hpp"

#include <fmt/format.h>

#include <iterator>

namespace vyard::live {

namespace {

/// Exactly, in the largest unit that has no fraction.
std::string exact(base::Nanoseconds time) {
    const auto ns = time.count();
    if (ns % 1'000'000'000 == 0) return fmt::format("{} s", ns / 1'000'000'000);
    if (ns % 1'000'000 == 0) return fmt::format("{} ms", ns / 1'000'000);
    return fmt::format("{} us", ns / 1000);
}

}  // namespace

void Record::order(base::Nanoseconds at, const std::string& text) {
    const std::size_t first = text.find_first_not_of(" \t\r");
    const std::size_t last = text.find_last_not_of(" \t\r");
    if (first != std::string::npos) entries_.push_back({at, at, text.substr(first, last - first + 1), false, false});
}

void Record::done(base::Nanoseconds at) {
    for (auto e = entries_.rbegin(); e != entries_.rend(); ++e) {
        if (e->reaction || e->remark) continue;
        e->done = at;
        return;
    }
}

void Record::reaction(base::Nanoseconds at, std::string text) {
    entries_.push_back({at, at, std::move(text), true, false});
}

void Record::remark(base::Nanoseconds at, std::string text) {
    entries_.push_back({at, at, std::move(text), false, true});
}

void Record::forget_after(base::Nanoseconds time) {
    std::erase_if(entries_, [&](const Entry& e) { return e.at > time || e.done > time; });
}

std::string Record::procedure(const std::string& name) const {
    std::string out = fmt::format("procedure \"{}\"\nstep \"As it was done\"\n", name);
    const auto to = std::back_inserter(out);
    base::Nanoseconds now{};  // how far the orders so far have come
    const auto suggest = [&](const Entry& e) {
        fmt::format_to(to, "    // expect {} within {}\n", e.text, exact(e.at - now));
    };
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        const Entry& e = entries_[i];
        if (e.reaction) {
            suggest(e);
            continue;
        }
        if (e.remark) {
            fmt::format_to(to, "    // {}\n", e.text);
            continue;
        }
        if (e.at > now) fmt::format_to(to, "    wait {}\n", exact(e.at - now));
        now = e.at;
        // What came while the order took its time stands before it, where it could be expected.
        const bool waited = e.done > e.at;
        while (waited && i + 1 < entries_.size() && entries_[i + 1].reaction && entries_[i + 1].at <= e.done)
            suggest(entries_[++i]);
        fmt::format_to(to, "    {}\n", e.text);
        now = e.done;
    }
    return out;
}

}  // namespace vyard::live
