#include "palio/readings/remedy.hpp"

#include <algorithm>
#include <cmath>
#include <set>
#include <vector>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/readings/findings.hpp"
#include "palio/readings/reading.hpp"

namespace palio::job {
namespace {

/// Whose key, which, and which way to change it.
enum class Whose { own, mate, pair, reducer };
struct Lever {
  Whose whose;
  const char* key;
  int way;  // +1: greater
};

/// The levers of each finding, the one most to the point first.
std::vector<Lever> levers(FindingId id) {
  using W = Whose;
  switch (id) {
    case FindingId::undercut: return {{W::own, "profile_shift", 1}, {W::own, "dedendum", -1}};
    case FindingId::tip_in_fillet:
    case FindingId::tip_digs_root:
    case FindingId::contact_below_base:
      return {{W::mate, "addendum", -1}, {W::own, "profile_shift", 1}, {W::own, "dedendum", 1}};
    case FindingId::tip_bottoms:
    case FindingId::small_tip_clearance:
      return {{W::own, "addendum", -1}, {W::mate, "dedendum", 1}, {W::pair, "center_distance", 1}};
    case FindingId::thin_tip:
    case FindingId::pointed_tip:
    case FindingId::tight_tip:
      return {{W::own, "addendum", -1}, {W::own, "profile_shift", -1}, {W::own, "tip_round", 1}};
    case FindingId::bevel_pointed:
    case FindingId::tip_below_base:
    case FindingId::cutter_cuts_tip: return {{W::own, "addendum", -1}};
    case FindingId::negative_play:
      return {{W::pair, "mounted_center_distance", 1},
              {W::pair, "center_distance", 1},
              {W::pair, "backlash", 1},
              {W::pair, "normal_backlash", 1}};
    case FindingId::no_mesh_at_distance: return {{W::pair, "center_distance", 1}};
    case FindingId::no_play:
    case FindingId::eccentric_jam: return {{W::pair, "backlash", 1}, {W::pair, "normal_backlash", 1}};
    case FindingId::contact_ratio_below_one:
    case FindingId::contact_ratio_low:
      return {{W::pair, "mounted_center_distance", -1}, {W::own, "addendum", 1}, {W::mate, "addendum", 1}};
    case FindingId::thin_rim:
      return {{W::own, "bore.diameter", -1}, {W::own, "outer_diameter", 1}, {W::own, "base_height", 1}};
    case FindingId::face_too_wide:
    case FindingId::lantern_plates_in_the_way: return {{W::own, "face_width", -1}};
    case FindingId::crossed_face_narrow:
    case FindingId::span_needs_face: return {{W::own, "face_width", 1}};
    case FindingId::tight_root: return {{W::own, "tool_tip_radius", 1}, {W::own, "root.fillet_radius", 1}};
    case FindingId::clock_depthing: return {{W::own, "tooth_width", -1}};
    case FindingId::reducer_no_clearance: return {{W::reducer, "disc_offset", 1}};
    case FindingId::reducer_near_limit: return {{W::reducer, "eccentricity", -1}};
    case FindingId::reducer_thin_wall: return {{W::reducer, "output_pin_diameter", -1}};
    default: return {};
  }
}

/// Errors, and errors with warnings, by name and subject.
struct Doubts {
  std::set<std::string> errors, all;
};

std::string id_of(const Finding& f) { return std::string(f.kind().text_id) + " " + f.subject; }

/// Whether a finding speaks of a pair or of one of its gears.
bool speaks_of(const Finding& f, const Design& design, const Pair& p) {
  return f.subject == "pair." + p.name || f.subject == "gear." + design.gears[p.driver].name ||
         f.subject == "gear." + design.gears[p.driven].name;
}

bool of_reducer(const Finding& finding) { return finding.subject.rfind("reducer.", 0) == 0; }

/// \param reducers  with those of reducers
Doubts doubts_of(const std::vector<Finding>& found, bool reducers) {
  Doubts d;
  for (const Finding& f : found) {
    if (f.kind().severity == Severity::note || (!reducers && of_reducer(f))) continue;
    d.all.insert(id_of(f));
    if (f.kind().severity == Severity::error) d.errors.insert(id_of(f));
  }
  return d;
}

bool within(const std::set<std::string>& some, const std::set<std::string>& all) {
  return std::includes(all.begin(), all.end(), some.begin(), some.end());
}

/// How many designs may be tried for one verdict: those whose findings take a search in space cost a hundred times as
/// much.
int trials_for(const Design& design) {
  const auto in_space = [](const Pair& p) { return p.in_space(); };
  return std::any_of(design.pairs.begin(), design.pairs.end(), in_space) ? 40 : 400;
}

/// And for one finding of a reducer, which is rolled each time.
constexpr int kRolledTrials = 14;

class Search {
 public:
  Search(const Design& design, const std::vector<Finding>& found, const Finding& finding, int& trials,
         const Between& between)
      : design_(design),
        finding_(finding),
        before_(doubts_of(found, of_reducer(finding))),
        trials_(trials),
        between_(between) {}

