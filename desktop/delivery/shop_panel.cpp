#include "desktop/delivery/shop_panel.h"

#include <QBoxLayout>
#include <QFileDialog>
#include <QFormLayout>
#include <QPixmap>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

QString linesOf(const std::vector<std::string>& lines) {
    QStringList all;
    for (const auto& line : lines) all << QString::fromStdString(line);
    return all.join(QLatin1Char('\n'));
}

}  // namespace

ShopPanel::ShopPanel(QWidget* parent) : QDialog(parent) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(Text::tr("Your shop"));
    setStyleSheet(look::benchStyle());
    resize(620, 520);
    name_ = new QLineEdit;
    address_ = new QPlainTextEdit;
    address_->setFixedHeight(58);
    address_->setTabChangesFocus(true);
    logo_ = new QLineEdit;
    logo_->setPlaceholderText(Text::tr("A PNG or JPEG"));
    picture_ = new QLabel;
    picture_->setFixedSize(120, 48);
    picture_->setAlignment(Qt::AlignCenter);
    auto* choose = new QPushButton(Text::tr("Choose"));
    auto* logoRow = new QHBoxLayout;
    logoRow->addWidget(logo_, 1);
    logoRow->addWidget(choose);
    logoRow->addWidget(picture_);
    language_ = new QComboBox;
    language_->addItem(QStringLiteral("English"), static_cast<int>(Language::English));
    language_->addItem(QStringLiteral("Deutsch"), static_cast<int>(Language::German));
    advice_ = new QPlainTextEdit;
    advice_->setTabChangesFocus(true);
    message_ = look::label({}, 12, look::kDim);
    message_->setWordWrap(true);
    save_ = new QPushButton(Text::tr("Use for reports"));
    save_->setDefault(true);

    auto* form = new QFormLayout;
    form->setLabelAlignment(Qt::AlignLeft);
    form->setVerticalSpacing(10);
    form->addRow(Text::tr("&Name"), name_);
    form->addRow(Text::tr("&Address"), address_);
    auto* logoLabel = new QLabel(Text::tr("&Picture"));
    logoLabel->setBuddy(logo_);
    form->addRow(logoLabel, logoRow);
    form->addRow(Text::tr("&Language of reports"), language_);
    form->addRow(Text::tr("A&dvice, a line each"), advice_);
    auto* foot = new QHBoxLayout;
    foot->addWidget(message_, 1);
    foot->addWidget(save_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(20, 16, 20, 16);
    column->addLayout(form, 1);
    column->addLayout(foot);

    connect(choose, &QPushButton::clicked, this, [this] {
        auto* dialog = new QFileDialog(this, Text::tr("A picture for the head of reports"), {},
                                       Text::tr("Pictures (*.png *.jpg *.jpeg)"));
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, logo_, &QLineEdit::setText);
        dialog->show();
    });
    connect(logo_, &QLineEdit::textChanged, this, &ShopPanel::showLogo);
    connect(language_, &QComboBox::currentIndexChanged, this, [this] {
        // Advice that is as usual becomes the usual one of the other language; the shop's own is left alone.
        if (advice_->toPlainText() == linesOf(phrasesIn(shown_).advice))
            advice_->setPlainText(linesOf(phrasesIn(chosen()).advice));
        shown_ = chosen();
    });
    connect(save_, &QPushButton::clicked, this, &ShopPanel::store);
    const auto known = readShop(usualShopPath());
    fill(known.ok() ? known.value() : usualShop());
    if (!known) message_->setText(Text::ofCore(known.error()));
}

void ShopPanel::fill(const Shop& shop) {
    name_->setText(QString::fromStdString(shop.name));
    address_->setPlainText(QString::fromStdString(shop.address));
    logo_->setText(QString::fromStdString(shop.logoPath));
    shown_ = shop.language;
    language_->setCurrentIndex(language_->findData(static_cast<int>(shop.language)));
    advice_->setPlainText(linesOf(shop.advice));
}

void ShopPanel::showLogo() {
    const QPixmap picture(logo_->text());
    picture_->setPixmap(
        picture.isNull() ? QPixmap()
                         : picture.scaled(picture_->size(), Qt::KeepAspectRatio, Qt::SmoothTransformation));
}

void ShopPanel::store() {
    Shop shop;
    shop.name = name_->text().trimmed().toStdString();
    shop.address = address_->toPlainText().trimmed().toStdString();
    shop.logoPath = logo_->text().trimmed().toStdString();
    shop.language = chosen();
    for (const auto& line : advice_->toPlainText().split(QLatin1Char('\n'), Qt::SkipEmptyParts))
        shop.advice.push_back(line.trimmed().toStdString());
    auto stored = writeShop(usualShopPath(), shop);
    // A picture that cannot be used is told now, not with the next delivery.
    if (stored) {
        if (const auto read = readShop(usualShopPath()); !read) stored = read.error();
    }
    if (stored) return close(), void();
    message_->setText(Text::ofCore(stored.error()));
}

}  // namespace dreskel
