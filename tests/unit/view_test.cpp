#include <cairo.h>

#include <catch2/catch.hpp>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "page_data.hpp"
#include "palio/error.hpp"
#include "palio/pair/line_of_action.hpp"
#include "palio/view/draw.hpp"
#include "palio/view/page.hpp"
#include "palio/write/file.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Json = nlohmann::json;

namespace {

job::Design two_gears(const std::string& more = "") {
  return job::resolve(job::starter("spur", job::Units::mm) + more, "start");
}

/// Share of the pixels of a PNG near a colour.
double share(const std::string& png, int red, int green, int blue) {
  struct Source {
    const std::string* bytes;
    std::size_t at;
  } source{&png, 0};
  const auto read = [](void* closure, unsigned char* data, unsigned int length) {
    auto* s = static_cast<Source*>(closure);
    if (s->at + length > s->bytes->size()) return CAIRO_STATUS_READ_ERROR;
    std::copy_n(s->bytes->data() + s->at, length, reinterpret_cast<char*>(data));
    s->at += length;
    return CAIRO_STATUS_SUCCESS;
  };
  cairo_surface_t* surface = cairo_image_surface_create_from_png_stream(read, &source);
  REQUIRE(cairo_surface_status(surface) == CAIRO_STATUS_SUCCESS);
  const int width = cairo_image_surface_get_width(surface), height = cairo_image_surface_get_height(surface),
            stride = cairo_image_surface_get_stride(surface);
  const unsigned char* data = cairo_image_surface_get_data(surface);
  int near = 0;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const unsigned char* p = data + static_cast<std::ptrdiff_t>(y) * stride + static_cast<std::ptrdiff_t>(4) * x;
      near += std::abs(p[2] - red) + std::abs(p[1] - green) + std::abs(p[0] - blue) < 24;
    }
  }
  cairo_surface_destroy(surface);
  return static_cast<double>(near) / (width * height);
}

}  // namespace

TEST_CASE("pictures show both gears in their colours on paper, and their words") {
  const job::Design d = two_gears();
  const std::string pair = view::draw_pair(d, d.pairs[0], "png"), close = view::draw_contact(d, d.pairs[0], "png");
  for (const std::string* png : {&pair, &close}) {
    CHECK(share(*png, 251, 250, 246) > 0.05);  // paper
    CHECK(share(*png, 238, 222, 190) > 0.02);  // the driver's ochre
    CHECK(share(*png, 218, 217, 232) > 0.1);   // the driven's violet
  }
  // A gear's filled area is its exact area at the picture's scale.
  const std::string one = view::draw_gear(d, d.gears[0], "png", {1280, 800});
  const double scale = 690 / d.gears[0].teeth.gear().sizes().tip_diameter;
  const double area = curve::signed_area(d.gears[0].teeth.outline()) - kPi * 2.25 * 2.25;
  CHECK_THAT(share(one, 238, 222, 190) * 1280 * 800 / (scale * scale),
             WithinAbs(area, 0.05 * area));  // outlines and circles take the rest
  const std::string svg = view::draw_contact(d, d.pairs[0], "svg");
  CHECK_THAT(svg, Contains("<svg"));
  CHECK_THAT(view::draw_pair(d, d.pairs[0], "pdf").substr(0, 8), Contains("%PDF-1."));
  CHECK_THROWS_AS(view::draw_pair(d, d.pairs[0], "bmp"), InvalidParameter);
}

TEST_CASE("pictures are drawn whatever the direction, and for pairs out of reach") {
  for (const char* more : {"direction = 90\n", "direction = 200\n", "mounted_center_distance = 49.5\n",
                           "mounted_center_distance = 45.3\n"}) {
    const job::Design d = two_gears(more);
    CHECK(share(view::draw_pair(d, d.pairs[0], "png"), 218, 217, 232) > 0.05);
    CHECK(share(view::draw_contact(d, d.pairs[0], "png"), 238, 222, 190) > 0.02);
  }
}

