// What is promised of a job as a whole: reports and rolls that agree for every kind, loops that close, reducers that
// turn, limits that are limits.
#include <catch2/catch.hpp>
#include <map>
#include <nlohmann/json.hpp>

#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/readings/vary.hpp"
#include "palio/roll/polygon.hpp"
#include "random_bevel.hpp"
#include "random_job.hpp"
#include "told.hpp"

using namespace palio;
using namespace palio::job;
using test::finds;
using Json = nlohmann::ordered_json;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

Finding finding(const Design& design, const std::string& id) {
  for (const Finding& f : findings(design)) {
    if (f.kind().text_id == id) return f;
  }
  FAIL("no finding " << id);
  return {};
}

bool errors(const Design& design) {
  for (const Finding& f : findings(design)) {
    if (f.kind().severity == Severity::error) return true;
  }
  return false;
}

std::string all_findings(const Design& design) {
  std::string all;
  for (const Finding& f : findings(design)) {
    if (f.kind().severity == Severity::error)
      all += fmt::format("{} {} {:.6g} ", f.kind().text_id, f.subject, f.value.value_or(0));
  }
  return all;
}

/// Three gears that each mesh with the other two, and one that is only between two of them.
std::string triangle(int z) {
  return fmt::format(
      "[shared]\nmodule=2\n[gear.a]\nkind='spur'\nteeth={0}\n[gear.b]\nlike='a'\n[gear.c]\nlike='a'\n"
      "[pair.ab]\ndriver='a'\ndriven='b'\n[pair.ac]\ndriver='a'\ndriven='c'\ndirection=60\n[pair.bc]\ndriver='b'"
      "\ndriven='c'\ndirection=120\n",
      z);
}

/// A sun, two planets and a ring: the last pair closes the loop.
std::string planets(double second, const std::string& more = "") {
  return fmt::format(
      "[shared]\nmodule=1\naddendum=0.8\n{1}[gear.sun]\nkind='spur'\nteeth=20\n[gear.p1]\nlike='sun'\nteeth=22\n[gear."
      "p2]\nlike='p1'\n"
      "[gear.ring]\nkind='internal'\nteeth=64\n[pair.s1]\ndriver='sun'\ndriven='p1'\nbacklash=0.05\n[pair.s2]\ndriver='"
      "sun'\ndriven='p2'\ndirection={0}\n"
      "[pair.r1]\ndriver='p1'\ndriven='ring'\n[pair.r2]\ndriver='p2'\ndriven='ring'\ndirection={0}\n",
      second, more);
}

const Pair& named(const Design& design, const std::string& name) {
  for (const Pair& p : design.pairs) {
    if (p.name == name) return p;
  }
  FAIL("no pair " << name);
  return design.pairs.front();
}

}  // namespace

TEST_CASE(
    "three gears that each mesh with the other two cannot turn: told exactly, and the pair that closes the loop jams") {
  const Design design = resolve(triangle(20), "v");
  const Finding turns = finding(design, "loop-turns");
  CHECK(turns.subject == "pair.bc");
  CHECK(*turns.value == 1);
  CHECK(*turns.limit == -1);
  // A sixth of a pitch.
  CHECK_THAT(*finding(design, "loop-phase").value, WithinAbs(2 * kPi / 20 / 6, 1e-12));
  CHECK(rolled(named(design, "ab"), 24).verdict == roll::Verdict::meshes);
  const roll::Result closing = rolled(named(design, "bc"), 24);
  CHECK(closing.verdict == roll::Verdict::jams);
  CHECK(closing.max_overlap > 0.1);
  REQUIRE(closing.worst);
  CHECK_THAT(closing.worst->where, Contains("loop"));
}

