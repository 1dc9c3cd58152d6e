// Bodies askew to each other: convex pieces against a search that knows nothing of how they are held against each
// other, and planted cases in whole machines.
#include <cmath>
#include <functional>
#include <string>

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <catch2/catch.hpp>

#include "palio/design/design.hpp"
#include "palio/readings/findings.hpp"
#include "random_gear.hpp"
#include "readings/convex.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

Vec3 any_direction(test::Draw& draw) {
  Vec3 v;
  do
    v = Vec3(draw.between(-1, 1), draw.between(-1, 1), draw.between(-1, 1));
  while (v.norm() > 1 || v.norm() < 0.1);
  return v.normalized();
}

/// A convex body, and whether a point lies in it by its equations.
struct Solid {
  Convex convex;
  std::function<bool(const Vec3&)> holds;
  Vec3 middle;
  double reach;
};

Solid cone(test::Draw& draw, const Vec3& at) {
  const Spin spin{at, any_direction(draw)};
  const double low = draw.between(1, 9), high = draw.between(1, 9), tall = draw.between(0.5, 10);
  return {turned_about(spin, {{0, 0}, {low, 0}, {high, tall}, {0, tall}}),
          [=](const Vec3& p) {
            const double z = (p - at).dot(spin.along), r = (p - at - spin.along * z).norm();
            return z >= 0 && z <= tall && r <= low + (high - low) * z / tall;
          },
          at + spin.along * tall / 2, 16};
}

Solid bar(test::Draw& draw, const Vec3& at) {
  const Eigen::Matrix3d axes = Eigen::AngleAxisd(draw.between(0, 6), any_direction(draw)).toRotationMatrix();
  const Vec3 half(draw.between(0.5, 8), draw.between(0.5, 8), draw.between(0.5, 8));
  std::vector<Vec3> corners;
  corners.reserve(8);
  for (int k = 0; k < 8; ++k)
    corners.emplace_back(
        at + axes * Vec3(k & 1 ? half.x() : -half.x(), k & 2 ? half.y() : -half.y(), k & 4 ? half.z() : -half.z()));
  return {hull_of(corners),
          [=](const Vec3& p) {
            const Vec3 own = axes.transpose() * (p - at);
            return (own.cwiseAbs() - half).maxCoeff() <= 0;
          },
          at, half.norm()};
}

Solid plate(test::Draw& draw, const Vec3& at) {
  const Eigen::Matrix3d axes = Eigen::AngleAxisd(draw.between(0, 6), any_direction(draw)).toRotationMatrix();
  const double r1 = draw.between(1, 4), r2 = draw.between(1, 4), apart = draw.between(r1 + r2, 9),
               thick = draw.between(0.5, 4);
  return {plate_of(at, axes, {{Vec2(0, 0), r1}, {Vec2(apart, 0), r2}}, 0, thick),
          [=](const Vec3& p) {
            const Vec3 own = axes.transpose() * (p - at);
            if (own.z() < 0 || own.z() > thick) return false;
            // Within a disc that moves from the one to the other, its radius changing evenly.
            for (int k = 0; k <= 400; ++k) {
              const double t = k / 400.0;
              if ((Vec2(own.x() - apart * t, own.y())).norm() <= r1 + (r2 - r1) * t) return true;
            }
            return false;
          },
          at, 14};
}

Solid any(test::Draw& draw, const Vec3& at) {
  const int kind = draw.whole(0, 2);
  return kind == 0 ? cone(draw, at) : kind == 1 ? bar(draw, at) : plate(draw, at);
}

/// The least that b has to be moved, by looking into many directions and then closely around the best.
double by_looking(const Convex& a, const Convex& b, test::Draw& draw) {
  const auto over = [&](const Vec3& d) { return a.furthest(d).dot(d) - b.furthest(-d).dot(d); };
  Vec3 best = Vec3::UnitX();
  double least = over(best);
  for (int k = 0; k < 4000; ++k) {
    const Vec3 d = any_direction(draw);
    if (const double o = over(d); o < least) least = o, best = d;
  }
  for (double step = 0.2; step > 1e-5; step *= 0.8) {
    for (int k = 0; k < 40; ++k) {
      const Vec3 d = (best + step * any_direction(draw)).normalized();
      if (const double o = over(d); o < least) least = o, best = d;
    }
  }
  return least;
}

