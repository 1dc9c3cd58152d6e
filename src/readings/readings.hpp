// The table of readings: rows with the function that computes each. Private to the reports.
#pragma once

#include <array>
#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

#include "assembly.hpp"
#include "marks.hpp"
#include "palio/angle.hpp"
#include "palio/body/layered.hpp"
#include "palio/design/train.hpp"
#include "palio/math/extent.hpp"
#include "palio/readings/reading.hpp"
#include "quantities.hpp"

namespace palio::job {

/// What a reading's function says: a number, a list, a text, yes or no, a table, rows of them; or that there is none.
class Said {
 public:
  using Child = std::pair<std::string_view, Said>;

  // NOLINTBEGIN(google-explicit-constructor): what a function returns is what is said
  Said() = default;  ///< none
  Said(double number) : numbers_{number}, what_(What::number) {}
  Said(int number) : Said(static_cast<double>(number)) {}
  Said(std::optional<double> number) {
    if (number) *this = Said(*number);
  }
  Said(bool yes) : yes_(yes), what_(What::flag) {}
  Said(std::string text) : text_(std::move(text)), what_(What::text) {}
  Said(std::string_view text) : Said(std::string(text)) {}
  Said(const char* text) : Said(std::string(text)) {}
  Said(std::vector<double> numbers) : numbers_(std::move(numbers)), what_(What::list) {}
  Said(const std::array<double, 2>& two) : Said(std::vector<double>{two[0], two[1]}) {}
  Said(const std::array<Angle, 2>& two) : Said(std::array<double, 2>{two[0].radians(), two[1].radians()}) {}
  Said(std::initializer_list<Child> children) : children_(children), what_(What::table) {}
  // NOLINTEND(google-explicit-constructor)

  /// An angle as it was given: that number is told, not its way through radians and back.
  static Said degrees(double given, double radians);
  /// A table put together piece by piece.
  static Said table(std::vector<Child> children);
  /// A table that JSON shows as a list of lists.
  static Said table_of_rows(std::initializer_list<Child> children);
  /// Tables, or lists, one below the other.
  static Said rows(std::vector<Said> rows);

  /// A table whose names are those of things.
  static Said by_name(std::vector<std::pair<std::string, Said>> named);

  bool none() const { return what_ == What::none; }
  Entry entry(const ReportKey& key) const;

 private:
  enum class What { none, number, list, text, flag, table, rows, names };
  std::vector<double> numbers_;
  std::string text_;
  std::vector<Child> children_;
  std::vector<Said> rows_;
  std::vector<std::pair<std::string, Said>> named_;
  std::optional<double> given_;
  bool yes_ = false;
  What what_ = What::none;
};

/// A text, or that there is none.
inline Said if_any(const std::string& text) { return text.empty() ? Said() : Said(text); }

/// The heading that readings of every thing have.
constexpr std::string_view kBody = "body";

/// Worked out once for all the readings of one thing that need it.
template <class T>
class Once {
 public:
  template <class F>
  const T& operator()(F make) const {
    if (!value_) value_ = make();
    return *value_;
  }

 private:
  mutable std::optional<T> value_;
};

/// Sorts of gears and of pairs, each a bit: which readings they have.
enum Sort : unsigned {
  kExternal = 1,  // spur, helical, double helical
  kRing = 2,
  kRack = 4,
  kBevel = 8,
  kTrueCycloid = 16,
  kClock = 32,
  kLanternWheel = 64,
  kLantern = 128,
  kGears = kExternal | kRing,
  kInvolute = kGears | kRack,
  kSystem = kInvolute | kBevel,
  kCycloidal = kTrueCycloid | kClock | kLanternWheel | kLantern,
  kRound = kGears | kBevel | kCycloidal,
  kAll = kInvolute | kBevel | kCycloidal
};
enum PairSort : unsigned {
  kParallelPair = 1,
  kCrossedPair = 2,
  kBevelPair = 4,
  kCycloidalPair = 8,
  kPlanePair = 9,
  kAnyPair = 15
};

unsigned sort_of(const Gear& gear);
/// By the gears, where the two cannot mesh.
unsigned sort_of(const Pair& pair);

struct GearAt {
  const Design& design;
  const Gear& gear;
  unsigned sort;
  Once<body::Solid> solid;
  Once<body::MassProperties> mass;

