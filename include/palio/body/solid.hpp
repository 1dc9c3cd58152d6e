// The closed set of bodies: layers (cylindrical parts, racks, plates) or cones (bevel gears).
#pragma once

#include <variant>

#include "palio/body/conical.hpp"
#include "palio/body/mesh.hpp"

namespace palio::body {

class Solid {
 public:
  Solid(Body layers) : made_(std::move(layers)) {}  // NOLINT(google-explicit-constructor): a body of layers is a solid
  Solid(ConicalBody cones) : made_(std::move(cones)) {}  // NOLINT(google-explicit-constructor): so is one of cones

  bool is_conical() const noexcept { return std::holds_alternative<ConicalBody>(made_); }
  const Body& layers() const { return std::get<Body>(made_); }  ///< \throws std::bad_variant_access for cones
  const ConicalBody& cones() const {
    return std::get<ConicalBody>(made_);
  }  ///< \throws std::bad_variant_access for layers
  double bottom() const { return is_conical() ? cones().bottom() : layers().bottom(); }
  double top() const { return is_conical() ? cones().top() : layers().top(); }
  bool slides() const { return !is_conical() && layers().slides; }

 private:
  std::variant<Body, ConicalBody> made_;
};

TriangleMesh mesh(const Solid& solid, double chord_error);
MassProperties mass_properties(const Solid& solid);

}  // namespace palio::body
