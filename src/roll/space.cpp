#include "palio/roll/space.hpp"

#include <Eigen/Geometry>
#include <Eigen/LU>
#include <algorithm>
#include <boost/math/tools/minima.hpp>
#include <cmath>

#include <fmt/format.h>

#include "engagement.hpp"
#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "tally.hpp"

namespace palio::roll {
namespace {

/// Label R and place (and height w) of a point of the driver's patch in the driven's frame, with derivatives by u and z.
struct PatchJet {
  double R, P, w;
  double R_u, R_z, P_u, P_z, w_u, w_z;
  double R_uu, R_uz, R_zz, P_uu, P_uz, P_zz;
  Vec3 world, normal;  // outward of the driver
};

/// A segment of the driven's outline in its own chart.
struct CurveJet {
  double R, P, R1, P1, R2, P2;
};

constexpr int kAlong = 8, kAcross = 24;  // coarse grid on a patch: along the outline, along the axis

double wrapped(double angle, double near) { return angle - 2 * kPi * std::round((angle - near) / (2 * kPi)); }

class SpaceFinder {
 public:
  SpaceFinder(const Twisted& driver, const Twisted& driven, const Law& law) : driver_(driver), driven_(driven), law_(law) {
    pitch1_ = driver.outline.pitch(), pitch2_ = driven.outline.pitch();
    to_driven_ = driven.axis.axes.transpose();
    faces_ = std::atan2(driven.axis.origin.y(), driven.axis.origin.x());
    const Vec3 back = to_driven_ * (driver.axis.origin - driven.axis.origin);
    facing_ = std::atan2(back.y(), back.x());
    reach_ = 0, floor_ = 1e300;
    const auto table = [](const curve::Segment& s) {
      Table t;
      for (int i = 0; i <= 16; ++i) {
        const double at = i == 16 ? s.to : s.from + (s.to - s.from) * i / 16;
        const CurveJet c = chart(s, at);
        t.at.push_back(at), t.R.push_back(c.R), t.P.push_back(c.P);
      }
      t.level = std::abs(t.R.back() - t.R.front()) < 1e-9 * t.R.front();
      return t;
    };
    for (const curve::Segment& s : driven.outline.period) {
      tables_.push_back(table(s));
      for (const double R : tables_.back().R) reach_ = std::max(reach_, R), floor_ = std::min(floor_, R);
    }
    for (const curve::Segment& s : driver.outline.period) {
      if (Table t = table(s); !t.level) driver_tables_.push_back(std::move(t));
    }
    crest_ = 0;
    for (const curve::Segment& s : driver.outline.period) {
      crest_ = std::max({crest_, s.first().norm(), s.last().norm()});
      for (int i = 0; i <= kAlong; ++i) {
        const curve::Jet j = s.jet(s.from + (s.to - s.from) * i / kAlong);
        samples_.push_back({j.p, s.sense() * j.d1});
      }
    }
  }

  double nominal(double coordinate) const { return driven_.start + law_.ratio * (coordinate - driver_.start); }
  double pitch() const noexcept { return pitch1_; }
  double tooth_place(int tooth, double coordinate) const { return wrapped(coordinate + tooth * pitch1_, faces_); }

  Limit limit(Side side, double coordinate) const;
  /// Of the driver's crest over the driven's floor.
  double clearance(double coordinate) const;
  std::string describe(const Contact& c) const {
    return fmt::format("{} of {}, tooth {}, against {} of {}, tooth {}, at height {:.4g} mm", name(c.driver_role), driver_.name, c.driver_tooth,
                       name(c.driven_role), driven_.name, c.driven_tooth, c.height);
  }

 private:
  struct Table {
    std::vector<double> at, R, P;
    bool level;
  };
  struct Sample {  // of the driver's outline
    Vec2 p, along;
  };
  struct Coarse {  // a place of the driver's patch in the driven's frame
    double R, P, w;
    bool upper;  // stands in the way above
  };
  struct Candidate {
    const curve::Segment* driver;
    std::size_t driven;
    int driver_tooth, driven_tooth;
    double turn, nominal, gap, slack, u, z;
    bool both_flanks;
    bool u_from = false, u_to = false, z_low = false, z_high = false, R_low = false, R_high = false, w_low = false,
         w_high = false;  // edges near the coarse place
  };

