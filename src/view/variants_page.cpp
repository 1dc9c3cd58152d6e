#include "palio/view/variants_page.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "page_parts.hpp"
#include "palio/error.hpp"
#include "palio/utf8.hpp"
#include "palio/view/draw.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/file.hpp"
#include "parallel.hpp"

namespace palio::view {
namespace {

/// What shows a job at a glance: its first pair that meshes, else its first reducer or gear. Empty where none is drawn.
std::string picture_of(const job::Design& design) {
  constexpr PictureSize kSize{1040, 650};
  try {
    for (const job::Pair& p : design.pairs) {
      if (!p.meshes()) continue;
      if (p.plane()) return draw_pair(design, p, "png", kSize);
      if (p.bevel()) return draw_developed(design, p, "png", kSize);
    }
    if (!design.reducers.empty()) return draw_reducer(design, design.reducers.front(), "png", kSize);
    for (const job::Gear& g : design.gears) {
      if (!g.teeth.is_bevel()) return draw_gear(design, g, "png", kSize);
    }
  } catch (const InvalidParameter&) {
    return "";  // the row says what is wrong with it
  }
  return "";
}

}  // namespace

std::string variants_page(const std::string& heading, const std::vector<Leaf>& leaves) {
  std::vector<std::string> pictures(leaves.size());
  for_each_index(leaves.size(), [&](std::size_t i) {
    if (leaves[i].design) pictures[i] = write::base64(picture_of(*leaves[i].design));
  });
  Json data = Json::array();
  for (std::size_t i = 0; i < leaves.size(); ++i) {
    const Leaf& leaf = leaves[i];
    Json cells = Json::array();
    for (const auto& [head, cell] : leaf.cells)
      cells.push_back({head, cell});
    data.push_back({{"name", leaf.name},
                    {"cells", cells},
                    {"doubts", leaf.doubts},
                    {"problem", leaf.problem},
                    {"picture", pictures[i]}});
  }
  return still_page(kFlipHtml, kFlipScript, heading, {{"DATA", json_in_script(data)}});
}

}  // namespace palio::view
