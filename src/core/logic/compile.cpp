#include "core/logic/logic.hpp"

namespace vyard::logic {

namespace {

/// Names of declared variables that the program does not have; also those below them, as a stranger cannot know.
void collect_left_out(const CheckedLogic& logic, const Program& program, std::vector<std::string>& out) {
    const auto collect = [&](const std::vector<Declaration>& declarations, const std::string& prefix) {
        for (const Declaration& d : declarations) {
            const std::string path = d.section == Section::Global ? d.name : prefix + d.name;
            if (program.find(path) == nullptr) out.push_back(path);
        }
    };
    for (const SyntaxFile& file : logic.files) {
        collect(file.globals, "");
        for (const ProgramUnit& unit : file.units) collect(unit.declarations, unit.name + ".");
    }
}

}  // namespace

CheckedProgram check_program(const std::vector<base::SourcePtr>& sources, base::Diagnostics& diagnostics) {
    base::Diagnostics own;
    std::vector<SyntaxFile> files;
    files.reserve(sources.size());
    for (const base::SourcePtr& source : sources) files.push_back(parse_file(source, own));
    // A tree with holes is checked all the same: names and types of the rest are worth it.
    const CheckedLogic checked = check_logic(std::move(files), own);
    CheckedProgram out;
    out.program = std::make_shared<const Program>(own.has_errors() ? declare(checked) : generate(checked));
    if (own.has_errors()) collect_left_out(checked, *out.program, out.left_out);
    for (const base::Diagnostic& d : own.list()) {
        if (d.severity == base::Severity::Error) {
            diagnostics.error(d.code, d.place, d.message, d.hint);
        } else {
            diagnostics.warning(d.code, d.place, d.message, d.hint);
        }
    }
    return out;
}

std::shared_ptr<const Program> compile(const std::vector<base::SourcePtr>& sources, base::Diagnostics& diagnostics) {
    const int before = diagnostics.error_count();
    CheckedProgram checked = check_program(sources, diagnostics);
    return diagnostics.error_count() > before ? nullptr : checked.program;
}

}  // namespace vyard::logic
