#include "palio/error.hpp"

#include <utility>

namespace palio {

InvalidParameter::InvalidParameter(std::string name, std::string given, std::string allowed, std::string remedy)
    : std::invalid_argument(name + " is " + given + ", but " + allowed + "; " + remedy),
      name_(std::move(name)),
      given_(std::move(given)),
      allowed_(std::move(allowed)),
      remedy_(std::move(remedy)) {}

}  // namespace palio
