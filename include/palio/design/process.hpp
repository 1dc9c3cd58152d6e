// What the making does to size, and what is drawn so that the part comes out right.
//
// Three states of a part: nominal, as designed; drawn, as the files have it; made, as it comes out. An effect of the
// making takes the drawn part to the made one. Effects that are corrected are drawn the other way round, so that the
// made part is nominal in that respect; the others are left to come out.
#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace palio::job {

enum class As { nominal, drawn, made };
std::string_view name(As as) noexcept;  ///< "nominal", "drawn", "made"

/// What [process] says; lengths in mm.
struct Process {
  std::string preset;  ///< "print" …; empty where none was named
  std::vector<std::pair<double, double>>
      hole_allowance;                                ///< by diameter, sorted; between them even, beyond them constant
  double press = 0, slide = 0, free = 0;             ///< play on diameter of the three grips
  double surface_offset = 0;                         ///< the made surface beyond the drawn one
  double inset = 0, inset_up_to = 0;                 ///< how far the first layers spread, and up to what height
  double shrinkage_radial = 0, shrinkage_axial = 0;  ///< fractions
  double kerf = 0;                                   ///< taken away, half on either side
  double draft = 0;                                  ///< taper needed [rad]
  double smallest_radius = 0, least_wall = 0;
  double center_distance_tolerance = 0.01;  ///< how far to either side axes may come to stand from where they should
  std::vector<std::string> corrected{"holes", "first_layer", "kerf", "shrinkage"};
  bool given = false;  ///< the job has a [process]

  bool corrects(std::string_view effect) const;
  /// By how much a hole of this diameter comes out smaller [mm].
  double hole_smaller_by(double diameter) const;

  /// The change of surfaces, holes and sizes from the nominal part to that state.
  struct Change {
    double teeth = 0;  ///< offset of flanks, roots and tips, out of the material [mm]
    double walls = 0;  ///< offset of all other walls
    double holes = 0;  ///< holes differ by so many times hole_smaller_by, on diameter: −1, 0, +1
    double inset = 0;  ///< of the first layers, inwards
    double radial = 1, axial = 1;
  };
  Change change(As as) const;
  /// How much wider than nominal a hole of this diameter is after a change [mm].
  double wider(double diameter, const Change& change) const {
    return change.holes * hole_smaller_by(diameter) - 2 * change.walls;
  }
  /// A hole as files have it, so that the process makes it as wide as this [mm].
  double drawn_hole(double diameter) const { return diameter + wider(diameter, change(As::drawn)); }
};

/// The numbers a preset sets. Ours: usual values to begin from, not measurements of your machine.
const std::vector<Process>& presets();

}  // namespace palio::job
