// Holes are averaged where they have the same diameter; sizes over teeth give offset and shrinkage by least squares;
// whether pairs turn gives a threshold of play that is spread among prints, by going over all thresholds and spreads.
#include "palio/solve/coupon.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>

#include <fmt/format.h>
#include <Eigen/Dense>
#include <nlohmann/json.hpp>

#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/readings/reading.hpp"
#include "palio/values/keys.hpp"
#include "table.hpp"
#include "taken.hpp"
#include "text.hpp"

namespace palio::solve {
namespace {

using OrderedJson = nlohmann::ordered_json;

bool is_hole(const job::Measurement& m) {
  return m.of.rfind("frame.", 0) == 0 && m.of.size() > 5 && m.of.compare(m.of.size() - 5, 5, ".hole") == 0;
}

/// Beyond this many of its uncertainties a reading is wrong.
constexpr double kWrong = 4;

void add_holes(Process& process, const std::vector<job::Measurement>& all, const std::string& unit) {
  std::map<double, std::vector<Estimate>> by_diameter;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const job::Measurement& m = all[i];
    if (!is_hole(m)) continue;
    if (!m.diameter) refuse(m, i, "diameter", "is missing: of the hole as drawn");
    const InUnit read = in_unit(m, i, unit);
    by_diameter[*m.diameter].push_back({*m.diameter - read.is, read.sigma});
    const Estimate& e = by_diameter[*m.diameter].back();
    if (std::abs(e.value) > 0.5 * *m.diameter)
      refuse(m, i, "is",
             fmt::format("is {}, but the hole was drawn with {:g} {}: is one of them a radius?", m.said, *m.diameter,
                         unit));
  }
  for (const auto& [diameter, readings] : by_diameter) {
    double weight = 0, sum = 0, least = 0, spread = 0;
    for (const Estimate& e : readings)
      weight += 1 / (e.uncertainty * e.uncertainty), sum += e.value / (e.uncertainty * e.uncertainty);
    const double mean = sum / weight;
    const auto n = static_cast<double>(readings.size());
    for (const Estimate& e : readings) {
      least = std::max(least, std::abs(e.value - mean) / e.uncertainty);
      spread += (e.value - mean) * (e.value - mean);
    }
    // Prints differ more than an instrument doubts: the larger of both.
    const double by_spread = n > 1 ? std::sqrt(spread / (n - 1) / n) : 0;
    process.holes.push_back(
        {diameter, {mean, std::max(1 / std::sqrt(weight), by_spread)}, static_cast<int>(readings.size()), least});
  }
}

/// is = nominal (1 − shrinkage) + 2 offset, of spans and outer diameters.
void add_sizes(Process& process, const job::Values& values) {
  const auto& all = values.tables().measured;
  struct Row {
    double nominal, is, doubt;
  };
  std::vector<Row> rows;
  std::map<std::pair<std::string, double>, std::unique_ptr<job::Design>> as_measured;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const job::Measurement& m = all[i];
    if (is_hole(m) || m.counted()) continue;
    const std::string word = job::parts_of_path(m.of).value_or(job::PathParts{"", "", m.of}).word;
    if (word != "span" && word != "tip_diameter")
      refuse(m, i, "of",
             fmt::format("is \"{}\", but of a coupon these are measured: frame.NAME.hole, gear.NAME.span, "
                         "gear.NAME.tip_diameter, pair.NAME.turns",
                         m.of));
    const Taken taken = taken_of(m, i, values.tables().units);
    // One job for all that is measured over the same number of teeth.
    const double teeth = m.teeth.value_or(0);
    auto& design = as_measured[{taken.during.empty() ? "" : taken.during.front().first, teeth}];
    if (!design) design = std::make_unique<job::Design>(job::resolve(values.with(taken.during)));
    job::Inquiry inquiry(*design);
    std::optional<double> nominal;
    try {
      nominal = taken.term.of(*design, inquiry);
    } catch (const InvalidParameter&) {
      nominal.reset();
    }
    if (!nominal) refuse(m, i, "of", fmt::format("is \"{}\", which the coupon does not have", m.of));
    rows.push_back({*nominal, taken.is, taken.sigma});
    process.sizes.push_back({m.of, *nominal, taken.is, 0, 0});
  }
  if (rows.empty()) return;
  const auto [least, greatest] =
      std::minmax_element(rows.begin(), rows.end(), [](const Row& a, const Row& b) { return a.nominal < b.nominal; });
  // Sizes of one length cannot tell shrinkage from offset.
  constexpr double kApart = 2;
  const bool both = rows.size() >= 2 && greatest->nominal > kApart * least->nominal;
  const Eigen::Index n = both ? 2 : 1;
  Eigen::MatrixXd a(static_cast<Eigen::Index>(rows.size()), n);
  Eigen::VectorXd b(a.rows());
  for (Eigen::Index i = 0; i < a.rows(); ++i) {
    const Row& r = rows[static_cast<std::size_t>(i)];
    a(i, 0) = 2 / r.doubt;
    if (both) a(i, 1) = -r.nominal / r.doubt;
    b(i) = (r.is - r.nominal) / r.doubt;
  }
  const Eigen::VectorXd x = a.colPivHouseholderQr().solve(b);
  const Eigen::MatrixXd covariance = (a.transpose() * a).inverse();
  const Eigen::VectorXd left = b - a * x;
  // Misses larger than the instrument's doubt are the making's own spread: they widen what is told.
  const auto freedom = static_cast<double>(a.rows() - n);
  const double wider = freedom > 0 ? std::max(1.0, std::sqrt(left.squaredNorm() / freedom)) : 1;
  process.surface_offset = Estimate{x[0], wider * std::sqrt(covariance(0, 0))};
  if (both) process.shrinkage = Estimate{x[1], wider * std::sqrt(covariance(1, 1))};
  for (std::size_t i = 0; i < rows.size(); ++i) {
    process.sizes[i].fitted = rows[i].nominal * (1 - (both ? x[1] : 0)) + 2 * x[0];
    process.sizes[i].sigmas = left[static_cast<Eigen::Index>(i)];
  }
  if (freedom > 0 && chance_of(left.squaredNorm(), static_cast<std::size_t>(freedom)) < 1e-4)
    process.contradiction = true;
}

