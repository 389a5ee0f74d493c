// The tray: what is kept, where it goes and whether it fits, and the one obvious button for the next step of
// the work.
#pragma once

#include <memory>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTimer>
#include <QWidget>

#include "desktop/delivery/delivery_task.h"
#include "desktop/feed.h"

namespace dreskel {

class Tray : public QWidget {
    Q_OBJECT
  public:
    explicit Tray(Feed& feed, QWidget* parent = nullptr);

    void setDestination(const QString& folder);
    QString destination() const { return destination_->text(); }
    QComboBox* layoutChoice() { return layout_; }
    QCheckBox* versionsChoice() { return versions_; }
    QMenu* placesMenu() { return places_; }
    QPushButton* placesButton() { return choose_; }
    QLineEdit* namesField() { return pattern_; }
    QPushButton* nextButton() { return next_; }
    // The other way to search: only what folders name, or, after that, the rest of the card.
    QPushButton* otherSearchButton() { return otherSearch_; }
    bool saving() const { return task_ != nullptr; }
    // Of the last delivery; null before one has ended.
    const DeliverySum* lastSum() const { return sum_.get(); }
    QString message() const { return message_->text(); }

  Q_SIGNALS:
    void searchAsked(bool namedOnly);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    enum class Step { Search, Wait, KeepWhole, Choose, Save, Stop, Show };

    Step step() const;
    void refresh();
    void doNext();
    void choose();
    void offerPlaces();
    void browse();
    // What the destination cannot hold, or empty.
    QString limitsText() const;
    QWidget* makeNaming();
    void tellNames();
    NamePattern names() const;  // as it is set, or the usual one while it is none
    void save();
    void onSaved(const Result<DeliverySum>& outcome);
    void checkRoom();
    std::vector<std::int64_t> keptIds() const;
    Layout layout() const;
    // What the first of the kept files would be called there.
    QString example() const;

    Feed& feed_;
    QTimer timer_;
    QLabel* kept_;
    QLabel* message_;
    QLineEdit* destination_;
    QPushButton* choose_;
    QMenu* places_;
    QCheckBox* versions_;
    QPushButton* naming_;
    QLineEdit* pattern_;             // of names, in the menu of that button
    QLabel* patternShown_;           // what it makes of the first kept files
    std::uint64_t largestKept_ = 0;  // bytes
    bool versionsFit_ = false;       // there is a kept file that one could be made of
    std::optional<std::uint64_t> largestAllowed_;
    QComboBox* layout_;
    QPushButton* report_;
    QLabel* room_;
    QPushButton* details_;
    QPushButton* otherSearch_;
    QPushButton* next_;
    std::unique_ptr<DeliveryTask> task_;
    std::shared_ptr<DeliverySum> sum_;
    std::vector<std::int64_t> savedIds_;  // what was kept when the last delivery began
    QString savedTo_;
    std::uint64_t free_ = 0, total_ = 0;
    QString refusal_;  // why nothing can be saved to the destination
    std::uint64_t checkedBytes_ = 0;
    QString checkedPath_;
};

}  // namespace dreskel
