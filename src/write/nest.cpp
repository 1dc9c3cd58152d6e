#include <Eigen/Geometry>
#include <algorithm>
#include <numeric>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/write/packed.hpp"

namespace palio::write {

Eigen::AlignedBox3d box_of(const std::vector<Vec3>& points) {
  Eigen::AlignedBox3d box;
  for (const Vec3& p : points)
    box.extend(p);
  return box;
}

std::vector<Placement> nested(const std::vector<body::TriangleMesh>& meshes, double width, double depth, double gap) {
  std::vector<Eigen::AlignedBox3d> boxes;
  boxes.reserve(meshes.size());
  for (const body::TriangleMesh& mesh : meshes)
    boxes.push_back(box_of(mesh.vertices));
  // Rows of falling depth: the deepest parts first waste least.
  std::vector<std::size_t> order(meshes.size());
  std::iota(order.begin(), order.end(), 0);
  const auto size = [&](std::size_t i, int k) { return boxes[i].sizes()[k]; };
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return size(a, 1) > size(b, 1); });
  std::vector<Placement> placed(meshes.size());
  double x = gap, y = gap, row = 0;
  for (const std::size_t i : order) {
    if (x > gap && x + size(i, 0) + gap > width) x = gap, y += row + gap, row = 0;
    if (x + size(i, 0) + gap > width || y + size(i, 1) + gap > depth) {
      throw InvalidParameter(
          "bed", fmt::format("{:.6g} x {:.6g} mm", width, depth),
          fmt::format("a part of {:.4g} x {:.4g} mm finds no place on it any more", size(i, 0), size(i, 1)),
          "give a larger bed, a smaller gap, or fewer parts with --only");
    }
    placed[i].at = Vec3(x, y, 0) - boxes[i].min();
    x += size(i, 0) + gap;
    row = std::max(row, size(i, 1));
  }
  return placed;
}

void stand_on_bed(std::vector<PackedPart>& parts) {
  Eigen::AlignedBox3d box;
  for (const PackedPart& p : parts)
    box.extend(box_of(p.placement.of(p.mesh.vertices)));
  if (box.isEmpty()) return;
  for (PackedPart& p : parts)
    p.placement.at.z() -= box.min().z();
}

}  // namespace palio::write
