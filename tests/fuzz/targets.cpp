#include "tests/fuzz/targets.h"

#include <cstdlib>
#include <memory>

#include "formats/clip/picture_trail.h"
#include "formats/isobmff/sample_table.h"
#include "formats/jpeg/small_picture.h"
#include "formats/jpeg/stream_decoder.h"
#include "formats/own/own_file.h"
#include "formats/photo/crx_rows.h"
#include "formats/photo/difference_rows.h"
#include "formats/photo/olympus_rows.h"
#include "formats/registry.h"
#include "formats/thumbnail_match.h"
#include "formats/vp8/stream_check.h"
#include "formats/vp9/stream_check.h"
#include "job/finding_json.h"
#include "scan/block_kind.h"
#include "tests/fuzz/memory_source.h"
#include "tests/fuzz/rebuilding.h"
#include "volume/orphans.h"
#include "volume/remembered.h"
#include "volume/survey.h"

namespace dreskel::fuzz {
namespace {

// A walk asks for at most this much in all; one that goes on is a hang.
constexpr std::uint64_t kMostAsked = 1ULL << 32;
constexpr int kMostSteps = 2000000;

void walk(const Format& format, Bytes bytes) {
    if (bytes.empty()) return;
    if (!format.matches(bytes.first(std::min(bytes.size(), Format::kHead)))) return;
    const auto measure = format.measure();
    std::uint64_t asked = 0;
    for (int step = 0;; ++step) {
        const auto want = measure->want();
        if (!want) break;
        asked += want->length;
        if (step > kMostSteps || asked > kMostAsked) std::abort();
        measure->give(slice(bytes, want->offset, want->length));
    }
    if (format.runsOn()) format.firstRecordIn(bytes);
    if (format.isStream()) {
        // As when pieces are looked for.
        const auto probe = format.measure();
        probe->lookClosely(true);
        probe->giveSome(bytes);
        probe->forgetSteps();
        probe->clone()->giveSome(bytes);
        if (probe->contradictions() > probe->misfits()) std::abort();
    }
    const auto measured = measure->finish();
    if (measured.accepted && measured.proven > measured.length) std::abort();
}

void directories(Bytes bytes) {
    if (bytes.size() < 4096) return;
    const MemorySource source(bytes);
    const auto survey = surveySource(source);
    int left = 100000;
    const auto found = remember(source, survey, [&] { return --left > 0; });
    for (const auto& file : found.files) {
        if (file.places.empty()) std::abort();
    }
    std::vector<std::uint64_t> folders;
    for (std::uint64_t at = 0; at < bytes.size(); at += 512) {
        if (looksLikeFolder(slice(bytes, at, 512))) folders.push_back(at);
    }
    for (const auto& file : rememberOrphans(source, folders, {}, survey, {{4096, 1000}, {8192, 5000}})) {
        if (file.start() >= bytes.size()) std::abort();
    }
}

// The decoder in portions and gone on with from a copy, as joining does.
void jpegInPieces(Bytes bytes) {
    jpeg::StreamDecoder decoder;
    for (std::size_t at = 0; at < bytes.size() && decoder.state() == jpeg::StreamDecoder::State::Hungry;) {
        const auto part = slice(bytes, at, 1 + (at * 7919) % 4096);
        auto copy = decoder;
        static_cast<void>(copy.feed(part, true));
        static_cast<void>(decoder.feed(part, false));
        at += part.size();
    }
}

// As a stream with start codes; its first bytes also as the settings of one in a container.
void followPictures(PictureCoding coding, Bytes bytes) {
    const auto check = pictureCheck(coding, bytes.first(std::min<std::size_t>(bytes.size(), 200)));
    for (std::size_t at = 0; at < bytes.size();) {
        const auto fault = check->startCoded(bytes.subspan(at));
        if (!fault) break;
        if (fault->byte > bytes.size() - at) std::abort();
        at += std::max<std::size_t>(1, fault->byte);
    }
}

// The same in a sample, with changes here and there: going on from where they begin must say what following
// it anew says.
void followAgain(PictureCoding coding, Bytes bytes) {
    constexpr std::size_t lengthSize = 4;
    std::vector<std::uint8_t> sample;
    std::size_t from = 0;
    const auto end = [&](std::size_t at) {
        const auto unit = slice(bytes, from, at - from);
        for (int shift = 24; shift >= 0; shift -= 8)
            sample.push_back(static_cast<std::uint8_t>(unit.size() >> shift));
        sample.insert(sample.end(), unit.begin(), unit.end());
        from = at + 3;
    };
    for (std::size_t at = 0; at + 3 <= bytes.size(); ++at) {
        if (bytes[at] != 0 || bytes[at + 1] != 0 || bytes[at + 2] != 1) continue;
        if (at > from) end(at);
        from = at + 3;
    }
    if (from < bytes.size()) end(bytes.size());
    const auto trail = pictureTrail(coding, {}, lengthSize);
    const auto original = sample;
    for (std::size_t round = 0; round < 6; ++round) {
        const auto check = pictureCheck(coding, {});
        const auto fault = check->sample(sample, lengthSize);
        const auto again = trail->follow(sample);
        if (again.fault.has_value() != fault.has_value() || again.pictures != check->pictures()) std::abort();
        if (fault && again.fault->byte != fault->byte) std::abort();
        // Another stretch is changed, or it is as it was, or ends earlier.
        if (round == 2) sample = original;
        if (round == 4) sample.resize(sample.size() * 2 / 3);
        for (auto at = sample.size() * (round + 1) / 7; at < sample.size() * (round + 2) / 7; ++at)
            sample[at] = static_cast<std::uint8_t>(sample[at] * 5 + round);
    }
}

// The frames of an IVF file.
void followFrames(PictureCheck& check, Bytes bytes) {
    ByteReader reader(bytes, Endian::Little);
    reader.skip(32);
    while (reader.left() > 12) {
        const auto length = std::min<std::uint64_t>(reader.u32(), reader.left() - 8);
        reader.skip(8);
        const auto frame = reader.take(length);
        const auto fault = check.unit(frame);
        if (fault && fault->byte > frame.size()) std::abort();
    }
}

std::string textOf(Bytes bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

std::vector<std::uint8_t> bytesOf(const std::string& text) {
    return {text.begin(), text.end()};
}

// Planes of 64 samples a row, and what is said of them.
std::vector<std::uint8_t> planesOfACr3() {
    constexpr std::uint32_t kPlane = 400, kPlanes = 4, kRecord = 12;  // bytes
    std::vector<std::uint8_t> seed(8);
    const auto put = [&](std::uint32_t value, int bytes) {
        while (bytes-- > 0) seed.push_back(static_cast<std::uint8_t>(value >> 8 * bytes));
    };
    put(0, 4);
    put(0x100, 2);
    put(0, 2);
    for (const std::uint32_t each : {128U, 64U, 128U, 64U}) put(each, 4);
    put(14, 1);
    put(kPlanes << 4, 1);
    put(0, 2);
    put(kRecord * (1 + 2 * kPlanes), 4);
    seed.resize(64);
    put(0xff010008, 4);
    put(kPlane * kPlanes, 4);
    put(0, 4);
    for (std::uint32_t plane = 0; plane < kPlanes; ++plane) {
        put(0xff020008, 4);
        put(kPlane, 4);
        put(plane << 28 | 0x8000000, 4);
        put(0xff030008, 4);
        put(kPlane, 4);
        put(0x8000000, 4);
    }
    seed.resize(seed.size() + std::size_t{kPlane} * kPlanes, 0x9d);
    return seed;
}

// What a file says of its coding comes first: which, in what portions, its size; then its data.
void sensorData(Bytes bytes) {
    constexpr std::size_t kFacts = 64;
    if (bytes.size() < kFacts) return;
    const auto width = 2 + (bytes[2] | bytes[3] << 8) % 4000, height = 1 + bytes[4] % 64;
    std::unique_ptr<SensorRows> rows;
    if (bytes[0] % 3 == 0) {
        if (const auto coding = readCrxCoding(slice(bytes, 8, 56))) rows = coding->rows(bytes[5]);
    } else if (bytes[0] % 3 == 1) {
        OlympusCoding coding;
        coding.width = static_cast<std::uint32_t>(width);
        coding.height = static_cast<std::uint32_t>(height);
        rows = coding.rows(bytes[5]);
    } else {
        DifferenceCoding coding;
        coding.width = static_cast<std::uint32_t>(width);
        coding.height = static_cast<std::uint32_t>(height);
        coding.bits = 14;
        coding.beyond = 1 << 14;
        coding.split = bytes[6];
        DifferenceCoding::Codes codes(1U << DifferenceCoding::kLookBits);
        for (std::size_t i = 0; i < codes.size(); ++i)
            codes[i] = {static_cast<std::uint8_t>(bytes[8 + i % 32] % 13), bytes[8 + (i >> 8) % 56]};
        coding.codes = coding.codesBehindSplit = std::make_shared<const DifferenceCoding::Codes>(codes);
        rows = coding.rows(bytes[5]);
    }
    if (!rows) return;
    const auto data = bytes.subspan(kFacts);
    const std::size_t portion = 1 + bytes[1] * std::size_t{31};
    for (std::size_t at = 0; at < data.size(); at += portion) {
        rows->lookClosely(at / portion % 5 == 4);
        if (at / portion % 7 == 6) rows = rows->clone();
        if (rows->feed(slice(data, at, portion), at + portion >= data.size()) != SensorRows::State::Hungry)
            break;
        if (rows->offset() > data.size()) std::abort();
    }
}

// A small picture held against a large one, whose size and blocks the bytes are, too.
void thumbnail(Bytes bytes) {
    const auto small = jpeg::decodeSmall(bytes);
    if (!small) return;
    const auto wide = 1 + bytes[bytes.size() - 1] * 3U, high = 1 + bytes[bytes.size() / 2] * 2U;
    std::vector<std::int16_t> blocks(std::size_t{wide} * high);
    for (std::size_t i = 0; i < blocks.size(); ++i)
        blocks[i] =
            static_cast<std::int16_t>(small->samples[i % small->samples.size()] * (i % 7 == 0 ? -90 : 4));
    const ThumbnailMatch match(*small, wide, high, bytes[2] / 16.0);
    const BlockMeans picture{blocks.data(), wide, wide, high, 0.25F, 0};
    const auto strange = match.strangeFrom(picture);
    if (strange && *strange > high) std::abort();
    for (std::uint32_t rows = 0; rows <= high; rows += 1 + high / 5) {
        if (const auto learnt = match.learn(picture, rows))
            static_cast<void>(match.strain(picture, *learnt, rows / 2, high));
    }
}

}  // namespace

const std::vector<Target>& targets() {
    static const auto all = [] {
        std::vector<Target> made;
        for (const auto* format : builtInFormats()) {
            std::vector<std::string> patterns;
            for (const auto name : format->formats())
                patterns.push_back("*." + std::string(format->extension(name)));
            made.push_back(
                {std::string(format->name()), [format](Bytes bytes) { walk(*format, bytes); }, patterns});
        }
        made.push_back({"sensor-data", sensorData, {"other.*"}, planesOfACr3()});
        made.push_back({"thumbnail", thumbnail, {"small-*.jpg"}});
        made.push_back({"jpeg-in-pieces", jpegInPieces, {"*.jpg"}});
        made.push_back({"photo-without-beginning", withoutBeginning, {"*.jpg"}});
        for (const auto coding : {PictureCoding::Avc, PictureCoding::Hevc}) {
            const bool avc = coding == PictureCoding::Avc;
            made.push_back({avc ? "avc-pictures" : "hevc-pictures",
                            [coding](Bytes bytes) {
                                followPictures(coding, bytes);
                                followAgain(coding, bytes);
                            },
                            {avc ? "pictures-*.h264" : "pictures-*.hevc"}});
        }
        made.push_back({"vp8-frames",
                        [](Bytes bytes) {
                            vp8::StreamCheck check;
                            followFrames(check, bytes);
                        },
                        {"frames-vp8-*.ivf"}});
        made.push_back({"vp9-frames",
                        [](Bytes bytes) {
                            vp9::StreamCheck check;
                            followFrames(check, bytes);
                        },
                        {"frames-vp9-*.ivf"}});
        made.push_back({"clip-index",
                        [](Bytes bytes) {
                            if (bytes.size() < 8) return;
                            static_cast<void>(isobmff::readMovie(bytes.subspan(8)));
                            static_cast<void>(isobmff::readSamples(bytes.subspan(8)));
                        },
                        {"*.mp4", "*.mov"}});
        made.push_back({"clip-that-plays", playing, {"*.mp4", "*.mov", "*.avi", "*.mkv"}});
        made.push_back({"clip-in-fragments", inFragments, {"fragmented.mp4"}});
        made.push_back(
            {"plain-in-pieces", plainInPieces, {"*.wav", "*.aiff", "*.caf", "*.bmp", "*.tif", "*.dng"}});
        made.push_back({"bare-in-pieces", bareInPieces, {"*.h264", "*.hevc"}});
        made.push_back({"lost-index", lostIndex, {"*.mp4", "*.mov"}});
        made.push_back({"directories", directories, {}, std::vector<std::uint8_t>(65536)});
        made.push_back(
            {"own-formats",
             [](Bytes bytes) { static_cast<void>(own::definitionsFrom(textOf(bytes), "")); },
             {},
             bytesOf(R"({"schema": 1, "formats": [{"name": "a", "kind": "photo", "extension": "a", "begins":
                            [{"at": 0, "bytes": "57 48 45 ?? 45"}], "ends": "57 48 45", "most_bytes": 4}]})")});
        made.push_back({"findings",
                        [](Bytes bytes) { static_cast<void>(findingFrom(textOf(bytes))); },
                        {},
                        bytesOf(recordOf(Finding{}))});
        made.push_back(
            {"block-kind", [](Bytes bytes) { static_cast<void>(kindOfBlock(bytes)); }, {"*.mp4", "*.jpg"}});
        return made;
    }();
    return all;
}

}  // namespace dreskel::fuzz
