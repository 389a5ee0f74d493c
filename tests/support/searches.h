// Cards that are searched as the program does it, each with a job of its own, for the length of a test.
#pragma once

#include <QTemporaryDir>
#include <vector>

#include "session/session.h"
#include "tests/support/pieces.h"

namespace dreskel::test {

class Searches {
  public:
    // What is listed in the end.
    std::vector<Finding> of(const Buffer& card) {
        const auto path = dir_.filePath(QStringLiteral("%1.img").arg(++number_));
        writeFile(path, card);
        auto session = Session::open(path.toStdString(),
                                     dir_.filePath(QStringLiteral("job%1").arg(number_)).toStdString());
        if (!session) qFatal("%s", session.error().sentence().c_str());
        session.value()->startScan({});
        if (const auto outcome = session.value()->wait(); !outcome)
            qFatal("%s", outcome.error().sentence().c_str());
        return session.value()->listed();
    }

  private:
    QTemporaryDir dir_;
    int number_ = 0;
};

// The bytes of a file none of whose pieces is filled or made.
inline Buffer bytesOf(const Buffer& card, const Finding& finding) {
    std::vector<ByteRange> places;
    for (const auto& piece : finding.pieces) places.push_back(piece.onCard());
    return bytesAt(card, places);
}

}  // namespace dreskel::test
