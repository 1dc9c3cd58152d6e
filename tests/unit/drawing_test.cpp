// What is drawn: sheets, pictures, pages and pictures in space of every kind, in both units.
#include <catch2/catch.hpp>
#include <map>
#include <nlohmann/json.hpp>

#include "page_data.hpp"
#include "palio/error.hpp"
#include "palio/view/draw.hpp"
#include "palio/view/film.hpp"
#include "palio/view/page.hpp"
#include "palio/view/placement.hpp"
#include "palio/view/sheet.hpp"
#include "palio/view/space_scene.hpp"
#include "random_job.hpp"
#include "view/page_parts.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::StartsWith;
using Catch::Matchers::WithinAbs;
using Json = nlohmann::json;
using test::data_of;

namespace {

const char* const kStarters[] = {"spur",    "helical", "double_helical", "internal", "rack",
                                 "crossed", "bevel",   "cycloidal",      "clock",    "lantern"};

/// Every place of a word.
int count(const std::string& text, const std::string& word) {
  int n = 0;
  for (auto at = text.find(word); at != std::string::npos; at = text.find(word, at + 1))
    ++n;
  return n;
}

}  // namespace

TEST_CASE("a template is filled in one pass: what is put in is not looked at again") {
  CHECK(view::filled("a %X% b %Y% c", {{"X", "%Y%"}, {"Y", "1"}}) == "a %Y% b 1 c");
  CHECK(view::filled("100 % of %X%%X%", {{"X", "x"}}) == "100 % of xx");
  CHECK(view::filled("%", {{"X", "x"}}) == "%");
  CHECK(view::filled("%NO%X%", {{"X", "x"}}) == "%NOx");
  CHECK(view::filled("", {}).empty());
  const view::Json data{{"a", "</script><!--<script>"}};
  const std::string text = view::json_in_script(data);
  CHECK(text.find('<') == std::string::npos);
  CHECK(Json::parse(text)["a"] == "</script><!--<script>");
}

TEST_CASE("sheets of every gear, on every paper, in both units, are whole, and a picture of them is not empty") {
  for (const char* kind : kStarters) {
    for (const job::Units units : {job::Units::mm, job::Units::inch}) {
      const job::Design design = job::resolve(job::starter(kind, units), "s");
      for (const job::Gear& g : design.gears) {
        for (const char* paper : {"A4", "A3", "letter"}) {
          CAPTURE(kind, g.name, paper);
          view::SheetOptions options;
          options.paper = paper;
          const std::string pdf = view::draw_sheet(design, g, options, "pdf");
          CHECK_THAT(pdf.substr(0, 8), StartsWith("%PDF-1."));
          CHECK(count(pdf, "%%EOF") == 1);
        }
      }
      const std::string png = view::draw_sheet(design, design.gears[0], {}, "png");
      CHECK(png.size() > 20000);
      const std::vector<view::Part> parts = view::parts(design);
      for (const view::SheetOf& s : view::all_sheets(design, parts)) {
        CAPTURE(kind, view::name(s));
        if (!s.gear) CHECK(view::draw_sheets(design, {s}, {}, "png").size() > 15000);
      }
    }
  }
}

TEST_CASE("pictures of every gear and pair are drawn in every format, the same bytes again") {
  for (const char* kind : kStarters) {
    const job::Design design = job::resolve(job::starter(kind, job::Units::mm), "s");
    CAPTURE(kind);
    for (const job::Gear& g : design.gears) {
      for (const char* format : {"svg", "png"}) {
        const std::string one = view::draw_gear(design, g, format), two = view::draw_gear(design, g, format);
        if (std::string(format) == "png") CHECK((one == two));  // in an SVG the drawing library counts its own names on
        CHECK(one.size() > 2000);
      }
    }
    for (const job::Pair& p : design.pairs) {
      if (p.crossed()) continue;
      if (p.bevel()) {
        CHECK(view::draw_bevel_section(design, p, "svg").size() > 2000);
        CHECK(view::draw_developed(design, p, "svg").size() > 2000);
        continue;
      }
      CHECK(view::draw_pair(design, p, "svg").size() > 2000);
      CHECK(view::draw_contact(design, p, "svg").size() > 2000);
    }
  }
  CHECK_THROWS_WITH(view::draw_gear(job::resolve(job::starter("spur", job::Units::mm), "s"),
                                    job::resolve(job::starter("spur", job::Units::mm), "s").gears[0], "bmp"),
                    Contains("png, svg or pdf"));
}

