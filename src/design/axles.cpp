// What is made of shafts themselves: axles, and gears that are one piece.
#include <algorithm>
#include <cmath>

#include "palio/body/stack.hpp"
#include "palio/gear/core.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "resolver.hpp"

namespace palio::job {

body::Body body(const Design& design, const Axle& axle) {
  if (axle.gears.empty()) return body::rod(axle.diameter, 0, axle.to - axle.from);
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
  const double diameter = axle.diameter > 0 ? axle.diameter + 2 * axle.walls : 0;
  body::Body made = body::stacked(std::move(all), diameter, 0, axle.stretch * (axle.to - axle.from));
  return first.radial == 1 && first.axial == 1 ? made : body::scaled(made, first.radial, first.axial);
}

void Resolver::make_axles() {
  for (const Settings& s : tables_.shafts) {
    const Value *diameter = s.find("diameter"), *ends = s.find("ends"), *joined = s.find("one_piece");
    const bool one_piece = s.flag("one_piece");
    const std::string path = "shaft." + s.name;
    if (ends && ends->numbers.size() != 2)
      note("bad-value", ends->where, path + ".ends",
           fmt::format("has {} numbers; give two, how far it stands out below and above", ends->numbers.size()));
    if (ends && !diameter)
      note("missing-key", ends->where, path + ".diameter", "is missing: an axle that stands out needs a diameter");
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
    const double below = ends ? ends->numbers[0] : 0, above = ends ? ends->numbers[1] : 0;
    Axle axle{s.name,
              *member,
              at.group,
              at.axis,
              at.zero + along.low() - below,
              at.zero + along.high() + above,
              diameter ? diameter->number : 0};
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
