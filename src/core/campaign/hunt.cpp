#include "core/campaign/hunt.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <unordered_set>

namespace vyard::campaign {

using base::Nanoseconds;
using namespace std::chrono_literals;

namespace {

constexpr std::size_t kRound = 64;      ///< Sequences that are tried before what they met is looked at.
constexpr std::size_t kMostKept = 400;  ///< Sequences of which the end is kept, to go on from.
constexpr std::size_t kMostActs = 24;   ///< Of one sequence.
constexpr Nanoseconds kAfter = 3s;      ///< That is watched behind the last act.

std::uint64_t mixed(std::uint64_t hash, std::uint64_t value) {
    hash ^= value + 0x9e3779b97f4a7c15ULL + (hash << 6) + (hash >> 2);
    hash *= 0xff51afd7ed558ccdULL;
    return hash ^ (hash >> 33);
}

/// Counters count as states of their own up to here; beyond, one more says nothing new.
constexpr std::int64_t kMostCounted = 12;

/// What tells one state of the machine from another: outputs, tags with few values (BOOL, enumerations, steps), and
/// whole numbers while they are small.
class Eyes {
  public:
    explicit Eyes(const session::SessionModel& model) {
        for (std::size_t c = 0; c < model.controllers.size(); ++c) {
            const auto& variables = model.controllers[c].program->variables;
            for (std::size_t v = 0; v < variables.size(); ++v) {
                const logic::Variable& tag = variables[v];
                const bool few = tag.type == logic::Elementary::Bool || tag.names != nullptr;
                const bool counts = tag.type == logic::Elementary::Int || tag.type == logic::Elementary::Dint;
                if (tag.constant || tag.address.area == logic::Area::Input || !(few || counts)) continue;
                (few ? signals_ : counters_)
                    .push_back(session::signal_of_variable(model, static_cast<int>(c), static_cast<int>(v)));
            }
        }
    }
    std::uint64_t look(const session::Session& session) const {
        std::uint64_t hash = 0;
        for (const session::Signal& s : signals_) hash = mixed(hash, session::bits(session, s));
        for (const session::Signal& s : counters_) {
            const auto value = static_cast<std::int64_t>(session::bits(session, s));
            const bool small = value >= 0 && value <= kMostCounted;
            hash = mixed(hash, small ? static_cast<std::uint64_t>(value) : 99U);
        }
        return hash;
    }

  private:
    std::vector<session::Signal> signals_, counters_;
};

/// What can be done to a yard.
std::vector<std::string> acts_of(const session::SessionModel& model, const Panel& panel, bool faults) {
    std::vector<std::string> out;
    const plant::PlantModel& plant = *model.plant;
    for (const Event& e : events_of(model, panel)) {
        if (e.fault && !faults) continue;
        out.insert(out.end(), e.act.begin(), e.act.end());
        out.insert(out.end(), e.end.begin(), e.end.end());
    }
    for (const plant::DeviceModel& d : plant.devices) {
        const std::string& kind = d.kind->name;
        if (kind == "button") {
            out.push_back(fmt::format("press {} for 200 ms", d.name));
            out.push_back(fmt::format("press {}", d.name));
            out.push_back(fmt::format("release {}", d.name));
        }
        if (kind == "potentiometer") {
            for (const int percent : {0, 50, 100}) out.push_back(fmt::format("set {} to {} %", d.name, percent));
        }
        if (d.kind->carries && d.surface != plant::kNone) out.push_back(fmt::format("take from {}", d.name));
        if (!faults) continue;
        for (const plant::FaultSpec& f : d.kind->faults) out.push_back(fmt::format("fault {} {}", d.name, f.name));
        if (!d.kind->faults.empty()) out.push_back(fmt::format("heal {}", d.name));
    }
    return out;
}

class Hunter {
  public:
    Hunter(const Setup& setup, const HuntPlan& plan)
        : setup_(setup),
          plan_(plan),
          model_(*setup.model),
          panel_(find_panel(model_)),
          eyes_(model_),
          fresh_(setup.model) {
        for (const std::string& line : acts_of(model_, panel_, plan.faults)) {
            acts_.push_back(line);
            orders_.emplace(line, read_lines(model_, {line}));
        }
        restless_.assign(static_cast<std::size_t>(devices_), false);
        for (session::Session s = fresh_; s.now() < kAfter; s.step()) {
            for (int d = 0; d < devices_; ++d) {
                if (plant::moves(*model_.plant, s.plant(), d)) restless_[static_cast<std::size_t>(d)] = true;
            }
        }
    }

