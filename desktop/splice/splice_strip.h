// The part of the card around a file on the splice bench: others of its kind, free space, its pieces in
// order with arcs from each to the next, and where a follower would be taken from.
#pragma once

#include <QWidget>

#include "session/splicing.h"

namespace dreskel {

class SpliceStrip : public QWidget {
    Q_OBJECT
  public:
    explicit SpliceStrip(QWidget* parent = nullptr);

    void setCard(std::shared_ptr<Splicing> splicing);
    void setWay(const std::vector<ByteRange>& way);
    // Shown dashed; length 0: none.
    void setOffered(ByteRange offered);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::vector<ByteRange> onCard() const;  // the way without its gaps
    ByteRange view() const;

    std::shared_ptr<Splicing> splicing_;
    std::vector<ByteRange> way_;
    ByteRange offered_;
};

}  // namespace dreskel
