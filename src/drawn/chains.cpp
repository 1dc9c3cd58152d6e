#include "chains.hpp"

#include <algorithm>
#include <cstdint>
#include <unordered_map>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/math/extent.hpp"

namespace palio::drawn {
namespace {

/// Ends nearer than this share of the whole drawing are one.
constexpr double kMeets = 5e-5;

double cross(const Vec2& a, const Vec2& b) { return a.x() * b.y() - a.y() * b.x(); }

/// Where chains end, found again by place.
class Ends {
 public:
  struct End {
    std::size_t chain;
    bool last;  ///< of its two ends
    Vec2 at;
  };

  explicit Ends(double reach) : reach_(reach) {}
  void add(const End& end) { cells_[cell(end.at)].push_back(end); }
  void remove(std::size_t chain, const Vec2& at) {
    auto& all = cells_[cell(at)];
    all.erase(std::remove_if(all.begin(), all.end(), [&](const End& e) { return e.chain == chain && e.at == at; }),
              all.end());
  }
  const End* nearest(const Vec2& at) const {
    const End* best = nullptr;
    double least = reach_;
    for (int i = -1; i <= 1; ++i) {
      for (int j = -1; j <= 1; ++j) {
        const auto it = cells_.find(cell(at + reach_ * Vec2(i, j)));
        if (it == cells_.end()) continue;
        for (const End& e : it->second) {
          const double away = (e.at - at).norm();
          if (away > least || (best && away == least)) continue;
          best = &e, least = away;
        }
      }
    }
    return best;
  }

 private:
  std::uint64_t cell(const Vec2& p) const {
    const auto i = static_cast<std::int64_t>(std::floor(p.x() / reach_)),
               j = static_cast<std::int64_t>(std::floor(p.y() / reach_));
    return static_cast<std::uint64_t>(i) * 0x9E3779B97F4A7C15u ^ static_cast<std::uint64_t>(j);
  }

