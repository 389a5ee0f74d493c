// The contact sheet: thumbnails in groups, for a hundred thousand of them and for the keyboard. Draws only
// what is in view; new files come in where they belong while the place that is looked at stays.
//
// Keys: arrows, Home, End, page keys move; space or K keeps the current or the selected files, and again lets
// go; X leaves them out; 0 to 5 rate them; Return opens the loupe's full view; Ctrl with plus and minus
// changes the size.
#pragma once

#include <QAbstractScrollArea>
#include <QSet>
#include <QTimer>
#include <vector>

#include "desktop/behind.h"
#include "desktop/feed.h"
#include "desktop/sheet/arrangement.h"
#include "desktop/sheet/flipping.h"
#include "desktop/sheet/thumbnails.h"

namespace dreskel {

class Sheet : public QAbstractScrollArea {
    Q_OBJECT
  public:
    explicit Sheet(Feed& feed, QWidget* parent = nullptr);

    void setArrangement(ArrangeBy by, OrderBy order = OrderBy::AsArranged);
    void setFilter(const Filter& filter);
    const Filter& filter() const { return filter_; }
    void setCellWidth(int pixels);

    std::int64_t current() const { return current_; }
    // Before the first arrangement it counts from then on.
    void setCurrent(std::int64_t id);
    std::vector<std::int64_t> selection() const;  // the current file when nothing else is selected
    std::size_t shown() const { return places().size(); }
    const std::vector<std::int64_t>& shownIds() const { return places(); }
    // How many files each value on each side would leave.
    const Arrangement& arrangement() const { return *arrangement_; }
    void toggleKept();
    Flipping& flipping() { return flipping_; }
    QRect boxOf(std::int64_t id) const { return cellBox(arrangement_->indexOf.value(id)); }
    void toggleLeftOut();
    void rate(int rating);
    // To the first file under the next heading, or to the first of this one, then of the one before.
    void goToHeading(int by);
    // Everything that is shown.
    void selectAll();

  Q_SIGNALS:
    void currentChanged(std::int64_t id);
    void opened(std::int64_t id);
    void arranged();  // the number of files shown may have changed

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void scrollContentsBy(int, int) override { viewport()->update(); }
    void keyPressEvent(QKeyEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    struct Laid {
        std::size_t group;
        std::size_t first;  // index into places()
        std::size_t count;
        int top;  // pixels from the top of the sheet; the heading is above
        int rows;
    };

    const std::vector<std::int64_t>& places() const { return arrangement_->order; }
    void rearrange();
    void apply(std::shared_ptr<const Arrangement> arrangement);
    void leaveHidden(const std::vector<std::int64_t>& before, std::size_t at);
    void lay();
    void ensureVisible(std::int64_t id);
    void paintTie(QPainter& painter, const QRect& box) const;
    void paintCell(QPainter& painter, const QRect& box, const Finding& finding);
    int rowHeight() const;  // with the gap below it
    QRect cellBox(std::size_t index) const;
    std::size_t indexAt(const QPoint& place) const;
    void moveTo(std::size_t index, bool extend);
    void moveRows(int rows, bool extend);

    Feed& feed_;
    Thumbnails thumbnails_;
    Flipping flipping_;
    QTimer settle_;
    ArrangeBy by_ = ArrangeBy::Shoot;
    Filter filter_;
    OrderBy order_ = OrderBy::AsArranged;
    std::shared_ptr<const Arrangement> arrangement_ = std::make_shared<const Arrangement>();
    bool reveal_ = false;  // the current file is to be brought into view with the next arrangement
    std::vector<Laid> laid_;
    int cellWidth_ = 132;
    int columns_ = 1;
    int total_ = 0;
    std::int64_t current_ = 0;
    std::int64_t awaited_ = 0;  // becomes the current file once there is an arrangement that shows it
    QSet<std::int64_t> selected_;
    std::size_t anchor_ = 0;
    Index index_;  // of the one that arranges
    Behind<ArrangeRequest, std::shared_ptr<const Arrangement>> arranger_;
};

}  // namespace dreskel
