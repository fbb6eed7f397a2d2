#include "live/screen/schematic.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "figures/item_colours.hpp"

namespace vyard::live {

using figures::Frame;
using figures::FrameItem;
using figures::Scene;
using figures::Shape;
using plant::Tone;
using plant::Vector2;

namespace {

constexpr int kStripColumn = 26;  // columns for a device in the strip below
constexpr double kAspect = 2.0;   // height of a character by its width

class Schematic {
  public:
    Schematic(Surface& surface, const Area& area, const Scene& scene, const Frame& frame)
        : surface_(surface), area_(area), scene_(scene), frame_(frame) {}

    void draw() {
        surface_.clip(area_);
        const int strip = strip_rows();
        plan_ = {area_.x, area_.y, area_.width, area_.height - strip};
        if (plan_.width >= 8 && plan_.height >= 3) {
            fit();
            for (const Shape& s : frame_.below) shape(s);
            for (const FrameItem& item : frame_.items) draw_item(item);
            for (const Shape& s : frame_.above) shape(s);
            labels();
        }
        draw_strip(strip);
        surface_.unclip();
    }

  private:
    struct Point {
        int x = 0, y = 0;
    };

    // --- scale ---
    void fit() {
        const plant::Rectangle& r = scene_.bounds;
        const double width_m = std::max(r.x1_m - r.x0_m, 0.5), height_m = std::max(r.y1_m - r.y0_m, 0.2);
        per_m_ = std::min((plan_.width - 3) / width_m, (plan_.height - 3) * kAspect / height_m);
        left_ = plan_.x + 1 + (plan_.width - 3 - width_m * per_m_) / 2;
        top_ = plan_.y + 1 + (plan_.height - 3 - height_m * per_m_ / kAspect) / 2;
    }
    double column(double x_m) const { return left_ + (x_m - scene_.bounds.x0_m) * per_m_; }
    double row(double y_m) const { return top_ + (scene_.bounds.y1_m - y_m) * per_m_ / kAspect; }
    Point point(const Vector2& p) const {
        return {static_cast<int>(std::lround(column(p.x_m))), static_cast<int>(std::lround(row(p.y_m)))};
    }

    // --- shapes ---
    static Ink ink_of(Tone tone) {
        switch (tone) {
            case Tone::Runs: return Ink::True;
            case Tone::Active:
            case Tone::Out: return Ink::Active;
            case Tone::Light:
            case Tone::Bulk: return Ink::Light;
            case Tone::Water:
            case Tone::Sky: return Ink::Water;
            case Tone::None:
            case Tone::Paper:
            case Tone::Mist:
            case Tone::Faint:
            case Tone::Travel: return Ink::Dim;
            case Tone::Ink: return Ink::Plain;
        }
        return Ink::Plain;
    }
    static bool strong(Tone tone) {
        return tone == Tone::Runs || tone == Tone::Active || tone == Tone::Out || tone == Tone::Light;
    }
    Ink of_device(const Shape& s, Ink otherwise) const {
        return base::at(frame_.devices, s.device).fault ? Ink::Alert : otherwise;
    }

    void shape(const Shape& s) {
        switch (s.form) {
            case Shape::Form::Box: box(s); break;
            case Shape::Form::Disc: disc(s); break;
            case Shape::Form::Line:
            case Shape::Form::Path: path(s); break;
            case Shape::Form::Polygon:
                if (strong(s.fill.tone)) dots(s);
                break;
            case Shape::Form::Mark: mark(s); break;
            case Shape::Form::LevelBar:
            case Shape::Form::LevelArea: level(s); break;
            case Shape::Form::Number: number(s); break;
            case Shape::Form::Label: labels_.push_back(&s); break;
            case Shape::Form::LevelMark:  // the list of devices says how it is
            case Shape::Form::KeepClear: break;
        }
    }

    struct Extent {
        int x0, y0, x1, y1;
    };
    Extent extent(const std::vector<Vector2>& points) const {
        Extent e{1 << 20, 1 << 20, -(1 << 20), -(1 << 20)};
        for (const Vector2& p : points) {
            const Point at = point(p);
            e = {std::min(e.x0, at.x), std::min(e.y0, at.y), std::max(e.x1, at.x), std::max(e.y1, at.y)};
        }
        return e;
    }

