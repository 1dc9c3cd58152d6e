#include "sheet_pen.hpp"

#include <cmath>

#include "palio/math/tolerance.hpp"

namespace palio::view {

std::pair<double, std::string> usual_scale(double need, double room) {
  for (const double s : {50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01}) {
    if (need * s <= room || s == 0.01) return {s, s >= 1 ? fmt::format("{:g} : 1", s) : fmt::format("1 : {:g}", 1 / s)};
  }
  return {1, "1 : 1"};
}

namespace {

/// What of an end of a cut is an edge: where its neighbour across that height does not go on. From where to where.
std::vector<std::pair<double, double>> open_end(const Cut& c, bool upper, const std::vector<Cut>& cuts) {
  const double z = upper ? c.z1 : c.z0;
  std::vector<std::pair<double, double>> open{std::minmax(upper ? c.in1 : c.in0, upper ? c.out1 : c.out0)};
  for (const Cut& o : cuts) {
    if (std::abs((upper ? o.z0 : o.z1) - z) > math::kAlike) continue;
    const auto [low, high] = std::minmax({upper ? o.in0 : o.in1, upper ? o.out0 : o.out1});
    std::vector<std::pair<double, double>> left;
    for (const auto& [a, b] : open) {
      if (low > a) left.emplace_back(a, std::min(b, low));
      if (high < b) left.emplace_back(std::max(a, high), b);
    }
    open.clear();
    for (const auto& part : left) {
      if (part.second > part.first + math::kAlike) open.push_back(part);
    }
  }
  return open;
}

}  // namespace

void SheetPen::draw_cuts(const std::vector<Cut>& cuts, const std::function<double(double)>& px,
                         const std::function<double(double)>& py) {
  page_.look_at(Vec2::Zero(), zoom_, Vec2::Zero());
  for (const Cut& c : cuts) {
    // On the page: y down, so polygons are given with y negated.
    const std::vector<Vec2> corners{
        {px(c.z0), -py(c.in0)}, {px(c.z1), -py(c.in1)}, {px(c.z1), -py(c.out1)}, {px(c.z0), -py(c.out0)}};
    page_.hatched(corners, c.teeth ? Color{0, 0, 0, 0} : kInk, 3.4 * k_, 0.35 * zoom_ * k_);
  }
  for (const Cut& c : cuts) {
    line(px(c.z0), py(c.in0), px(c.z1), py(c.in1), 0.8, kBlack);
    line(px(c.z0), py(c.out0), px(c.z1), py(c.out1), 0.8, kBlack);
    for (const bool upper : {false, true}) {
      const double z = upper ? c.z1 : c.z0;
      for (const auto& [a, b] : open_end(c, upper, cuts))
        line(px(z), py(a), px(z), py(b), 0.8, kBlack);
    }
  }
}

}  // namespace palio::view
