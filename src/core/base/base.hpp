// The ground floor: what every other room may use. Knows nothing of logic, plants or files.
#pragma once

#include "core/base/at.hpp"
#include "core/base/check.hpp"
#include "core/base/diagnostics.hpp"
#include "core/base/escapes.hpp"
#include "core/base/quantity.hpp"
#include "core/base/rare.hpp"
#include "core/base/source.hpp"
#include "core/base/time.hpp"
