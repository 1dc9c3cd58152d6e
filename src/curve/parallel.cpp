#include "palio/curve/parallel.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::curve {
namespace {

[[noreturn]] void refuse(double offset, const std::string& why) {
  throw InvalidParameter("surface_offset", fmt::format("{:.6g} mm", offset), why,
                         "give a smaller offset, or larger rounds and lands");
}

struct Offset {
  double amount;  // normal to the surface
  const Askew& askew;
  bool rack_generated;  // roots by the envelope in the normal section: circles about the axis then move by `amount`
                        // itself
  double in_section() const { return amount / askew.cos_base_helix; }

  Segment operator()(const Segment& s) const {
    Segment made = s;
    const double middle = (s.from + s.to) / 2;
    const Vec2 n = s.normal(middle);
    if (auto* c = std::get_if<Involute>(&made.curve)) {
      // The string's direction at the middle; the normal runs along it or against it.
      const double foot = c->start + c->sense * middle;
      const Vec2 string(c->sense * std::sin(foot), -c->sense * std::cos(foot));
      const double along = n.dot(string) > 0 ? 1 : -1, turn = in_section() / c->base_radius;
      c->start -= along * c->sense * turn;
      made.from += along * turn, made.to += along * turn;
      if (made.from < 0 || made.to < 0) refuse(amount, "the flank would begin inside its base circle");
    } else if (auto* t = std::get_if<Trochoid>(&made.curve)) {
      t->corner_radius -= amount;
      if (t->corner_radius < 0)
        refuse(amount, fmt::format("the tool's corner is round by {:.6g} mm only", t->corner_radius + amount));
    } else if (auto* k = std::get_if<CutterTrochoid>(&made.curve)) {
      k->corner_radius -= in_section();
      if (k->corner_radius < 0)
        refuse(amount, fmt::format("the cutter's corner is round by {:.6g} mm only", k->corner_radius + in_section()));
    } else if (auto* y = std::get_if<Cycloid>(&made.curve)) {
      const Vec2 left = y->sense * quarter_turn(y->direction(middle));
      y->distance += n.dot(left) > 0 ? in_section() : -in_section();
    } else if (auto* e = std::get_if<EllipticArc>(&made.curve)) {
      const double radius = e->v.norm(), grown = radius + (s.curvature(middle) > 0 ? amount : -amount);
      if (grown <= 0) refuse(amount, fmt::format("a round of {:.6g} mm vanishes", radius));
      e->u *= grown / radius, e->v *= grown / radius;
    } else if (auto* a = std::get_if<Arc>(&made.curve)) {
      const double way = rack_generated && a->centre == Vec2::Zero() ? amount : in_section();
      a->radius += s.curvature(middle) > 0 ? way : -way;
      if (a->radius <= 0 && s.role == Role::flank) refuse(amount, "a round flank vanishes");
    } else {
      auto& line = std::get<Line>(made.curve);
      // A sliding body's wall leans by the slope: its normal has a part along z.
      const double way = askew.slope != 0 ? amount * std::sqrt(1 + std::pow(askew.slope * n.x(), 2)) : in_section();
      line.from += way * n, line.to += way * n;
    }
    return made;
  }
};

/// A round whose parallel would be smaller than nothing: its neighbours meet.
bool swallowed(const Segment& s) {
  const auto* arc = std::get_if<Arc>(&s.curve);
  return arc && arc->radius <= 0;
}

/// How far a place lies from a cycloid, whose parallel it is to lie on, and at which parameter up to `end` it is
/// nearest.
std::pair<double, double> nearest_on(const Segment& s, double end, const Vec2& place) {
  const auto& c = std::get<Cycloid>(s.curve);
  const double on = c.outside ? 1 : -1;  // away from the cusp
  const auto ahead = [&](double u) { return on * c.direction(u).dot(place - c.jet(u).p); };
  std::pair best{(place - c.jet(0).p).norm(), 0.0};
  // Where rounding cannot tell, a foot goes before an end.
  const double hair = math::kRounding * place.norm();
  const auto take = [&](double u) {
    const double away = (place - c.jet(u).p).norm();
    if (away < best.first + hair) best = {away, u};
  };
  take(end);
  // Seen from its hollow side a curve has several feet; they lie the closer together the nearer to the cusp.
  constexpr int kSteps = 48;
  const auto step = [&](int i) { return end * i * i / (kSteps * kSteps); };
  for (int i = 0; i < kSteps; ++i) {
    const double here = ahead(step(i)), there = ahead(step(i + 1));
    if (here > 0 && there < 0) take(math::find_root(ahead, step(i), step(i + 1), here, there));
  }
  return best;
}

/// Two cycloids that met at their cusp. The curvature is infinite there, so the parallel of one that is hollow towards
/// the side moved to runs backwards for a while: it ends at the place that is as far from the other curve.
/// \param first, second  as they were  \param a, b  their parallels
void part_at_cusp(const Segment& first, const Segment& second, Segment& a, Segment& b, double offset) {
  const auto *p = std::get_if<Cycloid>(&a.curve), *q = std::get_if<Cycloid>(&b.curve);
  if (!p || !q || a.to != 0 || b.from != 0) return;
  const auto one = p->fold(), other = q->fold();
  if (!one && !other) return;
  // Of flanks that are all but radial less folds back than rounding can tell: as far beyond the fold they are back
  // there.
  const auto hardly = [](const Cycloid& c, std::optional<double> fold) {
    return !fold || (c.jet(0).p - c.jet(*fold).p).norm() < math::kAlike * c.pitch_radius;
  };
  if (hardly(*p, one) && hardly(*q, other)) {
    a.to = 2 * one.value_or(0), b.from = 2 * other.value_or(0);
    return;
  }
  const Segment& folded = one ? a : b;
  const Segment& whole = one ? second : first;
  const double from = one.value_or(other.value_or(0)), end = one ? a.from : b.to, far = one ? b.to : a.from;
  const auto beyond = [&](double u) { return nearest_on(whole, far, folded.point(u)).first - std::abs(offset); };
  if (!(from < end) || beyond(end) <= 0) refuse(offset, "nothing is left of a flank beside the pitch circle");
  // Where rounding cannot tell the two apart beside the fold, they meet there.
  const double u = beyond(from) < 0 ? math::find_root(beyond, from, end) : from;
  const double v = nearest_on(whole, far, folded.point(u)).second;
  a.to = one ? u : v, b.from = one ? v : u;
}

/// Whether a curve runs onwards there: a cycloid's parallel does beyond its fold.
bool forwards(const Segment& s, double t) {
  const auto* c = std::get_if<Cycloid>(&s.curve);
  const auto fold = c ? c->fold() : std::nullopt;
  return !c || t >= fold.value_or(0) * (1 - math::kAlike);
}

void require_forwards(const Outline& made, double offset) {
  for (const Segment& s : made.period) {
    if (!forwards(s, s.from) || !forwards(s, s.to)) refuse(offset, "a flank folds back");
  }
}

enum class Joint { meets, first_vanishes, second_vanishes };

/// Of the size: ends that lie so near each other are one, each worked out along a curve of its own.
constexpr double kMeet = 10 * math::kRounding;

/// Where two curves cross, by their tangents from the parameters given.
struct Crossing {
  double t, u;
  double left;  ///< how far the two places still are apart
};
Crossing crossing(const Segment& a, const Segment& b, double t, double u, double size) {
  for (int i = 0; i < 50; ++i) {
    const Jet p = a.jet(t), q = b.jet(u);
    const Vec2 gap = q.p - p.p;
    const double det = cross(p.d1, -q.d1);
    if (gap.norm() < 0.1 * math::kRounding * size) break;
    if (std::abs(det) < math::kAlike * p.d1.norm() * q.d1.norm()) break;  // they run alongside each other
    t += cross(gap, -q.d1) / det;
    u += cross(p.d1, gap) / det;
  }
  return {t, u, (a.point(t) - b.point(u)).norm()};
}

/// Where a cycloid crosses a line or circle, nearest to where they met: by signs along it, since beside its fold its
/// tangents lead astray. \param u, t  of the cycloid and the other, where they met
std::optional<Crossing> crossing_of_cycloid(const Segment& cycloid, double u, const Segment& other, double t) {
  const auto& c = std::get<Cycloid>(cycloid.curve);
  const auto* line = std::get_if<Line>(&other.curve);
  const auto* arc = std::get_if<Arc>(&other.curve);
  if (!line && !arc) return std::nullopt;
  const auto off = [&](double at) {
    const Vec2 p = cycloid.point(at);
    return line ? cross(Vec2(line->to - line->from).normalized(), Vec2(p - line->from))
                : (p - arc->centre).norm() - arc->radius;
  };
  constexpr int kSteps = 200;
  constexpr double kOn = 0.3;  // beyond its end [rad]
  const double low = c.fold().value_or(0), high = std::min(kPi, std::max(cycloid.from, cycloid.to) + kOn);
  std::optional<double> found;
  for (int i = 0; i < kSteps; ++i) {
    const double from = low + (high - low) * i / kSteps, to = low + (high - low) * (i + 1) / kSteps;
    if (off(from) * off(to) > 0) continue;
    const double at = math::find_root(off, from, to);
    if (!found || std::abs(at - u) < std::abs(*found - u)) found = at;
  }
  if (!found) return std::nullopt;
  const Vec2 p = cycloid.point(*found);
  double on = 0;
  if (line) {
    const Vec2 way = line->to - line->from;
    on = (p - line->from).dot(way) / way.squaredNorm();
  } else {
    on = t + std::remainder(std::atan2(p.y() - arc->centre.y(), p.x() - arc->centre.x()) - t, 2 * kPi);
  }
  return Crossing{on, *found, (other.point(on) - p).norm()};
}

/// Where the ends that meet cross, and whether they do, on what runs onwards.
std::pair<Crossing, bool> crossing(const Segment& a, const Segment& b, double size) {
  Crossing found = crossing(a, b, a.to, b.from, size);
  const auto good = [&] { return found.left < math::kAlike * size && forwards(a, found.t) && forwards(b, found.u); };
  if (good()) return {found, true};
  if (std::holds_alternative<Cycloid>(b.curve)) {
    if (const auto c = crossing_of_cycloid(b, b.from, a, a.to)) found = *c;
  } else if (std::holds_alternative<Cycloid>(a.curve)) {
    if (const auto c = crossing_of_cycloid(a, a.to, b, b.from)) found = {c->u, c->t, c->left};
  }
  return {found, good()};
}

/// Where the parallels of an edge cannot be drawn on until they meet (a cycloid ends at its fold), the round about the
/// edge lies between them.
void round_edges(Outline& apart, double size, double offset) {
  for (std::size_t i = 0; i + 1 < apart.period.size(); ++i) {
    const Segment &a = apart.period[i], &b = apart.period[i + 1];
    if ((a.last() - b.first()).norm() < kMeet * size) continue;
    const Vec2 n = a.normal(a.to), m = b.normal(b.from), edge = a.last() - offset * n;
    const bool outer = cross(n, m) * offset > 0, sharp = (b.first() - offset * m - edge).norm() < math::kAlike * size;
    if (!outer || !sharp || crossing(a, b, size).second) continue;
    const Vec2 out = offset > 0 ? n : Vec2(-n);
    const double from = std::atan2(out.y(), out.x()), turn = std::atan2(cross(n, m), n.dot(m));
    const Segment round{Arc{edge, std::abs(offset)}, from, from + turn, a.role == Role::flank ? b.role : a.role};
    apart.period.insert(apart.period.begin() + static_cast<std::ptrdiff_t>(i) + 1, round);
    ++i;
  }
}

/// Lets `a` end and `b` begin where the two curves cross, near where they did.
Joint join(Segment& a, Segment& b, double size, double offset) {
  if ((a.last() - b.first()).norm() < kMeet * size) return Joint::meets;
  const Crossing found = crossing(a, b, size).first;
  const double t = found.t, u = found.u;
  if (!(found.left < math::kAlike * size))
    refuse(offset, fmt::format("two neighbouring curves no longer meet ({:.3g} mm apart)", found.left));
  if ((t - a.from) * (a.to - a.from) <= 0) return Joint::first_vanishes;
  if ((b.to - u) * (b.to - b.from) <= 0) return Joint::second_vanishes;
  a.to = t, b.from = u;
  return Joint::meets;
}

/// Joins all neighbours of a period, over its seam too; the number of a segment that vanishes, if one does.
std::optional<std::size_t> join_all(Outline& made, double size, double offset) {
  const std::size_t n = made.period.size();
  const auto gone = [n](Joint joint, std::size_t first) -> std::optional<std::size_t> {
    if (joint == Joint::meets) return std::nullopt;
    return joint == Joint::first_vanishes ? first : (first + 1) % n;
  };
  for (std::size_t i = 0; i + 1 < n; ++i) {
    if (const auto lost = gone(join(made.period[i], made.period[i + 1], size, offset), i)) return lost;
  }
  if (made.count == 1 && made.shift == Vec2::Zero())
    return n == 1 ? std::nullopt : gone(join(made.period[n - 1], made.period[0], size, offset), n - 1);
  // Over the seam the next period is a copy of the first.
  Segment last = made.period[n - 1],
          next = made.shift == Vec2::Zero() ? turned(made.period[0], made.turn(1)) : moved(made.period[0], made.shift);
  const double to = last.to, from = next.from;
  if (const auto lost = gone(join(last, next, size, offset), n - 1)) return lost;
  made.period[n - 1].to += last.to - to;
  made.period[0].from += next.from - from;
  return std::nullopt;
}

}  // namespace

