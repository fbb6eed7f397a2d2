// Verdicts for people (text), for build servers (JUnit XML) and for programs (JSON).
#pragma once

#include <string>
#include <vector>

#include "core/procedure/procedure.hpp"

namespace vyard::report {

/// A summary of all procedures; failures in full.
std::string verdicts_text(const std::vector<procedure::ProcedureVerdict>& verdicts, bool colour);

/// The de-facto JUnit schema: a testsuite a procedure, a testcase a step and a rule; "not reached" is skipped.
std::string junit_xml(const std::string& yard, const std::vector<procedure::ProcedureVerdict>& verdicts);

std::string verdicts_json(const std::string& yard, const std::vector<procedure::ProcedureVerdict>& verdicts);

bool all_passed(const std::vector<procedure::ProcedureVerdict>& verdicts);

}  // namespace vyard::report
