// The bodies of teeth: what a body is built around, as gears have it.
#pragma once

#include "palio/body/conical.hpp"
#include "palio/body/features.hpp"
#include "palio/gear/teeth.hpp"

namespace palio::gear {

/// \throws std::bad_variant_access for bevel gears
body::Core core(const Teeth& teeth);
body::ConicalCore core(const BevelGear& gear);

/// The least and greatest heights of a body of teeth that are no bevel gear's.
body::Heights heights(const Teeth& teeth, const body::Features& features);

/// The body of teeth, as `body::body` and `body::ConicalBody` make it.
/// \param first_layer  the teeth as the lowest layer shows them, where `first_layer_inset` asks for it
body::Body body(const Teeth& teeth, const body::Features& features = {}, const Teeth* first_layer = nullptr);
body::ConicalBody body(const BevelGear& gear, const body::Features& features = {});

/// The same spec with every length larger by `factor`.
BevelSpec scaled(BevelSpec spec, double factor);

}  // namespace palio::gear
