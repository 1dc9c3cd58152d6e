// Files of others: the same outline in every way that a format can say it.
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <functional>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/foreign/drawing.hpp"
#include "palio/foreign/teeth.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;

namespace {

constexpr double kChord = 1e-6;

/// Entities as group codes, one after the other, in mm.
std::string dxf(const std::string& entities, int unit = 4) {
  return fmt::format(
      "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n{}\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n{}0\nENDSEC\n0\nEOF\n", unit,
      entities);
}

std::string line(double x0, double y0, double x1, double y1) {
  return fmt::format("0\nLINE\n8\n0\n10\n{}\n20\n{}\n11\n{}\n21\n{}\n", x0, y0, x1, y1);
}

std::string svg(const std::string& inner, const std::string& head = "width='100mm' viewBox='0 0 100 100'") {
  return "<?xml version='1.0'?><svg xmlns='http://www.w3.org/2000/svg' " + head + ">" + inner + "</svg>";
}

double area(const foreign::Drawing& drawing) {
  REQUIRE(drawing.loops.size() == 1);
  return drawing.loops[0].area;
}

const double kHalfMoon = kPi * 25 / 2;  // half a disc of radius 5

}  // namespace

TEST_CASE("half a disc is the same in every way that a DXF draws it") {
  const std::string chord = line(5, 0, -5, 0), back = line(-5, 0, 5, 0);
  const std::string arc = "0\nARC\n10\n0\n20\n0\n40\n5\n50\n0\n51\n180\n";
  const std::string half = "0\nLWPOLYLINE\n90\n2\n70\n1\n10\n5\n20\n0\n42\n1\n10\n-5\n20\n0\n42\n0\n";
  const std::string old =
      "0\nPOLYLINE\n66\n1\n70\n1\n0\nVERTEX\n10\n5\n20\n0\n42\n1\n0\nVERTEX\n10\n-5\n20\n0\n0\nSEQEND\n";
  const std::string ellipse = "0\nELLIPSE\n10\n0\n20\n0\n11\n5\n21\n0\n40\n1\n41\n0\n42\n3.141592653589793\n";
  // A rational quadratic in two quarters is the half circle exactly.
  const double w = std::sqrt(0.5);
  std::string spline = "0\nSPLINE\n70\n12\n71\n2\n72\n8\n73\n5\n";
  for (const double k : {0, 0, 0, 1, 1, 2, 2, 2})
    spline += fmt::format("40\n{}\n", k);
  for (const double v : {1.0, w, 1.0, w, 1.0})
    spline += fmt::format("41\n{}\n", v);
  for (const auto& [x, y] : {std::pair{5, 0}, {5, 5}, {0, 5}, {-5, 5}, {-5, 0}})
    spline += fmt::format("10\n{}\n20\n{}\n", x, y);
  // Seen from behind: x runs the other way, and so does the arc.
  const std::string behind = "0\nARC\n10\n0\n20\n0\n40\n5\n50\n0\n51\n180\n230\n-1\n";
  for (const std::string& entities : {arc + chord, arc + back, chord + arc, half, old, ellipse + chord, spline + back,
                                      behind + chord, line(5, 0, 1, 0) + arc + line(-5, 0, 1, 0)}) {
    CAPTURE(entities);
    const foreign::Drawing d = foreign::read_dxf(dxf(entities), kChord);
    CHECK(area(d) == Approx(kHalfMoon).epsilon(1e-6));
    CHECK(d.loops[0].centre.x() == Approx(0).margin(1e-5));
    CHECK(d.loops[0].centre.y() == Approx(4 * 5 / (3 * kPi)).epsilon(1e-6));
    CHECK(d.unit_told);
    CHECK(d.open == 0);
    // As lines and arcs it is exact, an ellipse or spline as near as is said.
    const bool arcs = entities != ellipse + chord && entities != spline + back;
    const double off = curve::signed_area(d.loops[0].outline()) - kHalfMoon;
    CHECK(std::abs(off) < (arcs ? 1e-9 : kPi * 5 * drawn::kOffSpline));
    CHECK(d.loops[0].outline().period.size() <= (arcs ? 3 : 60));
  }
  CHECK(area(foreign::read_dxf(dxf(half, 1), kChord)) == Approx(kHalfMoon * 25.4 * 25.4).epsilon(1e-6));
  CHECK_FALSE(foreign::read_dxf(dxf(half, 0), kChord).unit_told);
  // Metres are believed of what is no larger than a house.
  const foreign::Drawing small = foreign::read_dxf(dxf("0\nCIRCLE\n10\n0\n20\n0\n40\n0.03\n", 6), kChord);
  CHECK(area(small) == Approx(kPi * 900).epsilon(1e-6));
  CHECK(small.unit_told);
  CHECK(area(foreign::read_dxf(dxf("0\nCIRCLE\n10\n0\n20\n0\n40\n30\n", 6), kChord)) ==
        Approx(kPi * 900).epsilon(1e-6));
  CHECK(foreign::read_dxf(dxf(arc), kChord).open == 1);
  CHECK(foreign::read_dxf(dxf("0\nHATCH\n" + half), kChord).passed_over == std::vector<std::string>{"HATCH"});
  // Blocks are definitions, not drawn.
  CHECK(area(foreign::read_dxf("0\nSECTION\n2\nBLOCKS\n" + half + "0\nENDSEC\n" + dxf(half), kChord)) ==
        Approx(kHalfMoon).epsilon(1e-6));
  CHECK_THROWS_WITH(foreign::read_dxf(dxf("0\nSPLINE\n71\n3\n11\n0\n21\n0\n11\n1\n21\n1\n"), kChord),
                    Contains("poles"));
}