    HuntOutcome run() {
        HuntOutcome out;
        if (acts_.empty()) out.remarks.emplace_back("there is nothing in this yard that a person could do");
        if (acts_.empty()) return out;
        if (panel_.starts.empty())
            out.remarks.emplace_back("no start button is found, so what goes on is not looked at");
        std::unordered_set<std::uint64_t> met;
        kept_.push_back({ready(), at_start()});
        for (const Sequence& s : plan_.corpus) take(replay(s, out), met, out);
        const std::size_t of = setup_.shards;
        const std::size_t all = plan_.corpus.size() + (plan_.sequences + of - setup_.shard) / of;
        const std::uint64_t seed = of == 1 ? plan_.seed : mixed(plan_.seed, setup_.shard);
        for (std::uint64_t round = 0; out.sequences < all; ++round) {
            const std::size_t count = std::min(kRound, all - out.sequences);
            std::vector<std::optional<Try>> tries(count);
            Work work = setup_.work;
            work.progress = {};
            in_parallel(count, work, [&](std::size_t i) {
                plant::Random random{mixed(mixed(seed, round), i)};
                tries[i] = attempt(random);
            });
            for (std::optional<Try>& t : tries) {
                if (!t) return out;  // ended from outside
                take(std::move(*t), met, out);
            }
            if (setup_.work.progress) setup_.work.progress(out.sequences, all);
        }
        return out;
    }

    /// A sequence, from power-up on.
    RunRow tell_of(const Sequence& sequence, Story* story) const {
        Try t{{}, at_start(), {}, {}};
        TroubleWatch trouble(none_, t.end);
        t.acts = sequence;
        go(t, 0, trouble, story);
        if (story == nullptr || !story->found) look_for_life(t, story);
        if (story != nullptr) tell(story, t.end);
        return std::move(t.row);
    }

  private:
    struct Try {
        Sequence acts;
        Branch end;  ///< The run behind its acts.
        std::vector<std::uint64_t> met;
        RunRow row;
    };
    struct Kept {
        Sequence acts;
        Branch end;
    };

    Branch at_start() const { return watching(setup_, fresh_); }
    /// Healthy, automatic, reset and started: most of what goes wrong begins in a machine that runs.
    Sequence ready() const {
        Sequence out;
        for (std::string& order : turn_to_automatic(model_, panel_)) out.push_back({10ms, std::move(order)});
        for (const int b : panel_.resets) out.push_back({100ms, press_text(model_, b)});
        for (const int b : panel_.starts) out.push_back({kPress, press_text(model_, b)});
        return out;
    }

    /// One of the corpus, as it is; what this yard no longer has is left out, with a remark.
    Try replay(const Sequence& s, HuntOutcome& out) const {
        Try t{s, at_start(), {}, {}};
        std::erase_if(t.acts, [&](const Act& a) {
            if (orders_.contains(a.order)) return false;
            std::string remark = fmt::format("corpus: '{}' is nothing that is done here, and is left out", a.order);
            if (std::find(out.remarks.begin(), out.remarks.end(), remark) == out.remarks.end())
                out.remarks.push_back(std::move(remark));
            return true;
        });
        TroubleWatch trouble(none_, t.end);
        go(t, 0, trouble, nullptr);
        look_for_life(t, nullptr);
        return t;
    }

    Nanoseconds some_time(plant::Random& random) const {
        // From a scan to some seconds, short ones as often as long ones.
        static constexpr std::int64_t kMost[] = {20, 60, 200, 600, 2000, 6000};
        const std::int64_t most = base::at(kMost, static_cast<int>(random.next() % 6));
        const Nanoseconds time = std::chrono::milliseconds(1 + static_cast<std::int64_t>(random.next()) % most);
        return std::max(Nanoseconds(std::abs(time.count())) / model_.step * model_.step, model_.step);
    }
    const std::string& some_act(plant::Random& random) const { return acts_[random.next() % acts_.size()]; }

