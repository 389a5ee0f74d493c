// The large view of one file with its facts: what it is, in what state, where on the card it lies, and why
// that is believed.
#pragma once

#include <array>
#include <QBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QStackedWidget>
#include <QTimer>
#include <QToolButton>

#include "desktop/behind.h"
#include "desktop/feed.h"
#include "desktop/looking.h"
#include "desktop/loupe/clip_view.h"
#include "desktop/loupe/facts_view.h"
#include "desktop/loupe/photo_view.h"
#include "desktop/loupe/playback.h"
#include "desktop/loupe/sound_view.h"

namespace dreskel {

class Loupe : public QWidget {
    Q_OBJECT
  public:
    explicit Loupe(Feed& feed, QWidget* parent = nullptr);

    void setCurrent(std::int64_t id);
    // Fills the window with the picture, without the facts.
    void setFull(bool full);
    bool isFull() const { return full_; }
    PhotoView& photo() { return *photo_; }
    ClipView& clip() { return *clip_; }
    Playback& playback() { return playback_; }
    QToolButton& playButton() { return *play_; }
    // That of the row of tools which is shown.
    QToolButton& spliceButton() { return splice_[1]->isVisible() ? *splice_[1] : *splice_[0]; }
    QLineEdit& note() { return *note_; }
    HistogramView& histogram() { return *histogram_; }
    // Begins to play what is shown, stands still, or plays on.
    void togglePlaying();
    // From just before the next join of a clip on; from the first one behind the last.
    void playNextJoin();

  Q_SIGNALS:
    void fullAsked(bool full);
    void moveAsked(int by);  // to the next or the previous file
    void noteDone();         // the note was written; back to the sheet
    void keepAsked();
    void leaveOutAsked();
    void rateAsked(int rating);
    void spliceAsked(std::int64_t id);

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    void paintEvent(QPaintEvent*) override;

  private:
    // What the job holds of a file to look at, until it is decoded.
    struct Small {
        std::int64_t id = 0;
        Preview preview;
        QImage picture;
    };

    void refresh();
    void onSmall(const Small& small);
    void storeNote();
    void tellFacts(const Finding& finding);
    void onLooked(const Looked& looked);
    template <class Act>
    QToolButton* addTool(QBoxLayout* line, const QString& text, const QString& hint, Act&& act);
    QWidget* makePlayer();
    void playFrom(double at);
    void stepFrame(int by);
    void tellPlaying();

    Feed& feed_;
    Looking looking_;
    Playback playback_;
    QTimer settle_;
    QStackedWidget* stage_;
    PhotoView* photo_;
    ClipView* clip_;
    SoundView* sound_;
    QLabel* nothing_;
    QWidget* tools_;
    QWidget* player_;
    QToolButton* play_ = nullptr;
    QToolButton* nextJoin_ = nullptr;
    std::array<QToolButton*, 2> frameSteps_{};
    QLabel* playedTo_ = nullptr;
    QWidget* words_;
    std::array<QToolButton*, 2> large_{};  // of photos, and of clips
    std::array<QToolButton*, 2> splice_;   // for a photo, for a clip
    QLabel* title_;
    QLabel* state_;
    HistogramView* histogram_;
    FactsView* facts_;
    QLabel* reasons_;
    QLineEdit* note_;
    std::int64_t noteFor_ = 0;  // the file whose note is in the field
    std::int64_t current_ = 0;
    std::int64_t shownFor_ = 0;  // the file that is shown as it was decoded
    bool full_ = false;
    Behind<std::int64_t, Small> small_;
};

}  // namespace dreskel
