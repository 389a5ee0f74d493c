#include "desktop/help/keys_page.h"

#include <array>
#include <QBoxLayout>
#include <QGridLayout>
#include <vector>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

struct OneKey {
    QString keys;
    QString does;
};
struct KeyGroup {
    QString name;
    std::vector<OneKey> keys;
};

// In the order of the work; the left hand's first.
std::array<std::vector<KeyGroup>, 2> groups() {
    return {
        {{{Text::tr("On the sheet"),
           {{Text::tr("arrows, Home, End, Page"), Text::tr("go from file to file; with Shift they select")},
            {Text::tr("Space or K"), Text::tr("keep, or let go")},
            {Text::tr("X"), Text::tr("leave out, or take in again")},
            {Text::tr("W, E"), Text::tr("the file before, the next one")},
            {Text::tr("D"), Text::tr("the next that is not whole")},
            {Text::tr("G, Shift+G"), Text::tr("the next shoot or heading, the one before")},
            {Text::tr("V or Return"), Text::tr("the picture fills the window, and back")},
            {Text::tr("1 to 5, 0"), Text::tr("rate; no rating")},
            {Text::tr("C"), Text::tr("two photos side by side")},
            {Text::tr("Ctrl+A"), Text::tr("select everything that is shown")},
            {Text::tr("Ctrl+Z, Ctrl+Shift+Z"), Text::tr("take a decision back, or on again")}}},
          {Text::tr("Finding"),
           {{Text::tr("Ctrl+F"), Text::tr("words, >2MB, <30s, #14,27")},
            {Text::tr("N"), Text::tr("narrow by camera, day, format and more")},
            {Text::tr("Q"), Text::tr("what the client asked for; notes")},
            {Text::tr("L"), Text::tr("more that looks like this one")},
            {Text::tr("Return"), Text::tr("to the first that was found")},
            {Text::tr("Esc"), Text::tr("show all again")}}},
          {Text::tr("The search"),
           {{Text::tr("Ctrl+Return"), Text::tr("start or go on")},
            {Text::tr("Ctrl+P"), Text::tr("pause or go on")},
            {Text::tr("Ctrl+."), Text::tr("stop")},
            {Text::tr("Ctrl+L"), Text::tr("lend a good clip or photo")}}}},
         {{Text::tr("A photo, looked at"),
           {{Text::tr("F"), Text::tr("the whole picture")},
            {Text::tr("Z"), Text::tr("a pixel of it on each of the screen")},
            {Text::tr("+ and -"), Text::tr("closer, farther")},
            {Text::tr("R, Shift+R"), Text::tr("a quarter turn")},
            {Text::tr("S"), Text::tr("take its joins apart")}}},
          {Text::tr("A clip or a recording"),
           {{Text::tr("P"), Text::tr("play, stand still, play on")},
            {Text::tr(", and ."), Text::tr("the picture before, the next one")},
            {Text::tr("J"), Text::tr("from just before the next join on")}}},
          {Text::tr("On the splice bench"),
           {{Text::tr("Page up, Page down"), Text::tr("the join before, the next one")},
            {Text::tr("Ctrl+Z, Ctrl+Shift+Z"), Text::tr("back a step, on again")},
            {Text::tr("Esc"), Text::tr("back to the sheet")}}},
          {Text::tr("The card"),
           {{Text::tr("Ctrl+O"), Text::tr("open an image")},
            {Text::tr("Ctrl+Home"), Text::tr("all cards and jobs")},
            {Text::tr("Ctrl+E"), Text::tr("let go of the card")}}}}}};
}

}  // namespace

KeysPage::KeysPage(QWidget* parent) : QDialog(parent) {
    setWindowTitle(Text::tr("Keys"));
    setStyleSheet(QStringLiteral("QDialog { background: %1; }").arg(look::kGround.name()));
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(24, 18, 24, 22);
    columns->setSpacing(40);
    for (const auto& column : groups()) {
        auto* grid = new QGridLayout;
        grid->setHorizontalSpacing(18);
        grid->setVerticalSpacing(6);
        int row = 0;
        for (const auto& group : column) {
            if (row > 0) grid->setRowMinimumHeight(row++, 10);
            grid->addWidget(look::label(group.name, 13, look::kText, true), row++, 0, 1, 2);
            for (const auto& key : group.keys) {
                grid->addWidget(look::label(key.keys, 12, look::kText), row, 0);
                grid->addWidget(look::label(key.does, 12, look::kDim), row++, 1);
            }
        }
        grid->setRowStretch(row, 1);
        columns->addLayout(grid);
    }
}

}  // namespace dreskel
