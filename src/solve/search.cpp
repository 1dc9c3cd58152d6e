#include "search.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <Eigen/Dense>
#include <boost/math/tools/minima.hpp>
#include <unsupported/Eigen/NonLinearOptimization>

#include "palio/math/roots.hpp"

namespace palio::solve {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

/// Two places nearer than this are one [of the whole range].
constexpr double kSame = 1e-7;

Place place_of(const VectorXd& u) { return {u.data(), u.data() + u.size()}; }
VectorXd vector_of(const Place& at) {
  return Eigen::Map<const VectorXd>(at.data(), static_cast<Eigen::Index>(at.size()));
}

void add_new(std::vector<Spot>& all, Spot spot) {
  const auto same = [&](const Spot& s) {
    double apart = 0;
    for (std::size_t i = 0; i < s.at.size(); ++i)
      apart = std::max(apart, std::abs(s.at[i] - spot.at[i]));
    return apart < kSame;
  };
  const auto it = std::find_if(all.begin(), all.end(), same);
  if (it == all.end()) return all.push_back(std::move(spot));
  if (spot.outcome.missed() < it->outcome.missed()) *it = std::move(spot);
}

/// Keeps the best by the aim.
void keep_best(std::vector<Spot>& all) {
  if (all.size() < 2) return;
  const auto best = std::max_element(all.begin(), all.end(),
                                     [](const Spot& a, const Spot& b) { return a.outcome.aim < b.outcome.aim; });
  all = {*best};
}

/// The line of one unknown.
class Line {
 public:
  Line(const BlackBox& box, const Search& search) : box_(box), search_(search) {
    if (search.brief && hopeless()) return;
    std::vector<double> at;
    for (std::size_t i = 0; i <= search.grid; ++i)
      at.push_back(static_cast<double>(i) / static_cast<double>(search.grid));
    const int kAround = search.brief ? 4 : 12;
    for (const Place& seed : search.seeds) {
      for (int k = -kAround; k <= kAround; ++k)
        at.push_back(seed[0] + k * std::abs(k) / (400.0 * kAround));
    }
    sample(at);
    if (samples_.empty()) return;
    border();
    refine();
    lead();
  }

  std::vector<Spot> solutions() {
    std::vector<Spot> found;
    for (const Sample& s : samples_)
      take(s, found);
    const std::size_t equalities = samples_.empty() ? 0 : samples_[0].outcome->off.size();
    for (std::size_t i = 0; equalities > 0 && i + 1 < samples_.size(); ++i) {
      if (joined(i)) between(samples_[i], samples_[i + 1], found);
      if (i > 0 && joined(i - 1) && joined(i)) touching(i, found);
    }
    if (equalities == 0 && search_.aims) rise(found);
    if (search_.aims) keep_best(found);
    // Without equalities every place of the grid that holds would be one: the middle of each stretch stands for it.
    if (equalities == 0 && !search_.aims) return middles();
    return found;
  }

  std::optional<Spot> least() {
    const Sample* best = nullptr;
    for (const Sample& s : samples_) {
      if (!best || s.outcome->missed() < best->outcome->missed()) best = &s;
    }
    if (!best) return std::nullopt;
    Spot spot{{best->u}, *best->outcome};
    const auto missed = [&](double u) {
      const auto o = box_({u});
      return o ? o->missed() : std::numeric_limits<double>::max();
    };
    const auto i = static_cast<std::size_t>(best - samples_.data());
    const double lo = samples_[i == 0 ? 0 : i - 1].u, hi = samples_[std::min(i + 1, samples_.size() - 1)].u;
    if (hi > lo) {
      const auto [u, value] = boost::math::tools::brent_find_minima(missed, lo, hi, 50);
      if (value < spot.outcome.missed()) spot = {{u}, *box_({u})};
    }
    return spot;
  }

 private:
  struct Sample {
    double u;
    std::optional<Outcome> outcome;
  };

