// Facts in two columns, a name and what it is. Lays out in no time, so that it can follow the arrow keys; the
// context menu copies them.
#pragma once

#include <QString>
#include <QWidget>
#include <utility>
#include <vector>

namespace dreskel {

class FactsView : public QWidget {
    Q_OBJECT
  public:
    using Rows = std::vector<std::pair<QString, QString>>;

    explicit FactsView(QWidget* parent = nullptr);

    void setRows(Rows rows);
    // A line each, name and value apart by a tab.
    QString text() const;
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;
    QSize sizeHint() const override { return {200, heightForWidth(width())}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    int nameWidth() const;
    int rowHeight(const QString& value, int width) const;

    Rows rows_;
};

}  // namespace dreskel
