// A container opened by libavformat over the pieces of a file. Lives in the worker process only.
#pragma once

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
}

#include <memory>
#include <string>
#include <vector>

#include "source/card_view.h"

namespace dreskel::media {

struct FreeCodec {
    void operator()(AVCodecContext* context) const { avcodec_free_context(&context); }
};
struct FreeFrame {
    void operator()(AVFrame* frame) const { av_frame_free(&frame); }
};
struct FreePacket {
    void operator()(AVPacket* packet) const { av_packet_free(&packet); }
};
using CodecPointer = std::unique_ptr<AVCodecContext, FreeCodec>;
using FramePointer = std::unique_ptr<AVFrame, FreeFrame>;
using PacketPointer = std::unique_ptr<AVPacket, FreePacket>;

// Error messages of the libraries since the last call: how many, and the first one.
struct LogTally {
    std::uint64_t errors = 0;
    std::string first;
};
void watchLibraryLog();
LogTally takeLibraryLog();

class AvInput {
  public:
    AvInput(CardView& card, std::vector<Piece> pieces)
        : reader_(card, std::move(pieces)), shown_{0, reader_.size()} {}
    ~AvInput();
    AvInput(const AvInput&) = delete;
    AvInput& operator=(const AvInput&) = delete;

    // `format` is a short name of the registry; it chooses the demuxer, nothing is probed.
    // `everySample`: those that an edit list hides too; without, times are as a player has them.
    bool open(const std::string& format, bool everySample = true);
    AVFormatContext* context() { return context_; }
    double duration() const;  // seconds, 0 when unknown

    // A decoder for a stream; null when there is none.
    CodecPointer decoderFor(const AVStream& stream, int threads = 1) const;
    // The one of several that notices most.
    CodecPointer strictDecoderFor(const AVStream& stream) const;

  private:
    static CodecPointer open(const AVCodec* codec, const AVStream& stream, int threads);
    static int readSome(void* self, std::uint8_t* into, int size);
    static std::int64_t seekTo(void* self, std::int64_t offset, int whence);

    // libav knows WebP as single pictures: of an animation the first one is made one of its own.
    void showFirstPicture();
    std::uint64_t size() const { return front_.size() + shown_.length; }

    PieceReader reader_;
    std::vector<std::uint8_t> front_;  // what is read first, then this range of the file
    ByteRange shown_;
    std::uint64_t position_ = 0;
    AVFormatContext* context_ = nullptr;
    AVIOContext* io_ = nullptr;
};

}  // namespace dreskel::media
