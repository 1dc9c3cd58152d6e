// Moulds: with their part they fill the block, every place belongs to one of the three, and both halves are drawn off.
#include <cmath>
#include <functional>
#include <string>
#include <vector>

#include <catch2/catch.hpp>

#include "inside.hpp"
#include "palio/body/mesh.hpp"
#include "palio/body/mould.hpp"
#include "palio/error.hpp"
#include "palio/gear/core.hpp"
#include "random_body.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

double volume(const body::Body& b) { return body::mass_properties(b).volume; }

double block_volume(const body::Body& part, const body::Body& half, const body::MouldSizes& sizes) {
  double radius = 0;
  for (const body::Loop& l : half.loops) {
    if (l.feature == "block") radius = std::get<curve::Arc>(l.outline.period[0].curve).radius;
  }
  return kPi * radius * radius * (part.top() - part.bottom() + 2 * sizes.floor);
}

/// How often a line along the axis crosses the surface.
int crossings(const body::TriangleMesh& mesh, const Vec2& at) {
  int all = 0;
  for (const auto& t : mesh.triangles) {
    const Vec2 a = mesh.vertices[t[0]].head<2>() - at, b = mesh.vertices[t[1]].head<2>() - at,
               c = mesh.vertices[t[2]].head<2>() - at;
    const double u = cross(b, c), v = cross(c, a), w = cross(a, b);
    all += u + v + w != 0 && (u > 0) == (v > 0) && (v > 0) == (w > 0);
  }
  return all;
}

body::Body moulded() {
  gear::CylindricalSpec spec = test::featured_wheel();
  body::Features f;
  f.hubs = {{true, 22, 6}, {false, 20, 3}};
  f.web = body::Web{4, 26, 52, body::Faces::both};
  f.spokes = body::Spokes{5, 4, 29, 48, 1.5};
  f.keyway = body::Keyway{4, 13.8, {0.0}};
  return test::featured(spec, f);
}

}  // namespace

TEST_CASE("a mould and its part fill the block, with every two features together or told why there is none") {
  const std::vector<test::NamedFeature> all = test::features();
  int made = 0, refused = 0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    for (std::size_t j = i; j < all.size(); ++j) {
      gear::CylindricalSpec spec = test::featured_wheel();
      body::Features f;
      all[i].add(f, spec);
      if (i != j) all[j].add(f, spec);
      body::Body part;
      try {
        part = test::featured(spec, f);
      } catch (const InvalidParameter&) {
        continue;
      }
      CAPTURE(all[i].name, all[j].name);
      try {
        const body::MouldSizes sizes{5, 7, 0};
        const body::Mould mould = body::mould(part, sizes);
        const double block = block_volume(part, mould.lower, sizes);
        CHECK_THAT((volume(mould.lower) + volume(mould.upper) + volume(part)) / block, WithinAbs(1, 1e-12));
        for (const body::Body* half : {&mould.lower, &mould.upper})
          CHECK_NOTHROW(body::check(body::mesh(*half, 0.02)));
        ++made;
      } catch (const InvalidParameter& e) {
        CHECK(e.name() == "mould");
        ++refused;
      }
    }
  }
  CHECK(made > 60);
  CHECK(refused > 30);
}

TEST_CASE(
    "every place of the block is the part's, the lower half's or the upper half's, and both are drawn off along the "
    "axis") {
  const body::Body part = moulded();
  const body::Mould mould = body::mould(part, {6, 5, 0});
  CHECK(mould.parting == 12);
  const body::TriangleMesh whole = body::mesh(part, 0.01), lower = body::mesh(mould.lower, 0.01),
                           upper = body::mesh(mould.upper, 0.01);
  test::Draw draw(3);
  int shared[3] = {0, 0, 0};
  for (int i = 0; i < 1500; ++i) {
    const Vec2 at = from_polar(39 * std::sqrt(draw.between(0, 1)), draw.between(0, 2 * kPi));
    const Vec3 p(at.x(), at.y(), draw.between(-7.9, 22.9));
    const int in[3] = {test::inside(whole, p), test::inside(lower, p), test::inside(upper, p)};
    // Chords of the three differ by the error of each.
    if (in[0] + in[1] + in[2] != 1) {
      int near = 0;
      for (const double dx : {-0.03, 0.03}) {
        for (const double dy : {-0.03, 0.03})
          near += test::inside(whole, p + Vec3(dx, dy, 0));
      }
      CHECK((near > 0 && near < 4));
      continue;
    }
    for (int k = 0; k < 3; ++k)
      shared[k] += in[k];
    // From above or below a half is met once and left once.
    CHECK(crossings(lower, at) == 2);
    CHECK(crossings(upper, at) == 2);
  }
  for (const int n : shared)
    CHECK(n > 150);
}

