#include "link/screens.hpp"

#include <fmt/format.h>

#include <map>

namespace vyard::link {

using controller::LinkRole;

std::unique_ptr<Screens> Screens::open(const session::SessionModel& model, std::string& problem) {
    auto out = std::make_unique<Screens>();
    std::map<std::pair<std::string, int>, std::pair<ServerOptions, std::vector<Unit>>> listening;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerModel& controller = model.controllers[c];
        if (!controller.link || controller.link->role != LinkRole::Screen) continue;
        const controller::LinkModel& line = *controller.link;
        Offer offer;
        offer.controller = static_cast<int>(c);
        std::vector<Cell> cells;
        for (const controller::RegisterEntry& e : line.registers) {
            const logic::Variable& v = base::at(controller.program->variables, e.variable);
            cells.push_back({e.place, v.type, e.writable});
            offer.signals.push_back(session::signal_of_variable(model, offer.controller, e.variable));
            offer.names.push_back(v.path);
        }
        offer.tables = std::make_shared<Tables>(std::move(cells), -1);
        auto& [options, units] = listening[{line.host, line.port}];
        options = {line.host, line.port, line.from, line.clients, line.requests};
        for (const Unit& u : units) {
            if (u.id != line.unit) continue;
            problem = fmt::format("two controllers have unit {} at {}:{}", line.unit, line.host, line.port);
            return nullptr;
        }
        units.push_back({line.unit, offer.tables});
        out->offers_.push_back(std::move(offer));
    }
    for (auto& [where, what] : listening) {
        out->servers_.push_back(std::make_unique<Server>(what.first, what.second, problem));
        if (!problem.empty()) return nullptr;
    }
    return out;
}

void Screens::publish(const session::Session& session) {
    if (!session.scanned()) return;
    for (Offer& offer : offers_) {
        std::vector<std::pair<int, logic::Value>> values;
        values.reserve(offer.signals.size());
        for (std::size_t i = 0; i < offer.signals.size(); ++i)
            values.emplace_back(static_cast<int>(i), session::value(session, offer.signals[i]));
        offer.tables->publish(values, 0);
    }
}

std::size_t Screens::apply(session::Session& session) {
    std::size_t out = 0;
    for (Offer& offer : offers_) {
        for (Written& w : offer.tables->take_written()) {
            const session::Signal& signal = base::at(offer.signals, w.cell);
            session.write(offer.controller, signal.spot, std::move(w.value));
            ++out;
        }
    }
    return out;
}

std::vector<std::string> Screens::places() const {
    std::vector<std::string> out;
    for (const auto& server : servers_) out.push_back(fmt::format("{}:{}", server->host(), server->port()));
    return out;
}

ServerCounts Screens::counts() const {
    ServerCounts out;
    for (const auto& server : servers_) {
        const ServerCounts c = server->counts();
        out.requests += c.requests;
        out.exceptions += c.exceptions;
        out.bad_frames += c.bad_frames;
        out.refused += c.refused;
        out.connected += c.connected;
        out.clients += c.clients;
    }
    return out;
}

}  // namespace vyard::link
