// The curves a plane tooth outline is made of. Each gives its point and its first two derivatives at a parameter,
// exactly; nothing is sampled here.
//
// Orientation, everywhere in palio: an outline is traversed with the material on its left.
#pragma once

#include <string_view>
#include <variant>

#include "palio/math/vec.hpp"

namespace palio::curve {

/// A point of a curve with its derivatives by the curve's own parameter [mm, mm per unit, mm per unit²].
struct Jet {
  Vec2 p, d1, d2;
};

/// The involute of a circle about the origin: the end of a taut string unwound from it.
///
///     p(t) = r_b e^{i(start + s t)} (1 − i s t),   p'(t) = r_b t e^{i(start + s t)}
///
/// t ≥ 0 is the roll angle [rad], s = +1 or −1 the sense of unwinding, `start` the polar angle of the cusp on the
/// base circle. The radius of curvature is r_b t. Derivation: docs/theory/profile.md.
struct Involute {
  double base_radius;  ///< r_b [mm], above 0
  double start;        ///< [rad]
  int sense;           ///< +1: polar angle grows with t; −1: it falls

  Jet jet(double t) const;
};

/// The root curve that a rack with a rounded corner cuts into a gear rolling on it, in the transverse section.
///
///     p(θ) = e^{i(centre ∓ ω)} [(r + Y) ± i u_s],  Y = y_c − ρ sin θ,  u_s = −Y cos β / tan θ,
///     ω = (u_s − u_n/cos β)/r,  u_n = u_c + ρ cos θ
///
/// θ in (0, π/2] [rad] is the direction of the contact normal in the rack's normal section: π/2 touches the root
/// circle, θ = α_n the flank. ρ = 0 (a sharp corner) is allowed. Derivation: docs/theory/profile.md.
struct Trochoid {
  double pitch_radius;   ///< r, of the rolling circle [mm]
  double cos_helix;      ///< cos β
  double corner_radius;  ///< ρ, of the tool's corner in the normal section [mm], 0 or more
  double corner_height;  ///< y_c, of the corner's centre above the rolling line (negative below) [mm]
  double corner_offset;  ///< u_c, of the corner's centre from the middle of the tool's tooth, normal section [mm]
  double centre;         ///< polar angle of the middle of the tooth space [rad]
  int side;              ///< +1: the curve lies counter-clockwise of the middle of the space; −1: clockwise

  Jet jet(double theta) const;
};

/// A circular arc; the parameter is the polar angle about `centre` [rad].
struct Arc {
  Vec2 centre;
  double radius;

  Jet jet(double angle) const;
};

/// A straight line; the parameter runs 0…1 from `from` to `to`.
struct Line {
  Vec2 from, to;

  Jet jet(double t) const;
};

using Curve = std::variant<Involute, Trochoid, Arc, Line>;

/// What a piece of an outline is for.
enum class Role { flank, root, tip, bore };
std::string_view name(Role role) noexcept;

/// A piece of a curve, traversed from parameter `from` to parameter `to` (which may be the smaller one).
struct Segment {
  Curve curve;
  double from, to;
  Role role;

  Jet jet(double t) const;                         ///< derivatives by the parameter itself
  Vec2 point(double t) const { return jet(t).p; }  ///< [mm]
  Vec2 tangent(double t) const;                    ///< unit vector along the traversal; defined at an involute's cusp too
  Vec2 normal(double t) const;                     ///< unit vector out of the material
  double curvature(double t) const;                ///< [1/mm], positive where the material is convex; infinite at a cusp
  Vec2 first() const { return point(from); }
  Vec2 last() const { return point(to); }
  double sense() const noexcept { return to < from ? -1.0 : 1.0; }
};

/// The same segment turned about the origin by `angle` [rad].
Segment turned(const Segment& segment, double angle);

}  // namespace palio::curve
