#include "desktop/splice/splice_bench.h"

#include <QKeyEvent>
#include <QPainter>
#include <QScrollArea>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr int kRight = 370;  // width of what could follow

Way frontOf(Way way, std::uint64_t length) {
    cutTo(way, length);
    return way;
}

QPushButton* button(const QString& text, const QString& hint) {
    auto* made = new QPushButton(text);
    made->setToolTip(hint);
    made->setAccessibleName(hint);
    return made;
}

}  // namespace

SpliceBench::SpliceBench(Feed& feed, QWidget* parent) : QWidget(parent), feed_(feed) {
    setAccessibleName(Text::tr("Splice bench"));
    setFocusPolicy(Qt::StrongFocus);
    strip_ = new SpliceStrip;
    picture_ = new SplicePicture;
    frames_ = new SpliceFrames;
    frames_->hide();
    auto* left = new QWidget;
    auto* leftColumn = new QVBoxLayout(left);
    leftColumn->setContentsMargins(16, 12, 16, 12);
    leftColumn->setSpacing(10);
    leftColumn->addWidget(strip_);
    leftColumn->addWidget(picture_, 1);
    leftColumn->addWidget(frames_, 1);
    foot_ = buildFoot();
    leftColumn->addWidget(foot_);

    auto* right = new QWidget;
    right->setFixedWidth(kRight);
    auto* rightColumn = new QVBoxLayout(right);
    rightColumn->setContentsMargins(12, 14, 12, 12);
    auto* titles = new QHBoxLayout;
    title_ = look::label({}, 13, look::kText, true);
    titles->addWidget(title_);
    titles->addStretch();
    tried_ = look::label({}, 12, look::kDim);
    titles->addWidget(tried_);
    rightColumn->addLayout(titles);
    auto* inside = new QWidget;
    list_ = new QVBoxLayout(inside);
    list_->setContentsMargins(0, 4, 0, 0);
    list_->setSpacing(2);
    list_->addStretch();
    auto* scroll = look::scrolled(inside);
    rightColumn->addWidget(scroll, 1);

    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    middle->addWidget(left, 1);
    middle->addWidget(right);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(buildHead());
    column->addLayout(middle, 1);
    const auto takeAway = [this](const rebuild::SpliceLook::Stretch& stretch) {
        if (work_ && !lends()) work_->askWithout(stretch);
    };
    connect(picture_, &SplicePicture::pointed, this, takeAway);
    connect(frames_, &SpliceFrames::pointed, this, takeAway);
    connect(&feed_, &Feed::progressed, this, [this] {
        if (isVisible()) refresh();
    });
}

QWidget* SpliceBench::buildHead() {
    auto* head = new QWidget;
    auto* line = new QHBoxLayout(head);
    line->setContentsMargins(16, 8, 16, 8);
    line->setSpacing(10);
    line->addWidget(look::label(Text::tr("Splice bench"), 16, look::kText, true));
    name_ = look::label({}, 13, look::kText);
    about_ = look::label({}, 12, look::kDim);
    about_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    line->addWidget(name_);
    line->addWidget(about_, 1);
    undo_ = button(Text::tr("Undo"), Text::tr("Take back the last change (Ctrl+Z)"));
    redo_ = button(Text::tr("Redo"), Text::tr("Do again what was taken back (Ctrl+Shift+Z)"));
    forget_ = button(Text::tr("Forget what was set"), Text::tr("Back to what is found without help"));
    leave_ = button(Text::tr("Leave as found"), Text::tr("Back to the sheet; nothing is changed (Esc)"));
    keep_ = button(Text::tr("Keep this picture"),
                   Text::tr("These pieces count from now on; other files give way to them"));
    keep_->setObjectName(QStringLiteral("next"));
    connect(undo_, &QPushButton::clicked, this, [this] { step(-1); });
    connect(redo_, &QPushButton::clicked, this, [this] { step(1); });
    connect(leave_, &QPushButton::clicked, this, &SpliceBench::left);
    const auto leaveAfter = [this](const Status& kept) {
        if (kept) {
            Q_EMIT left();
        } else {
            about_->setText(Text::ofCore(kept.error()));
        }
    };
    connect(keep_, &QPushButton::clicked, this, [this, leaveAfter] {
        auto& session = feed_.session();
        leaveAfter(lends() ? session.setLending(splicing_->lenders()[lender_].choice)
                           : session.setSplice(id_, frontOf(way_, look_.length)));
    });
    connect(forget_, &QPushButton::clicked, this,
            [this, leaveAfter] { leaveAfter(feed_.session().setSplice(id_, {})); });
    for (auto* each : {undo_, redo_, forget_, leave_, keep_}) line->addWidget(each);
    return head;
}

