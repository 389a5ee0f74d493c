#include <QTemporaryDir>
#include <QTest>

#include <condition_variable>
#include <set>

#include "scan/examiner.h"
#include "scan/scanner.h"
#include "source/failing_source.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

class Listener : public ScanListener {
  public:
    void onFindings(const std::vector<Finding>& changed) override {
        for (const auto& finding : changed) {
            latest[finding.id] = finding;
            if (finding.listed()) shown.insert(finding.start());
        }
    }
    void onProgress(const ScanProgress& progress) override {
        last = progress;
        if (stopAt > 0 && progress.position >= stopAt) control->stop();
    }
    std::map<std::int64_t, Finding> latest;
    std::set<std::uint64_t> shown;  // where what was listed at any time begins
    ScanProgress last;
    std::uint64_t stopAt = 0;
    Control* control = nullptr;
};

// Gives nothing until it is let go.
class SlowSource : public Source {
  public:
    explicit SlowSource(std::shared_ptr<Source> source) : source_(std::move(source)) {}
    std::uint64_t size() const override { return source_->size(); }
    std::uint32_t sectorSize() const override { return source_->sectorSize(); }
    const std::string& path() const override { return source_->path(); }
    int descriptor() const override { return source_->descriptor(); }
    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override {
        std::unique_lock lock(mutex_);
        asked_ = true;
        changed_.notify_all();
        changed_.wait(lock, [&] { return letGo_; });
        return source_->read(offset, into);
    }
    void waitUntilAsked() const {
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [&] { return asked_; });
    }
    void letGo() {
        const std::lock_guard lock(mutex_);
        letGo_ = true;
        changed_.notify_all();
    }

  private:
    std::shared_ptr<Source> source_;
    mutable std::mutex mutex_;
    mutable std::condition_variable changed_;
    mutable bool asked_ = false;
    bool letGo_ = false;
};

}  // namespace

