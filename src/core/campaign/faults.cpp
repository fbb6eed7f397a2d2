// The campaign "faults": every wire stuck on, stuck off, open or bouncing, and every fault of a device, under every
// procedure, from the instant on at which it begins to matter. Each comes out as
//   dangerous      a rule breaks, or a mishap happens, that the procedure alone does not have
//   silent         the machine does not do what the procedure expects, and no alarm says that something is wrong
//   shown          an alarm comes that the procedure alone does not have then
//   masked         neither: what the procedure expects comes all the same
//   not exercised  the wire has that value anyway, all the time
#include <fmt/format.h>

#include <algorithm>

#include "core/campaign/beginnings.hpp"
#include "core/campaign/standstill.hpp"
#include "core/campaign/unnoticed.hpp"

namespace vyard::campaign {

namespace {

using base::Nanoseconds;
using namespace std::chrono_literals;

constexpr std::size_t kCopies = 48;      ///< Of each undisturbed run that are kept to fork from.
constexpr Nanoseconds kAfterAlarm = 5s;  ///< A machine that failed and said so is watched for so long.
constexpr Nanoseconds kShifted = 3s;     ///< An alarm of the procedure's own may come so much sooner or later.

/// A fault that can be put on the plant.
struct FaultCase {
    std::string order;  ///< "fault dip_eye.signal stuck off"
    int device = plant::kNone;
    int point = plant::kNone;     ///< Of a wire.
    std::optional<double> stuck;  ///< It matters once the wire has another value.
};

std::vector<FaultCase> faults_of(const session::SessionModel& model) {
    std::vector<FaultCase> out;
    const plant::PlantModel& plant = *model.plant;
    std::vector<bool> joined(plant.points.size(), false);
    for (const auto* list : {&model.wiring.inputs, &model.wiring.outputs}) {
        for (const wiring::Join& j : *list) joined[static_cast<std::size_t>(j.point)] = true;
    }
    for (std::size_t d = 0; d < plant.devices.size(); ++d) {
        const plant::DeviceModel& device = plant.devices[d];
        const auto number = static_cast<int>(d);
        for (const plant::FaultSpec& f : device.kind->faults)
            out.push_back({fmt::format("fault {} {}", device.name, f.name), number, plant::kNone, {}});
        for (const int p : device.points) {
            if (p == plant::kNone || !joined[static_cast<std::size_t>(p)]) continue;
            const plant::PointModel& point = base::at(plant.points, p);
            const auto add = [&](const char* defect, std::optional<double> stuck = {}) {
                out.push_back({fmt::format("fault {} {}", point.name, defect), number, p, stuck});
            };
            if (point.type == plant::PointType::Boolean) {
                // For a contact an open wire is stuck off, and a short is stuck on.
                add("stuck off", 0.0);
                add("stuck on", 1.0);
                if (point.direction == plant::PointDirection::Input) add("chatter");
            } else {
                add("open_wire");
                if (point.type == plant::PointType::Analog) add("short");
            }
        }
    }
    return out;
}

/// A fault, or two, in one procedure from one instant on.
struct FaultJob {
    std::size_t first = 0;
    std::optional<std::size_t> second;
    std::size_t nominal = 0;
    std::optional<Nanoseconds> at;  ///< Null: it never matters.
};

class Faults final : public Campaign {
  public:
    explicit Faults(const Setup& setup)
        : setup_(setup), model_(*setup.model), rhythm_(rhythm_of(setup)), faults_(faults_of(model_)) {
        if (setup.alarms.names.empty())
            remarks_.emplace_back(
                "no tag is called an alarm, so nothing can be shown: name those that tell, with --alarms");
        for (const FaultCase& f : faults_) orders_.push_back(read_lines(model_, {f.order}));
        nominals_ = nominals_of(setup, remarks_);
        for (const Nominal& n : nominals_)
            unnoticed_.emplace_back(setup, base::at(setup.book->procedures, n.procedure));
        beginnings_ = beginnings_of(setup, nominals_, session::Session(setup.model), kCopies);
        if (beginnings_.size() < nominals_.size()) return;  // ended from outside
        if (setup.pairs)
            plan_pairs();
        else
            plan();
    }

