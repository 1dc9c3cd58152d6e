#include "palio/curve/bernstein.hpp"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"

namespace palio::curve {
/// Bernstein values of one degree at u in [0, 1].
Eigen::VectorXd bernstein(int degree, double u) {
  Eigen::VectorXd b = Eigen::VectorXd::Zero(degree + 1);
  b[0] = 1;
  for (int k = 1; k <= degree; ++k) {
    for (int i = k; i > 0; --i)
      b[i] = (1 - u) * b[i] + u * b[i - 1];
    b[0] *= 1 - u;
  }
  return b;
}

/// Chebyshev–Lobatto nodes on [0, 1]: the ends are among them, so neighbouring spans meet.
std::vector<double> nodes(int degree) {
  std::vector<double> u(degree + 1);
  for (int i = 0; i <= degree; ++i)
    u[i] = 0.5 * (1 - std::cos(kPi * i / degree));
  u.front() = 0;
  u.back() = 1;
  return u;
}

const Eigen::MatrixXd& inverse_bernstein(int degree) {
  static const auto table = [] {
    std::map<int, Eigen::MatrixXd> all;
    for (const int d : {1, 7, 9, 12, 15, 18, 21}) {
      const std::vector<double> u = nodes(d);
      Eigen::MatrixXd m(d + 1, d + 1);
      for (int i = 0; i <= d; ++i)
        m.row(i) = bernstein(d, u[i]);
      all[d] = m.inverse();
    }
    return all;
  }();
  return table.at(degree);
}

namespace {

std::size_t span_of(const std::vector<double>& breaks, double t) {
  std::size_t span = 0;
  while (span + 2 < breaks.size() && t > breaks[span + 1])
    ++span;
  return span;
}

double place(double x, double from, double to) { return x == 1 ? to : from + x * (to - from); }

/// Degrees to try, each with its number of spans.
constexpr std::pair<int, int> kTries[] = {{1, 1},  {7, 1}, {9, 1}, {12, 1}, {15, 1}, {18, 1},
                                          {21, 1}, {9, 4}, {9, 8}, {9, 16}, {9, 32}};

std::vector<double> even(double from, double to, int spans) {
  std::vector<double> breaks;
  for (int k = 0; k <= spans; ++k)
    breaks.push_back(place(static_cast<double>(k) / spans, from, to));
  return breaks;
}

}  // namespace

Eigen::VectorXd Fit::at(double t) const {
  const std::size_t k = span_of(breaks, t);
  return poles.middleRows(static_cast<Eigen::Index>(k) * degree, degree + 1).transpose() *
         bernstein(degree, (t - breaks[k]) / (breaks[k + 1] - breaks[k]));
}

Fit fit(const std::function<Eigen::VectorXd(double)>& f, double from, double to, double tolerance) {
  Fit best;
  for (const auto& [degree, spans] : kTries) {
    const std::vector<double> u = nodes(degree);
    best = {degree, even(from, to, spans), Eigen::MatrixXd(spans * degree + 1, f(from).size()), 0};
    for (int k = 0; k < spans; ++k) {
      Eigen::MatrixXd values(degree + 1, best.poles.cols());
      for (int i = 0; i <= degree; ++i)
        values.row(i) = f(place(u[static_cast<std::size_t>(i)], best.breaks[static_cast<std::size_t>(k)],
                                best.breaks[static_cast<std::size_t>(k) + 1]));
      Eigen::MatrixXd poles = inverse_bernstein(degree) * values;
      poles.row(0) = values.row(0), poles.row(degree) = values.row(degree);
      best.poles.middleRows(Eigen::Index{k} * degree, degree + 1) = poles;
    }
    const int looks = 24 * spans;
    for (int i = 1; i < looks && best.deviation <= tolerance; ++i) {
      const double t = place(static_cast<double>(i) / looks, from, to);
      best.deviation = std::max(best.deviation, (best.at(t) - f(t)).norm());
    }
    if (best.deviation <= tolerance) return best;
  }
  throw NoConvergence(fmt::format("a spline of degree 9 in 32 spans strays {:.3g} from the curve, {:.3g} allowed",
                                  best.deviation, tolerance));
}

PatchFit fit_patch(const std::function<Eigen::Vector3d(double, double)>& f, double u0, double u1, double v0, double v1,
                   double tolerance) {
  // Degree and spans each way are what lines of the patch need.
  PatchFit made;
  std::size_t spans = 1;
  for (const double x : {0.0, 0.37, 0.71, 1.0}) {
    const Fit across =
        fit([&](double u) -> Eigen::VectorXd { return f(u, v0 + x * (v1 - v0)); }, u0, u1, tolerance / 4);
    const Fit along = fit([&](double v) -> Eigen::VectorXd { return f(u0 + x * (u1 - u0), v); }, v0, v1, tolerance / 4);
    if (across.breaks.size() - 1 > spans || (across.breaks.size() - 1 == spans && across.degree > made.degree_u)) {
      spans = across.breaks.size() - 1, made.degree_u = across.degree;
    }
    made.degree_v = std::max(made.degree_v, along.degree);
  }
  made.breaks_u = even(u0, u1, static_cast<int>(spans));
  const int du = made.degree_u, dv = made.degree_v;
  const std::vector<double> a = nodes(du), b = nodes(dv);
  made.poles.assign(3, Eigen::MatrixXd(static_cast<Eigen::Index>(spans) * du + 1, dv + 1));
  for (std::size_t k = 0; k < spans; ++k) {
    std::vector<Eigen::MatrixXd> values(3, Eigen::MatrixXd(du + 1, dv + 1));
    for (int i = 0; i <= du; ++i) {
      for (int j = 0; j <= dv; ++j) {
        const Eigen::Vector3d p = f(place(a[static_cast<std::size_t>(i)], made.breaks_u[k], made.breaks_u[k + 1]),
                                    place(b[static_cast<std::size_t>(j)], v0, v1));
        for (std::size_t c = 0; c < 3; ++c)
          values[c](i, j) = p[static_cast<Eigen::Index>(c)];
      }
    }
    for (std::size_t c = 0; c < 3; ++c) {
      made.poles[c].middleRows(static_cast<Eigen::Index>(k) * du, du + 1) =
          inverse_bernstein(du) * values[c] * inverse_bernstein(dv).transpose();
    }
  }
  const int looks = 16 * static_cast<int>(spans);
  for (int i = 0; i <= looks; ++i) {
    for (int j = 0; j <= 8; ++j) {
      const double t = place(static_cast<double>(i) / looks, u0, u1), y = j / 8.0;
      const std::size_t k = span_of(made.breaks_u, t);
      const Eigen::VectorXd bu = bernstein(du, (t - made.breaks_u[k]) / (made.breaks_u[k + 1] - made.breaks_u[k])),
                            bv = bernstein(dv, y);
      Eigen::Vector3d p;
      for (std::size_t c = 0; c < 3; ++c) {
        p[static_cast<Eigen::Index>(c)] =
            bu.dot(made.poles[c].middleRows(static_cast<Eigen::Index>(k) * du, du + 1) * bv);
      }
      made.deviation = std::max(made.deviation, (p - f(t, place(y, v0, v1))).norm());
    }
  }
  if (made.deviation > tolerance)
    throw NoConvergence(fmt::format("a patch strays {:.3g} mm, {:.3g} mm allowed", made.deviation, tolerance));
  return made;
}

}  // namespace palio::curve
