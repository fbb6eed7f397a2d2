#include "link/tables.hpp"

#include <algorithm>

namespace vyard::link {

using controller::RegisterArea;
using controller::RegisterPlace;

namespace {

std::chrono::nanoseconds wall(base::Nanoseconds t) {
    return std::chrono::nanoseconds(t.count());
}

}  // namespace

Tables::Tables(std::vector<Cell> cells, int handshake) : cells_(std::move(cells)), handshake_(handshake) {
    for (const Cell& c : cells_) image_.hold(c.place);
    if (handshake_ >= 0) {
        const auto number = static_cast<std::uint32_t>(handshake_);
        image_.hold({RegisterArea::Input, number});
        image_.hold({RegisterArea::Holding, number});
    }
    // A bit or register leads to its cells at once, however many there are.
    coils_.resize(image_.size(RegisterArea::Coil));
    holdings_.resize(image_.size(RegisterArea::Holding));
    for (std::size_t c = 0; c < cells_.size(); ++c) {
        const RegisterPlace& p = cells_[c].place;
        if (!controller::may_be_written(p.area)) continue;
        Table& all = p.area == RegisterArea::Coil ? coils_ : holdings_;
        for (std::uint32_t n = p.first; n < p.end(); ++n) all[n].push_back(static_cast<int>(c));
    }
}

void Tables::publish(const std::vector<int>& cells, const std::vector<logic::Value>& by_cell, std::uint16_t step) {
    const std::lock_guard lock(mutex_);
    for (const int c : cells) image_.put(base::at(cells_, c).place, base::at(by_cell, c));
    if (handshake_ >= 0) image_.words(RegisterArea::Input).at(static_cast<std::size_t>(handshake_)) = step;
    changed_.notify_all();
}

std::vector<logic::Value> Tables::read(const std::vector<int>& cells) const {
    const std::lock_guard lock(mutex_);
    std::vector<logic::Value> out(cells_.size());
    for (const int c : cells) base::at(out, c) = image_.get(base::at(cells_, c).place, base::at(cells_, c).type);
    return out;
}

std::uint64_t Tables::take_requests() {
    const std::lock_guard lock(mutex_);
    const std::uint64_t out = requests_ - taken_;
    taken_ = requests_;
    return out;
}

bool Tables::written() const {
    const std::lock_guard lock(mutex_);
    return writes_ > 0;
}

std::map<int, logic::Value> Tables::take_written() {
    const std::lock_guard lock(mutex_);
    return std::exchange(written_, {});
}

bool Tables::wait_for(std::uint16_t answer, base::Nanoseconds longest) {
    std::unique_lock lock(mutex_);
    const auto& words = image_.words(RegisterArea::Holding);
    return changed_.wait_for(lock, wall(longest),
                             [&] { return words.at(static_cast<std::size_t>(handshake_)) == answer; });
}

std::uint16_t Tables::wait_for_other(std::uint16_t known, base::Nanoseconds longest) {
    std::unique_lock lock(mutex_);
    const auto& words = image_.words(RegisterArea::Holding);
    changed_.wait_for(lock, wall(longest), [&] { return words.at(static_cast<std::size_t>(handshake_)) != known; });
    return words.at(static_cast<std::size_t>(handshake_));
}

bool Tables::wait_for_writer(base::Nanoseconds longest) {
    std::unique_lock lock(mutex_);
    return changed_.wait_for(lock, wall(longest), [&] { return writes_ > 0; });
}

bool Tables::Locked::may_write(RegisterArea area, std::uint32_t first, std::uint32_t count) const {
    const Table& all = tables_.table(area);
    for (std::uint32_t n = first; n < first + count; ++n) {
        if (area == RegisterArea::Holding && static_cast<int>(n) == tables_.handshake_) continue;
        if (n >= all.size() || all[n].empty()) return false;
        for (const int cell : all[n]) {
            const Cell& c = base::at(tables_.cells_, cell);
            if (!c.writable || c.place.first < first || c.place.end() > first + count) return false;
        }
    }
    return true;
}

void Tables::Locked::wrote(RegisterArea area, std::uint32_t first, std::uint32_t count) {
    const Table& all = tables_.table(area);
    int last = -1;
    for (std::uint32_t n = first; n < first + count && n < all.size(); ++n) {
        for (const int cell : all[n]) {
            if (cell == last) continue;  // the next of its registers
            last = cell;
            const Cell& c = base::at(tables_.cells_, cell);
            tables_.written_.insert_or_assign(cell, tables_.image_.get(c.place, c.type));
        }
    }
    ++tables_.writes_;
    tables_.changed_.notify_all();
}

}  // namespace vyard::link
