// The kinds of gear that a job can ask for: a closed set.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <string_view>

namespace palio::job {

enum class Kind { spur, helical, double_helical, internal, rack, bevel, cycloidal, lantern };

inline constexpr std::array<std::string_view, 8> kKindNames{"spur", "helical", "double_helical", "internal",
                                                            "rack", "bevel",   "cycloidal",      "lantern"};

constexpr std::string_view name(Kind kind) noexcept { return kKindNames[static_cast<std::size_t>(kind)]; }

constexpr std::optional<Kind> kind_named(std::string_view name) noexcept {
  for (std::size_t i = 0; i < kKindNames.size(); ++i) {
    if (kKindNames[i] == name) return static_cast<Kind>(i);
  }
  return std::nullopt;
}

/// A set of kinds.
class Kinds {
 public:
  constexpr Kinds() = default;
  constexpr Kinds(Kind kind) : bits_(1U << static_cast<unsigned>(kind)) {}  // NOLINT(google-explicit-constructor)

  static constexpr Kinds all() noexcept { return Kinds((1U << kKindNames.size()) - 1); }
  constexpr bool has(Kind kind) const noexcept { return (bits_ & Kinds(kind).bits_) != 0; }
  constexpr Kinds operator|(Kinds other) const noexcept { return Kinds(bits_ | other.bits_); }
  constexpr Kinds operator-(Kinds other) const noexcept { return Kinds(bits_ & ~other.bits_); }
  constexpr bool operator==(Kinds other) const noexcept { return bits_ == other.bits_; }
  /// "spur, helical, rack"
  std::string names() const {
    std::string list;
    for (std::size_t i = 0; i < kKindNames.size(); ++i) {
      if (has(static_cast<Kind>(i))) list += (list.empty() ? "" : ", ") + std::string(kKindNames[i]);
    }
    return list;
  }

 private:
  constexpr explicit Kinds(unsigned bits) : bits_(bits) {}
  unsigned bits_ = 0;
};

}  // namespace palio::job
