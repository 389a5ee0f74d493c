#include "desktop/sheet/narrowing.h"

#include <algorithm>
#include <QRegularExpression>
#include <QStringList>

#include "deliver/report.h"
#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {

Narrowing::Narrowing(const QString& typed) {
    static const QRegularExpression limit(
        QStringLiteral("^([<>])([0-9]+(?:\\.[0-9]+)?)(k|kb|m|mb|g|gb|s|min)$"),
        QRegularExpression::CaseInsensitiveOption);
    static const QRegularExpression numbers(
        QStringLiteral("^#p?[0-9]{1,9}(-[0-9]{1,9})?(,p?[0-9]{1,9}(-[0-9]{1,9})?)*$"),
        QRegularExpression::CaseInsensitiveOption);
    for (const auto& word : typed.split(QLatin1Char(' '), Qt::SkipEmptyParts)) {
        Term term;
        term.word = word.toLower();
        if (const auto match = limit.match(word); match.hasMatch()) {
            const auto unit = match.captured(3).toLower();
            const bool time = unit == QLatin1String("s") || unit == QLatin1String("min");
            const double scale = unit.startsWith(QLatin1Char('g'))   ? 1e9
                                 : unit == QLatin1String("min")      ? 60
                                 : unit.startsWith(QLatin1Char('m')) ? 1e6
                                 : unit.startsWith(QLatin1Char('k')) ? 1e3
                                                                     : 1;
            term.what = time ? What::Length : What::Size;
            term.more = match.captured(1) == QLatin1String(">");
            term.limit = match.captured(2).toDouble() * scale;
        } else if (numbers.match(word).hasMatch()) {
            term.what = What::Number;
            for (const auto& range : word.mid(1).split(QLatin1Char(','))) {
                const bool pages = range.startsWith(QLatin1Char('p'), Qt::CaseInsensitive);
                const auto ends = range.mid(pages ? 1 : 0).split(QLatin1Char('-'));
                (pages ? term.pages : term.numbers)
                    .emplace_back(ends.first().toLongLong(), ends.last().toLongLong());
            }
        }
        terms_.push_back(term);
    }
}

bool Narrowing::namesPages() const {
    return std::any_of(terms_.begin(), terms_.end(), [](const Term& term) { return !term.pages.empty(); });
}

void Narrowing::settlePages(const std::vector<std::int64_t>& listed) {
    const auto pages = static_cast<std::int64_t>((listed.size() + kPicturesAPage - 1) / kPicturesAPage);
    for (auto& term : terms_) {
        for (const auto& [first, last] : term.pages) {
            const auto from = std::max<std::int64_t>(first, 1), to = std::min(last, pages);
            if (from > to) continue;
            const auto end = std::min(listed.size(), static_cast<std::size_t>(to) * kPicturesAPage);
            term.numbers.emplace_back(listed[static_cast<std::size_t>(from - 1) * kPicturesAPage],
                                      listed[end - 1]);
        }
        term.pages.clear();
    }
}

bool Narrowing::admits(const Indexed& file) const {
    const auto& finding = *file.finding;
    for (const auto& term : terms_) {
        const auto beyond = [&](double value) { return term.more ? value > term.limit : value < term.limit; };
        bool fits = false;
        switch (term.what) {
            case What::Word: fits = file.text.contains(term.word); break;
            case What::Number:
                fits = std::any_of(term.numbers.begin(), term.numbers.end(), [&](const auto& range) {
                    return range.first <= finding.id && finding.id <= range.second;
                });
                break;
            case What::Size: fits = beyond(static_cast<double>(finding.size())); break;
            case What::Length:
                fits = finding.description.duration && beyond(*finding.description.duration);
                break;
        }
        if (!fits) return false;
    }
    return true;
}

QString Narrowing::sentence() const {
    QStringList words, limits;
    for (const auto& term : terms_) {
        const auto side = [&](const char* more, const char* less) {
            return Text::tr(term.more ? more : less);
        };
        switch (term.what) {
            case What::Word: words << QStringLiteral("“%1”").arg(term.word); break;
            case What::Number: limits << Text::tr("number %1").arg(term.word.mid(1)); break;
            case What::Size:
                limits << side(QT_TRANSLATE_NOOP("dreskel::Text", "larger than %1"),
                               QT_TRANSLATE_NOOP("dreskel::Text", "smaller than %1"))
                              .arg(look::sizeText(static_cast<std::uint64_t>(term.limit)));
                break;
            case What::Length:
                limits << side(QT_TRANSLATE_NOOP("dreskel::Text", "longer than %1"),
                               QT_TRANSLATE_NOOP("dreskel::Text", "shorter than %1"))
                              .arg(look::durationText(term.limit));
                break;
        }
    }
    QStringList parts;
    if (!words.isEmpty()) parts << Text::tr("with %1").arg(words.join(Text::tr(" and ")));
    return (parts + limits).join(QStringLiteral(", "));
}

}  // namespace dreskel
