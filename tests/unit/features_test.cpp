// Bodies with features: their volumes by hand, their meshes closed, what collides told; and parallels of teeth.
#include <catch2/catch.hpp>
#include <map>
#include <random>
#include <set>

#include "filled.hpp"
#include "palio/body/clear.hpp"
#include "palio/body/mesh.hpp"
#include "palio/curve/parallel.hpp"
#include "palio/gear/core.hpp"
#include "palio/math/roots.hpp"
#include "palio/roll/polygon.hpp"
#include "palio/roll/roll.hpp"
#include "palio/write/packed.hpp"
#include "polygons.hpp"
#include "random_body.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

/// Every directed edge once, its reverse once.
bool closed(const body::TriangleMesh& mesh) {
  std::set<std::pair<std::uint32_t, std::uint32_t>> edges;
  for (const auto& t : mesh.triangles) {
    for (int k = 0; k < 3; ++k) {
      if (!edges.insert({t[static_cast<std::size_t>(k)], t[static_cast<std::size_t>((k + 1) % 3)]}).second)
        return false;
    }
  }
  for (const auto& e : edges) {
    if (!edges.count({e.second, e.first})) return false;
  }
  return true;
}

double disc(double diameter) { return kPi * diameter * diameter / 4; }

/// Ring sector between two circles less the halves of two arms: ∫ r (2π/n − 2 asin(w/2r)) dr, in closed form.
double window_area(double r1, double r2, double w, int n) {
  const auto part = [&](double r) {
    return r * r * std::asin(w / r) + w * std::sqrt(r * r - w * w);
  };  // of 2∫ r asin(w/r) dr
  return (r2 * r2 - r1 * r1) * kPi / n - (part(r2) - part(r1));
}

}  // namespace

