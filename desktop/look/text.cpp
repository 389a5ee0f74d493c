#include "desktop/look/text.h"

#include <algorithm>
#include <QLibraryInfo>
#include <QLocale>
#include <QRegularExpression>
#include <QSettings>
#include <QTranslator>

#include "base/result.h"

namespace dreskel {
namespace {

const QString kLanguage = QStringLiteral("window/language");
const QString kEnglish = QStringLiteral("en");

QLocale gLocale(QLocale::English);

QString coreSentence(const QString& form) {
    return QCoreApplication::translate("Core", form.toUtf8().constData());
}

// What stands in a sentence for one case only: a number with its unit, the name of a filesystem, or something
// in quotation marks.
const QRegularExpression& changing() {
    static const QRegularExpression pattern(QStringLiteral(
        "“[^”]*”|\"[^\"]*\"|\\b(?:exFAT|FAT12|FAT16|FAT32|NTFS|ext[234])\\b|"
        "(?<![A-Za-z0-9.])[0-9]+(?:[\\x{202f} ][0-9]{3})*(?:\\.[0-9]+)?(?: (?:kB|MB|GB|TB)\\b)?"));
    return pattern;
}

QString withDecimalMark(QString number) {
    static const QRegularExpression decimal(QStringLiteral("^([0-9]+)\\.([0-9]+)"));
    return number.replace(decimal, QStringLiteral("\\1") + gLocale.decimalPoint() + QStringLiteral("\\2"));
}

// The sentence with %1, %2 … for what changes, translated and filled again; nothing if it is not known.
QString whole(const QString& sentence) {
    if (const auto known = coreSentence(sentence); known != sentence) return known;
    QString form;
    QStringList filling;
    qsizetype from = 0;
    for (auto matches = changing().globalMatch(sentence); matches.hasNext();) {
        const auto match = matches.next();
        form +=
            sentence.mid(from, match.capturedStart() - from) + QStringLiteral("%%1").arg(filling.size() + 1);
        filling << withDecimalMark(match.captured());
        from = match.capturedEnd();
    }
    form += sentence.mid(from);
    if (filling.isEmpty()) return {};
    auto known = coreSentence(form);
    if (known == form) return {};
    for (auto i = filling.size(); i > 0; --i) known.replace(QStringLiteral("%%1").arg(i), filling[i - 1]);
    return known;
}

// Sentences that are made of others, with what stands between them.
QString inParts(const QString& sentence) {
    if (const auto known = whole(sentence); !known.isEmpty()) return known;
    for (const auto& between :
         {QStringLiteral(". "), QStringLiteral("; "), QStringLiteral(": "), QStringLiteral(", ")}) {
        const auto at = sentence.lastIndexOf(between);
        if (at <= 0) continue;
        const auto before = sentence.left(at), behind = sentence.mid(at + between.size());
        const auto front = inParts(before), rest = inParts(behind);
        if (front != before || rest != behind) return front + between + rest;
    }
    return sentence;
}

}  // namespace

QString Text::ofCore(const std::string& sentence) {
    const auto english = QString::fromStdString(sentence);
    if (gLocale.language() == QLocale::English || english.isEmpty()) return english;
    const bool stop = english.endsWith(QLatin1Char('.'));
    auto text = inParts(stop ? english.chopped(1) : english);
    return stop ? text + QLatin1Char('.') : text;
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
    static QTranslator ours, core, plurals, toolkit;
    for (auto* each : {&ours, &core, &plurals, &toolkit}) QCoreApplication::removeTranslator(each);
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
    if (core.load(QStringLiteral(":/i18n/core_%1.qm").arg(word))) QCoreApplication::installTranslator(&core);
    if (ours.load(QStringLiteral(":/i18n/dreskel_%1.qm").arg(word)))
        QCoreApplication::installTranslator(&ours);
}

}  // namespace text
}  // namespace dreskel
