// From a pair of segments that may touch first to the exact place: tangencies by Newton on both curves, and ends of one
// against the other.
#include <algorithm>
#include <array>
#include <cmath>

#include "contact.hpp"
#include "palio/angle.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"

namespace palio::roll {
namespace {

/// Where a curve reaches a label, and its chart where that was last looked at, a step away at most.
struct Reached {
  double at;
  ChartJet beside;
};

/// How the slope (place by label) changes with the label.
double bend(const ChartJet& j) {
  return (j.place2 * j.label1 - j.label2 * j.place1) / (j.label1 * j.label1 * j.label1);
}

/// The parameter in [lo, hi] where a curve reaches a label: Newton from `guess`, kept inside a shrinking bracket, until
/// `enough(step, parameter)`. \param low, high  labels at the ends
template <class Chart, class Enough>
Reached reach(Chart chart, double label, double lo, double hi, double low, double high, std::optional<double> guess,
              Enough enough) {
  const double low_value = low - label;
  if (low_value == 0) return {lo, chart(lo)};
  if (high == label) return {hi, chart(hi)};
  const auto inside = [&](double at) { return at > std::min(lo, hi) && at < std::max(lo, hi); };
  double x = guess && inside(*guess) ? *guess : 0.5 * (lo + hi);
  ChartJet j{};
  for (int i = 0; i < 100; ++i) {
    j = chart(x);
    const double value = j.label - label;
    if (value == 0) return {x, j};
    ((value > 0) == (low_value > 0) ? lo : hi) = x;
    double next = x - value / j.label1;
    if (!inside(next)) next = 0.5 * (lo + hi);
    if (enough(std::abs(next - x), std::abs(x))) return {next, j};
    x = next;
  }
  return {x, j};
}

/// The same to rounding.
template <class Chart>
double at_label(Chart chart, double label, double lo, double hi, double low, double high,
                std::optional<double> guess = {}) {
  return reach(chart, label, lo, hi, low, high, guess,
               [](double step, double x) { return step <= 1e-15 * std::max(1.0, x); })
      .at;
}

template <class Chart>
double at_label(Chart chart, double label, double lo, double hi) {
  return at_label(chart, label, lo, hi, chart(lo).label, chart(hi).label);
}

/// How much the slopes of two curves differ where both have the same label. `DriverChart` and `DrivenChart` take a
/// parameter and give label and place there.
template <class DriverChart, class DrivenChart>
class SlopeMismatch {
 public:
  using Tangency = Trail::Place;
  SlopeMismatch(const curve::Segment& driver, const curve::Segment& driven, DriverChart driver_chart,
                DrivenChart driven_chart)
      : a_(driver), b_(driven), driver_(driver_chart), driven_(driven_chart) {
    first1_ = driver_(a_.from).label, last1_ = driver_(a_.to).label;
    first2_ = driven_(b_.from).label, last2_ = driven_(b_.to).label;
    const double lo = std::max(std::min(first1_, last1_), std::min(first2_, last2_)),
                 hi = std::min(std::max(first1_, last1_), std::max(first2_, last2_)), nudge = 1e-12 * (hi - lo);
    low_ = lo + nudge, high_ = hi - nudge;  // at the very ends a slope may be none
  }

  /// The labels that both curves have, a hair within.
  double low() const noexcept { return low_; }
  double high() const noexcept { return high_; }

  /// Where the slopes agree, between two labels at which they differ to opposite sides; none where they do not.
  std::optional<Tangency> root_between(double from, double to) {
    const auto mismatch = [&](double label) { return at(label); };
    const double at_from = at(from), at_to = at(to);
    if (!(at_from * at_to <= 0)) return std::nullopt;
    at(math::find_root(mismatch, from, to, at_from, at_to));
    return Tangency{s_, t_};
  }

  /// Two labels between which the slopes agree, and about where.
  struct Change {
    double from, to;
    Tangency about;
  };

  bool within(const Change& change, const Tangency& at) const {
    const double label = driver_(at.s).label;
    return label >= std::min(change.from, change.to) && label <= std::max(change.from, change.to);
  }

