// The job window: the band across the top, the sheet and the loupe, the tray at the foot, and one sentence on
// what is being done.
#pragma once

#include <memory>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSplitter>
#include <QWidget>

#include "desktop/band/band.h"
#include "desktop/devices/device_watch.h"
#include "desktop/feed.h"
#include "desktop/loupe/compare.h"
#include "desktop/loupe/loupe.h"
#include "desktop/sheet/alike.h"
#include "desktop/sheet/asked_panel.h"
#include "desktop/sheet/choices.h"
#include "desktop/sheet/narrow_panel.h"
#include "desktop/sheet/people.h"
#include "desktop/sheet/sheet.h"
#include "desktop/splice/splice_bench.h"
#include "desktop/tray/tray.h"

namespace dreskel {

class JobPage : public QWidget {
    Q_OBJECT
  public:
    // `watch` must outlive it: a card that went away in the middle of a copy is looked for there.
    JobPage(std::shared_ptr<Session> session, DeviceWatch& watch, QWidget* parent = nullptr);
    ~JobPage() override { alike_.stop(); }

    void startSearch(bool namedOnly = false);
    // Tries a good file of the same camera on what lost its index or its beginning.
    void lend(const QString& path);
    void find();
    void goToNextDamaged();
    void move(int by);  // to a file behind or before
    // The picture fills the window, or goes back into its corner.
    void showFull(bool full);
    // Shows only what looks like the current file, or is the picture or the bytes of a file from elsewhere.
    void showAlike();
    // Looks for faces in photos where nobody has looked yet, or stops that.
    void lookForPeople();
    void lookForFile(const QString& path);
    // The current photo beside another that is selected, or beside the next one.
    void compare();
    // Takes the last decision back, or on again: of the splice bench when it is open.
    void undo();
    void redo();
    Feed& feed() { return feed_; }
    Sheet& sheet() { return *sheet_; }
    Tray& tray() { return *tray_; }
    Loupe& loupe() { return *loupe_; }
    Band& band() { return *band_; }
    SpliceBench& splice() { return *splice_; }
    Compare& comparison() { return *compare_; }
    QPushButton* pauseButton() { return pause_; }
    QPushButton* stopButton() { return stop_; }

    QPushButton* goOnButton() { return goOn_; }
    QLineEdit* findField() { return find_; }
    Choices& choices() { return *choices_; }
    NarrowPanel& narrowing() { return *narrow_; }
    AskedPanel& asked() { return *asked_; }
    QString message() const { return message_->text(); }

    // Where the card is, or was, that this job reads or has copied.
    QString cardPath() const;
    // Whether the card itself is being read, or will be by what is under way.
    bool readsCard() const;
    void say(const QString& text);

    // What stands in fields, is chosen and looked at, where the page is made anew for the same job.
    struct Place {
        QString words, wish, destination;
        std::int64_t file = 0;
    };
    Place place() const;
    void goTo(const Place& place);

  Q_SIGNALS:
    void leaveAsked();
    void letGoAsked();
    // Go on with a copy: from the card at `path`, to the same image, in this job's folder.
    void copyAsked(const QString& path, const dreskel::CopyRequest& request, const QString& folder);

  private:
    QWidget* buildHead();
    void bindKeys();
    QWidget* buildNotice();
    void refresh();
    void refreshCopy();
    void refreshLedger();
    void showNarrowing(bool open);
    void onLooked(std::size_t done, std::size_t all, const QString& trouble);
    void showAsked(bool open);
    void showSplice(std::int64_t id);  // 0: back to the sheet
    // In place of everything else, or back to it.
    void showAlone(QWidget* page, bool on);

    Feed feed_;
    DeviceWatch& watch_;
    QWidget* notice_;
    QLabel* message_;
    QPushButton* goOn_;
    QPushButton* letGo_;
    bool ledgerAsked_ = false;
    QString said_;     // by an action; stays until the next
    QString offered_;  // the device that may be the card of an unfinished copy
    QLabel* title_;
    QLabel* about_;
    QLabel* sentence_;
    QPushButton* pause_;
    QPushButton* stop_;
    QLineEdit* find_;
    QWidget* head_;
    Choices* choices_;
    NarrowPanel* narrow_;
    AskedPanel* asked_;
    Band* band_;
    Sheet* sheet_;
    Loupe* loupe_;
    Tray* tray_;
    SpliceBench* splice_;
    Compare* compare_;
    QSplitter* middle_;
    Alike alike_;  // of the one that looks for them
    People people_;
    Behind<AlikeRequest, AlikeAnswer> lookAlike_;
};

}  // namespace dreskel
