// Beside the sheet: the sides by which files are narrowed, each value with the number of files that choosing
// it would leave. What is chosen on one side adds up, the sides together narrow.
#pragma once

#include <QTreeWidget>

#include "desktop/sheet/arrangement.h"

namespace dreskel {

class NarrowPanel : public QTreeWidget {
    Q_OBJECT
  public:
    using Chosen = std::array<QSet<QString>, kFacets>;

    explicit NarrowPanel(QWidget* parent = nullptr);

    // Brings the counts up to date; what is open and where it is scrolled to stay.
    void show(const Arrangement& arrangement, const Chosen& chosen);
    using QWidget::show;

    // What the row under People offers: to look for faces, or to stop looking; `state` tells how far it is.
    void setLooking(bool looking, const QString& state);

  Q_SIGNALS:
    void peopleAsked();
    void toggled(dreskel::Facet facet, const QString& key);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QTreeWidgetItem* look_;
    bool looking_ = false;
    void toggle(QTreeWidgetItem* item);

    std::array<QTreeWidgetItem*, kFacets> sides_{};
};

}  // namespace dreskel
