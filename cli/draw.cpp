#include "palio/view/draw.hpp"

#include <algorithm>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"

namespace palio::cli {
namespace {

const std::vector<std::string> kPictures{"png", "svg", "pdf"};

}  // namespace

std::vector<Made> draw_files(const job::Design& design, const Target& t, const std::string& format) {
  std::vector<Made> made;
  const auto add = [&](const std::string& name, const std::string& part, const std::string& bytes) {
    made.push_back({within(t.folder, name + "." + format), format, part, -1, 0, -1});
    write::write_file(made.back().path, bytes);
  };
  for (const job::Gear& g : design.gears) add(g.name + "-gear", g.name, view::draw_gear(design, g, format));
  for (const job::Pair& p : design.pairs) {
    add(p.name + "-pair", p.name, view::draw_pair(design, p, format));
    add(p.name + "-contact", p.name, view::draw_contact(design, p, format));
  }
  return made;
}

void add_draw(CLI::App& root, int&) {
  struct Options {
    JobOptions job;
    std::string what, format = "png", out, size = "1280x800";
    bool json = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("draw", "Look at teeth: whole gear, pair, close-up of the contact");
  add_job(*verb, options->job);
  verb->add_option("--of", options->what, "One picture: a gear's name, a pair's name, or PAIR:contact (default: all into the folder)")->type_name("NAME");
  verb->add_option("--format", options->format, "png, svg or pdf, where --out is a folder")->check(CLI::IsMember(kPictures));
  verb->add_option("--size", options->size, "Of the picture, as 1280x800")->type_name("WxH");
  verb->add_option("--out", options->out, "Folder, or one file (default: the current folder)");
  verb->add_flag("--json", options->json, "For scripts: what was written, as JSON");
  verb->footer("Example:\n  palio start spur --out vent.toml && palio draw vent.toml --of first_stage:contact --out contact.png");
  verb->callback([options] {
    const job::Design design = load(options->job);
    for (const job::Pair& p : design.pairs) running_pairs(design, p.name);
    const Target t = target(options->out, kPictures);
    const std::string format = t.extension.empty() ? options->format : t.extension;
    if (options->what.empty() && t.file.empty()) return tell(draw_files(design, t, format), options->json);

    view::PictureSize size;
    char end = 0;
    if (std::sscanf(options->size.c_str(), "%dx%d%c", &size.width, &size.height, &end) != 2 || size.width < 200 || size.height < 150 || size.width > 10000 ||
        size.height > 10000) {
      throw Misuse(fmt::format("--size {}: give width and height as 1280x800, from 200x150 to 10000x10000", options->size));
    }
    // Without a name: the pair, or the one gear there is.
    std::string what = options->what;
    if (what.empty()) what = design.pairs.empty() ? design.gears.front().name : design.pairs.front().name;
    std::string bytes, known;
    const auto offer = [&](const std::string& name, auto draw) {
      known += (known.empty() ? "" : ", ") + name;
      if (bytes.empty() && what == name) bytes = draw();
    };
    for (const job::Gear& g : design.gears) offer(g.name, [&] { return view::draw_gear(design, g, format, size); });
    for (const job::Pair& p : design.pairs) {
      offer(p.name, [&] { return view::draw_pair(design, p, format, size); });
      offer(p.name + ":contact", [&] { return view::draw_contact(design, p, format, size); });
    }
    if (bytes.empty()) throw Misuse(fmt::format("--of {}: the pictures of this job are {}", what, known));
    std::string name = what;
    std::replace(name.begin(), name.end(), ':', '-');
    const std::string path = t.path(name + "-picture." + format);
    write::write_file(path, bytes);
    tell({{path, format, what, -1, 0, -1}}, options->json);
  });
}

}  // namespace palio::cli
