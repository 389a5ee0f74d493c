// The interface in another language: nothing is left untranslated, what the core says is found, and a change
// of language leaves the work in hand.
#include <QDir>
#include <QMenuBar>
#include <QProcess>
#include <QRegularExpression>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <QXmlStreamReader>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/main_window.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

const QString kSource = QStringLiteral(DRESKEL_SOURCE);

// Forms and their translations of one of the files.
QMap<QString, QString> formsIn(const QString& name) {
    QFile file(kSource + QStringLiteral("/desktop/translations/") + name);
    if (!file.open(QIODevice::ReadOnly)) qFatal("no translations");
    QXmlStreamReader xml(&file);
    QMap<QString, QString> forms;
    QString form;
    while (!xml.atEnd()) {
        xml.readNext();
        if (!xml.isStartElement()) continue;
        if (xml.name() == QLatin1String("source")) form = xml.readElementText();
        if (xml.name() == QLatin1String("translation"))
            forms[form] = xml.readElementText(QXmlStreamReader::IncludeChildElements);
    }
    if (xml.hasError()) qFatal("the translations cannot be read");
    return forms;
}

QStringList menuTitles(const MainWindow& window) {
    QStringList titles;
    for (const auto* action : window.menuBar()->actions()) titles << action->text();
    return titles;
}

}  // namespace

class TestLanguages : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

  private Q_SLOTS:
    void initTestCase() {
        qputenv("XDG_CONFIG_HOME", dir_.path().toUtf8());
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
    }
    void cleanup() { text::choose(QStringLiteral("en")); }

    void everyTextIsTranslated() {
        QProcess script;
        script.setProcessChannelMode(QProcess::MergedChannels);
        script.start(kSource + QStringLiteral("/scripts/translations"), {QStringLiteral("--check")});
        QVERIFY(script.waitForFinished(120000));
        QVERIFY2(script.exitCode() == 0, script.readAll().constData());
    }
    // The places of what is filled in must be the same ones, or a number would be lost.
    void everyNumberHasItsPlace() {
        static const QRegularExpression place(QStringLiteral("%(?:[0-9]|n)"));
        const auto forms = formsIn(QStringLiteral("dreskel_de.ts"));
        QVERIFY(forms.size() > 400);
        for (auto form = forms.begin(); form != forms.end(); ++form) {
            const auto places = [](const QString& text) {
                QSet<QString> found;
                for (auto each = place.globalMatch(text); each.hasNext();) found << each.next().captured();
                return found;
            };
            QVERIFY2(places(form.key()) == places(form.value()), qPrintable(form.key()));
        }
    }
    void sentencesOfTheCoreAreToldToo() {
        text::choose(QStringLiteral("de"));
        text::speak();
        const auto german = [](const char* english) { return Text::ofCore(std::string(english)); };
        QCOMPARE(german("it is missing or cannot be opened"),
                 QStringLiteral("sie fehlt oder ist nicht zu öffnen"));
        QCOMPARE(Text::ofCore(
                     Error{Fault::Failed, "The destination is read-only", "/mnt/x", "Choose another folder"}),
                 QStringLiteral(
                     "Auf das Ziel kann nicht geschrieben werden (/mnt/x). Einen anderen Ordner wählen."));
        QCOMPARE(look::sizeText(1'250'000), QStringLiteral("1,25 MB"));
        text::choose(QStringLiteral("en"));
        text::speak();
        QCOMPARE(german("it is missing or cannot be opened"),
                 QStringLiteral("it is missing or cannot be opened"));
        QCOMPARE(Text::tr("%1 file(s)", nullptr, 1).arg(1), QStringLiteral("1 file"));
        QCOMPARE(Text::tr("%1 file(s)", nullptr, 2).arg(2), QStringLiteral("2 files"));
    }
    // From the menu, with a job open: everything is in the other language, what was typed and chosen stays.
    void theLanguageChangesUnderTheWork() {
        ImageBuilder image;
        for (const auto* name : {"baseline-420.jpg", "simple.mp4", "stereo.wav"})
            image.add(mediaFile(QString::fromLatin1(name)));
        auto damaged = mediaFile(QStringLiteral("baseline-422.jpg"));
        const auto noise = randomBytes(60000, 3);
        std::copy(noise.begin(), noise.end(), damaged.begin() + 200000);
        image.addGap(8192);
        image.add(damaged);
        const auto card = dir_.filePath(QStringLiteral("BENCH-02.img"));
        image.write(card);

        text::choose(QStringLiteral("en"));
        MainWindow window;
        window.show();
        QVERIFY(menuTitles(window).contains(QStringLiteral("&Card")));
        window.openSource(card);
        QVERIFY(QTest::qWaitFor([&] { return window.job() != nullptr; }, 60000));
        window.job()->startSearch();
        QVERIFY(QTest::qWaitFor(
            [&] { return window.job()->feed().overview().progress.state == ScanState::Finished; }, 120000));
        QTest::qWait(400);
        const auto session = window.job()->feed().sharedSession();
        const auto chosen = window.job()->sheet().shownIds().back();
        window.job()->sheet().setCurrent(chosen);
        QTest::keyClicks(window.job()->findField(), QStringLiteral(">1kb"));
        QTest::keyClicks(&window.job()->asked().field(), QStringLiteral("the wheel"));
        window.job()->tray().setDestination(dir_.filePath(QStringLiteral("out")));
        QTest::qWait(300);

        const auto choose = [&](const QString& name) {
            for (auto* action : window.findChildren<QAction*>()) {
                if (action->text() == name) return action->trigger();
            }
            qFatal("no such language in the menu");
        };
        choose(QStringLiteral("Deutsch"));
        QTRY_VERIFY(menuTitles(window).contains(QStringLiteral("&Karte")));
        auto* job = window.job();
        QVERIFY(job != nullptr && job->feed().sharedSession() == session);
        QCOMPARE(job->findField()->text(), QStringLiteral(">1kb"));
        QCOMPARE(job->asked().field().text(), QStringLiteral("the wheel"));
        QCOMPARE(job->tray().destination(), dir_.filePath(QStringLiteral("out")));
        QTRY_COMPARE(job->sheet().current(), chosen);
        QCOMPARE(job->choices().narrowButton()->text(), QStringLiteral("einengen"));
        QVERIFY(job->feed().sentence().startsWith(QStringLiteral("Suche fertig: 4 Dateien")) ||
                job->feed().sentence().startsWith(QStringLiteral("Suche fertig: 5 Dateien")));
        // Why files are what they are is told in that language, too.
        std::size_t reasons = 0;
        for (const auto& finding : job->feed().files()) {
            auto told = finding->notes;
            if (!finding->why.empty()) told.push_back(finding->why);
            for (const auto& join : finding->joins) told.push_back(join.why);
            for (const auto& each : told) {
                ++reasons;
                QVERIFY2(Text::ofCore(each) != QString::fromStdString(each), each.c_str());
            }
        }
        QVERIFY(reasons > 0);
        choose(QStringLiteral("English"));
        QTRY_VERIFY(menuTitles(window).contains(QStringLiteral("&Card")));
        QCOMPARE(window.job()->choices().narrowButton()->text(), QStringLiteral("narrow"));
    }
};

QTEST_MAIN(TestLanguages)
#include "test_languages.moc"
