#include "palio/solve/variants.hpp"

#include <algorithm>
#include <filesystem>
#include <iostream>
#include <memory>
#include <set>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "common.hpp"
#include "palio/version.hpp"
#include "palio/view/variants_page.hpp"

namespace palio::cli {
namespace {

struct VariantsOptions {
  JobOptions job;
  std::string table, rows, out, name;
  std::vector<std::string> formats;
  bool json = false;
};

/// "3:7" as rows 3 to 7, "3:" and ":7" as it says; from 0, the end not among them.
std::pair<std::size_t, std::size_t> rows_of(const std::string& text, std::size_t count) {
  if (text.empty()) return {0, count};
  const auto colon = text.find(':');
  const Misuse unread(fmt::format("--rows {}: takes A:B, rows counted from 1, as in --rows 1:500", text));
  const auto number = [&](const std::string& part, std::size_t otherwise) {
    if (part.empty()) return otherwise;
    if (part.size() > 9 || part.find_first_not_of("0123456789") != std::string::npos || std::stoul(part) == 0)
      throw unread;
    return static_cast<std::size_t>(std::stoul(part));
  };
  if (colon == std::string::npos) throw unread;
  const std::size_t from = number(text.substr(0, colon), 1), to = number(text.substr(colon + 1), count);
  if (from > to || from > count)
    throw Misuse(fmt::format("--rows {}: the table has rows 1 to {}, and A is not beyond B", text, count));
  return {from - 1, std::min(to, count)};
}

/// The folder of a row's parts: what the naming column says, or its number.
std::string row_name(const solve::Table& table, const solve::Variant& v, const std::string& column, std::size_t row) {
  const auto it = std::find(table.heads.begin(), table.heads.end(), column);
  std::string name = it == table.heads.end() ? "" : v.cells[static_cast<std::size_t>(it - table.heads.begin())];
  if (name.empty()) return fmt::format("row_{:05}", row + 1);
  for (char& c : name) {
    const bool plain = std::isalnum(static_cast<unsigned char>(c)) || c == '-' || c == '_' || c == '+' ||
                       static_cast<unsigned char>(c) >= 0x80;
    if (!plain) c = '_';
  }
  return name;
}

/// Makes the parts of a row into its folder. The job is written last: where it stands there already and is the same,
/// the row is done. Whether there was anything to do.
bool make_row(const job::Values& values, const VariantsOptions& options, const std::string& folder) {
  const std::string text =
      fmt::format("# palio variants --make {}\n{}", fmt::join(options.formats, ","), values.text());
  const std::string job = within(folder, "job.toml");
  std::error_code none;
  if (std::filesystem::exists(job, none) && write::read_file(job) == text) return false;
  const job::Design design = job::resolve(values);
  make::Request request;
  request.formats = options.formats;
  make_files(design, request, target(folder, {}));
  write::write_file(job, text);
  return true;
}

std::string json_of(const solve::Table& table, const std::vector<solve::Variant>& variants, std::size_t from) {
  using Json = nlohmann::ordered_json;
  Json rows = Json::array();
  for (std::size_t i = 0; i < variants.size(); ++i) {
    Json cells = Json::object();
    for (std::size_t c = 0; c < table.heads.size(); ++c)
      cells[table.heads[c]] = variants[i].cells[c];
    rows.push_back({{"row", from + i + 1},
                    {"cells", cells},
                    {"doubts", variants[i].doubts},
                    {"problem", variants[i].problem.empty() ? Json(nullptr) : Json(variants[i].problem)}});
  }
  return Json{{"palio", kVersion}, {"rows", rows}}.dump(2) + "\n";
}

/// The page of all rows; of very many only the first are drawn.
std::string page_of(const solve::Table& table, const std::vector<solve::Variant>& variants,
                    const std::vector<std::string>& names, const std::string& heading) {
  constexpr std::size_t kDrawn = 300;
  std::vector<job::Design> designs;
  designs.reserve(kDrawn);
  std::vector<view::Leaf> leaves;
  for (std::size_t i = 0; i < variants.size(); ++i) {
    view::Leaf leaf{names[i], {}, variants[i].doubts, variants[i].problem, nullptr};
    for (std::size_t c = 0; c < table.heads.size(); ++c)
      leaf.cells.emplace_back(table.heads[c], variants[i].cells[c]);
    if (leaf.problem.empty() && designs.size() < kDrawn) {
      designs.push_back(job::resolve(*variants[i].values));
      leaf.design = &designs.back();
    }
    leaves.push_back(std::move(leaf));
  }
  return view::variants_page(heading, leaves);
}

void run_variants(const VariantsOptions& options, int& status) {
  const job::Values values = load_values(options.job);
  values.tables().mistakes.stop();
  const solve::Table table = solve::read_table(job_text({options.table, {}, "nominal"}).first,
                                               options.table == "-" ? "<table>" : options.table);
  const auto [from, to] = rows_of(options.rows, table.rows.size());
  const Target t = options.out.empty() ? Target{} : target(options.out, {"csv", "json", "html"});
  if (!options.name.empty() && std::find(table.heads.begin(), table.heads.end(), options.name) == table.heads.end())
    throw Misuse(
        fmt::format("--name {}: the table has no such column; it has {}", options.name, fmt::join(table.heads, ", ")));
  if (!options.formats.empty() && (options.out.empty() || !t.file.empty()))
    throw Misuse("--make writes a folder for each row: give --out a folder");
  const bool folder = !options.out.empty() && t.file.empty();
  const bool paged = folder || t.extension == "html";
  solve::VariantsRequest request{from, to, paged || !options.formats.empty(), [](std::size_t done, std::size_t of) {
                                   if (done % (of / 200 + 1) == 0) progress(fmt::format("row {} of {} …", done, of));
                                 }};
  std::vector<solve::Variant> variants = solve::run(table, values, request);
  std::size_t made = 0, skipped = 0;
  std::vector<std::string> names;
  std::set<std::string> taken;
  for (std::size_t i = 0; i < variants.size(); ++i) {
    solve::Variant& v = variants[i];
    std::string name = row_name(table, v, options.name, from + i);
    if (!taken.insert(name).second) name += fmt::format("_{}", from + i + 1);
    taken.insert(name);
    names.push_back(name);
    if (options.formats.empty() || !v.problem.empty()) continue;
    progress(fmt::format("making {} ({} of {}) …", name, i + 1, variants.size()));
    try {
      (make_row(*v.values, options, within(t.folder, name)) ? made : skipped) += 1;
    } catch (const std::exception& e) {
      v.problem = e.what();
    }
  }
  progress("");
  const std::string csv = solve::table_text(solve::filled(table, variants, from));
  if (folder || t.extension == "csv") save(t.path("variants.csv"), csv);
  if (folder || t.extension == "json") save(t.path("variants.json"), json_of(table, variants, from));
  const std::string job_name =
      options.job.path == "-" ? "<standard input>" : std::filesystem::path(options.job.path).filename().string();
  if (paged)
    save(
        t.path("variants.html"),
        page_of(table, variants, names, std::filesystem::path(table.source).filename().string() + " over " + job_name));
  if (options.out.empty() || options.json) print(options.json ? json_of(table, variants, from) : csv);
  std::size_t bad = 0;
  for (std::size_t i = 0; i < variants.size(); ++i) {
    if (variants[i].problem.empty()) continue;
    ++bad;
    constexpr std::size_t kTold = 20;
    if (bad <= kTold)
      std::cerr << plain(
          fmt::format("{}:{}: row {}: {}\n", table.source, table.lines[from + i], from + i + 1, variants[i].problem));
  }
  if (!options.formats.empty()) std::cerr << fmt::format("{} rows made, {} were made before\n", made, skipped);
  if (bad == 0) return;
  std::cerr << fmt::format("{} of {} rows have no job; the others are done\n", bad, variants.size());
  status = kFailed;
}

}  // namespace

void add_variants(CLI::App& root, int& status) {
  const auto options = std::make_shared<VariantsOptions>();
  CLI::App* verb = root.add_subcommand("variants", "Run a job over a table: a row a variant, results filled in");
  verb->add_option("TABLE", options->table,
                   "CSV, its first line the columns: keys (gear.motor_pinion.teeth), results "
                   "(report:pair.first_stage.center_distance), any other passes through")
      ->required();
  add_job(*verb, options->job);
  verb->add_option("--rows", options->rows, "Only rows A to B, counted from 1: any job queue can share a table")
      ->type_name("A:B");
  verb->add_option("--make", options->formats, "Make parts of every row, as palio make --format, into a folder each")
      ->delimiter(',')
      ->type_name("FORMATS");
  verb->add_option("--name", options->name, "Column that names the folders (default: row_00001 …)")
      ->type_name("COLUMN");
  verb->add_option("-o,--out", options->out,
                   "File .csv, .json or .html (rows to flip through, with teeth and findings); or a folder for all");
  verb->add_flag("--json", options->json, "For scripts: JSON on standard output");
  verb->footer(
      "A row that was made and is unchanged is not made again. A bad row is told, the others are done (exit 1).\n"
      "Example:\n  palio start spur --out vent.toml && printf "
      "'gear.motor_pinion.teeth,report:pair.first_stage.gear_ratio\\n17,\\n19,\\n' | palio variants - vent.toml");
  verb->callback([options, &status] { run_variants(*options, status); });
}

}  // namespace palio::cli