  /// Whether at a few places one condition is missed by far more than it changes from each to the next, everywhere.
  bool hopeless() {
    constexpr int kPlaces = 12;
    std::vector<Outcome> few;
    const auto look = [&](double u) {
      if (auto o = box_({u})) few.push_back(std::move(*o));
    };
    for (int i = 0; i <= kPlaces; ++i)
      look(static_cast<double>(i) / kPlaces);
    for (const Place& seed : search_.seeds) {
      for (const double apart : {-0.02, 0.0, 0.02})
        look(std::clamp(seed[0] + apart, 0.0, 1.0));
    }
    constexpr std::size_t kEnough = 4;
    if (few.size() < kEnough) return false;  // what can be made lies in a narrow stretch: look closer
    const auto far = [&](auto conditions) {
      for (std::size_t c = 0; c < (few[0].*conditions).size(); ++c) {
        double least = std::numeric_limits<double>::infinity(), low = least, high = -least;
        for (const Outcome& o : few) {
          const double missed = (o.*conditions)[c];
          least = std::min(least, std::abs(missed)), low = std::min(low, missed), high = std::max(high, missed);
        }
        if (least > 2 * (high - low)) return true;
      }
      return false;
    };
    return far(&Outcome::off) || far(&Outcome::over);
  }

  /// The equality that is followed: one that the unknown decides. Others may hold wherever it is, by whole numbers
  /// alone.
  void lead() {
    for (std::size_t c = 0; c < samples_[0].outcome->off.size(); ++c) {
      double low = samples_[0].outcome->off[c], high = low;
      for (const Sample& s : samples_)
        low = std::min(low, s.outcome->off[c]), high = std::max(high, s.outcome->off[c]);
      if (high - low <= kHolds) continue;
      lead_ = c;
      return;
    }
  }

  double off(double u) const {
    const auto o = box_({u});
    return o ? o->off[lead_] : std::numeric_limits<double>::quiet_NaN();
  }

  void sample(std::vector<double> at) {
    std::sort(at.begin(), at.end());
    at.erase(std::unique(at.begin(), at.end()), at.end());
    for (const double u : at) {
      if (u < 0 || u > 1) continue;
      nodes_.push_back({u, box_({u})});
    }
    collect();
  }

  void collect() {
    samples_.clear();
    std::sort(nodes_.begin(), nodes_.end(), [](const Sample& a, const Sample& b) { return a.u < b.u; });
    for (const Sample& n : nodes_) {
      if (n.outcome) samples_.push_back(n);
    }
  }

  /// Where something begins or ends between two places.
  void border() {
    std::vector<Sample> edges;
    for (std::size_t i = 0; i + 1 < nodes_.size(); ++i) {
      if (nodes_[i].outcome.has_value() == nodes_[i + 1].outcome.has_value()) continue;
      const bool left = nodes_[i].outcome.has_value();
      double there = left ? nodes_[i].u : nodes_[i + 1].u, not_there = left ? nodes_[i + 1].u : nodes_[i].u;
      std::optional<Outcome> last;
      for (int k = 0; k < (search_.brief ? 16 : 44); ++k) {
        const double middle = 0.5 * (there + not_there);
        auto o = box_({middle});
        (o ? there : not_there) = middle;
        if (o) last = std::move(o);
      }
      if (last) edges.push_back({there, std::move(last)});
      edges.push_back({not_there, std::nullopt});
    }
    nodes_.insert(nodes_.end(), edges.begin(), edges.end());
    collect();
  }

  /// A short stretch gets places enough too.
  void refine() {
    constexpr std::size_t kEnough = 24;
    std::vector<Sample> more;
    std::size_t from = 0;
    while (from < nodes_.size()) {
      std::size_t to = from;
      while (to + 1 < nodes_.size() && nodes_[from].outcome && nodes_[to + 1].outcome)
        ++to;
      const std::size_t count = to - from + 1;
      if (nodes_[from].outcome && count < kEnough && to > from) {
        for (std::size_t k = 1; k < kEnough; ++k) {
          const double u = nodes_[from].u + (nodes_[to].u - nodes_[from].u) * static_cast<double>(k) / kEnough;
          more.push_back({u, box_({u})});
        }
      }
      from = to + 1;
    }
    nodes_.insert(nodes_.end(), more.begin(), more.end());
    collect();
  }

  /// Whether nothing that was looked at lies between two neighbours where there is nothing.
  bool joined(std::size_t i) const {
    const auto after = std::upper_bound(nodes_.begin(), nodes_.end(), samples_[i].u,
                                        [](double u, const Sample& n) { return u < n.u; });
    return after != nodes_.end() && after->outcome && after->u == samples_[i + 1].u;
  }

  void take(const Sample& s, std::vector<Spot>& found) const {
    if (s.outcome->holds()) add_new(found, {{s.u}, *s.outcome});
  }
  void take(double u, std::vector<Spot>& found) const {
    if (auto o = box_({u}); o && o->holds()) add_new(found, {{u}, std::move(*o)});
  }

