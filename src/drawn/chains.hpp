// Pieces of a drawing on their way to closed loops. Private to the readers.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <string>
#include <vector>

#include "palio/curve/biarc.hpp"
#include "palio/drawn/drawing.hpp"
#include "palio/error.hpp"

namespace palio::drawn {

/// A place on a curve, and the way it goes on from there, of any length.
struct Along {
  Vec2 p, way;
};

class Chains {
 public:
  explicit Chains(double chord_error) : chord_error_(chord_error) {}

  /// Begins a chain; what follows continues it from where it is.
  void move_to(const Vec2& p);
  void line_to(const Vec2& p);
  /// \param bulge  tan of a quarter of the arc's angle, positive counter-clockwise
  void bulge_to(const Vec2& p, double bulge);
  /// About a centre, from where the chain is. \param sweep  [rad], positive counter-clockwise
  void arc_to(const Vec2& centre, double sweep);
  void close();

  /// A curve from `from` to `to`, cut into chords, and into arcs; it begins where the chain is.
  /// \param curve  an `Along` of the parameter
  /// \param spans  pieces to begin with: no more than half a turn or one inflection in each
  template <class Curve>
  void curve_to(Curve curve, double from, double to, int spans, Stroke stroke) {
    for (int i = 0; i < spans; ++i) {
      const double a = from + (to - from) * i / spans, b = from + (to - from) * (i + 1) / spans;
      follow(curve, a, curve(a).p, b, curve(b).p, 0);
      round(curve, a, b, 0);
    }
    count(stroke);
  }

  /// Joins what meets. The chains are used up.
  Drawing finish();

 private:
  struct Chain {
    std::vector<Vec2> points;
    std::vector<Corner> corners;
    std::array<std::size_t, 3> strokes{};
  };
  static constexpr std::size_t kMostPoints = 3000000;
  static constexpr int kDeepest = 24, kDeepestArc = 12;

  /// What is left of a chain, and a piece that goes on from its end.
  static void join(Chain& whole, Chain piece, bool backwards);
  void put(const Vec2& p);
  void piece_to(const Vec2& p, double bulge);
  void corner(const Vec2& p, double bulge) {
    chains_.back().corners.back().bulge = bulge;
    chains_.back().corners.push_back({p});
  }
  void count(Stroke stroke) { ++chains_.back().strokes[static_cast<std::size_t>(stroke)]; }

  template <class Curve>
  void follow(Curve& curve, double a, const Vec2& pa, double b, const Vec2& pb, int depth) {
    // The curve leaves the chord most near the middle, or at the quarters where it turns the other way.
    double off = 0;
    const Vec2 way = pb - pa;
    const double length = way.norm();
    for (const double share : {0.25, 0.5, 0.75}) {
      const Vec2 p = curve(a + share * (b - a)).p - pa;
      off = std::max(off, length > 0 ? std::abs(way.x() * p.y() - way.y() * p.x()) / length : p.norm());
      if (length > 0 && p.dot(way) < 0) off = std::max(off, p.norm());
    }
    if (off <= chord_error_ || depth == kDeepest) {
      put(pb);
      return;
    }
    const double middle = 0.5 * (a + b);
    const Vec2 pm = curve(middle).p;
    follow(curve, a, pa, middle, pm, depth + 1);
    follow(curve, middle, pm, b, pb, depth + 1);
  }

  /// Two arcs with the curve's own directions at their ends, halved until they keep to it.
  template <class Curve>
  void round(Curve& curve, double a, double b, int depth) {
    const Vec2 p = curve(a).p, q = curve(b).p;
    const Vec2 t = direction(curve, a, b), u = direction(curve, b, a) * -1.0;
    const curve::Biarc arcs = curve::biarc(p, t, q, u);
    bool near = arcs.joint.allFinite();
    for (const double share : {0.125, 0.25, 0.375, 0.5, 0.625, 0.75, 0.875})
      near = near && arcs.off(p, q, curve(a + share * (b - a)).p) <= kOffSpline;
    if (near) {
      corner(arcs.joint, arcs.bulge_in), corner(q, arcs.bulge_out);
      return;
    }
    if (depth == kDeepestArc) return corner(q, 0);
    const double middle = 0.5 * (a + b);
    round(curve, a, middle, depth + 1);
    round(curve, middle, b, depth + 1);
  }

  /// Of the curve at `t`, towards `other`: where its handles coincide, of a little way.
  template <class Curve>
  static Vec2 direction(Curve& curve, double t, double other) {
    const Along here = curve(t);
    const Vec2 ahead = other > t ? here.way : Vec2(-here.way), secant = curve(other).p - here.p;
    if (ahead.norm() > 1e-9 * secant.norm()) return ahead.normalized();
    const Vec2 little = curve(t + 1e-4 * (other - t)).p - here.p;
    return (little.norm() > 0 ? little : secant.norm() > 0 ? secant : Vec2(1, 0)).normalized();
  }

  double chord_error_;
  std::size_t points_ = 0;
  std::vector<Chain> chains_;
};

}  // namespace palio::drawn
