#include "tests/support/support.h"

#include <cstring>
#include <map>
#include <QCryptographicHash>
#include <QDir>
#include <QFile>
#include <QJsonDocument>
#include <QProcess>
#include <QTest>

#include "formats/registry.h"

namespace dreskel::test {

bool rowIsLeftOut() {
    static std::map<QByteArray, int> rows;  // that have come, by test function
    return rows[QTest::currentTestFunction()]++ % 3 != 0 && kSanitized;
}

Buffer readFile(const QString& path) {
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly)) qFatal("cannot read %s", qPrintable(path));
    Buffer bytes(static_cast<std::size_t>(file.size()));
    const auto size = static_cast<qint64>(bytes.size());
    if (file.read(reinterpret_cast<char*>(bytes.data()), size) != size)
        qFatal("cannot read %s", qPrintable(path));
    return bytes;
}

void writeFile(const QString& path, const Buffer& bytes) {
    QFile file(path);
    if (!file.open(QIODevice::WriteOnly)) qFatal("cannot write %s", qPrintable(path));
    file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
}

QString sha256(const Buffer& bytes) {
    const QByteArrayView view(bytes.data(), static_cast<qsizetype>(bytes.size()));
    return QString::fromLatin1(
        QCryptographicHash::hash(view.toByteArray(), QCryptographicHash::Sha256).toHex());
}

QStringList mediaNames(const QString& pattern) {
    const auto names =
        QDir(QStringLiteral(DRESKEL_FIXTURES "/media")).entryList({pattern}, QDir::Files, QDir::Name);
    if (names.isEmpty()) qFatal("no fixtures like %s: run tests/fixtures/make", qPrintable(pattern));
    return names;
}

Buffer mediaFile(const QString& name) {
    const auto media = QStringLiteral(DRESKEL_FIXTURES "/media/") + name;
    return readFile(QFile::exists(media) ? media : QStringLiteral(DRESKEL_FIXTURES "/structures/") + name);
}

unsigned seedOf(const QString& name, unsigned purpose) {
    auto letters = name.toUtf8();
    letters.append(static_cast<char>(purpose));
    std::seed_seq sequence(letters.begin(), letters.end());
    return static_cast<unsigned>(std::mt19937(sequence)());
}

Buffer randomBytes(std::size_t count, unsigned seed) {
    // Eight at a time, as many tests ask for tens of megabytes.
    std::mt19937_64 random(seed);
    Buffer bytes(count);
    for (std::size_t at = 0; at < count; at += 8) {
        const std::uint64_t word = random();
        std::memcpy(bytes.data() + at, &word, std::min<std::size_t>(8, count - at));
    }
    return bytes;
}

std::uint64_t ImageBuilder::add(const Buffer& bytes) {
    const auto offset = bytes_.size();
    bytes_.insert(bytes_.end(), bytes.begin(), bytes.end());
    bytes_.resize((bytes_.size() + cluster_ - 1) / cluster_ * cluster_, 0);
    return offset;
}

void ImageBuilder::addGap(std::size_t bytes, std::uint8_t value) {
    bytes_.resize(bytes_.size() + bytes, value);
}

void ImageBuilder::addNoise(std::size_t bytes, unsigned seed) {
    add(randomBytes(bytes, seed));
}

Measured measureWith(std::string_view family, Bytes bytes) {
    const auto measure = familyNamed(family)->measure();
    while (const auto want = measure->want()) measure->give(slice(bytes, want->offset, want->length));
    return measure->finish();
}

Run command(const QString& program, const QStringList& arguments) {
    QProcess process;
    process.start(program, arguments);
    if (!process.waitForFinished(300000)) return {};
    return {process.exitCode(), process.readAllStandardOutput(), process.readAllStandardError()};
}

Run cli(const QStringList& arguments, int milliseconds) {
    QProcess process;
    process.start(QStringLiteral(DRESKEL_BIN "/dreskel-cli"), arguments);
    if (!process.waitForFinished(milliseconds)) return {};
    return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1,
            process.readAllStandardOutput(), process.readAllStandardError()};
}

std::vector<Packet> packetsOf(const QString& name) {
    const auto run = command(QStringLiteral("ffprobe"),
                             {"-v", "error", "-show_entries", "packet=stream_index,pos,size", "-of",
                              "csv=p=0", QStringLiteral(DRESKEL_FIXTURES "/media/") + name});
    std::vector<Packet> packets;
    for (const auto& line : run.out.split('\n')) {
        const auto cells = line.split(',');  // in an order of the reader's own
        if (cells.size() < 3) continue;
        packets.push_back(
            {static_cast<std::size_t>(cells[0].toULongLong()), cells[2].toULongLong(), cells[1].toUInt()});
    }
    return packets;
}
QJsonObject listOf(const QString& job, bool embedded) {
    QStringList arguments{QStringLiteral("list"), QStringLiteral("--job"), job, QStringLiteral("--json")};
    if (embedded) arguments << QStringLiteral("--embedded");
    return QJsonDocument::fromJson(cli(arguments).out).object();
}

QJsonObject fileAt(const QJsonObject& list, std::uint64_t offset) {
    for (const auto& entry : list[QStringLiteral("files")].toArray()) {
        const auto file = entry.toObject();
        const auto pieces = file[QStringLiteral("pieces")].toArray();
        if (!pieces.isEmpty() &&
            pieces[0].toObject()[QStringLiteral("offset")].toInteger(-1) == static_cast<qint64>(offset))
            return file;
    }
    return {};
}

}  // namespace dreskel::test
