// Contacts of two surfaces in space, from a coarse place to the exact one.
#include <Eigen/Geometry>
#include <algorithm>
#include <boost/math/tools/minima.hpp>
#include <cstdint>

#include "space_finder.hpp"

namespace palio::roll {
namespace {

/// By cofactors: a step of Newton's needs no pivots; where there is no solution it is not finite.
Eigen::Vector3d solved(const Eigen::Matrix3d& m, const Eigen::Vector3d& f) {
  const Eigen::Vector3d a = m.col(0), b = m.col(1), c = m.col(2), across = b.cross(c);
  return Eigen::Vector3d(f.dot(across), a.dot(f.cross(c)), a.dot(b.cross(f))) / a.dot(across);
}

/// A root by false position with the stale end's value halved: few evaluations, always bracketed. None where the ends
/// do not hold one.
template <class F>
std::optional<double> root_between(const F& f, double lo, double hi) {
  double f_lo = f(lo), f_hi = f(hi);
  if (f_lo * f_hi > 0) return std::nullopt;
  if (f_lo == 0) return lo;
  int stale = 0;
  double x = hi;
  for (int i = 0; i < 60 && std::abs(hi - lo) > 1e-15 * (std::abs(lo) + std::abs(hi)); ++i) {
    x = (lo * f_hi - hi * f_lo) / (f_hi - f_lo);
    const double v = f(x);
    if (std::abs(v) < 1e-14) break;
    if ((v > 0) == (f_lo > 0)) {
      lo = x, f_lo = v;
      if (stale == 1) f_hi /= 2;
      stale = 1;
    } else {
      hi = x, f_hi = v;
      if (stale == -1) f_lo /= 2;
      stale = -1;
    }
  }
  return x;
}

}  // namespace

/// u, z, t with equal label and both derivatives of the way zero; none when it lies outside the patches.
template <class Shape>
std::optional<std::array<double, 3>> SpaceFinder<Shape>::tangency(const Candidate& c, double u, double z) const {
  const curve::Segment &a = *c.driver, &b = driven_.outline.period[c.driven];
  const Table& table = tables_[c.driven];
  const double R = label_and_height(a, c.turn, u, z).first;
  const auto [low, high] = std::minmax(table.R.front(), table.R.back());
  double t = at_label(c.driven, std::clamp(R, low, high)).value_or(0.5 * (b.from + b.to));
  const double span_u = std::abs(a.to - a.from), span_t = std::abs(b.to - b.from), face = first_.high() - first_.low();
  const auto inside = [](double x, double p, double q, double by) {
    return x >= std::min(p, q) - by && x <= std::max(p, q) + by;
  };
  for (int i = 0; i < 40; ++i) {
    const ChartedJet p = patch(a, c.turn, u, z);
    const CurveJet q = chart(b, t);
    const Eigen::Vector3d f(p.R - q.R, p.P_u * q.R1 - q.P1 * p.R_u, p.P_z * q.R1 - q.P1 * p.R_z);
    Eigen::Matrix3d J;
    J << p.R_u, p.R_z, -q.R1,                                                                       //
        p.P_uu * q.R1 - q.P1 * p.R_uu, p.P_uz * q.R1 - q.P1 * p.R_uz, p.P_u * q.R2 - q.P2 * p.R_u,  //
        p.P_uz * q.R1 - q.P1 * p.R_uz, p.P_zz * q.R1 - q.P1 * p.R_zz, p.P_z * q.R2 - q.P2 * p.R_z;
    Eigen::Vector3d d = solved(J, f);
    if (!d.allFinite()) return std::nullopt;
    const double cap = std::max({std::abs(d[0]) / span_u, std::abs(d[1]) / face, std::abs(d[2]) / span_t});
    if (cap > 0.2) d *= 0.2 / cap;
    u -= d[0], z -= d[1], t -= d[2];
    if (!inside(u, a.from, a.to, span_u) || !inside(z, first_.low(), first_.high(), face / 2) ||
        !inside(t, b.from, b.to, span_t))
      return std::nullopt;
    if (cap < 1e-9) {
      if (!inside(u, a.from, a.to, 0) || !inside(z, first_.low(), first_.high(), 0) || !inside(t, b.from, b.to, 0) ||
          !on_driver(a, u, z))
        return std::nullopt;
      return std::array<double, 3>{u, z, t};
    }
  }
  return std::nullopt;
}

/// The contact at a tangency, if it is one: on both faces, within the crest, and in the way.
template <class Shape>
std::optional<Contact> SpaceFinder<Shape>::touch(const Candidate& c, Side side, const std::array<double, 3>& at) const {
  const auto [u, z, t] = at;
  const Spot p = spot(*c.driver, c.turn, u, z);
  if (!on_driven_face(p.w) || p.R > second_.crest(p.w) * (1 + 1e-12) || !stands_in_way(p, side)) return std::nullopt;
  const curve::Segment& driven = driven_.outline.period[c.driven];
  const double sign = side == Side::upper ? 1 : -1,
               way = sign * (place(p) - polar_angle(driven.point(t)) - c.driven_tooth * pitch2_);
  Contact made = contact(c, side, u, z, way, true);
  const auto left = [](double here, double from, double to) {
    return std::min(std::abs(here - from), std::abs(to - here)) / std::abs(to - from);
  };
  made.to_end = std::min({left(u, c.driver->from, c.driver->to), left(t, driven.from, driven.to),
                          left(z, first_.low(), first_.high()), left(p.w, second_.low(), second_.high())});
  return made;
}

template <class Shape>
void SpaceFinder<Shape>::refine(const Candidate& c, Side side, double best, Trail* trail,
                                std::vector<Contact>& found) const {
  const double low_z = first_.low(), high_z = first_.high();
  const double step_u = (c.driver->to - c.driver->from) / kAlong, step_z = (high_z - low_z) / kAcross;
  const Facing facing{c.driver, &driven_.outline.period[c.driven], c.driver_tooth, c.driven_tooth};
  const auto keep = [&](const std::array<double, 3>& at, const Contact& contact) {
    if (trail) trail->keep(facing, c.coordinate, {at[0], at[1]});
    found.push_back(contact);
  };
  // From where the positions before lead; what is found there has to lie where the broad phase sees it.
  if (const auto expected = trail ? trail->expected(facing, c.coordinate) : std::nullopt) {
    if (const auto at = tangency(c, expected->s, expected->t)) {
      const auto contact = touch(c, side, *at);
      const double way = contact ? (side == Side::upper ? 1 : -1) * contact->driven : kInfinite;
      if (way >= c.gap - c.slack && way <= c.gap + kChords * pitch2_) return keep(*at, *contact);
    }
  }
  std::optional<std::array<double, 3>> at = tangency(c, c.u, c.z);
  // A start from the next places of the grid, where the first strays or ends beyond the patch.
  for (const auto& [du, dz] : {std::pair{1.0, 0.0},
                               {-1.0, 0.0},
                               {0.0, 1.0},
                               {0.0, -1.0},
                               {2.0, 0.0},
                               {-2.0, 0.0},
                               {1.0, 1.0},
                               {1.0, -1.0},
                               {-1.0, 1.0},
                               {-1.0, -1.0}}) {
    if (!at && c.both_flanks) at = tangency(c, c.u + du * step_u, c.z + dz * step_z);
  }
  if (at) {
    if (const auto contact = touch(c, side, *at)) return keep(*at, *contact);
  }
  edges(c, side, best, found);
}

/// Where an edge of either patch comes first.
template <class Shape>
void SpaceFinder<Shape>::edges(const Candidate& c, Side side, double best, std::vector<Contact>& found) const {
  const double low_z = first_.low(), high_z = first_.high();
  const double step_u = (c.driver->to - c.driver->from) / kAlong, step_z = (high_z - low_z) / kAcross;
  constexpr bool kCone = std::is_same_v<Shape, Cone>;
  // Edge–patch: the way along each edge of both patches, where it is least.
  const curve::Segment& a = *c.driver;
  const auto along = [&](auto point, double from, double to) {
    constexpr int kLooks = 12;
    const auto way_at = [&](double x) {
      const std::optional<Vec2> p = point(x);
      return p ? way(spot(a, c.turn, p->x(), p->y()), c, side) : std::nullopt;
    };
    std::array<std::optional<double>, kLooks + 1> looks;
    int nearest = -1;
    for (int i = 0; i <= kLooks; ++i) {
      looks[i] = way_at(from + (to - from) * i / kLooks);
      if (looks[i] && (nearest < 0 || *looks[i] < *looks[nearest])) nearest = i;
    }
    if (nearest < 0) return;
    double least = *looks[nearest], place = from + (to - from) * nearest / kLooks;
    // Between even looks at a smooth curve it falls below the least of them by an eighth of the rise to the next at
    // most; where the way ends beside it, by what the patch as a whole leaves open.
    double below = 0;
    for (const int beside : {nearest - 1, nearest + 1}) {
      if (beside < 0 || beside > kLooks) continue;
      below = std::max(below, looks[beside] ? *looks[beside] - least : c.slack);
    }
    if (least - below > best) return;
    const double none = least + 1;  // of places where there is no way: passed over by the search for the least
    const auto value = [&](double x) { return way_at(x).value_or(none); };
    const double step = (to - from) / kLooks;
    const auto [lo, hi] = std::minmax({std::clamp(place - step, std::min(from, to), std::max(from, to)),
                                       std::clamp(place + step, std::min(from, to), std::max(from, to))});
    std::uintmax_t steps = 60;
    const auto refined = boost::math::tools::brent_find_minima(value, lo, hi, 40, steps);
    if (refined.second < least) place = refined.first, least = refined.second;
    const Vec2 at_least = *point(place);
    found.push_back(contact(c, side, at_least.x(), at_least.y(), least, false));
  };
  // Only near the coarse place, and only the edges that are near it. Cones touch all along a ruling, nearly: there the
  // coarse place says little about where along the face the contact lies.
  const double z_from = kCone ? low_z : std::max(low_z, c.z - 2 * step_z),
               z_to = kCone ? high_z : std::min(high_z, c.z + 2 * step_z);
  const double lo_u = std::min(a.from, a.to), hi_u = std::max(a.from, a.to);
  const double u_from = kCone ? lo_u : std::clamp(c.u - 2 * step_u, lo_u, hi_u),
               u_to = kCone ? hi_u : std::clamp(c.u + 2 * step_u, lo_u, hi_u);
  for (const auto& [near, u] : {std::pair{c.u_from, a.from}, {c.u_to, a.to}}) {
    if (near || kCone)
      along([&, u = u](double z) { return std::optional<Vec2>(Vec2(end_at(a, u, z), z)); }, z_from, z_to);
  }
  for (const auto& [near, z] : {std::pair{c.z_low, low_z}, {c.z_high, high_z}}) {
    if (near || kCone)
      along([&, z = z](double u) { return on_driver(a, u, z) ? std::optional<Vec2>(Vec2(u, z)) : std::nullopt; },
            u_from, u_to);
  }
  // The driven's own edges: equal label with an end of its segment, or its end faces.
  const Table& table = tables_[c.driven];
  const auto [low, high] = std::minmax(table.R.front(), table.R.back());
  for (const auto& [near, R] : {std::pair{c.R_low, low}, {c.R_high, high}}) {
    if (!near && !kCone) continue;
    const double inside =
        R + 1e-13 * ((low + high) / 2 - R);  // a hair inside, so that the place on the driven's curve exists
    along(
        [&, inside](double z) -> std::optional<Vec2> {
          const auto u = root_between(
              [&](double x) {
                const auto [R_seen, w_seen] = label_and_height(a, c.turn, x, z);
                return R_seen - std::min(inside, (1 - 1e-13) * second_.crest(w_seen));
              },
              u_from, u_to);
          return u && on_driver(a, *u, z) ? std::optional<Vec2>(Vec2(*u, z)) : std::nullopt;
        },
        z_from, z_to);
  }
  for (const auto& [near, w] : {std::pair{c.w_low, second_.low()}, {c.w_high, second_.high()}}) {
    if (!near && !kCone) continue;
    along(
        [&, end = w](double u) -> std::optional<Vec2> {
          const auto z =
              root_between([&](double x) { return label_and_height(a, c.turn, u, x).second - end; }, z_from, z_to);
          return z && on_driver(a, u, *z) ? std::optional<Vec2>(Vec2(u, *z)) : std::nullopt;
        },
        u_from, u_to);
  }
}

/// Of candidates on one side the contact that comes first, and what touches with it.
template <class Shape>
Limit SpaceFinder<Shape>::nearest(Side side, std::vector<Candidate>& all, Trail* trail) const {
  const double sign = side == Side::upper ? 1 : -1;
  std::sort(all.begin(), all.end(), [](const Candidate& a, const Candidate& b) { return a.gap < b.gap; });
  std::vector<Contact> found;
  double best = kInfinite;
  for (const Candidate& c : all) {
    if (c.gap - c.slack > best) continue;
    const std::size_t before = found.size();
    refine(c, side, best, trail, found);
    for (std::size_t i = before; i < found.size(); ++i)
      best = std::min(best, sign * found[i].driven);
  }
  Limit result;
  for (const Contact& c : found) {
    if (!result.first || sign * c.driven < sign * result.first->driven) result.first = c;
  }
  for (const Contact& c : found) {
    if (c.flank_on_flank() && sign * (c.driven - result.first->driven) * c.arm <= law_.touch_mm)
      result.touching.push_back(c);
  }
  return result;
}

// The members of this file; those of the class are with its constructor.
template std::optional<std::array<double, 3>> SpaceFinder<Screw>::tangency(const Candidate&, double, double) const;
template std::optional<std::array<double, 3>> SpaceFinder<Cone>::tangency(const Candidate&, double, double) const;
template std::optional<Contact> SpaceFinder<Screw>::touch(const Candidate&, Side, const std::array<double, 3>&) const;
template std::optional<Contact> SpaceFinder<Cone>::touch(const Candidate&, Side, const std::array<double, 3>&) const;
template void SpaceFinder<Screw>::refine(const Candidate&, Side, double, Trail*, std::vector<Contact>&) const;
template void SpaceFinder<Cone>::refine(const Candidate&, Side, double, Trail*, std::vector<Contact>&) const;
template void SpaceFinder<Screw>::edges(const Candidate&, Side, double, std::vector<Contact>&) const;
template void SpaceFinder<Cone>::edges(const Candidate&, Side, double, std::vector<Contact>&) const;
template Limit SpaceFinder<Screw>::nearest(Side, std::vector<Candidate>&, Trail*) const;
template Limit SpaceFinder<Cone>::nearest(Side, std::vector<Candidate>&, Trail*) const;

}  // namespace palio::roll