TEST_CASE("a loop of sun, planets and ring closes where the assembly condition says, and its remedy closes it") {
  // Planets stand at multiples of 360/(20 + 64) degrees: theory 11.1.
  const double step = 360.0 / 84;
  for (const int k : {28, 42, 35}) {
    const Design design = resolve(planets(k * step), "v");
    CAPTURE(k);
    CHECK_FALSE(finds(design, "loop-turns"));
    CHECK_FALSE(finds(design, "loop-phase"));
    CHECK(rolled(named(design, "r2"), 24).verdict == roll::Verdict::meshes);
  }
  for (const double off : {0.5, 0.3, -0.4}) {
    const double wrong = (28 + off) * step;
    const Design design = resolve(planets(wrong), "v");
    CAPTURE(off);
    const Finding f = finding(design, "loop-phase");
    // Turning the planet's place by off steps misses by off pitches of the ring.
    CHECK_THAT(*f.value, WithinAbs(std::abs(off) * 2 * kPi / 64, 1e-9));
    CHECK(rolled(named(design, "r2"), 24).verdict == roll::Verdict::jams);
    // The direction offered does it.
    const std::string words = f.detail;
    CHECK_THAT(words, Contains("direction = ") && Contains("pair.s2") && Contains("pair.r2"));
    const double offered = std::strtod(words.c_str() + words.find("= ") + 2, nullptr);
    CHECK(std::abs(offered - wrong) < 0.6 * step);
    const Design mended = resolve(planets(offered), "v");
    CHECK_FALSE(finds(mended, "loop-phase"));
    CHECK(rolled(named(mended, "r2"), 24).verdict == roll::Verdict::meshes);
  }
}

TEST_CASE("a pair that closes a loop is told the direction in which its gears stand") {
  const auto offered = [](const std::string& text) {
    std::string said;
    try {
      resolve(text, "v");
      FAIL("a direction that does not agree was taken");
    } catch (const JobError& e) {
      said = e.what();
    }
    CHECK_THAT(said, Contains("direction = ") && Contains("would do"));
    return std::strtod(said.c_str() + said.find("direction = ") + 12, nullptr);
  };
  const auto with = [](std::string text, const std::string& of, double direction) {
    const std::size_t at = text.find("direction=", text.find("[pair." + of + "]"));
    return text.replace(at, text.find('\n', at) - at, fmt::format("direction={:.12g}", direction));
  };
  for (const double wrong : {0.0, 35.0, -170.0}) {
    for (const auto& [text, closing] :
         {std::pair(triangle(20), "bc"), {planets(120), "r2"}, {planets(28 * 360.0 / 84), "r2"}}) {
      CAPTURE(wrong, closing);
      const double right = offered(with(text, closing, wrong));
      CHECK_NOTHROW(resolve(with(text, closing, right), "v"));
    }
  }
}

TEST_CASE("a loop whose gears turn against each other is told whatever their sizes, by exact fractions") {
  // Two idlers between the same wheels, of the same sense: sound. Their tooth counts do not matter to the ratio.
  const auto square = [](const std::string& last) {
    return "[shared]\nmodule=1\n[gear.a]\nkind='spur'\nteeth=40\n[gear.b]\nlike='a'\nteeth=20\n[gear.c]\nlike='a'"
           "\nteeth=20\n[gear.d]\nlike='a'\nteeth=" +
           last +
           "\n[pair.ab]\ndriver='a'\ndriven='b'\n[pair.ac]\ndriver='a'\ndriven='c'\ndirection=90\n[pair.bd]\ndriver='b'"
           "\ndriven='d'\ndirection=90\n"
           "[pair.cd]\ndriver='c'\ndriven='d'\n";
  };
  const Design sound = resolve(square("40"), "v");
  CHECK_FALSE(finds(sound, "loop-turns"));
  CHECK_FALSE(finds(sound, "loop-phase"));
  REQUIRE(named(sound, "cd").loop);
  CHECK(named(sound, "cd").loop->driven_turn == "1");
}

