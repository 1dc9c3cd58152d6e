#include "triangulate.hpp"

#include <geos_c.h>

#include <map>
#include <memory>

#include <fmt/format.h>

#include "palio/error.hpp"

namespace palio::body {
namespace {

void ignore(const char*, void*) {}

/// A GEOS context and what is made in it, freed with it.
class Geos {
 public:
  Geos() : handle_(GEOS_init_r()) {
    GEOSContext_setErrorMessageHandler_r(handle_, ignore, nullptr);
    GEOSContext_setNoticeMessageHandler_r(handle_, ignore, nullptr);
  }
  ~Geos() { GEOS_finish_r(handle_); }
  Geos(const Geos&) = delete;
  Geos& operator=(const Geos&) = delete;

  GEOSContextHandle_t handle() const { return handle_; }
  GEOSGeometry* ring(const std::vector<Vec2>& points, const std::vector<std::uint32_t>& loop) const {
    GEOSCoordSequence* sequence = GEOSCoordSeq_create_r(handle_, static_cast<unsigned>(loop.size() + 1), 2);
    for (std::size_t i = 0; i <= loop.size(); ++i) {
      const Vec2& p = points[loop[i % loop.size()]];
      GEOSCoordSeq_setXY_r(handle_, sequence, static_cast<unsigned>(i), p.x(), p.y());
    }
    return GEOSGeom_createLinearRing_r(handle_, sequence);
  }

 private:
  GEOSContextHandle_t handle_;
};

}  // namespace

std::vector<Triangle> triangulate(const std::vector<Vec2>& points, const std::vector<std::vector<std::uint32_t>>& loops) {
  const Geos geos;
  const GEOSContextHandle_t h = geos.handle();
  const auto destroy = [h](GEOSGeometry* g) { GEOSGeom_destroy_r(h, g); };
  using Geometry = std::unique_ptr<GEOSGeometry, decltype(destroy)>;

  std::vector<GEOSGeometry*> holes;
  std::map<std::pair<double, double>, std::uint32_t> number;
  std::size_t corners = 0;
  for (std::size_t i = 0; i < loops.size(); ++i) {
    if (i > 0) holes.push_back(geos.ring(points, loops[i]));
    for (const std::uint32_t n : loops[i]) number[{points[n].x(), points[n].y()}] = n;
    corners += loops[i].size();
  }
  const Geometry polygon(GEOSGeom_createPolygon_r(h, geos.ring(points, loops[0]), holes.data(), static_cast<unsigned>(holes.size())), destroy);
  const Geometry result(polygon ? GEOSConstrainedDelaunayTriangulation_r(h, polygon.get()) : nullptr, destroy);
  std::vector<Triangle> triangles;
  const int count = result ? GEOSGetNumGeometries_r(h, result.get()) : 0;
  for (int i = 0; i < count; ++i) {
    const GEOSGeometry* shell = GEOSGetExteriorRing_r(h, GEOSGetGeometryN_r(h, result.get(), i));
    const GEOSCoordSequence* sequence = GEOSGeom_getCoordSeq_r(h, shell);
    Triangle t{};
    for (unsigned k = 0; k < 3; ++k) {
      double x = 0, y = 0;
      GEOSCoordSeq_getXY_r(h, sequence, k, &x, &y);
      const auto it = number.find({x, y});
      if (it == number.end()) throw NoConvergence("triangulation made a point of its own");
      t[k] = it->second;
    }
    const Vec2 &a = points[t[0]], &b = points[t[1]], &c = points[t[2]];
    if (cross(b - a, c - a) < 0) std::swap(t[1], t[2]);
    triangles.push_back(t);
  }
  const std::size_t expected = corners + 2 * (loops.size() - 1) - 2;
  if (triangles.size() != expected) {
    throw NoConvergence(
        fmt::format("triangulation of {} points in {} loops gave {} triangles, {} expected", corners, loops.size(), triangles.size(), expected));
  }
  return triangles;
}

}  // namespace palio::body
