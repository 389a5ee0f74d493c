// Holds docs/architecture.md true: who may know whom, and that every target and format is described.
#include <QDirIterator>
#include <QFile>
#include <QRegularExpression>
#include <QTest>

#include "formats/registry.h"

using namespace dreskel;

class TestArchitecture : public QObject {
    Q_OBJECT

    static QString text(const QString& path) {
        QFile file(path);
        if (!file.open(QIODevice::ReadOnly)) qFatal("cannot read %s", qPrintable(path));
        return QString::fromUtf8(file.readAll());
    }
    static QString root() { return QStringLiteral(DRESKEL_SOURCE); }

  private Q_SLOTS:
    void aPartKnowsOnlyThoseAboveIt() {
        const QStringList order{"base", "source",  "copy", "volume",  "formats", "media",
                                "job",  "rebuild", "scan", "deliver", "session"};
        const QRegularExpression include(QStringLiteral("#include \"(\\w+)/"));
        int checked = 0;
        for (const auto& part : order) {
            QDirIterator files(root() + QStringLiteral("/core/") + part, {"*.h", "*.cpp"}, QDir::Files,
                               QDirIterator::Subdirectories);
            while (files.hasNext()) {
                const auto path = files.next();
                auto matches = include.globalMatch(text(path));
                while (matches.hasNext()) {
                    const auto used = matches.next().captured(1);
                    QVERIFY2(order.contains(used), qPrintable(path + " includes " + used));
                    QVERIFY2(order.indexOf(used) <= order.indexOf(part),
                             qPrintable(path + " includes " + used));
                    ++checked;
                }
            }
        }
        QVERIFY(checked > 50);
    }
    void theCoreKnowsNoScreen() {
        QDirIterator files(root() + QStringLiteral("/core"), {"*.h", "*.cpp", "CMakeLists.txt"}, QDir::Files,
                           QDirIterator::Subdirectories);
        while (files.hasNext()) {
            const auto path = files.next();
            const auto content = text(path);
            QVERIFY2(!content.contains(QRegularExpression(QStringLiteral("#include <Q[A-Z]"))) &&
                         !content.contains("Qt6"),
                     qPrintable(path));
        }
    }
    void nothingOpensASourceForWriting() {
        QDirIterator files(root() + QStringLiteral("/core/source"), {"*.cpp"}, QDir::Files,
                           QDirIterator::Subdirectories);
        while (files.hasNext()) {
            const auto path = files.next();
            QVERIFY2(!text(path).contains(QRegularExpression(QStringLiteral(
                         "O_RDWR|O_WRONLY|O_CREAT|pwrite|::write\\(|ftruncate|ofstream|fopen"))),
                     qPrintable(path));
        }
    }
    void everyPartAndFormatIsDescribed() {
        const auto map = text(root() + QStringLiteral("/docs/architecture.md"));
        for (const auto* part : {"base", "source", "copy", "volume", "formats", "media", "job", "rebuild",
                                 "scan", "deliver", "session"}) {
            QVERIFY2(map.contains(QStringLiteral("`core/%1`").arg(part)), part);
        }
        const auto formats = text(root() + QStringLiteral("/docs/formats.md"));
        for (const auto* family : allFormats()) {
            for (const auto name : family->formats()) {
                QVERIFY2(formats.contains(QStringLiteral("`%1`").arg(
                             QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size())))),
                         name.data());
            }
        }
    }
};

QTEST_GUILESS_MAIN(TestArchitecture)
#include "test_architecture.moc"