    const char* kind() const override { return "faults"; }
    std::size_t jobs() const override { return jobs_.size(); }
    const std::vector<std::string>& remarks() const override { return remarks_; }

    RunRow run(std::size_t job, Story* story) const override {
        const FaultJob& j = jobs_[job];
        RunRow row = attempt(j, story);
        if (!j.second || row.outcome != "dangerous") return row;
        // What one of the two does alone is no finding of the pair.
        for (const std::size_t f : {j.first, *j.second}) {
            const RunRow alone = attempt({f, {}, j.nominal, j.at}, nullptr);
            std::erase_if(row.sights, [&](const Sight& s) {
                return std::any_of(alone.sights.begin(), alone.sights.end(),
                                   [&](const Sight& a) { return what_of(a.key) == what_of(s.key); });
            });
        }
        if (row.sights.empty()) row.outcome = "as one alone";
        return row;
    }

  private:
    /// It changes nothing that anybody looks at.
    bool unnoticed(std::size_t fault, std::size_t nominal) const {
        const FaultCase& f = faults_[fault];
        const Unnoticed& nobody = unnoticed_[nominal];
        return f.point != plant::kNone ? nobody.point(f.point) : nobody.device(f.device);
    }

    /// A key without what stands before its colon.
    static std::string what_of(const std::string& key) { return key.substr(key.find(": ")); }

    std::vector<Nanoseconds> instants(const FaultCase& fault, const Nominal& nominal) const {
        std::vector<Nanoseconds> out;
        if (fault.stuck) {
            const auto& values = base::at(nominal.values, fault.point);
            const auto& edges = base::at(nominal.edges, fault.point);
            for (std::size_t k = 0; k < values.size(); ++k) {
                if (values[k] == *fault.stuck) continue;
                // It acts from the step on that brings the edge.
                out.push_back(k == 0 ? Nanoseconds(0) : std::max(edges[k - 1] - model_.step, Nanoseconds(0)));
            }
            return out;
        }
        for (const int p : model_.plant->device(fault.device).points) {
            if (p == plant::kNone || (fault.point != plant::kNone && p != fault.point)) continue;
            const auto& edges = base::at(nominal.edges, p);
            out.insert(out.end(), edges.begin(), edges.end());
        }
        out.push_back(Nanoseconds(0));
        std::sort(out.begin(), out.end());
        out.erase(std::unique(out.begin(), out.end()), out.end());
        if (fault.point != plant::kNone) return out;
        // A device may also fail on its way from one of them to the next.
        for (std::size_t i = out.size() - 1; i > 0; --i) {
            const Nanoseconds middle = (out[i - 1] + out[i]) / 2 / model_.step * model_.step;
            if (middle > out[i - 1]) out.insert(out.begin() + static_cast<std::ptrdiff_t>(i), middle);
        }
        return out;
    }

    void plan() {
        for (std::size_t f = 0; f < faults_.size(); ++f) {
            for (std::size_t n = 0; n < nominals_.size(); ++n) {
                const auto all = instants(faults_[f], nominals_[n]);
                for (const Nanoseconds at : thinned(all, setup_.moments)) jobs_.push_back({f, {}, n, at});
                if (all.empty()) jobs_.push_back({f, {}, n, {}});
            }
        }
    }

    void plan_pairs() {
        for (std::size_t n = 0; n < nominals_.size(); ++n) {
            std::vector<std::optional<Nanoseconds>> first;
            for (const FaultCase& f : faults_) {
                const auto all = instants(f, nominals_[n]);
                first.push_back(all.empty() ? std::nullopt : std::optional(all.front()));
            }
            for (std::size_t a = 0; a < faults_.size(); ++a) {
                for (std::size_t b = a + 1; b < faults_.size(); ++b) {
                    const bool one_wire = faults_[a].point != plant::kNone && faults_[a].point == faults_[b].point;
                    if (!one_wire && first[a] && first[b]) jobs_.push_back({a, b, n, std::max(*first[a], *first[b])});
                }
            }
        }
    }

