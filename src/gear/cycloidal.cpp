#include "palio/gear/cycloidal.hpp"

#include <algorithm>
#include <cmath>

#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"
#include "spec_checks.hpp"

namespace palio::gear {
namespace {

using curve::Arc;
using curve::Cycloid;
using curve::Role;
using curve::Segment;

/// An arc about `centre` from one point to another, the short way in the sense given.
Segment arc_between(const Vec2& centre, const Vec2& from, const Vec2& to, bool clockwise, Role role) {
  const Vec2 a = from - centre, b = to - centre;
  const double start = std::atan2(a.y(), a.x());
  double end = std::atan2(b.y(), b.x());
  while (clockwise && end > start + math::kRounding)
    end -= 2 * kPi;
  while (!clockwise && end < start - math::kRounding)
    end += 2 * kPi;
  return {Arc{centre, a.norm()}, start, end, role};
}

/// Joins a lower half, from the middle of the gap before a tooth to the tooth's tip, with its mirror image.
curve::Outline whole(const std::vector<Segment>& lower, const std::optional<Segment>& top, int teeth) {
  curve::Outline o;
  o.count = teeth;
  o.period = lower;
  if (top) o.period.push_back(*top);
  for (std::size_t i = lower.size(); i-- > 0;)
    o.period.push_back(curve::mirrored(lower[i]));
  return o;
}

/// Where a flank ends at the root: at a roll angle and a place on the root circle, with the round between them.
struct RootEnd {
  double roll;
  Vec2 place;
  std::optional<Segment> round;
};

/// An arc tangent to the flank and to the root circle, at the inner end of a gear, the outer end of a ring.
/// \param roll  where the flank meets the root circle  \param sign  +1 of a gear, −1 of a ring
RootEnd root_end(const Cycloid& flank, double roll, double root_radius, double fillet, double sign) {
  if (!(fillet > 0)) return {roll, flank.jet(roll).p, std::nullopt};
  // The arc's centre: off the flank into the gap, which lies on the right of the way out (a ring's: on the left).
  const auto centre = [&](double u) {
    const curve::Jet j = flank.jet(u);
    const Vec2 with_u = (j.d1.squaredNorm() > 0 ? j.d1 : j.d2).normalized(), out = sign < 0 ? with_u : Vec2(-with_u);
    return Vec2(j.p - sign * fillet * quarter_turn(out));
  };
  const auto off = [&](double u) { return sign * (centre(u).norm() - (root_radius + sign * fillet)); };
  require(off(math::kAlike) > 0 && off(roll) < 0, "root.fillet_radius", mm(fillet),
          "no arc of that radius touches both flank and root circle", "make it smaller, or leave it out");
  const double u = math::find_root(off, math::kAlike, roll);
  const Vec2 c = centre(u), touch = flank.jet(u).p, at_root = c * (root_radius / c.norm());
  return {
      u, at_root,
      sign < 0 ? arc_between(c, touch, at_root, false, Role::root) : arc_between(c, at_root, touch, true, Role::root)};
}

/// A period of a ring, clockwise, the material outside: from the middle of the space to that of the tooth, and its
/// mirror image beyond.
curve::Outline ring_period(std::vector<Segment> to_middle, int teeth) {
  curve::Outline outline;
  outline.period = std::move(to_middle);
  for (std::size_t i = outline.period.size(); i-- > 0;)
    outline.period.push_back(curve::turned(curve::mirrored(outline.period[i]), -2 * kPi / teeth));
  outline.count = teeth, outline.clockwise = true;
  return outline;
}

}  // namespace

std::optional<double> roll_at_radius(double r, double rho, bool outside, double R) {
  const double s = outside ? 1 : -1, square = (R - r) * (R + r) / (4 * s * rho * (r + s * rho));
  if (!(square >= 0) || square > 1) return std::nullopt;
  return 2 * std::asin(std::sqrt(square));
}

double cycloid_angle(double r, double rho, bool outside, double u) {
  const double s = outside ? 1 : -1;
  return rho * u / r - std::atan2(rho * std::sin(u), r + s * rho - s * rho * std::cos(u));
}

RollingCircles radial_flanks(int z1, int z2, double m) { return {z2 * m / 4, z1 * m / 4, z1 * m / 4, z2 * m / 4}; }
RollingCircles equal_circles(double rho) { return {rho, rho, rho, rho}; }

CycloidalGear::CycloidalGear(const CycloidalSpec& spec) : spec_(spec) {
  const CycloidalSpec& s = spec_;
  require(s.teeth >= 3, "teeth", fmt::format("{}", s.teeth), "a closed gear needs at least 3", "give 3 or more");
  require(s.module > 0 && std::isfinite(s.module), "module", mm(s.module), "a module is above 0", "give 1.5 mm, say");
  const double m = s.module, r = s.teeth * m / 2;
  require(s.face_rolling_radius > 0, "face_rolling_radius", mm(s.face_rolling_radius), "it is above 0",
          "half the mate's pitch radius makes the mate's flanks radial");
  require(s.flank_rolling_radius > 0, "flank_rolling_radius", mm(s.flank_rolling_radius), "it is above 0",
          "half the own pitch radius makes radial flanks");
  // Of a ring the opening is what an external gear's tooth is: its space stands where that tooth would.
  const double own = s.thickness_allowance / (2 * r), psi = kPi / (2 * s.teeth) + (s.internal ? -own : own);
  const double inner_rho = s.internal ? s.face_rolling_radius : s.flank_rolling_radius,
               outer_rho = s.internal ? s.flank_rolling_radius : s.face_rolling_radius;
  require(inner_rho < r * (1 - math::kAlike), s.internal ? "face_rolling_radius" : "flank_rolling_radius",
          mm(inner_rho), "it rolls inside the pitch circle of radius " + mm(r),
          "make it smaller; half the pitch radius makes radial flanks");
  require(psi > 0, "thickness_allowance", mm(s.thickness_allowance), "it leaves nothing of the tooth or its space",
          "thin by less");
  const double above = s.internal ? s.dedendum : s.addendum, below = s.internal ? s.addendum : s.dedendum;
  double R_out = r + above * m, R_in = r - below * m;
  require(above > 0 && below > 0 && R_in > 0, "dedendum", fmt::format("{:.6g}", s.dedendum),
          "tip and root lie on both sides of the pitch circle and outside the axis", "change it");

  const double fillet = s.fillet_radius;
  const Cycloid outer{r, outer_rho, true, -psi, +1}, inner{r, inner_rho, false, -psi, -1};
  const auto reach = [&](bool outside, double R, const char* key) {
    const auto u = roll_at_radius(r, outside ? outer_rho : inner_rho, outside, R);
    const double limit = outside ? r + 2 * outer_rho : std::abs(r - 2 * inner_rho);
    require(u.has_value(), key, fmt::format("radius {}", mm(R)),
            fmt::format("the rolling circle draws no further than {}", mm(limit)),
            "make the tooth shorter there or the rolling circle larger");
    return *u;
  };
  double u_out = reach(true, R_out, s.internal ? "dedendum" : "addendum"),
         u_in = reach(false, R_in, s.internal ? "addendum" : "dedendum");
  // The two faces of a tooth may meet before its tip.
  const bool outside_tip = !s.internal;
  const double face_half = s.internal ? kPi / s.teeth - psi : psi, face_rho = outside_tip ? outer_rho : inner_rho;
  double& u_tip = outside_tip ? u_out : u_in;
  const auto left = [&](double u) { return face_half - cycloid_angle(r, face_rho, outside_tip, u); };
  constexpr double kLand = 1e-3;  // of the half tooth, at a point
  if (left(u_tip) < kLand * face_half) {
    sizes_.pointed = true;
    u_tip = math::find_root([&](double u) { return left(u) - kLand * face_half; }, 0, u_tip);
    (outside_tip ? R_out : R_in) = (outside_tip ? outer : inner).jet(u_tip).p.norm();
  }
  tip_roll_ = u_tip;
  sizes_.tip_thickness = 2 * left(u_tip) * (outside_tip ? R_out : R_in);

  const double middle = -kPi / s.teeth;
  const Arc floor{Vec2::Zero(), R_in}, ceiling{Vec2::Zero(), R_out};
  const bool at_outer = s.internal;
  double& u_root = at_outer ? u_out : u_in;
  const Cycloid& flank = at_outer ? outer : inner;
  const RootEnd root = root_end(flank, u_root, at_outer ? R_out : R_in, fillet, at_outer ? -1 : 1);
  u_root = root.roll;
  const double root_angle = std::atan2(root.place.y(), root.place.x());
  sizes_.pitch_diameter = 2 * r;
  sizes_.tip_diameter = 2 * (outside_tip ? R_out : R_in), sizes_.root_diameter = 2 * (outside_tip ? R_in : R_out);
  sizes_.form_diameter = 2 * flank.jet(u_root).p.norm();
  if (at_outer) {
    // A ring's opening: its floor are the teeth's tips.
    const Vec2 tip_end = inner.jet(u_in).p;
    const double tip_angle = std::atan2(tip_end.y(), tip_end.x());
    require(root_angle < 0, "root.fillet_radius", mm(fillet), "the fillets of both flanks overlap", "make it smaller");
    std::vector<Segment> half{{ceiling, 0, root_angle, Role::root}};
    if (root.round) half.push_back(curve::reversed(*root.round));
    half.push_back({outer, u_out, 0, Role::flank});
    half.push_back({inner, 0, u_in, Role::flank});
    half.push_back({floor, tip_angle, middle, Role::tip});
    outline_ = ring_period(std::move(half), s.teeth);
    return;
  }
  require(root_angle > middle, "root.fillet_radius", mm(fillet), "the fillets of both flanks overlap",
          "make it smaller");
  std::vector<Segment> lower{{floor, middle, root_angle, Role::root}};
  if (root.round) lower.push_back(*root.round);
  lower.push_back({inner, u_root, 0, Role::flank});
  lower.push_back({outer, 0, u_out, Role::flank});
  outline_ = whole(lower, Segment{ceiling, -left(u_out), left(u_out), Role::tip}, s.teeth);
}

Angle CycloidalGear::half_tooth_angle(double R) const {
  const double r = sizes_.pitch_diameter / 2, psi = kPi / (2 * spec_.teeth) + spec_.thickness_allowance / (2 * r);
  const bool face = spec_.internal ? R < r : R > r, outside = R > r;
  const double rho = face ? spec_.face_rolling_radius : spec_.flank_rolling_radius;
  const double g = cycloid_angle(r, rho, outside, roll_at_radius(r, rho, outside, R).value_or(kPi));
  return Angle::radians(psi + (face ? -g : g));
}

std::optional<double> pointed_diameter(const CycloidalGear& gear) {
  const CycloidalSpec& s = gear.spec();
  const double r = gear.sizes().pitch_diameter / 2, rho = s.face_rolling_radius;
  // Of a ring the faces lie within the pitch circle, where g is counted from its own tooth's middle.
  const auto half = [&](double u) {
    return kPi / (2 * s.teeth) + s.thickness_allowance / (2 * r) - cycloid_angle(r, rho, !s.internal, u);
  };
  if (half(kPi) > 0) return std::nullopt;
  const double u = math::find_root(half, 0, kPi);
  return 2 * curve::Cycloid{r, rho, !s.internal, 0, 1}.jet(u).p.norm();
}

TrueCycloidPair::TrueCycloidPair(CycloidalGear driver, CycloidalGear driven)
    : driver_(std::move(driver)), driven_(std::move(driven)) {}

bool TrueCycloidPair::conjugate() const {
  const auto same = [](double a, double b) { return std::abs(a - b) <= math::kAlike * std::max(a, b); };
  const CycloidalSpec &a = driver_.spec(), &b = driven_.spec();
  return same(a.face_rolling_radius, b.flank_rolling_radius) && same(a.flank_rolling_radius, b.face_rolling_radius) &&
         same(a.module, b.module);
}

double TrueCycloidPair::center_distance() const noexcept {
  const double r1 = driver_.sizes().pitch_diameter / 2, r2 = driven_.sizes().pitch_diameter / 2;
  return driver_.spec().internal || driven_.spec().internal ? std::abs(r2 - r1) : r1 + r2;
}

double TrueCycloidPair::motion_ratio() const noexcept {
  const double ratio = static_cast<double>(driver_.spec().teeth) / driven_.spec().teeth;
  return driver_.spec().internal || driven_.spec().internal ? ratio : -ratio;
}

double TrueCycloidPair::contact_ratio() const {
  const CycloidalSpec &a = driver_.spec(), &b = driven_.spec();
  return (a.face_rolling_radius * driver_.tip_roll() + b.face_rolling_radius * driven_.tip_roll()) / (kPi * a.module);
}

std::array<Angle, 2> TrueCycloidPair::angular_backlash() const {
  const double thinning = -(driver_.spec().thickness_allowance + driven_.spec().thickness_allowance);
  return {Angle::radians(2 * thinning / driver_.sizes().pitch_diameter),
          Angle::radians(2 * thinning / driven_.sizes().pitch_diameter)};
}

bool TrueCycloidPair::circles_clear() const {
  if (!driver_.spec().internal && !driven_.spec().internal) return true;
  return driver_.spec().face_rolling_radius + driven_.spec().face_rolling_radius <=
         center_distance() * (1 + math::kRounding);
}

curve::Outline lantern_pins(int pins, double module, double pin_diameter) {
  const Arc pin{Vec2(pins * module / 2, 0), pin_diameter / 2};
  curve::Outline o;
  o.count = pins;
  // From the side of the axis round: two halves, of which either can be in the way.
  o.period = {{pin, -kPi, 0, Role::flank}, {pin, 0, kPi, Role::flank}};
  return o;
}

LanternPinion::LanternPinion(const LanternSpec& spec) : spec_(spec) {
  LanternSpec& s = spec_;
  require(s.pins >= 3, "teeth", fmt::format("{}", s.pins), "a pinion needs at least 3 pins", "give 6 or more");
  require(s.module > 0 && std::isfinite(s.module), "module", mm(s.module), "a module is above 0", "give 1.5 mm, say");
  require(s.pin_diameter > 0 && pin_gap() > 0, "pin_diameter", mm(s.pin_diameter),
          fmt::format("neighbouring pins overlap from {} on", mm(s.pins * s.module * std::sin(kPi / s.pins))),
          "give about 1.2 to 1.6 modules");
  require(s.pin_diameter < s.pins * s.module, "pin_diameter", mm(s.pin_diameter), "the pins reach the axis",
          "make them thinner");
  if (s.plate_thickness <= 0) s.plate_thickness = s.pin_diameter;
  const double least = s.pins * s.module + s.pin_diameter;
  if (s.plate_diameter <= 0) s.plate_diameter = least + s.pin_diameter;
  require(s.plate_diameter > least, "plate_diameter", mm(s.plate_diameter),
          "the plates hold the pins, which reach out to " + mm(least), "make it larger");
  outline_ = lantern_pins(s.pins, s.module, s.pin_diameter);
}

double LanternPinion::pin_gap() const noexcept {
  return spec_.pins * spec_.module * std::sin(kPi / spec_.pins) - spec_.pin_diameter;
}

LanternWheel::LanternWheel(const LanternWheelSpec& spec) : spec_(spec) {
  const LanternWheelSpec& s = spec_;
  require(s.teeth >= 3 && s.pins >= 3, s.teeth >= 3 ? "pins" : "teeth", fmt::format("{}", std::min(s.teeth, s.pins)),
          "wheel and pinion need at least 3", "give 3 or more");
  const double m = s.module, r = s.teeth * m / 2, rho = s.pins * m / 2, r_p = s.pin_diameter / 2;
  require(r_p > 0 && s.pin_diameter + s.backlash < kPi * m * 0.9, "pin_diameter", mm(s.pin_diameter),
          fmt::format("the pitch is {}, and teeth need room between the pins", mm(kPi * m)),
          "give about 1.2 to 1.6 modules");
  // The pin's radius, and half the play on either side of it.
  const double play = s.backlash / (2 * r);
  fold_ = 2 * std::asin(std::min(1.0, r_p * (r + 2 * rho) / (4 * rho * (r + rho))));
  const Cycloid flank{r, rho, true, -kPi / s.teeth + play, +1, r_p};
  const Vec2 cusp = from_polar(r, flank.start);
  // Nearer to the cusp than the pin's own surface the curve is cut away by the pin itself.
  const auto outside_pin = [&](double u) { return (flank.jet(u).p - cusp).norm() - r_p; };
  double far = fold_;
  while (outside_pin(far) <= 0 && far < kPi)
    far += 0.02;
  require(far < kPi, "pin_diameter", mm(s.pin_diameter), "no part of the flank is left by so thick a pin",
          "give a thinner one");
  start_ = math::find_root(outside_pin, fold_, far);
  double R_tip = r + s.addendum * m;
  const auto radius = [&](double u) { return flank.jet(u).p.norm(); };
  require(radius(start_) < R_tip, "addendum", fmt::format("{:.6g}", s.addendum),
          "the tip lies below the start of the flank", "raise it");
  const auto half = [&](double u) {
    const Vec2 p = flank.jet(u).p;
    return -std::atan2(p.y(), p.x());
  };
  // Up to the tip, or to a hair below where the flanks meet.
  constexpr double kLand = 1e-3;
  double top = start_;
  while (top < kPi && radius(top) < R_tip && half(top) > kLand / s.teeth)
    top += 0.01;
  const double before = std::max(start_, top - 0.01);
  tip_ = radius(top) >= R_tip ? math::find_root([&](double u) { return radius(u) - R_tip; }, before, top)
                              : math::find_root([&](double u) { return half(u) - kLand / s.teeth; }, before, top);
  if (half(tip_) < kLand / s.teeth)
    tip_ = math::find_root([&](double u) { return half(u) - kLand / s.teeth; }, before, tip_);
  pointed_ = radius(tip_) < R_tip * (1 - math::kRounding);
  R_tip = radius(tip_);
  tip_diameter_ = 2 * R_tip, start_diameter_ = 2 * radius(start_), tip_thickness_ = 2 * half(tip_) * R_tip;
  // The seat: the pin's own circle, sunk so that the pin does not ride on it, with a straight piece up to the flank.
  const Vec2 first = flank.jet(start_).p, sunk = -cusp.normalized() * s.seat_clearance * m;
  std::vector<Segment> lower;
  const Vec2 centre = cusp + sunk, bottom = centre - r_p * cusp.normalized();
  require(bottom.dot(cusp) > 0, "pin_diameter", mm(s.pin_diameter), "its seat reaches the wheel's axis",
          "give more teeth or thinner pins");
  root_diameter_ = 2 * bottom.norm();
  const double middle = -kPi / s.teeth;
  if (play > 0)
    lower.push_back({Arc{Vec2::Zero(), bottom.norm()}, middle, std::atan2(bottom.y(), bottom.x()), Role::root});
  lower.push_back(arc_between(centre, bottom, first + sunk, true, Role::root));
  if (s.seat_clearance > 0) lower.push_back({curve::Line{first + sunk, first}, 0, 1, Role::root});
  lower.push_back({flank, start_, tip_, Role::flank});
  outline_ = whole(lower, Segment{Arc{Vec2::Zero(), R_tip}, -half(tip_), half(tip_), Role::tip}, s.teeth);
}

double theoretical_clock_addendum(int wheel_teeth, int leaves) {
  const double n = leaves, i = wheel_teeth / n, k = 1 + 2 * i;
  const auto miss = [&](double u) { return u - kPi / n - 2 * i * std::atan2(std::sin(u), k - std::cos(u)); };
  // At 0 the leaf's half pitch is missing; the right side grows more slowly than u from there on.
  double high = kPi / n;
  while (miss(high) < 0 && high < kPi)
    high *= 1.5;
  const double u = math::find_root(miss, 0, std::min(high, kPi));
  return n / 4 * (1 - k + std::sqrt(1 + k * k - 2 * k * std::cos(u)));
}

namespace {

constexpr LeafTip kLeafTips[] = {
    {7, 0.855, 1.05, 1.05}, {9, 0.67, 0.70, 1.05}, {10, 0.525, 0.525, 1.05}, {100000, 0.625, 0.625, 1.25}};
constexpr double kPracticalAddendum = 0.95, kPracticalRadius = 1.40;  // of the theoretical factor
constexpr double kPinionClearance = 0.4;                              // modules

}  // namespace

namespace {

/// Where a straight flank towards the axis ends at the root circle, with the round between them.
struct RadialRoot {
  double angle;  // where the root circle ends [rad]
  Vec2 place;    // where the flank begins
  std::optional<Segment> round;
};

/// \param half  the flank's angle before the tooth's middle  \param middle  angle of the middle of the space
RadialRoot radial_root(double half, double middle, double root_radius, double pitch_radius, double fillet) {
  if (!(fillet > 0)) return {-half, from_polar(root_radius, -half), std::nullopt};
  // The round's centre stands in the space, by its radius off the flank and off the root circle.
  const double reach = root_radius + fillet, s = std::sin(-middle - half), most = root_radius * s / (1 - s);
  require(fillet <= most * (1 + math::kRounding), "root.fillet_radius", mm(fillet),
          "the spaces are round all through with " + mm(most), "give that or less");
  const double up = std::sqrt(reach * reach - fillet * fillet);
  const double most_below = (pitch_radius * pitch_radius - root_radius * root_radius) / (2 * root_radius);
  require(up < pitch_radius, "root.fillet_radius", mm(fillet),
          "the round would reach the pitch circle with " + mm(most_below), "give less, or deeper teeth");
  const double off = std::asin(fillet / reach), angle = std::max(middle, -half - off);
  const Vec2 centre = from_polar(reach, angle), place = from_polar(up, -half);
  return {angle, place, arc_between(centre, from_polar(root_radius, angle), place, true, Role::root)};
}

}  // namespace

const LeafTip& leaf_tip(int leaves) {
  return *std::find_if(std::begin(kLeafTips), std::end(kLeafTips), [&](const LeafTip& t) { return leaves <= t.up_to; });
}

ClockGear::ClockGear(const ClockSpec& spec) : spec_(spec) {
  require(spec.teeth >= 5, "teeth", fmt::format("{}", spec.teeth), "clock teeth begin at 5 leaves", "give 6 or more");
  require(spec.mate_teeth >= 5, "teeth", fmt::format("{}", spec.mate_teeth), "the mate needs 5 or more",
          "give its teeth: the addendum follows from the ratio");
  require(spec.module > 0 && std::isfinite(spec.module), "module", mm(spec.module), "a module is above 0",
          "give 0.5 mm, say");
  const double m = spec.module, r = spec.teeth * m / 2;
  const double f = theoretical_clock_addendum(spec.pinion ? spec.mate_teeth : spec.teeth,
                                              spec.pinion ? spec.teeth : spec.mate_teeth);
  const LeafTip& leaf = leaf_tip(spec.teeth);
  ClockSizes& z = sizes_;
  z.addendum = spec.addendum.value_or(spec.pinion ? leaf.addendum * m : kPracticalAddendum * f * m);
  z.addendum_arc_radius = spec.addendum_arc_radius.value_or(spec.pinion ? leaf.radius * m : kPracticalRadius * f * m);
  z.tooth_width = spec.tooth_width.value_or(spec.pinion ? leaf.width * m : kPi / 2 * m);
  const double dedendum =
      spec.dedendum.value_or(spec.pinion ? (kPracticalAddendum * f + kPinionClearance) * m : kPi / 2 * m);
  z.dedendum = dedendum, z.pitch_diameter = 2 * r, z.tip_diameter = 2 * (r + z.addendum),
  z.root_diameter = 2 * (r - dedendum);
  require(z.tooth_width > 0 && z.tooth_width < kPi * m, "tooth_width", mm(z.tooth_width),
          "it lies between 0 and the pitch of " + mm(kPi * m), "give about half the pitch");
  require(z.root_diameter > 0, "dedendum", mm(dedendum), "the root circle would vanish",
          "lower it, or give more teeth");
  const double half = z.tooth_width / z.pitch_diameter;
  const Vec2 foot = from_polar(r, -half), top(r + z.addendum, 0), chord = top - foot;
  const double L = chord.norm() / 2;
  require(z.addendum_arc_radius >= L * (1 - math::kAlike), "addendum_arc_radius", mm(z.addendum_arc_radius),
          fmt::format("an arc from the pitch circle to the tip has at least {}", mm(L)),
          "raise it, or lower the addendum");
  const Vec2 centre =
      0.5 * (foot + top) + std::sqrt(std::max(0.0, z.addendum_arc_radius * z.addendum_arc_radius - L * L)) *
                               quarter_turn(chord.normalized());
  const double R_f = z.root_diameter / 2, middle = -kPi / spec.teeth;
  const RadialRoot root = radial_root(half, middle, R_f, r, spec.fillet_radius);
  std::vector<Segment> lower;
  if (root.angle - middle > math::kAlike) lower.push_back({Arc{Vec2::Zero(), R_f}, middle, root.angle, Role::root});
  if (root.round) lower.push_back(*root.round);
  lower.push_back({curve::Line{root.place, foot}, 0, 1, Role::flank});
  z.form_diameter = 2 * root.place.norm();
  if (!(spec.tip_round > 0)) {
    lower.push_back(arc_between(centre, foot, top, false, Role::flank));
    outline_ = whole(lower, std::nullopt, spec.teeth);
    return;
  }
  // The round stands on the tooth's middle and touches both arcs from within; at the largest, where they begin.
  const double arc = z.addendum_arc_radius, t = spec.tip_round, most = -arc * foot.y() / (centre.y() - foot.y());
  require(t <= most, "tip_round", mm(t), "the arcs of the addendum leave room for a round of at most " + mm(most),
          "give that or less");
  const Vec2 c(centre.x() + std::sqrt((arc - t) * (arc - t) - centre.y() * centre.y()), 0);
  const Vec2 touch = centre + arc / (arc - t) * (c - centre);
  const double wide = std::atan2(-touch.y(), touch.x() - c.x());
  lower.push_back(arc_between(centre, foot, touch, false, Role::flank));
  outline_ = whole(lower, Segment{Arc{c, t}, -wide, wide, Role::tip}, spec.teeth);
  z.addendum = c.x() + t - r, z.tip_diameter = 2 * (r + z.addendum);
}

double LanternWheel::contact_ratio() const noexcept { return (tip_ - start_) * spec_.pins / (2 * kPi); }

}  // namespace palio::gear
