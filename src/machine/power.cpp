#include "palio/machine/power.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <Eigen/Dense>

#include "palio/error.hpp"

namespace palio::machine {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

/// How a unit of tooth force turns the members of a mesh, its losses included where one side drives.
VectorXd torques(const Mesh& m, std::size_t members, bool from_a) {
  VectorXd t = VectorXd::Zero(static_cast<Eigen::Index>(members));
  const auto at = [](std::size_t i) { return static_cast<Eigen::Index>(i); };
  const double of_a = static_cast<double>(m.teeth_a), of_b = static_cast<double>(m.opposite ? m.teeth_b : -m.teeth_b);
  // What the driven side gets is less; whatever drives is loaded with all of it.
  const double eta = from_a ? m.efficiency : 1 / m.efficiency_backwards;
  t[at(m.a)] += of_a, t[at(m.b)] += eta * of_b;
  if (m.carrier) t[at(*m.carrier)] -= of_a + (m.inclined ? 0 : eta * of_b);
  return t;
}

}  // namespace

Tie Mesh::tie() const {
  if (inclined && carrier) return inclined_mesh(name, a, teeth_a, b, teeth_b, opposite, *carrier);
  return mesh(name, a, teeth_a, b, teeth_b, opposite, carrier);
}

Flow flow(std::size_t members, const std::vector<Mesh>& meshes, std::size_t input, std::size_t output,
          const std::vector<std::size_t>& held) {
  std::vector<Tie> ties;
  ties.reserve(meshes.size());
  for (const Mesh& m : meshes)
    ties.push_back(m.tie());
  const Motion motion = Speeds(members, ties).turned(input, held);
  if (std::find(held.begin(), held.end(), output) != held.end())
    throw InvalidParameter("output", std::to_string(output), "a member that is not held", "let it turn");
  if (motion.locked || output >= members || !motion.turns[output]) {
    throw InvalidParameter("input", motion.locked ? "locked" : "turned, and the output is loose",
                           "a machine in which the input moves the output in one way",
                           motion.locked ? "hold less, or leave a mesh out" : "hold another member");
  }
  Flow f;
  for (const auto& t : motion.turns)
    f.turns.push_back(t ? t->value : 0);

  // Every member is in balance: mesh forces, held torques, the output's; the input's is 1.
  const auto n = static_cast<Eigen::Index>(members), count = static_cast<Eigen::Index>(meshes.size()),
             holds = static_cast<Eigen::Index>(held.size());
  std::vector<bool> from_a(meshes.size(), true);
  VectorXd x;
  MatrixXd a;
  const auto rolling = [&](const Mesh& m, double force) {
    return force * static_cast<double>(m.teeth_a) * (f.turns[m.a] - (m.carrier ? f.turns[*m.carrier] : 0));
  };
  constexpr int kMostRounds = 50;
  for (int round = 0; round < kMostRounds; ++round) {
    a = MatrixXd::Zero(n, count + holds + 1);
    for (Eigen::Index i = 0; i < count; ++i)
      a.col(i) = torques(meshes[static_cast<std::size_t>(i)], members, from_a[static_cast<std::size_t>(i)]);
    for (Eigen::Index i = 0; i < holds; ++i)
      a(static_cast<Eigen::Index>(held[static_cast<std::size_t>(i)]), count + i) = 1;
    a(static_cast<Eigen::Index>(output), count + holds) += 1;
    VectorXd right = VectorXd::Zero(n);
    right[static_cast<Eigen::Index>(input)] = -1;
    const Eigen::CompleteOrthogonalDecomposition<MatrixXd> solver(a);
    x = solver.solve(right);
    f.shared = solver.rank() < a.cols();
    bool changed = false;
    for (std::size_t i = 0; i < meshes.size(); ++i) {
      // The force on a is against what drives it: it takes power out of a where a drives.
      const bool drives = rolling(meshes[i], x[static_cast<Eigen::Index>(i)]) <= 0;
      changed = changed || drives != from_a[i];
      from_a[i] = drives;
    }
    if (!changed) break;
  }
  f.torque.assign(members, 0);
  f.torque[input] += 1;
  f.torque[output] += x[count + holds];
  for (Eigen::Index i = 0; i < holds; ++i)
    f.torque[held[static_cast<std::size_t>(i)]] += x[count + i];
  for (std::size_t i = 0; i < members; ++i)
    f.power.push_back(f.torque[i] * f.turns[i]);
  for (Eigen::Index i = 0; i < n; ++i) {
    double forward = std::max(0.0, f.torque[static_cast<std::size_t>(i)]);
    for (Eigen::Index k = 0; k < count; ++k)
      forward += std::max(0.0, a(i, k) * x[k]);
    f.carried.push_back(forward);
  }
  f.circulating = 0;
  for (std::size_t i = 0; i < meshes.size(); ++i) {
    const double through = std::abs(rolling(meshes[i], x[static_cast<Eigen::Index>(i)]));
    // Seen from a: what b gets or gives is η times that, or 1/η.
    const double eta = from_a[i] ? meshes[i].efficiency : 1 / meshes[i].efficiency_backwards;
    f.meshes.push_back({std::max(through, eta * through), std::abs(1 - eta) * through, from_a[i]});
    f.circulating = std::max(f.circulating, f.meshes.back().rolling);
  }
  f.efficiency = output == input ? 1 : -f.power[output];
  return f;
}

}  // namespace palio::machine