    /// An outline; what is out, seen or driven is filled, so that it shows without colours too.
    void box(const Shape& s) {
        const Extent e = extent(s.points);
        const Ink line = of_device(s, strong(s.line.tone) ? ink_of(s.line.tone) : Ink::Dim);
        if (e.y1 - e.y0 < 1 || e.x1 - e.x0 < 1) {  // thinner than a character
            const bool on = strong(s.fill.tone);
            for (int y = e.y0; y <= e.y1; ++y) {
                for (int x = e.x0; x <= e.x1; ++x)
                    put(x, y, on ? U'■' : e.y0 == e.y1 ? U'─' : U'│', of_device(s, on ? ink_of(s.fill.tone) : line));
            }
            return;
        }
        for (int x = e.x0 + 1; x < e.x1; ++x) {
            put(x, e.y0, U'─', line);
            put(x, e.y1, U'─', line);
        }
        for (int y = e.y0 + 1; y < e.y1; ++y) {
            put(e.x0, y, U'│', line);
            put(e.x1, y, U'│', line);
        }
        put(e.x0, e.y0, U'┌', line);
        put(e.x1, e.y0, U'┐', line);
        put(e.x0, e.y1, U'└', line);
        put(e.x1, e.y1, U'┘', line);
        if (!strong(s.fill.tone) && s.fill.colour == plant::kNone) return;
        const unsigned rgb = s.fill.colour == plant::kNone ? 0 : rgb_of(s.fill.colour);
        for (int y = e.y0 + 1; y < e.y1; ++y) {
            for (int x = e.x0 + 1; x < e.x1; ++x)
                surface_.put(x, y, {U'▒', s.fill.colour == plant::kNone ? ink_of(s.fill.tone) : Ink::Item, rgb});
        }
    }

    void disc(const Shape& s) {
        const Point at = point(s.points[0]);
        const double r = s.size * per_m_;
        const Ink ink = of_device(s, strong(s.fill.tone) ? ink_of(s.fill.tone) : Ink::Dim);
        if (r < 1.5) return put(at.x, at.y, strong(s.fill.tone) ? U'●' : U'○', ink);
        for (int k = 0; k < 48; ++k) {
            const double a = k * 3.14159265358979 / 24;
            put(static_cast<int>(std::lround(at.x + r * std::cos(a))),
                static_cast<int>(std::lround(at.y + r * std::sin(a) / kAspect)), U'·', ink);
        }
    }

    void path(const Shape& s) {
        const Ink ink = of_device(s, ink_of(s.line.tone));
        if (s.form == Shape::Form::Path && s.points.size() == 3) {  // a chevron of a surface: the way it carries
            const Point middle = point(s.points[1]);
            const Vector2 way = s.points[1] - (s.points[0] + s.points[2]) * 0.5;
            const bool across = std::abs(way.x_m) >= std::abs(way.y_m);
            return put(middle.x, middle.y, across ? (way.x_m > 0 ? U'▶' : U'◀') : (way.y_m > 0 ? U'▲' : U'▼'), ink);
        }
        for (std::size_t i = 0; i + 1 < s.points.size(); ++i) line(point(s.points[i]), point(s.points[i + 1]), ink);
    }

    void line(Point a, Point b, Ink ink) {
        const int steps = std::max({std::abs(b.x - a.x), std::abs(b.y - a.y), 1});
        const char32_t letter = a.y == b.y ? U'─' : a.x == b.x ? U'│' : U'·';
        for (int k = 0; k <= steps; ++k) put(a.x + (b.x - a.x) * k / steps, a.y + (b.y - a.y) * k / steps, letter, ink);
    }

    void dots(const Shape& s) {
        const Extent e = extent(s.points);
        put((e.x0 + e.x1) / 2, (e.y0 + e.y1) / 2, U'■', of_device(s, ink_of(s.fill.tone)));
    }

    void mark(const Shape& s) {
        const Point at = point(s.points[0]);
        const bool on = strong(s.fill.tone);
        const Ink ink = of_device(s, on ? ink_of(s.fill.tone) : Ink::Plain);
        switch (s.mark) {
            case plant::Mark::Dot: return put(at.x, at.y, on ? U'●' : U'○', ink);
            case plant::Mark::Square: return put(at.x, at.y, on ? U'■' : U'□', ink);
            case plant::Mark::Diamond: return put(at.x, at.y, on ? U'◆' : U'◇', ink);
            case plant::Mark::Arrow: return put(at.x, at.y, U'▶', ink);
            case plant::Mark::Cross: return put(at.x, at.y, U'×', ink);
        }
    }

    void level(const Shape& s) {
        const Extent e = device_extent(s.device);
        const int height = std::max(e.y1 - e.y0 - 1, 1);
        const double filled = std::clamp(s.size, 0.0, 1.0) * height;
        const int x = std::max(e.x1 - 1, e.x0);
        for (int k = 0; k < height; ++k) {
            const double part = filled - k;
            const char32_t letter = part <= 0.0 ? U'░' : bar_of(std::min(part, 1.0));
            put(x, e.y1 - 1 - k, letter, of_device(s, Ink::Water));
        }
    }

    void number(const Shape& s) {
        const Extent e = device_extent(s.device);
        surface_.text((e.x0 + e.x1) / 2 - 1, (e.y0 + e.y1) / 2, fmt::format("{:.0f}", s.size), Ink::Title);
    }

    Extent device_extent(int device) const {
        const auto corners = base::at(frame_.devices, device).area.corners();
        return extent({corners.begin(), corners.end()});
    }

