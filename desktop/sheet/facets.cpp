#include "desktop/sheet/facets.h"

#include <algorithm>
#include <iterator>
#include <QDateTime>
#include <QLocale>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

// A value on a scale that is cut into steps; each step holds what is below its end.
struct Step {
    double end;
    const char* label;
};

template <std::size_t N>
FacetValue stepOf(double value, const Step (&steps)[N]) {
    const auto* step = std::find_if(std::begin(steps), std::end(steps) - 1,
                                    [value](const Step& each) { return value < each.end; });
    return {QString(QChar(static_cast<char16_t>(u'a' + (step - steps)))), Text::tr(step->label)};
}

constexpr Step kSizes[] = {{1e5, QT_TRANSLATE_NOOP("dreskel::Text", "under 100 kB")},
                           {1e6, QT_TRANSLATE_NOOP("dreskel::Text", "100 kB to 1 MB")},
                           {5e6, QT_TRANSLATE_NOOP("dreskel::Text", "1 to 5 MB")},
                           {2e7, QT_TRANSLATE_NOOP("dreskel::Text", "5 to 20 MB")},
                           {1e8, QT_TRANSLATE_NOOP("dreskel::Text", "20 to 100 MB")},
                           {1e9, QT_TRANSLATE_NOOP("dreskel::Text", "100 MB to 1 GB")},
                           {0, QT_TRANSLATE_NOOP("dreskel::Text", "1 GB and more")}};
constexpr Step kPixels[] = {{0.5e6, QT_TRANSLATE_NOOP("dreskel::Text", "under 0.5 megapixels")},
                            {2e6, QT_TRANSLATE_NOOP("dreskel::Text", "0.5 to 2 megapixels")},
                            {8e6, QT_TRANSLATE_NOOP("dreskel::Text", "2 to 8 megapixels")},
                            {16e6, QT_TRANSLATE_NOOP("dreskel::Text", "8 to 16 megapixels")},
                            {30e6, QT_TRANSLATE_NOOP("dreskel::Text", "16 to 30 megapixels")},
                            {0, QT_TRANSLATE_NOOP("dreskel::Text", "30 megapixels and more")}};
constexpr Step kLengths[] = {{10, QT_TRANSLATE_NOOP("dreskel::Text", "under 10 s")},
                             {60, QT_TRANSLATE_NOOP("dreskel::Text", "10 s to 1 min")},
                             {600, QT_TRANSLATE_NOOP("dreskel::Text", "1 to 10 min")},
                             {0, QT_TRANSLATE_NOOP("dreskel::Text", "10 min and more")}};

FacetValue conditionValue(Condition condition) {
    switch (condition) {
        case Condition::Whole: return {QStringLiteral("a"), Text::tr("whole")};
        case Condition::Partial: return {QStringLiteral("b"), Text::tr("partial")};
        case Condition::Broken: return {QStringLiteral("c"), Text::tr("broken")};
        case Condition::Unchecked: break;
    }
    return {QStringLiteral("d"), Text::tr("not checked")};
}

FacetValue decisionValue(const Decision& decision) {
    if (decision.kept) return {QStringLiteral("a"), Text::tr("kept")};
    if (decision.leftOut) return {QStringLiteral("c"), Text::tr("left out")};
    return {QStringLiteral("b"), Text::tr("open")};
}

FacetValue ratingValue(int rating) {
    if (rating == 0) return {};
    return {QString::number(9 - rating), Text::tr("%1 of %2").arg(rating).arg(kBestRating)};
}

FacetValue peopleValue(const Finding& finding) {
    if (finding.kind != Kind::Photo) return {};
    if (!finding.faces) return {kNotLookedFor, Text::tr("not looked for yet")};
    return *finding.faces > 0 ? FacetValue{QStringLiteral("a"), Text::tr("faces seen")}
                              : FacetValue{QStringLiteral("b"), Text::tr("none seen")};
}

FacetValue namesValue(const Finding& finding) {
    if (!finding.fate) return {QStringLiteral("d"), Text::tr("no folder speaks of it")};
    switch (*finding.fate) {
        case Fate::Present: return {QStringLiteral("a"), Text::tr("still in its folder")};
        case Fate::Deleted: return {QStringLiteral("b"), Text::tr("deleted")};
        case Fate::FormattedOver: break;
    }
    return {QStringLiteral("c"), Text::tr("from before formatting")};
}

