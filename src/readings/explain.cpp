#include "palio/readings/explain.hpp"

#include <algorithm>
#include <map>
#include <vector>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "palio/error.hpp"
#include "palio/gear/finding.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/spelling.hpp"
#include "quantities.hpp"

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
      {"planetaries", "empty: planetary sets are not made by this version"},
      {"trains", "empty: pairs in a row are not made by this version"},
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

std::string_view of_word(ReadingOf of) {
  switch (of) {
    case ReadingOf::gear: return "gear";
    case ReadingOf::pair: return "pair";
    case ReadingOf::frame: return "frame";
    case ReadingOf::reducer: return "reducer";
  }
  return "";
}

// ---- formulas with numbers -----------------------------------------------------------------------------------------

bool continues(unsigned char c) { return (c & 0xC0) == 0x80; }

/// The character that begins at a place of UTF-8 text.
std::string_view character(std::string_view text, std::size_t at) {
  std::size_t end = at + 1;
  while (end < text.size() && continues(static_cast<unsigned char>(text[end])))
    ++end;
  return text.substr(at, end - at);
}

/// Whether a character is part of a symbol: letters, Greek ones too, digits, '_', '*', subscript figures.
bool in_symbol(std::string_view c) {
  if (c.size() == 1)
    return std::isalnum(static_cast<unsigned char>(c[0])) || c[0] == '_' || c[0] == '*' || c[0] == '\'';
  const auto lead = static_cast<unsigned char>(c[0]);
  const bool greek = lead == 0xCE || lead == 0xCF;
  const bool subscript = c.size() == 3 && lead == 0xE2 && static_cast<unsigned char>(c[1]) == 0x82;
  return greek || subscript;
}

using Numbers = std::map<std::string, std::string, std::less<>>;

/// A formula with the numbers in place of the symbols that are known.
std::string put_in(std::string_view formula, const Numbers& numbers) {
  std::string out;
  for (std::size_t i = 0; i < formula.size();) {
    std::size_t end = i;
    while (end < formula.size() && in_symbol(character(formula, end)))
      end += character(formula, end).size();
    if (end == i) {
      out += character(formula, i);
      i += character(formula, i).size();
      continue;
    }
    const std::string_view symbol = formula.substr(i, end - i);
    const auto it = numbers.find(symbol);
    const bool negative = it != numbers.end() && it->second.front() == '-';
    out += it == numbers.end() ? std::string(symbol) : negative ? "(" + it->second + ")" : it->second;
    i = end;
  }
  return out;
}

void add_numbers(const std::vector<Entry>& entries, Units units, const std::string& suffix, Numbers& numbers) {
  for (const Entry& e : entries) {
    if (e.key->symbol.empty() || e.numbers.empty() || e.list) continue;
    const Quantity q = e.key->quantity == Quantity::circle ? Quantity::length : e.key->quantity;
    numbers.emplace(std::string(e.key->symbol) + suffix, shown(e.numbers.front(), q, units, true));
  }
}

/// Coefficients of the profile are keys, not readings.
void add_profile(const Gear& g, Numbers& numbers) {
  if (g.teeth.is_cycloidal() || g.teeth.is_bevel()) return;
  const gear::CylindricalSpec& s = g.teeth.spec();
  numbers.emplace("h*_aP", fmt::format("{:.5g}", s.addendum));
  numbers.emplace("h*_fP", fmt::format("{:.5g}", s.dedendum));
}

