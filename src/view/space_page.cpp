#include <array>
#include <cmath>
#include <cstring>

#include <fmt/format.h>

#include "page_parts.hpp"
#include "palio/body/mesh.hpp"
#include "palio/roll/space.hpp"
#include "palio/version.hpp"
#include "palio/write/embed.hpp"

namespace palio::view {
namespace {

Json solid(const job::Gear& g, double chord_error, const roll::Axis& axis, double start) {
  const body::TriangleMesh mesh = body::mesh(job::body(g), chord_error);
  std::vector<float> points;
  for (const Vec3& v : mesh.vertices) {
    points.push_back(static_cast<float>(v.x()));
    points.push_back(static_cast<float>(v.y()));
    points.push_back(static_cast<float>(v.z() - g.teeth.spec().face_width / 2));
  }
  Json axes = Json::array();
  for (int i = 0; i < 3; ++i) {
    for (int k = 0; k < 3; ++k) axes.push_back(axis.axes(i, k));
  }
  return {{"name", g.name},
          {"teeth", g.teeth.spec().teeth},
          {"pitch", 2 * kPi / g.teeth.spec().teeth},
          {"start", start},
          {"face", g.teeth.spec().face_width},
          {"origin", {axis.origin.x(), axis.origin.y(), axis.origin.z()}},
          {"axes", axes},
          {"points", write::base64({reinterpret_cast<const char*>(points.data()), points.size() * sizeof(float)})},
          {"triangles", write::base64({reinterpret_cast<const char*>(mesh.triangles.data()), mesh.triangles.size() * sizeof(mesh.triangles[0])})}};
}

}  // namespace

std::string space_page(const job::Design& design, const job::RolledPair& rolled) {
  const job::Pair& pair = *rolled.pair;
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  const auto [first, second] = job::members(design, pair);
  const roll::Law law = job::law(design, pair);
  const double half_play = law.theoretical_play / 2, arcsec = 180 / kPi * 3600, chord_error = 0.004 * driver.teeth.spec().module;
  const roll::Axis axis = roll::crossed_axis(pair.direction, pair.mounted_center_distance, pair.shaft_angle, pair.axial_offset);
  Json data;
  data["palio"] = kVersion;
  data["title"] = design.title;
  data["pair"] = pair.name;
  data["units"] = job::symbol(design.units);
  data["mm_per_unit"] = job::mm_per(design.units);
  data["verdict"] = roll::name(rolled.result.verdict);
  data["ratio"] = law.ratio;
  data["error_unit"] = "″";
  // The play is told in the normal section, along the reference cylinders' common tangent plane.
  data["working_radius"] = pair.crossed->circumferential_per_angle();
  data["arm"] = driven.teeth.gear().sizes().base_diameter / 2 * std::cos(driven.teeth.base_helix_angle().radians());
  data["driver"] = solid(driver, chord_error, {}, first.start);
  data["driven"] = solid(driven, chord_error, axis, second.start);
  data["size"] = 0.5 * (driver.teeth.reach() + driven.teeth.reach() + pair.mounted_center_distance);
  data["dot"] = 0.2 * driver.teeth.spec().module;
  const Vec3 middle = 0.5 * (axis.origin + (driven.teeth.reach() - driver.teeth.reach()) * axis.origin.normalized());
  data["centre"] = {middle.x(), middle.y(), middle.z()};
  const Vec2 at_pitch = from_polar(driver.teeth.gear().sizes().reference_diameter / 2, pair.direction);
  data["pitch_point"] = {at_pitch.x(), at_pitch.y(), 0.0};
  Json positions = Json::array();
  std::array<std::vector<Vec3>, 2> seen;
  for (const roll::Position& p : rolled.result.positions) {
    const double nominal = second.start + law.ratio * (p.driver - first.start);
    const auto listed = [&](const std::vector<roll::Contact>& touching, const std::optional<roll::Contact>& limit, std::vector<Vec3>& all) {
      Json list = Json::array();
      for (const roll::Contact& c : touching) {
        list.push_back({c.point.x(), c.point.y(), c.height});
        all.emplace_back(c.point.x(), c.point.y(), c.height);
      }
      if (touching.empty() && limit) list.push_back({limit->point.x(), limit->point.y(), limit->height});
      return list;
    };
    positions.push_back(page_position(p, nominal, half_play, arcsec, rolled.result.drives_upper, listed(p.touching_upper, p.upper, seen[0]),
                                      listed(p.touching_lower, p.lower, seen[1])));
  }
  data["positions"] = positions;
  // The line on which the contact points were found, some way on to both sides.
  for (const int side : {0, 1}) {
    Json ends = Json::array();
    if (seen[side].size() > 1) {
      Vec3 low = seen[side].front(), high = low;
      const Vec3 out = from_polar(1, pair.direction).homogeneous().cwiseProduct(Vec3(1, 1, 0));
      for (const Vec3& p : seen[side]) {
        if (p.dot(out) < low.dot(out)) low = p;
        if (p.dot(out) > high.dot(out)) high = p;
      }
      const Vec3 more = 0.6 * (high - low);
      for (const Vec3& p : {Vec3(low - more), Vec3(high + more)}) ends.push_back({p.x(), p.y(), p.z()});
    }
    data["action"][side == 0 ? "u" : "l"] = ends;
  }
  data["summary"] = fmt::format("{} : {} teeth, shafts at {:.4g}°, center distance {:.3f} {}, {:.4f} tooth pairs in contact on average",
                                driver.teeth.spec().teeth, driven.teeth.spec().teeth, pair.shaft_angle * 180 / kPi,
                                pair.mounted_center_distance / job::mm_per(design.units), job::symbol(design.units), rolled.result.pairs_mean);
  std::string page = filled_page(kSpaceHtml, kSpaceScript, design, pair.name, chord_error, data);
  put(page, "%THREE%", whole(kThree));
  return page;
}

}  // namespace palio::view
