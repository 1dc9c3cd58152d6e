// Several gears on one rack: where they stand along it, that the teeth of all meet, and loops that go through it.
#include <algorithm>
#include <cmath>
#include <string>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "page_data.hpp"
#include "palio/design/design.hpp"
#include "palio/readings/findings.hpp"
#include "palio/view/page.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using test::finds;
using test::mistakes;

namespace {

const Pair& named(const Design& design, const std::string& name) {
  return *std::find_if(design.pairs.begin(), design.pairs.end(), [&](const Pair& p) { return p.name == name; });
}

/// A number that words offer, after `before`.
double offered(const std::string& words, const std::string& before) {
  const auto at = words.find(before);
  REQUIRE(at != std::string::npos);
  return std::strtod(words.c_str() + at + before.size(), nullptr);
}

/// How far the tooth spaces of a rack stand off the teeth of a gear on it, where both stand in the design: put down
/// anew. Seen from the gear, u runs along the rack's +x; a tooth turned counter-clockwise by δ from where the rack is
/// stands rδ along u.
double off(const Gear& gear, const Gear& rack) {
  const Vec2 u(std::cos(rack.facing), std::sin(rack.facing)), toward(u.y(), -u.x());
  const double pitch = rack.teeth.rack().pitch(), r = pitch * gear.teeth.count() / (2 * kPi);
  const double foot = (gear.axis - rack.axis).dot(u) + rack.phase;  // x of the rack there
  const double tooth = r * (gear.phase - std::atan2(toward.y(), toward.x()));
  return std::remainder(tooth + foot - pitch / 2, pitch);
}

struct Told {
  std::string text;
  double along[3];
  int teeth[3];
};

/// Three pinions on one rack, each driving or driven, the rack driven or driving in its pairs.
Told three(unsigned seed) {
  test::Draw draw(seed);
  Told t{};
  const double beta = draw.of({0.0, 0.0, 12.0});
  t.text = fmt::format("[shared]\nmodule=1.5\nface_width=9\n{}",
                       beta > 0 ? fmt::format("helix_angle={}\n", beta) : std::string());
  const char* names[] = {"a", "b", "c"};
  for (int i = 0; i < 3; ++i) {
    t.teeth[i] = draw.whole(14, 26);
    t.along[i] = (i - 1) * 60 + draw.between(-8, 8);
    t.text +=
        fmt::format("[gear.{}]\nkind='{}'\nteeth={}\n{}profile_shift={:.3f}\n", names[i], beta > 0 ? "helical" : "spur",
                    t.teeth[i], beta > 0 ? "hand='right'\n" : "", draw.between(0.05, 0.4));
  }
  t.text += fmt::format("[gear.bar]\nkind='rack'\nteeth={}\nbase_height=8\n{}", 44 + draw.whole(0, 1),
                        beta > 0 ? "hand='left'\n" : "");
  const double direction = draw.between(-170, 170);
  for (int i = 0; i < 3; ++i) {
    const bool first = i == 0, drives = draw.whole(0, 1) == 1;
    t.text += fmt::format("[pair.p{}]\ndriver='{}'\ndriven='{}'\nbacklash=0.1\nalong={:.17g}\n{}", names[i],
                          drives ? names[i] : "bar", drives ? "bar" : names[i], t.along[i],
                          first ? fmt::format("direction={:.6f}\n", direction) : std::string());
  }
  return t;
}

}  // namespace