TEST_CASE("volumes of features are those of formulas worked out by hand") {
  const gear::CylindricalSpec wheel = test::featured_wheel();
  const double b = wheel.face_width, bore = wheel.bore_diameter, r = bore / 2;
  const double plain = body::mass_properties(test::featured(wheel, {})).volume;
  const double w = 4, k = 13.8 - r,
               notch = w * k - (r * r * std::asin(w / 2 / r) + w / 2 * std::sqrt(r * r - w * w / 4));
  const double c = 10.5 - r, segment = r * r * std::acos(c / r) - c * std::sqrt(r * r - c * c);
  const double cone = kPi * 0.7 / 3 * (std::pow(r + 0.7, 2) + (r + 0.7) * r + r * r) - kPi * r * r * 0.7;
  const double recess = disc(52) - disc(26);
  // What a round of radius ρ between a line and a circle takes from a window is left to the table below: here sharp
  // ones.
  struct Case {
    const char* name;
    std::function<void(body::Features&, gear::CylindricalSpec&)> add;
    double more;
  };
  const Case cases[] = {
      {"keyways, two",
       [](auto& f, auto&) {
         f.keyway = body::Keyway{4, 13.8, {0, kPi}};
       },
       -2 * notch * b},
      {"flat",
       [](auto& f, auto&) {
         f.flat = body::Flat{10.5, 1};
       },
       segment * b},
      {"hex in place of a bore",
       [](auto& f, auto& s) {
         f.sided = body::Sided{6, 11, 0.2}, s.bore_diameter = 0;
       },
       (disc(bore) - std::sqrt(3) / 2 * 121) * b},
      {"a double D",
       [](auto& f, auto&) {
         f.flat = body::Flat{10, 1, true};
       },
       2 * (r * r * std::acos(5 / r) - 5 * std::sqrt(r * r - 25)) * b},
      {"a square in place of a bore",
       [](auto& f, auto& s) {
         f.sided = body::Sided{4, 9, 0.2}, s.bore_diameter = 0;
       },
       (disc(bore) - 81) * b},
      {"serrations in place of a bore",
       [](auto& f, auto& s) {
         f.serration = body::Serration{25, 10.8, 12, 0.1}, s.bore_diameter = 0;
       },
       (disc(bore) - 25 * 5.4 * 6 * std::sin(kPi / 25)) * b},
      {"chamfers", [](auto& f, auto&) { f.bore_chamfer = 0.7; }, -2 * cone},
      {"hub",
       [](auto& f, auto&) {
         f.hubs.push_back({true, 22, 6});
       },
       (disc(22) - disc(bore)) * 6},
      {"stepped hub",
       [](auto& f, auto&) {
         f.hubs = {{true, 24, 2}, {true, 18, 5}};
       },
       (disc(24) - disc(bore)) * 2 + (disc(18) - disc(bore)) * 3},
      {"web",
       [](auto& f, auto&) {
         f.web = body::Web{4, 26, 52, body::Faces::both};
       },
       -recess * (b - 4)},
      {"web from above",
       [](auto& f, auto&) {
         f.web = body::Web{3, 26, 52, body::Faces::top};
       },
       -recess * (b - 3)},
      {"web, hub as wide as the recess begins",
       [](auto& f, auto&) {
         f.web = body::Web{4, 26, 52, body::Faces::both}, f.hubs = {{true, 26, 5}};
       },
       -recess * (b - 4) + (disc(26) - disc(bore)) * 5},
      {"arms with sharp corners",
       [](auto& f, auto&) {
         f.spokes = body::Spokes{5, 4, 29, 48, 0};
       },
       -5 * window_area(14.5, 24, 2, 5) * b},
      {"holes in the web only",
       [](auto& f, auto&) {
         f.web = body::Web{4, 26, 52, body::Faces::both}, f.holes = {{6, 38, 5, 0}};
       },
       -recess * (b - 4) - 6 * disc(5) * 4},
      {"holes through hub and body",
       [](auto& f, auto&) {
         f.hubs = {{true, 24, 4}}, f.holes = {{3, 17, 2, 0}};
       },
       (disc(24) - disc(bore)) * 4 - 3 * disc(2) * (b + 4)},
      {"steps from above, one within the other",
       [](auto& f, auto&) {
         f.steps = {{true, 19, 3}, {true, 17, 5}};
       },
       -(disc(19) - disc(bore)) * 3 - (disc(17) - disc(bore)) * 2},
      {"a seat at the end of a hub, a step below",
       [](auto& f, auto&) {
         f.hubs = {{true, 30, 6}}, f.steps = {{true, 22, 7, true}, {false, 15, 2}};
       },
       (disc(30) - disc(bore)) * 6 - (disc(22) - disc(bore)) * 7 - (disc(15) - disc(bore)) * 2},
      {"seats without a bore between them",
       [](auto& f, auto& s) {
         f.steps = {{true, 22, 5, true}, {false, 22, 5, true}}, s.bore_diameter = 0;
       },
       disc(bore) * b - 2 * disc(22) * 5},
      {"a seat in front of a keyway, chamfers apart",
       [](auto& f, auto&) {
         f.keyway = body::Keyway{4, 13.8, {0, kPi}}, f.steps = {{false, 20, 4}};
       },
       -2 * notch * (b - 4) - (disc(20) - disc(bore)) * 4},
      {"holes in a step's floor",
       [](auto& f, auto&) {
         f.steps = {{true, 26, 4}}, f.holes = {{3, 19, 3, 0}};
       },
       -(disc(26) - disc(bore)) * 4 - 3 * disc(3) * (b - 4)},
      {"a dot engraved",
       [](auto& f, auto&) {
         f.marks = body::Marks{0.4, {0.0}, {}, ""};
       },
       -disc(0.75) * 0.4},
  };
  for (const Case& one : cases) {
    CAPTURE(one.name);
    gear::CylindricalSpec spec = wheel;
    body::Features f;
    one.add(f, spec);
    CHECK_THAT(body::mass_properties(test::featured(spec, f)).volume - plain, WithinAbs(one.more, 1e-9 * plain));
  }
  // Inertia: of a hub about its axis m (R² + r²)/2; the center of mass of hub and wheel by their moments.
  body::Features f;
  f.hubs = {{true, 22, 6}};
  const body::MassProperties with = body::mass_properties(test::featured(wheel, f)),
                             without = body::mass_properties(test::featured(wheel, {}));
  const double hub = (disc(22) - disc(bore)) * 6;
  CHECK_THAT(with.polar_moment - without.polar_moment,
             WithinAbs(hub * (11 * 11 + r * r) / 2, 1e-9 * with.polar_moment));
  CHECK_THAT(with.center.z() * with.volume, WithinAbs(without.center.z() * without.volume + hub * (b + 3), 1e-6));
}

