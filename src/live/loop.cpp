#include "live/loop.hpp"

#include <sys/prctl.h>
#include <time.h>

#include <algorithm>

namespace vyard::live {

using base::Nanoseconds;

namespace {

constexpr Nanoseconds kKeepEvery{1'000'000'000};
constexpr Nanoseconds kLookAtWork{2'000'000};  ///< Between two looks at what is done beside the run.
/// As fast as it can: so many steps between two looks at the fronts. Fewer cost system calls, more make it deaf.
constexpr int kStepsBetweenLooks = 16;

class RealWorld final : public World {
  public:
    RealWorld() { ::prctl(PR_SET_TIMERSLACK, 1UL, 0UL, 0UL, 0UL); }

    Nanoseconds now() override {
        timespec t{};
        ::clock_gettime(CLOCK_MONOTONIC, &t);
        return std::chrono::seconds(t.tv_sec) + Nanoseconds(t.tv_nsec);
    }
    void wait(std::vector<pollfd>& descriptors, std::optional<Nanoseconds> until) override {
        timespec left{};
        if (until) {
            const std::int64_t ns = std::max<std::int64_t>((*until - now()).count(), 0);
            left = {static_cast<time_t>(ns / 1'000'000'000), static_cast<long>(ns % 1'000'000'000)};
        }
        // An interruption is as good as something that came: the loop asks again.
        (void)::ppoll(descriptors.data(), descriptors.size(), until ? &left : nullptr, nullptr);
    }
};

}  // namespace

std::unique_ptr<World> real_world() {
    return std::make_unique<RealWorld>();
}

void run(Sitting& sitting, const std::vector<Front*>& fronts, World& world, const LeftSession* left) {
    std::vector<pollfd> descriptors;
    const auto deliver = [&] {
        for (const Reply& reply : sitting.take_replies()) {
            for (Front* f : fronts) f->show(sitting, reply);
        }
    };
    sitting.begin();
    if (left != nullptr) sitting.go_on(*left);
    deliver();
    Nanoseconds kept = world.now();
    int unlooked = 0;
    while (!sitting.over()) {
        // First, as lines that were read already may wait for it.
        if (sitting.works()) {
            sitting.take_work();
            deliver();
        }
        if (sitting.pace() > 0.0 || !sitting.busy() || ++unlooked >= kStepsBetweenLooks) {
            unlooked = 0;
            for (Front* f : fronts) f->serve(sitting);
            deliver();
        }
        const bool ended = std::all_of(fronts.begin(), fronts.end(), [](const Front* f) { return f->ended(); });
        if (sitting.over() || sitting.at_limit()) break;
        if (!sitting.busy() && !sitting.works() && ended && (!sitting.options().limit || sitting.paused())) break;
        const std::optional<Nanoseconds> due = sitting.due();
        Nanoseconds now = world.now();
        if (now >= kept + kKeepEvery) {
            kept = now;
            sitting.keep();
            deliver();
        }
        if (due && *due <= now) {
            sitting.tick();
            deliver();
            now = world.now();
            const std::optional<Nanoseconds> next = sitting.due();
            for (Front* f : fronts) f->draw(sitting, now, next);
            continue;
        }
        if (std::any_of(fronts.begin(), fronts.end(), [&](const Front* f) { return f->more(sitting); })) continue;
        std::optional<Nanoseconds> until = due;
        const auto sooner = [&](Nanoseconds t) { until = until ? std::min(*until, t) : t; };
        for (Front* f : fronts) {
            f->draw(sitting, now, due);
            if (const auto at = f->draws_at()) sooner(*at);
        }
        if (sitting.works()) sooner(now + kLookAtWork);
        if (sitting.options().state != nullptr) sooner(kept + kKeepEvery);
        descriptors.clear();
        for (const Front* f : fronts) f->wants(sitting, descriptors);
        world.wait(descriptors, until);
    }
    sitting.finish();
    deliver();
    for (Front* f : fronts) f->draw(sitting, world.now(), std::nullopt);
}

}  // namespace vyard::live