TEST_CASE("report and roll agree, findings and verdicts both, for random jobs of every kind") {
  std::map<std::string, std::array<int, 2>> counts;  // sound, doubtful
  for (const std::string& kind : test::job_kinds()) {
    const unsigned most = test::share(kind == "crossed" ? 16 : kind == "reducer" ? 12 : 50);
    for (unsigned seed = 1; seed <= most; ++seed) {
      Design design;
      try {
        design = resolve(test::random_job(kind, seed), "random");
      } catch (const JobError&) {
        continue;
      }
      CAPTURE(kind, seed, all_findings(design));
      const bool wrong = errors(design);
      ++counts[kind][wrong ? 1 : 0];
      if (kind == "reducer") {
        const reducer::Rolled r = rolled(design.reducers[0], 48);
        CHECK((r.verdict == roll::Verdict::jams) == finds(design, "reducer-jams"));
        continue;
      }
      const Pair& p = design.pairs[0];
      if (!p.meshes()) {
        CHECK(wrong);
        continue;
      }
      const bool gear_wrong = [&] {
        for (const Finding& f : findings(design)) {
          if (f.kind().severity == Severity::error && f.id != FindingId::lantern_plates_in_the_way) return true;
        }
        return false;
      }();
      roll::Result r = rolled(p, kind == "crossed" ? 12 : 48);
      CAPTURE(name(r.verdict), r.max_overlap, r.lost_share, r.worst ? r.worst->where : "");
      if (!gear_wrong) {
        // Cycloidal fillets that are touched are a warning: the flank ends there.
        if (!finds(design, "flank-stops-early") && !finds(design, "crossed-face-narrow") &&
            !finds(design, "cutter-cuts-tip"))
          CHECK(name(r.verdict) == "meshes");
      } else {
        // A graze of less than a nanometre passes between any positions.
        bool grazes = true;
        for (const Finding& f : findings(design)) {
          if (f.kind().severity == Severity::error)
            grazes = grazes && f.id == FindingId::tip_digs_root && *f.value < 1e-6;
        }
        if (grazes) continue;
        if (r.verdict == roll::Verdict::meshes && kind != "crossed")
          r = rolled(p, 1500);  // a graze takes a small part of the period
        CHECK(name(r.verdict) != "meshes");
      }
    }
  }
  for (const std::string& kind : test::job_kinds()) {
    CAPTURE(kind);
    if (test::whole_search()) CHECK(counts[kind][0] > 2);
  }
}

TEST_CASE("bevel pairs of any size: an undercut leaves the mate's tip room, and what digs into a root the roll finds") {
  // The pair that was called wrong and is sound.
  const auto corner = [](int z1, int z2) {
    return fmt::format(
        "[shared]\nmodule=2\nface_width=8\n[gear.a]\nkind='bevel'\nteeth={}\n[gear.b]\nlike='a'\nteeth={}\n[pair.p]"
        "\ndriver='a'\ndriven='b'\nbacklash=0.05\n",
        z1, z2);
  };
  const Design d = resolve(corner(13, 25), "v");
  CHECK_FALSE(finds(d, "contact-below-base"));
  int wrong = 0;
  for (int z1 = 8; z1 <= 22; ++z1) {
    for (const int z2 : {17, 25, 40}) {
      const Design design = resolve(corner(z1, z2), "v");
      CAPTURE(z1, z2, all_findings(design));
      roll::Result r = rolled(design.pairs[0], 48);
      if (errors(design) && r.verdict == roll::Verdict::meshes) r = rolled(design.pairs[0], 1500);
      CHECK((r.verdict == roll::Verdict::meshes) != errors(design));
      wrong += errors(design);
    }
  }
  CHECK(wrong >= 3);
}

