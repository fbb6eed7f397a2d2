// A project of the exchange format as one text: types, global variables, units, configurations.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <filesystem>

#include "core/logic/logic.hpp"
#include "files/exchange/exchange.hpp"
#include "files/exchange/names.hpp"
#include "files/exchange/reading.hpp"
#include "files/text_file.hpp"

namespace vyard::files {

using base::Code;

namespace {

struct UnitWords {
    std::string_view type;
    const char *begin, *end;
};
constexpr auto kUnits = std::to_array<UnitWords>({{"program", "PROGRAM", "END_PROGRAM"},
                                                  {"functionBlock", "FUNCTION_BLOCK", "END_FUNCTION_BLOCK"},
                                                  {"function", "FUNCTION", "END_FUNCTION"}});

class ProjectReader {
  public:
    ProjectReader(const XmlFile& xml, base::Diagnostics& diagnostics)
        : reading_(xml, diagnostics), declarations_(reading_) {}

    base::SourcePtr read() {
        const pugi::xml_node root = reading_.xml().root();
        if (!known(root)) return nullptr;
        reading_.read(root);
        const pugi::xml_node types = reading_.child(root, "types"), instances = reading_.child(root, "instances");
        data_types(reading_.child(types, "dataTypes"));
        const pugi::xml_node configurations = reading_.child(instances, "configurations");
        for (const pugi::xml_node c : reading_.children(configurations, "configuration")) globals(c);
        if (const pugi::xml_node own = reading_.own(root, kOwnText)) own_text(own);
        for (const pugi::xml_node u : reading_.children(reading_.child(types, "pous"), "pou")) unit(u);
        for (const pugi::xml_node c : reading_.children(configurations, "configuration")) configuration(c);
        if (const std::string rest = reading_.documentation(root); !rest.empty()) {
            out_.blank();
            out_.comment(rest, reading_.origin(root));
        }
        reading_.left_out();
        return out_.source(reading_.xml().source()->path);
    }

  private:
    bool known(pugi::xml_node root) {
        const std::string_view name = root.name();
        const std::size_t colon = name.find(':');
        const std::string attribute =
            colon == std::string_view::npos ? "xmlns" : fmt::format("xmlns:{}", name.substr(0, colon));
        const std::string_view space = root.attribute(attribute.c_str()).value();
        if (local_name(root) == "project" && (space.empty() || space.find("/tc6") != std::string_view::npos))
            return true;
        reading_.error(root, Code::NotSupported,
                       fmt::format("this is not a project of the exchange format: its root is <{}>{}",
                                   local_name(root).substr(0, 60),
                                   space.empty() ? "" : fmt::format(" in '{}'", space.substr(0, 80))),
                       fmt::format("expected <project xmlns=\"{}\">", kExchangeSpace));
        return false;
    }

    void own_text(pugi::xml_node own) {
        out_.blank();
        const pugi::xml_node text = reading_.child(own, "text");
        PlacedLines lines = reading_.xml().lines(text ? text : own);
        while (!lines.empty() && lines.back().text.empty()) lines.pop_back();
        out_.verbatim(lines);
    }

    void data_types(pugi::xml_node types) {
        for (const pugi::xml_node t : reading_.children(types, "dataType")) declarations_.data_type(t, out_);
    }

    // --- configurations ---

    /// Whether it says what runs; else all programs run in every scan, as in a text without a CONFIGURATION.
    static bool says_what_runs(pugi::xml_node configuration) {
        for (const pugi::xml_node r : children(configuration, "resource")) {
            if (!children(r, "pouInstance").empty() || !children(r, "task").empty()) return true;
        }
        return false;
    }

    bool written(pugi::xml_node configuration) {
        const bool implied = static_cast<bool>(reading_.own(configuration, kOwnImplied));
        const bool config = static_cast<bool>(child(configuration, "configVars"));
        return !implied && (says_what_runs(configuration) || config);
    }

    /// Global variables stand before what uses them.
    void globals(pugi::xml_node configuration) {
        std::vector<pugi::xml_node> lists = reading_.children(configuration, "globalVars");
        for (const pugi::xml_node r : reading_.children(configuration, "resource")) {
            for (const pugi::xml_node list : reading_.children(r, "globalVars")) lists.push_back(list);
        }
        for (const pugi::xml_node list : lists) {
            out_.blank();
            declarations_.section(list, "VAR_GLOBAL", out_);
        }
    }

    void configuration(pugi::xml_node c) {
        if (!written(c)) return;
        out_.blank();
        out_.comment(reading_.documentation(c), reading_.origin(c));
        out_.line(fmt::format("CONFIGURATION {}", reading_.name(c)), reading_.origin(c));
        out_.in();
        for (const pugi::xml_node r : reading_.children(c, "resource")) resource(r);
        if (const pugi::xml_node config = reading_.child(c, "configVars")) config_variables(config);
        out_.out();
        out_.line("END_CONFIGURATION", reading_.origin(c));
    }

    void resource(pugi::xml_node r) {
        const bool implied = static_cast<bool>(reading_.own(r, kOwnImplied));
        if (!implied) {
            out_.comment(reading_.documentation(r), reading_.origin(r));
            const pugi::xml_node on = reading_.own(r, kOwnOn);
            out_.line(fmt::format("RESOURCE {}{}{}", reading_.name(r), on ? " ON " : "",
                                  on ? reading_.expression(on, reading_.xml().text(on), "the kind of resource") : ""),
                      reading_.origin(r));
            out_.in();
        }
        for (const pugi::xml_node t : reading_.children(r, "task")) task(t);
        // In the order of the file: programs without a task stand beside those of tasks.
        for (const pugi::xml_node e : reading_.elements(r)) {
            if (local_name(e) == "pouInstance") instance(e, "");
            if (local_name(e) != "task") continue;
            for (const pugi::xml_node p : reading_.children(e, "pouInstance")) instance(p, e.attribute("name").value());
        }
        if (implied) return;
        out_.out();
        out_.line("END_RESOURCE", reading_.origin(r));
    }

