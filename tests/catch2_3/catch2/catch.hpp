// Catch2 3 under the name and with the words of 2, which the tests are written in.
#pragma once

#include <catch2/catch_all.hpp>

#define Contains ContainsSubstring
namespace Catch {
using Matchers::ContainsSubstring;
}
using Catch::Approx;
