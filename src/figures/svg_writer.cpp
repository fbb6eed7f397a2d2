#include "figures/svg_writer.hpp"

#include <fmt/format.h>

#include <cmath>
#include <sstream>

namespace vyard::figures {

namespace {

/// To a hundredth of a pixel, without zeros at the end.
std::string number(double value) {
    return fmt::format("{:g}", std::round(value * 100.0) / 100.0 + 0.0);
}

void set(pugi::xml_node node, const char* name, double value) {
    node.append_attribute(name) = number(value).c_str();
}
void set(pugi::xml_node node, const char* name, const std::string& value) {
    node.append_attribute(name) = value.c_str();
}

void paint(pugi::xml_node node, const char* name, Colour colour) {
    if (colour.alpha <= 0.0) return set(node, name, "none");
    const auto part = [](double share) { return static_cast<int>(std::lround(share * 255.0)); };
    set(node, name, fmt::format("#{:02x}{:02x}{:02x}", part(colour.red), part(colour.green), part(colour.blue)));
    if (colour.alpha < 1.0) set(node, fmt::format("{}-opacity", name).c_str(), colour.alpha);
}

void stroke(pugi::xml_node node, Colour colour, double width, bool dashed) {
    paint(node, "stroke", colour);
    set(node, "stroke-width", width);
    if (dashed) set(node, "stroke-dasharray", "5 4");
}

std::string points_text(const std::vector<std::pair<double, double>>& points) {
    std::string out;
    for (const auto& [x, y] : points) out += fmt::format("{}{},{}", out.empty() ? "" : " ", number(x), number(y));
    return out;
}

}  // namespace

SvgWriter::SvgWriter(double width, double height) {
    root_ = document_.append_child("svg");
    set(root_, "xmlns", "http://www.w3.org/2000/svg");
    set(root_, "width", width);
    set(root_, "height", height);
    set(root_, "viewBox", fmt::format("0 0 {} {}", number(width), number(height)));
}

pugi::xml_node SvgWriter::add(const char* name) {
    return root_.append_child(name);
}

void SvgWriter::line(double x0, double y0, double x1, double y1, Colour colour, double width, bool dashed) {
    const pugi::xml_node node = add("line");
    set(node, "x1", x0);
    set(node, "y1", y0);
    set(node, "x2", x1);
    set(node, "y2", y1);
    stroke(node, colour, width, dashed);
}

void SvgWriter::path(const std::vector<std::pair<double, double>>& points, Colour colour, double width) {
    const pugi::xml_node node = add("polyline");
    set(node, "points", points_text(points));
    set(node, "fill", "none");
    stroke(node, colour, width, false);
}

void SvgWriter::polygon(const std::vector<std::pair<double, double>>& points, Colour fill) {
    const pugi::xml_node node = add("polygon");
    set(node, "points", points_text(points));
    paint(node, "fill", fill);
}

void SvgWriter::rectangle(const Box& box, Colour fill, Colour line, double width, bool dashed) {
    const pugi::xml_node node = add("rect");
    set(node, "x", box.width < 0 ? box.x + box.width : box.x);
    set(node, "y", box.height < 0 ? box.y + box.height : box.y);
    set(node, "width", std::abs(box.width));
    set(node, "height", std::abs(box.height));
    paint(node, "fill", fill);
    if (width > 0) stroke(node, line, width, dashed);
}

void SvgWriter::circle(double x, double y, double radius, Colour fill, Colour line, double width) {
    const pugi::xml_node node = add("circle");
    set(node, "cx", x);
    set(node, "cy", y);
    set(node, "r", radius);
    paint(node, "fill", fill);
    stroke(node, line, width, false);
}

void SvgWriter::text(double x, double y, const std::string& text, const Letters& letters, Colour colour) {
    if (text.empty()) return;
    const pugi::xml_node node = add("text");
    set(node, "x", x);
    set(node, "y", y);
    set(node, "font-family", letters.typed ? "DejaVu Sans Mono, monospace" : "DejaVu Sans, Verdana, sans-serif");
    set(node, "font-size", letters.size);
    if (letters.bold) set(node, "font-weight", "bold");
    paint(node, "fill", colour);
    if (text.size() > 1) {
        set(node, "textLength", letters.width);
        set(node, "lengthAdjust", "spacingAndGlyphs");
    }
    if (text.find("  ") != std::string::npos || text.starts_with(' ')) set(node, "xml:space", "preserve");
    node.text().set(text.c_str());
}

std::string SvgWriter::finish() const {
    std::ostringstream out;
    document_.save(out, "", pugi::format_indent, pugi::encoding_utf8);
    return out.str();
}

}  // namespace vyard::figures
