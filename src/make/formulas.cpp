// The curves of all teeth of a design as formulas.
#include <algorithm>

#include <fmt/format.h>

#include "palio/make/make.hpp"
#include "palio/overloaded.hpp"
#include "palio/write/formula.hpp"

namespace palio::make {

std::string formulas(const job::Design& design, const std::vector<std::string>& only, const std::string& language,
                     int pieces) {
  const auto wanted = [&](const std::string& name) {
    return only.empty() || std::find(only.begin(), only.end(), name) != only.end();
  };
  const auto of = [&](const std::string& name, const curve::Outline& outline) {
    return write::formulas(name, outline, language, pieces, job::mm_per(design.units),
                           std::string(job::symbol(design.units)));
  };
  const std::string remark = language == "c" ? "// " : language == "python" ? "# " : "";
  std::string text;
  for (const job::Gear& g : design.gears) {
    if (!wanted(g.name) || g.teeth.is_lantern()) continue;  // a lantern's teeth are circles
    const auto chain = [&] { return of(g.name, g.teeth.chain()); };
    text += g.teeth.visit(overloaded{
        [&](const gear::CylindricalGear&) { return chain(); },
        [&](const gear::Rack&) { return chain(); },
        [&](const gear::CycloidalTeeth&) { return chain(); },
        [&](const gear::BevelGear& bevel) {
          return remark +
                 fmt::format(
                     "{}: directions from the apex; x and y are tan(half the cone angle) times cosine and "
                     "sine of the azimuth, at the heel\n",
                     g.name) +
                 of(g.name, bevel.section(bevel.sizes().outer_cone_distance));
        },
    });
  }
  for (const job::Reducer& r : design.reducers) {
    const std::string name = r.name + "_disc";
    if (wanted(name)) text += of(name, r.made.edge());
  }
  return text;
}

}  // namespace palio::make
