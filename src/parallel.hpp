// Independent pieces of work on all cores. Private.
#pragma once

#include <cstddef>
#include <exception>
#include <vector>

#include <tbb/parallel_for.h>

namespace palio {

/// work(0) … work(count − 1), several at a time; each writes to its own place only. Of several exceptions the one of
/// the least index is thrown, as if they had been done one after the other.
template <class Work>
void for_each_index(std::size_t count, const Work& work) {
  std::vector<std::exception_ptr> thrown(count);
  tbb::parallel_for(std::size_t{0}, count, [&](std::size_t i) {
    try {
      work(i);
    } catch (...) {
      thrown[i] = std::current_exception();
    }
  });
  for (const std::exception_ptr& e : thrown) {
    if (e) std::rethrow_exception(e);
  }
}

}  // namespace palio
