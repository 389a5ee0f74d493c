// Decoding for the loupe: one thread with one worker process, that always does the latest request and forgets
// those that were overtaken.
#pragma once

#include <condition_variable>
#include <functional>
#include <mutex>
#include <QImage>
#include <QObject>
#include <thread>
#include <vector>

#include "desktop/loupe/histogram.h"
#include "job/finding.h"
#include "media/decoder_process.h"

namespace dreskel {

struct Looked {
    std::int64_t id = 0;
    QImage photo;                // ready to be looked at; see presented()
    Histogram histogram;         // of the photo
    std::vector<QImage> frames;  // of a clip
    std::vector<double> times;   // of the frames, seconds
    QString trouble;             // why there is nothing to see
};

struct LookedPart {
    std::int64_t id = 0;
    media::DecoderProcess::PhotoPart part;
    QImage picture;  // null when it cannot be had
    QSize full;      // of the photo as it decodes
};

class Looking : public QObject {
    Q_OBJECT
  public:
    explicit Looking(std::shared_ptr<Source> source, QObject* parent = nullptr);
    ~Looking() override;

    // `side`: how large a photo is wanted, in pixels; 0 for full size.
    void request(const Finding& finding, int side);
    // A part of a photo at its full size; done when nothing else is wanted.
    void requestPart(const Finding& finding, const media::DecoderProcess::PhotoPart& part);

  Q_SIGNALS:
    void ready(const dreskel::Looked& looked);
    void partReady(const dreskel::LookedPart& looked);

  private:
    struct Request {
        Finding finding;
        int side = 0;
    };
    struct PartRequest {
        Finding finding;
        media::DecoderProcess::PhotoPart part;
    };
    void run();
    Looked look(media::DecoderProcess& decoder, const Request& request);
    LookedPart lookAtPart(media::DecoderProcess& decoder, const PartRequest& request);

    std::shared_ptr<Source> source_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<Request> next_;
    std::optional<PartRequest> nextPart_;
    bool ending_ = false;
    Control control_;
    std::thread thread_;
};

// A copy that owns its pixels.
QImage imageFrom(const Picture& picture);

}  // namespace dreskel
