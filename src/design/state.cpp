// A design as it is drawn in files, or as it comes out of the making.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/gear/core.hpp"
#include "palio/overloaded.hpp"

namespace palio::job {
namespace {

/// What stands around the teeth after a change; `bore` is the nominal one.
body::Features changed(body::Features f, double bore, const Process& process, const Process::Change& c) {
  // Holes by their own allowance, then all walls alike.
  const auto allow = [&](double diameter) { return c.holes * process.hole_smaller_by(diameter); };
  if (f.keyway) f.keyway->width += allow(bore), f.keyway->height += allow(bore);
  if (f.flat) f.flat->height += allow(bore);
  if (f.sided) f.sided->across_flats += allow(f.sided->across_flats);
  if (f.serration) f.serration = f.serration->widened(allow(f.serration->outer_diameter) / 2);
  if (f.shaped) f.shaped->wider += allow(f.shaped->outer_diameter) / 2;
  for (body::Step& s : f.steps)
    s.diameter += allow(s.diameter);
  for (body::Holes& h : f.holes)
    h.diameter += allow(h.diameter);
  for (body::CrossHole& h : f.cross_holes)
    h.diameter += allow(h.diameter);
  return body::drawn_in(std::move(f), -c.walls);
}

gear::Teeth with_spec(const gear::Teeth& teeth, const gear::CylindricalSpec& spec) {
  return teeth.is_rack() ? gear::Teeth(gear::Rack(spec)) : gear::Teeth(gear::CylindricalGear(spec));
}

}  // namespace

body::Solid body(const Gear& gear) {
  const auto layered = [&]() -> body::Solid {
    body::Body made = gear::body(gear.teeth, gear.features, gear.first_layer ? &*gear.first_layer : nullptr);
    return gear.radial == 1 && gear.axial == 1 ? made : body::scaled(made, gear.radial, gear.axial);
  };
  return gear.teeth.visit(overloaded{
      [&](const gear::CylindricalGear&) { return layered(); },
      [&](const gear::Rack&) { return layered(); },
      [&](const gear::CycloidalTeeth&) { return layered(); },
      [&](const gear::BevelGear& nominal) -> body::Solid {
        if (gear.radial == 1) return gear::body(nominal, gear.features);
        return gear::body(gear::BevelGear(gear::scaled(nominal.spec(), gear.radial)),
                          body::scaled(gear.features, gear.radial, gear.radial));
      },
  });
}

body::Body body(const Frame& frame) {
  body::Body made = body(frame.plan);
  return frame.radial == 1 && frame.axial == 1 ? made : body::scaled(made, frame.radial, frame.axial);
}

namespace {

/// Teeth with their surfaces moved. \throws InvalidParameter "process", telling by how much they can be
gear::Teeth moved(const Gear& g, const gear::Teeth& plain, double by) {
  try {
    return plain.grown(by);
  } catch (const InvalidParameter& e) {
    if (e.name() != "surface_offset") throw;
    const auto can = [&](double way) {
      try {
        (void)plain.grown(way);
        return true;
      } catch (const InvalidParameter&) {
        return false;
      }
    };
    double good = 0, bad = by;
    for (int i = 0; i < 12; ++i)
      (can((good + bad) / 2) ? good : bad) = (good + bad) / 2;
    constexpr double kStep = 1e-3;  // [mm]
    throw InvalidParameter("process", fmt::format("moving the outlines of gear.{} by {:.6g} mm", g.name, by),
                           e.allowed(),
                           fmt::format("they can be moved by {:.6g} mm: give less of kerf, surface_offset or "
                                       "first_layer_inset, or larger teeth",
                                       std::trunc(good / kStep) * kStep));
  }
}

/// The same with the lowest layers as they have them.
void grow(Gear& g, const gear::Teeth& plain, const Process& process, const Process::Change& c) {
  g.teeth = moved(g, plain, c.teeth);
  if (!(c.inset > 0)) return;
  g.features.first_layer_inset = c.inset, g.features.first_layer_height = process.inset_up_to;
  g.first_layer = moved(g, plain, c.teeth - c.inset);
}

/// Bevel teeth keep their surfaces (a parallel of a flank no longer runs to the apex): bore and shrinkage alone change.
Gear changed_bevel(Gear g, const Process& process, As state) {
  const Process::Change c = process.change(state);
  if (c.radial != c.axial) {
    throw InvalidParameter("process.shrinkage", "not the same along and across the axis",
                           "bevel teeth that shrink unevenly run to no apex", "give one number for both");
  }
  gear::BevelSpec spec = g.teeth.bevel().spec();
  const double bore = spec.bore_diameter;
  if (state == As::made && c.radial != 1) {
    spec = gear::scaled(spec, c.radial), g.features = body::scaled(g.features, c.radial, c.radial);
  } else {
    g.radial = g.axial = c.radial;
  }
  if (bore > 0) spec.bore_diameter += process.wider(bore, c);
  Process::Change holes = c;
  holes.walls = 0;
  g.features = changed(std::move(g.features), bore, process, holes);
  g.teeth = gear::BevelGear(spec);
  return g;
}

/// Cycloidal teeth: each of their curves has a parallel.
Gear changed_cycloidal(Gear g, const Process& process, As state) {
  const Process::Change c = process.change(state);
  gear::CycloidalTeeth teeth = g.teeth.cycloidal();
  if (state == As::drawn) {
    g.radial = c.radial, g.axial = c.axial;
  } else if (c.radial != 1 || c.axial != 1) {
    teeth = teeth.scaled(c.radial, c.axial);
    g.features = body::scaled(g.features, c.radial, c.axial);
  }
  gear::CycloidalTeeth::Blank blank = teeth.blank();
  const double bore = blank.bore_diameter;
  if (bore > 0) blank.bore_diameter += process.wider(bore, c);
  g.features = changed(std::move(g.features), bore, process, c);
  const gear::CycloidalTeeth plain = teeth.with(blank);
  grow(g, plain, process, c);
  return g;
}

/// Involute teeth on parallel axes, racks too: a parallel of an involute is one.
Gear changed_involute(Gear g, const Process& process, As state) {
  const Process::Change c = process.change(state);
  gear::CylindricalSpec spec = g.teeth.spec();
  const bool shrinks = c.radial != 1 || c.axial != 1;
  if (shrinks && state == As::drawn) g.radial = c.radial, g.axial = c.axial;
  if (shrinks && state == As::made) {
    if (c.radial != c.axial && g.teeth.twist() != 0) {
      throw InvalidParameter(
          "process.shrinkage", "not the same along and across the axis",
          "twisted teeth that shrink unevenly are no involute teeth of any module, so the made pair cannot be reported",
          "let the files correct shrinkage, or give one number");
    }
    spec = gear::scaled(spec, c.radial);
    spec.face_width *= c.axial / c.radial;
    spec.gap *= c.axial / c.radial;
    g.features = body::scaled(g.features, c.radial, c.axial);
  }
  const double bore = spec.bore_diameter;
  if (bore > 0) spec.bore_diameter += process.wider(bore, c);
  g.features = changed(std::move(g.features), bore, process, c);
  grow(g, with_spec(g.teeth, spec), process, c);
  return g;
}

Gear changed(const Gear& g, const Process& process, As state) {
  return g.teeth.visit(overloaded{
      [&](const gear::CylindricalGear&) { return changed_involute(g, process, state); },
      [&](const gear::Rack&) { return changed_involute(g, process, state); },
      [&](const gear::BevelGear&) { return changed_bevel(g, process, state); },
      [&](const gear::CycloidalTeeth&) { return changed_cycloidal(g, process, state); },
  });
}

/// The pair with other teeth at its mounted distance.
Pair met(Pair p, const gear::Teeth& driver, const gear::Teeth& driven) {
  static_cast<pair::Pair&>(p) = p.with(driver, driven);
  return p;
}

}  // namespace

Pair as(const Design& design, const Pair& pair, As state) {
  return met(pair, changed(design.gears[pair.driver], design.process, state).teeth,
             changed(design.gears[pair.driven], design.process, state).teeth);
}

Design as(const Design& design, As state) {
  Design made = design;
  made.as = state;
  const Process& process = design.process;
  const Process::Change c = process.change(state);
  for (Gear& g : made.gears)
    g = changed(g, process, state);
  for (Frame& f : made.frames) {
    const double r = c.radial, z = c.axial;
    if (state == As::drawn) {
      f.radial = r, f.axial = z;
    } else {
      f.plan.thickness *= z, f.plan.margin *= r, f.plan.post_diameter *= r;
      for (FramePlan::Axis& a : f.plan.axes)
        a.at *= r, a.bore *= r, a.post_height *= z, a.seat.diameter *= r, a.seat.depth *= z;
      for (FramePlan::Hole& h : f.plan.holes)
        h.at *= r, h.diameter *= r;
      for (body::Cutout& cut : f.plan.cutouts)
        cut = body::scaled(std::move(cut), r, z);
      for (curve::Outline& o : f.plan.outline)
        o = curve::scaled(std::move(o), r);
    }
    for (FramePlan::Axis& a : f.plan.axes)
      a.wider = a.bore > 0 ? process.wider(a.bore, c) : 0,
      a.seat.wider = a.seat.diameter > 0 ? process.wider(a.seat.diameter, c) : 0;
    for (FramePlan::Hole& h : f.plan.holes)
      h.wider = process.wider(h.diameter, c);
    f.plan.walls = c.walls;
    if (c.inset > 0) f.plan.inset = c.inset, f.plan.inset_height = process.inset_up_to;
  }
  // An axle alone is bought or turned: a process for gears changes none of it.
  for (Axle& a : made.axles) {
    if (a.gears.empty()) continue;
    if (state == As::made) a.diameter *= c.radial, a.stretch = c.axial;
    a.walls = c.walls;
  }
  for (Reducer& r : made.reducers)
    r = as(r, process, state);
  for (Pair& p : made.pairs)
    p = met(p, made.gears[p.driver].teeth, made.gears[p.driven].teeth);
  return made;
}

}  // namespace palio::job
