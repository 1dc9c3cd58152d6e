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
#include "shape.hpp"
#include "tally.hpp"

namespace palio::roll {
namespace {

/// A point of the driver's patch as the driven sees it.
struct PatchJet : ChartedJet {
  Vec3 world, normal;  // outward of the driver
};

/// A segment of the driven's outline in its own chart.
struct CurveJet {
  double R, P, R1, P1, R2, P2;
};

constexpr int kAlong = 8, kAcross = 24;  // coarse grid on a patch: along the outline, along the axis
constexpr double kNearby =
    0.25;  // of a piece along the axis: how much further off it may end and is still looked at closely

/// Shape: Screw or Cone.
template <class Shape>
class SpaceFinder {
 public:
  using Part = std::decay_t<decltype(std::declval<Shape>().member())>;
  SpaceFinder(const Part& driver, const Part& driven, const Law& law)
      : driver_(driver), driven_(driven), first_(driver), second_(driven), law_(law) {
    pitch1_ = driver.outline.pitch(), pitch2_ = driven.outline.pitch();
    to_driven_ = driven.axis.axes.transpose();
    const Vec3 towards = Shape::towards(driven.axis), back = Shape::back(driven.axis);
    faces_ = std::atan2(towards.y(), towards.x());
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
      for (const double R : tables_.back().R)
        reach_ = std::max(reach_, R), floor_ = std::min(floor_, R);
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
    return fmt::format("{} of {}, tooth {}, against {} of {}, tooth {}, at height {:.4g} mm", name(c.driver_role),
                       driver_.name, c.driver_tooth, name(c.driven_role), driven_.name, c.driven_tooth, c.height);
  }

 private:
  struct Table {
    std::vector<double> at, R, P;
    bool level;
  };
  struct Coarse {  // a place of the driver's patch in the driven's frame
    double R, P, w;
    bool upper;    // stands in the way above
    double crest;  // how far out the driven's flanks reach there
    bool within;   // the driver's reach as far, or nearly
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
    return {R,
            std::atan2(j.p.y(), j.p.x()),
            R1,
            a1,
            (j.d1.squaredNorm() + j.p.dot(j.d2) - R1 * R1) / R,
            cross(j.p, j.d2) / R2 - 2 * R1 * a1 / R};
  }

  PatchJet patch(const curve::Segment& s, double turn, double u, double z) const {
    const SurfaceJet X = first_.surface(s.jet(u), turn, z);
    const Vec3 q = to_driven_ * (X.X - driven_.axis.origin);
    PatchJet r;
    static_cast<ChartedJet&>(r) = second_.chart(
        {q, to_driven_ * X.u, to_driven_ * X.z, to_driven_ * X.uu, to_driven_ * X.uz, to_driven_ * X.zz}, facing_);
    r.world = X.X;
    r.normal = (s.sense() * X.u.cross(X.z)).normalized();
    return r;
  }

  /// How fast the driven's place moves against the driver's outward normal there [mm per rad]: positive where the
  /// driver stands in the way of turning further.
  double closing(const PatchJet& p) const {
    const Vec3 axis = driven_.axis.axes.col(2);
    return -p.normal.dot(axis.cross(p.world - driven_.axis.origin));
  }

  bool on_driven_face(double w) const {
    const double hair = 1e-12 * (second_.high() - second_.low());
    return w >= second_.low() - hair && w <= second_.high() + hair;
  }
  /// Whether the driver's flanks reach as far out as that place of them.
  bool on_driver(const curve::Segment& s, double u, double z) const {
    const double crest = first_.crest(z);
    return crest > 1e299 || s.point(u).norm() <= crest * (1 + 1e-12);
  }
  /// Where the driver's segment ends at z: at its own end, or where the crest cuts it.
  double end_at(const curve::Segment& s, double end, double z) const {
    const double crest = first_.crest(z);
    if (crest > 1e299 || s.point(end).norm() <= crest) return end;
    double low = end == s.from ? s.to : s.from, high = end;  // inside, outside
    for (int i = 0; i < 60 && std::abs(high - low) > 1e-15 * std::abs(high); ++i) {
      const double middle = 0.5 * (low + high);
      (s.point(middle).norm() <= crest ? low : high) = middle;
    }
    return low;
  }
  bool stands_in_way(const PatchJet& p, Side side) const { return (closing(p) > 0) == (side == Side::upper); }

