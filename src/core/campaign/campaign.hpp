// What other rooms use of campaigns: setting one up, carrying it out, what it comes to, and telling a finding as a
// procedure.
#pragma once

#include "core/campaign/hunt.hpp"
#include "core/campaign/jobs.hpp"
#include "core/campaign/panel.hpp"
#include "core/campaign/proof.hpp"
#include "core/campaign/reproduce.hpp"
#include "core/campaign/results.hpp"
#include "core/campaign/sweep.hpp"
