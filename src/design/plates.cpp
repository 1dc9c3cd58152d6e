// Plates that carry axes: which ones, and where the plate lies.
#include <algorithm>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/gear/core.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/values/bearings.hpp"
#include "palio/values/motors.hpp"
#include "resolver.hpp"

namespace palio::job {

/// Holes by place, or about a gear's axis. \param origin  the plate's, in its group
void Resolver::add_plate_holes(const Settings& v, const std::string& prefix, const Vec2& origin, Frame& frame) {
  for (const std::string& i : items(v, "holes")) {
    const Value *gear = v.find(i + "gear"), *distance = v.find(i + "distance"), *diameter = v.find(i + "diameter");
    const Value *x = v.find(i + "x"), *y = v.find(i + "y");
    if (!diameter || (gear ? !distance : !x || !y)) {
      note("missing-key", v.any_below(i)->where, prefix + ".holes",
           "each hole needs a diameter, and gear with distance, or x and y from the first axis");
      continue;
    }
    if (!gear) {
      frame.plan.holes.push_back({Vec2(x->number, y->number), diameter->number});
      continue;
    }
    const auto on =
        std::find_if(design_.gears.begin(), design_.gears.end(), [&](const Gear& g) { return g.name == gear->text; });
    if (on == design_.gears.end() || on->group != frame.group) {
      note("unknown-gear", gear->where, prefix + ".holes.gear",
           fmt::format("is \"{}\", which is no gear on the plate's axes", gear->text));
      continue;
    }
    const Vec2 way = from_polar(distance->number, v.number(i + "angle", 0) * kPi / 180);
    frame.plan.holes.push_back({on->axis - origin + way, diameter->number});
  }
}

/// Motors about axes: the boss goes through in place of the shaft, no post stands there, screws stand around it.
void Resolver::add_motors(const Settings& v, const std::string& prefix, const PlateSite& site, Frame& frame) {
  for (const std::string& i : items(v, "motors")) {
    const Where where = v.any_below(i)->where;
    const Value* gear = v.find(i + "gear");
    const MotorFace* face = motor_face(v.text(i + "flange"));
    const double pilot = v.number(i + "pilot_diameter", face ? face->pilot : 0),
                 circle = v.number(i + "circle_diameter", face ? face->circle : 0),
                 hole = v.number(i + "hole_diameter", face ? face->hole : 0);
    if (!gear || pilot == 0 || circle == 0 || hole == 0) {
      note("missing-key", where, prefix + ".motors",
           "each motor needs a gear on its shaft, and a flange, or pilot_diameter, circle_diameter and hole_diameter");
      continue;
    }
    const auto at = std::find_if(site.axes.begin(), site.axes.end(), [&](const PlateAxis& a) {
      return std::any_of(a.gears.begin(), a.gears.end(),
                         [&](std::size_t g) { return design_.gears[g].name == gear->text; });
    });
    if (at == site.axes.end()) {
      note("unknown-gear", gear->where, prefix + ".motors.gear",
           fmt::format("is \"{}\", which is no gear on the plate's axes", gear->text));
      continue;
    }
    if (circle <= pilot + hole) {
      note("bad-value", where, prefix + ".motors",
           fmt::format("has its screws on a circle of {}, but beside a boss of {} they need more than {}",
                       print(circle), print(pilot), print(pilot + hole)));
      continue;
    }
    FramePlan::Axis& axis = frame.plan.axes[static_cast<std::size_t>(at - site.axes.begin())];
    // The boss goes in by hand, whatever holds the shafts.
    axis.bore = pilot + design_.process.slide, axis.post_height = 0, axis.seat = {};
    const int count = static_cast<int>(v.number(i + "count", face ? face->count : 4));
    const double first = v.number(i + "angle", 45) * kPi / 180;
    for (int k = 0; k < count; ++k)
      frame.plan.holes.push_back({axis.at + from_polar(circle / 2, first + 2 * kPi * k / count), hole});
    frame.motors.push_back({face ? std::string(face->size) : "", face ? std::string(face->screw) : "", count});
  }
}

/// Between plate or posts and the gears: a flange towards them lies within it.
double Resolver::gap_of(const Settings& v, const std::string& prefix, const Frame& frame) {
  const double gap = v.number("axial_gap");
  const double flange = frame.bearing && v.text("bore.face") != "bottom" ? frame.bearing->flange_width : 0;
  const Value* given = v.find("axial_gap");
  if (!given) return gap + flange;
  if (flange > 0 && gap <= flange)
    note("bad-value", given->where, prefix + ".axial_gap",
         fmt::format("is {}, and the flange of {} stands out {} towards the gears; {}.axial_gap = {:.6g} would do",
                     print(gap), frame.bearing->designation, print(flange), prefix,
                     (flange + frame.plan.thickness / 10) / mm_per(design_.units)));
  return gap;
}

/// Bearings need a shoulder behind them, and a bore that is narrower than they are.
void Resolver::check_seats(const Settings& v, const std::string& prefix, const Frame& frame) {
  for (const FramePlan::Axis& a : frame.plan.axes) {
    if (a.seat.diameter == 0) continue;
    const double length = frame.plan.thickness + a.post_height;
    if (a.seat.depth >= length)
      return note("bad-value", v.find("bore.bearing")->where, prefix + ".bore.bearing",
                  fmt::format("is {} wide, and plate and post are {} there, which leaves no shoulder: make the plate "
                              "thicker than {}",
                              print(a.seat.depth), print(length), print(a.seat.depth - a.post_height)));
    if (a.bore >= a.seat.diameter)
      return note("bad-value", v.any_below("bore.")->where, prefix + ".bore.diameter",
                  fmt::format("is {}, and the bearing's seat {}: make it smaller, or leave it out", print(a.bore),
                              print(a.seat.diameter)));
  }
}

/// Those of pairs on parallel axes, each axis once.
void Resolver::axes_of_pairs(const Settings& v, const std::string& prefix, PlateSite& site) {
  const Value* named = v.find("pairs");
  std::vector<std::string> wanted = named ? named->texts : std::vector<std::string>{};
  if (!named) {
    for (const Pair& p : design_.pairs) {
      if (p.plane() && design_.gears[p.driver].group == design_.gears[design_.pairs.front().driver].group)
        wanted.push_back(p.name);
    }
  }
  for (const std::string& name : wanted) {
    const auto p =
        std::find_if(design_.pairs.begin(), design_.pairs.end(), [&](const Pair& q) { return q.name == name; });
    if (p == design_.pairs.end()) {
      std::vector<std::string> known;
      for (const Pair& q : design_.pairs)
        known.push_back(q.name);
      note("unknown-pair", named->where, prefix + ".pairs",
           fmt::format("names \"{}\", which is no pair of the job; it has {}", name,
                       known.empty() ? "none" : fmt::format("{}", fmt::join(known, ", "))));
      continue;
    }
    for (const std::size_t i : {p->driver, p->driven}) {
      const Gear& g = design_.gears[i];
      if (g.teeth.is_rack() || g.teeth.internal()) continue;
      const bool known = std::any_of(site.axes.begin(), site.axes.end(), [&](const PlateAxis& a) {
        return design_.gears[a.gears.front()].group == g.group && (a.at - g.axis).norm() < math::kAlike;
      });
      if (!known) site.axes.push_back({g.axis, {i}});
    }
  }
  if (site.axes.empty() && told(prefix, "pairs")) return;
  if (site.axes.empty() && (items(v, "holes").empty() || !named || !named->texts.empty())) {
    return note(
        "no-axes", v.where, prefix + ".pairs",
        "names no pair whose gears have axes; name pairs of spur or helical gears, or give pairs = [] and holes");
  }
  if (site.axes.empty()) return;
  const Gear& first = design_.gears[site.axes.front().gears.front()];
  site.group = first.group, site.origin = first.axis;
  const auto askew = [&](const PlateAxis& a) { return design_.gears[a.gears.front()].group != site.group; };
  if (std::any_of(site.axes.begin(), site.axes.end(), askew))
    note("axes-cross", v.where, prefix + ".pairs",
         "names pairs whose axes are not parallel; make one plate for each direction");
}

/// Those of all planets, the carrier's own in the middle.
void Resolver::axes_of_carrier(const Value& named, const std::string& prefix, PlateSite& site) {
  const std::string key = prefix + ".carrier";
  const std::vector<Carrier>& all = design_.machine.carriers;
  const auto at = std::find_if(all.begin(), all.end(), [&](const Carrier& c) { return c.name == named.text; });
  if (at == all.end()) {
    std::vector<std::string> known;
    known.reserve(all.size());
    for (const Carrier& c : all)
      known.push_back(c.name);
    return note("unknown-carrier", named.where, key,
                known.empty()
                    ? fmt::format("names \"{}\", and the job has no carrier; add [carrier.{}]", named.text, named.text)
                    : fmt::format("names \"{}\", which is no carrier; there {} {}", named.text,
                                  known.size() == 1 ? "is" : "are", fmt::join(known, ", ")));
  }
  if (!at->placed)
    return note("no-axes", named.where, key,
                "carries nothing that meshes with what does not ride on it: nobody knows where it turns");
  site.carrier = static_cast<std::size_t>(at - all.begin());
  site.group = at->group, site.origin = at->axis;
  for (const std::size_t m : at->carried) {
    std::vector<std::size_t> gears;
    for (const std::size_t i : design_.machine.members[m].gears) {
      if (design_.gears[i].group == at->group && !design_.gears[i].teeth.is_bevel()) gears.push_back(i);
    }
    if (gears.empty())
      return note("axes-cross", named.where, key,
                  "has planets whose axes are not parallel to its own; a plate holds parallel ones");
    const Vec2 arm = design_.gears[gears.front()].axis - at->axis;
    for (const Carrier::Copy& c : at->copies)
      site.axes.push_back({at->axis + turned(arm, c.axis), gears});
  }
}

void Resolver::make_frame(const Settings& v) {
  const std::string prefix = "frame." + v.name;
  Frame frame;
  frame.name = v.name, frame.part_name = v.text("part_name"), frame.part_number = v.text("part_number");
  frame.material = material_of(v, prefix);
  PlateSite site;
  const std::size_t before = mistakes_.count();
  const Value* carrier = v.find("carrier");
  if (carrier)
    axes_of_carrier(*carrier, prefix, site);
  else
    axes_of_pairs(v, prefix, site);
  const Value *thickness = v.find("thickness"), *middle = v.find("middle_bore");
  if (!thickness) note("missing-key", v.where, prefix + ".thickness", "is missing; give the plate's thickness");
  if (middle && !carrier)
    note("no-meaning", middle->where, prefix + ".middle_bore",
         "is about a carrier's axis; name the carrier, or take it out");
  if (const Value* pairs = v.find("pairs"); pairs && carrier)
    note("contradiction", pairs->where, prefix + ".pairs",
         "is for a plate that stands still, and this one turns with a carrier; leave one of the two out");
  if (mistakes_.count() > before || !thickness) return;
  frame.group = site.group, frame.carrier = site.carrier, frame.over = v.text("side") == "above";
  for (const PlateAxis& a : site.axes)
    frame.gears.push_back(a.gears.front());
  FramePlan& plan = frame.plan;
  plan.thickness = thickness->number;
  plan.margin = v.number("margin");
  frame.bearing = ball_bearing(v.text("bore.bearing"));
  const double gap = gap_of(v, prefix, frame), post = v.number("post_height"), play = bore_play(v);
  // Seen from the plate: the nearest face of the gears on an axis, and of all.
  const double up = frame.over ? -1 : 1;
  const auto face = [&](const PlateAxis& a) {
    double nearest = math::kInfinite;
    for (const std::size_t i : a.gears) {
      const Gear& g = design_.gears[i];
      const body::Heights heights = gear::heights(g.teeth, g.features);
      const double foot = g.height - g.teeth.face_width() / 2;
      const double flange = g.flange_out(frame.over);
      nearest = std::min(nearest, up * (foot + (frame.over ? heights.top : heights.bottom)) - flange);
    }
    return nearest;
  };
  double lowest = site.axes.empty() ? 0 : math::kInfinite, widest = 0;
  for (const PlateAxis& a : site.axes)
    lowest = std::min(lowest, face(a));
  // A plate of holes alone lies clear of everything else, to the left.
  if (site.axes.empty()) {
    double left = math::kInfinite;
    for (const Gear& g : design_.gears)
      left = std::min(left, g.axis.x() - g.teeth.reach());
    site.origin.x() = left - 20 * plan.thickness;
  }
  const double top = lowest - gap - post;
  frame.at = Vec3(site.origin.x(), site.origin.y(), up * (top - plan.thickness));
  for (const PlateAxis& a : site.axes) {
    const double shaft = design_.gears[a.gears.front()].shaft_diameter(),
                 behind = frame.bearing ? (frame.bearing->bore + frame.bearing->outside) / 2 : 0,
                 bore = v.number("bore.diameter", frame.bearing ? behind : shaft);
    FramePlan::Axis axis{a.at - site.origin, bore > 0 ? bore : 0, post > 0 ? face(a) - gap - top : 0};
    if (frame.bearing)
      axis.seat = {frame.bearing->outside + play, frame.bearing->seat_depth(), 0, v.text("bore.face") != "bottom"};
    else if (bore > 0)
      axis.bore += play;
    plan.axes.push_back(axis);
    widest = std::max({widest, bore, axis.seat.diameter});
  }
  if (carrier) {
    const double bore = v.number("middle_bore", 0);
    plan.axes.push_back({Vec2::Zero(), bore > 0 ? bore + play : 0, 0});
  }
  plan.post_diameter = v.number("post_diameter", widest + plan.thickness);
  add_motors(v, prefix, site, frame);
  add_plate_holes(v, prefix, site.origin, frame);
  plan.outline = drawn_outlines(v, "outline.", prefix + ".outline", false);
  plan.cutouts = cutouts_of(v, prefix);
  check_seats(v, prefix, frame);
  if (frame.over) {
    for (FramePlan::Axis& a : plan.axes)
      a.at.y() = -a.at.y();
    for (FramePlan::Hole& h : plan.holes)
      h.at.y() = -h.at.y();
    for (curve::Outline& o : plan.outline)
      o = curve::mirrored(o);
    for (body::Cutout& c : plan.cutouts) {
      for (curve::Outline& o : c.loops)
        o = curve::mirrored(o);
    }
  }
  try {
    job::body(plan);
  } catch (const InvalidParameter& e) {
    refuse(e, v, prefix);
  }
  design_.frames.push_back(std::move(frame));
}

}  // namespace palio::job