    unsigned rgb_of(int colour) const {
        const figures::Colour c = figures::item_colour(scene_.colours, colour);
        const auto part = [](double v) { return static_cast<unsigned>(std::lround(std::clamp(v, 0.0, 1.0) * 255)); };
        return (part(c.red) << 16U) | (part(c.green) << 8U) | part(c.blue);
    }

    /// At least one character; crossed where it lies on the floor.
    void draw_item(const FrameItem& item) {
        const auto corners = item.form.corners();
        Extent e = extent({corners.begin(), corners.end()});
        if (e.x1 > e.x0) --e.x1;  // neighbours do not run into one another
        if (e.y1 > e.y0) --e.y1;
        for (int y = e.y0; y <= e.y1; ++y) {
            for (int x = e.x0; x <= e.x1; ++x)
                surface_.put(x, y,
                             {item.on_floor ? U'×'
                              : item.held   ? U'█'
                                            : U'▓',
                              item.on_floor ? Ink::Alert : Ink::Item, rgb_of(item.colour)});
        }
        if (item.stacked > 1) surface_.text(e.x0, e.y0, fmt::format("{}", item.stacked), Ink::Title);
    }

    // --- names ---
    /// Those of faulty devices first, as there is not always room for all.
    void labels() {
        std::stable_partition(labels_.begin(), labels_.end(),
                              [&](const Shape* s) { return base::at(frame_.devices, s->device).fault; });
        for (const Shape* s : labels_) label(*s);
    }
    bool empty(int x, int y, int width) const {
        if (y < plan_.y || y >= plan_.y + plan_.height || x < plan_.x || x + width > plan_.x + plan_.width)
            return false;
        for (int k = 0; k < width; ++k) {
            if (surface_.at(x + k, y).letter != U' ') return false;
        }
        return true;
    }
    void label(const Shape& s) {
        const bool fault = base::at(frame_.devices, s.device).fault;
        const std::string text = fault ? s.text + " FAULT" : s.text;
        const int width = columns_of(text);
        const Point at = point(s.points[0]);
        const int side = s.side == plant::Side::Above ? -1 : 1;
        for (const int dy : {side, 2 * side, -side, 3 * side, -2 * side, 4 * side, 0}) {
            for (const int dx : {-width / 2, 1, -width, 3, -width - 2}) {
                if (!empty(at.x + dx - 1, at.y + dy, width + 2)) continue;
                surface_.text(at.x + dx, at.y + dy, text, fault ? Ink::Alert : Ink::Plain);
                return;
            }
        }
        // No room for all of it: its name alone, or nothing.
        const std::string name = base::at(scene_.devices, s.device).name;
        if (text != name && !fault) {
            Shape shorter = s;
            shorter.text = name;
            label(shorter);
        }
    }

    // --- the strip below ---
    bool in_strip(std::size_t i) const {
        const figures::SceneDevice& d = scene_.devices[i];
        return d.pipe() || (d.tiled() && d.family != "panel");
    }
    int columns() const { return std::max(area_.width / kStripColumn, 1); }
    int strip_rows() const {
        int n = 0;
        for (std::size_t i = 0; i < scene_.devices.size(); ++i) n += in_strip(i) ? 1 : 0;
        const int rows = (n + columns() - 1) / columns();
        return std::min(rows, std::max(area_.height / 4, 0));
    }
    void draw_strip(int rows) {
        int n = 0;
        for (std::size_t i = 0; i < scene_.devices.size(); ++i) {
            if (!in_strip(i)) continue;
            const int line = n / columns(), column = n % columns();
            ++n;
            if (line >= rows) continue;
            const figures::FrameDevice& now = frame_.devices[i];
            const int x = area_.x + column * kStripColumn, y = area_.y + area_.height - rows + line;
            surface_.put(x, y, {now.on ? U'●' : U'○', now.fault ? Ink::Alert : now.on ? Ink::True : Ink::Dim, 0});
            const std::string& name = scene_.devices[i].name;
            const std::string tail = now.fault ? " FAULT" : "";
            std::string text = fmt::format("{} {}{}", name, now.reading, tail);
            // The value is worth more than what it is called: "glaze_level 0.46 m".
            const std::size_t word = now.reading.find(' ');
            if (text.size() > kStripColumn - 3 && word != std::string::npos)
                text = fmt::format("{} {}{}", name, now.reading.substr(word + 1), tail);
            surface_.text(x + 2, y, text, now.fault ? Ink::Alert : Ink::Plain, kStripColumn - 3);
        }
    }

    void put(int x, int y, char32_t letter, Ink ink) {
        if (plan_.contains(x, y)) surface_.put(x, y, {letter, ink, 0});
    }

    Surface& surface_;
    Area area_, plan_;
    const Scene& scene_;
    const Frame& frame_;
    double per_m_ = 1, left_ = 0, top_ = 0;
    std::vector<const Shape*> labels_;
};

}  // namespace

void draw_schematic(Surface& surface, const Area& area, const Scene& scene, const Frame& frame) {
    Schematic(surface, area, scene, frame).draw();
}

}  // namespace vyard::live
