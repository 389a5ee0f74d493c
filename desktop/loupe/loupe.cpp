#include "desktop/loupe/loupe.h"

#include <QBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <QScrollArea>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/sheet/thumbnails.h"
#include "session/splicing.h"

namespace dreskel {
namespace {

// Large enough for any screen; the full size follows when it is zoomed into.
constexpr int kDraftSide = 1600;

QLabel* textLabel(int pixels, const QColor& colour, bool bold = false) {
    auto* made = look::label({}, pixels, colour, bold);
    made->setWordWrap(true);
    made->setTextInteractionFlags(Qt::TextSelectableByMouse);
    return made;
}

QString capitalised(const QString& text) {
    return text.left(1).toUpper() + text.mid(1);
}

QString titleFor(const Finding& finding) {
    if (!finding.name.empty()) return QString::fromStdString(finding.name);
    const auto kind = look::kindText(finding.kind, 1);
    return capitalised(kind) + QStringLiteral(" ") + QString::number(finding.id);
}

}  // namespace

Loupe::Loupe(Feed& feed, QWidget* parent)
    : QWidget(parent),
      feed_(feed),
      looking_(feed.session().source()),
      playback_(feed.session().source()),
      small_(
          [session = feed.sharedSession()](std::int64_t id) {
              Small small{id, session->preview(id), {}};
              small.picture.loadFromData(small.preview.picture.data(),
                                         static_cast<int>(small.preview.picture.size()));
              return small;
          },
          [this](const Small& small) { onSmall(small); }) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(Text::tr("Loupe"));
    photo_ = new PhotoView;
    clip_ = new ClipView;
    sound_ = new SoundView;
    nothing_ = textLabel(12, look::kDim);
    nothing_->setAlignment(Qt::AlignCenter);
    nothing_->setText(Text::tr("Choose a file on the sheet to see it here"));
    stage_ = new QStackedWidget;
    for (QWidget* page : {static_cast<QWidget*>(nothing_), static_cast<QWidget*>(photo_),
                          static_cast<QWidget*>(clip_), static_cast<QWidget*>(sound_)}) {
        stage_->addWidget(page);
    }
    tools_ = new QWidget;
    auto* tools = new QHBoxLayout(tools_);
    tools->setContentsMargins(0, 0, 0, 0);
    tools->setSpacing(6);
    const auto tool = [&](const QString& text, const QString& hint, auto&& act) {
        return addTool(tools, text, hint, act);
    };
    tool(Text::tr("Fit"), Text::tr("The whole picture (F)"), [this] { photo_->fit(); });
    tool(QStringLiteral("1:1"), Text::tr("A pixel of the photo on each of the screen (Z)"),
         [this] { photo_->actualSize(); });
    tool(Text::tr("Turn"), Text::tr("A quarter turn to the right (R)"), [this] { photo_->turn(1); });
    tools->addStretch();
    splice_[0] = tool(Text::tr("Splice"), Text::tr("Take its joins apart and set them anew (S)"),
                      [this] { Q_EMIT spliceAsked(current_); });
    large_[0] = tool(Text::tr("Large"), Text::tr("Fill the window with the picture (V)"),
                     [this] { Q_EMIT fullAsked(!full_); });

    player_ = makePlayer();

    title_ = textLabel(15, look::kText, true);
    state_ = textLabel(13, look::kText);
    facts_ = new FactsView;
    histogram_ = new HistogramView;
    reasons_ = textLabel(12, look::kDim);
    note_ = new QLineEdit;
    note_->setAccessibleName(Text::tr("Note for this file"));
    note_->setPlaceholderText(Text::tr("Note for this file"));
    connect(note_, &QLineEdit::editingFinished, this, &Loupe::storeNote);
    note_->installEventFilter(this);
    auto* inside = new QWidget;
    auto* text = new QVBoxLayout(inside);
    text->setContentsMargins(0, 4, 0, 0);
    text->setSpacing(6);
    text->addWidget(title_);
    text->addWidget(state_);
    text->addWidget(reasons_);
    text->addWidget(facts_);
    text->addWidget(histogram_);
    text->addWidget(note_);
    text->addStretch();
    auto* scroll = look::scrolled(inside);
    words_ = scroll;

    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(14, 12, 14, 12);
    column->setSpacing(8);
    column->addWidget(stage_, 1);
    column->addWidget(tools_);
    column->addWidget(player_);
    column->addWidget(words_, 1);

