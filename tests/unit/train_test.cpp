// Machines of whole jobs: shafts, carriers, trains and planetary sets, from the text to what the report says and where
// everything stands; against closed formulas, and against the conditions of the theory put down anew.
#include <algorithm>
#include <array>
#include <catch2/catch.hpp>
#include <cmath>
#include <numeric>

#include <fmt/format.h>
#include <boost/multiprecision/cpp_int.hpp>
#include <nlohmann/json.hpp>

#include "palio/design/train.hpp"
#include "palio/readings/findings.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/placement.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;
using test::mistakes;
using test::report;
using Json = nlohmann::json;
using Rational = boost::multiprecision::cpp_rational;

namespace {

std::string spur(const std::string& name, long long teeth, const std::string& more = "") {
  return fmt::format("[gear.{}]\nkind='spur'\nteeth={}\n{}", name, teeth, more);
}
std::string ring(const std::string& name, long long teeth) {
  return fmt::format("[gear.{}]\nkind='internal'\nteeth={}\nrim_thickness=6\n", name, teeth);
}
std::string mesh(const std::string& name, const std::string& driver, const std::string& driven,
                 const std::string& more = "") {
  return fmt::format("[pair.{}]\ndriver='{}'\ndriven='{}'\n{}", name, driver, driven, more);
}

bool found(const Json& r, const std::string& id, const std::string& subject) {
  return std::any_of(r["findings"].begin(), r["findings"].end(),
                     [&](const Json& f) { return f["id"] == id && f["subject"] == subject; });
}
std::string message(const Json& r, const std::string& id) {
  for (const Json& f : r["findings"]) {
    if (f["id"] == id) return f["message"];
  }
  return "";
}

/// Three members about one axis, (n₁ − n_c)/(n₂ − n_c) given.
struct Willis {
  Rational basic;

  /// Turns of one per turn of another, the third held; 0: first, 1: carrier, 2: second. None where the one cannot turn
  /// the other.
  std::optional<Rational> ratio(int driver, int driven) const {
    // n₁ − i₀ n₂ − (1 − i₀) n_c = 0, and what is held has no turns.
    const std::array<Rational, 3> of{Rational(1), -(1 - basic), -basic};
    const Rational &a = of[static_cast<std::size_t>(driver)], &b = of[static_cast<std::size_t>(driven)];
    if (a == 0 || b == 0) return std::nullopt;
    return Rational(-b / a);
  }
};

const Json* choice(const Json& ratios, const std::string& held, const std::string& driver, const std::string& driven) {
  for (const Json& r : ratios) {
    if (r["held"] == held && r["driver"] == driver && r["driven"] == driven) return &r;
  }
  return nullptr;
}

void check_all_choices(const Json& set, const std::array<std::string, 3>& members, const Willis& willis) {
  for (int held = 0; held < 3; ++held) {
    for (int driver = 0; driver < 3; ++driver) {
      const int driven = 3 - held - driver;
      if (driver == held || driven == driver || driven < 0 || driven > 2) continue;
      CAPTURE(members[static_cast<std::size_t>(held)], members[static_cast<std::size_t>(driver)]);
      const Json* r = choice(set["ratios"], members[static_cast<std::size_t>(held)],
                             members[static_cast<std::size_t>(driver)], members[static_cast<std::size_t>(driven)]);
      REQUIRE(r);
      const auto expected = willis.ratio(driver, driven);
      if (expected)
        CHECK((*r)["ratio"] == expected->str());
      else
        CHECK((*r)["ratio"].is_null());
    }
  }
}

}  // namespace

