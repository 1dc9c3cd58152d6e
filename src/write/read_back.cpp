#include "palio/write/read_back.hpp"

#include <array>
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <cstring>
#include <sstream>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"

namespace palio::write {
namespace {

using Corners = std::array<Vec3, 3>;

std::vector<Corners> triangles_of(std::string_view bytes) {
  std::vector<Corners> all;
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

}  // namespace

std::vector<curve::Piece> stl_section(std::string_view bytes, double z) {
  std::vector<curve::Piece> all;
  for (const Corners& t : triangles_of(bytes)) {
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

std::vector<curve::Piece> dxf_outlines(std::string_view text, double chord_error) {
  struct Corner {
    Vec2 p;
    double bulge;
  };
  constexpr double kMostPieces = 3e6;
  std::vector<curve::Piece> all;
  std::vector<Corner> loop;
  double unit = 0;
  bool in_loop = false, unit_next = false;
  const auto number = [](const std::string& v) {
    const double read = std::strtod(v.c_str(), nullptr);
    if (!(std::abs(read) < 1e9))
      throw FileError(fmt::format("the DXF file holds \"{}\" where a place or a bulge stands", v.substr(0, 40)));
    return read;
  };
  const auto finish = [&] {
    if (static_cast<double>(loop.size() + all.size()) > kMostPieces)
      throw FileError("the DXF file has more places than a gear can have");
    for (std::size_t i = 0; i < loop.size(); ++i) {
      const Vec2 a = loop[i].p, b = loop[(i + 1) % loop.size()].p;
      const double bulge = loop[i].bulge;
      if (bulge == 0) {
        all.push_back({a, b});
        continue;
      }
      // tan of a quarter of the angle; the centre stands off the chord's middle by r cos of half the angle.
      const double angle = 4 * std::atan(bulge), chord = (b - a).norm(),
                   radius = chord / (2 * std::sin(std::abs(angle) / 2));
      const Vec2 across = quarter_turn(Vec2((b - a) / chord));
      const Vec2 centre = 0.5 * (a + b) + (bulge > 0 ? 1 : -1) * radius * std::cos(angle / 2) * across;
      const double step = 2 * std::acos(std::max(-1.0, 1 - chord_error / radius)),
                   chords = std::ceil(std::abs(angle) / step);
      if (!(chords + static_cast<double>(all.size()) < kMostPieces)) {
        throw FileError(
            fmt::format("the DXF file has arcs so large (one of radius {:.4g} mm) that they would take more than "
                        "{:.0g} chords; no gear has such",
                        radius, kMostPieces));
      }
      const int count = std::max(1, static_cast<int>(chords));
      Vec2 before = a;
      for (int k = 1; k <= count; ++k) {
        const Vec2 next = k == count ? b : Vec2(centre + turned(a - centre, angle * k / count));
        all.push_back({before, next});
        before = next;
      }
    }
    loop.clear();
    in_loop = false;
  };
  std::size_t at = 0;
  const auto line = [&](std::string_view& into) {
    if (at >= text.size()) return false;
    const auto end = text.find('\n', at);
    into = text.substr(at, end == std::string_view::npos ? end : end - at);
    if (!into.empty() && into.back() == '\r') into.remove_suffix(1);
    at = end == std::string_view::npos ? text.size() : end + 1;
    return true;
  };
  std::string_view code_text, value;
  while (line(code_text) && line(value)) {
    const int code = std::atoi(std::string(code_text).c_str());
    const std::string v(value);
    if (code == 9) unit_next = v == "$INSUNITS";
    if (code == 70 && unit_next) unit = v == "1" ? 25.4 : v == "4" ? 1 : 0, unit_next = false;
    if (code == 0) {
      if (in_loop) finish();
      in_loop = v == "LWPOLYLINE";
    } else if (in_loop && code == 10) {
      loop.push_back({Vec2(number(v) * unit, 0), 0});
    } else if (in_loop && code == 20 && !loop.empty()) {
      loop.back().p.y() = number(v) * unit;
    } else if (in_loop && code == 42 && !loop.empty()) {
      loop.back().bulge = number(v);
    }
  }
  if (unit == 0) throw FileError("the DXF file does not say whether it is in mm or inches ($INSUNITS)");
  if (all.empty()) throw FileError("the DXF file has no polylines; write it with --curves arcs");
  return all;
}

}  // namespace palio::write
