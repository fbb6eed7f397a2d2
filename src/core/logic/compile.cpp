#include <algorithm>

#include "core/logic/library/own_library.hpp"
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

/// The units of our own library that the sources name and do not declare themselves.
std::vector<SyntaxFile> library_units(const std::vector<base::SourcePtr>& sources,
                                      const std::vector<SyntaxFile>& files) {
    std::vector<SyntaxFile> out;
    const auto declared = [&](const std::string& name) {
        for (const SyntaxFile& file : files) {
            for (const ProgramUnit& unit : file.units) {
                if (base::fold(unit.name) == name) return true;
            }
            for (const TypeDeclaration& type : file.types) {
                if (base::fold(type.name) == name) return true;
            }
            for (const Declaration& d : file.globals) {
                if (base::fold(d.name) == name) return true;
            }
        }
        return false;
    };
    std::vector<std::string> texts;
    texts.reserve(sources.size());
    for (const base::SourcePtr& source : sources) texts.push_back(base::fold(source->text));
    for (const LibraryFile& library : library_files()) {
        const bool named = std::any_of(texts.begin(), texts.end(), [&](const std::string& text) {
            return text.find(library.name) != std::string::npos;
        });
        if (!named || declared(library.name)) continue;
        base::Diagnostics own;
        out.push_back(parse_file(library_source(library), own));
        VYARD_CHECK(!own.has_errors());
    }
    return out;
}

}  // namespace

CheckedProgram check_program(const std::vector<base::SourcePtr>& sources, base::Diagnostics& diagnostics,
                             bool coverage) {
    base::Diagnostics own;
    std::vector<SyntaxFile> files;
    files.reserve(sources.size());
    for (const base::SourcePtr& source : sources) files.push_back(parse_file(source, own));
    for (SyntaxFile& file : library_units(sources, files)) files.push_back(std::move(file));
    // A tree with holes is checked all the same: names and types of the rest are worth it.
    const auto checked = std::make_shared<const CheckedLogic>(check_logic(std::move(files), own));
    CheckedProgram out;
    Program program = own.has_errors() ? declare(*checked) : generate(*checked, coverage);
    if (!own.has_errors()) program.checked = checked;
    out.program = std::make_shared<const Program>(std::move(program));
    if (own.has_errors()) collect_left_out(*checked, *out.program, out.left_out);
    for (const base::Diagnostic& d : own.list()) {
        const bool ours = d.place.known() && d.place.source->path.starts_with("library/");
        if (!ours || d.severity == base::Severity::Error) diagnostics.add(d);
    }
    return out;
}

std::shared_ptr<const Program> compile(const std::vector<base::SourcePtr>& sources, base::Diagnostics& diagnostics) {
    const int before = diagnostics.error_count();
    CheckedProgram checked = check_program(sources, diagnostics);
    return diagnostics.error_count() > before ? nullptr : checked.program;
}

}  // namespace vyard::logic
