#include "page_parts.hpp"
#include "palio/version.hpp"
#include "palio/view/page.hpp"

namespace palio::view {

std::string desk_page() {
  std::map<std::string_view, std::string> texts{{"TITLE", "palio desk"}, {"STAMP", std::string("palio ") + kVersion}};
  texts["HEAD"] = filled(whole(kHeadHtml), texts);
  texts["PLANE"] = whole(kPlaneScript);
  texts["NUMBERS"] = whole(kNumbersScript);
  texts["ROLLED"] = whole(kRolledScript);
  texts["PAGE"] = whole(kPageScript);
  texts["SCRIPT"] = whole(kDeskScript);
  return filled(whole(kDeskHtml), texts);
}

}  // namespace palio::view
