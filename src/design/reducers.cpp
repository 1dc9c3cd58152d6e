// Reducers: read, checked, reported.
#include <algorithm>
#include <cmath>

#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/reducer/parts.hpp"
#include "resolver.hpp"

namespace palio::job {

void Resolver::make_reducer(const Settings& v) {
  const std::string prefix = "reducer." + v.name;
  if (!v.sound) return;  // a misspelt key has been told already
  const std::size_t before = mistakes_.count();
  for (const char* key : {"rollers", "roller_circle_diameter", "roller_diameter", "eccentricity"}) {
    if (!v.find(key) && !(std::string_view(key) == "rollers" && v.find("lobes")))
      note("missing-key", v.where, prefix + "." + key,
           fmt::format("is missing: {}", find_key(Section::reducer, key)->meaning));
  }
  if (mistakes_.count() > before) return;
  reducer::Spec s;
  s.rollers = static_cast<int>(v.number("rollers", v.number("lobes") + 1));
  if (const Value* lobes = v.find("lobes"); lobes && lobes->number != s.rollers - 1) {
    const bool outside = lobes->number == s.rollers + 1;
    return note("bad-value", lobes->where, prefix + ".lobes",
                outside ? fmt::format("is {}, one more than the rollers: that form has its lobes in the outer ring, "
                                      "which this version does not make; take {}",
                                      lobes->number, s.rollers - 1)
                        : fmt::format("is {}, but {} rollers go with {} lobes (one fewer); leave it out", lobes->number,
                                      s.rollers, s.rollers - 1));
  }
  s.roller_circle_diameter = v.number("roller_circle_diameter"), s.roller_diameter = v.number("roller_diameter"),
  s.eccentricity = v.number("eccentricity");
  s.disc_offset = v.number("disc_offset"), s.cut_roller_diameter = v.given("cut_roller_diameter"),
  s.cut_roller_circle_diameter = v.given("cut_roller_circle_diameter");
  // What is left out is chosen: the bore a quarter of the roller circle, the pins half way between it and the roots, in
  // holes that take half of the room less a tenth.
  s.bore_diameter = v.number("bore.diameter");
  const double root =
      (v.number("cut_roller_circle_diameter") - v.number("cut_roller_diameter")) / 2 - s.eccentricity - s.disc_offset;
  const double room = root - s.bore_diameter / 2;
  s.output_pins = static_cast<int>(v.number("output_pins")),
  s.output_pin_circle_diameter = v.number("output_pin_circle_diameter", root + s.bore_diameter / 2);
  s.output_pin_diameter = v.number("output_pin_diameter", 0.4 * room - 2 * s.eccentricity),
  s.output_hole_clearance = v.number("output_hole_clearance");
  s.journal_diameter = v.number("journal_diameter"), s.shaft_diameter = v.number("shaft_diameter");
  s.discs = static_cast<int>(v.number("discs")), s.face_width = v.number("face_width");
  s.disc_gap = v.number("disc_gap");
  s.ring = v.text("ring") == "one_piece" ? reducer::RingForm::one_piece : reducer::RingForm::seats;
  s.ring_outer_diameter = v.number("ring_outer_diameter"), s.seat_clearance = v.number("seat_clearance");
  s.roller_pin_diameter = v.number("roller_pin_diameter");
  s.disc_parts = v.text("disc_parts") == "one" ? reducer::DiscParts::one : reducer::DiscParts::own;
  s.friction = v.given("friction");
  if (const Value* pin = v.find("roller_pin_diameter"); pin && s.ring == reducer::RingForm::one_piece)
    note("no-meaning", pin->where, prefix + ".roller_pin_diameter",
         "is for rollers that turn, and ring = \"one_piece\" has none; drop one of the two");
  try {
    Reducer made{v.name,           reducer::Reducer(s), Vec3::Zero(),
                 v.given("speed"), v.given("torque"),   material_of(v, prefix)};
    made.part_name = v.text("part_name"), made.part_number = v.text("part_number");
    design_.reducers.push_back(std::move(made));
  } catch (const InvalidParameter& e) {
    refuse(e, v, prefix);
  }
}

/// Below everything else, one under the other.
void Resolver::place_reducers() {
  if (design_.reducers.empty()) return;
  double floor = math::kInfinite;
  for (const Gear& g : design_.gears) {
    const Vec3 at =
        design_.groups[g.group].origin + design_.groups[g.group].axes * Vec3(g.axis.x(), g.axis.y(), g.height);
    floor = std::min(floor, at.y() - g.teeth.reach());
  }
  for (Reducer& r : design_.reducers) {
    const double radius = r.made.sizes().ring_outer_diameter / 2;
    const auto place = static_cast<std::size_t>(&r - design_.reducers.data());
    if (const auto& at = plans_.reducers[place]) {
      const Group& group = design_.groups[at->group];
      if ((group.axes - Eigen::Matrix3d::Identity()).norm() > math::kAlike) {
        note("not-yet", tables_.reducers[place].where, "reducer." + r.name,
             "stands on a shaft that is inclined to the first one, which this version does not place; leave it off");
        continue;
      }
      r.at = group.origin + Vec3(at->axis.x(), at->axis.y(), at->zero);
      continue;
    }
    if (std::isfinite(floor)) r.at.y() = floor - 1.2 * radius;
    floor = r.at.y() - radius;
  }
}

Reducer as(const Reducer& reducer, const Process& process, As state) {
  const Process::Change c = process.change(state);
  reducer::Spec s = reducer.made.spec();
  Reducer made = reducer;
  // What follows from the nominal bore stays.
  s.journal_diameter = reducer.made.sizes().journal_diameter, s.shaft_diameter = reducer.made.sizes().shaft_diameter;
  s.ring_outer_diameter = reducer.made.sizes().ring_outer_diameter;
  s.bore_diameter += process.wider(s.bore_diameter, c);
  s.holes_smaller -= process.wider(reducer.made.sizes().output_hole_diameter, c);
  if (s.ring == reducer::RingForm::seats) s.seat_clearance += process.wider(s.roller_diameter + s.seat_clearance, c);
  s.grown += c.teeth;
  made.made = reducer::Reducer(s);
  if (state == As::drawn) made.radial = c.radial, made.axial = c.axial;
  return made;
}

std::vector<reducer::Part> parts(const Reducer& reducer) {
  std::vector<reducer::Part> all = reducer::parts(reducer.made);
  for (reducer::Part& p : all) {
    if (reducer.radial != 1 || reducer.axial != 1) p.body = body::scaled(p.body, reducer.radial, reducer.axial);
  }
  return all;
}

double reducer_touch(const Reducer& r) { return math::kAlike * std::max(1.0, r.made.spec().eccentricity); }

reducer::Rolled rolled(const Reducer& reducer, int positions) {
  return reducer::roll(reducer.made, positions, reducer_touch(reducer));
}

}  // namespace palio::job
