// A page to draw on, saved as SVG, PNG or PDF by its file's ending. Units are pixels, y down. The drawing calls are
// the few that our figures need; colours are from a palette that colour-blind readers can tell apart (Okabe and Ito).
#pragma once

#include <memory>
#include <string>
#include <vector>

namespace vyard::figures {

struct Colour {
    double red = 0, green = 0, blue = 0, alpha = 1;
};

namespace palette {
inline constexpr Colour kInk{0.13, 0.15, 0.18};
inline constexpr Colour kFaint{0.62, 0.65, 0.68};
inline constexpr Colour kPaper{1, 1, 1};
inline constexpr Colour kMist{0.94, 0.95, 0.96};
inline constexpr Colour kOrange{0.90, 0.62, 0.00};
inline constexpr Colour kSky{0.34, 0.71, 0.91};
inline constexpr Colour kGreen{0.00, 0.62, 0.45};
inline constexpr Colour kYellow{0.94, 0.89, 0.26};
inline constexpr Colour kBlue{0.00, 0.45, 0.70};
inline constexpr Colour kVermilion{0.84, 0.37, 0.00};
inline constexpr Colour kPurple{0.80, 0.47, 0.65};
}  // namespace palette

inline Colour faded(Colour c, double alpha) {
    return {c.red, c.green, c.blue, alpha};
}

enum class Align { Left, Centre, Right };

struct Box {
    double x = 0, y = 0, width = 0, height = 0;
    bool overlaps(const Box& o) const {
        return x < o.x + o.width && o.x < x + width && y < o.y + o.height && o.y < y + height;
    }
};

class SvgWriter;

class Canvas {
  public:
    Canvas(double width, double height);
    ~Canvas();
    Canvas(const Canvas&) = delete;
    Canvas& operator=(const Canvas&) = delete;

    void line(double x0, double y0, double x1, double y1, Colour colour, double width = 1, bool dashed = false);
    void path(const std::vector<std::pair<double, double>>& points, Colour colour, double width = 1);
    void polygon(const std::vector<std::pair<double, double>>& points, Colour fill);
    void rectangle(const Box& box, Colour fill, Colour stroke, double width = 1, bool dashed = false);
    void circle(double x, double y, double radius, Colour fill, Colour stroke, double width = 1);
    /// `y` is the base line.
    void text(double x, double y, const std::string& text, double size, Colour colour, Align align = Align::Left,
              bool bold = false);
    /// In smaller letters where it would be wider than `room`: nothing is cut.
    void fitted(double x, double y, const std::string& text, double room, double size, Colour colour,
                bool bold = false);
    /// In letters of equal width, kTypedWidth of their size each.
    void typed(double x, double y, const std::string& text, double size, Colour colour, bool bold = false);
    static constexpr double kTypedWidth = 0.602;
    /// All texts so far, and the boxes of their letters.
    struct Written {
        std::string text;
        Box box;
    };
    const std::vector<Written>& written() const { return written_; }
    double text_width(const std::string& text, double size, bool bold = false) const;
    double width() const { return width_; }
    double height() const { return height_; }

    /// Where there are pages (PDF), a new one begins at this height; what is drawn from now on stands below it.
    void break_page(double y);
    /// The picture in the format of `path`'s ending (.svg, .png, .pdf; SVG for "-"), as file contents; "" when the
    /// ending is none of these.
    std::string render(const std::string& path) const;

  private:
    struct Recording;
    void start_page(double top);
    void write(double x, double y, const std::string& text, double size, Colour colour, bool bold, bool typed);
    const Recording& page() const { return *pages_.back(); }

    std::vector<std::unique_ptr<Recording>> pages_;
    std::unique_ptr<SvgWriter> svg_;  ///< The same calls as SVG: its text stays text, that can be searched and edited.
    double width_, height_;
    std::vector<Written> written_;
};

}  // namespace vyard::figures