std::vector<Finding> collisions_of(const std::string& text) {
  std::vector<Finding> all;
  for (const Finding& f : findings(resolve(text, "job.toml"))) {
    if (f.id == FindingId::bodies_collide) all.push_back(f);
  }
  return all;
}

}  // namespace

TEST_CASE("Convex bodies run into each other as deep as a search in all directions says, and points in both say so") {
  int clear = 0, deep = 0;
  for (unsigned seed = 0; seed < test::share(300); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const Solid a = any(draw, Vec3::Zero()), b = any(draw, any_direction(draw) * draw.between(2, 20));
    const auto there = overlap(a.convex, b.convex);
    const double looked = by_looking(a.convex, b.convex, draw);
    if (!there) {
      ++clear;
      CHECK(looked < 1e-3);
      for (int k = 0; k < 2000; ++k) {
        const Vec3 p = a.middle + any_direction(draw) * draw.between(0, a.reach);
        REQUIRE_FALSE((a.holds(p) && b.holds(p)));
      }
      continue;
    }
    ++deep;
    CHECK(looked > 0);
    CHECK(there->depth < 1.005 * looked + 1e-3);
    // Moved so far it is clear, not moved so far it is not.
    for (const double share : {0.98, 1.001}) {
      const Vec3 by = there->apart * (share * there->depth);
      const auto moved = [&, furthest = b.convex.furthest](const Vec3& d) { return Vec3(furthest(d) + by); };
      const auto then = overlap(a.convex, {moved, b.convex.middle + by, b.convex.reach});
      CHECK(then.has_value() == (share < 1 && 0.02 * there->depth > 1e-4));
    }
  }
  if (test::whole_search()) CHECK((clear > 40 && deep > 40));
}

TEST_CASE("A ring lets through what fits its hole, and no more") {
  for (unsigned seed = 0; seed < test::share(40); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const Spin spin{Vec3(draw.between(-5, 5), 1, 2), any_direction(draw)};
    const double inner = draw.between(10, 40), outer = inner + draw.between(2, 8);
    const std::vector<Convex> ring = ring_about(spin, inner, outer, 0, 6);
    // A rod along the axis, off it: it touches the hole where radius and offset add up to it.
    const Vec3 side = spin.along.unitOrthogonal();
    const Vec3 toward = Eigen::AngleAxisd(draw.between(0, 6), spin.along) * side;
    const double thick = draw.between(0.5, 0.4 * inner);
    for (const double over : {-0.02, 0.02, 0.5}) {
      const Spin rod{spin.foot + toward * (inner - thick + over), spin.along};
      double depth = 0;
      for (const Convex& piece : ring) {
        if (const auto there = overlap(piece, turned_about(rod, {{thick, -3}, {thick, 20}})))
          depth = std::max(depth, there->depth);
      }
      CAPTURE(over);
      if (over < 0)
        CHECK(depth == 0);
      else
        CHECK_THAT(depth, WithinAbs(over, 1.2e-4 * inner));
    }
  }
}

namespace {

/// A corner, and on the wheel's shaft a drum that stands so far from the wheel's lower face.
std::string corner(double place, int teeth = 30) {
  return fmt::format(
      "[shared]\nmodule=2\n[gear.a]\nkind='bevel'\nteeth=20\nface_width=8\n[gear.b]\nkind='bevel'\nteeth=20\n"
      "face_width=8\n[pair.p]\ndriver='a'\ndriven='b'\n[gear.drum]\nkind='spur'\nteeth={}\nface_width=6\n"
      "[shaft.s]\ngears=['b','drum']\nplaces=[0, {:.12g}]\n[gear.mate]\nkind='spur'\nteeth=24\nface_width=6\n"
      "[pair.q]\ndriver='drum'\ndriven='mate'\ndirection=90\n",
      teeth, place);
}

}  // namespace

