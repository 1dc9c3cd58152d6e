// The page of a reducer. Everything that moves by geometry, gaps, limits and normals, is a table written here.
#include <cmath>

#include <fmt/format.h>

#include "page_parts.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/version.hpp"
#include "palio/view/page.hpp"

namespace palio::view {
namespace {

constexpr double kChordError = 2e-4;  // [mm]

Json shown(const job::Design& design, const job::RolledReducer& rolled) {
  const job::Reducer& r = *rolled.reducer;
  const reducer::Reducer& made = r.made;
  const reducer::Spec& s = made.spec();
  const reducer::Sizes& z = made.sizes();
  Json data = page_data(design, "name", r.name, roll::name(rolled.result.verdict));
  data["rollers"] = s.rollers;
  data["lobes"] = z.lobes;
  data["R"] = s.roller_circle_diameter / 2;
  data["roller"] = s.roller_diameter / 2;
  data["E"] = s.eccentricity;
  data["outer"] = z.ring_outer_diameter / 2;
  data["pins"] = s.output_pins;
  data["pin_circle"] = s.output_pin_circle_diameter / 2;
  data["pin"] = s.output_pin_diameter / 2;
  data["hole"] = z.output_hole_diameter / 2;
  data["bore"] = s.bore_diameter / 2;
  data["journal"] = z.journal_diameter / 2;
  data["shaft"] = z.shaft_diameter / 2;
  data["root"] = z.disc_root_diameter / 2;
  data["flange_phase"] = made.flange_phase().radians();
  data["edge"] = points(made.edge(), kChordError, true);
  data["discs"] = Json::array();
  for (const reducer::DiscPlace& d : made.discs())
    data["discs"].push_back({{"ahead", d.ahead}, {"turn", d.turn}, {"hole_phase", d.hole_phase}});
  for (const reducer::Part& p : reducer::parts(made)) {
    if (p.kind != reducer::PartKind::ring) continue;
    for (const body::Loop& l : p.body.loops) {
      if (l.feature == "teeth") data["ring"] = points(l.outline, kChordError, true);
    }
  }
  // Room of the pins in each disc's holes over the angle from a pin to the eccentricity, which repeats from pin to pin.
  constexpr int kPinSteps = 72;
  data["pin_room"] = Json::array();
  for (std::size_t d = 0; d < made.discs().size(); ++d) {
    Json table = Json::array();
    for (int i = 0; i < kPinSteps; ++i) {
      // The input at which the eccentricity of this disc stands so far beyond the first pin: φ + ahead − (pin − φ/Z).
      const double beyond = 2 * kPi / s.output_pins * i / kPinSteps,
                   input = (beyond + made.flange_phase().radians() - made.discs()[d].ahead) * z.lobes / (z.lobes + 1);
      const reducer::Room room = reducer::pin_room(made, d, input, math::kAlike);
      table.push_back({room.low, room.high});
    }
    data["pin_room"].push_back(table);
  }
  // Gap and direction of the normal of every roller against the first disc at either limit; as the input goes on by
  // 2π/N the rollers change places by one.
  constexpr int kSteps = 24;
  for (const bool high : {false, true}) {
    Json table = Json::array();
    Json& rooms = data["disc_room"] = Json::array();
    for (int i = 0; i < kSteps; ++i) {
      const double input = 2 * kPi / s.rollers * i / kSteps;
      const reducer::Standing at = reducer::standing(made, input, math::kAlike);
      rooms.push_back({at.discs[0].low, at.discs[0].high});
      Json list = Json::array();
      for (const reducer::RollerGap& g :
           reducer::roller_gaps(made, 0, input, high ? at.discs[0].high : at.discs[0].low)) {
        list.push_back(
            {rounded(g.gap, 1e-9), rounded(std::atan2(g.normal.y(), g.normal.x()), 1e-6), g.lever > 0 ? 1 : -1});
      }
      table.push_back(list);
    }
    data[high ? "gaps_high" : "gaps_low"] = table;
  }
  const auto length = [&](double mm) {
    return fmt::format("{:.4g} {}", mm / job::mm_per(design.units), job::symbol(design.units));
  };
  data["summary"] = fmt::format("{} : 1, {} rollers ⌀{} on ⌀{}, eccentricity {}", z.lobes, s.rollers,
                                length(s.roller_diameter), length(s.roller_circle_diameter), length(s.eccentricity));
  if (!rolled.result.wrong.empty()) data["wrong"] = rolled.result.wrong + " " + rolled.result.wrong_advice;
  return data;
}

}  // namespace

std::string reducer_data(const job::Design& design, const job::RolledReducer& rolled) {
  return shown(design, rolled).dump();
}

std::string reducer_page(const job::Design& design, const job::RolledReducer& rolled) {
  return filled_page(kReducerHtml, kReducerScript, design, rolled.reducer->name, kChordError, shown(design, rolled));
}

}  // namespace palio::view