TEST_CASE("half a disc is the same in every way that an SVG draws it") {
  // y points down: the half above is the one with smaller y.
  const double k = 5 * 4 / 3.0 * std::tan(kPi / 8);  // cubic arcs, 0.03 % off
  const std::string cubic = fmt::format("M5 0C5 {0} {1} -5 0 -5S-5 {0} -5 0Z", -k, k);
  for (const std::string& d :
       {std::string("M5,0A5 5 0 0 0 -5,0Z"), std::string("m5 0a5,5 0 0 0-10 0z"), std::string("M5 0A5 5 0 1 0-5 0L5 0"),
        std::string("M-5 0 A5 5 30 01 5 0 H-5"), std::string("M 5 0 A 5 5 0 0 0 0 -5 A 5 5 0 0 0 -5 0 h 10 z"), cubic,
        std::string("M5 0A2 2 0 0 0-5 0z")}) {
    CAPTURE(d);
    const foreign::Drawing drawing = foreign::read_svg(svg("<path d='" + d + "'/>"), kChord);
    CHECK(area(drawing) == Approx(kHalfMoon).epsilon(d == cubic ? 1e-3 : 1e-6));
    CHECK(drawing.loops[0].centre.y() == Approx(4 * 5 / (3 * kPi)).epsilon(d == cubic ? 1e-3 : 1e-6));
    CHECK(curve::signed_area(drawing.loops[0].outline()) == Approx(area(drawing)).margin(16 * drawn::kOffSpline));
  }
  const double disc = kPi * 25;
  for (const std::string& inner :
       {std::string("<circle cx='3' cy='4' r='5'/>"), std::string("<ellipse rx='5' ry='5'/>"),
        std::string("<g transform='translate(3 4) rotate(30) scale(2.5)'><circle r='2'/></g>"),
        std::string("<g transform='matrix(0 5 -5 0 1 1)'><g><circle r='1'/></g></g>"),
        std::string("<defs><circle r='9'/></defs><circle r='5'/>"),
        std::string("<ellipse rx='10' ry='5' transform='scale(.5,1)'/>")}) {
    CAPTURE(inner);
    CHECK(area(foreign::read_svg(svg(inner), kChord)) == Approx(disc).epsilon(1e-6));
  }
  CHECK(area(foreign::read_svg(svg("<rect x='1' y='2' width='3' height='4'/>"), kChord)) == Approx(12));
  CHECK(area(foreign::read_svg(svg("<polygon points='0,0 4,0 4 3'/>"), kChord)) == Approx(6));
  CHECK(area(foreign::read_svg(svg("<path d='M0 0q 2 -4 4 0t 4 0V5H0z'/>"), kChord)) == Approx(40).epsilon(1e-6));
  CHECK(area(foreign::read_svg(svg("<rect width='3' height='4'/>", "width='2in' viewBox='0 0 2 2'"), kChord)) ==
        Approx(12 * 25.4 * 25.4));
  const foreign::Drawing untold = foreign::read_svg(svg("<rect width='96' height='96'/>", ""), kChord);
  CHECK_FALSE(untold.unit_told);
  CHECK(area(untold) == Approx(25.4 * 25.4));
  CHECK_THROWS_WITH(foreign::read_svg("solid not svg", kChord), Contains("no SVG"));
  CHECK_THROWS_WITH(foreign::read_svg(svg("<path d='M0 0 L 1'/>"), kChord), Contains("number"));
  CHECK_THROWS_WITH(foreign::read_svg(svg("<path d='M0 0 R 1 2'/>"), kChord), Contains("command"));
  CHECK_THROWS_WITH(
      foreign::read_svg(svg("<g transform='scale(9e8)'><g transform='scale(9e8)'><rect width='3' height='4'/></g></g>"),
                        kChord),
      Contains("far away"));
  std::string deep;
  for (int i = 0; i < 5000; ++i)
    deep += "<g>";
  CHECK_THROWS_WITH(foreign::read_svg("<svg>" + deep, kChord), !Contains("segment"));
}

