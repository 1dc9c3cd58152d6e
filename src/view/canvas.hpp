// A Cairo surface of any kind with the few strokes that palio's pictures need. Private to the views.
#pragma once

#include <cairo.h>

#include <cstdint>
#include <string>
#include <vector>

#include "palio/curve/profile.hpp"
#include "palio/view/draw.hpp"

namespace palio::view {

struct Color {
  double r, g, b, a = 1;
};
inline constexpr Color kPaper{0.984, 0.980, 0.965}, kInk{0.227, 0.227, 0.251}, kGrey{0.545, 0.537, 0.498},
    kBlack{0.114, 0.114, 0.133};
inline constexpr Color kDriver{0.690, 0.478, 0.118}, kDriven{0.361, 0.349, 0.533};
inline constexpr Color kDriverFill{0.925, 0.851, 0.706, 0.85}, kDrivenFill{0.835, 0.831, 0.902, 0.85};

class Canvas {
 public:
  Canvas(const std::string& format, PictureSize size, const std::string& title);
  ~Canvas();
  Canvas(const Canvas&) = delete;
  Canvas& operator=(const Canvas&) = delete;

  /// World coordinates from here on: `centre` in the middle of the picture, `scale` pixels a millimetre, y up.
  void look_at(const Vec2& centre, double scale, const Vec2& middle);
  Vec2 to_page(const Vec2& world) const;
  double scale() const noexcept { return scale_; }
  int width() const noexcept { return size_.width; }
  int height() const noexcept { return size_.height; }

  void outline(const curve::Outline& outline, const Vec2& at, double turn, const Color& fill, const Color& line,
               double width);
  void circle(const Vec2& at, double radius, const Color& line, double width, const std::vector<double>& dash);
  void line(const Vec2& from, const Vec2& to, const Color& color, double width, const std::vector<double>& dash = {});
  void polyline(const std::vector<Vec2>& points, const Color& color, double width,
                const std::vector<double>& dash = {});
  void dot(const Vec2& at, double pixels, const Color& color, bool filled);

  /// Text in page coordinates on a paper-coloured ground; `align` −1 left of the point, 0 centred, 1 right of it.
  void text(const Vec2& page, const std::string& words, const Color& color, int align, double size = 13,
            bool bold = false);
  void page_box(const Vec2& from, const Vec2& size, const Color& fill);
  void page_line(const Vec2& from, const Vec2& to, const Color& color, double width);

  /// A closed polygon in world coordinates.
  void polygon(const std::vector<Vec2>& points, const Color& fill, const Color& line, double width);
  /// A closed polygon in world coordinates, filled with slanting lines `apart` world lengths from each other.
  void hatched(const std::vector<Vec2>& points, const Color& line, double apart, double width);
  /// A disc (or, with `outer`, a ring around it) from which polygons were taken, the traces of their edges left on it.
  void cut_blank(double radius, double outer, const std::vector<std::vector<Vec2>>& cuts, const Color& fill,
                 const Color& trace);

  /// Of a PDF: what is drawn from here on stands on a page of its own.
  void next_page();
  /// The finished file.
  std::string finish();
  /// Puts pixels (as of `pixels`) on the whole canvas.
  void put_pixels(const std::vector<std::uint8_t>& pixels);
  /// Of the format "frame": 32-bit pixels (blue, green, red, unused), row by row.
  std::vector<std::uint8_t> pixels();

 private:
  void lay_paper();
  void path(const curve::Outline& outline, const Vec2& at, double turn);
  void path(const std::vector<Vec2>& points);
  void stroke(const Color& color, double width, const std::vector<double>& dash);

  std::string format_, bytes_;
  PictureSize size_;
  cairo_surface_t* surface_ = nullptr;
  cairo_t* cr_ = nullptr;
  Vec2 centre_ = Vec2::Zero(), middle_ = Vec2::Zero();
  double scale_ = 1;
};

}  // namespace palio::view