  const Gear& part() const { return gear; }
  const gear::Teeth& teeth() const { return gear.teeth; }
  const gear::CylindricalSpec& spec() const { return gear.teeth.spec(); }
  const gear::CylindricalSizes& sizes() const { return gear.teeth.gear().sizes(); }
  const gear::BevelSizes& bevel() const { return gear.teeth.bevel().sizes(); }
  const body::Solid& body() const {
    return solid([&] { return job::body(gear); });
  }
  const body::MassProperties& properties() const {
    return mass([&] { return body::mass_properties(body()); });
  }
};

struct PairAt {
  const Design& design;
  const Pair& pair;
  unsigned sort;
  Once<roll::Result> roll;

  const Gear& driver() const { return design.gears[pair.driver]; }
  const Gear& driven() const { return design.gears[pair.driven]; }
  /// A few milliseconds.
  const roll::Result& rolled() const {
    return roll([&] { return job::rolled(pair, 120); });
  }
};

struct FrameAt {
  const Design& design;
  const Frame& frame;
  unsigned sort = 1;
  Once<body::Body> plate;
  Once<body::MassProperties> mass;

  const Frame& part() const { return frame; }
  const body::Body& body() const {
    return plate([&] { return job::body(frame); });
  }
  const body::MassProperties& properties() const {
    return mass([&] { return body::mass_properties(body()); });
  }
};

struct ReducerAt {
  const Design& design;
  const Reducer& reducer;
  unsigned sort = 1;
  Once<reducer::Rolled> roll;
  Once<double> volume;

  const Reducer& part() const { return reducer; }
  const reducer::Spec& spec() const { return reducer.made.spec(); }
  const reducer::Sizes& sizes() const { return reducer.made.sizes(); }
  const reducer::Rolled& rolled() const {
    return roll([&] { return job::rolled(reducer, 120); });
  }
  double disc_volume() const;
  std::optional<double> disc_mass() const;  ///< [kg]
};

/// A reading, written as a sentence: what it is called, where it is shown, what it is of and means, how it is found.
template <class At>
struct ReadingRow {
  using Value = std::function<Said(const At&)>;
  using MarkOf = std::optional<Mark> (*)(const At&);

  ReportKey key;
  std::string_view group{};
  unsigned sorts = 0;
  std::string_view meaning{}, formula{};
  Value value{};
  MarkOf mark = nullptr;  // a circle needs none: it is known where it is
  ReadingCost cost = ReadingCost::formula;

