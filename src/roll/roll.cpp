#include "palio/roll/roll.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "contact.hpp"
#include "engagement.hpp"
#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "tally.hpp"

namespace palio::roll {
std::string describe(const Contact& c, const Member& driver, const Member& driven) {
  const auto part = [](const Member& m, curve::Role role, int tooth, const Vec2& point) {
    if (m.motion.on_sphere()) {
      return fmt::format("{} of {}, tooth {}, at cone angle {:.4g}°", name(role), m.name, tooth,
                         2 * std::atan(m.motion.label(point)) * 180 / kPi);
    }
    return m.motion.turns() ? fmt::format("{} of {}, tooth {}, at radius {:.4g} mm", name(role), m.name, tooth,
                                          m.motion.label(point))
                            : fmt::format("{} of {}, tooth {}, at height {:.4g} mm", name(role), m.name, tooth,
                                          m.motion.label(point));
  };
  return part(driver, c.driver_role, c.driver_tooth, c.point) + ", against " +
         part(driven, c.driven_role, c.driven_tooth, c.point);
}

std::string_view name(Verdict verdict) noexcept {
  switch (verdict) {
    case Verdict::meshes: return "meshes";
    case Verdict::jams: return "jams";
    case Verdict::loses_contact: return "loses_contact";
  }
  return "";
}

namespace {

/// The plane roll at one coordinate.
struct Section {
  double coordinate;
  Limit upper, lower;
};

/// All sections that the positions of a roll look at: one grid through the middle of the faces, and where the teeth are
/// twisted one through either end of them. A section at height h is the plane roll at a coordinate turned on by the
/// twist.
class Sections {
 public:
  Sections(const ContactFinder& finder, const Member& driver, const Member& driven, const Law& law)
      : finder_(finder), law_(law), step_(finder.driver_pitch() / law.positions), period_(law.positions) {
    twist_ = driver.twist;
    slip_ = law.ratio * driver.twist - driven.twist;  // 0 where both twists agree with the law
    from_ = twist_ * law.face_from;
    to_ = twist_ * law.face_to;
    if (from_ > to_) std::swap(from_, to_);
    Trail trail;
    for (int i = 0; i <= period_; ++i)
      grid_.push_back(look(driver.start + step_ * i, trail));
    if (!twisted()) return;
    Trail trails[2];
    for (int i = 0; i < period_; ++i) {
      ends_[0].push_back(look(grid_[i].coordinate + from_, trails[0]));
      ends_[1].push_back(look(grid_[i].coordinate + to_, trails[1]));
    }
  }

  bool twisted() const noexcept { return twist_ != 0; }
  double from() const noexcept { return from_; }
  double to() const noexcept { return to_; }
  const std::vector<Section>& grid() const noexcept { return grid_; }