/// Thresholds and spreads, each with how likely it is after what was seen.
class Turning {
 public:
  explicit Turning(const std::vector<Process::Turned>& seen) {
    double low = seen.front().play, high = seen.back().play, apart = high - low;
    for (std::size_t i = 0; i + 1 < seen.size(); ++i) {
      const double step = seen[i + 1].play - seen[i].play;
      if (step > 1e-9) apart = std::min(apart, step);
    }
    apart = std::max(apart, 0.02 * std::max(high, 0.01));
    const double room = std::max(high - low, 2 * apart);
    low -= room, high += room;
    constexpr int kThresholds = 160, kSpreads = 32;
    double most = -math::kInfinite;
    std::vector<double> logs;
    for (int i = 0; i <= kThresholds; ++i) {
      for (int k = 0; k <= kSpreads; ++k) {
        // Spreads from a tenth of the step between plays to ten times it; half a step is what is believed beforehand.
        const double decade = -1 + 2.0 * k / kSpreads;
        Point p{low + (high - low) * i / kThresholds, apart * std::pow(10, decade), 0};
        double log = -0.5 * std::pow((decade - std::log10(0.5)) / 0.35, 2);
        for (const Process::Turned& t : seen) {
          const double share = std::clamp(turns(p, t.play), 1e-12, 1 - 1e-12);
          log += t.turned * std::log(share) + (t.prints - t.turned) * std::log1p(-share);
        }
        points_.push_back(p), logs.push_back(log);
        most = std::max(most, log);
      }
    }
    double sum = 0;
    for (std::size_t i = 0; i < points_.size(); ++i)
      sum += points_[i].weight = std::exp(logs[i] - most);
    for (Point& p : points_)
      p.weight /= sum;
    low_ = low, high_ = high;
  }

  double share(double play) const {
    double sum = 0;
    for (const Point& p : points_)
      sum += p.weight * turns(p, play);
    return sum;
  }
  Estimate needed() const {
    double mean = 0, square = 0;
    for (const Point& p : points_)
      mean += p.weight * p.threshold, square += p.weight * p.threshold * p.threshold;
    return {mean, std::sqrt(std::max(0.0, square - mean * mean))};
  }
  /// The play at which a share of prints turns: the share rises with it.
  double play_for(double share_wanted) const {
    double low = low_ - (high_ - low_), high = high_ + (high_ - low_);
    for (int i = 0; i < 40; ++i) {
      const double middle = (low + high) / 2;
      (share(middle) < share_wanted ? low : high) = middle;
    }
    return high;
  }

 private:
  struct Point {
    double threshold, spread, weight;
  };
  static double turns(const Point& p, double play) {
    return 0.5 * std::erfc((p.threshold - play) / (p.spread * std::sqrt(2.0)));
  }
  std::vector<Point> points_;
  double low_ = 0, high_ = 0;
};