TEST_CASE("planetary sets of every sort turn as the closed formulas say, for all choices, as fractions") {
  for (unsigned seed = 1; seed <= test::share(40); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long s = draw.whole(14, 40), p = draw.whole(14, 40), q = draw.whole(14, 40), s2 = s + p - q;
    const std::string head = "[shared]\nmodule=1\n";
    {
      // Where the reference circles do not close by themselves, one distance and the ring's play make up for it.
      const long long r = s + 2 * p;
      const Json all = report(head + spur("s", s) + spur("p", p) + ring("r", r) +
                              "[planetary.k]\nsun='s'\nplanet='p'\nring='r'\nheld='r'\n");
      check_all_choices(all["planetaries"]["k"], {"s", "k", "r"}, Willis{-Rational(r, s)});
      CHECK(all["planetaries"]["k"]["ratio"] == Rational(s + r, s).str());
      CHECK(all["planetaries"]["k"]["freedom"] == 1);
    }
    {
      const long long r = s + p + q;  // one distance (s + p)/2
      const Json all = report(head + spur("s", s) + spur("p", p) + spur("q", q) + ring("r", r) +
                              "[planetary.k]\nsun='s'\nplanet=['p','q']\nring='r'\nheld='r'\n");
      check_all_choices(all["planetaries"]["k"], {"s", "k", "r"}, Willis{-Rational(p * r, s * q)});
    }
    if (p != q) {
      const long long r1 = s + 2 * p, r2 = s + p + q;
      const Json all = report(head + spur("p", p) + spur("q", q) + ring("r1", r1) + ring("r2", r2) +
                              "[planetary.k]\nplanet=['p','q']\nring=['r1','r2']\nheld='r1'\n");
      check_all_choices(all["planetaries"]["k"], {"r1", "k", "r2"}, Willis{Rational(p * r2, r1 * q)});
    }
    if (s2 >= 14 && p != q) {
      const Json all = report(head + spur("p", p) + spur("q", q) + spur("s1", s) + spur("s2", s2) +
                              "[planetary.k]\nplanet=['p','q']\nsun=['s1','s2']\nheld='s1'\n");
      check_all_choices(all["planetaries"]["k"], {"s1", "k", "s2"}, Willis{Rational(p * s2, s * q)});
    }
  }
}

TEST_CASE("all planets stand where their teeth are before spaces of everything they mesh with") {
  int sets = 0, unevenly = 0;
  for (unsigned seed = 1; seed <= test::share(40); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long s = draw.whole(15, 40), p = draw.whole(14, 40), q = seed % 2 ? p : draw.whole(14, 40),
                    r = s + p + q, n = draw.whole(2, 4);
    const double direction = draw.between(-180, 180);
    const std::string planets = q == p ? "'p'" : "['p','q']";
    const std::string text = "[shared]\nmodule=1\n" + spur("s", s) + spur("p", p) + (q == p ? "" : spur("q", q)) +
                             ring("r", r) +
                             fmt::format(
                                 "[planetary.k]\nsun='s'\nplanet={}\nring='r'\nheld='r'\ncount={}\n"
                                 "[pair.k_sun]\ndirection={}\nstart_angle={}\n",
                                 planets, n, direction, draw.between(-20, 20));
    if (mistakes(text).find("leave") != std::string::npos) continue;  // more planets than places
    const Json all = report(text);
    const Json &set = all["planetaries"]["k"], &placing = all["placing"];
    REQUIRE(set["planets"].size() == static_cast<std::size_t>(n));
    const auto radians = [](const Json& degrees) { return degrees.get<double>() * kPi / 180; };
    const double sun = radians(placing["s"]["phase_deg"]), space = radians(placing["r"]["phase_deg"]);
    // What the second gear of a stepped planet is turned against the first, the same on all.
    const double fast = q == p ? 0 : radians(placing["q"]["phase_deg"]) - radians(placing["p"]["phase_deg"]);
    std::vector<double> axes;
    for (const Json& planet : set["planets"]) {
      const double axis = radians(planet["axis_deg"]), tooth = radians(planet["tooth_deg"]);
      axes.push_back(axis);
      const auto zs = static_cast<double>(s), zp = static_cast<double>(p), zq = static_cast<double>(q),
                 zr = static_cast<double>(r);
      CHECK(std::abs(std::remainder(zs * (axis - sun) + zp * (axis + kPi - tooth) - kPi, 2 * kPi)) < 1e-7);
      CHECK(std::abs(std::remainder(zq * (axis - tooth - fast) - zr * (axis - space), 2 * kPi)) < 1e-7);
    }
    std::sort(axes.begin(), axes.end());
    bool even = true;
    for (std::size_t i = 1; i < axes.size(); ++i)
      even = even && std::abs(axes[i] - axes[i - 1] - 2 * kPi / static_cast<double>(n)) < 1e-7;
    CHECK(set["equal_spacing"] == even);
    sets++, unevenly += even ? 0 : 1;
    // The same planets, as their solids are placed.
    const Design design = resolve(text, "job.toml");
    int copies = 0;
    for (const view::Part& part : view::parts(design)) {
      if (!part.gear || part.gear->name != "p") continue;
      const double turned = std::atan2(part.placement.axes(1, 0), part.placement.axes(0, 0)) + part.placement.turn;
      const double axis = std::atan2(part.placement.at.y(), part.placement.at.x());
      const auto fits = [&](const Json& planet) {
        return std::abs(std::remainder(radians(planet["axis_deg"]) - axis, 2 * kPi)) < 1e-7 &&
               std::abs(std::remainder(radians(planet["tooth_deg"]) - turned, 2 * kPi / static_cast<double>(p))) < 1e-7;
      };
      CHECK(std::any_of(set["planets"].begin(), set["planets"].end(), fits));
      CHECK(part.placement.at.head<2>().norm() == Approx(static_cast<double>(s + p) / 2));
      ++copies;
    }
    CHECK(copies == n);
  }
  CHECK(sets > static_cast<int>(test::share(20)));
  CHECK(unevenly > 0);
}