  /// The least (greatest) coordinate of the driven that some section of the face allows at position i.
  Limit limit(Side side, int i, int& pairs) const {
    const auto of = [side](const Section& s) -> const Limit& { return side == Side::upper ? s.upper : s.lower; };
    if (!twisted()) {
      Limit plain = of(grid_[i]);
      pairs = static_cast<int>(touching_pairs(plain.touching).size());
      return plain;
    }
    const double here = grid_[i].coordinate, sign = side == Side::upper ? 1 : -1;
    struct Look {
      const Section* section;  // the same some periods back or on: all teeth are alike
      double offset;           // of the coordinate
    };
    std::vector<Look> looks{{&ends_[0][i], from_}};
    for (int k = static_cast<int>(std::ceil(from_ / step_)); k <= static_cast<int>(std::floor(to_ / step_)); ++k) {
      const int at = i + k, periods = at >= 0 ? at / period_ : -((period_ - 1 - at) / period_);
      looks.push_back({&grid_[at - periods * period_], k * step_});
    }
    looks.push_back({&ends_[1][i], to_});

    // What a section at the coordinate c' allows, seen from here: its deviation from the law goes on unchanged.
    const auto allowed = [&](const Look& l, const Contact& c) {
      return c.driven - finder_.nominal(l.section->coordinate) + finder_.nominal(here) + slip_ * l.offset / twist_;
    };
    const auto carried = [&](const Look& l, Contact c) {
      c.driven = allowed(l, c);
      c.height = l.offset / twist_;
      return c;
    };
    Limit result;
    for (const Look& l : looks) {
      const std::optional<Contact>& first = of(*l.section).first;
      if (first && (!result.first || sign * allowed(l, *first) < sign * result.first->driven))
        result.first = carried(l, *first);
    }
    pairs = 0;
    if (!result.first) return result;
    std::vector<int> teeth;
    const std::size_t thin = std::max<std::size_t>(1, looks.size() / 20);  // shown: a few sections of the face
    for (std::size_t n = 0; n < looks.size(); ++n) {
      const Look& l = looks[n];
      for (const Contact& c : of(*l.section).touching) {
        if (sign * (allowed(l, c) - result.first->driven) * c.arm > law_.touch_mm) continue;
        // A tooth is counted once, in whatever sections it touches: by its place less what the section adds.
        const double place = finder_.tooth_place(c.driver_tooth, l.section->coordinate) - l.offset - here;
        const int tooth = static_cast<int>(std::lround(place / finder_.driver_pitch()));
        if (std::find(teeth.begin(), teeth.end(), tooth) == teeth.end()) teeth.push_back(tooth);
        if (n % thin == 0 || n + 1 == looks.size()) result.touching.push_back(carried(l, c));
      }
    }
    pairs = static_cast<int>(teeth.size());
    return result;
  }

  /// Whether no section holds the driven back further than those in which flanks touch, so that none hides another.
  bool agree(Side side) const {
    const double sign = side == Side::upper ? 1 : -1;
    double least = kInfinite, furthest = -kInfinite, arm = 0;
    for (const Section& s : grid_) {
      const Limit& limit = side == Side::upper ? s.upper : s.lower;
      if (!limit.first) continue;
      const double off = sign * (limit.first->driven - finder_.nominal(s.coordinate));
      least = std::min(least, off), arm = std::max(arm, limit.first->arm);
      if (!limit.touching.empty()) furthest = std::max(furthest, off);
    }
    return (furthest - least + std::abs(slip_ * (to_ - from_) / twist_)) * arm <= law_.touch_mm;
  }

 private:
  Section look(double coordinate, Trail& trail) const {
    Section s{coordinate, {}, {}};
    finder_.limits(coordinate, s.upper, s.lower, trail);
    return s;
  }

