#include "link/screens.hpp"

#include <fmt/format.h>

#include <map>

namespace vyard::link {

using controller::LinkRole;

std::unique_ptr<Screens> Screens::open(const session::SessionModelPtr& yard, std::string& problem) {
    const session::SessionModel& model = *yard;
    auto out = std::make_unique<Screens>();
    out->model_ = yard;
    std::map<std::pair<std::string, int>, std::pair<ServerOptions, std::vector<Unit>>> listening;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerModel& controller = model.controllers[c];
        if (!controller.link || controller.link->role != LinkRole::Screen) continue;
        const controller::LinkModel& link = *controller.link;
        Offer offer;
        offer.controller = static_cast<int>(c);
        std::vector<Cell> cells;
        for (const controller::RegisterEntry& e : link.registers) {
            const logic::Variable& v = base::at(controller.program->variables, e.variable);
            cells.push_back({e.place, v.type, e.writable});
            offer.signals.push_back(session::signal_of_variable(model, offer.controller, e.variable));
            offer.names.push_back(wiring::spot_name(model.controllers, offer.controller, offer.signals.back().spot));
            offer.cells.push_back(static_cast<int>(offer.cells.size()));
        }
        offer.tables = std::make_shared<Tables>(std::move(cells), -1);
        auto& [options, units] = listening[{link.host, link.port}];
        const ServerOptions own{link.host, link.port, link.from, link.clients, link.requests};
        if (!units.empty() && options != own) {
            problem = fmt::format("two controllers share {}:{} and differ in 'from', 'clients' or 'requests'",
                                  link.host, link.port);
            return nullptr;
        }
        options = own;
        for (const Unit& u : units) {
            if (u.id != link.unit) continue;
            problem = fmt::format("two controllers have unit {} at {}:{}", link.unit, link.host, link.port);
            return nullptr;
        }
        units.push_back({link.unit, offer.tables});
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
        std::vector<logic::Value> values;
        values.reserve(offer.signals.size());
        for (const session::Signal& signal : offer.signals) values.push_back(session::value(session, signal));
        offer.tables->publish(offer.cells, values, 0);
    }
}

std::vector<ScreenWrite> Screens::take_written() {
    std::vector<ScreenWrite> out;
    for (Offer& offer : offers_) {
        for (auto& [cell, value] : offer.tables->take_written()) {
            const session::Signal& signal = base::at(offer.signals, cell);
            std::string text = session::value_text(*model_, signal, value);
            out.push_back(
                {offer.controller, signal.spot, base::at(offer.names, cell), std::move(value), std::move(text)});
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