  ReadingRow(std::string_view name, std::string_view label, std::string_view symbol, Quantity quantity)
      : key{name, label, symbol, quantity} {}
  ReadingRow& in(std::string_view heading) { return group = heading, *this; }
  ReadingRow& of(unsigned those, std::string_view what) { return sorts = those, meaning = what, *this; }
  ReadingRow& is(Value found) { return value = std::move(found), *this; }
  ReadingRow& is(std::string_view by, Value found) { return formula = by, value = std::move(found), *this; }
  ReadingRow& marked(MarkOf where) { return mark = where, *this; }
  ReadingRow& costs(ReadingCost most) { return cost = most, *this; }
};

/// Tables one after the other.
template <class At>
std::vector<ReadingRow<At>> joined(std::initializer_list<std::vector<ReadingRow<At>>> tables) {
  std::vector<ReadingRow<At>> rows;
  for (const std::vector<ReadingRow<At>>& more : tables)
    rows.insert(rows.end(), more.begin(), more.end());
  return rows;
}

/// What every part may be called.
template <class At>
std::vector<ReadingRow<At>> name_rows(unsigned sorts) {
  using Q = Quantity;
  using Row = ReadingRow<At>;
  return {Row("part_name", "part", "", Q::number)
              .in(kBody)
              .of(sorts, "what it is called in a parts list")
              .is([](const At& a) { return if_any(a.part().part_name); }),
          Row("part_number", "part number", "", Q::number)
              .in(kBody)
              .of(sorts, "its number in a parts list")
              .is([](const At& a) { return if_any(a.part().part_number); })};
}

/// What follows from the body of a part and its material.
/// \param turning  the sorts that turn about their z axis
template <class At>
std::vector<ReadingRow<At>> mass_rows(unsigned sorts, unsigned turning) {
  using Q = Quantity;
  using Row = ReadingRow<At>;
  const auto of_material = [](const At& a, double per_density) {
    const auto& material = a.part().material;
    return material ? Said(per_density * (material->density * 1e-9)) : Said();  // kg/mm³
  };
  return {
      Row("height_range", "from, to (along the axis)", "z", Q::length)
          .in(kBody)
          .of(sorts, "where the body begins and ends, in its own frame")
          .is([](const At& a) {
            return Said(std::vector<double>{a.body().bottom(), a.body().top()});
          }),
      Row("volume", "volume", "V", Q::volume)
          .in(kBody)
          .of(sorts, "of the body, by the exact curves")
          .is([](const At& a) { return a.properties().volume; }),
      Row("center_of_mass", "center of mass", "", Q::length)
          .in(kBody)
          .of(sorts, "in the body's own frame")
          .is([](const At& a) {
            const Vec3& c = a.properties().center;
            return Said(std::vector<double>{c.x(), c.y(), c.z()});
          }),
      Row("material", "material", "", Q::number).in(kBody).of(sorts, "what it is made of").is([](const At& a) {
        return a.part().material ? Said(a.part().material->name) : Said();
      }),
      Row("density", "density (kg/m³)", "ρ", Q::number).in(kBody).of(sorts, "of that material").is([](const At& a) {
        return a.part().material ? Said(a.part().material->density) : Said();
      }),
      Row("mass_kg", "mass", "m", Q::mass)
          .in(kBody)
          .of(sorts, "of the body, where a material is said")
          .is("m = ρ V", [of_material](const At& a) { return of_material(a, a.properties().volume); }),
      Row("inertia_about_axis", "moment of inertia about the axis", "J", Q::inertia)
          .in(kBody)
          .of(turning,
              "of the body about its own z axis, where a material is said: of what turns, what a motor has to speed up")
          .is("J = ∫ r² dm", [of_material](const At& a) { return of_material(a, a.properties().polar_moment); })};
}

/// How high gears stand along parallel shafts, hubs with them [mm].
struct Heights {
  math::Extent all;
  std::vector<math::Extent> of;  // of each gear of the design; those asked for
};
/// Of the gears on members asked for; none where their axes are not all parallel.
std::optional<Heights> arbor_heights(const Design& design, const std::vector<bool>& members);

/// A train, or a planetary set as one.
struct TrainAt {
  const Design& design;
  const Train& train;
  unsigned sort = kTrainOnly;
  Once<std::optional<machine::Flow>> driven, driven_back;
  Once<std::optional<Heights>> stand{};
  Once<Assembly> order{};

  static constexpr unsigned kTrainOnly = 1, kPlanetary = 2, kBoth = 3;
  const TrainMotion& motion() const { return train.motion; }
  const std::optional<machine::Flow>& flow() const {
    return driven([&] { return job::flow(design, train); });
  }
  const std::optional<machine::Flow>& flow_back() const {
    return driven_back([&] { return job::flow(design, train, true); });
  }
  const std::optional<Heights>& heights() const {
    return stand([&] { return arbor_heights(design, motion().connected); });
  }
  /// The carrier that a planetary set is named after; null for other trains.
  const Carrier* carrier() const;
  /// Of that set; without steps where there is none.
  const Assembly& assembly() const;
};

/// All trains of a design: its shafts share what is worked out of them.
struct TrainsAt {
  explicit TrainsAt(const Design& design);
  std::vector<TrainAt> all;
};

struct ShaftAt {
  const Design& design;
  const Member& shaft;
  const TrainsAt& trains;
  unsigned sort = 1;

  std::size_t member() const { return static_cast<std::size_t>(&shaft - design.machine.members.data()); }
};

std::vector<Entry> entries(const TrainAt& at);
std::vector<Entry> entries(const ShaftAt& at);
std::vector<Entry> entries(const ReducerAt& at);

std::vector<ReadingRow<GearAt>> gear_body_rows();

const std::vector<ReadingRow<GearAt>>& gear_readings();
const std::vector<ReadingRow<PairAt>>& pair_readings();
const std::vector<ReadingRow<FrameAt>>& frame_readings();
const std::vector<ReadingRow<ReducerAt>>& reducer_readings();
const std::vector<ReadingRow<ShaftAt>>& shaft_readings();
const std::vector<ReadingRow<TrainAt>>& train_readings();

}  // namespace palio::job
