#include "core/trace/ring.hpp"

#include <algorithm>

namespace vyard::trace {

void Ring::begin(const std::vector<Channel>& channels, base::Nanoseconds time) {
    channels_ = &channels;
    before_.assign(channels.size(), {});
    kept_.clear();
    begin_ = time;
}

void Ring::change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) {
    kept_.push_back({time, channel, value});
    while (!kept_.empty() && (kept_.front().time + reach_ < time || kept_.size() > most_)) let_go();
}

void Ring::let_go() {
    Kept& first = kept_.front();
    begin_ = first.time;
    base::at(before_, static_cast<int>(first.channel)) = std::move(first.value);
    kept_.pop_front();
}

base::Nanoseconds Ring::write(base::Nanoseconds from, base::Nanoseconds to, Sink& sink) const {
    const base::Nanoseconds begin = std::max(from, begin_);
    std::vector<logic::Value> now = before_;
    auto k = kept_.begin();
    for (; k != kept_.end() && k->time <= begin; ++k) base::at(now, static_cast<int>(k->channel)) = k->value;
    sink.begin(*channels_, begin);
    for (std::size_t c = 0; c < now.size(); ++c) sink.change(begin, static_cast<std::uint32_t>(c), now[c]);
    for (; k != kept_.end() && k->time <= to; ++k) sink.change(k->time, k->channel, k->value);
    sink.end(std::max(to, begin));
    return begin;
}

}  // namespace vyard::trace
