// The splice bench: one photo and its joins. The picture as far as it is right, the line where it breaks,
// what could follow as it would look, and each change with the result at once. Nothing is changed in the job
// until the picture is kept.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>

#include "desktop/feed.h"
#include "desktop/splice/follower_row.h"
#include "desktop/splice/splice_picture.h"
#include "desktop/splice/splice_strip.h"
#include "desktop/splice/splice_work.h"

namespace dreskel {

class SpliceBench : public QWidget {
    Q_OBJECT
  public:
    explicit SpliceBench(Feed& feed, QWidget* parent = nullptr);

    void open(std::int64_t id);
    // Through what was done: back, or on again.
    void step(int by);
    const Way& way() const { return way_; }
    bool ready() const { return haveLook_ && haveFollowers_; }  // nothing is being worked out
    const rebuild::SpliceLook& lookOfIt() const { return look_; }
    SplicePicture& picture() { return *picture_; }
    std::vector<FollowerRow*> followers() const { return rows_; }
    QPushButton& undoButton() { return *undo_; }
    QPushButton& redoButton() { return *redo_; }
    QPushButton& keepButton() { return *keep_; }
    QPushButton& forgetButton() { return *forget_; }
    QPushButton& leaveButton() { return *leave_; }
    QPushButton& backClusterButton() { return *backCluster_; }
    QPushButton& onClusterButton() { return *onCluster_; }
    QPushButton& earlierJoinButton() { return *earlier_; }

  Q_SIGNALS:
    void left();

  protected:
    void paintEvent(QPaintEvent*) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QWidget* buildHead();
    QWidget* buildFoot();
    void change(Way way);  // a step that can be undone
    void ask();
    void choose(std::size_t join);
    void move(std::int64_t bytes);
    void take(const ByteRange& place, std::int64_t moved);
    void onOpened(const std::shared_ptr<Splicing>& splicing);
    void onLooked(const rebuild::SpliceLook& look);
    void onFollowed(const rebuild::Followers& followers);
    void refresh();
    // The join in hand lies behind this many places; with all of them: where the way ends.
    std::size_t upTo() const { return std::min(join_ + 1, way_.size()); }
    std::uint32_t rowInHand() const;

    Feed& feed_;
    std::int64_t id_ = 0;
    std::unique_ptr<SpliceWork> work_;
    std::shared_ptr<Splicing> splicing_;
    Way way_;
    std::vector<Way> steps_;
    std::size_t at_ = 0;  // of them
    std::size_t join_ = 0;
    rebuild::SpliceLook look_;
    bool haveLook_ = false, haveFollowers_ = false, first_ = false;

    QLabel* name_;
    QLabel* about_;
    QPushButton* undo_;
    QPushButton* redo_;
    QPushButton* forget_;
    QPushButton* leave_;
    QPushButton* keep_;
    SpliceStrip* strip_;
    SplicePicture* picture_;
    QLabel* where_;
    QPushButton* earlier_;
    QPushButton* later_;
    QPushButton* backSector_;
    QPushButton* onSector_;
    QPushButton* backCluster_;
    QPushButton* onCluster_;
    QLabel* tried_;
    QVBoxLayout* list_;
    std::vector<FollowerRow*> rows_;
};

}  // namespace dreskel
