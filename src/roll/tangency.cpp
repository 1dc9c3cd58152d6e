// From a pair of segments that may touch first to the exact place: tangencies by Newton on both curves, and ends of one
// against the other.
#include <algorithm>
#include <cmath>

#include "contact.hpp"
#include "palio/angle.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"

namespace palio::roll {
namespace {

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

}  // namespace

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
  double known = 0, rise_s = 0, rise_t = 0;  // the label that s and t have, and how they change with it
  const auto mismatch_within = [&](double label, double enough) {
    const auto begin = [&](double at, double rise) { return rise != 0 ? at + (label - known) * rise : at; };
    s = at_label(driver, label, a.from, a.to, first1, last1, begin(s, rise_s), enough);
    t = at_label(driven, label, b.from, b.to, first2, last2, begin(t, rise_t), enough);
    const ChartJet u = driver(s), v = driven(t);
    const auto rise_of = [](double label1) { return label1 != 0 ? 1 / label1 : 0; };
    known = label, rise_s = rise_of(u.label1), rise_t = rise_of(v.label1);
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
    double least = math::kInfinite, from = lo + nudge, before = mismatch_within(from, kForItsSign);
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

}  // namespace palio::roll
