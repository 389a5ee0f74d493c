// The pictures along a clip's length, for the pointer that rests on its cell: from its pieces on the card,
// one clip at a time.
#pragma once

#include <QImage>
#include <QObject>
#include <QTimer>
#include <vector>

#include "desktop/behind.h"
#include "desktop/feed.h"

namespace dreskel {

class Flipping : public QObject {
    Q_OBJECT
  public:
    explicit Flipping(Feed& feed, QObject* parent = nullptr);
    ~Flipping() override { control_->stop(); }

    // The clip under the pointer, and how far along its cell, 0 to 1; 0 for none.
    void point(std::int64_t id, double along);
    std::int64_t clip() const { return id_; }
    // Null until they are there.
    const QImage* picture() const;

  Q_SIGNALS:
    void changed();

  private:
    struct Frames {
        std::int64_t id = 0;
        std::vector<QImage> pictures;
    };

    Feed& feed_;
    QTimer rest_;  // a pointer that only passes asks for nothing
    std::int64_t id_ = 0;
    double along_ = 0;
    Frames frames_;
    std::shared_ptr<Control> control_ = std::make_shared<Control>();
    Behind<std::shared_ptr<const Finding>, Frames> decode_;
};

}  // namespace dreskel
