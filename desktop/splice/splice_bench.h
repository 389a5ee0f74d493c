// The splice bench: one photo or clip and its joins. The picture as far as it is right, or its frames along
// time; where it breaks, what could follow as it would look, and each change with the result at once. Nothing
// is changed in the job until it is kept.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>

#include "desktop/feed.h"
#include "desktop/splice/follower_row.h"
#include "desktop/splice/splice_frames.h"
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
    SpliceFrames& frames() { return *frames_; }
    std::vector<FollowerRow*> followers() const { return rows_; }
    QPushButton& undoButton() { return *undo_; }
    QPushButton& redoButton() { return *redo_; }
    QPushButton& keepButton() { return *keep_; }
    QPushButton& forgetButton() { return *forget_; }
    QPushButton& leaveButton() { return *leave_; }
    QPushButton& backClusterButton() { return *backCluster_; }
    QPushButton& onClusterButton() { return *onCluster_; }
    QPushButton& takeOutButton() { return *takeOut_; }
    QPushButton& earlierJoinButton() { return *earlier_; }
    QPushButton& laterJoinButton() { return *later_; }

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
    // The piece in front of the join in hand: a gap as long as it takes its place.
    void takeOut();
    // A good clip for one that lost its index.
    void chooseLender(std::size_t lender);
    void showLenders();
    void clearRows();
    void addRow(FollowerRow* row);
    void onOpened(const std::shared_ptr<Splicing>& splicing);
    void onLooked(const rebuild::SpliceLook& look);
    void onFollowed(const rebuild::Followers& followers);
    void refresh();
    // The join in hand lies behind this many places; with all of them: where the way ends.
    std::size_t upTo() const { return std::min(join_ + 1, way_.size()); }
    std::uint32_t inHand() const;  // a row, or a moment
    QString placeInHand() const;
    bool lends() const { return splicing_ && !splicing_->lenders().empty(); }
    bool isClip() const { return splicing_ && splicing_->kind() != Kind::Photo; }

    Feed& feed_;
    std::int64_t id_ = 0;
    std::unique_ptr<SpliceWork> work_;
    std::shared_ptr<Splicing> splicing_;
    Way way_;
    std::vector<Way> steps_;
    std::size_t at_ = 0;  // of them
    QString refused_;     // why it cannot be put on the bench
    std::size_t join_ = 0;
    rebuild::SpliceLook look_;
    quint64 wish_ = 0;  // the one that is worked on; what is told of others is old
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
    SpliceFrames* frames_;
    QLabel* where_;
    QPushButton* earlier_;
    QPushButton* later_;
    QPushButton* backSector_;
    QPushButton* onSector_;
    QPushButton* backCluster_;
    QPushButton* onCluster_;
    QPushButton* takeOut_;
    std::size_t lender_ = 0;
    QWidget* foot_;
    QLabel* title_;  // of what is listed
    QLabel* tried_;
    QVBoxLayout* list_;
    std::vector<FollowerRow*> rows_;
};

}  // namespace dreskel
