// What a job's session knows, brought to the interface's thread a little at a time, so that however much is
// found at once the windows stay responsive.
#pragma once

#include <functional>
#include <memory>
#include <QObject>
#include <QTimer>
#include <QUndoStack>
#include <vector>

#include "desktop/decision_queue.h"
#include "desktop/files.h"
#include "session/session.h"

namespace dreskel {

class Feed : public QObject {
    Q_OBJECT
  public:
    explicit Feed(std::shared_ptr<Session> session, QObject* parent = nullptr);

    Session& session() { return *session_; }
    const Session& session() const { return *session_; }
    const std::shared_ptr<Session>& sharedSession() const { return session_; }
    const Overview& overview() const { return overview_; }
    // Null when there is no such file. The pointer is good until control returns to the event loop.
    const Finding* find(std::int64_t id) const;
    // All that is known by now, embedded ones too.
    const JobFiles& files() const { return *files_; }
    // The same to be kept: it does not change any more.
    JobFilesSeen filesSeen() const { return files_; }

    // Decisions; each can be taken back. What is kept is not left out, and the other way round.
    // With what belongs to them: sidecars, and the chapters, proxies and twins of a take.
    void setKept(const std::vector<std::int64_t>& ids, bool kept);
    void setLeftOut(const std::vector<std::int64_t>& ids, bool leftOut);
    void rate(const std::vector<std::int64_t>& ids, int rating);
    void setNote(std::int64_t id, const QString& note);
    QUndoStack& decisions() { return decisions_; }
    // Many decisions at once may take a moment; what is done by them waits for that here.
    void settle();
    // One sentence: what is being done, how far it is, what is left.
    QString sentence() const;
    // What the technician must know of the card while it is read: that it fails, or does not answer. Empty
    // when there is nothing to say.
    QString warning() const;

  Q_SIGNALS:
    void changed(const std::vector<std::int64_t>& ids);
    void progressed();

  private:
    struct Change {
        std::vector<std::int64_t> ids;
        const char* what;  // for the menu, to be translated with their number
        std::function<void(Decision&)> make;
        bool withBelongings;
    };
    struct Decided {
        Decisions before, after;
    };
    class DecisionStep;
    static std::shared_ptr<const Decided> workOut(const JobFiles& files, const Change& change);
    void decide(Change change);
    // Puts onto the stack what was decided behind the window and is on its way there.
    void takeSteps();
    void poll();
    QString copySentence(const CopyView& copy) const;

    std::shared_ptr<Session> session_;
    QTimer timer_;
    QUndoStack decisions_;
    Overview overview_;
    std::uint64_t since_ = 0;
    std::shared_ptr<JobFiles> files_ = std::make_shared<JobFiles>();  // replaced when somebody keeps it
    bool stale_ = false;   // what is decided behind the window has not all come here yet
    DecisionQueue queue_;  // ends before the rest goes
};

}  // namespace dreskel
