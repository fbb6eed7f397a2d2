#include "link/stand_in.hpp"

#include <thread>

#include "link/client.hpp"
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
    explicit Executed(const controller::ControllerModel& model) : model_(model), state_(controller::power_up(model)) {
        for (const controller::RegisterEntry& e : model.link->registers) {
            const logic::Variable& v = base::at(model.program->variables, e.variable);
            const bool written = model.link->role == LinkRole::Server ? !e.to_controller : e.to_controller;
            (e.to_controller ? inputs_ : outputs_).push_back(static_cast<int>(cells_.size()));
            spots_.push_back({e.variable, v.type, v.offset, v.bit});
            cells_.push_back({e.place, v.type, written});
        }
    }

    void begin() {
        state_ = controller::power_up(model_);
        scans_ = 0;
    }
    void input(int cell, const logic::Value& value) {
        const controller::Spot& s = base::at(spots_, cell);
        logic::write_value(state_.memory.data(), value, s.offset, s.bit);
    }
    void scan() {
        controller::solve(model_, state_, static_cast<std::int64_t>(scans_) * model_.scan);
        ++scans_;
    }
    logic::Value output(int cell) const {
        const controller::Spot& s = base::at(spots_, cell);
        return logic::read_value(controller::leaving(state_), s.type, s.offset, s.bit);
    }
    /// By cell; of inputs nothing.
    std::vector<logic::Value> outputs() const {
        std::vector<logic::Value> out(cells_.size());
        for (const int c : outputs_) out[static_cast<std::size_t>(c)] = output(c);
        return out;
    }

    const std::vector<Cell>& cells() const { return cells_; }
    const std::vector<int>& input_cells() const { return inputs_; }
    const std::vector<int>& output_cells() const { return outputs_; }
    bool running() const { return state_.running; }
    std::string fault() const { return controller::fault_text(model_, state_); }

  private:
    const controller::ControllerModel& model_;
    controller::ControllerState state_;
    std::uint64_t scans_ = 0;
    std::vector<Cell> cells_;
    std::vector<controller::Spot> spots_;
    std::vector<int> inputs_, outputs_;
};

/// Speaks to a plant that is the server.
class AsClient {
  public:
    AsClient(const controller::ControllerModel& model, StandInFigures& figures)
        : link_(*model.link),
          scan_(model.scan),
          it_(model),
          client_(link_.host, link_.port, link_.unit, it_.cells()),
          reads_(blocks_of(it_.cells(), it_.input_cells(), false)),
          writes_(blocks_of(it_.cells(), it_.output_cells(), true)),
          figures_(figures) {}

    void run(const std::function<bool()>& ended) {
        auto due = Clock::now();
        while (!ended()) {
            if (!client_.connected()) {
                if (!client_.connect(std::chrono::milliseconds(1000))) {
                    std::this_thread::sleep_for(kRetry);
                    continue;
                }
                ++figures_.connections;
                due = Clock::now();
            }
            if (link_.locked) {
                in_step();
                continue;
            }
            exchange();
            due += std::chrono::nanoseconds(scan_.count());
            if (due < Clock::now()) due = Clock::now();
            std::this_thread::sleep_until(due);
        }
    }

  private:
    void in_step() {
        const auto step = client_.read_word(controller::RegisterArea::Input, link_.handshake);
        if (!step) return;
        if (*step == 0 || *step == done_) {
            // A plant at work is fast; one that rests is not asked all the time.
            if (Clock::now() - busy_ > std::chrono::milliseconds(50)) std::this_thread::sleep_for(kRest);
            return;
        }
        busy_ = Clock::now();
        if (*step == 1) it_.begin();
        if (exchange() && client_.write_word(link_.handshake, *step)) done_ = *step;
    }
    bool exchange() {
        std::vector<std::pair<int, logic::Value>> values;
        if (!client_.read(reads_, values)) return false;
        for (const auto& [cell, value] : values) it_.input(cell, value);
        it_.scan();
        ++figures_.scans;
        return client_.write(writes_, it_.outputs());
    }

    const controller::LinkModel& link_;
    Nanoseconds scan_;
    Executed it_;
    Client client_;
    std::vector<Block> reads_, writes_;
    StandInFigures& figures_;
    std::uint16_t done_ = 0;
    Clock::time_point busy_ = Clock::now();
};

/// Waits for a plant that connects.
class AsServer {
  public:
    AsServer(const controller::ControllerModel& model, StandInFigures& figures)
        : link_(*model.link),
          scan_(model.scan),
          it_(model),
          tables_(std::make_shared<Tables>(it_.cells(), link_.locked ? link_.handshake : -1)),
          server_({link_.host, link_.port, {}, 8, 0}, {{link_.unit, tables_}}, figures.problem),
          figures_(figures) {}

    void run(const std::function<bool()>& ended) {
        auto due = Clock::now();
        while (figures_.problem.empty() && !ended()) {
            std::uint16_t step = 0;
            if (link_.locked) {
                step = tables_->wait_for_other(done_, Nanoseconds(50'000'000));
                if (step == done_ || step == 0) continue;
                if (step == 1) it_.begin();
            }
            const std::vector<logic::Value> inputs = tables_->read(it_.input_cells());
            for (std::size_t i = 0; i < inputs.size(); ++i) it_.input(it_.input_cells()[i], inputs[i]);
            it_.scan();
            ++figures_.scans;
            std::vector<std::pair<int, logic::Value>> outputs;
            for (const int c : it_.output_cells()) outputs.emplace_back(c, it_.output(c));
            tables_->publish(outputs, step);
            done_ = step;
            if (link_.locked) continue;
            due += std::chrono::nanoseconds(scan_.count());
            if (due < Clock::now()) due = Clock::now();
            std::this_thread::sleep_until(due);
        }
        figures_.connections = server_.counts().connected;
    }

  private:
    const controller::LinkModel& link_;
    Nanoseconds scan_;
    Executed it_;
    std::shared_ptr<Tables> tables_;
    Server server_;
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
