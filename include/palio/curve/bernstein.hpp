// Interpolation in Bernstein polynomials. For curves, and for surfaces of the STEP module.
#pragma once

#include <Eigen/Core>
#include <functional>
#include <vector>

namespace palio::curve {

/// Bernstein values of one degree at u in [0, 1].
Eigen::VectorXd bernstein(int degree, double u);

/// Chebyshev–Lobatto nodes on [0, 1]: the ends are among them, so neighbouring spans meet.
std::vector<double> nodes(int degree);

/// From values at the nodes to poles; for the degrees 1, 7, 9, 12, 15, 18 and 21.
const Eigen::MatrixXd& inverse_bernstein(int degree);

/// A spline in Bézier spans through a vector-valued function: poles are rows, spans · degree + 1 of them.
struct Fit {
  int degree = 0;
  std::vector<double> breaks;  ///< parameter at the ends of the spans
  Eigen::MatrixXd poles;
  double deviation = 0;  ///< largest distance from the function at equal parameter, between the nodes

  Eigen::VectorXd at(double t) const;
};

/// One span of the least degree that is within `tolerance`, or as few spans of degree 9 as are.
/// \throws NoConvergence when 32 spans do not suffice
Fit fit(const std::function<Eigen::VectorXd(double)>& f, double from, double to, double tolerance);

/// The same over two parameters, v in one span: poles of coordinate c at (i, j) are poles[c](i, j).
struct PatchFit {
  int degree_u = 0, degree_v = 0;
  std::vector<double> breaks_u;
  std::vector<Eigen::MatrixXd> poles;
  double deviation = 0;
};
PatchFit fit_patch(const std::function<Eigen::Vector3d(double, double)>& f, double u0, double u1, double v0, double v1,
                   double tolerance);

}  // namespace palio::curve
