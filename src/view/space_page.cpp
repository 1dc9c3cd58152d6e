#include <Eigen/Geometry>
#include <algorithm>
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

double mesh_top(const body::TriangleMesh& mesh) {
  double top = 0;
  for (const Vec3& v : mesh.vertices)
    top = std::max(top, v.z());
  return top;
}

Json solid(const job::Gear& g, double chord_error, const roll::Axis& axis, double start) {
  const body::TriangleMesh mesh = body::mesh(job::body(g), chord_error);
  const double lift =
      g.teeth.is_bevel() ? 0 : g.teeth.face_width() / 2;  // a bevel gear's own frame has the apex at its origin
  std::vector<float> points;
  for (const Vec3& v : mesh.vertices) {
    points.push_back(static_cast<float>(v.x()));
    points.push_back(static_cast<float>(v.y()));
    points.push_back(static_cast<float>(v.z() - lift));
  }
  Json axes = Json::array();
  for (int i = 0; i < 3; ++i) {
    for (int k = 0; k < 3; ++k)
      axes.push_back(axis.axes(i, k));
  }
  return {{"name", g.name},
          {"teeth", g.teeth.count()},
          {"pitch", 2 * kPi / g.teeth.count()},
          {"start", start},
          {"axis", g.teeth.is_bevel() ? std::array<double, 2>{-0.1 * mesh_top(mesh), 1.15 * mesh_top(mesh)}
                                      : std::array<double, 2>{-1.3 * g.teeth.face_width(), 1.3 * g.teeth.face_width()}},
          {"origin", {axis.origin.x(), axis.origin.y(), axis.origin.z()}},
          {"axes", axes},
          {"points", write::base64({reinterpret_cast<const char*>(points.data()), points.size() * sizeof(float)})},
          {"triangles", write::base64({reinterpret_cast<const char*>(mesh.triangles.data()),
                                       mesh.triangles.size() * sizeof(mesh.triangles[0])})}};
}

Json xyz(const Vec3& p) { return {p.x(), p.y(), p.z()}; }

/// A direction in the plane across the driver's axis.
Vec3 level(double direction, double length) {
  const Vec2 p = from_polar(length, direction);
  return {p.x(), p.y(), 0};
}

/// From where one looks, how close a close-up is, and where to without a contact.
void put_view(Json& data, const job::Pair& pair) {
  const auto& [driver, driven] = pair.gears();
  if (const pair::BevelPair* bevel = pair.bevel()) {
    const double R = pair::common_face(*bevel)[1], delta = bevel->driver().spec().pitch_cone.radians();
    data["pitch_point"] =
        xyz(R * (std::cos(delta) * Vec3::UnitZ() + std::sin(delta) * level(pair.direction().radians(), 1)));
    data["size"] = 1.05 * (driver.teeth.reach() + driven.teeth.reach());
    // Seen from beside the plane of the axes and from the apex's side.
    data["turn"] = pair.direction().radians() - 1.75, data["rise"] = -0.5;
    return;
  }
  data["pitch_point"] = xyz(level(pair.direction().radians(), driver.teeth.gear().sizes().reference_diameter / 2));
  data["size"] = 0.5 * (driver.teeth.reach() + driven.teeth.reach() + pair.mounted_center_distance());
  data["turn"] = -1.95, data["rise"] = 0.55;
}

/// Contacts of one side: each a point, or the two ends of a line; what touches at heel and toe alike is one line.
/// \param seen  where flanks touched flanks is added
Json contacts(const job::Pair& pair, const std::vector<roll::Contact>& touching,
              const std::optional<roll::Contact>& limit, std::vector<Vec3>& seen) {
  Json list = Json::array();
  const auto add = [&](const roll::Contact& c) {
    const std::vector<Vec3> ends = pair::contact_line(pair, c);
    Json item = Json::array();
    for (const Vec3& at : ends) {
      for (const double x : {at.x(), at.y(), at.z()})
        item.push_back(std::round(x * 1e6) / 1e6);
    }
    if (std::find(list.begin(), list.end(), item) == list.end()) list.push_back(item);
    return ends.front();
  };
  for (const roll::Contact& c : touching)
    seen.push_back(add(c));
  if (touching.empty() && limit) add(*limit);
  return list;
}

