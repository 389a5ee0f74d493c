#include "desktop/sheet/narrowing.h"

#include <algorithm>
#include <QRegularExpression>
#include <QStringList>

#include "desktop/look/look.h"

namespace dreskel {

Narrowing::Narrowing(const QString& typed) {
    static const QRegularExpression limit(
        QStringLiteral("^([<>])([0-9]+(?:\\.[0-9]+)?)(k|kb|m|mb|g|gb|s|min)$"),
        QRegularExpression::CaseInsensitiveOption);
    static const QRegularExpression numbers(
        QStringLiteral("^#[0-9]{1,9}(-[0-9]{1,9})?(,[0-9]{1,9}(-[0-9]{1,9})?)*$"));
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
                const auto ends = range.split(QLatin1Char('-'));
                term.numbers.emplace_back(ends.first().toLongLong(), ends.last().toLongLong());
            }
        }
        terms_.push_back(term);
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
            return QString::fromLatin1(term.more ? more : less);
        };
        switch (term.what) {
            case What::Word: words << QStringLiteral("“%1”").arg(term.word); break;
            case What::Number: limits << QStringLiteral("number %1").arg(term.word.mid(1)); break;
            case What::Size:
                limits << side("larger than %1", "smaller than %1")
                              .arg(look::sizeText(static_cast<std::uint64_t>(term.limit)));
                break;
            case What::Length:
                limits << side("longer than %1", "shorter than %1").arg(look::durationText(term.limit));
                break;
        }
    }
    QStringList parts;
    if (!words.isEmpty()) parts << QStringLiteral("with %1").arg(words.join(QStringLiteral(" and ")));
    return (parts + limits).join(QStringLiteral(", "));
}

}  // namespace dreskel
