// The job inside the files made from it.
//
// The text is carried as numbered pieces, "palio-job 2/7 BASE64", in a comment or metadata of each format: such a piece
// survives line lengths, encodings and markup of all of them, and is found again by looking for it.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace palio::write {

std::string base64(std::string_view bytes);

/// The pieces that carry a text, each of at most 200 characters.
std::vector<std::string> pieces(std::string_view text);

/// The same in one string, a piece a line.
std::string piece_lines(std::string_view text);

/// Puts the job into the bytes of a finished file: "png" (a text chunk), "svg", "html", "pdf", "dxf", "step" (comments
/// or metadata). Other formats, and an empty job, leave the bytes as they are.
std::string with_job(std::string bytes, std::string_view format, std::string_view job);

/// The job that a file carries; none when there is none, or when pieces are missing.
std::optional<std::string> job_in(std::string_view bytes);

}  // namespace palio::write
