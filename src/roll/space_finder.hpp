// Where two members turning about axes in space touch. Private to the roll.
//
// A broad phase looks at coarse places of the driver's patches (space_broad.cpp); those that may come first are solved
// on the exact surfaces (space_narrow.cpp).
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "contact.hpp"
#include "palio/angle.hpp"
#include "shape.hpp"
#include "tally.hpp"

namespace palio::roll {

/// A point of the driver's patch as the driven sees it.
struct Spot {
  double R, w;
  Vec3 world, normal;  // outward of the driver
  Vec3 seen;           // along the driven's axes, from its origin
};

/// Label of a segment of the driven's outline, and how label and place go on there.
struct CurveJet {
  double R, R1, P1, R2, P2;
};

/// Coarse grid on a patch: along the outline, along the axis.
constexpr int kAlong = 8, kAcross = 24;
constexpr int place_of(int i, int j) { return i * (kAcross + 1) + j; }
constexpr int kPlaces = (kAlong + 1) * (kAcross + 1);

/// Shape: Screw or Cone.
template <class Shape>
class SpaceFinder {
 public:
  using Part = std::decay_t<decltype(std::declval<Shape>().member())>;
  SpaceFinder(const Part& driver, const Part& driven, const Law& law);

  double nominal(double coordinate) const { return driven_.start + law_.ratio * (coordinate - driver_.start); }
  double pitch() const noexcept { return pitch1_; }
  double tooth_place(int tooth, double coordinate) const { return wrapped(coordinate + tooth * pitch1_, faces_); }

  Limit limit(Side side, double coordinate) const;
  /// Both sides with one look at all places.
  /// \param trail  of positions one after the other
  void limits(double coordinate, Limit& upper, Limit& lower, Trail& trail) const;
  /// Of the driver's crest over the driven's floor.
  double clearance(double coordinate) const;
  std::string describe(const Contact& c) const {
    return fmt::format("{} of {}, tooth {}, against {} of {}, tooth {}, at height {:.4g} mm", name(c.driver_role),
                       driver_.name, c.driver_tooth, name(c.driven_role), driven_.name, c.driven_tooth, c.height);
  }

 private:
  /// What the chords of a table may be off, in pitches of the driven.
  static constexpr double kChords = 0.005;
  struct Table {
    std::vector<double> at, R, P;
    bool level;

    /// Place on the chords at a label.
    double place(double label) const {
      const bool falls = R.back() < R.front();
      const auto beyond = falls ? std::upper_bound(R.begin(), R.end(), label, std::greater<>())
                                : std::upper_bound(R.begin(), R.end(), label);
      const std::ptrdiff_t m =
          std::clamp<std::ptrdiff_t>(beyond - R.begin() - 1, 0, static_cast<std::ptrdiff_t>(R.size()) - 2);
      const double width = R[m + 1] - R[m];
      return width == 0 ? P[m] : P[m] + (P[m + 1] - P[m]) * (label - R[m]) / width;
    }
  };
  struct Ball {
    Vec3 middle;
    double radius;
  };
  /// A segment of the driver's outline all along its face, as coarse places in the driver's frame, not turned.
  struct Patch {
    struct Block : Ball {  // holds some columns of the grid
      int from, to;
    };
    const curve::Segment* segment;
    std::vector<Vec3> point, normal;  // kPlaces of them; the normal points outwards, of any length
    std::vector<bool> within;         // the driver reaches as far out there, or nearly
    Ball ball;                        // that holds it all
    std::vector<Block> blocks;
    bool crest;  // it reaches as far out as any
  };
  struct Coarse {  // a place of the driver's patch in the driven's frame
    int i, j;
    double R, P, w;
    double crest;  // how far out the driven's flanks reach there
  };
  /// Those of a patch that lie within the driven's reach, by the side on which they stand in the way.
  struct Grid {
    Eigen::Matrix3d to_driven;                  // from the patch as it is laid out
    std::array<std::vector<Coarse>, 2> places;  // upper, lower
  };
  struct Candidate {
    const curve::Segment* driver;
    std::size_t driven;
    int driver_tooth, driven_tooth;
    double turn, nominal, coordinate, gap = kInfinite, slack = 0, u = 0, z = 0;
    bool both_flanks = false;
    bool u_from = false, u_to = false, z_low = false, z_high = false, R_low = false, R_high = false, w_low = false,
         w_high = false;  // edges near the coarse place
  };

  static CurveJet chart(const curve::Segment& s, double t) {
    const curve::Jet j = s.jet(t);
    const double R = j.p.norm(), R2 = R * R, R1 = j.p.dot(j.d1) / R, a1 = cross(j.p, j.d1) / R2;
    return {R, R1, a1, (j.d1.squaredNorm() + j.p.dot(j.d2) - R1 * R1) / R, cross(j.p, j.d2) / R2 - 2 * R1 * a1 / R};
  }
  static double polar_angle(const Vec2& p) { return std::atan2(p.y(), p.x()); }

