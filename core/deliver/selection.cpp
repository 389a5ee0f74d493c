#include "deliver/selection.h"

#include <charconv>
#include <string>

#include "deliver/report.h"

namespace dreskel {
namespace {

constexpr std::int64_t kMost = 999999999;

// "7" or "4-19"; false when it is neither.
bool readSpan(std::string_view text, std::int64_t& first, std::int64_t& last) {
    const auto whole = [](std::string_view digits, std::int64_t& into) {
        const auto [end, failed] = std::from_chars(digits.data(), digits.data() + digits.size(), into);
        return failed == std::errc() && end == digits.data() + digits.size() && into >= 0 && into <= kMost;
    };
    const auto dash = text.find('-');
    return whole(text.substr(0, dash), first) &&
           whole(dash == std::string_view::npos ? text : text.substr(dash + 1), last);
}

}  // namespace

Result<std::set<std::int64_t>> numbersIn(std::string_view text, const std::vector<std::int64_t>& known,
                                         const std::vector<std::int64_t>& listed) {
    std::set<std::int64_t> ids;
    constexpr std::string_view between = ",; \t\n";
    while (true) {
        const auto from = text.find_first_not_of(between);
        if (from == std::string_view::npos) return ids;
        text.remove_prefix(from);
        const auto word = text.substr(0, text.find_first_of(between));
        text.remove_prefix(word.size());
        const bool pages = word.starts_with('p') || word.starts_with('P');
        std::int64_t first = 0, last = 0;
        if (!readSpan(word.substr(pages ? 1 : 0), first, last))
            return Error{Fault::Usage, "Not a list of numbers: " + std::string(word), "",
                         "Write it as 4,7-19, and a whole page as p3"};
        if (!pages) {
            // Those that there are: a span may be as wide as it likes.
            for (const auto id : known) {
                if (id >= first && id <= last) ids.insert(id);
            }
            if (first == last) ids.insert(first);
            continue;
        }
        for (std::size_t i = 0; i < listed.size(); ++i) {
            const auto page = static_cast<std::int64_t>(i / kPicturesAPage) + 1;
            if (page >= first && page <= last) ids.insert(listed[i]);
        }
    }
}

}  // namespace dreskel