  /// Where the difference changes its sign: looked at piece by piece along the driver, dense at both ends, where there
  /// may be a cusp. A change close to where two pieces meet is told of both.
  std::vector<Change> changes_of_sign() {
    constexpr std::size_t kPieces = 24;  // twenty times as many find the same in 500 random pairs
    // Of the way from the cusp: the slope a step aside is carried over by its bend, which leaves the step's square.
    constexpr double kAside = 1e-3, kUnsure = 1e-5;
    const auto beside = [](double step, double x) { return step <= kAside * x; };
    static const std::array<double, kPieces + 1> kShares = [] {
      const auto dense = [](double x) { return 0.5 * (1 - std::cos(kPi * x)); };
      std::array<double, kPieces + 1> shares{};
      for (std::size_t i = 0; i <= kPieces; ++i)
        shares[i] = dense(dense(static_cast<double>(i) / kPieces));
      return shares;
    }();
    const auto driver_at = [&](double label) {
      return at_label(driver_, label, a_.from, a_.to, first1_, last1_, from_cusp(a_, label, first1_, last1_));
    };
    const double s_low = driver_at(low_), s_high = driver_at(high_);
    std::vector<Change> changes;
    struct Look {
      double s, t, label, differ;
      int sign;
    };
    Look before{s_low, 0, low_, 0, 0};
    double rise = 0, rise_bends = 0;
    for (std::size_t i = 0; i <= kPieces; ++i) {
      const double s = i == kPieces ? s_high : s_low + (s_high - s_low) * kShares[i], way = s - before.s;
      const ChartJet u = driver_(s);
      const double guess =
          i == 0 ? from_cusp(b_, u.label, first2_, last2_) : before.t + way * (rise + 0.5 * way * rise_bends);
      const Reached reached = reach(driven_, u.label, b_.from, b_.to, first2_, last2_, guess, beside);
      const ChartJet& v = reached.beside;
      const double rise_here = u.label1 / v.label1;
      if (i > 0) rise_bends = (rise_here - rise) / way;
      rise = rise_here;
      const double slope1 = u.place1 / u.label1, slope2 = v.place1 / v.label1 + bend(v) * (u.label - v.label),
                   differ = slope1 - slope2;
      const bool unsure = std::abs(differ) <= kUnsure * (std::abs(slope1) + std::abs(slope2));
      const Look here{s, reached.at, std::clamp(u.label, low_, high_), differ, unsure ? 0 : differ > 0 ? 1 : -1};
      if (i > 0 && (here.sign == 0 || before.sign != here.sign)) {
        const double share = before.sign * here.sign < 0 ? before.differ / (before.differ - here.differ) : 0.5;
        changes.push_back({before.label,
                           here.label,
                           {before.s + share * (here.s - before.s), before.t + share * (here.t - before.t)}});
      }
      before = here;
    }
    return changes;
  }

 private:
  /// About where a curve has a label that it leaves its cusp from evenly: by the square of the parameter.
  static double from_cusp(const curve::Segment& segment, double label, double first, double last) {
    const bool begins = segment.jet(segment.from).d1.squaredNorm() == 0;
    const double share = (label - (begins ? first : last)) / (begins ? last - first : first - last);
    return begins ? segment.from + (segment.to - segment.from) * std::sqrt(share)
                  : segment.to + (segment.from - segment.to) * std::sqrt(share);
  }

  double at(double label) {
    const auto begin = [&](double at, double rise) { return rise != 0 ? at + (label - known_) * rise : at; };
    s_ = at_label(driver_, label, a_.from, a_.to, first1_, last1_, begin(s_, rise_s_));
    t_ = at_label(driven_, label, b_.from, b_.to, first2_, last2_, begin(t_, rise_t_));
    const ChartJet u = driver_(s_), v = driven_(t_);
    const auto rise_of = [](double label1) { return label1 != 0 ? 1 / label1 : 0; };
    known_ = label, rise_s_ = rise_of(u.label1), rise_t_ = rise_of(v.label1);
    return u.place1 / u.label1 - v.place1 / v.label1;
  }

