// What buttons and contacts are for, as their names, kinds and tags say.
#pragma once

#include <string>
#include <vector>

#include "core/session/session_state.hpp"

namespace vyard::session {

enum class ButtonRole { None, Start, Stop, Reset };

/// By the words of its name and of its tags. None for what is no button.
ButtonRole role_of_button(const SessionModel& model, int device);

/// Whether one of the words is among those that are wanted.
bool any_word(const std::vector<std::string>& words, std::initializer_list<const char*> wanted);

/// What an input guards: the whole machine, its own device, or nothing.
enum class Guard { None, All, Own };
Guard guard_of(const SessionModel& model, const wiring::Join& input);

/// An order to move, by a BOOL; not one that only lets something go on.
bool moves_something(const SessionModel& model, const wiring::Join& output);

const plant::DeviceModel& device_of(const SessionModel& model, const wiring::Join& join);

}  // namespace vyard::session
