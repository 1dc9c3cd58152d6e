// How close two numbers that were worked out differently come to each other.
#pragma once

namespace palio::math {

/// What is left of rounding when a number went through some dozen operations: a few thousand times a double's last bit.
/// Of the number itself; of angles [rad] and of sizes in modules, which are about 1, as it stands.
inline constexpr double kRounding = 1e-12;

/// As good as the same: what numbers agree to that went through a search for a root, or were given with their last
/// digit rounded. Of the number itself; of lengths [mm] as it stands, a thousandth of a nanometre.
inline constexpr double kAlike = 1e-9;

}  // namespace palio::math
