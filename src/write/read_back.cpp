#include "palio/write/read_back.hpp"

#include <cstdint>
#include <cstring>
#include <sstream>

#include "palio/error.hpp"

namespace palio::write {

std::vector<Triangle> stl_triangles(std::string_view bytes) {
  std::vector<Triangle> all;
  std::uint32_t count = 0;
  if (bytes.size() >= 84) std::memcpy(&count, bytes.data() + 80, 4);
  if (bytes.size() >= 84 && bytes.size() == 84 + 50 * static_cast<std::size_t>(count)) {
    for (std::size_t i = 0; i < count; ++i) {
      float v[9];
      std::memcpy(v, bytes.data() + 84 + 50 * i + 12, sizeof v);
      all.push_back({Vec3(v[0], v[1], v[2]), Vec3(v[3], v[4], v[5]), Vec3(v[6], v[7], v[8])});
    }
    return all;
  }
  if (bytes.substr(0, 5) != "solid")
    throw FileError("this is no STL file: its size does not fit its count of triangles");
  std::istringstream in{std::string(bytes)};
  std::string word;
  std::vector<Vec3> corners;
  while (in >> word) {
    if (word != "vertex") continue;
    Vec3 p;
    in >> p.x() >> p.y() >> p.z();
    corners.push_back(p);
    if (corners.size() == 3) all.push_back({corners[0], corners[1], corners[2]}), corners.clear();
  }
  return all;
}

std::vector<curve::Piece> section(const std::vector<Triangle>& triangles, double z) {
  std::vector<curve::Piece> all;
  for (const Triangle& t : triangles) {
    Vec2 ends[2];
    int found = 0;
    for (int k = 0; k < 3 && found < 2; ++k) {
      const Vec3 &a = t[static_cast<std::size_t>(k)], &b = t[static_cast<std::size_t>((k + 1) % 3)];
      if ((a.z() > z) == (b.z() > z)) continue;
      const double share = (z - a.z()) / (b.z() - a.z());
      ends[found++] = (a + share * (b - a)).head<2>();
    }
    if (found < 2) continue;
    // Outwards lies on the right: the piece runs along z × normal.
    const Vec3 normal = (t[1] - t[0]).cross(t[2] - t[0]);
    const Vec2 along(-normal.y(), normal.x());
    if (along.dot(ends[1] - ends[0]) >= 0)
      all.push_back({ends[0], ends[1]});
    else
      all.push_back({ends[1], ends[0]});
  }
  return all;
}

}  // namespace palio::write
