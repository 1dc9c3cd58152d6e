// A job on the desk: its text, changed a value at a time, forward and back, and what the page shows of it. Knows
// nothing of how the page is served.
#pragma once

#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::desk {

/// What turns: "pair.NAME" of a pair that meshes, "reducer.NAME", and of several also "machine".
struct Turning {
  std::string path;
  bool plane = false;  ///< a pair whose picture is drawn in the page; of the others there are pages
};

/// May be asked from several threads at once; what takes long is worked out beside the lock.
class Session {
 public:
  /// \param text    of the job; may hold mistakes, but must be TOML or JSON
  /// \param source  its name in messages
  /// \throws job::JobError where it is neither
  Session(std::string text, std::string source);

  /// One more than before with every change of the text.
  int revision() const;
  std::string text() const;
  std::string source() const;
  /// Whether a design could be built from the text as it stands.
  bool sound() const;
  /// Whether the text is the one last kept in a file.
  bool kept() const;
  /// The text as it stands is in the file.
  void keep();
  void keep(std::string source);

  /// Changes one value. Of `units` the job's lengths are told in the new one, and stay.
  /// \param said   as `job::with_value`; none: the value is left out
  /// \param again  goes on with the change before it, which is then undone with it
  /// \throws job::JobError where the value has no place; nothing is changed then
  void set(const std::string& path, const std::optional<std::string>& said, bool again = false);
  /// Another thing of the same sort, or one less. \throws job::JobError as `job::with_copy`, `job::without_thing`
  void copy(const std::string& thing, const std::string& name);
  /// A new thing of a sort that the state lists as addable, made of what the job has. \throws job::JobError where the
  /// name is taken, InvalidParameter where there is no such sort
  void add(const std::string& sort, const std::string& name);
  void remove(const std::string& thing);
  /// Puts another text in place of all, as an editor wrote it. \param kept  whether the file has it
  void take(std::string text, bool kept);
  /// \return false where there is nothing to undo
  bool undo();
  bool redo();

  /// All that the page shows at once, as JSON: `revision`, `name`, `kept`, `can_undo`, `can_redo`, `sound`, `mistakes`
  /// [{`path`, `message`, `mends` [{`path`, `said`}]}] (what was tried and does; `said` null: left out), `values`
  /// [{`path`, `kind`, `keys` [{`path`, `key`, `said`, `inherited`, `absent`}]}], `addable` [{`sort`, `name`}], and of
  /// the last design that could be built `title`, `units`, `readings` [{`path`, `rows` [{`key`, `label`, `symbol`,
  /// `group`, `value`}]}] and `turning` [{`path`, `plane`}].
  std::string state() const;
  /// What the page says of each `key`, whatever its value: `word`, `type`, `unit`, `allowed`, `choices`, `meaning`.
  std::string keys() const;
  std::vector<Turning> turning() const;
  /// What the picture of a pair is drawn from, with the revision of the design it belongs to: in the plane rolled, in
  /// space its teeth where the even ratio puts them; `null` of what is no pair. \param positions  over one tooth pitch
  std::string picture(const std::string& pair, int positions) const;
  /// What the page in space of a pair, a reducer's or the machine's is given after a change, rolled: `revision`,
  /// `data`. \throws InvalidParameter where there is none such
  std::string space_picture(const std::string& turning) const;
  /// A whole page of one of them. \param quick  solids no finer than those of `space_picture`
  /// \throws InvalidParameter where there is none such
  std::string page(const std::string& turning, bool quick = false) const;
  /// The verdict with its remedies, as `palio report --brief --json`, and the `revision` it belongs to. A design
  /// that is changed meanwhile is looked at no longer: `overtaken`, and nothing else.
  std::string verdict() const;
  /// What a value does to a reading: `value`, `reading`, `unit`, `at`, `is`, `limits` [{`at`, `above`, `what`}].
  /// `overtaken` and nothing else as of the verdict. \throws InvalidParameter, job::JobError as `job::vary`
  std::string curve(const std::string& value, const std::string& reading) const;

  /// The number of a value with which a reading is as wanted: `value`, `reading`, `number`, `said`, `errors`,
  /// `warnings` of the job it makes; without one `number` is null, `nearest` what comes closest to it. `overtaken` and
  /// nothing else as of the verdict.
  /// \param wanted  as in [want]: "45", "at least 1.2"
  /// \throws job::JobError, InvalidParameter as `solve::find`
  std::string find(const std::string& value, const std::string& reading, const std::string& wanted) const;
  /// Readings and picture of the job as it was last kept in a file: `readings` as of the state, `data` as of the
  /// picture.
  std::string kept_state(const std::string& pair, int positions) const;
  /// The last design that could be built; none where none could yet.
  std::shared_ptr<const job::Design> design() const { return built().design; }

 private:
  struct Step {
    std::string text;
    std::string path;  // of the value that was changed to come here
  };
  /// A design with the revision of the text it was built from.
  struct Built {
    std::shared_ptr<const job::Design> design;
    int revision = 0;
  };
  void enter(Step step, bool again);
  void look();
  Built built() const;

  mutable std::mutex lock_;
  std::vector<Step> steps_;  // all texts so far; those behind `at_` were undone
  std::size_t at_ = 0;
  std::string source_, kept_;
  int revision_ = 1;
  std::string readable_;               // the last text that could be read
  std::optional<job::Values> values_;  // of it
  Built built_;                        // of the last text from which a design could be built
  /// What stands against a text, with what was tried and mends it.
  struct Mistake {
    std::string path, words;
    std::vector<std::pair<std::string, std::optional<std::string>>> mends;  // a value said otherwise, or left out
  };
  void try_mends();
  std::vector<Mistake> mistakes_;  // of the text as it stands
};

}  // namespace palio::desk
