// Everything is found from the disc's edge itself and from circles: nearest places by Newton on the exact curve, the
// room of a turning part by Newton on whichever gap closes first.
#include "palio/reducer/play.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"

namespace palio::reducer {
namespace {

using Gaps = std::function<std::vector<RollerGap>(double)>;

double least(const std::vector<RollerGap>& gaps) {
  double low = std::numeric_limits<double>::infinity();
  for (const RollerGap& g : gaps)
    low = std::min(low, g.gap);
  return low;
}

/// Looks along a way of half a period: gaps waver once in a whole one, so that between two looks none closes and opens
/// again.
constexpr int kLooks = 16;

/// How far it can turn that way (sense +1 or −1) until a gap is gone, `reach` at most. The first look without room and
/// the last with it bracket the end; within the bracket Newton on the gap that closes first, halving where that would
/// leave it. Gaps that hardly close by turning, their normal going nearly through the axis, are left to the bracket.
/// \param here  the gaps at `start`
/// \param hint  how far it went at a position beside this one: where Newton begins, if there is room and it stays
/// before
///              the first look
double limit(const Gaps& gaps, double start, int sense, double reach, double flat, double touch,
             std::vector<RollerGap> here, std::optional<double> hint) {
  double free = 0, stopped = -1;
  const auto look = [&](double way) {
    std::vector<RollerGap> there = gaps(start + sense * way);
    if (least(there) < -touch)
      stopped = way;
    else
      free = way, here = std::move(there);
  };
  const double first = reach / kLooks;
  if (hint && *hint > 0 && *hint < 0.5 * first) {
    look(*hint);
    if (stopped < 0) stopped = first;  // not looked at: whoever comes near it looks again from the beginning
  }
  const auto refine = [&] {
    for (int i = 0; i < 100; ++i) {
      double step = std::numeric_limits<double>::infinity();
      for (const RollerGap& g : here) {
        if (sense * g.lever > flat) step = std::min(step, g.gap / (sense * g.lever));
      }
      double next = free + step;
      if (!(next < stopped)) next = 0.5 * (free + stopped);
      if (std::abs(next - free) < 1e-15) break;
      // A step back, or one into what is stopped, is Newton's own: it goes on from there and comes back to the end.
      look(next);
      if (stopped - free < 1e-15) break;
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
  double best = 0, most = least(gaps(0));
  for (int i = -kLooks; i <= kLooks; ++i) {
    const double here = least(gaps(reach * i / kLooks));
    if (here > most) most = here, best = reach * i / kLooks;
  }
  double low = best - reach / kLooks, high = best + reach / kLooks;
  constexpr double kGolden = 0.6180339887498949;
  for (int i = 0; i < 70 && high - low > 1e-15; ++i) {
    const double a = high - kGolden * (high - low);
    const double b = low + kGolden * (high - low);
    if (least(gaps(a)) > least(gaps(b)))
      high = b;
    else
      low = a;
  }
  return (low + high) / 2;
}

/// \param reach   half a period: turned by a whole one it stands as before, one lobe or one hole on
/// \param beside  the room at a position beside this one, if known
Room room(const Gaps& gaps, double arm, double reach, double touch, const Room* beside = nullptr) {
  std::vector<RollerGap> at_start = gaps(0);
  const double here = least(at_start), flat = 1e-5 * arm;
  double start = 0;
  if (here < -touch) {
    // Perhaps a little further round; turning by a few times the overlap over the arm shows it.
    start = roomiest(gaps, std::min(reach, -30 * here / arm));
    at_start = gaps(start);
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
  r.loose = r.low <= start - reach * (1 - 1e-9) && r.high >= start + reach * (1 - 1e-9);
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
      if (std::abs(step) < 1e-8) {
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

std::vector<RollerGap> roller_gaps(const Reducer& r, std::size_t disc, double input, double turn,
                                   std::vector<double>* places) {
  const Spec& s = r.spec();
  const curve::LobeCurve& edge = r.curve();
  const double theta = r.turned(disc, input) + turn, Z = r.sizes().lobes;
  const Vec2 C = r.centre(disc, input);
  std::vector<RollerGap> all;
  all.reserve(static_cast<std::size_t>(s.rollers));
  if (places) places->resize(static_cast<std::size_t>(s.rollers), 0.0);
  for (int k = 0; k < s.rollers; ++k) {
    const Vec2 q = turned(r.roller(k) - C, -theta);
    // Without play the roller touches where the edge's parameter is its own place seen from the disc; with play near
    // by.
    const double guess = 2 * kPi * k / s.rollers - r.turned(disc, input) - turn * (Z + 1) / Z;
    double* place = places ? &(*places)[static_cast<std::size_t>(k)] : nullptr;
    const auto [t, j] = nearest(edge, q, guess, guess + (place ? *place : 0.0), kPi / Z);
    if (place) *place = t - guess;
    const Vec2 n = Vec2(j.d1.y(), -j.d1.x()).normalized();
    RollerGap g{(q - j.p).dot(n) - s.roller_diameter / 2, quarter_turn(j.p).dot(n), C + turned(j.p, theta),
                turned(n, theta)};
    all.push_back(g);
  }
  return all;
}

std::vector<RollerGap> pin_gaps(const Reducer& r, std::size_t disc, double input, double turn, double output) {
  const Spec& s = r.spec();
  const double R_p = s.output_pin_circle_diameter / 2, hole = r.sizes().output_hole_diameter / 2,
               slack = hole - s.output_pin_diameter / 2;
  const double theta = r.turned(disc, input) + turn + r.discs()[disc].hole_phase,
               psi = r.output(input) + output + r.flange_phase();
  const Vec2 C = r.centre(disc, input);
  // Hole 0 of the disc stands before pin 0, or before the pin a whole number of places on.
  const double n = s.output_pins, places = std::round((theta - psi) * n / (2 * kPi));
  std::vector<RollerGap> all;
  for (int i = 0; i < s.output_pins; ++i) {
    const Vec2 H = C + from_polar(R_p, theta + 2 * kPi * i / n), P = from_polar(R_p, psi + 2 * kPi * (i + places) / n);
    const Vec2 off = P - H, u = off.norm() > 0 ? Vec2(off.normalized()) : Vec2(1, 0);
    all.push_back({slack - off.norm(), quarter_turn(P).dot(u), H + hole * u, u});
  }
  return all;
}

Standing standing(const Reducer& r, double input, double touch, const Standing* beside) {
  const double arm = r.spec().eccentricity * r.sizes().lobes, pin_arm = r.spec().output_pin_circle_diameter / 2;
  const double lobe = kPi / r.sizes().lobes, hole = kPi / r.spec().output_pins;  // half a period each
  Standing s{input, {}, {}, {-hole - lobe, hole + lobe}};
  for (std::size_t d = 0; d < r.discs().size(); ++d) {
    std::vector<double> places;
    s.discs.push_back(room([&](double turn) { return roller_gaps(r, d, input, turn, &places); }, arm, lobe, touch,
                           beside ? &beside->discs[d] : nullptr));
    // Pressed to either side the disc takes the output along, as far as pins have room in its holes.
    const auto pins = [&](double turn) {
      return room([&](double out) { return pin_gaps(r, d, input, turn, out); }, pin_arm, hole, touch);
    };
    const bool jammed = s.discs[d].overlap > 0;
    const Room low = pins(jammed ? s.discs[d].at : s.discs[d].low),
               high = jammed || s.discs[d].high == s.discs[d].low ? low : pins(s.discs[d].high);
    s.through.push_back({low.low, high.high, (low.at + high.at) / 2,
                         std::max({s.discs[d].overlap, low.overlap, high.overlap}), s.discs[d].loose});
    if (jammed)
      s.through[d].low += s.discs[d].low - s.discs[d].at, s.through[d].high += s.discs[d].high - s.discs[d].at;
    s.output.low = std::max(s.output.low, s.through[d].low), s.output.high = std::min(s.output.high, s.through[d].high);
    s.output.overlap = std::max(s.output.overlap, s.through[d].overlap);
    s.output.loose = (d == 0 || s.output.loose) && s.discs[d].loose;
  }
  s.output.at = (s.output.low + s.output.high) / 2;
  if (s.output.low > s.output.high && s.output.overlap == 0) {
    // What one disc wants and another does not allow, at the pins.
    const double clash = (s.output.low - s.output.high) * pin_arm / 2;
    if (clash > touch)
      s.output.overlap = std::max(s.output.overlap, clash);
    else
      s.output.low = s.output.high = (s.output.low + s.output.high) / 2;
  }
  return s;
}

Room pin_room(const Reducer& r, std::size_t disc, double input, double touch) {
  return room([&](double out) { return pin_gaps(r, disc, input, 0, out); }, r.spec().output_pin_circle_diameter / 2,
              kPi / r.spec().output_pins, touch);
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
  for (int i = 0; i < positions; ++i) {
    Standing s = standing(r, 2 * kPi * i / positions, touch, i > 0 ? &all.positions.back() : nullptr);
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