TEST_CASE("planets that are put elsewhere do not go together, and the place named does") {
  const std::string set = "[shared]\nmodule=1\n" + spur("s", 18) + spur("p", 27) + ring("r", 72) +
                          "[planetary.k]\nsun='s'\nplanet='p'\nring='r'\nheld='r'\nbacklash=0.1\n";
  const Json off = report(set + "angles=[0, 91, 180]\n");
  CHECK(found(off, "planet-off", "carrier.k"));
  CHECK_THAT(message(off, "planet-off"), Contains("nearest place is 92"));
  CHECK_FALSE(found(report(set + "angles=[0, 92, 180]\n"), "planet-off", "carrier.k"));
  // A quarter of a step is given way to by the play, and told.
  const Json loose = report(set + "angles=[0, 92.05, 180]\n");
  CHECK_FALSE(found(loose, "planet-off", "carrier.k"));
  CHECK(found(loose, "planet-off-middle", "carrier.k"));
  // And so it rolls: every mesh of every planet, in µm.
  const auto roll_of = [&](const std::string& angles) {
    const Design design = resolve(set + "angles=" + angles + "\n", "job.toml");
    roll::Result worst = rolled(design.pairs[0], 48);
    for (const Pair& p : design.pairs) {
      const roll::Result r = rolled(p, 48);
      if (r.max_overlap > worst.max_overlap) worst = r;
    }
    return worst;
  };
  CHECK(roll_of("[0, 92, 180]").verdict == roll::Verdict::meshes);
  CHECK(roll_of("[0, 92.05, 180]").verdict == roll::Verdict::meshes);
  const roll::Result jam = roll_of("[0, 91, 180]");
  CHECK(jam.verdict == roll::Verdict::jams);
  CHECK_THAT(jam.worst->where, Contains("planet 2"));
  // A quarter of the 4° between places is a quarter of a pitch; both meshes give way by 0.05, and share what is left.
  CHECK_THAT(jam.max_overlap, WithinAbs((kPi / 4 - 0.1) / 2 * std::cos(20 * kPi / 180), 1e-3));
  CHECK(found(report(set + "count=5\n"), "planets-collide", "carrier.k"));
  CHECK_THAT(mistakes(set + "count=91\n"), Contains("leave 90 places"));
}

TEST_CASE("a ring that does not close is told the profile shift with which it does") {
  for (const int teeth : {59, 61, 60}) {
    for (const double backlash : {0.0, 0.08}) {
      CAPTURE(teeth, backlash);
      const auto text = [&](const std::string& shift) {
        return "[shared]\nmodule=1.25\n" + spur("s", 20) + spur("p", 20) +
               fmt::format("[gear.r]\nkind='internal'\nteeth={}\nrim_thickness=6\nprofile_shift={}\n", teeth, shift) +
               fmt::format("[planetary.k]\nsun='s'\nplanet='p'\nring='r'\nheld='r'\nbacklash={}\n", backlash);
      };
      const std::string told = mistakes(text("-0.9"));
      const std::string mark = "gear.r.profile_shift = ";
      const auto at = told.find(mark);
      REQUIRE(at != std::string::npos);
      const Json all = report(text(told.substr(at + mark.size(), told.find(" would do") - at - mark.size())));
      CHECK_THAT(all["pairs"]["k_ring"]["circumferential_backlash"].get<double>(), WithinAbs(backlash, 1e-9));
      CHECK(all["pairs"]["k_ring"]["center_distance"] == all["pairs"]["k_sun"]["center_distance"]);
    }
  }
}