  static CurveJet chart(const curve::Segment& s, double t) {
    const curve::Jet j = s.jet(t);
    const double R = j.p.norm(), R2 = R * R, R1 = j.p.dot(j.d1) / R, a1 = cross(j.p, j.d1) / R2;
    return {R, std::atan2(j.p.y(), j.p.x()), R1, a1, (j.d1.squaredNorm() + j.p.dot(j.d2) - R1 * R1) / R, cross(j.p, j.d2) / R2 - 2 * R1 * a1 / R};
  }

  PatchJet patch(const curve::Segment& s, double turn, double u, double z) const {
    const double k = driver_.twist, angle = turn + k * z, c = std::cos(angle), sn = std::sin(angle);
    const curve::Jet j = s.jet(u);
    const auto rot = [&](const Vec2& v) { return Vec2(c * v.x() - sn * v.y(), sn * v.x() + c * v.y()); };
    const Vec2 p = rot(j.p), d1 = rot(j.d1), d2 = rot(j.d2), k_p = k * quarter_turn(p), k_d1 = k * quarter_turn(d1);
    const Vec3 X(p.x(), p.y(), z), X_u(d1.x(), d1.y(), 0), X_z(k_p.x(), k_p.y(), 1);
    const Vec3 X_uu(d2.x(), d2.y(), 0), X_uz(k_d1.x(), k_d1.y(), 0), X_zz(-k * k * p.x(), -k * k * p.y(), 0);
    const Vec3 q = to_driven_ * (X - driven_.axis.origin), q_u = to_driven_ * X_u, q_z = to_driven_ * X_z;
    const Vec3 q_uu = to_driven_ * X_uu, q_uz = to_driven_ * X_uz, q_zz = to_driven_ * X_zz;
    const auto dot = [](const Vec3& a, const Vec3& b) { return a.x() * b.x() + a.y() * b.y(); };
    const auto wedge = [](const Vec3& a, const Vec3& b) { return a.x() * b.y() - a.y() * b.x(); };
    PatchJet r;
    const double R2 = dot(q, q), k2 = driven_.twist;
    r.R = std::sqrt(R2), r.w = q.z();
    r.P = wrapped(std::atan2(q.y(), q.x()), facing_) - k2 * q.z();
    r.R_u = dot(q, q_u) / r.R, r.R_z = dot(q, q_z) / r.R;
    const double t_u = wedge(q, q_u) / R2, t_z = wedge(q, q_z) / R2;
    r.w_u = q_u.z(), r.w_z = q_z.z();
    r.P_u = t_u - k2 * q_u.z(), r.P_z = t_z - k2 * q_z.z();
    r.R_uu = (dot(q_u, q_u) + dot(q, q_uu) - r.R_u * r.R_u) / r.R;
    r.R_uz = (dot(q_u, q_z) + dot(q, q_uz) - r.R_u * r.R_z) / r.R;
    r.R_zz = (dot(q_z, q_z) + dot(q, q_zz) - r.R_z * r.R_z) / r.R;
    r.P_uu = wedge(q, q_uu) / R2 - 2 * r.R_u * t_u / r.R - k2 * q_uu.z();
    r.P_uz = (wedge(q_z, q_u) + wedge(q, q_uz)) / R2 - 2 * r.R_z * t_u / r.R - k2 * q_uz.z();
    r.P_zz = wedge(q, q_zz) / R2 - 2 * r.R_z * t_z / r.R - k2 * q_zz.z();
    r.world = X;
    r.normal = (s.sense() * X_u.cross(X_z)).normalized();
    return r;
  }

  /// How fast the driven's place moves against the driver's outward normal there [mm per rad]: positive where the driver
  /// stands in the way of turning further.
  double closing(const PatchJet& p) const {
    const Vec3 axis = driven_.axis.axes.col(2);
    return -p.normal.dot(axis.cross(p.world - driven_.axis.origin));
  }

