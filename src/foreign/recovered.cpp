#include "palio/foreign/recovered.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/values/keys.hpp"
#include "text.hpp"

namespace palio::foreign {
namespace {

using Json = nlohmann::ordered_json;
constexpr double kMicrometres = 1000;

Json json_of(const Off& off) { return {{"greatest", kMicrometres * off.greatest}, {"rms", kMicrometres * off.rms}}; }

Json json_of(const FlankFit& fit) {
  return {{"form", name(form_of(fit))},
          {"involute_um", json_of(fit.involute)},
          {"arc_um", json_of(fit.arc)},
          {"with_chords_um", json_of(fit.with_chords)},
          {"same_on_all_teeth_um", kMicrometres * fit.form},
          {"between_teeth_um", kMicrometres * fit.scatter},
          {"base_diameter", 2 * fit.base_radius},
          {"from_diameter", 2 * fit.compared_from},
          {"to_diameter", 2 * fit.compared_to}};
}

Json json_of(const Laid& laid) {
  return {{"centre", {laid.centre.x(), laid.centre.y()}},
          {"turn_deg", laid.turn * 180 / kPi},
          {"scale", laid.scale},
          {"best_scale", laid.best_scale},
          {"deviation_um", json_of(laid.flank)},
          {"whole_um", json_of(laid.whole)},
          {"as_drawn_um", json_of(laid.as_drawn)},
          {"worst_tooth", laid.worst_tooth}};
}

/// Shares and small numbers as they are, nothing as 0.
std::string um(double mm) { return fmt::format("{:.3g} µm", kMicrometres * mm < 5e-4 ? 0.0 : kMicrometres * mm); }

std::string line(const std::string& what, const Off& off) {
  return fmt::format("  {:<24}{:>12}{:>12}\n", what, um(off.greatest), um(off.rms));
}

/// "12 chords each": what the file draws a flank of, there being two flanks, a tip and a root to a tooth.
std::string drawn_of(const Toothed& t) {
  std::vector<std::string> all;
  static constexpr const char* kWords[] = {"chords", "arcs", "splines"};
  for (std::size_t k = 0; k < 3; ++k) {
    const double a_tooth = static_cast<double>(t.loop.strokes[k]) / t.teeth;
    if (a_tooth >= 0.5) all.push_back(fmt::format("{:.3g} {}", a_tooth, kWords[k]));
  }
  return all.empty() ? "few pieces" : fmt::format("{} a tooth", fmt::join(all, " and "));
}

/// Where the file leaves it open.
std::string unit_line(const Toothed& t) {
  return t.unit_told ? "" : "  (the file does not say its unit: taken as mm)\n";
}

std::string form_lines(const FlankFit& fit) {
  std::string text = fmt::format("{:<26}{:>12}{:>12}\n", "flanks alone", "greatest", "rms");
  text += line("from the best involute", fit.involute) + line("from the best arc", fit.arc);
  if (fit.with_chords.greatest > 2 * fit.involute.greatest) text += line("with the chords between", fit.with_chords);
  switch (form_of(fit)) {
    case Form::involute: text += "  nearer to an involute than to a circular arc"; break;
    case Form::circular_arc: text += "  nearer to a circular arc than to an involute"; break;
    case Form::either: text += "  an involute and a circular arc fit about as well"; break;
    case Form::neither: text += "  neither an involute nor one circular arc"; break;
  }
  text += fmt::format(", between ⌀ {:.4f} and ⌀ {:.4f} mm", 2 * fit.compared_from, 2 * fit.compared_to);
  // What all teeth share is the drawing's; what differs is the making's or the measuring's.
  constexpr double kClearly = 3, kSeen = 1e-4;
  if (fit.form > kSeen && fit.form > kClearly * fit.scatter)
    text += fmt::format(";\n  up to {} of it is the same on every tooth: so they were drawn, not made or measured",
                        um(fit.form));
  return text + "\n";
}

std::string placed_lines(const Laid& laid) {
  // Rounding is told as nothing, not as minus nothing.
  const auto near = [](double x) { return std::abs(x) < 5e-5 ? 0.0 : x; };
  std::string text =
      fmt::format("  axis at                 {:.4f}, {:.4f} mm in the file\n  turned by               {:.4f}°\n",
                  near(laid.centre.x()), near(laid.centre.y()), near(std::remainder(laid.turn * 180 / kPi, 360.0)));
  if (std::abs(laid.scale - 1) > 1e-9)
    text += fmt::format("  made larger by          {:.6g} (as drawn the flanks would be off by up to {})\n", laid.scale,
                        um(laid.as_drawn.greatest));
  else
    text += fmt::format("  scale                   1 ({:.6g} would fit best)\n", laid.best_scale);
  return text;
}

std::string deviation_lines(const Laid& laid, const std::string& from) {
  return fmt::format("{:<26}{:>12}{:>12}\n", "off " + from, "greatest", "rms") + line("flanks", laid.flank) +
         line("whole outline", laid.whole);
}

std::string with_doubt(double value, double doubt) {
  return fmt::format("{:.{}f} ± {:.2g}", value, decimals(doubt, 6), doubt);
}

std::string rounded(double x) { return fmt::format("{:.9g}", std::abs(x) < 5e-10 ? 0.0 : x); }

const char* kind(const Guess& g) { return g.spec.internal ? "internal" : "spur"; }

/// The standard module that one which is none was meant to be, if it is within a fiftieth.
std::optional<double> standard_near(const Guess& g) {
  const double module = g.spec.module;
  const std::optional<double> nearest = job::standard_series("module").nearest(module);
  return !g.standard_module && nearest && std::abs(*nearest / module - 1) < 0.02 ? nearest : std::nullopt;
}

/// Of one sharing out, what is told of each.
Json numbers_of(const gear::CylindricalSpec& s) {
  return {{"module", s.module},
          {"pressure_angle", s.pressure_angle.degrees()},
          {"profile_shift", s.profile_shift},
          {"addendum", s.addendum},
          {"dedendum", s.dedendum}};
}

}  // namespace

namespace {

Told with_flanks(std::string of, std::string on, Toothed toothed, Laid laid) {
  Told all{std::move(of), std::move(on), std::move(toothed), std::move(laid), {}};
  try {
    all.fit = fit_flanks(all.toothed);
  } catch (const InvalidParameter&) {
    all.fit.reset();  // flanks of no involute at all: nothing is told of them
  }
  return all;
}

}  // namespace

Told told(std::string of, std::string on, Toothed toothed, const curve::Outline& exact, const Laying& laying) {
  Laid laid = lay(toothed, exact, laying);
  return with_flanks(std::move(of), std::move(on), std::move(toothed), std::move(laid));
}

Told told(std::string of, std::string on, Toothed toothed, const Toothed& other, const Laying& laying) {
  Laid laid = lay(toothed, other, laying);
  return with_flanks(std::move(of), std::move(on), std::move(toothed), std::move(laid));
}

Recovered recover(const Toothed& toothed) {
  Recovered found{toothed, fit_flanks(toothed), {}, {}};
  found.guesses = guesses(toothed, found.fit);
  while (!found.guesses.empty()) {
    Guess& best = found.guesses.front();
    bool made = false;
    for (const std::optional<double> corner : {std::optional<double>{}, {0.25}, {0.3}, {0.2}, {0.1}, {0.0}}) {
      if (made && toothed.internal) break;  // a cutter's corner follows from the cutter
      gear::CylindricalSpec spec = best.spec;
      spec.tool_tip_radius = corner;
      try {
        const gear::Teeth teeth(gear::CylindricalGear{spec});
        Laid laid = lay(toothed, teeth.outline(), {{}, true});
        if (made && laid.whole.rms > 0.9 * found.laid.whole.rms) continue;
        found.laid = std::move(laid), best.spec = spec, made = true;
      } catch (const InvalidParameter&) {
        continue;  // no tool has that corner
      }
    }
    if (made) {
      found.laid = lay(toothed, gear::Teeth(gear::CylindricalGear{best.spec}).outline());
      return found;
    }
    found.guesses.erase(found.guesses.begin());
  }
  throw InvalidParameter("outline", fmt::format("{} teeth", toothed.teeth), "teeth that an exact gear has",
                         "compare the outline with a job that comes near it");
}

std::string job_text(const Recovered& r, const std::string& source) {
  const gear::CylindricalSpec& s = r.guesses.front().spec;
  std::string text =
      fmt::format("# Recovered from {}: the flanks are off by up to {}.\n", source, um(r.laid.flank.greatest));
  text += fmt::format(
      "[gear.recovered]\nkind = \"{}\"\nteeth = {}\nmodule = {}\npressure_angle = {}\nprofile_shift = {}  # the "
      "generating "
      "one: the tooth as it is, thinning and all\n",
      kind(r.guesses.front()), s.teeth, rounded(s.module), rounded(s.pressure_angle.degrees()),
      rounded(s.profile_shift));
  if (s.addendum != 1) text += fmt::format("addendum = {}\n", rounded(s.addendum));
  if (s.dedendum != 1.25) text += fmt::format("dedendum = {}\n", rounded(s.dedendum));
  if (s.tool_tip_radius) text += fmt::format("tool_tip_radius = {}\n", rounded(*s.tool_tip_radius));
  return text + fmt::format("face_width = {}  # an outline does not tell it\n", rounded(s.face_width));
}

std::string recovered_text(const Recovered& r, const std::string& source) {
  const Guess& g = r.guesses.front();
  const gear::CylindricalSpec& s = g.spec;
  std::string text = fmt::format("{}: {} teeth{}, drawn of {}\n\n", source, s.teeth, s.internal ? ", internal" : "",
                                 drawn_of(r.toothed));
  text += unit_line(r.toothed);
  text +=
      fmt::format("  base diameter           {} mm\n", with_doubt(2 * r.fit.base_radius, 2 * r.fit.base_radius_doubt));
  text += fmt::format("  module                  {} mm{}\n", with_doubt(s.module, g.module_doubt),
                      g.standard_module ? "  (standard)" : "");
  text +=
      fmt::format("  pressure angle          {}°{}\n", with_doubt(s.pressure_angle.degrees(), g.pressure_angle_doubt),
                  g.standard_angle ? "  (standard)" : "");
  text +=
      fmt::format("  profile shift           {}  (generating)\n", with_doubt(s.profile_shift, g.profile_shift_doubt));
  text += fmt::format("  addendum                {:.4g} modules\n  dedendum                {:.4g} modules\n",
                      s.addendum, s.dedendum);
  text +=
      "  Flanks tell module times cos pressure angle; which module and angle it is, standard sizes and the depth of\n"
      "  the teeth decide. Sizes are of the section: those of a helical gear's normal section want its helix angle.\n";
  if (r.guesses.size() > 1) {
    text += "\nas well, but less likely\n";
    for (std::size_t i = 1; i < r.guesses.size(); ++i) {
      const gear::CylindricalSpec& o = r.guesses[i].spec;
      text += fmt::format("  module {:.5g}, pressure angle {:.4g}°, shift {:+.4f}, addendum {:.4g}, dedendum {:.4g}\n",
                          o.module, o.pressure_angle.degrees(), o.profile_shift, o.addendum, o.dedendum);
    }
  }
  if (g.thinned)
    text +=
        fmt::format("\nwith an addendum of {:g} modules: profile shift {:.4f} and the teeth thinned by {:.4f} mm\n",
                    g.thinned->addendum, g.thinned->profile_shift,
                    2 * s.module * std::tan(s.pressure_angle.radians()) * (g.thinned->profile_shift - s.profile_shift));
  if (const auto near = standard_near(g))
    text += fmt::format("\nnear a standard size: module {:.6g} if the outline was drawn {:.3g} % too {}\n", *near,
                        100 * std::abs(s.module / *near - 1), s.module > *near ? "large" : "small");
  return text + "\n" + form_lines(r.fit) + "\n" + deviation_lines(r.laid, "the exact gear");
}

std::string recovered_json(const Recovered& r) {
  const Guess& g = r.guesses.front();
  const gear::CylindricalSpec& s = g.spec;
  Json values = Json::object();
  values["gear.recovered.teeth"] = {{"value", s.teeth}, {"uncertainty", 0}};
  const Json numbers = numbers_of(s);
  for (const auto& [key, value] : numbers.items()) {
    const double doubt = key == "module"           ? g.module_doubt
                         : key == "pressure_angle" ? g.pressure_angle_doubt
                                                   : g.profile_shift_doubt;
    values["gear.recovered." + key] = {{"value", value}, {"uncertainty", doubt}};
  }
  Json others = Json::array(), snaps = Json::array();
  for (std::size_t i = 1; i < r.guesses.size(); ++i)
    others.push_back(numbers_of(r.guesses[i].spec));
  if (const auto near = standard_near(g))
    snaps.push_back({{"path", "gear.recovered.module"},
                     {"from", s.module},
                     {"to", *near},
                     {"chi2_more", std::pow((s.module - *near) / std::max(g.module_doubt, 1e-12), 2)}});
  Json all{{"values", values},
           {"measured", Json::array()},
           {"chi2", nullptr},
           {"degrees_of_freedom", 0},
           {"contradiction", false},
           {"suspect", nullptr},
           {"undetermined", {"gear.recovered.helix_angle", "gear.recovered.face_width"}},
           {"would_settle", Json::array()},
           {"snaps", snaps},
           {"internal", s.internal},
           {"unit_told", r.toothed.unit_told},
           {"others", others},
           {"flanks", json_of(r.fit)}};
  all.update(json_of(r.laid));
  return all.dump(2) + "\n";
}

std::string laid_text(const Told& told) {
  std::string text = fmt::format("{} laid on {}: {} teeth, drawn of {}\n\n", told.of, told.on, told.toothed.teeth,
                                 drawn_of(told.toothed));
  text += unit_line(told.toothed) + placed_lines(told.laid) + "\n" + deviation_lines(told.laid, "what it is laid on");
  text +=
      fmt::format("  most at tooth {} of the outline, counted counter-clockwise from +x\n", told.laid.worst_tooth + 1);
  if (told.fit) text += "\n" + form_lines(*told.fit);
  return text;
}

std::string laid_json(const Told& told) {
  Json all{{"values", Json::array()},
           {"readings", Json::array()},
           {"teeth", told.toothed.teeth},
           {"unit_told", told.toothed.unit_told}};
  all.update(json_of(told.laid));
  all["flanks"] = told.fit ? json_of(*told.fit) : Json(nullptr);
  Json along = Json::array();
  for (const Station& s : told.laid.stations) {
    if (s.mean)
      along.push_back({{"along", s.along},
                       {"diameter", 2 * s.p.norm()},
                       {"role", std::string(curve::name(s.role))},
                       {"least_um", kMicrometres * *s.least},
                       {"mean_um", kMicrometres * *s.mean},
                       {"greatest_um", kMicrometres * *s.most}});
  }
  all["along"] = along;
  return all.dump(2) + "\n";
}

}  // namespace palio::foreign
