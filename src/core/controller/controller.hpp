// What people of other rooms use of the controller: its model and state, and changing its logic while it runs.
#pragma once

#include "core/controller/link.hpp"
#include "core/controller/online_change.hpp"
#include "core/controller/registers.hpp"
#include "core/controller/remembering.hpp"
#include "core/controller/state.hpp"