  void between(const Sample& a, const Sample& b, std::vector<Spot>& found) const {
    between(a.u, a.outcome->off[lead_], b.u, b.outcome->off[lead_], found);
  }
  void between(double lo, double at_lo, double hi, double at_hi, std::vector<Spot>& found) const {
    if ((at_lo > 0) == (at_hi > 0) || at_lo == 0 || at_hi == 0) return;
    try {
      take(math::find_root([&](double u) { return off(u); }, lo, hi, at_lo, at_hi), found);
    } catch (const std::exception&) {
      // A jump, or a hole: no root to be had here.
    }
  }

  /// Three places of one sign, the middle one nearest to 0: the curve may touch 0 between, or cross it twice.
  void touching(std::size_t i, std::vector<Spot>& found) const {
    const double a = samples_[i - 1].outcome->off[lead_], b = samples_[i].outcome->off[lead_],
                 c = samples_[i + 1].outcome->off[lead_];
    const double sign = b > 0 ? 1 : -1;
    if (!(sign * a > 0 && sign * c > 0 && sign * b <= sign * a && sign * b <= sign * c) || b == 0) return;
    const auto towards = [&](double u) {
      const double f = sign * off(u);
      return std::isnan(f) ? std::numeric_limits<double>::max() : f;
    };
    const double lo = samples_[i - 1].u, hi = samples_[i + 1].u;
    const auto [u, value] = boost::math::tools::brent_find_minima(towards, lo, hi, 52);
    if (value < 0) {
      between(lo, a, u, sign * value, found), between(u, sign * value, hi, c, found);
    } else {
      take(u, found);
    }
  }

  /// From the best place of the grid up to the best there is.
  void rise(std::vector<Spot>& found) const {
    const auto good = [&](double u) -> std::optional<Outcome> {
      auto o = box_({u});
      return o && o->holds() ? std::move(o) : std::nullopt;
    };
    const auto lowered = [&](double u) {
      const auto o = good(u);
      return o ? -o->aim : std::numeric_limits<double>::max();
    };
    std::vector<Spot> best;
    for (std::size_t i = 0; i < samples_.size(); ++i) {
      if (!samples_[i].outcome->holds()) continue;
      const double here = samples_[i].outcome->aim;
      const bool first = i == 0 || !samples_[i - 1].outcome->holds() || samples_[i - 1].outcome->aim <= here;
      const bool last =
          i + 1 == samples_.size() || !samples_[i + 1].outcome->holds() || samples_[i + 1].outcome->aim <= here;
      if (!first || !last) continue;
      const double lo = i == 0 ? samples_[i].u : samples_[i - 1].u,
                   hi = i + 1 == samples_.size() ? samples_[i].u : samples_[i + 1].u;
      if (hi <= lo) continue;
      const auto [u, value] = boost::math::tools::brent_find_minima(lowered, lo, hi, 40);
      if (auto o = good(u)) best.push_back({{u}, std::move(*o)});
      // The best may stand where it just still holds.
      for (const double end : {lo, hi}) {
        double holds = samples_[i].u, fails = end;
        if (good(end)) continue;
        for (int k = 0; k < 52; ++k) {
          const double middle = 0.5 * (holds + fails);
          (good(middle) ? holds : fails) = middle;
        }
        if (auto o = good(holds)) best.push_back({{holds}, std::move(*o)});
      }
    }
    for (Spot& s : best)
      found.push_back(std::move(s));
  }

  std::vector<Spot> middles() const {
    std::vector<Spot> all;
    std::size_t i = 0;
    while (i < samples_.size()) {
      std::size_t to = i;
      if (samples_[i].outcome->holds()) {
        while (to + 1 < samples_.size() && samples_[to + 1].outcome->holds() && joined(to))
          ++to;
        const Place& seed = search_.seeds.empty() ? Place{0.5 * (samples_[i].u + samples_[to].u)} : search_.seeds[0];
        std::size_t nearest_one = i;
        for (std::size_t k = i; k <= to; ++k) {
          if (std::abs(samples_[k].u - seed[0]) < std::abs(samples_[nearest_one].u - seed[0])) nearest_one = k;
        }
        all.push_back({{samples_[nearest_one].u}, *samples_[nearest_one].outcome});
      }
      i = to + 1;
    }
    return all;
  }

  const BlackBox& box_;
  const Search& search_;
  std::vector<Sample> nodes_, samples_;  // all that was looked at; those where there is something
  std::size_t lead_ = 0;                 // among the equalities
};

/// The space of several unknowns.
class Space {
 public:
  Space(const BlackBox& box, const Search& search) : box_(box), search_(search) {
    for (const Place& seed : search.seeds)
      starts_.push_back(seed);
    const std::size_t count = search.starts * search.dimensions;
    for (std::size_t i = 1; i <= count; ++i) {
      Place at;
      for (std::size_t d = 0; d < search.dimensions; ++d)
        at.push_back(spread(i, d));
      starts_.push_back(std::move(at));
    }
  }

