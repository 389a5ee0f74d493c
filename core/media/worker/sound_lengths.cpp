#include <algorithm>

#include "media/decoder_process.h"
#include "media/worker/av_input.h"
#include "media/worker/tasks.h"

namespace dreskel::media {
namespace {

// A frame of AAC is at most 6144 bits a channel (ISO/IEC 14496-3, 4.5.3.1); sixteen channels.
constexpr std::size_t kLongestFrame = 768 * 16;

class SoundDecoder {
  public:
    explicit SoundDecoder(std::vector<std::uint8_t> settings)
        : packet_(av_packet_alloc()), frame_(av_frame_alloc()) {
        const auto* codec = avcodec_find_decoder(AV_CODEC_ID_AAC);
        context_.reset(avcodec_alloc_context3(codec));
        if (!context_) return;
        context_->extradata =
            static_cast<std::uint8_t*>(av_mallocz(settings.size() + AV_INPUT_BUFFER_PADDING_SIZE));
        context_->extradata_size = static_cast<int>(settings.size());
        std::copy(settings.begin(), settings.end(), context_->extradata);
        context_->thread_count = 1;
        ready_ = avcodec_open2(context_.get(), codec, nullptr) >= 0;
    }
    bool ready() const { return ready_; }

    // How many of the bytes are left at the beginning of each frame that decodes: the decoder takes a
    // packet of several frames one after the other, and says of each what was left of the packet.
    std::vector<std::size_t> leftAtFrames(Bytes bytes) {
        std::vector<std::size_t> left;
        if (!send(bytes)) return left;
        while (avcodec_receive_frame(context_.get(), frame_.get()) >= 0) {
            left.push_back(static_cast<std::size_t>(std::max(0, frame_->pkt_size)));
            av_frame_unref(frame_.get());
        }
        return left;
    }
    // Whether the bytes hold at least one frame.
    bool decodes(Bytes bytes) {
        const bool fine = send(bytes) && avcodec_receive_frame(context_.get(), frame_.get()) >= 0;
        av_frame_unref(frame_.get());
        return fine;
    }

  private:
    bool send(Bytes bytes) {
        avcodec_flush_buffers(context_.get());
        av_packet_unref(packet_.get());
        if (av_new_packet(packet_.get(), static_cast<int>(bytes.size())) < 0) return false;
        std::copy(bytes.begin(), bytes.end(), packet_->data);
        return avcodec_send_packet(context_.get(), packet_.get()) >= 0;
    }

    CodecPointer context_;
    PacketPointer packet_;
    FramePointer frame_;
    bool ready_ = false;
};

}  // namespace

Message soundLengths(CardView& card, const Message& request) {
    PieceReader reader(card, piecesOf(request));
    const auto from = request.head.at("from").get<std::uint64_t>();
    const auto length = std::min(request.head.at("length").get<std::uint64_t>(), DecoderProcess::kMostSound);
    std::vector<std::uint8_t> buffer(static_cast<std::size_t>(length));
    const auto bytes = Bytes(buffer).first(reader.read(from, buffer));
    auto lengths = nlohmann::json::array();
    SoundDecoder decoder(request.head.at("settings").get<std::vector<std::uint8_t>>());
    if (!decoder.ready()) return {{{"lengths", lengths}}, {}};
    const auto left = decoder.leftAtFrames(bytes);
    for (std::size_t i = 0; i + 1 < left.size(); ++i) {
        if (left[i] <= left[i + 1]) break;
        lengths.push_back(left[i] - left[i + 1]);
    }
    if (!left.empty() && left.size() == lengths.size() + 1 && left.back() <= bytes.size()) {
        // The last one ends where it can just be decoded.
        const auto last = bytes.last(left.back());
        std::size_t least = 1;
        auto most = std::min(last.size(), kLongestFrame);
        while (least < most) {
            const auto middle = least + (most - least) / 2;
            if (decoder.decodes(last.first(middle))) {
                most = middle;
            } else {
                least = middle + 1;
            }
        }
        lengths.push_back(most);
    }
    takeLibraryLog();
    return {{{"lengths", lengths}}, {}};
}

}  // namespace dreskel::media
