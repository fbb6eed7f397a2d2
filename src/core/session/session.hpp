// What other rooms use of a session: building one, running it, what can be looked at in it, its tags.
#pragma once

#include "core/session/build.hpp"
#include "core/session/foreseeing.hpp"
#include "core/session/guarding.hpp"
#include "core/session/history.hpp"
#include "core/session/links.hpp"
#include "core/session/mishaps.hpp"
#include "core/session/opposing.hpp"
#include "core/session/roles.hpp"
#include "core/session/session_state.hpp"
#include "core/session/signals.hpp"
#include "core/session/tag_list.hpp"
