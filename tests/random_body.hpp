// Features around teeth: one of each for tables, and seeded random ones.
#pragma once

#include <cmath>
#include <functional>
#include <vector>

#include "palio/angle.hpp"
#include "palio/body/features.hpp"
#include "palio/gear/core.hpp"
#include "palio/gear/spline.hpp"
#include "random_gear.hpp"

namespace palio::test {

struct NamedFeature {
  const char* name;
  std::function<void(body::Features&, gear::CylindricalSpec&)> add;
};

/// A square to be cut out, with one side an arc that bulges outwards. \param h  half of its width
inline curve::Outline window(const Vec2& at, double h) {
  const Vec2 a = at + Vec2(-h, -h), b = at + Vec2(h, -h), c = at + Vec2(h, h), d = at + Vec2(-h, h);
  curve::Outline made;
  made.period = {{curve::Line{a, b}, 0, 1, curve::Role::body},
                 {curve::Arc{at, h * std::sqrt(2.0)}, -kPi / 4, kPi / 4, curve::Role::body},
                 {curve::Line{c, d}, 0, 1, curve::Role::body},
                 {curve::Line{d, a}, 0, 1, curve::Role::body}};
  return curve::reversed(made);
}

/// Features that go together on the wheel below, each by itself.
inline std::vector<NamedFeature> features() {
  using F = body::Features;
  using S = gear::CylindricalSpec;
  return {{"keyway",
           [](F& f, S&) {
             f.keyway = body::Keyway{4, 13.8, {0, kPi}};
           }},
          {"flat",
           [](F& f, S&) {
             f.flat = body::Flat{10.5, kPi / 2};
           }},
          {"hex",
           [](F& f, S& s) {
             f.sided = body::Sided{6, 11, 0.2}, s.bore_diameter = 0;
           }},
          {"double D",
           [](F& f, S&) {
             f.flat = body::Flat{9, 0.3, true};
           }},
          {"square",
           [](F& f, S& s) {
             f.sided = body::Sided{4, 9, 0.2}, s.bore_diameter = 0;
           }},
          {"serrations",
           [](F& f, S& s) {
             f.serration = body::Serration{25, 10.8, 12, 0.1}, s.bore_diameter = 0;
           }},
          {"spline",
           [](F& f, S& s) {
             f.shaped = gear::shaped_bore({12, 0.9, kPi / 6, 0.05}, 0.03, 0.1), s.bore_diameter = 0;
           }},
          {"chamfered bore", [](F& f, S&) { f.bore_chamfer = 0.7; }},
          {"counterbore from above",
           [](F& f, S&) {
             f.steps.push_back({true, 19, 3}), f.steps.push_back({true, 17, 5});
           }},
          {"bearing from below",
           [](F& f, S&) {
             f.steps.push_back({false, 19, 4, true});
           }},
          {"top hub",
           [](F& f, S&) {
             f.hubs.push_back({true, 22, 6});
           }},
          {"bottom hub",
           [](F& f, S&) {
             f.hubs.push_back({false, 20, 3});
           }},
          {"stepped hub",
           [](F& f, S&) {
             f.hubs.push_back({true, 24, 2}), f.hubs.push_back({true, 18, 5});
           }},
          {"set screw",
           [](F& f, S&) {
             f.hubs.push_back({true, 22, 9}), f.cross_holes.push_back({3.2, 0.4, 16.5});
           }},
          {"set screw with a nut, and another",
           [](F& f, S&) {
             f.hubs.push_back({false, 26, 10});
             f.cross_holes.push_back({3.4, 2, -5, false, body::NutPocket{5.7, 2.6}});
             f.cross_holes.push_back({2.5, 4, -5});
           }},
          {"pin across",
           [](F& f, S&) {
             f.hubs.push_back({true, 21, 8}), f.cross_holes.push_back({3, 1, 15, true});
           }},
          {"flange",
           [](F& f, S&) {
             f.hubs.push_back({false, 80, 2});
           }},
          {"web",
           [](F& f, S&) {
             f.web = body::Web{4, 26, 52, body::Faces::both};
           }},
          {"web from above",
           [](F& f, S&) {
             f.web = body::Web{3, 26, 52, body::Faces::top};
           }},
          {"web from below",
           [](F& f, S&) {
             f.web = body::Web{3, 26, 52, body::Faces::bottom};
           }},
          {"spokes",
           [](F& f, S&) {
             f.spokes = body::Spokes{5, 4, 29, 48, 1.5};
           }},
          {"cut-outs",
           [](F& f, S&) {
             f.cutouts.push_back({{window({19, 0}, 3), window({-22, 0}, 1.5)}});
           }},
          {"pocket with an island",
           [](F& f, S&) {
             f.cutouts.push_back({{window({19, 0}, 3), curve::reversed(window({19, 0}, 1))}, 2.5, false});
           }},
          {"holes",
           [](F& f, S&) {
             f.holes.push_back({4, 17, 1.2, 0.785});
           }},
          {"marks",
           [](F& f, S&) {
             f.marks = body::Marks{0.4, {0.0}, {2 * kPi / 43 * 3.5}, "m1.5 z43"};
           }},
          {"sector", [](F& f, S&) { f.sector_teeth = 14, f.sector_back_diameter = 56; }},
          {"first layer", [](F& f, S&) { f.first_layer_inset = 0.12, f.first_layer_height = 0.3; }},
          {"helical", [](F&, S& s) { s.helix_angle = Angle::degrees(15); }},
          {"double helical", [](F&, S& s) { s.helix_angle = Angle::degrees(20), s.double_helical = true; }}};
}

/// The wheel they stand on.
inline gear::CylindricalSpec featured_wheel() {
  gear::CylindricalSpec s;
  s.teeth = 43, s.module = 1.5, s.face_width = 12, s.bore_diameter = 12;
  return s;
}

inline body::Body featured(const gear::CylindricalSpec& spec, const body::Features& f) {
  const gear::CylindricalGear g(spec);
  const gear::Teeth teeth(g);
  if (f.first_layer_inset == 0) return gear::body(teeth, f);
  const gear::Teeth low = teeth.grown(-f.first_layer_inset);
  return gear::body(teeth, f, &low);
}

/// Anything that a job may ask for, sensible or not.
inline body::Features any_features(unsigned seed, const gear::CylindricalGear& g) {
  Draw draw(seed * 7919 + 13);
  body::Features f;
  const double root = g.sizes().root_diameter, bore = g.spec().bore_diameter, b = g.spec().face_width;
  const auto often = [&](int one_in) { return draw.whole(1, one_in) == 1; };
  if (bore > 0 && often(3))
    f.keyway = body::Keyway{draw.between(0.1, 0.6) * bore, bore * draw.between(1.0, 1.4), {draw.between(0, 6.28)}};
  if (bore > 0 && !f.keyway && often(4)) f.flat = body::Flat{bore * draw.between(0.5, 0.98), draw.between(0, 6.28)};
  if (bore > 0 && !f.keyway && !f.flat && often(3)) f.bore_chamfer = draw.between(0, 0.1) * bore;
  if (bore == 0 && often(3)) f.sided = body::Sided{draw.of({4, 6}), draw.between(0.05, 0.5) * root, draw.between(0, 1)};
  if (bore == 0 && !f.sided && often(3)) {
    const double outer = draw.between(0.05, 0.5) * root;
    f.serration = body::Serration{draw.of({5, 21, 25}), 0.8 * outer, outer, draw.between(0, 1)};
  }
  for (int i = draw.whole(0, 2); i > 0; --i)
    f.hubs.push_back({often(2), draw.between(0.2, 1.4) * root, draw.between(0.1, 1) * b});
  if (!f.hubs.empty() && often(4)) {
    const body::Hub& hub = f.hubs.front();
    const double middle = hub.length * draw.between(0.2, 0.8);
    f.cross_holes.push_back(
        {hub.length * draw.between(0.05, 0.6), draw.between(0, 6.28), hub.top ? b + middle : -middle, often(3)});
  }
  if (often(2)) {
    const double inner = draw.between(0.2, 0.7) * root;
    f.web = body::Web{draw.between(0.1, 0.9) * b, inner, inner + draw.between(0.05, 0.6) * root,
                      often(3)   ? body::Faces::top
                      : often(2) ? body::Faces::bottom
                                 : body::Faces::both};
  }
  if (often(3)) {
    const double inner = draw.between(0.2, 0.6) * root, outer = inner + draw.between(0.05, 0.5) * root;
    f.spokes = body::Spokes{draw.whole(2, 9), draw.between(0.02, 0.15) * root, inner, outer,
                            draw.between(0, 0.1) * (outer - inner)};
  }
  for (int i = draw.whole(0, 2); i > 0; --i)
    f.holes.push_back(
        {draw.whole(1, 8), draw.between(0.2, 1) * root, draw.between(0.01, 0.15) * root, draw.between(0, 3)});
  if (often(6)) f.marks = body::Marks{draw.between(0.02, 0.3) * b, {0.0}, {}, often(2) ? "m2 z9" : ""};
  if (often(6)) f.sector_teeth = draw.whole(1, g.spec().teeth), f.sector_back_diameter = draw.between(0.2, 1.1) * root;
  if (often(6))
    f.first_layer_inset = draw.between(0.001, 0.02) * g.spec().module,
    f.first_layer_height = draw.between(0.02, 0.2) * b;
  for (int i = std::max(0, draw.whole(-9, 2)); i > 0; --i)
    f.steps.push_back({often(2), draw.between(0.1, 0.7) * root, draw.between(0.05, 0.7) * b, often(2)});
  return f;
}

}  // namespace palio::test