TEST_CASE("every two features together make a closed mesh of the exact volume, or say which two collide") {
  const std::vector<test::NamedFeature> all = test::features();
  int made = 0, refused = 0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    for (std::size_t j = i; j < all.size(); ++j) {
      CAPTURE(all[i].name, all[j].name);
      gear::CylindricalSpec spec = test::featured_wheel();
      body::Features f;
      all[i].add(f, spec);
      if (i != j) all[j].add(f, spec);
      try {
        const body::Body body = test::featured(spec, f);
        const body::TriangleMesh mesh = body::mesh(body, 0.004);
        CHECK(closed(mesh));
        CHECK_THAT(body::volume(mesh) / body::mass_properties(body).volume, WithinAbs(1, 2e-3));
        ++made;
      } catch (const InvalidParameter& e) {
        CHECK_FALSE(e.allowed().empty());
        ++refused;
      }
    }
  }
  CHECK(made > 120);
  CHECK(refused > 5);  // a hex takes no keyway, a flange no hub on its side …
}

TEST_CASE("bodies drawn at random are closed and of the right volume, or refused by the name of a feature") {
  const std::set<std::string> names{
      "bore",         "square",         "serration", "keyway",    "flat",  "hex",          "hubs",
      "web",          "spokes",         "holes",     "teeth",     "mark",  "sector_teeth", "sector_back_diameter",
      "bore.chamfer", "surface_offset", "set_screw", "cross_pin", "spline"};
  std::map<std::string, int> refusals;
  int made = 0;
  for (unsigned seed = 1; seed <= 440; ++seed) {
    auto g = test::any_gear(seed);
    if (!g) continue;
    gear::CylindricalSpec spec = g->spec();
    test::Draw draw(seed);
    spec.bore_diameter = draw.of({0.0, 0.15, 0.25, 0.35}) * g->sizes().root_diameter;
    spec.helix_angle = Angle::degrees(draw.of({0.0, 0.0, 12.0, -25.0}));
    CAPTURE(seed, spec.teeth, spec.module);
    try {
      const gear::CylindricalGear gear(spec);
      const body::Body body = test::featured(spec, test::any_features(seed, gear));
      const body::TriangleMesh mesh = body::mesh(body, 0.004 * spec.module);
      CHECK(closed(mesh));
      CHECK(mesh.deviation <= 0.004 * spec.module);
      CHECK_THAT(body::volume(mesh) / body::mass_properties(body).volume, WithinAbs(1, 0.02));
      ++made;
    } catch (const InvalidParameter& e) {
      CHECK(names.count(e.name()) + (e.name().find('.') != std::string::npos) + (e.name() == "dedendum") > 0);
      ++refusals[e.name()];
    }
  }
  CHECK(made > 80);
  CHECK(refusals["holes"] > 10);
  CHECK(refusals["web"] > 10);
}

TEST_CASE("what collides is named, with how far one reaches into the other") {
  struct Case {
    const char* name;
    std::function<void(body::Features&)> add;
    const char *key, *other;
    double depth;
  };
  const double root = gear::CylindricalGear(test::featured_wheel()).sizes().root_diameter;
  const Case cases[] = {
      {"a hole half in the bore",
       [](auto& f) {
         f.holes = {{1, 12, 3, 0}};
       },
       "holes", "bore", 1.5},
      {"a web into the roots",
       [&](auto& f) {
         f.web = body::Web{4, 26, root + 1, body::Faces::both};
       },
       "web", "teeth", 0.5},
      {"neighbouring holes",
       [](auto& f) {
         f.holes = {{12, 20, 6, 0}};
       },
       "holes", "holes", 6 - 20 * std::sin(kPi / 12)},
      {"a hub over a web's hole",
       [](auto& f) {
         f.hubs = {{true, 24, 3}}, f.holes = {{3, 24, 4, 0}};
       },
       "holes", "hubs", 2},
  };
  for (const Case& one : cases) {
    CAPTURE(one.name);
    body::Features f;
    one.add(f);
    try {
      test::featured(test::featured_wheel(), f);
      FAIL_CHECK("taken without a word");
    } catch (const InvalidParameter& e) {
      CHECK(e.name() == one.key);
      CHECK_THAT(e.allowed(), Contains(one.other));
      const auto by = e.allowed().find(" by ");
      REQUIRE(by != std::string::npos);
      CHECK_THAT(std::stod(e.allowed().substr(by + 4)), WithinAbs(one.depth, 0.03));
    }
  }
  // Exactly tangent counts as touching.
  body::Features f;
  f.holes = {{1, 16, 4, 0}};
  CHECK_THROWS_WITH(test::featured(test::featured_wheel(), f), Contains("touches the bore"));
}

