#include "choices.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>
#include <string_view>
#include <tuple>

#include <fmt/format.h>

#include "palio/design/train.hpp"
#include "palio/error.hpp"

namespace palio::solve {
namespace {

/// A want of a product of tooth counts: each of an unknown's, to the power ±1, times a constant.
struct ToothWant {
  double low, high, constant = 1;
  std::map<std::size_t, int> powers;  // by place among the lists
};

/// Paths that tooth counts alone decide.
class ToothPaths {
 public:
  ToothPaths(const Question& question, const std::map<std::string, std::size_t>& place_of)
      : tables_(question.tables()), place_of_(place_of) {}

  /// Multiplies the number at a path into a product. False where other things decide it.
  bool multiply(const std::string& path, int power, ToothWant& product) const {
    const std::optional<job::PathParts> parts = job::parts_of_path(path);
    if (!parts) return false;
    const auto& [head, name, reading] = *parts;
    if (head == "gear" && reading == "teeth") return teeth(name, power, product);
    if (head != "pair" || reading != "gear_ratio") return false;
    for (const job::Settings& pair : tables_.pairs) {
      if (pair.name == name)
        return teeth(pair.text("driven"), power, product) && teeth(pair.text("driver"), -power, product);
    }
    return false;
  }

 private:
  bool teeth(const std::string& gear, int power, ToothWant& product) const {
    if (const auto it = place_of_.find("gear." + gear + ".teeth"); it != place_of_.end()) {
      product.powers[it->second] += power;
      return true;
    }
    const job::Settings* settings = tables_.gear(gear);
    const auto count = settings ? settings->given("teeth") : std::nullopt;
    if (!count) return false;
    product.constant *= power > 0 ? *count : 1 / *count;
    return true;
  }

  const job::Tables& tables_;
  const std::map<std::string, std::size_t>& place_of_;
};

/// All choices of some of the lists, with what each makes of every want.
struct Half {
  std::vector<std::size_t> lists;  // which
  std::vector<Choice> choices;     // a number of each
  std::vector<double> teeth;       // added up
  std::vector<double> products;    // of each choice, want by want
};

/// Meets in the middle: choices of one half of the lists sorted by what they make of the widest want, and for each of
/// the other half those among them that fit. So the cost is that of half the lists, and of what fits.
class Meeting {
 public:
  Meeting(std::vector<std::vector<double>> lists, std::vector<ToothWant> wants)
      : lists_(std::move(lists)), wants_(std::move(wants)) {
    std::sort(wants_.begin(), wants_.end(),
              [](const ToothWant& a, const ToothWant& b) { return a.powers.size() > b.powers.size(); });
    std::vector<std::size_t> order(lists_.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    const auto in_first = [&](std::size_t list) { return !wants_.empty() && wants_[0].powers.count(list) > 0; };
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      return std::tuple(in_first(b), lists_[b].size()) < std::tuple(in_first(a), lists_[a].size());
    });
    double sizes[2] = {1, 1};
    for (const std::size_t list : order) {
      // Without a want to meet by, one half is all.
      const std::size_t to = wants_.empty() || sizes[0] <= sizes[1] ? 0 : 1;
      halves_[to].lists.push_back(list), sizes[to] *= static_cast<double>(lists_[list].size());
    }
    constexpr double kMost = 4e6;
    if (std::max(sizes[0], sizes[1]) > kMost) too_many(sizes[0] * sizes[1]);
    for (Half& half : halves_)
      fill(half);
    sort_first();
  }

  /// How many choices fit the widest want: no fewer than fit all.
  double count() const {
    double sum = 0;
    for (std::size_t b = 0; b < halves_[1].choices.size(); ++b) {
      const auto [from, to] = fitting(b);
      sum += static_cast<double>(to - from);
    }
    return sum;
  }

  /// Those that fit all wants and have so many teeth at most.
  std::vector<Choice> all(double teeth) const {
    std::vector<Choice> found;
    for (std::size_t b = 0; b < halves_[1].choices.size(); ++b) {
      const auto [from, to] = fitting(b);
      for (std::size_t a = from; a < to; ++a) {
        if (halves_[0].teeth[a] + halves_[1].teeth[b] <= teeth && fits(a, b)) found.push_back(joined(a, b));
      }
    }
    return found;
  }

