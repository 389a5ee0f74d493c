// The one window: the front page, or a job.
#pragma once

#include <functional>
#include <QMainWindow>
#include <QStackedWidget>

#include "desktop/devices/device_watch.h"
#include "desktop/formats/own_panel.h"
#include "desktop/front/front_page.h"
#include "desktop/help/keys_page.h"
#include "desktop/job_page.h"
#include "desktop/look/look.h"

namespace dreskel {

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow();

    // Opens a card or an image: its job if there is one, otherwise a new one. In a thread, since a dying card
    // may take long; `job()` is there when it is done. Trouble is told on the front page. A simulated reader
    // is shown there as the card it stands for.
    void openSource(const QString& path);
    // Copies a card to an image, searching it from the same read; goes on with a copy that was begun.
    void copyCard(const QString& path, const CopyRequest& request, const QString& folder = {});
    void openJob(const QString& folder);
    // Not shown yet; it deletes itself when it is closed.
    OwnPanel* makeOwnPanel();
    void leaveJob();
    // The windows are made anew in these colours; the job in hand goes on.
    void wear(look::Scheme scheme);
    // Nor does the job mind another language ("de"; empty: the computer's own).
    void speak(const QString& language);
    bool opening() const { return opening_; }

    FrontPage& front() { return *front_; }
    JobPage* job() { return job_; }
    DeviceWatch& watch() { return watch_; }

  protected:
    void closeEvent(QCloseEvent* event) override;

  private:
    using Opened = Result<std::shared_ptr<Session>>;
    void buildFront();
    void buildMenus();
    void buildAnew();
    bool isSaving() const;
    void showJob(std::shared_ptr<Session> session);
    void openLater(std::function<Opened()> make, bool start);
    void onOpened(const Opened& opened, bool start);
    void letGo();
    void onMadeSmall();

    DeviceWatch watch_;
    QStackedWidget* pages_;
    FrontPage* front_;
    JobPage* job_ = nullptr;
    KeysPage* keys_ = nullptr;  // once asked for
    bool opening_ = false;
};

}  // namespace dreskel
