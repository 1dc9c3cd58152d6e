// The table of keys is what the reader goes by: kinds, what gives way, what holds when a key is left out.
#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "palio/design/design.hpp"
#include "palio/readings/report.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/settings.hpp"
#include "random_gear.hpp"

using namespace palio::job;
using Json = nlohmann::json;

namespace {

/// What a sound gear of each kind needs beside teeth and module.
const std::map<Kind, std::string>& needs() {
  static const std::map<Kind, std::string> all{{Kind::spur, ""},
                                               {Kind::helical, "hand='right'\nhelix_angle=15\n"},
                                               {Kind::double_helical, "apex='clockwise'\nhelix_angle=25\n"},
                                               {Kind::internal, ""},
                                               {Kind::rack, ""},
                                               {Kind::bevel, "pitch_cone_angle=40\n"},
                                               {Kind::cycloidal, "rolling_radius=9\n"},
                                               {Kind::lantern, "pin_diameter=3\n"}};
  return all;
}

std::string a_gear(Kind kind, const std::string& more, const std::string& name = "a") {
  return fmt::format("[gear.{}]\nkind='{}'\nteeth=30\nmodule=2\n{}{}", name, palio::job::name(kind), needs().at(kind),
                     more);
}

/// The values of a gear, or the mistakes of the job.
Json told_of(const std::string& text, const std::string& name = "a") {
  try {
    return Json::parse(report_json(resolve(text, "k"), false))["gears"][name];
  } catch (const JobError& e) {
    return e.what();
  }
}

/// Any value that the key takes.
std::string sample(const Key& key) {
  switch (key.type) {
    case Type::text: return "'x'";
    case Type::flag: return "true";
    case Type::choice: return "'" + words_of(key.choices).front() + "'";
    case Type::angles: return "[0]";
    default: return fmt::format("{}", std::max(key.least.value_or(0) + (key.above_least ? 1 : 0), 1.0));
  }
}

}  // namespace

TEST_CASE("a key is refused by the kinds that it means nothing for, and by no other") {
  int refused = 0, taken = 0;
  for (const Key& key : keys()) {
    if (key.section != Section::gear || key.path == "like") continue;
    for (const auto& [kind, need] : needs()) {
      if (need.find(key.path) != std::string::npos || key.path == "teeth" || key.path == "module" || key.path == "kind")
        continue;
      CAPTURE(key.path, name(kind));
      std::string message;
      try {
        resolve(a_gear(kind, fmt::format("{} = {}\n", key.path, sample(key))), "k");
      } catch (const JobError& e) {
        message = e.what();
      }
      const bool told = message.find(fmt::format("has no meaning for kind = \"{}\"", name(kind))) != std::string::npos;
      CHECK(told != key.kinds.has(kind));
      ++(told ? refused : taken);
    }
  }
  CHECK(refused > 150);
  CHECK(taken > 150);
}

TEST_CASE("what is shared by all leaves no trace in a gear that it means nothing for") {
  for (const Key& key : keys()) {
    if (key.section != Section::gear || key.is_own) continue;
    for (const auto& [kind, need] : needs()) {
      if (key.kinds.has(kind)) continue;
      CAPTURE(key.path, name(kind));
      CHECK(told_of(fmt::format("[shared]\n{} = {}\n", key.path, sample(key)) + a_gear(kind, "")) ==
            told_of(a_gear(kind, "")));
    }
  }
}

TEST_CASE("what holds when a key is left out is what the table says") {
  int written = 0;
  for (const Key& key : keys()) {
    if (key.section != Section::gear || (!key.absent.number && !key.absent.rule)) continue;
    // A table that is begun asks for the rest of it.
    const auto dot = key.path.find('.');
    const std::string group(key.path.substr(0, dot == std::string_view::npos ? 0 : dot + 1));
    const bool asks = !group.empty() && std::any_of(keys().begin(), keys().end(), [&](const Key& k) {
      return k.section == key.section && k.path.substr(0, group.size()) == group && k.absent.words == "asked for";
    });
    if (asks) continue;
    for (const auto& [kind, need] : needs()) {
      if (!key.kinds.has(kind) || need.find(key.path) != std::string::npos) continue;
      Settings settings{Section::gear, "a", {}, {}};
      settings.values["kind"].text = std::string(name(kind));
      settings.values["module"].number = 2;
      const std::string line = fmt::format("{} = {}\n", key.path, settings.number(std::string(key.path)));
      CAPTURE(line, name(kind));
      const Json plain = told_of(a_gear(kind, ""));
      REQUIRE(plain.is_object());
      CHECK(told_of(a_gear(kind, line)) == plain);
      ++written;
    }
  }
  CHECK(written > 50);
}

