// Asking for readings: one by its path, or all of a thing.
#include "palio/readings/reading.hpp"
#include "palio/values/spelling.hpp"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/readings/findings.hpp"
#include "readings.hpp"

namespace palio::job {

Said Said::degrees(double given, double radians) {
  Said said(radians);
  said.given_ = given;
  return said;
}

Said Said::table(std::vector<Child> children) {
  Said made;
  made.children_ = std::move(children), made.what_ = What::table;
  return made;
}

Said Said::table_of_rows(std::initializer_list<Child> children) {
  Said said(children);
  said.what_ = What::rows;
  return said;
}

Said Said::rows(std::vector<Said> rows) {
  Said said;
  said.rows_ = std::move(rows);
  said.what_ = What::rows;
  return said;
}

Said Said::by_name(std::vector<std::pair<std::string, Said>> named) {
  Said said;
  said.named_ = std::move(named);
  said.what_ = What::names;
  return said;
}

const std::vector<std::string_view>& reading_groups() {
  static const std::vector<std::string_view> all{"teeth",
                                                 "circles",
                                                 "thickness and gauging",
                                                 "rollers and ratio",
                                                 "disc",
                                                 "output",
                                                 "mesh",
                                                 "play and clearance",
                                                 "speeds and losses",
                                                 "running",
                                                 "motion",
                                                 "planets",
                                                 "as a clock",
                                                 "power and play",
                                                 "body"};
  return all;
}

const std::vector<DeeperReading>& deeper_readings() {
  using Q = Quantity;
  static const std::vector<DeeperReading> all{
      {"teeth", "teeth", "z", Q::count, "a number of teeth: spanned by a caliper, or of a cutter"},
      {"length", "length", "", Q::length, "what the caliper or micrometer reads"},
      {"at_thinnest", "at the thinnest", "", Q::length, "the same with teeth as thin as thickness_tolerance allows"},
      {"contact_diameter", "touching at", "", Q::circle, "where the caliper touches the flanks"},
      {"pin_diameter", "ball or pin", "D_M", Q::length, "of the balls or pins measured over"},
      {"profile_shift", "profile shift (modules)", "x", Q::number, "of the pinion cutter"},
      {"tip_diameter", "tip circle", "d_a", Q::circle, "of the cutter, or of the teeth at that end"},
      {"tip_corner_radius", "corner radius", "ρ₀", Q::length, "round of the cutter's corner"},
      {"cone_distance", "cone distance", "R", Q::length, "from the apex to that end, along the pitch cone"},
      {"addendum", "addendum", "h_a", Q::length, "of the teeth at that end, across the pitch cone"},
      {"dedendum", "dedendum", "h_f", Q::length, "of the teeth at that end, across the pitch cone"},
      {"pitch_diameter", "pitch circle", "d", Q::circle, "of the pitch cone at that end"},
      {"root_diameter", "root circle", "d_f", Q::circle, "of the root cone at that end"},
      {"tip_angle_deg", "tip seen from the apex at", "", Q::angle, "between the axis and the tip, from the apex"},
      {"root_angle_deg", "root seen from the apex at", "", Q::angle, "between the axis and the root, from the apex"},
      {"root_form_angle_deg", "usable flank begins at", "", Q::angle, "between the axis and there, from the apex"},
      {"tooth_thickness", "tooth thickness (arc)", "s", Q::length, "on the pitch circle at that end"},
      {"tip_thickness", "tip thickness", "s_an", Q::length, "of the teeth at that end"},
      {"undercut", "undercut", "", Q::number, "whether the teeth are undercut at that end"},
      {"width", "width", "", Q::length, "of the keyway"},
      {"height", "height", "", Q::length, "from the opposite wall of the bore to the keyway's bottom"},
      {"inner_diameter", "over the tips", "", Q::circle, "of the bore's serrations or spline: the shaft's bottoms"},
      {"outer_diameter", "over the bottoms", "", Q::circle, "of the bore's serrations or spline: the shaft's tips"},
      {"gear", "gear", "", Q::number, "that stands on this axis"},
      {"at", "at x, y", "", Q::length, "of the axis, in the plate's own frame"},
      {"bore", "bore", "", Q::circle, "of the plate there"},
      {"seat", "seat", "", Q::circle, "of the bearing in the plate there"},
      {"post_height", "post", "", Q::length, "how far the post stands up there"},
      {"min", "least", "", Q::angle, "over a turn of the input"},
      {"max", "most", "", Q::angle, "over a turn of the input"},
      {"min", "least", "", Q::length,
       "of a rack's play, over a turn of the input; of a bore's on its axle, by their fits"},
      {"max", "most", "", Q::length,
       "of a rack's play, over a turn of the input; of a bore's on its axle, by their fits"},
      {"discs", "discs", "", Q::count, "if there were so many"},
      {"force_g_mm", "mass times arm (g mm)", "", Q::number, "of the force that goes round with the crank"},
      {"couple_g_mm2", "couple (g mm²)", "", Q::number, "of the couple that goes round with the crank"},
      {"turns", "turns", "", Q::number, "of that member per turn of the input, exactly; a rack's are pitches"},
      {"speed", "speed (r/min)", "n", Q::number, "of that member; the input's where it is said"},
      {"torque", "torque (N m)", "T", Q::number,
       "that goes through that member, in the sense in which it turns; of what is held, what holds it"},
      {"power", "power (W)", "P", Q::number, "that goes through that member: torque times speed"},
      {"lower", "lower end", "", Q::length, "along the shaft, hubs with it, from the lowest face of the train"},
      {"upper", "upper end", "", Q::length, "along the shaft, hubs with it, from the lowest face of the train"},
      {"travel_per_turn", "travel per turn", "", Q::length, "of that rack, along its own +x, per turn of the input"},
      {"travel_speed", "travel (mm/s)", "v", Q::number, "of that rack, along its own +x"},
      {"force", "force (N)", "F", Q::number, "on that rack, along its own +x"},
      {"held", "held", "", Q::number, "the member that stands still"},
      {"ratio", "ratio", "i", Q::ratio, "turns of the driver for one of the driven, exactly"},
      {"locked", "locked", "", Q::number, "whether the driver cannot turn"},
      {"axis_deg", "axis at", "θ", Q::angle, "direction of the planet's axis from the carrier's, at the start"},
      {"tooth_deg", "tooth at", "ψ", Q::angle, "direction of the middle of a tooth of the planet, at the start"},
      {"mark_deg", "mark at", "", Q::angle,
       "of a stepped planet: direction of the tooth that is marked, the same on all, at the start"},
      {"member", "member", "", Q::number, "that comes to its place; of planets all, one after the other"},
      {"way", "comes", "", Q::number, "the ways that are free for it then"},
      {"driver", "driver", "", Q::length, "away from the apex, along its axis"},
      {"driven", "driven", "", Q::length, "away from the apex, along its axis"},
      {"shaft_angle_deg", "shaft angle", "Σ", Q::angle, "more than the shaft angle asked for"},
      {"offset", "offset of the axes", "", Q::length, "by which the axes miss each other"},
      {"driver_at_start_and_end", "of the driver [start, end of contact]", "ζ₁", Q::number, "specific sliding there"},
      {"driven_at_start_and_end", "of the driven [start, end of contact]", "ζ₂", Q::number, "specific sliding there"},
  };
  return all;
}

namespace {

/// Where several have a key, the one that is told in what stands above it is told in.
const ReportKey& deeper_key(std::string_view key, Quantity above) {
  static const std::vector<ReportKey> all = [] {
    std::vector<ReportKey> keys;
    for (const DeeperReading& d : deeper_readings())
      keys.push_back({d.key, d.label, d.symbol, d.quantity});
    return keys;
  }();
  const auto named = [&](const ReportKey& k) { return k.key == key; };
  const auto alike =
      std::find_if(all.begin(), all.end(), [&](const ReportKey& k) { return named(k) && k.quantity == above; });
  const auto it = alike != all.end() ? alike : std::find_if(all.begin(), all.end(), named);
  if (it == all.end()) throw std::logic_error("undeclared reading " + std::string(key));
  return *it;
}

}  // namespace

Entry Said::entry(const ReportKey& key) const {
  Entry e{};
  e.key = &key;
  e.numbers = numbers_;
  e.given = given_;
  e.list = what_ == What::list;
  e.text = text_;
  e.is_flag = what_ == What::flag;
  e.flag = yes_;
  e.rows = what_ == What::rows;
  for (const auto& [name, said] : children_)
    e.children.push_back(said.entry(deeper_key(name, key.quantity)));
  for (const Said& row : rows_)
    e.children.push_back(row.entry(key));
  e.by_name = what_ == What::names;
  for (const auto& [name, said] : named_) {
    e.children.push_back(said.entry(key));
    e.children.back().name = name;
  }
  return e;
}

namespace {

/// Every row of a table that is of this thing's sort: with its key and, if it says something, what.
template <class At>
std::vector<Entry> all_of(const std::vector<ReadingRow<At>>& table, const At& at, ReadingCost most) {
  std::vector<Entry> all;
  for (const ReadingRow<At>& row : table) {
    if (!(row.sorts & at.sort) || row.cost > most) continue;
    if (const Said said = row.value(at); !said.none()) {
      all.push_back(said.entry(row.key));
      all.back().group = row.group;
    }
  }
  return all;
}

ReadingCost most(bool rolled) { return rolled ? ReadingCost::rolls : ReadingCost::roll; }

std::string sort_names(unsigned sorts, const std::vector<std::pair<unsigned, std::string_view>>& names, unsigned all) {
  if ((sorts & all) == all) return "";
  std::string text;
  for (const auto& [sort, name] : names) {
    if ((sorts & sort) == sort) text += (text.empty() ? "" : ", ") + std::string(name);
  }
  return text;
}

template <class At>
void add_to(std::vector<Reading>& all, ReadingOf of, const std::vector<ReadingRow<At>>& table) {
  const std::vector<std::pair<unsigned, std::string_view>> gears{{kExternal, "spur, helical, double helical"},
                                                                 {kRing, "internal"},
                                                                 {kRack, "rack"},
                                                                 {kBevel, "bevel"},
                                                                 {kTrueCycloid, "cycloidal"},
                                                                 {kClock, "clock"},
                                                                 {kLanternWheel, "lantern wheel"},
                                                                 {kLantern, "lantern"}};
  const std::vector<std::pair<unsigned, std::string_view>> pairs{{kParallelPair, "parallel shafts"},
                                                                 {kCrossedPair, "crossed shafts"},
                                                                 {kBevelPair, "bevel"},
                                                                 {kCycloidalPair, "cycloidal"}};
  for (const ReadingRow<At>& row : table) {
    if (of == ReadingOf::train && !(row.sorts & TrainAt::kTrainOnly)) continue;
    std::string kinds = of == ReadingOf::gear   ? sort_names(row.sorts, gears, kAll)
                        : of == ReadingOf::pair ? sort_names(row.sorts, pairs, kAnyPair)
                                                : "";
    all.push_back({of, row.key.key, row.key.label, row.key.symbol, row.key.quantity, row.group, std::move(kinds),
                   row.meaning, row.formula, row.cost});
  }
}

std::vector<std::string> parts_of(const std::string& path) {
  std::vector<std::string> parts{""};
  for (const char c : path) {
    if (c == '.')
      parts.emplace_back();
    else
      parts.back() += c;
  }
  return parts;
}

bool is_place(const std::string& part) {
  return !part.empty() && part.size() < 6 &&
         std::all_of(part.begin(), part.end(), [](char c) { return std::isdigit(static_cast<unsigned char>(c)); });
}

/// The word nearest in spelling, or else all of them where they are few.
std::string near(const std::vector<std::string>& words, const std::string& word) {
  const Known known = known_words(words, word, name_slip(word));
  if (!known.nearest.empty()) return fmt::format("did you mean \"{}\"?", known.nearest);
  if (const std::string holding = words_holding(words, word); !holding.empty())
    return fmt::format("did you mean {}?", holding);
  return words.size() < 12 ? "there are " + known.list : "palio report --json and docs/readings.md list them";
}

[[noreturn]] void refuse(const std::string& path, const std::string& why, const std::string& remedy) {
  throw InvalidParameter("path", "\"" + path + "\"", why, remedy);
}

/// The one row of a table with a key; of this thing.
template <class At>
const ReadingRow<At>& row_of(const std::vector<ReadingRow<At>>& table, const At& at, const std::string& key,
                             const std::string& path) {
  std::vector<std::string> known;
  for (const ReadingRow<At>& row : table) {
    if (!(row.sorts & at.sort)) continue;
    known.emplace_back(row.key.key);
    if (row.key.key == key) return row;
  }
  refuse(path, fmt::format("there is no reading \"{}\" of it", key), near(known, key));
}

template <class At>
Entry one_of(const std::vector<ReadingRow<At>>& table, const At& at, const std::string& key, const std::string& path) {
  const ReadingRow<At>& row = row_of(table, at, key, path);
  const Said said = row.value(at);
  if (said.none())
    refuse(path, fmt::format("the job gives no {} there", key), fmt::format("see palio explain {}", key));
  return said.entry(row.key);
}

template <class T>
const T& named(const std::vector<T>& all, const std::string& name, const std::string& path) {
  std::vector<std::string> known;
  for (const T& t : all) {
    if (t.name == name) return t;
    known.push_back(t.name);
  }
  refuse(path, fmt::format("the job has no \"{}\" there", name),
         known.empty() ? "it has none at all" : near(known, name));
}

/// The things of a design that readings are asked of: what several readings of a thing take is worked out once.
class Things {
 public:
  explicit Things(const Design& design) : design_(design) {}
  const Design& design() const { return design_; }
  const GearAt& gear(const std::string& name, const std::string& path) {
    return kept(gears_, name, [&] {
      const Gear& g = named(design_.gears, name, path);
      return GearAt{design_, g, sort_of(g), {}, {}};
    });
  }
  const PairAt& pair(const std::string& name, const std::string& path) {
    return kept(pairs_, name, [&] {
      const Pair& p = named(design_.pairs, name, path);
      return PairAt{design_, p, sort_of(p), {}};
    });
  }
  const FrameAt& frame(const std::string& name, const std::string& path) {
    return kept(frames_, name, [&] { return FrameAt{design_, named(design_.frames, name, path), 1, {}, {}}; });
  }
  const ShaftAt& shaft(const std::string& name, const std::string& path) {
    return kept(shafts_, name, [&] {
      const Member& m = named(design_.machine.members, name, path);
      if (!m.shaft) refuse(path, fmt::format("{} is no shaft of the job", name), "name a [shaft.NAME]");
      return ShaftAt{design_, m, trains()};
    });
  }
  const TrainAt& train(const std::string& name, bool planetary, const std::string& path) {
    std::vector<std::string> known;
    for (const TrainAt& t : trains().all) {
      if (t.train.planetary != planetary) continue;
      if (t.train.name == name) return t;
      known.push_back(t.train.name);
    }
    refuse(path, fmt::format("the job has no \"{}\" there", name),
           known.empty() ? "it has none at all" : near(known, name));
  }
  const ReducerAt& reducer(const std::string& name, const std::string& path) {
    return kept(reducers_, name, [&] { return ReducerAt{design_, named(design_.reducers, name, path), 1, {}, {}}; });
  }

