#include "desktop/sheet/choices.h"

#include <QBoxLayout>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

QString numberOf(const std::map<Kind, std::size_t>& counts, Kind kind) {
    const auto found = counts.find(kind);
    return look::numberText(found == counts.end() ? 0 : found->second);
}

}  // namespace

Choices::Choices(Feed& feed, QWidget* parent) : QWidget(parent), feed_(feed) {
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(16, 4, 16, 6);
    rows->setSpacing(4);
    auto* line = new QHBoxLayout;
    line->setSpacing(8);
    rows->addLayout(line);
    shown_ = look::label({}, 12, look::kDim);
    line->addWidget(shown_, 1);
    shown_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    leftovers_ = new QPushButton;
    leftovers_->setAccessibleName(Text::tr("What nothing explains"));
    leftovers_->hide();
    connect(leftovers_, &QPushButton::clicked, this, &Choices::leftoversAsked);
    line->addWidget(leftovers_);

    const auto box = [&](const QString& name, auto&& entries) {
        auto* made = new QComboBox;
        made->setAccessibleName(name);
        for (const auto& [value, text] : entries) made->addItem(Text::tr(text), static_cast<int>(value));
        line->addWidget(look::label(name, 12, look::kDim));
        line->addWidget(made);
        connect(made, &QComboBox::currentIndexChanged, this, &Choices::arrangementChanged);
        return made;
    };
    arrange_ = box(Text::tr("arranged by"),
                   std::initializer_list<std::pair<ArrangeBy, const char*>>{
                       {ArrangeBy::Shoot, QT_TRANSLATE_NOOP("dreskel::Text", "shoot")},
                       {ArrangeBy::Folder, QT_TRANSLATE_NOOP("dreskel::Text", "folder")},
                       {ArrangeBy::Place, QT_TRANSLATE_NOOP("dreskel::Text", "place")},
                       {ArrangeBy::Camera, QT_TRANSLATE_NOOP("dreskel::Text", "camera")},
                       {ArrangeBy::Format, QT_TRANSLATE_NOOP("dreskel::Text", "format")},
                       {ArrangeBy::Condition, QT_TRANSLATE_NOOP("dreskel::Text", "condition")}});
    order_ =
        box(Text::tr("first"), std::initializer_list<std::pair<OrderBy, const char*>>{
                                   {OrderBy::AsArranged, QT_TRANSLATE_NOOP("dreskel::Text", "as it fits")},
                                   {OrderBy::Time, QT_TRANSLATE_NOOP("dreskel::Text", "the earliest")},
                                   {OrderBy::Name, QT_TRANSLATE_NOOP("dreskel::Text", "by name")},
                                   {OrderBy::Size, QT_TRANSLATE_NOOP("dreskel::Text", "the largest")},
                                   {OrderBy::Length, QT_TRANSLATE_NOOP("dreskel::Text", "the longest")},
                                   {OrderBy::Damage, QT_TRANSLATE_NOOP("dreskel::Text", "the most damaged")},
                                   {OrderBy::Rating, QT_TRANSLATE_NOOP("dreskel::Text", "the best rated")}});
    line->addSpacing(10);
    photos_ = choice(Text::tr("photos"), look::kPhoto);
    clips_ = choice(Text::tr("clips"), look::kClip);
    sound_ = choice(Text::tr("sound"), look::kSound);
    others_ = choice(Text::tr("sidecars"), look::kText);
    damaged_ = choice(Text::tr("only not whole"), look::kDecided);
    for (auto* button : {photos_, clips_, sound_, others_}) button->setChecked(true);
    for (auto* button : {photos_, clips_, sound_, others_, damaged_}) {
        line->addWidget(button);
        connect(button, &QToolButton::toggled, this, [this] {
            filter_.photos = photos_->isChecked();
            filter_.clips = clips_->isChecked();
            filter_.sound = sound_->isChecked();
            filter_.others = others_->isChecked();
            filter_.onlyDamaged = damaged_->isChecked();
            change();
        });
    }
    narrow_ = choice(Text::tr("narrow"), look::kDecided);
    narrow_->setToolTip(
        Text::tr("By camera, day, format, size, condition and more, each with its number (N)"));
    connect(narrow_, &QToolButton::toggled, this, &Choices::narrowAsked);
    line->addWidget(narrow_);
    asked_ = choice(Text::tr("asked for"), look::kDecided);
    asked_->setToolTip(Text::tr("What the client asked for, and notes on the job (Q)"));
    connect(asked_, &QToolButton::toggled, this, &Choices::askedAsked);
    line->addWidget(asked_);

    chosenRow_ = new QWidget;
    auto* chosen = new QHBoxLayout(chosenRow_);
    chosen->setContentsMargins(0, 0, 0, 0);
    chosen->setSpacing(6);
    chosenRow_->hide();
    rows->addWidget(chosenRow_);
}

QToolButton* Choices::choice(const QString& text, const QColor& mark) {
    auto* button = new QToolButton;
    button->setText(text);
    button->setCheckable(true);
    button->setStyleSheet(
        QStringLiteral("QToolButton { background: transparent; border: none; border-bottom: 2px solid %1; "
                       "border-radius: 0; padding: 4px 6px; color: %2; }"
                       "QToolButton:checked { border-bottom: 2px solid %3; color: %4; }"
                       "QToolButton:focus { background: %1; }")
            .arg(look::kLine.name(), look::kDim.name(), mark.name(), look::kText.name()));
    return button;
}

ArrangeBy Choices::arrangedBy() const {
    return static_cast<ArrangeBy>(arrange_->currentData().toInt());
}

OrderBy Choices::orderedBy() const {
    return static_cast<OrderBy>(order_->currentData().toInt());
}

