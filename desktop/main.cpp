// dreskel: the desktop program. `--open PATH` opens a card or an image at once.
#include <QApplication>
#include <QCommandLineParser>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/main_window.h"
#include "session/own_formats.h"

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    QApplication::setApplicationName(QStringLiteral("dreskel"));
    QApplication::setApplicationDisplayName(QStringLiteral("Dreskel"));
    dreskel::look::dress(application);
    QCommandLineParser arguments;
    arguments.addHelpOption();
    const QCommandLineOption open(QStringLiteral("open"), QStringLiteral("Open a card or an image at once."),
                                  QStringLiteral("PATH"));
    arguments.addOption(open);
    const QCommandLineOption reader(QStringLiteral("reader"),
                                    QStringLiteral("Show a simulated reader as a card on the front page."),
                                    QStringLiteral("FILE"));
    arguments.addOption(reader);
    arguments.process(application);
    const auto used = dreskel::useOwnFormats({dreskel::own::usualPath()});
    dreskel::MainWindow window;
    if (!used)
        window.front().say(dreskel::Text::tr("Your own formats are not used. ") +
                           dreskel::Text::ofCore(used.error()));
    if (arguments.isSet(reader)) window.front().addStandIn(arguments.value(reader));
    if (arguments.isSet(open)) window.openSource(arguments.value(open));
    window.show();
    return QApplication::exec();
}
