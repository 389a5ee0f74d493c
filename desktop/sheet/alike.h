// Which files look like one of them, or are the picture or the very bytes of a file that the client brought.
// Works on the small pictures that the job holds; for a thread.
#pragma once

#include <memory>
#include <QSet>
#include <QString>
#include <unordered_map>
#include <vector>

#include "desktop/sheet/arrangement.h"
#include "media/likeness.h"
#include "session/session.h"

namespace dreskel {

struct AlikeRequest {
    std::vector<std::shared_ptr<const Finding>> files;
    std::int64_t like = 0;  // the one to look like, or
    QString path;           // a file from elsewhere
};

struct AlikeAnswer {
    QSet<std::int64_t> ids;
    Nearness apart;   // of each of them, where that was asked for
    QString what;     // they have in common, in words
    QString trouble;  // why nothing could be looked for
};

class Alike {
  public:
    explicit Alike(std::shared_ptr<Session> session) : session_(std::move(session)) {}

    // Not from several threads at once: what was worked out is kept for the next question.
    AlikeAnswer answer(const AlikeRequest& request);
    // Ends an answer that is under way; from any thread.
    void stop() { control_.stop(); }

  private:
    struct Known {
        std::shared_ptr<const Finding> finding;  // as it was when it was looked at
        std::optional<media::Likeness> likeness;
    };
    const std::optional<media::Likeness>& of(const std::shared_ptr<const Finding>& finding);
    AlikeAnswer likeFile(const AlikeRequest& request);

    std::shared_ptr<Session> session_;
    Control control_;
    std::unordered_map<std::int64_t, Known> known_;
};

}  // namespace dreskel
