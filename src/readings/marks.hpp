// Marks of single readings, for the rows of the tables. Private to the readings.
#pragma once

#include "palio/readings/mark.hpp"

namespace palio::job {

struct GearAt;
struct PairAt;

/// A whole circle.
inline Trace circle(double radius, const Vec2& centre = Vec2::Zero()) { return MarkArc{centre, radius, 0, 2 * kPi}; }

namespace gear_marks {

/// Where the middle of a tooth stands, and how far off it the outline crosses a circle [rad]; none where it does not.
double tooth_middle(const gear::Teeth& teeth);
std::optional<double> half_tooth(const gear::Teeth& teeth, double radius);

using Of = std::optional<Mark>(const GearAt&);

Of tooth_thickness, tip_thickness, chordal_thickness, chordal_height;
Of addendum, dedendum, tooth_depth;
Of pressure_angle, pitch, angular_pitch, base_pitch, span, balls, pins, pin_gap;
Of undercut, face_circle, flank_circle;
Of rack_form, rack_length, rack_back;
Of pitch_cone, base_cone, face_cone, root_cone, outer_cone_distance, inner_cone_distance;
Of outer_pitch, outer_tip, outer_root, crown, mounting_distance, face_width;

}  // namespace gear_marks

namespace pair_marks {

using Of = std::optional<Mark>(const PairAt&);

Of center_distance, working_circles, pressure_angle, contact_path;
Of circumferential_backlash, normal_backlash, tip_clearance;

}  // namespace pair_marks

}  // namespace palio::job
