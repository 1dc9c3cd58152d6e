// Windows, pockets and plates along outlines of one's own: what is missing is what was drawn, of every kind; what
// cannot be is refused by name.
#include <cmath>
#include <cstdio>
#include <fstream>
#include <random>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "palio/angle.hpp"
#include "palio/body/mesh.hpp"
#include "palio/design/design.hpp"
#include "palio/drawn/drawing.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "told.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;
using test::mistakes;

namespace {

double content(const job::Design& d) { return body::mass_properties(job::body(d.gears[0]).layers()).volume; }

/// Kinds with room for cut-outs about a radius of 12 mm, or (of ring and rack) beside x.
struct Sort {
  const char* kind;
  double x, y;  // where something a few mm wide finds room [mm]
  bool round = true;
};
const std::vector<Sort>& sorts() {
  static const std::vector<Sort> all{
      {"kind='spur'\nteeth=40\nmodule=1\n", 12, 0},
      {"kind='helical'\nteeth=40\nmodule=1\nhelix_angle=20\nhand='left'\n", 12, 0},
      {"kind='double_helical'\nteeth=40\nmodule=1\nhelix_angle=20\napex='clockwise'\n", 12, 0},
      {"kind='internal'\nteeth=40\nmodule=1\nouter_diameter=70\n", 28, 0},
      {"kind='cycloidal'\nform='clock'\nrole='wheel'\nmate_teeth=8\nteeth=40\nmodule=1\n", 12, 0},
      {"kind='rack'\nteeth=12\nmodule=1\nbase_height=12\n", 2, -7, false}};
  return all;
}

job::Design with(const Sort& sort, const std::string& cutouts, const std::string& more = "") {
  return job::resolve(fmt::format("[gear.a]\n{}face_width=6\n{}{}", sort.kind,
                                  cutouts.empty() ? "" : "cutouts=[" + cutouts + "]\n", more),
                      "t");
}

/// A file that goes with its scope.
struct Kept {
  std::string path;
  Kept(std::string name, const std::string& text) : path(std::move(name)) { std::ofstream(path) << text; }
  ~Kept() { (void)std::remove(path.c_str()); }
};

}  // namespace

TEST_CASE("What a window or pocket takes away is its area times its depth, of every kind; bodies stay closed") {
  std::mt19937 random(17);
  std::uniform_real_distribution<double> some(0.4, 1.4);
  for (const Sort& s : sorts()) {
    CAPTURE(s.kind);
    const double whole = content(with(s, ""));
    for (int i = 0; i < 3; ++i) {
      // A stadium: two lines and two half circles; its island a circle.
      const double half = some(random), r = some(random), deep = 1 + some(random), island = 0.4 * r;
      const std::string stadium = fmt::format("M{0} {1} H{2} A{3} {3} 0 0 1 {2} {4} H{0} A{3} {3} 0 0 1 {0} {1} Z",
                                              -half, -r, half, r, r),
                        circle =
                            fmt::format("M{0} 0 A{1} {1} 0 0 1 {2} 0 A{1} {1} 0 0 1 {0} 0", -island, island, island);
      const double area = 4 * half * r + kPi * r * r, stands = kPi * island * island;
      const int count = s.round ? 3 : 1;
      const std::string place = fmt::format("x={},y={}{}", s.x, s.y, s.round ? ",count=3,angle=20" : "");
      const job::Design through = with(s, fmt::format("{{path='{}',{}}}", stadium, place));
      CHECK_THAT(content(through), WithinRel(whole - count * area * 6, 1e-9));
      for (const char* face : {"top", "bottom"}) {
        const job::Design pocket =
            with(s, fmt::format("{{path='{} {}',{},depth={},face='{}'}}", stadium, circle, place, deep, face));
        CHECK_THAT(content(pocket), WithinRel(whole - count * (area - stands) * deep, 1e-9));
        const body::TriangleMesh mesh = body::mesh(job::body(pocket.gears[0]).layers(), 0.005);
        body::check(mesh);
        CHECK_THAT(body::volume(mesh), WithinRel(content(pocket), 2e-3));
      }
    }
  }
}

