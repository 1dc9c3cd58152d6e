// The curves a plane tooth outline is made of. Each gives its point and its first two derivatives at a parameter,
// exactly; nothing is sampled here.
//
// Orientation, everywhere in palio: an outline is traversed with the material on its left.
#pragma once

#include <optional>
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

/// The root curve that the rounded corner of a pinion cutter leaves in a ring gear: the outer parallel, at distance ρ,
/// of the path of the corner's centre, in the transverse section.
///
///     C = a₀ + c e^{iφ},  n = (C − P)/|C − P|,  P = r_w,  p(φ) = e^{i(centre ± κ(η − φ))} [C + ρ n]*
///
/// φ ≥ 0 [rad] is the direction of the corner's centre from the cutter's axis, counted from the line of centres: 0
/// touches the root circle. [ ]* is conjugated for side = −1. ρ = 0 (a sharp corner) is allowed.
/// docs/theory/profile.md.
struct CutterTrochoid {
  double center_distance;  ///< a₀, ring axis to cutter axis [mm]
  double pitch_radius;     ///< r_w, of the ring's rolling circle [mm]
  double corner_distance;  ///< c, of the corner's centre from the cutter's axis [mm]
  double corner_radius;    ///< ρ [mm], 0 or more
  double corner_angle;     ///< η, of the corner's centre from the middle of the cutter's tooth [rad]
  double turns;            ///< κ, turn of the ring per turn of the cutter: z₀/z
  double centre;           ///< polar angle of the middle of the tooth space [rad]
  int side;                ///< +1: counter-clockwise of the middle of the space; −1: clockwise

  Jet jet(double phi) const;
};

/// The spherical involute on the unit sphere, seen by the stereographic projection tan(δ/2) e^{i az} about the axis:
/// the path of a point of a great circle that rolls on the base cone.
///
///     p(v) = e^{i(start ± v)} (sin δ_b cos σ ∓ i sin σ)/(1 + cos δ_b cos σ),   σ = v sin δ_b
///
/// v ≥ 0 is the roll angle [rad], `start` the azimuth of the cusp on the base cone; σ is the way rolled along the great
/// circle, cos δ = cos δ_b cos σ. docs/theory/bevel.md.
struct SphericalInvolute {
  double base_cone;  ///< δ_b, above 0, below π/2 [rad]
  double start;      ///< [rad]
  int sense;         ///< +1: azimuth grows with v; −1: it falls

  Jet jet(double v) const;
};

/// The root curve that the rounded corner of a crown gear leaves in a bevel gear rolling on it, on the unit sphere, by
/// the same projection: the parallel at ρ of the path of the corner's centre, away from the pitch element I.
///
///     C = cos γ z_c + sin γ (cos χ I + sin χ y),  P = cos ρ C + sin ρ (C (C·I) − I)/|…|,  turned by −(χ − η)/sin δ
///
/// γ = π/2 + θ_c is the angle of the corner's centre from the crown's axis z_c, χ ≥ 0 its place from the pitch element
/// [rad]: 0 touches the root cone. docs/theory/bevel.md.
struct CrownTrochoid {
  double pitch_cone;     ///< δ [rad]
  double corner_depth;   ///< θ_c, of the corner's centre below the pitch plane [rad]
  double corner_radius;  ///< ρ [rad], 0 or more
  double corner_angle;   ///< η, of the corner's centre from the middle of the crown's tooth [rad]
  double centre;         ///< azimuth of the middle of the tooth space [rad]
  int side;              ///< +1: counter-clockwise of the middle of the space; −1: clockwise

  Jet jet(double chi) const;
};

