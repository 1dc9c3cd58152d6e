// Where everything stands: gears are placed pair by pair, in the order of the job.
#include <algorithm>
#include <cmath>

#include "loops.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/pair/tolerance.hpp"
#include "palio/roll/space.hpp"
#include "resolver.hpp"

namespace palio::job {
namespace {

const Gear* rack_of(const Gear& driver, const Gear& driven) {
  return driver.teeth.is_rack() ? &driver : driven.teeth.is_rack() ? &driven : nullptr;
}

/// Whether a place along a rack, from its own origin, is at its teeth.
bool at_teeth(const Gear& rack, double place) {
  const double half = rack.teeth.count() * rack.teeth.rack().pitch() / 2;
  return std::abs(place - rack.teeth.rack().sizes().middle) <= half + math::kAlike;
}

/// How many teeth let a rack reach a place along it, with one to spare.
int teeth_to(const Gear& rack, double place) {
  return static_cast<int>(std::ceil(2 * std::abs(place) / rack.teeth.rack().pitch())) + 2;
}

}  // namespace

std::optional<gear::CylindricalGear> Gear::thinnest() const {
  if (!(thickness_tolerance > 0) || teeth.is_bevel() || teeth.is_rack() || teeth.is_cycloidal()) return std::nullopt;
  gear::CylindricalSpec spec = teeth.spec();
  spec.thickness_allowance -= thickness_tolerance, spec.flanks_only = true;
  return gear::CylindricalGear(spec);
}

Design Resolver::placed(std::vector<std::optional<gear::Teeth>>& built) {
  for (std::size_t i = 0; i < gears_.size(); ++i) {
    const Settings& g = gears_[i];
    const double beta = std::abs(specs_[i].helix_angle.degrees());
    Gear gear({g.name, *built[i]});
    gear.kind = *g.kind();
    gear.pressure_angle_deg = g.number("pressure_angle");
    gear.helix_angle_deg = g.find("helix_angle") && beta > 0 ? g.number("helix_angle") : beta;
    gear.transverse_system = g.text("system") == "transverse";
    gear.bore_given = g.number("bore.diameter"), gear.bore_play = bore_play(g),
    gear.grip = g.find("bore.fit") ? g.text("bore.fit") : g.text("bore.grip");
    if (const Bearing* b = ball_bearing(g.text("bore.bearing"))) gear.bearing = *b;
    gear.part_name = g.text("part_name"), gear.part_number = g.text("part_number");
    if (const Value* v = g.find("span_teeth")) gear.span_teeth = static_cast<int>(v->number);
    gear.pin_diameter = g.given("pin_diameter"), gear.eccentricity = g.number("eccentricity", 0);
    gear.thickness_tolerance = g.number("thickness_tolerance", 0), gear.tip_tolerance = g.number("tip_tolerance", 0);
    try {
      (void)gear.thinnest();
    } catch (const InvalidParameter&) {
      note("bad-value", g.find("thickness_tolerance")->where, "gear." + g.name + ".thickness_tolerance",
           fmt::format("is {}, but nothing is left of teeth that are {} thick; give less",
                       print(gear.thickness_tolerance), print(gear.teeth.gear().sizes().normal_tooth_thickness)));
    }
    design_.gears.push_back(std::move(gear));
  }
  design_.groups.emplace_back();

  // Gears are placed pair by pair, in the order of the job; the first driver stands on the origin. A pair that hangs on
  // what stands already goes before one that would begin anew.
  plans_.placed.assign(gears_.size(), false);
  lay_out_shafts(built);
  std::vector<std::optional<Pair>> pairs(raw_pairs_.size());
  for (std::size_t done = 0; done < pairs.size(); ++done) {
    const auto waits = [&](std::size_t i) { return !pairs[i]; };
    const auto hangs = [&](std::size_t i) {
      return waits(i) && (plans_.placed[raw_pairs_[i].driver] || plans_.placed[raw_pairs_[i].driven]);
    };
    std::size_t next = 0;
    while (next < pairs.size() && !hangs(next))
      ++next;
    for (std::size_t i = 0; next == pairs.size(); ++i) {
      if (waits(i)) next = i;
    }
    const RawPair& raw = raw_pairs_[next];
    Pair p = made_of(raw);
    if (raw.is(pair::Sort::bevel))
      place_bevel(raw, p);
    else
      place(raw, p);
    settle_pair(raw);
    pairs[next] = std::move(p);
  }
  // What no pair names stands where its shaft puts it.
  for (std::size_t i = 0; i < gears_.size(); ++i) {
    if (!plans_.placed[i]) plans_.placed[i] = true, settle(i);
  }
  for (std::optional<Pair>& p : pairs)
    design_.pairs.push_back(*std::move(p));
  mistakes_.stop();
  connect_pairs();
  mistakes_.stop();
  close_loops();
  set_apart();
  for (Pair& p : design_.pairs)
    p.stand(design_.gears[p.driver], design_.gears[p.driven]);
  return std::move(design_);
}

Pair Resolver::made_of(const RawPair& raw) const {
  const Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
  pair::Arrangement as_built = raw.arrangement();
  // A rack that stands faces one way: no other direction leads to it.
  if (const Gear* rack = rack_of(g1, g2);
      rack && plans_.placed[rack == &g1 ? raw.driver : raw.driven] && !raw.find("direction"))
    as_built.direction = Angle::radians(std::remainder(rack->facing + (rack == &g1 ? 1 : -1) * kPi / 2, 2 * kPi));
  Pair p(pair::Pair(g1, g2, as_built, "pair." + raw.name));
  p.name = raw.name, p.driver = raw.driver, p.driven = raw.driven;
  p.friction = raw.given("friction"), p.speed = raw.given("speed");
  p.eccentricity = g1.eccentricity + g2.eccentricity;
  p.reference_center_distance = pair::reference_distance(g1.teeth, g2.teeth, as_built.shaft_angle);
  const Value* designed = raw.find("center_distance");
  p.center_distance =
      designed
          ? designed->number
          : pair::distance_without_play(g1.teeth, g2.teeth, as_built.shaft_angle).value_or(p.reference_center_distance);
  return p;
}

/// Pairs whose gears others place: both ways round the loop must give the same ratio and the same teeth.
void Resolver::close_loops() {
  const Machine& machine = design_.machine;
  const machine::Speeds speeds = speeds_without_loops();
  for (std::size_t i = 0; i < machine.meshes.size(); ++i) {
    Pair& p = design_.pairs[*machine.pair_of[i]];
    if (!p.loop) continue;
    const std::size_t driver = machine.of_gear[p.driver], driven = machine.of_gear[p.driven];
    const std::optional<machine::Fraction> round = speeds.turned(driver).turns[driven];
    const Gear &g1 = design_.gears[p.driver], &g2 = design_.gears[p.driven];
    if (!p.plane() || machine.meshes[i].carrier || !round) {
      p.loop.reset();  // no loop, or told as what it is elsewhere
      continue;
    }
    WayRound& loop = *p.loop;
    for (const std::size_t first : plans_.first) {
      const machine::Motion motion = speeds.turned(machine.of_gear[first]);
      if (!motion.turns[driver] || !motion.turns[driven]) continue;
      loop.driver_turn = motion.turns[driver]->text, loop.driven_turn = motion.turns[driven]->text;
      break;
    }
    const machine::Fraction own =
        *machine::Speeds(machine.members.size(), {machine.meshes[i].tie()}).turned(driver).turns[driven];
    const bool on_rack = rack_of(g1, g2) != nullptr;
    // Racks count pitches in the machine, millimetres the other way in their pair.
    loop.ratio = on_rack ? p.motion_ratio() * round->value / own.value : round->value;
    const std::string subject = "pair." + p.name;
    if (!(*round == own)) {
      loop.findings.push_back({FindingId::loop_turns, subject, round->value, own.value,
                               fmt::format("for one turn of {} the other pairs turn {} by {}, its own teeth by {}",
                                           g1.name, g2.name, round->text, own.text)});
    }
    // Of a rack all is told as the turn of its gear.
    const bool to_rack = g2.teeth.is_rack();
    const double radius = p.working_pitch_diameters()[to_rack ? 0 : 1] / 2;
    const double off = off_middle(g1, g2, p.direction().radians()) / (to_rack ? radius : 1);
    const double half_play = p.circumferential_backlash() / radius / 2,
                 touch = pair::binding(g1.teeth.module()) / radius;
    if (std::abs(off) <= touch) continue;
    const bool clashes = std::abs(off) > half_play + touch;
    loop.findings.push_back({clashes ? FindingId::loop_phase : FindingId::loop_off_middle, subject, std::abs(off),
                             std::max(0.0, half_play),
                             *round == own ? loop_remedy(design_, p) : "its gears turn against each other besides"});
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
    const auto moves = [&](std::size_t gear) { return mechanism[gear] == first; };
    math::Extent taken;
    double module = 0;
    for (std::size_t i = first; i < n; ++i) {
      if (mechanism[i] != first) continue;
      const Gear& g = design_.gears[i];
      const double r = g.teeth.is_rack() ? std::abs(std::sin(g.facing)) * g.teeth.reach() / 2 +
                                               std::abs(std::cos(g.facing)) * g.teeth.rack().sizes().base_height
                                         : g.teeth.reach();
      taken.hold(world(g).y() - r), taken.hold(world(g).y() + r), module = g.teeth.module();
    }
    if (first == 0) {
      floor = taken.low();
      continue;
    }
    const double down = taken.high() - floor + 4 * module;
    std::vector<bool> moved(design_.groups.size(), false);
    for (std::size_t i = first; i < n; ++i) {
      Gear& g = design_.gears[i];
      if (mechanism[i] != first) continue;
      if (g.group == 0)
        g.axis.y() -= down;
      else if (!moved[g.group])
        design_.groups[g.group].origin.y() -= down, moved[g.group] = true;
    }
    for (Carrier& c : design_.machine.carriers) {
      if (c.placed && c.group == 0 && moves(design_.machine.members[c.carried[0]].gears[0])) c.axis.y() -= down;
    }
    for (std::optional<AxisPlace>& r : plans_.reducers) {
      if (r && r->group == 0 && moves(r->anchor)) r->axis.y() -= down;
    }
    floor = taken.low() - down;
  }
}

/// A driver that hangs on nothing yet begins a mechanism at the origin. Whether one of the two still wants a place.
bool Resolver::start(const RawPair& raw, const Pair& p) {
  Gear& driver = design_.gears[raw.driver];
  std::vector<bool>& placed = plans_.placed;
  const Value* start = raw.find("start_angle");
  if (!placed[raw.driver] && !placed[raw.driven]) {
    if (start && !driver.teeth.is_rack()) driver.phase = start->number * kPi / 180;
    if (driver.teeth.is_rack()) driver.facing = p.direction().radians() - kPi / 2;
    placed[raw.driver] = true;
    plans_.first.push_back(raw.driver);
    settle(raw.driver);
  } else if (start) {
    note("start-follows", start->where, "pair." + raw.name + ".start_angle",
         "cannot be chosen: another pair above already places a gear of this one; set start_angle there");
  }
  return !placed[raw.driver] || !placed[raw.driven];
}

/// A group of its own for the gear whose axis crosses that of its mate: the axes turned about the common normal.
std::size_t Resolver::crossing(const Pair& p, const Gear& known, bool forward) {
  const Group base = design_.groups[known.group];
  const roll::Axis tilt =
      roll::crossed_axis(p.direction(), p.mounted_center_distance(), forward ? p.shaft_angle() : -p.shaft_angle(), 0);
  Group group;
  group.axes = base.axes * tilt.axes;
  group.origin =
      base.origin + base.axes * (Vec3(known.axis.x(), known.axis.y(), known.height) + (forward ? 1 : -1) * tilt.origin);
  // The offset is the driven's along its own axis, from the foot of the common normal.
  if (!forward) group.origin -= base.axes.col(2) * p.axial_offset();
  design_.groups.push_back(group);
  return design_.groups.size() - 1;
}

namespace {

double degrees_to(const Vec2& way) { return std::atan2(way.y(), way.x()) * 180 / kPi; }

/// What makes a pair of gears that stand already agree with where they stand: the direction alone, where their distance
/// is the pair's.
std::string closing_direction(const Pair& p, const pair::Placed& g1, const pair::Placed& g2) {
  const Vec2 way = g2.axis - g1.axis;
  constexpr double kSameDistance = 1e-6;  // [mm]
  if (std::abs(way.norm() - p.mounted_center_distance()) > kSameDistance)
    return "change a center distance or a direction so that the axes agree";
  // Of a ring and its pinion the axes may lie either way along the direction: whichever it is for this pair.
  const Vec2 now = p.beside(g1, g2).axis - g1.axis;
  const double turn = std::remainder(degrees_to(way) - degrees_to(now), 360.0);
  const double direction = std::remainder(p.direction().radians() * 180 / kPi + turn, 360.0);
  return fmt::format("direction = {:.12g} would do", direction);
}

}  // namespace

/// The gears of this pair stand already: they close a loop, or stand on shafts that others place.
void Resolver::place_closing(const RawPair& raw, Pair& p) {
  Gear &driver = design_.gears[raw.driver], &driven = design_.gears[raw.driven];
  // A rack is met where the gear stands along it.
  const pair::Placed g1 = driver.teeth.is_rack() ? pair::rack_at(driver, driven.axis) : pair::Placed(driver);
  const pair::Placed g2 = driven.teeth.is_rack() ? pair::rack_at(driven, driver.axis) : pair::Placed(driven);
  const double a = p.mounted_center_distance();
  const bool same = driver.group == driven.group && p.shaft_angle().radians() == 0;
  constexpr double kOffPlace = 1e-6;  // [mm]: given distances that should close a loop are rounded
  const pair::Placed there = same ? p.beside(g1, g2) : g2;
  if (const double off = same ? (g2.axis - there.axis).norm() : a; off > kOffPlace) {
    note("placed-twice", raw.where, "pair." + raw.name,
         same ? fmt::format(
                    "the other pairs put its gears {} apart at {:.6g}°, this pair wants them {} apart at direction "
                    "{:.6g}°; {}",
                    print((g2.axis - g1.axis).norm()), degrees_to(g2.axis - g1.axis), print(a),
                    p.direction().radians() * 180 / kPi, closing_direction(p, g1, g2))
              : "joins gears that other pairs place already, on axes that are not parallel; leave one of these pairs "
                "out");
  } else if (std::abs(there.height - g2.height) > kOffPlace) {
    note("placed-twice", raw.where, "pair." + raw.name,
         fmt::format("the middles of its gears' faces stand {} apart along the shafts, {} more than this pair says; "
                     "change gap or places of a shaft, or set axial_offset = {:.12g}",
                     print(std::abs(g2.height - g1.height)), print(std::abs(there.height - g2.height)),
                     (g2.height - g1.height) / mm_per(design_.units)));
  } else if (same) {
    check_along(raw);
  }
  p.loop.emplace();
  // What a shaft brought along is turned on it until its teeth stand before spaces.
  for (const auto& [gear, is_driver] : {std::pair{raw.driven, false}, {raw.driver, true}}) {
    if (plans_.free.erase(gear) == 0 || !p.meshes() || !same) continue;
    if (is_driver)
      driver.phase = p.before(g2, g1).phase;
    else
      driven.phase = there.phase;
    break;
  }
}

/// Both of a rack's pair stand: whether its gear is at the teeth of the rack, and where the job says it is.
void Resolver::check_along(const RawPair& raw) {
  const Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
  const Gear* rack = rack_of(g1, g2);
  if (!rack) return;
  const double unit = mm_per(design_.units), at = pair::along(*rack, (rack == &g1 ? g2 : g1).axis) + rack->phase;
  const Value* said = raw.find("along");
  const Where& where = said ? said->where : raw.where;
  const std::string path = "pair." + raw.name + ".along";
  const double half = rack->teeth.count() * rack->teeth.rack().pitch() / 2, middle = rack->teeth.rack().sizes().middle;
  if (!at_teeth(*rack, at))
    return note("bad-value", where, path,
                fmt::format("puts the gear {} along the rack {}, beyond its teeth, which run from {} to {}; give it {} "
                            "teeth, or put the gear elsewhere",
                            print(at), rack->name, print(middle - half), print(middle + half), teeth_to(*rack, at)));
  // Teeth meet where they meet: asked for is a place, reached within half a pitch of it.
  if (said && std::abs(at - said->number) > rack->teeth.rack().pitch() / 2 + math::kAlike)
    note("placed-twice", where, path,
         fmt::format("is {}, but the other pairs put the gear {} along the rack; leave it out, or give {:.12g}",
                     print(said->number), print(at), at / unit));
}

/// A rack stands already: another gear at the same place of it is asked to say where it stands.
void Resolver::rack_taken(const RawPair& raw, std::size_t rack, double along) {
  if (raw.find("along")) return;
  const Gear& bar = design_.gears[rack];
  const Gear& fresh = design_.gears[raw.driver == rack ? raw.driven : raw.driver];
  for (const RawPair& other : raw_pairs_) {
    if (other.driver != rack && other.driven != rack) continue;
    const std::size_t mate = other.driver == rack ? other.driven : other.driver;
    if (!plans_.placed[mate]) continue;
    const Gear& there = design_.gears[mate];
    const double at = pair::along(bar, there.axis) + bar.phase, apart = fresh.teeth.reach() + there.teeth.reach();
    if (std::abs(at - along) >= apart) continue;
    const double unit = mm_per(design_.units);
    std::string remedy;
    for (const double free : {at + apart + bar.teeth.module(), at - apart - bar.teeth.module()}) {
      if (at_teeth(bar, free)) remedy += fmt::format("{}{:.6g}", remedy.empty() ? "" : ", or ", free / unit);
    }
    const double beyond = at + apart + bar.teeth.module();
    if (remedy.empty())
      remedy = fmt::format("{:.6g}, with {} teeth on the rack,", beyond / unit, teeth_to(bar, beyond));
    return note("rack-twice", raw.where, "pair." + raw.name + ".along",
                fmt::format("is not given, and {} stands {} along the rack {}, where this gear would run into it; {} "
                            "would do",
                            there.name, print(at), bar.name, remedy));
  }
}

/// Puts the gear of a pair that has no place yet where the theory wants it.
void Resolver::place(const RawPair& raw, Pair& p) {
  if (!start(raw, p)) return place_closing(raw, p);
  Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
  const bool forward = plans_.placed[raw.driver];
  Gear &known = forward ? g1 : g2, &fresh = forward ? g2 : g1;
  const double along = raw.number("along", 0);
  pair::Placed there = known;
  if (known.teeth.is_rack()) {
    there = pair::rack_at(there, known.axis + from_polar(along - known.phase, known.facing));
    rack_taken(raw, forward ? raw.driver : raw.driven, along);
  }
  static_cast<pair::Placed&>(fresh) = forward ? p.beside(there, fresh) : p.before(there, fresh);
  if (fresh.teeth.is_rack() && along != 0) {
    fresh.axis -= from_polar(along, fresh.facing);
    fresh.phase = std::remainder(fresh.phase - along, fresh.teeth.rack().pitch());
  }
  fresh.group = p.sort() == pair::Sort::crossed ? crossing(p, known, forward) : known.group;
  const double faces = known.facing + (forward ? kPi / 2 : -kPi / 2);
  if (known.teeth.is_rack() && std::abs(std::remainder(p.direction().radians() - faces, 2 * kPi)) > math::kAlike)
    note("rack-faces-away", raw.where, "pair." + raw.name + ".direction",
         fmt::format("must be {:.6g}°, where the teeth of the rack {} face", faces * 180 / kPi, known.name));
  else
    check_along(raw);
  plans_.placed[raw.driver] = plans_.placed[raw.driven] = true;
  // Once a gear has met a mate it is not turned on its shaft any more.
  plans_.free.erase(raw.driver), plans_.free.erase(raw.driven);
}

}  // namespace palio::job
