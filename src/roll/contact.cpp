#include "contact.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "palio/angle.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"

namespace palio::roll {
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

curve::Jet ContactFinder::driver_world(const Candidate& c, double s) const {
  return driver_.motion.carry(c.driver->segment->jet(s), c.turn, c.direction);
}

ChartJet ContactFinder::driver_chart(const Candidate& c, double s) const {
  return driven_.motion.chart(driver_world(c, s), facing_);
}

ChartJet ContactFinder::driven_chart(const Sampled& s, double t) const {
  return own_motion(driven_).chart(s.segment->jet(t), 0);
}

ChartJet ContactFinder::driver_slopes(const Candidate& c, double s, double* speed) const {
  const curve::Jet world = driver_world(c, s);
  const ChartJet chart = driven_.motion.slopes(world);
  return speed ? by_length(chart, world, speed) : chart;
}

ChartJet ContactFinder::driven_slopes(const Sampled& s, double t, double* speed) const {
  const curve::Jet own = s.segment->jet(t);
  const ChartJet chart = own_motion(driven_).slopes(own);
  return speed ? by_length(chart, own, speed) : chart;
}

void ContactFinder::place(double coordinate, std::vector<Placed>& placed) const {
  constexpr std::size_t kFew = 24;  // more than most teeth near the mate have
  placed.clear();
  placed.reserve(kFew);
  const double floor = driven_samples_.least_label, reach = driven_samples_.greatest_label;
  constexpr double kNowhere = std::numeric_limits<double>::quiet_NaN();
  std::vector<Vec2> world;
  world.reserve(Row::kMost);
  // A slide has no end here: what a rack of any length does where it has teeth.
  constexpr int kTeethOfSlide = 16;
  const bool slides = !driver_.motion.turns();
  const int first =
      slides ? static_cast<int>(std::lround((faces_ - coordinate) / driver_samples_.pitch)) - kTeethOfSlide / 2 : 0;
  const int count = slides ? kTeethOfSlide : driver_.outline.count;
  for (int tooth = first; tooth < first + count; ++tooth) {
    const double turn = coordinate + tooth * driver_samples_.pitch;
    const Vec2 x = driver_.motion.direction(turn);
    const Vec2 origin = slides ? Vec2(driver_.motion.origin() - x * turn) : driver_.motion.origin();
    const auto carry = [&](const Vec2& own) -> Vec2 { return turned(own, x) + origin; };
    // Broad phase: a tooth, a segment whose circle stays outside the driven's reach cannot touch.
    const auto apart = [&](const Vec2& middle, double radius) {
      const double label = driven_.motion.label(middle), room = driven_.motion.stretch(middle, radius) * radius;
      return label - room > reach || label + room < floor;
    };
    if (apart(carry(driver_samples_.middle), driver_samples_.radius)) continue;
    for (std::size_t i = 0; i < driver_samples_.segments.size(); ++i) {
      const Sampled& sampled = driver_samples_.segments[i];
      const Vec2 middle = carry(sampled.middle);
      if (apart(middle, sampled.radius)) continue;
      const double stretch = driven_.motion.stretch(middle, sampled.radius);
      Placed p{i, tooth, turn, x, stretch * sampled.sag, {}, {}, math::kInfinite, -math::kInfinite};
      world.clear();
      for (const curve::Jet& own : sampled.own) {
        world.push_back(carry(own.p));
        const double label = driven_.motion.label(world.back());
        if (p.label.size() > 0) (label > p.label.back() ? p.rises : p.falls) = true;
        p.label.push_back(label);
        p.least = std::min(p.least, label);
        p.greatest = std::max(p.greatest, label);
      }
      if (p.least > reach || p.greatest < floor) continue;
      // Places are asked for between samples that reach into the driven's labels; the others are none.
      const auto outside = [&](std::size_t k) {
        return std::max(p.label[k], p.label[k + 1]) < floor || std::min(p.label[k], p.label[k + 1]) > reach;
      };
      const std::size_t last = world.size() - 1;
      for (std::size_t k = 0; k <= last; ++k) {
        const bool idle = (k == 0 || outside(k - 1)) && (k == last || outside(k));
        p.place.push_back(idle ? kNowhere : driven_.motion.place(world[k], facing_));
      }
      placed.push_back(std::move(p));
    }
  }
}

// In the chart the material lies on the left of a traversal. A driven piece that falls in label has it at smaller
// places, so what stands in its way above bounds it from above, and that must be a driver piece that rises; for the
// lower limit both are the other way round. `sign` turns the lower limit into a least value too.
std::optional<ContactFinder::Candidate> ContactFinder::coarse(const Placed& d, const Sampled& driven, Side side,
                                                              double coordinate) const {
  const double sign = side == Side::upper ? 1 : -1;
  const bool falls = driven.label.back() < driven.label.front();
  if (driven.level || falls != (side == Side::upper)) return std::nullopt;
  const auto [low, high] = std::minmax(driven.label.front(), driven.label.back());
  if (d.greatest < low || d.least > high) return std::nullopt;
  const Sampled& driver = driver_samples_.segments[d.segment];
  const double size = driven_.motion.turns() ? std::max(d.least, 0.1 * driven_samples_.greatest_label) : 1.0;
  double least = math::kInfinite, s = 0, t = 0, lean_driver = 0, lean_driven = 0;
  for (std::size_t i = 0; i + 1 < d.label.size(); ++i) {
    const bool rises = d.label[i + 1] > d.label[i];
    if (rises != (side == Side::upper)) continue;
    const double a = std::min(d.label[i], d.label[i + 1]), b = std::max(d.label[i], d.label[i + 1]);
    if (b < low || a > high) continue;
    const auto [from, until] = intervals_within(driven.label, a, b);
    if (from < until)
      lean_driver = std::max(lean_driver, std::abs((d.place[i + 1] - d.place[i]) / (d.label[i + 1] - d.label[i])));
    for (std::size_t j = from; j < until; ++j) {
      const double lo = std::max(a, std::min(driven.label[j], driven.label[j + 1]));
      const double hi = std::min(b, std::max(driven.label[j], driven.label[j + 1]));
      if (lo > hi) continue;
      lean_driven = std::max(lean_driven, driven.lean[j]);
      for (const double label : {lo, hi}) {
        const double gap = sign * (between(d.label, d.place, i, label) - between(driven.label, driven.place, j, label));
        if (gap >= least) continue;
        least = gap;
        s = between(d.label, driver.at, i, label), t = between(driven.label, driven.at, j, label);
      }
    }
  }
  if (!std::isfinite(least)) return std::nullopt;
  const int partner = this->partner(side, d.tooth, coordinate);
  // Sag is a distance along the normal; in place it grows with 1/cos of the slope. The curve leans as its chords do,
  // twice allows for what it bends within one; 6 covers normals up to 80° off.
  const auto room = [](double lean, double sag) { return std::min(6.0, 2 * std::sqrt(1 + lean * lean)) * sag; };
  const double slack = (room(size * lean_driver, d.sag) + room(size * lean_driven, driven.sag)) / size;
  return Candidate{
      &driver, &driven, &d.label, &d.place, d.tooth,    partner, sign * least - partner * driven_samples_.pitch,
      slack,   s,       t,        d.turn,   d.direction};
}

Limit ContactFinder::limit(Side side, double coordinate, const std::vector<Placed>& placed, Trail* trail) const {
  const double sign = side == Side::upper ? 1 : -1;
  std::vector<Candidate> candidates;
  candidates.reserve(placed.size());
  for (const Placed& d : placed) {
    if (!(side == Side::upper ? d.rises : d.falls)) continue;
    for (const Sampled& driven : driven_samples_.segments) {
      if (const auto candidate = coarse(d, driven, side, coordinate)) candidates.push_back(*candidate);
    }
  }
  std::sort(candidates.begin(), candidates.end(),
            [sign](const Candidate& a, const Candidate& b) { return sign * a.gap < sign * b.gap; });

  std::vector<Contact> found;
  found.reserve(candidates.size());
  double best = math::kInfinite;
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
  if (theirs.islands) return math::kInfinite;
  const double coordinate = of_driver ? driver_coordinate : driven_coordinate;
  // Inside a ring the floor lies at its greatest label: the same with the sign turned.
  const double sign = other.outline.clockwise ? -1 : 1;
  double least = math::kInfinite;
  for (const std::size_t index : mine.crest) {
    const curve::Segment& segment = *mine.segments[index].segment;
    const int tooth =
        nearest_tooth(mover, other, mine.pitch, segment.point(0.5 * (segment.from + segment.to)), coordinate);
    const double turn = coordinate + tooth * mine.pitch;
    const Vec2 direction = mover.motion.direction(turn);
    const auto world = [&](double t) { return mover.motion.carry(segment.jet(t), turn, direction); };
    const auto slope_of = [&](const curve::Jet& j) { return sign * other.motion.slopes(j).label1; };
    const auto label_of = [&](const curve::Jet& j) { return sign * other.motion.label(j.p); };
    const double lo = std::min(segment.from, segment.to), hi = std::max(segment.from, segment.to);
    const curve::Jet low = world(lo), high = world(hi);
    least = std::min({least, label_of(low), label_of(high)});
    // A sign change of the label's slope inside is the nearest point.
    if (lo < hi && slope_of(low) < 0 && slope_of(high) > 0) {
      const double at = math::find_root([&](double t) { return slope_of(world(t)); }, lo, hi);
      least = std::min(least, label_of(world(at)));
    }
  }
  return sign * (other.motion.height(sign * least) -
                 other.motion.height(other.outline.clockwise ? theirs.greatest_label : theirs.least_label));
}

}  // namespace palio::roll
