// An earlier delivery compared with its manifest: is it still what was saved?
#pragma once

#include <memory>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QProgressBar>
#include <QPushButton>

#include "base/control.h"
#include "deliver/verification.h"

namespace dreskel {

class LaterCheck : public QDialog {
    Q_OBJECT
  public:
    explicit LaterCheck(QWidget* parent);
    ~LaterCheck() override;  // stops it; what still runs ends on its own

    QLineEdit& folder() { return *folder_; }
    QPushButton& startButton() { return *start_; }
    QString sentence() const { return sentence_->text(); }
    QString listed() const { return list_->toPlainText(); }

  private:
    void start();
    void tell(const Result<DeliveryCheck>& outcome);

    QLineEdit* folder_;
    QPushButton* start_;
    QProgressBar* bar_;
    QLabel* sentence_;
    QPlainTextEdit* list_;
    std::shared_ptr<Control> control_;  // of the one that runs; null while none does
};

}  // namespace dreskel
