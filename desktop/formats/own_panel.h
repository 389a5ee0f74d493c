// Formats of the technician's own: those that are kept, one learnt from sample files or written by hand, what
// is wrong with it, and what it finds on the card in hand.
#pragma once

#include <memory>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>

#include "session/own_formats.h"
#include "source/source.h"

namespace dreskel {

class OwnPanel : public QDialog {
    Q_OBJECT
  public:
    // `source`: the card to try formats on; null when none is open.
    OwnPanel(std::shared_ptr<Source> source, QWidget* parent);
    ~OwnPanel() override;

    void learn(const QStringList& samples);

    QListWidget& list() { return *list_; }
    QPlainTextEdit& text() { return *text_; }
    QLineEdit& name() { return *name_; }
    QPushButton& keepButton() { return *keep_; }
    QPushButton& dropButton() { return *drop_; }
    QPushButton& tryButton() { return *try_; }
    QString verdict() const { return verdict_->text(); }

  private:
    QWidget* buildKept();
    QWidget* buildText();
    void refreshList(const std::string& current);
    void judge();
    void tryIt();
    void keep();

    std::shared_ptr<Source> source_;
    std::shared_ptr<Control> control_;  // of a trial that is under way
    std::vector<own::Definition> kept_;
    std::vector<own::Definition> typed_;  // what the text says, while it can be used
    QListWidget* list_;
    QPushButton* drop_;
    QLineEdit* name_;
    QComboBox* kind_;
    QPushButton* learn_;
    QPlainTextEdit* text_;
    QLabel* verdict_;
    QPushButton* try_;
    QPushButton* keep_;
};

}  // namespace dreskel