QToolButton* Choices::kindButton(Kind kind) {
    switch (kind) {
        case Kind::Photo: return photos_;
        case Kind::Video: return clips_;
        case Kind::Audio: return sound_;
        case Kind::Sidecar:
        case Kind::Other: break;
    }
    return others_;
}

void Choices::change() {
    Q_EMIT filterChanged();
}

void Choices::type(const QString& text) {
    filter_.typed = Narrowing(text);
    change();
}

void Choices::toggle(Facet facet, const QString& key) {
    auto& chosen = filter_.chosen[static_cast<std::size_t>(facet)];
    if (!chosen.remove(key)) chosen.insert(key);
    change();
}

void Choices::setSpan(std::optional<ByteRange> span) {
    if (filter_.span == span) return;
    filter_.span = span;
    change();
}

void Choices::setAmong(std::optional<QSet<std::int64_t>> among, const QString& why, const Nearness& apart) {
    filter_.among = std::move(among);
    filter_.apart = apart;
    amongWhy_ = why;
    change();
}

void Choices::clear() {
    for (auto& side : filter_.chosen) side.clear();
    filter_.span.reset();
    filter_.among.reset();
    filter_.apart.clear();
    change();
}

void Choices::tell(const Arrangement& arrangement, std::size_t shown) {
    const auto& overview = feed_.overview();
    auto text = Text::tr("Showing %1 of %2").arg(look::numberText(shown), look::numberText(overview.listed));
    if (filter_.typed.any()) text += QLatin1Char(' ') + filter_.typed.sentence();
    if (overview.embedded > 0)
        text += Text::tr("; %1 not listed, embedded in others").arg(look::numberText(overview.embedded));
    if (overview.progress.unreadable > 0) {
        text += (overview.copy && overview.copy->underWay ? Text::tr("; %1 not read yet")
                                                          : Text::tr("; %1 unreadable"))
                    .arg(look::sizeText(overview.progress.unreadable));
    }
    shown_->setText(text);
    shown_->setToolTip(text);
    photos_->setText(Text::tr("photos %1").arg(numberOf(overview.byKind, Kind::Photo)));
    clips_->setText(Text::tr("clips %1").arg(numberOf(overview.byKind, Kind::Video)));
    sound_->setText(Text::tr("sound %1").arg(numberOf(overview.byKind, Kind::Audio)));
    // Text beside photos and clips, and what no more is known of; many cards hold none.
    const auto known = [&](Kind kind) {
        return overview.byKind.contains(kind) ? overview.byKind.at(kind) : 0;
    };
    const auto others = known(Kind::Sidecar) + known(Kind::Other);
    others_->setText(Text::tr("sidecars %1").arg(look::numberText(others)));
    others_->setVisible(others > 0);
    const auto whole = overview.byCondition.find(Condition::Whole);
    damaged_->setText(Text::tr("only not whole %1")
                          .arg(look::numberText(overview.listed -
                                                (whole == overview.byCondition.end() ? 0 : whole->second))));
    tellChosen(arrangement);
}

QToolButton* Choices::addChosen(const QString& text) {
    auto* button = new QToolButton;
    button->setText(text + QStringLiteral("  \u00d7"));
    button->setToolTip(Text::tr("Show the others again"));
    button->setStyleSheet(QStringLiteral(
        "QToolButton { padding: 3px 9px; border-radius: 11px; } QToolButton:focus { padding: 2px 8px; }"));
    button->setAccessibleName(Text::tr("No longer only %1").arg(text));
    static_cast<QHBoxLayout*>(chosenRow_->layout())->addWidget(button);
    return button;
}

// The choices as a sentence: what is chosen on a side is joined by "or", the sides by being there.
void Choices::tellChosen(const Arrangement& arrangement) {
    struct Entry {
        QString text;
        std::function<void()> undo;
    };
    std::vector<Entry> entries;
    for (const auto facet : kAllFacets) {
        const auto at = static_cast<std::size_t>(facet);
        QStringList labels;
        for (const auto& count : arrangement.counts[at]) {
            if (filter_.chosen[at].contains(count.value.key)) labels << count.value.label;
        }
        if (labels.isEmpty()) continue;
        entries.push_back(
            {QStringLiteral("%1: %2").arg(titleOf(facet), labels.join(Text::tr(" or "))), [this, at] {
                 filter_.chosen[at].clear();
                 change();
             }});
    }
    if (filter_.span) {
        entries.push_back(
            {Text::tr("On the card: %1 to %2")
                 .arg(look::sizeText(filter_.span->offset), look::sizeText(filter_.span->end())),
             [this] { setSpan({}); }});
    }
    if (filter_.among) entries.push_back({amongWhy_, [this] { setAmong({}, {}); }});
    QString all;
    for (const auto& entry : entries) all += entry.text + QLatin1Char('\n');
    if (all == chosenShown_) return;
    chosenShown_ = all;
    while (auto* item = chosenRow_->layout()->takeAt(0)) {
        if (auto* widget = item->widget()) widget->deleteLater();
        delete item;
    }
    auto* line = static_cast<QHBoxLayout*>(chosenRow_->layout());
    if (!entries.empty()) line->addWidget(look::label(Text::tr("only"), 12, look::kDim));
    for (const auto& entry : entries) connect(addChosen(entry.text), &QToolButton::clicked, this, entry.undo);
    line->addStretch();
    chosenRow_->setVisible(!entries.empty());
}

std::vector<QToolButton*> Choices::chosenButtons() const {
    std::vector<QToolButton*> all;
    for (int i = 0; i < chosenRow_->layout()->count(); ++i) {
        if (auto* button = qobject_cast<QToolButton*>(chosenRow_->layout()->itemAt(i)->widget()))
            all.push_back(button);
    }
    return all;
}

}  // namespace dreskel
