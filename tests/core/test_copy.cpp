#include <fcntl.h>
#include <sys/stat.h>
#include <QTemporaryDir>
#include <QTest>
#include <thread>

#include "copy/copier.h"
#include "session/copying.h"
#include "session/session.h"
#include "source/failing_source.h"
#include "source/mapped_source.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// Counts how often each sector was read well.
class CountingSource : public Source {
  public:
    CountingSource(std::shared_ptr<Source> under, std::vector<std::uint32_t>& counts)
        : under_(std::move(under)), counts_(counts) {
        counts_.resize(static_cast<std::size_t>(under_->size() / 512));
    }
    std::uint64_t size() const override { return under_->size(); }
    std::uint32_t sectorSize() const override { return under_->sectorSize(); }
    const std::string& path() const override { return under_->path(); }
    int descriptor() const override { return under_->descriptor(); }
    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override {
        const auto outcome = under_->read(offset, into);
        for (std::size_t at = 0; at + 512 <= outcome.count; at += 512) ++counts_[(offset + at) / 512];
        if (stopAfter && outcome.count > 0 && --*stopAfter == 0) control->stop();
        return outcome;
    }
    std::optional<int> mutable stopAfter;
    Control* control = nullptr;

  private:
    std::shared_ptr<Source> under_;
    std::vector<std::uint32_t>& counts_;
};

RangeSet setOf(const std::vector<ByteRange>& ranges) {
    RangeSet set;
    for (const auto& range : ranges) set.add(range);
    return set;
}

}  // namespace

