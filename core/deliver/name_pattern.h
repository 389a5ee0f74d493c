// How files are called whose name no directory knows: text with words in braces, such as "{date} {time}
// {camera}", which the technician can set.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "job/finding.h"

namespace dreskel {

class NamePattern {
  public:
    // As kUsual says, and where no date is known something that tells files apart.
    static constexpr std::string_view kUsual = "{date} {time} {camera}";
    NamePattern() = default;

    // Fault::Usage with the word that is none.
    static Result<NamePattern> from(std::string_view text);
    // What may stand in braces, each with what it becomes.
    static const std::vector<std::pair<std::string_view, std::string_view>>& words();

    // Without an extension; not made harmless yet. Never empty, and never a bare number.
    std::string nameOf(const Finding& finding) const;

  private:
    struct Part {
        std::string text;
        bool isWord = false;
    };
    std::vector<Part> parts_;  // empty: the usual way
};

}  // namespace dreskel
