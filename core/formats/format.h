// A media format as a unit of code: how it is recognised, how long it is, how it is checked, what it says of
// itself. Pure parsing over bytes: a format never reads anything itself, it asks for bytes and is given them.
//
// Adding one: a file or folder here, a line in registry.cpp, a fixture in tests/, a row in docs/formats.md.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/bytes.h"
#include "base/words.h"
#include "formats/plain_samples.h"

namespace dreskel {

// Where it was recorded, degrees (WGS 84): north and east are positive.
struct Position {
    double latitude = 0, longitude = 0;
};

// What a file says of itself. What is not known stays empty; nothing is guessed.
struct Description {
    std::optional<std::uint32_t> width, height;  // pixels, as stored
    int orientation = 1;                         // Exif's 1 to 8
    std::optional<double> duration;              // seconds
    std::optional<double> frameRate;             // frames a second
    std::string taken;                           // ISO 8601, local unless a zone was recorded
    std::string camera;
    std::optional<Position> position;
    std::string codec;  // "H.264, AAC", "PCM 48 000 Hz" ...
};

// What a check of a coding can notice: foreign bytes, or only bytes of another kind, or nothing, for want of
// redundancy.
enum class Notices { ForeignBytes, ForeignKinds, Nothing };

// What is told of files whose check notices nothing.
inline constexpr const char* kNothingToCheckBy =
    "its coding carries nothing to check it by: foreign bytes inside of it may go unnoticed";

// A small picture, rows of RGB, three bytes a pixel.
struct Picture {
    std::uint32_t width = 0, height = 0;
    std::vector<std::uint8_t> rgb;
};

// What is known of a file after its format has walked it. Offsets are bytes from the start of the file.
struct Measured {
    bool accepted = false;  // false: the signature was stray, there is no such file here
    std::string why;        // why it was not accepted, or where and why it is not whole
    std::string format;     // the short name, as in --formats
    Kind kind = Kind::Other;
    std::uint64_t length = 0;
    std::uint64_t proven = 0;  // up to here the bytes are certainly this file's
    std::uint64_t lost = 0;    // bytes in its middle that are none of its records
    Condition condition = Condition::Unchecked;
    double decoded = 0;
    // Shares that decoded, 0 to 255, over equal stretches of the picture or of the time.
    std::vector<std::uint8_t> decodedMap;
    Description description;
    std::optional<Picture> thumbnail;
    std::vector<std::string> notes;
    // Condition has still to be found by decoding with a library.
    bool needsDecoder = false;
    // Its structure alone does not make sure of it: it is no file unless it decodes without an error.
    bool onlyIfItDecodes = false;
    Notices notices = Notices::ForeignBytes;
    // Coded media data. A whole foreign file that begins in here shows that the media data is not all there,
    // unless the clip itself is a sequence of such pictures.
    std::vector<ByteRange> mediaData;
    bool holdsPhotos = false;
    // What the file itself says that it holds beside those: previews, notes.
    std::vector<ByteRange> enclosed;
    // What it says holds nothing; see formats/padding.h.
    std::vector<ByteRange> padding;
    // How its samples lie, where they are stored as they are and are most of it.
    std::shared_ptr<const PlainSamples> samples;
};

// The walk over one candidate. Driven by its owner, from one thread: while want() gives something, the bytes
// are read and handed to give().
class Measure {
  public:
    struct Want {
        std::uint64_t offset = 0;  // from the start of the file
        std::size_t length = 0;
    };
    virtual ~Measure() = default;
    virtual std::optional<Want> want() const = 0;
    // `bytes` is shorter than wanted only at the end of the source.
    virtual void give(Bytes bytes) = 0;
    virtual Measured finish() = 0;

    // For putting files together from pieces. A saved state that can be gone on with using other bytes; null
    // where there is none.
    virtual std::unique_ptr<Measure> clone() const { return nullptr; }
    // As give(), with fewer bytes than wanted though more will follow: what is whole in them is taken in.
    // False when it cannot be used so; nothing has happened then.
    virtual bool giveSome(Bytes) { return false; }
    // From here on whether to look into records for what else may be wrong, where that takes long.
    virtual void lookClosely(bool) {}
    // What a close look finds wrong is wrong; otherwise it is only rare.
    virtual bool closeLookIsSure() const { return true; }
    // Nothing has been wrong with the bytes so far.
    virtual bool sound() const { return true; }
    // Up to here the bytes have been taken in; once it is not sound, up to here they are right.
    virtual std::uint64_t reached() const { return 0; }
    // Once it is not sound: where that shows, at or behind what has been taken in.
    virtual std::uint64_t wrongAt() const { return reached(); }
    // How often something did not follow from what came before (counters, clocks), though it was taken in.
    virtual std::uint64_t misfits() const { return 0; }
    // How often, of these, something that was looked into closely was wrong.
    virtual std::uint64_t contradictions() const { return 0; }
    // Looks into what is not complete yet, as far as it has come: false when it is wrong already, nothing
    // when that cannot be told.
    virtual std::optional<bool> holdsSoFar() const { return std::nullopt; }
    // It began with something that only a beginning has, and not with any of its records.
    virtual bool knowsItsBeginning() const { return true; }
    // It says itself that it is over here, rather than that nothing more of it comes.
    virtual bool knowsItsEnd() const { return false; }
    // Its records tell the time. The longest step of that clock, in seconds, since forgetSteps().
    virtual bool hasClock() const { return false; }
    virtual double longestStep() const { return 0; }
    virtual void forgetSteps() {}
    // Each record has a time of its own, and since forgetSteps() these go on.
    virtual bool recordTimesGoOn() const { return false; }
    // The first time that they told, in seconds.
    virtual std::optional<double> firstTime() const { return std::nullopt; }
    // How its samples lie, as in Measured; null until what it was given tells.
    virtual std::shared_ptr<const PlainSamples> samples() const { return nullptr; }
};

class Format {
  public:
    virtual ~Format() = default;
    virtual std::string_view name() const = 0;  // of the family: "jpeg", "isobmff", "wav"
    // The short names of the files it can find.
    virtual std::vector<std::string_view> formats() const = 0;
    virtual Kind kindOf(std::string_view format) const = 0;
    virtual std::string_view extension(std::string_view format) const = 0;
    // Whether a name with this extension, in lower case, may mean one of its files.
    virtual bool hasExtension(std::string_view extension) const;
    // Cheap, called at each sector: `head` begins at the sector and is at least a sector, up to kHead bytes,
    // if there are as many.
    static constexpr std::size_t kHead = 4096;
    virtual bool matches(Bytes head) const = 0;
    // A stream without a beginning of its own: any of its frames may look like the start of one. What begins
    // in a stream that was followed from further ahead is not another.
    virtual bool runsOn() const { return false; }
    // Of a stream: where in these bytes, taken from anywhere inside of one, the first of its records begins
    // that others follow. Nothing when there is none, or when records do not tell.
    virtual std::optional<std::size_t> firstRecordIn(Bytes) const { return std::nullopt; }
    // Of one whose records look like a beginning at any place: whether what stands just in front of one is
    // the same stream's.
    virtual bool goesOnFrom(Bytes /*before*/) const { return false; }
    virtual bool isStream() const { return false; }  // firstRecordIn() tells
    virtual std::unique_ptr<Measure> measure() const = 0;
};

}  // namespace dreskel
