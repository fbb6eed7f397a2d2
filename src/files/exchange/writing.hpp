// What the parts of the exchange writer share. Internal to the exchange.
#pragma once

#include <map>
#include <pugixml.hpp>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/logic/logic.hpp"

namespace vyard::files {

/// The comments of a source, handed out once each, in order.
class Comments {
  public:
    explicit Comments(base::SourcePtr source);

    /// All that begin before `offset` and were not handed out: a line or more, without marks.
    std::string up_to(std::uint32_t offset);
    /// Those before something and the one behind it on its line, as the documentation that holds both: the last line is
    /// what stands behind.
    std::string around(const logic::Extent& extent);
    /// Those before the word that begins the section of a declaration at `offset`: some code stands behind them.
    std::string above_section(std::uint32_t offset);
    /// Forgets those that begin before `offset`.
    void pass(std::uint32_t offset);

  private:
    std::string content(const logic::Extent& comment) const;

    base::SourcePtr source_;
    std::vector<logic::Extent> comments_;
    std::size_t next_ = 0;
};

/// What the writer knows of all files.
struct Writing {
    std::vector<logic::SyntaxFile> files;
    base::Diagnostics& diagnostics;
    std::map<std::string, const logic::ProgramUnit*> units;  ///< By folded name.

    void warn(const base::SourcePtr& source, logic::Span span, std::string message);
};

pugi::xml_node add(pugi::xml_node parent, const char* name);
void set(pugi::xml_node node, const char* name, const std::string& value);
/// <xhtml> with a text.
void add_text(pugi::xml_node parent, const std::string& text);
void add_documentation(pugi::xml_node parent, const std::string& text);
/// Our own addition with a text, "" for none.
pugi::xml_node add_own(pugi::xml_node parent, std::string_view name, const char* element, const std::string& text);
/// On one line, without comments.
std::string code_text(const base::SourcePtr& source, const logic::Extent& extent);

void add_type(pugi::xml_node parent, const logic::TypeSpec& spec, const base::SourcePtr& source, Comments& comments);
void add_value(pugi::xml_node parent, const logic::Expression& value, const base::SourcePtr& source);
/// Declarations in lists of a section each, within `parent`.
void add_variables(pugi::xml_node parent, std::span<const logic::Declaration> declarations,
                   const base::SourcePtr& source, Comments& comments);

/// A piece of a body: Structured Text, or a drawing.
struct BodyPiece {
    std::string text;
    const logic::Drawing* drawing = nullptr;
    std::string documentation;
};

/// Writes the bodies of one file.
class BodyWriter {
  public:
    BodyWriter(Writing& writing, const base::SourcePtr& source, Comments& comments);

    /// A <body> for each piece of a unit's body.
    void bodies(pugi::xml_node pou, const logic::StatementList& body, const logic::Extent& written);
    /// One <body>; what is mixed stays Structured Text with drawings in it.
    void body(pugi::xml_node parent, const logic::StatementList& body, const logic::Extent& written, logic::Span at);
    /// <SFC>, <actions> and <transitions>.
    void chart(pugi::xml_node pou, const logic::Chart& chart);

  private:
    std::vector<BodyPiece> pieces(const logic::StatementList& body, const logic::Extent& written);
    void piece(pugi::xml_node body, const BodyPiece& p);

    Writing& writing_;
    base::SourcePtr source_;
    Comments& comments_;
    std::map<std::size_t, logic::Drawing> drawings_;  ///< By offset, read.
};

/// <LD> or <FBD>.
void add_drawing(pugi::xml_node body, const logic::Drawing& drawing, const Writing& writing);

}  // namespace vyard::files
