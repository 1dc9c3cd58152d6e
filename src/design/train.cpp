#include "palio/design/train.hpp"
#include "palio/pair/eccentric.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <Eigen/Dense>
#include <boost/multiprecision/cpp_int.hpp>

#include "palio/error.hpp"
#include "palio/reducer/load.hpp"

namespace palio::job {
namespace {

/// Meshes between members that the input reaches, in the machine's order.
std::vector<std::size_t> reached(const Machine& machine, std::size_t input, std::vector<bool>& connected) {
  connected.assign(machine.members.size(), false);
  connected[input] = true;
  std::vector<bool> in(machine.meshes.size(), false);
  for (bool more = true; more;) {
    more = false;
    for (std::size_t i = 0; i < machine.meshes.size(); ++i) {
      const machine::Mesh& m = machine.meshes[i];
      const bool touches = connected[m.a] || connected[m.b] || (m.carrier && connected[*m.carrier]);
      if (in[i] || !touches) continue;
      in[i] = more = true;
      connected[m.a] = connected[m.b] = true;
      if (m.carrier) connected[*m.carrier] = true;
    }
  }
  std::vector<std::size_t> all;
  for (std::size_t i = 0; i < in.size(); ++i) {
    if (in[i]) all.push_back(i);
  }
  return all;
}

/// A part of the machine alone, members counted anew.
struct Part {
  std::vector<std::size_t> meshes;   // places in Machine::meshes
  std::vector<std::size_t> members;  // places in Machine::members
  std::vector<std::size_t> own;      // of each of those, here
  std::vector<machine::Mesh> made;
  std::vector<bool> connected;