    /// "PT0.02S" of XML Schema as T#20ms; other texts as they are.
    static std::string interval(const std::string& text) {
        double seconds = 0.0;
        char unit = '\0', rest = '\0';
        if (std::sscanf(text.c_str(), "PT%lf%c%c", &seconds, &unit, &rest) == 2 && unit == 'S')
            return fmt::format("T#{}ms", seconds * 1000.0);
        return text;
    }

    void task(pugi::xml_node t) {
        std::vector<std::string> parts;
        const auto part = [&](const char* attribute, const char* word) {
            const std::string text = interval(t.attribute(attribute).value());
            if (!text.empty())
                parts.push_back(fmt::format("{} := {}", word, reading_.expression(t, text, "the value")));
        };
        part("single", "SINGLE");
        part("interval", "INTERVAL");
        part("priority", "PRIORITY");
        out_.documented(fmt::format("TASK {}({});", reading_.name(t), fmt::join(parts, ", ")),
                        reading_.documentation(t), reading_.origin(t));
    }

    void instance(pugi::xml_node p, const std::string& task) {
        reading_.read(p);
        const char* attribute = p.attribute("typeName") ? "typeName" : "type";
        std::string arguments;
        if (const pugi::xml_node own = reading_.own(p, kOwnCall))
            arguments = reading_.expression(p, reading_.xml().text(own), "the call");
        out_.documented(fmt::format("PROGRAM {}{}{} : {}{};", reading_.name(p), task.empty() ? "" : " WITH ", task,
                                    reading_.dotted(p, attribute), arguments),
                        reading_.documentation(p), reading_.origin(p));
    }

    void config_variables(pugi::xml_node list) {
        out_.line("VAR_CONFIG", reading_.origin(list));
        out_.in();
        for (const pugi::xml_node v : reading_.children(list, "configVariable")) {
            const std::string address = v.attribute("address").value();
            const std::string type = declarations_.type(v), initial = declarations_.value(v);
            out_.documented(fmt::format("{}{}{} : {}{}{};", reading_.dotted(v, "instancePathAndName"),
                                        address.empty() ? "" : " AT ",
                                        address.empty() ? "" : reading_.expression(v, address, "the address"), type,
                                        initial.empty() ? "" : " := ", initial),
                            reading_.documentation(v), reading_.origin(v));
        }
        out_.out();
        out_.line("END_VAR", reading_.origin(list));
    }

    // --- units ---

    void unit(pugi::xml_node u) {
        const std::string_view type = u.attribute("pouType").value();
        const auto words =
            std::find_if(kUnits.begin(), kUnits.end(), [&](const UnitWords& w) { return w.type == type; });
        if (words == kUnits.end()) {
            reading_.error(u, Code::Syntax, fmt::format("'{}' is not a valid pouType", type.substr(0, 60)),
                           base::name_hint(type, {"program", "functionBlock", "function"}));
            return;
        }
        const pugi::xml_node interface = reading_.child(u, "interface");
        std::string result;
        if (const pugi::xml_node r = reading_.child(interface, "returnType")) result = declarations_.type_within(r);
        out_.blank();
        out_.comment(reading_.documentation(u), reading_.origin(u));
        out_.line(fmt::format("{} {}{}{}", words->begin, reading_.name(u), result.empty() ? "" : " : ", result),
                  reading_.origin(u));
        declarations_.sections(interface, out_);
        TextMaker body;
        std::vector<std::string> more;
        bodies(u, body, more);
        if (!more.empty()) {
            out_.line(words->type == "function" ? "VAR" : "VAR_TEMP", reading_.origin(u));
            for (const std::string& d : more) out_.line(fmt::format("    {};", d), reading_.origin(u));
            out_.line("END_VAR", reading_.origin(u));
        }
        out_.append(body);
        out_.line(words->end, reading_.origin(u));
    }

    void bodies(pugi::xml_node u, TextMaker& out, std::vector<std::string>& more) {
        const std::string unit_text = all_text(u);
        for (const pugi::xml_node body : reading_.children(u, "body")) {
            out.comment(reading_.documentation(body), reading_.origin(body));
            for (const pugi::xml_node form : reading_.elements(body)) {
                if (local_name(form) == "SFC") {
                    read_chart(reading_, u, form, unit_text, more, out);
                } else {
                    read_body(reading_, form, unit_text, more, out);
                }
            }
        }
    }

    /// Names that are taken in a unit, and more.
    static std::string all_text(pugi::xml_node node) {
        std::string out = node.value();
        for (const pugi::xml_attribute a : node.attributes()) out.append(" ").append(a.value());
        for (const pugi::xml_node c : node.children()) out.append(" ").append(all_text(c));
        return out;
    }

    Reading reading_;
    DeclarationReading declarations_;
    TextMaker out_;
};

}  // namespace

bool is_exchange_file(const std::string& path) {
    return base::fold(std::filesystem::path(path).extension().string()) == ".xml" && !files::is_folder(path);
}

base::SourcePtr read_exchange(const base::SourcePtr& xml, base::Diagnostics& diagnostics) {
    const int before = diagnostics.error_count();
    const std::unique_ptr<XmlFile> file = XmlFile::read(xml, diagnostics);
    if (file == nullptr) return nullptr;
    base::SourcePtr text = ProjectReader(*file, diagnostics).read();
    return diagnostics.error_count() == before ? text : nullptr;
}

}  // namespace vyard::files