TEST_CASE("the wall between two loops is as thick as circles say") {
  body::Features f;
  f.holes = {{1, 20, 4, 0}};  // 10 − 2 from the axis, the bore ends at 6
  const auto walls = body::thin_walls(test::featured(test::featured_wheel(), f), 3);
  REQUIRE(walls.size() == 1);
  CHECK(walls[0].first == "bore");
  CHECK_THAT(walls[0].thickness, WithinAbs(2, 0.01));
}

TEST_CASE("the parallel of every tooth curve lies at the offset along its normals, and closes") {
  for (const auto& [name, teeth] : test::one_of_each()) {
    if (teeth.twist() != 0) continue;
    for (const double offset : {0.05, -0.04}) {
      CAPTURE(name, offset);
      const curve::Outline made = curve::parallel(teeth.outline(), offset);
      for (std::size_t i = 0; i < made.period.size(); ++i) {
        const curve::Segment& now = made.period[i];
        CHECK((now.last() - (i + 1 < made.period.size() ? made.period[i + 1].first() : made.segment(1, 0).first()))
                  .norm() < 1e-9);
        // From a point of the parallel back along its normal lies a point of the curve, with the same normal there.
        const curve::Segment& was = teeth.outline().period[i];
        for (const double share : {0.1, 0.5, 0.9}) {
          const double t = now.from + (now.to - now.from) * share;
          const Vec2 foot = now.point(t) - offset * now.normal(t);
          double nearest = 1e300;
          const double low = std::min(was.from, was.to) - 0.3, high = std::max(was.from, was.to) + 0.3;
          double u = low;
          for (int k = 0; k <= 400; ++k) {
            const double at = low + (high - low) * k / 400;
            if (const double d = (was.point(at) - foot).norm(); d < nearest) nearest = d, u = at;
          }
          for (int k = 0; k < 30; ++k) {
            const curve::Jet j = was.jet(u);
            u -= (j.p - foot).dot(j.d1) / j.d1.squaredNorm();
          }
          CHECK_THAT((was.point(u) - foot).norm(), WithinAbs(0, 1e-10));
        }
      }
    }
  }
}

TEST_CASE("a helical flank grows by the offset along its normal in space") {
  const gear::CylindricalGear g = test::one_of_each()[1].second.gear();
  const double offset = -0.06, k = g.twist();
  const gear::CylindricalGear made = g.grown(offset);
  for (std::size_t i = 0; i < g.outline().period.size(); ++i) {
    const curve::Segment &was = g.outline().period[i], &now = made.outline().period[i];
    const double t0 = (now.from + now.to) / 2;
    const Vec2 p = now.point(t0);
    const Vec3 at(p.x(), p.y(), 0);
    // Nearest point of the screw surface through the old curve: Newton on both parameters, by small steps.
    double t = (was.from + was.to) / 2, z = 0;
    const auto surface = [&](double u, double h) {
      return Vec3(turned(was.point(u), k * h).x(), turned(was.point(u), k * h).y(), h);
    };
    for (int step = 0; step < 200; ++step) {
      const double e = 1e-5;
      const Vec3 s = surface(t, z), st = (surface(t + e, z) - surface(t - e, z)) / (2 * e),
                 sz = (surface(t, z + e) - surface(t, z - e)) / (2 * e);
      Eigen::Matrix2d m;
      m << st.dot(st), st.dot(sz), st.dot(sz), sz.dot(sz);
      const Eigen::Vector2d change = m.inverse() * Eigen::Vector2d(st.dot(at - s), sz.dot(at - s));
      t += 0.7 * change.x(), z += 0.7 * change.y();
    }
    CAPTURE(i, curve::name(was.role));
    CHECK_THAT((surface(t, z) - at).norm(), WithinAbs(std::abs(offset), 1e-9));
  }
  // What the gear says of itself is what its outline is.
  const double r = made.sizes().reference_diameter / 2, angle = made.half_tooth_angle(r).radians();
  double measured = 0;
  for (const curve::Segment& s : made.outline().period) {
    if (s.role != curve::Role::flank || s.sense() < 0) continue;
    const double at = math::find_root([&](double u) { return s.point(u).norm() - r; }, s.from, s.to);
    measured = -std::atan2(s.point(at).y(), s.point(at).x());
  }
  CHECK_THAT(measured, WithinAbs(angle, 1e-12));
}

