// The order in which planetary sets are put together, and the plates of carriers.
#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "palio/body/mesh.hpp"
#include "palio/math/extent.hpp"
#include "palio/view/placement.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using test::finds;
using test::report;
using Json = nlohmann::json;

namespace {

std::string gear_of(const std::string& name, const std::string& kind, long long teeth, const std::string& more = "") {
  return fmt::format("[gear.{}]\nkind='{}'\nteeth={}\n{}", name, kind, teeth, more);
}

std::vector<std::string> order_of(const Json& set) {
  std::vector<std::string> names;
  for (const Json& step : set["assembly_order"])
    names.push_back(step["member"]);
  return names;
}

std::string way_of(const Json& set, const std::string& member) {
  for (const Json& step : set["assembly_order"]) {
    if (step["member"] == member) return step["way"];
  }
  return "";
}

constexpr const char* kDouble = "helix_angle=25\ngap=2\n";

}  // namespace

TEST_CASE("sets of straight and single helical teeth are put together in any order") {
  for (unsigned seed = 1; seed <= test::share(12); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const int s = draw.whole(17, 30), p = draw.whole(17, 30);
    const Json set = report("[shared]\nmodule=1\naddendum=0.9\n" + gear_of("s", "spur", s) + gear_of("p", "spur", p) +
                            gear_of("r", "internal", s + 2 * p) +
                            "[planetary.k]\nsun='s'\nplanet='p'\nring='r'\nheld='r'\n")["planetaries"]["k"];
    CHECK(order_of(set).size() == 3);
    CHECK(set["any_order"] == true);
  }
}

TEST_CASE("double helical planets come from outside to their sun, and the ring of their other step after them") {
  // Without the ring's step nothing but sideways helps; with it the ring must not stand yet.
  const std::string gears = "[shared]\nmodule=1\nface_width=10\n" +
                            gear_of("s", "double_helical", 20, std::string(kDouble) + "apex='clockwise'\n") +
                            gear_of("p", "double_helical", 20, std::string(kDouble) + "apex='counter-clockwise'\n");
  const double distance = 20 / std::cos(25 * kPi / 180);
  const Json set = report(gears + gear_of("q", "spur", 17) + gear_of("r", "internal", 17 + std::llround(2 * distance)) +
                          "[planetary.k]\nsun='s'\nplanet=['p','q']\nring='r'\nheld='r'\n")["planetaries"]["k"];
  const std::vector<std::string> order = order_of(set);
  REQUIRE(order.size() == 3);
  CHECK(set["any_order"] == false);
  const auto place = [&](const char* name) { return std::find(order.begin(), order.end(), name) - order.begin(); };
  const std::string planets = order[static_cast<std::size_t>(3 - place("s") - place("r"))];
  CHECK(place("r") > place(planets.c_str()));
  CHECK(place("s") < place("r"));
  // Only the small step passes through the ring's opening.
  CHECK_THAT(way_of(set, "r"), Contains("along the axis"));
  CHECK_FALSE(way_of(set, "r") == "along the axis, from below or above");
}

TEST_CASE("a ring between two larger steps of its planets cannot be put on, and it is told who is in whose way") {
  // The ring's opening lets neither of the steps beside it pass.
  const auto text = [](int lower, int upper) {
    return "[shared]\nmodule=1\nface_width=6\n" + gear_of("s1", "spur", 20) +
           gear_of("s2", "spur", 20 + lower - upper) + gear_of("a", "spur", lower) + gear_of("b", "spur", 17) +
           gear_of("c", "spur", upper) + gear_of("r", "internal", 17 + 20 + lower) +
           "[shaft.planet]\ngears=['a','b','c']\ngap=1\n[carrier.k]\ncarries=['planet']\ncount=2\n"
           "[pair.m1]\ndriver='s1'\ndriven='a'\n[pair.m2]\ndriver='s2'\ndriven='c'\n[pair.m3]\ndriver='b'\ndriven='r'\n"
           "[train.t]\ninput='s1'\noutput='k'\nheld=['r']\n";
  };
  const job::Design both = job::resolve(text(24, 26), "job.toml");
  CHECK(finds(both, "no-assembly-order"));
  for (const Finding& f : job::findings(both)) {
    if (f.kind().text_id == "no-assembly-order") CHECK_THAT(f.detail, Contains("planet") && Contains("r"));
  }
  CHECK_FALSE(finds(job::resolve(text(24, 15), "job.toml"), "no-assembly-order"));
}