TEST_CASE("What stands on a shaft behind a corner runs into the pinion of the corner, until it is moved away") {
  // The drum moved along its shaft, towards the pinion and past it: found where its cylinder meets the pinion's cones,
  // by points of the drum.
  int in = 0, out = 0;
  for (double place = -40; place <= 20; place += 2.5) {
    CAPTURE(place);
    const Design design = resolve(corner(place), "job.toml");
    const Gear &drum = design.gear("drum"), &a = design.gear("a");
    const gear::BevelSizes& s = a.teeth.bevel().sizes();
    const Group &ga = design.groups[a.group], &gd = design.groups[drum.group];
    const body::Solid solid = job::body(a);
    const double rear = solid.cones().rear().z;
    bool touched = false;
    for (int k = 0; k < 60000 && !touched; ++k) {
      test::Draw draw(static_cast<unsigned>(k));
      const Vec2 flat = from_polar(drum.teeth.tip_diameter() / 2 * std::sqrt(draw.between(0, 1)), draw.between(0, 7));
      const Vec3 p = gd.origin + gd.axes * Vec3(drum.axis.x() + flat.x(), drum.axis.y() + flat.y(),
                                                drum.height + draw.between(-3, 3));
      const Vec3 own = ga.axes.transpose() * (p - ga.origin) - Vec3(a.axis.x(), a.axis.y(), 0);
      const double z = own.z() - (a.height - pair::mid_face(a.teeth)), r = own.head<2>().norm();
      const double toe = solid.bottom(), heel = s.crown_to_apex;
      const double wide =
          z < toe || z > rear ? -1
          : z < heel
              ? s.toe.tip_diameter / 2 + (s.heel.tip_diameter - s.toe.tip_diameter) / 2 * (z - toe) / (heel - toe)
              : s.heel.tip_diameter / 2 +
                    (solid.cones().rear().radius - s.heel.tip_diameter / 2) * (z - heel) / (rear - heel);
      touched = r < wide;
    }
    bool found = false;
    for (const Finding& f : collisions_of(corner(place)))
      found = found || (f.subject == "gear.a" && f.detail.rfind("gear.drum", 0) == 0);
    CHECK(found == touched);
    ++(found ? in : out);
  }
  CHECK(in > 3);
  CHECK(out > 3);
}

TEST_CASE("What dips into a plate is found with the depth, what lies on it is not") {
  const auto text = [](double offset) {
    return fmt::format(
        "[shared]\nmodule=1.5\nface_width=8\n[gear.a]\nkind='spur'\nteeth=20\nbore.diameter=5\n[gear.b]\nkind='spur'\n"
        "teeth=40\nbore.diameter=8\n[gear.c]\nkind='spur'\nteeth=15\n[pair.p]\ndriver='a'\ndriven='b'\n"
        "[pair.q]\ndriver='b'\ndriven='c'\ndirection=90\naxial_offset={:.12g}\n"
        "[frame.plate]\npairs=['p']\nthickness=5\nmargin=30\npost_height=3\naxial_gap=0\n",
        offset);
  };
  // The plate's upper face lies 3 below the gears', its outline reaches to the pinion beside.
  for (const double dips : {-0.5, 0.0, 0.5, 2.0}) {
    CAPTURE(dips);
    const std::vector<Finding> all = collisions_of(text(-3 - dips));
    if (dips <= 0) {
      CHECK(all.empty());
      continue;
    }
    REQUIRE(all.size() == 1);
    CHECK_THAT(all[0].subject + " " + all[0].detail, Contains("gear.c") && Contains("frame.plate") && Contains("at ("));
    CHECK_THAT(*all[0].value, WithinAbs(dips, 1e-3));
  }
}

