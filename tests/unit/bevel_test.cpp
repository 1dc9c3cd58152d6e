// Bevel gears: curves on the sphere against their constructions in space, pairs against their roll, bodies against
// integrals of another kind.
#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <map>

#include "arcsec.hpp"
#include "palio/body/solid.hpp"
#include "palio/gear/core.hpp"
#include "palio/roll/space.hpp"
#include "random_bevel.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

Vec3 turned_about(const Vec3& axis, double angle, const Vec3& v) { return Eigen::AngleAxisd(angle, axis) * v; }
double angle_between(const Vec3& a, const Vec3& b) { return std::atan2(a.cross(b).norm(), a.dot(b)); }

gear::BevelSpec corner(bool pinion, Angle shaft_angle) {
  gear::BevelSpec s;
  const auto cones = pair::pitch_cones(16, 29, shaft_angle);
  s.teeth = pinion ? 16 : 29, s.module = 1.5, s.face_width = 8, s.pitch_cone = cones[pinion ? 0 : 1];
  s.profile_shift = pinion ? 0.2 : -0.2, s.thickness_allowance = -0.05,
  s.mate_dedendum = (1.25 - (pinion ? -0.2 : 0.2)) * 1.5;
  return s;
}

pair::BevelPair corner_pair(double degrees) {
  const Angle sigma = Angle::degrees(degrees);
  return {gear::BevelGear(corner(true, sigma)), gear::BevelGear(corner(false, sigma)), sigma};
}

}  // namespace

TEST_CASE("a spherical involute is drawn by a point of a great circle that rolls on the base cone") {
  for (const double base : {0.1, 0.5, 1.0, 1.3}) {
    const curve::SphericalInvolute flank{base, 0.3, +1};
    for (const double roll : {0.0, 0.2, 0.9, 1.6}) {
      // The circle touches the cone at azimuth 0.3 + roll; the point lies so far back along it as has been rolled off.
      const double at = 0.3 + roll;
      const Vec3 touch(std::sin(base) * std::cos(at), std::sin(base) * std::sin(at), std::cos(base)),
          across(-std::sin(at), std::cos(at), 0);
      const Vec3 expected = turned_about(touch.cross(across), -roll * std::sin(base), touch);
      CAPTURE(base, roll);
      const curve::Jet j = flank.jet(roll);
      CHECK((gear::direction(j.p) - expected).norm() < 1e-14);
      CHECK((gear::projected(expected) - j.p).norm() < 1e-14);
      // Derivatives against differences.
      const double h = 1e-5;
      CHECK(((flank.jet(roll + h).p - flank.jet(roll - h).p) / (2 * h) - j.d1).norm() < 1e-9);
      CHECK(((flank.jet(roll + h).d1 - flank.jet(roll - h).d1) / (2 * h) - j.d2).norm() < 1e-9);
    }
    CHECK(flank.jet(0).d1.norm() == 0);  // the cusp
  }
}