FacetValue piecesValue(const Finding& finding) {
    const auto made = [](const Piece& piece) { return piece.from == PieceFrom::Made; };
    if (std::any_of(finding.pieces.begin(), finding.pieces.end(), made))
        return {QStringLiteral("c"), Text::tr("with made bytes")};
    if (!finding.joins.empty()) return {QStringLiteral("b"), Text::tr("in several pieces")};
    return {QStringLiteral("a"), Text::tr("in one piece")};
}

}  // namespace

QString titleOf(Facet facet) {
    switch (facet) {
        case Facet::Condition: return Text::tr("Condition");
        case Facet::Decision: return Text::tr("Decided");
        case Facet::Rating: return Text::tr("Rated");
        case Facet::Format: return Text::tr("Format");
        case Facet::Camera: return Text::tr("Camera");
        case Facet::Day: return Text::tr("Day");
        case Facet::Hour: return Text::tr("Time of day");
        case Facet::Size: return Text::tr("Size");
        case Facet::Pixels: return Text::tr("Dimensions");
        case Facet::Length: return Text::tr("Length");
        case Facet::Names: return Text::tr("Folders say");
        case Facet::Pieces: return Text::tr("Lies on the card");
        case Facet::Copies: return Text::tr("Same bytes twice");
        case Facet::People: return Text::tr("People, a guess");
    }
    return {};
}

std::int64_t takenSeconds(const Finding& finding) {
    const auto& taken = finding.description.taken;
    if (taken.size() < 19) return kNoTime;
    auto time = QDateTime::fromString(QString::fromStdString(taken).left(19), Qt::ISODate);
    if (!time.isValid()) return kNoTime;
    time.setTimeSpec(Qt::UTC);
    return time.toSecsSinceEpoch();
}

FacetValue valueOf(Facet facet, const Finding& finding, std::int64_t taken) {
    const auto& about = finding.description;
    switch (facet) {
        case Facet::Condition: return conditionValue(finding.condition);
        case Facet::Decision: return decisionValue(finding.decision);
        case Facet::Rating: return ratingValue(finding.decision.rating);
        case Facet::Format: {
            const auto format = QString::fromStdString(finding.format);
            return {format, format.toUpper()};
        }
        case Facet::Camera: {
            const auto camera = QString::fromStdString(about.camera);
            if (camera.isEmpty()) return {QStringLiteral("~"), Text::tr("not known")};
            return {camera, camera};
        }
        case Facet::Day: {
            if (taken == kNoTime) return {QStringLiteral("~"), Text::tr("no date known")};
            const auto day = QDateTime::fromSecsSinceEpoch(taken, Qt::UTC).date();
            return {day.toString(Qt::ISODate), Text::locale().toString(day, Text::tr("ddd d MMM yyyy"))};
        }
        case Facet::Hour: {
            if (taken == kNoTime) return {};
            const auto from = QDateTime::fromSecsSinceEpoch(taken, Qt::UTC).time().hour() / 3 * 3;
            const auto two = [](int hour) { return QStringLiteral("%1").arg(hour, 2, 10, QLatin1Char('0')); };
            return {two(from), Text::tr("%1:00 to %2:00").arg(two(from), two(from + 3))};
        }
        case Facet::Size: return stepOf(static_cast<double>(finding.size()), kSizes);
        case Facet::Pixels:
            if (!about.width || !about.height) return {};
            return stepOf(static_cast<double>(*about.width) * *about.height, kPixels);
        case Facet::Length:
            if (!about.duration || finding.kind == Kind::Photo) return {};
            return stepOf(*about.duration, kLengths);
        case Facet::Names: return namesValue(finding);
        case Facet::Pieces: return piecesValue(finding);
        case Facet::Copies:
            if (!finding.sameAs) return {};
            return {QStringLiteral("a"), Text::tr("copy of another")};
        case Facet::People: return peopleValue(finding);
    }
    return {};
}

FacetBook::Number FacetBook::numberOf(Facet facet, const FacetValue& value) {
    auto& numbers = numbers_[static_cast<std::size_t>(facet)];
    auto& values = values_[static_cast<std::size_t>(facet)];
    if (values.empty()) values.push_back({});
    if (value.key.isEmpty()) return 0;
    const auto known = numbers.find(value.key);
    if (known != numbers.end()) return known->second;
    if (values.size() > UINT16_MAX) return 0;
    const auto number = static_cast<Number>(values.size());
    numbers.emplace(value.key, number);
    values.push_back(value);
    return number;
}

}  // namespace dreskel
