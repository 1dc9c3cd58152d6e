#include "tables.hpp"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <map>
#include <regex>
#include <set>

#include <fmt/format.h>

#include "expected.hpp"
#include "measurement.hpp"
#include "node.hpp"
#include "palio/angle.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/spelling.hpp"
#include "planetary.hpp"
#include "sought.hpp"
#include "text.hpp"
#include "value.hpp"

namespace palio::job {
namespace {

/// The key for the diameter where a radius was written: "roller_radius" becomes "roller_diameter".
std::string as_diameter(Section section, const std::string& path) {
  const std::string_view radius = "radius";
  if (path.size() < radius.size() || path.compare(path.size() - radius.size(), radius.size(), radius) != 0) return "";
  std::string diameter = path.substr(0, path.size() - radius.size()) + "diameter";
  return find_key(section, diameter) ? diameter : "";
}

/// What a gear says itself, and which it is like.
struct OwnGear : Settings {
  explicit OwnGear(Settings settings) : Settings(std::move(settings)) {}
  std::string like;
  Where like_where;
};

/// The message about a name that no gear has. \param gears  any that have names
template <class Gears>
std::string no_such_gear(const std::string& name, const Gears& gears) {
  std::vector<std::string> names;
  names.reserve(gears.size());
  for (const Settings& g : gears)
    names.push_back(g.name);
  const Known known = known_words(names, name, name_slip(name));
  return fmt::format("is \"{}\", but the job's gears are {}; {}", name, known.list.empty() ? "none" : known.list,
                     known.nearest.empty() ? "name one of them" : did_you_mean(known.nearest));
}

/// From the tree to the tables.
class Reader {
 public:
  explicit Reader(Tables& tables) : tables_(tables), mistakes_(tables.mistakes) {}
  void run(const Node& root) { read_top(root); }

 private:
  void read_values(const Node& table);
  /// A value left open: a design needs a number in its place.
  void read_open(const Node& node, const Key* key, const std::string& path);
  void note_empty(const Node& node, Section section, const std::string& group, const std::string& path);
  void read_layer(const Node& table, Section section, const std::string& prefix, const std::string& inner, Layer& into);
  /// One check of all names: they become files, and stand in every output. Notes what is wrong.
  bool name_fits(const std::string& name, const Where& where, const std::string& table);
  void read_top(const Node& root);
  void read_gears(const Node& root);
  std::vector<Settings> read_named(const Node& root, Section section);
  void apply(Layer& into, const Layer& layer) const;
  Settings merged(const OwnGear& gear);