    /// One that is kept goes on; or, now and then, is done again with some of it otherwise.
    Try attempt(plant::Random& random) const {
        const std::size_t newer = kept_.size() - 1 - random.next() % std::min<std::size_t>(kept_.size(), 40);
        const Kept& from = random.next() % 3 == 0 ? kept_[newer] : kept_[random.next() % kept_.size()];
        const bool anew = random.next() % 4 == 0 || from.acts.size() >= kMostActs;
        Try t{from.acts, anew ? at_start() : from.end, {}, {}};
        std::size_t first = t.acts.size();
        if (anew) {
            first = 0;
            if (t.acts.empty()) t.acts = ready();
            if (t.acts.empty()) t.acts.push_back({some_time(random), some_act(random)});
            const std::size_t place = random.next() % t.acts.size();
            switch (random.next() % 4) {
                case 0: t.acts[place].wait = some_time(random); break;
                case 1: t.acts[place].order = some_act(random); break;
                case 2: t.acts.erase(t.acts.begin() + static_cast<std::ptrdiff_t>(place)); break;
                default:
                    t.acts.insert(t.acts.begin() + static_cast<std::ptrdiff_t>(place),
                                  {some_time(random), some_act(random)});
            }
        } else {
            for (std::uint64_t more = 1 + random.next() % 4; more > 0; --more)
                t.acts.push_back({some_time(random), some_act(random)});
        }
        TroubleWatch trouble(none_, t.end);
        go(t, first, trouble, nullptr);
        look_for_life(t, nullptr);
        return t;
    }

    void wait(Branch& now, Nanoseconds time, Try& t, TroubleWatch& trouble, Story* story) const {
        for (const Nanoseconds until = now.session.now() + time; now.session.now() < until;) {
            now.session.step();
            now.run.watch(now.session);
            trouble.look(now, "hunt", t.row, story);
            if (now.session.scanned()) t.met.push_back(eyes_.look(now.session));
        }
    }

    /// Its acts from one on, and a while behind them. What is gone on from ends with the last act; what comes of that
    /// is looked at in a fork.
    void go(Try& t, std::size_t first, TroubleWatch& trouble, Story* story) const {
        for (std::size_t i = first; i < t.acts.size(); ++i) {
            wait(t.end, t.acts[i].wait, t, trouble, story);
            const auto known = orders_.find(t.acts[i].order);
            if (known == orders_.end()) continue;
            std::string said;
            bool done = true;  // an item that is not there cannot be taken
            for (const procedure::Order& o : known->second)
                done = procedure::perform(t.end.session, o, said).empty() && done;
            if (story != nullptr && done) story->lines.push_back({t.end.session.now(), t.acts[i].order, false});
        }
        Branch behind = t.end;
        wait(behind, kAfter, t, trouble, story);
    }

