// The worker process in which libraries decode what strangers' files hold. It has a limit on memory, is
// killed when it shows no sign of life, and is started anew for the next request; a file that kills it costs
// that file.
//
// One request at a time; use one object a thread. Nothing of the worker's libraries is linked into the
// caller.
#pragma once

#include <sys/types.h>

#include <chrono>
#include <functional>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "base/control.h"
#include "base/limits.h"
#include "base/unique_fd.h"
#include "formats/format.h"
#include "media/shared_pictures.h"
#include "source/source.h"

namespace dreskel::media {

struct Message;

struct CheckReport {
    bool opened = false;  // the container could be opened and has media in it
    double decoded = 0;   // share of the media that decoded without an error, 0 to 1
    std::uint64_t errors = 0;
    double roughness = 0;    // of a part: how much its pictures jump, in time and between blocks; levels
    bool noDecoder = false;  // for one of its streams; that one was not checked
    std::string firstError;
    std::vector<std::uint8_t> decodedMap;
    std::vector<ByteRange>
        faults;  // of the file: the packets that something is wrong with; the first of them
    std::optional<Picture> thumbnail;
    std::vector<std::int8_t> peaks;  // lowest and highest of each stretch of the sound, -127 to 127
    std::optional<double> duration;  // seconds
    std::optional<double> frameRate;
    std::optional<std::uint32_t> width, height;
    std::string codec;  // of its streams, "H.264, AAC"
    std::string taken;  // ISO 8601, as the container says
    std::string camera;
};

struct StillFrame {
    std::size_t number = 0;  // of those asked for; some may not be had
    double at = 0;           // seconds
    Picture picture;
};

// One of a clip that is played, at its place in memory that others may draw from.
struct PlayedPicture {
    double at = 0;  // seconds
    std::uint32_t width = 0, height = 0;
    std::size_t stride = 0;                  // bytes a row
    std::unique_ptr<std::uint8_t[]> pixels;  // four bytes each: blue, green, red and 255
};

class DecoderProcess {
  public:
    // The source must outlive this; its descriptor is all that the worker is given.
    // `program`: of the worker; the one beside this program unless said. `patience`: how long it may give no
    // sign of life.
    explicit DecoderProcess(
        std::shared_ptr<Source> source, std::string program = {},
        std::chrono::seconds patience = std::chrono::seconds(limits::kDecoderStallSeconds))
        : source_(std::move(source)), program_(std::move(program)), patience_(patience) {}
    ~DecoderProcess();
    DecoderProcess(const DecoderProcess&) = delete;
    DecoderProcess& operator=(const DecoderProcess&) = delete;

    // Each waits for the worker; `control`, when given, ends the wait early with Fault::Interrupted.
    Result<CheckReport> check(const std::vector<Piece>& pieces, const std::string& format, Control* control);
    // The same for the samples that lie between two bytes of the file, with what they need to be decoded; for
    // trying what may lie there.
    Result<CheckReport> checkBetween(const std::vector<Piece>& pieces, const std::string& format,
                                     std::uint64_t from, std::uint64_t to, Control* control);
    // The lengths of the frames of AAC sound that lie one behind the other from the start of a part of a
    // file on, as far as they can be decoded; `part` in bytes of the file, at most kMostSound long.
    // `settings`: the AudioSpecificConfig (ISO/IEC 14496-3, 1.6.2.1).
    static constexpr std::uint64_t kMostSound = 1U << 20;
    Result<std::vector<std::uint32_t>> soundLengths(const std::vector<Piece>& pieces, ByteRange part,
                                                    Bytes settings, Control* control);
    // `count` pictures spread along a clip, each at most `side` pixels.
    Result<std::vector<StillFrame>> frames(const std::vector<Piece>& pieces, const std::string& format,
                                           int count, int side, Control* control);
    // The same near these times, in seconds.
    Result<std::vector<StillFrame>> framesAt(const std::vector<Piece>& pieces, const std::string& format,
                                             const std::vector<double>& times, int side, Control* control);
    // A photo, decoded as far as it goes, at most `side` pixels (0: full size). As stored, not turned.
    Result<Picture> photo(const std::vector<Piece>& pieces, const std::string& format, int side,
                          Control* control);

    // A part of a photo, in pixels of its full size as it decodes, as stored and not turned; of each square
    // of `shrink` pixels (1, 2, 4 ...) the mean. The worker holds the photo until it is asked for anything
    // else, so that the next part costs little. `full`: the whole photo's size. Less is given where the part
    // leaves the photo or is larger than kLargestPart pixels of what is given.
    static constexpr std::uint32_t kLargestPart = 2048, kMostShrunk = 64;
    struct PhotoPart {
        std::uint32_t left = 0, top = 0, wide = 0, high = 0, shrink = 1;
    };
    struct PartSeen {
        Picture picture;
        std::uint32_t fullWidth = 0, fullHeight = 0;
    };
    Result<PartSeen> photoPart(const std::vector<Piece>& pieces, const std::string& format, PhotoPart part,
                               Control* control);

    // A stretch of a clip or a recording to be played: its pictures, at most `side` pixels and not turned,
    // and its sound, interleaved, with the times of both in seconds from its beginning. playFrom() begins at
    // a place; playOn() goes on where the last one stopped, and fails when another was asked for in between
    // or the worker had to be started anew. `hurry`: leave out what decoding cannot keep up with. A stretch
    // may end before the seconds asked for, when its pictures are many and large.
    static constexpr int kSoundRate = 48000, kSoundChannels = 2;
    struct Stretch {
        std::vector<PlayedPicture> pictures;
        std::vector<std::int16_t> sound;
        double soundAt = 0;
        double until = 0;  // seconds: all before this is in this stretch or in those before it
        bool ended = false;
        double duration = 0;  // of the whole; 0 when it does not say
    };
    struct Manner {
        double seconds = 0.25;
        int side = 640;
        bool hurry = false;
    };
    Result<Stretch> playFrom(const std::vector<Piece>& pieces, const std::string& format, double from,
                             Manner manner, Control* control);
    Result<Stretch> playOn(Manner manner, Control* control);

  private:
    Result<std::vector<StillFrame>> stills(nlohmann::json head, const std::vector<Piece>& pieces,
                                           Control* control);
    Result<Stretch> play(nlohmann::json head, const std::vector<Piece>& pieces, Manner manner,
                         Control* control);
    Result<Message> ask(nlohmann::json head, const std::vector<Piece>& pieces, Control* control);
    Status start();
    void end();

    std::shared_ptr<Source> source_;
    std::string program_;
    std::chrono::seconds patience_;
    UniqueFd socket_;
    SharedPictures pictures_;
    pid_t pid_ = -1;
};

}  // namespace dreskel::media
