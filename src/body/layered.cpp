#include "palio/body/layered.hpp"

namespace palio::body {

Vec2 moved(const Body& body, const Vec2& p, double turn) { return body.slides ? Vec2(p.x() - turn, p.y()) : turned(p, turn); }

Body body(const gear::Teeth& teeth) {
  const gear::CylindricalSpec& spec = teeth.spec();
  const double b = spec.face_width, k = teeth.twist();
  Body made;
  made.slides = teeth.is_rack();
  const bool twisted = k != 0;
  if (teeth.internal()) {
    made.loops = {{curve::circle(teeth.gear().sizes().outer_diameter / 2, curve::Role::body, false)}, {teeth.outline(), twisted}};
    made.layers = {{0, {1}, {{0, -k * b / 2}, {b, k * b / 2}}}};
    return made;
  }
  made.loops = {{teeth.outline(), twisted}};
  std::vector<std::size_t> holes;
  if (spec.bore_diameter > 0) {
    holes = {1};
    made.loops.push_back({curve::circle(spec.bore_diameter / 2, curve::Role::bore, true)});
  }
  if (!spec.double_helical) {
    made.layers = {{0, holes, {{0, -k * b / 2}, {b, k * b / 2}}}};
    return made;
  }
  // The lower half rises to mid-face, the upper one falls back: both meet there, or at the groove between them.
  const double g = spec.gap / 2;
  const Level low{0, -k * b / 2}, high{b, -k * b / 2}, below{b / 2 - g, -k * g}, above{b / 2 + g, -k * g};
  if (g == 0) {
    made.layers = {{0, holes, {low, {b / 2, 0}, high}}};
    return made;
  }
  // The groove is as deep as the roots and half a clearance more, so that it is no edge of the root.
  const double groove = teeth.gear().sizes().root_diameter / 2 - 0.1 * spec.module;
  made.loops.push_back({curve::circle(groove, curve::Role::body, false)});
  made.layers = {{0, holes, {low, below}}, {made.loops.size() - 1, holes, {{below.z, 0}, {above.z, 0}}}, {0, holes, {above, high}}};
  return made;
}

MassProperties mass_properties(const Body& body) {
  MassProperties sum{0, Vec3::Zero(), 0};
  for (const Layer& layer : body.layers) {
    double area = 0, polar = 0;
    Vec2 first = Vec2::Zero();
    const auto add = [&](const curve::Outline& outline) {
      area += curve::signed_area(outline);
      polar += curve::polar_moment(outline);
      first += curve::first_moment(outline);
    };
    add(body.loops[layer.outer].outline);
    for (const std::size_t hole : layer.holes) add(body.loops[hole].outline);
    const double low = layer.levels.front().z, height = layer.levels.back().z - low;
    // Twist and slide leave areas as they are; a slide is even about mid-face, where the outline stands.
    sum.volume += area * height;
    sum.center += height * Vec3(first.x(), first.y(), area * (low + height / 2));
    sum.polar_moment += polar * height;
  }
  sum.center /= sum.volume;
  return sum;
}

}  // namespace palio::body
