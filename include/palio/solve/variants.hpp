// A job run over a table: a row a variant, columns of keys to change, columns of readings to fill in.
#pragma once

#include <cstddef>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "palio/values/values.hpp"

namespace palio::solve {

/// A table as spreadsheets write it.
struct Table {
  std::vector<std::string> heads;
  std::vector<std::vector<std::string>> rows;  ///< each as long as `heads`
  std::vector<int> lines;                      ///< of each row in the file, from 1
  char separator = ',';
  bool decimal_comma = false;  ///< numbers read 1,5
  std::string source;
};

/// Byte-order marks, semicolons or tabs between cells, decimal commas, quoted cells with line ends in them and empty
/// lines are understood. \throws JobError with line and column
Table read_table(std::string_view text, const std::string& source);
/// The same way round; with the same separator and decimals.
std::string table_text(const Table& table);

/// What a column does.
enum class Column { key, reading, free };

/// What became of a row.
struct Variant {
  std::vector<std::string> cells;  ///< as in the table, readings filled in
  std::size_t errors = 0, warnings = 0;
  std::vector<std::string> doubts;  ///< "error gear.a undercut" …
  std::string problem;              ///< why there is no such job; empty where there is
  std::optional<job::Values> values;
};

struct VariantsRequest {
  std::size_t from = 0, to = static_cast<std::size_t>(-1);         ///< rows, from 0, `to` not among them
  bool keep = false;                                               ///< the values of each row
  std::function<void(std::size_t done, std::size_t of)> progress;  ///< one at a time
};

/// What its heads say of the columns: "gear.a.teeth" a key, "report:pair.p.center_distance" a reading, others are free.
/// \throws JobError where a head looks like a key or reading and is none
std::vector<Column> columns(const Table& table, const job::Values& values);

/// Rows in parallel, their order kept.
std::vector<Variant> run(const Table& table, const job::Values& values, const VariantsRequest& request = {});

/// The table with its readings filled in, and errors, warnings and problem of each row appended.
Table filled(const Table& table, const std::vector<Variant>& variants, std::size_t from);

}  // namespace palio::solve
