#include "palio/view/space_scene.hpp"

#include <cmath>
#include <cstdlib>
#include <memory>

#include "palio/body/mesh.hpp"
#include "palio/math/extent.hpp"
#include "palio/roll/space.hpp"

namespace palio::view {
namespace {

/// A gear's triangles, once; its place changes from picture to picture.
SpacePart standing(const body::TriangleMesh& mesh, const job::Gear& g, const roll::Axis& axis, double turn,
                   std::array<double, 3> color) {
  SpacePart part{{}, mesh.triangles, color};
  // A bevel gear turns about its apex, the others about the middle of their face.
  const double c = std::cos(turn), s = std::sin(turn), b = g.teeth.is_bevel() ? 0 : g.teeth.face_width() / 2;
  for (const Vec3& v : mesh.vertices)
    part.vertices.push_back(axis.origin + axis.axes * Vec3(c * v.x() - s * v.y(), s * v.x() + c * v.y(), v.z() - b));
  return part;
}

struct Meshes {
  body::TriangleMesh driver, driven;
};

/// Both about the apex, seen from beside the plane of the axes, so that the mesh shows.
SpaceScene posed_bevel(const job::Design& design, const job::Pair& pair, const Meshes& meshes, double driver,
                       double driven, const std::vector<roll::Contact>& contacts, PictureSize size, bool quick) {
  const job::Gear &g1 = design.gears[pair.driver], &g2 = design.gears[pair.driven];
  const roll::Axis axis = pair.driven_axis();
  SpaceScene scene;
  scene.parts = {standing(meshes.driver, g1, {}, driver, {0.87, 0.65, 0.27}),
                 standing(meshes.driven, g2, axis, driven, {0.62, 0.60, 0.82})};
  for (const roll::Contact& c : contacts) {
    for (const Vec3& p : pair::contact_line(pair, c))
      scene.dots.push_back(p);
  }
  Eigen::AlignedBox3d box;
  for (const SpacePart& part : scene.parts) {
    for (const Vec3& v : part.vertices)
      box.extend(v);
  }
  scene.target = box.center();
  const Vec3 across(-std::sin(pair.direction().radians()), std::cos(pair.direction().radians()), 0),
      between = (axis.axes.col(2) - Vec3::UnitZ()).normalized();
  scene.eye = scene.target +
              1.42 * box.diagonal().norm() * (-0.72 * across - 0.62 * Vec3::UnitZ() - 0.1 * between).normalized();
  scene.size = size;
  scene.dot_pixels = std::max(2.5, size.height / 180.0);
  if (quick) scene.samples = 1, scene.occlusion = 0;
  return scene;
}

SpaceScene posed(const job::Design& design, const job::Pair& pair, const Meshes& meshes, double driver, double driven,
                 const std::vector<roll::Contact>& contacts, PictureSize size, bool quick) {
  const job::Gear &g1 = design.gears[pair.driver], &g2 = design.gears[pair.driven];
  if (pair.bevel()) return posed_bevel(design, pair, meshes, driver, driven, contacts, size, quick);
  // A ring's axis lies on the other side of its pinion's.
  const double a =
      design.gears[pair.driven].teeth.internal() ? -pair.mounted_center_distance() : pair.mounted_center_distance();
  const roll::Axis axis = roll::crossed_axis(pair.direction(), a, pair.shaft_angle(), pair.axial_offset());
  SpaceScene scene;
  scene.parts = {standing(meshes.driver, g1, {}, driver, {0.87, 0.65, 0.27}),
                 standing(meshes.driven, g2, axis, driven, {0.62, 0.60, 0.82})};
  for (const roll::Contact& c : contacts)
    scene.dots.emplace_back(c.point.x(), c.point.y(), c.height);
  const Vec3 out = axis.origin.normalized();
  const double reach = 0.5 * (g1.teeth.reach() + g2.teeth.reach() + pair.mounted_center_distance());
  scene.target = 0.5 * (axis.origin + (g2.teeth.reach() - g1.teeth.reach()) * out);
  // From beside the common normal and above, on the side where the driver's face shows.
  const double turn = std::atan2(out.y(), out.x()) - 1.95, rise = 0.55;
  scene.eye = scene.target +
              3.7 * reach * Vec3(std::cos(rise) * std::cos(turn), std::cos(rise) * std::sin(turn), std::sin(rise));
  scene.size = size;
  scene.dot_pixels = std::max(2.5, size.height / 180.0);
  if (quick) scene.samples = 1, scene.occlusion = 0;
  return scene;
}

Meshes meshes_of(const job::Design& design, const job::Pair& pair) {
  const double chord_error = 0.005 * design.gears[pair.driver].teeth.module();
  return {body::mesh(job::body(design.gears[pair.driver]), chord_error),
          body::mesh(job::body(design.gears[pair.driven]), chord_error)};
}

std::array<double, 3> color_of(const std::string& hex) {
  const auto channel = [&](std::size_t at) { return std::strtol(hex.substr(at, 2).c_str(), nullptr, 16) / 255.0; };
  return {channel(1), channel(3), channel(5)};
}

}  // namespace

SpaceScene parts_in_space(const std::vector<Part>& parts, const std::string& view, PictureSize size, bool quick,
                          std::optional<Vec3> seen_from) {
  SpaceScene scene;
  scene.size = size;
  if (quick)
    scene.samples = 1, scene.occlusion = 0;
  else
    scene.occlusion = 12;
  std::size_t number = 0;
  for (const Part& p : parts) {
    const body::TriangleMesh mesh = body::mesh(p.body, 0.004 * p.module);
    // Without a material of their own, gears take the colours of driver and driven in turn, planets all the same.
    const bool plain = p.material.name.empty();
    if (plain && p.gear && p.alike.empty()) ++number;
    SpacePart part{{},
                   mesh.triangles,
                   plain && p.gear ? (number % 2 == 1 ? std::array<double, 3>{0.87, 0.65, 0.27}
                                                      : std::array<double, 3>{0.62, 0.60, 0.82})
                                   : color_of(p.material.colour),
                   p.material.shine};
    const double c = std::cos(p.placement.turn), s = std::sin(p.placement.turn);
    for (const Vec3& v : mesh.vertices) {
      part.vertices.push_back(p.placement.at +
                              p.placement.axes * Vec3(c * v.x() - s * v.y(), s * v.x() + c * v.y(), v.z()));
    }
    scene.parts.push_back(std::move(part));
  }
  const write::Placement& first = parts.front().placement;
  const Vec3 axis = first.axes.col(2);
  Vec3 towards = first.axes * Vec3(0.55, -0.75, 0.62);
  if (view == "front") towards = axis + 1e-3 * first.axes.col(1);
  if (view == "section") {
    // Along the row of axes, so that the cut shows them all; looking across it.
    Vec3 row = first.axes.col(0);
    for (const Part& p : parts) {
      const Vec3 way = p.placement.at - first.at, across = way - axis * way.dot(axis);
      if (across.norm() > 1e-6) {
        row = across.normalized();
        break;
      }
    }
    const Vec3 out = row.cross(axis).normalized();
    scene.cut = CutPlane{first.at, out};
    towards = out + 0.35 * axis + 0.25 * row;
  }
  if (seen_from) towards = *seen_from;
  towards.normalize();
  std::vector<Vec3> kept;  // a cut takes the rest away
  Eigen::AlignedBox3d box;
  for (const SpacePart& p : scene.parts) {
    for (const Vec3& v : p.vertices) {
      if (scene.cut && (v - scene.cut->at).dot(scene.cut->normal) > 0) continue;
      kept.push_back(v);
      box.extend(v);
    }
  }
  scene.target = box.center();
  // Near enough that the picture is filled, far enough that every corner is in it, and aimed at the middle of what is
  // seen.
  const Vec3 ahead = -towards, side = ahead.cross(Vec3::UnitZ()).normalized(), up = side.cross(ahead);
  const double half = std::tan(scene.field * kPi / 360), aspect = static_cast<double>(size.width) / size.height;
  double distance = 0;
  for (int round = 0; round < 4; ++round) {
    math::Extent across, upright;
    const double farthest = round == 0 ? math::kInfinite : distance;
    distance = 0;
    for (const Vec3& v : kept) {
      const Vec3 from = v - scene.target;
      distance = std::max(
          distance, std::max(std::abs(from.dot(up)), std::abs(from.dot(side)) / aspect) / half + from.dot(towards));
      const double depth =
          std::max(1e-6, 1 - from.dot(towards) / farthest);  // after a first round, which finds how far off the eye is
      across.hold(from.dot(side) / depth), upright.hold(from.dot(up) / depth);
    }
    if (round > 0 && round < 3) scene.target += across.middle() * side + upright.middle() * up;
  }
  scene.eye = scene.target + 1.04 * distance * towards;
  return scene;
}

SpaceScene pair_in_space(const job::Design& design, const job::Pair& pair, double driver, double driven,
                         const std::vector<roll::Contact>& contacts, PictureSize size, bool quick) {
  return posed(design, pair, meshes_of(design, pair), driver, driven, contacts, size, quick);
}

Film space_film(const job::Design& design, const job::RolledPair& rolled, const FilmWay& film, PictureSize size,
                bool quick, const std::function<std::vector<std::uint8_t>(const SpaceScene&)>& render) {
  const auto meshes = std::make_shared<Meshes>(meshes_of(design, *rolled.pair));
  const int per_pitch = static_cast<int>(rolled.result.positions.size());
  const auto [first, second] = rolled.pair->members();
  const double pitch = 2 * kPi / design.gears[rolled.pair->driver].teeth.count(), start = first.start,
               nominal = second.start;
  const double ratio = rolled.pair->law().ratio;
  return {film.pictures, [=, &design, &rolled](int i) {
            const int at = film.at(i), in_pitch = at % per_pitch;
            const roll::Position& p = rolled.result.positions[static_cast<std::size_t>(in_pitch)];
            const bool upper = (ratio < 0) == (film.sense > 0);  // turning back, the driver pushes on the other flank
            const std::optional<roll::Contact>& limit = upper ? p.upper : p.lower;
            const double on = ratio * pitch * (at - in_pitch) / per_pitch;
            const double driven = limit ? limit->driven + on : nominal + ratio * pitch * at / per_pitch;
            return render(posed(design, *rolled.pair, *meshes, start + pitch * at / per_pitch, driven,
                                upper ? p.touching_upper : p.touching_lower, size, quick));
          }};
}

}  // namespace palio::view