  /// Those with the fewest teeth, so many at least where there are as many: complete up to a number of teeth.
  std::vector<Choice> fewest(std::size_t most) {
    double limit = least_teeth();
    const double greatest = greatest_teeth();
    for (;;) {
      limit = std::min(greatest, std::ceil(limit * 1.1));
      std::vector<Choice> found = all(limit);
      if (found.size() >= most || limit >= greatest) return found;
    }
  }

  [[noreturn]] static void too_many(double count) {
    throw InvalidParameter("find", fmt::format("{:.3g} choices of whole numbers and lists", count),
                           "so many are not looked into",
                           "narrow them: \"find 12..40\" in place of \"find\", or want a gear_ratio within closer "
                           "limits");
  }

 private:
  double power_of(double n, int power) const { return power == 1 ? n : power == -1 ? 1 / n : std::pow(n, power); }

  void fill(Half& half) {
    std::size_t count = 1;
    for (const std::size_t list : half.lists)
      count *= lists_[list].size();
    half.choices.reserve(count), half.teeth.reserve(count), half.products.reserve(count * wants_.size());
    for (std::size_t i = 0; i < count; ++i) {
      Choice choice;
      double teeth = 0;
      std::size_t rest = i;
      for (const std::size_t list : half.lists) {
        choice.push_back(lists_[list][rest % lists_[list].size()]);
        rest /= lists_[list].size();
        teeth += choice.back();
      }
      for (const ToothWant& w : wants_) {
        double product = 1;
        for (std::size_t k = 0; k < half.lists.size(); ++k) {
          if (const auto p = w.powers.find(half.lists[k]); p != w.powers.end())
            product *= power_of(choice[k], p->second);
        }
        half.products.push_back(product);
      }
      half.choices.push_back(std::move(choice));
      half.teeth.push_back(teeth);
    }
  }

  void sort_first() {
    if (wants_.empty()) return;
    Half& h = halves_[0];
    std::vector<std::size_t> order(h.choices.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      return h.products[a * wants_.size()] < h.products[b * wants_.size()];
    });
    Half sorted;
    sorted.lists = h.lists;
    for (const std::size_t i : order) {
      sorted.choices.push_back(std::move(h.choices[i]));
      sorted.teeth.push_back(h.teeth[i]);
      for (std::size_t w = 0; w < wants_.size(); ++w)
        sorted.products.push_back(h.products[i * wants_.size() + w]);
      keys_.push_back(sorted.products[sorted.products.size() - wants_.size()]);
    }
    h = std::move(sorted);
  }

  /// Which of the first half may go with one of the second.
  std::pair<std::size_t, std::size_t> fitting(std::size_t b) const {
    if (wants_.empty()) return {0, halves_[0].choices.size()};
    constexpr double kRounding = 1e-12;  // the want itself is looked at again
    const double rest = wants_[0].constant * halves_[1].products[b * wants_.size()];
    const auto from = std::lower_bound(keys_.begin(), keys_.end(), wants_[0].low / rest * (1 - kRounding));
    const auto to = std::upper_bound(from, keys_.end(), wants_[0].high / rest * (1 + kRounding));
    return {static_cast<std::size_t>(from - keys_.begin()), static_cast<std::size_t>(to - keys_.begin())};
  }

  bool fits(std::size_t a, std::size_t b) const {
    for (std::size_t w = 0; w < wants_.size(); ++w) {
      const double is =
          wants_[w].constant * halves_[0].products[a * wants_.size() + w] * halves_[1].products[b * wants_.size() + w];
      if (is < wants_[w].low || is > wants_[w].high) return false;
    }
    return true;
  }

  Choice joined(std::size_t a, std::size_t b) const {
    Choice all(lists_.size());
    const std::size_t at[] = {a, b};
    for (std::size_t half = 0; half < 2; ++half) {
      for (std::size_t k = 0; k < halves_[half].lists.size(); ++k)
        all[halves_[half].lists[k]] = halves_[half].choices[at[half]][k];
    }
    return all;
  }

