#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/gear/cylindrical.hpp"
#include "palio/gear/rack_root.hpp"
#include "random_gear.hpp"

using namespace palio;
using namespace palio::gear;
using Catch::Matchers::WithinAbs;

namespace {

CylindricalSpec spur(int teeth, double shift = 0, double module = 1) {
  CylindricalSpec s;
  s.teeth = teeth;
  s.module = module;
  s.profile_shift = shift;
  s.face_width = 10 * module;
  return s;
}

/// Signed distance of a point from the rack's tooth (negative inside), the middle of that tooth on u = 0, its datum on
/// y = 0, its tip downwards. Built from half planes shrunk by the corner radius and grown again: no trochoid in it.
double off_rack_tooth(const CylindricalGear& g, double u, double y) {
  const double m = g.spec().module, alpha = g.spec().pressure_angle.radians(), rho = g.sizes().tool_tip_radius * m;
  const double h = g.sizes().dedendum * m;
  u = std::abs(u);
  // Outward distances from the shrunk flank (normal (cos α, −sin α) for u > 0) and the shrunk land.
  const double corner_y = -h + rho;
  const double half = kPi / 4 * m - (h - rho) * std::tan(alpha) - rho / std::cos(alpha);  // of the shrunk land
  const double flank = (u - half) * std::cos(alpha) - (y - corner_y) * std::sin(alpha);
  const double land = corner_y - y;
  // Beyond the corner of the shrunk tooth the nearest point is that corner.
  const double along_flank = (u - half) * std::sin(alpha) + (y - corner_y) * std::cos(alpha);
  if (land > 0 && u > half && along_flank < 0) return std::hypot(u - half, y - corner_y) - rho;
  return std::max(flank, land) - rho;
}

/// Least distance over the rolling of a point of the gear from the tool: the middle of the tool's tooth meets the
/// middle of the space (at polar angle `middle`) at the start.
double clearance_from_tool(const CylindricalGear& g, const Vec2& p, double middle) {
  const double r = g.sizes().reference_diameter / 2, shift = g.sizes().generating_profile_shift * g.spec().module;
  const auto off = [&](double roll) {
    const Vec2 q = turned(p, -middle + roll);  // gear turned; the rack touches it at +x and moves with it
    return off_rack_tooth(g, q.y() - r * roll, q.x() - r - shift);
  };
  double best = 1e9, at = 0;
  const double reach = 3 * kPi / g.spec().teeth + 0.5;
  for (int i = -300; i <= 300; ++i) {
    const double v = off(reach * i / 300);
    if (v < best) best = v, at = reach * i / 300;
  }
  double step = reach / 300;
  for (int i = 0; i < 60; ++i) {  // golden enough: a shrinking comb
    for (const double at_side : {at - step, at + step}) {
      if (const double v = off(at_side); v < best) best = v, at = at_side;
    }
    step *= 0.7;
  }
  return best;
}

}  // namespace

TEST_CASE("flank and root are the envelope of the rack: the tool touches every point of them and crosses none") {
  int gears = 0, undercut = 0;
  for (unsigned seed = 1; seed <= 40; ++seed) {
    const auto g = test::any_gear(seed);
    if (!g) continue;
    ++gears;
    undercut += g->sizes().undercut;
    CAPTURE(seed, g->spec().teeth, g->spec().module, g->sizes().undercut, g->sizes().generating_profile_shift);
    const double middle = -kPi / g->spec().teeth;
    for (const curve::Segment& s : g->outline().period) {
      for (int i = 0; i <= 12; ++i) {
        const Vec2 p = s.point(s.from + (s.to - s.from) * i / 12);
        CAPTURE(name(s.role), i, p.norm());
        CHECK_THAT(clearance_from_tool(*g, p, middle) / g->spec().module, WithinAbs(0, 2e-7));
      }
      if (s.role == curve::Role::flank) break;  // the rest mirrors it
    }
  }
  CHECK(gears > 25);
  CHECK(undercut > 3);
}