  bool on_driven_face(double w) const { return std::abs(w) <= driven_.face_width / 2 * (1 + 1e-12); }
  bool stands_in_way(const PatchJet& p, Side side) const { return (closing(p) > 0) == (side == Side::upper); }

  /// The parameter of the driven's segment at label R; none outside.
  std::optional<double> at_label(std::size_t segment, double R) const {
    const Table& t = tables_[segment];
    const curve::Segment& s = driven_.outline.period[segment];
    for (std::size_t i = 0; i + 1 < t.R.size(); ++i) {
      if ((t.R[i] - R) * (t.R[i + 1] - R) > 0) continue;
      double lo = t.at[i], hi = t.at[i + 1], x = lo + (hi - lo) * (t.R[i + 1] == t.R[i] ? 0.5 : (R - t.R[i]) / (t.R[i + 1] - t.R[i]));
      const bool rises = t.R[i + 1] > t.R[i];
      for (int k = 0; k < 60; ++k) {
        const CurveJet c = chart(s, x);
        const double f = c.R - R;
        if (f == 0) return x;
        ((f > 0) == rises ? hi : lo) = x;
        double next = x - f / c.R1;
        if (!(next > std::min(lo, hi) && next < std::max(lo, hi))) next = 0.5 * (lo + hi);
        if (std::abs(next - x) <= 1e-15 * std::max(1.0, std::abs(x))) return next;
        x = next;
      }
      return x;
    }
    return std::nullopt;
  }

  /// Signed way to contact (less is nearer) from the driver's point to a segment of the driven; none where it misses it.
  std::optional<double> way(const PatchJet& p, const Candidate& c, Side side) const {
    if (!on_driven_face(p.w) || !stands_in_way(p, side)) return std::nullopt;
    const auto t = at_label(c.driven, p.R);
    if (!t) return std::nullopt;
    const double sign = side == Side::upper ? 1 : -1;
    const double way = sign * (p.P - chart(driven_.outline.period[c.driven], *t).P - c.driven_tooth * pitch2_);
    const double P = chart(driven_.outline.period[c.driven], *t).P + c.driven_tooth * pitch2_ + c.nominal;
    return passed(way - sign * c.nominal, p.R, p.w, P, c.turn) ? std::nullopt : std::optional(way);
  }

  /// Far from the common normal a tooth may lie across the end of its mate, in the next space: then the driven's place,
  /// where the law has it, is behind the driver's and yet not inside the driver's material; nothing is in the way there.
  bool passed(double way_from_law, double R, double w, double P, double driver_turn) const {
    if (way_from_law >= -1e-9 * pitch2_) return false;
    const double angle = P + driven_.twist * w;
    const Vec3 X = driven_.axis.origin + driven_.axis.axes * Vec3(R * std::cos(angle), R * std::sin(angle), w);
    const double r = std::hypot(X.x(), X.y()), seen = std::atan2(X.y(), X.x()) - driver_turn - driver_.twist * X.z();
    const double off = seen - pitch1_ * std::round(seen / pitch1_);
    if (r > crest_) return true;
    constexpr double kTable = 1e-3;  // what the sampled outline may be off [pitches]
    for (const double turn : {-pitch1_, 0.0, pitch1_}) {
      double from = -kInfinite, to = kInfinite;
      for (const Table& t : driver_tables_) {
        for (std::size_t i = 0; i + 1 < t.R.size(); ++i) {
          if ((t.R[i] - r) * (t.R[i + 1] - r) > 0 || t.R[i] == t.R[i + 1]) continue;
          const double place = t.P[i] + (t.P[i + 1] - t.P[i]) * (r - t.R[i]) / (t.R[i + 1] - t.R[i]) + turn;
          if (t.R[i + 1] > t.R[i]) from = std::max(from, place);
          else to = std::min(to, place);
        }
      }
      if (!std::isfinite(from) && !std::isfinite(to)) return false;  // below all flanks: inside the body
      if (off > from - kTable * pitch1_ && off < to + kTable * pitch1_) return false;
    }
    return true;
  }

