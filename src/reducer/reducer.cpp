#include "palio/reducer/reducer.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/gear/lobed_disc.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "require.hpp"

namespace palio::reducer {
namespace {

/// What the disc's edge is made for.
gear::LobedDiscSpec edge_spec(const Spec& s) {
  return {s.rollers, s.cut_roller_circle_diameter.value_or(s.roller_circle_diameter),
          s.cut_roller_diameter.value_or(s.roller_diameter) + 2 * (s.disc_offset - s.grown), s.eccentricity};
}

/// The edge itself; its limits are told with the key that was given.
curve::Outline edge_of(const Spec& s) {
  try {
    return gear::LobedDisc(edge_spec(s)).outline();
  } catch (const InvalidParameter& e) {
    std::string key = e.name();
    if (key == "roller_diameter" && s.cut_roller_diameter) key = "cut_roller_diameter";
    if (key == "roller_circle_diameter" && s.cut_roller_circle_diameter) key = "cut_roller_circle_diameter";
    throw InvalidParameter(key, e.given(), e.allowed(), e.remedy());
  }
}

}  // namespace

bool one_disc_serves(int lobes, int pins, int discs) {
  // n (d/(D Z) − k/Z) whole for some k: n (d − D k) a multiple of D Z.
  for (int d = 1; d < discs; ++d) {
    bool serves = false;
    for (int k = 0; k < lobes && !serves; ++k)
      serves = (static_cast<long>(pins) * (d - static_cast<long>(discs) * k)) % (static_cast<long>(discs) * lobes) == 0;
    if (!serves) return false;
  }
  return true;
}

Reducer::Reducer(const Spec& spec) : spec_(spec) {
  Spec& s = spec_;
  require(s.rollers >= 4, "rollers", fmt::format("{}", s.rollers), "a reducer has at least 4",
          "give one more than the ratio");
  require(s.roller_diameter > 0, "roller_diameter", mm(s.roller_diameter), "it is above 0",
          "give the diameter of a roller");
  const double R = s.roller_circle_diameter / 2;
  require(2 * R * std::sin(kPi / s.rollers) > s.roller_diameter, "roller_diameter", mm(s.roller_diameter),
          fmt::format("neighbouring rollers touch at {}", mm(2 * R * std::sin(kPi / s.rollers))),
          "make the rollers thinner, or their circle wider");
  edge_ = edge_of(s);
  require(s.discs >= 1 && s.discs <= 3, "discs", fmt::format("{}", s.discs), "one to three, spread evenly",
          "give 2 for balance");
  require(s.face_width > 0, "face_width", mm(s.face_width), "it is above 0", "give the thickness of a disc");
  require(s.output_pins >= 3, "output_pins", fmt::format("{}", s.output_pins), "three or more carry the output",
          "give 6, say");
  require(s.output_pin_diameter > 0, "output_pin_diameter", mm(s.output_pin_diameter), "it is above 0",
          "give the diameter of a pin");

  const gear::LobedDiscSizes limits = gear::lobed_disc_limits(edge_spec(s));
  Sizes& z = sizes_;
  z.lobes = s.rollers - 1, z.ratio = -z.lobes;
  z.max_eccentricity = limits.max_eccentricity, z.max_roller_radius_no_undercut = limits.max_roller_radius_no_undercut;
  z.min_convex_radius = limits.min_convex_radius, z.min_concave_radius = limits.min_concave_radius;
  z.adjacent_roller_gap = 2 * R * std::sin(kPi / s.rollers) - s.roller_diameter;
  z.disc_root_diameter = limits.root_diameter, z.disc_crest_diameter = limits.crest_diameter;
  size_output();
  size_shaft();
  size_ring();
  require(s.disc_gap >= 0, "disc_gap", mm(s.disc_gap), "it is 0 or more", "give half a millimetre");
  z.height = s.discs * s.face_width + (s.discs - 1) * s.disc_gap;
  z.largest_hole_cutter = std::min(z.output_hole_diameter, s.bore_diameter);
  if (z.min_concave_radius) z.largest_disc_cutter = 2 * *z.min_concave_radius;
  z.same_disc_part = one_disc_serves(z.lobes, s.output_pins, s.discs);
  z.discs_flip = !z.same_disc_part && s.discs == 2;
  rollers_.reserve(static_cast<std::size_t>(s.rollers));
  for (int k = 0; k < s.rollers; ++k)
    rollers_.push_back(from_polar(R, 2 * kPi * k / s.rollers));
  pin_directions_.reserve(static_cast<std::size_t>(s.output_pins));
  for (int k = 0; k < s.output_pins; ++k)
    pin_directions_.push_back(from_polar(1, 2 * kPi * k / s.output_pins));
  place_discs();
}

/// The output pins' holes and what they leave standing.
void Reducer::size_output() {
  const Spec& s = spec_;
  Sizes& z = sizes_;
  const double E = s.eccentricity, R_p = s.output_pin_circle_diameter / 2;
  z.output_hole_diameter = s.output_pin_diameter + 2 * E + s.output_hole_clearance - s.holes_smaller;
  z.web_between_holes = 2 * R_p * std::sin(kPi / s.output_pins) - z.output_hole_diameter;
  z.wall_hole_to_lobe = z.disc_root_diameter / 2 - R_p - z.output_hole_diameter / 2;
  z.wall_hole_to_bore = R_p - z.output_hole_diameter / 2 - s.bore_diameter / 2;
  require(2 * R_p * std::sin(kPi / s.output_pins) > s.output_pin_diameter, "output_pin_diameter",
          mm(s.output_pin_diameter), "neighbouring output pins overlap", "make them thinner, or take fewer");
  require(z.web_between_holes > 0, "output_pins", fmt::format("{}", s.output_pins),
          fmt::format("their holes of diameter {} on a circle of {} run into each other by {}",
                      mm(z.output_hole_diameter), mm(2 * R_p), mm(-z.web_between_holes)),
          "take fewer or thinner pins, or a wider circle");
  require(z.wall_hole_to_lobe > 0, "output_pin_circle_diameter", mm(2 * R_p),
          fmt::format("the holes break out through the lobes' roots by {}; at most {} is allowed",
                      mm(-z.wall_hole_to_lobe), mm(2 * (R_p + z.wall_hole_to_lobe))),
          "make it smaller, or the pins thinner");
  require(z.wall_hole_to_bore > 0, "output_pin_circle_diameter", mm(2 * R_p),
          fmt::format("the holes break into the bore by {}; at least {} is allowed", mm(-z.wall_hole_to_bore),
                      mm(2 * (R_p - z.wall_hole_to_bore))),
          "make it larger, or the bore smaller");
}

/// Bore, journals, shaft and the rollers' pins, one within the other.
void Reducer::size_shaft() {
  const Spec& s = spec_;
  Sizes& z = sizes_;
  const double E = s.eccentricity;
  z.journal_diameter = s.journal_diameter > 0 ? s.journal_diameter : s.bore_diameter;
  require(s.bore_diameter > 0, "bore.diameter", mm(s.bore_diameter), "a disc runs on its journal or bearing",
          "give the bore of the discs");
  require(z.journal_diameter <= s.bore_diameter, "journal_diameter", mm(z.journal_diameter),
          "it goes into the bore of " + mm(s.bore_diameter), "make it smaller");
  z.shaft_diameter = s.shaft_diameter > 0 ? s.shaft_diameter : 0.9 * (z.journal_diameter - 2 * E);
  require(z.shaft_diameter > 0 && z.shaft_diameter<z.journal_diameter - 2 * E, s.shaft_diameter> 0 ? "shaft_diameter"
                                                                                                   : "bore.diameter",
          mm(s.shaft_diameter > 0 ? s.shaft_diameter : s.bore_diameter),
          fmt::format("the shaft lies within its journals, of diameter {} and off by {}: under {}",
                      mm(z.journal_diameter), mm(E), mm(z.journal_diameter - 2 * E)),
          "make the shaft thinner, or journal and bore larger");
  require(s.roller_pin_diameter >= 0 && s.roller_pin_diameter < s.roller_diameter, "roller_pin_diameter",
          mm(s.roller_pin_diameter), "the rollers turn on it: it is thinner than they are", "make it thinner");
}

void Reducer::size_ring() {
  const Spec& s = spec_;
  Sizes& z = sizes_;
  const double R = s.roller_circle_diameter / 2, E = s.eccentricity;
  // The crests reach out to R + 2E − R_r between two rollers.
  const double reach = z.disc_crest_diameter / 2 + E,
               seat = s.roller_diameter / 2 + (s.ring == RingForm::seats ? s.seat_clearance / 2 : 0);
  z.ring_inner_diameter = 2 * std::max(reach + 0.05 * s.roller_diameter, R - 0.6 * s.roller_diameter / 2);
  require(z.ring_inner_diameter / 2 < R + 0.9 * seat, "eccentricity", mm(E),
          "the crests reach so far out between the rollers that a ring cannot hold them: the eccentricity is nearly a "
          "roller's radius",
          "lower it, or take thicker rollers");
  z.ring_outer_diameter = s.ring_outer_diameter > 0 ? s.ring_outer_diameter : 2 * (R + 3 * s.roller_diameter / 2);
  require(z.ring_outer_diameter / 2 > R + seat, "ring_outer_diameter", mm(z.ring_outer_diameter),
          "the seats of the rollers reach out to " + mm(2 * (R + seat)), "make it larger");
}

void Reducer::place_discs() {
  const int Z = sizes_.lobes, n = spec_.output_pins, D = spec_.discs;
  // Holes lie to both sides of +x, so that a home mark has room there; where two discs differ, turned by a quarter of a
  // lobe more, so that the second one is the first turned over.
  const double first = kPi / n + (sizes_.discs_flip ? kPi / (2 * Z) : 0);
  flange_phase_ = first;
  for (int d = 0; d < D; ++d) {
    const double ahead = 2 * kPi * d / D;
    // Its lobes engage at −ahead/Z and any whole number of lobes on; the holes stand before the pins.
    DiscPlace best{ahead, 0, 0, false, d * (spec_.face_width + spec_.disc_gap)};
    double least = math::kInfinite;
    for (int k = 0; k < Z; ++k) {
      const double turn = (2 * kPi * k - ahead) / Z, off = std::remainder(first - turn - first, 2 * kPi / n);
      if (std::abs(off) >= least - math::kRounding) continue;
      least = std::abs(off);
      best.turn = turn, best.hole_phase = first + off;
    }
    if (sizes_.discs_flip && d == 1) {
      // Turned over about x its holes lie at the mirror image; a place among the lobes brings them before the pins.
      best.turn = -kPi / Z, best.hole_phase = -first, best.flipped = true;
      for (int k = 0; k < Z; ++k) {
        const double turn = (2 * kPi * k - ahead) / Z;
        if (std::abs(std::remainder(turn - first - first, 2 * kPi / n)) <
            std::abs(std::remainder(best.turn - first - first, 2 * kPi / n)))
          best.turn = turn;
      }
    } else if (spec_.disc_parts == DiscParts::one) {
      best.hole_phase = first;
    }
    discs_.push_back(best);
  }
}

const curve::LobeCurve& Reducer::curve() const { return std::get<curve::LobeCurve>(edge_.period.front().curve); }
Vec2 Reducer::centre(std::size_t disc, double input) const {
  return from_polar(spec_.eccentricity, input + discs_[disc].ahead);
}

std::vector<int> Reducer::serving_pins() const {
  std::vector<int> all;
  for (int n = 3; n <= 2 * spec_.output_pins + 8; ++n) {
    if (one_disc_serves(sizes_.lobes, n, spec_.discs)) all.push_back(n);
  }
  return all;
}

std::vector<Finding> Reducer::findings(const std::string& subject) const {
  std::vector<Finding> found;
  const Sizes& z = sizes_;
  const double least = 0.1 * z.output_hole_diameter;
  for (const auto& [wall, what] : {std::pair{z.web_between_holes, "neighbouring output holes"},
                                   {z.wall_hole_to_lobe, "an output hole and the lobes' roots"},
                                   {z.wall_hole_to_bore, "an output hole and the bore"}}) {
    if (wall < least) found.push_back({FindingId::reducer_thin_wall, subject, wall, least, what});
  }
  if (spec_.eccentricity > 0.95 * z.max_eccentricity)
    found.push_back(
        {FindingId::reducer_near_limit, subject, spec_.eccentricity, z.max_eccentricity, "the eccentricity"});
  const double made_for = curve().roller_radius;
  if (made_for > 0.95 * z.max_roller_radius_no_undercut)
    found.push_back({FindingId::reducer_near_limit, subject, made_for, z.max_roller_radius_no_undercut,
                     "the roller radius that the edge is made for"});
  if (!z.same_disc_part && !z.discs_flip) {
    std::string pins;
    for (const int n : serving_pins())
      pins += (pins.empty() ? "" : ", ") + std::to_string(n);
    found.push_back({FindingId::reducer_discs_differ, subject, spec_.discs, {}, pins.empty() ? "no number of" : pins});
  }
  if (spec_.discs > 2) found.push_back({FindingId::reducer_shaft_in_the_way, subject, spec_.discs, {}});
  return found;
}

}  // namespace palio::reducer
