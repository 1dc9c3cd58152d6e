// What all verbs share: the job, where results go, exit codes, text to the terminal.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <string>
#include <vector>

#include "palio/design/design.hpp"
#include "palio/make/make.hpp"
#include "palio/view/draw.hpp"
#include "palio/view/sheet.hpp"
#include "palio/write/file.hpp"
#include "palio/write/step.hpp"

namespace palio::cli {

/// Exit statuses (README): done; could not compute or write; asked wrongly; computed, and the verdict is against it.
enum Exit : int { kDone = 0, kFailed = 1, kAskedWrongly = 2, kVerdictAgainst = 3 };

/// A mistake in how the tool was called; leads to exit status 2.
class Misuse : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// The job a verb works on.
struct JobOptions {
  std::string path;
  std::vector<std::string> overrides;
  std::string as = "nominal";
};

/// A choice of words, in any case; with transform() the word is taken as it stands in the list.
CLI::Validator one_of(const std::vector<std::string>& words);

/// A numeric option's check: words such as nan and inf read as numbers, and are none here.
CLI::Validator finite();

/// A length's check: a finite number above 0.
CLI::Validator positive();

/// Declares JOB and --set; with `states` also --as.
void add_job(CLI::App& verb, JobOptions& options, bool states = false);
job::Design load(const JobOptions& options);
/// What it says, unresolved: values may be left open in it.
job::Values load_values(const JobOptions& options);
/// The job's text and the name of its source, unread.
std::pair<std::string, std::string> job_text(const JobOptions& options);

/// Every verb: declares its options, remembers what to run. `status` becomes the exit status.
using Verb = void (*)(CLI::App& root, int& status);
void add_start(CLI::App& root, int& status);
void add_find(CLI::App& root, int& status);
void add_recover(CLI::App& root, int& status);
void add_compare(CLI::App& root, int& status);
void add_variants(CLI::App& root, int& status);
void add_report(CLI::App& root, int& status);
void add_roll(CLI::App& root, int& status);
void add_vary(CLI::App& root, int& status);
void add_make(CLI::App& root, int& status);
void add_draw(CLI::App& root, int& status);
void add_sheet(CLI::App& root, int& status);
void add_explain(CLI::App& root, int& status);
void add_desk(CLI::App& root, int& status);
void add_demo(CLI::App& root, int& status);

/// Tells the findings that say a job cannot work on standard error. kVerdictAgainst when there are any, else kDone.
int tell_errors(const job::Design& design);

/// Adds --force, and holds `save` to it.
void add_force(CLI::App& verb);
/// Adds --quiet and --color, and holds `progress`, `tell` and `coloured` to them.
void add_manner(CLI::App& verb);
/// Writes a file. What stands there already is replaced where palio made it (it carries a mark), holds the same bytes,
/// or --force is given. \throws Misuse otherwise, FileError
void save(const std::string& path, std::string_view bytes);
/// All that was written by `save`, in its order; a watch begins it anew.
std::vector<std::string>& written_paths();
/// The same question before something else writes there. \throws Misuse
void check_replaceable(const std::string& path);

/// The extension of a path in small letters, without the dot; empty where there is none.
std::string format_of(const std::string& path);

/// Text for a terminal: control characters but line ends and tabs as \u001b and the like.
std::string plain(const std::string& text);

/// Where results go: a folder, or one file with a known extension.
struct Target {
  std::string folder;     // of the results; "." for the current one
  std::string file;       // the file asked for; empty when a folder was
  std::string extension;  // of that file, without the dot

  /// Where a result goes: the one file asked for, or `name` in the folder.
  std::string path(const std::string& name) const;
};
/// Folders are made as needed. \throws Misuse when the extension is not one of `extensions`
Target target(const std::string& out, const std::vector<std::string>& extensions);

/// Whether to colour what goes to standard output: a terminal that knows colours, unless NO_COLOR or --color say not
/// to.
bool coloured();

/// What else is to be removed when a signal ends the run: of a module that writes files itself.
void discard_on_signal(void (*discard)());

/// Writes to standard output, whole. \throws FileError when it cannot
void print(const std::string& text);

/// Says on a terminal what is being worked on; silent in a pipe. An empty text clears the line.
void progress(const std::string& text);

/// While one lives, what its thread says by `progress` goes to it instead. What it throws ends what is worked on.
class ProgressHeard {
 public:
  explicit ProgressHeard(std::function<void(const std::string&)> hears);
  ProgressHeard(const ProgressHeard&) = delete;
  ProgressHeard& operator=(const ProgressHeard&) = delete;
  ~ProgressHeard();
};

/// Writes a picture or page with the job inside it.
void write_with_job(const std::string& path, const std::string& bytes, const job::Design& design);

/// A function of one of the modules that are loaded on demand.
/// \param option     of CMake by which it is built; empty: always
/// \param otherwise  what to do without it \throws FileError saying so
void* module_entry(const std::string& module, const char* entry, const std::string& option,
                   const std::string& otherwise);

/// One pair by name, or all (none where the name is a reducer's); complains about jobs without pairs and reducers and
/// pairs that cannot run (exit status 2).
std::vector<const job::Pair*> running_pairs(const job::Design& design, const std::string& name);
/// One reducer by name, or all.
std::vector<const job::Reducer*> chosen_reducers(const job::Design& design, const std::string& name);

/// `path` within `folder`.
std::string within(const std::string& folder, const std::string& path);

/// What `make` can be asked for.
std::vector<std::string> format_names();
/// Where files go that were given no place: a folder named after the job.
std::string folder_of(const std::string& path, const job::Design& design);

/// A line beside what was made; not with --quiet.
void tell_beside(const std::string& line);
/// Tells what was made.
void tell(std::vector<make::File> files, bool json);
/// Makes the files of a design; used by `make` and `demo`.
std::vector<make::File> make_files(const job::Design& design, const make::Request& request, const Target& target);

/// Through the STEP module, which is loaded for it. \throws FileError
write::StepMade write_step_file(const std::vector<write::StepPart>& parts, const write::Stamp& stamp, double tolerance,
                                const std::string& path);

/// A sheet of each gear, or of the one named. \throws Misuse where there is none, or one file is asked for of several
std::vector<make::File> sheet_files(const job::Design& design, const std::string& of, const view::SheetOptions& sheet,
                                    const Target& target);

/// Draws all standard pictures of a design into a folder; used by `draw` and `demo`.
std::vector<make::File> draw_files(const job::Design& design, const Target& target, const std::string& format,
                                   view::PictureSize size);

}  // namespace palio::cli
