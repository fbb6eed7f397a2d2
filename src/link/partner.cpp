#include "link/partner.hpp"

#include <fmt/format.h>

#include <thread>

#include "link/client.hpp"
#include "link/ports.hpp"
#include "link/server.hpp"

namespace vyard::link {

using base::Nanoseconds;
using controller::LinkRole;
using Clock = std::chrono::steady_clock;

namespace {

constexpr auto kRetry = std::chrono::milliseconds(200);
constexpr Nanoseconds kMoment{20'000'000};
/// Counts of the first scan of a run: the one that the last run did not begin with. Others go on from there.
constexpr std::uint16_t kPowerUp = 1, kNextPowerUp = 2, kFirstCount = 3, kLastCount = 65'535;

}  // namespace

class OneLink {
  public:
    OneLink(const controller::ControllerModel& model) : link_(*model.link), ports_(model) {
        figures_.name = model.name;
        figures_.locked = link_.locked;
    }
    virtual ~OneLink() = default;
    OneLink(const OneLink&) = delete;
    OneLink& operator=(const OneLink&) = delete;

    virtual bool heard() = 0;
    virtual bool exchange(std::span<const std::byte> memory, std::span<std::byte> outputs) = 0;
    virtual int port() const { return 0; }
    virtual LinkFigures figures() const { return figures_; }

    /// A run begins: what is elsewhere begins with it, if it is locked.
    void begin() {
        power_up_ = power_up_ == kPowerUp ? kNextPowerUp : kPowerUp;
        step_ = 0;
    }
    bool locked() const { return link_.locked; }
    void count(bool came) {
        ++exchanges_;
        came_ += came ? 1U : 0U;
    }
    LinkFigures all_figures() const {
        LinkFigures out = figures();
        out.exchanges = exchanges_;
        out.came = came_;
        return out;
    }

  protected:
    std::uint16_t next_step() {
        step_ = step_ == 0                                   ? power_up_
                : step_ < kFirstCount || step_ == kLastCount ? kFirstCount
                                                             : static_cast<std::uint16_t>(step_ + 1);
        return step_;
    }
    /// What the other end answered last, from a run before this program was started.
    void answered_before(std::uint16_t answer) {
        if (step_ == 0 && answer == power_up_) power_up_ = answer == kPowerUp ? kNextPowerUp : kPowerUp;
    }
    /// Once an answer did not come, the next are not waited for as long.
    Nanoseconds patience() const { return late_ ? std::min(kMoment, link_.patience) : link_.patience; }
    const controller::LinkModel link_;
    const Ports ports_;
    LinkFigures figures_;
    std::uint16_t step_ = 0, power_up_ = kNextPowerUp;
    std::uint64_t exchanges_ = 0, came_ = 0;
    bool late_ = false;
};

namespace {

/// The controller connects: it writes its outputs and reads its inputs.
class ServerLink final : public OneLink {
  public:
    ServerLink(const controller::ControllerModel& model, std::string& problem)
        : OneLink(model),
          tables_(std::make_shared<Tables>(ports_.cells(), link_.locked ? link_.handshake : -1)),
          server_({link_.host, link_.port, link_.from, link_.clients, link_.locked ? 0 : link_.requests},
                  {{link_.unit, tables_}}, problem) {
        figures_.where = fmt::format("server at {}:{}", link_.host, server_.port());
    }

    bool heard() override {
        return tables_->wait_for_writer(kMoment) || (link_.locked && server_.counts().clients > 0);
    }
    int port() const override { return server_.port(); }
    LinkFigures figures() const override {
        LinkFigures out = figures_;
        out.requests = server_.counts().requests;
        if (server_.counts().clients == 0) out.problem = "nobody is connected";
        return out;
    }

    bool exchange(std::span<const std::byte> memory, std::span<std::byte> outputs) override {
        const std::uint16_t step = link_.locked ? next_step() : 0;
        tables_->publish(ports_.inputs(), ports_.values(ports_.inputs(), memory.data()), step);
        const bool came = link_.locked ? tables_->wait_for(step, patience()) : asked();
        late_ = link_.locked && !came;
        if (!came) return false;
        const std::vector<logic::Value> values = tables_->read(ports_.outputs());
        for (const int cell : ports_.outputs()) ports_.put(cell, base::at(values, cell), outputs.data());
        return true;
    }

  private:
    /// Whether the controller was heard of since the last scan. One that writes only what changes reads on and on; what
    /// it never wrote yet is no output.
    bool asked() {
        const bool any = tables_->take_requests() > 0;
        return any && (ports_.outputs().empty() || tables_->written());
    }

    std::shared_ptr<Tables> tables_;
    Server server_;
};

/// The plant connects: it reads the controller's outputs and writes its inputs.
class ClientLink final : public OneLink {
  public:
    explicit ClientLink(const controller::ControllerModel& model)
        : OneLink(model),
          reads_(blocks_of(ports_.cells(), ports_.outputs(), false)),
          writes_(blocks_of(ports_.cells(), ports_.inputs(), true)),
          period_(link_.period.count() > 0 ? link_.period : model.scan),
          client_(link_.host, link_.port, link_.unit, ports_.cells()) {
        figures_.where = fmt::format("client of {}:{}", link_.host, link_.port);
        if (!link_.locked) worker_ = std::thread([this] { work(); });
    }
    ~ClientLink() override {
        {
            const std::lock_guard lock(mutex_);
            ends_ = true;
        }
        wakes_.notify_all();
        if (worker_.joinable()) worker_.join();
    }

