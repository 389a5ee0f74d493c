// Cards that exist for the length of a test: bytes in a file of a folder of its own, opened as any source is.
#pragma once

#include <QTemporaryDir>

#include "source/card_view.h"
#include "source/source.h"
#include "tests/support/support.h"

namespace dreskel::test {

class Cards {
  public:
    CardView viewOf(const Buffer& bytes) {
        const auto path = dir_.filePath(QStringLiteral("%1.img").arg(++number_));
        writeFile(path, bytes);
        return CardView(openSource(path.toStdString()).value());
    }

  private:
    QTemporaryDir dir_;
    int number_ = 0;
};

}  // namespace dreskel::test