TEST_CASE("how deep a tip digs into a root is what points of both outlines say") {
  int dug = 0;
  for (unsigned seed = 1; seed <= 400 && dug < 25; ++seed) {
    const auto any = test::any_pair(seed);
    if (!any) continue;
    const pair::ParallelPair p(any->driver, any->driven, any->center_distance);
    for (const Finding& f : p.findings("pair", "driver", "driven")) {
      if (f.id != FindingId::tip_digs_root || *f.value < 1e-4) continue;
      ++dug;
      CAPTURE(seed, f.subject, *f.value);
      const bool own_drives = f.subject == "driver";
      const gear::CylindricalGear &own = own_drives ? any->driver : any->driven,
                                  &mate = own_drives ? any->driven : any->driver;
      // The root as many points, and the tip edge carried through by the ratio from where the flanks touch at the pitch
      // point.
      std::vector<Vec2> root;
      const curve::Outline outline = own.outline();
      for (const int copy : {-1, 0, 1}) {
        for (const curve::Segment& s : outline.period) {
          if (s.role == curve::Role::tip) continue;
          for (int i = 0; i <= 400; ++i)
            root.push_back(turned(s.point(s.from + (s.to - s.from) * i / 400), outline.turn(copy)));
        }
      }
      const double a = any->center_distance, z1 = own.spec().teeth, z2 = mate.spec().teeth;
      const double r_w1 = a * z1 / (z1 + z2), r_w2 = a * z2 / (z1 + z2);
      // Own tooth's ccw flank on the pitch point (on +x), mate's flank there too.
      const double own_turn = -own.half_tooth_angle(r_w1).radians(), mate_edge = mate.sizes().tip_diameter / 2;
      const double edge_angle = mate.half_tooth_angle(r_w2).radians() - mate.half_tooth_angle(mate_edge).radians();
      double deepest = 0;
      for (int i = -3000; i <= 3000; ++i) {
        const double turn = 1.3 * 2 * kPi / z1 * i / 3000;
        const double seen = kPi - edge_angle - turn * z1 / z2;
        const Vec2 world = Vec2(a, 0) + from_polar(mate_edge, seen);
        const Vec2 in_own = turned(world, -turn - own_turn);
        const double R = in_own.norm();
        if (2 * R >= own.sizes().root_form_diameter) continue;
        const auto half = own.half_space_angle(R);
        const double off = std::abs(std::remainder(std::atan2(in_own.y(), in_own.x()) - kPi / z1, 2 * kPi / z1));
        if (half && off <= half->radians()) continue;
        double near = 1e9;
        for (std::size_t k = 0; k + 1 < root.size(); ++k) {
          const Vec2 way = root[k + 1] - root[k];
          if (way.norm() > 0.5 * own.spec().module) continue;  // from one curve to the next that is looked at
          const double t = std::clamp((in_own - root[k]).dot(way) / std::max(1e-30, way.squaredNorm()), 0.0, 1.0);
          near = std::min(near, (root[k] + t * way - in_own).norm());
        }
        deepest = std::max(deepest, near);
      }
      CHECK_THAT(deepest, WithinAbs(*f.value, 0.02 * *f.value + 2e-5));
    }
  }
  CHECK(dug >= 10);
}

TEST_CASE("a job that overlaps nowhere has findings with numbers of its own size") {
  // The number that was the wheel's base radius.
  const Design d = resolve(
      "[gear.a]\nkind='spur'\nteeth=17\nmodule=1.5\naddendum=1.4\nprofile_shift=0.18\n[gear.b]\nlike='a'\nteeth="
      "43\nprofile_shift=0.09\n"
      "[pair.p]\ndriver='a'\ndriven='b'\ncenter_distance=45.5\nbacklash=0.14\n",
      "v");
  for (const Finding& f : findings(d)) {
    if (f.kind().quantity != Quantity::length || !f.value) continue;
    CAPTURE(f.kind().text_id, *f.value);
    CHECK(std::abs(*f.value) < 1.5 * 3);  // no length of a tooth is longer than a pitch
  }
}

TEST_CASE("no roll gives a verdict over no positions") {
  const Design pair = resolve(starter("spur", Units::mm), "s"), reducer = resolve(starter("reducer", Units::mm), "s"),
               space = resolve(starter("crossed", Units::mm), "s");
  for (const int positions : {0, -5, 7, 100001}) {
    CAPTURE(positions);
    CHECK_THROWS_WITH(rolled(pair.pairs[0], positions), Contains("positions"));
    CHECK_THROWS_WITH(rolled(space.pairs[0], positions), Contains("positions"));
    CHECK_THROWS_WITH(rolled(reducer.reducers[0], positions), Contains("positions"));
    CHECK_THROWS_WITH(roll::roll(roll::Cut{}, roll::Cut{}, pair.pairs[0].law(positions), 1, 1), Contains("positions"));
  }
}

