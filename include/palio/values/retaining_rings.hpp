// Grooves of retaining rings on shafts, by diameter.
#pragma once

#include <vector>

namespace palio::job {

/// A ring that snaps into a groove around a shaft and keeps what stands on it from sliding off.
struct RetainingRing {
  double shaft;            ///< diameter [mm]
  double thickness;        ///< of the ring [mm]
  double groove_diameter;  ///< [mm]
  double groove_width;     ///< a little more than the ring's thickness [mm]
  /// From the groove to the end of the shaft, at least: three times the groove's depth [mm].
  double edge() const noexcept { return 1.5 * (shaft - groove_diameter); }
};

/// Grooves in the manner of DIN 471, plain rings. As commonly tabulated; not compared with the printed standard.
const std::vector<RetainingRing>& retaining_rings();

/// Null where the table has none for that diameter. \param shaft  [mm]
const RetainingRing* retaining_ring(double shaft);

}  // namespace palio::job
