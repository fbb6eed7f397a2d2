#include "core/logic/logic.hpp"

namespace vyard::logic {

std::shared_ptr<const Program> compile(const std::vector<base::SourcePtr>& sources, base::Diagnostics& diagnostics) {
    base::Diagnostics own;
    std::vector<SyntaxFile> files;
    for (const base::SourcePtr& source : sources) files.push_back(parse_file(source, own));
    // A tree with holes would only add echoes of the same mistakes, yet names and types of the rest are worth checking.
    CheckedLogic checked = check_logic(std::move(files), own);
    std::shared_ptr<const Program> program;
    if (!own.has_errors()) program = std::make_shared<const Program>(generate(checked));
    for (const base::Diagnostic& d : own.list()) {
        if (d.severity == base::Severity::Error) {
            diagnostics.error(d.code, d.place, d.message, d.hint);
        } else {
            diagnostics.warning(d.code, d.place, d.message, d.hint);
        }
    }
    return program;
}

}  // namespace vyard::logic
