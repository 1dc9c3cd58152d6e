#include "palio/write/nest.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/write/packed.hpp"

// A sort that keeps alike things in their order, so that the same comes out with every C library.
#define STBRP_SORT(all, count, size, order) \
  std::stable_sort((all), (all) + (count), [](const auto& a, const auto& b) { return order(&a, &b) < 0; })
#define STB_RECT_PACK_IMPLEMENTATION
#define STBRP_STATIC
#include <stb/stb_rect_pack.h>

namespace palio::write {
namespace {

// The packer counts in whole numbers: hundredths of a millimetre.
constexpr double kSteps = 100;

int steps(double length) { return static_cast<int>(std::ceil(length * kSteps - 1e-6)); }

}  // namespace

std::vector<Lay> side_by_side(const std::vector<Vec2>& sizes, const Beds& beds) {
  constexpr double kLongest = 20000;  // [mm]
  if (beds.width > kLongest || beds.depth > kLongest)
    throw InvalidParameter("bed", fmt::format("{:.6g} x {:.6g} mm", beds.width, beds.depth),
                           fmt::format("up to {:.6g} mm are laid out", kLongest), "give a smaller one");
  // Every thing has the gap on its upper and right side, the bed on its lower and left one.
  const double across = beds.width - beds.gap, up = beds.depth - beds.gap;
  const auto refuse = [&](const Vec2& size, const char* why) {
    throw InvalidParameter("bed", fmt::format("{:.6g} x {:.6g} mm", beds.width, beds.depth),
                           fmt::format("a part of {:.4g} x {:.4g} mm finds no place on it{}", size.x(), size.y(), why),
                           fmt::format("give one of {:.4g} x {:.4g} mm or larger, a smaller gap, or fewer parts with "
                                       "--only",
                                       size.x() + 2 * beds.gap, size.y() + 2 * beds.gap));
  };
  std::vector<Lay> lays(sizes.size());
  std::vector<stbrp_rect> left;
  left.reserve(sizes.size());
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    Vec2 size = sizes[i] + Vec2(beds.gap, beds.gap);
    const auto fits = [&] { return size.x() <= across && size.y() <= up; };
    // Lying along the bed, what is long leaves more room.
    if (beds.quarters && (beds.width >= beds.depth) != (size.x() >= size.y()))
      lays[i].quarter = true, std::swap(size.x(), size.y());
    if (!fits()) refuse(sizes[i], "");
    stbrp_rect rect{};
    rect.id = static_cast<int>(i), rect.w = steps(size.x()), rect.h = steps(size.y());
    left.push_back(rect);
  }
  for (std::size_t bed = 0; !left.empty(); ++bed) {
    if (bed > 0 && !beds.several) refuse(sizes[static_cast<std::size_t>(left[0].id)], " any more");
    std::vector<stbrp_node> nodes(static_cast<std::size_t>(steps(across)) + 1);
    stbrp_context context{};
    stbrp_init_target(&context, steps(across), steps(up), nodes.data(), static_cast<int>(nodes.size()));
    stbrp_pack_rects(&context, left.data(), static_cast<int>(left.size()));
    std::vector<stbrp_rect> over;
    for (const stbrp_rect& r : left) {
      if (!r.was_packed) {
        over.push_back(r);
        continue;
      }
      Lay& lay = lays[static_cast<std::size_t>(r.id)];
      lay.bed = bed, lay.at = Vec2(r.x, r.y) / kSteps + Vec2(beds.gap, beds.gap);
    }
    left = std::move(over);
  }
  return lays;
}

Eigen::AlignedBox3d box_of(const std::vector<Vec3>& points) {
  Eigen::AlignedBox3d box;
  for (const Vec3& p : points)
    box.extend(p);
  return box;
}

std::vector<Placement> nested(const std::vector<body::TriangleMesh>& meshes, double width, double depth, double gap) {
  std::vector<Eigen::AlignedBox3d> boxes;
  std::vector<Vec2> sizes;
  boxes.reserve(meshes.size()), sizes.reserve(meshes.size());
  for (const body::TriangleMesh& mesh : meshes) {
    boxes.push_back(box_of(mesh.vertices));
    sizes.emplace_back(boxes.back().sizes().head<2>());
  }
  const std::vector<Lay> lays = side_by_side(sizes, {width, depth, gap});
  std::vector<Placement> placed(meshes.size());
  for (std::size_t i = 0; i < meshes.size(); ++i)
    placed[i].at = Vec3(lays[i].at.x(), lays[i].at.y(), 0) - boxes[i].min();
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
