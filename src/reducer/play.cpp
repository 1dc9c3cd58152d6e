// Everything is found from the disc's edge itself and from circles: nearest places by Newton on the exact curve, the
// room of a turning part by Newton on whichever gap closes first.
#include "palio/reducer/play.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::reducer {
namespace {

constexpr double kSamePlace = 1e-15;  // [rad]: the last bits of a turn
constexpr double kFlat = 1e-5;        // of the arm: a normal that misses the axis by less does not turn anything
constexpr double kSmallStep = 1e-8;   // of an edge's parameter: the square of it is rounding

/// What stands in the way of something that turns.
class Gaps {
 public:
  virtual ~Gaps() = default;
  virtual std::size_t count() const = 0;
  /// Of one that stands there, at an angle.
  virtual RollerGap one(std::size_t k, double turn) const = 0;
  std::vector<RollerGap> all(double turn) const {
    std::vector<RollerGap> gaps;
    gaps.reserve(count());
    for (std::size_t k = 0; k < count(); ++k)
      gaps.push_back(one(k, turn));
    return gaps;
  }
};

double least(const std::vector<RollerGap>& gaps) {
  double low = math::kInfinite;
  for (const RollerGap& g : gaps)
    low = std::min(low, g.gap);
  return low;
}

/// Looks along a way of half a period: gaps waver once in a whole one, so that between two looks none closes and opens
/// again.
constexpr int kLooks = 16;

/// How far it can turn until the first of a few that close next is touching, begun where another position ended: by
/// Newton on those alone.
double sharpened(const Gaps& gaps, double start, int sense, double flat, const std::vector<RollerGap>& here,
                 double hint) {
  constexpr std::size_t kFew = 4;
  std::vector<std::size_t> next(here.size());
  std::iota(next.begin(), next.end(), std::size_t{0});
  const auto left = [&](std::size_t k) { return here[k].gap - sense * here[k].lever * hint; };
  const std::size_t few = std::min(kFew, next.size());
  std::partial_sort(next.begin(), next.begin() + static_cast<std::ptrdiff_t>(few), next.end(),
                    [&](std::size_t a, std::size_t b) { return left(a) < left(b); });
  next.resize(few);
  double way = hint;
  for (int i = 0; i < 8; ++i) {
    double step = math::kInfinite;
    for (const std::size_t k : next) {
      const RollerGap g = gaps.one(k, start + sense * way);
      if (sense * g.lever > flat) step = std::min(step, g.gap / (sense * g.lever));
    }
    if (!std::isfinite(step)) return hint;
    way += step;
    if (std::abs(step) < math::kAlike) break;  // Newton: the next would be below rounding
  }
  return way;
}

/// How far it can turn that way (sense +1 or −1) until a gap is gone, `reach` at most. The first look without room and
/// the last with it bracket the end; within the bracket Newton on the gap that closes first, halving where that would
/// leave it. Gaps that hardly close by turning, their normal going nearly through the axis, are left to the bracket.
/// \param here  the gaps at `start`
/// \param hint  how far it went at a position beside this one: where Newton on the few begins; if there is room where
/// it
///              ends, before the first look
double limit(const Gaps& gaps, double start, int sense, double reach, double flat, double touch,
             std::vector<RollerGap> here, std::optional<double> hint) {
  double free = 0, stopped = -1;
  const auto look = [&](double way) {
    std::vector<RollerGap> there = gaps.all(start + sense * way);
    if (least(there) < -touch)
      stopped = way;
    else
      free = way, here = std::move(there);
  };
  const double first = reach / kLooks;
  if (hint && *hint > 0 && *hint < 0.5 * first) hint = sharpened(gaps, start, sense, flat, here, *hint);
  if (hint && *hint > 0 && *hint < 0.5 * first) {
    look(*hint);
    if (stopped < 0) stopped = first;  // not looked at: whoever comes near it looks again from the beginning
  }
  const auto refine = [&] {
    for (int i = 0; i < 100; ++i) {
      double step = math::kInfinite;
      for (const RollerGap& g : here) {
        if (sense * g.lever > flat) step = std::min(step, g.gap / (sense * g.lever));
      }
      double next = free + step;
      if (!(next < stopped)) next = 0.5 * (free + stopped);
      if (std::abs(next - free) < kSamePlace) break;
      // A step back, or one into what is stopped, is Newton's own: it goes on from there and comes back to the end.
      look(next);
      if (stopped - free < kSamePlace) break;
    }
  };
  if (stopped > 0) {
    refine();
    if (free < 0.75 * first) return start + sense * free;
  }
  stopped = -1;
  for (int i = 1; i <= kLooks && stopped < 0; ++i) {
    if (reach * i / kLooks > free) look(reach * i / kLooks);
  }
  if (stopped < 0) return start + sense * reach;
  refine();
  return start + sense * free;
}

/// The angle at which the smallest gap is largest: unavoidable overlap is what is left there. The best of several
/// looks, then between its neighbours, where the smallest of gaps is concave.
double roomiest(const Gaps& gaps, double reach) {
  double best = 0, most = least(gaps.all(0));
  for (int i = -kLooks; i <= kLooks; ++i) {
    const double here = least(gaps.all(reach * i / kLooks));
    if (here > most) most = here, best = reach * i / kLooks;
  }
  double low = best - reach / kLooks, high = best + reach / kLooks;
  constexpr double kGolden = 0.6180339887498949;
  for (int i = 0; i < 70 && high - low > kSamePlace; ++i) {
    const double a = high - kGolden * (high - low);
    const double b = low + kGolden * (high - low);
    if (least(gaps.all(a)) > least(gaps.all(b)))
      high = b;
    else
      low = a;
  }
  return (low + high) / 2;
}

/// \param reach   half a period: turned by a whole one it stands as before, one lobe or one hole on
/// \param beside  the room at a position beside this one, if known
Room room(const Gaps& gaps, double arm, double reach, double touch, const Room* beside = nullptr) {
  std::vector<RollerGap> at_start = gaps.all(0);
  const double here = least(at_start), flat = kFlat * arm;
  double start = 0;
  if (here < -touch) {
    // Perhaps a little further round; turning by a few times the overlap over the arm shows it.
    start = roomiest(gaps, std::min(reach, -30 * here / arm));
    at_start = gaps.all(start);
    const double overlap = -least(at_start);
    if (overlap > touch) {
      // How far the members that stop it either way would have to give way: upside down.
      std::optional<double> low, high;
      for (const RollerGap& g : at_start) {
        if (g.lever > 0.3 * arm) high = std::min(high.value_or(reach), start + g.gap / g.lever);
        if (g.lever < -0.3 * arm) low = std::max(low.value_or(-reach), start + g.gap / g.lever);
      }
      if (!low || !high) low = start + overlap / arm, high = start - overlap / arm;
      return {*low, *high, start, overlap, false};
    }
  }
  const auto hint = [&](double there) {
    return beside && beside->at == 0 && start == 0 ? std::optional(std::abs(there)) : std::nullopt;
  };
  Room r;
  r.low = limit(gaps, start, -1, reach, flat, touch, at_start, hint(beside ? beside->low : 0));
  r.high = limit(gaps, start, +1, reach, flat, touch, at_start, hint(beside ? beside->high : 0));
  r.at = start;
  // Room on both sides as far as half a period: nothing holds it.
  r.loose = r.low <= start - reach * (1 - math::kAlike) && r.high >= start + reach * (1 - math::kAlike);
  if (r.high < r.low) r.low = r.high = (r.low + r.high) / 2;  // rounding
  return r;
}

}  // namespace