TEST_CASE("the root is the envelope of the crown gear's round corner: nothing cuts deeper") {
  for (unsigned seed = 1; seed <= 60; ++seed) {
    const auto p = test::any_bevel_pair(seed);
    if (!p) continue;
    CAPTURE(seed);
    const gear::BevelGear& g = p->driver();
    const double delta = g.spec().pitch_cone.radians();
    for (const curve::Segment& s : g.section(g.sizes().outer_cone_distance).period) {
      const auto* t = std::get_if<curve::CrownTrochoid>(&s.curve);
      if (!t || t->side < 0) continue;
      // The corner's centre in the gear's frame, straight from the two rotations.
      const auto centre = [&](double chi) {
        const Vec3 axis(std::cos(delta), 0, -std::sin(delta)), element(std::sin(delta), 0, std::cos(delta));
        const Vec3 deep =
            turned_about(Vec3::UnitY(), t->corner_depth, element);  // towards the root, in the plane of the axes
        REQUIRE_THAT(angle_between(deep, axis),
                     WithinAbs(kPi / 2 + t->corner_depth, 1e-12) || WithinAbs(kPi / 2 - t->corner_depth, 1e-12));
        const Vec3 down =
            angle_between(deep, axis) > kPi / 2 ? deep : turned_about(Vec3::UnitY(), -t->corner_depth, element);
        return turned_about(Vec3::UnitZ(), t->centre - (chi - t->corner_angle) / std::sin(delta),
                            turned_about(axis, -chi, down));
      };
      for (int i = 0; i <= 8; ++i) {
        const double chi = s.from + (s.to - s.from) * i / 8;
        const Vec3 p_root = gear::direction(s.point(chi));
        CHECK_THAT(angle_between(p_root, centre(chi)), WithinAbs(t->corner_radius, 1e-12));
        double nearest = 1e9;
        for (int k = -400; k <= 400; ++k)
          nearest = std::min(nearest, angle_between(p_root, centre(chi + 0.002 * k)));
        CHECK(nearest > t->corner_radius - 1e-12);
      }
    }
  }
}

TEST_CASE("cones: the pitch cones roll on each other, cos δ = cos δ_b cos σ, and heights lie on the back cone") {
  for (unsigned seed = 1; seed <= 200; ++seed) {
    const auto p = test::any_bevel_pair(seed);
    if (!p) continue;
    CAPTURE(seed);
    const gear::BevelGear &a = p->driver(), &b = p->driven();
    const double d1 = a.spec().pitch_cone.radians(), d2 = b.spec().pitch_cone.radians();
    CHECK_THAT(d1 + d2, WithinAbs(p->shaft_angle().radians(), 1e-14));
    CHECK_THAT(std::sin(d1) * b.spec().teeth, WithinRel(std::sin(d2) * a.spec().teeth, 1e-12));
    CHECK_THAT(a.sizes().outer_cone_distance, WithinRel(b.sizes().outer_cone_distance, 1e-12));
    for (const gear::BevelGear* g : {&a, &b}) {
      const double base = g->sizes().base_cone.radians(), R = g->sizes().outer_cone_distance,
                   delta = g->spec().pitch_cone.radians();
      CHECK_THAT(std::sin(base), WithinRel(std::sin(delta) * std::cos(g->spec().pressure_angle.radians()), 1e-14));
      const gear::BevelEnd& heel = g->sizes().heel;
      for (const double angle : {heel.tip_angle.radians(), heel.root_form_angle.radians()}) {
        const double sigma = g->path_angle(Angle::radians(angle)).radians();
        CHECK_THAT(std::cos(angle), WithinAbs(std::cos(base) * std::cos(sigma), 1e-13));
        CHECK_THAT(g->cone_angle_at(Angle::radians(sigma)).radians(), WithinAbs(angle, 1e-12));
      }
      if (g->spec().ends != gear::BevelEnds::cones || g->sizes().pointed) continue;
      const double h_a = (g->spec().addendum + g->spec().profile_shift) * g->spec().module;
      CHECK_THAT(heel.tip_angle.radians(), WithinAbs(delta + std::atan(h_a / R), 1e-13));
      CHECK_THAT(heel.tip_diameter, WithinAbs(heel.pitch_diameter + 2 * h_a * std::cos(delta), 1e-11));
      // Constant clearance: the face cone's generators are parallel to the mate's root cone's.
      if (g->spec().depth == gear::BevelDepth::constant_clearance) {
        CHECK_THAT(g->sizes().face_cone.radians(), WithinAbs(delta + std::atan(g->spec().mate_dedendum / R), 1e-12));
      }
    }
  }
}

