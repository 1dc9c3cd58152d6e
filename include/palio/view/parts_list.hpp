// What a machine is made of, counted.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "palio/design/design.hpp"
#include "palio/view/placement.hpp"

namespace palio::view {

struct ListedPart {
  std::string name, number;  ///< as in the title block; of what is bought its designation
  std::string what;          ///< "spur gear, 17 teeth, module 1.5"
  std::string material;      ///< empty: none given
  std::size_t quantity = 1;
  bool bought = false;           ///< not made: neither material nor volume is told
  double volume = 0;             ///< of one [mm³]
  std::optional<double> mass{};  ///< of one, where the material is known [g]
};

/// What the title block calls a part, and its number.
std::pair<std::string, std::string> title_of(const job::Gear& gear);
std::pair<std::string, std::string> title_of(const job::Design& design, const Part& part);

/// One part by itself, as its line in the list.
ListedPart listed(const job::Design& design, const Part& part);

/// Parts of one shape are one line, in the order in which they are made; then what is bought for them.
std::vector<ListedPart> parts_list(const job::Design& design);

/// With the header number,name,part_number,what,material,quantity,volume_mm3,mass_g.
std::string parts_csv(const job::Design& design);

/// The same as a page. \param format  "pdf", "png" or "svg"
std::string draw_parts_list(const job::Design& design, const std::string& format);

}  // namespace palio::view
