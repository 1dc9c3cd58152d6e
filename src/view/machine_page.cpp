// The page of a whole machine. Everything that moves is a table written here: who stands where, what ties whom, and how
// far each mesh lets its driven go at every position, as its roll found it. docs/theory/machine.md.
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "layout.hpp"
#include "machine_solids.hpp"
#include "palio/design/train.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/pair/line_of_action.hpp"
#include "palio/roll/sphere.hpp"
#include "palio/version.hpp"
#include "palio/view/page.hpp"
#include "palio/write/embed.hpp"

namespace palio::view {
namespace {

using job::Design;

Json coordinates(const Vec3& p, double step = 1e-6) {
  return {rounded(p.x(), step), rounded(p.y(), step), rounded(p.z(), step)};
}

/// A member's coordinate is an angle, a rack's a way along its own +x [mm].
double unit(const Design& design, std::size_t member) {
  const job::Gear* rack = job::rack_of(design, member);
  return rack ? rack->teeth.rack().pitch() : 2 * kPi;
}

/// How a gear's own coordinate in a roll goes with those of members: a list of [member, times].
Json coordinate(const Design& design, std::size_t gear, std::optional<std::size_t> carrier, bool inclined) {
  const job::Machine& machine = design.machine;
  const std::size_t member = machine.of_gear[gear];
  const double sense = design.gears[gear].teeth.is_rack() ? -1 : machine.sense[gear];
  Json terms = {{member, sense}};
  // About an inclined axis turns count against the carrier already.
  if (carrier && !(inclined && machine.members[member].carrier)) terms.push_back({*carrier, -sense});
  return terms;
}

bool straight_bevel(const job::Pair& pair) { return pair.bevel() && !pair.error().any(); }

struct Frame {
  Vec3 at;
  Eigen::Matrix3d axes;
  Vec3 operator()(const Vec3& p) const { return at + axes * p; }
};

/// The frame in which a pair's roll tells its contacts: plane ones as the group lies, at the driver's mid-face.
Frame frame_of(const Design& design, const job::Pair& pair) {
  const job::Gear& driver = design.gears[pair.driver];
  const job::Group& group = design.groups[driver.group];
  Vec3 own(0, 0, driver.height);
  if (!pair.plane()) own.head<2>() = driver.axis;
  if (pair.bevel()) own.z() -= pair::mid_face(driver.teeth);
  return {group.origin + group.axes * own, group.axes};
}

/// Where flanks touch at one position, x, y, z, x …: points, or of teeth that are straight from end to end both ends of
/// lines.
Json touching(const Design& design, const job::Pair& pair, const Frame& frame, const std::vector<roll::Contact>& all) {
  Json flat = Json::array();
  const auto add = [&](const Vec3& p) {
    for (const double x : {p.x(), p.y(), p.z()})
      flat.push_back(rounded(x, 1e-4));
  };
  if (straight_bevel(pair)) {
    // The same direction from the apex in several sections is one line; in one alone it ends there.
    for (auto c = all.begin(); c != all.end(); ++c) {
      const auto same = [&](const roll::Contact& o) { return (o.point - c->point).norm() < math::kAlike; };
      if (std::any_of(all.begin(), c, same)) continue;
      math::Extent far;
      for (const roll::Contact& o : all) {
        if (same(o)) far.hold(o.height);
      }
      // Ends that are cones lie beside the spheres that the roll looks at: the line ends a hair within them.
      const double within = 0.02 * far.size();
      for (const double height : {far.high() - within, far.low() + within})
        add(frame(roll::on_sphere(c->point, height)));
    }
    return flat;
  }
  const job::Gear &a = design.gears[pair.driver], &b = design.gears[pair.driven];
  const double low = std::max(a.height - a.teeth.face_width() / 2, b.height - b.teeth.face_width() / 2),
               high = std::min(a.height + a.teeth.face_width() / 2, b.height + b.teeth.face_width() / 2);
  for (const roll::Contact& c : all) {
    if (!pair.plane()) {
      for (const Vec3& p : pair::contact_line(pair, c))
        add(frame(p));
    } else if (a.teeth.twist() == 0) {
      for (const double z : {low, high})
        add(frame(Vec3(c.point.x(), c.point.y(), z - a.height)));
    } else {
      add(frame(Vec3(c.point.x(), c.point.y(), c.height)));
    }
  }
  return flat;
}

/// Limits over the period of the driver, from the even ratio; one number where they are the same all along.
Json limits(const std::vector<std::optional<double>>& all) {
  constexpr double kAlike = 1e-10, kStep = 1e-11;
  const auto close = [&](const std::optional<double>& v) { return v && std::abs(*v - *all.front()) < kAlike; };
  if (!all.empty() && all.front() && std::all_of(all.begin(), all.end(), close)) return {rounded(*all.front(), kStep)};
  Json list = Json::array();
  for (const auto& v : all)
    list.push_back(v ? Json(rounded(*v, kStep)) : Json(nullptr));
  return list;
}

/// Of a carrier's further planets: where the pair stands, about the carrier's axis, and how far its two gears are
/// turned there beyond the first one.
Json copies_of(const Design& design, const job::Pair& pair, const job::Carrier& carrier) {
  const job::Machine& machine = design.machine;
  Json list = Json::array();
  for (const job::Carrier::Copy& copy : carrier.copies) {
    const auto turned = [&](std::size_t gear) {
      const auto at = std::find(carrier.carried.begin(), carrier.carried.end(), machine.of_gear[gear]);
      return at == carrier.carried.end() ? -copy.axis
                                         : copy.turn[static_cast<std::size_t>(at - carrier.carried.begin())];
    };
    list.push_back({copy.axis, turned(pair.driver), turned(pair.driven)});
  }
  return list;
}

Json mesh_of(const Design& design, const job::RolledPair& rolled) {
  const job::Pair& pair = *rolled.pair;
  const job::Machine& machine = design.machine;
  const auto of = [&](std::size_t gear) { return machine.members[machine.of_gear[gear]].carrier; };
  const auto rides = of(pair.driver) ? of(pair.driver) : of(pair.driven);
  const bool inclined = rides && !(of(pair.driver) && of(pair.driven)) && pair.in_space();
  const std::optional<std::size_t> carrier = rides ? std::optional(machine.carriers[*rides].member) : std::nullopt;
  const auto [first, second] = pair.members();
  const roll::Law law = pair.law();
  const gear::Teeth& driver = design.gears[pair.driver].teeth;
  Json mesh{{"name", pair.name},
            {"verdict", roll::name(rolled.result.verdict)},
            {"driver", coordinate(design, pair.driver, carrier, inclined)},
            {"driven", coordinate(design, pair.driven, carrier, inclined)},
            {"ratio", law.ratio},
            {"period", driver.is_rack() ? driver.rack().pitch() : 2 * kPi / driver.count()},
            {"rides", rides ? Json(*rides) : Json(nullptr)},
            {"arm", pair.working_radius()},
            {"lines", pair.plane() ? driver.twist() == 0 : straight_bevel(pair)},
            {"dot", 0.12 * driver.module()},
            {"step", 0.2 * driver.module()}};
  if (rides && pair.plane()) mesh["copies"] = copies_of(design, pair, machine.carriers[*rides]);
  const Frame frame = frame_of(design, pair);
  const auto& positions = rolled.result.positions;
  std::vector<std::optional<double>> upper, lower;
  for (const roll::Position& p : positions) {
    const double nominal = second.start + law.ratio * (p.driver - first.start);
    upper.push_back(p.upper ? std::optional(p.upper->driven - nominal) : std::nullopt);
    lower.push_back(p.lower ? std::optional(p.lower->driven - nominal) : std::nullopt);
  }
  mesh["upper"] = limits(upper), mesh["lower"] = limits(lower);
  constexpr std::size_t kContacts = 40;  // positions in which contacts are told
  mesh["upper_at"] = Json::array(), mesh["lower_at"] = Json::array();
  for (std::size_t i = 0; i < kContacts; ++i) {
    const roll::Position& p = positions[i * positions.size() / kContacts];
    mesh["upper_at"].push_back(touching(design, pair, frame, p.touching_upper));
    mesh["lower_at"].push_back(touching(design, pair, frame, p.touching_lower));
  }
  return mesh;
}

/// The ends of a reducer: the output's room at every position of the input.
Json mesh_of(const job::ReducerEnds& ends, const job::RolledReducer& rolled) {
  const int lobes = rolled.reducer->made.sizes().lobes;
  Json mesh{{"name", rolled.reducer->name},
            {"verdict", roll::name(rolled.result.verdict)},
            {"driver", {{ends.input, 1}}},
            {"driven", {{ends.output, 1}}},
            {"ratio", -1.0 / lobes},
            {"period", 2 * kPi},
            {"rides", nullptr},
            {"arm", rolled.reducer->made.spec().output_pin_circle_diameter / 2},
            {"lines", false},
            {"dot", 0},
            {"upper_at", Json::array()},
            {"lower_at", Json::array()}};
  std::vector<std::optional<double>> upper, lower;
  std::vector<std::vector<std::optional<double>>> high(rolled.result.positions.front().discs.size()), low(high);
  for (const reducer::Standing& s : rolled.result.positions) {
    const auto bound = [](const reducer::Room& room, double v) { return room.loose ? std::nullopt : std::optional(v); };
    upper.push_back(bound(s.output, s.output.high)), lower.push_back(bound(s.output, s.output.low));
    for (std::size_t d = 0; d < s.discs.size(); ++d)
      high[d].push_back(bound(s.discs[d], s.discs[d].high)), low[d].push_back(bound(s.discs[d], s.discs[d].low));
  }
  mesh["upper"] = limits(upper), mesh["lower"] = limits(lower);
  mesh["discs"] = Json::array();
  for (std::size_t d = 0; d < high.size(); ++d)
    mesh["discs"].push_back({{"upper", limits(high[d])}, {"lower", limits(low[d])}});
  return mesh;
}

/// Which gears are drawn in the driver's colour: mates take the two in turn.
std::vector<bool> ochre(const Design& design) {
  std::vector<int> colour(design.gears.size(), -1);
  for (const job::Pair& seed : design.pairs) {
    if (colour[seed.driver] < 0 && colour[seed.driven] < 0) colour[seed.driver] = 1;
    for (bool more = true; more;) {
      more = false;
      for (const job::Pair& p : design.pairs) {
        for (const auto& [from, to] : {std::pair{p.driver, p.driven}, {p.driven, p.driver}}) {
          if (colour[from] >= 0 && colour[to] < 0) colour[to] = 1 - colour[from], more = true;
        }
      }
    }
  }
  std::vector<bool> is(design.gears.size());
  for (std::size_t i = 0; i < is.size(); ++i)
    is[i] = colour[i] != 0;
  return is;
}

/// What a part of a reducer moves with; discs are counted.
void put_reducer_motion(Json& j, const ReducerMotion& motion, std::size_t& discs) {
  using With = ReducerMotion::With;
  if (motion.with == With::nothing) return;
  j["reducer"] = motion.reducer;
  j["moves"] = motion.with == With::input ? "input" : motion.with == With::output ? "output" : "disc";
  j["times"] = motion.with == With::input ? motion.turns : -motion.turns * motion.loop;
  j["centre"] = {motion.axis.x(), motion.axis.y()};
  if (motion.with == With::crank) j["disc"] = discs++;
}

/// How a part stands and what it moves with.
Json part_of(const Design& design, const Part& part, std::size_t shape, bool driver_colour) {
  const Eigen::Matrix3d axes = part.axes();
  Json rows = Json::array();
  for (int i = 0; i < 3; ++i) {
    for (int k = 0; k < 3; ++k)
      rows.push_back(axes(i, k));
  }
  const std::string own = part.motion ? part.material.colour : part.axle ? "#b9b7ae" : "#c9c7be";
  Json j{
      {"name", part.name}, {"shape", shape},      {"at", coordinates(part.placement.at)},
      {"axes", rows},      {"group", part.group}, {"colour", !part.gear ? own : driver_colour ? "#d9a548" : "#8a87b8"}};
  if (part.gear) j["gear"] = static_cast<std::size_t>(part.gear - design.gears.data());
  if (part.axle) j["gears"] = design.axles[*part.axle].gears;
  if (part.member) j["member"] = *part.member, j["sense"] = part.sense;
  if (part.carrier) j["carrier"] = *part.carrier, j["inclined"] = part.inclined;
  return j;
}

Json train_of(const Design& design, const job::Train& train) {
  const job::TrainMotion motion = job::moved(design.machine, train);
  Json t{{"name", train.name}, {"input", train.input}, {"output", train.output}, {"held", train.held}};
  if (motion.ratio) {
    t["ratio_value"] = motion.ratio->value;
    t["words"] = train.name.empty() ? "" : job::in_words(design, train, *motion.ratio);
    if (const auto play = job::play_of_output(design, train); play && !train.name.empty())
      t["play"] = {play->min * unit(design, train.output), play->max * unit(design, train.output)};
  }
  t["locked"] = motion.locked;
  t["turns"] = Json::array();
  for (const auto& turns : motion.turns)
    t["turns"].push_back(turns ? Json{turns->text, turns->value} : Json(nullptr));
  return t;
}

/// How far a rack can go with the teeth of its mates on it: [member, least, greatest].
Json ends_of_racks(const Design& design) {
  Json list = Json::array();
  for (std::size_t g = 0; g < design.gears.size(); ++g) {
    if (!design.gears[g].teeth.is_rack()) continue;
    if (const auto way = job::rack_way(design, g)) list.push_back({design.machine.of_gear[g], -way->back, way->on});
  }
  return list;
}

/// What a page carries of members and parts.
class Tables {
 public:
  Tables(const Design& design, const std::vector<Part>& parts, const Solids& solids)
      : design_(design), parts_(parts), solids_(solids) {}

