#include <algorithm>
#include <cmath>
#include <cstring>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/write/formats.hpp"

namespace palio::write {

Written stl(const body::TriangleMesh& mesh, const Stamp& stamp) {
  body::check(mesh);
  // Rounded once per vertex, so that triangles that share one still do.
  std::vector<std::array<float, 3>> rounded;
  rounded.reserve(mesh.vertices.size());
  double rounding = 0;
  for (const Vec3& v : mesh.vertices) {
    const std::array<float, 3> f{static_cast<float>(v.x()), static_cast<float>(v.y()), static_cast<float>(v.z())};
    rounding = std::max(rounding, (Vec3(f[0], f[1], f[2]) - v).squaredNorm());
    rounded.push_back(f);
  }
  const double deviation = mesh.deviation + std::sqrt(rounding);

  std::string header =
      fmt::format("palio {} {} mm, within {:.3g} mm: {}", stamp.version, stamp.part, deviation, stamp.title);
  header.resize(80, ' ');
  std::string bytes;
  bytes.reserve(84 + 50 * mesh.triangles.size());
  bytes.append(header);
  const auto count = static_cast<std::uint32_t>(mesh.triangles.size());
  bytes.append(reinterpret_cast<const char*>(&count), 4);
  char record[50] = {};  // normal, three corners, an unused count
  for (const auto& t : mesh.triangles) {
    const float *a = rounded[t[0]].data(), *b = rounded[t[1]].data(), *c = rounded[t[2]].data();
    const float ux = b[0] - a[0], uy = b[1] - a[1], uz = b[2] - a[2], vx = c[0] - a[0], vy = c[1] - a[1],
                vz = c[2] - a[2];
    const float nx = uy * vz - uz * vy, ny = uz * vx - ux * vz, nz = ux * vy - uy * vx;
    const float length = std::sqrt(nx * nx + ny * ny + nz * nz), scale = length > 0 ? 1 / length : 0;
    const float values[12] = {nx * scale, ny * scale, nz * scale, a[0], a[1], a[2], b[0], b[1], b[2], c[0], c[1], c[2]};
    std::memcpy(record, values, sizeof values);
    bytes.append(record, sizeof record);
  }
  return {std::move(bytes), deviation};
}

body::TriangleMesh merged(const std::vector<body::TriangleMesh>& meshes, const std::vector<Placement>& placements) {
  body::TriangleMesh all;
  for (std::size_t i = 0; i < meshes.size(); ++i) {
    const auto base = static_cast<std::uint32_t>(all.vertices.size());
    const std::vector<Vec3> placed = placements[i].of(meshes[i].vertices);
    all.vertices.insert(all.vertices.end(), placed.begin(), placed.end());
    for (const auto& t : meshes[i].triangles)
      all.triangles.push_back({t[0] + base, t[1] + base, t[2] + base});
    all.deviation = std::max(all.deviation, meshes[i].deviation);
  }
  return all;
}

}  // namespace palio::write