TEST_CASE("Where it was drawn, there it is: place, angle and number of a window") {
  const Sort& spur = sorts().front();
  // The centre of mass moves away from one window, and stays for several.
  const auto centre = [&](const std::string& place) {
    return body::mass_properties(job::body(with(spur, "{path='M-1 -1 H1 V1 H-1 Z'," + place + "}").gears[0]).layers())
        .center;
  };
  const double rest = content(with(spur, "")) - 24;
  for (const double angle : {0.0, 35.0, 200.0}) {
    const Vec3 c = centre(fmt::format("x=11,y=3,angle={}", angle));
    const Vec2 window = turned(Vec2(11, 3), angle * kPi / 180);
    CHECK_THAT(c.x(), WithinAbs(-24 / rest * window.x(), 1e-9));
    CHECK_THAT(c.y(), WithinAbs(-24 / rest * window.y(), 1e-9));
  }
  CHECK_THAT(centre("x=11,y=3,count=4").norm() - 3, WithinAbs(0, 1e-9));  // half the face width up
}

TEST_CASE("Windows grow as walls do: by kerf and shrinkage, the first layer drawn in") {
  const Sort& spur = sorts().front();
  const auto missing = [&](const std::string& process) {
    const job::Design d = with(spur, "{path='M10 -2 H14 V2 H10 Z'}", process), plain = with(spur, "", process);
    return content(job::as(plain, job::As::drawn)) - content(job::as(d, job::As::drawn));
  };
  CHECK_THAT(missing(""), WithinRel(16.0 * 6, 1e-9));
  // The beam takes half its width of either side: the window is drawn smaller.
  CHECK_THAT(missing("[process]\nkerf=0.2\n"), WithinRel(3.8 * 3.8 * 6, 1e-9));
  CHECK_THAT(missing("[process]\nshrinkage=0.02\n"), WithinRel(16 * 6 / std::pow(0.98, 3), 1e-9));
  CHECK_THAT(missing("[process]\nfirst_layer_inset={amount=0.1,up_to=0.5}\n"),
             WithinRel(16 * 5.5 + 4.2 * 4.2 * 0.5, 1e-9));
}

TEST_CASE(
    "A plate takes the outline that a drawing gives, with what is cut out within it; turned over it is the mirror") {
  const std::string gears =
      "[shared]\nkind='spur'\nmodule=1\nface_width=6\nbore.diameter=5\n[gear.a]\nteeth=17\n[gear.b]\nteeth=30\n"
      "[pair.p]\ndriver='a'\ndriven='b'\n[frame.plate]\nthickness=4\n";
  const auto plate = [&](const std::string& more) { return job::resolve(gears + more, "t"); };
  const std::string drawn =
      "outline={path='M-10 -10 H40 V20 H-10 Z M10 10 H14 V16 H10 Z'}\ncutouts=[{path='M30 10 H35 V12 H30 "
      "Z',depth=1.5}]\n";
  const double bores = 2 * kPi * 2.5 * 2.5;
  for (const char* side : {"below", "above"}) {
    const job::Design d = plate(drawn + fmt::format("side='{}'\n", side));
    const body::Body made = job::body(d.frames[0]);
    const body::MassProperties m = body::mass_properties(made);
    const double area = 50 * 30 - bores - 24, content = area * 4 - 10 * 1.5;
    CHECK_THAT(m.volume, WithinRel(content, 1e-9));
    // Of y: the rectangle's middle is at 5, the window's at 13, the pocket's at 11, the bores' at 0.
    const double moment = (50 * 30 * 5 - 24 * 13) * 4 - 10 * 1.5 * 11;
    CHECK_THAT(m.center.y(), WithinRel((std::string(side) == "above" ? -1 : 1) * moment / content, 1e-9));
  }
  // A drawing beside the job, in inches where it does not say so itself.
  const Kept dxf("cutout_test_plate.dxf",
                 "0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n90\n4\n70\n1\n10\n-1\n20\n-1\n10\n2\n20\n-"
                 "1\n10\n2\n20\n1\n10\n-1\n20\n1\n"
                 "0\nENDSEC\n0\nEOF\n");
  const job::Design inches = plate("outline={drawing='cutout_test_plate.dxf',unit='in'}\n");
  CHECK_THAT(body::mass_properties(job::body(inches.frames[0])).volume, WithinRel((6 * 25.4 * 25.4 - bores) * 4, 1e-9));
  CHECK_THAT(mistakes(gears + "outline={drawing='cutout_test_plate.dxf'}\n"), Contains("outline.unit is missing"));
  // An axis beside the outline, and one that its bore cuts.
  CHECK_THAT(mistakes(gears + "outline={path='M-10 -10 H10 V20 H-10 Z'}\n"), Contains("outline"));
  CHECK_THAT(mistakes(gears + "outline={path='M-10 -10 H24 V20 H-10 Z'}\n"), Contains("outline"));
  CHECK_THAT(mistakes(gears + "outline={path='M-10 -10 H40 V20 H-10 Z M50 0 H60 V5 Z'}\n"), Contains("one outline"));
}

