// What root curves and flanks are by their making, without the formulas that draw them: envelopes of a round that is
// carried along, paths that a rolling body leaves, and areas that have a closed form.
#include <catch2/catch.hpp>

#include "palio/curve/flatten.hpp"
#include "palio/curve/profile.hpp"
#include "palio/gear/lobed_disc.hpp"
#include "palio/math/roots.hpp"
#include "random_gear.hpp"

using namespace palio;
using namespace palio::curve;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

/// A direction from the stereographic plane tan(δ/2) e^{i az}, written here once more.
Vec3 on_sphere(const Vec2& p) {
  const double q = p.squaredNorm();
  return {2 * p.x() / (1 + q), 2 * p.y() / (1 + q), (1 - q) / (1 + q)};
}

/// Where a distance has its least, near a place, by golden section.
template <class F>
std::pair<double, double> least_near(const F& distance, double at, double half_width) {
  double lo = at - half_width, hi = at + half_width;
  const double golden = 0.5 * (std::sqrt(5.0) - 1);
  for (int i = 0; i < 80; ++i) {
    const double a = hi - golden * (hi - lo), b = lo + golden * (hi - lo);
    (distance(a) < distance(b) ? hi : lo) = distance(a) < distance(b) ? b : a;
  }
  return {0.5 * (lo + hi), distance(0.5 * (lo + hi))};
}

}  // namespace

TEST_CASE("the root of a rack is the envelope of its corner: the corner's round touches it and stays out of it") {
  for (unsigned seed = 1; seed <= 80; ++seed) {
    test::Draw draw(seed);
    const double r = draw.between(5, 60), rho = draw.between(0.05, 0.4), depth = -draw.between(0.5, 1.5),
                 offset = draw.between(-0.3, 0.8);
    const double centre = draw.between(-3, 3);
    const int side = draw.of({-1, 1});
    const Trochoid root{r, 1, rho, depth, offset, centre, side};
    // The corner's centre stands u beside the middle of the tool's tooth; as the gear turns by ω the rack moves r ω
    // along.
    const auto corner = [&](double turn) -> Vec2 {
      const Vec2 world(r + depth, side * (offset + r * turn));
      return turned(world, centre - side * turn);
    };
    for (const double share : {0.15, 0.4, 0.75, 0.95}) {
      const double theta = share * kPi / 2;
      CAPTURE(seed, theta);
      const Vec2 p = root.jet(theta).p;
      // The turn at which the formula says that it touches there; the nearest the corner ever comes is its radius.
      const double touch = (-(depth - rho * std::sin(theta)) / std::tan(theta) - (offset + rho * std::cos(theta))) / r;
      const auto [turn, nearest] = least_near([&](double w) { return (corner(w) - p).norm(); }, touch,
                                              0.3 * std::max(0.05, std::abs(depth) / r));
      CHECK_THAT(nearest, WithinAbs(rho, 1e-9 * r));
      CHECK_THAT(turn, WithinAbs(touch, 2e-7 * std::max(1.0, r)));
      // The instant centre of the motion is the pitch point: the normal of the contact passes through it.
      const Vec2 pitch_point = turned(Vec2(r, 0), centre - side * touch), normal = (p - corner(touch)).normalized();
      CHECK_THAT(cross(normal, pitch_point - p), WithinAbs(0, 1e-9 * r));
    }
  }
}

TEST_CASE("the root of a ring is the envelope of a pinion cutter's corner, whose centre is carried by true rolling") {
  for (unsigned seed = 1; seed <= 80; ++seed) {
    test::Draw draw(seed);
    const int z0 = draw.whole(12, 30), z = z0 + draw.whole(15, 60);
    const double m = draw.between(0.5, 3), a = m * (z - z0) / 2, r_w = m * z / 2.0, rho = draw.between(0, 0.35) * m;
    const double c = m * (z0 / 2.0 + draw.between(0.7, 1.2)) - rho, eta = draw.between(0, 0.5) * kPi / z0;
    const CutterTrochoid root{a, r_w, c, rho, eta, static_cast<double>(z0) / z, draw.between(-3, 3), draw.of({-1, 1})};
    CutterTrochoid path = root;
    path.corner_radius = 0;
    for (const double phi : {0.01, 0.08, 0.2, 0.33}) {
      CAPTURE(seed, phi);
      const Vec2 p = root.jet(phi).p;
      CHECK_THAT((path.jet(phi).p - p).norm(), WithinAbs(rho, 1e-12 * r_w));
      const auto [at, nearest] = least_near([&](double f) { return (path.jet(f).p - p).norm(); }, phi, 0.05);
      CHECK_THAT(nearest, WithinAbs(rho, 1e-11 * r_w));
      if (rho > 0.02 * m) CHECK_THAT(at, WithinAbs(phi, 1e-5));
      // The centre's path by carrying it: the cutter turns by φ − η as the ring turns by κ (φ − η).
      const Vec2 world = Vec2(a, 0) + from_polar(c, phi);
      const Vec2 carried = turned(world, root.turns * (root.corner_angle - phi)),
                 seen = root.side > 0 ? carried : Vec2(carried.x(), -carried.y());
      CHECK((turned(seen, root.centre) - path.jet(phi).p).norm() < 1e-12 * r_w);
      // Rolling without slip: what is fixed to the cutter moves square to its way from the pitch point.
      const Vec2 at_pitch = turned(Vec2(r_w, 0), root.turns * (root.corner_angle - phi)),
                 pitch_point = turned(root.side > 0 ? at_pitch : Vec2(at_pitch.x(), -at_pitch.y()), root.centre);
      CHECK_THAT(path.jet(phi).d1.normalized().dot((path.jet(phi).p - pitch_point).normalized()), WithinAbs(0, 1e-12));
    }
  }
}

