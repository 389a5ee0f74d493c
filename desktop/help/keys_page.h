// All keys on one page, by what one is doing.
#pragma once

#include <QDialog>

namespace dreskel {

class KeysPage : public QDialog {
    Q_OBJECT
  public:
    explicit KeysPage(QWidget* parent);
};

}  // namespace dreskel
