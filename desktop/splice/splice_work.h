// What the splice bench asks of the core, in a thread of its own: the latest wish only, and the picture
// before what could follow.
#pragma once

#include <condition_variable>
#include <mutex>
#include <QObject>
#include <thread>

#include "session/splicing.h"

namespace dreskel {

using Way = std::vector<ByteRange>;

class SpliceWork : public QObject {
    Q_OBJECT
  public:
    static constexpr std::uint32_t kSide = 1100, kFollowerSide = 480;  // pixels

    explicit SpliceWork(std::shared_ptr<Session> session, QObject* parent = nullptr);
    ~SpliceWork() override;

    // Once, when everything is connected.
    void begin(std::int64_t id);

    // How a way looks, and what could follow its first `upTo` places.
    void ask(const Way& way, std::size_t upTo);
    // The way cut where a row begins, then the same.
    void askCut(std::uint32_t row);

  Q_SIGNALS:
    void opened(std::shared_ptr<dreskel::Splicing> splicing);
    void refused(const QString& why);
    void looked(const dreskel::rebuild::SpliceLook& look);
    void followed(const dreskel::rebuild::Followers& followers);
    void cut(const std::vector<dreskel::ByteRange>& way);

  private:
    struct Wish {
        Way way;
        std::size_t upTo = 0;
        std::optional<std::uint32_t> row;
    };
    void put(Wish wish);
    void run(std::int64_t id);

    std::shared_ptr<Session> session_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<Wish> next_;
    bool ending_ = false;
    std::shared_ptr<Control> control_ = std::make_shared<Control>();  // of the wish in hand
    std::thread thread_;
};

}  // namespace dreskel
