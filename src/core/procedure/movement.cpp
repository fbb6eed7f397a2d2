#include "core/procedure/movement.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace vyard::procedure {

namespace {

using plant::PointDirection;
using plant::PointModel;
using plant::PointType;
using session::Session;

constexpr base::Nanoseconds kQuiet{500'000'000}, kMost{25'000'000'000};
constexpr double kNought = 1e-9;  ///< Less is rounding.

/// A run from where a session stands, with each input's first change.
class Watch {
  public:
    Watch(const Session& session, int device) : model_(session.model()), begin_(session.now()) {
        const plant::DeviceModel& d = model_.plant->device(device);
        for (const plant::ActualSpec& spec : d.kind->actuals) {
            if (spec.name == "moving") continue;  // the others say where to
            if (const auto signal = session::find_signal(model_, fmt::format("plant.{}.{}", d.name, spec.name)))
                actuals_.push_back({fmt::format("{}.{}", d.name, spec.name), *signal});
        }
        before_ = inputs(session);
        last_ = before_;
        actuals_before_ = actuals(session);
        first_.assign(before_.size(), base::Nanoseconds{-1});
    }

    void run(Session& session, base::Nanoseconds quiet = kQuiet) {
        base::Nanoseconds quiet_since = begin_;
        std::vector<double> own = actuals_before_;
        while (session.now() - begin_ < kMost && session.now() - quiet_since < quiet) {
            session.step();
            std::vector<double> now = inputs(session), mine = actuals(session);
            if (now == last_ && mine == own) continue;
            for (std::size_t i = 0; i < now.size(); ++i) {
                if (first_[i].count() < 0 && now[i] != before_[i]) first_[i] = session.now() - begin_;
            }
            quiet_since = session.now();
            last_ = std::move(now);
            own = std::move(mine);
        }
        actuals_after_ = own;
    }

    std::vector<bool> changed() const {
        std::vector<bool> out(first_.size());
        for (std::size_t i = 0; i < first_.size(); ++i) out[i] = first_[i].count() >= 0;
        return out;
    }

    Movement result(const std::vector<bool>& restless) const {
        Movement out;
        for (std::size_t i = 0; i < first_.size(); ++i) {
            if (first_[i].count() >= 0 && !restless[i] && last_[i] != before_[i])
                out.inputs.push_back({static_cast<int>(i), first_[i], before_[i], last_[i]});
        }
        std::stable_sort(out.inputs.begin(), out.inputs.end(),
                         [](const Change& a, const Change& b) { return a.after < b.after; });
        for (std::size_t i = 0; i < actuals_.size(); ++i) {
            const double now = std::abs(actuals_after_[i]) < kNought ? 0.0 : actuals_after_[i];
            if (std::abs(now - actuals_before_[i]) <= kNought) continue;
            const session::Signal& signal = actuals_[i].signal;
            out.actuals.push_back(fmt::format("{} {}", actuals_[i].name,
                                              session::value_text(model_, signal, logic::value_of(signal.type, now))));
        }
        return out;
    }

  private:
    /// By point; outputs stay at 0.
    std::vector<double> inputs(const Session& session) const {
        std::vector<double> out(model_.plant->points.size(), 0.0);
        for (std::size_t i = 0; i < out.size(); ++i) {
            if (model_.plant->points[i].direction == PointDirection::Input)
                out[i] = session.plant().shown(static_cast<int>(i));
        }
        return out;
    }
    std::vector<double> actuals(const Session& session) const {
        std::vector<double> out;
        for (const Actual& a : actuals_) out.push_back(session::read(session, a.signal));
        return out;
    }

    struct Actual {
        std::string name;
        session::Signal signal;
    };

    const session::SessionModel& model_;
    std::vector<Actual> actuals_;  ///< Of the device.
    base::Nanoseconds begin_;
    std::vector<double> before_, last_, actuals_before_, actuals_after_;
    std::vector<base::Nanoseconds> first_;
};

}  // namespace

Movement Trials::moved(int point, const Act& act) {
    const plant::PlantModel& plant = *rest_.model().plant;
    const int device = base::at(plant.points, point).device;
    Stage& stage = with_air(device);
    Movement first = moved(stage, device, act);
    if (first.any()) return first;
    for (std::size_t p = 0; p < plant.points.size(); ++p) {
        const PointModel& other = plant.points[p];
        if (other.device != device || other.direction != PointDirection::Output || other.type != PointType::Boolean ||
            static_cast<int>(p) == point)
            continue;
        Stage sent{stage.session, {}};
        sent.session.set_point_fault(static_cast<int>(p), plant::Defect::ByHand, 1.0);
        Watch(sent.session, device).run(sent.session);
        sent.session.let_go_point(static_cast<int>(p));
        if (Movement second = moved(sent, device, act); second.any()) return second;
    }
    return first;
}

Movement Trials::moved(Stage& stage, int device, const Act& act) {
    if (!stage.restless) {
        Session alone = stage.session;
        Watch watch(alone, device);
        watch.run(alone, kMost);
        stage.restless = watch.changed();
    }
    Session session = stage.session;
    Watch watch(session, device);
    act(session);
    watch.run(session);
    return watch.result(*stage.restless);
}

Trials::Stage& Trials::with_air(int device) {
    const plant::PlantModel& plant = *rest_.model().plant;
    if (!plain_) plain_.emplace(Stage{rest_, {}});
    if (plant.device(device).kind->gives_air) return *plain_;
    if (!airy_) {
        airy_.emplace(Stage{rest_, {}});
        bool any = false;
        for (std::size_t p = 0; p < plant.points.size(); ++p) {
            const PointModel& point = plant.points[p];
            if (!plant.device(point.device).kind->gives_air || point.direction != PointDirection::Output ||
                point.type != PointType::Boolean)
                continue;
            airy_->session.set_point_fault(static_cast<int>(p), plant::Defect::ByHand, 1.0);
            any = true;
        }
        if (any) session::settle(airy_->session);
    }
    return *airy_;
}

}  // namespace vyard::procedure