TEST_CASE("a train over shafts has the product of its ratios, its gears stand on one axis in their order") {
  for (unsigned seed = 1; seed <= test::share(40); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long stages = draw.whole(2, 5);
    std::string text = "[shared]\nmodule=1.5\n", shafts;
    Rational ratio = 1;
    double play = 0;
    std::vector<std::array<long long, 2>> teeth;
    const double gap = draw.between(0, 5);
    for (long long i = 0; i < stages; ++i) {
      const long long a = draw.whole(17, 30), b = draw.whole(17, 60);
      teeth.push_back({a, b});
      text += spur(fmt::format("a{}", i), a) + spur(fmt::format("b{}", i), b) +
              mesh(fmt::format("p{}", i), fmt::format("a{}", i), fmt::format("b{}", i),
                   fmt::format("direction={}\nbacklash=0.1\n", draw.between(0, 360)));
      ratio *= Rational(-b, a);
      if (i > 0) shafts += fmt::format("[shaft.s{}]\ngears=['b{}','a{}']\ngap={}\n", i, i - 1, i, gap);
    }
    const std::string train = fmt::format("[train.t]\ninput='a0'\noutput='b{}'\nspeed=900\ntorque=0.2\n", stages - 1);
    const Json all = report(text + shafts + train);
    const Json& t = all["trains"]["t"];
    CHECK(t["ratio"] == ratio.str());
    CHECK_THAT(t["ratio_value"].get<double>(), WithinRel(ratio.convert_to<double>(), 1e-14));
    const Json& output = t["members"][fmt::format("b{}", stages - 1)];
    CHECK_THAT(output["torque"].get<double>(),
               WithinRel(0.2 * std::abs(ratio.convert_to<double>()) * (ratio < 0 ? -1 : 1), 1e-12));
    CHECK_THAT(output["power"].get<double>(), WithinRel(0.2 * 900 * 2 * kPi / 60, 1e-12));
    // The play of each stage, made smaller by all that follow.
    for (std::size_t i = 0; i < teeth.size(); ++i) {
      double after = 1;
      for (std::size_t k = i + 1; k < teeth.size(); ++k)
        after *= static_cast<double>(teeth[k][0]) / static_cast<double>(teeth[k][1]);
      play += after * all["pairs"][fmt::format("p{}", i)]["angular_backlash_deg"][1].get<double>();
    }
    CHECK_THAT(t["play_of_output_deg"]["min"].get<double>(), WithinRel(play, 1e-9));
    for (long long i = 1; i < stages; ++i) {
      const Json &b = all["placing"][fmt::format("b{}", i - 1)], &a = all["placing"][fmt::format("a{}", i)];
      CHECK(b["center"][0] == a["center"][0]);
      CHECK(b["center"][1] == a["center"][1]);
      CHECK_THAT(a["center"][2].get<double>() - b["center"][2].get<double>(), WithinAbs(15 + gap, 1e-9));
      CHECK_THAT(a["ratio"].get<double>(), WithinRel(b["ratio"].get<double>(), 1e-14));
    }
  }
}

TEST_CASE("what goes into a train comes out, less what its meshes lose") {
  for (unsigned seed = 1; seed <= test::share(30); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long s = draw.whole(15, 30), p = draw.whole(15, 30), r = s + 2 * p;
    const double of_sun = draw.between(0.9, 1), of_ring = draw.between(0.9, 1), of_next = draw.between(0.9, 1);
    const Json all =
        report("[shared]\nmodule=1\n" + spur("s", s) + spur("p", p) + ring("r", r) + spur("a", 17) + spur("b", 40) +
               fmt::format("[planetary.k]\nsun='s'\nplanet='p'\nring='r'\nheld='r'\n"
                           "[pair.k_sun]\nefficiency={}\n[pair.k_ring]\nefficiency={}\n"
                           "[pair.next]\ndriver='a'\ndriven='b'\nefficiency={}\n"
                           "[shaft.arm]\ngears=['k','a']\ngap=3\n"
                           "[train.t]\ninput='s'\noutput='b'\nheld=['r']\nspeed=1000\ntorque=1\n",
                           of_sun, of_ring, of_next));
    const Json& t = all["trains"]["t"];
    const auto zs = static_cast<double>(s), zr = static_cast<double>(r);
    // The sun drives its mesh, the planets theirs: T_r = i₀ η T_s.
    const double torque_ring = zr / zs * of_sun * of_ring, out = 1 + torque_ring;
    const double ratio = 1 + zr / zs;
    CHECK_THAT(t["members"]["arm"]["torque"].get<double>(), WithinRel(out, 1e-12));
    CHECK_THAT(t["members"]["r"]["torque"].get<double>(), WithinRel(torque_ring, 1e-12));
    CHECK_THAT(t["efficiency"].get<double>(), WithinRel(out / ratio * of_next, 1e-12));
    const double in = t["members"]["s"]["power"], given = t["members"]["b"]["power"];
    CHECK_THAT(given / in, WithinRel(t["efficiency"].get<double>(), 1e-12));
    CHECK(t["ratio"] == Rational(-(s + r) * 40, s * 17).str());
  }
}

