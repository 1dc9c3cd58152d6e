// The body around surfaces ruled to an apex (bevel teeth): patches between their two ends, each end closed by a cone or
// sphere down to a circle, and behind them planes, a hub and the bore. The apex is the origin, the axis +z, the teeth
// open towards +z.
#pragma once

#include <optional>

#include "palio/angle.hpp"
#include "palio/body/core.hpp"
#include "palio/body/features.hpp"
#include "palio/body/mesh.hpp"

namespace palio::body {

/// What is made around bevel teeth: bore with keyway, flat or hexagon, and one hub behind the heel (towards +z).
class ConicalBody {
 public:
  /// \throws InvalidParameter "bore", "keyway", "flat", "hex", "hubs", "rim_thickness", and features that bevel gears
  /// do not take
  ConicalBody(ConicalCore core, Features features);

  const ConicalCore& core() const noexcept { return core_; }
  const Features& features() const noexcept { return features_; }

  struct Circle {
    double radius, z;  ///< [mm]
  };
  const Circle& front() const noexcept { return front_; }  ///< where the toe's end meets the front plane
  const Circle& rear() const noexcept { return rear_; }    ///< where the heel's end meets the rear plane, or the hub
  Angle front_angle() const noexcept {
    return Angle::radians(front_angle_);
  }  ///< the cone angle of that circle, seen from the apex
  Angle rear_angle() const noexcept { return Angle::radians(rear_angle_); }
  std::optional<Circle> hub() const noexcept { return hub_; }  ///< the hub's end
  const std::optional<curve::Outline>& bore() const noexcept { return bore_; }
  double bottom() const noexcept;  ///< least height: the tips at the toe, or the front plane
  double top() const noexcept {
    return hub_ ? hub_->z : rear_.z;
  }  ///< greatest height: apex to rear face, the mounting distance

  /// A point of the teeth: segment of the period, share of it (0…1), cone distance R.
  Vec3 point(const curve::Outline& section, std::size_t segment, double share, double cone_distance) const;
  /// A point of an end at R: in that direction.
  Vec3 at(double cone_angle, double azimuth, double cone_distance) const;

 private:
  ConicalCore core_;
  Features features_;
  std::optional<curve::Outline> bore_;
  Circle front_{}, rear_{};
  double front_angle_ = 0, rear_angle_ = 0;
  std::optional<Circle> hub_;
};

/// Strips along the teeth and across their ends, triangles over the planes; every quadrangle is measured against the
/// exact surface. \throws InvalidParameter "chord_error"
TriangleMesh mesh(const ConicalBody& body, double chord_error);

/// Exact but for the quadrature of smooth functions.
MassProperties mass_properties(const ConicalBody& body);

}  // namespace palio::body
