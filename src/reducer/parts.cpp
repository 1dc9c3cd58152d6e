#include "palio/reducer/parts.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "palio/angle.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::reducer {
namespace {

using body::Body;
using curve::Arc;
using curve::Outline;
using curve::Role;

/// Stacks layers of loops.
class Stack {
 public:
  explicit Stack(double bottom) : z_(bottom) {}
  std::size_t loop(Outline outline, const char* feature) {
    made_.loops.push_back({std::move(outline), false, feature});
    return made_.loops.size() - 1;
  }
  std::size_t round(double diameter, const char* feature, bool hole = false, const Vec2& at = Vec2::Zero()) {
    return loop(curve::circle(diameter / 2, hole ? Role::bore : Role::body, hole, at), feature);
  }
  void layer(double height, const std::vector<std::size_t>& loops) {
    body::Layer l;
    for (const std::size_t i : loops)
      l.walls.emplace_back(i);
    l.levels = {{z_, 0}, {z_ + height, 0}};
    z_ += height;
    made_.layers.push_back(std::move(l));
  }
  Body take() { return std::move(made_); }

 private:
  Body made_;
  double z_;
};

double mark_size(const Reducer& r) { return std::min(2.0, 0.5 * r.spec().roller_diameter); }

Body disc(const Reducer& r) {
  const Spec& s = r.spec();
  Stack stack(0);
  std::vector<std::size_t> all{stack.loop(r.edge(), "teeth"), stack.round(s.bore_diameter, "bore", true)};
  for (int i = 0; i < s.output_pins; ++i) {
    const double angle = r.discs()[0].hole_phase + 2 * kPi * i / s.output_pins;
    all.push_back(stack.round(r.sizes().output_hole_diameter, "holes", true,
                              from_polar(s.output_pin_circle_diameter / 2, angle)));
  }
  // The mark lies on +x, between the first and the last hole, as near to the root as the wall allows.
  const double size = mark_size(r), root = r.sizes().disc_root_diameter / 2, at = root - 1.2 * size,
               depth = std::min(0.4, 0.2 * s.face_width);
  const Vec2 hole = from_polar(s.output_pin_circle_diameter / 2, r.discs()[0].hole_phase),
             other = from_polar(s.output_pin_circle_diameter / 2, r.discs()[0].hole_phase - 2 * kPi / s.output_pins);
  const double room = std::min((Vec2(at, 0) - hole).norm(), (Vec2(at, 0) - other).norm()) -
                      r.sizes().output_hole_diameter / 2 - size / 2;
  if (room < 0.3 || at < s.bore_diameter / 2 + size) {
    stack.layer(s.face_width, all);
    return stack.take();
  }
  stack.layer(s.face_width - depth, all);
  all.push_back(stack.round(size, "mark", true, {at, 0}));
  stack.layer(depth, all);
  return stack.take();
}

/// The hole of the ring: its inner circle with a seat, or half a roller, at each roller's place. Clockwise.
Outline ring_opening(const Reducer& r) {
  const Spec& s = r.spec();
  const bool seats = s.ring == RingForm::seats;
  const double R = s.roller_circle_diameter / 2, inner = r.sizes().ring_inner_diameter / 2,
               seat = s.roller_diameter / 2 + (seats ? s.seat_clearance / 2 : 0);
  const double gamma = std::acos(std::clamp((inner * inner - R * R - seat * seat) / (2 * R * seat), -1.0, 1.0));
  const Vec2 corner = Vec2(R, 0) + from_polar(seat, gamma);
  const double beta = std::atan2(corner.y(), corner.x()), half = kPi / s.rollers;
  Outline o;
  o.count = s.rollers, o.clockwise = true;
  const Arc wall{Vec2::Zero(), inner}, round{Vec2(R, 0), seat};
  o.period = {{wall, half, beta, Role::root},
              {round, gamma, seats ? -gamma : 2 * kPi - gamma, Role::flank},
              {wall, -beta, -half, Role::root}};
  return o;
}

Body ring(const Reducer& r) {
  const double height = r.sizes().height, size = mark_size(r), depth = std::min(0.4, 0.2 * height);
  Stack stack(0);
  std::vector<std::size_t> all{stack.round(r.sizes().ring_outer_diameter, "outer_diameter"),
                               stack.loop(ring_opening(r), "teeth")};
  stack.layer(height - depth, all);
  const double seat = (r.spec().roller_circle_diameter + r.spec().roller_diameter + r.spec().seat_clearance) / 2,
               outer = r.sizes().ring_outer_diameter / 2;
  const double dot = std::min(size, 0.5 * (outer - seat));
  all.push_back(stack.round(dot, "mark", true, {(outer + seat) / 2, 0}));
  stack.layer(depth, all);
  return stack.take();
}

Body roller(const Reducer& r) {
  Stack stack(0);
  std::vector<std::size_t> all{stack.round(r.spec().roller_diameter, "roller")};
  if (r.spec().roller_pin_diameter > 0) all.push_back(stack.round(r.spec().roller_pin_diameter, "bore", true));
  stack.layer(r.sizes().height, all);
  return stack.take();
}

/// Lies along z with the first journal from z = 0; the input end below it.
Body shaft(const Reducer& r) {
  const Spec& s = r.spec();
  const Sizes& z = r.sizes();
  const double depth = std::min(0.4, 0.2 * s.face_width), dot = 0.3 * z.shaft_diameter;
  Stack stack(-s.face_width);
  const std::size_t end = stack.round(z.shaft_diameter, "shaft");
  stack.layer(depth, {end, stack.round(dot, "mark", true, {0.25 * z.shaft_diameter, 0})});
  stack.layer(s.face_width - depth, {end});
  for (int d = 0; d < s.discs; ++d) {
    // Between two journals a collar that holds both.
    if (d > 0 && s.disc_gap > 0)
      stack.layer(s.disc_gap, {stack.round(z.journal_diameter + 2.2 * s.eccentricity, "collar")});
    const double turn = r.discs()[static_cast<std::size_t>(d)].ahead;
    stack.layer(s.face_width, {stack.round(z.journal_diameter, "journal", false, from_polar(s.eccentricity, turn))});
  }
  return stack.take();
}

/// Its pins begin at z = 0, the lower face of the discs.
Body flange(const Reducer& r) {
  const Spec& s = r.spec();
  const double R_p = s.output_pin_circle_diameter / 2, plate = s.face_width, depth = std::min(0.4, 0.2 * plate),
               size = mark_size(r);
  Stack stack(0);
  std::vector<std::size_t> pins;
  pins.reserve(static_cast<std::size_t>(s.output_pins));
  for (int i = 0; i < s.output_pins; ++i)
    pins.push_back(stack.round(s.output_pin_diameter, "output_pins", false,
                               from_polar(R_p, r.flange_phase().radians() + 2 * kPi * i / s.output_pins)));
  stack.layer(r.sizes().height + std::max(s.disc_gap, 0.0), pins);
  const double outer = 2 * R_p + 2 * s.output_pin_diameter;
  const std::size_t face = stack.round(outer, "flange");
  stack.layer(plate - depth, {face});
  const std::size_t hub = stack.round(r.sizes().shaft_diameter, "hub");
  stack.layer(depth, {face, stack.round(size, "mark", true, {outer / 2 - 1.2 * size, 0})});
  stack.layer(s.face_width, {hub});
  return stack.take();
}

}  // namespace

