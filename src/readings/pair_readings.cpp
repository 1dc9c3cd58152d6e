// What is read of a pair.
#include <cmath>
#include <limits>
#include <numeric>

#include "palio/overloaded.hpp"
#include "palio/pair/eccentric.hpp"
#include "palio/readings/findings.hpp"
#include "readings.hpp"

namespace palio::job {
namespace pair_rows {
namespace {

using At = PairAt;
using Row = ReadingRow<At>;
using Q = Quantity;

constexpr std::string_view kMesh = "mesh", kPlay = "play and clearance", kSpeeds = "speeds and losses";
constexpr unsigned kDistant = kParallelPair | kCrossedPair | kCycloidalPair;

using pair::BevelPair;
using pair::CrossedPair;
using pair::CycloidalPair;
using pair::ParallelPair;

/// By theory: one overload for each that has the reading, and one for the rest. Nothing where the two cannot mesh.
template <class... F>
Said by_theory(const At& a, F... of) {
  return a.pair.meshes() ? a.pair.visit(overloaded{of...}) : Said();
}

Said circumferential_backlash(const At& a) {
  return by_theory(
      a, [](const auto& theory) { return Said(theory.circumferential_backlash()); },
      [](const CycloidalPair& p) { return p.at_proper_distance() ? Said(p.circumferential_backlash()) : Said(); });
}

/// Along the line of action the gap grows by what the teeth are thinner across their flanks.
Said greatest_backlash(const At& a) {
  const double thinner = a.driver().thickness_tolerance + a.driven().thickness_tolerance;
  const ParallelPair* p = a.pair.parallel();
  if (!(thinner > 0) || a.design.as != As::nominal || !p || !a.pair.meshes()) return {};
  const gear::Teeth& teeth = a.driver().teeth;
  const double across = thinner * std::cos(teeth.spec().pressure_angle.radians()),
               to_pitch_circle =
                   std::cos(p->working_pressure_angle().radians()) * std::cos(teeth.base_helix_angle().radians());
  return Said(p->circumferential_backlash() + across / to_pitch_circle);
}

Said normal_backlash(const At& a) {
  return by_theory(
      a, [](const auto& theory) { return Said(theory.normal_backlash()); },
      [](const CycloidalPair&) { return Said(); });  // leans differently at every place of the flank
}

Said angular_backlash(const At& a) {
  return by_theory(
      a, [](const auto& theory) { return Said(theory.angular_backlash()); },
      [](const CycloidalPair& p) { return p.at_proper_distance() ? Said(p.angular_backlash()) : Said(); });
}

/// Of teeth that stand off their axes: what comes over the turns, in the driven's coordinate.
Said over_turns(const At& a, bool of_rack, std::optional<roll::Range> (*of)(const pair::Pair&, double)) {
  if (a.pair.eccentricity == 0 || !a.pair.meshes() || a.driven().teeth.is_rack() != of_rack) return {};
  const auto range = of(a.pair, a.pair.eccentricity);
  if (!range) return {};
  return {{"min", range->min}, {"max", range->max}};
}

Said tip_clearance(const At& a) { return a.pair.meshes() ? Said(a.pair.tip_clearance()) : Said(); }

std::array<double, 2> at_heel_and_toe(const BevelPair& p) {
  const auto [inner, outer] = common_face(p);
  return {p.contact_ratio(outer), p.contact_ratio(inner)};
}

Said contact_ratio_at(const At& a, std::size_t end) {
  return a.pair.bevel() ? Said(at_heel_and_toe(*a.pair.bevel())[end]) : Said();
}

Said transverse_contact_ratio(const At& a) {
  return by_theory(
      a, [](const ParallelPair& p) { return Said(p.transverse_contact_ratio()); },
      [](const CrossedPair&) { return Said(); }, [](const CycloidalPair& p) { return Said(p.contact_ratio()); },
      [](const BevelPair& p) {
        const auto [heel, toe] = at_heel_and_toe(p);
        return Said(std::max(heel, toe));
      });
}

Said overlap_ratio(const At& a) {
  return by_theory(
      a, [](const ParallelPair& p) { return Said(p.overlap_ratio()); }, [](const BevelPair&) { return Said(0.0); },
      [](const auto&) { return Said(); });
}

Said total_contact_ratio(const At& a) {
  if (const ParallelPair* p = a.pair.parallel()) return p->transverse_contact_ratio() + p->overlap_ratio();
  return transverse_contact_ratio(a);
}

Said contact_path_length(const At& a) {
  return by_theory(
      a, [](const ParallelPair& p) { return Said(p.contact_path_length()); },
      [](const CrossedPair& p) { return Said(p.contact_path_length()); }, [](const auto&) { return Said(); });
}

Said working_pitch_diameters(const At& a) { return a.pair.plane() ? Said(a.pair.working_pitch_diameters()) : Said(); }

Said specific_sliding(const At& a) {
  if (!a.pair.parallel()) return {};
  const auto sliding = a.pair.parallel()->specific_sliding();
  return Said::table_of_rows({{"driver_at_start_and_end", sliding[0]}, {"driven_at_start_and_end", sliding[1]}});
}

Said sliding_imbalance(const At& a) {
  if (!a.pair.parallel()) return {};
  const auto sliding = a.pair.parallel()->specific_sliding();
  return Said(sliding[0][0] - sliding[1][1]);
}

/// A number of the driver's teeth less the same of the driven's; nothing where not both are round and external.
template <class Of>
Said of_driver_less_driven(const At& a, Of of) {
  const Gear &driver = a.design.gears[a.pair.driver], &driven = a.design.gears[a.pair.driven];
  for (const Gear* g : {&driver, &driven}) {
    if (!(sort_of(*g) & kExternal)) return {};
  }
  return Said(of(driver) - of(driven));
}

Said tip_imbalance(const At& a) {
  return of_driver_less_driven(a, [](const Gear& g) { return g.teeth.gear().sizes().tip_thickness; });
}

Said undercut_imbalance(const At& a) {
  return of_driver_less_driven(a, [](const Gear& g) {
    const double given = g.transverse_system ? std::cos(g.teeth.gear().spec().helix_angle.radians()) : 1;
    return (g.teeth.gear().spec().profile_shift - g.teeth.gear().sizes().min_profile_shift_no_undercut) * given;
  });
}

// A rack is moved, not turned.
double phase(const Gear& g) { return g.teeth.is_rack() ? std::numeric_limits<double>::quiet_NaN() : g.phase; }

Said mounting_error(const At& a) {
  const pair::MountingError& e = a.pair.error();
  if (!e.any()) return {};
  return {
      {"driver", e.driver}, {"driven", e.driven}, {"shaft_angle_deg", e.shaft_angle.radians()}, {"offset", e.offset}};
}

Said shifts(const At& a, bool of_driver) {
  if (!a.pair.bevel()) return {};
  std::vector<Said> rows;
  for (const pair::AxialShift& s : axial_shifts(a.pair, of_driver)) {
    rows.emplace_back(std::vector<double>{s.shift, s.found, s.by_formula});
  }
  return Said::rows(std::move(rows));
}

/// The gear whose turns are counted: of a rack pair the round one.
std::size_t turning(const At& a) { return a.driver().teeth.is_rack() ? a.pair.driven : a.pair.driver; }

std::optional<double> turns_per_second(const At& a) {
  const auto turns = speed(a.design, turning(a));
  return turns && a.pair.meshes() ? std::optional(std::abs(*turns) / 60) : std::nullopt;
}

double rolling_diameter(const At& a) {
  const bool driver = turning(a) == a.pair.driver;
  if (const BevelPair* p = a.pair.bevel()) return (driver ? p->driver() : p->driven()).sizes().heel.pitch_diameter;
  return a.pair.working_pitch_diameters()[driver ? 0 : 1];
}

Said tooth_frequency(const At& a) {
  const auto per_second = turns_per_second(a);
  return per_second ? Said(*per_second * a.design.gears[turning(a)].teeth.count()) : Said();
}

Said pitch_line_speed(const At& a) {
  const auto per_second = turns_per_second(a);
  return per_second ? Said(*per_second * kPi * rolling_diameter(a) / 1000) : Said();
}

/// Where flanks slide along each other it is fastest: of parallel axes at the end of contact farthest from the pitch
/// point, whose tangent length is r_w sin α_w.
Said sliding_speed(const At& a) {
  const auto per_second = turns_per_second(a);
  if (!per_second) return {};
  if (a.pair.crossed()) {
    const auto turns = speed(a.design, a.pair.driver);
    const double diameter = a.driver().teeth.reference_diameter();
    return turns ? Said(a.pair.crossed()->sliding_ratio() * std::abs(*turns) / 60 * kPi * diameter / 1000) : Said();
  }
  if (!a.pair.parallel()) return {};
  const ParallelPair& r = *a.pair.parallel();
  const double T_pitch = rolling_diameter(a) / 2 * std::sin(r.working_pressure_angle().radians());
  const bool on_driver = turning(a) == a.pair.driver;
  const auto away = [&](double T) {
    return std::abs((on_driver || r.with_rack() ? T : r.mate_tangent(true, T)) - T_pitch);
  };
  const double farthest = std::max(away(r.contact_begin()), away(r.contact_end()));
  const double relative = r.with_rack() ? 1 : std::abs(1 - (on_driver ? r.motion_ratio() : 1 / r.motion_ratio()));
  return 2 * kPi * *per_second * relative * farthest / 1000;
}

/// How far the driven strays from the even ratio, peak to peak, on the flank that drives when the driver turns
/// counter-clockwise.
Said stray(const At& a) {
  if (!a.pair.cycloidal()) return {};
  const roll::Result& r = a.rolled();
  std::optional<roll::Range> off;
  for (const roll::Position& p : r.positions) {
    const std::optional<roll::Contact>& limit = r.drives_upper ? p.upper : p.lower;
    if (!limit) return std::nan("");
    const double here = limit->driven - a.pair.cycloidal()->motion_ratio() * p.driver;
    off = off ? roll::Range{std::min(off->min, here), std::max(off->max, here)} : roll::Range{here, here};
  }
  return off ? off->max - off->min : std::nan("");
}

Said rolled_backlash(const At& a) {
  if (!a.pair.cycloidal() || a.pair.cycloidal()->conjugate() || !a.rolled().play) return {};
  const double r2 = a.pair.cycloidal()->driven().sizes().pitch_diameter / 2;
  return std::vector<double>{a.rolled().play->min * r2, a.rolled().play->max * r2};
}

/// Of crossed shafts with friction.
template <class F>
Said with_friction(const At& a, F of) {
  return a.pair.crossed() && a.pair.friction ? Said(of(*a.pair.crossed(), *a.pair.friction)) : Said();
}

std::vector<Row> mesh_rows() {
  return {
      Row("driver", "driver", "", Q::number).in(kMesh).of(kAnyPair, "the gear that drives").is([](const At& a) {
        return Said(a.driver().name);
      }),
      Row("driven", "driven", "", Q::number).in(kMesh).of(kAnyPair, "the gear that is driven").is([](const At& a) {
        return Said(a.driven().name);
      }),
      Row("gear_ratio", "gear ratio", "u", Q::ratio)
          .in(kMesh)
          .of(kAnyPair, "teeth of the driven per tooth of the driver")
          .is("u = z₂ / z₁",
              [](const At& a) { return static_cast<double>(a.driven().teeth.count()) / a.driver().teeth.count(); }),
      Row("common_factor", "greatest common divisor of the teeth", "", Q::count)
          .in(kMesh)
          .of(kAnyPair,
              "a tooth of either gear meets each of the other's teeth that are so many apart; 1: it meets "
              "all of them (hunting teeth), and wear spreads evenly")
          .is("gcd(z₁, z₂)",
              [](const At& a) {
                if (a.driver().teeth.is_rack() || a.driven().teeth.is_rack()) return Said();
                return Said(static_cast<double>(std::gcd(a.driver().teeth.count(), a.driven().teeth.count())));
              }),
      Row("sense", "sense of turning", "", Q::number)
          .in(kMesh)
          .of(kAnyPair, "whether the driven turns the same way as the driver; a ring and its pinion do")
          .is([](const At& a) {
            return Said(a.driver().teeth.internal() || a.driven().teeth.internal() ? "same" : "opposite");
          }),
      Row("reference_center_distance", "reference center distance", "a_d", Q::length)
          .in(kMesh)
          .of(kDistant, "center distance at which the reference circles touch")
          .is("a_d = (d₁ + d₂) / 2 | internal: a_d = (d₂ − d₁) / 2 | ring drives: a_d = (d₁ − d₂) / 2 | rack: a_d = d₁ "
              "/ 2 | "
              "rack drives: a_d = d₂ / 2",
              [](const At& a) { return a.pair.reference_center_distance; }),
      Row("center_distance", "center distance", "a", Q::length)
          .in(kMesh)
          .of(kDistant, "between the axes, as designed")
          .is("a = a_d cos α_t / cos α_wt, from the shifts | rack: a = d₁ / 2 + x₁ m_n | rack drives: a = d₂ / 2 + x₂ "
              "m_n | cycloidal:",
              [](const At& a) { return a.pair.center_distance; })
          .marked(pair_marks::center_distance),
      Row("mounted_center_distance", "as mounted", "a_m", Q::length)
          .in(kMesh)
          .of(kDistant, "between the axes, as built, where that differs")
          .is([](const At& a) {
            const Pair& p = a.pair;
            return p.mounted_center_distance() != p.center_distance ? Said(p.mounted_center_distance()) : Said();
          })
          .marked(pair_marks::center_distance),
      Row("axial_offset", "axial offset of the driven", "", Q::length)
          .in(kMesh)
          .of(kDistant, "how much higher along its axis the driven stands")
          .is([](const At& a) { return a.pair.axial_offset() != 0 ? Said(a.pair.axial_offset()) : Said(); }),
      Row("shaft_angle_deg", "shaft angle", "Σ", Q::angle)
          .in(kMesh)
          .of(kAnyPair, "between the axes; 0 where they are parallel")
          .is([](const At& a) { return a.pair.shaft_angle().radians(); }),
      Row("phase_deg", "turned at start [driver, driven]", "", Q::angle)
          .in(kMesh)
          .of(kAnyPair, "how far each gear is turned at the start, so that a tooth stands before a space")
          .is([](const At& a) {
            return Said(std::vector<double>{phase(a.driver()), phase(a.driven())});
          }),
      Row("mounting_distances", "mounting distances [driver, driven]", "", Q::length)
          .in(kMesh)
          .of(kBevelPair, "from each rear face to the apex, errors of mounting included")
          .is([](const At& a) {
            return Said(std::vector<double>{body(a.driver()).top() + a.pair.error().driver,
                                            body(a.driven()).top() + a.pair.error().driven});
          }),
      Row("mounting_error", "mounted with an error of", "", Q::number)
          .in(kMesh)
          .of(kBevelPair, "how far the axes of a bevel pair are built from where they should be")
          .is(mounting_error),
      Row("conjugate", "keeps the ratio within a tooth", "", Q::number)
          .in(kMesh)
          .of(kCycloidalPair, "whether the teeth hand on the turning evenly")
          .is([](const At& a) { return a.pair.cycloidal() ? Said(a.pair.cycloidal()->conjugate()) : Said(); }),
      Row("working_transverse_pressure_angle_deg", "working pressure angle", "α_wt", Q::angle)
          .in(kMesh)
          .of(kParallelPair, "of the line of action at the center distance as mounted")
          .is("cos α_wt = a_d cos α_t / a_w | rack: α_wt = α_t",
              [](const At& a) {
                return a.pair.parallel() ? Said(a.pair.parallel()->working_pressure_angle().radians()) : Said();
              })
          .marked(pair_marks::pressure_angle),
      Row("working_pitch_diameters", "working pitch circles [driver, driven]", "d_w", Q::circle)
          .in(kMesh)
          .of(kPlanePair, "the circles that roll on each other without sliding, at the center distance as mounted")
          .is("d_w1 = 2 a_w / (u + 1) | internal: d_w1 = 2 a_w / (u − 1) | ring drives: d_w1 = 2 a_w / (1 − u) | rack: "
              "d_w1 = "
              "d₁ | rack drives:",
              working_pitch_diameters)
          .marked(pair_marks::working_circles),
      Row("contact_ratio", "contact ratio, cut by the faces", "ε", Q::ratio)
          .in(kMesh)
          .of(kCrossedPair, "pairs of teeth in contact, on average")
          .is([](const At& a) { return a.pair.crossed() ? Said(a.pair.crossed()->contact_ratio()) : Said(); }),
      Row("transverse_contact_ratio", "transverse contact ratio", "ε_α", Q::ratio)
          .in(kMesh)
          .of(kAnyPair & ~kCrossedPair,
              "pairs of teeth in contact in the section across the axis, on average; under 1 the motion breaks off")
          .is("ε_α = g_α / p_bt | cycloidal:", transverse_contact_ratio)
          .marked(pair_marks::contact_path),
      Row("overlap_ratio", "overlap ratio", "ε_β", Q::ratio)
          .in(kMesh)
          .of(kParallelPair | kBevelPair, "what the helix adds: face width per axial pitch")
          .is("ε_β = b_w sin β / (π m_n), b_w the face that both have", overlap_ratio),
      Row("total_contact_ratio", "total contact ratio", "ε_γ", Q::ratio)
          .in(kMesh)
          .of(kAnyPair & ~kCrossedPair, "pairs of teeth in contact, on average")
          .is("ε_γ = ε_α + ε_β", total_contact_ratio),
      Row("contact_ratio_heel", "contact ratio at the heel", "ε_e", Q::ratio)
          .in(kMesh)
          .of(kBevelPair, "pairs of teeth in contact in the section at the heel")
          .is([](const At& a) { return contact_ratio_at(a, 0); }),
      Row("contact_ratio_toe", "contact ratio at the toe", "ε_i", Q::ratio)
          .in(kMesh)
          .of(kBevelPair, "pairs of teeth in contact in the section at the toe")
          .is([](const At& a) { return contact_ratio_at(a, 1); }),
      Row("contact_path_length", "contact path", "g_α", Q::length)
          .in(kMesh)
          .of(kParallelPair | kCrossedPair, "how far contact moves along the line of action while two teeth touch")
          .is(contact_path_length)
          .marked(pair_marks::contact_path),
      Row("face_width_needed", "face needed for the contact's travel [driver, driven]", "", Q::length)
          .in(kMesh)
          .of(kCrossedPair, "how wide each face must be for the whole contact path of crossed shafts")
          .is([](const At& a) { return a.pair.crossed() ? Said(a.pair.crossed()->face_needed()) : Said(); }),
  };
}

std::vector<Row> play_rows() {
  return {
      Row("circumferential_backlash", "circumferential backlash", "j_wt", Q::length)
          .in(kPlay)
          .of(kAnyPair, "how far a pitch circle can be turned while the mate stands still, arc")
          .is("j_wt = p_wt − s_w1 − s_w2 | cycloidal:", circumferential_backlash)
          .marked(pair_marks::circumferential_backlash),
      Row("normal_backlash", "normal backlash", "j_bn", Q::length)
          .in(kPlay)
          .of(kDistant | kBevelPair, "the gap between flanks behind the contact, as a feeler gauge finds it")
          .is("j_bn = j_wt cos α_wt cos β_b", normal_backlash)
          .marked(pair_marks::normal_backlash),
      Row("greatest_circumferential_backlash", "backlash with the thinnest teeth", "j_wt", Q::length)
          .in(kPlay)
          .of(kParallelPair, "where both gears' teeth are as thin as their thickness_tolerance allows, as mounted")
          .is("j_wt + (T_sn1 + T_sn2) cos α_n / (cos α_wt cos β_b)", greatest_backlash),
      Row("angular_backlash_deg", "angular backlash [driver, driven]", "j_φ", Q::angle)
          .in(kPlay)
          .of(kAnyPair, "how far either gear can be turned while the other stands still")
          .is("j_φ = 2 j_wt / d_w", angular_backlash)
          .marked(pair_marks::circumferential_backlash),
      Row("play_over_turns_deg", "play of the driven over the turns", "j_φ", Q::angle)
          .in(kPlay)
          .of(kParallelPair | kCycloidalPair,
              "least and most of it, wherever the eccentricities of both carry their teeth")
          .is("j at a_w − (e₁ + e₂) and a_w + e₁ + e₂",
              [](const At& a) { return over_turns(a, false, pair::eccentric_play); })
          .costs(ReadingCost::roll),
      Row("play_over_turns", "play of the driven over the turns", "j", Q::length)
          .in(kPlay)
          .of(kParallelPair, "the same where the driven is a rack")
          .is("j at a_w − (e₁ + e₂) and a_w + e₁ + e₂",
              [](const At& a) { return over_turns(a, true, pair::eccentric_play); })
          .costs(ReadingCost::roll),
      Row("error_over_turns_deg", "the driven strays from the even ratio by", "", Q::angle)
          .in(kPlay)
          .of(kParallelPair | kCycloidalPair,
              "while it is driven without its play, by the eccentricities of both at their worst together")
          .is("about ± (e₁ + e₂) / r_b2", [](const At& a) { return over_turns(a, false, pair::eccentric_error); })
          .costs(ReadingCost::roll),
      Row("error_over_turns", "the driven strays from the even way by", "", Q::length)
          .in(kPlay)
          .of(kParallelPair, "the same where the driven is a rack")
          .is("about ± (e₁ + e₂) / cos α_t", [](const At& a) { return over_turns(a, true, pair::eccentric_error); })
          .costs(ReadingCost::roll),
      Row("tip_clearance", "tip clearance [driver's tip, driven's tip]", "c", Q::length)
          .in(kPlay)
          .of(kAnyPair, "between each tip and the mate's root, on the line of centers")
          .is("c₁ = a_w − (d_a1 + d_f2) / 2 | internal: c₁ = (d_f2 − d_a1) / 2 − a_w | ring drives: c₁ = (d_a1 − d_f2) "
              "/ 2 − "
              "a_w | rack:",
              tip_clearance)
          .marked(pair_marks::tip_clearance),
      Row("specific_sliding", "specific sliding", "ζ", Q::number)
          .in(kSpeeds)
          .of(kParallelPair, "how fast flanks slide, per rolling speed of their own, where contact starts and ends")
          .is("ζ₁ = 1 − T₂ / (T₁ u)", specific_sliding),
      Row("sliding_imbalance", "sliding imbalance [driver less driven]", "", Q::number)
          .in(kSpeeds)
          .of(kParallelPair,
              "specific sliding of the driver at the start of contact less that of the driven at its "
              "end; 0: both wear alike")
          .is("ζ_driver at the start − ζ_driven at the end", sliding_imbalance),
      Row("tip_imbalance", "tip imbalance [driver less driven]", "", Q::length)
          .in(kSpeeds)
          .of(kParallelPair, "what the driver's tips are thicker than the driven's; 0: both are alike")
          .is("s_an of the driver − s_an of the driven", tip_imbalance),
      Row("undercut_imbalance", "undercut imbalance (modules)", "", Q::number)
          .in(kSpeeds)
          .of(kParallelPair,
              "how much more profile shift the driver has above its limit of undercut than the driven "
              "above its own; 0: both are as safe")
          .is("(x − x_min) of the driver − (x − x_min) of the driven", undercut_imbalance),
      Row("sliding_ratio", "sliding speed per pitch speed of the driver", "", Q::ratio)
          .in(kSpeeds)
          .of(kCrossedPair, "how fast crossed flanks slide along each other")
          .is("sin Σ / cos β₂",
              [](const At& a) { return a.pair.crossed() ? Said(a.pair.crossed()->sliding_ratio()) : Said(); }),
      Row("shift_of_driver", "driver moved along its axis [by, play found, play by formula]", "", Q::length)
          .in(kPlay)
          .of(kBevelPair, "what the play becomes when a shim moves the driver")
          .is("j + 2 D sin δ tan α", [](const At& a) { return shifts(a, true); })
          .costs(ReadingCost::rolls),
      Row("shift_of_driven", "driven moved along its axis [by, play found, play by formula]", "", Q::length)
          .in(kPlay)
          .of(kBevelPair, "what the play becomes when a shim moves the driven")
          .is("j + 2 D sin δ tan α", [](const At& a) { return shifts(a, false); })
          .costs(ReadingCost::rolls),
  };
}

std::vector<Row> speed_rows() {
  return {
      Row("tooth_frequency_hz", "teeth that meet each second (Hz)", "f_z", Q::number)
          .in(kSpeeds)
          .of(kAnyPair, "the note a pair hums")
          .is("f_z = n z / 60", tooth_frequency),
      Row("pitch_line_speed_m_per_s", "speed at the working pitch circles (m/s)", "v", Q::number)
          .in(kSpeeds)
          .of(kAnyPair & ~kCrossedPair, "how fast the circles roll that do not slide")
          .is("v = π d_w n", pitch_line_speed),
      Row("sliding_speed_m_per_s", "sliding speed (m/s)", "v_g", Q::number)
          .in(kSpeeds)
          .of(kParallelPair | kCrossedPair, "how fast flanks slide where they slide fastest")
          .is("v_g = (ω₁ ± ω₂) g", sliding_speed),
      Row("rolled_circumferential_backlash", "circumferential backlash found by rolling [least, most]", "", Q::length)
          .in(kPlay)
          .of(kCycloidalPair, "of teeth that do not keep the ratio within a tooth: over one pitch")
          .is(rolled_backlash)
          .costs(ReadingCost::roll),
      Row("angle_error_deg", "angle error of the driven within a tooth, peak to peak, from the roll", "", Q::angle)
          .in(kMesh)
          .of(kCycloidalPair, "how far the driven strays from the even ratio")
          .is(stray)
          .costs(ReadingCost::roll),
      Row("made_circumferential_backlash", "circumferential backlash as made", "", Q::length)
          .in(kPlay)
          .of(kParallelPair | kCrossedPair,
              "what the making leaves of the play, where it changes teeth and the files do not make up for it")
          .is([](const At& a) { return Said(play_as_made(a.design, a.pair)); }),
      Row("friction", "friction", "μ", Q::number)
          .in(kSpeeds)
          .of(kCrossedPair, "between the flanks, as given")
          .is([](const At& a) { return with_friction(a, [](const CrossedPair&, double mu) { return mu; }); }),
      Row("efficiency", "efficiency", "η", Q::number)
          .in(kSpeeds)
          .of(kCrossedPair, "what friction leaves of the power")
          .is([](const At& a) {
            return with_friction(a, [](const CrossedPair& c, double mu) { return c.efficiency(mu, false); });
          }),
      Row("efficiency_backwards", "efficiency driven backwards", "η'", Q::number)
          .in(kSpeeds)
          .of(kCrossedPair, "the same when the driven drives; 0 or less: it locks itself")
          .is([](const At& a) {
            return with_friction(a, [](const CrossedPair& c, double mu) { return c.efficiency(mu, true); });
          }),
      Row("back_drivable", "can be driven backwards", "", Q::number)
          .in(kSpeeds)
          .of(kCrossedPair, "whether turning the driven turns the driver")
          .is([](const At& a) {
            return with_friction(a, [](const CrossedPair& c, double mu) { return c.efficiency(mu, true) > 0; });
          }),
  };
}

}  // namespace
}  // namespace pair_rows

unsigned sort_of(const Pair& p) {
  switch (p.sort()) {
    case pair::Sort::bevel: return kBevelPair;
    case pair::Sort::crossed: return kCrossedPair;
    case pair::Sort::cycloidal: return kCycloidalPair;
    case pair::Sort::parallel: break;
  }
  return kParallelPair;
}

const std::vector<ReadingRow<PairAt>>& pair_readings() {
  using namespace pair_rows;
  static const std::vector<Row> all = joined<At>({mesh_rows(), play_rows(), speed_rows()});
  return all;
}

}  // namespace palio::job