namespace {

/// A place of the edge.
struct Place {
  double t;
  curve::Jet jet;
};

/// The edge's place nearest to q, at most `window` from the guess: Newton on the squared distance; where it leaves the
/// window or finds a farthest place, the best of many looks is refined between its neighbours.
/// \param begin  where to begin, near the guess
Place nearest(const curve::LobeCurve& edge, const Vec2& q, double guess, double begin, double window) {
  const auto newton = [&](double t) -> Place {
    Place at{t, edge.jet(t)};
    for (int i = 0; i < 12; ++i) {
      const Vec2 off = at.jet.p - q;
      const double bend = at.jet.d1.squaredNorm() + off.dot(at.jet.d2);
      if (!(bend > 0)) return {std::numeric_limits<double>::quiet_NaN(), {}};
      const double step = -off.dot(at.jet.d1) / bend;
      at.t += step;
      if (std::abs(step) < kSmallStep) {
        // Quadratic: the next step would be below rounding, and so near the place is the curve's own series.
        at.jet.p += step * (at.jet.d1 + 0.5 * step * at.jet.d2), at.jet.d1 += step * at.jet.d2;
        return at;
      }
      at.jet = edge.jet(at.t);
    }
    return at;
  };
  Place direct = newton(begin);
  if (std::abs(direct.t - guess) < 0.25 * window) return direct;
  constexpr int kPlaces = 24;
  const auto distance = [&](double t) { return (edge.jet(t).p - q).squaredNorm(); };
  double best = guess, least = distance(guess);
  for (int i = -kPlaces; i <= kPlaces; ++i) {
    const double t = guess + window * i / kPlaces, d = distance(t);
    if (d < least) least = d, best = t;
  }
  Place refined = newton(best);
  if (std::abs(refined.t - best) <= 1.5 * window / kPlaces && distance(refined.t) <= least) return refined;
  double low = best - window / kPlaces, high = best + window / kPlaces;
  for (int i = 0; i < 60; ++i) {
    const double a = low + (high - low) / 3, b = high - (high - low) / 3;
    if (distance(a) < distance(b))
      high = b;
    else
      low = a;
  }
  return {(low + high) / 2, edge.jet((low + high) / 2)};
}

}  // namespace

