// What other rooms use of the wiring: joins and jumpers, the rack, proposals of joins by name.
#pragma once

#include "core/wiring/joins.hpp"
#include "core/wiring/name_words.hpp"
#include "core/wiring/proposal.hpp"
#include "core/wiring/rack.hpp"