  Part(const Machine& machine, std::size_t input) : own(machine.members.size(), 0) {
    meshes = reached(machine, input, connected);
    for (std::size_t i = 0; i < connected.size(); ++i) {
      if (connected[i]) own[i] = members.size(), members.push_back(i);
    }
    for (const std::size_t i : meshes) {
      machine::Mesh m = machine.meshes[i];
      m.a = own[m.a], m.b = own[m.b];
      if (m.carrier) m.carrier = own[*m.carrier];
      made.push_back(std::move(m));
    }
  }
  machine::Speeds speeds() const {
    std::vector<machine::Tie> ties;
    for (const machine::Mesh& m : made)
      ties.push_back(m.tie());
    return {members.size(), std::move(ties)};
  }
  std::vector<std::size_t> here(const std::vector<std::size_t>& of) const {
    std::vector<std::size_t> all;
    for (const std::size_t m : of) {
      if (connected[m]) all.push_back(own[m]);
    }
    return all;
  }
};

std::optional<machine::Fraction> ratio_of(const machine::Speeds& speeds, std::size_t input, std::size_t output,
                                          const std::vector<std::size_t>& held) {
  if (std::find(held.begin(), held.end(), output) != held.end()) return std::nullopt;
  const machine::Motion back = speeds.turned(output, held);
  if (back.locked || !back.turns[input]) return std::nullopt;
  return back.turns[input];
}

}  // namespace

Train told_train(const Design& design) {
  const auto& trains = design.machine.trains;
  const auto own = std::find_if(trains.begin(), trains.end(), [](const Train& t) { return !t.planetary; });
  if (own != trains.end()) return *own;
  if (!trains.empty()) return trains.front();
  Train t;
  if (!design.pairs.empty())
    t.input = t.output = design.machine.of_gear[design.pairs.front().driver];
  else if (!design.reducers.empty())
    t.input = t.output = design.machine.of_reducer.front().input;
  return t;
}

std::optional<Pace> pace(const Train& train, const TrainMotion& motion) {
  if (!train.hour || motion.turns.empty()) return std::nullopt;
  const auto &hour = motion.turns[*train.hour], &escape = motion.turns[train.output];
  if (!hour || hour->value == 0) return std::nullopt;
  Pace p{std::abs(hour->value)};
  if (escape && train.escape_teeth) p.beats_per_hour = 2 * *train.escape_teeth * std::abs(escape->value / hour->value);
  return p;
}

TrainMotion moved(const Machine& machine, const Train& train) {
  const Part part(machine, train.input);
  const machine::Speeds speeds = part.speeds();
  const std::vector<std::size_t> held = part.here(train.held);
  TrainMotion all;
  all.connected = part.connected;
  all.turns.resize(machine.members.size());
  const std::size_t input = part.own[train.input];
  const machine::Motion m = speeds.turned(input, held);
  all.freedom = m.freedom, all.locked = m.locked;
  if (m.locked) {
    for (const std::size_t i : speeds.locking(input, held))
      all.locking.push_back(part.meshes[i]);
    return all;
  }
  for (std::size_t i = 0; i < part.members.size(); ++i)
    all.turns[part.members[i]] = m.turns[i];
  if (!part.connected[train.output]) return all;
  const std::size_t output = part.own[train.output];
  if (m.turns[output]) {
    if (m.turns[output]->value != 0) all.ratio = ratio_of(speeds, input, output, held);
    return all;
  }
  for (std::size_t i = 0; i < part.members.size(); ++i) {
    const bool rides = machine.members[part.members[i]].carrier.has_value();
    if (i == input || i == output || rides || std::find(held.begin(), held.end(), i) != held.end()) continue;
    std::vector<std::size_t> more = held;
    more.push_back(i);
    const machine::Motion tried = speeds.turned(input, more);
    if (!tried.locked && tried.turns[output]) all.to_hold.push_back(part.members[i]);
  }
  return all;
}

namespace {

/// The reducer that a mesh of the machine is; null for a pair.
const Reducer* reducer_of(const Design& design, std::size_t mesh) {
  const machine::Mesh& m = design.machine.meshes[mesh];
  const auto it =
      std::find_if(design.reducers.begin(), design.reducers.end(), [&](const Reducer& r) { return r.name == m.name; });
  return design.machine.pair_of[mesh] || it == design.reducers.end() ? nullptr : &*it;
}

}  // namespace

std::optional<machine::Flow> flow(const Design& design, const Train& train, bool backwards) {
  const std::size_t input = backwards ? train.output : train.input, output = backwards ? train.input : train.output;
  Part part(design.machine, input);
  if (!part.connected[output]) return std::nullopt;
  for (std::size_t i = 0; i < part.meshes.size(); ++i) {
    // What a reducer loses takes a while to work out, and is asked for here alone.
    const Reducer* r = reducer_of(design, part.meshes[i]);
    if (!r || !r->made.spec().friction) continue;
    const reducer::Efficiency losses = reducer::efficiency(r->made, *r->made.spec().friction);
    part.made[i].efficiency = losses.forward, part.made[i].efficiency_backwards = losses.backward;
  }
  try {
    const machine::Flow f =
        machine::flow(part.members.size(), part.made, part.own[input], part.own[output], part.here(train.held));
    if (f.turns[part.own[output]] == 0) return std::nullopt;
    // Counted as the machine counts.
    machine::Flow all = f;
    for (auto* of : {&all.turns, &all.torque, &all.power, &all.carried})
      of->assign(design.machine.members.size(), 0);
    for (std::size_t i = 0; i < part.members.size(); ++i) {
      all.turns[part.members[i]] = f.turns[i], all.torque[part.members[i]] = f.torque[i];
      all.power[part.members[i]] = f.power[i], all.carried[part.members[i]] = f.carried[i];
    }
    all.meshes.assign(design.machine.meshes.size(), {0, 0, true});
    for (std::size_t i = 0; i < part.meshes.size(); ++i)
      all.meshes[part.meshes[i]] = f.meshes[i];
    return all;
  } catch (const InvalidParameter&) {
    return std::nullopt;  // the one does not move the other
  }
}

std::optional<RackWay> rack_way(const Design& design, std::size_t rack) {
  const Gear& g = design.gears[rack];
  const gear::Rack& bar = g.teeth.rack();
  const double half = bar.spec().teeth * bar.pitch() / 2;
  std::optional<RackWay> way;
  for (const Pair& p : design.pairs) {
    if (!p.meshes() || (p.driver != rack && p.driven != rack)) continue;
    const Gear& mate = design.gears[p.driver == rack ? p.driven : p.driver];
    const double at = pair::along(g, mate.axis) + g.phase - bar.sizes().middle;
    if (!way) way = RackWay{half - at, half + at};
    way->back = std::min(way->back, half - at), way->on = std::min(way->on, half + at);
  }
  return way;
}

const Gear* rack_of(const Design& design, std::size_t member) {
  const std::vector<std::size_t>& gears = design.machine.members[member].gears;
  const bool rack = gears.size() == 1 && design.gears[gears[0]].teeth.is_rack();
  return rack ? &design.gears[gears[0]] : nullptr;
}

double torque_through(const Train& train, const machine::Flow& flow, std::size_t member) {
  const bool held = std::find(train.held.begin(), train.held.end(), member) != train.held.end();
  if (held) return flow.torque[member];
  return std::copysign(flow.carried[member], flow.turns[member]);
}

namespace {

/// How far a mesh gives way, in pitches of its teeth: what its tie may be off by.
std::optional<roll::Range> slip(const Design& design, std::size_t mesh) {
  if (const Reducer* reducer = reducer_of(design, mesh)) {
    const reducer::Rolled rolled = job::rolled(*reducer, 24);
    if (!rolled.play) return std::nullopt;
    const double lobes = reducer->made.sizes().lobes;
    return roll::Range{rolled.play->min * lobes / (2 * kPi), rolled.play->max * lobes / (2 * kPi)};
  }
  const Pair& p = design.pairs[*design.machine.pair_of[mesh]];
  const gear::Teeth& driven = design.gears[p.driven].teeth;
  const double per_play = driven.is_rack() ? 1 / driven.rack().pitch() : driven.count() / (2 * kPi);
  roll::Range play{p.driven_play(), p.driven_play()};
  if (p.eccentricity > 0) {
    const auto over_turns = pair::eccentric_play(p, p.eccentricity);
    if (!over_turns) return std::nullopt;
    play = *over_turns;
  } else if (p.cycloidal()) {
    // Not the same everywhere: as it rolls.
    const roll::Result rolled = job::rolled(p, 48);
    if (!rolled.play) return std::nullopt;
    play = *rolled.play;
  }
  return roll::Range{std::max(0.0, play.min) * per_play, std::max(0.0, play.max) * per_play};
}

}  // namespace

namespace {

/// What the output does while the input and what is held stand still, when one tie after the other is off by a pitch.
struct Felt {
  std::vector<std::size_t> meshes;  // in Machine::meshes
  std::vector<double> output;       // [turns; of a rack pitches]
};

std::optional<Felt> felt_at_output(const Design& design, const Train& train) {
  const Part part(design.machine, train.input);
  if (!part.connected[train.output]) return std::nullopt;
  std::vector<std::size_t> still = part.here(train.held);
  still.push_back(part.own[train.input]);
  const machine::Motion moved = part.speeds().turned(part.own[train.input], part.here(train.held));
  if (moved.locked || !moved.turns[part.own[train.output]] || moved.turns[part.own[train.output]]->value == 0)
    return std::nullopt;
  const auto n = static_cast<Eigen::Index>(part.members.size()), meshes = static_cast<Eigen::Index>(part.made.size()),
             rows = meshes + static_cast<Eigen::Index>(still.size());
  Eigen::MatrixXd a = Eigen::MatrixXd::Zero(rows, n), off = Eigen::MatrixXd::Zero(rows, meshes);
  for (Eigen::Index i = 0; i < meshes; ++i) {
    for (const machine::Term& t : part.made[static_cast<std::size_t>(i)].tie().terms)
      a(i, static_cast<Eigen::Index>(t.member)) += static_cast<double>(t.times);
    off(i, i) = 1;
  }
  for (std::size_t i = 0; i < still.size(); ++i)
    a(meshes + static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(still[i])) = 1;
  const Eigen::MatrixXd x = a.completeOrthogonalDecomposition().solve(off);
  Felt felt;
  for (Eigen::Index i = 0; i < meshes; ++i) {
    const double here = x(static_cast<Eigen::Index>(part.own[train.output]), i);
    constexpr double kNothing = 1e-12;  // what rounding leaves of a mesh that is not on the way
    if (std::abs(here) < kNothing) continue;
    felt.meshes.push_back(part.meshes[static_cast<std::size_t>(i)]), felt.output.push_back(here);
  }
  return felt;
}

/// How far a mesh's driven strays from the even ratio while it is pushed, on whichever flank, in what its tie is then
/// off by.
std::optional<roll::Range> stray(const Design& design, std::size_t mesh) {
  const Machine& machine = design.machine;
  const machine::Mesh& m = machine.meshes[mesh];
  const auto times_of = [&](std::size_t member) {
    double times = 0;
    for (const machine::Term& t : m.tie().terms)
      times += t.member == member ? static_cast<double>(t.times) : 0;
    return times;
  };
  double per = 0;  // of the tie, per coordinate of the driven
  std::optional<roll::Range> error;
  if (const Reducer* reducer = reducer_of(design, mesh)) {
    error = job::rolled(*reducer, 48).error, per = times_of(m.b) / (2 * kPi);
  } else {
    const Pair& p = design.pairs[*machine.pair_of[mesh]];
    const gear::Teeth& driven = design.gears[p.driven].teeth;
    const double sense = machine.sense[p.driven];
    per = times_of(machine.of_gear[p.driven]) * (driven.is_rack() ? -1 / driven.rack().pitch() : sense / (2 * kPi));
    if (p.eccentricity > 0)
      error = pair::eccentric_error(p, p.eccentricity);
    else if (p.cycloidal())
      error = job::rolled(p, 96).transmission_error;
    else
      error = roll::Range{0, 0};  // involute teeth run evenly
  }
  if (!error) return std::nullopt;
  return roll::Range{std::min(per * error->min, per * error->max), std::max(per * error->min, per * error->max)};
}

/// What all meshes on the way make at the output, each by `of` (what its tie is off by, in pitches) and how that is
/// felt.
template <class Of>
std::optional<roll::Range> at_output(const Design& design, const Train& train, Of of, bool signed_too) {
  const std::optional<Felt> felt = felt_at_output(design, train);
  if (!felt) return std::nullopt;
  roll::Range all{0, 0};
  for (std::size_t i = 0; i < felt->meshes.size(); ++i) {
    const std::optional<roll::Range> off = of(design, felt->meshes[i]);
    if (!off) return std::nullopt;
    const double f = signed_too ? felt->output[i] : std::abs(felt->output[i]);
    all.min += std::min(f * off->min, f * off->max), all.max += std::max(f * off->min, f * off->max);
  }
  return all;
}

}  // namespace

std::optional<roll::Range> play_of_output(const Design& design, const Train& train) {
  return at_output(design, train, slip, false);
}

std::optional<roll::Range> error_of_output(const Design& design, const Train& train) {
  return at_output(design, train, stray, true);
}

std::optional<std::string> period(const Design& design, const Train& train) {
  const TrainMotion& motion = train.motion;
  if (motion.locked || !motion.ratio) return std::nullopt;
  boost::multiprecision::cpp_int turns = 1;
  for (std::size_t m = 0; m < motion.turns.size(); ++m) {
    if (motion.turns[m] && !rack_of(design, m))
      turns = lcm(turns, denominator(boost::multiprecision::cpp_rational(motion.turns[m]->text)));
  }
  return turns.str();
}

std::vector<std::optional<double>> teeth_met(const Design& design, const TrainMotion& motion) {
  std::vector<std::optional<double>> all;
  for (const machine::Mesh& m : design.machine.meshes) {
    const auto &a = motion.turns[m.a], carrier = m.carrier ? motion.turns[*m.carrier] : machine::Fraction{"0", 0};
    all.push_back(a && carrier ? std::optional(std::abs(static_cast<double>(m.teeth_a) * (a->value - carrier->value)))
                               : std::nullopt);
  }
  return all;
}

std::vector<PlanetaryRatio> ratios(const Design& design, const Train& train) {
  std::vector<PlanetaryRatio> all;
  const Part part(design.machine, train.input);
  const machine::Speeds speeds = part.speeds();
  for (const std::size_t held : train.central) {
    for (const std::size_t driver : train.central) {
      for (const std::size_t driven : train.central) {
        if (held == driver || held == driven || driver == driven) continue;
        if (!part.connected[held] || !part.connected[driver] || !part.connected[driven]) continue;
        const std::vector<std::size_t> holds{part.own[held]};
        const machine::Motion m = speeds.turned(part.own[driver], holds);
        PlanetaryRatio r{held, driver, driven, m.locked, std::nullopt};
        const auto& turns = m.turns[part.own[driven]];
        if (!m.locked && turns && turns->value != 0)
          r.ratio = ratio_of(speeds, part.own[driver], part.own[driven], holds);
        all.push_back(r);
      }
    }
  }
  return all;
}

std::optional<double> neighbour_clearance(const Design& design, const Carrier& carrier) {
  if (!carrier.placed || carrier.copies.size() < 2) return std::nullopt;
  std::vector<const Gear*> gears;
  for (const std::size_t m : carrier.carried) {
    for (const std::size_t i : design.machine.members[m].gears) {
      const Gear& g = design.gears[i];
      if (g.group == carrier.group && !g.teeth.is_bevel()) gears.push_back(&g);
    }
  }
  const auto level = [](const Gear& a, const Gear& b) {
    return std::abs(a.height - b.height) < (a.teeth.face_width() + b.teeth.face_width()) / 2;
  };
  std::optional<double> least;
  for (const Gear* a : gears) {
    for (const Gear* b : gears) {
      if (!level(*a, *b)) continue;
      for (const Carrier::Copy& one : carrier.copies) {
        for (const Carrier::Copy& other : carrier.copies) {
          if (&one == &other) continue;
          const Vec2 apart =
              turned(Vec2(a->axis - carrier.axis), one.axis) - turned(Vec2(b->axis - carrier.axis), other.axis);
          const double room = apart.norm() - a->teeth.reach() - b->teeth.reach();
          least = std::min(room, least.value_or(room));
        }
      }
    }
  }
  return least;
}

std::string in_words(const Design& design, const Train& train, const machine::Fraction& ratio) {
  using Rational = boost::multiprecision::cpp_rational;
  // What is told to turn once is what turns less.
  std::size_t once = train.output, often = train.input;
  Rational turns(ratio.text);
  if (abs(turns) < 1) std::swap(once, often), turns = 1 / turns;
  const Rational size = abs(turns);
  const boost::multiprecision::cpp_int whole = numerator(size) / denominator(size);
  const Rational rest = size - Rational(whole);
  std::string count = rest == 0 ? whole.str() : whole.str() + " " + rest.str();
  const char* sense = turns < 0 ? "backward" : "forward";
  const std::string &first = design.machine.members[once].name, &second = design.machine.members[often].name;
  return "while " + first + (rack_of(design, once) ? " moves one pitch, " : " turns once, ") +
         (rack_of(design, often)
              ? fmt::format("{} moves {} {} {}", second, count, size == 1 ? "pitch" : "pitches", sense)
              : fmt::format("{} turns {} {} {}", second, count, size == 1 ? "time" : "times", sense));
}

}  // namespace palio::job