  /// Whether some value along a lever cleared the finding, though with another warning.
  bool cleared_unclean() const { return unclean_; }

  std::optional<Remedy> along(const Lever& lever, bool clean) {
    unclean_ = false;
    const auto path = path_of(lever);
    if (!path) return std::nullopt;
    const auto present = present_value(*path, lever);
    if (!present) return std::nullopt;
    clean_ = clean;
    double bad = *present, good = 0, step = first_step(lever, *present);
    constexpr int kDoublings = 9, kHalvings = 12;
    int i = 0;
    for (; i < kDoublings; ++i, step *= 2) {
      good = *present + lever.way * step;
      if (good < 0 && *present >= 0 && lever.key != std::string_view("profile_shift")) return std::nullopt;
      if (clears(*path, good)) break;
      bad = good;
    }
    if (i == kDoublings) return std::nullopt;
    const double unit = places_of(lever);
    for (int k = 0; k < kHalvings && std::abs(good - bad) > 0.5 * unit; ++k) {
      const double middle = 0.5 * (good + bad);
      (clears(*path, middle) ? good : bad) = middle;
    }
    // Rounded away from what failed; two units of room, where rounding alone does not do.
    for (const int room : {0, 1, 2}) {
      const double told =
          (lever.way > 0 ? std::ceil(good / unit - math::kAlike) : std::floor(good / unit + math::kAlike)) * unit +
          lever.way * room * unit;
      if (clears(*path, tidy(told))) return Remedy{*path, tidy(told), clean};
    }
    return std::nullopt;
  }

 private:
  static double tidy(double value) { return std::round(value * 1e6) / 1e6; }

  /// Digits that a person would write: thousandths of modules and millimetres, ten-thousandths of inches.
  double places_of(const Lever& lever) const { return is_length(lever) && design_.units == Units::inch ? 1e-4 : 1e-3; }

  static bool is_length(const Lever& lever) {
    const std::string_view k = lever.key;
    return k != "profile_shift" && k != "addendum" && k != "dedendum" && k != "tool_tip_radius";
  }

  double first_step(const Lever& lever, double present) const {
    if (!is_length(lever)) return 0.01;
    return std::max(0.004 * std::abs(present), 2 * places_of(lever));
  }

  const Pair* pair() const {
    const auto it = std::find_if(design_.pairs.begin(), design_.pairs.end(),
                                 [&](const Pair& p) { return speaks_of(finding_, design_, p); });
    return it == design_.pairs.end() ? nullptr : &*it;
  }

