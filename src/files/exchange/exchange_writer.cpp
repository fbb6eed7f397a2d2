// A project of the exchange format from our text.
#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <sstream>

#include "files/exchange/exchange.hpp"
#include "files/exchange/names.hpp"
#include "files/exchange/writing.hpp"
#include "files/exchange/xml_file.hpp"

namespace vyard::files {

using base::Code;
using logic::Extent;
using logic::ProgramUnit;
using logic::SyntaxFile;

namespace {

/// Whether the format has words for a unit; else why not.
std::string without_words(const ProgramUnit& u) {
    if (u.kind == logic::UnitKind::Interface) return "an INTERFACE";
    if (u.is_class) return "a CLASS";
    if (!u.methods.empty()) return "a unit with methods";
    if (!u.extends.empty() || !u.implements.empty()) return "a unit that extends or implements another";
    if (u.is_abstract || u.is_final || u.access != logic::Access::Public)
        return "a unit with ABSTRACT, FINAL or an access";
    const logic::Declaration plain;
    if (std::any_of(u.declarations.begin(), u.declarations.end(),
                    [&](const logic::Declaration& d) { return d.access != plain.access; }))
        return "a unit whose variables have an access";
    std::istringstream words(base::fold(std::string(u.written.of(*u.source))));
    for (std::string word; words >> word;) {
        if (word == "using") return "a unit with USING";
    }
    return {};
}

class ProjectWriter {
  public:
    ProjectWriter(const std::string& name, Writing& writing) : writing_(writing) {
        root_ = add(document_, "project");
        set(root_, "xmlns", std::string(kExchangeSpace));
        headers(name);
        pugi::xml_node types = add(root_, "types");
        data_types_ = add(types, "dataTypes");
        units_ = add(types, "pous");
        configurations_ = add(add(root_, "instances"), "configurations");
    }

    std::string run() {
        for (const SyntaxFile& file : writing_.files) one_file(file);
        if (!verbatim_.empty()) {
            pugi::xml_node node = add_own(root_, kOwnText, "text", verbatim_);
            set(node, "xml:space", "preserve");
        }
        add_documentation(root_, rest_);
        std::ostringstream out;
        out << "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n";
        document_.save(out, "  ", pugi::format_indent | pugi::format_no_declaration, pugi::encoding_utf8);
        return base::without_control_references(out.str());
    }

  private:
    /// The format wants a time; it is always the same one, so that the same logic gives the same file.
    void headers(const std::string& name) {
        pugi::xml_node file = add(root_, "fileHeader");
        set(file, "companyName", "");
        set(file, "productName", "Vivid Yard");
        set(file, "productVersion", "1");
        set(file, "creationDateTime", "1970-01-01T00:00:00");
        pugi::xml_node content = add(root_, "contentHeader");
        set(content, "name", name);
        pugi::xml_node coordinates = add(content, "coordinateInfo");
        for (const char* form : {"fbd", "ld", "sfc"}) {
            pugi::xml_node scaling = add(add(coordinates, form), "scaling");
            set(scaling, "x", "1");
            set(scaling, "y", "1");
        }
    }

    // --- in the order of the text, so that comments go to what they stand above ---

    struct Item {
        std::uint32_t begin = 0;
        enum class Kind { Space, Type, Global, Unit, Configuration } kind = Kind::Space;
        std::size_t number = 0;
    };

    static std::vector<Item> items(const SyntaxFile& file) {
        std::vector<Item> out;
        const auto in_space = [&](std::uint32_t at) {
            return std::any_of(file.spaces.begin(), file.spaces.end(),
                               [&](const Extent& e) { return e.begin <= at && at < e.end; });
        };
        const auto put = [&](Item::Kind kind, const auto& list) {
            for (std::size_t i = 0; i < list.size(); ++i) {
                if (!in_space(list[i].written.begin)) out.push_back({list[i].written.begin, kind, i});
            }
        };
        for (std::size_t i = 0; i < file.spaces.size(); ++i)
            out.push_back({file.spaces[i].begin, Item::Kind::Space, i});
        put(Item::Kind::Type, file.types);
        put(Item::Kind::Global, file.globals);
        put(Item::Kind::Unit, file.units);
        put(Item::Kind::Configuration, file.configurations);
        std::stable_sort(out.begin(), out.end(), [](const Item& a, const Item& b) { return a.begin < b.begin; });
        return out;
    }

