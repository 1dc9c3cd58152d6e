#include "palio/values/settings.hpp"

namespace palio::job {
namespace {

/// "hubs.0.diameter" as the key table has it: "hubs.diameter".
const Key* key_of(Section section, const std::string& path) { return find_key(section, without_numbers(path)); }

}  // namespace

const Value* Settings::find(const std::string& key) const {
  const auto it = values.find(key);
  return it == values.end() ? nullptr : &it->second;
}

std::optional<double> Settings::given(const std::string& key) const {
  const Value* v = find(key);
  return v ? std::optional(v->number) : std::nullopt;
}

double Settings::number(const std::string& key) const {
  if (const Value* v = find(key)) return v->number;
  const Key* known = key_of(section, key);
  if (!known) return 0;
  return known->absent.rule ? known->absent.rule(*this) : known->absent.number.value_or(0);
}

double Settings::number(const std::string& key, double otherwise) const { return given(key).value_or(otherwise); }

std::string Settings::text(const std::string& key) const {
  if (const Value* v = find(key)) return v->text;
  const Key* known = key_of(section, key);
  if (!known || known->type != Type::choice) return "";
  return among(known->choices, known->absent.words) ? known->absent.words : "";
}

const Value* Settings::any_below(const std::string& start) const {
  const auto it = values.lower_bound(start);
  return it != values.end() && it->first.compare(0, start.size(), start) == 0 ? &it->second : nullptr;
}

double Settings::module() const {
  if (const auto m = given("module")) return *m;
  if (const auto pitch = given("diametral_pitch")) return 25.4 / *pitch;
  const auto diameter = given("reference_diameter"), teeth = given("teeth");
  return diameter && teeth ? *diameter / *teeth : 0;
}

}  // namespace palio::job
