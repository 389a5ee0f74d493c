#include "desktop/front/source_card.h"

#include <QApplication>
#include <QBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QThreadPool>

#include "desktop/look/look.h"

namespace dreskel {
namespace {

// The device from its first byte to its last, with the volumes on it.
class VolumeStrip : public QWidget {
  public:
    VolumeStrip() {
        setFixedHeight(20);
        setAccessibleName(QStringLiteral("Volumes on the card, to scale"));
    }
    void show(std::uint64_t size, const Survey& survey) {
        size_ = size;
        survey_ = survey;
        update();
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.fillRect(rect(), look::kPaperLine);
        if (size_ == 0) return;
        for (const auto& volume : survey_.volumes) {
            const double left = static_cast<double>(volume.offset) / static_cast<double>(size_) * width();
            const double wide = static_cast<double>(volume.facts.size) / static_cast<double>(size_) * width();
            const bool live = volume.state == VolumeSeen::State::Live;
            const QRectF box(left, live ? 0 : height() - 6, std::max(3.0, wide), live ? height() : 6);
            painter.fillRect(box, live ? look::kReading.lighter(125) : look::kPhoto);
            if (!live) continue;
            painter.setPen(look::kInk);
            painter.setFont(look::textFont(11));
            painter.drawText(box.adjusted(8, 0, -4, 0), Qt::AlignVCenter | Qt::AlignLeft,
                             QString::fromStdString(volume.facts.kind + "  " + volume.facts.label));
        }
    }

  private:
    std::uint64_t size_ = 0;
    Survey survey_;
};

QString sentenceFor(const Survey& survey) {
    QStringList parts;
    for (const auto& volume : survey.volumes) {
        const auto kind = QString::fromStdString(volume.facts.kind);
        switch (volume.state) {
            case VolumeSeen::State::Live:
                parts << QStringLiteral("Holds a %1 volume of %2.")
                             .arg(kind, look::sizeText(volume.facts.size));
                break;
            case VolumeSeen::State::Earlier:
                parts << QStringLiteral("An earlier %1 volume has left its boot sector behind.").arg(kind);
                break;
            case VolumeSeen::State::Damaged:
                parts << QStringLiteral("The %1 volume's boot sector is gone; its copy is sound.").arg(kind);
                break;
        }
    }
    if (parts.isEmpty())
        return QStringLiteral("No volume begins here that can be recognised. It can still be searched.");
    return parts.join(QLatin1Char(' '));
}

}  // namespace

SourceCard::SourceCard(const Device& device, QWidget* parent) : QWidget(parent), device_(device) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(20, 14, 18, 14);
    column->setSpacing(9);
    auto* title = look::label({}, 15, look::kInk, true);
    title->setText(device.title().empty() ? QStringLiteral("Unnamed")
                                          : QString::fromStdString(device.title()));
    QStringList facts{QString::fromStdString(device.path), look::sizeText(device.size)};
    if (device.readOnly) facts << QStringLiteral("read-only");
    if (!device.mounts.empty()) facts << QStringLiteral("mounted");
    auto* about = look::label({}, 12, look::kFaded, false);
    about->setText(facts.join(QStringLiteral(", ")));
    auto* head = new QHBoxLayout;
    head->addWidget(title);
    head->addWidget(about);
    head->addStretch();
    column->addLayout(head);
    strip_ = new VolumeStrip;
    column->addWidget(strip_);
    sentence_ = look::label({}, 13, look::kInk, false);
    sentence_->setWordWrap(true);
    sentence_->setText(QStringLiteral("Looking at it ..."));
    column->addWidget(sentence_);
    auto* open = new QPushButton(QStringLiteral("Open this card"));
    open->setObjectName(device.removable ? QStringLiteral("next") : QString());
    connect(open, &QPushButton::clicked, this,
            [this] { Q_EMIT openAsked(QString::fromStdString(device_.path)); });
    auto* line = new QHBoxLayout;
    line->addWidget(open);
    line->addStretch();
    column->addLayout(line);
    inspect();
}

void SourceCard::inspect() {
    // A dying card may take long over the first sector; the interface does not wait for it.
    QThreadPool::globalInstance()->start([path = device_.path, card = QPointer<SourceCard>(this)] {
        auto outcome = std::make_shared<Result<Inspection>>(inspectSource(path));
        QMetaObject::invokeMethod(qApp, [card, outcome] {
            if (card) card->onInspected(outcome);
        });
    });
}

void SourceCard::onInspected(const std::shared_ptr<Result<Inspection>>& outcome) {
    if (!*outcome) {
        sentence_->setText(QString::fromStdString(outcome->error().sentence()));
        return;
    }
    static_cast<VolumeStrip*>(strip_)->show(outcome->value().facts.size, outcome->value().survey);
    sentence_->setText(sentenceFor(outcome->value().survey));
}

void SourceCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kSheet);
    painter.fillRect(0, 0, 4, height(), device_.removable ? look::kDecided.darker(115) : look::kPaperLine);
}

}  // namespace dreskel