TEST_CASE("an outline is closed, runs once around, and has corners only at tips and undercuts") {
  for (unsigned seed = 1; seed <= 200; ++seed) {
    const auto g = test::any_gear(seed);
    if (!g) continue;
    CAPTURE(seed, g->spec().teeth, g->sizes().undercut);
    const auto& period = g->outline().period;
    for (std::size_t i = 0; i < period.size(); ++i) {
      const curve::Segment next = i + 1 < period.size() ? period[i + 1] : g->outline().segment(1, 0);
      CHECK((period[i].last() - next.first()).norm() < 1e-12 * g->sizes().tip_diameter);
      const bool tip = period[i].role == curve::Role::tip || next.role == curve::Role::tip ||
                       (g->sizes().pointed && period[i].role == next.role && period[i].role == curve::Role::flank);
      const bool notch = g->sizes().undercut && period[i].role != next.role;
      if (!tip && !notch) CHECK(period[i].tangent(period[i].to).dot(next.tangent(next.from)) > 1 - 1e-9);
    }
    CHECK(curve::signed_area(g->outline()) > 0);
  }
}

TEST_CASE("the undercut limit is where the outline begins to be cut, down to the slightest") {
  for (const double alpha : {14.5, 20.0, 25.0}) {
    for (int z = 8; z <= 40; z += 1) {
      CylindricalSpec s = spur(z);
      s.pressure_angle = Angle::degrees(alpha);
      const double limit = CylindricalGear(s).sizes().min_profile_shift_no_undercut;
      if (limit < -0.8 || limit > 0.8) continue;
      CAPTURE(alpha, z, limit);
      s.profile_shift = limit + 1e-6;
      const CylindricalGear free(s);
      CHECK_FALSE(free.sizes().undercut);
      s.profile_shift = limit - 1e-3;
      const CylindricalGear cut(s);
      CHECK(cut.sizes().undercut);
      CHECK(cut.sizes().root_form_diameter > cut.sizes().base_diameter);
    }
  }
  CHECK(CylindricalGear(spur(16)).sizes().undercut);  // nearly tangent
  CHECK_FALSE(CylindricalGear(spur(18)).sizes().undercut);
}

TEST_CASE("thickness, span and pins measured on the outline are those of the formulas") {
  for (unsigned seed = 1; seed <= 60; ++seed) {
    const auto g = test::any_gear(seed);
    if (!g || g->sizes().pointed) continue;
    CAPTURE(seed, g->spec().teeth);
    const double m = g->spec().module, r = g->sizes().reference_diameter / 2, r_b = g->sizes().base_diameter / 2;
    const curve::Segment* flank = nullptr;
    for (const auto& s : g->outline().period) {
      if (s.role == curve::Role::flank && !flank) flank = &s;
    }
    REQUIRE(flank);
    // Chord across the tooth at the reference circle from the flank itself.
    const double t = std::sqrt(r * r - r_b * r_b) / r_b;
    const Vec2 p = flank->point(t);
    CHECK_THAT(2 * r * std::asin(-p.y() / r) / m, WithinAbs(g->sizes().transverse_tooth_thickness / m, 1e-12));
    // Span: a pair of parallel planes touches where both normals are the same line; its length is the base tangent.
    const Span w = g->span();
    const double half_base = g->half_tooth_angle(r_b).radians(), pitch = 2 * kPi / g->spec().teeth;
    CHECK_THAT(w.length / m, WithinAbs(r_b * (2 * half_base + (w.teeth - 1) * pitch) / m, 1e-12));
    // A ball in a space: its circle touches the flank, so the nearest flank point is one radius from its centre.
    const OverBalls balls = g->over_balls();
    const double cosine = g->spec().teeth % 2 == 0 ? 1 : std::cos(kPi / (2 * g->spec().teeth));
    const Vec2 centre = from_polar((balls.length - balls.pin_diameter) / cosine / 2, -kPi / g->spec().teeth);
    double near = 1e9;
    curve::Segment longer = *flank;
    longer.to += 1;  // a ball may touch beyond the tip: the formula does not know where the flank ends
    for (int i = 0; i <= 40000; ++i)
      near = std::min(near, (longer.point(longer.to * i / 40000) - centre).norm());
    CHECK_THAT(near / m, WithinAbs(balls.pin_diameter / 2 / m, 1e-6));
  }
}