TEST_CASE(
    "normals of the spherical involute are great circles that touch the base cone, and the string is as long as was "
    "rolled") {
  for (unsigned seed = 1; seed <= 120; ++seed) {
    test::Draw draw(seed);
    const SphericalInvolute flank{draw.between(0.15, 1.35), draw.between(-3, 3), draw.of({-1, 1})};
    const double v = draw.between(0.05, 0.9);
    CAPTURE(seed, v);
    const Jet j = flank.jet(v);
    const double h = 1e-6;
    const Vec3 P = on_sphere(j.p), T = (on_sphere(j.p + h * j.d1) - on_sphere(j.p - h * j.d1)).normalized();
    // The pole of the normal's great circle is the tangent; the circle touches the base cone where the pole stands δ_b
    // off its plane.
    CHECK_THAT(std::abs(T.z()), WithinAbs(std::sin(flank.base_cone), 1e-8));
    // The touching point is the base circle's point farthest from the pole, and lies σ = v sin δ_b from P.
    const double azimuth = flank.start + flank.sense * v;
    const Vec3 foot(std::sin(flank.base_cone) * std::cos(azimuth), std::sin(flank.base_cone) * std::sin(azimuth),
                    std::cos(flank.base_cone));
    CHECK_THAT(foot.dot(T), WithinAbs(0, 1e-8));
    CHECK_THAT(std::atan2(foot.cross(P).norm(), foot.dot(P)), WithinAbs(v * std::sin(flank.base_cone), 1e-12));
  }
}

TEST_CASE("the root of a bevel gear is the envelope on the sphere of the crown gear's corner") {
  for (unsigned seed = 1; seed <= 80; ++seed) {
    test::Draw draw(seed);
    const CrownTrochoid root{draw.between(0.25, 1.3), draw.between(0.02, 0.09), draw.between(0.003, 0.02),
                             draw.between(0, 0.05),   draw.between(-3, 3),      draw.of({-1, 1})};
    CrownTrochoid path = root;
    path.corner_radius = 0;
    for (const double chi : {0.005, 0.05, 0.12}) {
      CAPTURE(seed, chi);
      const Vec3 P = on_sphere(root.jet(chi).p);
      const auto away = [&](double x) {
        const Vec3 C = on_sphere(path.jet(x).p);
        return std::atan2(C.cross(P).norm(), C.dot(P));
      };
      CHECK_THAT(away(chi), WithinAbs(root.corner_radius, 1e-12));
      CHECK_THAT(least_near(away, chi, 0.02).second, WithinAbs(root.corner_radius, 1e-12));
    }
    // At its beginning it lies as far below the pitch cone as the corner and its round reach: on the root cone.
    const Vec3 deepest = on_sphere(root.jet(1e-7).p);
    CHECK_THAT(std::atan2(std::hypot(deepest.x(), deepest.y()), deepest.z()),
               WithinAbs(root.pitch_cone - root.corner_depth - root.corner_radius, 1e-9));
  }
}

