// What was recovered, in words and for scripts.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "palio/readings/reading.hpp"
#include "palio/solve/recover.hpp"
#include "table.hpp"
#include "text.hpp"

namespace palio::solve {
namespace {

using Json = nlohmann::ordered_json;

std::string with_unit(double number, const std::string& unit) {
  return fmt::format("{:.6g}{}{}", number == 0 ? 0.0 : number, unit.empty() || unit == "°" ? "" : " ", unit);
}

std::string words(Slip slip) {
  switch (slip) {
    case Slip::span_miscounted: return "as if one tooth more or fewer had been spanned";
    case Slip::radius_for_diameter: return "as if a radius had been written for a diameter";
    case Slip::digits_swapped: return "as if two neighbouring digits had been swapped";
    case Slip::wrong_unit: return "as if it had been read in the other unit";
    case Slip::worn: return "as wear would have it";
    case Slip::unexplained: return "no usual mistake explains it";
  }
  return "";
}

/// With as many digits as its uncertainty leaves sense in, and two more.
std::string value_text(const Recovered::Value& v) {
  if (!v.uncertainty) return fmt::format("{:.6g}", v.value);
  const double u = *v.uncertainty;
  return fmt::format("{:.{}f}", v.value, decimals(u, 9));
}

}  // namespace

std::string recover_text(const Recovered& r) {
  std::vector<std::vector<std::string>> values{{"", "found", "± (one standard deviation)"}};
  for (const Recovered::Value& v : r.values) {
    values.push_back({v.path, value_text(v),
                      v.uncertainty ? fmt::format("{:.2g}", *v.uncertainty)
                      : v.chosen    ? "chosen"
                      : std::find(r.undetermined.begin(), r.undetermined.end(), v.path) != r.undetermined.end()
                          ? "left open"
                          : "follows"});
  }
  std::string text = table(values) + "\n";
  std::vector<std::vector<std::string>> rows{{"measured", "is", "fitted", "off by", "of its uncertainty"}};
  for (std::size_t i = 0; i < r.measured.size(); ++i) {
    const Recovered::Reading& m = r.measured[i];
    const std::string unit = job::reading_unit(m.of, r.units);
    const bool suspect = r.suspect && r.suspect->index == i;
    rows.push_back({m.of, with_unit(m.is, unit), with_unit(m.fitted, unit),
                    fmt::format("{:+.3g}", std::abs(m.sigmas) < 5e-7 ? 0.0 : m.residual),
                    in_sigmas(m.sigmas) + (suspect ? "  <-" : "")});
  }
  text += table(rows) + "\n";
  text += fmt::format("χ² {:.3g} with {} degree{} of freedom", r.chi2, r.degrees_of_freedom,
                      r.degrees_of_freedom == 1 ? "" : "s");
  text += r.contradiction && r.degrees_of_freedom == 0 ? ": no gear has all of these\n"
          : r.degrees_of_freedom == 0
              ? ": nothing is left over to check the measurements by\n"
              : fmt::format(": sound measurements fit worse in {:.2g} % of cases\n", 100 * r.chance);
  if (r.contradiction) {
    text += "the measurements contradict each other\n";
    if (r.suspect) {
      const Recovered::Suspect& s = *r.suspect;
      text += fmt::format("  measurement {} ({}) is the wrong one, {}: it would be {}\n", s.index + 1, s.of,
                          words(s.explained_as), with_unit(s.would_be, job::reading_unit(s.of, r.units)));
      text += "  the values above are fitted without it\n";
    } else {
      text += "  which one is wrong the evidence does not say: measure one of those that are most off again\n";
    }
  }
  if (!r.undetermined.empty()) {
    text += fmt::format("left open by the measurements: {}\n", listed(r.undetermined));
    for (const std::string& c : r.combinations)
      text += "  free to change together: " + c + "\n";
    std::vector<std::string> settling;
    for (const Recovered::Settling& s : r.would_settle) {
      if (settling.size() < 4) settling.push_back(s.path);
    }
    text += settling.empty() ? "  no single further measurement would settle it\n"
                             : "  any one of these measurements would settle it: " + listed(settling, " or ") + "\n";
  }
  for (const Recovered::Snap& s : r.snaps)
    text += fmt::format("near a standard size: {} {:.6g} to {:.6g} costs {:.3g} of χ²\n", s.path, s.from, s.to,
                        s.chi2_more);
  return text;
}

std::string recover_json(const Recovered& r) {
  Json values = Json::object(), measured = Json::array(), settle = Json::array(), snaps = Json::array();
  for (const Recovered::Value& v : r.values)
    values[v.path] = {{"value", v.value}, {"uncertainty", v.uncertainty ? Json(*v.uncertainty) : Json(nullptr)}};
  for (const Recovered::Reading& m : r.measured)
    measured.push_back(
        {{"of", m.of}, {"is", m.is}, {"fitted", m.fitted}, {"residual", m.residual}, {"sigmas", m.sigmas}});
  for (const Recovered::Settling& s : r.would_settle)
    settle.push_back(s.path);
  for (const Recovered::Snap& s : r.snaps)
    snaps.push_back({{"path", s.path}, {"from", s.from}, {"to", s.to}, {"chi2_more", s.chi2_more}});
  Json suspect = nullptr;
  if (r.suspect)
    suspect = {{"index", r.suspect->index},
               {"of", r.suspect->of},
               {"explained_as", name(r.suspect->explained_as)},
               {"would_be", r.suspect->would_be}};
  const Json all{{"values", values},
                 {"measured", measured},
                 {"chi2", r.chi2},
                 {"degrees_of_freedom", r.degrees_of_freedom},
                 {"chance", r.chance},
                 {"contradiction", r.contradiction},
                 {"suspect", suspect},
                 {"undetermined", r.undetermined},
                 {"combinations", r.combinations},
                 {"would_settle", settle},
                 {"snaps", snaps}};
  return all.dump(2) + "\n";
}

}  // namespace palio::solve