TEST_CASE("bevel pairs of any shaft angle roll without error and with the play of the formula") {
  int sound = 0, crowns = 0;
  for (unsigned seed = 1; seed <= test::share(160); ++seed) {
    const auto p = test::any_bevel_pair(seed);
    if (!p) continue;
    bool interferes = false, parts = false;
    for (const Finding& f : p->findings("pair", "a", "b")) {
      interferes |= f.kind().severity == Severity::error;
      parts |= f.id == FindingId::contact_ratio_below_one;
    }
    if (interferes || parts) continue;
    CAPTURE(seed, p->driver().spec().teeth, p->driven().spec().teeth, p->shaft_angle().radians() * 180 / kPi);
    const roll::Result r = test::rolled(*p, 24, 0.1 * seed, Angle::radians(0.7 * seed));
    REQUIRE(r.verdict == roll::Verdict::meshes);
    REQUIRE(r.transmission_error);
    CHECK(r.transmission_error->max * test::kArcsec < 1e-4);
    CHECK(r.transmission_error->min * test::kArcsec > -1e-4);
    CHECK_THAT(r.play->min, WithinAbs(p->angular_backlash()[1].radians(), 1e-10));
    CHECK_THAT(r.play->max, WithinAbs(p->angular_backlash()[1].radians(), 1e-10));
    const gear::BevelSizes& s = p->driver().sizes();
    CHECK_THAT(
        r.pairs_mean,
        WithinAbs(std::max(p->contact_ratio(s.outer_cone_distance), p->contact_ratio(s.inner_cone_distance)), 1e-6));
    ++sound;
    crowns += std::abs(p->driver().spec().pitch_cone.degrees() - 90) < 1e-9 ||
                      std::abs(p->driven().spec().pitch_cone.degrees() - 90) < 1e-9
                  ? 1
                  : 0;
  }
  if (test::whole_search()) CHECK(sound > 60);
  if (test::whole_search()) CHECK(crowns > 3);
}

TEST_CASE("the greenhouse's corner drive is conjugate at 60 to 120 degrees") {
  for (const double degrees : {60.0, 75.0, 90.0, 110.0, 120.0}) {
    const pair::BevelPair p = corner_pair(degrees);
    const roll::Result r = test::rolled(p, 90, 0.2, Angle::radians(-0.4));
    CAPTURE(degrees);
    CHECK(std::max(r.transmission_error->max, -r.transmission_error->min) * test::kArcsec < 1e-8);
    CHECK_THAT(r.play->min, WithinAbs(p.angular_backlash()[1].radians(), 1e-13));
    // Contacts lie on the great circle of the path, and the normals there stand square to the pitch element's motion.
    for (const roll::Position& position : r.positions) {
      for (const roll::Contact& c : position.touching_upper) {
        const Vec3 at = turned_about(Vec3::UnitZ(), 0.4, gear::direction(c.point));
        const double sigma = p.driver().path_angle(Angle::radians(std::acos(at.z()))).radians();
        CHECK((at - p.path_direction(sigma)).norm() < 1e-9);
      }
    }
  }
}

TEST_CASE("towards 90 degrees a bevel gear becomes a crown gear, whose virtual teeth are infinite") {
  gear::BevelSpec s;
  s.teeth = 30, s.module = 2, s.face_width = 8;
  s.pitch_cone = Angle::degrees(90);
  const gear::BevelGear crown(s);
  CHECK(std::isinf(crown.sizes().virtual_teeth));
  CHECK_THAT(crown.path_angle(Angle::degrees(90)).radians(), WithinAbs(kPi / 2, 1e-14));
  CHECK(std::isnan(crown.sizes().min_profile_shift_no_undercut));  // a crown gear is never undercut
  s.pitch_cone = Angle::degrees(90 - 1e-7);
  const gear::BevelGear nearly(s);
  CHECK_THAT(nearly.sizes().heel.tip_thickness, WithinAbs(crown.sizes().heel.tip_thickness, 1e-7));
  CHECK_THAT(gear::back_cone_deviation(nearly), WithinAbs(gear::back_cone_deviation(crown), 1e-5));
  s.pitch_cone = Angle::degrees(90.01);
  try {
    gear::BevelGear internal(s);
    FAIL("an internal bevel gear was made");
  } catch (const InvalidParameter& e) {
    CHECK(e.name() == "pitch_cone_angle");
    CHECK(e.allowed().find("internal bevel gears are not made") != std::string::npos);
  }
}