QWidget* SpliceBench::buildFoot() {
    auto* foot = new QWidget;
    auto* lines = new QVBoxLayout(foot);
    lines->setContentsMargins(0, 0, 0, 0);
    lines->setSpacing(8);
    auto* line = new QHBoxLayout;
    line->setSpacing(8);
    where_ = look::label({}, 12, look::kText);
    earlier_ = button(Text::tr("Join before"), Text::tr("Take the join before this one in hand"));
    later_ = button(Text::tr("Join behind"), Text::tr("Take the next join in hand"));
    backCluster_ = button(Text::tr("Back a cluster"), Text::tr("The piece ends a cluster earlier"));
    backSector_ = button(Text::tr("Back a sector"), Text::tr("The piece ends a sector earlier"));
    onSector_ = button(Text::tr("On a sector"), Text::tr("The piece ends a sector later"));
    onCluster_ = button(Text::tr("On a cluster"), Text::tr("The piece ends a cluster later"));
    takeOut_ = button(Text::tr("Take the piece out"), {});
    connect(takeOut_, &QPushButton::clicked, this, &SpliceBench::takeOut);
    connect(earlier_, &QPushButton::clicked, this, [this] { choose(upTo() - 2); });
    connect(later_, &QPushButton::clicked, this, [this] { choose(upTo()); });
    const auto sector = [this] { return static_cast<std::int64_t>(feed_.session().source()->sectorSize()); };
    const auto cluster = [this] { return splicing_ ? static_cast<std::int64_t>(splicing_->cluster()) : 0; };
    connect(backSector_, &QPushButton::clicked, this, [this, sector] { move(-sector()); });
    connect(onSector_, &QPushButton::clicked, this, [this, sector] { move(sector()); });
    connect(backCluster_, &QPushButton::clicked, this, [this, cluster] { move(-cluster()); });
    connect(onCluster_, &QPushButton::clicked, this, [this, cluster] { move(cluster()); });
    lines->addWidget(where_);
    lines->addLayout(line);
    for (auto* each : {earlier_, later_, takeOut_}) line->addWidget(each);
    line->addStretch();
    for (auto* each : {backCluster_, backSector_, onSector_, onCluster_}) line->addWidget(each);
    return foot;
}

void SpliceBench::open(std::int64_t id) {
    id_ = id;
    splicing_.reset();
    way_.clear();
    steps_.clear();
    at_ = join_ = 0;
    look_ = {};
    haveLook_ = haveFollowers_ = false;
    first_ = true;
    strip_->setCard(nullptr);
    picture_->show(look_, 0);
    refused_.clear();
    onFollowed({});
    work_ = std::make_unique<SpliceWork>(feed_.sharedSession());
    connect(work_.get(), &SpliceWork::opened, this, &SpliceBench::onOpened);
    connect(work_.get(), &SpliceWork::looked, this, [this](quint64 wish, const rebuild::SpliceLook& look) {
        if (wish == wish_) onLooked(look);
    });
    connect(work_.get(), &SpliceWork::followed, this,
            [this](quint64 wish, const rebuild::Followers& followers) {
                if (wish == wish_) onFollowed(followers);
            });
    connect(work_.get(), &SpliceWork::framed, this,
            [this](quint64 wish, const std::vector<rebuild::SpliceFrame>& frames) {
                if (wish == wish_) frames_->setFrames(frames);
            });
    connect(work_.get(), &SpliceWork::refused, this, [this](const QString& why) {
        refused_ = why;
        refresh();
    });
    connect(work_.get(), &SpliceWork::cut, this, [this](const rebuild::Cut& cut) {
        if (cut.way.empty() || cut.way == way_) return;
        join_ = cut.before < cut.way.size() ? cut.before - 1 : cut.way.size();
        change(cut.way);
    });
    work_->begin(id);
    refresh();
    setFocus();
}

void SpliceBench::onOpened(const std::shared_ptr<Splicing>& splicing) {
    splicing_ = splicing;
    strip_->setCard(splicing);
    picture_->setVisible(!isClip());
    frames_->setVisible(isClip());
    if (lends()) return showLenders();
    steps_ = {splicing->found()};
    way_ = steps_[0];
    join_ = way_.size();
    ask();
}

void SpliceBench::change(Way way) {
    steps_.resize(at_ + 1);
    steps_.push_back(std::move(way));
    step(1);
}

void SpliceBench::step(int by) {
    const auto next = static_cast<std::ptrdiff_t>(at_) + by;
    if (next < 0 || next >= static_cast<std::ptrdiff_t>(steps_.size())) return;
    at_ = static_cast<std::size_t>(next);
    way_ = steps_[at_];
    join_ = std::min(join_, way_.size());
    ask();
}