    /// Alarms that stand now and that the procedure alone does not have about then. `alarmed` becomes now when any do.
    std::string raised(const Nominal& nominal, const session::Session& session, Nanoseconds& alarmed) const {
        for (std::size_t a = 0; a < setup_.alarms.signals.size(); ++a) {
            const std::uint64_t bits = session::bits(session, setup_.alarms.signals[a]);
            if (bits == setup_.alarms.quiet[a]) continue;
            alarmed = session.now();
            if (!stands_about(nominal, a, bits, session.now()))
                return fmt::format("{} = {}", setup_.alarms.names[a],
                                   session::value_text(session, setup_.alarms.signals[a]));
        }
        return {};
    }
    static bool stands_about(const Nominal& nominal, std::size_t alarm, std::uint64_t bits, Nanoseconds now) {
        if (nominal.alarm_at(alarm, now - kShifted) == bits || nominal.alarm_at(alarm, now + kShifted) == bits)
            return true;
        const auto& list = base::at(nominal.alarms, alarm);
        return std::any_of(list.begin(), list.end(), [&](const auto& entry) {
            return entry.second == bits && entry.first >= now - kShifted && entry.first <= now + kShifted;
        });
    }

    RunRow attempt(const FaultJob& job, Story* story) const {
        const Nominal& nominal = nominals_[job.nominal];
        RunRow row;
        row.disturbance = faults_[job.first].order;
        if (job.second) row.disturbance.append(" + ").append(faults_[*job.second].order);
        row.procedure = nominal.verdict.name;
        row.outcome = "not exercised";
        if (!job.at) return row;
        row.at = *job.at;
        row.outcome = "masked";
        const bool seen = !unnoticed(job.first, job.nominal) || (job.second && !unnoticed(*job.second, job.nominal));
        if (!seen && !setup_.plain) return row;
        const Beginnings& beginnings = base::at(beginnings_, job.nominal);
        Branch now = beginnings.at(*job.at);
        TroubleWatch trouble(nominal.mishaps, now);
        obey(now, faults_[job.first].order, row, story);
        if (job.second) obey(now, faults_[*job.second].order, row, story);
        bool running = true, dangerous = false, in_vain = false;
        std::optional<Nanoseconds> left;  // once the procedure has failed
        Standstill standstill(rhythm_);
        Nanoseconds alarmed = row.at;  // when any alarm stood last
        while (running || (left && left->count() > 0)) {
            if (running && !now.run.advance(now.session)) {
                running = false;
                if (!now.run.failed()) break;
                left = row.reaction ? kAfterAlarm : setup_.patience;
                if (!row.reaction) row.detail = failed_at(now);
            }
            if (running && !setup_.plain && !job.second && at_peace(job, beginnings, now, trouble)) break;
            now.session.step();
            if (!running) now.run.watch(now.session);
            if (left) *left -= model_.step;
            dangerous = trouble.look(now, row.disturbance, row, story) || dangerous;
            if (!row.reaction && now.session.scanned()) {
                const std::string alarm = raised(nominal, now.session, alarmed);
                if (!alarm.empty()) {
                    row.reaction = now.session.now() - row.at;
                    row.detail = alarm;
                    if (left) left = kAfterAlarm;
                }
            }
            if (dangerous && row.reaction) break;
            if (setup_.plain || !standstill.look(now)) continue;
            // An alarm that the procedure has too, about now, may be one that it does not have later.
            if (!row.reaction && alarmed >= standstill.since()) continue;
            in_vain = running;
            if (running && !row.reaction) row.detail = waits_at(now);
            break;
        }
        conclude(row, story, now, dangerous, in_vain);
        tell(story, now);
        return row;
    }

