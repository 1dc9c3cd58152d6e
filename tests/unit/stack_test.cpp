// Gears of one piece and axles: volumes that add up exactly, solids that close, teeth where the gears alone have them.
#include <random>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "palio/body/mesh.hpp"
#include "palio/body/stack.hpp"
#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/gear/core.hpp"
#include "palio/readings/findings.hpp"
#include "palio/view/placement.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;
using test::mistakes;

namespace {

std::string job_of(int wheel, int pinion, double helix, double gap, double diameter, const std::string& more) {
  const std::string lean =
      helix == 0 ? "kind='spur'\n" : fmt::format("kind='helical'\nhelix_angle={}\nhand='left'\n", helix);
  return fmt::format(
      "[shared]\nmodule=1\nface_width=7\n[gear.first]\nkind='spur'\nteeth=18\n[gear.wheel]\nkind='spur'\nteeth={}\n"
      "bore.diameter=5\n{}[gear.pinion]\n{}teeth={}\nbore.diameter=5\n[gear.last]\nlike='pinion'\nteeth=40\n{}"
      "[pair.one]\ndriver='first'\ndriven='wheel'\nbacklash=0.1\ndirection=20\n"
      "[pair.two]\ndriver='pinion'\ndriven='last'\nbacklash=0.1\ndirection=77\n"
      "[shaft.middle]\ngears=['wheel','pinion']\ngap={}\none_piece=true\n{}",
      wheel, more, lean, pinion, helix == 0 ? "" : "hand='right'\n", gap,
      diameter > 0 ? fmt::format("diameter={}\nends=[3, 4]\n", diameter) : "");
}

double volume(const body::Body& b) { return body::mass_properties(b).volume; }

std::vector<std::string> names(const std::vector<view::Part>& parts) {
  std::vector<std::string> all;
  all.reserve(parts.size());
  for (const view::Part& p : parts)
    all.push_back(p.name);
  return all;
}

}  // namespace

TEST_CASE("The volume of one piece is that of its gears without bores, and of the rod between and beyond") {
  std::mt19937 random(3);
  const auto any = [&](double from, double to) { return std::uniform_real_distribution<>(from, to)(random); };
  for (int n = static_cast<int>(test::share(40)); n > 0; --n) {
    const int wheel = std::uniform_int_distribution<>(40, 60)(random),
              pinion = std::uniform_int_distribution<>(14, 20)(random);
    const double gap = any(0, 1) < 0.3 ? 0 : any(0.5, 6), diameter = any(4, 9),
                 helix = any(0, 1) < 0.5 ? 0 : any(8, 25);
    const bool windows = any(0, 1) < 0.5;
    const std::string more =
        windows ? "hubs=[{face='top',diameter=12,length=2}]\nholes=[{diameter=3,circle_diameter=26,count=5}]\n" : "";
    const std::string text = job_of(wheel, pinion, helix, windows ? gap + 2.5 : gap, diameter, more);
    INFO(text);
    const job::Design design = job::resolve(text, "job.toml");
    REQUIRE(design.axles.size() == 1);
    const job::Axle& axle = design.axles.front();
    const body::Body made = job::body(design, axle);
    // The gears alone, without any bore, by another way: from a job that has none.
    std::string solid = text;
    for (std::size_t at; (at = solid.find("bore.diameter=5\n")) != std::string::npos;)
      solid.erase(at, 16);
    solid.erase(solid.find("[shaft.middle]"));
    const job::Design bare = job::resolve(solid, "job.toml");
    double sum = 0, filled = 0;
    for (const char* name : {"wheel", "pinion"}) {
      const job::Gear& g = bare.gear(name);
      const body::Body alone = job::body(g).layers();
      sum += volume(alone), filled += alone.top() - alone.bottom();
    }
    const double rod = kPi / 4 * diameter * diameter * (axle.to - axle.from - filled);
    CHECK_THAT(volume(made), WithinRel(sum + rod, 1e-9));
    const body::TriangleMesh mesh = body::mesh(made, 0.005);
    CHECK_NOTHROW(body::check(mesh));
    CHECK_THAT(body::volume(mesh), WithinRel(volume(made), 2e-3));
  }
}

