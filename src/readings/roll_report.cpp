#include <algorithm>

#include <fmt/format.h>

#include "palio/math/tolerance.hpp"
#include "palio/readings/report.hpp"
#include "palio/version.hpp"
#include "quantities.hpp"

namespace palio::job {
namespace {

constexpr double kArcsec = 180 / kPi * 3600;

bool slides(const Pair& pair) { return pair.parallel() && pair.parallel()->driven().is_rack(); }

}  // namespace

namespace {

/// Rollers that touch the first disc where it is stopped.
struct Touching {
  int least = 1 << 20, most = 0;
  double mean = 0, none = 0;  // none: share of the positions at which no roller does
};

Touching touching_rollers(const Reducer& reducer, const reducer::Rolled& rolled) {
  Touching all;
  for (const reducer::Standing& s : rolled.positions) {
    const auto gaps =
        reducer::roller_gaps(reducer.made, 0, s.input, s.discs[0].overlap > 0 ? s.discs[0].at : s.discs[0].high);
    const int here = static_cast<int>(
        std::count_if(gaps.begin(), gaps.end(), [](const reducer::RollerGap& g) { return g.gap <= math::kAlike; }));
    all.least = std::min(all.least, here), all.most = std::max(all.most, here);
    all.mean += here / static_cast<double>(rolled.positions.size());
    all.none += (here == 0 ? 1.0 : 0.0) / static_cast<double>(rolled.positions.size());
  }
  return all;
}

}  // namespace

std::string gaps_csv(const Design& design, const RolledReducer& rolled) {
  const reducer::Reducer& made = rolled.reducer->made;
  std::string text = "input_deg,disc,at,turn_deg,output_deg";
  for (int k = 0; k < made.spec().rollers; ++k)
    text += fmt::format(",gap_{}", k);
  text += "\n";
  const double degree = 180 / kPi, unit = mm_per(design.units);
  for (const reducer::Standing& s : rolled.result.positions) {
    for (std::size_t d = 0; d < s.discs.size(); ++d) {
      for (const bool high : {false, true}) {
        const double turn = high ? s.discs[d].high : s.discs[d].low;
        text += fmt::format("{:.9g},{},{},{:.9g},{:.9g}", s.input * degree, d + 1, high ? "high" : "low", turn * degree,
                            (high ? s.output.high : s.output.low) * degree);
        for (const reducer::RollerGap& g : reducer::roller_gaps(made, d, s.input, turn))
          text += fmt::format(",{:.6e}", g.gap / unit);
        text += "\n";
      }
    }
  }
  return text;
}

std::string roll_json(const Design& design, const std::vector<RolledPair>& rolled,
                      const std::vector<RolledReducer>& reducers) {
  Json root;
  root["palio"] = kVersion;
  root["title"] = design.title;
  root["units"] = symbol(design.units);
  root["pairs"] = Json::object();
  root["reducers"] = Json::object();
  const auto range = [](const std::optional<roll::Range>& r, double factor) {
    Json j;
    j["min"] = r ? Json(r->min * factor) : Json(nullptr);
    j["max"] = r ? Json(r->max * factor) : Json(nullptr);
    return j;
  };
  const double unit = mm_per(design.units);
  for (const RolledPair& rp : rolled) {
    const roll::Result& r = rp.result;
    Json j;
    j["verdict"] = name(r.verdict);
    j["positions"] = r.positions.size();
    if (slides(*rp.pair)) {
      // A rack's coordinate is a length.
      j["transmission_error"] = range(r.transmission_error, 1 / unit);
    } else {
      j["transmission_error_arcsec"] = range(r.transmission_error, kArcsec);
      j["angular_backlash_deg"] = range(r.play, 180 / kPi);
    }
    j["circumferential_backlash"] = range(r.play, rp.pair->working_radius() / unit);
    j["pairs_in_contact"] = {{"min", r.pairs_min}, {"max", r.pairs_max}, {"mean", r.pairs_mean}};
    j["min_tip_root_clearance"] = number(r.min_tip_root_clearance, Quantity::length, design.units);
    j["max_overlap"] = number(r.max_overlap, Quantity::length, design.units);
    if (r.worst) {
      const bool rack_drives = rp.pair->parallel() && rp.pair->parallel()->driver().is_rack();
      if (rack_drives)
        j["worst"] = {{"position", r.worst->driver / unit}, {"where", r.worst->where}};
      else
        j["worst"] = {{"position_deg", r.worst->driver * 180 / kPi}, {"where", r.worst->where}};
    }
    j["lost_share"] = r.lost_share;
    root["pairs"][rp.pair->name] = j;
  }
  for (const RolledReducer& rr : reducers) {
    const reducer::Rolled& r = rr.result;
    Json j;
    j["verdict"] = name(r.verdict);
    j["positions"] = r.positions.size();
    j["transmission_error_arcsec"] = range(r.error, kArcsec);
    j["angular_backlash_deg"] = range(r.play, 180 / kPi);
    j["circumferential_backlash"] = range(r.play, rr.reducer->made.spec().output_pin_circle_diameter / 2 / unit);
    j["disc_play_deg"] = range(r.disc_play, 180 / kPi);
    const Touching touching = touching_rollers(*rr.reducer, r);
    j["pairs_in_contact"] = {{"min", touching.least}, {"max", touching.most}, {"mean", touching.mean}};
    const reducer::Sizes& z = rr.reducer->made.sizes();
    j["min_tip_root_clearance"] =
        number((z.ring_inner_diameter - z.disc_crest_diameter) / 2 - rr.reducer->made.spec().eccentricity,
               Quantity::length, design.units);
    j["max_overlap"] = number(r.max_overlap, Quantity::length, design.units);
    j["lost_share"] = touching.none;
    if (r.worst) j["worst"] = {{"position_deg", r.worst->input * 180 / kPi}, {"where", r.worst->where}};
    if (!r.wrong.empty()) j["at_fault"] = {{"key", r.wrong}, {"advice", r.wrong + " " + r.wrong_advice}};
    root["reducers"][rr.reducer->name] = j;
  }
  return root.dump(2) + "\n";
}

std::string roll_text(const Design& design, const std::vector<RolledPair>& rolled, bool colour,
                      const std::vector<RolledReducer>& reducers) {
  std::string text;
  const auto degrees = [](const roll::Range& v) {
    return fixed(v.min * 180 / kPi, 6) + "° to " + fixed(v.max * 180 / kPi, 6) + "°";
  };
  const auto line = [&](const char* label, const std::string& value) {
    text += fmt::format("  {:<34} {}\n", label, value);
  };
  for (const RolledPair& rp : rolled) {
    const roll::Result& r = rp.result;
    const auto length = [&](double v) {
      return fmt::format("{} {}", fixed(v / mm_per(design.units), 9), symbol(design.units));
    };
    std::string verdict(name(r.verdict));
    for (char& c : verdict)
      c = c == '_' ? ' ' : c;
    text += fmt::format("pair {}: {}\n", rp.pair->name, painted(verdict, name(r.verdict), colour));
    line("positions over one tooth pitch", fmt::format("{}", r.positions.size()));
    if (!rp.pair->bevel())
      line("center distance as mounted", shown(rp.pair->mounted_center_distance(), Quantity::length, design.units));
    else
      line("shaft angle as mounted",
           shown((rp.pair->shaft_angle() + rp.pair->error().shaft_angle).radians(), Quantity::angle, design.units));
    if (r.transmission_error && slides(*rp.pair)) {
      line("transmission error",
           fmt::format("{} µm to {} µm of the rack", small_error(r.transmission_error->min * 1000),
                       small_error(r.transmission_error->max * 1000)));
    } else if (r.transmission_error) {
      line("transmission error",
           fmt::format("{}″ to {}″ (arc seconds of the driven)", small_error(r.transmission_error->min * kArcsec),
                       small_error(r.transmission_error->max * kArcsec)));
    }
    if (r.play) {
      const double w = rp.pair->working_radius();
      line("circumferential backlash", length(r.play->min * w) + " to " + length(r.play->max * w));
      if (!rp.pair->cycloidal() || rp.pair->cycloidal()->conjugate())
        line("  by the report's formula", length(rp.pair->circumferential_backlash()));
      if (!slides(*rp.pair)) line("angular backlash of the driven", degrees(*r.play));
    } else {
      line("circumferential backlash", "none: at some position nothing stands in the way");
    }
    line("tooth pairs in contact", fmt::format("{} to {}, {:.9f} on average", r.pairs_min, r.pairs_max, r.pairs_mean));
    line("least tip to root clearance", length(r.min_tip_root_clearance));
    if (r.max_overlap > 0) line("deepest unavoidable overlap", length(r.max_overlap));
    if (r.worst) {
      line("worst with the driver at", fmt::format("{:.4f}°", r.worst->driver * 180 / kPi));
      std::string where = r.worst->where;
      if (const auto both = where.find("; and "); both != std::string::npos)
        where.replace(both, 2, ";\n" + std::string(37, ' '));
      line("where", where);
    }
    if (r.lost_share > 0) line("share of the period without contact", fmt::format("{:.6f}", r.lost_share));
  }
  for (const RolledReducer& rr : reducers) {
    const reducer::Rolled& r = rr.result;
    text += fmt::format("reducer {}: {}\n", rr.reducer->name, painted(name(r.verdict), name(r.verdict), colour));
    line("positions over a turn of the input", fmt::format("{}", r.positions.size()));
    if (r.play) line("lost motion at the output", degrees(*r.play));
    if (r.disc_play) line("play of a disc between the rollers", degrees(*r.disc_play));
    if (r.error)
      line("middle of it off the even ratio",
           fmt::format("{}″ to {}″", small_error(r.error->min * kArcsec), small_error(r.error->max * kArcsec)));
    const Touching touching = touching_rollers(*rr.reducer, r);
    line("rollers that touch a pressed disc",
         fmt::format("{} to {}, {:.4f} on average", touching.least, touching.most, touching.mean));
    if (r.max_overlap > 0)
      line("deepest unavoidable overlap",
           fixed(r.max_overlap / mm_per(design.units), 9) + " " + std::string(symbol(design.units)));
    if (r.worst)
      line("worst with the input at", fmt::format("{:.4f}°", r.worst->input * 180 / kPi)),
          line("where", r.worst->where);
    if (!r.wrong.empty()) line("at fault", r.wrong + " " + r.wrong_advice);
  }
  return text;
}

}  // namespace palio::job