TEST_CASE("plates of a carrier hold the axes of all planets, and turn with it") {
  // The set of the starter: sun_gear, planet_gear with a bore of 8 mm, ring_gear.
  const std::string set = job::starter("planetary", job::Units::mm);
  const std::string plate = "carrier='step_down'\nthickness=4\nmargin=3\naxial_gap=0.5\nmiddle_bore=7\n";
  const job::Design d = job::resolve(
      set + "[frame.low]\n" + plate + "[frame.high]\nside='above'\npost_height=2\npost_diameter=12\n" + plate,
      "job.toml");
  CHECK(job::findings(d).empty());
  const std::vector<view::Part> parts = view::parts(d);
  const auto part = [&](const std::string& name) {
    return *std::find_if(parts.begin(), parts.end(), [&](const view::Part& p) { return p.name == name; });
  };
  const std::size_t carrier = d.machine.carriers[0].member;
  for (const char* name : {"low", "high"}) {
    CAPTURE(name);
    const view::Part plate_part = part(name);
    CHECK(plate_part.member == carrier);
    // Around every planet's axis a cylinder as wide as its bore stands in no material of the plate, one wider by a
    // hair does: looked for among the corners of the triangles.
    const body::TriangleMesh mesh = body::mesh(plate_part.body.layers(), 0.001);
    math::Extent heights;
    std::vector<double> nearest(4, 1e9);
    for (const Vec3& corner : mesh.vertices) {
      const Vec3 world = plate_part.placement.at + plate_part.axes() * corner;
      heights.hold(world.z());
      std::vector<Vec3> axes{part("sun_gear").placement.at};
      for (const char* planet : {"planet_gear", "planet_gear_2", "planet_gear_3"})
        axes.push_back(part(planet).placement.at);
      for (std::size_t i = 0; i < axes.size(); ++i)
        nearest[i] = std::min(nearest[i], (world - axes[i]).head<2>().norm());
    }
    CHECK_THAT(nearest[0], WithinAbs(3.5, 1e-9));
    for (std::size_t i = 1; i < nearest.size(); ++i)
      CHECK_THAT(nearest[i], WithinAbs(4, 1e-9));
    // Half a millimetre of air from the teeth, on its own side.
    const double face = d.gears[0].teeth.face_width() / 2;
    if (std::string(name) == "low")
      CHECK_THAT(heights.high(), WithinAbs(-face - 0.5, 1e-9));
    else
      CHECK_THAT(heights.low(), WithinAbs(face + 0.5, 1e-9));
  }
  // A sun's hub that reaches into a plate without a hole for it is found.
  std::string long_hub = set;
  long_hub.insert(long_hub.find("[gear.planet_gear]"), "hubs=[{face='top',diameter=10,length=6}]\n");
  CHECK(finds(job::resolve(long_hub + "[frame.high]\nside='above'\n" + plate, "job.toml"), "bodies-collide"));
  CHECK_FALSE(finds(job::resolve(long_hub + "[frame.low]\n" + plate, "job.toml"), "bodies-collide"));
}

