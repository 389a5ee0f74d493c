// Keeping a job that is done with for the record: says what would go, and does it when asked.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>

#include "session/session.h"

namespace dreskel {

class SmallPanel : public QDialog {
    Q_OBJECT
  public:
    SmallPanel(std::shared_ptr<Session> session, QWidget* parent);

    QCheckBox& copyChoice() { return *copyToo_; }
    QPushButton& doButton() { return *do_; }
    QString sentence() const { return sentence_->text(); }

  Q_SIGNALS:
    void made(bool withoutCopy);

  private:
    void make();

    std::shared_ptr<Session> session_;
    QLabel* sentence_;
    QCheckBox* copyToo_;
    QPushButton* do_;
};

}  // namespace dreskel
