// The drawing for the shop: one page a gear, views to scale, dimensions and the table of tooth data.
#pragma once

#include <string>

#include "palio/design/design.hpp"

namespace palio::view {

struct SheetOptions {
  std::string paper = "A4";  ///< "A4", "A3" or "letter", upright or lying as the gear asks
};

/// One page as PDF (or "png" for looking at). Content of the table in the sense of ISO 1340, the layout is our own.
std::string draw_sheet(const job::Design& design, const job::Gear& gear, const SheetOptions& options,
                       const std::string& format = "pdf");

}  // namespace palio::view