  /// Only what a search for a tangency needs.
  ChartedJet patch(const curve::Segment& s, double turn, double u, double z) const {
    const SurfaceJet X = first_.surface(s.jet(u), turn, z);
    return second_.chart({to_driven_ * (X.X - driven_.axis.origin), to_driven_ * X.u, to_driven_ * X.z,
                          to_driven_ * X.uu, to_driven_ * X.uz, to_driven_ * X.zz});
  }

  Spot spot(const curve::Segment& s, double turn, double u, double z) const {
    const SurfaceJet X = first_.surface(s.jet(u), turn, z);
    const Vec3 q = to_driven_ * (X.X - driven_.axis.origin);
    return {second_.label(q), second_.own_z(q), X.X, (s.sense() * X.u.cross(X.z)).normalized(), q};
  }
  /// Of a spot its label and height alone.
  std::pair<double, double> label_and_height(const curve::Segment& s, double turn, double u, double z) const {
    Vec3 X, normal;
    first_.place(turned(s.point(u), from_polar(1, first_.angle(turn, z))), Vec2::Zero(), z, X, normal);
    const Vec3 q = to_driven_ * (X - driven_.axis.origin);
    return {second_.label(q), second_.own_z(q)};
  }
  double place(const Spot& p) const { return second_.place(p.seen, facing_); }

  /// How fast the driven's place moves against the driver's outward normal there [mm per rad]: positive where the
  /// driver stands in the way of turning further.
  double closing(const Spot& p) const {
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
    return std::isinf(crest) || s.point(u).norm() <= crest * (1 + 1e-12);
  }
  /// Where the driver's segment ends at z: at its own end, or where the crest cuts it.
  double end_at(const curve::Segment& s, double end, double z) const {
    const double crest = first_.crest(z);
    if (std::isinf(crest) || s.point(end).norm() <= crest) return end;
    double low = end == s.from ? s.to : s.from, high = end;  // inside, outside
    for (int i = 0; i < 60 && std::abs(high - low) > 1e-15 * std::abs(high); ++i) {
      const double middle = 0.5 * (low + high);
      (s.point(middle).norm() <= crest ? low : high) = middle;
    }
    return low;
  }
  bool stands_in_way(const Spot& p, Side side) const { return (closing(p) > 0) == (side == Side::upper); }

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
        const curve::Jet j = s.jet(x);
        const double label = j.p.norm(), f = label - R;
        if (f == 0) return x;
        ((f > 0) == rises ? hi : lo) = x;
        double next = x - f * label / j.p.dot(j.d1);
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
  std::optional<double> way(const Spot& p, const Candidate& c, Side side) const {
    if (!on_driven_face(p.w) || !stands_in_way(p, side)) return std::nullopt;
    if (p.R > second_.crest(p.w) * (1 + 1e-12)) return std::nullopt;
    const auto t = at_label(c.driven, p.R);
    if (!t) return std::nullopt;
    const double sign = side == Side::upper ? 1 : -1;
    const double P = polar_angle(driven_.outline.period[c.driven].point(*t)) + c.driven_tooth * pitch2_,
                 way = sign * (place(p) - P);
    return passed(way - sign * c.nominal, p.R, p.w, P + c.nominal, c.turn) ? std::nullopt : std::optional(way);
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

  Patch patch_of(const curve::Segment& segment) const;
  void look(const Patch& patch, Grid& grid) const;
  void candidates(Side side, const Patch& patch, const Grid& grid, int tooth, double coordinate,
                  std::vector<Candidate>& all) const;
  template <class Visit>
  void visit_places(double coordinate, Visit visit) const;
  Limit nearest(Side side, std::vector<Candidate>& all, Trail* trail) const;
  void refine(const Candidate& c, Side side, double best, Trail* trail, std::vector<Contact>& found) const;
  void edges(const Candidate& c, Side side, double best, std::vector<Contact>& found) const;
  std::optional<Contact> touch(const Candidate& c, Side side, const std::array<double, 3>& at) const;
  std::optional<std::array<double, 3>> tangency(const Candidate& c, double u, double z) const;
  Contact contact(const Candidate& c, Side side, double u, double z, double way, bool tangent) const {
    const Spot p = spot(*c.driver, c.turn, u, z);
    const int teeth = driven_.outline.count;
    Contact made;
    made.driven = side == Side::upper ? way : -way;
    made.point = Vec2(p.world.x(), p.world.y());
    made.normal = Vec2(-p.normal.x(), -p.normal.y());
    made.arm = std::abs(closing(p));
    made.driver_role = c.driver->role, made.driven_role = driven_.outline.period[c.driven].role;
    made.driver_tooth = c.driver_tooth, made.driven_tooth = ((c.driven_tooth % teeth) + teeth) % teeth;
    made.tangent = tangent;
    made.height = p.world.z();
    return made;
  }

  const Part &driver_, &driven_;
  Shape first_, second_;
  const Law& law_;
  double pitch1_, pitch2_, faces_, facing_, reach_, floor_, crest_;
  Eigen::Matrix3d to_driven_;
  Vec3 axis_seen_;  // where the driven's axis has its origin, along the driven's own axes
  std::vector<Table> tables_, driver_tables_;
  std::vector<Patch> patches_;
};

extern template class SpaceFinder<Screw>;
extern template class SpaceFinder<Cone>;

}  // namespace palio::roll