TEST_CASE("the line of action touches both base circles and passes through the pitch point") {
  for (const char* more : {"", "direction = 130\n"}) {
    const job::Design d = two_gears(more);
    const job::Gear &g1 = d.gears[0], &g2 = d.gears[1];
    for (const bool upper : {true, false}) {
      const auto ends = pair::line_of_action(d.pairs[0], upper);
      const Vec2 along = (ends[1] - ends[0]).normalized();
      CHECK_THAT((ends[0] - g1.axis).norm(), WithinAbs(g1.teeth.gear().sizes().base_diameter / 2, 1e-12));
      CHECK_THAT(along.dot(ends[0] - g1.axis), WithinAbs(0, 1e-12));
      CHECK_THAT(along.dot(ends[1] - g2.axis), WithinAbs(0, 1e-12));
      const Vec2 pitch_point = g1.axis + from_polar(d.pairs[0].parallel()->working_pitch_diameters()[0] / 2,
                                                    d.pairs[0].direction().radians());
      CHECK_THAT(cross(along, pitch_point - ends[0]), WithinAbs(0, 1e-12));
      // And that is where the roll finds the contacts of this limit.
      const auto rolled = job::rolled(d.pairs[0], 8);
      const auto& touching = upper ? rolled.positions[1].touching_upper : rolled.positions[1].touching_lower;
      REQUIRE_FALSE(touching.empty());
      CHECK_THAT(cross(along, touching[0].point - ends[0]), WithinAbs(0, 1e-9));
    }
  }
}

TEST_CASE("the page holds the roll's own numbers, and nothing in a job can break out of them") {
  job::Design d = two_gears();
  d.title = "</script><b>vent & \"roof\"";
  const job::Pair& p = d.pairs[0];
  const job::RolledPair rolled{&p, job::rolled(p, 24)};
  const std::string page = view::roll_page(d, rolled);
  const Json data = test::data_of(page);
  CHECK(data["title"] == d.title);
  CHECK_THAT(page, Contains("&lt;/script>&lt;b>vent") || Contains("&lt;/script&gt;&lt;b&gt;vent &amp; "));
  REQUIRE(data["positions"].size() == 24);
  for (std::size_t i = 0; i < 24; ++i) {
    const roll::Position& at = rolled.result.positions[i];
    const double nominal = d.gears[1].phase - 17.0 / 43 * (at.driver - d.gears[0].phase);
    CHECK_THAT(data["positions"][i]["u"].get<double>(), WithinAbs(at.upper->driven - nominal, 1e-15));
    CHECK(data["positions"][i]["n"] == at.touching_upper.size());
  }
  CHECK_THAT(data["arm"].get<double>(), WithinAbs(d.gears[1].teeth.gear().sizes().base_diameter / 2, 1e-12));
}

TEST_CASE("files appear whole, and numbers as the shortest text that reads back") {
  const auto folder = std::filesystem::temp_directory_path() / "palio-file-test";
  std::filesystem::create_directories(folder);
  const std::string path = (folder / "a.txt").string();
  write::write_file(path, "one");
  write::write_file(path, "two");
  CHECK(write::read_file(path) == "two");
  CHECK(std::distance(std::filesystem::directory_iterator(folder), {}) == 1);
  CHECK_THROWS_WITH(write::write_file((folder / "no/such.txt").string(), "x"),
                    Contains("no/such.txt") && Contains("cannot write"));
  CHECK_THROWS_WITH(write::read_file((folder / "missing").string()), Contains("cannot read"));
  CHECK_THROWS_WITH(write::read_file(folder.string()), Contains("is a folder"));
  std::filesystem::remove_all(folder);
  CHECK(write::digits(0.1) == "0.1");
  CHECK(write::digits(-0.0) == "0");
  CHECK(std::stod(write::digits(1.0 / 3)) == 1.0 / 3);
}