    // A file that is only passed over with the arrow keys is not worth decoding.
    settle_.setSingleShot(true);
    settle_.setInterval(60);
    connect(&settle_, &QTimer::timeout, this, [this] {
        if (const auto* finding = feed_.find(current_)) {
            looking_.request(*finding, kDraftSide);
        }
    });
    connect(&looking_, &Looking::ready, this, &Loupe::onLooked);
    connect(photo_, &PhotoView::partWanted, this, [this](const media::DecoderProcess::PhotoPart& part) {
        // Behind the draft, which comes sooner.
        const auto* finding = feed_.find(current_);
        if (finding != nullptr && shownFor_ == current_) looking_.requestPart(*finding, part);
    });
    connect(&looking_, &Looking::partReady, this, [this](const LookedPart& looked) {
        if (looked.id == photo_->id()) photo_->showPart(looked.part, looked.picture, looked.full);
    });
    connect(&feed_, &Feed::changed, this, [this](const std::vector<std::int64_t>& ids) {
        const auto* finding = feed_.find(current_);
        if (finding != nullptr && std::find(ids.begin(), ids.end(), current_) != ids.end())
            tellFacts(*finding);
    });
    refresh();
}

template <class Act>
QToolButton* Loupe::addTool(QBoxLayout* line, const QString& text, const QString& hint, Act&& act) {
    auto* button = new QToolButton;
    button->setText(text);
    button->setToolTip(hint);
    button->setAccessibleName(hint);
    button->setFocusPolicy(Qt::TabFocus);
    connect(button, &QToolButton::clicked, this, act);
    line->addWidget(button);
    return button;
}

QWidget* Loupe::makePlayer() {
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(6);
    const auto tool = [&](const QString& text, const QString& hint, auto&& act) {
        return addTool(line, text, hint, act);
    };
    play_ = tool(Text::tr("Play"), Text::tr("Play it from its pieces on the card (P)"),
                 [this] { togglePlaying(); });
    frameSteps_[0] =
        tool(Text::tr("Frame back"), Text::tr("The picture before (,)"), [this] { stepFrame(-1); });
    frameSteps_[1] = tool(Text::tr("Frame on"), Text::tr("The next picture (.)"), [this] { stepFrame(1); });
    nextJoin_ = tool(Text::tr("Join"), Text::tr("Play from just before the next join on (J)"),
                     [this] { playNextJoin(); });
    playedTo_ = look::label({}, 12, look::kDim);
    line->addWidget(playedTo_);
    line->addStretch();
    splice_[1] = tool(Text::tr("Splice"), Text::tr("Take its joins apart and set them anew (S)"),
                      [this] { Q_EMIT spliceAsked(current_); });
    large_[1] = tool(Text::tr("Large"), Text::tr("Fill the window with the picture (V)"),
                     [this] { Q_EMIT fullAsked(!full_); });
    connect(&playback_, &Playback::shown, this, [this](const QImage& picture, double at) {
        if (playback_.has(current_)) clip_->showMoment(picture, at);
    });
    connect(&playback_, &Playback::moved, this, [this](double at) {
        if (playback_.has(current_)) sound_->setPosition(at);
        tellPlaying();
    });
    connect(&playback_, &Playback::stateChanged, this, &Loupe::tellPlaying);
    connect(&playback_, &Playback::failed, this,
            [this](const QString& why) { playedTo_->setText(Text::tr("It does not play: %1").arg(why)); });
    connect(clip_, &ClipView::placeAsked, this, [this](double at) {
        if (playback_.has(current_)) playback_.seek(at);
    });
    connect(sound_, &SoundView::placeAsked, this, &Loupe::playFrom);
    return row;
}

void Loupe::playFrom(double at) {
    const auto* finding = feed_.find(current_);
    if (finding == nullptr || (finding->kind != Kind::Video && finding->kind != Kind::Audio)) return;
    QSize picture(static_cast<int>(finding->description.width.value_or(0)),
                  static_cast<int>(finding->description.height.value_or(0)));
    if (finding->description.orientation >= 5) picture.transpose();
    playback_.play(*finding, at, std::clamp(clip_->sideFor(picture), 320, kDraftSide));
}

