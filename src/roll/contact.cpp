#include "contact.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/math/roots.hpp"

namespace palio::roll {
namespace {

// Chords a segment; their sag is measured, not assumed.
int samples_of(const curve::Segment& segment) { return std::holds_alternative<curve::Arc>(segment.curve) ? 4 : 8; }

bool is_level(const Row& label) {
  const auto [lo, hi] = std::minmax_element(label.begin(), label.end());
  return *hi - *lo <= 1e-9 * std::max(std::abs(*hi), 1.0);
}

/// Value at `x` of the polyline through (xs, ys) on interval k.
double between(const Row& xs, const Row& ys, std::size_t k, double x) {
  const double width = xs[k + 1] - xs[k];
  return width == 0 ? ys[k] : ys[k] + (ys[k + 1] - ys[k]) * (x - xs[k]) / width;
}

bool spans(double a, double b, double x) { return (a <= x && x <= b) || (b <= x && x <= a); }

/// The interval of a monotone table that holds x.
std::size_t interval(const Row& table, double x) {
  std::size_t i = 0;
  while (i + 2 < table.size() && !spans(table[i], table[i + 1], x))
    ++i;
  return i;
}

/// The parameter in [lo, hi] where a curve reaches a label: Newton from `guess`, kept inside a shrinking bracket, until
/// a step is below `enough` of the parameter. \param low, high  labels at the ends
template <class Chart>
double at_label(Chart chart, double label, double lo, double hi, double low, double high,
                std::optional<double> guess = {}, double enough = 1e-15) {
  const double low_value = low - label;
  if (low_value == 0) return lo;
  if (high == label) return hi;
  const auto inside = [&](double at) { return at > std::min(lo, hi) && at < std::max(lo, hi); };
  double x = guess && inside(*guess) ? *guess : 0.5 * (lo + hi);
  for (int i = 0; i < 100; ++i) {
    const ChartJet j = chart(x);
    const double value = j.label - label;
    if (value == 0) return x;
    ((value > 0) == (low_value > 0) ? lo : hi) = x;
    double next = x - value / j.label1;
    if (!inside(next)) next = 0.5 * (lo + hi);
    if (std::abs(next - x) <= enough * std::max(1.0, std::abs(x))) return next;
    x = next;
  }
  return x;
}

template <class Chart>
double at_label(Chart chart, double label, double lo, double hi) {
  return at_label(chart, label, lo, hi, chart(lo).label, chart(hi).label);
}

/// The motion of a member in its own frame: coordinate 0, axis or slide through its own origin.
const Motion& own_motion(const Member& member) {
  static const Motion kTurn = Motion::rotation(Vec2::Zero()), kSlide = Motion::translation(Vec2::Zero(), 0);
  return member.motion.turns() ? kTurn : kSlide;
}

}  // namespace

Sampling sample(const Member& member) {
  Sampling all;
  // Only the driven member's own chart is used; for it, coordinate 0 and places near the period itself.
  const Motion& own = own_motion(member);
  all.pitch = member.motion.turns() ? member.outline.pitch() : member.outline.shift.norm();
  all.islands = member.outline.count > 1 &&
                (member.outline.period.front().first() - member.outline.period.back().last()).norm() < 1e-9 * all.pitch;
  all.least_label = std::numeric_limits<double>::infinity();
  all.greatest_label = -all.least_label;
  const auto& period = member.outline.period;
  for (const curve::Segment& segment : period) {
    Sampled s;
    s.segment = &segment;
    s.sag = 0;
    const int samples = samples_of(segment);
    for (int i = 0; i <= samples; ++i) {
      const double t = i == samples ? segment.to : segment.from + (segment.to - segment.from) * i / samples;
      s.at.push_back(t);
      s.own.push_back(segment.jet(t));
      const ChartJet c = own.chart(s.own.back(), 0);
      s.label.push_back(c.label);
      s.place.push_back(c.place);
      if (i > 0) s.sag = std::max(s.sag, curve::chord_deviation(segment, s.at[i - 1], t));
    }
    s.level = is_level(s.label);
    s.cusp = s.own.front().d1.squaredNorm() == 0 || s.own.back().d1.squaredNorm() == 0;
    s.middle = 0.5 * (s.own.front().p + s.own.back().p);
    s.radius = 0;
    for (const curve::Jet& j : s.own)
      s.radius = std::max(s.radius, (j.p - s.middle).norm());
    s.radius += s.sag;
    all.least_label = std::min(all.least_label, *std::min_element(s.label.begin(), s.label.end()));
    all.greatest_label = std::max(all.greatest_label, *std::max_element(s.label.begin(), s.label.end()));
    all.segments.push_back(std::move(s));
  }
  // A knee lies within a flank that goes on beyond it the same way, outwards or inwards; where it turns back is the
  // tooth's point.
  for (std::size_t i = 0; i + 1 < all.segments.size(); ++i) {
    Sampled &a = all.segments[i], &b = all.segments[i + 1];
    const curve::Segment &s = *a.segment, &t = *b.segment;
    if (s.role != curve::Role::flank || t.role != curve::Role::flank ||
        (s.last() - t.first()).norm() >= 1e-9 * (1 + s.last().norm()))
      continue;
    const bool goes_on = (a.label.back() - a.label.front()) * (b.label.back() - b.label.front()) > 0;
    a.knee_after = b.knee_before = goes_on && s.tangent(s.to).dot(t.tangent(t.from)) > 0;
  }
  for (std::size_t i = 0; i < all.segments.size(); ++i) {
    const auto& label = all.segments[i].label;
    const auto [low, high] = std::minmax_element(label.begin(), label.end());
    const double off =
        member.outline.clockwise ? *low - all.least_label : all.greatest_label - *high;  // a ring's crest is inside
    if (off <= 1e-9 * std::max(1.0, std::abs(all.greatest_label))) all.crest.push_back(i);
  }
  return all;
}

struct ContactFinder::Placed {
  std::size_t segment;
  int tooth;
  double sag;  // in the driven's own frame
  Row label, place;
  double least, greatest;  // label
};

struct ContactFinder::Candidate {
  const Sampled* driver;
  const Sampled* driven;
  const Row *driver_label, *driver_place;  // at the driver's samples, as placed
  int driver_tooth, driven_tooth;
  double gap;    // driven coordinate of the coarse contact
  double slack;  // how far the exact one may be from it
  double s, t;   // guesses
};

ContactFinder::ContactFinder(const Member& driver, const Member& driven, const Law& law)
    : driver_(driver),
      driven_(driven),
      law_(law),
      driver_samples_(sample(driver)),
      driven_samples_(sample(driven)),
      facing_(driven.motion.place(
          driver.outline.clockwise ? Vec2(2 * driven.motion.origin() - driver.motion.origin()) : driver.motion.origin(),
          0)) {
  // The mesh lies between the axes; inside a ring beyond the pinion's. A ring's period 0 is the tooth half a pitch
  // back.
  const Vec2 towards = driven.outline.clockwise ? Vec2(driver.motion.origin() - driven.motion.origin())
                                                : Vec2(driven.motion.origin() - driver.motion.origin());
  faces_ =
      driver.motion.turns() ? std::atan2(towards.y(), towards.x()) : driver.motion.place(driven.motion.origin(), 0);
  if (driver.outline.clockwise) faces_ += 0.5 * driver_samples_.pitch;
}

// Which driven period stands in the way of a driver period: a driver's tooth that faces the driven stands between two
// of its teeth, half a pitch to either side; and as the driver goes on by a pitch, so does the driven. Comparing places
// modulo a pitch would not do: away from the line of centres the clear way to the next tooth may be most of a pitch.
int ContactFinder::partner(Side side, int driver_tooth, double coordinate) const {
  const double p1 = driver_samples_.pitch, p2 = driven_samples_.pitch;
  const double beside = facing_ + (side == Side::upper ? -0.5 : 0.5) * p2 + (driven_.outline.clockwise ? 0.5 * p2 : 0);
  const double at_facing = std::round((beside - nominal(faces_)) / p2);
  const int turns =
      static_cast<int>(std::lround((coordinate + driver_tooth * p1 - tooth_place(driver_tooth, coordinate)) / p1));
  return static_cast<int>(at_facing) + (driver_tooth - turns) * (law_.ratio < 0 ? -1 : 1);
}

double ContactFinder::tooth_place(int tooth, double coordinate) const {
  const double place = coordinate + tooth * driver_samples_.pitch;
  return driver_.motion.turns() ? place - 2 * kPi * std::round((place - faces_) / (2 * kPi)) : place;
}

double ContactFinder::nominal(double driver_coordinate) const {
  return driven_.start + law_.ratio * (driver_coordinate - driver_.start);
}

namespace {

/// Derivatives by arc length in place of those by the parameter.
ChartJet by_length(const ChartJet& c, const curve::Jet& j, double* speed) {
  const double v2 = j.d1.squaredNorm(), v = std::sqrt(v2), turn = j.d1.dot(j.d2) / v2;
  *speed = v;
  return {c.label,
          c.place,
          c.label1 / v,
          c.place1 / v,
          (c.label2 - c.label1 * turn) / v2,
          (c.place2 - c.place1 * turn) / v2};
}

}  // namespace

ChartJet ContactFinder::driver_chart(const Sampled& s, int tooth, double t, double coordinate) const {
  return driven_.motion.chart(driver_.motion.carry(s.segment->jet(t), coordinate + tooth * driver_samples_.pitch),
                              facing_);
}

ChartJet ContactFinder::driven_chart(const Sampled& s, double t) const {
  return own_motion(driven_).chart(s.segment->jet(t), 0);
}

ChartJet ContactFinder::driver_slopes(const Sampled& s, int tooth, double t, double coordinate, double* speed) const {
  const curve::Jet world = driver_.motion.carry(s.segment->jet(t), coordinate + tooth * driver_samples_.pitch);
  const ChartJet chart = driven_.motion.slopes(world);
  return speed ? by_length(chart, world, speed) : chart;
}

ChartJet ContactFinder::driven_slopes(const Sampled& s, double t, double* speed) const {
  const curve::Jet own = s.segment->jet(t);
  const ChartJet chart = own_motion(driven_).slopes(own);
  return speed ? by_length(chart, own, speed) : chart;
}

void ContactFinder::place(double coordinate, std::vector<Placed>& placed) const {
  placed.clear();
  const double floor = driven_samples_.least_label, reach = driven_samples_.greatest_label;
  std::vector<Vec2> world;
  // A slide has no end here: what a rack of any length does where it has teeth.
  constexpr int kTeethOfSlide = 16;
  const bool slides = !driver_.motion.turns();
  const int first =
      slides ? static_cast<int>(std::lround((faces_ - coordinate) / driver_samples_.pitch)) - kTeethOfSlide / 2 : 0;
  const int count = slides ? kTeethOfSlide : driver_.outline.count;
  for (int tooth = first; tooth < first + count; ++tooth) {
    const double turn = coordinate + tooth * driver_samples_.pitch, angle = driver_.motion.turned(turn);
    const double c = std::cos(angle), s = std::sin(angle);
    const Vec2 origin = slides ? Vec2(driver_.motion.origin() - Vec2(c, s) * turn) : driver_.motion.origin();
    const auto carry = [&](const Vec2& own) -> Vec2 {
      return Vec2(c * own.x() - s * own.y(), s * own.x() + c * own.y()) + origin;
    };
    for (std::size_t i = 0; i < driver_samples_.segments.size(); ++i) {
      const Sampled& sampled = driver_samples_.segments[i];
      // Broad phase: a segment whose circle stays outside the driven's reach cannot touch.
      const Vec2 middle = carry(sampled.middle);
      const double label_there = driven_.motion.label(middle), stretch = driven_.motion.stretch(middle, sampled.radius);
      if (label_there - stretch * sampled.radius > reach || label_there + stretch * sampled.radius < floor) continue;
      Placed p{i,
               tooth,
               stretch * sampled.sag,
               {},
               {},
               std::numeric_limits<double>::infinity(),
               -std::numeric_limits<double>::infinity()};
      world.clear();
      for (const curve::Jet& own : sampled.own) {
        world.push_back(carry(own.p));
        const double label = driven_.motion.label(world.back());
        p.label.push_back(label);
        p.least = std::min(p.least, label);
        p.greatest = std::max(p.greatest, label);
      }
      if (p.least > reach || p.greatest < floor) continue;
      for (const Vec2& w : world)
        p.place.push_back(driven_.motion.place(w, facing_));
      placed.push_back(std::move(p));
    }
  }
}

Limit ContactFinder::limit(Side side, double coordinate, const std::vector<Placed>& placed, Trail* trail) const {
  // In the chart the material lies on the left of a traversal. A driven piece that falls in label has it at smaller
  // places, so what stands in its way above bounds it from above, and that must be a driver piece that rises; for the
  // lower limit both are the other way round. `sign` turns the lower limit into a least value too.
  const double sign = side == Side::upper ? 1 : -1;
  const double pitch = driven_samples_.pitch;
  std::vector<Candidate> candidates;

  for (const Placed& d : placed) {
    const Sampled& driver = driver_samples_.segments[d.segment];
    for (const Sampled& driven : driven_samples_.segments) {
      if (driven.level) continue;
      const bool falls = driven.label.back() < driven.label.front();
      if (falls != (side == Side::upper)) continue;
      const auto [low, high] = std::minmax(driven.label.front(), driven.label.back());
      if (d.greatest < low || d.least > high) continue;
      const double size = driven_.motion.turns() ? std::max(d.least, 0.1 * driven_samples_.greatest_label) : 1.0;
      double least = std::numeric_limits<double>::infinity(), s = 0, t = 0, lean_driver = 0, lean_driven = 0;
      for (std::size_t i = 0; i + 1 < d.label.size(); ++i) {
        const bool rises = d.label[i + 1] > d.label[i];
        if (rises != (side == Side::upper)) continue;
        const double a = std::min(d.label[i], d.label[i + 1]), b = std::max(d.label[i], d.label[i + 1]);
        if (b < low || a > high) continue;
        // The driven's labels run one way: only the intervals between these two reach into [a, b].
        const auto first = falls ? std::upper_bound(driven.label.begin(), driven.label.end(), b, std::greater<>())
                                 : std::upper_bound(driven.label.begin(), driven.label.end(), a);
        const auto last = falls ? std::lower_bound(driven.label.begin(), driven.label.end(), a, std::greater<>())
                                : std::lower_bound(driven.label.begin(), driven.label.end(), b);
        const std::size_t from =
            first == driven.label.begin() ? 0 : static_cast<std::size_t>(first - driven.label.begin()) - 1;
        const std::size_t until =
            std::min(driven.label.size() - 1, static_cast<std::size_t>(last - driven.label.begin()));
        const auto slope = [size](const Row& label, const Row& place, std::size_t k) {
          return std::abs(size * (place[k + 1] - place[k]) / (label[k + 1] - label[k]));
        };
        if (from < until) lean_driver = std::max(lean_driver, slope(d.label, d.place, i));
        for (std::size_t j = from; j < until; ++j) {
          const double lo = std::max(a, std::min(driven.label[j], driven.label[j + 1]));
          const double hi = std::min(b, std::max(driven.label[j], driven.label[j + 1]));
          if (lo > hi) continue;
          lean_driven = std::max(lean_driven, slope(driven.label, driven.place, j));
          for (const double label : {lo, hi}) {
            const double gap =
                sign * (between(d.label, d.place, i, label) - between(driven.label, driven.place, j, label));
            if (gap < least) {
              least = gap;
              s = between(d.label, driver.at, i, label);
              t = between(driven.label, driven.at, j, label);
            }
          }
        }
      }
      if (!std::isfinite(least)) continue;
      const double raw = sign * least;
      const int partner = this->partner(side, d.tooth, coordinate);
      // Sag is a distance along the normal; in place it grows with 1/cos of the slope. The curve leans as its chords
      // do, twice allows for what it bends within one; 6 covers normals up to 80° off.
      const auto room = [](double lean, double sag) { return std::min(6.0, 2 * std::sqrt(1 + lean * lean)) * sag; };
      const double slack = (room(lean_driver, d.sag) + room(lean_driven, driven.sag)) / size;
      candidates.push_back(
          {&driver, &driven, &d.label, &d.place, d.tooth, partner, raw - partner * pitch, slack, s, t});
    }
  }
  std::sort(candidates.begin(), candidates.end(),
            [sign](const Candidate& a, const Candidate& b) { return sign * a.gap < sign * b.gap; });

  std::vector<Contact> found;
  double best = std::numeric_limits<double>::infinity();
  for (const Candidate& c : candidates) {
    if (sign * c.gap - c.slack > best) continue;  // cannot come first, nor touch where the first does
    const std::size_t before = found.size();
    refine(c, side, coordinate, best, trail, found);
    for (std::size_t i = before; i < found.size(); ++i)
      best = std::min(best, sign * found[i].driven);
  }
  Limit result;
  for (const Contact& c : found) {
    if (!result.first || sign * c.driven < sign * result.first->driven) result.first = c;
  }
  if (!result.first) return result;
  for (const Contact& c : found) {
    if (c.flank_on_flank() && sign * (c.driven - result.first->driven) * c.arm <= law_.touch_mm) {
      result.touching.push_back(c);
    }
  }
  return result;
}

Contact ContactFinder::contact(const Candidate& c, double s, double t, double gap, double coordinate,
                               bool tangent) const {
  const curve::Jet world =
      driver_.motion.carry(c.driver->segment->jet(s), coordinate + c.driver_tooth * driver_samples_.pitch);
  const int teeth = driven_.outline.count;
  // The normal is that of the curve that is touched: at an edge the mate's.
  const bool driver_at_end = !tangent && (s == c.driver->segment->from || s == c.driver->segment->to);
  Vec2 normal;
  if (driver_at_end) {
    const curve::Segment& own = *c.driven->segment;
    normal = driven_.motion.carry_direction(own.point(t), own.normal(t), gap + c.driven_tooth * driven_samples_.pitch);
  } else {
    const curve::Segment& own = *c.driver->segment;
    normal = -driver_.motion.carry_direction(own.point(s), own.normal(s),
                                             coordinate + c.driver_tooth * driver_samples_.pitch);
  }
  const double arm = driven_.motion.scale(world.p) * std::abs(normal.dot(driven_.motion.velocity(world.p)));
  const Sampled& edged = driver_at_end ? *c.driver : *c.driven;
  const double at = driver_at_end ? s : t;
  const bool knee =
      !tangent && ((at == edged.segment->from && edged.knee_before) || (at == edged.segment->to && edged.knee_after));
  Contact made;
  made.driven = gap;
  made.point = world.p;
  made.normal = normal;
  made.arm = arm;
  made.driver_role = c.driver->segment->role, made.driven_role = c.driven->segment->role;
  made.driver_tooth = c.driver_tooth, made.driven_tooth = ((c.driven_tooth % teeth) + teeth) % teeth;
  made.tangent = tangent;
  made.knee = knee;
  if (tangent) {
    const auto left = [](const curve::Segment& of, double here) {
      return std::min(std::abs(here - of.from), std::abs(of.to - here)) / std::abs(of.to - of.from);
    };
    made.to_end = std::min(left(*c.driver->segment, s), left(*c.driven->segment, t));
  }
  return made;
}

/// Newton on the two parameters where the curves have equal labels and equal slopes. None when they have them on the
/// segments' continuations, or (`strays`) when the steps lead nowhere.
std::optional<ContactFinder::Tangency> ContactFinder::newton(const Candidate& c, const Tangency& begin,
                                                             double coordinate, bool& strays) const {
  const curve::Segment &a = *c.driver->segment, &b = *c.driven->segment;
  const auto [a_lo, a_hi] = std::minmax(a.from, a.to);
  const auto [b_lo, b_hi] = std::minmax(b.from, b.to);
  // Derivatives are by arc length: by the parameter itself all vanish at an involute's cusp, and every cusp would pass
  // for a tangency.
  auto [s, t] = begin;
  strays = false;
  for (int i = 0; i < 20; ++i) {
    double speed1 = 0, speed2 = 0;
    const ChartJet u = driver_slopes(*c.driver, c.driver_tooth, s, coordinate, &speed1),
                   v = driven_slopes(*c.driven, t, &speed2);
    const double f1 = u.label - v.label, f2 = u.label1 * v.place1 - u.place1 * v.label1;
    const double j11 = u.label1, j12 = -v.label1;
    const double j21 = u.label2 * v.place1 - u.place2 * v.label1, j22 = u.label1 * v.place2 - u.place1 * v.label2;
    const double det = j11 * j22 - j12 * j21;
    if (det == 0 || !std::isfinite(det)) break;
    double ds = (f1 * j22 - f2 * j12) / det / speed1, dt = (j11 * f2 - j21 * f1) / det / speed2;
    const double cap = std::max(std::abs(ds) / (a_hi - a_lo), std::abs(dt) / (b_hi - b_lo));
    if (cap > 0.3) ds *= 0.3 / cap, dt *= 0.3 / cap;  // no leaps: stay where the guess has meaning
    s -= ds;
    t -= dt;
    if (s < a_lo - 0.3 * (a_hi - a_lo) || s > a_hi + 0.3 * (a_hi - a_lo) || t < b_lo - 0.3 * (b_hi - b_lo) ||
        t > b_hi + 0.3 * (b_hi - b_lo)) {
      break;
    }
    // Convergence is quadratic: after a step this small the parameters are exact to rounding.
    if (std::abs(ds) <= 1e-7 * (a_hi - a_lo) && std::abs(dt) <= 1e-7 * (b_hi - b_lo)) {
      if (s >= a_lo && s <= a_hi && t >= b_lo && t <= b_hi) return Tangency{s, t};
      return std::nullopt;
    }
  }
  strays = true;
  return std::nullopt;
}

/// Parameters where the two curves have equal labels and equal slopes, on both segments; none when there are none.
std::optional<ContactFinder::Tangency> ContactFinder::tangency(const Candidate& c, Side side, double coordinate) const {
  const curve::Segment &a = *c.driver->segment, &b = *c.driven->segment;
  const auto driver = [&](double x) { return driver_slopes(*c.driver, c.driver_tooth, x, coordinate); };
  const auto driven = [&](double x) { return driven_slopes(*c.driven, x); };
  double s = c.s, t = c.t;
  // Beside a cusp the continuation is a mirror image that draws Newton's steps to it: there only the comparison below.
  const bool cusps = c.driver->cusp && c.driven->cusp;
  if (!cusps) {
    bool strays = false;
    const auto found = newton(c, {c.s, c.t}, coordinate, strays);
    if (found || !strays) return found;
  }

  // Newton may stray. Then the slopes at equal labels are compared over the common range: there is
  // a tangency on these segments where their difference changes sign.
  const Row& labels = *c.driver_label;
  const bool one_way =
      std::is_sorted(labels.begin(), labels.end()) || std::is_sorted(labels.begin(), labels.end(), std::greater<>());
  if (!one_way) return std::nullopt;
  const double first1 = driver(a.from).label, last1 = driver(a.to).label, first2 = c.driven->label.front(),
               last2 = c.driven->label.back();
  const double lo = std::max(std::min(first1, last1), std::min(first2, last2)),
               hi = std::min(std::max(first1, last1), std::max(first2, last2)), nudge = 1e-12 * (hi - lo);
  if (!(hi > lo)) return std::nullopt;
  const auto mismatch_within = [&](double label, double enough) {
    s = at_label(driver, label, a.from, a.to, first1, last1, s, enough);
    t = at_label(driven, label, b.from, b.to, first2, last2, t, enough);
    const ChartJet u = driver(s), v = driven(t);
    return u.place1 / u.label1 - v.place1 / v.label1;
  };
  const auto mismatch = [&](double label) { return mismatch_within(label, 1e-15); };
  if (cusps) {
    // Near the cusp there may be several tangencies: looked for piece by piece, dense at both ends, the nearest of them
    // kept.
    constexpr int kPieces = 48;
    constexpr double kForItsSign = 1e-7;  // of the parameter: only a change of sign is looked for
    const auto dense = [](double x) { return 0.5 * (1 - std::cos(kPi * x)); };
    std::optional<Tangency> nearest;
    double least = std::numeric_limits<double>::infinity(), from = lo + nudge,
           before = mismatch_within(from, kForItsSign);
    for (int i = 1; i <= kPieces; ++i) {
      const double to = i == kPieces ? hi - nudge : lo + (hi - lo) * dense(dense(static_cast<double>(i) / kPieces)),
                   after = mismatch_within(to, kForItsSign);
      const double at_from = before * after < 0 ? mismatch(from) : 0, at_to = at_from != 0 ? mismatch(to) : 0;
      if (at_from * at_to < 0) {
        mismatch(math::find_root(mismatch, from, to, at_from, at_to));
        const double gap =
            (side == Side::upper ? 1 : -1) *
            (driver_chart(*c.driver, c.driver_tooth, s, coordinate).place - driven_chart(*c.driven, t).place);
        if (gap < least) least = gap, nearest = Tangency{s, t};
      }
      from = to, before = after;
    }
    return nearest;
  }
  const double at_lo = mismatch(lo + nudge), at_hi = mismatch(hi - nudge);
  if (!(at_lo * at_hi < 0)) return std::nullopt;
  mismatch(math::find_root(mismatch, lo + nudge, hi - nudge, at_lo, at_hi));
  return Tangency{s, t};
}

/// The contact at a tangency, if it is one: facing the right way, nearest there, and between the right teeth.
std::optional<Contact> ContactFinder::touch(const Candidate& c, const Tangency& at, Side side,
                                            double coordinate) const {
  const double sign = side == Side::upper ? 1 : -1;
  const ChartJet p = driver_chart(*c.driver, c.driver_tooth, at.s, coordinate);
  const ChartJet q = driven_chart(*c.driven, at.t);
  // Labels agree to rounding; the remaining difference is carried along the common slope.
  const double slope = std::abs(q.label1) > 0 ? q.place1 / q.label1 : 0;
  const double gap = p.place - (q.place + slope * (p.label - q.label)) - c.driven_tooth * driven_samples_.pitch;
  const bool opposite = (p.label1 * c.driver->segment->sense() > 0) == (side == Side::upper);
  // A convex flank inside a hollow fillet can be parallel to it where the way is widest: that is no contact.
  const auto bend = [](const ChartJet& j) {
    return (j.place2 * j.label1 - j.label2 * j.place1) / (j.label1 * j.label1 * j.label1);
  };
  const bool nearest = sign * (bend(p) - bend(q)) >= 0;
  if (!opposite || !nearest || !within_reach(side, gap, coordinate)) return std::nullopt;
  return contact(c, at.s, at.t, gap, coordinate, true);
}

bool ContactFinder::within_reach(Side side, double gap, double coordinate) const {
  const double pitches = (side == Side::upper ? 1 : -1) * (gap - nominal(coordinate)) / driven_samples_.pitch;
  return pitches > -1 && pitches < 1.5;
}

void ContactFinder::refine(const Candidate& c, Side side, double coordinate, double best, Trail* trail,
                           std::vector<Contact>& found) const {
  const Facing facing{c.driver->segment, c.driven->segment, c.driver_tooth, c.driven_tooth};
  const auto keep = [&](const Tangency& at, const Contact& contact) {
    if (trail) trail->keep(facing, coordinate, at);
    found.push_back(contact);  // the nearest place of this pair of segments; its ends are further off
  };
  // From where the positions before lead; what is found there has to lie where the broad phase sees it. Beside a cusp
  // there may be several tangencies, of which the nearest is wanted.
  const auto expected =
      trail && !(c.driver->cusp && c.driven->cusp) ? trail->expected(facing, coordinate) : std::nullopt;
  if (expected) {
    bool strays = false;
    if (const auto at = newton(c, *expected, coordinate, strays)) {
      const auto contact = touch(c, *at, side, coordinate);
      if (contact && std::abs(contact->driven - c.gap) <= c.slack) return keep(*at, *contact);
    }
  }
  if (const auto at = tangency(c, side, coordinate)) {
    if (const auto contact = touch(c, *at, side, coordinate)) return keep(*at, *contact);
  }

  // Vertex–curve, both ways: an end of one segment against the other curve at the same label. First by the samples.
  const curve::Segment &a = *c.driver->segment, &b = *c.driven->segment;
  const double shift = c.driven_tooth * driven_samples_.pitch, sign = side == Side::upper ? 1 : -1;
  const auto worth = [&](double coarse) { return !(sign * coarse - c.slack > best); };
  const Row &driver_label = *c.driver_label, &driver_place = *c.driver_place;
  const Row &driven_label = c.driven->label, &driven_place = c.driven->place;
  for (const bool first : {true, false}) {
    const double label = first ? driver_label.front() : driver_label.back();
    if (!spans(driven_label.front(), driven_label.back(), label) || driven_label.front() == driven_label.back())
      continue;
    const std::size_t j = interval(driven_label, label);
    const double place = first ? driver_place.front() : driver_place.back();
    if (!worth(place - between(driven_label, driven_place, j, label) - shift)) continue;
    const double end = first ? a.from : a.to;
    const ChartJet p = driver_chart(*c.driver, c.driver_tooth, end, coordinate);
    const double at = at_label([&](double x) { return driven_slopes(*c.driven, x); }, p.label, c.driven->at[j],
                               c.driven->at[j + 1], driven_label[j], driven_label[j + 1]);
    const double gap = p.place - driven_chart(*c.driven, at).place - shift;
    if (within_reach(side, gap, coordinate)) found.push_back(contact(c, end, at, gap, coordinate, false));
  }
  for (const bool first : {true, false}) {
    const double end = first ? b.from : b.to, label = first ? driven_label.front() : driven_label.back(),
                 place = first ? driven_place.front() : driven_place.back();
    for (std::size_t i = 0; i + 1 < driver_label.size(); ++i) {
      const double before = driver_label[i], after = driver_label[i + 1];
      if (after == before || !spans(before, after, label) || (after > before) != (side == Side::upper)) continue;
      if (!worth(between(driver_label, driver_place, i, label) - place - shift)) continue;
      const double at = at_label([&](double x) { return driver_slopes(*c.driver, c.driver_tooth, x, coordinate); },
                                 label, c.driver->at[i], c.driver->at[i + 1]);
      const double gap = driver_chart(*c.driver, c.driver_tooth, at, coordinate).place - place - shift;
      if (within_reach(side, gap, coordinate)) found.push_back(contact(c, at, end, gap, coordinate, false));
    }
  }
}

Limit ContactFinder::limit(Side side, double coordinate) const {
  std::vector<Placed> placed;
  place(coordinate, placed);
  return limit(side, coordinate, placed, nullptr);
}

void ContactFinder::limits(double coordinate, Limit& upper, Limit& lower, Trail& trail) const {
  std::vector<Placed> placed;
  place(coordinate, placed);
  upper = limit(Side::upper, coordinate, placed, &trail);
  lower = limit(Side::lower, coordinate, placed, &trail);
}

namespace {

/// The period of `mover` whose point `own` lies nearest to the track that `other` has there.
int nearest_tooth(const Member& mover, const Member& other, double pitch, const Vec2& own, double coordinate) {
  if (!mover.motion.turns()) {
    return static_cast<int>(std::lround((mover.motion.place(other.motion.origin(), 0) - coordinate + own.x()) / pitch));
  }
  // Inside a ring the mesh lies beyond, away from its axis.
  const Vec2 between = other.motion.origin() - mover.motion.origin(),
             towards = other.outline.clockwise ? Vec2(-between) : between;
  return static_cast<int>(
      std::lround((std::atan2(towards.y(), towards.x()) - coordinate - std::atan2(own.y(), own.x())) / pitch));
}

}  // namespace

double ContactFinder::crest_clearance(bool of_driver, double driver_coordinate, double driven_coordinate) const {
  const Member& mover = of_driver ? driver_ : driven_;
  const Member& other = of_driver ? driven_ : driver_;
  const Sampling& mine = of_driver ? driver_samples_ : driven_samples_;
  const Sampling& theirs = of_driver ? driven_samples_ : driver_samples_;
  if (theirs.islands) return std::numeric_limits<double>::infinity();
  const double coordinate = of_driver ? driver_coordinate : driven_coordinate;
  const auto world = [&](const curve::Segment& segment, double t, int tooth) {
    return mover.motion.carry(segment.jet(t), coordinate + tooth * mine.pitch);
  };
  // Inside a ring the floor lies at its greatest label: the same with the sign turned.
  const double sign = other.outline.clockwise ? -1 : 1;
  double least = std::numeric_limits<double>::infinity();
  for (const std::size_t index : mine.crest) {
    const curve::Segment& segment = *mine.segments[index].segment;
    const int tooth =
        nearest_tooth(mover, other, mine.pitch, segment.point(0.5 * (segment.from + segment.to)), coordinate);
    // A sign change of the label's slope inside is the nearest point.
    const auto slope = [&](double t) { return sign * other.motion.slopes(world(segment, t, tooth)).label1; };
    const auto label = [&](double t) { return sign * other.motion.label(world(segment, t, tooth).p); };
    least = std::min({least, label(segment.from), label(segment.to)});
    const auto [lo, hi] = std::minmax(segment.from, segment.to);
    if (lo < hi && slope(lo) < 0 && slope(hi) > 0) least = std::min(least, label(math::find_root(slope, lo, hi)));
  }
  return sign * (other.motion.height(sign * least) -
                 other.motion.height(other.outline.clockwise ? theirs.greatest_label : theirs.least_label));
}

}  // namespace palio::roll
