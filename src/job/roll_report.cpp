#include <fmt/format.h>

#include "palio/job/report.hpp"
#include "palio/version.hpp"
#include "values.hpp"

namespace palio::job {
namespace {

constexpr double kArcsec = 180 / kPi * 3600;

double working_radius(const Pair& pair) { return pair.running->working_pitch_diameters()[1] / 2; }

}  // namespace

std::string roll_json(const Design& design, const std::vector<RolledPair>& rolled) {
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
    j["transmission_error_arcsec"] = range(r.transmission_error, kArcsec);
    j["angular_backlash_deg"] = range(r.play, 180 / kPi);
    j["circumferential_backlash"] = range(r.play, working_radius(*rp.pair) / unit);
    j["pairs_in_contact"] = {{"min", r.pairs_min}, {"max", r.pairs_max}, {"mean", r.pairs_mean}};
    j["min_tip_root_clearance"] = number(r.min_tip_root_clearance, Quantity::length, design.units);
    j["max_overlap"] = number(r.max_overlap, Quantity::length, design.units);
    if (r.worst) {
      j["worst"] = {{"position_deg", r.worst->driver * 180 / kPi}, {"where", r.worst->where}};
    }
    j["lost_share"] = r.lost_share;
    root["pairs"][rp.pair->name] = j;
  }
  return root.dump(2) + "\n";
}

std::string roll_text(const Design& design, const std::vector<RolledPair>& rolled, bool colour) {
  std::string text;
  const auto line = [&](const char* label, const std::string& value) { text += fmt::format("  {:<34} {}\n", label, value); };
  for (const RolledPair& rp : rolled) {
    const roll::Result& r = rp.result;
    const auto length = [&](double v) { return fmt::format("{:.9f} {}", v / mm_per(design.units), symbol(design.units)); };
    std::string verdict(name(r.verdict));
    for (char& c : verdict) c = c == '_' ? ' ' : c;
    text += fmt::format("pair {}: {}\n", rp.pair->name, painted(verdict, name(r.verdict), colour));
    line("positions over one tooth pitch", fmt::format("{}", r.positions.size()));
    line("center distance as mounted", shown(rp.pair->mounted_center_distance, Quantity::length, design.units));
    if (r.transmission_error) {
      line("transmission error",
           fmt::format("{:.3g}″ to {:.3g}″ (arc seconds of the driven)", r.transmission_error->min * kArcsec, r.transmission_error->max * kArcsec));
    }
    if (r.play) {
      const double w = working_radius(*rp.pair);
      line("circumferential backlash", length(r.play->min * w) + " to " + length(r.play->max * w));
      line("  by the report's formula", length(rp.pair->running->circumferential_backlash()));
      line("angular backlash of the driven", fmt::format("{:.6f}° to {:.6f}°", r.play->min * 180 / kPi, r.play->max * 180 / kPi));
    } else {
      line("circumferential backlash", "none: at some position nothing stands in the way");
    }
    line("tooth pairs in contact", fmt::format("{} to {}, {:.9f} on average", r.pairs_min, r.pairs_max, r.pairs_mean));
    line("least tip to root clearance", length(r.min_tip_root_clearance));
    if (r.max_overlap > 0) line("deepest unavoidable overlap", length(r.max_overlap));
    if (r.worst) {
      line("worst with the driver at", fmt::format("{:.4f}°", r.worst->driver * 180 / kPi));
      std::string where = r.worst->where;
      if (const auto both = where.find("; and "); both != std::string::npos) where.replace(both, 2, ";\n" + std::string(37, ' '));
      line("where", where);
    }
    if (r.lost_share > 0) line("share of the period without contact", fmt::format("{:.6f}", r.lost_share));
  }
  return text;
}

}  // namespace palio::job
