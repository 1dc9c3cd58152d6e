// What the pages share. Private to the views.
#pragma once

#include <map>
#include <string>
#include <string_view>

#include <nlohmann/json.hpp>

#include "palio/design/design.hpp"
#include "palio/readings/report.hpp"

namespace palio::view {

using Json = nlohmann::ordered_json;

extern const char* const kPlaneScript[];
extern const char* const kNumbersScript[];
extern const char* const kRolledScript[];
extern const char* const kTurningScript[];
extern const char* const kHeadHtml[];
extern const char* const kStillHeadHtml[];
extern const char* const kPageHtml[];
extern const char* const kPageScript[];
extern const char* const kSpaceHtml[];
extern const char* const kSpaceScript[];
extern const char* const kVaryHtml[];
extern const char* const kVaryScript[];
extern const char* const kToolHtml[];
extern const char* const kToolScript[];
extern const char* const kReducerHtml[];
extern const char* const kReducerScript[];
extern const char* const kFlipHtml[];
extern const char* const kFlipScript[];
extern const char* const kSideHtml[];
extern const char* const kSideScript[];
extern const char* const kMachineHtml[];
extern const char* const kMachineScript[];
extern const char* const kMechanismScript[];
extern const char* const kSolidsScript[];
extern const char* const kDeskHtml[];
extern const char* const kDeskScript[];
extern const char* const kWatchHtml[];
extern const char* const kWatchScript[];
extern const char* const kThreeNotice[];
extern const char* const kThree[];

/// What a page says of who drew it, and how closely [mm].
std::string stamp(double deviation);

/// A page from its parts: %TITLE%, %HEADING%, %STAMP%, %SCRIPT%, %DATA% filled in.
std::string filled_page(const char* const* html, const char* const* script, const job::Design& design,
                        const std::string& what, double deviation, const Json& data);

/// What pages that turn a pair share, by their marks: the head with its texts, how members, numbers and the roll's
/// table are drawn, and the page's own script.
std::map<std::string_view, std::string> turning_texts(std::map<std::string_view, std::string> texts,
                                                      const char* const* script);

/// A page without motion: a heading, %HEAD% with the style of all of them, %SCRIPT%, and texts of its own.
std::string still_page(const char* const* html, const char* const* script, const std::string& heading,
                       std::map<std::string_view, std::string> texts);

/// A text with every %NAME% that `values` knows put in, in one pass: what is put in is not looked at again.
std::string filled(std::string_view text, const std::map<std::string_view, std::string>& values);
/// JSON as it may stand in a script element, whatever texts it holds.
std::string json_in_script(const Json& data);
std::string whole(const char* const* parts);

double rounded(double value, double step);
/// Points x, y, x, y … of an outline, of one period or of all, in steps of a hundred-thousandth of the chord error's
/// order.
Json points(const curve::Outline& outline, double chord_error, bool whole = false);

/// What every rolled page's data begins with; `key` names what is rolled ("pair").
Json page_data(const job::Design& design, const char* key, const std::string& name, std::string_view verdict);

/// How a page draws and moves a member.
Json page_gear(const job::Gear& g, const Vec2& axis, double working_diameter, double start);

/// One position of a roll: both limits from the law and their errors, who touches; `cu`, `cl` the places of contact.
Json page_position(const roll::Position& p, double nominal, double half_play, double error_unit, bool drives_upper,
                   Json cu, Json cl);

/// What the page of a pair in space shows and turns. \param result  none: without positions, not rolled yet
/// \param fineness  greatest chord error as a share of the driver's module
Json space_data(const job::Design& design, const job::Pair& pair, const roll::Result* result, double fineness);

}  // namespace palio::view