TEST_CASE("flanks that spread by δ take 4 δ of the normal play of a pair, by the formula and by the roll") {
  int rolled = 0;
  for (unsigned seed = 1; seed <= 60; ++seed) {
    const auto p = test::any_pair(seed);
    if (!p) continue;
    const double delta = 0.01 * p->driver.spec().module;
    try {
      const gear::CylindricalGear g1 = p->driver.grown(delta), g2 = p->driven.grown(delta);
      const pair::ParallelPair before(p->driver, p->driven, p->center_distance + delta * 20),
          after(g1, g2, p->center_distance + delta * 20);
      CAPTURE(seed);
      CHECK_THAT(before.normal_backlash() - after.normal_backlash(), WithinAbs(4 * delta, 1e-10));
      bool sound = true;
      for (const Finding& f : after.findings("", "", ""))
        sound = sound && f.kind().severity != Severity::error;
      if (!sound || ++rolled > 12) continue;
      const Vec2 at(after.center_distance(), 0);
      const roll::Member m1{"1", g1.outline(), roll::Motion::rotation(Vec2::Zero()), 0.1},
          m2{"2", g2.outline(), roll::Motion::rotation(at), pair::driven_phase(g1, g2, 0.1, Angle())};
      const roll::Result r = roll::roll(m1, m2, test::law(after.motion_ratio(), after.driven_play(), 24));
      REQUIRE(r.play);
      const double radius = after.working_pitch_diameters()[1] / 2;
      CHECK_THAT(r.play->min * radius, WithinAbs(after.circumferential_backlash(), 1e-9));
      CHECK_THAT(r.play->max * radius, WithinAbs(after.circumferential_backlash(), 1e-9));
    } catch (const InvalidParameter& e) {
      CHECK(e.name() == "surface_offset");
    }
  }
  CHECK(rolled > 8);
}

TEST_CASE("a growth that swallows a round or a land is refused") {
  gear::CylindricalSpec s = test::featured_wheel();
  s.tool_tip_radius = 0.1;
  CHECK_THROWS_WITH(gear::CylindricalGear(s).grown(0.2), Contains("surface_offset") && Contains("0.15 mm"));
}

TEST_CASE(
    "chords of the exact outlines, rolled as straight pieces, give the exact play with the square of their length") {
  gear::CylindricalSpec s1 = test::featured_wheel(), s2 = s1;
  s1.teeth = 17, s1.profile_shift = 0.2;
  const gear::CylindricalGear g1(s1), g2(s2);
  const pair::ParallelPair p(g1, g2, *pair::zero_play_center_distance(g1, g2) + 0.2);
  const auto cut = [](const gear::CylindricalGear& g, const Vec2& axis, double start, int chords) {
    roll::Cut c{{}, axis, start};
    for (int copy = 0; copy < g.spec().teeth; ++copy) {
      for (std::size_t k = 0; k < g.outline().period.size(); ++k) {
        const curve::Segment s = g.outline().segment(copy, k);
        for (int i = 0; i < chords; ++i) {
          c.pieces.push_back(
              {s.point(s.from + (s.to - s.from) * i / chords), s.point(s.from + (s.to - s.from) * (i + 1) / chords)});
        }
      }
    }
    return c;
  };
  double before = 0;
  for (const int chords : {8, 16, 32}) {
    const roll::CutResult r =
        roll::roll(cut(g1, Vec2::Zero(), 0, chords),
                   cut(g2, {p.center_distance(), 0}, pair::driven_phase(g1, g2, 0, Angle()), chords),
                   test::law(p.motion_ratio(), p.driven_play(), 16), 2 * kPi / 17, 2 * kPi / 43);
    const double off = std::max(std::abs(r.play.max - p.driven_play()), std::abs(r.play.min - p.driven_play()));
    CAPTURE(chords, off);
    if (before > 0) CHECK(off < 0.35 * before);
    before = off;
  }
  CHECK(before < 1e-4);
}

