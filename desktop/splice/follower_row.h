// One thing that could follow, as the picture would look with it: where it lies, how well it fits, and why.
// Or one good clip that could lend its settings.
#pragma once

#include <QAbstractButton>
#include <QImage>

#include "base/words.h"
#include "session/splicing.h"

namespace dreskel {

class FollowerRow : public QAbstractButton {
    Q_OBJECT
  public:
    // `behind`: where the piece before ends on the card; `look`: of the file as it is. Without a follower:
    // none, the picture or the clip ends here.
    FollowerRow(const rebuild::Follower* follower, std::uint64_t behind, std::uint32_t cluster,
                const rebuild::SpliceLook& look, Kind kind, QWidget* parent = nullptr);

    // A good clip that could lend its settings, with a picture as it would look.
    FollowerRow(const Lender& lender, QWidget* parent = nullptr);

    // High enough for all that is said of it, in whatever language.
    QSize sizeHint() const override { return {340, heightForWidth(340)}; }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;
    QString why() const { return why_; }

  Q_SIGNALS:
    void lookedAt(bool yes);  // under the pointer, or with the keyboard on it

  protected:
    void paintEvent(QPaintEvent*) override;
    void enterEvent(QEnterEvent*) override { Q_EMIT lookedAt(true); }
    void leaveEvent(QEvent*) override { Q_EMIT lookedAt(hasFocus()); }
    void focusInEvent(QFocusEvent* event) override;

  private:
    void beginRow();
    void nameRow();
    QRect whyRect(int width, int height) const;

    QImage crop_;
    // Shares of the crop's height: where it begins, and where it ends; -1: it is a picture of its own.
    double lineAt_ = 0.5, endAt_ = 1;
    double score_ = 0;
    QString why_;
};

}  // namespace dreskel
