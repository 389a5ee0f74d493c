// Where work begins: what is on the reader now, and the jobs in hand. Cards come and go by themselves.
#pragma once

#include <QTimer>
#include <QVBoxLayout>
#include <QWidget>
#include <vector>

#include "desktop/job_shelf.h"
#include "source/device_list.h"

class QLabel;
class QPushButton;

namespace dreskel {

class FrontPage : public QWidget {
    Q_OBJECT
  public:
    explicit FrontPage(QWidget* parent = nullptr);

    // Reads the jobs again; after coming back from one.
    void refreshJobs();
    void say(const QString& trouble);

  Q_SIGNALS:
    void sourceChosen(const QString& path);
    void jobChosen(const QString& folder);

  protected:
    void paintEvent(QPaintEvent*) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

  private:
    void refreshDevices();
    void chooseImage();

    QTimer timer_;
    QVBoxLayout* cards_;
    QVBoxLayout* jobs_;
    QLabel* none_;
    QLabel* trouble_;
    QPushButton* others_;
    bool showDisks_ = false;
    std::vector<Device> devices_;
    std::vector<QWidget*> shownCards_;
    std::vector<QWidget*> shownJobs_;
};

}  // namespace dreskel
