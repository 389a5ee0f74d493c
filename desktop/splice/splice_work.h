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
    static constexpr std::uint32_t kSide = 1100, kFollowerSide = 480, kFrameSide = 560;  // pixels
    static constexpr std::uint32_t kAlong = 8;  // frames along a clip
    static constexpr std::uint32_t kStep = 40;  // milliseconds; about a picture of a clip

    explicit SpliceWork(std::shared_ptr<Session> session, QObject* parent = nullptr);
    ~SpliceWork() override;

    // Once, when everything is connected.
    void begin(std::int64_t id);

    // How a way looks, and what could follow its first `upTo` places. The number of the wish comes back with
    // what is told of it: what is told of an earlier one may still be on its way.
    std::uint64_t ask(const Way& way, std::size_t upTo);
    // How a clip without an index looks with what one of the good clips lends.
    std::uint64_t askLender(std::size_t lender);
    // The way looked at last without these rows or moments.
    void askWithout(const rebuild::SpliceLook::Stretch& stretch);
    // Of the frames that are shown of a clip: the last before the join in hand, the first behind it, and some
    // along the whole of it. `upTo` 0: about its middle.
    static std::vector<std::uint32_t> timesOf(const rebuild::SpliceLook& look, std::size_t upTo);

  Q_SIGNALS:
    void opened(std::shared_ptr<dreskel::Splicing> splicing);
    void refused(const QString& why);
    void looked(quint64 wish, const dreskel::rebuild::SpliceLook& look);
    void framed(quint64 wish, const std::vector<dreskel::rebuild::SpliceFrame>& frames);
    void followed(quint64 wish, const dreskel::rebuild::Followers& followers);
    void cut(const dreskel::rebuild::Cut& cut);

  private:
    struct Wish {
        Way way;
        std::size_t upTo = 0;
        std::optional<rebuild::SpliceLook::Stretch> without;
        std::optional<std::size_t> lender;
        std::uint64_t number = 0;
    };
    std::uint64_t put(Wish wish);
    void run(std::int64_t id);

    std::shared_ptr<Session> session_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<Wish> next_;
    std::uint64_t last_ = 0;  // number of a wish
    bool ending_ = false;
    std::shared_ptr<Control> control_ = std::make_shared<Control>();  // of the wish in hand
    std::thread thread_;
};

}  // namespace dreskel