    /// Everything is put right, reset and started: something that stood has to move.
    void look_for_life(Try& t, Story* story) const {
        if (panel_.starts.empty() || (!t.row.sights.empty() && story == nullptr)) return;
        Branch now = t.end;
        const auto wait = [&](Nanoseconds time) {
            for (const Nanoseconds until = now.session.now() + time; now.session.now() < until;) {
                now.session.step();
                now.run.watch(now.session);
            }
        };
        const auto say = [&](const std::string& line) { obey(now, line, t.row, story); };
        const auto say_all = [&](const std::vector<std::string>& orders) {
            for (const std::string& order : orders) say(order);
        };
        say_all(release_buttons(model_));
        say_all(make_safe(model_, panel_));
        for (const controller::ControllerModel& c : model_.controllers) {
            if (!now.session.controller(static_cast<int>(&c - model_.controllers.data())).powered)
                say("power on " + c.name);
        }
        if (plan_.faults) say("heal all");
        say_all(turn_to_automatic(model_, panel_));
        say_all(reset_overloads(model_));
        wait(kPress);
        std::vector<bool> stood;
        Nanoseconds begin{};
        // An alarm may come just after it was reset; a person tries again.
        for (int round = 0; round < 2; ++round) {
            for (const int b : panel_.resets) {
                say(press_text(model_, b));
                wait(kPress);
            }
            stood.clear();
            for (int d = 0; d < devices_; ++d) stood.push_back(!plant::moves(*model_.plant, now.session.plant(), d));
            for (const int b : panel_.starts) {
                say(press_text(model_, b));
                wait(kPress);
            }
            begin = now.session.now();
            while (now.session.now() - begin < setup_.patience) {
                int working = 0;  // besides what moves in a machine that nobody has started
                for (int d = 0; d < devices_; ++d) {
                    if (!plant::moves(*model_.plant, now.session.plant(), d)) continue;
                    if (stood[static_cast<std::size_t>(d)]) return;
                    working += restless_[static_cast<std::size_t>(d)] ? 0 : 1;
                }
                if (working > 1) return;
                wait(model_.step);
            }
        }
        std::vector<std::string> any;
        for (int d = 0; d < devices_; ++d) {
            if (stood[static_cast<std::size_t>(d)] && model_.plant->device(d).kind->moving != plant::kNone)
                any.push_back(model_.plant->device(d).name + ".moving");
        }
        see(t.row, story, now,
            {"hunt: it does not go on",
             fmt::format(
                 "all is put right, reset and started, twice, at last at {}, and nothing that stood moves within {}",
                 base::clock_text(begin), base::clock_text(setup_.patience)),
             now.session.now()},
            any.empty() ? std::string() : fmt::format("expect {}", fmt::join(any, " or ")));
    }
    void take(Try t, std::unordered_set<std::uint64_t>& met, HuntOutcome& out) {
        bool fresh = false;
        for (const std::uint64_t m : t.met) fresh = met.insert(m).second || fresh;
        out.states = met.size();
        ++out.sequences;
        if (!t.row.sights.empty()) {
            t.row.number = static_cast<std::uint32_t>((out.sequences - 1) * setup_.shards + setup_.shard);
            t.row.disturbance = sequence_text(t.acts);
            t.row.outcome = "found";
            for (const Sight& s : t.row.sights) out.of.try_emplace(s.key, t.acts);
            if (out.sequences <= plan_.corpus.size()) out.corpus.push_back(t.acts);  // what was kept stays kept
            out.rows.push_back(std::move(t.row));
            return;  // what is broken is not gone on from
        }
        if (!fresh) return;
        out.corpus.push_back(t.acts);
        if (kept_.size() < kMostKept)
            kept_.push_back({std::move(t.acts), std::move(t.end)});
        else
            kept_[1 + out.corpus.size() % (kMostKept - 1)] = {std::move(t.acts), std::move(t.end)};
    }

    const Setup& setup_;
    const HuntPlan& plan_;
    const session::SessionModel& model_;
    Panel panel_;
    Eyes eyes_;
    session::Session fresh_;
    const std::set<std::pair<int, int>> none_;
    std::vector<std::string> acts_;
    std::map<std::string, std::vector<procedure::Order>> orders_;
    std::vector<Kept> kept_;
    int devices_ = static_cast<int>(model_.plant->devices.size());
    std::vector<bool> restless_;  ///< What moves in a machine that nobody has started.
};

}  // namespace

HuntOutcome hunt(const Setup& setup, const HuntPlan& plan) {
    return Hunter(setup, plan).run();
}

Story story_of(const Setup& setup, const Sequence& sequence, const std::string& key) {
    Story story;
    story.key = key;
    Hunter(setup, {1, 0, true, {}}).tell_of(sequence, &story);
    return story;
}

std::string sequence_text(const Sequence& sequence) {
    std::string out;
    for (const Act& a : sequence)
        out.append(out.empty() ? "" : "; ").append(fmt::format("{} us {}", a.wait.count() / 1000, a.order));
    return out;
}

std::optional<Sequence> read_sequence(std::string_view text) {
    Sequence out;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(';'), text.size());
        const std::string_view part = base::trimmed(text.substr(0, end));
        text.remove_prefix(std::min(end + 1, text.size()));
        const std::size_t unit = part.find(" us ");
        if (unit == std::string_view::npos || unit == 0 || unit > 15) return std::nullopt;
        std::int64_t us = 0;
        for (const char c : part.substr(0, unit)) {
            if (c < '0' || c > '9') return std::nullopt;
            us = us * 10 + (c - '0');
        }
        out.push_back({std::chrono::microseconds(us), std::string(part.substr(unit + 4))});
    }
    return out;
}

}  // namespace vyard::campaign