TEST_CASE("A reducer is in the way of what does not stand on its axis") {
  // Its output turns a wheel; on the wheel's shaft, back beside the reducer, another one stands.
  const auto text = [](int wheel) {
    return starter("reducer", Units::mm) +
           fmt::format(
               "[gear.near]\nkind='spur'\nmodule=1\nteeth=20\nface_width=8\n[gear.wheel]\nkind='spur'\nmodule=1\n"
               "teeth={}\nface_width=8\n[pair.out]\ndriver='near'\ndriven='wheel'\n"
               "[shaft.first]\ngears=['motor_reducer', 'near']\ngap=2\n[gear.beside]\nkind='spur'\nmodule=1\nteeth=20\n"
               "face_width=8\n[shaft.second]\ngears=['beside','wheel']\ngap=10\n[gear.last]\nkind='spur'\nmodule=1\n"
               "teeth=20\nface_width=8\n[pair.last]\ndriver='beside'\ndriven='last'\n",
               wheel);
  };
  const Design design = resolve(text(100), "job.toml");
  double widest = 0;
  for (const reducer::Part& p : parts(design.reducers.front())) {
    for (const body::Loop& l : p.body.loops) {
      for (const curve::Segment& s : l.outline.period)
        widest = std::max(widest, s.point(s.from).norm());
    }
  }
  REQUIRE(widest > 30);
  const double tip = 11;
  int hits = 0;
  for (int wheel = static_cast<int>(2 * (widest + tip) - 20) - 4; wheel < 2 * (widest + tip) - 12; ++wheel) {
    const double distance = (20 + wheel) / 2.0;
    const std::vector<Finding> all = collisions_of(text(wheel));
    const auto hit = std::find_if(all.begin(), all.end(), [](const Finding& f) {
      return (f.subject + f.detail).find("reducer.") != std::string::npos &&
             (f.subject + f.detail).find("gear.beside") != std::string::npos;
    });
    CAPTURE(wheel, widest);
    CHECK((hit != all.end()) == (distance < widest + tip - 1e-3));
    if (hit == all.end()) continue;
    ++hits;
    CHECK_THAT(*hit->value, WithinAbs(widest + tip - distance, 1e-2));
  }
  CHECK(hits > 1);
}

namespace {

double push_at(const Design& design) { return design.gear("push").axis.y(); }

}  // namespace

TEST_CASE("A rack's way ends at what it runs into, found where it does") {
  // Past its pinion, a wheel of another pair stands beside the bar's back end, in its way or above it.
  const auto text = [](double offset, int teeth) {
    return fmt::format(
        "[shared]\nmodule=1.5\nface_width=8\n[gear.push]\nkind='spur'\nteeth=20\n[gear.bar]\nkind='rack'\nteeth=24\n"
        "base_height=8\n[pair.p]\ndriver='push'\ndriven='bar'\n[gear.on]\nkind='spur'\nteeth={1}\n[gear.far]\n"
        "kind='spur'\nteeth={1}\n[shaft.s]\ngears=['push','on']\nplaces=[0,40]\n"
        "[pair.q]\ndriver='on'\ndriven='far'\ndirection=90\naxial_offset={0:.12g}\n",
        offset, teeth);
  };
  int blocked = 0;
  for (const int teeth : {80, 100, 110, 140}) {
    for (const double offset : {-40.0, 0.0}) {
      CAPTURE(teeth, offset);
      const Design design = resolve(text(offset, teeth), "job.toml");
      const Gear &bar = design.gear("bar"), &far = design.gear("far");
      // The bar runs along +y at x from its tips to its back; the wheel's circle reaches down into that strip.
      const gear::RackSizes& s = bar.teeth.rack().sizes();
      const double near_x = bar.axis.x() - s.tip_height, far_x = bar.axis.x() + s.base_height;
      const double reach = far.teeth.tip_diameter() / 2;
      const double x = std::clamp(far.axis.x(), near_x, far_x) - far.axis.x();
      const double sign = std::sin(bar.facing) > 0 ? 1 : -1;
      const double end = bar.axis.y() - sign * bar.phase + sign * s.middle + s.length / 2;
      const bool level = offset != 0;  // the wheel of the pair stands back over the pinion's height
      const double first = far.axis.y() - std::sqrt(std::max(0.0, reach * reach - x * x)) - end;
      const double half = s.length / 2, at = sign * (push_at(design) - (bar.axis.y() - sign * bar.phase)) - s.middle;
      const double whole = sign > 0 ? half + at : half - at;
      std::optional<double> value;
      for (const Finding& f : findings(design)) {
        if (f.id == FindingId::way_blocked && f.detail == "gear.far") value = f.value;
      }
      const bool meets = level && std::abs(x) < reach && first > 0 && first < whole;
      CHECK(value.has_value() == meets);
      if (!value) continue;
      ++blocked;
      CHECK_THAT(*value, WithinAbs(first, 2e-2));
    }
  }
  CHECK(blocked > 0);
}
