// What pages draw, held against itself: the shapes in a page's data, placed as its script places them, never run into
// each other, touch where they are said to touch, and overlap when pushed further. Nothing of palio's geometry is used
// for that.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "page_data.hpp"
#include "palio/error.hpp"
#include "palio/readings/vary.hpp"
#include "palio/view/chart.hpp"
#include "palio/view/page.hpp"
#include "polygons.hpp"
#include "random_job.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;
using Json = nlohmann::json;
using test::data_of;
using test::Loop;

namespace {

Loop loop_of(const Json& list) {
  Loop loop;
  for (std::size_t i = 0; i + 1 < list.size(); i += 2)
    loop.emplace_back(list[i].get<double>(), list[i + 1].get<double>());
  return loop;
}

/// A member of a page as the page's script draws it, in its own frame.
struct Member {
  std::string sort;
  std::vector<Loop> teeth;  ///< of a ring the edge of its opening
  Vec2 at;
  double start, facing = 0, module;

  explicit Member(const Json& j) : sort(j["sort"]), at(j["x"], j["y"]), start(j["start"]) {
    const Loop period = loop_of(j["outline"]);
    const int copies = sort == "rack" ? 1 : j.value("copies", j["teeth"].get<int>());
    const bool islands = j.value("islands", false);
    if (!islands) teeth.emplace_back();
    for (int k = 0; k < copies; ++k) {
      if (islands) teeth.emplace_back();
      for (const Vec2& p : period)
        teeth.back().push_back(turned(p, k * j.value("step", 0.0)));
    }
    if (sort == "rack") facing = j["facing"];
    module = j["pitch"].get<double>() / kPi * (sort == "rack" ? 1.0 : j["circles"]["working"].get<double>() / 2);
  }
  std::vector<Loop> placed(double q) const {
    if (sort == "rack") return test::placed(teeth, facing, at - q * from_polar(1, facing));
    return test::placed(teeth, q, at);
  }
  bool material(const std::vector<Loop>& there, const Vec2& p) const {
    return test::inside(there, p) != (sort == "ring");
  }
};

/// How two members stand to each other near a place: the deepest corner of one inside the other, and the least gap of
/// corners.
struct Standing {
  double depth = 0, gap = 1e300;
};
Standing standing(const Member& a, double qa, const Member& b, double qb, const Vec2& place) {
  Standing s;
  const std::vector<Loop> there_a = a.placed(qa), there_b = b.placed(qb);
  const double reach =
      (a.sort == "ring" || b.sort == "ring" ? 10 : 4) * std::max(a.module, b.module);  // a ring is touched far along
  const auto look = [&](const std::vector<Loop>& points, const Member& other, const std::vector<Loop>& there) {
    const std::vector<Loop> edges = test::near(there, place, 2 * reach);
    for (const Loop& loop : points) {
      for (const Vec2& p : loop) {
        if ((p - place).norm() > reach) continue;
        const double off = test::distance(edges, p);
        s.gap = std::min(s.gap, off);
        if (off > s.depth && other.material(there, p)) s.depth = off;
      }
    }
  };
  look(there_a, b, there_b), look(there_b, a, there_a);
  return s;
}

/// A roll's page, its data at some positions held against the shapes in it.
void hold(const Json& data, double lost_motion_unit) {
  const Member driver(data["driver"]), driven(data["driven"]);
  const Vec2 place(data["pitch_point"][0], data["pitch_point"][1]);
  const double m = driver.module, fine = 6e-4 * m + 1e-5;
  const std::size_t n = data["positions"].size();
  for (std::size_t i = 0; i < n; i += std::max<std::size_t>(1, n / 5)) {
    const Json& row = data["positions"][i];
    const double q =
        driver.start + data["driver"]["pitch"].get<double>() * static_cast<double>(i) / static_cast<double>(n);
    const double nominal = driven.start + data["ratio"].get<double>() * (q - driver.start);
    for (const char* side : {"u", "l"}) {
      REQUIRE(row[side].is_number());
      CAPTURE(i, side);
      const double limit = nominal + row[side].get<double>(),
                   further = 0.02 * m / lost_motion_unit * (*side == 'u' ? 1 : -1);
      const Standing at = standing(driver, q, driven, limit, place);
      CHECK(at.depth <= fine);
      CHECK(at.gap <= fine);
      CHECK(standing(driver, q, driven, limit + further, place).depth > 0.004 * m);
      CHECK(standing(driver, q, driven,
                     limit - 0.1 * (row["u"].get<double>() - row["l"].get<double>()) * (*side == 'u' ? 1 : -1), place)
                .depth <= fine);
      // The marked contacts lie on both.
      for (const Json& c : row[*side == 'u' ? "cu" : "cl"]) {
        const Vec2 p(c[0], c[1]);
        if (c.size() > 2 && std::abs(c[2].get<double>()) > 1e-9)
          continue;  // of twisted teeth: not in the section drawn
        CHECK(test::distance(driver.placed(q), p) <= fine);
        CHECK(test::distance(driven.placed(limit), p) <= fine);
      }
    }
  }
}

}  // namespace

