#include "live/record.hpp"

#include <fmt/format.h>

#include <algorithm>
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

void Record::order(base::Nanoseconds at, const std::string& text, int asker, bool open) {
    const std::size_t first = text.find_first_not_of(" \t\r");
    const std::size_t last = text.find_last_not_of(" \t\r");
    if (first == std::string::npos) return;
    entries_.push_back({Entry::Kind::Order, at, at, text.substr(first, last - first + 1), asker, open});
    reacted_.clear();
}

void Record::done(base::Nanoseconds at, int asker) {
    for (auto e = entries_.rbegin(); e != entries_.rend(); ++e) {
        if (!e->open || e->asker != asker) continue;
        e->done = at;
        e->open = false;
        return;
    }
}

void Record::reaction(base::Nanoseconds at, std::string text) {
    std::string name = text.substr(0, text.find(" = "));
    if (reacted_.size() >= static_cast<std::size_t>(kMostReactions)) return;
    if (std::find(reacted_.begin(), reacted_.end(), name) != reacted_.end()) return;
    reacted_.push_back(std::move(name));
    entries_.push_back({Entry::Kind::Reaction, at, at, std::move(text), 0, false});
}

void Record::remark(base::Nanoseconds at, std::string text) {
    entries_.push_back({Entry::Kind::Remark, at, at, std::move(text), 0, false});
}

void Record::forget_after(base::Nanoseconds time) {
    if (std::erase_if(entries_, [&](const Entry& e) { return e.at > time || e.done > time; }) == 0) return;
    ++revision_;
    reacted_.clear();
}

std::string Record::procedure(const std::string& name) const {
    std::string out = fmt::format("procedure \"{}\"\nstep \"As it was done\"\n", name);
    const auto to = std::back_inserter(out);
    base::Nanoseconds now{};  // how far the orders so far have come
    const auto suggest = [&](const Entry& e) {
        fmt::format_to(to, "    // expect {} within {}\n", e.text, exact(e.at - now));
    };
    const auto interrupted = [&](std::size_t i) {
        for (std::size_t k = i + 1; k < entries_.size() && entries_[k].at < entries_[i].done; ++k) {
            if (entries_[k].kind == Entry::Kind::Order) return true;
        }
        return false;
    };
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        const Entry& e = entries_[i];
        if (e.kind == Entry::Kind::Reaction) {
            suggest(e);
            continue;
        }
        if (e.kind == Entry::Kind::Remark) {
            fmt::format_to(to, "    // {}\n", e.text);
            continue;
        }
        if (e.at > now) fmt::format_to(to, "    wait {}\n", exact(e.at - now));
        now = e.at;
        const bool waited = e.done > e.at;
        if (waited && interrupted(i)) {
            fmt::format_to(to, "    // meanwhile, for {}: {}\n", exact(e.done - e.at), e.text);
            continue;
        }
        // What came while the order took its time stands before it, where it could be expected.
        while (waited && i + 1 < entries_.size() && entries_[i + 1].kind == Entry::Kind::Reaction &&
               entries_[i + 1].at <= e.done)
            suggest(entries_[++i]);
        fmt::format_to(to, "    {}\n", e.text);
        now = e.done;
    }
    return out;
}

}  // namespace vyard::live
