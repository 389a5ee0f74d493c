// Two photos side by side, looked at through one zoom: which of them is the sharper, the one with the eyes
// open, the one that is all there. One side is in hand; keys move it on, keep it and leave it out.
#pragma once

#include <array>
#include <QLabel>
#include <QWidget>
#include <vector>

#include "desktop/feed.h"
#include "desktop/looking.h"
#include "desktop/loupe/photo_view.h"

namespace dreskel {

class Compare : public QWidget {
    Q_OBJECT
  public:
    explicit Compare(Feed& feed, QWidget* parent = nullptr);

    // The photos that can be gone through, in order, and the two to begin with; the right one is in hand.
    void open(std::vector<std::int64_t> photos, std::int64_t left, std::int64_t right);
    std::int64_t at(int side) const { return shown_[static_cast<std::size_t>(side)]; }
    int inHand() const { return hand_; }
    PhotoView& view(int side) { return *sides_[static_cast<std::size_t>(side)].view; }
    QString caption(int side) const { return sides_[static_cast<std::size_t>(side)].caption->text(); }

  Q_SIGNALS:
    void left(std::int64_t id);  // back to the sheet, with this one current

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    bool focusNextPrevChild(bool) override { return false; }  // Tab changes hands
    void paintEvent(QPaintEvent*) override;

  private:
    struct Side {
        PhotoView* view = nullptr;
        QLabel* caption = nullptr;
        Looking* looking = nullptr;
    };

    void show(int side, std::int64_t id);
    using QWidget::show;
    void move(int by);
    void take(int side);
    void tell(int side);

    Feed& feed_;
    std::vector<std::int64_t> photos_;
    std::array<std::int64_t, 2> shown_{};
    std::array<Side, 2> sides_;
    QLabel* hint_;
    int hand_ = 1;
};

}  // namespace dreskel