TEST_CASE("what a gear says pushes out what it takes over and cannot stand beside it") {
  const std::map<std::string, std::string> lines{
      {"module", "module=2\n"},
      {"diametral_pitch", "diametral_pitch=12.5\n"},
      {"addendum", "addendum=0.9\n"},
      {"tip_diameter", "tip_diameter=63.5\n"},
      {"dedendum", "dedendum=1.2\n"},
      {"root_diameter", "root_diameter=55.5\n"},
      {"root", "root='generated'\n"},
      {"root.fillet_radius", "root.fillet_radius=0.5\n"},
      {"bore.diameter", "bore.diameter=20\n"},
      {"bore.grip", "bore={diameter=20,grip='slide'}\n"},
      {"bore.allowance", "bore={diameter=20,allowance=0.1}\n"},
      {"keyway", "bore.diameter=20\nkeyway='standard'\n"},
      {"keyway.width", "bore.diameter=20\nkeyway={width=5,height=22}\n"},
      {"flat.height", "bore.diameter=20\nflat.height=18\n"},
      {"flat.across_flats", "bore.diameter=20\nflat.across_flats=17\n"},
      {"hex.across_flats", "hex.across_flats=18\n"},
      {"square.across_flats", "square.across_flats=16\n"},
      {"serration.teeth", "serration={teeth=25,inner_diameter=18,outer_diameter=20}\n"},
      {"spline.teeth", "spline={teeth=14,module=1.25}\n"},
      {"helix_angle", "helix_angle=20\nhand='left'\n"},
      {"lead", "lead=900\nhand='left'\n"},
      {"tip_chamfer", "tip_chamfer=0.1\n"},
      {"tip_round", "tip_round=0.15\n"},
      {"outer_diameter", "outer_diameter=80\n"},
      {"rim_thickness", "rim_thickness=4\n"},
      {"hubs.diameter", "hubs=[{diameter=30,length=3}]\n"},
      {"set_screw.thread", "bore.diameter=20\nhubs=[{diameter=34,length=9}]\nset_screw=[{thread='M3'}]\n"},
      {"cross_pin.diameter", "bore.diameter=20\nhubs=[{diameter=34,length=9}]\ncross_pin=[{diameter=3}]\n"},
      {"cutouts.path", "cutouts=[{path='M15 0 L18 3 L21 0 Z'}]\n"},
      {"holes.diameter", "holes=[{count=4,diameter=4,circle_diameter=40}]\n"},
      {"web.wall", "web={thickness=3,inner_diameter=20,wall=3}\n"},
      {"web.outer_diameter", "web={thickness=3,inner_diameter=20,outer_diameter=48}\n"}};
  int pushed = 0;
  for (const Key& key : keys()) {
    for (const std::string& out : words_of(key.pushes_out)) {
      const auto says = [&](const std::string& path) {
        auto it = lines.find(path);
        const std::string group = path.substr(0, path.find('.') + 1);
        if (it == lines.end()) it = lines.lower_bound(group);
        REQUIRE(it != lines.end());
        REQUIRE(it->first.compare(0, group.size(), group) == 0);
        return it->second;
      };
      std::string mine = says(std::string(key.path)), theirs = says(out);
      const auto kind = std::find_if(needs().begin(), needs().end(), [&](const auto& k) {
        const Key* other = find_key(Section::gear, out.back() == '.' ? std::string(out, 0, out.size() - 1) : out);
        return key.kinds.has(k.first) && (!other || other->kinds.has(k.first)) &&
               (key.path != "helix_angle" || k.first == Kind::helical);
      });
      REQUIRE(kind != needs().end());
      for (std::string* line : {&mine, &theirs}) {  // a rack has no circle to put holes on
        if (kind->first == Kind::rack && line->rfind("holes=", 0) == 0)
          *line = "holes=[{count=2,diameter=2,spacing=20,height=2.5,along=3}]\n";
      }
      CAPTURE(key.path, out, name(kind->first), mine, theirs);
      const std::string head = fmt::format("kind='{}'\nteeth=30\n", name(kind->first));
      const std::string module = mine.find("diametral") == 0 ? "" : mine.find("module") == 0 ? "" : "module=2\n";
      const std::string alone = "[gear.b]\n" + head + module + mine;
      const std::string heir = "[gear.a]\n" + head + (theirs.find("diametral") == 0 ? "" : module) + theirs +
                               "[gear.b]\nlike='a'\n" + (module.empty() ? "" : module) + mine;
      const Json wanted = told_of(alone, "b");
      REQUIRE(wanted.is_object());
      // A bore that both have stays where only what stands in it gives way.
      CHECK(told_of(heir, "b") == wanted);
      ++pushed;
    }
  }
  CHECK(pushed > 25);
}