 private:
  const TrainsAt& trains() {
    if (!trains_) trains_.emplace(design_);
    return *trains_;
  }
  template <class At, class Make>
  static const At& kept(std::map<std::string, At>& all, const std::string& name, Make make) {
    const auto it = all.find(name);
    return it != all.end() ? it->second : all.emplace(name, make()).first->second;
  }

  const Design& design_;
  std::map<std::string, GearAt> gears_;
  std::map<std::string, PairAt> pairs_;
  std::map<std::string, FrameAt> frames_;
  std::map<std::string, ReducerAt> reducers_;
  std::map<std::string, ShaftAt> shafts_;
  std::optional<TrainsAt> trains_;
};

Entry entry_at(Things& things, const std::vector<std::string>& parts, const std::string& path) {
  if (parts.size() < 3)
    refuse(path, "a path names a thing and a reading of it",
           "write gear.NAME.tip_diameter or pair.NAME.center_distance, say");
  const std::string &head = parts[0], &name = parts[1], &key = parts[2];
  const std::optional<ReadingOf> of = reading_of(head);
  if (!of) {
    std::vector<std::string> heads;
    heads.reserve(kReadingOf.size());
    for (const ReadingOf one : kReadingOf)
      heads.emplace_back(job::name(one));
    refuse(path, fmt::format("\"{}\" is nothing that has readings", head), near(heads, head));
  }
  switch (*of) {
    case ReadingOf::gear: return one_of(gear_readings(), things.gear(name, path), key, path);
    case ReadingOf::pair: return one_of(pair_readings(), things.pair(name, path), key, path);
    case ReadingOf::frame: return one_of(frame_readings(), things.frame(name, path), key, path);
    case ReadingOf::reducer: return one_of(reducer_readings(), things.reducer(name, path), key, path);
    case ReadingOf::shaft: return one_of(shaft_readings(), things.shaft(name, path), key, path);
    case ReadingOf::train: return one_of(train_readings(), things.train(name, false, path), key, path);
    case ReadingOf::planetary: return one_of(train_readings(), things.train(name, true, path), key, path);
  }
  throw std::logic_error("a thing without readings");
}

/// Deeper into a reading: names of its table, places of its list.
Json deeper(Json at, const std::vector<std::string>& parts, const std::string& path) {
  for (std::size_t i = 3; i < parts.size(); ++i) {
    const std::string& part = parts[i];
    const std::string longer = i + 1 < parts.size() ? part + "." + parts[i + 1] : part;
    if (at.is_object() && at.contains(part)) {
      at = Json(at[part]);
    } else if (at.is_object() && at.contains(longer)) {
      at = Json(at[longer]), ++i;  // an end of a reducer has a name with a point: "motor_reducer.input"
    } else if (at.is_array() && is_place(part) && std::stoul(part) < at.size()) {
      at = Json(at[std::stoul(part)]);
    } else {
      std::vector<std::string> known;
      if (at.is_object()) {
        for (const auto& [key, value] : at.items())
          known.push_back(key);
      }
      refuse(path, fmt::format("\"{}\" leads nowhere", part),
             at.is_array()   ? fmt::format("it is a list: 0 to {}", at.size() - 1)
             : known.empty() ? "leave it out: it is one value"
                             : near(known, part));
    }
  }
  return at;
}

Json json_at(Things& things, const std::string& path) {
  const std::vector<std::string> parts = parts_of(path);
  return deeper(to_json(entry_at(things, parts, path), things.design().units), parts, path);
}

Json json_at(const Design& design, const std::string& path) {
  Things things(design);
  return json_at(things, path);
}

}  // namespace

const std::vector<Reading>& readings() {
  static const std::vector<Reading> all = [] {
    std::vector<Reading> list;
    add_to(list, ReadingOf::gear, gear_readings());
    add_to(list, ReadingOf::pair, pair_readings());
    add_to(list, ReadingOf::frame, frame_readings());
    add_to(list, ReadingOf::reducer, reducer_readings());
    add_to(list, ReadingOf::shaft, shaft_readings());
    add_to(list, ReadingOf::train, train_readings());
    add_to(list, ReadingOf::planetary, train_readings());
    return list;
  }();
  return all;
}

std::string reading_json(const Design& design, const std::string& path) { return json_at(design, path).dump(); }

std::string reading_text(const Design& design, const std::string& path) {
  const Json at = json_at(design, path);
  return at.is_string() ? at.get<std::string>() : at.dump();
}

struct Inquiry::Known {
  Things things;
  std::optional<std::vector<Finding>> findings;
};

Inquiry::Inquiry(const Design& design) : known_(new Known{Things(design), {}}) {}
Inquiry::~Inquiry() = default;

std::optional<double> Inquiry::number(const std::string& path) {
  const Json at = json_at(known_->things, path);
  return at.is_number() ? std::optional(at.get<double>()) : std::nullopt;
}

const std::vector<Finding>& Inquiry::findings() {
  if (!known_->findings) {
    known_->findings = job::findings(known_->things.design(), [this](const Reducer& r) -> const reducer::Rolled& {
      return known_->things.reducer(r.name, "reducer." + r.name).rolled();
    });
  }
  return *known_->findings;
}

std::optional<double> reading_number(const Design& design, const std::string& path) {
  return Inquiry(design).number(path);
}

Seen seen_at(const Design& design, const std::string& path) {
  Things things(design);
  const std::vector<std::string> parts = parts_of(path);
  Seen seen{entry_at(things, parts, path), {}};
  const std::string &head = parts[0], &name = parts[1], &key = parts[2];
  if (head == "pair") {
    const PairAt& at = things.pair(name, path);
    if (const auto mark = row_of(pair_readings(), at, key, path).mark) seen.mark = mark(at);
  } else if (head == "gear") {
    const GearAt& at = things.gear(name, path);
    const ReadingRow<GearAt>& row = row_of(gear_readings(), at, key, path);
    const std::vector<double>& numbers = seen.entry.numbers;
    if (row.mark)
      seen.mark = row.mark(at);
    else if (row.key.quantity == Quantity::circle && numbers.size() == 1 && std::isfinite(numbers[0]) &&
             !at.teeth().is_bevel())
      seen.mark = Mark{Mark::Plane::across, {circle(numbers[0] / 2)}, {}};
  }
  return seen;
}

std::optional<Mark> mark_of(const Design& design, const std::string& path) { return seen_at(design, path).mark; }

std::string reading_unit(const std::string& path, Units units) {
  std::optional<Quantity> quantity;
  const std::vector<std::string> parts = parts_of(path);
  for (std::size_t i = 2; i < parts.size(); ++i) {
    if (is_place(parts[i])) continue;
    if (i > 2) {
      const auto& deeper = deeper_readings();
      if (std::any_of(deeper.begin(), deeper.end(), [&](const DeeperReading& d) { return d.key == parts[i]; }))
        quantity = deeper_key(parts[i], quantity.value_or(Quantity::number)).quantity;
      continue;
    }
    const ReadingOf of = reading_of(parts[0]).value_or(ReadingOf::gear);
    for (const Reading& r : readings()) {
      if (r.of == of && r.key == parts[i]) quantity = r.quantity;
    }
  }
  if (!quantity) return "";
  switch (*quantity) {
    case Quantity::length:
    case Quantity::circle: return std::string(symbol(units));
    case Quantity::module_size: return "mm";
    case Quantity::angle: return "°";
    case Quantity::volume: return std::string(symbol(units)) + "³";
    default: return "";
  }
}

std::string told_in(std::string_view text, const std::string& source, Units units) {
  return in_units(text, source, units,
                  [](const std::string& path) { return reading_unit(path, Units::inch) == symbol(Units::inch); });
}

std::optional<Entry> entry_of(const Design& design, const std::string& path) {
  try {
    Things things(design);
    return entry_at(things, parts_of(path), path);
  } catch (const InvalidParameter&) {
    return std::nullopt;
  }
}

std::vector<Entry> entries(const Design& design, const Gear& g) {
  return all_of(gear_readings(), GearAt{design, g, sort_of(g), {}, {}}, ReadingCost::rolls);
}

std::vector<Entry> entries(const Design& design, const Pair& p, bool rolled) {
  return all_of(pair_readings(), PairAt{design, p, sort_of(p), {}}, most(rolled));
}

std::vector<Entry> entries(const Design& design, const Frame& f) {
  return all_of(frame_readings(), FrameAt{design, f, 1, {}, {}}, ReadingCost::rolls);
}

std::vector<Entry> entries(const ReducerAt& at) { return all_of(reducer_readings(), at, ReadingCost::rolls); }

TrainsAt::TrainsAt(const Design& design) {
  all.reserve(design.machine.trains.size());
  for (const Train& t : design.machine.trains)
    all.push_back({design, t, t.planetary ? TrainAt::kPlanetary : TrainAt::kTrainOnly, {}, {}});
}

std::vector<Entry> entries(const TrainAt& at) { return all_of(train_readings(), at, ReadingCost::rolls); }

std::vector<Entry> entries(const ShaftAt& at) { return all_of(shaft_readings(), at, ReadingCost::rolls); }

std::vector<Entry> entries(const Design& design, const Reducer& r) { return entries(ReducerAt{design, r, 1, {}, {}}); }

std::optional<double> unit_factor(const std::string& told_in, const std::string& of_reading) {
  const bool length = of_reading == "mm" || of_reading == "in";
  if (told_in.empty()) return 1;
  if (told_in == "deg") return of_reading == "°" ? std::optional(1.0) : std::nullopt;
  if (!length) return std::nullopt;
  if (told_in == of_reading) return 1;
  return told_in == "in" ? 25.4 : 1 / 25.4;
}

std::string wrong_unit(const std::string& said, const std::string& of_reading) {
  return fmt::format("is {}, but this reading is {}; give its unit, or none", said,
                     of_reading.empty() ? "a plain number" : "told in " + of_reading);
}

}  // namespace palio::job
