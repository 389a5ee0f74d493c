#include "desktop/sheet/indexed.h"

#include <algorithm>
#include <QDateTime>
#include <QLocale>
#include <QStringList>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

QString textOf(const Finding& finding, std::int64_t taken) {
    const auto& about = finding.description;
    QStringList parts{QString::fromStdString(finding.name),
                      QString::fromStdString(finding.folder),
                      QString::fromStdString(finding.format),
                      QString::fromStdString(about.camera),
                      QString::fromStdString(about.codec),
                      QString::fromStdString(about.taken),
                      look::kindText(finding.kind, 1),
                      Text::ofCore(std::string(toWord(finding.condition))),
                      QString::fromLatin1(toWord(finding.kind).data()),
                      QString::fromLatin1(toWord(finding.condition).data()),
                      QString::fromStdString(finding.decision.note)};
    if (taken != kNoTime) {
        parts << Text::locale().toString(QDateTime::fromSecsSinceEpoch(taken, Qt::UTC),
                                         QStringLiteral("dddd d MMMM yyyy HH:mm"));
    }
    if (about.width && about.height) parts << QStringLiteral("%1x%2").arg(*about.width).arg(*about.height);
    return parts.join(QLatin1Char('\n')).toLower();
}

}  // namespace

const Indexed& Index::one(const std::shared_ptr<const Finding>& finding) {
    auto& known = known_[finding->id];
    if (known && known->finding == finding) return *known;
    known = std::make_shared<Indexed>();
    known->finding = finding;
    known->taken = takenSeconds(*finding);
    for (const auto facet : kAllFacets) {
        known->values[static_cast<std::size_t>(facet)] =
            book_.numberOf(facet, valueOf(facet, *finding, known->taken));
    }
    known->text = textOf(*finding, known->taken);
    return *known;
}

std::vector<const Indexed*> Index::of(const std::vector<std::shared_ptr<const Finding>>& all) {
    std::vector<const Indexed*> files;
    files.reserve(all.size());
    for (const auto& finding : all) {
        if (finding && finding->listed()) files.push_back(&one(finding));
    }
    std::stable_sort(files.begin(), files.end(), [](const Indexed* a, const Indexed* b) {
        return a->finding->start() < b->finding->start();
    });
    return files;
}

}  // namespace dreskel
