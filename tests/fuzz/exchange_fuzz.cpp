// Throws bytes at the reader of the open XML. What it reads must be text that the language reads, that is compiled and
// runs, and that goes to XML and back as it is.
#include <cstdint>
#include <cstdlib>
#include <string>

#include "core/controller/state.hpp"
#include "files/exchange/exchange.hpp"

namespace {

using namespace vyard;

base::SourcePtr read(const std::string& xml) {
    base::Diagnostics diagnostics;
    return files::read_exchange(base::make_source("fuzz.xml", xml), diagnostics);
}

std::string write(const base::SourcePtr& text) {
    base::Diagnostics diagnostics;
    return files::write_exchange("fuzz", {text}, diagnostics);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size > 20'000) return 0;
    const base::SourcePtr text = read(std::string(reinterpret_cast<const char*>(data), size));
    if (text == nullptr) return 0;
    base::Diagnostics diagnostics;
    const logic::CheckedProgram checked = logic::check_program({text}, diagnostics);
    diagnostics.sort();
    diagnostics.render();
    if (diagnostics.has_errors()) return 0;
    const base::SourcePtr again = read(write(text));
    if (again == nullptr) std::abort();
    const base::SourcePtr third = read(write(again));
    if (third == nullptr || third->text != again->text) std::abort();
    controller::ControllerModel model;
    model.program = checked.program;
    model.max_instructions = 20'000;
    controller::ControllerState state = controller::power_up(model);
    for (int scan = 0; scan < 4; ++scan) controller::solve(model, state, base::Nanoseconds(scan * 10'000'000LL));
    return 0;
}
