#include "things.hpp"

#include <algorithm>
#include <array>
#include <set>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/values/edit.hpp"

namespace palio::desk {
namespace {

using job::Design;
using job::Gear;
using job::Pair;

constexpr std::array kSorts{"gear",    "pair",  "shaft",    "carrier", "planetary",
                            "reducer", "train", "material", "frame",   "process"};

/// Keys with their values as TOML has them.
using Lines = std::vector<std::pair<std::string, std::string>>;

std::string quoted(const std::string& name) { return "\"" + name + "\""; }
std::string quoted(const Gear* gear) { return quoted(gear ? gear->name : std::string()); }

/// The gears of a job as what is new is made of them.
class Members {
 public:
  explicit Members(const Design* design) : design_(design) {}

  template <class Holds>
  const Gear* first(const Holds& holds) const {
    if (!design_) return nullptr;
    const auto it = std::find_if(design_->gears.begin(), design_->gears.end(), holds);
    return it == design_->gears.end() ? nullptr : &*it;
  }
  template <class Holds>
  const Gear* last(const Holds& holds) const {
    if (!design_) return nullptr;
    const auto it = std::find_if(design_->gears.rbegin(), design_->gears.rend(), holds);
    return it == design_->gears.rend() ? nullptr : &*it;
  }
  template <class Holds>
  bool any_pair(const Holds& holds) const {
    return design_ && std::any_of(design_->pairs.begin(), design_->pairs.end(), holds);
  }
  std::size_t index(const Gear& gear) const { return static_cast<std::size_t>(&gear - design_->gears.data()); }
  bool drives(const Gear& g) const {
    return any_pair([&](const Pair& p) { return p.driver == index(g); });
  }
  bool driven(const Gear& g) const {
    return any_pair([&](const Pair& p) { return p.driven == index(g); });
  }
  bool paired(const Gear& a, const Gear& b) const {
    return any_pair([&](const Pair& p) {
      return (p.driver == index(a) && p.driven == index(b)) || (p.driver == index(b) && p.driven == index(a));
    });
  }
  bool turns(const Gear& g) const { return !g.teeth.is_rack(); }
  /// Two that are no pair yet and could be one, those that mesh with nothing first.
  std::pair<const Gear*, const Gear*> unpaired() const {
    std::pair<const Gear*, const Gear*> best{nullptr, nullptr};
    int most = -1;
    if (!design_) return best;
    for (const Gear& a : design_->gears) {
      for (const Gear& b : design_->gears) {
        const bool both_odd = (a.teeth.is_rack() || a.teeth.internal()) && (b.teeth.is_rack() || b.teeth.internal());
        if (&a >= &b || both_odd || paired(a, b) || a.teeth.module() != b.teeth.module()) continue;
        const int fresh = (drives(a) || driven(a) ? 0 : 1) + (drives(b) || driven(b) ? 0 : 1);
        if (fresh > most) most = fresh, best = {&a, &b};
      }
    }
    return best;
  }

 private:
  const Design* design_;
};

Lines gear(const Members& members, const job::Values& values) {
  Lines lines{{"kind", "\"spur\""}, {"teeth", "20"}};
  const auto said = job::said_values(values.text(), "the job");
  const bool module = std::any_of(said.begin(), said.end(), [](const auto& value) {
    return value.first == "shared.module" || value.first == "shared.diametral_pitch";
  });
  const Gear* like = members.first([](const Gear&) { return true; });
  if (!module) lines.emplace_back("module", fmt::format("{:.12g}", like ? like->teeth.module() : 1.5));
  return lines;
}

Lines shaft(const Members& members) {
  // What is driven, and what drives on: two gears of different pairs turn together.
  const Gear* end =
      members.first([&](const Gear& g) { return members.turns(g) && members.driven(g) && !members.drives(g); });
  const Gear* begin = members.first([&](const Gear& g) {
    return members.turns(g) && members.drives(g) && !members.driven(g) && end && !members.paired(g, *end);
  });
  const Gear* one = end ? end : members.first([&](const Gear& g) { return members.turns(g); });
  return {{"gears", begin ? fmt::format("[{}, {}]", quoted(one), quoted(begin)) : fmt::format("[{}]", quoted(one))}};
}

Lines train(const Members& members) {
  const Gear* in = members.first([&](const Gear& g) { return members.drives(g) && !members.driven(g); });
  const Gear* out = members.last([&](const Gear& g) { return members.driven(g) && !members.drives(g) && &g != in; });
  return {{"input", quoted(in)}, {"output", quoted(out)}, {"speed", "100"}};
}

Lines planetary(const Members& members) {
  const Gear* ring = members.first([](const Gear& g) { return g.teeth.internal(); });
  const auto outside = [&](const Gear& g) { return members.turns(g) && !g.teeth.internal(); };
  const Gear* sun = members.first(outside);
  const Gear* planet = members.first([&](const Gear& g) { return outside(g) && &g != sun; });
  Lines lines{{"sun", quoted(sun)}, {"planet", quoted(planet)}, {"count", "3"}};
  if (ring) lines.insert(lines.begin() + 2, {"ring", quoted(ring)});
  return lines;
}

Lines lines_of(const Members& members, const job::Values& values, std::string_view sort) {
  if (sort == "gear") return gear(members, values);
  if (sort == "pair") {
    const auto [driver, driven] = members.unpaired();
    return {{"driver", quoted(driver)}, {"driven", quoted(driven)}};
  }
  if (sort == "shaft") return shaft(members);
  if (sort == "carrier")
    return {{"carries", fmt::format("[{}]", quoted(members.first([&](const Gear& g) { return members.driven(g); })))},
            {"count", "3"}};
  if (sort == "planetary") return planetary(members);
  if (sort == "train") return train(members);
  if (sort == "material") return {{"density", "1200"}};
  if (sort == "frame") return {{"thickness", "\"4 mm\""}};
  if (sort == "process") return {{"preset", "\"print\""}};
  throw InvalidParameter("sort", std::string(sort), fmt::format("{} can be added", fmt::join(kSorts, ", ")),
                         "choose one of them");
}

std::set<std::string> names_said(const job::Values& values) {
  std::set<std::string> said;
  for (const auto* list : values.tables().with_names()) {
    for (const job::Settings& s : *list)
      said.insert(s.name);
  }
  return said;
}

}  // namespace

std::vector<Addable> addable(const job::Values& values) {
  const std::set<std::string> said = names_said(values);
  std::vector<Addable> all;
  for (const std::string sort : kSorts) {
    if (sort == "process") {
      if (!values.tables().process) all.push_back({sort, ""});
      continue;
    }
    int number = 1;
    while (said.count(fmt::format("{}_{}", sort, number)) > 0)
      ++number;
    all.push_back({sort, fmt::format("{}_{}", sort, number)});
  }
  return all;
}

std::string new_thing(const job::Values& values, const Design* design, std::string_view sort, const std::string& name) {
  if (sort == "reducer") {  // its sizes hang together: those of the starter
    const std::string starter = job::starter("reducer", values.tables().units);
    const std::string head = "[reducer.motor_reducer]";
    return fmt::format("[reducer.{}]{}", name, starter.substr(starter.find(head) + head.size()));
  }
  const Lines lines = lines_of(Members(design), values, sort);
  std::string text = sort == "process" ? "[process]\n" : fmt::format("[{}.{}]\n", sort, name);
  for (const auto& [key, value] : lines)
    text += fmt::format("{} = {}\n", key, value);
  return text;
}

}  // namespace palio::desk
