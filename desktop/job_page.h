// The job window: the band across the top, the sheet and the loupe, the tray at the foot, and one sentence on
// what is being done.
#pragma once

#include <memory>
#include <QLabel>
#include <QPushButton>
#include <QSplitter>
#include <QToolButton>
#include <QWidget>

#include "desktop/band/band.h"
#include "desktop/feed.h"
#include "desktop/loupe/loupe.h"
#include "desktop/sheet/sheet.h"
#include "desktop/tray/tray.h"

namespace dreskel {

class JobPage : public QWidget {
    Q_OBJECT
  public:
    explicit JobPage(std::shared_ptr<Session> session, QWidget* parent = nullptr);

    void startSearch();
    Feed& feed() { return feed_; }
    Sheet& sheet() { return *sheet_; }
    Tray& tray() { return *tray_; }
    Loupe& loupe() { return *loupe_; }
    Band& band() { return *band_; }
    QPushButton* pauseButton() { return pause_; }
    QPushButton* stopButton() { return stop_; }

  Q_SIGNALS:
    void leaveAsked();

  private:
    QWidget* buildHead();
    QWidget* buildChoices();
    void refresh();
    void showFull(bool full);
    QToolButton* choice(const QString& text, const QColor& mark);

    Feed feed_;
    QLabel* title_;
    QLabel* about_;
    QLabel* sentence_;
    QPushButton* pause_;
    QPushButton* stop_;
    QLabel* shown_;
    QToolButton* photos_;
    QToolButton* clips_;
    QToolButton* sound_;
    QToolButton* damaged_;
    QToolButton* keptOnly_;
    QWidget* head_;
    QWidget* choices_;
    Band* band_;
    Sheet* sheet_;
    Loupe* loupe_;
    Tray* tray_;
    QSplitter* middle_;
};

}  // namespace dreskel
