#include "canvas.hpp"

#include <cairo-pdf.h>
#include <cairo-svg.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/error.hpp"
#include "palio/version.hpp"
#include "palio/write/file.hpp"

namespace palio::view {
namespace {

cairo_status_t append(void* closure, const unsigned char* data, unsigned int length) {
  static_cast<std::string*>(closure)->append(reinterpret_cast<const char*>(data), length);
  return CAIRO_STATUS_SUCCESS;
}

}  // namespace

Canvas::Canvas(const std::string& format, PictureSize size, const std::string& title) : format_(format), size_(size) {
  if (format == "png" || format == "frame") {
    surface_ = cairo_image_surface_create(CAIRO_FORMAT_RGB24, size.width, size.height);
  } else if (format == "svg") {
    surface_ = cairo_svg_surface_create_for_stream(append, &bytes_, size.width, size.height);
    cairo_svg_surface_set_document_unit(surface_, CAIRO_SVG_UNIT_PX);
  } else if (format == "pdf") {
    surface_ = cairo_pdf_surface_create_for_stream(append, &bytes_, size.width, size.height);
    cairo_pdf_surface_set_metadata(surface_, CAIRO_PDF_METADATA_TITLE, title.c_str());
    cairo_pdf_surface_set_metadata(surface_, CAIRO_PDF_METADATA_CREATE_DATE, (write::time_stamp() + "Z").c_str());
    cairo_pdf_surface_set_metadata(surface_, CAIRO_PDF_METADATA_CREATOR, (std::string("palio ") + kVersion).c_str());
  } else {
    throw InvalidParameter("format", format, "pictures are png, svg or pdf", "choose one of these");
  }
  cr_ = cairo_create(surface_);
  lay_paper();
  cairo_set_line_join(cr_, CAIRO_LINE_JOIN_ROUND);
  cairo_select_font_face(cr_, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_NORMAL);
}

void Canvas::lay_paper() {
  cairo_set_source_rgb(cr_, kPaper.r, kPaper.g, kPaper.b);
  cairo_paint(cr_);
}

void Canvas::next_page() {
  cairo_show_page(cr_);
  lay_paper();
}

Canvas::~Canvas() {
  cairo_destroy(cr_);
  cairo_surface_destroy(surface_);
}

void Canvas::look_at(const Vec2& centre, double scale, const Vec2& middle) {
  centre_ = centre;
  scale_ = scale;
  middle_ = middle;
}

Vec2 Canvas::to_page(const Vec2& world) const {
  const Vec2 off = world - centre_;
  return {middle_.x() + off.x() * scale_, middle_.y() - off.y() * scale_};
}

void Canvas::stroke(const Color& color, double width, const std::vector<double>& dash) {
  cairo_set_dash(cr_, dash.data(), static_cast<int>(dash.size()), 0);
  cairo_set_source_rgba(cr_, color.r, color.g, color.b, color.a);
  cairo_set_line_width(cr_, width);
  cairo_stroke(cr_);
}

void Canvas::path(const curve::Outline& outline, const Vec2& at, double turn) {
  const double chord_error = 0.03 / scale_;  // a thirtieth of a pixel
  cairo_new_sub_path(cr_);
  std::vector<Vec2> period;
  for (const curve::Segment& s : outline.period) {
    const curve::Chords chords = curve::flatten(s, chord_error);
    for (std::size_t i = 0; i + 1 < chords.at.size(); ++i)
      period.push_back(s.point(chords.at[i]));
  }
  for (int copy = 0; copy < outline.count; ++copy) {
    for (const Vec2& p : period) {
      const Vec2 q = to_page(at + turned(p, turn + outline.turn(copy)));
      cairo_line_to(cr_, q.x(), q.y());
    }
  }
  cairo_close_path(cr_);
}

void Canvas::outline(const curve::Outline& outline, const Vec2& at, double turn, const Color& fill, const Color& line,
                     double width) {
  cairo_new_path(cr_);
  path(outline, at, turn);
  cairo_set_source_rgba(cr_, fill.r, fill.g, fill.b, fill.a);
  cairo_fill_preserve(cr_);
  stroke(line, width, {});
}

void Canvas::circle(const Vec2& at, double radius, const Color& color, double width, const std::vector<double>& dash) {
  const Vec2 p = to_page(at);
  cairo_new_path(cr_);
  cairo_arc(cr_, p.x(), p.y(), radius * scale_, 0, 2 * kPi);
  stroke(color, width, dash);
}

void Canvas::line(const Vec2& from, const Vec2& to, const Color& color, double width, const std::vector<double>& dash) {
  const Vec2 a = to_page(from), b = to_page(to);
  cairo_new_path(cr_);
  cairo_move_to(cr_, a.x(), a.y());
  cairo_line_to(cr_, b.x(), b.y());
  stroke(color, width, dash);
}

void Canvas::polyline(const std::vector<Vec2>& points, const Color& color, double width,
                      const std::vector<double>& dash) {
  cairo_new_path(cr_);
  for (const Vec2& p : points) {
    const Vec2 at = to_page(p);
    cairo_line_to(cr_, at.x(), at.y());
  }
  stroke(color, width, dash);
}

void Canvas::page_box(const Vec2& from, const Vec2& size, const Color& fill) {
  cairo_new_path(cr_);
  cairo_rectangle(cr_, from.x(), from.y(), size.x(), size.y());
  cairo_set_source_rgba(cr_, fill.r, fill.g, fill.b, fill.a);
  cairo_fill(cr_);
}

void Canvas::page_line(const Vec2& from, const Vec2& to, const Color& color, double width) {
  cairo_new_path(cr_);
  cairo_move_to(cr_, from.x(), from.y());
  cairo_line_to(cr_, to.x(), to.y());
  stroke(color, width, {});
}

void Canvas::dot(const Vec2& at, double pixels, const Color& color, bool filled) {
  const Vec2 p = to_page(at);
  cairo_new_path(cr_);
  cairo_arc(cr_, p.x(), p.y(), pixels, 0, 2 * kPi);
  const Color& fill = filled ? color : kPaper;
  cairo_set_source_rgb(cr_, fill.r, fill.g, fill.b);
  cairo_fill_preserve(cr_);
  stroke(color, 1.5, {});
}

void Canvas::text(const Vec2& page, const std::string& words, const Color& color, int align, double size, bool bold) {
  cairo_select_font_face(cr_, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL,
                         bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
  cairo_set_font_size(cr_, size);
  cairo_text_extents_t box;
  cairo_text_extents(cr_, words.c_str(), &box);
  const double x = page.x() - (align < 0 ? box.x_advance : align == 0 ? box.x_advance / 2 : 0);
  const double y = page.y() + 0.35 * size;
  cairo_rectangle(cr_, x - 3, y - 0.95 * size, box.x_advance + 6, 1.3 * size);
  cairo_set_source_rgba(cr_, kPaper.r, kPaper.g, kPaper.b, 0.85);
  cairo_fill(cr_);
  cairo_set_source_rgb(cr_, color.r, color.g, color.b);
  cairo_move_to(cr_, x, y);
  cairo_show_text(cr_, words.c_str());
}

void Canvas::path(const std::vector<Vec2>& points) {
  cairo_new_sub_path(cr_);
  for (const Vec2& p : points) {
    const Vec2 q = to_page(p);
    cairo_line_to(cr_, q.x(), q.y());
  }
  cairo_close_path(cr_);
}

void Canvas::polygon(const std::vector<Vec2>& points, const Color& fill, const Color& line, double width) {
  cairo_new_path(cr_);
  path(points);
  cairo_set_source_rgba(cr_, fill.r, fill.g, fill.b, fill.a);
  cairo_fill_preserve(cr_);
  stroke(line, width, {});
}

void Canvas::hatched(const std::vector<Vec2>& points, const Color& color, double apart, double width) {
  if (color.a == 0) return;
  Vec2 low = points[0], high = points[0];
  for (const Vec2& p : points)
    low = low.cwiseMin(p), high = high.cwiseMax(p);
  cairo_save(cr_);
  cairo_new_path(cr_);
  path(points);
  cairo_clip(cr_);
  // Lines at 45°, in step over the whole page so that neighbouring polygons continue each other.
  const double step = apart * std::sqrt(2.0), first = std::floor((low.x() - high.y()) / step) * step;
  cairo_new_path(cr_);
  for (double c = first; c < high.x() - low.y() + step; c += step) {
    const Vec2 a = to_page({low.y() + c, low.y()}), b = to_page({high.y() + c, high.y()});
    cairo_move_to(cr_, a.x(), a.y());
    cairo_line_to(cr_, b.x(), b.y());
  }
  stroke(color, width, {});
  cairo_restore(cr_);
}

void Canvas::cut_blank(double radius, double outer, const std::vector<std::vector<Vec2>>& cuts, const Color& fill,
                       const Color& trace) {
  const Vec2 at = to_page(Vec2::Zero());
  cairo_push_group(cr_);
  cairo_new_path(cr_);
  cairo_arc(cr_, at.x(), at.y(), (outer > 0 ? outer : radius) * scale_, 0, 2 * kPi);
  if (outer > 0) {
    cairo_new_sub_path(cr_);
    cairo_arc(cr_, at.x(), at.y(), radius * scale_, 0, 2 * kPi);
  }
  cairo_set_fill_rule(cr_, CAIRO_FILL_RULE_EVEN_ODD);
  cairo_set_source_rgba(cr_, fill.r, fill.g, fill.b, 1);
  cairo_fill(cr_);
  cairo_set_fill_rule(cr_, CAIRO_FILL_RULE_WINDING);
  cairo_set_operator(cr_, CAIRO_OPERATOR_CLEAR);
  for (const auto& cut : cuts) {
    cairo_new_path(cr_);
    path(cut);
    cairo_fill(cr_);
  }
  cairo_set_operator(cr_, CAIRO_OPERATOR_ATOP);
  for (const auto& cut : cuts) {
    cairo_new_path(cr_);
    path(cut);
    stroke({trace.r, trace.g, trace.b, 0.5}, 0.6, {});
  }
  cairo_set_operator(cr_, CAIRO_OPERATOR_OVER);
  cairo_pop_group_to_source(cr_);
  cairo_paint(cr_);
}

void Canvas::put_pixels(const std::vector<std::uint8_t>& pixels) {
  cairo_surface_flush(surface_);
  const std::ptrdiff_t stride = cairo_image_surface_get_stride(surface_), row = std::ptrdiff_t{4} * size_.width;
  unsigned char* data = cairo_image_surface_get_data(surface_);
  for (int y = 0; y < size_.height; ++y)
    std::copy(pixels.begin() + static_cast<std::ptrdiff_t>(y) * row,
              pixels.begin() + static_cast<std::ptrdiff_t>(y + 1) * row, data + y * stride);
  cairo_surface_mark_dirty(surface_);
}

std::vector<std::uint8_t> Canvas::pixels() {
  cairo_surface_flush(surface_);
  const std::ptrdiff_t stride = cairo_image_surface_get_stride(surface_), row = std::ptrdiff_t{4} * size_.width;
  const unsigned char* data = cairo_image_surface_get_data(surface_);
  std::vector<std::uint8_t> all(static_cast<std::size_t>(row) * size_.height);
  for (int y = 0; y < size_.height; ++y)
    std::copy(data + y * stride, data + y * stride + row, all.begin() + static_cast<std::ptrdiff_t>(y) * row);
  return all;
}

std::string Canvas::finish() {
  cairo_surface_flush(surface_);
  if (format_ == "png") {
    cairo_surface_write_to_png_stream(surface_, append, &bytes_);
  } else {
    cairo_show_page(cr_);
    cairo_surface_finish(surface_);
  }
  if (const cairo_status_t status = cairo_surface_status(surface_);
      status != CAIRO_STATUS_SUCCESS && status != CAIRO_STATUS_SURFACE_FINISHED) {
    throw FileError(fmt::format("drawing failed: {}", cairo_status_to_string(status)));
  }
  return std::move(bytes_);
}

}  // namespace palio::view
