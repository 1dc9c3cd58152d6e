// A gear found again from its outline alone; and what is told of an outline laid on teeth.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/foreign/lay.hpp"

namespace palio::foreign {

struct Recovered {
  Toothed toothed;
  FlankFit fit;
  std::vector<Guess> guesses;  ///< the first is the one taken: its exact teeth are what the outline is laid on
  Laid laid;
};

/// The likeliest gear whose exact teeth can be made; its tool's corner is the one that leaves least at the roots.
/// \throws InvalidParameter as `fit_flanks`, `guesses`
Recovered recover(const Toothed& toothed);

/// A job of that gear. \param source  the file's name, for a comment
std::string job_text(const Recovered& recovered, const std::string& source);

std::string recovered_text(const Recovered& recovered, const std::string& source);
std::string recovered_json(const Recovered& recovered);

/// An outline laid on something, with what its flanks are if they are near an involute or an arc.
struct Told {
  std::string of, on;  ///< "plate.dxf", "gear.motor_pinion of vent.toml"
  Toothed toothed;
  Laid laid;
  std::optional<FlankFit> fit;
};
/// Lays it on exact teeth, or on another outline, and looks at its flanks. \throws InvalidParameter as `lay`
Told told(std::string of, std::string on, Toothed toothed, const curve::Outline& exact, const Laying& laying = {});
Told told(std::string of, std::string on, Toothed toothed, const Toothed& other, const Laying& laying = {});

std::string laid_text(const Told& told);
std::string laid_json(const Told& told);

}  // namespace palio::foreign