  /// The parameter of the driven's segment at label R; none outside.
  std::optional<double> at_label(std::size_t segment, double R) const {
    const Table& t = tables_[segment];
    const curve::Segment& s = driven_.outline.period[segment];
    for (std::size_t i = 0; i + 1 < t.R.size(); ++i) {
      if ((t.R[i] - R) * (t.R[i + 1] - R) > 0) continue;
      double lo = t.at[i], hi = t.at[i + 1],
             x = lo + (hi - lo) * (t.R[i + 1] == t.R[i] ? 0.5 : (R - t.R[i]) / (t.R[i + 1] - t.R[i]));
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

  /// Signed way to contact (less is nearer) from the driver's point to a segment of the driven; none where it misses
  /// it.
  std::optional<double> way(const PatchJet& p, const Candidate& c, Side side) const {
    if (!on_driven_face(p.w) || !stands_in_way(p, side)) return std::nullopt;
    if (p.R > second_.crest(p.w) * (1 + 1e-12)) return std::nullopt;
    const auto t = at_label(c.driven, p.R);
    if (!t) return std::nullopt;
    const double sign = side == Side::upper ? 1 : -1;
    const double way = sign * (p.P - chart(driven_.outline.period[c.driven], *t).P - c.driven_tooth * pitch2_);
    const double P = chart(driven_.outline.period[c.driven], *t).P + c.driven_tooth * pitch2_ + c.nominal;
    return passed(way - sign * c.nominal, p.R, p.w, P, c.turn) ? std::nullopt : std::optional(way);
  }

  /// Far from the common normal a tooth may lie across the end of its mate, in the next space: then the driven's place,
  /// where the law has it, is behind the driver's and yet not inside the driver's material; nothing is in the way
  /// there.
  bool passed(double way_from_law, double R, double w, double P, double driver_turn) const {
    if (way_from_law >= -1e-9 * pitch2_) return false;
    const Vec3 X = driven_.axis.origin + driven_.axis.axes * second_.point(R, P, w);
    const double r = first_.label(X), seen = first_.place(X, 0) - driver_turn;
    const double off = seen - pitch1_ * std::round(seen / pitch1_);
    if (r > crest_) return true;
    constexpr double kTable = 1e-3;  // what the sampled outline may be off [pitches]
    for (const double turn : {-pitch1_, 0.0, pitch1_}) {
      double from = -kInfinite, to = kInfinite;
      for (const Table& t : driver_tables_) {
        for (std::size_t i = 0; i + 1 < t.R.size(); ++i) {
          if ((t.R[i] - r) * (t.R[i + 1] - r) > 0 || t.R[i] == t.R[i + 1]) continue;
          const double place = t.P[i] + (t.P[i + 1] - t.P[i]) * (r - t.R[i]) / (t.R[i + 1] - t.R[i]) + turn;
          if (t.R[i + 1] > t.R[i])
            from = std::max(from, place);
          else
            to = std::min(to, place);
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
    const int turns =
        static_cast<int>(std::lround((coordinate + tooth * pitch1_ - tooth_place(tooth, coordinate)) / pitch1_));
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

  const Part &driver_, &driven_;
  Shape first_, second_;
  const Law& law_;
  double pitch1_, pitch2_, faces_, facing_, reach_, floor_, crest_;
  Eigen::Matrix3d to_driven_;
  std::vector<Table> tables_, driver_tables_;
  std::vector<Sample> samples_;
};

template <class Shape>
void SpaceFinder<Shape>::candidates(Side side, double coordinate, std::vector<Candidate>& all) const {
  const double sign = side == Side::upper ? 1 : -1, low_z = first_.low(), face = first_.high() - low_z,
               driven_face = second_.high() - second_.low();
  const Vec3 axis = to_driven_.row(2).transpose();  // of the driven, in the driver's frame
  Coarse grid[kAlong + 1][kAcross + 1];
  double cosine[kAcross + 1], sine[kAcross + 1];
  for (int tooth = 0; tooth < driver_.outline.count; ++tooth) {
    const double turn = coordinate + tooth * pitch1_;
    // A tooth that nowhere along the face comes near the other axis is passed over.
    bool near = false;
    for (int j = 0; j <= kAcross; ++j) {
      const double z = low_z + face * j / kAcross, angle = first_.angle(turn, z);
      cosine[j] = std::cos(angle), sine[j] = std::sin(angle);
      Vec3 X, normal;
      const Vec2 top(crest_ * cosine[j], crest_ * sine[j]);
      first_.place(top, top, z, X, normal);
      near = near || second_.label(to_driven_ * (X - driven_.axis.origin)) < reach_ + 0.25 * crest_ * pitch1_;
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
          const double z = low_z + face * j / kAcross;
          Vec3 X, normal;
          first_.place(p, t, z, X, normal);
          const Vec3 arm = X - driven_.axis.origin, q = to_driven_ * arm;
          grid[i][j] = {second_.label(q),
                        second_.place(q, facing_),
                        second_.own_z(q),
                        -normal.dot(axis.cross(arm)) > 0,
                        second_.crest(second_.own_z(q)),
                        own.p.norm() <= first_.crest(z) * (1 + 0.15 / kAlong)};
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
            const double most = std::min(high, p.crest);
            if (!p.within || most <= low || p.R < low - edge || p.R > most + edge || p.upper != (side == Side::upper))
              continue;
            if (p.w < second_.low() - 0.05 * driven_face || p.w > second_.high() + 0.05 * driven_face) continue;
            const double R = std::clamp(p.R, low, most);
            std::size_t m = 0;
            while (m + 2 < t.R.size() && (t.R[m] - R) * (t.R[m + 1] - R) > 0)
              ++m;
            const double width = t.R[m + 1] - t.R[m],
                         P = width == 0 ? t.P[m] : t.P[m] + (t.P[m + 1] - t.P[m]) * (R - t.R[m]) / width;
            const double way = sign * (p.P - P - mate * pitch2_);
            if (passed(way - sign * nominal(coordinate), p.R, p.w, P + mate * pitch2_ + nominal(coordinate),
                       coordinate))
              continue;
            ways[i][j] = way;
            if (ways[i][j] < c.gap) c.gap = ways[i][j], bi = i, bj = j;
          }
        }
        if (bi < 0 || sign * nominal(coordinate) + 1.5 * pitch2_ < c.gap) continue;
        for (int i = std::max(0, bi - 1); i <= std::min(kAlong, bi + 1); ++i) {
          for (int j = std::max(0, bj - 1); j <= std::min(kAcross, bj + 1); ++j) {
            const Coarse& p = grid[i][j];
            c.R_low |= p.R<low, c.R_high |= p.R> std::min(high, p.crest);
            c.w_low |= p.w<second_.low(), c.w_high |= p.w> second_.high();
            if ((i == bi || j == bj) && std::isfinite(ways[i][j])) c.slack = std::max(c.slack, ways[i][j] - c.gap);
          }
        }
        // The crest may end a segment before its last sample.
        const auto cut = [&](int i) { return i >= 0 && i <= kAlong && !grid[i][bj].within; };
        c.u_from = bi <= 1 || cut(bi - 1) || cut(bi - 2), c.u_to = bi >= kAlong - 1 || cut(bi + 1) || cut(bi + 2),
        c.z_low = bj <= 1, c.z_high = bj >= kAcross - 1;
        c.slack = 1.5 * c.slack + 0.02 * pitch2_;
        c.u = s.from + (s.to - s.from) * bi / kAlong, c.z = low_z + face * bj / kAcross;
        all.push_back(c);
      }
    }
  }
}

/// u, z, t with equal label and both derivatives of the way zero; none when it lies outside the patches.
template <class Shape>
std::optional<std::array<double, 3>> SpaceFinder<Shape>::tangency(const Candidate& c, double u, double z) const {
  const curve::Segment &a = *c.driver, &b = driven_.outline.period[c.driven];
  const Table& table = tables_[c.driven];
  const PatchJet first = patch(a, c.turn, u, z);
  const auto [low, high] = std::minmax(table.R.front(), table.R.back());
  double t = at_label(c.driven, std::clamp(first.R, low, high)).value_or(0.5 * (b.from + b.to));
  const double span_u = std::abs(a.to - a.from), span_t = std::abs(b.to - b.from), face = first_.high() - first_.low();
  const auto inside = [](double x, double p, double q, double by) {
    return x >= std::min(p, q) - by && x <= std::max(p, q) + by;
  };
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
    const double cap = std::max({std::abs(d[0]) / span_u, std::abs(d[1]) / face, std::abs(d[2]) / span_t});
    if (cap > 0.2) d *= 0.2 / cap;
    u -= d[0], z -= d[1], t -= d[2];
    if (!inside(u, a.from, a.to, span_u) || !inside(z, first_.low(), first_.high(), face / 2) ||
        !inside(t, b.from, b.to, span_t))
      return std::nullopt;
    if (cap < 1e-9) {
      if (!inside(u, a.from, a.to, 0) || !inside(z, first_.low(), first_.high(), 0) || !inside(t, b.from, b.to, 0) ||
          !on_driver(a, u, z))
        return std::nullopt;
      return std::array<double, 3>{u, z, t};
    }
  }
  return std::nullopt;
}

template <class Shape>
void SpaceFinder<Shape>::refine(const Candidate& c, Side side, double best, std::vector<Contact>& found) const {
  const double sign = side == Side::upper ? 1 : -1, low_z = first_.low(), high_z = first_.high();
  std::optional<std::array<double, 3>> at = tangency(c, c.u, c.z);
  // A start from the next places of the grid, where the first strays.
  const double step_u = (c.driver->to - c.driver->from) / kAlong, step_z = (high_z - low_z) / kAcross;
  for (const auto& [du, dz] : {std::pair{1.0, 0.0},
                               {-1.0, 0.0},
                               {0.0, 1.0},
                               {0.0, -1.0},
                               {2.0, 0.0},
                               {-2.0, 0.0},
                               {1.0, 1.0},
                               {1.0, -1.0},
                               {-1.0, 1.0},
                               {-1.0, -1.0}}) {
    if (!at && c.both_flanks) at = tangency(c, c.u + du * step_u, c.z + dz * step_z);
  }
  if (at) {
    const PatchJet p = patch(*c.driver, c.turn, (*at)[0], (*at)[1]);
    if (on_driven_face(p.w) && p.R <= second_.crest(p.w) * (1 + 1e-12) && stands_in_way(p, side)) {
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
    const auto [lo, hi] = std::minmax({std::clamp(place - step, std::min(from, to), std::max(from, to)),
                                       std::clamp(place + step, std::min(from, to), std::max(from, to))});
    boost::uintmax_t steps = 60;
    const auto refined = boost::math::tools::brent_find_minima(value, lo, hi, 40, steps);
    if (refined.second < least) place = refined.first, least = refined.second;
    const Vec2 spot = *point(place);
    found.push_back(contact(c, side, spot.x(), spot.y(), least, false));
  };
  // Only near the coarse place, and only the edges that are near it. Cones touch all along a ruling, nearly: there the
  // coarse place says little about where along the face the contact lies.
  constexpr bool kCone = std::is_same_v<Shape, Cone>;
  const double z_from = kCone ? low_z : std::max(low_z, c.z - 2 * step_z),
               z_to = kCone ? high_z : std::min(high_z, c.z + 2 * step_z);
  const double lo_u = std::min(a.from, a.to), hi_u = std::max(a.from, a.to);
  const double u_from = kCone ? lo_u : std::clamp(c.u - 2 * step_u, lo_u, hi_u),
               u_to = kCone ? hi_u : std::clamp(c.u + 2 * step_u, lo_u, hi_u);
  for (const auto& [near, u] : {std::pair{c.u_from, a.from}, {c.u_to, a.to}}) {
    if (near || kCone)
      along([&, u = u](double z) { return std::optional<Vec2>(Vec2(end_at(a, u, z), z)); }, z_from, z_to);
  }
  for (const auto& [near, z] : {std::pair{c.z_low, low_z}, {c.z_high, high_z}}) {
    if (near || kCone)
      along([&, z = z](double u) { return on_driver(a, u, z) ? std::optional<Vec2>(Vec2(u, z)) : std::nullopt; },
            u_from, u_to);
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
    if (!near && !kCone) continue;
    const double inside =
        R + 1e-13 * ((low + high) / 2 - R);  // a hair inside, so that the place on the driven's curve exists
    along(
        [&, inside](double z) -> std::optional<Vec2> {
          const auto u = solve(
              [&](double x) {
                const PatchJet seen = patch(a, c.turn, x, z);
                return seen.R - std::min(inside, (1 - 1e-13) * second_.crest(seen.w));
              },
              u_from, u_to);
          return u && on_driver(a, *u, z) ? std::optional<Vec2>(Vec2(*u, z)) : std::nullopt;
        },
        z_from, z_to);
  }
  for (const auto& [near, w] : {std::pair{c.w_low, second_.low()}, {c.w_high, second_.high()}}) {
    if (!near && !kCone) continue;
    along(
        [&, end = w](double u) -> std::optional<Vec2> {
          const auto z = solve([&](double x) { return patch(a, c.turn, u, x).w - end; }, z_from, z_to);
          return z && on_driver(a, u, *z) ? std::optional<Vec2>(Vec2(u, *z)) : std::nullopt;
        },
        u_from, u_to);
  }
}

template <class Shape>
Limit SpaceFinder<Shape>::limit(Side side, double coordinate) const {
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
    for (std::size_t i = before; i < found.size(); ++i)
      best = std::min(best, sign * found[i].driven);
  }
  Limit result;
  for (const Contact& c : found) {
    if (!result.first || sign * c.driven < sign * result.first->driven) result.first = c;
  }
  for (const Contact& c : found) {
    if (c.flank_on_flank() && sign * (c.driven - result.first->driven) * c.arm <= law_.touch_mm)
      result.touching.push_back(c);
  }
  return result;
}

template <class Shape>
double SpaceFinder<Shape>::clearance(double coordinate) const {
  // Along the axis, the crest's place nearest to the other axis: first at the ends of short pieces, then closely on
  // those that come near.
  struct Piece {
    const curve::Segment* segment;
    double turn, lo, hi, ends;
  };
  const auto over = [&](const curve::Segment& s, double turn, double z) {
    double u = s.first().norm() >= crest_ * (1 - 1e-12) ? s.from : s.to;
    if (std::holds_alternative<curve::Arc>(s.curve) &&
        std::abs(std::get<curve::Arc>(s.curve).radius - crest_) < 1e-9 * crest_) {
      u = std::clamp(wrapped(faces_ - first_.angle(turn, z), 0), std::min(s.from, s.to), std::max(s.from, s.to));
    }
    Vec2 p = s.point(u);
    if (const double crest = first_.crest(z); p.norm() > crest) p *= crest / p.norm();
    const double angle = first_.angle(turn, z), c = std::cos(angle), sn = std::sin(angle);
    Vec3 X, normal;
    first_.place(Vec2(c * p.x() - sn * p.y(), sn * p.x() + c * p.y()), p, z, X, normal);
    return second_.over(to_driven_ * (X - driven_.axis.origin), floor_);
  };
  const double low = first_.low(), face = first_.high() - low;
  std::vector<Piece> pieces;
  double least = kInfinite;
  for (const curve::Segment& s : driver_.outline.period) {
    if (std::max(s.first().norm(), s.last().norm()) < crest_ * (1 - 1e-12)) continue;
    for (int tooth = 0; tooth < driver_.outline.count; ++tooth) {
      const double turn = coordinate + tooth * pitch1_;
      double before = over(s, turn, low);
      for (int j = 0; j < kAcross; ++j) {
        const double lo = low + face * j / kAcross, hi = lo + face / kAcross, after = over(s, turn, hi);
        pieces.push_back({&s, turn, lo, hi, std::min(before, after)});
        least = std::min({least, before, after});
        before = after;
      }
    }
  }
  const double near = least + kNearby * face / kAcross;
  for (const Piece& p : pieces) {
    if (p.ends > near) continue;
    boost::uintmax_t steps = 30;
    least = std::min(least, boost::math::tools::brent_find_minima([&](double z) { return over(*p.segment, p.turn, z); },
                                                                  p.lo, p.hi, 26, steps)
                                .second);
  }
  return least;
}

}  // namespace

Axis crossed_axis(double direction, double a, double shaft_angle, double offset) {
  const Vec3 normal(std::cos(direction), std::sin(direction), 0);
  const Eigen::Matrix3d axes = Eigen::AngleAxisd(-shaft_angle, normal).toRotationMatrix();
  return {a * normal + offset * axes.col(2), axes};
}

namespace {

template <class Shape, class Part>
Result roll_in_space(const Part& driver, const Part& driven, const Law& law) {
  check_positions(law.positions);
  const SpaceFinder<Shape> finder(driver, driven, law);
  // The other gear's crest over this one's floor is seen from its own side.
  const Axis seen{-(driven.axis.axes.transpose() * driven.axis.origin), driven.axis.axes.transpose()};
  Part mover = driven, held = driver;
  mover.axis = {}, held.axis = seen;
  const SpaceFinder<Shape> from_driven(mover, held, law);

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
    p.pairs_upper = static_cast<int>(touching_pairs(upper.touching).size()),
    p.pairs_lower = static_cast<int>(touching_pairs(lower.touching).size());
    p.touching_upper = std::move(upper.touching), p.touching_lower = std::move(lower.touching);
    const double nominal = finder.nominal(coordinate),
                 middle = p.play() ? 0.5 * (p.upper->driven + p.lower->driven) : nominal;
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

}  // namespace

Result roll(const Twisted& driver, const Twisted& driven, const Law& law) {
  return roll_in_space<Screw>(driver, driven, law);
}
Result roll(const Coned& driver, const Coned& driven, const Law& law) {
  return roll_in_space<Cone>(driver, driven, law);
}

}  // namespace palio::roll
