#include "train_findings.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "assembly.hpp"
#include "palio/design/train.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::job {
namespace {

std::string listed(const std::vector<std::string>& all) { return fmt::format("{}", fmt::join(all, ", ")); }

std::string names(const Design& design, const std::vector<std::size_t>& members) {
  std::vector<std::string> all;
  all.reserve(members.size());
  for (const std::size_t m : members)
    all.push_back(design.machine.members[m].name);
  return listed(all);
}

void look_at(const Design& design, const Train& train, std::vector<Finding>& found) {
  const Machine& machine = design.machine;
  const std::string subject = (train.planetary ? "planetary." : "train.") + train.name;
  const TrainMotion& m = train.motion;
  const std::string &input = machine.members[train.input].name, &output = machine.members[train.output].name;
  if (m.locked) {
    std::vector<std::string> meshes;
    for (const std::size_t i : m.locking)
      meshes.push_back(machine.meshes[i].name);
    found.push_back({FindingId::train_locked,
                     subject,
                     {},
                     {},
                     meshes.empty() ? fmt::format("{} is held by what is held", input)
                                    : fmt::format("{} is held by the meshes {} together", input, listed(meshes))});
    return;
  }
  const bool apart = !m.connected[train.output];
  if (apart || !m.turns[train.output]) {
    found.push_back({FindingId::train_loose, subject, static_cast<double>(m.freedom), 1.0,
                     apart ? fmt::format("no mesh leads from {} to {}", input, output)
                     : m.to_hold.empty()
                         ? fmt::format("{} does not follow {}", output, input)
                         : fmt::format("{} does not follow {}: hold {}", output, input, names(design, m.to_hold))});
    return;
  }
  if (m.turns[train.output]->value == 0) {
    found.push_back(
        {FindingId::output_stands, subject, {}, {}, fmt::format("{} stands still while {} turns", output, input)});
    return;
  }
  if (const auto back = flow(design, train, true); back && back->efficiency <= 0)
    found.push_back({FindingId::train_self_locking, subject, back->efficiency, {}, {}});
  if (const auto power = flow(design, train); power && power->circulating > 1 + math::kAlike)
    found.push_back({FindingId::power_circulates, subject, power->circulating, {}, {}});
}

/// Whether its members can be brought to their places, one after the other.
void look_at_assembly(const Design& design, const Carrier& carrier, std::vector<Finding>& found) {
  const Assembly order = assembly(design, carrier);
  if (order.stuck.empty()) return;
  found.push_back({FindingId::no_assembly_order,
                   "carrier." + carrier.name,
                   {},
                   {},
                   fmt::format("whichever of {} comes last, the others do not let it in", names(design, order.stuck))});
}

/// The planets that do not stand where their teeth fit.
void look_at(const Design& design, const Carrier& carrier, std::vector<Finding>& found) {
  const std::string subject = "carrier." + carrier.name;
  for (const Carrier::Copy& copy : carrier.copies) {
    constexpr double kRounding = 1e-6;  // of a pitch: angles are given rounded
    if (copy.off < kRounding) continue;
    // The planet floats in the play of both its meshes.
    double play = 0, pitch = 0;
    for (std::size_t i = 0; i < design.machine.meshes.size(); ++i) {
      if (design.machine.meshes[i].carrier != carrier.member || !design.machine.pair_of[i]) continue;
      const Pair& p = design.pairs[*design.machine.pair_of[i]];
      play += p.circumferential_backlash() / 2;
      const gear::Teeth& driven = design.gears[p.driven].teeth;
      pitch =
          std::max(pitch, p.plane() ? p.working_pitch_diameters()[1] * kPi / driven.count() : driven.module() * kPi);
    }
    const double off = copy.off * pitch;
    const std::string where = fmt::format("the planet at {:.8g}° from the first; the nearest place is {:.12g}°",
                                          copy.axis * 180 / kPi, copy.nearest * 180 / kPi);
    found.push_back({off > play ? FindingId::planet_off : FindingId::planet_off_middle, subject, off, play, where});
  }
  const auto room = neighbour_clearance(design, carrier);
  if (!room) return;
  const double module = design.gears[design.machine.members[carrier.carried[0]].gears[0]].teeth.module();
  if (*room < 0)
    found.push_back({FindingId::planets_collide, subject, *room, {}, {}});
  else if (*room < module / 4)
    found.push_back({FindingId::planets_close, subject, *room, module / 4, {}});
}

}  // namespace

std::vector<Finding> train_findings(const Design& design) {
  std::vector<Finding> found;
  for (const Carrier& c : design.machine.carriers) {
    look_at(design, c, found);
    look_at_assembly(design, c, found);
  }
  for (const Train& t : design.machine.trains)
    look_at(design, t, found);
  return found;
}

}  // namespace palio::job
