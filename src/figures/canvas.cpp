#include "figures/canvas.hpp"

#include <cairo-pdf.h>
#include <cairo.h>

#include "figures/svg_writer.hpp"

namespace vyard::figures {

/// Everything is drawn once onto a recording, a page each, and replayed onto the surface of each format.
struct Canvas::Recording {
    double top = 0, bottom = 0;  ///< Where the page stands on the sheet.
    cairo_surface_t* surface = nullptr;
    cairo_t* context = nullptr;
};

namespace {

void set(cairo_t* c, Colour colour) {
    cairo_set_source_rgba(c, colour.red, colour.green, colour.blue, colour.alpha);
}

void set_font(cairo_t* c, double size, bool bold, const char* family = "DejaVu Sans") {
    cairo_select_font_face(c, family, CAIRO_FONT_SLANT_NORMAL,
                           bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(c, size);
}

void stroke(cairo_t* c, Colour colour, double width, bool dashed) {
    static constexpr double kDashes[] = {5, 4};
    set(c, colour);
    cairo_set_line_width(c, width);
    cairo_set_dash(c, kDashes, dashed ? 2 : 0, 0);
    cairo_stroke(c);
}

cairo_status_t append(void* text, const unsigned char* data, unsigned int length) {
    static_cast<std::string*>(text)->append(reinterpret_cast<const char*>(data), length);
    return CAIRO_STATUS_SUCCESS;
}

void paint(cairo_surface_t* from, cairo_surface_t* onto, double y) {
    cairo_t* c = cairo_create(onto);
    cairo_set_source_surface(c, from, 0, y);
    cairo_paint(c);
    cairo_destroy(c);
}

void show_page(cairo_surface_t* surface) {
    cairo_t* c = cairo_create(surface);
    cairo_show_page(c);
    cairo_destroy(c);
}

}  // namespace

Canvas::Canvas(double width, double height)
    : svg_(std::make_unique<SvgWriter>(width, height)), width_(width), height_(height) {
    start_page(0);
}

void Canvas::start_page(double top) {
    auto page = std::make_unique<Recording>();
    page->top = top;
    page->bottom = height_;
    const cairo_rectangle_t extents{0, 0, width_, height_ - top};
    page->surface = cairo_recording_surface_create(CAIRO_CONTENT_COLOR_ALPHA, &extents);
    page->context = cairo_create(page->surface);
    cairo_translate(page->context, 0, -top);
    pages_.push_back(std::move(page));
    rectangle({0, top, width_, height_ - top}, palette::kPaper, palette::kPaper, 0);
}

void Canvas::break_page(double y) {
    pages_.back()->bottom = y;
    start_page(y);
}

Canvas::~Canvas() {
    for (const auto& page : pages_) {
        cairo_destroy(page->context);
        cairo_surface_destroy(page->surface);
    }
}

void Canvas::line(double x0, double y0, double x1, double y1, Colour colour, double width, bool dashed) {
    cairo_t* c = page().context;
    cairo_move_to(c, x0, y0);
    cairo_line_to(c, x1, y1);
    stroke(c, colour, width, dashed);
    svg_->line(x0, y0, x1, y1, colour, width, dashed);
}

void Canvas::path(const std::vector<std::pair<double, double>>& points, Colour colour, double width) {
    cairo_t* c = page().context;
    cairo_new_path(c);
    for (const auto& [x, y] : points) cairo_line_to(c, x, y);
    stroke(c, colour, width, false);
    svg_->path(points, colour, width);
}

void Canvas::polygon(const std::vector<std::pair<double, double>>& points, Colour fill) {
    cairo_t* c = page().context;
    cairo_new_path(c);
    for (const auto& [x, y] : points) cairo_line_to(c, x, y);
    cairo_close_path(c);
    set(c, fill);
    cairo_fill(c);
    svg_->polygon(points, fill);
}

void Canvas::rectangle(const Box& box, Colour fill, Colour line, double width, bool dashed) {
    svg_->rectangle(box, fill, line, width, dashed);
    cairo_t* c = page().context;
    cairo_rectangle(c, box.x, box.y, box.width, box.height);
    set(c, fill);
    if (width <= 0) {
        cairo_fill(c);
        return;
    }
    cairo_fill_preserve(c);
    stroke(c, line, width, dashed);
}

void Canvas::circle(double x, double y, double radius, Colour fill, Colour line, double width) {
    cairo_t* c = page().context;
    cairo_new_sub_path(c);
    cairo_arc(c, x, y, radius, 0, 6.283185307179586);
    set(c, fill);
    cairo_fill_preserve(c);
    stroke(c, line, width, false);
    svg_->circle(x, y, radius, fill, line, width);
}

void Canvas::text(double x, double y, const std::string& text, double size, Colour colour, Align align, bool bold) {
    if (align != Align::Left) x -= text_width(text, size, bold) * (align == Align::Centre ? 0.5 : 1.0);
    set_font(page().context, size, bold);
    write(x, y, text, size, colour, bold, false);
}

void Canvas::fitted(double x, double y, const std::string& words, double room, double size, Colour colour, bool bold) {
    const double width = text_width(words, size, bold);
    text(x, y, words, width > room ? size * room / width : size, colour, Align::Left, bold);
}

void Canvas::typed(double x, double y, const std::string& text, double size, Colour colour, bool bold) {
    cairo_t* c = page().context;
    set_font(c, size, bold, "DejaVu Sans Mono");
    cairo_font_options_t* exact = cairo_font_options_create();
    cairo_font_options_set_hint_metrics(exact, CAIRO_HINT_METRICS_OFF);
    cairo_set_font_options(c, exact);
    cairo_font_options_destroy(exact);
    write(x, y, text, size, colour, bold, true);
}

/// In the font that is set.
void Canvas::write(double x, double y, const std::string& text, double size, Colour colour, bool bold, bool typed) {
    cairo_t* c = page().context;
    cairo_text_extents_t extents;
    cairo_text_extents(c, text.c_str(), &extents);
    written_.push_back({text, {x + extents.x_bearing, y + extents.y_bearing, extents.width, extents.height}});
    set(c, colour);
    cairo_move_to(c, x, y);
    cairo_show_text(c, text.c_str());
    svg_->text(x, y, text, {size, extents.x_advance, bold, typed}, colour);
}

double Canvas::text_width(const std::string& text, double size, bool bold) const {
    set_font(page().context, size, bold);
    cairo_text_extents_t extents;
    cairo_text_extents(page().context, text.c_str(), &extents);
    return extents.x_advance;
}

std::string Canvas::render(const std::string& path) const {
    std::string out;
    cairo_surface_t* surface = nullptr;
    const auto paint_all = [&] {
        for (const auto& page : pages_) paint(page->surface, surface, page->top);
    };
    if (path.ends_with(".svg") || path == "-") return svg_->finish();  // "-" is standard output
    if (path.ends_with(".pdf")) {
        surface = cairo_pdf_surface_create_for_stream(append, &out, width_, height_);
        cairo_pdf_surface_set_metadata(surface, CAIRO_PDF_METADATA_CREATE_DATE,
                                       "2000-01-01T00:00:00");  // same run, same bytes
        for (const auto& page : pages_) {
            cairo_pdf_surface_set_size(surface, width_, page->bottom - page->top);
            paint(page->surface, surface, 0);
            show_page(surface);
        }
    } else if (path.ends_with(".png")) {
        surface = cairo_image_surface_create(CAIRO_FORMAT_RGB24, static_cast<int>(width_), static_cast<int>(height_));
        paint_all();
        cairo_surface_write_to_png_stream(surface, append, &out);
    }
    if (surface == nullptr) return out;
    cairo_surface_finish(surface);
    cairo_surface_destroy(surface);
    return out;
}

}  // namespace vyard::figures