TEST_CASE("machines that cannot turn, or turn as they like, are told with what does it") {
  const std::string four = "[shared]\nmodule=2\n" + spur("a", 20) + spur("b", 40) + spur("c", 25) + spur("d", 35) +
                           mesh("p", "a", "b") + mesh("q", "c", "d") + "[shaft.x]\ngears=['a','c']\n";
  const Json locked = report(four + "[shaft.y]\ngears=['b','d']\n[train.t]\ninput='x'\noutput='y'\n");
  CHECK(locked["trains"]["t"]["locked"] == true);
  CHECK(locked["trains"]["t"]["ratio"].is_null());
  CHECK(locked["trains"]["t"]["locked_by"] == Json({"p", "q"}));
  CHECK(found(locked, "train-locked", "train.t"));
  const Json apart = report("[shared]\nmodule=2\n" + spur("a", 20) + spur("b", 40) + spur("c", 25) + spur("d", 35) +
                            mesh("p", "a", "b") + mesh("q", "c", "d") + "[train.t]\ninput='a'\noutput='d'\n");
  CHECK(found(apart, "train-loose", "train.t"));
  CHECK_THAT(message(apart, "train-loose"), Contains("no mesh leads from a to d"));
  const std::string set = "[shared]\nmodule=1\n" + spur("s", 18) + spur("p", 27) + ring("r", 72) +
                          "[planetary.k]\nsun='s'\nplanet='p'\nring='r'\n";
  const Json loose = report(set);
  CHECK(loose["planetaries"]["k"]["freedom"] == 2);
  CHECK(loose["planetaries"]["k"]["to_hold"] == Json({"r"}));
  CHECK(found(loose, "train-loose", "planetary.k"));
  for (const std::string hold : {"s", "r"})
    CHECK_FALSE(found(report(set + "held='" + hold + "'\n"), "train-loose", "planetary.k"));
  const Json still =
      report("[shared]\nmodule=1\n" + spur("s", 20) + spur("p", 20) + spur("q", 21) + ring("r", 60) + ring("t", 63) +
             "[planetary.k]\nsun='s'\nplanet=['p','q']\nring=['r','t']\nheld='r'\noutput='t'\n");
  CHECK(found(still, "output-stands", "planetary.k"));
  CHECK(still["planetaries"]["k"]["ratio"].is_null());
  CHECK(still["planetaries"]["k"]["locked"] == false);
}

TEST_CASE("two branches share a load: the second is turned on its shaft until it fits, and told how far") {
  const std::string text = "[shared]\nmodule=1.5\n" + spur("sun", 18) + spur("left", 37) + spur("left_out", 19) +
                           spur("right", 37) + spur("right_out", 19) + spur("wheel", 36) + mesh("a", "sun", "left") +
                           mesh("b", "left_out", "wheel", "direction=180\n") +
                           mesh("c", "sun", "right", "direction=180\n") + mesh("d", "right_out", "wheel") +
                           "[shaft.l]\ngears=['left','left_out']\n[shaft.r]\ngears=['right','right_out']\n"
                           "[train.t]\ninput='sun'\noutput='wheel'\n";
  const Json all = report(text);
  CHECK(all["trains"]["t"]["locked"] == false);
  CHECK(all["trains"]["t"]["ratio"] == Rational(37 * 36, 18 * 19).str());
  CHECK_FALSE(found(all, "loop-phase", "pair.d"));
  CHECK_FALSE(found(all, "loop-off-middle", "pair.d"));
  const double left = all["shafts"]["l"]["turned_deg"]["left_out"],
               right = all["shafts"]["r"]["turned_deg"]["right_out"];
  CHECK(left == 0);
  // The tooth of right_out on its shaft, by the theory of one mesh after the other.
  const Design design = resolve(text, "job.toml");
  const auto section = [&](const char* name) { return design.gear(name).phase; };
  const auto miss = [&](const char* a, const char* b, double direction) {
    const double za = design.gear(a).teeth.count(), zb = design.gear(b).teeth.count();
    return std::remainder(za * (direction - section(a)) + zb * (direction + kPi - section(b)) - kPi, 2 * kPi);
  };
  CHECK(std::abs(miss("sun", "right", kPi)) < 1e-9);
  CHECK(std::abs(miss("right_out", "wheel", 0)) < 1e-9);
  CHECK(std::abs(right) > 0.01);
}