  std::optional<std::string> path_of(const Lever& lever) const {
    const Pair* p = pair();
    std::string own = finding_.subject;
    if (p && own == "pair." + p->name) own = "gear." + design_.gears[p->driver].name;
    switch (lever.whose) {
      case Whose::reducer: return finding_.subject + "." + lever.key;
      case Whose::own: return own + "." + lever.key;
      case Whose::pair: return p ? std::optional("pair." + p->name + "." + lever.key) : std::nullopt;
      case Whose::mate: {
        if (!p) return std::nullopt;
        const std::string driver = "gear." + design_.gears[p->driver].name,
                          driven = "gear." + design_.gears[p->driven].name;
        return (own == driver ? driven : driver) + "." + lever.key;
      }
    }
    return std::nullopt;
  }

  /// What the job has now; none where the key means nothing there.
  std::optional<double> present_value(const std::string& path, const Lever& lever) const {
    const std::string key = lever.key, thing = path.substr(0, path.size() - key.size() - 1);
    try {
      if (key == "addendum" || key == "dedendum") return coefficient(thing, key == "addendum");
      if (key == "root.fillet_radius" || key == "tip_round") return round_of_clock_teeth(thing, key == "tip_round");
      if (key == "bore.diameter") return reading_number(design_, thing + ".bore_diameter");
      if (key == "backlash") return std::max(0.0, number(thing + ".circumferential_backlash").value_or(0.0));
      if (key == "normal_backlash") return std::max(0.0, number(thing + ".normal_backlash").value_or(0.0));
      if (key == "mounted_center_distance") {
        const auto mounted = number(path);
        return mounted ? mounted : reading_number(design_, thing + ".center_distance");
      }
      return reading_number(design_, path);
    } catch (const InvalidParameter&) {
      return std::nullopt;
    }
  }

  std::optional<double> number(const std::string& path) const {
    try {
      return reading_number(design_, path);
    } catch (const InvalidParameter&) {
      return std::nullopt;
    }
  }

  /// Other teeth have rounds that change more than themselves.
  std::optional<double> round_of_clock_teeth(const std::string& thing, bool tip) const {
    const Gear& g = design_.gear(thing.substr(5));
    if (!g.teeth.is_cycloidal() || g.teeth.cycloidal().form() != gear::CycloidalForm::clock) return std::nullopt;
    const gear::ClockSpec& s = g.teeth.cycloidal().clock().spec();
    return (tip ? s.tip_round : s.fillet_radius) / mm_per(design_.units);
  }

  /// Of the reference profile, in the modules that the job gives it in.
  std::optional<double> coefficient(const std::string& thing, bool addendum) const {
    const Gear& g = design_.gear(thing.substr(5));
    if (g.teeth.is_cycloidal()) return std::nullopt;
    if (g.teeth.is_bevel()) {
      const gear::BevelSpec& s = g.teeth.bevel().spec();
      return addendum ? s.addendum : s.dedendum;
    }
    const gear::CylindricalSpec& s = g.teeth.spec();
    const double value = addendum ? s.addendum : s.dedendum;
    return g.transverse_system ? value * std::cos(s.helix_angle.radians()) : value;
  }

  bool clears(const std::string& path, double value) {
    if (trials_ <= 0) return false;
    --trials_;
    if (between_) between_();
    try {
      Design changed = resolve(design_.values.with(path, value));
      // Those of reducers have to be rolled.
      if (!of_reducer(finding_)) changed.reducers.clear();
      const Doubts after = doubts_of(findings(changed), of_reducer(finding_));
      if (after.all.count(id_of(finding_)) > 0) return false;
      if (!within(after.errors, before_.errors)) return false;
      const bool clean = within(after.all, before_.all);
      unclean_ = unclean_ || !clean;
      return clean || !clean_;
    } catch (const JobError&) {
      return false;
    }
  }

