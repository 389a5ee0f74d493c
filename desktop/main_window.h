// The one window: the front page, or a job.
#pragma once

#include <QMainWindow>
#include <QStackedWidget>

#include "desktop/front/front_page.h"
#include "desktop/job_page.h"

namespace dreskel {

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow();

    // Opens a card or an image: its job if there is one, otherwise a new one. Trouble is told on the front
    // page.
    bool openSource(const QString& path);
    bool openJob(const QString& sourcePath, const QString& folder);
    void leaveJob();

    FrontPage& front() { return *front_; }
    JobPage* job() { return job_; }

  private:
    void buildMenus();

    QStackedWidget* pages_;
    FrontPage* front_;
    JobPage* job_ = nullptr;
};

}  // namespace dreskel
