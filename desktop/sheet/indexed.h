// What arranging and narrowing need of a file, worked out once for each state of it. Pure: no widgets; not
// for several threads at once.
#pragma once

#include <array>
#include <memory>
#include <QHash>
#include <vector>

#include "desktop/sheet/facets.h"

namespace dreskel {

struct Indexed {
    std::shared_ptr<const Finding> finding;
    std::int64_t taken = kNoTime;
    std::array<FacetBook::Number, kFacets> values{};
    QString text;  // all that may be asked for by a word, in lower case
};

class Index {
  public:
    // Of those that are listed, in the order in which they lie on the card. Good until the next call.
    std::vector<const Indexed*> of(const std::vector<std::shared_ptr<const Finding>>& all);
    const FacetBook& book() const { return book_; }

  private:
    const Indexed& one(const std::shared_ptr<const Finding>& finding);

    FacetBook book_;
    QHash<std::int64_t, std::shared_ptr<Indexed>> known_;
};

}  // namespace dreskel