TEST_CASE(
    "members of a page stand against each other as its table says: apart in between, touching at the limits, "
    "overlapping beyond") {
  if (!test::whole_search()) return;  // plain polygons, point by point: too long under sanitizers
  int held = 0;
  for (const std::string& kind :
       {std::string("spur"), std::string("internal"), std::string("rack"), std::string("true_cycloid"),
        std::string("cycloidal_ring"), std::string("clock"), std::string("lantern")}) {
    int of_kind = 0;
    for (unsigned seed = 1; seed <= 30 && of_kind < static_cast<int>(test::share(4)); ++seed) {
      job::Design design;
      try {
        design = job::resolve(test::random_job(kind, seed), "v");
      } catch (const job::JobError&) {
        continue;
      }
      const job::Pair& p = design.pairs[0];
      if (!p.meshes()) continue;
      const job::RolledPair rolled{&p, job::rolled(p, 40)};
      if (rolled.result.verdict != roll::Verdict::meshes) continue;
      CAPTURE(kind, seed);
      const Json data = data_of(view::roll_page(design, rolled));
      hold(data, data["working_radius"]);
      ++of_kind, ++held;
    }
    CHECK(of_kind > 0);
  }
  if (test::whole_search()) CHECK(held >= 20);
}

TEST_CASE(
    "at every step of a slider the page's members touch on the driving side and stay out of each other as they turn") {
  if (!test::whole_search()) return;  // plain polygons, point by point: too long under sanitizers
  for (const auto& [kind, key] : {std::pair{"spur", "gear.motor_pinion.profile_shift=0.06:0.3:3"},
                                  {"rack", "gear.push_pinion.teeth=18:22:3"},
                                  {"internal", "gear.crank_pinion.teeth=16:19:2"}}) {
    const std::string job = job::starter(kind, job::Units::mm);
    job::VaryRequest request;
    request.keys = {job::parse_vary_key(key)};
    const job::Varied v = job::vary(job::Values::read(job, "v"), request, true);
    const Json data = data_of(view::vary_page(job::resolve(job, "v"), v));
    CAPTURE(kind);
    int turned_steps = 0;
    for (const Json& step : data["steps"]) {
      if (!step.contains("driver") || step["findings"].dump().find("error") != std::string::npos) continue;
      CAPTURE(step["at"].dump());
      const Member driver(step["driver"]), driven(step["driven"]);
      const double pitch = step["driver"]["pitch"], m = driver.module;
      const Vec2 way =
          driven.sort == "rack" ? from_polar(1, driven.facing - kPi / 2) : (driven.at - driver.at).normalized();
      Vec2 place = driver.at + step["driver"]["circles"]["working"].get<double>() / 2 * way;
      if (driven.sort == "ring") place = driver.at - step["driver"]["circles"]["working"].get<double>() / 2 * way;
      for (const double share : {0.0, 0.31, 0.77}) {
        const double q = driver.start + share * pitch,
                     nominal = driven.start + step["ratio"].get<double>() * share * pitch;
        const Standing at = standing(driver, q, driven, nominal + step["push"].get<double>(), place);
        CAPTURE(share, at.depth, at.gap);
        CHECK(at.depth <= 6e-4 * m + 1e-5);
        CHECK(at.gap <= 6e-4 * m + 1e-5);
      }
      ++turned_steps;
    }
    CHECK(turned_steps >= 2);
  }
}

