// What a word means here: keys of the job, readings of the report, findings, and the trade's other words.
#pragma once

#include <string>

#include "palio/design/design.hpp"

namespace palio::job {

/// All words there are, by group.
std::string explain_words();

/// Everything that a word means: of a key its range and default, of a reading its formula, of a finding what to do. The
/// word is a name ("tip_diameter"), a symbol ("d_a"), or a path ("gear.motor_pinion.tip_diameter"). \param design  with
/// it the job's own numbers are put into the formulas \throws InvalidParameter "word"  with the words that are near
std::string explain(const std::string& word, const Design* design = nullptr);

/// The reference of findings (Markdown).
std::string findings_page();

/// JSON Schema (draft 2020-12) of the job file, from the key table: for editors that complete and underline.
std::string job_schema();

/// The job reference (Markdown), written from the key table.
std::string reference();

}  // namespace palio::job