/// Of bevel gears a great circle at the heel, some way on to both sides; the other flank's is its mirror image.
Json great_circle(const job::Pair& pair, const pair::BevelPair& bevel, bool upper) {
  Json points = Json::array();
  const double R = pair::common_face(bevel)[1];
  const auto [from, to] = bevel.path(R);
  constexpr int kPieces = 24;
  for (int i = 0; i <= kPieces; ++i) {
    Vec3 at = R * bevel.path_direction(from + (to - from) * (-0.5 + 2.0 * i / kPieces));
    if (!upper) at.y() = -at.y();
    points.push_back(xyz(Eigen::AngleAxisd(pair.direction().radians(), Vec3::UnitZ()) * at));
  }
  return points;
}

/// The line on which contact points were found, some way on to both sides.
Json line_through(const std::vector<Vec3>& seen, const Vec3& out) {
  Json ends = Json::array();
  if (seen.size() < 2) return ends;
  const auto nearer = [&](const Vec3& p, const Vec3& q) { return p.dot(out) < q.dot(out); };
  const auto [low, high] = std::minmax_element(seen.begin(), seen.end(), nearer);
  const Vec3 more = 0.6 * (*high - *low);
  ends.push_back(xyz(*low - more)), ends.push_back(xyz(*high + more));
  return ends;
}

std::string summary(const job::Design& design, const job::Pair& pair, const roll::Result* result) {
  const auto& [driver, driven] = pair.gears();
  const std::string teeth = fmt::format("{} : {} teeth, shafts at ", driver.teeth.count(), driven.teeth.count()),
                    meeting =
                        result ? fmt::format(", {:.4f} tooth pairs in contact on average", result->pairs_mean) : "";
  if (pair.bevel()) {
    return fmt::format("{}{:.6g}°{}", teeth, (pair.shaft_angle() + pair.error().shaft_angle).radians() * 180 / kPi,
                       meeting);
  }
  return fmt::format("{}{:.4g}°, center distance {:.3f} {}{}", teeth, pair.shaft_angle().radians() * 180 / kPi,
                     pair.mounted_center_distance() / job::mm_per(design.units), job::symbol(design.units), meeting);
}

}  // namespace

Json space_data(const job::Design& design, const job::Pair& pair, const roll::Result* result, double fineness) {
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  const auto [first, second] = pair.members();
  const roll::Law law = pair.law();
  const double half_play = law.theoretical_play / 2, arcsec = 180 / kPi * 3600,
               chord_error = fineness * driver.teeth.module();
  const pair::BevelPair* bevel = pair.bevel();
  Json data = page_data(design, "pair", pair.name, result ? roll::name(result->verdict) : "");
  data["stamp"] = stamp(chord_error);
  data["ratio"] = law.ratio;
  data["error_unit"] = "″";
  data["working_radius"] = pair.working_radius();
  // The play is told in the normal section, along the reference cylinders' common tangent plane.
  if (bevel) {
    const gear::BevelSizes& s = bevel->driven().sizes();
    data["arm"] = s.outer_cone_distance * std::sin(s.base_cone.radians());
  } else {
    data["arm"] = driven.teeth.gear().sizes().base_diameter / 2 * std::cos(driven.teeth.base_helix_angle().radians());
  }
  data["driver"] = solid(driver, chord_error, {}, first.start);
  data["driven"] = solid(driven, chord_error, pair.driven_axis(), second.start);
  data["dot"] = (bevel ? 0.12 : 0.2) * driver.teeth.module();
  put_view(data, pair);
  Json positions = Json::array();
  std::vector<Vec3> upper, lower;
  for (const roll::Position& p : result ? result->positions : std::vector<roll::Position>()) {
    const double nominal = second.start + law.ratio * (p.driver - first.start);
    const Json above = contacts(pair, p.touching_upper, p.upper, upper),
               below = contacts(pair, p.touching_lower, p.lower, lower);
    positions.push_back(page_position(p, nominal, half_play, arcsec, result->drives_upper, above, below));
  }
  data["positions"] = positions;
  const Vec3 out = level(pair.direction().radians(), 1);
  data["action"]["u"] = bevel ? great_circle(pair, *bevel, true) : line_through(upper, out);
  data["action"]["l"] = bevel ? great_circle(pair, *bevel, false) : line_through(lower, out);
  data["summary"] = summary(design, pair, result);
  return data;
}

}  // namespace palio::view
