#include "palio/values/retaining_rings.hpp"

#include <algorithm>
#include <cmath>

namespace palio::job {

const std::vector<RetainingRing>& retaining_rings() {
  static const std::vector<RetainingRing> all{
      {3, 0.4, 2.8, 0.5},     {4, 0.4, 3.8, 0.5},     {5, 0.6, 4.8, 0.7},     {6, 0.7, 5.7, 0.8},
      {7, 0.8, 6.7, 0.9},     {8, 0.8, 7.6, 0.9},     {9, 1, 8.6, 1.1},       {10, 1, 9.6, 1.1},
      {11, 1, 10.5, 1.1},     {12, 1, 11.5, 1.1},     {13, 1, 12.4, 1.1},     {14, 1, 13.4, 1.1},
      {15, 1, 14.3, 1.1},     {16, 1, 15.2, 1.1},     {17, 1, 16.2, 1.1},     {18, 1.2, 17, 1.3},
      {19, 1.2, 18, 1.3},     {20, 1.2, 19, 1.3},     {21, 1.2, 20, 1.3},     {22, 1.2, 21, 1.3},
      {24, 1.2, 22.9, 1.3},   {25, 1.2, 23.9, 1.3},   {26, 1.2, 24.9, 1.3},   {28, 1.5, 26.6, 1.6},
      {29, 1.5, 27.6, 1.6},   {30, 1.5, 28.6, 1.6},   {32, 1.5, 30.3, 1.6},   {34, 1.5, 32.3, 1.6},
      {35, 1.5, 33, 1.6},     {36, 1.75, 34, 1.85},   {38, 1.75, 36, 1.85},   {40, 1.75, 37.5, 1.85},
      {42, 1.75, 39.5, 1.85}, {45, 1.75, 42.5, 1.85}, {48, 1.75, 45.5, 1.85}, {50, 2, 47, 2.15}};
  return all;
}

const RetainingRing* retaining_ring(double shaft) {
  constexpr double kSameSize = 1e-6;  // [mm]
  const auto it = std::find_if(retaining_rings().begin(), retaining_rings().end(),
                               [&](const RetainingRing& r) { return std::abs(r.shaft - shaft) < kSameSize; });
  return it == retaining_rings().end() ? nullptr : &*it;
}

}  // namespace palio::job