  double least_teeth() const {
    double sum = 0;
    for (const auto& list : lists_)
      sum += list.front();
    return sum;
  }
  double greatest_teeth() const {
    double sum = 0;
    for (const auto& list : lists_)
      sum += list.back();
    return sum;
  }

  std::vector<std::vector<double>> lists_;
  std::vector<ToothWant> wants_;
  Half halves_[2];
  std::vector<double> keys_;  // of the first half, by which it is sorted
};

/// Wants of the ratio of a train or a planetary set: tooth counts alone decide it, put into the machine of any job that
/// can be made.
class RatioWants {
 public:
  explicit RatioWants(const std::map<std::string, std::size_t>& place_of) : place_of_(place_of) {}

  /// False where it is another want.
  bool add(const Want& w, double room, const Question& question) {
    if (w.aims() || !w.term.factors() || w.term.paths().size() != 1 || w.term.factors()->front().second != 1)
      return false;
    const std::optional<job::PathParts> parts = job::parts_of_path(w.term.paths()[0]);
    if (!parts || (parts->head != "train" && parts->head != "planetary")) return false;
    const auto asked =
        std::find_if(kAsked.begin(), kAsked.end(), [&](const Asked& a) { return a.word == parts->word; });
    if (asked == kAsked.end()) return false;
    const std::string winding = "train." + parts->name + ".winding_turns";
    const auto& unknowns = question.unknowns();
    if (std::any_of(unknowns.begin(), unknowns.end(), [&](const Unknown& u) { return u.path() == winding; }))
      return false;  // then hours hang on more than counts
    wants_.push_back({parts->name, parts->head == "planetary", asked->value,
                      w.low - (room + kHolds) * std::max(1.0, std::abs(w.low)),
                      w.high + (room + kHolds) * std::max(1.0, std::abs(w.high))});
    return true;
  }

  bool any() const { return !wants_.empty(); }

  /// Those that are products of powers of tooth counts, as trains without carriers are: found by trying counts on the
  /// machine. They are not sifted any more. None where no job can be made of what is tried.
  std::vector<ToothWant> products(const Question& question, const std::vector<std::vector<double>>& lists) {
    std::vector<ToothWant> found;
    if (wants_.empty() || lists.empty() || !find_machine(question, spread(lists))) return found;
    for (auto w = wants_.begin(); w != wants_.end();) {
      std::optional<ToothWant> product = product_of(*w, lists);
      if (!product) {
        ++w;
        continue;
      }
      found.push_back(*std::move(product));
      w = wants_.erase(w);
    }
    return found;
  }

  /// Leaves those that fit. As they are, where no job can be made of some of them.
  void sift(const Question& question, std::vector<Choice>& all) {
    if (wants_.empty() || !find_machine(question, all)) return;
    all.erase(std::remove_if(all.begin(), all.end(), [&](const Choice& c) { return !fits(c); }), all.end());
  }

 private:
  using Value = std::optional<double> (*)(const job::Train& train, const job::TrainMotion& motion);
  struct Ratio {
    std::string name;
    bool planetary;
    Value value;
    double low, high;
  };

  /// Readings that tooth counts alone decide.
  struct Asked {
    std::string_view word;
    Value value;
  };
  static constexpr std::array<Asked, 4> kAsked{
      {{"ratio_value",
        [](const job::Train&, const job::TrainMotion& m) {
          return m.ratio && m.ratio->value != 0 ? std::optional(m.ratio->value) : std::nullopt;
        }},
       {"beats_per_hour",
        [](const job::Train& t, const job::TrainMotion& m) {
          const auto pace = job::pace(t, m);
          return pace ? pace->beats_per_hour : std::nullopt;
        }},
       {"hours_per_turn",
        [](const job::Train& t, const job::TrainMotion& m) {
          const auto pace = job::pace(t, m);
          return pace ? std::optional(pace->hours_per_turn) : std::nullopt;
        }},
       {"hours", [](const job::Train& t, const job::TrainMotion& m) {
          const auto pace = job::pace(t, m);
          return pace && t.winding ? std::optional(*t.winding * pace->hours_per_turn) : std::nullopt;
        }}}};

