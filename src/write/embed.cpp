#include "palio/write/embed.hpp"

#include <array>
#include <cstdint>
#include <cstdlib>
#include <map>

#include <fmt/format.h>

#include "palio/error.hpp"

namespace palio::write {
namespace {

constexpr std::string_view kMark = "palio-job ",
                           kLetters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";

std::string from_base64(std::string_view letters) {
  std::string out;
  unsigned held = 0, bits = 0;
  for (const char c : letters) {
    const auto at = kLetters.find(c);
    if (at == std::string_view::npos) break;
    held = held << 6 | static_cast<unsigned>(at), bits += 6;
    if (bits >= 8) bits -= 8, out += static_cast<char>(held >> bits & 0xFF);
  }
  return out;
}

std::uint32_t crc(std::string_view bytes) {
  std::uint32_t c = 0xFFFFFFFFu;
  for (const char byte : bytes) {
    c ^= static_cast<unsigned char>(byte);
    for (int k = 0; k < 8; ++k)
      c = c & 1 ? 0xEDB88320u ^ c >> 1 : c >> 1;
  }
  return ~c;
}

std::string big_endian(std::uint32_t v) {
  return {static_cast<char>(v >> 24), static_cast<char>(v >> 16 & 0xFF), static_cast<char>(v >> 8 & 0xFF),
          static_cast<char>(v & 0xFF)};
}

std::string wrapped(std::string_view job, std::string_view before, std::string_view after) {
  std::string all;
  for (const std::string& p : pieces(job))
    all += fmt::format("{}{}{}", before, p, after);
  return all;
}

}  // namespace

std::string base64(std::string_view bytes) {
  std::string out;
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    const auto at = [&](std::size_t k) { return k < bytes.size() ? static_cast<unsigned char>(bytes[k]) : 0u; };
    const unsigned v = at(i) << 16 | at(i + 1) << 8 | at(i + 2);
    out += kLetters[v >> 18 & 63];
    out += kLetters[v >> 12 & 63];
    out += i + 1 < bytes.size() ? kLetters[v >> 6 & 63] : '=';
    out += i + 2 < bytes.size() ? kLetters[v & 63] : '=';
  }
  return out;
}

std::vector<std::string> pieces(std::string_view text) {
  constexpr std::size_t kEach = 120;  // bytes: 160 letters
  const std::size_t count = (text.size() + kEach - 1) / kEach;
  std::vector<std::string> all;
  // The whole text's checksum stands in every piece: a file that lost some, or another text put before, is told.
  const std::uint32_t sum = crc(text);
  for (std::size_t i = 0; i < count; ++i)
    all.push_back(fmt::format("{}{}/{}:{:08x} {}", kMark, i + 1, count, sum, base64(text.substr(i * kEach, kEach))));
  return all;
}

std::string piece_lines(std::string_view text) { return wrapped(text, "", "\n"); }

std::string with_job(std::string bytes, std::string_view format, std::string_view job) {
  if (job.empty()) return bytes;
  if (format == "png") {
    // After the header chunk: signature 8, then length 4, type 4, data 13, check 4.
    const std::string body = std::string("tEXt") + "palio" + '\0' + piece_lines(job);
    if (bytes.size() > 33)
      bytes.insert(33, big_endian(static_cast<std::uint32_t>(body.size() - 4)) + body + big_endian(crc(body)));
    return bytes;
  }
  const auto insert = [&](std::size_t at, const std::string& text) {
    if (at != std::string::npos) bytes.insert(at, text);
  };
  if (format == "svg") insert(bytes.rfind("</svg>"), "<!--\n" + piece_lines(job) + "-->\n");
  if (format == "html") {
    // A comment after the document's end is part of it still.
    const auto end = bytes.rfind("</html>");
    const std::string comment = "<!--\n" + piece_lines(job) + "-->\n";
    if (end == std::string::npos)
      bytes += comment;
    else
      insert(end, comment);
  }
  // Between a PDF's trailer and its last pointer no offset moves.
  if (format == "pdf") insert(bytes.rfind("startxref"), wrapped(job, "%", "\n"));
  if (format == "dxf") insert(0, wrapped(job, "999\n", "\n"));
  if (format == "step") insert(bytes.find("HEADER;"), "/*\n" + piece_lines(job) + "*/\n");
  return bytes;
}

std::optional<std::string> job_in(std::string_view bytes) {
  // Pieces by count and checksum: files of before the checksum have none.
  std::map<std::pair<unsigned long, std::string>, std::vector<std::optional<std::string>>> found;
  for (std::size_t at = bytes.find(kMark); at != std::string_view::npos; at = bytes.find(kMark, at + 1)) {
    const std::string head(bytes.substr(at + kMark.size(), 40));
    char* end = nullptr;
    const unsigned long number = std::strtoul(head.c_str(), &end, 10);
    if (*end != '/') continue;
    const unsigned long count = std::strtoul(end + 1, &end, 10);
    std::string sum;
    if (*end == ':') {
      const char* from = end + 1;
      std::strtoul(from, &end, 16);
      sum.assign(from, static_cast<const char*>(end));
    }
    constexpr unsigned long kMost = 100000;  // twelve megabytes
    if (*end != ' ' || number < 1 || number > count || count > kMost) continue;
    auto& pieces = found[{count, sum}];
    pieces.resize(count);
    const std::size_t from = at + kMark.size() + static_cast<std::size_t>(end - head.c_str()) + 1;
    const std::size_t to =
        bytes.find_first_not_of("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/=", from);
    pieces[number - 1] = from_base64(bytes.substr(from, to == std::string_view::npos ? to : to - from));
  }
  std::optional<std::string> best;
  bool damaged = false;
  for (const auto& [key, pieces] : found) {
    std::string text;
    bool whole = true;
    for (const auto& piece : pieces) {
      whole = whole && piece;
      if (piece) text += *piece;
    }
    whole = whole && (key.second.empty() || key.second == fmt::format("{:08x}", crc(text)));
    damaged = damaged || (!whole && !key.second.empty());
    // A text in the file may look like a job; the one with a checksum is the one that was put in.
    if (whole && (!best || !key.second.empty())) best = std::move(text);
  }
  if (damaged)
    throw FileError(
        "the job that this file carries is damaged: pieces of it are missing or changed; take another file");
  return best;
}

}  // namespace palio::write