/// The path of a point of a circle ρ that rolls on the pitch circle r about the origin: outside it an epicycloid,
/// inside it a hypocycloid; or its parallel at a distance q.
///
///     p(u) = e^{i start} [(r ± ρ) e^{iθ} ∓ ρ e^{i(θ ± u)} + i q e^{i(θ ± u/2)}]*,   θ = ρ u/r
///
/// u ≥ 0 is the angle by which the circle has rolled [rad]; u = 0 is the cusp on the pitch circle. [ ]* is conjugated
/// for sense = −1. With q = 0 the tangent is 2ρ(1 ± ρ/r) sin(u/2) e^{i(θ ± u/2)}. docs/theory/cycloid.md.
struct Cycloid {
  double pitch_radius, rolling_radius;  ///< r, ρ [mm], above 0
  bool outside;
  double start;         ///< polar angle of the cusp [rad]
  int sense;            ///< +1: polar angle grows with u; −1: it falls
  double distance = 0;  ///< q, to the left of the path as it leaves the cusp outwards (sense +1) [mm]

  Jet jet(double u) const;
  Vec2 direction(double u) const;  ///< unit vector along ± the tangent, that at the cusp points outwards; turns evenly
  double speed(double u) const;    ///< |dp/du| along it, signed: 2ρ(1 ± ρ/r)(±sin(u/2)) − q(ρ/r ± ½) [mm/rad]
  /// u at which the speed changes its sign: before it a parallel runs backwards. None where it does nowhere.
  /// \returns π where it runs backwards all along
  std::optional<double> fold() const;
};

/// The edge of a disc that runs in a ring of rollers: the inner parallel, at the roller's radius, of the path of a
/// roller's centre seen from the disc.
///
///     q(t) = p − R_r (R e^{it} − E N e^{iNt})/S,  p = R e^{it} − E e^{iNt},  S = |R − E N e^{i(N−1)t}|
///
/// t runs once round for all lobes [rad]; t = 0 is a root. docs/theory/cycloid.md.
struct LobeCurve {
  double circle_radius;  ///< R, of the circle that the rollers stand on [mm]
  double eccentricity;   ///< E [mm]
  double roller_radius;  ///< R_r [mm]
  double rollers;        ///< N
  double start;          ///< polar angle of t = 0 [rad]

  Jet jet(double t) const;
};

/// An elliptic arc p(θ) = centre + u cos θ + v sin θ: a round of the normal section as the transverse section shows it.
struct EllipticArc {
  Vec2 centre, u, v;

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

using Curve = std::variant<Involute, Trochoid, CutterTrochoid, SphericalInvolute, CrownTrochoid, Cycloid, LobeCurve,
                           EllipticArc, Arc, Line>;

/// What a piece of an outline is for.
enum class Role { flank, root, tip, bore, body };  ///< body: the back of a rack, the rim of a ring
std::string_view name(Role role) noexcept;

/// A piece of a curve, traversed from parameter `from` to parameter `to` (which may be the smaller one).
struct Segment {
  Curve curve;
  double from, to;
  Role role;

  Jet jet(double t) const;                         ///< derivatives by the parameter itself
  Vec2 point(double t) const { return jet(t).p; }  ///< [mm]
  Vec2 tangent(double t) const;  ///< unit vector along the traversal; defined at an involute's cusp too
  Vec2 normal(double t) const { return normal(jet(t)); }  ///< unit vector out of the material
  Vec2 normal(const Jet& at) const;                       ///< the same of a jet of this segment
  double curvature(double t) const;  ///< [1/mm], positive where the material is convex; infinite at a cusp
  Vec2 first() const { return point(from); }
  Vec2 last() const { return point(to); }
  double sense() const noexcept { return to < from ? -1.0 : 1.0; }
};

/// The same segment turned about the origin by `angle` [rad].
Segment turned(const Segment& segment, double angle);

/// The same segment moved by `way` [mm]; straight and elliptic pieces and arcs only (those of a rack).
/// \throws std::logic_error for curves that belong to an axis
Segment moved(const Segment& segment, const Vec2& way);

/// The same segment larger about the origin, by `factor` above 0; every kind of curve keeps its kind.
Segment scaled(const Segment& segment, double factor);

/// The same segment traversed the other way: the material changes sides.
Segment reversed(const Segment& segment);

/// The segment mirrored at the x axis and traversed the other way, so that the material stays on its left.
Segment mirrored(const Segment& segment);

}  // namespace palio::curve
