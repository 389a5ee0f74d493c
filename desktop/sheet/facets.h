// The sides by which a card's files are narrowed: each file has one value on each side. Pure: no widgets.
#pragma once

#include <array>
#include <cstdint>
#include <map>
#include <QString>
#include <vector>

#include "job/finding.h"

namespace dreskel {

enum class Facet {
    Condition,
    Decision,
    Rating,
    Format,
    Camera,
    Day,
    Hour,
    Size,
    Pixels,
    Length,
    Names,
    Pieces,
    Copies,
    People
};
inline constexpr std::size_t kFacets = 14;
inline constexpr std::array<Facet, kFacets> kAllFacets{
    Facet::Condition, Facet::Decision, Facet::Rating, Facet::Format, Facet::Camera,
    Facet::Day,       Facet::Hour,     Facet::Size,   Facet::Pixels, Facet::Length,
    Facet::Names,     Facet::Pieces,   Facet::Copies, Facet::People};
QString titleOf(Facet facet);
// The value of photos in which no faces have been looked for.
inline const QString kNotLookedFor = QStringLiteral("c");

// A value by a key that sorts as the values should, and the words for it; both empty where a file has none.
struct FacetValue {
    QString key, label;
};

// Seconds since 1970 by the camera's own clock, whatever its zone; kNoTime when there is no date.
inline constexpr std::int64_t kNoTime = INT64_MIN;
std::int64_t takenSeconds(const Finding& finding);

FacetValue valueOf(Facet facet, const Finding& finding, std::int64_t taken);

// Values as small numbers, so that a hundred thousand files can be counted by them at every keystroke.
class FacetBook {
  public:
    using Number = std::uint16_t;  // 0: none

    Number numberOf(Facet facet, const FacetValue& value);
    const FacetValue& valueAt(Facet facet, Number number) const {
        return values_[static_cast<std::size_t>(facet)][number];
    }
    std::size_t count(Facet facet) const { return values_[static_cast<std::size_t>(facet)].size(); }

  private:
    std::array<std::map<QString, Number>, kFacets> numbers_;
    std::array<std::vector<FacetValue>, kFacets> values_;
};

}  // namespace dreskel
