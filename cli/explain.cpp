#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/gear/finding.hpp"

namespace palio::cli {
namespace {

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

}  // namespace

void add_explain(CLI::App& root, int&) {
  const auto term = std::make_shared<std::string>();
  CLI::App* verb = root.add_subcommand("explain", "What a word means here");
  verb->add_option("TERM", *term, "keys (of a job), findings, or the id of one finding")->required();
  verb->footer("Example:\n  palio explain undercut");
  verb->callback([term] {
    if (*term == "keys") return print(job::reference());
    if (*term == "findings") return print(findings_page());
    std::string known;
    for (const FindingKind& k : finding_kinds()) {
      if (*term == k.text_id)
        return print(fmt::format("{} ({})\n  {}\n  Remedy: {}\n", k.text_id, name(k.severity), k.cause, k.remedy));
      known += fmt::format(", {}", k.text_id);
    }
    throw Misuse(fmt::format("no explanation of \"{}\"; there are keys, findings{}", *term, known));
  });
}

}  // namespace palio::cli
