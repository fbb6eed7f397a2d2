#include "link/stand_in.hpp"

#include <thread>

#include "link/client.hpp"
#include "link/peers.hpp"
#include "link/ports.hpp"
#include "link/server.hpp"

namespace vyard::link {

using base::Nanoseconds;
using controller::LinkRole;
using Clock = std::chrono::steady_clock;

namespace {

constexpr auto kRetry = std::chrono::milliseconds(50);
constexpr auto kRest = std::chrono::milliseconds(1);

/// The controller itself: memory, and its scans by the plant's count or its own.
class Executed {
  public:
    explicit Executed(const controller::ControllerModel& model)
        : ports(model), model_(model), peers_(model), state_(controller::power_up(model)) {}

    void begin() {
        state_ = controller::power_up(model_);
        scans_ = 0;
    }
    /// With inputs by cell; its outputs by cell.
    std::vector<logic::Value> scan(const std::vector<logic::Value>& inputs) {
        for (const int cell : ports.inputs()) ports.put(cell, base::at(inputs, cell), state_.memory.data());
        peers_.bring(state_.memory.data());
        controller::solve(model_, state_, static_cast<std::int64_t>(scans_) * model_.scan);
        ++scans_;
        return ports.values(ports.outputs(), controller::leaving(state_));
    }

    std::uint64_t asked() const { return peers_.requests(); }

    const Ports ports;

  private:
    const controller::ControllerModel& model_;
    Peers peers_;
    controller::ControllerState state_;
    std::uint64_t scans_ = 0;
};

/// By the clock, from one scan to the next.
class Beat {
  public:
    explicit Beat(Nanoseconds scan) : scan_(scan.count()) {}
    void begin() { due_ = Clock::now(); }
    void wait() {
        due_ = std::max(due_ + scan_, Clock::now());
        std::this_thread::sleep_until(due_);
    }

  private:
    std::chrono::nanoseconds scan_;
    Clock::time_point due_ = Clock::now();
};

/// Counts with which a run begins.
bool begins(std::uint16_t step) {
    return step == 1 || step == 2;
}

/// Speaks to a plant that is the server.
class AsClient {
  public:
    AsClient(const controller::ControllerModel& model, StandInFigures& figures)
        : link_(*model.link),
          it_(model),
          client_(link_.host, link_.port, link_.unit, it_.ports.cells()),
          reads_(blocks_of(it_.ports.cells(), it_.ports.inputs(), false)),
          writes_(blocks_of(it_.ports.cells(), it_.ports.outputs(), true)),
          beat_(model.scan),
          figures_(figures) {}

    void run(const std::function<bool()>& ended) {
        while (!ended()) {
            if (!client_.connected() && !connect()) continue;
            if (link_.locked) {
                in_step();
            } else {
                exchange();
                beat_.wait();
            }
        }
        figures_.asked = it_.asked();
    }

  private:
    bool connect() {
        if (!client_.connect(std::chrono::milliseconds(1000))) {
            std::this_thread::sleep_for(kRetry);
            return false;
        }
        ++figures_.connections;
        done_ = 0;  // it may be another plant, which counts anew
        beat_.begin();
        return true;
    }
    void in_step() {
        const auto step = client_.read_word(controller::RegisterArea::Input, link_.handshake);
        if (!step) return;
        if (*step == 0 || *step == done_) {
            // A plant at work is fast; one that rests is not asked all the time.
            if (Clock::now() - busy_ > std::chrono::milliseconds(50)) std::this_thread::sleep_for(kRest);
            return;
        }
        busy_ = Clock::now();
        if (begins(*step)) it_.begin();
        if (exchange() && client_.write_word(link_.handshake, *step)) done_ = *step;
    }
    bool exchange() {
        if (!client_.read(reads_, inputs_)) return false;
        inputs_.resize(it_.ports.cells().size());
        ++figures_.scans;
        return client_.write(writes_, it_.scan(inputs_));
    }

    const controller::LinkModel& link_;
    Executed it_;
    Client client_;
    std::vector<Block> reads_, writes_;
    std::vector<logic::Value> inputs_;
    Beat beat_;
    StandInFigures& figures_;
    std::uint16_t done_ = 0;
    Clock::time_point busy_ = Clock::now();
};

/// Waits for a plant that connects.
class AsServer {
  public:
    AsServer(const controller::ControllerModel& model, StandInFigures& figures)
        : link_(*model.link),
          it_(model),
          tables_(std::make_shared<Tables>(it_.ports.cells(), link_.locked ? link_.handshake : -1)),
          server_({link_.host, link_.port, link_.from, 8, 0}, {{link_.unit, tables_}}, figures.problem),
          beat_(model.scan),
          figures_(figures) {}

    void run(const std::function<bool()>& ended) {
        while (figures_.problem.empty() && !ended()) {
            if (link_.locked) {
                const std::uint16_t step = tables_->wait_for_other(done_, Nanoseconds(50'000'000));
                if (step == done_ || step == 0) continue;
                if (begins(step)) it_.begin();
                scan(step);
            } else {
                scan(0);
                beat_.wait();
            }
        }
        figures_.connections = server_.counts().connected;
        figures_.asked = it_.asked();
    }

  private:
    void scan(std::uint16_t step) {
        const auto outputs = it_.scan(tables_->read(it_.ports.inputs()));
        ++figures_.scans;
        tables_->publish(it_.ports.outputs(), outputs, step);
        done_ = step;
    }

    const controller::LinkModel& link_;
    Executed it_;
    std::shared_ptr<Tables> tables_;
    Server server_;
    Beat beat_;
    StandInFigures& figures_;
    std::uint16_t done_ = 0;
};

}  // namespace

StandInFigures stand_in(const controller::ControllerModel& model, const std::function<bool()>& ended) {
    StandInFigures out;
    if (model.link->role == LinkRole::Server) {
        AsClient(model, out).run(ended);
    } else {
        AsServer(model, out).run(ended);
    }
    return out;
}

}  // namespace vyard::link
