// The words in which rows of the key table are written. Private to it.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "palio/values/bearings.hpp"
#include "palio/values/keys.hpp"

namespace palio::job {

/// Of a gear, [gear.NAME] and [shared]: the other rows stand in key_table.cpp.
std::vector<Key> gear_keys();

inline constexpr std::string_view kAsked = "asked for", kNone = "none";

inline Bounds of(Type type, std::optional<double> least = {}, std::optional<double> greatest = {}) {
  return {type, least, greatest, false, {}};
}
inline Bounds above(Bounds range) { return range.above_least = true, range; }
inline Bounds listed(Type type, std::string_view choices) { return {type, {}, {}, false, choices}; }

inline Bounds text() { return of(Type::text); }
inline Bounds names() { return of(Type::names); }
inline Bounds table() { return of(Type::table); }
inline Bounds flag() { return of(Type::flag); }
inline Bounds angles() { return of(Type::angles); }
inline Bounds lengths() { return of(Type::lengths); }
inline Bounds length_by_diameter() { return of(Type::length_by_diameter); }
inline Bounds length() { return of(Type::length); }
inline Bounds length_from(double least) { return of(Type::length, least); }
/// A length above 0.
inline Bounds size() { return above(of(Type::length, 0)); }
inline Bounds length_or_share_from(double least) { return of(Type::length_or_share, least); }
inline Bounds whole(double least, double greatest) { return of(Type::whole, least, greatest); }
inline Bounds plain(double least, double greatest) { return of(Type::plain, least, greatest); }
inline Bounds plain_from(double least) { return of(Type::plain, least); }
inline Bounds plain_above(double least, double greatest) { return above(plain(least, greatest)); }
inline Bounds fraction(double least, double greatest) { return of(Type::fraction, least, greatest); }
inline Bounds millimetres(double least, double greatest) { return of(Type::millimetres, least, greatest); }
inline Bounds per_inch(double least, double greatest) { return of(Type::per_inch, least, greatest); }
inline Bounds angle() { return of(Type::angle); }
inline Bounds angle(double least, double greatest) { return of(Type::angle, least, greatest); }
inline Bounds angle_above(double least, double greatest) { return above(angle(least, greatest)); }
inline Bounds choice(std::string_view words) { return listed(Type::choice, words); }
inline Bounds choices(std::string_view words) { return listed(Type::choices, words); }
inline Bounds share(std::string_view words) { return {Type::share, 0, 1, false, words}; }

/// The names of what a table of bought things has, separated by blanks.
template <class Thing, class Name>
std::string names_of(const std::vector<Thing>& table, Name name) {
  std::string all;
  for (const Thing& thing : table)
    all += (all.empty() ? "" : " ") + std::string(name(thing));
  return all;
}

/// The designations of bought bearings.
inline std::string_view bearings() {
  static const std::string kAllBearings = names_of(ball_bearings(), [](const Bearing& b) { return b.designation; });
  return kAllBearings;
}

template <Section section>
Key row(std::string_view path, const Bounds& range, Absent absent, std::string_view meaning) {
  return {section, path, range, std::move(absent), meaning};
}

}  // namespace palio::job