TEST_CASE("doubling every length given doubles every length returned, bit for bit") {
  for (unsigned seed = 1; seed <= 100; ++seed) {
    const auto g = test::any_gear(seed);
    if (!g) continue;
    CylindricalSpec s = g->spec();
    s.module *= 2, s.face_width *= 2, s.thickness_allowance *= 2;
    const CylindricalGear d(s);
    CAPTURE(seed);
    CHECK(d.sizes().tip_diameter == 2 * g->sizes().tip_diameter);
    CHECK(d.sizes().root_diameter == 2 * g->sizes().root_diameter);
    CHECK(d.sizes().root_form_diameter == 2 * g->sizes().root_form_diameter);
    CHECK(d.sizes().normal_tooth_thickness == 2 * g->sizes().normal_tooth_thickness);
    CHECK(d.span().length == 2 * g->span().length);
    CHECK(d.outline().period[1].point(d.outline().period[1].from) ==
          2 * g->outline().period[1].point(g->outline().period[1].from));
  }
}

TEST_CASE("a tangent fillet fits in a range, often narrow, and the error names it") {
  CylindricalSpec s = spur(17, 0.25);
  s.fillet_radius = 0.52;
  const CylindricalGear g(s);
  CHECK_FALSE(g.sizes().radial_root_line);
  s.fillet_radius = 0.54;
  CHECK_THROWS_WITH(CylindricalGear(s), Catch::Contains("0.53") && Catch::Contains("root.fillet_radius"));
  // Below the smallest arc on the flank (0.503) the radial line takes over, and the two forms meet where they should.
  for (const double radius : {0.01, 0.3, 0.50}) {
    s.fillet_radius = radius;
    const CylindricalGear lower(s);
    CHECK(lower.sizes().radial_root_line);
    const auto& period = lower.outline().period;
    for (std::size_t i = 0; i + 1 < period.size() && period[i].role != curve::Role::flank; ++i) {
      CAPTURE(radius, i);
      CHECK((period[i].last() - period[i + 1].first()).norm() < 1e-12);
      CHECK(period[i].tangent(period[i].to).dot(period[i + 1].tangent(period[i + 1].from)) > 1 - 1e-9);
    }
  }
  for (int z = 22; z <= 35; ++z) {  // an ordinary fillet of a quarter of the module
    CylindricalSpec plain = spur(z, 0, 3);
    plain.fillet_radius = 0.75;
    CAPTURE(z);
    CHECK(CylindricalGear(plain).sizes().radial_root_line == (z < 34));
  }
  for (const int z : {12, 17, 20}) {  // the flank ends at the base circle: a radial line takes over
    s = spur(z);
    s.fillet_radius = 0.3;
    CHECK(CylindricalGear(s).sizes().radial_root_line);
  }
  s = spur(60);
  s.fillet_radius = 0.4;  // here the root circle lies above the base circle
  const CylindricalGear wheel(s);
  CHECK_FALSE(wheel.sizes().radial_root_line);
  // Tangent at both ends: to the flank and to the root circle.
  const auto& period = wheel.outline().period;
  for (std::size_t i = 0; i + 1 < period.size() && period[i].role != curve::Role::flank; ++i) {
    CHECK(period[i].tangent(period[i].to).dot(period[i + 1].tangent(period[i + 1].from)) > 1 - 1e-12);
  }
}