void add_turning(Process& process, const job::Values& values) {
  const auto& all = values.tables().measured;
  std::map<std::string, Process::Turned> by_pair;
  std::optional<job::Design> design;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const job::Measurement& m = all[i];
    if (!m.counted()) continue;
    const std::string thing = m.of.substr(0, m.of.rfind('.'));
    if (!design) design = job::resolve(values);
    std::optional<double> play;
    try {
      play = job::reading_number(*design, thing + ".circumferential_backlash");
    } catch (const InvalidParameter&) {
      play.reset();
    }
    if (!play) refuse(m, i, "of", fmt::format("is \"{}\", but the coupon has no {}", m.of, thing));
    const double prints = m.prints.value_or(1);
    if (!m.unit.empty() || m.is < 0 || m.is > prints || m.is != std::floor(m.is))
      refuse(m, i, "is",
             fmt::format("is {}, but the number of prints that turn is allowed, from 0 to {:g}; give prints = … where "
                         "more were tried",
                         m.said, prints));
    auto& t =
        by_pair.try_emplace(thing, Process::Turned{thing.substr(thing.find('.') + 1), *play, 0, 0, 0}).first->second;
    t.prints += prints, t.turned += m.is;
  }
  for (const auto& [name, t] : by_pair)
    process.turned.push_back(t);
  if (process.turned.empty()) return;
  std::stable_sort(process.turned.begin(), process.turned.end(),
                   [](const Process::Turned& a, const Process::Turned& b) { return a.play < b.play; });
  const Turning turning(process.turned);
  process.needed = turning.needed();
  for (Process::Turned& t : process.turned)
    t.share = turning.share(t.play);
  for (const double share : {0.5, 0.9, 0.95, 0.99})
    process.plays.push_back({share, turning.play_for(share)});
}

int places(double uncertainty) { return decimals(uncertainty, 6); }

std::string told(const Estimate& e) {
  return fmt::format("{:.{}f} ± {:.2g}", e.value, places(e.uncertainty), e.uncertainty);
}

/// A threshold that nothing was seen on both sides of.
bool one_sided(const Process& p) {
  double turned = 0, prints = 0;
  for (const Process::Turned& t : p.turned)
    turned += t.turned, prints += t.prints;
  return turned == 0 || turned == prints;
}

}  // namespace

bool is_coupon(const job::Values& values) {
  const auto& all = values.tables().measured;
  return std::any_of(all.begin(), all.end(), [](const job::Measurement& m) { return is_hole(m) || m.counted(); });
}

Process recover_process(const job::Values& values) {
  const job::Tables& tables = values.tables();
  const std::string unit(symbol(tables.units));
  Process process;
  process.units = tables.units;
  for (std::size_t i = 0; i < tables.measured.size(); ++i) {
    const job::Measurement& m = tables.measured[i];
    if (m.diameter && !is_hole(m)) refuse(m, i, "diameter", "is for holes; leave it out");
    if (m.prints && !m.counted()) refuse(m, i, "prints", "is for pairs that turn; leave it out");
  }
  add_holes(process, tables.measured, unit);
  add_sizes(process, values);
  add_turning(process, values);
  for (const Process::Hole& h : process.holes)
    process.contradiction = process.contradiction || h.contradiction > kWrong;
  return process;
}

std::string process_toml(const Process& p, const std::string& source) {
  std::string text = fmt::format("# What {} says of the machine that made it.\n[process]\n", source);
  const auto remark = [](const std::string& setting, const std::string& words) {
    return fmt::format("{:<46} # {}\n", setting, words);
  };
  if (!p.holes.empty()) {
    std::string table, doubts;
    for (const Process::Hole& h : p.holes) {
      table += fmt::format("{}\"{:g}\" = {:.{}f}", table.empty() ? "" : ", ", h.diameter, h.allowance.value,
                           places(h.allowance.uncertainty));
      doubts += fmt::format("{}{:.2g}", doubts.empty() ? "± " : ", ", h.allowance.uncertainty);
    }
    text += remark("hole_allowance = { " + table + " }", doubts);
  }
  if (p.surface_offset)
    text +=
        remark(fmt::format("surface_offset = {:.{}f}", p.surface_offset->value, places(p.surface_offset->uncertainty)),
               fmt::format("± {:.2g}", p.surface_offset->uncertainty));
  if (p.shrinkage) {
    // Growing is no shrinkage that a process can have.
    if (p.shrinkage->value > 0)
      text += remark(fmt::format("shrinkage.radial = {:.{}f}", p.shrinkage->value, places(p.shrinkage->uncertainty)),
                     fmt::format("± {:.2g}", p.shrinkage->uncertainty));
    else
      text += fmt::format("# no shrinkage: {}\n", told(*p.shrinkage));
  }
  if (p.needed && !one_sided(p)) {
    text += "# play along the pitch circle with which so many prints turn:";
    for (const Process::PlayFor& f : p.plays)
      text += fmt::format(" {:g} % {:.3g} {}{}", 100 * f.share, f.play, symbol(p.units), f.share == 0.99 ? "\n" : ",");
  }
  return text;
}