  void put_members(Json& data) const {
    const job::Machine& machine = design_.machine;
    std::vector<double> inertia(machine.members.size(), 0);
    for (std::size_t i = 0; i < parts_.size(); ++i)
      weigh(i, inertia);
    constexpr double kLeast = 1e-6;  // [kg mm²] of what has no body: a bare carrier, the end of a reducer
    data["members"] = Json::array();
    for (std::size_t m = 0; m < machine.members.size(); ++m) {
      const job::Member& member = machine.members[m];
      std::string on;
      for (const std::size_t g : member.gears) {
        const job::Gear& gear = design_.gears[g];
        on += (on.empty() ? "" : ", ") + fmt::format("{} {}", gear.name, gear.teeth.count());
      }
      data["members"].push_back({{"name", member.name},
                                 {"on", on},
                                 {"slides", job::rack_of(design_, m) != nullptr},
                                 {"unit", unit(design_, m)},
                                 {"inertia", std::max(kLeast, inertia[m])}});
    }
    data["order"] = plan_order(design_);
    for (std::size_t m = 0; m < machine.members.size(); ++m) {
      if (std::find(data["order"].begin(), data["order"].end(), m) == data["order"].end()) data["order"].push_back(m);
    }
    data["carriers"] = Json::array();
    for (const job::Carrier& c : machine.carriers) {
      const job::Group& group = design_.groups[c.group];
      data["carriers"].push_back({{"member", c.member},
                                  {"at", coordinates(group.origin + group.axes * Vec3(c.axis.x(), c.axis.y(), 0))},
                                  {"along", coordinates(group.axes.col(2), 1e-12)}});
    }
  }

