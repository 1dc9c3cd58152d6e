#include "palio/readings/findings.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "body_findings.hpp"
#include "collisions.hpp"
#include "drawing.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/pair/eccentric.hpp"
#include "palio/pair/tolerance.hpp"
#include "palio/readings/report.hpp"
#include "palio/reducer/load.hpp"
#include "train_findings.hpp"

namespace palio::job {
namespace {

/// Whether the gear can be measured over its teeth as the report proposes.
void inspect(const Gear& g, std::vector<Finding>& found) {
  if (g.teeth.is_bevel() || g.teeth.is_cycloidal() || g.teeth.is_rack() || g.teeth.internal()) return;
  const gear::CylindricalGear& teeth = g.teeth.gear();
  const gear::Span span = teeth.span(g.span_teeth);
  const double low = teeth.sizes().root_form_diameter, high = teeth.sizes().tip_form_diameter;
  const std::string subject = "gear." + g.name;
  if (span.contact_diameter < low || span.contact_diameter > high) {
    found.push_back(
        {FindingId::span_off_involute, subject, span.contact_diameter, span.contact_diameter < low ? low : high});
  }
  const double needed = span.length * std::sin(std::abs(teeth.sizes().base_helix_angle.radians()));
  const double face =
      teeth.spec().double_helical ? (teeth.spec().face_width - teeth.spec().gap) / 2 : teeth.spec().face_width;
  if (face < needed) found.push_back({FindingId::span_needs_face, subject, face, needed});
}

/// Play that varies by more over a turn is worth a word.
constexpr double kUnevenPlay = 1.25;

}  // namespace

namespace {

std::vector<Finding> findings(const Reducer& r, const reducer::Rolled& play) {
  const std::string subject = "reducer." + r.name;
  std::vector<Finding> found = r.made.findings(subject);
  if (play.verdict == roll::Verdict::jams)
    found.insert(found.begin(), {FindingId::reducer_jams,
                                 subject,
                                 play.max_overlap,
                                 {},
                                 play.wrong.empty() ? play.worst->where : play.wrong + " " + play.wrong_advice});
  else if (play.play && play.play->max > kUnevenPlay * play.play->min + math::kAlike)
    found.push_back({FindingId::reducer_play_varies, subject, play.play->min, play.play->max});
  if (r.made.spec().friction) {
    if (const double back = reducer::efficiency(r.made, *r.made.spec().friction).backward; back <= 0)
      found.push_back({FindingId::reducer_self_locking, subject, back, {}});
  }
  return found;
}

}  // namespace

std::vector<Finding> findings(const Reducer& r) { return findings(r, rolled(r, 120)); }

std::optional<double> play_as_made(const Design& design, const Pair& p) {
  const Process::Change c = design.process.change(As::made);
  if (design.as != As::nominal || !p.meshes() || p.bevel() || p.cycloidal() || (c.teeth == 0 && c.radial == 1))
    return std::nullopt;
  try {
    const Pair made = as(design, p, As::made);
    return made.meshes() ? std::optional(made.circumferential_backlash()) : std::nullopt;
  } catch (const InvalidParameter&) {
    return std::nullopt;  // told by --as made
  }
}

namespace {

/// The least circumferential play that a pair should have as it comes out: a fiftieth of the module for its own errors,
/// and what axes closer by their tolerance take away.
double play_needed(const Design& design, const Pair& p) {
  const Gear& g = design.gears[p.driver];
  const double t = design.process.center_distance_tolerance, m = g.teeth.module();
  return 0.02 * m + 2 * t * std::tan(p.working_pressure_angle().radians());
}

/// A length of a remedy, in the job's unit: rounded up, so that it does.
double enough(const Design& design, double length) { return std::ceil(length / mm_per(design.units) * 1000) / 1000; }

std::string process_name(const Design& design) {
  return "the process " + (design.process.preset.empty() ? "of the job" : design.process.preset);
}

void look_at_play(const Design& design, const Pair& p, std::vector<Finding>& found) {
  if (!p.meshes()) return;
  const double needed = play_needed(design, p), given = p.circumferential_backlash(),
               made = play_as_made(design, p).value_or(given);
  // Overlap as designed is an error of its own.
  const double binding = pair::binding(design.gears[p.driver].teeth.module());
  if (given < -binding || made >= needed) return;
  const double unit = mm_per(design.units);
  const std::string u(symbol(design.units));
  std::string why =
      fmt::format("a pair of module {:.6g} mm with axes within {:.4g} {}", design.gears[p.driver].teeth.module(),
                  design.process.center_distance_tolerance / unit, u);
  if (design.process.given) why += " and " + process_name(design);
  const double give = enough(design, needed + given - made);
  const bool clock = p.cycloidal() && p.cycloidal()->driver().form() == gear::CycloidalForm::clock;
  found.push_back({FindingId::no_play, "pair." + p.name, made, needed,
                   why + (clock ? "; give the gears a smaller tooth_width"
                                : fmt::format("; give backlash = {:.4g} ({}) or more", give, u))});
}

/// Tips that find room where the gears stand as they should, and none where their eccentricities bring them closest.
void reach_when_near(const Design& design, const Pair& p, std::vector<Finding>& found) {
  if (!p.parallel()) return;
  const pair::ParallelPair& mesh = *p.parallel();
  const auto digs = [](FindingId id) {
    return id == FindingId::tip_bottoms || id == FindingId::tip_in_fillet || id == FindingId::tip_digs_root ||
           id == FindingId::contact_below_base || id == FindingId::tip_fouling;
  };
  const auto told_at = [&](double distance) {
    const pair::ParallelPair there(mesh.driver(), mesh.driven(), distance);
    std::vector<Finding> some =
        there.findings("pair." + p.name, "gear." + design.gears[p.driver].name, "gear." + design.gears[p.driven].name);
    some.erase(std::remove_if(some.begin(), some.end(), [&](const Finding& f) { return !digs(f.id); }), some.end());
    return some;
  };
  try {
    if (!told_at(mesh.center_distance()).empty()) return;  // told as it is
    const double nearer = (mesh.internal() ? 1 : -1) * p.eccentricity;
    const std::vector<Finding> there = told_at(mesh.center_distance() + nearer);
    if (there.empty()) return;
    const Finding& worst = there.front();
    found.push_back({FindingId::eccentric_reach,
                     "pair." + p.name,
                     p.eccentricity,
                     {},
                     worst.subject + ": " + message(worst, design.units)});
  } catch (const InvalidParameter&) {
    return;  // no line of action there: the play has told it
  }
}

/// Play that is there on the middle of the turns, and gone where the teeth of both stand nearest.
void look_at_eccentricity(const Design& design, const Pair& p, std::vector<Finding>& found) {
  if (!p.plane() || p.eccentricity == 0) return;
  const double given = p.circumferential_backlash(), binding = pair::binding(design.gears[p.driver].teeth.module());
  if (given < -binding) return;  // told as it is
  reach_when_near(design, p, found);
  const auto play = pair::eccentric_play(p, p.eccentricity);
  const double least = play ? play->min * p.working_radius() : -p.eccentricity;
  if (least >= -binding) return;
  found.push_back({FindingId::eccentric_jam,
                   "pair." + p.name,
                   least,
                   {},
                   fmt::format("give backlash = {:.4g} ({}) or more, or make the gears truer (eccentricity)",
                               enough(design, given - least), symbol(design.units))});
}

/// Reducers without room between discs and rollers as they come out.
void look_at_clearance(const Design& design, const Reducer& r, std::vector<Finding>& found) {
  try {
    const Reducer made = design.as == As::nominal && design.process.given ? as(r, design.process, As::made) : r;
    const reducer::Spec& s = made.made.spec();
    const reducer::Rolled rolled = job::rolled(made, 24);
    if (rolled.verdict == roll::Verdict::jams) {
      if (design.process.given && design.as == As::nominal && job::rolled(r, 24).verdict == roll::Verdict::meshes)
        found.push_back(
            {FindingId::reducer_no_clearance, "reducer." + r.name, -rolled.max_overlap,
             design.process.center_distance_tolerance / 2,
             fmt::format("{}: as made it jams; give disc_offset = {:.4g} ({}) or more", process_name(design),
                         enough(design, r.made.spec().disc_offset + rolled.max_overlap +
                                            design.process.center_distance_tolerance / 2),
                         symbol(design.units))});
      return;
    }
    if (!rolled.disc_play) return;
    // To first order the disc turns by 2 D/(Z E) where the clearance along the normal is D.
    const double clearance = rolled.disc_play->min * made.made.sizes().lobes * s.eccentricity / 2,
                 needed = std::max(0.005, design.process.center_distance_tolerance / 2);
    if (clearance >= needed) return;
    found.push_back({FindingId::reducer_no_clearance, "reducer." + r.name, clearance, needed,
                     fmt::format("axes and rollers within {:.4g} {}; give disc_offset = {:.4g} or more",
                                 design.process.center_distance_tolerance / mm_per(design.units), symbol(design.units),
                                 enough(design, r.made.spec().disc_offset + needed - clearance))});
  } catch (const InvalidParameter&) {
    // What cannot be made at all is told by --as made.
  }
}

}  // namespace

namespace {

/// Rolling the reducers itself.
std::vector<Finding> all_findings(const Design& design, const Between& between) {
  std::vector<reducer::Rolled> rolls;
  rolls.reserve(design.reducers.size());
  return findings(
      design, [&](const Reducer& r) -> const reducer::Rolled& { return rolls.emplace_back(rolled(r, 120)); }, between);
}

}  // namespace

std::vector<Finding> findings(const Design& design) { return all_findings(design, {}); }

std::vector<Finding> explained_findings(const Design& design, const Between& between) {
  std::vector<Finding> all = all_findings(design, between);
  explain_differences(design, all);
  return all;
}

std::vector<Finding> findings(const Design& design, const RolledOf& rolled_of, const Between& between) {
  std::vector<Finding> all;
  const auto append = [&](std::vector<Finding> more) {
    all.insert(all.end(), more.begin(), more.end());
    if (between) between();
  };
  for (const Pair& p : design.pairs)
    append(p.mismatches());
  for (const Gear& g : design.gears) {
    append(gear::findings(g.teeth, "gear." + g.name));
    inspect(g, all);
    append(body_findings(design, g));
  }
  for (const Pair& p : design.pairs) {
    if (p.loop) append(p.loop->findings);
    if (p.meshes()) append(p.findings(p.friction));
    look_at_play(design, p, all);
    look_at_eccentricity(design, p, all);
  }
  for (const Reducer& r : design.reducers) {
    append(findings(r, rolled_of(r)));
    look_at_clearance(design, r, all);
  }
  append(train_findings(design));
  append(collisions(design));
  append(against_drawing(design));
  return all;
}

}  // namespace palio::job
