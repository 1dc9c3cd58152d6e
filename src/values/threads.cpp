#include "palio/values/threads.hpp"

#include <algorithm>

namespace palio::job {

const std::vector<Thread>& threads() {
  static const std::vector<Thread> all{{"M2", 2, 0.4, 2.4, 4, 1.6},   {"M2.5", 2.5, 0.45, 2.9, 5, 2},
                                       {"M3", 3, 0.5, 3.4, 5.5, 2.4}, {"M4", 4, 0.7, 4.5, 7, 3.2},
                                       {"M5", 5, 0.8, 5.5, 8, 4.7},   {"M6", 6, 1, 6.6, 10, 5.2},
                                       {"M8", 8, 1.25, 9, 13, 6.8},   {"M10", 10, 1.5, 11, 16, 8.4}};
  return all;
}

const Thread* thread_named(std::string_view name) {
  const auto it = std::find_if(threads().begin(), threads().end(), [&](const Thread& t) { return t.name == name; });
  return it == threads().end() ? nullptr : &*it;
}

}  // namespace palio::job