  std::vector<Spot> solutions() const {
    std::vector<Spot> found;
    for (const Place& start : starts_) {
      auto spot = settle(start);
      if (!spot || !spot->outcome.holds()) continue;
      if (search_.aims) spot = climb(std::move(*spot));
      add_new(found, std::move(*spot));
      // More unknowns than equalities: one place stands for all that are joined to it.
      if (!search_.aims && found[0].outcome.off.size() < search_.dimensions) break;
    }
    if (search_.aims) keep_best(found);
    return found;
  }

  std::optional<Spot> least() const {
    std::optional<Spot> best;
    for (const Place& start : starts_) {
      auto spot = settle(start);
      if (spot && (!best || spot->outcome.missed() < best->outcome.missed())) best = std::move(spot);
    }
    return best;
  }

 private:
  static VectorXd all_missed(const Outcome& o, Eigen::Index rows) {
    VectorXd r = VectorXd::Zero(rows);
    Eigen::Index i = 0;
    for (const double v : o.off)
      r[i++] = v;
    for (const double v : o.over)
      r[i++] = v;
    return r;
  }

  /// d(missed)/d(place) by differences; one-sided where the other side has nothing.
  MatrixXd slopes(const VectorXd& u, const VectorXd& here) const {
    constexpr double kStep = 2e-7;
    MatrixXd j(here.size(), u.size());
    for (Eigen::Index i = 0; i < u.size(); ++i) {
      VectorXd up = u, down = u;
      up[i] += kStep, down[i] -= kStep;
      const auto above = box_(place_of(up)), below = box_(place_of(down));
      const VectorXd plus = above ? all_missed(*above, here.size()) : here,
                     minus = below ? all_missed(*below, here.size()) : here;
      const double across = (above ? kStep : 0) + (below ? kStep : 0);
      j.col(i) = across > 0 ? VectorXd((plus - minus) / across) : VectorXd::Zero(here.size());
    }
    return j;
  }

  /// For the package's Levenberg and Marquardt.
  struct Functor {
    using Scalar = double;
    enum { InputsAtCompileTime = Eigen::Dynamic, ValuesAtCompileTime = Eigen::Dynamic };
    using InputType = VectorXd;
    using ValueType = VectorXd;
    using JacobianType = MatrixXd;
    const Space& space;
    Eigen::Index in, out;
    int inputs() const { return static_cast<int>(in); }
    int values() const { return static_cast<int>(out); }
    int operator()(const VectorXd& u, VectorXd& r) const {
      constexpr double kNothing = 1e6;  // far worse than anything that is there: the step is taken back
      const auto o = space.box_(place_of(u));
      r = o ? all_missed(*o, out) : VectorXd::Constant(out, kNothing);
      return 0;
    }
    int df(const VectorXd& u, MatrixXd& j) const {
      VectorXd r;
      (*this)(u, r);
      j = space.slopes(u, r);
      return 0;
    }
  };

  /// Down to where least is missed, from a place; none where there is nothing.
  std::optional<Spot> settle(const Place& start) const {
    const auto first = box_(start);
    if (!first) return std::nullopt;
    const auto rows = static_cast<Eigen::Index>(std::max(first->off.size() + first->over.size(), search_.dimensions));
    VectorXd u = vector_of(start);
    Functor functor{*this, u.size(), rows};
    Eigen::LevenbergMarquardt<Functor> descent(functor);
    descent.parameters.maxfev = 60;
    descent.parameters.xtol = descent.parameters.ftol = 1e-14;
    descent.minimize(u);
    for (Eigen::Index i = 0; i < u.size(); ++i)
      u[i] = std::clamp(u[i], 0.0, 1.0);
    auto o = box_(place_of(u));
    if (!o) return std::nullopt;
    return polish({place_of(u), std::move(*o)});
  }

