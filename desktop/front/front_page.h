// Where work begins: what is on the reader now, and the jobs in hand. Cards come and go by themselves.
#pragma once

#include <QVBoxLayout>
#include <QWidget>
#include <vector>

#include "desktop/devices/device_watch.h"
#include "desktop/job_shelf.h"
#include "session/copying.h"

class QLabel;
class QPushButton;

namespace dreskel {

class SourceCard;

class FrontPage : public QWidget {
    Q_OBJECT
  public:
    explicit FrontPage(DeviceWatch& watch, QWidget* parent = nullptr);

    // Shows the description of a simulated reader as the card it stands for.
    void addStandIn(const QString& path);
    // Null when it is not shown.
    SourceCard* cardAt(const QString& path);

    // Reads the jobs again; after coming back from one.
    void refreshJobs();
    void say(const QString& trouble);

  Q_SIGNALS:
    void sourceChosen(const QString& path);
    void copyAsked(const QString& path, const dreskel::CopyRequest& request);
    void jobChosen(const QString& folder);

  protected:
    void paintEvent(QPaintEvent*) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

  private:
    void refreshDevices();
    void chooseImage();

    SourceCard* makeCard(const Device& device);
    void unmount(SourceCard* card);
    void letGo(SourceCard* card);

    DeviceWatch& watch_;
    QVBoxLayout* cards_;
    QVBoxLayout* jobs_;
    QLabel* none_;
    QLabel* trouble_;
    QPushButton* others_;
    bool showDisks_ = false;
    QLabel* limits_;
    std::vector<Device> standIns_;
    std::vector<SourceCard*> shownCards_;
    std::vector<QWidget*> shownJobs_;
};

}  // namespace dreskel
