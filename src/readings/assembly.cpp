#include "assembly.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "palio/math/tolerance.hpp"
#include "palio/pair/tolerance.hpp"
#include "swept.hpp"

namespace palio::job {
namespace {

/// What is put in its place as one: a central member, or a planet like all its copies.
struct Unit {
  std::size_t member;
  bool planet;
  const std::vector<std::size_t>& gears;
};

class Set {
 public:
  Set(const Design& design, const Carrier& carrier)
      : design_(design), carrier_(carrier), bands_(design.gears.size()), mates_(mates(design)) {
    const Machine& machine = design.machine;
    std::set<std::size_t> central;
    for (const machine::Mesh& m : machine.meshes) {
      if (m.carrier != carrier.member) continue;
      for (const std::size_t member : {m.a, m.b}) {
        if (!machine.members[member].carrier) central.insert(member);
      }
    }
    for (const std::size_t m : central)
      add(m, false);
    for (const std::size_t m : carrier.carried)
      add(m, true);
  }

  /// Of one where `others` stand.
  WayIn way(std::size_t unit, const std::vector<bool>& others) const {
    WayIn found;
    const Unit& u = units_[unit];
    found.from_above = passes(unit, others, true, 0);
    found.from_below = passes(unit, others, false, 0);
    if (!u.planet) return found;
    bool outside = true, inside = false;
    double most_in = 0;  // how far a ring's teeth make it stand further in
    for (std::size_t k = 0; k < units_.size(); ++k) {
      if (!others[k] || k == unit) continue;
      for (const std::size_t i : u.gears) {
        for (const std::size_t other : units_[k].gears) {
          if (gear(other).teeth.internal() && level(i, other)) outside = false;
          if (!gear(other).teeth.internal() || mates_.count(std::minmax(i, other)) == 0) continue;
          inside = true;
          most_in = std::max(most_in, reach_of(i) + arm(i) - tip_of_ring(other));
        }
      }
    }
    found.inwards = outside;
    // A hair more than the teeth are deep, so that they are clear of each other.
    const double in = most_in + math::kAlike * carrier_arm();
    found.outwards = inside && in < carrier_arm() && radially(unit, others) && !beside_copies(unit, in) &&
                     (passes(unit, others, true, in) || passes(unit, others, false, in));
    return found;
  }

  const std::vector<Unit>& units() const { return units_; }
  bool stands() const { return sound_ && units_.size() > 1; }

 private:
  const Gear& gear(std::size_t i) const { return design_.gears[i]; }
  double arm(std::size_t i) const { return (gear(i).axis - carrier_.axis).norm(); }
  double carrier_arm() const { return arm(units_.back().gears.front()); }
  double reach_of(std::size_t i) const { return gear(i).teeth.reach(); }
  double tip_of_ring(std::size_t i) const { return gear(i).teeth.tip_diameter() / 2; }

  void add(std::size_t member, bool planet) {
    const std::vector<std::size_t>& gears = design_.machine.members[member].gears;
    for (const std::size_t i : gears) {
      // Bevel planets and what stands askew have other ways in.
      if (gear(i).group != carrier_.group || gear(i).teeth.is_bevel() || gear(i).teeth.is_rack()) sound_ = false;
      if (sound_) bands_[i] = bands_of(body(gear(i)).layers(), foot(gear(i)));
    }
    if (!gears.empty()) units_.push_back({member, planet, gears});
  }

  /// Whether a layer lies where its gear has teeth.
  bool toothed(std::size_t i, const Band& b) const {
    const double half = gear(i).axial * gear(i).teeth.face_width() / 2 + math::kAlike;
    return std::abs((b.low + b.high) / 2 - gear(i).height) < half;
  }

  bool level(std::size_t i, std::size_t other) const {
    return std::any_of(bands_[i].begin(), bands_[i].end(), [&](const Band& own) {
      return std::any_of(bands_[other].begin(), bands_[other].end(), [&](const Band& there) {
        return std::min(own.high, there.high) - std::max(own.low, there.low) > math::kAlike;
      });
    });
  }

  /// Along the axis, from above or below, a planet's axis so much nearer to the middle than where it will stand.
  bool passes(std::size_t unit, const std::vector<bool>& others, bool above, double in) const {
    for (std::size_t k = 0; k < units_.size(); ++k) {
      if (!others[k] || k == unit) continue;
      for (const std::size_t i : units_[unit].gears) {
        for (const std::size_t other : units_[k].gears) {
          if (!passes(i, other, above, in)) return false;
        }
      }
    }
    return true;
  }

