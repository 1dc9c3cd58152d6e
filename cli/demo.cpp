// The greenhouse job end to end, into one folder with an index page.
#include <algorithm>
#include <future>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "outline.hpp"
#include "palio/design/train.hpp"
#include "palio/readings/findings.hpp"
#include "palio/readings/report.hpp"
#include "palio/readings/vary.hpp"
#include "palio/solve/recover.hpp"
#include "palio/version.hpp"
#include "palio/view/chart.hpp"
#include "palio/view/laid.hpp"
#include "palio/view/page.hpp"

namespace palio::cli {
namespace {

/// What is made besides parts and pictures, with what it is for.
const std::vector<std::pair<std::string, std::string>>& other_files() {
  static const std::vector<std::pair<std::string, std::string>> all{
      {"vent.toml", "the job: one text file, every dimension follows from it"},
      {"report.txt", "all dependent dimensions and findings"},
      {"report.json", "the same for scripts"},
      {"roll.txt", "what the roll found"},
      {"roll.json", "the same for scripts"},
      {"vary.html", "what the pinion's profile shift does, with a slider, while the teeth turn"},
      {"vary.csv", "the same as a table"},
      {"tool.html", "a pinion cutter making the ring's teeth, step by step"},
      {"old_winch_measured.toml", "the worn pair of the old winch, known by measurements alone, one of them wrong"},
      {"old_winch.txt", "what it is, how sure that is, and which measurement is the wrong one"},
      {"old_winch.toml", "the same as a job, with its wear"},
      {"as_drawn/compare.html",
       "the outline in parts/motor_pinion.dxf laid on the exact teeth: how far it is off, in µm"}};
  return all;
}

std::string file_of(const make::File& f) { return f.path.substr(f.path.find_last_of('/') + 1); }

/// One mechanism: a picture, a verdict, a line of numbers; the whole of it leads to its page.
std::string card(const std::string& name, const std::string& picture, roll::Verdict verdict, const std::string& line) {
  return fmt::format(
      "<a class=\"card\" href=\"{0}.html\"><img src=\"pictures/{1}\" alt=\"{0}\" loading=\"lazy\"><b>{0}</b>"
      "<span class=\"{2}\">{3}</span><small>{4}</small></a>\n",
      name, picture, verdict == roll::Verdict::meshes ? "good" : "bad", roll::name(verdict), line);
}

/// What a newcomer sees first: the machine, what to open, a picture and a verdict for each mechanism; files folded
/// away.
std::string index_page(const job::Design& design, const std::vector<job::RolledPair>& rolled,
                       const std::vector<job::RolledReducer>& reducers, const std::vector<make::File>& made,
                       const std::vector<make::File>& drawn) {
  std::string cards, files, pictures, trains;
  for (const job::RolledPair& r : rolled) {
    const std::string& name = r.pair->name;
    cards += card(name, name + "-pair.png", r.result.verdict,
                  fmt::format("{} : {} teeth, play {}", design.gears[r.pair->driver].teeth.count(),
                              design.gears[r.pair->driven].teeth.count(),
                              job::report_value(design, "pair." + name, "circumferential_backlash")));
  }
  for (const job::RolledReducer& r : reducers)
    cards += card(r.reducer->name, r.reducer->name + "-reducer.png", r.result.verdict,
                  fmt::format("{} lobes, ratio {}", r.reducer->made.sizes().lobes, r.reducer->made.sizes().ratio));
  for (const job::Train& t : design.machine.trains) {
    if (t.motion.ratio)
      trains += fmt::format("<p><b>{}</b> {}</p>\n", t.name, job::in_words(design, t, *t.motion.ratio));
  }
  const auto row = [](const std::string& path, const std::string& words) {
    return fmt::format("<li><a href=\"{0}\">{0}</a> {1}</li>\n", path, words);
  };
  for (const auto& [path, words] : other_files())
    files += row(path, words);
  for (const make::File& f : made)
    files += row("parts/" + file_of(f),
                 f.deviation ? fmt::format("within {:.2g} mm of the exact curves", *f.deviation) : "the drawing");
  for (const make::File& f : drawn)
    pictures += row("pictures/" + file_of(f), "");
  const std::vector<Finding> found = job::findings(design);
  const auto count = [&](Severity severity) {
    return std::count_if(found.begin(), found.end(), [&](const Finding& f) { return f.kind().severity == severity; });
  };
  const auto errors = count(Severity::error), warnings = count(Severity::warning);
  const std::string verdict = errors > 0     ? fmt::format("It cannot work as it stands: {} errors.", errors)
                              : warnings > 0 ? fmt::format("It works, with {} doubts that the report names.", warnings)
                                             : "It works; nothing stands against it.";
  return fmt::format(
      R"(<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1">
<meta name="generator" content="palio {version}"><title>{title}</title><style>
body{{background:#fbfaf6;color:#3a3a40;font:15px/1.5 'DejaVu Sans',sans-serif;max-width:1180px;margin:0 auto;padding:20px}}
a{{color:#5c5988}} h1{{margin:0}} h2{{margin:26px 0 8px;font-size:17px}} p{{margin:4px 0}}
.top{{display:flex;flex-wrap:wrap;gap:24px;align-items:flex-start}} .top>*{{flex:1 1 330px;min-width:0}}
.plan img{{width:100%;border:1px solid #e4e1d6}}
.cards{{display:grid;grid-template-columns:repeat(auto-fill,minmax(210px,1fr));gap:14px}}
.card{{border:1px solid #e4e1d6;padding:8px;text-decoration:none;color:inherit;background:#fff;display:block}}
.card:hover,.card:focus{{border-color:#5c5988}} .card img{{width:100%;display:block}}
.card span{{float:right;font-size:13px}} .card small{{display:block;clear:both;color:#77756d}}
.good::before{{content:"✓ "}} .bad{{color:#b3402e;font-weight:bold}} .bad::before{{content:"✗ "}}
summary{{cursor:pointer;margin-top:14px}} li{{overflow-wrap:anywhere}}
</style>
<h1>{title}</h1>
<div class="top"><div><p>{verdict}</p>
{trains}<h2>Open first</h2>
<p><a href="machine.html">machine.html</a> the whole machine in space: drag any part by hand, and the others follow when their plays are taken up</p>
<p><a href="first_stage.html">first_stage.html</a> one pair of gears, close up at the contact</p>
<p><a href="vary.html">vary.html</a> one number on a slider while the teeth turn</p>
<p><a href="parts/assembly.glb">parts/assembly.glb</a> the whole machine turning, for any viewer of glTF</p>
<p><a href="report.txt">report.txt</a> every dimension, and what to change where there is a doubt</p>
<p><a href="vent.toml">vent.toml</a> the job: change a number and run palio again</p></div>
<a class="plan" href="machine.html"><img src="pictures/layout.png" alt="the plan of the machine"></a></div>
<h2>Every mechanism, as it rolls</h2>
<div class="cards">
{cards}</div>
<details><summary>All files</summary><ul>
{files}</ul></details>
<details><summary>All pictures</summary><ul>
{pictures}</ul></details></html>
)",
      fmt::arg("version", kVersion), fmt::arg("title", design.title), fmt::arg("verdict", verdict),
      fmt::arg("trains", trains), fmt::arg("cards", cards), fmt::arg("files", files), fmt::arg("pictures", pictures));
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
  // The parts take as long as all else together: they are made beside it.
  const Target parts = target(within(t.folder, "parts"), {}), pictures = target(within(t.folder, "pictures"), {});
  std::future<std::vector<make::File>> making =
      std::async(std::launch::async, [&] { return make_files(design, {}, parts); });

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
  write_with_job(within(t.folder, "machine.html"), view::machine_page(design, rolled, reducers), design);
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
  std::vector<make::File> drawn = draw_files(design, pictures, "png", {});
  drawn.push_back({within(pictures.folder, "layout.png"), "png", "layout"});
  write_with_job(drawn.back().path, view::draw_layout(design, "png"), design);
  recover_winch(t);
  const std::vector<make::File> made = making.get();
  lay_written(design, t);
  progress("");

  save(within(t.folder, "index.html"), index_page(design, rolled, reducers, made, drawn));
  print(job::roll_text(design, rolled, coloured(), reducers) +
        fmt::format(
            "\nOpen these:\n  {0}/index.html             everything, with a picture and a verdict for each mechanism\n "
            " {0}/machine.html           the whole machine; drag any part\n  {0}/first_stage.html       a pair "
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
  verb->add_option("-o,--out", *out, "Folder (default: demo-out)");
  verb->footer("Example:\n  palio demo --out demo-out");
  verb->callback([out, &status] { run_demo(*out, status); });
}

}  // namespace palio::cli