TEST_CASE("the tool's tip radius is limited by its land") {
  CHECK_THAT(largest_tip_radius(Angle::degrees(20), 1.25), WithinAbs(0.472, 5e-4));
  CHECK_THAT(largest_tip_radius(Angle::degrees(25), 1.25), WithinAbs(0.318, 5e-4));
  CylindricalSpec s = spur(30);
  s.pressure_angle = Angle::degrees(25);
  CHECK_THAT(CylindricalGear(s).sizes().tool_tip_radius, WithinAbs(0.318, 5e-4));
  s.tool_tip_radius = 0.38;
  CHECK_THROWS_WITH(CylindricalGear(s), Catch::Contains("tool_tip_radius") && Catch::Contains("0.317"));
}

TEST_CASE("overrides of tip and root circle are met, and a tip beyond the point of the tooth ends in the point") {
  CylindricalSpec s = spur(24, 0.1, 2);
  s.thickness_allowance = -0.06;
  s.tip_diameter = 52.5;
  s.root_diameter = 42.9;
  const CylindricalGear g(s);
  CHECK(g.sizes().tip_diameter == 52.5);
  CHECK_THAT(g.sizes().root_diameter, WithinAbs(42.9, 1e-13));
  CHECK_THAT(2 * g.outline().period.front().first().norm(), WithinAbs(42.9, 1e-12));
  s = spur(12, 0.9);
  const CylindricalGear pointed(s);
  CHECK(pointed.sizes().pointed);
  CHECK(pointed.sizes().tip_thickness == 0);
  CHECK_THAT(pointed.half_tooth_angle(pointed.sizes().tip_diameter / 2).radians(), WithinAbs(0, 1e-14));
}

TEST_CASE("what cannot be a gear is refused by name") {
  struct Case {
    const char* name;
    void (*spoil)(CylindricalSpec&);
  };
  const Case cases[] = {
      {"teeth", [](CylindricalSpec& s) { s.teeth = 2; }},
      {"module", [](CylindricalSpec& s) { s.module = std::nan(""); }},
      {"module", [](CylindricalSpec& s) { s.module = -1; }},
      {"pressure_angle", [](CylindricalSpec& s) { s.pressure_angle = Angle::degrees(60); }},
      {"face_width", [](CylindricalSpec& s) { s.face_width = 0; }},
      {"addendum", [](CylindricalSpec& s) { s.addendum = -2; }},
      {"dedendum", [](CylindricalSpec& s) { s.dedendum = 3; }},
      {"dedendum",
       [](CylindricalSpec& s) { s.teeth = 3, s.profile_shift = 0.6, s.dedendum = 2; }},  // cut off by its undercut
      {"tip_diameter", [](CylindricalSpec& s) { s.tip_diameter = 10.0; }},
      {"root_diameter", [](CylindricalSpec& s) { s.root_diameter = 40.0; }},
      {"thickness_allowance", [](CylindricalSpec& s) { s.thickness_allowance = -3; }},
      {"profile_shift", [](CylindricalSpec& s) { s.profile_shift = 4; }},
      {"bore.diameter", [](CylindricalSpec& s) { s.bore_diameter = 30; }},
  };
  for (const Case& c : cases) {
    CylindricalSpec s = spur(20);
    c.spoil(s);
    CAPTURE(c.name);
    try {
      const CylindricalGear g(s);
      FAIL("accepted");
    } catch (const InvalidParameter& e) {
      CHECK(e.name() == c.name);
      CHECK_FALSE(e.remedy().empty());
    }
  }
}

