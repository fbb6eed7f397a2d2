#include "link/partner.hpp"

#include <fmt/format.h>

#include <atomic>
#include <cmath>
#include <thread>

#include "link/client.hpp"
#include "link/server.hpp"

namespace vyard::link {

using base::Nanoseconds;
using controller::LinkRole;
using Clock = std::chrono::steady_clock;

namespace {

constexpr auto kRetry = std::chrono::milliseconds(200);
constexpr Nanoseconds kMoment{20'000'000};
constexpr std::uint16_t kPowerUp = 1;  ///< The count of the first scan of a run.

/// Where a tag lies in memory, and its number among the cells of its link.
struct Ported {
    int cell = 0;
    controller::Spot spot;
};

struct Ports {
    std::vector<Cell> cells;
    std::vector<Ported> inputs, outputs;  ///< Of the controller.

    explicit Ports(const controller::ControllerModel& model) {
        for (const controller::RegisterEntry& e : model.link->registers) {
            const logic::Variable& v = base::at(model.program->variables, e.variable);
            const int cell = static_cast<int>(cells.size());
            const bool server = model.link->role == LinkRole::Server;
            cells.push_back({e.place, v.type, server ? !e.to_controller : e.to_controller});
            (e.to_controller ? inputs : outputs).push_back({cell, {e.variable, v.type, v.offset, v.bit}});
        }
    }
    static std::vector<int> numbers(const std::vector<Ported>& ports) {
        std::vector<int> out;
        for (const Ported& p : ports) out.push_back(p.cell);
        return out;
    }
};

logic::Value value_at(std::span<const std::byte> memory, const controller::Spot& s) {
    return logic::read_value(memory.data(), s.type, s.offset, s.bit);
}

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
    void begin() { step_ = 0; }
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
    /// 1 at power-up, then on and on from 2.
    std::uint16_t next_step() {
        step_ = step_ == 0 ? kPowerUp : step_ == 65'535 ? 2 : static_cast<std::uint16_t>(step_ + 1);
        return step_;
    }
    /// Once an answer did not come, the next are not waited for as long.
    Nanoseconds patience() const { return late_ ? std::min(kMoment, link_.patience) : link_.patience; }
    void put(const std::vector<Ported>& ports, const std::vector<logic::Value>& values, std::span<std::byte> outputs) {
        for (std::size_t i = 0; i < ports.size(); ++i)
            logic::write_value(outputs.data(), values[i], ports[i].spot.offset, ports[i].spot.bit);
    }

    const controller::LinkModel link_;
    const Ports ports_;
    LinkFigures figures_;
    std::uint16_t step_ = 0;
    std::uint64_t exchanges_ = 0, came_ = 0;
    bool late_ = false;
};

namespace {

/// The controller connects: it writes its outputs and reads its inputs.
class ServerLink final : public OneLink {
  public:
    ServerLink(const controller::ControllerModel& model, std::string& problem)
        : OneLink(model),
          tables_(std::make_shared<Tables>(ports_.cells, link_.locked ? link_.handshake : -1)),
          outputs_(Ports::numbers(ports_.outputs)),
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
        std::vector<std::pair<int, logic::Value>> values;
        values.reserve(ports_.inputs.size());
        for (const Ported& p : ports_.inputs) values.emplace_back(p.cell, value_at(memory, p.spot));
        const std::uint16_t step = link_.locked ? next_step() : 0;
        tables_->publish(values, step);
        const bool came = link_.locked ? tables_->wait_for(step, patience()) : asked();
        late_ = link_.locked && !came;
        if (came) put(ports_.outputs, tables_->read(outputs_), outputs);
        return came;
    }

  private:
    /// Whether the controller was heard of since the last scan. One that writes only what changes reads on and on; what
    /// it never wrote yet is no output.
    bool asked() {
        const bool any = tables_->take_requests() > 0;
        return any && (outputs_.empty() || tables_->written());
    }

    std::shared_ptr<Tables> tables_;
    std::vector<int> outputs_;
    Server server_;
};

/// The plant connects: it reads the controller's outputs and writes its inputs.
class ClientLink final : public OneLink {
  public:
    explicit ClientLink(const controller::ControllerModel& model)
        : OneLink(model),
          reads_(blocks_of(ports_.cells, Ports::numbers(ports_.outputs), false)),
          writes_(blocks_of(ports_.cells, Ports::numbers(ports_.inputs), true)),
          period_(link_.period.count() > 0 ? link_.period : model.scan),
          client_(link_.host, link_.port, link_.unit, ports_.cells),
          given_(ports_.cells.size()) {
        for (std::size_t i = 0; i < ports_.cells.size(); ++i) given_[i] = {ports_.cells[i].type, 0, {}};
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
            give(memory);
            has_given_ = true;
            if (fresh_ == 0) return false;
            fresh_ = 0;
            put(ports_.outputs, taken_, outputs);
            return true;
        }
        give(memory);
        const bool came = in_step(outputs);
        late_ = !came;
        return came;
    }

  private:
    void give(std::span<const std::byte> memory) {
        for (const Ported& p : ports_.inputs) base::at(given_, p.cell) = value_at(memory, p.spot);
    }

