// Drawing calls as elements of SVG. Text stays text: a reader can search it, and a person edit it.
#pragma once

#include <pugixml.hpp>
#include <string>
#include <utility>
#include <vector>

#include "figures/canvas.hpp"

namespace vyard::figures {

/// How letters look; `width` is what they take on the page, so that other fonts are fitted to it.
struct Letters {
    double size = 12, width = 0;
    bool bold = false, typed = false;
};

class SvgWriter {
  public:
    SvgWriter(double width, double height);

    void line(double x0, double y0, double x1, double y1, Colour colour, double width, bool dashed);
    void path(const std::vector<std::pair<double, double>>& points, Colour colour, double width);
    void polygon(const std::vector<std::pair<double, double>>& points, Colour fill);
    /// Without an outline when `width` is 0.
    void rectangle(const Box& box, Colour fill, Colour stroke, double width, bool dashed);
    void circle(double x, double y, double radius, Colour fill, Colour stroke, double width);
    void text(double x, double y, const std::string& text, const Letters& letters, Colour colour);
    std::string finish() const;

  private:
    pugi::xml_node add(const char* name);

    pugi::xml_document document_;
    pugi::xml_node root_;
};

}  // namespace vyard::figures