namespace {

/// The rollers against a disc. Where each was last nearest to the edge is kept: there the next search begins.
class Rollers : public Gaps {
 public:
  Rollers(const Reducer& r, std::size_t disc)
      : r_(r), disc_(disc), places_(static_cast<std::size_t>(r.spec().rollers)) {}
  void stand(double input) { centre_ = r_.centre(disc_, input), turned_ = r_.turned(disc_, input); }

  std::size_t count() const override { return places_.size(); }
  RollerGap one(std::size_t k, double turn) const override {
    const double theta = turned_ + turn, Z = r_.sizes().lobes;
    const Vec2 along = x_axis(theta), q = turned(r_.roller(static_cast<int>(k)) - centre_, Vec2(along.x(), -along.y()));
    // Without play the roller touches where the edge's parameter is its own place seen from the disc; with play near
    // by.
    const double guess = 2 * kPi * static_cast<double>(k) / r_.spec().rollers - turned_ - turn * (Z + 1) / Z;
    const auto [t, j] = nearest(r_.curve(), q, guess, guess + places_[k], kPi / Z);
    places_[k] = t - guess;
    const Vec2 n = Vec2(j.d1.y(), -j.d1.x()).normalized();
    return {(q - j.p).dot(n) - r_.spec().roller_diameter / 2, quarter_turn(j.p).dot(n), centre_ + turned(j.p, along),
            turned(n, along)};
  }

 private:
  /// The direction of the disc's own +x; all rollers are looked at with one turn, mostly.
  Vec2 x_axis(double theta) const {
    if (theta != theta_) theta_ = theta, direction_ = from_polar(1, theta);
    return direction_;
  }

  const Reducer& r_;
  std::size_t disc_;
  double turned_ = 0;
  Vec2 centre_ = Vec2::Zero();
  mutable std::vector<double> places_;
  mutable double theta_ = 0;
  mutable Vec2 direction_ = Vec2(1, 0);
};

/// The output's pins in the holes of a disc.
class Pins : public Gaps {
 public:
  Pins(const Reducer& r, std::size_t disc, double input, double turn) : r_(r), centre_(r.centre(disc, input)) {
    theta_ = r.turned(disc, input) + turn + r.discs()[disc].hole_phase,
    psi_ = r.output(input) + r.flange_phase().radians();
    holes_ = from_polar(r.spec().output_pin_circle_diameter / 2, theta_);
  }
  std::size_t count() const override { return static_cast<std::size_t>(r_.spec().output_pins); }
  RollerGap one(std::size_t k, double output) const override {
    const Spec& s = r_.spec();
    const double hole = r_.sizes().output_hole_diameter / 2, slack = hole - s.output_pin_diameter / 2,
                 n = s.output_pins;
    if (output != output_) {
      // Hole 0 of the disc stands before pin 0, or before the pin a whole number of places on.
      const double places = std::round((theta_ - psi_ - output) * n / (2 * kPi));
      output_ = output, pins_ = from_polar(s.output_pin_circle_diameter / 2, psi_ + output + 2 * kPi * places / n);
    }
    const Vec2& w = r_.pin_direction(static_cast<int>(k));
    const Vec2 H = centre_ + turned(holes_, w), P = turned(pins_, w);
    const Vec2 off = P - H, u = off.norm() > 0 ? Vec2(off.normalized()) : Vec2(1, 0);
    return {slack - off.norm(), quarter_turn(P).dot(u), H + hole * u, u};
  }

 private:
  const Reducer& r_;
  Vec2 centre_, holes_ = Vec2::Zero();
  double theta_ = 0, psi_ = 0;
  mutable double output_ = std::numeric_limits<double>::quiet_NaN();
  mutable Vec2 pins_ = Vec2::Zero();
};

/// Positions one after the other: each search begins where that of the position before ended.
class Search {
 public:
  Search(const Reducer& r, double touch) : r_(r), touch_(touch) {
    for (std::size_t d = 0; d < r.discs().size(); ++d)
      discs_.push_back({Rollers(r, d), {}, {}, {}});
  }