TEST_CASE("Gears stand along a rack where they are said to, tooth before space, and all of them roll") {
  for (unsigned seed = 0; seed < test::share(40); ++seed) {
    CAPTURE(seed);
    const Told told = three(seed);
    const Design design = resolve(told.text, "job.toml");
    const Gear& bar = design.gear("bar");
    const double pitch = bar.teeth.rack().pitch();
    std::vector<RolledPair> rolls;
    int i = 0;
    for (const char* name : {"a", "b", "c"}) {
      const Gear& gear = design.gear(name);
      const double foot = pair::along(bar, gear.axis) + bar.phase;
      // The one that places the rack may be moved by less than a pitch: teeth meet where they meet.
      CHECK(std::abs(foot - told.along[i]) < (i == 0 ? pitch / 2 : 1e-9) + 1e-9);
      if (gear.teeth.twist() == 0) CHECK_THAT(off(gear, bar), WithinAbs(0, 1e-9));
      const Pair& p = named(design, fmt::format("p{}", name));
      const roll::Result result = rolled(p, 24);
      CHECK(result.verdict == roll::Verdict::meshes);
      // Even: no error of transmission, the play asked for.
      REQUIRE(result.play);
      CHECK_THAT(result.play->min * p.working_radius(), WithinAbs(0.1, 1e-7));
      CHECK_THAT(result.play->max * p.working_radius(), WithinAbs(0.1, 1e-7));
      CHECK_THAT(result.transmission_error->max * p.working_radius(), WithinAbs(0, 1e-7));
      CHECK_THAT(result.transmission_error->min * p.working_radius(), WithinAbs(0, 1e-7));
      rolls.push_back({&p, result});
      ++i;
    }
    CHECK_FALSE(finds(design, "bodies-collide"));
    // All turn one way, by their teeth.
    const auto turns = [&](const char* name) { return *design.gear(name).speed_ratio; };
    CHECK_THAT(turns("b") / turns("a"), WithinAbs(1.0 * told.teeth[0] / told.teeth[1], 1e-12));
    CHECK_THAT(turns("c") / turns("a"), WithinAbs(1.0 * told.teeth[0] / told.teeth[2], 1e-12));
    // The rack goes on until the last of them is at its end, either way.
    const nlohmann::json ends = test::data_of(view::machine_page(design, rolls, {}))["ends"];
    REQUIRE(ends.size() == 1);
    const double half = bar.teeth.count() * pitch / 2, middle = bar.teeth.rack().sizes().middle;
    const auto at = [&](const char* name) { return pair::along(bar, design.gear(name).axis) + bar.phase - middle; };
    const auto [first, last] = std::minmax({at("a"), at("b"), at("c")});
    CHECK_THAT(ends[0][1].get<double>(), WithinAbs(last - half, 1e-9));
    CHECK_THAT(ends[0][2].get<double>(), WithinAbs(first + half, 1e-9));
  }
}

TEST_CASE("What does not say where it stands on a taken rack is asked to, with a number that will do") {
  const std::string gears =
      "[shared]\nmodule=2\nface_width=8\n[gear.a]\nkind='spur'\nteeth=20\n[gear.b]\nkind='spur'\nteeth=17\n"
      "[gear.bar]\nkind='rack'\nteeth=41\nbase_height=9\n[pair.p]\ndriver='a'\ndriven='bar'\nbacklash=0.1\n";
  const std::string second = "[pair.q]\ndriver='bar'\ndriven='b'\nbacklash=0.1\n";
  const std::string words = mistakes(gears + second);
  CHECK_THAT(words, Contains("pair.q.along") && Contains("a stands"));
  for (const char* before : {"run into it; ", ", or "}) {
    const Design design =
        resolve(fmt::format("{}{}along={:.17g}\n", gears, second, offered(words, before)), "job.toml");
    CHECK_FALSE(finds(design, "bodies-collide"));
    CHECK(rolled(named(design, "q"), 24).verdict == roll::Verdict::meshes);
  }
  // A rack too short for both is told how many teeth it wants.
  std::string brief = gears;
  brief.replace(brief.find("teeth=41"), 8, "teeth=11");
  const std::string more = mistakes(brief + second);
  brief.replace(brief.find("teeth=11"), 8, fmt::format("teeth={:.0f}", offered(more, "with ")));
  CHECK(mistakes(fmt::format("{}{}along={:.17g}\n", brief, second, offered(more, "run into it; "))).empty());
  // Nearer, bodies run into each other; beyond the teeth there is nothing to roll on.
  CHECK(finds(resolve(gears + second + "along=20\n", "job.toml"), "bodies-collide"));
  const std::string beyond = mistakes(gears + second + "along=140\n");
  CHECK_THAT(beyond, Contains("pair.q.along") && Contains("beyond its teeth"));
  const double teeth = offered(beyond, "give it ");
  std::string longer = gears;
  longer.replace(longer.find("teeth=41"), 8, fmt::format("teeth={:.0f}", teeth));
  CHECK(mistakes(longer + second + "along=140\n").empty());
  CHECK_THAT(mistakes(gears + second + "along=50\ndirection=90\n"), Contains("where the teeth of the rack bar face"));
  CHECK_THAT(mistakes("[shared]\nmodule=2\nface_width=8\n[gear.a]\nkind='spur'\nteeth=20\n[gear.b]\nkind='spur'\n"
                      "teeth=17\n[pair.p]\ndriver='a'\ndriven='b'\nalong=3\n"),
             Contains("is for a gear on a rack"));
}

