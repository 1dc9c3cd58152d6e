#include "palio/readings/mark.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/readings/reading.hpp"
#include "palio/view/draw.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

/// Every reading of a gear or a pair that is marked, by path.
std::vector<std::pair<std::string, job::Mark>> marks_of(const job::Design& design) {
  std::vector<std::pair<std::string, job::Mark>> all;
  const auto look = [&](job::ReadingOf of, const std::string& thing) {
    for (const job::Reading& r : job::readings()) {
      if (r.of != of) continue;
      const std::string path = thing + "." + std::string(r.key);
      try {
        if (const auto mark = job::mark_of(design, path)) all.emplace_back(path, *mark);
      } catch (const InvalidParameter&) {  // no reading of this thing
      }
    }
  };
  for (const job::Gear& g : design.gears)
    look(job::ReadingOf::gear, "gear." + g.name);
  for (const job::Pair& p : design.pairs) {
    if (p.meshes()) look(job::ReadingOf::pair, "pair." + p.name);
  }
  return all;
}

std::string key_of(const std::string& path) { return path.substr(path.rfind('.') + 1); }

/// How far a point lies from the outline of teeth: over all copies of the period, by dense samples refined.
double off_outline(const gear::Teeth& teeth, const Vec2& p) {
  const curve::Outline& outline = teeth.outline();
  double least = 1e9;
  for (int copy = 0; copy < outline.count; ++copy) {
    for (const curve::Segment& s : outline.period) {
      const auto away = [&](double t) { return (turned(s.point(t), outline.turn(copy)) - p).norm(); };
      double lo = std::min(s.from, s.to), hi = std::max(s.from, s.to);
      for (int round = 0; round < 8; ++round) {
        constexpr int kSteps = 16;
        double best = lo, found = 1e9;
        const double step = (hi - lo) / kSteps;
        for (int i = 0; i <= kSteps; ++i) {
          const double t = lo + i * step;
          if (const double d = away(t); d < found) found = d, best = t;
        }
        least = std::min(least, found);
        const double a = std::max(lo, best - step), b = std::min(hi, best + step);
        lo = a, hi = b;
      }
    }
  }
  return least;
}

bool is_straight(const gear::Teeth& teeth) { return teeth.is_bevel() || teeth.helix_angle().radians() == 0; }

}  // namespace

TEST_CASE("what a mark measures is the reading") {
  unsigned compared = 0;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 1; seed <= test::share(6); ++seed) {
      const auto design = test::try_job(test::random_job(kind, seed));
      if (!design) continue;
      bool straight = true;
      for (const job::Gear& g : design->gears)
        straight = straight && is_straight(g.teeth);
      if (!straight) continue;
      // Where tips or roots stand in the way, or the play changes on the way, what is there at the start is drawn, and
      // said beside the reading.
      const bool even = design->pairs.empty() || !design->pairs[0].meshes() ||
                        (job::rolled(design->pairs[0], 60).verdict == roll::Verdict::meshes &&
                         (!design->pairs[0].cycloidal() || design->pairs[0].cycloidal()->conjugate()));
      for (const auto& [path, mark] : marks_of(*design)) {
        CAPTURE(kind, seed, path);
        const std::string key = key_of(path);
        if (!even && key.find("backlash") != std::string::npos) continue;
        // The distance as designed is marked on gears as mounted; a ratio is no length, and a module is marked by its
        // pitch.
        if (key == "center_distance" || key == "transverse_contact_ratio" || key == "undercut" ||
            key == "normal_module" || key == "transverse_module")
          continue;
        const job::Trace& first = mark.measured.front();
        const auto* arc = std::get_if<job::MarkArc>(&first);
        double marked = job::length(first);
        if (arc && std::abs(arc->to - arc->from) > 2 * kPi * (1 - 1e-12)) marked = 2 * arc->radius;
        std::string number = path;
        if (key == "tip_clearance" || key == "working_pitch_diameters") number += ".0";
        if (key == "angular_backlash_deg") number += ".1";
        if (key == "span" || key.rfind("over_", 0) == 0 || key.rfind("between_", 0) == 0) number += ".length";
        auto told = job::reading_number(*design, number);
        if (!told && key == "working_pitch_diameters")
          told = job::reading_number(*design, path + ".1");  // beside a rack
        REQUIRE(told);
        double due = std::abs(*told) * job::mm_per(design->units);
        const bool angle = key.find("_deg") != std::string::npos;
        if (angle) due = std::abs(*told) * kPi / 180, marked = std::abs(arc->to - arc->from);
        CHECK_THAT(marked, WithinAbs(due, 1e-8 * std::max(1.0, due)));
        ++compared;
      }
    }
  }
  if (test::whole_search()) CHECK(compared > 400);
}