TEST_CASE(
    "a lobed disc's edge is at the roller's radius from the path of every roller, and its area and length are "
    "Steiner's") {
  for (unsigned seed = 1; seed <= 30; ++seed) {
    test::Draw draw(seed);
    gear::LobedDiscSpec spec;
    spec.rollers = draw.whole(6, 30), spec.roller_circle_diameter = draw.between(30, 120);
    spec.roller_diameter = draw.between(0.15, 0.45) * kPi * spec.roller_circle_diameter / spec.rollers;
    spec.eccentricity = draw.between(0.2, 0.6) * spec.roller_circle_diameter / 2 / spec.rollers;
    std::optional<gear::LobedDisc> disc;
    try {
      disc.emplace(spec);
    } catch (const InvalidParameter&) {
      continue;
    }
    CAPTURE(seed, spec.rollers);
    const double R = spec.roller_circle_diameter / 2, E = spec.eccentricity, R_r = spec.roller_diameter / 2,
                 N = spec.rollers;
    // The path p = R e^{it} − E e^{iNt}: area by its Fourier terms, length by Simpson over its speed.
    double length = 0;
    constexpr int kPieces = 20000;
    const auto speed = [&](double t) {
      return R * std::sqrt(1 + std::pow(E * N / R, 2) - 2 * E * N / R * std::cos((N - 1) * t));
    };
    for (int i = 0; i < kPieces; ++i) {
      const double t0 = 2 * kPi * i / kPieces, t1 = 2 * kPi * (i + 1) / kPieces;
      length += (t1 - t0) / 6 * (speed(t0) + 4 * speed(0.5 * (t0 + t1)) + speed(t1));
    }
    const double area = kPi * (R * R + N * E * E) - R_r * length + kPi * R_r * R_r;
    CHECK_THAT(signed_area(disc->outline()), WithinRel(area, 1e-9));
    // Every point of the edge: nearest to the path at its own parameter.
    const LobeCurve edge{R, E, R_r, N, 0};
    const auto path = [&](double t) -> Vec2 { return from_polar(R, t) - from_polar(E, N * t); };
    for (int i = 0; i < 12; ++i) {
      const double t = draw.between(0, 2 * kPi);
      const Vec2 q = edge.jet(t).p;
      CHECK_THAT(least_near([&](double s) { return (path(s) - q).norm(); }, t, 0.4 / N).second,
                 WithinAbs(R_r, 1e-10 * R));
    }
  }
}

TEST_CASE("lengths and areas in closed form: involute, epicycloid, hypocycloid") {
  for (unsigned seed = 1; seed <= 40; ++seed) {
    test::Draw draw(seed);
    const double r = draw.between(3, 50), rho = r / draw.whole(3, 12), t = draw.between(0.2, 1.5);
    CAPTURE(seed, r, rho, t);
    const auto along = [](const Segment& s) {
      // Length and swept area ½∫ p × dp of one segment, by Simpson on its derivatives.
      constexpr int kPieces = 4000;
      double length = 0, area = 0;
      for (int i = 0; i <= kPieces; ++i) {
        const double weight = (i == 0 || i == kPieces ? 1 : i % 2 ? 4 : 2) * (s.to - s.from) / kPieces / 3;
        const Jet j = s.jet(s.from + (s.to - s.from) * i / kPieces);
        length += weight * j.d1.norm(), area += weight * 0.5 * cross(j.p, j.d1);
      }
      return std::pair{length, area};
    };
    const auto [string, fan] = along({Involute{r, draw.between(-3, 3), +1}, 0, t, Role::flank});
    CHECK_THAT(string, WithinRel(r * t * t / 2, 1e-10));
    CHECK_THAT(fan, WithinRel(r * r * t * t * t / 6, 1e-9));
    for (const bool outside : {true, false}) {
      const auto [arch, swept] = along({Cycloid{r, rho, outside, draw.between(-3, 3), +1, 0}, 0, 2 * kPi, Role::flank});
      const double way = outside ? 1 : -1, k = r / rho;
      CHECK_THAT(arch, WithinRel(8 * rho * (k + way) / k, 1e-9));
      // Of the sector between the cusps: (k ± 1)(k ± 2) π ρ²/k.
      CHECK_THAT(swept, WithinRel(kPi * rho * rho * (k + way) * (k + 2 * way) / k, 1e-9));
    }
  }
}

TEST_CASE("splines, chords and arcs of the same outline enclose the area of the exact one, as nearly as they say") {
  for (const auto& [what, teeth] : test::one_of_each()) {
    if (teeth.is_rack()) continue;
    const Outline& outline = teeth.outline();
    const double exact = signed_area(outline);
    double length = 0, chord_area = 0, chord_deviation = 0;
    for (const Segment& s : outline.period) {
      const Chords chords = flatten(s, 2e-3);
      chord_deviation = std::max(chord_deviation, chords.deviation);
      for (std::size_t i = 0; i + 1 < chords.at.size(); ++i) {
        const Vec2 a = s.point(chords.at[i]), b = s.point(chords.at[i + 1]);
        length += (b - a).norm(), chord_area += 0.5 * cross(a, b);
      }
    }
    CAPTURE(what, exact);
    CHECK(std::abs(outline.count * chord_area - exact) <= outline.count * length * chord_deviation);
    // Arcs: the polygon, and a circular segment to each bulge.
    const BulgedLoop loop = biarcs(outline, 2e-3);
    double arc_area = 0;
    for (std::size_t i = 0; i < loop.points.size(); ++i) {
      const Vec2 a = loop.points[i].p, b = loop.points[(i + 1) % loop.points.size()].p;
      const double angle = 4 * std::atan(loop.points[i].bulge), chord = (b - a).norm();
      arc_area += 0.5 * cross(a, b);
      if (std::abs(angle) > 1e-9) {
        const double radius = chord / 2 / std::sin(angle / 2);
        arc_area += 0.5 * radius * radius * (angle - std::sin(angle));
      }
    }
    CHECK(std::abs(arc_area - exact) <= outline.count * length * loop.deviation);
  }
}
