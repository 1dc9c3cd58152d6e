#include "palio/readings/report.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "palio/body/features.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/readings/remedy.hpp"
#include "palio/version.hpp"
#include "readings.hpp"

namespace palio::job {
namespace {

/// Words of a kind of finding with the numbers of one put in.
std::string with_numbers(std::string text, const Finding& f, Units units) {
  const auto put = [&](std::string_view mark, const std::string& said) {
    for (std::size_t at = text.find(mark); at != std::string::npos; at = text.find(mark, at + said.size())) {
      text.replace(at, mark.size(), said);
    }
  };
  const auto number = [&](const std::optional<double>& value) {
    return value ? shown(*value, f.kind().quantity, units, true) : std::string("none");
  };
  put("{detail}", f.detail);
  put("{value}", number(f.value));
  put("{limit}", number(f.limit));
  return text;
}

}  // namespace

std::string message(const Finding& f, Units units) {
  return with_numbers(fmt::format("{}: {}", f.kind().cause, f.kind().remedy), f, units);
}

std::string painted(std::string_view word, std::string_view verdict, bool colour) {
  if (!colour) return std::string(word);
  const int code = verdict == "error" || verdict == "jams"              ? 31
                   : verdict == "warning" || verdict == "loses_contact" ? 33
                   : verdict == "meshes"                                ? 32
                                                                        : 36;
  return fmt::format("\033[{};1m{}\033[0m", code, word);
}

namespace {

/// The numbers of the process, each with its key.
struct ProcessNumber {
  const char* key;
  double value;
  Quantity quantity;
};

std::vector<ProcessNumber> process_numbers(const Process& p) {
  using Q = Quantity;
  return {{"press", p.press, Q::length},
          {"slide", p.slide, Q::length},
          {"free", p.free, Q::length},
          {"surface_offset", p.surface_offset, Q::length},
          {"first_layer_inset", p.inset, Q::length},
          {"first_layer_up_to", p.inset_up_to, Q::length},
          {"shrinkage_radial", p.shrinkage_radial, Q::number},
          {"shrinkage_axial", p.shrinkage_axial, Q::number},
          {"kerf", p.kerf, Q::length},
          {"draft_deg", p.draft, Q::angle},
          {"smallest_radius", p.smallest_radius, Q::length},
          {"least_wall", p.least_wall, Q::length},
          {"center_distance_tolerance", p.center_distance_tolerance, Q::length}};
}

Json process_json(const Design& design) {
  const Process& p = design.process;
  Json j{{"preset", p.preset}};
  Json holes = Json::array();
  for (const auto& [d, a] : p.hole_allowance)
    holes.push_back({{"diameter", d / mm_per(design.units)}, {"allowance", a / mm_per(design.units)}});
  j["hole_allowance"] = holes;
  for (const ProcessNumber& n : process_numbers(p))
    j[n.key] = number(n.value, n.quantity, design.units);
  j["corrected"] = p.corrected;
  return j;
}

std::string process_text(const Design& design) {
  const Process& p = design.process;
  std::string text, holes, corrected;
  for (const auto& [d, a] : p.hole_allowance) {
    holes += fmt::format("{}{}{}", holes.empty() ? "" : ", ", shown(a, Quantity::length, design.units),
                         p.hole_allowance.size() > 1 ? " at " + shown(d, Quantity::circle, design.units, true) : "");
  }
  if (!holes.empty()) text += row("holes come out smaller by", "", holes);
  for (const ProcessNumber& n : process_numbers(p)) {
    if (n.value != 0) text += row(n.key, "", shown(n.value, n.quantity, design.units));
  }
  for (const std::string& c : p.corrected)
    corrected += (corrected.empty() ? "" : ", ") + c;
  return text + row("corrected in the files", "", corrected.empty() ? "nothing" : corrected);
}

}  // namespace

std::string report_json(const Design& design, bool rolled) {
  Json root;
  root["palio"] = kVersion;
  root["title"] = design.title;
  root["units"] = symbol(design.units);
  if (design.as != As::nominal) root["as"] = name(design.as);
  root["gears"] = Json::object();
  for (const Gear& g : design.gears) {
    root["gears"][g.name] = to_json(entries(design, g), design.units);
  }
  for (const char* kind : {"pairs", "frames", "reducers", "planetaries", "trains", "shafts"})
    root[kind] = Json::object();
  for (const Pair& p : design.pairs)
    root["pairs"][p.name] = to_json(entries(design, p, rolled), design.units);
  for (const Frame& f : design.frames)
    root["frames"][f.name] = to_json(entries(design, f), design.units);
  for (const Reducer& r : design.reducers)
    root["reducers"][r.name] = to_json(entries(design, r), design.units);
  const TrainsAt trains(design);
  for (const TrainAt& t : trains.all)
    root[t.train.planetary ? "planetaries" : "trains"][t.train.name] = to_json(entries(t), design.units);
  for (const Member& m : design.machine.members) {
    if (m.shaft) root["shafts"][m.name] = to_json(entries(ShaftAt{design, m, trains}), design.units);
  }
  if (design.process.given) root["process"] = process_json(design);
  root["placing"] = Json::object();
  for (const Gear& g : design.gears) {
    const Group& group = design.groups[g.group];
    const Vec3 at = (group.origin + group.axes * Vec3(g.axis.x(), g.axis.y(), g.height)) / mm_per(design.units),
               axis = group.axes.col(2);
    Json place{{"center", {at.x(), at.y(), at.z()}}, {"axis", {axis.x(), axis.y(), axis.z()}}};
    if (g.teeth.is_rack()) {
      place["facing_deg"] = (g.facing + kPi / 2) * 180 / kPi;
      place["moved"] = g.phase / mm_per(design.units);
      if (g.speed_ratio) place["travel_per_turn"] = -*g.speed_ratio * 2 * kPi / mm_per(design.units);
    } else {
      place["phase_deg"] = g.phase * 180 / kPi;
      if (g.speed_ratio) place["ratio"] = *g.speed_ratio;
    }
    root["placing"][g.name] = place;
  }
  root["findings"] = Json::array();
  for (const Finding& f : explained_findings(design)) {
    Json finding;
    finding["id"] = f.kind().text_id;
    finding["severity"] = name(f.kind().severity);
    finding["subject"] = f.subject;
    finding["message"] = message(f, design.units);
    finding["value"] = f.value ? number(*f.value, f.kind().quantity, design.units) : Json(nullptr);
    finding["limit"] = f.limit ? number(*f.limit, f.kind().quantity, design.units) : Json(nullptr);
    root["findings"].push_back(finding);
  }
  return root.dump(2) + "\n";
}

namespace {

std::string standing(const Design& design, const Gear& g) {
  const Group& group = design.groups[g.group];
  const Vec3 at = group.origin + group.axes * Vec3(g.axis.x(), g.axis.y(), g.height);
  const auto length = [&](double v) {
    return shown(std::abs(v) < math::kRounding ? 0.0 : v, Quantity::length, design.units);
  };
  std::string text = fmt::format("x {}  y {}  z {}", length(at.x()), length(at.y()), length(at.z()));
  if (const Vec3 axis = group.axes.col(2); (axis - Vec3::UnitZ()).norm() > math::kRounding) {
    text += fmt::format("  axis along ({:.6f}, {:.6f}, {:.6f})", axis.x(), axis.y(), axis.z());
  }
  if (g.teeth.is_rack()) {
    text += fmt::format("  teeth face {}  moved {}", shown(g.facing + kPi / 2, Quantity::angle, design.units),
                        length(g.phase));
  } else {
    text += fmt::format("  turned {}", shown(g.phase, Quantity::angle, design.units));
  }
  if (g.speed_ratio) {
    text += g.teeth.is_rack() ? fmt::format("  moves {} per turn", length(-*g.speed_ratio * 2 * kPi))
                              : fmt::format("  ratio {:+.8g}", *g.speed_ratio);
  }
  return text;
}

}  // namespace

namespace {

/// A cause that fits beside its subject: of a long one what comes before its last colon or semicolon, the reason.
std::string fitting(std::string cause) {
  constexpr std::size_t kFits = 110;
  if (columns(cause) <= kFits) return cause;
  const std::size_t colon = cause.rfind(": "), semicolon = cause.rfind("; ");
  const std::size_t end = colon == std::string::npos       ? semicolon
                          : semicolon == std::string::npos ? colon
                                                           : std::max(colon, semicolon);
  return cause.substr(0, end);
}

std::string turning_text(const Design& design, std::size_t driver, std::size_t driven) {
  const auto first = speed(design, driver), second = speed(design, driven);
  if (!first || !second || design.gears[driver].teeth.is_rack() || design.gears[driven].teeth.is_rack()) return "";
  return fmt::format(", {:.5g} to {:.5g} r/min", *first, *second);
}

std::string pair_line(const Design& design, const Pair& p) {
  const Gear &g1 = design.gears[p.driver], &g2 = design.gears[p.driven];
  std::string text = fmt::format("{}:{}, gear ratio {:.6g}", g1.teeth.count(), g2.teeth.count(),
                                 static_cast<double>(g2.teeth.count()) / g1.teeth.count());
  if (!p.meshes()) return text + ", cannot mesh";
  if (const auto play = entry_of(design, "pair." + p.name + ".circumferential_backlash")) {
    text += ", play " + shown(play->numbers.front(), Quantity::length, design.units);
  }
  if (const auto angle = entry_of(design, "pair." + p.name + ".angular_backlash_deg")) {
    const bool driven_turns = std::isfinite(angle->numbers.back());  // a rack does not
    text +=
        fmt::format(" ({} of {})",
                    shown(driven_turns ? angle->numbers.back() : angle->numbers.front(), Quantity::angle, design.units),
                    driven_turns ? g2.name : g1.name);
  }
  return text + turning_text(design, p.driver, p.driven);
}

std::string train_line(const Design& design, const Train& train) {
  const TrainMotion& m = train.motion;
  if (m.locked) return "cannot turn";
  if (!m.ratio) return m.turns[train.output] ? "its output stands still" : "its output is loose";
  std::string text = fmt::format("ratio {}, {}", m.ratio->text, in_words(design, train, *m.ratio));
  if (const auto power = flow(design, train); power && power->efficiency < 1 - math::kAlike)
    text += fmt::format(", efficiency {:.3g}", power->efficiency);
  if (const auto clock = pace(train, m)) {
    if (clock->beats_per_hour) text += fmt::format("; {:.6g} beats an hour", *clock->beats_per_hour);
    text += fmt::format("{} a turn of {} lasts {:.6g} h", clock->beats_per_hour ? "," : ";",
                        design.machine.members[train.input].name, clock->hours_per_turn);
    if (train.winding) text += fmt::format(", it goes for {:.6g} h", *train.winding * clock->hours_per_turn);
  }
  return text;
}

std::string reducer_line(const ReducerAt& at) {
  const Design& design = at.design;
  const Reducer& r = at.reducer;
  std::string text = fmt::format("ratio {:.6g}, {}", r.made.sizes().ratio, roll::name(at.rolled().verdict));
  if (at.rolled().play) {
    text += ", play at the output " + shown(at.rolled().play->min, Quantity::angle, design.units);
    text += " to " + shown(at.rolled().play->max, Quantity::angle, design.units);
  }
  if (r.speed) text += fmt::format(", {:.5g} to {:.5g} r/min", *r.speed, *r.speed / r.made.sizes().ratio);
  return text;
}

std::string plural(std::size_t n, const char* word) { return fmt::format("{} {}{}", n, word, n == 1 ? "" : "s"); }

/// Each with room for what is rolled of it: a report asks for it at its head and in its tables.
std::vector<ReducerAt> reducers_at(const Design& design) {
  std::vector<ReducerAt> all;
  for (const Reducer& r : design.reducers)
    all.push_back({design, r, 1, {}, {}});
  return all;
}

std::string verdict_lines(const Design& design, const std::vector<Finding>& found,
                          const std::vector<ReducerAt>& reducers, bool colour) {
  constexpr std::size_t kMostLines = 10;
  const Verdict v = verdict(design, found);
  std::vector<std::string> lines;
  const std::string_view word = v.errors > 0 ? "error" : v.warnings > 0 ? "warning" : "meshes";
  const std::string head = v.errors > 0     ? "it cannot work as it stands"
                           : v.warnings > 0 ? "it works, with doubts"
                                            : "nothing stands against it";
  lines.push_back(fmt::format("{}: {}, {}, {}", painted(head, word, colour), plural(v.errors, "error"),
                              plural(v.warnings, "warning"), plural(v.notes, "note")));
  for (const Verdict::Doubt& d : v.doubts) {
    const std::string_view severity = name(d.finding.kind().severity);
    lines.push_back(fmt::format("{} {}: {}", painted(severity, severity, colour), d.finding.subject,
                                fitting(with_numbers(std::string(d.finding.kind().cause), d.finding, design.units))));
    if (d.remedy) {
      lines.push_back(fmt::format("      {} = {} clears it (tried{})", d.remedy->path, d.remedy->value,
                                  d.remedy->clean ? "" : "; it brings another warning"));
    }
  }
  const std::size_t doubts = v.errors + v.warnings;
  const bool more = doubts > v.doubts.size();
  const std::size_t room = kMostLines - lines.size() - (more ? 1 : 0);
  if (more)
    lines.push_back(fmt::format("and {} under findings, below", plural(doubts - v.doubts.size(), "more doubt")));
  const std::size_t trains = design.machine.trains.size(), pairs = trains + design.pairs.size(),
                    running = pairs + reducers.size(), last = running <= room ? running : room - 1;
  for (std::size_t i = 0; i < last; ++i) {
    if (i < trains) {
      const Train& t = design.machine.trains[i];
      lines.push_back(fmt::format("{} {}: {}", t.planetary ? "planetary set" : "train", t.name, train_line(design, t)));
    } else if (i < pairs) {
      const Pair& p = design.pairs[i - trains];
      lines.push_back(fmt::format("pair {}: {}", p.name, pair_line(design, p)));
    } else {
      lines.push_back(
          fmt::format("reducer {}: {}", reducers[i - pairs].reducer.name, reducer_line(reducers[i - pairs])));
    }
  }
  if (last < running) lines.push_back(fmt::format("and {} below", plural(running - last, "more pair")));
  std::string text;
  for (const std::string& line : lines)
    text += "  " + line + "\n";
  return text;
}

}  // namespace

std::string verdict_text(const Design& design, bool colour) {
  return verdict_lines(design, explained_findings(design), reducers_at(design), colour);
}

std::string verdict_json(const Design& design, const Between& between) {
  constexpr std::size_t kDoubts = 3;
  const Verdict v = verdict(design, explained_findings(design, between), kDoubts, between);
  Json root{{"works", v.errors == 0}, {"errors", v.errors}, {"warnings", v.warnings}, {"notes", v.notes}};
  root["doubts"] = Json::array();
  for (const Verdict::Doubt& d : v.doubts) {
    Json doubt{{"id", d.finding.kind().text_id},
               {"severity", name(d.finding.kind().severity)},
               {"subject", d.finding.subject},
               {"message", message(d.finding, design.units)}};
    doubt["remedy"] = d.remedy ? Json{{"path", d.remedy->path}, {"value", d.remedy->value}, {"clean", d.remedy->clean}}
                               : Json(nullptr);
    root["doubts"].push_back(doubt);
  }
  return root.dump(2) + "\n";
}

namespace {

/// Hands on what is read off every thing, in the order of the report.
template <class Visit>
void each_table(const Design& design, bool rolled, const std::vector<ReducerAt>& reducers, const Visit& visit) {
  for (const Gear& g : design.gears)
    visit(ReadingOf::gear, g.name, entries(design, g));
  for (const Pair& p : design.pairs)
    visit(ReadingOf::pair, p.name, entries(design, p, rolled));
  for (const Frame& f : design.frames)
    visit(ReadingOf::frame, f.name, entries(design, f));
  for (const ReducerAt& r : reducers)
    visit(ReadingOf::reducer, r.reducer.name, entries(r));
  const TrainsAt trains(design);
  for (const TrainAt& t : trains.all)
    visit(t.train.planetary ? ReadingOf::planetary : ReadingOf::train, t.train.name, entries(t));
  for (const Member& m : design.machine.members) {
    if (m.shaft) visit(ReadingOf::shaft, m.name, entries(ShaftAt{design, m, trains}));
  }
}

std::vector<ReportRow> rows_of(const std::vector<Entry>& entries, Units units) {
  std::vector<ReportRow> rows;
  rows.reserve(entries.size());
  for (const Entry& e : entries)
    rows.push_back({std::string(e.key->label), value_text(e, units), std::string(e.key->key),
                    std::string(e.key->symbol), std::string(e.group)});
  const auto place = [](const ReportRow& row) {
    const auto& groups = reading_groups();
    return std::find(groups.begin(), groups.end(), row.group) - groups.begin();
  };
  std::stable_sort(rows.begin(), rows.end(),
                   [&](const ReportRow& a, const ReportRow& b) { return place(a) < place(b); });
  return rows;
}

}  // namespace

std::string report_text(const Design& design, bool colour) {
  const auto heading = [&](const std::string& words) {
    return colour ? fmt::format("\n\033[1m{}\033[0m\n", words) : "\n" + words + "\n";
  };
  const auto table = [&](const std::string& of, const std::vector<Entry>& entries) {
    return heading(of) + table_text(entries, design.units, colour);
  };
  std::string text = fmt::format("{}   (lengths in {}, modules in mm{})\n",
                                 design.title.empty() ? "A job without title" : design.title, symbol(design.units),
                                 design.as == As::made ? "; teeth and bores as they come out of the making" : "");
  const std::vector<Finding> found = explained_findings(design);
  const std::vector<ReducerAt> reducers = reducers_at(design);
  text += "\n" + verdict_lines(design, found, reducers, colour);
  each_table(design, true, reducers, [&](ReadingOf of, const std::string& thing, const std::vector<Entry>& entries) {
    text += table((of == ReadingOf::planetary ? "planetary set" : std::string(name(of))) + " " + thing, entries);
  });
  if (design.process.given) {
    const std::string& preset = design.process.preset;
    text += heading("process" + (preset.empty() ? "" : " " + preset)) + process_text(design);
  }
  if (!design.pairs.empty()) {
    text += heading("where everything stands, to repeat the motion elsewhere");
    text +=
        "  Axes at the mounted distances, seen from +z; angles counter-clockwise; the turn is that of a tooth (a ring: "
        "a space)\n"
        "  from the gear's own +x, at mid-face, at the start. Ratio: turns per turn of the first driver, + the same "
        "sense.\n";
    for (const Gear& g : design.gears)
      text += row(g.name, "", standing(design, g));
  }
  text += heading("findings");
  if (found.empty()) text += "  none\n";
  for (const Finding& f : found) {
    const std::string_view severity = name(f.kind().severity);
    text += fmt::format("  {} {} ({})\n      {}\n", painted(severity, severity, colour), f.subject, f.kind().text_id,
                        message(f, design.units));
  }
  return text;
}

std::string report_value(const Design& design, const std::string& subject, const std::string& key) {
  const auto value = entry_of(design, subject + "." + key);
  if (!value || value->numbers.empty()) return "";
  return shown(value->numbers.front(), value->key->quantity, design.units, true);
}

std::vector<ReportRow> report_rows(const Design& design, const Gear& gear) {
  return rows_of(entries(design, gear), design.units);
}

std::vector<ReportTable> report_tables(const Design& design, bool rolled) {
  std::vector<ReportTable> tables;
  each_table(design, rolled, reducers_at(design),
             [&](ReadingOf of, const std::string& thing, const std::vector<Entry>& entries) {
               tables.push_back({std::string(name(of)) + "." + thing, rows_of(entries, design.units)});
             });
  return tables;
}

}  // namespace palio::job
