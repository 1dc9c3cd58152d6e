// From the tree of a job to its tables: names, layers, what is like what. Private to the values.
#pragma once

#include "node.hpp"
#include "palio/values/values.hpp"

namespace palio::job {

/// Mistakes are noted in the tables.
void read_tables(const Node& root, Tables& tables);

}  // namespace palio::job