TEST_CASE(
    "the exact tooth is wider at the tip than the back-cone approximation, by micrometres that grow with the module") {
  for (const int teeth : {16, 20, 29, 40}) {
    for (const double degrees : {20.0, 28.9, 45.0}) {
      gear::BevelSpec s;
      s.teeth = teeth, s.module = 1, s.pitch_cone = Angle::degrees(degrees), s.face_width = 3;
      const double one = gear::back_cone_deviation(gear::BevelGear(s));
      s.module = 4, s.face_width = 12;
      CAPTURE(teeth, degrees);
      CHECK(one > 0.0001);  // per mm of module
      CHECK(one < 0.005);
      CHECK_THAT(gear::back_cone_deviation(gear::BevelGear(s)), WithinRel(4 * one, 1e-9));
    }
  }
}

TEST_CASE("undercut begins at the least shift, and an arc fillet touches flank and root cone") {
  gear::BevelSpec s;
  s.teeth = 10, s.module = 2, s.pitch_cone = Angle::degrees(30), s.face_width = 6;
  const double least = gear::BevelGear(s).sizes().min_profile_shift_no_undercut;
  for (const auto& [shift, under] : {std::pair{least - 0.01, true}, {least + 0.01, false}}) {
    s.profile_shift = shift;
    CHECK(gear::BevelGear(s).sizes().heel.undercut == under);
  }
  s.teeth = 30, s.pitch_cone = Angle::degrees(60), s.profile_shift = 0, s.fillet_radius = 0.1;
  try {
    gear::BevelGear tight(s);
  } catch (const InvalidParameter& e) {
    CHECK(e.allowed().find("radius from") != std::string::npos);
  }
  s.fillet_radius = 0.7;
  const gear::BevelGear g(s);
  const curve::Outline o = g.section(g.sizes().outer_cone_distance);
  REQUIRE(std::holds_alternative<curve::Arc>(o.period[1].curve));
  for (const std::size_t i : {std::size_t{0}, std::size_t{1}}) {
    CHECK((o.period[i].last() - o.period[i + 1].first()).norm() < 1e-13);
    CHECK((o.period[i].tangent(o.period[i].to) - o.period[i + 1].tangent(o.period[i + 1].from)).norm() < 1e-9);
  }
}

