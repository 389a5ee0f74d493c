// The stretches of a card that nothing explains: where, how long, what they look like, and their bytes.
#pragma once

#include <memory>
#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>

#include "desktop/bytes/hex_view.h"
#include "desktop/delivery/delivery_task.h"
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
    QPushButton& saveButton() { return *save_; }
    // All of them, as raw pieces; the sentence says what became of it.
    void saveTo(const QString& folder);

  private:
    void fill(const std::vector<Stretch>& stretches);

    std::shared_ptr<std::atomic<bool>> wanted_;  // false ends the looking
    QLabel* sentence_;
    QTreeWidget* list_;
    HexView* bytes_;
    QPushButton* save_;
    std::shared_ptr<Session> session_;
    std::unique_ptr<DeliveryTask> task_;
};

}  // namespace dreskel
