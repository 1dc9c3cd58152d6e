// A rack: the cylindrical gear of infinite radius, straight or helical.
#pragma once

#include "palio/gear/cylindrical.hpp"

namespace palio::gear {

/// Dimensions that follow. y counts from the reference line towards the tips [mm].
struct RackSizes {
  double transverse_module, generating_profile_shift;
  Angle transverse_pressure_angle, base_helix_angle;
  double tool_tip_radius;                            ///< of the root's round, in modules
  double tip_height, root_height, root_form_height;  ///< y of tips, root line (below 0), end of the straight flank
  double tip_form_height;                            ///< y where the straight flank ends at the tip
  double normal_tooth_thickness, transverse_tooth_thickness;  ///< on the reference line, allowance included
  double tip_thickness;                                       ///< normal
  bool pointed;
  double length;       ///< of the body, along the motion [mm]
  double middle;       ///< x of the middle of body and teeth: tooth 0 is centred on 0 [mm]
  double base_height;  ///< from the reference line to the back [mm]
};

/// An immutable rack: checked and computed when made. Spec: as for a gear; `teeth` or `length` tells how long it is,
/// tip_diameter, root_diameter, bore and cutter have no meaning for it.
class Rack {
 public:
  /// \throws InvalidParameter naming the value and its range
  explicit Rack(const CylindricalSpec& spec);

  const CylindricalSpec& spec() const noexcept { return spec_; }  ///< teeth filled in
  const RackSizes& sizes() const noexcept { return sizes_; }
  double pitch() const noexcept;  ///< transverse [mm]
  double slope() const noexcept;  ///< how far the section has moved along −x per length in z: tan β
  /// One tooth after the other along −x, an open chain: what rolls. Tooth 0 is centred on x = 0.
  const curve::Outline& teeth() const noexcept { return teeth_; }
  /// The closed section, teeth towards +y, reference line on the x axis.
  const curve::Outline& outline() const noexcept { return outline_; }

  /// The same rack with every surface moved out of the material by `offset` along its normal [mm].
  /// \throws InvalidParameter "surface_offset" where a curve would vanish
  Rack grown(double offset) const;

  /// Half the width of the space at height y [mm], on the flank or the root's round; none below the root line.
  std::optional<double> half_space(double y) const;

 private:
  CylindricalSpec spec_;
  RackSizes sizes_{};
  curve::Outline teeth_, outline_;
};

std::vector<Finding> findings(const Rack& rack, const std::string& subject);

}  // namespace palio::gear