  Tables& tables_;
  Mistakes& mistakes_;
  std::map<std::string, std::string> parts_;  // parts and what turns, and what becomes a page: name to table
  std::map<std::string, std::string> rolled_;
  Layer shared_;
  std::vector<OwnGear> own_gears_;
  std::map<std::string, std::size_t> gear_of_;  // by name, into own_gears_
  std::map<std::string, Layer> merged_;         // with [shared] and what is taken over
};

void Reader::read_values(const Node& node) {
  const Table* table = node.table();
  if (!table)
    return mistakes_.note("wrong-type", node.where, "values",
                          fmt::format("is {}, but a table of named numbers is allowed", node.text()));
  for (const auto& [name, child] : *table) {
    const std::string key = "values." + name;
    const bool word = !name.empty() && (std::isalpha(static_cast<unsigned char>(name[0])) || name[0] == '_') &&
                      std::all_of(name.begin(), name.end(),
                                  [](char c) { return std::isalnum(static_cast<unsigned char>(c)) || c == '_'; });
    if (!word) {
      mistakes_.note("bad-name", child.where, key,
                     "a name in [values] is made of letters, digits and _, and begins with a letter");
      continue;
    }
    if (is_sought(child)) {
      // Until it is found, what is worked out from it takes it for one.
      tables_.named[name] = 1;
      read_open(child, nullptr, key);
      continue;
    }
    try {
      const Measured m = measure(child, tables_.named);
      double value = m.value;
      if (m.unit == "mm") value /= mm_per(tables_.units);
      if (m.unit == "in") value *= 25.4 / mm_per(tables_.units);
      if (m.unit == "rad") value *= 180 / kPi;
      if (m.unit == "%") value /= 100;
      if (!std::isfinite(value)) throw std::string("is not finite");
      tables_.named[name] = value;
    } catch (const std::string& why) {
      mistakes_.note(
          "bad-value", child.where, key,
          fmt::format("is {}, which {}; a number or an expression of values above it is allowed", child.text(), why));
    }
  }
}

void Reader::read_open(const Node& node, const Key* key, const std::string& path) {
  try {
    tables_.sought.push_back(read_sought(key, path, node, tables_.units, tables_.named));
    mistakes_.know(path);
    mistakes_.note("sought", node.where, path,
                   fmt::format("is {}: left for palio find (from wants) or palio recover (from measurements) to fill "
                               "in; here a number is needed",
                               node.text()));
  } catch (const std::string& why) {
    mistakes_.note("bad-value", node.where, path, why);
  }
}

/// A table in which nothing stands was meant to say something.
void Reader::note_empty(const Node& node, Section section, const std::string& group, const std::string& path) {
  std::string known;
  for (const Key& key : keys()) {
    const bool of = key.section == section || (section == Section::shared && key.section == Section::gear);
    if (of && key.path.rfind(group + ".", 0) == 0)
      known += (known.empty() ? "" : ", ") + std::string(key.path.substr(group.size() + 1));
  }
  mistakes_.note("missing-key", node.where, path,
                 fmt::format("is empty: {} may stand in it; say some of them, or take it out", known));
}

void Reader::read_layer(const Node& node, Section section, const std::string& prefix, const std::string& inner,
                        Layer& into) {
  for (const auto& [name, child] : *node.table()) {
    const std::string path = inner.empty() ? name : inner + "." + name;
    const std::string full = prefix + "." + path;
    const std::string plain = without_numbers(path);
    const Key* key = find_key(section, plain);
    // One number for a bore is its diameter.
    if (plain == "bore" && !child.table() && find_key(section, "bore.diameter") &&
        !std::holds_alternative<List>(child.value)) {
      read_layer(Node{Table{{"diameter", child}}, child.where}, section, prefix, path, into);
      continue;
    }
    if (child.table() && is_group(section, plain)) {
      if (child.table()->empty()) note_empty(child, section, plain, full);
      read_layer(child, section, prefix, is_list(plain) ? path + ".0" : path, into);
      continue;
    }
    if (const List* list = std::get_if<List>(&child.value); list && is_list(plain) && is_group(section, plain)) {
      // None is said too: what a layer below lists goes.
      if (list->empty() && (section == Section::gear || section == Section::shared))
        into[path] = Value{0, "", false, {}, {}, {}, child.where};
      for (std::size_t i = 0; i < list->size(); ++i) {
        if ((*list)[i].table()) {
          if ((*list)[i].table()->empty()) note_empty((*list)[i], section, plain, fmt::format("{}.{}", full, i));
          read_layer((*list)[i], section, prefix, fmt::format("{}.{}", path, i), into);
        } else {
          mistakes_.note("wrong-type", (*list)[i].where, full,
                         fmt::format("holds {}, but tables are allowed: {} = [{{ … }}]", (*list)[i].text(), name));
        }
      }
      continue;
    }
    if (!key) {
      const bool own = section == Section::shared && find_key(Section::gear, plain);
      if (own) {
        mistakes_.note("unknown-key", child.where, full, "belongs to a single gear, not to [shared]; move it there");
      } else {
        const std::string diameter = as_diameter(section, plain);
        const OtherWord other = other_word(section, plain);
        std::string remedy = did_you_mean(nearest(section, plain)), meant = nearest(section, plain);
        const Node& given = child;  // a structured binding cannot be captured
        const auto with_number = [&](double factor, const char* otherwise) -> std::string {
          try {
            const Measured m = measure(given, tables_.named);
            return m.unit.empty() ? fmt::format("{:.10g}", factor * m.value)
                                  : fmt::format("\"{:.10g} {}\"", factor * m.value, m.unit);
          } catch (const std::string&) {
            return given.table() || std::holds_alternative<List>(given.value) ? otherwise : given.text();
          }
        };
        if (!diameter.empty()) {
          // The commonest slip of all: say the number too.
          meant = diameter;
          remedy = fmt::format("diameters are given here: write {} = {}", diameter, with_number(2, "twice the radius"));
        } else if (other) {
          meant = other.key->path;
          remedy = fmt::format("it is called {0} here: write {0} = {1}{2}", meant,
                               with_number(other.word->factor, "its value"),
                               other.word->remark.empty() ? "" : fmt::format(" ({})", other.word->remark));
        }
        if (!meant.empty()) mistakes_.know(prefix + "." + meant);
        mistakes_.note("unknown-key", child.where, full,
                       fmt::format("is no key of a {}; {}", job::name(section), remedy));
      }
      continue;
    }
    if (is_sought(child)) {
      read_open(child, key, full);
      continue;
    }
    try {
      into[path] = read_value(*key, child, tables_.units, tables_.named);
    } catch (const std::string& why) {
      mistakes_.note("bad-value", child.where, full, why);
    }
  }
}

bool Reader::name_fits(const std::string& name, const Where& where, const std::string& table) {
  constexpr std::size_t kLongest = 80;
  const auto plain = [](char c) {
    return std::isalnum(static_cast<unsigned char>(c)) || c == '_' || c == '-' || c == '+' ||
           static_cast<unsigned char>(c) >= 0x80;
  };
  const bool fits = !name.empty() && name.size() <= kLongest && name[0] != '-' &&
                    std::all_of(name.begin(), name.end(), plain) && !has_control_characters(name);
  if (!fits) {
    mistakes_.note(
        "bad-name", where, table + "." + (name.size() > kLongest ? name.substr(0, kLongest) + "…" : name),
        fmt::format("a name becomes a file name and stands in every output: use letters, digits, _ and - (not first), "
                    "up to {} of them",
                    kLongest));
    return false;
  }
  // Two parts of one name would be one file, two things that are rolled one page.
  const bool alone = table == "pair" || table == "material" || table == "train";
  std::map<std::string, std::string>* used[] = {alone ? nullptr : &parts_,
                                                table == "pair" || table == "reducer" ? &rolled_ : nullptr};
  for (auto* names : used) {
    if (!names) continue;
    if (names == &parts_ && name == "assembly") {
      mistakes_.note("bad-name", where, table + "." + name,
                     "the file of all parts in place has this name; choose another");
      return false;
    }
    const auto [it, fresh] = names->try_emplace(name, table);
    if (fresh) continue;
    mistakes_.note("bad-name", where, table + "." + name,
                   fmt::format("{}.{} has this name too, and their files would overwrite each other, or one be taken "
                               "for the other; choose another",
                               it->second, name));
    return false;
  }
  return true;
}

void Reader::read_top(const Node& root) {
  for (const auto& [name, child] : *root.table()) {
    const Key* key = find_key(Section::top, name);
    if (!key) {
      mistakes_.note("unknown-key", child.where, name,
                     fmt::format("is no key of a job; {}", did_you_mean(nearest(Section::top, name))));
    }
  }
  if (const Node* title = root.find("title")) {
    if (const auto* text = std::get_if<std::string>(&title->value)) {
      tables_.title = *text;
      if (has_control_characters(*text))
        mistakes_.note("bad-value", title->where, "title",
                       fmt::format("is {}, and holds control characters; take them out", title->text()));
      if (text->size() > 400)
        mistakes_.note("bad-value", title->where, "title", "is longer than 400 bytes; shorten it");
    } else
      mistakes_.note("wrong-type", title->where, "title", fmt::format("is {}, but a text is allowed", title->text()));
  }
  if (const Node* units = root.find("units")) {
    const auto* text = std::get_if<std::string>(&units->value);
    if (text && *text == "in")
      tables_.units = Units::inch;
    else if (!text || *text != "mm")
      mistakes_.note("bad-value", units->where, "units",
                     fmt::format("is {}, but \"mm\" or \"in\" is allowed", units->text()));
  }
  if (const Node* values = root.find("values")) read_values(*values);
  if (const Node* shared = root.find("shared")) {
    if (shared->table())
      read_layer(*shared, Section::shared, "shared", "", shared_);
    else
      mistakes_.note("wrong-type", shared->where, "shared",
                     fmt::format("is {}, but a table is allowed", shared->text()));
  }
  if (const Node* process = root.find("process")) {
    if (process->table()) {
      tables_.process = Settings{Section::process, "process", process->where, {}};
      read_layer(*process, Section::process, "process", "", tables_.process->values);
    } else {
      mistakes_.note("wrong-type", process->where, "process",
                     fmt::format("is {}, but a table is allowed", process->text()));
    }
  }
  tables_.materials = read_named(root, Section::material);
  const Node* gears = root.find("gear");
  const Node* reducers = root.find("reducer");
  const bool reduces = reducers && reducers->table() && !reducers->table()->empty();
  if (gears && gears->table() && !gears->table()->empty()) {
    read_gears(root);
  } else if (gears || !reduces) {
    mistakes_.note("no-gear", gears ? gears->where : root.where, "gear",
                   "the job has no gear; write a table [gear.NAME] with kind, teeth and module");
  }
  tables_.pairs = read_named(root, Section::pair);
  tables_.frames = read_named(root, Section::frame);
  tables_.reducers = read_named(root, Section::reducer);
  tables_.shafts = read_named(root, Section::shaft);
  tables_.carriers = read_named(root, Section::carrier);
  tables_.trains = read_named(root, Section::train);
  tables_.planetaries = read_named(root, Section::planetary);
  spell_out_planetaries(tables_);
  if (const Node* expect = root.find("expect")) tables_.expected = read_expected(*expect, tables_.named, mistakes_);
  if (const Node* want = root.find("want")) tables_.wanted = read_wanted(*want, tables_.named, mistakes_);
  if (const Node* measured = root.find("measured"))
    tables_.measured = read_measured(*measured, tables_.units, tables_.named, mistakes_);
}

/// The tables [pair.NAME], [frame.NAME] …
std::vector<Settings> Reader::read_named(const Node& root, Section section) {
  std::vector<Settings> all;
  const std::string table(name(section));
  const Node* node = root.find(table);
  if (!node) return all;
  if (!node->table()) {
    mistakes_.note("wrong-type", node->where, table,
                   fmt::format("is {}, but tables [{}.NAME] are allowed", node->text(), table));
    return all;
  }
  for (const auto& [name, child] : *node->table()) {
    const std::string prefix = table + "." + name;
    if (!child.table()) {
      mistakes_.note("wrong-type", child.where, prefix,
                     fmt::format("is {}, but a table is allowed: [{}.NAME] with its keys below", child.text(), table));
      continue;
    }
    if (!name_fits(name, child.where, table)) continue;
    Settings settings{section, name, child.where, {}};
    const std::size_t before = mistakes_.count();
    read_layer(child, section, prefix, "", settings.values);
    settings.sound = mistakes_.count() == before;
    all.push_back(std::move(settings));
  }
  return all;
}

void Reader::read_gears(const Node& root) {
  for (Settings& settings : read_named(root, Section::gear)) {
    OwnGear gear(std::move(settings));
    if (const auto it = gear.values.find("like"); it != gear.values.end()) {
      gear.like = it->second.text, gear.like_where = it->second.where;
      gear.values.erase(it);
    }
    gear_of_.emplace(gear.name, own_gears_.size());
    own_gears_.push_back(std::move(gear));
  }
  for (const OwnGear& gear : own_gears_)
    tables_.gears.push_back(merged(gear));
}

/// Lays one layer over another. Keys that say the same thing in another way push the inherited one out; of teeth,
/// module and reference diameter two are enough.
void Reader::apply(Layer& into, const Layer& layer) const {
  const auto has = [&](const char* key) { return layer.count(key) > 0; };
  if (const auto it = layer.find("reference_profile"); it != layer.end()) {
    for (const ReferenceProfile& p : reference_profiles()) {
      if (p.name != it->second.text) continue;
      const std::pair<const char*, double> sets[] = {{"pressure_angle", p.pressure_angle},
                                                     {"addendum", p.addendum},
                                                     {"dedendum", p.dedendum},
                                                     {"tool_tip_radius", p.tool_tip_radius}};
      for (const auto& [key, number] : sets)
        into[key] = Value{number, "", false, {}, {}, {}, it->second.where};
    }
  }
  for (const auto& [key, value] : layer) {
    const std::string out =
        is_list(key) ? key + "." : std::string(find_key(Section::gear, without_numbers(key))->pushes_out);
    for (const std::string& other : words_of(out)) {
      if (other.back() != '.') {
        into.erase(other);
        continue;
      }
      for (auto it = into.lower_bound(other); it != into.end() && it->first.compare(0, other.size(), other) == 0;)
        it = into.erase(it);
    }
  }
  if (has("reference_diameter") && has("teeth")) into.erase("module"), into.erase("diametral_pitch");
  if (has("teeth") && !has("reference_diameter") &&
      (into.count("module") || into.count("diametral_pitch") || has("module") || has("diametral_pitch")))
    into.erase("reference_diameter");
  if (has("reference_diameter") && !has("teeth")) into.erase("teeth");
  for (const auto& [key, value] : layer) {
    if (!is_list(key)) into[key] = value;
  }
}

/// The values of a gear, and on the way those of all that it takes over from: each worked out once, however long the
/// chain.
Settings Reader::merged(const OwnGear& gear) {
  std::vector<const OwnGear*> chain{&gear};
  std::set<std::string> seen{gear.name};
  while (!chain.back()->like.empty() && merged_.count(chain.back()->name) == 0) {
    const OwnGear& at = *chain.back();
    const auto it = gear_of_.find(at.like);
    if (it == gear_of_.end()) {
      // One that is there and cannot be read has been told.
      if (mistakes_.told("gear", at.like))
        mistakes_.know("gear." + at.name + ".like");
      else
        mistakes_.note("unknown-gear", at.like_where, "gear." + at.name + ".like", no_such_gear(at.like, own_gears_));
      break;
    }
    const OwnGear& next = own_gears_[it->second];
    if (!seen.insert(next.name).second) {
      mistakes_.note(
          "like-in-a-circle", at.like_where, "gear." + at.name + ".like",
          fmt::format("leads back to \"{}\": gears cannot take over from each other in a circle; let one of them say "
                      "its values itself",
                      next.name));
      break;
    }
    chain.push_back(&next);
  }
  for (auto it = chain.rbegin(); it != chain.rend(); ++it) {
    if (merged_.count((*it)->name) > 0) continue;
    Layer values;
    if (it == chain.rbegin())
      apply(values, shared_);
    else {
      const std::string& from = (*std::prev(it))->name;
      values = merged_.at(from);
      mistakes_.hand_on("gear." + from, "gear." + (*it)->name);
    }
    apply(values, (*it)->values);
    merged_.emplace((*it)->name, std::move(values));
  }
  Settings all{Section::gear, gear.name, gear.where, merged_.at(gear.name)};
  for (auto& [key, value] : all.values)
    value.inherited = gear.values.count(key) == 0;
  const auto kind = all.kind();
  if (!kind) return all;
  // What has no meaning for the kind is passed over where it is inherited, and told where the gear says it itself.
  for (auto it = all.values.begin(); it != all.values.end();) {
    if (find_key(Section::gear, without_numbers(it->first))->kinds.has(*kind)) {
      ++it;
      continue;
    }
    if (!it->second.inherited)
      mistakes_.note("no-meaning", it->second.where, "gear." + gear.name + "." + it->first,
                     fmt::format("has no meaning for kind = \"{}\"; take it out", name(*kind)));
    it = all.values.erase(it);
  }
  return all;
}

}  // namespace

void read_tables(const Node& root, Tables& tables) { Reader(tables).run(root); }

const Settings* Tables::thing(std::string_view head, std::string_view name) const {
  for (const std::vector<Settings>* all : with_names()) {
    for (const Settings& s : *all) {
      if (s.name == name && job::name(s.section) == head) return &s;
    }
  }
  return nullptr;
}

const Settings* Tables::gear(std::string_view name) const {
  const auto it = std::find_if(gears.begin(), gears.end(), [&](const Settings& g) { return g.name == name; });
  return it == gears.end() ? nullptr : &*it;
}

std::string Tables::no_such_gear(const std::string& name) const { return job::no_such_gear(name, gears); }

std::string Tables::print(double mm) const { return fmt::format("{:.6g} {}", mm / mm_per(units), symbol(units)); }

std::string Tables::in_job_units(const std::string& text) const {
  if (units == Units::mm) return text;
  static const std::regex length(R"((-?\d+(?:\.\d+)?(?:e[-+]?\d+)?) mm\b(?! of module))");
  std::string out;
  auto from = text.cbegin();
  for (auto it = std::sregex_iterator(text.begin(), text.end(), length); it != std::sregex_iterator(); ++it) {
    const std::string before = it->prefix().str();
    out.append(from, text.cbegin() + it->position());
    // A module is in millimetres whatever the units.
    if (before.size() >= 7 && before.compare(before.size() - 7, 7, "module ") == 0)
      out += it->str();
    else
      out += print(std::strtod(it->str(1).c_str(), nullptr));
    from = text.cbegin() + it->position() + it->length();
  }
  out.append(from, text.cend());
  return out;
}

}  // namespace palio::job
