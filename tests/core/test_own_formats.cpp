// Formats of the technician's own: what can be used and what is refused, what is learnt from samples, and
// what is found with it on a card.
#include <QTemporaryDir>
#include <QTest>

#include "formats/registry.h"
#include "session/own_formats.h"
#include "session/session.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// A make of files of its own: a mark, a version, a date that differs, data, and an end that says where it was
// made.
Buffer whl(unsigned number, std::size_t size) {
    auto file = randomBytes(size, 900 + number);
    const std::string mark("WHEEL\0\x02\x01halden", 14);
    std::copy(mark.begin(), mark.end(), file.begin());
    for (std::size_t i = 14; i < 24; ++i) file[i] = static_cast<std::uint8_t>(number * 31 + i * number);
    const std::string lens("lens 24 mm");
    std::copy(lens.begin(), lens.end(), file.begin() + 200);
    const std::string end("LEEHW\x02\x01");
    std::copy(end.begin(), end.end(), file.end() - static_cast<std::ptrdiff_t>(end.size()));
    return file;
}

std::string definitionText(const std::string& body) {
    return "{\n \"schema\": 1,\n \"formats\": [\n" + body + "\n ]\n}\n";
}

const std::string kGood =
    R"(  {"name": "whl", "kind": "photo", "extension": "whl", "begins": [{"at": 0, "bytes": "57 48 45 45 4c ?? 02"}],
    "ends": "4c 45 45 48 57 02 01", "most_bytes": 4000000})";

}  // namespace

