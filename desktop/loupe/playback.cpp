#include "desktop/loupe/playback.h"

#include <algorithm>
#include <QAudioFormat>
#include <QAudioSink>
#include <QMediaDevices>

#include "desktop/look/text.h"
#include "desktop/looking.h"
#include "desktop/sheet/thumbnails.h"

namespace dreskel {
namespace {

using media::DecoderProcess;

constexpr double kAhead = 1.0;  // seconds that are decoded before they are needed
// With less than this decoded ahead, in seconds, pictures are left out until there is more again.
constexpr double kShort = 0.3, kEnough = 0.6;
constexpr double kStretch = 0.25;
constexpr int kTick = 8;  // milliseconds
constexpr std::size_t kBytesASecond =
    std::size_t{DecoderProcess::kSoundRate} * DecoderProcess::kSoundChannels * sizeof(std::int16_t);
constexpr double kInHand = 0.5;  // seconds that must be decoded before it begins
constexpr double kSteering = 0.05;

// Of the picture's own memory.
QImage imageOf(media::PlayedPicture picture) {
    auto* pixels = picture.pixels.release();
    return {pixels,
            static_cast<int>(picture.width),
            static_cast<int>(picture.height),
            static_cast<qsizetype>(picture.stride),
            QImage::Format_RGB32,
            [](void* mine) { delete[] static_cast<std::uint8_t*>(mine); },
            pixels};
}

}  // namespace

Playback::Playback(std::shared_ptr<Source> source, QObject* parent)
    : QObject(parent), source_(std::move(source)), thread_([this] { decodeAhead(); }) {
    timer_.setTimerType(Qt::PreciseTimer);
    timer_.setInterval(kTick);
    connect(&timer_, &QTimer::timeout, this, &Playback::tick);
}

Playback::~Playback() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        control_.stop();
        changed_.notify_all();
    }
    thread_.join();
}

void Playback::openSound() {
    if (sink_) return;
    const auto output = QMediaDevices::defaultAudioOutput();
    if (output.isNull()) return;
    QAudioFormat format;
    format.setSampleRate(DecoderProcess::kSoundRate);
    format.setChannelCount(DecoderProcess::kSoundChannels);
    format.setSampleFormat(QAudioFormat::Int16);
    if (!output.isFormatSupported(format)) return;
    sink_ = std::make_unique<QAudioSink>(output, format);
    sink_->setBufferSize(static_cast<qsizetype>(kBytesASecond / 5));
}

void Playback::setState(State state) {
    if (state == state_) return;
    state_ = state;
    if (state == State::Idle) timer_.stop();
    Q_EMIT stateChanged();
}

void Playback::play(const Finding& finding, double from, int side) {
    finding_ = finding;
    side_ = side;
    duration_ = finding.description.duration.value_or(0);
    leftOut_ = 0;
    openSound();
    setState(State::Playing);
    order(from);
}

void Playback::order(double from) {
    {
        const std::lock_guard lock(mutex_);
        order_ = Order{finding_, from, side_};
        ++number_;
        pictures_.clear();
        sound_.clear();
        over_ = ready_ = idle_ = false;
        toldDuration_ = 0;
        trouble_.clear();
        wantedTo_ = from + kAhead;
        readyAt_ = from + kInHand;
        waiting_ = true;
        changed_.notify_all();
    }
    shownAt_ = from;
    if (sink_) sink_->reset();
    device_ = nullptr;
    timer_.start();
}

void Playback::pause() {
    if (state_ != State::Playing) return;
    if (sink_) sink_->reset();
    device_ = nullptr;
    setState(State::Standing);
}

void Playback::goOn() {
    if (state_ != State::Standing) return;
    setState(State::Playing);
    order(duration_ > 0 && shownAt_ >= duration_ - 0.1 ? 0 : shownAt_);
}

void Playback::stop() {
    if (state_ == State::Idle) return;
    if (sink_) sink_->reset();
    device_ = nullptr;
    {
        const std::lock_guard lock(mutex_);
        ++number_;
        order_.reset();
        pictures_.clear();
        sound_.clear();
        idle_ = true;
    }
    setState(State::Idle);
}

void Playback::seek(double to) {
    if (state_ == State::Idle) return;
    showOne_ = state_ == State::Standing && finding_.kind == Kind::Video;
    order(std::max(0.0, to));
    if (finding_.kind == Kind::Audio) Q_EMIT moved(shownAt_);
}

void Playback::step(int by) {
    if (state_ == State::Idle) return;
    pause();
    showOne_ = true;
    const double frame = 1.0 / std::clamp(finding_.description.frameRate.value_or(25), 1.0, 240.0);
    bool there = false;
    if (by > 0) {
        const std::lock_guard lock(mutex_);
        there = !pictures_.empty();
        wantedTo_ = shownAt_ + kAhead;
        changed_.notify_all();
    }
    if (!there) order(std::max(0.0, shownAt_ + by * frame + (by > 0 ? 0 : -frame / 4)));
    timer_.start();
}

// By the wall, put right little by little to agree with what the sound device has played.
double Playback::clock() {
    const double wall = startedAt_ + static_cast<double>(elapsed_.nsecsElapsed()) * 1e-9;
    if (sink_ && device_ != nullptr && written_ > 0 && sink_->state() == QAudio::ActiveState) {
        const auto waiting =
            static_cast<std::uint64_t>(std::max<qsizetype>(0, sink_->bufferSize() - sink_->bytesFree()));
        const double heard =
            startedAt_ + static_cast<double>(written_ - std::min(written_, waiting)) / kBytesASecond;
        steer_ += kSteering * (heard - (wall + steer_));
    }
    return wall + steer_;
}

