// Where everything stands: gears are placed pair by pair, in the order of the job.
#include <algorithm>
#include <cmath>

#include <boost/multiprecision/cpp_int.hpp>

#include "loops.hpp"
#include "palio/pair/tolerance.hpp"
#include "palio/roll/space.hpp"
#include "resolver.hpp"

namespace palio::job {

Design Resolver::placed(std::vector<std::optional<gear::Teeth>>& built) {
  for (std::size_t i = 0; i < gears_.size(); ++i) {
    const Settings& g = gears_[i];
    const double beta = std::abs(specs_[i].helix_angle.degrees());
    Gear gear{g.name,
              *g.kind(),
              *built[i],
              g.number("pressure_angle"),
              g.find("helix_angle") && beta > 0 ? g.number("helix_angle") : beta,
              g.text("system") == "transverse"};
    gear.bore_given = g.number("bore.diameter"), gear.bore_play = bore_play(g), gear.grip = g.text("bore.grip");
    gear.part_name = g.text("part_name"), gear.part_number = g.text("part_number");
    if (const Value* v = g.find("span_teeth")) gear.span_teeth = static_cast<int>(v->number);
    gear.pin_diameter = g.given("pin_diameter");
    design_.gears.push_back(std::move(gear));
  }
  design_.groups.emplace_back();

  // Place the gears pair by pair, in the order of the job; the first driver stands on the origin.
  std::vector<bool> placed(gears_.size(), false);
  for (const RawPair& raw : raw_pairs_) {
    Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
    Pair p{};
    p.name = raw.name, p.driver = raw.driver, p.driven = raw.driven;
    if (raw.bevel) {
      place_bevel(raw, p, placed);
      design_.pairs.push_back(std::move(p));
      continue;
    }
    const auto radius = [](const gear::Teeth& t) { return t.is_rack() ? 0.0 : t.reference_diameter() / 2; };
    const double sum = g1.teeth.internal() || g2.teeth.internal() ? std::abs(radius(g2.teeth) - radius(g1.teeth))
                                                                  : radius(g1.teeth) + radius(g2.teeth);
    p.reference_center_distance =
        raw.cycloidal ? sum
        : raw.crossed() && !g1.teeth.is_rack() && !g2.teeth.is_rack()
            ? (g1.teeth.gear().sizes().reference_diameter + g2.teeth.gear().sizes().reference_diameter) / 2
        : g1.teeth.is_rack() && g2.teeth.is_rack() ? 0
                                                   : pair::reference_center_distance(g1.teeth, g2.teeth);
    const std::string subject = "pair." + raw.name;
    p.direction = raw.number("direction") * kPi / 180;
    p.axial_offset = raw.number("axial_offset");
    p.shaft_angle = raw.crossed() ? raw.shaft_angle() : 0;
    p.friction = raw.given("friction"), p.speed = raw.given("speed");
    const Value *designed = raw.find("center_distance"), *mounted = raw.find("mounted_center_distance");
    p.mismatches = raw.cycloidal   ? pair::cycloidal_mismatches(g1.teeth, g2.teeth, subject)
                   : raw.crossed() ? pair::crossed_mismatches(g1.teeth, g2.teeth, p.shaft_angle, subject)
                                   : pair::mismatches(g1.teeth, g2.teeth, subject);
    if (!raw.crossed() && g1.teeth.is_double_helical() && p.axial_offset != 0)
      p.mismatches.push_back({FindingId::halves_differ, subject, {}, {}});
    const bool possible = p.mismatches.empty();
    const auto zero = !possible       ? std::nullopt
                      : raw.cycloidal ? std::optional(sum)
                      : raw.crossed() ? std::optional(pair::crossed_center_distance(g1.teeth.gear(), g2.teeth.gear()))
                                      : pair::zero_play_center_distance(g1.teeth, g2.teeth);
    p.center_distance = designed ? designed->number : zero.value_or(p.reference_center_distance);
    p.mounted_center_distance = mounted ? mounted->number : p.center_distance;
    if (possible && raw.cycloidal) {
      p.cycloidal.emplace(g1.teeth, g2.teeth, p.mounted_center_distance, p.axial_offset);
    } else if (possible && raw.crossed()) {
      p.crossed.emplace(g1.teeth.gear(), g2.teeth.gear(), p.mounted_center_distance, p.axial_offset);
    } else if (possible) {
      const double least = pair::least_center_distance(g1.teeth, g2.teeth);
      if (p.mounted_center_distance > least && (designed || mounted || zero)) {
        p.running.emplace(g1.teeth, g2.teeth, p.mounted_center_distance, p.axial_offset);
      } else {
        p.mismatches.push_back({FindingId::no_mesh_at_distance, subject, p.mounted_center_distance, least});
      }
    }
    place(raw, p, placed);
    design_.pairs.push_back(std::move(p));
  }
  mistakes_.stop();
  close_loops();
  set_apart();
  return std::move(design_);
}

namespace {

using Fraction = boost::multiprecision::cpp_rational;

/// Turns of the driven per turn of the driver, exactly, signed.
Fraction exact_ratio(const Design& design, const Pair& p) {
  const Fraction size(design.gears[p.driver].teeth.count(), design.gears[p.driven].teeth.count());
  return p.motion_ratio() < 0 ? Fraction(-size) : size;
}

/// Turns of every gear for one turn of the first driver of its mechanism, by the pairs that place it; racks do not
/// turn.
std::vector<std::optional<Fraction>> exact_turns(const Design& design) {
  std::vector<std::optional<Fraction>> turns(design.gears.size());
  for (const Pair& p : design.pairs) {
    if (p.loop || !p.meshes() || design.gears[p.driver].teeth.is_rack() || design.gears[p.driven].teeth.is_rack())
      continue;
    std::optional<Fraction>&driver = turns[p.driver], &driven = turns[p.driven];
    if (!driver && !driven) driver = 1;
    if (driver && !driven)
      driven = *driver * exact_ratio(design, p);
    else if (driven && !driver)
      driver = *driven / exact_ratio(design, p);
  }
  return turns;
}

}  // namespace

/// Pairs whose gears others place: both ways round the loop must give the same ratio and the same teeth.
void Resolver::close_loops() {
  const std::vector<std::optional<Fraction>> turns = exact_turns(design_);
  for (Pair& p : design_.pairs) {
    if (!p.loop) continue;
    if (!p.plane() || !turns[p.driver] || !turns[p.driven]) {
      p.loop.reset();  // told as what it is elsewhere
      continue;
    }
    Pair::Loop& loop = *p.loop;
    const Gear &g1 = design_.gears[p.driver], &g2 = design_.gears[p.driven];
    loop.driver_turn = turns[p.driver]->str(), loop.driven_turn = turns[p.driven]->str();
    const Fraction others = *turns[p.driven] / *turns[p.driver], own = exact_ratio(design_, p);
    loop.ratio = others.convert_to<double>();
    const std::string subject = "pair." + p.name;
    if (others != own) {
      loop.findings.push_back({FindingId::loop_turns, subject, loop.ratio, own.convert_to<double>(),
                               fmt::format("for one turn of {} the other pairs turn {} by {}, its own teeth by {}",
                                           g1.name, g2.name, others.str(), own.str())});
    }
    const double off = off_middle(g1, g2, p.direction), radius = p.working_pitch_diameters()[1] / 2;
    const double half_play = p.circumferential_backlash() / radius / 2,
                 touch = pair::binding(g1.teeth.module()) / radius;
    if (std::abs(off) <= touch) continue;
    const bool clashes = std::abs(off) > half_play + touch;
    loop.findings.push_back({clashes ? FindingId::loop_phase : FindingId::loop_off_middle, subject, std::abs(off),
                             std::max(0.0, half_play),
                             others == own ? loop_remedy(design_, p) : "its gears turn against each other besides"});
  }
}

/// Mechanisms that no pair joins stand clear of each other, the later ones below the earlier.
void Resolver::set_apart() {
  const std::size_t n = design_.gears.size();
  const std::vector<std::size_t> mechanism = mechanisms(design_);
  if (design_.pairs.empty()) return;  // gears alone: each is looked at by itself
  const auto world = [&](const Gear& g) -> Vec3 {
    return design_.groups[g.group].origin + design_.groups[g.group].axes * Vec3(g.axis.x(), g.axis.y(), g.height);
  };
  double floor = 0;
  for (std::size_t first = 0; first < n; ++first) {
    if (mechanism[first] != first) continue;
    double low = 1e300, high = -1e300, module = 0;
    for (std::size_t i = first; i < n; ++i) {
      if (mechanism[i] != first) continue;
      const Gear& g = design_.gears[i];
      const double r = g.teeth.is_rack() ? std::abs(std::sin(g.facing)) * g.teeth.reach() / 2 +
                                               std::abs(std::cos(g.facing)) * g.teeth.rack().sizes().base_height
                                         : g.teeth.reach();
      low = std::min(low, world(g).y() - r), high = std::max(high, world(g).y() + r), module = g.teeth.module();
    }
    if (first == 0) {
      floor = low;
      continue;
    }
    const double down = high - floor + 4 * module;
    std::vector<bool> moved(design_.groups.size(), false);
    for (std::size_t i = first; i < n; ++i) {
      Gear& g = design_.gears[i];
      if (mechanism[i] != first) continue;
      if (g.group == 0)
        g.axis.y() -= down;
      else if (!moved[g.group])
        design_.groups[g.group].origin.y() -= down, moved[g.group] = true;
    }
    floor = low - down;
  }
}

/// Puts the gear of a pair that has no place yet where the theory wants it.
void Resolver::place(const RawPair& raw, Pair& p, std::vector<bool>& placed) {
  Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
  const double a = p.mounted_center_distance;
  const Value* start = raw.find("start_angle");
  if (!placed[raw.driver] && !placed[raw.driven]) {
    // A driver that hangs on nothing yet starts a group of its own at the origin.
    if (!g1.teeth.is_rack() && start) g1.phase = start->number * kPi / 180;
    if (g1.teeth.is_rack()) g1.facing = p.direction - kPi / 2;
    g1.speed_ratio = 1;
    placed[raw.driver] = true;
  } else if (start) {
    note("start-follows", start->where, "pair." + raw.name + ".start_angle",
         "cannot be chosen: another pair above already places a gear of this one; set start_angle there");
  }
  // Seen from the driver the pitch point lies in `direction`; a ring's axis then lies on the other side of its
  // pinion's.
  const bool ring = g2.teeth.internal();
  const Vec2 way = (ring ? -1 : 1) * from_polar(a, p.direction);
  const double from_driven = g1.teeth.internal() || ring ? p.direction : p.direction + kPi;
  const bool can_phase = p.mismatches.empty();
  const double ratio = p.motion_ratio();
  if (placed[raw.driver] && placed[raw.driven]) {
    const bool same = g1.group == g2.group && p.shaft_angle == 0;
    const double off = same ? (g2.axis - g1.axis - way).norm() : a;
    if (off > 1e-6) {
      note("placed-twice", raw.where, "pair." + raw.name,
           same ? fmt::format(
                      "the other pairs put its gears {} apart, this pair wants them {} apart at direction {:.6g}°; "
                      "change a center distance or a direction so that the axes agree",
                      print((g2.axis - g1.axis).norm()), print(a), p.direction * 180 / kPi)
                : "joins gears that other pairs place already, on axes that are not parallel; leave one of these pairs "
                  "out");
    }
    p.loop.emplace();
    return;
  }
  if (p.crossed) {
    // A group of its own for the gear that is new: its axes turned about the common normal.
    const bool forward = placed[raw.driver];
    Gear &known = forward ? g1 : g2, &fresh = forward ? g2 : g1;
    const Group base = design_.groups[known.group];
    const roll::Axis tilt = roll::crossed_axis(p.direction, a, forward ? p.shaft_angle : -p.shaft_angle, 0);
    Group group;
    group.axes = base.axes * tilt.axes;
    group.origin = base.origin +
                   base.axes * (Vec3(known.axis.x(), known.axis.y(), known.height) + (forward ? 1 : -1) * tilt.origin);
    // The offset is the driven's along its own axis, from the foot of the common normal.
    if (!forward) group.origin -= base.axes.col(2) * p.axial_offset;
    fresh.group = design_.groups.size();
    fresh.height = forward ? p.axial_offset : 0;
    design_.groups.push_back(group);
    if (forward)
      turn_to(fresh, 0, pair::driven_phase(g1.teeth, g2.teeth, section(g1, g1.height), p.direction));
    else
      turn_to(fresh, 0, pair::driven_phase(g2.teeth, g1.teeth, section(g2, g2.height - p.axial_offset), from_driven));
    fresh.speed_ratio = known.speed_ratio
                            ? std::optional(forward ? *known.speed_ratio * ratio : *known.speed_ratio / ratio)
                            : std::nullopt;
  } else if (placed[raw.driver]) {
    if (g1.teeth.is_rack()) {
      const double wanted = p.direction - kPi / 2;
      if (std::abs(std::remainder(wanted - g1.facing, 2 * kPi)) > 1e-9) {
        note("rack-faces-away", raw.where, "pair." + raw.name + ".direction",
             fmt::format("must be {:.6g}°, where the teeth of the rack {} face", (g1.facing + kPi / 2) * 180 / kPi,
                         g1.name));
      }
    }
    g2.group = g1.group;
    g2.axis = g1.axis + way;
    g2.height = g1.height + p.axial_offset;
    if (g2.teeth.is_rack()) g2.facing = p.direction + kPi / 2;
    if (can_phase) turn_to(g2, g1.height, pair::driven_phase(g1.teeth, g2.teeth, section(g1, g1.height), p.direction));
    g2.speed_ratio = g1.speed_ratio ? std::optional(*g1.speed_ratio * ratio) : std::nullopt;
  } else {
    g1.group = g2.group;
    g1.axis = g2.axis - way;
    g1.height = g2.height - p.axial_offset;
    if (g1.teeth.is_rack()) g1.facing = p.direction - kPi / 2;
    if (can_phase) turn_to(g1, g1.height, pair::driven_phase(g2.teeth, g1.teeth, section(g2, g1.height), from_driven));
    g1.speed_ratio = g2.speed_ratio && ratio != 0 ? std::optional(*g2.speed_ratio / ratio) : std::nullopt;
  }
  placed[raw.driver] = placed[raw.driven] = true;
}

}  // namespace palio::job
