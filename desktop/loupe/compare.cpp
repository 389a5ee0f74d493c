#include "desktop/loupe/compare.h"

#include <algorithm>
#include <QBoxLayout>
#include <QKeyEvent>
#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr int kSide = 2400;  // large enough to judge sharpness on any screen

QString nameAndDecision(const Finding& finding) {
    auto name = QString::fromStdString(finding.name);
    if (name.isEmpty()) name = Text::tr("Photo %1").arg(finding.id);
    QStringList parts{name, look::takenText(finding.description.taken)};
    if (finding.description.width && finding.description.height)
        parts << QStringLiteral("%1 \u00d7 %2")
                     .arg(*finding.description.width)
                     .arg(*finding.description.height);
    parts << look::sizeText(finding.size()) << look::conditionText(finding.condition, finding.decoded);
    const auto& decision = finding.decision;
    if (decision.kept) parts << Text::tr("kept");
    if (decision.leftOut) parts << Text::tr("left out");
    if (decision.rating > 0) parts << Text::tr("rated %1 of %2").arg(decision.rating).arg(kBestRating);
    parts.removeAll(QString());
    return parts.join(QStringLiteral(", "));
}

}  // namespace

Compare::Compare(Feed& feed, QWidget* parent) : QWidget(parent), feed_(feed) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(Text::tr("Two photos side by side"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 12, 16, 10);
    column->setSpacing(8);
    auto* line = new QHBoxLayout;
    line->setSpacing(14);
    column->addLayout(line, 1);
    for (int side = 0; side < 2; ++side) {
        auto& made = sides_[static_cast<std::size_t>(side)];
        made.view = new PhotoView;
        made.view->setFocusPolicy(Qt::NoFocus);
        made.caption = look::label({}, 13, look::kText);
        made.caption->setWordWrap(true);
        made.looking = new Looking(feed.session().source(), this);
        auto* half = new QVBoxLayout;
        half->setSpacing(8);
        half->addWidget(made.view, 1);
        half->addWidget(made.caption);
        line->addLayout(half, 1);
        connect(made.looking, &Looking::ready, this, [this, side](const Looked& looked) {
            const auto* finding = feed_.find(looked.id);
            if (finding == nullptr || looked.id != at(side)) return;
            if (looked.photo.isNull()) return view(side).clear(looked.trouble);
            view(side).show(looked.photo, *finding);
            view(side).follow(view(1 - side));
        });
        connect(made.view, &PhotoView::partWanted, this,
                [this, side](const media::DecoderProcess::PhotoPart& part) {
                    const auto* finding = feed_.find(at(side));
                    auto& mine = sides_[static_cast<std::size_t>(side)];
                    if (finding != nullptr) mine.looking->requestPart(*finding, part);
                });
        connect(made.looking, &Looking::partReady, this, [this, side](const LookedPart& looked) {
            if (looked.id == view(side).id()) view(side).showPart(looked.part, looked.picture, looked.full);
        });
        connect(made.view, &PhotoView::moved, this, [this, side] { view(1 - side).follow(view(side)); });
        connect(made.view, &PhotoView::pressed, this, [this, side] { take(side); });
    }
    hint_ =
        look::label(Text::tr("Left and right: another photo in the framed half. Tab: the other half. "
                             "K keeps, X leaves out, 1 to 5 rate, + and \u2212 zoom, F fits, Z one to one. "
                             "Esc: back to the sheet."),
                    12, look::kDim);
    column->addWidget(hint_);
    connect(&feed_, &Feed::changed, this, [this] {
        if (isVisible()) {
            tell(0);
            tell(1);
        }
    });
}

void Compare::open(std::vector<std::int64_t> photos, std::int64_t leftId, std::int64_t rightId) {
    photos_ = std::move(photos);
    hand_ = 1;
    show(0, leftId);
    show(1, rightId);
}

void Compare::show(int side, std::int64_t id) {
    shown_[static_cast<std::size_t>(side)] = id;
    tell(side);
    const auto* finding = feed_.find(id);
    if (finding == nullptr) return;
    sides_[static_cast<std::size_t>(side)].looking->request(*finding, kSide);
    update();
}

void Compare::tell(int side) {
    const auto* finding = feed_.find(at(side));
    if (finding != nullptr)
        sides_[static_cast<std::size_t>(side)].caption->setText(nameAndDecision(*finding));
}

void Compare::take(int side) {
    hand_ = side;
    update();
}

void Compare::move(int by) {
    const auto here = std::find(photos_.begin(), photos_.end(), at(hand_));
    if (here == photos_.end()) return;
    auto next = here - photos_.begin() + by;
    // Not the one beside it.
    const auto inside = [&] { return next >= 0 && next < static_cast<std::ptrdiff_t>(photos_.size()); };
    if (inside() && photos_[static_cast<std::size_t>(next)] == at(1 - hand_)) next += by;
    if (inside()) show(hand_, photos_[static_cast<std::size_t>(next)]);
}

void Compare::keyPressEvent(QKeyEvent* event) {
    auto& view = *sides_[static_cast<std::size_t>(hand_)].view;
    const QPointF middle(view.width() / 2.0, view.height() / 2.0);
    const auto* finding = feed_.find(at(hand_));
    const std::vector<std::int64_t> ids{at(hand_)};
    switch (event->key()) {
        case Qt::Key_Left: return move(-1);
        case Qt::Key_Right: return move(1);
        case Qt::Key_Tab:
        case Qt::Key_Backtab: return take(1 - hand_);
        case Qt::Key_Plus:
        case Qt::Key_Equal: return view.zoomBy(1.5, middle);
        case Qt::Key_Minus: return view.zoomBy(1 / 1.5, middle);
        case Qt::Key_F: return view.fit();
        case Qt::Key_Z: return view.actualSize();
        case Qt::Key_Space:
        case Qt::Key_K:
            if (finding != nullptr) feed_.setKept(ids, !finding->decision.kept);
            return;
        case Qt::Key_X:
            if (finding != nullptr) feed_.setLeftOut(ids, !finding->decision.leftOut);
            return;
        case Qt::Key_0:
        case Qt::Key_1:
        case Qt::Key_2:
        case Qt::Key_3:
        case Qt::Key_4:
        case Qt::Key_5: return feed_.rate(ids, event->key() - Qt::Key_0);
        case Qt::Key_Escape:
        case Qt::Key_C: Q_EMIT left(at(hand_)); return;
        default: QWidget::keyPressEvent(event);
    }
}

void Compare::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kGround);
    painter.setPen(QPen(look::kText, 2));
    painter.drawRect(sides_[static_cast<std::size_t>(hand_)].view->geometry().adjusted(-3, -3, 3, 3));
}

}  // namespace dreskel
