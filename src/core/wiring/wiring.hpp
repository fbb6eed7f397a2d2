// What other rooms use of the wiring: joins and jumpers, the rack, proposals of joins by name, what people state of a
// wire.
#pragma once

#include "core/wiring/asking.hpp"
#include "core/wiring/joins.hpp"
#include "core/wiring/name_words.hpp"
#include "core/wiring/proposal.hpp"
#include "core/wiring/rack.hpp"
#include "core/wiring/register_map.hpp"
#include "core/wiring/stated.hpp"
