// What other rooms use of procedures: reading them, running them, verdicts; the checkout; why outputs are off; what is
// behind a value.
#pragma once

#include "core/procedure/book.hpp"
#include "core/procedure/causes.hpp"
#include "core/procedure/checkout.hpp"
#include "core/procedure/evaluator.hpp"
#include "core/procedure/held_off.hpp"
#include "core/procedure/last_write.hpp"
#include "core/procedure/orders.hpp"
#include "core/procedure/run.hpp"
#include "core/procedure/table.hpp"
#include "core/procedure/verdict.hpp"