    bool in_step(std::span<std::byte> outputs) {
        const std::uint16_t step = next_step();
        const auto until = Clock::now() + patience();
        if (!client_.connect(std::chrono::milliseconds(1000))) {
            std::this_thread::sleep_until(std::min(until, Clock::now() + kRetry));
            return false;
        }
        if (!client_.write(writes_, given_) || !client_.write_word(link_.handshake, step)) return false;
        for (;;) {
            const auto answer = client_.read_word(controller::RegisterArea::Input, link_.handshake);
            if (!answer) return false;
            if (*answer == step) break;
            if (Clock::now() > until) return false;
        }
        std::vector<std::pair<int, logic::Value>> values;
        if (!client_.read(reads_, values)) return false;
        for (const Ported& p : ports_.outputs) {
            for (const auto& [cell, value] : values) {
                if (cell == p.cell) logic::write_value(outputs.data(), value, p.spot.offset, p.spot.bit);
            }
        }
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
        std::vector<logic::Value> given;
        bool gives = false;
        {
            const std::lock_guard lock(mutex_);
            given = given_;
            gives = has_given_;
        }
        std::vector<std::pair<int, logic::Value>> values;
        bool done = connected && client_.read(reads_, values);
        if (done && gives) done = client_.write(writes_, given);
        const std::lock_guard lock(mutex_);
        problem_ = client_.problem();
        requests_ = client_.requests();
        if (!done) return false;
        taken_.assign(ports_.outputs.size(), {});
        std::map<int, logic::Value> by_cell(values.begin(), values.end());
        for (std::size_t i = 0; i < ports_.outputs.size(); ++i) taken_[i] = by_cell[ports_.outputs[i].cell];
        ++fresh_;
        wakes_.notify_all();
        return true;
    }

    std::vector<Block> reads_, writes_;
    Nanoseconds period_;
    Client client_;  ///< Locked: of the plant's thread; else of the worker.
    mutable std::mutex mutex_;
    std::condition_variable wakes_;
    bool ends_ = false, has_given_ = false;
    std::uint64_t fresh_ = 0, requests_ = 0;
    std::string problem_;
    std::vector<logic::Value> given_, taken_;  ///< By cell; by output.
    std::thread worker_;
};

}  // namespace

/// Real time: when an exchange is due by the wall clock, and how late it was.
struct Links::Pace {
    bool begun = false;
    Clock::time_point origin;
    Nanoseconds last{};
    std::uint64_t count = 0;
    double sum_ms = 0.0, squares = 0.0, latest_ms = 0.0;

    void wait(Nanoseconds now) {
        const auto wall = Clock::now();
        const auto ahead = std::chrono::nanoseconds(now.count());
        constexpr auto kPause = std::chrono::seconds(1);
        // A run that begins, goes back or was paused is not late.
        if (!begun || now < last || wall - (origin + ahead) > kPause) {
            begun = true;
            origin = wall - ahead;
        }
        last = now;
        std::this_thread::sleep_until(origin + ahead);
        const double late_ms = std::chrono::duration<double, std::milli>(Clock::now() - (origin + ahead)).count();
        ++count;
        sum_ms += late_ms;
        squares += late_ms * late_ms;
        latest_ms = std::max(latest_ms, late_ms);
    }
    double jitter_ms() const {
        if (count < 2) return 0.0;
        const double n = static_cast<double>(count), mean = sum_ms / n;
        return std::sqrt(std::max(0.0, squares / n - mean * mean));
    }
};

Links::Links() : pace_(std::make_unique<Pace>()) {}
Links::~Links() = default;

std::unique_ptr<Links> Links::open(const session::SessionModel& model, std::string& problem) {
    std::unique_ptr<Links> out(new Links);
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerModel& controller = model.controllers[c];
        if (!controller.remote()) continue;
        std::unique_ptr<OneLink> line;
        if (controller.link->role == LinkRole::Server) {
            line = std::make_unique<ServerLink>(controller, problem);
        } else {
            line = std::make_unique<ClientLink>(controller);
        }
        if (!problem.empty()) return nullptr;
        out->lines_[static_cast<int>(c)] = std::move(line);
    }
    return out;
}

bool Links::wait_for_all(Nanoseconds longest, const std::function<bool()>& ended) {
    const auto until = Clock::now() + std::chrono::nanoseconds(longest.count());
    for (const auto& [c, line] : lines_) {
        while (!line->heard()) {
            if (ended && ended()) return false;
            if (Clock::now() > until) return false;
        }
    }
    return true;
}

bool Links::exchange(int c, Nanoseconds now, std::span<const std::byte> memory, std::span<std::byte> outputs) {
    OneLink& line = *lines_.at(c);
    if (now.count() == 0) line.begin();
    if (keeps_time_ && !line.locked()) pace_->wait(now);
    const bool came = line.exchange(memory, outputs);
    line.count(came);
    return came;
}

std::vector<LinkFigures> Links::figures() const {
    std::vector<LinkFigures> out;
    for (const auto& [c, line] : lines_) {
        out.push_back(line->all_figures());
        out.back().latest_ms = pace_->latest_ms;
        out.back().jitter_ms = pace_->jitter_ms();
    }
    return out;
}

int Links::port(int c) const {
    return lines_.at(c)->port();
}

}  // namespace vyard::link