void Loupe::togglePlaying() {
    if (!playback_.has(current_)) {
        // From its beginning, unless a place was chosen.
        const bool chosen = stage_->currentWidget() == clip_ && clip_->currentFrame() > 2;
        return playFrom(chosen ? clip_->shownAt() : 0);
    }
    playback_.playing() ? playback_.pause() : playback_.goOn();
}

void Loupe::playNextJoin() {
    constexpr double kBefore = 1;  // second
    const auto& joins = clip_->joins();
    if (stage_->currentWidget() != clip_ || joins.empty()) return;
    const double here = playback_.has(current_) ? playback_.position() + kBefore + 0.1 : 0;
    const auto next = std::upper_bound(joins.begin(), joins.end(), here);
    playFrom(std::max(0.0, (next == joins.end() ? joins.front() : *next) - kBefore));
}

void Loupe::stepFrame(int by) {
    if (!playback_.has(current_)) {
        playFrom(clip_->shownAt());
        playback_.pause();
    }
    playback_.step(by);
}

void Loupe::tellPlaying() {
    const bool playing = playback_.has(current_) && playback_.playing();
    play_->setText(playing ? Text::tr("Pause") : Text::tr("Play"));
    const auto* finding = feed_.find(current_);
    const bool pictures = finding != nullptr && finding->kind == Kind::Video;
    for (auto* step : frameSteps_) step->setVisible(pictures);
    large_[1]->setVisible(pictures);
    nextJoin_->setVisible(pictures && !finding->joins.empty());
    // A clip says it in its picture.
    if (!playback_.has(current_) || pictures) return playedTo_->clear();
    playedTo_->setText(
        Text::tr("%1 of %2")
            .arg(look::durationText(playback_.position()), look::durationText(playback_.duration())));
}

void Loupe::storeNote() {
    if (noteFor_ != 0) feed_.setNote(noteFor_, note_->text());
}

// Return and Esc in the note are the note's own; the loupe would take them for the picture's.
bool Loupe::eventFilter(QObject* watched, QEvent* event) {
    if (watched != note_ || event->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, event);
    const auto key = static_cast<QKeyEvent*>(event)->key();
    if (key != Qt::Key_Return && key != Qt::Key_Enter && key != Qt::Key_Escape)
        return QWidget::eventFilter(watched, event);
    storeNote();
    Q_EMIT noteDone();
    return true;
}

void Loupe::setCurrent(std::int64_t id) {
    if (id == current_) return;
    storeNote();
    current_ = id;
    shownFor_ = 0;
    refresh();
}

void Loupe::refresh() {
    const auto* finding = feed_.find(current_);
    if (!playback_.has(current_)) playback_.stop();
    tools_->setVisible(finding != nullptr && finding->kind == Kind::Photo);
    player_->setVisible(finding != nullptr && (finding->kind == Kind::Video || finding->kind == Kind::Audio));
    tellPlaying();
    words_->setVisible(finding != nullptr && !full_);
    for (auto* splice : splice_) splice->setVisible(finding != nullptr && canBeSpliced(*finding));
    histogram_->setVisible(finding != nullptr && finding->kind == Kind::Photo);
    if (shownFor_ != current_) histogram_->show(Histogram());
    if (finding == nullptr) {
        stage_->setCurrentWidget(nothing_);
        return;
    }
    tellFacts(*finding);
    if (finding->kind == Kind::Sidecar || finding->kind == Kind::Other)
        return stage_->setCurrentWidget(nothing_);
    // The small picture is there in a moment; the large one replaces it.
    small_.ask(current_);
    if (finding->kind != Kind::Audio) settle_.start();
}

void Loupe::onSmall(const Small& small) {
    const auto* finding = feed_.find(current_);
    if (finding == nullptr || small.id != current_ || shownFor_ == current_) return;
    const auto waiting = Text::tr("Decoding ...");
    if (finding->kind == Kind::Photo) {
        small.picture.isNull() ? photo_->clear(waiting)
                               : photo_->show(presented(small.picture, *finding), *finding);
        stage_->setCurrentWidget(photo_);
    } else if (finding->kind == Kind::Video) {
        if (small.picture.isNull()) {
            clip_->clear(waiting);
        } else {
            clip_->show({turned(small.picture, finding->description.orientation)}, {0.0}, *finding);
        }
        stage_->setCurrentWidget(clip_);
    } else {
        sound_->show(small.preview, *finding);
        stage_->setCurrentWidget(sound_);
    }
}