  const ContactFinder& finder_;
  const Law& law_;
  double step_;
  int period_;
  double twist_ = 0, slip_ = 0, from_ = 0, to_ = 0;
  std::vector<Section> grid_, ends_[2];
};

/// Each position of twisted teeth looks at all sections of the face: their number grows with the positions, the work
/// with its square.
void check_sections(const Member& driver, const Law& law, double pitch) {
  constexpr double kMost = 4e7;  // looks of a whole roll: some ten seconds
  const double pitches = std::abs(driver.twist) * (law.face_to - law.face_from) / pitch;
  if (!(pitches * law.positions * law.positions > kMost)) return;
  const int most = static_cast<int>(std::sqrt(kMost / pitches));
  if (most >= 8) {
    throw InvalidParameter(
        "positions", fmt::format("{}", law.positions),
        fmt::format("teeth that run on by {:.4g} pitches over the face take up to {}", pitches, most),
        "give fewer, or leave it out for 360");
  }
  throw InvalidParameter(
      "face_width", fmt::format("{:.6g} mm", law.face_to - law.face_from),
      fmt::format("the teeth run on by {:.4g} pitches over it, too many to roll (up to {:.4g})", pitches, kMost / 64),
      "make the face narrower");
}

}  // namespace

Result held(Result result, double driver_start, double driven_start, double ratio, double pitch, double binding,
            const std::string& driven) {
  for (const Position& p : result.positions) {
    if (!p.upper || !p.lower) continue;
    const double middle = 0.5 * (p.upper->driven + p.lower->driven);
    const double at = middle + std::remainder(driven_start + ratio * (p.driver - driver_start) - middle, pitch);
    const double over = (at - p.upper->driven) * p.upper->arm, under = (p.lower->driven - at) * p.lower->arm;
    const double depth = std::max(over, under);
    if (depth <= std::max(binding, result.max_overlap)) continue;
    result.verdict = Verdict::jams;
    result.max_overlap = depth;
    result.worst = Result::Worst{p.driver, fmt::format("{} where the other pairs of its loop hold it", driven)};
  }
  return result;
}

void check_positions(int positions) {
  constexpr int kLeast = 8, kMost = 100000;
  if (positions >= kLeast && positions <= kMost) return;
  throw InvalidParameter("positions", fmt::format("{}", positions),
                         fmt::format("it lies between {} and {}", kLeast, kMost), "leave it out for 360");
}

Result roll(const Member& driver, const Member& driven, const Law& law) {
  check_positions(law.positions);
  const ContactFinder finder(driver, driven, law);
  check_sections(driver, law, finder.driver_pitch());
  const Sections sections(finder, driver, driven, law);
  Result result{};
  result.drives_upper = law.ratio < 0;
  Tally tally(driver.name, driven.name, law, [&](const Contact& c) { return describe(c, driver, driven); });
  const Side pushed = result.drives_upper ? Side::upper : Side::lower;
  for (int i = 0; i < law.positions; ++i) {
    Position p{};
    p.driver = sections.grid()[i].coordinate;
    Limit upper = sections.limit(Side::upper, i, p.pairs_upper), lower = sections.limit(Side::lower, i, p.pairs_lower);
    p.upper = upper.first, p.lower = lower.first;
    p.touching_upper = std::move(upper.touching), p.touching_lower = std::move(lower.touching);
    const double nominal = finder.nominal(p.driver);
    const double middle = p.play() ? 0.5 * (p.upper->driven + p.lower->driven) : nominal;
    p.tip_clearance = {finder.crest_clearance(true, p.driver, middle), finder.crest_clearance(false, p.driver, middle)};
    tally.add(p, nominal, result.drives_upper);
    result.positions.push_back(std::move(p));
  }
  // The last section of the grid is the first position again, one tooth on: it closes the period.
  std::vector<double> at;
  std::vector<std::vector<Touching>> touching;
  for (const Section& s : sections.grid()) {
    at.push_back(s.coordinate);
    touching.push_back(touching_pairs((pushed == Side::upper ? s.upper : s.lower).touching));
  }
  const Engagement plane(
      at, touching, [&](int tooth, double coordinate) { return finder.tooth_place(tooth, coordinate); },
      [&](double coordinate) { return touching_pairs(finder.limit(pushed, coordinate).touching); });
  if (sections.twisted() && !sections.agree(pushed)) {
    // Somewhere an edge holds the flanks apart: then it does so in all sections that are looked at together.
    int sum = 0, none = 0;
    for (const Position& p : result.positions) {
      const int pairs = result.drives_upper ? p.pairs_upper : p.pairs_lower;
      sum += pairs;
      none += pairs == 0 ? 1 : 0;
    }
    result.pairs_mean = static_cast<double>(sum) / law.positions;
    result.lost_share = static_cast<double>(none) / law.positions;
  } else {
    const Engagement engaged = sections.twisted() ? plane.widened(sections.from(), sections.to()) : plane;
    result.pairs_mean = engaged.mean();
    result.lost_share = engaged.lost_share();
  }
  tally.finish(result);
  return result;
}

}  // namespace palio::roll
