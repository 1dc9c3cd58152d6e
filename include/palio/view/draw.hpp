// Pictures of gears and pairs, on Cairo: one routine for PNG, SVG and PDF.
#pragma once

#include <string>

#include "palio/design/design.hpp"

namespace palio::view {

struct PictureSize {
  int width = 1280, height = 800;  ///< pixels, or points in PDF
};

/// One gear with its circles and their diameters.
/// \param format  "png", "svg" or "pdf"
/// \throws InvalidParameter "format"
std::string draw_gear(const job::Design& design, const job::Gear& gear, const std::string& format,
                      PictureSize size = {});

/// Close up, a tooth of two gears laid over each other, and the sizes in which they differ.
/// \param name_a, name_b  what the two jobs are called
/// \throws InvalidParameter "of"  where one of them has no plane teeth
std::string draw_overlay(const job::Design& a, const job::Gear& gear_a, const std::string& name_a, const job::Design& b,
                         const job::Gear& gear_b, const std::string& name_b, const std::string& format,
                         PictureSize size = {});

/// A pair in place, in contact, with all circles and the line of action.
std::string draw_pair(const job::Design& design, const job::Pair& pair, const std::string& format,
                      PictureSize size = {});

/// The whole machine as a plan: axes, pitch circles and shafts from the front and from another side, with the turns and
/// speeds of the first train. \throws InvalidParameter "of" where nothing meshes
std::string draw_layout(const job::Design& design, const std::string& format, PictureSize size = {});

/// Bevel gears: one alone, cut through its axis beside its developed heel.
std::string draw_bevel_gear(const job::Design& design, const job::Gear& gear, const std::string& format,
                            PictureSize size = {});
/// A bevel pair cut through both axes, with all cones.
std::string draw_bevel_section(const job::Design& design, const job::Pair& pair, const std::string& format,
                               PictureSize size = {});
/// Its teeth at the heel, both back cones rolled out into the plane of the drawing, at the start of the roll.
std::string draw_developed(const job::Design& design, const job::Pair& pair, const std::string& format,
                           PictureSize size = {});

/// A reducer from +z at the start: numbered rollers, contact normals through the pitch point, gaps of all rollers.
std::string draw_reducer(const job::Design& design, const job::Reducer& reducer, const std::string& format,
                         PictureSize size = {});
/// The same close up at the rollers that carry most.
std::string draw_reducer_contact(const job::Design& design, const job::Reducer& reducer, const std::string& format,
                                 PictureSize size = {});

/// The same close up at the contact, with the gap at the other flank.
std::string draw_contact(const job::Design& design, const job::Pair& pair, const std::string& format,
                         PictureSize size = {});

/// What a word of the report is on this job's teeth (readings/mark.hpp): the gear or the pair, the reading marked on
/// it, its formula with the numbers put in. \throws InvalidParameter "word", "format"
std::string draw_marked(const job::Design& design, const std::string& word, const std::string& format,
                        PictureSize size = {});

}  // namespace palio::view
