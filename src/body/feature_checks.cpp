// What features have to be, each by itself, and how messages name them.
#include "feature_checks.hpp"

#include <algorithm>
#include <optional>

#include <fmt/format.h>

#include "bore.hpp"

namespace palio::body {

namespace {

void check_steps(const Core& core, const Features& f) {
  if (f.steps.empty()) return;
  const Heights h = heights(f, core.width, core.plate());
  const std::optional<curve::Outline> bored = bore(core.bore_radius, f);
  const double opening = bored ? 2 * reach(*bored) : 0;
  double deepest[2] = {0, 0};
  for (const Step& s : f.steps) {
    const char* key = feature_of(s);
    const std::string given = fmt::format("diameter {}, depth {}", mm(s.diameter), mm(s.depth));
    require(s.diameter > 0 && s.depth > 0, key, given, "both are above 0", "give both");
    require(!core.pins && !core.ring && !core.slides, key, given, "it is cut into a bore that runs through one body",
            "leave it out");
    require(s.diameter > opening, key, given,
            fmt::format("the bore behind it reaches to a diameter of {}", mm(opening)),
            "make the bore narrower, or the step wider");
    require(f.bore_chamfer < s.depth, key, given, fmt::format("the bore's chamfer is {} deep", mm(f.bore_chamfer)),
            "make the chamfer smaller");
    for (const Step& other : f.steps) {
      const bool hides = &other != &s && other.top == s.top && other.depth >= s.depth && other.diameter >= s.diameter;
      require(!hides, key, given,
              fmt::format("another one at the same end is as wide and as deep: {}, {}", mm(other.diameter),
                          mm(other.depth)),
              "a deeper step is narrower; drop one of the two");
    }
    deepest[s.top ? 1 : 0] = std::max(deepest[s.top ? 1 : 0], s.depth);
  }
  const double length = h.top - h.bottom, left = length - deepest[0] - deepest[1];
  require(left > 0, feature_of(f.steps.back()), fmt::format("depth {}", mm(f.steps.back().depth)),
          fmt::format("the body is {} long there, {} more than that leaves no shoulder", mm(length), mm(-left)),
          fmt::format("make it shallower, or the hub or the teeth longer by more than {}", mm(-left)));
}

}  // namespace

void check_features(const Core& core, const Features& f) {
  const double b = core.width, bore = 2 * core.bore_radius;
  const bool bored = bore > 0;
  for (const auto& [given, key] :
       {std::pair(f.sided.has_value(), f.sided ? feature_of(*f.sided) : "hex"),
        std::pair(f.serration.has_value(), "serration"), std::pair(f.shaped.has_value(), "spline")}) {
    require(!given || !bored, key, "given", "it stands beside bore.diameter", "drop one of the two");
  }
  require(!f.sided || !f.serration, "serration", "given", "it stands beside a bore with flat walls",
          "drop one of the two");
  require(!f.shaped || (!f.sided && !f.serration), "spline", "given", "it stands beside another shape of the bore",
          "drop one of the two");
  require(!f.keyway || bored, "keyway", "given", "it is cut into a round bore", "give bore.diameter");
  require(!f.flat || bored, "flat", "given", "it stands in a round bore", "give bore.diameter");
  require(f.bore_chamfer == 0 || (bored && plain_bore(f)), "bore.chamfer", mm(f.bore_chamfer),
          "it is made on plain round bores only: on other bores its edges would not be exact",
          "take it out, or chamfer by hand");
  const Heights h = heights(f, b, core.plate());
  require(f.bore_chamfer * 2 < h.top - h.bottom, "bore.chamfer", mm(f.bore_chamfer),
          "the chamfers of both ends overlap", "make it smaller");
  require(!f.marks || (f.marks->depth > 0 && f.marks->depth < b), "mark", "depth " + mm(f.marks ? f.marks->depth : 0),
          fmt::format("it is above 0 and below the face width of {}", mm(b)), "give 0.3 mm, say");
  check_steps(core, f);
  for (const Hub& hub : f.hubs) {
    require(hub.diameter > 0 && hub.length > 0, "hubs",
            fmt::format("diameter {}, length {}", mm(hub.diameter), mm(hub.length)), "both are above 0", "give both");
  }
  if (f.web) {
    require(f.web->thickness > 0 && f.web->thickness < b, "web", "thickness " + mm(f.web->thickness),
            fmt::format("it is above 0 and below the face width of {}", mm(b)),
            "make it thinner, or leave the web out");
    require(f.web->inner_diameter < f.web->outer_diameter, "web",
            fmt::format("from {} to {}", mm(f.web->inner_diameter), mm(f.web->outer_diameter)),
            "the recess lies between inner_diameter and a larger outer_diameter", "make the hub or the wall thinner");
    for (const Hub& hub : f.hubs) {
      const bool recessed = f.web->faces == Faces::both || (f.web->faces == Faces::top) == hub.top;
      require(!recessed || hub.diameter < f.web->outer_diameter, "hubs", "diameter " + mm(hub.diameter),
              fmt::format("it covers the web's recess (outer diameter {}) by {}", mm(f.web->outer_diameter),
                          mm((hub.diameter - f.web->outer_diameter) / 2)),
              "make the hub smaller, or recess the other face");
    }
  }
  for (const Cutout& c : f.cutouts)
    require(c.depth >= 0 && c.depth < b, "cutouts", "depth " + mm(c.depth),
            fmt::format("a pocket is less deep than the face width of {}", mm(b)),
            "make it shallower, or leave depth out: it then goes right through");
  if (f.spokes) {
    require(f.spokes->count >= 2, "spokes", fmt::format("count {}", f.spokes->count), "two or more", "give 3 to 8");
    require(f.spokes->inner_diameter < f.spokes->outer_diameter, "spokes",
            fmt::format("from {} to {}", mm(f.spokes->inner_diameter), mm(f.spokes->outer_diameter)),
            "the windows lie between inner_diameter and a larger outer_diameter", "change one of them");
  }
  if (f.sector_teeth > 0) {
    require(f.sector_teeth < core.outline.count, "sector_teeth", fmt::format("{}", f.sector_teeth),
            fmt::format("it is below the {} teeth of the whole gear", core.outline.count),
            "leave it out for a whole gear");
    const double root = 2 * core.root_radius;
    require(f.sector_back_diameter > bore && f.sector_back_diameter < root, "sector_back_diameter",
            mm(f.sector_back_diameter),
            fmt::format("it lies between the bore's {} and the root circle's {}", mm(bore), mm(root)),
            "give one between them");
  }
}

std::string described(const Core& core, const Features& f, const std::string& feature) {
  if (feature == "holes" && !f.holes.empty()) {
    std::string all;
    for (const Holes& h : f.holes)
      all += fmt::format("{}{} of diameter {}{}", all.empty() ? "" : ", ", h.count, mm(h.diameter),
                         !h.row         ? " on a circle of " + mm(h.circle_diameter)
                         : h.count == 1 ? ""
                                        : ", " + mm(h.row->spacing) + " apart");
    return all;
  }
  if (feature == "web" && f.web)
    return fmt::format("a recess from {} to {} (diameters)", mm(f.web->inner_diameter), mm(f.web->outer_diameter));
  if (feature == "spokes" && f.spokes)
    return fmt::format("windows from {} to {} (diameters)", mm(f.spokes->inner_diameter), mm(f.spokes->outer_diameter));
  if (feature == "hubs") {
    std::string all;
    for (const Hub& h : f.hubs)
      all += (all.empty() ? "diameter " : ", ") + mm(h.diameter);
    return all;
  }
  if (feature == "bore.steps" || feature == "bore.bearing") {
    std::string all;
    for (const Step& s : f.steps) {
      if (feature == feature_of(s)) all += fmt::format("{}diameter {}", all.empty() ? "" : ", ", mm(s.diameter));
    }
    return all;
  }
  if (feature == "keyway" && f.keyway)
    return fmt::format("width {}, height {}", mm(f.keyway->width), mm(f.keyway->height));
  if (f.sided && feature == feature_of(*f.sided)) return "across_flats " + mm(f.sided->across_flats);
  if (feature == "serration" && f.serration)
    return fmt::format("{} teeth, outer_diameter {}", f.serration->teeth, mm(f.serration->outer_diameter));
  if (feature == "set_screw" || feature == "cross_pin") {
    std::string all;
    for (const CrossHole& h : f.cross_holes) {
      if (feature == h.key())
        all += fmt::format("{}of diameter {} at height {}", all.empty() ? "" : ", ", mm(h.diameter), mm(h.height));
    }
    return all;
  }
  if (f.shaped && feature == f.shaped->feature)
    return fmt::format("of diameters {} and {}", mm(f.shaped->inner_diameter), mm(f.shaped->outer_diameter));
  if (feature == "cutouts") return "as drawn";
  if (feature == "mark") return "on the top face";
  if (feature == "bore" || feature == "flat") return "diameter " + mm(2 * core.bore_radius);
  if (feature == "outer_diameter") return mm(2 * core.outer_radius);
  return "as given";
}

}  // namespace palio::body
