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

/// A run from where a session stands, with each input's first change.
class Watch {
  public:
    Watch(const Session& session, int device) : model_(session.model()), device_(device), begin_(session.now()) {
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
        const plant::DeviceModel& d = model_.plant->device(device_);
        for (std::size_t i = 0; i < actuals_before_.size(); ++i) {
            if (std::abs(actuals_after_[i] - actuals_before_[i]) <= 1e-9) continue;
            const plant::ActualSpec& spec = d.kind->actuals[i];
            const char* unit = base::display_unit(spec.dimension);
            out.actuals.push_back(
                spec.type == PointType::Boolean
                    ? fmt::format("{}.{} {}", d.name, spec.name, actuals_after_[i] != 0.0 ? "TRUE" : "FALSE")
                    : fmt::format("{}.{} {:.4g}{}{}", d.name, spec.name,
                                  std::abs(actuals_after_[i]) < 1e-9 ? 0.0 : actuals_after_[i],
                                  *unit == '\0' ? "" : " ", unit));
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
        const std::size_t count = model_.plant->device(device_).kind->actuals.size();
        for (std::size_t i = 0; i < count; ++i) {
            out.push_back(plant::read(*model_.plant, session.plant(),
                                      {plant::Reading::Source::Actual, device_, static_cast<int>(i), {}, {}}));
        }
        return out;
    }

    const session::SessionModel& model_;
    int device_;
    base::Nanoseconds begin_;
    std::vector<double> before_, last_, actuals_before_, actuals_after_;
    std::vector<base::Nanoseconds> first_;
};

}  // namespace

Movement Bench::moved(int point, const Act& act) {
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

Movement Bench::moved(Stage& stage, int device, const Act& act) {
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

Bench::Stage& Bench::with_air(int device) {
    const plant::PlantModel& plant = *rest_.model().plant;
    if (!plain_) plain_.emplace(Stage{rest_, {}});
    if (plant.device(device).kind->gives_air) return *plain_;
    if (!airy_) {
        airy_.emplace(*plain_);
        for (std::size_t p = 0; p < plant.points.size(); ++p) {
            const PointModel& point = plant.points[p];
            if (plant.device(point.device).kind->gives_air && point.direction == PointDirection::Output &&
                point.type == PointType::Boolean)
                airy_->session.set_point_fault(static_cast<int>(p), plant::Defect::ByHand, 1.0);
        }
        session::settle(airy_->session);
        airy_->restless.reset();
    }
    return *airy_;
}

}  // namespace vyard::procedure
