// One function of several kinds, for std::visit: a kind without its own does not compile.
#pragma once

namespace palio {

template <class... F>
struct overloaded : F... {
  using F::operator()...;
};
template <class... F>
overloaded(F...) -> overloaded<F...>;

}  // namespace palio
