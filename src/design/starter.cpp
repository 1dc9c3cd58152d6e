// Starter jobs: files of src/design/starters, whose remarks come from the key table; the coupon is worked out.
#include <algorithm>
#include <cctype>
#include <cmath>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/pair/parallel.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/spelling.hpp"

namespace palio::job {

/// A file of the folder, in pieces (generated).
struct Starter {
  const char* name;
  const char* const* pieces;
};
extern const Starter kStarters[];

namespace {

std::string text_of(const Starter& starter) {
  std::string text;
  for (const char* const* piece = starter.pieces; *piece; ++piece)
    text += *piece;
  return text;
}

std::string with_remark(const std::string& setting, const std::string& remark) {
  return fmt::format("{:<38} # {}\n", setting, remark);
}

/// One line of a file in its units, with the remark of its key. "a = 1  # in: 2" is a = 2 in inches, "a = 1  # in: b =
/// 2" another key; "#= a = 1" is proposed, not set.
std::string line(std::string text, Section section, bool inch) {
  constexpr std::string_view kInch = "  # in: ", kProposed = "#= ";
  const bool proposed = text.compare(0, kProposed.size(), kProposed) == 0;
  if (proposed) text.erase(0, kProposed.size());
  if (const auto at = text.find(kInch); at != std::string::npos) {
    const std::string other = text.substr(at + kInch.size());
    text.erase(at);
    const bool another_key =
        std::islower(static_cast<unsigned char>(other[0])) && other.find(" = ") != std::string::npos;
    if (inch) text = another_key ? other : text.substr(0, text.find(" = ") + 3) + other;
  }
  const std::string path = text.substr(0, text.find(" = "));
  // Of a list the first key of its items speaks.
  const Key* key = find_key(section, path);
  if (!key) key = find_key(section, path + ".diameter");
  std::string remark(key->meaning);
  if (proposed && !key->absent.words.empty()) remark += fmt::format(" (left out: {})", key->absent.words);
  return with_remark((proposed ? "# " : "") + text, remark);
}

/// Gears in graded modules and plays about one in the middle, a plate that carries them, and a strip of graded holes.
std::string coupon(bool inch) {
  const auto length = [&](double mm) { return fmt::format("{:.4f}", inch ? mm / 25.4 : mm); };
  std::string text = fmt::format(
      "# Coupon: print it, measure it, and write what you find into [process].\n"
      "# For each module one gear stands in the middle and four around it, with more play from each to the next: the "
      "tightest\n"
      "# that still turns freely shows what backlash your machine needs. In the strip, the hole that takes a gauge pin "
      "of its\n"
      "# own drawn size shows nothing to correct; the others show hole_allowance by diameter.\n"
      "# `palio make FILE --format 3mf --nested 220x220` lays all parts side by side.\n\n"
      "title = \"Coupon\"\nunits = \"{}\"\n\n[shared]\nkind = \"spur\"\nprofile_shift = 0.25\nface_width = "
      "{}\nbore.diameter = {}\n\n"
      "[process]\npreset = \"print\"\nhole_allowance = 0        # nothing corrected: that is what is to be "
      "found\nfirst_layer_inset = {{ amount = 0, up_to = "
      "{} }}\n",
      inch ? "in" : "mm", length(6), length(4), length(0.3));
  std::string strip;
  for (const double module : {0.6, 1.0, 1.5}) {
    gear::CylindricalSpec spec;
    spec.teeth = 14, spec.module = module, spec.profile_shift = 0.25, spec.face_width = 6;
    const gear::Teeth teeth{gear::CylindricalGear(spec)};
    const double zero = pair::zero_play_center_distance(teeth, teeth).value();
    const std::string tag = fmt::format("m{}", static_cast<int>(std::lround(10 * module)));
    const std::string pitch = fmt::format("teeth = 14\nmodule = {}\n", module);
    // The bore leaves no rim in the smallest gears: theirs is smaller.
    const std::string bore = module < 0.8 ? fmt::format("bore.diameter = {}\n", length(2)) : "";
    text += fmt::format("\n[gear.{}_middle]\n{}{}", tag, pitch, bore);
    std::string pairs, names;
    for (int i = 0; i < 4; ++i) {
      // Small teeth leave contact sooner.
      const int hundredths = 5 + (module < 0.8 ? 4 : module < 1.2 ? 7 : 10) * i;
      // Play along the pitch circle from moving the axes apart, found on the exact pair.
      const double wanted = hundredths / 100.0;
      double low = zero, high = zero + module;
      for (int k = 0; k < 60; ++k) {
        const double middle = (low + high) / 2;
        (pair::ParallelPair(teeth, teeth, middle).circumferential_backlash() < wanted ? low : high) = middle;
      }
      const std::string name = fmt::format("{}_play{:02}", tag, hundredths);
      text += fmt::format("[gear.{}]\n{}{}", name, pitch, bore);
      pairs += fmt::format(
          "[pair.{0}_pair]                # {3} mm of play\ndriver = \"{1}_middle\"\ndriven = \"{0}\"\ncenter_distance "
          "= {2}\ndirection = {4}\n",
          name, tag, inch ? fmt::format("{:.6f}", low / 25.4) : fmt::format("{:.4f}", low), wanted, 90 * i);
      names += fmt::format("{}\"{}_pair\"", names.empty() ? "" : ", ", name);
    }
    text += "\n" + pairs;
    strip += fmt::format("\n[frame.{}_plate]\npairs = [{}]\nthickness = {}\nmargin = {}\n", tag, names, length(3),
                         length(3));
  }
  text += strip + fmt::format("\n[frame.hole_strip]\npairs = []\nthickness = {}\nmargin = {}\nholes = [\n", length(3),
                              length(3));
  double x = 0, before = 0;
  for (const double d : {2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0}) {
    x += before > 0 ? (before + d) / 2 + 3 : 0;
    before = d;
    text += fmt::format("  {{ x = {}, y = 0, diameter = {} }},\n", length(x), length(d));
  }
  text += "]\n";
  // Proposed, not set: a coupon that was not printed yet says nothing.
  return text + fmt::format(
                    "\n# Printed? Take the marks away, write what you find, add more of them; then palio recover FILE "
                    "--out process.toml\n"
                    "# [[measured]]                          # a hole, as drawn, and the pin that goes in\n"
                    "# of = \"frame.hole_strip.hole\"\n# diameter = {}\n# is = {}\n# by = \"pins\"\n"
                    "# [[measured]]                          # over teeth; a tip_diameter beside it tells shrinkage\n"
                    "# of = \"gear.m15_middle.span\"\n# teeth = 2\n# is = {}\n# by = \"caliper\"\n"
                    "# [[measured]]                          # how many prints of it turn freely\n"
                    "# of = \"pair.m10_play12_pair.turns\"\n# is = 2\n# prints = 3\n",
                    length(4), length(3.85), length(7.37));
}

/// The worn winch: two gears, what a caliper says of them, and one reading that is wrong.
std::string measurements(bool inch) {
  const auto length = [&](double mm) { return inch ? fmt::format("{:.4f}", mm / 25.4) : fmt::format("{:.2f}", mm); };
  std::string text =
      "# What was measured of a worn pair. Count the teeth, measure what you can reach, write it below, and leave "
      "open\n"
      "# (\"find\") what you want to know: palio recover FILE says what the gears are, how sure that is, which "
      "reading\n"
      "# is wrong if they contradict each other, and what to measure next if they leave something open.\n"
      "# Here one of nine readings is wrong: a span over another number of teeth than was written.\n#\n"
      "# by = …             one standard deviation that is taken for a careful hand (uncertainty = … says otherwise)\n";
  for (const Instrument& i : instruments()) {
    const std::string size = i.length > 0 ? fmt::format("{} mm", i.length) : "";
    const std::string turn = i.angle > 0 ? fmt::format("{}{}°", size.empty() ? "" : ", ", i.angle) : "";
    text += fmt::format("#   {:<18} {:<18} {}\n", i.name, size + turn, i.remark);
  }
  text += fmt::format(
      "\ntitle = \"Old winch of the roof vent\"\nunits = \"{}\"\n\n[shared]\nkind = \"spur\"\nmodule = \"find\"\n"
      "pressure_angle = \"find\"\n\n[gear.winch_pinion]\nteeth = 14\nprofile_shift = \"find\"\n\n[gear.winch_wheel]\n"
      "teeth = 41\nprofile_shift = \"find\"\n\n[pair.old_winch]\ndriver = \"winch_pinion\"\ndriven = \"winch_wheel\"\n"
      "center_distance = \"find\"\n",
      symbol(inch ? Units::inch : Units::mm));
  struct Taken {
    const char *of, *also;
    double mm;
    const char* by;
  };
  for (const Taken& t : {Taken{"gear.winch_pinion.tip_diameter", "", 41.35, "caliper"},
                         {"gear.winch_pinion.span", "teeth = 2\n", 11.99, "caliper"},
                         {"gear.winch_pinion.span", "teeth = 3\n", 19.39, "caliper"},
                         {"gear.winch_wheel.tip_diameter", "", 107.10, "caliper"},
                         {"gear.winch_wheel.span", "teeth = 5\n", 41.89, "caliper"},
                         {"gear.winch_wheel.span", "teeth = 6\n", 41.86, "caliper"},
                         {"gear.winch_wheel.root_diameter", "", 95.84, "caliper"},
                         {"pair.old_winch.center_distance", "", 69.39, "height_gauge"},
                         {"pair.old_winch.normal_backlash", "", 0.13, "feeler"}}) {
    text += fmt::format("\n[[measured]]\nof = \"{}\"\n{}is = {}\nby = \"{}\"\n", t.of, t.also, length(t.mm), t.by);
  }
  return text;
}

}  // namespace

std::vector<std::string> starter_names() {
  std::vector<std::string> all;
  for (const Starter* s = kStarters; s->name; ++s)
    all.emplace_back(s->name);
  all.insert(all.end(), {"coupon", "measurements"});
  return all;
}

std::string starter(std::string_view kind, Units units) {
  const bool inch = units == Units::inch;
  if (kind == "coupon") return coupon(inch);
  if (kind == "measurements") return measurements(inch);
  const Starter* found = kStarters;
  while (found->name && kind != found->name)
    ++found;
  if (!found->name) {
    const Known near = known_words(starter_names(), kind, name_slip(kind));
    throw InvalidParameter(
        "kind", fmt::format("\"{}\"", kind),
        fmt::format("this version begins jobs of kind {}", fmt::join(starter_names(), ", ")),
        near.nearest.empty() ? "run palio start spur, say" : fmt::format("did you mean palio start {}?", near.nearest));
  }
  std::string text =
      "# A palio job. Every verb takes this file: palio report, roll, draw, vary, make …\n"
      "# A number is in the file's units (angles in degrees); a string may carry a unit and arithmetic: \"1/8 in\",\n"
      "# \"36/2 + 0.2\", \"shaft + 0.1\" with [values] shaft = 8. All keys: palio explain keys.\n\n";
  const std::string lines = text_of(*found);
  Section section = Section::top;
  for (std::size_t from = 0; from < lines.size();) {
    const std::size_t to = lines.find('\n', from);
    const std::string one = lines.substr(from, to - from);
    from = to + 1;
    if (one.empty()) {
      text += "\n";
    } else if (one[0] == '[') {
      section = section_named(one.substr(1, one.find_first_of(".]") - 1)).value_or(Section::top);
      text += section == Section::shared ? with_remark(one, std::string(find_key(Section::top, "shared")->meaning))
                                         : one + "\n";
    } else {
      text += line(one, section, inch);
    }
  }
  return text;
}

}  // namespace palio::job
