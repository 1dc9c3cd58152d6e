// From the values of a job to a Design: gears, pairs and their places, bodies, plates, reducers. Mistakes are gathered,
// so that one run tells all of them.
#pragma once

#include <array>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "palio/design/design.hpp"
#include "palio/drawn/drawing.hpp"
#include "palio/error.hpp"
#include "palio/machine/planets.hpp"
#include "palio/values/spelling.hpp"
#include "palio/values/values.hpp"

namespace palio::job {

/// What is known of a cycloidal gear before it is built; the pair completes it.
struct CycloidalPlan {
  gear::CycloidalForm form{};
  gear::CycloidalTeeth::Blank blank;
  gear::CycloidalSpec true_form;
  gear::ClockSpec clock;
  gear::LanternWheelSpec wheel;
  gear::LanternSpec lantern;
  bool internal = false, fillet_given = false, role_given = false;
};

/// Of the bore, or of the bearing's seat in its place; none where no fit is asked for.
std::optional<FitLimits> fit_limits(const Settings& gear);

/// The items of a list of tables: "hubs.0.", "hubs.1." …
std::vector<std::string> items(const Settings& v, const std::string& list);

class Resolver {
 public:
  explicit Resolver(const Values& values)
      : tables_(values.tables()), mistakes_(tables_.mistakes), gears_(tables_.gears) {
    design_.values = values, design_.title = tables_.title, design_.units = tables_.units;
  }
  Design run();

 private:
  struct RawPair : Settings {
    explicit RawPair(const Settings& settings) : Settings(settings) {}
    std::size_t driver = 0, driven = 0;
    pair::Sort sort = pair::Sort::parallel;  ///< as the kinds of its gears have it
    bool is(pair::Sort one) const { return sort == one; }
    Angle shaft_angle() const {
      return Angle::radians(number("shaft_angle", is(pair::Sort::bevel) ? 90 : 0) * kPi / 180);
    }
    pair::Arrangement arrangement() const;
  };

  void note(const std::string& id, const Where& where, const std::string& key, const std::string& message) {
    mistakes_.note(id, where, key, message);
  }
  bool told(const std::string& table, std::string_view key) const { return mistakes_.told(table, key); }
  std::string in_job_units(const std::string& text) const { return tables_.in_job_units(text); }
  std::string print(double mm) const { return tables_.print(mm); }
  gear::CylindricalSpec spec_of(const Settings& g);
  void teeth_and_module(const Settings& g, gear::CylindricalSpec& spec);
  gear::BevelSpec bevel_spec(const Settings& g, const gear::CylindricalSpec& spec);
  void set_pitch_cones();
  CycloidalPlan cycloidal_plan(const Settings& g, const gear::CylindricalSpec& plain);
  void complete_cycloids();
  void complete_rolling_circles(const RawPair& p, CycloidalPlan& a, CycloidalPlan& b);
  void complete_clock_teeth(const RawPair& p, CycloidalPlan& a, CycloidalPlan& b);
  void note_missing_of_cycloids();
  gear::Teeth build_cycloidal(const CycloidalPlan& plan) const;
  /// How much the two of a pair are to be thinned in all for the play wanted [mm]: in modules of shift, of bevel and
  /// cycloidal gears in modules of arc. None where nothing is left to be divided, or a mistake was told.
  /// The play that a pair asks for, along the pitch circle or along the normal.
  struct AskedPlay {
    const Value* said;
    std::string path;
    double amount;  ///< [mm]
    bool normal;

