#include "palio/solve/variants.hpp"

#include <algorithm>
#include <cmath>
#include <mutex>
#include <regex>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/readings/findings.hpp"
#include "palio/readings/reading.hpp"
#include "parallel.hpp"
#include "text.hpp"

namespace palio::solve {
namespace {

constexpr std::string_view kReading = "report:";

[[noreturn]] void refuse(const Table& table, int line, const std::string& column, const std::string& message) {
  throw job::JobError({{"bad-table", {table.source, line, 0}, column, message}});
}

/// What stands most often between cells in the first line: semicolons and tabs before commas, which may be decimals.
char separator_of(std::string_view text) {
  const std::string_view line = text.substr(0, text.find('\n'));
  for (const char mark : {';', '\t'}) {
    if (line.find(mark) != std::string_view::npos) return mark;
  }
  return ',';
}

/// Cells of all lines, quoted ones with whatever is in them.
class CellReader {
 public:
  CellReader(std::string_view text, Table& table) : text_(text), table_(table) {}

  void run() {
    std::vector<std::string> row;
    int line = 1, begun = 1;
    bool any = false;
    const auto end_row = [&] {
      if (any || row.size() > 1 || !row.back().empty()) take(std::move(row), begun);
      row.clear(), any = false;
    };
    row.emplace_back();
    for (std::size_t i = 0; i < text_.size(); ++i) {
      const char c = text_[i];
      if (c == '"' && row.back().empty()) {
        i = quoted(i + 1, row.back(), line);
        any = true;
      } else if (c == table_.separator) {
        row.emplace_back();
      } else if (c == '\n') {
        end_row();
        row.emplace_back();
        begun = ++line;
      } else if (c != '\r') {
        row.back() += c;
      }
    }
    end_row();
  }

 private:
  /// The place of the closing quote.
  std::size_t quoted(std::size_t from, std::string& cell, int& line) const {
    const int begun = line;
    for (std::size_t i = from; i < text_.size(); ++i) {
      if (text_[i] == '\n') ++line;
      if (text_[i] != '"') {
        cell += text_[i];
      } else if (i + 1 < text_.size() && text_[i + 1] == '"') {
        cell += '"', ++i;
      } else {
        return i;
      }
    }
    refuse(table_, begun, "", "a quoted cell is not closed; put a quotation mark at its end");
  }

  void take(std::vector<std::string> row, int line) {
    if (std::all_of(row.begin(), row.end(), [](const std::string& c) { return trimmed(c).empty(); })) return;
    for (std::string& cell : row)
      cell = trimmed(cell);
    if (table_.heads.empty()) {
      table_.heads = std::move(row);
      return;
    }
    if (row.size() > table_.heads.size())
      refuse(table_, line, "",
             fmt::format("has {} cells, but the table has {} columns; quote cells that hold a {}", row.size(),
                         table_.heads.size(), table_.separator == '\t' ? "tab" : std::string(1, table_.separator)));
    row.resize(table_.heads.size());
    table_.rows.push_back(std::move(row));
    table_.lines.push_back(line);
  }

