// An XML file in memory, with the places of its elements. Internal to the exchange.
#pragma once

#include <memory>
#include <pugixml.hpp>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::files {

/// A line of text that is made from a file, with its place there.
struct PlacedLine {
    std::string text;
    base::LineOrigin origin;
};
using PlacedLines = std::vector<PlacedLine>;

/// The first byte that cannot stand in XML: a control character, or one that is no UTF-8; npos for none.
std::size_t find_no_xml(std::string_view text);

/// The name without the prefix of its namespace.
std::string_view local_name(pugi::xml_node node);
pugi::xml_node child(pugi::xml_node node, std::string_view name);
std::vector<pugi::xml_node> children(pugi::xml_node node, std::string_view name);

class XmlFile {
  public:
    /// Null after a report: of what is no well-formed XML in UTF-8, is nested too deeply or asks for entities. Nothing
    /// is ever fetched, and only the five entities of XML and characters by their numbers are expanded. Time and memory
    /// linear in the file.
    static std::unique_ptr<XmlFile> read(const base::SourcePtr& source, base::Diagnostics& diagnostics);

    pugi::xml_node root() const { return document_.document_element(); }
    const base::SourcePtr& source() const { return source_; }
    base::Place place(pugi::xml_node node) const;
    base::LineOrigin origin(pugi::xml_node node) const;
    /// All text within an element, as it is, each line with its place. Paragraphs and breaks begin a new line.
    PlacedLines lines(pugi::xml_node node) const;
    /// The same in one piece, without blanks around it.
    std::string text(pugi::xml_node node) const;

  private:
    explicit XmlFile(base::SourcePtr source) : source_(std::move(source)) {}
    bool sound(base::Diagnostics& diagnostics) const;
    base::Place place_at(std::size_t offset, std::size_t length = 1) const;
    void collect(pugi::xml_node node, PlacedLines& out) const;
    void decode(std::size_t offset, bool plain, PlacedLines& out) const;

    base::SourcePtr source_;
    std::vector<std::size_t> line_starts_;
    pugi::xml_document document_;
};

}  // namespace vyard::files