TEST_CASE("a number or word that is taken changes something") {
  // Speeds of what has no pair, fits where there is no bore, words that stand there already or that hold only with
  // others, the hand of what has no helix.
  const std::set<std::string> alone{"speed", "bore.allowance", "bore.grip", "form", "internal", "root", "hand"};
  std::map<std::string, int> silent;
  unsigned tried = 0, looked = 0;
  const unsigned every = 100 / test::share(100);  // of a search that is not whole some keys
  for (const char* starter_kind :
       {"spur", "helical", "double_helical", "internal", "rack", "bevel", "cycloidal", "clock", "lantern"}) {
    const std::string text = starter(starter_kind, Units::mm);
    const Design before = resolve(text, "k");
    const std::string report = report_json(before, false);
    for (const Gear& gear : before.gears) {
      // One of each kind and form; of a pair of alike kinds the second stands for both.
      if (&gear != &before.gears.back() && gear.kind == before.gears.back().kind && !gear.teeth.is_cycloidal())
        continue;
      for (const Key& key : keys()) {
        if (key.section != Section::gear || !key.kinds.has(gear.kind) || key.path == "like" || key.path == "kind")
          continue;
        if (is_list(key.path.substr(0, key.path.find('.'))) || alone.count(std::string(key.path)) > 0) continue;
        if (looked++ % every != 0) continue;
        std::vector<std::string> samples;
        if (key.type == Type::choice || key.type == Type::choices) {
          for (const std::string& word : words_of(key.choices))
            samples.push_back('"' + word + '"');
        } else if (key.type == Type::flag) {
          samples = {"true", "false"};
        } else if (key.type != Type::text && key.type != Type::angles) {
          for (const double number : {0.11, 0.27, 0.6, 1.3, 2.7, 4.2, 7.0, 13.0, 22.0, 37.0, 55.0, 90.0})
            samples.push_back(fmt::format("{}", key.type == Type::whole ? std::ceil(number) : number));
        }
        bool taken = false, changed = false;
        for (const std::string& sample : samples) {
          try {
            const Design after =
                resolve(Values::read(text, "k", {fmt::format("gear.{}.{}={}", gear.name, key.path, sample)}));
            taken = true;
            changed = report_json(after, false) != report;
          } catch (const std::exception&) {
            continue;
          }
          if (changed) break;
        }
        if (!taken) continue;
        ++tried;
        if (!changed) ++silent[fmt::format("{} of {}", key.path, starter_kind)];
      }
    }
  }
  std::string all;
  for (const auto& [what, times] : silent)
    all += what + "\n";
  CAPTURE(all);
  CHECK(silent.empty());
  CHECK(tried > (test::whole_search() ? 300 : 240 / every));
}