/// The formula for a sort of thing, of those in the table: "h = a | internal: h = b" has one for rings and one for all
/// else.
std::string_view formula_for(std::string_view all, const std::vector<std::string_view>& tags) {
  constexpr std::string_view kNext = " | ";
  std::string_view general = all.substr(0, all.find(kNext));
  for (const std::string_view tag : tags) {
    const std::size_t at = all.find(std::string(kNext) + std::string(tag) + ":");
    if (at == std::string_view::npos) continue;
    const std::string_view rest = all.substr(at + kNext.size() + tag.size() + 1);
    const std::string_view one = rest.substr(0, rest.find(kNext));
    return one.empty() ? one : one.substr(1);
  }
  return general;
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

/// "d_b = d cos α_t" as "d_b = 25.5000 mm cos 20.0000°", and what comes of it.
std::string in_numbers(std::string_view formula, const Numbers& numbers, const Entry& value, Units units) {
  std::string told = value_text(value, units);
  if (formula.empty() || numbers.empty()) return told;
  const std::size_t equal = formula.find(" = ");
  const std::size_t from = equal == std::string_view::npos ? 0 : equal;
  return fmt::format("{}{}  →  {}", formula.substr(0, from), put_in(formula.substr(from), numbers), told);
}

std::vector<std::string_view> tags_of(const Gear& g) {
  if (g.teeth.is_rack()) return {"rack"};
  return g.teeth.internal() ? std::vector<std::string_view>{"internal"} : std::vector<std::string_view>{};
}

std::vector<std::string_view> tags_of(const Gear& driver, const Gear& driven) {
  if (driver.teeth.is_rack()) return {"rack drives", "rack"};
  if (driven.teeth.is_rack()) return {"rack"};
  if (driver.teeth.internal()) return {"ring drives", "internal"};
  return driven.teeth.internal() ? std::vector<std::string_view>{"internal"} : std::vector<std::string_view>{};
}

std::string numbers_of(const Design& design, const Reading& r, const std::string& only) {
  std::string text;
  const auto add = [&](const std::string& thing, const Numbers& numbers, const std::vector<std::string_view>& tags) {
    if (!only.empty() && only != thing) return;
    const std::string_view formula = formula_for(r.formula, tags);
    if (const auto value = entry_of(design, thing + "." + std::string(r.key))) {
      text += fmt::format("    {}: {}\n", thing, in_numbers(formula, numbers, *value, design.units));
    }
  };
  if (r.of == ReadingOf::gear) {
    for (const Gear& g : design.gears) {
      Numbers numbers;
      if (!r.formula.empty()) add_numbers(entries(design, g), design.units, "", numbers), add_profile(g, numbers);
      add("gear." + g.name, numbers, tags_of(g));
    }
  }
  if (r.of == ReadingOf::pair) {
    for (const Pair& p : design.pairs) {
      Numbers numbers;
      if (!r.formula.empty()) {
        add_numbers(entries(design, p, false), design.units, "", numbers);
        const std::vector<Entry> driver = entries(design, design.gears[p.driver]),
                                 driven = entries(design, design.gears[p.driven]);
        for (const char* suffix : {"₁", "1"})
          add_numbers(driver, design.units, suffix, numbers);
        for (const char* suffix : {"₂", "2"})
          add_numbers(driven, design.units, suffix, numbers);
        add_numbers(driver, design.units, "", numbers);
        numbers.emplace("a_w", shown(p.mounted_center_distance, Quantity::length, design.units, true));
        numbers.erase("b");  // of the driver alone
      }
      add("pair." + p.name, numbers, tags_of(design.gears[p.driver], design.gears[p.driven]));
    }
  }
  if (r.of == ReadingOf::frame) {
    for (const Frame& f : design.frames)
      add("frame." + f.name, {}, {});
  }
  if (r.of == ReadingOf::reducer) {
    for (const Reducer& red : design.reducers) {
      Numbers numbers;
      if (!r.formula.empty()) add_numbers(entries(design, red), design.units, "", numbers);
      add("reducer." + red.name, numbers, {});
    }
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
  if (key.readiness == Readiness::later) return text + "  not made by this version yet\n";
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
                                 of_word(r.of), r.group, r.label);
  text += fmt::format("  {}\n", r.meaning);
  if (!r.formula.empty()) text += fmt::format("  {}\n", formulas_shown(r.formula));
  if (!r.kinds.empty()) text += fmt::format("  of: {}\n", r.kinds);
  if (r.cost != ReadingCost::formula) text += "  found by rolling the exact curves\n";
  if (design) text += numbers_of(*design, r, only);
  return text;
}

std::string finding_text(const FindingKind& k, const Design* design) {
  std::string text = fmt::format("{} ({})\n  {}\n  Remedy: {}\n", k.text_id, name(k.severity), k.cause, k.remedy);
  if (!design) return text;
  bool any = false;
  for (const Finding& f : findings(*design)) {
    if (f.id != k.id) continue;
    any = true;
    text += fmt::format("    {}: {}\n", f.subject, message(f, design->units));
  }
  return text + (any ? "" : "    the job has none of it\n");
}

/// The thing that a path names ("gear.motor_pinion"), and the word at its end.
std::pair<std::string, std::string> thing_and_word(const std::string& word) {
  const auto first = word.find('.'), second = first == std::string::npos ? first : word.find('.', first + 1);
  const std::string head = word.substr(0, first);
  if (second == std::string::npos || (head != "gear" && head != "pair" && head != "frame" && head != "reducer")) {
    return {"", word};
  }
  return {word.substr(0, second), word.substr(second + 1)};
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
  for (const Section section : {Section::top, Section::gear, Section::pair, Section::process, Section::frame,
                                Section::material, Section::reducer}) {
    std::vector<std::string_view> words;
    for (const Key& k : keys()) {
      if (k.section == section && k.readiness == Readiness::ready) words.push_back(k.path);
    }
    text += fmt::format("\nkeys of a {}\n{}", name(section), wrapped(words));
  }
  for (const ReadingOf of : {ReadingOf::gear, ReadingOf::pair, ReadingOf::frame, ReadingOf::reducer}) {
    for (const std::string_view group : reading_groups()) {
      std::vector<std::string_view> words;
      for (const Reading& r : readings()) {
        if (r.of == of && r.group == group) words.push_back(r.key);
      }
      if (!words.empty()) text += fmt::format("\nreadings of a {}: {}\n{}", of_word(of), group, wrapped(words));
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
  for (const Section section : {Section::gear, Section::process, Section::frame, Section::reducer, Section::pair}) {
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
    if (meant && (thing.empty() || of_word(r.of) == of)) parts.push_back(reading_text(r, design, thing));
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
  for (const Section section : {Section::gear, Section::pair, Section::reducer}) {
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
  return text;
}

std::string readings_page() {
  std::string text =
      "# Readings\n\nWritten by `palio explain readings` from the tables that the report is made of; do not edit by "
      "hand.\n"
      "`palio report JOB --only gear.NAME.KEY` prints one. Lengths are in the job's units, angles in degrees, modules "
      "in mm.\n";
  for (const ReadingOf of : {ReadingOf::gear, ReadingOf::pair, ReadingOf::frame, ReadingOf::reducer}) {
    text += fmt::format("\n## Of a {}\n", of_word(of));
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