void Playback::begin(double at) {
    waiting_ = false;
    startedAt_ = at;
    written_ = 0;
    steer_ = 0;
    elapsed_.start();
    if (sink_ && state_ == State::Playing) device_ = sink_->start();
}

void Playback::feedSound() {
    if (!sink_ || device_ == nullptr) {
        // Nobody hears it; it must not pile up.
        const auto past =
            static_cast<std::size_t>(std::max(0.0, clock() - soundAt_) * DecoderProcess::kSoundRate) *
            DecoderProcess::kSoundChannels;
        const auto gone = std::min(sound_.size(), past);
        sound_.erase(sound_.begin(), sound_.begin() + static_cast<std::ptrdiff_t>(gone));
        soundAt_ += static_cast<double>(gone) / DecoderProcess::kSoundChannels / DecoderProcess::kSoundRate;
        return;
    }
    const auto room =
        std::min<std::size_t>(sound_.size() * sizeof(std::int16_t),
                              static_cast<std::size_t>(std::max<qsizetype>(0, sink_->bytesFree()))) /
        4 * 4;
    if (room == 0) return;
    const auto took = device_->write(reinterpret_cast<const char*>(sound_.data()), static_cast<qint64>(room));
    if (took <= 0) return;
    written_ += static_cast<std::uint64_t>(took);
    soundAt_ += static_cast<double>(took) / kBytesASecond;
    sound_.erase(sound_.begin(), sound_.begin() + static_cast<std::ptrdiff_t>(took / 2));
}

void Playback::show(const Shown& next) {
    shownAt_ = next.at;
    Q_EMIT shown(next.picture, next.at);
    Q_EMIT moved(next.at);
}

void Playback::tick() {
    std::optional<Shown> next;
    QString trouble;
    bool ended = false;
    {
        const std::lock_guard lock(mutex_);
        trouble = trouble_;
        if (toldDuration_ > 0) duration_ = toldDuration_;
        if (waiting_) {
            if (!ready_ && trouble.isEmpty()) return;
            if (trouble.isEmpty())
                begin(pictures_.empty() ? soundAt_ : std::min(pictures_.front().at, soundAt_));
        }
        if (state_ == State::Standing && showOne_ && !pictures_.empty()) {
            next = std::move(pictures_.front());
            pictures_.pop_front();
            showOne_ = false;
        } else if (state_ == State::Playing && trouble.isEmpty()) {
            const double now = clock();
            while (!pictures_.empty() && pictures_.front().at <= now) {
                if (next) ++leftOut_;
                next = std::move(pictures_.front());
                pictures_.pop_front();
            }
            feedSound();
            if (finding_.kind == Kind::Audio) shownAt_ = std::min(now, std::max(duration_, decodedTo_));
            // Decoding fell behind: the clock waits for it.
            if (!over_ && now > decodedTo_) {
                waiting_ = true;
                ready_ = false;
                readyAt_ = decodedTo_ + kInHand;
                if (sink_) sink_->reset();
                device_ = nullptr;
            }
            ended = over_ && pictures_.empty() && now >= decodedTo_ - 0.01;
            wantedTo_ = now + kAhead;
            changed_.notify_all();
        }
    }
    if (!trouble.isEmpty()) {
        stop();
        Q_EMIT failed(trouble);
        return;
    }
    if (next) {
        show(*next);
    } else if (state_ == State::Playing && finding_.kind == Kind::Audio) {
        Q_EMIT moved(shownAt_);
    }
    if (ended) pause();
    if (state_ == State::Standing && !showOne_) timer_.stop();
}

void Playback::decodeAhead() {
    DecoderProcess decoder(source_);
    Order held;
    bool hurry = false;
    for (;;) {
        std::optional<Order> fresh;
        std::uint64_t number = 0;
        {
            std::unique_lock lock(mutex_);
            changed_.wait(lock, [&] {
                return ending_ || order_ ||
                       (!idle_ && !over_ && trouble_.isEmpty() && decodedTo_ < wantedTo_);
            });
            if (ending_) return;
            fresh = std::exchange(order_, std::nullopt);
            number = number_;
            if (fresh) hurry = false;
        }
        if (fresh) held = *fresh;
        const DecoderProcess::Manner manner{kStretch, held.side, hurry};
        auto stretch =
            fresh ? decoder.playFrom(held.finding.pieces, held.finding.format, fresh->from, manner, &control_)
                  : decoder.playOn(manner, &control_);
        std::deque<Shown> pictures;
        if (stretch) {
            for (auto& picture : stretch.value().pictures) {
                const double at = picture.at;
                pictures.push_back(
                    {at, turned(imageOf(std::move(picture)), held.finding.description.orientation)});
            }
        }
        const std::lock_guard lock(mutex_);
        if (number != number_) continue;
        if (!stretch) {
            trouble_ = Text::ofCore(stretch.error().what);
            continue;
        }
        auto& got = stretch.value();
        if (fresh) {
            soundAt_ = got.soundAt;
            toldDuration_ = got.duration;
        }
        std::move(pictures.begin(), pictures.end(), std::back_inserter(pictures_));
        sound_.insert(sound_.end(), got.sound.begin(), got.sound.end());
        decodedTo_ = got.until;
        over_ = got.ended;
        // wantedTo_ is kAhead after what is shown. A clip that waits to begin is not late.
        const double ahead = decodedTo_ - (wantedTo_ - kAhead);
        hurry = !waiting_ && ready_ && ahead < (hurry ? kEnough : kShort);
        if (over_) {
            const double heard =
                got.soundAt + static_cast<double>(got.sound.size() / 2) / DecoderProcess::kSoundRate;
            decodedTo_ = std::max(heard, pictures_.empty() ? 0.0 : pictures_.back().at);
        }
        ready_ = ready_ || over_ || decodedTo_ >= readyAt_;
    }
}

}  // namespace dreskel
