// What is made of shafts themselves: axles, and gears that are one piece.
#include <algorithm>
#include <array>
#include <cmath>

#include "palio/body/stack.hpp"
#include "palio/gear/core.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/values/retaining_rings.hpp"
#include "resolver.hpp"

namespace palio::job {

body::Body body(const Design& design, const Axle& axle) {
  const auto limits = axle.fit_limits();
  const double turned = axle.diameter + (limits ? limits->middle() : 0);
  if (axle.gears.empty()) return body::rod(turned, 0, axle.to - axle.from, axle.grooves);
  const Gear& first = design.gears[axle.gears.front()];
  std::vector<body::Stacked> all;
  const auto lower = [&](const Gear& g) { return axle.stretch * (g.height - axle.from) - g.teeth.face_width() / 2; };
  const auto lowest = std::min_element(axle.gears.begin(), axle.gears.end(), [&](std::size_t a, std::size_t b) {
    return lower(design.gears[a]) < lower(design.gears[b]);
  });
  for (const std::size_t i : axle.gears) {
    const Gear& g = design.gears[i];
    // The first layer of a print is that of the whole.
    const bool on_bed = i == *lowest && lower(g) < math::kAlike;
    body::Features features = g.features;
    if (!on_bed) features.first_layer_inset = features.first_layer_height = 0;
    all.push_back({g.name, gear::body(g.teeth, features, on_bed && g.first_layer ? &*g.first_layer : nullptr), lower(g),
                   g.phase - first.phase});
  }
  const double diameter = axle.diameter > 0 ? turned + 2 * axle.walls : 0;
  std::vector<body::Neck> grooves = axle.grooves;
  for (body::Neck& n : grooves)
    n = {axle.stretch * n.from, axle.stretch * n.to, n.diameter + 2 * axle.walls};
  body::Body made = body::stacked(std::move(all), diameter, 0, axle.stretch * (axle.to - axle.from), grooves);
  return first.radial == 1 && first.axial == 1 ? made : body::scaled(made, first.radial, first.axial);
}

namespace {

/// What is said of the retaining rings of an axle, or known by its diameter.
RetainingRing ring_of(const Settings& s, double diameter) {
  const RetainingRing* known = retaining_ring(diameter);
  RetainingRing ring = known ? *known : RetainingRing{diameter, 0, 0, 0};
  ring.thickness = s.number("ring.thickness", ring.thickness);
  ring.groove_diameter = s.number("ring.groove_diameter", ring.groove_diameter);
  ring.groove_width = s.number("ring.groove_width", ring.groove_width);
  return ring;
}

}  // namespace

/// How far an axle stands out below and above what is on it, with the grooves of its rings.
std::array<double, 2> Resolver::standing_out(const Settings& s, Axle& axle) {
  const std::string path = "shaft." + s.name;
  const Value *ends = s.find("ends"), *ring = s.any_below("ring");
  std::array<double, 2> out{};
  if (ends) out = {ends->numbers[0], ends->numbers[1]};
  if (!ring) return out;
  const RetainingRing r = ring_of(s, axle.diameter);
  if (!(r.thickness > 0) || !(r.groove_diameter > 0) || !(r.groove_width > 0)) {
    note("missing-key", ring->where, path + ".ring",
         fmt::format("no ring is tabulated for an axle of {}; give ring.thickness, ring.groove_diameter and "
                     "ring.groove_width, or a diameter of the table",
                     print(axle.diameter)));
    return out;
  }
  if (r.groove_diameter >= axle.diameter) {
    note("bad-value", ring->where, path + ".ring.groove_diameter",
         fmt::format("is {}, but has to be below the axle's {}", print(r.groove_diameter), print(axle.diameter)));
    return out;
  }
  if (r.groove_width < r.thickness) {
    note("bad-value", ring->where, path + ".ring.groove_width",
         fmt::format("is {}, but the ring is {} thick", print(r.groove_width), print(r.thickness)));
    return out;
  }
  const double least_play = r.groove_width - r.thickness, play = s.number("ring.play", least_play);
  if (play < least_play - math::kAlike) {
    note("bad-value", s.find("ring.play")->where, path + ".ring.play",
         fmt::format(
             "is {}, but the groove is wider than its ring by {}, and would begin under what stands on the axle; "
             "give at least that",
             print(play), print(least_play)));
    return out;
  }
  axle.ring_thickness = r.thickness;
  const double wall = play + r.thickness, least = wall + r.edge();  // of the groove, off what it holds
  const std::string side = s.text("ring.side");
  for (const bool above : {false, true}) {
    if (side == (above ? "below" : "above")) continue;
    double& end = out[above ? 1 : 0];
    if (!ends) end = least;
    if (end < least - math::kAlike)
      note("bad-value", ends->where, path + ".ends",
           fmt::format("lets the axle stand out {} {}, but a retaining ring there asks for {}", print(end),
                       above ? "above" : "below", print(least)));
  }
  const double length = axle.to - axle.from;
  if (side != "above") axle.grooves.push_back({out[0] - wall, out[0] - wall + r.groove_width, r.groove_diameter});
  if (side != "below")
    axle.grooves.push_back({out[0] + length + wall - r.groove_width, out[0] + length + wall, r.groove_diameter});
  return out;
}

void Resolver::make_axles() {
  for (const Settings& s : tables_.shafts) {
    const Value *diameter = s.find("diameter"), *ends = s.find("ends"), *joined = s.find("one_piece");
    const bool one_piece = s.flag("one_piece");
    const std::string path = "shaft." + s.name;
    if (ends && ends->numbers.size() != 2)
      note("bad-value", ends->where, path + ".ends",
           fmt::format("has {} numbers; give two, how far it stands out below and above", ends->numbers.size()));
    for (const auto& [key, what] :
         {std::pair{"ends", "an axle that stands out"}, {"fit", "a fit"}, {"ring", "a retaining ring"}}) {
      if (const Value* v = s.any_below(key); v && !diameter)
        note("missing-key", v->where, path + ".diameter", fmt::format("is missing: {} needs a diameter", what));
    }
    const auto member = plans_.named(s.name);
    if ((!diameter && !one_piece) || !member || !plans_.axes[*member] || mistakes_.count() > 0) continue;
    const std::vector<Item>& items = plans_.items[*member];
    const AxisPlace& at = *plans_.axes[*member];
    math::Extent along;
    for (const Item& item : items) {
      along.hold(item.lower), along.hold(item.lower + item.width);
      if (item.sort != Item::Sort::gear || design_.gears[item.index].teeth.is_bevel()) continue;
      const body::Solid solid = body(design_.gears[item.index]);  // hubs stand over the face
      along.hold(item.lower + solid.layers().bottom()), along.hold(item.lower + solid.layers().top());
    }
    Axle axle{s.name,
              *member,
              at.group,
              at.axis,
              at.zero + along.low(),
              at.zero + along.high(),
              diameter ? diameter->number : 0};
    axle.fit = s.text("fit");
    if (!axle.fit.empty() && !axle.fit_limits()) {
      note("bad-value", s.find("fit")->where, path + ".fit",
           fmt::format("is \"{}\", but limits are known of axles up to 120 mm, and this one has {}; leave it out",
                       axle.fit, print(axle.diameter)));
      continue;
    }
    const std::array<double, 2> out = standing_out(s, axle);
    if (mistakes_.count() > 0) continue;
    axle.from -= out[0], axle.to += out[1];
    if (!(axle.to > axle.from)) {
      note("bad-value", ends->where, path + ".ends",
           fmt::format("leave an axle {} long; let it stand out further", print(axle.to - axle.from)));
      continue;
    }
    if (one_piece) {
      const auto plain = [&](const Item& i) {
        return i.sort == Item::Sort::gear && !design_.gears[i.index].teeth.is_bevel() &&
               !design_.gears[i.index].teeth.internal();
      };
      if (!std::all_of(items.begin(), items.end(), plain)) {
        note("not-yet", joined->where, path + ".one_piece",
             "joins external gears on parallel axes only, no bevel gears, rings, carriers or reducers; leave it out, "
             "and "
             "give a diameter for an axle");
        continue;
      }
      for (const Item& item : items)
        axle.gears.push_back(item.index);
    }
    try {
      (void)body(design_, axle);
    } catch (const InvalidParameter& e) {
      const Value* v = s.find(e.name());
      note("features-collide", v ? v->where : s.where, path + "." + e.name(),
           in_job_units(fmt::format("cannot be: {}; {}", e.allowed(), e.remedy())));
      continue;
    }
    design_.axles.push_back(std::move(axle));
  }
}

}  // namespace palio::job