class TestScan : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;

    struct Placed {
        QString name;
        std::uint64_t offset;
        Buffer bytes;
    };
    struct Outcome {
        Status status = Done{};
        std::vector<Finding> findings;
        std::vector<ByteRange> unreadable;
        std::set<std::uint64_t> shown;
    };

    QString fresh(const QString& what) {
        return dir_.filePath(QStringLiteral("%1-%2").arg(what).arg(++number_));
    }

    // The media, one after the other, with junk between them.
    std::vector<Placed> build(const QString& path, const QStringList& names = mediaNames()) {
        ImageBuilder image;
        image.addNoise(100000, 1);
        std::vector<Placed> placed;
        unsigned seed = 10;
        for (const auto& name : names) {
            const auto bytes = mediaFile(name);
            placed.push_back({name, image.add(bytes), bytes});
            if (++seed % 3 == 0) image.addNoise(20000, seed);
            if (seed % 4 == 0) image.addGap(65536, seed % 8 == 0 ? 0xff : 0x00);
        }
        image.write(path);
        return placed;
    }
    static Outcome scan(const std::shared_ptr<Source>& source, const QString& folder,
                        const ScanOptions& options = {}) {
        Outcome outcome;
        auto job = Job::open(folder.toStdString(), Job::Access::Write);
        Listener listener;
        Control control;
        Scanner scanner(job.value(), source, listener);
        outcome.status = scanner.run(options, control);
        for (auto& finding : job.value()->findings()) {
            if (finding.listed()) outcome.findings.push_back(std::move(finding));
        }
        outcome.unreadable = job.value()->unreadable();
        outcome.shown = std::move(listener.shown);
        return outcome;
    }
    // Where the card counts and not what is on it: one of each kind of name.
    static QStringList someNames() {
        QStringList names;
        std::set<QString> seen;
        for (const auto& name : mediaNames()) {
            if (seen.insert(name.section(u'.', -1)).second) names << name;
        }
        for (const auto* name : {"baseline-422.jpg", "hevc.mp4"}) {
            if (!names.contains(QLatin1String(name))) names << QLatin1String(name);
        }
        return names;
    }
    static const Finding* at(const Outcome& outcome, std::uint64_t offset) {
        for (const auto& finding : outcome.findings) {
            if (finding.start() == offset) return &finding;
        }
        return nullptr;
    }
    static void compare(const Outcome& outcome, const std::vector<Placed>& placed) {
        for (const auto& file : placed) {
            const auto* finding = at(outcome, file.offset);
            QVERIFY2(finding != nullptr, qPrintable(file.name + QStringLiteral(" was not found")));
            QVERIFY2(finding->condition == Condition::Whole,
                     qPrintable(file.name + QStringLiteral(": ") + QString::fromStdString(finding->why)));
            QCOMPARE(finding->size(), static_cast<std::uint64_t>(file.bytes.size()));
            QCOMPARE(finding->pieces.size(), std::size_t{1});
        }
        QCOMPARE(outcome.findings.size(), placed.size());
    }

  private Q_SLOTS:
    // Nothing in a clip depends on what stands in a box that is left free, but a foreign cluster shows.
    void otherDataInWhatAClipLeavesBlankAreNoticed() {
        auto clip = mediaFile(QStringLiteral("h264-last.mp4"));
        const auto free = (clip.size() / 4096 + 1) * 4096;  // a border inside of the box
        const Buffer head{0, 0, 0x9c, 0x40, 'f', 'r', 'e', 'e'};
        clip.insert(clip.end(), head.begin(), head.end());
        clip.resize(clip.size() + 40000 - head.size(), 0);
        auto changed = clip;
        const auto foreign = randomBytes(8192, 2);
        std::copy(foreign.begin(), foreign.end(), changed.begin() + static_cast<std::ptrdiff_t>(free + 4096));
        auto noted = clip;  // what a maker leaves there ends anywhere
        std::fill_n(noted.end() - 39992, 5000, std::uint8_t{'n'});
        noted[noted.size() - 39000] = 'x';
        std::vector<std::uint64_t> at;
        ImageBuilder image;
        for (const auto& one : {clip, changed, noted}) {
            at.push_back(image.add(one));
            image.addGap(65536);
        }
        const auto card = fresh(QStringLiteral("blank"));
        image.write(card);
        const auto outcome = scan(openSource(card.toStdString()).value(), fresh(QStringLiteral("job")));
        QVERIFY(outcome.status.ok());
        QCOMPARE(outcome.findings.size(), std::size_t{3});
        for (const auto& finding : outcome.findings) {
            QCOMPARE(finding.size(), std::uint64_t{clip.size()});
            const bool whole = finding.start() != at[1];
            QCOMPARE(finding.condition, whole ? Condition::Whole : Condition::Partial);
            QCOMPARE(finding.evidence.why.empty(), whole);
        }
    }

    // Any bytes are samples, and the card's own blanks are, too. Of a tape every frame looks like a
    // beginning.
    void whatIsLeftOfAFileInPiecesIsNotWhole() {
        constexpr std::size_t cluster = 32768;
        ImageBuilder image(cluster);
        image.addNoise(2 * cluster, 3);
        for (const auto* name : {"picture.bmp", "apple.aiff", "apple.caf", "deep.wav"}) {
            const auto file = mediaFile(QString::fromLatin1(name));
            image.add(Buffer(file.begin(), file.begin() + 9 * cluster));
            image.addGap(file.size());
            image.addNoise(cluster, 4);
        }
        const auto tape = mediaFile(QStringLiteral("tape.dv"));
        image.add(Buffer(tape.begin() + 11 * cluster, tape.end()));
        const auto card = fresh(QStringLiteral("rest"));
        image.write(card);
        const auto outcome = scan(openSource(card.toStdString()).value(), fresh(QStringLiteral("job")));
        QVERIFY(outcome.status.ok());
        QVERIFY(outcome.findings.size() >= 5);
        for (const auto& finding : outcome.findings)
            QVERIFY2(finding.condition != Condition::Whole, finding.format.c_str());
    }

    // A table may stand anywhere in a stream. What goes on from the packets in front of it is a piece, and
    // begins with these; behind another recording, or noise, it is as whole as anyone can tell.
    void aPieceOfAStreamIsNotARecording_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<std::size_t>("packet");
        QTest::newRow("transport") << QStringLiteral("h264.ts") << std::size_t{188};
        QTest::newRow("with times") << QStringLiteral("camcorder.m2ts") << std::size_t{192};
    }
    void aPieceOfAStreamIsNotARecording() {
        QFETCH(QString, name);
        QFETCH(std::size_t, packet);
        const auto file = mediaFile(name);
        const auto prefix = packet - 188;
        // Packets of its own whose counters lead up to its first ones, or miss them by some.
        const auto leading = [&](unsigned missed) {
            std::map<unsigned, unsigned> next;  // the counter that comes behind, by stream
            const auto pidAt = [&](const Buffer& bytes, std::size_t at) {
                return (bytes[at + prefix + 1] & 0x1fU) << 8 | bytes[at + prefix + 2];
            };
            for (std::size_t at = 0; at + packet <= file.size(); at += packet)
                next.try_emplace(pidAt(file, at), file[at + prefix + 3] & 15U);
            Buffer front;
            for (std::size_t at = packet; front.size() < 60 * packet; at += packet) {
                const bool plain = (file[at + prefix + 3] & 0x30U) == 0x10;  // it tells no time
                if (plain && pidAt(file, at) >= 0x20)
                    front.insert(front.end(), file.begin() + static_cast<std::ptrdiff_t>(at),
                                 file.begin() + static_cast<std::ptrdiff_t>(at + packet));
            }
            for (std::size_t at = front.size(); at > 0;) {
                at -= packet;
                auto& counter = next[pidAt(front, at)];
                counter = (counter + 15U) & 15U;
                front[at + prefix + 3] =
                    static_cast<std::uint8_t>((front[at + prefix + 3] & 0xf0U) | ((counter + missed) & 15U));
            }
            return front;
        };
        ImageBuilder image;
        std::vector<std::uint64_t> starts;
        const auto lay = [&](const Buffer& front) {
            auto bytes = randomBytes(16384 - front.size(), static_cast<unsigned>(starts.size()));
            bytes.insert(bytes.end(), front.begin(), front.end());
            bytes.insert(bytes.end(), file.begin(), file.end());
            starts.push_back(image.add(bytes) + 16384);
            image.addGap(65536);
        };
        lay({});
        lay(leading(0));
        lay(leading(5));
        const auto card = fresh(QStringLiteral("piece"));
        image.write(card);
        const auto outcome = scan(openSource(card.toStdString()).value(), fresh(QStringLiteral("job")));
        QVERIFY(outcome.status.ok());
        const auto alone = at(outcome, starts[0]);
        const auto another = at(outcome, starts[2]);
        QVERIFY(alone != nullptr && another != nullptr);
        const auto piece = std::find_if(
            outcome.findings.begin(), outcome.findings.end(),
            [&](const auto& each) { return !each.inside && each.evidence.range.contains(starts[1]); });
        QVERIFY(piece != outcome.findings.end());
        QVERIFY(piece->start() < starts[1]);
        QCOMPARE(piece->start() + piece->size(), starts[1] + file.size());
        QCOMPARE(piece->condition, Condition::Partial);
        QCOMPARE(another->condition, alone->condition);
        const std::string missing = "its beginning was not found";
        const auto& notes = piece->notes;
        QVERIFY(piece->why.find(missing) != std::string::npos ||
                std::any_of(notes.begin(), notes.end(),
                            [&](const auto& note) { return note.find(missing) != std::string::npos; }));
        QVERIFY(another->evidence.why.find(missing) == std::string::npos);
        QCOMPARE(alone->condition, Condition::Whole);
    }

    void findsEveryContiguousFile() {
        const auto path = fresh(QStringLiteral("card"));
        const auto placed = build(path);
        const auto source = openSource(path.toStdString()).value();
        const auto before = sha256(readFile(path));
        const auto outcome = scan(source, fresh(QStringLiteral("job")));
        QVERIFY(outcome.status.ok());
        compare(outcome, placed);
        QCOMPARE(sha256(readFile(path)), before);
        const auto* clip = at(
            outcome,
            placed[static_cast<std::size_t>(mediaNames().indexOf(QStringLiteral("h264-last.mp4")))].offset);
        QCOMPARE(clip->description.width, std::optional<std::uint32_t>(640));
        QVERIFY(std::abs(clip->description.frameRate.value_or(0) - 25) < 0.01);
        QVERIFY(std::abs(clip->description.duration.value_or(0) - 4) < 0.2);
        // What lies in another file, as previews do, was not shown as a file meanwhile.
        for (const auto start : outcome.shown) {
            const auto isFile = std::any_of(placed.begin(), placed.end(),
                                            [start](const Placed& file) { return file.offset == start; });
            QVERIFY2(isFile,
                     qPrintable(QStringLiteral("shown meanwhile: what begins at byte %1").arg(start)));
        }
    }
    // The threads that gave way to the reading put back what they had in hand when others took over.
    void whatIsInHandWhenTheCardIsReadIsNotForgotten() {
        const auto path = fresh(QStringLiteral("card"));
        ImageBuilder image;
        image.add(mediaFile(QStringLiteral("baseline-422.jpg")));
        image.write(path);
        auto source = std::make_shared<SlowSource>(openSource(path.toStdString()).value());
        QVERIFY(source->size() > 1000000);
        CardView card(source);
        Control control;
        Examiner examiner(source, card, {0, source->size()}, {}, control);
        examiner.add({0, "jpeg"});
        examiner.advance(300000);
        source->waitUntilAsked();
        examiner.advance(source->size());
        std::this_thread::sleep_for(std::chrono::milliseconds(100));
        source->letGo();
        const bool done = QTest::qWaitFor([&] { return examiner.idle(); }, 20000);
        if (!done) control.stop();
        QVERIFY(done);
        QCOMPARE(examiner.take().front().measured.condition, Condition::Whole);
    }
    void strayedSignaturesGiveNothing() {
        const auto path = fresh(QStringLiteral("noise"));
        auto bytes = randomBytes(24 << 20, 99);
        const std::vector<std::string> heads{std::string("\xff\xd8\xff\xe0\x00\x10JFIF\x00\x01\x01", 13),
                                             std::string("\0\0\0\x18"
                                                         "ftypmp42",
                                                         12),
                                             std::string("RIFF\x24\x80\x00\x00WAVEfmt \x10\0\0\0", 20),
                                             std::string("\0\0\0\x08wide", 8),
                                             std::string("\xff\xd8\xff\xe1\x01\x00"
                                                         "Exif\0\0",
                                                         12),
                                             std::string("\0\0\x10\0moov\0\0\0\x6cmvhd", 16),
                                             std::string("\0\1\0\0mdat", 8)};
        for (std::size_t sector = 0; sector * 512 < bytes.size(); sector += 17) {
            const auto& head = heads[sector / 17 % heads.size()];
            std::copy(head.begin(), head.end(), bytes.begin() + static_cast<std::ptrdiff_t>(sector * 512));
        }
        writeFile(path, bytes);
        const auto outcome = scan(openSource(path.toStdString()).value(), fresh(QStringLiteral("job")));
        QVERIFY(outcome.status.ok());
        for (const auto& finding : outcome.findings)
            qWarning("%s at %llu", finding.format.c_str(), static_cast<unsigned long long>(finding.start()));
        QCOMPARE(outcome.findings.size(), std::size_t{0});
    }
    void goesOnAfterBeingStoppedAnywhere() {
        const auto path = fresh(QStringLiteral("card"));
        const auto placed = build(path, someNames());
        const auto source = openSource(path.toStdString()).value();
        const auto folder = fresh(QStringLiteral("job"));
        for (int stop = 1; stop <= 6; ++stop) {
            auto job = Job::open(folder.toStdString(), Job::Access::Write);
            Listener listener;
            Control control;
            listener.control = &control;
            listener.stopAt = source->size() * static_cast<std::uint64_t>(stop) / 7;
            Scanner scanner(job.value(), source, listener);
            const auto status = scanner.run({}, control);
            if (status.ok()) break;
            QVERIFY(status.error().fault == Fault::Interrupted);
        }
        const auto outcome = scan(source, folder);
        QVERIFY(outcome.status.ok());
        compare(outcome, placed);
        QVERIFY(scan(source, folder).status.ok());  // finished: says so and changes nothing
    }
    void stepsOverWhatCannotBeRead() {
        const auto path = fresh(QStringLiteral("card"));
        const auto names = someNames();
        const auto placed = build(path, names);
        RangeSet bad;
        // Two bad sectors inside files, a bad stretch between files, the first and the last sector.
        const auto& photo =
            placed[static_cast<std::size_t>(names.indexOf(QStringLiteral("baseline-422.jpg")))];
        const auto& clip = placed[static_cast<std::size_t>(names.indexOf(QStringLiteral("hevc.mp4")))];
        bad.add({photo.offset + 512 * 900, 512});
        bad.add({clip.offset + 512 * 200, 1024});
        bad.add({50 * 512, 8 * 512});
        const auto whole = openSource(path.toStdString()).value();
        bad.add({0, 512});
        const auto source = std::make_shared<FailingSource>(whole, bad);
        ScanOptions options;
        options.rebuild = false;  // of what is missing nothing lies elsewhere
        const auto outcome = scan(source, fresh(QStringLiteral("job")), options);
        QVERIFY(outcome.status.ok());
        RangeSet recorded;
        for (const auto& range : outcome.unreadable) recorded.add(range);
        QVERIFY(recorded.ranges() == bad.ranges());
        for (const auto& file : placed) {
            const auto* finding = at(outcome, file.offset);
            QVERIFY(finding != nullptr);
            const bool hit = bad.intersects({file.offset, file.bytes.size()});
            QCOMPARE(finding->condition == Condition::Whole, !hit);
            if (!hit) continue;
            QVERIFY(finding->condition == Condition::Partial);
            QVERIFY(finding->decoded > 0.2);
            std::uint64_t filled = 0;
            for (const auto& piece : finding->pieces)
                filled += piece.from == PieceFrom::Fill ? piece.length : 0;
            QVERIFY(filled >= 512);
        }
    }
    void looksOnlyForWhatIsAskedFor() {
        const auto path = fresh(QStringLiteral("card"));
        build(path);
        const auto source = openSource(path.toStdString()).value();
        ScanOptions options;
        options.formats = {"wav"};
        options.rebuild = false;
        const auto outcome = scan(source, fresh(QStringLiteral("job")), options);
        QCOMPARE(static_cast<qsizetype>(outcome.findings.size()), mediaNames(QStringLiteral("*.wav")).size());
        ScanOptions photos;
        photos.formats = {"jpeg"};
        photos.rebuild = false;
        // The pictures of the Motion JPEG clip and the cover are not photos of their own.
        const auto second = scan(source, fresh(QStringLiteral("job")), photos);
        QCOMPARE(static_cast<qsizetype>(second.findings.size()), mediaNames(QStringLiteral("*.jpg")).size());
    }
    void keepsToTheSpan() {
        const auto path = fresh(QStringLiteral("card"));
        const auto placed = build(path);
        const auto source = openSource(path.toStdString()).value();
        ScanOptions options;
        options.span = {placed[3].offset, placed[6].offset - placed[3].offset};
        const auto outcome = scan(source, fresh(QStringLiteral("job")), options);
        QVERIFY(outcome.status.ok());
        QCOMPARE(outcome.findings.size(), std::size_t{3});
    }
    void refusesAJobOfAnotherCard() {
        const auto a = fresh(QStringLiteral("card"));
        writeFile(a, Buffer(1 << 20, 0));
        const auto b = fresh(QStringLiteral("card"));
        writeFile(b, Buffer(2 << 20, 0));
        const auto folder = fresh(QStringLiteral("job"));
        QVERIFY(scan(openSource(a.toStdString()).value(), folder).status.ok());
        QVERIFY(!scan(openSource(b.toStdString()).value(), folder).status.ok());
    }
    void foreignClustersAreNeverCalledWhole() {
        // Each file once more with a cluster of another in its middle.
        ImageBuilder image;
        std::vector<std::pair<QString, std::uint64_t>> placed;
        const auto stranger = mediaFile(QStringLiteral("baseline-422.jpg"));
        for (const auto& name : mediaNames()) {
            if (name == QLatin1String("lossless.m4a"))
                continue;  // no check sum, and sound of any bytes: see docs/formats.md
            if (mediaFile(name).size() < 10 * 4096) continue;
            for (unsigned round = kSanitized ? 1 : 0; round < 2; ++round) {
                auto bytes = mediaFile(name);
                const auto clusters = bytes.size() / 4096;
                const auto at = static_cast<std::ptrdiff_t>((2 + (clusters - 4) * (round + 1) / 3) * 4096);
                const auto from = stranger.begin() + 4096 * static_cast<std::ptrdiff_t>(20 + 7 * round);
                if (round == 1) {
                    const auto noise = randomBytes(4096, 77);
                    std::copy(noise.begin(), noise.end(), bytes.begin() + at);
                } else {
                    std::copy(from, from + 4096, bytes.begin() + at);
                }
                placed.emplace_back(name, image.add(bytes));
                image.addGap(4096);
            }
        }
        const auto path = fresh(QStringLiteral("card"));
        image.write(path);
        // Without rebuilding: each photo is there twice, and what one lacks another has.
        ScanOptions checksOnly;
        checksOnly.rebuild = false;
        const auto outcome =
            scan(openSource(path.toStdString()).value(), fresh(QStringLiteral("job")), checksOnly);
        for (const auto& [name, offset] : placed) {
            const auto* finding = at(outcome, offset);
            if (finding == nullptr) continue;
            // A run of frames ends where they do: what is before the foreign cluster is a recording.
            if (name == QLatin1String("bare.mp3")) continue;
            const bool told = std::any_of(finding->notes.begin(), finding->notes.end(),
                                          [](const auto& note) { return note == kNothingToCheckBy; });
            if (told) continue;
            QVERIFY2(finding->condition != Condition::Whole, qPrintable(name));
            QVERIFY2(!finding->why.empty(), qPrintable(name));
        }
    }
};

QTEST_GUILESS_MAIN(TestScan)
#include "test_scan.moc"