void SpliceBench::ask() {
    haveLook_ = haveFollowers_ = false;
    strip_->setWay(way_);
    strip_->setOffered({});
    if (work_) wish_ = work_->ask(way_, upTo());
    refresh();
}

void SpliceBench::choose(std::size_t join) {
    join_ = std::min(join, way_.empty() ? 0 : way_.size() - 1);
    ask();
}

void SpliceBench::move(std::int64_t bytes) {
    if (way_.empty() || bytes == 0) return;
    auto way = way_;
    auto& place = way[upTo() - 1];
    const auto length = static_cast<std::int64_t>(place.length) + bytes;
    if (length <= 0 || place.offset + static_cast<std::uint64_t>(length) > feed_.session().source()->size())
        return;
    place.length = static_cast<std::uint64_t>(length);
    change(std::move(way));
}

void SpliceBench::take(const ByteRange& place, std::int64_t moved) {
    auto way = way_;
    way.resize(upTo());
    way.back().length = static_cast<std::uint64_t>(static_cast<std::int64_t>(way.back().length) + moved);
    join_ = way.size();
    if (place.length > 0) way.push_back(place);
    change(std::move(way));
}

void SpliceBench::onLooked(const rebuild::SpliceLook& look) {
    if (look.soFar) {
        // Once something of it is shown what is new in it; all else waits until it is known.
        if (!first_) picture_->show(look, inHand());
        return;
    }
    look_ = look;
    haveLook_ = true;
    // What it begins with is cut where it stops making sense: there the next piece is to be found.
    if (std::exchange(first_, false) && !look.complete && look.length < rebuild::total(way_) && splicing_) {
        const auto cluster = splicing_->cluster();
        const auto way = frontOf(way_, std::max<std::uint64_t>(look.length / cluster * cluster, cluster));
        if (way != way_) {
            join_ = way.size();
            return change(way);
        }
    }
    isClip() ? frames_->show(look_, inHand()) : picture_->show(look_, inHand());
    refresh();
}

void SpliceBench::clearRows() {
    for (auto* row : rows_) {
        list_->removeWidget(row);
        row->deleteLater();
    }
    rows_.clear();
}

void SpliceBench::addRow(FollowerRow* row) {
    list_->insertWidget(static_cast<int>(rows_.size()), row);
    rows_.push_back(row);
}

void SpliceBench::showLenders() {
    clearRows();
    const auto& lenders = splicing_->lenders();
    const auto used =
        std::find_if(lenders.begin(), lenders.end(), [](const Lender& one) { return one.inUse; });
    for (std::size_t i = 0; i < lenders.size(); ++i) {
        auto* row = new FollowerRow(lenders[i]);
        connect(row, &FollowerRow::clicked, this, [this, i] { chooseLender(i); });
        addRow(row);
    }
    haveFollowers_ = true;
    const auto first = used == lenders.end() ? 0 : used - lenders.begin();
    rows_[static_cast<std::size_t>(first)]->setChecked(true);
    chooseLender(static_cast<std::size_t>(first));
}

void SpliceBench::chooseLender(std::size_t lender) {
    lender_ = lender;
    haveLook_ = false;
    wish_ = work_->askLender(lender);
    refresh();
}

void SpliceBench::onFollowed(const rebuild::Followers& followers) {
    clearRows();
    if (!splicing_ || way_.empty()) {
        tried_->setText({});
        return;
    }
    haveFollowers_ = true;
    const auto& last = way_[upTo() - 1];
    const auto behind = rebuild::isNowhere(last) ? 0 : last.end();
    const auto add = [&](const rebuild::Follower* follower) {
        const auto place = follower == nullptr ? ByteRange{} : follower->place;
        const auto moved = follower == nullptr ? 0 : follower->moved;
        auto* row = new FollowerRow(follower, behind, splicing_->cluster(), look_, splicing_->kind());
        connect(row, &FollowerRow::clicked, this, [this, place, moved] { take(place, moved); });
        connect(row, &FollowerRow::lookedAt, this,
                [this, place](bool yes) { strip_->setOffered(yes ? place : ByteRange{}); });
        addRow(row);
    };
    for (const auto& follower : followers.best) add(&follower);
    if (look_.complete && upTo() == way_.size()) {
        tried_->setText(Text::tr("nothing is missing"));
        return refresh();
    }
    add(nullptr);
    tried_->setText(Text::tr("%1 tried, %2 shown")
                        .arg(look::numberText(followers.tried), look::numberText(followers.best.size())));
    refresh();
}

std::uint32_t SpliceBench::inHand() const {
    if (lends()) return look_.extent / 2;
    return upTo() - 1 < look_.joinsAt.size() && !way_.empty() ? look_.joinsAt[upTo() - 1] : look_.reached;
}

