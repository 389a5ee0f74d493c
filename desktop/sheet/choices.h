// What the sheet shows and in what order: the row above it, and below that row, once something is chosen
// beside the sheet or on the band, each choice in words, to be undone one by one.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QWidget>

#include "desktop/feed.h"
#include "desktop/sheet/arrangement.h"

namespace dreskel {

class Choices : public QWidget {
    Q_OBJECT
  public:
    explicit Choices(Feed& feed, QWidget* parent = nullptr);

    const Filter& filter() const { return filter_; }
    ArrangeBy arrangedBy() const;
    OrderBy orderedBy() const;
    void type(const QString& text);
    void toggle(Facet facet, const QString& key);
    void setSpan(std::optional<ByteRange> span);
    // Only these files; `why` says what they have in common.
    void setAmong(std::optional<QSet<std::int64_t>> among, const QString& why, const Nearness& apart = {});
    void clear();
    // Brings the numbers up to date; of what is shown and what each value would leave.
    void tell(const Arrangement& arrangement, std::size_t shown);

    // In words: what is shown of what.
    QString sentence() const { return shown_->text(); }
    QComboBox* arrangeBox() { return arrange_; }
    QComboBox* orderBox() { return order_; }
    QToolButton* damagedButton() { return damaged_; }
    QToolButton* kindButton(Kind kind);
    QToolButton* narrowButton() { return narrow_; }
    QToolButton* askedButton() { return asked_; }
    QPushButton* leftoversButton() { return leftovers_; }
    // Each undoes one choice.
    std::vector<QToolButton*> chosenButtons() const;

  Q_SIGNALS:
    void filterChanged();
    void arrangementChanged();
    void narrowAsked(bool open);
    void askedAsked(bool open);
    void leftoversAsked();

  private:
    QToolButton* choice(const QString& text, const QColor& mark);
    QToolButton* addChosen(const QString& text);
    void tellChosen(const Arrangement& arrangement);
    void change();

    Feed& feed_;
    Filter filter_;
    QString amongWhy_;
    QLabel* shown_;
    QComboBox* arrange_;
    QComboBox* order_;
    QToolButton* photos_;
    QToolButton* clips_;
    QToolButton* sound_;
    QToolButton* others_;
    QToolButton* damaged_;
    QToolButton* narrow_;
    QToolButton* asked_;
    QPushButton* leftovers_;  // once the search is finished
    QWidget* chosenRow_;
    QString chosenShown_;  // what the row was made for
};

}  // namespace dreskel
