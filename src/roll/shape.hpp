// Screw surfaces and cones as the roll in space sees them. Private to the roll.
#pragma once

#include <algorithm>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/math/extent.hpp"
#include "palio/roll/space.hpp"

namespace palio::roll {

inline double wrapped(double angle, double near) { return angle - 2 * kPi * std::round((angle - near) / (2 * kPi)); }

/// A point of a surface with its derivatives by the outline's parameter u and by z.
struct SurfaceJet {
  Vec3 X, u, z, uu, uz, zz;
};

/// Label and own z of a point of a surface, with the derivatives of label, place and own z.
struct ChartedJet {
  double R, w;
  double R_u, R_z, P_u, P_z, w_u, w_z;
  double R_uu, R_uz, R_zz, P_uu, P_uz, P_zz;
};

/// A point of the outline with the direction of its traversal.
struct Sample {
  Vec2 p, along;
};

namespace charted {

inline double dot(const Vec3& a, const Vec3& b) { return a.x() * b.x() + a.y() * b.y(); }
inline double wedge(const Vec3& a, const Vec3& b) { return a.x() * b.y() - a.y() * b.x(); }

/// With the distance from the z axis, polar angle and height.
inline ChartedJet cylindrical(const SurfaceJet& q) {
  ChartedJet r;
  const double R2 = dot(q.X, q.X);
  r.R = std::sqrt(R2), r.w = q.X.z();
  r.R_u = dot(q.X, q.u) / r.R, r.R_z = dot(q.X, q.z) / r.R;
  r.P_u = wedge(q.X, q.u) / R2, r.P_z = wedge(q.X, q.z) / R2;
  r.w_u = q.u.z(), r.w_z = q.z.z();
  r.R_uu = (dot(q.u, q.u) + dot(q.X, q.uu) - r.R_u * r.R_u) / r.R;
  r.R_uz = (dot(q.u, q.z) + dot(q.X, q.uz) - r.R_u * r.R_z) / r.R;
  r.R_zz = (dot(q.z, q.z) + dot(q.X, q.zz) - r.R_z * r.R_z) / r.R;
  r.P_uu = wedge(q.X, q.uu) / R2 - 2 * r.R_u * r.P_u / r.R;
  r.P_uz = (wedge(q.z, q.u) + wedge(q.X, q.uz)) / R2 - 2 * r.R_z * r.P_u / r.R;
  r.P_zz = wedge(q.X, q.zz) / R2 - 2 * r.R_z * r.P_z / r.R;
  return r;
}

}  // namespace charted

/// Of a twisted member: label is the distance from the axis, z the height over mid-face.
class Screw {
 public:
  explicit Screw(const Twisted& m) : m_(m) {}
  const Twisted& member() const noexcept { return m_; }
  double low() const noexcept { return -m_.face_width / 2; }
  double high() const noexcept { return m_.face_width / 2; }
  double crest(double) const noexcept { return math::kInfinite; }  // outlines end where teeth do
  double angle(double turn, double z) const noexcept { return turn + m_.twist * z; }
  /// Where the mate lies, seen from a member.
  static Vec3 towards(const Axis& mate) { return mate.origin; }
  static Vec3 back(const Axis& own) { return own.axes.transpose() * -own.origin; }

  SurfaceJet surface(const curve::Jet& j, double turn, double z) const {
    const double k = m_.twist;
    const Vec2 x = from_polar(1, angle(turn, z));
    const Vec2 p = turned(j.p, x), d1 = turned(j.d1, x), d2 = turned(j.d2, x), k_p = k * quarter_turn(p),
               k_d1 = k * quarter_turn(d1);
    return {{p.x(), p.y(), z},   {d1.x(), d1.y(), 0},     {k_p.x(), k_p.y(), 1},
            {d2.x(), d2.y(), 0}, {k_d1.x(), k_d1.y(), 0}, {-k * k * p.x(), -k * k * p.y(), 0}};
  }
  /// A sample (turned already) at z: the point, and a vector along the outward normal.
  void place(const Vec2& p, const Vec2& t, double z, Vec3& X, Vec3& normal) const {
    X = Vec3(p.x(), p.y(), z);
    normal = Vec3(t.y(), -t.x(), m_.twist * (t.x() * p.x() + t.y() * p.y()));
  }
  ChartedJet chart(const SurfaceJet& q) const {
    ChartedJet r = charted::cylindrical(q);
    const double k = m_.twist;
    r.P_u -= k * q.u.z(), r.P_z -= k * q.z.z();
    r.P_uu -= k * q.uu.z(), r.P_uz -= k * q.uz.z(), r.P_zz -= k * q.zz.z();
    return r;
  }
  double label(const Vec3& q) const { return std::sqrt(charted::dot(q, q)); }
  /// In a ball.
  double least_label(const Vec3& middle, double radius) const { return label(middle) - radius; }
  double least_over(const Vec3& middle, double radius, double floor) const {
    return least_label(middle, radius) - floor;
  }
  double own_z(const Vec3& q) const { return q.z(); }
  double place(const Vec3& q, double near) const { return wrapped(std::atan2(q.y(), q.x()), near) - m_.twist * q.z(); }
  Vec3 point(double R, double P, double w) const {
    const double a = P + m_.twist * w;
    return {R * std::cos(a), R * std::sin(a), w};
  }
  /// How far a point lies over the label of the floor [mm].
  double over(const Vec3& q, double floor) const { return label(q) - floor; }

