// What one table of a job says: every key with its checked value and the place it comes from.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "palio/values/keys.hpp"
#include "palio/values/kind.hpp"
#include "palio/values/mistake.hpp"

namespace palio::job {

/// A checked value of a key: lengths in mm, angles in degrees, shares as fractions.
struct Value {
  double number = 0;
  std::string text;                                    // texts and choices
  bool share = false;                                  // length_or_share given as a share
  std::vector<double> numbers;                         // lists of angles [degrees] and of lengths
  std::vector<std::string> texts;                      // lists of names and choices
  std::vector<std::pair<double, double>> by_diameter;  // [mm], sorted
  Where where;
  bool inherited = false;  // from [shared], or a gear that another is like
};

using Layer = std::map<std::string, Value>;

/// Items of a list are numbered: "hubs.0.diameter".
struct Settings {
  Section section = Section::gear;
  std::string name;
  Where where;
  Layer values;
  bool sound = true;  // no mistake was found in its keys

  const Value* find(const std::string& key) const;
  /// As given, or by the key's own default; 0 where it has none.
  double number(const std::string& key) const;
  double number(const std::string& key, double otherwise) const;
  std::optional<double> given(const std::string& key) const;
  bool flag(const std::string& key) const { return number(key, 0) != 0; }
  /// As given, or the choice that holds without it; empty where there is none.
  std::string text(const std::string& key) const;
  /// The first value whose key is `start` or lies below it.
  const Value* any_below(const std::string& start) const;

  // Of a gear.
  std::optional<Kind> kind() const { return kind_named(text("kind")); }
  bool is(Kinds kinds) const { return kind() && kinds.has(*kind()); }
  /// Of three that say two: module, diametral_pitch, reference_diameter over teeth. 0 where they do not say it [mm].
  double module() const;
};

inline constexpr Kinds kCycloidalKinds = Kinds(Kind::cycloidal) | Kind::lantern;

}  // namespace palio::job