  int partner(Side side, int tooth, double coordinate) const {
    const double beside = facing_ + (side == Side::upper ? -0.5 : 0.5) * pitch2_;
    const double at_facing = std::round((beside - nominal(faces_)) / pitch2_);
    const int turns = static_cast<int>(std::lround((coordinate + tooth * pitch1_ - tooth_place(tooth, coordinate)) / pitch1_));
    return static_cast<int>(at_facing) + (tooth - turns) * (law_.ratio < 0 ? -1 : 1);
  }

  void candidates(Side side, double coordinate, std::vector<Candidate>& all) const;
  void refine(const Candidate& c, Side side, double best, std::vector<Contact>& found) const;
  std::optional<std::array<double, 3>> tangency(const Candidate& c, double u, double z) const;
  Contact contact(const Candidate& c, Side side, double u, double z, double way, bool tangent) const {
    const PatchJet p = patch(*c.driver, c.turn, u, z);
    const int teeth = driven_.outline.count;
    return {side == Side::upper ? way : -way,
            Vec2(p.world.x(), p.world.y()),
            Vec2(-p.normal.x(), -p.normal.y()),
            std::abs(closing(p)),
            c.driver->role,
            driven_.outline.period[c.driven].role,
            c.driver_tooth,
            ((c.driven_tooth % teeth) + teeth) % teeth,
            tangent,
            p.world.z()};
  }