std::vector<Part> parts(const Reducer& r) {
  const Spec& s = r.spec();
  const double Z = r.sizes().lobes;
  std::vector<Part> all;
  const auto add = [&](const std::string& name, PartKind kind, Body body) -> Part& {
    all.emplace_back();
    all.back().name = name, all.back().kind = kind, all.back().body = std::move(body);
    return all.back();
  };
  add("ring", PartKind::ring, ring(r));
  if (s.ring == RingForm::seats) {
    const Body one = roller(r);
    for (int k = 0; k < s.rollers; ++k) {
      Part& made = add(k == 0 ? "roller" : "roller_" + std::to_string(k), PartKind::roller, one);
      if (k > 0) made.alike = "roller";
      made.number = static_cast<std::size_t>(k);
      made.at = Vec3(r.roller(k).x(), r.roller(k).y(), 0);
    }
  }
  add("shaft", PartKind::shaft, shaft(r)).turns_per_input = 1;
  const Body first = disc(r);
  for (std::size_t d = 0; d < r.discs().size(); ++d) {
    const DiscPlace& place = r.discs()[d];
    // The same part wherever the holes agree, turned over or not.
    const bool alike = d > 0 && (place.flipped || std::abs(std::remainder(place.hole_phase - r.discs()[0].hole_phase,
                                                                          2 * kPi / s.output_pins)) < math::kAlike);
    Body body = first;
    if (d > 0 && !alike) {
      // The same loops, holes further round; the mark stays.
      for (body::Loop& l : body.loops) {
        if (l.feature == "holes")
          l.outline = curve::turned(std::move(l.outline), place.hole_phase - r.discs()[0].hole_phase);
      }
    }
    const Vec2 c = r.centre(d, 0);
    Part& made = add(d == 0 ? "disc" : "disc_" + std::to_string(d + 1), PartKind::disc, std::move(body));
    if (alike) made.alike = "disc";
    made.number = d;
    made.at = Vec3(c.x(), c.y(), place.height + (place.flipped ? s.face_width : 0));
    made.turn = place.turn, made.flipped = place.flipped;
    made.turns_per_input = -1 / Z, made.orbit = s.eccentricity;
  }
  add("flange", PartKind::flange, flange(r)).turns_per_input = -1 / Z;
  return all;
}

}  // namespace palio::reducer
