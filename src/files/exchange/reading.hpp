// What the parts of the exchange reader share: the file, the report, and what of it was read. Internal to the exchange.
#pragma once

#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "files/exchange/xml_file.hpp"

namespace vyard::files {

class Reading {
  public:
    Reading(const XmlFile& xml, base::Diagnostics& diagnostics) : xml_(xml), diagnostics_(diagnostics) {}

    const XmlFile& xml() const { return xml_; }
    base::Diagnostics& diagnostics() { return diagnostics_; }
    base::LineOrigin origin(pugi::xml_node node) const { return xml_.origin(node); }

    void error(pugi::xml_node at, base::Code code, std::string message, std::string hint = {});
    void warning(pugi::xml_node at, base::Code code, std::string message, std::string hint = {});

    // --- elements; those that are asked for count as read ---
    pugi::xml_node child(pugi::xml_node node, std::string_view name);
    std::vector<pugi::xml_node> children(pugi::xml_node node, std::string_view name);
    /// All elements within, of any name, except comments on them: documentation and addData.
    std::vector<pugi::xml_node> elements(pugi::xml_node node);
    void read(pugi::xml_node node) { read_.insert(node.internal_object()); }
    /// Our own addition of that name; null for none.
    pugi::xml_node own(pugi::xml_node node, std::string_view name);

    // --- texts, checked so that they stay what they are once they stand in our text ---
    /// The identifier in an attribute; "" after a report.
    std::string name(pugi::xml_node node, const char* attribute = "name");
    /// Identifiers joined by dots.
    std::string dotted(pugi::xml_node node, const char* attribute);
    /// A value or an expression on one line; "" after a report. `what`: "the value".
    std::string expression(pugi::xml_node node, std::string text, const char* what);
    /// What is documented, "" for nothing; a text ends with a line break when it says all there is above the element.
    std::string documentation(pugi::xml_node node);

    /// Warns of all that was not read.
    void left_out();

  private:
    void left_out(pugi::xml_node node);
    void attributes(pugi::xml_node node);
    void added(pugi::xml_node node);

    const XmlFile& xml_;
    base::Diagnostics& diagnostics_;
    std::set<const void*> read_;
    struct Addition {
        std::string name;
        pugi::xml_node first;
        int count = 0;
    };
    std::vector<Addition> additions_, unknown_;
};

/// Lines of text that grow, each with its place.
class TextMaker {
  public:
    explicit TextMaker(int indent = 0) : indent_(indent) {}

    void line(std::string text, const base::LineOrigin& origin);
    /// As they are, without an indent.
    void verbatim(const PlacedLines& lines);
    /// The lines of a comment above something.
    void comment(const std::string& text, const base::LineOrigin& origin);
    /// `text`, which may go on over several lines, and a comment behind it.
    void documented(const std::string& text, const std::string& documentation, const base::LineOrigin& origin);
    void in() { ++indent_; }
    void out() { --indent_; }
    void blank();
    void append(const TextMaker& other);
    base::SourcePtr source(const std::string& path) const;
    bool empty() const { return lines_.empty(); }

  private:
    int indent_;
    PlacedLines lines_;
};

/// Variables, types and values.
class DeclarationReading {
  public:
    explicit DeclarationReading(Reading& reading) : reading_(reading) {}

    /// All sections of an interface.
    void sections(pugi::xml_node interface, TextMaker& out);
    /// One section; `word` "VAR_GLOBAL", ...
    void section(pugi::xml_node list, const char* word, TextMaker& out);
    void data_type(pugi::xml_node type, TextMaker& out);
    /// A type as a text, over several lines if it is a structure. "" after a report.
    std::string type(pugi::xml_node holder);
    /// The one type that stands within <type>, <baseType> or <returnType>.
    std::string type_within(pugi::xml_node node);
    /// An initial value; "" for none.
    std::string value(pugi::xml_node holder);

  private:
    std::string array(pugi::xml_node node);
    std::string structure(pugi::xml_node node);
    std::string enumeration(pugi::xml_node node);
    std::string one_value(pugi::xml_node node);
    void variable(pugi::xml_node node, TextMaker& out);

    Reading& reading_;
};

/// Bodies that are drawn.
void read_drawn_body(Reading& reading, pugi::xml_node body, TextMaker& out);
/// What stands in one <ST>, <IL>, <LD>, <FBD> or <SFC>. `unit_text`: see read_instruction_list. Variables that the body
/// needs for itself are added to `declarations`.
void read_body(Reading& reading, pugi::xml_node body, const std::string& unit_text,
               std::vector<std::string>& declarations, TextMaker& out);
/// A chart, with the named actions and transitions of its unit.
void read_chart(Reading& reading, pugi::xml_node unit, pugi::xml_node body, const std::string& unit_text,
                std::vector<std::string>& declarations, TextMaker& out);
/// The drawing that leads to the condition of a transition, which it writes to `name`.
void read_drawn_condition(Reading& reading, pugi::xml_node body, pugi::xml_node condition, const std::string& name,
                          TextMaker& out);

}  // namespace vyard::files