  Standing stand(double input) {
    const double arm = r_.spec().eccentricity * r_.sizes().lobes;
    const double lobe = kPi / r_.sizes().lobes, hole = kPi / r_.spec().output_pins;  // half a period each
    Standing s{input, {}, {}, {-hole - lobe, hole + lobe}};
    for (std::size_t d = 0; d < discs_.size(); ++d) {
      Disc& disc = discs_[d];
      disc.rollers.stand(input);
      disc.between = room(disc.rollers, arm, lobe, touch_, pointer(disc.between));
      s.discs.push_back(*disc.between);
      add(s, d);
    }
    s.output.at = (s.output.low + s.output.high) / 2;
    if (s.output.low > s.output.high && s.output.overlap == 0) {
      // What one disc wants and another does not allow, at the pins.
      const double clash = (s.output.low - s.output.high) * pin_arm() / 2;
      if (clash > touch_)
        s.output.overlap = std::max(s.output.overlap, clash);
      else
        s.output.low = s.output.high = (s.output.low + s.output.high) / 2;
    }
    return s;
  }

 private:
  struct Disc {
    Rollers rollers;
    std::optional<Room> between, at_low, at_high;  // the position before: of the disc, of the output at either end
  };
  static const Room* pointer(const std::optional<Room>& room) { return room ? &*room : nullptr; }
  double pin_arm() const { return r_.spec().output_pin_circle_diameter / 2; }

  /// The output through a disc: pressed to either side the disc takes it along, as far as pins have room in its holes.
  void add(Standing& s, std::size_t d) {
    Disc& disc = discs_[d];
    const Room& between = s.discs[d];
    const auto pins = [&](double turn, std::optional<Room>& before) {
      before = room(Pins(r_, d, s.input, turn), pin_arm(), kPi / r_.spec().output_pins, touch_, pointer(before));
      return *before;
    };
    const bool jammed = between.overlap > 0;
    const Room low = pins(jammed ? between.at : between.low, disc.at_low),
               high = jammed || between.high == between.low ? low : pins(between.high, disc.at_high);
    Room through{low.low, high.high, (low.at + high.at) / 2, std::max({between.overlap, low.overlap, high.overlap}),
                 between.loose};
    if (jammed) through.low += between.low - between.at, through.high += between.high - between.at;
    s.through.push_back(through);
    s.output.low = std::max(s.output.low, through.low), s.output.high = std::min(s.output.high, through.high);
    s.output.overlap = std::max(s.output.overlap, through.overlap);
    s.output.loose = (d == 0 || s.output.loose) && between.loose;
  }

  const Reducer& r_;
  double touch_;
  std::vector<Disc> discs_;
};

}  // namespace

std::vector<RollerGap> roller_gaps(const Reducer& r, std::size_t disc, double input, double turn) {
  Rollers rollers(r, disc);
  rollers.stand(input);
  return rollers.all(turn);
}

std::vector<RollerGap> pin_gaps(const Reducer& r, std::size_t disc, double input, double turn, double output) {
  return Pins(r, disc, input, turn).all(output);
}

Standing standing(const Reducer& r, double input, double touch) { return Search(r, touch).stand(input); }

Room pin_room(const Reducer& r, std::size_t disc, double input, double touch) {
  return room(Pins(r, disc, input, 0), r.spec().output_pin_circle_diameter / 2, kPi / r.spec().output_pins, touch);
}

