#include "link/peers.hpp"

#include "link/client.hpp"

namespace vyard::link {

using Clock = std::chrono::steady_clock;

namespace {

constexpr auto kPatience = std::chrono::milliseconds(200);
constexpr auto kRetry = std::chrono::milliseconds(500);

std::vector<Cell> cells_of(const controller::Ask& ask) {
    std::vector<Cell> out;
    for (const controller::Ask::Tag& tag : ask.tags) out.push_back({tag.place, tag.type, false});
    return out;
}

}  // namespace

/// One controller that is asked.
class Peer {
  public:
    Peer(const controller::Ask& ask, base::Nanoseconds fresh)
        : ask_(ask), fresh_(fresh.count()), client_(ask.host, ask.port, ask.unit, cells_of(ask)) {
        std::vector<int> all;
        for (std::size_t i = 0; i < ask.tags.size(); ++i) all.push_back(static_cast<int>(i));
        blocks_ = blocks_of(cells_of(ask), all, false);
    }

    void bring(std::byte* memory) {
        const auto now = Clock::now();
        if (!client_.connected() && now >= again_ && !client_.connect(kPatience)) again_ = now + kRetry;
        if (client_.connected() && client_.read(blocks_, values_)) came_ = now;
        const bool good = came_ && Clock::now() - *came_ <= fresh_;
        for (std::size_t i = 0; i < ask_.tags.size(); ++i) {
            const controller::Ask::Tag& tag = ask_.tags[i];
            std::uint64_t bits = good ? logic::widened(values_[i], tag.to.type).value_or(logic::Value{}).bits : 0;
            if (good && tag.invert) bits = bits != 0 ? 0 : 1;
            logic::write_bits(memory, tag.to.type, tag.to.offset, tag.to.bit, bits);
        }
    }
    std::uint64_t requests() const { return client_.requests(); }

  private:
    const controller::Ask& ask_;
    std::chrono::nanoseconds fresh_;
    Client client_;
    std::vector<Block> blocks_;
    std::vector<logic::Value> values_;
    std::optional<Clock::time_point> came_;
    Clock::time_point again_{};
};

Peers::Peers(const controller::ControllerModel& model) {
    for (const controller::Ask& ask : model.link->asks) all_.push_back(std::make_unique<Peer>(ask, model.link->fresh));
}
Peers::~Peers() = default;

void Peers::bring(std::byte* memory) {
    for (const auto& peer : all_) peer->bring(memory);
}

std::uint64_t Peers::requests() const {
    std::uint64_t out = 0;
    for (const auto& peer : all_) out += peer->requests();
    return out;
}

}  // namespace vyard::link
