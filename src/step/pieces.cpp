#include "pieces.hpp"

#include <BRep_Builder.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Line.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <algorithm>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::step {

using curve::Arc;
using curve::Line;
using curve::Segment;

TopoDS_Edge edge(const Handle(Geom_Curve) & curve, double first, double last, const TopoDS_Vertex& from,
                 const TopoDS_Vertex& to) {
  const BRep_Builder build;
  TopoDS_Edge e;
  build.MakeEdge(e, curve, kTolerance);
  build.Add(e, from.Oriented(TopAbs_FORWARD));
  build.Add(e, to.Oriented(TopAbs_REVERSED));
  build.Range(e, first, last);
  return e;
}

Seams seams(const std::vector<body::Tunnel>& tunnels) {
  Seams best;
  double most = -math::kInfinite;
  constexpr int kMostParts = 8, kPlaces = 180;
  constexpr double kEnough = 0.03;  // [rad] between a seam and a tunnel
  for (int parts = 2; parts <= kMostParts && most < kEnough && !tunnels.empty(); ++parts) {
    for (int k = 0; k < kPlaces; ++k) {
      const double pitch = 2 * kPi / parts, from = pitch * k / kPlaces;
      double least = math::kInfinite;
      for (const body::Tunnel& t : tunnels) {
        const double half = t.inner.round ? std::asin(t.radius / t.inner.distance) : t.radius / t.inner.distance;
        least = std::min(least, std::abs(std::remainder(t.angle - from, pitch)) - half);
      }
      if (least > most + math::kAlike) most = least, best = {parts, from};
    }
  }
  return best;
}

namespace {

Handle(Geom_BSplineCurve) kernel_spline(const curve::SplineCopy& s, double turn) {
  TColgp_Array1OfPnt poles(1, static_cast<int>(s.poles.size()));
  for (std::size_t i = 0; i < s.poles.size(); ++i)
    poles.SetValue(static_cast<int>(i) + 1, at(turn == 0 ? s.poles[i] : turned(s.poles[i], turn), 0));
  const int count = static_cast<int>(s.breaks.size());
  TColStd_Array1OfReal knots(1, count);
  TColStd_Array1OfInteger times(1, count);
  for (int i = 1; i <= count; ++i) {
    knots.SetValue(i, s.breaks[static_cast<std::size_t>(i) - 1]);
    times.SetValue(i, i == 1 || i == count ? s.degree + 1 : s.degree);
  }
  return new Geom_BSplineCurve(poles, knots, times, s.degree);
}

/// The parameters that cut an arc into pieces, its ends with them: none spans much more than half a turn.
std::vector<double> cuts(const Segment& s, const Seams& seams, const std::vector<body::Tunnel>& tunnels) {
  const double span = std::abs(s.to - s.from);
  if (span > 2 * kPi - math::kAlike && std::get<Arc>(s.curve).centre.norm() < math::kAlike) {
    const double first = tunnels.empty() ? std::min(s.from, s.to) : seams.from;
    std::vector<double> all;
    for (int i = 0; i <= seams.parts; ++i)
      all.push_back(first + 2 * kPi * (s.sense() > 0 ? i : seams.parts - i) / seams.parts);
    return all;
  }
  if (span <= 0.99 * kPi) return {s.from, s.to};
  double best = 0.5, most = -math::kInfinite;
  for (const double share : {0.5, 0.4, 0.6, 0.3, 0.7}) {
    double least = math::kInfinite;
    for (const body::Tunnel& t : tunnels)
      least = std::min(least, std::abs(std::remainder(s.from + share * (s.to - s.from) - t.angle, 2 * kPi)));
    if (least > most + math::kAlike) most = least, best = share;
  }
  return {s.from, s.from + best * (s.to - s.from), s.to};
}

}  // namespace

std::vector<Piece> pieces(const curve::Outline& outline, double tolerance, double& deviation, bool as_splines,
                          const Seams& seams, const std::vector<body::Tunnel>& tunnels) {
  // Splines are fitted for one period and turned for the others.
  std::vector<curve::SplineCopy> splines(outline.period.size());
  std::vector<Segment> period;
  std::vector<int> spline_of;
  std::vector<std::size_t> of;
  for (std::size_t k = 0; k < outline.period.size(); ++k) {
    const Segment& s = outline.period[k];
    if (std::holds_alternative<Arc>(s.curve) && !as_splines) {
      const std::vector<double> at = cuts(s, seams, tunnels);
      for (std::size_t i = 0; i + 1 < at.size(); ++i) {
        period.push_back({s.curve, at[i], at[i + 1], s.role});
        spline_of.push_back(-1);
        of.push_back(k);
      }
      continue;
    }
    period.push_back(s);
    spline_of.push_back(-1);
    of.push_back(k);
    if (as_splines || !std::holds_alternative<Line>(s.curve)) {
      spline_of.back() = static_cast<int>(period.size()) - 1;
      splines.resize(std::max(splines.size(), period.size()));
      splines[period.size() - 1] = curve::spline_copy(s, tolerance);
      deviation = std::max(deviation, splines[period.size() - 1].deviation);
    }
  }
  std::vector<Piece> all;
  for (int copy = 0; copy < outline.count; ++copy) {
    const double turn = outline.turn(copy);
    for (std::size_t i = 0; i < period.size(); ++i) {
      Piece p{static_cast<std::size_t>(copy) * outline.period.size() + of[i], turned(period[i], turn), {}, 0, 0, false};
      if (const Arc* arc = std::get_if<Arc>(&p.segment.curve); arc && spline_of[i] < 0) {
        p.flat = new Geom_Circle(gp_Ax2(at(arc->centre, 0), gp::DZ(), gp::DX()), arc->radius);
        p.against = p.segment.to < p.segment.from;
        p.first = std::min(p.segment.from, p.segment.to);
        p.last = std::max(p.segment.from, p.segment.to);
      } else if (spline_of[i] >= 0) {
        const curve::SplineCopy& s = splines[static_cast<std::size_t>(spline_of[i])];
        p.flat = kernel_spline(s, turn);
        p.first = s.breaks.front();
        p.last = s.breaks.back();
      } else {
        const Vec2 a = p.segment.first(), b = p.segment.last();
        p.flat = new Geom_Line(at(a, 0), gp_Dir(b.x() - a.x(), b.y() - a.y(), 0));
        p.last = (b - a).norm();
      }
      all.push_back(std::move(p));
    }
  }
  return all;
}

}  // namespace palio::step
