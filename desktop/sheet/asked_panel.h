// What the client asked for, ticked against what was found, and the technician's notes on the job.
#pragma once

#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTimer>
#include <QWidget>

#include "desktop/feed.h"

namespace dreskel {

class AskedPanel : public QWidget {
    Q_OBJECT
  public:
    explicit AskedPanel(Feed& feed, QWidget* parent = nullptr);
    ~AskedPanel() override;

    // These files are what the current one of the list asks for: it is ticked, and holds them.
    void answerWith(const std::vector<std::int64_t>& ids);
    const std::vector<Wish>& wishes() const { return wishes_; }
    QLineEdit& field() { return *field_; }
    QListWidget& list() { return *list_; }
    QPlainTextEdit& note() { return *note_; }
    QPushButton& answerButton() { return *answer_; }
    // "asked for 2 of 5"
    QString sentence() const;

  Q_SIGNALS:
    void changed();
    void answerAsked();                                                         // with what is selected
    void filesAsked(const std::vector<std::int64_t>& ids, const QString& why);  // to be shown alone

  private:
    void add();
    void remove();
    void fill();
    void store();
    void storeNote();
    void take(QListWidgetItem* item);

    std::shared_ptr<Session> session_;  // the feed may be gone before the last note is stored
    std::vector<Wish> wishes_;
    QLineEdit* field_;
    QListWidget* list_;
    QPushButton* answer_;
    QPushButton* show_;
    QPlainTextEdit* note_;
    QTimer noteTimer_;  // stores what was written a moment after the last key
    bool filling_ = false;
};

}  // namespace dreskel
