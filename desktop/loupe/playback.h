// Plays a clip or a recording from its pieces on the card, without saving it: a thread with its own worker
// process decodes a little ahead; pictures are shown and sound is handed to the sound device by one clock.
// Without a sound device everything works but the sound.
#pragma once

#include <condition_variable>
#include <deque>
#include <memory>
#include <mutex>
#include <QElapsedTimer>
#include <QImage>
#include <QObject>
#include <QTimer>
#include <thread>

#include "job/finding.h"
#include "media/decoder_process.h"

class QAudioSink;
class QIODevice;

namespace dreskel {

class Playback : public QObject {
    Q_OBJECT
  public:
    explicit Playback(std::shared_ptr<Source> source, QObject* parent = nullptr);
    ~Playback() override;

    // From a place on, in seconds; pictures at most `side` pixels.
    void play(const Finding& finding, double from, int side);
    // Stands still at the picture that is shown; goOn() plays on from there.
    void pause();
    void goOn();
    // Lets go of the file.
    void stop();
    // Goes to a place, playing or standing still as before.
    void seek(double to);
    // The next picture, or the one before, standing still.
    void step(int by);
    bool playing() const { return state_ == State::Playing; }
    bool has(std::int64_t id) const { return state_ != State::Idle && finding_.id == id; }
    double position() const { return shownAt_; }
    double duration() const { return duration_; }
    // Pictures that were passed over since play(), because a later one was due.
    int leftOut() const { return leftOut_; }

  Q_SIGNALS:
    void shown(const QImage& picture, double at);
    void moved(double at);  // of recordings without pictures, too
    void stateChanged();
    void failed(const QString& why);

  private:
    enum class State { Idle, Playing, Standing };
    struct Shown {
        double at = 0;
        QImage picture;
    };
    struct Order {  // what the thread is to do
        Finding finding;
        double from = 0;
        int side = 640;
    };

    void decodeAhead();
    void tick();
    double clock();
    void order(double from);
    void begin(double at);
    void feedSound();
    void show(const Shown& next);
    void setState(State state);
    void openSound();

    std::shared_ptr<Source> source_;
    QTimer timer_;
    State state_ = State::Idle;
    Finding finding_;
    int side_ = 640;
    double shownAt_ = 0, duration_ = 0, startedAt_ = 0;
    bool waiting_ = false;  // for the first pictures after a jump
    bool showOne_ = false;  // the next picture is shown although it stands still
    int leftOut_ = 0;
    QElapsedTimer elapsed_;
    std::unique_ptr<QAudioSink> sink_;
    QIODevice* device_ = nullptr;
    std::uint64_t written_ = 0;  // bytes of sound since the clock was started
    double steer_ = 0;           // seconds that the clock is put forward to agree with the sound

    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<Order> order_;
    std::uint64_t number_ = 0;  // of the order in hand: what was decoded for one before is dropped
    std::deque<Shown> pictures_;
    std::vector<std::int16_t> sound_;
    double decodedTo_ = 0, soundAt_ = 0, wantedTo_ = 0, readyAt_ = 0, toldDuration_ = 0;
    bool over_ = false, ready_ = false, idle_ = true, ending_ = false;
    QString trouble_;
    Control control_;
    std::thread thread_;
};

}  // namespace dreskel