TEST_CASE("teeth thinned at the flanks alone keep the root that they have without it") {
  int made = 0;
  for (unsigned seed = 1; seed <= 300; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec spec = test::any_rack(draw);
    spec.teeth = draw.whole(14, 70), spec.profile_shift = draw.between(-0.2, 0.6);
    spec.internal = seed % 4 == 0, spec.teeth += spec.internal ? 40 : 0;
    const auto whole = test::try_gear(spec);
    spec.thickness_allowance = -draw.between(0.01, 0.08) * spec.module;
    const auto infeed = test::try_gear(spec);
    spec.flanks_only = true;
    const auto thinned = test::try_gear(spec);
    if (!whole || !infeed || !thinned) continue;
    CAPTURE(seed, spec.internal);
    const double module = spec.module;
    CHECK_THAT(thinned->sizes().root_diameter, WithinAbs(whole->sizes().root_diameter, 1e-9 * module * spec.teeth));
    const double deeper = (spec.internal ? 1 : -1) * (infeed->sizes().root_diameter - whole->sizes().root_diameter);
    CHECK(deeper > 0);
    // As thick as by infeed, at the same distance from the tool's flank: one and the same involute.
    CHECK(thinned->sizes().normal_tooth_thickness == infeed->sizes().normal_tooth_thickness);
    CHECK(thinned->sizes().base_diameter == infeed->sizes().base_diameter);
    // A rack thinned so goes with them: same height of the root line, thinner teeth.
    gear::CylindricalSpec bar = spec;
    bar.internal = false, bar.teeth = 9;
    try {
      const gear::Rack thin(bar);
      bar.thickness_allowance = 0;
      const gear::Rack plain(bar);
      CHECK_THAT(thin.sizes().root_height, WithinAbs(plain.sizes().root_height, 1e-13 * module));
      CHECK(thin.sizes().normal_tooth_thickness < plain.sizes().normal_tooth_thickness);
    } catch (const InvalidParameter&) {
    }
    ++made;
  }
  CHECK(made > 120);
}

TEST_CASE(
    "a tool with wider teeth, as deep as the plain one, touches teeth thinned at the flanks and stays out of them") {
  int made = 0;
  for (unsigned seed = 1; seed <= 60; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec spec;
    spec.teeth = draw.whole(15, 60), spec.module = draw.between(0.5, 4), spec.profile_shift = draw.between(0, 0.5);
    spec.thickness_allowance = -draw.between(0.02, 0.08) * spec.module, spec.flanks_only = true, spec.face_width = 5;
    spec.tool_tip_radius = 0.25;
    const auto gear = test::try_gear(spec);
    if (!gear) continue;
    CAPTURE(seed);
    // The tool's tooth by itself: wider by the allowance on its datum line, its land as deep as ever.
    const double m = spec.module, alpha = spec.pressure_angle.radians(), r = m * spec.teeth / 2.0,
                 x = spec.profile_shift;
    const double half = (kPi / 4 * m - spec.thickness_allowance / 2), land_y = -spec.dedendum * m;
    const double round = 0.25 * m, centre_y = land_y + round;
    const double centre_u = half + centre_y * std::tan(alpha) - round / std::cos(alpha);  // at its flank, by the round
    REQUIRE(centre_u > 0);
    // Its corner's round, carried along: no point of the root comes nearer to its centre than the round is.
    const curve::Outline& outline = gear->outline();
    for (const curve::Segment& segment : outline.period) {
      if (segment.role != curve::Role::root) continue;
      for (int i = 0; i <= 20; ++i) {
        const Vec2 p = segment.point(segment.from + (segment.to - segment.from) * i / 20);
        const double space = (p.y() > 0 ? 1 : -1) * kPi / spec.teeth;  // half a pitch from the tooth on +x
        double nearest = 1e9;                                          // [mm]
        for (int side = -1; side <= 1; side += 2) {
          for (int step = -4000; step <= 4000; ++step) {
            const double turn = step * 2.5e-4 * 2;
            const Vec2 world(r + x * m + centre_y, r * turn + side * centre_u);
            nearest = std::min(nearest, (turned(world, space - turn) - p).norm());
          }
        }
        CHECK(nearest > round - 2e-3 * m);
        if (std::holds_alternative<curve::Trochoid>(segment.curve)) CHECK(nearest < round + 2e-3 * m);
        ++made;
      }
    }
    CHECK_THAT(gear->sizes().root_diameter / 2, WithinAbs(r + x * m + land_y, 1e-9 * r));
  }
  CHECK(made > 500);
}
