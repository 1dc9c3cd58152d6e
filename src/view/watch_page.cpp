#include "page_parts.hpp"
#include "palio/view/page.hpp"

namespace palio::view {

std::string watch_page(const std::string& heading) { return still_page(kWatchHtml, kWatchScript, heading, {}); }

}  // namespace palio::view
