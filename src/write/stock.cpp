#include "palio/write/stock.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "arcs.hpp"
#include "palio/body/clear.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/utf8.hpp"

namespace palio::write {
namespace {

/// One piece of a loop, a line or an arc.
struct Stretch {
  Vec2 from, to;
  double bulge, length, begins;  // the last two along the loop [mm]
  curve::Role role;

  double ends() const { return begins + length; }
  Vec2 at(double s) const {
    const double part = (s - begins) / length;
    if (is_straight(from, bulge, to)) return from + part * (to - from);
    const curve::Arc c = curve::circle_of(from, bulge, to);
    return c.centre + turned(Vec2(from - c.centre), part * 4 * std::atan(bulge));
  }
  /// Of the piece between two places on it.
  double bulge_between(double a, double b) const { return std::tan(std::atan(bulge) * (b - a) / length); }
};

std::vector<Stretch> stretches(const curve::BulgedLoop& loop) {
  std::vector<Stretch> all;
  all.reserve(loop.points.size());
  double along = 0;
  for (std::size_t i = 0; i < loop.points.size(); ++i) {
    const curve::BulgedPoint& a = loop.points[i];
    const Vec2& b = loop.points[(i + 1) % loop.points.size()].p;
    const double length = is_straight(a.p, a.bulge, b)
                              ? (b - a.p).norm()
                              : curve::circle_of(a.p, a.bulge, b).radius * 4 * std::atan(std::abs(a.bulge));
    all.push_back({a.p, b, a.bulge, length, along, a.role});
    along += length;
  }
  return all;
}

/// Where the cut stops and goes on again, from an interval to the next one along the loop [mm].
struct Gap {
  double from, to;
};

constexpr double kRoom = 1.2;  // of a tab's width, that a piece must have which it stands on

/// The widest tab that stands on a piece with one of the roles [mm].
double widest_on(const std::vector<Stretch>& all, const std::set<curve::Role>& roles) {
  double widest = 0;
  for (const Stretch& s : all) {
    if (roles.count(s.role) > 0) widest = std::max(widest, s.length / kRoom);
  }
  return widest;
}

/// The places of the tabs: each as near as can be to where even spreading would have it.
std::vector<Gap> places_of_tabs(const std::vector<Stretch>& all, const Tabs& tabs, const std::set<curve::Role>& roles) {
  const double round = all.back().ends();
  std::vector<Gap> found;
  for (int k = 0; k < tabs.count; ++k) {
    const double wanted = round * (k + 0.5) / tabs.count;
    std::optional<double> best;
    for (const Stretch& s : all) {
      if (roles.count(s.role) == 0 || s.length < kRoom * tabs.width) continue;
      const double rim = kRoom / 2 * tabs.width, middle = std::clamp(wanted, s.begins + rim, s.ends() - rim);
      const bool taken = std::any_of(found.begin(), found.end(), [&](const Gap& g) {
        return std::abs(middle - (g.from + g.to) / 2) < 2 * tabs.width;
      });
      if (!taken && (!best || std::abs(middle - wanted) < std::abs(*best - wanted))) best = middle;
    }
    if (!best) break;
    found.push_back({*best - tabs.width / 2, *best + tabs.width / 2});
  }
  std::sort(found.begin(), found.end(), [](const Gap& a, const Gap& b) { return a.from < b.from; });
  return found;
}

}  // namespace

std::vector<curve::BulgedLoop> with_tabs(const curve::BulgedLoop& loop, const Tabs& tabs) {
  const std::vector<Stretch> all = stretches(loop);
  // Flanks stay whole. Roots do too, unless the teeth are pointed.
  std::set<curve::Role> roles{curve::Role::tip, curve::Role::body};
  const double before = widest_on(all, roles);
  if (before < tabs.width && widest_on(all, {curve::Role::root}) > before) roles = {curve::Role::root};
  const std::vector<Gap> gaps = places_of_tabs(all, tabs, roles);
  if (gaps.size() < static_cast<std::size_t>(tabs.count)) {
    throw InvalidParameter("tabs", fmt::format("{} of {:.4g} mm", tabs.count, tabs.width),
                           fmt::format("there is room for {}, on tips, pointed teeth's roots and beside the teeth, "
                                       "where they may be {:.3g} mm wide, kerf included",
                                       gaps.size(), widest_on(all, roles)),
                           "give fewer or narrower ones");
  }
  std::vector<curve::BulgedLoop> chains;
  const double round = all.back().ends();
  for (std::size_t g = 0; g < gaps.size(); ++g) {
    // From the end of one gap to the begin of the next, round the end of the loop.
    const double from = gaps[g].to, to = g + 1 < gaps.size() ? gaps[g + 1].from : gaps[0].from + round;
    curve::BulgedLoop chain;
    chain.deviation = loop.deviation;
    Vec2 end = Vec2::Zero();
    for (const double lap : {0.0, round}) {
      for (const Stretch& s : all) {
        const double a = std::max(from, s.begins + lap) - lap, b = std::min(to, s.ends() + lap) - lap;
        if (b <= a) continue;
        chain.points.push_back({a > s.begins ? s.at(a) : s.from, s.bulge_between(a, b), s.role});
        end = b < s.ends() ? s.at(b) : s.to;
      }
    }
    chain.points.push_back({end, 0, curve::Role::body});
    chains.push_back(std::move(chain));
  }
  return chains;
}

std::optional<Label> label_within(const std::vector<curve::Outline>& loops, double turn, const std::string& text,
                                  double greatest) {
  constexpr int kGrid = 96;
  constexpr double kLeast = 1, kSmaller = 0.85;  // [mm], from one height to the next
  constexpr double kAcross = 0.85,
                   kAround = 0.75;  // of the capitals' height: of a letter, clear around the middle line
  std::vector<body::Shape> shapes;
  math::Extent x, y;
  for (const curve::Outline& o : loops) {
    shapes.emplace_back(o);
    for (const Vec2& p : shapes.back().points()) {
      const Vec2 q = turned(p, turn);
      x.hold(q.x()), y.hold(q.y());
    }
  }
  const double step = std::max(x.high() - x.low(), y.high() - y.low()) / kGrid;
  const auto clear = [&](const Vec2& at) {
    const Vec2 p = turned(at, -turn);
    double least = math::kInfinite;
    for (const body::Shape& s : shapes) {
      if (s.holds(p) != (s.orientation() > 0)) return 0.0;
      least = std::min(least, s.distance(p));
    }
    return least;
  };
  std::vector<std::vector<double>> rows;
  for (double v = y.low(); v <= y.high(); v += step) {
    rows.emplace_back();
    for (double u = x.low(); u <= x.high(); u += step)
      rows.back().push_back(clear({u, v}));
  }
  const auto letters = static_cast<double>(columns(text));
  for (double height = greatest; height >= kLeast; height *= kSmaller) {
    const double width = letters * kAcross * height;
    // Between two places of the grid what is clear falls by half their distance at most.
    const double asked = kAround * height + step / 2;
    const auto run = static_cast<std::size_t>(std::ceil(width / step)) + 1;
    double best = 0;
    std::optional<Label> found;
    for (std::size_t r = 0; r < rows.size(); ++r) {
      std::size_t length = 0;
      for (std::size_t c = 0; c < rows[r].size(); ++c) {
        length = rows[r][c] >= asked ? length + 1 : 0;
        if (length < run) continue;
        const double room = rows[r][c - run / 2];
        if (room <= best) continue;
        best = room;
        const double middle = x.low() + step * (static_cast<double>(c) - static_cast<double>(run - 1) / 2);
        found = {text, {middle - width / 2, y.low() + step * static_cast<double>(r) - height / 2}, width, height};
      }
    }
    if (found) return found;
  }
  return std::nullopt;
}

}  // namespace palio::write
