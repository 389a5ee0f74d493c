// One card, stick or disk on the front page: drawn to scale with its volumes, a plain sentence on its state
// with the facts behind it, and what can be done with it. Nothing is read of it but the first look.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "desktop/front/copy_row.h"
#include "session/session.h"
#include "source/device_list.h"

namespace dreskel {

class SourceCard : public QWidget {
    Q_OBJECT
  public:
    // `service`: whether things can be unmounted and let go of from here.
    SourceCard(const Device& device, bool service, QWidget* parent = nullptr);

    const Device& device() const { return device_; }
    bool service() const { return service_; }
    bool looking() const { return looking_; }
    QString sentence() const { return sentence_->text(); }
    // What was done or refused, in words.
    void say(const QString& text);
    QString said() const { return message_->text(); }

    QPushButton* openButton() { return open_; }
    QPushButton* copyButton() { return copy_; }
    QPushButton* unmountButton() { return unmount_; }
    QPushButton* letGoButton() { return letGo_; }
    QPushButton* factsButton() { return why_; }
    QPushButton* unlockButton() { return unlock_; }  // of a disk of this computer only
    CopyRow& copyRow() { return *copyRow_; }

  Q_SIGNALS:
    void openAsked(const QString& path);
    void copyAsked(const QString& path, const dreskel::CopyRequest& request);
    void unmountAsked();
    void letGoAsked();

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QWidget* buildHead();
    QWidget* buildActions();
    QWidget* buildConsent();
    void tellMounts();
    void look();
    void onLooked(const std::shared_ptr<Result<Inspection>>& outcome);
    void setNext(QPushButton* button);

    Device device_;
    bool service_;
    bool looking_ = false;
    QWidget* strip_;
    QLabel* sentence_;
    QLabel* mounted_;
    QLabel* message_;
    QLabel* facts_;
    QPushButton* why_;
    QPushButton* open_ = nullptr;
    QPushButton* copy_ = nullptr;
    QPushButton* unmount_ = nullptr;
    QPushButton* letGo_ = nullptr;
    QPushButton* unlock_ = nullptr;
    QWidget* actions_ = nullptr;
    CopyRow* copyRow_ = nullptr;
};

}  // namespace dreskel
