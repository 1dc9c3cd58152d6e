// The broad phase of the roll in space: coarse places of the driver's patches in the driven's chart. A patch is laid
// out once, not turned; what a tooth at a coordinate makes of it is one turn, and balls about blocks of it tell what
// stays out of the driven's reach.
#include <algorithm>
#include <boost/math/tools/minima.hpp>
#include <cstdint>

#include "space_finder.hpp"

namespace palio::roll {
namespace {

constexpr int kBlocks = 8;  // of columns
/// How far the least way of a patch may lie below that of its least place. A smooth surface falls between even places
/// by an eighth of the rise to the next in each of two directions at most; twice that, and a share of a pitch for the
/// chords of the driven's table and for kinks.
constexpr double kOfRise = 0.5;
/// A little beyond the ends of a driven's segment still guides to an edge: by this share of its labels, of its face.
constexpr double kBeyondLabels = 0.15, kBeyondFace = 0.05;

/// Written out, and in its place: it stands in the innermost loop.
[[gnu::always_inline]] inline Vec3 turned_by(const Eigen::Matrix3d& m, const Vec3& v) {
  return {m(0, 0) * v.x() + m(0, 1) * v.y() + m(0, 2) * v.z(), m(1, 0) * v.x() + m(1, 1) * v.y() + m(1, 2) * v.z(),
          m(2, 0) * v.x() + m(2, 1) * v.y() + m(2, 2) * v.z()};
}

Eigen::Matrix3d about_axis(double turn) {
  const double c = std::cos(turn), s = std::sin(turn);
  Eigen::Matrix3d m;
  m << c, -s, 0, s, c, 0, 0, 0, 1;
  return m;
}

}  // namespace

template <class Shape>
SpaceFinder<Shape>::SpaceFinder(const Part& driver, const Part& driven, const Law& law)
    : driver_(driver), driven_(driven), first_(driver), second_(driven), law_(law) {
  pitch1_ = driver.outline.pitch(), pitch2_ = driven.outline.pitch();
  to_driven_ = driven.axis.axes.transpose(), axis_seen_ = to_driven_ * driven.axis.origin;
  const Vec3 towards = Shape::towards(driven.axis), back = Shape::back(driven.axis);
  faces_ = std::atan2(towards.y(), towards.x());
  facing_ = std::atan2(back.y(), back.x());
  reach_ = 0, floor_ = kInfinite;
  const auto table = [](const curve::Segment& s) {
    Table t;
    for (int i = 0; i <= 16; ++i) {
      const double at = i == 16 ? s.to : s.from + (s.to - s.from) * i / 16;
      const Vec2 p = s.point(at);
      t.at.push_back(at), t.R.push_back(p.norm()), t.P.push_back(polar_angle(p));
    }
    t.level = std::abs(t.R.back() - t.R.front()) < 1e-9 * t.R.front();
    return t;
  };
  for (const curve::Segment& s : driven.outline.period) {
    tables_.push_back(table(s));
    for (const double R : tables_.back().R)
      reach_ = std::max(reach_, R), floor_ = std::min(floor_, R);
  }
  crest_ = 0;
  for (const curve::Segment& s : driver.outline.period) {
    if (Table t = table(s); !t.level) driver_tables_.push_back(std::move(t));
    crest_ = std::max({crest_, s.first().norm(), s.last().norm()});
  }
  for (const curve::Segment& s : driver.outline.period)
    patches_.push_back(patch_of(s));
}

template <class Shape>
typename SpaceFinder<Shape>::Patch SpaceFinder<Shape>::patch_of(const curve::Segment& segment) const {
  Patch patch;
  patch.segment = &segment;
  patch.crest = std::max(segment.first().norm(), segment.last().norm()) >= crest_ * (1 - 1e-12);
  patch.point.resize(kPlaces), patch.normal.resize(kPlaces), patch.within.resize(kPlaces);
  const double low = first_.low(), face = first_.high() - low;
  for (int i = 0; i <= kAlong; ++i) {
    const curve::Jet own = segment.jet(segment.from + (segment.to - segment.from) * i / kAlong);
    for (int j = 0; j <= kAcross; ++j) {
      const double z = low + face * j / kAcross;
      const Vec2 x = from_polar(1, first_.angle(0, z));
      first_.place(turned(own.p, x), turned(segment.sense() * own.d1, x), z, patch.point[place_of(i, j)],
                   patch.normal[place_of(i, j)]);
      patch.within[place_of(i, j)] = own.p.norm() <= first_.crest(z) * (1 + kBeyondLabels / kAlong);
    }
  }
  const auto ball_about = [&](int from, int to) {
    Vec3 low_corner = Vec3::Constant(kInfinite), high_corner = -low_corner;
    for (int i = 0; i <= kAlong; ++i) {
      for (int j = from; j <= to; ++j) {
        low_corner = low_corner.cwiseMin(patch.point[place_of(i, j)]);
        high_corner = high_corner.cwiseMax(patch.point[place_of(i, j)]);
      }
    }
    Ball ball{0.5 * (low_corner + high_corner), 0};
    for (int i = 0; i <= kAlong; ++i) {
      for (int j = from; j <= to; ++j)
        ball.radius = std::max(ball.radius, (patch.point[place_of(i, j)] - ball.middle).norm());
    }
    return ball;
  };
  patch.ball = ball_about(0, kAcross);
  for (int block = 0; block < kBlocks; ++block) {
    const int from = kAcross * block / kBlocks, to = kAcross * (block + 1) / kBlocks;
    // The column between two blocks belongs to one.
    patch.blocks.push_back({ball_about(from, to), from, block + 1 < kBlocks ? to - 1 : to});
  }
  return patch;
}

/// The places of a patch, turned so, within the driven's reach.
template <class Shape>
void SpaceFinder<Shape>::look(const Patch& patch, Grid& grid) const {
  for (auto& side : grid.places)
    side.clear();
  const double reach = reach_ + kBeyondLabels * (reach_ - floor_), face = second_.high() - second_.low();
  const double low = second_.low() - kBeyondFace * face, high = second_.high() + kBeyondFace * face;
  const auto beyond = [&](const Ball& ball) {
    const Vec3 middle = turned_by(grid.to_driven, ball.middle) - axis_seen_;
    const double height = second_.own_z(middle);  // changes by no more than one goes
    return height + ball.radius < low || height - ball.radius > high ||
           second_.least_label(middle, ball.radius) > reach;
  };
  if (beyond(patch.ball)) return;
  for (const typename Patch::Block& block : patch.blocks) {
    if (beyond(block)) continue;
    for (int i = 0; i <= kAlong; ++i) {
      for (int j = block.from; j <= block.to; ++j) {
        const int at = place_of(i, j);
        if (!patch.within[at]) continue;
        const Vec3 q = turned_by(grid.to_driven, patch.point[at]) - axis_seen_;
        const double label = second_.label(q);
        if (label > reach) continue;
        const double w = second_.own_z(q);
        if (w < low || w > high) continue;
        const Vec3 normal = turned_by(grid.to_driven, patch.normal[at]);
        const bool upper = normal.x() * q.y() > normal.y() * q.x();
        grid.places[upper ? 0 : 1].push_back({i, j, label, second_.place(q, facing_), w, second_.crest(w)});
      }
    }
  }
}

template <class Shape>
template <class Visit>
void SpaceFinder<Shape>::visit_places(double coordinate, Visit visit) const {
  Grid grid;
  for (int tooth = 0; tooth < driver_.outline.count; ++tooth) {
    grid.to_driven = to_driven_ * about_axis(coordinate + tooth * pitch1_);
    for (const Patch& patch : patches_) {
      look(patch, grid);
      visit(patch, grid, tooth);
    }
  }
}

/// What of one patch may come first on a side: for each of the driven's segments the place that is nearest to it.
template <class Shape>
void SpaceFinder<Shape>::candidates(Side side, const Patch& patch, const Grid& grid, int tooth, double coordinate,
                                    std::vector<Candidate>& all) const {
  const std::vector<Coarse>& places = grid.places[side == Side::upper ? 0 : 1];
  if (places.empty()) return;
  const double sign = side == Side::upper ? 1 : -1, due = nominal(coordinate), low_z = first_.low(),
               face = first_.high() - low_z;
  const curve::Segment& s = *patch.segment;
  const int mate = partner(side, tooth, coordinate);
  std::vector<double> ways(places.size());
  std::array<const Coarse*, kPlaces> seen{};
  for (const Coarse& p : places)
    seen[place_of(p.i, p.j)] = &p;
  for (std::size_t d = 0; d < tables_.size(); ++d) {
    const Table& t = tables_[d];
    if (t.level) continue;
    // Material on the left: a piece that falls in label has it at smaller places and is stopped from above.
    if ((t.R.back() < t.R.front()) != (side == Side::upper)) continue;
    const auto [low, high] = std::minmax(t.R.front(), t.R.back());
    const double edge = kBeyondLabels * (high - low);
    Candidate c;
    c.driver = &s, c.driven = d, c.driver_tooth = tooth, c.driven_tooth = mate;
    c.turn = coordinate + tooth * pitch1_, c.nominal = due, c.coordinate = coordinate, c.gap = kInfinite;
    c.both_flanks = s.role == curve::Role::flank && driven_.outline.period[d].role == curve::Role::flank;
    const auto clear = [&, low = low, high = high](const Coarse& p) {
      const double P = t.place(std::clamp(p.R, low, std::min(high, p.crest)));
      return passed(sign * (p.P - P - mate * pitch2_) - sign * due, p.R, p.w, P + mate * pitch2_ + due, coordinate);
    };
    const Coarse* best = nullptr;
    for (std::size_t k = 0; k < places.size(); ++k) {
      const Coarse& p = places[k];
      const double most = std::min(high, p.crest);
      ways[k] = kInfinite;
      if (most <= low || p.R < low - edge || p.R > most + edge) continue;
      const double way = ways[k] = sign * (p.P - t.place(std::clamp(p.R, low, most)) - mate * pitch2_);
      if (way < c.gap && !clear(p)) c.gap = way, best = &p;
    }
    if (!best || sign * due + 1.5 * pitch2_ < c.gap) continue;
    const int bi = best->i, bj = best->j;
    for (int i = std::max(0, bi - 1); i <= std::min(kAlong, bi + 1); ++i) {
      for (int j = std::max(0, bj - 1); j <= std::min(kAcross, bj + 1); ++j) {
        const Vec3 q = turned_by(grid.to_driven, patch.point[place_of(i, j)]) - axis_seen_;
        const double R = second_.label(q), w = second_.own_z(q);
        c.R_low |= R<low, c.R_high |= R> std::min(high, second_.crest(w));
        c.w_low |= w<second_.low(), c.w_high |= w> second_.high();
        const Coarse* beside = seen[place_of(i, j)];
        if ((i != bi && j != bj) || !beside) continue;
        const double way = ways[static_cast<std::size_t>(beside - places.data())];
        if (std::isfinite(way) && !clear(*beside)) c.slack = std::max(c.slack, way - c.gap);
      }
    }
    // The crest may end a segment before its last sample.
    const auto cut = [&](int i) { return i >= 0 && i <= kAlong && !patch.within[place_of(i, bj)]; };
    c.u_from = bi <= 1 || cut(bi - 1) || cut(bi - 2), c.u_to = bi >= kAlong - 1 || cut(bi + 1) || cut(bi + 2);
    c.z_low = bj <= 1, c.z_high = bj >= kAcross - 1;
    c.slack = kOfRise * c.slack + kChords * pitch2_;
    c.u = s.from + (s.to - s.from) * bi / kAlong, c.z = low_z + face * bj / kAcross;
    all.push_back(c);
  }
}

template <class Shape>
Limit SpaceFinder<Shape>::limit(Side side, double coordinate) const {
  std::vector<Candidate> all;
  visit_places(coordinate, [&](const Patch& patch, const Grid& grid, int tooth) {
    candidates(side, patch, grid, tooth, coordinate, all);
  });
  return nearest(side, all, nullptr);
}

template <class Shape>
void SpaceFinder<Shape>::limits(double coordinate, Limit& upper, Limit& lower, Trail& trail) const {
  std::vector<Candidate> above, below;
  visit_places(coordinate, [&](const Patch& patch, const Grid& grid, int tooth) {
    candidates(Side::upper, patch, grid, tooth, coordinate, above);
    candidates(Side::lower, patch, grid, tooth, coordinate, below);
  });
  upper = nearest(Side::upper, above, &trail), lower = nearest(Side::lower, below, &trail);
}

template <class Shape>
double SpaceFinder<Shape>::clearance(double coordinate) const {
  // Along the axis, the crest's place nearest to the other axis: looked for at the ends of short pieces, then closely
  // about those that lie nearer than their neighbours.
  struct Hollow {
    const curve::Segment* segment;
    double turn, lo, hi, least;
  };
  const auto over = [&](const curve::Segment& s, double turn, double z) {
    double u = s.first().norm() >= crest_ * (1 - 1e-12) ? s.from : s.to;
    if (std::holds_alternative<curve::Arc>(s.curve) &&
        std::abs(std::get<curve::Arc>(s.curve).radius - crest_) < 1e-9 * crest_) {
      u = std::clamp(wrapped(faces_ - first_.angle(turn, z), 0), std::min(s.from, s.to), std::max(s.from, s.to));
    }
    Vec2 p = s.point(u);
    if (const double crest = first_.crest(z); p.norm() > crest) p *= crest / p.norm();
    Vec3 X, normal;
    first_.place(turned(p, first_.angle(turn, z)), p, z, X, normal);
    return second_.over(to_driven_ * (X - driven_.axis.origin), floor_);
  };
  const double low = first_.low(), face = first_.high() - low;
  // The teeth that face the mate first: what others are passed over by.
  std::vector<std::pair<double, int>> teeth;
  teeth.reserve(static_cast<std::size_t>(driver_.outline.count));
  for (int tooth = 0; tooth < driver_.outline.count; ++tooth)
    teeth.emplace_back(std::abs(tooth_place(tooth, coordinate) - faces_), tooth);
  std::sort(teeth.begin(), teeth.end());
  std::vector<Hollow> hollows;
  double least = kInfinite;
  for (const auto& [off, tooth] : teeth) {
    const double turn = coordinate + tooth * pitch1_;
    const Eigen::Matrix3d to_driven = to_driven_ * about_axis(turn);
    for (const Patch& patch : patches_) {
      if (!patch.crest) continue;
      // The balls hold the sampled places; between them the crest bulges by less than a tenth of one.
      const auto beyond = [&](const Ball& ball) {
        return second_.least_over(turned_by(to_driven, ball.middle) - axis_seen_, 1.1 * ball.radius, floor_) > least;
      };
      if (beyond(patch.ball)) continue;
      std::array<std::optional<double>, kAcross + 1> looked{};
      const auto value_at = [&](int j) {
        if (!looked[j])
          looked[j] = over(*patch.segment, turn, low + face * j / kAcross), least = std::min(least, *looked[j]);
        return *looked[j];
      };
      for (const typename Patch::Block& block : patch.blocks) {
        if (beyond(block)) continue;
        for (int j = block.from; j <= block.to; ++j) {
          const int before = std::max(0, j - 1), after = std::min(kAcross, j + 1);
          const double here = value_at(j), below_it = value_at(before), above_it = value_at(after);
          if (here > below_it || here > above_it) continue;
          // Between even looks a smooth curve falls below the least of them by an eighth of the rise to the next at
          // most.
          const double below = std::max(below_it, above_it) - here;
          hollows.push_back(
              {patch.segment, turn, low + face * before / kAcross, low + face * after / kAcross, here - below});
        }
      }
    }
  }
  for (const Hollow& h : hollows) {
    if (h.least > least) continue;
    std::uintmax_t steps = 30;
    least = std::min(least, boost::math::tools::brent_find_minima([&](double z) { return over(*h.segment, h.turn, z); },
                                                                  h.lo, h.hi, 26, steps)
                                .second);
  }
  return least;
}

template class SpaceFinder<Screw>;
template class SpaceFinder<Cone>;

}  // namespace palio::roll
