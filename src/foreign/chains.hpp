// Pieces of a drawing on their way to closed loops. Private to the readers.
#pragma once

#include <cmath>
#include <string>
#include <vector>

#include "palio/error.hpp"
#include "palio/foreign/drawing.hpp"

namespace palio::foreign {

class Chains {
 public:
  explicit Chains(double chord_error) : chord_error_(chord_error) {}

  /// Begins a chain; what follows continues it from where it is.
  void move_to(const Vec2& p);
  void line_to(const Vec2& p);
  /// \param bulge  tan of a quarter of the arc's angle, positive counter-clockwise
  void bulge_to(const Vec2& p, double bulge);
  void close();

  /// A curve from `from` to `to`, cut into chords; it begins where the chain is.
  /// \param spans  pieces to begin with: no more than half a turn or one inflection in each
  template <class Curve>
  void curve_to(Curve curve, double from, double to, int spans, Stroke stroke) {
    for (int i = 0; i < spans; ++i) {
      const double a = from + (to - from) * i / spans, b = from + (to - from) * (i + 1) / spans;
      follow(curve, a, curve(a), b, curve(b), 0);
    }
    count(stroke);
  }

  /// Joins what meets. The chains are used up.
  Drawing finish();

 private:
  struct Chain {
    std::vector<Vec2> points;
    std::array<std::size_t, 3> strokes{};
  };
  static constexpr std::size_t kMostPoints = 3000000;
  static constexpr int kDeepest = 24;

  void put(const Vec2& p);
  void count(Stroke stroke) { ++chains_.back().strokes[static_cast<std::size_t>(stroke)]; }

  template <class Curve>
  void follow(Curve& curve, double a, const Vec2& pa, double b, const Vec2& pb, int depth) {
    // The curve leaves the chord most near the middle, or at the quarters where it turns the other way.
    double off = 0;
    const Vec2 way = pb - pa;
    const double length = way.norm();
    for (const double share : {0.25, 0.5, 0.75}) {
      const Vec2 p = curve(a + share * (b - a)) - pa;
      off = std::max(off, length > 0 ? std::abs(way.x() * p.y() - way.y() * p.x()) / length : p.norm());
      if (length > 0 && p.dot(way) < 0) off = std::max(off, p.norm());
    }
    if (off <= chord_error_ || depth == kDeepest) {
      put(pb);
      return;
    }
    const double middle = 0.5 * (a + b);
    const Vec2 pm = curve(middle);
    follow(curve, a, pa, middle, pm, depth + 1);
    follow(curve, middle, pm, b, pb, depth + 1);
  }

  double chord_error_;
  std::size_t points_ = 0;
  std::vector<Chain> chains_;
};

}  // namespace palio::foreign