TEST_CASE("bevel bodies are closed, and their volume and moments are those of fine triangles") {
  int made = 0;
  for (unsigned seed = 1; seed <= test::share(30); ++seed) {
    const auto p = test::any_bevel_pair(seed);
    if (!p) continue;
    test::Draw draw(seed + 1000);
    for (const gear::BevelGear* g : {&p->driver(), &p->driven()}) {
      gear::BevelSpec s = g->spec();
      body::Features f;
      const double inner = 0.3 * s.module * s.teeth * g->sizes().inner_cone_distance / g->sizes().outer_cone_distance;
      if (draw.whole(0, 2) > 0) s.bore_diameter = draw.between(0.3, 0.9) * inner;
      if (draw.whole(0, 1) > 0)
        f.hubs.push_back({true, draw.between(1.2, 1.8) * std::max(inner, s.bore_diameter), 2 * s.module});
      if (s.bore_diameter > 0 && draw.whole(0, 2) == 0)
        f.keyway = body::Keyway{0.3 * s.bore_diameter, 1.1 * s.bore_diameter, {0}};
      CAPTURE(seed, s.teeth, s.pitch_cone.degrees());
      std::optional<body::ConicalBody> body;
      try {
        body.emplace(gear::core(gear::BevelGear(s)), f);
      } catch (const InvalidParameter& e) {
        continue;  // no room, by name
      }
      const body::MassProperties exact = body::mass_properties(*body);
      for (const double error : {0.01 * s.module, 0.0005 * s.module}) {
        const body::TriangleMesh mesh = body::mesh(*body, error);
        CHECK(mesh.deviation <= error);
        std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
        for (const auto& t : mesh.triangles) {
          for (int i = 0; i < 3; ++i)
            ++edges[{t[i], t[(i + 1) % 3]}];
        }
        int open = 0;
        for (const auto& [e, n] : edges)
          open += n == 1 && edges.count({e.second, e.first}) == 1 ? 0 : 1;
        CHECK(open == 0);
        // Triangles stray to one side at most by the error, over the whole surface.
        CHECK_THAT(body::volume(mesh), WithinRel(exact.volume, 0.5 * error / s.module));
      }
      // The centre of mass and the moment from the triangles.
      const body::TriangleMesh mesh = body::mesh(*body, 0.001 * s.module);
      double volume = 0, height = 0, polar = 0;
      for (const auto& t : mesh.triangles) {
        const Vec3 &A = mesh.vertices[t[0]], &B = mesh.vertices[t[1]], &C = mesh.vertices[t[2]];
        const double v = A.dot(B.cross(C)) / 6;
        volume += v, height += v * (A + B + C).z() / 4;
        for (int i = 0; i < 2; ++i)
          polar += v / 10 * (A[i] * A[i] + B[i] * B[i] + C[i] * C[i] + A[i] * B[i] + B[i] * C[i] + C[i] * A[i]);
      }
      CHECK_THAT(height / volume, WithinAbs(exact.center.z(), 2e-3 * s.module));
      CHECK_THAT(polar, WithinRel(exact.polar_moment, 5e-3));
      ++made;
    }
  }
  if (test::whole_search()) CHECK(made > 12);
}

TEST_CASE("teeth tapered to the apex are a scaled copy of themselves: their volume is that of a cone cut off twice") {
  gear::BevelSpec s = corner(true, Angle::degrees(90));
  s.depth = gear::BevelDepth::tapered;
  const auto toothed = [&](double face) {
    s.face_width = face;
    const body::ConicalBody b = gear::body(gear::BevelGear(s), {});
    const double r1 = b.front().radius, r2 = b.rear().radius, h = b.rear().z - b.front().z;
    return body::mass_properties(b).volume - kPi * h / 3 * (r1 * r1 + r1 * r2 + r2 * r2);
  };
  const double R = gear::BevelGear(s).sizes().outer_cone_distance, full = R * R * R;
  const double ratio = toothed(8) / toothed(4);
  CHECK_THAT(ratio, WithinRel((full - std::pow(R - 8, 3)) / (full - std::pow(R - 4, 3)), 1e-10));
}

