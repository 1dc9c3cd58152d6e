// [planetary.NAME] in long: the pairs, the carrier and the shaft that it is short for. Private to the values.
#pragma once

#include "palio/values/values.hpp"

namespace palio::job {

/// Adds them to the tables; what is wrong is noted.
void spell_out_planetaries(Tables& tables);

}  // namespace palio::job
