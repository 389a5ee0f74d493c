// What the tests share: fixtures, images made of known files, and running the command line program.
#pragma once

#include <QByteArray>
#include <QJsonArray>
#include <QJsonObject>
#include <QString>
#include <QStringList>
#include <random>
#include <string>
#include <vector>

#include "base/bytes.h"
#include "base/words.h"
#include "formats/format.h"

namespace dreskel::test {

using Buffer = std::vector<std::uint8_t>;

// How often to try the same with other bytes: under the sanitizers, where once takes ten times as long, a
// third as often.
#if defined(__SANITIZE_ADDRESS__)
inline constexpr bool kSanitized = true;
#else
inline constexpr bool kSanitized = false;
#endif
constexpr int tries(int count) {
    return kSanitized ? (count + 2) / 3 : count;
}

// Where the rows of a table take the same ways with other bytes: whether the one that runs now is left to the
// build without sanitizers, as two of three are in the other.
bool rowIsLeftOut();

Buffer readFile(const QString& path);
void writeFile(const QString& path, const Buffer& bytes);
QString sha256(const Buffer& bytes);

// Names of the media that tests/fixtures/make wrote, and their bytes.
QStringList mediaNames(const QString& pattern = QStringLiteral("*"));
Buffer mediaFile(const QString& name);

Buffer randomBytes(std::size_t count, unsigned seed);
// To try a file with: the same on every machine, which qHash() is not.
unsigned seedOf(const QString& name, unsigned purpose);

// An image put together from files at cluster boundaries, with the truth known.
class ImageBuilder {
  public:
    explicit ImageBuilder(std::size_t cluster = 4096) : cluster_(cluster) {}
    // Gives the offset at which the bytes lie.
    std::uint64_t add(const Buffer& bytes);
    void addGap(std::size_t bytes, std::uint8_t value = 0);
    void addNoise(std::size_t bytes, unsigned seed);
    const Buffer& bytes() const { return bytes_; }
    void write(const QString& path) const { writeFile(path, bytes_); }

  private:
    std::size_t cluster_;
    Buffer bytes_;
};

// Walks a candidate at the start of `bytes` with a format family, all bytes being at hand.
Measured measureWith(std::string_view family, Bytes bytes);

struct Run {
    int exitCode = -1;
    QByteArray out, err;
};
// dreskel-cli with these arguments, waited for.
Run cli(const QStringList& arguments, int milliseconds = 300000);
Run command(const QString& program, const QStringList& arguments);
// What an independent reader finds in one of the media.
struct Packet {
    std::size_t stream = 0;
    std::uint64_t offset = 0;  // in the file
    std::uint32_t size = 0;
};
std::vector<Packet> packetsOf(const QString& name);
QJsonObject listOf(const QString& job, bool embedded = false);
// The entry that begins at an offset, or an empty object.
QJsonObject fileAt(const QJsonObject& list, std::uint64_t offset);

}  // namespace dreskel::test