TEST_CASE("carriers that a plate cannot hold are told") {
  const std::string set = "[shared]\nmodule=1\n" + gear_of("s", "spur", 20) + gear_of("p", "spur", 20) +
                          gear_of("r", "internal", 60) + "[planetary.k]\nsun='s'\nplanet='p'\nring='r'\nheld='r'\n";
  CHECK_THAT(test::mistakes(set + "[frame.x]\ncarrier='arm'\nthickness=3\n"),
             Contains("frame.x.carrier") && Contains("there is k"));
  CHECK_THAT(test::mistakes(set + "[frame.x]\nthickness=3\nmiddle_bore=4\n"), Contains("frame.x.middle_bore"));
  CHECK_THAT(test::mistakes(set + "[frame.x]\ncarrier='k'\npairs=['k_sun']\nthickness=3\n"), Contains("pairs"));
}

TEST_CASE("sets of planets in a row stand where all teeth are before spaces, as their solids are placed") {
  int sets = 0;
  for (unsigned seed = 1; seed <= test::share(30); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const int s = draw.whole(18, 30), i = draw.whole(17, 24), o = draw.whole(17, 24), n = draw.whole(2, 3);
    const double near = (s + i) / 2.0, step = (i + o) / 2.0;
    const int r = o + 2 * static_cast<int>(std::ceil(near + draw.between(0.35, 0.8) * step));
    const double far = (r - o) / 2.0, start = draw.between(-180, 180);
    // The triangle of the three distances.
    const double bend = std::acos((far * far - near * near - step * step) / (2 * near * step));
    const double at = std::atan2(step * std::sin(bend), near + step * std::cos(bend));
    const std::string text =
        "[shared]\nmodule=1\naddendum=0.8\n" + gear_of("s", "spur", s) + gear_of("i", "spur", i) +
        gear_of("o", "spur", o) + gear_of("r", "internal", r) +
        fmt::format(
            "[carrier.k]\ncarries=['i','o']\ncount={}\n"
            "[pair.a]\ndriver='s'\ndriven='i'\ndirection={:.12f}\n[pair.b]\ndriver='i'\ndriven='o'\ndirection={:.12f}\n"
            "[pair.c]\ndriver='o'\ndriven='r'\ndirection={:.12f}\n"
            "[train.t]\ninput='s'\noutput='k'\nheld=['r']\n",
            n, start, start + bend * 180 / kPi, start + at * 180 / kPi);
    if (test::mistakes(text).find("leave") != std::string::npos) continue;  // more sets than places
    const job::Design d = job::resolve(text, "job.toml");
    const std::vector<view::Part> parts = view::parts(d);
    struct Stands {
      Vec2 at;
      double tooth;
    };
    const auto stands = [&](const std::string& name, int copy) {
      const std::string full = copy == 1 ? name : fmt::format("{}_{}", name, copy);
      const view::Part& p =
          *std::find_if(parts.begin(), parts.end(), [&](const view::Part& one) { return one.name == full; });
      const Eigen::Matrix3d axes = p.axes();
      return Stands{p.placement.at.head<2>(), std::atan2(axes(1, 0), axes(0, 0))};
    };
    const auto off = [](double phase) { return std::abs(std::remainder(phase, 2 * kPi)); };
    const auto way = [](const Stands& a, const Stands& b) {
      return std::atan2(b.at.y() - a.at.y(), b.at.x() - a.at.x());
    };
    const Stands sun = stands("s", 1), ring = stands("r", 1);
    for (int k = 1; k <= n; ++k) {
      const Stands inner = stands("i", k), outer = stands("o", k);
      const double a = way(sun, inner), b = way(inner, outer), c = way(ring, outer);
      CHECK(off(s * (a - sun.tooth) + i * (a + kPi - inner.tooth) - kPi) < 1e-6);
      CHECK(off(i * (b - inner.tooth) + o * (b + kPi - outer.tooth) - kPi) < 1e-6);
      CHECK(off(o * (c - outer.tooth) - r * (c - ring.tooth)) < 1e-6);
    }
    ++sets;
  }
  if (test::whole_search()) CHECK(sets > 12);
}