  /// Some choices, from all over the lists.
  static std::vector<Choice> spread(const std::vector<std::vector<double>>& lists) {
    constexpr std::size_t kSome = 64, kStride = 7;  // a stride that no short list divides
    std::vector<Choice> some(kSome);
    for (std::size_t i = 0; i < kSome; ++i) {
      for (std::size_t k = 0; k < lists.size(); ++k)
        some[i].push_back(lists[k][(lists[k].size() / 2 + i * (kStride + 2 * k)) % lists[k].size()]);
    }
    return some;
  }

  std::optional<double> ratio_with(const Ratio& w, const Choice& counts) {
    set(counts);
    const job::Train* train = train_of(w);
    return train ? w.value(*train, job::moved(machine_, *train)) : std::nullopt;
  }

  std::optional<ToothWant> product_of(const Ratio& w, const std::vector<std::vector<double>>& lists) {
    Choice base(lists.size());
    for (std::size_t k = 0; k < lists.size(); ++k)
      base[k] = std::max(2.0, lists[k].front());
    constexpr double kSame = 1e-9;
    const std::optional<double> at_base = ratio_with(w, base);
    if (!at_base) return std::nullopt;
    ToothWant product{w.low, w.high, *at_base, {}};
    for (std::size_t k = 0; k < lists.size(); ++k) {
      Choice twice = base;
      twice[k] *= 2;
      const std::optional<double> then = ratio_with(w, twice);
      if (!then || *then * *at_base < 0) return std::nullopt;
      const double exact = std::log2(*then / *at_base);
      const int power = static_cast<int>(std::lround(exact));
      if (std::abs(exact - power) > kSame) return std::nullopt;  // a sum, as of a planetary set
      if (power != 0) product.powers[k] = power;
      product.constant /= std::pow(base[k], power);
    }
    // Whether it is that product everywhere: on counts with nothing in common.
    for (const double grown : {3.0, 5.0}) {
      Choice other = base;
      double is = product.constant;
      for (std::size_t k = 0; k < lists.size(); ++k) {
        other[k] = base[k] * grown + static_cast<double>(k) + 1;
        if (const auto p = product.powers.find(k); p != product.powers.end()) is *= std::pow(other[k], p->second);
      }
      const std::optional<double> then = ratio_with(w, other);
      if (!then || std::abs(*then / is - 1) > kSame) return std::nullopt;
    }
    if (product.constant < 0) {
      product.constant = -product.constant;
      std::swap(product.low, product.high);
      product.low = -product.low, product.high = -product.high;
    }
    return product;
  }

  bool find_machine(const Question& question, const std::vector<Choice>& all) {
    constexpr std::size_t kTries = 64;
    teeth_.clear();
    for (std::size_t i = 0; i < std::min(kTries, all.size()); ++i) {
      const Choice& choice = all[i * all.size() / std::min(kTries, all.size())];
      std::vector<double> numbers;
      for (std::size_t u = 0, k = 0; u < question.unknowns().size(); ++u) {
        const Unknown& unknown = question.unknowns()[u];
        const bool listed = question.free(u) && !unknown.continuous();
        numbers.push_back(listed ? choice[k++] : unknown.usual().value_or(unknown.number(0.5)));
      }
      if (!question.complete(numbers)) continue;
      const std::optional<job::Design> design = question.design(numbers);
      if (!design) continue;
      machine_ = design->machine;
      for (std::size_t m = 0; m < machine_.meshes.size(); ++m) {
        if (!machine_.pair_of[m]) continue;
        const job::Pair& p = design->pairs[*machine_.pair_of[m]];
        const bool a_drives = machine_.meshes[m].a == machine_.of_gear[p.driver];
        put_in(m, true, design->gears[a_drives ? p.driver : p.driven]);
        put_in(m, false, design->gears[a_drives ? p.driven : p.driver]);
      }
      return true;
    }
    return false;
  }

  void put_in(std::size_t mesh, bool a, const job::Gear& gear) {
    const auto place = place_of_.find("gear." + gear.name + ".teeth");
    if (place != place_of_.end() && !gear.teeth.is_rack()) teeth_.push_back({mesh, a, place->second});
  }