  void put_parts(Json& data) const {
    const std::vector<bool> first = ochre(design_);
    data["shapes"] = solids_.shapes;
    data["parts"] = Json::array();
    std::vector<std::size_t> discs(design_.reducers.size(), 0);
    for (std::size_t i = 0; i < parts_.size(); ++i) {
      const Part& p = parts_[i];
      const bool driver = p.gear && first[static_cast<std::size_t>(p.gear - design_.gears.data())];
      Json j = part_of(design_, p, solids_.shape_of[i], driver);
      if (p.motion) put_reducer_motion(j, *p.motion, discs[p.motion->reducer]);
      data["parts"].push_back(std::move(j));
    }
    data["gears"] = data["gear_names"] = Json::array();
    for (const job::Gear& g : design_.gears) {
      data["gear_names"].push_back(g.name);
      Json rows = Json::array();
      for (const job::ReportRow& row : job::report_rows(design_, g))
        rows.push_back({row.label, row.value});
      data["gears"].push_back(std::move(rows));
    }
  }

 private:
  /// What a part adds to its member, and what rides to its carrier.
  void weigh(std::size_t i, std::vector<double>& inertia) const {
    const Part& p = parts_[i];
    if (!p.member) return;
    constexpr double kPerCubicMillimetre = 1e-9;
    const double density = p.density() * kPerCubicMillimetre;
    const job::Machine& machine = design_.machine;
    // Discs turn as the output does.
    const bool disc = p.motion && p.motion->with == ReducerMotion::With::crank;
    const std::size_t member = disc ? machine.of_reducer[p.motion->reducer].output : *p.member;
    const body::MassProperties& mass = solids_.mass[i];
    inertia[member] += density * (p.gear && p.gear->teeth.is_rack() ? mass.volume : mass.polar_moment);
    if (!p.carrier) return;
    const job::Carrier& c = machine.carriers[*p.carrier];
    const job::Group& group = design_.groups[c.group];
    const Vec3 arm = p.placement.at - group.origin - group.axes * Vec3(c.axis.x(), c.axis.y(), 0),
               along = group.axes.col(2);
    inertia[c.member] += density * mass.volume * (arm - along * along.dot(arm)).squaredNorm();
  }

