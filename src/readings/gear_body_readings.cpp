// What is read of a gear's body: bore, keyway, plates, sector; and how fast it turns.
#include <algorithm>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "readings.hpp"

namespace palio::job {
namespace gear_body {
namespace {

using At = GearAt;
using Row = ReadingRow<At>;
using Q = Quantity;

/// What the bore becomes is told of the nominal part alone: drawn and made ones have theirs.
bool bored(const At& a) { return a.teeth().bore_diameter() > 0; }
bool with_fit(const At& a) {
  const bool fits = a.gear.bore_play != 0 && !a.gear.bearing;  // behind a bearing it is the seat that fits
  return bored(a) && a.design.as == As::nominal && (fits || a.design.process.given);
}

/// What the fit allows: of the bearing's seat where there is one, else of the bore.
Said fit_limit(const At& a, double FitLimits::*limit) {
  if (a.design.as != As::nominal) return {};
  const auto limits = a.gear.fit_limits();
  return limits ? Said(a.gear.fitted_diameter() + (*limits).*limit) : Said();
}

bool flanged(const At& a) { return a.gear.bearing && a.gear.bearing->flange_width > 0; }

Said seat_drawn(const At& a) {
  const body::Step* s = a.gear.features.seat();
  if (!s || a.design.as != As::nominal || !a.design.process.given) return {};
  return a.design.process.drawn_hole(s->diameter);
}

Said bore_diameter(const At& a) {
  if (!bored(a)) return {};
  return a.design.as == As::nominal ? a.gear.bore_given : a.teeth().bore_diameter();
}

Said bore_drawn(const At& a) {
  if (!with_fit(a)) return {};
  return a.design.process.drawn_hole(a.teeth().bore_diameter());
}

/// Of the first screw or pin across, where the gear has one.
const body::CrossHole* across(const At& a, bool through) {
  for (const body::CrossHole& h : a.gear.features.cross_holes) {
    if (h.through == through) return &h;
  }
  return nullptr;
}

/// How long it is within the part: from the bore to the outside of the hub, or of a pin from side to side.
Said across_length(const At& a, bool through) {
  const body::CrossHole* h = across(a, through);
  if (!h) return {};
  double least = math::kInfinite, most = 0;
  for (const body::Tunnel& t : a.body().layers().tunnels) {
    const bool same = t.feature == h->key() && std::abs(t.z - h->height * a.gear.axial) < math::kAlike &&
                      std::abs(std::remainder(t.angle - h->angle, 2 * kPi)) < math::kAlike;
    if (same) least = std::min(least, t.inner.distance), most = std::max(most, t.outer.distance);
  }
  return through ? 2 * most : most - least;
}

Said speed_of(const At& a) { return speed(a.design, static_cast<std::size_t>(&a.gear - a.design.gears.data())); }

}  // namespace
}  // namespace gear_body

std::vector<ReadingRow<GearAt>> gear_body_rows() {
  using namespace gear_body;
  return {
      Row("plate_diameter", "end plates", "", Q::circle)
          .in(kBody)
          .of(kLantern, "of the plates that hold the pins of a lantern")
          .is([](const At& a) { return a.teeth().cycloidal().lantern().spec().plate_diameter; }),
      Row("plate_thickness", "each end plate thick", "", Q::length)
          .in(kBody)
          .of(kLantern, "of the plates that hold the pins of a lantern")
          .is([](const At& a) { return a.teeth().cycloidal().lantern().spec().plate_thickness; }),
      Row("speed", "speed (r/min)", "n", Q::number)
          .in(kBody)
          .of(kAll & ~kRack, "how fast it turns, where a pair of its mechanism says a speed; negative: the other way")
          .is("n₂ = n₁ z₁ / z₂", speed_of),
      Row("speed_m_per_s", "speed (m/s)", "v", Q::number)
          .in(kBody)
          .of(kRack, "how fast the rack moves, where its mechanism says a speed")
          .is("v = π d n",
              [](const At& a) -> Said {
                const auto turns = speed(a.design, static_cast<std::size_t>(&a.gear - a.design.gears.data()));
                return turns ? Said(*turns / 60 * 2 * kPi / 1000) : Said();
              }),
      Row("bore_diameter", "bore", "", Q::circle).in(kBody).of(kAll, "as asked for").is(bore_diameter),
      Row("grip", "grip of the bore", "", Q::number)
          .in(kBody)
          .of(kAll, "how the shaft sits in the bore, or the bearing in its seat: a grip or a fit")
          .is([](const At& a) { return bored(a) && a.design.as == As::nominal ? if_any(a.gear.grip) : Said(); }),
      Row("fit_least_diameter", "least that the fit allows", "", Q::circle)
          .in(kBody)
          .of(kAll, "of the bore, or of the bearing's seat where there is one")
          .is([](const At& a) { return fit_limit(a, &FitLimits::least); }),
      Row("fit_greatest_diameter", "most that the fit allows", "", Q::circle)
          .in(kBody)
          .of(kAll, "of the bore, or of the bearing's seat where there is one")
          .is([](const At& a) { return fit_limit(a, &FitLimits::greatest); }),
      Row("bore_expected_diameter", "bore to expect", "", Q::circle)
          .in(kBody)
          .of(kAll, "the bore with the play of its grip or allowance: what the part should have")
          .is([](const At& a) { return with_fit(a) ? Said(a.teeth().bore_diameter()) : Said(); }),
      Row("bore_drawn_diameter", "bore to draw", "", Q::circle)
          .in(kBody)
          .of(kAll, "what the files have, so that the process makes the bore to expect")
          .is(bore_drawn),
      Row("bearing", "ball bearing", "", Q::number)
          .in(kBody)
          .of(kAll, "that the gear runs on, bought by this designation")
          .is([](const At& a) { return a.gear.bearing ? Said(std::string(a.gear.bearing->designation)) : Said(); }),
      Row("bearing_bore", "bore of the bearing", "", Q::circle)
          .in(kBody)
          .of(kAll, "the shaft that it takes")
          .is([](const At& a) { return a.gear.bearing ? Said(a.gear.bearing->bore) : Said(); }),
      Row("bearing_seat_diameter", "seat of the bearing", "", Q::circle)
          .in(kBody)
          .of(kAll, "with the play of its fit, grip or allowance: what the part should have")
          .is([](const At& a) {
            const body::Step* s = a.gear.features.seat();
            return s ? Said(s->diameter) : Said();
          }),
      Row("bearing_seat_drawn_diameter", "seat to draw", "", Q::circle)
          .in(kBody)
          .of(kAll, "what the files have, so that the process makes the seat to expect")
          .is(seat_drawn),
      Row("bearing_seat_depth", "seat deep", "", Q::length)
          .in(kBody)
          .of(kAll, "from the end of the body: the bearing's width, less a flange that lies on the end")
          .is([](const At& a) {
            const body::Step* s = a.gear.features.seat();
            return s ? Said(s->depth) : Said();
          }),
      Row("bearing_flange_diameter", "flange of the bearing", "", Q::circle)
          .in(kBody)
          .of(kAll, "of a flanged bearing: what it takes on the end of the body")
          .is([](const At& a) { return flanged(a) ? Said(a.gear.bearing->flange_diameter) : Said(); }),
      Row("bearing_flange_width", "flange stands out", "", Q::length)
          .in(kBody)
          .of(kAll, "of a flanged bearing: beyond the end of the body")
          .is([](const At& a) { return flanged(a) ? Said(a.gear.bearing->flange_width) : Said(); }),
      Row("keyway", "keyway", "", Q::length)
          .in(kBody)
          .of(kAll, "its width, and its height from the opposite wall of the bore")
          .is([](const At& a) -> Said {
            const auto& k = a.gear.features.keyway;
            if (!k) return {};
            return {{"width", k->width}, {"height", k->height}};
          }),
      Row("bore_across_flats", "bore, across flats", "", Q::length)
          .in(kBody)
          .of(kAll, "of a hexagon, a square or a double D, play included")
          .is([](const At& a) -> Said {
            const body::Features& f = a.gear.features;
            if (f.sided) return f.sided->across_flats;
            return f.flat && f.flat->twice ? Said(f.flat->height) : Said();
          }),
      Row("serration", "serrations", "", Q::circle)
          .in(kBody)
          .of(kAll, "of the bore, play included")
          .is([](const At& a) -> Said {
            const auto& s = a.gear.features.serration;
            if (!s) return {};
            return {{"teeth", s->teeth}, {"inner_diameter", s->inner_diameter}, {"outer_diameter", s->outer_diameter}};
          }),
      Row("spline", "involute spline", "", Q::circle)
          .in(kBody)
          .of(kGears, "of the bore: an internal spline, play included")
          .is([](const At& a) -> Said {
            const auto& s = a.gear.features.shaped;
            if (!s) return {};
            return {{"teeth", s->teeth},
                    {"inner_diameter", s->inner_diameter + 2 * s->wider},
                    {"outer_diameter", s->outer_diameter + 2 * s->wider}};
          }),
      Row("set_screw_diameter", "hole of the set screw", "", Q::circle)
          .in(kBody)
          .of(kGears, "of the first one, through the wall of a hub")
          .is([](const At& a) {
            const body::CrossHole* h = across(a, false);
            return h ? Said(h->diameter) : Said();
          }),
      Row("set_screw_length", "set screw within the hub", "", Q::length)
          .in(kBody)
          .of(kGears, "from the bore to the outside of the hub: a longer screw stands out")
          .is([](const At& a) { return across_length(a, false); }),
      Row("cross_pin_diameter", "hole of the pin across", "", Q::circle)
          .in(kBody)
          .of(kGears, "of the first one, through hub and shaft")
          .is([](const At& a) {
            const body::CrossHole* h = across(a, true);
            return h ? Said(h->diameter) : Said();
          }),
      Row("cross_pin_length", "pin within the hub", "", Q::length)
          .in(kBody)
          .of(kGears, "from side to side")
          .is([](const At& a) { return across_length(a, true); }),
      Row("sector_teeth", "teeth kept", "", Q::count)
          .in(kBody)
          .of(kGears, "of a gear of which only a sector is made")
          .is([](const At& a) {
            return a.gear.features.sector_teeth > 0 ? Said(a.gear.features.sector_teeth) : Said();
          }),
  };
}

}  // namespace palio::job