QString SpliceBench::placeInHand() const {
    return isClip() ? look::momentText(inHand()) : Text::tr("row %1").arg(look::numberText(inHand()));
}

void SpliceBench::takeOut() {
    if (upTo() < 2 || rebuild::isNowhere(way_[upTo() - 1])) return;
    auto way = way_;
    if (isClip()) {
        way[upTo() - 1].offset = rebuild::kNowhere;
    } else {
        join_ = upTo() - 2;
        way.erase(way.begin() + static_cast<std::ptrdiff_t>(join_) + 1);
    }
    change(std::move(way));
}

void SpliceBench::refresh() {
    const auto* finding = feed_.find(id_);
    if (finding != nullptr) {
        const auto unnamed = isClip() ? Text::tr("Clip %1").arg(id_) : Text::tr("Photo %1").arg(id_);
        name_->setText(finding->name.empty() ? unnamed : QString::fromStdString(finding->name));
    }
    title_->setText(lends() ? Text::tr("Good clips to write its index after")
                            : Text::tr("What could follow"));
    foot_->setVisible(!lends());
    strip_->setVisible(!lends());
    if (lends()) {
        about_->setText(
            Text::tr("it lost its index; a good clip of the same recorder says how its data are to be read"));
    } else if (!splicing_) {
        about_->setText(refused_.isEmpty() ? Text::tr("looking at the free space of the card") : refused_);
    } else {
        about_->setText(QStringLiteral("%1, %2").arg(
            Text::tr("%n piece(s)", nullptr, static_cast<int>(way_.size())),
            look_.complete ? (isClip() ? Text::tr("complete: every picture is where its index says")
                                       : Text::tr("complete: to the end marker with its last block"))
            : isClip()     ? Text::tr("%1 % of its pictures are right").arg(int(look_.share * 100))
                           : Text::tr("%1 % decodes").arg(int(look_.share * 100))));
    }
    const bool last = way_.empty() || upTo() == way_.size();
    if (way_.empty()) {
        where_->setText({});
    } else if (last) {
        where_->setText(
            look_.complete
                ? (isClip() ? Text::tr("The end of the clip; drag across what is not its own")
                            : Text::tr("The end of the picture; drag across what is not its own"))
                : Text::tr("It ends at %1; point at where it goes wrong, or drag across what is not its own")
                      .arg(placeInHand()));
    } else {
        where_->setText(
            Text::tr("Join %1 of %2, at %3; point at where it goes wrong, or drag across what is not its own")
                .arg(upTo())
                .arg(way_.size() - 1)
                .arg(placeInHand()));
    }
    // A clip's pieces end where clusters do.
    for (auto* each : {backSector_, onSector_}) each->setVisible(!isClip());
    // Frames have places of their own in time; the blocks of a photo follow one another.
    takeOut_->setToolTip(
        isClip() ? Text::tr("The piece before the join is not this clip's; a gap takes its place")
                 : Text::tr("The piece before the join is not this photo's; what is behind it moves up"));
    takeOut_->setEnabled(!way_.empty() && upTo() > 1 && !rebuild::isNowhere(way_[upTo() - 1]));
    keep_->setText(lends()    ? Text::tr("Write its index after this clip")
                   : isClip() ? Text::tr("Keep this clip")
                              : Text::tr("Keep this picture"));
    undo_->setEnabled(at_ > 0);
    redo_->setEnabled(at_ + 1 < steps_.size());
    earlier_->setEnabled(upTo() > 1);
    later_->setEnabled(!last);
    for (auto* each : {undo_, redo_}) each->setVisible(!lends());
    forget_->setVisible(splicing_ && splicing_->decided());
    const bool searching = feed_.overview().activity != Activity::Idle;
    const bool useful = lends() ? look_.share > 0 : !way_.empty();
    keep_->setEnabled(haveLook_ && useful && !searching);
    keep_->setToolTip(searching ? Text::tr("When the search is done: it would find other pieces meanwhile")
                      : lends() ? Text::tr("A new index is written; every made byte is listed")
                                : Text::tr("These pieces count from now on; other files give way to them"));
    if (lends()) tried_->setText({});
    if (!haveFollowers_ && splicing_) tried_->setText(Text::tr("trying what could follow"));
}

void SpliceBench::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) return Q_EMIT left();
    if (event->key() == Qt::Key_PageUp && earlier_->isEnabled()) return choose(upTo() - 2);
    if (event->key() == Qt::Key_PageDown && later_->isEnabled()) return choose(upTo());
    QWidget::keyPressEvent(event);
}

void SpliceBench::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kGround);
    painter.fillRect(QRect(width() - kRight, 0, kRight, height()), look::kRaised);
}

}  // namespace dreskel