  double reach_;
  std::unordered_map<std::uint64_t, std::vector<End>> cells_;
};

/// The other way round, open or closed: an open chain's last corner bulges nowhere.
void reverse(std::vector<Corner>& corners) {
  std::reverse(corners.begin(), corners.end());
  // The bulge of a piece stood with the corner that it now goes to.
  const double first = corners.front().bulge;
  for (std::size_t i = 0; i + 1 < corners.size(); ++i)
    corners[i].bulge = -corners[i + 1].bulge;
  corners.back().bulge = -first;
}

/// Area and its centre, about the first point: far from the origin no digits are lost.
void measure(Loop& loop) {
  const Vec2 about = loop.points.front();
  double twice = 0;
  Vec2 moment = Vec2::Zero();
  for (std::size_t i = 0; i < loop.points.size(); ++i) {
    const Vec2 a = loop.points[i] - about, b = loop.points[(i + 1) % loop.points.size()] - about;
    const double part = cross(a, b);
    twice += part, moment += part * (a + b);
  }
  loop.area = twice / 2;
  loop.centre = about + (twice != 0 ? Vec2(moment / (3 * twice)) : Vec2::Zero());
  if (loop.area > 0) return;
  std::reverse(loop.points.begin(), loop.points.end()), loop.area = -loop.area;
  reverse(loop.corners);
}

}  // namespace

void Chains::put(const Vec2& p) {
  constexpr double kFurthest = 1e12;
  if (!(p.cwiseAbs().maxCoeff() < kFurthest))
    throw FileError(fmt::format("a place in it lies at {:g}, {:g}: no gear is so far away", p.x(), p.y()));
  if (++points_ > kMostPoints)
    throw FileError(
        fmt::format("it has arcs so large or so many places that they take more than {} chords; no gear "
                    "has such",
                    kMostPoints));
  chains_.back().points.push_back(p);
}

void Chains::move_to(const Vec2& p) {
  chains_.emplace_back();
  put(p);
  chains_.back().corners.push_back({p});
}

void Chains::line_to(const Vec2& p) {
  put(p);
  corner(p, 0);
  count(Stroke::chord);
}

void Chains::bulge_to(const Vec2& p, double bulge) {
  const Vec2 a = chains_.back().points.back();
  // A radius of a million chords is a line's.
  if (std::abs(bulge) < 2.5e-7) return line_to(p);
  if (p == a) return;
  piece_to(p, bulge);
  count(Stroke::arc);
}

void Chains::arc_to(const Vec2& centre, double sweep) {
  const Vec2 a = chains_.back().points.back();
  const int parts = std::max(1, static_cast<int>(std::ceil(std::abs(sweep) / (kPi / 2) - 1e-9)));
  for (int k = 1; k <= parts; ++k)
    piece_to(centre + turned(a - centre, sweep * k / parts), std::tan(sweep / parts / 4));
  count(Stroke::arc);
}

/// An arc that ends at `p`.
void Chains::piece_to(const Vec2& p, double bulge) {
  const Vec2 a = chains_.back().points.back();
  if (p == a) return;
  const double angle = 4 * std::atan(bulge);
  const auto [centre, radius] = curve::circle_of(a, bulge, p);
  const double step = 2 * std::acos(std::max(-1.0, 1 - chord_error_ / radius)),
               chords = std::ceil(std::abs(angle) / step);
  if (!(chords + static_cast<double>(points_) < static_cast<double>(kMostPoints))) {
    throw FileError(
        fmt::format("it has arcs so large (one of radius {:.4g} mm) that they would take more than {} "
                    "chords; no gear has such",
                    radius, kMostPoints));
  }
  const int number = std::max(1, static_cast<int>(chords));
  for (int k = 1; k <= number; ++k)
    put(k == number ? p : Vec2(centre + turned(a - centre, angle * k / number)));
  corner(p, bulge);
}

void Chains::close() {
  auto& points = chains_.back().points;
  if (points.size() > 1 && points.front() != points.back()) line_to(points.front());
}

void Chains::join(Chain& whole, Chain piece, bool backwards) {
  if (backwards) std::reverse(piece.points.begin(), piece.points.end()), reverse(piece.corners);
  whole.points.insert(whole.points.end(), piece.points.begin() + 1, piece.points.end());
  whole.corners.back().bulge = piece.corners.front().bulge;
  whole.corners.insert(whole.corners.end(), piece.corners.begin() + 1, piece.corners.end());
  for (std::size_t s = 0; s < whole.strokes.size(); ++s)
    whole.strokes[s] += piece.strokes[s];
}

Drawing Chains::finish() {
  Drawing drawing;
  math::Extent across, up;
  for (const Chain& c : chains_) {
    for (const Vec2& p : c.points)
      across.hold(p.x()), up.hold(p.y());
  }
  if (across.empty()) return drawing;
  const double furthest =
      std::max({std::abs(across.low()), std::abs(across.high()), std::abs(up.low()), std::abs(up.high())});
  const double reach = std::max({1e-12, kMeets * std::max(across.size(), up.size()), 1e-9 * furthest});
  const auto keep = [&](const Chain& chain) {
    std::vector<Vec2> clean;
    for (const Vec2& p : chain.points) {
      if (clean.empty() || p != clean.back()) clean.push_back(p);
    }
    while (clean.size() > 1 && (clean.front() - clean.back()).norm() <= reach * 1e-3)
      clean.pop_back();
    if (clean.size() < 3) return;
    // The end is the beginning again, or within reach of it.
    std::vector<Corner> corners;
    for (const Corner& c : chain.corners) {
      if (!corners.empty() && c.p == corners.back().p)
        corners.back().bulge = c.bulge;
      else
        corners.push_back(c);
    }
    if (corners.size() > 1) corners.pop_back();
    Loop loop{std::move(clean), std::move(corners), chain.strokes};
    measure(loop);
    if (loop.area > 0) drawing.loops.push_back(std::move(loop));
  };
  Ends ends(reach);
  std::vector<bool> used(chains_.size(), false);
  for (std::size_t i = 0; i < chains_.size(); ++i) {
    Chain& c = chains_[i];
    if (c.points.size() < 2) used[i] = true;
    if (used[i]) continue;
    if (c.points.size() > 3 && (c.points.front() - c.points.back()).norm() <= reach) {
      used[i] = true;
      keep(c);
      continue;
    }
    ends.add({i, false, c.points.front()});
    ends.add({i, true, c.points.back()});
  }
  for (std::size_t i = 0; i < chains_.size(); ++i) {
    if (used[i]) continue;
    const auto take = [&](std::size_t k) {
      used[k] = true;
      ends.remove(k, chains_[k].points.front());
      ends.remove(k, chains_[k].points.back());
    };
    Chain whole = chains_[i];
    take(i);
    while (true) {
      const Ends::End* next = ends.nearest(whole.points.back());
      const double home = (whole.points.back() - whole.points.front()).norm();
      if (whole.points.size() > 2 && home <= reach && (!next || home <= (next->at - whole.points.back()).norm())) break;
      if (!next) break;
      const std::size_t k = next->chain;
      const bool backwards = next->last;
      Chain piece = chains_[k];
      take(k);
      join(whole, std::move(piece), backwards);
    }
    if (whole.points.size() > 2 && (whole.points.back() - whole.points.front()).norm() <= reach)
      keep(whole);
    else
      ++drawing.open;
  }
  chains_.clear();
  std::stable_sort(drawing.loops.begin(), drawing.loops.end(),
                   [](const Loop& a, const Loop& b) { return a.area > b.area; });
  return drawing;
}

Drawing joined(const std::vector<curve::Piece>& pieces) {
  Chains chains(1);  // nothing bends
  for (const curve::Piece& piece : pieces) {
    if (!piece.from.allFinite() || !piece.to.allFinite() || piece.from == piece.to) continue;
    chains.move_to(piece.from);
    chains.line_to(piece.to);
  }
  return chains.finish();
}

}  // namespace palio::drawn