  const Twisted &driver_, &driven_;
  const Law& law_;
  double pitch1_, pitch2_, faces_, facing_, reach_, floor_, crest_;
  Eigen::Matrix3d to_driven_;
  std::vector<Table> tables_, driver_tables_;
  std::vector<Sample> samples_;
};

void SpaceFinder::candidates(Side side, double coordinate, std::vector<Candidate>& all) const {
  const double sign = side == Side::upper ? 1 : -1, half = driver_.face_width / 2, k = driver_.twist;
  const Vec3 axis = to_driven_.row(2).transpose();  // of the driven, in the driver's frame
  Coarse grid[kAlong + 1][kAcross + 1];
  double cosine[kAcross + 1], sine[kAcross + 1];
  for (int tooth = 0; tooth < driver_.outline.count; ++tooth) {
    const double turn = coordinate + tooth * pitch1_;
    // A tooth that nowhere along the face comes near the other axis is passed over.
    bool near = false;
    for (int j = 0; j <= kAcross; ++j) {
      const double z = -half + 2 * half * j / kAcross, angle = turn + k * z;
      cosine[j] = std::cos(angle), sine[j] = std::sin(angle);
      const Vec3 q = to_driven_ * (Vec3(crest_ * cosine[j], crest_ * sine[j], z) - driven_.axis.origin);
      near = near || q.head<2>().norm() < reach_ + 0.25 * crest_ * pitch1_;
    }
    if (!near) continue;
    const int mate = partner(side, tooth, coordinate);
    for (std::size_t part = 0; part < driver_.outline.period.size(); ++part) {
      const curve::Segment& s = driver_.outline.period[part];
      for (int i = 0; i <= kAlong; ++i) {
        const Sample& own = samples_[part * (kAlong + 1) + i];
        for (int j = 0; j <= kAcross; ++j) {
          const double c = cosine[j], sn = sine[j];
          const Vec2 p(c * own.p.x() - sn * own.p.y(), sn * own.p.x() + c * own.p.y()),
              t(c * own.along.x() - sn * own.along.y(), sn * own.along.x() + c * own.along.y());
          const Vec3 X(p.x(), p.y(), -half + 2 * half * j / kAcross), arm = X - driven_.axis.origin, q = to_driven_ * arm;
          const Vec3 normal(t.y(), -t.x(), k * (t.x() * p.x() + t.y() * p.y()));
          grid[i][j] = {std::hypot(q.x(), q.y()), wrapped(std::atan2(q.y(), q.x()), facing_) - driven_.twist * q.z(), q.z(), -normal.dot(axis.cross(arm)) > 0};
        }
      }
      for (std::size_t d = 0; d < tables_.size(); ++d) {
        const Table& t = tables_[d];
        if (t.level) continue;
        // Material on the left: a piece that falls in label has it at smaller places and is stopped from above.
        if ((t.R.back() < t.R.front()) != (side == Side::upper)) continue;
        const auto [low, high] = std::minmax(t.R.front(), t.R.back());
        double ways[kAlong + 1][kAcross + 1];
        Candidate c{&s,
                    d,
                    tooth,
                    mate,
                    turn,
                    nominal(coordinate),
                    kInfinite,
                    0,
                    0,
                    0,
                    s.role == curve::Role::flank && driven_.outline.period[d].role == curve::Role::flank};
        int bi = -1, bj = -1;
        const double edge = 0.15 * (high - low);
        for (int i = 0; i <= kAlong; ++i) {
          for (int j = 0; j <= kAcross; ++j) {
            const Coarse& p = grid[i][j];
            ways[i][j] = kInfinite;
            // A little beyond the ends of the segment still guides to an edge.
            if (p.R < low - edge || p.R > high + edge || std::abs(p.w) > 0.55 * driven_.face_width || p.upper != (side == Side::upper)) continue;
            const double R = std::clamp(p.R, low, high);
            std::size_t m = 0;
            while (m + 2 < t.R.size() && (t.R[m] - R) * (t.R[m + 1] - R) > 0) ++m;
            const double width = t.R[m + 1] - t.R[m], P = width == 0 ? t.P[m] : t.P[m] + (t.P[m + 1] - t.P[m]) * (R - t.R[m]) / width;
            const double way = sign * (p.P - P - mate * pitch2_);
            if (passed(way - sign * nominal(coordinate), p.R, p.w, P + mate * pitch2_ + nominal(coordinate), coordinate)) continue;
            ways[i][j] = way;
            if (ways[i][j] < c.gap) c.gap = ways[i][j], bi = i, bj = j;
          }
        }
        if (bi < 0 || sign * nominal(coordinate) + 1.5 * pitch2_ < c.gap) continue;
        for (int i = std::max(0, bi - 1); i <= std::min(kAlong, bi + 1); ++i) {
          for (int j = std::max(0, bj - 1); j <= std::min(kAcross, bj + 1); ++j) {
            const Coarse& p = grid[i][j];
            c.R_low |= p.R<low, c.R_high |= p.R> high;
            c.w_low |= p.w<-driven_.face_width / 2, c.w_high |= p.w> driven_.face_width / 2;
            if ((i == bi || j == bj) && std::isfinite(ways[i][j])) c.slack = std::max(c.slack, ways[i][j] - c.gap);
          }
        }
        c.u_from = bi <= 1, c.u_to = bi >= kAlong - 1, c.z_low = bj <= 1, c.z_high = bj >= kAcross - 1;
        c.slack = 1.5 * c.slack + 0.02 * pitch2_;
        c.u = s.from + (s.to - s.from) * bi / kAlong, c.z = -half + 2 * half * bj / kAcross;
        all.push_back(c);
      }
    }
  }
}

/// u, z, t with equal label and both derivatives of the way zero; none when it lies outside the patches.
std::optional<std::array<double, 3>> SpaceFinder::tangency(const Candidate& c, double u, double z) const {
  const curve::Segment &a = *c.driver, &b = driven_.outline.period[c.driven];
  const Table& table = tables_[c.driven];
  const PatchJet first = patch(a, c.turn, u, z);
  const auto [low, high] = std::minmax(table.R.front(), table.R.back());
  double t = at_label(c.driven, std::clamp(first.R, low, high)).value_or(0.5 * (b.from + b.to));
  const double span_u = std::abs(a.to - a.from), span_t = std::abs(b.to - b.from);
  const auto inside = [](double x, double p, double q, double by) { return x >= std::min(p, q) - by && x <= std::max(p, q) + by; };
  for (int i = 0; i < 40; ++i) {
    const PatchJet p = patch(a, c.turn, u, z);
    const CurveJet q = chart(b, t);
    const Eigen::Vector3d f(p.R - q.R, p.P_u * q.R1 - q.P1 * p.R_u, p.P_z * q.R1 - q.P1 * p.R_z);
    Eigen::Matrix3d J;
    J << p.R_u, p.R_z, -q.R1,                                                                       //
        p.P_uu * q.R1 - q.P1 * p.R_uu, p.P_uz * q.R1 - q.P1 * p.R_uz, p.P_u * q.R2 - q.P2 * p.R_u,  //
        p.P_uz * q.R1 - q.P1 * p.R_uz, p.P_zz * q.R1 - q.P1 * p.R_zz, p.P_z * q.R2 - q.P2 * p.R_z;
    Eigen::Vector3d d = J.partialPivLu().solve(f);
    if (!d.allFinite()) return std::nullopt;
    const double cap = std::max({std::abs(d[0]) / span_u, std::abs(d[1]) / driver_.face_width, std::abs(d[2]) / span_t});
    if (cap > 0.2) d *= 0.2 / cap;
    u -= d[0], z -= d[1], t -= d[2];
    if (!inside(u, a.from, a.to, span_u) || std::abs(z) > driver_.face_width || !inside(t, b.from, b.to, span_t)) return std::nullopt;
    if (cap < 1e-9) {
      if (!inside(u, a.from, a.to, 0) || std::abs(z) > driver_.face_width / 2 || !inside(t, b.from, b.to, 0)) return std::nullopt;
      return std::array<double, 3>{u, z, t};
    }
  }
  return std::nullopt;
}

void SpaceFinder::refine(const Candidate& c, Side side, double best, std::vector<Contact>& found) const {
  const double sign = side == Side::upper ? 1 : -1, half = driver_.face_width / 2;
  std::optional<std::array<double, 3>> at = tangency(c, c.u, c.z);
  // A start from the next places of the grid, where the first strays.
  const double step_u = (c.driver->to - c.driver->from) / kAlong, step_z = driver_.face_width / kAcross;
  for (const auto& [du, dz] :
       {std::pair{1.0, 0.0}, {-1.0, 0.0}, {0.0, 1.0}, {0.0, -1.0}, {2.0, 0.0}, {-2.0, 0.0}, {1.0, 1.0}, {1.0, -1.0}, {-1.0, 1.0}, {-1.0, -1.0}}) {
    if (!at && c.both_flanks) at = tangency(c, c.u + du * step_u, c.z + dz * step_z);
  }
  if (at) {
    const PatchJet p = patch(*c.driver, c.turn, (*at)[0], (*at)[1]);
    if (on_driven_face(p.w) && stands_in_way(p, side)) {
      const double w = sign * (p.P - chart(driven_.outline.period[c.driven], (*at)[2]).P - c.driven_tooth * pitch2_);
      found.push_back(contact(c, side, (*at)[0], (*at)[1], w, true));
      return;
    }
  }
  // Edge–patch: the way along each edge of both patches, where it is least.
  const curve::Segment& a = *c.driver;
  const auto along = [&](auto point, double from, double to) {
    constexpr int kLooks = 12;
    const auto value = [&](double x) {
      const std::optional<Vec2> spot = point(x);
      return spot ? way(patch(a, c.turn, spot->x(), spot->y()), c, side).value_or(1e3) : 1e3;
    };
    double least = 1e3, place = from;
    for (int i = 0; i <= kLooks; ++i) {
      const double x = from + (to - from) * i / kLooks, v = value(x);
      if (v < least) least = v, place = x;
    }
    if (least >= 1e3 || least - c.slack > best) return;
    const double step = (to - from) / kLooks;
    const auto [lo, hi] =
        std::minmax({std::clamp(place - step, std::min(from, to), std::max(from, to)), std::clamp(place + step, std::min(from, to), std::max(from, to))});
    boost::uintmax_t steps = 60;
    const auto refined = boost::math::tools::brent_find_minima(value, lo, hi, 40, steps);
    if (refined.second < least) place = refined.first, least = refined.second;
    const Vec2 spot = *point(place);
    found.push_back(contact(c, side, spot.x(), spot.y(), least, false));
  };
  // Only near the coarse place, and only the edges that are near it.
  const double z_from = std::max(-half, c.z - 2 * step_z), z_to = std::min(half, c.z + 2 * step_z);
  const double lo_u = std::min(a.from, a.to), hi_u = std::max(a.from, a.to);
  const double u_from = std::clamp(c.u - 2 * step_u, lo_u, hi_u), u_to = std::clamp(c.u + 2 * step_u, lo_u, hi_u);
  for (const auto& [near, u] : {std::pair{c.u_from, a.from}, {c.u_to, a.to}}) {
    if (near) along([u = u](double z) { return std::optional<Vec2>(Vec2(u, z)); }, z_from, z_to);
  }
  for (const auto& [near, z] : {std::pair{c.z_low, -half}, {c.z_high, half}}) {
    if (near) along([z = z](double u) { return std::optional<Vec2>(Vec2(u, z)); }, u_from, u_to);
  }
  // The driven's own edges: equal label with an end of its segment, or its end faces.
  // A root by false position with the stale end's value halved: few evaluations, always bracketed.
  const auto solve = [](auto f, double lo, double hi) -> std::optional<double> {
    double f_lo = f(lo), f_hi = f(hi);
    if (f_lo * f_hi > 0) return std::nullopt;
    if (f_lo == 0) return lo;
    int stale = 0;
    double x = hi;
    for (int i = 0; i < 60 && std::abs(hi - lo) > 1e-15 * (std::abs(lo) + std::abs(hi)); ++i) {
      x = (lo * f_hi - hi * f_lo) / (f_hi - f_lo);
      const double v = f(x);
      if (std::abs(v) < 1e-14) break;
      if ((v > 0) == (f_lo > 0)) {
        lo = x, f_lo = v;
        if (stale == 1) f_hi /= 2;
        stale = 1;
      } else {
        hi = x, f_hi = v;
        if (stale == -1) f_lo /= 2;
        stale = -1;
      }
    }
    return x;
  };
  const Table& table = tables_[c.driven];
  const auto [low, high] = std::minmax(table.R.front(), table.R.back());
  for (const auto& [near, R] : {std::pair{c.R_low, low}, {c.R_high, high}}) {
    if (!near) continue;
    const double inside = R + 1e-13 * ((low + high) / 2 - R);  // a hair inside, so that the place on the driven's curve exists
    along(
        [&, inside](double z) -> std::optional<Vec2> {
          const auto u = solve([&](double x) { return patch(a, c.turn, x, z).R - inside; }, u_from, u_to);
          return u ? std::optional<Vec2>(Vec2(*u, z)) : std::nullopt;
        },
        z_from, z_to);
  }
  for (const auto& [near, w] : {std::pair{c.w_low, -driven_.face_width / 2}, {c.w_high, driven_.face_width / 2}}) {
    if (!near) continue;
    along(
        [&, end = w](double u) -> std::optional<Vec2> {
          const auto z = solve([&](double x) { return patch(a, c.turn, u, x).w - end; }, z_from, z_to);
          return z ? std::optional<Vec2>(Vec2(u, *z)) : std::nullopt;
        },
        u_from, u_to);
  }
}

Limit SpaceFinder::limit(Side side, double coordinate) const {
  const double sign = side == Side::upper ? 1 : -1;
  std::vector<Candidate> all;
  candidates(side, coordinate, all);
  std::sort(all.begin(), all.end(), [](const Candidate& a, const Candidate& b) { return a.gap < b.gap; });
  std::vector<Contact> found;
  double best = kInfinite;
  for (const Candidate& c : all) {
    if (c.gap - c.slack > best) continue;
    const std::size_t before = found.size();
    refine(c, side, best, found);
    for (std::size_t i = before; i < found.size(); ++i) best = std::min(best, sign * found[i].driven);
  }
  Limit result;
  for (const Contact& c : found) {
    if (!result.first || sign * c.driven < sign * result.first->driven) result.first = c;
  }
  for (const Contact& c : found) {
    if (c.flank_on_flank() && sign * (c.driven - result.first->driven) * c.arm <= law_.touch_mm) result.touching.push_back(c);
  }
  return result;
}

double SpaceFinder::clearance(double coordinate) const {
  // Along the axis, the crest's place nearest to the other axis.
  double least = kInfinite;
  for (const curve::Segment& s : driver_.outline.period) {
    if (std::max(s.first().norm(), s.last().norm()) < crest_ - 1e-9) continue;
    for (int tooth = 0; tooth < driver_.outline.count; ++tooth) {
      const double turn = coordinate + tooth * pitch1_;
      const auto at = [&](double z) {
        double u = s.first().norm() >= crest_ - 1e-9 ? s.from : s.to;
        if (std::holds_alternative<curve::Arc>(s.curve) && std::abs(std::get<curve::Arc>(s.curve).radius - crest_) < 1e-9) {
          u = std::clamp(wrapped(faces_ - turn - driver_.twist * z, 0), std::min(s.from, s.to), std::max(s.from, s.to));
        }
        return patch(s, turn, u, z).R;
      };
      for (int j = 0; j < kAcross; ++j) {
        const double lo = driver_.face_width * (static_cast<double>(j) / kAcross - 0.5), hi = lo + driver_.face_width / kAcross;
        if (std::min(at(lo), at(hi)) > least + crest_ * pitch1_) continue;
        boost::uintmax_t steps = 30;
        least = std::min({least, at(lo), at(hi), boost::math::tools::brent_find_minima(at, lo, hi, 26, steps).second});
      }
    }
  }
  return least - floor_;
}

}  // namespace

Axis crossed_axis(double direction, double a, double shaft_angle, double offset) {
  const Vec3 normal(std::cos(direction), std::sin(direction), 0);
  const Eigen::Matrix3d axes = Eigen::AngleAxisd(-shaft_angle, normal).toRotationMatrix();
  return {a * normal + offset * axes.col(2), axes};
}

Result roll(const Twisted& driver, const Twisted& driven, const Law& law) {
  if (law.positions < 8 || law.positions > 1000000) {
    throw InvalidParameter("positions", fmt::format("{}", law.positions), "it lies between 8 and 1000000", "leave it out for 360");
  }
  const SpaceFinder finder(driver, driven, law);
  // The other gear's crest over this one's floor is seen from its own side.
  const Axis seen{-(driven.axis.axes.transpose() * driven.axis.origin), driven.axis.axes.transpose()};
  const Twisted mover{driven.name, driven.outline, driven.twist, driven.face_width, {}, driven.start};
  const Twisted held{driver.name, driver.outline, driver.twist, driver.face_width, seen, driver.start};
  const SpaceFinder from_driven(mover, held, law);

  Result result{};
  result.drives_upper = law.ratio < 0;
  const Side pushed = result.drives_upper ? Side::upper : Side::lower;
  Tally tally(driver.name, driven.name, law, [&](const Contact& c) { return finder.describe(c); });
  std::vector<double> at;
  std::vector<std::vector<ToothPair>> touching;
  for (int i = 0; i <= law.positions; ++i) {
    const double coordinate = driver.start + finder.pitch() * i / law.positions;
    Limit upper = finder.limit(Side::upper, coordinate), lower = finder.limit(Side::lower, coordinate);
    at.push_back(coordinate);
    touching.push_back(touching_pairs((pushed == Side::upper ? upper : lower).touching));
    if (i == law.positions) break;  // the first position again, one tooth on: closes the period
    Position p{};
    p.driver = coordinate;
    p.upper = upper.first, p.lower = lower.first;
    p.pairs_upper = static_cast<int>(touching_pairs(upper.touching).size()), p.pairs_lower = static_cast<int>(touching_pairs(lower.touching).size());
    p.touching_upper = std::move(upper.touching), p.touching_lower = std::move(lower.touching);
    const double nominal = finder.nominal(coordinate), middle = p.play() ? 0.5 * (p.upper->driven + p.lower->driven) : nominal;
    p.tip_clearance = {finder.clearance(coordinate), from_driven.clearance(middle)};
    tally.add(p, nominal, result.drives_upper);
    result.positions.push_back(std::move(p));
  }
  const Engagement engaged(
      at, touching, [&](int tooth, double coordinate) { return finder.tooth_place(tooth, coordinate); },
      [&](double coordinate) { return touching_pairs(finder.limit(pushed, coordinate).touching); });
  result.pairs_mean = engaged.mean();
  result.lost_share = engaged.lost_share();
  tally.finish(result);
  return result;
}

}  // namespace palio::roll