TEST_CASE("What cannot be cut out is refused, with what is in its way") {
  const auto told = [](const std::string& cutouts) {
    return mistakes(
        "[gear.a]\nkind='spur'\nteeth=40\nmodule=1\nface_width=6\nbore.diameter=6\n"
        "hubs=[{diameter=12,length=4}]\ncutouts=[" +
        cutouts + "]\n");
  };
  CHECK(told("{path='M9 -2 H14 V2 H9 Z'}").empty());
  CHECK_THAT(told("{path='M9 -2 H19 V2 H9 Z'}"), Contains("teeth"));
  CHECK_THAT(told("{path='M4 -2 H14 V2 H4 Z'}"), Contains("hubs"));
  CHECK_THAT(told("{path='M2 -1 H5 V1 H2 Z'}"), Contains("bore"));
  CHECK_THAT(told("{path='M9 -2 H14 V2 H9 Z',count=20}"), Contains("cutouts"));
  CHECK_THAT(told("{path='M30 -2 H34 V2 H30 Z'}"), Contains("teeth"));
  CHECK_THAT(told("{path='M9 -2 L14 3 L14 -2 L9 2 Z'}"), Contains("crosses"));
  CHECK_THAT(told("{path='M9 -2 L14 2 L14 -2'}"), Contains("do not close"));
  CHECK_THAT(told("{path='M9 -2 H14 V2 H9 Z M10 -1 H11 V1 H10 Z'}"), Contains("fall out"));
  CHECK_THAT(told("{path='M9 -2 H14 V2 H9 Z',depth=6}"), Contains("less deep than the face width of 6 mm"));
  CHECK_THAT(told("{path='M9 -2 H14 V2 Q'}"), Contains("number"));
  CHECK_THAT(told("{path='M9 -2 H14 V2 H9 Z',unit='in'}"), Contains("teeth"));
  CHECK_THAT(told("{x=3}"), Contains("needs a drawing"));
  CHECK_THAT(told("{drawing='nowhere.dxf'}"), Contains("cannot be read"));
  CHECK_THAT(told("{drawing='leaf.png'}"), Contains(".dxf or a .svg"));
  CHECK_THAT(told("{drawing='leaf.dxf',path='M0 0'}"), Contains("drop one"));
}

TEST_CASE("Splines and ellipses as arcs keep within what is said of them") {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> some(-1, 1);
  for (int i = 0; i < 40; ++i) {
    Vec2 a[4];
    for (Vec2& p : a)
      p = 20 * Vec2(some(random), some(random));
    const drawn::Drawing d = drawn::read_path(fmt::format("M{} {} C{} {} {} {} {} {} Z", a[0].x(), a[0].y(), a[1].x(),
                                                          a[1].y(), a[2].x(), a[2].y(), a[3].x(), a[3].y()),
                                              1e-3);
    if (d.loops.size() != 1 || d.loops[0].crosses_itself()) continue;
    const curve::Outline outline = d.loops[0].outline();
    for (int k = 1; k < 40; ++k) {
      const double t = k / 40.0, s = 1 - t;
      const Vec2 p = s * s * s * a[0] + 3 * s * s * t * a[1] + 3 * s * t * t * a[2] + t * t * t * a[3];
      double off = math::kInfinite;
      for (const curve::Segment& piece : outline.period) {
        for (int n = 0; n <= 4; ++n)
          off = std::min(off, (piece.point(piece.from + (piece.to - piece.from) * n / 4) - p).norm());
        const auto* arc = std::get_if<curve::Arc>(&piece.curve);
        if (!arc) continue;
        const Vec2 out = p - arc->centre;
        const double low = std::min(piece.from, piece.to), turn = std::abs(piece.to - piece.from);
        double at = std::atan2(out.y(), out.x()) - low;
        at -= 2 * kPi * std::floor(at / (2 * kPi));
        if (at <= turn) off = std::min(off, std::abs(out.norm() - arc->radius));
      }
      CHECK(off < 1.01 * drawn::kOffSpline);
    }
  }
}
