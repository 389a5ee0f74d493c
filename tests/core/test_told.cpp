// The core's sentences in another language.
#include <QDir>
#include <QDirIterator>
#include <QRegularExpression>
#include <QTest>

#include "deliver/told.h"
#include "tests/support/support.h"

using namespace dreskel;

namespace {

QString text(std::string_view words) {
    return QString::fromUtf8(words.data(), static_cast<qsizetype>(words.size()));
}
QString german(const char* english) {
    return text(told(english, Language::German));
}

// All that the core's sources hold in quotation marks, with neighbouring pieces joined; without the table
// itself.
QString coreTexts() {
    QString all;
    QDirIterator files(QStringLiteral(DRESKEL_SOURCE "/core"),
                       {QStringLiteral("*.cpp"), QStringLiteral("*.h")}, QDir::Files,
                       QDirIterator::Subdirectories);
    static const QRegularExpression between(QStringLiteral("\"\\s*\""));
    while (files.hasNext()) {
        QFile file(files.next());
        if (file.fileName().endsWith(QLatin1String("told_german.cpp")) || !file.open(QIODevice::ReadOnly))
            continue;
        all += QString::fromUtf8(file.readAll()).remove(between);
    }
    return all;
}

}  // namespace

class TestTold : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void theCoreStillSaysWhatIsTranslated() {
        const auto said = coreTexts();
        static const QRegularExpression filled(QStringLiteral("%[0-9]|: |; |, |\\. "));
        QVERIFY(germanForms().size() > 300);
        QStringList past;
        for (const auto& [form, words] : germanForms()) {
            QString longest;
            for (const auto& part : text(form).split(filled)) {
                if (part.size() > longest.size()) longest = part;
            }
            // Its ends may be glued to what is said in the singular or the plural.
            longest = longest.trimmed();
            if (!said.contains(longest.left(11)) && !said.contains(longest.right(11))) past << text(form);
        }
        QVERIFY2(past.isEmpty(), qPrintable(past.join(QLatin1Char('\n'))));
    }
    void everyNumberHasItsPlace() {
        static const QRegularExpression place(QStringLiteral("%[0-9]"));
        for (const auto& [form, words] : germanForms()) {
            const auto places = [](std::string_view of) {
                QSet<QString> found;
                for (auto each = place.globalMatch(text(of)); each.hasNext();)
                    found << each.next().captured();
                return found;
            };
            QVERIFY2(places(form) == places(words), form.data());
        }
    }
    void numbersAreTakenOver() {
        QCOMPARE(german("There is not enough room: 1.25 GB are needed and 3 MB are free"),
                 QStringLiteral("Der Platz reicht nicht: 1,25 GB sind nötig und 3 MB frei"));
        QCOMPARE(german("a tag is not followed by its length, at byte 315\u202f384"),
                 QStringLiteral("auf einen Eintrag folgt nicht seine Länge, bei Byte 315\u202f384"));
        QCOMPARE(german("an impossible code, at byte 17, block row 3"),
                 QStringLiteral("ein unmöglicher Code, bei Byte 17, Blockzeile 3"));
        QCOMPARE(
            german("Freshly formatted as exFAT: no files; 52.5 % of its free space holds data from before."),
            QStringLiteral("Frisch formatiert als exFAT: keine Dateien; 52,5 % des freien Raums enthalten "
                           "Daten von vorher."));
    }
    void whatIsNotKnownStays() {
        for (const auto* sentence : {"No such thing as 12.5 wheels", "", ".", "1",
                                     "a, b, c, d, e, f, g, h, i, j, k, l", "\"open", "“open", "7.", "7.x"})
            QCOMPARE(german(sentence), QString::fromUtf8(sentence));
        QCOMPARE(text(told("it is missing or cannot be opened", Language::English)),
                 QStringLiteral("it is missing or cannot be opened"));
        // Of what is made of known and unknown parts the known ones are told.
        QCOMPARE(german("it has the same name; so much for that"),
                 QStringLiteral("sie hat denselben Namen; so much for that"));
    }
};

QTEST_GUILESS_MAIN(TestTold)
#include "test_told.moc"
