// What is typed to find files again: words that must all be found in what is known of a file, and limits of
// size, length and dimensions. Pure: no widgets.
#pragma once

#include <QString>
#include <vector>

#include "desktop/sheet/indexed.h"

namespace dreskel {

class Narrowing {
  public:
    Narrowing() = default;
    // "halden may >2MB <30s": words in any order; a size, or a length in s or min, behind > or <. A number
    // behind # is that of one file; #14,27,41-60,p3 are several, with the whole of the third contact page.
    explicit Narrowing(const QString& typed);

    // Pages are counted over the listed files, whose numbers these are, in rising order.
    bool namesPages() const;
    void settlePages(const std::vector<std::int64_t>& listed);

    bool any() const { return !terms_.empty(); }
    bool admits(const Indexed& file) const;
    // The same in words: "with “halden” and “may”, larger than 2 MB, shorter than 30 s".
    QString sentence() const;
    bool operator==(const Narrowing& other) const { return terms_ == other.terms_; }

  private:
    enum class What { Word, Number, Size, Length };
    struct Term {
        What what = What::Word;
        QString word;
        bool more = false;
        double limit = 0;                                    // bytes or seconds
        using Span = std::pair<std::int64_t, std::int64_t>;  // first and last
        std::vector<Span> numbers, pages;                    // of files; of contact pages

        bool operator==(const Term& other) const = default;
    };
    std::vector<Term> terms_;
};

}  // namespace dreskel