  const curve::Segment &a_, &b_;
  DriverChart driver_;
  DrivenChart driven_;
  double first1_, last1_, first2_, last2_;  // labels at the segments' ends
  double low_, high_;
  double s_ = 0, t_ = 0, known_ = 0, rise_s_ = 0, rise_t_ = 0;  // where `at` was last: a label, and how both change
};

}  // namespace

Contact ContactFinder::contact(const Candidate& c, double s, double t, double gap, bool tangent) const {
  const curve::Jet own_jet = c.driver->segment->jet(s), world = driver_.motion.carry(own_jet, c.turn, c.direction);
  const int teeth = driven_.outline.count;
  // The normal is that of the curve that is touched: at an edge the mate's.
  const bool driver_at_end = !tangent && (s == c.driver->segment->from || s == c.driver->segment->to);
  Vec2 normal;
  if (driver_at_end) {
    const curve::Jet mate = c.driven->segment->jet(t);
    normal = driven_.motion.carry_direction(mate.p, c.driven->segment->normal(mate),
                                            gap + c.driven_tooth * driven_samples_.pitch);
  } else {
    normal = -driver_.motion.carry_direction(own_jet.p, c.driver->segment->normal(own_jet), c.turn);
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
                                                             bool& strays) const {
  const curve::Segment &a = *c.driver->segment, &b = *c.driven->segment;
  const auto [a_lo, a_hi] = std::minmax(a.from, a.to);
  const auto [b_lo, b_hi] = std::minmax(b.from, b.to);
  // Derivatives are by arc length: by the parameter itself all vanish at an involute's cusp, and every cusp would pass
  // for a tangency.
  auto [s, t] = begin;
  strays = false;
  for (int i = 0; i < 20; ++i) {
    double speed1 = 0, speed2 = 0;
    const ChartJet u = driver_slopes(c, s, &speed1), v = driven_slopes(*c.driven, t, &speed2);
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
std::optional<ContactFinder::Tangency> ContactFinder::tangency(const Candidate& c, Side side) const {
  // Beside a cusp the continuation is a mirror image that draws Newton's steps to it: there only the comparison below.
  const bool cusps = c.driver->cusp && c.driven->cusp;
  if (!cusps) {
    bool strays = false;
    const auto found = newton(c, {c.s, c.t}, strays);
    if (found || !strays) return found;
  }

  // Newton may stray. Then the slopes at equal labels are compared over the common range: there is
  // a tangency on these segments where their difference changes sign.
  const Row& labels = *c.driver_label;
  const bool one_way =
      std::is_sorted(labels.begin(), labels.end()) || std::is_sorted(labels.begin(), labels.end(), std::greater<>());
  if (!one_way) return std::nullopt;
  SlopeMismatch mismatch(
      *c.driver->segment, *c.driven->segment, [&](double x) { return driver_slopes(c, x); },
      [&](double x) { return driven_slopes(*c.driven, x); });
  if (!(mismatch.high() > mismatch.low())) return std::nullopt;
  if (!cusps) return mismatch.root_between(mismatch.low(), mismatch.high());
  std::optional<Tangency> nearest;
  double least = math::kInfinite;
  for (const auto& change : mismatch.changes_of_sign()) {
    bool strays = false;
    std::optional<Tangency> at = newton(c, change.about, strays);
    if (!at || !mismatch.within(change, *at)) at = mismatch.root_between(change.from, change.to);
    if (!at) continue;
    const double gap =
        (side == Side::upper ? 1 : -1) * (driver_chart(c, at->s).place - driven_chart(*c.driven, at->t).place);
    if (gap < least) least = gap, nearest = at;
  }
  return nearest;
}

/// The contact at a tangency, if it is one: facing the right way, nearest there, and between the right teeth.
std::optional<Contact> ContactFinder::touch(const Candidate& c, const Tangency& at, Side side,
                                            double coordinate) const {
  const double sign = side == Side::upper ? 1 : -1;
  const ChartJet p = driver_chart(c, at.s);
  const ChartJet q = driven_chart(*c.driven, at.t);
  // Labels agree to rounding; the remaining difference is carried along the common slope.
  const double slope = std::abs(q.label1) > 0 ? q.place1 / q.label1 : 0;
  const double gap = p.place - (q.place + slope * (p.label - q.label)) - c.driven_tooth * driven_samples_.pitch;
  const bool opposite = (p.label1 * c.driver->segment->sense() > 0) == (side == Side::upper);
  // A convex flank inside a hollow fillet can be parallel to it where the way is widest: that is no contact.
  const bool nearest = sign * (bend(p) - bend(q)) >= 0;
  if (!opposite || !nearest || !within_reach(side, gap, coordinate)) return std::nullopt;
  return contact(c, at.s, at.t, gap, true);
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
    if (const auto at = newton(c, *expected, strays)) {
      const auto contact = touch(c, *at, side, coordinate);
      if (contact && std::abs(contact->driven - c.gap) <= c.slack) return keep(*at, *contact);
    }
  }
  if (const auto at = tangency(c, side)) {
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
    const ChartJet p = driver_chart(c, end);
    const double at = at_label([&](double x) { return driven_slopes(*c.driven, x); }, p.label, c.driven->at[j],
                               c.driven->at[j + 1], driven_label[j], driven_label[j + 1]);
    const double gap = p.place - driven_chart(*c.driven, at).place - shift;
    if (within_reach(side, gap, coordinate)) found.push_back(contact(c, end, at, gap, false));
  }
  for (const bool first : {true, false}) {
    const double end = first ? b.from : b.to, label = first ? driven_label.front() : driven_label.back(),
                 place = first ? driven_place.front() : driven_place.back();
    for (std::size_t i = 0; i + 1 < driver_label.size(); ++i) {
      const double before = driver_label[i], after = driver_label[i + 1];
      if (after == before || !spans(before, after, label) || (after > before) != (side == Side::upper)) continue;
      if (!worth(between(driver_label, driver_place, i, label) - place - shift)) continue;
      const double at =
          at_label([&](double x) { return driver_slopes(c, x); }, label, c.driver->at[i], c.driver->at[i + 1]);
      const double gap = driver_chart(c, at).place - place - shift;
      if (within_reach(side, gap, coordinate)) found.push_back(contact(c, at, end, gap, false));
    }
  }
}

}  // namespace palio::roll