TEST_CASE("the tool of a page never cuts into the finished tooth, and cuts down to it everywhere") {
  if (!test::whole_search()) return;  // plain polygons, point by point: too long under sanitizers
  struct Blank {
    const char* kind;
    int teeth;
    double shift;
  };
  for (const Blank& b :
       {Blank{"spur", 10, 0.0}, Blank{"spur", 17, 0.18}, Blank{"spur", 40, -0.3}, Blank{"internal", 60, 0.2}}) {
    const job::Design design = job::resolve(
        fmt::format("[gear.g]\nkind='{}'\nteeth={}\nmodule=2\nprofile_shift={}\n", b.kind, b.teeth, b.shift), "v");
    CAPTURE(b.kind, b.teeth);
    const Json data = data_of(view::tool_page(design, design.gears[0]));
    const Member gear(data["gear"]);
    const std::vector<Loop> teeth = gear.placed(gear.start);
    const Loop tool = loop_of(data["tool"]);
    const bool rack = data["rack"];
    const double reach = data["reach"], distance = data["distance"], rolling = data["rolling_radius"].get<double>(),
                 ratio = data["ratio"].get<double>();
    // The space that is cut lies on +x: the finished edge there, from tip to tip.
    const double half_pitch = kPi / b.teeth, tip = data["blank"].get<double>() / 2;
    Loop space;
    for (const Vec2& p : teeth[0]) {
      const bool below_tip = gear.sort == "ring" ? p.norm() > tip + 1e-3 : p.norm() < tip - 1e-3;
      if (std::abs(std::atan2(p.y(), p.x())) < half_pitch && below_tip) space.push_back(p);
    }
    REQUIRE(space.size() > 20);
    const std::vector<Loop> around = test::near(teeth, Vec2(tip, 0), 12);
    std::vector<double> nearest(space.size(), 1e300);
    double deepest = 0;
    for (int k = 0; k <= 600; ++k) {
      const double turn = reach * (2.0 * k / 600 - 1);
      Loop there;
      for (const Vec2& p : tool) {
        const Vec2 world =
            rack ? Vec2(p.x() + distance, p.y() + rolling * turn) : Vec2(turned(p, turn * ratio) + Vec2(distance, 0));
        there.push_back(turned(world, -turn));
      }
      for (std::size_t i = 0; i < space.size(); ++i)
        nearest[i] = std::min(nearest[i], test::distance({there}, space[i]));
      if (k % 20) continue;
      for (const Vec2& p : there) {
        if (std::abs(std::atan2(p.y(), p.x())) > half_pitch || p.norm() > tip + 4) continue;
        if (gear.material(teeth, p)) deepest = std::max(deepest, test::distance(around, p));
      }
    }
    CHECK(deepest < 1.5e-3);
    CHECK(*std::max_element(nearest.begin(), nearest.end()) < 3e-3);
  }
}

TEST_CASE(
    "a reducer's page: at its limits the disc touches rollers and runs into none, and gaps are distances of what is "
    "drawn") {
  if (!test::whole_search()) return;  // plain polygons, point by point: too long under sanitizers
  int held = 0;
  for (unsigned seed = 1; seed <= 30 && held < 4; ++seed) {
    job::Design design;
    try {
      design = job::resolve(test::random_job("reducer", seed), "v");
    } catch (const job::JobError&) {
      continue;
    }
    const job::Reducer& r = design.reducers[0];
    const job::RolledReducer rolled{&r, job::rolled(r, 48)};
    if (rolled.result.verdict != roll::Verdict::meshes) continue;
    ++held;
    CAPTURE(seed);
    const Json data = data_of(view::reducer_page(design, rolled));
    const Loop edge = loop_of(data["edge"]);
    const int N = data["rollers"], Z = data["lobes"], steps = static_cast<int>(data["disc_room"].size());
    const double E = data["E"], R = data["R"], roller = data["roller"];
    for (int i = 0; i < steps; i += 5) {
      const double input = 2 * kPi / N * i / steps;
      for (const int high : {0, 1}) {
        const double room = data["disc_room"][i][high];
        const std::vector<Loop> disc = test::placed({edge}, data["discs"][0]["turn"].get<double>() - input / Z + room,
                                                    from_polar(E, input + data["discs"][0]["ahead"].get<double>()));
        double least = 1e300;
        for (int k = 0; k < N; ++k) {
          const Vec2 centre = from_polar(R, 2 * kPi * k / N);
          const double gap = test::distance(disc, centre) - roller;
          CAPTURE(i, high, k);
          CHECK_FALSE(test::inside(disc, centre));
          // A gap is told along the contact normal through the pitch point: never less than the distance, and the same
          // where it is small.
          const double told = data[high ? "gaps_high" : "gaps_low"][i][k][0];
          CHECK(told >= gap - 5e-4);
          if (gap < 0.05 * roller) CHECK_THAT(told, WithinAbs(gap, 5e-4 + 0.05 * gap));
          least = std::min(least, gap);
        }
        CHECK_THAT(least, WithinAbs(0, 5e-4));
      }
    }
  }
  CHECK(held >= 3);
}