namespace {

/// A crank between two wheels, on the shafts of which pinions push one rack.
std::string crank(int low, int high) {
  // Wheels of other sizes stand at other distances; the rack stands beside both pinions all the same.
  const auto gear = [](const char* name, int teeth) {
    return fmt::format("[gear.{}]\nkind='spur'\nteeth={}\n", name, teeth);
  };
  return "[shared]\nmodule=1.5\nface_width=10\n" + gear("crank", 31) + gear("low", low) + gear("high", high) +
         gear("low_pinion", 18) + gear("high_pinion", 18) +
         "[gear.bar]\nkind='rack'\nteeth=60\nbase_height=8\n"
         "[shaft.one]\ngears=['low','low_pinion']\ngap=3\n[shaft.two]\ngears=['high','high_pinion']\ngap=3\n"
         "[pair.i]\ndriver='crank'\ndriven='low'\ndirection=-90\nbacklash=0.1\n"
         "[pair.j]\ndriver='crank'\ndriven='high'\ndirection=90\nbacklash=0.1\n"
         "[pair.a]\ndriver='low_pinion'\ndriven='bar'\nbacklash=0.1\n"
         "[pair.b]\ndriver='high_pinion'\ndriven='bar'\nbacklash=0.1\n[train.t]\ninput='crank'\noutput='bar'\n";
}

}  // namespace

TEST_CASE("A loop through a rack closes where both ways push it alike") {
  const Design sound = resolve(crank(24, 24), "job.toml");
  CHECK_FALSE(finds(sound, "loop-turns"));
  CHECK_FALSE(finds(sound, "loop-phase"));
  CHECK_FALSE(finds(sound, "train-locked"));
  for (const Pair& p : sound.pairs)
    CHECK(rolled(p, 48).verdict == roll::Verdict::meshes);
  // A pinion of another size, or a wheel: the rack would have to go at two speeds.
  for (const std::string& text : {crank(24, 26), crank(25, 24)}) {
    const Design stuck = resolve(text, "job.toml");
    CHECK(finds(stuck, "loop-turns"));
    CHECK(finds(stuck, "train-locked"));
    CHECK(rolled(named(stuck, "b"), 48).verdict == roll::Verdict::jams);
  }
  // Where it stands along the rack follows from the wheels: to say something else is refused, with the number.
  std::string wrong = crank(24, 24);
  const std::string words = mistakes(wrong.replace(wrong.find("driver='high_pinion'"), 0, "along=20\n"));
  CHECK_THAT(words, Contains("pair.b.along"));
  std::string right = crank(24, 24);
  right.replace(right.find("driver='high_pinion'"), 0, fmt::format("along={:.17g}\n", offered(words, "or give ")));
  CHECK(mistakes(right).empty());
}

