// Everything is found from the disc's edge itself and from circles: nearest places by Newton on the exact curve, the room of
// a turning part by Newton on whichever gap closes first.
#include "palio/reducer/play.hpp"

#include <algorithm>
#include <cmath>
#include <functional>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"

namespace palio::reducer {
namespace {

using Gaps = std::function<std::vector<RollerGap>(double)>;

double least(const std::vector<RollerGap>& gaps) {
  double low = 1e300;
  for (const RollerGap& g : gaps) low = std::min(low, g.gap);
  return low;
}

/// How far it can turn that way (sense +1 or −1) until a gap is gone: Newton on the gap that closes first. Gaps that hardly
/// close by turning, their normal going nearly through the axis, are left to the check afterwards.
double limit(const Gaps& gaps, double start, int sense, double flat) {
  double at = start;
  for (int i = 0; i < 30; ++i) {
    double step = 1e300;
    for (const RollerGap& g : gaps(at)) {
      if (sense * g.lever > flat) step = std::min(step, g.gap / (sense * g.lever));
    }
    if (step > 1) return start + sense * 1.0;
    at += sense * step;
    if (std::abs(step) < 1e-15) break;
  }
  return at;
}

/// The angle at which the smallest gap is largest: unavoidable overlap is what is left there. The smallest of gaps is concave
/// near enough along the angle.
double roomiest(const Gaps& gaps, double low, double high) {
  constexpr double kGolden = 0.6180339887498949;
  for (int i = 0; i < 70 && high - low > 1e-15; ++i) {
    const double a = high - kGolden * (high - low), b = low + kGolden * (high - low);
    if (least(gaps(a)) > least(gaps(b))) high = b;
    else low = a;
  }
  return (low + high) / 2;
}

Room room(const Gaps& gaps, double arm, double touch) {
  const double here = least(gaps(0)), flat = 1e-5 * arm;
  double start = 0;
  if (here < -touch) {
    // Perhaps a little further round; turning by a few times the overlap over the arm shows it.
    const double wide = -30 * here / arm;
    start = roomiest(gaps, -wide, wide);
    const std::vector<RollerGap> at = gaps(start);
    const double overlap = -least(at);
    if (overlap > touch) {
      // How far the members that stop it either way would have to give way: upside down.
      Room r{-1e300, 1e300, start, overlap};
      for (const RollerGap& g : at) {
        if (g.lever > 0.3 * arm) r.high = std::min(r.high, start + g.gap / g.lever);
        if (g.lever < -0.3 * arm) r.low = std::max(r.low, start + g.gap / g.lever);
      }
      if (r.low < -1e299 || r.high > 1e299) r.low = start + overlap / arm, r.high = start - overlap / arm;
      return r;
    }
  }
  const auto checked = [&](double end) {
    if (least(gaps(end)) >= -touch) return end;
    double free = start;
    for (int i = 0; i < 60; ++i) {
      const double middle = (free + end) / 2;
      (least(gaps(middle)) >= -touch ? free : end) = middle;
    }
    return free;
  };
  Room r{checked(limit(gaps, start, -1, flat)), checked(limit(gaps, start, +1, flat)), start, 0};
  if (r.high < r.low) r.low = r.high = (r.low + r.high) / 2;  // rounding
  return r;
}

}  // namespace

std::vector<RollerGap> roller_gaps(const Reducer& r, std::size_t disc, double input, double turn) {
  const Spec& s = r.spec();
  const curve::LobeCurve& edge = r.curve();
  const double theta = r.turned(disc, input) + turn, Z = r.sizes().lobes;
  const Vec2 C = r.centre(disc, input);
  std::vector<RollerGap> all;
  for (int k = 0; k < s.rollers; ++k) {
    const Vec2 q = turned(r.roller(k) - C, -theta);
    // Without play the roller touches where the edge's parameter is its own place seen from the disc.
    double t = 2 * kPi * k / s.rollers - r.turned(disc, input) - turn * (Z + 1) / Z;
    curve::Jet j = edge.jet(t);
    for (int i = 0; i < 12; ++i) {
      const Vec2 off = j.p - q;
      const double slope = off.dot(j.d1), bend = j.d1.squaredNorm() + off.dot(j.d2);
      const double step = bend > 0 ? slope / bend : slope / j.d1.squaredNorm();
      t -= step;
      j = edge.jet(t);
      if (std::abs(step) < 1e-14) break;
    }
    const Vec2 n = Vec2(j.d1.y(), -j.d1.x()).normalized();
    RollerGap g{(q - j.p).dot(n) - s.roller_diameter / 2, quarter_turn(j.p).dot(n), C + turned(j.p, theta), turned(n, theta)};
    all.push_back(g);
  }
  return all;
}

std::vector<RollerGap> pin_gaps(const Reducer& r, std::size_t disc, double input, double turn, double output) {
  const Spec& s = r.spec();
  const double R_p = s.output_pin_circle_diameter / 2, hole = r.sizes().output_hole_diameter / 2, slack = hole - s.output_pin_diameter / 2;
  const double theta = r.turned(disc, input) + turn + r.discs()[disc].hole_phase, psi = r.output(input) + output + r.flange_phase();
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

Standing standing(const Reducer& r, double input, double touch) {
  const double arm = r.spec().eccentricity * r.sizes().lobes, pin_arm = r.spec().output_pin_circle_diameter / 2;
  Standing s{input, {}, {}, {-1, 1, 0, 0}};
  for (std::size_t d = 0; d < r.discs().size(); ++d) {
    s.discs.push_back(room([&](double turn) { return roller_gaps(r, d, input, turn); }, arm, touch));
    // Pressed to either side the disc takes the output along, as far as pins have room in its holes.
    const auto pins = [&](double turn) { return room([&](double out) { return pin_gaps(r, d, input, turn, out); }, pin_arm, touch); };
    const bool jammed = s.discs[d].overlap > 0;
    const Room low = pins(jammed ? s.discs[d].at : s.discs[d].low), high = jammed || s.discs[d].high == s.discs[d].low ? low : pins(s.discs[d].high);
    s.through.push_back({low.low, high.high, (low.at + high.at) / 2, std::max({s.discs[d].overlap, low.overlap, high.overlap})});
    if (jammed) s.through[d].low += s.discs[d].low - s.discs[d].at, s.through[d].high += s.discs[d].high - s.discs[d].at;
    s.output.low = std::max(s.output.low, s.through[d].low), s.output.high = std::min(s.output.high, s.through[d].high);
    s.output.overlap = std::max(s.output.overlap, s.through[d].overlap);
  }
  s.output.at = (s.output.low + s.output.high) / 2;
  if (s.output.low > s.output.high && s.output.overlap == 0) {
    // What one disc wants and another does not allow, at the pins.
    const double clash = (s.output.low - s.output.high) * pin_arm / 2;
    if (clash > touch) s.output.overlap = std::max(s.output.overlap, clash);
    else s.output.low = s.output.high = (s.output.low + s.output.high) / 2;
  }
  return s;
}

Room pin_room(const Reducer& r, std::size_t disc, double input, double touch) {
  return room([&](double out) { return pin_gaps(r, disc, input, 0, out); }, r.spec().output_pin_circle_diameter / 2, touch);
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
            fmt::format("is {}, the rollers are {}; cut for {} or more", mm(*s.cut_roller_diameter), mm(s.roller_diameter), mm(s.roller_diameter)),
            [&](Spec& x) { x.cut_roller_diameter.reset(); });
  if (s.cut_roller_circle_diameter && *s.cut_roller_circle_diameter != s.roller_circle_diameter)
    suspect("cut_roller_circle_diameter",
            fmt::format("is {}, the rollers stand on {}; cut for that circle, and give play by cut_roller_diameter or disc_offset",
                        mm(*s.cut_roller_circle_diameter), mm(s.roller_circle_diameter)),
            [&](Spec& x) { x.cut_roller_circle_diameter.reset(); });
  if (s.disc_offset != 0)
    suspect("disc_offset", fmt::format("is {}, which leaves the disc too large; give 0 or more", mm(s.disc_offset)), [&](Spec& x) { x.disc_offset = 0; });
  if (s.output_hole_clearance != 0)
    suspect("output_hole_clearance", fmt::format("is {}, so the holes are too narrow for pin and eccentricity; give 0 or more", mm(s.output_hole_clearance)),
            [&](Spec& x) { x.output_hole_clearance = 0; });
  if (s.disc_parts == DiscParts::one && s.discs > 1) {
    std::string serving;
    for (const int n : r.serving_pins()) serving += (serving.empty() ? "" : ", ") + std::to_string(n);
    suspect("output_pins",
            fmt::format("is {}: one disc part does not serve at all {} places; {}give disc_parts = \"own\"", s.output_pins, s.discs,
                        serving.empty() ? "" : "take " + serving + " pins, or "),
            [&](Spec& x) { x.disc_parts = DiscParts::own; });
  }
  double best = 1e300;
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
  Rolled all{};
  all.verdict = roll::Verdict::meshes;
  const auto take = [](std::optional<roll::Range>& range, double low, double high) {
    if (!range) range = roll::Range{low, high};
    range->min = std::min(range->min, low), range->max = std::max(range->max, high);
  };
  for (int i = 0; i < positions; ++i) {
    Standing s = standing(r, 2 * kPi * i / positions, touch);
    take(all.play, s.output.high - s.output.low, s.output.high - s.output.low);
    take(all.error, (s.output.high + s.output.low) / 2, (s.output.high + s.output.low) / 2);
    for (const Room& disc : s.discs) take(all.disc_play, disc.high - disc.low, disc.high - disc.low);
    if (s.output.overlap > all.max_overlap) {
      all.verdict = roll::Verdict::jams;
      all.max_overlap = s.output.overlap;
      std::string where = "the output pins";
      for (std::size_t d = 0; d < s.discs.size(); ++d) {
        if (s.discs[d].overlap > touch) {
          const auto gaps = roller_gaps(r, d, s.input, s.discs[d].at);
          const auto worst = std::min_element(gaps.begin(), gaps.end(), [](const RollerGap& a, const RollerGap& b) { return a.gap < b.gap; });
          where = fmt::format("disc {} and roller {}", d + 1, worst - gaps.begin());
          break;
        }
        if (s.through[d].overlap > touch) where = fmt::format("the output pins in the holes of disc {}", d + 1);
        else if (s.discs.size() > 1) where = "the output pins, which the discs want at different places";
      }
      all.worst = Rolled::Worst{s.input, where};
    }
    all.positions.push_back(std::move(s));
  }
  if (all.worst) blame(r, all.worst->input, touch, all);
  return all;
}

}  // namespace palio::reducer