std::string process_text(const Process& p) {
  const std::string unit(symbol(p.units));
  std::string text;
  if (!p.holes.empty()) {
    std::vector<std::vector<std::string>> rows{{"hole, as drawn", "comes out smaller by", "readings"}};
    for (const Process::Hole& h : p.holes)
      rows.push_back({fmt::format("{:g} {}", h.diameter, unit), told(h.allowance),
                      std::to_string(h.readings) + (h.contradiction > kWrong ? ", which contradict each other" : "")});
    text += table(rows) + "\n";
  }
  if (!p.sizes.empty()) {
    std::vector<std::vector<std::string>> rows{{"size over teeth", "as drawn", "is", "fitted", "of its uncertainty"}};
    for (const Process::Size& s : p.sizes)
      rows.push_back({s.of, fmt::format("{:.4f}", s.nominal), fmt::format("{:.4f}", s.is),
                      fmt::format("{:.4f}", s.fitted), in_sigmas(s.sigmas)});
    text += table(rows);
    text += fmt::format("  surface_offset {} {}\n", told(*p.surface_offset), unit);
    text += p.shrinkage ? fmt::format("  shrinkage {}\n\n", told(*p.shrinkage))
                        : std::string(
                              "  shrinkage is left open: measure a size of twice the length as well, a tip "
                              "diameter beside a span\n\n");
  }
  if (p.shrinkage && p.shrinkage->value < -3 * p.shrinkage->uncertainty)
    text += "  parts do not grow: look again at what was spanned and where\n\n";
  if (!p.turned.empty()) {
    std::vector<std::vector<std::string>> rows{{"pair", "play", "turned", "will turn, of many prints"}};
    for (const Process::Turned& t : p.turned)
      rows.push_back({t.pair, fmt::format("{:.3f} {}", t.play, unit), fmt::format("{:g} of {:g}", t.turned, t.prints),
                      fmt::format("{:.0f} %", 100 * t.share)});
    text += table(rows);
    if (one_sided(p)) {
      text += p.turned.front().turned > 0
                  ? "  all of them turn: the play needed is less than any of these; try less\n"
                  : "  none of them turns: the play needed is more than any of these; try more\n";
    } else {
      text += fmt::format("  play at which half of them turn: {} {}\n", told(*p.needed), unit);
      for (const Process::PlayFor& f : p.plays) {
        if (f.share > 0.5)
          text += fmt::format("  backlash = {:.3g}   for {:g} % of prints to turn\n", f.play, 100 * f.share);
      }
      text += "  (where few prints were tried, how much they differ is believed to be about half a step of play)\n";
    }
  }
  if (p.contradiction) text += "the readings contradict each other: measure what is most off again\n";
  return text;
}

std::string process_json(const Process& p) {
  const auto json = [](const Estimate& e) { return OrderedJson{{"value", e.value}, {"uncertainty", e.uncertainty}}; };
  OrderedJson holes = OrderedJson::array(), sizes = OrderedJson::array(), turned = OrderedJson::array(),
              plays = OrderedJson::array(), values = OrderedJson::object();
  for (const Process::Hole& h : p.holes)
    holes.push_back({{"diameter", h.diameter},
                     {"value", h.allowance.value},
                     {"uncertainty", h.allowance.uncertainty},
                     {"readings", h.readings}});
  for (const Process::Size& s : p.sizes)
    sizes.push_back(
        {{"of", s.of}, {"is", s.is}, {"fitted", s.fitted}, {"residual", s.is - s.fitted}, {"sigmas", s.sigmas}});
  for (const Process::Turned& t : p.turned)
    turned.push_back(
        {{"pair", t.pair}, {"play", t.play}, {"prints", t.prints}, {"turned", t.turned}, {"share", t.share}});
  for (const Process::PlayFor& f : p.plays)
    plays.push_back({{"share", f.share}, {"play", f.play}});
  if (p.surface_offset) values["process.surface_offset"] = json(*p.surface_offset);
  if (p.shrinkage) values["process.shrinkage.radial"] = json(*p.shrinkage);
  OrderedJson all{{"values", values},
                  {"hole_allowance", holes},
                  {"measured", sizes},
                  {"turned", turned},
                  {"play_needed", p.needed && !one_sided(p) ? json(*p.needed) : OrderedJson(nullptr)},
                  {"play_for", p.needed && !one_sided(p) ? plays : OrderedJson::array()},
                  {"contradiction", p.contradiction}};
  return all.dump(2) + "\n";
}

}  // namespace palio::solve
