#include "page_parts.hpp"
#include "palio/version.hpp"
#include "palio/view/page.hpp"

namespace palio::view {

std::string desk_page() {
  std::map<std::string_view, std::string> texts = turning_texts({{"TITLE", "palio desk"}}, kDeskScript);
  texts["PAGE"] = whole(kPageScript);
  return filled(whole(kDeskHtml), texts);
}

}  // namespace palio::view