TEST_CASE("marks of thickness, span and base pitch end on the teeth") {
  unsigned ends = 0;
  for (const std::string kind : {"spur", "internal", "helical", "cycloidal", "clock", "lantern", "rack"}) {
    for (unsigned seed = 1; seed <= test::share(4); ++seed) {
      const auto design = test::try_job(test::random_job(kind, seed));
      if (!design) continue;
      for (const auto& [path, mark] : marks_of(*design)) {
        const std::string key = key_of(path);
        if (path.rfind("gear.", 0) != 0) continue;
        if (key != "transverse_tooth_thickness" && key != "tip_thickness" && key != "span" && key != "tooth_width" &&
            key != "transverse_base_pitch" && key != "chordal_thickness")
          continue;
        CAPTURE(kind, seed, path);
        const std::string name = path.substr(5, path.find('.', 5) - 5);
        for (const job::Gear& g : design->gears) {
          if (g.name != name) continue;
          // Flanks that a break of the tip or the root's round cuts short are spanned on their continuations.
          if (key == "span" || key == "transverse_base_pitch") {
            const auto& s = g.teeth.gear().sizes();
            const double T =
                std::sqrt(std::pow(job::along(mark.measured[0], 1).norm(), 2) - std::pow(s.base_diameter / 2, 2));
            if (T > s.tip_form_tangent || T < s.root_form_tangent) continue;
          }
          for (const double end : {0.0, 1.0}) {
            CHECK_THAT(off_outline(g.teeth, job::along(mark.measured[0], end)), WithinAbs(0, 2e-7 * g.teeth.module()));
            ++ends;
          }
        }
      }
    }
  }
  if (test::whole_search()) CHECK(ends > 100);
}

TEST_CASE("the contact path that is marked is where the roll finds contacts, from its first to its last") {
  for (const std::string kind : {"spur", "internal", "rack", "cycloidal", "helical"}) {
    for (unsigned seed = 1; seed <= test::share(5); ++seed) {
      const auto design = test::try_job(test::random_job(kind, seed));
      if (!design || design->pairs.empty() || !design->pairs[0].meshes()) continue;
      const job::Pair& p = design->pairs[0];
      const auto mark = job::mark_of(*design, "pair." + p.name + ".transverse_contact_ratio");
      if (!mark) continue;
      constexpr int kPositions = 240;
      auto [driver, driven] = p.members();
      driver.twist = driven.twist = 0;
      const roll::Result rolled = roll::roll(driver, driven, p.law(kPositions));
      if (rolled.verdict != roll::Verdict::meshes) continue;
      CAPTURE(kind, seed);
      double first = 1e9, last = -1e9;
      const Vec2 across = from_polar(1, p.direction().radians() + kPi / 2);
      for (const roll::Position& at : rolled.positions) {
        for (const roll::Contact& c : at.touching_upper) {
          double away = 1e9;
          for (const job::Trace& t : mark->measured) {
            for (int i = 0; i <= 4000; ++i)
              away = std::min(away, (job::along(t, i / 4000.0) - c.point).norm());
          }
          CHECK(away < 2e-3 * design->gears[0].teeth.module());
          first = std::min(first, c.point.dot(across)), last = std::max(last, c.point.dot(across));
        }
      }
      double begin = 1e9, end = -1e9, whole = 0;
      for (const job::Trace& t : mark->measured) {
        for (const double e : {0.0, 1.0}) {
          begin = std::min(begin, job::along(t, e).dot(across));
          end = std::max(end, job::along(t, e).dot(across));
        }
        whole += job::length(t);
      }
      CHECK_THAT(first, WithinAbs(begin, 3 * whole / kPositions));
      CHECK_THAT(last, WithinAbs(end, 3 * whole / kPositions));
    }
  }
}

TEST_CASE("every marked reading is drawn, with its number beside the mark") {
  for (const std::string& kind : test::job_kinds()) {
    const auto design = test::try_job(test::random_job(kind, 1));
    if (!design) continue;
    for (const auto& [path, mark] : marks_of(*design)) {
      CAPTURE(kind, path);
      const job::Marked m = job::marked(path, *design);
      CHECK(m.path == path);
      CHECK(!m.drawn.empty());
      CHECK_THAT(view::draw_marked(*design, path, "svg", {}), Contains("</svg>"));
    }
  }
}

TEST_CASE("keys, words of the trade and findings are marked where they are to be seen") {
  const auto design = test::try_job(test::random_job("spur", 1));
  REQUIRE(design);
  const auto key = [&](const std::string& word) { return key_of(job::marked(word, *design).path); };
  CHECK(key("module") == "normal_module");
  CHECK(key("pressure_angle") == "normal_pressure_angle_deg");
  CHECK(key("backlash") == "circumferential_backlash");
  CHECK(key("outside_diameter") == "tip_diameter");
  CHECK(key("thin-tip") == "tip_thickness");
  CHECK(key("contact-ratio-low") == "transverse_contact_ratio");
  CHECK(key("W_k") == "span");
}

TEST_CASE("a word that has no place on teeth is refused, and says what has one") {
  const auto design = test::try_job(test::random_job("spur", 1));
  REQUIRE(design);
  CHECK_THROWS_WITH(job::marked("mass_kg", *design), Contains("no one place") && Contains("tip_diameter"));
  CHECK_THROWS_WITH(job::marked("title", *design), Contains("marks a reading"));
  CHECK_THROWS_WITH(job::marked("gear.nobody.tip_diameter", *design), Contains("no \"nobody\""));
}