TEST_CASE("a bevel differential: both sides together turn twice the cage") {
  const std::string text =
      "[shared]\nmodule=2\n[gear.left]\nkind='bevel'\nteeth=20\n[gear.planet]\nkind='bevel'\nteeth=14\n"
      "[gear.right]\nkind='bevel'\nteeth=20\n" +
      mesh("l", "left", "planet") + mesh("r", "planet", "right") + "[carrier.cage]\ncarries='planet'\ncount=2\n";
  const Json held = report(text + "[train.t]\ninput='cage'\noutput='left'\nheld=['right']\n");
  CHECK(held["trains"]["t"]["ratio"] == "1/2");
  const Json through = report(text + "[train.t]\ninput='left'\noutput='right'\nheld=['cage']\n");
  CHECK(through["trains"]["t"]["ratio"] == "-1");  // seen from one side; each about its own axis the same way
  CHECK_FALSE(found(held, "planet-off", "carrier.cage"));
}

TEST_CASE("every bevel planet of a cage fits both gears beside it, wherever it stands") {
  for (unsigned seed = 1; seed <= 12; ++seed) {
    test::Draw draw(seed);
    const int side = draw.whole(18, 40), planet = draw.whole(12, 24), count = draw.whole(2, 5);
    CAPTURE(seed, side, planet, count);
    const Design d = resolve(
        fmt::format("[shared]\nmodule=2\nkind='bevel'\n[gear.left]\nteeth={0}\n[gear.planet]\nteeth={1}\n[gear.right]\n"
                    "teeth={0}\n",
                    side, planet) +
            mesh("l", "left", "planet") + mesh("r", "planet", "right") +
            fmt::format("[carrier.cage]\ncarries='planet'\ncount={}\n", count),
        "job.toml");
    const Carrier& cage = d.machine.carriers.at(0);
    REQUIRE(cage.copies.size() == static_cast<std::size_t>(count));
    // Turned back to the first planet's place, the side gears stand turned about the cage's axis, the planet about its
    // own.
    const Vec3 axis = d.groups[cage.group].axes.col(2);
    for (const Carrier::Copy& copy : cage.copies) {
      for (const Pair& p : d.pairs) {
        const auto turn = [&](std::size_t gear) {
          const double along = d.groups[d.gears[gear].group].axes.col(2).dot(axis);
          return std::abs(along) < 0.5 ? d.machine.sense[gear] * copy.turn.at(0) : -copy.axis * along;
        };
        const double teeth = d.gears[p.driven].teeth.count();
        const double miss = turn(p.driven) - p.motion_ratio() * turn(p.driver);
        CHECK_THAT(std::remainder(miss * teeth / (2 * kPi), 1.0), WithinAbs(0, 1e-9));
      }
    }
    // No two stand nearer than evenly, to half a place.
    for (int k = 0; k < count; ++k)
      CHECK(std::abs(cage.copies[static_cast<std::size_t>(k)].axis - 2 * kPi * k / count) <
            kPi / static_cast<double>(cage.places) + 1e-9);
  }
}

TEST_CASE("a reducer stands on a shaft: its ratio, its losses, and both its ends about one axis") {
  const std::string reducer =
      "[reducer.r]\nrollers=24\nroller_circle_diameter=80\nroller_diameter=5\neccentricity=1.2\ndisc_offset=0.03\n";
  const Json all = report("[shared]\nmodule=1.5\n" + spur("first", 15) + spur("a", 20) + spur("b", 40) +
                          mesh("motor", "first", "b") + mesh("ab", "a", "first", "direction=90\n") + reducer +
                          "[shaft.in]\ngears=['b','r.input']\n[train.t]\ninput='a'\noutput='r'\n");
  CHECK(all["trains"]["t"]["ratio"] == Rational(-2 * 23, 1).str());
  const Design design = resolve("[shared]\nmodule=1.5\n" + spur("a", 20) + spur("b", 40) + mesh("p", "a", "b") +
                                    reducer + "[shaft.in]\ngears=['b','r']\ngap=4\n",
                                "job.toml");
  CHECK((design.reducers[0].at.head<2>() - design.gear("b").axis).norm() < 1e-12);
  CHECK_THAT(design.reducers[0].at.z(), WithinAbs(15.0 / 2 + 4, 1e-9));
}