TEST_CASE("pieces in any order and direction, with gaps that drawing leaves, close to the loop they were cut from") {
  for (unsigned seed = 1; seed <= test::share(200); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    // A star-shaped polygon, cut into chains of one to four lines.
    const int n = draw.whole(5, 60);
    std::vector<Vec2> corners;
    corners.reserve(static_cast<std::size_t>(n));
    double twice = 0;
    for (int i = 0; i < n; ++i)
      corners.push_back(from_polar(draw.between(8, 20), 2 * kPi * i / n));
    for (int i = 0; i < n; ++i) {
      const Vec2 &a = corners[static_cast<std::size_t>(i)], &b = corners[static_cast<std::size_t>((i + 1) % n)];
      twice += a.x() * b.y() - a.y() * b.x();
    }
    const bool torn = draw.whole(0, 3) == 0;
    std::vector<std::string> pieces;
    for (int i = 0; i < n;) {
      const int lines = std::min(draw.whole(1, 4), n - i);
      std::vector<Vec2> chain;
      for (int k = 0; k <= lines; ++k)
        chain.push_back(corners[static_cast<std::size_t>((i + k) % n)]);
      chain.front() += from_polar(torn && i == 0 ? 0.3 : 2e-4, draw.between(0, 6));
      if (draw.whole(0, 1) == 1) std::reverse(chain.begin(), chain.end());
      std::string piece = "0\nLWPOLYLINE\n70\n0\n";
      for (const Vec2& p : chain)
        piece += fmt::format("10\n{:.17g}\n20\n{:.17g}\n", p.x(), p.y());
      pieces.push_back(piece);
      i += lines;
    }
    for (std::size_t i = pieces.size(); i > 1; --i)
      std::swap(pieces[i - 1], pieces[static_cast<std::size_t>(draw.whole(0, static_cast<int>(i) - 1))]);
    std::string all;
    for (const std::string& piece : pieces)
      all += piece;
    const foreign::Drawing d = foreign::read_dxf(dxf(all), kChord);
    if (torn) {
      CHECK(d.loops.empty());
      CHECK(d.open >= 1);
      continue;
    }
    CHECK(area(d) == Approx(twice / 2).epsilon(1e-3));
    CHECK(d.open == 0);
    CHECK(d.loops[0].strokes[0] == static_cast<std::size_t>(n));
  }
}

TEST_CASE("random splines lie where the basis functions of Cox and de Boor put them") {
  for (unsigned seed = 1; seed <= test::share(100); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const int degree = draw.whole(1, 5), poles = degree + draw.whole(1, 8);
    std::vector<double> knots, weights;
    std::vector<Vec2> at;
    for (int i = 0; i <= degree; ++i)
      knots.push_back(0);
    for (int i = degree + 1; i < poles; ++i)
      knots.push_back(knots.back() + draw.between(0.1, 1));
    const double end = knots.back() + 1;
    for (int i = 0; i <= degree; ++i)
      knots.push_back(end);
    std::string entity = fmt::format("0\nSPLINE\n71\n{}\n", degree);
    for (const double k : knots)
      entity += fmt::format("40\n{:.17g}\n", k);
    for (int i = 0; i < poles; ++i) {
      at.push_back(from_polar(draw.between(5, 10), 3 * i / static_cast<double>(poles)));
      weights.push_back(draw.between(0.5, 2));
      entity += fmt::format("41\n{:.17g}\n10\n{:.17g}\n20\n{:.17g}\n", weights.back(), at.back().x(), at.back().y());
    }
    // Closed through the origin, so that it is a loop.
    const foreign::Drawing d = foreign::read_dxf(
        dxf(entity + line(at.back().x(), at.back().y(), 0, 0) + line(0, 0, at.front().x(), at.front().y())), kChord);
    const std::function<double(int, int, double)> basis = [&](int i, int p, double t) -> double {
      const auto k = [&](int j) { return knots[static_cast<std::size_t>(j)]; };
      if (p == 0) return t >= k(i) && t < k(i + 1) ? 1 : 0;
      const double left = k(i + p) > k(i) ? (t - k(i)) / (k(i + p) - k(i)) * basis(i, p - 1, t) : 0;
      const double right =
          k(i + p + 1) > k(i + 1) ? (k(i + p + 1) - t) / (k(i + p + 1) - k(i + 1)) * basis(i + 1, p - 1, t) : 0;
      return left + right;
    };
    double twice = 0;
    Vec2 before = at.front();
    constexpr int kSteps = 4000;
    for (int s = 1; s <= kSteps; ++s) {
      Vec2 p = at.back();
      if (s < kSteps) {
        double sum = 0;
        p = Vec2::Zero();
        for (int i = 0; i < poles; ++i) {
          const double w = weights[static_cast<std::size_t>(i)] * basis(i, degree, end * s / kSteps);
          sum += w, p += w * at[static_cast<std::size_t>(i)];
        }
        p /= sum;
      }
      twice += before.x() * p.y() - before.y() * p.x();
      before = p;
    }
    CHECK(area(d) == Approx(twice / 2).epsilon(2e-5));
  }
}

