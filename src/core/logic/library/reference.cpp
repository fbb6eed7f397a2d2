#include "core/logic/library/reference.hpp"

#include <sstream>

#include "core/logic/library/own_library.hpp"
#include "core/logic/library/standard_blocks.hpp"
#include "core/logic/library/standard_functions.hpp"
#include "core/logic/text/parser.hpp"

namespace vyard::logic {

namespace {

const char* section_text(Section s) {
    switch (s) {
        case Section::Input: return "input";
        case Section::Output: return "output";
        case Section::InOut: return "in-out";
        default: return "";
    }
}

/// The comment that a text starts with, on one line.
std::string leading_comment(const std::string& text) {
    std::istringstream in(text);
    std::string out;
    for (std::string line; std::getline(in, line) && line.starts_with("//");) {
        if (!out.empty()) out += ' ';
        out += line.substr(std::min<std::size_t>(3, line.size()));
    }
    return out;
}

ReferenceEntry own_entry(const LibraryFile& file) {
    ReferenceEntry out;
    out.name = file.name;
    out.text = file.text;
    out.summary = leading_comment(out.text);
    base::Diagnostics diagnostics;
    const SyntaxFile tree = parse_file(library_source(file), diagnostics);
    for (const TypeDeclaration& type : tree.types) {
        out.name = type.name;
        out.kind = ReferenceKind::OwnType;
        for (const Declaration& d : type.spec->fields)
            out.ports.push_back({"field", d.name, type_text(*d.type), "", d.description});
    }
    for (const ProgramUnit& unit : tree.units) {
        out.name = unit.name;
        out.kind = unit.kind == UnitKind::Function ? ReferenceKind::OwnFunction : ReferenceKind::OwnBlock;
        for (const Declaration& d : unit.declarations) {
            const std::string section = section_text(d.section);
            if (section.empty()) continue;
            const std::string edge = d.edge == Edge::Rising ? " R_EDGE" : d.edge == Edge::Falling ? " F_EDGE" : "";
            std::string initial;
            if (d.initial) {
                const base::SourcePtr source = tree.source;
                const std::string_view line = source->line(d.initial->span.line);
                initial = line.substr(static_cast<std::size_t>(d.initial->span.column) - 1,
                                      static_cast<std::size_t>(d.initial->span.length));
            }
            out.ports.push_back({section, d.name, type_text(*d.type) + edge, initial, d.description});
        }
        if (unit.result) out.ports.push_back({"result", "", type_text(*unit.result), "", ""});
    }
    return out;
}

}  // namespace

std::vector<ReferenceEntry> reference() {
    std::vector<ReferenceEntry> out;
    for (const StandardBlock& b : standard_blocks()) {
        // What charts are made of is ours; the standard has its flags alone.
        const bool ours = std::string_view(b.name) == "CHART_STEP";
        ReferenceEntry e{ours ? ReferenceKind::OwnBlock : ReferenceKind::StandardBlock, b.name, b.summary, {}, {}};
        for (const StandardField& f : b.fields)
            e.ports.push_back({section_text(f.section), f.name, type_name(f.type), "", ""});
        out.push_back(std::move(e));
    }
    for (const LibraryFile& file : library_files()) out.push_back(own_entry(file));
    for (const FunctionInfo& f : standard_functions()) {
        if (f.function >= Function::Rises) continue;
        ReferenceEntry e{ReferenceKind::StandardFunction, f.name, f.summary, {}, {}};
        std::istringstream in(f.formal);
        for (std::string name; in >> name;) e.ports.push_back({"input", name, "", "", ""});
        if (f.most > f.least && !e.ports.empty()) e.ports.back().name += " ...";
        out.push_back(std::move(e));
    }
    return out;
}

}  // namespace vyard::logic