    bool heard() override {
        if (link_.locked) {
            if (client_.connect(std::chrono::milliseconds(500))) return true;
            std::this_thread::sleep_for(kMoment);
            return false;
        }
        std::unique_lock lock(mutex_);
        wakes_.wait_for(lock, kMoment, [&] { return fresh_ > 0; });
        return fresh_ > 0;
    }
    LinkFigures figures() const override {
        const std::lock_guard lock(mutex_);
        LinkFigures out = figures_;
        out.requests = link_.locked ? client_.requests() : requests_;
        out.problem = link_.locked ? client_.problem() : problem_;
        return out;
    }

    bool exchange(std::span<const std::byte> memory, std::span<std::byte> outputs) override {
        if (!link_.locked) {
            const std::lock_guard lock(mutex_);
            given_ = ports_.values(ports_.inputs(), memory.data());
            if (fresh_ == 0) return false;
            fresh_ = 0;
            take(outputs);
            return true;
        }
        given_ = ports_.values(ports_.inputs(), memory.data());
        const bool came = in_step(outputs);
        late_ = !came;
        return came;
    }

  private:
    void take(std::span<std::byte> outputs) const {
        for (const int cell : ports_.outputs()) ports_.put(cell, base::at(taken_, cell), outputs.data());
    }

    bool in_step(std::span<std::byte> outputs) {
        const auto until = Clock::now() + patience();
        const bool fresh = !client_.connected();
        if (!client_.connect(std::chrono::milliseconds(1000))) {
            std::this_thread::sleep_until(std::min(until, Clock::now() + kRetry));
            return false;
        }
        if (fresh) {
            const auto before = client_.read_word(controller::RegisterArea::Input, link_.handshake);
            if (!before) return false;
            answered_before(*before);
        }
        const std::uint16_t step = next_step();
        if (!client_.write(writes_, given_) || !client_.write_word(link_.handshake, step)) return false;
        for (;;) {
            const auto answer = client_.read_word(controller::RegisterArea::Input, link_.handshake);
            if (!answer) return false;
            if (*answer == step) break;
            if (Clock::now() > until) return false;
        }
        if (!client_.read(reads_, taken_)) return false;
        take(outputs);
        return true;
    }

    void work() {
        auto due = Clock::now();
        for (;;) {
            due += std::chrono::nanoseconds(period_.count());
            const bool done = once();
            const auto now = Clock::now();
            if (!done) due = now + kRetry;
            if (due < now) due = now;  // slower than it should be; the requests say so
            std::unique_lock lock(mutex_);
            wakes_.wait_until(lock, due, [&] { return ends_; });
            if (ends_) return;
        }
    }
    bool once() {
        const bool connected = client_.connect(std::chrono::milliseconds(1000));
        std::vector<logic::Value> given, taken;
        {
            const std::lock_guard lock(mutex_);
            given = given_;
        }
        bool done = connected && client_.read(reads_, taken);
        if (done && !given.empty()) done = client_.write(writes_, given);
        const std::lock_guard lock(mutex_);
        problem_ = client_.problem();
        requests_ = client_.requests();
        if (!done) return false;
        taken_ = std::move(taken);
        ++fresh_;
        wakes_.notify_all();
        return true;
    }

    std::vector<Block> reads_, writes_;
    Nanoseconds period_;
    Client client_;  ///< Locked: of the plant's thread; else of the worker.
    mutable std::mutex mutex_;
    std::condition_variable wakes_;
    bool ends_ = false;
    std::uint64_t fresh_ = 0, requests_ = 0;
    std::string problem_;
    std::vector<logic::Value> given_, taken_;  ///< By cell; empty before the first.
    std::thread worker_;
};

}  // namespace

Links::Links() = default;
Links::~Links() = default;

std::unique_ptr<Links> Links::open(const session::SessionModel& model, std::string& problem) {
    std::unique_ptr<Links> out(new Links);
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerModel& controller = model.controllers[c];
        if (!controller.remote()) continue;
        std::unique_ptr<OneLink> one;
        if (controller.link->role == LinkRole::Server) {
            one = std::make_unique<ServerLink>(controller, problem);
        } else {
            one = std::make_unique<ClientLink>(controller);
        }
        if (!problem.empty()) return nullptr;
        out->links_[static_cast<int>(c)] = std::move(one);
    }
    return out;
}

bool Links::wait_for_all(Nanoseconds longest, const std::function<bool()>& ended) {
    const auto until = Clock::now() + std::chrono::nanoseconds(longest.count());
    for (const auto& [c, one] : links_) {
        while (!one->heard()) {
            if (ended && ended()) return false;
            if (Clock::now() > until) return false;
        }
    }
    return true;
}

bool Links::exchange(int c, Nanoseconds now, std::span<const std::byte> memory, std::span<std::byte> outputs) {
    OneLink& one = *links_.at(c);
    if (now.count() == 0) one.begin();
    const bool timed = keeps_time_ && !one.locked();
    if (timed) pace_.wait(now);
    const auto begin = Clock::now();
    const bool came = one.exchange(memory, outputs);
    one.count(came);
    if (look_)
        look_({c, now, timed ? std::optional(pace_.late_ms()) : std::nullopt,
               std::chrono::duration<double, std::milli>(Clock::now() - begin).count(), came});
    return came;
}

std::vector<LinkFigures> Links::figures() const {
    std::vector<LinkFigures> out;
    for (const auto& [c, one] : links_) {
        out.push_back(one->all_figures());
        out.back().latest_ms = pace_.latest_ms();
        out.back().jitter_ms = pace_.jitter_ms();
    }
    return out;
}

int Links::port(int c) const {
    return links_.at(c)->port();
}

}  // namespace vyard::link
