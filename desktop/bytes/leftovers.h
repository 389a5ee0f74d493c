// The stretches of a card that nothing explains: where, how long, what they look like, and their bytes.
#pragma once

#include <memory>
#include <QDialog>
#include <QLabel>
#include <QTreeWidget>

#include "desktop/bytes/hex_view.h"
#include "session/session.h"

namespace dreskel {

class Leftovers : public QDialog {
    Q_OBJECT
  public:
    Leftovers(std::shared_ptr<Session> session, QWidget* parent);
    ~Leftovers() override;

    QTreeWidget& list() { return *list_; }
    HexView& bytes() { return *bytes_; }
    QString sentence() const { return sentence_->text(); }

  private:
    void fill(const std::vector<Stretch>& stretches);

    std::shared_ptr<std::atomic<bool>> wanted_;  // false ends the looking
    QLabel* sentence_;
    QTreeWidget* list_;
    HexView* bytes_;
};

}  // namespace dreskel