  /// The last digits of the equalities: the shortest step that meets them, again and again.
  Spot polish(Spot spot) const {
    if (spot.outcome.off.empty() || spot.outcome.missed() > 1e-4) return spot;
    for (int k = 0; k < 12; ++k) {
      if (spot.outcome.missed() == 0) break;
      const VectorXd u = vector_of(spot.at);
      const auto rows = static_cast<Eigen::Index>(spot.outcome.off.size() + spot.outcome.over.size());
      const VectorXd r = all_missed(spot.outcome, rows);
      const VectorXd step = slopes(u, r).completeOrthogonalDecomposition().solve(r);
      const Place next = place_of((u - step).eval());
      auto o = box_(next);
      if (!o || !(o->missed() < spot.outcome.missed())) break;
      spot = {next, std::move(*o)};
    }
    return spot;
  }

  /// As high as it goes along what the equalities leave free.
  Spot climb(Spot spot) const {
    double step = 0.05;
    std::size_t looks = 0;
    constexpr std::size_t kMostLooks = 4000;
    while (step > 1e-9 && looks < kMostLooks) {
      bool better = false;
      for (const VectorXd& way : free_ways(spot)) {
        for (const double sign : {1.0, -1.0}) {
          ++looks;
          VectorXd u = vector_of(spot.at) + sign * step * way;
          if (u.minCoeff() < 0 || u.maxCoeff() > 1) continue;
          auto o = box_(place_of(u));
          if (!o) continue;
          Spot next{place_of(u), std::move(*o)};
          if (!next.outcome.holds()) next = polish(std::move(next));
          if (!next.outcome.holds() || !(next.outcome.aim > spot.outcome.aim)) continue;
          spot = std::move(next);
          better = true;
          break;
        }
      }
      step *= better ? 1.6 : 0.4;
    }
    return spot;
  }

  /// Directions that leave the equalities as they are, and of those the one in which the aim rises first.
  std::vector<VectorXd> free_ways(const Spot& spot) const {
    const VectorXd u = vector_of(spot.at);
    const Eigen::Index n = u.size();
    MatrixXd free = MatrixXd::Identity(n, n);
    const auto equalities = static_cast<Eigen::Index>(spot.outcome.off.size());
    if (equalities > 0) {
      const auto rows = equalities + static_cast<Eigen::Index>(spot.outcome.over.size());
      const MatrixXd j = slopes(u, all_missed(spot.outcome, rows)).topRows(equalities);
      const Eigen::JacobiSVD<MatrixXd> svd(j, Eigen::ComputeFullV);
      free = svd.matrixV().rightCols(n - std::min(n, equalities));
    }
    std::vector<VectorXd> ways;
    constexpr double kStep = 1e-6;
    VectorXd rise = VectorXd::Zero(n);
    for (Eigen::Index i = 0; i < free.cols(); ++i) {
      const auto above = box_(place_of((u + kStep * free.col(i)).eval())),
                 below = box_(place_of((u - kStep * free.col(i)).eval()));
      if (above && below) rise += (above->aim - below->aim) * free.col(i);
      ways.emplace_back(free.col(i));
    }
    if (rise.norm() > 0 && free.cols() > 1) ways.insert(ways.begin(), rise.normalized());
    return ways;
  }

  const BlackBox& box_;
  const Search& search_;
  std::vector<Place> starts_;
};

}  // namespace

double spread(std::size_t i, std::size_t dimension) {
  static constexpr std::size_t kPrimes[] = {2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37};
  const std::size_t base = kPrimes[dimension % std::size(kPrimes)];
  double fraction = 1, value = 0;
  for (std::size_t n = i; n > 0; n /= base) {
    fraction /= static_cast<double>(base);
    value += fraction * static_cast<double>(n % base);
  }
  return value;
}

bool Outcome::holds() const {
  return std::all_of(off.begin(), off.end(), [](double v) { return std::abs(v) <= kHolds; }) &&
         std::all_of(over.begin(), over.end(), [](double v) { return std::abs(v) <= kWithin; });
}

double Outcome::missed() const {
  double sum = 0;
  for (const double v : off)
    sum += v * v;
  for (const double v : over)
    sum += v * v;
  return sum;
}

std::vector<Spot> solve(const BlackBox& box, const Search& search) {
  if (search.dimensions == 0) {
    auto o = box({});
    return o && o->holds() ? std::vector<Spot>{{{}, std::move(*o)}} : std::vector<Spot>{};
  }
  return search.dimensions == 1 ? Line(box, search).solutions() : Space(box, search).solutions();
}

std::optional<Spot> nearest(const BlackBox& box, const Search& search) {
  if (search.dimensions == 0) {
    auto o = box({});
    if (!o) return std::nullopt;
    return Spot{{}, std::move(*o)};
  }
  return search.dimensions == 1 ? Line(box, search).least() : Space(box, search).least();
}

}  // namespace palio::solve