TEST_CASE("limits of whole numbers are found whole number by whole number, between coarse steps too") {
  VaryRequest request;
  request.keys = {parse_vary_key("gear.g.teeth=10:40:4")};
  const std::string job = "[gear.g]\nkind='spur'\nteeth=20\nmodule=1\n";
  const Varied coarse = vary(Values::read(job, "v"), request);
  request.keys = {parse_vary_key("gear.g.teeth=10:40")};
  const Varied fine = vary(Values::read(job, "v"), request);
  const auto of = [](const Varied& v, const std::string& what) {
    std::vector<double> at;
    for (const VaryLimit& l : v.limits) {
      if (l.what.find(what) != std::string::npos) at.push_back(l.at);
    }
    return at;
  };
  CHECK(of(coarse, "warning undercut") == std::vector<double>{17});
  CHECK(of(fine, "warning undercut") == std::vector<double>{17});
  CHECK(coarse.limits.size() == fine.limits.size());
  CHECK(coarse.without_effect.empty());
}

TEST_CASE("a varied key that changes nothing is said, and one that does is not") {
  const std::string job =
      "[gear.g]\nkind='spur'\nteeth=30\nmodule=1\ntool_tip_radius=0.3\n[gear.h]\nlike='g'\n[pair.p]\ndriver='g'"
      "\ndriven='h'\nbacklash=0.1\n";
  VaryRequest request;
  // Both gears have as many teeth: however the thinning is shared, its sum is what one pair's play needs. The teeth
  // differ, though.
  request.keys = {parse_vary_key("pair.p.backlash_share=0.2:0.8:3")};
  CHECK(vary(Values::read(job, "v"), request).without_effect.empty());
  // Of a plain fillet the tool's corner makes nothing.
  const std::string plain =
      "[gear.g]\nkind='cycloidal'\nform='clock'\nteeth=30\nmate_teeth=8\nrole='wheel'\nmodule=1\n";
  request.keys = {parse_vary_key("gear.g.teeth=30:31")};
  CHECK(vary(Values::read(plain, "v"), request).without_effect.empty());
  request.keys = {parse_vary_key("pair.p.start_angle=0:360:2")};
  const Varied turned =
      vary(Values::read(job, "v"), request);  // a whole turn: where everything stands is the same but for its angle
  CHECK(turned.without_effect.empty());
  request.keys = {parse_vary_key("gear.g.cutter.teeth=20:22")};
  CHECK_FALSE(vary(Values::read(job, "v"), request).rows[0].impossible.empty());  // no key of a spur gear: told as such
  const std::string rack = starter("rack", Units::mm);
  request.keys = {parse_vary_key("pair.push.axial_offset=0:0.00001:2")};
  CHECK(vary(Values::read(rack, "v"), request).without_effect.empty());
}