TEST_CASE("the roll in space of bevel teeth agrees with a brute search, and with the sphere where the error vanishes") {
  const pair::BevelPair p = corner_pair(90);
  const auto coned = [](const gear::BevelGear& g, const roll::Axis& axis, double start) {
    return roll::Coned{"gear",
                       g.section(g.sizes().outer_cone_distance),
                       g.sizes().inner_cone_distance,
                       g.sizes().outer_cone_distance,
                       g.spec().pitch_cone,
                       [&g](double R) { return std::tan(g.tip_angle(R).radians() / 2); },
                       axis,
                       start};
  };
  const double phase = pair::bevel_driven_phase(16, 29, 0, Angle());
  roll::Law law;
  law.ratio = p.motion_ratio();
  law.theoretical_play = p.angular_backlash()[1].radians();
  law.positions = 8;
  const auto rolled = [&](double shift, double tilt, double offset) {
    const Eigen::Matrix3d axes = Eigen::AngleAxisd(kPi / 2 + tilt, Vec3::UnitY()).toRotationMatrix();
    return roll::roll(coned(p.driver(), {}, 0),
                      coned(p.driven(), {shift * axes.col(2) + offset * Vec3::UnitY(), axes}, phase), law);
  };
  // Play grows with the way out, shrinks with the way in, less at once than the formula at the pitch point says.
  const roll::Result out = rolled(0.05, 0, 0), in = rolled(-0.05, 0, 0), hardly = rolled(1e-7, 0, 0);
  CHECK_THAT(hardly.play->min, WithinAbs(law.theoretical_play, 1e-8));
  CHECK(std::abs(hardly.transmission_error->max) < 1e-8);
  const double by_formula = 2 * 0.05 * std::sin(p.driven().spec().pitch_cone.radians()) * std::tan(20 * kPi / 180) * 2 /
                            p.driven().sizes().heel.pitch_diameter;
  CHECK(out.play->min > law.theoretical_play);
  CHECK(out.play->max < law.theoretical_play + 1.2 * by_formula);
  CHECK(in.play->max < law.theoretical_play - by_formula);
  CHECK(in.lost_share > 0.9);  // an edge touches: the flanks are no longer parallel
  // Far in they jam; a shaft angle or an offset tilts the contact to one end.
  CHECK(rolled(-0.2, 0, 0).verdict == roll::Verdict::jams);
  for (const roll::Position& position : rolled(0, 0, 0.05).positions) {
    REQUIRE(position.upper);
    CHECK_FALSE(position.upper->flank_on_flank());
  }

  // A brute search: the driver's flank as a cloud of points, the driven's as a fine table of place by label.
  const double shift = -0.05;
  const roll::Result r = rolled(shift, 0, 0);
  const Eigen::Matrix3d axes = Eigen::AngleAxisd(kPi / 2, Vec3::UnitY()).toRotationMatrix();
  const gear::BevelGear &a = p.driver(), &b = p.driven();
  const double inner = a.sizes().inner_cone_distance, outer = a.sizes().outer_cone_distance;
  for (const std::size_t k : {std::size_t{0}, std::size_t{3}}) {
    const roll::Position& position = r.positions[k];
    double least = 1e9;
    for (int tooth = 0; tooth < 16; ++tooth) {
      const double turn = position.driver + tooth * 2 * kPi / 16;
      for (int i = 0; i <= 400; ++i) {
        const double R = inner + (outer - inner) * i / 400, low = a.sizes().heel.root_form_angle.radians(),
                     high = a.tip_angle(R).radians();
        for (int m = 0; m <= 200; ++m) {
          // The flank on the counter-clockwise side pushes the driven back: its upper limit is set by it.
          const double angle = low + (high - low) * m / 200,
                       azimuth = turn + a.half_tooth_angle(Angle::radians(angle)).radians(),
                       d = a.distance(Angle::radians(angle), R);
          const Vec3 X(d * std::sin(angle) * std::cos(azimuth), d * std::sin(angle) * std::sin(azimuth),
                       d * std::cos(angle));
          const Vec3 q = axes.transpose() * (X - shift * axes.col(2));
          const double seen = std::atan2(q.head<2>().norm(), q.z()),
                       R2 = q.norm() * std::cos(seen - b.spec().pitch_cone.radians());
          if (R2 < inner || R2 > outer || seen < b.sizes().heel.root_form_angle.radians() ||
              seen > b.tip_angle(R2).radians())
            continue;
          // A tooth of the driven stands with its counter-clockwise flank behind this place.
          double gap = std::atan2(q.y(), q.x()) - b.half_tooth_angle(Angle::radians(seen)).radians() - phase -
                       p.motion_ratio() * position.driver;
          gap -= 2 * kPi / 29 * std::round(gap / (2 * kPi / 29));
          if (std::abs(gap) < kPi / 58 * 0.5) least = std::min(least, gap);
        }
      }
    }
    const double found = position.upper->driven - phase - p.motion_ratio() * position.driver;
    CAPTURE(k, found, least);
    CHECK(std::abs(least - found) * b.sizes().heel.pitch_diameter / 2 < 2e-5);
  }
}
