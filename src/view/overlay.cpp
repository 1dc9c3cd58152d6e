// One tooth of two gears laid over each other.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "canvas.hpp"
#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/draw.hpp"

namespace palio::view {
namespace {

/// Of an outline that begins with the middle of a tooth on +x: how far out and in its teeth reach.
std::pair<double, double> reach_of(const gear::Teeth& teeth) {
  const double tip = teeth.tip_diameter() / 2, root = teeth.root_diameter() / 2;
  return std::minmax(tip, root);
}

void legend(Canvas& canvas, double y, const std::string& name, const Color& fill, const Color& line) {
  canvas.page_box({24, y - 8}, {22, 14}, fill);
  canvas.page_line({24, y + 6}, {46, y + 6}, line, 2);
  canvas.text({56, y}, name, kInk, 1);
}

/// What is told of both beside the teeth, where it differs.
std::vector<std::array<std::string, 3>> sizes_of(const job::Design& a, const job::Gear& ga, const job::Design& b,
                                                 const job::Gear& gb) {
  std::vector<std::array<std::string, 3>> rows;
  for (const auto& [key, word] : {std::pair{"teeth", "teeth"},
                                  {"normal_module", "module"},
                                  {"normal_pressure_angle_deg", "pressure angle"},
                                  {"profile_shift", "profile shift (modules)"},
                                  {"tip_diameter", "tip circle"},
                                  {"root_diameter", "root circle"},
                                  {"root_form_diameter", "root form"},
                                  {"normal_tooth_thickness", "tooth thickness"},
                                  {"tip_thickness", "tip thickness"}}) {
    const std::string x = job::report_value(a, "gear." + ga.name, key),
                      y = job::report_value(b, "gear." + gb.name, key);
    if (x != y) rows.push_back({word, x, y});
  }
  return rows;
}

}  // namespace

std::string draw_overlay(const job::Design& a, const job::Gear& ga, const std::string& name_a, const job::Design& b,
                         const job::Gear& gb, const std::string& name_b, const std::string& format, PictureSize size) {
  for (const job::Gear* g : {&ga, &gb}) {
    if (!g->teeth.is_one_loop())
      throw InvalidParameter("of", "\"" + g->name + "\"", "teeth of plane gears are laid over each other",
                             "name a cylindrical or cycloidal gear, or leave the picture out");
  }
  Canvas canvas(format, size, a.title);
  const auto [low_a, high_a] = reach_of(ga.teeth);
  const auto [low_b, high_b] = reach_of(gb.teeth);
  const double low = std::min(low_a, low_b), high = std::max(high_a, high_b);
  const double pitch = std::max(kPi * ga.teeth.module(), kPi * gb.teeth.module());
  // Two teeth and what is beside them, upright.
  const double scale = std::min((size.height - 130) / (1.25 * (high - low)), (0.6 * size.width) / (1.9 * pitch));
  canvas.look_at({0, (low + high) / 2}, scale, {0.34 * size.width, 0.5 * size.height + 20});
  canvas.outline(ga.teeth.outline(), Vec2::Zero(), kPi / 2, kDriverFill, kDriver, 1.8);
  canvas.outline(gb.teeth.outline(), Vec2::Zero(), kPi / 2, {0, 0, 0, 0}, kDriven, 1.8);
  // What lies beyond the picture's part is covered.
  canvas.page_box({0.68 * size.width, 0}, {0.32 * size.width, 1.0 * size.height}, kPaper);
  canvas.page_box({0, 0}, {1.0 * size.width, 92}, kPaper);
  canvas.text({24, 26}, ga.name + ", a tooth's middle on the line upright", kInk, 1, 16, true);
  legend(canvas, 52, "A  " + name_a, kDriverFill, kDriver);
  legend(canvas, 76, "B  " + name_b, kPaper, kDriven);
  double y = 130;
  const double x = 0.7 * size.width;
  for (const auto& [word, of_a, of_b] : sizes_of(a, ga, b, gb)) {
    canvas.text({x, y}, word, kInk, 1, 13, true);
    canvas.text({x, y + 19}, of_a, kDriver, 1);
    canvas.text({x, y + 37}, of_b, kDriven, 1);
    y += 66;
  }
  return canvas.finish();
}

}  // namespace palio::view