  void set(const Choice& choice) {
    for (const auto& [mesh, a, place] : teeth_) {
      machine::Mesh& m = machine_.meshes[mesh];
      (a ? m.teeth_a : m.teeth_b) = std::llround(choice[place]);
    }
    for (job::Train& t : machine_.trains) {
      const auto place = place_of_.find("train." + t.name + ".escape_teeth");
      if (place != place_of_.end() && !t.planetary)
        t.escape_teeth = static_cast<int>(std::llround(choice[place->second]));
    }
  }

  const job::Train* train_of(const Ratio& w) const {
    const auto train = std::find_if(machine_.trains.begin(), machine_.trains.end(), [&](const job::Train& t) {
      return t.name == w.name && t.planetary == w.planetary;
    });
    return train == machine_.trains.end() ? nullptr : &*train;
  }

  bool fits(const Choice& choice) {
    set(choice);
    return std::all_of(wants_.begin(), wants_.end(), [&](const Ratio& w) {
      const job::Train* train = train_of(w);
      if (!train) return true;  // told where it is read
      const auto value = w.value(*train, job::moved(machine_, *train));
      return value && *value >= w.low && *value <= w.high;
    });
  }

  struct TeethOf {
    std::size_t mesh;
    bool a;
    std::size_t place;
  };
  const std::map<std::string, std::size_t>& place_of_;
  std::vector<Ratio> wants_;
  job::Machine machine_;
  std::vector<TeethOf> teeth_;
};

}  // namespace

Choices choices(const Question& question, const std::vector<bool>& chosen, double room, std::size_t most) {
  std::vector<std::vector<double>> lists;
  std::map<std::string, std::size_t> place_of;
  bool continuous = false;
  for (std::size_t i = 0; i < question.unknowns().size(); ++i) {
    const Unknown& u = question.unknowns()[i];
    if (!question.free(i)) continue;
    continuous = continuous || u.continuous();
    if (u.continuous()) continue;
    place_of.emplace(u.path(), lists.size());
    lists.push_back(u.among());
  }
  Choices out;
  out.only_teeth = !continuous;
  const ToothPaths paths(question, place_of);
  RatioWants ratios(place_of);
  std::vector<ToothWant> wants;
  for (std::size_t i = 0; i < question.wants().size(); ++i) {
    const Want& w = question.wants()[i];
    if (!w.aims() && !chosen[i]) continue;
    ToothWant product{0, 0, 1, {}};
    bool teeth = !w.aims() && w.term.factors().has_value();
    for (std::size_t f = 0; teeth && f < w.term.factors()->size(); ++f) {
      const auto& [place, power] = (*w.term.factors())[f];
      teeth = paths.multiply(w.term.paths()[place], power, product);
    }
    if (!teeth) {
      if (!ratios.add(w, room, question)) out.only_teeth = false;
      continue;
    }
    product.low = w.low - (room + kHolds) * std::max(1.0, std::abs(w.low));
    product.high = w.high + (room + kHolds) * std::max(1.0, std::abs(w.high));
    wants.push_back(std::move(product));
    out.pruned = true;
  }
  constexpr double kMostChoices = 200000;
  if (std::any_of(lists.begin(), lists.end(), [](const std::vector<double>& list) { return list.empty(); })) return out;
  for (ToothWant& product : ratios.products(question, lists))
    wants.push_back(std::move(product)), out.pruned = true;
  out.only_teeth = out.only_teeth && !ratios.any();
  Meeting meeting(std::move(lists), std::move(wants));
  const double count = meeting.count();
  if (!out.only_teeth && count > kMostChoices) Meeting::too_many(count);
  out.all = count > kMostChoices ? meeting.fewest(most) : meeting.all(std::numeric_limits<double>::infinity());
  if (count <= kMostChoices) ratios.sift(question, out.all);
  out.count = std::max(out.all.size(), count > kMostChoices ? static_cast<std::size_t>(count) : 0);
  if (out.only_teeth && out.all.size() > most) {
    const auto teeth = [](const Choice& c) { return std::accumulate(c.begin(), c.end(), 0.0); };
    std::sort(out.all.begin(), out.all.end(),
              [&](const Choice& a, const Choice& b) { return std::pair(teeth(a), a) < std::pair(teeth(b), b); });
    out.all.resize(most);
  }
  return out;
}

}  // namespace palio::solve
