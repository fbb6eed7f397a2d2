#include "core/procedure/doubts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace vyard::procedure {

namespace {

using plant::Contact;
using plant::PointModel;
using plant::PointType;
using wiring::Join;

const char* word(Contact contact) {
    return contact == Contact::NormallyClosed ? "normally closed" : "normally open";
}

bool differ(double a_low, double a_high, double b_low, double b_high) {
    const double slack = 1e-6 * std::max(std::abs(b_high - b_low), std::abs(a_high - a_low));
    return std::abs(a_low - b_low) > slack || std::abs(a_high - b_high) > slack;
}

/// Whether its device usually has a contact that is open when something is wrong.
bool guards(const JoinView& join) {
    const PointModel& p = join.point();
    return join.model.plant->device(p.device).kind->usual_contact(p.spec) == Contact::NormallyClosed;
}

/// Joined inputs that `movement` actuated; of an output that went off, those it let go.
std::vector<const Join*> came(const session::SessionModel& model, const Movement& movement, bool on) {
    std::vector<const Join*> out;
    for (const Change& c : movement.inputs) {
        const PointModel& p = base::at(model.plant->points, c.point);
        if (p.type != PointType::Boolean) continue;
        const bool actuated = (c.to != 0.0) != (p.contact == Contact::NormallyClosed);
        for (const Join& j : model.wiring.inputs) {
            if (j.point == c.point && actuated == on) out.push_back(&j);
        }
    }
    return out;
}

/// The same input of another device of the kind, which fits this output's name better than the one that came.
const Join* meant(const JoinView& output, const Join& came, const std::vector<const Join*>& moved) {
    const plant::PlantModel& plant = *output.model.plant;
    const PointModel& p = base::at(plant.points, came.point);
    if (p.device != output.point().device) return nullptr;
    const auto fit = [&](const Join& j) {
        return wiring::words_in_common(output.tag().path, JoinView{output.model, j}.tag().path);
    };
    for (const Join& j : output.model.wiring.inputs) {
        const PointModel& other = base::at(plant.points, j.point);
        const bool alike = other.device != p.device && other.spec == p.spec &&
                           plant.device(other.device).kind == plant.device(p.device).kind;
        if (alike && std::find(moved.begin(), moved.end(), &j) == moved.end() && fit(j) > fit(came)) return &j;
    }
    return nullptr;
}

}  // namespace

std::string point_text(const session::SessionModel& model, int point, double value) {
    const PointModel& p = base::at(model.plant->points, point);
    session::Signal signal;
    signal.reading = {plant::Reading::Source::Point, p.device, point, p.type, p.dimension};
    signal.type = session::type_of_point(p.type);
    return session::value_text(model, signal, logic::value_of(signal.type, value));
}

std::string JoinView::plant_text(double value) const {
    return point_text(model, join.point, value);
}

std::string JoinView::plant_range(double low, double high) const {
    return fmt::format("{}..{}", plant_text(low), plant_text(high));
}

void doubt_range(const JoinView& join, bool input, Doubts& doubts) {
    const wiring::Scaling& s = join.join.scaling;
    const PointModel& p = join.point();
    if (s.linear && p.low != p.high && differ(s.point_low, s.point_high, p.low, p.high))
        doubts.against.push_back(fmt::format("the map scales {}, the device's signal is {}",
                                             join.plant_range(s.point_low, s.point_high),
                                             join.plant_range(p.low, p.high)));
    const double low = s.linear ? s.point_low : p.low, high = s.linear ? s.point_high : p.high;
    const auto stated = wiring::stated_range(join.statement(), p.dimension);
    if (stated && low != high && differ(low, high, stated->first, stated->second))
        doubts.against.push_back(fmt::format("it is stated to be {}, and is {}",
                                             join.plant_range(stated->first, stated->second),
                                             join.plant_range(low, high)));
    const bool takes = !input && s.linear && p.takes_low < p.takes_high;
    const double slack = 1e-6 * (p.takes_high - p.takes_low);
    if (takes && (s.point_high > p.takes_high + slack || s.point_low < p.takes_low - slack))
        doubts.against.push_back(fmt::format("the tag reaches {}, the device takes {} and cuts off what is beyond",
                                             join.plant_range(s.point_low, s.point_high),
                                             join.plant_range(p.takes_low, p.takes_high)));
    else if (takes && s.point_high <= p.takes_high && differ(s.point_low, s.point_high, p.takes_low, p.takes_high))
        doubts.notes.push_back(fmt::format("the device takes {}, the tag reaches {}",
                                           join.plant_range(p.takes_low, p.takes_high),
                                           join.plant_range(s.point_low, s.point_high)));
}

void doubt_contact(const JoinView& join, bool input, Doubts& doubts) {
    const PointModel& p = join.point();
    if (p.type != PointType::Boolean) return;
    const bool inverted = join.join.scaling.invert;
    const auto stated = wiring::stated_contact(join.statement(), guards(join));
    if (input && p.contact && stated) {
        const bool closed = (*p.contact == Contact::NormallyClosed) != inverted;
        if (closed != (*stated == Contact::NormallyClosed))
            doubts.against.push_back(fmt::format("it is stated to be {}; the device's contact is {}{}", word(*stated),
                                                 word(*p.contact), inverted ? ", and the map inverts it" : ""));
        return;
    }
    if (inverted && !wiring::states_inversion(join.statement()))
        doubts.against.emplace_back(
            "the map inverts it, and neither description nor note says so ('inverted' in the note, if it is meant)");
}

void doubt_names(const JoinView& join, Doubts& doubts) {
    if (join.join.scaling.invert) return;
    if (const auto words = wiring::opposite_words(join.tag().path, join.point().name))
        doubts.against.push_back(
            fmt::format("the tag says '{}', the point '{}': crossed?", words->first, words->second));
}

void doubt_movement(const JoinView& output, const Movement& movement, bool on, Doubts& doubts) {
    const std::vector<const Join*> moved = came(output.model, movement, on);
    for (const Join* j : moved) {
        const std::string& name = JoinView{output.model, *j}.tag().path;
        if (const auto words = wiring::opposite_words(output.tag().path, name)) {
            doubts.against.push_back(
                fmt::format("asked for '{}', and '{}' came ('{}'): crossed?", words->first, name, words->second));
            return;
        }
    }
    for (const Join* j : moved) {
        if (const Join* better = meant(output, *j, moved)) {
            doubts.against.push_back(fmt::format("'{}' came, not '{}': crossed?", JoinView{output.model, *j}.tag().path,
                                                 JoinView{output.model, *better}.tag().path));
            return;
        }
    }
}

}  // namespace vyard::procedure
