// What the shop puts on its reports, set once: name, address, picture, language, advice.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>

#include "deliver/shop.h"

namespace dreskel {

class ShopPanel : public QDialog {
    Q_OBJECT
  public:
    explicit ShopPanel(QWidget* parent);

    QLineEdit& name() { return *name_; }
    QPlainTextEdit& address() { return *address_; }
    QLineEdit& logo() { return *logo_; }
    QComboBox& language() { return *language_; }
    QPlainTextEdit& advice() { return *advice_; }
    QPushButton& saveButton() { return *save_; }
    QString message() const { return message_->text(); }

  private:
    void fill(const Shop& shop);
    void store();
    void showLogo();
    Language chosen() const { return static_cast<Language>(language_->currentData().toInt()); }

    QLineEdit* name_;
    QPlainTextEdit* address_;
    QLineEdit* logo_;
    QLabel* picture_;
    QComboBox* language_;
    QPlainTextEdit* advice_;
    QLabel* message_;
    QPushButton* save_;
    Language shown_ = Language::English;  // whose usual advice is in the field, unless it was changed
};

}  // namespace dreskel
