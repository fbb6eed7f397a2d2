// What speaks against a join: its range, its contact, its names and what moves, held against what people state of the
// tag and against the device. None of it looks at the map's own promise, which a mistake in the map would only repeat.
#pragma once

#include <string>
#include <vector>

#include "core/procedure/movement.hpp"

namespace vyard::procedure {

/// A join with the tag and the point at its ends.
struct JoinView {
    const session::SessionModel& model;
    const wiring::Join& join;

    const plant::PointModel& point() const { return base::at(model.plant->points, join.point); }
    const logic::Variable& tag() const {
        return base::at(base::at(model.controllers, join.controller).program->variables, join.variable);
    }
    /// "line.status.%X3": with its controller where there are several.
    std::string tag_name() const {
        return wiring::spot_name(model.controllers, join.controller, {join.variable, join.type, join.offset, join.bit});
    }
    std::string plant_text(double value) const;              ///< Of its point.
    std::string plant_range(double low, double high) const;  ///< "0 m..0.6 m"
    wiring::Statement statement() const { return {tag().path, tag().description, join.note}; }
};

/// A value of a point for people: TRUE, "0.25 m".
std::string point_text(const session::SessionModel& model, int point, double value);

struct Doubts {
    std::vector<std::string> against;  ///< What makes a line fail.
    std::vector<std::string> notes;    ///< What a person should look at.
};

/// The map's range against the device's own, and against a range that is stated.
void doubt_range(const JoinView& join, bool input, Doubts& doubts);
/// The contact of the device through the map against the stated one; an inversion has to be stated.
void doubt_contact(const JoinView& join, bool input, Doubts& doubts);
/// Opposite words in the names of tag and point.
void doubt_names(const JoinView& join, Doubts& doubts);
/// What an output moved when it went `on`, or off: feedback with the opposite word in its name, or feedback of another
/// device than the one its name goes with. Cost: inputs squared at most.
void doubt_movement(const JoinView& output, const Movement& movement, bool on, Doubts& doubts);

}  // namespace vyard::procedure