TEST_CASE(
    "what play the making leaves is told where it is too little, with the play to give, and that play is enough") {
  for (const std::string& kind : {std::string("spur"), std::string("helical"), std::string("internal"),
                                  std::string("rack"), std::string("bevel"), std::string("true_cycloid")}) {
    int told = 0;
    for (unsigned seed = 1; seed <= 30; ++seed) {
      std::string job = test::random_job(kind, seed);
      if (const auto at = job.find("backlash = "); at != std::string::npos) job.erase(at, job.find('\n', at) + 1 - at);
      for (const char* process :
           {"", "[process]\npreset = \"print\"\n", "[process]\npreset = \"wire\"\nsurface_offset = 0.01\n"}) {
        Design design;
        try {
          design = resolve(job + "backlash = 0.0\n" + process, "v");
        } catch (const JobError&) {
          continue;
        }
        if (!finds(design, "no-play")) continue;
        ++told;
        const Finding f = finding(design, "no-play");
        CAPTURE(kind, seed, process, f.detail);
        CHECK(*f.value < *f.limit);
        const auto at = f.detail.find("give backlash = ");
        REQUIRE(at != std::string::npos);
        const double give = std::strtod(f.detail.c_str() + at + 16, nullptr);
        CHECK_FALSE(finds(resolve(job + fmt::format("backlash = {}\n", give) + process, "v"), "no-play"));
      }
    }
    CAPTURE(kind);
    CHECK(told > 5);
  }
  const std::string reducer = starter("reducer", Units::mm);
  const Design tight = resolve(reducer, "v", {"reducer.motor_reducer.disc_offset=0"});
  CHECK(finds(tight, "reducer-no-clearance"));
  CHECK_FALSE(finds(resolve(reducer, "v", {"reducer.motor_reducer.disc_offset=0.03"}), "reducer-no-clearance"));
  const Design grown = resolve(reducer + "[process]\nsurface_offset = 0.05\n", "v");
  CHECK_THAT(finding(grown, "reducer-no-clearance").detail, Contains("disc_offset"));
  const reducer::Rolled made = rolled(as(grown, As::made).reducers[0], 48);
  CHECK(made.verdict == roll::Verdict::jams);
  CHECK(made.wrong == "process.surface_offset");
  // Report and roll as made say the same depth.
  CHECK_THAT(*finding(as(grown, As::made), "reducer-jams").value, WithinAbs(made.max_overlap, 1e-4));
}

TEST_CASE("speeds follow from the pair that says one, through the whole mechanism") {
  const std::string job =
      "[shared]\nmodule=1\n[gear.a]\nkind='spur'\nteeth=20\n[gear.b]\nlike='a'\nteeth=40\n[gear.c]\nlike='a'\nteeth="
      "30\n"
      "[pair.ab]\ndriver='a'\ndriven='b'\nspeed=120\nbacklash=0.1\n[pair.bc]\ndriver='b'\ndriven='c'\n";
  const Json r = Json::parse(report_json(resolve(job, "v")));
  CHECK(r["gears"]["a"]["speed"] == 120);
  CHECK(r["gears"]["b"]["speed"] == -60);
  CHECK_THAT(r["gears"]["c"]["speed"].get<double>(), WithinAbs(80, 1e-9));
  CHECK_THAT(r["pairs"]["ab"]["tooth_frequency_hz"].get<double>(), WithinAbs(40, 1e-12));
  CHECK_THAT(r["pairs"]["bc"]["tooth_frequency_hz"].get<double>(), WithinAbs(40, 1e-12));
  CHECK_THAT(r["pairs"]["ab"]["pitch_line_speed_m_per_s"].get<double>(), WithinAbs(2 * 2 * kPi * 10e-3, 1e-9));
  // Sliding: the difference of the flanks' speeds ω T at the ends of contact.
  const Design d = resolve(job, "v");
  const pair::ParallelPair& p = *d.pairs[0].parallel();
  double greatest = 0;
  for (const double T : {p.contact_begin(), p.contact_end()}) {
    const double T2 = p.line_of_action() - T;
    greatest = std::max(greatest, std::abs(4 * kPi * T - 2 * kPi * T2) / 1000);
  }
  CHECK_THAT(r["pairs"]["ab"]["sliding_speed_m_per_s"].get<double>(), WithinAbs(greatest, 1e-9));
  CHECK_THROWS_WITH(resolve(job + "friction=0.1\n", "v"), Contains("friction") && Contains("crossed"));
}

TEST_CASE("every starter is sound as it stands, in millimetres and in inches") {
  for (const std::string& kind : job::starter_names()) {
    // Values to be found; a trial of what a process can make, its limits and beyond.
    if (kind == "measurements" || kind == "coupon") continue;
    for (const Units units : {Units::mm, Units::inch}) {
      const Json told = Json::parse(verdict_json(resolve(job::starter(kind, units), kind)));
      CAPTURE(kind, static_cast<int>(units), told.dump());
      CHECK(told["works"] == true);
      CHECK(told["errors"] == 0);
      CHECK(told["warnings"] == 0);
    }
  }
}