  const Design& design_;
  const Finding& finding_;
  const Doubts before_;
  int& trials_;
  const Between& between_;
  bool clean_ = true, unclean_ = false;
};

std::optional<Remedy> remedy(const Design& design, const std::vector<Finding>& found, const Finding& finding,
                             int& trials, const Between& between) {
  if (design.as != As::nominal || design.values.empty()) return std::nullopt;
  const std::vector<Lever> all = levers(finding.id);
  if (all.empty()) return std::nullopt;
  int few = std::min(trials, kRolledTrials);
  Search search(design, found, finding, of_reducer(finding) ? few : trials, between);
  std::vector<Lever> unclean;
  for (const Lever& lever : all) {
    if (auto value = search.along(lever, true)) return value;
    if (search.cleared_unclean()) unclean.push_back(lever);
  }
  for (const Lever& lever : unclean) {
    if (auto value = search.along(lever, false)) return value;
  }
  return std::nullopt;
}

/// Where several errors of a pair have one cause: a distance that these teeth were not made for. The distance that
/// they would have on their own, where all of the errors go with it.
std::optional<Remedy> own_distance(const Design& design, const std::vector<Finding>& found, const Pair& p) {
  std::size_t errors = 0;
  for (const Finding& f : found)
    errors += f.kind().severity == Severity::error && speaks_of(f, design, p) ? 1U : 0U;
  const std::string path = "pair." + p.name + ".center_distance";
  if (errors < 2) return std::nullopt;
  try {
    const Design free = resolve(design.values.without({path}));
    const auto own = reading_number(free, path);
    if (!own) return std::nullopt;
    const double unit = design.units == Units::inch ? 1e-4 : 1e-3, value = std::ceil(*own / unit - math::kAlike) * unit,
                 told = std::round(value * 1e6) / 1e6;
    const Design changed = resolve(design.values.with(path, told));
    const Doubts before = doubts_of(found, false), after = doubts_of(findings(changed), false);
    for (const Finding& f : found) {
      if (f.kind().severity == Severity::error && speaks_of(f, design, p) && after.all.count(id_of(f)) > 0)
        return std::nullopt;
    }
    if (!within(after.errors, before.errors)) return std::nullopt;
    return Remedy{path, told, within(after.all, before.all)};
  } catch (const JobError&) {
    return std::nullopt;
  } catch (const InvalidParameter&) {
    return std::nullopt;
  }
}

/// By pairs, each asked once.
class OwnDistances {
 public:
  OwnDistances(const Design& design, const std::vector<Finding>& found, const Between& between)
      : design_(design), found_(found), between_(between), of_(design.pairs.size()) {}

  std::optional<Remedy> of(const Finding& finding) {
    if (finding.kind().severity != Severity::error || design_.as != As::nominal || design_.values.empty())
      return std::nullopt;
    for (std::size_t i = 0; i < of_.size(); ++i) {
      if (!speaks_of(finding, design_, design_.pairs[i])) continue;
      if (!of_[i]) {
        if (between_) between_();
        of_[i] = own_distance(design_, found_, design_.pairs[i]);
      }
      if (*of_[i]) return *of_[i];
    }
    return std::nullopt;
  }

 private:
  const Design& design_;
  const std::vector<Finding>& found_;
  const Between& between_;
  std::vector<std::optional<std::optional<Remedy>>> of_;
};

}  // namespace

Verdict verdict(const Design& design, std::vector<Finding> found, std::size_t most, const Between& between) {
  Verdict v;
  int trials = trials_for(design);
  std::stable_sort(found.begin(), found.end(),
                   [](const Finding& a, const Finding& b) { return a.kind().severity < b.kind().severity; });
  OwnDistances distances(design, found, between);
  for (const Finding& f : found) {
    const Severity s = f.kind().severity;
    ++(s == Severity::error ? v.errors : s == Severity::warning ? v.warnings : v.notes);
    if (s == Severity::note || v.doubts.size() >= most) continue;
    const std::optional<Remedy> whole = distances.of(f);
    v.doubts.push_back({f, whole ? whole : remedy(design, found, f, trials, between)});
  }
  return v;
}

}  // namespace palio::job