void Loupe::onLooked(const Looked& looked) {
    const auto* finding = feed_.find(looked.id);
    if (finding == nullptr || looked.id != current_) return;
    shownFor_ = current_;
    stage_->setCurrentWidget(finding->kind == Kind::Photo ? static_cast<QWidget*>(photo_) : clip_);
    if (finding->kind == Kind::Photo) {
        if (looked.photo.isNull()) {
            photo_->clear(looked.trouble);
            return;
        }
        photo_->show(looked.photo, *finding);
        histogram_->show(looked.histogram);
    } else if (playback_.has(current_)) {
        return;
    } else if (looked.frames.empty()) {
        clip_->clear(looked.trouble);
    } else {
        clip_->show(looked.frames, looked.times, *finding);
    }
}

namespace {

// Where the name comes from.
QString positionText(const Position& position) {
    return QStringLiteral("%1\u00b0 %2, %3\u00b0 %4")
        .arg(std::abs(position.latitude), 0, 'f', 5)
        .arg(position.latitude < 0 ? Text::tr("south") : Text::tr("north"))
        .arg(std::abs(position.longitude), 0, 'f', 5)
        .arg(position.longitude < 0 ? Text::tr("west") : Text::tr("east"));
}

// Each join with what speaks for it, and what was made.
void addRow(FactsView::Rows& rows, const QString& name, const QString& value) {
    if (!value.isEmpty()) rows.emplace_back(name, value);
}

void addJoins(FactsView::Rows& rows, const Finding& finding) {
    constexpr std::size_t kShown = 8;
    for (std::size_t i = 0; i < std::min(kShown, finding.joins.size()); ++i) {
        const auto& join = finding.joins[i];
        addRow(rows, Text::tr("Join %1").arg(i + 1),
               Text::tr("at byte %1: %2 (%3 %)")
                   .arg(look::numberText(join.at), Text::ofCore(join.why))
                   .arg(qRound(join.confidence * 100)));
    }
    if (finding.joins.size() > kShown)
        addRow(rows, QString(), Text::tr("and %1 more").arg(finding.joins.size() - kShown));
    for (const auto& piece : finding.pieces) {
        if (piece.from != PieceFrom::Made) continue;
        addRow(rows, Text::tr("Made"),
               Text::tr("%1 bytes: %2").arg(look::numberText(piece.length), Text::ofCore(piece.why)));
    }
}

QString fateText(const Finding& finding) {
    const auto when =
        finding.modified.empty() ? QString() : Text::tr(", of %1").arg(look::takenText(finding.modified));
    switch (*finding.fate) {
        case Fate::Present: return Text::tr("a present file") + when;
        case Fate::Deleted: return Text::tr("deleted, still named") + when;
        case Fate::FormattedOver: return Text::tr("a folder from before a format") + when;
    }
    return {};
}

}  // namespace

