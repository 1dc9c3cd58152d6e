#include "palio/readings/explain.hpp"

#include <algorithm>
#include <vector>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "finding_examples.hpp"
#include "palio/error.hpp"
#include "palio/gear/finding.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/spelling.hpp"
#include "quantities.hpp"
#include "things.hpp"
#include "worked.hpp"

namespace palio::job {
namespace {

struct Word {
  std::string_view word, meaning;
};

/// What else stands in a report.
const std::vector<Word>& other_words() {
  static const std::vector<Word> all{
      {"palio", "of the JSON report: the version that wrote it"},
      {"title", "what the job calls itself"},
      {"units", "lengths of the report: mm or in"},
      {"as", "of the JSON report: the state of the parts, where it is not the nominal one"},
      {"gears", "readings of each gear, by name"},
      {"pairs", "readings of each pair, by name"},
      {"frames", "readings of each plate, by name"},
      {"reducers", "readings of each cycloidal reducer, by name"},
      {"planetaries", "readings of each planetary set, by name"},
      {"trains", "readings of each train, by name"},
      {"shafts", "readings of each shaft, by name"},
      {"process", "what the making does to size, as the job or its preset says"},
      {"first_layer_up_to", "height up to which the first layers are drawn in"},
      {"shrinkage_radial", "share by which parts shrink across the axis"},
      {"shrinkage_axial", "share by which parts shrink along the axis"},
      {"draft_deg", "draft that the process asks of upright walls"},
      {"placing", "where each gear stands and how it is turned, to repeat the motion elsewhere"},
      {"center", "of placing: where the middle of the face stands"},
      {"axis", "of placing: direction of the gear's axis"},
      {"facing_deg", "of placing: which way the teeth of a rack face"},
      {"moved", "of placing: how far a rack is moved at the start"},
      {"travel_per_turn", "of placing: how far a rack moves per turn of the first driver"},
      {"findings", "what is doubtful or wrong, each with id, severity, subject, message, value and limit"},
      {"id", "of a finding: its stable name"},
      {"severity", "of a finding: error (it cannot work), warning, or note"},
      {"subject", "of a finding: the gear, pair or reducer that it is about"},
      {"message", "of a finding: what is so and what to do, with numbers"},
      {"value", "of a finding: the number found"},
      {"limit", "of a finding: the number it is held against"},
  };
  return all;
}

/// All formulas of the table, as a page shows them.
std::string formulas_shown(std::string_view all) {
  std::string text;
  for (std::size_t from = 0; from <= all.size();) {
    const std::size_t to = std::min(all.find(" | ", from), all.size());
    const std::string_view one = all.substr(from, to - from);
    if (!one.empty() && one.back() != ':') text += (text.empty() ? "" : "; ") + std::string(one);
    from = to + 3;
  }
  return text;
}

// ---- what each sort of word says -----------------------------------------------------------------------------------

std::string others_of(const Key& key) {
  std::string list;
  for (const TradeWord& t : key.others)
    list += (list.empty() ? "" : ", ") + t.word;
  return list;
}

std::string key_text(const Key& key) {
  std::string text = fmt::format("{} (key of a {})\n  {}\n", key.path, name(key.section), key.meaning);
  text += fmt::format("  {}; left out: {}\n", allowed(key, "(file's unit)"), key.absent.words);
  if (!(key.kinds == Kinds::all())) text += fmt::format("  of: {}\n", key.kinds.names());
  std::vector<std::string> given_up;
  for (std::string word : words_of(key.pushes_out)) {
    if (word.back() == '.') word.pop_back();
    // A list takes the place of the list.
    if (key.path.substr(0, key.path.find('.')) != word &&
        std::find(given_up.begin(), given_up.end(), word) == given_up.end())
      given_up.push_back(std::move(word));
  }
  if (!given_up.empty()) text += fmt::format("  takes the place of an inherited: {}\n", fmt::join(given_up, ", "));
  if (!key.others.empty()) text += fmt::format("  also called: {}\n", others_of(key));
  if (key.section == Section::gear && !key.is_own) text += "  may also stand in [shared]\n";
  return text;
}

std::string reading_text(const Reading& r, const Design* design, const std::string& only) {
  std::string text = fmt::format("{}{}{} (reading of a {}: {})\n  {}\n", r.key, r.symbol.empty() ? "" : "  ", r.symbol,
                                 name(r.of), r.group, r.label);
  text += fmt::format("  {}\n", r.meaning);
  if (!r.formula.empty()) text += fmt::format("  {}\n", formulas_shown(r.formula));
  if (!r.kinds.empty()) text += fmt::format("  of: {}\n", r.kinds);
  if (r.cost != ReadingCost::formula) text += "  found by rolling the exact curves\n";
  if (design) {
    for (const Worked& w : worked(*design, r, only))
      text += fmt::format("    {}: {}\n", w.thing, w.text);
  }
  return text;
}

std::string indented(const std::string& lines) {
  std::string text;
  for (std::size_t from = 0; from < lines.size();) {
    const std::size_t to = std::min(lines.find('\n', from), lines.size());
    text += "    " + lines.substr(from, to - from) + "\n";
    from = to + 1;
  }
  return text;
}

std::string finding_text(const FindingKind& k, const Design* design) {
  std::string text = fmt::format("{} ({})\n  {}\n  Remedy: {}\n", k.text_id, name(k.severity), k.cause, k.remedy);
  if (!design) {
    const FindingExample* example = example_of(k.id);
    return example ? text + "  An example:\n" + indented(shown(*example)) : text;
  }
  bool any = false;
  for (const Finding& f : explained_findings(*design)) {
    if (f.id != k.id) continue;
    any = true;
    text += fmt::format("    {}: {}\n", f.subject, message(f, design->units));
  }
  return text + (any ? "" : "    the job has none of it\n");
}

/// One column of a table of words.
template <class Row>
void add_words(std::vector<std::string_view>& words, const std::vector<Row>& table, std::string_view Row::*column) {
  for (const Row& row : table)
    words.push_back(row.*column);
}

std::vector<std::string_view> all_words() {
  std::vector<std::string_view> words;
  for (const Key& k : keys()) {
    words.push_back(k.path);
    words.push_back(k.path.substr(0, k.path.find('.')));
  }
  add_words(words, readings(), &Reading::key);
  add_words(words, deeper_readings(), &DeeperReading::key);
  add_words(words, finding_kinds(), &FindingKind::text_id);
  add_words(words, other_words(), &Word::word);
  return words;
}

[[noreturn]] void unknown(const std::string& word) {
  std::vector<std::pair<std::size_t, std::string>> near;
  for (const std::string_view known : all_words())
    near.emplace_back(spelling_distance(known, word), known);
  std::sort(near.begin(), near.end());
  near.erase(std::unique(near.begin(), near.end()), near.end());
  std::string list;
  constexpr std::size_t kNear = 5;
  for (std::size_t i = 0; i < std::min(kNear, near.size()); ++i)
    list += (list.empty() ? "" : ", ") + near[i].second;
  throw InvalidParameter("word", "\"" + word + "\"", "no key, reading, finding or other word is called so",
                         "near it: " + list + "; palio explain alone lists all, in groups");
}

std::string wrapped(const std::vector<std::string_view>& words) {
  constexpr std::size_t kWidth = 100;
  std::string text, line;
  for (const std::string_view w : words) {
    if (!line.empty() && line.size() + w.size() + 2 > kWidth) text += "  " + line + "\n", line.clear();
    line += (line.empty() ? "" : "  ") + std::string(w);
  }
  return line.empty() ? text : text + "  " + line + "\n";
}

}  // namespace

std::string explain_words() {
  std::string text = "palio explain WORD [JOB] says what a word means, and with a job what it is there.\n";
  for (const Section section : sections()) {
    std::vector<std::string_view> words;
    for (const Key& k : keys()) {
      if (k.section == section) words.push_back(k.path);
    }
    text += fmt::format("\nkeys of a {}\n{}", name(section), wrapped(words));
  }
  for (const ReadingOf of : kReadingOf) {
    for (const std::string_view group : reading_groups()) {
      std::vector<std::string_view> words;
      for (const Reading& r : readings()) {
        if (r.of == of && r.group == group) words.push_back(r.key);
      }
      if (!words.empty()) text += fmt::format("\nreadings of a {}: {}\n{}", name(of), group, wrapped(words));
    }
  }
  std::vector<std::string_view> deeper, found, other;
  add_words(deeper, deeper_readings(), &DeeperReading::key);
  add_words(found, finding_kinds(), &FindingKind::text_id);
  add_words(other, other_words(), &Word::word);
  text += "\nwithin readings that are tables\n" + wrapped(deeper);
  text += "\nfindings\n" + wrapped(found);
  text += "\nelse in a report\n" + wrapped(other);
  return text + "\nwhole pages: palio explain keys, readings, findings\n";
}

std::string explain(const std::string& word, const Design* design) {
  const auto [thing, plain] = thing_and_word(word);
  const std::string_view of = std::string_view(thing).substr(0, thing.find('.'));
  const std::string head = plain.substr(0, plain.find('.'));
  std::vector<std::string> parts;
  for (const Key& k : keys()) {
    if (k.path == plain && (thing.empty() || name(k.section) == of)) parts.push_back(key_text(k));
  }
  for (const Section section : sections()) {
    if (!is_group(section, plain) || (!thing.empty() && name(section) != of)) continue;
    std::string text = fmt::format("{} (table of keys of a {})\n", plain, name(section));
    for (const Key& k : keys()) {
      if (k.section == section && k.path.rfind(plain + ".", 0) == 0)
        text += fmt::format("  {}: {}\n", k.path, k.meaning);
    }
    parts.push_back(std::move(text));
  }
  for (const Reading& r : readings()) {
    const bool meant = r.key == plain || r.key == head || (!r.symbol.empty() && r.symbol == plain);
    if (meant && (thing.empty() || name(r.of) == of)) parts.push_back(reading_text(r, design, thing));
  }
  for (const DeeperReading& d : deeper_readings()) {
    const bool meant = d.key == plain || (plain != head && d.key == plain.substr(plain.rfind('.') + 1));
    if (!meant) continue;
    parts.push_back(fmt::format("{}  (within a reading)\n  {}: {}\n", d.key, d.label, d.meaning));
  }
  for (const FindingKind& k : finding_kinds()) {
    if (k.text_id == plain) parts.push_back(finding_text(k, design));
  }
  for (const Word& w : other_words()) {
    if (w.word == plain) parts.push_back(fmt::format("{}\n  {}\n", w.word, w.meaning));
  }
  for (const Section section : sections()) {
    const OtherWord other = other_word(section, plain);
    if (!other) continue;
    std::string text = fmt::format("{}: called {} here, a key of a {}{}", plain, other.key->path, name(section),
                                   other.word->remark.empty() ? "" : fmt::format(" ({})", other.word->remark));
    if (other.word->factor != 1) text += fmt::format("; {} times it", other.word->factor);
    parts.push_back(text + fmt::format("\n  {}\n", other.key->meaning));
  }
  if (parts.empty()) unknown(word);
  std::string text;
  for (const std::string& p : parts)
    text += (text.empty() ? "" : "\n") + p;
  return text;
}

std::string findings_page() {
  std::string text =
      "# Findings\n\nWritten by `palio explain findings` from the table in src/gear/finding.cpp; do not edit by "
      "hand.\n\n"
      "| id | severity | what is so | what to do |\n|---|---|---|---|\n";
  for (const FindingKind& k : finding_kinds()) {
    text += fmt::format("| `{}` | {} | {} | {} |\n", k.text_id, name(k.severity), k.cause, k.remedy);
  }
  text += "\n## An example of each\n\nCommands, or a whole job; a test looks for the finding in every one.\n";
  for (const FindingKind& k : finding_kinds()) {
    const FindingExample* example = example_of(k.id);
    text += fmt::format("\n### `{}`\n\n", k.text_id);
    if (example)
      text += fmt::format("```{}\n{}```\n", example->starter.empty() ? "toml" : "sh", shown(*example));
    else
      text += "Of gears made by the library alone: a job that says so is refused.\n";
  }
  return text;
}

std::string readings_page() {
  std::string text =
      "# Readings\n\nWritten by `palio explain readings` from the tables that the report is made of; do not edit by "
      "hand.\n"
      "`palio report JOB --only gear.NAME.KEY` prints one. Lengths are in the job's units, angles in degrees, modules "
      "in mm.\n";
  for (const ReadingOf of : kReadingOf) {
    text += fmt::format("\n## Of a {}\n", name(of));
    for (const std::string_view group : reading_groups()) {
      std::string rows;
      for (const Reading& r : readings()) {
        if (r.of != of || r.group != group) continue;
        rows += fmt::format("| `{}` | {} | {}{} | {} | {} |\n", r.key, r.symbol, r.meaning,
                            r.cost == ReadingCost::formula ? "" : " (rolled)",
                            r.formula.empty() ? "" : fmt::format("`{}`", formulas_shown(r.formula)), r.kinds);
      }
      if (rows.empty()) continue;
      text +=
          fmt::format("\n### {}\n\n| key | symbol | meaning | formula | of |\n|---|---|---|---|---|\n{}", group, rows);
    }
  }
  text += "\n## Within readings that are tables\n\n| key | meaning |\n|---|---|\n";
  for (const DeeperReading& d : deeper_readings())
    text += fmt::format("| `{}` | {}: {} |\n", d.key, d.label, d.meaning);
  return text;
}

}  // namespace palio::job
