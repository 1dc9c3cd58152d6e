// A strong type for angles: degrees and radians are both `double` to a compiler, and mixing them up
// gives a plausible, wrong gear. Lengths stay plain doubles in millimetres.
#pragma once

namespace palio {

inline constexpr double kPi = 3.141592653589793238462643383279502884;

/// An angle; any finite number of turns, never wrapped unless asked.
class Angle {
 public:
  constexpr Angle() noexcept = default;  ///< the zero angle
  static constexpr Angle degrees(double value) noexcept { return Angle(value * (kPi / 180)); }
  static constexpr Angle radians(double value) noexcept { return Angle(value); }
  constexpr double radians() const noexcept { return radians_; }
  constexpr double degrees() const noexcept { return radians_ * (180 / kPi); }

  friend constexpr Angle operator+(Angle a, Angle b) noexcept { return Angle(a.radians_ + b.radians_); }
  friend constexpr Angle operator-(Angle a, Angle b) noexcept { return Angle(a.radians_ - b.radians_); }
  friend constexpr Angle operator-(Angle a) noexcept { return Angle(-a.radians_); }
  friend constexpr bool operator<(Angle a, Angle b) noexcept { return a.radians_ < b.radians_; }
  friend constexpr bool operator>(Angle a, Angle b) noexcept { return b < a; }
  friend constexpr bool operator==(Angle a, Angle b) noexcept { return a.radians_ == b.radians_; }
  friend constexpr bool operator!=(Angle a, Angle b) noexcept { return a.radians_ != b.radians_; }
  friend constexpr Angle operator*(double k, Angle a) noexcept { return Angle(k * a.radians_); }

 private:
  explicit constexpr Angle(double radians) noexcept : radians_(radians) {}
  double radians_ = 0;
};

}  // namespace palio
