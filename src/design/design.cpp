#include "palio/design/design.hpp"

#include <algorithm>
#include <cmath>

#include "palio/error.hpp"
#include "palio/pair/tolerance.hpp"
#include "palio/roll/space.hpp"
#include "palio/roll/sphere.hpp"

namespace palio::job {

const Gear& Design::gear(const std::string& name) const {
  const auto it = std::find_if(gears.begin(), gears.end(), [&](const Gear& g) { return g.name == name; });
  if (it == gears.end()) throw std::out_of_range("no gear named " + name);
  return *it;
}

double Pair::motion_ratio() const {
  return running     ? running->motion_ratio()
         : crossed   ? crossed->motion_ratio()
         : bevel     ? bevel->motion_ratio()
         : cycloidal ? cycloidal->motion_ratio()
                     : 0;
}

double Pair::circumferential_backlash() const {
  if (bevel) return bevel->circumferential_backlash();
  if (cycloidal) return cycloidal->circumferential_backlash();
  return crossed ? crossed->circumferential_backlash() : running.value().circumferential_backlash();
}

std::array<double, 2> Pair::working_pitch_diameters() const {
  return cycloidal ? cycloidal->working_pitch_diameters() : running.value().working_pitch_diameters();
}

std::vector<std::size_t> mechanisms(const Design& design) {
  std::vector<std::size_t> first(design.gears.size());
  for (std::size_t i = 0; i < first.size(); ++i)
    first[i] = i;
  for (const Pair& p : design.pairs) {
    const auto [low, high] = std::minmax({first[p.driver], first[p.driven]});
    for (std::size_t& m : first)
      m = m == high ? low : m;
  }
  return first;
}

std::optional<double> speed(const Design& design, std::size_t gear) {
  if (std::none_of(design.pairs.begin(), design.pairs.end(), [](const Pair& p) { return p.speed.has_value(); }))
    return std::nullopt;
  const std::vector<std::size_t> mechanism = mechanisms(design);
  for (const Pair& p : design.pairs) {
    if (!p.speed || mechanism[p.driver] != mechanism[gear]) continue;
    // A rack that drives moves; the speed given is then its mate's.
    const std::size_t said = design.gears[p.driver].teeth.is_rack() ? p.driven : p.driver;
    const auto own = design.gears[gear].speed_ratio, other = design.gears[said].speed_ratio;
    if (own && other && *other != 0) return *p.speed * *own / *other;
  }
  return std::nullopt;
}

roll::Member member(const Gear& gear, double datum) {
  // The upper half of a double helical gear leans the other way than the lower one, which its angle counts for.
  const double twist = gear.teeth.is_double_helical() ? -gear.teeth.twist() : gear.teeth.twist();
  const roll::Motion motion =
      gear.teeth.is_rack() ? roll::Motion::translation(gear.axis, gear.facing) : roll::Motion::rotation(gear.axis);
  return {gear.name, gear.teeth.chain(), motion, gear.phase + twist * (datum - gear.height), twist};
}

std::array<double, 2> common_face(const Pair& pair) {
  const gear::BevelSizes &a = pair.bevel->driver().sizes(), &b = pair.bevel->driven().sizes();
  return {std::max(a.inner_cone_distance, b.inner_cone_distance),
          std::min(a.outer_cone_distance, b.outer_cone_distance)};
}

std::vector<Vec3> contact_line(const Pair& pair, const roll::Contact& c) {
  if (!pair.bevel || pair.error.any()) return {Vec3(c.point.x(), c.point.y(), c.height)};
  if (!c.flank_on_flank()) return {roll::on_sphere(c.point, c.height)};
  const auto [inner, outer] = common_face(pair);
  return {roll::on_sphere(c.point, outer), roll::on_sphere(c.point, inner)};
}

namespace {

std::vector<roll::SphereSection> sections(const Design& design, const Pair& pair) {
  const Gear &g1 = design.gears[pair.driver], &g2 = design.gears[pair.driven];
  const gear::BevelGear &b1 = g1.teeth.bevel(), &b2 = g2.teeth.bevel();
  const auto [inner, outer] = common_face(pair);
  std::vector<roll::SphereSection> sections;
  for (const double R : {outer, inner}) {
    sections.push_back(
        {R,
         {g1.name, b1.section(R), roll::Motion::on_sphere(0, 0, R), g1.phase},
         {g2.name, b2.section(R), roll::Motion::on_sphere(pair.bevel->shaft_angle(), pair.direction, R), g2.phase}});
  }
  return sections;
}

}  // namespace

namespace {

/// Flanks ruled to the apex, as far out as anywhere along the face; where they end is told by cone distance. Roots are
/// those of the same section: of parallel depth, where roots do not run to the apex, those of that end.
roll::Coned coned(const Gear& g, const roll::Axis& axis) {
  const gear::BevelGear& b = g.teeth.bevel();
  const double outer = b.sizes().outer_cone_distance, inner = b.sizes().inner_cone_distance;
  const double widest = b.tip_angle(outer) >= b.tip_angle(inner) ? outer : inner;
  std::optional<double> pitch_cone;
  if (b.spec().ends == gear::BevelEnds::cones) pitch_cone = b.spec().pitch_cone.radians();
  return {
      g.name, b.section(widest), inner, outer, pitch_cone, [b](double R) { return std::tan(b.tip_angle(R) / 2); }, axis,
      g.phase};
}

}  // namespace

std::array<roll::Member, 2> members(const Design& design, const Pair& pair) {
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  if (pair.bevel) {
    const roll::SphereSection heel = sections(design, pair).front();
    return {heel.driver, heel.driven};
  }
  return {member(driver, driver.height), member(driven, pair.crossed ? driven.height : driver.height)};
}

roll::Law law(const Design& design, const Pair& pair, int positions) {
  const double m = design.gears[pair.driver].teeth.module();
  roll::Law law{pair.motion_ratio(), 0, pair::touching(m), positions};
  law.overlap_mm = pair::binding(m);
  if (pair.bevel)
    law.theoretical_play = pair.bevel->angular_backlash()[1];
  else if (pair.crossed)
    law.theoretical_play = pair.crossed->angular_backlash()[1];
  else if (pair.cycloidal)
    law.theoretical_play = pair.cycloidal->angular_backlash()[1];
  else {
    const pair::ParallelPair& p = pair.running.value();
    law.theoretical_play = p.driven_play(), law.face_from = p.face().from, law.face_to = p.face().to;
  }
  return law;
}

double mid_face(const Gear& g) {
  if (!g.teeth.is_bevel()) return g.teeth.face_width() / 2;
  const gear::BevelSizes& s = g.teeth.bevel().sizes();
  return (s.outer_cone_distance + s.inner_cone_distance) / 2 * std::cos(g.teeth.bevel().spec().pitch_cone.radians());
}

roll::Axis bevel_axis(const Pair& pair) {
  const double angle = pair.bevel->shaft_angle() + pair.error.shaft_angle;
  const Vec3 across(-std::sin(pair.direction), std::cos(pair.direction), 0);
  const Eigen::Matrix3d axes = Eigen::AngleAxisd(angle, across).toRotationMatrix();
  return {-pair.error.driver * Vec3::UnitZ() + pair.error.driven * axes.col(2) + pair.error.offset * across, axes};
}

std::array<AxialShift, 2> axial_shifts(const Design& design, const Pair& pair, bool of_driver) {
  std::array<AxialShift, 2> all{};
  const pair::BevelPair& b = *pair.bevel;
  const gear::BevelSpec& moved = (of_driver ? b.driver() : b.driven()).spec();
  const double step = 0.02 * moved.module, j = b.circumferential_backlash();
  const auto flanks = [](roll::Coned c) {
    auto& period = c.outline.period;
    period.erase(std::remove_if(period.begin(), period.end(),
                                [](const curve::Segment& s) { return s.role != curve::Role::flank; }),
                 period.end());
    return c;
  };
  const roll::Coned first = flanks(coned(design.gears[pair.driver], {}));
  for (const int i : {0, 1}) {
    Pair shifted = pair;
    all[i].shift = i == 0 ? step : -step;
    (of_driver ? shifted.error.driver : shifted.error.driven) += all[i].shift;
    const roll::Result r =
        roll::roll(first, flanks(coned(design.gears[pair.driven], bevel_axis(shifted))), law(design, pair, 8));
    all[i].found = r.play ? r.play->min * b.driven().sizes().heel.pitch_diameter / 2 : std::nan("");
    all[i].by_formula =
        j + 2 * all[i].shift * std::sin(moved.pitch_cone.radians()) * std::tan(moved.pressure_angle.radians());
  }
  return all;
}

roll::Result rolled(const Design& design, const Pair& pair, int positions) {
  if (pair.bevel && pair.error.any()) {
    const roll::Coned first = coned(design.gears[pair.driver], {}),
                      second = coned(design.gears[pair.driven], bevel_axis(pair));
    return roll::roll(first, second, law(design, pair, positions));
  }
  if (pair.bevel) return roll::roll(sections(design, pair), law(design, pair, positions));
  const auto [driver, driven] = members(design, pair);
  if (!pair.crossed) {
    const roll::Law given = law(design, pair, positions);
    roll::Result result = roll::roll(driver, driven, given);
    if (!pair.loop) return result;
    return roll::held(std::move(result), driver.start, driven.start, pair.loop->ratio, driven.outline.pitch(),
                      given.binding(), driven.name);
  }
  const gear::CylindricalSpec &s1 = design.gears[pair.driver].teeth.spec(),
                              &s2 = design.gears[pair.driven].teeth.spec();
  // In space: the driver's axis is z, the driven's stands in the direction of the common normal.
  const roll::Twisted first{driver.name, driver.outline, driver.twist, s1.face_width, {}, driver.start};
  const roll::Twisted second{
      driven.name,
      driven.outline,
      driven.twist,
      s2.face_width,
      roll::crossed_axis(pair.direction, pair.mounted_center_distance, pair.shaft_angle, pair.axial_offset),
      driven.start};
  return roll::roll(first, second, law(design, pair, positions));
}

}  // namespace palio::job
