// What one number (or two) does to all the others: a job resolved again and again with that number changed.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// "gear.a.profile_shift=0:0.6:31": a key of the job from one value to another, in the units of the file.
struct VaryKey {
  std::string key;
  double from = 0, to = 0;
  std::optional<int> steps;  ///< left out: 21, of several keys fewer; of whole numbers every one
};

/// \throws InvalidParameter "KEY=FROM:TO[:STEPS]"
VaryKey parse_vary_key(const std::string& text);

struct VaryRequest {
  std::vector<VaryKey> keys;  ///< one to four
  std::vector<std::string>
      holds;  ///< "KEY": stays at its present value; "KEY+KEY": their sum stays, the second gives way
  std::vector<std::string>
      shows;  ///< "pair.first_stage.transverse_contact_ratio", "gear.a.span.length" …; empty: chosen
  std::function<void()> between;  ///< called before each design, from several threads; what it throws ends the whole
};

struct VaryRow {
  std::vector<double> at;                     ///< value of each key
  std::vector<std::optional<double>> values;  ///< of each shown quantity; none where there is none
  std::vector<std::string> findings;          ///< "error tip-in-fillet gear.a" …, errors and warnings
  std::string impossible;                     ///< why the job cannot be made so; empty when it can
  std::optional<Design> design;               ///< kept where asked for
};

/// A doubt that sets in or goes away at a value of the key.
struct VaryLimit {
  double at;         ///< found by bisection
  bool above;        ///< holds for greater values; otherwise for smaller ones
  std::string what;  ///< as in VaryRow::findings, or "impossible"
};

struct Varied {
  std::vector<std::string> keys, shows, units;  ///< units of the shown quantities
  std::vector<std::vector<double>> steps;       ///< of each key, the values it takes
  std::vector<VaryRow> rows;                    ///< of several keys: the last runs fastest
  std::vector<VaryLimit> limits;                ///< of one key
  std::string without_effect;                   ///< a key that changes nothing of the report
};

/// \param keep_designs  whether the rows keep their designs
/// \throws JobError, InvalidParameter (a key, a quantity or a hold that does not exist, with what does)
Varied vary(const Values& values, const VaryRequest& request, bool keep_designs = false);

std::string vary_csv(const Varied& varied);
std::string vary_json(const Varied& varied);
std::string vary_text(const Varied& varied);

}  // namespace palio::job
