#include "interference.hpp"

#include <algorithm>
#include <boost/math/tools/minima.hpp>
#include <cmath>
#include <cstdint>

#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"
#include "palio/pair/parallel.hpp"

namespace palio::pair {

using gear::CylindricalGear;
using gear::Teeth;
using math::inv;

namespace {

/// Largest value of `depth` over [−reach, reach]: looked at in many places, the best refined.
template <class DepthAt>
Depth deepest_in(DepthAt depth, double reach) {
  constexpr int kLooks = 120;
  constexpr double kFarOff = 1e3;  // [mm]: the search is turned back from where there is no depth
  Depth deepest;
  double at = 0;
  for (int i = -kLooks; i <= kLooks; ++i) {
    const Depth d = depth(reach * i / kLooks);
    if (d > deepest) deepest = d, at = reach * i / kLooks;
  }
  const auto shallow = [&](double turn) {
    const Depth d = depth(turn);
    return d ? -*d : kFarOff;
  };
  std::uintmax_t steps = 40;
  const double refined =
      -boost::math::tools::brent_find_minima(shallow, at - reach / kLooks, at + reach / kLooks, 26, steps).second;
  return refined > -kFarOff ? std::max(deepest, Depth(refined)) : deepest;
}

/// The gear's tip edge in the root of the rack. World: the gear's axis at the origin, the rack's reference line at x =
/// a.
Depth digs_rack(const gear::Rack& own, const CylindricalGear& mate, double a, double alpha) {
  const double r_b = mate.sizes().base_diameter / 2, r = mate.sizes().reference_diameter / 2;
  const Vec2 edge = from_polar(r_b, -alpha) + from_polar(mate.sizes().tip_form_tangent, kPi / 2 - alpha);
  const double seen = std::atan2(edge.y(), edge.x()), r_a = edge.norm();
  const auto wall = own.half_space(std::max(a - edge.x(), own.sizes().root_height));
  const double middle = edge.y() - wall.value_or(0);
  const Chain period(gear::Teeth(own).chain().period);
  const auto depth = [&](double turn) -> Depth {
    const Vec2 p = from_polar(r_a, seen + turn);
    const double y = a - p.x();
    if (y >= own.sizes().root_form_height) return Depth();
    const auto half = own.half_space(y);
    const double off = std::remainder(p.y() - r * turn - middle, own.pitch());
    if (half && std::abs(off) <= *half) return std::abs(off) - *half;
    // The rack's own frame: a tooth on x = 0, a space half a pitch on.
    return period.depth_within(Vec2(own.pitch() / 2 - std::abs(off), y));
  };
  return deepest_in(depth, 1.2 * 2 * kPi / mate.spec().teeth);
}

}  // namespace

Chain::Chain(std::vector<curve::Segment> segments) {
  for (curve::Segment& segment : segments) {
    Link link{std::move(segment), {}, Vec2::Zero(), 0, 0};
    const curve::Segment& s = link.segment;
    for (int i = 0; i <= kPlaces; ++i)
      link.places[static_cast<std::size_t>(i)] = s.point(s.from + (s.to - s.from) * i / kPlaces);
    link.middle = 0.5 * (link.places.front() + link.places.back());
    for (std::size_t i = 0; i <= kPlaces; ++i) {
      link.radius = std::max(link.radius, (link.places[i] - link.middle).norm());
      if (i > 0) link.apart = std::max(link.apart, (link.places[i] - link.places[i - 1]).norm());
    }
    link.radius += link.apart;  // what lies between two places is no further off than they are apart
    links_.push_back(std::move(link));
  }
}

Chain Chain::three_periods(const curve::Outline& outline) {
  std::vector<curve::Segment> all;
  for (const int copy : {-1, 0, 1}) {
    for (std::size_t i = 0; i < outline.period.size(); ++i)
      all.push_back(outline.segment(copy, i));
  }
  return Chain(std::move(all));
}

/// The place of a segment nearest to p: from the best of its places by Newton on the squared distance.
Chain::Near Chain::nearest(const Link& link, const Vec2& p, int best) {
  const curve::Segment& segment = link.segment;
  const auto at = [&](int i) { return segment.from + (segment.to - segment.from) * i / kPlaces; };
  const auto [low, high] = std::minmax({at(std::max(0, best - 1)), at(std::min(kPlaces, best + 1))});
  // Of the parameter: after so small a step the next would be below rounding, and so near the curve is its own series.
  constexpr double kEnough = 1e-9;
  const Near first{at(best), segment.jet(at(best))};
  Near near = first;
  for (int i = 0; i < 20; ++i) {
    const curve::Jet& j = near.jet;
    const Vec2 off = j.p - p;
    const double bend = j.d1.squaredNorm() + off.dot(j.d2);
    if (!(bend > 0)) break;
    const double next = std::clamp(near.at - off.dot(j.d1) / bend, low, high), step = next - near.at;
    if (std::abs(step) <= kEnough * std::max(1.0, std::abs(near.at))) {
      near = {next, {j.p + step * (j.d1 + 0.5 * step * j.d2), j.d1 + step * j.d2, j.d2}};
      break;
    }
    near = {next, segment.jet(next)};
  }
  return (near.jet.p - p).squaredNorm() <= (first.jet.p - p).squaredNorm() ? near : first;
}

double Chain::depth_within(const Vec2& p) const {
  // Every link by its places; then from the nearest on those that may come nearer still.
  struct Coarse {
    std::size_t link;
    int place;
    double distance;
  };
  std::vector<Coarse> coarse;
  coarse.reserve(links_.size());
  double reached = math::kInfinite;  // no link further off than this can be the nearest
  for (const Link& link : links_)
    reached = std::min(reached, (link.places.front() - p).squaredNorm());
  reached = std::sqrt(reached);
  for (std::size_t i = 0; i < links_.size(); ++i) {
    const Link& link = links_[i];
    if ((link.middle - p).norm() - link.radius > reached) continue;
    Coarse c{i, 0, math::kInfinite};
    for (int k = 0; k <= kPlaces; ++k) {
      const double d = (link.places[static_cast<std::size_t>(k)] - p).squaredNorm();
      if (d < c.distance) c.distance = d, c.place = k;
    }
    c.distance = std::sqrt(c.distance);
    reached = std::min(reached, c.distance);
    coarse.push_back(c);
  }
  std::sort(coarse.begin(), coarse.end(), [](const Coarse& a, const Coarse& b) { return a.distance < b.distance; });
  double least = math::kInfinite;
  std::size_t on = 0;
  Near near{};
  for (const Coarse& c : coarse) {
    const Link& link = links_[c.link];
    if (c.distance - link.apart > least) continue;
    const Near here = nearest(link, p, c.place);
    const double d = (here.jet.p - p).norm();
    if (d < least) least = d, on = c.link, near = here;
  }
  const curve::Segment& s = links_[on].segment;
  const double at = near.at;
  const Vec2 way = p - near.jet.p;
  const Vec2 along = near.jet.d1.squaredNorm() > 0 ? Vec2(s.sense() * near.jet.d1) : s.tangent(at);  // none at a cusp
  const auto left = [&](const Vec2& tangent) { return cross(tangent, way) > 0; };
  bool inside = left(along);
  // At a corner two tangents have their say: one that juts out holds what lies left of both, one that reaches in of
  // either.
  const bool begins = at == s.from && on > 0, ends = at == s.to && on + 1 < links_.size();
  if (begins || ends) {
    const curve::Segment& other = links_[begins ? on - 1 : on + 1].segment;
    const Vec2 next = other.tangent(begins ? other.to : other.from);
    const double turn = begins ? cross(next, along) : cross(along, next);
    inside = turn > 0 ? left(along) && left(next) : left(along) || left(next);
  }
  return inside ? least : -least;
}

Depth tip_digs(const Teeth& own_teeth, const Teeth& mate_teeth, double a, double alpha_w) {
  if (own_teeth.is_rack()) return digs_rack(own_teeth.rack(), mate_teeth.gear(), a, alpha_w);
  // The edge's path is followed in the frame of `own`, whose axis is the origin, the pitch point lying on +x. The
  // string unwinds from own's base circle at polar angle −α_w; the mate's edge is on it at tangent length T.
  const CylindricalGear& own = own_teeth.gear();
  const auto& s1 = own.sizes();
  const double r_b = s1.base_diameter / 2, z1 = own.spec().teeth;
  double T = 0, ratio = 0, centre = 0, r = 0;
  if (mate_teeth.is_rack()) {
    r = s1.reference_diameter / 2;
    T = r * std::sin(alpha_w) + (a - r - mate_teeth.rack().sizes().tip_form_height) / std::sin(alpha_w);
  } else {
    const CylindricalGear& mate = mate_teeth.gear();
    const double L = a * std::sin(alpha_w), T_a = mate.sizes().tip_form_tangent;
    T = mate.internal() ? T_a - L : own.internal() ? T_a + L : L - T_a;
    ratio = (mate.internal() || own.internal() ? 1 : -1) * z1 / mate.spec().teeth;
    centre = mate.internal() ? -a : a;
  }
  const Vec2 edge = from_polar(r_b, -alpha_w) + from_polar(T, kPi / 2 - alpha_w);
  const Vec2 arm = edge - Vec2(centre, 0);
  // Own's flank that passes there gives the middle of the space which the edge is in.
  const double half_base = own.internal() ? kPi / z1 - s1.transverse_tooth_thickness / s1.reference_diameter +
                                                inv(s1.transverse_pressure_angle.radians())
                                          : s1.transverse_tooth_thickness / s1.reference_diameter +
                                                inv(s1.transverse_pressure_angle.radians()) - kPi / z1;
  const double middle = T / r_b - alpha_w - half_base;
  const Chain periods = Chain::three_periods(own.outline());
  const auto depth = [&](double turn) -> Depth {
    const Vec2 world =
        mate_teeth.is_rack() ? Vec2(edge + Vec2(0, r * turn)) : Vec2(Vec2(centre, 0) + turned(arm, turn * ratio));
    const Vec2 p = turned(world, -turn);
    const double R = p.norm();
    // Beside the flank the contact itself keeps them apart.
    if (own.internal() ? 2 * R <= s1.root_form_diameter : 2 * R >= s1.root_form_diameter) return Depth();
    const auto half = own.half_space_angle(R);
    const double off = std::remainder(middle - std::atan2(p.y(), p.x()), 2 * kPi);
    if (half && std::abs(off) <= half->radians()) return (std::abs(off) - half->radians()) * R;
    // In the material, beside the wall or below the floor. Own's frame has the middles of spaces half a pitch off +x (a
    // ring on it).
    return periods.depth_within(from_polar(R, (own.internal() ? 0 : kPi / z1) + std::abs(off)));
  };
  return deepest_in(depth, 1.2 * 2 * kPi / z1);
}

Depth bevel_tip_digs(const gear::BevelGear& own, const gear::BevelGear& mate, double shaft_angle, double R) {
  // Own's axis is z, the mate's lies at the shaft angle in the x, z plane; between them the pitch element, which the
  // own flank and the mate's pass together. Seen along its own axis the mate's teeth run the same way as own's do.
  const double sine = std::sin(shaft_angle), cosine = std::cos(shaft_angle);
  const double tip = mate.tip_angle(R).radians(),
               edge =
                   (mate.half_tooth_angle(mate.tip_angle(R)) - mate.half_tooth_angle(mate.spec().pitch_cone)).radians();
  const double form = own.root_form_angle(R).radians(),
               ratio = static_cast<double>(own.spec().teeth) / mate.spec().teeth;
  const Chain periods = Chain::three_periods(own.section(R));
  const double half_tooth = own.half_tooth_angle(own.spec().pitch_cone).radians();
  const auto depth = [&](double turn) -> Depth {
    const double azimuth = edge - turn * ratio, across = std::sin(tip) * std::cos(azimuth), up = std::cos(tip);
    // From the mate's frame, whose x points to the pitch element and whose y is own's −y.
    const Vec3 world(up * sine - across * cosine, -std::sin(tip) * std::sin(azimuth), up * cosine + across * sine);
    const double cone = std::atan2(std::hypot(world.x(), world.y()), world.z());
    if (cone >= form) return Depth();  // beside the flank the contact itself keeps them apart
    const double place = std::atan2(world.y(), world.x()) - turn + half_tooth;
    const double spread = std::tan(cone / 2);  // the stereographic plane stretches lengths by half of 1 + its square
    return periods.depth_within(from_polar(spread, std::remainder(place, 2 * kPi))) * 2 * R / (1 + spread * spread);
  };
  return deepest_in(depth, 1.2 * 2 * kPi / own.spec().teeth);
}

double tip_fouling(const CylindricalGear& pinion, const CylindricalGear& ring, double a, double alpha_w) {
  const double r1 = pinion.sizes().tip_diameter / 2, r2 = ring.sizes().tip_diameter / 2;
  const double z1 = pinion.spec().teeth, z2 = ring.spec().teeth;
  const double cos1 = (r2 * r2 - a * a - r1 * r1) / (2 * a * r1), cos2 = (a * a + r2 * r2 - r1 * r1) / (2 * a * r2);
  if (!(std::abs(cos1) < 1 && std::abs(cos2) < 1)) return -math::kInfinite;
  const double inv1 = inv(std::acos(pinion.sizes().base_diameter / (2 * r1)));
  const double inv2 = inv(std::acos(std::min(1.0, ring.sizes().base_diameter / (2 * r2))));
  const double room = (std::acos(cos1) + inv1 - inv(alpha_w)) * z1 / z2 + inv(alpha_w) - inv2 - std::acos(cos2);
  return -room * r2;
}

double radial_assembly_clash(const CylindricalGear& pinion, const CylindricalGear& ring, Angle working_angle) {
  const double alpha_w = working_angle.radians();
  const double cos1 = pinion.sizes().base_diameter / pinion.sizes().tip_diameter,
               cos2 = std::min(1.0, ring.sizes().base_diameter / ring.sizes().tip_diameter);
  const double u = static_cast<double>(ring.spec().teeth) / pinion.spec().teeth;
  const double q1 = (1 - std::pow(cos1 / cos2, 2)) / (1 - 1 / (u * u)),
               q2 = (std::pow(cos2 / cos1, 2) - 1) / (u * u - 1);
  if (!(q1 >= 0 && q1 <= 1 && q2 >= 0 && q2 <= 1)) return -math::kInfinite;
  const double t1 = std::asin(std::sqrt(q1)), t2 = std::asin(std::sqrt(q2));
  const double room = t1 + inv(std::acos(cos1)) - inv(alpha_w) - u * (t2 + inv(std::acos(cos2)) - inv(alpha_w));
  return -room / u * ring.sizes().tip_diameter / 2;
}

}  // namespace palio::pair