TEST_CASE("draft opens round walls towards the parting and leaves teeth and bore as they are") {
  const body::Body part = moulded();
  const double draft = 1.5 * kPi / 180;
  const body::Mould plain = body::mould(part, {6, 5, 0}), drafted = body::mould(part, {6, 5, draft});
  // The lower hub: of diameter 20 and 3 long, from 12 to 15 below the parting.
  const auto radii = [](const body::Body& half, double z) {
    std::vector<double> all;
    for (const body::Layer& l : half.layers) {
      for (const body::Wall& w : l.walls) {
        const body::Loop& loop = half.loops[l.levels.front().z == z ? w.below : w.above];
        if (l.levels.front().z != z && l.levels.back().z != z) continue;
        if (loop.feature == "hubs") all.push_back(std::get<curve::Arc>(loop.outline.period[0].curve).radius);
      }
    }
    return all;
  };
  for (const double r : radii(drafted.lower, -3))
    CHECK_THAT(r, WithinAbs(10 - 15 * std::tan(draft), 1e-12));
  CHECK(radii(drafted.lower, -3).size() == 1);
  CHECK_THAT(radii(drafted.upper, 18).at(0), WithinAbs(11 - 6 * std::tan(draft), 1e-12));
  CHECK(volume(drafted.lower) > volume(plain.lower));
  CHECK_NOTHROW(body::check(body::mesh(drafted.lower, 0.01)));
  CHECK_NOTHROW(body::check(body::mesh(drafted.upper, 0.01)));
  for (const body::Body* half : {&drafted.lower, &drafted.upper}) {
    for (const body::Layer& l : half->layers) {
      for (const body::Wall& w : l.walls) {
        if (w.below != w.above) CHECK(half->loops[w.below].feature != "keyway");
      }
    }
  }
}

TEST_CASE("what cannot be drawn out of a mould is told") {
  const auto refusal = [](const std::function<void(body::Features&, gear::CylindricalSpec&)>& add) -> std::string {
    gear::CylindricalSpec spec = test::featured_wheel();
    body::Features f;
    add(f, spec);
    try {
      body::mould(test::featured(spec, f), {});
    } catch (const InvalidParameter& e) {
      return e.what();
    }
    return "made";
  };
  CHECK_THAT(refusal([](auto& f, auto&) {
               f.hubs = {{true, 22, 8}}, f.cross_holes = {{3, 0, 16}};
             }),
             Contains("set_screw") && Contains("drill"));
  CHECK_THAT(refusal([](auto& f, auto&) { f.bore_chamfer = 0.5; }), Contains("tapers") && Contains("bore.chamfer"));
  CHECK_THAT(refusal([](auto&, auto& s) { s.helix_angle = Angle::degrees(20), s.double_helical = true, s.gap = 2; }),
             Contains("undercut"));
  CHECK(refusal([](auto&, auto& s) { s.helix_angle = Angle::degrees(20); }) == "made");  // it is unscrewed
  const body::Body part = moulded();
  CHECK_THROWS_WITH(body::mould(part, {0, 5, 0}), Contains("wall"));
  CHECK_THROWS_WITH(body::mould(part, {5, -1, 0}), Contains("floor"));
  // So much draft that the opening of the hub comes to its pin.
  CHECK_THROWS_AS(body::mould(part, {5, 5, 20 * kPi / 180}), InvalidParameter);
}
