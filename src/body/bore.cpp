// Bores: round ones with what is cut into their wall or left standing in it, hexagons, squares and serrations.
#include "bore.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::body {

using curve::Arc;
using curve::Line;
using curve::Outline;
using curve::Role;
using curve::Segment;

std::string mm(double length) { return fmt::format("{:.6g} mm", length); }

void require(bool holds, const char* name, const std::string& given, const std::string& allowed,
             const std::string& remedy) {
  if (!holds) throw InvalidParameter(name, given, allowed, remedy);
}

Outline hole_of(std::vector<Segment> counter_clockwise) {
  Outline outline;
  outline.clockwise = true;
  for (auto it = counter_clockwise.rbegin(); it != counter_clockwise.rend(); ++it)
    outline.period.push_back(curve::reversed(*it));
  return outline;
}

/// A round bore with what is cut into its wall (keyways) or left standing in it (a flat), each between two angles.
Outline bore_outline(double radius, const Features& f) {
  struct Cut {
    double angle, half;         // in the middle of it, and to its sides [rad]
    std::vector<Vec2> corners;  // counter-clockwise, along +x
    const char* key;
  };
  std::vector<Cut> cuts;
  if (f.keyway) {
    const double w = f.keyway->width / 2, bottom = f.keyway->height - radius;
    require(w > 0 && w < radius, "keyway", "width " + mm(2 * w), "it is above 0 and below the bore's " + mm(2 * radius),
            "make it narrower");
    const double edge = std::sqrt(radius * radius - w * w);
    require(bottom > edge, "keyway", "height " + mm(f.keyway->height),
            fmt::format("measured from the opposite wall of the bore to the keyway's bottom it is above {}",
                        mm(radius + edge)),
            "give the height as drawings do, bore diameter plus depth");
    for (const double angle : f.keyway->angles)
      cuts.push_back({angle, std::asin(w / radius), {{edge, -w}, {bottom, -w}, {bottom, w}, {edge, w}}, "keyway"});
  }
  if (f.flat) {
    const bool twice = f.flat->twice;
    const double c = twice ? f.flat->height / 2 : f.flat->height - radius;
    require(std::abs(c) < radius && f.flat->height > 0, "flat",
            (twice ? "across_flats " : "height ") + mm(f.flat->height),
            fmt::format("measured from the opposite {} it is above 0 and below the bore's {}", twice ? "flat" : "wall",
                        mm(2 * radius)),
            twice ? "give the size from flat to flat" : "give the size across the D");
    const double s = std::sqrt(radius * radius - c * c);
    for (const double more : {0.0, kPi}) {
      if (more == 0 || twice) cuts.push_back({f.flat->angle + more, std::acos(c / radius), {{c, -s}, {c, s}}, "flat"});
    }
  }
  for (Cut& c : cuts)
    c.angle -= 2 * kPi * std::floor(c.angle / (2 * kPi));
  std::sort(cuts.begin(), cuts.end(), [](const Cut& a, const Cut& b) { return a.angle < b.angle; });
  std::vector<Segment> all;
  const Arc circle{Vec2::Zero(), radius};
  for (std::size_t i = 0; i < cuts.size(); ++i) {
    const Cut &cut = cuts[i], &next = cuts[(i + 1) % cuts.size()];
    for (std::size_t k = 0; k + 1 < cut.corners.size(); ++k) {
      all.push_back({Line{turned(cut.corners[k], cut.angle), turned(cut.corners[k + 1], cut.angle)}, 0, 1, Role::bore});
    }
    constexpr double kLeastArc = 1e-3;  // [rad] of the bore between two cuts
    const double from = cut.angle + cut.half, to = next.angle - next.half + (i + 1 == cuts.size() ? 2 * kPi : 0);
    require(
        to > from + kLeastArc, next.key, fmt::format("at {:.6g}°", next.angle * 180 / kPi),
        fmt::format("it runs into the {} at {:.6g}° by {}", cut.key, cut.angle * 180 / kPi, mm(radius * (from - to))),
        "turn one of them away or make it narrower");
    all.push_back({circle, from, to, Role::bore});
  }
  return cuts.empty() ? curve::circle(radius, Role::bore, true) : hole_of(std::move(all));
}

const char* feature_of(const Sided& sided) { return sided.sides == 4 ? "square" : "hex"; }

Outline sided_outline(const Sided& sided) {
  const char* key = feature_of(sided);
  require(sided.across_flats > 0, key, "across_flats " + mm(sided.across_flats), "it is above 0",
          fmt::format("give the size of the shaft's {} and its play", sided.sides == 4 ? "square" : "hexagon"));
  std::vector<Segment> sides;
  const double half = kPi / sided.sides, corner = sided.across_flats / 2 / std::cos(half);
  for (int i = 0; i < sided.sides; ++i) {
    const double at = sided.angle + (2 * i - 1) * half;
    sides.push_back({Line{from_polar(corner, at), from_polar(corner, at + 2 * half)}, 0, 1, Role::bore});
  }
  return hole_of(std::move(sides));
}

Outline serrated_outline(const Serration& s) {
  const double inner = s.inner_diameter / 2, outer = s.outer_diameter / 2, half = kPi / s.teeth;
  require(s.teeth >= 3, "serration", fmt::format("teeth {}", s.teeth), "three or more", "count those of the shaft");
  // Tips that would stand behind the straight line from bottom to bottom are none.
  require(inner > 0 && inner < outer && inner < outer * std::cos(half) + math::kAlike * outer, "serration",
          fmt::format("inner_diameter {}, outer_diameter {}", mm(2 * inner), mm(2 * outer)),
          fmt::format("with {} teeth the inner one is below {}", s.teeth, mm(2 * outer * std::cos(half))),
          "measure the shaft over its tips and over its bottoms");
  std::vector<Segment> sides;
  for (int i = 0; i < s.teeth; ++i) {
    const double at = s.angle + 2 * i * half;
    const Vec2 bottom = from_polar(outer, at), tip = from_polar(inner, at + half);
    sides.push_back({Line{bottom, tip}, 0, 1, Role::bore});
    sides.push_back({Line{tip, from_polar(outer, at + 2 * half)}, 0, 1, Role::bore});
  }
  return hole_of(std::move(sides));
}

std::optional<Outline> bore(double radius, const Features& f) {
  if (f.sided) return sided_outline(*f.sided);
  if (f.serration) return serrated_outline(*f.serration);
  if (f.shaped) return f.shaped->outline();
  if (radius > 0) return bore_outline(radius, f);
  return std::nullopt;
}

double reach(const Outline& outline) {
  double most = 0;
  for (const Segment& s : outline.period)
    most = std::max({most, s.first().norm(), s.last().norm()});
  return most;
}

}  // namespace palio::body