TEST_CASE("parts on a bed lie within it and clear of each other, and what does not fit is told") {
  std::vector<body::TriangleMesh> parts;
  for (const auto& [name, teeth] : test::one_of_each())
    parts.push_back(body::mesh(gear::body(teeth), 0.02));
  const auto placed = write::nested(parts, 160, 140, 5);
  struct Box {
    Vec2 low, high;
  };
  std::vector<Box> boxes;
  for (std::size_t i = 0; i < parts.size(); ++i) {
    Box b{Vec2::Constant(1e300), Vec2::Constant(-1e300)};
    double floor = 1e300;
    for (const Vec3& v : parts[i].vertices) {
      const Vec3 p = v + placed[i].at;
      b.low = b.low.cwiseMin(p.head<2>()), b.high = b.high.cwiseMax(p.head<2>()), floor = std::min(floor, p.z());
    }
    CHECK_THAT(floor, WithinAbs(0, 1e-12));
    CHECK((b.low.minCoeff() > 4.9 && b.high.x() < 160 && b.high.y() < 140));
    for (const Box& o : boxes)
      CHECK((b.low.x() > o.high.x() || o.low.x() > b.high.x() || b.low.y() > o.high.y() || o.low.y() > b.high.y()));
    boxes.push_back(b);
  }
  CHECK_THROWS_WITH(write::nested(parts, 60, 60, 5), Contains("finds no place"));
}

TEST_CASE("a circle keeps from other loops what points all around it keep from their edges") {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> any(0, 1);
  int touching = 0, apart = 0;
  for (int n = 0; n < 300; ++n) {
    // A star of straight edges, with sharp and blunt corners.
    const int corners = 3 + n % 9;
    test::Loop star;
    for (int k = 0; k < corners; ++k)
      star.push_back(from_polar(4 + 8 * any(random), 2 * kPi * (k + 0.6 * any(random)) / corners));
    curve::Outline outline;
    for (std::size_t k = 0; k < star.size(); ++k)
      outline.period.push_back({curve::Line{star[k], star[(k + 1) % star.size()]}, 0, 1, curve::Role::body});
    const Vec2 centre = from_polar(14 * any(random), 2 * kPi * any(random));
    const double radius = 0.3 + 15 * any(random) * any(random);
    const body::Shape edges(outline), circle(curve::circle(radius, curve::Role::body, n % 2 == 0, centre));
    constexpr int kAround = 20000;
    double least = 1e300;
    int within = 0;
    for (int k = 0; k < kAround; ++k) {
      const Vec2 p = centre + from_polar(radius, 2 * kPi * k / kAround);
      least = std::min(least, test::distance({star}, p)), within += test::inside({star}, p) ? 1 : 0;
    }
    const bool crosses = within > 0 && within < kAround;
    CAPTURE(n, crosses, least, radius, centre.x(), centre.y(), circle.circle(), edges.circle(), edges.points().size());
    // Points miss the nearest place by half their spacing: of a corner, whose distance grows fastest, that is this.
    const double half = kPi / kAround,
                 miss = crosses ? radius * half : radius * (radius + least) * half * half / (2 * least + 1e-9);
    for (const double told : {circle.distance(edges), edges.distance(circle)}) {
      CHECK(told <= least + 1e-12);
      CHECK(told >= (crosses ? 0 : least - miss - 1e-9));
      if (crosses) CHECK(told == 0);
    }
    // Not looked for beyond what is enough.
    CHECK(circle.distance(edges, least / 2) <= least / 2 + 1e-12);
    (crosses ? touching : apart) += 1;
  }
  CHECK(touching > 60);
  CHECK(apart > 60);
}
