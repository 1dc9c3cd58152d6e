// What is read of shafts, trains and planetary sets.
#include <algorithm>
#include <cmath>

#include "readings.hpp"
#include "swept.hpp"

namespace palio::job {

std::optional<Heights> arbor_heights(const Design& design, const std::vector<bool>& members) {
  std::vector<std::size_t> asked;
  for (std::size_t i = 0; i < design.gears.size(); ++i) {
    if (!members[design.machine.of_gear[i]]) continue;
    asked.push_back(i);
    if (design.gears[i].group != design.gears[asked.front()].group) return std::nullopt;
  }
  if (asked.empty()) return std::nullopt;
  Heights h;
  h.of.resize(design.gears.size());
  for (const std::size_t i : asked) {
    const Gear& g = design.gears[i];
    const body::Solid solid = body(g);
    const double zero = foot(g);
    for (const double z : {zero + solid.bottom(), zero + solid.top()})
      h.of[i].hold(z), h.all.hold(z);
  }
  return h;
}

const Carrier* TrainAt::carrier() const {
  for (const Carrier& c : design.machine.carriers) {
    if (c.name == train.name) return &c;
  }
  return nullptr;
}

const Assembly& TrainAt::assembly() const {
  return order([&] { return carrier() ? job::assembly(design, *carrier()) : Assembly(); });
}

namespace train_rows {
namespace {

using At = TrainAt;
using Row = ReadingRow<At>;
using Q = Quantity;

constexpr std::string_view kMotion = "motion", kTimed = "as a clock", kPlanets = "planets", kPower = "power and play";
constexpr unsigned kBoth = At::kBoth, kSet = At::kPlanetary, kTrain = At::kTrainOnly;

Said fraction(const std::optional<machine::Fraction>& f) { return f ? Said(f->text) : Said(std::nan("")); }

const std::string& name(const At& a, std::size_t member) { return a.design.machine.members[member].name; }

double unless_zero(double v) { return v == 0 ? 0 : v; }

/// Power in watts of a torque in N m at a speed in r/min.
double watts(double torque, double speed) { return torque * speed * 2 * kPi / 60; }

Said member(const At& a, std::size_t m) {
  const auto& turns = a.motion().turns[m];
  const auto &speed = a.train.speed, &torque = a.train.torque;
  const std::optional<double> own_speed =
      turns && speed ? std::optional(unless_zero(turns->value * *speed)) : std::nullopt;
  const std::optional<double> own_torque =
      torque && a.flow() ? std::optional(unless_zero(torque_through(a.train, *a.flow(), m) * *torque)) : std::nullopt;
  const Said power = own_torque && own_speed ? Said(watts(*own_torque, *own_speed)) : Said(std::nan(""));
  const auto told = [](const std::optional<double>& v) { return Said(v.value_or(std::nan(""))); };
  if (const Gear* rack = rack_of(a.design, m)) {
    const double pitch = rack->teeth.rack().pitch();
    constexpr double kPerMetre = 1000;
    const auto travel = turns ? std::optional(turns->value * pitch) : std::nullopt;
    return {{"turns", fraction(turns)},
            {"travel_per_turn", told(travel)},
            {"travel_speed", told(travel && speed ? std::optional(*travel * *speed / 60) : std::nullopt)},
            {"force", told(own_torque ? std::optional(*own_torque * 2 * kPi / pitch * kPerMetre) : std::nullopt)},
            {"power", power}};
  }
  return {{"turns", fraction(turns)}, {"speed", told(own_speed)}, {"torque", told(own_torque)}, {"power", power}};
}

Said members(const At& a) {
  std::vector<std::pair<std::string, Said>> all;
  for (std::size_t m = 0; m < a.design.machine.members.size(); ++m) {
    if (a.motion().connected[m]) all.emplace_back(name(a, m), member(a, m));
  }
  return Said::by_name(std::move(all));
}

Said names_of(const At& a, const std::vector<std::size_t>& some) {
  std::vector<Said> all;
  all.reserve(some.size());
  for (const std::size_t m : some)
    all.emplace_back(name(a, m));
  return all.empty() ? Said() : Said::rows(std::move(all));
}

Said locked_by(const At& a) {
  std::vector<Said> all;
  all.reserve(a.motion().locking.size());
  for (const std::size_t m : a.motion().locking)
    all.emplace_back(a.design.machine.meshes[m].name);
  return all.empty() ? Said() : Said::rows(std::move(all));
}

Said tooth_frequency(const At& a) {
  if (!a.train.speed) return {};
  std::vector<std::pair<std::string, Said>> all;
  const std::vector<std::optional<double>> met = teeth_met(a.design, a.motion());
  for (std::size_t i = 0; i < met.size(); ++i) {
    if (met[i]) all.emplace_back(a.design.machine.meshes[i].name, *met[i] * *a.train.speed / 60);
  }
  return all.empty() ? Said() : Said::by_name(std::move(all));
}

/// How far the output moves, by `of`: an angle, or of a rack a length.
template <class Of>
Said at_output(const At& a, bool of_rack, Of of) {
  const Gear* rack = rack_of(a.design, a.train.output);
  if ((rack != nullptr) != of_rack) return {};
  const std::optional<roll::Range> range = of(a.design, a.train);
  if (!range) return {};
  const double unit = rack ? rack->teeth.rack().pitch() : 2 * kPi;
  return {{"min", range->min * unit}, {"max", range->max * unit}};
}

/// What a clock train says of itself.
template <class Of>
Said paced(const At& a, Of of) {
  const auto p = pace(a.train, a.motion());
  return p ? Said(of(*p)) : Said();
}

Said words(const At& a) {
  const auto& ratio = a.motion().ratio;
  return ratio ? Said(in_words(a.design, a.train, *ratio)) : Said();
}

// ---- planetary sets ---------------------------------------------------------------------------------------------

Said ratio_rows(const At& a) {
  std::vector<Said> all;
  for (const PlanetaryRatio& r : ratios(a.design, a.train)) {
    all.push_back({{"held", Said(name(a, r.held))},
                   {"driver", Said(name(a, r.driver))},
                   {"driven", Said(name(a, r.driven))},
                   {"ratio", fraction(r.ratio)},
                   {"locked", Said(r.locked)}});
  }
  return all.empty() ? Said() : Said::rows(std::move(all));
}

double once_around(double angle) {
  const double turned = std::fmod(angle, 2 * kPi);
  return turned < 0 ? turned + 2 * kPi : turned;
}

Said planets(const At& a) {
  const Carrier* c = a.carrier();
  if (!c || !c->placed || c->carried.empty()) return {};
  std::vector<Said> all;
  for (std::size_t m = 0; m < c->carried.size(); ++m) {
    const Member& planet = a.design.machine.members[c->carried[m]];
    const Gear& first = a.design.gears[planet.gears[0]];
    if (first.group != c->group) return {};  // bevel planets stand in planes of their own
    const Vec2 arm = first.axis - c->axis;
    const double axis = std::atan2(arm.y(), arm.x());
    for (const Carrier::Copy& copy : c->copies) {
      const double at = once_around(axis + copy.axis), tooth = once_around(first.phase + copy.axis + copy.turn[m]);
      std::vector<Said::Child> row;
      if (c->carried.size() > 1) row.emplace_back("gear", Said(first.name));
      row.emplace_back("axis_deg", at), row.emplace_back("tooth_deg", tooth);
      if (planet.gears.size() > 1) row.emplace_back("mark_deg", tooth);
      all.push_back(Said::table(std::move(row)));
    }
  }
  return Said::rows(std::move(all));
}

/// Which comes first, and which way.
Said assembly_order(const At& a) {
  const Assembly& order = a.assembly();
  if (!order.stuck.empty() || order.steps.empty()) return {};
  std::vector<Said> all;
  for (std::size_t i = 0; i < order.steps.size(); ++i) {
    const AssemblyStep& step = order.steps[i];
    all.push_back({{"member", Said(name(a, step.member))},
                   {"way", Said(i == 0 ? std::string("stands first") : in_words(step.way))}});
  }
  return Said::rows(std::move(all));
}

}  // namespace
}  // namespace train_rows

const std::vector<ReadingRow<TrainAt>>& train_readings() {
  using namespace train_rows;
  static const std::vector<Row> rows{
      Row("freedom", "ways it can move, with what is held", "", Q::count)
          .in(kMotion)
          .of(kBoth, "of everything that hangs together with the input; 1: the input moves all in one way")
          .is([](const At& a) { return static_cast<double>(a.motion().freedom); }),
      Row("ratio", "turns of the input for one of the output", "i", Q::ratio)
          .in(kMotion)
          .of(kBoth, "exactly, signed; none where the output stands still, is loose, or nothing turns")
          .is([](const At& a) { return fraction(a.motion().ratio); }),
      Row("ratio_value", "the same as a number", "i", Q::ratio)
          .in(kMotion)
          .of(kBoth, "the ratio as nearly as a number has it")
          .is([](const At& a) { return a.motion().ratio ? a.motion().ratio->value : std::nan(""); }),
      Row("ratio_in_words", "in words", "", Q::number)
          .in(kMotion)
          .of(kBoth, "how often the one turns while the other turns once")
          .is(words),
      Row("locked", "locked", "", Q::number).in(kMotion).of(kBoth, "whether the input cannot turn").is([](const At& a) {
        return Said(a.motion().locked);
      }),
      Row("locked_by", "by the meshes", "", Q::number)
          .in(kMotion)
          .of(kBoth, "any one of which, left out, lets a locked input turn")
          .is(locked_by),
      Row("to_hold", "hold one of", "", Q::number)
          .in(kMotion)
          .of(kBoth, "any one of which, held, makes a loose output follow the input")
          .is([](const At& a) { return names_of(a, a.motion().to_hold); }),
      Row("members", "what turns", "", Q::number)
          .in(kMotion)
          .of(kBoth, "of each its turns per turn of the input, and with speed and torque said what it carries")
          .is(members),
      Row("tooth_frequency", "teeth that meet per second (Hz)", "f", Q::number)
          .in(kMotion)
          .of(kBoth, "of each mesh, where the speed is said")
          .is("f = z |n − n_c|", tooth_frequency),
      Row("beats_per_hour", "beats per hour", "", Q::number)
          .in(kTimed)
          .of(kTrain, "of the escape wheel that turns with the output, where an arbor turns once an hour")
          .is("2 × escape teeth × turns of the output per turn of the hour's arbor",
              [](const At& a) { return paced(a, [](const Pace& p) { return p.beats_per_hour; }); }),
      Row("beat", "one beat (s)", "", Q::number)
          .in(kTimed)
          .of(kTrain, "from one to the next; a pendulum's whole swing takes two")
          .is("3600 / beats per hour",
              [](const At& a) {
                constexpr double kSeconds = 3600;  // an hour
                return paced(a, [](const Pace& p) {
                  return p.beats_per_hour ? std::optional(kSeconds / *p.beats_per_hour) : std::nullopt;
                });
              }),
      Row("hours_per_turn", "hours that one turn of the input lasts", "", Q::number)
          .in(kTimed)
          .of(kTrain, "turns of the hour's arbor for one of the input")
          .is([](const At& a) { return paced(a, [](const Pace& p) { return std::optional(p.hours_per_turn); }); }),
      Row("hours", "hours from wound up to run down", "", Q::number)
          .in(kTimed)
          .of(kTrain, "where the turns of winding are said")
          .is("winding turns × hours per turn",
              [](const At& a) {
                return paced(a, [&](const Pace& p) {
                  return a.train.winding ? std::optional(*a.train.winding * p.hours_per_turn) : std::nullopt;
                });
              }),
      Row("height", "from the lowest face to the highest", "", Q::length)
          .in(kMotion)
          .of(kBoth, "along the shafts, of all gears of it whose axes are parallel: what plates leave between them")
          .is([](const At& a) {
            const auto& heights = a.heights();
            return heights ? Said(heights->all.size()) : Said();
          }),
      Row("ratios", "of all choices", "", Q::ratio)
          .in(kPlanets)
          .of(kSet, "which of sun, carrier and ring is held, drives and is driven")
          .is("Willis: z₁ (n₁ − n_c) ± z₂ (n₂ − n_c) = 0", ratio_rows),
      Row("equal_spacing", "planets stand evenly", "", Q::number)
          .in(kPlanets)
          .of(kSet, "whether the teeth let so many planets stand at equal angles")
          .is([](const At& a) {
            const Carrier* c = a.carrier();
            return c ? Said(c->evenly) : Said();
          }),
      Row("assembly_step_deg", "places for planets, every", "", Q::angle)
          .in(kPlanets)
          .of(kSet, "between neighbouring places where a planet can be put in; none: anywhere")
          .is("360° / number of places",
              [](const At& a) {
                const Carrier* c = a.carrier();
                if (!c) return Said();
                return Said(c->places == 0 ? std::nan("") : 2 * kPi / static_cast<double>(c->places));
              }),
      Row("planets", "planets", "", Q::number)
          .in(kPlanets)
          .of(kSet, "of each where its axis stands and how it is turned, at the start")
          .is(planets),
      Row("assembly_order", "put together in this order", "", Q::number)
          .in(kPlanets)
          .of(kSet, "one that works, the carrier aside: which stands first, and the way of every next to its place")
          .is(assembly_order),
      Row("any_order", "any of them can be the last", "", Q::number)
          .in(kPlanets)
          .of(kSet, "whether the order is free: every member comes in where all others stand")
          .is([](const At& a) {
            const Assembly& order = a.assembly();
            return order.stuck.empty() && !order.steps.empty() ? Said(order.any_order) : Said();
          }),
      Row("neighbour_clearance", "between neighbouring planets", "", Q::length)
          .in(kPlanets)
          .of(kSet, "between the tips of the two that stand nearest")
          .is("2 a sin(Δθ/2) − d_a",
              [](const At& a) {
                const Carrier* c = a.carrier();
                return c ? Said(neighbour_clearance(a.design, *c)) : Said();
              }),
      Row("efficiency", "efficiency", "η", Q::number)
          .in(kPower)
          .of(kBoth,
              "what the output gives of what goes into the input; meshes without efficiency or friction lose "
              "nothing")
          .is([](const At& a) { return a.flow() ? Said(a.flow()->efficiency) : Said(); }),
      Row("efficiency_backwards", "efficiency driven backwards", "η'", Q::number)
          .in(kPower)
          .of(kBoth, "the same with the output driving; 0 or less: it locks itself")
          .is([](const At& a) { return a.flow_back() ? Said(a.flow_back()->efficiency) : Said(); }),
      Row("circulating_power", "greatest rolling power of a mesh", "", Q::number)
          .in(kPower)
          .of(kBoth, "of the power that goes in; above 1 power goes round inside")
          .is([](const At& a) { return a.flow() ? Said(a.flow()->circulating) : Said(); }),
      Row("play_of_output_deg", "play of the output, input held", "j", Q::angle)
          .in(kPower)
          .of(kBoth, "of all meshes on the way, each as far as it is felt there; least and most over a turn")
          .is([](const At& a) { return at_output(a, false, play_of_output); })
          .costs(ReadingCost::roll),
      Row("play_of_output", "play of the output, input held", "j", Q::length)
          .in(kPower)
          .of(kBoth, "the same where the output is a rack")
          .is([](const At& a) { return at_output(a, true, play_of_output); })
          .costs(ReadingCost::roll),
      Row("error_of_output_deg", "the output strays from the even ratio by", "", Q::angle)
          .in(kPower)
          .of(kBoth,
              "while it is driven without its play, with every mesh at its worst at once, as it comes in the course of "
              "the period; involute teeth in their place give none")
          .is([](const At& a) { return at_output(a, false, error_of_output); })
          .costs(ReadingCost::roll),
      Row("error_of_output", "the output strays from the even ratio by", "", Q::length)
          .in(kPower)
          .of(kBoth, "the same where the output is a rack")
          .is([](const At& a) { return at_output(a, true, error_of_output); })
          .costs(ReadingCost::roll),
      Row("period", "turns of the input until all stands as before", "", Q::number)
          .in(kPower)
          .of(kBoth, "a whole number: every gear, shaft and planet is then where it was at the start")
          .is([](const At& a) {
            const auto turns = period(a.design, a.train);
            return turns ? Said(*turns) : Said();
          }),
  };
  return rows;
}

namespace shaft_rows {
namespace {

using At = ShaftAt;
using Row = ReadingRow<At>;
using Q = Quantity;

/// What is made of the shaft itself; null: nothing.
const Axle* axle_of(const At& a) {
  for (const Axle& axle : a.design.axles) {
    if (axle.member == a.member()) return &axle;
  }
  return nullptr;
}

/// A reading of its axle, where it has one with a diameter.
template <class Read>
auto of_axle(Read read) {
  return [read](const At& a) {
    const Axle* axle = axle_of(a);
    return axle && axle->diameter > 0 ? Said(read(*axle)) : Said();
  };
}

Said axle_limit(const Axle& axle, double FitLimits::*limit) {
  const auto limits = axle.fit_limits();
  return limits ? Said(axle.diameter + (*limits).*limit) : Said();
}

/// Between the limits of bore and axle, at least and at most.
Said of_axle_with_bores(const At& a) {
  const Axle* axle = axle_of(a);
  const auto shaft = axle ? axle->fit_limits() : std::nullopt;
  if (!shaft || !axle->gears.empty()) return {};
  std::vector<std::pair<std::string, Said>> all;
  for (const std::size_t g : a.shaft.gears) {
    const Gear& gear = a.design.gears[g];
    const auto hole = gear.bearing ? std::nullopt : gear.fit_limits();
    if (!hole) continue;
    const double wider = gear.bore_given - axle->diameter;
    all.emplace_back(gear.name, Said{{"min", wider + hole->least - shaft->greatest},
                                     {"max", wider + hole->greatest - shaft->least}});
  }
  return all.empty() ? Said() : Said::by_name(std::move(all));
}

/// The first train in which it is known how the shaft turns.
const TrainAt* train_of(const At& a) {
  for (const TrainAt& t : a.trains.all) {
    if (t.motion().turns[a.member()]) return &t;
  }
  return nullptr;
}

}  // namespace
}  // namespace shaft_rows

const std::vector<ReadingRow<ShaftAt>>& shaft_readings() {
  using namespace shaft_rows;
  static const std::vector<Row> rows{
      Row("members", "on it", "", Q::number)
          .in("motion")
          .of(1, "what turns together, gears in the order of the job")
          .is([](const At& a) {
            std::vector<Said> all;
            for (const std::size_t g : a.shaft.gears)
              all.emplace_back(a.design.gears[g].name);
            for (const Carrier& c : a.design.machine.carriers) {
              if (c.member == a.member()) all.emplace_back(c.name);
            }
            for (std::size_t i = 0; i < a.design.machine.meshes.size(); ++i) {
              const machine::Mesh& m = a.design.machine.meshes[i];
              if (!a.design.machine.pair_of[i] && (m.a == a.member() || m.b == a.member()))
                all.emplace_back(m.name + (m.a == a.member() ? ".input" : ".output"));
            }
            return all.empty() ? Said() : Said::rows(std::move(all));
          }),
      Row("turned_deg", "turned on it", "", Q::angle)
          .in("motion")
          .of(1, "each gear against the first, from tooth to tooth: how they are to be fixed")
          .is([](const At& a) {
            std::vector<std::pair<std::string, Said>> all;
            for (const std::size_t g : a.shaft.gears) {
              const Gear &gear = a.design.gears[g], &first = a.design.gears[a.shaft.gears[0]];
              all.emplace_back(gear.name, std::remainder(gear.phase - first.phase, 2 * kPi / gear.teeth.count()));
            }
            return all.size() < 2 ? Said() : Said::by_name(std::move(all));
          }),
      Row("heights", "along it, from the lowest face of the train", "", Q::length)
          .in("motion")
          .of(1, "of each gear its lower and upper end, where all axes of the train are parallel: arbor heights")
          .is([](const At& a) {
            const TrainAt* t = train_of(a);
            if (!t || !t->heights()) return Said();
            const Heights& heights = *t->heights();
            std::vector<std::pair<std::string, Said>> all;
            for (const std::size_t g : a.shaft.gears) {
              const math::Extent& own = heights.of[g];
              const double low = heights.all.low();
              all.emplace_back(a.design.gears[g].name, Said{{"lower", own.low() - low}, {"upper", own.high() - low}});
            }
            return all.empty() ? Said() : Said::by_name(std::move(all));
          }),
      Row("turns", "turns per turn of the input", "", Q::ratio)
          .in("motion")
          .of(1, "of the first train that it is part of, exactly")
          .is([](const At& a) {
            const TrainAt* t = train_of(a);
            return t ? Said(t->motion().turns[a.member()]->text) : Said();
          }),
      Row("speed", "speed (r/min)", "n", Q::number)
          .in("motion")
          .of(1, "with the speed that this train says")
          .is([](const At& a) {
            const TrainAt* t = train_of(a);
            return t && t->train.speed ? Said(*t->train.speed * t->motion().turns[a.member()]->value) : Said();
          }),
      Row("torque", "torque it carries (N m)", "T", Q::number)
          .in("motion")
          .of(1, "that goes through it, in the sense in which it turns")
          .is([](const At& a) {
            const TrainAt* t = train_of(a);
            if (!t || !t->train.torque || !t->flow()) return Said();
            return Said(torque_through(t->train, *t->flow(), a.member()) * *t->train.torque);
          }),
      Row("axle_diameter", "axle", "", Q::circle).in("body").of(1, "nominal").is(of_axle([](const Axle& x) {
        return x.diameter;
      })),
      Row("axle_length", "length of the axle", "", Q::length)
          .in("body")
          .of(1, "from end to end")
          .is(of_axle([](const Axle& x) { return x.to - x.from; })),
      Row("axle_fit", "fit of the axle", "", Q::number).in("body").of(1, "its symbol").is(of_axle([](const Axle& x) {
        return if_any(x.fit);
      })),
      Row("axle_least_diameter", "least that the fit allows", "", Q::circle)
          .in("body")
          .of(1, "of the axle")
          .is(of_axle([](const Axle& x) { return axle_limit(x, &FitLimits::least); })),
      Row("axle_greatest_diameter", "most that the fit allows", "", Q::circle)
          .in("body")
          .of(1, "of the axle")
          .is(of_axle([](const Axle& x) { return axle_limit(x, &FitLimits::greatest); })),
      Row("bore_play", "play on the axle, by both fits", "", Q::length)
          .in("body")
          .of(1, "on diameter, of each gear whose bore has a fit and turns on no bearing; negative: pressed on")
          .is(of_axle_with_bores),
      Row("retaining_rings", "retaining rings", "", Q::number)
          .in("body")
          .of(1, "that snap into grooves of the axle")
          .is(of_axle(
              [](const Axle& x) { return x.grooves.empty() ? Said() : Said(static_cast<double>(x.grooves.size())); })),
      Row("ring_groove_diameter", "groove of a retaining ring", "", Q::circle)
          .in("body")
          .of(1, "its bottom")
          .is(of_axle([](const Axle& x) { return x.grooves.empty() ? Said() : Said(x.grooves[0].diameter); })),
      Row("ring_groove_width", "width of that groove", "", Q::length)
          .in("body")
          .of(1, "from wall to wall")
          .is(of_axle(
              [](const Axle& x) { return x.grooves.empty() ? Said() : Said(x.grooves[0].to - x.grooves[0].from); })),
  };
  return rows;
}

}  // namespace palio::job
