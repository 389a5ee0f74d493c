// Looks for faces in the small pictures of photos, in a thread of its own, and tells the session what it saw.
#pragma once

#include <atomic>
#include <memory>
#include <QObject>
#include <QString>
#include <thread>
#include <vector>

#include "session/session.h"

namespace dreskel {

class People : public QObject {
    Q_OBJECT
  public:
    explicit People(std::shared_ptr<Session> session) : session_(std::move(session)) {}
    ~People() override { stop(); }

    // Those of `files` in which nobody has looked yet. Does nothing while it looks.
    void look(const std::vector<std::shared_ptr<const Finding>>& files);
    // What was seen so far stays.
    void stop();
    bool looking() const { return thread_.joinable(); }

  Q_SIGNALS:
    // Some twice a second, and at the end; `trouble` where nothing can be looked for.
    void looked(std::size_t done, std::size_t all, const QString& trouble);

  private:
    void run(const std::vector<std::shared_ptr<const Finding>>& photos);
    void onEnd();

    std::shared_ptr<Session> session_;
    std::thread thread_;
    std::atomic<bool> stopping_ = false;
};

}  // namespace dreskel
