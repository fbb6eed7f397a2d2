#include "core/campaign/nominal.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <stdexcept>

namespace vyard::campaign {

using base::Nanoseconds;

namespace {

/// Words by which people call what tells that something is wrong.
bool tells_trouble(std::string_view text) {
    static constexpr const char* kWords[] = {"alarm", "alarms",  "fault",   "faults", "error",   "horn",  "siren",
                                             "trip",  "tripped", "warning", "beacon", "trouble", "jammed"};
    const std::vector<std::string> words = wiring::words_of(text);
    return std::any_of(words.begin(), words.end(), [](const std::string& w) {
        return std::any_of(std::begin(kWords), std::end(kWords), [&](const char* k) { return w == k; });
    });
}

void add_alarm(const std::string& name, const session::Signal& signal, Alarms& out) {
    out.names.push_back(name);
    out.signals.push_back(signal);
    out.quiet.push_back(0);
}

}  // namespace

Alarms find_alarms(const session::SessionModel& model) {
    Alarms out;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& variables = model.controllers[c].program->variables;
        for (std::size_t v = 0; v < variables.size(); ++v) {
            const logic::Variable& tag = variables[v];
            if (!tag.is_tag || tag.constant || !logic::is_scalar(tag.type)) continue;
            const session::Signal signal = session::signal_of_variable(model, static_cast<int>(c), static_cast<int>(v));
            if (tag.address.area == logic::Area::Input) continue;
            std::string text = tag.path;
            for (const wiring::Join& j : model.wiring.outputs) {
                if (j.controller == static_cast<int>(c) && j.variable == static_cast<int>(v))
                    text.append(" ").append(base::at(model.plant->points, j.point).name);
            }
            if (!tells_trouble(text)) continue;
            const std::string prefix = model.controllers.size() > 1 ? model.controllers[c].name + "." : std::string();
            add_alarm(prefix + tag.path, signal, out);
        }
    }
    return out;
}

Alarms alarms_named(const session::SessionModel& model, const std::vector<std::string>& names, std::string& problem) {
    Alarms out;
    for (const std::string& name : names) {
        const session::Search found = session::search(model, name);
        if (!found.signal) {
            problem = found.hint.empty() ? found.problem : fmt::format("{}: {}", found.problem, found.hint);
            return out;
        }
        add_alarm(name, *found.signal, out);
    }
    return out;
}

std::uint64_t Nominal::alarm_at(std::size_t alarm, Nanoseconds time) const {
    const auto& list = base::at(alarms, alarm);
    const auto after = std::upper_bound(list.begin(), list.end(), time,
                                        [](Nanoseconds t, const auto& entry) { return t < entry.first; });
    return after == list.begin() ? 0 : std::prev(after)->second;
}

bool Nominal::moved_within(int device, Nanoseconds from, Nanoseconds to) const {
    const auto& parts = base::at(moved, device);
    const auto begin = static_cast<std::size_t>(std::max(from, Nanoseconds(0)) / kPart);
    const auto end = static_cast<std::size_t>(std::max(to, Nanoseconds(0)) / kPart);
    for (std::size_t i = begin; i <= end && i < parts.size(); ++i) {
        if (parts[i]) return true;
    }
    return false;
}

namespace {

/// Fills a Nominal, instant by instant.
class Looker {
  public:
    Looker(Nominal& out, const session::Session& session, const Alarms& alarms)
        : out_(out), alarms_(alarms), last_(session.plant().wires) {
        const std::size_t points = last_.size();
        out_.edges.resize(points);
        out_.values.resize(points);
        for (std::size_t p = 0; p < points; ++p) out_.values[p].push_back(last_[p]);
        out_.alarms.resize(alarms.signals.size());
        out_.moved.resize(session.model().plant->devices.size());
    }

    void look(const session::Session& session) {
        const auto& now = session.plant().wires;
        bool any = false;
        for (std::size_t p = 0; p < now.size(); ++p) {
            if (now[p] == last_[p]) continue;
            const plant::PointType type = session.model().plant->points[p].type;
            last_[p] = now[p];
            if (type == plant::PointType::Analog) continue;
            out_.edges[p].push_back(session.now());
            out_.values[p].push_back(now[p]);
            any = true;
        }
        if (any) out_.moments.push_back(session.now());
        const auto part = static_cast<std::size_t>(session.now() / Nominal::kPart);
        for (std::size_t d = 0; d < out_.moved.size(); ++d) {
            out_.moved[d].resize(part + 1);
            if (!out_.moved[d][part])
                out_.moved[d][part] = plant::moves(*session.model().plant, session.plant(), static_cast<int>(d));
        }
        for (std::size_t a = 0; a < alarms_.signals.size(); ++a) {
            const std::uint64_t bits = session::bits(session, alarms_.signals[a]);
            auto& list = out_.alarms[a];
            if (list.empty() || list.back().second != bits) list.emplace_back(session.now(), bits);
        }
    }

  private:
    Nominal& out_;
    const Alarms& alarms_;
    std::vector<double> last_;
};

}  // namespace

Nominal look_at(const std::shared_ptr<const procedure::Book>& book, std::size_t procedure,
                const session::Session& fresh, const Alarms& alarms) {
    Nominal out;
    out.procedure = procedure;
    session::Session session = fresh;
    procedure::Run run(book, procedure, session);
    Looker looker(out, session, alarms);
    looker.look(session);
    while (run.advance(session)) {
        session.step();
        looker.look(session);
    }
    out.verdict = run.verdict(session);
    out.end = session.now();
    for (const plant::Mishap& m : session.plant().mishaps) out.mishaps.emplace(m.device, m.number);
    return out;
}

std::vector<Branch> branches_at(const std::shared_ptr<const procedure::Book>& book, std::size_t procedure,
                                const session::Session& fresh, const std::vector<Nanoseconds>& times) {
    std::vector<Branch> out;
    out.reserve(times.size());
    Branch now{fresh, procedure::Run(book, procedure, fresh)};
    for (const Nanoseconds time : times) {
        while (now.session.now() < time && now.run.advance(now.session)) now.session.step();
        out.push_back(now);
    }
    return out;
}

std::vector<Nanoseconds> thinned(const std::vector<Nanoseconds>& all, std::size_t most) {
    if (all.size() <= most) return all;
    std::vector<Nanoseconds> out;
    if (most == 1) return {all.front()};
    for (std::size_t i = 0; i < most; ++i) out.push_back(all[i * (all.size() - 1) / (most - 1)]);
    return out;
}

std::vector<procedure::Order> read_lines(const session::SessionModel& model, const std::vector<std::string>& lines) {
    std::vector<procedure::Order> out;
    for (const std::string& line : lines) {
        base::Diagnostics diagnostics;
        const auto book = procedure::read_order(model, base::make_source("campaign", line), diagnostics);
        if (book == nullptr || book->procedures.empty())
            throw std::logic_error(fmt::format("a campaign's own order is wrong: {}\n{}", line, diagnostics.render()));
        for (const procedure::Order& o : book->procedures[0].steps[0].orders) out.push_back(o);
    }
    return out;
}

}  // namespace vyard::campaign