namespace {

/// The input that is at fault: the one whose sound value, put in alone, takes away most of the overlap.
void blame(const Reducer& r, double input, double touch, Rolled& rolled) {
  struct Suspect {
    const char* key;
    Spec sound;
    std::string advice;
  };
  const Spec& s = r.spec();
  std::vector<Suspect> all;
  const auto suspect = [&](const char* key, const std::string& advice, auto change) {
    Spec sound = s;
    change(sound);
    all.push_back({key, sound, advice});
  };
  const auto mm = [](double v) { return fmt::format("{:.6g} mm", v); };
  if (s.cut_roller_diameter && *s.cut_roller_diameter != s.roller_diameter)
    suspect("cut_roller_diameter",
            fmt::format("is {}, the rollers are {}; cut for {} or more", mm(*s.cut_roller_diameter),
                        mm(s.roller_diameter), mm(s.roller_diameter)),
            [&](Spec& x) { x.cut_roller_diameter.reset(); });
  if (s.cut_roller_circle_diameter && *s.cut_roller_circle_diameter != s.roller_circle_diameter)
    suspect(
        "cut_roller_circle_diameter",
        fmt::format(
            "is {}, the rollers stand on {}; cut for that circle, and give play by cut_roller_diameter or disc_offset",
            mm(*s.cut_roller_circle_diameter), mm(s.roller_circle_diameter)),
        [&](Spec& x) { x.cut_roller_circle_diameter.reset(); });
  if (s.grown > 0)
    suspect(
        "process.surface_offset",
        fmt::format(
            "lets the surfaces grow by {}; give as much more disc_offset, or take the growth into process.corrected",
            mm(s.grown)),
        [&](Spec& x) { x.grown = 0; });
  if (s.disc_offset < 0)
    suspect("disc_offset", fmt::format("is {}, which leaves the disc too large; give 0 or more", mm(s.disc_offset)),
            [&](Spec& x) { x.disc_offset = 0; });
  if (s.holes_smaller > 0)
    suspect("process.hole_allowance",
            fmt::format("leaves the output's holes smaller by {}; give as much more output_hole_clearance",
                        mm(s.holes_smaller)),
            [&](Spec& x) { x.holes_smaller = 0; });
  if (s.output_hole_clearance < 0)
    suspect("output_hole_clearance",
            fmt::format("is {}, so the holes are too narrow for pin and eccentricity; give 0 or more",
                        mm(s.output_hole_clearance)),
            [&](Spec& x) { x.output_hole_clearance = 0; });
  if (s.disc_parts == DiscParts::one && s.discs > 1) {
    std::string serving;
    for (const int n : r.serving_pins())
      serving += (serving.empty() ? "" : ", ") + std::to_string(n);
    suspect("output_pins",
            fmt::format("is {}: one disc part does not serve at all {} places; {}give disc_parts = \"own\"",
                        s.output_pins, s.discs, serving.empty() ? "" : "take " + serving + " pins, or "),
            [&](Spec& x) { x.disc_parts = DiscParts::own; });
  }
  double best = rolled.max_overlap;
  for (const Suspect& one : all) {
    try {
      const double left = standing(Reducer(one.sound), input, touch).output.overlap;
      if (left < best) best = left, rolled.wrong = one.key, rolled.wrong_advice = one.advice;
    } catch (const InvalidParameter&) {
      continue;  // cannot be built alone: no explanation
    }
  }
}

}  // namespace

Rolled roll(const Reducer& r, int positions, double touch) {
  roll::check_positions(positions);
  Rolled all{};
  all.verdict = roll::Verdict::meshes;
  const auto take = [](std::optional<roll::Range>& range, double low, double high) {
    if (!range) range = roll::Range{low, high};
    range->min = std::min(range->min, low), range->max = std::max(range->max, high);
  };
  Search search(r, touch);
  for (int i = 0; i < positions; ++i) {
    Standing s = search.stand(2 * kPi * i / positions);
    take(all.play, s.output.high - s.output.low, s.output.high - s.output.low);
    take(all.error, (s.output.high + s.output.low) / 2, (s.output.high + s.output.low) / 2);
    for (const Room& disc : s.discs)
      take(all.disc_play, disc.high - disc.low, disc.high - disc.low);
    if (s.output.overlap > all.max_overlap) {
      all.loose_at.reset();
      all.verdict = roll::Verdict::jams;
      all.max_overlap = s.output.overlap;
      std::string where = "the output pins";
      for (std::size_t d = 0; d < s.discs.size(); ++d) {
        if (s.discs[d].overlap > touch) {
          const auto gaps = roller_gaps(r, d, s.input, s.discs[d].at);
          const auto worst = std::min_element(gaps.begin(), gaps.end(),
                                              [](const RollerGap& a, const RollerGap& b) { return a.gap < b.gap; });
          where = fmt::format("disc {} and roller {}", d + 1, worst - gaps.begin());
          break;
        }
        if (s.through[d].overlap > touch)
          where = fmt::format("the output pins in the holes of disc {}", d + 1);
        else if (s.discs.size() > 1)
          where = "the output pins, which the discs want at different places";
      }
      all.worst = Rolled::Worst{s.input, where};
    }
    if (s.output.loose && all.verdict == roll::Verdict::meshes) {
      all.verdict = roll::Verdict::loses_contact;
      all.loose_at = s.input;
    }
    all.positions.push_back(std::move(s));
  }
  if (all.worst) blame(r, all.worst->input, touch, all);
  return all;
}

}  // namespace palio::reducer
