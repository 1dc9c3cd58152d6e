// Every curve there is, as it stands in real outlines of every kind of teeth: derivatives, curvature, chords, arcs,
// areas, turning, mirroring, parallels. What random segments leave out is met here.
#include <catch2/catch.hpp>
#include <map>
#include <set>

#include "palio/curve/flatten.hpp"
#include "palio/curve/parallel.hpp"
#include "palio/gear/lobed_disc.hpp"
#include "random_bevel.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;
using curve::Outline;
using curve::Segment;

namespace {

/// Outlines of all kinds, by what they are.
std::vector<std::pair<std::string, Outline>> outlines() {
  std::vector<std::pair<std::string, Outline>> all;
  for (const auto& [name, teeth] : test::one_of_each())
    all.emplace_back(name, teeth.outline());
  for (const auto& [name, teeth] : test::one_of_each_cycloidal())
    all.emplace_back(name, teeth.chain());
  for (unsigned seed = 1; seed <= 6; ++seed) {
    if (const auto p = test::any_bevel_pair(seed)) {
      all.emplace_back("bevel, heel", p->driver().section(p->driver().sizes().outer_cone_distance));
      all.emplace_back("bevel, toe", p->driven().section(p->driven().sizes().inner_cone_distance));
    }
  }
  gear::LobedDiscSpec disc;
  disc.rollers = 20, disc.roller_circle_diameter = 80, disc.roller_diameter = 5, disc.eccentricity = 1.1;
  all.emplace_back("lobed disc", gear::LobedDisc(disc).outline());
  return all;
}

constexpr const char* kCurves[] = {"involute",
                                   "trochoid",
                                   "cutter trochoid",
                                   "spherical involute",
                                   "crown trochoid",
                                   "cycloid",
                                   "lobe curve",
                                   "elliptic arc",
                                   "arc",
                                   "line"};

/// A place within a segment, away from its ends, where an involute may have its cusp.
double within(const Segment& s, double share) { return s.from + (s.to - s.from) * (0.02 + 0.96 * share); }

}  // namespace

TEST_CASE("all ten kinds of curves stand in the outlines that are looked at here") {
  std::set<std::size_t> kinds;
  for (const auto& [name, outline] : outlines()) {
    for (const Segment& s : outline.period)
      kinds.insert(s.curve.index());
  }
  for (std::size_t k = 0; k < 10; ++k) {
    CAPTURE(kCurves[k]);
    CHECK(kinds.count(k) == 1);
  }
}

TEST_CASE("points, derivatives and curvature of every curve agree with differences of its points") {
  for (const auto& [name, outline] : outlines()) {
    for (const Segment& s : outline.period) {
      CAPTURE(name, kCurves[s.curve.index()]);
      const double h = 1e-5 * std::abs(s.to - s.from);
      for (const double share : {0.0, 0.21, 0.5, 0.77, 1.0}) {
        const double t = within(s, share);
        const curve::Jet j = s.jet(t), a = s.jet(t - h), b = s.jet(t + h);
        const double size = j.d1.norm() + j.d2.norm() * std::abs(s.to - s.from) + 1e-12;
        CHECK(((b.p - a.p) / (2 * h) - j.d1).norm() < 1e-6 * size);
        CHECK(((b.d1 - a.d1) / (2 * h) - j.d2).norm() * std::abs(s.to - s.from) < 1e-5 * size);
        CHECK((s.point(t) - j.p).norm() == 0);
        CHECK_THAT(s.tangent(t).norm(), WithinAbs(1, 1e-14));
        CHECK_THAT(s.tangent(t).dot(s.normal(t)), WithinAbs(0, 1e-14));
        // Which way one goes: towards `to`.
        CHECK(s.tangent(t).dot(j.d1) * (s.to - s.from) > 0);
        // Curvature turns the tangent: by differences along the way gone.
        if (s.curve.index() == 9) continue;
        const Vec2 before = s.tangent(t - h), after = s.tangent(t + h);
        const double turned = std::atan2(cross(before, after), before.dot(after)),
                     way = (s.to > s.from ? 1 : -1) * (b.p - a.p).norm();
        CHECK_THAT(turned / way, WithinRel(s.curvature(t), 2e-3) ||
                                     WithinAbs(s.curvature(t), 1e-3 * std::abs(1 / (a.p - b.p).norm()) * h));
      }
    }
  }
}

TEST_CASE("outlines close: each segment begins where the one before it ends, and periods follow each other") {
  for (const auto& [name, outline] : outlines()) {
    CAPTURE(name);
    double size = 0;
    for (const Segment& s : outline.period)
      size = std::max({size, s.first().norm(), s.last().norm()});
    for (std::size_t i = 0; i + 1 < outline.period.size(); ++i) {
      // A lantern's pins are islands of their own.
      if (name == "lantern") continue;
      CHECK((outline.period[i].last() - outline.period[i + 1].first()).norm() < 1e-9 * size);
    }
    if (name == "lantern" || outline.shift != Vec2::Zero() ||
        (outline.count == 1 && name.find("rack") == std::string::npos))
      continue;
    CHECK((outline.period.back().last() - outline.segment(outline.count > 1 ? 1 : 0, 0).first()).norm() < 1e-9 * size);
  }
}