    void one_file(const SyntaxFile& file) {
        Comments comments(file.source);
        BodyWriter bodies(writing_, file.source, comments);
        std::span<const logic::Declaration> globals;  // neighbours go into one list
        const auto flush = [&] {
            if (!globals.empty()) add_variables(configuration(), globals, file.source, comments);
            globals = {};
        };
        for (const Item& item : items(file)) {
            if (item.kind == Item::Kind::Global) {
                const std::size_t first = item.number - globals.size();
                globals = std::span(file.globals).subspan(first, globals.size() + 1);
                continue;
            }
            flush();
            switch (item.kind) {
                case Item::Kind::Space: as_text(file, file.spaces[item.number], comments); break;
                case Item::Kind::Type: type(file.types[item.number], file.source, comments); break;
                case Item::Kind::Unit: unit(file, file.units[item.number], comments, bodies); break;
                case Item::Kind::Configuration: configuration(file.configurations[item.number], file, comments); break;
                case Item::Kind::Global: break;
            }
        }
        flush();
        const std::string rest = comments.up_to(static_cast<std::uint32_t>(file.source->text.size()));
        rest_.append(rest_.empty() || rest.empty() ? 0 : 1, '\n');
        rest_.append(rest);
    }

    void as_text(const SyntaxFile& file, const Extent& extent, Comments& comments) {
        const std::string above = comments.up_to(extent.begin);
        comments.pass(extent.end);
        const std::string_view text = extent.of(*file.source);
        if (!above.empty()) verbatim_.append(fmt::format("{}\n", comment_text(above)));
        for (const char c : text) {
            if (c != '\r') verbatim_ += c;
        }
        verbatim_ += "\n";
        const auto line = std::count(file.source->text.begin(), file.source->text.begin() + extent.begin, '\n');
        writing_.warn(file.source, {static_cast<int>(line) + 1, 1, 1},
                      "the exchange format has no words for this: it is carried over as text that others cannot read");
    }

    void type(const logic::TypeDeclaration& t, const base::SourcePtr& source, Comments& comments) {
        std::string above = comments.up_to(t.written.begin);
        pugi::xml_node node = add(data_types_, "dataType");
        set(node, "name", t.name);
        add_type(add(node, "baseType"), *t.spec, source, comments);
        if (t.initial) add_value(add(node, "initialValue"), *t.initial, source);
        const std::string around = comments.around(t.written);
        if (!above.empty()) above += "\n";
        add_documentation(node, above + around);
    }

    void unit(const SyntaxFile& file, const ProgramUnit& u, Comments& comments, BodyWriter& bodies) {
        if (!without_words(u).empty()) return as_text(file, u.written, comments);
        const std::string above = comments.up_to(u.written.begin);
        pugi::xml_node node = add(units_, "pou");
        set(node, "name", u.name);
        set(node, "pouType",
            u.kind == logic::UnitKind::Program         ? "program"
            : u.kind == logic::UnitKind::FunctionBlock ? "functionBlock"
                                                       : "function");
        pugi::xml_node interface = add(node, "interface");
        if (u.result) add_type(add(interface, "returnType"), *u.result, file.source, comments);
        add_variables(interface, u.declarations, file.source, comments);
        if (u.chart.empty()) {
            bodies.bodies(node, u.body, u.body_written);
        } else {
            bodies.chart(node, u.chart);
        }
        comments.pass(u.body_written.end);
        add_documentation(node, above);
    }

    // --- configurations ---

    /// The one that global variables go to: one of the text, or one that the format needs.
    pugi::xml_node configuration() {
        pugi::xml_node found = configurations_.first_child();
        if (found) return found;
        found = add(configurations_, "configuration");
        set(found, "name", "configuration");
        set(add(found, "resource"), "name", "resource");
        add_own(found, kOwnImplied, "implied", "");
        return found;
    }