  bool passes(std::size_t i, std::size_t other, bool above, double in) const {
    const bool mates = in == 0 && mates_.count(std::minmax(i, other)) > 0;
    if (mates && gear(i).teeth.is_double_helical()) return false;
    const Vec2 out = gear(i).axis - carrier_.axis;
    const Vec2 axis = in == 0 ? gear(i).axis : Vec2(carrier_.axis + out * (1 - in / out.norm()));
    const double apart = (axis - gear(other).axis).norm();
    for (const Band& own : bands_[i]) {
      for (const Band& there : bands_[other]) {
        // Ahead of it on its way out, or beside it.
        const bool ahead = above ? there.high > own.low + math::kAlike : there.low < own.high - math::kAlike;
        if (!ahead || (mates && toothed(i, own) && toothed(other, there))) continue;
        if (overlap(own, there, apart) > math::kAlike * std::max(1.0, own.outer)) return false;
      }
    }
    return true;
  }

  /// Whether the ring's teeth let it come from the middle.
  bool radially(std::size_t unit, const std::vector<bool>& others) const {
    for (const job::Pair& p : design_.pairs) {
      const pair::ParallelPair* mesh = p.parallel();
      if (!mesh || !mesh->internal()) continue;
      const bool driven_is_ring = design_.gears[p.driven].teeth.internal();
      const std::size_t ring = driven_is_ring ? p.driven : p.driver, planet = driven_is_ring ? p.driver : p.driven;
      if (unit_of(planet) != unit || !others[unit_of(ring)]) continue;
      const double binding = pair::binding(gear(planet).teeth.module());
      if (pair::radial_assembly_clash(gear(planet).teeth.gear(), gear(ring).teeth.gear(),
                                      mesh->working_pressure_angle()) > binding)
        return false;
    }
    return true;
  }

  std::size_t unit_of(std::size_t gear) const {
    for (std::size_t u = 0; u < units_.size(); ++u) {
      if (std::find(units_[u].gears.begin(), units_[u].gears.end(), gear) != units_[u].gears.end()) return u;
    }
    return units_.size();
  }

  /// Further in, it may run into copies that stand already.
  bool beside_copies(std::size_t unit, double in) const {
    for (const std::size_t i : units_[unit].gears) {
      for (const Carrier::Copy& c : carrier_.copies) {
        const double a = arm(i), b = a - in, apart = std::sqrt(a * a + b * b - 2 * a * b * std::cos(c.axis));
        if (c.axis != 0 && apart < 2 * reach_of(i)) return true;
      }
    }
    return false;
  }

  const Design& design_;
  const Carrier& carrier_;
  bool sound_ = true;
  std::vector<Unit> units_;
  std::vector<std::vector<Band>> bands_;
  std::set<std::pair<std::size_t, std::size_t>> mates_;
};

/// Those that stay where whoever can go has gone.
std::vector<bool> taken_apart(const Set& set, std::vector<AssemblyStep>& gone) {
  const std::size_t n = set.units().size();
  std::vector<bool> there(n, true);
  for (bool moved = true; moved;) {
    moved = false;
    // Of several that could go, the one named last went in last.
    for (std::size_t u = n; u-- > 0 && !moved;) {
      if (!there[u]) continue;
      const WayIn way = set.way(u, there);
      if (!way.any()) continue;
      gone.push_back({set.units()[u].member, way});
      there[u] = false, moved = true;
    }
  }
  return there;
}

}  // namespace

Assembly assembly(const Design& design, const Carrier& carrier) {
  Assembly found;
  if (!carrier.placed) return found;
  const Set set(design, carrier);
  if (!set.stands()) return found;
  const std::vector<bool> there = taken_apart(set, found.steps);
  std::reverse(found.steps.begin(), found.steps.end());
  const std::vector<bool> all(there.size(), true);
  found.any_order = true;
  for (std::size_t u = 0; u < there.size(); ++u) {
    if (there[u]) found.stuck.push_back(set.units()[u].member);
    found.any_order = found.any_order && set.way(u, all).any();
  }
  return found;
}

std::string in_words(const WayIn& way) {
  std::string words;
  const auto add = [&](const std::string& one) { words += (words.empty() ? "" : ", or ") + one; };
  if (way.from_below && way.from_above)
    add("along the axis, from below or above");
  else if (way.from_below || way.from_above)
    add(way.from_below ? "along the axis, from below" : "along the axis, from above");
  if (way.inwards) add("from outside, across the axis");
  if (way.outwards) add("in the middle first, then outwards into the ring");
  return words;
}

}  // namespace palio::job