TEST_CASE("bodies that run into each other without being mates are found, as deep as their circles overlap") {
  int hit = 0, clear = 0;
  for (unsigned seed = 1; seed <= test::share(60); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const int a = draw.whole(18, 40), b = draw.whole(18, 40), c = draw.whole(18, 40);
    const double direction = draw.between(0, 360), lift = draw.of({0.0, 0.0, 9.0, 11.0});
    const std::string text = "[shared]\nmodule=1\n" + spur("a", a) + spur("b", b) + spur("c", c) + mesh("p", "a", "b") +
                             mesh("q", "b", "c", fmt::format("direction={}\naxial_offset={}\n", direction, lift));
    const Json all = report(text);
    const double x = (a + b) / 2.0 + (b + c) / 2.0 * std::cos(direction * kPi / 180),
                 y = (b + c) / 2.0 * std::sin(direction * kPi / 180), apart = std::hypot(x, y);
    const double depth = (a + c) / 2.0 + 2 - apart;  // tips stand a module beyond the reference circles
    const bool deep = depth > 1e-9 && lift < 10;     // the faces are ten modules wide
    CHECK(found(all, "bodies-collide", "gear.a") == deep);
    if (deep) {
      for (const Json& f : all["findings"]) {
        if (f["id"] == "bodies-collide") CHECK_THAT(f["value"].get<double>(), WithinAbs(depth, 1e-6));
      }
      CHECK_THAT(message(all, "bodies-collide"), Contains("gear.c"));
    }
    (deep ? hit : clear)++;
  }
  CHECK(hit > 5);
  CHECK(clear > 5);
  for (const char* kind : {"train", "planetary", "clock_train", "greenhouse"}) {
    const Design design = resolve(starter(kind, Units::mm), kind);
    for (const Finding& f : findings(design))
      CHECK(f.id != FindingId::bodies_collide);
  }
  // A hub that stands out into what is beside it on the shaft, and a rack behind a wheel.
  std::string train = starter("train", Units::mm);
  const auto with = [&](const std::string& set) {
    const Design design = resolve(train, "train", {set});
    std::string all;
    for (const Finding& f : findings(design)) {
      if (f.id == FindingId::bodies_collide) all += f.subject + " " + f.detail + ";";
    }
    return all;
  };
  CHECK_THAT(with("gear.drum_wheel.hubs=[{face='top', diameter=18, length=6}]"),
             Contains("gear.drum_wheel gear.quiet_pinion beside it on its shaft"));
  CHECK_THAT(with("shaft.last.gears=['push_pinion','quiet_wheel']"), Contains("gear.drum_wheel gear.vent_rack"));
}

namespace {

/// Off the even ratio, from one roll's table: the driven at its upper or lower limit, less half the play of the law.
double strays(const roll::Result& rolled, const Pair& p, bool upper, double driver) {
  const auto [first, second] = p.members();
  const roll::Law law = p.law();
  const double pitch = 2 * kPi / std::get<0>(p.gears()).teeth.count(), turned = (driver - first.start) / pitch;
  const auto n = static_cast<double>(rolled.positions.size());
  const auto at = static_cast<std::size_t>((turned - std::floor(turned)) * n) % rolled.positions.size();
  const roll::Position& here = rolled.positions[at];
  const double nominal = second.start + law.ratio * (here.driver - first.start);
  return (upper ? here.upper->driven : here.lower->driven) - nominal - (upper ? 1 : -1) * law.theoretical_play / 2;
}

}  // namespace

TEST_CASE(
    "what a clock train strays by is what a walk through its whole period finds, and its period is that of its teeth") {
  for (const std::array<int, 4>& teeth : {std::array{60, 8, 50, 10}, {48, 12, 45, 9}}) {
    const int wheel = teeth[0], pinion = teeth[1], second = teeth[2], last = teeth[3];
    const std::string text = fmt::format(
        "[shared]\nkind='cycloidal'\nform='clock'\nmodule=1\nface_width=3\n[gear.a]\nteeth={}\n[gear.b]\nteeth={}\n"
        "[gear.c]\nteeth={}\n[gear.d]\nteeth={}\n[pair.one]\ndriver='a'\ndriven='b'\n[pair.two]\ndriver='c'\ndriven='d'"
        "\n"
        "[shaft.s]\ngears=['b','c']\ngap=1\n[train.t]\ninput='a'\noutput='d'\n",
        wheel, pinion, second, last);
    const Design design = resolve(text, "job.toml");
    const auto told = error_of_output(design, design.machine.trains.front());
    REQUIRE(told);
    const Pair &one = design.pairs[0], &two = design.pairs[1];
    const roll::Result first = job::rolled(one, 360), then = job::rolled(two, 360);
    // Both ways of turning, through every meeting of teeth: the period of the teeth alone.
    const long long meetings = std::lcm(static_cast<long long>(wheel), static_cast<long long>(pinion)) * second * last;
    const double step = 2 * kPi / wheel / 41.7;  // not in step with the table
    double least = 0, most = 0;
    const int steps = static_cast<int>(std::min(400000LL, meetings * 42));
    for (const bool upper : {true, false}) {
      for (int k = 0; k < steps; ++k) {
        const double a = one.members()[0].start + k * step;
        const double e1 = strays(first, one, !upper, a), b = one.motion_ratio() * k * step + e1;
        const double e2 = strays(then, two, upper, two.members()[0].start + b);
        const double all = (e2 + two.motion_ratio() * e1) / (2 * kPi);
        least = std::min(least, all), most = std::max(most, all);
      }
    }
    INFO(told->min << " " << told->max << " walked " << least << " " << most);
    CHECK(told->min <= least + 1e-9);
    CHECK(told->max >= most - 1e-9);
    CHECK(told->max - told->min <= 1.25 * (most - least));
    CHECK(told->max - told->min > 1e-5);
    // After so many turns of the input every member has turned whole times, and not before.
    const auto turns = std::stoll(*period(design, design.machine.trains.front()));
    const auto whole = [&](long long n) {
      return n * wheel % pinion == 0 && n * wheel * second % (static_cast<long long>(pinion) * last) == 0;
    };
    CHECK(whole(turns));
    for (long long n = 1; n < turns; ++n)
      CHECK_FALSE(whole(n));
  }
}