TEST_CASE("Teeth of one piece stand where those of the gears alone do") {
  const std::string text = job_of(48, 17, 15, 2, 6, "");
  const job::Design design = job::resolve(text, "job.toml");
  const std::vector<view::Part> joined = view::parts(design), alone = view::gears_alone(design);
  CHECK(names(joined) == std::vector<std::string>{"first", "last", "middle"});
  CHECK(names(alone) == std::vector<std::string>{"first", "wheel", "pinion", "last"});
  // All corners of their teeth, in the world: none of what a mesh puts within its faces.
  const auto corners = [](const view::Part& p, double beyond) {
    std::vector<Vec3> all;
    for (const Vec3& v : body::mesh(p.body, 0.005).vertices) {
      const Vec2 at = turned(Vec2(v.x(), v.y()), p.placement.turn);
      if (at.norm() > beyond) all.push_back(p.placement.at + p.placement.axes * Vec3(at.x(), at.y(), v.z()));
    }
    return all;
  };
  const std::vector<Vec3> piece = corners(joined[2], 0);
  for (const std::size_t gear : {1U, 2U}) {
    for (const Vec3& v : corners(alone[gear], alone[gear].gear->teeth.root_diameter() / 2 - 0.01)) {
      const auto near = [&](const Vec3& w) { return (v - w).norm() < 1e-7; };
      REQUIRE(std::any_of(piece.begin(), piece.end(), near));
    }
  }
}

TEST_CASE("What cannot be one piece is refused by name, with what would do") {
  CHECK_THAT(mistakes(job_of(48, 17, 0, 2, 0, "")), Contains("stand 2 mm apart") && Contains("give a diameter"));
  CHECK(mistakes(job_of(48, 17, 0, 0, 0, "")).empty());  // they touch, bores of one size go through
  CHECK_THAT(mistakes(job_of(48, 17, 0, 0, 6, "holes=[{diameter=4,circle_diameter=17,count=5}]\n")),
             Contains("where wheel and pinion meet, teeth and holes run into each other"));
  const std::string ring =
      "[shared]\nmodule=1\nface_width=7\n[gear.a]\nkind='spur'\nteeth=18\n[gear.r]\nkind='internal'\nteeth=50\n"
      "rim_thickness=4\n[gear.b]\nlike='a'\n[pair.p]\ndriver='a'\ndriven='r'\n[shaft.s]\ngears=['r','b']\none_piece="
      "true\n"
      "diameter=6\n";
  CHECK_THAT(mistakes(ring), Contains("no bevel gears, rings"));
  CHECK_THAT(mistakes(job_of(48, 17, 0, 2, 6, "") + "ends=[1]\n"), Contains("ends"));
}

TEST_CASE("An axle that does not go through a bore, rattles in it, or runs into another gear is found") {
  const auto found = [](const std::string& shaft, const char* id) {
    const std::string text =
        "[shared]\nmodule=1\nface_width=7\nbore.diameter=6\n[gear.a]\nkind='spur'\nteeth=18\n[gear.b]\nlike='a'\nteeth="
        "30\n"
        "[gear.c]\nlike='a'\n[gear.d]\nlike='a'\nteeth=30\n[pair.p]\ndriver='a'\ndriven='b'\n"
        "[pair.q]\ndriver='c'\ndriven='d'\ndirection=180\n[shaft.s]\ngears=['b','c']\ngap=2\n" +
        shaft;
    const std::vector<Finding> all = job::findings(job::resolve(text, "job.toml"));
    return std::count_if(all.begin(), all.end(), [&](const Finding& f) { return f.kind().text_id == id; });
  };
  CHECK(found("diameter=6\n", "axle-too-thick") == 0);
  CHECK(found("diameter=6.1\n", "axle-too-thick") == 2);
  CHECK(found("diameter=5\n", "axle-loose") == 2);
  CHECK(found("diameter=6\n", "axle-loose") == 0);
  // Gear d turns over a's axis: an axle of a that stands far out runs into it.
  CHECK(found("diameter=6\n", "bodies-collide") == 0);
  CHECK(found("diameter=6\n[shaft.first]\ngears=['a']\ndiameter=6\nends=[0, 1.5]\n", "bodies-collide") == 0);
  CHECK(found("diameter=6\n[shaft.first]\ngears=['a']\ndiameter=6\nends=[0, 20]\n", "bodies-collide") == 1);
}

TEST_CASE("A rod is a cylinder, or nothing") {
  CHECK_THAT(volume(body::rod(4, 1, 6)), WithinRel(kPi * 4 * 5, 1e-12));
  CHECK_THROWS_AS(body::rod(0, 0, 1), InvalidParameter);
  CHECK_THROWS_AS(body::rod(4, 1, 1), InvalidParameter);
}
