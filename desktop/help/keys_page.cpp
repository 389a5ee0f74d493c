#include "desktop/help/keys_page.h"

#include <array>
#include <QBoxLayout>
#include <QGridLayout>
#include <vector>

#include "desktop/look/look.h"

namespace dreskel {
namespace {

struct OneKey {
    const char* keys;
    const char* does;
};
struct KeyGroup {
    const char* name;
    std::vector<OneKey> keys;
};

// In the order of the work; the left hand's first.
std::array<std::vector<KeyGroup>, 2> groups() {
    return {{{{"On the sheet",
               {{"arrows, Home, End, Page", "go from file to file; with Shift they select"},
                {"Space or K", "keep, or let go"},
                {"X", "leave out, or take in again"},
                {"1 to 5, 0", "rate; no rating"},
                {"C", "two photos side by side"},
                {"Return", "the picture fills the window"},
                {"Ctrl+N", "the next that is not whole"},
                {"Ctrl+A", "select everything that is shown"},
                {"Ctrl+Z, Ctrl+Shift+Z", "take a decision back, or on again"}}},
              {"Finding",
               {{"Ctrl+F", "words, >2MB, <30s, #14,27"},
                {"N", "narrow by camera, day, format and more"},
                {"Q", "what the client asked for; notes"},
                {"L", "more that looks like this one"},
                {"Return", "to the first that was found"},
                {"Esc", "show all again"}}},
              {"The search",
               {{"Ctrl+Return", "start or go on"},
                {"Ctrl+P", "pause or go on"},
                {"Ctrl+.", "stop"},
                {"Ctrl+L", "lend a good clip or photo"}}}},
             {{"A photo, looked at",
               {{"F", "the whole picture"},
                {"Z", "a pixel of it on each of the screen"},
                {"+ and -", "closer, farther"},
                {"R, Shift+R", "a quarter turn"},
                {"S", "take its joins apart"}}},
              {"A clip or a recording",
               {{"P", "play, stand still, play on"}, {", and .", "the picture before, the next one"}}},
              {"On the splice bench",
               {{"Page up, Page down", "the join before, the next one"},
                {"Ctrl+Z, Ctrl+Shift+Z", "back a step, on again"},
                {"Esc", "back to the sheet"}}},
              {"The card",
               {{"Ctrl+O", "open an image"},
                {"Ctrl+Home", "all cards and jobs"},
                {"Ctrl+E", "let go of the card"}}}}}};
}

}  // namespace

KeysPage::KeysPage(QWidget* parent) : QDialog(parent) {
    setWindowTitle(QStringLiteral("Keys"));
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
            grid->addWidget(look::label(QString::fromUtf8(group.name), 13, look::kText, true), row++, 0, 1,
                            2);
            for (const auto& key : group.keys) {
                grid->addWidget(look::label(QString::fromUtf8(key.keys), 12, look::kText), row, 0);
                grid->addWidget(look::label(QString::fromUtf8(key.does), 12, look::kDim), row++, 1);
            }
        }
        grid->setRowStretch(row, 1);
        columns->addLayout(grid);
    }
}

}  // namespace dreskel