TEST_CASE("a mesh is cut where it shows teeth, whichever way it lies") {
  gear::CylindricalSpec s;
  s.teeth = 15, s.module = 1, s.face_width = 6;
  const gear::CylindricalGear gear(s);
  std::vector<Vec2> points;
  for (int copy = 0; copy < s.teeth; ++copy) {
    for (std::size_t i = 0; i < gear.outline().period.size(); ++i) {
      const curve::Segment seg = gear.outline().segment(copy, i);
      for (int k = 0; k < 6; ++k)
        points.push_back(seg.point(seg.from + (seg.to - seg.from) * k / 6));
    }
  }
  for (int axis = 0; axis < 3; ++axis) {
    CAPTURE(axis);
    std::string stl = "solid of others\n";
    const auto corner = [&](const Vec2& p, double z) {
      double v[3];
      v[(axis + 1) % 3] = p.x(), v[(axis + 2) % 3] = p.y(), v[axis] = z;
      stl += fmt::format("vertex {} {} {}\n", v[0], v[1], v[2]);
    };
    const auto triangle = [&](const Vec2& a, double za, const Vec2& b, double zb, const Vec2& c, double zc) {
      stl += "facet normal 0 0 0\nouter loop\n";
      corner(a, za), corner(b, zb), corner(c, zc);
      stl += "endloop\nendfacet\n";
    };
    for (std::size_t i = 0; i < points.size(); ++i) {
      const Vec2 &a = points[i], &b = points[(i + 1) % points.size()];
      triangle(a, 0, b, 0, b, 6), triangle(a, 0, b, 6, a, 6);
      triangle({0, 0}, 6, a, 6, b, 6), triangle({0, 0}, 0, b, 0, a, 0);
    }
    const auto found = foreign::find_teeth(foreign::read(stl + "endsolid\n", "stl"));
    REQUIRE(found);
    CHECK(found->teeth == 15);
    CHECK(found->outer_radius == Approx(gear.sizes().tip_diameter / 2).epsilon(1e-4));
  }
  CHECK_THROWS_WITH(foreign::read("no mesh", "stl"), Contains("STL"));
}

TEST_CASE("any bytes at all, read as an outline of others, are taken or refused, and nothing worse") {
  const std::string as_svg =
      svg("<g transform='rotate(10)'><path d='M5 0A5 5 0 0 0 -5,0C1 2 3 4 5 6Q1 2 3 4Z'/><circle r='3'/></g>");
  const std::string as_dxf =
      dxf("0\nSPLINE\n71\n2\n40\n0\n40\n0\n40\n0\n40\n1\n40\n1\n40\n1\n10\n0\n20\n0\n10\n5\n20\n9\n"
          "10\n9\n20\n0\n0\nELLIPSE\n10\n0\n20\n0\n11\n5\n21\n0\n40\n1\n" +
          line(9, 0, 0, 0));
  int taken = 0;
  for (unsigned seed = 1; seed <= test::share(3000); ++seed) {
    test::Draw draw(seed);
    const bool vector = draw.whole(0, 1) == 0;
    std::string bytes = vector ? as_svg : as_dxf;
    for (int i = draw.whole(1, 5); i > 0 && !bytes.empty(); --i) {
      const auto at = static_cast<std::size_t>(draw.whole(0, static_cast<int>(bytes.size()) - 1));
      switch (draw.whole(0, 3)) {
        case 0: bytes[at] = static_cast<char>(draw.whole(0, 255)); break;
        case 1: bytes.erase(at, static_cast<std::size_t>(draw.whole(1, 9))); break;
        case 2: bytes.insert(at, bytes.substr(at / 2, static_cast<std::size_t>(draw.whole(1, 30)))); break;
        default: bytes.insert(at, draw.of({"nan", "1e9", "-", "\n", "1e308", "0\n", "<g>", "71\n30\n"}));
      }
    }
    try {
      const foreign::Drawing d = vector ? foreign::read_svg(bytes, 1e-3) : foreign::read_dxf(bytes, 1e-3);
      for (const foreign::Loop& loop : d.loops) {
        for (const Vec2& p : loop.points)
          REQUIRE(p.allFinite());
      }
      foreign::find_teeth(d);
      ++taken;
    } catch (const FileError&) {
      continue;
    }
  }
  CHECK(taken > 0.2 * test::share(3000));
}
