// The usual way in a general modelling kernel, to compare with.
#pragma once

#include "palio/gear/cylindrical.hpp"

namespace palio::bench {

/// Cuts every tooth space out of a blank; returns the volume left [mm³].
double cut_tooth_spaces(const gear::CylindricalGear& gear);

/// Our own solid by direct B-rep; returns its number of faces.
int direct_solid(const gear::CylindricalGear& gear);

/// Hub, recess, keyway and five holes added to a finished toothed solid by booleans, as one would in a general
/// modeller; returns the volume [mm³].
double boolean_features(const gear::CylindricalGear& gear);

/// Our own solid with the same features; returns its volume [mm³].
double direct_features(const gear::CylindricalGear& gear);

/// A set screw's hole through a hub cut into the finished solid; returns the volume [mm³].
double boolean_screw(const gear::CylindricalGear& gear);

/// Our own solid with the same hole; returns its volume [mm³].
double direct_screw(const gear::CylindricalGear& gear);

/// The toothed solid of a helical gear (no bore) lofted through turned sections; returns its volume [mm³].
double loft(const gear::CylindricalGear& gear, int sections);

/// Triangles of the direct solid by the kernel's mesher.
int kernel_mesh(const gear::CylindricalGear& gear, double chord_error);

}  // namespace palio::bench