 private:
  const Twisted& m_;
};

/// Of a cone: label is tan(δ/2), z the cone distance.
class Cone {
 public:
  explicit Cone(const Coned& m)
      : m_(m),
        s_(m.pitch_cone ? std::sin(m.pitch_cone->radians()) : 0),
        c_(m.pitch_cone ? std::cos(m.pitch_cone->radians()) : 0) {}
  const Coned& member() const noexcept { return m_; }
  double low() const noexcept { return m_.inner; }
  double high() const noexcept { return m_.outer; }
  double crest(double z) const { return m_.crest(z); }
  double angle(double turn, double) const noexcept { return turn; }
  static Vec3 towards(const Axis& mate) { return mate.axes.col(2); }
  static Vec3 back(const Axis& own) { return own.axes.transpose() * Vec3::UnitZ(); }

  SurfaceJet surface(const curve::Jet& own, double turn, double z) const {
    const Vec2 x = from_polar(1, turn);
    const Vec2 p = turned(own.p, x), p1 = turned(own.d1, x), p2 = turned(own.d2, x);
    // D = (2p, 1 − p²)/(1 + p²), then E = D/W(D), W = sin δ_p r + cos δ_p D_z; X = z E.
    const double n = 1 + p.squaredNorm(), n1 = 2 * p.dot(p1), n2 = 2 * (p1.squaredNorm() + p.dot(p2));
    const Vec3 N(2 * p.x(), 2 * p.y(), 2 - n), N1(2 * p1.x(), 2 * p1.y(), -n1), N2(2 * p2.x(), 2 * p2.y(), -n2);
    const Vec3 D = N / n, D1 = (N1 - n1 * D) / n, D2 = (N2 - 2 * n1 * D1 - n2 * D) / n;
    if (!m_.pitch_cone) return {z * D, z * D1, D, z * D2, D1, Vec3::Zero()};
    const double r = std::hypot(D.x(), D.y()), r1 = charted::dot(D, D1) / r,
                 r2 = (charted::dot(D1, D1) + charted::dot(D, D2) - r1 * r1) / r;
    const double W = s_ * r + c_ * D.z(), W1 = s_ * r1 + c_ * D1.z(), W2 = s_ * r2 + c_ * D2.z();
    const Vec3 E = D / W, E1 = (D1 - W1 * E) / W, E2 = (D2 - 2 * W1 * E1 - W2 * E) / W;
    return {z * E, z * E1, E, z * E2, E1, Vec3::Zero()};
  }
  void place(const Vec2& p, const Vec2& t, double z, Vec3& X, Vec3& normal) const {
    const double n = 1 + p.squaredNorm();
    const Vec3 D = Vec3(2 * p.x(), 2 * p.y(), 2 - n) / n,
               D1 = (Vec3(2 * t.x(), 2 * t.y(), -2 * p.dot(t)) - 2 * p.dot(t) * D) / n;
    X = z / weight(D) * D;
    normal = D1.cross(D);
  }
  ChartedJet chart(const SurfaceJet& q) const {
    ChartedJet r = charted::cylindrical(q);
    // From the distance r from the axis to r/(d + z); cone distance from both.
    const double d = q.X.norm(), h = d + q.X.z();
    const double d_u = q.X.dot(q.u) / d, d_z = q.X.dot(q.z) / d, h_u = d_u + q.u.z(), h_z = d_z + q.z.z();
    const double h_uu = (q.u.dot(q.u) + q.X.dot(q.uu) - d_u * d_u) / d + q.uu.z(),
                 h_uz = (q.u.dot(q.z) + q.X.dot(q.uz) - d_u * d_z) / d + q.uz.z(),
                 h_zz = (q.z.dot(q.z) + q.X.dot(q.zz) - d_z * d_z) / d + q.zz.z();
    r.w = m_.pitch_cone ? s_ * r.R + c_ * q.X.z() : d;
    r.w_u = m_.pitch_cone ? s_ * r.R_u + c_ * q.u.z() : d_u;
    r.w_z = m_.pitch_cone ? s_ * r.R_z + c_ * q.z.z() : d_z;
    const double L = r.R / h, L_u = (r.R_u - L * h_u) / h, L_z = (r.R_z - L * h_z) / h;
    r.R_uu = (r.R_uu - 2 * L_u * h_u - L * h_uu) / h;
    r.R_uz = (r.R_uz - L_u * h_z - L_z * h_u - L * h_uz) / h;
    r.R_zz = (r.R_zz - 2 * L_z * h_z - L * h_zz) / h;
    r.R = L, r.R_u = L_u, r.R_z = L_z;
    return r;
  }
  double label(const Vec3& q) const { return std::hypot(q.x(), q.y()) / (q.norm() + q.z()); }
  /// In a ball: of the direction from the apex nearest to the axis.
  double least_label(const Vec3& middle, double radius) const {
    const double distance = middle.norm();
    if (radius >= distance) return 0;
    return std::tan(std::max(0.0, std::acos(middle.z() / distance) - std::asin(radius / distance)) / 2);
  }
  double least_over(const Vec3&, double, double) const { return -math::kInfinite; }
  double own_z(const Vec3& q) const { return m_.pitch_cone ? s_ * std::hypot(q.x(), q.y()) + c_ * q.z() : q.norm(); }
  double place(const Vec3& q, double near) const { return wrapped(std::atan2(q.y(), q.x()), near); }
  Vec3 point(double R, double P, double w) const {
    const Vec3 D = Vec3(2 * R * std::cos(P), 2 * R * std::sin(P), 1 - R * R) / (1 + R * R);
    return w / weight(D) * D;
  }
  double over(const Vec3& q, double floor) const { return 2 * (std::atan(label(q)) - std::atan(floor)) * q.norm(); }

 private:
  double weight(const Vec3& D) const { return m_.pitch_cone ? s_ * std::hypot(D.x(), D.y()) + c_ * D.z() : 1; }
  const Coned& m_;
  double s_, c_;
};

}  // namespace palio::roll