TEST_CASE("chords of every curve stay within what was asked, against a hundred points of each") {
  for (const auto& [name, outline] : outlines()) {
    double size = 0;
    for (const Segment& s : outline.period)
      size = std::max(size, s.first().norm());
    for (const Segment& s : outline.period) {
      for (const double error : {1e-3 * size, 1e-5 * size}) {
        const curve::Chords chords = curve::flatten(s, error);
        CAPTURE(name, kCurves[s.curve.index()], error);
        CHECK(chords.deviation <= error);
        CHECK(chords.at.front() == s.from);
        CHECK(chords.at.back() == s.to);
        double worst = 0;
        for (std::size_t i = 0; i + 1 < chords.at.size(); ++i) {
          const Vec2 a = s.point(chords.at[i]), b = s.point(chords.at[i + 1]), way = b - a;
          if (way.norm() == 0) continue;
          for (int k = 1; k < 25; ++k)
            worst = std::max(
                worst, std::abs(cross(Vec2(way / way.norm()),
                                      Vec2(s.point(chords.at[i] + (chords.at[i + 1] - chords.at[i]) * k / 25) - a))));
        }
        CHECK(worst <= chords.deviation * (1 + 1e-6) + 1e-15 * size);
      }
    }
  }
}

TEST_CASE("turned and mirrored, every curve's points are turned and mirrored") {
  for (const auto& [name, outline] : outlines()) {
    for (const Segment& s : outline.period) {
      CAPTURE(name, kCurves[s.curve.index()]);
      if (s.curve.index() == 6) continue;  // a lobed edge is its own mirror image
      const Segment turned = curve::turned(s, 0.9), mirrored = curve::mirrored(s);
      const double size = 1 + s.first().norm();
      for (const double share : {0.0, 0.3, 0.8, 1.0}) {
        // By place along the segment: the parameter of an arc is shifted with it.
        const Vec2 p = s.point(s.from + (s.to - s.from) * share),
                   q = turned.point(turned.from + (turned.to - turned.from) * share);
        CHECK((q - palio::turned(p, 0.9)).norm() < 1e-12 * size);
        const Vec2 back = mirrored.point(mirrored.from + (mirrored.to - mirrored.from) * (1 - share));
        CHECK((back - Vec2(p.x(), -p.y())).norm() < 1e-12 * size);
      }
      CHECK((mirrored.first() - Vec2(s.last().x(), -s.last().y())).norm() < 1e-12 * size);
    }
  }
}

TEST_CASE("areas by the exact curves are the limit of those of polygons, for every kind of outline") {
  for (const auto& [name, outline] : outlines()) {
    if (outline.shift != Vec2::Zero() || name.find("bevel") == 0 || name == "lantern") continue;
    CAPTURE(name);
    const double exact = curve::signed_area(outline);
    double before = 1e300;
    for (const int pieces : {40, 160}) {
      double polygon = 0;
      for (int copy = 0; copy < outline.count; ++copy) {
        for (std::size_t k = 0; k < outline.period.size(); ++k) {
          const Segment s = outline.segment(copy, k);
          for (int i = 0; i < pieces; ++i) {
            polygon += 0.5 * cross(s.point(s.from + (s.to - s.from) * i / pieces),
                                   s.point(s.from + (s.to - s.from) * (i + 1) / pieces));
          }
        }
      }
      const double off = std::abs(polygon / exact - 1);
      CHECK(off < 2e-3);
      // Four times the pieces: a sixteenth of the error.
      if (before < 1e300 && off > 1e-12) CHECK(off < before / 10);
      before = off;
    }
    CHECK((exact > 0) == !outline.clockwise);
  }
}

TEST_CASE("biarcs of every outline follow it within the tolerance, by points of the arcs against the curve") {
  for (const auto& [name, outline] : outlines()) {
    if (outline.shift != Vec2::Zero() || name.find("bevel") == 0 || name == "lantern") continue;
    CAPTURE(name);
    const curve::BulgedLoop loop = curve::biarcs(outline, 0.002);
    CHECK(loop.deviation <= 0.002);
    // Each corner of the loop lies on the outline.
    std::vector<Vec2> fine;
    for (std::size_t k = 0; k < outline.period.size(); ++k) {
      const Segment s = outline.segment(0, k);
      for (int i = 0; i <= 600; ++i)
        fine.push_back(s.point(s.from + (s.to - s.from) * i / 600));
    }
    const std::size_t first = loop.points.size() / static_cast<std::size_t>(outline.count);
    for (std::size_t i = 0; i < first; ++i) {
      double near = 1e9;
      for (std::size_t k = 0; k + 1 < fine.size(); ++k) {
        const Vec2 way = fine[k + 1] - fine[k];
        const double t =
            way.squaredNorm() > 0 ? std::clamp((loop.points[i].p - fine[k]).dot(way) / way.squaredNorm(), 0.0, 1.0) : 0;
        near = std::min(near, (fine[k] + t * way - loop.points[i].p).norm());
      }
      CHECK(near < 2.5e-3);
    }
  }
}