class TestOwnFormats : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    QString samples(int count, std::vector<std::string>& paths) {
        for (int i = 0; i < count; ++i) {
            const auto path = dir_.filePath(QStringLiteral("SAMPLE%1.WHL").arg(i));
            writeFile(path, whl(static_cast<unsigned>(i) + 1, 40000 + 7777 * static_cast<std::size_t>(i)));
            paths.push_back(path.toStdString());
        }
        return dir_.path();
    }

  private Q_SLOTS:
    void initTestCase() { qputenv("XDG_CONFIG_HOME", dir_.filePath(QStringLiteral("config")).toLocal8Bit()); }
    void cleanup() { setOwnFormats({}); }
    void whatIsWrongIsToldWithItsLine_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("line");
        QTest::addColumn<QString>("reason");
        const auto row = [](const char* name, const std::string& text, const char* line, const char* reason) {
            QTest::newRow(name) << QString::fromStdString(text) << QString::fromLatin1(line)
                                << QString::fromLatin1(reason);
        };
        const auto with = [](std::string what, const std::string& from, const std::string& to) {
            what.replace(what.find(from), from.size(), to);
            return what;
        };
        row("no JSON", "{\n \"schema\": 1,\n \"formats\": [ {,} ]\n}", "Line 3", "no JSON");
        row("a number without bounds", "{\"schema\": 1e999, \"formats\": []}", "Line 1", "bounds");
        row("another schema", "{\"schema\": 2, \"formats\": []}", "Line 1", "schema");
        row("a name that is known", definitionText(with(kGood, "\"whl\"", "\"jpeg\"")), "Line 4",
            "known already");
        row("a name with spaces", definitionText(with(kGood, "\"whl\"", "\"w h\"")), "Line 4", "lower-case");
        row("no kind", definitionText(with(kGood, "photo", "picture")), "Line 4", "kind");
        row("no hexadecimal", definitionText(with(kGood, "57 48", "5x 48")), "Line 4", "begins");
        row("half a byte", definitionText(with(kGood, "57 48", "57 4")), "Line 4", "begins");
        row("too little", definitionText(with(kGood, "57 48 45 45 4c ?? 02", "57 48 ?? 00")), "Line 4",
            "by chance");
        row("too far in", definitionText(with(kGood, "\"at\": 0", "\"at\": 4095")), "Line 4", "4096");
        row("overflowing", definitionText(with(kGood, "\"at\": 0", "\"at\": 18446744073709551615")), "Line 4",
            "4096");
        row("no size", definitionText(with(kGood, "4000000", "0")), "Line 4", "most_bytes");
        row("a key that means nothing", definitionText(with(kGood, "\"ends\"", "\"end\"")), "Line 5",
            "\"end\"");
        row("twice", definitionText(kGood + ",\n" + kGood), "Line 6", "twice");
    }
    void whatIsWrongIsToldWithItsLine() {
        QFETCH(QString, text);
        QFETCH(QString, line);
        QFETCH(QString, reason);
        const auto read = own::definitionsFrom(text.toStdString(), "formats.json");
        QVERIFY(!read.ok());
        const auto said = QString::fromStdString(read.error().what);
        // Where a whole format is meant it is the line that the format begins in.
        QVERIFY2(said.startsWith(line + QLatin1Char(':')) || reason == "\"end\"", qPrintable(said));
        QVERIFY2(said.contains(reason), qPrintable(said));
        QCOMPARE(read.error().where, std::string("formats.json"));
    }
    void whatIsWrittenReadsBackTheSame() {
        const auto read = own::definitionsFrom(definitionText(kGood), "");
        QVERIFY(read.ok());
        const auto again = own::definitionsFrom(own::textOf(read.value()), "");
        QVERIFY(again.ok());
        QVERIFY(again.value() == read.value());
        QCOMPARE(own::toText(read.value()[0].begins[0]), std::string("57 48 45 45 4c ?? 02"));
        const auto path = dir_.filePath(QStringLiteral("deep/formats.json")).toStdString();
        QVERIFY(own::writeDefinitions(path, read.value()).ok());
        QVERIFY(own::readDefinitions(path).value() == read.value());
        QVERIFY(own::readDefinitions(path + ".none").value().empty());
        QVERIFY(!own::writeDefinitions("/proc/formats.json", read.value()).ok());
    }
    void learnsWhatSamplesHaveInCommon() {
        std::vector<std::string> paths;
        samples(3, paths);
        const auto learnt = learnFrom(paths, "whl", Kind::Photo);
        QVERIFY2(learnt.ok(), learnt.ok() ? "" : learnt.error().sentence().c_str());
        const auto& found = learnt.value();
        QCOMPARE(found.extension, std::string("whl"));
        QVERIFY(found.ends.has_value());
        QVERIFY(own::toText(*found.ends).ends_with("4c 45 45 48 57 02 01"));
        QCOMPARE(found.begins[0].at, std::uint64_t{0});
        // A fourth file of that make fits, a photo of another does not.
        const auto format = own::makeFormat(found);
        QVERIFY(format->matches(Bytes(whl(77, 50000)).first(4096)));
        QVERIFY(!format->matches(Bytes(mediaFile(QStringLiteral("fine.jpg"))).first(4096)));
        QVERIFY(found.mostBytes > 40000 + 2 * 7777);
    }
    void refusesWhatHasNothingInCommon() {
        std::vector<std::string> paths;
        samples(1, paths);
        QCOMPARE(learnFrom(paths, "whl", Kind::Photo).error().fault, Fault::Usage);
        for (unsigned i = 0; i < 3; ++i) {
            const auto path = dir_.filePath(QStringLiteral("noise%1.bin").arg(i));
            writeFile(path, randomBytes(9000, i));
            paths.push_back(path.toStdString());
        }
        QVERIFY(!learnFrom({paths[1], paths[2], paths[3]}, "whl", Kind::Photo).ok());
        const auto photo = dir_.filePath(QStringLiteral("a.jpg"));
        writeFile(photo, mediaFile(QStringLiteral("fine.jpg")));
        const auto known = learnFrom({photo.toStdString(), photo.toStdString()}, "whl", Kind::Photo);
        QVERIFY(known.error().what.find("jpeg") != std::string::npos);
        QVERIFY(!learnFrom({"/nowhere/a.whl", photo.toStdString()}, "whl", Kind::Photo).ok());
    }
    void findsItsFilesOnACard() {
        std::vector<std::string> paths;
        samples(2, paths);
        auto learnt = learnFrom(paths, "whl", Kind::Photo).value();
        ImageBuilder image;
        std::vector<std::pair<std::uint64_t, std::size_t>> placed;
        for (unsigned i = 0; i < 6; ++i) {
            image.add(mediaFile(QStringLiteral("fine.jpg")));
            auto file = whl(50 + i, 60000 + 999 * i);
            // With a preview inside, which is the file's own.
            const auto preview = mediaFile(QStringLiteral("fine.jpg"));
            if (i == 3) file.insert(file.begin() + 1024, preview.begin(), preview.end());
            placed.emplace_back(image.add(file), file.size());
            image.addGap(8192);
        }
        const auto card = dir_.filePath(QStringLiteral("card.img"));
        image.write(card);
        const auto source = openSource(card.toStdString()).value();
        Control control;
        const auto trial = tryOn(*source, learnt, control);
        QCOMPARE(trial.begins, std::uint64_t{6});
        QVERIFY(trial.clashes.empty());
        QCOMPARE(trial.first[0], placed[0].first);
        // One that means every JPEG says so.
        const auto photos = own::definitionsFrom(
            definitionText(R"({"name": "all", "kind": "photo", "extension": "all", "begins":
                [{"at": 0, "bytes": "ff d8 ff e0 00 10 4a 46"}], "most_bytes": 100000})"),
            "");
        // The preview too.
        QCOMPARE(tryOn(*source, photos.value()[0], control).clashes.at("jpeg"), std::uint64_t{7});

        QVERIFY(keepOwnFormat(learnt).ok());
        const auto session =
            Session::open(card.toStdString(), dir_.filePath(QStringLiteral("job")).toStdString()).value();
        session->startScan({});
        QVERIFY(session->wait().ok());
        std::size_t found = 0;
        std::size_t photosFound = 0;
        for (const auto& file : session->listed()) {
            photosFound += file.format == "jpeg" ? 1 : 0;
            if (file.format != "whl") continue;
            const auto place = std::find_if(placed.begin(), placed.end(),
                                            [&](const auto& one) { return one.first == file.start(); });
            QVERIFY(place != placed.end());
            QCOMPARE(file.size(), std::uint64_t{place->second});
            QVERIFY(file.condition == Condition::Unchecked);
            ++found;
        }
        QCOMPARE(found, placed.size());
        QCOMPARE(photosFound, placed.size());  // the preview is not one of them
        QVERIFY(dropOwnFormat("whl").ok());
        QVERIFY(formatFor("whl") == nullptr);
    }
    void withoutAnEndItStopsAtTheNextFile() {
        auto made = own::definitionsFrom(definitionText(kGood), "").value();
        made[0].ends.reset();
        setOwnFormats({own::makeFormat(made[0])});
        ImageBuilder image;
        const auto start = image.add(whl(5, 100000));
        const auto next = image.add(mediaFile(QStringLiteral("fine.jpg")));
        image.addGap(8192);
        const auto card = dir_.filePath(QStringLiteral("open.img"));
        image.write(card);
        const auto session =
            Session::open(card.toStdString(), dir_.filePath(QStringLiteral("open")).toStdString()).value();
        session->startScan({});
        QVERIFY(session->wait().ok());
        bool seen = false;
        for (const auto& file : session->listed()) {
            if (file.format != "whl") {
                QCOMPARE(file.start(), next);
                QVERIFY(file.condition == Condition::Whole);
                continue;
            }
            seen = true;
            QCOMPARE(file.start(), start);
            QCOMPARE(file.pieces.back().onCard().end(), next);
        }
        QVERIFY(seen);
    }
    void survivesAnyText() {
        std::mt19937 random(3);
        const auto good = definitionText(kGood);
        for (int round = 0; round < 3000; ++round) {
            auto text = good;
            for (int i = 0; i < 3; ++i) text[random() % text.size()] = static_cast<char>(random());
            const auto read = own::definitionsFrom(text, "");
            if (!read) continue;
            for (const auto& definition : read.value()) QVERIFY(own::faultOf(definition).empty());
        }
    }
};

QTEST_GUILESS_MAIN(TestOwnFormats)
#include "test_own_formats.moc"