TEST_CASE("Between two racks that one pinion drives a second one turns where it is told to stand") {
  const auto text = [](double along, int teeth) {
    return fmt::format(
        "[shared]\nmodule=1\nface_width=6\n[gear.p]\nkind='spur'\nteeth=20\n[gear.q]\nkind='spur'\nteeth={}\n"
        "[gear.up]\nkind='rack'\nteeth=36\nbase_height=5\n[gear.down]\nkind='rack'\nteeth=37\nbase_height=5\n"
        "[pair.a]\ndriver='p'\ndriven='up'\nbacklash=0.1\n[pair.b]\ndriver='p'\ndriven='down'\ndirection=180\n"
        "backlash=0.1\n[pair.c]\ndriver='up'\ndriven='q'\nalong={:.17g}\nbacklash=0.1\n"
        "[pair.d]\ndriver='q'\ndriven='down'\nbacklash=0.1\n[train.t]\ninput='p'\noutput='q'\n",
        teeth, along);
  };
  int mended = 0;
  for (const double along : {28.0, 28.7, 29.4, 30.1, -30.0, 32.3}) {
    CAPTURE(along);
    const Design design = resolve(text(along, 20), "job.toml");
    CHECK_FALSE(finds(design, "loop-turns"));
    CHECK_FALSE(finds(design, "train-locked"));
    const double miss = std::abs(off(design.gear("q"), design.gear("down")));
    CHECK(finds(design, "loop-phase") == (miss > 0.05 + 1e-9));
    if (miss < 0.05) continue;
    for (const Finding& f : findings(design)) {
      if (f.kind().text_id != "loop-phase") continue;
      const double there = offered(f.detail, "along = ");
      CHECK(std::abs(there - along) < kPi);
      const Design closed = resolve(text(there, 20), "job.toml");
      CHECK_FALSE(finds(closed, "loop-phase"));
      CHECK_THAT(off(closed.gear("q"), closed.gear("down")), WithinAbs(0, 1e-9));
      CHECK(rolled(named(closed, "d"), 48).verdict == roll::Verdict::meshes);
      ++mended;
    }
  }
  CHECK(mended >= 3);
  // A wheel of another size does not fit between them.
  CHECK_THAT(mistakes(text(30, 22)), Contains("pair.d"));
}

TEST_CASE("Teeth that two ways hold apart jam on the rack as deep as they miss") {
  // An idler between two pinions: nothing can be turned on a shaft, the teeth meet or do not.
  int missed = 0;
  for (const int idler : {18, 19, 20, 21, 23}) {
    const std::string text = fmt::format(
        "[shared]\nmodule=1.5\nface_width=10\n[gear.a]\nkind='spur'\nteeth=18\n[gear.idler]\nkind='spur'\nteeth={}\n"
        "[gear.b]\nkind='spur'\nteeth=18\n[gear.bar]\nkind='rack'\nteeth=40\nbase_height=8\n"
        "[pair.i]\ndriver='a'\ndriven='idler'\ndirection=120\nbacklash=0.1\n"
        "[pair.j]\ndriver='idler'\ndriven='b'\ndirection=60\nbacklash=0.1\n"
        "[pair.p]\ndriver='a'\ndriven='bar'\nbacklash=0.1\n[pair.q]\ndriver='b'\ndriven='bar'\nbacklash=0.1\n",
        idler);
    const Design design = resolve(text, "job.toml");
    CAPTURE(idler);
    CHECK_FALSE(finds(design, "loop-turns"));
    const double miss = std::abs(off(design.gear("b"), design.gear("bar")));
    const roll::Result result = rolled(named(design, "q"), 48);
    const bool jams = miss > 0.05 + 1e-9;
    CHECK(finds(design, "loop-phase") == jams);
    CHECK((result.verdict == roll::Verdict::jams) == jams);
    if (!jams) continue;
    ++missed;
    // Along the normal, beyond half the play.
    CHECK_THAT(result.max_overlap, WithinAbs((miss - 0.05) * std::cos(20 * kPi / 180), 1e-7));
  }
  CHECK(missed >= 3);
}
