// Setting up campaigns for tests.
#pragma once

#include "core/campaign/campaign.hpp"
#include "core/support.hpp"

namespace vyard::test {

/// Of all procedures, with the alarms that are called so.
inline campaign::Setup setup_of(const session::SessionModelPtr& model, const std::vector<base::SourcePtr>& sources) {
    campaign::Setup setup;
    setup.model = model;
    base::Diagnostics diagnostics;
    setup.book = campaign::with_watch(*model, sources, diagnostics);
    const std::string problems = diagnostics.has_errors() ? diagnostics.render() : "";
    REQUIRE_MESSAGE(setup.book != nullptr, problems);
    for (std::size_t i = 0; i + 1 < setup.book->procedures.size(); ++i) setup.procedures.push_back(i);
    setup.alarms = campaign::find_alarms(*model);
    return setup;
}

}  // namespace vyard::test
