// One class over all theories of pairs, used without any job: what the theory says is what the geometry does.
#include <catch2/catch.hpp>
#include <cmath>

#include "palio/overloaded.hpp"
#include "palio/pair/tolerance.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::WithinAbs;

namespace {

/// The pair of a job, built anew from its teeth alone: both gears at the origin, as they come.
pair::Pair alone(const job::Pair& p, const pair::MountingError& error = {}) {
  pair::Arrangement as_built;
  as_built.direction = p.direction(), as_built.axial_offset = p.axial_offset(), as_built.shaft_angle = p.shaft_angle();
  if (p.sort() != pair::Sort::bevel) as_built.mounted_center_distance = p.mounted_center_distance();
  as_built.error = error;
  return pair::in_mesh({"one", p.gears()[0].teeth}, {"other", p.gears()[1].teeth}, as_built);
}

/// Whether the ratio holds within a tooth, and a roll of few positions meets every contact.
bool even(const pair::Pair& p) {
  return p.visit(overloaded{[](const pair::CycloidalPair& theory) { return theory.conjugate(); },
                            [](const auto&) { return true; }});
}

}  // namespace

TEST_CASE("a pair of any kind is put in mesh and rolled without a job") {
  unsigned rolled_pairs = 0;
  for (const std::string& kind : test::job_kinds()) {
    if (kind == "reducer") continue;
    for (unsigned seed = 1; seed <= test::share(kind == "crossed" || kind == "bevel" ? 3 : 8); ++seed) {
      const auto design = test::try_job(test::random_job(kind, seed));
      if (!design || design->pairs.empty() || !design->pairs[0].meshes()) continue;
      const pair::Pair p = alone(design->pairs[0]);
      CAPTURE(kind, seed);
      REQUIRE(p.meshes());
      // What the job reports is what the pair alone says.
      CHECK(p.motion_ratio() == design->pairs[0].motion_ratio());
      CHECK(p.circumferential_backlash() == design->pairs[0].circumferential_backlash());
      const roll::Result r = pair::roll(p, 12);
      if (r.verdict != roll::Verdict::meshes || !even(p)) continue;
      ++rolled_pairs;
      // The play by formula is the play of the geometry, both ways round the middle: in mesh means in the middle.
      const double tolerance = 2e-8 * std::max(1.0, p.gears()[0].teeth.module()) / p.working_radius();
      REQUIRE(r.play);
      CHECK_THAT(r.play->min, WithinAbs(p.driven_play(), tolerance));
      CHECK_THAT(p.driven_play() * p.working_radius(), WithinAbs(p.circumferential_backlash(), 1e-9));
      const auto members = p.members();
      for (const roll::Position& at : r.positions) {
        if (!at.upper || !at.lower) continue;
        const double due = members[1].start + p.motion_ratio() * (at.driver - members[0].start);
        CHECK_THAT((at.upper->driven + at.lower->driven) / 2 - due, WithinAbs(0, tolerance));
      }
      // The axes stand as the arrangement has it.
      const roll::Axis axis = p.driven_axis();
      CHECK_THAT(std::acos(std::clamp(axis.axes(2, 2), -1.0, 1.0)),
                 WithinAbs(std::abs(p.shaft_angle().radians()), 1e-7));
      CHECK_THAT(axis.origin.head<2>().norm() - p.mounted_center_distance(),
                 WithinAbs(0, std::abs(p.axial_offset()) + 1e-9));
    }
  }
  CHECK(rolled_pairs >= test::share(12));
}

TEST_CASE("a driver put before its driven stands as when the driven was put beside it") {
  for (const std::string& kind : test::job_kinds()) {
    if (kind == "reducer") continue;
    for (unsigned seed = 21; seed <= 24; ++seed) {
      const auto design = test::try_job(test::random_job(kind, seed));
      if (!design || design->pairs.empty() || !design->pairs[0].meshes()) continue;
      const pair::Pair p = alone(design->pairs[0]);
      CAPTURE(kind, seed);
      const pair::Placed back = p.before(p.gears()[1], {"one", p.gears()[0].teeth});
      const pair::Placed& first = p.gears()[0];
      CHECK((back.axis - first.axis).norm() < 1e-9);
      const double pitch = first.teeth.is_rack() ? kPi * first.teeth.module() : 2 * kPi / first.teeth.count();
      CHECK_THAT(std::remainder(back.phase - first.phase, pitch), WithinAbs(0, 1e-9 * std::max(1.0, pitch)));
      // And a phase off by a quarter of a pitch is no mesh: the check above can fail.
      pair::Pair off = p;
      pair::Placed turned = p.gears()[1];
      turned.phase += (turned.teeth.is_rack() ? kPi * turned.teeth.module() : 2 * kPi / turned.teeth.count()) / 4;
      off.stand(first, turned);
      if (p.sort() == pair::Sort::parallel)
        CHECK(std::abs(pair::roll(off, 8).positions[0].upper->driven - turned.phase -
                       (pair::roll(p, 8).positions[0].upper->driven - p.gears()[1].phase)) > 0.1 * pitch / 20);
    }
  }
}

TEST_CASE("what cannot mesh says so and keeps its place") {
  gear::CylindricalSpec fine;
  fine.teeth = 20, fine.module = 1, fine.face_width = 8;
  const pair::Placed spur{"spur", gear::CylindricalGear(fine)};
  fine.module = 1.1;
  const pair::Pair differs = pair::in_mesh(spur, {"fine", gear::CylindricalGear(fine)}, {});
  CHECK_FALSE(differs.meshes());
  REQUIRE(differs.mismatches().size() == 1);
  CHECK(differs.mismatches()[0].id == FindingId::module_differs);
  CHECK(differs.motion_ratio() == 0);
  CHECK_THROWS_AS(pair::roll(differs), std::bad_optional_access);
  pair::Arrangement too_close;
  too_close.mounted_center_distance = 1;
  const pair::Pair close = pair::in_mesh(spur, spur, too_close);
  REQUIRE(close.mismatches().size() == 1);
  CHECK(close.mismatches()[0].id == FindingId::no_mesh_at_distance);
  // Other teeth bring it back, at the same distance or not at all.
  CHECK_FALSE(close.with(spur.teeth, spur.teeth).meshes());
}