    void configuration(const logic::Configuration& c, const SyntaxFile& file, Comments& comments) {
        const std::string above = comments.up_to(c.written.begin);
        pugi::xml_node node = add(configurations_, "configuration");
        set(node, "name", c.name);
        for (const logic::Resource& r : c.resources) resource(node, r, file.source, comments);
        if (!c.config.empty()) {
            pugi::xml_node list = add(node, "configVars");
            for (const logic::ConfigDeclaration& d : c.config) {
                pugi::xml_node v = add(list, "configVariable");
                set(v, "instancePathAndName", d.path);
                if (!d.address.empty()) set(v, "address", d.address);
                add_type(add(v, "type"), *d.type, file.source, comments);
                if (d.initial) add_value(add(v, "initialValue"), *d.initial, file.source);
                add_documentation(v, comments.around(d.written));
            }
        }
        const std::string within = comments.up_to(c.written.end);
        add_documentation(node, above.empty() || within.empty() ? above + within : above + "\n" + within);
    }

    void resource(pugi::xml_node parent, const logic::Resource& r, const base::SourcePtr& source, Comments& comments) {
        pugi::xml_node node = add(parent, "resource");
        set(node, "name", r.name.empty() ? "resource" : r.name);
        std::map<std::string, pugi::xml_node> tasks;
        for (const logic::TaskDeclaration& t : r.tasks) {
            pugi::xml_node task = add(node, "task");
            set(task, "name", t.name);
            if (t.single) set(task, "single", code_text(source, t.single->written));
            if (t.interval) set(task, "interval", code_text(source, t.interval->written));
            set(task, "priority", t.priority ? code_text(source, t.priority->written) : "0");
            add_documentation(task, comments.around(t.written));
            tasks.emplace(base::fold(t.name), task);
        }
        for (const logic::ProgramDeclaration& p : r.programs) {
            const auto task = tasks.find(base::fold(p.task));
            pugi::xml_node holder = task == tasks.end() ? node : task->second;
            pugi::xml_node instance = add(holder, "pouInstance");
            set(instance, "name", p.name);
            set(instance, "typeName", p.type);
            if (p.call) {
                const std::string text = code_text(source, p.written);
                const std::size_t open = text.find('(');
                add_own(instance, kOwnCall, "call", text.substr(open, text.rfind(')') + 1 - open));
            }
            add_documentation(instance, comments.around(p.written));
        }
        if (r.name.empty()) add_own(node, kOwnImplied, "implied", "");
        if (!r.on.empty()) add_own(node, kOwnOn, "on", r.on);
    }

    Writing& writing_;
    pugi::xml_document document_;
    pugi::xml_node root_, data_types_, units_, configurations_;
    std::string verbatim_;
    std::string rest_;  ///< Comments behind all else.
};

bool can_be_written(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::string text = source->text;
    std::replace(text.begin(), text.end(), '\f', ' ');  // a page break in a source is a blank
    const std::size_t at = find_no_xml(text);
    if (at == std::string::npos) return true;
    const std::size_t start = at == 0 ? 0 : text.rfind('\n', at - 1) + 1;
    const auto line = std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n') + 1;
    diagnostics.error(Code::Syntax, {source, static_cast<int>(line), static_cast<int>(at - start) + 1, 1},
                      "this character cannot stand in XML", "write it as $xx within a text, or leave it out");
    return false;
}

}  // namespace

std::string write_exchange(const std::string& name, const std::vector<base::SourcePtr>& sources,
                           base::Diagnostics& diagnostics) {
    Writing writing{{}, diagnostics, {}};
    const int before = diagnostics.error_count();
    for (const base::SourcePtr& source : sources) {
        if (!can_be_written(source, diagnostics)) continue;
        const int errors = diagnostics.error_count();
        writing.files.push_back(logic::parse_file(source, diagnostics));
        if (diagnostics.error_count() == errors) logic::drawings_of(source, diagnostics);
    }
    if (diagnostics.error_count() > before) return {};
    for (const SyntaxFile& file : writing.files) {
        for (const ProgramUnit& u : file.units) writing.units.emplace(base::fold(u.name), &u);
    }
    return ProjectWriter(name, writing).run();
}

}  // namespace vyard::files