    /// The run is again where the undisturbed one is, for good, or until the next instant at which a stuck wire
    /// matters: there it goes on then.
    bool at_peace(const FaultJob& job, const Beginnings& beginnings, Branch& now, TroubleWatch& trouble) const {
        const FaultCase& fault = faults_[job.first];
        const Nominal& nominal = nominals_[job.nominal];
        const Branch* alone = fault.stuck ? beginnings.kept(now.session.now()) : nullptr;
        if (alone == nullptr || alone->session.plant().wires != now.session.plant().wires) return false;
        Branch undisturbed = *alone;
        undisturbed.run.advance(undisturbed.session);  // as `now` has done
        const bool step_times = !rhythm_.step_times;
        if (!now.run.goes_on_as(undisturbed.run) ||
            !now.session.goes_on_as(undisturbed.session, {.wire_defects = true, .step_times = step_times}))
            return false;
        if (now.session.goes_on_as(undisturbed.session, {.step_times = step_times})) return true;  // it was mended
        const auto all = instants(fault, nominal);
        const auto next = std::lower_bound(all.begin(), all.end(), now.session.now());
        if (next != all.end() && *next == now.session.now()) return false;  // it begins to matter
        if (touched(nominal, fault, now.session.now(), next == all.end() ? nominal.end : *next)) return false;
        if (next == all.end()) return true;
        now = beginnings.at(*next);
        trouble.go_on_from(now);
        std::string said;
        for (const procedure::Order& o : orders_[job.first]) procedure::perform(now.session, o, said);
        return false;
    }

    /// Whether the procedure does something to the wire or its device itself in that time, or mends everything.
    bool touched(const Nominal& nominal, const FaultCase& fault, Nanoseconds after, Nanoseconds until) const {
        const std::string whole = base::fold(model_.plant->device(fault.device).name);
        const std::string device = whole.substr(whole.rfind('.') + 1);  // as it may be called for short
        const auto& deeds = nominal.verdict.deeds;
        return std::any_of(deeds.begin(), deeds.end(), [&](const procedure::Deed& d) {
            if (d.time < after || d.time > until) return false;
            return d.text.starts_with("heal") || base::fold(d.text).find(device) != std::string::npos;
        });
    }

    static std::string waits_at(const Branch& now) {
        const procedure::StepVerdict* step = now.run.step();
        const procedure::Order* order = now.run.order();
        return fmt::format("'{}': at {} it waits for '{}', and nothing changes any more",
                           step == nullptr ? "" : step->name, base::clock_text(now.session.now()),
                           order == nullptr ? "" : order->text);
    }

    static std::string failed_at(const Branch& now) {
        const procedure::StepVerdict* step = now.run.step();
        return step == nullptr || !step->failure ? std::string("the procedure fails")
                                                 : fmt::format("'{}': expected {}, but {}", step->name,
                                                               step->failure->expected, step->failure->found);
    }

    void conclude(RunRow& row, Story* story, const Branch& now, bool dangerous, bool in_vain) const {
        if (dangerous) {
            row.outcome = "dangerous";
        } else if (row.reaction) {
            row.outcome = "shown";
        } else if (now.run.failed() || in_vain) {
            row.outcome = "silent";
            std::vector<std::string> quiet;
            for (std::size_t a = 0; a < setup_.alarms.names.size(); ++a)
                quiet.push_back(setup_.alarms.signals[a].type == logic::Elementary::Bool
                                    ? setup_.alarms.names[a]
                                    : setup_.alarms.names[a] + " <> 0");
            see(row, story, now,
                {fmt::format("{}: nothing shows it", row.disturbance),
                 in_vain ? fmt::format("{}; no alarm", row.detail)
                         : fmt::format("{}; no alarm within {} of that", row.detail, base::clock_text(setup_.patience)),
                 now.session.now()},
                quiet.empty() ? std::string() : fmt::format("expect {}", fmt::join(quiet, " or ")));
        } else {
            row.outcome = "masked";
        }
    }

    Setup setup_;
    const session::SessionModel& model_;
    Rhythm rhythm_;
    std::vector<FaultCase> faults_;
    std::vector<std::vector<procedure::Order>> orders_;  ///< By fault: what puts it on.
    std::vector<Nominal> nominals_;
    std::vector<Beginnings> beginnings_;
    std::vector<Unnoticed> unnoticed_;  ///< By procedure.
    std::vector<FaultJob> jobs_;
    std::vector<std::string> remarks_;
};

}  // namespace

std::vector<std::string> fault_orders(const session::SessionModel& model) {
    std::vector<std::string> out;
    for (FaultCase& f : faults_of(model)) out.push_back(std::move(f.order));
    return out;
}

std::unique_ptr<const Campaign> make_faults(const Setup& setup) {
    return std::make_unique<Faults>(setup);
}

}  // namespace vyard::campaign