    /// Along the pitch circle, where the normal stands at an angle of this cosine to it [mm].
    double circumferential(double cosine) const { return normal ? amount / cosine : amount; }
  };
  std::optional<AskedPlay> asked_play(const RawPair& p);
  std::optional<double> thinning(const RawPair& p, const AskedPlay& play,
                                 std::vector<std::optional<gear::Teeth>>& built);
  std::optional<double> thinning_of_involutes(const RawPair& p, const AskedPlay& play, const gear::Teeth& driver,
                                              const gear::Teeth& driven);
  std::optional<double> thinning_of_bevels(const AskedPlay& play, const pair::BevelPair& as_is);
  std::optional<double> thinning_of_cycloids(const RawPair& p, const AskedPlay& play,
                                             std::vector<std::optional<gear::Teeth>>& built);
  /// "is 0.1 mm", with what that is along the pitch circle where the normal was said.
  std::string said(const AskedPlay& play, double circumferential) const;
  void place_bevel(const RawPair& raw, const Pair& p);
  std::optional<gear::Teeth> build(const Settings& g, const gear::CylindricalSpec& spec);
  void read_pairs();
  void thin_for_backlash(std::vector<std::optional<gear::Teeth>>& built);
  Angle helix(const Settings& g, double module);
  Design placed(std::vector<std::optional<gear::Teeth>>& built);
  void set_apart();
  void read_process(const Settings& process);
  void read_materials();
  void read_bodies();
  double bore_play(const Settings& v) const;
  body::Features features_of(const Settings& g, const Gear& gear);
  /// Whether something of a group of keys is given; those of `keys` that are not are told.
  bool needed(const Settings& g, const std::string& group, std::initializer_list<const char*> keys);
  std::optional<body::Keyway> keyway_of(const Settings& g, const Gear& gear);
  void only_beside(const Settings& g, const char* key, const char* other);
  std::vector<body::Step> steps_of(const Settings& g, const Gear& gear);
  std::vector<body::Hub> hubs_of(const Settings& g, const Gear& gear);
  /// On circles about the axis, of a rack in rows.
  std::vector<body::Holes> holes_of(const Settings& g, const Gear& gear);
  /// Of a file beside the job, or of a path in it; nothing where a mistake was told. \param unit_mm  of its numbers
  /// [mm]
  std::optional<drawn::Drawing> drawing_of(const Settings& v, const std::string& group, const std::string& path,
                                           double& unit_mm);
  /// Closed outlines that a drawing, or a path in the job, gives; clockwise where they bound a hole. What lies within
  /// another is the other way round. Empty where a mistake was told.
  std::vector<curve::Outline> drawn_outlines(const Settings& v, const std::string& group, const std::string& path,
                                             bool holes);
  std::vector<body::Cutout> cutouts_of(const Settings& v, const std::string& prefix);
  /// Through the walls of hubs: of set screws and pins.
  std::vector<body::CrossHole> cross_holes_of(const Settings& g, const Gear& gear, const body::Features& features);
  body::Web web_of(const Settings& g, const Gear& gear, double largest_hub);
  body::Spokes spokes_of(const Settings& g, const std::optional<body::Web>& web);
  std::optional<Material> material_of(const Settings& v, const std::string& prefix);
  /// An axis that a plate holds, with what stands on it.
  struct PlateAxis {
    Vec2 at;  ///< in the plane of its group [mm]
    std::vector<std::size_t> gears;
  };
  struct PlateSite {
    std::size_t group = 0;
    Vec2 origin = Vec2::Zero();  ///< of the plate's own frame [mm]
    std::vector<PlateAxis> axes{};
    std::optional<std::size_t> carrier{};
  };
  void axes_of_pairs(const Settings& v, const std::string& prefix, PlateSite& site);
  void axes_of_carrier(const Value& named, const std::string& prefix, PlateSite& site);
  void add_motors(const Settings& v, const std::string& prefix, const PlateSite& site, Frame& frame);
  double gap_of(const Settings& v, const std::string& prefix, const Frame& frame);
  void check_seats(const Settings& v, const std::string& prefix, const Frame& frame);
  void add_plate_holes(const Settings& v, const std::string& prefix, const Vec2& origin, Frame& frame);
  void make_frame(const Settings& raw);
  void make_reducer(const Settings& raw);
  void place_reducers();
  void mark(const Settings& g, Gear& gear);
  void refuse(const InvalidParameter& e, const Settings& v, const std::string& prefix);
  std::size_t crossing(const Pair& p, const Gear& known, bool forward);
  Pair made_of(const RawPair& raw) const;
  void place(const RawPair& raw, Pair& p);
  void place_closing(const RawPair& raw, Pair& p);
  bool start(const RawPair& raw, const Pair& p);
  void check_along(const RawPair& raw);
  void rack_taken(const RawPair& raw, std::size_t rack, double along);
  void close_loops();

