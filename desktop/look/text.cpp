#include "desktop/look/text.h"

#include <algorithm>
#include <QLibraryInfo>
#include <QLocale>
#include <QSettings>
#include <QTranslator>

#include "base/result.h"
#include "deliver/told.h"

namespace dreskel {
namespace {

const QString kLanguage = QStringLiteral("window/language");
const QString kEnglish = QStringLiteral("en");

QLocale gLocale(QLocale::English);

Language language() {
    return gLocale.language() == QLocale::German ? Language::German : Language::English;
}

}  // namespace

QString Text::ofCore(const std::string& sentence) {
    return QString::fromStdString(told(sentence, language()));
}

QString Text::ofCore(const Error& error) {
    auto text = ofCore(error.what);
    if (!error.where.empty()) text += QStringLiteral(" (%1)").arg(QString::fromStdString(error.where));
    text += QLatin1Char('.');
    if (!error.advice.empty()) text += QLatin1Char(' ') + ofCore(error.advice) + QLatin1Char('.');
    return text;
}

const QLocale& Text::locale() {
    return gLocale;
}

namespace text {

QVector<Offered> languages() {
    return {{kEnglish, QStringLiteral("English")}, {QStringLiteral("de"), QStringLiteral("Deutsch")}};
}

QString chosen() {
    return QSettings().value(kLanguage).toString();
}

void choose(const QString& word) {
    QSettings().setValue(kLanguage, word);
}

void speak() {
    static QTranslator ours, plurals, toolkit;
    for (auto* each : {&ours, &plurals, &toolkit}) QCoreApplication::removeTranslator(each);
    auto word = chosen();
    if (word.isEmpty()) word = QLocale::system().name().section(QLatin1Char('_'), 0, 0);
    const auto offered = languages();
    const bool known =
        std::any_of(offered.begin(), offered.end(), [&](const Offered& each) { return each.word == word; });
    if (!known) word = kEnglish;
    gLocale = word == kEnglish ? QLocale(QLocale::English) : QLocale(word);
    if (toolkit.load(QStringLiteral("qtbase_") + word, QLibraryInfo::path(QLibraryInfo::TranslationsPath)))
        QCoreApplication::installTranslator(&toolkit);
    if (plurals.load(QStringLiteral(":/i18n/dreskel_en.qm"))) QCoreApplication::installTranslator(&plurals);
    if (word == kEnglish) return;
    if (ours.load(QStringLiteral(":/i18n/dreskel_%1.qm").arg(word)))
        QCoreApplication::installTranslator(&ours);
}

}  // namespace text
}  // namespace dreskel
