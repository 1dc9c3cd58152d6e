// Where the readings of a gear are to be seen: every end of a mark is taken from the outline, or from the sizes.
#include <algorithm>
#include <cmath>

#include "marks.hpp"
#include "palio/math/roots.hpp"
#include "palio/overloaded.hpp"
#include "readings.hpp"

namespace palio::job {

namespace gear_marks {

double tooth_middle(const gear::Teeth& teeth) { return teeth.internal() ? kPi / teeth.count() : 0; }

namespace {

/// Where the outline crosses a circle, nearest to the middle of a tooth: how far off that, and which way it runs there.
struct Crossing {
  double away;  // [rad]
  Vec2 point, along;
};

std::optional<Crossing> crossing(const gear::Teeth& teeth, double radius) {
  const double pitch = 2 * kPi / teeth.count(), middle = tooth_middle(teeth);
  std::optional<Crossing> found;
  for (const curve::Segment& s : teeth.outline().period) {
    const auto off = [&](double t) { return s.point(t).norm() - radius; };
    const double before = off(s.from), after = off(s.to);
    if (before * after > 0 || before == after) continue;
    const double t = math::find_root(off, s.from, s.to, before, after);
    const Vec2 here = s.point(t);
    const double away = std::abs(std::remainder(std::atan2(here.y(), here.x()) - middle, pitch));
    if (!found || away < found->away) found = Crossing{away, here, s.tangent(t)};
  }
  return found;
}

}  // namespace

std::optional<double> half_tooth(const gear::Teeth& teeth, double radius) {
  const auto found = crossing(teeth, radius);
  return found ? std::optional(found->away) : std::nullopt;
}

namespace {

// Gears have a tooth on +x, rings a space.
double tooth_middle(const GearAt& a) { return gear_marks::tooth_middle(a.teeth()); }
double space_middle(const GearAt& a) { return a.teeth().internal() ? 0 : kPi / a.teeth().count(); }

double polar(const Vec2& p) { return std::atan2(p.y(), p.x()); }

std::optional<double> half_tooth(const GearAt& a, double radius) { return gear_marks::half_tooth(a.teeth(), radius); }

MarkArc arc_about_axis(double radius, double middle, double half) {
  return {Vec2::Zero(), radius, middle - half, middle + half};
}

Trace reference_guide(const GearAt& a) { return circle(a.teeth().reference_diameter() / 2); }

MarkLine radial(double from, double to, double angle) { return {from_polar(from, angle), from_polar(to, angle)}; }

/// In the meridian: a place at a cone distance, so far outwards across the pitch cone.
Vec2 on_cone(const GearAt& a, double cone_distance, double across = 0) {
  const double delta = a.teeth().bevel().spec().pitch_cone.radians();
  return cone_distance * Vec2(std::sin(delta), std::cos(delta)) + across * Vec2(std::cos(delta), -std::sin(delta));
}

Mark in_meridian(const Trace& measured, std::vector<Trace> guides = {}) {
  return {Mark::Plane::meridian, {measured}, std::move(guides)};
}

/// Across the whole gear, at a height below the apex.
Mark diameter_mark(double diameter, double height) {
  return in_meridian(MarkLine{{-diameter / 2, height}, {diameter / 2, height}});
}

/// From the axis to a cone whose own point stands at a height.
Mark cone_mark(const GearAt& a, double apex, double angle) {
  const double R = a.bevel().outer_cone_distance;
  const Vec2 point(0, apex);
  return in_meridian(
      MarkArc{point, 0.55 * R, kPi / 2 - angle, kPi / 2},
      {MarkLine{point, point + R * Vec2(std::sin(angle), std::cos(angle))}, MarkLine{point, point + R * Vec2(0, 1)}});
}

/// Across a rack, beside tooth 0.
Mark rack_height(const GearAt& a, double from, double to) {
  const double x = -a.teeth().rack().pitch() / 2, wide = a.teeth().rack().pitch();
  return {Mark::Plane::across,
          {MarkLine{{x, from}, {x, to}}},
          {MarkLine{{x - wide, from}, {x + wide, from}}, MarkLine{{x - wide, to}, {x + wide, to}}}};
}

/// Across a bevel tooth at the heel.
Mark heel_depth(const GearAt& a, double from, double to) {
  const double R = a.bevel().outer_cone_distance;
  return in_meridian(MarkLine{on_cone(a, R, from), on_cone(a, R, to)}, {MarkLine{Vec2::Zero(), on_cone(a, R)}});
}

/// Radially, on the middle of a tooth or a space.
Mark depth_mark(const GearAt& a, double from, double to, double angle) {
  return {Mark::Plane::across, {radial(from, to, angle)}, {circle(from), circle(to), reference_guide(a)}};
}

/// A plain line on the base circle's tangent whose foot stands at an angle.
MarkLine on_tangent(double base_radius, double foot, double from, double to) {
  const Vec2 at = from_polar(base_radius, foot), on = from_polar(1, foot + kPi / 2);
  return {at + from * on, at + to * on};
}

/// What differs between a cone, a bar and what turns about its axis, whatever its teeth: one function for each.
template <class OnBevel, class OnRack, class OnGear>
std::optional<Mark> by_blank(const GearAt& a, OnBevel bevel, OnRack rack, OnGear gear) {
  using Result = std::optional<Mark>;
  return a.teeth().visit(overloaded{
      [&](const gear::BevelGear& b) -> Result { return bevel(b.sizes()); },
      [&](const gear::Rack& r) -> Result { return rack(r); },
      [&](const gear::CylindricalGear&) -> Result { return gear(); },
      [&](const gear::CycloidalTeeth&) -> Result { return gear(); },
  });
}

/// What lies across the axis is not to be seen in a bevel gear's meridian.
std::optional<Mark> none_of_bevels(const gear::BevelSizes&) { return std::nullopt; }

}  // namespace

std::optional<Mark> tooth_thickness(const GearAt& a) {
  return by_blank(
      a, none_of_bevels,
      [](const gear::Rack& rack) {
        const double half = rack.sizes().transverse_tooth_thickness / 2, far = rack.pitch();
        return Mark{Mark::Plane::across, {MarkLine{{-half, 0}, {half, 0}}}, {MarkLine{{-far, 0}, {far, 0}}}};
      },
      [&]() -> std::optional<Mark> {
        const double r = a.teeth().reference_diameter() / 2;
        const auto half = half_tooth(a, r);
        if (!half) return std::nullopt;
        return Mark{Mark::Plane::across, {arc_about_axis(r, tooth_middle(a), *half)}, {reference_guide(a)}};
      });
}

namespace {

std::optional<Mark> land(const GearAt& a) {
  // The land itself: from its first to its last place.
  const double r = a.teeth().tip_diameter() / 2, middle = tooth_middle(a);
  double half = 0;
  for (const curve::Segment& s : a.teeth().outline().period) {
    if (s.role != curve::Role::tip) continue;
    for (const Vec2& p : {s.first(), s.last()})
      half = std::max(half, std::abs(std::remainder(polar(p) - middle, 2 * kPi / a.teeth().count())));
  }
  if (half == 0) return std::nullopt;
  return Mark{Mark::Plane::across, {arc_about_axis(r, middle, half)}, {}};
}

}  // namespace

std::optional<Mark> tip_thickness(const GearAt& a) {
  return by_blank(
      a, none_of_bevels,
      [](const gear::Rack& rack) {
        const double tip = rack.sizes().tip_height;
        const auto space = rack.half_space(tip);
        const double half = space ? rack.pitch() / 2 - *space : 0;
        return Mark{Mark::Plane::across, {MarkLine{{-half, tip}, {half, tip}}}, {}};
      },
      [&] { return land(a); });
}

std::optional<Mark> chordal_thickness(const GearAt& a) {
  const double r = a.teeth().reference_diameter() / 2;
  const auto half = half_tooth(a, r);
  if (!half) return std::nullopt;
  const double middle = tooth_middle(a);
  return Mark{Mark::Plane::across,
              {MarkLine{from_polar(r, middle - *half), from_polar(r, middle + *half)}},
              {reference_guide(a)}};
}

std::optional<Mark> chordal_height(const GearAt& a) {
  const double r = a.teeth().reference_diameter() / 2, middle = tooth_middle(a);
  const auto half = half_tooth(a, r);
  if (!half) return std::nullopt;
  return Mark{Mark::Plane::across,
              {radial(r * std::cos(*half), a.teeth().tip_diameter() / 2, middle)},
              {MarkLine{from_polar(r, middle - *half), from_polar(r, middle + *half)}}};
}

std::optional<Mark> addendum(const GearAt& a) {
  return by_blank(
      a, [&](const gear::BevelSizes& s) { return heel_depth(a, 0, s.heel.addendum); },
      [&](const gear::Rack& rack) { return rack_height(a, 0, rack.sizes().tip_height); },
      [&] { return depth_mark(a, a.teeth().reference_diameter() / 2, a.teeth().tip_diameter() / 2, tooth_middle(a)); });
}

std::optional<Mark> dedendum(const GearAt& a) {
  return by_blank(
      a, [&](const gear::BevelSizes& s) { return heel_depth(a, -s.heel.dedendum, 0); },
      [&](const gear::Rack& rack) { return rack_height(a, rack.sizes().root_height, 0); },
      [&] {
        return depth_mark(a, a.teeth().root_diameter() / 2, a.teeth().reference_diameter() / 2, space_middle(a));
      });
}

std::optional<Mark> tooth_depth(const GearAt& a) {
  return by_blank(
      a, [&](const gear::BevelSizes& s) { return heel_depth(a, -s.heel.dedendum, s.heel.addendum); },
      [&](const gear::Rack& rack) { return rack_height(a, rack.sizes().root_height, rack.sizes().tip_height); },
      [&] { return depth_mark(a, a.teeth().root_diameter() / 2, a.teeth().tip_diameter() / 2, space_middle(a)); });
}

std::optional<Mark> pitch(const GearAt& a) {
  return by_blank(
      a, none_of_bevels,
      [](const gear::Rack& rack) {
        const double p = rack.pitch();
        return Mark{Mark::Plane::across, {MarkLine{{-p / 2, 0}, {p / 2, 0}}}, {MarkLine{{-2 * p, 0}, {2 * p, 0}}}};
      },
      [&] {
        const double r = a.teeth().reference_diameter() / 2;
        return Mark{
            Mark::Plane::across, {arc_about_axis(r, space_middle(a), kPi / a.teeth().count())}, {reference_guide(a)}};
      });
}

std::optional<Mark> angular_pitch(const GearAt& a) {
  if (a.teeth().is_bevel()) return std::nullopt;
  const double r = a.teeth().reference_diameter() / 2, half = kPi / a.teeth().count(), middle = space_middle(a);
  return Mark{Mark::Plane::across,
              {arc_about_axis(0.8 * r, middle, half)},
              {radial(0, 1.05 * r, middle - half), radial(0, 1.05 * r, middle + half)}};
}

std::optional<Mark> pressure_angle(const GearAt& a) {
  if (a.teeth().is_bevel()) return std::nullopt;
  const double m = a.teeth().module();
  Vec2 at, upright, along;  // of a rack across its line, of a gear away from the axis; and along the flank
  if (a.teeth().is_rack()) {
    const gear::RackSizes& s = a.teeth().rack().sizes();
    const auto above = a.teeth().rack().half_space(s.tip_form_height / 2);
    if (!above) return std::nullopt;
    at = {s.transverse_tooth_thickness / 2, 0}, upright = {0, 1};
    along = Vec2(a.teeth().rack().pitch() / 2 - *above, s.tip_form_height / 2) - at;
  } else {
    const auto found = crossing(a.teeth(), a.teeth().reference_diameter() / 2);
    if (!found) return std::nullopt;
    at = found->point, upright = found->point, along = found->along;
  }
  if (along.dot(upright) < 0) along = -along;
  const double from = polar(upright), lean = std::remainder(polar(along) - from, 2 * kPi);
  return Mark{Mark::Plane::across,
              {MarkArc{at, 1.5 * m, std::min(from, from + lean), std::max(from, from + lean)}},
              {MarkLine{at - 1.2 * m * upright.normalized(), at + 2.2 * m * upright.normalized()},
               MarkLine{at - 1.2 * m * along.normalized(), at + 2.2 * m * along.normalized()}}};
}

std::optional<Mark> base_pitch(const GearAt& a) {
  if (a.teeth().is_rack() || a.teeth().internal()) return std::nullopt;
  // The flank that begins at the angle θ on the base circle is met T = r_b (θ − φ) on along the tangent whose foot is
  // φ.
  const double rb = a.sizes().base_diameter / 2, p = 2 * kPi / a.teeth().count() * rb;
  const double first = 0.5 * (a.sizes().root_form_tangent + a.sizes().tip_form_tangent - p);
  if (first < a.sizes().root_form_tangent) return std::nullopt;  // no tangent meets two flanks
  const double foot = a.teeth().gear().half_tooth_angle(rb).radians() - first / rb;
  return Mark{Mark::Plane::across,
              {on_tangent(rb, foot, first, first + p)},
              {circle(rb), on_tangent(rb, foot, 0, first + 1.5 * p)}};
}

std::optional<Mark> span(const GearAt& a) {
  const gear::Span s = a.teeth().gear().span(a.gear.span_teeth);
  const double rb = a.sizes().base_diameter / 2;
  // Symmetrical about the middle of so many teeth; in the section across the axis it is longer by 1 / cos β_b.
  const double pitch = 2 * kPi / a.teeth().count(), foot = (s.teeth % 2 == 0 ? pitch / 2 : 0);
  const double half = s.length / std::cos(a.teeth().base_helix_angle().radians()) / 2;
  const Vec2 at = from_polar(rb, foot), on = from_polar(1, foot + kPi / 2), out = from_polar(1, foot);
  const double jaw = 0.5 * a.teeth().module() + a.teeth().reach() - rb;
  std::vector<Trace> guides{circle(rb)};
  for (const double end : {-half, half}) {
    const Vec2 touch = at + end * on;
    guides.emplace_back(MarkLine{touch - 1.2 * a.teeth().module() * out, touch + jaw * out});
  }
  return Mark{Mark::Plane::across, {MarkLine{at - half * on, at + half * on}}, std::move(guides)};
}

std::optional<Mark> balls(const GearAt& a) {
  const gear::OverBalls m = a.teeth().gear().over_balls(a.gear.pin_diameter);
  const double radius = m.pin_diameter / 2, outward = a.teeth().internal() ? -1 : 1;
  // Two spaces as nearly opposite as there are; the measure runs along the line through both balls' far sides.
  const int teeth = a.teeth().count();
  const double pitch = 2 * kPi / teeth, first = space_middle(a), second = first + pitch * std::floor(teeth / 2);
  const double between = std::abs(std::remainder(second - first, 2 * kPi)),
               centre = (m.length - outward * m.pin_diameter) / 2 / std::sin(between / 2);
  const Vec2 p = from_polar(centre, first), q = from_polar(centre, second), on = (p - q).normalized();
  return Mark{Mark::Plane::across,
              {MarkLine{p + outward * radius * on, q - outward * radius * on}},
              {circle(radius, p), circle(radius, q)}};
}

std::optional<Mark> pins(const GearAt& a) {
  // Pins lie along inclined spaces: no one section shows them.
  return a.teeth().helix_angle().radians() == 0 ? balls(a) : std::nullopt;
}

std::optional<Mark> pin_gap(const GearAt& a) {
  const double radius = a.teeth().cycloidal().sizes().tip_thickness / 2, r = a.teeth().reference_diameter() / 2,
               half = kPi / a.teeth().count();
  const Vec2 p = from_polar(r, -half), q = from_polar(r, half), on = (q - p).normalized();
  return Mark{Mark::Plane::across, {MarkLine{p + radius * on, q - radius * on}}, {reference_guide(a)}};
}

std::optional<Mark> undercut(const GearAt& a) {
  if (!(a.sort & kGears)) return std::nullopt;
  // Where the flank that is left begins.
  const double r = a.sizes().root_form_diameter / 2;
  return Mark{Mark::Plane::across,
              {arc_about_axis(r, tooth_middle(a), kPi / a.teeth().count())},
              {circle(a.sizes().base_diameter / 2)}};
}

namespace {

/// The circle that rolls on the pitch circle, outside or inside it, where a tooth's flank crosses that.
std::optional<Mark> rolling(const GearAt& a, double radius, bool outside) {
  const double r = a.teeth().reference_diameter() / 2;
  const auto half = half_tooth(a, r);
  if (!half) return std::nullopt;
  const double angle = tooth_middle(a) + *half;
  const Vec2 centre = from_polar(outside ? r + radius : r - radius, angle);
  return Mark{
      Mark::Plane::across, {MarkLine{centre, from_polar(r, angle)}}, {circle(radius, centre), reference_guide(a)}};
}

}  // namespace

std::optional<Mark> face_circle(const GearAt& a) {
  const gear::CycloidalSpec& s = a.teeth().cycloidal().true_form().spec();
  return rolling(a, s.face_rolling_radius, !s.internal);
}

std::optional<Mark> flank_circle(const GearAt& a) {
  const gear::CycloidalSpec& s = a.teeth().cycloidal().true_form().spec();
  return rolling(a, s.flank_rolling_radius, s.internal);
}

std::optional<Mark> rack_form(const GearAt& a) { return rack_height(a, 0, a.teeth().rack().sizes().root_form_height); }
std::optional<Mark> rack_back(const GearAt& a) { return rack_height(a, -a.teeth().rack().sizes().base_height, 0); }

std::optional<Mark> rack_length(const GearAt& a) {
  double least = 0, greatest = 0;
  for (const curve::Segment& s : a.teeth().outline().period) {
    for (const Vec2& p : {s.first(), s.last()})
      least = std::min(least, p.x()), greatest = std::max(greatest, p.x());
  }
  const double y = -a.teeth().rack().sizes().base_height;
  return Mark{Mark::Plane::across, {MarkLine{{least, y}, {greatest, y}}}, {}};
}

std::optional<Mark> pitch_cone(const GearAt& a) {
  return cone_mark(a, 0, a.teeth().bevel().spec().pitch_cone.radians());
}
std::optional<Mark> base_cone(const GearAt& a) { return cone_mark(a, 0, a.bevel().base_cone.radians()); }
std::optional<Mark> face_cone(const GearAt& a) {
  return cone_mark(a, a.bevel().face_apex, a.bevel().face_cone.radians());
}
std::optional<Mark> root_cone(const GearAt& a) {
  return cone_mark(a, a.bevel().root_apex, a.bevel().root_cone.radians());
}
std::optional<Mark> outer_cone_distance(const GearAt& a) {
  return in_meridian(MarkLine{Vec2::Zero(), on_cone(a, a.bevel().outer_cone_distance)});
}
std::optional<Mark> inner_cone_distance(const GearAt& a) {
  return in_meridian(MarkLine{Vec2::Zero(), on_cone(a, a.bevel().inner_cone_distance)});
}
std::optional<Mark> outer_pitch(const GearAt& a) {
  return diameter_mark(a.bevel().heel.pitch_diameter, on_cone(a, a.bevel().outer_cone_distance).y());
}
std::optional<Mark> outer_tip(const GearAt& a) {
  return diameter_mark(a.bevel().heel.tip_diameter,
                       on_cone(a, a.bevel().outer_cone_distance, a.bevel().heel.addendum).y());
}
std::optional<Mark> outer_root(const GearAt& a) {
  return diameter_mark(a.bevel().heel.root_diameter,
                       on_cone(a, a.bevel().outer_cone_distance, -a.bevel().heel.dedendum).y());
}

std::optional<Mark> crown(const GearAt& a) {
  const double r = a.bevel().heel.tip_diameter / 2, far = 1.12 * r;
  return in_meridian(
      MarkLine{{far, 0}, {far, a.bevel().crown_to_apex}},
      {MarkLine{Vec2::Zero(), {far, 0}}, MarkLine{{r, a.bevel().crown_to_apex}, {far, a.bevel().crown_to_apex}}});
}

std::optional<Mark> mounting_distance(const GearAt& a) {
  const double far = 1.2 * a.bevel().heel.tip_diameter / 2, top = a.body().top();
  return in_meridian(MarkLine{{far, 0}, {far, top}},
                     {MarkLine{Vec2::Zero(), {far, 0}}, MarkLine{{0, top}, {far, top}}});
}

std::optional<Mark> face_width(const GearAt& a) {
  if (!a.teeth().is_bevel()) return std::nullopt;  // along the axis: not to be seen in a section across it
  return in_meridian(MarkLine{on_cone(a, a.bevel().inner_cone_distance), on_cone(a, a.bevel().outer_cone_distance)});
}

}  // namespace gear_marks
}  // namespace palio::job