TEST_CASE("pages of every kind of pair hold the roll's own numbers, whatever the texts of the job") {
  for (const char* kind : kStarters) {
    job::Design design = job::resolve(job::starter(kind, job::Units::mm), "s");
    design.title = "%DATA%<img src=x onerror=alert(1)></script><!--<script> %TITLE% & \"q\" 'p'";
    const job::Pair& p = design.pairs[0];
    const job::RolledPair rolled{&p, job::rolled(p, 24)};
    const std::string page = view::roll_page(design, rolled);
    CAPTURE(kind);
    const Json data = data_of(page);
    CHECK(data["title"] == design.title);
    CHECK(data["verdict"] == "meshes");
    REQUIRE(data["positions"].size() >= 24);
    // None of the title's marks stands in the page as mark-up.
    CHECK(page.find("<img src=x") == std::string::npos);
    CHECK(count(page, "<!--") == 0);
    CHECK(count(page, "</script>") == count(page, "<script"));
    const auto heading = page.find("<h1>");
    CHECK(page.substr(heading, 200).find("&lt;img src=x") != std::string::npos);
    const double ratio = std::string(kind) == "bevel" || p.crossed() ? p.law().ratio : data["ratio"].get<double>();
    CHECK_THAT(ratio, WithinAbs(p.law().ratio, 1e-15));
    for (std::size_t i = 0; i < 24; i += 7) {
      const Json& row = data["positions"][i];
      const roll::Position& at = rolled.result.positions[i];
      CHECK(row["n"] == (rolled.result.drives_upper ? at.pairs_upper : at.pairs_lower));
    }
  }
  job::Design design = job::resolve(job::starter("reducer", job::Units::mm), "s");
  design.title = "</script>%DATA%";
  const job::Reducer& r = design.reducers[0];
  const std::string page = view::reducer_page(design, {&r, job::rolled(r, 24)});
  CHECK(data_of(page)["title"] == design.title);
  CHECK(count(page, "</script>") == count(page, "<script"));
}

TEST_CASE("a film goes its way in its frames: as many, as far, and back again") {
  view::FilmWay way;
  way.pictures = 90, way.pitches = 3, way.positions = 30;
  for (int i = 0; i < 90; ++i)
    CHECK(way.at(i) == i);
  way.sense = -1;
  CHECK(way.at(0) == 90);
  CHECK(way.at(90) == 0);
  way.sense = 1, way.pictures = 30, way.pitches = 8.5, way.positions = 240;
  CHECK(way.at(30) == std::lround(8.5 * 240));
  for (int i = 1; i <= 30; ++i)
    CHECK(std::abs((way.at(i) - way.at(i - 1)) - 8.5 * 240 / 30) <= 1);
  const job::Design design = job::resolve(job::starter("spur", job::Units::mm), "s");
  const view::Film film = view::pair_film(design, design.pairs[0], way, {320, 200});
  CHECK(film.count == 30);
  const auto first = film.picture(0), later = film.picture(7);
  CHECK(first.size() == std::size_t{320} * 200 * 4);
  CHECK(first != later);
  // A whole number of pitches ends where it began, as far as the teeth go.
  way.pitches = 17, way.pictures = 17 * 4;
  const view::Film round = view::pair_film(design, design.pairs[0], way, {320, 200});
  CHECK(round.picture(0) != round.picture(2));
}

TEST_CASE("pictures in space are looked at from where everything is seen, and hold every part's triangles") {
  for (const char* kind : {"spur", "bevel", "crossed", "reducer", "greenhouse", "planetary", "train", "clock_train"}) {
    const job::Design design = job::resolve(job::starter(kind, job::Units::mm), "s");
    const std::vector<view::Part> parts = view::parts(design);
    CAPTURE(kind);
    for (const char* view_name : {"iso", "front", "section"}) {
      const view::SpaceScene scene = view::parts_in_space(parts, view_name, {640, 400}, true);
      CHECK(scene.size.width == 640);
      std::size_t triangles = 0;
      for (const view::SpacePart& part : scene.parts) {
        triangles += part.triangles.size();
        for (const Vec3& v : part.vertices)
          REQUIRE(v.allFinite());
      }
      CHECK(triangles > 500);
      CHECK(scene.parts.size() >= parts.size());
      CHECK((scene.eye - scene.target).norm() > 1);
      CHECK(scene.cut.has_value() == (std::string(view_name) == "section"));
    }
  }
}

TEST_CASE("parts of random jobs stand where their gears stand, and their files' placements are rotations") {
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 1; seed <= 6; ++seed) {
      job::Design design;
      try {
        design = job::resolve(test::random_job(kind, seed), "v");
      } catch (const job::JobError&) {
        continue;
      }
      CAPTURE(kind, seed);
      std::map<std::string, int> names;
      for (const view::Part& p : view::parts(design)) {
        ++names[p.name];
        const Eigen::Matrix3d& axes = p.placement.axes;
        CHECK((axes.transpose() * axes - Eigen::Matrix3d::Identity()).norm() < 1e-12);
        CHECK_THAT(axes.determinant(), WithinAbs(1, 1e-12));
        CHECK(p.placement.at.allFinite());
        CHECK(std::isfinite(p.placement.turn));
      }
      for (const job::Gear& g : design.gears)
        CHECK(names[g.name] == 1);
      // The mates' axes are as far apart as the pair says.
      for (const job::Pair& p : design.pairs) {
        if (!p.plane() || design.gears[p.driver].teeth.is_rack() || design.gears[p.driven].teeth.is_rack()) continue;
        CHECK_THAT((design.gears[p.driven].axis - design.gears[p.driver].axis).norm(),
                   WithinAbs(p.mounted_center_distance(), 1e-9));
      }
    }
  }
}
