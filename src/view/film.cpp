#include "palio/view/film.hpp"

#include <cmath>
#include <memory>

#include <fmt/format.h>

#include "canvas.hpp"
#include "palio/pair/line_of_action.hpp"
#include "scene.hpp"
#include "tool_shape.hpp"

namespace palio::view {

int FilmWay::at(int i) const {
  const int from_start = static_cast<int>(std::lround(pitches * positions * i / pictures));
  const int whole =
      static_cast<int>(std::ceil(pitches)) * positions;  // back from a whole number of pitches: the same teeth
  return sense < 0 ? whole - from_start : from_start;
}

Film pair_film(const job::Design& design, const job::Pair& pair, const FilmWay& film, PictureSize size) {
  const int per_pitch = film.positions;
  const auto rolled = std::make_shared<roll::Result>(pair::roll_section(pair, per_pitch));
  const auto [first, second] = pair.members();
  const double pitch = design.gears[pair.driver].teeth.is_rack() ? design.gears[pair.driver].teeth.rack().pitch()
                                                                 : 2 * kPi / design.gears[pair.driver].teeth.count();
  const double start = first.start, nominal = second.start, ratio = pair.law().ratio;
  // Turning back, the driver pushes on the other flank.
  const bool upper = (ratio < 0) == (film.sense > 0);
  const auto paths = pair::contact_paths(pair, upper);
  return {film.pictures, [=, &design, &pair](int i) {
            const int at = film.at(i), in_pitch = at % per_pitch;
            const roll::Position& p = rolled->positions[static_cast<std::size_t>(in_pitch)];
            const std::optional<roll::Contact>& limit = upper ? p.upper : p.lower;
            const double driver = start + pitch * at / per_pitch, law = nominal + ratio * pitch * at / per_pitch;
            const double driven = limit ? law + limit->driven - (nominal + ratio * pitch * in_pitch / per_pitch) : law;
            Canvas canvas("frame", size, "");
            look_at_pair(canvas, design, pair);
            paint_pair(canvas, design, pair, driver, driven, paths, upper ? p.touching_upper : p.touching_lower, 1.6);
            canvas.text({20, 24}, (design.title.empty() ? "" : design.title + "  ·  ") + pair.name, kInk, 1, 15, true);
            return canvas.pixels();
          }};
}

std::string png_of(const std::vector<std::uint8_t>& pixels, PictureSize size) {
  Canvas canvas("png", size, "");
  canvas.put_pixels(pixels);
  return canvas.finish();
}

Film tool_film(const job::Design& design, const job::Gear& g, int pictures, PictureSize size) {
  const auto tool = std::make_shared<CuttingTool>(cutting_tool(g.teeth));
  return {pictures, [=, &design, &g](int i) {
            const auto& s = g.teeth.gear().sizes();
            const double m = g.teeth.module(), middle = (s.root_diameter + s.tip_diameter) / 4;
            Canvas canvas("frame", size, "");
            const double scale = std::min(size.width / (9 * m), size.height / (5.2 * m));
            const auto upright = [](const Vec2& p) { return quarter_turn(p); };  // the space that is cut points up
            canvas.look_at(upright({middle, 0}), scale, {0.5 * size.width, 0.5 * size.height});
            const int last = pictures - 1 - pictures / 6;  // the finished tooth stands for a while
            std::vector<std::vector<Vec2>> cuts;
            const int now = std::min(i, last);
            for (int k = 0; k <= now; ++k) {
              cuts.push_back(tool_at(*tool, tool->reach * (2.0 * k / last - 1)));
              for (Vec2& p : cuts.back())
                p = upright(p);
            }
            canvas.cut_blank(s.tip_diameter / 2, g.teeth.internal() ? s.outer_diameter / 2 : 0, cuts, kDriverFill,
                             kDriver);
            canvas.polygon(cuts.back(), {kDrivenFill.r, kDrivenFill.g, kDrivenFill.b, 0.4}, kDriven, 1.6);
            canvas.circle(Vec2::Zero(), s.base_diameter / 2, kGrey, 1, {6, 4});
            canvas.circle(Vec2::Zero(), s.root_form_diameter / 2, kInk, 1, {1, 3});
            const double turn = kPi / 2 + (g.teeth.internal() ? 0 : kPi / g.teeth.count());
            canvas.outline(g.teeth.outline(), Vec2::Zero(), turn, {0, 0, 0, 0}, kBlack, 1.5);
            canvas.text({20, 24},
                        fmt::format("{}  ·  {}, {} teeth, the tool at work", design.title, g.name, g.teeth.count()),
                        kInk, 1, 15, true);
            canvas.text({20, size.height - 20.0},
                        "black: the exact tooth; violet: the tool; dashes: base circle; dots: where the involute ends",
                        kInk, 1, 12);
            return canvas.pixels();
          }};
}

}  // namespace palio::view
