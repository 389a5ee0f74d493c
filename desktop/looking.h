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

class Looking : public QObject {
    Q_OBJECT
  public:
    explicit Looking(std::shared_ptr<Source> source, QObject* parent = nullptr);
    ~Looking() override;

    // `side`: how large a photo is wanted, in pixels; 0 for full size.
    void request(const Finding& finding, int side);

  Q_SIGNALS:
    void ready(const dreskel::Looked& looked);

  private:
    struct Request {
        Finding finding;
        int side = 0;
    };
    void run();

    std::shared_ptr<Source> source_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<Request> next_;
    bool ending_ = false;
    Control control_;
    std::thread thread_;
};

// A copy that owns its pixels.
QImage imageFrom(const Picture& picture);

}  // namespace dreskel
