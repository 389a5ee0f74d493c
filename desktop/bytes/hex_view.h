// The bytes of a card, sixteen to a line, with their letters. Reads in a thread what comes into sight, so
// that a card that answers slowly, or not at all, does not hold the window; what could not be read is said in
// its place.
#pragma once

#include <map>
#include <memory>
#include <QAbstractScrollArea>

#include "base/range.h"
#include "source/source.h"

namespace dreskel {

class HexView : public QAbstractScrollArea {
    Q_OBJECT
  public:
    explicit HexView(std::shared_ptr<Source> source, QWidget* parent = nullptr);

    // Shows a stretch of the source from its beginning.
    void show(ByteRange range);
    // The line at the top as it is drawn: place, bytes, letters; empty while it is being read.
    QString firstLine() const;

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    struct Page {
        bool waiting = true;
        std::size_t good = 0;  // bytes that were read
        std::vector<std::uint8_t> bytes;
    };
    void fit();
    void fetch(std::uint64_t page);
    const Page* pageAt(std::uint64_t offset) const;
    QString lineAt(std::uint64_t offset) const;
    std::uint64_t topLine() const;
    int lineHeight() const;

    std::shared_ptr<Source> source_;
    ByteRange range_;
    std::map<std::uint64_t, Page> pages_;  // by number; few are kept
};

}  // namespace dreskel
