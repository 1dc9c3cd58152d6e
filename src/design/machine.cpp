// What turns as one, what rides on what: from the tables of a job to its machine, and where shafts put what stands on
// them.
#include <algorithm>
#include <cmath>

#include "palio/math/tolerance.hpp"
#include "palio/pair/pair.hpp"
#include "resolver.hpp"

namespace palio::job {

std::optional<std::size_t> Resolver::Plans::named(const std::string& name) const {
  const auto it = member_of.find(name);
  return it == member_of.end() ? std::nullopt : std::optional(it->second);
}

namespace {

/// Along the axis, from the lower end of the teeth to the upper; of a bevel gear of its pitch cone [mm].
double width_along(const gear::Teeth& teeth) {
  if (!teeth.is_bevel()) return teeth.face_width();
  const gear::BevelSizes& s = teeth.bevel().sizes();
  return (s.outer_cone_distance - s.inner_cone_distance) * std::cos(teeth.bevel().spec().pitch_cone.radians());
}

double lower_end(const Gear& g) { return g.height - width_along(g.teeth) / 2; }

}  // namespace

std::string Resolver::no_such_member(const std::string& name) const {
  std::vector<std::string> names;
  for (const auto& [known, member] : plans_.member_of)
    names.push_back(known);
  const Known known = known_words(names, name, name_slip(name));
  return fmt::format("is \"{}\", but what turns here is {}; {}", name, known.list,
                     known.nearest.empty() ? "name one of them" : did_you_mean(known.nearest));
}

namespace {

template <class Named>
std::optional<std::size_t> place_of(const std::vector<Named>& all, const std::string& name) {
  const auto it = std::find_if(all.begin(), all.end(), [&](const Named& one) { return one.name == name; });
  return it == all.end() ? std::nullopt : std::optional(static_cast<std::size_t>(it - all.begin()));
}

/// "motor_reducer.input" without its end.
std::string without_end(const std::string& name, std::string_view end) {
  const bool has = name.size() > end.size() && name.compare(name.size() - end.size(), end.size(), end) == 0;
  return has ? name.substr(0, name.size() - end.size()) : name;
}

constexpr std::string_view kInput = ".input", kOutput = ".output";

}  // namespace

/// What a name on a shaft means, and what it is called: of a reducer its output turns with a shaft that only names it.
std::optional<std::pair<std::string, Resolver::Item>> Resolver::on_shaft(const std::string& name) const {
  if (const auto gear = place_of(gears_, name)) return std::pair{name, Item{Item::Sort::gear, *gear, 0, 0}};
  if (const auto c = place_of(tables_.carriers, name)) return std::pair{name, Item{Item::Sort::carrier, *c, 0, 0}};
  for (const std::string_view end : {kInput, kOutput}) {
    const std::string plain = without_end(name, end);
    const auto r = place_of(tables_.reducers, plain);
    if (r && (plain != name || end == kOutput))
      return std::pair{plain + std::string(end), Item{Item::Sort::reducer, *r, 0, 0}};
  }
  return std::nullopt;
}

void Resolver::read_shaft(const Settings& s) {
  Machine& machine = design_.machine;
  const std::string path = "shaft." + s.name + ".gears";
  const Value* on_it = s.find("gears");
  if (!on_it || on_it->texts.empty()) {
    if (s.sound) note("missing-key", s.where, path, "the shaft has nothing on it; name the gears that turn together");
    return;
  }
  const std::size_t member = machine.members.size();
  machine.members.push_back({s.name, {}, {}, true});
  plans_.items.emplace_back();
  plans_.member_of.emplace(s.name, member);
  for (const std::string& name : on_it->texts) {
    const auto found = on_shaft(name);
    if (!found) {
      note("unknown-gear", on_it->where, path,
           tables_.no_such_gear(name) + "; carriers and reducers may stand on a shaft too");
      continue;
    }
    const auto& [called, item] = *found;
    if (item.sort == Item::Sort::gear && gears_[item.index].is(Kind::rack)) {
      note("no-meaning", on_it->where, path,
           fmt::format("names {}, which is a rack: it moves along and turns with no shaft; leave it out", name));
    } else if (const auto [known, fresh] = plans_.member_of.try_emplace(called, member); !fresh) {
      note("placed-twice", on_it->where, path,
           fmt::format("names {}, which stands on the shaft {} already; name it once", name,
                       machine.members[known->second].name));
    } else {
      if (item.sort == Item::Sort::gear)
        machine.of_gear[item.index] = member, machine.members[member].gears.push_back(item.index);
      plans_.items[member].push_back(item);
    }
  }
}

/// The members in the order of the job: shafts, carriers, gears on no shaft, ends of reducers.
void Resolver::read_members() {
  Machine& machine = design_.machine;
  constexpr auto kNone = static_cast<std::size_t>(-1);
  machine.of_gear.assign(gears_.size(), kNone), machine.sense.assign(gears_.size(), 1);
  for (const Settings& s : tables_.shafts)
    read_shaft(s);
  const auto own = [&](const std::string& name, const Item& item) {
    const auto [it, fresh] = plans_.member_of.try_emplace(name, machine.members.size());
    if (fresh) {
      machine.members.push_back({name, {}, {}, false});
      plans_.items.push_back({item});
    }
    return it->second;
  };
  for (const Settings& c : tables_.carriers) {
    Carrier carrier;
    carrier.name = c.name;
    carrier.member = own(c.name, {Item::Sort::carrier, machine.carriers.size(), 0, 0});
    machine.carriers.push_back(std::move(carrier));
  }
  for (std::size_t i = 0; i < gears_.size(); ++i) {
    if (machine.of_gear[i] != kNone) continue;
    machine.of_gear[i] = own(gears_[i].name, {Item::Sort::gear, i, 0, 0});
    machine.members[machine.of_gear[i]].gears = {i};
  }
  for (std::size_t i = 0; i < tables_.reducers.size(); ++i) {
    for (const std::string_view end : {kInput, kOutput})
      own(tables_.reducers[i].name + std::string(end), {Item::Sort::reducer, i, 0, 0});
  }
  read_carried();
  check_planetary_kinds();
  check_pairs_of_members();
}

/// What rides on which carrier.
void Resolver::read_carried() {
  Machine& machine = design_.machine;
  for (std::size_t i = 0; i < tables_.carriers.size(); ++i) {
    const Settings& c = tables_.carriers[i];
    const std::string prefix = "carrier." + c.name;
    const Value* carries = c.find("carries");
    if (!carries || carries->texts.empty()) {
      if (c.sound) note("missing-key", c.where, prefix + ".carries", "the carrier carries nothing; name its planets");
      continue;
    }
    for (const std::string& name : carries->texts) {
      const auto member = plans_.named(name);
      if (!member) {
        note("unknown-gear", carries->where, prefix + ".carries", no_such_member(name));
        continue;
      }
      Member& m = machine.members[*member];
      if (*member == machine.carriers[i].member) {
        note("same-gear", carries->where, prefix + ".carries",
             fmt::format("names {}, which turns with the carrier itself; name planets", name));
      } else if (m.carrier && *m.carrier != i) {
        note("placed-twice", carries->where, prefix + ".carries",
             fmt::format("names {}, which rides on {} already; name it once", name, machine.carriers[*m.carrier].name));
      } else if (!m.carrier) {
        m.carrier = i;
        machine.carriers[i].carried.push_back(*member);
      }
    }
    if (const Value* angles = c.find("angles");
        angles && c.find("count") && static_cast<double>(angles->numbers.size()) != c.number("count"))
      note("contradiction", angles->where, prefix + ".angles",
           fmt::format("gives {} places for {} planets; leave count out", angles->numbers.size(), c.number("count")));
  }
}

/// Of planetary sets: rings have their teeth inside, suns and planets outside.
void Resolver::check_planetary_kinds() {
  for (const Settings& set : tables_.planetaries) {
    for (const char* key : {"sun", "planet", "ring"}) {
      const Value* v = set.find(key);
      for (std::size_t i = 0; v && i < v->texts.size(); ++i) {
        const auto gear = place_of(gears_, v->texts[i]);
        if (!gear) continue;  // told with its pair
        const Settings& g = gears_[*gear];
        const bool inside = g.is(Kind::internal) || g.flag("internal"), ring = std::string_view(key) == "ring";
        if (inside != ring)
          note("kinds-cannot-pair", v->where, "planetary." + set.name + "." + key,
               ring
                   ? fmt::format("names {}, whose teeth stand outside; a ring is a gear of kind = \"internal\"", g.name)
                   : fmt::format("names {}, whose teeth stand inside; name it as ring", g.name));
      }
    }
  }
}

/// Pairs of gears that can keep no distance, or turn each other in no way.
void Resolver::check_pairs_of_members() {
  const Machine& machine = design_.machine;
  for (const RawPair& p : raw_pairs_) {
    const std::size_t a = machine.of_gear[p.driver], b = machine.of_gear[p.driven];
    const auto of_a = machine.members[a].carrier, of_b = machine.members[b].carrier;
    if (a == b)
      note("same-gear", p.where, "pair." + p.name,
           fmt::format("joins two gears of one shaft, {}, which cannot turn each other; take one of them off it",
                       machine.members[a].name));
    else if (of_a && of_b && *of_a != *of_b)
      note("placed-twice", p.where, "pair." + p.name,
           "joins gears that ride on two carriers, which keep no distance; name both on one carrier");
  }
}

/// How far each thing on a shaft stands along it, from the lower face of the first.
void Resolver::lay_out_shafts(const std::vector<std::optional<gear::Teeth>>& built) {
  const auto width_of = [&](const Item& item) {
    if (item.sort == Item::Sort::gear) return width_along(*built[item.index]);
    if (item.sort == Item::Sort::reducer) {
      double top = 0;  // of its output, over the lower face of the discs
      for (const reducer::Part& p : parts(design_.reducers[item.index]))
        top = std::max(top, p.at.z() + p.body.top());
      return top;
    }
    double width = 0;  // of a carrier: its planets'
    for (const std::size_t m : design_.machine.carriers[item.index].carried) {
      for (const std::size_t g : design_.machine.members[m].gears)
        width = std::max(width, width_along(*built[g]));
    }
    return width;
  };
  for (std::size_t m = 0; m < plans_.items.size(); ++m) {
    const auto shaft = std::find_if(tables_.shafts.begin(), tables_.shafts.end(),
                                    [&](const Settings& s) { return s.name == design_.machine.members[m].name; });
    const Value* places = shaft == tables_.shafts.end() ? nullptr : shaft->find("places");
    const double gap = shaft == tables_.shafts.end() ? 0 : shaft->number("gap");
    std::vector<Item>& items = plans_.items[m];
    if (places && places->numbers.size() != items.size()) {
      note("contradiction", places->where, "shaft." + shaft->name + ".places",
           fmt::format("gives {} places for {} gears; give one for each", places->numbers.size(), items.size()));
      places = nullptr;
    }
    double next = 0;
    for (std::size_t i = 0; i < items.size(); ++i) {
      items[i].lower = places ? places->numbers[i] : next;
      items[i].width = width_of(items[i]);
      next = items[i].lower + items[i].width + gap;
    }
  }
  plans_.axes.resize(plans_.items.size());
  plans_.reducers.resize(tables_.reducers.size());
}

/// A gear has found its place: so has all that turns with it.
void Resolver::settle(std::size_t gear) {
  const std::size_t member = design_.machine.of_gear[gear];
  const std::vector<Item>& items = plans_.items[member];
  const auto own = std::find_if(items.begin(), items.end(),
                                [&](const Item& i) { return i.sort == Item::Sort::gear && i.index == gear; });
  if (own == items.end() || plans_.axes[member]) return;
  const Gear& g = design_.gears[gear];
  settle_member(member, {g.group, g.axis, lower_end(g) - own->lower, g.phase, gear});
}

void Resolver::settle_member(std::size_t member, const AxisPlace& at) {
  if (plans_.axes[member]) return;
  plans_.axes[member] = at;
  for (const Item& item : plans_.items[member]) {
    const double lower = at.zero + item.lower;
    switch (item.sort) {
      case Item::Sort::gear: {
        if (plans_.placed[item.index]) break;
        Gear& g = design_.gears[item.index];
        g.group = at.group, g.axis = at.axis, g.height = lower + item.width / 2, g.phase = at.phase;
        plans_.placed[item.index] = true;
        plans_.free.insert(item.index);
        break;
      }
      case Item::Sort::carrier: settle_carrier(item.index, {at.group, at.axis, lower, 0, at.anchor}); break;
      case Item::Sort::reducer: settle_reducer(item.index, {at.group, at.axis, lower, 0, at.anchor}); break;
    }
  }
}

/// It is known where a reducer stands: so it is for both its shafts.
void Resolver::settle_reducer(std::size_t reducer, const AxisPlace& at) {
  if (plans_.reducers[reducer]) return;
  plans_.reducers[reducer] = at;
  for (const std::string_view end : {kInput, kOutput}) {
    const std::size_t member = plans_.member_of.at(tables_.reducers[reducer].name + std::string(end));
    for (const Item& item : plans_.items[member]) {
      if (item.sort == Item::Sort::reducer && item.index == reducer)
        settle_member(member, {at.group, at.axis, at.zero - item.lower, 0, at.anchor});
    }
  }
}

/// It is known about which axis a carrier turns, and the lower end of its planets there.
void Resolver::settle_carrier(std::size_t index, const AxisPlace& at) {
  Carrier& carrier = design_.machine.carriers[index];
  if (carrier.placed) return;
  carrier.placed = true, carrier.group = at.group, carrier.axis = at.axis;
  for (const Item& item : plans_.items[carrier.member]) {
    if (item.sort == Item::Sort::carrier && item.index == index)
      settle_member(carrier.member, {at.group, at.axis, at.zero - item.lower, 0, at.anchor});
  }
  // A gear in the middle that no other pair places: its planets are placed from it.
  for (const RawPair& p : raw_pairs_) {
    for (const auto& [planet, central] : {std::pair{p.driver, p.driven}, {p.driven, p.driver}}) {
      const Machine& machine = design_.machine;
      if (machine.members[machine.of_gear[planet]].carrier != index ||
          machine.members[machine.of_gear[central]].carrier || plans_.placed[central] || plans_.placed[planet] ||
          p.sort == pair::Sort::bevel || p.sort == pair::Sort::crossed)
        continue;
      Gear& g = design_.gears[central];
      g.group = at.group, g.axis = at.axis, g.height = at.zero + width_along(design_.gears[planet].teeth) / 2;
      plans_.placed[central] = true;
      // Where other planets come to its mesh by pairs among themselves, it is turned until its teeth stand before
      // theirs.
      plans_.free.insert(central);
      settle(central);
    }
  }
}

/// A pair has found its place: whether one of its gears rides on what turns about the other's axis.
void Resolver::settle_pair(const RawPair& raw) {
  settle(raw.driver), settle(raw.driven);
  const Machine& machine = design_.machine;
  const auto carrier_of = [&](std::size_t g) { return machine.members[machine.of_gear[g]].carrier; };
  const std::optional<std::size_t> first = carrier_of(raw.driver), second = carrier_of(raw.driven);
  if (!first == !second) return;
  const std::size_t planet = first ? raw.driver : raw.driven, central = first ? raw.driven : raw.driver;
  const Gear &p = design_.gears[planet], &c = design_.gears[central];
  const std::size_t index = first ? *first : *second;
  const Carrier& carrier = machine.carriers[index];
  if (!carrier.placed) {
    settle_carrier(index, {c.group, c.axis, raw.sort == pair::Sort::bevel ? lower_end(c) : lower_end(p), 0, central});
    return;
  }
  const Group &a = design_.groups[carrier.group], &b = design_.groups[c.group];
  const Vec3 along = a.axes.col(2), own = b.axes.col(2);
  const Vec3 apart = b.origin + b.axes * Vec3(c.axis.x(), c.axis.y(), 0) - a.origin -
                     a.axes * Vec3(carrier.axis.x(), carrier.axis.y(), 0);
  constexpr double kOffPlace = 1e-6;  // [mm]: given distances are rounded
  const double off = (apart - along * along.dot(apart)).norm();
  if (own.cross(along).norm() > math::kAlike || off > kOffPlace) {
    note("not-coaxial", raw.where, "pair." + raw.name,
         fmt::format("puts the axis of {} {} from that about which {} turns; all gears in the middle of one carrier "
                     "turn about one axis: give its pairs one center_distance",
                     c.name, print(off), carrier.name));
    return;
  }
  if (own.dot(along) > 0) return;
  for (const std::size_t g : machine.members[machine.of_gear[central]].gears)
    design_.machine.sense[g] = -1;
}

}  // namespace palio::job
