// From the tree of a job to a Design: layers ([shared], like, own), checks against the key table, then gears, bodies,
// pairs and their places. Mistakes are gathered, so that one run tells all of them. Private to the jobs.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "keys.hpp"
#include "node.hpp"
#include "palio/error.hpp"
#include "settings.hpp"
#include "value.hpp"

namespace palio::job {

struct RawGear {
  std::string name;
  Where where;
  Layer own;
  std::string like;
  Where like_where;
};

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

class Resolver {
 public:
  Design run(const Node& root);

 private:
  struct RawPair : Settings {
    std::size_t driver = 0, driven = 0;
    bool bevel = false, cycloidal = false;
    double shaft_angle() const { return number("shaft_angle", bevel ? 90 : 0) * kPi / 180; }
    bool crossed() const { return !bevel && !cycloidal && std::abs(shaft_angle()) >= pair::kParallel; }
  };

  void note(const std::string& id, const Where& where, const std::string& key, const std::string& message);
  /// Whether a mistake with that key of the table ("gear.a" or [shared], from which it may come) has been told: then
  /// that it is missing besides is no news.
  bool told(const std::string& table, std::string_view key) const;
  /// One check of all names: they become files, and stand in every output. Notes what is wrong.
  bool name_fits(const std::string& name, const Where& where, const std::string& table);
  /// Tells all mistakes so far, in the order of the file.
  void stop_on_mistakes() {
    if (mistakes_.empty()) return;
    std::stable_sort(mistakes_.begin(), mistakes_.end(),
                     [](const Mistake& a, const Mistake& b) { return a.where.line < b.where.line; });
    throw JobError(mistakes_);
  }
  void read_top(const Node& root);
  void read_values(const Node& table);
  void read_layer(const Node& table, Section section, const std::string& prefix, const std::string& inner, Layer& into);
  void read_gears(const Node& table);
  std::vector<std::string> gear_names() const;
  Settings merged(const RawGear& gear);
  void apply(Layer& into, const Layer& layer) const;
  gear::CylindricalSpec spec_of(const Settings& g);
  void teeth_and_module(const Settings& g, gear::CylindricalSpec& spec);
  gear::BevelSpec bevel_spec(const Settings& g, const gear::CylindricalSpec& spec);
  void set_pitch_cones();
  CycloidalPlan cycloidal_plan(const Settings& g, const gear::CylindricalSpec& plain);
  void complete_cycloids();
  gear::Teeth build_cycloidal(const CycloidalPlan& plan) const;
  /// Whether a thinning [modules of arc] is left to be divided among the two.
  bool thin_cycloidal(const RawPair& p, const Value& backlash, double wanted,
                      std::vector<std::optional<gear::Teeth>>& built, double& thinning);
  void place_bevel(const RawPair& raw, Pair& p, std::vector<bool>& placed);
  std::optional<gear::Teeth> build(const Settings& g, const gear::CylindricalSpec& spec);
  void read_pairs(const Node& table);
  void thin_for_backlash(std::vector<std::optional<gear::Teeth>>& built);
  Angle helix(const Settings& g, double module);
  Design placed(std::vector<std::optional<gear::Teeth>>& built);
  void set_apart();
  void read_process(const Node& table);
  void read_materials(const Node& table);
  void read_frames(const Node& table);
  void read_bodies();
  double bore_play(const Settings& v) const;
  body::Features features_of(const Settings& g, const Gear& gear);
  std::optional<Material> material_of(const Settings& v, const std::string& prefix);
  void make_frame(const Settings& raw);
  void read_reducers(const Node& table);
  void make_reducer(const Settings& raw);
  void place_reducers();
  void mark(const Settings& g, Gear& gear);
  void refuse(const InvalidParameter& e, const Settings& v, const std::string& prefix);
  void place(const RawPair& raw, Pair& p, std::vector<bool>& placed);
  void close_loops();
  double length_for_print(double mm) const { return mm / mm_per(design_.units); }
  /// Millimetres in a message of the core, in the units of the job; what is said of modules stays.
  std::string in_job_units(const std::string& text) const;
  std::string print(double mm) const { return fmt::format("{:.6g} {}", length_for_print(mm), symbol(design_.units)); }

  Design design_;
  std::vector<Mistake> mistakes_;
  std::set<std::string> told_;                // keys with a mistake, and those that a misspelt one was to be
  std::map<std::string, std::string> parts_;  // what becomes a part of its own, and what becomes a page: name to table
  std::map<std::string, std::string> rolled_;
  std::map<std::string, double> values_;
  Layer shared_;
  std::vector<RawGear> raw_gears_;
  std::map<std::string, std::size_t> gear_of_;  // by name, into raw_gears_
  std::map<std::string, Layer> merged_;         // with [shared] and what is taken over
  std::vector<Settings> gears_;
  std::vector<gear::CylindricalSpec> specs_;
  std::vector<std::optional<gear::BevelSpec>> bevels_;  // beside specs_: of bevel gears
  std::vector<std::optional<CycloidalPlan>> cycloids_;  // likewise, of cycloidal gears
  std::vector<RawPair> raw_pairs_;
  std::vector<Material> materials_;
};

/// "; did you mean …", or where the known ones are listed.
std::string did_you_mean(const std::string& nearest);

}  // namespace palio::job
