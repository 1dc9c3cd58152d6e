// Features made larger or smaller, and sizes that are usual.
#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/body/features.hpp"
#include "palio/curve/parallel.hpp"
#include "palio/error.hpp"

namespace palio::body {

const Step* Features::seat() const {
  const auto it = std::find_if(steps.begin(), steps.end(), [](const Step& s) { return s.seat; });
  return it == steps.end() ? nullptr : &*it;
}

double Serration::wall_distance() const {
  // From bottom (outer circle, on +x) to tip (inner circle, half a pitch on): the line's distance from the axis.
  const double half = kPi / teeth, inner = inner_diameter / 2, outer = outer_diameter / 2;
  return inner * outer * std::sin(half) / std::hypot(outer - inner * std::cos(half), inner * std::sin(half));
}

Serration Serration::widened(double by) const {
  // All walls pass the axis at one distance: moved alike they are the same figure, larger.
  const double larger = 1 + by / wall_distance();
  return {teeth, inner_diameter * larger, outer_diameter * larger, angle};
}

curve::Outline drawn_in(const curve::Outline& outline, double by, const char* feature) {
  try {
    return curve::parallel(outline, -by);
  } catch (const InvalidParameter& e) {
    throw InvalidParameter(feature, fmt::format("with walls moved by {:.6g} mm for the process", by), e.allowed(),
                           "draw it with larger rounds and wider necks");
  }
}

Cutout drawn_in(Cutout cutout, double by) {
  for (curve::Outline& loop : cutout.loops)
    loop = drawn_in(loop, by, "cutouts");
  return cutout;
}

Cutout scaled(Cutout cutout, double radial, double axial) {
  for (curve::Outline& loop : cutout.loops)
    loop = curve::scaled(std::move(loop), radial);
  cutout.depth *= axial;
  return cutout;
}

Features drawn_in(Features f, double by) {
  if (f.keyway) f.keyway->width += 2 * by, f.keyway->height += 2 * by;
  if (f.flat) f.flat->height += 2 * by;
  if (f.sided) f.sided->across_flats += 2 * by;
  if (f.serration) f.serration = f.serration->widened(by);
  if (f.shaped) f.shaped->wider += by;
  for (Step& s : f.steps)
    s.diameter += 2 * by;
  for (Hub& h : f.hubs)
    h.diameter -= 2 * by;
  if (f.web) f.web->inner_diameter -= 2 * by, f.web->outer_diameter += 2 * by;
  if (f.spokes) {
    f.spokes->inner_diameter -= 2 * by, f.spokes->outer_diameter += 2 * by;
    f.spokes->width -= 2 * by, f.spokes->fillet_radius = std::max(0.0, f.spokes->fillet_radius + by);
  }
  for (Holes& h : f.holes)
    h.diameter += 2 * by;
  for (Cutout& c : f.cutouts)
    c = drawn_in(std::move(c), by);
  for (CrossHole& h : f.cross_holes) {
    h.diameter += 2 * by;
    if (h.nut) h.nut->across_flats += 2 * by, h.nut->thickness += 2 * by;
  }
  f.sector_back_diameter -= 2 * by;
  return f;
}

Features scaled(Features f, double radial, double axial) {
  if (f.keyway) f.keyway->width *= radial, f.keyway->height *= radial;
  if (f.flat) f.flat->height *= radial;
  if (f.sided) f.sided->across_flats *= radial;
  if (f.serration) f.serration->inner_diameter *= radial, f.serration->outer_diameter *= radial;
  f.bore_chamfer *= radial;
  for (Step& s : f.steps)
    s.diameter *= radial, s.depth *= axial;
  for (Hub& h : f.hubs)
    h.diameter *= radial, h.length *= axial;
  if (f.web) f.web->inner_diameter *= radial, f.web->outer_diameter *= radial, f.web->thickness *= axial;
  if (f.spokes) {
    for (double* length :
         {&f.spokes->width, &f.spokes->inner_diameter, &f.spokes->outer_diameter, &f.spokes->fillet_radius})
      *length *= radial;
  }
  for (Holes& h : f.holes) {
    h.circle_diameter *= radial, h.diameter *= radial;
    if (h.row) h.row->middle *= radial, h.row->spacing *= radial;
  }
  for (Cutout& c : f.cutouts)
    c = scaled(std::move(c), radial, axial);
  for (CrossHole& h : f.cross_holes) {
    h.diameter *= radial, h.height *= axial;
    if (h.nut) h.nut->across_flats *= radial, h.nut->thickness *= radial;
  }
  f.sector_back_diameter *= radial;
  if (f.marks) f.marks->depth *= axial;
  return f;
}

Heights heights(const Features& features, double width, double plate) {
  Heights h{-plate, width + plate};
  for (const Hub& hub : features.hubs) {
    if (hub.top)
      h.top = std::max(h.top, width + plate + hub.length);
    else
      h.bottom = std::min(h.bottom, -plate - hub.length);
  }
  return h;
}

const std::vector<KeySize>& key_sizes() {
  static const std::vector<KeySize> all{{6, 8, 2, 1.0},    {8, 10, 3, 1.4},   {10, 12, 4, 1.8},  {12, 17, 5, 2.3},
                                        {17, 22, 6, 2.8},  {22, 30, 8, 3.3},  {30, 38, 10, 3.3}, {38, 44, 12, 3.3},
                                        {44, 50, 14, 3.8}, {50, 58, 16, 4.3}, {58, 65, 18, 4.4}, {65, 75, 20, 4.9},
                                        {75, 85, 22, 5.4}, {85, 95, 25, 5.4}, {95, 110, 28, 6.4}};
  return all;
}

std::optional<Keyway> standard_keyway(double bore_diameter) {
  constexpr double kSame = 1e-9;  // a bore rewritten from inches is the same bore
  for (const KeySize& k : key_sizes()) {
    // A bore drawn with a little play still takes the key of its shaft.
    if (bore_diameter > k.over * (1 + kSame) && bore_diameter <= k.up_to * (1 + kSame))
      return Keyway{k.width, bore_diameter + k.depth, {0.0}};
  }
  return std::nullopt;
}

}  // namespace palio::body