Outline parallel(const Outline& outline, double offset, const Askew& askew) {
  if (offset == 0) return outline;
  const bool generated = std::any_of(outline.period.begin(), outline.period.end(),
                                     [](const Segment& s) { return std::holds_alternative<Trochoid>(s.curve); });
  const Offset apply{offset, askew, generated};
  Outline apart = outline;
  double size = 0;
  for (Segment& s : apart.period) {
    s = apply(s);
    size = std::max({size, s.first().norm(), s.last().norm()});
  }
  for (std::size_t i = 0; i + 1 < apart.period.size(); ++i)
    part_at_cusp(outline.period[i], outline.period[i + 1], apart.period[i], apart.period[i + 1], apply.in_section());
  apart.period.erase(std::remove_if(apart.period.begin(), apart.period.end(), swallowed), apart.period.end());
  round_edges(apart, size, apply.in_section());
  // A short land that vanishes lets its neighbours meet; a flank must stay.
  while (true) {
    Outline made = apart;
    const auto lost = join_all(made, size, offset);
    if (!lost) {
      require_forwards(made, offset);
      return made;
    }
    if (apart.period[*lost].role == Role::flank || apart.period.size() < 4) refuse(offset, "a flank vanishes");
    apart.period.erase(apart.period.begin() + static_cast<std::ptrdiff_t>(*lost));
  }
}

}  // namespace palio::curve