// Copies of cards that fail in every way the simulated reader knows.
class TestCopy : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString image_;
    Buffer bytes_;
    int number_ = 0;

    std::shared_ptr<Source> plain() { return openImage(image_.toStdString(), 512).value(); }
    std::string fresh() { return dir_.filePath(QStringLiteral("copy-%1.img").arg(++number_)).toStdString(); }
    Result<std::shared_ptr<Copying>> begin(std::shared_ptr<Source> card, const std::string& to,
                                           const std::string& serial = {}, CopyOptions options = {}) {
        return Copying::begin(std::move(card), {to, {}, serial, options});
    }
    Buffer copied(const std::string& path) { return readFile(QString::fromStdString(path)); }

  private Q_SLOTS:
    void initTestCase() {
        image_ = dir_.filePath(QStringLiteral("card.img"));
        bytes_ = randomBytes(24 << 20, 11);
        std::fill(bytes_.begin() + (9 << 20), bytes_.begin() + (12 << 20), std::uint8_t{0});
        writeFile(image_, bytes_);
    }
    void copiesAHealthyCardWithItsHoles() {
        const auto to = fresh();
        auto copying = begin(plain(), to).value();
        Control control;
        QVERIFY(copying->run(control).ok());
        QVERIFY(copied(to) == bytes_);
        QCOMPARE(QString::fromStdString(copying->image().sha256()), sha256(bytes_));
        struct stat facts {};
        QCOMPARE(::stat(to.c_str(), &facts), 0);
        // 3 MiB of zeros take no room.
        QVERIFY(static_cast<std::uint64_t>(facts.st_blocks) * 512 <= bytes_.size() - (2U << 20));
        QVERIFY(verifyCopy(to, mapPathFor(to), control).ok());
        auto changed = copied(to);
        changed[5000000] ^= 1;
        writeFile(QString::fromStdString(to), changed);
        const auto verdict = verifyCopy(to, mapPathFor(to), control);
        QVERIFY(!verdict.ok() && verdict.error().fault == Fault::Failed);
    }
    void readsEverythingReadableOnceThroughStops() {
        std::mt19937 random(7);
        std::vector<ByteRange> bad;
        for (int i = 0; i < 30; ++i)
            bad.push_back({random() % (bytes_.size() / 512) * 512, 512 * (1 + random() % 3)});
        auto expected = setOf(bad);
        const auto to = fresh();
        std::vector<std::uint32_t> counts;
        Status outcome = Done{};
        int rounds = 0;
        do {
            auto card =
                std::make_shared<CountingSource>(std::make_shared<FailingSource>(plain(), expected), counts);
            Control control;
            card->control = &control;
            if (rounds < 3) card->stopAfter = 2 + static_cast<int>(random() % 3);
            auto copying = begin(card, to);
            QVERIFY2(copying.ok(), copying.ok() ? "" : copying.error().sentence().c_str());
            outcome = copying.value()->run(control);
        } while (++rounds < 8 && !outcome && outcome.error().fault == Fault::Interrupted);
        QVERIFY(outcome.ok());
        QVERIFY(rounds >= 4);
        const auto map = readMap(mapPathFor(to)).value().map;
        QVERIFY(setOf(map->unread({0, map->size()})).ranges() == expected.ranges());
        const auto copy = copied(to);
        std::size_t twice = 0;
        for (std::size_t sector = 0; sector < counts.size(); ++sector) {
            if (expected.contains(sector * 512)) continue;
            QVERIFY(std::equal(copy.begin() + static_cast<std::ptrdiff_t>(sector * 512),
                               copy.begin() + static_cast<std::ptrdiff_t>(sector * 512 + 512),
                               bytes_.begin() + static_cast<std::ptrdiff_t>(sector * 512)));
            QVERIFY(counts[sector] >= 1);
            twice += counts[sector] > 1 ? 1 : 0;
        }
        // Only what tells whether it is the same card, and still there.
        QVERIFY2(twice <= 40, qPrintable(QString::number(twice)));
    }
    void getsWhatComesAtALaterTry() {
        ReaderPlan plan;
        plan.faults.push_back({{1 << 20, 512}, ReaderFault::Does::Fail, 4, 0});
        plan.faults.push_back({{5 << 20, 512}, ReaderFault::Does::Fail, -1, 0});
        const auto to = fresh();
        CopyOptions options;
        options.laterTries = 4;
        auto copying = begin(std::make_shared<FailingSource>(plain(), plan), to, {}, options).value();
        Control control;
        QVERIFY(copying->run(control).ok());
        const auto map = readMap(mapPathFor(to)).value().map;
        const auto left = map->cells(Tried::Failed, {0, map->size()});
        QCOMPARE(left.size(), std::size_t{1});
        QCOMPARE(left[0].range, (ByteRange{5 << 20, 512}));
        QCOMPARE(left[0].tries, 5);
    }
    void leavesWhatStallsForLast() {
        ReaderPlan plan;
        plan.faults.push_back({{4 << 20, 512}, ReaderFault::Does::Stall, 1, 0.4});
        plan.record = dir_.filePath(QStringLiteral("reads.txt")).toStdString();
        CopyOptions options;
        options.stallSeconds = 0.2;
        const auto to = fresh();
        auto copying = begin(std::make_shared<FailingSource>(plain(), plan), to, {}, options).value();
        Control control;
        QVERIFY(copying->run(control).ok());
        QVERIFY(copied(to) == bytes_);
        // The portion behind the stall came after the last one of the card.
        const auto lines = readFile(QString::fromStdString(plan.record));
        const QByteArray text(reinterpret_cast<const char*>(lines.data()),
                              static_cast<qsizetype>(lines.size()));
        QVERIFY(text.indexOf("\n8388608 65536 ok") > text.indexOf("\n20971520 4194304 ok"));
    }
    void goesOnAfterTheCardWentAway() {
        auto plan = ReaderPlan{};
        plan.vanishAfter = 8 << 20;
        const auto to = fresh();
        auto first = begin(std::make_shared<FailingSource>(plain(), plan), to, "A1").value();
        Control control;
        const auto lost = first->run(control);
        QVERIFY(!lost.ok() && lost.error().fault == Fault::Failed);
        QVERIFY(lost.error().what.find("gone away") != std::string::npos);
        // Nothing is called failed because the card was not there.
        QCOMPARE(first->image().map().total(Tried::Failed), std::uint64_t{0});
        QCOMPARE(first->image().map().total(Tried::Waiting), std::uint64_t{0});
        QCOMPARE(first->image().map().total(Tried::Read), std::uint64_t{8 << 20});
        first.reset();

        // Another card of the same size is refused by its serial number, and without one by what is on it.
        const auto other = dir_.filePath(QStringLiteral("other.img"));
        writeFile(other, randomBytes(bytes_.size(), 99));
        const auto before = copied(to);
        const auto bySerial = begin(plain(), to, "B2");
        QVERIFY(!bySerial.ok() && bySerial.error().fault == Fault::DestinationRefused);
        const auto byContent = begin(openImage(other.toStdString(), 512).value(), to, "A1");
        QVERIFY(!byContent.ok() && byContent.error().fault == Fault::DestinationRefused);
        QVERIFY(copied(to) == before);

        // Under another name it is recognised.
        const auto moved = dir_.filePath(QStringLiteral("moved.img"));
        writeFile(moved, bytes_);
        auto again = begin(openImage(moved.toStdString(), 512).value(), to, "A1");
        QVERIFY(again.ok());
        QVERIFY(again.value()->recognised().find("same contents") != std::string::npos);
        QVERIFY(again.value()->recognised().find("before at") != std::string::npos);
        QVERIFY(again.value()->run(control).ok());
        QVERIFY(copied(to) == bytes_);
    }
    void noticesACardThatAnswersWithErrorsOnly() {
        // Some readers say "error" for a card that was pulled out, not "gone".
        class Pulled : public Source {
          public:
            explicit Pulled(std::shared_ptr<Source> under) : under_(std::move(under)) {}
            std::uint64_t size() const override { return under_->size(); }
            std::uint32_t sectorSize() const override { return 512; }
            const std::string& path() const override { return under_->path(); }
            int descriptor() const override { return under_->descriptor(); }
            ReadOutcome read(std::uint64_t offset, MutableBytes into) const override {
                if (reads_++ >= 2) return {0, EIO};
                return under_->read(offset, into);
            }
            mutable std::atomic<int> reads_{0};
            std::shared_ptr<Source> under_;
        };
        const auto to = fresh();
        auto copying = begin(std::make_shared<Pulled>(plain()), to).value();
        Control control;
        const auto lost = copying->run(control);
        QVERIFY(!lost.ok());
        QCOMPARE(copying->image().map().total(Tried::Failed), std::uint64_t{0});
        QCOMPARE(copying->image().map().total(Tried::Waiting), std::uint64_t{0});
    }
    void keepsToItsTimeOnBadPlaces() {
        CopyOptions options;
        options.minutesOver = 1e-9;
        const auto to = fresh();
        auto copying =
            begin(std::make_shared<FailingSource>(plain(), setOf({{2 << 20, 1 << 20}})), to, {}, options)
                .value();
        Control control;
        QVERIFY(copying->run(control).ok());
        const auto& map = copying->image().map();
        QVERIFY(map.total(Tried::Waiting) > 0);
        QCOMPARE(map.total(Tried::Read) + map.total(Tried::Waiting) + map.total(Tried::Failed),
                 bytes_.size());
    }
    void copiesASpanToItsOwnPlace() {
        CopyOptions options;
        options.span = {3 << 20, 2 << 20};
        const auto to = fresh();
        auto copying = begin(plain(), to, {}, options).value();
        Control control;
        QVERIFY(copying->run(control).ok());
        const auto copy = copied(to);
        QCOMPARE(copy.size(), bytes_.size());
        QVERIFY(std::equal(copy.begin() + (3 << 20), copy.begin() + (5 << 20), bytes_.begin() + (3 << 20)));
        QCOMPARE(copying->image().map().total(Tried::Untried), bytes_.size() - (2U << 20));
    }
    void refusesWhatItWouldDestroy() {
        const auto taken = dir_.filePath(QStringLiteral("taken.img"));
        writeFile(taken, randomBytes(1000, 1));
        const auto there = begin(plain(), taken.toStdString());
        QVERIFY(!there.ok() && there.error().fault == Fault::DestinationRefused);
        QCOMPARE(readFile(taken).size(), std::size_t{1000});
        const auto nowhere = begin(plain(), dir_.filePath(QStringLiteral("no/such/x.img")).toStdString());
        QVERIFY(!nowhere.ok() && nowhere.error().fault == Fault::DestinationRefused);
        // One copy by two at once.
        const auto to = fresh();
        auto one = begin(plain(), to);
        QVERIFY(one.ok());
        QVERIFY(!begin(plain(), to).ok());
    }
    void refusesACardTooLargeForTheRoom() {
        class Huge : public Source {
          public:
            explicit Huge(std::shared_ptr<Source> under) : under_(std::move(under)) {}
            std::uint64_t size() const override { return 1ULL << 50; }
            std::uint32_t sectorSize() const override { return 512; }
            const std::string& path() const override { return under_->path(); }
            int descriptor() const override { return under_->descriptor(); }
            ReadOutcome read(std::uint64_t, MutableBytes) const override { return {}; }
            std::shared_ptr<Source> under_;
        };
        const auto to = fresh();
        const auto refused = begin(std::make_shared<Huge>(plain()), to);
        QVERIFY(!refused.ok() && refused.error().fault == Fault::DestinationRefused);
        QVERIFY(!QFile::exists(QString::fromStdString(to)));
    }
    void neverTakesAHoleForData() {
        const auto to = fresh();
        auto copying = begin(std::make_shared<FailingSource>(plain(), setOf({{1 << 20, 4096}})), to).value();
        Control control;
        QVERIFY(copying->run(control).ok());
        const auto source = openSource(to);  // the map lies beside it
        QVERIFY(source.ok());
        Buffer part(8192);
        const auto outcome = source.value()->read((1 << 20) - 4096, part);
        QCOMPARE(outcome.count, std::size_t{4096});
        QCOMPARE(outcome.error, EIO);
    }
    void mapsSurviveWhatIsDoneToThem() {
        CopyMap map(1 << 20);
        std::mt19937 random(3);
        std::vector<Tried> truth(2048, Tried::Untried);
        for (int i = 0; i < 3000; ++i) {
            const auto from = random() % 2048;
            const auto length = 1 + random() % 64;
            const auto state = static_cast<Tried>(random() % kTriedStates);
            map.set({from * 512ULL, length * 512ULL}, state);
            for (auto at = from; at < std::min<std::size_t>(2048, from + length); ++at) truth[at] = state;
        }
        std::uint64_t end = 0;
        for (const auto& cell : map.cells()) {
            QCOMPARE(cell.range.offset, end);
            end = cell.range.end();
            for (auto at = cell.range.offset / 512; at < cell.range.end() / 512; ++at)
                QVERIFY(truth[static_cast<std::size_t>(at)] == cell.state);
        }
        QCOMPARE(end, map.size());
        for (std::size_t state = 0; state < kTriedStates; ++state) {
            QCOMPARE(map.total(static_cast<Tried>(state)),
                     static_cast<std::uint64_t>(
                         std::count(truth.begin(), truth.end(), static_cast<Tried>(state))) *
                         512);
        }
    }
    void readsMapsAsTextAndNamesTheBadLine() {
        const auto path = dir_.filePath(QStringLiteral("text.map"));
        const auto with = [&](const char* text) {
            QFile file(path);
            if (!file.open(QIODevice::WriteOnly)) qFatal("no file");
            file.write(text);
            file.close();
            return readMap(path.toStdString());
        };
        const auto good = with(
            "dreskel-map 1\npath /dev/sdx\nserial A 1\nsize 8192\nsector 512\n# a remark\nread 0 4096\n"
            "failed 4096 512 3\nread 4608 99");  // torn in the middle of a number
        QVERIFY(good.ok());
        QCOMPARE(good.value().card.serial, std::string("A 1"));
        QCOMPARE(good.value().map->total(Tried::Read), std::uint64_t{4096});
        QCOMPARE(good.value().map->cells(Tried::Failed, {0, 8192})[0].tries, 3);
        const auto bad = with("dreskel-map 1\nsize 8192\nsector 512\nread 0 4096\nlost 4096 512\n");
        QVERIFY(!bad.ok());
        QVERIFY(bad.error().where.find("line 5") != std::string::npos);
        for (const auto* text :
             {"", "something else\n", "dreskel-map 1\n", "dreskel-map 1\nread 0 512\nsize 10\n",
              "dreskel-map 1\nsize 8192\nread 8000 18446744073709551615\n",
              "dreskel-map 1\nsize 8192\nsector 0\n", "dreskel-map 1\nsize 8192\nsize 4096\n",
              "dreskel-map 1\nsize 8192\nread -1 5\n"})
            QVERIFY2(!with(text).ok(), text);
    }
    void recipesAreReadOrRefused() {
        const auto path = dir_.filePath(QStringLiteral("x.reader.json"));
        const auto with = [&](const char* text) {
            QFile file(path);
            if (!file.open(QIODevice::WriteOnly)) qFatal("no file");
            file.write(text);
            file.close();
            return openSource(path.toStdString());
        };
        const auto good = with(
            R"({"simulated_reader": {"image": "card.img", "faults": [{"at": 512, "length": 512, "does": "fail"}]}})");
        QVERIFY(good.ok());
        Buffer sector(512);
        QCOMPARE(good.value()->read(512, sector).error, EIO);
        QCOMPARE(good.value()->read(1024, sector).count, std::size_t{512});
        for (
            const auto* text :
            {R"({"simulated_reader": {"image": "nowhere.img"}})", R"({"simulated_reader": {}})",
             R"({"simulated_reader": {"image": "card.img", "faults": [{"at": 0, "length": 5, "does": "sing"}]}})",
             R"({"simulated_reader": {"image": "card.img", "faults": [{"at": -7}]}})"}) {
            const auto refused = with(text);
            QVERIFY2(!refused.ok() && refused.error().fault == Fault::SourceUnusable, text);
        }
    }
    // The search on top of the copy: everything is read once, and the answer is that of a search of the card.
    void searchesFromTheSameRead() {
        ImageBuilder builder;
        std::map<std::uint64_t, Buffer> placed;
        for (const auto& name : mediaNames()) {
            const auto bytes = mediaFile(name);
            if (bytes.size() < 3000 || bytes.size() > 4000000) continue;
            placed[builder.add(bytes)] = bytes;
            builder.addGap(12288);
        }
        const auto path = dir_.filePath(QStringLiteral("media.img"));
        builder.write(path);
        auto hit = placed.begin();
        while (hit->second.size() < 20000)
            ++hit;  // a place that comes only at a later try, in the middle of a file
        ReaderPlan plan;
        plan.faults.push_back(
            {{(hit->first + hit->second.size() / 2) / 512 * 512, 512}, ReaderFault::Does::Fail, 3, 0});
        std::vector<std::uint32_t> counts;
        auto card = std::make_shared<CountingSource>(
            std::make_shared<FailingSource>(openImage(path.toStdString(), 512).value(), plan), counts);
        const auto to = fresh();
        const auto job = dir_.filePath(QStringLiteral("job")).toStdString();
        auto session = Session::openCopying(card, {to, {}, {}, {}}, job);
        QVERIFY2(session.ok(), session.ok() ? "" : session.error().sentence().c_str());
        session.value()->startScan({});
        const auto outcome = session.value()->wait();
        QVERIFY2(outcome.ok(), outcome.ok() ? "" : outcome.error().sentence().c_str());
        QVERIFY(copied(to) == builder.bytes());
        for (std::size_t i = 0; i + 1 < counts.size(); ++i)
            QVERIFY2(counts[i] == 1, qPrintable(QString::number(i)));
        QCOMPARE(session.value()->overview().progress.unreadable, std::uint64_t{0});
        std::map<std::uint64_t, Finding> found;
        for (const auto& finding : session.value()->listed()) found[finding.start()] = finding;
        for (const auto& [offset, bytes] : placed) {
            QVERIFY2(found.count(offset) == 1, qPrintable(QString::number(offset)));
            const auto& file = found[offset];
            QVERIFY2(file.condition == Condition::Whole,
                     (file.format + " is not whole: " + file.why).c_str());
            QCOMPARE(file.size(), bytes.size());
        }
        // The job belongs to the copy from now on; the card is not needed to go on.
        session.value().reset();
        card.reset();
        const auto later = Session::open(std::string(), job);
        QVERIFY(later.ok());
        QCOMPARE(later.value()->source()->path(), to);
    }
};

QTEST_GUILESS_MAIN(TestCopy)
#include "test_copy.moc"
