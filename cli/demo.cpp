// The greenhouse job end to end, into one folder with an index page.
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "outline.hpp"
#include "palio/readings/report.hpp"
#include "palio/readings/vary.hpp"
#include "palio/solve/recover.hpp"
#include "palio/version.hpp"
#include "palio/view/chart.hpp"
#include "palio/view/laid.hpp"
#include "palio/view/page.hpp"

namespace palio::cli {
namespace {

/// A page that lists everything made, with the pictures.
std::string index_page(const job::Design& design, const std::vector<job::RolledPair>& rolled,
                       const std::vector<job::RolledReducer>& reducers, const std::vector<make::File>& made,
                       const std::vector<make::File>& drawn) {
  std::string list;
  const auto item = [&](const std::string& path, const std::string& words) {
    list += fmt::format("<li><a href=\"{}\">{}</a> — {}</li>\n", path, path, words);
  };
  item("vent.toml", "the job: one text file, every dimension follows from it");
  item("report.txt", "all dependent dimensions and findings");
  for (const job::RolledPair& r : rolled)
    item(r.pair->name + ".html", "the pair turning; drag either gear by hand");
  for (const job::RolledReducer& r : reducers)
    item(r.reducer->name + ".html", "the reducer turning; drag the shaft or the output by hand");
  item("vary.html", "what the pinion's profile shift does, with a slider, while the teeth turn");
  item("vary.csv", "the same as a table");
  item("tool.html", "a pinion cutter making the ring's teeth, step by step");
  item("old_winch_measured.toml", "the worn pair of the old winch, known by measurements alone, one of them wrong");
  item("old_winch.txt", "what it is, how sure that is, and which measurement is the wrong one");
  item("old_winch.toml", "the same as a job, with its wear");
  item("as_drawn/compare.html",
       "the outline in parts/motor_pinion.dxf laid on the exact teeth: how far it is off, in µm");
  item("roll.txt", "what the roll found");
  for (const make::File& f : made)
    item("parts/" + f.path.substr(f.path.find_last_of('/') + 1),
         f.deviation ? fmt::format("{}, within {:.2g} mm of the exact curves", f.format, *f.deviation)
                     : f.format + ", the drawing");
  std::string images;
  for (const make::File& f : drawn)
    images += fmt::format("<img src=\"pictures/{0}\" alt=\"{0}\">\n", f.path.substr(f.path.find_last_of('/') + 1));
  return fmt::format(
      "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta name=\"generator\" content=\"palio "
      "{3}\"><title>{0}</title><style>body{{background:#fbfaf6;color:#3a3a40;"
      "font:15px/1.5 'DejaVu Sans',sans-serif;max-width:1000px;margin:30px "
      "auto}}img{{width:100%;border:1px solid #e4e1d6;margin:8px 0}}"
      "a{{color:#5c5988}}</style><h1>{0}</h1><ul>\n{1}</ul>\n{2}</html>\n",
      design.title, list, images, kVersion);
}

/// The worn old winch, recovered from what a caliper says of it; a wrong reading is part of it.
void recover_winch(const Target& t) {
  const std::string text = job::starter("measurements", job::Units::mm);
  save(within(t.folder, "old_winch_measured.toml"), text);
  progress("recovering the old winch …");
  const job::Values measured = job::Values::read(text, "old_winch_measured.toml");
  const solve::Recovered found = solve::recover(measured);
  save(within(t.folder, "old_winch.txt"), solve::recover_text(found));
  save(within(t.folder, "old_winch.toml"), measured.filled_in(found.numbers()));
}

/// The pinion's outline as it was written, back on its exact teeth.
void lay_written(const job::Design& design, const Target& t) {
  const std::string name = "motor_pinion", path = within(t.folder, "parts/" + name + ".dxf");
  const job::Gear& gear = design.gear(name);
  const foreign::Told told =
      foreign::told("parts/" + name + ".dxf", "gear." + name, load_outline(path), gear.teeth.outline());
  const Target folder = target(within(t.folder, "as_drawn"), {});
  save(folder.path("compare.txt"), foreign::laid_text(told));
  write_with_job(
      folder.path("compare.html"),
      view::side_by_side_page("As drawn: " + told.of, view::draw_laid(told, "svg"), foreign::laid_text(told)), design);
}

void run_demo(const std::string& out, int& status) {
  const Target t = target(out, {});
  const std::string text = job::starter("greenhouse", job::Units::mm);
  save(within(t.folder, "vent.toml"), text);
  const job::Design design = job::resolve(text, "vent.toml");
  save(within(t.folder, "report.txt"), job::report_text(design, false));
  save(within(t.folder, "report.json"), job::report_json(design));

  std::vector<job::RolledPair> rolled;
  for (const job::Pair* p : running_pairs(design, "")) {
    rolled.push_back({p, job::rolled(*p)});
    if (rolled.back().result.verdict != roll::Verdict::meshes) status = kVerdictAgainst;
    write_with_job(within(t.folder, p->name + ".html"), view::roll_page(design, rolled.back()), design);
  }
  std::vector<job::RolledReducer> reducers;
  for (const job::Reducer* r : chosen_reducers(design, "")) {
    reducers.push_back({r, job::rolled(*r)});
    if (reducers.back().result.verdict != roll::Verdict::meshes) status = kVerdictAgainst;
    write_with_job(within(t.folder, r->name + ".html"), view::reducer_page(design, reducers.back()), design);
  }
  // One number moved while the teeth turn, and a tool at work.
  job::VaryRequest request;
  request.keys = {job::parse_vary_key("gear.motor_pinion.profile_shift=-0.5:0.9:29")};
  request.holds = {"gear.motor_pinion.profile_shift+gear.drum_wheel.profile_shift"};
  progress("varying a profile shift …");
  const job::Varied varied = job::vary(design.values, request, true);
  write_with_job(within(t.folder, "vary.html"), view::vary_page(design, varied), design);
  save(within(t.folder, "vary.csv"), job::vary_csv(varied));
  write_with_job(within(t.folder, "tool.html"), view::tool_page(design, design.gear("crank_ring")), design);
  progress("");
  save(within(t.folder, "roll.txt"), job::roll_text(design, rolled, false, reducers));
  save(within(t.folder, "roll.json"), job::roll_json(design, rolled, reducers));
  const Target parts = target(within(t.folder, "parts"), {}), pictures = target(within(t.folder, "pictures"), {});
  const std::vector<make::File> made = make_files(design, {}, parts);
  const std::vector<make::File> drawn = draw_files(design, pictures, "png");
  recover_winch(t);
  lay_written(design, t);
  progress("");

  save(within(t.folder, "index.html"), index_page(design, rolled, reducers, made, drawn));
  print(job::roll_text(design, rolled, coloured(), reducers) +
        fmt::format(
            "\nOpen these:\n  {0}/index.html             everything, listed\n  {0}/first_stage.html       a pair "
            "turning; drag either gear\n"
            "  {0}/counter.html           crossed shafts in space\n  {0}/corner.html            bevel gears in space\n"
            "  {0}/season.html            the season dial's clock teeth\n  {0}/motor_reducer.html     the reducer "
            "turning\n  {0}/vary.html           "
            "   one number on a slider while the teeth turn\n"
            "  {0}/old_winch.txt          a worn pair, recovered from measurements\n"
            "  {0}/report.txt             all dimensions\n  {0}/parts/assembly.step    all gears in place\n  "
            "{0}/vent.toml              the job; "
            "change a number and run palio again\n",
            t.folder));
}

}  // namespace

void add_demo(CLI::App& root, int& status) {
  const auto out = std::make_shared<std::string>("demo-out");
  CLI::App* verb = root.add_subcommand("demo", "See everything once: the greenhouse roof-vent opener, end to end");
  verb->add_option("--out", *out, "Folder (default: demo-out)");
  verb->footer("Example:\n  palio demo --out demo-out");
  verb->callback([out, &status] { run_demo(*out, status); });
}

}  // namespace palio::cli