  /// What stands on a shaft, and how far along it [mm].
  struct Item {
    enum class Sort { gear, carrier, reducer };
    Sort sort;
    std::size_t index;
    double lower, width;
  };
  /// Where an axis stands, and a height along it [mm].
  struct AxisPlace {
    std::size_t group;
    Vec2 axis;
    double zero;         ///< height of what is measured from: a shaft's first face, a lower end
    double phase;        ///< how far what stands on it is turned [rad]
    std::size_t anchor;  ///< the gear that it follows from
  };
  /// Shafts and carriers on the way to their places.
  struct Plans {
    std::vector<std::vector<Item>> items;          // of each member
    std::map<std::string, std::size_t> member_of;  // by what stands on it, too
    std::vector<std::optional<AxisPlace>> axes, reducers;
    std::vector<bool> placed;        // gears
    std::set<std::size_t> free;      // gears that a shaft placed, still to be turned on it as a mesh wants
    std::vector<std::size_t> first;  // gears that begin a mechanism

    std::optional<std::size_t> named(const std::string& name) const;
  };
  void read_members();
  void read_shaft(const Settings& shaft);
  std::optional<std::pair<std::string, Item>> on_shaft(const std::string& name) const;
  void read_carried();
  void check_pairs_of_members();
  void check_planetary_kinds();
  std::string no_such_member(const std::string& name) const;
  void lay_out_shafts(const std::vector<std::optional<gear::Teeth>>& built);
  void make_axles();
  std::array<double, 2> standing_out(const Settings& shaft, Axle& axle);
  void settle(std::size_t gear);
  void settle_member(std::size_t member, const AxisPlace& at);
  void settle_reducer(std::size_t reducer, const AxisPlace& at);
  void settle_carrier(std::size_t carrier, const AxisPlace& at);
  void settle_pair(const RawPair& raw);
  void connect_pairs();
  void connect_reducers();
  /// Of all meshes but pairs that close a loop: those say nothing new, or contradict, which is told of them.
  machine::Speeds speeds_without_loops() const;
  bool room_for(long long count, long long places, const Where& asked, const std::string& path);
  void place_planets();
  void place_sets(Carrier& carrier, bool can, const std::vector<machine::PlanetTie>& ties, long long count,
                  const Where& asked, const std::string& path);
  void set_off_planets(const Carrier& carrier, const std::vector<std::size_t>& meshes);
  void set_speed_ratios();
  void read_trains();
  void read_pace(const Settings& said, Train& train);
  void read_planetary(const Settings& set);
  void one_distance(const std::vector<std::optional<gear::Teeth>>& built);
  std::vector<std::size_t> members_named(const Settings& of, const char* key, const std::string& prefix);
  /// A member by what it is called; of a reducer the end that is meant.
  std::optional<std::size_t> end_named(const std::string& name, bool input) const;
  Design design_;
  const Tables& tables_;
  Mistakes mistakes_;
  const std::vector<Settings>& gears_;
  std::vector<gear::CylindricalSpec> specs_;
  std::vector<std::optional<gear::BevelSpec>> bevels_;  // beside specs_: of bevel gears
  std::vector<std::optional<CycloidalPlan>> cycloids_;  // likewise, of cycloidal gears
  std::vector<RawPair> raw_pairs_;
  std::vector<Material> materials_;
  Plans plans_;
};

}  // namespace palio::job