TEST_CASE("names with a point in them lead to readings") {
  const Design design = resolve(starter("greenhouse", Units::mm), "job.toml");
  const std::string path = "train.opener.members.motor_reducer.input.speed";
  CHECK(reading_number(design, path) == 1200.0);
  CHECK_THROWS_AS(reading_json(design, "train.opener.members.motor_reducer.nowhere.speed"), InvalidParameter);
}

TEST_CASE("what is said wrongly of machines is told with what is there") {
  const std::string two =
      "[shared]\nmodule=2\n" + spur("pinion", 20) + spur("wheel", 40) + mesh("p", "pinion", "wheel");
  CHECK_THAT(mistakes(two + "[shaft.s]\ngears=['pinoin']\n"), Contains("did you mean \"pinion\"?"));
  CHECK_THAT(mistakes(two + "[shaft.s]\n"), Contains("shaft.s.gears"));
  CHECK_THAT(mistakes(two + "[shaft.s]\ngears=['pinion','wheel']\n"), Contains("two gears of one shaft"));
  CHECK_THAT(mistakes(two + "[shaft.s]\ngears=['pinion','pinion']\n"), Contains("name it once"));
  CHECK_THAT(mistakes(two + "[shaft.s]\ngears=['pinion']\nplaces=[0, 4]\n"), Contains("2 places for 1 gears"));
  CHECK_THAT(mistakes(two + "[train.t]\ninput='pinion'\n"), Contains("train.t.output"));
  CHECK_THAT(mistakes(two + "[train.t]\ninput='pinion'\noutput='wheels'\n"), Contains("did you mean \"wheel\"?"));
  CHECK_THAT(mistakes(two + "[train.t]\ninput='pinion'\noutput='wheel'\nheld=['pinion']\n"),
             Contains("names the input"));
  CHECK_THAT(mistakes(two + "[train.t]\ninput='pinion'\noutput='wheel'\nheld=['wheel']\n"),
             Contains("names the output"));
  CHECK_THAT(mistakes(two + "[planetary.k]\nsun='pinion'\nplanet='wheel'\nring='pinion'\n"),
             Contains("whose teeth stand outside"));
  CHECK_THAT(mistakes(two + "[train.t]\ninput='pinion'\noutput='pinion'\n"), Contains("turns with the input"));
  CHECK_THAT(mistakes(two + "[planetary.k]\nsun='pinion'\n"), Contains("planetary.k.planet"));
  CHECK_THAT(mistakes(two + "[planetary.k]\nsun='pinion'\nplanet='wheel'\n"),
             Contains("two or more of suns and rings"));
  CHECK_THAT(mistakes(two + "[carrier.wheel]\ncarries='pinion'\n"), Contains("has this name too"));
  CHECK_THAT(mistakes(two + "[carrier.c]\ncarries=['wheel']\ncount=3\nangles=[0, 90]\n"), Contains("leave count out"));
  // Two pairs whose distances put the middle of one carrier in two places.
  CHECK_THAT(mistakes("[shared]\nmodule=1\n" + spur("s", 18) + spur("p", 27) + ring("r", 72) +
                      "[planetary.k]\nsun='s'\nplanet='p'\nring='r'\nheld='r'\n[pair.k_ring]\ncenter_distance=22.7\n"),
             Contains("give its pairs one center_distance"));
}