  const Design& design_;
  const std::vector<Part>& parts_;
  const Solids& solids_;
};

/// What the page shows and turns, and how closely it is drawn [mm].
std::pair<Json, double> shown(const Design& design, const std::vector<job::RolledPair>& pairs,
                              const std::vector<job::RolledReducer>& reducers, double fineness) {
  if (pairs.empty() && reducers.empty())
    throw InvalidParameter("of", "a job in which nothing meshes", "pairs or reducers", "add a [pair.NAME]");
  const std::vector<Part> all = parts(design);
  const Solids drawn = solids(all, fineness);
  const auto jams = [](const auto& r) { return r.result.verdict != roll::Verdict::meshes; };
  const auto worst_pair = std::find_if(pairs.begin(), pairs.end(), jams);
  const auto worst_reducer = std::find_if(reducers.begin(), reducers.end(), jams);
  const roll::Verdict verdict = worst_pair != pairs.end()         ? worst_pair->result.verdict
                                : worst_reducer != reducers.end() ? worst_reducer->result.verdict
                                                                  : roll::Verdict::meshes;
  Json data = page_data(design, "machine", "machine", roll::name(verdict));
  data["stamp"] = stamp(drawn.deviation);
  data["said"] = job::verdict_text(design, false);
  const Tables tables(design, all, drawn);
  tables.put_members(data);
  data["meshes"] = Json::array();
  for (const job::RolledPair& r : pairs) {
    if (r.pair->meshes()) data["meshes"].push_back(mesh_of(design, r));
  }
  data["reducers"] = std::vector<Json>(design.reducers.size());
  for (const job::RolledReducer& r : reducers) {
    const auto at = static_cast<std::size_t>(r.reducer - design.reducers.data());
    data["reducers"][at] = data["meshes"].size();
    data["meshes"].push_back(mesh_of(design.machine.of_reducer[at], r));
  }
  data["ends"] = ends_of_racks(design);
  data["trains"] = Json::array();
  for (const job::Train& t : design.machine.trains)
    data["trains"].push_back(train_of(design, t));
  if (data["trains"].empty()) data["trains"].push_back(train_of(design, job::told_train(design)));
  tables.put_parts(data);
  if (!design.pairs.empty()) data["plan"] = write::base64(draw_plan(design, {540, 400}));
  return {std::move(data), drawn.deviation};
}

}  // namespace

std::string machine_data(const Design& design, const std::vector<job::RolledPair>& pairs,
                         const std::vector<job::RolledReducer>& reducers, double fineness) {
  return shown(design, pairs, reducers, fineness).first.dump();
}

std::string machine_page(const Design& design, const std::vector<job::RolledPair>& pairs,
                         const std::vector<job::RolledReducer>& reducers, double fineness) {
  const auto [data, deviation] = shown(design, pairs, reducers, fineness);
  return filled_page(kMachineHtml, kMachineScript, design, "machine", deviation, data);
}

}  // namespace palio::view
