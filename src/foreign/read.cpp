#include <algorithm>
#include <array>

#include <fmt/format.h>

#include "palio/drawn/drawing.hpp"
#include "palio/error.hpp"
#include "palio/foreign/teeth.hpp"
#include "palio/math/extent.hpp"
#include "palio/write/read_back.hpp"

namespace palio::foreign {
namespace {

constexpr double kReadChordError = 1e-6;

Drawing something(Drawing drawing) {
  if (!drawing.loops.empty()) return drawing;
  std::string why = drawing.open > 0 ? fmt::format("{} chains of lines in it do not close; join them", drawing.open)
                                     : std::string("nothing is drawn in it that we read");
  if (!drawing.passed_over.empty()) {
    why += "; it holds";
    for (const std::string& type : drawing.passed_over)
      why += " " + type;
    why += ", which are passed over: break blocks up into lines, arcs and polylines";
  }
  throw FileError("there is no closed outline: " + why);
}

/// The axes with the one at `axis` last, in the order that keeps the hand.
std::vector<write::Triangle> seen_along(const std::vector<write::Triangle>& all, int axis) {
  if (axis == 2) return all;
  std::vector<write::Triangle> turned = all;
  for (write::Triangle& t : turned) {
    for (Vec3& p : t)
      p = Vec3(p[(axis + 1) % 3], p[(axis + 2) % 3], p[axis]);
  }
  return turned;
}

}  // namespace

Drawing read_stl(std::string_view bytes) {
  const std::vector<write::Triangle> all = write::stl_triangles(bytes);
  Drawing first;
  for (const int axis : {2, 0, 1}) {
    const std::vector<write::Triangle> seen = seen_along(all, axis);
    math::Extent up;
    for (const write::Triangle& t : seen) {
      for (const Vec3& p : t)
        up.hold(p.z());
    }
    if (up.empty() || !(up.size() > 0)) continue;
    // Off the middle by an odd share: rings of vertices often stand there. There may be a groove, or a hub.
    for (const double share : {0.50137, 0.27531, 0.73117, 0.11713, 0.88719}) {
      Drawing drawing = drawn::joined(write::section(seen, up.low() + share * up.size()));
      drawing.unit_told = false;  // an STL never says
      if (find_teeth(drawing)) return drawing;
      if (first.loops.empty()) first = std::move(drawing);
    }
  }
  return something(std::move(first));
}

bool can_read(const std::string& format) { return format == "dxf" || format == "svg" || format == "stl"; }

Drawing read(std::string_view bytes, const std::string& format) {
  if (format == "dxf") return something(read_dxf(bytes, kReadChordError));
  if (format == "svg") return something(read_svg(bytes, kReadChordError));
  if (format == "stl") return read_stl(bytes);
  throw InvalidParameter("format", "\"" + format + "\"", "dxf, svg or stl", "save the outline as one of these");
}

}  // namespace palio::foreign
