#include "machine_solids.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "palio/body/mesh.hpp"
#include "palio/write/embed.hpp"

namespace palio::view {
namespace {

template <class T>
std::string packed(const std::vector<T>& numbers) {
  return write::base64({reinterpret_cast<const char*>(numbers.data()), numbers.size() * sizeof(T)});
}

/// Corners to a 65535th of the extent, in two bytes each coordinate; numbers of corners in two bytes where they fit.
Json shape(const body::TriangleMesh& mesh, double& step) {
  Eigen::AlignedBox3d box;
  for (const Vec3& v : mesh.vertices)
    box.extend(v);
  constexpr double kSteps = 65535;
  step = box.sizes().maxCoeff() / kSteps;
  std::vector<std::uint16_t> points;
  points.reserve(3 * mesh.vertices.size());
  for (const Vec3& v : mesh.vertices) {
    for (int i = 0; i < 3; ++i)
      points.push_back(static_cast<std::uint16_t>(std::lround((v[i] - box.min()[i]) / step)));
  }
  std::vector<std::uint32_t> corners;
  corners.reserve(3 * mesh.triangles.size());
  for (const auto& t : mesh.triangles)
    corners.insert(corners.end(), t.begin(), t.end());
  const bool fits = mesh.vertices.size() <= kSteps;
  return {{"least", {box.min().x(), box.min().y(), box.min().z()}},
          {"step", step},
          {"points", packed(points)},
          {"wide", !fits},
          {"triangles", fits ? packed(std::vector<std::uint16_t>(corners.begin(), corners.end())) : packed(corners)}};
}

struct Drawn {
  Solids solids;
  std::size_t bytes = 0;
};

/// \param fineness  chord errors as a share of the module
Drawn drawn(const std::vector<Part>& parts, double fineness) {
  Drawn all;
  std::map<std::string, std::size_t> shapes;  // by what is written of them
  for (const Part& p : parts) {
    if (!p.alike.empty()) {
      const auto first = static_cast<std::size_t>(
          std::find_if(parts.begin(), parts.end(), [&](const Part& q) { return q.name == p.alike; }) - parts.begin());
      all.solids.shape_of.push_back(all.solids.shape_of[first]);
      all.solids.mass.push_back(all.solids.mass[first]);
      continue;
    }
    const body::TriangleMesh mesh = body::mesh(p.body, fineness * p.module);
    double step = 0;
    Json written = shape(mesh, step);
    all.solids.deviation = std::max(all.solids.deviation, mesh.deviation + step);
    const std::string text = written.dump();
    const auto [at, fresh] = shapes.emplace(text, all.solids.shapes.size());
    if (fresh) all.solids.shapes.push_back(std::move(written)), all.bytes += text.size();
    all.solids.shape_of.push_back(at->second);
    all.solids.mass.push_back(body::mass_properties(p.body));
  }
  return all;
}

}  // namespace

Solids solids(const std::vector<Part>& parts, double finest) {
  constexpr double kCoarse = 0.1;           // of the module
  constexpr std::size_t kMost = 3'000'000;  // bytes
  for (double fineness = finest;; fineness *= 2) {
    Drawn all = drawn(parts, fineness);
    if (all.bytes <= kMost || 2 * fineness > kCoarse) return std::move(all.solids);
  }
}

}  // namespace palio::view
