// What a plain operator finds on a panel: what starts the machine, what stops it, what resets it, its modes; and what
// takes its power and air away. Told apart by the kinds of devices and by the words of their names, tags and notes.
#pragma once

#include <string>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::campaign {

struct Selector {
    int device = 0;
    int automatic = -1;  ///< Its position for running by itself; -1 when none is named so.
};

/// Device numbers, in the order of the plant file.
struct Panel {
    std::vector<int> starts, stops, resets;  ///< Buttons.
    std::vector<Selector> selectors;
    std::vector<int> estops, cords, doors, air_supplies;
};

Panel find_panel(const session::SessionModel& model);

/// Orders as a person would write them: "press panel.start for 200 ms".
std::string press_text(const session::SessionModel& model, int button);

/// Every button let go.
std::vector<std::string> release_buttons(const session::SessionModel& model);
/// E-stops pulled out, cords reset, doors shut.
std::vector<std::string> make_safe(const session::SessionModel& model, const Panel& panel);
/// Selectors turned to where the machine runs by itself.
std::vector<std::string> turn_to_automatic(const session::SessionModel& model, const Panel& panel);
/// Overloads that may have tripped.
std::vector<std::string> reset_overloads(const session::SessionModel& model);

/// What a person does to a machine that runs, and how it is undone.
struct Event {
    std::string name;              ///< "press panel.estop"
    std::vector<std::string> act;  ///< Orders.
    std::vector<std::string> end;  ///< Orders; none for what ends by itself.
    bool must_stop = false;        ///< All that moves has to come to rest.
    int door = -1;                 ///< Of a door: it may be locked, and then nothing has to stop.
    int selector = -1;             ///< One that is turned; `end` is to turn it to where it was, which the run knows.
    bool fault = false;            ///< Something breaks; nobody does it.
};
/// Every stop, e-stop, cord and door, every other mode, every air supply and controller of a yard.
std::vector<Event> events_of(const session::SessionModel& model, const Panel& panel);

}  // namespace vyard::campaign