void Loupe::tellFacts(const Finding& finding) {
    const auto& about = finding.description;
    title_->setText(titleFor(finding));
    auto condition = look::conditionText(finding.condition, finding.decoded);
    condition = condition.left(1).toUpper() + condition.mid(1);
    if (finding.pieces.size() > 1) condition += Text::tr(", in %1 pieces").arg(finding.pieces.size());
    const auto& decision = finding.decision;
    if (decision.kept) condition += Text::tr("; kept");
    if (decision.leftOut) condition += Text::tr("; left out");
    if (decision.rating > 0) condition += Text::tr("; rated %1 of %2").arg(decision.rating).arg(kBestRating);
    state_->setText(condition);

    FactsView::Rows rows;
    addRow(rows, Text::tr("Taken"), look::takenText(about.taken));
    addRow(rows, Text::tr("Camera"), QString::fromStdString(about.camera));
    if (about.position) addRow(rows, Text::tr("Position"), positionText(*about.position));
    if (about.width && about.height) {
        addRow(rows, finding.kind == Kind::Video ? Text::tr("Picture") : Text::tr("Size"),
               QStringLiteral("%1 \u00d7 %2").arg(*about.width).arg(*about.height));
    }
    if (about.duration) addRow(rows, Text::tr("Length"), look::durationText(*about.duration));
    if (about.frameRate)
        addRow(rows, Text::tr("Frame rate"), Text::tr("%1 a second").arg(*about.frameRate, 0, 'g', 4));
    addRow(rows, Text::tr("Coding"), QString::fromStdString(about.codec));
    addRow(rows, Text::tr("File"),
           Text::tr("%1, %2 bytes")
               .arg(QString::fromStdString(finding.format).toUpper(), look::numberText(finding.size())));
    addRow(rows, Text::tr("On the card"), Text::tr("from byte %1").arg(look::numberText(finding.start())));
    if (!finding.name.empty()) {
        addRow(rows, Text::tr("Name"), QString::fromStdString(finding.name));
        addRow(rows, Text::tr("Folder"),
               finding.folder.empty() ? Text::tr("not known, or the root")
                                      : QString::fromStdString(finding.folder));
    }
    if (finding.fate) addRow(rows, Text::tr("Directory"), fateText(finding));
    addJoins(rows, finding);
    facts_->setRows(std::move(rows));

    QStringList reasons;
    if (finding.condition == Condition::Whole) {
        reasons << (finding.kind == Kind::Photo
                        ? Text::tr("Every block of the picture decoded, and the file ends where the data do.")
                        : Text::tr("Every packet decoded without an error, and the file ends where its "
                                   "own structure says."));
    }
    if (!finding.why.empty()) reasons << capitalised(Text::ofCore(finding.why)) + QLatin1Char('.');
    for (const auto& note : finding.notes) reasons << Text::ofCore(note);
    if (finding.sameAs) reasons << Text::tr("The same bytes as file %1.").arg(*finding.sameAs);
    reasons_->setText(reasons.join(QLatin1Char('\n')));
    // What is being typed stays.
    if (noteFor_ != finding.id || !note_->hasFocus()) note_->setText(QString::fromStdString(decision.note));
    noteFor_ = finding.id;
}

void Loupe::setFull(bool full) {
    full_ = full;
    words_->setVisible(!full);
    for (auto* large : large_) {
        large->setText(full ? Text::tr("Back") : Text::tr("Large"));
        large->setToolTip(full ? Text::tr("Back to the sheet (Esc)")
                               : Text::tr("Fill the window with the picture (V)"));
    }
    if (full) setFocus();
}

void Loupe::keyPressEvent(QKeyEvent* event) {
    const QPointF middle(photo_->width() / 2.0, photo_->height() / 2.0);
    const bool clipShown = stage_->currentWidget() == clip_;
    switch (event->key()) {
        case Qt::Key_R: photo_->turn((event->modifiers() & Qt::ShiftModifier) != 0 ? -1 : 1); return;
        case Qt::Key_F: photo_->fit(); return;
        case Qt::Key_Z: photo_->actualSize(); return;
        case Qt::Key_0:
        case Qt::Key_1:
        case Qt::Key_2:
        case Qt::Key_3:
        case Qt::Key_4:
        case Qt::Key_5: Q_EMIT rateAsked(event->key() - Qt::Key_0); return;
        case Qt::Key_X: Q_EMIT leaveOutAsked(); return;
        case Qt::Key_Plus:
        case Qt::Key_Equal: photo_->zoomBy(1.5, middle); return;
        case Qt::Key_Minus: photo_->zoomBy(1 / 1.5, middle); return;
        case Qt::Key_Comma:
            if (clipShown) stepFrame(-1);
            return;
        case Qt::Key_Period:
            if (clipShown) stepFrame(1);
            return;
        case Qt::Key_P: togglePlaying(); return;
        case Qt::Key_Left:
        case Qt::Key_Up: Q_EMIT moveAsked(-1); return;
        case Qt::Key_Right:
        case Qt::Key_Down: Q_EMIT moveAsked(1); return;
        case Qt::Key_Space:
        case Qt::Key_K: Q_EMIT keepAsked(); return;
        case Qt::Key_Escape:
        case Qt::Key_Return:
        case Qt::Key_Enter: Q_EMIT fullAsked(event->key() != Qt::Key_Escape && !full_); return;
        default: QWidget::keyPressEvent(event);
    }
}

void Loupe::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kRaised);
    painter.fillRect(0, 0, 1, height(), look::kLine);
}

}  // namespace dreskel
