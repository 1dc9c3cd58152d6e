// The drawing for the shop: one page a part, views to scale, dimensions and a table: of tooth data, of holes and steps.
#pragma once

#include <string>
#include <vector>

#include "palio/design/design.hpp"
#include "palio/view/placement.hpp"

namespace palio::view {

struct SheetOptions {
  std::string paper = "A4";  ///< "A4", "A3" or "letter", upright or lying as the gear asks
};

/// A sheet to be drawn: of a gear with its tooth data, or of another part, of which the machine has so many.
struct SheetOf {
  const job::Gear* gear = nullptr;
  const Part* part = nullptr;  ///< where there is no gear
  std::size_t pieces = 1;
};

/// \param parts  all of the design, as of `view::parts`; they have to outlive the sheet
SheetOf sheet_of(const Part& part, const std::vector<Part>& parts);

/// Of every gear, also of those in one piece with others, and of every other part, alike ones once.
/// \param parts  as of `view::parts`; they have to outlive the sheets
std::vector<SheetOf> all_sheets(const job::Design& design, const std::vector<Part>& parts);
const std::string& name(const SheetOf& sheet);

/// Sheets as one PDF, a page each; of one alone also "png". \throws InvalidParameter "--paper", "format"
std::string draw_sheets(const job::Design& design, const std::vector<SheetOf>& sheets, const SheetOptions& options,
                        const std::string& format = "pdf");

/// One page as PDF (or "png" for looking at). Content of the table in the sense of ISO 1340, the layout is our own.
std::string draw_sheet(const job::Design& design, const job::Gear& gear, const SheetOptions& options,
                       const std::string& format = "pdf");

}  // namespace palio::view