  std::string_view text_;
  Table& table_;
};

bool is_decimal_comma(const std::string& cell) {
  static const std::regex number(R"([-+]?\d+,\d+)");
  return std::regex_match(cell, number);
}

std::string with_point(std::string cell) {
  std::replace(cell.begin(), cell.end(), ',', '.');
  return cell;
}

/// What a cell says of a key: "gear.a.teeth=19".
std::string assignment(const Table& table, const std::string& head, const std::string& cell) {
  return head + "=" + (table.decimal_comma && is_decimal_comma(cell) ? with_point(cell) : cell);
}

std::string cell_of(const std::string& reading, bool decimal_comma) {
  static const std::regex number(R"([-+]?\d+\.\d+(e[-+]?\d+)?)");
  if (!decimal_comma || !std::regex_match(reading, number)) return reading;
  std::string cell = reading;
  std::replace(cell.begin(), cell.end(), '.', ',');
  return cell;
}

std::string one_line(std::string text) {
  std::replace(text.begin(), text.end(), '\n', ' ');
  return text;
}

Variant variant(const Table& table, const std::vector<Column>& columns, const job::Values& values, std::size_t row) {
  Variant v{table.rows[row], 0, 0, {}, "", {}};
  try {
    std::vector<std::string> said;
    for (std::size_t c = 0; c < columns.size(); ++c) {
      if (columns[c] == Column::key && !v.cells[c].empty())
        said.push_back(assignment(table, table.heads[c], v.cells[c]));
    }
    v.values = values.with_said(said);
    const job::Design design = job::resolve(*v.values);
    for (std::size_t c = 0; c < columns.size(); ++c) {
      if (columns[c] != Column::reading) continue;
      const std::string path = table.heads[c].substr(kReading.size());
      v.cells[c] = cell_of(job::reading_text(design, path), table.decimal_comma);
    }
    for (const Finding& f : job::findings(design)) {
      if (f.kind().severity == Severity::note) continue;
      (f.kind().severity == Severity::error ? v.errors : v.warnings) += 1;
      v.doubts.push_back(fmt::format("{} {} {}", name(f.kind().severity), f.subject, f.kind().text_id));
    }
  } catch (const job::JobError& e) {
    v.problem = one_line(e.mistakes().front().key + " " + e.mistakes().front().message);
  } catch (const std::exception& e) {
    v.problem = one_line(e.what());
  }
  return v;
}

}  // namespace

Table read_table(std::string_view text, const std::string& source) {
  Table table;
  table.source = source;
  text = unmarked(text);
  if (text.substr(0, 2) == "\xFF\xFE" || text.substr(0, 2) == "\xFE\xFF")
    refuse(table, 1, "", "is in UTF-16; save it as CSV in UTF-8");
  table.separator = separator_of(text);
  CellReader(text, table).run();
  if (table.heads.empty()) refuse(table, 1, "", "is empty; its first line names the columns, as gear.pinion.teeth");
  if (table.separator == ',') return table;
  for (const std::vector<std::string>& row : table.rows)
    table.decimal_comma = table.decimal_comma || std::any_of(row.begin(), row.end(), is_decimal_comma);
  return table;
}

std::string table_text(const Table& table) {
  const auto line = [&](const std::vector<std::string>& cells) {
    std::string text;
    for (std::size_t c = 0; c < cells.size(); ++c) {
      const bool quote = cells[c].find_first_of(std::string("\"\n\r") + table.separator) != std::string::npos;
      std::string cell = cells[c];
      for (auto at = cell.find('"'); quote && at != std::string::npos; at = cell.find('"', at + 2))
        cell.insert(at, 1, '"');
      text += (c > 0 ? std::string(1, table.separator) : "") + (quote ? '"' + cell + '"' : cell);
    }
    return text + "\n";
  };
  std::string text = line(table.heads);
  for (const std::vector<std::string>& row : table.rows)
    text += line(row);
  return text;
}

std::vector<Column> columns(const Table& table, const job::Values& values) {
  std::vector<Column> all;
  for (const std::string& head : table.heads) {
    if (head.rfind(kReading, 0) == 0) {
      all.push_back(Column::reading);
      continue;
    }
    const auto dot = head.find('.');
    const auto section = dot == std::string::npos ? std::nullopt : job::section_named(head.substr(0, dot));
    const bool named_value = head.rfind("values.", 0) == 0;
    if (!section && !named_value) {
      all.push_back(Column::free);
      continue;
    }
    // The names have to be there; what may stand in the cells shows row by row.
    try {
      values.with_said({head + "=1"}).tables().mistakes.stop();
    } catch (const job::JobError& e) {
      for (const job::Mistake& m : e.mistakes()) {
        if (m.id == "bad-set" || (m.id == "unknown-key" && m.key == job::leaves_as_teeth(head)))
          refuse(table, 1, head, fmt::format("{} (a reading is written report:{})", m.message, head));
      }
    }
    all.push_back(Column::key);
  }
  return all;
}

std::vector<Variant> run(const Table& table, const job::Values& values, const VariantsRequest& request) {
  const std::vector<Column> sorts = columns(table, values);
  const std::size_t to = std::min(request.to, table.rows.size()), count = to > request.from ? to - request.from : 0;
  std::vector<Variant> all(count);
  std::size_t done = 0;
  std::mutex telling;
  for_each_index(count, [&](std::size_t i) {
    all[i] = variant(table, sorts, values, request.from + i);
    if (!request.keep) all[i].values.reset();
    const std::lock_guard lock(telling);
    if (request.progress) request.progress(++done, count);
  });
  return all;
}

Table filled(const Table& table, const std::vector<Variant>& variants, std::size_t from) {
  Table out = table;
  for (const char* head : {"errors", "warnings", "problem"})
    out.heads.emplace_back(head);
  out.rows.clear(), out.lines.clear();
  for (std::size_t i = 0; i < variants.size(); ++i) {
    const Variant& v = variants[i];
    std::vector<std::string> row = v.cells;
    const bool made = v.problem.empty();
    row.push_back(made ? std::to_string(v.errors) : "");
    row.push_back(made ? std::to_string(v.warnings) : "");
    row.push_back(v.problem);
    out.rows.push_back(std::move(row));
    out.lines.push_back(table.lines[from + i]);
  }
  return out;
}

}  // namespace palio::solve
